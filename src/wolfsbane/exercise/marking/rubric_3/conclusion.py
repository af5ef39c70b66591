"""Marking what an apprentice concludes: the fault, the evidence for it and the first step."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.diagnosis.targets import FIGURES, NORMAL
from wolfsbane.exercise.marking.credit import Credit, exactly, full, none, slip
from wolfsbane.exercise.paper.correction import WRONG_PLANS, consequence
from wolfsbane.exercise.paper.questions import ACTIONS, EVIDENCE
from wolfsbane.exercise.paper.wrong_paths import of_conclusion

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.rubric_3.work import Work


def _unknown(work: Work, question: str, letters: list[str]) -> Credit | None:
    """The credit of a letter that stands for nothing, or None where every letter stands for something."""
    known = [choice.letter for choice in work.call.choices.lettered(question)]
    unknown = [letter for letter in letters if letter not in known]
    return none("unknown_letter", given=unknown[0], allowed=", ".join(known)) if unknown else None


def _behind(work: Work, question: str, letters: list[str]) -> list[str]:
    """Ids behind letters that are all known."""
    rows = {choice.letter: choice.id for choice in work.call.choices.lettered(question)}
    return [rows[letter] for letter in letters]


def _fitting_faults(work: Work, pattern: list[str]) -> set[str]:
    """Faults whose solved patterns come nearest to ``pattern`` (at most one verdict away)."""
    away = {
        fault: min((sum(a != b for a, b in zip(row, pattern, strict=True)) for row in rows), default=9)
        for fault, rows in work.key.patterns.items()
    }
    best = min(away.values())
    return {fault for fault, distance in away.items() if distance == best and best <= 1}


def fault(work: Work, question: str) -> Credit:
    """What is wrong; a wrong conclusion from one's own wrong figures earns."""
    answer = work.answers[question].value
    letters = list(answer) if len(work.key.faults) > 1 else [answer]
    unknown = _unknown(work, question, letters)
    if unknown is not None:
        return unknown
    named = _behind(work, question, letters)
    return _several(work, named) if len(work.key.faults) > 1 else _single(work, named[0])


def _several(work: Work, named: list[str]) -> Credit:
    """Several faults at once: a mark for each that is named, one less for each that is not there."""
    hidden = work.key.faults
    hits = [one for one in hidden if one in named]
    earned = max(len(hits) - (len(named) - len(hits)), 0)
    code = "fault_right" if earned == len(hidden) else "faults_part" if hits else "fault_wrong"
    work.chosen = (hits or named)[0]
    return exactly(
        earned * work.questions["fault"].points // len(hidden),
        code,
        fault=work.key.fault_name,
        hits=len(hits),
        wrong=len(named) - len(hits),
        of=len(hidden),
    )


def _single(work: Work, chosen: str) -> Credit:
    key, work.chosen = work.key, chosen
    left_open = chosen in key.also_open
    if chosen != key.fault and (left_open or chosen in work.rules.accepted("fault")):
        return full("fault_open" if left_open else "accepted", fault=key.fault_name)
    pattern = work.pattern()
    own_differs = pattern[:-1] != [key.verdicts[name] for name in FIGURES]
    fitting = _fitting_faults(work, pattern) if own_differs else {key.fault}
    if chosen == key.fault:
        return full("fault_right" if key.fault in fitting else "fault_right_despite", fault=key.fault_name)
    if chosen in fitting:
        return full("fault_follows", fault=key.fault_name)
    path = of_conclusion(key, chosen)
    if path is not None:
        return none("fault_wrong_path", fault=key.fault_name, mistake=path.text, feedback=path.feedback)
    return none("fault_wrong", fault=key.fault_name)


def evidence(work: Work, question: str) -> Credit:
    """Figures that are off target and decide for the fault named."""
    letters = list(work.answers[question].value)
    unknown = _unknown(work, question, letters)
    if unknown is not None:
        return unknown
    named = set(_behind(work, question, letters))
    pattern = dict(zip((*FIGURES, "drier_drop"), work.pattern(), strict=True))
    off = {name for name, verdict in pattern.items() if verdict != NORMAL} or {"all_on_target"}
    idle = [name for name in _behind(work, question, letters) if name not in off]
    true = work.key.named
    deciding = _deciding(work, (work.chosen, *true), off)
    if not idle and named & set(deciding):
        return full("evidence_right")
    of_key = set(work.key.evidence)
    if named <= of_key and named & set(_deciding(work, true, of_key)):
        return full("evidence_right_despite")
    if idle:
        return none("evidence_not_off", item=EVIDENCE[idle[0]])
    return slip("evidence_not_deciding", deciding=EVIDENCE[deciding[0]])


def _deciding(work: Work, faults: tuple[str | None, ...], off: set[str]) -> list[str]:
    """Figures among ``off`` that decide for one of ``faults``; all of them where none does."""
    return [name for one in faults if one for name in work.key.deciders[one] if name in off] or sorted(off)


def action(work: Work, question: str) -> Credit:
    """The first step, for the machine as it is or for the fault named."""
    key, letters = work.key, [work.answers[question].value]
    unknown = _unknown(work, question, letters)
    if unknown is not None:
        return unknown
    chosen = _behind(work, question, letters)[0]
    if chosen == key.action or chosen in work.rules.accepted("action"):
        return full("action_right" if chosen == key.action else "accepted")
    if chosen in key.faults[1:]:
        then = consequence(key.correction, "second_first")
        if then:
            return slip("action_second_led_to", action=key.repairs[0], consequence=then)
        return slip("action_second_first", action=key.repairs[0])
    if chosen == work.chosen:
        return full("action_follows")
    then = consequence(key.correction, WRONG_PLANS.get(chosen))
    if then:
        return none("action_led_to", action=ACTIONS[key.action], consequence=then)
    return none("action_wrong", action=ACTIONS[key.action])
