"""Marking what an apprentice concludes: the fault, the evidence for it and the first step.

A conclusion follows the figures, not the words that were circled beside them. One from right figures is right or wrong;
one from an apprentice's own wrong figures is right where it follows from them, and so is the plan after it. A plan for
any other conclusion earns nothing.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.diagnosis.targets import NORMAL
from wolfsbane.exercise.marking.credit import Credit, exactly, full, none, slip
from wolfsbane.exercise.marking.figures import no_work
from wolfsbane.exercise.marking.work import Conclusion
from wolfsbane.exercise.paper.correction import WRONG_PLANS, consequence
from wolfsbane.exercise.paper.wrong_paths import of_conclusion

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.work import Work


def _unknown(work: Work, question: str, letters: list[str]) -> Credit | None:
    """The credit of a letter that stands for nothing, or None where every letter stands for something."""
    known = [choice.letter for choice in work.call.choices.lettered(question)]
    unknown = [letter for letter in letters if letter not in known]
    return none("unknown_letter", given=unknown[0], allowed=", ".join(known)) if unknown else None


def _behind(work: Work, question: str, letters: list[str]) -> list[str]:
    """Ids behind letters that are all known."""
    rows = {choice.letter: choice.id for choice in work.call.choices.lettered(question)}
    return [rows[letter] for letter in letters]


def _fitting_faults(work: Work) -> set[str]:
    """Faults whose solved patterns come nearest to the apprentice's own figures (at most one verdict away)."""
    found = set()
    for pattern in work.patterns():
        away = {
            fault: min((sum(a not in b for a, b in zip(row, pattern, strict=True)) for row in rows), default=9)
            for fault, rows in work.key.patterns.items()
        }
        best = min(away.values(), default=9)
        found |= {fault for fault, distance in away.items() if distance == best and best <= 1}
    return found


def fault(work: Work, question: str) -> Credit:
    """What is wrong; a wrong conclusion from one's own wrong figures earns."""
    answer = work.answers[question].value
    letters = list(answer) if len(work.key.faults) > 1 else [answer]
    unknown = _unknown(work, question, letters)
    if unknown is not None:
        return unknown
    named = _behind(work, question, letters)
    credit = _several(work, named) if len(work.key.faults) > 1 else _single(work, named[0])
    right = work.conclusion is Conclusion.RIGHT and credit.code != "faults_part"
    return credit if work.shown_work() or not right else no_work(work, question, right)


def _several(work: Work, named: list[str]) -> Credit:
    """Several faults at once: a share for each that is named, one less for each named beyond their number."""
    hidden = work.key.faults
    hits = [one for one in hidden if one in named]
    shares = max(len(hits) - max(len(named) - len(hidden), 0), 0)
    whole = shares == len(hidden)
    code = "fault_right" if whole else "faults_part" if shares else "fault_wrong"
    work.chosen = (hits or named)[0]
    work.conclusion = Conclusion.RIGHT if shares else Conclusion.WRONG
    if shares and not whole and not work.shown_work():
        return no_work(work, "fault", False)
    return exactly(
        shares * work.questions["fault"].points // len(hidden),
        code,
        fault=work.key.fault_name,
        hits=len(hits),
        wrong=len(named) - len(hits),
        of=len(hidden),
    )


def _single(work: Work, chosen: str) -> Credit:
    key, work.chosen = work.key, chosen
    left_open = chosen in key.also_open
    misled = work.misled()
    fitting = _fitting_faults(work) if misled else {key.fault}
    if chosen == key.fault or left_open or chosen in work.rules.accepted("fault"):
        work.conclusion = Conclusion.RIGHT
        if chosen != key.fault:
            return full("fault_open" if left_open else "accepted", fault=key.fault_name)
        return full("fault_right" if key.fault in fitting else "fault_right_despite", fault=key.fault_name)
    if chosen in fitting:
        work.conclusion = Conclusion.FOLLOWS
        return full("fault_follows", fault=key.fault_name)
    work.conclusion = Conclusion.WRONG
    path = of_conclusion(key, chosen)
    if path is not None:
        return none("fault_wrong_path", fault=key.fault_name, mistake=path.text, feedback=path.feedback)
    return none("fault_wrong", fault=key.fault_name)


