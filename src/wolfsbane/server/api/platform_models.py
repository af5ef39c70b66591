"""What goes in and out of the API of learning platforms."""

from typing import Annotated

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from wolfsbane.server.api.models import Id, Model, Text
from wolfsbane.server.core.outside import is_safe

_WHY = "begin with https:// (or stand on this machine)"


def _reachable(address: str) -> str:
    if not is_safe(address):
        raise ValueError(f"an address has to {_WHY}")
    return address


Address = Annotated[Text, Field(min_length=8, max_length=400), AfterValidator(_reachable)]
Given = Annotated[str, Field(max_length=2000)]


class LaunchStart(BaseModel):
    """How a platform begins a launch; it may add more."""

    model_config = ConfigDict(extra="ignore")
    iss: Given = ""
    client_id: Given = ""
    login_hint: Given = ""
    lti_message_hint: Given = ""


class LaunchAnswer(BaseModel):
    """What a platform posts back; it may add more."""

    model_config = ConfigDict(extra="ignore")
    state: Given = ""
    id_token: Annotated[str, Field(max_length=20_000)] = ""
    error: Given = ""


class ToolAddresses(Model):
    """What the platform's form asks of us."""

    start: str
    launch: str
    keys: str


class PlatformBody(Model):
    name: Annotated[Text, Field(min_length=1, max_length=80)]
    issuer: Address
    client_id: Annotated[Text, Field(min_length=1, max_length=200)]
    deployments: Annotated[
        list[Annotated[Text, Field(min_length=1, max_length=200)]], Field(min_length=1, max_length=40)
    ]
    login_url: Address
    token_url: Address
    keys_url: Address


class PlatformRow(PlatformBody):
    id: int
    courses: int
    people: int


class PlatformCourse(Model):
    id: int
    platform: str
    title: str
    class_id: int | None
    class_name: str | None
    lists_names: bool
    takes_points: bool
    names_at: str | None
    people: int


class PlatformList(Model):
    addresses: ToolAddresses
    platforms: list[PlatformRow]
    courses: list[PlatformCourse]


class PlatformPath(Model):
    platform_id: Id


class CoursePath(Model):
    platform_course_id: Id


class CourseIs(Model):
    #: the class this course is; null with ``new`` for a class named as the course, without it for none
    class_id: Id | None = None
    new: bool = False


class NamesTaken(Model):
    added: int
    there: int
    left: int


class LaunchWaiting(Model):
    platform: str
    course: str
    name: str


class LaunchJoined(Model):
    course_id: int


class PointsRow(Model):
    name: str
    earned: float
    possible: float
    sent_at: str | None
    problem: str | None


class PointsReply(Model):
    #: platforms whose courses take points of this sheet's class
    platforms: list[str]
    rows: list[PointsRow]
    waiting: int
