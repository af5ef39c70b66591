"""Reference charts as PDF, one page each."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.units import SYSTEMS
from wolfsbane.exercise.show.charts import pt_rows, superheat_chart
from wolfsbane.server.printing.paper import PAPER_SIZES
from wolfsbane.server.printing.press import pressed

if TYPE_CHECKING:
    from wolfsbane.cycle.properties import Refrigerant

#: the chart stands in this many columns of rows
_COLUMNS = 3


def _text(value: float | None, decimals: int) -> str:
    return "–" if value is None else f"{value:.{decimals}f}".replace("-", "−")


def pt_pdf(fluids: list[Refrigerant], system: str, size: str | None = None) -> bytes:
    """PDF bytes of the pressure-temperature chart of each :class:`Refrigerant`, in one system of units. ``size`` is
    letter or A4, the usual one of the units where it is not given.
    """
    charts = [_chart(fluid, system) for fluid in fluids]
    return pressed("charts", sheet={}, paper_size=size or PAPER_SIZES[system], charts=charts)


def _chart(fluid: Refrigerant, system: str) -> dict[str, Any]:
    points = ("dew", "bubble") if fluid.charged_as_liquid else ("dew",)
    decimals = 1 if system == "us" else 0
    rows = [
        {
            "temperature": _text(row["temperature"], 0),
            "whole": row["temperature"] is not None and row["temperature"] % 10 == 0,
            "pressures": [_text(row[point], decimals) for point in points],
        }
        for row in pt_rows(fluid.name, system)
    ]
    per_column = -(-len(rows) // _COLUMNS)
    return {
        "refrigerant": fluid.name,
        "safety_class": fluid.safety_class,
        "blend": fluid.charged_as_liquid,
        "columns": [rows[i : i + per_column] for i in range(0, len(rows), per_column)],
        **{kind: SYSTEMS[system][kind][0] for kind in ("pressure", "temperature")},
    }


def superheat_pdf(by: str, system: str) -> bytes:
    """PDF bytes of the chart of target total superheat, by formula or by chart."""
    chart, decimals = superheat_chart(by, system), 0 if system == "us" else 1
    return pressed(
        "superheat",
        sheet={},
        paper_size=PAPER_SIZES[system],
        by=chart["by"],
        unit=chart["unit"],
        difference_unit=chart["difference_unit"],
        wet_bulb=[str(w) for w in chart["wet_bulb"]],
        rows=[
            {"outdoor": str(outdoor), "cells": [_text(cell, decimals) for cell in row]}
            for outdoor, row in zip(chart["outdoor"], chart["rows"], strict=True)
        ],
    )
