"""A sentence read into a brief: "six calls on walk-ins, level 2 to 4, no dirty condensers, one with nothing wrong"."""

from __future__ import annotations

import difflib
import re
from dataclasses import asdict, dataclass
from functools import cache
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.everyday import fault_names
from wolfsbane.cycle.everyday_machines import machine_names
from wolfsbane.cycle.faults import FAULTS, faults_for
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER
from wolfsbane.exercise.plan.brief import brief
from wolfsbane.exercise.plan.request import counts, plain_rules
from wolfsbane.exercise.plan.request.machines import chosen
from wolfsbane.exercise.plan.request.sentence import NAMED, STRUCK, Left, Sentence, Understood
from wolfsbane.exercise.plan.request.terms import FAULT, MACHINE, Term, terms
from wolfsbane.exercise.plan.situations import SITUATIONS
from wolfsbane.exercise.plan.usual_weather import WEATHER, usual_weather, weather_spans
from wolfsbane.tuning.first_guess import restored

if TYPE_CHECKING:
    from wolfsbane.exercise.plan.brief import Brief

#: words that ask for nothing by themselves
_IDLE_WORDS = """
somebody someone customer customers owner house home fair mean little bit technician technicians school needed
gimme quick quickly short really very s fairly quite service goes going order ordered start finish end ready
warm and a an the with of on for to from in calls call scenarios scenario machines machine units unit systems
system please sheet sheets class paper at each only or then are is be me my our your i we you need want would
like give make build some any just that this which it them there their do does can could have has having get got
let us so also as by about one ones tomorrow today monday tuesday wednesday thursday friday saturday sunday
morning afternoon lab shop test quiz worksheet exam homework week night evening period session packet set
handout including include included plus mostly mainly all every kind kinds sort different various variety mix
mixed fault faults problem problems issue issues students apprentices per person around where when who what
everything else possible visits visit easy usual typical normal real equipment into out up good new next thing
things stuff no not but both either minutes degrees practice review introduction beginning group groups number
numbers based focused focus focusing concentrate concentrating cover covering train training teach teaching
learn learning related involving should must throw add using use uses used drawn random randomly those these
more most least am pm among x student apprentice gets gives time maximum total difficulty calls: amount
"""
_IDLE = frozenset(_IDLE_WORDS.split())
#: those of them that say something unless they were struck out with what they belong to
_TELLING = {"no", "not", "but", "everything", "normal", "usual"}
#: words that name no number -> one to be chosen
_VAGUE = {"few": "3 calls", "a few": "3 calls", "several": "5 calls", "many": "10 calls", "lots": "10 calls"}
_SUITABLE = 0.74


@dataclass(frozen=True, kw_only=True)
class Request:
    """What a sentence asks for: ``brief`` holds the fields that it names (plain data), ``understood`` says by which
    words, ``not_understood`` what nothing was made of, ``impossible`` what was understood and cannot be had. Spans
    count characters of ``text``. ``notes`` are sentences on what is left open.
    """

    text: str
    brief: dict[str, Any]
    understood: tuple[Understood, ...]
    not_understood: tuple[Left, ...]
    impossible: tuple[Left, ...]
    notes: tuple[str, ...] = ()

    @property
    def settled(self) -> bool:
        """Whether all of it was understood and can be had."""
        return not self.not_understood and not self.impossible

    def to_json(self) -> dict[str, Any]:
        """Plain data."""
        return {
            "brief": self.brief,
            "understood": [asdict(row) for row in self.understood],
            "not_understood": [asdict(row) for row in self.not_understood],
            "impossible": [asdict(row) for row in self.impossible],
            "notes": list(self.notes),
        }


def read_request(text: str, own: tuple[dict[str, Any], ...] = ()) -> Request:
    """Read a sentence; it is never guessed at: what is not understood is said, with the nearest that is known.

    ``own`` are a school's own machines as ``Tuned.to_json`` writes them; a sentence names them by their whole name.
    """
    machines = {m.id: m for m in map(restored, own)}
    s = Sentence(text, {**MACHINES, **machines}, own)
    plain_rules.time(s)
    counts.kinds(s)
    counts.drills(s)
    plain_rules.people(s)
    plain_rules.weather(s)
    plain_rules.instruments(s)
    counts.calls(s, before_terms=True)
    found = terms(s)
    plain_rules.order(s)
    plain_rules.levels(s)
    counts.calls(s, before_terms=False)
    made = _fields(s)
    meant = chosen(s, found)
    if meant:
        made["machines"] = list(meant)
    _note_terms(s, found)
    _seasons(s, made)
    _faults(s, found, made)
    _check(s, made)
    return Request(
        text=s.text,
        brief=made,
        understood=tuple(sorted(s.understood, key=lambda u: u.start)),
        not_understood=tuple(_left(s)),
        impossible=tuple(sorted(s.impossible, key=lambda x: x.start)),
        notes=_notes(s, found),
    )


