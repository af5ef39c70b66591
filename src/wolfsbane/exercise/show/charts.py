"""Charts a technician carries: pressure and temperature both ways, and the target of total superheat."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.instruments import rounded
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.units import SYSTEMS, from_display, to_display
from wolfsbane.diagnosis.targets import total_superheat_target_df

if TYPE_CHECKING:
    from wolfsbane.cycle.properties import Refrigerant

#: chart temperatures: lowest, highest and step, per system
_CHART = {"us": (-40, 150, 2), "si": (-40, 65, 1)}
#: system -> (outdoor dry bulb down, return wet bulb across) of the superheat chart, in its own degrees
_GRID = {"us": (range(55, 116, 5), range(50, 77, 2)), "si": (range(14, 47, 2), range(10, 26))}
#: below this the target is too small to charge by (common practice, no source)
LEAST_TARGET_DF = 5.0


def pt_rows(name: str, system: str) -> list[dict[str, float | None]]:
    """Rows {temperature, dew, bubble} of a refrigerant's chart, gauge pressure at sea level in the system's units.

    None where the table ends. Raises BadInputError for an unknown refrigerant.
    """
    fluid = refrigerant(name)
    low, high, step = _CHART[system]
    rows = []
    for shown in range(low, high + 1, step):
        kelvin = from_display("temperature", shown, system)
        dew, bubble = (_pressure(fluid, kelvin, point, system) for point in ("dew", "bubble"))
        if dew is not None or bubble is not None:
            rows.append({"temperature": shown, "dew": dew, "bubble": bubble})
    return rows


def _pressure(fluid: Refrigerant, kelvin: float, point: str, system: str) -> float | None:
    try:
        pa = fluid.saturation_pa(kelvin, point)
    except BadInputError:
        return None
    return round(to_display("pressure", pa, system), 1) + 0.0


def convert(name: str, system: str, *, pressure: Any = None, temperature: Any = None) -> dict[str, Any]:
    """Both points for a gauge pressure (at sea level) or for a temperature: {dew, bubble, unit, of, of_unit, glide}.

    Values are in the system's units. Raises BadInputError unless exactly one is given and it lies on the chart.
    """
    fluid = refrigerant(name)
    if (pressure is None) == (temperature is None):
        raise BadInputError("pressure", pressure, "a pressure or a temperature, not both and not none")
    kind, other = ("pressure", "temperature") if temperature is None else ("temperature", "pressure")
    shown = pressure if temperature is None else temperature
    if not math.isfinite(shown):
        raise BadInputError(kind, shown, "a number")
    points = {}
    for point in ("dew", "bubble"):
        try:
            si = from_display(kind, shown, system)
            found = fluid.saturation_k(si, point) if kind == "pressure" else fluid.saturation_pa(si, point)
        except BadInputError:
            raise BadInputError(kind, shown, _range_text(fluid, kind, system)) from None
        points[point] = round(to_display(other, found, system), 1) + 0.0
    return {
        **points,
        "unit": SYSTEMS[system][other][0],
        "of": shown,
        "of_unit": SYSTEMS[system][kind][0],
        "glide": round(to_display("difference", fluid.glide_dk(_pa(fluid, kind, shown, system)), system), 1),
    }


def _pa(fluid: Refrigerant, kind: str, shown: float, system: str) -> float:
    si = from_display(kind, shown, system)
    return si if kind == "pressure" else fluid.saturation_pa(si, "dew")


def _range_text(fluid: Refrigerant, kind: str, system: str) -> str:
    ends = (
        [to_display("pressure", p, system) for p in (fluid.min_pa, fluid.max_pa)]
        if kind == "pressure"
        else [
            to_display("temperature", t, system)
            for t in (fluid.saturation_k(fluid.min_pa, "dew"), fluid.saturation_k(fluid.max_pa * (1 - 1e-9), "bubble"))
        ]
    )
    return f"{ends[0]:.0f} to {ends[1]:.0f} {SYSTEMS[system][kind][0]}"


def superheat_target(return_wb: float, outdoor_db: float, system: str) -> dict[str, Any]:
    """Target total superheat of a fixed orifice by formula and by chart: {formula, chart, unit, note}; temperatures as
    displayed.

    Outdoors 55 to 115 degrees F, wet bulb 45 to 85 degrees F; raises BadInputError. Common practice, no source.
    """
    wet_f, outdoor_f = (
        to_display("temperature", from_display("temperature", v, system), "us") for v in (return_wb, outdoor_db)
    )
    unit = SYSTEMS[system]["temperature"][0]
    for name, value, shown, low, high in (
        ("outdoor_db", outdoor_f, outdoor_db, 55, 115),
        ("return_wb", wet_f, return_wb, 45, 85),
    ):
        if not low - 1e-6 <= value <= high + 1e-6:
            ends = [to_display("temperature", from_display("temperature", end, "us"), system) for end in (low, high)]
            raise BadInputError(name, shown, f"{ends[0]:.0f} to {ends[1]:.0f} {unit}")
    k = 1.0 if system == "us" else 1 / 1.8
    formula, chart = (total_superheat_target_df(wet_f, outdoor_f, by) for by in ("formula", "chart"))
    note = "" if formula >= LEAST_TARGET_DF else "Too small to charge by: weigh in the charge instead."
    return {
        "formula": _halves_up(formula * k, 1),
        "chart": _halves_up(chart * k, 1),
        "unit": SYSTEMS[system]["difference"][0],
        "note": note,
    }


def _halves_up(value: float, decimals: int) -> float:
    """Rounded as on paper: 12.5 is 13 and 13.5 is 14, whatever the last bit of a conversion says."""
    return round(rounded(round(value, 6), 10.0**-decimals), decimals)


def superheat_chart(by: str, system: str) -> dict[str, Any]:
    """The chart as a grid: {by, unit, difference_unit, outdoor: [..], wet_bulb: [..], rows: [[target or None]]}.

    ``by`` is formula or chart; None where the target falls under :data:`LEAST_TARGET_DF`. Raises BadInputError.
    """
    if by not in ("formula", "chart"):
        raise BadInputError("by", by, "formula, chart")
    k, decimals = (1.0, 0) if system == "us" else (1 / 1.8, 1)
    outdoor, wet_bulb = _GRID[system]

    def as_f(shown: Any) -> Any:
        return to_display("temperature", from_display("temperature", shown, system), "us")

    def cell(t: Any) -> Any:
        return _halves_up(t * k, decimals) if t >= LEAST_TARGET_DF else None

    return {
        "by": by,
        "unit": SYSTEMS[system]["temperature"][0],
        "difference_unit": SYSTEMS[system]["difference"][0],
        "outdoor": list(outdoor),
        "wet_bulb": list(wet_bulb),
        "rows": [[cell(total_superheat_target_df(as_f(wet), as_f(out), by)) for wet in wet_bulb] for out in outdoor],
    }
