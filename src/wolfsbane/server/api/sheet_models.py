"""What goes in and out of the API of sheets, papers and marks."""

from typing import Annotated, Any, Literal, Self

from pydantic import Field, StringConstraints, model_validator

from wolfsbane.exercise.marking.rules import RULES
from wolfsbane.exercise.paper.asked import ASKED
from wolfsbane.exercise.plan.brief import BRIEF
from wolfsbane.server.api.library_models import ScenarioFile
from wolfsbane.server.api.models import Id, Model, Number, Text, Units, filed

Paper = Literal["letter", "A4"]
Title = Annotated[Text, Field(min_length=1, max_length=120)]
Reason = Annotated[Text, Field(max_length=400)]
Short = Annotated[Text, Field(max_length=60)]


#: plain data of file formats: as a reader wrote it, and as it may be asked for
BriefPart = Annotated[dict[str, Any], filed(BRIEF, whole=False)]
AskedPart = Annotated[dict[str, Any], filed(ASKED, whole=False)]
RulesPart = Annotated[dict[str, Any], filed(RULES, whole=False)]


class RungBody(Model):
    number: int
    level: int
    skill: str = "none"
    skills: list[str] | None = None
    success: float | None = None
    look_decides: bool | None = None
    way: str | None = None


class ItemBody(Model):
    kind: Literal["scenario", "rung", "drill", "situation", "rig"]
    scenario_id: Id | None = None
    brief: BriefPart | None = None
    rung: RungBody | None = None
    drill: Short | None = None
    situation: Short | None = None
    items: Annotated[int, Field(ge=1, le=12)] | None = None
    #: how often it was drawn again
    redraw: Annotated[int, Field(ge=0, le=999)] | None = None
    asked: AskedPart | None = None


class SheetBody(Model):
    title: Title
    class_id: Id
    scenario_ids: Annotated[list[Id], Field(min_length=1, max_length=12)] | None = None
    items: Annotated[list[ItemBody], Field(max_length=12)] | None = None
    units: Units = "us"
    paper: Paper | None = None
    large: bool = False
    seed: Annotated[int, Field(ge=0, le=2**53 - 1)] | None = None
    draft: bool = False

    @model_validator(mode="after")
    def _one_of_both(self) -> Self:
        if (self.scenario_ids is None) == (self.items is None):
            raise ValueError("give items, or scenario_ids for plain calls of the library")
        return self


class SheetChange(Model):
    title: Title
    class_id: Id
    items: Annotated[list[ItemBody], Field(max_length=12)]
    units: Units = "us"
    paper: Paper | None = None
    large: bool = False


class ItemData(Model):
    kind: Literal["scenario", "rung", "drill", "situation", "rig"]
    asked: AskedPart
    body: ScenarioFile | None = None
    brief: BriefPart | None = None
    rung: RungBody | None = None
    drill: str | None = None
    situation: str | None = None
    items: int | None = None
    redraw: int | None = None


class ItemRow(Model):
    position: int
    kind: str
    title: str
    scenario_id: int | None
    level: int | None
    minutes: int
    points: int | None
    data: ItemData
    rules: RulesPart


class SheetRow(Model):
    id: int
    title: str
    class_id: int
    class_name: str
    units: str
    paper: str | None
    large: bool
    released: bool
    status: str
    done: int
    total: int
    problem: str | None
    calls: int
    papers: int
    marked: int
    created_at: str
    seed: int | None = None
    solver_version: str | None = None
    table_hash: str | None = None
    #: kinds of documents that can be had at once
    at_hand: list[str] = []
    printing: str | None = None
    items: list[ItemRow] = []


class SheetList(Model):
    sheets: list[SheetRow]


class AheadReply(Model):
    #: calls of a draft that are drawn, of how many; both 0 for a sheet that is no draft
    drawn: int
    of: int
    #: why it cannot be drawn as it is
    problem: str | None


class PagesReply(Model):
    pages: int
    #: the page on which each call begins
    starts: list[int] = []
    #: the most that guessing earns without a number read, as a share; None where nothing can be guessed
    guessing: float | None = None
    #: strategies that would earn more than they may
    over: list[str] = []