def _numbers_of_calls(s: Sentence) -> list[int]:
    """Numbers of calls that add up; where some say how a whole is made up, the whole alone."""
    rows = [(u.value, counts.says_calls(u.words)) for u in s.understood if u.field == "calls"]
    whole, parts = [n for n, says in rows if says], [n for n, says in rows if not says]
    return whole if len(whole) == 1 and sum(parts) == whole[0] else [n for n, _ in rows]


def _fields(s: Sentence) -> dict[str, Any]:
    """Fields of the brief from what was understood; calls that are named twice add up."""
    made: dict[str, Any] = {}
    drills: list[dict[str, Any]] = []
    numbers = _numbers_of_calls(s)
    if numbers:
        made["calls"] = sum(numbers)
    counted = {u.field: u.value for u in s.understood if u.field in ("fault_free", *_OF_CALLS)}
    if not numbers and sum(v for v in counted.values() if v > 0) > 1:
        made["calls"] = sum(v for v in counted.values() if v > 0)
    calls = made.get("calls", brief({"title": "x"}).calls)
    for u in s.understood:
        if u.field == "drills":
            drills.append(u.value)
        elif u.field.startswith("weather."):
            # degrees are read before words like hot
            made.setdefault("weather", {}).setdefault(u.field.removeprefix("weather."), u.value)
        elif u.field == "fault_free":
            made["fault_free_share"] = round((calls if u.value == counts.ALL else u.value) / max(calls, 1), 3)
        elif u.field == "share.fault_free":
            made["fault_free_share"] = round(u.value, 3)
        elif u.field.startswith("share."):
            made[u.field.removeprefix("share.")] = round(u.value * calls)
        elif u.field in _OF_CALLS:
            made[u.field] = calls if u.value == counts.ALL else u.value
        elif u.field == "levels" and "levels" in made:  # "three easy ones and two hard ones"
            made["levels"] = [min(made["levels"][0], u.value[0]), max(made["levels"][1], u.value[1])]
        elif u.field not in ("calls", "for", "order"):
            made[u.field] = u.value
    if drills:
        made["drills"] = drills
        if (
            not numbers
            and not counted
            and all(u.field in ("drills", "minutes", "apprentices", "units", "instruments") for u in s.understood)
        ):
            made["calls"] = 0
    return made


_OF_CALLS = ("two_faults", "second_visits", "instrument_faults")


def _note_terms(s: Sentence, found: list[Term]) -> None:
    for term in found:
        field = "machines" if term.kind == MACHINE else "faults"
        ids = (
            list(term.ids)
            if term.kind == FAULT
            else [m.id for m in s.machines.values() if term.suits is not None and term.suits(m)]
        )
        said = term.name if term.kind == MACHINE else _said(term.ids)
        start, end = s.tight(term.start, term.end)
        start = start if term.forbidden_at is None else term.forbidden_at
        if any(x.start <= start and end <= x.end for x in s.impossible):
            continue
        s.understood.append(
            Understood(
                words=s.text[start:end],
                start=start,
                end=end,
                field=field if term.wanted else f"not {field}",
                value=ids,
                text=said if term.wanted else f"not: {said}",
            )
        )


def _notes(s: Sentence, found: list[Term]) -> tuple[str, ...]:
    """What a request cannot fix: how many calls each of several machines or faults gets."""
    parts = [u for u in s.understood if u.field == "calls" and not counts.says_calls(u.words)]
    named = len([t for t in found if t.wanted])
    if len(parts) < 2 or named < 2:
        return ()
    return ("Machines and faults rotate: a request cannot set how many calls each one gets.",)


def _said(ids: tuple[str, ...]) -> str:
    return " or ".join((INSTRUMENT_FAULTS.get(f) or FAULTS[f]).name.lower() for f in ids)


