"""grade(call, answers) -> marks that follow the apprentice's own numbers, so that one slip costs one mark.

Works on the frozen call alone: nothing is solved again, so a later solver never re-marks old paper.
"""

from dataclasses import dataclass

from wolfsbane.diagnosis.figures import SATURATIONS, SUBTRACTIONS
from wolfsbane.diagnosis.targets import FIGURES, HIGH, RIGHT, Band
from wolfsbane.exercise.answers import parse
from wolfsbane.exercise.correction import WRONG_PLANS, consequence
from wolfsbane.exercise.distractors import of_conclusion
from wolfsbane.exercise.questions import ACTIONS, EVIDENCE
from wolfsbane.exercise.wording import reason_text

#: raise it when a mark could change for the same answers
RUBRIC_VERSION = "2"

_ALLOWED = {"temperature": "a temperature", "difference": "a number", "verdict": "low, right or high (L, R, H)",
            "letter": "one letter", "letters": "letters of the choices"}
_ASKED = ("superheat", "subcooling", "evaporator_td", "ctoa")
_SIDE = {"suction_saturation": "low-side", "liquid_saturation": "high-side"}
_NAMES = {"suction_saturation": "suction saturation", "liquid_saturation": "liquid saturation"}


@dataclass(frozen=True, kw_only=True)
class Mark:
    """One mark: question id, points earned of points, the reason as code with parameters, and the raw answer."""

    question: str
    points: int
    earned: int
    code: str
    params: dict
    raw: str

    @property
    def text(self):
        """The reason in English."""
        return reason_text(self.code, self.params)


def _n(value):
    return f"{value:.1f}".removesuffix(".0").replace("-", "−")


