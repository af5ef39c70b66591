"""Faults and machines in a request, wanted or not."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from functools import cache
from typing import TYPE_CHECKING

from wolfsbane.cycle.everyday import expand, fault_names
from wolfsbane.cycle.everyday_machines import NOT_MODELED, machine_names, refrigerant_names
from wolfsbane.cycle.faults import NONE
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.exercise.plan.request.sentence import NAMED, STRUCK, compiled, named, plain

if TYPE_CHECKING:
    from collections.abc import Callable

    from wolfsbane.cycle.everyday_machines import MachineWord
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.exercise.plan.request.sentence import Sentence

FAULT, MACHINE = "fault", "machine"
#: a machine of the school's own, which is named by its name alone
OWN = "own"
_NOT = (
    r"(?:no|not|without|except(?: for)?|but not|excluding|exclude|other than|besides|skip(?:ping)?|leave out"
    r"|leaving out"
    r"|avoid(?:ing)?|nothing with|nothing on|nothing about|nothing involving|never|don t (?:use|include|want|need)"
    r"|do not (?:use|include|want)|minus|anything but|all but|nor|everything but|everything except|stay away from"
    r"|keep out|hold the|rather than|instead of)"
)
#: what may stand between a not and what it forbids
_PASSED = (
    r"(?:any|the|a|an|more|of|and|or|nor|kinds?|sorts?|please|with|on|faults?|problems?|machines?|units?"
    r"|systems?|calls?)"
)
_THROUGH = re.compile(rf"^{_PASSED}$")
_NOT_ANYWHERE = compiled(rf"(?<![a-z]){_NOT}(?![a-z])")
_NOT_AT_END = compiled(rf"(?<![a-z]){_NOT}(?: {_PASSED})* ?$")


@dataclass(frozen=True, kw_only=True)
class Term:
    """A fault, a machine or a property of machines that a sentence names: ``ids`` of faults, ``word`` or ``suits`` of
    machines; ``of`` says which property.
    """

    kind: str
    start: int
    end: int
    name: str
    wanted: bool = True
    ids: tuple[str, ...] = ()
    of: str = ""
    #: where the not begins that forbids it, None for what is wanted
    forbidden_at: int | None = None
    suits: Callable[[Machine], bool] | None = None


@cache
def _all_names() -> list[tuple[str, str, str]]:
    """(name, kind, name) of everything that can be named, longest first."""
    rows = [(name, FAULT) for name, ids in fault_names().items() if ids != (NONE,) and name not in machine_names()]
    rows += [(name, MACHINE) for name in machine_names()]
    rows += [(name, "refrigerant") for name in refrigerant_names()]
    rows += [(name, "not modeled") for template in NOT_MODELED for name in expand(template)]
    return [
        (name, kind, named(name)) for name, kind in sorted(rows, key=lambda r: (-len(r[0].split()), -len(r[0]), r[0]))
    ]


@cache
def _begins_like(name: str) -> str:
    """Letters that stand wherever a name does, in one or several: the first of its first word."""
    return name.split()[0][:-1][:4]


_PROBLEMS = ("problem", "fault", "issue", "trouble")
_SIZE = r"(?<![a-z0-9.])(\d{1,2}(?:\.\d)?|[a-z]+(?: and a half)?)[ ]*(tons?|tonners?)(?![a-z])"
_TONS = {"one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "ten": 10, "two and a half": 2.5, "one and a half": 1.5}
_PROFILE = re.compile(
    r"(?<![a-z])(larkspur|teasel|sorrel|yarrow|burdock|mullein|comfrey|sedge|bramble)(?:[ ]+(\d{1,3}))?(?![a-z0-9])"
)


def terms(s: Sentence) -> list[Term]:
    """Every fault and machine that is named, in the order of the sentence, struck out."""
    found = _own_machines(s)
    for match in list(_PROFILE.finditer(s.said)):
        ids = [m.id for m in MACHINES.values() if m.name.lower().startswith(" ".join(filter(None, match.groups())))]
        if ids:
            found.append(
                Term(
                    kind=MACHINE,
                    start=match.start(),
                    end=match.end(),
                    name=match[0],
                    of="kind",
                    suits=_one_of(tuple(ids)),
                )
            )
            s.strike(match.start(), match.end(), NAMED)
    for match in list(re.finditer(_SIZE, s.said)):
        tons = _TONS.get(match[1]) if match[1].isalpha() or " " in match[1] else float(match[1])
        if tons is not None:
            found.append(
                Term(
                    kind=MACHINE,
                    start=match.start(),
                    end=match.end(),
                    name=f"{tons:g} ton",
                    of="size",
                    suits=_of_size(tons),
                )
            )
            s.strike(match.start(), match.end(), NAMED)
    for name, kind, pattern in _all_names():
        if _begins_like(name) not in s.said:  # two thousand patterns take a second to compile, and few are needed
            continue
        for match in s.find(pattern):
            made = _term(s, kind, name, match.start(), match.end())
            if made is not None:
                found.append(made)
                s.strike(match.start(), match.end(), NAMED)
    found += _bare_refrigerants(s)
    found += _shared_problems(s, found)
    found.sort(key=lambda t: t.start)
    return _with_polarity(s, found)


def _own_machines(s: Sentence) -> list[Term]:
    """A school's own machines, called by their whole name; the longest name first."""
    found: list[Term] = []
    own = [m for m in s.machines.values() if m.id not in MACHINES]
    for m in sorted(own, key=lambda m: (-len(m.name), m.name)):
        name = " ".join(plain(m.name).replace(",", " ").split())
        if not name:
            continue
        for match in s.find(rf"(?<![a-z0-9]){re.escape(name).replace(chr(92) + ' ', '[ ,]+')}(?![a-z0-9])"):
            ids = tuple(other.id for other in own if other.name.lower() == m.name.lower())
            found.append(
                Term(kind=MACHINE, start=match.start(), end=match.end(), name=m.name, of=OWN, suits=_one_of(ids))
            )
            s.strike(match.start(), match.end(), NAMED)
    return found


