"""A trace: what the instruments show over time, as states for reading and as plain rows for a picture."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.rooms import humidity
from wolfsbane.cycle.balance import NO_RECEIVER
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.hot_gas import hot_gas
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.quantities import QUANTITIES, WORKED_OUT
from wolfsbane.cycle.reverse_defrost import clearing
from wolfsbane.cycle.settled import amps, at_rest, receiver_of, settled_state
from wolfsbane.cycle.solver import joined, second_circuit
from wolfsbane.cycle.state import CircuitState
from wolfsbane.cycle.surroundings import surroundings_of
from wolfsbane.cycle.units import to_display

if TYPE_CHECKING:
    from wolfsbane.acting.keeper import Keeper
    from wolfsbane.acting.rooms import Room
    from wolfsbane.acting.site import Site
    from wolfsbane.cycle.balance import Figures
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.surroundings import Surroundings

#: rows of a trace; what is worked out stands only while the machine runs
_ROWS = tuple(
    QUANTITIES[name]
    for name in (
        "suction_pressure",
        "head_pressure",
        "suction_line",
        "liquid_line",
        "discharge_line",
        "outdoor_db",
        "superheat",
        "subcooling",
        "evaporator_td",
        "ctoa",
        "air_delta_t",
    )
)
_SUFFIX = {
    "us": {"pressure": "_psig", "temperature": "_f", "difference": "_df"},
    "si": {"pressure": "_kpa_gauge", "temperature": "_c", "difference": "_dc"},
}
_DECIMALS = 2


@dataclass(frozen=True, kw_only=True)
class Moment:
    """One moment of a trace: ``state`` is what instruments show, in SI.

    Shares 0 to 1, mass kg, time s since arrival.
    """

    time_s: float
    running: bool
    state: CircuitState
    circuit_kg: float
    ice_share: float
    wet_share: float
    room: Room | None = None
    keeper: Keeper | None = None

    def row(self, system: str = "us") -> dict[str, float | None]:
        """Plain numbers with the unit in the key; figures that need a running machine are None while it stands."""
        found: dict[str, Any] = {"time_s": round(self.time_s, 1), "running": self.running}
        for row in _ROWS:
            value = None
            if self.running or row.id not in WORKED_OUT:
                value = to_display(row.kind, getattr(self.state, str(row.attribute)), system, self.state.barometer_pa)
            found[row.id + _SUFFIX[system][row.kind]] = None if value is None else round(value, _DECIMALS) + 0.0
        if self.room is not None and self.keeper is not None:
            found |= self._room_row(system)
        mass = to_display("mass", self.circuit_kg, system)
        return found | {
            "circuit_oz" if system == "us" else "circuit_g": round(mass, _DECIMALS),
            "ice_pct": round(100.0 * self.ice_share, 1),
            "wet_pct": round(100.0 * self.wet_share, 1),
        }

    def _room_row(self, system: str) -> dict[str, Any]:
        """What thermometer and hygrometer in the room show, and what the controls are at."""
        assert self.room is not None and self.keeper is not None, "only with a room"
        suffix = _SUFFIX[system]["temperature"]
        shown = {"room" + suffix: self.room.air_k, "goods" + suffix: self.room.mass_k}
        barometer = self.state.barometer_pa
        return {
            **{name: round(to_display("temperature", k, system, barometer), _DECIMALS) for name, k in shown.items()},
            "room_humidity_pct": round(100.0 * humidity(self.room, barometer), 1),
            "mode": self.keeper.mode,
        }


def room_span_k(moments: tuple[Moment, ...]) -> tuple[float, float, float]:
    """(lowest, mean over time, highest) room air of a trace with a room, K."""
    rows = [(m.time_s, m.room.air_k) for m in moments if m.room is not None]
    times, air = (list(column) for column in zip(*rows, strict=True))
    whole = times[-1] - times[0]
    weighed = sum(0.5 * (air[i] + air[i + 1]) * (times[i + 1] - times[i]) for i in range(len(rows) - 1))
    return min(air), weighed / whole if whole > 0.0 else air[-1], max(air)


def shown_state(site: Site, conditions: Conditions) -> CircuitState:
    """The :class:`CircuitState` the instruments show at this moment, running or standing."""
    circuit = site.circuit()
    faulted = replace(site.machine, circuit=circuit, refrigerant=site.refrigerant)
    two = site.machine.circuits == 2
    surroundings = surroundings_of(circuit, conditions, circuit.stratified_k / 2.0 if two else 0.0)
    figures = site.shown
    if site.moving is None:
        return _standing(site, faulted, conditions, surroundings, figures)
    assert figures is not None, "a running machine shows figures"
    fluid = refrigerant(site.refrigerant)
    mode = site.moving.mode if circuit.receiver_volume_m3 > 0.0 else NO_RECEIVER
    state = settled_state(
        site.machine,
        faulted,
        conditions,
        surroundings,
        fluid,
        figures,
        evaluations=0,
        solution=site.moving.x,
        receiver=receiver_of(circuit, fluid, figures, mode),
    )
    if not two:
        return state
    try:
        return joined(state, second_circuit(site.machine, conditions, site.faults))
    except NoConvergenceError:
        return state


def _standing(
    site: Site, faulted: Machine, conditions: Conditions, surroundings: Surroundings, figures: Figures | None
) -> CircuitState:
    state = at_rest(site.machine, faulted, conditions, surroundings)
    if site.keeper is not None and site.keeper.hot_gas:
        return _with_hot_gas(site, faulted, state, site.keeper.coil_k)
    if site.keeper is not None and site.keeper.in_reverse and site.room is not None:
        return _in_reverse(site, faulted, state, site.keeper.coil_k, site.room.air_k)
    if figures is None:
        return state
    return _read_off(
        site,
        state,
        (figures.suction_pa, figures.liquid_port_pa),
        (figures.suction_line_k, figures.liquid_line_k, figures.discharge_k),
        after_drier_k=figures.after_drier_k,
        power_w=0.0,
        compressor_amps=0.0,
    )


def _read_off(
    site: Site, state: CircuitState, gauges_pa: tuple[float, float], lines_k: tuple[float, float, float], **more: Any
) -> CircuitState:
    """The state with what gauges (low, high; Pa) and clamps (suction, liquid, discharge line; K) show, and ``more``."""
    (low_pa, high_pa), (suction_line_k, liquid_line_k, discharge_k) = gauges_pa, lines_k
    suction_k, liquid_k = _on_the_scale(site, low_pa, high_pa)
    return replace(
        state,
        suction_pa=low_pa,
        head_pa=high_pa,
        suction_saturation_k=suction_k,
        liquid_saturation_k=liquid_k,
        suction_line_k=suction_line_k,
        liquid_line_k=liquid_line_k,
        discharge_line_k=discharge_k,
        superheat_dk=suction_line_k - suction_k,
        subcooling_dk=liquid_k - liquid_line_k,
        **more,
    )


def _on_the_scale(site: Site, suction_pa: float, head_pa: float) -> tuple[float, float]:
    """(dew of the low side, bubble of the high side), K, on the machine's own PT scale, held at its ends."""
    scale = refrigerant(site.machine.refrigerant)
    low, high = (min(max(pa, scale.min_pa), scale.max_pa) for pa in (suction_pa, head_pa))
    return scale.saturation_k(low, "dew"), scale.saturation_k(high, "bubble")


def _in_reverse(site: Site, faulted: Machine, state: CircuitState, coil_k: float, room_k: float) -> CircuitState:
    """What gauges and clamps show while a heat pump runs in cooling to clear its outdoor coil."""
    found = clearing(faulted.circuit, refrigerant(site.refrigerant), coil_k, room_k)
    return _read_off(
        site,
        state,
        (found.low_pa, found.high_pa),
        (found.suction_k, found.liquid_k, found.discharge_k),
        after_drier_k=found.liquid_k,
        mass_flow_kg_s=found.flow_kg_s,
        power_w=found.work_w,
        compressor_amps=amps(site.machine, found.work_w),
        flood_back=found.floods,
    )


def _with_hot_gas(site: Site, faulted: Machine, state: CircuitState, coil_k: float) -> CircuitState:
    """What gauges and clamps show while hot gas clears the coil: the compressor runs, the liquid line stands."""
    gas = hot_gas(faulted.circuit, refrigerant(site.refrigerant), coil_k)
    return _read_off(
        site,
        state,
        (gas.low_pa, gas.high_pa),
        (gas.suction_k, state.liquid_line_k, gas.discharge_k),
        power_w=gas.work_w,
        compressor_amps=amps(site.machine, gas.work_w),
    )
