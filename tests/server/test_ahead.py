"""Drafts are drawn before they are issued; what is issued is the same as if they had not been."""

import pytest

from tests.server.conftest import SCENARIO, bodies, build, codes
from wolfsbane.exercise.draw import item as items_of
from wolfsbane.exercise.draw.tries import NoClassSetError
from wolfsbane.server.core.current import database_of
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.helpers import Helpers
from wolfsbane.server.jobs.queue import AHEAD, LANES, queue_sheet, worker_app
from wolfsbane.server.services import ahead, drawing

DRILL = {"kind": "drill", "drill": "conversion", "items": 2, "brief": {"title": "Drill"}}


@pytest.fixture
def draft(teacher):
    """A draft of a call and a drill for two."""
    class_id = teacher.post("/classes", {"name": "Ahead", "apprentices": ["A B", "C D"]}).json["id"]
    scenario_id = teacher.post("/scenarios", SCENARIO).json["id"]
    items = [{"kind": "scenario", "scenario_id": scenario_id}, DRILL]
    return teacher.post(
        "/sheets", {"title": "Early", "class_id": class_id, "items": items, "draft": True, "seed": 11}
    ).json


@pytest.fixture
def counted(monkeypatch):
    """(position, person) of everything that is drawn."""
    drawn, draw = [], items_of.draw

    def count(*given, again=0):
        drawn.append((given[1], given[2]))
        return draw(*given, again=again)

    monkeypatch.setattr(items_of, "draw", count)
    return drawn


def school_of(app):
    with database_of(app).transaction() as connection:
        return queries.school_by_name(connection, name="Test School")["id"]


def drawn_ahead(app, sheet_id, each=map):
    ahead.draw_ahead(database_of(app), school_of(app), sheet_id, each)


def on_paper(app, teacher, sheet):
    return [[body.to_json() for body in bodies(app, code)] for code in codes(teacher, sheet)]


def issued(app, teacher, sheet):
    assert teacher.post(f"/sheets/{sheet['id']}/issue", {}).status_code == 200
    build(app, sheet["id"])
    assert teacher.get(f"/sheets/{sheet['id']}").json["status"] == "ready"


def again(draft, **changes):
    """A draft as the builder sends it, with changes."""
    items = [
        {key: value for key, value in row["data"].items() if key != "body" and value is not None}
        | ({"scenario_id": row["scenario_id"]} if row["scenario_id"] else {})
        for row in draft["items"]
    ]
    return {"title": draft["title"], "class_id": draft["class_id"], "items": items} | changes


def test_what_was_drawn_ahead_is_what_is_issued(app, teacher, draft, counted):
    assert teacher.get(f"/sheets/{draft['id']}/ahead").json == {"drawn": 0, "of": 4, "problem": None}
    drawn_ahead(app, draft["id"])
    assert counted == [(1, 0), (2, 0), (1, 1), (2, 1)], "paper by paper"
    assert teacher.get(f"/sheets/{draft['id']}/ahead").json == {"drawn": 4, "of": 4, "problem": None}
    drawn_ahead(app, draft["id"])
    assert len(counted) == 4, "a second time there is nothing to do"
    issued(app, teacher, draft)
    assert len(counted) == 4, "nothing is drawn again"
    made = on_paper(app, teacher, draft)

    teacher.post(f"/sheets/{draft['id']}/draft", {})
    with database_of(app).transaction() as connection:  # the same sheet, drawn when it is issued
        queries.sheet_seed(connection, id=draft["id"], seed=11)
        assert list(queries.drawn_list(connection, sheet_id=draft["id"], person=None)) == []
    issued(app, teacher, draft)
    assert len(counted) == 8 and on_paper(app, teacher, draft) == made
    assert teacher.get(f"/sheets/{draft['id']}/ahead").json == {"drawn": 0, "of": 0, "problem": None}


def test_what_was_changed_is_drawn_again_and_nothing_else(app, teacher, draft, counted):
    drawn_ahead(app, draft["id"])
    counted.clear()
    changed = again(draft)
    changed["items"][1]["items"] = 3
    for body, left, drawn in (
        (again(draft, title="Late"), 0, []),
        (changed, 2, [(2, 0), (2, 1)]),
        (changed | {"units": "si"}, 4, [(1, 0), (2, 0), (1, 1), (2, 1)]),
    ):
        assert teacher.put(f"/sheets/{draft['id']}", body).status_code == 200
        found = teacher.get(f"/sheets/{draft['id']}/ahead").json
        assert (found["drawn"], found["of"]) == (4 - left, 4)
        counted.clear()
        drawn_ahead(app, draft["id"])
        assert counted == drawn
    people = [{"name": "E F"}]
    teacher.post(f"/classes/{draft['class_id']}/apprentices", {"people": people})
    counted.clear()
    drawn_ahead(app, draft["id"])
    assert counted == [(1, 2), (2, 2)], "somebody joined the class"


def test_calls_of_another_release_are_drawn_again(app, teacher, draft, counted, monkeypatch):
    drawn_ahead(app, draft["id"])
    counted.clear()
    monkeypatch.setattr(drawing, "SOLVER_VERSION", "another")
    issued(app, teacher, draft)
    assert len(counted) == 4


