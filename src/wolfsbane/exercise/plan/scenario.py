"""A scenario: what the instructor saved. Immutable, versioned, exchanged as JSON with a hash.

The file format is docs/formats/scenario.schema.json; files of an older schema are moved up by :func:`migrated`.
"""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated, Any

from pydantic import Field

from wolfsbane.cycle.conditions import for_machine
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import FAULTS, NONE, Fault, fault_kind, faults_for, plant
from wolfsbane.cycle.faults.kind import LEVELS
from wolfsbane.cycle.field_tests import FIELD_TESTS, tests_for
from wolfsbane.cycle.fields import (
    Accept,
    Format,
    either,
    fields_of,
    lines,
    number,
    optional,
    own_or,
    refuse,
    text,
    word,
    words,
)
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS, of_instruments, of_machine
from wolfsbane.cycle.instruments import ALL_POINTS, KITS, points_for
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER, instruments_on_paper
from wolfsbane.diagnosis.own_practice import OWN_PRACTICE, restored_practice
from wolfsbane.diagnosis.practices import PRACTICES
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.tuning.first_guess import OWN_MACHINE, restored

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.practices import Practice

SCHEMA = 3
MAX_FAULTS = 3
MAX_TAGS = 12
#: letters a sheet has for faults, beside the one for a machine with nothing wrong


def _faults(rows: Any) -> tuple[Fault, ...]:
    """Faults of any machine and of the instruments, each with a severity in its own unit."""
    if not isinstance(rows, (list, tuple)) or len(rows) > MAX_FAULTS:
        raise refuse(rows, f"a list of at most {MAX_FAULTS} of {{id, severity, cause}}")
    found = []
    for row in rows:
        if not isinstance(row, dict) or set(row) - {"id", "severity", "cause"}:
            raise refuse(row, "objects with id, severity and cause")
        fault_id, severity, cause = row.get("id"), row.get("severity"), row.get("cause")
        if not isinstance(fault_id, str) or not isinstance(cause, str | None):
            raise refuse(row, "objects whose id and cause are text")
        kind = INSTRUMENT_FAULTS[fault_id] if fault_id in INSTRUMENT_FAULTS else fault_kind(fault_id)
        if severity is None:
            raise BadInputError("severity", severity, f"a number in {kind.unit}: {kind.parameter}")
        found.append(
            Fault(id=fault_id, severity=kind.level(severity), cause=None if cause is None else kind.cause(cause).id)
        )
    if len({f.id for f in found}) != len(found):
        raise refuse([f.id for f in found], "each fault once")
    return tuple(found)


_FAULT_ROW = fields_of(
    {
        "id": word([*FAULTS, *INSTRUMENT_FAULTS]),
        "severity": either(number(), word(LEVELS)),
        "cause": optional(text(0, 80)),
    },
    required=("id", "severity"),
)
_TAGS = lines(MAX_TAGS, 30)


def _tags(value: Any) -> tuple[str, ...]:
    """Each tag once, in small letters."""
    return tuple(dict.fromkeys(tag for tag in (" ".join(x.split()).lower() for x in _TAGS.check(value)) if tag))


