"""A machine on site, as it stands at one moment: its circuit, where every gram is, what was done, what is temporary."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.cylinders import Cylinder, stock
from wolfsbane.cycle.conditions import Conditions
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault, fault_kind, plant
from wolfsbane.cycle.frost import DEFROST_EVERY_H, blocked_share, iced
from wolfsbane.cycle.machine import Machine
from wolfsbane.cycle.stages import in_low_stage
from wolfsbane.cycle.state import Trip
from wolfsbane.cycle.transient import Moving, Warmth
from wolfsbane.cycle.units import M_PER_FT

if TYPE_CHECKING:
    from wolfsbane.acting.keeper import Keeper
    from wolfsbane.acting.rooms import Room
    from wolfsbane.cycle.balance import Figures
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Circuit

#: these only say how much is in the circuit; on site the mass itself stands for them
CHARGE_FAULTS = ("undercharge", "overcharge")
#: a bulb held in the hand or in warm water, and in ice water
WARMED, CHILLED = "warmed", "chilled"
#: superheat a full turn of an adjusting stem is worth, K (2 to 4 degF, common practice, no source)
K_PER_TURN = 1.7


#: a solenoid that does not shut tight passes so little; air that moves by itself over a coil whose fans stand, as a
#: share of what they move (both assumed)
SOLENOID_LEAKS, FANS_OFF_SHARE = 0.985, 0.12


@dataclass(frozen=True, kw_only=True)
class Drift:
    """Weather and room that change while one works, K an hour."""

    outdoor_k_h: float = 0.0
    return_k_h: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Temporary:
    """What must be undone before leaving: condenser face covered (share), liquid valve shut, bulb held,
    jumper on a cutout.
    """

    board_share: float = 0.0
    liquid_shut: bool = False
    bulb: str | None = None

    @property
    def left(self) -> list[str]:
        """What still stands, as words."""
        found = []
        if self.board_share > 0.0:
            found.append(f"a board over {100 * self.board_share:.0f} % of the condenser")
        if self.liquid_shut:
            found.append("the liquid service valve is closed")
        if self.bulb:
            found.append(f"the bulb is off the suction line, {self.bulb}")
        return found


@dataclass(frozen=True, kw_only=True)
class Entry:
    """One line of the log: seconds since arrival, what was done, what was said, weights in kg by place, minutes,
    money.
    """

    time_s: float
    action: str
    said: tuple[str, ...]
    moved_kg: float = 0.0
    cylinder: str | None = None
    minutes: float = 0.0
    money: str = "none"


@dataclass(frozen=True, kw_only=True)
class Site:
    """A machine on site. Masses kg, temperatures K; ``faults`` are those of the machine that are no matter of charge.

    ``ice_share`` is ice on the coil as a share of what closes it; a box defrosts in ``defrost_in_s`` and is at it
    for another ``defrosting_s``. With a ``room`` the box or the house answers to the machine, and its ``keeper``
    switches it; without one the conditions are held. ``fan_on`` is whether a condenser fan that a pressure switch
    cycles runs now, ``fan_share`` of its air flows.
    ``line_full`` is how much of the liquid line is full behind a service valve that is shut.
    ``warmth`` is how warm the heavy parts of a stopped machine are,
    None before it has stopped. ``circuit_kg`` is in the machine, ``hoses_kg`` in the hoses, ``lost_kg`` in the air.
    ``moving`` is None while it stands; ``shown`` are the solver's figures as the instruments have followed them
    (:class:`~wolfsbane.cycle.balance.Figures`), None until it has run; ``units`` is the system sentences are written
    in.
    """

    machine: Machine
    refrigerant: str
    conditions: Conditions
    faults: tuple[Fault, ...]
    circuit_kg: float
    time_s: float = 0.0
    running: bool = True
    ran_s: float = 3600.0
    trip: Trip | None = None
    moving: Moving | None = None
    low_side_kg: float = 0.0
    warmth: Warmth | None = None
    shown: Figures | None = None
    valve_mean: float | None = None
    heat_share: float = 0.0
    fan_on: bool = True
    fan_share: float = 1.0
    line_full: float = 1.0
    drift: Drift = field(default_factory=Drift)
    temporary: Temporary = field(default_factory=Temporary)
    wet_share: float = 0.0
    ice_share: float = 0.0
    defrost_in_s: float = 3600.0 * DEFROST_EVERY_H
    defrosting_s: float = 0.0
    room: Room | None = None
    keeper: Keeper | None = None
    stem_turns: float = 0.0
    leaking: bool = False
    cylinders: tuple[Cylinder, ...] = ()
    hoses_kg: float = 0.0
    hoses_connected: bool = False
    lost_kg: float = 0.0
    log: tuple[Entry, ...] = ()
    units: str = "us"

    @property
    def heavy_parts(self) -> Warmth | None:
        """How warm the heavy parts are now, running or not; None before they were followed."""
        return self.warmth if self.moving is None else self.moving.warmth

    @property
    def liquid_shut(self) -> float:
        """How far the way of the liquid is shut, 0 to 1: by the service valve, or by a solenoid, which may leak."""
        if self.temporary.liquid_shut:
            return 1.0
        if self.keeper is None or not self.keeper.shut:
            return 0.0
        return SOLENOID_LEAKS if self.keeper.leaks else 1.0

    @property
    def low_cutout_gauge_pa(self) -> float:
        """Where the low-pressure cutout opens, Pa gauge: its setting, or the plate's."""
        if self.keeper is None or self.keeper.controls.opens_pa is None:
            return self.machine.plate.low_cutout_gauge_pa
        return self.keeper.controls.opens_pa

    @property
    def right_kg(self) -> float:
        """The charge this very machine should hold: its plate's, with what longer lines ask for."""
        feet = next((f.severity for f in self.faults if f.id == "long_liquid_line"), 0.0)
        return self.machine.circuit.charge_kg + feet * M_PER_FT * self.machine.plate.charge_per_line_kg_m

    @property
    def total_kg(self) -> float:
        """Every gram, wherever it is: no action and no time changes it."""
        return self.circuit_kg + self.hoses_kg + self.lost_kg + sum(c.kg for c in self.cylinders)

    def cylinder(self, cylinder_id: str) -> Cylinder:
        """The cylinder called so. Raises BadInputError."""
        for cylinder in self.cylinders:
            if cylinder.id == cylinder_id:
                return cylinder
        raise BadInputError("cylinder", cylinder_id, ", ".join(c.id for c in self.cylinders))

    def with_cylinder(self, changed: Cylinder) -> Site:
        """A copy with one cylinder changed."""
        return replace(self, cylinders=tuple(changed if c.id == changed.id else c for c in self.cylinders))

    def circuit(self) -> Circuit:
        """The circuit as it now stands: faults, charge, what is temporary, ice, water, the valve's stem."""
        own_k = self.machine.circuit.valve_static_superheat_k
        base = self.machine.with_circuit(
            self.machine.circuit._replace(valve_static_superheat_k=own_k - self.stem_turns * K_PER_TURN)
        )
        low = base.low_stage if self.keeper is not None and self.keeper.low_stage else None
        if low is not None:
            base = base.with_circuit(in_low_stage(base.circuit, low))
        if self.ice_share > 0.0:
            base = iced(base, blocked_share(self.ice_share))
        own = tuple(f for f in self.faults if f.id not in ("wrong_refrigerant", "wet_condenser"))
        circuit = plant(base, own).circuit
        if self.keeper is not None and not self.keeper.fans:
            circuit = circuit._replace(evaporator_air_fraction=FANS_OFF_SHARE * circuit.evaporator_air_fraction)
        full = self.line_full if self.temporary.liquid_shut else 1.0
        return circuit._replace(
            charge_kg=max(self.circuit_kg, 1e-6),
            condenser_wet_share=self.wet_share,
            condenser_air_fraction=circuit.condenser_air_fraction * (1.0 - self.temporary.board_share),
            liquid_line_volume_m3=circuit.liquid_line_volume_m3 * full,
            liquid_shut=self.liquid_shut,
        )

    def fault(self, fault_id: str) -> Fault | None:
        """The fault of this family that still stands, or None."""
        return next((f for f in self.faults if f.id == fault_id), None)

    def bulb_answers(self) -> bool:
        """Whether the valve follows its bulb when it is held; a stuck one does not."""
        if self.temporary.bulb is None or self.machine.metering != "txv":
            return False
        check = f"bulb_{self.temporary.bulb}"
        return not any(fault_kind(f.id).cause(f.cause).checks.get(check) == "no_response" for f in self.faults)


