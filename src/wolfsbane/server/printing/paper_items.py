"""What the templates of packet and key are given for one frozen body: a call, a plant on a rig, or a drill."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.dials import dial
from wolfsbane.cycle.faults import FAULTS
from wolfsbane.cycle.instruments import ALL_POINTS, PIPES, in_order
from wolfsbane.cycle.quantities import name_of
from wolfsbane.diagnosis.figures import SATURATIONS
from wolfsbane.diagnosis.targets import GLASS, HIGH, LOW, NORMAL
from wolfsbane.exercise.marking.drill_marks import drill_answers, drill_questions, lettered, title
from wolfsbane.exercise.marking.frozen_body import title_of
from wolfsbane.exercise.marking.grade import SAID
from wolfsbane.exercise.marking.situation_marks import situation_answers
from wolfsbane.exercise.paper.correction import plan_line
from wolfsbane.exercise.paper.drill import DrillBody
from wolfsbane.exercise.paper.repairs import slope_line
from wolfsbane.exercise.paper.routes import listed
from wolfsbane.exercise.paper.rubrics import RUBRIC_VERSION
from wolfsbane.exercise.paper.situation import Situation
from wolfsbane.server.printing.charge_svg import charge_svg, charge_words
from wolfsbane.server.printing.trace_svg import trace_svg, trace_words

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.frozen_body import Body
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.exercise.paper.questions import Question

#: wrong plans told on the key, of those the correction holds
_WRONG_PLANS_SHOWN = 3
_KEY_ROWS = ("suction_pressure", "head_pressure", *SATURATIONS)
#: side of a gauge set -> the reading its gauge shows
SIDES = (("low", "suction_pressure"), ("high", "head_pressure"))
#: parts of a call that stand on the page to correct
_CHANGED = ("after_suction", "after_head", "after_superheat", "after_subcooling")


def packet_item(body: Body) -> dict[str, Any]:
    """What the packet shows of a body, as plain data; nothing of the key. Its ``dials`` are drawings."""
    if isinstance(body, Situation):
        return _packet_situation(body)
    return _packet_drill(body) if isinstance(body, DrillBody) else _packet_call(body)


def _numbered(questions: tuple[Question, ...]) -> dict[str, dict[str, Any]]:
    return {
        q.id: {"no": i, "id": q.id, "kind": q.kind, "text": q.text, "unit": q.unit or ""}
        for i, q in enumerate(questions, 1)
    }


def _packet_call(call: Call) -> dict[str, Any]:
    rig, readings, asked = call.key.rig, in_order(call.readings), _numbered(call.questions)
    gauges = "rig" if rig is not None else {"analogue": "dials", PIPES: "pipes"}.get(call.instruments, "digital")
    measured = [q for q in asked.values() if q["id"].startswith("read_")]
    return {
        "kind": "call",
        "machine": call.machine.name,
        "plate": [{"label": row.label, "text": row.text} for row in call.machine.plate],
        "story": " ".join(part for part in (call.complaint, call.history) if part),
        "looks": [*([call.done] if call.done else []), *call.look_round],
        "sealed": [slip.name for slip in call.key.slips],
        "chart": bool(call.key.chart),
        "gauges": gauges,
        "dials": [_dial(call, side, key) for side, key in SIDES] if gauges == "dials" else [],
        "digital": [
            {"side": side, "name": f"{side} side", "text": readings[key].text} for side, key in SIDES if key in readings
        ],
        "rig": None if rig is None else {"settle_min": rig.rows[0].settle_min, "measured": measured},
        "shown": [] if rig is not None else _shown(call),
        "beside": [] if rig is not None else _beside(call),
        "numbers": [
            q for q in asked.values() if q["kind"] in ("temperature", "difference") and not q["id"].startswith("read_")
        ],
        "verdicts": [q | {"band": band_text(call, q["id"])} for q in asked.values() if q["kind"] == "verdict"],
        "verdict_words": list(call.verdict_words),
        "choices": [_choice(call, name, asked[name]) for name in ("fault", "evidence", "action") if name in asked],
        "because": asked["because"]["no"] if "because" in asked else None,
        "repair": _packet_repair(call, asked),
        "unsafe_fails": bool(call.practice.get("unsafe_fails")),
    }


def _beside(call: Call) -> list[str]:
    """Heads of two columns of readings, where others stand beside a call's own; empty where none do."""
    return ["Circuit 1", "Circuit 2"] if call.twin else ["Now", "First visit"] if call.before else []


