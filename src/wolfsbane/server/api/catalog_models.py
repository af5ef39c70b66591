"""What the catalog tells: machines, faults, practices, and what belongs to each."""

from typing import Literal

from wolfsbane.server.api.models import Model


class MachineRow(Model):
    id: str
    name: str
    #: everyday names to find it by
    also: list[str]
    refrigerant: str
    safety_class: str
    metering: str
    application: str
    condenser: str
    receiver: bool
    circuits: int
    notes: str
    weather: list["WeatherRow"]
    tests: list["TestChoice"]
    points: list["PointRow"]
    presets: "Presets"
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


class PointRow(Model):
    id: str
    name: str
    usual: bool
    needed: bool


class WeatherPreset(Model):
    id: str
    name: str
    why: str
    values: dict[str, float]


class PresetFault(Model):
    id: str
    severity: float


class FaultPreset(Model):
    id: str
    name: str
    why: str
    faults: list[PresetFault]


class Presets(Model):
    weather: list[WeatherPreset]
    faults: list[FaultPreset]


class CauseRow(Model):
    id: str
    look: str


class WeatherRow(Model):
    field: str
    label: str
    low: float
    high: float
    rated: float


class LevelsRow(Model):
    mild: float
    moderate: float
    severe: float
    limit: float


class FaultRow(Model):
    id: str
    name: str
    name_in_heating: str
    #: everyday names to find it by
    also: list[str]
    parameter: str | None
    unit: str | None
    unit_si: str | None
    si_size: float
    fault_free: float | None
    limit: float | None
    mild: float | None
    moderate: float | None
    severe: float | None
    with_receiver: LevelsRow | None
    acts_on: str
    place: str
    on_paper: bool
    machines: list[str]
    causes: list["CauseRow"]
    effect: str
    remedy: str
    hazard: str
    rig: list[str]
    tests: list[str]


class PracticeChoice(Model):
    id: str
    label: str
    kind: str
    value: float | list[float] | str | bool
    unit: str
    low: float | None
    high: float | None
    words: list[str]
    reason: str


class PracticeRow(Model):
    id: str
    name: str
    own: bool
    reasons: dict[str, str]
    choices: list[PracticeChoice]


class PracticeList(Model):
    practices: list[PracticeRow]


class RubricRow(Model):
    """A named rubric: usual points by question, of a whole call and of one that asks for no repair."""

    id: str
    name: str
    points: dict[str, int]
    diagnosis_only: dict[str, int]


class SituationRow(Model):
    id: str
    name: str
    trains: str
    level: int
    minutes: int
    machines: list[str]


class CheckWord(Model):
    id: str
    text: str


class CheckRow(Model):
    """A look or a test, and the words it can be recorded in, the one of a machine with nothing wrong first."""

    id: str
    kind: Literal["look", "test"]
    name: str
    minutes: int
    caution: str
    words: list[CheckWord]


class CatalogueReply(Model):
    machines: list[MachineRow]
    faults: list[FaultRow]
    practices: list[PracticeRow]
    rubrics: list[RubricRow]
    situations: list[SituationRow]
    checks: list[CheckRow]
    instruments: list[str]
