"""What a plan would do to the rig as it stands now: the stepped machine, as this rig was calibrated, fed with the
weather it has and what is planted.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from wolfsbane.acting.settling import advance, arrive, moment
from wolfsbane.acting.site import CHARGE_FAULTS, charged_kg, on_site
from wolfsbane.acting.stepping import Port
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import Fault, fault_kind
from wolfsbane.cycle.units import KG_PER_OZ, PA_PER_PSI, k_to_f

if TYPE_CHECKING:
    from wolfsbane.acting.trace import Moment
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.rig.rig import Rig

#: refrigerant is throttled in so fast, kg/s: about an ounce in 12 s; liquid's enthalpy, J/kg (the machine's own scale)
_KG_S, _LIQUID_J_KG = KG_PER_OZ / 12.0, 250e3
#: it is followed so long afterwards, s, and looked at this often
_AFTER_S, _EVERY_S = 900.0, 20.0
#: a charge within so many per cent is right
_NO_FAULT = 0.2
#: nobody follows more than so many charges in, or out
_MOST_IN, _MOST_OUT = 1.5, 0.95
#: a suction line so little over its saturation brings liquid to the compressor, K
_WET_K = 1.0
#: liquid at the compressor for longer than this is said, s
_WET_S = 60.0


@dataclass(frozen=True, kw_only=True)
class Forecast:
    """What would come of a plan: ``warnings`` in words, worst first; figures at the end in K and Pa (None where the
    machine does not stay on), and the weight it moved, kg.
    """

    warnings: tuple[str, ...]
    head_pa: float | None
    suction_pa: float | None
    superheat_k: float | None
    subcooling_k: float | None
    moved_kg: float

    @property
    def harms(self) -> bool:
        """Whether it would pass a limit."""
        return bool(self.warnings)


def forecast(
    rig: Rig, machine: Machine, weather: Conditions, faults: tuple[Fault, ...], add_kg: float, repaired: str = ""
) -> Forecast:
    """Follow a plan on ``machine`` (the rig as calibrated) from where it stands with ``faults``: ``add_kg`` goes in
    through the low side (out where negative), ``repaired`` is a fault that is put right first. A weight the machine
    cannot hold is followed no further than that. Raises NoConvergenceError where there is no state to begin from.
    """
    charge, wanted_kg = machine.circuit.charge_kg, add_kg
    add_kg = min(max(add_kg, -_MOST_OUT * charge), _MOST_IN * charge)
    site = arrive(on_site(machine, weather, tuple(f for f in faults if f.id != repaired)))
    if repaired and any(f.id == repaired for f in faults):
        site = arrive(replace(site, faults=tuple(f for f in site.faults if f.id != repaired)))
    moments: list[Moment] = [moment(site)]
    seconds = abs(add_kg) / _KG_S
    lost = False
    try:
        if seconds > 1.0:
            port = Port(side="low", kg_s=math.copysign(_KG_S, add_kg), enthalpy_j_kg=_LIQUID_J_KG)
            site, some = advance(site, seconds, port=port, every_s=_EVERY_S)
            moments += some
        site, some = advance(site, _AFTER_S, every_s=_EVERY_S)
        moments += some
    except NoConvergenceError:
        lost = True
    last = moments[-1]
    runs = last.running and not lost and site.trip is None
    state = last.state
    barometer = state.barometer_pa
    return Forecast(
        warnings=tuple(_too_much(wanted_kg, add_kg) + _warnings(rig, machine, moments, add_kg, lost)),
        head_pa=state.head_pa - barometer if runs else None,
        suction_pa=state.suction_pa - barometer if runs else None,
        superheat_k=state.superheat_dk if runs else None,
        subcooling_k=state.subcooling_dk if runs else None,
        moved_kg=add_kg,
    )


def faults_now(machine: Machine, planted: tuple[Fault, ...], moved_kg: float) -> tuple[Fault, ...]:
    """What is wrong with a rig after ``moved_kg`` went in (out where negative) beside what was planted."""
    charge = machine.circuit.charge_kg
    share = 100.0 * (charged_kg(machine, planted) + moved_kg) / charge
    others = tuple(f for f in planted if f.id not in CHARGE_FAULTS)
    if abs(share - 100.0) < _NO_FAULT:
        return others
    family = fault_kind("undercharge" if share < 100.0 else "overcharge").on(machine)
    low, high = sorted((family.fault_free, family.limit))
    return (*others, Fault(id=family.id, severity=round(min(max(share, low), high), 2)))


def _too_much(wanted_kg: float, followed_kg: float) -> list[str]:
    """What is said of a weight that is no weight for this machine."""
    if wanted_kg == followed_kg:
        return []
    way = "more than this machine and its lines hold" if wanted_kg > 0.0 else "more than is in it"
    return [f"{abs(wanted_kg) / KG_PER_OZ:.0f} oz is {way}."]


def _warnings(rig: Rig, machine: Machine, moments: list[Moment], add_kg: float, lost: bool) -> list[str]:
    plate, limits = machine.plate, rig.limits
    head = limits.head_psig if limits.head_psig is not None else plate.high_cutout_gauge_pa / PA_PER_PSI - 50.0
    low = limits.suction_psig if limits.suction_psig is not None else plate.low_cutout_gauge_pa / PA_PER_PSI
    hot = limits.discharge_f if limits.discharge_f is not None else min(220.0, k_to_f(plate.discharge_cutout_k) - 10.0)
    began = moments[0].time_s
    what = (
        f"Adding {add_kg / KG_PER_OZ:.0f} oz now"
        if add_kg > 0.0
        else f"Taking {-add_kg / KG_PER_OZ:.0f} oz out now"
        if add_kg < 0.0
        else "Doing that now"
    )
    found = []
    worst = max(moments, key=lambda m: m.state.head_pa)
    psig = (worst.state.head_pa - worst.state.barometer_pa) / PA_PER_PSI
    if psig > head:
        over = next(m for m in moments if (m.state.head_pa - m.state.barometer_pa) / PA_PER_PSI > head)
        found.append(
            f"{what} would put the head over {head:.0f} psig {_when(over.time_s - began)}, up to {psig:.0f} psig."
        )
    running = [m for m in moments if m.running]
    if running:
        least = min(running, key=lambda m: m.state.suction_pa)
        psig = (least.state.suction_pa - least.state.barometer_pa) / PA_PER_PSI
        if psig < low:
            found.append(f"{what} would draw the suction down to {psig:.0f} psig, under {low:.0f} psig.")
        hottest = max(running, key=lambda m: m.state.discharge_line_k)
        if k_to_f(hottest.state.discharge_line_k) > hot:
            found.append(f"{what} would heat the discharge line to {k_to_f(hottest.state.discharge_line_k):.0f} °F.")
        wet = sum(_EVERY_S for m in running if m.state.superheat_dk < _WET_K)
        if wet > _WET_S:
            found.append(f"{what} would bring liquid to the compressor for {wet / 60.0:.0f} min.")
    stopped = next((m for m in moments if not m.running), None)
    if lost or stopped is not None:
        when = "" if stopped is None else f" {_when(stopped.time_s - began)}"
        found.append(f"{what} would stop the machine on a cutout{when}.")
    return found


def _when(seconds: float) -> str:
    return "at once" if seconds < 45.0 else f"in {max(round(seconds / 60.0), 1)} min"
