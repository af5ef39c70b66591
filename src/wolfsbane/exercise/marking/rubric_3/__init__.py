"""Rubric 3 as it was: calls that were frozen before rubric 4 are read and marked by it, unchanged.

Nothing here is improved. What a mark is, how rules apply and how a reason reads is shared with the rubric in use.
"""

from wolfsbane.exercise.marking.rubric_3.judges import JUDGES, repair_answers
from wolfsbane.exercise.marking.rubric_3.lines import LINES
from wolfsbane.exercise.marking.rubric_3.work import Work

__all__ = ["JUDGES", "LINES", "Work", "repair_answers"]
