"""Situations: every kind drawn, proved, marked by the numbers behind an answer, and checked from outside."""

import json
import random
from collections import defaultdict
from functools import cache

import pytest
from CoolProp.CoolProp import PropsSI

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import machine
from wolfsbane.diagnosis.vectors import solved
from wolfsbane.exercise.draw.item import draw, item, minutes
from wolfsbane.exercise.draw.situations.drawing import WRITERS, situation
from wolfsbane.exercise.draw.situations.page import APART
from wolfsbane.exercise.draw.weather import weather_for
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.marking.answers import parse
from wolfsbane.exercise.marking.feedback import feedback
from wolfsbane.exercise.marking.situation_marks import grade_situation, situation_answers
from wolfsbane.exercise.paper.situation import situation_from_json
from wolfsbane.exercise.plan.brief import brief
from wolfsbane.exercise.plan.situations import SITUATIONS
from wolfsbane.server.printing.trace_svg import trace_svg, trace_words

KINDS = pytest.mark.parametrize("kind", SITUATIONS)
#: pure refrigerants that another library has under these names
PURE = {"R-22": "R22", "R-134a": "R134a", "R-32": "R32", "R-290": "Propane", "R-600a": "IsoButane"}
_PSI, _ATM = 6894.757, 101_325.0


@cache
def drawn(kind, seed, units="us", machines=()):
    asked = {"title": "x", "units": units} | ({"machines": list(machines)} if machines else {})
    return situation(kind, brief(asked), seed)


def some(kind, n=5):
    return [drawn(kind, 500 + i, "si" if i == 3 else "us") for i in range(n)]


def marks(body, answers):
    return {m.question: m for m in grade_situation(body, answers)}


def earned(body, answers):
    return sum(m.earned for m in grade_situation(body, answers))


def number(text):
    """The number at the beginning of a cell."""
    return float(text.replace("−", "-").split()[0])


def column(body, table, at):
    return [row[at] for row in body.tables[table].rows]


def test_every_kind_has_somebody_who_writes_it():
    assert set(SITUATIONS) == set(WRITERS)
    assert all(1 <= k.level <= 5 and k.trains.endswith((".", "?")) and k.machines(()) for k in SITUATIONS.values())


@KINDS
def test_the_key_earns_all_and_nothing_written_earns_nothing(kind):
    for body in some(kind):
        assert all(m.earned == m.points for m in grade_situation(body, situation_answers(body)))
        assert earned(body, {}) == 0
        assert situation_from_json(json.loads(json.dumps(body.to_json()))) == body


@KINDS
def test_the_same_seed_gives_the_same_and_another_gives_another(kind):
    first, again = drawn(kind, 500), situation(kind, brief({"title": "x"}), 500)
    assert first == again
    assert len({frozen_body.mark_of_copy(body) for body in some(kind)}) == 5


@KINDS
def test_what_was_claimed_was_proved_with_room_to_spare(kind):
    for body in some(kind):
        assert body.key.claims and all(c.holds and c.margin >= APART and c.text for c in body.key.claims)
        assert body.key.hazard and body.complaint and body.looks


#: how a worked-out number moves with the saturation it was taken from, by what its id begins with
_BY_SATURATION = {"superheat": -1.0, "evaporator_td": -1.0, "coil_td": -1.0, "subcooling": 1.0, "ctoa": 1.0}


@KINDS
def test_a_misread_scale_costs_one_number(kind):
    """Whoever misreads a saturation and subtracts rightly from it is marked down once: common practice, no source."""
    for body in some(kind, 3):
        for id_, key in body.key.numbers.items():
            sign = next((s for name, s in _BY_SATURATION.items() if id_.startswith(name)), None)
            for source, per in key.per.items():
                if sign is None or "saturation" not in source:
                    continue
                assert per == sign, (kind, id_)
                misread = {source: f"{body.key.numbers[source].value + 7.0:g}", id_: f"{key.value + 7.0 * sign:g}"}
                found = marks(body, situation_answers(body) | misread)
                assert found[source].code == "wrong_number" and found[id_].code == "number_follows"


