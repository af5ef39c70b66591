"""Whether a rig is back at its baseline after a fault was undone."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wolfsbane.rig.baseline import WEATHER, conditions_of, predicted
from wolfsbane.rig.planting import in_words, tolerance_of
from wolfsbane.rig.points import kind_of
from wolfsbane.rig.steady import settled, stretches

if TYPE_CHECKING:
    from collections.abc import Sequence

    from wolfsbane.cycle.machine import Machine
    from wolfsbane.rig.individual import Individual
    from wolfsbane.rig.rig import Rig
    from wolfsbane.rig.steady import Sample

_PA_PER_PSI = 6894.757
#: a stretch is looked at over so many seconds at most
_LONGEST_S = 600.0


@dataclass(frozen=True, kw_only=True)
class Back:
    """What a rig shows since it was undone: ``ok`` where it is back, None while that cannot be said yet.

    ``worst_f`` and ``worst_psi`` are the largest misses of its lines and pressures; ``text`` says it in words.
    """

    ok: bool | None
    text: str
    worst_f: float | None = None
    worst_psi: float | None = None

    def to_json(self) -> dict[str, Any]:
        """Plain data."""
        return dict(vars(self))


def back(rig: Rig, profile: Machine, individual: Individual, samples: Sequence[Sample]) -> Back:
    """Judge ``samples`` since the undo against what the rig should show in the weather it has. Raises BadInputError
    where it shows no weather.
    """
    still = settled(list(samples))
    if not still.ok:
        return Back(ok=None, text="waiting for it to settle")
    last = [s for s in samples if s[0] >= samples[-1][0] - min(60.0 * still.minutes, _LONGEST_S)]
    found = stretches(last, longest_s=_LONGEST_S + 100.0)
    if not found:
        return Back(ok=None, text="waiting for it to settle")
    mean = found[-1].mean
    should = predicted(rig, profile, individual, conditions_of(rig, profile, mean))
    if should is None:
        return Back(ok=None, text="it could not stay on in this weather")
    off = {p: mean[p] - should[p] for p in should if p in mean and p not in WEATHER}
    lines = [abs(v) * 1.8 for p, v in off.items() if kind_of(p) == "temperature"]
    pressures = [abs(v) / _PA_PER_PSI for p, v in off.items() if kind_of(p) == "pressure"]
    worst_f, worst_psi = (round(max(rows), 1) if rows else None for rows in (lines, pressures))
    astray = [in_words(p, v) for p, v in off.items() if abs(v) > tolerance_of(p)]
    within = " and ".join(f"{v} {unit}" for v, unit in ((worst_f, "°F"), (worst_psi, "psi")) if v is not None)
    text = "; ".join(astray) if astray else f"within {within} of baseline"
    return Back(ok=not astray, text=text, worst_f=worst_f, worst_psi=worst_psi)
