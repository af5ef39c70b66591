"""Learning platforms (LTI 1.3, names and roles, points) against one that ships with the tests. Field names and flow are
from memory of the published specifications: LTI Core 1.3, Security Framework 1.0, NRPS 2.0, AGS 2.0.
"""

import time
import urllib.parse

import pytest

from tests.server.conftest import Client, as_key
from tests.server.platform_stand_in import CLAIM, CLIENT, MEMBERSHIP, Answer, LearningPlatform
from wolfsbane.server.core import lti
from wolfsbane.server.core.current import database_of
from wolfsbane.server.core.outside import OutsideError, is_safe
from wolfsbane.server.services import platforms


@pytest.fixture
def platform():
    server = LearningPlatform(("127.0.0.1", 0), Answer).begin()
    yield server
    server.shutdown()
    server.server_close()


@pytest.fixture
def entered(teacher, platform):
    reply = teacher.post("/lti/platforms", platform.entered())
    assert reply.status_code == 201, reply.json
    platform.tool_keys = teacher.get("/lti/keys").json
    return reply.json["platforms"][-1]


def begun(client, platform, **changes):
    """What a platform is asked when it begins a launch, and where; in ``client``'s browser."""
    form = {"iss": platform.issuer, "client_id": CLIENT, "login_hint": "h", "lti_message_hint": "m", **changes}
    out = client._client.get(f"/api/v1/lti/start?{urllib.parse.urlencode(form)}").headers["Location"]
    return out, dict(urllib.parse.parse_qsl(urllib.parse.urlsplit(out).query))


def came(client, platform, subject, target="http://localhost/", **changes):
    """Where a launch ends."""
    _, asked = begun(client, platform)
    return answered(client, {"state": asked["state"], "id_token": platform.launch(subject, asked, target), **changes})


def answered(client, form):
    out = client._client.post("/api/v1/lti/launch", data=form)
    if out.status_code == 303:
        assert out.headers["Location"] == "/api/v1/lti/in"
        out = client._client.get("/api/v1/lti/in")
    return out.headers["Location"]


def who(client):
    reply = client.get("/session").json
    client.csrf = reply["csrf"]
    return reply["user"] and reply["user"]["name"]


@pytest.fixture
def course(app, teacher, platform, entered):
    """A course that the teacher joined with a new class: its row."""
    assert came(teacher, platform, "u-1") == "/platform/join"
    assert teacher.get("/lti/waiting").json == {"platform": "Harrow courses", "course": "HVAC 201", "name": "Ada Quill"}
    course_id = teacher.post("/lti/join", {}).json["course_id"]
    reply = teacher.put(f"/lti/courses/{course_id}", {"new": True})
    assert reply.status_code == 200, reply.json
    return reply.json["courses"][0]


def test_a_launch_is_asked_for_in_the_form_of_the_standard(entered, platform, nobody):
    where, asked = begun(nobody, platform)
    assert where.startswith(f"{platform.issuer}/login?") and asked["client_id"] == CLIENT
    assert {k: asked[k] for k in ("scope", "response_type", "response_mode", "prompt")} == {
        "scope": "openid",
        "response_type": "id_token",
        "response_mode": "form_post",
        "prompt": "none",
    }
    assert (asked["login_hint"], asked["lti_message_hint"]) == ("h", "m")
    assert asked["redirect_uri"].endswith("/api/v1/lti/launch")
    assert begun(nobody, platform)[1]["nonce"] != asked["nonce"]
    assert begun(nobody, platform, client_id="")[1]["client_id"] == CLIENT, "the platform need not say our name"
    assert begun(nobody, platform, iss="https://elsewhere.example")[0] == "/#lti_unknown"
    posted = nobody._client.post("/api/v1/lti/start", data={"iss": platform.issuer, "login_hint": "h"})
    assert posted.headers["Location"].startswith(f"{platform.issuer}/login?")