def charged_kg(machine: Machine, faults: tuple[Fault, ...]) -> float:
    """What the circuit holds with these faults, kg."""
    kg = machine.circuit.charge_kg
    for fault in faults:
        if fault.id in (*CHARGE_FAULTS, "wrong_refrigerant"):
            kg *= fault.severity / 100.0
    return kg


def on_site(
    machine: Machine, conditions: Conditions, faults: tuple[Fault, ...] = (), drift: Any = None, units: str = "us"
) -> Site:
    """The :class:`Site` a technician walks up to, not yet followed through time (see ``settling.arrive``).

    ``faults`` as for the solver, those of the instruments left out; ``units`` (us or si) is what sentences are written
    in.
    """
    plant(machine, faults)
    wrong = next((f for f in faults if f.id == "wrong_refrigerant"), None)
    wet = next((f for f in faults if f.id == "wet_condenser"), None)
    leak = next((f for f in faults if f.id == "undercharge"), None)
    kept = tuple(f for f in faults if f.id not in (*CHARGE_FAULTS, "wet_condenser"))
    return Site(
        machine=machine,
        refrigerant=machine.substitute if wrong else machine.refrigerant,
        conditions=conditions,
        faults=kept,
        circuit_kg=charged_kg(machine, faults),
        drift=drift or Drift(),
        wet_share=wet.severity / 100.0 if wet else 0.0,
        leaking=leak is not None and fault_kind("undercharge").cause(leak.cause).id == "leak",
        cylinders=stock(machine),
        units=units,
    )
