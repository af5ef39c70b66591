"""What waits for an instructor today."""

from tests.server.conftest import as_key, codes
from wolfsbane.exercise.plan.starter_library import courses
from wolfsbane.server.services.today import MOST


def titles(rows):
    return [row["title"] for row in rows]


def test_a_sheet_waits_to_be_printed_marked_and_given_back(teacher, app, sheet):
    def where():
        return {name for name, rows in teacher.get("/today").json.items() if sheet["title"] in titles(rows)}

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