@dataclass(frozen=True, kw_only=True)
class Scenario:
    """One scenario. Severities are physical numbers in each fault's own unit; spreads say how far variants may wander.

    ``faults`` holds faults of the machine and of the instruments, in the order they are to be repaired.
    ``given_readings`` are the readings an apprentice gets (None: the usual ones), ``given_tests`` the looks and tests
    whose results are printed with the call. ``own`` is a machine of the instructor's own (plate and circuit as the
    tuner found them), None for a profile; ``own_practice`` likewise a practice of the instructor's own.
    ``tags`` are words to find it by. Temperatures degrees F, differences ``_df``; ``spread_depth_pct`` is in per cent
    of the distance from a machine with nothing wrong.
    """

    title: Annotated[str, text(1, 120, strip=True)]
    machine: Annotated[str, own_or(MACHINES)]
    faults: Annotated[
        tuple[Fault, ...], Accept(_faults, {"type": "array", "items": _FAULT_ROW.schema, "maxItems": MAX_FAULTS})
    ] = ()
    outdoor_db_f: Annotated[float, number()]
    return_db_f: Annotated[float | None, optional(number())] = None
    return_wb_f: Annotated[float | None, optional(number())] = None
    box_f: Annotated[float | None, optional(number())] = None
    water_in_f: Annotated[float | None, optional(number())] = None
    altitude_ft: Annotated[float, number()] = 0.0
    instruments: Annotated[str, word(KITS)] = "analogue"
    practice_id: Annotated[str, own_or(PRACTICES), Field(alias="practice")] = "plate_and_formula"
    spread_outdoor_df: Annotated[float, number(0, 20, "°F")] = 6.0
    spread_return_df: Annotated[float, number(0, 8, "°F")] = 3.0
    spread_depth_pct: Annotated[float, number(0, 50, "%")] = 15.0
    complaint: Annotated[str, text(0, 600)] = ""
    history: Annotated[str, text(0, 600)] = ""
    look_round: Annotated[tuple[str, ...], lines(12, 200)] = ()
    given_readings: Annotated[tuple[str, ...] | None, optional(words(ALL_POINTS))] = None
    given_tests: Annotated[tuple[str, ...], words(FIELD_TESTS)] = ()
    own: Annotated[dict[str, Any] | None, optional(OWN_MACHINE)] = None
    own_practice: Annotated[dict[str, Any] | None, optional(OWN_PRACTICE)] = None
    tags: Annotated[tuple[str, ...], Accept(_tags, _TAGS.schema)] = ()

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
        two faults at most, one of them an instrument's, each of a kind paper can carry.
        """
        return _unfit(self) is None

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
        return SCENARIO.write(self)

    def content_hash(self) -> str:
        """SHA-256 of the canonical JSON."""
        return hashlib.sha256(json.dumps(self.to_json(), sort_keys=True).encode()).hexdigest()


SCENARIO = Format(
    Scenario,
    "scenario",
    "A scenario: one machine, its faults, its weather and what is given",
    version=SCHEMA,
    renamed={"school": "practice", "own_school": "own_practice"},
)


def migrated(data: dict[str, Any]) -> dict[str, Any]:
    """Plain data of any schema moved up to :data:`SCHEMA`.

    Schema 1 named one fault by ``fault`` and ``severity``; up to schema 2 the practice was called school.
    """
    data = SCENARIO.current_names(data)
    schema = data.pop("schema", SCHEMA if "faults" in data else 1)
    if not isinstance(schema, int) or schema not in range(1, SCHEMA + 1):
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
    made = SCENARIO.read(migrated(data) if isinstance(data, dict) else data)
    m = _profile(made)
    for fault in made.faults:
        if fault.id not in INSTRUMENT_FAULTS and not fault_kind(fault.id).suits(m):
            raise BadInputError(
                "fault", fault.id, f"one that {m.id} can have: " + ", ".join(k.id for k in faults_for(m))
            )
    plant(m, tuple(f for f in made.faults if f.id not in INSTRUMENT_FAULTS))
    if made.practice.id != made.practice_id:
        raise BadInputError("practice", made.practice_id, made.practice.id)
    for name, allowed in (("given_readings", points_for(m)), ("given_tests", [t.id for t in tests_for(m)])):
        for item in getattr(made, name) or ():
            if item not in allowed:
                raise BadInputError(name, item, ", ".join(allowed))
    made.conditions()
    return made


def _profile(made: Scenario) -> Machine:
    """The machine of a scenario; one of somebody's own is as the tuner left it, ``plate`` and ``circuit``."""
    try:
        profile = made.profile
    except (TypeError, KeyError, ValueError, ArithmeticError) as error:
        if made.own is None:
            raise
        raise BadInputError(
            "own", type(made.own).__name__, f"plate and circuit as `wolfsbane tune --json` writes them ({error})"
        ) from None
    if profile.id != made.machine:
        raise BadInputError("machine", made.machine, profile.id)
    return profile


def _unfit(made: Scenario) -> BadInputError | None:
    """What keeps a scenario from being printed and marked, or None."""
    m, own, off = made.profile, of_machine(made.faults), of_instruments(made.faults)
    fit = [k.id for k in faults_for(m) if k.id not in NOT_ON_PAPER]
    instruments = () if m.sealed else instruments_on_paper(made.instruments)
    for fault, allowed in (*((f, fit) for f in own), *((f, instruments) for f in off)):
        if fault.id not in allowed:
            return BadInputError(
                "fault", fault.id, f"one that {m.id} can have on paper: " + ", ".join((*fit, *instruments))
            )
    if len(made.faults) > 2 or len(off) > 1:
        return BadInputError("faults", len(made.faults), "at most two on paper, one of them of the instruments")
    return None


def require_paper(made: Scenario) -> Scenario:
    """Raises BadInputError where a scenario cannot be printed and marked; returns it otherwise."""
    error = _unfit(made)
    if error is not None:
        raise error
    return made
