"""What goes in and out of the API of requests and their ladders."""

from typing import Annotated, Any

from pydantic import Field

from wolfsbane.exercise.plan.brief import BRIEF
from wolfsbane.server.api.models import Model, Number, Text, filed
from wolfsbane.server.api.sheet_models import BriefPart, RungBody, Short

BriefFile = Annotated[dict[str, Any], filed(BRIEF)]


class BriefText(Model):
    text: Annotated[Text, Field(max_length=600)]


class ReadWords(Model):
    """Words of a sentence, from character ``start`` to ``end``."""

    words: str
    start: int
    end: int


class UnderstoodRow(ReadWords):
    field: str
    value: Any
    #: what was understood, in words
    text: str


class LeftRow(ReadWords):
    #: what may stand there instead
    nearest: str | None
    #: why it cannot be had, empty where it was not understood
    why: str


class BriefRead(Model):
    brief: BriefPart
    understood: list[UnderstoodRow]
    not_understood: list[LeftRow]
    #: understood, and cannot be had
    impossible: list[LeftRow]
    notes: list[str]


class BriefBody(Model):
    brief: BriefPart
    #: one piece of the plan only: a rung, or another form of all of them
    stepwise: bool = False
    #: what the answer before said, to go on from there
    so_far: dict[str, Any] | None = None


class PlannedRung(Model):
    rung: int
    level: int
    skill: str
    #: the skills of every form of the paper: apprentices get them in turn
    skills: list[str]
    #: share of simulated apprentices who name what is wrong
    success: float | None
    look_decides: bool | None
    #: a usual call, a second visit after a repair, or an instrument that reads wrong
    way: str
    minutes: int
    title: str


class PlannedDrill(Model):
    kind: str
    items: int
    minutes: int
    title: str


class BriefPlan(Model):
    brief: BriefFile
    ladder: list[PlannedRung]
    drills: list[PlannedDrill]
    minutes: int
    note: str = ""
    #: calls that the plan will have
    of: int
    #: to be sent with the next request where more is to come
    so_far: dict[str, Any] | None = None


class CallBody(Model):
    """One planned call and what is to be changed of it; what is left out stays as it is."""

    brief: BriefPart
    rung: RungBody
    skill: Short | None = None
    level: Annotated[int, Field(ge=1, le=5)] | None = None
    machines: Annotated[list[Short], Field(min_length=1, max_length=12)] | None = None
    weather: Annotated[dict[str, list[Number]], Field(max_length=6)] | None = None
    #: another fault that is as hard
    swap: bool = False


class ChangedCall(Model):
    brief: BriefFile
    rung: RungBody
    title: str
    minutes: int
    #: what came out other than it was wanted, empty where nothing did
    note: str


class SkillRow(Model):
    id: str
    name: str
    #: everyday names to find it by
    also: list[str]


class SkillsBody(Model):
    brief: BriefPart
    machines: Annotated[list[Short], Field(min_length=1, max_length=12)] | None = None
    way: Short = "usual"


class SkillsReply(Model):
    skills: list[SkillRow]
