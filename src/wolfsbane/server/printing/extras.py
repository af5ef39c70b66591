"""The other papers of a sheet: marking guide, plant cards, station rotation, feedback, PT charts.

All from stored rows alone.
"""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from wolfsbane.cycle.instruments import in_order
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.quantities import name_of
from wolfsbane.cycle.units import SYSTEMS, to_display
from wolfsbane.diagnosis.figures import SUBTRACTIONS
from wolfsbane.exercise.draw.rig import needed
from wolfsbane.exercise.marking.frozen_body import Body, level_of, on_rig, title_of
from wolfsbane.exercise.marking.rubric import lines_of
from wolfsbane.exercise.paper.call import Call
from wolfsbane.exercise.paper.drill import DrillBody
from wolfsbane.exercise.paper.key import RigCard
from wolfsbane.exercise.paper.questions import QUESTIONS
from wolfsbane.exercise.paper.rotation import timetable
from wolfsbane.exercise.paper.rubrics import RUBRIC_VERSION, RUBRICS, shares
from wolfsbane.server.language import ENGLISH, FED_BACK, said
from wolfsbane.server.printing.charts import pt_pdf
from wolfsbane.server.printing.paper import of_sheet, page_words, size_of


def guide_pdf(sheet: dict[str, Any], bodies: list[Body], rows: list[dict[str, Any]]) -> bytes:
    """The marking guide. ``bodies`` are those of the first paper, ``rows`` the items with their rules."""
    calls = [
        {
            "position": row["position"],
            "title": _what(body),
            "level": level_of(body) or "",
            "points": row["points"] or "",
            "rules": _rules_text(row["rules"]),
        }
        for row, body in zip(rows, bodies, strict=False)
    ]
    plain = next((b for b in bodies if isinstance(b, Call)), None)
    return of_sheet(
        "guide",
        sheet,
        rubric=lines_of(plain.rubric if plain is not None else RUBRIC_VERSION),
        weights="" if plain is None or plain.rubric != RUBRIC_VERSION else _weights(plain),
        calls=calls,
        example=[] if plain is None else _example(plain),
    )


def _weights(call: Call) -> str:
    """The rubric by name and how it weighs this call."""
    parts = shares({q.id: q.points for q in call.questions})
    return (
        f"{RUBRICS[call.rubric_name].name} rubric: figures and verdicts {100 * parts['figures']:.0f} %, conclusion and "
        f"evidence {100 * parts['conclusion']:.0f} %, plan and outcome {100 * parts['plan']:.0f} %."
    )


def _what(body: Body) -> str:
    return title_of(body) if not isinstance(body, Call) or on_rig(body) else f"e.g. {title_of(body)}"


def _example(body: Call) -> list[str]:
    """Follow-through on one of the sheet's own calls: the PT scale misread by four degrees, and what then is right."""
    figures, unit = body.key.figures, next(q.unit for q in body.questions if q.kind == "temperature")
    k = 4.0 if unit == "°F" else 2.0

    def n(v: Any) -> Any:
        return f"{v:.1f}".replace("-", "−")

    name = body.key.judged[0]
    line, called = body.readings[SUBTRACTIONS[name][0]], name_of(name)
    return [
        (
            f"The suction PT scale of the first paper stands at {n(figures['suction_saturation'])} {unit}. Somebody "
            f"reads {n(figures['suction_saturation'] + k)}: no mark for the PT scale."
        ),
        (
            f"{called} is then {line.text} − {n(figures['suction_saturation'] + k)} ="
            f" {n(figures[name] - k)}, not {n(figures[name])}: a full mark, it follows. The verdict is"
            f" marked against {n(figures[name] - k)}, and the fault and the plan against the figures as they"
            " stand on the paper. One slip, one mark."
        ),
    ]


def _rules_text(rules: dict[str, Any]) -> str:
    parts = [
        f"also accepted: {', '.join(i.replace('_', ' ') for i in ids)}"
        for ids in rules.get("accept", {}).values()
        if ids
    ]
    parts += [f"{name} × {factor:g}" for name, factor in rules.get("wider", {}).items()]
    parts += ["the whole call is excluded"] if rules.get("excluded") else []
    parts += [f"excluded: {QUESTIONS[q][1] if q in QUESTIONS else q}" for q in rules.get("void", ())]
    return "; ".join(parts)


def plants_pdf(sheet: dict[str, Any], bodies: list[Body], own: list[list[dict[str, Any]]]) -> bytes | None:
    """Plant cards of every rig call; ``bodies`` are those of the first paper, ``own`` what each rig call needs on the
    school's own rigs. None where nothing is planted.
    """
    calls = [
        (position, body, body.key.rig)
        for position, body in enumerate(bodies, 1)
        if isinstance(body, Call) and body.key.rig is not None
    ]
    cards = [_card(*call, rigs) for call, rigs in zip(calls, own, strict=True)]
    return of_sheet("plants", sheet, cards=cards) if cards else None


def _card(position: int, body: Call, rig: RigCard, own: list[dict[str, Any]]) -> dict[str, Any]:
    system, c = body.units, body.conditions

    def t(k: float) -> str:
        return f"{to_display('temperature', k, system):.0f} {SYSTEMS[system]['temperature'][0]}"

    return {
        "position": position,
        "machine": body.machine.name,
        "rows": [asdict(row) for row in rig.rows],
        "own": [{"rig": one["rig"], "ways": one["ways"]} for one in own],
        "weather": f"{t(c.outdoor_k)} outdoors, {t(c.return_k)} return, {t(c.return_wet_bulb_k)} wet bulb",
        "readings": [
            {
                "label": r.label,
                "text": rig.predicted[key],
                "needed": key in needed(body),
                "own": [one["predicted"].get(key, "–") for one in own],
            }
            for key, r in in_order(body.readings).items()
        ],
    }


def rotation_pdf(
    sheet: dict[str, Any], bodies: list[Body], people: list[dict[str, str]], minutes: int, rigs: Any = None
) -> bytes | None:
    """The station rotation of the planted calls, with a desk for what is on paper.

    ``people`` are {name, group_name}; None without rigs.
    """
    plants = [
        f"Call {i}: {body.machine.name}" for i, body in enumerate(bodies, 1) if isinstance(body, Call) and on_rig(body)
    ]
    if not plants:
        return None
    table = timetable(people, plants, minutes, rigs, desk=len(plants) < len(bodies))
    return of_sheet("rotation", sheet, table=table)


def feedback_pdf(
    sheet: dict[str, Any], papers: list[tuple[dict[str, Any], dict[str, Any]]], _progress: Any = None
) -> bytes | None:
    """Feedback for each of ``papers``: list of (feedback, next call or None), in the language it names. None where
    nobody is marked yet.
    """
    marked = [told | {"next": then, "lang": told.get("language", ENGLISH)} for told, then in papers if told["calls"]]
    shown = [said(one, one["lang"], FED_BACK) for one in marked]
    words = {lang: page_words(lang, "feedback") for lang in {one["lang"] for one in shown} - {ENGLISH}}
    return of_sheet("feedback", sheet, papers=shown, words=words) if shown else None


def charts_pdf(sheet: dict[str, Any], bodies: list[Body]) -> bytes | None:
    """A PT chart of every refrigerant on the sheet, one page each. None on a sheet of drills."""
    names = sorted({b.machine.refrigerant for b in bodies if not isinstance(b, DrillBody)})
    return pt_pdf([refrigerant(name) for name in names], sheet["units"], size_of(sheet)) if names else None
