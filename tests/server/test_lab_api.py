"""A class that goes round the rigs, late and absent people, what an assistant may do, photos of rigs."""

import io

import pytest
from PIL import Image

PEOPLE = ["Ada Quill", "Bo Fenn", "Cy Thorne", "Dot Marsh", "Ed Brake"]


@pytest.fixture
def rigs(teacher):
    def add(name):
        rig = {"schema": 1, "name": name, "machine": "split-3t-r410a-txv"}
        return teacher.post("/rigs", {"rig": rig}).json["row"]["id"]

    return [add(name) for name in ("Rig A", "Rig B")]


@pytest.fixture
def group(teacher):
    """(class, apprentice by name)."""
    made = teacher.post("/classes", {"name": "Lab firsts", "apprentices": PEOPLE}).json
    listed = teacher.get(f"/classes/{made['id']}").json["people"]
    return made["id"], {p["name"]: p["id"] for p in listed}


def seen(reply):
    """Rig -> who is there now, and who is next."""
    return {p["rig_id"]: (p["now"], p["following"]) for p in reply.json["rotation"]["places"]}


def test_everybody_comes_to_every_rig_and_the_last_round_has_no_next(teacher, rigs, group):
    begun = teacher.post("/rigs/rotation", {"class_id": group[0], "minutes": 20, "seats": 3})
    assert begun.status_code == 201
    told = begun.json["rotation"]
    assert (told["number"], told["of"], told["minutes"], told["class_name"]) == (1, 2, 20, "Lab firsts")
    assert told["ends_at"] > begun.json["now"]
    first = seen(begun)
    assert sorted(n for now, _ in first.values() for n in now) == sorted(PEOPLE) and told["desk"] == []
    second = teacher.put("/rigs/rotation/round", {"number": 2})
    assert {rig: now for rig, (now, _) in seen(second).items()} == {rig: then for rig, (_, then) in first.items()}
    for now, following in seen(second).values():
        assert now and following == []
    for rig in rigs:
        assert sorted(first[rig][0] + seen(second)[rig][0]) == sorted(PEOPLE)
    again = teacher.put("/rigs/rotation/round", {"number": 2})
    assert again.json["rotation"]["ends_at"] == second.json["rotation"]["ends_at"], "two screens may ask for it"
    beyond = teacher.put("/rigs/rotation/round", {"number": 3})
    assert beyond.status_code == 422 and beyond.json["error"]["field"] == "number"
    assert teacher.delete("/rigs/rotation").json["rotation"] is None
    assert teacher.delete("/rigs/rotation").status_code == 404


def test_a_school_without_a_rig_has_nothing_to_go_round(teacher, group):
    refused = teacher.post("/rigs/rotation", {"class_id": group[0]})
    assert refused.status_code == 422 and refused.json["error"]["field"] == "rigs"


def test_who_leaves_is_planned_out_and_who_is_late_in_at_one_request(teacher, rigs, group):
    class_id, people = group
    late = people["Ed Brake"]
    begun = teacher.post("/rigs/rotation", {"class_id": class_id, "seats": 3, "away": [late]})
    assert "Ed Brake" not in [n for now, _ in seen(begun).values() for n in now]
    come = teacher.put("/rigs/rotation/people", {"away": [people["Bo Fenn"]]})
    here = [n for now, _ in seen(come).values() for n in now]
    assert "Ed Brake" in here and "Bo Fenn" not in here
    assert [p["name"] for p in come.json["rotation"]["people"] if p["away"]] == ["Bo Fenn"]
    for rig, (now, _) in seen(come).items():
        stayed = [n for n in seen(begun)[rig][0] if n != "Bo Fenn"]
        assert now[: len(stayed)] == stayed, "nobody is sent away in the middle of a round"


def test_one_rotation_at_a_time_and_only_of_the_own_school(teacher, stranger, rigs, group):
    assert teacher.post("/rigs/rotation", {"class_id": group[0]}).status_code == 201
    assert teacher.post("/rigs/rotation", {"class_id": group[0]}).status_code == 409
    assert stranger.get("/rigs").json["rotation"] is None
    assert stranger.post("/rigs/rotation", {"class_id": group[0]}).json["error"]["field"] == "class_id"
    assert stranger.put("/rigs/rotation/people", {"away": []}).status_code == 404
    teacher.delete("/rigs/rotation")
    wrong = teacher.post("/rigs/rotation", {"class_id": group[0], "rigs": [999_999]})
    assert wrong.status_code == 422 and wrong.json["error"]["field"] == "rigs"


def test_an_assistant_sees_the_lab_sets_what_an_assistant_may_and_undoes(teacher, helper, pupil, rigs):
    devices = [{"kind": "condenser_board"}, {"kind": "switch", "who": "instructor"}]
    rig = {**teacher.get(f"/rigs/{rigs[0]}").json["rig"], "devices": devices}
    assert teacher.put(f"/rigs/{rigs[0]}", {"rig": rig}).status_code == 200
    assert [r["name"] for r in helper.get("/rigs").json["rigs"]] == ["Rig A", "Rig B"]
    set_ = helper.put(f"/rigs/{rigs[0]}/devices/condenser_board", {"position": 40})
    assert set_.status_code == 200 and set_.json["row"]["standing"][0]["position"] == 40
    locked = helper.put(f"/rigs/{rigs[0]}/devices/switch", {"position": 1})
    assert locked.status_code == 403 and "instructor" in locked.json["error"]["message"]
    undone = helper.post(f"/rigs/{rigs[0]}/undo", {"signed": "Hazel Ostler"}).json["row"]
    assert undone["standing"] == [] and undone["undone_by"] == "Hazel Ostler" and undone["undone_at"]
    for refused in (helper.put(f"/rigs/{rigs[0]}", {"rig": rig}), helper.delete(f"/rigs/{rigs[0]}")):
        assert refused.status_code == 403
    for hidden in (pupil.get("/rigs"), pupil.get(f"/rigs/{rigs[0]}"), pupil.post("/rigs/rotation", {"class_id": 1})):
        assert hidden.status_code == 403


def picture(kind, size=(3000, 2000), **more):
    out = io.BytesIO()
    Image.new("RGB", size, "teal").save(out, kind, **more)
    return out.getvalue()


@pytest.mark.parametrize("kind", ["JPEG", "PNG"])
def test_a_photo_is_kept_small_and_without_where_it_was_taken(teacher, stranger, rigs, kind):
    where = Image.Exif()
    where[0x010F] = "a phone of somebody"
    path = f"/rigs/{rigs[0]}/photo"
    assert teacher.get(path).status_code == 404
    put = teacher.put_bytes(path, picture(kind, exif=where), f"image/{kind.lower()}")
    assert put.status_code == 200 and put.json["row"]["photo_at"]
    kept = teacher.get(path)
    with Image.open(io.BytesIO(kept.data)) as small:
        assert kept.mimetype == "image/jpeg" and max(small.size) == 1200 and not dict(small.getexif())
    assert b"somebody" not in kept.data and stranger.get(path).status_code == 404
    assert teacher.delete(path).json["row"]["photo_at"] is None


def test_what_is_no_photo_is_refused(teacher, rigs):
    path = f"/rigs/{rigs[0]}/photo"
    for data in (b"GIF89a", picture("JPEG")[:500], b"", picture("PNG", (9000, 8000))):
        reply = teacher.put_bytes(path, data, "image/jpeg")
        assert reply.status_code == 422 and reply.json["error"]["field"] == "photo"
    assert teacher.put_bytes(path, b"x", "text/plain").status_code == 415
