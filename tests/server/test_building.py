"""Worker processes that draw and print: what is under way ends with the work that needs it."""

import multiprocessing
import time
from functools import partial

import pytest

from wolfsbane.server.services.building import _WORTH_PROCESSES, _workers


def work(folder, number):
    """The first piece fails at once; the others take long and leave a mark when they are done."""
    if number == 0:
        raise ValueError("no fair variant")
    time.sleep(300)
    (folder / str(number)).touch()


def twice(number):
    return 2 * number


def test_a_refusal_does_not_wait_for_what_is_under_way(tmp_path):
    others = set(multiprocessing.active_children())
    with pytest.raises(ValueError, match="no fair variant"), _workers(2, _WORTH_PROCESSES) as each:
        list(each(partial(work, tmp_path), range(_WORTH_PROCESSES)))
    assert set(multiprocessing.active_children()) <= others and not list(tmp_path.iterdir())


def test_the_order_of_the_pieces_is_kept():
    with _workers(2, _WORTH_PROCESSES) as each:
        assert list(each(twice, range(20))) == [2 * n for n in range(20)]


@pytest.mark.parametrize(("processes", "pieces"), [(1, 100), (4, _WORTH_PROCESSES - 1)])
def test_little_work_is_done_here(processes, pieces):
    with _workers(processes, pieces) as each:
        assert each is map
