"""What a field test is, what it is asked of, and its answer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.faults import fault_kind, plant
from wolfsbane.cycle.units import PA_PER_PSI, SYSTEMS, k_to_f, to_display

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Circuit, Machine
    from wolfsbane.cycle.state import CircuitState


@dataclass(frozen=True, kw_only=True)
class Asked:
    """One machine in one weather with its faults, solved; ``system`` (us or si) is the one sentences are written in."""

    machine: Machine
    conditions: Conditions
    faults: tuple[Fault, ...]
    state: CircuitState
    system: str = "us"

    def temperature(self, kelvin: float, decimals: int = 1) -> str:
        """A temperature as text."""
        return (
            f"{to_display('temperature', kelvin, self.system) + 0.0:.{decimals}f}"
            f" {SYSTEMS[self.system]['temperature'][0]}"
        )

    def difference(self, dk: float, decimals: int = 1) -> str:
        """A temperature difference as text."""
        return f"{to_display('difference', dk, self.system) + 0.0:.{decimals}f} {SYSTEMS[self.system]['difference'][0]}"

    def gauge(self, pressure_pa: float) -> str:
        """A gauge pressure as text."""
        shown = to_display("pressure", pressure_pa, self.system, self.conditions.barometer_pa)
        return f"{shown + 0.0:.0f} {SYSTEMS[self.system]['pressure'][0]}"

    def moved(self, change_pa: float) -> str:
        """A change of pressure as signed text."""
        us = self.system == "us"
        return f"{change_pa / (PA_PER_PSI if us else 1000.0):+.0f} {'psi' if us else 'kPa'}"

    def shown(self, kind: str, value: float, decimals: int = 0) -> str:
        """Any other quantity as text."""
        return f"{to_display(kind, value, self.system):.{decimals}f} {SYSTEMS[self.system][kind][0]}"

    @property
    def circuit(self) -> Circuit:
        """The harmed circuit."""
        return plant(self.machine, self.faults).circuit

    def seen(self, check: str, fault_free: str | bool) -> Any:
        """What the causes of the planted faults show for ``check``; ``fault_free`` where none shows anything."""
        return shown_by_causes(check, self.faults, fault_free)


@dataclass(frozen=True, kw_only=True)
class FieldTest:
    """A test: ``minutes`` it takes, ``caution`` that goes with it, ``suits(machine)``, and ``answer(asked)``.

    ``answer`` returns (word, text, values): a fixed word, a sentence, and numbers by contract key. ``running`` tests
    need a machine that stays on. ``usual`` is the word on a machine with nothing wrong where the causes of the faults
    alone decide, None where the machine is asked. ``met`` is the word of what the condenser draws in, K, in a weather,
    where that alone decides on a machine that stays on.
    """

    id: str
    name: str
    minutes: int
    caution: str
    answer: Callable[..., Any]
    running: bool = True
    suits: Callable[[Machine], bool] = lambda machine: True
    usual: str | bool | None = None
    met: Callable[[float, Conditions], str] | None = None


def shown_by_causes(check: str, faults: tuple[Fault, ...], fault_free: str | bool) -> str | bool:
    """What the causes of ``faults`` show for a check; ``fault_free`` where none shows anything."""
    for fault in faults:
        shown = fault_kind(fault.id).cause(fault.cause).checks.get(check)
        if shown is not None:
            return shown
    return fault_free


@dataclass(frozen=True, kw_only=True)
class Answer:
    """What the test showed: a word of a small vocabulary, a sentence, numbers with their unit in the key."""

    test: str
    word: str
    text: str
    values: dict[str, Any]


def degrees(kelvin: float) -> float:
    """Degrees F of a temperature in K, to a tenth."""
    return round(k_to_f(kelvin), 1) + 0.0