def _shown(call: Call) -> list[dict[str, str]]:
    """Rows of the table of readings: pressures stand on the gauges, unless another circuit's stand beside them."""
    rows = []
    for key, reading in in_order(call.readings).items():
        beside = call.twin.get(key) or call.before.get(key)
        if key.endswith("_pressure") and beside is None:
            continue
        own = "gauge" if key.endswith("_pressure") else reading.text
        rows.append({"label": reading.label, "text": own, "beside": "" if beside is None else beside.text})
    return rows


def _choice(call: Call, name: str, question: dict[str, Any]) -> dict[str, Any]:
    """A question whose answer is a letter, or several."""
    titles = {"evidence": "Evidence", "action": "What to do first"}
    return {
        "no": question["no"],
        "title": titles.get(name, question["text"]),
        "wide": name == "evidence" or question["kind"] == "letters",
        "columns": 2 if name == "evidence" else 1,
        "rows": [{"key": c.letter, "text": c.text} for c in call.choices.lettered(name)],
    }


def _packet_repair(call: Call, asked: dict[str, dict[str, Any]]) -> dict[str, Any] | None:
    """The page to correct, or None where nothing is asked there."""
    if "order" not in asked:
        return None
    chart = None if call.key.repair is None else call.key.repair.chart
    return {
        "amount": asked["amount"],
        "net": call.rubric == RUBRIC_VERSION,
        "slope": slope_line(call.key.repair) or "",
        "chart": None if chart is None else charge_svg(chart),
        "chart_alt": "" if chart is None else charge_words(chart),
        "changes": [asked[q] | {"text": asked[q]["text"].split(",")[0]} for q in _CHANGED if q in asked],
        "order": {
            "no": asked["order"]["no"],
            "steps": [{"key": str(c.number), "text": c.text} for c in call.choices.order],
        },
    }


def _dial(call: Call, side: str, key: str) -> dict[str, Any]:
    reading = call.readings[key]
    drawn = dial(side, call.units, reading.value, call.machine.refrigerant, call.conditions.barometer_pa)
    return {"drawing": drawn, "alt": _dial_words(drawn, reading.text)}


def _dial_words(drawn: dict[str, Any], stands: str | None) -> str:
    """A dial for somebody who hears it: what one who sees it would read off, or only which gauge it is."""
    name = f"{drawn['side'].capitalize()} side gauge in {drawn['unit']}, with a PT scale for {drawn['refrigerant']}"
    return f"{name}: the needle stands at {stands}" if stands is not None else name


def band_text(call: Call, question: str) -> str:
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
        drawn, asked = (
            item.get("dial"),
            [q for key, q in questions.items() if key.split("_")[0] == f"d{item['number']}"],
        )
        items.append(
            {
                "number": item["number"],
                "prompt": item["prompt"],
                "readings": [
                    {"label": ALL_POINTS[k].label, "text": text} for k, text in (item.get("readings") or {}).items()
                ],
                "lines": [line for line in item.get("lines") or () if isinstance(line, str)],
                "lettered": [{"key": row["letter"], "text": row["text"]} for row in lettered(item)],
                "worked": item.get("worked") or "",
                "questions": [q | {"text": q["text"].split(": ")[1]} for q in asked],
                "dial": None if drawn is None else {"drawing": drawn, "alt": _dial_words(drawn, None)},
            }
        )
    return {
        "kind": "drill",
        "title": title(drill["kind"]),
        "instruction": drill["instruction"],
        "items": items,
        "points": len(questions),
        "repair": None,
        "because": None,
    }


def _packet_situation(body: Situation) -> dict[str, Any]:
    asked = _numbered(body.questions)
    return {
        "kind": "situation",
        "title": body.title,
        "machine": body.machine.name,
        "plate": [{"label": row.label, "text": row.text} for row in body.machine.plate],
        "story": body.complaint,
        "looks": list(body.looks),
        "tables": [
            {"title": t.title, "columns": list(t.columns), "rows": [list(row) for row in t.rows]} for t in body.tables
        ],
        "traces": [{"title": one.title, "svg": trace_svg(one), "alt": trace_words(one)} for one in body.traces],
        "numbers": [q for q in asked.values() if q["id"] not in body.choices],
        "choices": [
            {
                "no": asked[question]["no"],
                "title": asked[question]["text"],
                "rows": [{"key": c.letter, "text": c.text} for c in body.choices[question]],
            }
            for question in asked
            if question in body.choices
        ],
        "points": sum(q.points for q in body.questions),
        "repair": None,
        "because": None,
    }


