"""What a student read against what the rig showed at that minute: a dial misread is told from a clamp on the wrong
pipe, and both from an instrument that is off. Which sizes of error tell which is common practice, no source.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.instruments import tool_for
from wolfsbane.diagnosis.figures import SATURATIONS, saturation

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from wolfsbane.exercise.paper.call import Call

#: a clamp that is loose or bare shows so much of the way from its pipe to the air
_LOOSE = (0.12, 0.75)
#: all of one kind off by the same: they may differ by so much, psi and degrees F
_ALIKE = {"pressure": 2.0, "temperature": 1.2}
#: an instrument that is off by more than this was not misadjusted but misread
_OFFSET = {"pressure": 20.0, "temperature": 8.0}
_PSI_KPA = 6.894757
#: atmospheric pressure in psi
_ATMOSPHERE = 14.7
#: pipes a clamp may sit on by mistake: reading -> the others
_PIPES = ("suction_line", "liquid_line", "discharge_line", "evaporator_outlet", "drier_out")
_AIR = {"suction_line": "outdoor_db", "liquid_line": "outdoor_db", "evaporator_outlet": "return_db"}


@dataclass(frozen=True, kw_only=True)
class Minute:
    """What good instruments would have read around the moment somebody typed a reading: ``shown`` by reading,
    ``spread`` how far each moved within the minute, ``earlier`` the minutes before, newest first. All in the units of
    the call.
    """

    shown: Mapping[str, float]
    spread: Mapping[str, float] = field(default_factory=dict)
    earlier: Sequence[Mapping[str, float]] = ()


@dataclass(frozen=True, kw_only=True)
class Compared:
    """How one typed reading stands: ``code`` names why, ``right`` whether it counts, ``params`` what the sentence
    needs, ``off`` is typed less shown.
    """

    reading: str
    code: str
    right: bool
    off: float
    params: dict[str, Any]


def compared(call: Call, typed: Mapping[str, float], minutes: Mapping[str, Minute]) -> dict[str, Compared]:
    """Each typed reading (reading -> number in the call's units) against the minute it was typed in. Readings whose
    channel showed nothing then are left out.
    """
    found = {
        key: _one(call, key, value, minutes[key])
        for key, value in typed.items()
        if key in minutes and key in minutes[key].shown
    }
    return _by_instrument(call, found)


def _size(call: Call, kind: str) -> float:
    """One psi or degree F in the call's units."""
    if call.units == "us":
        return 1.0
    return _PSI_KPA if kind == "pressure" else 1 / 1.8


def allowed(call: Call, key: str, minute: Minute) -> float:
    """How far an honest reading may be off in this minute: the instrument, half its division, and what moved."""
    tool = tool_for(key, call.instruments)
    spread = minute.spread.get(key, 0.0)
    fixed = (call.key.tolerance.readings or {}).get(key)
    return (tool.tolerance_us * _size(call, tool.kind) if fixed is None else fixed) + 0.5 * spread


def _one(call: Call, key: str, value: float, minute: Minute) -> Compared:
    shown, margin = minute.shown[key], allowed(call, key, minute)
    kind = tool_for(key, call.instruments).kind
    said = {"given": f"{value:g}", "shown": f"{shown:.0f}"}

    def told(code: str, **more: Any) -> Compared:
        return Compared(reading=key, code=code, right=False, off=value - shown, params=said | more)

    if abs(value - shown) <= margin:
        return Compared(reading=key, code="lab_right", right=True, off=value - shown, params=said)
    for named in (
        _of_pressure(call, key, value, minute, margin)
        if kind == "pressure"
        else _of_clamp(call, key, value, minute, margin)
    ):
        return told(named[0], **named[1])
    for step in (10.0, 100.0, 5.0) if kind == "pressure" else (10.0,):
        if abs(abs(value - shown) - step) <= min(margin, 0.25 * step):
            return told("lab_division", step=f"{step:g}")
    for back, before in enumerate(minute.earlier, 1):
        if key in before and abs(value - before[key]) <= margin:
            return told("lab_earlier", minutes=back, then=f"{before[key]:.0f}")
    if _digits(value, shown, margin):
        return told("lab_digits")
    return told("lab_off")


def _of_pressure(
    call: Call, key: str, value: float, minute: Minute, margin: float
) -> Sequence[tuple[str, dict[str, Any]]]:
    other = "head_pressure" if key == "suction_pressure" else "suction_pressure"
    found: list[tuple[str, dict[str, Any]]] = []
    if other in minute.shown and abs(value - minute.shown[other]) <= margin:
        found.append(("lab_other_gauge", {}))
    point = next((p for pressure, p in SATURATIONS.values() if pressure == key), "dew")
    try:
        ring = saturation(call.machine.refrigerant, minute.shown[key], point, call.units, call.conditions.barometer_pa)
        if abs(value - ring) <= 1.5 * _size(call, "temperature"):
            found.append(("lab_ring", {}))
    except BadInputError:
        pass
    if abs(abs(value - minute.shown[key]) - _ATMOSPHERE * _size(call, "pressure")) <= _size(call, "pressure"):
        found.append(("lab_absolute", {}))
    return found


def _of_clamp(
    call: Call, key: str, value: float, minute: Minute, margin: float
) -> Sequence[tuple[str, dict[str, Any]]]:
    found: list[tuple[str, dict[str, Any]]] = []
    shown = minute.shown[key]
    if key in _PIPES:
        for other in _PIPES:
            there = minute.shown.get(other)
            if (
                other != key
                and there is not None
                and abs(there - shown) > 2.0 * margin
                and abs(value - there) <= margin
            ):
                return [("lab_wrong_line", {"other": _label(call, other)})]
        air = minute.shown.get(_AIR.get(key, ""))
        if air is not None and abs(air - shown) > 3.0 * margin:
            share = (value - shown) / (air - shown)
            if _LOOSE[0] <= share <= _LOOSE[1]:
                found.append(("lab_loose", {}))
    if call.units == "us" and abs(value - (shown - 32.0) / 1.8) <= 1.0:
        found.append(("lab_celsius", {}))
    return found


def _label(call: Call, key: str) -> str:
    return call.readings[key].label.lower() if key in call.readings else key.replace("_", " ")


def _digits(value: float, shown: float, margin: float) -> bool:
    """Whether two digits of the typed number stand exchanged."""
    text = f"{abs(round(value))}"
    for i in range(len(text) - 1):
        turned = [*text[:i], text[i + 1], text[i], *text[i + 2 :]]
        if turned[0] != "0" and abs(float("".join(turned)) - abs(shown)) <= margin and "".join(turned) != text:
            return True
    return False


def _by_instrument(call: Call, found: dict[str, Compared]) -> dict[str, Compared]:
    """Wrong readings of one kind that are all off by the same are an instrument's: they count, and are said so."""
    made = dict(found)
    for kind, alike in _ALIKE.items():
        own = [
            c
            for c in found.values()
            if tool_for(c.reading, call.instruments).kind == kind and (kind == "pressure" or c.reading in _PIPES)
        ]
        if len(own) < 2 or not any(not c.right for c in own):
            continue
        offs = [c.off for c in own]
        size = _size(call, kind)
        mean = sum(offs) / len(offs)
        if max(offs) - min(offs) <= alike * size and abs(mean) <= _OFFSET[kind] * size:
            unit = {"us": {"pressure": "psi", "temperature": "°F"}, "si": {"pressure": "kPa", "temperature": "K"}}
            said = f"{abs(mean):.0f} {unit[call.units][kind]} {'high' if mean > 0.0 else 'low'}"
            code = "lab_gauges_off" if kind == "pressure" else "lab_clamps_off"
            for c in own:
                if not c.right:
                    made[c.reading] = replace(c, code=code, right=True, params=c.params | {"by": said})
    return made


#: why a reading stands as it does; the sentences of the marks
LAB_REASONS = {
    "lab_right": "Right: the rig showed {shown} in that minute.",
    "lab_gauges_off": "Both gauges read {by}: not zeroed. The readings count; zeroing does not.",
    "lab_clamps_off": "Your thermometers all read {by}: check them against ice water. The reading counts.",
    "lab_other_gauge": "{given} stood on the other gauge; this one showed {shown}.",
    "lab_ring": "{given} stands on the temperature ring; the pressure was {shown}.",
    "lab_absolute": "{given} is off by the pressure of the air: gauge and absolute; the gauge showed {shown}.",
    "lab_digits": "{given}: two digits are exchanged; it showed {shown}.",
    "lab_division": "{given} is {step} off: a division miscounted on the dial; it showed {shown}.",
    "lab_wrong_line": "{given} is what the {other} was at: the clamp sat on the wrong pipe; this one was at {shown}.",
    "lab_loose": "{given} lies between the pipe ({shown}) and the air around it: the clamp is loose or not insulated.",
    "lab_celsius": "{given} is in °C; in °F it showed {shown}.",
    "lab_earlier": "It showed {then} {minutes} min before and {shown} when you typed {given}: it was still moving.",
    "lab_off": "{given}; the rig showed {shown} in that minute. No common mistake explains it.",
    "lab_predicted": "{given}; this rig has no logger, its last calibration says {shown}.",
}
