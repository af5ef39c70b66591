"""The starter library: sixty scenarios, every kind of machine and call, sheets and courses made of them."""

from collections import Counter

import pytest

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.solver import SOLVER_VERSION
from wolfsbane.exercise.draw.variant import vary
from wolfsbane.exercise.marking.grade import grade, perfect_answers, total
from wolfsbane.exercise.plan.brief import DRILLS
from wolfsbane.exercise.plan.call_kind import KINDS, kind_of
from wolfsbane.exercise.plan.scenario import require_paper
from wolfsbane.exercise.plan.starter_library import course, courses, ready_scenarios, ready_sheets
from wolfsbane.server.services.library import proof_of

READY = ready_scenarios()


def test_sixty_scenarios_cover_every_kind_of_machine_and_every_level():
    assert len(READY) >= 60 and all(r.scenario.title == title for title, r in READY.items())
    kinds = Counter(kind_of(r.scenario.profile).id for r in READY.values())
    assert set(kinds) == set(KINDS) and min(kinds.values()) >= 3
    assert set(Counter(r.level for r in READY.values())) == {1, 2, 3, 4, 5}
    hidden = {f.id for r in READY.values() for f in r.scenario.faults}
    assert len(hidden) >= 18 and hidden & set(INSTRUMENT_FAULTS)
    assert sum(not r.scenario.faults for r in READY.values()) >= 4
    assert sum(len(r.scenario.faults) > 1 for r in READY.values()) >= 4


@pytest.mark.parametrize("title", READY)
def test_every_one_can_be_printed_is_tagged_and_tells_a_story(title):
    made = require_paper(READY[title].scenario)
    assert made.tags and made.complaint and made.history
    assert READY[title].solver_version == SOLVER_VERSION, "run make starter"
    assert READY[title].sentence


@pytest.mark.parametrize("title", list(READY)[::6])
def test_one_drawn_again_has_one_answer_and_the_proof_that_is_kept(title):
    ready = READY[title]
    made = vary(ready.scenario, "us", 3)
    assert made.key.unique and total(grade(made, perfect_answers(made)))[0] == sum(q.points for q in made.questions)
    level, one_answer, sentence = proof_of(ready.scenario)
    assert (level, one_answer, sentence) == (ready.level, ready.one_answer, ready.sentence)


def test_no_story_names_what_is_wrong():
    telling = ("undercharge", "overcharge", "restriction", "txv", "non-condensable", "weak compressor")
    for ready in READY.values():
        said = f"{ready.scenario.complaint} {ready.scenario.history}".lower()
        assert not [t for t in telling if t in said], ready.scenario.title


def test_sheets_are_made_of_what_there_is_and_courses_of_sheets():
    assert len(ready_sheets()) >= 12
    for sheet in ready_sheets().values():
        assert sheet.items and sheet.aim
        for item in sheet.items:
            assert item.get("scenario") in READY if "scenario" in item else item["drill"] in DRILLS
    used = {week.sheet.id for one in courses().values() for week in one.weeks}
    assert used == set(ready_sheets()), "every ready sheet has its week"
    assert [w.week for w in course("cooling").weeks] == list(range(1, len(course("cooling").weeks) + 1))
    with pytest.raises(BadInputError):
        course("knitting")
