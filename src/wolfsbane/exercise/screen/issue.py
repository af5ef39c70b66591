"""A call as it is issued on screen: a frozen call of a sheet, how it is played, and what it is marked by."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.conditions import Conditions
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault
from wolfsbane.diagnosis.own_practice import kept_practice
from wolfsbane.exercise.paper.call import Call, call_from_json
from wolfsbane.exercise.screen.shown import Setup

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.practices import Practice

PRACTICE, EXAM = "practice", "exam"
MODES = (PRACTICE, EXAM)
#: minutes of the clock on the wall that an exam may last
SHORTEST_MIN, LONGEST_MIN = 5, 240
SCHEMA = 1


@dataclass(frozen=True, kw_only=True)
class Issue:
    """A call on screen: ``minutes`` is the limit of an exam on the wall's clock, None without one. ``rubric`` is the
    version it is marked by for ever.
    """

    call: Call
    machine: Machine
    mode: str
    minutes: float | None
    rubric: str

    @property
    def practice(self) -> Practice:
        """The practice the call carries."""
        return kept_practice(self.call.practice)

    @property
    def accepted(self) -> tuple[str, ...]:
        """Answers that count: fault ids, two joined by a plus."""
        return self.call.key.accepted or ("+".join(self.call.key.named),)

    @property
    def setup(self) -> Setup:
        """The machine behind it."""
        weather, key = self.call.conditions, self.call.key
        water = {} if weather.water_in_k is None else {"water_in_k": weather.water_in_k}
        return Setup(
            machine=self.machine,
            conditions=Conditions(
                outdoor_k=weather.outdoor_k,
                return_k=weather.return_k,
                return_wet_bulb_k=weather.return_wet_bulb_k,
                barometer_pa=weather.barometer_pa,
                **water,
            ),
            faults=tuple(
                Fault(id=name, severity=key.severities.get(name, key.severity or 0.0), cause=key.causes.get(name))
                for name in key.faults
            ),
            kit="analogue" if self.call.instruments == "pipes" else self.call.instruments,
            system=self.call.units,
            seed=self.call.seed,
        )


def require_playable(call: Call) -> Call:
    """The call, where it can be played. Raises BadInputError for one that goes on after a first visit, or was measured
    on a rig.
    """
    if call.before or call.key.measured or call.key.rig is not None:
        raise BadInputError("call", call.scenario.title, "a call of one visit that stands on no rig")
    return call


def issued(body: dict[str, Any], machine: Machine, mode: str, minutes: float | None, rubric: str) -> Issue:
    """The :class:`Issue` of a frozen call. Raises BadInputError."""
    return Issue(
        call=require_playable(call_from_json(body)), machine=machine, mode=mode, minutes=minutes, rubric=rubric
    )
