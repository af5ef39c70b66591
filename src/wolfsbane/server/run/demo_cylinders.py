"""Cylinders of the demo school and a day of its refrigerant log; one weighing in it does not add up."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.server.core.db.database import queries
from wolfsbane.server.services import refrigerant

if TYPE_CHECKING:
    from typing import Any

    from wolfsbane.server.core.db.database import Connection

#: name, kind, refrigerant, tare, water capacity, gross, owner, test date; weights in pounds
_CYLINDERS = (
    ("410 new", "new", "R-410A", "8.6", "29.4", "26 lb 4 oz", "School", None),
    ("410 recovery", "recovery", "R-410A", "16.6", "26.2", "29 lb 2 oz", "School", "2029-05-01"),
    ("22 recovery", "recovery", "R-22", "27.5", "47.7", "64 lb", "Harrow Supply, on loan", "2026-08-01"),
    ("Rig 2 recovery", "recovery", "R-410A", "16.6", "26.2", "29 lb 14 oz", "School", "2029-05-01"),
    ("Empty recovery", "recovery", "", "16.6", "26.2", "", "School", "2030-02-01"),
)
#: kind, cylinder, rig, log, before, after, who, why
_MOVES = (
    ("recover", "410 recovery", "Rig 1", "12 oz", "29 lb 2 oz", "29 lb 14 oz", "Tamsin Orrel", "set short for call 2"),
    ("charge", "410 new", "Rig 1", "12 oz", "26 lb 4 oz", "25 lb 6 oz", "Tamsin Orrel", "back to the plate"),
    ("charge", "410 new", "Rig 2", "6 oz", "25 lb 6 oz", "25 lb", "Bram Okafell", "superheat 9 over its target"),
)


def add_cylinders(connection: Connection, user: dict[str, Any]) -> None:
    """Add them where the school has none; ``user`` wrote the log."""
    if list(queries.cylinder_list(connection, school_id=user["school_id"])):
        return
    numbers = {}
    for name, kind, gas, tare, water, gross, owner, retest in _CYLINDERS:
        asked = {"name": name, "kind": kind, "refrigerant": gas, "tare": tare, "water": water, "gross": gross}
        numbers[name] = refrigerant.add(connection, user, {**asked, "owner": owner, "retest_on": retest, "units": "us"})
    rigs = {row["name"]: row["id"] for row in queries.rig_list(connection, school_id=user["school_id"])}
    for kind, name, rig, log, before, after, person, why in _MOVES:
        move: dict[str, Any] = {
            "kind": kind,
            "cylinder_id": numbers[name],
            "other_id": None,
            "rig_id": rigs[rig],
            "refrigerant": "",
        }
        weights = {"log": log, "before": before, "after": after, "scale": "", "temperature": ""}
        told = {"person": person, "why": why, "happened": False, "units": "us"}
        refrigerant.write_down(connection, user, {**move, **weights, **told})
