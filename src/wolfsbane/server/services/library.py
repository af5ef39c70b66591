"""The library: scenarios, their versions and what their proof said. Between the API and the core."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from flask import g

from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.everyday import names_of_fault
from wolfsbane.cycle.everyday_machines import names_of_machine
from wolfsbane.cycle.faults import FAULTS, NONE
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import SOLVER_VERSION, solve
from wolfsbane.diagnosis.solved_cases import solved_cases
from wolfsbane.exercise.paper.pipes import pipes_given
from wolfsbane.exercise.plan.call_kind import kind_of
from wolfsbane.exercise.plan.history import changes
from wolfsbane.exercise.plan.scenario import SCHEMA, require_paper, scenario
from wolfsbane.exercise.plan.severity import severity_text
from wolfsbane.exercise.show.bench import names, proved, trip_sentence
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.services.own_practices import keep_practice
from wolfsbane.tuning import tune
from wolfsbane.tuning.plate import known_plate

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault, FaultKind
    from wolfsbane.cycle.instrument_faults import InstrumentFault
    from wolfsbane.exercise.plan.scenario import Scenario
    from wolfsbane.server.core.db.database import Connection

_KEPT = ("id", "version", "shared", "owner", "sheets", "level", "one_answer")


def _kind(fault: Fault) -> FaultKind | InstrumentFault:
    return FAULTS.get(fault.id) or INSTRUMENT_FAULTS[fault.id]


def row_of(row: dict[str, Any], user: dict[str, Any], system: str = "us") -> dict[str, Any]:
    """A scenario as the library lists it."""
    made = scenario(row["body"])
    return {
        **{key: row[key] for key in _KEPT},
        "title": made.title,
        "machine_name": made.profile.name,
        "fault_name": " and ".join(_kind(f).name for f in made.faults) or names("none"),
        "also": _also(made),
        "severity_text": "; ".join(
            f"{severity_text(f, system)}, {_kind(f).parameter}".replace(" ", "\u00a0", 1) for f in made.faults
        ),
        "created_at": row["created_at"].isoformat(),
        "proof": row["sentence"] or "",
        "tags": list(made.tags),
        "mine": row["created_by"] == user["id"],
        "archived": row["archived_at"] is not None,
        "on_paper": _fits_paper(made),
        "body": made.to_json(),
    }


def _also(made: Scenario) -> str:
    """Words of the everyday names of its machine and faults, each once."""
    called = [*names_of_machine(made.profile), *(n for f in made.faults for n in names_of_fault(f.id))]
    if not made.faults:
        called += names_of_fault(NONE)
    return " ".join(sorted({word for name in called for word in name.split()}))


def _fits_paper(made: Scenario) -> bool:
    try:
        require_paper(made)
    except BadInputError:
        return False
    return True


def proof_of(made: Scenario) -> tuple[int | None, bool | None, str]:
    """(level, one answer or None, sentence) of a scenario in its nominal weather."""
    machine, conditions = made.profile, made.conditions()
    try:
        state = solve(machine, conditions, tuple(f for f in made.faults if f.id not in INSTRUMENT_FAULTS))
        if state.trip is not None:
            return None, None, f"The machine {trip_sentence(state.trip)}."
        kind = kind_of(machine)
        given = made.given_readings if made.given_readings or not kind.pipes else pipes_given(machine)
        tests = tuple(dict.fromkeys((*kind.looks, *made.given_tests)))
        found = proved(solved_cases(machine, conditions, made.instruments), made.faults, tests, given)
    except NoConvergenceError as error:
        return None, None, f"No proof: {error}"
    if found["refusal"]:
        return None, None, f"No proof: {found['refusal']}."
    level = found["difficulty"] and found["difficulty"]["level"]
    equal = ", ".join(row["name"] for row in found["equals"][:3])
    return level, found["unique"], _one_answer(found) if found["unique"] else f"Looks the same: {equal}."


def _one_answer(found: dict[str, Any]) -> str:
    """What is claimed of a scenario with one answer, by its weakest claim."""
    weakest = found["weakest"]
    sentence = "One answer among all single faults and pairs"
    if weakest is None or weakest["nearest"] is None:
        return f"{sentence}."
    if weakest["holds"]:
        return f"{sentence}, in weather read a little off too: {weakest['nearest']} is {weakest['margin']:.1f} away."
    return f"{sentence}; with the air read a little off it may be {weakest['nearest']}."


def add_version(
    connection: Connection, user: dict[str, Any], scenario_id: int, made: Scenario, *, proved_now: bool = True
) -> None:
    """Write the next version of a scenario, with what its proof says unless that is left for later
    (:func:`prove_newest`).
    """
    row = queries.scenario_version_add(
        connection,
        school_id=user["school_id"],
        scenario_id=scenario_id,
        schema_version=SCHEMA,
        body=jsonb(made.to_json()),
        sha256=made.content_hash(),
        user_id=user["id"],
    )
    if proved_now:
        _keep_proof(connection, user, row["id"], made)


def _keep_proof(connection: Connection, user: dict[str, Any], version_id: int, made: Scenario) -> None:
    level, one_answer, sentence = proof_of(made)
    queries.scenario_proof_put(
        connection,
        version_id=version_id,
        school_id=user["school_id"],
        solver_version=SOLVER_VERSION,
        level=level,
        one_answer=one_answer,
        sentence=sentence,
    )


def prove_newest(connection: Connection, user: dict[str, Any], scenario_id: int) -> None:
    """Prove the newest version of a scenario one may see and keep what the proof says. Raises ApiError 404."""
    row = queries.scenario_get(connection, school_id=user["school_id"], user_id=user["id"], id=scenario_id)
    if row is None:
        raise not_found(f"scenario {scenario_id}")
    _keep_proof(connection, user, row["version_id"], scenario(row["body"]))


def add_scenario(
    connection: Connection, user: dict[str, Any], made: Scenario, *, shared: bool = False, proved_now: bool = True
) -> int:
    """A new scenario with its first version; returns its id."""
    scenario_id = queries.scenario_add(connection, school_id=user["school_id"], user_id=user["id"], shared=shared)["id"]
    add_version(connection, user, scenario_id, made, proved_now=proved_now)
    return scenario_id


def found(connection: Connection, scenario_id: int, user: dict[str, Any] | None = None) -> dict[str, Any]:
    """One scenario as the library lists it. Raises ApiError 404."""
    user = user or g.user
    row = queries.scenario_get(connection, school_id=user["school_id"], user_id=user["id"], id=scenario_id)
    if row is None:
        raise not_found(f"scenario {scenario_id}")
    return row_of(row, user)


def listed(
    connection: Connection, user: dict[str, Any], *, archived: bool = False, system: str = "us"
) -> list[dict[str, Any]]:
    """Every scenario a user may see, either the archived ones or the others."""
    rows = queries.scenario_list(connection, school_id=user["school_id"], user_id=user["id"])
    return [row_of(r, user, system) for r in rows if (r["archived_at"] is not None) == archived]


def held(connection: Connection, user: dict[str, Any], scenario_id: int) -> dict[str, Any]:
    """Hold a scenario one may change. Raises ApiError 404 where it is not there and 403 where it is somebody else's."""
    row = queries.scenario_lock(connection, school_id=user["school_id"], user_id=user["id"], id=scenario_id)
    if row is None:
        raise not_found(f"scenario {scenario_id}")
    if row["created_by"] != user["id"]:
        raise ApiError(409, "not_yours", "this scenario is a colleague's: duplicate it and change your copy")
    return row


