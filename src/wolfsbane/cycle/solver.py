"""solve(machine, conditions, faults) -> CircuitState."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np

from wolfsbane.cycle import air
from wolfsbane.cycle.balance import EMPTY, FULL, HOLDS, Figures
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import plant
from wolfsbane.cycle.idling import hardly_pumps, idles
from wolfsbane.cycle.machine import Circuit
from wolfsbane.cycle.newton import CONVERGED, search
from wolfsbane.cycle.properties import RHO_F, RHO_G, refrigerant
from wolfsbane.cycle.settled import at_rest, receiver_of, settled_state
from wolfsbane.cycle.starts import SOFTENING, first_start, receiver_mode, spread
from wolfsbane.cycle.surroundings import saturated_air, surroundings_of
from wolfsbane.cycle.trips import first_trip

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.properties import Refrigerant
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.cycle.surroundings import Surroundings

#: stored with every issued sheet; raise it when any reading could change
SOLVER_VERSION = "6"

#: the band a cycling fan is held in at one end of its swing, as a share of the swing
_BAND = 0.03
#: residual that is taken on the way from the machine with nothing wrong, where a kink of the tables keeps the search
#: from its full depth
_NEAR = 1e-5
#: nor has one any balance further on once its pressures have come this close
_EQUAL = 1.08
#: a condenser this full of liquid at the last balance on the way leaves no room: the head then climbs without limit
_FILLED = 0.6
#: behind a receiver that is full already, so much: what is in it swells as the head climbs
_FILLED_BEHIND_FULL = 0.25
#: in an indoor coil that condenses, small as it is, so much
_FILLED_INDOORS = 0.15
#: a head that has climbed to so much of its cutout on the way, and finds no balance further on, reaches it
_CLIMBED = 0.85


def solve(
    machine: Machine, conditions: Conditions, faults: tuple[Fault, ...] = (), *, start: Any = None
) -> CircuitState:
    """Solve one machine in one weather with any faults.

    ``faults`` is a tuple of :class:`wolfsbane.cycle.faults.Fault`; ``start`` a ``solution`` of a neighboring state to
    begin from. Returns a :class:`CircuitState`, whose ``trip`` is set when a cutout opens and whose ``swing`` holds
    the two extremes of a hunting valve. Raises BadInputError for a fault the machine cannot have and
    NoConvergenceError, with a report, when no balance is found inside the property tables.
    """
    faults = tuple(faults)
    if machine.circuits == 1:
        return _with_swing(machine, plant(machine, faults), conditions, faults, start)
    first = plant(machine, faults)
    one = _with_swing(machine, first, conditions, faults, start, offset_k=first.circuit.stratified_k / 2.0)
    two = second_circuit(machine, conditions, faults)
    both = joined(one, two)
    return both if one.swing is None else replace(both, swing=tuple(joined(end, two) for end in one.swing))


def second_circuit(machine: Machine, conditions: Conditions, faults: tuple[Fault, ...]) -> CircuitState:
    """The settled state of circuit 2 of a machine that has two, at rest with its ``trip`` where it cuts out."""
    second = plant(machine, faults, circuit=2)
    layers = plant(machine, faults).circuit.stratified_k / 2.0
    two = circuit_state(machine, second, conditions, faults, None, offset_k=-layers)
    if two.trip:
        off = at_rest(machine, second, conditions, surroundings_of(second.circuit, conditions, -layers))
        two = replace(off, trip=two.trip)
    return two


def _with_swing(
    machine: Machine,
    faulted: Machine,
    conditions: Conditions,
    faults: tuple[Fault, ...],
    start: tuple[float, ...] | None,
    offset_k: float = 0.0,
) -> CircuitState:
    """The mean state of a machine, with the states at both ends where its valve hunts or its fan cycles."""
    state = circuit_state(machine, faulted, conditions, faults, start, offset_k)
    if state.trip or state.equalized or state.solution is None:
        return state
    ends = []
    for held in _held_apart(faulted.circuit, state):
        changed = faulted.with_circuit(held)
        try:
            ends.append(_circuit_state(machine, changed, conditions, faults, state.solution, offset_k))
        except NoConvergenceError:
            if faulted.circuit.fan_on_above_pa <= 0.0:
                raise
            ends.append(state)  # a receiver that runs empty just there: the swing goes no further than its mean
    if not ends:
        return state
    trip = next((end.trip for end in ends if end.trip), None)
    return replace(state, swing=tuple(ends), trip=trip)


def _held_apart(circuit: Circuit, state: CircuitState) -> list[Circuit]:
    """The circuit held at both ends of its swing around ``state``: none where nothing swings."""
    if circuit.valve_swing > 0.0:
        mean = state.valve_opening
        ends = [max(mean + sign * circuit.valve_swing * mean, 0.06) for sign in (-1.0, 1.0)]
        return [circuit._replace(valve_fixed_opening=opening) for opening in ends]
    off, on = circuit.fan_off_below_pa, circuit.fan_on_above_pa
    if on <= 0.0 or state.condenser_stream_share > (1.0 - 1e-9) * circuit.condenser_air_fraction:
        return []
    # The fan stops as the head has fallen to one setting and starts as it has climbed to the other.
    narrow = _BAND * (on - off)
    return [circuit._replace(fan_off_below_pa=at - narrow, fan_on_above_pa=at + narrow) for at in (off, on)]


def joined(one: CircuitState, two: CircuitState) -> CircuitState:
    """Both circuits of a machine share the blower: half the air each, mixed in the supply;
    power and capacity add up.
    """
    upper, lower = one.supply_air, two.supply_air
    mixed = air.from_humidity_ratio(
        0.5 * (upper.dry_bulb_k + lower.dry_bulb_k),
        0.5 * (upper.humidity_ratio + lower.humidity_ratio),
        upper.barometer_pa,
    )
    return replace(
        one,
        twin=two,
        supply_air=mixed,
        supply_high_air=upper,
        supply_low_air=lower,
        capacity_w=one.capacity_w + two.capacity_w,
        sensible_w=one.sensible_w + two.sensible_w,
        power_w=one.power_w + two.power_w,
        airflow_kg_s=one.airflow_kg_s + two.airflow_kg_s,
    )


def circuit_state(
    machine: Machine,
    faulted: Machine,
    conditions: Conditions,
    faults: tuple[Fault, ...],
    start: tuple[float, ...] | None,
    offset_k: float = 0.0,
) -> CircuitState:
    """The settled state of one circuit: ``faulted`` is ``machine`` as faults and work have left it.

    ``offset_k`` is what its half of the coil meets warmer than the mean. A fan that cycles stops only where the head
    falls to its setting with the fan on; then the state is the mean of its cycles. Raises NoConvergenceError.
    """
    circuit = faulted.circuit
    if circuit.fan_on_above_pa > 0.0:
        sound, always = (
            m.with_circuit(m.circuit._replace(fan_on_above_pa=0.0, fan_off_below_pa=0.0)) for m in (machine, faulted)
        )
        state = _circuit_state(sound, always, conditions, faults, start, offset_k)
        stays_on = state.trip is None and state.head_pa > circuit.fan_off_below_pa
        if stays_on or state.equalized or (state.trip and state.trip.cutout == "high_pressure"):
            return state
        start = state.solution or start
    return _circuit_state(machine, faulted, conditions, faults, start, offset_k)


def _circuit_state(
    machine: Machine,
    faulted: Machine,
    conditions: Conditions,
    faults: tuple[Fault, ...],
    start: tuple[float, ...] | None,
    offset_k: float,
) -> CircuitState:
    circuit = faulted.circuit
    fluid = refrigerant(faulted.refrigerant)
    surroundings = surroundings_of(circuit, conditions, offset_k)
    if idles(circuit, fluid, surroundings.coil_air.dry_bulb_k, surroundings.entering_k):
        return at_rest(machine, faulted, conditions, surroundings)
    likeliest = first_start(machine, faulted.refrigerant, fluid, surroundings, start)
    evaluations = 0
    if likeliest is not None:
        found = _balance(circuit, fluid, conditions, surroundings, likeliest, softening=0, decide=False)
        evaluations = found.evaluations
    if likeliest is None or not found.converged:
        starts = spread(machine, fluid, surroundings)
        starts = starts if likeliest is None else np.vstack((likeliest, starts))
        found = _balance(circuit, fluid, conditions, surroundings, starts)
        evaluations += found.evaluations
    beyond_table = not found.converged and found.x[1] >= fluid.arrays.ln_p_max - 2e-2
    reached = 1.0

    def report(residual: float) -> NoConvergenceError:
        return NoConvergenceError(
            {
                "machine": machine.id,
                "attempts": found.attempts,
                "best_residual": residual,
                "conditions": conditions,
                "faults": faults,
                "x": found.x.tolist(),
                "circuit": faulted.circuit,
            }
        )

    if not found.converged and not beyond_table:
        attempts = found.attempts
        found, circuit, reached = _follow(machine, faulted, fluid, conditions, surroundings, starts)
        evaluations += found.evaluations
        found = found._replace(attempts=attempts)
        if hardly_pumps(circuit) and (found.norm >= _NEAR or reached < 1.0):
            return at_rest(machine, faulted, conditions, surroundings)
        if found.norm >= _NEAR:
            raise report(found.norm)
        if reached < 1.0 and found.figures.condensing_pa < _EQUAL * found.figures.evaporating_pa:
            return at_rest(machine, faulted, conditions, surroundings)
        indoors = _FILLED_INDOORS if machine.in_heating else _FILLED
        filled = _FILLED_BEHIND_FULL if found.mode == FULL else indoors
        climbed = _CLIMBED * (machine.plate.high_cutout_gauge_pa + conditions.barometer_pa)
        beyond_table = reached < 1.0 and (_liquid_share(found.figures) > filled or found.figures.discharge_pa > climbed)
    figures = found.figures
    if hardly_pumps(circuit) and figures.evaporating_pa > fluid.saturation_pa(surroundings.coil_air.dry_bulb_k, "dew"):
        return at_rest(machine, faulted, conditions, surroundings)
    if beyond_table:
        figures = figures._replace(discharge_pa=fluid.max_pa, liquid_port_pa=fluid.max_pa)
    state = settled_state(
        machine,
        faulted.with_circuit(circuit),
        conditions,
        surroundings,
        fluid,
        figures,
        evaluations=int(evaluations),
        solution=tuple(found.x.tolist()),
        receiver=receiver_of(circuit, fluid, figures, found.mode),
    )
    trip = first_trip(machine, faulted, state, figures.discharge_pa, conditions, settled=not beyond_table)
    if trip is None and reached < 1.0:
        raise report(1.0 - reached)
    return state if trip is None else replace(state, trip=trip)


class _Found(NamedTuple):
    """What a search came to: the place, its figures, the residual left, how the receiver stands, and the effort."""

    x: np.ndarray
    figures: Figures
    norm: float
    mode: float
    evaluations: int
    attempts: int

    @property
    def converged(self) -> Any:
        return self.norm < CONVERGED


def _balance(
    circuit: Circuit,
    fluid: Refrigerant,
    conditions: Conditions,
    surroundings: Surroundings,
    starts: np.ndarray,
    softening: int = SOFTENING,
    *,
    decide: bool = True,
) -> _Found:
    """Search from ``starts``, trying the receiver's three conditions: a :class:`_Found`.

    Without ``decide`` a receiver that was not found to hold liquid is left undecided: one start is no proof that it is
    empty.
    """
    h_sat = saturated_air(conditions)
    mode = receiver_mode(circuit)
    boundary = surroundings.boundary(conditions, mode)
    x, figures, norm, attempts, evaluations = search(starts, circuit, fluid, boundary, h_sat, softening)
    if mode == HOLDS and (decide or norm < CONVERGED):
        beyond = (x, figures, norm) if x[1] >= fluid.arrays.ln_p_max - 2e-2 else None
        for other in _receiver_edges(circuit, fluid, x, figures, norm):
            more = np.vstack((x, starts)) if norm < 1.0 else starts
            x, figures, norm, attempts, again = search(
                more, circuit, fluid, boundary._replace(receiver=other), h_sat, softening
            )
            mode, evaluations = other, evaluations + again
            if norm < CONVERGED and _fits(other, figures):
                break
            norm = max(norm, 0.5)
        if beyond is not None and norm >= CONVERGED:
            x, figures, norm = beyond
    return _Found(x=x, figures=figures, norm=norm, mode=mode, evaluations=evaluations, attempts=attempts)


def _follow(
    machine: Machine,
    faulted: Machine,
    fluid: Refrigerant,
    conditions: Conditions,
    surroundings: Surroundings,
    starts: np.ndarray,
) -> tuple[_Found, Circuit, float]:
    """Walk from the sound circuit to the harmed one in small steps, each begun from the last balance.

    Ends at the harmed circuit, or at the last circuit on the way that has a balance: a machine that finds none further
    on has long cut out. Returns (what was found there, circuit, share of the way).
    """
    fault_free, harmed = machine.circuit, faulted.circuit
    best = _balance(fault_free, fluid, conditions, surroundings, starts)
    if not best.converged:
        return best, harmed, 0.0
    if fault_free.valve_fixed_opening < 0.0 <= harmed.valve_fixed_opening:
        fault_free = fault_free._replace(valve_fixed_opening=best.figures.valve_opening)
    reached, count, way, step, growth = fault_free, best.evaluations, 0.0, 0.1, 1.5
    while way < 1.0 and step > 2e-3:
        further = min(1.0, way + step)
        circuit = Circuit._make(a + further * (b - a) for a, b in zip(fault_free, harmed, strict=True))
        found = _balance(circuit, fluid, conditions, surroundings, np.array([best.x]), softening=0)
        count += found.evaluations
        if found.norm < _NEAR:
            best, reached, way, step = found, circuit, further, step * growth
        else:
            step, growth = step * 0.4, 1.0
    return best._replace(evaluations=count), reached, way


def _receiver_edges(
    circuit: Circuit, fluid: Refrigerant, x: np.ndarray, figures: Figures, norm: float
) -> tuple[float, ...]:
    """What to try where the receiver cannot hold the liquid that is left over: nothing where it can."""
    if norm >= CONVERGED:
        return EMPTY, FULL
    held = figures.receiver_kg / circuit.receiver_volume_m3
    if held < fluid.saturated(RHO_G, x[1]):
        return (EMPTY,)
    return (FULL,) if held > fluid.saturated(RHO_F, x[1]) else ()


def _liquid_share(figures: Figures) -> float:
    """Share of the condenser that stands full of liquid; below zero where it has not enough area."""
    return 1.0 - figures.condenser_gas_share - figures.condenser_two_phase_share


def _fits(mode: float, figures: Figures) -> bool:
    """An empty receiver passes no liquid that backs up in the condenser; a full one backs some up."""
    liquid = _liquid_share(figures)
    return liquid < 5e-3 + figures.flooded_share if mode == EMPTY else liquid > -1e-9