def test_a_course_becomes_a_class_and_its_people_get_in(app, teacher, platform, course):
    assert course["class_name"] == "HVAC 201" and course["lists_names"] and course["takes_points"]
    bo = Client(app)
    assert came(bo, platform, "u-2", "http://localhost/mine") == "/mine" and who(bo) == "Bo Fenn"
    assert bo.get("/session").json["user"]["role"] == "apprentice" and bo.get("/classes").status_code == 403
    assert came(Client(app), platform, "u-2", "https://elsewhere.example/x") == "/", "no page of ours"
    done = teacher.post(f"/lti/courses/{course['id']}/names", {})
    assert done.json == {"added": 1, "there": 1, "left": 0}
    people = teacher.get(f"/classes/{course['class_id']}").json["people"]
    assert [(p["name"], p["number"]) for p in people] == [("Bo Fenn", "4711"), ("Cy Thorne", "")]
    ada = Client(app)
    assert came(ada, platform, "u-1") == f"/platforms?course={course['id']}" and who(ada) == who(teacher)
    trail = str(teacher.get("/school/trail").json)
    assert "entered the learning platform Harrow courses" in trail and "Bo Fenn" not in trail


def test_who_is_no_longer_in_the_course_has_left_and_is_kept(app, teacher, platform, course):
    teacher.post(f"/lti/courses/{course['id']}/names", {})
    del platform.people["u-3"]
    platform.people["u-5"] = {"name": "Eve Ridd", "role": "Learner"}
    assert teacher.post(f"/lti/courses/{course['id']}/names", {}).json == {"added": 1, "there": 1, "left": 1}
    people = teacher.get(f"/classes/{course['class_id']}").json["people"]
    assert {p["name"]: p["gone"] for p in people} == {"Bo Fenn": False, "Cy Thorne": True, "Eve Ridd": False}
    platform.people["u-3"] = {"name": "Cy Thorne", "role": "Learner"}
    cy = Client(app)
    assert came(cy, platform, "u-3") == "/#lti_left" and who(cy) is None


def test_who_is_in_the_class_already_is_the_same_person(app, teacher, platform, course):
    lines = "Bo Q. Fenn;4711\nCy Thorne;\nDot Marl;"
    made = teacher.post("/classes", {"name": "By hand"}).json["id"]
    for name, number in (line.split(";") for line in lines.splitlines()):
        reply = teacher.post(f"/classes/{made}/apprentices", {"people": [{"name": name, "number": number}]})
        assert reply.status_code in (200, 201), reply.json
    teacher.put(f"/lti/courses/{course['id']}", {"class_id": made})
    assert teacher.post(f"/lti/courses/{course['id']}/names", {}).json == {"added": 0, "there": 2, "left": 0}


def test_before_a_course_is_a_class_nobody_gets_in(app, teacher, platform, entered):
    bo = Client(app)
    assert came(bo, platform, "u-2") == "/#lti_no_class" and who(bo) is None
    assert came(teacher, platform, "u-1") == "/platform/join"
    course_id = teacher.post("/lti/join", {}).json["course_id"]
    assert teacher.post(f"/lti/courses/{course_id}/names", {}).status_code == 409
    assert teacher.post("/lti/join", {}).status_code == 400, "a launch is linked once"


def test_an_apprentice_links_no_account(app, teacher, platform, course, pupil):
    _, asked = begun(teacher, platform)
    form = {"state": asked["state"], "id_token": platform.launch("u-2", asked)}
    assert teacher._client.post("/api/v1/lti/launch", data=form).status_code == 303
    assert teacher.post("/lti/join", {}).status_code == 403


