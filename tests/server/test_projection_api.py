"""The projector's token opens what is revealed and nothing else; trends, stories and reference pages answer."""

import subprocess

import pytest

from tests.conftest import VALVE
from tests.server.conftest import Client
from wolfsbane.server.core.current import database_of
from wolfsbane.server.services.projecting import TOKEN_HEADER

ROOM = {"outdoor_db_f": 95, "return_db_f": 80, "return_wb_f": 67}
BENCH = {
    "machine": VALVE,
    "faults": [{"id": "dirty_condenser", "severity": 60}, {"id": "undercharge", "severity": 80}],
    **ROOM,
}


def wall(app, token, query=""):
    """What a browser without any log-in gets for a token."""
    return app.test_client().get(f"/api/v1/projected{query}", headers={TOKEN_HEADER: token})


def turn(teacher, made, step, shown, **more):
    return teacher.put(f"/projections/{made['id']}", {"step": step, "shown": shown, **more})


def test_a_case_is_revealed_part_by_part(app, teacher):
    made = teacher.post("/projections", BENCH | {"complaint": "Warm after lunch."}).json
    first = wall(app, made["token"]).json
    assert (
        set(first["shown"]) == {"step", "steps", "units", "story", "school"}
        and first["shown"]["story"]["complaint"] == "Warm after lunch."
    )
    for word in ("ndercharge", "psig", "dirty", "fill"):
        assert word not in wall(app, made["token"]).text
    turn(teacher, made, "measure", ["story", "readings"])
    second = wall(app, made["token"], f"?since={first['revision']}").json
    assert len(second["shown"]["readings"]["dials"]) == 2 and "figures" not in second["shown"]
    assert wall(app, made["token"], f"?since={second['revision']}").json["shown"] is None
    assert "kPa" in wall(app, made["token"], "?units=si").text
    turn(teacher, made, "confirm", ["story", "readings", "tests"], test="condenser_coil")
    third = wall(app, made["token"]).json["shown"]
    assert third["tests"][0]["name"] and "answer" not in third
    turn(teacher, made, "confirm", ["story", "readings", "answer"])
    last = wall(app, made["token"]).json["shown"]
    assert last["answer"]["name"] == "Dirty condenser with Low charge (undercharged)" and "tests" not in last


def test_the_token_opens_nothing_else_and_not_for_ever(app, teacher, nobody):
    made = teacher.post("/projections", BENCH).json
    client = app.test_client()
    for path in ("/api/v1/scenarios", "/api/v1/catalogue", "/api/v1/projections", "/api/v1/sheets"):
        assert client.get(path, headers={TOKEN_HEADER: made["token"]}).status_code == 401
    assert client.post("/api/v1/bench", json=BENCH, headers={TOKEN_HEADER: made["token"]}).status_code == 401
    for token in ("", "x", made["token"][:-1]):
        assert wall(app, token).status_code == 404
    newer = teacher.post("/projections", BENCH).json
    assert wall(app, made["token"]).status_code == 404 and wall(app, newer["token"]).status_code == 200
    with database_of(app).transaction() as connection:
        assert (
            connection.execute(
                "select count(*) as n from projections where token_hash = %s", (newer["token"],)
            ).fetchone()["n"]
            == 0
        )
        connection.execute("update projections set expires_at = now() - interval '1 minute'")
    assert wall(app, newer["token"]).status_code == 404 and teacher.get("/projections").json["projection"] is None


def test_nobody_else_turns_it_and_it_is_taken_down(app, teacher, stranger):
    made = teacher.post("/projections", BENCH).json
    assert turn(stranger, made, "look", ["answer"]).status_code == 404
    bad = turn(teacher, made, "look", ["everything"])
    assert bad.status_code == 422 and bad.json["error"]["field"] == "shown"
    assert turn(teacher, made, "confirm", ["tests"], test="tea_leaves").status_code == 422
    assert teacher.get("/projections").json["projection"]["step"] == "look"
    teacher.delete("/projections")
    assert wall(app, made["token"]).status_code == 404


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"faults": [{"id": "dirty_condenser", "severity": 25}], "outdoor_db_f": 115}, "faults"),
        ({"given_readings": ["aura"]}, "given_readings"),
        ({"instruments": "spoon"}, "instruments"),
        ({"practice": "hearsay"}, "practice"),
    ],
)
def test_what_cannot_be_put_up_is_named(teacher, change, field):
    reply = teacher.post("/projections", BENCH | change)
    assert reply.status_code == 422 and reply.json["error"]["field"] == field


