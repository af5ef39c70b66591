"""Building a sheet: every call drawn, every paper frozen, packet, key and slips printed; and printing it again. Safe to
run again after a crash.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from math import ceil
from typing import TYPE_CHECKING, Any

from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.helpers import ALONE, Helpers
from wolfsbane.server.printing.merge import merged
from wolfsbane.server.services import drawing, sheets

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.frozen_body import Body
    from wolfsbane.server.core.db.database import Connection, Database

_BROKEN = (
    "Something went wrong on our side while this sheet was being made. It "
    "will be tried again; if it stays this way, issue it again."
)
#: calls printed in one go at most, to keep memory level; so few are not worth a second process
_CALLS_AT_ONCE, _CALLS_ALONE = 60, 24
#: documents that are laid out paper by paper; the others run on from one to the next
_BY_PAPER = ("packet", "key", "feedback")


class CanceledError(Exception):
    """Somebody cancelled the sheet."""


class _Progress:
    """Counts what is done into the row of the sheet, and notices when somebody cancelled it."""

    def __init__(self, db: Database, sheet_id: int) -> None:
        self.db, self.sheet_id, self.done = db, sheet_id, 0

    def say(self, status: str = "building", problem: str | None = None) -> None:
        with self.db.transaction() as connection:
            queries.sheet_progress(connection, id=self.sheet_id, status=status, done=self.done, problem=problem)

    def one_more(self, count: int = 1, keep: Mapping[str, Any] | None = None) -> None:
        """So much more is done; with ``keep`` a call that was drawn is kept in the same transaction."""
        self.done += count
        with self.db.transaction() as connection:
            if keep is not None:
                queries.drawn_add(connection, sheet_id=self.sheet_id, **keep)
            queries.sheet_progress(connection, id=self.sheet_id, status="building", done=self.done, problem=None)
            if queries.sheet_state(connection, id=self.sheet_id)["status"] == "cancelling":
                raise CanceledError


def read_in() -> None:
    """Read in what drawing and printing need, before anybody waits for it."""
    import wolfsbane.server.printing.paper  # noqa: F401


def build(
    db: Database, school_id: int, sheet_id: int, printers: dict[str, Callable[..., Any]], helpers: Helpers = ALONE
) -> None:
    """Build a sheet, and say so on the sheet when something unforeseen breaks it; the job then tries again.

    ``printers`` maps packet, key and slips to functions (sheet, papers, progress) -> PDF bytes, or None where there is
    nothing to print; with ``helpers`` they have to be importable. What cannot be drawn marks the
    sheet failed with the reason; what somebody cancels is left cancelled.
    """
    progress = _Progress(db, sheet_id)
    try:
        _build(db, school_id, sheet_id, printers, helpers, progress)
    except CanceledError:
        with db.transaction() as connection:
            queries.sheet_clear(connection, sheet_id=sheet_id)
            queries.drawn_clear(connection, sheet_id=sheet_id)
            queries.documents_clear(connection, sheet_id=sheet_id)
            queries.sheet_status(connection, id=sheet_id, status="cancelled", total=None)
    except Exception:
        progress.done = 0
        progress.say("failed", _BROKEN)
        raise


def _build(
    db: Database,
    school_id: int,
    sheet_id: int,
    printers: dict[str, Callable[..., Any]],
    helpers: Helpers,
    progress: _Progress,
) -> None:
    with db.transaction() as connection:
        sheet = queries.sheet_get(connection, school_id=school_id, id=sheet_id)
        if sheet is None or sheet["status"] in ("ready", "draft", "cancelled"):
            return
        if sheet["status"] == "cancelling":
            raise CanceledError
        queries.sheet_clear(connection, sheet_id=sheet_id)
        queries.documents_clear(connection, sheet_id=sheet_id)
        items = sheets.full_items(connection, sheet_id)
        people = sheets.people_of(connection, school_id, sheet["class_id"])
        of_items = drawing.stamps(items, sheet["units"], sheet["seed"])
        of_all = drawing.stamp_of_all(of_items, len(people))
        kept = drawing.kept_calls(connection, sheet_id, of_items, of_all)
    work = drawing.work_of(items, len(people), sheet["units"], sheet["seed"])
    progress.done = sum(one.place in kept for one in work)
    progress.say()
    complete = progress.done == len(work) and sheet["drawn_ahead"] == of_all

    def keep(place: tuple[int, int], body: Body) -> None:
        progress.one_more(keep={"school_id": school_id, **drawing.row_of(place, body, of_items[place[0]])})

    try:
        with helpers.lent(len(work)) as each:
            drawn = drawing.drawn(work, each, kept, keep)
            if not complete:
                drawn |= drawing.without_paying(work, drawn, each)
            papers = _freeze(db, sheet, people, len(items), drawn)
            counted = {"packet": progress.one_more}
            # All are asked for before the first is waited for: nobody who helps stands idle.
            coming = {
                kind: _printing(sheet, kind, papers, printer, each, counted.get(kind))
                for kind, printer in printers.items()
            }
            for kind, parts in coming.items():
                if (printed := _joined(parts)) is not None:
                    with db.transaction() as connection:
                        queries.document_put(
                            connection, school_id=school_id, sheet_id=sheet_id, kind=kind, pdf=printed, read_at=None
                        )
        with db.transaction() as connection:
            queries.sheet_ready(connection, id=sheet_id)
            queries.drawn_clear(connection, sheet_id=sheet_id)
    except sheets.REFUSED as error:
        progress.say("failed", str(error))


def _freeze(
    db: Database,
    sheet: dict[str, Any],
    people: list[dict[str, Any]],
    count: int,
    drawn: dict[tuple[int, int], Body],
) -> list[dict[str, Any]]:
    papers = []
    with db.transaction() as connection:
        for index, person in enumerate(people):
            bodies = [drawn[(position, index)] for position in range(1, count + 1)]
            papers.append(
                sheets.freeze(
                    connection, sheet, person, sheets.free_code(connection, sheet, index, 1), index, 1, bodies
                )
            )
    return papers


def printable(sheet: dict[str, Any]) -> dict[str, Any]:
    """The part of a sheet's row that stands on paper; it can be sent to another process."""
    kept = (
        "id",
        "title",
        "class_name",
        "school",
        "units",
        "seed",
        "solver_version",
        "table_hash",
        "rubric_version",
        "paper",
        "large",
    )
    return {key: sheet[key] for key in kept if key in sheet}


