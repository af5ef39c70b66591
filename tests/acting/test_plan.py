"""The right plan, played through, puts the machine right: for every family, on machines of every class."""

import pytest

from tests.acting.conftest import fault
from wolfsbane.acting.plan import in_order, plan, tolerance_kg
from wolfsbane.acting.script import play_on
from wolfsbane.acting.settling import arrive, moment, steady_state
from wolfsbane.acting.site import on_site
from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import Fault, fault_kind, faults_for
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import solve

CLASSES = (
    "split-3t-r410a-txv",
    "split-3t-r410a-orifice",
    "split-3t-r32-eev",
    "split-3t-r410a-microchannel",
    "heatpump-3t-r410a-txv",
    "package-10t-r410a-two-circuits",
    "water-cooled-5t-r407c-txv",
    "walkin-cooler-r404a-txv",
    "reachin-r134a-capillary",
)
#: what no repair of the machine changes
LEFT = {"high_load", "low_load", "undersized_unit", "stratified_air"}


def cases():
    for machine_id in CLASSES:
        for kind in faults_for(MACHINES[machine_id]):
            if kind.id not in LEFT:
                for number, cause in enumerate(kind.causes):
                    yield machine_id, kind.id, cause.id, kind.severe if number == 0 else kind.mild


@pytest.mark.slow
@pytest.mark.parametrize(("machine_id", "fault_id", "cause", "severity"), list(cases()))
def test_the_right_plan_puts_the_machine_right(machine_id, fault_id, cause, severity):
    machine = MACHINES[machine_id]
    weather = rating_conditions(machine)
    faults = (Fault(id=fault_id, severity=severity, cause=cause),)
    try:
        begun = arrive(on_site(machine, weather, faults))
    except NoConvergenceError:
        pytest.skip("no balance to arrive at")
    made = plan(begun, faults, 1.7)
    played = play_on(begun, [(s.action, s.arguments) for s in made.steps])
    assert not [s for s in played.steps if s["refused"]]
    end, fault_free = played.site, solve(machine, weather)
    assert end.running and not end.leaking and not end.temporary.left
    assert end.total_kg == pytest.approx(begun.total_kg, abs=1e-6 * machine.circuit.charge_kg)
    if fault_id == "long_liquid_line":
        assert [f.id for f in end.faults] == ["long_liquid_line"]
        assert end.circuit_kg == pytest.approx(end.right_kg, rel=5e-3)
        assert moment(end).state.subcooling_dk == pytest.approx(fault_free.subcooling_dk, abs=3.4), (
            "the line is long; its charge is about right"
        )
        return
    assert not end.faults
    assert end.circuit_kg == pytest.approx(end.right_kg, rel=0.012)
    shown = moment(end).state
    assert shown.superheat_dk == pytest.approx(fault_free.superheat_dk, abs=0.6)
    assert shown.subcooling_dk == pytest.approx(fault_free.subcooling_dk, abs=0.6)


def test_coils_and_air_come_before_parts_and_the_charge_comes_last():
    wild = [
        fault(i, fault_kind(i).mild)
        for i in ("undercharge", "liquid_line_restriction", "dirty_condenser", "low_airflow")
    ]
    assert [f.id for f in in_order(wild)] == [
        "low_airflow",
        "dirty_condenser",
        "liquid_line_restriction",
        "undercharge",
    ]


@pytest.mark.parametrize("machine_id", ["split-3t-r410a-txv", "split-3t-r410a-orifice"])
def test_an_amount_at_the_edge_of_its_tolerance_is_at_the_edge_of_the_band(machine_id, site):
    begun, half = site(machine_id), 1.2
    allowed = tolerance_kg(begun, half)
    fault_free = steady_state(begun)
    name = "superheat_dk" if "orifice" in machine_id else "subcooling_dk"
    for sign in (-1, 1):
        from dataclasses import replace

        off = steady_state(replace(begun, circuit_kg=begun.right_kg + sign * allowed, moving=None))
        assert abs(getattr(off, name) - getattr(fault_free, name)) == pytest.approx(half, rel=0.35)


def test_a_sealed_machine_is_weighed_in_and_not_topped_up(site):
    begun = site("reachin-r134a-capillary", fault("undercharge", 75))
    assert [
        s.action
        for s in plan(begun, (fault("undercharge", 75),)).steps
        if s.action in ("add_liquid", "recover_all", "weigh_in")
    ] == ["recover_all", "weigh_in"]


def test_a_longer_line_asks_for_what_the_plate_says_a_foot(site):
    faults = (fault("long_liquid_line", 60),)
    begun = site("split-3t-r410a-txv", *faults)
    added = next(s for s in plan(begun, faults, 1.7).steps if s.action == "add_liquid")
    assert added.amount_kg == pytest.approx(60 * 0.6 * 0.028349523125, rel=1e-6), "0.6 oz a foot on this plate"
