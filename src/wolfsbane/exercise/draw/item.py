"""An item of a sheet: a scenario of the library, a rung of a brief's ladder, a drill, a situation, or a plant on a rig.

Checked here, drawn here for one apprentice, and frozen as a body: a call, a drill, or a situation. What can be asked
of a body stands in :mod:`wolfsbane.exercise.marking.frozen_body`.
"""

from __future__ import annotations

import random
from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.instruments import PIPES
from wolfsbane.diagnosis.candidates import instruments_on_paper
from wolfsbane.exercise.draw.drills import drill
from wolfsbane.exercise.draw.generator import variant
from wolfsbane.exercise.draw.rig import rig_call
from wolfsbane.exercise.draw.rung import (
    INSTRUMENT,
    SECOND_VISIT,
    USUAL_WAY,
    WAYS,
    Rung,
    rung_from_json,
    skill_from_id,
    skill_id,
)
from wolfsbane.exercise.draw.seeds import call_seed
from wolfsbane.exercise.draw.situations.drawing import situation
from wolfsbane.exercise.draw.variant import vary
from wolfsbane.exercise.paper.asked import asked
from wolfsbane.exercise.paper.call import Call
from wolfsbane.exercise.paper.drill import DrillBody
from wolfsbane.exercise.paper.situation import Situation
from wolfsbane.exercise.plan.brief import DRILLS, brief
from wolfsbane.exercise.plan.scenario import require_paper, scenario
from wolfsbane.exercise.plan.situations import SITUATIONS

KINDS = ("scenario", "rung", "drill", "situation", "rig")
MAX_ITEMS = 12
#: minutes for a call of which nothing is known, and for an item of a drill (assumed)
_CALL_MINUTES, _DRILL_MINUTES, _RIG_MINUTES = 9, 1.5, 30
#: a variant that somebody else has already is drawn again this often
TRIES = 6
#: an instructor may have a call drawn again so often
MAX_REDRAWN = 999


def item(data: dict[str, Any]) -> dict[str, Any]:
    """Checked plain data of an item; ``body`` of a scenario or rig is the scenario's JSON, ``redraw`` counts how often
    an instructor had it drawn again. Raises BadInputError.
    """
    redraw = data.get("redraw") if isinstance(data, dict) else None
    if redraw is not None and (not isinstance(redraw, int) or not 0 <= redraw <= MAX_REDRAWN):
        raise BadInputError("items.redraw", redraw, f"a whole number from 0 to {MAX_REDRAWN}")
    return _item(data) | ({"redraw": redraw} if redraw else {})


def _item(data: dict[str, Any]) -> dict[str, Any]:
    kind = _one_of(data if isinstance(data, dict) else {}, "kind", KINDS)
    checked: dict[str, Any] = {"kind": kind, "asked": asked(data.get("asked")).to_json()}
    if kind in ("scenario", "rig"):
        return checked | {"body": require_paper(scenario(data["body"])).to_json()}
    if not isinstance(data.get("brief"), dict):
        raise BadInputError("items.brief", data.get("brief"), "a brief: at least a title")
    made = brief(data["brief"])
    if kind == "rung":
        row = data.get("rung") or {}
        if not isinstance(row, dict) or not isinstance(row.get("skills") or [], list):
            raise BadInputError("items.rung", row, "a rung with its number, level and skills")
        forms = [skill_from_id(str(one)) for one in (row.get("skills") or [row.get("skill", "none")])]
        skill = skill_from_id(str(row.get("skill", "none")))
        for name, low, high in (("number", 1, 20), ("level", 1, 5)):
            _whole(row, name, low, high, "items.rung.")
        way = row.get("way") or USUAL_WAY
        _one_of({"way": way}, "way", WAYS, "items.rung.")
        usable = (*made.faults, *(instruments_on_paper(made.kit) if way == INSTRUMENT else ()))
        unknown = [s for form in (skill, *forms) for s in form if s not in usable]
        if unknown:
            raise BadInputError("items.rung.skill", unknown[0], "one of the faults of the brief")
        if way == INSTRUMENT and checked["asked"]["instruments"] == PIPES:
            raise BadInputError("asked.instruments", PIPES, "gauges: a call on instruments needs them")
        if way == SECOND_VISIT and not all((skill, *forms)):
            raise BadInputError("items.rung.skill", "none", "what was repaired, and what is left")
        success, decides = row.get("success"), row.get("look_decides")
        if success is not None and not (isinstance(success, (int, float)) and 0 <= success <= 1):
            raise BadInputError("items.rung.success", success, "a share from 0 to 1, or nothing")
        if decides not in (None, True, False):
            raise BadInputError("items.rung.look_decides", decides, "true, false or nothing")
        rung = {
            "number": row["number"],
            "level": row["level"],
            "skill": skill_id(skill),
            "skills": [skill_id(form) for form in forms],
            "success": success,
            "look_decides": decides,
            "way": way,
        }
        return checked | {"brief": made.to_json(), "rung": rung}
    if kind == "situation":
        return checked | {"brief": made.to_json(), "situation": _one_of(data, "situation", SITUATIONS)}
    items = _whole({"items": 6} | data, "items", 1, 12)
    return checked | {"brief": made.to_json(), "drill": _one_of(data, "drill", DRILLS), "items": items}


