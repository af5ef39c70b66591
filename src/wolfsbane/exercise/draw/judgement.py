"""Whether solved readings make a fair call: one defensible answer on the sheet that offers them."""

from __future__ import annotations

import random
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import product
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.conditions import Conditions
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import NONE, Fault, fault_kind
from wolfsbane.cycle.field_tests import FIELD_TESTS
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS, of_instruments, of_machine
from wolfsbane.cycle.instruments import read
from wolfsbane.diagnosis.candidates import candidates, instruments_on_paper
from wolfsbane.diagnosis.difficulty import difficulty
from wolfsbane.diagnosis.pages import may_agree, page_of
from wolfsbane.diagnosis.patterns import glass_verdict, pattern_of, patterns
from wolfsbane.diagnosis.proof import STATED, nothing_shows, prove
from wolfsbane.diagnosis.solved_cases import solved_cases
from wolfsbane.diagnosis.targets import GLASS, NORMAL, judged
from wolfsbane.diagnosis.technician import by_the_book, by_the_rules
from wolfsbane.diagnosis.vectors import faulted_vector, solved
from wolfsbane.diagnosis.words import words
from wolfsbane.exercise.draw.fairness import unfair
from wolfsbane.exercise.draw.offered import answers, look_alikes, pool
from wolfsbane.exercise.draw.rung import in_words
from wolfsbane.exercise.paper.call import EDGE_MARGIN, bands_for, figures_of, readings_printed
from wolfsbane.exercise.paper.pipes import pipes_given

if TYPE_CHECKING:
    from collections.abc import Iterable

    import numpy as np

    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.difficulty import Difficulty
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.proof import Proof
    from wolfsbane.diagnosis.solved_cases import SolvedCases


REFUSALS = {
    "cut_out": "the machine cuts out",
    "no_balance": "no steady operating point was found",
    "weather": "even with nothing wrong the machine is off target in this weather",
    "edge": "a figure lies on the edge of its target",
    "look_alike": "the readings are within instrument tolerance of {fault}",
    "same_pattern": "the figures point to {fault} as much as to the hidden fault",
    "hides": "{fault} shows in no figure that is off its own way, and in no look or test",
    "on_target": "every figure is on target though something is wrong",
    "points_away": "the figure that tells {fault} is off the other way",
    "unproved": "{fault} moves one figure, and no test that proves it is given",
    "by_the_book": "read by the book it is {fault}",
    "pipes": "line temperatures would give a different verdict than gauges",
    "seen": "these readings were already given to somebody else",
}


@dataclass(frozen=True, kw_only=True)
class Judgement:
    """Whether readings make a fair call: ``refusal`` is None, or a sentence; ``proof`` is None where it came to none.

    ``patterns`` are what each offered fault shows; ``offered`` the ids of the answers on the sheet, ``left_open`` those
    among them that the readings cannot rule out, where that is allowed. ``needs`` are tests that would lift a refusal,
    ``stated`` families that the page has to rule out in words.
    """

    refusal: str | None
    proof: Proof | None = None
    patterns: dict[str, Any] | None = None
    state: CircuitState | None = None
    cases: SolvedCases | None = None
    offered: tuple[str, ...] = ()
    left_open: tuple[str, ...] = ()
    needs: tuple[str, ...] = ()
    stated: tuple[str, ...] = ()

    def with_weather(self, faults: tuple[Fault, ...]) -> Proof:
        """The proof of a judgement with what it claims in other weather as well."""
        cases, proof, _ = self.proved()
        return prove(
            cases,
            faults,
            readings=proof.readings,
            tests=proof.tests,
            wants_splits=False,
            wants_weather=True,
            stated=self.stated or STATED,
        )

    def proved(self) -> tuple[SolvedCases, Proof, CircuitState]:
        """(cases, proof, state) of a judgement that came to a proof; raises ValueError where it came to none."""
        if self.cases is None or self.proof is None or self.state is None:
            raise ValueError(f"there is no proof: {self.refusal}")
        return self.cases, self.proof, self.state


def foul_weather(cases: SolvedCases, practice: Practice, system: str, allow_edges: bool) -> str | None:
    """Why no call can be made in this weather, whatever is wrong: a code of :data:`REFUSALS`, or None."""
    if cases.fault_free.trip is not None:
        return "cut_out"
    of_fault_free = _accepted(cases, cases.fault_free, (), practice, system)
    return "weather" if any(NORMAL not in v or (len(v) > 1 and not allow_edges) for v in of_fault_free) else None


