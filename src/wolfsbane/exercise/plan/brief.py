"""A brief: what an instructor asks for, from which a class set is generated.

File format: docs/formats/brief.schema.json.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass, fields
from typing import Any

from wolfsbane.cycle.errors import BadInputError, require_range
from wolfsbane.cycle.faults import fault_kind, faults_for
from wolfsbane.cycle.field_tests import FIELD_TESTS
from wolfsbane.cycle.instruments import KITS, POINTS
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER, TAUGHT
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.exercise.plan.scenario import on_paper

SCHEMA = 1
#: families a brief draws from where it names none
USUAL = (*TAUGHT, "valve_underfeeding", "orifice_undersized", "condenser_fan_weak", "distributor_blocked")
DRILLS = ("conversion", "dial", "superheat", "subcooling", "spot_the_error", "bookkeeping")
#: weather where a brief names none: name -> (low, high) degrees F, and the range that is accepted
WEATHER = {
    "outdoor_db_f": ((82.0, 102.0), (55.0, 125.0)),
    "return_db_f": ((74.0, 80.0), (60.0, 100.0)),
    "return_wb_f": ((61.0, 67.0), (45.0, 85.0)),
}


#: fields as older files call them, and as they stand in a file
_RENAMED = {"school": "practice", "sound_share": "fault_free_share"}
_FILE_NAMES = {"practice_id": "practice"}


@dataclass(frozen=True, kw_only=True)
class Brief:
    """A checked brief. ``levels`` is (easiest, hardest), ``minutes`` None where time does not matter, ``drills`` (kind,
    items) pairs, ``weather`` name -> (low, high) in degrees F, ``sound_share`` the share of calls on a machine with
    nothing wrong.
    """

    title: str
    machines: tuple[str, ...]
    faults: tuple[str, ...]
    levels: tuple[int, int] = (1, 4)
    calls: int = 5
    apprentices: int = 24
    minutes: int | None = None
    fault_free_share: float = 0.2
    two_faults: int = 0
    practice_id: str = "plate_and_formula"
    instruments: str = "analogue"
    units: str = "us"
    weather: dict[str, tuple[float, float]]
    altitude_ft: float = 0.0
    given_readings: tuple[str, ...] | None = None
    given_tests: tuple[str, ...] = ()
    drills: tuple[tuple[str, int], ...] = ()
    seed: int = 1

    def to_json(self) -> dict[str, Any]:
        """Plain data; :func:`brief` reads it back to the same."""
        data: dict[str, Any] = {"schema": SCHEMA, **asdict(self)}
        data["practice"] = data.pop("practice_id")
        for name in ("machines", "faults", "levels", "given_tests"):
            data[name] = list(data[name])
        data["given_readings"] = None if self.given_readings is None else list(self.given_readings)
        data["weather"] = {name: list(span) for name, span in self.weather.items()}
        data["drills"] = [{"kind": kind, "items": items} for kind, items in self.drills]
        return data


def _whole(data: dict[str, Any], name: str, default: int, low: int, high: int) -> int:
    value = data.get(name, default)
    if isinstance(value, bool) or not isinstance(value, int) or not low <= value <= high:
        raise BadInputError(name, value, f"a whole number from {low} to {high}")
    return value


def _list(
    data: dict[str, Any],
    name: str,
    allowed: list[str] | tuple[str, ...],
    default: list[str] | tuple[Any, ...],
    *,
    may_be_empty: bool = False,
) -> tuple[str, ...]:
    value = data.get(name)
    if value is None:
        return tuple(default)
    if not isinstance(value, (list, tuple)) or not (value or may_be_empty):
        raise BadInputError(name, value, "a list of " + ", ".join(allowed))
    for item in value:
        if item not in allowed:
            raise BadInputError(name, item, ", ".join(allowed))
    return tuple(dict.fromkeys(value))


def _span(name: str, value: tuple[float, ...] | list[float], low: float, high: float) -> tuple[float, float]:
    if not isinstance(value, (list, tuple)) or len(value) != 2:
        raise BadInputError(name, value, "[low, high]")
    found = tuple(require_range(name, v, low, high, "°F") for v in value)
    if found[0] > found[1]:
        raise BadInputError(name, value, "[low, high] with low first")
    return found[0], found[1]


def _drills(rows: tuple[Any, ...] | list[dict[str, Any]]) -> tuple[tuple[str, int], ...]:
    if not isinstance(rows, (list, tuple)):
        raise BadInputError("drills", rows, "a list of {kind, items}")
    found = []
    for row in rows:
        if not isinstance(row, dict) or set(row) - {"kind", "items"} or row.get("kind") not in DRILLS:
            raise BadInputError("drills.kind", row if not isinstance(row, dict) else row.get("kind"), ", ".join(DRILLS))
        found.append((row["kind"], _whole(row, "items", 6, 1, 40)))
    return tuple(found)


def brief(data: dict[str, Any]) -> Brief:
    """Checked :class:`Brief` from plain data (as from JSON). Raises BadInputError naming the field."""
    if not isinstance(data, dict):
        raise BadInputError("brief", type(data).__name__, "a JSON object")
    data = {_RENAMED.get(key, key) if _RENAMED.get(key, key) not in data else key: v for key, v in data.items()}
    schema = data.pop("schema", SCHEMA)
    if schema != SCHEMA:
        raise BadInputError("schema", schema, str(SCHEMA))
    known = {_FILE_NAMES.get(f.name, f.name) for f in fields(Brief)}
    for key in data:
        if key not in known:
            raise BadInputError(key, data[key], "one of " + ", ".join(sorted(known)))
    title = str(data.get("title", "")).strip()
    if not 1 <= len(title) <= 120:
        raise BadInputError("title", title, "1 to 120 characters")
    paper = [m.id for m in MACHINES.values() if on_paper(m)]
    machines = _list(data, "machines", paper, [m for m in paper if "old" not in m])
    faults = _faults(data, machines)
    levels = data.get("levels", (1, 4))
    if (
        not isinstance(levels, (list, tuple))
        or len(levels) != 2
        or not all(isinstance(v, int) and 1 <= v <= 5 for v in levels)
        or levels[0] > levels[1]
    ):
        raise BadInputError("levels", levels, "[easiest, hardest], whole numbers from 1 to 5")
    if data.get("instruments", "analogue") not in KITS:
        raise BadInputError("instruments", data["instruments"], ", ".join(KITS))
    if data.get("units", "us") not in ("us", "si"):
        raise BadInputError("units", data["units"], "us, si")
    practice_by_id(data.get("practice", "plate_and_formula"))
    weather = data.get("weather") or {}
    if not isinstance(weather, dict) or set(weather) - set(WEATHER):
        raise BadInputError("weather", weather, "an object of " + ", ".join(f"{k}: [low, high]" for k in WEATHER))
    calls = _whole(data, "calls", 5, 0, 20)
    readings = data.get("given_readings")
    return Brief(
        title=title,
        machines=machines,
        faults=faults,
        levels=tuple(levels),
        calls=calls,
        apprentices=_whole(data, "apprentices", 24, 1, 60),
        minutes=None if data.get("minutes") is None else _whole(data, "minutes", 5, 5, 480),
        fault_free_share=require_range("fault_free_share", data.get("fault_free_share", 0.2), 0, 1, ""),
        two_faults=_whole(data, "two_faults", 0, 0, calls),
        practice_id=data.get("practice", "plate_and_formula"),
        instruments=data.get("instruments", "analogue"),
        units=data.get("units", "us"),
        weather={name: _span(name, weather.get(name, usual), *limits) for name, (usual, limits) in WEATHER.items()},
        altitude_ft=require_range("altitude_ft", data.get("altitude_ft", 0.0), -500, 10_000, "ft"),
        given_readings=(
            None if readings is None else _list(data, "given_readings", tuple(POINTS), (), may_be_empty=True)
        ),
        given_tests=_list(data, "given_tests", tuple(FIELD_TESTS), (), may_be_empty=True),
        drills=_drills(data.get("drills", ())),
        seed=_whole(data, "seed", 1, 0, 2**53),
    )


def _faults(data: dict[str, Any], machines: tuple[str, ...]) -> tuple[str, ...]:
    possible = {k.id for m in machines for k in faults_for(machine(m)) if k.id not in NOT_ON_PAPER}
    faults = _list(data, "faults", sorted(possible), [f for f in USUAL if f in possible])
    for fault_id in faults:
        fault_kind(fault_id)
    return faults
