"""Log-in budgets: a delay that grows, no lock that somebody else can put on a name, few hashes at once."""

import math
import threading

import pytest

from tests.server.conftest import database_of
from wolfsbane.server.core import security
from wolfsbane.server.core.budgets import Failures, wait_s, waits
from wolfsbane.server.core.errors import ApiError

NONE = {f"{n}{a}": v for n in ("pair", "place", "everywhere") for a, v in (("", 0), ("_age", None))}


def test_the_first_failures_are_free_and_each_one_more_doubles_the_wait():
    assert [wait_s(Failures(count=n, age_s=0.0), 3) for n in range(7)] == [0, 0, 0, 4, 8, 16, 32]
    assert wait_s(Failures(count=500, age_s=0.0), 3) == 900.0
    assert wait_s(Failures(count=5, age_s=10.0), 3) == 6.0 and wait_s(Failures(count=5, age_s=60.0), 3) == 0.0
    assert wait_s(Failures(), 3) == 0.0 and Failures().age_s == math.inf


def test_a_known_browser_waits_for_its_own_failures_alone():
    crowd = NONE | {"place": 900, "place_age": 0.0, "everywhere": 900, "everywhere_age": 0.0}
    assert waits(crowd, 3, known=False) == 900.0 and waits(crowd, 3, known=True) == 0.0
    assert waits(crowd | {"pair": 4, "pair_age": 1.0}, 3, known=True) == 7.0
    assert waits(NONE, 3, known=False) == 0.0


class Browser:
    """A browser at an address, with its cookies."""

    def __init__(self, app, address):
        self.client, self.address = app.test_client(), address

    def log_in(self, password, login="teacher"):
        place = {"REMOTE_ADDR": self.address}
        csrf = self.client.get("/api/v1/session", environ_base=place).json["csrf"]
        body = {"login": login, "password": password}
        return self.client.post("/api/v1/session", json=body, headers={"X-CSRF-Token": csrf}, environ_base=place)


def later(app, seconds):
    with database_of(app).transaction() as connection:
        connection.execute("update login_attempts set at = at - make_interval(secs => %s)", (seconds,))


def test_whoever_guesses_waits_ever_longer_and_is_told_how_long(app):
    guesser = Browser(app, "10.0.0.1")
    assert [guesser.log_in("wrong").status_code for _ in range(3)] == [401, 401, 401]
    refused = guesser.log_in("right")
    assert refused.status_code == 429 and 1 <= int(refused.headers["Retry-After"]) <= 4
    assert "try again in" in refused.json["error"]["message"]
    later(app, 5)
    assert guesser.log_in("wrong").status_code == 401
    assert 5 <= int(guesser.log_in("right").headers["Retry-After"]) <= 8
    later(app, 9)
    assert guesser.log_in("right").status_code == 200
    assert guesser.log_in("wrong").status_code == 401, "a success begins anew"


def test_nobody_keeps_an_owner_out_from_elsewhere(app):
    attacker, owner = Browser(app, "10.0.0.66"), Browser(app, "10.0.0.2")
    for _ in range(8):
        attacker.log_in("wrong")
        later(app, 0)
    assert attacker.log_in("right").status_code == 429
    assert owner.log_in("right").status_code == 200


def test_not_even_from_the_same_address_where_the_browser_is_known(app):
    owner, attacker = Browser(app, "10.0.0.3"), Browser(app, "10.0.0.3")
    assert owner.log_in("right").status_code == 200
    for _ in range(6):
        attacker.log_in("wrong")
    assert attacker.log_in("right").status_code == 429
    assert owner.log_in("right").status_code == 200
    # and a stolen or invented token opens nothing by itself
    attacker.client.set_cookie(security.DEVICE_COOKIE, "invented")
    assert attacker.log_in("right").status_code == 429


def test_a_known_browser_of_one_is_none_for_another(app):
    shared = Browser(app, "10.0.0.4")
    assert shared.log_in("right", "pupil").status_code == 200
    assert [shared.log_in("wrong").status_code for _ in range(4)] == [401, 401, 401, 429]


def test_an_address_that_tries_many_names_waits_too(app):
    sprayer = Browser(app, "10.0.0.5")
    found = [sprayer.log_in("wrong", f"name-{i}").status_code for i in range(40)]
    assert found[:36] == [401] * 36 and set(found[36:]) == {429}
    assert Browser(app, "10.0.0.6").log_in("right").status_code == 200


def test_a_name_that_is_guessed_from_everywhere_waits_for_strangers_only(app):
    owner = Browser(app, "10.0.1.1")
    assert owner.log_in("right").status_code == 200
    for i in range(18):
        Browser(app, f"10.0.2.{i}").log_in("wrong")
    assert Browser(app, "10.0.3.1").log_in("right").status_code == 429
    assert owner.log_in("right").status_code == 200


def test_a_name_that_does_not_exist_waits_just_the_same(app):
    for login in ("teacher", "nobody-here"):
        guesser = Browser(app, "10.0.4.1")
        found = [guesser.log_in("wrong", login) for _ in range(4)]
        assert [r.status_code for r in found] == [401, 401, 401, 429]
        assert found[0].json["error"]["message"] == "name and password do not match; try again, with your school"


def test_few_passwords_are_hashed_at_once_and_whoever_waits_too_long_is_told(monkeypatch):
    begun, go, now, most = threading.Semaphore(0), threading.Event(), [], []

    class Slow:
        def hash(self, password):
            return f"$argon2:{password}"

        def verify(self, stored, password):
            now.append(1)
            most.append(len(now))
            begun.release()
            go.wait(60)
            now.pop()
            return True

    monkeypatch.setattr(security, "_hasher", Slow())
    monkeypatch.setattr(security, "_HASH_WAIT_S", 0.0)
    threads = [threading.Thread(target=security.password_fits, args=("$argon2", "y")) for _ in range(security._HASHES)]
    for one in threads:
        one.start()
    for _ in threads:
        begun.acquire(timeout=60)
    with pytest.raises(ApiError) as error:
        security.password_fits("$argon2", "y")
    assert (error.value.status, error.value.code, error.value.retry_after) == (503, "busy", 5)
    go.set()
    for one in threads:
        one.join(60)
    assert max(most) == security._HASHES and security.password_fits("$argon2", "y")
