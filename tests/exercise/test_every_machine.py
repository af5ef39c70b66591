"""Calls on every kind of machine: what is read, asked, judged and marked there, and that one slip costs one mark."""

import json
from functools import cache

import pytest

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.diagnosis.targets import GLASS, charged_by
from wolfsbane.exercise.draw import item as items_of
from wolfsbane.exercise.draw.weather import drawn_weather, met_of, weather_for
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.marking.grade import grade, perfect_answers, total
from wolfsbane.exercise.paper.call import call_from_json
from wolfsbane.exercise.plan.brief import USUAL_MACHINES, brief
from wolfsbane.exercise.plan.call_kind import KINDS, figures_judged, kind_of, left_out
from wolfsbane.exercise.plan.scenario import scenario
from wolfsbane.exercise.plan.usual_weather import WEATHER, weather_spans

ROOM = {"return_db_f": 78, "return_wb_f": 65}
#: kind -> machine, fault, severity, weather
CASES = {
    "two_circuits": ("package-10t-r410a-two-circuits", "undercharge", 82, {"outdoor_db_f": 93, **ROOM}),
    "water_cooled": (
        "water-cooled-5t-r407c-txv",
        "valve_overfeeding",
        100,
        {"outdoor_db_f": 90, "water_in_f": 80, **ROOM},
    ),
    "heating": ("heatpump-3t-r410a-heating", "low_airflow", 55, {"outdoor_db_f": 38, "return_db_f": 70}),
    "walk_in": ("walkin-cooler-r448a-txv", "undercharge", 46, {"outdoor_db_f": 88, "box_f": 37}),
    "reach_in": ("reachin-r134a-capillary", "undercharge", 74, {"outdoor_db_f": 78, "box_f": 39}),
}
EVERY = pytest.mark.parametrize("kind", CASES)


def planned(kind, **changes):
    machine_id, fault, severity, weather = CASES[kind]
    return scenario(
        {
            "title": kind,
            "machine": machine_id,
            "faults": [{"id": fault, "severity": severity}],
            "spread_outdoor_df": 3,
            "spread_return_df": 1,
            **weather,
            **changes,
        }
    )


@cache
def call(kind):
    """A call of this kind, as the database gives it back."""
    one = items_of.item({"kind": "scenario", "body": planned(kind).to_json()})
    return frozen_body.body_from_json(json.loads(json.dumps(items_of.draw(one, 1, 0, "us", 7).to_json())))


def marks(kind, **answers):
    return {m.question: m for m in grade(call(kind), perfect_answers(call(kind)) | answers)}


def lost(kind, **answers):
    return {q: m.points - m.earned for q, m in marks(kind, **answers).items() if m.earned < m.points}


def test_every_machine_has_its_kind_of_call_and_every_kind_a_case_here():
    assert {kind_of(m).id for m in MACHINES.values()} == set(KINDS) == {*CASES, "cooling"}
    assert all(kind_of(machine(m)).id == "cooling" and not machine(m).stage for m in USUAL_MACHINES)


@EVERY
def test_the_key_earns_everything_and_a_blank_page_nothing(kind):
    made = call(kind)
    assert not lost(kind) and total(grade(made, {}))[0] == 0
    assert made.key.unique and made.key.fault == CASES[kind][1]
    assert call_from_json(made.to_json()) == made


@EVERY
def test_what_is_asked_is_what_this_machine_can_answer(kind):
    made, m = call(kind), machine(CASES[kind][0])
    asked = {q.id for q in made.questions}
    assert not asked & left_out(m)
    assert {q for q in asked if q.endswith("_verdict")} == {f"{name}_verdict" for name in figures_judged(m)}
    assert ("target" in asked) == (charged_by(m) is not None) == (made.key.target is not None)
    assert set(made.key.bands) == set(figures_judged(m)) <= set(made.key.figures)
    assert {c.id for c in made.choices.evidence} >= {*figures_judged(m), "all_on_target"}


@EVERY
def test_a_scale_misread_costs_its_mark_and_what_follows_from_it_counts(kind):
    """Three degrees off, and everything after it worked out from there: one mark, unless a verdict turns with it."""
    made = call(kind)
    right = perfect_answers(made)
    off = float(right["suction_saturation"]) + 3.0
    name = made.key.judged[0]
    follows = {"suction_saturation": str(off)}
    for figure in (name, "evaporator_td"):
        follows[figure] = str(float(right[figure]) - 3.0)
        follows[f"{figure}_verdict"] = made.key.bands[figure].verdict(float(follows[figure]))
    found = lost(kind, **follows)
    assert found.pop("suction_saturation") == 1
    assert not set(found) & {name, "evaporator_td", f"{name}_verdict", "evaporator_td_verdict", "fault", "order"}


def test_a_box_is_judged_at_its_coil_and_by_its_glass():
    made = call("walk_in")
    asked = {q.id: q.text for q in made.questions}
    assert "superheat" not in asked and "subcooling" not in asked and "after_subcooling" not in asked
    assert asked["evaporator_superheat"] == "Superheat at the coil, by the gauge at the unit"
    superheat = made.readings["evaporator_outlet"].value - made.key.figures["suction_saturation"]
    assert made.key.figures["evaporator_superheat"] == pytest.approx(superheat, abs=0.01)
    assert made.key.verdicts[GLASS] == "low" and GLASS in made.key.evidence
    assert any("sight glass" in line.lower() for line in made.look_round)
    assert marks("walk_in", evidence=made.choices.letter("evidence", GLASS))["evidence"].code == "evidence_right"


