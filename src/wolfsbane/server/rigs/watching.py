"""What a rig's last half hour says: settled or not, limits, channels that lie, what it should show in this weather."""

from __future__ import annotations

from collections import deque
from dataclasses import asdict, dataclass, field
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.rig.baseline import baseline_of, conditions_of, predicted
from wolfsbane.rig.coming_back import back
from wolfsbane.rig.steady import settled
from wolfsbane.rig.watch import alarms, doubts, mapped_wrong

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.rig.baseline import Baseline
    from wolfsbane.rig.rig import Rig
    from wolfsbane.rig.steady import Sample

#: samples of so many seconds of the rig's clock are looked at, thinned to so many
_SPAN_S, _MOST = 1800.0, 360


@dataclass
class Watched:
    """One rig as the logger follows it."""

    rig: Rig
    profile: Machine
    baseline: Baseline | None = None
    planted: tuple[Fault, ...] = ()
    samples: deque[Sample] = field(default_factory=deque)
    #: the last undo that was not seen through yet, and the rig's clock when it was heard of
    undone: int | None = None
    undone_s: float | None = None

    def was_undone(self, event: int | None) -> None:
        """An undo (its event) that the rig has to be watched through, or None. Its past says nothing about it."""
        if event != self.undone:
            self.undone = event
            self.undone_s = None if event is None or not self.samples else self.samples[-1][0]

    def add(self, clock_s: float, shown: dict[str, float | None]) -> bool:
        """One more sample; False where the rig's clock went back, and watching begins again."""
        steady = not self.samples or clock_s >= self.samples[-1][0]
        if not steady:
            self.samples.clear()
            self.undone_s = None
        self.samples.append((clock_s, shown))
        while self.samples and self.samples[0][0] < clock_s - _SPAN_S:
            self.samples.popleft()
        return steady

    def looked(self) -> dict[str, Any]:
        """Plain data of what the samples say now."""
        if not self.samples:
            return {}
        every = max(1, len(self.samples) // _MOST)
        rows = list(self.samples)[::-every][::-1]
        last = dict(rows[-1][1])
        still = settled(rows)
        wrong = mapped_wrong(self.rig, self.profile, last)
        window = list(self.samples)[-60:]
        found: dict[str, Any] = {
            "settled_min": still.minutes,
            "why": list(still.why),
            "wrong": wrong,
            "alarms": [asdict(a) for a in alarms(self.rig, self.profile, last, bool(self.planted))],
            "doubts": [],
            "healthy": None,
            "planted": None,
        }
        if wrong:
            return found
        individual = self.baseline.individual if self.baseline else None
        try:
            found["doubts"] = [
                asdict(d) for d in doubts(self.rig, self.profile, individual, window, self.planted, still=still.ok)
            ]
            if self.baseline is not None:
                weather = conditions_of(self.rig, self.profile, last)
                found["healthy"] = predicted(self.rig, self.profile, self.baseline.individual, weather)
                if self.undone is not None and not self.planted:
                    since = [s for s in rows if self.undone_s is None or s[0] > self.undone_s]
                    found["back"] = back(self.rig, self.profile, self.baseline.individual, since).to_json()
                if self.planted:
                    found["planted"] = predicted(
                        self.rig, self.profile, self.baseline.individual, weather, self.planted
                    )
        except (BadInputError, ArithmeticError, ValueError) as error:
            found["why"].append(str(error))
        return found


def baseline_or_none(plain: Any) -> Baseline | None:
    """A stored baseline, or None."""
    return None if plain is None else baseline_of(plain)