def test_a_misread_superheat_is_followed_where_a_machine_trips_or_has_just_started():
    for kind in ("trips", "wait_or_read", "which_valve"):
        assert any("saturation" in " ".join(k.per) for i, k in drawn(kind, 500).key.numbers.items() if "superheat" in i)


@KINDS
def test_letters_alone_earn_a_quarter_at_most(kind):
    """Whoever writes every right letter and no number, or one letter everywhere, does not pass."""
    for body in some(kind):
        key = situation_answers(body)
        possible = sum(q.points for q in body.questions)
        assert earned(body, {q: key[q] for q in body.choices}) <= 0.25 * possible
        for letter in range(3):
            guessed = {q: rows[min(letter, len(rows) - 1)].letter for q, rows in body.choices.items()}
            assert earned(body, guessed) <= 0.25 * possible


@KINDS
def test_several_answers_are_met_and_the_letter_of_the_right_one_moves(kind):
    cases = {drawn(kind, 500 + i, "si" if i == 3 else "us").key.case for i in range(5)} | {
        drawn(kind, 700 + i).key.case for i in range(4)
    }
    assert len(cases) > 1


@KINDS
def test_another_persons_paper_does_not_pass(kind):
    """Answers copied from another apprentice's paper earn less than half."""
    bodies = some(kind)
    shares = []
    for one, other in zip(bodies, bodies[1:], strict=False):
        if one.units == other.units and one.key.case != other.key.case:
            shares.append(earned(one, situation_answers(other)) / sum(q.points for q in one.questions))
    assert all(share < 0.6 for share in shares)


@KINDS
def test_feedback_tells_every_row_in_words(kind):
    body = drawn(kind, 500)
    answers = situation_answers(body) | {next(iter(body.key.numbers)): "999"}
    told = feedback(
        body,
        answers,
        [
            {"question": m.question, "points": m.points, "earned": m.earned, "code": m.code, "params": m.params}
            for m in grade_situation(body, answers)
        ],
    )
    rows = [row for step in told["steps"] for row in step["rows"]]
    assert [row["question"] for row in rows] == [q.id for q in body.questions] and told["hazard"] == body.key.hazard
    assert all(row["why"] and row["text"] for row in rows)
    letters = [row for row in rows if row["question"] in body.choices]
    assert all(len(row["expected"]) > 3 for row in letters)


# marking
# ---------------------------------------------------------------------------


def off_by(body, question, by):
    return f"{body.key.numbers[question].value + by:g}"


def test_one_misread_scale_costs_one_mark_and_the_rest_follows():
    body = drawn("customer_wish", 500)
    key = situation_answers(body)
    moved = key | {
        "liquid_saturation": off_by(body, "liquid_saturation", 9),
        "ctoa": off_by(body, "ctoa", 9),
    }
    found = marks(body, moved)
    assert found["liquid_saturation"].earned == 0
    assert found["ctoa"].code == "number_follows" and found["ctoa"].earned == found["ctoa"].points
    lost = sum(m.points - m.earned for m in found.values())
    assert lost == found["liquid_saturation"].points


def test_a_conclusion_and_its_plan_follow_from_ones_own_number():
    body = next(b for b in (drawn("standing_pressure", s) for s in range(40)) if b.key.case == "clean")
    assert body.units == "us"
    key = situation_answers(body)
    answers = key | {
        "saturation": off_by(body, "saturation", 8),
        "over_air": off_by(body, "over_air", 8),
        "what": body.letter("what", "air"),
        "do": body.letter("do", "recover"),
    }
    found = marks(body, answers)
    assert found["what"].code == found["do"].code == "letter_follows"
    assert found["what"].earned == found["what"].points and found["do"].earned == found["do"].points
    # The same conclusion from right numbers is wrong, and so is its plan.
    wrong = marks(body, key | {"what": body.letter("what", "air"), "do": body.letter("do", "recover")})
    assert wrong["what"].earned == wrong["do"].earned == 0 and wrong["do"].code == "no_plan"