def test_a_trend_and_a_story_are_answered(teacher):
    found = teacher.post("/bench/trend", BENCH | {"over": "undercharge"}).json
    assert found["shows"] and len(found["series"]) == 12 and found["now"] == 80
    assert teacher.post("/bench/trend", BENCH | {"over": "box_f"}).json["error"]["field"] == "over"
    one, two = (teacher.post("/bench/story", BENCH | {"turn": n}).json for n in (0, 0))
    assert one == two and one["complaint"] and one != teacher.post("/bench/story", BENCH | {"turn": 2}).json


def test_the_picture_gets_loop_places_and_saturations(teacher):
    found = teacher.post("/bench", BENCH).json
    assert len(found["loop"]["now"]) == 7 and found["dials"][0]["saturation"].endswith("dew")
    assert 0.5 < found["fill"]["condenser_air"] < 0.7 and found["fill"]["evaporator_air"] == pytest.approx(1, abs=0.01)
    places = {f["id"]: f["place"] for f in teacher.get("/catalogue").json["faults"]}
    assert places["undercharge"] == "charge" and all(place for fault, place in places.items() if fault != "none")


def test_frames_show_the_circuit_on_its_way(teacher):
    body = BENCH | {"steps": [{"do": "remove", "arguments": {"oz": 20}}, {"do": "settle"}], "frames": True}
    found = teacher.post("/act", body).json
    assert (
        2 < len(found["frames"]) <= 61
        and found["frames"][0]["needles"]["high"] != found["frames"][-1]["needles"]["high"]
    )
    assert found["frames"][-1]["fill"]["evaporator_boiling"] < found["frames"][0]["fill"]["evaporator_boiling"]
    assert teacher.post("/act", body | {"frames": False}).json["frames"] == []


def test_reference_pages_answer_an_apprentice_as_well_but_not_the_encyclopaedia(pupil, teacher):
    assert pupil.get("/reference/pt/R-410A/convert?pressure=118").json["dew"] == pytest.approx(40, abs=0.5)
    assert pupil.get("/reference/pt/R-410A/convert?pressure=118&temperature=3").status_code == 422
    assert pupil.get("/reference/pt/R-999").status_code == 422
    assert len(pupil.get("/reference/pt/R-407C?units=si").json["rows"]) > 80
    assert pupil.get("/reference/superheat?return_wb=70&outdoor_db=83").json["formula"] == 23.5
    assert pupil.get("/reference/faults/undercharge").status_code == 403
    assert teacher.get("/reference/faults/undercharge?units=si").json["rows"][0]["unit"] == "K"
    assert teacher.get("/reference/faults/undercharge?machine=toaster").status_code == 422


@pytest.mark.parametrize(
    "path",
    [
        "/reference/pt/R-410A/chart.pdf",
        "/reference/pt/R-22/chart.pdf?units=si",
        "/reference/pt/R-448A/chart.pdf",
        "/reference/superheat/chart.pdf",
        "/reference/superheat/chart.pdf?by=chart&units=si",
    ],
)
def test_a_chart_prints_on_one_page(pupil, path):
    reply = pupil.get(path)
    assert reply.status_code == 200 and reply.data.startswith(b"%PDF")
    said = subprocess.run(["pdfinfo", "-"], input=reply.data, capture_output=True).stdout.decode()
    assert "Pages:           1\n" in said
    text = subprocess.run(["pdftotext", "-layout", "-", "-"], input=reply.data, capture_output=True).stdout.decode()
    assert "licensed practice" in text and ("bubble" in text) == (not ("R-22" in path or "superheat" in path))


def test_a_client_is_not_confused_by_a_token_of_another_kind(app):
    assert Client(app).get("/projected").status_code == 404
