"""A way through a call as the bench plays it: the machine as it was found, and what was done to it through time."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.units import M_PER_FT, altitude_of_barometer_m, k_to_f

if TYPE_CHECKING:
    from wolfsbane.exercise.screen.issue import Issue
    from wolfsbane.exercise.screen.shown import Shown

#: steps the bench plays at once
MOST = 60


def found(issue: Issue) -> dict[str, Any]:
    """The machine as it was found, as a bench is set: °F, ft, severities in the units of their faults."""
    setup, weather = issue.setup, issue.setup.conditions
    box = setup.machine.refrigeration
    inside, wet = k_to_f(weather.return_k), k_to_f(weather.return_wet_bulb_k)
    water = getattr(weather, "water_in_k", None)
    return {
        "title": issue.call.scenario.title,
        "machine": setup.machine.id,
        "faults": [{"id": f.id, "severity": f.severity, "cause": f.cause} for f in setup.faults],
        "outdoor_db_f": round(k_to_f(weather.outdoor_k), 2),
        "return_db_f": None if box else round(inside, 2),
        "return_wb_f": None if box else round(wet, 2),
        "box_f": round(inside, 2) if box else None,
        "water_in_f": None if water is None else round(k_to_f(water), 2),
        "altitude_ft": round(altitude_of_barometer_m(weather.barometer_pa) / M_PER_FT),
        "instruments": setup.kit,
        "practice": issue.practice.id,
        "complaint": issue.call.complaint,
    }


def played(shown: Sequence[Shown]) -> list[dict[str, Any]]:
    """What was done to the machine, as actions of the bench: looks and readings are minutes that pass."""
    steps: list[dict[str, Any]] = []
    waited = 0.0

    def passed() -> None:
        nonlocal waited
        if waited > 0.0:
            steps.append({"do": "wait", "arguments": {"minutes": round(waited, 2)}})
        waited = 0.0

    for one in shown:
        if one.kind == "act" and not one.refused:
            passed()
            steps.append({"do": one.data["action"], "arguments": dict(one.data.get("arguments") or {})})
        elif one.kind == "settle" and not one.refused:
            passed()
            steps.append({"do": "settle", "arguments": {}})
        else:
            waited += one.minutes
    passed()
    return steps[:MOST]