def versions(
    connection: Connection, user: dict[str, Any], scenario_id: int, system: str = "us"
) -> list[dict[str, Any]]:
    """Every version of a scenario with what changed, newest first."""
    found(connection, scenario_id, user)
    rows, before = [], None
    for row in queries.scenario_versions_of(connection, school_id=user["school_id"], id=scenario_id):
        made = scenario(row["body"])
        said = changes(before, made, system) or ("Saved again without a change",)
        rows.append(
            {
                "version": row["version"],
                "created_at": row["created_at"].isoformat(),
                "writer": row["writer"],
                "sheets": row["sheets"],
                "changes": list(said),
                "body": made.to_json(),
            }
        )
        before = made
    return rows[::-1]


def keep_what_it_carries(connection: Connection, user: dict[str, Any], made: Scenario) -> None:
    """Keep the machine and the practice of one's own that an imported scenario carries,
    where they are not kept yet.
    """
    ours = {"school_id": user["school_id"]}
    if (
        made.own is not None
        and made.machine not in MACHINES
        and queries.own_machine_get(connection, **ours, machine_id=made.machine) is None
    ):
        tuned = tune(known_plate(made.own["plate"])).to_json()
        queries.own_machine_add(
            connection,
            **ours,
            machine_id=made.machine,
            name=made.profile.name,
            tuned=jsonb({**tuned, "circuit": made.own["circuit"]}),
            user_id=user["id"],
        )
    if made.own_practice is not None and queries.practice_get(connection, **ours, practice_id=made.practice_id) is None:
        keep_practice(connection, user, made.practice)
