"""An apprentice's work on one call: what they wrote, and what they have established so far by their own numbers."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.diagnosis.figures import SATURATIONS, SUBTRACTIONS
from wolfsbane.diagnosis.targets import FIGURES, HIGH, NORMAL, Band
from wolfsbane.exercise.marking.rubric_3.answers import Answer, parse
from wolfsbane.exercise.paper.questions import QUESTIONS

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.rules import Rules
    from wolfsbane.exercise.paper.call import Call

#: the subtractions that are asked
ASKED = ("superheat", "subcooling", "evaporator_td", "ctoa")


def shown(value: float) -> str:
    """A number as it stands in a reason."""
    return f"{value:.1f}".removesuffix(".0").replace("-", "−")


class Work:
    """One pass over one call. ``own`` are the apprentice's own numbers, ``meant`` figures somebody clearly meant behind
    a turned sign or an exchange of two, ``slips`` what was named on a saturation already, ``chosen`` the fault named.
    """

    def __init__(self, call: Call, answers: dict[str, str], rules: Rules) -> None:
        self.call, self.key, self.rules = call, call.key, rules
        self.readings = {name: reading.value for name, reading in call.readings.items()}
        self.questions = {question.id: question for question in call.questions}
        self.answers: dict[str, Answer] = {name: Answer(raw="") for name in QUESTIONS}
        self.answers |= {q.id: parse(q.kind, answers.get(q.id), q.unit) for q in call.questions}
        self.own: dict[str, float] = {}
        self.meant: dict[str, float] = {}
        self.slips: set[str] = set()
        self.chosen: str | None = None

    def tolerance(self, name: str) -> float:
        """Tolerance of the key (saturation, sum or edge), as far as a rule widens it."""
        return {
            "saturation": self.key.tolerance.saturation,
            "sum": self.key.tolerance.sum,
            "edge": self.key.tolerance.edge,
        }[name] * self.rules.widened(name)

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

    def difference(self, name: str) -> tuple[float, float]:
        """(minuend, subtrahend) of a subtraction from the apprentice's own numbers where there are any."""
        a, b = SUBTRACTIONS[name]
        return self.known(a), self.known(b)

    def swapped(self) -> bool:
        """Whether superheat and subcooling were written in each other's place."""
        superheat, subcooling = self.answers["superheat"].value, self.answers["subcooling"].value
        if superheat is None or subcooling is None:
            return False
        tolerance = self.tolerance("sum") + 1e-9
        own_superheat, own_subcooling = (a - b for a, b in map(self.difference, ("superheat", "subcooling")))
        return (
            abs(superheat - own_subcooling) <= tolerance
            and abs(subcooling - own_superheat) <= tolerance
            and abs(own_superheat - own_subcooling) > tolerance
        )

    def band(self, name: str) -> Band:
        """The band of a figure, around the apprentice's own target where they have one."""
        band, own = self.key.bands[name], self.own.get("target")
        return band.moved_to(own) if own is not None and name == self.key.target_of else band

    def pattern(self) -> list[str]:
        """The five verdicts as the apprentice has them: written, else from their figures, else the key's."""
        found = []
        for name in FIGURES:
            written = self.answers[f"{name}_verdict"].value
            if written is None and name in self.own:
                written = self.band(name).verdict(self.own[name])
            found.append(written or self.key.verdicts[name])
        return [*found, HIGH if self.key.drier_high else NORMAL]
