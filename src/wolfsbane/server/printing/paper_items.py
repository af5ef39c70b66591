"""What the templates of packet and key are given for one frozen body: a call, a plant on a rig, or a drill."""

from __future__ import annotations

from typing import Any

from wolfsbane.cycle.dials import dial
from wolfsbane.cycle.faults import FAULTS
from wolfsbane.cycle.instruments import in_order
from wolfsbane.exercise.marking.drill_marks import drill_answers, drill_questions, lettered, title
from wolfsbane.exercise.marking.frozen_body import is_drill
from wolfsbane.exercise.marking.grading import SAID
from wolfsbane.exercise.paper.correction import plan_line
from wolfsbane.exercise.paper.pipes import PIPES
from wolfsbane.exercise.paper.questions import EVIDENCE
from wolfsbane.exercise.paper.repairs import slope_line
from wolfsbane.server.printing.dial_svg import data_uri, face_svg, needle_svg

#: wrong plans told on the key, of those the correction holds
_WRONG_PLANS_SHOWN = 3
_KEY_ROWS = (
    ("suction_pressure", "Suction pressure"),
    ("head_pressure", "Head pressure"),
    ("suction_saturation", "Suction saturation"),
    ("liquid_saturation", "Liquid saturation"),
    ("superheat", "Superheat"),
    ("subcooling", "Subcooling"),
    ("evaporator_td", "Evaporator TD"),
    ("ctoa", "CTOA"),
)
#: parts of a call that stand on the page to correct
_CHANGED = ("after_suction", "after_head", "after_superheat", "after_subcooling")


def pair(drawing: dict[str, Any]) -> dict[str, str]:
    """Face and needle of a dial as addresses of pictures; faces are shared between papers."""
    return {"face": data_uri(face_svg(drawing)), "needle": data_uri(needle_svg(drawing))}


def _dial(body: dict[str, Any], side: str, value: float) -> dict[str, str]:
    return pair(dial(side, body["units"], value, body["machine"]["refrigerant"], body["conditions"]["barometer_pa"]))


def packet_item(body: dict[str, Any]) -> dict[str, Any]:
    """What the packet shows of a body; nothing of the key."""
    return _packet_drill(body) if is_drill(body) else _packet_call(body)


def _numbered(questions: list[dict[str, Any]]) -> dict[str, dict[str, Any]]:
    return {q["id"]: {**q, "no": i} for i, q in enumerate(questions, 1)}


def _packet_call(body: dict[str, Any]) -> dict[str, Any]:
    rig, readings, asked = bool(body["key"].get("rig")), in_order(body["readings"]), _numbered(body["questions"])
    analogue = body["instruments"] == "analogue" and not rig
    dials = (
        [
            _dial(body, side, readings[key]["value"])
            for side, key in (("low", "suction_pressure"), ("high", "head_pressure"))
        ]
        if analogue
        else []
    )
    measured = [q for q in asked.values() if q["id"].startswith("read_")]
    correct = {q: asked[q] for q in ("amount", "order", *_CHANGED) if q in asked}
    return {
        "drill": False,
        "rig": rig,
        "pipes": body["instruments"] == PIPES,
        "body": body,
        "dials": dials,
        "asked": asked,
        "measured": measured,
        "shown": [] if rig else [r for key, r in readings.items() if not key.endswith("_pressure")],
        "numbers": [
            q for q in asked.values() if q["kind"] in ("temperature", "difference") and not q["id"].startswith("read_")
        ],
        "verdicts": [q for q in asked.values() if q["kind"] == "verdict"],
        "correct": correct,
        "changes": [correct[q] for q in _CHANGED if q in correct],
        "because": asked.get("because"),
        "slope": slope_line(body["key"]),
        "sealed": [s["name"] for s in body["key"].get("slips", ())],
        "chart": body["key"].get("chart"),
        "points": sum(q["points"] for q in body["questions"]),
    }


def _packet_drill(body: dict[str, Any]) -> dict[str, Any]:
    drill = body["drill"]
    questions = {q["id"]: {**q, "no": i} for i, q in enumerate(drill_questions(drill), 1)}
    items = []
    for item in drill["items"]:
        mine = [q for key, q in questions.items() if key.split("_")[0] == f"d{item['number']}"]
        plain = [line for line in item.get("lines") or () if isinstance(line, str)]
        items.append(
            {
                **item,
                "questions": mine,
                "lines_lettered": lettered(item),
                "plain_lines": plain,
                "picture": pair(item["dial"]) if item.get("dial") else None,
            }
        )
    return {
        "drill": True,
        "rig": False,
        "body": body,
        "title": title(drill),
        "instruction": drill["instruction"],
        "items": items,
        "points": len(questions),
        "chart": False,
        "sealed": [],
    }


