"""A script of actions played on a site: the same script, the same trace."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Annotated, Any

from pydantic import Field

from wolfsbane.acting.actions import ACTIONS, act, action_kind
from wolfsbane.acting.actions.kind import IN_GRAMS
from wolfsbane.acting.living import living
from wolfsbane.acting.rooms import DOORS
from wolfsbane.acting.settling import arrive, moment
from wolfsbane.acting.site import Drift, on_site
from wolfsbane.cycle.controls import TROUBLES
from wolfsbane.cycle.fields import Accept, Format, fields_of, number, refuse, word, words
from wolfsbane.cycle.units import f_to_k, k_to_f, to_display

if TYPE_CHECKING:
    from wolfsbane.acting.actions.kind import ActionKind
    from wolfsbane.acting.keeper import Keeper
    from wolfsbane.acting.site import Site
    from wolfsbane.acting.trace import Moment
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine

_MAX = 200
#: waiting that one script may ask for, minutes
_LONGEST_MIN = 2880
_DRIFT = fields_of(
    dict.fromkeys(("outdoor_df_per_h", "return_df_per_h"), number(-20, 20, "°F an hour")),
    "an object with outdoor_df_per_h and return_df_per_h",
)


def _steps(rows: Any) -> tuple[tuple[str, dict[str, Any]], ...]:
    """(action id, arguments as given) of each row, checked."""
    if not isinstance(rows, list) or not 1 <= len(rows) <= _MAX:
        raise refuse(rows, f"a list of 1 to {_MAX} objects with do and its arguments")
    steps = []
    for row in rows:
        if not isinstance(row, dict) or not isinstance(row.get("do"), str):
            raise refuse(row, "objects with do and its arguments")
        kind, given = action_kind(row["do"]), {k: v for k, v in row.items() if k != "do"}
        kind.arguments(given)
        steps.append((kind.id, given))
    waited = sum(float(given.get("minutes", 15.0)) for action, given in steps if action == "wait")
    if waited > _LONGEST_MIN:
        raise refuse(f"{waited:g} minutes of waiting", f"at most {_LONGEST_MIN} in one script")
    return tuple(steps)


def _drift(value: Any) -> Drift:
    given = _DRIFT.check(value)
    return Drift(
        outdoor_k_h=given.get("outdoor_df_per_h", 0.0) / 1.8, return_k_h=given.get("return_df_per_h", 0.0) / 1.8
    )


@dataclass(frozen=True, kw_only=True)
class Alive:
    """A room that answers to the machine: air and goods at ``start_k`` and the thermostat at ``set_k`` (None: what the
    conditions name), the door a word of :data:`wolfsbane.acting.rooms.DOORS`, troubles of the controls.
    """

    start_k: float | None = None
    set_k: float | None = None
    door: str = "usual"
    troubles: tuple[str, ...] = ()

    def to_json(self) -> dict[str, Any]:
        """Plain data, temperatures in degrees F."""
        set_to = {"start_f": self.start_k, "set_f": self.set_k}
        temperatures = {name: round(k_to_f(k), 6) for name, k in set_to.items() if k is not None}
        return {**temperatures, "door": self.door, "troubles": list(self.troubles)}


_ALIVE = fields_of(
    {
        "start_f": number(-25, 110, "°F"),
        "set_f": number(-25, 90, "°F"),
        "door": word(tuple(DOORS)),
        "troubles": words(tuple(TROUBLES)),
    },
    "an object with start_f, set_f, door and troubles, each optional",
)


def _alive(value: Any) -> Alive:
    given = _ALIVE.check(value)
    return Alive(
        start_k=f_to_k(given["start_f"]) if "start_f" in given else None,
        set_k=f_to_k(given["set_f"]) if "set_f" in given else None,
        door=given.get("door", "usual"),
        troubles=tuple(given.get("troubles", ())),
    )


def _step_schema(kind: ActionKind) -> dict[str, Any]:
    properties: dict[str, Any] = {"do": {"const": kind.id}}
    for parameter in kind.parameters:
        properties[parameter.name] = parameter.accepted.schema
        for grams, ounces in IN_GRAMS.items():
            if ounces == parameter.name:
                properties[grams] = {"type": "number", "exclusiveMinimum": 0}
    return {"type": "object", "additionalProperties": False, "required": ["do"], "properties": properties}


_STEPS_SCHEMA = {
    "type": "array",
    "minItems": 1,
    "maxItems": _MAX,
    "items": {"oneOf": [_step_schema(kind) for kind in ACTIONS.values()]},
}


@dataclass(frozen=True, kw_only=True)
class Script:
    """``steps`` are (action id, arguments); ``drift`` is how weather and room change; ``alive`` is a room that
    answers to the machine, None where the conditions are held.
    """

    steps: Annotated[tuple[Any, ...], Accept(_steps, _STEPS_SCHEMA), Field(alias="actions")]
    drift: Annotated[Drift, Accept(_drift, _DRIFT.schema), Field(alias="weather")] = Drift()
    alive: Annotated[Alive | None, Accept(_alive, _ALIVE.schema), Field(alias="room")] = None

    def to_json(self) -> dict[str, Any]:
        """Plain data with its schema number."""
        drift = {"outdoor_df_per_h": self.drift.outdoor_k_h * 1.8, "return_df_per_h": self.drift.return_k_h * 1.8}
        plain = {k: v for k, v in SCRIPT.write(self).items() if k != "room"} | {
            "actions": [{"do": action, **given} for action, given in self.steps],
            "weather": drift,
        }
        return plain if self.alive is None else plain | {"room": self.alive.to_json()}


SCRIPT = Format(Script, "actions", "Actions on a scenario's machine, in order; the list alone will do", version=1)


@dataclass(frozen=True, kw_only=True)
class Played:
    """What a script left: the site at the end, every moment in order, and one :class:`Step` for each action."""

    site: Site
    moments: tuple[Moment, ...]
    steps: tuple[Any, ...]

    def to_json(self) -> dict[str, Any]:
        """Plain data in the site's units: the trace, what each step said and cost, where every gram is."""
        system = self.site.units

        def mass(kg: Any) -> Any:
            return round(to_display("mass", kg, system), 2) + 0.0

        site, unit = self.site, "oz" if system == "us" else "g"
        return {
            "schema": SCRIPT.version,
            "units": system,
            "steps": [
                {**step, "moved": mass(step["moved_kg"])} | {"moved_kg": round(step["moved_kg"], 6)}
                for step in self.steps
            ],
            "trace": [m.row(system) for m in self.moments],
            "end": {
                "running": site.running,
                "tripped": None if site.trip is None else site.trip.cutout,
                "minutes": round(site.time_s / 60.0, 1),
                "left_temporary": site.temporary.left,
                "leak_open": site.leaking,
                "faults_left": [f.id for f in site.faults],
            },
            **({} if site.keeper is None else {"controls": _controls(site.keeper)}),
            "weights": {
                "unit": unit,
                "circuit": mass(site.circuit_kg),
                "right_charge": mass(site.right_kg),
                "hoses": mass(site.hoses_kg),
                "lost": mass(site.lost_kg),
                "cylinders": {
                    c.id: {"net": mass(c.kg), "gross": mass(c.gross_kg), "room": mass(c.room_kg)}
                    for c in site.cylinders
                },
            },
        }


