"""The page a situation is written on while it is drawn: tables, numbers, choices, what was proved."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from wolfsbane.cycle.instruments import Reading, label, points_for, read, reading, values
from wolfsbane.cycle.solver import SOLVER_VERSION
from wolfsbane.cycle.units import SYSTEMS, to_display
from wolfsbane.diagnosis.figures import work_out
from wolfsbane.exercise.draw.weather import weather_for
from wolfsbane.exercise.paper.call import DIFFERENCE_TOLERANCE, SCALE_TOLERANCE, machine_record
from wolfsbane.exercise.paper.key import ProvedClaim
from wolfsbane.exercise.paper.questions import Choice, Question
from wolfsbane.exercise.paper.situation import (
    LETTERS,
    SCHEMA,
    Follows,
    KnownSlip,
    LetterKey,
    NumberKey,
    ShownTable,
    Situation,
    SituationKey,
    Trace,
    TraceLine,
)
from wolfsbane.exercise.plan.situations import SITUATIONS
from wolfsbane.tables import combined_hash

if TYPE_CHECKING:
    import random
    from collections.abc import Iterable, Mapping, Sequence

    from wolfsbane.acting.trace import Moment
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState

#: what two honest readings of the same thing may differ by, US units by kind (common practice, no source)
_MAY_DIFFER = {"temperature": 1.5, "difference": 2.0}
_PRESSURE = {"low": 2.0, "high": 5.0}
#: what the rounding of a gauge and a clamp moves a difference by at most, degrees F (assumed)
ROUNDED_DF = 0.4
#: points a strip of a recorder has at most, about
_STRIP = 160
#: a rival nearer than this many such differences fits as well
APART = 2.0


GAUGES = ("suction_pressure", "head_pressure", "suction_line", "liquid_line")
AIRS = ("return_db", "return_wb", "supply_db", "outdoor_db")


class NotProvedError(ValueError):
    """What was drawn leaves more than one answer; another draw may not."""


class Page:
    """A situation in the making. Raises :class:`NotProvedError` where a rival fits what it shows."""

    def __init__(
        self,
        kind: str,
        machine: Machine,
        conditions: Conditions,
        rng: random.Random,
        *,
        system: str,
        kit: str,
        seed: int,
        turn: float,
        machines: tuple[Machine, ...] = (),
    ) -> None:
        self.kind, self.machine, self.conditions, self.rng = SITUATIONS[kind], machine, conditions, rng
        self.system, self.kit, self.seed, self.turn = system, kit, seed, turn
        self.machines = machines or (machine,)
        self.k = 1.0 if system == "us" else 1 / 1.8
        self.complaint = ""
        self.looks: list[str] = []
        self.case = ""
        self.title = ""
        self.hazard = ""
        self._tables: list[ShownTable] = []
        self._questions: list[Question] = []
        self._choices: dict[str, tuple[Choice, ...]] = {}
        self._numbers: dict[str, NumberKey] = {}
        self._letters: dict[str, LetterKey] = {}
        self._traces: list[Trace] = []
        self._told: list[str] = []
        self._claims: list[ProvedClaim] = []

    def pick(self, cases: Sequence[str]) -> str:
        """One of the cases of this kind: the same one however often the rest is drawn again."""
        return cases[int(self.turn * len(cases))]

    def unit(self, kind: str) -> str:
        """The unit of a kind of quantity on this page."""
        return SYSTEMS[self.system][kind][0]

    def shown(self, kind: str, value_si: float) -> float:
        """A value in SI as this page shows it, not rounded."""
        return to_display(kind, value_si, self.system, self.conditions.barometer_pa)

    def degrees(self, kelvin: float) -> str:
        """A temperature as a text, to whole degrees (half ones in degrees C)."""
        value = round(self.shown("temperature", kelvin) * (1 if self.system == "us" else 2)) / (
            1 if self.system == "us" else 2
        )
        return f"{value:g} {self.unit('temperature')}".replace("-", "−")

    def readings(self, state: CircuitState, keys: Iterable[str]) -> dict[str, Reading]:
        """What gauges and clamps show of a state, as far as this machine has such points."""
        there = points_for(self.machine)
        return read(state, self.kit, self.system, machine=self.machine, keys=[k for k in keys if k in there])

    def of_moment(self, one: Moment, keys: Iterable[str] = GAUGES) -> dict[str, Reading]:
        """What gauges and clamps show at a moment of a trace, running or standing."""
        shown = values(self.machine, replace(one.state, trip=None))
        barometer = self.conditions.barometer_pa
        return {k: reading(k, shown[k], self.kit, self.system, barometer) for k in keys if k in shown}

    def weather(self, outdoor_f: float, return_f: float, wet_f: float) -> Conditions:
        """Weather of a machine that cools rooms, degrees F, on whole steps of the page's unit."""
        met = {"outdoor_db_f": outdoor_f, "return_db_f": return_f, "return_wb_f": wet_f}
        return weather_for(self.machine, met, 0.0, self.system)

    def figures(self, readings: Mapping[str, Reading]) -> dict[str, float]:
        """The worked-out figures of readings as printed."""
        shown = {key: r.value for key, r in readings.items()}
        return work_out(self.machine.refrigerant, shown, self.system, self.conditions.barometer_pa)

    def band(self, middle: float, either_df: float) -> str:
        """A window of a difference as a text, ``either_df`` degrees F to both sides."""
        either = either_df * self.k
        return f"{middle - either:.0f} to {middle + either:.0f} {self.unit('difference')}"

    def label(self, key: str) -> str:
        """What a reading is called on this machine."""
        return label(key, self.machine)

    def table(self, title: str, columns: Iterable[str], rows: Iterable[Iterable[str]]) -> None:
        """Shows a table; texts get true minus signs."""
        texts = tuple(tuple(cell.replace("-", "−") if _numeric(cell) else cell for cell in row) for row in rows)
        self._tables.append(ShownTable(title=title, columns=tuple(columns), rows=texts))

    def trace(
        self, title: str, kind: str, moments: Sequence[Moment], lines: Mapping[str, tuple[str, Sequence[float]]]
    ) -> None:
        """Shows a strip of a recorder over ``moments``: name -> (side, values in SI), thinned to what an eye sees."""
        every = max(len(moments) // _STRIP, 1)
        begin = moments[0].time_s
        self._traces.append(
            Trace(
                title=title,
                unit=self.unit(kind),
                minutes=tuple(round((m.time_s - begin) / 60.0, 3) for m in moments[::every]),
                lines=tuple(
                    TraceLine(
                        name=name, side=side, values=tuple(round(self.shown(kind, v), 1) for v in values[::every])
                    )
                    for name, (side, values) in lines.items()
                ),
            )
        )

    def strip_of_pressures(self, title: str, moments: Sequence[Moment], sides: Sequence[str] = ("low", "high")) -> None:
        """Shows what a recorder on the gauges drew over ``moments``."""
        every = {
            "low": (self.label("suction_pressure"), [m.state.suction_pa for m in moments]),
            "high": (self.label("head_pressure"), [m.state.head_pa for m in moments]),
        }
        self.trace(title, "pressure", moments, {every[side][0]: (side, every[side][1]) for side in sides})

    def show(self, title: str, readings: Mapping[str, Reading]) -> None:
        """Shows readings as a table of two columns."""
        self.table(title, ("Reading", "Value"), [(self.label(key), r.text) for key, r in readings.items()])

    def tolerance(self, kind: str) -> float:
        """How far a number worked out from the page may be off."""
        return SCALE_TOLERANCE[self.system] if kind == "temperature" else DIFFERENCE_TOLERANCE[self.system]

    def number(
        self,
        id_: str,
        text: str,
        kind: str,
        value: float,
        *,
        unit: str | None = None,
        tolerance: float | None = None,
        per: dict[str, float] | None = None,
        slips: dict[str, float] | None = None,
        points: int = 2,
    ) -> float:
        """Asks for a number; returns it as the key holds it."""
        said = self.unit(kind) if unit is None else unit
        kept = round(value, 1)
        self._questions.append(Question(id=id_, text=text, kind=kind, unit=said, points=points))
        sure = round(self.tolerance(kind) if tolerance is None else tolerance, 1)
        known = {name: round(v, 1) for name, v in (slips or {}).items() if abs(v - kept) > 2.0 * sure}
        self._numbers[id_] = NumberKey(
            value=kept,
            tolerance=sure,
            per=per or {},
            slips=tuple(KnownSlip(text=name, value=v) for name, v in known.items()),
        )
        return kept

    def choose(
        self,
        id_: str,
        text: str,
        rows: dict[str, str],
        right: str,
        *,
        also: tuple[str, ...] = (),
        because: tuple[str, ...] = (),
        follows: tuple[Follows, ...] = (),
        why: dict[str, str] | None = None,
        after: str | None = None,
        plan: dict[str, str] | None = None,
        points: int = 4,
        shuffled: bool = True,
    ) -> None:
        """Asks for one of several answers, in an order drawn at random."""
        order = list(rows)
        if shuffled:
            self.rng.shuffle(order)
        letters = LETTERS[len(self._choices)]
        if len(rows) > len(letters):
            raise ValueError(f"{id_}: {len(rows)} answers, and letters for {len(letters)}")
        self._questions.append(Question(id=id_, text=text, kind="letter", unit=None, points=points))
        self._choices[id_] = tuple(
            Choice(letter=letter, id=key, text=rows[key]) for letter, key in zip(letters, order, strict=False)
        )
        self._letters[id_] = LetterKey(
            right=right, also=also, because=because, follows=follows, why=why or {}, after=after, plan=plan or {}
        )

    def tell(self, line: str) -> None:
        """A line for the instructor's key."""
        self._told.append(line)

    def apart(self, claim: str, distances: Mapping[str, float]) -> None:
        """Claims that no rival fits what is shown; ``distances`` (rival -> how far off in honest differences between
        two readings). Raises NotProvedError where one does.
        """
        nearest = min(distances, key=distances.__getitem__, default=None)
        margin = 3.0 if nearest is None else min(distances[nearest], 3.0)
        if margin < APART:
            raise NotProvedError(f"{self.kind.name}: {nearest} fits as well ({margin:.1f})")
        self._claims.append(
            ProvedClaim(id=self.kind.id, text=claim, holds=True, margin=round(margin, 2), nearest=nearest)
        )

    def away(self, a: Mapping[str, Reading], b: Mapping[str, Reading]) -> float:
        """How far apart two sets of readings lie, in what honest readings may differ by: the largest of them."""
        return max(self.differs(a[key], b[key]) for key in a if key in b)

    def differs(self, a: Reading, b: Reading) -> float:
        """How far apart two readings of the same point lie, in what honest readings may differ by."""
        if a.kind == "pressure":
            size = _PRESSURE["high" if a.key == "head_pressure" else "low"] * (1.0 if self.system == "us" else 6.894757)
        elif a.kind == "temperature":
            size = _MAY_DIFFER["temperature"] * self.k
        else:
            size = max(0.03 * abs(a.value), 2 * a.resolution)
        return abs(a.value - b.value) / size

    def done(self) -> Situation:
        """The situation as it is frozen."""
        return Situation(
            situation=SCHEMA,
            kind=self.kind.id,
            title=self.kind.name,
            units=self.system,
            seed=self.seed,
            machine=machine_record(self.machine, self.system),
            complaint=self.complaint,
            looks=tuple(self.looks),
            tables=tuple(self._tables),
            questions=tuple(self._questions),
            choices=self._choices,
            key=SituationKey(
                title=self.title,
                case=self.case,
                numbers=self._numbers,
                letters=self._letters,
                told=tuple(self._told),
                claims=tuple(self._claims),
                hazard=self.hazard,
                level=self.kind.level,
            ),
            solver_version=SOLVER_VERSION,
            table_hash=combined_hash(),
            traces=tuple(self._traces),
        )


def _numeric(cell: str) -> bool:
    return cell.startswith("-") or " -" in cell