def test_a_plan_without_a_conclusion_earns_nothing():
    body = drawn("equal_pressures", 500)
    found = marks(body, situation_answers(body) | {"what": ""})
    assert found["do"].earned == 0 and found["do"].code == "no_conclusion"


def test_a_right_guess_and_its_plan_earn_a_small_share_and_say_why():
    body = drawn("equal_pressures", 500)
    key = situation_answers(body)
    found = marks(body, {q: key[q] for q in body.choices})
    assert found["what"].code == found["do"].code == "no_work"
    assert found["what"].earned == 1 and found["do"].earned == 0
    wrong = next(c.letter for c in body.choices["what"] if c.id != body.key.letters["what"].right)
    told = marks(body, key | {"what": wrong})["do"]
    right = next(c.text for c in body.choices["what"] if c.id == body.key.letters["what"].right)
    assert told.code == "no_plan" and right in told.text


def test_a_known_slip_earns_half_and_is_named():
    body = next(b for b in (drawn("by_pressure", s) for s in range(500, 520)) if b.key.numbers["superheat"].slips)
    slip = body.key.numbers["superheat"].slips[0]
    found = marks(body, situation_answers(body) | {"superheat": f"{slip.value:g}"})
    assert found["superheat"].code == "number_slip" and found["superheat"].earned == 1
    assert "backward" in found["superheat"].text


def test_what_cannot_be_read_is_asked_back_and_never_guessed():
    body = drawn("equal_pressures", 500)
    found = marks(body, situation_answers(body) | {"share": "a lot", "spread": "3 to 9", "what": "Z", "do": "J and K"})
    assert [found[q].code for q in ("share", "spread", "what", "do")] == [
        "unreadable",
        "asked_back",
        "unknown_letter",
        "asked_back",
    ]


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("40", "min", 40.0),
        ("40 min", "min", 40.0),
        ("40 minutes", "min", 40.0),
        ("17.5 %", "%", 17.5),
        ("−3", "%", -3.0),
        ("17,5", "%", 17.5),
        ("40 %", "min", None),
        ("forty", "min", None),
    ],
)
def test_plain_numbers_are_read_with_their_own_unit_only(text, unit, value):
    assert parse("number", text, unit).value == value


def test_a_letter_may_be_written_as_its_words():
    body = next(b for b in (drawn("equal_pressures", s) for s in range(500, 540)) if b.key.case == "motor")
    found = marks(body, situation_answers(body) | {"what": "The motor does not run: an electrical question"})
    assert found["what"].earned == found["what"].points


# items of a sheet
# ---------------------------------------------------------------------------


def test_an_item_is_checked_drawn_and_read_back():
    made = item({"kind": "situation", "situation": "trips", "brief": {"title": "x"}})
    assert minutes(made) == SITUATIONS["trips"].minutes
    body = draw(made, 1, 0, "us", 77)
    assert frozen_body.body_from_json(body.to_json()) == body == draw(made, 1, 0, "us", 77)
    assert draw(made, 1, 0, "us", 77, attempt=2) != body != draw(made, 1, 1, "us", 77)
    assert frozen_body.level_of(body) == 4 and "It will not stay running: trips on" in frozen_body.title_of(body)
    with pytest.raises(BadInputError, match=r"items\.situation.*standing_pressure"):
        item({"kind": "situation", "situation": "juggling", "brief": {"title": "x"}})
    with pytest.raises(BadInputError, match=r"situation\.kind"):
        situation_from_json({k: v for k, v in body.to_json().items() if k != "kind"})


def test_machines_that_were_asked_for_are_met_where_they_fit():
    wanted = ("split-3t-r22-orifice", "walkin-cooler-r448a-txv")
    assert {drawn("by_pressure", s, machines=wanted).machine.id for s in range(3)} == {"split-3t-r22-orifice"}
    assert {drawn("low_pressure", s, machines=wanted).machine.id for s in range(2)} == {"walkin-cooler-r448a-txv"}
    # None of them fits: any that ships.
    assert drawn("economizer", 1, machines=wanted).machine.id == "package-10t-r410a-two-circuits"


# against something outside
# ---------------------------------------------------------------------------


