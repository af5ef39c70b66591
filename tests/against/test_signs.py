"""Faults move the gauges the way the trade knows, and no machine shows what no real one could. The whole of it is
``wolfsbane sweep --signs``. Claims: common practice, no source.
"""

from dataclasses import replace

import pytest

from wolfsbane.cycle.air import from_humidity_ratio
from wolfsbane.cycle.conditions import for_machine, rating_conditions
from wolfsbane.cycle.faults import FAULTS, Fault
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import solve
from wolfsbane.devtools.signs import CLAIMS, impossibilities, impossible, moved, signs

EVERY = list(MACHINES.values())


@pytest.mark.parametrize("machine", EVERY, ids=lambda m: f"{m.id}-{m.application}")
def test_no_fault_moves_its_figure_the_wrong_way(machine):
    rows = signs(fine=False, machines=[machine])
    assert rows and not [r for r in rows if r["wrong"]]
    assert sum(r["right"] for r in rows) > sum(r["nothing"] for r in rows), "most of them show"


def test_a_claim_turned_round_is_found_wrong():
    m = MACHINES["split-3t-r22-txv"]
    claim = next(c for c in CLAIMS if c.family == "dirty_condenser" and c.figure == "head" and not c.heating)
    weather = rating_conditions(m)
    sound, found = solve(m, weather), solve(m, weather, (Fault(id="dirty_condenser", severity=60),))
    assert moved(m, claim, found, sound)[0] == "right" and moved(m, claim, sound, sound)[0] == "nothing"
    assert moved(m, replace(claim, way=-claim.way), found, sound)[0] == "wrong"


def test_nothing_impossible_on_random_machines():
    assert impossibilities(660, seed=3) == {}


@pytest.mark.parametrize(
    ("changed", "said"),
    [
        (lambda s: {"subcooling_dk": 40.0}, "subcooling beyond"),
        (lambda s: {"suction_before_valve_k": 330.0}, "warmer than everything around"),
        (lambda s: {"discharge_line_k": s.condenser_bend_k - 2.0}, "discharge colder"),
        (lambda s: {"condenser_outlet_k": s.condenser_entering_k - 1.0}, "colder than its air"),
        (lambda s: {"sensible_w": 1.1 * s.capacity_w}, "more dry cooling"),
        (lambda s: {"capacity_w": 1.2 * s.capacity_w}, "another heat"),
        (lambda s: {"energy_residual": 0.01}, "heat of the air is not"),
        (lambda s: {"mass_residual": 0.01}, "charge is not"),
        (lambda s: {"supply_high_air": from_humidity_ratio(330.0, 0.01, 101_325.0)}, "warmer than the room"),
        (lambda s: {"coil_air": from_humidity_ratio(280.0, 0.02, 101_325.0)}, "humidity of the coil air"),
        (lambda s: {"head_pa": s.suction_pa - 1e4}, "head below suction"),
    ],
)
def test_what_is_impossible_is_named(changed, said):
    m = MACHINES["split-3t-r410a-txv"]
    state = solve(m, rating_conditions(m))
    assert impossible(m, rating_conditions(m), state) == []
    wrong = replace(state, **changed(state))
    assert any(said in text for text in impossible(m, rating_conditions(m), wrong))


def test_a_stuck_valve_moves_by_where_a_good_one_would_stand():
    """Away from its rating point a stuck valve may do the opposite; a bulb that feels wrong never does."""
    m = MACHINES["split-3t-r22-txv"]
    for outdoor, dry, wet in ((65, 80, 67), (95, 80, 67), (105, 75, 55)):
        weather = for_machine(m, outdoor_db_f=outdoor, return_db_f=dry, return_wb_f=wet)
        sound = solve(m, weather).superheat_dk
        for family, way in (("valve_overfeeding", -1), ("valve_underfeeding", 1)):
            for level in ("mild", "moderate", "severe"):
                found = solve(m, weather, (Fault(id=family, severity=FAULTS[family].level(level)),)).superheat_dk
                assert way * (found - sound) > 1.0, (outdoor, family, level)
    cold = for_machine(m, outdoor_db_f=65, return_db_f=80, return_wb_f=67)
    stuck = (Fault(id="valve_overfeeding", severity=88.0, cause="stuck_open"),)
    assert solve(m, cold, stuck).superheat_dk > solve(m, cold).superheat_dk, (
        "held where it stood on a hot day, it starves"
    )
