"""Calls frozen under older schemas, read as the newest one writes them: what was issued stays as it was."""

from __future__ import annotations

from typing import Any

from wolfsbane.diagnosis.targets import NORMAL

#: verdicts as older schemas wrote them
_OLD_VERDICTS = {"right": NORMAL}
_REPAIR_FIELDS = ("steps", "plans", "changes", "changes_of", "amount", "slope")


def moved_up(data: Any, schema: int) -> Any:
    """Plain data of an older schema as the newest, ``schema``, writes it.

    Schema 1 had no history, and its key named one fault. Up to schema 2 the practice was called school, a normal
    verdict right, and the repair stood among the fields of the key. Up to schema 3 there was one rubric, version 3;
    up to schema 4 every machine was charged by a figure that has a target.
    """
    if (
        not isinstance(data, dict)
        or not isinstance(data.get("key"), dict)
        or data.get("schema") not in range(1, schema)
    ):
        return data
    if data["schema"] >= 3:
        return {**data, "schema": schema}
    data, key = dict(data), dict(data["key"])
    if data["schema"] == 1:
        fault = key.get("fault")
        data = {"history": "", **data}
        key = {"faults": [] if fault == "none" else [fault], "between": None, "mend": [], **key}
    if "school" in data:
        data["practice"] = data.pop("school")
    for old, new in (("mend", "repairs"), ("ring_slope", "scale_slope")):
        if old in key:
            key[new] = key.pop(old)
    key["verdicts"] = {name: _OLD_VERDICTS.get(v, v) for name, v in key.get("verdicts", {}).items()}
    key["patterns"] = {
        fault: [[_OLD_VERDICTS.get(v, v) for v in row] for row in rows]
        for fault, rows in key.get("patterns", {}).items()
    }
    if "steps" in key:
        key["repair"] = {name: key.pop(name) for name in _REPAIR_FIELDS if name in key}
    correcting = key.get("correction")
    if isinstance(correcting, dict) and correcting:
        correcting = dict(correcting)
        if "mends" in correcting:
            correcting["repairs"] = correcting.pop("mends")
        correcting["between"] = [
            {"repaired": row["mended"], "shown": row["shown"]} for row in correcting.get("between", ())
        ]
        key["correction"] = correcting
    elif "correction" in key:
        key["correction"] = None
    return {"verdict_words": ("LOW", "RIGHT", "HIGH"), **data, "schema": schema, "key": key}
