"""Faults as straight lines on the figures of a circuit, and the other short ways of compiled code: each does what the
long way does.
"""

import random

import numpy as np
import pytest

from wolfsbane.cycle import air
from wolfsbane.cycle.coils import as_in_cooling
from wolfsbane.cycle.elimination import eliminated
from wolfsbane.cycle.faults import Fault, faults_for, planted
from wolfsbane.cycle.faults.straight import by_lines, straight
from wolfsbane.cycle.machine import Circuit
from wolfsbane.cycle.moist import enthalpy_of, off_the_coil_k, ratio_of_wet_bulb, saturated_ratio
from wolfsbane.cycle.packed import packed, packed_with_arrays, writable
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.psychrometrics import psychrolib

VALVE = MACHINES["split-3t-r410a-txv"]
USUAL = [m for m in MACHINES.values() if m.circuits == 1 and not m.in_heating]


@pytest.mark.parametrize("machine", USUAL, ids=lambda m: m.id)
def test_every_family_is_planted_by_lines_alone_and_beside_another(machine):
    rng = random.Random(machine.id)
    kinds = faults_for(machine)
    lines = {kind.id: straight(machine, kind.id) for kind in kinds}
    assert None not in lines.values()
    assert {f: found.refrigerant for f, found in lines.items() if found.refrigerant} == {
        "wrong_refrigerant": machine.substitute
    }
    for kind in kinds:
        other = rng.choice([k for k in kinds if k.id != kind.id])
        for pair in ((kind,), (kind, other)):
            if {k.id for k in pair} & set().union(*(lines[k.id].not_beside for k in pair)):
                continue
            at = [round(rng.uniform(*sorted((k.fault_free, k.limit))), 2) for k in pair]
            try:
                whole, _ = planted(machine, tuple(Fault(id=k.id, severity=s) for k, s in zip(pair, at, strict=True)))
            except ValueError:  # two that cannot stand together
                continue
            short = machine.circuit
            for k, s in zip(pair, at, strict=True):
                short = by_lines(short, lines[k.id], s)
            assert np.array(short) == pytest.approx(np.array(whole), rel=1e-12, abs=1e-12), (kind.id, other.id)


def test_what_lines_come_from_may_be_changed_by_another_family_and_they_say_so():
    assert "long_liquid_line" in straight(VALVE, "suction_line_restriction").not_beside
    assert not straight(VALVE, "undercharge").not_beside


@pytest.mark.parametrize("machine_id", ["package-10t-r410a-two-circuits", "heatpump-3t-r410a-heating"])
def test_a_circuit_alone_does_not_tell_of_two_circuits_or_of_a_machine_that_heats(machine_id):
    assert straight(MACHINES[machine_id], "undercharge") is None


@pytest.mark.parametrize("barometer_pa", [101_325.0, 83_000.0])
def test_air_off_a_coil_is_what_the_psychrometric_library_finds(barometer_pa):
    rng, warmer = random.Random(3), 0
    for _ in range(400):
        dry_k, humidity = rng.uniform(245.0, 310.0), rng.uniform(0.0005, 0.02)
        water = rng.uniform(0.0005, 0.02)
        enthalpy = psychrolib.GetMoistAirEnthalpy(dry_k - 273.15, water)
        found = off_the_coil_k(dry_k, enthalpy, humidity, barometer_pa)
        assert found == pytest.approx(air.from_enthalpy(dry_k, enthalpy, humidity, barometer_pa).dry_bulb_k, abs=1e-9)
        warmer += found > dry_k + 0.01
        own = psychrolib.GetSatHumRatio(dry_k - 273.15, barometer_pa)
        assert saturated_ratio(dry_k - 273.15, barometer_pa) == pytest.approx(own, rel=1e-12)
    assert 50 < warmer < 350, "some of it was too wet to be"


@pytest.mark.parametrize("barometer_pa", [101_325.0, 83_000.0])
def test_air_by_its_wet_bulb_is_what_the_psychrometric_library_finds(barometer_pa):
    rng = random.Random(4)
    for _ in range(300):
        dry_c = rng.uniform(-15.0, 45.0)
        wet_c = dry_c - rng.uniform(0.0, 4.0)
        ratio = ratio_of_wet_bulb(dry_c, wet_c, barometer_pa)
        assert ratio == pytest.approx(psychrolib.GetHumRatioFromTWetBulb(dry_c, wet_c, barometer_pa), rel=1e-12)
        assert enthalpy_of(dry_c, ratio) == pytest.approx(psychrolib.GetMoistAirEnthalpy(dry_c, ratio), rel=1e-12)


def test_elimination_finds_what_numpy_finds():
    rng = np.random.default_rng(5)
    for n in (1, 2, 3, 5):
        a, b = rng.normal(size=(n, n)), rng.normal(size=n)
        found = eliminated(np.column_stack((a, b)))
        assert found == pytest.approx(np.linalg.solve(a, b), rel=1e-9)


def test_a_record_carries_every_figure_and_every_table():
    circuit = VALVE.circuit
    for record in (packed(circuit)[0], writable(circuit)[1][0]):
        assert [float(record[name]) for name in Circuit._fields] == list(circuit)
    figures, records = writable(circuit)
    figures[Circuit._fields.index("charge_kg")] = 9.0
    assert records[0]["charge_kg"] == 9.0
    with pytest.raises(ValueError, match="read-only"):
        packed(circuit)["charge_kg"] = 1.0
    tables = refrigerant("R-407C").arrays
    record = packed_with_arrays(tables)[0]
    assert all(np.array_equal(record[name], getattr(tables, name)) for name in tables._fields)


def test_a_circuit_is_changed_field_by_field_and_a_field_there_is_not_is_named():
    changed = VALVE.circuit._replace(charge_kg=1.0, port_kg_s=0.5)
    assert (changed.charge_kg, changed.port_kg_s) == (1.0, 0.5)
    assert changed._replace(charge_kg=VALVE.circuit.charge_kg, port_kg_s=0.0) == VALVE.circuit
    assert isinstance(as_in_cooling(changed), Circuit)
    with pytest.raises(ValueError, match="charge_lb"):
        VALVE.circuit._replace(charge_lb=2.0)
