"""What goes in and out of the API. The client's types are generated from these."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

Text = Annotated[str, StringConstraints(strip_whitespace=True, pattern=r"^[^\x00]*$")]
Number = Annotated[float, Field(allow_inf_nan=False)]
Id = Annotated[int, Field(ge=1, le=2**31 - 1)]
Units = Literal["us", "si"]


class Model(BaseModel):
    """Base: unknown fields are refused."""

    model_config = ConfigDict(extra="forbid")


class ErrorDetail(Model):
    code: str
    message: str
    field: str | None = None


class ErrorBody(Model):
    error: ErrorDetail


class LoginBody(Model):
    login: Annotated[Text, Field(min_length=1, max_length=80)]
    password: Annotated[str, Field(min_length=1, max_length=200)]


class User(Model):
    login: str
    name: str
    role: str
    school: str
    time_zone: str


class SessionReply(Model):
    user: User | None
    csrf: str


class PlantedFault(Model):
    id: Annotated[Text, Field(max_length=60)]
    severity: Number | None = None
    cause: Annotated[Text, Field(max_length=60)] | None = None


Names = Annotated[list[Annotated[Text, Field(max_length=60)]], Field(max_length=40)]


class ClassBody(Model):
    name: Annotated[Text, Field(min_length=1, max_length=80)]
    apprentices: Annotated[list[Annotated[Text, Field(min_length=1, max_length=80)]], Field(min_length=1, max_length=60)]


class ClassRow(Model):
    id: int
    name: str
    size: int
    apprentices: list[str] = []


class ClassList(Model):
    classes: list[ClassRow]


class SheetBody(Model):
    title: Annotated[Text, Field(min_length=1, max_length=120)]
    class_id: Id
    scenario_ids: Annotated[list[Id], Field(min_length=1, max_length=10)]
    units: Units = "us"
    seed: Annotated[int, Field(ge=0, le=2**53 - 1)] | None = None


class SheetRow(Model):
    id: int
    title: str
    class_name: str
    units: str
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


class SheetList(Model):
    sheets: list[SheetRow]


class MarkRow(Model):
    question: str
    points: int
    earned: int
    code: str
    text: str


class QuestionRow(Model):
    id: str
    text: str
    kind: str
    unit: str | None
    points: int
    raw: str


class PaperCall(Model):
    position: int
    title: str
    complaint: str
    readings: list[dict[str, Any]]
    questions: list[QuestionRow]
    choices: dict[str, list[dict[str, str]]]
    marks: list[MarkRow]
    earned: int
    possible: int


class PaperReply(Model):
    code: str
    name: str
    sheet_id: int
    sheet_title: str
    calls: list[PaperCall]
    earned: int
    possible: int


class AnswersBody(Model):
    call: Annotated[int, Field(ge=1, le=50)]
    answers: dict[str, Annotated[Text, Field(max_length=80)]]


class ResultCell(Model):
    position: int
    earned: int
    possible: int


class ResultRow(Model):
    code: str
    name: str
    marked: bool
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


class SheetPath(Model):
    sheet_id: Id


class DocumentPath(Model):
    sheet_id: Id
    kind: Literal["packet", "key"]


class ScenarioPath(Model):
    scenario_id: Id


class ClassPath(Model):
    class_id: Id


class PaperPath(Model):
    code: Annotated[Text, Field(max_length=20)]
