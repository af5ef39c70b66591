"""grade(call, answers) -> marks that follow the apprentice's own numbers, so that one slip costs one mark.

Works on the frozen call alone: nothing is solved again, so a later solver never re-marks old paper.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wolfsbane.diagnosis.figures import SATURATIONS, SUBTRACTIONS
from wolfsbane.diagnosis.targets import FIGURES, HIGH, RIGHT, Band
from wolfsbane.exercise.marking.answers import Answer, parse
from wolfsbane.exercise.marking.conclusion import Conclusion
from wolfsbane.exercise.marking.evidence_text import suggest
from wolfsbane.exercise.marking.repair_plan import amount, changes, order, plan_answers
from wolfsbane.exercise.marking.rubric import earned_of
from wolfsbane.exercise.marking.rules import NO_RULES
from wolfsbane.exercise.paper.questions import MEASURED, QUESTIONS
from wolfsbane.exercise.paper.wording import reason_text

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.rules import Rules
    from wolfsbane.exercise.paper.call import Call

#: raise it when a mark could change for the same answers
RUBRIC_VERSION = "3"

_ALLOWED = {
    "temperature": "a temperature",
    "difference": "a number",
    "verdict": "low, right or high (L, R, H)",
    "letter": "one letter",
    "letters": "letters of the choices",
    "mass": "a weight, 0 for none",
    "pressure": "a gauge pressure",
    "steps": "numbers of the steps",
    "change": "down, same or up (D, S, U)",
    "text": "text",
}
#: how an answer of three words is said
SAID = {"down": "falls", "same": "stays", "up": "rises"}
_ASKED = ("superheat", "subcooling", "evaporator_td", "ctoa")
_SIDE = {"suction_saturation": "low-side", "liquid_saturation": "high-side"}
_NAMES = {"suction_saturation": "suction saturation", "liquid_saturation": "liquid saturation"}


@dataclass(frozen=True, kw_only=True)
class Mark:
    """One mark: question id, points earned of points, the reason as code with parameters, and the raw answer.

    ``suggested`` is None, or the points proposed for free text: nothing is earned there until an instructor confirms.
    """

    question: str
    points: int
    earned: int
    code: str
    params: dict[str, Any]
    raw: str
    suggested: int | None = None

    @property
    def text(self) -> str:
        """The reason in English."""
        return reason_text(self.code, self.params)


def _n(value: float) -> str:
    return f"{value:.1f}".removesuffix(".0").replace("-", "−")


class _Marker(Conclusion):
    """One pass over one call: keeps what the apprentice has established so far."""

    def __init__(self, call: Call, answers: dict[str, str], rules: Rules) -> None:
        self.call, self.key, self.rules = call, call.key, rules
        self.system = call.units
        self.readings = {k: r["value"] for k, r in call.readings.items()}
        self.questions = {q["id"]: q for q in call.questions}
        self.answers = {q: Answer(raw="") for q in QUESTIONS} | {
            q["id"]: parse(q["kind"], answers.get(q["id"]), q["unit"]) for q in call.questions
        }
        self.own = {}
        #: figures somebody clearly meant, behind a turned sign or an exchange of two
        self.meant = {}
        self.marks = {}

    def tolerance(self, name: str) -> float:
        """Tolerance of the key, as far as a rule widens it."""
        return self.key["tolerance"][name] * self.rules.widened(name)

    def give(self, question: str, share: int | None, code: str, suggested: Any = None, **params: Any) -> None:
        """One mark; ``share`` is True or False, None for the share the rubric gives the code, or a number of points."""
        if question not in self.questions:
            return
        points = self.questions[question]["points"]
        self.marks[question] = Mark(
            question=question,
            points=points,
            earned=earned_of(share, code, points),
            code=code,
            params=params,
            raw=self.answers[question].raw,
            suggested=suggested,
        )

    def readable(self, question: str) -> bool:
        """True when there is something to mark; otherwise the mark is given here.

        A question not asked has nothing to mark.
        """
        if question not in self.questions:
            return False
        answer = self.answers[question]
        if answer.blank:
            self.give(question, False, "blank")
        elif answer.unreadable:
            self.give(question, False, "unreadable", raw=answer.raw, allowed=_ALLOWED[self.questions[question]["kind"]])
        return answer.value is not None

    def measured(self) -> None:
        """Readings the apprentice took on a rig, against what the instructor read there;
        their own carry what follows.
        """
        for question, reading in MEASURED.items():
            if not self.readable(question):
                continue
            value, true = self.answers[question].value, self.readings[reading]
            self.own[question] = self.readings[reading] = value
            near = (
                abs(value - true) <= self.key["tolerance"]["readings"][reading] * self.rules.widened("reading") + 1e-9
            )
            self.give(question, near, "right_measured" if near else "measured_off", given=_n(value), expected=_n(true))

    def own_saturation(self, name: str) -> float:
        """What the ring shows at the apprentice's own pressure, from the slope kept in the key."""
        shift = self.own.get(f"read_{SATURATIONS[name][0]}")
        if shift is None:
            return self.key["figures"][name]
        return (
            self.key["figures"][name]
            + (shift - self.call.readings[SATURATIONS[name][0]]["value"]) * self.key["ring_slope"][name]
        )

    def saturations(self) -> None:
        tolerance, made = self.tolerance("saturation"), set()
        for name in SATURATIONS:
            true = self.own_saturation(name)
            if not self.readable(name):
                if f"read_{SATURATIONS[name][0]}" in self.own:
                    self.own[name] = true
                continue
            value = self.answers[name].value
            self.own[name] = value
            if abs(value - true) <= tolerance + 1e-9:
                self.give(name, True, "right_reading", key=_n(true), side=_SIDE[name])
                continue
            if abs(value - self.key["figures"][name]) <= tolerance + 1e-9:
                self.give(name, True, "ring_not_own", expected=_n(true))
                continue
            near = [m for m in self.key["mistakes"][name] if abs(value - m["value"]) <= tolerance]
            slip = min(near, key=lambda m: abs(value - m["value"]))["code"] if near else "wrong_number"
            code, _, ring = slip.partition(":")
            again = slip in made and slip != "wrong_number"
            made.add(slip)
            self.give(
                name,
                again or None,
                "same_slip_paid" if again else code,
                given=_n(value),
                expected=_n(true),
                refrigerant=ring,
                own=self.call.machine["refrigerant"],
            )

    def expected(self, name: str) -> tuple[float, float, float, str]:
        """(a, b, a - b, label) of a subtraction from the apprentice's own saturation where there is one."""
        a, b = SUBTRACTIONS[name]
        source = a if a in SATURATIONS else b

        def pick(key: Any) -> Any:
            return self.own.get(key, self.key["figures"].get(key, self.readings.get(key)))

        return pick(a), pick(b), pick(a) - pick(b), _NAMES[source]

    def sums(self) -> None:
        tolerance = self.tolerance("sum") + 1e-9
        swapped = self._swapped(tolerance)
        for name in _ASKED:
            if not self.readable(name):
                continue
            value = self.answers[name].value
            self.own[name] = value
            a, b, follows, source = self.expected(name)
            said = {"a": _n(a), "b": _n(b), "expected": _n(follows)}
            if abs(value - follows) <= tolerance:
                self.give(name, True, "follows_own", source=source, **said)
            elif abs(value - self.key["figures"][name]) <= tolerance:
                self.give(name, True, "right_not_own", source=source, **said)
            elif swapped and name in ("superheat", "subcooling"):
                paid = name == "subcooling"
                self.meant[name] = self.answers["superheat" if paid else "subcooling"].value
                self.give(name, paid or None, "swapped_paid" if paid else "swapped")
            elif abs(value + follows) <= tolerance:
                self.meant[name] = -value
                self.give(name, None, "sign_turned", **said)
            elif abs(value - self._other_saturation(name)) <= tolerance:
                self.give(name, None, "other_saturation", **said)
            else:
                self.give(name, False, "wrong_number", given=_n(value), expected=_n(follows))

    def _swapped(self, tolerance: float) -> bool:
        superheat, subcooling = self.answers["superheat"].value, self.answers["subcooling"].value
        if superheat is None or subcooling is None:
            return False
        own_superheat, own_subcooling = self.expected("superheat")[2], self.expected("subcooling")[2]
        return (
            abs(superheat - own_subcooling) <= tolerance
            and abs(subcooling - own_superheat) <= tolerance
            and abs(own_superheat - own_subcooling) > tolerance
        )

    def _other_saturation(self, name: str) -> float:
        a, b = SUBTRACTIONS[name]
        turn = {"suction_saturation": "liquid_saturation", "liquid_saturation": "suction_saturation"}

        def pick(key: Any) -> Any:
            return self.key["figures"][turn[key]] if key in turn else self.readings[key]

        return pick(a) - pick(b)

    def target(self) -> None:
        if not self.readable("target"):
            return
        value, true = self.answers["target"].value, self.key["target"]
        self.own["target"] = value
        if abs(value - true) <= self.tolerance("sum") + 1e-9:
            self.give("target", True, "right")
            return
        k = 1.0 if self.system == "us" else 1 / 1.8
        valve = self.call.machine["metering"] != "fixed_orifice"
        other = self._formula_target() if valve else 10.0 * k
        code = "target_wrong_device" if abs(value - other) <= self.tolerance("sum") else "wrong_number"
        self.give("target", None, code, given=_n(value), expected=_n(true))

    def _formula_target(self) -> float:
        wb, out = self.readings["return_wb"], self.readings["outdoor_db"]
        return (3 * wb - 80 - out) / 2 if self.system == "us" else (5.4 * wb - 1.8 * out - 16) / 3.6

    def band(self, name: str) -> Band:
        band = Band(**self.key["bands"][name])
        own = self.own.get("target")
        return band.around(own) if own is not None and name == self.key["target_of"] else band

    def verdicts(self) -> None:
        margin = self.tolerance("edge")
        for name in FIGURES:
            question = f"{name}_verdict"
            value = self.own.get(name, self.key["figures"][name])
            band = self.band(name)
            if not self.readable(question):
                continue
            said = {"given_figure": _n(value), "band": f"{_n(band.low)} to {_n(band.high)}"}
            given, meant = self.answers[question].value, self.meant.get(name)
            if given == band.verdict(value):
                self.give(question, True, "verdict_follows", **said)
            elif given in band.verdicts_within(value, margin):
                self.give(question, True, "verdict_edge", **said)
            elif meant is not None and given in band.verdicts_within(meant, margin):
                self.give(question, True, "verdict_meant", **said | {"given_figure": _n(meant)})
            else:
                self.give(question, False, "verdict_wrong", expected=band.verdict(value), **said)

    def own_pattern(self) -> list[str]:
        """The five verdicts as the apprentice has them: written, else from their figures, else the key's."""
        found = []
        for name in FIGURES:
            written = self.answers[f"{name}_verdict"].value
            if written is None and name in self.own:
                written = self.band(name).verdict(self.own[name])
            found.append(written or self.key["verdicts"][name])
        return [*found, HIGH if self.key["drier_high"] else RIGHT]


