"""A scenario: what the instructor saved. Immutable, versioned, exchanged as JSON with a hash.

The file format is docs/formats/scenario.schema.json; files of an older schema are moved up by :func:`migrated`.
"""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass, fields
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.conditions import for_machine
from wolfsbane.cycle.errors import BadInputError, require_range
from wolfsbane.cycle.faults import NONE, Fault, fault_kind, faults_for, plant
from wolfsbane.cycle.field_tests import tests_for
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.instruments import KITS, points_for
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER, candidates
from wolfsbane.diagnosis.own_practice import restored_practice
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.tuning.first_guess import restored

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault, FaultKind
    from wolfsbane.cycle.instrument_faults import InstrumentFault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.practices import Practice

SCHEMA = 3
MAX_FAULTS = 3
MAX_TAGS = 12
#: letters a sheet has for faults, beside the one for a machine with nothing wrong
MAX_OFFERED = 8


@dataclass(frozen=True, kw_only=True)
class Scenario:
    """One scenario. Severities are physical numbers in each fault's own unit; spreads say how far variants may wander.

    ``faults`` holds faults of the machine and of the instruments, in the order they are to be repaired.
    ``given_readings`` are the readings an apprentice gets (None: the usual ones), ``given_tests`` the looks and tests
    whose results are printed with the call. ``own`` is a machine of the instructor's own (plate and circuit as the
    tuner found them), None for a profile; ``own_school`` likewise a practice of the instructor's own.
    ``tags`` are words to find it by. Temperatures degrees F, differences ``_df``; ``spread_depth_pct`` is in per cent
    of the distance from sound.
    """

    title: str
    machine: str
    faults: tuple[Fault, ...]
    outdoor_db_f: float
    return_db_f: float | None = None
    return_wb_f: float | None = None
    box_f: float | None = None
    water_in_f: float | None = None
    altitude_ft: float = 0.0
    instruments: str = "analogue"
    practice_id: str = "plate_and_formula"
    spread_outdoor_df: float = 6.0
    spread_return_df: float = 3.0
    spread_depth_pct: float = 15.0
    complaint: str = ""
    history: str = ""
    look_round: tuple[str, ...] = ()
    given_readings: tuple[str, ...] | None = None
    given_tests: tuple[str, ...] = ()
    own: dict[str, Any] | None = None
    own_practice: dict[str, Any] | None = None
    tags: tuple[str, ...] = ()

    @property
    def practice(self) -> Practice:
        """The :class:`Practice`: one of ours, or the instructor's own that the scenario carries with it."""
        return practice_by_id(self.practice_id) if self.own_practice is None else restored_practice(self.own_practice)

    @property
    def profile(self) -> Machine:
        """The :class:`Machine`: a profile, or the one of the instructor's own that the scenario carries with it."""
        return machine(self.machine) if self.own is None else restored(self.own)

    @property
    def fault(self) -> Any:
        """Id of the planted fault, ``none``, or ids joined by "+" in the order they are repaired."""
        return "+".join(f.id for f in self.faults) or NONE

    @property
    def severity(self) -> Any:
        """Severity of the first fault, None for a machine with nothing wrong."""
        return self.faults[0].severity if self.faults else None

    @property
    def on_paper(self) -> Any:
        """Whether calls of this scenario can be printed and marked:
        one fault of the machine at most, of a kind paper can carry.
        """
        own = [f for f in self.faults if f.id not in INSTRUMENT_FAULTS]
        return (
            on_paper(self.profile) and len(self.faults) == len(own) <= 2 and not any(f.id in NOT_ON_PAPER for f in own)
        )

    def conditions(self) -> Conditions:
        """The nominal weather."""
        return for_machine(
            self.profile,
            outdoor_db_f=self.outdoor_db_f,
            return_db_f=self.return_db_f,
            return_wb_f=self.return_wb_f,
            box_f=self.box_f,
            water_in_f=self.water_in_f,
            altitude_ft=self.altitude_ft,
        )

    def to_json(self) -> dict[str, Any]:
        """Plain data with its schema number."""
        rows = [{"id": f.id, "severity": f.severity, "cause": f.cause} for f in self.faults]
        plain = {f.name: getattr(self, f.name) for f in fields(self)}
        plain["practice"] = plain.pop("practice_id")
        lists = {name: list(getattr(self, name)) for name in ("tags", "look_round", "given_tests")}
        return {
            "schema": SCHEMA,
            **plain,
            "faults": rows,
            **lists,
            "given_readings": None if self.given_readings is None else list(self.given_readings),
        }

    def content_hash(self) -> str:
        """SHA-256 of the canonical JSON."""
        return hashlib.sha256(json.dumps(self.to_json(), sort_keys=True).encode()).hexdigest()


