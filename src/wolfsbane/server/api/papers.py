"""Marking: a paper by its code, and the answers typed from it."""

from flask import current_app, g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server import sheets
from wolfsbane.server.api.models import AnswersBody, PaperPath, PaperReply
from wolfsbane.server.security import INSTRUCTOR, roles

api = APIBlueprint("papers", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="papers")])


@api.get("/papers/<code>", responses={200: PaperReply})
@roles(INSTRUCTOR)
def paper_read(path: PaperPath):
    """One paper with questions, answers typed so far and marks."""
    with current_app.db.transaction() as connection:
        return sheets.paper_view(connection, sheets.paper_by_code(connection, g.user["school_id"], path.code))


@api.put("/papers/<code>/answers", responses={200: PaperReply})
@roles(INSTRUCTOR)
def paper_answers(path: PaperPath, body: AnswersBody):
    """Keep the answers of one call as written and mark them."""
    with current_app.db.transaction() as connection:
        paper = sheets.paper_by_code(connection, g.user["school_id"], path.code)
        sheets.enter_answers(connection, g.user, paper, body.call, body.answers)
        return sheets.paper_view(connection, paper)
