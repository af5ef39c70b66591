"""Warming and chilling the bulb of a thermostatic valve."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.field_tests.kind import FieldTest
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import PA_PER_PSI

if TYPE_CHECKING:
    from wolfsbane.cycle.field_tests.kind import Asked
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState

_VALVE_FAULTS = ("valve_overfeeding", "valve_underfeeding")
_WIDE, _SHUT = 1.0, 0.06


def _turned(a: Asked, opening: float) -> CircuitState:
    """The machine with its valve at ``opening``: its other faults stay."""
    held = replace(a.machine, circuit=a.machine.circuit._replace(valve_fixed_opening=opening))
    return solve(held, a.conditions, tuple(f for f in a.faults if f.id not in _VALVE_FAULTS))


def _bulb(a: Asked, check: str, opening: float, verb: str) -> tuple[str, str, dict[str, float]]:
    if a.seen(check, "responds") == "no_response":
        return "no_response", f"The bulb is {verb}; after five minutes nothing has changed.", {}
    if abs(a.state.valve_opening - opening) < 0.03:
        return "no_response", f"The bulb is {verb}; the valve was already at its stop and nothing changes.", {}
    try:
        turned = _turned(a, opening)
    except NoConvergenceError:
        return "responds", f"The bulb is {verb}; suction moves right away, too far to read.", {}
    if turned.trip is not None:
        return (
            "responds",
            f"The bulb is {verb}; suction moves to the {turned.trip.cutout.replace('_', ' ')} cutout.",
            {},
        )
    moved = (turned.suction_pa - a.state.suction_pa) / PA_PER_PSI
    superheat = (turned.superheat_dk - a.state.superheat_dk) * 1.8
    steps = f"suction goes {a.moved(turned.suction_pa - a.state.suction_pa)}, superheat {'+' if superheat > 0 else ''}"
    steps += a.difference(turned.superheat_dk - a.state.superheat_dk, 0)
    return (
        "responds",
        f"The bulb is {verb}; {steps}.".replace("-", "−"),
        {"suction_change_psi": round(moved, 1), "superheat_change_df": round(superheat, 1)},
    )


def bulb_warmed(a: Asked) -> tuple[str, str, dict[str, float]]:
    """In the hand or in warm water the valve should open wide."""
    return _bulb(a, "bulb_warmed", _WIDE, "warmed")


def bulb_chilled(a: Asked) -> tuple[str, str, dict[str, float]]:
    """In ice water the valve should close in: suction dives, superheat climbs."""
    return _bulb(a, "bulb_chilled", _SHUT, "chilled")


def bulb(a: Asked) -> tuple[str, str, dict[Any, Any]]:
    """Strap and insulation of the bulb, by eye."""
    word = a.seen("bulb", "tight")
    return (
        word,
        {
            "tight": "Strapped tight, well placed, insulated.",
            "loose": "The strap is open; the bulb hangs off the suction line.",
            "bare": "Strapped, but not insulated.",
        }[word],
        {},
    )


def _bulbed(machine: Machine) -> bool:
    return machine.metering == "txv"


TESTS = (
    FieldTest(
        id="bulb_warmed",
        name="Bulb warmed",
        minutes=8,
        caution="Warm water only, never a flame.",
        answer=bulb_warmed,
        suits=_bulbed,
    ),
    FieldTest(
        id="bulb_chilled",
        name="Bulb chilled",
        minutes=8,
        caution="Watch the low-pressure cutout.",
        answer=bulb_chilled,
        suits=_bulbed,
    ),
    FieldTest(id="bulb", name="Bulb by eye", minutes=4, caution="", answer=bulb, running=False, suits=_bulbed),
)
