"""A heat pump in heating: the coils change places, the refrigerant goes the other way. Defrost is left out; frost is
named.

The indoor coil condenses and the outdoor coil boils; both keep their air side and their tubes (assumed). The charge is
the one of cooling: a compensator takes what the smaller condenser has no room for, more of it the further liquid backs
up, so that the plate's subcooling is met at the rating point and hardly left in the cold (assumed).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache
from math import log
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle import coils
from wolfsbane.cycle.conditions import Conditions
from wolfsbane.cycle.errors import BadInputError, NoConvergenceError, require_range
from wolfsbane.cycle.faults import plant
from wolfsbane.cycle.parts.common import CP_AIR
from wolfsbane.cycle.profiles import HEATING_OF, MACHINES
from wolfsbane.cycle.properties import RHO_F, refrigerant
from wolfsbane.cycle.psychrometrics import psychrolib
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import M_PER_FT, STANDARD_ATMOSPHERE_PA, barometer_at_altitude_pa, f_to_k

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Circuit, Machine, Plate
    from wolfsbane.cycle.state import CircuitState

#: humidity of winter air at the outdoor coil (AHRI 210/240 heating test H1, 47 degF dry and 43 degF wet bulb, from
#: memory)
_WINTER_HUMIDITY = 0.72
#: rating point of heating: outdoor dry bulb, indoor dry bulb, degrees F (the same test)
RATING_F = (47.0, 70.0)
#: saturation at which the loss-of-charge switch of heating opens, K: -30 degF (assumed)
_LOSS_OF_CHARGE_K = f_to_k(-30.0)
#: subcooling over which the compensator goes from empty to full, K (assumed)
_COMPENSATES_K = 12.0 / 1.8
#: subcooling charged to where the plate gives none, and how far the valve stands open at the rating point, K and share
_SUBCOOLING_K, _OPENING = 6.0, 0.75


def heats(machine: Machine) -> bool:
    """True for machines that can be solved in heating."""
    return machine.application == "heat_pump_cooling"


def heating_conditions(
    *, outdoor_db_f: Any, return_db_f: Any, return_wb_f: Any = None, altitude_ft: float = 0.0
) -> Conditions:
    """:class:`Conditions` as the exchanged circuit meets them: ``outdoor_k`` is the room's air, ``return_k`` the
    outdoor air.

    Outdoor 0 to 65 F, return 55 to 85 F; the return's wet bulb makes no difference to a dry coil and is only checked.
    Raises BadInputError.
    """
    outdoor_db_f = require_range("outdoor_db_f", outdoor_db_f, 0, 65, "°F in heating")
    return_db_f = require_range("return_db_f", return_db_f, 55, 85, "°F in heating")
    if return_wb_f is not None:
        require_range("return_wb_f", return_wb_f, 35, return_db_f, "°F")
    barometer_pa = barometer_at_altitude_pa(require_range("altitude_ft", altitude_ft, -500, 10_000, "ft") * M_PER_FT)
    outdoor_k = f_to_k(outdoor_db_f)
    wet_k = psychrolib.GetTWetBulbFromRelHum(outdoor_k - 273.15, _WINTER_HUMIDITY, barometer_pa) + 273.15
    return Conditions(
        outdoor_k=f_to_k(return_db_f), return_k=outdoor_k, return_wet_bulb_k=wet_k, barometer_pa=barometer_pa
    )


@lru_cache(maxsize=64)
def heating(machine: Machine) -> Machine:
    """The machine with its coils exchanged, metered for heating, with cutouts for the cold and the charge it has in
    cooling: what the indoor coil has no room for at the rating point half fills a compensator.

    Raises BadInputError where it cannot heat.
    """
    if not heats(machine):
        raise BadInputError("heating", machine.id, "a heat pump")
    if machine is MACHINES.get(machine.id):
        return MACHINES[HEATING_OF[machine.id]]
    return metered(machine)


def metered(machine: Machine) -> Machine:
    """:func:`heating` worked out: a profile ships with what this found."""
    exchanged = replace(
        machine, application="heat_pump_heating", circuit=coils.in_heating(machine.circuit), plate=_plate(machine)
    )
    weather = heating_conditions(outdoor_db_f=RATING_F[0], return_db_f=RATING_F[1])
    wanted = machine.plate.target_subcooling_dk or _SUBCOOLING_K
    sized = exchanged
    for _ in range(4):
        if machine.metering in ("txv", "eev"):
            sized = _turned(sized, weather, "expansion_area_m2", lambda s: s.valve_opening - _OPENING, (0.4, 2.5))
        sized = _turned(sized, weather, "charge_kg", lambda s: s.subcooling_dk - wanted, (0.4, 1.8))
    return replace(sized, circuit=_with_compensator(sized, weather, machine.circuit.charge_kg, wanted))


def _plate(machine: Machine) -> Plate:
    """In heating a loss-of-charge switch stands where cooling has its low-pressure cutout."""
    fluid = refrigerant(machine.refrigerant)
    opens_pa = fluid.saturation_pa(max(_LOSS_OF_CHARGE_K, fluid.saturation_k(1.05 * fluid.min_pa, "dew")), "dew")
    return replace(machine.plate, low_cutout_gauge_pa=opens_pa - STANDARD_ATMOSPHERE_PA)


def _with_compensator(sized: Machine, weather: Conditions, charge_kg: float, wanted_k: float) -> Circuit:
    """The circuit with the whole charge in it; ``sized`` meets the plate's subcooling, ``wanted_k``, without one."""
    circuit, surplus = sized.circuit, charge_kg - sized.circuit.charge_kg
    if surplus <= 0.0:
        return circuit
    fluid = refrigerant(sized.refrigerant)
    liquid = fluid.saturated(RHO_F, log(solve(sized, weather).condensing_pa))
    return circuit._replace(
        charge_kg=charge_kg,
        compensator_m3=2.0 * surplus / liquid,
        compensator_from_k=wanted_k - 0.5 * _COMPENSATES_K,
        compensator_span_k=_COMPENSATES_K,
    )


