"""Papers: by code, the answers typed from one, an instructor's own mark, feedback, a reprint;
an apprentice's own feedback.
"""

from flask import Response, current_app, g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server.api.sheet_models import (
    AnswersBody,
    FeedbackReply,
    MinePapers,
    OverrideBody,
    PaperPath,
    PaperReply,
)
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import not_found
from wolfsbane.server.core.security import APPRENTICE, ASSISTANT, INSTRUCTOR, roles
from wolfsbane.server.services import documents, marking, results

api = APIBlueprint("papers", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="papers")])


@api.get("/papers/<code>", responses={200: PaperReply})
@roles(INSTRUCTOR, ASSISTANT)
def paper_read(path: PaperPath):
    """One paper with questions, key, answers typed so far and marks."""
    with current_app.db.transaction() as connection:
        paper = marking.paper_by_code(connection, g.user["school_id"], path.code)
        return marking.paper_view(connection, paper, g.user["school_id"])


@api.put("/papers/<code>/answers", responses={200: PaperReply})
@roles(INSTRUCTOR, ASSISTANT)
def paper_answers(path: PaperPath, body: AnswersBody):
    """Keep answers of one call as written and mark it; what somebody else typed since is not overwritten."""
    with current_app.db.transaction() as connection:
        paper = marking.paper_by_code(connection, g.user["school_id"], path.code)
        marking.enter_answers(connection, g.user, paper, body.call, body.answers, body.base)
        return marking.paper_view(connection, paper, g.user["school_id"])


@api.put("/papers/<code>/override", responses={200: PaperReply})
@roles(INSTRUCTOR)
def paper_override(path: PaperPath, body: OverrideBody):
    """An instructor's own mark with a reason, a suggestion confirmed, or (without ``earned``) back to the rubric."""
    with current_app.db.transaction() as connection:
        paper = marking.paper_by_code(connection, g.user["school_id"], path.code)
        marking.override(connection, g.user, paper, body.call, body.question, body.earned, body.reason)
        return marking.paper_view(connection, paper, g.user["school_id"])


@api.get("/papers/<code>/feedback", responses={200: FeedbackReply})
@roles(INSTRUCTOR)
def paper_feedback(path: PaperPath):
    """Feedback on one paper: own number, expected, why, what to look at again."""
    with current_app.db.transaction() as connection:
        paper = marking.paper_by_code(connection, g.user["school_id"], path.code)
        return results.paper_feedback(connection, g.user["school_id"], paper) | {
            "next": documents.next_of(connection, g.user["school_id"], paper)
        }


def _pdf(data, name):
    return Response(
        bytes(data), mimetype="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}.pdf"'}
    )


@api.get("/papers/<code>/feedback.pdf")
@roles(INSTRUCTOR)
def paper_feedback_pdf(path: PaperPath):
    """The same to print."""
    return _pdf(documents.paper_feedback_pdf(current_app.db, g.user, path.code), "feedback")


@api.get("/papers/<code>/print")
@roles(INSTRUCTOR)
def paper_print(path: PaperPath):
    """One paper again: the same code, the same numbers."""
    return _pdf(documents.one_paper(current_app.db, g.user, path.code), "paper")


@api.get("/mine", responses={200: MinePapers})
@roles(APPRENTICE)
def mine_list():
    """An apprentice's own papers whose feedback is released."""
    with current_app.db.transaction() as connection:
        rows = queries.papers_of_user(connection, school_id=g.user["school_id"], user_id=g.user["id"])
        return {"papers": [{**r, "created_at": r["created_at"].isoformat()} for r in rows]}


@api.get("/mine/<code>", responses={200: FeedbackReply})
@roles(APPRENTICE)
def mine_feedback(path: PaperPath):
    """An apprentice's own feedback, once it is released; nobody else's, and nothing before."""
    with current_app.db.transaction() as connection:
        paper = marking.paper_by_code(connection, g.user["school_id"], path.code)
        if paper["user_id"] != g.user["id"] or paper["released_at"] is None:
            raise not_found("a paper of yours with this code")
        found = documents.next_of(connection, g.user["school_id"], paper)
        return results.paper_feedback(connection, g.user["school_id"], paper) | {
            "next": {"level": found["level"], "reason": found["reason"]}
        }
