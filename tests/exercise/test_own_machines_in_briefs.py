"""Machines of one's own in a request: calls, drills and situations are drawn from them as from any other."""

import json
import random
from functools import cache
from pathlib import Path

import pytest

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.exercise.draw.drills import drill
from wolfsbane.exercise.draw.generator import variant
from wolfsbane.exercise.draw.rung import Rung
from wolfsbane.exercise.draw.situations.drawing import situation
from wolfsbane.exercise.plan.brief import MAX_OWN, brief
from wolfsbane.exercise.plan.call_kind import kind_of
from wolfsbane.exercise.plan.request.read import read_request
from wolfsbane.tuning.first_guess import known_plate, restored
from wolfsbane.tuning.tuner import tune

PLATES = {p["name"]: p for p in json.loads((Path(__file__).parents[1] / "tuning" / "plates.json").read_text())}


@cache
def owned(application):
    """Plate and circuit of the first plate of an application, as the tuner writes them."""
    told = next(p for p in PLATES.values() if p.get("application", "air_conditioner") == application)
    made = tune(known_plate(told)).to_json()
    return {"plate": made["plate"], "circuit": made["circuit"]}


def test_a_request_may_bring_machines_along_and_draws_from_them_alone():
    own = owned("air_conditioner")
    made = brief({"title": "x", "own": [own]})
    machine_id = restored(own).id
    assert made.machines == (machine_id,) and made.machine(machine_id).id == machine_id
    assert made.own_of(machine_id) == own and made.own_of("split-3t-r410a-txv") is None
    again = brief(made.to_json())
    assert again == made and brief(json.loads(json.dumps(made.to_json()))) == made


@pytest.mark.parametrize(
    ("application", "skill", "level"),
    [
        ("air_conditioner", "low_airflow", 3),
        ("walk_in_cooler", "dirty_condenser", 2),
        ("reach_in", "dirty_condenser", 2),
    ],
)
def test_a_call_on_ones_own_machine_is_of_its_kind_and_carries_it(application, skill, level):
    own = owned(application)
    m = restored(own)
    made = brief({"title": "x", "own": [own], "machines": [m.id], "seed": 3})
    call = variant(made, Rung(number=1, level=level, skill=(skill,), forms=((skill,),)), 1)
    assert call.machine.id == m.id and call.machine.name == m.name
    assert call.machine.circuit == {k: pytest.approx(v) for k, v in m.circuit._asdict().items()}
    assert set(kind_of(m).essential) - {"suction_pressure", "head_pressure"} <= set(call.readings)


def test_drills_and_situations_are_drawn_from_it():
    own = owned("walk_in_cooler")
    m = restored(own)
    made = brief({"title": "x", "own": [own]})
    assert situation("machine_or_load", made, 5).machine.id == m.id
    told = drill("conversion", 4, made, random.Random(2))
    assert all(m.refrigerant in row["prompt"] for row in told["items"])
    # Where it does not fit, a machine that ships stands in.
    assert situation("economizer", made, 5).machine.id == "package-10t-r410a-two-circuits"


def test_what_is_no_machine_of_the_request_is_refused_by_name():
    own = owned("air_conditioner")
    with pytest.raises(BadInputError, match="own-ghost"):
        brief({"title": "x", "own": [own], "machines": ["own-ghost"]})
    with pytest.raises(BadInputError, match="toaster"):
        brief({"title": "x", "machines": ["toaster"]})
    with pytest.raises(BadInputError, match="own"):
        brief({"title": "x", "own": [own] * (MAX_OWN + 1)})
    with pytest.raises(BadInputError, match="own"):
        brief({"title": "x", "own": [{"plate": own["plate"]}]})
    with pytest.raises(BadInputError, match="machines"):
        brief({"title": "x", "machines": []})


def test_a_sentence_names_a_machine_of_ones_own_by_its_name():
    split, cooler = owned("air_conditioner"), owned("walk_in_cooler")
    mine, box = restored(split), restored(cooler)
    read = read_request(f"four calls on the {mine.name.upper()}, easy to hard", (split, cooler))
    assert read.settled and read.brief["machines"] == [mine.id] and read.brief["calls"] == 4
    assert any(u.text == mine.name and u.value == [mine.id] for u in read.understood)
    both = read_request(f"3 calls, {mine.name} and {box.name}, low charge", (split, cooler))
    assert both.settled and both.brief["machines"] == [mine.id, box.id] and both.brief["faults"] == ["undercharge"]
    beside = read_request(f"6 calls on walk-in coolers and the {mine.name}", (split, cooler))
    assert mine.id in beside.brief["machines"] and box.id not in beside.brief["machines"]
    assert any(MACHINES[i].application == "walk_in_cooler" for i in beside.brief["machines"] if i in MACHINES)


def test_a_name_that_is_nobodys_machine_is_left_over_and_a_fault_it_cannot_have_refused():
    split = owned("air_conditioner")
    strange = read_request("two calls on the Zinnia Ninety", (split,))
    assert [x.words for x in strange.not_understood] == ["Zinnia Ninety"] and "machines" not in strange.brief
    wrong = read_request(f"two calls on the {restored(split).name}, fouled tubes", (split,))
    assert not wrong.settled and wrong.impossible