def test_saturations_agree_with_another_library():
    """CoolProp (Bell et al. 2014) for pure refrigerants: what the key holds for the gauge that is printed."""
    seen = 0
    for kind in ("standing_pressure", "by_pressure", "customer_wish", "wait_or_read"):
        for seed in range(500, 512):
            body = drawn(kind, seed)
            name = PURE.get(body.machine.refrigerant)
            if name is None or body.units != "us":
                continue
            rows = body.tables[0].rows
            if kind == "standing_pressure":
                gauge, question = number(rows[1][1]), "saturation"
            elif kind == "wait_or_read":
                gauge, question = number(rows[-1][1]), "suction_saturation"
            else:
                gauge, question = number(rows[0][1]), "suction_saturation"
            kelvin = PropsSI("T", "P", gauge * _PSI + _ATM, "Q", 1 if question.startswith("suction") else 0, name)
            assert body.key.numbers[question].value == pytest.approx(kelvin * 1.8 - 459.67, abs=0.35), (kind, seed)
            seen += 1
    assert seen >= 5


def test_air_and_emptiness_lie_on_their_own_side_of_the_air():
    """Common practice, no source: air raises a standing pressure, a circuit without liquid stands below saturation."""
    by_case = defaultdict(list)
    for seed in range(500, 530):
        body = drawn("standing_pressure", seed)
        by_case[body.key.case].append(body.key.numbers["over_air"].value)
    assert min(by_case["air"]) > 3.0 and max(by_case["empty"]) < -3.0
    assert max(map(abs, by_case["clean"])) < 3.0


def test_mixed_air_is_the_mean_of_its_parts():
    for body in some("economizer"):
        inside, outside, *_ = (number(text) for text in column(body, 0, 1))
        told = inside + 0.10 * (outside - inside)
        assert body.key.numbers["should"].value == pytest.approx(told, abs=0.1)
        share = body.key.numbers["share"].value
        assert (share > 30.0) is (body.key.case == "open")


def test_the_target_of_an_orifice_is_the_formulas():
    """(3 WB − 80 − OD) / 2, common practice, no source."""
    for seed in range(500, 503):
        body = drawn("by_pressure", seed)
        rows = {row[0]: number(row[1]) for row in body.tables[0].rows}
        wet, outdoors = rows["Return air, wet bulb"], rows["Outdoor air, dry bulb"]
        assert body.key.numbers["target"].value == pytest.approx((3 * wet - 80 - outdoors) / 2, abs=0.06)


def test_a_trip_is_read_off_at_its_limit():
    """The last row stands at the limit that opened, and a starved start shows no line warmer than what it touches."""
    cases = set()
    for seed in range(500, 512):
        body = drawn("trips", seed)
        high, low = (number(text) for text in column(body, 1, 1))
        last, limit = body.tables[0].rows[-1], body.key.letters["limit"].right
        cases.add(limit)
        if limit == "high_pressure":
            assert 0.93 * high < number(last[2]) <= high + 5
        else:
            assert number(last[1]) <= low + 3
        warmest = max(number(body.looks[2].split("air ")[1]), number(body.looks[2].split("return air ")[1]))
        assert all(number(row[3]) < warmest + 12.0 for row in body.tables[0].rows[1:])
    assert cases == {"high_pressure", "low_pressure"}


def test_a_receiver_holds_less_the_colder_it_is():
    """Flooded head control, common practice, no source."""
    for body in some("winter_receiver", 3):
        levels = [number(text) for text in column(body, 0, 1)]
        assert levels == sorted(levels, reverse=True) and levels[0] > levels[-1] + 10


def test_the_recorder_shows_the_cards_settings_where_the_control_is_right():
    normal = [b for b in (drawn("low_pressure", s) for s in range(500, 512)) if b.key.case == "normal"]
    assert normal
    for body in normal[:2]:
        _, out, into = dict(body.tables[1].rows)["Low-pressure control"].replace(" in at ", " at ").split("at ")
        assert abs(body.key.numbers["cut_out"].value - number(out)) <= 3.0
        assert abs(body.key.numbers["cut_in"].value - number(into)) <= 3.0


