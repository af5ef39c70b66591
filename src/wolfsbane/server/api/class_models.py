"""What goes in and out of the API of classes, apprentices and accounts."""

from typing import Annotated, Literal

from pydantic import Field

from wolfsbane.server.api.models import Id, Model, Text

PersonName = Annotated[Text, Field(min_length=1, max_length=80)]
Group = Annotated[Text, Field(max_length=40)]
RollNumber = Annotated[Text, Field(max_length=30)]
Password = Annotated[str, Field(min_length=10, max_length=200, pattern=r"^[^\x00]*$")]
Language = Literal["en", "es"]
Role = Literal["instructor", "assistant", "apprentice"]


class Person(Model):
    name: PersonName
    number: RollNumber = ""
    group: Group = ""


class ClassBody(Model):
    name: PersonName
    term: Annotated[Text, Field(max_length=40)] = ""
    apprentices: Annotated[list[PersonName | Person], Field(max_length=120)] = []


class ClassChange(Model):
    name: PersonName
    term: Annotated[Text, Field(max_length=40)] = ""
    archived: bool = False


class PersonRow(Model):
    id: int
    name: str
    number: str
    group: str
    gone: bool
    #: when they will be erased unless that is taken back
    erase_at: str | None
    login: str | None
    #: what papers are printed in for them, and what they read on screen
    language: Language


class ClassRow(Model):
    id: int
    name: str
    term: str
    archived: bool
    size: int
    apprentices: list[str] = []
    people: list[PersonRow] = []


class ClassList(Model):
    classes: list[ClassRow]


class ClassQuery(Model):
    archived: bool = False


Column = Literal["name", "first", "last", "last_first", "number", "group", "email", "skip"]


class RosterBody(Model):
    text: Annotated[str, Field(max_length=40_000)]
    #: what each column is, as somebody corrected it; left out: as it looks
    columns: Annotated[list[Column], Field(max_length=40)] | None = None
    #: whether the first line names the columns; left out: as it looks
    header: bool | None = None
    class_id: Id | None = None


class RosterColumn(Model):
    role: Column
    head: str


class RosterRow(Model):
    line: int
    cells: list[str]
    name: str
    number: str
    group: str
    problem: str


class RosterReply(Model):
    people: list[Person]
    problems: list[str]
    header: bool
    columns: list[RosterColumn]
    rows: list[RosterRow]


class PeopleBody(Model):
    people: Annotated[list[Person], Field(min_length=1, max_length=120)]


class PersonChange(Person):
    gone: bool = False
    #: what they read in; left out, it stays
    language: Language | None = None
    #: the class they move to; left out, they stay where they are
    class_id: Id | None = None


class TakenBack(Model):
    apprentice_ids: Annotated[list[Id], Field(min_length=1, max_length=120)]


class ErasingBody(Model):
    erasing: bool


LogInName = Annotated[Text, Field(min_length=3, max_length=60, pattern=r"^[A-Za-z0-9._-]+$")]


class LoginGiven(Model):
    login: LogInName
    password: Password


class LogInsBody(Model):
    #: whom; left out: everybody of the class who has none
    apprentice_ids: Annotated[list[Id], Field(min_length=1, max_length=120)] | None = None


class LogInSlip(Model):
    apprentice_id: int
    name: str
    login: str
    #: the one-time code, shown this once
    code: str


class LogInSlips(Model):
    slips: list[LogInSlip]
    days: int


class ClassPath(Model):
    class_id: Id


class PersonPath(Model):
    apprentice_id: Id


class GradebookPath(Model):
    class_id: Id
    format: Literal["csv", "xlsx"]


class SheetShare(Model):
    order: int
    sheet_id: int
    title: str
    papers: int
    share: float


class NamedId(Model):
    id: str
    name: str


class ConfusionCell(Model):
    planted: str
    named: str
    count: int


class ConfusionTable(Model):
    faults: list[NamedId]
    planted: list[str]
    cells: list[ConfusionCell]
    right: int
    wrong: int


class StepShare(Model):
    step: str
    name: str
    share: float | None
    points: int
    lost: int


class CallShare(Model):
    order: int
    sheet: str
    position: int
    share: float | None
    papers: int
    stated: float | None
    found: int | None
    #: share that was expected to name what is wrong, and that did
    expected: float | None
    named: float | None
    skill: str | None


class SkillShare(Model):
    skill: str
    name: str
    share: float | None
    papers: int


class OrderShare(Model):
    order: int
    share: float | None


class PersonShare(Model):
    apprentice: int
    name: str
    share: float | None
    sheets: list[OrderShare]
    weak: list[str]


class ClassPicture(Model):
    sheets: list[SheetShare]
    confusion: ConfusionTable
    steps: list[StepShare]
    calls: list[CallShare]
    people: list[PersonShare]
    skills: list[SkillShare]


class PersonPaper(Model):
    code: str
    title: str
    attempt: int
    at: str


class FittingScenario(Model):
    id: int
    title: str
    level: int


class NextCall(Model):
    level: int
    skill: str | None
    skill_name: str | None
    reason: str


class NextCalls(NextCall):
    scenarios: list[FittingScenario]


class PersonPicture(Model):
    id: int
    name: str
    class_id: int
    class_name: str
    steps: list[StepShare]
    skills: list[SkillShare]
    calls: list[CallShare]
    papers: list[PersonPaper]
    next: NextCalls


class GradebookReply(Model):
    header: list[str]
    rows: list[list[str | float]]
