"""Whether the work did it, by what the rig shows: figures in their bands for the weather of that minute, settled, no
limit passed on the way, and the weight that moved against what was missing.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.site import charged_kg
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.quantities import name_of
from wolfsbane.cycle.units import KG_PER_OZ, M_PER_FT, barometer_at_altitude_pa
from wolfsbane.rig.baseline import conditions_of, predicted
from wolfsbane.rig.steady import settled, stretches
from wolfsbane.rig.watch import alarms

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from wolfsbane.cycle.faults import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.rig.individual import Individual
    from wolfsbane.rig.rig import Rig
    from wolfsbane.rig.steady import Sample

#: figures a rig is proved by, and how far each may be from the sound rig's, K (±3 °F, common practice)
FIGURES = ("superheat", "subcooling", "evaporator_td", "ctoa")
#: saturation -> (gauge, point of the scale); figure -> (saturation, thermometer, sign of the saturation)
_GAUGES = {"suction": ("suction_pressure", "dew"), "liquid": ("head_pressure", "bubble")}
_PARTS = {
    "superheat": ("suction", "suction_line", -1.0),
    "subcooling": ("liquid", "liquid_line", 1.0),
    "evaporator_td": ("suction", "return_db", -1.0),
    "ctoa": ("liquid", "outdoor_db", 1.0),
}
_BAND_K = 3.0 / 1.8
#: liquid at the compressor: superheat under 2 °F for more than a minute
_WET_K, _WET_S = 2.0 / 1.8, 60.0
#: a weight is right within this share of the charge or so many kg, whichever is more
_WEIGHT_SHARE, _WEIGHT_KG = 0.03, 2.0 * KG_PER_OZ
#: a scale's noise is no movement, kg; every so many samples a limit is looked at
_STILL_KG, _EVERY = 0.5 * KG_PER_OZ, 5
#: the mean of so many samples is what the scale shows
_MEAN = 5


@dataclass(frozen=True, kw_only=True)
class FigureFound:
    """One figure after the work: what the rig shows and what it would show sound in this weather, K."""

    name: str
    shown_k: float
    sound_k: float

    @property
    def ok(self) -> bool:
        """Whether it is in its band."""
        return abs(self.shown_k - self.sound_k) <= _BAND_K

    def text(self, system: str) -> str:
        """In words."""
        size, unit = (1.8, "°F") if system == "us" else (1.0, "K")
        return (
            f"{name_of(self.name)} {self.shown_k * size:.0f} {unit}; normal for this rig in this weather is "
            f"{self.sound_k * size:.0f} {unit}".replace("-", "−")
        )


@dataclass(frozen=True, kw_only=True)
class Outcome:
    """What came of the work. ``settled`` where the rig stood still at the end, ``why`` what still moved; ``limits`` are
    those that were passed, in words; weights in kg into the machine: ``moved`` by the scale (None without one),
    ``most`` the most that was in on the way, ``missing`` what the calibrated rig lacked (None where its charge was
    right); ``wet_s`` seconds with liquid at the compressor. ``by`` is logger or typed.
    """

    settled: bool
    why: tuple[str, ...] = ()
    figures: tuple[FigureFound, ...] = ()
    limits: tuple[str, ...] = ()
    moved_kg: float | None = None
    most_kg: float | None = None
    missing_kg: float | None = None
    charge_kg: float = 0.0
    wet_s: float = 0.0
    by: str = "logger"
    notes: tuple[str, ...] = field(default_factory=tuple)

    @property
    def proved(self) -> bool:
        """Whether every figure is in its band on a rig that stood still."""
        return self.settled and bool(self.figures) and all(f.ok for f in self.figures)

    @property
    def margin_kg(self) -> float:
        """How far a weight may be off."""
        return max(_WEIGHT_SHARE * self.charge_kg, _WEIGHT_KG)

    @property
    def weight_ok(self) -> bool | None:
        """Whether what went in is what was missing; None where nothing was, or no scale says."""
        if self.missing_kg is None or self.moved_kg is None:
            return None
        return abs(self.moved_kg - self.missing_kg) <= self.margin_kg

    @property
    def overshot(self) -> bool:
        """Whether more than that was in at some time."""
        if self.missing_kg is None or self.most_kg is None:
            return False
        beyond = self.most_kg - self.missing_kg if self.missing_kg >= 0.0 else self.missing_kg - self.most_kg
        return beyond > self.margin_kg

    @property
    def recovered(self) -> bool:
        """Whether it was overshot and put right."""
        return self.overshot and self.weight_ok is True


def missing_kg(machine: Machine, faults: tuple[Fault, ...]) -> float | None:
    """What has to go in (out: negative) so that the charge is right, kg; None where no charge fault is planted."""
    if not any(f.id in ("undercharge", "overcharge") for f in faults):
        return None
    return machine.circuit.charge_kg - charged_kg(machine, faults)


def scale_kg(samples: Sequence[Sample]) -> tuple[float, float, float] | None:
    """(gone from the cylinder on the scale, most that was gone, least that was gone), kg, over some samples; None
    without a scale. Single readings are noise: means of a few count.
    """
    shown = [v for _, row in samples if (v := row.get("weight")) is not None]
    means = [sum(shown[i : i + _MEAN]) / _MEAN for i in range(0, len(shown) - _MEAN + 1, _MEAN)]
    if len(means) < 2:
        return None
    gone = [means[0] - m for m in means]
    return gone[-1], max(gone), min(gone)


def figure_k(rig: Rig, machine: Machine, shown: Mapping[str, float | None], name: str) -> float | None:
    """One of :data:`FIGURES` of what a rig shows, K; None where a channel is missing or off the scale."""
    side, point, sign = _PARTS[name]
    gauge, end = _GAUGES[side]
    if name == "ctoa" and shown.get("water_in") is not None:
        point = "water_in"
    pressure, there = shown.get(gauge), shown.get(point)
    scale = refrigerant(machine.refrigerant)
    if pressure is None or there is None:
        return None
    absolute = pressure + barometer_at_altitude_pa(rig.altitude_ft * M_PER_FT)
    if not scale.min_pa < absolute < scale.max_pa:
        return None
    return sign * (scale.saturation_k(absolute, end) - there)


def judged(
    rig: Rig,
    profile: Machine,
    individual: Individual,
    samples: Sequence[Sample],
    faults: tuple[Fault, ...],
) -> Outcome:
    """The :class:`Outcome` of the samples from the go-ahead to the proof. ``faults`` are those planted at the start.

    Raises BadInputError where the rig shows no weather.
    """
    still = settled(list(samples))
    last = (
        [s for s in samples if s[0] >= samples[-1][0] - min(60.0 * max(still.minutes, 1.0), 600.0)] if samples else []
    )
    found = stretches(last, longest_s=700.0) if still.ok else []
    shown = found[-1].mean if found else _mean(last)
    figures = _figures(rig, profile, individual, shown)
    machine = individual.machine(profile)
    weighed = scale_kg(samples)
    missing = missing_kg(machine, faults)
    most = None
    if weighed is not None:
        most = weighed[2] if missing is not None and missing < 0.0 else weighed[1]
    return Outcome(
        settled=bool(found),
        why=() if found else still.why,
        figures=figures,
        limits=_limits(rig, profile, samples),
        moved_kg=None if weighed is None else _still(weighed[0]),
        most_kg=most,
        missing_kg=missing,
        charge_kg=machine.circuit.charge_kg,
        wet_s=_wet_s(rig, profile, samples),
    )


def typed(
    rig: Rig, profile: Machine, individual: Individual, shown: Mapping[str, float], moved: float | None,
    faults: tuple[Fault, ...],
) -> Outcome:  # fmt: skip
    """The same from typed proof readings (SI, gauge pressures, with the weather in them): nobody saw the way there.

    Raises BadInputError where the weather is missing.
    """
    machine = individual.machine(profile)
    return Outcome(
        settled=True,
        figures=_figures(rig, profile, individual, shown),
        moved_kg=moved,
        most_kg=moved,
        missing_kg=missing_kg(machine, faults),
        charge_kg=machine.circuit.charge_kg,
        by="typed",
        notes=("Typed readings against the last calibration: no logger saw the way there.",),
    )


def _still(kg: float) -> float:
    return 0.0 if abs(kg) < _STILL_KG else kg


def _mean(samples: Sequence[Sample]) -> dict[str, float]:
    points = {p for _, row in samples for p, v in row.items() if v is not None}
    return {
        p: sum(rows) / len(rows) for p in points if (rows := [v for _, row in samples if (v := row.get(p)) is not None])
    }


def _figures(rig: Rig, profile: Machine, individual: Individual, shown: Mapping[str, float]) -> tuple[FigureFound, ...]:
    sound: Mapping[str, Any] | None = predicted(rig, profile, individual, conditions_of(rig, profile, shown))
    if sound is None:
        return ()
    found = []
    for name in FIGURES:
        is_, should = (figure_k(rig, profile, row, name) for row in (shown, {**shown, **sound}))
        if is_ is not None and should is not None:
            found.append(FigureFound(name=name, shown_k=is_, sound_k=should))
    return tuple(found)


def _limits(rig: Rig, profile: Machine, samples: Sequence[Sample]) -> tuple[str, ...]:
    worst: dict[str, str] = {}
    for _, row in samples[::_EVERY]:
        for alarm in alarms(rig, profile, row, planted=False):
            if alarm.passed:
                worst.setdefault(alarm.point, alarm.text)
    return tuple(worst.values())


def _wet_s(rig: Rig, profile: Machine, samples: Sequence[Sample]) -> float:
    """The longest time on end with hardly any superheat while it ran."""
    longest = now = 0.0
    for (begin, _), (end, row) in zip(samples, samples[1:], strict=False):
        superheat = figure_k(rig, profile, row, "superheat")
        running = (row.get("compressor_amps") or 99.0) > 0.25 * profile.plate.rated_amps
        now = now + end - begin if superheat is not None and superheat < _WET_K and running else 0.0
        longest = max(longest, now)
    return longest if longest > _WET_S else 0.0
