"""Calls and answers as JSON files, for the command line."""

from __future__ import annotations

import json
from dataclasses import asdict
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.exercise.draw.variant import NoVariantError, vary
from wolfsbane.exercise.marking.grade import grade, total
from wolfsbane.exercise.paper.call import call_from_json
from wolfsbane.exercise.plan.scenario import scenario

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.diagnosis.proof import Proof


def _load(path: str, field: Any) -> Any:
    try:
        with open(path, encoding="utf-8") as file:
            return json.load(file)
    except (OSError, ValueError) as error:
        raise BadInputError(field, path, f"a readable JSON file ({error})") from None


def make_call(path: str, seed: int) -> Any:
    """One call with its key, as plain data, from a scenario file."""
    data = _load(path, "scenario")
    system = data.pop("units", "us") if isinstance(data, dict) else "us"
    if system not in ("us", "si"):
        raise BadInputError("units", system, "us or si")
    try:
        return vary(scenario(data), system, seed).to_json()
    except NoVariantError as error:
        raise BadInputError("scenario", path, str(error)) from None


def prove_file(path: str) -> Any:
    """The proof of a scenario file and its difficulty, as plain data."""
    from wolfsbane.cycle.errors import NoConvergenceError
    from wolfsbane.diagnosis.difficulty import difficulty
    from wolfsbane.diagnosis.proof import prove
    from wolfsbane.diagnosis.solved_cases import solved_cases

    planned = scenario(_load(path, "scenario"))
    cases = solved_cases(planned.profile, planned.conditions(), planned.instruments)

    def proved(faults: tuple[Fault, ...]) -> Proof:
        return prove(cases, faults, readings=planned.given_readings, tests=planned.given_tests)

    try:
        proof = proved(planned.faults)
        hard = None if proof.refusal else difficulty(cases, planned.faults, proof, practice=planned.practice)
    except NoConvergenceError as error:
        raise BadInputError("scenario", path, str(error)) from None
    return {"title": planned.title, **proof.to_json(), "difficulty": None if hard is None else hard.to_json()}


def generate_file(path: str, workers: Any = None) -> Any:
    """The class set of a brief file, as plain data; ``workers`` processes share the sheets (None:
    one for each core).
    """
    return _generated(_load(path, "brief"), path, workers)


def gaming_file(path: str, workers: Any = None) -> Any:
    """What guessing strategies would earn on the calls of a file, as plain data: a request, a generated class set, one
    call or a list of calls.
    """
    from wolfsbane.exercise.marking.gaming import gaming, guessing

    data = _load(path, "file")
    calls = [call_from_json(row) for row in _calls_in(data)]
    if not calls:
        made = _generated(data, path, workers)
        calls = [call_from_json(row["call"]) for sheet in made["sheets"] for row in sheet["calls"]]
    if not calls:
        raise BadInputError("file", path, "a request with at least one call, or a file with calls")
    seed = str(data.get("seed", 1)) if isinstance(data, dict) else "1"
    played = gaming(calls, seed)
    return {
        "calls": len(calls),
        "guessing": round(guessing(played), 3),
        "over": [row.id for row in played if row.over],
        "strategies": [row.to_json() for row in played],
    }


def _calls_in(data: Any) -> list[Any]:
    """The calls of a file that holds some: a class set, one call, or a list of either."""
    if isinstance(data, list):
        return [call for row in data for call in _calls_in(row)]
    if not isinstance(data, dict):
        return []
    if "key" in data and "readings" in data:
        return [data]
    if isinstance(data.get("call"), dict):
        return [data["call"]]
    return [call for name in ("sheets", "calls") if isinstance(data.get(name), list) for call in _calls_in(data[name])]


def _generated(data: Any, path: str, workers: Any) -> Any:
    import os
    from concurrent.futures import ProcessPoolExecutor

    from wolfsbane.exercise.draw.generator import class_set
    from wolfsbane.exercise.draw.tries import NoClassSetError
    from wolfsbane.exercise.marking.gaming import pays
    from wolfsbane.exercise.plan.brief import brief

    asked = brief(data)
    workers = min(workers or os.cpu_count() or 1, asked.apprentices)
    try:
        if workers == 1:
            return class_set(asked, pays=pays)
        with ProcessPoolExecutor(workers) as pool:
            return class_set(asked, pool.map, pays)
    except NoClassSetError as error:
        raise BadInputError("brief", path, str(error)) from None


def diagnose_file(path: str, practice_id: str) -> Any:
    """The diagnosis of a readings file, as plain data."""
    from wolfsbane.diagnosis.diagnose import diagnose
    from wolfsbane.diagnosis.observed import observed

    return diagnose(observed(_load(path, "readings")), practice_by_id(practice_id)).to_json()


def _on_machine(planned: Any) -> Any:
    """(machine, conditions, faults of the machine) of a scenario."""
    from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS

    return planned.profile, planned.conditions(), tuple(f for f in planned.faults if f.id not in INSTRUMENT_FAULTS)


def act_file(scenario_path: str, actions_path: str, system: str) -> Any:
    """The trace of actions on a scenario's machine, as plain data."""
    from wolfsbane.acting.script import play, script
    from wolfsbane.cycle.errors import NoConvergenceError

    written = script(_load(actions_path, "actions"))
    machine, weather, faults = _on_machine(scenario(_load(scenario_path, "scenario")))
    try:
        return play(machine, weather, faults, written, system).to_json()
    except NoConvergenceError as error:
        raise BadInputError("scenario", scenario_path, str(error)) from None


def plan_file(scenario_path: str, system: str) -> Any:
    """The correction key of a scenario: right plan, proof and the consequences of wrong plans, as plain data."""
    from wolfsbane.exercise.paper.correction import correction
    from wolfsbane.exercise.paper.key import plain

    planned = scenario(_load(scenario_path, "scenario"))
    machine, weather, faults = _on_machine(planned)
    found = correction(machine, weather, faults, planned.practice, planned.instruments, system, as_given=True)
    if found.refusal:
        raise BadInputError("scenario", scenario_path, found.refusal)
    return plain(found)


def tune_file(path: str) -> Any:
    """What the tuner makes of a plate file, as plain data."""
    from wolfsbane.tuning import tune
    from wolfsbane.tuning.plate import known_plate

    return tune(known_plate(_load(path, "plate"))).to_json()


def mark(call_path: str, answers_path: str) -> Any:
    """Marks and total for one call file and one answers file (question id -> text)."""
    call = call_from_json(_load(call_path, "call"))
    answers = _load(answers_path, "answers")
    known = [question.id for question in call.questions]
    if not isinstance(answers, dict):
        raise BadInputError("answers", answers_path, "a JSON object of question id to text")
    for key in answers:
        if key not in known:
            raise BadInputError("answers", key, ", ".join(known))
    marks = grade(call, answers)
    earned, possible = total(marks)
    return {"earned": earned, "possible": possible, "marks": [{**asdict(m), "text": m.text} for m in marks]}
