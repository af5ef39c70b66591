"""Demo data: a training school of our own invention, loaded once."""

from __future__ import annotations

import random
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.faults import FAULTS, NONE
from wolfsbane.exercise.marking.frozen_body import body_from_json, key_answers
from wolfsbane.exercise.paper.call import Call
from wolfsbane.exercise.plan.scenario import scenario
from wolfsbane.exercise.plan.starter_library import ready_scenarios
from wolfsbane.server.api.classes import add_class
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.security import hash_password
from wolfsbane.server.jobs.queue import queue_print
from wolfsbane.server.run import demo_cylinders, demo_labs, demo_rigs, demo_screen
from wolfsbane.server.services import building, marking, sheets
from wolfsbane.server.services.courses import add_ready
from wolfsbane.server.services.library import add_scenario

if TYPE_CHECKING:
    from wolfsbane.server.core.db.database import Connection, Database

SCHOOL = "Harrowmere Trades School"
_ZONE = "America/Denver"
SHEET = "Week 9: charge or air?"
#: for the demo on loopback only; shown by the start command
INSTRUCTOR_LOGIN, INSTRUCTOR_PASSWORD = "instructor", "violet-hood"
ASSISTANT_LOGIN, ASSISTANT_PASSWORD = "assistant", "red-pencil-2"
APPRENTICE_LOGIN, APPRENTICE_PASSWORD = "apprentice", "paper-and-ink"
WARM_UP, ON_THE_RIG = "Week 8: PT scales and subtractions", "Week 10: at the rig"
APPRENTICES = (
    "Tamsin Orrel",
    "Bram Okafell",
    "Ines Quarrow",
    "Jory Plimsett",
    "Aino Vesterby",
    "Dell Marchbanks",
    "Rosa Tindle",
    "Oskar Wray",
    "Priya Sandmoor",
    "Wim Castellow",
    "Nell Farthing",
    "Emeka Rushden",
)
#: a small class that meets every kind of machine and visit
EVENING_CLASS = ("Corin Halewell", "Mirre Dunstock", "Teo Varnley")
_WEATHER = {"outdoor_db_f": 93, "return_db_f": 78, "return_wb_f": 65.5}
_SCENARIOS = (
    ("Runs all afternoon", "split-3t-r410a-txv", "undercharge", 80, "charge"),
    ("Fine until lunch", "split-3t-r410a-txv", "dirty_condenser", 60, "air outdoors"),
    ("Hardly any air in the back bedroom", "split-3t-r410a-orifice", "low_airflow", 48, "air indoors"),
    ("New drier, not cooling well", "split-3t-r410a-txv", "liquid_line_restriction", 170, "metering"),
    ("Rumble at start-up", "split-3t-r410a-txv", "valve_overfeeding", 98, "metering"),
    ("A worried neighbor", "split-3t-r410a-orifice", NONE, None, "nothing wrong"),
    ("Never satisfies", "split-3t-r410a-txv", "leaking_compressor_valves", 40, "compressor"),
    ("Somebody added refrigerant", "split-3t-r22-txv", "overcharge", 126, "charge"),
    ("Fan motor replaced in spring", "split-3t-r454b-txv", "condenser_fan_weak", 58, "air outdoors"),
    ("Cold air, little of it", "heatpump-3t-r410a-txv", "low_airflow", 46, "air indoors"),
    ("Since the coil was brazed", "split-3t-r32-eev", "distributor_blocked", 55, "air indoors"),
)
#: one of every kind of call
_EVERY_KIND = (
    "The walk-in creeps up",
    "Lint and fryer grease",
    "Half the store is warm",
    "Lukewarm on Linden Court",
    "Half a strainer",
    "Hot hand, wrong pipe",
)
_BEFORE_AND_AFTER = "Dirt over a leak"
EVERY_KIND = "Week 12: boxes, roofs and winter"
STILL_OR_TRIPPED = "Week 13: still, tripped, swinging"
#: every kind of situation
_SITUATION_SHEETS = (
    (STILL_OR_TRIPPED, ("standing_pressure", "equal_pressures", "trips", "wait_or_read", "hunting")),
    (
        "Week 14: boxes and what controls them",
        ("machine_or_load", "defrost", "low_pressure", "winter_receiver", "frost", "which_valve"),
    ),
    (
        "Week 15: roofs, rooms and closed circuits",
        ("economizer", "supply_probe", "worth_opening", "no_gauges", "customer_wish"),
    ),
    ("Week 16: charging in any weather", ("mild_day", "by_pressure", "by_superheat", "by_the_ounce")),
)
#: sheets that are issued, and those of them of which papers stay to be marked: title -> how many
_ISSUED = (WARM_UP, SHEET, ON_THE_RIG, EVERY_KIND, *(title for title, _ in _SITUATION_SHEETS))
_UNMARKED = {SHEET: 2, STILL_OR_TRIPPED: 1}


