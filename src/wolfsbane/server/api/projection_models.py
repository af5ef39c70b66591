"""What goes in and out of the projector."""

from typing import Annotated, Any

from pydantic import Field

from wolfsbane.server.api.bench_models import BenchBody
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


class ProjectedReply(Model):
    revision: int
    shown: dict[str, Any] | None