def test_the_ounces_of_the_key_bring_the_machine_to_its_target():
    """The solved machine with what the key still puts in, or takes out, stands within the nameplate's window."""
    seen = 0
    for seed in range(500, 506):
        body = drawn("by_the_ounce", seed)
        if body.key.case == "stop":
            continue
        m = machine(body.machine.id)
        rows = body.tables[0].rows
        text = body.looks[2]
        met = {
            "outdoor_db_f": number(text.split("Outdoor air ")[1]),
            "return_db_f": number(text.split("return air ")[1]),
            "return_wb_f": number(text.split("return air ")[1]) - 13.0,
        }
        target = number(body.looks[0].split("nameplate ")[1])
        per, fourth = body.key.numbers["per"].value, body.key.numbers["fourth"].value
        assert body.key.numbers["to_go"].value == pytest.approx((target - fourth) * per, abs=0.6)
        factory_oz = m.circuit.charge_kg / 0.028349523125

        def subcooling(pct, m=m, met=met):
            fault = Fault(id="undercharge" if pct < 100 else "overcharge", severity=pct)
            state = solved(m, weather_for(m, met, 0.0, "us"), (fault,))
            assert state is not None
            return state.subcooling_dk * 1.8

        # Where it stands: the charge that shows the last row's subcooling.
        here = min((60 + 0.25 * i for i in range(240)), key=lambda pct: abs(subcooling(pct) - fourth))
        after = here + 100.0 * body.key.numbers["to_go"].value / factory_oz
        assert abs(subcooling(after) - target) <= 3.2, seed
        assert number(rows[-1][0]) > 0
        seen += 1
    assert seen >= 2


def test_a_mild_day_needs_its_cover():
    """The head comes up to where subcooling may be judged: over 100 °F condensing on a day under 68."""
    for seed in range(500, 504):
        body = drawn("mild_day", seed)
        numbers = body.key.numbers
        assert numbers["open_condensing"].value < 95.0 < 103.0 < numbers["liquid_saturation"].value < 125.0


def test_nothing_is_shown_that_was_not_measured():
    """No cell is empty of meaning: numbers with units, or words; and no page holds its own answer."""
    rng = random.Random(3)
    for kind in SITUATIONS:
        body = drawn(kind, 500 + rng.randrange(3))
        for table in body.tables:
            assert all(len(row) == len(table.columns) for row in table.rows)
        page = " ".join((body.complaint, *body.looks, *(cell for t in body.tables for row in t.rows for cell in row)))
        right = body.key.letters["what"].right
        told = next(c.text for c in body.choices["what"] if c.id == right)
        assert told not in page and body.key.title not in page


def test_frost_drives_the_coil_colder_and_a_defrost_brings_it_back():
    """Common practice, no source: the outdoor coil's TD grows as ice closes it, and is small after it was cleared."""
    by_case = {}
    for seed in range(500, 512):
        body = drawn("frost", seed)
        by_case.setdefault(body.key.case, body.key.numbers)
        if len(by_case) == 3:
            break
    never = by_case["defrost_never_starts"]
    assert never["last_td"].value > never["first_td"].value + 4.0 and never["defrosts"].value == 0
    assert by_case["defrost_by_clock"]["defrosts"].value >= 1 and by_case["normal"]["defrosts"].value >= 1


def test_a_capillary_unit_stands_about_thirty_over_outdoors_when_it_is_right():
    """Outdoors + 30 °F, superheat 8 to 15 °F, common practice, no source."""
    bodies = [b for b in (drawn("by_superheat", s) for s in range(500, 512)) if b.key.case == "right"]
    assert bodies
    for body in bodies:
        assert 25.0 <= body.key.numbers["ctoa"].value <= 35.0 and 8.0 <= body.key.numbers["superheat"].value <= 15.0


