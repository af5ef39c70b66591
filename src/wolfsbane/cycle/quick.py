"""The figures of a machine that runs as any other does, without all that a state tells: for searches that solve it a
thousand times.

Same equations, same balance: what cannot be had from one start is left to :func:`wolfsbane.cycle.solver.solve`.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wolfsbane.cycle.balance import HOLDS, Figures
from wolfsbane.cycle.faults import planted
from wolfsbane.cycle.idling import hardly_pumps
from wolfsbane.cycle.newton import CONVERGED, search
from wolfsbane.cycle.properties import RHO_F, RHO_G, Refrigerant, refrigerant, saturation_at
from wolfsbane.cycle.settled import amps
from wolfsbane.cycle.starts import first_start, receiver_mode
from wolfsbane.cycle.surroundings import Surroundings, saturated_air, surroundings_of
from wolfsbane.cycle.trips import Drawn, opened

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Circuit, Machine

#: a balance so near the end of the property table, ln Pa, is left to the whole solve
_TABLE_END = 2e-2


class UnusualError(ArithmeticError):
    """Only the whole solve can tell how this machine stands."""


class Running(NamedTuple):
    """A machine that runs: its figures, what it met, the circuit with its faults and what is in it, and the
    ``solution`` that a neighbor may begin from.
    """

    figures: Figures
    surroundings: Surroundings
    circuit: Circuit
    fluid: Refrigerant
    solution: tuple[float, ...]


def running(
    machine: Machine, conditions: Conditions, faults: tuple[Fault, ...], start: tuple[float, ...] | None = None
) -> Running | None:
    """The :class:`Running` of ``machine`` with its own ``faults``, None where a cutout opens.

    ``start`` is the ``solution`` of a neighbor. Raises BadInputError for a fault the machine cannot have, UnusualError
    where the machine is not of the usual kind or the start does not lead to a balance.
    """
    if machine.circuits > 1 or machine.in_heating:
        raise UnusualError
    circuit, name = planted(machine, faults)
    if circuit.fan_on_above_pa > 0.0 or circuit.valve_swing > 0.0 or hardly_pumps(circuit):
        raise UnusualError
    fluid, met = refrigerant(name), surroundings_of(circuit, conditions)
    begin = np.array([start]) if start is not None else first_start(machine, name, fluid, met, None)
    if begin is None:
        raise UnusualError
    mode = receiver_mode(circuit)
    x, figures, norm, _, _ = search(
        begin, circuit, fluid.arrays, met.boundary(conditions, mode), saturated_air(conditions), 0
    )
    if norm >= CONVERGED or x[1] >= fluid.arrays.ln_p_max - _TABLE_END:
        raise UnusualError
    if mode == HOLDS:
        held = figures.receiver_kg / circuit.receiver_volume_m3
        if not saturation_at(fluid.arrays, RHO_G, x[1]) <= held <= saturation_at(fluid.arrays, RHO_F, x[1]):
            raise UnusualError
    found = Drawn(
        figures.discharge_pa,
        figures.suction_pa,
        figures.discharge_k,
        amps(machine, figures.work_w),
        figures.evaporator_heat_w,
    )
    if opened(machine, name, conditions, found):
        return None
    return Running(figures, met, circuit, fluid, tuple(x.tolist()))
