"""Requests: read from a sentence, planned into a ladder, and one call of it changed."""

from typing import Any

from flask import g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.cycle.everyday import names_of_fault
from wolfsbane.exercise.draw import item as items_of
from wolfsbane.exercise.draw.changing import one_call, skills_on
from wolfsbane.exercise.draw.ladder import shortfall
from wolfsbane.exercise.draw.planning import begin, planning_from_json, step
from wolfsbane.exercise.draw.rung import skill_id
from wolfsbane.exercise.draw.tries import NoClassSetError
from wolfsbane.exercise.marking.drill_marks import title
from wolfsbane.exercise.plan.brief import brief
from wolfsbane.exercise.plan.request.read import read_request
from wolfsbane.server.api.brief_models import (
    BriefBody,
    BriefPlan,
    BriefRead,
    BriefText,
    CallBody,
    ChangedCall,
    SkillsBody,
    SkillsReply,
)
from wolfsbane.server.api.sheet_models import RungBody
from wolfsbane.server.core.current import database, for_account
from wolfsbane.server.core.errors import ApiError
from wolfsbane.server.core.security import INSTRUCTOR, roles
from wolfsbane.server.services.item_names import rung_name
from wolfsbane.server.services.own_machines import own_machine_rows, with_own

api = APIBlueprint("briefs", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="briefs")])


@api.post("/briefs/read", responses={200: BriefRead})
@roles(INSTRUCTOR)
def brief_read(body: BriefText) -> Any:
    """Read a brief from a sentence: what was made of which words, what was not understood, what cannot be had."""
    with database().transaction() as connection:
        own = own_machine_rows(connection, g.user["school_id"])
    return read_request(body.text, own).to_json()


#: pieces a plan has at most: three ladders of twenty rungs, and their forms
_STEPS = 70


@api.post("/briefs/plan", responses={200: BriefPlan})
@roles(INSTRUCTOR)
def brief_plan(body: BriefBody) -> Any:
    """The ladder of a brief: what each call trains, at which level, in how many minutes. With ``stepwise`` a piece of
    it: send ``so_far`` of each answer with the next request until it comes back empty.
    """
    with database().transaction() as connection:
        asked_for = with_own(connection, g.user["school_id"], body.brief)
    made = brief({"title": "A sheet", **asked_for})
    so_far = begin(made) if body.so_far is None else planning_from_json(made, body.so_far)
    try:
        for _ in range(_STEPS):
            so_far = for_account(step, made, so_far)
            if so_far.done or body.stepwise:
                break
    except NoClassSetError as error:
        raise ApiError(422, "no_variant", str(error)) from error
    planned = list(so_far.found)
    ladder = [r.to_json() for r in planned]
    drills = [
        {
            "kind": kind,
            "items": n,
            "minutes": items_of.minutes({"kind": "drill", "items": n}),
            "title": title(kind),
        }
        for kind, n in made.drills
    ]
    return {
        "brief": made.to_json(),
        "ladder": [{**r, "title": rung_name(r)} for r in ladder],
        "drills": drills,
        "minutes": sum(r["minutes"] for r in (*ladder, *drills)),
        "note": shortfall(made, planned) if so_far.done else "",
        "of": len(so_far.wanted),
        "so_far": None if so_far.done else so_far.to_json(),
    }


@api.post("/briefs/call", responses={200: ChangedCall})
@roles(INSTRUCTOR)
def brief_call(body: CallBody) -> Any:
    """One planned call with another fault, level, machine or weather, or swapped for another fault that is as hard."""
    with database().transaction() as connection:
        asked_for = with_own(connection, g.user["school_id"], body.brief)
    change = {
        "skill": body.skill,
        "level": body.level,
        "machines": body.machines,
        "weather": body.weather,
        "swap": body.swap,
    }
    try:
        made, rung = for_account(_changed, asked_for, body.rung.model_dump(exclude_none=True), change)
    except NoClassSetError as error:
        raise ApiError(422, "no_variant", str(error)) from error
    row, wanted = rung.to_json(), body.rung.level if body.level is None else body.level
    return {
        "brief": made.to_json(),
        "rung": {"number": row["rung"], **{k: row[k] for k in RungBody.model_fields if k in row}},
        "title": rung_name(row),
        "minutes": rung.minutes,
        "note": ""
        if rung.level == wanted
        else f"{rung_name(row)} turned out at level {rung.level} here, not {wanted}.",
    }


def _changed(asked_for: dict[str, Any], row: dict[str, Any], change: dict[str, Any]) -> Any:
    return one_call(asked_for, row, **change)


@api.post("/briefs/skills", responses={200: SkillsReply})
@roles(INSTRUCTOR)
def brief_skills(body: SkillsBody) -> Any:
    """What one call of a request can hide on these machines: each fault, the pairs, and nothing wrong."""
    with database().transaction() as connection:
        asked_for = with_own(connection, g.user["school_id"], body.brief)
    found = [skill_id(s) for s in skills_on({"title": "A sheet", **asked_for}, body.machines, body.way)]
    return {
        "skills": [
            {
                "id": one,
                "name": rung_name({"skill": one, "way": body.way}),
                "also": [name for fault in one.split("+") for name in names_of_fault(fault)],
            }
            for one in found
        ]
    }
