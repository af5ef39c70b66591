"""What goes in and out of the library of scenarios and of practices."""

from typing import Annotated, Any

from pydantic import Field

from wolfsbane.exercise.plan.scenario import SCENARIO
from wolfsbane.server.api.models import Id, Model, Names, Number, PlantedFault, Text, Units, filed

ScenarioFile = Annotated[dict[str, Any], filed(SCENARIO)]
Tags = Annotated[list[Annotated[Text, Field(max_length=30)]], Field(max_length=12)]


class ScenarioBody(Model):
    title: Annotated[Text, Field(min_length=1, max_length=120)]
    machine: Annotated[Text, Field(max_length=60)]
    faults: Annotated[list[PlantedFault], Field(max_length=3)] | None = None
    fault: Annotated[Text, Field(max_length=60)] | None = None
    severity: Number | None = None
    outdoor_db_f: Number
    return_db_f: Number | None = None
    return_wb_f: Number | None = None
    box_f: Number | None = None
    water_in_f: Number | None = None
    altitude_ft: Number = 0
    instruments: Annotated[Text, Field(max_length=20)] = "analogue"
    practice: Annotated[Text, Field(max_length=60)] = "plate_and_formula"
    spread_outdoor_df: Number = 6
    spread_return_df: Number = 3
    spread_depth_pct: Number = 15
    complaint: Annotated[Text, Field(max_length=600)] = ""
    history: Annotated[Text, Field(max_length=600)] = ""
    given_readings: Names | None = None
    given_tests: Names = []
    look_round: Annotated[list[Annotated[Text, Field(max_length=200)]], Field(max_length=12)] = []
    tags: Tags = []


class ScenarioRow(Model):
    id: int
    version: int
    title: str
    machine_name: str
    fault_name: str
    #: words of the everyday names of its machine and faults, to be found by
    also: str
    severity_text: str
    created_at: str
    level: int | None
    one_answer: bool | None
    proof: str
    tags: list[str]
    shared: bool
    mine: bool
    owner: str
    archived: bool
    on_paper: bool
    sheets: int
    body: ScenarioFile


class ScenarioList(Model):
    scenarios: list[ScenarioRow]


class LibraryQuery(Model):
    archived: bool = False
    units: Units = "us"


class ShareBody(Model):
    shared: bool


class VersionRow(Model):
    version: int
    created_at: str
    writer: str
    sheets: int
    changes: list[str]
    body: ScenarioFile


class VersionList(Model):
    versions: list[VersionRow]


class VersionPath(Model):
    scenario_id: Id
    version: Id


class FilesQuery(Model):
    ids: Annotated[str, Field(pattern=r"^\d{1,9}(,\d{1,9}){0,199}$")]


class ImportBody(Model):
    #: files of any version: each is read on its own, and refused on its own
    scenarios: Annotated[list[dict[str, Any]], Field(min_length=1, max_length=200)]


class Refused(Model):
    position: int
    title: str
    message: str
    field: str | None


class ImportReply(Model):
    added: list[ScenarioRow]
    refused: list[Refused]


class PracticeBody(Model):
    base: Annotated[Text, Field(max_length=60)]
    name: Annotated[Text, Field(min_length=1, max_length=80)]
    changes: dict[str, float | list[float] | str | bool] = {}
    reason: Annotated[Text, Field(max_length=300)] = ""
    units: Units = "us"


class PracticePath(Model):
    practice_id: Annotated[Text, Field(max_length=60)]
