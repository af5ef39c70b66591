"""Write docs/marking.md: the rubric and the worked cases of the tests with their marks and why."""

import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from tests.exercise.test_gaming import measured  # noqa: E402
from tests.exercise.test_marking_earned import CASES as EARNED  # noqa: E402
from tests.exercise.test_marking_earned import possible as possible_earned  # noqa: E402
from tests.exercise.test_marking_other_calls import CASES as OTHERS  # noqa: E402
from tests.exercise.test_marking_other_calls import possible  # noqa: E402
from tests.exercise.test_marking_table import CASES  # noqa: E402
from wolfsbane.exercise.marking.grade import RUBRIC_VERSION  # noqa: E402
from wolfsbane.exercise.marking.rubric import LINES, PARTIAL  # noqa: E402

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

One undercharged valve machine, 21 marks. Each row says what stands on the paper otherwise than on the key. Written by
`make marking` from `tests/exercise/test_marking_table.py`, where every row is marked again.

| case | marks of 21 | why |
|---|---|---|
"""
OTHERS_HEAD = """
## Other kinds of calls

Two faults at once, a machine with nothing wrong, an orifice, a rig, pipes instead of gauges, a drill; from
`tests/exercise/test_marking_other_calls.py`.

| call | case | marks | why |
|---|---|---|---|
"""


def main():
    """Write the page."""
    rows = "".join(f"| {what} | {earns} |\n" for what, earns in LINES)
    cases = "".join(f"| {case.__name__.replace('_', ' ')} | {21 - lost} | {why} |\n" for case, lost, _, why in CASES)
    others = "".join(
        f"| {kind} | {case.__name__.replace('_', ' ')} | {possible(kind) - lost} of {possible(kind)} | {why} |\n"
        for kind, case, lost, _, why in OTHERS
    )
    slips = ", ".join(code.replace("_", " ") for code in PARTIAL)
    (ROOT / "docs/marking.md").write_text(HEAD + rows + CASES_HEAD.format(slips=slips) + cases + OTHERS_HEAD + others)


if __name__ == "__main__":
    main()
