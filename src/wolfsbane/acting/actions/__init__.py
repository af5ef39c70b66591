"""The catalogue of actions."""

from wolfsbane.acting.actions import coils, passing, refrigerant, repairs, valves
from wolfsbane.acting.actions.kind import ActionKind, Done, Parameter, act
from wolfsbane.cycle.errors import BadInputError

__all__ = ["ACTIONS", "ActionKind", "Done", "Parameter", "act", "action_kind", "actions_for"]
ACTIONS = {kind.id: kind for module in (passing, refrigerant, repairs, coils, valves) for kind in module.KINDS}


def action_kind(action_id):
    """The action called so. Raises BadInputError."""
    if action_id not in ACTIONS:
        raise BadInputError("do", action_id, ", ".join(ACTIONS))
    return ACTIONS[action_id]


def actions_for(machine):
    """The actions this machine allows, in catalogue order."""
    return [kind for kind in ACTIONS.values() if kind.suits(machine)]