def _one_of(ids: tuple[str, ...]) -> Callable[[Machine], bool]:
    return lambda m: m.id in ids


def _with(fluid: str) -> Callable[[Machine], bool]:
    return lambda m: m.refrigerant == fluid


def _of_size(tons: float) -> Callable[[Machine], bool]:
    def suits(m: Machine) -> bool:
        number = re.search(r"-(\d+(?:\.\d)?)t-", m.id)
        return number is not None and float(number[1]) == tons

    return suits


def _term(s: Sentence, kind: str, name: str, start: int, end: int) -> Term | None:
    if kind == FAULT:
        return Term(kind=FAULT, start=start, end=end, name=name, ids=fault_names()[name])
    if kind == MACHINE:
        word: MachineWord = machine_names()[name]
        return Term(kind=MACHINE, start=start, end=end, name=word.label, of=word.of, suits=word.suits)
    if kind == "refrigerant":
        fluid = refrigerant_names()[name]
        return Term(
            kind=MACHINE,
            start=start,
            end=end,
            name=fluid,
            of="refrigerant",
            suits=_with(fluid),
        )
    nearest = next(near for template, near in NOT_MODELED.items() if name in set(expand(template)))
    s.refuse(start, end, "not modeled", nearest or None)
    return None


def _shared_problems(s: Sentence, found: list[Term]) -> list[Term]:
    """Words that share the problems after them: "airflow, charge or compressor problems"."""
    more: list[Term] = []
    for term in [t for t in found if t.kind == FAULT and t.name.split()[-1].rstrip("s") in _PROBLEMS]:
        before = [t for t in found if t.kind == FAULT and t.end <= term.start]
        for other in reversed(before):
            between = s.said[other.end : term.start].replace(NAMED, " ").replace(",", " ").split()
            name = f"{other.name} problem"
            if not set(between) <= {"and", "or", "nor"} or name not in fault_names():
                break
            more.append(Term(kind=FAULT, start=other.start, end=other.end, name=name, ids=fault_names()[name]))
    replaced = {t.start for t in more}
    found[:] = [t for t in found if t.start not in replaced]
    return more


def _bare_refrigerants(s: Sentence) -> list[Term]:
    """22 and 32 where they stand beside machines: a refrigerant without its R."""
    found = []
    beside = rf"(?= *(?:[{STRUCK}{NAMED}]|systems?|units?|machines?|splits?))"
    pattern = rf"(?<![a-z0-9.])(22|32){beside}|(?<=on )(22|32)(?![a-z0-9])"
    for match in list(re.finditer(pattern, s.said)):
        fluid = f"R-{match[1] or match[2]}"
        found.append(
            Term(
                kind=MACHINE,
                start=match.start(),
                end=match.end(),
                name=fluid,
                of="refrigerant",
                suits=_with(fluid),
            )
        )
        s.strike(match.start(), match.end(), NAMED)
    return found


def _with_polarity(s: Sentence, found: list[Term]) -> list[Term]:
    """The terms, those forbidden that a not stands before; the not is struck out."""
    made: list[Term] = []
    forbidden = False
    at = 0
    for i, term in enumerate(found):
        between = s.said[at : term.start]
        forbidden_at = None
        match = _NOT_AT_END.search(between)
        if match is not None:
            forbidden, forbidden_at = True, at + match.start()
            for one in list(_NOT_ANYWHERE.finditer(s.said[at : term.start])):
                s.strike(at + one.start(), at + one.end())
        elif forbidden and not _continues(s, between, found, i):
            forbidden = False
        made.append(replace(term, wanted=not forbidden, forbidden_at=forbidden_at))
        at = term.end
    return made


def _continues(s: Sentence, between: str, found: list[Term], i: int) -> bool:
    """Whether a list of what is forbidden goes on over these words."""
    words = between.replace(",", " , ").split()
    if "but" in words or any(not _THROUGH.match(w) and w != "," for w in words):
        return False
    if "," not in words:
        return True
    if "or" in words or "nor" in words:
        return True
    # a comma alone: the list goes on where an or still comes
    for a, b in zip(found[i:], found[i + 1 :], strict=False):
        rest = s.said[a.end : b.start].replace(",", " , ").split()
        if "or" in rest or "nor" in rest:
            return True
        if any(w not in (",",) for w in rest):
            return False
    return False
