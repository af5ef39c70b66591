"""A script of actions played on a site: the same script, the same trace."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.actions import act, action_kind
from wolfsbane.acting.settling import arrive, moment
from wolfsbane.acting.site import Drift, on_site
from wolfsbane.cycle.errors import BadInputError, require_range
from wolfsbane.cycle.units import to_display

if TYPE_CHECKING:
    from wolfsbane.acting.site import Site
    from wolfsbane.acting.trace import Moment
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine

SCHEMA = 1
_MAX = 200
#: waiting that one script may ask for, minutes
_LONGEST_MIN = 2880


@dataclass(frozen=True, kw_only=True)
class Script:
    """``steps`` are (action id, arguments); ``drift`` is how weather and room change."""

    steps: tuple[Any, ...]
    drift: Drift

    def to_json(self) -> Any:
        """Plain data with its schema number."""
        drift = {"outdoor_df_per_h": self.drift.outdoor_k_h * 1.8, "return_df_per_h": self.drift.return_k_h * 1.8}
        return {
            "schema": SCHEMA,
            "actions": [{"do": action, **given} for action, given in self.steps],
            "weather": drift,
        }


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
            "schema": SCHEMA,
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


def script(data: str | list[dict[str, Any]] | dict[str, Any]) -> Script:
    """A checked :class:`Script` from plain data: a list of actions, or {actions, weather}. Raises BadInputError."""
    if isinstance(data, list):
        data = {"actions": data}
    if not isinstance(data, dict):
        raise BadInputError("actions", type(data).__name__, "a JSON list of actions, or an object with actions")
    for key in data:
        if key not in ("schema", "actions", "weather"):
            raise BadInputError(key, data[key], "one of schema, actions, weather")
    if data.get("schema", SCHEMA) != SCHEMA:
        raise BadInputError("schema", data["schema"], str(SCHEMA))
    rows = data.get("actions")
    if not isinstance(rows, list) or not 1 <= len(rows) <= _MAX:
        raise BadInputError("actions", rows, f"a list of 1 to {_MAX} objects with do and its arguments")
    steps = []
    for row in rows:
        if not isinstance(row, dict) or "do" not in row:
            raise BadInputError("actions", row, "objects with do and its arguments")
        kind = action_kind(row["do"])
        given = {k: v for k, v in row.items() if k != "do"}
        kind.arguments(given)
        steps.append((kind.id, given))
    waited = sum(float(given.get("minutes", 15.0)) for action, given in steps if action == "wait")
    if waited > _LONGEST_MIN:
        raise BadInputError("actions", f"{waited:g} minutes of waiting", f"at most {_LONGEST_MIN} in one script")
    weather = data.get("weather", {})
    if not isinstance(weather, dict):
        raise BadInputError("weather", weather, "an object with outdoor_df_per_h and return_df_per_h")
    for key in weather:
        if key not in ("outdoor_df_per_h", "return_df_per_h"):
            raise BadInputError(f"weather.{key}", weather[key], "one of outdoor_df_per_h, return_df_per_h")
    drifts = [
        require_range(f"weather.{k}", weather.get(k, 0.0), -20, 20, "°F an hour") / 1.8
        for k in ("outdoor_df_per_h", "return_df_per_h")
    ]
    return Script(steps=tuple(steps), drift=Drift(outdoor_k_h=drifts[0], return_k_h=drifts[1]))


def play(
    machine: Machine, conditions: Conditions, faults: tuple[Fault, ...], written: Script, system: str = "us"
) -> Played:
    """:class:`Played` of a script on a machine with its faults, arrived at after a long run."""
    return play_on(arrive(on_site(machine, conditions, faults, written.drift, system)), written.steps)


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
