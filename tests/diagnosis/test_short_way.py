"""The short ways of the search: what they leave out changes no figure."""

import random

import numpy as np
import pytest
from scipy.optimize import linprog

from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.units import PA_PER_PSI
from wolfsbane.devtools.sweep import random_conditions, random_faults
from wolfsbane.diagnosis.hypotheses import combined
from wolfsbane.diagnosis.least_largest import least_largest
from wolfsbane.diagnosis.reader import reader_of
from wolfsbane.diagnosis.short_way import UnusualError, ground_of
from wolfsbane.diagnosis.solved_cases import solved_cases
from wolfsbane.diagnosis.space import N
from wolfsbane.diagnosis.vectors import faulted_vector, solved, state_of, vector_at

VALVE = MACHINES["split-3t-r410a-txv"]
TWO = MACHINES["package-10t-r410a-two-circuits"]
WRONG_WEIGHT = Fault(id="undercharge", severity=82.0)


def test_the_short_way_shows_what_the_whole_solve_shows():
    """Every profile, any weather, up to three faults; and it cuts out where the whole solve says so."""
    rng, seen, cut = random.Random(40), set(), 0
    for _ in range(900):
        machine = rng.choice(list(MACHINES.values()))
        conditions, faults = random_conditions(machine, rng), random_faults(machine, rng)
        try:
            short = ground_of(machine, conditions).vector(faults)[0]
        except UnusualError:
            continue
        state = solved(machine, conditions, faults)
        assert (short is None) == (state is None), (machine.id, faults)
        if short is None or state is None:
            cut += 1
            continue
        seen.add(machine.id)
        assert np.abs(short - faulted_vector(machine, state, faults)).max() < 1e-9, (machine.id, faults)
    assert len(seen) > 20 and cut > 5


@pytest.mark.parametrize("machine", [VALVE, MACHINES["walkin-cooler-r404a-txv"], MACHINES["reachin-r134a-capillary"]])
def test_a_neighbor_to_begin_from_leads_to_the_same_balance(machine):
    conditions = rating_conditions(machine)
    mild = "undercharge" if not machine.receiver else "dirty_condenser"
    _, start = vector_at(machine, conditions, (Fault(id=mild, severity=90.0),))
    for severity in (85.0, 75.0):
        faults = (Fault(id=mild, severity=severity),)
        near, far = vector_at(machine, conditions, faults, start)[0], vector_at(machine, conditions, faults)[0]
        assert near == pytest.approx(far, abs=2e-4)


@pytest.mark.parametrize(
    ("machine", "faults"),
    [
        (TWO, ()),
        (MACHINES["heatpump-3t-r410a-heating"], ()),
        (VALVE, (Fault(id="valve_hunting", severity=20.0),)),
        (VALVE, (Fault(id="compressor_not_pumping", severity=2.0),)),
    ],
)
def test_what_is_not_of_the_usual_kind_is_left_to_the_whole_solve(machine, faults):
    conditions = rating_conditions(machine)
    with pytest.raises(UnusualError):
        ground_of(machine, conditions).vector(faults)
    state = solved(machine, conditions, faults)
    assert vector_at(machine, conditions, faults)[0] == pytest.approx(faulted_vector(machine, state, faults))


def test_a_fault_the_machine_cannot_have_is_named():
    with pytest.raises(BadInputError, match="orifice_oversized"):
        vector_at(VALVE, rating_conditions(VALVE), (Fault(id="orifice_oversized", severity=120.0),))


def test_causes_that_act_as_their_family_share_one_solved_state():
    conditions = rating_conditions(VALVE)
    leak = state_of(VALVE, conditions, (Fault(id="undercharge", severity=82.0, cause="leak"),))
    assert leak is state_of(VALVE, conditions, (WRONG_WEIGHT,))
    gauge = Fault(id="gauge_not_zeroed", severity=4.0)
    assert state_of(VALVE, conditions, (WRONG_WEIGHT, gauge)) is leak


def test_the_least_largest_miss_is_that_of_the_linear_program():
    """Against HiGHS by scipy.optimize.linprog: the same largest miss to a hundredth, and never beyond the bounds."""
    rng = np.random.default_rng(8)
    for _ in range(150):
        d, n = rng.integers(3, 6), rng.integers(5, 12)
        rates = rng.normal(size=(n, d)) * 10 ** rng.uniform(-1, 1, size=d)
        gap = rng.normal(size=n) * rng.choice([0.3, 3.0, 30.0])
        low, high = -rng.uniform(0.0, 2.0, size=d), rng.uniform(0.0, 2.0, size=d)
        ones = np.ones((n, 1))
        best = linprog(
            np.append(np.zeros(d), 1.0),
            A_ub=np.block([[rates, -ones], [-rates, -ones]]),
            b_ub=np.append(gap, -gap),
            bounds=[*zip(low, high, strict=True), (0.0, None)],
        ).fun
        x = least_largest(rates, gap, low, high)
        assert (x >= low).all() and (x <= high).all()
        assert best - 1e-9 <= np.abs(rates @ x - gap).max() <= best + 0.01 * max(best, 1.0)


def test_what_is_compiled_compares_as_numpy_does():
    """Pairs added up with straight lines between what was solved, pressures by numpy.interp on the printed scale."""
    cases = solved_cases(VALVE, rating_conditions(VALVE))
    pair = next(p for p in cases.pairs if p.id == "low_airflow+undercharge")
    places = np.linspace(0.0, 4.0, 5), np.linspace(0.5, 3.5, 4)
    added = combined(pair.a.vectors[0], pair.a.at(places[0]), pair.b.at(places[1]))
    weights = []
    for curve, at in zip((pair.a, pair.b), places, strict=True):
        kind = curve.kind
        severe, most = ((s - kind.fault_free) / (kind.mild - kind.fault_free) for s in (kind.severe, kind.limit))
        solved_at = [0.0, 1.0, min(1.3 * severe, 0.5 * (severe + most))]
        depth = np.interp(at, np.arange(len(curve.depths)), curve.depths)
        weights.append(np.array([np.interp(depth, solved_at, row) for row in np.eye(3)]).T)
    missed = np.einsum("ip,jq,pqk->ijk", *weights, pair._crossed).reshape(-1, N)
    expected = pair.at(*places)
    assert np.abs(expected - added - missed).max() < 1e-9

    readings = ("suction_pressure", "head_pressure", "suction_line", "drier_out")
    reader = reader_of(VALVE.refrigerant, "analogue", readings)
    told = expected @ reader.weights
    for column, scale_f, scale_pa in zip(reader.columns, reader.scales_f, reader.scales_pa, strict=True):
        pa = np.interp(told[:, column], scale_f, scale_pa)
        told[:, column] = (pa - cases.conditions.barometer_pa) / PA_PER_PSI
    assert np.abs(cases.shown(expected, readings) - told).max() < 1e-9
    own = np.stack((told[:1], np.round(told[:1])))
    off = (np.abs(told[None] - own) / reader.tolerances).max(axis=2).min(axis=0)
    assert np.abs(reader.apart(told, own) - off).max() < 1e-12
