"""What goes in and out of the bench and its catalogue."""

from typing import Annotated, Any

from pydantic import Field

from wolfsbane.server.api.models import Model, Names, Number, PlantedFault, Text, Units


class Quantity(Model):
    value: float
    unit: str
    text: str


class MachineRow(Model):
    id: str
    name: str
    refrigerant: str
    safety_class: str
    metering: str
    application: str
    condenser: str
    receiver: bool
    circuits: int
    on_paper: bool
    notes: str
    weather: list["WeatherRow"]
    tests: list["TestChoice"]
    plate: "Plates"


class PlateLine(Model):
    label: str
    text: str


class Plates(Model):
    us: list[PlateLine]
    si: list[PlateLine]


class TestChoice(Model):
    id: str
    name: str


class CauseRow(Model):
    id: str
    look: str


class WeatherRow(Model):
    field: str
    label: str
    low: float
    high: float
    rated: float


class FaultRow(Model):
    id: str
    name: str
    parameter: str | None
    unit: str | None
    sound: float | None
    limit: float | None
    mild: float | None
    moderate: float | None
    severe: float | None
    acts_on: str
    on_paper: bool
    machines: list[str]
    causes: list["CauseRow"]
    effect: str
    remedy: str
    hazard: str
    rig: list[str]
    tests: list[str]


class SchoolRow(Model):
    id: str
    name: str
    reasons: dict[str, str]


class CatalogueReply(Model):
    machines: list[MachineRow]
    faults: list[FaultRow]
    schools: list[SchoolRow]
    instruments: list[str]


class BenchBody(Model):
    machine: Annotated[Text, Field(max_length=60)]
    faults: Annotated[list[PlantedFault], Field(max_length=12)] = []
    outdoor_db_f: Number = 95
    return_db_f: Number | None = None
    return_wb_f: Number | None = None
    box_f: Number | None = None
    water_in_f: Number | None = None
    altitude_ft: Number = 0
    school: Annotated[Text, Field(max_length=60)] = "plate_and_formula"
    instruments: Annotated[Text, Field(max_length=20)] = "analogue"
    units: Units = "us"


class TestBody(BenchBody):
    test: Annotated[Text, Field(max_length=60)]


class TestReply(Model):
    test: str
    name: str
    answer: str
    text: str
    minutes: int
    caution: str


class Figure(Model):
    id: str
    label: str
    now: Quantity
    sound: Quantity
    band_low: float
    band_high: float
    band_text: str
    scale_low: float
    scale_high: float
    verdict: str


class ReadingRow(Model):
    id: str
    label: str
    now: Quantity
    sound: Quantity


class Fill(Model):
    condenser_gas: float
    condenser_two_phase: float
    condenser_liquid: float
    evaporator_boiling: float
    flash: float
    flood_back: bool
    frosting: bool
    receiver: float | None


class LookAlikeRow(Model):
    fault: str
    name: str
    distance: float
    ruled_out: bool
    severities: str


class Judged(Model):
    fair: bool
    sentence: str


class ProveBody(BenchBody):
    given_readings: Names | None = None
    given_tests: Names = []


class SplitRow(Model):
    kind: str
    id: str
    text: str
    minutes: float
    removes: list[str]


class HardReason(Model):
    points: float
    text: str


class Hardness(Model):
    level: int
    points: float
    reasons: list[HardReason]


class ProofReply(Model):
    answer: str
    unique: bool
    refusal: str | None
    equals: list[LookAlikeRow]
    nearest: list[LookAlikeRow]
    splits: list[SplitRow]
    left: list[str]
    difficulty: Hardness | None


class ReadingsBody(Model):
    machine: dict[str, Any]
    conditions: dict[str, Any] = {}
    readings: dict[str, Any] = {}
    looked_at: dict[str, Any] = {}
    tests: list[dict[str, Any]] = []
    running: bool = True
    settled: bool = True
    school: Annotated[Text, Field(max_length=60)] = "plate_and_formula"


class RankedRow(Model):
    fault: str
    name: str
    weight: float
    reasons: list[str]
    against: list[str]
    severities: dict[str, float]


class NextStep(Model):
    id: str
    kind: str
    text: str
    bits: float
    minutes: float
    caution: str


class DiagnosisReply(Model):
    ranked: list[RankedRow]
    left_open: list[str]
    next_test: str | None
    next_steps: list[NextStep]
    computed: dict[str, Any]


class TripReply(Model):
    cutout: str
    after_s: int
    sentence: str


class BenchReply(Model):
    trip: TripReply | None
    readings: list[ReadingRow]
    figures: list[Figure]
    dials: list[dict[str, Any]]
    fill: Fill | None
    sound_fill: Fill | None
    capacity: Quantity | None
    signs: list[str]
    judged: Judged | None
