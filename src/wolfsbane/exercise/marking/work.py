"""An apprentice's work on one call: what they wrote, and what they have established so far by their own numbers.

What follows from a wrong number is right only where there is work behind it: a figure counts as somebody's own when it
came about as a figure does (read, subtracted, or by a slip with a name), or when it stands among enough that did.
"""

from __future__ import annotations

from enum import Enum
from typing import TYPE_CHECKING

from wolfsbane.diagnosis.figures import SATURATIONS, parts_of
from wolfsbane.diagnosis.targets import HIGH, NORMAL, Band
from wolfsbane.exercise.marking.answers import Answer, parse
from wolfsbane.exercise.marking.credit import Credit, Share
from wolfsbane.exercise.marking.rubric import PARTIAL
from wolfsbane.exercise.paper.questions import QUESTIONS

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.rules import Rules
    from wolfsbane.exercise.paper.call import Call

#: the subtractions that may be asked
ASKED = ("superheat", "evaporator_superheat", "subcooling", "evaporator_td", "ctoa")
#: a saturation further off than this was not misread on the scale (assumed)
FAR_OFF = {"us": 5.0, "si": 5.0 / 1.8}
#: float noise that no tolerance may turn on
EPSILON = 1e-6


def shown(value: float) -> str:
    """A number as it stands in a reason."""
    return f"{value:.1f}".removesuffix(".0").replace("-", "−")


def near(a: float, b: float, tolerance: float) -> bool:
    """Whether two numbers lie within ``tolerance``, its ends included."""
    return abs(a - b) <= tolerance + EPSILON


class Conclusion(Enum):
    """How an apprentice's conclusion stands to the machine and to their own figures."""

    NONE = "none"
    RIGHT = "right"
    FOLLOWS = "follows"
    WRONG = "wrong"


