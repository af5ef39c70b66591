"""The answer key of a call: what is hidden in the machine, every figure and verdict, what earns, and the right repair.

Frozen with the call when a sheet is issued. :mod:`wolfsbane.exercise.paper.call` is its only reader and writer.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from pydantic import TypeAdapter

from wolfsbane.diagnosis.targets import FIGURES, FIGURES_BY_GLASS, GLASS, Band


@dataclass(frozen=True, kw_only=True)
class Slip:
    """The number that a known slip leads to; ``code`` may name the refrigerant whose scale was read, after a colon."""

    code: str
    value: float


@dataclass(frozen=True, kw_only=True)
class Tolerances:
    """How far an answer may be off, in the sheet's units; ``readings`` by reading on a rig, None elsewhere."""

    saturation: float
    sum: float
    edge: float
    readings: dict[str, float] | None = None


@dataclass(frozen=True, kw_only=True)
class ChargePoint:
    """What the machine, put right in everything else, shows when ``moved`` goes in (out is negative): figures in the
    sheet's unit of difference; ``trips`` where it does not stay on. ``flash`` is the vapor at the sight glass in per
    cent, ``level`` how full the receiver is.
    """

    moved: float
    superheat: float
    subcooling: float
    trips: bool = False
    flash: float = 0.0
    level: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Amount:
    """Weight to be moved compared with what is in it now, in is positive; ``also`` counts as well, ``charge`` is the
    whole charge.

    ``low`` and ``high`` are the ends between which the repaired machine stands on its target without flooding, by
    ``curve``; None on calls that were frozen before amounts were judged by what they lead to, where ``tolerance`` does.
    """

    value: float
    tolerance: float
    also: tuple[float, ...]
    unit: str
    charge: float
    low: float | None = None
    high: float | None = None
    curve: tuple[ChargePoint, ...] = ()


@dataclass(frozen=True, kw_only=True)
class ChargeChart:
    """The charge chart of this machine today, drawn on the page: superheat and subcooling over the charge in it, with
    nothing else wrong, as ``points`` (charge, superheat, subcooling) in ``mass_unit`` and ``unit``; ``figure`` is
    the one it is charged by.
    """

    figure: str
    mass_unit: str
    unit: str
    points: tuple[tuple[float, float, float], ...]


@dataclass(frozen=True, kw_only=True)
class Route:
    """One legal way through the steps: ``needed`` step ids, pairs of which the first comes ``before`` the second, and
    what else is ``allowed`` at no cost.
    """

    needed: tuple[str, ...]
    before: tuple[tuple[str, str], ...]
    allowed: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class ChargeSlope:
    """What a little charge does near the target: ``per`` of ``mass_unit`` moves ``figure`` by one ``unit``."""

    figure: str
    per: float
    mass_unit: str
    unit: str


@dataclass(frozen=True, kw_only=True)
class SealedResult:
    """The result of a test that may be asked for on paper."""

    id: str
    name: str
    text: str


@dataclass(frozen=True, kw_only=True)
class DifficultyReason:
    """One thing that makes a call hard, with its points."""

    points: float
    text: str


@dataclass(frozen=True, kw_only=True)
class CallDifficulty:
    """How hard a call is: level 1 to 5, and why; ``success`` is the share of simulated apprentices who name what is
    wrong, None on calls frozen before it was predicted.
    """

    level: int
    points: float
    reasons: tuple[DifficultyReason, ...] = ()
    success: float | None = None


@dataclass(frozen=True, kw_only=True)
class ProvedClaim:
    """One thing that was proved of a call, or was not: its id and words, whether it holds, how far the nearest rival
    lies in reading tolerances (3 and more is 3), and that rival's id.
    """

    id: str
    text: str
    holds: bool
    margin: float
    nearest: str | None = None


@dataclass(frozen=True, kw_only=True)
class WrongPath:
    """A known mistake on this very machine, and the number or conclusion it leads to."""

    mistake: str
    text: str
    feedback: str
    question: str | None = None
    value: float | None = None
    leads_to: str | None = None


@dataclass(frozen=True, kw_only=True)
class Shown:
    """Readings and figures of a machine as texts, or the cutout it trips on."""

    trips: str | None
    readings: dict[str, str]
    figures: dict[str, str]


@dataclass(frozen=True, kw_only=True)
class RepairStep:
    """One step of a repair; ``amount`` and ``tolerance`` are weights in ``unit``."""

    action: str
    text: str
    fault: str | None = None
    arguments: dict[str, Any] = field(default_factory=dict)
    minutes: float | None = None
    money: str = "none"
    caution: str = ""
    amount: float | None = None
    tolerance: float | None = None
    unit: str = ""
    needs: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class AfterRepair:
    """What the machine shows after one of several repairs; ``shown`` is None where it has no steady state."""

    repaired: str
    shown: Shown | None