def without_proof(
    cases: SolvedCases,
    state: CircuitState | None,
    practice: Practice,
    system: str,
    allow_edges: bool,
    faults: tuple[Fault, ...] = (),
) -> str | None:
    """The refusal that needs no proof, as a code of :data:`REFUSALS`, or None."""
    if state is None:
        return "cut_out"
    foul = foul_weather(cases, practice, system, allow_edges)
    if foul is not None:
        return foul
    if not allow_edges and any(len(v) > 1 for v in _accepted(cases, state, faults, practice, system)):
        return "edge"
    return None


@dataclass(frozen=True, kw_only=True)
class Weighed:
    """Readings weighed against everything else, before it is drawn which answers the sheet offers: what
    :func:`weigh` makes and :meth:`judged` decides on. ``barred`` would be right as well, ``same`` show the same
    verdicts, ``taught`` are answers that have to be told apart whether they are offered or not.
    """

    cases: SolvedCases
    faults: tuple[Fault, ...]
    practice: Practice
    state: CircuitState
    proof: Proof
    table: dict[str, list[tuple[str, ...]]]
    same: tuple[str, ...]
    taught: frozenset[str]
    barred: frozenset[str]
    stated: tuple[str, ...]
    named: tuple[str, ...] | None
    leave_open: bool
    by_book: bool

    @cached_property
    def hidden(self) -> tuple[str, ...]:
        """Ids of the planted faults."""
        return tuple(f.id for f in self.faults)

    @cached_property
    def vector(self) -> np.ndarray:
        """What is planted, as instruments show it, (N,)."""
        return faulted_vector(self.cases.machine, self.state, self.faults)

    @cached_property
    def _never(self) -> set[str]:
        """Answers that would be right as well."""
        return set(self.barred) - set(self.hidden)

    @cached_property
    def _among(self) -> tuple[tuple[str, ...], list[str]]:
        """Families that answers are drawn from, and the nearest look-alikes among them."""
        among = pool(self.cases.machine, self.named)
        return among, look_alikes(among, self.hidden, self.table, self._never)

    def judged(self, seed: int) -> Judgement:
        """The judgement with answers drawn by ``seed``."""
        cases, faults, proof = self.cases, self.faults, self.proof
        hidden = self.hidden
        among, alike = self._among
        offered = answers(
            cases.machine, hidden, among, alike, self._never, random.Random(seed), _instruments(cases, hidden)
        )
        table = {fault: rows for fault, rows in self.table.items() if fault in (NONE, *offered)}
        found = Judgement(
            refusal=None,
            proof=proof,
            patterns=table,
            state=self.state,
            cases=cases,
            offered=offered,
            stated=self.stated,
        )
        code, name = _from_proof(proof, faults, (*offered, *self.taught))
        if code is None:
            name = next((fault for fault in self.same if fault in (NONE, *offered, *self.taught)), None)
            code = "same_pattern" if name else None
        if code and self.leave_open and name != NONE:
            others = [r.id for r in proof.equals if r.id in offered] + [f for f in self.same if f in offered]
            return replace(found, left_open=tuple(dict.fromkeys(others)))
        if code is None and self.by_book:
            page = page_of(cases, faults, self.vector, self.practice, offered, proof.readings, proof.tests)
            read_as = next((r for r in (by_the_book(page), by_the_rules(page)) if set(r) != set(hidden)), None)
            if read_as is not None:
                code, name = "by_the_book", "+".join(read_as)
        return found if code is None else replace(found, refusal=REFUSALS[code].format(fault=_called(name)), stated=())


def judge_on(
    cases: SolvedCases, faults: tuple[Fault, ...], practice: Practice, system: str, *, seed: int = 0, **given: Any
) -> Judgement:
    """:func:`weigh` planted ``faults`` and judge them with the answers drawn by ``seed``: a :class:`Judgement`."""
    found = weigh(cases, faults, practice, system, **given)
    return found if isinstance(found, Judgement) else found.judged(seed)


