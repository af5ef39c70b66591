"""What guessing would earn: strategies of somebody who does not read the machine, marked like any apprentice.

Every sheet is tried before it is issued. The strategies stand for what people do under time pressure: leave it blank,
ring NORMAL everywhere, name the same fault every time, copy the numbers and guess the rest, go by the complaint.
"""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass
from math import log
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.conditions import Conditions
from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.faults import FAULTS, NONE, Fault
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import solve
from wolfsbane.diagnosis.figures import SATURATIONS, subtracted
from wolfsbane.diagnosis.targets import HIGH, LOW, NORMAL
from wolfsbane.exercise.marking.grade import grade, perfect_answers, total
from wolfsbane.exercise.marking.work import ASKED
from wolfsbane.exercise.paper.questions import CORRECT, fault_name
from wolfsbane.exercise.plan.story import draft, notices

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import FaultKind
    from wolfsbane.cycle.instrument_faults import InstrumentFault
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.exercise.paper.call import Call

#: what the strategies may earn at most, as a share of the points
BLANK, NORMAL_ONLY, COPIED, CONSTANT, NUMBERS = 0.0, 0.20, 0.20, 0.25, 0.60
#: how far above chance a fault may be named from the words alone
ABOVE_CHANCE = 0.10
#: so many calls make a class of neighbors to copy from
_CLASS = 12
#: stories the text reader learns from, for each fault
_LESSONS = 40
_VERDICTS = (LOW, NORMAL, HIGH)
_CHANGES = tuple(q for q in CORRECT if q.startswith("after_"))


@dataclass(frozen=True, kw_only=True)
class Played:
    """One strategy over many calls: points earned of those possible, on so many ``calls``; ``limit`` is the share it
    may reach. ``named`` and ``chance`` are shares of faults named rightly, where the strategy names one by the words.
    """

    id: str
    text: str
    calls: int
    earned: int
    possible: int
    limit: float
    named: float | None = None
    chance: float | None = None

    @property
    def share(self) -> float:
        """Share of the points."""
        return self.earned / self.possible if self.possible else 0.0

    @property
    def over(self) -> bool:
        """Whether it pays more than it may."""
        by_words = self.named is not None and self.chance is not None and self.named > self.chance + ABOVE_CHANCE
        return self.share > self.limit + 1e-9 or by_words

    def to_json(self) -> dict[str, Any]:
        """Plain data."""
        row = {
            "id": self.id,
            "text": self.text,
            "calls": self.calls,
            "earned": self.earned,
            "possible": self.possible,
            "share": round(self.share, 3),
            "limit": self.limit,
            "over": self.over,
        }
        return (
            row if self.named is None else row | {"named": round(self.named, 3), "chance": round(self.chance or 0, 3)}
        )


def _kept(call: Call, answers: dict[str, str]) -> dict[str, str]:
    asked = {q.id for q in call.questions}
    return {question: raw for question, raw in answers.items() if question in asked}


def _letter(call: Call, question: str, wanted: str) -> str:
    return next((c.letter for c in call.choices.lettered(question) if c.id == wanted), "")


def plan_for(call: Call, fault: str) -> dict[str, str]:
    """Fault, first step, weight, order and outcome as somebody would write them who is sure of ``fault``."""
    repair = call.key.repair
    found = {"fault": _letter(call, "fault", fault), "action": _letter(call, "action", fault)}
    decides = call.key.deciders.get(fault, ("all_on_target",))
    found["evidence"] = _letter(call, "evidence", decides[0])
    if repair is not None and fault in repair.plans:
        steps = repair.plans[fault]
        found["order"] = " ".join(str(call.choices.number(s)) for s in steps)
        found["amount"] = "+20" if "add" in steps else "-20" if "remove" in steps else "0"
        found |= repair.changes_of.get(fault, dict.fromkeys(_CHANGES, "same"))
    return found


def _rings(call: Call, fault: str) -> dict[str, str]:
    """The verdicts the fault is known for."""
    rows = call.key.patterns.get(fault) or ((NORMAL,) * 4,)
    return {f"{name}_verdict": rows[-1][i] for i, name in enumerate(call.key.judged)}


