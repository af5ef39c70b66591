"""What a machine's page tells: its charge chart is the solver's, and says what the trade says."""

import pytest

from wolfsbane.cycle.conditions import for_machine
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.cycle.solver import solve
from wolfsbane.exercise.plan.handles import weather_of
from wolfsbane.exercise.show.machine_page import charge_chart, teaches


@pytest.mark.parametrize("name", MACHINES)
def test_every_machine_teaches_something_and_has_a_chart(name):
    m = machine(name)
    said = teaches(m)
    assert said and all(s.endswith(".") for s in said)
    chart = charge_chart(m, "us")
    shares = [p["percent"] for p in chart["points"]]
    assert 100 in shares and min(shares) <= 90 and max(shares) >= 110 and shares == sorted(shares)


@pytest.mark.parametrize("name", ["split-3t-r410a-orifice", "split-3t-r410a-txv", "walkin-cooler-r404a-txv"])
def test_a_point_of_the_chart_is_what_the_solver_finds(name):
    m = machine(name)
    rated = for_machine(m, **{w["field"]: w["rated"] for w in weather_of(m)})
    point = next(p for p in charge_chart(m, "us")["points"] if p["percent"] == 80)
    state = solve(m, rated, (Fault(id="undercharge", severity=80.0),))
    assert point["superheat"] == pytest.approx(1.8 * state.superheat_dk, abs=0.051)
    assert point["charge"] == pytest.approx(0.8 * m.circuit.charge_kg / 0.028349523, abs=0.06)


def by_share(name, system="us"):
    return {p["percent"]: p for p in charge_chart(machine(name), system)["points"]}


def test_charge_moves_superheat_on_a_piston_subcooling_on_a_valve_and_the_level_of_a_receiver():
    """Common practice, no source."""
    piston, valve, box = map(by_share, ("split-3t-r410a-orifice", "split-3t-r410a-txv", "walkin-cooler-r404a-txv"))
    assert piston[80]["superheat"] - piston[120]["superheat"] > 20
    assert valve[90]["superheat"] - valve[120]["superheat"] < 3
    assert valve[120]["subcooling"] - valve[90]["subcooling"] > 8
    assert box[120]["superheat"] == box[70]["superheat"] and box[120]["level"] > box[70]["level"] + 20
    assert box[70]["bubbles"] == 0 and box[40]["bubbles"] > 0 and valve[80]["level"] is None


def test_the_chart_comes_in_either_system():
    us, si = by_share("split-3t-r410a-txv"), by_share("split-3t-r410a-txv", "si")
    assert si[110]["subcooling"] == pytest.approx(us[110]["subcooling"] / 1.8, abs=0.1)
    assert charge_chart(machine("split-3t-r410a-txv"), "si")["unit"] == "K"


@pytest.mark.parametrize(
    ("name", "word"),
    [
        ("split-3t-r410a-orifice", "total superheat"),
        ("split-3t-r410a-txv", "nameplate subcooling"),
        ("walkin-cooler-r404a-txv", "sight glass"),
        ("reachin-r290-capillary", "A3, flammable"),
        ("water-cooled-5t-r407c-txv", "glides"),
        ("split-3t-r410a-microchannel", "microchannel"),
        ("package-10t-r410a-two-circuits", "Two circuits"),
        ("heatpump-3t-r410a-heating", "weighed in"),
    ],
)
def test_what_it_teaches_is_what_sets_it_apart(name, word):
    assert word in " ".join(teaches(machine(name)))
    # the glide of R-407C at evaporating pressures is about 10 °F (handbook property tables; from memory)
    if word == "glides":
        assert "glides about 1" in " ".join(teaches(machine(name)))
