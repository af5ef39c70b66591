"""Dial geometry: one drawing for screen and paper. Angles in degrees clockwise from twelve o'clock.

The drawing is a square of 200 by 200 units with its center at (100, 100).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.units import from_display, to_display

START_DEG, SWEEP_DEG = -135.0, 270.0
_CENTRE, _PRESSURE_R, _SCALE_R = 100.0, 92.0, 62.0


@dataclass(frozen=True, kw_only=True)
class Scale:
    """A pressure scale: top value, major and minor division in ``unit`` (gauge).

    A compound gauge has ``vacuum_deg`` of its sweep below zero, down to no pressure at all (``vacuum`` in ``unit``,
    labeled ``vacuum_label``: inches of mercury with psi, the negative pressure with kPa).
    """

    side: str
    unit: str
    top: float
    major: float
    minor: float
    ring_minor: int
    ring_major: int
    vacuum_deg: float = 0.0
    vacuum: float = 14.696
    vacuum_label: str = "30″"


SCALES = {
    ("low", "us"): Scale(side="low", unit="psig", top=250, major=50, minor=2, ring_minor=2, ring_major=10),
    ("high", "us"): Scale(side="high", unit="psig", top=700, major=100, minor=10, ring_minor=2, ring_major=10),
    ("low", "si"): Scale(side="low", unit="kPa", top=1700, major=200, minor=20, ring_minor=1, ring_major=5),
    ("high", "si"): Scale(side="high", unit="kPa", top=4800, major=600, minor=50, ring_minor=1, ring_major=5),
}
#: machines that cool boxes run low: a compound gauge and a shorter high scale
BOX_SCALES = {
    ("low", "us"): Scale(
        side="low", unit="psig", top=150, major=25, minor=1, ring_minor=2, ring_major=10, vacuum_deg=30.0
    ),
    ("high", "us"): Scale(side="high", unit="psig", top=500, major=50, minor=5, ring_minor=2, ring_major=10),
    ("low", "si"): Scale(
        side="low",
        unit="kPa",
        top=1000,
        major=100,
        minor=10,
        ring_minor=1,
        ring_major=5,
        vacuum_deg=30.0,
        vacuum=101.325,
        vacuum_label="−100",
    ),
    ("high", "si"): Scale(side="high", unit="kPa", top=3500, major=500, minor=50, ring_minor=1, ring_major=5),
}


def angle_deg(scale: Scale, value: float) -> float:
    """Needle angle for ``value`` in the scale's unit, held at the stops."""
    zero = START_DEG + scale.vacuum_deg
    if value < 0.0 and scale.vacuum_deg:
        return zero + scale.vacuum_deg * max(value / scale.vacuum, -1.05)
    return zero + (SWEEP_DEG - scale.vacuum_deg) * min(max(value / scale.top, -0.02), 1.02)


def _xy(angle: float, radius: float) -> tuple[float, float]:
    a = math.radians(angle)
    return round(_CENTRE + radius * math.sin(a), 2), round(_CENTRE - radius * math.cos(a), 2)


def _tick(angle: float, outer: float, inner: float) -> str:
    x1, y1 = _xy(angle, outer)
    x2, y2 = _xy(angle, inner)
    return f"M{x1} {y1}L{x2} {y2}"


def _label(angle: float, radius: float, text: str) -> dict[str, Any]:
    x, y = _xy(angle, radius)
    return {"x": x, "y": y, "text": text}


def needle_deg(side: str, system: str, value: float, *, refrigeration: bool = False) -> float:
    """Angle of the needle of one dial for a gauge pressure in the system's unit,
    degrees clockwise from twelve o'clock.
    """
    return round(angle_deg((BOX_SCALES if refrigeration else SCALES)[(side, system)], value), 3)


def needle_in_words(scale: Scale, value: float) -> str:
    """Where a needle stands, for who cannot see it: by the marks of the scale, so that it still has to be read."""
    if value < 0.0:
        return "below zero"
    if value > scale.top:
        return "beyond the end of the scale"
    marks = round(value / scale.minor)
    labeled, beyond = divmod(marks * scale.minor, scale.major)
    small = round(beyond / scale.minor)
    at = f"{labeled * scale.major:g}"
    return f"on {at}" if not small else f"{small} small mark{'s' if small > 1 else ''} past {at}, {scale.minor:g} each"