SPOILED = {
    "late": lambda: {"exp": int(time.time()) - 120},
    "kept too long": lambda: {"iat": int(time.time()) - 3600},
    "early": lambda: {"nbf": int(time.time()) + 3600},
    "for somebody else": lambda: {"aud": "another"},
    "for several": lambda: {"aud": [CLIENT, "another"]},
    "of somebody else": lambda: {"iss": "http://127.0.0.1:1"},
    "of another launch": lambda: {"nonce": "x"},
    "of nobody": lambda: {"sub": None},
    "of another version": lambda: {f"{CLAIM}version": "1.1"},
    "of another kind": lambda: {f"{CLAIM}message_type": "LtiDeepLinkingRequest"},
    "of no course": lambda: {f"{CLAIM}context": {}},
    "of a deployment nobody entered": lambda: {f"{CLAIM}deployment_id": "d-2"},
    "without a role": lambda: {f"{CLAIM}roles": []},
    "with roles that are none": lambda: {f"{CLAIM}roles": {"a": 1}},
    "of a guest": lambda: {f"{CLAIM}roles": [f"{MEMBERSHIP}Mentor"]},
}


@pytest.mark.parametrize("how", SPOILED)
def test_a_launch_that_does_not_hold_opens_nothing(app, platform, course, how):
    platform.spoil = SPOILED[how]
    bo = Client(app)
    assert came(bo, platform, "u-2").startswith("/#") and who(bo) is None


@pytest.mark.parametrize("signed", ["none", "HS256"])
def test_a_launch_that_no_key_of_theirs_signed_opens_nothing(app, platform, course, signed):
    platform.signed = signed
    bo = Client(app)
    assert came(bo, platform, "u-2") == "/#provider" and who(bo) is None


def test_a_launch_counts_once_and_in_the_browser_that_began(app, platform, course):
    bo, thief = Client(app), Client(app)
    _, asked = begun(bo, platform)
    form = {"state": asked["state"], "id_token": platform.launch("u-2", asked)}
    assert thief._client.post("/api/v1/lti/launch", data=form).status_code == 303
    assert thief._client.get("/api/v1/lti/in").headers["Location"] == "/#lti_stale" and who(thief) is None
    assert answered(bo, form) == "/#lti_stale", "answered once already"
    assert bo._client.get("/api/v1/lti/in").headers["Location"] == "/" and who(bo) == "Bo Fenn"
    assert bo._client.get("/api/v1/lti/in").headers["Location"] == "/#lti_stale"
    assert came(thief, platform, "u-2", error="access_denied") == "/#lti"


def test_keys_of_both_sides_rotate(app, teacher, platform, course):
    platform.key = 1
    bo = Client(app)
    assert came(bo, platform, "u-2") == "/#provider", "a key that is not published"
    platform.published = [0, 1]
    assert came(bo, platform, "u-2") == "/" and who(bo) == "Bo Fenn"
    (first,) = platform.tool_keys["keys"]
    assert "d" not in first and first["kty"] == "RSA"
    with database_of(app).transaction() as connection:
        connection.execute("update tool_keys set created_at = now() - interval '91 days'")
    both = teacher.get("/lti/keys").json["keys"]
    assert len(both) == 2 and both[1] == first
    assert teacher.post(f"/lti/courses/{course['id']}/names", {}).status_code == 400, "theirs do not know it yet"
    platform.tool_keys = {"keys": both}
    assert teacher.post(f"/lti/courses/{course['id']}/names", {}).status_code == 200
    with database_of(app).transaction() as connection:
        connection.execute("update tool_keys set created_at = created_at - interval '91 days'")
    kept = teacher.get("/lti/keys").json["keys"]
    assert first not in kept and len(kept) == 2


def test_a_list_that_goes_on_at_another_server_is_not_followed(teacher, platform, course):
    platform.next_host = "http://127.0.0.1:1"
    reply = teacher.post(f"/lti/courses/{course['id']}/names", {})
    assert reply.status_code == 400 and "another server" in reply.json["error"]["message"]
    assert teacher.get(f"/classes/{course['class_id']}").json["people"] == []


