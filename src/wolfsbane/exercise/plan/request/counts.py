"""How many calls, and how many of them of a kind: nothing wrong, two faults, second visits, instruments, drills."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Any

from wolfsbane.exercise.plan.request.sentence import BEGIN, END, NAMED, NUMBER, STRUCK, whole

if TYPE_CHECKING:
    from collections.abc import Callable

    from wolfsbane.exercise.plan.request.sentence import Found, Sentence

_CALL = (
    r"(?:calls?|scenarios?|problems?|jobs?|tickets?|exercises?|cases?|questions?|ones?|service calls?|visits?|machines?"
    r"|units?|systems?)"
)
#: words that put a kind beside others: without a number it is one call then, and all calls elsewhere
_BESIDE = {"include", "including", "throw", "add", "plus", "with", "some"}
_ARTICLES = ("a", "an", "another")
#: all of them, and shares of them
ALL = -1
_SHARES = {
    "half": 0.5,
    "half of them": 0.5,
    "half the calls": 0.5,
    "a third": 1 / 3,
    "a third of them": 1 / 3,
    "a quarter": 0.25,
    "a quarter of them": 0.25,
    "all": 1.0,
    "all of them": 1.0,
    "every one": 1.0,
    "every call": 1.0,
}

#: what is counted -> how it is said
_KINDS: dict[str, tuple[str, str]] = {
    "fault_free": (
        r"(?:(?:is |are |being |totally |perfectly |completely )?(?:healthy|sound|normal|fault free"
        r"|trouble free|(?:good|fine|ok|okay)(?= (?:calls?|machines?|units?|systems?)))"
        rf"(?: {_CALL})?|(?:(?:{_CALL}|machine|unit) )?(?:with |where |has |having |that has )?"
        r"(?:nothing(?: at all)?(?: is|'s)? wrong|no (?:faults?|problems?|troubles?)(?: at all)?)"
        r"(?: with (?:it|them|the machine))?|(?:trick|no fault|red herring|nothing wrong)(?: calls?)?)",
        "with nothing wrong",
    ),
    "two_faults": (
        r"(?:(?:calls? |machines? )?(?:with |having |that have )?(?:two|2|double|multiple|combined) ?(?:faults?"
        r"|problems?|troubles?)"
        r"(?: (?:calls?|machines?|each|at once|at the same time|combined|together))*|combination (?:faults?"
        r"|calls?|problems?)"
        r"|double(?: trouble)?(?: calls?)?)",
        "with two faults",
    ),
    "second_visits": (
        r"(?:(?:second|2nd|repeat|return|follow ?up|before and after|call ?back) ?(?:visits?|calls?|trips?)|call"
        r" ?backs?)",
        "second visits",
    ),
    "instrument_faults": (
        r"(?:(?:calls? |where |in which |with )*(?:an? |the )?(?:bad|lying|wrong|faulty|broken|off|uncalibrated|false)"
        r" (?:gauges?|instruments?|manifolds?|probes?|thermometers?|readings?)|(?:instruments?|gauges?|meters?)"
        r" (?:troubles?|faults?"
        r"|problems?|errors?|issues?)|(?:calls? |where |in which |with )*(?:an? |the |one )?(?:instruments?"
        r"|gauges?|probes?|thermometers?)"
        r" (?:that )?(?:reads? wrong|reads? false|is off|are off|is wrong|lies?|is lying|reads? off|can(?:no"
        r"|')?t be trusted))",
        "where an instrument reads wrong",
    ),
}


def kinds(s: Sentence) -> None:
    """Calls of a kind, counted; a kind with no number is one."""
    for field, (said, text) in _KINDS.items():
        _kind(s, field, said, text)


def _kind(s: Sentence, field: str, said: str, text: str) -> None:
    joined = r"(?: (?:calls?|ones?|of them|machines?|units?|should be|is|are|being|of which|more|easy|hard))*"
    where = r"(?: (?:with|where|in which|on|that is|that are|which is))*"
    shares = "|".join(sorted(_SHARES, key=len, reverse=True))

    def counted(m: re.Match[str]) -> Found:
        return field, whole(m[1]), f"{whole(m[1])} {text}"

    s.take(
        rf"{BEGIN}({shares})(?: of the calls)?(?: (?:is|are|should be|calls?))*{where} {said}{END}",
        lambda m: _share(field, _SHARES[" ".join(m[1].split())], text),
    )
    s.take(
        rf"{BEGIN}(\d{{1,2}}) ?(?:%|percent|per cent)(?: of them| of the calls)?{where} {said}{END}",
        lambda m: _share(field, int(m[1]) / 100.0, text),
    )
    s.take(rf"{BEGIN}{said} (?:in|on) {NUMBER}(?: (?:of|calls|them|these|the))*{END}", counted)
    s.take(
        rf"{BEGIN}(?:include |including |throw in |add |plus |with |and )?{NUMBER}{joined}{where} {said}{END}", counted
    )
    s.take(
        rf"{BEGIN}(?:(?:include|including|throw in|add|plus|with|some|only|just) )*{said}{END}",
        lambda m: _unnumbered(s, m, field, text),
    )


def _share(field: str, share: float, text: str) -> tuple[str, Any, str]:
    return f"share.{field}", share, f"{round(100 * share)} of 100 {text}"


def _unnumbered(s: Sentence, m: re.Match[str], field: str, text: str) -> Found:
    if any(u.field.endswith(field) for u in s.understood):
        return None
    before = s.plain[: m.start()].rstrip().rsplit(" ", 1)[-1]
    if before in ("no", "not", "without"):
        return field, 0, f"none {text}"
    if field == "fault_free" or set(m[0].split()) & _BESIDE:
        return field, 1, f"1 {text}"
    return field, ALL, f"all {text}"


#: drill -> how it is said
_DRILLS: dict[str, str] = {
    "target_superheat": r"target superheats?(?: (?:tables?|charts?))?",
    "conversion": r"(?:(?:pt|p t|pressure temperature|temperature pressure|chart) )*conversions?|pt (?:charts?|cards?)"
    r"|pressure to temperature|pressure temperature",
    "units": r"units? conversions?|metric conversions?",
    "dial": r"(?:dials?|gauge reading|reading gauges|gauge faces?|read the gauges?|reading dials?)",
    "superheat": r"superheats?(?: calculations?)?",
    "subcooling": r"sub ?cool(?:ings?)?(?: calculations?)?",
    "spot_the_error": r"(?:spot|find) the (?:errors?|mistakes?)|error finding",
    "bookkeeping": r"bookkeeping|book keeping|refrigerant logs?|cylinder logs?|scale and cylinder",
    "vacuum": r"vacuum|microns?|decay tests?|evacuation",
    "two_manifolds": r"(?:two |digital and analog |analog and digital )?manifolds?(?: side by side)?"
    r"|digital beside analog",
    "pipe_pressure": r"line temperatures? to pressure|pipe (?:temperatures?|pressures?)",
    "mixed_air": r"mixed air",
    "glide": r"glide|dew (?:and|or|or the) bubble(?: points?)?",
    "which_line": r"which line(?: is which)?|line identification|name the lines?",
}
_DRILL = r"(?:drills?|problems?|exercises?|questions?|items?|practice|warm ?ups?|calculations?)"
_USUAL_ITEMS, _MOST_ITEMS = 6, 40


def drills(s: Sentence) -> None:
    """Drills, with how many items; one that is named without a number has six."""

    def items(count: int, drill: str) -> Found:
        if not 1 <= count <= _MOST_ITEMS:
            return None
        return "drills", {"kind": drill, "items": count}, f"drill, {drill.replace('_', ' ')}: {count} items"

    for drill, said in _DRILLS.items():
        _drill(s, drill, said, items)


def _drill(s: Sentence, drill: str, said: str, items: Callable[[int, str], Found]) -> None:
    def counted(m: re.Match[str]) -> Found:
        one = m[1] in ("a", "an", "one") and "drill" in m[0]
        return items(_USUAL_ITEMS if one else whole(m[1]), drill)

    s.take(
        rf"{BEGIN}{NUMBER} (?:(?:items?|questions?|problems?) )?(?:(?:of|on|in) )?(?:quick |short |warm ?up"
        rf" )?(?:{said})"
        rf"(?: {_DRILL})*{END}",
        counted,
    )
    s.take(rf"{BEGIN}(?:{said}) ?,? {NUMBER} (?:items?|questions?|problems?){END}", counted)
    s.take(
        rf"{BEGIN}(?:drills?|practice|warm ?ups?)(?: (?:on|in|of|about|with))? (?:{said}){END}",
        lambda m: items(_USUAL_ITEMS, drill),
    )
    s.take(rf"{BEGIN}(?:{said}) (?:drills?|practice|warm ?ups?|exercises?){END}", lambda m: items(_USUAL_ITEMS, drill))


def calls(s: Sentence, before_terms: bool) -> None:
    """How many calls: a number before calls, or before what they are about."""
    ask = r"(?:build |make |give me |i need |i want |need |want |please |with )*"
    of = r"(?:of|on|for|with|about|in)"
    gone = rf"[ {STRUCK}{NAMED}]"
    if before_terms:
        what = r"(?: (?:short|quick|service|practice|different|good))*"
        s.take(rf"{BEGIN}{ask}{NUMBER}{what} {_CALL}{END}", lambda m: _calls(whole(m[1])))
        return

    def counted(m: re.Match[str]) -> Found:
        """A number before what a call is about; "a" counts where nothing else does, and where it begins something."""
        before = s.said[: m.start()].rstrip()
        begins = not before or before.endswith((",", " and", " plus", " then"))
        named = any(u.field == "calls" and u.words.split()[0].lower() not in _ARTICLES for u in s.understood)
        if m[1] in _ARTICLES and (NAMED not in s.said[m.start() : m.end() + 1] or not begins or named):
            return None
        return _calls(whole(m[1]))

    # what lies between was understood: "six ~~~~ calls"
    s.take(rf"{BEGIN}{NUMBER}(?:{gone}|(?<![a-z]){of}(?![a-z]))*[{STRUCK}{NAMED}]{gone}*{_CALL}{END}", counted)
    s.take(rf"{BEGIN}{NUMBER} (?:(?:of|on|for|with|about|from|in) (?:the |a |an |my )?)*(?=[{STRUCK}{NAMED}])", counted)
    s.take(rf"(?<![a-z0-9]){_CALL} ?,? {NUMBER}(?= *(?:,|$))", lambda m: _calls(whole(m[1])))


def _calls(count: int) -> Found:
    return ("calls", count, f"{count} call{'' if count == 1 else 's'}") if 0 <= count <= 20 else None


def says_calls(words: str) -> bool:
    """Whether words that were read as a number of calls say calls, and are no part of something else."""
    return re.search(rf"(?<![a-z]){_CALL}(?![a-z])", words.lower()) is not None
