"""What a run stands on, and what one step of it showed."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults import Fault
    from wolfsbane.cycle.machine import Machine


@dataclass(frozen=True, kw_only=True)
class Setup:
    """What a run stands on: machine, weather, what is wrong with it, tools, units and the seed of what is left to
    chance.
    """

    machine: Machine
    conditions: Conditions
    faults: tuple[Fault, ...]
    kit: str = "analogue"
    system: str = "us"
    seed: int = 0


@dataclass(frozen=True, kw_only=True)
class Shown:
    """What one step showed: ``said`` in words, ``reading`` what an instrument shows, ``word`` of a look or test.

    ``at_s`` is when it began, s of machine time; ``still`` whether the machine stood still, ``fair`` whether hose or
    clamp sat where it should. ``harm`` are sentences of what it did that must not happen, ``told``
    the numbers a test gave, by name and unit.
    """

    kind: str
    data: dict[str, Any]
    at_s: float
    minutes: float
    cost: float = 0.0
    said: tuple[str, ...] = ()
    reading: dict[str, Any] | None = None
    word: str | bool | None = None
    still: bool = True
    fair: bool = True
    refused: bool = False
    harm: tuple[str, ...] = ()
    caution: str = ""
    told: dict[str, float] = field(default_factory=dict)

    def to_json(self) -> dict[str, Any]:
        """Plain data, as it is kept."""
        return {
            "kind": self.kind,
            "data": self.data,
            "at_s": round(self.at_s, 1),
            "minutes": round(self.minutes, 2),
            "cost": round(self.cost, 2),
            "said": list(self.said),
            "reading": self.reading,
            "word": self.word,
            "still": self.still,
            "fair": self.fair,
            "refused": self.refused,
            "harm": list(self.harm),
            "caution": self.caution,
            "told": self.told,
        }


def shown_from(data: dict[str, Any]) -> Shown:
    """What was kept of a step."""
    return Shown(**data | {"said": tuple(data["said"]), "harm": tuple(data["harm"])})
