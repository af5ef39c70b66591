"""Write docs/marking.md: the rubric, what guessing earns, and the worked cases with their marks and why."""

import os
import sys
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from tests.conftest import VALVE, offering, planned  # noqa: E402
from tests.exercise.test_marking_earned import CASES as EARNED  # noqa: E402
from tests.exercise.test_marking_earned import possible as possible_earned  # noqa: E402
from tests.exercise.test_marking_every_machine import CASES as EVERY  # noqa: E402
from tests.exercise.test_marking_every_machine import possible as possible_every  # noqa: E402
from tests.exercise.test_marking_other_calls import CASES as OTHERS  # noqa: E402
from tests.exercise.test_marking_other_calls import body, possible  # noqa: E402
from tests.exercise.test_marking_situations import CASES as SITUATED  # noqa: E402
from tests.exercise.test_marking_situations import possible as possible_situated  # noqa: E402
from tests.exercise.test_marking_table import CASES  # noqa: E402
from wolfsbane.exercise.draw.generator import class_set  # noqa: E402
from wolfsbane.exercise.marking.gaming import gaming  # noqa: E402
from wolfsbane.exercise.marking.grade import RUBRIC_VERSION, grade, perfect_answers  # noqa: E402
from wolfsbane.exercise.marking.rubric import LINES, PARTIAL  # noqa: E402
from wolfsbane.exercise.paper.call import call_from_json  # noqa: E402
from wolfsbane.exercise.paper.drill import DrillBody  # noqa: E402
from wolfsbane.exercise.paper.questions import CORRECT, DIAGNOSE, MEASURED  # noqa: E402
from wolfsbane.exercise.paper.rubrics import RUBRICS, points_of, shares  # noqa: E402
from wolfsbane.exercise.plan.brief import brief  # noqa: E402

HEAD = f"""# Marking

Every answer is marked against the apprentice's own numbers before it, from the frozen call alone: nothing is solved
again when a paper is marked, so a later solver never re-marks old paper. Rubric version {RUBRIC_VERSION}. The rule that
one slip costs one mark is common practice among examiners, no source; so are the shares below.

## What earns what

| question | what earns |
|---|---|
"""
CASES_HEAD = """
Named slips that earn half where a question carries two points or more: {slips}.

Answers that the proof leaves open all earn in full. Free text is matched on the figures it states; the points are
proposed and count only once an instructor confirms them. An instructor may mark against the rubric with a reason,
accept more, widen a tolerance or exclude a question; the changes in score are shown first, and all of it is recorded.

## Worked cases

One undercharged valve machine, 33 points. Each row says what stands on the paper otherwise than on the key. Written by
`make marking` from `tests/exercise/test_marking_table.py`, where every row is marked again.

| case | points of 33 | why |
|---|---|---|
"""
OTHERS_HEAD = """
## Other kinds of calls

Two faults at once, a machine with nothing wrong, an orifice, a rig, pipes instead of gauges, a drill; from
`tests/exercise/test_marking_other_calls.py`.

| call | case | marks | why |
|---|---|---|---|
"""


EARNED_HEAD = """
## What must be earned

Answers without work behind them, plans, harm, amounts, routes and typing; from `tests/exercise/test_marking_earned.py`.

| call | case | points | why |
|---|---|---|---|
"""
MOVED_HEAD = """
## What moved from rubric 3 to rubric 4

The worked cases above whose answers earn another share of some question than before. All others keep every mark. Calls
frozen with rubric 3 are marked by it for ever (`src/wolfsbane/exercise/marking/rubric_3`). Orders offer other steps
now and are not compared row by row: charging before the leak, and never looking for it, earned half and earn nothing,
since that is harm.

| case | share of the points, before → now | why |
|---|---|---|
"""
RUBRICS_HEAD = """
## The three rubrics

Points of a whole call; figures count their verdicts, the plan counts what the readings become.

| rubric | points | figures | conclusion and evidence | plan and outcome | on a rig |
|---|---|---|---|---|---|
"""
GAMING_HEAD = """
## What guessing earns

Measured by `wolfsbane gaming` over three requests of forty calls each (seeds 101 to 103). A strategy that names one
answer every time counts on the calls where that answer is wrong; "always" and "then always" stand for the fault that
pays best. The fault named from the complaint alone is shown as faults named rightly over chance, in points.

| strategy | valve | orifice | mixed | may earn |
|---|---|---|---|---|
"""
REQUESTS = (
    {"machines": ["split-3t-r410a-txv", "split-3t-r22-txv", "split-2t-r32-txv"], "seed": 101},
    {"machines": ["split-3t-r410a-orifice", "split-3t-r22-orifice", "split-4t-r454b-orifice"], "seed": 102},
    {"seed": 103},
)


def played(request):
    """What every strategy earns on forty calls of a request, by id; the best of those that go by fault."""
    made = class_set(brief({"title": "Guessing", "calls": 8, "apprentices": 5, "levels": [1, 4], **request}))
    calls = [call_from_json(row["call"]) for sheet in made["sheets"] for row in sheet["calls"]]
    found = {}
    for row in gaming(calls, str(request["seed"])):
        kind, _, fault = row.id.partition(":")
        text = (
            row.text
            if not fault
            else {"always": "Always the same fault, no numbers"}.get(
                kind, "Right numbers and verdicts, then always the same fault"
            )
        )
        if kind not in found or row.share > found[kind][1]:
            found[kind] = (text, row.share, row.limit)
        if row.named is not None:
            found["named"] = (
                "Fault named from the complaint alone, above chance",
                max(row.named - row.chance, 0),
                0.10,
            )
    return found


