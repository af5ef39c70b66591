"""What goes in and out about lab sessions."""

from typing import Annotated, Any, Literal

from pydantic import Field

from wolfsbane.server.api.models import Id, Model, Number, Text, Units

Short = Annotated[Text, Field(max_length=200)]
#: events of one request
_MOST = 200


class SessionPath(Model):
    session_id: Id


class LabUnits(Model):
    units: Units = "us"


class LabSessionBody(Model):
    """A session to begin: at which rig, who, and a call of the library; without one, what stands on the rig."""

    rig_id: Id
    people: Annotated[list[Id], Field(min_length=1, max_length=6)]
    scenario_id: Id | None = None
    title: Short = ""
    complaint: Annotated[Text, Field(max_length=600)] = ""
    instruments: Literal["analogue", "digital"] = "analogue"
    units: Units = "us"


class LabEvent(Model):
    """One step as it was typed: an id drawn there, its time by the sender's clock (s), what it is and its data."""

    id: Annotated[str, Field(min_length=8, max_length=64, pattern=r"^[A-Za-z0-9-]+$")]
    at: Number
    kind: Annotated[str, Field(max_length=20)]
    data: dict[str, Any] = {}


class LabEventsBody(Model):
    """Steps to be kept, and the sender's clock as they are sent (s)."""

    now: Number
    events: Annotated[list[LabEvent], Field(max_length=_MOST)]
    units: Units = "us"


class LabEventTold(Model):
    """What became of one step: ``refused`` says why it was not kept, "" where it was."""

    id: str
    refused: str
    field: str | None


class LabTick(Model):
    id: str
    phase: str
    text: str
    flammable: bool


class LabPhase(Model):
    id: str
    name: str


class LabChoice(Model):
    letter: str
    text: str


class LabQuestion(Model):
    id: str
    text: str
    kind: str
    unit: str
    points: int
    phase: str
    band: str
    choices: list[LabChoice]


class LabProof(Model):
    reading: str
    label: str
    unit: str


class LabCylinder(Model):
    id: int
    name: str
    kind: str
    refrigerant: str


class LabPlateLine(Model):
    label: str
    text: str


class LabCard(Model):
    """The call card: the complaint, the plate, what may be touched."""

    machine: str
    refrigerant: str
    metering: str
    plate: list[LabPlateLine]
    complaint: str
    history: str
    look_round: list[str]
    touch: list[str]
    never: str
    units: str
    instruments: str


class LabWeigh(Model):
    cylinder_id: int
    kind: str
    before: str
    after: str
    log: str
    said: str
    kept: bool


class LabState(Model):
    """What was typed so far."""

    ticks: dict[str, str | None]
    answers: dict[str, str]
    note: str
    stops: list[str]
    planned: bool
    weighs: list[LabWeigh]
    done: bool
    proofs: dict[str, str]
    record: str
    finished: bool


class LabPart(Model):
    part: str
    name: str
    points: int
    earned: int
    reasons: list[str]


class LabAnswer(Model):
    question: str
    points: int
    earned: int
    raw: str
    reason: str
    suggested: int | None


class LabFigure(Model):
    text: str
    ok: bool


class LabOutcome(Model):
    """What came of the work, by the rig or by typed readings."""

    proved: bool
    settled: bool
    why: list[str]
    figures: list[LabFigure]
    limits: list[str]
    planned: str
    moved: str
    missing: str
    most: str
    overshot: bool
    recovered: bool
    weight_ok: bool | None
    wet_min: float
    by: str
    notes: list[str]


class LabSkillShown(Model):
    skill: str
    name: str
    level: str
    level_text: str
    evidence: str


class LabResult(Model):
    earned: int
    possible: int
    parts: list[LabPart]
    questions: list[LabAnswer]
    outcome: LabOutcome | None
    logged: bool
    skills: list[LabSkillShown]


class LabHead(Model):
    """Where a session stands."""

    id: int
    rig_id: int | None
    rig: str
    class_id: int | None
    title: str
    people: list[str]
    began_at: str
    ended_at: str | None
    phase: str
    phase_name: str
    phase_since: str | None
    status: str
    wants_help: bool
    countersign: bool
    countersigned: bool
    safety_ticked: int
    signed: str
    why: str


class LabSession(LabHead):
    """A session as its student sees it."""

    card: LabCard
    ticks: list[LabTick]
    phases: list[LabPhase]
    questions: list[LabQuestion]
    proofs: list[LabProof]
    cylinders: list[LabCylinder]
    state: LabState
    result: LabResult | None


class LabForecast(Model):
    """The plan that was handed in, and what it would do to the rig as it stands."""

    fault: str
    action: str
    amount: str
    by: str
    warnings: list[str]
    text: str


class LabMinutes(Model):
    phase: str
    name: str
    minutes: float


class LabObserved(Model):
    part: str
    points: int
    why: str


class LabStep(Model):
    at: str
    text: str
    who: str


class LabSkillName(Model):
    id: str
    name: str


class LabDesk(LabSession):
    """The same for whoever runs the lab."""

    planted: str
    key: dict[str, str]
    forecast: LabForecast | None
    minutes: list[LabMinutes]
    skills: list[LabSkillName]
    observed: list[LabObserved]
    events: list[LabStep]


class LabRow(LabHead):
    plan: LabForecast | None
    earned: int | None
    possible: int | None


class LabList(Model):
    now: str
    sessions: list[LabRow]


class LabMineRow(Model):
    id: int
    rig: str
    title: str
    began_at: str
    ended_at: str | None


class LabMineSessions(Model):
    sessions: list[LabMineRow]


class LabMineKept(Model):
    told: list[LabEventTold]
    session: LabSession


class LabDeskKept(Model):
    told: list[LabEventTold]
    session: LabDesk


class RigSkillEvidence(Model):
    level: str
    evidence: str
    session_id: int
    at: str
    rig: str


class RigSkillRow(Model):
    skill: str
    name: str
    level: str
    level_text: str
    times: int
    evidence: list[RigSkillEvidence]


class RigSkillsReply(Model):
    name: str
    rows: list[RigSkillRow]