def _numbers(call: Call) -> dict[str, str]:
    """Every figure and the target, right; rig readings too."""
    right = perfect_answers(call)
    wanted = (*SATURATIONS, *ASKED, "target")
    return {q: raw for q, raw in right.items() if q in wanted or q.startswith("read_")}


def _true_rings(call: Call) -> dict[str, str]:
    return {f"{name}_verdict": verdict for name, verdict in call.key.verdicts.items()}


def _made_up(call: Call, rng: random.Random) -> dict[str, str]:
    """Saturations that sound likely, everything else worked out from them."""
    us = call.units == "us"
    low, high = rng.uniform(30, 50), rng.uniform(95, 125)
    known = {name: reading.value for name, reading in call.readings.items()}
    known |= {
        "suction_saturation": low if us else (low - 32) / 1.8,
        "liquid_saturation": high if us else (high - 32) / 1.8,
    }
    known |= subtracted(known)
    found = {name: f"{known[name]:.1f}" for name in (*SATURATIONS, *ASKED) if name in known} | {"target": "10"}
    return found | {f"{name}_verdict": band.verdict(known[name]) for name, band in call.key.bands.items()}


def _same_number(call: Call, number: str) -> dict[str, str]:
    """One number in every box and the verdicts that go with it."""
    found = dict.fromkeys((*SATURATIONS, *ASKED, "target"), number)
    return found | {f"{name}_verdict": band.verdict(float(number)) for name, band in call.key.bands.items()}


def _odd_one_out(calls: Sequence[Call]) -> str:
    """The fault that stands among the answers of the fewest of these calls."""
    seen = Counter(choice.id for call in calls for choice in call.choices.fault)
    return min(seen, key=lambda fault: (seen[fault], fault))


def _normals(call: Call) -> dict[str, str]:
    return {f"{name}_verdict": NORMAL for name in call.key.judged} | plan_for(call, NONE)


def _coin(call: Call, rng: random.Random) -> dict[str, str]:
    rings = {f"{name}_verdict": rng.choice(_VERDICTS) for name in call.key.judged}
    return rings | plan_for(call, rng.choice(call.choices.fault).id)


Answers = Callable[["Call", random.Random], dict[str, str] | None]


def _wrong(fault: str, answers: Callable[[Call], dict[str, str]]) -> Answers:
    """``answers`` on calls where ``fault`` is offered and not what is wrong."""

    def of(call: Call, rng: random.Random) -> dict[str, str] | None:
        known = {c.id for c in call.choices.fault}
        wrong = fault in known and fault not in call.key.named and fault not in call.key.also_open
        return answers(call) if wrong else None

    return of


def _always(fault: str, numbers: bool = False) -> Callable[[Call], dict[str, str]]:
    """The same conclusion and plan every time, after right ``numbers`` or with the verdicts the fault is known for."""

    def of(call: Call) -> dict[str, str]:
        begun = _numbers(call) | _true_rings(call) if numbers else _rings(call, fault)
        return begun | plan_for(call, fault)

    return of