#: fields as older schemas called them
_RENAMED = {"school": "practice", "own_school": "own_practice"}


def migrated(data: dict[str, Any]) -> dict[str, Any]:
    """Plain data of any schema moved up to :data:`SCHEMA`.

    Schema 1 named one fault by ``fault`` and ``severity``; up to schema 2 the practice was called school.
    """
    data = {_RENAMED.get(key, key) if _RENAMED.get(key, key) not in data else key: v for key, v in data.items()}
    schema = data.pop("schema", SCHEMA if "faults" in data else 1)
    if schema not in range(1, SCHEMA + 1):
        raise BadInputError("schema", schema, f"1 to {SCHEMA}")
    if schema == 1:
        fault_id, severity = data.pop("fault", None), data.pop("severity", None)
        if fault_id in (None, ""):
            raise BadInputError("fault", fault_id, "a value: this field is required")
        if fault_id == NONE and severity is not None:
            raise BadInputError("severity", severity, "nothing: where nothing is wrong there is no severity")
        data["faults"] = [] if fault_id == NONE else [{"id": fault_id, "severity": severity}]
    return data


def scenario(data: dict[str, Any]) -> Scenario:
    """Checked Scenario from plain data (as from JSON), of any schema. Raises BadInputError naming the field."""
    if not isinstance(data, dict):
        raise BadInputError("scenario", type(data).__name__, "a JSON object")
    data = migrated(data)
    known = {f.name for f in fields(Scenario)} - {"practice_id"} | {"practice"}
    for key in data:
        if key not in known:
            raise BadInputError(key, data[key], "one of " + ", ".join(sorted(known)))
    for key in ("title", "machine", "outdoor_db_f"):
        if data.get(key) in (None, ""):
            raise BadInputError(key, data.get(key), "a value: this field is required")
    for key in ("title", "machine", "instruments", "practice"):
        _word(key, data.get(key, ""))
    title = data["title"].strip()
    if not 1 <= len(title) <= 120:
        raise BadInputError("title", title, "1 to 120 characters")
    m = _profile(data)
    faults = _faults(m, data.get("faults", []))
    if data.get("instruments", "analogue") not in KITS:
        raise BadInputError("instruments", data["instruments"], ", ".join(KITS))
    practice_id = _practice_id(data)
    data.pop("practice", None)
    for name, top, unit in (
        ("spread_outdoor_df", 20, "°F"),
        ("spread_return_df", 8, "°F"),
        ("spread_depth_pct", 50, "%"),
    ):
        if name in data:
            data[name] = require_range(name, data[name], 0, top, unit)
    for name in ("complaint", "history"):
        if not isinstance(data.get(name, ""), str) or len(data.get(name, "")) > 600:
            raise BadInputError(name, data[name], "text of at most 600 characters")
    readings = data.get("given_readings")
    made = Scenario(
        **{
            **data,
            "title": title,
            "practice_id": practice_id,
            "faults": faults,
            "look_round": _lines("look_round", data.get("look_round", ()), 12, 200),
            "given_readings": None if readings is None else _chosen("given_readings", readings, points_for(m)),
            "tags": _tags(data.get("tags", ())),
            "given_tests": _chosen("given_tests", data.get("given_tests", ()), [t.id for t in tests_for(m)]),
        }
    )
    made.conditions()
    return made


def _profile(data: dict[str, Any]) -> Machine:
    """The machine of plain data; one of somebody's own is as the tuner left it, ``plate`` and ``circuit``."""
    own = data.get("own")
    if own is None:
        return machine(data["machine"])
    try:
        made = restored(own)
    except (TypeError, KeyError, ValueError, ArithmeticError) as error:
        raise BadInputError(
            "own", type(own).__name__, f"plate and circuit as `wolfsbane tune --json` writes them ({error})"
        ) from None
    if made.id != data["machine"]:
        raise BadInputError("machine", data["machine"], made.id)
    data["own"] = {"plate": own["plate"], "circuit": own["circuit"]}
    return made


def _word(name: str, value: Any) -> str:
    if not isinstance(value, str):
        raise BadInputError(name, value, "text")
    return value


