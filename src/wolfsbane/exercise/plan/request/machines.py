"""From the machines a request names to the profiles it means."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.exercise.plan.brief import USUAL_MACHINES
from wolfsbane.exercise.plan.request.sentence import NAMED, STRUCK
from wolfsbane.exercise.plan.request.terms import MACHINE, OWN

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.exercise.plan.request.sentence import Sentence
    from wolfsbane.exercise.plan.request.terms import Term

#: what may stand between words that are said of one machine
_TOGETHER = {
    "",
    "on",
    "with",
    "a",
    "an",
    "the",
    "in",
    "of",
    "systems",
    "system",
    "units",
    "unit",
    "machines",
    "machine",
    "using",
}


#: said of a heat pump, which then is no other one
_NARROWER = {"heat pump in heating", "heat pump in cooling"}


def chosen(s: Sentence, found: list[Term]) -> tuple[str, ...] | None:
    """Ids of the machines that are meant, in the order of the catalog; None where none are named. What no machine is,
    goes among the impossible of the sentence.
    """
    wanted = [t for t in found if t.kind == MACHINE and t.wanted]
    unwanted = [t for t in found if t.kind == MACHINE and not t.wanted]
    if not wanted and not unwanted:
        return None
    groups = _groups(s, wanted)
    own = {i for t in wanted if t.of == OWN for i in s.machines if t.suits is not None and t.suits(s.machines[i])}
    groups = [rest for rest in ([t for t in g if t.of != OWN] for g in groups) if rest]
    with_kind = [g for g in groups if any(t.of == "kind" for t in g)]
    loose = [t for g in groups if g not in with_kind for t in g]
    ids: set[str] = set()
    narrow = {t.name for g in with_kind for t in g} & _NARROWER
    with_kind = [g for g in with_kind if not (narrow and any(t.name == "heat pump" for t in g))]
    if with_kind:
        ids = _of_kinds(s, with_kind, loose)
    elif loose:
        ids = _of_properties(s, loose)
    elif not own:  # all but some: of the usual ones, or of every machine that there is
        whole = re.search(r"everything|all machines|any machine|every machine", s.plain)
        ids = set(MACHINES if whole else USUAL_MACHINES)
    ids |= own
    left = {i for i in ids if not any(t.suits is not None and t.suits(s.machines[i]) for t in unwanted)}
    if ids and not left:
        last = unwanted[-1]
        s.refuse(last.start, last.end, "nothing is left of the machines named")
    return tuple(m for m in s.machines if m in left)


def _groups(s: Sentence, wanted: list[Term]) -> list[list[Term]]:
    """Words said of one machine: side by side, and no two classes."""
    groups: list[list[Term]] = []
    for term in wanted:
        last = groups[-1][-1] if groups else None
        between = "" if last is None else s.said[last.end : term.start].replace(STRUCK, " ").replace(NAMED, " ")
        together = last is not None and "," not in between and all(w in _TOGETHER for w in between.split())
        if together and not (term.of == "kind" and any(t.of == "kind" for t in groups[-1])):
            groups[-1].append(term)
        else:
            groups.append([term])
    return groups


def _suits(m: Machine, terms: list[Term]) -> bool:
    """Whether a machine is all that is said of it: of several refrigerants, one of them."""
    by = {t.of for t in terms}
    return all(any(t.suits is not None and t.suits(m) for t in terms if t.of == of) for of in by)


def _of_kinds(s: Sentence, groups: list[list[Term]], loose: list[Term]) -> set[str]:
    found: set[str] = set()
    narrowed = False
    for group in groups:
        own = {m.id for m in MACHINES.values() if _suits(m, group)}
        if not own:
            kind = next(t for t in group if t.of == "kind")
            others = [t.name for t in group if t is not kind]
            s.refuse(group[0].start, group[-1].end, f"no {kind.name} with {' and '.join(others)} is modeled", kind.name)
            own = {m.id for m in MACHINES.values() if kind.suits is not None and kind.suits(m)}
        both = {i for i in own if not loose or _suits(MACHINES[i], loose)}
        narrowed = narrowed or bool(loose and both)
        found |= both or own
    if loose and not narrowed:
        kinds = " or ".join(dict.fromkeys(t.name for g in groups for t in g if t.of == "kind"))
        s.refuse(
            loose[0].start, loose[-1].end, f"no {kinds} with {' and '.join(t.name for t in loose)} is modeled", kinds
        )
    return found


def _of_properties(s: Sentence, loose: list[Term]) -> set[str]:
    """Machines that only properties are said of: usual ones where there are any, else all."""
    for among in (USUAL_MACHINES, tuple(MACHINES)):
        found = {i for i in among if _suits(MACHINES[i], loose)}
        if found:
            return found
    first = loose[0]
    only = {m.id for m in MACHINES.values() if first.suits is not None and first.suits(m)}
    why = f"no machine with {' and '.join(t.name for t in loose)} is modeled"
    s.refuse(first.start, loose[-1].end, why, first.name if only else _nearest_size(first))
    return only


def _nearest_size(term: Term) -> str | None:
    """The nearest size there is, in tons."""
    sizes = [float(n[1]) for n in (re.search(r"-(\d+(?:\.\d)?)t-", m) for m in MACHINES) if n]
    if term.of != "size":
        return None
    return f"{min(sizes, key=lambda t: abs(t - float(term.name.split()[0]))):g} ton"
