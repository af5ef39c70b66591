"""The documents of a sheet: printed ones from the store, the others when somebody asks.

Reads rows, then prints without a connection.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from wolfsbane.exercise.marking.frozen_body import body_from_json
from wolfsbane.exercise.marking.gaming import Played, gaming
from wolfsbane.exercise.paper.call import Call
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.printing import extras
from wolfsbane.server.printing.merge import page_count, page_png, page_texts
from wolfsbane.server.printing.paper import PRINTERS, packet_pdf
from wolfsbane.server.services import drawing, results, rig_cards, rosters, sheets
from wolfsbane.server.services.building import printable
from wolfsbane.server.services.marking import paper_by_code

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.frozen_body import Body
    from wolfsbane.server.core.db.database import Connection, Database

_STORED = ("packet", "key", "slips")
#: what takes long where many have many calls: printed by a job then
HEAVY = ("packet", "key", "feedback")
#: calls that are printed while somebody waits
_AT_ONCE = 12


def _sheet(connection: Connection, user: dict[str, Any], sheet_id: int) -> dict[str, Any]:
    row = queries.sheet_get(connection, school_id=user["school_id"], id=sheet_id)
    if row is None:
        raise not_found(f"sheet {sheet_id}")
    return row


def _ready(row: dict[str, Any]) -> None:
    if row["status"] != "ready":
        raise ApiError(409, "not_ready", "this sheet is not printed yet; wait until it says ready")


def at_hand(row: dict[str, Any]) -> list[str]:
    """Kinds of documents of a sheet's row that can be had at once; of one that is being printed what is printed."""
    few = row["status"] == "ready" and row["papers"] * row["calls"] <= _AT_ONCE
    return sorted({*row["printed"], *(HEAVY if few else ())} - {"preview"})


def wanted(
    school_id: int, sheet_id: int, kinds: tuple[str, ...]
) -> dict[str, tuple[Callable[..., Any], Callable[..., Any]]]:
    """What a job prints of a sheet: kind -> (printer, function from a connection to what it prints)."""

    def papers(connection: Connection) -> Any:
        return sheets.printed_papers(connection, school_id, sheet_id)

    def told(connection: Connection) -> Any:
        return _feedback(connection, school_id, sheet_id)

    return {kind: (extras.feedback_pdf, told) if kind == "feedback" else (PRINTERS[kind], papers) for kind in kinds}


def document(db: Database, user: dict[str, Any], sheet_id: int, kind: str) -> bytes:
    """PDF bytes of a document; of a sheet that is being printed what is printed so far. Raises ApiError 404 where there
    is nothing of the kind, 409 while it has to be printed first.
    """
    school_id = user["school_id"]
    with db.transaction() as connection:
        row = _sheet(connection, user, sheet_id)
        if row["status"] != "building" or kind not in row["printed"]:
            _ready(row)
        if kind in row["printed"]:
            return bytes(queries.document_get(connection, school_id=school_id, sheet_id=sheet_id, kind=kind)["pdf"])
        if kind in HEAVY and kind not in at_hand(row):
            raise ApiError(
                409,
                "not_printed",
                f"the {kind} of this sheet is not printed, or is out of date; press Print on the sheet's page",
            )
        papers = [] if kind == "feedback" else sheets.printed_papers(connection, school_id, sheet_id)
        first: list[Body] = papers[0]["calls"] if papers else []
        calls = list(queries.sheet_call_list(connection, sheet_id=sheet_id))
        worth = {r["position"]: r["points"] for r in queries.sheet_points(connection, sheet_id=sheet_id)}
        told = _feedback(connection, school_id, sheet_id) if kind == "feedback" else []
        on_rigs = [b for b in first if isinstance(b, Call) and b.key.rig is not None] if kind == "plants" else []
        own = [rig_cards.on_own_rigs(connection, school_id, b) for b in on_rigs]
    sheet = printable(row)
    rows = [{"position": c["position"], "points": worth.get(c["position"]), "rules": c["rules"]} for c in calls]
    make = {
        "guide": lambda: extras.guide_pdf(sheet, first, rows),
        "plants": lambda: extras.plants_pdf(sheet, first, own),
        "charts": lambda: extras.charts_pdf(sheet, [b for p in papers for b in p["calls"]]),
        "feedback": lambda: extras.feedback_pdf(sheet, told),
    }
    pdf = PRINTERS[kind](sheet, papers) if kind in _STORED else make[kind]()
    if pdf is None:
        raise not_found(
            {
                "plants": "a call on a rig",
                "slips": "a test that may be asked for",
                "feedback": "a marked paper",
            }.get(kind, f"a {kind}")
        )
    return pdf


def _feedback(connection: Connection, school_id: int, sheet_id: int) -> list[tuple[dict[str, Any], dict[str, Any]]]:
    told = []
    for row in list(queries.paper_list(connection, school_id=school_id, sheet_id=sheet_id)):
        paper = queries.paper_by_code(connection, school_id=school_id, code=row["code"])
        told.append(_fed_back(connection, school_id, paper))
    return told


def _fed_back(connection: Connection, school_id: int, paper: dict[str, Any]) -> tuple[dict[str, Any], dict[str, Any]]:
    """(feedback on a paper with the language of whoever gets it, the next call)."""
    found = results.paper_feedback(connection, school_id, paper) | {"language": paper["language"]}
    return found, next_of(connection, school_id, paper)


