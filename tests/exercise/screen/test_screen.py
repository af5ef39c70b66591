"""Calls on screen: the machine answers, evidence is weighed, the way is marked, and the rubric cannot be gamed.

That a wet or vented or tripped machine is harm, that gauges are zeroed in open air, blue on suction and red on liquid,
and that a clamp sits on clean pipe: common practice, no source.
"""

from functools import cache

import pytest

from wolfsbane.acting.actions.refrigerant import left_after_recovery_kg
from wolfsbane.cycle.conditions import conditions
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.exercise.draw.variant import vary
from wolfsbane.exercise.plan.scenario import scenario
from wolfsbane.exercise.screen import expert, live, robots
from wolfsbane.exercise.screen.evidence import seen, weighed, weight_of
from wolfsbane.exercise.screen.hints import hint
from wolfsbane.exercise.screen.issue import Issue
from wolfsbane.exercise.screen.live import OFF_PSI
from wolfsbane.exercise.screen.marks import RUBRIC, RUBRIC_VERSION, marked
from wolfsbane.exercise.screen.run import Step, fold
from wolfsbane.exercise.screen.shown import Setup, shown_from
from wolfsbane.exercise.screen.steps import checked

MACHINE = "split-3t-r410a-txv"
FAULTS = {
    "undercharge": (78, "leak"),
    "overcharge": (118, None),
    "dirty_condenser": (50, None),
    "low_airflow": (60, "dirty_filter"),
    "none": (0, None),
}


@cache
def issue(fault="undercharge", machine=MACHINE, seed=3):
    severity, cause = FAULTS[fault]
    rows = [] if fault == "none" else [{"id": fault, "severity": severity, **({"cause": cause} if cause else {})}]
    body = {"schema": 3, "title": "On screen", "machine": machine, "faults": rows, "outdoor_db_f": 93}
    air = {"box_f": 38} if MACHINES[machine].refrigeration else {"return_db_f": 78, "return_wb_f": 65.5}
    made = scenario(body | air)
    return Issue(call=vary(made, "us", seed), machine=made.profile, mode="practice", minutes=None, rubric="1")


def at(fault="undercharge", *steps):
    machine = live.begun(issue(fault).setup)
    for kind, data in steps:
        live.step(machine, kind, checked(kind, data))
    return machine


GAUGES = ("gauges", {"low": "suction", "high": "liquid"})


@pytest.mark.parametrize("fault", FAULTS)
def test_robots_come_out_in_their_order_and_reading_everything_costs(fault):
    earned = {name: robots.play(name, issue(fault), 11)[0].earned for name in robots.ROBOTS}
    assert earned["expert"] >= 95
    assert earned["expert"] - earned["reads everything first"] >= 10
    assert earned["reads everything first"] > 40 > earned["random"] >= earned["always wrong"] - 5
    assert earned["always wrong"] <= 5


def test_the_rubric_is_a_hundred_and_every_part_is_told():
    assert sum(RUBRIC.values()) == 100 and RUBRIC_VERSION == "1"
    found, _ = robots.play("random", issue(), 2)
    assert [p.part for p in found.parts] == list(RUBRIC)
    assert all(p.reasons for p in found.parts if p.earned < p.points)


def test_the_same_steps_show_the_same_machine():
    steps = (GAUGES, ("act", {"action": "add_liquid", "arguments": {"oz": 6}}), ("read", {"point": "head_pressure"}))
    one, two = at("undercharge", *steps), at("undercharge", *steps)
    assert [s.to_json() for s in one.shown] == [s.to_json() for s in two.shown]
    assert [shown_from(s.to_json()) for s in one.shown] == [shown_from(s.to_json()) for s in two.shown]


def test_what_is_read_while_it_still_moves_is_told_and_settles():
    machine = at(
        "undercharge", GAUGES, ("act", {"action": "stop"}), ("wait", {"minutes": 10}), ("act", {"action": "start"})
    )
    moving = live.step(machine, "read", {"point": "head_pressure"})
    live.step(machine, "settle", {})
    still = live.step(machine, "read", {"point": "head_pressure"})
    assert not moving.still and still.still
    assert abs(still.reading["value"] - moving.reading["value"]) >= 5


