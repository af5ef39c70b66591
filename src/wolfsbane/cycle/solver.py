"""solve(machine, conditions, faults) -> CircuitState."""

import math
from dataclasses import replace
from functools import lru_cache

import numpy as np

from wolfsbane.cycle import air
from wolfsbane.cycle.balance import EMPTY, FIGURES, FULL, HOLDS, NO_RECEIVER, STEADY
from wolfsbane.cycle.conditions import Conditions
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import plant
from wolfsbane.cycle.newton import CONVERGED, search
from wolfsbane.cycle.properties import H_G, RHO_F, RHO_G, refrigerant, saturation_at
from wolfsbane.cycle.settled import at_rest, receiver_of, settled_state
from wolfsbane.cycle.trips import first_trip

#: stored with every issued sheet; raise it when any reading could change
SOLVER_VERSION = "2"

#: a compressor that moves less than this share of its displacement leaves the pressures equal
_STANDS_STILL = 0.10
#: residual that is taken on the way from the sound machine, where a kink of the tables keeps the search from its full
#: depth
_NEAR = 1e-5
#: nor has one any balance further on once its pressures have come this close
_EQUAL = 1.08
#: a condenser this full of liquid at the last balance on the way leaves no room: the head then climbs without limit
_FILLED = 0.6


def solve(machine, conditions, faults=(), *, start=None):
    """Solve one machine in one weather with any faults.

    ``faults`` is a tuple of :class:`wolfsbane.cycle.faults.Fault`; ``start`` a ``solution`` of a neighbouring state to
    begin from. Returns a :class:`CircuitState`, whose ``trip`` is set when a cut-out opens and whose ``swing`` holds
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


def second_circuit(machine, conditions, faults):
    """The settled state of circuit 2 of a machine that has two, at rest with its ``trip`` where it cuts out."""
    second = plant(machine, faults, circuit=2)
    layers = plant(machine, faults).circuit.stratified_k / 2.0
    two = circuit_state(machine, second, conditions, faults, None, offset_k=-layers)
    if two.trip:
        off = at_rest(machine, second, conditions, surroundings_of(second.circuit, conditions, -layers))
        two = replace(off, trip=two.trip)
    return two


def _with_swing(machine, planted, conditions, faults, start, offset_k=0.0):
    """The mean state of a machine, with the states at both ends where its valve hunts."""
    swing = planted.circuit.valve_swing
    state = circuit_state(machine, planted, conditions, faults, start, offset_k)
    if swing <= 0.0 or state.trip or state.equalized:
        return state
    ends = []
    for sign in (-1.0, 1.0):
        opening = max(state.valve_opening + sign * swing * state.valve_opening, 0.06)
        held = replace(planted, circuit=planted.circuit._replace(valve_fixed_opening=opening))
        ends.append(circuit_state(machine, held, conditions, faults, state.solution, offset_k))
    trip = next((end.trip for end in ends if end.trip), None)
    return replace(state, swing=tuple(ends), trip=trip)


def joined(one, two):
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


def surroundings_of(circuit, conditions, offset_k=0.0):
    """(return air, air to the coil, stream to the condenser in K) as this circuit really meets them.

    Load faults shift the return air, an economiser mixes outdoor air in (at the return's humidity: assumed), layers
    shift the mixture, hot exhaust or water on the coil shift what the condenser draws in.
    """
    barometer = conditions.barometer_pa
    return_k = conditions.return_k + circuit.return_offset_k
    wet_k = min(conditions.return_wet_bulb_k + circuit.return_wet_bulb_offset_k, return_k)
    returned = air.from_wet_bulb(return_k, wet_k, barometer)
    mixed_k = return_k + circuit.outdoor_air_share * (conditions.outdoor_k - return_k) + offset_k
    coil = returned
    if mixed_k != return_k:
        coil = air.from_humidity_ratio(mixed_k, returned.humidity_ratio, barometer)
    if conditions.water_in_k is not None:
        entering = conditions.water_in_k
    else:
        entering = conditions.outdoor_k + circuit.condenser_entering_offset_k
        if circuit.condenser_wet_share > 0.0:
            entering -= circuit.condenser_wet_share * (conditions.outdoor_k - conditions.outdoor_wet_bulb_k)
    return returned, coil, entering


def circuit_state(machine, planted, conditions, faults, start, offset_k=0.0):
    """The settled state of one circuit: ``planted`` is ``machine`` as faults and work have left it.

    ``offset_k`` is what its half of the coil meets warmer than the mean. Raises NoConvergenceError.
    """
    circuit = planted.circuit
    fluid = refrigerant(planted.refrigerant)
    met = surroundings_of(circuit, conditions, offset_k)
    if circuit.pumping_share < _STANDS_STILL:
        return at_rest(machine, planted, conditions, met)
    likeliest = _first_start(machine, planted, fluid, met[1].dry_bulb_k, met[2], start)
    norm, evaluations = 1e9, 0
    if likeliest is not None:
        x, found, norm, mode, evaluations, attempts = _balance(
            circuit, fluid, conditions, met, likeliest, softening=0, decide=False
        )
    if norm >= CONVERGED:
        spread = _spread(machine, fluid, met[1].dry_bulb_k, met[2])
        starts = spread if likeliest is None else np.vstack((likeliest, spread))
        x, found, norm, mode, more, attempts = _balance(circuit, fluid, conditions, met, starts)
        evaluations += more
    beyond_table = norm >= CONVERGED and x[1] >= fluid.arrays.ln_p_max - 2e-2
    reached = 1.0
    if norm >= CONVERGED and not beyond_table:
        harmed = circuit
        x, found, norm, mode, more, circuit, reached = _follow(machine, planted, fluid, conditions, met, starts)
        evaluations += more
        if norm >= _NEAR:
            raise NoConvergenceError(
                {
                    "machine": machine.id,
                    "attempts": attempts,
                    "best_residual": norm,
                    "conditions": conditions,
                    "faults": faults,
                    "x": x.tolist(),
                    "circuit": harmed,
                }
            )
        if reached < 1.0 and found["condensing_pa"] < _EQUAL * found["evaporating_pa"]:
            return at_rest(machine, planted, conditions, met)
        full = 1.0 - found["condenser_gas_share"] - found["condenser_two_phase_share"]
        beyond_table = reached < 1.0 and full > _FILLED
    if beyond_table:
        found["discharge_pa"] = found["liquid_port_pa"] = fluid.max_pa
    state = settled_state(
        machine,
        replace(planted, circuit=circuit),
        conditions,
        met,
        fluid,
        found,
        evaluations=int(evaluations),
        solution=tuple(x.tolist()),
        receiver=receiver_of(circuit, fluid, found, mode),
    )
    trip = first_trip(machine, planted, state, found["discharge_pa"], conditions, settled=not beyond_table)
    if trip is None and reached < 1.0:
        raise NoConvergenceError(
            {
                "machine": machine.id,
                "attempts": attempts,
                "best_residual": 1.0 - reached,
                "conditions": conditions,
                "faults": faults,
                "x": x.tolist(),
                "circuit": harmed,
            }
        )
    return state if trip is None else replace(state, trip=trip)


def _balance(circuit, fluid, conditions, met, starts, softening=60, *, decide=True):
    """Search from ``starts``, trying the receiver's three conditions. (x, figures dict, norm, mode, evaluations,
    attempts).

    Without ``decide`` a receiver that was not found to hold liquid is left undecided: one start is no proof that it is
    empty.
    """
    _, coil, entering = met
    h_sat = air.saturated_enthalpy(round(conditions.barometer_pa, 1))
    weather = (entering, coil.dry_bulb_k, coil.enthalpy_j_kg, conditions.air_density_ratio)
    mode = HOLDS if circuit.receiver_volume_m3 > 0.0 else NO_RECEIVER
    x, figures, norm, attempts, evaluations = search(
        starts, circuit, fluid.arrays, (*weather, mode, conditions.outdoor_k, *STEADY), h_sat, softening
    )
    if mode == HOLDS and (decide or norm < CONVERGED):
        beyond = (x, figures, norm) if x[1] >= fluid.arrays.ln_p_max - 2e-2 else None
        for other in _receiver_edges(circuit, fluid, x, figures, norm):
            more = np.vstack((x, starts)) if norm < 1.0 else starts
            x, figures, norm, attempts, again = search(
                more, circuit, fluid.arrays, (*weather, other, conditions.outdoor_k, *STEADY), h_sat, softening
            )
            mode, evaluations = other, evaluations + again
            if norm < CONVERGED and _fits(other, figures):
                break
            norm = max(norm, 0.5)
        if beyond is not None and norm >= CONVERGED:
            x, figures, norm = beyond
    return x, dict(zip(FIGURES, figures.tolist(), strict=True)), norm, mode, evaluations, attempts


def _follow(machine, planted, fluid, conditions, met, starts):
    """Walk from the sound circuit to the harmed one in small steps, each begun from the last balance.

    Ends at the harmed circuit, or at the last circuit on the way that has a balance: a machine that finds none further
    on has long cut out. Returns (x, figures, norm, mode, evaluations, circuit, share of the way).
    """
    sound, harmed = machine.circuit, planted.circuit
    x, found, norm, mode, count, _ = _balance(sound, fluid, conditions, met, starts)
    if norm >= CONVERGED:
        return x, found, norm, mode, count, harmed, 0.0
    if sound.valve_fixed_opening < 0.0 <= harmed.valve_fixed_opening:
        sound = sound._replace(valve_fixed_opening=found["valve_opening"])
    best, way, step, growth = (x, found, norm, mode, sound), 0.0, 0.1, 1.5
    while way < 1.0 and step > 2e-3:
        trial = min(1.0, way + step)
        circuit = sound._make(a + trial * (b - a) for a, b in zip(sound, harmed, strict=True))
        x, found, norm, mode, more, _ = _balance(circuit, fluid, conditions, met, np.array([best[0]]), softening=0)
        count += more
        if norm < _NEAR:
            best, way, step = (x, found, norm, mode, circuit), trial, step * growth
        else:
            step, growth = step * 0.4, 1.0
    return (*best[:4], count, best[4], way)


def _receiver_edges(circuit, fluid, x, figures, norm):
    """What to try where the receiver cannot hold the liquid that is left over: nothing where it can."""
    if norm >= CONVERGED:
        return EMPTY, FULL
    held = figures[FIGURES.index("receiver_kg")] / circuit.receiver_volume_m3
    if held < saturation_at(fluid.arrays, RHO_G, x[1]):
        return (EMPTY,)
    return (FULL,) if held > saturation_at(fluid.arrays, RHO_F, x[1]) else ()


def _fits(mode, figures):
    """An empty receiver passes no liquid that backs up in the condenser; a full one backs some up."""
    liquid = 1.0 - figures[FIGURES.index("condenser_gas_share")] - figures[FIGURES.index("condenser_two_phase_share")]
    return liquid < 5e-3 if mode == EMPTY else liquid > -1e-9


#: evaporator TD, CTOA (K) and superheat (J/kg) to try, for machines that cool rooms; boxes run on a third of the TD
_GUESSES = (
    (18.5, 10.0, 6e3),
    (22.0, 14.0, 1e3),
    (28.0, 6.0, 2e4),
    (14.0, 25.0, -1.5e4),
    (35.0, 4.0, 3e4),
    (16.0, 8.0, -5e3),
)


def _guess(fluid, coil_k, entering_k, td, ctoa, superheat):
    """(ln Pe, ln Pc, h1) at an evaporator TD and CTOA in K and a superheat in J/kg."""
    dew_low, dew_high, bubble_low, bubble_high = fluid.searched_k
    evaporating_k = min(max(coil_k - td, dew_low), dew_high)
    condensing_k = min(max(entering_k + ctoa, coil_k - td + 8.0, bubble_low), bubble_high)
    ln_pe = math.log(fluid.saturation_pa(evaporating_k, "dew"))
    ln_pc = math.log(fluid.saturation_pa(condensing_k, "bubble"))
    return ln_pe, ln_pc, float(saturation_at(fluid.arrays, H_G, ln_pe)) + superheat


def _spread(machine, fluid, coil_k, entering_k):
    """Guesses (6, 3) spread around what is usual for the machine's kind."""
    scale = 1.0 if machine.comfort else 0.35
    return np.array(
        [_guess(fluid, coil_k, entering_k, td * scale, ctoa, superheat) for td, ctoa, superheat in _GUESSES]
    )


