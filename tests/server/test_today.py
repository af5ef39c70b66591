"""What waits for an instructor today."""

from tests.server.conftest import as_key, build, codes
from wolfsbane.exercise.plan.starter_library import courses, ready_scenarios
from wolfsbane.server.services.today import MOST


def titles(rows):
    return [row["title"] for row in rows]


def test_a_sheet_waits_to_be_printed_marked_and_given_back(teacher, app, sheet):
    def where():
        lists = {k: v for k, v in teacher.get("/today").json.items() if k not in ("first_steps", "starter")}
        return {name for name, rows in lists.items() if sheet["title"] in titles(rows)}

    assert where() == {"to_print"}
    for n, code in enumerate(codes(teacher, sheet), 1):
        for call in (1, 2):
            body = {"call": call, "answers": as_key(app, code, call)}
            assert teacher.put(f"/papers/{code}/answers", body).status_code == 200
        assert where() == ({"to_mark"} if n < 3 else {"to_release"})
    row = teacher.get("/today").json["to_release"][0]
    assert (row["papers"], row["marked"], row["class_name"]) == (3, 3, sheet["class_name"])
    assert teacher.put(f"/sheets/{sheet['id']}/release", {"released": True}).status_code == 200
    assert where() == set()


def test_drafts_wait_and_a_course_goes_on_with_its_next_week(teacher):
    made = teacher.post("/classes", {"name": "Firsts", "apprentices": ["Ada Quill"]}).json
    course = next(iter(courses().values()))
    at = f"/courses/{course.id}/drafts"
    drafted = teacher.post(at, {"class_id": made["id"], "units": "us", "weeks": [1, 2]}).json["sheets"]
    today = teacher.get("/today").json
    assert set(titles(today["drafts"])) >= {row["title"] for row in drafted} and len(today["drafts"]) <= MOST
    assert [(w["class_name"], w["week"], w["title"]) for w in today["next_weeks"]] == [
        ("Firsts", 3, course.weeks[2].sheet.title)
    ]
    # an archived class waits for nothing
    teacher.put(f"/classes/{made['id']}", {"name": "Firsts", "term": "", "archived": True})
    today = teacher.get("/today").json
    assert not today["next_weeks"] and not {row["title"] for row in drafted} & set(titles(today["drafts"]))


def test_nobody_else_looks_at_the_day_of_an_instructor(helper, pupil):
    assert [who.get("/today").status_code for who in (helper, pupil)] == [403, 403]


def done(client):
    return [s["id"] for s in client.get("/today").json["first_steps"] if s["done"]]


def test_a_new_school_is_led_to_its_first_marked_paper(app, teacher):
    today = teacher.get("/today").json
    assert [s["id"] for s in today["first_steps"]] == ["class", "sheet", "look", "issue", "mark"]
    assert today["starter"] and done(teacher) == []
    class_id = teacher.post("/classes", {"name": "Firsts", "apprentices": ["Ada Quill"]}).json["id"]
    assert done(teacher) == ["class"]
    drill = {"kind": "drill", "drill": "conversion", "items": 3, "brief": {"title": "x"}}
    made = teacher.post("/sheets", {"title": "One", "class_id": class_id, "draft": True, "items": [drill]}).json
    assert done(teacher) == ["class", "sheet"]
    assert {s["sheet_id"] for s in teacher.get("/today").json["first_steps"]} == {made["id"]}
    assert teacher.get(f"/sheets/{made['id']}/preview").json["pages"] == 1
    assert done(teacher) == ["class", "sheet", "look"]
    teacher.post(f"/sheets/{made['id']}/issue", {})
    build(app, made["id"])
    assert done(teacher) == ["class", "sheet", "look", "issue"] and not teacher.get("/today").json["starter"]
    code = codes(teacher, made)[0]
    teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": as_key(app, code, 1)})
    assert teacher.get("/today").json["first_steps"] == []


def test_the_starter_set_is_for_a_school_that_has_nothing(app, teacher, helper):
    assert helper.post("/today/starter", {}).status_code == 403
    made = teacher.post("/today/starter", {"units": "si"})
    assert made.status_code == 201
    sheet = teacher.get(f"/sheets/{made.json['sheet_id']}").json
    assert (sheet["status"], sheet["title"], sheet["units"]) == ("draft", "Sample sheet", "si")
    assert sheet["calls"] >= 2 and sheet["class_name"] == "Sample class"
    assert len(teacher.get("/scenarios").json["scenarios"]) == len(ready_scenarios())
    assert done(teacher) == ["class", "sheet"]
    assert teacher.post("/today/starter", {}).status_code == 409
    assert len(teacher.get("/sheets").json["sheets"]) == 1