def _strategies(calls: Sequence[Call]) -> list[tuple[str, str, float, Answers]]:
    """(id, what it does, limit, answers) of every strategy that needs no lessons."""
    faults = sorted({c.id for call in calls for c in call.choices.fault} - {NONE})
    rare = _odd_one_out(calls) if calls else NONE
    found: list[tuple[str, str, float, Answers]] = [
        ("blank", "Nothing written", BLANK, lambda call, rng: {}),
        ("all_normal", "NORMAL everywhere, nothing wrong, no numbers", NORMAL_ONLY, _wrong(NONE, _normals)),
        (
            "coin",
            "Verdicts and fault by coin, no numbers",
            CONSTANT,
            _coin,
        ),
        (
            "numbers_then_nothing",
            "Right numbers and verdicts, then nothing wrong",
            NUMBERS,
            _wrong(NONE, lambda call: _numbers(call) | _true_rings(call) | plan_for(call, NONE)),
        ),
        (
            "numbers_then_coin",
            "Right numbers, verdicts and fault by coin",
            NUMBERS,
            lambda call, rng: _numbers(call) | _coin(call, rng),
        ),
        (
            "made_up_numbers",
            "Made-up saturations worked through, then low charge",
            NUMBERS,
            lambda call, rng: (
                _made_up(call, rng) | plan_for(call, "undercharge") if call.key.fault != "undercharge" else None
            ),
        ),
        (
            "one_number",
            "10 in every box, verdicts to go with it, then nothing wrong",
            CONSTANT,
            _wrong(NONE, lambda call: _same_number(call, "10") | plan_for(call, NONE)),
        ),
        (
            "odd_one_out",
            "The answer that stands on the fewest calls, no numbers",
            CONSTANT,
            lambda call, rng: (
                _rings(call, rare) | plan_for(call, rare) if any(c.id == rare for c in call.choices.fault) else {}
            ),
        ),
        (
            "low_then_adds",
            "Right numbers, subcooling called low, adds 20 oz",
            NUMBERS,
            _wrong("undercharge", lambda call: _numbers(call) | _true_rings(call) | _low_charge(call)),
        ),
    ]
    for fault in faults:
        name = fault_name(fault)
        found.append(
            (
                f"always:{fault}",
                f"Always “{name}”, no numbers",
                CONSTANT,
                _wrong(fault, _always(fault)),
            )
        )
        found.append(
            (
                f"numbers_then:{fault}",
                f"Right numbers and verdicts, then always “{name}”",
                NUMBERS,
                _wrong(fault, _always(fault, numbers=True)),
            )
        )
    return found


def _low_charge(call: Call) -> dict[str, str]:
    return plan_for(call, "undercharge") | {"subcooling_verdict": LOW, "amount": "+20"}


def _play(calls: Sequence[Call], row: tuple[str, str, float, Answers], seed: str) -> Played:
    ident, text, limit, answers = row
    rng, earned, possible, count = random.Random(f"{seed}/{ident}"), 0, 0, 0
    for call in calls:
        written = answers(call, rng)
        if written is None:
            continue
        got, of = total(grade(call, _kept(call, written)))
        earned, possible, count = earned + got, possible + of, count + 1
    return Played(id=ident, text=text, calls=count, earned=earned, possible=possible, limit=limit)


def copied(call: Call, other: Call) -> tuple[int, int]:
    """(earned, possible) of another call's right answers written on this one, word for word."""
    return total(grade(call, _kept(call, perfect_answers(other))))


def told_by_name(call: Call) -> tuple[int, int]:
    """(earned, possible) of somebody who was told what is wrong and read nothing: its usual verdicts, no numbers, and
    the plan for it.
    """
    return total(grade(call, _kept(call, _rings(call, call.key.fault) | plan_for(call, call.key.fault))))


def _copied(calls: Sequence[Call]) -> Played:
    """Another call's right answers, word for word: what somebody has who copied a neighbor's paper."""
    earned = possible = count = 0
    for call, other in zip(calls, [*calls[1:], *calls[:1]], strict=True):
        if other is not call:
            got, of = copied(call, other)
            earned, possible, count = earned + got, possible + of, count + 1
    text = "Another paper's right answers, word for word"
    return Played(id="another_paper", text=text, calls=count, earned=earned, possible=possible, limit=COPIED)


def _so_far(calls: Sequence[Call]) -> Played:
    """The fault that was hidden most often in the calls before."""
    seen: Counter[str] = Counter()
    earned = possible = right = 0
    for call in calls:
        guess = next((f for f, _ in seen.most_common() if _letter(call, "fault", f)), NONE)
        got, of = total(grade(call, _kept(call, _rings(call, guess) | plan_for(call, guess))))
        earned, possible, right = earned + got, possible + of, right + (guess in call.key.named)
        seen[call.key.fault] += 1
    text = "The fault that was hidden most often so far, no numbers"
    return Played(
        id="most_frequent_so_far", text=text, calls=len(calls), earned=earned, possible=possible, limit=CONSTANT
    )


class TextReader:
    """A small reader of complaints: learns which words go with which fault, from stories of other seeds."""

    def __init__(self, lessons: list[tuple[str, str]]) -> None:
        self.faults = Counter(fault for fault, _ in lessons)
        self.words: dict[str, Counter[str]] = {fault: Counter() for fault in self.faults}
        for fault, text in lessons:
            self.words[fault].update(_words(text))
        self.known = len({w for counts in self.words.values() for w in counts}) or 1

    def names(self, text: str, among: Sequence[str]) -> str:
        """The likeliest of the faults offered for a text."""
        scores = {}
        for fault in among:
            if fault in self.words:
                counts, size = self.words[fault], sum(self.words[fault].values())
                scores[fault] = sum(log((counts[w] + 0.5) / (size + 0.5 * self.known)) for w in _words(text))
        return max(scores, key=lambda fault: (scores[fault], fault)) if scores else NONE


