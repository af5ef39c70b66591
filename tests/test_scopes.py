"""How tests are dealt out to workers: what shares something expensive stays together."""

import pytest

from tests.conftest import APART, FIRST, ROOT, scope_of


@pytest.mark.parametrize(
    ("nodeid", "scope"),
    [
        ("tests/browser/test_bench.py::test_a[chromium]", "tests/browser"),
        ("tests/browser/test_journey.py::test_b", "tests/browser"),
        ("tests/server/test_api.py::test_c[1-2]", "tests/server/test_api.py"),
        ("tests/exercise/test_variant.py::test_d[us]", "tests/exercise/test_variant.py::test_d[us]"),
    ],
)
def test_a_scope_is_a_module_the_browser_or_a_test_of_its_own(nodeid, scope):
    assert scope_of(nodeid) == scope


def test_what_is_named_for_the_order_is_there():
    assert all((ROOT / name).exists() for name in (*FIRST, *APART))


@pytest.mark.parametrize("name", APART)
def test_what_stands_apart_shares_no_fixture_of_its_module(name):
    assert 'scope="module"' not in (ROOT / name).read_text()