def load(db: Database, printers: Any, rig_ports: list[int] | None = None, panel: int = 0) -> None:
    """Load the demo school; ``printers()`` returns what :func:`wolfsbane.server.services.building.build` prints with.

    ``rig_ports`` are where its simulated rigs answer, ``panel`` where their fronts are shown; without them there are
    none. Safe to run again: finishes what an interrupted run left, and does nothing when all is there.
    """
    with db.transaction() as connection:
        if queries.school_by_name(connection, name=SCHOOL) is None:
            _practice(connection)
        school_id = queries.school_by_name(connection, name=SCHOOL)["id"]
        user = queries.user_by_login(connection, login=INSTRUCTOR_LOGIN, school_id=school_id)
        ours = {
            s["title"]: s for s in queries.sheet_list(connection, school_id=user["school_id"]) if s["title"] in _ISSUED
        }
    for title, sheet in ours.items():
        if sheet["status"] != "ready":
            building.build(db, user["school_id"], sheet["id"], printers() if title == SHEET else {})
        if not sheet["marked"] and title != ON_THE_RIG:
            with db.transaction() as connection:
                _answer_all(connection, user, sheet["id"], left=_UNMARKED.get(title, 0))
    with db.transaction() as connection:
        for title, sheet in ours.items():
            if (
                title != SHEET
                and "packet"
                not in queries.sheet_get(connection, school_id=user["school_id"], id=sheet["id"])["printed"]
            ):
                queue_print(connection, user["school_id"], sheet["id"], ["packet", "key"])
        queries.sheet_release(connection, school_id=user["school_id"], id=ours[WARM_UP]["id"], released=True)
        demo_screen.add_runs(connection, user, {**ours[SHEET], "status": "ready"})
    if rig_ports is not None:
        with db.transaction() as connection:
            if not list(queries.rig_list(connection, school_id=user["school_id"])):
                demo_rigs.add_rigs(connection, user["school_id"], user["id"], rig_ports)
            demo_rigs.at_ports(connection, user["school_id"], rig_ports, panel)
            demo_cylinders.add_cylinders(connection, {**user, "time_zone": _ZONE})
            demo_labs.add_labs(connection, user["school_id"], user["id"], APPRENTICES[1:7])


def _practice(connection: Connection) -> None:
    school_id = queries.school_add(connection, name=SCHOOL, time_zone=_ZONE)["id"]
    user_id = queries.user_add(
        connection,
        school_id=school_id,
        login=INSTRUCTOR_LOGIN,
        name="Maren Holloway",
        role="instructor",
        password_hash=hash_password(INSTRUCTOR_PASSWORD),
    )["id"]
    pupil_id = queries.user_add(
        connection,
        school_id=school_id,
        login=APPRENTICE_LOGIN,
        name=APPRENTICES[0],
        role="apprentice",
        password_hash=hash_password(APPRENTICE_PASSWORD),
    )["id"]
    queries.user_add(
        connection,
        school_id=school_id,
        login=ASSISTANT_LOGIN,
        name="Ossian Pell",
        role="assistant",
        password_hash=hash_password(ASSISTANT_PASSWORD),
    )
    user = {"id": user_id, "school_id": school_id}
    class_id = add_class(
        connection,
        school_id,
        "Second years",
        [{"name": name, "number": f"{2101 + i}", "group": "AB"[i % 2]} for i, name in enumerate(APPRENTICES)],
        "Autumn",
    )
    first = next(iter(queries.apprentice_list(connection, school_id=school_id, class_id=class_id)))
    queries.apprentice_link(connection, school_id=school_id, id=first["id"], user_id=pupil_id)
    ids = [
        add_scenario(
            connection,
            user,
            shared=True,
            made=scenario(
                {
                    "schema": 1,
                    "title": title,
                    "machine": machine,
                    "fault": fault,
                    "severity": severity,
                    "tags": [tag, "week 9"],
                    **_WEATHER,
                }
            ),
        )
        for title, machine, fault, severity, tag in _SCENARIOS
    ]
    taken = {title for title, *_ in _SCENARIOS}
    ready = {title: add_ready(connection, user, title) for title in ready_scenarios() if title not in taken}
    of_class: dict[str, Any] = {"class_id": class_id, "units": "us", "seed": 20261123}

    def call(n: int, kind: str = "scenario") -> dict[str, Any]:
        return {"kind": kind, "scenario_id": ids[n]}

    def drill(kind: str, items: int) -> dict[str, Any]:
        return {"kind": "drill", "drill": kind, "items": items, "brief": {"title": kind}}

    for title, items in (
        (WARM_UP, [drill("conversion", 6), drill("superheat", 5), drill("subcooling", 5)]),
        (SHEET, [call(0), call(1), call(2)]),
        (ON_THE_RIG, [drill("dial", 3), call(1, "rig"), call(7)]),
    ):
        sheets.issue(connection, user, sheets.draft(connection, user, title=title, items=items, **of_class))
    sheets.draft(
        connection,
        user,
        title="Week 11: easy to hard",
        items=[drill("spot_the_error", 3), call(5), call(4), call(3)],
        **of_class,
    )
    _every_kind(connection, user, ready)


