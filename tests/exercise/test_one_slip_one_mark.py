"""The promise itself, over many papers: an apprentice who slips once and is right from there on loses one mark.

A simulated apprentice works a paper by the rules of the trade alone: reads, subtracts, compares with the target, and
concludes by the nearest pattern. It slips in one place and carries the wrong number through everything that follows.
"""

import pytest

from tests.conftest import ORIFICE, R22, VALVE, planned
from wolfsbane.diagnosis.targets import FIGURES
from wolfsbane.exercise.draw import item as items_of
from wolfsbane.exercise.draw import rig
from wolfsbane.exercise.draw.variant import vary
from wolfsbane.exercise.marking.grade import grade, perfect_answers, total
from wolfsbane.exercise.marking.repair import repair_answers

PAPERS = [
    (VALVE, "undercharge", 78),
    (VALVE, "dirty_condenser", 58),
    (VALVE, "valve_overfeeding", 100),
    (VALVE, "none", None),
    (ORIFICE, "low_airflow", 46),
    (ORIFICE, "undercharge", 72),
    (R22, "overcharge", 126),
    (VALVE, "liquid_line_restriction", 200),
]
FROM = {
    "superheat": ("suction_line", "suction_saturation"),
    "subcooling": ("liquid_saturation", "liquid_line"),
    "evaporator_td": ("return_db", "suction_saturation"),
    "ctoa": ("liquid_saturation", "outdoor_db"),
}


class Apprentice:
    """Works one call; ``slip`` is (question, offset) or None."""

    def __init__(self, call, slip):
        self.call, self.slip = call, slip
        self.known = {k: r.value for k, r in call.readings.items()}
        self.answers = {}

    def put(self, question, value):
        if self.slip and self.slip[0] == question:
            value += self.slip[1]
        self.known[question] = value
        self.answers[question] = f"{value:.1f}"

    def verdict(self, name):
        band, value = self.call.key.bands[name], self.known[name]
        shift = self.known["target"] - band.target if name == self.call.key.target_of else 0.0
        return "low" if value < band.low + shift else "high" if value > band.high + shift else "normal"

    def conclude(self):
        pattern = [self.answers[f"{name}_verdict"] for name in FIGURES] + [
            "high" if self.call.key.drier_high else "normal"
        ]
        away = {
            fault: min(sum(a != b for a, b in zip(row, pattern, strict=True)) for row in rows)
            for fault, rows in self.call.key.patterns.items()
        }
        true = self.call.key.fault
        best = min(away.values())
        fault = true if away[true] == best or best > 1 else min(away, key=away.get)
        off = {n for n, v in zip((*FIGURES, "drier_drop"), pattern, strict=True) if v != "normal"} or {"all_on_target"}
        deciding = (
            [n for n in self.call.key.deciders[fault] if n in off]
            or [n for n in self.call.key.deciders[true] if n in off]
            or sorted(off)
        )
        return fault, deciding[0]

    def work(self):
        for name in ("suction_saturation", "liquid_saturation"):
            self.put(name, self.call.key.figures[name])
        for name, (a, b) in FROM.items():
            self.put(name, self.known[a] - self.known[b])
        self.put("target", self.call.key.target)
        for name in FIGURES:
            self.answers[f"{name}_verdict"] = self.verdict(name)
        fault, evidence = self.conclude()
        self.answers |= {
            "fault": self.call.choices.letter("fault", fault),
            "action": self.call.choices.letter("action", fault),
            "evidence": self.call.choices.letter("evidence", evidence),
            **self.plan(fault),
        }
        return self.answers

    def plan(self, fault):
        """What follows from the fault concluded: which way the weight goes, the steps,
        and what the readings then do.
        """
        key = self.call.key
        right = repair_answers(self.call)
        if fault == key.fault:
            return right
        steps = key.repair.plans[fault]
        weight = "8" if "add" in steps else "-8" if "remove" in steps else "0"
        ways = key.repair.changes_of[fault]
        return {
            "amount": weight,
            "order": " ".join(str(self.call.choices.number(s)) for s in steps),
            **{q: ways.get(q, right[q]) for q in key.repair.changes},
        }


@pytest.fixture(scope="module", params=PAPERS, ids=lambda p: f"{p[1]}-{p[0]}")
def call(request):
    machine_id, fault, severity = request.param
    return vary(planned(fault, severity, machine_id), "us", 21)