def _brief(s: Sentence, fields: dict[str, Any]) -> Brief:
    """The checked brief of these fields, with the own machines that they name. Raises BadInputError."""
    own = [tuned for tuned in s.own if restored(tuned).id in fields.get("machines", ())]
    return brief({"title": "x", **fields, **({"own": own} if own else {})})


def _possible(s: Sentence, made: dict[str, Any]) -> set[str]:
    machines = made.get("machines") or brief({"title": "x"}).machines
    return {k.id for m in machines for k in faults_for(s.machines[m])}


def _seasons(s: Sentence, made: dict[str, Any]) -> None:
    """Weather that none of the machines is met in cannot be had; winter with no machine named is a heat pump's."""
    outdoors = made.get("weather", {}).get("outdoor_db_f")
    if outdoors is None:
        return
    if "machines" not in made and outdoors[1] < 55.0:
        made["machines"] = [m.id for m in MACHINES.values() if m.in_heating]
    machines = [s.machines[m] for m in made.get("machines") or brief({"title": "x"}).machines]
    span = {"outdoor_db_f": (float(outdoors[0]), float(outdoors[1]))}
    met = [
        m
        for m in machines
        if weather_spans(m, span)["outdoor_db_f"][0] <= outdoors[1]
        and weather_spans(m, span)["outdoor_db_f"][1] >= outdoors[0]
    ]
    if "machines" in made and met:
        made["machines"] = [m.id for m in met]
    if not met:
        said = next(u for u in s.understood if u.field == "weather.outdoor_db_f")
        low, high = usual_weather(machines[0]).get("outdoor_db_f", WEATHER["outdoor_db_f"][0])
        s.understood.remove(said)
        s.refuse(said.start, said.end, "these machines are not run in that weather", f"{low:g} to {high:g} outside")
        del made["weather"]["outdoor_db_f"]
        if not made["weather"]:
            del made["weather"]


#: situations that show what no steady readings can -> fault ids
_SHOWN_BY = {
    "hunting": ("valve_hunting",),
    "equal_pressures": ("compressor_not_pumping", "one_circuit_off"),
    "machine_or_load": ("high_load", "low_load"),
    "customer_wish": ("undersized_unit",),
    "economizer": ("economizer_stuck_open", "stratified_air"),
    "by_the_ounce": ("wrong_refrigerant",),
}


def _faults(s: Sentence, found: list[Term], made: dict[str, Any]) -> None:
    """Faults wanted and not wanted, as far as these machines can have them."""
    wanted = [t for t in found if t.kind == FAULT and t.wanted]
    if "machines" not in made:
        _machines_for(s, wanted, made)
    unwanted = {f for t in found if t.kind == FAULT and not t.wanted for f in t.ids}
    possible = _possible(s, made)
    fit: dict[str, None] = {}
    for term in wanted:
        own = [f for f in term.ids if f in INSTRUMENT_FAULTS]
        if own:
            made["instrument_faults"] = max(made.get("instrument_faults", 0), 1)
            continue
        usable = [f for f in term.ids if f in possible and f not in NOT_ON_PAPER and f not in unwanted]
        if usable:
            fit |= dict.fromkeys(usable)
            continue
        s.understood = [u for u in s.understood if u.end != s.tight(term.start, term.end)[1]]
        shown = next((k for k, ids in _SHOWN_BY.items() if set(ids) & set(term.ids)), None)
        if shown is not None:
            why = f"no steady readings show it; there is a situation: {SITUATIONS[shown].name}"
            s.refuse(term.start, term.end, why)
        else:
            s.refuse(term.start, term.end, "these machines cannot have this fault", _nearest_fault(term.ids, possible))
    if fit:
        made["faults"] = list(fit)
    elif unwanted:
        usual = _brief(s, {"machines": made["machines"]} if "machines" in made else {}).faults
        left = [f for f in usual if f not in unwanted]
        if not left:
            last = [t for t in found if t.kind == FAULT][-1]
            s.refuse(last.start, last.end, "no fault is left")
        elif len(left) < len(usual):
            made["faults"] = left


