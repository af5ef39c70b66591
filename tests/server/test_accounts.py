"""Accounts: one-time codes, passwords of one's own, the second factor, places, log-ins by school, and the trail."""

import threading

import pyotp
import pytest

from tests.server.conftest import HASH, Client
from wolfsbane.server.core import one_time
from wolfsbane.server.core.current import database_of
from wolfsbane.server.core.db.database import ConflictError, queries
from wolfsbane.server.run import accounts
from wolfsbane.server.services.log_ins import log_in_of

OWN = "tanager-pleat-7"


def trail(teacher):
    return [row["did"] for row in teacher.get("/school/trail").json["rows"]]


def added(teacher, login="second", role="assistant", **more):
    return teacher.post("/accounts", {"login": login, "name": "Second Pair", "role": role, **more})


def welcome(app, code, password=OWN):
    client = Client(app)
    reply = client.put("/session/welcome", {"code": code, "password": password})
    client.csrf = reply.json.get("csrf", client.csrf)
    return client, reply


@pytest.fixture
def clock(monkeypatch):
    """A clock that stands; ``clock[0]`` is its time, s."""
    time = [1_800_000_000.0]
    monkeypatch.setattr(one_time.time, "time", lambda: time[0])
    return time


def test_an_invitation_lets_in_once_and_only_its_owner_knows_the_password(app, teacher, nobody):
    made = added(teacher).json
    assert made["code"] and made["code_until"] and "code" not in teacher.get("/accounts").json["accounts"][0]
    typed = made["code"].lower().replace("-", " ").replace("0", "o")
    seen = nobody.post("/session/welcome", {"code": typed}).json
    assert seen == {"login": "second", "name": "Second Pair", "school": "Test School"}
    easy = nobody.put("/session/welcome", {"code": typed, "password": "1234567890"})
    assert easy.json["error"]["field"] == "password"
    second, entered = welcome(app, typed)
    assert entered.status_code == 200 and second.get("/sheets").status_code == 200
    for call in (nobody.post, nobody.put):
        body = {"code": typed} | ({"password": OWN} if call == nobody.put else {})
        assert call("/session/welcome", body).status_code == 404
    assert Client(app).log_in("second", OWN).status_code == 200
    assert "added Second Pair (second, assistant) by invitation" in trail(teacher)


def test_a_code_counts_once_also_when_it_is_used_twice_in_one_moment(app, teacher):
    code = added(teacher).json["code"]
    found, meet = [], threading.Barrier(2)

    def use():
        client = Client(app)
        meet.wait(60)
        found.append(client.put("/session/welcome", {"code": code, "password": OWN}).status_code)

    threads = [threading.Thread(target=use) for _ in range(2)]
    for one in threads:
        one.start()
    for one in threads:
        one.join(120)
    assert sorted(found) == [200, 404]


def test_a_given_password_opens_nothing_before_another_is_chosen(app, teacher):
    added(teacher, password="given-by-somebody")
    second = Client(app)
    assert second.log_in("second", "given-by-somebody").json["user"]["must_change"] is True
    refused = second.get("/sheets")
    assert (refused.status_code, refused.json["error"]["code"]) == (403, "change_password")
    same = second.put("/session/password", {"old": "given-by-somebody", "password": "given-by-somebody"})
    assert same.status_code == 422
    second = Client(app).choose("second", "given-by-somebody", OWN)
    assert second.get("/sheets").status_code == 200
    row = next(a for a in teacher.get("/accounts").json["accounts"] if a["login"] == "second")
    changed = teacher.put(
        f"/accounts/{row['id']}", {"name": "Second Pair", "role": "assistant", "password": "given-once-more"}
    )
    assert changed.status_code == 200 and second.get("/sheets").status_code == 401
    assert Client(app).log_in("second", "given-once-more").json["user"]["must_change"] is True
    me = next(a for a in teacher.get("/accounts").json["accounts"] if a["login"] == "teacher")
    own = {"name": "Teacher", "role": "instructor", "password": OWN}
    assert teacher.put(f"/accounts/{me['id']}", own).json["error"]["code"] == "own_password"


