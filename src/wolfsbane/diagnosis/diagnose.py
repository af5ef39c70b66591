"""``diagnose(seen, practice)``: ranked explanations of what was read, with reasons,
what is left open and the next step.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.faults import NONE
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.diagnosis.likelihoods import share
from wolfsbane.diagnosis.next_step import steps
from wolfsbane.diagnosis.observed import Observed
from wolfsbane.diagnosis.posterior import posterior
from wolfsbane.diagnosis.reasons import computed, figures, reasons
from wolfsbane.diagnosis.space import saturation_f
from wolfsbane.diagnosis.stand_in import in_words, stand_in

if TYPE_CHECKING:
    from wolfsbane.diagnosis.next_step import Step
    from wolfsbane.diagnosis.posterior import Weighed
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.reasons import Figure
    from wolfsbane.diagnosis.stand_in import StandIn

NOT_SETTLED, NOT_ENOUGH = "not_settled", "not_enough_readings"
#: explanations are kept open until this much belief is covered, but none below _LEAST
_COVERED, _LEAST, _MAX = 0.97, 0.02, 8
#: a single fault that fits at least this well beside the best fitting one stays open from this weight on
_FITS, _RARE = 0.2, 0.003
#: at most this much of an answer may rest on pressures and air alone
_FEW, _HALF, _WHOLE = 0.72, 0.32, 0.02
_REASONED = 10


@dataclass(frozen=True, kw_only=True)
class Answer:
    """One ranked answer: fault ids joined by "+", none, not_settled or not_enough_readings; weight;
    sentences for and against.
    """

    fault: str
    weight: float
    reasons: list[str]
    against: list[str]
    severities: dict[str, Any]


@dataclass(frozen=True, kw_only=True)
class Diagnosis:
    """What was made of a set of readings. ``steps`` are the next looks, readings and tests, best first."""

    seen: Observed
    ranked: list[Answer]
    left_open: list[str]
    steps: list[Any]
    computed: dict[str, float]

    @property
    def accepted(self) -> list[str]:
        """The first answer and all that is left open beside it."""
        return [self.ranked[0].fault, *self.left_open]

    def to_json(self) -> dict[str, Any]:
        """The answer as plain data, as the contract has it."""
        rows: list[dict[str, Any]] = [
            {
                "fault": a.fault,
                "weight": round(a.weight, 6),
                "reasons": a.reasons,
                "against": a.against,
                "severities": a.severities,
            }
            for a in self.ranked
        ]
        rows[0]["weight"] = round(rows[0]["weight"] + 1.0 - sum(r["weight"] for r in rows), 6)
        first = self.steps[0] if self.steps else None
        return {
            "ranked": rows,
            "left_open": self.left_open,
            "next_test": None if first is None else _said(first),
            "next_steps": [
                {
                    "id": s.id,
                    "kind": s.kind,
                    "text": s.text,
                    "bits": round(s.bits, 3),
                    "minutes": s.cost,
                    "caution": s.caution,
                }
                for s in self.steps[:5]
            ],
            "computed": self.computed,
        }


def _said(step: Step) -> str:
    return f"{step.text}. {step.caution}".strip() if step.caution else step.text


def _has(seen: Observed, rows: list[Figure]) -> tuple[bool, bool, set[str]]:
    names = {r.name for r in rows}
    low = bool(names & {"superheat", "evaporator_superheat"})
    receiver = bool(seen.plate.receiver)
    high = "subcooling" in names or (receiver and ("sight_glass" in seen.tests or "ctoa" in names))
    return low, high, names


def _not_enough(seen: Observed, rows: list[Figure], weighed: list[Weighed]) -> float:
    """How much belief no reading here can carry."""
    low, high, names = _has(seen, rows)
    first = weighed[0]
    sure = max(0.0, 2.0 * first.weight - 1.0)
    shown = _shown_outright(seen, first)
    if low and high:
        base = _WHOLE + (0.04 if not names & {"evaporator_td", "ctoa"} else 0.0)
    elif low or high:
        base = _HALF - 0.1 * len(names & {"evaporator_td", "ctoa", "air_delta_t"})
        base *= 1.0 - 0.7 * sure
    elif seen.readings or seen.tests or seen.looked_at:
        base = (
            _FEW if names & {"evaporator_td", "ctoa", "suction_saturation", "liquid_saturation"} or seen.tests else 0.85
        )
        base *= 1.0 - (0.75 * sure if shown or _standstill(seen) else 0.0)
    else:
        base = 0.97
    return base * (0.4 if shown and (low or high) else 1.0)


def _shown_outright(seen: Observed, first: Weighed) -> bool:
    """Whether a look or a test points at the first answer by itself."""
    return (
        any(share(check, word, first.family.ids) > 6.0 * share(check, word, ()) for check, word in seen.telling.items())
        if first.family.ids
        else False
    )


def _standstill(seen: Observed) -> bool:
    """Pressures that say outright that something is wrong with pump or gauges."""
    r = seen.readings
    return "suction" in r and "head" in r and r["head"].value - r["suction"].value < 30.0


def _not_settled(seen: Observed, weighed: list[Weighed]) -> float:
    if not seen.settled:
        return 0.6 if seen.looked_at.get("condenser_wet") else 0.85
    wide = any(s.flutter >= 3.0 for k, s in seen.readings.items() if k != "head")
    hunting = sum(w.weight for w in weighed if "valve_hunting" in w.family.ids)
    found = 0.01 + (0.35 * (1.0 - hunting) if wide else 0.0)
    if seen.telling.get("evaporator_ice"):
        found += 0.12
    if seen.looked_at.get("condenser_wet"):
        found += 0.1
    return found


def _capped(weighed: list[Weighed], seen: Observed, rows: list[Figure]) -> list[Weighed]:
    """Low charge (undercharged) never first on suction pressure alone,
    unless an orifice machine with proven airflow allows it.
    """
    low, high, _ = _has(seen, rows)
    device = seen.plate.metering in ("fixed_orifice", "capillary")
    looked = seen.looked_at.get("filter") == "clean" and (
        seen.looked_at.get("evaporator_coil") == "clean" or "airflow" in seen.readings
    )
    glass = seen.tests.get("sight_glass") in ("bubbles", "low")
    if low or high or glass or (device and looked):
        return weighed
    first = max((w.weight for w in weighed if w.id != "undercharge"), default=0.0)
    kept = [w for w in weighed if w.id != "undercharge"]
    charge = [w for w in weighed if w.id == "undercharge"]
    if not charge or charge[0].weight < first:
        return weighed
    held = replace(charge[0], weight=0.9 * first)
    total = sum(w.weight for w in kept) + held.weight
    return sorted((replace(w, weight=w.weight / total) for w in [*kept, held]), key=lambda w: (-w.weight, w.id))


def diagnose(seen: Observed, practice: Practice) -> Diagnosis:
    """The :class:`Diagnosis` of an :class:`~wolfsbane.diagnosis.observed.Observed` under a practice.

    Weights sum to 1 over single faults, pairs, ``none``, ``not_settled`` and ``not_enough_readings``.
    """
    if not seen.running:
        return _at_rest(seen, practice)
    stand = stand_in(seen, practice)
    weighed, _ = posterior(seen, stand)
    rows = figures(seen, stand, practice)
    weighed = _capped(weighed, seen, rows)
    few, waits = _not_enough(seen, rows, weighed), _not_settled(seen, weighed)
    few *= 1.0 - waits
    rest = 1.0 - few - waits
    answers = []
    for i, w in enumerate(weighed):
        speaks, against = reasons(w, rows, seen, stand) if i < _REASONED else ([], [])
        answers.append(
            Answer(
                fault=w.id,
                weight=w.weight * rest,
                reasons=speaks,
                against=against,
                severities={f.id: round(f.severity, 1) for f in w.faults},
            )
        )
    answers += [
        Answer(fault=NOT_SETTLED, weight=waits, reasons=_waiting(seen), against=[], severities={}),
        Answer(fault=NOT_ENOUGH, weight=few, reasons=_lacking(seen, rows, stand), against=[], severities={}),
    ]
    answers.sort(key=lambda a: (-a.weight, a.fault))
    done = weighed[0].id == NONE and weighed[0].weight * rest > 0.9
    return Diagnosis(
        seen=seen,
        ranked=answers,
        left_open=_remaining(answers, _alike(weighed)),
        steps=[] if done else steps(weighed, seen, stand),
        computed=computed(rows, seen, stand),
    )


def _alike(weighed: list[Weighed]) -> set[str]:
    """Single faults of the machine that fit about as well as the best of them:
    only how rare they are keeps them down.
    """
    singles = [
        w
        for w in weighed
        if len(w.family.ids) <= 1 and w.family.prior > 0 and not set(w.family.ids) & set(INSTRUMENT_FAULTS)
    ]
    fit = {w.id: w.weight / w.family.prior for w in singles}
    best = max(fit.values())
    return {i for i, value in fit.items() if value >= _FITS * best}


def _remaining(answers: list[Answer], alike: frozenset[str] | set[str] = frozenset()) -> list[str]:
    """What stays open beside the first answer: what belief is left for,
    and what fits as well (``alike``) though it is rare.
    """
    faults = [a for a in answers[1:] if a.fault not in (NOT_SETTLED, NOT_ENOUGH)]
    found: list[str] = []
    covered = answers[0].weight + sum(a.weight for a in answers[1:] if a.fault in (NOT_SETTLED, NOT_ENOUGH))
    for a in faults:
        if len(found) == _MAX:
            break
        if (covered < _COVERED and a.weight >= _LEAST) or (a.fault in alike and a.weight >= _RARE):
            found.append(a.fault)
            covered += a.weight
    return found


def _waiting(seen: Observed) -> list[str]:
    found = []
    if not seen.settled:
        found.append("the machine has not run 10 to 15 minutes, or something was changed since: wait and read again")
    if seen.telling.get("evaporator_ice"):
        found.append("ice on the coil: thaw it, dry it, read again")
    if seen.looked_at.get("condenser_wet"):
        found.append("the condenser is wet: wait until it is dry")
    if any(s.flutter for s in seen.readings.values()):
        found.append("readings are swinging: wait for ten steady minutes")
    return found


def _lacking(seen: Observed, rows: list[Figure], stand: StandIn) -> list[str]:
    low, high, _ = _has(seen, rows)
    found = []
    if not low:
        found.append("no superheat: it needs both suction pressure and suction line temperature")
    if not high and not seen.plate.receiver:
        found.append("no subcooling: it needs both head pressure and liquid line temperature")
    if stand.guessed:
        found.append(f"{in_words(stand.guessed)} had to be guessed")
    return found


def _at_rest(seen: Observed, practice: Practice) -> Diagnosis:
    """A machine that stands still tells of air in it, of an empty circuit, and of little else."""
    r, c = seen.readings, seen.conditions
    air = [c[k] for k in ("outdoor_db", "return_db", "box") if k in c]
    pressure = r.get("head", r.get("suction"))
    worked = {}
    if pressure is not None:
        worked = {
            "dew_f": round(saturation_f(seen.plate.refrigerant, pressure.value, "dew", c.get("altitude", 0.0)), 1),
            "bubble_f": round(
                saturation_f(seen.plate.refrigerant, pressure.value, "bubble", c.get("altitude", 0.0)), 1
            ),
        }
    weights = {NOT_ENOUGH: 0.9, "undercharge": 0.04, NONE: 0.03, "non_condensables": 0.03}
    why = ["the machine is off: superheat and subcooling mean nothing"]
    if worked and air:
        above = worked["bubble_f"] - (max(air) if "box" not in c else c.get("outdoor_db", max(air)))
        below = min(air) - worked["dew_f"]
        if above > 4.0:
            weights = {NOT_ENOUGH: 0.3, "non_condensables": 0.55, "wrong_refrigerant": 0.1, NONE: 0.05}
            why.append(
                f"the standing pressure is that of {worked['bubble_f']:.0f} °F, {above:.0f} °F over the warmest air"
                " here"
            )
        elif below > 4.0:
            weights = {NOT_ENOUGH: 0.35, "undercharge": 0.55, "wrong_refrigerant": 0.06, NONE: 0.04}
            why.append(
                f"the standing pressure is that of {worked['dew_f']:.0f} °F, {below:.0f} °F under the coldest air: no"
                " liquid left"
            )
        else:
            why.append(
                "standing pressure matches the ambient: there is liquid in it and "
                "no air; how much, only a running machine can tell"
            )
    if not seen.settled:
        weights = {k: 0.3 * v for k, v in weights.items()} | {NOT_SETTLED: 0.7}
    ranked = [
        Answer(
            fault=f,
            weight=w,
            reasons=why if f != NOT_SETTLED else ["wait until everything is at ambient temperature"],
            against=[],
            severities={},
        )
        for f, w in sorted(weights.items(), key=lambda kv: (-kv[1], kv[0]))
    ]
    return Diagnosis(seen=seen, ranked=ranked, left_open=_remaining(ranked), steps=[], computed=worked)
