"""Courses: listed for an instructor, drafted for a class, with the scenarios they need."""


def _class(teacher):
    return teacher.post("/classes", {"name": "Firsts", "apprentices": ["Ada Quill"]}).json["id"]


def test_courses_are_listed_with_what_stands_on_every_sheet(teacher):
    found = teacher.get("/courses").json["courses"]
    assert [c["id"] for c in found] == ["cooling", "refrigeration", "refresher"]
    first = found[0]["weeks"][0]
    assert first["title"] == "First week: reading gauges" and first["minutes"] > 10
    calls = [i for c in found for w in c["weeks"] for i in w["items"] if i["kind"] == "scenario"]
    assert all(i["machine"] and i["level"] for i in calls)


def test_a_week_is_drafted_for_a_class_and_its_scenarios_come_into_the_library_once(teacher):
    class_id, before = _class(teacher), len(teacher.get("/scenarios").json["scenarios"])
    asked = {"class_id": class_id, "weeks": [5]}
    made = teacher.post("/courses/cooling/drafts", asked)
    assert made.status_code == 201 and made.json["sheets"][0]["title"] == "Week 5: Air before charge"
    sheet = teacher.get(f"/sheets/{made.json['sheets'][0]['id']}").json
    assert sheet["status"] == "draft" and len(sheet["items"]) == 3
    library = teacher.get("/scenarios").json["scenarios"]
    assert len(library) == before + 3 and all(row["proof"] for row in library[-3:])
    teacher.post("/courses/cooling/drafts", asked)
    assert len(teacher.get("/scenarios").json["scenarios"]) == before + 3


def test_a_whole_course_is_drafted_at_once(teacher):
    made = teacher.post("/courses/refresher/drafts", {"class_id": _class(teacher)}).json["sheets"]
    assert [s["title"].split(":")[0] for s in made] == ["Week 1", "Week 2", "Week 3", "Week 4"]
    assert len({s["id"] for s in made}) == 4


def test_what_there_is_not_is_refused_by_name(teacher):
    class_id = _class(teacher)
    for url, body, field in (
        ("/courses/knitting/drafts", {"class_id": class_id}, "course"),
        ("/courses/cooling/drafts", {"class_id": class_id, "weeks": [99]}, "weeks"),
    ):
        reply = teacher.post(url, body)
        assert reply.status_code == 422 and reply.json["error"]["field"] == field
    assert teacher.post("/courses/cooling/drafts", {"class_id": 2**31 - 1}).status_code in (404, 422)


def test_an_apprentice_sees_no_course(pupil):
    assert pupil.get("/courses").status_code == 403