def test_a_reset_voids_what_was_known_and_ends_every_session(app, teacher):
    second, _ = welcome(app, added(teacher).json["code"])
    row = next(a for a in teacher.get("/accounts").json["accounts"] if a["login"] == "second")
    code = teacher.post(f"/accounts/{row['id']}/code", {}).json["code"]
    assert second.get("/sheets").status_code == 401
    assert Client(app).log_in("second", OWN).status_code == 401
    again = teacher.post(f"/accounts/{row['id']}/code", {}).json["code"]
    assert welcome(app, code)[1].status_code == 404, "the code before ended"
    assert welcome(app, again, "harbor-violin-3")[1].status_code == 200
    assert Client(app).log_in("second", "harbor-violin-3").status_code == 200
    with database_of(app).transaction() as connection:
        connection.execute("update account_codes set expires_at = now() - interval '1 minute'")
    third = teacher.post(f"/accounts/{row['id']}/code", {}).json["code"]
    with database_of(app).transaction() as connection:
        connection.execute("update account_codes set expires_at = now() - interval '1 minute'")
    assert welcome(app, third)[1].status_code == 404, "too old"


def test_codes_are_guessed_at_a_price(app, nobody):
    found = [nobody.post("/session/welcome", {"code": f"AAAA-AAAA-{i:04}"}) for i in range(4)]
    assert [r.status_code for r in found] == [404, 404, 404, 429] and found[3].headers["Retry-After"]


def test_who_guesses_codes_keeps_nobody_else_out(app, teacher):
    code = added(teacher).json["code"]
    for address in range(30):
        other = Client(app)
        other._client.environ_base["REMOTE_ADDR"] = f"10.1.0.{address}"
        for number in range(4):
            other.post("/session/welcome", {"code": f"AAAA-AAAA-{number:04}"})
    assert welcome(app, code)[1].status_code == 200


def test_the_second_factor_is_asked_for_taken_once_and_recovered(app, teacher, clock):
    assert teacher.post("/session/second-factor", {"password": "wrong"}).status_code == 422
    offered = teacher.post("/session/second-factor", {"password": "right"}).json
    assert offered["address"].startswith("otpauth://totp/") and offered["picture"].startswith("data:image/svg")
    totp = pyotp.TOTP(offered["secret"])
    assert teacher.put("/session/second-factor", {"code": "000000"}).json["error"]["field"] == "code"
    assert Client(app).log_in("teacher", "right").status_code == 200, "not yet"
    codes = teacher.put("/session/second-factor", {"code": totp.at(clock[0])}).json["codes"]
    assert len(set(codes)) == 8

    def enters(code="", password="right"):
        reply = Client(app).log_in("teacher", password, code=code)
        return reply.status_code, reply.json.get("error", {}).get("code")

    assert enters() == (401, "code_needed") and enters(password="wrong") == (401, "wrong_login")
    assert enters(totp.at(clock[0])) == (401, "wrong_code"), "it was taken when it was turned on"
    clock[0] += 30
    assert enters(totp.at(clock[0])) == (200, None)
    assert enters(totp.at(clock[0])) == (401, "wrong_code"), "each is taken once"
    assert enters(totp.at(clock[0] - 30)) == (401, "wrong_code"), "nor one before it"
    assert enters(codes[0].lower()) == (200, None) and enters(codes[0]) == (401, "wrong_code")
    assert teacher.post("/session/second-factor/off", {"password": "wrong"}).status_code == 422
    assert teacher.post("/session/second-factor/off", {"password": "right"}).json["user"]["totp"] is False
    assert enters() == (200, None) and enters(codes[1]) == (200, None)
    assert {"turned their second factor on", "turned their second factor off"} <= set(trail(teacher))


def test_wrong_codes_cost_as_wrong_passwords_do(app, teacher, clock):
    secret = teacher.post("/session/second-factor", {"password": "right"}).json["secret"]
    teacher.put("/session/second-factor", {"code": pyotp.TOTP(secret).at(clock[0])})
    guesser = Client(app)
    found = [guesser.log_in("teacher", "right", code=f"{i:06}").status_code for i in range(4)]
    assert found == [401, 401, 401, 429]


