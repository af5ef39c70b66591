"""Find circuit parameters that meet a plate: a bounded least-squares fit on the solver, and how closely each figure is
met.

What the plate does not tell is taken from the nearest profile and said to be. The fit is held weakly to that profile,
so that nothing wanders that no figure asks for.
"""

from __future__ import annotations

import json
import math
import re
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import TYPE_CHECKING, Any

import numpy as np

from wolfsbane.cycle.errors import NoConvergenceError, require_range
from wolfsbane.cycle.machine import Expectations, Machine
from wolfsbane.cycle.profiles.plates import plate as made_plate
from wolfsbane.cycle.properties import H_F, H_G, RHO_F, RHO_G, refrigerant, saturation_at
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import (
    KG_PER_OZ,
    M3_S_PER_CFM,
    M_PER_FT,
    PA_PER_INWC,
    PA_PER_PSI,
    STANDARD_ATMOSPHERE_PA,
    W_PER_BTUH,
)
from wolfsbane.tuning.contradictions import conflicts, impossible, no_balance
from wolfsbane.tuning.figures import ALWAYS, PLATE_FIGURES
from wolfsbane.tuning.in_heating import heating_notes
from wolfsbane.tuning.plate import KnownPlate, known_plate, template

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
#: a receiver is charged to this level, a valve stands this far open, at the rating point
_LEVEL, _OPENING = 0.40, 0.75
_LEVEL_BAND, _OPENING_BAND = 0.05, 0.04
#: a machine without a balance counts as so many bands off
_LOST = 60.0
_AIR_DENSITY = 1.2


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
            return "Every figure that was given is met."
        return "Not met: " + ", ".join(missed) + "." if missed else "Met, but the plate contradicts itself."

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
        machine=_expecting(machine, found),
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
        notes.append("No factory charge given: the charge was found, and is no plate value.")
    for name, factor in at_edge.items():
        notes.append(
            f"{name.capitalize()} stands at {factor:.2f} times the usual for this size, the end of what is allowed:"
            " look at the figures again."
        )
    if found["frosting"] and not plate.refrigeration:
        notes.append("The coil is below freezing at the rating point: it would ice.")
    return notes


class _Fit:
    """One fit: which parameters are free, what each figure aims at."""

    def __init__(self, plate: KnownPlate, like: Machine, given: dict[str, float]) -> None:
        self.plate, self.like, self.given = plate, like, given
        self.conditions = plate.conditions(like)
        self.base = _base(plate, like)
        self.usual_kg = _base(replace(plate, factory_charge_oz=None), like).circuit.charge_kg
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
        rows += [(found["opening"] - _OPENING) / _OPENING_BAND * 0.5] if self.plate.metering in ("txv", "eev") else []
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
                    other[2], other[4] = area, charge
                    if self.figures(other) is not None:
                        starts.append(other)
            starts = starts[:4]
        return starts


def _rated(like: Machine) -> dict[str, float]:
    from wolfsbane.cycle.conditions import rating_conditions

    state = solve(like, rating_conditions(like))
    return {k: f.of(state, like) for k, f in PLATE_FIGURES.items()}


def _base(plate: KnownPlate, like: Machine) -> Machine:
    """The template at the plate's size and with its refrigerant:
    the start of the fit, as a Machine with the plate filled in.
    """
    ratio = plate.capacity_btuh * W_PER_BTUH / like.plate.capacity_w
    circuit = like.circuit.scaled(ratio)
    circuit = circuit._replace(
        receiver_volume_m3=circuit.receiver_volume_m3 * ratio, liquid_line_ua_w_k=circuit.liquid_line_ua_w_k * ratio
    )
    if plate.refrigerant != like.refrigerant:
        circuit = _refilled(circuit, like.refrigerant, plate.refrigerant, 258.0 if plate.refrigeration else 280.0)
    if plate.metering == "fixed_orifice" or plate.metering == "capillary":
        circuit = circuit._replace(valve_fixed_opening=1.0)
    elif like.metering in ("fixed_orifice", "capillary"):
        circuit = circuit._replace(valve_fixed_opening=-1.0, expansion_area_m2=circuit.expansion_area_m2 / _OPENING)
    elif like.metering != plate.metering:
        circuit = circuit._replace(
            **(
                {"valve_static_superheat_k": 4.2, "valve_superheat_range_k": 0.9}
                if plate.metering == "eev"
                else {"valve_static_superheat_k": 2.5, "valve_superheat_range_k": 4.5}
            )
        )
    if plate.airflow_cfm is not None:
        circuit = circuit._replace(evaporator_air_kg_s=plate.airflow_cfm * M3_S_PER_CFM * _AIR_DENSITY)
    if plate.factory_charge_oz is not None:
        circuit = circuit._replace(charge_kg=plate.factory_charge_oz * KG_PER_OZ)
    amps = plate.rated_amps or like.plate.rated_amps * ratio * (like.volts / (plate.volts or like.volts))
    own = like.plate
    cutouts = (
        (plate.high_cutout_psig if plate.high_cutout_psig is not None else own.high_cutout_gauge_pa / PA_PER_PSI),
        (plate.low_cutout_psig if plate.low_cutout_psig is not None else own.low_cutout_gauge_pa / PA_PER_PSI),
    )
    if plate.refrigerant != like.refrigerant:
        cutouts = _cutouts(plate, like, cutouts)
    written = made_plate(
        model=plate.model,
        btuh=plate.capacity_btuh,
        charge_kg=circuit.charge_kg,
        refrigerant=plate.refrigerant,
        subcooling_df=plate.plate_subcooling_df,
        superheat_df=None if own.target_superheat_dk is None else tuple(v * 1.8 for v in own.target_superheat_dk),
        amps=amps,
        cfm=plate.airflow_cfm or round(circuit.evaporator_air_kg_s / _AIR_DENSITY / M3_S_PER_CFM, -1),
        oz_per_ft=plate.oz_per_ft if plate.oz_per_ft is not None else own.charge_per_line_kg_m * M_PER_FT / KG_PER_OZ,
        line_ft=plate.line_ft if plate.line_ft is not None else own.standard_line_m / M_PER_FT,
        cutouts_psig=cutouts,
        static_inwc=None if own.max_static_pa is None else own.max_static_pa / PA_PER_INWC,
    )
    weather = plate.conditions(like)
    slug = re.sub(r"[^a-z0-9]+", "-", plate.name.lower()).strip("-") or "machine"
    return replace(
        like,
        id=f"own-{slug}"[:60],
        name=plate.name,
        refrigerant=plate.refrigerant,
        metering=plate.metering,
        application=plate.application,
        condenser=plate.condenser,
        receiver=plate.receiver,
        volts=plate.volts or like.volts,
        magnetizing_amps=like.magnetizing_amps * amps / own.rated_amps,
        outdoor_fan_w=like.outdoor_fan_w * ratio,
        substitute=_other(plate.refrigerant, like),
        sealed=plate.metering == "capillary",
        circuit=circuit,
        plate=written,
        rating=(weather.outdoor_k, weather.return_k, weather.return_wet_bulb_k, weather.water_in_k),
        notes="Entered from its plate; parameters found by the tuner.",
    )


