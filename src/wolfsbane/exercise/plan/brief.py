"""A brief: what an instructor asks for, from which a class set is generated.

File format: docs/formats/brief.schema.json.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Annotated, Any

from pydantic import Field

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import faults_for
from wolfsbane.cycle.field_tests import FIELD_TESTS
from wolfsbane.cycle.fields import (
    Accept,
    Format,
    called,
    fields_of,
    number,
    optional,
    own_or,
    refuse,
    span,
    text,
    usual,
    whole,
    word,
    words,
)
from wolfsbane.cycle.instruments import KITS, PIPES, POINTS
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER, TAUGHT
from wolfsbane.diagnosis.practices import PRACTICES
from wolfsbane.exercise.plan.call_kind import COOLING, kind_of
from wolfsbane.exercise.plan.usual_weather import MORE, WEATHER
from wolfsbane.tuning.first_guess import OWN_MACHINE, restored

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine

#: families a brief draws from where it names none
USUAL = (*TAUGHT, "valve_underfeeding", "orifice_undersized", "condenser_fan_weak", "distributor_blocked")
DRILLS = (
    "conversion",
    "dial",
    "superheat",
    "subcooling",
    "spot_the_error",
    "bookkeeping",
    "vacuum",
    "two_manifolds",
    "pipe_pressure",
    "mixed_air",
    "glide",
    "target_superheat",
    "units",
    "which_line",
)
_POSSIBLE = sorted({k.id for m in MACHINES.values() for k in faults_for(m) if k.id not in NOT_ON_PAPER})
#: machines a brief draws from where it names none
USUAL_MACHINES = tuple(
    m.id
    for m in MACHINES.values()
    if kind_of(m) is COOLING and not m.stage and "old" not in m.id and m.metering != "capillary"
)
_ITEMS = called("items", whole(1, 40))
_ONE_MACHINE = own_or(MACHINES)
MAX_OWN = 12


def _machines(value: Any) -> tuple[str, ...]:
    """Machines by id, each once; whether one of somebody's own is at hand is seen once the whole brief is read."""
    if not isinstance(value, (list, tuple)) or not value:
        raise refuse(value, "a list of " + ", ".join(MACHINES))
    return tuple(dict.fromkeys(_ONE_MACHINE.check(one) for one in value))


def _own(value: Any) -> tuple[dict[str, Any], ...]:
    if not isinstance(value, (list, tuple)) or len(value) > MAX_OWN:
        raise refuse(
            value, f"a list of at most {MAX_OWN} machines, plate and circuit as `wolfsbane tune --json` writes"
        )
    return tuple(OWN_MACHINE.check(one) for one in value)


_MACHINES = Accept(_machines, {"type": "array", "items": _ONE_MACHINE.schema, "minItems": 1})
_OWN = Accept(_own, {"type": "array", "items": OWN_MACHINE.schema, "maxItems": MAX_OWN})
_DRILL = fields_of({"kind": word(DRILLS), "items": _ITEMS}, required=("kind",))
_WEATHER_RANGES = {name: limits for name, (_, limits) in WEATHER.items()} | MORE
_WEATHER_SPANS = "an object of " + ", ".join(f"{k}: [low, high]" for k in _WEATHER_RANGES)


def _levels(value: Any) -> tuple[int, int]:
    if (
        not isinstance(value, (list, tuple))
        or len(value) != 2
        or not all(isinstance(v, int) and not isinstance(v, bool) and 1 <= v <= 5 for v in value)
        or value[0] > value[1]
    ):
        raise refuse(value, "[easiest, hardest], whole numbers from 1 to 5")
    return value[0], value[1]


def _drills(rows: Any) -> tuple[tuple[str, int], ...]:
    if not isinstance(rows, (list, tuple)):
        raise refuse(rows, "a list of {kind, items}")
    for row in rows:
        kind = row.get("kind") if isinstance(row, dict) else row
        if not isinstance(row, dict) or set(row) - {"kind", "items"} or kind not in DRILLS:
            raise refuse(kind, ", ".join(DRILLS), ".kind")
    return tuple((row["kind"], _ITEMS.check(row.get("items", 6))) for row in rows)