def evidence(work: Work, question: str) -> Credit:
    """Figures that are off target and decide for the fault named; half where they support it and do not decide."""
    letters = list(work.answers[question].value)
    unknown = _unknown(work, question, letters)
    if unknown is not None:
        return unknown
    named, true, of_key = _behind(work, question, letters), work.key.named, set(work.key.evidence)
    right_here = set(named) <= of_key and bool(set(named) & set(_deciding(work, true, of_key)))
    if not _figures_behind(work, named):
        return no_work(work, question, right_here)
    credits = [_evidence_by(work, named, pattern) for pattern in work.patterns()]
    best = next((credit for credit in credits if credit.code == "evidence_right"), None)
    if best is not None:
        return best
    return full("evidence_right_despite") if right_here else credits[0]


def _evidence_by(work: Work, named: list[str], pattern: list[set[str]]) -> Credit:
    """What the figures named earn by one reading of the apprentice's own: which of them are off, and which decide."""
    off = {name for name, allowed in zip((*work.key.judged, "drier_drop"), pattern, strict=True) if allowed != {NORMAL}}
    off = off or {"all_on_target"}
    idle = [name for name in named if name not in off]
    deciding = _deciding(work, (work.chosen, *work.key.named), off)
    if not idle and set(named) & set(deciding):
        return full("evidence_right")
    if idle:
        return none("evidence_not_off", item=_called(work, idle[0]))
    return slip("evidence_not_deciding", deciding=_called(work, deciding[0]))


def _called(work: Work, evidence_id: str) -> str:
    """Evidence in the words of the page."""
    rows = {choice.id: choice.text for choice in work.call.choices.evidence}
    return rows.get(evidence_id, evidence_id.replace("_", " "))


def _figures_behind(work: Work, named: list[str]) -> bool:
    """Whether the figures named as evidence stand there; that all are on target takes at least half of them."""
    if "all_on_target" in named and not work.shown_work():
        return False
    return all(work.behind(name) is not None for name in named if name in work.judged)


def _deciding(work: Work, faults: tuple[str | None, ...], off: set[str]) -> list[str]:
    """Figures among ``off`` that decide for one of ``faults``; all of them where none does."""
    return [name for one in faults if one for name in work.key.deciders.get(one, ()) if name in off] or sorted(off)


def no_plan(work: Work, question: str, right: bool) -> Credit | None:
    """The credit of a plan that earns nothing or little because of the conclusion before it, or None where it is
    judged.

    Nothing where the conclusion is wrong and does not follow from wrong figures, nothing where there is none, and a
    small share where no figures stand behind it. A fault that is not asked, or was taken out, costs no plan.
    """
    asked = work.counts("fault")
    if work.conclusion is Conclusion.WRONG and asked:
        code = "no_outcome" if question.startswith("after_") else "no_plan"
        return none(code, fault=work.key.fault_name)
    if work.conclusion is Conclusion.NONE and asked:
        return none("no_conclusion")
    return None if work.shown_work() else no_work(work, question, right)


def action(work: Work, question: str) -> Credit:
    """The first step, for the machine as it is or for the fault named."""
    key, letters = work.key, [work.answers[question].value]
    unknown = _unknown(work, question, letters)
    if unknown is not None:
        return unknown
    chosen = _behind(work, question, letters)[0]
    right = chosen == key.action or chosen in work.rules.accepted("action")
    if right and work.conclusion is Conclusion.NONE:  # nothing was named, but the step says what was found
        work.conclusion, work.chosen = Conclusion.RIGHT, key.fault
    credit = no_plan(work, question, right)
    if credit is not None:
        return credit
    if right:
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
        return none("action_led_to", action=key.action_text, consequence=then)
    return none("action_wrong", action=key.action_text)
