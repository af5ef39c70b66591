"""Reference pages: pressure and temperature, target superheat, the dome, and the fault encyclopedia."""

from functools import lru_cache
from typing import Any

from flask import Response, g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.cycle.properties import Refrigerant, refrigerant
from wolfsbane.cycle.units import SYSTEMS
from wolfsbane.exercise.marking.grade import RUBRIC_VERSION
from wolfsbane.exercise.marking.rubric import LINES
from wolfsbane.exercise.show.charts import convert, pt_rows, superheat_chart, superheat_target
from wolfsbane.exercise.show.encyclopedia import signature
from wolfsbane.exercise.show.pictures import dome
from wolfsbane.server.api.reference_models import (
    ChartQuery,
    ConvertQuery,
    ConvertReply,
    DomeReply,
    EntryPath,
    EntryQuery,
    EntryReply,
    GridQuery,
    GridReply,
    PtReply,
    RefrigerantList,
    RefrigerantPath,
    RubricReply,
    TargetQuery,
    TargetReply,
)
from wolfsbane.server.core.by_version import by_version
from wolfsbane.server.core.security import APPRENTICE, ASSISTANT, INSTRUCTOR, roles
from wolfsbane.server.language import said
from wolfsbane.server.printing.charts import pt_pdf, superheat_pdf
from wolfsbane.server.services.own_machines import machine_called
from wolfsbane.server.services.own_practices import practice_called
from wolfsbane.tables import NAMES

api = APIBlueprint("reference", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="reference")])


def _named(fluid: Refrigerant) -> dict[str, Any]:
    return {"id": fluid.name, "name": fluid.name, "safety_class": fluid.safety_class, "blend": fluid.charged_as_liquid}


@api.get("/reference/refrigerants", responses={200: RefrigerantList})
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
@by_version
def refrigerant_list() -> dict[str, list[dict[str, Any]]]:
    """Every refrigerant there is a table of."""
    return {"refrigerants": [_named(refrigerant(name)) for name in NAMES]}


@api.get("/reference/pt/<string:refrigerant>", responses={200: PtReply})
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
@by_version
def pt_chart(path: RefrigerantPath, query: ChartQuery) -> dict[str, Any]:
    """The pressure-temperature chart of one refrigerant, dew and bubble point."""
    fluid, unit = refrigerant(path.refrigerant), SYSTEMS[query.units]
    return {
        "refrigerant": fluid.name,
        "safety_class": fluid.safety_class,
        "blend": fluid.charged_as_liquid,
        "temperature_unit": unit["temperature"][0],
        "pressure_unit": unit["pressure"][0],
        "rows": pt_rows(fluid.name, query.units),
    }


@api.get("/reference/pt/<string:refrigerant>/convert", responses={200: ConvertReply})
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
def pt_convert(path: RefrigerantPath, query: ConvertQuery) -> dict[str, Any]:
    """One pressure to temperatures, or one temperature to pressures."""
    return convert(path.refrigerant, query.units, pressure=query.pressure, temperature=query.temperature)


def _pdf(name: str, content: bytes) -> Response:
    return Response(
        content, mimetype="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}.pdf"'}
    )


@lru_cache(maxsize=64)
def _pt_printed(name: str, units: str) -> bytes:
    """A chart is the same whoever asks: it is laid out once."""
    return pt_pdf([refrigerant(name)], units)


@lru_cache(maxsize=8)
def _superheat_printed(by: str, units: str) -> bytes:
    return superheat_pdf(by, units)


@api.get("/reference/pt/<string:refrigerant>/chart.pdf")
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
def pt_print(path: RefrigerantPath, query: ChartQuery) -> Response:
    """The same chart to print, one page."""
    fluid = refrigerant(path.refrigerant)
    return _pdf(f"pt-{fluid.name}", _pt_printed(fluid.name, query.units))


@api.get("/reference/superheat", responses={200: TargetReply})
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
def superheat_one(query: TargetQuery) -> dict[str, Any]:
    """Target total superheat of a fixed orifice, by formula and by chart."""
    return superheat_target(query.return_wb, query.outdoor_db, query.units)


@api.get("/reference/superheat/chart", responses={200: GridReply})
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
@by_version
def superheat_grid(query: GridQuery) -> dict[str, Any]:
    """The whole chart."""
    return superheat_chart(query.by, query.units)


@api.get("/reference/superheat/chart.pdf")
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
def superheat_print(query: GridQuery) -> Response:
    """The whole chart to print, one page."""
    return _pdf(f"superheat-{query.by}", _superheat_printed(query.by, query.units))


@api.get("/reference/dome/<string:refrigerant>", responses={200: DomeReply})
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
@by_version
def dome_read(path: RefrigerantPath, query: ChartQuery) -> dict[str, Any]:
    """The dome of a refrigerant for the pressure-enthalpy picture."""
    return dome(path.refrigerant, query.units)


@api.get("/reference/faults/<string:fault_id>", responses={200: EntryReply})
@roles(INSTRUCTOR)
@by_version
def fault_entry(path: EntryPath, query: EntryQuery) -> dict[str, Any]:
    """How one fault shows on one machine in its rated weather, with its look-alikes."""
    return signature(machine_called(query.machine), path.fault_id, practice_called(query.practice), query.units)


@api.get("/reference/rubric", responses={200: RubricReply})
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
def rubric() -> dict[str, Any]:
    """What earns what: for everybody to see."""
    lines = [{"what": what, "earns": earns} for what, earns in LINES]
    return {"version": RUBRIC_VERSION, "lines": said(lines, g.user["language"])}
