"""What a password costs; the other tests of the server use a cheap one."""

import pytest
from argon2 import PasswordHasher, extract_parameters
from argon2.low_level import Type

from wolfsbane.server.core import security


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


def test_a_hash_that_cannot_be_read_lets_nobody_in(real_passwords):
    assert not security.password_fits("not a hash", "correct")
