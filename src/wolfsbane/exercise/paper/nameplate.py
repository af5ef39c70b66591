"""The nameplate of a machine, in the sheet's units."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.settings import setting_rows
from wolfsbane.cycle import units
from wolfsbane.cycle.controls import controls_of
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.diagnosis.targets import PRACTICES
from wolfsbane.exercise.plan.call_kind import figure_called

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine


METERING = {
    "txv": "TXV",
    "eev": "electronic expansion valve (EEV)",
    "fixed_orifice": "fixed orifice (piston)",
    "capillary": "capillary tube",
}


@dataclass(frozen=True, kw_only=True)
class NameplateLine:
    """One line of the nameplate."""

    label: str
    text: str


def _over(machine: Machine, us: bool) -> str:
    """What the usual difference of the condensing temperature is called; with what it follows, where it does."""
    name = figure_called("ctoa", machine)
    name = "Usual CTOA" if name == "CTOA" else name
    if machine.expectations.ctoa_slope == 0.0:
        return name
    rated_k = machine.rating[1] if machine.in_heating else machine.rating[3] or machine.rating[0]
    where = "outdoors" if machine.in_heating else "water"
    return (
        f"{name}, {units.to_display('temperature', rated_k, 'us' if us else 'si'):.0f} {'°F' if us else '°C'} {where}"
    )


def plate_lines(machine: Machine, system: str) -> list[dict[str, str]]:
    """What stands on the plate, in the sheet's units: list of {label, text}.

    A kind of machine whose CTOA is not the usual one says so here, since nobody could guess it.
    """
    plate, us = machine.plate, system == "us"
    subcooling = plate.target_subcooling_dk
    charge = units.to_display("mass", plate.factory_charge_kg, system)
    lines = [
        ("Model", plate.model),
        ("Refrigerant", machine.refrigerant),
        ("Metering device", METERING[machine.metering]),
        ("Factory charge", f"{charge:.0f} {'oz' if system == 'us' else 'g'}"),
        ("Compressor rated amps (RLA)", f"{plate.rated_amps:.1f} A"),
    ]
    usual = PRACTICES["plate_and_formula"].ctoa_df
    low, high = (v * 1.8 for v in machine.expectations.ctoa_dk)
    if abs(low - usual[0]) > 0.05 or abs(high - usual[1]) > 0.05:
        lines.append(
            (_over(machine, us), f"{low:.0f} to {high:.0f} °F" if us else f"{low / 1.8:.1f} to {high / 1.8:.1f} K")
        )
    if plate.charge_per_line_kg_m > 0.0:
        per_line = plate.charge_per_line_kg_m * (units.M_PER_FT / units.KG_PER_OZ if us else 1000.0)
        standard = plate.standard_line_m / (units.M_PER_FT if us else 1.0)
        lines.insert(
            4,
            (
                f"Beyond {standard:.0f} {'ft' if us else 'm'} of line",
                f"{per_line:.1f} oz a foot" if us else f"{per_line:.0f} g a meter",
            ),
        )
    if plate.target_superheat_dk is not None:
        low, high = (units.to_display("difference", v, system) for v in plate.target_superheat_dk)
        lines.insert(
            3, ("Superheat at the coil", f"{low:.0f} to {high:.0f} °F" if us else f"{low:.1f} to {high:.1f} K")
        )
    if subcooling is not None:
        named = "Target subcooling in cooling" if machine.in_heating else "Target subcooling"
        lines.insert(3, (named, f"{subcooling * 1.8:.0f} °F" if system == "us" else f"{subcooling:.1f} K"))
    return [{"label": label, "text": text} for label, text in lines]


def full_plate(machine: Machine, system: str) -> list[dict[str, str]]:
    """The whole plate, for the instructor: :func:`plate_lines`, what stands below, and how the controls are set."""
    plate, us = machine.plate, system == "us"

    def shown(kind: Any, value: Any, decimals: int = 0) -> Any:
        return f"{units.to_display(kind, value, system):.{decimals}f} {units.SYSTEMS[system][kind][0]}"

    def gauge(pa: Any) -> Any:
        return shown("pressure", pa + units.STANDARD_ATMOSPHERE_PA)

    rows = [
        ("Overload opens at", f"{plate.overload_amps:.1f} A"),
        ("High-pressure cutout", gauge(plate.high_cutout_gauge_pa)),
        ("Low-pressure cutout", gauge(plate.low_cutout_gauge_pa)),
        ("Discharge cutout", shown("temperature", plate.discharge_cutout_k)),
        ("Safety class", refrigerant(machine.refrigerant).safety_class),
        ("Airflow", shown("flow", plate.design_airflow_m3_s)),
    ]
    if plate.max_static_pa is not None:
        rows.append(("Maximum external static", shown("static", plate.max_static_pa, 2 if us else 0)))
    inside_k = machine.rating[0] if machine.in_heating else machine.rating[1]
    settings = [(row["name"], row["text"]) for row in setting_rows(controls_of(machine, inside_k), system)]
    return plate_lines(machine, system) + [{"label": label, "text": text} for label, text in (*rows, *settings)]
