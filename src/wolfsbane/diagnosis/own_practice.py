"""A practice of the instructor's own: a copy of one of ours with changes,
checked and carried with the scenario.
"""

from __future__ import annotations

import re
from dataclasses import asdict, replace
from typing import Any

from wolfsbane.cycle.errors import BadInputError, require_range
from wolfsbane.cycle.fields import Accept, at, refuse
from wolfsbane.cycle.quantities import name_of
from wolfsbane.diagnosis.practices import PRACTICES, WEIGHTS, Practice, practice_by_id

#: field -> (what it says, lowest, highest); ranges hold two numbers
_NUMBERS = {
    "subcooling_tolerance_df": ("Subcooling, plus or minus from the nameplate", 0.5, 8),
    "subcooling_shift_df": ("Subcooling target above the nameplate", -3, 5),
    "orifice_superheat_tolerance_df": ("Fixed orifice total superheat, plus or minus from target", 0.5, 10),
    "drier_limit_df": ("Maximum temperature drop across a drier", 0.5, 8),
}
_RANGES = {
    "subcooling_without_plate_df": ("Subcooling where the nameplate gives none", 0, 30),
    "valve_superheat_df": ("TXV superheat, at the outdoor unit", 0, 40),
    "orifice_subcooling_df": ("Subcooling on a fixed orifice system", 0, 30),
    "evaporator_td_df": (name_of("evaporator_td"), 10, 60),
    "ctoa_df": (name_of("ctoa"), 3, 50),
}
_WORDS = {
    "orifice_superheat": ("Target total superheat", ("formula", "chart")),
    "pressure_only": ("Charging by suction pressure alone", WEIGHTS),
    "topping_up": ("Topping off a system that leaks", WEIGHTS),
}
_SWITCHES = {
    "td_from_machine": "Evaporator TD by type of machine",
    "ctoa_from_machine": "CTOA by type of machine",
    "unsafe_fails": "An unsafe step fails the call",
}
#: fields that can be changed in a copy; the saturation a TD uses with glide is one choice everywhere and stays
CHANGEABLE = (*_NUMBERS, *_RANGES, *_WORDS, *_SWITCHES)
PREFIX = "own-"
#: system -> (unit of a difference, degrees F in it)
_UNITS = {"us": ("°F", 1.0), "si": ("K", 1.8)}


def choices_of(practice: Practice, system: str = "us") -> list[dict[str, Any]]:
    """Every choice of a :class:`Practice` as rows {id, label, kind, value, unit, low, high, words, reason} for a form.

    Temperature differences are in the unit of ``system``.
    """
    rows: list[dict[str, Any]] = []
    for key, (label, low, high) in _NUMBERS.items():
        rows.append({"id": key, "label": label, "kind": "number", "low": low, "high": high, "words": []})
    for key, (label, low, high) in _RANGES.items():
        rows.append({"id": key, "label": label, "kind": "range", "low": low, "high": high, "words": []})
    for key, (label, words) in _WORDS.items():
        rows.append({"id": key, "label": label, "kind": "word", "low": None, "high": None, "words": list(words)})
    for key, label in _SWITCHES.items():
        rows.append({"id": key, "label": label, "kind": "switch", "low": None, "high": None, "words": []})
    for row in rows:
        value = getattr(practice, row["id"])
        row["value"] = list(value) if isinstance(value, tuple) else value
        row["unit"] = _UNITS[system][0] if row["kind"] in ("number", "range") else ""
        if row["unit"]:
            row["value"] = _shown(value, system)
            row["low"], row["high"] = _shown((row["low"], row["high"]), system)
        row["reason"] = next((text for key, text in practice.reasons.items() if row["id"].startswith(key)), "")
    return rows


def _shown(value: Any, system: str) -> Any:
    """A difference, or two, in degrees F as ``system`` shows it."""
    size = _UNITS[system][1]
    return [round(v / size, 2) for v in value] if isinstance(value, (list, tuple)) else round(value / size, 2)