def test_an_apprentice_without_a_slip_earns_everything(call):
    earned, possible = total(grade(call, Apprentice(call, None).work()))
    assert earned == possible == 33


@pytest.mark.parametrize("offset", [-12, -6, -2.4, 2.4, 6, 12])
@pytest.mark.parametrize("question", ["suction_saturation", "liquid_saturation", *FROM, "target"])
def test_one_slip_carried_through_costs_one_mark(call, question, offset):
    marks = grade(call, Apprentice(call, (question, offset)).work())
    lost = [(m.question, m.text) for m in marks if m.earned < m.points]
    assert [q for q, _ in lost] == [question], lost


def changed(question, right):
    """Anything else somebody might write there."""
    kind = question.kind
    if kind in ("temperature", "difference", "mass", "pressure"):
        return [f"{float(right) + off:g}" for off in (-40, -7, -2.5, 2.5, 7, 40)] + [f"{-float(right):g}", "0", "", "?"]
    words = {
        "verdict": ["low", "normal", "high"],
        "change": ["down", "same", "up"],
        "steps": ["1", "2 1", "9 8 7 6 5 4 3 2 1", "88"],
    }
    return [word for word in words.get(kind, "ABCDEFGHJKLMNPQRSTUVWX") if word != right] + ["", "?"]


def touched(call, question, raw):
    """What one box may cost: itself, the verdict on its number where it contradicts that, and, for a fault that the
    figures beside it do not show, the plan that was made for it.
    """
    plan = {"action", "amount", "order", *(q.id for q in call.questions if q.id.startswith("after_"))}
    if question == "fault" and raw.strip() not in ("", "?"):
        return {question, *plan}
    return {question, f"{call.key.target_of if question == 'target' else question}_verdict"}


def further(kind, units):
    """Calls of other kinds: two faults, a rig that was read, no gauges, points of one's own."""
    asked = {
        "pipes": {"instruments": "pipes"},
        "points": {"points": {"superheat": 3, "fault": 4, "evidence": 2, "order": 3}},
    }.get(kind, {})
    plain = planned("dirty_condenser", 60) if kind == "rig" else planned("undercharge", 72)
    body = plain.to_json()
    if kind == "two faults":
        body["faults"] = [{"id": "dirty_condenser", "severity": 55}, *body["faults"]]
        asked = {"leave_open": True}
    one = items_of.item({"kind": "rig" if kind == "rig" else "scenario", "body": body, "asked": asked})
    made = items_of.draw(one, 1, 0, units, 5)
    if kind != "rig":
        return made
    return rig.measured_call(
        made,
        plain.profile,
        plain.practice,
        rig.checked_readings(made, {k: r.value for k, r in made.readings.items()}),
    )


@pytest.fixture(
    scope="module",
    params=[*PAPERS, *((kind, units) for kind in ("two faults", "rig", "pipes", "points") for units in ("us", "si"))],
    ids=lambda p: "-".join(map(str, p)),
)
def any_call(request):
    if len(request.param) == 2:
        return further(*request.param)
    machine_id, fault, severity = request.param
    return vary(planned(fault, severity, machine_id), "us", 21)


def test_one_answer_written_otherwise_costs_no_more_than_its_own_points(any_call):
    """All else as on the key: whatever stands in one box, no other box loses a point for it."""
    right = perfect_answers(any_call)
    for question in any_call.questions:
        key = right[question.id].split()[0] if question.kind == "letters" else right[question.id]
        for raw in changed(question, key):
            lost = {m.question for m in grade(any_call, right | {question.id: raw}) if m.earned < m.points}
            assert lost <= touched(any_call, question.id, raw), (question.id, raw, lost)


def test_two_numbers_exchanged_cost_no_more_than_their_points(any_call):
    right = perfect_answers(any_call)
    numbers = [q.id for q in any_call.questions if q.kind in ("temperature", "difference")]
    for i, one in enumerate(numbers):
        for other in numbers[i + 1 :]:
            lost = {
                m.question
                for m in grade(any_call, right | {one: right[other], other: right[one]})
                if m.earned < m.points
            }
            assert lost <= touched(any_call, one, "1") | touched(any_call, other, "1"), (one, other, lost)
            if {one, other} in ({"superheat", "subcooling"}, {"suction_saturation", "liquid_saturation"}):
                assert len(lost) <= 1, (one, other, lost)
