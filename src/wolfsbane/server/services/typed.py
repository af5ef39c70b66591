"""What people typed into the fields of a form, turned into the numbers that the core reads."""

from __future__ import annotations

from typing import Any

from wolfsbane.cycle.entered import entered, entered_range
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.tuning.plate import NUMBERS, from_si, to_si

#: ending of a reading's key -> unit it is typed in, whether it is a difference
_ENDINGS = {
    "_psig": ("psig", False),
    "_kpa_gauge": ("kPa", False),
    "_df": ("°F", True),
    "_dc": ("K", True),
    "_f": ("°F", False),
    "_c": ("°C", False),
    "_tons": ("tons", False),
}


def typed_plate(data: dict[str, Any], units: str) -> dict[str, Any]:
    """The numbers of a plate, texts read, in the units of their names; what was left blank is left out.

    Raises BadInputError naming the field, its range in the units it was typed in.
    """
    found = {}
    for name, value in data.items():
        if name in NUMBERS and value is not None:
            us, difference = NUMBERS[name][2], name.endswith("_df")
            unit = us if units == "us" else to_si(name, us, 0.0)[1]
            value = entered(value, unit, name, difference=difference) if isinstance(value, str) else value
        if value is not None:
            found[name] = value
    return from_si(found) if units == "si" else found


def in_units(error: BadInputError, units: str) -> BadInputError:
    """A refusal of one of a plate's numbers, said in the units it was typed in."""
    if units == "us" or error.field not in NUMBERS or not isinstance(error.value, (int, float)):
        return error
    low, high, unit = NUMBERS[error.field]
    (value, shown), (least, _), (most, _) = (to_si(error.field, unit, float(v)) for v in (error.value, low, high))
    return BadInputError(error.field, round(value, 2), f"a number from {least:.4g} to {most:.4g} {shown}")


def typed_readings(data: dict[str, Any]) -> dict[str, Any]:
    """Readings of an unlisted machine with texts read: a swinging one is a range; what was left blank is left out.

    Raises BadInputError naming the field.
    """
    return {
        part: _numbers(part, rows) if part in ("machine", "conditions", "readings") else rows
        for part, rows in data.items()
    }


def _numbers(part: str, rows: dict[str, Any]) -> dict[str, Any]:
    found = {}
    for key, value in rows.items():
        ending = next((e for e in _ENDINGS if key.endswith(e)), None)
        if isinstance(value, str) and ending is not None:
            unit, difference = _ENDINGS[ending]
            read = entered_range if part == "readings" or key.startswith("plate_") else entered
            value = read(value, unit, f"{part}.{key}", difference=difference)
            if value is None:
                continue
        found[key] = value
    return found
