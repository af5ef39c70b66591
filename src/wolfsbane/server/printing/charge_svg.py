"""The charge chart of a call as an SVG picture: superheat and subcooling over the charge in the circuit."""

from __future__ import annotations

from math import ceil, floor
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from wolfsbane.exercise.paper.key import ChargeChart

_INK, _SOFT, _LOW, _HIGH = "#1d1b26", "#cfccd8", "#1f5fae", "#b3261e"
_WIDTH, _HEIGHT, _LEFT, _RIGHT, _TOP, _BOTTOM = 300.0, 190.0, 26.0, 8.0, 12.0, 28.0
#: figures above this are off the picture: nobody charges there
_HIGHEST = {"°F": 40.0, "K": 22.0}
#: lines in the grid along the charge, about
_ACROSS = 9


def round_step(span: float, parts: int) -> float:
    """A round step that cuts ``span`` into about ``parts``."""
    rough, size = span / parts, 1.0
    while size * 10 <= rough:
        size *= 10
    while size > rough:
        size /= 10
    return next(size * m for m in (1, 2, 5, 10) if size * m >= rough)


def charge_svg(chart: ChargeChart) -> str:
    """SVG text of a :class:`~wolfsbane.exercise.paper.key.ChargeChart`; superheat blue, subcooling red."""
    top, xs = _HIGHEST[chart.unit], [row[0] for row in chart.points]
    step, rise = round_step(xs[-1] - xs[0], _ACROSS), 5.0 if chart.unit == "°F" else 2.0
    first, last = floor(xs[0] / step) * step, ceil(xs[-1] / step) * step

    def x(value: float) -> float:
        return _LEFT + (value - first) / (last - first) * (_WIDTH - _LEFT - _RIGHT)

    def y(value: float) -> float:
        return _HEIGHT - _BOTTOM - min(max(value, 0.0), top) / top * (_HEIGHT - _TOP - _BOTTOM)

    parts, fine = [], step / 5
    for i in range(round((last - first) / fine) + 1):
        at, whole = first + i * fine, i % 5 == 0
        width, color = (0.7, "#8d889c") if whole else (0.35, _SOFT)
        parts.append(f'<path d="M{x(at):.1f} {_TOP}V{_HEIGHT - _BOTTOM}" stroke="{color}" stroke-width="{width}"/>')
        if whole:
            parts.append(f'<text x="{x(at):.1f}" y="{_HEIGHT - _BOTTOM + 9}" font-size="8">{at:g}</text>')
    for i in range(round(top / rise * 5) + 1):
        value, whole = i * rise / 5, i % 5 == 0
        width, color = (0.7, "#8d889c") if whole else (0.35, _SOFT)
        parts.append(f'<path d="M{_LEFT} {y(value):.1f}H{_WIDTH - _RIGHT}" stroke="{color}" stroke-width="{width}"/>')
        if whole:
            parts.append(
                f'<text x="{_LEFT - 4}" y="{y(value) + 3:.1f}" font-size="8" text-anchor="end">{value:g}</text>'
            )
    for column, color in ((1, _LOW), (2, _HIGH)):
        shown = [row for row in chart.points if row[column] <= top + rise]
        line = " ".join(f"{x(row[0]):.1f},{y(row[column]):.1f}" for row in shown)
        parts.append(f'<polyline points="{line}" fill="none" stroke="{color}" stroke-width="1.7"/>')
    right = _WIDTH - _RIGHT
    parts.append(
        f'<text x="{_LEFT}" y="8" font-size="8" text-anchor="start" fill="{_LOW}">superheat, {chart.unit}</text>'
        f'<text x="{right}" y="8" font-size="8" text-anchor="end" fill="{_HIGH}">subcooling, {chart.unit}</text>'
        f'<text x="{(_LEFT + _WIDTH - _RIGHT) / 2}" y="{_HEIGHT - 6}" font-size="8.5">'
        f"charge in the system, {chart.mass_unit}</text>"
    )
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {_WIDTH:g} {_HEIGHT:g}" font-family="B612"'
        f' text-anchor="middle" fill="{_INK}">{"".join(parts)}</svg>'
    )


def charge_words(chart: ChargeChart) -> str:
    """The chart in words, for somebody who hears it: the ends and the middle of its curves."""
    some = [chart.points[0], chart.points[len(chart.points) // 2], chart.points[-1]]
    told = "; ".join(
        f"at {at:g} {chart.mass_unit} superheat {superheat:.0f}, subcooling {subcooling:.0f} {chart.unit}"
        for at, superheat, subcooling in some
    )
    return f"Superheat and subcooling over the charge in the system: {told}"