class Work:
    """One pass over one call.

    ``own`` are the apprentice's own numbers, ``meant`` figures somebody clearly meant behind a turned sign or an
    exchange of two, ``slips`` what was named on a saturation already, ``earned`` the boxes that came about as they
    should, ``chosen`` the fault named and ``conclusion`` how it stands, ``unsafe`` what would have done harm.
    """

    def __init__(self, call: Call, answers: dict[str, str], rules: Rules) -> None:
        self.call, self.key, self.rules = call, call.key, rules
        self.readings = {name: reading.value for name, reading in call.readings.items()}
        self.questions = {question.id: question for question in call.questions}
        self.answers: dict[str, Answer] = {name: Answer(raw="") for name in QUESTIONS}
        self.answers |= {
            q.id: parse(q.kind, answers.get(q.id), q.unit, choices=_choices(call, q.id)) for q in call.questions
        }
        self.own: dict[str, float] = {}
        self.meant: dict[str, float] = {}
        self.slips: set[str] = set()
        self.earned: set[str] = set()
        self.chosen: str | None = None
        self.conclusion = Conclusion.NONE
        self.unsafe: list[str] = []

    @property
    def judged(self) -> list[str]:
        """Figures of this machine that are worked out and judged."""
        return [name for name in self.key.judged if name in self.key.bands]

    def tolerance(self, name: str) -> float:
        """Tolerance of the key (saturation, sum or edge), as far as a rule widens it."""
        return {
            "saturation": self.key.tolerance.saturation,
            "sum": self.key.tolerance.sum,
            "edge": self.key.tolerance.edge,
        }[name] * self.rules.widened(name)

    def counts(self, question: str) -> bool:
        """Whether a question is asked for points; one that is not has nothing to show."""
        found = self.questions.get(question)
        return found is not None and found.points > 0 and not self.rules.excludes(question)

    def known(self, name: str) -> float:
        """A saturation or reading as the apprentice has it, else as it stands on the page."""
        if name in self.own:
            return self.own[name]
        return self.key.figures[name] if name in self.key.figures else self.readings[name]

    def saturation(self, name: str) -> float:
        """What the PT scale shows at the apprentice's own pressure, from the slope kept in the key."""
        pressure = SATURATIONS[name][0]
        read = self.own.get(f"read_{pressure}")
        if read is None or self.key.scale_slope is None:
            return self.key.figures[name]
        return self.key.figures[name] + (read - self.call.readings[pressure].value) * self.key.scale_slope[name]

    def follow_rig(self) -> None:
        """Saturations that were not worked out follow the pressures read on a rig."""
        for name, (pressure, _) in SATURATIONS.items():
            if f"read_{pressure}" in self.own:
                self.own[name] = self.saturation(name)
                self.earned.add(name)

    def difference(self, name: str) -> tuple[float, float]:
        """(minuend, subtrahend) of a subtraction from the apprentice's own numbers where there are any."""
        a, b = parts_of(name, self.readings)
        return self.known(a), self.known(b)

    def swapped(self) -> bool:
        """Whether superheat and subcooling were written in each other's place."""
        superheat, subcooling = self.answers["superheat"].value, self.answers["subcooling"].value
        if superheat is None or subcooling is None:
            return False
        tolerance = self.tolerance("sum")
        own_superheat, own_subcooling = (a - b for a, b in map(self.difference, ("superheat", "subcooling")))
        return (
            near(superheat, own_subcooling, tolerance)
            and near(subcooling, own_superheat, tolerance)
            and not near(own_superheat, own_subcooling, tolerance)
        )

    def note(self, question: str, credit: Credit) -> None:
        """Remember whether a figure came about as it should, or by a slip that has a name."""
        named = credit.share is Share.SLIP and credit.code in PARTIAL
        if credit.share is Share.ALL or named:
            self.earned.add(question)
        else:
            self.earned.discard(question)

    def at_work(self) -> bool:
        """Whether at least half of the figures that are asked came about as they should."""
        asked = [q for q in (*SATURATIONS, *ASKED) if self.counts(q)]
        return not asked or 2 * sum(q in self.earned for q in asked) >= len(asked)

    def grounded(self) -> bool:
        """Whether the work starts from the gauges: at least one saturation that was asked came about as it should."""
        asked = [q for q in SATURATIONS if self.counts(q)]
        return self.at_work() and (not asked or any(q in self.earned for q in asked))

    def foreign(self) -> bool:
        """Whether both saturations belong to no reading of this page: neither came about as it should or by a slip with
        a name, and one lies too far off to be misread. They are another paper's, or nobody's.
        """
        if not all(self.counts(q) and q in self.own and q not in self.earned for q in SATURATIONS):
            return False
        far = FAR_OFF[self.call.units]
        return any(abs(self.own[q] - self.saturation(q)) > far for q in SATURATIONS)

    def behind(self, name: str) -> float | None:
        """The apprentice's own value of a figure with work behind it, or None.

        That is what stands in its box, or what follows from their own saturation where the box is empty.
        """
        if self.foreign() and self.counts(name):
            own = self.own.get(name)
            return own if own is not None and near(own, self.key.figures[name], self.tolerance("sum")) else None
        if name in self.own:
            return self.own[name] if name in self.earned or self.at_work() or not self.counts(name) else None
        a, b = parts_of(name, self.readings)
        if not self.counts(name) or any(part in self.own and part in self.earned for part in (a, b)):
            minuend, subtrahend = self.difference(name)
            return minuend - subtrahend
        return None

    def shown_work(self) -> bool:
        """Whether at least half of the figures stand there with work behind them."""
        return 2 * sum(self.behind(name) is not None for name in self.judged) >= len(self.judged)

    def target(self) -> float | None:
        """The apprentice's own target where there is work behind it."""
        own = self.own.get("target")
        return own if own is not None and ("target" in self.earned or self.at_work()) else None

    def band(self, name: str) -> Band:
        """The band of a figure, around the apprentice's own target where they have one."""
        band, own = self.key.bands[name], self.target()
        return band.moved_to(own) if own is not None and name == self.key.target_of else band

    def accepted(self, name: str) -> set[str]:
        """Every verdict that the apprentice's own figure allows, as far as it can be read; the key's where they have
        none, or where a sight glass says it.
        """
        if name not in self.key.bands:
            return {self.key.verdicts.get(name, NORMAL)}
        value, margin, band = self.behind(name), self.tolerance("edge") + EPSILON, self.band(name)
        if value is None:
            return {self.key.verdicts[name]}
        found = band.verdicts_within(value, margin)
        return found | band.verdicts_within(self.meant[name], margin) if name in self.meant else found

    def plainly(self, name: str) -> str:
        """The verdict on a figure as the apprentice's own number has it; the key's where they have none."""
        value = self.behind(name) if name in self.key.bands else None
        return self.key.verdicts.get(name, NORMAL) if value is None else self.band(name).verdict(value)

    def patterns(self) -> tuple[list[set[str]], list[set[str]]]:
        """For each figure, and for the drop across the drier, the verdict on the apprentice's own number; and every
        verdict that number allows.
        """
        drier = {HIGH if self.key.drier_high else NORMAL}
        names = self.key.judged
        return [*({self.plainly(name)} for name in names), drier], [*(self.accepted(n) for n in names), drier]

    def misled(self) -> bool:
        """Whether the apprentice's own wrong figures speak for another pattern than the machine's."""
        return self.grounded() and any(
            self.off_key(name) and self.plainly(name) != self.key.verdicts[name] for name in self.judged
        )

    def off_key(self, name: str) -> bool:
        """Whether the apprentice's own figure, or the target it is judged by, is not the machine's."""
        value, target, tolerance = self.behind(name), self.target(), self.tolerance("sum")
        of_key = self.key.target
        moved = target is not None and of_key is not None and not near(target, of_key, tolerance)
        aimed = name == self.key.target_of and moved
        return aimed or (value is not None and not near(value, self.key.figures[name], tolerance))


def _choices(call: Call, question: str) -> tuple[tuple[str, str, str], ...]:
    """(letter or number, id, text) of what a question offers."""
    if question == "order":
        return tuple((str(row.number), row.id, row.text) for row in call.choices.order)
    return tuple((row.letter, row.id, row.text) for row in call.choices.lettered(question))
