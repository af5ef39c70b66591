"""What goes in and out of acting on a machine, its correction key, and machines of one's own."""

from typing import Annotated, Any, Literal

from pydantic import Field, create_model

from wolfsbane.server.api.bench_models import BenchBody, Fill
from wolfsbane.server.api.models import Model, Number, Text, Units, filed
from wolfsbane.tuning.plate import APPLICATIONS, CONDENSERS, METERING, NUMBERS, PLATE


class ParameterRow(Model):
    name: str
    unit: str
    low: float
    high: float
    default: float | str | None
    words: list[str]
    optional: bool


class ActionRow(Model):
    id: str
    name: str
    group: str
    minutes: float | None
    money: str
    refrigerant: str
    needs: list[str]
    risk: str
    parameters: list[ParameterRow]


class UnitsQuery(Model):
    units: Units = "us"


class SettingRow(Model):
    id: str
    name: str
    text: str


class TroubleRow(Model):
    id: str
    name: str
    shows: str


class ActionList(Model):
    actions: list[ActionRow]
    doors: list[str]
    troubles: list[TroubleRow]


class ChargePointRow(Model):
    percent: int
    charge: float
    superheat: float
    subcooling: float
    level: int | None
    bubbles: float


class ChargeChartRow(Model):
    #: the figure it is charged by; None where the scale decides
    by: str | None
    unit: str
    mass_unit: str
    points: list[ChargePointRow]


class MachinePage(Model):
    teaches: list[str]
    chart: ChargeChartRow


class OwnPath(Model):
    machine_id: Annotated[Text, Field(max_length=60)]


class DoneBody(Model):
    do: Annotated[Text, Field(max_length=40)]
    arguments: dict[str, float | Text | None] = {}


class RoomBody(Model):
    start: Number | None = None
    set: Number | None = None
    door: Annotated[Text, Field(max_length=20)] = "usual"
    troubles: Annotated[list[Annotated[Text, Field(max_length=40)]], Field(max_length=12)] = []


class ActBody(BenchBody):
    room: RoomBody | None = None
    steps: Annotated[list[DoneBody], Field(max_length=60)] = []
    outdoor_per_h: Number = 0
    return_per_h: Number = 0
    frames: bool = False


class StepRow(Model):
    do: str
    name: str
    at_s: float
    minutes: float
    money: str
    refused: bool
    said: list[str]
    moved: float
    cylinder: str | None


class TraceRow(Model):
    time_s: float
    running: bool
    suction: float | None
    head: float | None
    suction_line: float | None
    liquid_line: float | None
    discharge_line: float | None
    outdoor: float | None
    superheat: float | None
    subcooling: float | None
    ctoa: float | None
    evaporator_td: float | None
    air_delta_t: float | None
    ice_pct: float
    wet_pct: float
    circuit: float
    room: float | None = None
    goods: float | None = None
    room_humidity_pct: float | None = None
    mode: str | None = None


class ControlsRow(Model):
    mode: str
    said: str
    starts: int
    ran_pct: float
    low_stage_pct: float | None
    defrost_minutes: list[float]
    room: float
    room_low: float
    room_mean: float
    room_high: float
    goods: float
    humidity_pct: float
    cut_in: float
    cut_out: float
    settings: list[SettingRow]


class CylinderRow(Model):
    id: str
    net: float
    gross: float
    room: float


class Weights(Model):
    unit: str
    circuit: float
    right_charge: float
    hoses: float
    lost: float
    cylinders: list[CylinderRow]


class BandRow(Model):
    low: float
    high: float


class FrameReading(Model):
    id: str
    text: str


class FrameRow(Model):
    time_s: float
    running: bool
    fill: Fill
    needles: dict[str, float]
    readings: list[FrameReading]


class ActReply(Model):
    refusal: str | None
    units: dict[str, str]
    steps: list[StepRow]
    trace: list[TraceRow]
    weights: Weights | None
    running: bool
    tripped: str | None
    minutes: float
    left: list[str]
    frames: list[FrameRow]
    bands: dict[str, BandRow]
    controls: ControlsRow | None = None


class PlanStep(Model):
    action: str
    fault: str | None
    arguments: dict[str, float | str | None]
    text: str
    minutes: float | None
    money: str
    needs: list[str]
    caution: str
    amount: float | None
    tolerance: float | None
    unit: str


class WrongRow(Model):
    plan: str
    text: str
    figures: dict[str, str]
    trips: str | None


class PlanReply(Model):
    refusal: str | None
    first: str
    minutes: float
    steps: list[PlanStep]
    proof: dict[str, str]
    proof_trips: str | None
    wrong: list[WrongRow]


PlateBody: Any = create_model(  # type: ignore[call-overload]
    "PlateBody",
    __base__=Model,
    name=(Annotated[Text, Field(min_length=1, max_length=80)], ...),
    model=(Annotated[Text, Field(max_length=40)] | None, None),
    refrigerant=(Annotated[Text, Field(max_length=20)], ...),
    metering=(Literal[METERING], ...),
    application=(Literal[APPLICATIONS], "air_conditioner"),
    condenser=(Literal[CONDENSERS], "tube_and_fin"),
    units=(Units, "us"),
    receiver=(bool | None, None),
    # as it stands on the plate: 36000, "36k", "3 tons", "7 lb 8 oz", "208/230"
    **dict.fromkeys(NUMBERS, (Number | Annotated[Text, Field(max_length=40)] | None, None)),
)


class ReportRow(Model):
    id: str
    figure: str
    unit: str
    asked: float | None
    taken: float | None
    met: float
    difference: float
    band: float
    within: bool


class Contradiction(Model):
    between: list[str]
    text: str


class TunedReply(Model):
    verdict: str
    met: bool
    report: list[ReportRow]
    contradictions: list[Contradiction]
    notes: list[str]
    plate: Annotated[dict[str, Any], filed(PLATE, whole=False)]
    machine: dict[str, str]
    size: str


class OwnRow(Model):
    id: str
    name: str
    created_at: str
    tuned: TunedReply


class OwnList(Model):
    machines: list[OwnRow]
