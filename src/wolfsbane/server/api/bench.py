"""The bench, its tests and its catalog. For instructors: it shows the answer."""

import random
from typing import Any

from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.cycle.conditions import Conditions, for_machine
from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.faults.kind import Fault
from wolfsbane.cycle.field_tests import ask, field_test_on
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.instruments import KITS
from wolfsbane.cycle.machine import Machine
from wolfsbane.diagnosis.diagnose import NOT_ENOUGH, NOT_SETTLED, diagnose
from wolfsbane.diagnosis.observed import observed
from wolfsbane.exercise.paper.wording import fitted
from wolfsbane.exercise.plan.story import draft
from wolfsbane.exercise.show import bench
from wolfsbane.exercise.show.catalog import (
    check_catalog,
    fault_catalog,
    machine_catalog,
    practice_catalog,
    rubric_catalog,
    situation_catalog,
)
from wolfsbane.exercise.show.pictures import trend
from wolfsbane.server.api.bench_models import (
    BenchBody,
    BenchReply,
    DiagnosisReply,
    ProofReply,
    ProveBody,
    ReadingsBody,
    TestBody,
    TestReply,
)
from wolfsbane.server.api.catalog_models import CatalogueReply
from wolfsbane.server.api.picture_models import StoryBody, StoryReply, TrendBody, TrendReply
from wolfsbane.server.core.current import for_account
from wolfsbane.server.core.security import INSTRUCTOR, roles
from wolfsbane.server.services.own_machines import machine_called, own_machines
from wolfsbane.server.services.own_practices import own_practices, practice_called
from wolfsbane.server.services.typed import typed_readings

api = APIBlueprint("bench", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="bench")])


@api.get("/catalogue", responses={200: CatalogueReply})
@roles(INSTRUCTOR)
def catalog() -> dict[str, list[Any]]:
    """Machines, faults, practices and instruments."""
    own = own_machines()
    return {
        "machines": machine_catalog(own),
        "faults": fault_catalog(own),
        "practices": practice_catalog(own_practices()),
        "rubrics": rubric_catalog(),
        "situations": situation_catalog(),
        "checks": check_catalog(),
        "instruments": list(KITS),
    }


def situation(body: Any) -> tuple[Machine, Conditions, tuple[Fault, ...]]:
    """(machine, conditions, faults) a bench body names. Raises BadInputError."""
    m = machine_called(body.machine)
    weather = for_machine(
        m,
        outdoor_db_f=body.outdoor_db_f,
        return_db_f=body.return_db_f,
        return_wb_f=body.return_wb_f,
        box_f=body.box_f,
        water_in_f=body.water_in_f,
        altitude_ft=body.altitude_ft,
    )
    return m, weather, bench.faults_of([row.model_dump() for row in body.faults], m)


@api.post("/bench", responses={200: BenchReply})
@roles(INSTRUCTOR)
def bench_solve(body: BenchBody) -> dict[str, Any]:
    """Solve one machine with any faults beside itself with nothing wrong."""
    if body.instruments not in KITS:
        raise BadInputError("instruments", body.instruments, ", ".join(KITS))
    m, weather, faults = situation(body)
    return bench.bench(m, weather, faults, practice_called(body.practice), body.instruments, body.units)


@api.post("/bench/test", responses={200: TestReply})
@roles(INSTRUCTOR)
def bench_test(body: TestBody) -> dict[str, Any]:
    """Ask for one test on the machine as it is planted."""
    m, weather, faults = situation(body)
    answer = ask(m, weather, tuple(f for f in faults if f.id not in INSTRUMENT_FAULTS), body.test, body.units)
    test = field_test_on(answer.test, m)
    word = answer.word if isinstance(answer.word, str) else "yes" if answer.word else "no"
    return {
        "test": answer.test,
        "name": test.name,
        "answer": word.replace("_", " "),
        "text": answer.text,
        "minutes": test.minutes,
        "caution": test.caution,
    }


@api.post("/prove", responses={200: ProofReply})
@roles(INSTRUCTOR)
def prove_scenario(body: ProveBody) -> dict[str, Any]:
    """Has this machine one defensible answer with what is given, what else looks the same, and how hard is it?"""
    if body.instruments not in KITS:
        raise BadInputError("instruments", body.instruments, ", ".join(KITS))
    m, weather, faults = situation(body)
    given = tuple(body.given_tests), body.given_readings
    try:
        return for_account(
            bench.proved_and_judged,
            m,
            weather,
            faults,
            *given,
            practice_called(body.practice),
            body.instruments,
            body.units,
        )
    except NoConvergenceError as error:
        raise BadInputError(
            "outdoor_db_f", body.outdoor_db_f, f"weather in which the machine with nothing wrong runs ({error})"
        ) from None


@api.post("/bench/trend", responses={200: TrendReply})
@roles(INSTRUCTOR)
def bench_trend(body: TrendBody) -> dict[str, Any]:
    """Every figure against the severity of one planted fault, or against one handle of the weather."""
    m, weather, faults = situation(body)
    return trend(m, weather, faults, practice_called(body.practice), body.units, body.over)


@api.post("/bench/story", responses={200: StoryReply})
@roles(INSTRUCTOR)
def bench_story(body: StoryBody) -> dict[str, Any]:
    """A draft of complaint, history and look-round for the machine as planted; another one for another ``turn``."""
    m, weather, faults = situation(body)
    noticed = bench.noticed(m, weather, faults)
    rng = random.Random(f"{m.id}/{body.turn}")
    complaint, history, look_round = draft(faults, tuple(body.given_tests), rng, m, noticed)
    return {"complaint": complaint, "history": history, "look_round": [fitted(line, m.metering) for line in look_round]}


_ANSWERS = {NOT_SETTLED: "Not stabilized: wait", NOT_ENOUGH: "Not enough readings"}


@api.post("/diagnose", responses={200: DiagnosisReply})
@roles(INSTRUCTOR)
def diagnose_readings(body: ReadingsBody) -> dict[str, Any]:
    """Ranked explanations of a set of readings, complete or not, of any machine."""
    found = diagnose(
        observed(typed_readings(body.model_dump(exclude={"practice"}))), practice_called(body.practice)
    ).to_json()
    found["ranked"] = [
        {**row, "name": _ANSWERS.get(row["fault"]) or bench.names(row["fault"])} for row in found["ranked"][:12]
    ]
    return found