def test_a_charge_by_the_glass_is_right_within_a_sixth_of_the_whole_and_never_beyond_a_full_receiver():
    amount = call("walk_in").key.repair.amount
    assert amount.value > 0 and amount.high - amount.low == pytest.approx(0.3 * amount.charge, rel=0.02)
    within = [p for p in amount.curve if amount.low < p.moved < amount.high]
    assert within and all(p.flash <= 0.1 and p.level <= 0.75 for p in within)


def test_a_sealed_circuit_is_read_off_two_pipes_and_only_ever_weighed_in_whole():
    made = call("reach_in")
    assert made.instruments == "pipes" and not any(key.endswith("_pressure") for key in made.readings)
    assert made.key.figures["suction_saturation"] == made.readings["evaporator_inlet"].value
    assert made.key.figures["liquid_saturation"] == made.readings["condenser_bend"].value
    assert all("weigh_in" in route.needed and "add" not in route.needed for route in made.key.repair.routes)
    topped = " ".join(str(made.choices.number(s)) for s in ("leak", "add", "settle", "close"))
    assert marks("reach_in", order=topped)["order"].earned == 0


def test_water_stands_in_for_the_air_outdoors():
    made = call("water_cooled")
    assert "outdoor_db" not in made.readings and {"water_in", "water_out"} <= set(made.readings)
    over = made.key.figures["liquid_saturation"] - made.readings["water_in"].value
    assert made.key.figures["ctoa"] == pytest.approx(over, abs=0.01)
    assert made.conditions.water_in_k is not None
    assert {"dry"}.isdisjoint({row.id for row in made.choices.order})
    assert next(q.text for q in made.questions if q.id == "ctoa") == "Condensing temperature − water in"


def test_both_circuits_of_a_rooftop_stand_side_by_side_and_one_is_at_fault():
    made = call("two_circuits")
    assert set(made.twin) >= {"suction_pressure", "head_pressure", "suction_line", "liquid_line"}
    own = made.readings["head_pressure"].value - made.twin["head_pressure"].value
    assert own < 0, "short of refrigerant, circuit 1 runs the lower head"
    assert not call("walk_in").twin


def test_in_heating_airs_and_coils_have_changed_places():
    made = call("heating")
    rows = {key: row.label for key, row in made.readings.items()}
    assert rows["return_db"] == "Outdoor air, dry bulb" and rows["outdoor_db"] == "Return air, dry bulb"
    assert made.key.verdicts["ctoa"] == "high" and made.key.fault_name == "Low indoor airflow"
    assert not any("condenser dry" in line for line in made.look_round)
    assert "Target subcooling in cooling" in {row.label for row in made.machine.plate}


# ---------------------------------------------------------------------------
# weather
# ---------------------------------------------------------------------------


@pytest.mark.parametrize("m", MACHINES.values(), ids=lambda m: m.id)
def test_weather_is_drawn_where_a_machine_is_met_and_read_back_the_same(m):
    import random

    asked = brief({"title": "x", "machines": [m.id]})
    spans, rng = weather_spans(m, asked.weather), random.Random(3)
    for _ in range(5):
        weather = drawn_weather(asked, m, rng)
        met = met_of(m, weather)
        assert set(met) == set(spans)
        assert all(low - 0.6 <= met[name] <= high + 0.6 for name, (low, high) in spans.items() if name != "return_wb_f")
        assert weather_for(m, met, 0.0, "us") == weather


def test_a_request_moves_the_weather_of_those_machines_that_are_ever_met_in_it():
    asked = brief({"title": "x", "weather": {"outdoor_db_f": [95, 100], "box_f": [34, 36]}}).weather
    assert weather_spans(machine("walkin-cooler-r404a-txv"), asked) == {"outdoor_db_f": (95, 100), "box_f": (34, 36)}
    heats = weather_spans(machine("heatpump-3t-r410a-heating"), asked)
    assert heats["outdoor_db_f"][1] < 60, "nobody heats at 95 °F outdoors"
    plain = brief({"title": "x"}).weather
    assert weather_spans(machine("heatpump-3t-r410a-heating"), plain) == heats
    assert plain == {name: given for name, (given, _) in WEATHER.items()}


def test_a_span_off_every_range_is_refused_by_name():
    with pytest.raises(BadInputError) as error:
        brief({"title": "x", "weather": {"water_in_f": [20, 30]}})
    assert "water_in_f" in error.value.field


# ---------------------------------------------------------------------------
# a second visit
# ---------------------------------------------------------------------------


@cache
def second():
    from tests.conftest import planned as on_valve

    body = on_valve("undercharge", 78).to_json()
    body["faults"] = [{"id": "dirty_condenser", "severity": 50}, *body["faults"]]
    one = items_of.item({"kind": "scenario", "body": body, "asked": {"second_visit": True}})
    return frozen_body.body_from_json(json.loads(json.dumps(items_of.draw(one, 1, 0, "us", 7).to_json())))


def test_a_second_visit_asks_for_what_is_left_and_shows_what_was_read_before():
    made = second()
    assert made.key.faults == ("undercharge",) and "washed" in made.done
    assert made.before["head_pressure"].value > made.readings["head_pressure"].value + 15
    assert made.before["outdoor_db"].value == made.readings["outdoor_db"].value
    assert total(grade(made, perfect_answers(made))) == total(grade(made, perfect_answers(made)))[:1] * 2


def test_a_second_visit_needs_two_faults():
    one = items_of.item({"kind": "scenario", "body": planned("walk_in").to_json(), "asked": {"second_visit": True}})
    with pytest.raises(BadInputError) as error:
        items_of.draw(one, 1, 0, "us", 7)
    assert error.value.field == "asked.second_visit"