def next_of(connection: Connection, school_id: int, paper: dict[str, Any]) -> dict[str, Any]:
    """The next call suggested to the apprentice of a paper."""
    person = rosters.found(connection, school_id, paper["apprentice_id"])
    return results.apprentice_picture(connection, school_id, person)["next"]


def rotation(db: Database, user: dict[str, Any], sheet_id: int, minutes: int, rigs: int | None) -> bytes:
    """PDF bytes of the station rotation. Raises BadInputError for what cannot be timed."""
    with db.transaction() as connection:
        row = _sheet(connection, user, sheet_id)
        _ready(row)
        papers = sheets.printed_papers(connection, user["school_id"], sheet_id)
        people = sheets.people_of(connection, user["school_id"], row["class_id"])
    pdf = extras.rotation_pdf(printable(row), papers[0]["calls"] if papers else [], people, minutes, rigs)
    if pdf is None:
        raise not_found("a call on a rig")
    return pdf


def one_paper(db: Database, user: dict[str, Any], code: str) -> bytes:
    """PDF bytes of one paper: a lost sheet again, a retake, a late joiner's. The same code, the same numbers."""
    with db.transaction() as connection:
        paper = paper_by_code(connection, user["school_id"], code)
        row = _sheet(connection, user, paper["sheet_id"])
        bodies = [body_from_json(r["body"]) for r in queries.paper_call_list(connection, paper_id=paper["id"])]
        sheets.audit(connection, user, paper["sheet_id"], "reprinted", paper_id=paper["id"])
    shown = {key: paper[key] for key in ("name", "code", "attempt", "language")} | {"calls": bodies}
    return packet_pdf(printable(row), [shown])


def paper_feedback_pdf(db: Database, user: dict[str, Any], code: str) -> Any:
    """PDF bytes of the feedback on one paper."""
    with db.transaction() as connection:
        paper = paper_by_code(connection, user["school_id"], code)
        row = _sheet(connection, user, paper["sheet_id"])
        told = _fed_back(connection, user["school_id"], paper)
    pdf = extras.feedback_pdf(printable(row), [told])
    if pdf is None:
        raise not_found("a marked call on this paper")
    return pdf


def preview(db: Database, user: dict[str, Any], sheet_id: int) -> tuple[int, bytes]:
    """(pages, PDF bytes) of the first paper of a sheet, as it was drawn for the preview; drawn where it was not yet."""
    with db.transaction() as connection:
        _sheet(connection, user, sheet_id)
        kept = queries.document_get(connection, school_id=user["school_id"], sheet_id=sheet_id, kind="preview")
    pdf = bytes(kept["pdf"]) if kept is not None else draw_preview(db, user, sheet_id)[0]
    return page_count(pdf), pdf


def draw_preview(
    db: Database, user: dict[str, Any], sheet_id: int, apart: Callable[..., Any] = lambda work, *given: work(*given)
) -> tuple[bytes, list[Played], int]:
    """(PDF bytes of the first paper of a sheet, what guessing would earn on it, how many calls it has): a draft's paper
    is drawn with the code and the numbers it will be issued with, and kept until the draft changes. What was not drawn
    ahead is drawn by ``apart(work, *given)``, which may do it in another process.
    """
    with db.transaction() as connection:
        row = _sheet(connection, user, sheet_id)
        issued = sheets.printed_papers(connection, user["school_id"], sheet_id)[:1]
        items = sheets.full_items(connection, sheet_id)
        people = sheets.people_of(connection, user["school_id"], row["class_id"])
        code = sheets.free_code(connection, row, 0, 1)
        of_items = drawing.stamps(items, row["units"], row["seed"])
        of_all = drawing.stamp_of_all(of_items, len(people))
        kept = drawing.kept_calls(connection, sheet_id, of_items, of_all, person=0)
    if not items:
        raise ApiError(409, "not_ready", "this sheet has no call yet; put one on it")
    if not issued:
        try:
            bodies = [
                kept[one.place] if one.place in kept else apart(drawing.draw, one)
                for one in drawing.work_of(items, 1, row["units"], row["seed"])
            ]
        except sheets.REFUSED as error:
            raise ApiError(422, "no_variant", str(error)) from error
        issued = [{"name": people[0]["name"] if people else "Somebody", "code": code, "attempt": 1, "calls": bodies}]
    pdf = packet_pdf(printable(row), issued)
    with db.transaction() as connection:
        queries.document_put(
            connection, school_id=user["school_id"], sheet_id=sheet_id, kind="preview", pdf=pdf, read_at=None
        )
    calls = [body for body in issued[0]["calls"] if isinstance(body, Call)]
    return pdf, gaming(calls, words=False), len(issued[0]["calls"])


def starts(pdf: bytes, count: int) -> list[int]:
    """The page (from 1) on which each of ``count`` calls of a printed paper begins, as the heads of its pages say."""
    begins: dict[int, int] = {}
    for page, text in enumerate(page_texts(pdf), 1):
        for number in re.findall(rf"· \w+ (\d+) of {count}\b", text)[-1:]:
            begins.setdefault(int(number), page)
    return [begins.get(n, 1) for n in range(1, count + 1)]


def preview_page(db: Database, user: dict[str, Any], sheet_id: int, number: int) -> bytes:
    """Page ``number`` of the preview as PNG bytes. Raises IndexError past the last page."""
    return page_png(preview(db, user, sheet_id)[1], number)
