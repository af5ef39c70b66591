"""What goes in and out of the API of papers: answers, marks and feedback."""

from typing import Annotated

from pydantic import Field

from wolfsbane.server.api.class_models import NextCall
from wolfsbane.server.api.models import Model, Text
from wolfsbane.server.api.sheet_models import Reason, Short


class MarkRow(Model):
    question: str
    points: int
    earned: int
    code: str
    text: str
    suggested: int | None
    overridden: bool


class QuestionRow(Model):
    id: str
    text: str
    kind: str
    unit: str | None
    points: int
    raw: str
    key: str
    revision: int
    writer: str | None


class LabeledText(Model):
    label: str
    text: str


class LetteredChoice(Model):
    letter: str
    id: str
    text: str


class PaperCall(Model):
    position: int
    title: str
    complaint: str
    readings: list[LabeledText]
    questions: list[QuestionRow]
    choices: dict[str, list[LetteredChoice]]
    marks: list[MarkRow]
    earned: int
    possible: int
    waits: bool
    answered: bool
    rig: bool
    measured: bool


class PaperReply(Model):
    code: str
    name: str
    attempt: int
    apprentice_id: int
    sheet_id: int
    sheet_title: str
    calls: list[PaperCall]
    earned: int
    possible: int


class AnswersBody(Model):
    call: Annotated[int, Field(ge=1, le=50)]
    answers: Annotated[dict[str, Annotated[Text, Field(max_length=600)]], Field(max_length=60)]
    base: Annotated[dict[str, Annotated[int, Field(ge=0, le=2**31 - 1)]], Field(max_length=60)] | None = None


class OverrideBody(Model):
    call: Annotated[int, Field(ge=1, le=50)]
    question: Short
    earned: Annotated[int, Field(ge=0, le=20)] | None
    reason: Reason = ""


class FeedbackRow(Model):
    question: str
    text: str
    own: str
    unit: str
    expected: str
    differs: bool
    earned: int
    points: int
    why: str
    again: str
    suggested: int | None
    #: left out of the score; then ``right`` says whether the answer is
    excluded: bool
    right: bool | None


class ShownReading(Model):
    label: str
    text: str


class FeedbackStep(Model):
    step: str
    name: str
    rows: list[FeedbackRow]


class FeedbackCall(Model):
    position: int
    title: str
    earned: int
    possible: int
    hazard: str
    #: what was read on the page, so that it can be worked again
    shown: list[ShownReading]
    steps: list[FeedbackStep]


class FeedbackReply(Model):
    code: str
    name: str
    sheet_title: str
    calls: list[FeedbackCall]
    earned: int
    possible: int
    next: NextCall | None = None


class PaperPath(Model):
    code: Annotated[Text, Field(max_length=120)]


class MinePaper(Model):
    code: str
    attempt: int
    title: str
    created_at: str


class MinePapers(Model):
    papers: list[MinePaper]
