"""A strip of a recorder as an SVG picture: one to three lines over minutes."""

from __future__ import annotations

from math import ceil, floor
from typing import TYPE_CHECKING

from wolfsbane.server.printing.charge_svg import round_step

if TYPE_CHECKING:
    from wolfsbane.exercise.paper.situation import Trace

_INK, _GRID = "#1d1b26", "#cfccd8"
_COLORS = {"low": "#1f5fae", "high": "#b3261e", "air": "#1d1b26"}
_WIDTH, _HEIGHT, _LEFT, _RIGHT, _TOP, _BOTTOM = 620.0, 116.0, 34.0, 8.0, 14.0, 24.0
#: lines in the grid along the minutes and up the scale, about
_ACROSS, _UP = 10, 4


def trace_svg(trace: Trace) -> str:
    """SVG text of a :class:`~wolfsbane.exercise.paper.situation.Trace`; low side blue, high side red, airs dark."""
    every = [v for line in trace.lines for v in line.values]
    end = trace.minutes[-1] or 1.0
    rise = round_step(max(max(every) - min(every), 1.0), _UP)
    low, high = floor(min(every) / rise) * rise, ceil(max(every) / rise) * rise
    high = high if high > low else low + rise

    def x(minute: float) -> float:
        return _LEFT + minute / end * (_WIDTH - _LEFT - _RIGHT)

    def y(value: float) -> float:
        return _HEIGHT - _BOTTOM - (value - low) / (high - low) * (_HEIGHT - _TOP - _BOTTOM)

    parts, across = [], round_step(end, _ACROSS)
    for i in range(floor(end / across) + 1):
        at = i * across
        parts.append(f'<path d="M{x(at):.1f} {_TOP}V{_HEIGHT - _BOTTOM}" stroke="{_GRID}" stroke-width=".5"/>')
        parts.append(f'<text x="{x(at):.1f}" y="{_HEIGHT - _BOTTOM + 9}" font-size="8">{round(at, 3):g}</text>')
    for i in range(round((high - low) / rise) + 1):
        value = low + i * rise
        parts.append(f'<path d="M{_LEFT} {y(value):.1f}H{_WIDTH - _RIGHT}" stroke="{_GRID}" stroke-width=".5"/>')
        parts.append(
            f'<text x="{_LEFT - 4}" y="{y(value) + 3:.1f}" font-size="8" text-anchor="end">'
            f"{f'{round(value, 3):g}'.replace('-', '−')}</text>"
        )
    for i, line in enumerate(trace.lines):
        points = " ".join(f"{x(m):.1f},{y(v):.1f}" for m, v in zip(trace.minutes, line.values, strict=True))
        color = _COLORS[line.side]
        parts.append(f'<polyline points="{points}" fill="none" stroke="{color}" stroke-width="1.5"/>')
        parts.append(
            f'<text x="{_LEFT + i * 150}" y="9" font-size="8" text-anchor="start" fill="{color}">'
            f"{line.name}, {trace.unit}</text>"
        )
    middle = (_LEFT + _WIDTH - _RIGHT) / 2
    parts.append(f'<text x="{middle}" y="{_HEIGHT - 4}" font-size="8">minutes</text>')
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {_WIDTH:g} {_HEIGHT:g}" font-family="B612"'
        f' text-anchor="middle" fill="{_INK}">{"".join(parts)}</svg>'
    )


def trace_words(trace: Trace) -> str:
    """The strip in words, for somebody who hears it: where each line begins and ends, its lowest and its highest."""
    told = "; ".join(
        f"{line.name} from {line.values[0]:g} to {line.values[-1]:g} {trace.unit}, lowest {min(line.values):g}, "
        f"highest {max(line.values):g}"
        for line in trace.lines
    )
    return f"{trace.title}, {trace.minutes[-1]:.0f} minutes: {told}"
