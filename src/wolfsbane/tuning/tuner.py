"""Find circuit parameters that meet a plate: a bounded least-squares fit on the solver, and how closely each figure is
met.

What the plate does not tell is taken from the nearest profile and said to be. The fit is held weakly to that profile,
so that nothing wanders that no figure asks for.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

import numpy as np

from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.machine import Machine
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import (
    KG_PER_OZ,
)
from wolfsbane.tuning.contradictions import conflicts, impossible, no_balance
from wolfsbane.tuning.figures import ALWAYS, PLATE_FIGURES
from wolfsbane.tuning.first_guess import OPENING, base_machine, expecting
from wolfsbane.tuning.in_heating import heating_notes
from wolfsbane.tuning.plate import KnownPlate, template

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit

_CONDENSER = ("condenser_ua_air_w_k", "condenser_ua_two_phase_w_k", "condenser_ua_gas_w_k", "condenser_ua_liquid_w_k")
_EVAPORATOR = ("evaporator_ua_air_w_k", "evaporator_ua_two_phase_w_k", "evaporator_ua_gas_w_k")
_VOLUMES = ("condenser_volume_m3", "evaporator_volume_m3", "receiver_volume_m3")
#: parameter -> (fields it multiplies, furthest factor either way); "valve_k" is added to the valve's static superheat,
#: K
_SCALES = {
    "displacement": (("displacement_m3_s",), 3.0),
    "condenser": (_CONDENSER, 4.0),
    "area": (("expansion_area_m2",), 4.0),
    "evaporator": (_EVAPORATOR, 3.0),
    "efficiency": (("isentropic_peak",), 1.45),
    "air": (("evaporator_air_kg_s",), 1.6),
    "charge": (("charge_kg",), 3.0),
    "volume": (_VOLUMES, 3.0),
}
_VALVE_K = 6.0
#: weight of staying with the profile, against one band of a figure missed
_HOLD = 0.03
#: a receiver is charged to this level at the rating point
_LEVEL = 0.40
_LEVEL_BAND, _OPENING_BAND = 0.05, 0.04
#: a machine without a balance counts as so many bands off
_LOST = 60.0


@dataclass(frozen=True, kw_only=True)
class Tuned:
    """A tuned machine with its report: rows of figure, asked, taken, met, difference, band, within; contradictions;
    notes.
    """

    machine: Machine
    plate: KnownPlate
    report: tuple[dict[str, Any], ...]
    contradictions: tuple[dict[str, Any], ...]
    notes: tuple[str, ...]

    @property
    def met(self) -> bool:
        """True when every figure that was given is met within its band and nothing contradicts."""
        return all(row["within"] for row in self.report if row["asked"] is not None) and not self.contradictions

    @property
    def verdict(self) -> str:
        """One sentence."""
        missed = [row["figure"] for row in self.report if row["asked"] is not None and not row["within"]]
        if self.met:
            return "Every figure given is matched."
        return "Not met: " + ", ".join(missed) + "." if missed else "Matched, but the nameplate contradicts itself."

    def to_json(self) -> dict[str, Any]:
        """Plain data; ``circuit`` holds the parameters found."""
        return {
            "verdict": self.verdict,
            "met": self.met,
            "report": [dict(r) for r in self.report],
            "contradictions": [dict(c) for c in self.contradictions],
            "notes": list(self.notes),
            "plate": self.plate.to_json(),
            "machine": {"id": self.machine.id, "name": self.machine.name},
            "circuit": self.machine.circuit._asdict(),
        }


def tune(plate: KnownPlate) -> Tuned:
    """:class:`Tuned` for a :class:`KnownPlate`. Raises NoConvergenceError where no machine of this kind balances at
    all.
    """
    like = template(plate)
    wrong = impossible(plate)
    given = {k: getattr(plate, k) for k in PLATE_FIGURES if getattr(plate, k) is not None}
    if plate.subcooling_df is None and plate.plate_subcooling_df is not None and not plate.receiver:
        given["subcooling_df"] = plate.plate_subcooling_df
    fit = _Fit(plate, like, given)
    try:
        machine, found, at_edge = fit.best()
    except NoConvergenceError:
        if plate.factory_charge_oz is None:
            raise
        return _without_charge(plate)
    report = _report(given, fit.taken, found)
    missed = [r["id"] for r in report if r["asked"] is not None and not r["within"]]
    if missed and not wrong:
        wrong = conflicts(plate, like, given, missed, _Fit)
    return Tuned(
        machine=expecting(machine, found),
        plate=plate,
        report=tuple(report),
        contradictions=tuple(wrong),
        notes=(*_notes(plate, like, at_edge, found), *heating_notes(machine)),
    )


def _without_charge(plate: Any) -> Any:
    """The machine without its stated charge, and what the charge would be."""
    other = tune(replace(plate, factory_charge_oz=None))
    row = no_balance(plate, other.machine.circuit.charge_kg / KG_PER_OZ)
    return replace(other, plate=plate, contradictions=(row, *other.contradictions))


def _report(given: dict[str, float], taken: dict[str, float], found: dict[str, Any]) -> list[dict[str, Any]]:
    rows = []
    for key, figure in PLATE_FIGURES.items():
        asked = given.get(key)
        if asked is None and key not in taken:
            continue
        value, aim = found[key], asked if asked is not None else taken[key]
        rows.append(
            {
                "id": key,
                "figure": figure.name,
                "unit": figure.unit,
                "asked": asked,
                "taken": None if asked is not None else round(aim, figure.shown),
                "met": round(value, figure.shown),
                "difference": round(value - aim, max(figure.shown, 1)),
                "band": round(figure.width(aim), 2),
                "within": abs(value - aim) <= figure.width(aim),
            }
        )
    return rows


def _notes(plate: KnownPlate, like: Machine, at_edge: dict[str, float], found: dict[str, Any]) -> list[str]:
    notes = [f"Grown from {like.name}; what the plate does not tell is that machine's."]
    if plate.factory_charge_oz is None:
        notes.append("No factory charge given: the charge was fitted and is not a nameplate value.")
    for name, factor in at_edge.items():
        notes.append(
            f"{name.capitalize()} stands at {factor:.2f} times the usual for this size, the end of what is allowed:"
            " look at the figures again."
        )
    if found["frosting"] and not plate.refrigeration:
        notes.append("The coil is below freezing at the rating point: it would ice up.")
    return notes


class _Fit:
    """One fit: which parameters are free, what each figure aims at."""

    def __init__(self, plate: KnownPlate, like: Machine, given: dict[str, float]) -> None:
        self.plate, self.like, self.given = plate, like, given
        self.conditions = plate.conditions(like)
        self.base = base_machine(plate, like)
        self.usual_kg = base_machine(replace(plate, factory_charge_oz=None), like).circuit.charge_kg
        rated = _rated(like)
        self.taken = {k: rated[k] for k in ALWAYS if k not in given and not (k == "subcooling_df" and plate.receiver)}
        implied = {"suction_psig": "evaporator_td_df", "head_psig": "ctoa_df"}
        for direct, follows in implied.items():
            if direct in given:
                self.taken.pop(follows, None)
        if plate.metering in ("txv", "eev") and "superheat_df" not in given:
            self.taken.pop("superheat_df", None)
        self.free = [
            "displacement",
            "condenser",
            "area",
            "evaporator",
            "volume" if plate.factory_charge_oz else "charge",
        ]
        self.free += ["efficiency"] if "power_w" in given else []
        self.free += ["air"] if "air_delta_t_df" in given and plate.airflow_cfm is None else []
        self.valve = plate.metering in ("txv", "eev") and "superheat_df" in given

    def circuit(self, logs: np.ndarray) -> Circuit:
        """The circuit at these parameters."""
        changed = self.base.circuit
        for name, log in zip(self.free, logs, strict=False):
            changed = changed._replace(**{f: getattr(changed, f) * math.exp(log) for f in _SCALES[name][0]})
        if self.valve:
            changed = changed._replace(valve_static_superheat_k=changed.valve_static_superheat_k + float(logs[-1]))
        return changed

    def machine(self, logs: np.ndarray) -> Machine:
        """The machine at these parameters."""
        return replace(self.base, circuit=self.circuit(logs))

    def figures(self, logs: np.ndarray) -> dict[str, Any] | None:
        """Every figure of the machine at these parameters, with level, opening and frosting; None without a balance."""
        machine = self.machine(logs)
        try:
            state = solve(machine, self.conditions)
        except NoConvergenceError:
            return None
        if state.trip is not None or state.equalized:
            return None
        return {k: f.of(state, machine) for k, f in PLATE_FIGURES.items()} | {
            "level": None if state.receiver is None else state.receiver.level,
            "opening": state.valve_opening,
            "frosting": state.frosting,
        }

    def misses(self, logs: np.ndarray) -> np.ndarray:
        """Residuals: figures missed in bands, then what holds the fit to the profile."""
        held = [_HOLD * v * (3.0 if n in ("charge", "volume") else 8.0) for n, v in zip(self.free, logs, strict=False)]
        found = self.figures(logs)
        aims = {**self.taken, **self.given}
        extra = (1 if self.plate.receiver else 0) + (1 if self.plate.metering in ("txv", "eev") else 0)
        if found is None:
            return np.array([_LOST] * (len(aims) + extra) + held)
        rows = [
            (found[k] - aim) / PLATE_FIGURES[k].width(aim) * (0.25 if k in self.taken else 1.0)
            for k, aim in aims.items()
        ]
        rows += [(found["level"] - _LEVEL) / _LEVEL_BAND] if self.plate.receiver else []
        rows += [(found["opening"] - OPENING) / _OPENING_BAND * 0.5] if self.plate.metering in ("txv", "eev") else []
        return np.array([*np.clip(rows, -_LOST, _LOST), *held])

    def best(self) -> tuple[Machine, dict[str, Any], dict[str, float]]:
        """(machine, its figures, parameters at the end of their range). Raises NoConvergenceError."""
        from scipy.optimize import least_squares  # takes a third of a second to import, and few processes tune

        most = [math.log(_SCALES[n][1]) for n in self.free] + ([_VALVE_K] if self.valve else [])
        bounds = ([-v for v in most], most)
        tries = [
            least_squares(self.misses, start, bounds=bounds, diff_step=2e-3, x_scale=0.1, max_nfev=80)
            for start in self._starts(len(most))
        ]
        fit = min(tries, key=lambda t: t.cost)
        found = self.figures(fit.x)
        if found is None:
            raise NoConvergenceError(
                {"machine": self.plate.name, "attempts": len(tries), "best_residual": float(fit.cost)}
            )
        edge = {n: math.exp(v) for n, v, m in zip(self.free, fit.x, most, strict=False) if abs(v) > 0.98 * m}
        return self.machine(fit.x), found, edge

    def _starts(self, count: int) -> list[np.ndarray]:
        """The profile as it is, and a little off it where that has no balance."""
        zero = np.zeros(count)
        if "volume" in self.free:
            most = math.log(_SCALES["volume"][1])
            held = math.log(self.base.circuit.charge_kg / self.usual_kg)
            zero[self.free.index("volume")] = min(max(held, -0.95 * most), 0.95 * most)
        starts = [zero]
        if self.figures(zero) is None:
            for charge in (-0.25, 0.25, -0.5):
                for area in (-0.3, 0.0, 0.3):
                    other = zero.copy()
                    other[self.free.index("area")] += area
                    # Fuller by its charge, or by a volume that is so much smaller where the charge is the plate's.
                    name, more = ("volume", -charge) if "volume" in self.free else ("charge", charge)
                    most = 0.95 * math.log(_SCALES[name][1])
                    filling = self.free.index(name)
                    other[filling] = min(max(other[filling] + more, -most), most)
                    if self.figures(other) is not None:
                        starts.append(other)
            starts = starts[:4]
        return starts


def _rated(like: Machine) -> dict[str, float]:
    from wolfsbane.cycle.conditions import rating_conditions

    state = solve(like, rating_conditions(like))
    return {k: f.of(state, like) for k, f in PLATE_FIGURES.items()}
