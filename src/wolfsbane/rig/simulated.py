"""A rig that stands in for a real one: the stepped machine with parameters of its own that nobody is told, sensors
that are off by a little, devices that plant faults, and a scale.

Same seed, same commands at the same seconds, same readings.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from random import Random
from typing import TYPE_CHECKING

from wolfsbane.acting.settling import advance, arrive, moment
from wolfsbane.acting.site import CHARGE_FAULTS, Site, on_site
from wolfsbane.acting.stepping import Port, started, stopped
from wolfsbane.cycle.conditions import Conditions
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import Fault, faults_for
from wolfsbane.cycle.instruments import values
from wolfsbane.cycle.psychrometrics import psychrolib
from wolfsbane.cycle.units import KG_PER_OZ, M_PER_FT, barometer_at_altitude_pa, f_to_k
from wolfsbane.rig.individual import PARAMETERS, Individual
from wolfsbane.rig.points import kind_of

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.rig.rig import Device, Rig

#: how far its own numbers are off the profile's at most, as a share
_OFF = {
    "condenser": 0.15,
    "condenser_air": 0.10,
    "evaporator": 0.15,
    "evaporator_air": 0.15,
    "compressor": 0.10,
    "efficiency": 0.05,
    "charge": 0.06,
    "metering": 0.05,
    "line": 0.15,
}
#: kind -> (what a sensor is off by at most, scatter of one reading, drift in a day), SI
_SENSORS = {
    "pressure": (8_000.0, 1_500.0, 700.0),
    "temperature": (0.6, 0.06, 0.1),
    "current": (0.1, 0.05, 0.02),
    "humidity": (0.02, 0.004, 0.005),
    "mass": (0.0, 0.001, 0.0),
    "flow": (0.01, 0.005, 0.0),
    "static": (2.0, 1.0, 0.5),
}
#: what the cylinder on its scale weighs when it has neither given nor taken, kg: 29 lb 14 oz
SCALE_KG = 478.0 * KG_PER_OZ
#: how fast refrigerant is weighed in or out, kg/s on a machine that moves a kilogram a second
_WEIGHS = 0.03
#: a hand valve does little at first: its way is the share of its turns to this power; at its last turn so much of
#: the worst is reached; of a share covered or of speed taken off so much of the air is lost (all assumed)
_BEND, _TURNED, _PERCENT = 2.2, 0.7, 0.9


@dataclass(frozen=True, kw_only=True)
class Hidden:
    """What nobody is told of a rig: its own machine, what its sensors show too much, how its devices answer."""

    individual: Individual
    devices: dict[str, float]
    dead: str | None = None


def hidden(rig: Rig, profile: Machine, seed: int, dead: str | None = None) -> Hidden:
    """What a rig with this seed hides; ``dead`` is a point whose channel shows nothing."""
    draw = Random(seed)
    factors = {name: 1.0 + most * draw.uniform(-1.0, 1.0) for name, most in _OFF.items()}
    if profile.metering in ("txv", "eev"):
        factors["metering"] = 1.0
    offsets = {}
    for channel in rig.channels:
        most = _SENSORS[kind_of(channel.point)][0]
        offsets[channel.point] = most * draw.uniform(-1.0, 1.0)
    return Hidden(
        individual=Individual(
            factors={name: factors[name] for name in PARAMETERS},
            superheat_dk=draw.uniform(-1.0, 1.0) if profile.metering == "txv" else 0.0,
            offsets=offsets,
        ),
        devices={device.id: draw.uniform(0.85, 1.15) for device in rig.devices},
        dead=dead,
    )


@dataclass
class SimulatedRig:
    """A running rig. ``positions`` are its devices'; ``step`` moves it on, ``readings`` is what its channels show."""

    rig: Rig
    profile: Machine
    seed: int = 1
    dead: str | None = None
    #: mean weather, degrees F: outdoors, return air, its wet bulb (or the box)
    outdoor_f: float = 88.0
    return_f: float = 76.0
    wet_bulb_f: float = 63.0
    seconds: float = 0.0
    positions: dict[str, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self._hidden = hidden(self.rig, self.profile, self.seed, self.dead)
        self.machine = self._hidden.individual.machine(self.profile)
        self._noise = Random(self.seed * 7919 + 1)
        self._possible = {k.id: k for k in faults_for(self.profile)}
        self._moved_kg = 0.0
        self._on = True
        self.site = arrive(on_site(self.machine, self.weather(), ()))

    def weather(self) -> Conditions:
        """The lab's air now: it wanders by a few degrees over hours."""
        slow = 2.0 * math.pi * self.seconds / 21_600.0
        outdoor = f_to_k(self.outdoor_f + 5.0 * math.sin(slow + self.seed))
        inside = f_to_k(self.return_f + 1.2 * math.sin(1.7 * slow))
        barometer = barometer_at_altitude_pa(self.rig.altitude_ft * M_PER_FT)
        if self.machine.refrigeration:
            from wolfsbane.cycle.conditions import box_wet_bulb_k

            box = f_to_k(self.return_f + 0.6 * math.sin(1.7 * slow))
            return Conditions(
                outdoor_k=outdoor,
                return_k=box,
                return_wet_bulb_k=box_wet_bulb_k(self.machine.application, box, barometer),
                barometer_pa=barometer,
            )
        wet = f_to_k(self.wet_bulb_f + 0.8 * math.sin(1.3 * slow))
        return Conditions(outdoor_k=outdoor, return_k=inside, return_wet_bulb_k=wet, barometer_pa=barometer)

    def set(self, device_id: str, position: float) -> None:
        """Moves a device; a position beyond its ends stops at them."""
        device = self.rig.device(device_id)
        self.positions[device_id] = min(max(position, 0.0), device.most)

    def by_hand(self, oz: float) -> None:
        """Somebody lets so much out of the cylinder on the scale into it (negative: takes it out into the cylinder), at
        the rate at which it can be throttled.
        """
        for device in self.rig.devices:
            if device.kind == "charge":
                now = self.positions.get(device.id, 0.0)
                self.positions[device.id] = min(max(now - oz, -device.most), device.most)

    def faults(self) -> tuple[Fault, ...]:
        """What its devices plant now: each family once, the worse one where two do the same."""
        found: dict[str, Fault] = {}
        for device in self.rig.devices:
            fault = self._planted(device)
            if fault is not None and fault.id not in CHARGE_FAULTS:
                found.setdefault(fault.id, fault)
        return tuple(found.values())

    def _planted(self, device: Device) -> Fault | None:
        position = self.positions.get(device.id, 0.0)
        family = next((f for f in device.of.faults if f in self._possible and f not in CHARGE_FAULTS), None)
        if position <= 0.0 or family is None or device.kind == "switch":
            return None
        kind, own = self._possible[family], self._hidden.devices[device.id]
        if device.unit.startswith("%"):
            severity = kind.fault_free - _PERCENT * own * position
        else:
            share = (position / device.most) ** _BEND
            severity = kind.fault_free + _TURNED * own * share * (kind.limit - kind.fault_free)
        low, high = sorted((kind.fault_free, kind.limit))
        return Fault(id=family, severity=min(max(severity, low), high))

    def _wanted_kg(self) -> float:
        """Weight that should have been taken out by now."""
        return sum(
            self.positions.get(d.id, 0.0) * KG_PER_OZ * (1 if d.unit == "oz taken out" else 0)
            for d in self.rig.devices
            if d.kind == "charge"
        )

    def missing_kg(self) -> float:
        """What has still to be taken out (put in: negative) until the weights are as they were set."""
        return self._wanted_kg() - self._moved_kg

    def _runs(self) -> bool:
        return not any(self.positions.get(d.id, 0.0) >= 0.5 for d in self.rig.devices if d.kind == "switch")

    def _solenoid_shut(self) -> bool:
        return any(self.positions.get(d.id, 0.0) >= 0.5 for d in self.rig.devices if d.kind == "solenoid")

    def step(self, seconds: float) -> None:
        """Runs on; steps of the machine are a second."""
        left = seconds
        while left > 1e-9:
            part = min(left, 10.0)
            self._stepped(part)
            left -= part

    def _stepped(self, seconds: float) -> None:
        site: Site = replace(self.site, conditions=self.weather(), faults=self.faults())
        site = replace(site, temporary=replace(site.temporary, liquid_shut=self._solenoid_shut()))
        if self._runs() != self._on:
            self._on = self._runs()
            site = started(site) if self._on else stopped(site)
        elif self._on and site.trip is not None and not any(p != 0.0 for p in self.positions.values()):
            site = started(site)
        missing = self.missing_kg()
        port = None
        if abs(missing) > 1e-4 and site.running:
            rate = min(_WEIGHS * self.profile.circuit.mass_flow_ref_kg_s, abs(missing) / seconds)
            kg_s = -math.copysign(rate, missing)
            port = Port(side="low", kg_s=kg_s, enthalpy_j_kg=250e3)
            self._moved_kg -= kg_s * seconds
        try:
            site, _ = advance(site, seconds, port=port, every_s=1e9)
        except NoConvergenceError:
            site = stopped(site)
        self.site = site
        self.seconds += seconds

    @property
    def running(self) -> bool:
        """Whether the compressor runs."""
        return self.site.running

    def truth(self) -> dict[str, float]:
        """Every point of the machine now, SI with gauge pressures, as good instruments would show it."""
        state = moment(self.site).state
        found = values(self.machine, state, self.site.faults)
        barometer = state.barometer_pa
        found = {k: v - barometer if kind_of(k) == "pressure" else v for k, v in found.items()}
        if "return_wb" in found:
            dry, wet = found["return_db"] - 273.15, found["return_wb"] - 273.15
            found["return_rh"] = psychrolib.GetRelHumFromTWetBulb(dry, wet, barometer)
        found["weight"] = SCALE_KG + self._moved_kg
        return found

    def readings(self) -> dict[str, float | None]:
        """What the channels show now, SI: off by their own error, scattered, drifting; None where one is dead."""
        truth = self.truth()
        found: dict[str, float | None] = {}
        for channel in self.rig.channels:
            _, scatter, drift = _SENSORS[kind_of(channel.point)]
            noise = self._noise.gauss(0.0, scatter)
            if channel.point == self._hidden.dead or channel.point not in truth:
                found[channel.point] = None
                continue
            off = self._hidden.individual.offsets[channel.point]
            found[channel.point] = truth[channel.point] + off + noise + drift * self.seconds / 86_400.0
        return found