@pytest.mark.parametrize("kind", ["trips", "hunting", "defrost", "low_pressure", "frost"])
def test_what_goes_through_time_is_drawn_as_it_is_tabled(kind):
    """A recorder's strip holds the values of the same run: what stands in the table lies within what it drew."""
    for body in some(kind, 2):
        (strip,) = body.traces
        assert strip.minutes[0] == 0.0 and list(strip.minutes) == sorted(strip.minutes)
        assert all(len(line.values) == len(strip.minutes) <= 330 for line in strip.lines)
        head, rows = body.tables[0].columns, body.tables[0].rows
        for line in strip.lines:
            at = [i for i, name in enumerate(head) if name == line.name]
            slack = 0.1 * (max(line.values) - min(line.values)) + (6.0 if body.units == "us" else 30.0)
            for i in at:
                tabled = [number(row[i]) for row in rows if row[i]]
                assert min(line.values) - slack <= min(tabled) and max(tabled) <= max(line.values) + slack
        drawn_svg = trace_svg(strip)
        assert drawn_svg.count("<polyline") == len(strip.lines) and strip.unit in drawn_svg
        assert f"{max(strip.lines[0].values):g}" in trace_words(strip)


def test_a_situation_kept_before_there_were_strips_is_read():
    body = drawn("trips", 500)
    older = {k: v for k, v in body.to_json().items() if k != "traces"}
    assert situation_from_json(older).traces == () and situation_from_json(older).questions == body.questions


def _two_modes(case):
    found = (drawn("which_valve", seed) for seed in range(600, 680))
    return next(body for body in found if body.key.case == case)


@pytest.mark.parametrize(
    ("case", "mode", "superheat", "dropped"),
    [
        ("outdoor_open", "heating", -1, False),
        ("indoor_open", "cooling", -1, False),
        ("outdoor_shut", "heating", 1, False),
        ("indoor_shut", "cooling", 1, False),
        ("indoor_check", "heating", 1, True),
        ("outdoor_check", "cooling", 1, True),
    ],
)
def test_a_valve_shows_in_the_mode_in_which_it_meters(case, mode, superheat, dropped):
    """Common practice, no source: the valve at the coil that evaporates meters, the other one's check is open; a check
    that stays shut drops the liquid line before the metering valve.
    """
    body = _two_modes(case)
    keys, usual = body.key.numbers, body.tables[1].rows[0]
    other = {"heating": "cooling", "cooling": "heating"}[mode]
    at = {"heating": 1, "cooling": 2}
    low, high = (float(usual[at[mode]].split()[i]) for i in (0, 2))
    off = keys[f"superheat_{mode}"].value
    assert off < low if superheat < 0 else off > high
    assert float(usual[at[other]].split()[0]) - 0.6 <= keys[f"superheat_{other}"].value
    assert keys[f"superheat_{other}"].value <= float(usual[at[other]].split()[2]) + 0.6
    assert (keys[f"drop_{mode}"].value > 2.0) == dropped and keys[f"drop_{other}"].value < 1.5
    assert body.key.letters["mode"].right == mode


def test_what_is_offered_of_two_modes_has_the_right_answer_and_its_mirror():
    for seed in range(600, 630):
        body = drawn("which_valve", seed)
        offered = {c.id for c in body.choices["what"]}
        assert {"nothing", body.key.case} <= offered and len(offered) == 7
        side, _, what = body.key.case.partition("_")
        if what:
            assert {f"outdoor_{what}", f"indoor_{what}"} <= offered
        assert {c.id for c in body.choices["do"]} == offered | {"add"}


def test_low_airflow_and_overcharge_trip_a_microchannel_together_and_neither_alone():
    """Common practice, no source: an overfull microchannel trips on head once the valve backs liquid up into it."""
    asked = brief({"title": "x", "machines": ["split-3t-r410a-microchannel"]})
    body = next(b for b in (situation("trips", asked, seed) for seed in range(60)) if b.key.case == "overfull")
    numbers = {name: key.value for name, key in body.key.numbers.items()}
    # the two halves show apart: TD opened by the airflow, subcooling by the charge
    assert numbers["evaporator_td"] > 42 and numbers["subcooling"] > 20
    assert body.key.letters["limit"].right == "high_pressure" and "Either of them alone stays on" in body.key.told[0]
