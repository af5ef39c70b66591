"""What keeps a box or a house at its temperature: what thermostat, solenoid, low-pressure control, clock and fans do
now, and what comes next.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from wolfsbane.cycle.controls import Controls

if TYPE_CHECKING:
    from wolfsbane.acting.rooms import Room

#: modes in which the compressor runs, in which the coil's fans stand, and in which the solenoid is shut
RUNS = ("on", "pumping_down", "fan_delay")
FANS_OFF = ("defrost", "drip", "fan_delay")
SHUT = ("pumping_down", "satisfied", "defrost", "drip")
#: words for each mode
SAID = {
    "on": "running",
    "pumping_down": "pumping down",
    "satisfied": "satisfied",
    "waiting": "about to start",
    "low_pressure": "off on low pressure",
    "defrost": "defrosting",
    "drip": "drip time",
    "fan_delay": "fan delay",
}
#: fans wait no longer than this for a coil that does not get cold, s (a usual limit; common practice, no source)
_FANS_WAIT_S = 300.0
#: a coil that is as cold as its refrigerant makes it has no temperature of its own here
COLD = 0.0
#: ice on a heat pump's coil at which a demand defrost begins, as a share of what closes it (assumed)
_DEMAND = 0.35


@dataclass(frozen=True, kw_only=True)
class Keeper:
    """The controls at work. ``mode`` is one of :data:`SAID`, for ``mode_s`` seconds; ``defrosts_in_s`` is clock time
    (on a heat pump running time), ``coil_k`` how warm a coil is in and after its defrost. ``starts``, ``on_s`` and
    ``all_s`` count starts of the compressor, seconds it ran and all seconds; ``defrosts`` are the minutes each one
    took. A compressor with two stages starts in ``low_stage``, and ran in it for ``low_s``.
    """

    controls: Controls
    troubles: tuple[str, ...] = ()
    mode: str = "on"
    mode_s: float = 0.0
    calls: bool = True
    defrosts_in_s: float = 0.0
    coil_k: float = COLD
    starts: int = 0
    on_s: float = 0.0
    all_s: float = 0.0
    defrosts: tuple[float, ...] = ()
    low_stage: bool = False
    low_s: float = 0.0

    @property
    def runs(self) -> bool:
        """Whether the compressor has power."""
        return self.mode in RUNS

    @property
    def shut(self) -> bool:
        """Whether a solenoid in the liquid line is shut."""
        return self.controls.pump_down and self.mode in SHUT

    @property
    def leaks(self) -> bool:
        """Whether the solenoid, shut, still passes a little."""
        return "solenoid_leaks" in self.troubles

    @property
    def fans(self) -> bool:
        """Whether the coil's fans run."""
        defrost = self.controls.defrost
        if defrost is not None and defrost.kind == "off_cycle":
            return True
        return self.mode not in FANS_OFF

    @property
    def hot_gas(self) -> bool:
        """Whether the compressor clears the coil with its discharge gas."""
        defrost = self.controls.defrost
        return defrost is not None and defrost.kind == "hot_gas" and self.mode == "defrost"

    @property
    def in_reverse(self) -> bool:
        """Whether a heat pump clears its coil by running in cooling."""
        defrost = self.controls.defrost
        return defrost is not None and defrost.kind == "reverse" and self.mode == "defrost"

    def into(self, mode: str) -> Keeper:
        """The keeper as it goes into another mode; a start of the compressor is counted."""
        starting = mode in RUNS and not self.runs
        low = self.controls.second_stage is not None if starting else self.low_stage
        return replace(self, mode=mode, mode_s=0.0, starts=self.starts + starting, low_stage=low)

    @property
    def said(self) -> str:
        """What it is at, in words."""
        return "running in low stage" if self.mode == "on" and self.low_stage else SAID[self.mode]