def grade(call: Call, answers: dict[str, str], rules: Rules = NO_RULES) -> list[Mark]:
    """Mark one call.

    ``call`` is a :class:`wolfsbane.exercise.paper.call.Call`, ``answers`` a dict question id -> raw text (missing is
    blank), ``rules`` the :class:`~wolfsbane.exercise.marking.rules.Rules` an instructor made for this call. Returns a
    list of :class:`Mark` in the order of the questions.
    """
    marker = _Marker(call, answers, rules)
    marker.measured()
    marker.saturations()
    marker.sums()
    marker.target()
    marker.verdicts()
    chosen = marker.fault()
    marker.evidence(chosen)
    marker.action(chosen)
    if "steps" in call.key:
        amount(marker, chosen)
        order(marker, chosen)
        changes(marker, chosen)
    if "because" in marker.questions and marker.readable("because"):
        share, found = suggest(marker.answers["because"].value, marker)
        points = marker.questions["because"]["points"]
        marker.give("because", False, "to_confirm", suggested=int(points * share + 1e-9), found=found)
    return [rules.applied(marker.marks[q["id"]]) for q in call.questions]


def total(marks: list[Mark]) -> tuple[int, int]:
    """(earned, possible) points of a list of marks."""
    return sum(m.earned for m in marks), sum(m.points for m in marks)


def perfect_answers(call: Call) -> dict[str, str]:
    """Answers that earn every mark (free text aside): the key written the way an apprentice would."""
    key = call.key
    found = {name: f"{key['figures'][name]:.1f}" for name in (*SATURATIONS, *_ASKED)}
    found["target"] = f"{key['target']:.1f}"
    found |= {f"{name}_verdict": key["verdicts"][name] for name in FIGURES}

    def letter(kind: Any, wanted: Any) -> Any:
        return next(r["letter"] for r in call.choices[kind] if r["id"] == wanted)

    deciding = [
        name for fault in key["faults"] or ["none"] for name in key["deciders"][fault] if name in key["evidence"]
    ]
    found["fault"] = " ".join(letter("fault", fault) for fault in key["faults"] or ["none"])
    found["action"] = letter("action", key["action"])
    found["evidence"] = letter("evidence", (deciding or key["evidence"])[0])
    found |= {
        question: f"{call.readings[reading]['value']:g}"
        for question, reading in MEASURED.items()
        if reading in call.readings
    }
    found |= plan_answers(call) if "steps" in key else {}
    asked = {q["id"] for q in call.questions}
    return {question: answer for question, answer in found.items() if question in asked}
