"""Papers: by code, the answers typed from one, an instructor's own mark, feedback, a reprint;
an apprentice's own feedback.
"""

from typing import Any, cast

from flask import Response, g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server.api.paper_models import (
    AnswersBody,
    FeedbackReply,
    MinePapers,
    OverrideBody,
    PaperPath,
    PaperReply,
)
from wolfsbane.server.api.rigs import time_given
from wolfsbane.server.api.sheet_models import AtRigBody, AtRigReply
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import not_found
from wolfsbane.server.core.security import APPRENTICE, ASSISTANT, INSTRUCTOR, roles
from wolfsbane.server.language import FED_BACK, said
from wolfsbane.server.services import documents, marking, remarking, results

api = APIBlueprint("papers", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="papers")])


@api.get("/papers/<code>", responses={200: PaperReply})
@roles(INSTRUCTOR, ASSISTANT)
def paper_read(path: PaperPath) -> dict[str, Any]:
    """One paper with questions, key, answers typed so far and marks."""
    with database().transaction() as connection:
        paper = marking.paper_by_code(connection, g.user["school_id"], path.code)
        return marking.paper_view(connection, paper, g.user["school_id"])


@api.put("/papers/<code>/answers", responses={200: PaperReply})
@roles(INSTRUCTOR, ASSISTANT)
def paper_answers(path: PaperPath, body: AnswersBody) -> dict[str, Any]:
    """Keep answers of one call as written and mark it; what somebody else typed since is not overwritten."""
    with database().transaction() as connection:
        paper = marking.paper_by_code(connection, g.user["school_id"], path.code)
        marking.enter_answers(connection, g.user, paper, body.call, body.answers, body.base)
        return marking.paper_view(connection, paper, g.user["school_id"])


@api.put("/papers/<code>/override", responses={200: PaperReply})
@roles(INSTRUCTOR)
def paper_override(path: PaperPath, body: OverrideBody) -> dict[str, Any]:
    """An instructor's own mark with a reason, a suggestion confirmed, or (without ``earned``) back to the rubric."""
    with database().transaction() as connection:
        paper = marking.paper_by_code(connection, g.user["school_id"], path.code)
        marking.override(connection, g.user, paper, body.call, body.question, body.earned, body.reason)
        return marking.paper_view(connection, paper, g.user["school_id"])


@api.put("/papers/<code>/rig", responses={200: AtRigReply})
@roles(INSTRUCTOR)
def paper_at_rig(path: PaperPath, body: AtRigBody) -> dict[str, Any]:
    """Mark a paper's rig call against what the rig showed when its apprentice was there; shown first, done with
    ``confirmed``.
    """
    at = time_given("at", body.at)
    with database().transaction() as connection:
        paper = marking.paper_by_code(connection, g.user["school_id"], path.code)
        made = remarking.measure_at(connection, g.user, paper, body.position, body.rig_id, at, confirmed=body.confirmed)
    return {**made, "confirmed": body.confirmed}


@api.get("/papers/<code>/feedback", responses={200: FeedbackReply})
@roles(INSTRUCTOR)
def paper_feedback(path: PaperPath) -> dict[str, Any]:
    """Feedback on one paper: own number, expected, why, what to look at again."""
    with database().transaction() as connection:
        paper = marking.paper_by_code(connection, g.user["school_id"], path.code)
        return results.paper_feedback(connection, g.user["school_id"], paper) | {
            "next": documents.next_of(connection, g.user["school_id"], paper)
        }


def _pdf(data: bytes, name: str) -> Response:
    return Response(
        bytes(data), mimetype="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}.pdf"'}
    )


@api.get("/papers/<code>/feedback.pdf")
@roles(INSTRUCTOR)
def paper_feedback_pdf(path: PaperPath) -> Any:
    """The same to print."""
    return _pdf(documents.paper_feedback_pdf(database(), g.user, path.code), "feedback")


@api.get("/papers/<code>/print")
@roles(INSTRUCTOR)
def paper_print(path: PaperPath) -> Response:
    """One paper again: the same code, the same numbers."""
    return _pdf(documents.one_paper(database(), g.user, path.code), "paper")


@api.get("/mine", responses={200: MinePapers})
@roles(APPRENTICE)
def mine_list() -> dict[str, list[dict[str, Any]]]:
    """An apprentice's own papers whose feedback is released."""
    with database().transaction() as connection:
        rows = queries.papers_of_user(connection, school_id=g.user["school_id"], user_id=g.user["id"])
        return {"papers": [{**r, "created_at": r["created_at"].isoformat()} for r in rows]}


@api.get("/mine/<code>", responses={200: FeedbackReply})
@roles(APPRENTICE)
def mine_feedback(path: PaperPath) -> dict[str, Any]:
    """An apprentice's own feedback, once it is released; nobody else's, and nothing before."""
    with database().transaction() as connection:
        paper = marking.paper_by_code(connection, g.user["school_id"], path.code)
        if paper["user_id"] != g.user["id"] or paper["released_at"] is None:
            raise not_found("a paper of yours with this code")
        found = documents.next_of(connection, g.user["school_id"], paper)
        told = results.paper_feedback(connection, g.user["school_id"], paper) | {
            "next": {"level": found["level"], "reason": found["reason"]}
        }
        return cast("dict[str, Any]", said(told, g.user["language"], FED_BACK))
