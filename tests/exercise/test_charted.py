"""The chart that plans are chosen from: made by this solver, the same when drawn again, and enough to plan without a
solve.
"""

from collections import Counter
from dataclasses import replace

import pytest

from tests.conftest import ORIFICE, VALVE
from wolfsbane.exercise.draw import charted, tries
from wolfsbane.exercise.draw.charted import Piece, known_of, pieces, usual
from wolfsbane.exercise.draw.generator import variant
from wolfsbane.exercise.draw.planning import plan
from wolfsbane.exercise.draw.rung import BAND, Rung, skill_id
from wolfsbane.exercise.draw.tries import NoClassSetError
from wolfsbane.exercise.plan.brief import brief


def rows():
    return charted._rows()


def test_the_chart_was_made_by_this_solver_and_holds_every_piece():
    """After a change of solver, tables or variants: make chart."""
    found = {Piece(machine=m, skill=s) for m, skills in rows().items() for s in skills}
    assert found == set(pieces())


@pytest.mark.parametrize("piece", [Piece(machine=VALVE, skill=("overcharge",)), Piece(machine=ORIFICE, skill=())])
def test_a_piece_drawn_again_is_what_the_chart_says(piece):
    """But for a call or two: another processor may round a reading on its edge the other way."""
    again, kept = charted.charted(piece), rows()[piece.machine][piece.skill]
    assert again["skill"] == skill_id(piece.skill)
    same = sum((Counter(map(tuple, again["calls"])) & Counter(map(tuple, kept))).values())
    assert same >= 0.7 * max(len(kept), len(again["calls"])) > 0


def test_a_usual_request_is_planned_without_a_single_solve(monkeypatch):
    def solved(*args, **given):
        raise AssertionError("a plan from the chart solves nothing")

    monkeypatch.setattr(tries, "solved_cases", solved)
    for seed in range(8):
        ladder = plan(brief({"title": "Friday", "calls": 5, "levels": [1, 5], "seed": seed}))
        levels = [r.level for r in ladder]
        assert levels == sorted(levels) and levels[0] <= 2 and levels[-1] >= 4
        assert len({r.skill for r in ladder}) >= 4
        known = known_of(brief({"title": "Friday"}))
        for rung in ladder:
            for skill in rung.forms:
                reached = known[skill].get((rung.level, rung.look_decides), [])
                assert skill == rung.skill or sum(abs(p - rung.success) <= BAND for p in reached) >= 2 or skill == ()


def test_what_the_chart_promises_can_be_drawn():
    made = brief({"title": "Friday", "calls": 3, "levels": [1, 4], "seed": 5, "apprentices": 2})
    for rung in plan(made):
        assert variant(made, rung, 2).key.difficulty.level == rung.level


def test_a_refusal_is_looked_up_and_names_the_nearest(monkeypatch):
    monkeypatch.setattr(tries, "solved_cases", None)
    asked = {"title": "x", "calls": 2, "levels": [5, 5], "machines": [VALVE], "fault_free_share": 0, "two_faults": 2}
    try:
        ladder = plan(brief(asked))
    except NoClassSetError as error:
        assert "The closest that works is level" in str(error)
    else:
        assert {r.level for r in ladder} == {5}


@pytest.mark.parametrize(
    "change",
    [
        {"weather": {"outdoor_db_f": [70, 80]}},
        {"practice": "chart_first"},
        {"altitude_ft": 5000},
        {"given_tests": ["filter"]},
        {"given_readings": ["suction_pressure"]},
        {"faults": ["undercharge", "overcharge"]},
        {"machines": ["split-2.5t-r22-orifice-old"]},
    ],
)
def test_a_request_that_moves_the_levels_is_scouted(change):
    base = {"title": "x", "machines": [VALVE]}
    assert usual(brief(base)) and usual(brief(base | {"units": "si", "calls": 3}))
    if "practice" in change:
        from wolfsbane.diagnosis.practices import PRACTICES

        change = {"practice": next(p for p in PRACTICES if p != "plate_and_formula")}
    assert not usual(brief(base | change))


def test_a_rung_is_drawn_on_machines_that_reach_it_first():
    asked = brief({"title": "Friday"})
    skill = ("condenser_fan_weak",)
    reached = {m: [c for c in rows()[m].get(skill, ()) if c[0] == 1] for m in asked.machines}
    those = {m for m, calls in reached.items() if calls}
    assert 2 <= len(those) < len(asked.machines)
    some = [c for calls in reached.values() for c in calls]
    rung = Rung(number=1, level=1, skill=skill, success=max(c[2] for c in some), look_decides=None)
    likeliest = charted.likely(asked, skill, rung)
    assert set(likeliest) and set(likeliest) <= those
    drawn = variant(asked, rung, 1)
    assert drawn.machine.id in likeliest and abs(drawn.key.difficulty.success - rung.success) <= BAND
    elsewhere = brief({"title": "Friday", "weather": {"outdoor_db_f": [60, 70]}})
    assert charted.likely(elsewhere, skill, rung) == ()
    assert charted.likely(asked, skill, replace(rung, level=5, success=0.01)) == ()


def test_other_answers_beside_the_hidden_one_bring_a_page_to_its_rung(monkeypatch):
    """A machine with nothing wrong has no severity to turn; without trying other answers most settings are thrown
    away.
    """
    asked = brief({"title": "Friday", "machines": [VALVE], "seed": 4})
    rung = Rung(number=1, level=3, skill=(), success=0.8, look_decides=False)

    def settings():
        drawn = []
        real = tries.solved_cases
        monkeypatch.setattr(tries, "solved_cases", lambda *a: drawn.append(a) or real(*a))
        found = [variant(asked, rung, apprentice) for apprentice in range(1, 4)]
        monkeypatch.setattr(tries, "solved_cases", real)
        assert all(abs(call.key.difficulty.success - 0.8) <= BAND for call in found)
        return len(drawn)

    with_others = settings()
    monkeypatch.setattr(tries, "_OFFERS", 1)
    assert with_others < 0.5 * settings()