@dataclass(frozen=True, kw_only=True)
class WrongPlan:
    """What a usual wrong plan would have led to, solved."""

    plan: str
    text: str
    figures: dict[str, str]
    trips: str | None


@dataclass(frozen=True, kw_only=True)
class CorrectionKey:
    """The right repair with its amounts and proof; only ``refusal`` where the machine has no balance to correct
    from.
    """

    refusal: str | None = None
    by: str | None = None
    repairs: tuple[str, ...] = ()
    first: RepairStep | None = None
    steps: tuple[RepairStep, ...] = ()
    minutes: float = 0.0
    between: tuple[AfterRepair, ...] = ()
    proof: Shown | None = None
    wrong: tuple[WrongPlan, ...] = ()


@dataclass(frozen=True, kw_only=True)
class RepairKey:
    """The repair as it is asked on paper. ``steps`` is one right sequence; ``plans``, ``routes_of`` and ``changes_of``
    go by fault id, so that a wrong conclusion is followed; ``changes`` are the accepted answers by question, the plain
    one first. ``routes`` are every legal way, () on calls that were frozen before there was more than one.
    """

    steps: tuple[str, ...]
    plans: dict[str, tuple[str, ...]]
    changes: dict[str, tuple[str, ...]]
    changes_of: dict[str, dict[str, str]]
    amount: Amount
    slope: ChargeSlope | None
    routes: tuple[Route, ...] = ()
    routes_of: dict[str, tuple[Route, ...]] = field(default_factory=dict)
    chart: ChargeChart | None = None


@dataclass(frozen=True, kw_only=True)
class RigRow:
    """How one fault is set on a rig and undone."""

    fault: str
    size: str
    set: str
    settle_min: float
    limits: str
    undo: str
    caution: str


@dataclass(frozen=True, kw_only=True)
class RigCard:
    """What stands on the card of a rig, with the readings the model predicts."""

    rows: tuple[RigRow, ...]
    predicted: dict[str, str]


@dataclass(frozen=True, kw_only=True)
class Key:
    """The key of one call. Figures, bands and the target are in the sheet's units.

    ``target`` is None where the scale decides and no figure is charged by; ``verdicts`` are those on every figure that
    is judged, and on a sight glass. ``patterns`` are the verdict patterns each fault shows in this weather,
    ``deciders`` the figures that decide for it, ``mistakes`` the numbers of known slips by question. ``after_off`` are
    figures that stay off their target after the repair. ``repair`` is None on calls that were frozen before repairs
    were asked. ``measured`` is true once a rig's own readings stand in place of the model's, ``scale_slope`` is then
    how the saturation moves with the gauge. ``claims`` say what was proved, ``given_tests`` are the words of the looks
    and tests on the page; calls frozen before either was kept have none. ``causes`` are
    the cause of each fault by its id; calls frozen before they were kept go by the first.
    """

    fault: str
    fault_name: str
    severity: float | None
    faults: tuple[str, ...]
    severities: dict[str, float] = field(default_factory=dict)
    repairs: tuple[str, ...]
    between: dict[str, str] | None
    action: str
    action_text: str
    hazard: str
    figures: dict[str, float]
    bands: dict[str, Band]
    verdicts: dict[str, str]
    target: float | None
    target_of: str | None
    drier_high: bool
    evidence: tuple[str, ...]
    deciders: dict[str, tuple[str, ...]]
    patterns: dict[str, tuple[tuple[str, ...], ...]]
    mistakes: dict[str, tuple[Slip, ...]]
    after: dict[str, str]
    after_figures: dict[str, str]
    after_off: tuple[str, ...] = ()
    tolerance: Tolerances
    correction: CorrectionKey | None = None
    repair: RepairKey | None = None
    slips: tuple[SealedResult, ...] = ()
    difficulty: CallDifficulty | None = None
    accepted: tuple[str, ...] = ()
    unique: bool = False
    claims: tuple[ProvedClaim, ...] = ()
    given_tests: dict[str, str | bool] = field(default_factory=dict)
    also_open: tuple[str, ...] = ()
    wrong_paths: tuple[WrongPath, ...] = ()
    chart: bool = False
    rig: RigCard | None = None
    measured: bool = False
    scale_slope: dict[str, float] | None = None
    causes: dict[str, str] = field(default_factory=dict)

    @property
    def named(self) -> tuple[str, ...]:
        """Ids of what is wrong; ``none`` alone where nothing is."""
        return self.faults or (self.fault,)

    @property
    def judged(self) -> tuple[str, str, str, str]:
        """What is judged, in the order of the verdict patterns."""
        return FIGURES_BY_GLASS if GLASS in self.verdicts else FIGURES

    @property
    def level(self) -> int | None:
        """Stated difficulty, or None."""
        return None if self.difficulty is None else self.difficulty.level


def plain(correction: CorrectionKey) -> dict[str, Any]:
    """A correction key as plain data."""
    return TypeAdapter(CorrectionKey).dump_python(correction, mode="json")
