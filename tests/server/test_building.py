"""Processes that draw and print: what is under way ends with the work that needs it, and they are kept otherwise."""

import multiprocessing
import os
import time
from functools import partial

import pytest

from wolfsbane.exercise.draw import item as items_of
from wolfsbane.server.core.current import database_of
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.helpers import WORTH_SENDING, Helpers
from wolfsbane.server.services import building, drawing


@pytest.fixture
def helpers():
    two = Helpers(2)
    yield two
    two.stop()


def work(folder, number):
    """The first piece fails at once; the others take long and leave a mark when they are done."""
    if number == 0:
        raise ValueError("no fair variant")
    time.sleep(300)
    (folder / str(number)).touch()


def twice(number):
    return 2 * number


def who(_):
    return os.getpid()


def test_a_refusal_does_not_wait_for_what_is_under_way(tmp_path, helpers):
    others = set(multiprocessing.active_children())
    with pytest.raises(ValueError, match="no fair variant"), helpers.lent(WORTH_SENDING) as each:
        list(each(partial(work, tmp_path), range(WORTH_SENDING)))
    assert set(multiprocessing.active_children()) <= others and not list(tmp_path.iterdir())
    with helpers.lent(WORTH_SENDING) as each:  # and the next sheet finds new ones
        assert list(each(twice, range(3))) == [0, 2, 4]


def test_the_order_of_the_pieces_is_kept_and_so_are_the_processes(helpers):
    seen = []
    for _ in range(2):
        with helpers.lent(WORTH_SENDING) as each:
            assert list(each(twice, range(20))) == [2 * n for n in range(20)]
            seen.append(set(each(who, range(20))))
    assert os.getpid() not in seen[0] | seen[1] and len(seen[0] | seen[1]) <= 2
    children = set(multiprocessing.active_children())
    helpers.stop()
    assert len(children - set(multiprocessing.active_children())) == 2


@pytest.mark.parametrize(("processes", "pieces"), [(1, 100), (4, WORTH_SENDING - 1)])
def test_little_work_is_done_here(processes, pieces):
    with Helpers(processes).lent(pieces) as each:
        assert each is map


class Body:
    """A call that was drawn so often, by the place it has."""

    def __init__(self, position, index, again=0):
        self.place, self.again = (position, index), again


@pytest.mark.parametrize(("until", "drawn_again"), [({}, {}), ({1: 1}, {1: 1}), ({0: 1, 2: 9}, {0: 1, 2: 2})])
def test_a_paper_that_pays_guessing_is_drawn_again_as_a_whole_and_twice_at_most(monkeypatch, until, drawn_again):
    """``until`` is how often each paper has to be drawn again until it pays no more."""
    first = items_of.TRIES
    work = drawing.work_of([{"n": n} for n in (1, 2, 3)], 3, "us", 7)
    found = {one.place: Body(*one.place) for one in work}
    monkeypatch.setattr(drawing, "Call", Body)
    monkeypatch.setattr(drawing.frozen_body, "mark_of_copy", lambda body: None if body.place[0] == 3 else body.place)
    monkeypatch.setattr(
        items_of, "draw", lambda one, position, index, units, seed, again=0: Body(position, index, again)
    )
    monkeypatch.setattr(
        drawing, "pays", lambda calls: max(0, max(c.again for c in calls) - first) < until.get(calls[0].place[1], 0)
    )
    found |= drawing.without_paying(work, found, map)
    for (position, index), body in found.items():
        again = 0 if position == 3 else drawn_again.get(index, 0)  # what everybody may have alike stays
        assert body.place == (position, index) and body.again == (first + again if again else 0)


def test_a_document_is_being_printed_before_anybody_waits_for_it(monkeypatch):
    """Twenty-six papers of five calls: the packet in three parts of at most sixty calls, the slips in one go."""
    asked, done = [], []

    def each(work, chunks):
        asked.append([len(chunk) for chunk in chunks])
        return (work(chunk) for chunk in chunks)

    def printer(sheet, papers, progress):
        return f"{sheet['title']} {papers[0]}".encode() if papers[0] != 9 else None

    monkeypatch.setattr(building, "merged", b", ".join)
    sheet, papers = {"title": "Friday", "calls": 5}, range(26)
    packet = building._printing(sheet, "packet", papers, printer, each, done.append)
    slips = building._printing(sheet, "slips", papers, printer, each)
    assert asked == [[9, 9, 8], [26]] and done == []
    assert building._joined(packet) == b"Friday 0, Friday 18", "a part with nothing to print is left out"
    assert done == [9, 9, 8]
    assert building._joined(slips) == b"Friday 0" and building._joined(iter([None])) is None


@pytest.mark.parametrize(
    ("papers", "calls", "parts"), [(24, 1, [24]), (13, 3, [7, 6]), (24, 5, [12, 12]), (1, 12, [1])]
)
def test_a_packet_is_printed_by_two_where_that_is_worth_it(papers, calls, parts):
    asked = []

    def each(work, chunks):
        asked.extend(len(chunk) for chunk in chunks)
        return iter(chunks)

    building._printing({"calls": calls}, "packet", range(papers), None, each)
    assert asked == parts


def test_what_is_printed_can_be_had_while_the_rest_still_is(app, teacher, sheet):
    path, seen = f"/sheets/{sheet['id']}", []

    def printer(kind):
        def pdf(row, papers, progress):
            got = teacher.get(path).json
            seen.append((kind, got["status"], got["at_hand"]))
            for other, there in (("packet", kind == "key"), ("key", False)):
                said = teacher.get(f"{path}/documents/{other}")
                assert (said.status_code, said.data == b"%PDF packet") == ((200, True) if there else (409, False))
            return f"%PDF {kind}".encode()

        return pdf

    with database_of(app).transaction() as connection:
        school = connection.execute("select school_id from sheets where id = %s", (sheet["id"],)).fetchone()
        queries.document_put(
            connection, school_id=school["school_id"], sheet_id=sheet["id"], kind="key", pdf=b"old", read_at=None
        )
        queries.sheet_status(connection, id=sheet["id"], status="queued", total=None)
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(building, "merged", b"".join)
        printers = {kind: printer(kind) for kind in ("packet", "key")}
        building.build(database_of(app), school["school_id"], sheet["id"], printers)
    assert seen == [("packet", "building", []), ("key", "building", ["packet"])], "nothing of an earlier build"
    assert teacher.get(path).json["status"] == "ready"
    assert teacher.get(f"{path}/documents/key").data == b"%PDF key"


def left_over(number):
    """A piece that fails after others were asked for."""
    if number == 3:
        raise ValueError("the draft was changed")
    return number


def test_work_that_is_done_aside_is_asked_for_a_little_at_a_time_and_ends_nothing(helpers):
    asked = []

    def pieces():
        for number in range(10):
            asked.append(number)
            yield number

    coming = helpers.aside()(twice, pieces())
    assert next(coming) == 0 and len(asked) == 3, "one more than there are processes"
    assert list(coming) == [2 * n for n in range(1, 10)]
    own = set(multiprocessing.active_children())
    with pytest.raises(ValueError, match="the draft was changed"):
        list(helpers.aside()(left_over, range(9)))
    assert set(multiprocessing.active_children()) == own
    assert Helpers(1).aside() is map


def threads(_):
    return os.environ.get("RAYON_NUM_THREADS")


def test_the_press_in_a_helper_keeps_to_one_processor(helpers):
    with helpers.lent(WORTH_SENDING) as each:
        assert set(each(threads, range(WORTH_SENDING))) == {"1"}
