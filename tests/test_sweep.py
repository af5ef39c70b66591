"""The sweep: the same cases for the same seed, every machine in turn, and reports that add up."""

from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.devtools import sweep


def test_a_case_is_the_same_every_time_and_another_under_another_seed():
    for number in (0, 7, 123):
        assert sweep.case(number) == sweep.case(number) != sweep.case(number, seed=2)
        assert sweep.case(number)[0] is list(MACHINES.values())[number % len(MACHINES)]


def test_faults_differ_and_suit_their_machine_and_never_hold_one_valve_at_two_openings():
    for number in range(600):
        machine, _, faults = sweep.case(number)
        ids = [f.id for f in faults]
        assert len(ids) == len(set(ids)) <= 3 and not {"valve_overfeeding", "valve_underfeeding"} <= set(ids)


def test_the_report_adds_up():
    found = sweep.run(110, seed=5)
    assert found["settled"] + sum(found["cut_out"].values()) + len(found["failed"]) == 110
    assert sum(r["cases"] for r in found["per_machine"]) == 110 and len(found["per_machine"]) == len(MACHINES)
    assert max(r["worst_closure"] for r in found["per_machine"]) <= max(found["worst_energy"], found["worst_mass"])


def test_a_case_without_a_balance_is_counted_and_named(monkeypatch):
    def never(machine, weather, faults):
        raise NoConvergenceError({"machine": machine.id, "attempts": 1, "best_residual": 0.5})

    monkeypatch.setattr(sweep, "solve", never)
    found = sweep.run(3)
    assert len(found["failed"]) == 3 and found["failed"][0]["residual"] == 0.5 and found["settled"] == 0


def test_a_state_that_does_not_close_is_counted(monkeypatch):
    from dataclasses import replace

    real = sweep.solve
    monkeypatch.setattr(sweep, "solve", lambda *case: replace(real(*case), energy_residual=0.02, trip=None))
    assert sweep.run(5)["over_limit"] == 5