@pytest.mark.parametrize(("spot", "fair"), [("clean", True), ("painted", False), ("sun", False)])
def test_where_a_clamp_sits_is_what_it_reads(spot, fair):
    right = at("undercharge", ("clamp", {"pipe": "suction_line", "spot": "clean"}))
    there = live.step(right, "read", {"point": "suction_line"}).reading["value"]
    machine = at("undercharge", ("clamp", {"pipe": "suction_line", "spot": spot}))
    found = live.step(machine, "read", {"point": "suction_line"})
    assert found.fair is fair and (abs(found.reading["value"] - there) > 2) is not fair


def test_hoses_swapped_show_each_others_pressure_and_count_as_harm():
    swapped = at("undercharge", ("gauges", {"low": "liquid", "high": "suction"}))
    assert any("low-side gauge" in h for h in swapped.shown[-1].harm)
    right = at("undercharge", GAUGES)
    values = [live.step(m, "read", {"point": "suction_pressure"}) for m in (swapped, right)]
    assert values[0].reading["value"] > 2 * values[1].reading["value"] and not values[0].fair


def test_gauges_are_zeroed_before_they_go_on_or_stand_off():
    setups = [Setup(**{**vars(issue().setup), "seed": n}) for n in range(12)]
    off = []
    for setup in setups:
        raw, zeroed = live.begun(setup), live.begun(setup)
        live.step(zeroed, "zero", {})
        for machine in (raw, zeroed):
            live.step(machine, *GAUGES)
        a, b = (live.step(m, "read", {"point": "suction_pressure"}).reading["value"] for m in (raw, zeroed))
        off.append(round(abs(a - b)))
    assert set(off) == {0, round(OFF_PSI)}
    machine = at("undercharge", GAUGES)
    assert live.step(machine, "zero", {}).refused


def test_nothing_is_read_without_its_tool_and_no_look_fits_no_machine():
    machine = at()
    for point in ("suction_pressure", "liquid_line", "water_in"):
        assert live.step(machine, "read", {"point": point}).refused
    assert live.step(machine, "look", {"check": "economizer"}).refused
    assert machine.minutes == 0.0


@pytest.mark.parametrize("machine_id", [MACHINE, "split-5t-r410a-txv", "package-10t-r410a-two-circuits"])
def test_vapor_left_after_recovery_is_not_venting_on_a_large_machine_either(machine_id):
    """Recovery gear leaves vapor behind, more in more pipe; a few ounces let out by hand are venting on any of them."""

    def after(*steps):
        weather = conditions(outdoor_db_f=93, return_db_f=78, return_wb_f=65.5)
        machine = live.begun(Setup(machine=MACHINES[machine_id], conditions=weather, faults=()))
        for action, arguments in steps:
            live.step(machine, "act", checked("act", {"action": action, "arguments": arguments}))
        assert not machine.shown[-1].refused
        return machine

    opened = after(("stop", {}), ("replace_drier", {}))
    left = left_after_recovery_kg(opened.site)
    assert 0.5 * left < opened.site.lost_kg and not opened.shown[-1].harm
    assert any("into the air" in h for h in after(("vent", {"oz": 3})).shown[-1].harm)


def test_what_must_not_happen_is_harm_and_costs():
    vented = at("overcharge", ("act", {"action": "vent", "arguments": {"oz": 20}}))
    assert any("into the air" in h for h in vented.shown[-1].harm)
    running = at("low_airflow", ("act", {"action": "replace_drier", "arguments": {}}))
    assert running.shown[-1].refused and any("machine that runs" in h for h in running.shown[-1].harm)
    setup = issue("undercharge", "split-3t-r410a-orifice").setup
    flooded = live.begun(setup)
    live.step(flooded, "act", {"action": "add_liquid", "arguments": {"oz": 90}})
    live.step(flooded, "wait", {"minutes": 20})
    assert any("Liquid refrigerant reached the compressor" in h for s in flooded.shown for h in s.harm)
    found = issue("overcharge")
    path = robots.Path(issue=found, live=expert.looked(found.setup, found.practice, found.accepted))
    path.type_readings()
    path.type_answers()
    path.write("name")
    live.step(path.live, "act", {"action": "vent", "arguments": {"oz": 20}})
    marks = marked(found, path.ended(), path.live, 20.0)
    assert marks.off == 10 and {p.part: p.earned for p in marks.parts}["work"] == 0


