"""What goes in and out about rigs."""

from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints

from wolfsbane.rig.rig import RIG
from wolfsbane.rig.rounds import MAX_ROUNDS, MAX_SEATS
from wolfsbane.server.api.bench_models import Dial
from wolfsbane.server.api.models import Id, Model, Number, Text, Units, filed

RigFile = Annotated[dict[str, Any], filed(RIG)]
Short = Annotated[str, StringConstraints(max_length=200)]


class RigPath(Model):
    rig_id: Id


class DevicePath(RigPath):
    device: Short


class SettingPath(RigPath):
    setting_id: Id


class RigUnits(Model):
    units: Units = "us"


class LiveQuery(RigUnits):
    #: the last sample the browser has, as ISO time; without it the last half hour
    after: Short = ""


class RigBody(Model):
    rig: dict[str, Any]


class RigReading(Model):
    """One reading: what it shows, what a sound rig would, what this one should with what is planted."""

    point: str
    label: str
    kind: str
    unit: str
    value: float | None
    text: str
    healthy: float | None
    healthy_text: str
    expected: float | None
    expected_text: str
    doubt: str


class RigAlarm(Model):
    point: str
    passed: bool
    text: str
    action: str


class RigStanding(Model):
    """A device that is not at nothing."""

    device: str
    name: str
    position: float
    unit: str
    fault_name: str
    severity_text: str
    since: str


class RigRow(Model):
    """A rig as the lab shows it."""

    id: int
    name: str
    place: str
    machine: str
    machine_name: str
    refrigerant: str
    logged: bool
    state: Literal["answers", "silent", "wrong", "new"]
    told: str
    seen_at: str | None
    settled_min: float
    why: list[str]
    alarms: list[RigAlarm]
    doubts: list[str]
    readings: list[RigReading]
    figures: list[RigReading]
    standing: list[RigStanding]
    baseline_at: str | None
    #: when everything was last undone and who signed for it
    undone_at: str | None
    undone_by: str
    #: how it was seen back at its baseline since, or why it was released; "" where neither is so
    undone_seen: str
    #: why nothing may be set on it yet, or ""
    held: str
    #: when its photo was put here, or None
    photo_at: str | None


class RotationPlace(Model):
    rig_id: int
    now: list[str]
    following: list[str]


class RotationPerson(Model):
    id: int
    name: str
    away: bool


class RotationRow(Model):
    """A class that goes round the rigs now."""

    id: int
    class_name: str
    minutes: int
    number: int
    of: int
    ends_at: str
    places: list[RotationPlace]
    #: who has no seat at a rig in this round, and in the next
    desk: list[str]
    desk_following: list[str]
    people: list[RotationPerson]


class RotationBody(Model):
    class_id: Id
    minutes: Annotated[int, Field(ge=5, le=240)] = 30
    #: how many stand at a rig
    seats: Annotated[int, Field(ge=1, le=MAX_SEATS)] = 2
    #: None: enough to bring everybody to every rig
    rounds: Annotated[int, Field(ge=1, le=MAX_ROUNDS)] | None = None
    #: none: every rig of the school
    rigs: Annotated[list[Id], Field(max_length=48)] = []
    away: Annotated[list[Id], Field(max_length=200)] = []


class ReleaseRigBody(Model):
    reason: Annotated[str, StringConstraints(strip_whitespace=True, min_length=3, max_length=300)]


class AwayBody(Model):
    away: Annotated[list[Id], Field(max_length=200)]


class RoundBody(Model):
    number: Annotated[int, Field(ge=1, le=MAX_ROUNDS)]


class RigLab(Model):
    rigs: list[RigRow]
    now: str
    rotation: RotationRow | None


class RigSample(Model):
    at: str
    shown: dict[str, float | None]


class RigLive(Model):
    rig: RigRow
    dials: list[Dial]
    samples: list[RigSample]
    units: dict[str, str]


class RigSetting(Model):
    id: int
    measured_at: str
    position: float
    fault: str
    fault_name: str
    severity: float
    severity_text: str
    spread_text: str


class RigDevice(Model):
    id: str
    kind: str
    name: str
    unit: str
    most: float
    position: float
    remote: bool
    who: str
    set: str
    undo: str
    limits: str
    hazards: list[str]
    faults: list[dict[str, str]]
    settings: list[RigSetting]


class RigFactor(Model):
    id: str
    words: str
    pct: float
    uncertain_pct: float
    told: bool


class RigMet(Model):
    point: str
    label: str
    unit: str
    profile: float
    fitted: float
    fitted_worst: float


class RigBaselineRow(Model):
    id: int
    made_at: str
    from_at: str
    to_at: str
    who: str
    points: int
    #: made with a solver that has changed since
    old: bool
    factors: list[RigFactor]
    together: list[str]
    met: list[RigMet]
    notes: list[str]


class RigEventRow(Model):
    at: str
    kind: str
    text: str
    who: str
    #: of a gap
    begin: str | None
    end: str | None


class RigFull(Model):
    rig: RigFile
    row: RigRow
    devices: list[RigDevice]
    baselines: list[RigBaselineRow]
    events: list[RigEventRow]
    has_token: bool
    map: str


class RigPositionBody(Model):
    position: Number = Field(ge=0)
    #: who signs that it was set or undone
    signed: Short = ""


class RigUndoBody(Model):
    signed: Annotated[str, StringConstraints(min_length=1, max_length=80)]


class RigBaselineBody(Model):
    minutes: int = Field(ge=5, le=7 * 24 * 60)


class MeasureRigBody(RigUnits):
    device: Short
    fault: Short = ""


class PlanQuery(RigUnits):
    device: Short
    fault: Short
    severity: Number


class PlantPlan(Model):
    """Which position plants a fault so deep, and what the rig should then show."""

    position: float
    give_or_take: float
    unit: str
    severity_text: str
    set: str
    undo: str
    limits: str
    hazards: list[str]
    expected: list[RigReading]


class RigFrozen(Model):
    """The settled stretch at the end as readings of instruments."""

    minutes: float
    begin: str
    end: str
    readings: dict[str, float]
    texts: list[RigReading]
    astray: list[str]
    #: whether these readings point to one answer on this rig; empty where nothing known is planted
    answer: str


class RigMapBody(Model):
    text: Annotated[str, StringConstraints(max_length=100_000)]


class RigTokenReply(Model):
    token: str


class RigPushed(Model):
    at: Text
    values: dict[str, float | None]


class RigPushBody(Model):
    samples: list[RigPushed] = Field(max_length=5000)


class RigPushReply(Model):
    stored: int


class RigFileBody(Model):
    text: Annotated[str, StringConstraints(max_length=12_000_000)]
    columns: dict[str, dict[str, str]] | None = None
    zone: Short = ""
    confirmed: bool = False


class RigFileReply(Model):
    heads: list[str]
    columns: dict[str, dict[str, str]]
    points: list[dict[str, Any]]
    rows: int
    first: str
    last: str
    left_out: list[str]
    stored: bool


class ExportQuery(RigUnits):
    begin: Short = ""
    end: Short = ""