def _words(text: str) -> list[str]:
    plain = "".join(c if c.isalnum() else " " for c in text.lower()).split()
    return plain + [f"{a} {b}" for a, b in zip(plain, plain[1:], strict=False)]


def _solved(machine_id: str, conditions: Conditions, faults: tuple[Fault, ...]) -> CircuitState | None:
    try:
        return solve(MACHINES[machine_id], conditions, faults)
    except (NoConvergenceError, BadInputError):
        return None


def lessons(calls: Sequence[Call], seed: str) -> list[tuple[str, str]]:
    """(fault, story) pairs drawn and solved on the machines of ``calls`` in their weather, by other seeds."""
    rng = random.Random(f"lessons/{seed}")
    known = [call for call in calls if call.machine.id in MACHINES]
    faults = sorted({c.id for call in known for c in call.choices.fault})
    found = []
    for fault in faults:
        for _ in range(_LESSONS):
            call = rng.choice(known)
            machine = MACHINES[call.machine.id]
            if fault in FAULTS and not FAULTS[fault].suits(machine):
                continue
            c = call.conditions
            weather = Conditions(**asdict(c))
            hidden: tuple[Fault, ...] = ()
            if fault != NONE:
                kind: FaultKind | InstrumentFault = INSTRUMENT_FAULTS.get(fault) or FAULTS[fault].on(machine)
                hidden = (Fault(id=fault, severity=round(kind.mild + (kind.severe - kind.mild) * rng.random(), 2)),)
            noticed = notices(_solved(machine.id, weather, hidden), _solved(machine.id, weather, ()))
            complaint, history, _ = draft(hidden, (), rng, machine, noticed)
            found.append((fault, f"{complaint} {history}"))
    return found


def _by_words(calls: Sequence[Call], seed: str) -> Played:
    """The fault named from complaint and history alone."""
    reader = TextReader(lessons(calls, seed))
    earned = possible = right = 0
    for call in calls:
        guess = reader.names(f"{call.complaint} {call.history}", [c.id for c in call.choices.fault])
        got, of = total(grade(call, _kept(call, _rings(call, guess) | plan_for(call, guess))))
        earned, possible, right = earned + got, possible + of, right + (guess in call.key.named)
    hidden = Counter(call.key.fault for call in calls)
    chance = max(hidden.values(), default=0) / max(len(calls), 1)
    even = sum(1 / len(call.choices.fault) for call in calls) / max(len(calls), 1)
    return Played(
        id="complaint_only",
        text="The fault named from the complaint alone, no numbers",
        calls=len(calls),
        earned=earned,
        possible=possible,
        limit=CONSTANT,
        named=right / max(len(calls), 1),
        chance=max(chance, even),
    )


def gaming(calls: Sequence[Call], seed: str = "1", *, words: bool = True) -> list[Played]:
    """What every strategy would earn on ``calls``: list of :class:`Played`, those without a call to play on left out.

    Strategies that name one answer every time count where it is wrong. ``words`` also tries the reader of complaints,
    which has to be taught first. ``seed`` draws the coins.
    """
    found = [_play(calls, row, seed) for row in _strategies(calls)]
    found.append(_so_far(calls))
    if len(calls) >= _CLASS:
        found.append(_copied(calls))
    if words and any(call.machine.id in MACHINES for call in calls):
        found.append(_by_words(calls, seed))
    return [row for row in found if row.calls]


def guessing(played: list[Played]) -> float:
    """The most that guessing earns without a single number read, as a share."""
    return max((row.share for row in played if row.limit <= CONSTANT), default=0.0)


def pays(calls: Sequence[Call]) -> bool:
    """Whether a strategy that needs no luck would earn more than it may on one paper."""
    return any(row.over for row in gaming(calls, words=False) if "coin" not in row.id)
