"""What changed between two versions of a scenario, in words."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.faults import FAULTS
from wolfsbane.cycle.field_tests import FIELD_TESTS
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.instruments import ALL_POINTS, POINTS
from wolfsbane.cycle.units import f_to_k, k_to_c
from wolfsbane.exercise.plan import severity

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.exercise.plan.scenario import Scenario

_PLAIN = {
    "title": "title",
    "instruments": "gauges",
    "complaint": "complaint",
    "history": "history",
    "look_round": "visual inspection",
}
_NUMBERS = {
    "outdoor_db_f": ("outdoors", "°F"),
    "return_db_f": ("return air", "°F"),
    "return_wb_f": ("return wet bulb", "°F"),
    "box_f": ("box", "°F"),
    "water_in_f": ("water in", "°F"),
    "altitude_ft": ("altitude", "ft"),
    "spread_outdoor_df": ("spread of outdoor air", "Δ°F"),
    "spread_return_df": ("spread of return air", "Δ°F"),
    "spread_depth_pct": ("spread of severity", "%"),
}


def changes(before: Scenario | None, after: Scenario, system: str = "us") -> tuple[str, ...]:
    """Sentences that tell :class:`Scenario` ``after`` from ``before``;
    ("First version",) without a ``before``, () when equal.
    """
    if before is None:
        return ("First version",)
    found = []
    if before.machine != after.machine:
        found.append(f"Machine: {before.profile.name} → {after.profile.name}")
    elif before.own != after.own:
        found.append("Machine matched again")
    found += _faults(before.faults, after.faults, system)
    for name, (label, unit) in _NUMBERS.items():
        was, now = getattr(before, name), getattr(after, name)
        if was != now:
            found.append(f"{label.capitalize()} {_number(was, unit, system)} → {_number(now, unit, system)}")
    if before.practice_id != after.practice_id or before.own_practice != after.own_practice:
        found.append(f"Practice: {before.practice.name} → {after.practice.name}")
    found += [
        f"{label.capitalize()} changed"
        for name, label in _PLAIN.items()
        if getattr(before, name) != getattr(after, name)
    ]
    found += _sets("Given", [_point(k) for k in _shown(before)], [_point(k) for k in _shown(after)], "withheld")
    found += _sets(
        "Test given",
        [FIELD_TESTS[t].name for t in before.given_tests],
        [FIELD_TESTS[t].name for t in after.given_tests],
        "test withheld",
    )
    found += _sets("Tag", before.tags, after.tags, "tag removed")
    return tuple(found)


def _shown(made: Scenario) -> tuple[str, ...]:
    return tuple(POINTS) if made.given_readings is None else made.given_readings


def _point(key: str) -> str:
    return ALL_POINTS[key].label


def _sets(
    added: str, before: list[str] | tuple[str, ...], after: list[str] | tuple[str, ...], removed: str
) -> list[str]:
    more, less = [x for x in after if x not in before], [x for x in before if x not in after]
    return [f"{added}: {', '.join(more)}"] * bool(more) + [f"{removed.capitalize()}: {', '.join(less)}"] * bool(less)


def _number(value: float | None, unit: str, system: str) -> str:
    """A number of a scenario as ``system`` shows it; "°F" is a temperature, "Δ°F" a difference."""
    if value is None:
        return "none"
    if unit == "°F" and system == "si":
        return f"{k_to_c(f_to_k(value)):.1f} °C"
    shown, name = severity.shown(unit.removeprefix("Δ"), value, system)
    return f"{shown:g} {name}"


def _faults(before: tuple[Fault, ...], after: tuple[Fault, ...], system: str) -> list[str]:
    def kind(f: Any) -> Any:
        return FAULTS.get(f.id) or INSTRUMENT_FAULTS[f.id]

    def told(f: Any) -> Any:
        return f"{kind(f).name} {severity.severity_text(f, system)}"

    old, new = {f.id: f for f in before}, {f.id: f for f in after}
    found = [f"{told(f)} planted" for f in after if f.id not in old] + [
        f"{kind(f).name} removed" for f in before if f.id not in new
    ]
    for f in after:
        was = old.get(f.id)
        if was is not None and was.severity != f.severity:
            found.append(
                f"{kind(f).name} {severity.shown(kind(f).unit, was.severity, system)[0]:g} →"
                f" {severity.severity_text(f, system)}"
            )
        if was is not None and was.cause != f.cause:
            found.append(
                f"{kind(f).name}: cause {(was.cause or 'none').replace('_', ' ')} →"
                f" {(f.cause or 'none').replace('_', ' ')}"
            )
    if not found and [f.id for f in before] != [f.id for f in after]:
        found.append("Order of repairing changed")
    return found
