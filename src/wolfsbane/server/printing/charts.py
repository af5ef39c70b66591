"""Reference charts as PDF, one page each."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.units import SYSTEMS
from wolfsbane.exercise.show.charts import pt_rows, superheat_chart
from wolfsbane.server.printing.paper import PAPER_SIZES, one_page

if TYPE_CHECKING:
    from wolfsbane.cycle.properties import Refrigerant

#: the chart stands in this many columns of rows
_COLUMNS = 3


def pt_pdf(fluid: Refrigerant, system: str) -> bytes:
    """PDF bytes of a :class:`Refrigerant`'s pressure-temperature chart in one system of units."""
    rows = pt_rows(fluid.name, system)
    per_column = -(-len(rows) // _COLUMNS)
    return one_page(
        "pt.html",
        refrigerant=fluid.name,
        safety_class=fluid.safety_class,
        blend=fluid.charged_as_liquid,
        unit={kind: SYSTEMS[system][kind][0] for kind in ("pressure", "temperature")},
        paper_size=PAPER_SIZES[system],
        columns=[rows[i : i + per_column] for i in range(0, len(rows), per_column)],
        decimals=1 if system == "us" else 0,
    )


def superheat_pdf(by: str, system: str) -> bytes:
    """PDF bytes of the chart of target total superheat, by formula or by chart."""
    return one_page(
        "superheat.html",
        chart=superheat_chart(by, system),
        paper_size=PAPER_SIZES[system],
        decimals=0 if system == "us" else 1,
    )