def decided(keeper: Keeper, room: Room, suction_gauge_pa: float, ice_share: float, coil_k: float) -> Keeper:
    """The keeper after it has looked at the room, the gauge and the clock; at most one change of mode at a time.

    ``coil_k`` is the coil's temperature while the compressor runs.
    """
    c = keeper.controls
    keeper = replace(keeper, calls=c.calls(room.air_k, now=keeper.calls))
    if keeper.mode == "defrost":
        return _defrosting(keeper)
    if keeper.mode == "drip":
        assert c.defrost is not None, "drips after a defrost"
        return keeper.into(_after_drip(keeper)) if keeper.mode_s >= c.defrost.drip_s else keeper
    if keeper.mode == "fan_delay":
        assert c.defrost is not None and c.defrost.fans_at_k is not None, "waits for its fans"
        cold = coil_k <= c.defrost.fans_at_k
        return keeper.into("on") if cold or keeper.mode_s >= _FANS_WAIT_S else keeper
    if _defrost_due(keeper, ice_share):
        return replace(keeper.into("defrost"), coil_k=coil_k)
    return _by_thermostat(keeper, suction_gauge_pa, room.air_k)


def _by_thermostat(keeper: Keeper, suction_gauge_pa: float, air_k: float) -> Keeper:
    c = keeper.controls
    if keeper.mode == "on":
        if keeper.calls:
            more = keeper.low_stage and c.calls_for_more(air_k, keeper.mode_s)
            return replace(keeper, low_stage=False) if more else keeper
        return keeper.into("pumping_down" if c.pump_down else "satisfied")
    if keeper.mode == "pumping_down":
        return keeper.into("on") if keeper.calls else keeper
    closed = c.closes_pa is None or suction_gauge_pa >= c.closes_pa
    if keeper.mode == "low_pressure":
        return keeper.into("on" if keeper.calls else "pumping_down") if closed else keeper
    if keeper.mode == "waiting":
        if not keeper.calls:
            return keeper.into("satisfied")
        return keeper.into("on") if closed else keeper
    # A thermostat that works a solenoid opens it at once, however often the compressor has pumped down meanwhile.
    if keeper.calls and (c.pump_down or keeper.mode_s >= c.min_off_s):
        return keeper.into("waiting" if c.pump_down else "on")
    # What boils out of the oil or leaks through the solenoid closes the control again: the compressor pumps down anew.
    return keeper.into("pumping_down") if c.pump_down and closed and keeper.mode_s > 0.0 else keeper


def cut_out(keeper: Keeper) -> Keeper:
    """The keeper once the low-pressure control has opened: the end of a pump-down, or off with the box calling."""
    return keeper.into("satisfied" if keeper.mode == "pumping_down" else "low_pressure")


def _defrost_due(keeper: Keeper, ice_share: float) -> bool:
    defrost = keeper.controls.defrost
    if defrost is None:
        return False
    if defrost.kind == "reverse":
        due = ice_share >= _DEMAND if defrost.demand else keeper.defrosts_in_s <= 0.0 and ice_share > 0.02
        return keeper.mode == "on" and due
    return keeper.defrosts_in_s <= 0.0


def _defrosting(keeper: Keeper) -> Keeper:
    defrost = keeper.controls.defrost
    assert defrost is not None, "defrosts"
    if keeper.coil_k < defrost.ends_at_k and keeper.mode_s < defrost.longest_s:
        return keeper
    done = replace(keeper, defrosts=(*keeper.defrosts, keeper.mode_s / 60.0))
    done = replace(done, defrosts_in_s=max(defrost.every_s - keeper.mode_s, 60.0))
    return done.into("drip" if defrost.drip_s > 0.0 else _after_drip(done))


def _after_drip(keeper: Keeper) -> str:
    """The box calls after a defrost, whatever the thermostat said before it; a fan delay comes first."""
    defrost = keeper.controls.defrost
    if defrost is not None and defrost.fans_at_k is not None and keeper.calls:
        return "fan_delay"
    if not keeper.calls:
        return "satisfied"
    return "waiting" if keeper.controls.pump_down else "on"
