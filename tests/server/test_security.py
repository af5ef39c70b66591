"""What a password costs and which will do; the other tests of the server use a cheap one."""

import contextlib
import threading
from concurrent.futures import ThreadPoolExecutor

import pytest
from argon2 import PasswordHasher, extract_parameters
from argon2.low_level import Type

from tests.server.conftest import Client
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.server.core import security
from wolfsbane.server.core.db.database import queries


@pytest.fixture
def real_passwords(cheap_passwords, monkeypatch):
    """The hasher the product uses."""
    monkeypatch.setattr(security, "_hasher", PRODUCT)


PRODUCT = security._hasher


def test_a_password_is_kept_as_argon2id_at_no_less_than_the_library_recommends(real_passwords):
    kept = security.hash_password("correct")
    found, recommended = extract_parameters(kept), extract_parameters(PasswordHasher().hash("x"))
    assert found.type is Type.ID
    assert found.memory_cost >= recommended.memory_cost and found.time_cost >= recommended.time_cost
    assert security.password_fits(kept, "correct") and not security.password_fits(kept, "Correct")
    assert security.hash_password("correct") != kept


def test_a_name_nobody_has_is_checked_as_dearly_as_one_somebody_has(real_passwords):
    assert not security.password_fits(None, "correct")
    assert extract_parameters(security._dummy_hash()) == extract_parameters(security.hash_password("x"))


@pytest.mark.parametrize(
    "password",
    ["1234567890", "password12", "qwertyuiop", "aaaaaaaaaa", "abcdefghij", "mholloway99", "iloveyou12", "Holloway1!"],
)
def test_what_is_tried_first_is_refused_and_not_repeated(password):
    with pytest.raises(BadInputError) as error:
        security.require_hard(password, "mholloway", "Maren Holloway", "Marrow Hill School")
    assert error.value.field == "password" and password not in str(error.value)


@pytest.mark.parametrize(
    "password", ["violet-hood", "paper and ink and string", "q7R!xk92Lm", "x" * 20 + "tanager pleat"]
)
def test_words_that_do_not_belong_together_will_do(password):
    security.require_hard(password, "mholloway", "Maren Holloway", "Marrow Hill School")


def test_ones_own_password_is_changed_by_the_old_one_and_logs_out_everywhere_else(app, teacher):
    elsewhere = Client(app, "teacher")
    wrong = teacher.put("/session/password", {"old": "wrong", "password": "tanager-pleat-7"})
    assert wrong.status_code == 422 and wrong.json["error"]["field"] == "old"
    easy = teacher.put("/session/password", {"old": "right", "password": "1234567890"})
    assert easy.json["error"]["field"] == "password" and "1234567890" not in easy.text
    assert elsewhere.get("/sheets").status_code == 200, "nothing happened yet"
    done = teacher.put("/session/password", {"old": "right", "password": "tanager-pleat-7"})
    teacher.csrf = done.json["csrf"]
    assert done.status_code == 200 and teacher.get("/sheets").status_code == 200
    assert elsewhere.get("/sheets").status_code == 401
    again = Client(app)
    assert again.post("/session", {"login": "teacher", "password": "right"}).status_code == 401
    assert again.post("/session", {"login": "teacher", "password": "tanager-pleat-7"}).status_code == 200


def test_two_instructors_cannot_switch_each_other_off_in_one_moment(app, teacher, monkeypatch):
    body = {"login": "second", "name": "Second", "role": "instructor", "password": "long-enough-1"}
    second_id = teacher.post("/accounts", body).json["id"]
    second = Client(app).choose("second", "long-enough-1", "tanager-pleat-7")
    first_id = next(a["id"] for a in teacher.get("/accounts").json["accounts"] if a["login"] == "teacher")
    meet, put = threading.Barrier(2, timeout=2.0), queries.account_put

    def both_at_once(*given, **more):
        # without a lock both have counted two instructors when they come here
        with contextlib.suppress(threading.BrokenBarrierError):
            meet.wait()
        return put(*given, **more)

    monkeypatch.setattr(queries, "account_put", both_at_once)
    off = {"name": "x", "role": "instructor", "disabled": True}
    calls = [(teacher, second_id), (second, first_id)]
    with ThreadPoolExecutor(2) as threads:
        found = list(threads.map(lambda c: c[0].put(f"/accounts/{c[1]}", off).status_code, calls))
    assert sorted(found)[0] == 200 and sorted(found)[1] in (401, 409), found


def test_a_hash_that_cannot_be_read_lets_nobody_in(real_passwords):
    assert not security.password_fits("not a hash", "correct")