def _controls(keeper: Keeper) -> dict[str, Any]:
    """What the controls did over the script: starts, share of the time the compressor ran, minutes of each defrost."""
    return {
        "mode": keeper.mode,
        "starts": keeper.starts,
        "ran_pct": round(100.0 * keeper.on_s / max(keeper.all_s, 1e-9), 1),
        "low_stage_pct": (
            None if keeper.controls.second_stage is None else round(100.0 * keeper.low_s / max(keeper.all_s, 1e-9), 1)
        ),
        "defrost_minutes": [round(minutes, 1) for minutes in keeper.defrosts],
        "troubles": list(keeper.troubles),
    }


def script(data: list[dict[str, Any]] | dict[str, Any]) -> Script:
    """A checked :class:`Script` from plain data: a list of actions, or {actions, weather}. Raises BadInputError."""
    return SCRIPT.read({"actions": data} if isinstance(data, list) else data)


def play(
    machine: Machine, conditions: Conditions, faults: tuple[Fault, ...], written: Script, system: str = "us"
) -> Played:
    """:class:`Played` of a script on a machine with its faults, arrived at after a long run."""
    return play_on(walked_up_to(machine, conditions, faults, written, system), written.steps)


def walked_up_to(
    machine: Machine, conditions: Conditions, faults: tuple[Fault, ...], written: Script, system: str = "us"
) -> Site:
    """The site a script begins on. Raises BadInputError for a trouble that this machine's controls cannot have."""
    site = arrive(on_site(machine, conditions, faults, written.drift, system))
    alive = written.alive
    if alive is None:
        return site
    return living(site, air_k=alive.start_k, set_k=alive.set_k, door=DOORS[alive.door], troubles=alive.troubles)


def played_on(before: Played, steps: tuple[tuple[str, dict[str, Any]], ...]) -> Played:
    """:class:`Played` of further steps after a script that has been played: the same as playing all of them at once."""
    if not steps:
        return before
    more = play_on(before.site, steps)
    return Played(site=more.site, moments=before.moments + more.moments[1:], steps=before.steps + more.steps)


def play_on(site: Site, steps: list[tuple[str, dict[str, float]]] | tuple[tuple[str, dict[str, Any]], ...]) -> Played:
    """:class:`Played` of (action id, arguments) steps on a site as it stands."""
    moments, rows = [moment(site)], []
    for action_id, given in steps:
        begin = site.time_s
        done = act(site, action_kind(action_id), given)
        site = done.site
        entry = site.log[-1]
        moments += done.moments
        if not done.moments or moments[-1].time_s < site.time_s - 1e-6:
            moments.append(moment(site))
        rows.append(
            {
                "do": action_id,
                "arguments": given,
                "at_s": round(begin, 1),
                "minutes": entry.minutes,
                "money": entry.money,
                "refused": done.refused,
                "said": list(done.said),
                "moved_kg": entry.moved_kg,
                "cylinder": entry.cylinder,
            }
        )
    return Played(site=replace(site), moments=tuple(moments), steps=tuple(rows))
