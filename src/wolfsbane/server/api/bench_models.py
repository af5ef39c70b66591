"""What goes in and out of the bench and its catalog."""

from typing import Annotated, Any

from pydantic import Field, WithJsonSchema

from wolfsbane.diagnosis.observed import OBSERVED
from wolfsbane.server.api.models import Model, Names, Number, PlantedFault, Text, Units, described


class Quantity(Model):
    value: float
    unit: str
    text: str


class BenchBody(Model):
    machine: Annotated[Text, Field(max_length=60)]
    faults: Annotated[list[PlantedFault], Field(max_length=12)] = []
    outdoor_db_f: Number = 95
    return_db_f: Number | None = None
    return_wb_f: Number | None = None
    box_f: Number | None = None
    water_in_f: Number | None = None
    altitude_ft: Number = 0
    practice: Annotated[Text, Field(max_length=60)] = "plate_and_formula"
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
    fault_free: Quantity
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
    fault_free: Quantity


class Fill(Model):
    condenser_gas: float
    condenser_two_phase: float
    condenser_liquid: float
    evaporator_boiling: float
    flash: float
    glass: bool
    flood_back: bool
    slugging: bool
    frosting: bool
    receiver: float | None
    evaporator_air: float
    condenser_air: float
    blocked: float
    opening: float
    swings: bool
    stands: bool
    second: str | None


class Corner(Model):
    id: str
    label: str
    reading: str | None
    pressure: float
    enthalpy: float


class Loop(Model):
    pressure_unit: str
    enthalpy_unit: str
    refrigerant: str
    now: list[Corner]
    fault_free: list[Corner]


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
    #: share of simulated apprentices who name all that is wrong
    success: float
    reasons: list[HardReason]


class ClaimRow(Model):
    id: str
    text: str
    holds: bool
    #: distance of the nearest rival in reading tolerances; 3 and more is 3
    margin: float
    nearest: str | None


class ProofReply(Model):
    answer: str
    unique: bool
    refusal: str | None
    equals: list[LookAlikeRow]
    nearest: list[LookAlikeRow]
    splits: list[SplitRow]
    left: list[str]
    claims: list[ClaimRow]
    weakest: ClaimRow | None
    difficulty: Hardness | None
    judged: Judged


_READINGS = described(OBSERVED)


class ReadingsBody(Model):
    machine: Annotated[dict[str, Any], WithJsonSchema(_READINGS["machine"])]
    conditions: Annotated[dict[str, Any], WithJsonSchema(_READINGS["conditions"])] = {}
    readings: Annotated[dict[str, Any], WithJsonSchema(_READINGS["readings"])] = {}
    looked_at: Annotated[dict[str, Any], WithJsonSchema(_READINGS["looked_at"])] = {}
    tests: Annotated[list[Any], WithJsonSchema(_READINGS["tests"])] = []
    running: bool = True
    settled: bool = True
    practice: Annotated[Text, Field(max_length=60)] = "plate_and_formula"


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


class Computed(Model):
    """What was worked out of readings, degrees F; a figure that nothing told is left out."""

    superheat_df: float | None = None
    subcooling_df: float | None = None
    evaporator_superheat_df: float | None = None
    evaporator_td_df: float | None = None
    ctoa_df: float | None = None
    drier_drop_df: float | None = None
    air_delta_t_df: float | None = None
    suction_saturation_f: float | None = None
    liquid_saturation_f: float | None = None
    targets: dict[str, list[float]] = {}
    verdicts: dict[str, str] = {}
    compared_with: str | None = None
    contradictions: list[str] = []
    guessed_f: dict[str, float] | None = None
    outdoor_solved_at_f: float | None = None


class DiagnosisReply(Model):
    ranked: list[RankedRow]
    left_open: list[str]
    next_test: str | None
    next_steps: list[NextStep]
    computed: Computed


class TripReply(Model):
    cutout: str
    after_s: int
    sentence: str


class DialMark(Model):
    x: float
    y: float
    text: str


class Dial(Model):
    side: str
    unit: str
    value: float
    needle_deg: float
    minor_path: str
    major_path: str
    labels: list[DialMark]
    ring_path: str
    ring_labels: list[DialMark]
    ring_unit: str
    ring_radius: float
    refrigerant: str
    text: str


class DialDrawing(Dial):
    fault_free_value: float
    saturation: str


class BenchReply(Model):
    trip: TripReply | None
    readings: list[ReadingRow]
    figures: list[Figure]
    dials: list[DialDrawing]
    fill: Fill | None
    fault_free_fill: Fill | None
    capacity: Quantity | None
    signs: list[str]
    loop: Loop | None