class _Marker:
    """One pass over one call: keeps what the apprentice has established so far."""

    def __init__(self, call, answers):
        self.call, self.key = call, call.key
        self.system = call.units
        self.readings = {k: r["value"] for k, r in call.readings.items()}
        self.questions = {q["id"]: q for q in call.questions}
        self.answers = {q["id"]: parse(q["kind"], answers.get(q["id"]), q["unit"]) for q in call.questions}
        self.own = {}
        self.turned = set()
        self.marks = {}

    def give(self, question, earned, code, **params):
        """One mark; ``earned`` is True for all points, False for none, or a number of points."""
        points = self.questions[question]["points"]
        self.marks[question] = Mark(question=question, points=points, earned=points if earned is True else int(earned), code=code,
                                    params=params, raw=self.answers[question].raw)

    def readable(self, question):
        """True when there is something to mark; otherwise the mark is given here."""
        answer = self.answers[question]
        if answer.blank:
            self.give(question, False, "blank")
        elif answer.unreadable:
            self.give(question, False, "unreadable", raw=answer.raw,
                      allowed=_ALLOWED[self.questions[question]["kind"]])
        return answer.value is not None

    def saturations(self):
        tolerance = self.key["tolerance"]["saturation"]
        for name in SATURATIONS:
            true = self.key["figures"][name]
            if not self.readable(name):
                continue
            value = self.answers[name].value
            self.own[name] = value
            if abs(value - true) <= tolerance + 1e-9:
                self.give(name, True, "right_reading", key=_n(true), side=_SIDE[name])
                continue
            near = [m for m in self.key["mistakes"][name] if abs(value - m["value"]) <= tolerance]
            slip = min(near, key=lambda m: abs(value - m["value"]))["code"] if near else "wrong_number"
            code, _, ring = slip.partition(":")
            self.give(name, False, code, given=_n(value), expected=_n(true), refrigerant=ring,
                      own=self.call.machine["refrigerant"])

    def expected(self, name):
        """(a, b, a - b, label) of a subtraction from the apprentice's own saturation where there is one."""
        a, b = SUBTRACTIONS[name]
        source = a if a in SATURATIONS else b
        pick = lambda key: self.own.get(key, self.key["figures"].get(key, self.readings.get(key)))  # noqa: E731
        return pick(a), pick(b), pick(a) - pick(b), _NAMES[source]

    def sums(self):
        tolerance = self.key["tolerance"]["sum"] + 1e-9
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
                self.give(name, True, "right")
            elif swapped and name in ("superheat", "subcooling"):
                paid = name == "subcooling"
                self.give(name, paid, "swapped_paid" if paid else "swapped")
            elif abs(value + follows) <= tolerance:
                self.turned.add(name)
                self.give(name, False, "sign_turned", **said)
            elif abs(value - self._other_saturation(name)) <= tolerance:
                self.give(name, False, "other_saturation", **said)
            else:
                self.give(name, False, "wrong_number", given=_n(value), expected=_n(follows))

    def _swapped(self, tolerance):
        superheat, subcooling = self.answers["superheat"].value, self.answers["subcooling"].value
        if superheat is None or subcooling is None:
            return False
        own_superheat, own_subcooling = self.expected("superheat")[2], self.expected("subcooling")[2]
        return (abs(superheat - own_subcooling) <= tolerance and abs(subcooling - own_superheat) <= tolerance
                and abs(own_superheat - own_subcooling) > tolerance)

    def _other_saturation(self, name):
        a, b = SUBTRACTIONS[name]
        turn = {"suction_saturation": "liquid_saturation", "liquid_saturation": "suction_saturation"}
        pick = lambda key: self.key["figures"][turn[key]] if key in turn else self.readings[key]  # noqa: E731
        return pick(a) - pick(b)

    def target(self):
        if not self.readable("target"):
            return
        value, true = self.answers["target"].value, self.key["target"]
        self.own["target"] = value
        if abs(value - true) <= self.key["tolerance"]["sum"] + 1e-9:
            self.give("target", True, "right")
            return
        k = 1.0 if self.system == "us" else 1 / 1.8
        valve = self.call.machine["metering"] != "fixed_orifice"
        other = self._formula_target() if valve else 10.0 * k
        code = "target_wrong_device" if abs(value - other) <= self.key["tolerance"]["sum"] else "wrong_number"
        self.give("target", False, code, given=_n(value), expected=_n(true))

    def _formula_target(self):
        wb, out = self.readings["return_wb"], self.readings["outdoor_db"]
        return (3 * wb - 80 - out) / 2 if self.system == "us" else (5.4 * wb - 1.8 * out - 16) / 3.6

    def band(self, name):
        band = Band(**self.key["bands"][name])
        own = self.own.get("target")
        return band.around(own) if own is not None and name == self.key["target_of"] else band

    def verdicts(self):
        margin = self.key["tolerance"]["edge"]
        for name in FIGURES:
            question = f"{name}_verdict"
            value = self.own.get(name, self.key["figures"][name])
            band = self.band(name)
            accepted = band.verdicts_within(value, margin)
            if name in self.turned:
                accepted |= band.verdicts_within(-value, margin)
            if not self.readable(question):
                continue
            said = {"given_figure": _n(value), "band": f"{_n(band.low)} to {_n(band.high)}"}
            given = self.answers[question].value
            if given in accepted:
                self.give(question, True, "verdict_edge" if len(accepted) > 1 and given != band.verdict(value)
                          and name not in self.turned else "verdict_follows", **said)
            else:
                self.give(question, False, "verdict_wrong", expected=band.verdict(value), **said)

    def own_pattern(self):
        """The five verdicts as the apprentice has them: written, else from their figures, else the key's."""
        found = []
        for name in FIGURES:
            written = self.answers[f"{name}_verdict"].value
            if written is None and name in self.own:
                written = self.band(name).verdict(self.own[name])
            found.append(written or self.key["verdicts"][name])
        return [*found, HIGH if self.key["drier_high"] else RIGHT]

    def choice(self, question):
        """Id behind the letter, or None after giving the mark."""
        rows = self.call.choices[question]
        if not self.readable(question):
            return None
        letter = self.answers[question].value
        for row in rows:
            if row["letter"] == letter:
                return row["id"]
        self.give(question, False, "unknown_letter", given=letter, allowed=", ".join(r["letter"] for r in rows))
        return None

    def fitting_faults(self, pattern):
        """Faults whose solved patterns come nearest to ``pattern`` (at most one verdict away)."""
        away = {fault: min((sum(a != b for a, b in zip(row, pattern, strict=True)) for row in rows), default=9)
                for fault, rows in self.key["patterns"].items()}
        best = min(away.values())
        return {fault for fault, distance in away.items() if distance == best and best <= 1}

    def faults(self):
        """Several faults at once: a mark for each that is named, one less for each that is not there."""
        if not self.readable("fault"):
            return None
        rows = {row["letter"]: row["id"] for row in self.call.choices["fault"]}
        letters = self.answers["fault"].value
        unknown = [letter for letter in letters if letter not in rows]
        if unknown:
            self.give("fault", False, "unknown_letter", given=unknown[0], allowed=", ".join(sorted(rows)))
            return None
        named, planted = [rows[letter] for letter in letters], self.key["faults"]
        hits = [fault for fault in planted if fault in named]
        earned = max(len(hits) - (len(named) - len(hits)), 0)
        code = "fault_right" if earned == len(planted) else "faults_part" if hits else "fault_wrong"
        self.give("fault", earned, code, fault=self.key["fault_name"], hits=len(hits), wrong=len(named) - len(hits), of=len(planted))
        return (hits or named)[0]

    def fault(self):
        if len(self.key["faults"]) > 1:
            return self.faults()
        chosen = self.choice("fault")
        if chosen is None:
            return None
        true, pattern = self.key["fault"], self.own_pattern()
        own_differs = pattern[:-1] != [self.key["verdicts"][name] for name in FIGURES]
        fitting = self.fitting_faults(pattern) if own_differs else {true}
        if chosen == true:
            self.give("fault", True, "fault_right" if true in fitting else "fault_right_despite",
                      fault=self.key["fault_name"])
        elif chosen in fitting:
            self.give("fault", True, "fault_follows", fault=self.key["fault_name"])
        elif path := of_conclusion(self.key, chosen):
            self.give("fault", False, "fault_wrong_path", fault=self.key["fault_name"], mistake=path["text"], feedback=path["feedback"])
        else:
            self.give("fault", False, "fault_wrong", fault=self.key["fault_name"])
        return chosen

    def evidence(self, chosen):
        if not self.readable("evidence"):
            return
        rows = {row["letter"]: row["id"] for row in self.call.choices["evidence"]}
        letters = self.answers["evidence"].value
        unknown = [letter for letter in letters if letter not in rows]
        if unknown:
            self.give("evidence", False, "unknown_letter", given=unknown[0], allowed=", ".join(sorted(rows)))
            return
        named = [rows[letter] for letter in letters]
        pattern = dict(zip((*FIGURES, "drier_drop"), self.own_pattern(), strict=True))
        off = {name for name, verdict in pattern.items() if verdict != RIGHT} or {"all_on_target"}
        idle = [name for name in named if name not in off]
        deciders = self.key["deciders"]
        deciding = [name for fault in (chosen, *(self.key["faults"] or [self.key["fault"]])) if fault
                    for name in deciders[fault] if name in off] or sorted(off)
        if idle:
            self.give("evidence", False, "evidence_not_off", item=EVIDENCE[idle[0]])
        elif not set(named) & set(deciding):
            self.give("evidence", False, "evidence_not_deciding", deciding=EVIDENCE[deciding[0]])
        else:
            self.give("evidence", True, "evidence_right")

    def action(self, chosen):
        action = self.choice("action")
        if action is None:
            return
        if action == self.key["action"]:
            self.give("action", True, "action_right")
        elif action in self.key["faults"][1:]:
            then = consequence(self.key.get("correction"), "second_first")
            self.give("action", False, "action_second_led_to" if then else "action_second_first", action=self.key["mend"][0],
                      **({"consequence": then} if then else {}))
        elif action == chosen:
            self.give("action", True, "action_follows")
        else:
            then = consequence(self.key.get("correction"), WRONG_PLANS.get(action))
            self.give("action", False, "action_led_to" if then else "action_wrong", action=ACTIONS[self.key["action"]],
                      **({"consequence": then} if then else {}))