def _one_of(data: dict[str, Any], name: str, known: Iterable[str], within: str = "items.") -> str:
    value = data.get(name)
    if not isinstance(value, str) or value not in known:
        raise BadInputError(within + name, value, ", ".join(known))
    return value


def _whole(data: dict[str, Any], name: str, low: int, high: int, within: str = "items.") -> int:
    value = data.get(name)
    if not isinstance(value, int) or isinstance(value, bool) or not low <= value <= high:
        raise BadInputError(within + name, value, f"a whole number from {low} to {high}")
    return value


def minutes(data: dict[str, Any], level: int | None = None) -> int:
    """Minutes an apprentice is given."""
    if data["kind"] == "drill":
        return round(_DRILL_MINUTES * data["items"])
    if data["kind"] == "rig":
        return _RIG_MINUTES
    if data["kind"] == "situation":
        return SITUATIONS[data["situation"]].minutes
    level = data["rung"]["level"] if data["kind"] == "rung" else level
    return _CALL_MINUTES if level is None else Rung(number=1, level=level, skill=()).minutes


def draw(
    data: dict[str, Any], position: int, index: int, system: str, seed: int, attempt: int = 1, again: int = 0
) -> Call | DrillBody | Situation:
    """The frozen body of an item for one apprentice. The same arguments give the same body.

    ``index`` counts apprentices from 0, ``attempt`` is 1, or 2 and on for a retake, ``again`` asks for another draw.
    Raises NoVariantError, NoClassSetError, BadInputError with the reason.
    """
    wanted = asked(data["asked"])
    if data.get("redraw"):
        seed = call_seed(seed, 0, data["redraw"])
    number = call_seed(seed, position, index + 1000 * (attempt - 1) + 100_000 * again)
    if data["kind"] == "scenario":
        made = vary(scenario(data["body"]), system, number, asked=wanted)
    elif data["kind"] == "rig":
        made = rig_call(scenario(data["body"]), system, random.Random(call_seed(seed, position, 0)), wanted)
    else:
        planned = brief({**data["brief"], "units": system, "seed": seed % 2**40})
        if data["kind"] == "drill":
            drilled = drill(data["drill"], data["items"], planned, random.Random(number))
            return DrillBody(drill=drilled, units=system, seed=number)
        if data["kind"] == "situation":
            return situation(data["situation"], planned, number)
        row = data["rung"]
        made = variant(
            planned,
            rung_from_json(row),
            index + 1,
            again=10 * (attempt - 1) + again,
            asked=wanted,
        )
    return replace(made, key=replace(made.key, chart=wanted.chart))
