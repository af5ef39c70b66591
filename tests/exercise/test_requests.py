"""Requests in words: what a sentence is read as, and that nothing else is drawn in silence."""

import json
import re
from pathlib import Path

import pytest

from wolfsbane.cycle.everyday import expand, fault_names, names_of_fault
from wolfsbane.cycle.everyday_machines import MACHINE_WORDS, machine_names, names_of_machine, refrigerant_names
from wolfsbane.cycle.faults import FAULTS, NONE
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.exercise.draw.generator import variant
from wolfsbane.exercise.draw.planning import plan
from wolfsbane.exercise.paper.pipes import PIPE_OF
from wolfsbane.exercise.plan.brief import USUAL_MACHINES, brief
from wolfsbane.exercise.plan.request import terms
from wolfsbane.exercise.plan.request.read import read_request
from wolfsbane.exercise.plan.request.sentence import compiled, plain

#: sentence, what the brief names, words not understood, words that cannot be had: read by a person, line by line
ROWS = [json.loads(line) for line in (Path(__file__).parent / "requests.jsonl").read_text().splitlines()]
WALK_INS = {m.id for m in MACHINES.values() if m.application.startswith("walk_in")}


def test_there_are_sentences_enough():
    assert len(ROWS) >= 200 and len({row[0] for row in ROWS}) == len(ROWS)


@pytest.mark.parametrize("row", ROWS, ids=lambda row: row[0][:50])
def test_a_sentence_is_read(row):
    text, expected, not_understood, impossible = row
    read = read_request(text)
    assert read.brief == expected
    assert [x.words for x in read.not_understood] == not_understood
    assert [x.words for x in read.impossible] == impossible


def test_no_name_is_passed_over_by_the_letters_it_begins_with():
    """Patterns of names are compiled only where those letters stand in the sentence."""
    seen = 0
    for name, _, pattern in terms._all_names():
        for form in (name, f"{name}s", f"{name}es", f"{name[:-1]}ies"):
            match = compiled(pattern).search(plain(form))
            assert match is None or terms._begins_like(name) in match[0], form
            seen += match is not None
    assert seen > 2000
    assert terms._begins_like("dirty condenser") == "dirt"


@pytest.mark.parametrize("row", ROWS[::3], ids=lambda row: row[0][:50])
def test_what_is_read_makes_a_brief_and_says_by_which_words(row):
    read = read_request(row[0])
    assert brief({"title": "x", **read.brief})
    for part in (*read.understood, *read.not_understood, *read.impossible):
        assert read.text[part.start : part.end] == part.words and part.words.strip(" ,") == part.words != ""
    assert all(x.why for x in read.impossible)
    spans = sorted((x.start, x.end) for x in (*read.not_understood, *read.impossible))
    assert all(a[1] <= b[0] for a, b in zip(spans, spans[1:], strict=False))


@pytest.mark.parametrize("row", ROWS[::4], ids=lambda row: row[0][:50])
def test_a_word_of_no_meaning_is_always_said(row):
    """Wherever it stands, it changes nothing else and is asked about."""
    text, expected = row[0], row[1]
    for changed in (f"zorblat, {text}", f"{text}, zorblat"):
        read = read_request(changed)
        assert "zorblat" in [x.words for x in read.not_understood]
        assert read.brief == expected


@pytest.mark.parametrize("row", ROWS[1::5], ids=lambda row: row[0][:50])
def test_capitals_stops_and_spaces_make_no_difference(row):
    text = row[0]
    assert read_request(text.upper().replace("½", "½")).brief == row[1]
    assert read_request("  " + text + " .").brief == row[1]


@pytest.mark.parametrize(
    ("text", "nearest"),
    [
        ("four calls, overchrage", "overcharge"),
        ("six cals", "calls"),
        ("four calls with a dirty condensor", "dirty condenser"),
        ("frost, two calls", "situation: Frost on a heat pump"),
        ("a few calls", "3 calls"),
    ],
)
def test_what_is_not_understood_comes_with_the_nearest(text, nearest):
    read = read_request(text)
    assert not read.settled and [x.nearest for x in read.not_understood] == [nearest]


