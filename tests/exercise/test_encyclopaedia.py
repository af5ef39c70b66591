"""The fault encyclopedia is solved, not written: its arrows against the trade's own table of patterns."""

import pytest

from tests.conftest import ORIFICE, VALVE
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import FAULTS, faults_for
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.exercise.plan.presets import presets
from wolfsbane.exercise.show.catalog import PLACE_OF
from wolfsbane.exercise.show.encyclopedia import signature

PLAIN = practice_by_id("plate_and_formula")


def arrows(machine_id, fault):
    found = signature(machine(machine_id), fault, PLAIN, "us")
    return {r["id"]: next(x["arrow"] for x in r["levels"] if x["level"] == "severe") for r in found["rows"]}


# How patterns run: common practice, no source.
@pytest.mark.parametrize(
    ("machine_id", "fault", "expected"),
    [
        (
            VALVE,
            "undercharge",
            {"suction_pressure": "down", "head_pressure": "down", "superheat": "up", "subcooling": "down"},
        ),
        (ORIFICE, "overcharge", {"head_pressure": "up", "superheat": "down", "subcooling": "up"}),
        (VALVE, "dirty_condenser", {"head_pressure": "up", "ctoa": "up"}),
        (ORIFICE, "low_airflow", {"suction_pressure": "down", "superheat": "down", "air_delta_t": "up"}),
        (VALVE, "liquid_line_restriction", {"suction_pressure": "down", "superheat": "up", "drier_drop": "up"}),
        (VALVE, "valve_overfeeding", {"suction_pressure": "up", "superheat": "down", "subcooling": "down"}),
        (VALVE, "leaking_compressor_valves", {"suction_pressure": "up", "head_pressure": "down"}),
        (VALVE, "non_condensables", {"head_pressure": "up", "subcooling": "up"}),
    ],
)
def test_arrows_against_the_trade(machine_id, fault, expected):
    found = arrows(machine_id, fault)
    assert {k: found[k] for k in expected} == expected


def test_look_alikes_lead_with_the_nearest_and_never_name_the_family_itself():
    found = signature(machine(VALVE), "dirty_condenser", PLAIN, "us")["look_alikes"]
    assert found[0]["fault"] == "condenser_fan_weak" and found[0]["distance"] < 1
    assert not any("dirty_condenser" in row["fault"].split("+") for row in found)


@pytest.mark.slow
@pytest.mark.parametrize(
    "machine_id", [VALVE, "heatpump-3t-r410a-txv", "walkin-cooler-r404a-txv", "package-10t-r410a-two-circuits"]
)
def test_every_family_of_every_class_of_machine_has_an_entry(machine_id):
    m = machine(machine_id)
    for kind in faults_for(m):
        found = signature(m, kind.id, PLAIN, "si")
        assert found["rows"] or found["trips"] or kind.id == "compressor_not_pumping", kind.id


def test_every_family_has_a_place():
    assert set(PLACE_OF) == {*FAULTS, *INSTRUMENT_FAULTS}


def test_an_entry_in_si_has_the_same_arrows():
    us, si = (signature(machine(VALVE), "undercharge", PLAIN, system) for system in ("us", "si"))
    assert [[x["arrow"] for x in r["levels"]] for r in us["rows"]] == [
        [x["arrow"] for x in r["levels"]] for r in si["rows"]
    ]
    drier = signature(machine(VALVE), "liquid_line_restriction", PLAIN, "si")
    assert drier["unit"] == "kPa" and [x["severity"] for x in drier["rows"][0]["levels"]] == [758, 1103, 1655]
    assert si["rows"][0]["unit"] == "K" and si["rows"][0]["fault_free"] == pytest.approx(
        us["rows"][0]["fault_free"] / 1.8, abs=0.02
    )


@pytest.mark.parametrize("fault", ["gauge_not_zeroed", "reversing_valve_leak", "gremlins"])
def test_what_a_machine_cannot_have_is_named(fault):
    with pytest.raises(BadInputError, match="fault"):
        signature(machine(VALVE), fault, PLAIN, "us")


def test_presets_hold_only_what_the_machine_can_have():
    for m in MACHINES.values():
        found = presets(m)
        kinds = {k.id for k in faults_for(m)} | set(INSTRUMENT_FAULTS)
        assert len(found["weather"]) >= 3 and {f["id"] for row in found["faults"] for f in row["faults"]} <= kinds
    assert "floods" not in {p["id"] for p in presets(machine(ORIFICE))["faults"]}