def _first_start(machine, planted, fluid, coil_k, entering_k, start):
    """The likeliest guess (1, 3): the given one, or the rated state moved with the weather.

    None where there is neither.
    """
    if start is not None:
        return np.array([start])
    rated = _rated(machine) if planted.refrigerant == machine.refrigerant else None
    return None if rated is None else np.array([_guess(fluid, coil_k, entering_k, *rated)])


@lru_cache(maxsize=256)
def _rated(machine):
    """(TD, CTOA, superheat J/kg) of the sound machine at its rating point, or None when it has no balance there."""
    fluid = refrigerant(machine.refrigerant)
    circuit = machine.circuit
    conditions = rating_conditions(machine)
    _, coil, entering = surroundings_of(circuit, conditions)
    mode = HOLDS if circuit.receiver_volume_m3 > 0.0 else NO_RECEIVER
    x, _, norm, _, _ = search(
        _spread(machine, fluid, coil.dry_bulb_k, entering),
        circuit,
        fluid.arrays,
        (
            entering,
            coil.dry_bulb_k,
            coil.enthalpy_j_kg,
            conditions.air_density_ratio,
            mode,
            conditions.outdoor_k,
            *STEADY,
        ),
        air.saturated_enthalpy(round(conditions.barometer_pa, 1)),
        60,
    )
    if norm >= CONVERGED:
        return None
    td = coil.dry_bulb_k - fluid.saturation_k(math.exp(x[0]), "dew")
    return (
        td,
        fluid.saturation_k(math.exp(x[1]), "bubble") - entering,
        x[2] - float(saturation_at(fluid.arrays, H_G, x[0])),
    )


def rating_conditions(machine):
    """The :class:`Conditions` of the machine's rating point."""
    outdoor_k, return_k, wet_bulb_k, water_k = machine.rating
    return Conditions(outdoor_k=outdoor_k, return_k=return_k, return_wet_bulb_k=wet_bulb_k, water_in_k=water_k)
