"""What follows slowly: lags of the instruments, and the heat and refrigerant that heavy parts of a machine store."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.acting.time_constants import constant
from wolfsbane.cycle.balance import Figures
from wolfsbane.cycle.transient import SHELL_SHARE, Stores

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit
    from wolfsbane.cycle.state import CircuitState


def _lags() -> np.ndarray:
    """Seconds each of the Figures lags behind the pipe, (n,) in their order."""
    groups = {
        "low_gauge": ("evaporating_pa", "suction_pa"),
        "high_gauge": ("discharge_pa", "valve_inlet_pa", "condensing_pa", "liquid_port_pa"),
        "line_clamp": (
            "evaporator_outlet_k",
            "suction_line_k",
            "compressor_in_k",
            "liquid_line_k",
            "after_drier_k",
            "condenser_outlet_k",
        ),
        "coil_clamp": (
            "evaporator_inlet_k",
            "stream_out_k",
            "air_boiling_k",
            "air_superheat_k",
            "blocked_air_k",
            "evaporator_heat_w",
        ),
        "discharge": ("discharge_k",),
    }
    lag = {figure: constant(name) for name, figures in groups.items() for figure in figures}
    return np.array([lag.get(figure, 0.0) for figure in Figures._fields])


LAGS = _lags()


def stores_of(circuit: Circuit) -> Stores:
    """What stores heat and refrigerant on a machine of this size."""
    size = 1000.0 * circuit.mass_flow_ref_kg_s
    return Stores(
        shell_s=constant("shell"),
        shell_j_k=constant("shell_heat") * size,
        oil_s=constant("oil"),
        evaporator_s=constant("evaporator_metal"),
        evaporator_j_k=constant("evaporator_heat") * size,
        condenser_s=constant("condenser_metal"),
        condenser_j_k=constant("condenser_heat") * size,
    )


def steady_shell_k(state: CircuitState) -> float:
    """Where the shell of a steady machine stands, K."""
    return state.suction_line_k + SHELL_SHARE * (state.discharge_line_k - state.suction_line_k)
