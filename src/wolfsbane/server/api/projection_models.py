"""What goes in and out of the projector."""

from typing import Annotated

from pydantic import Field

from wolfsbane.server.api.bench_models import BenchBody, Dial, Fill, ReadingRow
from wolfsbane.server.api.models import Id, Model, Names, Text, Units


class ProjectionBody(BenchBody):
    given_readings: Names | None = None
    complaint: Annotated[Text, Field(max_length=600)] = ""
    history: Annotated[Text, Field(max_length=600)] = ""
    look_round: Annotated[list[Annotated[Text, Field(max_length=200)]], Field(max_length=12)] = []


class ProjectionPath(Model):
    projection_id: Id


class TurnBody(Model):
    step: Annotated[Text, Field(max_length=20)]
    shown: Annotated[list[Annotated[Text, Field(max_length=20)]], Field(max_length=12)]
    test: Annotated[Text, Field(max_length=60)] | None = None


class RemoteReply(Model):
    id: int
    step: str
    shown: list[str]
    tests: list[str]
    created_at: str


class PutUpReply(RemoteReply):
    token: str


class CurrentReply(Model):
    projection: RemoteReply | None


class ProjectedQuery(Model):
    units: Units = "us"
    since: Annotated[int, Field(ge=0)] = 0


class ShownPicture(Model):
    name: str
    refrigerant: str
    metering: str
    application: str
    condenser: str
    receiver: bool
    circuits: int
    refrigeration: bool


class ShownLine(Model):
    label: str
    text: str


class ShownStory(Model):
    complaint: str
    history: str
    look_round: list[str]
    picture: ShownPicture
    plate: list[ShownLine]


class ShownRow(Model):
    id: str
    label: str
    text: str


class ShownReadings(Model):
    rows: list[ShownRow]
    instruments: str
    dials: list[Dial]


class ShownConversion(ShownRow):
    from_: str = Field(alias="from")


class ShownFigure(ShownRow):
    how: str


class ShownVerdict(Model):
    id: str
    label: str
    verdict: str


class ShownTest(Model):
    id: str
    name: str
    text: str


class ShownAnswer(Model):
    name: str
    severities: list[str]
    fill: Fill
    fault_free_fill: Fill
    signs: list[str]
    readings: list[ReadingRow]


class Shown(Model):
    """What the class may see by now: a part that is not revealed is not there."""

    step: str
    steps: list[str]
    units: Units
    story: ShownStory | None = None
    readings: ShownReadings | None = None
    conversions: list[ShownConversion] | None = None
    figures: list[ShownFigure] | None = None
    targets: list[ShownRow] | None = None
    verdicts: list[ShownVerdict] | None = None
    tests: list[ShownTest] | None = None
    answer: ShownAnswer | None = None


class ProjectedReply(Model):
    revision: int
    shown: Shown | None
