"""What on a plate cannot stand beside something else on it: by arithmetic, and by leaving one figure out at a time."""

from dataclasses import replace

from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.units import KG_PER_OZ, STANDARD_ATMOSPHERE_PA, f_to_k, from_display, k_to_f, to_display
from wolfsbane.tuning.figures import FIGURES

#: how far two ways to say the same may differ, degrees F
_SAME_DF = 2.0
#: sensible heat of standard air, Btu/h for each cfm and degree F (usual figure of the trade)
_SENSIBLE = 1.08
#: of the plate's power this much may be more than volts times amps allow
_POWER_SLACK = 1.10


def _row(between, text):
    return {"between": list(between), "text": text}


def impossible(plate):
    """Pairs of figures that arithmetic forbids: list of {between, text}."""
    found = []
    if plate.subcooling_df is not None and plate.ctoa_df is not None and plate.subcooling_df > plate.ctoa_df - 0.5:
        found.append(_row(("subcooling_df", "ctoa_df"), (
            f"Subcooling {plate.subcooling_df:g} °F with CTOA {plate.ctoa_df:g} °F: the liquid would leave colder than the air "
            "that cools it.")))
    found += _pressures(plate)
    if None not in (plate.airflow_cfm, plate.air_delta_t_df):
        sensible = _SENSIBLE * plate.airflow_cfm * plate.air_delta_t_df
        if sensible > 1.03 * plate.capacity_btuh:
            found.append(_row(("airflow_cfm", "air_delta_t_df", "capacity_btuh"), (
                f"{plate.airflow_cfm:g} cfm cooled by {plate.air_delta_t_df:g} °F gives up {sensible:,.0f} Btu/h, more than the "
                f"capacity of {plate.capacity_btuh:,.0f}.")))
    if None not in (plate.power_w, plate.rated_amps, plate.volts):
        most = plate.volts * plate.rated_amps * _POWER_SLACK
        if plate.power_w > most * (1.0 if plate.volts < 300 else 1.73):
            found.append(_row(("power_w", "rated_amps", "volts"), (
                f"{plate.power_w:g} W is more than {plate.volts:g} V and {plate.rated_amps:g} A carry.")))
    return found


def _pressures(plate):
    """A pressure and the temperature difference that says the same."""
    fluid, found = refrigerant(plate.refrigerant), []
    air = plate.box_f if plate.boxed else plate.return_db_f
    usual = {"walk_in_cooler": 38.0, "walk_in_freezer": 0.0, "reach_in": 38.0}.get(plate.application, 80.0)
    out = plate.water_in_f if plate.condenser == "water_cooled" else plate.outdoor_db_f
    out_usual = 85.0 if plate.condenser == "water_cooled" or plate.application == "reach_in" else 95.0
    for pressure, difference, point, start, sign in (
            ("suction_psig", "evaporator_td_df", "dew", usual if air is None else air, -1.0),
            ("head_psig", "ctoa_df", "bubble", out_usual if out is None else out, 1.0)):
        gauge, df = getattr(plate, pressure), getattr(plate, difference)
        if gauge is None or df is None:
            continue
        pa = min(max(from_display("pressure", gauge, "us", STANDARD_ATMOSPHERE_PA), fluid.min_pa * 1.001), fluid.max_pa * 0.999)
        said = abs(k_to_f(fluid.saturation_k(pa, point)) - start)
        if abs(said - df) > _SAME_DF:
            low, high = fluid.min_pa * 1.001, fluid.max_pa * 0.999
            wanted = min(max(fluid.saturation_pa(f_to_k(start + sign * df), point), low), high)
            right = to_display("pressure", wanted, "us", STANDARD_ATMOSPHERE_PA)
            found.append(_row((pressure, difference), (
                f"{FIGURES[pressure].name} {gauge:g} psig is a {FIGURES[difference].name} of {said:.0f} °F, not {df:g}; {df:g} °F "
                f"would be {right:.0f} psig.")))
    return found


def conflicts(plate, like, given, missed, fit):
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
        if all(abs(got[k] - v) <= FIGURES[k].width(v) for k, v in rest.items()):
            figure = FIGURES[key]
            found.append(_row((key,), (
                f"{figure.name} {given[key]:g} {figure.unit} does not go with the rest: without it the rest is met, and it would "
                f"be {got[key]:.{figure.shown}f}.")))
    if plate.factory_charge_oz is not None:
        found += _charge(plate, like, given, fit)
    if not found:
        names = ", ".join(FIGURES[k].name for k in missed)
        found.append(_row(missed, f"{names} cannot be met by any machine of this kind in the range the tuner searches."))
    return found


def _charge(plate, like, given, fit):
    """Whether the stated charge is what stands in the way."""
    try:
        machine, got, _ = fit(replace(plate, factory_charge_oz=None), like, given).best()
    except NoConvergenceError:
        return []
    if not all(abs(got[k] - v) <= FIGURES[k].width(v) for k, v in given.items()):
        return []
    return [_row(("factory_charge_oz",), (
        f"A factory charge of {plate.factory_charge_oz:g} oz does not go with the rest: without it the rest is met, and a machine "
        f"of this kind and size would hold about {machine.circuit.charge_kg / KG_PER_OZ:.0f} oz."))]
