"""What goes in and out of the API of lessons. What a class is sent holds no answer before the lesson has ended."""

from typing import Annotated, Any, Literal

from pydantic import Field

from wolfsbane.server.api.models import Id, Model, Text
from wolfsbane.server.api.screen_models import ScreenJudged, ScreenScene
from wolfsbane.server.services.lessons import HANDS_AT_ONCE

Choice = Annotated[Text, Field(min_length=1, max_length=80)]


class LessonPath(Model):
    lesson_id: Id


class LessonBeginBody(Model):
    #: which call of the sheet
    position: Annotated[int, Field(ge=1, le=50)]


class LessonAskBody(Model):
    kind: Literal["next", "read_off", "name", "work"]


class LessonHandsBody(Model):
    choice: Choice
    count: Annotated[int, Field(ge=0, le=HANDS_AT_ONCE)]


class LessonDoBody(Model):
    choice: Choice
    arguments: dict[str, Any] | None = None


class LessonVoteBody(Model):
    round: Annotated[int, Field(ge=1, le=100_000)]
    choice: Choice


class LessonChoice(Model):
    id: str
    group: str
    text: str
    minutes: float


class LessonCounted(Model):
    id: str
    text: str
    votes: int


class LessonVote(Model):
    round: int
    kind: str
    asks: str
    open: bool
    #: how many have voted by now
    voted: int
    choices: list[LessonChoice]
    #: once it was counted, most votes first
    counted: list[LessonCounted]
    #: of numbers, the middle of what was read off
    middle: str | None


class LessonMyVote(LessonVote):
    own: str | None


class LessonMine(Model):
    id: int
    title: str
    revision: int
    vote: LessonMyVote | None


class LessonMineReply(Model):
    lesson: LessonMine | None


class LessonFigure(Model):
    text: str
    answer: str


class LessonShown(ScreenScene):
    id: int
    title: str
    position: int
    revision: int
    vote: LessonVote | None
    #: what can be done without a vote
    at_once: list[LessonChoice]
    #: what the class read off, by reading
    read_off: dict[str, str]
    #: as they stand on the board, once the fault was named
    figures: list[LessonFigure]
    named_as: str
    ended: bool
    judged: ScreenJudged | None


class LessonBegun(Model):
    id: int
    token: str


class LessonLink(Model):
    token: str


class LessonSeenQuery(Model):
    since: Annotated[int, Field(ge=0)] = 0


class LessonSeen(Model):
    revision: int
    #: null where nothing changed
    shown: LessonShown | None


class LessonRow(Model):
    id: int
    position: int
    began_at: str
    ended: bool
    minutes: float | None
    expert_minutes: float | None


class LessonList(Model):
    lessons: list[LessonRow]