def _every_kind(connection: Connection, user: dict[str, Any], ready: dict[str, int]) -> None:
    """The evening class, with one call of every kind and every kind of situation."""
    apprentices: list[str | dict[str, Any]] = [
        {"name": name, "number": f"{2301 + i}", "group": "A"} for i, name in enumerate(EVENING_CLASS)
    ]
    class_id = add_class(connection, user["school_id"], "Thursday evenings", apprentices, "Autumn")
    visit = {"kind": "scenario", "scenario_id": ready[_BEFORE_AND_AFTER], "asked": {"second_visit": True}}
    rows: list[tuple[str, list[dict[str, Any]]]] = [
        (EVERY_KIND, [*({"kind": "scenario", "scenario_id": ready[title]} for title in _EVERY_KIND), visit])
    ]
    for title, kinds in _SITUATION_SHEETS:
        rows.append((title, [{"kind": "situation", "situation": kind, "brief": {"title": kind}} for kind in kinds]))
    for title, items in rows:
        made = sheets.draft(connection, user, title=title, items=items, class_id=class_id, units="us", seed=20261123)
        sheets.issue(connection, user, made)


def _answer_all(connection: Connection, user: dict[str, Any], sheet_id: int, left: int) -> None:
    """Fill in papers as a class would: mostly right, with the slips apprentices make;
    the last ``left`` stay to be marked.
    """
    rng = random.Random(9)
    papers = list(queries.paper_list(connection, school_id=user["school_id"], sheet_id=sheet_id))
    for index, row in enumerate(papers[: len(papers) - left]):
        paper = queries.paper_by_code(connection, school_id=user["school_id"], code=row["code"])
        for frozen in list(queries.paper_call_list(connection, paper_id=row["id"])):
            body = body_from_json(frozen["body"])
            if not isinstance(body, Call):
                answers = _drill_with_slips(key_answers(body), rng)
            else:
                answers = _with_slip(body, key_answers(body), rng, index + frozen["position"])
            marking.enter_answers(connection, user, paper, frozen["position"], answers)


def _drill_with_slips(answers: dict[str, str], rng: random.Random) -> dict[str, str]:
    """One number in four is off, as in a second week."""

    def slipped(raw: str) -> str:
        try:
            return f"{float(raw) + rng.choice((-7, 6, 11)):g}"
        except ValueError:
            return raw

    return {q: raw if rng.random() > 0.25 else slipped(raw) for q, raw in answers.items()}


def _with_slip(call: Call, answers: dict[str, str], rng: random.Random, turn: int) -> dict[str, str]:
    answers = {k: _whole(v) if k != "order" else v for k, v in answers.items()}

    def number(key: str) -> float:
        return float(answers[key])

    kind = turn % 6
    if kind == 1 and "suction_saturation" in answers:
        off = rng.choice((-4, 5))
        answers["suction_saturation"] = str(number("suction_saturation") + off)
        for figure in {"superheat", "evaporator_td"} & set(answers):
            answers[figure] = str(number(figure) - off)
            answers.pop(f"{figure}_verdict", None)
    elif kind == 2 and {"superheat", "subcooling"} <= set(answers):
        answers["superheat"], answers["subcooling"] = answers["subcooling"], answers["superheat"]
        answers["amount"] = "16"
    elif kind == 3:
        answers["fault"] = rng.choice([c.letter for c in call.choices.fault if c.id in FAULTS])
        answers["order"] = answers["order"].split()[0]
    elif kind == 4 and "ctoa" in answers:
        answers["ctoa"] = str(-number("ctoa"))
        answers["after_head"] = "U"
    return answers


def _whole(text: str) -> str:
    try:
        return str(round(float(text)))
    except ValueError:
        return text
