"""Twelve ways through calls, played on the machine, and what each earns: for docs, for instructors, and for tests."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass

from wolfsbane.cycle.faults import NONE
from wolfsbane.cycle.profiles import machine
from wolfsbane.exercise.draw.variant import vary
from wolfsbane.exercise.plan.scenario import scenario
from wolfsbane.exercise.screen.expert import essential, looked, proved, taken, worked
from wolfsbane.exercise.screen.issue import PRACTICE, Issue
from wolfsbane.exercise.screen.live import begun, step
from wolfsbane.exercise.screen.marks import RUBRIC_VERSION, Marked, marked
from wolfsbane.exercise.screen.robots import ROBOTS, Path

_SPLIT, _ORIFICE, _BOX = "split-3t-r410a-txv", "split-3t-r22-orifice", "walkin-cooler-r448a-txv"
_TICKET = "Found it, put it right, read it again."


@dataclass(frozen=True, kw_only=True)
class Worked:
    """A way: what it shows, the machine and fault (id, severity, cause) it is walked on, and how."""

    story: str
    machine: str
    fault: tuple[str, float, str | None]
    walk: Callable[[Issue], Path]


def _named(path: Path, **changes: str) -> Path:
    path.type_readings()
    path.type_answers(**changes)
    path.write("name")
    return path


def _closed(path: Path) -> Path:
    path.type_proof()
    path.write("ticket", text=_TICKET)
    return path


def _to_the_end(path: Path, **changes: str) -> Path:
    _named(path, **changes)
    worked(path.live, path.issue.practice)
    return _closed(path)


def _expert(issue: Issue) -> Path:
    return ROBOTS["expert"](issue, random.Random(0))


def _everything(issue: Issue) -> Path:
    return ROBOTS["reads everything first"](issue, random.Random(0))


def _wrong(issue: Issue) -> Path:
    return ROBOTS["always wrong"](issue, random.Random(0))


def _begun(issue: Issue) -> Path:
    return Path(issue=issue, live=looked(issue.setup, issue.practice, issue.accepted))


def _misread(issue: Issue) -> Path:
    path = _begun(issue)
    path.type_readings()
    rows = [s for s in path.live.shown if s.kind == "read" and s.data["point"] == "suction_pressure" and s.reading]
    assert rows[-1].reading is not None, "just read"
    path.write("answer", question="read_suction_pressure", text=f"{rows[-1].reading['value'] + 8:g}")
    path.type_answers()
    path.write("name")
    worked(path.live, issue.practice)
    return _closed(path)


def _not_zeroed(issue: Issue) -> Path:
    live = begun(issue.setup)
    step(live, "gauges", {"low": "suction", "high": "liquid"})
    for point in essential(issue.setup):
        taken(live, point)
    return _to_the_end(Path(issue=issue, live=live))


def _in_the_sun(issue: Issue) -> Path:
    live = begun(issue.setup)
    for point in essential(issue.setup):
        if point == "liquid_line":
            step(live, "clamp", {"pipe": point, "spot": "sun"})
            step(live, "read", {"point": point})
        else:
            taken(live, point)
    return _to_the_end(Path(issue=issue, live=live))


def _by_a_look(issue: Issue) -> Path:
    live = begun(issue.setup)
    step(live, "look", {"check": "condenser_coil"})
    path = Path(issue=issue, live=live)
    path.write("answer", question="fault", text=issue.call.choices.letter("fault", issue.call.key.fault))
    path.write("name")
    worked(live, issue.practice)
    return _closed(path)


def _too_much(issue: Issue) -> Path:
    path = _named(_begun(issue))
    worked(path.live, issue.practice)
    step(path.live, "gauges", {"low": "suction", "high": "liquid"})
    step(path.live, "act", {"action": "add_liquid", "arguments": {"oz": 24}})
    proved(path.live)
    return _closed(path)


def _with_hints(issue: Issue) -> Path:
    path = _begun(issue)
    for _ in range(3):
        path.write("hint")
    return _to_the_end(path)


#: name -> the way
WORKED: dict[str, Worked] = {
    "Low charge, the expert's way": Worked(
        story="Reads what counts, looks until one answer stands, works on it, proves it.",
        machine=_SPLIT,
        fault=("undercharge", 78, "leak"),
        walk=_expert,
    ),
    "Dirty condenser, the expert's way": Worked(
        story="The head says it, a look confirms it, a wash sets it right.",
        machine=_SPLIT,
        fault=("dirty_condenser", 50, None),
        walk=_expert,
    ),
    "Nothing wrong, the expert's way": Worked(
        story="Everything is where it should be: nothing is replaced, and the ticket says so.",
        machine=_SPLIT,
        fault=("none", 0, None),
        walk=_expert,
    ),
    "Low airflow on a fixed orifice, the expert's way": Worked(
        story="Low superheat and a cold coil: the air side is looked at before the charge is touched.",
        machine=_ORIFICE,
        fault=("low_airflow", 58, "dirty_filter"),
        walk=_expert,
    ),
    "Walk-in cooler short of charge, the expert's way": Worked(
        story="A receiver hides the charge: sight glass and subcooling decide.",
        machine=_BOX,
        fault=("undercharge", 44, "leak"),
        walk=_expert,
    ),
    "Everything is read and tested first": Worked(
        story="Right in the end, after a day on site: minutes cost.",
        machine=_SPLIT,
        fault=("undercharge", 78, "leak"),
        walk=_everything,
    ),
    "One dial misread": Worked(
        story="The low gauge is read 8 psi high; figures follow from it and stay right.",
        machine=_SPLIT,
        fault=("dirty_condenser", 50, None),
        walk=_misread,
    ),
    "Gauges not zeroed": Worked(
        story="Hoses go on without a look at the needles in open air.",
        machine=_SPLIT,
        fault=("undercharge", 78, "leak"),
        walk=_not_zeroed,
    ),
    "Clamp in the sun": Worked(
        story="The liquid line is read where the sun is on it: subcooling comes out too small.",
        machine=_SPLIT,
        fault=("dirty_condenser", 50, None),
        walk=_in_the_sun,
    ),
    "Named by a look alone": Worked(
        story="The coil is dirty, so it is named; nothing was read. A quarter for the name, nothing for the work.",
        machine=_SPLIT,
        fault=("dirty_condenser", 50, None),
        walk=_by_a_look,
    ),
    "Put right, then overfilled": Worked(
        story="24 oz more for good measure: the machine is not as it should be.",
        machine=_SPLIT,
        fault=("undercharge", 78, "leak"),
        walk=_too_much,
    ),
    "Three hints": Worked(
        story="The same way with three hints: 13 points.",
        machine=_SPLIT,
        fault=("undercharge", 78, "leak"),
        walk=_with_hints,
    ),
}


def issued(way: Worked, seed: int = 3) -> Issue:
    """A fair call of a way's machine and fault. Raises NoVariantError."""
    fault, severity, cause = way.fault
    rows = [] if fault == NONE else [{"id": fault, "severity": severity, **({"cause": cause} if cause else {})}]
    air = {"box_f": 38} if machine(way.machine).refrigeration else {"return_db_f": 78, "return_wb_f": 65.5}
    body = {"schema": 3, "title": "Worked", "machine": way.machine, "faults": rows, "outdoor_db_f": 93}
    made = scenario(body | air)
    return Issue(call=vary(made, "us", seed), machine=made.profile, mode=PRACTICE, minutes=None, rubric=RUBRIC_VERSION)


def walked(issue: Issue, way: Worked) -> tuple[Marked, Path, float]:
    """A way walked on an issue of its machine and fault: (marks, the path, an expert's minutes to the answer)."""
    path = way.walk(issue)
    run = path.ended()
    expert = looked(issue.setup, issue.practice, issue.accepted)
    return marked(issue, run, path.live, expert.minutes), path, expert.minutes
