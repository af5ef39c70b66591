"""The expert's way through a call: at each moment the step that is expected to tell most for its minutes and danger,
until one answer stands; then the right work, and the readings that prove it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.plan import in_order, plan
from wolfsbane.cycle.field_tests import field_test_on
from wolfsbane.cycle.instrument_faults import of_machine
from wolfsbane.cycle.instruments import label, points_for
from wolfsbane.exercise.paper.correction import half_band
from wolfsbane.exercise.screen.evidence import READINGS, seen, weighed, weight_of
from wolfsbane.exercise.screen.live import begun, step
from wolfsbane.exercise.screen.steps import LOOK_IDS, PIPES, TEST_IDS

if TYPE_CHECKING:
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.exercise.screen.live import Live
    from wolfsbane.exercise.screen.shown import Setup, Shown

#: sure enough to name it, belief; the most looks, readings and tests of one call
SURE, MOST = 0.90, 18
#: readings an expert starts with on any machine, before weighing what else to do
_POINT_OF = {name: point for point, name in READINGS.items()}
_POINT_OF |= {"outdoor_db": "outdoor_db", "return_db": "return_db", "return_wb": "return_wb", "drier_drop": "drier_out"}


@dataclass(frozen=True, kw_only=True)
class Told:
    """One step of a way: what was done, in words, what it showed, minutes at its end, and how much of the belief stood
    on the right answer before and after it.
    """

    kind: str
    data: dict[str, Any]
    text: str
    showed: str
    minutes: float
    before: float
    after: float

    def to_json(self) -> dict[str, Any]:
        """Plain data."""
        return {
            "kind": self.kind,
            "data": self.data,
            "text": self.text,
            "showed": self.showed,
            "minutes": round(self.minutes, 1),
            "before": round(self.before, 3),
            "after": round(self.after, 3),
        }


def in_words(kind: str, data: dict[str, Any], setup: Setup) -> str:
    """What a step is called."""
    machine = setup.machine
    if kind == "look":
        return f"Look: {field_test_on(data['check'], machine).name.lower()}"
    if kind == "test":
        return f"Test: {field_test_on(data['test'], machine).name.lower()}"
    if kind == "read":
        return f"Read: {label(data['point'], machine).lower()}"
    if kind == "clamp":
        return f"Clamp on: {label(data['pipe'], machine).lower()}" if data["spot"] != "off" else "Clamp off"
    if kind == "gauges":
        return "Gauges off" if data["low"] == data["high"] == "off" else "Gauges on"
    if kind == "act":
        from wolfsbane.acting.actions import action_kind

        return action_kind(data["action"]).name
    words = {"plate": "Read the nameplate", "zero": "Zero the gauges", "settle": "Let it settle"}
    return words.get(kind) or f"Wait {data.get('minutes', 0):g} min"


def showed(shown: Shown) -> str:
    """What a step showed, in a line."""
    if shown.reading is not None:
        return shown.reading.get("text") or f"{shown.reading['value']:g} {shown.reading['unit']}"
    return " ".join(shown.said)


def told(setup: Setup, practice: Practice, accepted: tuple[str, ...], shown: list[Shown]) -> list[Told]:
    """A way through a call, step by step, with what each told of the answer."""
    out: list[Told] = []
    minutes, before = 0.0, weight_of(weighed(seen(setup.machine, [], setup.system), practice), accepted)
    for n, one in enumerate(shown):
        minutes += one.minutes
        after = before
        if one.kind in ("look", "test", "read") and not one.refused:
            after = weight_of(weighed(seen(setup.machine, shown[: n + 1], setup.system), practice), accepted)
        text = in_words(one.kind, one.data, setup)
        out.append(
            Told(
                kind=one.kind,
                data=one.data,
                text=text,
                showed=showed(one),
                minutes=minutes,
                before=before,
                after=after,
            )
        )
        before = after
    return out


def ways_to_read(live: Live, point: str) -> list[tuple[str, dict[str, Any]]]:
    """The steps that lead to a reading from where things stand: gauges and clamps go on first."""
    steps: list[tuple[str, dict[str, Any]]] = []
    if point in ("suction_pressure", "head_pressure") and "off" in (live.low, live.high):
        if not live.zeroed and live.low == live.high:
            steps.append(("zero", {}))
        steps.append(("gauges", {"low": "suction", "high": "liquid"}))
    if point in PIPES and live.clamps.get(point) != "clean":
        steps.append(("clamp", {"pipe": point, "spot": "clean"}))
    return [*steps, ("read", {"point": point})]


def taken(live: Live, point: str) -> None:
    """Take a reading as it should be taken."""
    for kind, data in ways_to_read(live, point):
        step(live, kind, data)


def essential(setup: Setup) -> tuple[str, ...]:
    """Readings without which nothing can be judged on this machine."""
    from wolfsbane.exercise.plan.call_kind import kind_of

    there = points_for(setup.machine)
    return tuple(
        p
        for p in kind_of(setup.machine).essential
        if p in there and not (setup.machine.sealed and p in ("suction_pressure", "head_pressure"))
    )


def looked(setup: Setup, practice: Practice, accepted: tuple[str, ...]) -> Live:
    """The expert's way to the answer: the machine as it stands once the fault can be named. Raises
    NoConvergenceError.
    """
    live = begun(setup)
    there = set(points_for(setup.machine))
    if setup.machine.sealed:
        there -= {"suction_pressure", "head_pressure"}
    refused: set[str] = set()
    for point in essential(setup):
        taken(live, point)
    for _ in range(MOST):
        found = weighed(seen(setup.machine, live.shown, setup.system), practice)
        if found.ranked[0].weight >= SURE and weight_of(found, accepted) >= SURE:
            break
        for proposed in found.steps:
            if proposed.id in refused:
                continue
            refused.add(proposed.id)
            if proposed.id in LOOK_IDS:
                step(live, "look", {"check": proposed.id})
            elif proposed.id in TEST_IDS:
                step(live, "test", {"test": proposed.id})
            elif _POINT_OF.get(proposed.id, "") in there:
                taken(live, _POINT_OF[proposed.id])
                if proposed.id == "drier_drop" and "drier_in" in there:
                    taken(live, "drier_in")
            else:
                continue
            break
        else:
            break
    return live


def worked(live: Live, practice: Practice) -> Live:
    """The right work on a machine whose fault is known, then the readings that prove it, hoses off."""
    setup = live.setup
    planted = in_order(of_machine(setup.faults))
    target = half_band(setup.machine, setup.conditions, practice)
    for one in plan(live.site, planted, target).steps:
        step(live, "act", {"action": one.action, "arguments": dict(one.arguments)})
    return proved(live)


def proved(live: Live) -> Live:
    """Let it settle, read again what proves it, and take everything off."""
    if live.site.running:
        step(live, "settle", {})
    for point in proofs(live.setup):
        taken(live, point)
    if live.site.temporary.left:
        step(live, "act", {"action": "undo_temporary", "arguments": {}})
    if "off" not in (live.low, live.high):
        step(live, "gauges", {"low": "off", "high": "off"})
    return live


def proofs(setup: Setup) -> tuple[str, ...]:
    """Readings with which work is proved on this machine."""
    there = essential(setup)
    return tuple(p for p in ("suction_pressure", "head_pressure", "suction_line", "liquid_line") if p in there)
