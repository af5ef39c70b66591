"""What two faults do to one another, as it is known beforehand."""

from dataclasses import replace

import numpy as np
import pytest

from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.diagnosis import crossings
from wolfsbane.diagnosis.solved_cases import crossed, ordinary, solved_cases, solved_crossed


@pytest.mark.parametrize("name", ["split-3t-r410a-txv", "walkin-cooler-r404a-txv", "reachin-r134a-capillary"])
def test_every_pair_of_our_machines_is_known_and_a_few_solved_again_are_the_same(name):
    """After a change of solver, tables or profiles: make chart."""
    machine = MACHINES[name]
    weather = ordinary(machine, rating_conditions(machine))
    pairs = [(p.a.id, p.b.id) for p in solved_cases(machine, weather).pairs]
    assert len(pairs) > 40 and all(crossings.known(machine, weather, a, b) is not None for a, b in pairs)
    for a, b in pairs[:: len(pairs) // 6]:
        again, kept = solved_crossed(machine, weather, a, b), crossings.known(machine, weather, a, b)
        assert np.abs(again - kept).max() < 0.01, (a, b)
        assert crossed(machine, weather, a, b)[1:, 1:] == pytest.approx(kept)
        assert not crossed(machine, weather, a, b)[0].any() and not crossed(machine, weather, a, b)[:, 0].any()


def test_a_machine_of_ones_own_is_solved_even_where_it_bears_a_name_of_ours():
    ours = MACHINES["split-3t-r410a-txv"]
    weather, pair = ordinary(ours, rating_conditions(ours)), ("low_airflow", "leaking_compressor_valves")
    smaller = replace(ours, circuit=ours.circuit._replace(displacement_m3_s=0.9 * ours.circuit.displacement_m3_s))
    assert crossings.known(ours, weather, *pair) is not None and crossings.known(smaller, weather, *pair) is None
    there = crossed(smaller, weather, *pair)[1:, 1:]
    assert there == pytest.approx(solved_crossed(smaller, weather, *pair))
    assert np.abs(there - crossings.known(ours, weather, *pair)).max() > 0.05


def test_what_another_solver_made_counts_for_nothing(monkeypatch):
    monkeypatch.setattr(crossings, "SOLVER_VERSION", "another")
    assert crossings._rows.__wrapped__() == {}


def test_what_is_packed_is_read_back():
    rows = {("a-machine", 95, "undercharge", "low_airflow"): np.arange(72.0).reshape(2, 2, 18)}
    packed = crossings.packed(rows)
    assert packed["keys"].tolist() == ["a-machine/95/undercharge/low_airflow"]
    assert str(packed["made_with"]) == crossings.made_with()
    assert packed["missed"][0] == pytest.approx(np.arange(72.0).reshape(2, 2, 18))