@pytest.mark.parametrize(
    ("text", "why", "nearest"),
    [
        ("4 calls on mini splits", "not modeled", "split with electronic valve"),
        ("walk-ins with R-410A", "no walk-in with R-410A is modeled", "walk-in"),
        ("splits, low water flow", "these machines cannot have this fault", "condenser fan slow"),
        ("a hunting valve", "no steady readings show it; there is a situation: Readings that swing", None),
        ("splits in winter", "these machines are not run in that weather", "82 to 102 outside"),
        ("hardest first", "calls run easiest first", "easy to hard"),
        ("3 tons and a half ton", None, None),
        ("two calls, five with nothing wrong and 3 two-fault calls", "allowed: a whole number from 0 to 2", None),
    ],
)
def test_what_cannot_be_had_comes_with_the_nearest_that_can(text, why, nearest):
    read = read_request(text)
    assert not read.settled
    if why is not None:
        assert [(x.why, x.nearest) for x in read.impossible] == [(why, nearest)]


def test_a_not_forbids_and_never_asks_for():
    for text in ("no dirty condensers", "without dirty condensers", "anything but dirty condensers, five calls"):
        made = brief({"title": "x", **read_request(text).brief})
        assert "dirty_condenser" not in made.faults and len(made.faults) > 5
    made = brief({"title": "x", **read_request("no R-22, no heat pumps").brief})
    assert {machine(m).refrigerant for m in made.machines} & {"R-22"} == set()
    assert set(made.machines) < set(USUAL_MACHINES)


def test_machines_are_those_that_were_named_and_no_others():
    assert set(read_request("walk-ins").brief["machines"]) == WALK_INS
    assert "machines" not in read_request("four calls").brief
    both = read_request("R-410A splits and R-290 reach-ins").brief["machines"]
    assert {machine(m).refrigerant for m in both} == {"R-410A", "R-290"}
    assert "reachin-r290-capillary" in both and not WALK_INS & set(both)


def test_a_fault_of_no_usual_machine_brings_its_machines():
    read = read_request("low water flow, three calls")
    assert read.settled and {machine(m).condenser for m in read.brief["machines"]} == {"water_cooled"}


def test_calls_without_gauges_are_drawn_by_line_temperatures():
    read = read_request("one call, no gauges, TXV, undercharge, level 1 to 5")
    made = brief({"title": "x", **read.brief, "apprentices": 1, "fault_free_share": 0})
    call = variant(made, plan(made)[0], 1)
    assert set(PIPE_OF.values()) <= set(call.readings) and "suction_pressure" not in call.readings


def test_everyday_names_are_plain_and_of_one_thing():
    for name in (*fault_names(), *machine_names(), *refrigerant_names()):
        assert re.fullmatch(r"[a-z0-9]+( [a-z0-9]+)*", name), name
    assert set(expand("(a|b) [(c|d)] e")) == {"a e", "b e", "a c e", "a d e", "b c e", "b d e"}
    for fault_id, kind in FAULTS.items():
        assert names_of_fault(fault_id), fault_id
        assert fault_names()[fault_id.replace("_", " ")] == (fault_id,), kind.name
    assert "nothing wrong" in names_of_fault(NONE)
    for m in MACHINES.values():
        assert names_of_machine(m), m.id
    assert all(any(w.suits(m) for m in MACHINES.values()) for w in MACHINE_WORDS)


@pytest.mark.parametrize(
    ("said", "fault_id"),
    [
        ("low charge", "undercharge"),
        ("short of gas", "undercharge"),
        ("plugged drier", "liquid_line_restriction"),
        ("bad valves", "leaking_compressor_valves"),
        ("flooding", "valve_overfeeding"),
        ("starving", "valve_underfeeding"),
        ("plugged filter", "low_airflow"),
        ("dirty coil outside", "dirty_condenser"),
        ("air", "non_condensables"),
    ],
)
def test_a_shop_s_words_are_found(said, fault_id):
    """Common practice, no source."""
    assert read_request(f"two calls, {said}").brief.get("faults") == [fault_id]