def test_after_the_work_the_looks_and_readings_are_those_of_the_repaired_machine():
    machine = at("low_airflow", ("look", {"check": "filter"}))
    assert machine.shown[-1].word == "dirty"
    live.step(machine, "act", {"action": "replace_filter", "arguments": {}})
    assert live.step(machine, "look", {"check": "filter"}).word == "clean" and live.faults_now(machine) == ()


def test_one_slip_in_a_reading_costs_that_reading_and_not_what_follows_from_it():
    found = issue("undercharge")
    path = robots.Path(issue=found, live=expert.looked(found.setup, found.practice, found.accepted))
    path.type_readings()
    path.write("answer", question="read_suction_line", text="58")
    path.type_answers()
    path.write("name")
    marks = {p.part: p for p in marked(found, path.ended(), path.live, path.live.minutes).parts}
    assert marks["readings"].earned == 12 and "you typed 58" in marks["readings"].reasons[0]
    assert marks["figures"].earned >= 18


def test_a_letter_with_nothing_behind_it_earns_a_quarter_of_it():
    found = issue("undercharge")
    path = robots.Path(issue=found, live=live.begun(found.setup))
    path.write("answer", question="fault", text=found.call.choices.letter("fault", "undercharge"))
    path.write("name")
    marks = marked(found, path.ended(), path.live, 20.0)
    assert marks.earned <= round(0.25 * RUBRIC["fault"]) and marks.belief == 0.0


def test_what_is_changed_after_it_was_named_does_not_count():
    run = fold(
        [
            Step(kind="answer", data={"question": "fault", "text": "A"}),
            Step(kind="name", data={}),
            Step(kind="answer", data={"question": "fault", "text": "B"}),
        ]
    )
    assert run.answers == {"fault": "A"}


def test_evidence_grows_with_what_was_seen_and_an_unsettled_reading_is_none():
    found = issue("dirty_condenser")
    machine = expert.looked(found.setup, found.practice, found.accepted)
    told = expert.told(found.setup, found.practice, found.accepted, machine.shown)
    assert told[0].before < 0.1 and told[-1].after >= expert.SURE
    assert all(a.after == b.before for a, b in zip(told, told[1:], strict=False))
    nothing = seen(found.machine, [], "us")
    unsettled = [s for s in machine.shown if s.kind == "read"][0]
    moving = shown_from(unsettled.to_json() | {"still": False})
    assert seen(found.machine, [moving], "us") == nothing
    assert weight_of(weighed(nothing, found.practice), found.accepted) < 0.1


def test_hints_lead_on_and_name_no_fault():
    found = issue("dirty_condenser")
    path = robots.Path(issue=found, live=expert.looked(found.setup, found.practice, found.accepted))
    path.type_readings()
    path.type_answers()
    steps, said = list(path.steps), []
    for _ in range(3):
        said.append(hint(found, fold(steps)))
        steps.append(Step(kind="hint", data={}))
    assert len(set(said)) == 3 and found.call.key.fault_name.lower() not in " ".join(said).lower()


@pytest.mark.parametrize(
    "machine", ["walkin-cooler-r448a-txv", "split-3t-r22-orifice", "package-10t-r410a-two-circuits"]
)
def test_other_machines_are_played_too(machine):
    found = issue("dirty_condenser", machine)
    marks, path = robots.play("expert", found, 1)
    assert marks.earned >= 85, [(p.part, p.earned, p.reasons) for p in marks.parts]
    assert path.live.bill > 0


@pytest.mark.parametrize(
    ("kind", "data"),
    [("act", {"action": "wait", "arguments": {"minutes": "x"}}), ("read", {}), ("gauges", {"low": "x", "high": "off"})],
)
def test_a_step_that_is_none_is_refused(kind, data):
    with pytest.raises(BadInputError):
        checked(kind, data)