def test_points_go_back_and_what_could_not_be_sent_is_said(app, teacher, platform, course, sheet):
    class_id = sheet["class_id"]
    teacher.put(f"/lti/courses/{course['id']}", {"class_id": class_id})
    people = teacher.get(f"/classes/{class_id}").json["people"]
    platform.people = {f"s-{n}": {"name": p["name"], "role": "Learner"} for n, p in enumerate(people[:2])}
    assert teacher.post(f"/lti/courses/{course['id']}/names", {}).json["there"] == 2
    path = f"/sheets/{sheet['id']}/points"
    assert teacher.get(path).json == {"platforms": ["Harrow courses"], "rows": [], "waiting": 0}
    papers = teacher.get(f"/sheets/{sheet['id']}/results").json["rows"]
    for paper in papers:
        for position in (1, 2):
            body = {"call": position, "answers": as_key(app, paper["code"], position)}
            assert teacher.put(f"/papers/{paper['code']}/answers", body).status_code == 200
    assert teacher.post(path, {}).json["waiting"] == len(papers)
    platforms.send(database_of(app), *school_and(app, sheet))
    sent = {r["name"]: r for r in teacher.get(path).json["rows"]}
    assert [bool(sent[p["name"]]["sent_at"]) for p in people] == [True, True, False]
    assert sent[people[2]["name"]]["problem"] == "is not in the platform's course"
    results = {r["name"]: r for r in teacher.get(f"/sheets/{sheet['id']}/results").json["rows"]}
    (item,) = platform.items
    assert (item["label"], item["resourceId"]) == (sheet["title"], f"sheet-{sheet['id']}")
    assert [(s["userId"], s["scoreGiven"], s["scoreMaximum"]) for _, s in platform.scores] == [
        (f"s-{n}", results[p["name"]]["earned"], results[p["name"]]["possible"]) for n, p in enumerate(people[:2])
    ]
    assert all(s["gradingProgress"] == "FullyGraded" for _, s in platform.scores)
    platform.scores.clear()
    teacher.post(path, {})
    platforms.send(database_of(app), *school_and(app, sheet))
    assert platform.scores == [] and len(platform.items) == 1, "what did not change stays sent, in the column it has"


def school_and(app, sheet):
    with database_of(app).transaction() as connection:
        row = connection.execute("select school_id from sheets where id = %s", (sheet["id"],)).fetchone()
    return row["school_id"], sheet["id"]


def test_a_platform_is_of_one_school_and_is_taken_away_whole(app, teacher, platform, course, stranger):
    assert stranger.get("/lti/platforms").json["platforms"] == []
    assert stranger.delete(f"/lti/platforms/{1}").status_code == 404
    assert stranger.put(f"/lti/courses/{course['id']}", {"new": True}).status_code == 404
    assert stranger.post(f"/lti/courses/{course['id']}/names", {}).status_code == 404
    assert came(stranger, platform, "u-1") == f"/platforms?course={course['id']}", "whose platform it is"
    entered = teacher.get("/lti/platforms").json["platforms"][0]["id"]
    assert teacher.delete(f"/lti/platforms/{entered}").json["courses"] == []
    assert begun(teacher, platform)[0] == "/#lti_unknown"
    assert teacher.get(f"/classes/{course['class_id']}").status_code == 200


@pytest.mark.parametrize(
    ("field", "value"),
    [
        ("keys_url", "http://platform.example/keys"),
        ("token_url", "ftp://platform.example"),
        ("login_url", "https://"),
        ("deployments", []),
        ("issuer", "http://[::1"),
        ("client_id", ""),
    ],
)
def test_a_platform_that_could_not_be_asked_is_not_entered(teacher, platform, field, value):
    reply = teacher.post("/lti/platforms", platform.entered() | {field: value})
    assert reply.status_code == 422 and field in reply.json["error"]["field"]
    assert teacher.get("/lti/platforms").json["platforms"] == []


def test_a_column_elsewhere_gets_no_token_of_ours(platform):
    with pytest.raises(OutsideError, match="another server"):
        lti._same_host("https://elsewhere.example/items/1", platform.issuer)
    assert not is_safe("http://[") and not is_safe("")
