"""What goes in and out about cylinders and the refrigerant log."""

from datetime import date
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from wolfsbane.server.api.models import Id, Model, Units

Weight = Annotated[str, StringConstraints(strip_whitespace=True, max_length=40)]
Words = Annotated[str, StringConstraints(strip_whitespace=True, max_length=300)]
MoveKind = Literal["charge", "recover", "transfer", "received", "returned", "lost"]


class CylinderPath(Model):
    cylinder_id: Id


class MovePath(Model):
    move_id: Id


class LogQuery(Model):
    units: Units = "us"
    #: the first and last day, today where nothing is said
    first: date | None = None
    last: date | None = None


class CylinderBody(Model):
    """A cylinder as it is stamped; weights as typed."""

    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60)]
    kind: Literal["new", "recovery"]
    refrigerant: Annotated[str, StringConstraints(max_length=12)] = ""
    tare: Weight
    water: Weight
    #: "": as heavy as its tare
    gross: Weight = ""
    owner: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)] = ""
    retest_on: date | None = None
    units: Units = "us"


class CylinderChange(Model):
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60)]
    owner: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)] = ""
    retest_on: date | None = None
    units: Units = "us"


class StockRow(Model):
    id: int
    name: str
    kind: Literal["new", "recovery"]
    refrigerant: str
    owner: str
    retest_on: str
    #: of what it may hold
    share: float
    net: str
    gross: str
    tare: str
    water: str
    limit: str
    room: str
    notes: list[str]


class MoveBody(Model):
    """Refrigerant that moved: weights as typed, the cylinder's gross before and after."""

    kind: MoveKind
    cylinder_id: Id
    other_id: Id | None = None
    rig_id: Id | None = None
    refrigerant: Annotated[str, StringConstraints(max_length=12)] = ""
    log: Weight
    before: Weight
    after: Weight
    scale: Weight = ""
    #: where the cylinder stands; "": 77 °F
    temperature: Weight = ""
    person: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)] = ""
    why: Words = ""
    #: it was done although it is refused
    happened: bool = False
    units: Units = "us"


class LogDifference(Model):
    text: str
    causes: list[str]


class LogRow(Model):
    id: int
    at: str
    kind: MoveKind
    text: str
    cylinder: str
    refrigerant: str
    log: str
    weighed: str
    scale: str
    person: str
    why: str
    differences: list[LogDifference]
    explained: str
    explained_by: str


class BalanceRow(Model):
    name: str
    charge: str
    recover: str
    transfer: str
    received: str
    returned: str
    lost: str
    net: str


class ClosedDay(Model):
    day: str
    closed_at: str
    who: str


class LogReply(Model):
    cylinders: list[StockRow]
    moves: list[LogRow]
    #: by refrigerant, cylinder and rig, over the days asked for
    by_refrigerant: list[BalanceRow]
    by_cylinder: list[BalanceRow]
    by_rig: list[BalanceRow]
    refrigerants: list[str]
    today: str
    days: list[ClosedDay]
    no_advice: str


class ExplainBody(Model):
    explained: Annotated[str, StringConstraints(strip_whitespace=True, min_length=3, max_length=300)]
    units: Units = "us"


class CloseDayBody(Model):
    day: Annotated[date, Field()]
    units: Units = "us"