def _other(name: str, like: Machine) -> str:
    return like.substitute if like.substitute != name else like.refrigerant


def _refilled(circuit: Circuit, old: Any, new: Any, evaporating_k: Any) -> Any:
    """First guess for another refrigerant: flow by latent heat, displacement by vapour density,
    opening by flow and pressure.
    """

    def at(name: str) -> Any:
        fluid = refrigerant(name)
        ln_e = math.log(fluid.saturation_pa(evaporating_k, "dew"))
        ln_c = math.log(fluid.saturation_pa(317.0, "bubble"))
        tab = fluid.arrays
        latent = saturation_at(tab, H_G, ln_e) - saturation_at(tab, H_F, ln_c)
        return latent, saturation_at(tab, RHO_G, ln_e), saturation_at(tab, RHO_F, ln_c), math.exp(ln_c)

    (l0, g0, f0, p0), (l1, g1, f1, p1) = at(old), at(new)
    flow = l0 / l1
    return circuit._replace(
        mass_flow_ref_kg_s=circuit.mass_flow_ref_kg_s * flow,
        displacement_m3_s=circuit.displacement_m3_s * flow * g0 / g1,
        expansion_area_m2=circuit.expansion_area_m2 * flow * math.sqrt(f0 * p0 / (f1 * p1)),
        charge_kg=circuit.charge_kg * f1 / f0,
        suction_drop_density_kg_m3=circuit.suction_drop_density_kg_m3 * g1 / g0,
    )


def _cutouts(plate: Any, like: Any, given: Any) -> Any:
    """Cut-outs at the saturation temperatures of the template's, for another refrigerant, psig."""
    old, new, found = refrigerant(like.refrigerant), refrigerant(plate.refrigerant), []
    for value, own, field in zip(
        given,
        (like.plate.high_cutout_gauge_pa, like.plate.low_cutout_gauge_pa),
        (plate.high_cutout_psig, plate.low_cutout_psig),
        strict=True,
    ):
        if field is not None:
            found.append(value)
            continue
        t_k = old.saturation_k(min(max(own + STANDARD_ATMOSPHERE_PA, old.min_pa), old.max_pa), "dew")
        low, high = new.saturation_k(new.min_pa * 1.001, "dew"), new.saturation_k(new.max_pa * 0.995, "dew")
        found.append((new.saturation_pa(min(max(t_k, low), high), "dew") - STANDARD_ATMOSPHERE_PA) / PA_PER_PSI)
    return tuple(round(v) for v in found)


def _expecting(machine: Machine, found: dict[str, Any]) -> Machine:
    """What a sound one shows: the template's windows, moved where the tuned rating point lies outside them."""
    own = machine.expectations

    def window_around(window: Any, value_df: Any) -> Any:
        low, high = window
        value = value_df / 1.8
        return window if low + 0.5 <= value <= high - 0.5 else (value - 0.5 * (high - low), value + 0.5 * (high - low))

    total = own.total_superheat_dk
    return replace(
        machine,
        expectations=Expectations(
            evaporator_td_dk=window_around(own.evaporator_td_dk, found["evaporator_td_df"]),
            ctoa_dk=window_around(own.ctoa_dk, found["ctoa_df"]),
            total_superheat_dk=None if total is None else window_around(total, found["superheat_df"]),
        ),
    )


def restored(data: dict[str, dict[str, Any]]) -> Machine:
    """A machine again from what :meth:`Tuned.to_json` holds, without another fit; its circuit is taken as stored."""
    return _restored(json.dumps([data["plate"], data["circuit"]], sort_keys=True))


@lru_cache(maxsize=256)
def _restored(text: str) -> Machine:
    told, parameters = json.loads(text)
    plate = known_plate(told)
    base = _base(plate, template(plate))
    for name, value in parameters.items():
        require_range(f"circuit.{name}", value, -1e9, 1e9, "")
    machine = replace(base, circuit=type(base.circuit)(**parameters))
    state = solve(machine, plate.conditions(machine))
    return _expecting(machine, {k: f.of(state, machine) for k, f in PLATE_FIGURES.items()})
