"""The catalog of actions."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.acting.actions import coils, passing, refrigerant, repairing, valves
from wolfsbane.acting.actions.kind import ActionKind, Done, Parameter, act
from wolfsbane.cycle.errors import BadInputError

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine

__all__ = ["ACTIONS", "ActionKind", "Done", "Parameter", "act", "action_kind", "action_rows", "actions_for"]
ACTIONS = {kind.id: kind for module in (passing, refrigerant, repairing, coils, valves) for kind in module.KINDS}


def action_kind(action_id: str) -> ActionKind:
    """The action called so. Raises BadInputError."""
    if action_id not in ACTIONS:
        raise BadInputError("do", action_id, ", ".join(ACTIONS))
    return ACTIONS[action_id]


def actions_for(machine: Machine) -> list[ActionKind]:
    """The actions this machine allows, in catalog order."""
    return [kind for kind in ACTIONS.values() if kind.suits(machine)]


def action_rows(machine: Machine | None = None) -> list[dict[str, Any]]:
    """Every action, or those ``machine`` allows: what it costs, needs and risks, and its arguments."""
    kinds = ACTIONS.values() if machine is None else actions_for(machine)
    return [
        {
            "id": k.id,
            "name": k.name,
            "group": k.group,
            "minutes": k.minutes,
            "money": k.money,
            "refrigerant": k.refrigerant,
            "needs": [
                word
                for word, wanted in (
                    ("certification", k.certification),
                    ("recovery gear", k.recovery),
                    (f"machine {k.machine}", k.machine != "either"),
                )
                if wanted
            ],
            "risk": k.risk,
            "parameters": [
                {
                    "name": p.name,
                    "unit": p.unit,
                    "low": p.low,
                    "high": p.high,
                    "default": p.default,
                    "words": list(p.words),
                    "optional": p.optional,
                }
                for p in k.parameters
            ],
        }
        for k in kinds
    ]
