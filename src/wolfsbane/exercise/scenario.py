"""A scenario: what the instructor saved. Immutable, versioned, exchanged as JSON with a hash."""

import hashlib
import json
from dataclasses import asdict, dataclass, fields

from wolfsbane.cycle.conditions import conditions
from wolfsbane.cycle.errors import BadInputError, require_range
from wolfsbane.cycle.faults import NONE, Fault, fault_kind, faults_for
from wolfsbane.cycle.instruments import KITS
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER
from wolfsbane.diagnosis.targets import school

SCHEMA = 1


@dataclass(frozen=True, kw_only=True)
class Scenario:
    """One scenario. Severity is a physical number in the fault's own unit; spreads say how far variants may wander.

    Temperatures degrees F, differences ``_df``; ``spread_depth_pct`` is in per cent of the severity's distance from sound.
    """

    title: str
    machine: str
    fault: str
    severity: float | None
    outdoor_db_f: float
    return_db_f: float
    return_wb_f: float
    altitude_ft: float = 0.0
    instruments: str = "analogue"
    school: str = "plate_and_formula"
    spread_outdoor_df: float = 6.0
    spread_return_df: float = 3.0
    spread_depth_pct: float = 15.0
    complaint: str = ""
    look_round: tuple[str, ...] = ()

    @property
    def faults(self):
        """The planted faults as the solver takes them (empty for a sound machine)."""
        return () if self.fault == NONE else (Fault(id=self.fault, severity=self.severity),)

    def conditions(self):
        """The nominal weather."""
        return conditions(outdoor_db_f=self.outdoor_db_f, return_db_f=self.return_db_f, return_wb_f=self.return_wb_f,
                          altitude_ft=self.altitude_ft)

    def to_json(self):
        """Plain data with its schema number."""
        return {"schema": SCHEMA, **asdict(self), "look_round": list(self.look_round)}

    def content_hash(self):
        """SHA-256 of the canonical JSON."""
        return hashlib.sha256(json.dumps(self.to_json(), sort_keys=True).encode()).hexdigest()


def scenario(data):
    """Checked Scenario from plain data (as from JSON). Raises BadInputError naming the field."""
    if not isinstance(data, dict):
        raise BadInputError("scenario", type(data).__name__, "a JSON object")
    data = dict(data)
    if data.pop("schema", SCHEMA) != SCHEMA:
        raise BadInputError("schema", data.get("schema"), str(SCHEMA))
    known = {f.name for f in fields(Scenario)}
    for key in data:
        if key not in known:
            raise BadInputError(key, data[key], "one of " + ", ".join(sorted(known)))
    for key in ("title", "machine", "fault", "outdoor_db_f", "return_db_f", "return_wb_f"):
        if data.get(key) in (None, ""):
            raise BadInputError(key, data.get(key), "a value: this field is required")
    title = str(data["title"]).strip()
    if not 1 <= len(title) <= 120:
        raise BadInputError("title", title, "1 to 120 characters")
    m = machine(data["machine"])
    if not on_paper(m):
        raise BadInputError("machine", m.id, "for the bench only: a call on paper needs a machine that cools rooms, is cooled "
                            "by air and has one circuit: " + ", ".join(x.id for x in MACHINES.values() if on_paper(x)))
    severity = _severity(m, data["fault"], data.get("severity"))
    if data.get("instruments", "analogue") not in KITS:
        raise BadInputError("instruments", data["instruments"], ", ".join(KITS))
    school(data.get("school", "plate_and_formula"))
    for name, top, unit in (("spread_outdoor_df", 20, "°F"), ("spread_return_df", 8, "°F"),
                            ("spread_depth_pct", 50, "%")):
        if name in data:
            data[name] = require_range(name, data[name], 0, top, unit)
    complaint, look_round = data.get("complaint", ""), data.get("look_round", ())
    if not isinstance(complaint, str) or len(complaint) > 600:
        raise BadInputError("complaint", complaint, "text of at most 600 characters")
    if not isinstance(look_round, (list, tuple)) or not all(isinstance(x, str) and len(x) <= 200 for x in look_round) \
            or len(look_round) > 12:
        raise BadInputError("look_round", look_round, "at most 12 lines of at most 200 characters")
    made = Scenario(**{**data, "title": title, "severity": severity, "look_round": tuple(look_round)})
    made.conditions()
    return made


def on_paper(m):
    """True for machines whose calls can be printed and marked so far."""
    return m.comfort and m.condenser != "water_cooled" and m.circuits == 1


def _severity(m, fault_id, severity):
    if fault_id == NONE:
        if severity is not None:
            raise BadInputError("severity", severity, "nothing: a sound machine has no severity")
        return None
    kind = fault_kind(fault_id)
    fit = [k for k in faults_for(m) if k.id not in NOT_ON_PAPER]
    if kind not in fit:
        raise BadInputError("fault", fault_id, f"one that {m.id} can have on paper: " + ", ".join(k.id for k in fit))
    if severity is None:
        raise BadInputError("severity", severity, f"a number in {kind.unit}: {kind.parameter}")
    return kind.level(severity)