def _machines_for(s: Sentence, wanted: list[Term], made: dict[str, Any]) -> None:
    """Where no machine is named and a fault is none of the usual machines', those that can have it."""
    usual = _possible(s, made)
    kinds = [FAULTS[f] for t in wanted for f in t.ids if f in FAULTS and f not in NOT_ON_PAPER]
    if any(k.id not in usual for k in kinds) and not any(len(t.ids) > 1 for t in wanted):
        among = [] if all(k.id not in usual for k in kinds) else list(brief({"title": "x"}).machines)
        fit = [m.id for m in MACHINES.values() if any(k.suits(m) for k in kinds if k.id not in usual)]
        if fit:
            made["machines"] = [m for m in MACHINES if m in (*among, *fit)]


def _nearest_fault(ids: tuple[str, ...], possible: set[str]) -> str | None:
    """A fault that these machines can have, in place of one they cannot."""
    stands = {"valve_overfeeding": "orifice_oversized", "valve_underfeeding": "orifice_undersized"}
    stands |= {b: a for a, b in stands.items()}
    stands |= {"dirty_condenser": "water_condenser_fouled", "condenser_fan_weak": "low_water_flow"}
    stands |= {"water_condenser_fouled": "dirty_condenser", "low_water_flow": "condenser_fan_weak"}
    near = next((stands[f] for f in ids if stands.get(f) in possible), None)
    return FAULTS[near].name.lower() if near else None


def _check(s: Sentence, made: dict[str, Any]) -> None:
    """What does not fit together is impossible; the brief that is left can be planned."""
    if made.get("fault_free_share", 0) > 1:
        made["fault_free_share"] = 1.0
    try:
        _brief(s, made)
    except BadInputError as error:
        field = str(error.field).split(".")[0]
        mine = [u for u in s.understood if field in (u.field, u.field.split(".")[-1])] or s.understood[-1:]
        if mine:
            s.impossible.append(
                Left(words=mine[-1].words, start=mine[-1].start, end=mine[-1].end, why=f"allowed: {error.allowed}")
            )
            s.understood.remove(mine[-1])
        made.pop(field, None)


def _left(s: Sentence) -> list[Left]:
    """Runs of words that nothing was made of."""
    found: list[Left] = []
    start = None
    words = [m for m in re.finditer(rf"[^\s,{STRUCK}{NAMED}]+", s.said)]
    run: list[re.Match[str]] = []
    for word in [*words, None]:
        idle = word is None or (word[0] in _IDLE and not (word[0] in _TELLING and _tells(s, word)))
        apart = run and word is not None and re.search(rf"[,{STRUCK}{NAMED}]", s.said[run[-1].end() : word.start()])
        if run and (idle or apart):
            start, end = run[0].start(), run[-1].end()
            found.append(Left(words=s.text[start:end], start=start, end=end, nearest=_nearest(s.said[start:end])))
            run = []
        if not idle and word is not None:
            run.append(word)
    return found


def _tells(s: Sentence, word: re.Match[str]) -> bool:
    """Whether a no or not is left over: what it forbids was not understood."""
    rest = s.said[word.end() :].lstrip(" ,")
    return word[0] in ("no", "not") and bool(rest) and not rest.startswith((STRUCK, NAMED))


@cache
def _known() -> list[str]:
    rows = {*fault_names(), *machine_names(), *(k.name.lower() for k in SITUATIONS.values())}
    rows |= {"minutes", "calls", "level", "apprentices", "easy", "hard", "nothing wrong", "two faults", "second visit"}
    return sorted(rows)


def _nearest(words: str) -> str | None:
    """The known name that is nearest to words that were not understood, or a situation they belong to."""
    plain = " ".join(words.split())
    if plain in _VAGUE:
        return _VAGUE[plain]
    if re.fullmatch(r"\d{1,2}", plain) and 0 < int(plain) <= 20:
        return f"{plain} calls"
    called = [(re.search(rf"\b{re.escape(plain)}", k.name.lower()), k.name) for k in SITUATIONS.values()]
    found = next((name for match, name in called if match and len(plain) > 4), None)
    if found is None and len(plain) > 4:
        found = next((k.name for k in SITUATIONS.values() if plain.rstrip("s") in k.trains.lower().split()), None)
    if found is not None:
        return f"situation: {found}"
    close = difflib.get_close_matches(plain, _known(), n=1, cutoff=_SUITABLE)
    if close:
        return close[0]
    parts = [difflib.get_close_matches(w, _known(), n=1, cutoff=_SUITABLE) for w in plain.split() if len(w) > 3]
    return next((p[0] for p in parts if p), None)
