"""What goes in and out of the trend pictures and the story's drafts."""

from typing import Annotated

from pydantic import Field

from wolfsbane.server.api.bench_models import BenchBody
from wolfsbane.server.api.models import Model, Names, Text


class TrendBody(BenchBody):
    over: Annotated[Text, Field(max_length=60)]


class TrendMark(Model):
    x: float
    text: str


class TrendTrip(Model):
    from_: float = Field(alias="from", serialization_alias="from")
    to: float
    cutout: str


class TrendSeries(Model):
    id: str
    label: str
    unit: str
    values: list[float | None]
    fault_free: list[float | None]
    band_low: list[float | None]
    band_high: list[float | None]


class TrendShow(Model):
    id: str
    label: str
    verdict: str
    was: str
    at: float


class TrendReply(Model):
    over: str
    label: str
    unit: str
    xs: list[float]
    now: float
    marks: list[TrendMark]
    trips: list[TrendTrip]
    series: list[TrendSeries]
    shows: list[TrendShow]


class StoryBody(BenchBody):
    given_tests: Names = []
    turn: Annotated[int, Field(ge=0, le=10_000)] = 0


class StoryReply(Model):
    complaint: str
    history: str
    look_round: list[str]
