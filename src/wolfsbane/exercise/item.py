"""An item of a sheet: a scenario of the library, a rung of a brief's ladder, a drill, or a plant on a rig.

Checked here, drawn here for one apprentice, and frozen as a body: a call, or a drill. Bodies are asked, marked and keyed through
this module, so that nobody else has to know which of the two they hold.
"""

import random

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.exercise.asked import asked
from wolfsbane.exercise.brief import DRILLS, brief
from wolfsbane.exercise.call import call_from_json
from wolfsbane.exercise.drill_paper import drill_answers, drill_questions, grade_drill, title
from wolfsbane.exercise.drills import drill
from wolfsbane.exercise.generator import Rung, variant
from wolfsbane.exercise.grading import grade, perfect_answers
from wolfsbane.exercise.rig import rig_call
from wolfsbane.exercise.rules import NO_RULES
from wolfsbane.exercise.scenario import require_paper, scenario
from wolfsbane.exercise.sheet import call_seed
from wolfsbane.exercise.variant import fingerprint, vary

KINDS = ("scenario", "rung", "drill", "rig")
MOST_ITEMS = 12
#: minutes for a call of which nothing is known, and for an item of a drill (assumed)
_CALL_MINUTES, _DRILL_MINUTES, _RIG_MINUTES = 9, 1.5, 30
#: a variant that somebody else has already is drawn anew this often
TRIES = 6


def item(data):
    """Checked plain data of an item; ``body`` of a scenario or rig is the scenario's JSON. Raises BadInputError."""
    kind = data.get("kind") if isinstance(data, dict) else None
    if kind not in KINDS:
        raise BadInputError("items.kind", kind, ", ".join(KINDS))
    checked = {"kind": kind, "asked": asked(data.get("asked")).to_json()}
    if kind in ("scenario", "rig"):
        return checked | {"body": require_paper(scenario(data["body"])).to_json()}
    made = brief(data["brief"])
    if kind == "rung":
        row = data.get("rung") or {}
        skill = tuple(s for s in str(row.get("skill", "none")).split("+") if s != "none")
        for name, low, high in (("number", 1, 20), ("level", 1, 5)):
            if not isinstance(row.get(name), int) or not low <= row[name] <= high:
                raise BadInputError(f"items.rung.{name}", row.get(name), f"a whole number from {low} to {high}")
        unknown = [s for s in skill if s not in made.faults]
        if unknown:
            raise BadInputError("items.rung.skill", unknown[0], "one of the faults of the brief")
        rung = {"number": row["number"], "level": row["level"], "skill": "+".join(skill) or "none"}
        return checked | {"brief": made.to_json(), "rung": rung}
    items = data.get("items", 6)
    if data.get("drill") not in DRILLS:
        raise BadInputError("items.drill", data.get("drill"), ", ".join(DRILLS))
    if not isinstance(items, int) or not 1 <= items <= 12:
        raise BadInputError("items.items", items, "a whole number from 1 to 12")
    return checked | {"brief": made.to_json(), "drill": data["drill"], "items": items}


def minutes(data, level=None):
    """Minutes an apprentice is given."""
    if data["kind"] == "drill":
        return round(_DRILL_MINUTES * data["items"])
    if data["kind"] == "rig":
        return _RIG_MINUTES
    level = data["rung"]["level"] if data["kind"] == "rung" else level
    return _CALL_MINUTES if level is None else Rung(number=1, level=level, skill=()).minutes


def draw(data, position, index, system, seed, attempt=1, again=0):
    """The frozen body of an item for one apprentice: plain data. The same arguments give the same body.

    ``index`` counts apprentices from 0, ``attempt`` is 1, or 2 and on for a retake, ``again`` asks for another draw. Raises
    NoVariantError, NoClassSetError, BadInputError with the reason.
    """
    wanted = asked(data["asked"])
    number = call_seed(seed, position, index + 1000 * (attempt - 1) + 100_000 * again)
    if data["kind"] == "scenario":
        made = vary(scenario(data["body"]), system, number, asked=wanted)
    elif data["kind"] == "rig":
        made = rig_call(scenario(data["body"]), system, random.Random(call_seed(seed, position, 0)), wanted)
    else:
        planned = brief({**data["brief"], "units": system, "seed": seed % 2**40})
        if data["kind"] == "drill":
            rng = random.Random(number)
            return {"drill": drill(data["drill"], data["items"], planned, rng), "units": system, "seed": number}
        row = data["rung"]
        skill = () if row["skill"] == "none" else tuple(row["skill"].split("+"))
        made = variant(planned, Rung(number=row["number"], level=row["level"], skill=skill), index + 1,
                       again=10 * (attempt - 1) + again, asked=wanted)
    body = made.to_json()
    return body | {"key": body["key"] | {"chart": wanted.chart}}


def mark_of_copy(body):
    """What makes two bodies the same to somebody who copies, or None where everybody may have the same (rig, drill)."""
    if is_drill(body) or body["key"].get("rig"):
        return None
    return fingerprint(call_from_json(body))


def is_drill(body):
    """Whether a frozen body is a drill."""
    return "drill" in body


def title_of(body):
    """What a body is called on a key: the fault, or the drill."""
    return title(body["drill"]) if is_drill(body) else body["key"]["fault_name"]


def questions_of(body):
    """The questions of a body as plain data."""
    return drill_questions(body["drill"]) if is_drill(body) else body["questions"]


def key_answers(body):
    """The answers that earn every mark."""
    return drill_answers(body["drill"]) if is_drill(body) else perfect_answers(call_from_json(body))


def waits(body):
    """Whether a body cannot be marked yet, because nobody has entered what the rig read."""
    return not is_drill(body) and bool(body["key"].get("rig")) and not body["key"].get("measured")


def grade_body(body, answers, rules=NO_RULES):
    """Marks of a body: list of :class:`~wolfsbane.exercise.grading.Mark`; none while it waits for the rig."""
    if waits(body):
        return []
    return grade_drill(body["drill"], answers, rules) if is_drill(body) else grade(call_from_json(body), answers, rules)


def level_of(body):
    """Stated difficulty of a body, or None."""
    return None if is_drill(body) else (body["key"].get("difficulty") or {}).get("level")


def skills_of(body):
    """Skill a body trains: fault ids joined by "+", none, or the drill."""
    return f"drill:{body['drill']['kind']}" if is_drill(body) else "+".join(body["key"].get("faults") or []) or "none"
