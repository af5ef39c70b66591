"""What switches a machine: thermostat, low-pressure control, defrost and fans, as settings a technician reads and
turns.

The settings of a machine follow from what it cools (usual ones; common practice, no source); a trouble is a setting
or a part of the controls that is wrong. Controls move nothing in a steady solve: they show in time.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.units import PA_PER_PSI, STANDARD_ATMOSPHERE_PA, f_to_k

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine

#: differential of a thermostat around what it is set to, K either way
_BOX_DK, _ROOM_DK = 2.0 / 1.8, 0.75 / 1.8


@dataclass(frozen=True, kw_only=True)
class Defrost:
    """How a coil is cleared of ice.

    ``kind``: off_cycle (the box's own air), electric, hot_gas, or reverse (a heat pump runs in cooling). It starts
    every ``every_s`` of clock time (``demand``: when ice has closed a share of the coil), ends when the coil reaches
    ``ends_at_k`` or after ``longest_s``. Then ``drip_s`` pass, and the fans wait until the coil is down to
    ``fans_at_k`` (None: they never stop).
    """

    kind: str
    every_s: float
    longest_s: float
    ends_at_k: float
    drip_s: float = 0.0
    fans_at_k: float | None = None
    heat_share: float = 1.0
    demand: bool = False


@dataclass(frozen=True, kw_only=True)
class Stage:
    """When high stage comes on: ``beyond_k`` past where the thermostat calls, or after ``after_s`` of low stage."""

    beyond_k: float
    after_s: float


@dataclass(frozen=True, kw_only=True)
class Controls:
    """Settings of one machine. Temperatures K, pressures Pa gauge, times s.

    The thermostat calls above ``set_k`` plus ``differential_k`` (below, where it ``heats``) and is satisfied as far on
    the other side. With ``pump_down`` it works a solenoid in the liquid line, and the low-pressure control, which opens
    at ``opens_pa`` and closes at ``closes_pa``, stops and starts the compressor. ``second_stage`` is None where there
    is one stage only.
    """

    set_k: float
    differential_k: float
    heats: bool = False
    pump_down: bool = False
    opens_pa: float | None = None
    closes_pa: float | None = None
    min_off_s: float = 180.0
    defrost: Defrost | None = None
    crankcase_heater: bool = True
    second_stage: Stage | None = None

    def calls(self, air_k: float, *, now: bool) -> bool:
        """Whether the thermostat asks for the machine in air of ``air_k``; ``now`` is what it asked before."""
        over = (air_k - self.set_k) * (-1.0 if self.heats else 1.0)
        return over > self.differential_k or (now and over > -self.differential_k)

    def calls_for_more(self, air_k: float, stage_s: float) -> bool:
        """Whether low stage, on for ``stage_s``, is not enough in air of ``air_k``."""
        if self.second_stage is None:
            return False
        over = (air_k - self.set_k) * (-1.0 if self.heats else 1.0)
        return over > self.differential_k + self.second_stage.beyond_k or stage_s >= self.second_stage.after_s


def controls_of(machine: Machine, set_k: float) -> Controls:
    """The usual :class:`Controls` of a machine whose thermostat is set to ``set_k``."""
    low = machine.plate.low_cutout_gauge_pa
    if machine.application == "walk_in_cooler":
        defrost = Defrost(kind="off_cycle", every_s=6 * 3600.0, longest_s=2400.0, ends_at_k=f_to_k(36.0))
        return Controls(
            set_k=set_k,
            differential_k=_BOX_DK,
            pump_down=True,
            opens_pa=low,
            closes_pa=low + 15.0 * PA_PER_PSI,
            defrost=defrost,
        )
    if machine.application == "walk_in_freezer":
        defrost = Defrost(
            kind=machine.defrost or "electric",
            every_s=6 * 3600.0,
            longest_s=2400.0,
            ends_at_k=f_to_k(55.0),
            drip_s=120.0,
            fans_at_k=f_to_k(25.0),
        )
        return Controls(
            set_k=set_k,
            differential_k=_BOX_DK,
            pump_down=True,
            opens_pa=low,
            closes_pa=low + 10.0 * PA_PER_PSI,
            defrost=defrost,
        )
    if machine.application == "reach_in" and machine.defrost:
        defrost = Defrost(
            kind=machine.defrost,
            every_s=8 * 3600.0,
            longest_s=1800.0,
            ends_at_k=f_to_k(50.0),
            drip_s=120.0,
            fans_at_k=f_to_k(20.0),
        )
        return Controls(set_k=set_k, differential_k=_BOX_DK, defrost=defrost, crankcase_heater=False)
    if machine.application == "reach_in":
        defrost = Defrost(kind="off_cycle", every_s=6 * 3600.0, longest_s=1500.0, ends_at_k=f_to_k(36.0))
        return Controls(set_k=set_k, differential_k=_BOX_DK, defrost=defrost, crankcase_heater=False)
    if machine.in_heating:
        defrost = Defrost(kind="reverse", every_s=3600.0, longest_s=600.0, ends_at_k=f_to_k(57.0), demand=True)
        return Controls(set_k=set_k, differential_k=_ROOM_DK, heats=True, min_off_s=300.0, defrost=defrost)
    more = None if machine.low_stage is None or machine.stage == "low" else _MORE
    return Controls(set_k=set_k, differential_k=_ROOM_DK, min_off_s=300.0, second_stage=more)


#: high stage comes on 1.5 degF past the differential, or after 15 minutes of low stage (usual settings; common
#: practice, no source)
_MORE = Stage(beyond_k=1.5 / 1.8, after_s=900.0)


@dataclass(frozen=True, kw_only=True)
class Trouble:
    """Something wrong with the controls: ``apply`` returns the settings as they then work; ``shows`` says what of
    it.
    """

    id: str
    name: str
    suits: Callable[[Controls], bool]
    suits_text: str
    apply: Callable[[Controls, Machine], Controls]
    shows: str


def _defrost(**changed: float | bool | None) -> Callable[[Controls, Machine], Controls]:
    def apply(controls: Controls, machine: Machine) -> Controls:
        assert controls.defrost is not None, "only where there is a defrost"
        return replace(controls, defrost=replace(controls.defrost, **changed))  # type: ignore[arg-type]

    return apply


def _opens_too_high(controls: Controls, machine: Machine) -> Controls:
    """The control opens at the suction a box just above its setting holds."""
    fluid = refrigerant(machine.refrigerant)
    gauge = fluid.saturation_pa(controls.set_k - _SHORT_DK, "dew") - STANDARD_ATMOSPHERE_PA
    assert controls.opens_pa is not None and controls.closes_pa is not None, "only where there is such a control"
    opens = max(gauge, controls.opens_pa)
    return replace(controls, opens_pa=opens, closes_pa=opens + (controls.closes_pa - controls.opens_pa))


def _closes_too_low(controls: Controls, machine: Machine) -> Controls:
    assert controls.opens_pa is not None, "only where there is such a control"
    return replace(controls, closes_pa=controls.opens_pa + _CLOSE_PA)


#: how far below the box's setting a coil boils as the box comes to it, K; a cut-in that close to the cutout, Pa
_SHORT_DK, _CLOSE_PA = 15.0 / 1.8, 3.0 * PA_PER_PSI
_NEVER_S = 1e9
TROUBLES = {
    t.id: t
    for t in (
        Trouble(
            id="thermostat_set_cold",
            name="Thermostat set 8 °F too cold",
            suits=lambda c: not c.heats,
            suits_text="a machine that cools",
            apply=lambda c, m: replace(c, set_k=c.set_k - 8.0 / 1.8),
            shows="Rarely cycles off; the coil ices up between defrosts.",
        ),
        Trouble(
            id="thermostat_set_warm",
            name="Thermostat set 8 °F too warm",
            suits=lambda c: not c.heats,
            suits_text="a machine that cools",
            apply=lambda c, m: replace(c, set_k=c.set_k + 8.0 / 1.8),
            shows="The box runs warm, but the system cycles off normally.",
        ),
        Trouble(
            id="thermostat_narrow",
            name="Thermostat differential too small",
            suits=lambda c: True,
            suits_text="any machine",
            apply=lambda c, m: replace(c, differential_k=0.15 * c.differential_k, min_off_s=0.0),
            shows="Short cycles: many starts an hour.",
        ),
        Trouble(
            id="high_stage_never",
            name="High stage never comes on",
            suits=lambda c: c.second_stage is not None,
            suits_text="a machine with a two-stage compressor",
            apply=lambda c, m: replace(c, second_stage=Stage(beyond_k=1e3, after_s=_NEVER_S)),
            shows="Runs on and on in low stage, all figures normal; the house is not held on a hot day.",
        ),
        Trouble(
            id="low_pressure_control_high",
            name="Low-pressure control opens too high",
            suits=lambda c: c.opens_pa is not None,
            suits_text="a machine with a low-pressure control",
            apply=_opens_too_high,
            shows="Cuts out with the box still warm, and comes back by itself: short cycles.",
        ),
        Trouble(
            id="low_pressure_control_close",
            name="Low-pressure control cut-in too close to its cutout",
            suits=lambda c: c.opens_pa is not None,
            suits_text="a machine with a low-pressure control",
            apply=_closes_too_low,
            shows="After the pump-down it starts again and again on what boils out of the oil.",
        ),
        Trouble(
            id="defrost_never_starts",
            name="Defrost never starts",
            suits=lambda c: c.defrost is not None,
            suits_text="a machine that defrosts",
            apply=_defrost(every_s=_NEVER_S, demand=False),
            shows="Ice closes the coil within days; suction falls and the box warms.",
        ),
        Trouble(
            id="defrost_by_clock",
            name="Timed defrost, every 30 minutes of run time",
            suits=lambda c: c.defrost is not None and c.defrost.demand,
            suits_text="a heat pump that defrosts by demand",
            apply=_defrost(every_s=1800.0, demand=False),
            shows="Defrosts after every half hour of run time, ice or not, and blows cool air into the house.",
        ),
        Trouble(
            id="defrost_never_ends",
            name="Defrost not terminated by temperature",
            suits=lambda c: c.defrost is not None and c.defrost.kind != "off_cycle",
            suits_text="a machine whose defrost is ended by temperature",
            apply=_defrost(ends_at_k=1e3),
            shows="Runs out its time limit every defrost: a clear coil is heated, and the heat goes into the box.",
        ),
        Trouble(
            id="defrost_ends_early",
            name="Defrost ends too early",
            suits=lambda c: c.defrost is not None,
            suits_text="a machine that defrosts",
            apply=_defrost(longest_s=240.0),
            shows="Some ice is left on the coil each time, and it builds up.",
        ),
        Trouble(
            id="fan_delay_failed",
            name="Evaporator fans start at once after a defrost",
            suits=lambda c: c.defrost is not None and c.defrost.fans_at_k is not None,
            suits_text="a machine whose fans wait after a defrost",
            apply=_defrost(fans_at_k=None),
            shows="Blows warm, wet air into the box after each defrost: box temperature jumps, frost on the product.",
        ),
        Trouble(
            id="solenoid_leaks",
            name="Liquid solenoid does not shut tight",
            suits=lambda c: c.pump_down,
            suits_text="a machine with a pump-down cycle",
            apply=lambda c, m: c,
            shows="The suction creeps up after each pump-down: the compressor starts for half a minute, over and over.",
        ),
    )
}


def troubled(controls: Controls, ids: tuple[str, ...], machine: Machine) -> Controls:
    """The settings of ``machine`` with these troubles. Raises BadInputError for one that is unknown or that they
    cannot have.
    """
    for trouble_id in ids:
        trouble = TROUBLES.get(trouble_id)
        if trouble is None:
            raise BadInputError("trouble", trouble_id, ", ".join(TROUBLES))
        if not trouble.suits(controls):
            raise BadInputError("trouble", trouble_id, f"one for {trouble.suits_text}")
        controls = trouble.apply(controls, machine)
    return controls