def test_codes_by_time_are_those_of_the_standard():
    # RFC 6238, appendix B, SHA-1: the last six digits of the codes it prints
    secret = "GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ"
    for at, code in ((59, "287082"), (1111111109, "081804"), (2000000000, "279037")):
        assert one_time.counter_of(secret, code, at) == at // 30
        assert one_time.counter_of(secret, code, at + 61) is None


def test_places_are_listed_and_ended_and_left_alone_ones_end(app, teacher):
    elsewhere = Client(app, "teacher")
    places = teacher.get("/session/places").json["places"]
    assert [p["here"] for p in places].count(True) == 1 and len(places) == 2
    other = next(p["id"] for p in places if not p["here"])
    assert teacher.delete("/session/places/99999").status_code == 404
    assert len(teacher.delete(f"/session/places/{other}").json["places"]) == 1
    assert elsewhere.get("/sheets").status_code == 401 and teacher.get("/sheets").status_code == 200
    more = [Client(app, "teacher") for _ in range(2)]
    assert len(teacher.delete("/session/places").json["places"]) == 1
    assert {m.get("/sheets").status_code for m in more} == {401}
    with database_of(app).transaction() as connection:
        connection.execute("update sessions set seen_at = now() - interval '239 minutes'")
    assert teacher.get("/sheets").status_code == 200, "it was used now"
    with database_of(app).transaction() as connection:
        assert connection.execute("select max(now() - seen_at) < interval '1 minute' as now from sessions").fetchone()[
            "now"
        ]
        connection.execute("update sessions set seen_at = now() - interval '241 minutes'")
    assert teacher.get("/sheets").status_code == 401


def test_nobody_ends_or_resets_what_is_not_theirs(app, teacher, helper, stranger):
    theirs = helper.get("/session/places").json["places"][0]["id"]
    assert teacher.delete(f"/session/places/{theirs}").status_code == 404
    row = next(a for a in teacher.get("/accounts").json["accounts"] if a["login"] == "helper")
    for call in (
        lambda: stranger.post(f"/accounts/{row['id']}/code", {}),
        lambda: stranger.delete(f"/accounts/{row['id']}/places"),
    ):
        assert call().status_code == 404
    assert helper.get("/sheets").status_code == 200
    assert teacher.delete(f"/accounts/{row['id']}/places").status_code == 200
    assert helper.get("/sheets").status_code == 401
    assert stranger.get("/school/trail").json["rows"] == []


def test_a_log_in_changes_the_session_and_ends_the_one_before(app, teacher):
    before = teacher._client.get_cookie("wolfsbane_session").value
    teacher.log_in("teacher", "right")
    assert teacher._client.get_cookie("wolfsbane_session").value != before
    teacher._client.set_cookie("wolfsbane_session", before)
    assert teacher.get("/sheets").status_code == 401


def test_two_schools_have_the_same_name_and_are_told_apart(app, nobody):
    db = database_of(app)
    with db.transaction() as connection:
        second = queries.school_by_name(connection, name="Other School")["id"]
        queries.user_add(
            connection, school_id=second, login="teacher", name="Namesake", role="instructor", password_hash=HASH
        )
    assert nobody.get("/session").json["asks_school"] is True
    unsaid = nobody.log_in("teacher", "right")
    assert unsaid.status_code == 401 and "with your school" in unsaid.json["error"]["message"]
    for short, name in (("test-school", "Teacher"), ("Other-School", "Namesake")):
        reply = Client(app).log_in("teacher", "right", school=short)
        assert (
            reply.json["user"]["name"] == name
            and reply.json["user"]["school"].lower().replace(" ", "-") == short.lower()
        )
    assert Client(app).log_in("teacher", "right", school="no-such").status_code == 401
    with pytest.raises(ConflictError), db.transaction() as connection:
        queries.user_add(connection, school_id=second, login="teacher", name="x", role="apprentice", password_hash=HASH)


