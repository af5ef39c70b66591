"""What the templates of packet and key are given for one frozen body: a call, a plant on a rig, or a drill."""

from __future__ import annotations

from dataclasses import asdict
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.dials import dial
from wolfsbane.cycle.faults import FAULTS
from wolfsbane.cycle.instruments import in_order
from wolfsbane.cycle.quantities import name_of
from wolfsbane.diagnosis.figures import SATURATIONS
from wolfsbane.diagnosis.targets import FIGURES, HIGH, LOW, NORMAL
from wolfsbane.exercise.marking.drill_marks import drill_answers, drill_questions, lettered, title
from wolfsbane.exercise.marking.grade import SAID
from wolfsbane.exercise.paper.correction import plan_line
from wolfsbane.exercise.paper.drill import DrillBody
from wolfsbane.exercise.paper.pipes import PIPES
from wolfsbane.exercise.paper.questions import EVIDENCE
from wolfsbane.exercise.paper.repairs import slope_line
from wolfsbane.exercise.paper.routes import listed
from wolfsbane.exercise.paper.rubrics import RUBRIC_VERSION
from wolfsbane.server.printing.charge_svg import charge_svg
from wolfsbane.server.printing.dial_svg import data_uri, face_svg, needle_svg

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.frozen_body import Body
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.exercise.paper.questions import Question

#: wrong plans told on the key, of those the correction holds
_WRONG_PLANS_SHOWN = 3
_KEY_ROWS = ("suction_pressure", "head_pressure", *SATURATIONS, *FIGURES)
#: parts of a call that stand on the page to correct
_CHANGED = ("after_suction", "after_head", "after_superheat", "after_subcooling")


def pair(drawing: dict[str, Any]) -> dict[str, str]:
    """Face and needle of a dial as addresses of pictures; faces are shared between papers."""
    return {"face": data_uri(face_svg(drawing)), "needle": data_uri(needle_svg(drawing))}


def _dial(call: Call, side: str, value: float) -> dict[str, str]:
    return pair(dial(side, call.units, value, call.machine.refrigerant, call.conditions.barometer_pa))


def packet_item(body: Body) -> dict[str, Any]:
    """What the packet shows of a body; nothing of the key."""
    return _packet_drill(body) if isinstance(body, DrillBody) else _packet_call(body)


def _numbered(questions: tuple[Question, ...]) -> dict[str, dict[str, Any]]:
    return {q.id: {**asdict(q), "no": i} for i, q in enumerate(questions, 1)}


def _packet_call(call: Call) -> dict[str, Any]:
    rig, readings, asked = call.key.rig is not None, in_order(call.readings), _numbered(call.questions)
    analog = call.instruments == "analogue" and not rig
    sides = (("low", "suction_pressure"), ("high", "head_pressure"))
    measured = [q for q in asked.values() if q["id"].startswith("read_")]
    correct = {q: asked[q] for q in ("amount", "order", *_CHANGED) if q in asked}
    chart = None if call.key.repair is None else call.key.repair.chart
    return {
        "drill": False,
        "rig": rig,
        "settle_min": call.key.rig.rows[0].settle_min if call.key.rig is not None else 0,
        "pipes": call.instruments == PIPES,
        "body": call,
        "dials": [_dial(call, side, readings[key].value) for side, key in sides] if analog else [],
        "asked": asked,
        "measured": measured,
        "shown": [] if rig else [r for key, r in readings.items() if not key.endswith("_pressure")],
        "numbers": [
            q for q in asked.values() if q["kind"] in ("temperature", "difference") and not q["id"].startswith("read_")
        ],
        "verdicts": [q | {"band": _band_text(call, q["id"])} for q in asked.values() if q["kind"] == "verdict"],
        "correct": correct,
        "changes": [correct[q] for q in _CHANGED if q in correct],
        "because": asked.get("because"),
        "slope": slope_line(call.key.repair),
        "charge": None if chart is None else data_uri(charge_svg(chart)),
        "net": call.rubric == RUBRIC_VERSION,
        "unsafe_fails": bool(call.practice.get("unsafe_fails")),
        "sealed": [slip.name for slip in call.key.slips],
        "chart": call.key.chart,
        "points": sum(q.points for q in call.questions),
    }


def _band_text(call: Call, question: str) -> str:
    """The target band of the practice beside a verdict, or an empty text where it is asked from memory.

    Of the figure whose target is asked, only how far either way.
    """
    name = question.removesuffix("_verdict")
    if not call.bands_shown:
        return ""
    band = call.key.bands[name]
    if name == call.key.target_of:
        return f"target ± {0.5 * (band.high - band.low):.1f}".removesuffix(".0")
    low, high = (f"{value:.1f}".removesuffix(".0") for value in (band.low, band.high))
    return f"{low} to {high}".replace("-", "−")


def _packet_drill(body: DrillBody) -> dict[str, Any]:
    drill, questions = body.drill, _numbered(drill_questions(body.drill))
    items = []
    for item in drill["items"]:
        drawn = item.get("dial")
        items.append(
            {
                **item,
                "questions": [q for key, q in questions.items() if key.split("_")[0] == f"d{item.get('number')}"],
                "lines_lettered": lettered(item),
                "plain_lines": [line for line in item.get("lines") or () if isinstance(line, str)],
                "picture": None if drawn is None else pair(drawn),
            }
        )
    return {
        "drill": True,
        "rig": False,
        "body": body,
        "title": title(drill["kind"]),
        "instruction": drill["instruction"],
        "items": items,
        "points": len(questions),
        "chart": False,
        "sealed": [],
    }