def guessing_rows():
    """The table of what guessing earns."""
    with ProcessPoolExecutor(min(os.cpu_count() or 1, len(REQUESTS))) as pool:
        each = list(pool.map(played, REQUESTS))
    rows = ""
    for kind in each[0]:
        text, _, limit = each[0][kind]
        cells = " | ".join(f"{100 * one[kind][1]:.0f} %" if kind in one else "0 %" for one in each)
        rows += f"| strategy: {text} | {cells} | {100 * limit:.0f} % |\n"
    return rows


#: readings that only a box with a receiver, or a condenser cooled by water, is asked for
_ON_BOXES = ("read_evaporator_outlet", "read_water_in")


def rubric_rows():
    """The table of the named rubrics."""
    rows = ""
    for rubric in RUBRICS.values():
        asked = tuple(q for q in (*DIAGNOSE, *CORRECT) if not q.startswith("evaporator_superheat"))
        whole = points_of(rubric.id, asked)
        rig = points_of(rubric.id, (*(q for q in MEASURED if q not in _ON_BOXES), *asked))
        parts = shares(whole)
        cells = " | ".join(f"{100 * parts[p]:.0f} %" for p in ("figures", "conclusion", "plan"))
        of_rig = ", ".join(f"{100 * shares(rig)[p]:.0f}" for p in ("figures", "conclusion", "plan"))
        rows += f"| {rubric.name} | {sum(whole.values())} | {cells} | {sum(rig.values())} points: {of_rig} % |\n"
    return rows


def moved_rows():
    """Worked cases that earn another share of a question than under the rubric before, one row each."""
    call = offering(planned("undercharge", 80, VALVE), "us", "overcharge", "dirty_condenser", "low_airflow")
    cases = [("", call, case, why) for case, _, _, why in CASES]
    cases += [(f"{kind}: ", body(kind), case, why) for kind, case, _, _, why in OTHERS]
    rows = ""
    for kind, made, case, why in cases:
        if isinstance(made, DrillBody):
            continue
        answers = perfect_answers(made) | case(made)
        was = {m.question: m for m in grade(replace(made, rubric="3"), answers)}
        moves = []
        for mark in grade(made, answers):
            before, now = was[mark.question].earned / mark.points, mark.earned / mark.points
            if abs(before - now) > 1e-9:
                moves.append(f"{mark.question} {100 * before:.0f} → {100 * now:.0f} %")
        if moves:
            rows += f"| {kind}{case.__name__.replace('_', ' ')} | {', '.join(moves)} | {why} |\n"
    return rows


EVERY_HEAD = """
## Every kind of machine

A walk-in, a reach-in without gauges, both circuits of a rooftop, water, heating, an instrument that lies, a second
visit; from `tests/exercise/test_marking_every_machine.py`.

| call | case | marks | why |
|---|---|---|---|
"""
SITUATED_HEAD = """
## Situations

What no steady set of readings shows. A number is right, or follows from one's own earlier numbers; a conclusion needs
half of the numbers it goes by, and also earns where it follows from one's own wrong number; a plan follows the
conclusion. Letters with no number behind them earn a quarter at most. From
`tests/exercise/test_marking_situations.py`.

| situation | case | marks | why |
|---|---|---|---|
"""


def worked(cases, possible_of):
    """Rows of worked cases on several kinds."""
    return "".join(
        f"| {kind.replace('_', ' ')} | {case.__name__.replace('_', ' ')} |"
        f" {possible_of(kind) - lost} of {possible_of(kind)} | {why} |\n"
        for kind, case, lost, _, why in cases
    )


def main():
    """Write the page."""
    rows = "".join(f"| {what} | {earns} |\n" for what, earns in LINES)
    cases = "".join(f"| {case.__name__.replace('_', ' ')} | {33 - lost} | {why} |\n" for case, lost, _, why in CASES)
    others = "".join(
        f"| {kind} | {case.__name__.replace('_', ' ')} | {possible(kind) - lost} of {possible(kind)} | {why} |\n"
        for kind, case, lost, _, why in OTHERS
    )
    slips = ", ".join(code.replace("_", " ") for code in PARTIAL)
    earned = "".join(
        f"| {kind} | {case.__name__.replace('_', ' ')} | {possible_earned(kind) - lost} of {possible_earned(kind)} |"
        f" {why} |\n"
        for kind, case, lost, _, why in EARNED
    )
    parts = (
        HEAD + rows,
        RUBRICS_HEAD + rubric_rows(),
        GAMING_HEAD + guessing_rows(),
        CASES_HEAD.format(slips=slips) + cases,
        OTHERS_HEAD + others,
        EVERY_HEAD + worked(EVERY, possible_every),
        SITUATED_HEAD + worked(SITUATED, possible_situated),
        EARNED_HEAD + earned,
        MOVED_HEAD + moved_rows(),
    )
    (ROOT / "docs/marking.md").write_text("".join(parts))


if __name__ == "__main__":
    main()