@dataclass(frozen=True, kw_only=True)
class Brief:
    """A checked brief. ``levels`` is (easiest, hardest), ``minutes`` None where time does not matter, ``drills`` (kind,
    items) pairs, ``weather`` name -> (low, high) in degrees F, ``fault_free_share`` the share of calls on a machine
    with nothing wrong, ``instruments`` gauges of a kit, or pipes for line temperatures only. Of the calls
    ``two_faults`` have two faults, ``second_visits`` come after a repair, and in ``instrument_faults`` an instrument
    reads wrong. ``faults`` are those the machines can have; none named are the usual ones. ``own`` are machines of the
    instructor's own that ``machines`` may name: plate and circuit as the tuner found them.
    """

    title: Annotated[str, text(1, 120, strip=True)]
    machines: Annotated[tuple[str, ...], usual(_MACHINES, USUAL_MACHINES)] = USUAL_MACHINES
    faults: Annotated[tuple[str, ...], usual(words(_POSSIBLE, 1), ())] = ()
    levels: Annotated[
        tuple[int, int],
        Accept(_levels, {"type": "array", "items": whole(1, 5).schema, "minItems": 2, "maxItems": 2}),
    ] = (1, 4)
    calls: Annotated[int, whole(0, 20)] = 5
    apprentices: Annotated[int, whole(1, 60)] = 24
    minutes: Annotated[int | None, optional(whole(5, 480))] = None
    fault_free_share: Annotated[float, number(0, 1)] = 0.2
    two_faults: Annotated[int, whole(0, 20)] = 0
    second_visits: Annotated[int, whole(0, 20)] = 0
    instrument_faults: Annotated[int, whole(0, 20)] = 0
    practice_id: Annotated[str, word(PRACTICES), Field(alias="practice")] = "plate_and_formula"
    instruments: Annotated[str, word((*KITS, PIPES))] = "analogue"
    units: Annotated[str, word(("us", "si"))] = "us"
    weather: Annotated[
        dict[str, tuple[float, float]],
        usual(
            fields_of(
                {name: called(name, span(*limits, "°F")) for name, limits in _WEATHER_RANGES.items()},
                _WEATHER_SPANS,
                stranger=lambda value, key: refuse(value, _WEATHER_SPANS),
            ),
            {},
        ),
    ] = field(default_factory=dict)
    altitude_ft: Annotated[float, number(-500, 10_000, "ft")] = 0.0
    given_readings: Annotated[tuple[str, ...] | None, optional(words(POINTS))] = None
    given_tests: Annotated[tuple[str, ...], usual(words(FIELD_TESTS), ())] = ()
    drills: Annotated[tuple[tuple[str, int], ...], Accept(_drills, {"type": "array", "items": _DRILL.schema})] = ()
    seed: Annotated[int, whole(0, 2**53)] = 1
    own: Annotated[tuple[dict[str, Any], ...], usual(_OWN, ())] = ()

    @property
    def kit(self) -> str:
        """The gauges that are read; line temperatures are read with digital instruments."""
        return "digital" if self.instruments == PIPES else self.instruments

    def machine(self, machine_id: str) -> Machine:
        """A machine of the brief: a profile, or one of the instructor's own. Raises BadInputError."""
        found = self._owned().get(machine_id)
        return machine(machine_id) if found is None else restored(found)

    def own_of(self, machine_id: str) -> dict[str, Any] | None:
        """Plate and circuit of a machine of the instructor's own, None for a profile."""
        return self._owned().get(machine_id)

    def _owned(self) -> dict[str, dict[str, Any]]:
        return {restored(one).id: one for one in self.own}

    def to_json(self) -> dict[str, Any]:
        """Plain data; :func:`brief` reads it back to the same."""
        return BRIEF.write(self) | {"drills": [{"kind": kind, "items": items} for kind, items in self.drills]}


BRIEF = Format(
    Brief,
    "brief",
    "A brief for a class set",
    version=1,
    renamed={"school": "practice", "sound_share": "fault_free_share"},
)


def _ids_of(own: tuple[dict[str, Any], ...]) -> tuple[str, ...]:
    try:
        return tuple(restored(one).id for one in own)
    except (TypeError, KeyError, ValueError, ArithmeticError) as error:
        raise BadInputError(
            "own", "a machine", f"plate and circuit as `wolfsbane tune --json` writes them ({error})"
        ) from None


def brief(data: dict[str, Any]) -> Brief:
    """Checked :class:`Brief` from plain data (as from JSON). Raises BadInputError naming the field."""
    read = BRIEF.read(data)
    if read.instruments == PIPES and read.instrument_faults:
        raise BadInputError("instruments", PIPES, "gauges: a call on instruments that read wrong needs them")
    left = read.calls
    for name in ("two_faults", "second_visits", "instrument_faults"):
        if getattr(read, name) > left:
            raise BadInputError(name, getattr(read, name), f"a whole number from 0 to {left}")
        left -= getattr(read, name)
    owned = _ids_of(read.own)
    if owned and not (isinstance(data, dict) and data.get("machines")):
        read = replace(read, machines=owned)
    for named in read.machines:
        if named not in (*MACHINES, *owned):
            raise BadInputError("machines", named, ", ".join((*MACHINES, *owned)))
    possible = {k.id for m in read.machines for k in faults_for(read.machine(m)) if k.id not in NOT_ON_PAPER}
    return replace(
        read,
        faults=words(sorted(possible)).check(read.faults) or tuple(f for f in USUAL if f in possible),
        weather={name: given for name, (given, _) in WEATHER.items()} | read.weather,
    )
