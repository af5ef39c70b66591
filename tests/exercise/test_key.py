"""The frozen call and its key: one reader, one writer, nothing changed afterwards."""

import json
from dataclasses import FrozenInstanceError, fields, is_dataclass, replace

import pytest

from tests.conftest import planned
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.exercise.draw import item as items_of
from wolfsbane.exercise.draw.variant import vary
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.marking.credit import Share, exactly, full, mark_of, none, slip
from wolfsbane.exercise.paper.call import call_from_json
from wolfsbane.exercise.paper.drill import DrillBody
from wolfsbane.exercise.paper.key import plain


@pytest.fixture(scope="module")
def call():
    return vary(planned("undercharge", 78), "us", 2)


@pytest.fixture(scope="module")
def two():
    both = planned("undercharge", 72).to_json()
    both["faults"] = [{"id": "dirty_condenser", "severity": 55}, *both["faults"]]
    one = items_of.item({"kind": "scenario", "body": both, "asked": {"leave_open": True}})
    return items_of.draw(one, 1, 0, "us", 5)


def parts(value):
    """Every dataclass within a value, itself among them."""
    if is_dataclass(value):
        yield value
        value = [getattr(value, f.name) for f in fields(value)]
    elif isinstance(value, dict):
        value = value.values()
    elif not isinstance(value, (list, tuple)):
        return
    for inner in value:
        yield from parts(inner)


def test_nothing_of_a_call_can_be_changed(call):
    found = list(parts(call))
    assert len(found) > 60
    for part in found:
        with pytest.raises(FrozenInstanceError):
            setattr(part, fields(part)[0].name, None)


@pytest.mark.parametrize("which", ["call", "two"])
def test_a_call_survives_storage_part_by_part(which, request):
    made = request.getfixturevalue(which)
    again = call_from_json(json.loads(json.dumps(made.to_json())))
    for field in fields(made.key):
        assert getattr(again.key, field.name) == getattr(made.key, field.name), field.name
    assert again == made


def test_a_key_names_what_is_wrong_or_that_nothing_is(call, two):
    assert call.key.named == ("undercharge",) and two.key.named == ("dirty_condenser", "undercharge")
    sound = replace(call.key, fault="none", faults=())
    assert sound.named == ("none",) and replace(call.key, difficulty=None).level is None and 1 <= call.key.level <= 5


def test_a_choice_is_found_by_what_it_stands_for(call):
    for question in ("fault", "evidence", "action"):
        for choice in call.choices.lettered(question):
            assert call.choices.letter(question, choice.id) == choice.letter
    assert [call.choices.number(step.id) for step in call.choices.order] == [s.number for s in call.choices.order]
    assert call.choices.lettered("superheat") == ()
    for missing in (lambda: call.choices.letter("fault", "gremlins"), lambda: call.choices.number("nap")):
        with pytest.raises(KeyError):
            missing()


def test_the_correction_of_a_call_is_plain_data_as_well(two):
    data = plain(two.key.correction)
    assert data["first"]["action"] == two.key.correction.first.action and json.loads(json.dumps(data)) == data
    assert [step["text"] for step in data["steps"]] == [step.text for step in two.key.correction.steps]


def test_a_stored_drill_is_a_drill_again():
    one = items_of.item({"kind": "drill", "drill": "conversion", "items": 2, "brief": {"title": "x"}})
    made = items_of.draw(one, 1, 0, "si", 3)
    again = frozen_body.body_from_json(json.loads(json.dumps(made.to_json())))
    assert isinstance(again, DrillBody) and again.units == "si"
    assert frozen_body.key_answers(again) == frozen_body.key_answers(made)
    assert frozen_body.level_of(again) is None and not frozen_body.on_rig(again) and not frozen_body.waits(again)


@pytest.mark.parametrize("body", [None, 5, [], {}, {"key": 3}, {"schema": 9, "key": {}}])
def test_what_is_no_call_is_refused_with_the_field(body):
    with pytest.raises(BadInputError) as error:
        call_from_json(body)
    assert error.value.field.startswith("call")


@pytest.mark.parametrize(
    ("credit", "share", "of_three"),
    [
        (full("right_reading"), Share.ALL, 3),
        (none("blank"), Share.NONE, 0),
        (slip("swapped"), Share.SLIP, 1),
        (slip("no_such_slip"), Share.SLIP, 0),
        (exactly(2, "faults_part"), Share.ALL, 2),
        (exactly(7, "faults_part"), Share.ALL, 3),
        (exactly(-2, "faults_part"), Share.ALL, 0),
    ],
)
def test_a_credit_is_worth_its_share_of_any_points(credit, share, of_three):
    assert credit.share is share and credit.earned(3) == of_three and 0 <= credit.earned(0) <= 0
    assert mark_of("fault", 3, credit, "B").earned == of_three