def _key_situation(body: Situation) -> dict[str, Any]:
    answers = situation_answers(body)
    rows = []
    for no, q in enumerate(body.questions, 1):
        number = body.key.numbers.get(q.id)
        text = answers[q.id].replace("-", "−")
        sure = "" if number is None else f"± {number.tolerance:g}"
        said = "" if number is not None else next(c.text for c in body.choices[q.id] if c.letter == answers[q.id])
        rows.append({"no": no, "text": q.text, "answer": text, "unit": q.unit or "", "sure": sure, "said": said})
    return {
        "kind": "situation",
        "title": title_of(body),
        "machine": body.machine.name,
        "rows": rows,
        "told": [*body.key.told, *(claim.text for claim in body.key.claims)],
        "level": f"{body.key.level} of 5",
        "hazard": body.key.hazard,
    }


def key_item(body: Body) -> dict[str, Any]:
    """What the key shows of a body."""
    if isinstance(body, Situation):
        return _key_situation(body)
    return _key_drill(body) if isinstance(body, DrillBody) else _key_call(body)


def _key_drill(body: DrillBody) -> dict[str, Any]:
    answers = drill_answers(body.drill)
    rows = [
        {"no": no, "answer": answers[q.id].replace("-", "−"), "unit": q.unit or ""}
        for no, q in enumerate(drill_questions(body.drill), 1)
    ]
    reasons = [f"Item {i.get('number')}: {i['reason']['text']}" for i in body.drill["items"] if i.get("reason")]
    return {"kind": "drill", "title": title(body.drill["kind"]), "rows": rows, "reasons": reasons}


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
        "label": call.readings[name].label if name in call.readings else _figure_called(call, name),
        "verdict": said.get(key.verdicts.get(name, ""), "").lower(),
        **{part: text.replace("-", "−") for part, text in row.items()},
    }


def _figure_called(call: Call, name: str) -> str:
    """A figure in the words of the page, as its evidence calls it."""
    rows = {choice.id: choice.text for choice in call.choices.evidence}
    return rows.get(name) or name_of(name)


def _key_call(call: Call) -> dict[str, Any]:
    key, unit = call.key, {q.kind: q.unit for q in call.questions if q.unit}
    figures = [name for name in key.judged if name != GLASS]
    rows = [_key_row(call, name, unit) for name in (*_KEY_ROWS, *figures)]
    target = "" if key.target is None else f"{key.target_of} {key.target:g} {unit['difference']}".replace("-", "−")
    kind = FAULTS.get(key.fault)
    return {
        "kind": "call",
        "fault": key.fault_name,
        "machine": call.machine.name,
        "severity": f"{kind.parameter} {key.severity:g}\u00a0{kind.unit}" if kind else "",
        "letters": _letters(call),
        "rig": key.rig is not None,
        "predicted": key.rig is not None and not key.measured,
        "rows": [row for row in rows if row is not None],
        "two_repairs": bool(key.between),
        "told": _told(call, target),
        "repair": _repair_of(call),
        **_correction_of(call),
        "after_off": [_figure_called(call, name) for name in key.after_off],
        "slips": [{"name": slip.name, "text": slip.text} for slip in key.slips],
        "hazard": key.hazard,
    }


def _told(call: Call, target: str) -> list[dict[str, str]]:
    """What the key says in one line, part by part: name and text."""
    key, also = call.key, set(call.key.also_open) - set(call.key.faults)
    evidence = {choice.id: choice.text for choice in call.choices.evidence}
    rows = [
        ("Target", target),
        ("Evidence", ", ".join(evidence.get(e, e) for e in key.evidence)),
        ("First", key.action_text),
        ("Then", key.repairs[1] if key.between else ""),
        ("Difficulty", f"{key.difficulty.level} of 5" if key.difficulty else ""),
        ("Left open, earns full points", ", ".join(c.text for c in call.choices.fault if c.id in also)),
    ]
    return [{"name": name, "text": text} for name, text in rows if text]


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