def test_a_class_gets_its_log_ins_in_one_go(app, teacher):
    body = {"name": "Firsts", "apprentices": ["Zoë Ångström", "Zoe Angstrom", "Bo", "李 雷"]}
    made = teacher.post("/classes", body).json
    slips = teacher.post(f"/classes/{made['id']}/log-ins", {}).json["slips"]
    assert [s["login"] for s in slips] == ["zoe.angstrom", "zoe.angstrom2", "student.bo", "student"]
    pupil, entered = welcome(app, slips[0]["code"])
    assert entered.json["user"]["role"] == "apprentice" and pupil.get("/mine").status_code == 200
    assert teacher.post(f"/classes/{made['id']}/log-ins", {}).json["slips"] == []
    again = teacher.post(f"/classes/{made['id']}/log-ins", {"apprentice_ids": [made["people"][0]["id"]]}).json["slips"]
    assert [s["login"] for s in again] == ["zoe.angstrom"] and pupil.get("/mine").status_code == 401
    wrong = teacher.post(f"/classes/{made['id']}/log-ins", {"apprentice_ids": [999]})
    assert wrong.json["error"]["field"] == "apprentice_ids"
    assert not any("ngstr" in did for did in trail(teacher)), "apprentices are written of by number"
    teacher.delete(f"/apprentices/{made['people'][0]['id']}")
    assert f"erased apprentice {made['people'][0]['id']}" in trail(teacher)


@pytest.mark.parametrize(
    ("name", "taken", "login"),
    [("Ada Quill", (), "ada.quill"), ("Ada Quill", {"ada.quill"}, "ada.quill2"), ("O'Neil-Hart", (), "o.neil.hart")],
)
def test_a_log_in_is_made_of_a_name(name, taken, login):
    assert log_in_of(name, taken) == login


def test_the_trail_says_what_was_done_and_stays(app, teacher):
    class_id = teacher.post("/classes", {"name": "Firsts", "apprentices": ["Ada Quill"]}).json["id"]
    teacher.put(f"/classes/{class_id}", {"name": "Firsts", "archived": True})
    teacher.get("/school/export.zip")
    made = added(teacher, password="given-by-somebody").json
    teacher.put(f"/accounts/{made['id']}", {"name": "Second Pair", "role": "instructor", "disabled": True})
    found = trail(teacher)
    assert found[:5] == [
        "changed Second Pair (second, instructor): role now instructor, switched off",
        "added Second Pair (second, assistant)",
        "exported the whole school",
        "archived the class Firsts",
        "added the class Firsts with 1 in it",
    ]
    rows = teacher.get("/school/trail").json["rows"]
    assert {r["writer"] for r in rows} == {"Teacher"}
    assert [r["did"] for r in teacher.get(f"/school/trail?before={rows[1]['id']}").json["rows"]] == found[2:]
    with database_of(app).transaction() as connection:
        for change in ("update school_trail set did = 'x'", "delete from school_trail"):
            with pytest.raises(Exception, match="never change"), connection.transaction():
                connection.execute(change)


def test_the_operator_lets_the_last_instructor_back_in(app, db, teacher):
    def done(*words):
        with db.transaction() as connection:
            return list(accounts.done(connection, *words))

    assert any("teacher" in line and "test-school" in line for line in done("list", "", ""))
    said = done("code", "", "teacher")
    assert teacher.get("/sheets").status_code == 401
    back, entered = welcome(app, said[0].rpartition(": ")[2])
    assert entered.status_code == 200 and "gave Teacher (teacher, instructor) a one-time code" in trail(back)[1]
    assert done("log-out", "test-school", "teacher") and back.get("/sheets").status_code == 401
    with pytest.raises(accounts.BadInputError, match="a log-in of somebody"):
        done("code", "", "nobody-here")


def test_the_operators_command_says_what_is_missing(capsys):
    assert accounts.run(["code"]) == 2 and "login" in capsys.readouterr().err