def key_item(body: Body) -> dict[str, Any]:
    """What the key shows of a body."""
    return _key_drill(body) if isinstance(body, DrillBody) else _key_call(body)


def _key_drill(body: DrillBody) -> dict[str, Any]:
    answers = drill_answers(body.drill)
    rows = [
        {"no": no, "text": q.text, "answer": answers[q.id].replace("-", "−"), "unit": q.unit or ""}
        for no, q in enumerate(drill_questions(body.drill), 1)
    ]
    reasons = [f"Item {i.get('number')}: {i['reason']['text']}" for i in body.drill["items"] if i.get("reason")]
    return {"drill": True, "body": body, "title": title(body.drill["kind"]), "rows": rows, "reasons": reasons}


def _key_row(call: Call, name: str, unit: dict[str, str]) -> dict[str, str] | None:
    """One figure of the key: as printed, its target, the verdict, and after each repair; None where it is not given."""
    key, band = call.key, ""
    if name in call.readings:
        now, after, between = call.readings[name].text, key.after[name], (key.between or {}).get(name, "")
    elif name in key.figures:
        kind = "temperature" if name.endswith("saturation") else "difference"
        now = f"{round(key.figures[name], 1) + 0.0:.1f} {unit[kind]}"
        after, between = key.after_figures.get(name, ""), ""
    else:
        return None
    if name in key.bands:
        band = f"{key.bands[name].low:.1f} to {key.bands[name].high:.1f}"
    said = dict(zip((LOW, NORMAL, HIGH), call.verdict_words, strict=True))
    row = {"now": now, "band": band, "after": after, "between": between}
    return {
        "label": name_of(name),
        "verdict": said.get(key.verdicts.get(name, ""), "").lower(),
        **{part: text.replace("-", "−") for part, text in row.items()},
    }


def _key_call(call: Call) -> dict[str, Any]:
    key, unit = call.key, {q.kind: q.unit for q in call.questions if q.unit}
    rows = [_key_row(call, name, unit) for name in _KEY_ROWS]
    kind = FAULTS.get(key.fault)
    return {
        "drill": False,
        "body": call,
        "rows": [row for row in rows if row is not None],
        "rig": key.rig,
        "severity": f"{kind.parameter} {key.severity:g}\u00a0{kind.unit}" if kind else "",
        "letters": _letters(call),
        "target": f"{key.target_of} {key.target:g} {unit['difference']}".replace("-", "−"),
        "evidence": ", ".join(EVIDENCE[e] for e in key.evidence),
        **_correction_of(call),
        "after_off": [name_of(name) for name in key.after_off],
        "repair": _repair_of(call),
        "open": [c.text for c in call.choices.fault if c.id in set(key.also_open) - set(key.faults)],
        "slips": key.slips,
    }


def _letters(call: Call) -> str:
    key, number = call.key, {q.id: i for i, q in enumerate(call.questions, 1)}
    said = {
        "fault": " ".join(call.choices.letter("fault", f) for f in key.named),
        "evidence": "/".join(call.choices.letter("evidence", e) for e in key.evidence),
        "action": call.choices.letter("action", key.action),
    }
    return " · ".join(f"{number[q]} {text}" for q, text in said.items() if q in number)


def _repair_of(call: Call) -> list[str]:
    """The repair in lines; none on calls made before it was asked."""
    key, number = call.key.repair, {q.id: i for i, q in enumerate(call.questions, 1)}
    if key is None or "amount" not in number:
        return []
    amount = key.amount
    also = f", or {amount.also[0]:g} {amount.unit} weighed in" if amount.also else ""
    moved = f"{amount.value:+g}".replace("-", "−") if amount.value else "0"
    sure = f"± {amount.tolerance:g}"
    if amount.low is not None and amount.high is not None:
        sure = f"{amount.low:+.1f} to {amount.high:+.1f}".replace("-", "−")
    orders = [listed(route) for route in key.routes] or [key.steps]
    ordered = ", or ".join(" ".join(str(call.choices.number(step)) for step in steps) for steps in orders)
    lines = [
        f"{number['amount']} {moved} {amount.unit} ({sure}){also}",
        f"{number['order']} {ordered}",
    ]
    return lines + [f"{number[q]} {' or '.join(SAID[w] for w in key.changes[q])}" for q in _CHANGED if q in number]


def _correction_of(call: Call) -> dict[str, Any]:
    """The plan in one line and the first few wrong plans; nothing on calls made before there was a correction key."""
    found, repair = call.key.correction, call.key.repair
    if found is None or found.refusal:
        return {"plan": "", "wrong": []}
    plan = plan_line(found)
    if repair is not None and repair.routes:
        texts = {row.id: row.text for row in call.choices.order}
        plan = "; ".join(texts[step] for step in repair.steps)
    return {"plan": plan, "wrong": [row.text for row in found.wrong[:_WRONG_PLANS_SHOWN]]}