def dial(
    side: str, system: str, value: float, refrigerant_name: str, barometer_pa: float, *, refrigeration: bool = False
) -> dict[str, Any]:
    """Drawing of one dial as plain data: tick paths, labels, the needle angle and the PT scale.

    ``side`` is low or high, ``value`` the gauge pressure in the system's unit. The low PT scale is drawn for the dew
    point and the high PT scale for the bubble point, at ``barometer_pa``. ``refrigeration`` picks the compound gauge of
    a machine that cools a box.
    """
    face = _face(side, system, refrigerant_name, barometer_pa, refrigeration)
    return {**face, "value": value, "needle_deg": needle_deg(side, system, value, refrigeration=refrigeration)}


@lru_cache(maxsize=256)
def _face(side: str, system: str, refrigerant_name: str, barometer_pa: float, refrigeration: bool) -> dict[str, Any]:
    """All of a dial but its needle: it stays the same while a machine is read again and again. Not to be changed."""
    scale = (BOX_SCALES if refrigeration else SCALES)[(side, system)]
    minor, major, labels = [], [], []
    for i in range(round(scale.top / scale.minor) + 1):
        mark = i * scale.minor
        angle = angle_deg(scale, mark)
        if mark % scale.major == 0:
            major.append(_tick(angle, _PRESSURE_R, _PRESSURE_R - 9))
            labels.append(_label(angle, _PRESSURE_R - 15.5, f"{mark:g}"))
        else:
            long = mark % (scale.minor * 5) == 0
            minor.append(_tick(angle, _PRESSURE_R, _PRESSURE_R - (6 if long else 3.5)))
    if scale.vacuum_deg:
        for i in range(1, 6):
            minor.append(_tick(START_DEG + scale.vacuum_deg * i / 6, _PRESSURE_R, _PRESSURE_R - 5))
        major.append(_tick(START_DEG, _PRESSURE_R, _PRESSURE_R - 9))
        labels.append(_label(START_DEG, _PRESSURE_R - 15.5, scale.vacuum_label))
    ring_minor, ring_labels, ring_unit = _pt_scale(scale, system, refrigerant_name, barometer_pa)
    return {
        "side": side,
        "unit": scale.unit,
        "value": 0.0,
        "needle_deg": 0.0,
        "minor_path": "".join(minor),
        "major_path": "".join(major),
        "labels": labels,
        "ring_path": ring_minor,
        "ring_labels": ring_labels,
        "ring_unit": ring_unit,
        "ring_radius": _SCALE_R,
        "refrigerant": refrigerant_name,
    }


def _pt_scale(
    scale: Scale, system: str, refrigerant_name: str, barometer_pa: float
) -> tuple[str, list[dict[str, Any]], str]:
    fluid = refrigerant(refrigerant_name)
    point = "dew" if scale.side == "low" else "bubble"
    limits = [
        to_display("temperature", fluid.saturation_k(p, point), system)
        for p in (
            max(
                from_display(
                    "pressure", -0.6 * scale.vacuum if scale.vacuum_deg else 0.04 * scale.top, system, barometer_pa
                ),
                fluid.min_pa * 1.001,
            ),
            min(from_display("pressure", scale.top, system, barometer_pa), fluid.max_pa * 0.999),
        )
    ]
    ticks, labels, last_angle = [], [], -999.0
    for t in range(math.ceil(limits[0]), math.floor(limits[1]) + 1):
        if t % scale.ring_minor:
            continue
        pressure = to_display(
            "pressure", fluid.saturation_pa(from_display("temperature", t, system), point), system, barometer_pa
        )
        angle = angle_deg(scale, pressure)
        whole = t % scale.ring_major == 0
        ticks.append(_tick(angle, _SCALE_R, _SCALE_R - (7 if whole else 4)))
        if whole and angle - last_angle > 9.0:
            labels.append(_label(angle, _SCALE_R - 12.5, f"{t:g}"))
            last_angle = angle
    return "".join(ticks), labels, "°F" if system == "us" else "°C"
