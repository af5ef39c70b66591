"""What goes in and out of the API of calls on screen. Nothing a student is sent holds an answer."""

from typing import Annotated, Any, Literal

from pydantic import Field

from wolfsbane.server.api.acting_models import ActionRow
from wolfsbane.server.api.bench_models import Dial
from wolfsbane.server.api.models import Id, Model, PlantedFault, Text
from wolfsbane.server.services.screen import AT_ONCE


class ScreenOpenBody(Model):
    mode: Literal["practice", "exam"]
    minutes: Annotated[float, Field(allow_inf_nan=False)] | None = None


class ScreenAllowBody(Model):
    apprentice_id: Id
    factor: Annotated[float, Field(ge=1, le=5)]


class ScreenPart(Model):
    part: str
    name: str
    points: int
    earned: int
    reasons: list[str]


class ScreenMarks(Model):
    earned: int
    possible: int
    off: int
    off_for: list[str]
    #: how much spoke for the right answer when it was named, 0 to 1
    belief: float
    parts: list[ScreenPart]


class ScreenTold(Model):
    kind: str
    data: dict[str, Any]
    text: str
    showed: str
    minutes: float
    before: float
    after: float


class ScreenWay(Model):
    minutes: float
    bill: float
    named_after: int
    way: list[ScreenTold]


class ScreenJudged(ScreenWay):
    marks: ScreenMarks
    expert: ScreenWay
    answer: str
    solver: str


class ScreenRow(Model):
    paper_call_id: int
    position: int
    code: str
    apprentice_id: int
    name: str
    factor: float
    run_id: int | None
    began_at: str | None
    finished_at: str | None
    steps: int
    earned: int | None
    possible: int | None
    minutes: float | None


class ScreenOpening(Model):
    mode: str
    minutes: float | None
    opened_at: str
    closed: bool
    told: bool
    rows: list[ScreenRow]


class ScreenRubricLine(Model):
    what: str
    earns: str


class ScreenSheet(Model):
    #: the newest opening, null where it never was open
    opening: ScreenOpening | None
    #: whether any of its calls can be played
    playable: bool
    rubric: list[ScreenRubricLine]


class ScreenRunPath(Model):
    run_id: Id


class ScreenCallPath(Model):
    paper_call_id: Id


class ScreenReview(Model):
    name: str
    title: str
    position: int
    judged: ScreenJudged


class ScreenWaysPath(Model):
    sheet_id: Id
    position: Annotated[int, Field(ge=1, le=50)]


class ScreenCell(Model):
    """One step that some took together, in a picture of columns and rows."""

    column: int
    top: int
    kind: str
    text: str
    what: list[str]
    who: list[str]
    earned: float
    expert: bool


class ScreenWays(Model):
    position: int
    people: int
    columns: int
    cells: list[ScreenCell]


class ScreenFound(Model):
    """The machine of a run as a bench is set."""

    title: str
    machine: str
    faults: list[PlantedFault]
    outdoor_db_f: float
    return_db_f: float | None
    return_wb_f: float | None
    box_f: float | None
    water_in_f: float | None
    altitude_ft: float
    instruments: str
    practice: str
    complaint: str


class ScreenReplayStep(Model):
    do: str
    arguments: dict[str, float | str | None]


class ScreenReplay(Model):
    name: str
    found: ScreenFound
    steps: list[ScreenReplayStep]


class ScreenMineRow(Model):
    paper_call_id: int
    run_id: int | None
    title: str
    position: int
    machine: str
    mode: str
    minutes: float | None
    open: bool
    finished: bool
    earned: int | None
    possible: int | None


class ScreenMineList(Model):
    calls: list[ScreenMineRow]


class ScreenBegun(Model):
    run_id: int


class ScreenStepIn(Model):
    uid: Annotated[str, Field(min_length=8, max_length=64, pattern=r"^[\w-]+$")]
    kind: Annotated[Text, Field(max_length=20)]
    data: dict[str, Any] = {}


class ScreenStepsBody(Model):
    #: how many steps of the run the device knows of
    after: Annotated[int, Field(ge=0, le=10_000)]
    steps: Annotated[list[ScreenStepIn], Field(max_length=AT_ONCE)] = []


class ScreenQuestion(Model):
    id: str
    text: str
    kind: str
    unit: str | None
    #: the target band, where the sheet prints them
    band: str


class ScreenPoint(Model):
    point: str
    label: str
    #: gauges, clamp or hand
    takes: str


class ScreenThing(Model):
    id: str
    name: str
    minutes: float
    caution: str


class ScreenPlateLine(Model):
    label: str
    text: str


class ScreenChoice(Model):
    letter: str
    text: str


class ScreenStepOut(Model):
    number: int
    uid: str
    kind: str
    data: dict[str, Any]
    minutes: float
    said: list[str]
    reading: dict[str, Any] | None
    refused: bool
    harm: list[str]
    caution: str


class ScreenScene(Model):
    """What is seen of a machine that is played."""

    complaint: str
    history: str
    machine: str
    refrigerant: str
    units: str
    sealed: bool
    refrigeration: bool
    plate: list[ScreenPlateLine]
    points: list[ScreenPoint]
    #: readings that count on this machine
    essential: list[str]
    proofs: list[str]
    looks: list[ScreenThing]
    tests: list[ScreenThing]
    actions: list[ActionRow]
    faults: list[ScreenChoice]
    dials: list[Dial]
    steps: list[ScreenStepOut]
    named: bool
    minutes: float
    bill: float


class ScreenRun(ScreenScene):
    id: int
    title: str
    position: int
    mode: str
    questions: list[ScreenQuestion]
    evidence: list[ScreenChoice]
    answers: dict[str, str]
    proof: dict[str, str]
    ticket: str
    finished: bool
    left_s: float | None
    rubric: list[ScreenRubricLine]
    #: once it is finished and may be told
    judged: ScreenJudged | None