def _practice_id(data: dict[str, Any]) -> str:
    """The id of the practice; one of somebody's own comes with its choices."""
    named = data.get("practice", "plate_and_formula")
    if data.get("own_practice") is None:
        return practice_by_id(named).id
    made = restored_practice(data["own_practice"])
    if made.id != named:
        raise BadInputError("practice", named, made.id)
    return made.id


def _tags(value: tuple[Any, ...] | list[Any]) -> tuple[Any, ...]:
    words = [" ".join(x.split()).lower() if isinstance(x, str) else x for x in _lines("tags", value, MAX_TAGS, 30)]
    return tuple(dict.fromkeys(word for word in words if word))


def _lines(name: str, value: tuple[Any, ...] | list[Any], most: int, length: int) -> tuple[Any, ...]:
    if (
        not isinstance(value, (list, tuple))
        or len(value) > most
        or not all(isinstance(x, str) and len(x) <= length for x in value)
    ):
        raise BadInputError(name, value, f"at most {most} lines of at most {length} characters")
    return tuple(value)


def _chosen(name: str, value: tuple[Any, ...] | list[str], allowed: list[str] | tuple[str, ...]) -> tuple[str, ...]:
    if not isinstance(value, (list, tuple)):
        raise BadInputError(name, value, "a list of " + ", ".join(allowed))
    for item in value:
        if not isinstance(item, str) or item not in allowed:
            raise BadInputError(name, item, ", ".join(allowed))
    return tuple(dict.fromkeys(value))


def on_paper(m: Machine) -> bool:
    """True for machines whose calls can be printed and marked so far."""
    return m.comfort and m.condenser != "water_cooled" and m.circuits == 1


def _faults(m: Machine, rows: list[dict[str, Any]]) -> tuple[Fault, ...]:
    if not isinstance(rows, (list, tuple)) or len(rows) > MAX_FAULTS:
        raise BadInputError("faults", rows, f"a list of at most {MAX_FAULTS} of {{id, severity, cause}}")
    found = []
    for row in rows:
        if not isinstance(row, dict) or set(row) - {"id", "severity", "cause"}:
            raise BadInputError("faults", row, "objects with id, severity and cause")
        fault_id, severity = _word("fault", row.get("id")), row.get("severity")
        if row.get("cause") is not None:
            _word("cause", row["cause"])
        kind: FaultKind | InstrumentFault
        if fault_id in INSTRUMENT_FAULTS:
            kind = INSTRUMENT_FAULTS[fault_id]
        else:
            kind = fault_kind(fault_id)
            if kind not in faults_for(m):
                raise BadInputError(
                    "fault", fault_id, f"one that {m.id} can have: " + ", ".join(k.id for k in faults_for(m))
                )
        if severity is None:
            raise BadInputError("severity", severity, f"a number in {kind.unit}: {kind.parameter}")
        cause = row.get("cause")
        found.append(
            Fault(id=fault_id, severity=kind.level(severity), cause=None if cause is None else kind.cause(cause).id)
        )
    plant(m, tuple(f for f in found if f.id not in INSTRUMENT_FAULTS))
    if len({f.id for f in found}) != len(found):
        raise BadInputError("faults", [f.id for f in found], "each fault once")
    return tuple(found)


def require_paper(made: Scenario) -> Scenario:
    """Raises BadInputError where a scenario cannot be printed and marked; returns it otherwise."""
    m = made.profile
    if not on_paper(m):
        raise BadInputError(
            "machine",
            m.id,
            "for the bench only: a call on paper needs a machine that cools rooms, is cooled "
            "by air and has one circuit: " + ", ".join(x.id for x in MACHINES.values() if on_paper(x)),
        )
    for fault in made.faults:
        if fault.id in NOT_ON_PAPER or fault.id in INSTRUMENT_FAULTS:
            fit = [k.id for k in faults_for(m) if k.id not in NOT_ON_PAPER]
            raise BadInputError("fault", fault.id, f"one that {m.id} can have on paper: " + ", ".join(fit))
    if len(made.faults) > 2:
        raise BadInputError("faults", len(made.faults), "at most two on paper")
    offered = candidates(m, tuple(f.id for f in made.faults), made.given_tests)
    if len(offered) > MAX_OFFERED:
        raise BadInputError(
            "faults",
            [f.id for f in made.faults],
            f"ones that leave at most {MAX_OFFERED} faults to choose from, not "
            f"{len(offered)}: plant one that is taught, or give fewer tests",
        )
    return made
