"""The pressure-enthalpy loop and the trends: they belong to the solved machine,
and say where a fault begins to show.
"""

import pytest

from tests.conftest import VALVE, weather
from wolfsbane.cycle import loop
from wolfsbane.cycle.conditions import for_machine, rating_conditions
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.cycle.solver import solve
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.exercise.show import pictures

PLAIN = practice_by_id("plate_and_formula")


def row(found, key):
    return next(r for r in found["series"] if r["id"] == key)


@pytest.mark.parametrize("m", MACHINES.values(), ids=lambda m: m.id)
def test_the_loop_closes_on_the_heat_the_machine_moves(m):
    state = solve(m, rating_conditions(m))
    corner = {c.id: c for c in loop.corners(state)}
    flow, share = state.mass_flow_kg_s, 1 / m.circuits  # the loop is that of the circuit the gauges are on
    assert list(corner) == list(loop.CORNERS)
    assert flow * (corner["evaporator_out"].enthalpy_j_kg - corner["evaporator_in"].enthalpy_j_kg) == pytest.approx(
        share * state.capacity_w, rel=0.03 if m.circuits == 2 else 1e-6
    )
    rejected = flow * (corner["discharge"].enthalpy_j_kg - corner["condenser_out"].enthalpy_j_kg)
    assert rejected == pytest.approx(state.condenser_heat_w, rel=0.02) and rejected > share * state.capacity_w
    assert (
        corner["discharge"].pressure_pa
        >= corner["valve_in"].pressure_pa
        > corner["evaporator_in"].pressure_pa
        >= corner["compressor_in"].pressure_pa
    )


def test_a_machine_at_rest_has_no_loop():
    m = machine(VALVE)
    rest = solve(m, weather(), (Fault(id="compressor_not_pumping", severity=0),))
    assert rest.equalized and pictures.pressure_enthalpy(rest, solve(m, weather()), "us") is None


def test_the_loop_in_si_is_the_same_loop():
    m = machine(VALVE)
    state, fault_free = solve(m, weather(), (Fault(id="undercharge", severity=75),)), solve(m, weather())
    us, si = (pictures.pressure_enthalpy(state, fault_free, s) for s in ("us", "si"))
    for a, b in zip(us["now"], si["now"], strict=True):
        assert b["pressure"] == pytest.approx(a["pressure"] * 6.894757, rel=2e-3) and b["enthalpy"] == pytest.approx(
            a["enthalpy"] * 2.326, rel=2e-4
        )
    assert us["fault_free"][2]["enthalpy"] < us["now"][2]["enthalpy"]


def test_the_dome_closes_upwards_and_keeps_dew_right_of_bubble():
    for name in ("R-410A", "R-407C", "R-290"):
        found = pictures.dome(name, "us")
        widths = [d[0] - b[0] for b, d in zip(found["bubble"], found["dew"], strict=True)]
        assert min(widths) > 0 and widths[-1] < widths[0]


def test_a_trend_over_severity_begins_sound_and_passes_the_levels():
    m, planted = machine(VALVE), (Fault(id="undercharge", severity=80),)
    found = pictures.trend(m, weather(), planted, PLAIN, "us", "undercharge")
    assert found["xs"][0] == 100 and found["xs"][-1] == 40 and {88, 80, 70} <= set(found["xs"])
    subcooling = row(found, "subcooling")
    assert subcooling["values"][0] == subcooling["fault_free"][0] and subcooling["values"][-1] < 1
    at = found["xs"].index(80)
    assert subcooling["values"][at] == pytest.approx(1.8 * solve(m, weather(), planted).subcooling_dk, abs=0.01)


def test_where_a_fault_begins_to_show_is_where_the_verdict_turns():
    m = machine(VALVE)
    found = pictures.trend(m, weather(), (Fault(id="undercharge", severity=80),), PLAIN, "us", "undercharge")
    shows = next(s for s in found["shows"] if s["id"] == "subcooling")
    assert (shows["verdict"], shows["was"]) == ("low", "normal")
    low = row(found, "subcooling")["band_low"][0]
    before, after = (
        1.8 * solve(m, weather(), (Fault(id="undercharge", severity=shows["at"] + d),)).subcooling_dk
        for d in (0.3, -0.3)
    )
    assert after < low < before


def test_a_trend_over_the_weather_moves_the_target_of_an_orifice():
    found = pictures.trend(machine("split-3t-r410a-orifice"), weather(), (), PLAIN, "si", "outdoor_db_f")
    superheat = row(found, "superheat")
    assert superheat["unit"] == "K" and superheat["band_low"][0] > superheat["band_low"][-1] and found["shows"] == []
    assert superheat["values"] == superheat["fault_free"]


def test_the_air_of_a_box_stays_air_when_the_box_is_the_handle():
    m = machine("walkin-cooler-r404a-txv")
    found = pictures.trend(m, for_machine(m, outdoor_db_f=95, box_f=45), (), PLAIN, "us", "box_f")
    assert found["xs"][0] == 28
    there = solve(m, for_machine(m, outdoor_db_f=95, box_f=28))
    assert row(found, "suction_pressure")["values"][0] == pytest.approx(there.suction_pa / 6894.757 - 14.696, abs=0.05)


def test_a_trend_says_where_the_machine_cuts_out():
    found = pictures.trend(
        machine(VALVE),
        weather(outdoor=112),
        (Fault(id="dirty_condenser", severity=60),),
        PLAIN,
        "us",
        "dirty_condenser",
    )
    assert found["trips"][-1]["cutout"] == "high_pressure" and found["trips"][-1]["to"] == 25
    at = found["xs"].index(found["trips"][-1]["from"])
    assert (
        row(found, "head_pressure")["values"][at] is None and row(found, "head_pressure")["values"][at - 1] is not None
    )


def test_a_severity_in_psi_is_drawn_in_kpa_where_kpa_is_shown():
    planted = (Fault(id="liquid_line_restriction", severity=160),)
    us, si = (
        pictures.trend(machine(VALVE), weather(), planted, PLAIN, s, "liquid_line_restriction") for s in ("us", "si")
    )
    assert (us["unit"], us["now"], si["unit"], si["now"]) == ("psi", 160, "kPa", 1103)
    assert [m["x"] for m in si["marks"]] == pytest.approx([m["x"] * 6.894757 for m in us["marks"]], abs=0.6)
    assert row(us, "superheat")["values"][10] == pytest.approx(1.8 * row(si, "superheat")["values"][10], abs=0.02)


def test_an_unknown_handle_names_what_there_is():
    with pytest.raises(BadInputError, match="outdoor_db_f"):
        pictures.trend(machine(VALVE), weather(), (), PLAIN, "us", "undercharge")
