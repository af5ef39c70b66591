"""What goes in and out of the reference pages."""

from typing import Annotated, Literal

from pydantic import Field

from wolfsbane.server.api.models import Model, Number, Text, Units
from wolfsbane.server.api.picture_models import TrendShow, TrendTrip


class RefrigerantPath(Model):
    refrigerant: Annotated[Text, Field(max_length=20)]


class ChartQuery(Model):
    units: Units = "us"


class ConvertQuery(ChartQuery):
    pressure: Number | None = None
    temperature: Number | None = None


class TargetQuery(ChartQuery):
    return_wb: Number
    outdoor_db: Number


class GridQuery(ChartQuery):
    by: Literal["formula", "chart"] = "formula"


class EntryQuery(ChartQuery):
    machine: Annotated[Text, Field(max_length=60)] = "split-3t-r410a-txv"
    practice: Annotated[Text, Field(max_length=60)] = "plate_and_formula"


class EntryPath(Model):
    fault_id: Annotated[Text, Field(max_length=60)]


class RefrigerantRow(Model):
    id: str
    name: str
    safety_class: str
    blend: bool


class RefrigerantList(Model):
    refrigerants: list[RefrigerantRow]


class PtRow(Model):
    temperature: float
    dew: float | None
    bubble: float | None


class PtReply(Model):
    refrigerant: str
    safety_class: str
    blend: bool
    temperature_unit: str
    pressure_unit: str
    rows: list[PtRow]


class ConvertReply(Model):
    dew: float
    bubble: float
    unit: str
    of: float
    of_unit: str
    glide: float


class TargetReply(Model):
    formula: float
    chart: float
    unit: str
    note: str


class GridReply(Model):
    by: str
    unit: str
    difference_unit: str
    outdoor: list[float]
    wet_bulb: list[float]
    rows: list[list[float | None]]


class DomeReply(Model):
    refrigerant: str
    pressure_unit: str
    enthalpy_unit: str
    bubble: list[list[float]]
    dew: list[list[float]]


class SignatureLevel(Model):
    level: str
    severity: float
    value: float | None
    arrow: str | None


class SignatureRow(Model):
    id: str
    label: str
    unit: str
    fault_free: float
    levels: list[SignatureLevel]
    step: float
    values: list[float | None]


class NearRow(Model):
    fault: str
    name: str
    distance: float


class EntryTest(Model):
    id: str
    name: str
    minutes: float


class EntryReply(Model):
    fault: str
    machine: str
    machine_name: str
    unit: str
    parameter: str
    rows: list[SignatureRow]
    shows: list[TrendShow]
    trips: list[TrendTrip]
    look_alikes: list[NearRow]
    tests: list[EntryTest]


class RubricLine(Model):
    what: str
    earns: str


class RubricReply(Model):
    version: str
    lines: list[RubricLine]
