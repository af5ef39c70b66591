"""The faults: each has one physical parameter, a range, three named severities and what it does to the circuit."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from wolfsbane.cycle.errors import BadInputError, require_range
from wolfsbane.cycle.machine import Circuit, Machine
from wolfsbane.cycle.units import PA_PER_PSI


@dataclass(frozen=True, kw_only=True)
class FaultKind:
    """A family of faults.

    ``parameter`` and ``unit`` name the physical number; ``sound`` is its value on a sound machine, ``limit`` the worst
    that is accepted. ``metering`` lists the devices it can stand on; ``apply(circuit, value)`` returns the harmed copy.
    """

    id: str
    name: str
    parameter: str
    unit: str
    sound: float
    limit: float
    mild: float
    moderate: float
    severe: float
    metering: tuple[str, ...]
    causes: tuple[str, ...]
    apply: Callable[[Circuit, float], Circuit]

    def level(self, text):
        """Severity as a number: mild, moderate, severe or a number in ``unit``. Raises BadInputError."""
        if text in ("mild", "moderate", "severe"):
            return getattr(self, text)
        low, high = sorted((self.sound, self.limit))
        try:
            value = float(text)
        except (TypeError, ValueError):
            raise BadInputError(f"{self.id} level", text, "mild, moderate, severe or "
                                f"a number from {low:g} to {high:g} {self.unit}") from None
        return require_range(f"{self.id} level", value, low, high, self.unit)


@dataclass(frozen=True, kw_only=True)
class Fault:
    """A planted fault: family and severity as a physical number in the family's unit."""

    id: str
    severity: float


BOTH = ("txv", "fixed_orifice")


def _charge(circuit, pct):
    return circuit._replace(charge_kg=circuit.charge_kg * pct / 100.0)


def _condenser_air(circuit, pct):
    return circuit._replace(condenser_air_fraction=circuit.condenser_air_fraction * pct / 100.0)


def _evaporator_air(circuit, pct):
    return circuit._replace(evaporator_air_fraction=circuit.evaporator_air_fraction * pct / 100.0)


def _restriction(circuit, psi):
    return circuit._replace(restriction_pa_at_ref=circuit.restriction_pa_at_ref + psi * PA_PER_PSI)


def _leak(circuit, pct):
    return circuit._replace(leak_fraction=circuit.leak_fraction + pct / 100.0)


def _stuck_valve(circuit, pct):
    return circuit._replace(valve_fixed_opening=pct / 100.0)


def _orifice(circuit, pct):
    return circuit._replace(expansion_area_m2=circuit.expansion_area_m2 * pct / 100.0)


_ALL = (
    FaultKind(id="undercharge", name="Undercharge", parameter="charge against the right charge", unit="%",
              sound=100, limit=55, mild=88, moderate=80, severe=70, metering=BOTH,
              causes=("leak", "undercharged_at_start"), apply=_charge),
    FaultKind(id="overcharge", name="Overcharge", parameter="charge against the right charge", unit="%",
              sound=100, limit=150, mild=116, moderate=124, severe=134, metering=BOTH,
              causes=("overfilled",), apply=_charge),
    FaultKind(id="dirty_condenser", name="Dirty condenser", parameter="condenser airflow left", unit="%",
              sound=100, limit=25, mild=70, moderate=60, severe=50, metering=BOTH,
              causes=("dirt_between_rows", "face_blocked"), apply=_condenser_air),
    FaultKind(id="low_airflow", name="Low evaporator airflow", parameter="evaporator airflow left", unit="%",
              sound=100, limit=25, mild=58, moderate=50, severe=42, metering=BOTH,
              causes=("dirty_filter", "dirty_coil", "blower_wheel", "speed_tap", "duct"), apply=_evaporator_air),
    FaultKind(id="liquid_line_restriction", name="Liquid-line restriction",
              parameter="pressure drop at rated flow", unit="psi", sound=0, limit=400, mild=110, moderate=160, severe=240,
              metering=BOTH, causes=("clogged_drier", "kinked_line"), apply=_restriction),
    FaultKind(id="leaking_compressor_valves", name="Compressor valves leaking",
              parameter="discharge gas blown back at 250 psi across", unit="%", sound=0, limit=50,
              mild=28, moderate=36, severe=45, metering=BOTH, causes=("worn_valves", "broken_reed"), apply=_leak),
    FaultKind(id="valve_overfeeding", name="Thermostatic valve overfeeding", parameter="valve held open at", unit="%",
              sound=75, limit=130, mild=88, moderate=95, severe=105, metering=("txv",),
              causes=("stuck_open", "bulb_loose", "bulb_bare"), apply=_stuck_valve),
    FaultKind(id="orifice_oversized", name="Orifice too large", parameter="orifice area against the right one",
              unit="%", sound=100, limit=170, mild=122, moderate=130, severe=140, metering=("fixed_orifice",),
              causes=("wrong_piston", "piston_not_seated"), apply=_orifice),
)
FAULTS = {kind.id: kind for kind in _ALL}
NONE = "none"


def fault_kind(fault_id):
    """The family called ``fault_id``; raises BadInputError for an unknown one."""
    if fault_id not in FAULTS:
        raise BadInputError("fault", fault_id, ", ".join((NONE, *FAULTS)))
    return FAULTS[fault_id]


def faults_for(machine):
    """The families that can stand on ``machine``, in catalogue order."""
    return [kind for kind in _ALL if machine.metering in kind.metering]


def plant(machine: Machine, faults: tuple[Fault, ...]):
    """A changed copy of ``machine`` with every fault applied. Raises BadInputError."""
    circuit = machine.circuit
    for fault in faults:
        if fault.id == NONE:
            continue
        kind = fault_kind(fault.id)
        if machine.metering not in kind.metering:
            raise BadInputError("fault", fault.id, f"one that a {machine.metering} machine can have: "
                                + ", ".join(k.id for k in faults_for(machine)))
        circuit = kind.apply(circuit, kind.level(fault.severity))
    return replace(machine, circuit=circuit)
