"""What on a plate cannot stand beside something else on it: by arithmetic, and by leaving one figure out at a time."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.units import KG_PER_OZ, STANDARD_ATMOSPHERE_PA, f_to_k, from_display, k_to_f, to_display
from wolfsbane.tuning.figures import PLATE_FIGURES
from wolfsbane.tuning.plate import NUMBERS, to_si

if TYPE_CHECKING:
    from wolfsbane.tuning.plate import KnownPlate

#: how far two ways to say the same may differ, degrees F
_SAME_DF = 2.0
#: sensible heat of standard air, Btu/h for each cfm and degree F (usual figure of the trade)
_SENSIBLE = 1.08
#: of the plate's power this much may be more than volts times amps allow
_POWER_SLACK = 1.10


def _row(between: tuple[str, ...], words: str, **numbers: Any) -> dict[str, Any]:
    """{between, text, text_si}: ``words`` with each number, (plate's field, value), put in in either unit system."""

    def told(system: str) -> Any:
        return words.format(**{name: _number(field, value, system) for name, (field, value) in numbers.items()})

    return {"between": list(between), "text": told("us"), "text_si": told("si")}


def _number(field: str, value: float, system: str) -> str:
    unit = NUMBERS[field][2]
    if system == "si":
        value, unit = to_si(field, unit, value)
    return f"{value:,.0f} {unit}" if abs(value) >= 1000 else f"{float(f'{value:.3g}'):g} {unit}"


def impossible(plate: KnownPlate) -> list[dict[str, Any]]:
    """Pairs of figures that arithmetic forbids: list of {between, text, text_si}."""
    found = []
    if plate.subcooling_df is not None and plate.ctoa_df is not None and plate.subcooling_df > plate.ctoa_df - 0.5:
        words = "Subcooling {a} with CTOA {b}: the liquid would leave colder than the air that cools it."
        found.append(
            _row(
                ("subcooling_df", "ctoa_df"),
                words,
                a=("subcooling_df", plate.subcooling_df),
                b=("ctoa_df", plate.ctoa_df),
            )
        )
    found += _pressures(plate)
    if plate.airflow_cfm is not None and plate.air_delta_t_df is not None:
        sensible = _SENSIBLE * plate.airflow_cfm * plate.air_delta_t_df
        if sensible > 1.03 * plate.capacity_btuh:
            words = "{a} cooled by {b} gives up {c}, more than the capacity of {d}."
            found.append(
                _row(
                    ("airflow_cfm", "air_delta_t_df", "capacity_btuh"),
                    words,
                    a=("airflow_cfm", plate.airflow_cfm),
                    b=("air_delta_t_df", plate.air_delta_t_df),
                    c=("capacity_btuh", sensible),
                    d=("capacity_btuh", plate.capacity_btuh),
                )
            )
    if plate.power_w is not None and plate.rated_amps is not None and plate.volts is not None:
        most = plate.volts * plate.rated_amps * _POWER_SLACK
        if plate.power_w > most * (1.0 if plate.volts < 300 else 1.73):
            found.append(
                _row(
                    ("power_w", "rated_amps", "volts"),
                    "{a} is more than {b} and {c} carry.",
                    a=("power_w", plate.power_w),
                    b=("volts", plate.volts),
                    c=("rated_amps", plate.rated_amps),
                )
            )
    return found


def _pressures(plate: KnownPlate) -> list[dict[str, Any]]:
    """A pressure and the temperature difference that says the same."""
    fluid, found = refrigerant(plate.refrigerant), []
    air = plate.box_f if plate.refrigeration else plate.return_db_f
    usual = {"walk_in_cooler": 38.0, "walk_in_freezer": 0.0, "reach_in": 38.0}.get(plate.application, 80.0)
    out = plate.water_in_f if plate.condenser == "water_cooled" else plate.outdoor_db_f
    out_usual = 85.0 if plate.condenser == "water_cooled" or plate.application == "reach_in" else 95.0
    for pressure, difference, point, start, sign in (
        ("suction_psig", "evaporator_td_df", "dew", usual if air is None else air, -1.0),
        ("head_psig", "ctoa_df", "bubble", out_usual if out is None else out, 1.0),
    ):
        gauge, df = getattr(plate, pressure), getattr(plate, difference)
        if gauge is None or df is None:
            continue
        pa = min(
            max(from_display("pressure", gauge, "us", STANDARD_ATMOSPHERE_PA), fluid.min_pa * 1.001),
            fluid.max_pa * 0.999,
        )
        said = abs(k_to_f(fluid.saturation_k(pa, point)) - start)
        if abs(said - df) > _SAME_DF:
            low, high = fluid.min_pa * 1.001, fluid.max_pa * 0.999
            wanted = min(max(fluid.saturation_pa(f_to_k(start + sign * df), point), low), high)
            right = to_display("pressure", wanted, "us", STANDARD_ATMOSPHERE_PA)
            names = (
                f"{PLATE_FIGURES[pressure].name} {{a}} is a {PLATE_FIGURES[difference].name} of {{b}}, not {{c}};"
                " that would be {d}."
            )
            found.append(
                _row(
                    (pressure, difference),
                    names,
                    a=(pressure, gauge),
                    b=(difference, round(said)),
                    c=(difference, df),
                    d=(pressure, right),
                )
            )
    return found


def conflicts(plate: Any, like: Any, given: Any, missed: Any, fit: Any) -> Any:
    """Figures that cannot be met together: each that, left out, lets the rest be met, with what it would then be."""
    found = []
    for key in given:
        if key == "capacity_btuh" and len(given) > 2:
            continue
        rest = {k: v for k, v in given.items() if k != key}
        try:
            _, got, _ = fit(plate, like, rest).best()
        except NoConvergenceError:
            continue
        if all(abs(got[k] - v) <= PLATE_FIGURES[k].width(v) for k, v in rest.items()):
            figure = PLATE_FIGURES[key]
            found.append(
                _row(
                    (key,),
                    figure.name + " {a} does not go with the rest: without it the rest is met, and it would be {b}.",
                    a=(key, given[key]),
                    b=(key, round(got[key], figure.shown)),
                )
            )
    if plate.factory_charge_oz is not None:
        found += _charge(plate, like, given, fit)
    if not found:
        names = ", ".join(PLATE_FIGURES[k].name for k in missed)
        found.append(_row(missed, f"{names} cannot be matched by any machine of this type in the range searched."))
    return found


def _charge(plate: Any, like: Any, given: Any, fit: Any) -> Any:
    """Whether the stated charge is what stands in the way."""
    try:
        machine, got, _ = fit(replace(plate, factory_charge_oz=None), like, given).best()
    except NoConvergenceError:
        return []
    if not all(abs(got[k] - v) <= PLATE_FIGURES[k].width(v) for k, v in given.items()):
        return []
    words = (
        "A factory charge of {a} does not go with the rest: without it the rest is met, and a machine of this kind and"
        " size would hold about {b}."
    )
    return [
        _row(
            ("factory_charge_oz",),
            words,
            a=("factory_charge_oz", plate.factory_charge_oz),
            b=("factory_charge_oz", round(machine.circuit.charge_kg / KG_PER_OZ)),
        )
    ]


def no_balance(plate: Any, holds_oz: Any) -> Any:
    """The row for a stated charge on which nothing balances."""
    words = (
        "A factory charge of {a} does not go with the rest: a machine of this kind and size holds about {b}, and none"
        " with a third to three times its volumes balances on what is stated."
    )
    return _row(
        ("factory_charge_oz",),
        words,
        a=("factory_charge_oz", plate.factory_charge_oz),
        b=("factory_charge_oz", round(holds_oz)),
    )
