"""A situation on a sheet: its marking and its key. Works on the frozen situation alone.

A number follows from one's own earlier numbers; a conclusion earns with a number behind it, also where it follows from
one's own wrong number; a plan follows the conclusion.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.exercise.marking.answers import parse
from wolfsbane.exercise.marking.credit import Credit, Mark, exactly, full, mark_of, none, slip
from wolfsbane.exercise.marking.rules import NO_RULES
from wolfsbane.exercise.paper.rubrics import NO_WORK_SHARE

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.answers import Answer
    from wolfsbane.exercise.marking.rules import Rules
    from wolfsbane.exercise.paper.questions import Question
    from wolfsbane.exercise.paper.situation import LetterKey, NumberKey, Situation

_EPSILON = 1e-9
_READABLE = {"letter": "one letter", "letters": "letters"}


def situation_answers(body: Situation) -> dict[str, str]:
    """The key of a situation as an apprentice would write it."""
    numbers, letters = body.key.numbers, body.key.letters
    return {
        q.id: f"{numbers[q.id].value:g}" if q.id in numbers else body.letter(q.id, letters[q.id].right)
        for q in body.questions
    }


def grade_situation(body: Situation, answers: dict[str, str], rules: Rules = NO_RULES) -> list[Mark]:
    """Mark a frozen situation; ``answers`` question id -> raw text."""
    work = _Work(body, answers, rules)
    return [rules.applied(mark_of(q.id, q.points, work.credit(q), work.given[q.id].raw)) for q in body.questions]


class _Work:
    """One apprentice's answers to a situation, and what each of them has come to so far."""

    def __init__(self, body: Situation, answers: dict[str, str], rules: Rules) -> None:
        self.body, self.rules = body, rules
        self.given: dict[str, Answer] = {}
        for q in body.questions:
            rows = tuple((c.letter, c.id, c.text) for c in body.choices.get(q.id, ()))
            self.given[q.id] = parse(q.kind, answers.get(q.id), q.unit, rows)
        self.worked: set[str] = set()
        self.right: set[str] = set()
        self.concluded: dict[str, str] = {}
        self.guessed: set[str] = set()

    def credit(self, q: Question) -> Credit:
        """What the answer to a question earns; questions are taken in printed order."""
        given = self.given[q.id]
        if given.blank:
            return none("blank")
        if given.understood:
            return none("asked_back", raw=given.raw, understood=given.understood)
        if given.unreadable:
            return none("unreadable", raw=given.raw, allowed=_READABLE.get(q.kind, "a number"))
        if q.id in self.body.key.numbers:
            return self._number(q, self.body.key.numbers[q.id], float(given.value))
        return self._letter(q, self.body.key.letters[q.id], str(given.value))

    def _number(self, q: Question, key: NumberKey, given: float) -> Credit:
        tolerance = key.tolerance * self.rules.widened("sum") + _EPSILON
        said = {"given": _said(given), "expected": _said(key.value)}
        if abs(given - key.value) <= tolerance:
            self.worked.add(q.id)
            self.right.add(q.id)
            return full("drill_right", expected=said["expected"])
        own = key.value + sum(
            per * (self.given[other].value - self.body.key.numbers[other].value)
            for other, per in key.per.items()
            if self.given[other].value is not None
        )
        if abs(given - own) <= tolerance:
            self.worked.add(q.id)
            return full("number_follows", expected=_said(key.value), own=_said(own))
        known = next((s for s in key.slips if abs(given - s.value) <= tolerance), None)
        if known is not None:
            self.worked.add(q.id)
            return slip("number_slip", mistake=known.text, **said)
        return none("wrong_number", **said)

    def _letter(self, q: Question, key: LetterKey, letter: str) -> Credit:
        choice = self.body.chosen(q.id, letter)
        if choice is None:
            allowed = ", ".join(c.letter for c in self.body.choices[q.id])
            return none("unknown_letter", given=letter, allowed=allowed)
        expected = self._truth(q.id)
        accepted = (key.right, *key.also, *self.rules.accepted(q.id))
        if key.after is not None:
            return self._plan(q, key, choice.id, accepted, expected)
        right = choice.id in accepted
        if not self._stands(key):
            self.guessed.add(q.id)
            return _no_work(q, right)
        if right:
            self.concluded[q.id] = key.right
            return full("drill_right", expected=expected)
        if self._follows(key, choice.id):
            self.concluded[q.id] = choice.id
            return full("letter_follows", expected=expected)
        return none("letter_wrong", feedback=key.why.get(choice.id, ""), expected=expected)

    def _plan(self, q: Question, key: LetterKey, chosen: str, accepted: tuple[str, ...], expected: str) -> Credit:
        """A step that depends on what was concluded: right for the machine, or for a conclusion that follows."""
        before = str(key.after)
        concluded = self.concluded.get(before)
        if concluded is None:
            if before in self.guessed:
                return _no_work(q, chosen in accepted)
            return none("no_conclusion") if self.given[before].blank else none("no_plan", fault=self._truth(before))
        if chosen in accepted:
            return full("drill_right", expected=expected)
        if concluded != self.body.key.letters[str(key.after)].right and key.plan.get(concluded) == chosen:
            return full("letter_follows", expected=expected)
        return none("letter_wrong", feedback=key.why.get(chosen, ""), expected=expected)

    def _truth(self, question: str) -> str:
        """The right choice, letter and words."""
        right = self.body.key.letters[question].right
        return next(f"{c.letter} ({c.text})" for c in self.body.choices[question] if c.id == right)

    def _stands(self, key: LetterKey) -> bool:
        """Whether half of the numbers a conclusion goes by came about by reading and subtracting."""
        behind = [q for q in key.because if q in self.worked]
        return 2 * len(behind) >= len(key.because)

    def _follows(self, key: LetterKey, choice: str) -> bool:
        for row in key.follows:
            own = self.given[row.question].value
            off = row.question in self.worked and row.question not in self.right
            if row.choice == choice and off and own is not None and row.holds(float(own)):
                return True
        return False


def _no_work(q: Question, right: bool) -> Credit:
    """What an answer earns that no number stands behind: a small share where it is right."""
    return exactly(int((q.points if right else 0) * NO_WORK_SHARE + _EPSILON), "no_work")


def _said(value: float) -> str:
    return f"{round(value, 1) + 0.0:g}".replace("-", "−")
