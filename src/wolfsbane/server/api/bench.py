"""The bench and its catalogue. For instructors: it shows the answer."""

from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.cycle.conditions import conditions
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import FAULTS, NONE
from wolfsbane.cycle.instruments import KITS
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.diagnosis.targets import SCHOOLS, school
from wolfsbane.exercise import bench
from wolfsbane.exercise.call import plate_lines
from wolfsbane.exercise.questions import fault_name
from wolfsbane.server.api.models import BenchBody, BenchReply, CatalogueReply
from wolfsbane.server.security import INSTRUCTOR, roles

api = APIBlueprint("bench", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="bench")])
_PARTS = ("parameter", "unit", "sound", "limit", "mild", "moderate", "severe")


@api.get("/catalogue", responses={200: CatalogueReply})
@roles(INSTRUCTOR)
def catalogue():
    """Machines, faults, schools of practice and instruments."""
    sound = {"id": NONE, "name": fault_name(NONE), **dict.fromkeys(_PARTS), "metering": ["txv", "fixed_orifice"]}
    return {
        "machines": [{"id": m.id, "name": m.name, "refrigerant": m.refrigerant, "metering": m.metering,
                      "plate": plate_lines(m, "us")} for m in MACHINES.values()],
        "faults": [sound, *({"id": k.id, "name": k.name, **{part: getattr(k, part) for part in _PARTS},
                             "metering": list(k.metering)} for k in FAULTS.values())],
        "schools": [{"id": s.id, "name": s.name} for s in SCHOOLS.values()],
        "instruments": list(KITS),
    }


@api.post("/bench", responses={200: BenchReply})
@roles(INSTRUCTOR)
def bench_solve(body: BenchBody):
    """Solve one machine with one fault beside itself when sound."""
    if body.instruments not in KITS:
        raise BadInputError("instruments", body.instruments, ", ".join(KITS))
    weather = conditions(outdoor_db_f=body.outdoor_db_f, return_db_f=body.return_db_f, return_wb_f=body.return_wb_f,
                         altitude_ft=body.altitude_ft)
    return bench.bench(machine(body.machine), weather, bench.fault_of(body.fault, body.severity),
                       school("plate_and_formula"), body.instruments, body.units)