def weigh(
    cases: SolvedCases,
    faults: tuple[Fault, ...],
    practice: Practice,
    system: str,
    *,
    tests: Any = (),
    readings: Any = None,
    allow_edges: bool = False,
    wants_splits: bool = False,
    leave_open: bool = False,
    pipes: bool = False,
    named: tuple[str, ...] | None = None,
    by_book: bool = False,
    looks_decide: bool = True,
    pairs: bool = True,
) -> Weighed | Judgement:
    """Weigh planted ``faults`` (a tuple of Fault) on a :class:`~wolfsbane.diagnosis.solved_cases.SolvedCases`: a
    :class:`Weighed`, or a :class:`Judgement` that refuses whatever the sheet offers.

    Refused: a cutout, a machine with nothing wrong off target, a figure on a target's edge (unless ``allow_edges``),
    readings within tolerance of the machine with nothing wrong or of another answer that the sheet offers, and a
    verdict pattern that another offered fault shows too. Where edges are allowed, every pattern an examiner would
    accept has to be the planted fault's alone. With ``leave_open`` other offered faults may look the same: they are
    named in ``left_open`` and count as right. With ``pipes`` there are no gauges, and the proof has to stand on the
    pipes alone. ``named`` are the families a request draws from. Never fair is what
    :func:`~wolfsbane.exercise.draw.fairness.unfair` names; with ``by_book`` a technician by the book has to name the
    hidden faults as well, and ``looks_decide`` says whether a look may yet be found that shows what no figure does;
    without ``pairs`` the judgement is a first one, by single faults only.
    """
    try:
        state = solved(cases.machine, cases.conditions, faults)
        code = without_proof(cases, state, practice, system, allow_edges, faults)
    except NoConvergenceError:
        code, state = "no_balance", None
    if code or state is None:
        return Judgement(refusal=REFUSALS[code or "cut_out"], state=state, cases=cases, patterns={})
    verdicts = _accepted(cases, state, faults, practice, system)
    drier = pattern_of(cases, faulted_vector(cases.machine, state, faults), practice)[-1]
    wrong = None if pipes else unfair(cases, state, faults, [*verdicts, {drier}], tuple(tests))
    if wrong is not None and (wrong[0] != "hides" or not looks_decide):  # nothing that a proof would add mends it
        mild = nothing_shows(cases, faults, readings_printed(cases.machine, readings), tests)
        if mild is not None:
            return Judgement(refusal=mild.refusal, proof=mild, patterns={}, state=state, cases=cases)
        return _refused_as_unfair(wrong, None, state, cases)
    hidden = tuple(f.id for f in faults)
    stated = tuple(s for s in STATED if s not in hidden and s not in (named or ()))
    proof = prove(
        cases,
        faults,
        readings=pipes_given(cases.machine) if pipes else readings_printed(cases.machine, readings),
        tests=tests,
        offers_readings=False,
        wants_splits=wants_splits,
        pairs=pairs,
        stated=stated,
    )
    if proof.refusal:  # nothing shows: no other fault needs to be solved to say so
        return Judgement(refusal=proof.refusal, proof=proof, patterns={}, state=state, cases=cases)
    if wrong is not None:
        return _refused_as_unfair(wrong, proof, state, cases)
    among = (*pool(cases.machine, named), *_instruments(cases, hidden))
    table = patterns(cases, practice, tuple(dict.fromkeys((*among, *hidden))))
    alike = _same_pattern(cases, state, faults, practice, system, table) if faults else []
    told = _told_apart(cases, faults, tests, alike)
    same = [f for f in alike if f not in told]
    taught = {kind.id for kind in candidates(cases.machine, tuple(f.id for f in of_machine(faults)), tests)}
    return Weighed(
        cases=cases,
        faults=faults,
        practice=practice,
        state=state,
        proof=proof,
        table=table,
        same=tuple(same),
        taught=frozenset(taught),
        barred=frozenset(({r.id for r in proof.equals} | set(same)) - (taught if leave_open else set())),
        stated=stated,
        named=named,
        leave_open=leave_open,
        by_book=by_book,
    )


def _told_apart(cases: SolvedCases, faults: tuple[Fault, ...], tests: Any, families: Iterable[str]) -> set[str]:
    """Families with which one of ``tests`` cannot answer as it does here. Those go first whose answer needs no machine
    solved.
    """
    said = {t: words(cases, t, faults) for t in sorted(tests, key=lambda t: FIELD_TESTS[t].usual is None)}
    return {f for f in families if any(not may_agree(cases, t, f, here) for t, here in said.items())}


