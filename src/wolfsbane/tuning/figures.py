"""The figures a machine is tuned to: where each comes from on a solved state, how close is close enough,
what stands in for it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.quantities import name_of
from wolfsbane.cycle.units import PA_PER_PSI, W_PER_BTUH

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState


@dataclass(frozen=True, kw_only=True)
class Figure:
    """``of(state, machine)`` is the figure in the plate's unit; ``band`` is what counts as met, in ``unit`` or as a
    share of it.

    ``relative`` bands are shares. ``shown`` decimals in the report.
    """

    id: str
    name: str
    unit: str
    band: float
    of: Callable[[CircuitState, Machine], float]
    relative: bool = False
    shown: int = 1

    def width(self, asked: float) -> float:
        """The band in the figure's own unit."""
        return self.band * abs(asked) if self.relative else self.band


def _gauge(attribute: Any) -> Any:
    return lambda s, m: (getattr(s, attribute) - s.barometer_pa) / PA_PER_PSI


def _df(attribute: Any) -> Any:
    return lambda s, m: getattr(s, attribute) * 1.8


PLATE_FIGURES = {
    f.id: f
    for f in (
        Figure(
            id="capacity_btuh",
            name="Capacity",
            unit="Btu/h",
            band=0.02,
            relative=True,
            shown=0,
            of=lambda s, m: s.capacity_w / W_PER_BTUH,
        ),
        Figure(id="subcooling_df", name="Subcooling", unit="°F", band=1.0, of=_df("subcooling_dk")),
        Figure(id="superheat_df", name="Total superheat", unit="°F", band=1.5, of=_df("superheat_dk")),
        Figure(id="evaporator_td_df", name=name_of("evaporator_td"), unit="°F", band=1.5, of=_df("evaporator_td_dk")),
        Figure(id="ctoa_df", name=name_of("ctoa"), unit="°F", band=1.0, of=_df("ctoa_dk")),
        Figure(id="air_delta_t_df", name=name_of("air_delta_t"), unit="°F", band=1.5, of=_df("air_delta_t_dk")),
        Figure(id="suction_psig", name="Suction", unit="psig", band=3.0, shown=0, of=_gauge("suction_pa")),
        Figure(id="head_psig", name="Head", unit="psig", band=6.0, shown=0, of=_gauge("head_pa")),
        Figure(
            id="power_w",
            name="Power",
            unit="W",
            band=0.05,
            relative=True,
            shown=0,
            of=lambda s, m: s.power_w + m.circuit.blower_w,
        ),
    )
}
#: figures that are always tuned to something: the template's own value where the plate says nothing
ALWAYS = ("capacity_btuh", "subcooling_df", "superheat_df", "evaporator_td_df", "ctoa_df")
