"""What a fault is: one physical number, what it does to the circuit, and all a teacher has to know of it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

from wolfsbane.cycle.errors import BadInputError, require_range
from wolfsbane.cycle.machine import Circuit, Machine

LEVELS = ("mild", "moderate", "severe")


@dataclass(frozen=True, kw_only=True)
class Cause:
    """One cause of a family: the same readings, another thing to be seen or tested.

    ``look`` is what an honest look shows; ``checks`` are the answers of visual checks and tests that differ from a
    machine with nothing wrong's (check id -> word). ``apply`` stands for the family's where this cause behaves
    otherwise: about the same readings at the rating point, its own in other weather.
    """

    id: str
    look: str
    checks: dict[str, str | bool] = field(default_factory=dict)
    apply: Callable[[Circuit, float], Circuit] | None = None


@dataclass(frozen=True, kw_only=True)
class Rig:
    """Planting on a trainer rig. ``plant`` is empty where it must not be planted; then ``limits`` says why."""

    plant: str
    undo: str
    settle_min: int
    limits: str


class Graded:
    """What a family with a physical number can do: check a severity and a cause. Families have ``id``, ``fault_free``,
    ``limit``, ``unit``, the named levels and ``causes``.
    """

    id: str
    unit: str
    fault_free: float
    limit: float
    causes: tuple[Cause, ...]

    def level(self, text: float | str) -> float:
        """Severity as a number: mild, moderate, severe or a number in ``unit``. Raises BadInputError."""
        if text in LEVELS:
            return getattr(self, text)
        low, high = sorted((self.fault_free, self.limit))
        try:
            value = float(text)
        except (TypeError, ValueError):
            raise BadInputError(
                f"{self.id} level", text, f"mild, moderate, severe or a number from {low:g} to {high:g} {self.unit}"
            ) from None
        return require_range(f"{self.id} level", value, low, high, self.unit)

    def cause(self, cause_id: str | None) -> Cause:
        """The :class:`Cause` called ``cause_id`` (the first one for None). Raises BadInputError."""
        for cause in self.causes:
            if cause_id in (None, cause.id):
                return cause
        raise BadInputError(f"{self.id} cause", cause_id, ", ".join(c.id for c in self.causes))


@dataclass(frozen=True, kw_only=True)
class FaultKind(Graded):
    """A family of faults.

    ``parameter`` and ``unit`` name the physical number; ``fault_free`` is its value on a machine with nothing wrong,
    ``limit`` the worst that is accepted, ``mild``, ``moderate`` and ``severe`` named levels; ``with_receiver`` are
    those three where a receiver takes up the difference, ``limit_without`` the worst where there is none, and
    ``when_heating`` those three on a heat pump in heating, whose compensator takes up some.
    ``suits(machine)`` says where it can stand and ``suits_text`` says it in words; ``apply(circuit, value)`` returns
    the harmed copy and ``part`` names what it harms. ``whole_machine`` faults act on both circuits of a machine that
    has two, ``second_circuit`` ones on the second only. ``tests`` are ids of field tests that tell it from its
    look-alikes. ``stands_for`` is the family it cannot be told from on gauges and thermometers alone. ``marks`` is
    (figure of the state, 1 or -1): which way it must move what it is known by; None where that depends.
    ``name_in_heating`` is its name on a heat pump in heating, empty where it is the same.
    """

    id: str
    name: str
    parameter: str
    unit: str
    fault_free: float
    limit: float
    mild: float
    moderate: float
    severe: float
    part: str
    suits: Callable[[Machine], bool]
    suits_text: str
    apply: Callable[[Circuit, float], Circuit]
    causes: tuple[Cause, ...]
    effect: str
    tests: tuple[str, ...]
    remedy: str
    hazard: str
    rig: Rig
    whole_machine: bool = False
    second_circuit: bool = False
    stands_for: str = ""
    marks: tuple[str, int] | None = None
    with_receiver: tuple[float, float, float] | None = None
    limit_without: float | None = None
    when_heating: tuple[float, float, float] | None = None
    name_in_heating: str = ""

    def named(self, in_heating: bool) -> str:
        """The name on a machine that cools, or on one that heats, where the outdoor coil evaporates."""
        return (in_heating and self.name_in_heating) or self.name

    def on(self, machine: Machine) -> FaultKind:
        """The family with the levels it has on ``machine``."""
        made = self.__dict__.setdefault("_made", {})
        key = (machine.receiver, machine.in_heating)
        if key not in made:
            made[key] = self._on(machine)
        return made[key]

    def _on(self, machine: Machine) -> FaultKind:
        levels = self.with_receiver if machine.receiver else self.when_heating if machine.in_heating else None
        limit = self.limit if machine.receiver or self.limit_without is None else self.limit_without
        if levels is None:
            return self if limit == self.limit else replace(self, limit=limit)
        mild, moderate, severe = levels
        return replace(self, limit=limit, mild=mild, moderate=moderate, severe=severe)


@dataclass(frozen=True, kw_only=True, init=False)
class Fault:
    """A planted fault: family, severity as a physical number in the family's unit, and a cause (None:
    the first one).
    """

    id: str
    severity: float
    cause: str | None = None

    def __init__(self, *, id: str, severity: float, cause: str | None = None) -> None:  # noqa: A002 - the field's name
        """By hand, in half the time: a proof makes thousands."""
        own = self.__dict__
        own["id"], own["severity"], own["cause"] = id, severity, cause