def _refused_as_unfair(
    wrong: tuple[str, str, tuple[str, ...]], proof: Proof | None, state: CircuitState, cases: SolvedCases
) -> Judgement:
    text = REFUSALS[wrong[0]].format(fault=(INSTRUMENT_FAULTS.get(wrong[1]) or fault_kind(wrong[1])).name)
    return Judgement(refusal=text, proof=proof, patterns={}, state=state, cases=cases, needs=wrong[2])


def _instruments(cases: SolvedCases, hidden: tuple[str, ...]) -> tuple[str, ...]:
    """Trouble of the instruments among the answers: of every kind where there is one, none elsewhere."""
    return instruments_on_paper(cases.kit) if set(hidden) & set(INSTRUMENT_FAULTS) else ()


def _called(name: str | None) -> str:
    """An answer's id in a sentence."""
    return in_words(() if name in (NONE, None, "") else tuple(str(name).split("+")))


def _from_proof(proof: Proof, faults: tuple[Fault, ...], offered: tuple[str, ...]) -> tuple[str | None, str | None]:
    """(code, name) of the refusal a proof leads to on a sheet that offers ``offered``."""
    for rival in proof.equals:
        ids = [] if rival.id == NONE else rival.id.split("+")
        named = len(ids) <= max(len(faults), 1) and (len(ids) == len(faults) or len(faults) > 1 or not faults)
        if faults and set(ids) <= set(offered) and (named or not ids):
            return "look_alike", rival.id
    return None, None


def _same_pattern(
    cases: SolvedCases,
    state: CircuitState,
    faults: tuple[Fault, ...],
    practice: Practice,
    system: str,
    table: dict[str, list[tuple[str, ...]]],
) -> list[str]:
    """Other faults that show one of the patterns an examiner would accept here."""
    drier = pattern_of(cases, faulted_vector(cases.machine, state, faults), practice)[-1]
    mine = set(product(*_accepted(cases, state, faults, practice, system), (drier,)))
    hidden = {f.id for f in faults}
    return [f for f, rows in table.items() if f not in hidden and mine & set(rows)]


def judge(
    machine: Machine,
    conditions: Conditions,
    fault: Fault,
    practice: Practice,
    kit: str,
    system: str,
    *,
    allow_edges: bool = False,
) -> Judgement:
    """Solve and judge one candidate. ``fault`` is a Fault, a tuple of them or None; returns a :class:`Judgement`."""
    faults = () if fault is None else fault if isinstance(fault, tuple) else (fault,)
    return judge_on(solved_cases(machine, conditions, kit), faults, practice, system, allow_edges=allow_edges)


def _accepted(
    cases: SolvedCases, state: CircuitState, faults: tuple[Fault, ...], practice: Practice, system: str
) -> list[set[str]]:
    """For each figure the set of verdicts an examiner would accept from the printed readings, which trouble of an
    instrument among ``faults`` disturbs; kept with the ground, since a page is judged several times.
    """
    kept: dict[Any, tuple[CircuitState, list[set[str]]]] = cases.by_practice(practice).setdefault("accepted", {})
    key = (id(state), of_instruments(faults), system)  # the state is kept as well, so that no other is ever called so
    if key not in kept:
        kept[key] = state, _verdicts_accepted(cases, state, faults, practice, system)
    return kept[key][1]


def _verdicts_accepted(
    cases: SolvedCases, state: CircuitState, faults: tuple[Fault, ...], practice: Practice, system: str
) -> list[set[str]]:
    machine = cases.machine
    readings = read(
        state,
        cases.kit,
        system,
        machine=machine,
        keys=readings_printed(machine, None),
        instrument_faults=of_instruments(faults),
    )
    figures = figures_of(machine, readings, system, cases.conditions.barometer_pa)
    targets = bands_for(machine, practice, system, readings)
    glass = {GLASS: {glass_verdict(state)}} if machine.receiver else {}
    return [
        glass.get(name)
        or (targets[name].verdicts_within(figures[name], EDGE_MARGIN[system]) if name in targets else {NORMAL})
        for name in judged(machine)
    ]


def hardness(judgement: Judgement, faults: tuple[Fault, ...], practice: Practice) -> Difficulty:
    """The :class:`~wolfsbane.diagnosis.difficulty.Difficulty` of a fair judgement."""
    cases, proof, _ = judgement.proved()
    return difficulty(cases, faults, proof, practice=practice, offered=judgement.offered)
