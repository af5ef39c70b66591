"""Building a sheet: every call drawn, every paper frozen, packet, key and slips printed. Safe to run again after a crash."""

import gc
import multiprocessing
from concurrent.futures import ProcessPoolExecutor

from wolfsbane.exercise import item as items_of
from wolfsbane.server import sheets
from wolfsbane.server.db.database import queries
from wolfsbane.server.printing.merge import merged

_BROKEN = "Something broke on our side while this sheet was made. It is tried again by itself; if it stays so, issue it anew."
#: below this many draws starting processes takes longer than they save
_WORTH_PROCESSES = 12
#: sheets of paper printed in one go: few enough to show progress, many enough to share pictures
_CHUNK = 3


class Cancelled(Exception):  # noqa: N818
    """Somebody cancelled the sheet."""


class _Progress:
    """Counts what is done into the row of the sheet, and notices when somebody cancelled it."""

    def __init__(self, db, sheet_id):
        self.db, self.sheet_id, self.done = db, sheet_id, 0

    def say(self, status="building", problem=None):
        with self.db.transaction() as connection:
            queries.sheet_progress(connection, id=self.sheet_id, status=status, done=self.done, problem=problem)

    def one_more(self, count=1):
        self.done += count
        with self.db.transaction() as connection:
            queries.sheet_progress(connection, id=self.sheet_id, status="building", done=self.done, problem=None)
            if queries.sheet_state(connection, id=self.sheet_id)["status"] == "cancelling":
                raise Cancelled


def build(db, school_id, sheet_id, printers, processes=1):
    """Build a sheet, and say so on the sheet when something unforeseen breaks it; the job then tries again.

    ``printers`` maps packet, key and slips to functions (sheet, papers, progress) -> PDF bytes, or None where there is nothing
    to print; with more than one of ``processes`` they have to be importable. What cannot be drawn marks the sheet failed with
    the reason; what somebody cancels is left cancelled.
    """
    progress = _Progress(db, sheet_id)
    try:
        _build(db, school_id, sheet_id, printers, processes, progress)
    except Cancelled:
        with db.transaction() as connection:
            queries.sheet_clear(connection, sheet_id=sheet_id)
            queries.documents_clear(connection, sheet_id=sheet_id)
            queries.sheet_status(connection, id=sheet_id, status="cancelled", total=None)
    except Exception:
        progress.done = 0
        progress.say("failed", _BROKEN)
        raise


def _build(db, school_id, sheet_id, printers, processes, progress):
    with db.transaction() as connection:
        sheet = queries.sheet_get(connection, school_id=school_id, id=sheet_id)
        if sheet is None or sheet["status"] in ("ready", "draft", "cancelled"):
            return
        if sheet["status"] == "cancelling":
            raise Cancelled
        queries.sheet_clear(connection, sheet_id=sheet_id)
        items = sheets.full_items(connection, sheet_id)
        people = sheets.people_of(connection, school_id, sheet["class_id"])
    progress.say()
    work = [(one, position, index, sheet["units"], sheet["seed"]) for position, one in enumerate(items, 1) for index in range(len(people))]
    pool = None
    if processes > 1 and len(work) >= _WORTH_PROCESSES:
        # Laying out makes millions of small objects that die together: collecting once after each chunk saves a fifth of the time.
        pool = ProcessPoolExecutor(processes, mp_context=multiprocessing.get_context("spawn"), initializer=gc.disable)
    try:
        each = pool.map if pool else map
        drawn = _drawn(work, each, progress)
        papers = _freeze(db, sheet, people, len(items), drawn)
        for kind, printed in _printed(sheet, papers, printers, each, progress):
            with db.transaction() as connection:
                queries.document_put(connection, school_id=school_id, sheet_id=sheet_id, kind=kind, pdf=printed)
        with db.transaction() as connection:
            queries.sheet_ready(connection, id=sheet_id)
    except sheets.REFUSED as error:
        progress.say("failed", str(error))
    finally:
        if pool:
            pool.shutdown(wait=True, cancel_futures=True)


def _draw(work):
    return items_of.draw(*work)


def _drawn(work, each, progress):
    """Bodies by (position, index), no two of a position with the same readings."""
    found, seen = {}, set()
    for (one, position, index, units, seed), body in zip(work, each(_draw, work), strict=True):
        for again in range(1, items_of.TRIES):
            mark = items_of.mark_of_copy(body)
            if mark is None or (position, mark) not in seen:
                break
            body = items_of.draw(one, position, index, units, seed, 1, again)
        seen.add((position, items_of.mark_of_copy(body)))
        found[(position, index)] = body
        progress.one_more()
    return found


def _freeze(db, sheet, people, count, drawn):
    papers = []
    with db.transaction() as connection:
        for index, person in enumerate(people):
            bodies = [drawn[(position, index)] for position in range(1, count + 1)]
            papers.append(sheets.freeze(connection, sheet, person, sheets.free_code(connection, sheet, index, 1), index, 1, bodies))
    return papers


def printable(sheet):
    """The part of a sheet's row that stands on paper; it can be sent to another process."""
    kept = ("id", "title", "class_name", "school", "units", "seed", "solver_version", "table_hash", "rubric_version", "paper", "large")
    return {key: sheet[key] for key in kept if key in sheet}


class _Print:
    """One printer at work on some papers, as work that can be sent to another process."""

    def __init__(self, printer, sheet):
        self.printer, self.sheet = printer, sheet

    def __call__(self, papers):
        printed = self.printer(self.sheet, papers, None)
        gc.collect()
        return printed


def _printed(sheet, papers, printers, each, progress):
    """(kind, PDF bytes) of every document that has something on it."""
    chunks = [papers[i:i + _CHUNK] for i in range(0, len(papers), _CHUNK)]
    for kind, printer in printers.items():
        parts = []
        for chunk, part in zip(chunks, each(_Print(printer, printable(sheet)), chunks), strict=True):
            parts.append(part)
            if kind == "packet":
                progress.one_more(len(chunk))
        parts = [p for p in parts if p]
        if parts:
            yield kind, merged(parts)