class _Print:
    """One printer at work on some papers, as work that can be sent to another process."""

    def __init__(self, printer: Callable[..., Any], sheet: dict[str, Any]) -> None:
        self.printer, self.sheet = printer, sheet

    def __call__(self, papers: Sequence[Any]) -> bytes | None:
        return self.printer(self.sheet, papers, None)


def _printing(
    sheet: dict[str, Any],
    kind: str,
    papers: Sequence[Any],
    printer: Callable[..., Any],
    each: Callable[..., Iterable[Any]],
    counted: Callable[..., Any] | _Counted | None = None,
) -> Iterator[bytes | None]:
    """PDF bytes of the parts of one document as they are printed, None for one with nothing to print; whoever helps
    begins at once. ``counted(n)`` is called as papers are done.
    """
    calls = len(papers) * max(1, sheet["calls"])
    parts = max(ceil(calls / _CALLS_AT_ONCE), 1 if calls <= _CALLS_ALONE else 2) if kind in _BY_PAPER else 1
    most = max(1, ceil(len(papers) / parts))
    chunks = [papers[i : i + most] for i in range(0, len(papers), most)]
    printed = each(_Print(printer, printable(sheet)), chunks)

    def coming() -> Iterator[bytes | None]:
        for chunk, part in zip(chunks, printed, strict=True):
            yield part
            if counted:
                counted(len(chunk))

    return coming()


def _joined(parts: Iterable[bytes | None]) -> bytes | None:
    """PDF bytes of one document, None where there is nothing to print."""
    there = [part for part in parts if part]
    return merged(there) if there else None


def print_again(
    db: Database,
    school_id: int,
    sheet_id: int,
    wanted: Mapping[str, tuple[Callable[..., bytes | None], Callable[[Connection], Sequence[Any]]]],
    helpers: Helpers = ALONE,
) -> None:
    """Print documents of a ready sheet from what is stored: after an erasure, in a school that was brought in, or
    feedback.

    ``wanted`` maps kinds to (printer, papers(connection) -> list of what it prints). Stops where somebody asks for it;
    safe to run again after a crash.
    """
    try:
        while _print_once(db, school_id, sheet_id, wanted, helpers):
            pass
    except CanceledError:
        pass
    finally:
        with db.transaction() as connection:
            queries.sheet_printing(connection, id=sheet_id, printing=None, done=1, total=1)


def _print_once(
    db: Database,
    school_id: int,
    sheet_id: int,
    wanted: Mapping[str, tuple[Callable[..., bytes | None], Callable[[Connection], Sequence[Any]]]],
    helpers: Helpers,
) -> bool:
    """True when somebody's paper was taken away meanwhile:
    then nothing with that name on it is kept, and all is printed once more.
    """
    with db.transaction() as connection:
        read_at = (queries.sheet_hold(connection, school_id=school_id, id=sheet_id) or {}).get(
            "read_at"
        )  # waits for marks under way
        sheet = queries.sheet_get(connection, school_id=school_id, id=sheet_id)
        if sheet is None or sheet["status"] != "ready":
            return False
        printing = [(kind, printer, papers(connection)) for kind, (printer, papers) in wanted.items()]
        there = {p["id"] for p in sheets.printed_papers(connection, school_id, sheet_id)}
    counted = _Counted(db, sheet_id, sum(len(papers) for _, _, papers in printing))
    with helpers.lent(counted.total) as each:
        for kind, printer, papers in printing:
            pdf = _joined(_printing(sheet, kind, papers, printer, each, counted))
            with db.transaction() as connection:
                queries.sheet_hold(connection, school_id=school_id, id=sheet_id)
                if {p["id"] for p in sheets.printed_papers(connection, school_id, sheet_id)} != there:
                    return True
                if pdf is not None:
                    queries.document_put(
                        connection, school_id=school_id, sheet_id=sheet_id, kind=kind, pdf=pdf, read_at=read_at
                    )
    return False


class _Counted:
    """Counts what is printed again into the row of the sheet, and notices when somebody wants it stopped."""

    def __init__(self, db: Database, sheet_id: int, total: int) -> None:
        self.db, self.sheet_id, self.done, self.total = db, sheet_id, 0, total

    def __call__(self, more: int) -> None:
        self.done += more
        with self.db.transaction() as connection:
            said = queries.sheet_printed_so_far(connection, id=self.sheet_id, done=self.done, total=self.total)
        if said["printing"] == "stop":
            raise CanceledError
