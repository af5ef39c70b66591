"""What goes in and out of the API. The client's types are generated from these."""

from typing import Annotated, Literal

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


class ScenarioPath(Model):
    scenario_id: Id