class MorePaperBody(Model):
    apprentice_id: Id


class PaperCode(Model):
    code: str


class PrintBody(Model):
    kinds: Annotated[list[Literal["packet", "key", "feedback"]], Field(min_length=1, max_length=3)]


class ReleaseBody(Model):
    released: bool


class RulesBody(Model):
    position: Annotated[int, Field(ge=1, le=50)]
    rules: RulesPart
    reason: Reason = ""
    confirmed: bool = False


class ChangedMark(Model):
    question: str
    before: int | None
    after: int


class MoveRow(Model):
    code: str
    name: str
    before: int | None
    before_possible: int
    after: int
    after_possible: int
    changes: list[ChangedMark]


class MovesReply(Model):
    moves: list[MoveRow]
    confirmed: bool


class MeasureBody(Model):
    readings: Annotated[dict[str, Number | None], Field(max_length=30)]
    confirmed: bool = False


class MeasuredFigure(Model):
    name: str
    now: str
    predicted: str
    verdict: str | None


class AtRigBody(Model):
    position: int
    rig_id: Id
    #: when the apprentice was at the rig, ISO time
    at: Annotated[str, StringConstraints(max_length=40)]
    confirmed: bool = False


class AtRigReply(Model):
    warnings: list[str]
    moves: list[MoveRow]
    confirmed: bool


class AtRigRow(Model):
    """When the apprentice of a paper was at the rig; null where nobody said."""

    code: str
    name: str
    at: str | None
    rig: str


class MeasureReply(Model):
    warnings: list[str]
    figures: list[MeasuredFigure]
    moves: list[MoveRow]
    confirmed: bool


class CardRow(Model):
    fault: str
    size: str
    set: str
    settle_min: float
    limits: str
    undo: str
    caution: str


class MeasuredRow(Model):
    key: str
    label: str
    unit: str
    predicted: str
    needed: bool
    value: float | None


class MeasurementReply(Model):
    position: int
    title: str
    card: list[CardRow]
    rows: list[MeasuredRow]
    warnings: list[str]
    writer: str | None
    entered_at: str | None
    times: list[AtRigRow]


class AuditRow(Model):
    id: int
    at: str
    action: str
    position: int | None
    question_id: str | None
    before: Any
    after: Any
    reason: str
    writer: str
    code: str | None
    name: str | None


class AuditReply(Model):
    entries: list[AuditRow]


class CsvBody(Model):
    text: Annotated[str, Field(max_length=900_000)]


class AskedBackRow(Model):
    code: str
    call: int
    question: str
    said: str


class CsvReply(Model):
    papers: int
    answers: int
    #: answers that could not be read as one answer: kept as written, and said at once
    not_understood: list[AskedBackRow] = []


class ResultCell(Model):
    position: int
    earned: int
    possible: int
    marked: bool


class ResultRow(Model):
    code: str
    name: str
    apprentice_id: int
    attempt: int
    marked: bool
    to_confirm: int
    earned: int
    possible: int
    cells: list[ResultCell]


class MissRow(Model):
    position: int
    question: str
    text: str
    missed: int
    of: int


class ResultReply(Model):
    rows: list[ResultRow]
    misses: list[MissRow]


class RotationQuery(Model):
    minutes: Annotated[int, Field(ge=5, le=240)] = 30
    rigs: Annotated[int, Field(ge=1, le=12)] | None = None


class SheetPath(Model):
    sheet_id: Id


class PagePath(Model):
    sheet_id: Id
    page: Annotated[int, Field(ge=1, le=200)]


class DocumentPath(Model):
    sheet_id: Id
    kind: Literal["packet", "key", "slips", "guide", "charts", "plants", "feedback"]


class PositionPath(Model):
    sheet_id: Id
    position: Annotated[int, Field(ge=1, le=50)]


class ImportQuery(Model):
    #: only read and check, and say what would come in
    dry: bool = False


class SchoolImported(Model):
    rows: dict[str, int]
    kept: bool


class OneRosterClass(Model):
    title: str
    new: bool
    added: int
    there: int
    left: int


class OneRosterTaken(Model):
    classes: list[OneRosterClass]
    kept: bool