@pytest.mark.parametrize("how", ["changed", "issued", "deleted"])
def test_a_draft_that_is_no_longer_what_it_was_is_given_up(app, teacher, draft, counted, how):
    def then():
        if how == "changed":
            teacher.put(f"/sheets/{draft['id']}", again(draft, units="si"))
        elif how == "issued":
            teacher.post(f"/sheets/{draft['id']}/issue", {})
        else:
            teacher.delete(f"/sheets/{draft['id']}")

    def each(work, *given):
        for number, one in enumerate(zip(*given, strict=False)):
            if number == 2:
                then()
            yield work(*one)

    drawn_ahead(app, draft["id"], each)
    assert len(counted) == 3
    with database_of(app).transaction() as connection:
        kept = {(r["position"], r["person"]) for r in queries.drawn_list(connection, sheet_id=draft["id"], person=None)}
    assert kept == (set() if how == "deleted" else {(1, 0), (2, 0)}), "the third was drawn from what is gone"


def test_what_cannot_be_drawn_is_said_before_it_is_issued(app, teacher, draft, monkeypatch):
    def refused(*given, again=0):
        raise NoClassSetError("no fair variant of this call")

    with monkeypatch.context() as patched:
        patched.setattr(items_of, "draw", refused)
        drawn_ahead(app, draft["id"])
    assert teacher.get(f"/sheets/{draft['id']}/ahead").json == {
        "drawn": 0,
        "of": 4,
        "problem": "no fair variant of this call",
    }
    teacher.put(f"/sheets/{draft['id']}", again(draft))
    assert teacher.get(f"/sheets/{draft['id']}/ahead").json["problem"] is None
    drawn_ahead(app, draft["id"])
    assert teacher.get(f"/sheets/{draft['id']}/ahead").json == {"drawn": 4, "of": 4, "problem": None}


def test_a_paper_that_pays_guessing_is_drawn_again_before_it_is_issued(app, teacher, draft, counted, monkeypatch):
    paid = []

    def once(calls):
        paid.append(calls)
        return len(paid) == 2  # the second paper, at first

    monkeypatch.setattr(drawing, "pays", once)
    drawn_ahead(app, draft["id"])
    assert counted == [(1, 0), (2, 0), (1, 1), (2, 1), (1, 1)], "its call; a drill is the same for everybody"
    asked = len(paid)
    issued(app, teacher, draft)
    assert len(paid) == asked and len(counted) == 5, "a draft that is complete is not gone through again"


def test_a_paper_drawn_again_as_a_whole_is_a_first_draw_if_the_draft_changes(app, teacher, draft, counted, monkeypatch):
    paid = []

    def once(calls):
        paid.append(calls)
        return len(paid) == 2

    monkeypatch.setattr(drawing, "pays", once)
    drawn_ahead(app, draft["id"])
    assert teacher.get(f"/sheets/{draft['id']}/ahead").json["drawn"] == 4
    changed = again(draft)
    changed["items"][1]["items"] = 3
    teacher.put(f"/sheets/{draft['id']}", changed)
    counted.clear()
    drawn_ahead(app, draft["id"])
    assert counted == [(2, 0), (1, 1), (2, 1)], "the call of the paper that paid, as a first draw"
    issued(app, teacher, draft)
    made = on_paper(app, teacher, draft)
    teacher.post(f"/sheets/{draft['id']}/draft", {})
    with database_of(app).transaction() as connection:
        queries.sheet_seed(connection, id=draft["id"], seed=11)
    issued(app, teacher, draft)
    assert on_paper(app, teacher, draft) == made, "whatever was changed on the way"


def test_the_preview_shows_what_was_drawn_ahead(app, teacher, draft, counted):
    drawn_ahead(app, draft["id"])
    counted.clear()
    assert teacher.get(f"/sheets/{draft['id']}/preview").json["pages"] >= 2
    assert counted == []


def jobs(app, queue=AHEAD):
    with database_of(app).transaction() as connection:
        return connection.execute(
            "select task_name, args, status, scheduled_at > now() as later from procrastinate_jobs"
            " where queue_name = %s order by id",
            (queue,),
        ).fetchall()


def test_saving_a_draft_queues_it_for_a_moment_later_and_holds_no_other_job_back(app, teacher, draft):
    before = len(jobs(app))
    teacher.put(f"/sheets/{draft['id']}", again(draft))
    teacher.post(f"/sheets/{draft['id']}/ahead", {})
    found = jobs(app)
    assert len(found) == before + 2 and found[-1]["later"]
    assert (found[-1]["task_name"], found[-1]["args"]["sheet_id"]) == ("draw_ahead", draft["id"])
    assert sum(AHEAD in lane for lane in LANES) == 1
    with database_of(app).transaction() as connection:
        assert queries.jobs_open(connection, school_id=school_of(app))["open"] == 0
        queue_sheet(connection, school_of(app), draft["id"])
        assert queries.figures(connection)["jobs_waiting"] == 1


@pytest.mark.parametrize(("processes", "asked"), [(1, 0), (2, 1)])
def test_a_machine_with_one_processor_is_left_to_whoever_works_at_the_draft(monkeypatch, processes, asked):
    import procrastinate.testing

    called = []
    monkeypatch.setattr(ahead, "draw_ahead", lambda *given: called.append(given[1:3]))
    app = worker_app(procrastinate.testing.InMemoryConnector(), None, Helpers(processes))
    app.tasks["draw_ahead"](school_id=3, sheet_id=4)
    assert called == [(3, 4)] * asked