def grade(call, answers):
    """Mark one call.

    ``call`` is a :class:`wolfsbane.exercise.call.Call`, ``answers`` a dict question id -> raw text (missing is blank).
    Returns a list of :class:`Mark` in the order of the questions.
    """
    marker = _Marker(call, answers)
    marker.saturations()
    marker.sums()
    marker.target()
    marker.verdicts()
    chosen = marker.fault()
    marker.evidence(chosen)
    marker.action(chosen)
    return [marker.marks[q["id"]] for q in call.questions]


def total(marks):
    """(earned, possible) points of a list of marks."""
    return sum(m.earned for m in marks), sum(m.points for m in marks)


def perfect_answers(call):
    """Answers that earn every mark: the key written the way an apprentice would."""
    key = call.key
    found = {name: f"{key['figures'][name]:.1f}" for name in (*SATURATIONS, *_ASKED)}
    found["target"] = f"{key['target']:.1f}"
    found |= {f"{name}_verdict": key["verdicts"][name] for name in FIGURES}
    letter = lambda kind, wanted: next(r["letter"] for r in call.choices[kind] if r["id"] == wanted)  # noqa: E731
    deciding = [name for fault in key["faults"] or ["none"] for name in key["deciders"][fault] if name in key["evidence"]]
    found["fault"] = " ".join(letter("fault", fault) for fault in key["faults"] or ["none"])
    found["action"] = letter("action", key["action"])
    found["evidence"] = letter("evidence", (deciding or key["evidence"])[0])
    return found