def key_item(body: dict[str, Any]) -> dict[str, Any]:
    """What the key shows of a body."""
    return _key_drill(body) if is_drill(body) else _key_call(body)


def _key_drill(body: dict[str, Any]) -> dict[str, Any]:
    answers, rows = drill_answers(body["drill"]), []
    for no, question in enumerate(drill_questions(body["drill"]), 1):
        rows.append(
            {
                "no": no,
                "text": question["text"],
                "answer": answers[question["id"]].replace("-", "−"),
                "unit": question["unit"] or "",
            }
        )
    reasons = [f"Item {i['number']}: {i['reason']}" for i in body["drill"]["items"] if i.get("reason")]
    return {"drill": True, "body": body, "title": title(body["drill"]), "rows": rows, "reasons": reasons}


def _key_call(body: dict[str, Any]) -> dict[str, Any]:
    key, unit = body["key"], {q["kind"]: q["unit"] for q in body["questions"] if q["unit"]}
    rows = []
    for name, label in _KEY_ROWS:
        if name in body["readings"]:
            now, band, after = body["readings"][name]["text"], "", key["after"][name]
            between = (key.get("between") or {}).get(name, "")
        elif name not in key["figures"]:
            continue
        else:
            kind = "temperature" if name.endswith("saturation") else "difference"
            now, band = f"{round(key['figures'][name], 1) + 0.0:.1f} {unit[kind]}", ""
            after, between = key["after_figures"].get(name, ""), ""
        if name in key["bands"]:
            band = f"{key['bands'][name]['low']:.1f} to {key['bands'][name]['high']:.1f}"
        rows.append(
            {
                "label": label,
                "now": now.replace("-", "−"),
                "band": band.replace("-", "−"),
                "after": after.replace("-", "−"),
                "between": between.replace("-", "−"),
                "verdict": key["verdicts"].get(name, ""),
            }
        )
    kind = FAULTS.get(key["fault"])
    return {
        "drill": False,
        "body": body,
        "rows": rows,
        "rig": key.get("rig"),
        "severity": f"{kind.parameter} {key['severity']:g}\u00a0{kind.unit}" if kind else "",
        "letters": _letters(body),
        "target": f"{key['target_of']} {key['target']:g} {unit['difference']}".replace("-", "−"),
        "evidence": ", ".join(EVIDENCE[e] for e in key["evidence"]),
        **_correction_of(key),
        **_mending_of(body),
        "open": [
            c["text"]
            for c in body["choices"]["fault"]
            if c["id"] in set(key.get("also_open", ())) - set(key.get("faults", ()))
        ],
        "slips": key.get("slips", ()),
    }


def _letters(body: dict[str, Any]) -> str:
    key, number = body["key"], {q["id"]: i for i, q in enumerate(body["questions"], 1)}
    letter = {kind: {c["id"]: c["letter"] for c in body["choices"][kind]} for kind in ("fault", "evidence", "action")}
    said = {
        "fault": " ".join(letter["fault"][f] for f in key.get("faults") or [key["fault"]]),
        "evidence": "/".join(letter["evidence"][e] for e in key["evidence"]),
        "action": letter["action"][key["action"]],
    }
    return " · ".join(f"{number[q]} {text}" for q, text in said.items() if q in number)


def _mending_of(body: dict[str, Any]) -> dict[str, list[str]]:
    """The correcting half in lines; nothing on calls made before it was asked."""
    key, number = body["key"], {q["id"]: i for i, q in enumerate(body["questions"], 1)}
    if "steps" not in key or "amount" not in number:
        return {"mend": []}
    steps = {row["id"]: row["number"] for row in body["choices"]["order"]}
    amount = key["amount"]
    also = f", or {amount['also'][0]:g} {amount['unit']} weighed in anew" if amount["also"] else ""
    moved = f"{amount['value']:+g}".replace("-", "−") if amount["value"] else "0"
    ordered = " ".join(str(steps[s]) for s in key["steps"])
    lines = [
        f"{number['amount']} {moved} {amount['unit']} (± {amount['tolerance']:g}){also}",
        f"{number['order']} {ordered}",
    ]
    lines += [f"{number[q]} {' or '.join(SAID[w] for w in key['changes'][q])}" for q in _CHANGED if q in number]
    return {"mend": lines}


def _correction_of(key: dict[str, Any]) -> dict[str, Any]:
    """The plan in one line and the first few wrong plans; nothing on calls made before there was a correction key."""
    found = key.get("correction") or {}
    if not found or found["refusal"]:
        return {"plan": "", "wrong": []}
    return {"plan": plan_line(found), "wrong": [row["text"] for row in found["wrong"][:_WRONG_PLANS_SHOWN]]}