def _turned(
    machine: Machine, weather: Conditions, field: str, miss: Callable[[CircuitState], float], span: tuple[float, float]
) -> Machine:
    """The machine with one field of its circuit multiplied so that ``miss(state)`` is nought, or comes nearest to it
    within ``span``.
    """
    from scipy.optimize import brentq  # takes a third of a second to import, and few processes heat

    def with_(factor: float) -> Machine:
        changed = machine.circuit._replace(**{field: getattr(machine.circuit, field) * factor})
        return replace(machine, circuit=changed)

    def at(factor: float) -> float:
        try:
            return miss(solve(with_(factor), weather))
        except NoConvergenceError:
            return -1.0 if factor < 1.0 else 1.0

    low, high = at(span[0]), at(span[1])
    if low * high > 0.0:
        return with_(span[0] if abs(low) < abs(high) else span[1])
    return with_(brentq(at, *span, xtol=1e-4))


@dataclass(frozen=True, kw_only=True)
class Indoors:
    """What a technician reads at the air handler of a machine that heats: supply air K, its rise over the house's air
    K, and heat given to the house W, blower included.
    """

    supply_k: float
    rise_dk: float
    heat_w: float


def indoors(machine: Machine, faults: tuple[Fault, ...], state: CircuitState) -> Indoors:
    """The :class:`Indoors` of a solved ``machine`` (one of :func:`heating`) with ``faults``; a machine whose
    compressor moves nothing blows the house's own air, warmer by the blower only.
    """
    circuit = plant(machine, faults).circuit
    share = circuit.condenser_air_fraction if state.equalized else state.condenser_stream_share
    flow = circuit.condenser_air_kg_s * share * state.barometer_pa / STANDARD_ATMOSPHERE_PA
    heat_w = circuit.condenser_blower_w + (0.0 if state.equalized else state.condenser_heat_w)
    rise_dk = heat_w / (flow * CP_AIR)
    return Indoors(
        supply_k=state.condenser_entering_k + rise_dk,
        rise_dk=rise_dk,
        heat_w=heat_w,
    )