def changed(base: Practice, name: str, changes: dict[str, Any], reason: str = "", system: str = "us") -> Practice:
    """A :class:`Practice` of one's own from ``base``, a new name and {field: value}, differences in the unit
    of ``system``.

    ``reason`` says in one sentence why it differs. Raises BadInputError naming the field.
    """
    name = str(name).strip()
    slug = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")
    if not 1 <= len(name) <= 80 or not slug:
        raise BadInputError("name", name, "1 to 80 characters with a letter or digit among them")
    if not isinstance(changes, dict):
        raise BadInputError("changes", type(changes).__name__, "an object of " + ", ".join(CHANGEABLE))
    if not isinstance(reason, str) or len(reason) > 300:
        raise BadInputError("reason", reason, "text of at most 300 characters")
    unit = _UNITS[system]
    fields = {key: _checked(key, value, unit) for key, value in changes.items()}
    reasons = {**base.reasons, **({"own": reason} if reason else {})}
    return replace(base, id=f"{PREFIX}{slug}"[:60], name=name, reasons=reasons, **fields)


def _checked(key: str, value: Any, unit: tuple[str, float]) -> Any:
    if key in _NUMBERS:
        return _difference(key, value, _NUMBERS[key][1:], unit)
    if key in _RANGES:
        if not isinstance(value, (list, tuple)) or len(value) != 2:
            raise BadInputError(key, value, f"two numbers in {unit[0]}, the lower first")
        low, high = (_difference(key, v, _RANGES[key][1:], unit) for v in value)
        if low >= high:
            raise BadInputError(key, value, f"two numbers in {unit[0]}, the lower first")
        return low, high
    if key in _WORDS:
        if value not in _WORDS[key][1]:
            raise BadInputError(key, value, ", ".join(_WORDS[key][1]))
        return value
    if key in _SWITCHES:
        if not isinstance(value, bool):
            raise BadInputError(key, value, "true or false")
        return value
    raise BadInputError(key, value, "one of " + ", ".join(CHANGEABLE))


def _difference(key: str, value: float, ends: tuple[float, int], unit: tuple[str, float]) -> float:
    """A checked difference in degrees F from one in ``unit``; a rounded copy of what stood there stays what it was."""
    name, size = unit
    low, high = (end / size for end in ends)
    slack = 0.006 if size != 1.0 else 0.0
    return round(
        require_range(key, value, round(low, 2) - slack, round(high, 2) + slack, name) * size, 1 if size != 1.0 else 6
    )


def to_json(practice: Practice) -> dict[str, Any]:
    """Plain data of a practice, as a scenario carries it."""
    return {key: list(value) if isinstance(value, tuple) else value for key, value in asdict(practice).items()}


def _all_there(data: Any) -> dict[str, Any]:
    if not isinstance(data, dict):
        raise refuse(type(data).__name__, "an object")
    data = _LATER | data
    for key in (*data, *_FIELDS):
        if key not in _FIELDS or key not in data:
            raise refuse(data.get(key), "exactly the fields of a practice", f".{key}")
    return data


#: fields that practices of before did not have, and what they stood for
_LATER = {"unsafe_fails": False}


_FIELDS = tuple(Practice.__dataclass_fields__)
#: a practice of the instructor's own as a scenario carries it; its values are checked as it is restored
OWN_PRACTICE = Accept(
    _all_there,
    {
        "type": "object",
        "required": [name for name in _FIELDS if name not in _LATER],
        "additionalProperties": False,
        "properties": {name: {} for name in _FIELDS},
    },
)


def restored_practice(data: dict[str, Any]) -> Practice:
    """A :class:`Practice` back from :func:`to_json`, checked again. Raises BadInputError naming the field."""
    data = at("own_practice", _all_there, data)
    if not str(data["id"]).startswith(PREFIX) or data["id"] in PRACTICES:
        raise BadInputError("own_practice.id", data["id"], f"an id that begins with {PREFIX}")
    reasons = data["reasons"]
    if not isinstance(reasons, dict) or not all(isinstance(t, str) and len(t) <= 300 for t in reasons.values()):
        raise BadInputError("own_practice.reasons", reasons, "sentences by name")
    base = replace(practice_by_id("plate_and_formula"), reasons=reasons)
    return replace(changed(base, data["name"], {key: data[key] for key in CHANGEABLE}), id=data["id"])


def kept_practice(data: dict[str, Any]) -> Practice:
    """A :class:`Practice` back from the copy that a frozen call keeps, as it was then, one of ours or somebody's own.

    Raises BadInputError where a field is missing or unknown.
    """
    data = at("practice", _all_there, data)
    fields: dict[str, Any] = {key: tuple(value) if isinstance(value, list) else value for key, value in data.items()}
    return Practice(**fields)
