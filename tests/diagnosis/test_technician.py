"""Technicians by the book, and apprentices who misread: what a shop card and a list of rules make of verdicts.

The expected answers are common practice, no source.
"""

from dataclasses import replace

import pytest

from wolfsbane.cycle.faults import FAULTS, NONE
from wolfsbane.devtools.technician import by_patterns, misread, reads_right, share, shop
from wolfsbane.diagnosis import technician
from wolfsbane.diagnosis.rules import named_by_rules
from wolfsbane.diagnosis.targets import Band
from wolfsbane.diagnosis.technician import JUDGED, Read, Skill, answers, by_the_book, by_the_rules, card, success

OFFERED = (
    "undercharge",
    "overcharge",
    "dirty_condenser",
    "low_airflow",
    "liquid_line_restriction",
    "leaking_compressor_valves",
    "valve_overfeeding",
    "orifice_oversized",
)
BANDS = {
    "superheat": Band(low=10, high=20),
    "subcooling": Band(low=7, high=13, target=10),
    "evaporator_td": Band(low=30, high=40),
    "ctoa": Band(low=13, high=22),
}


def page(sh=15.0, sc=10.0, td=35.0, ctoa=17.5, drier=0.0, **more):
    """A page whose figures are these, at 95 °F outside and 78 °F inside."""
    low, high = 78.0 - td, 95.0 + ctoa
    values = {
        "suction_saturation": low,
        "liquid_saturation": high,
        "suction_line": low + sh,
        "liquid_line": high - sc,
        "return_db": 78.0,
        "outdoor_db": 95.0,
        "drier_out": high - sc - drier,
    }
    usual = {"bands": BANDS, "card": "valve", "offered": OFFERED, "number": 1, "told": {}}
    return Read(values=values, **(usual | more))


CASES = [
    ({}, ()),
    ({"sh": 30, "sc": 0, "td": 43, "ctoa": 11}, ("undercharge",)),
    ({"sc": 22, "ctoa": 27}, ("overcharge",)),
    ({"ctoa": 31}, ("dirty_condenser",)),
    ({"td": 48, "sh": 8, "ctoa": 14}, ("low_airflow",)),
    ({"sh": 38, "sc": 16, "td": 46, "drier": 9}, ("liquid_line_restriction",)),
    ({"td": 24, "ctoa": 9}, ("leaking_compressor_valves",)),
    ({"sh": 2, "td": 29, "sc": 6}, ("valve_overfeeding",)),
]


@pytest.mark.parametrize(("figures", "named"), CASES)
def test_plain_signs_are_named_by_the_card_and_by_the_rules(figures, named):
    read = page(**figures)
    assert by_the_book(read) == by_the_rules(read) == named
    assert reads_right(read, named)


def test_an_orifice_floods_where_a_valve_holds():
    orifice = {"card": "orifice", "bands": BANDS | {"superheat": Band(low=10, high=14, target=12)}}
    assert by_the_book(page(sh=2, sc=20, ctoa=25, **orifice)) == ("overcharge",)
    assert by_the_rules(page(sh=2, sc=2, td=29, **orifice)) == by_the_book(page(sh=2, sc=2, td=29, **orifice))
    assert by_the_book(page(sh=2, sc=2, td=29, **orifice)) == ("orifice_oversized",)


def test_a_look_outweighs_a_tie_and_what_it_rules_out_is_not_named():
    read = page(ctoa=31, offered=("dirty_condenser", "condenser_fan_weak", "undercharge"))
    assert by_the_book(read) == ("dirty_condenser",)
    fan = replace(read, told={"condenser_fan_weak": 1, "dirty_condenser": -1})
    assert by_the_book(fan) == by_the_rules(fan) == ("condenser_fan_weak",)


def test_two_are_named_where_two_are_asked_for():
    read = page(ctoa=33, sc=1, number=2)
    assert set(by_the_book(read)) == {"dirty_condenser", "undercharge"} == set(by_the_rules(read))
    assert all(len(one) == 2 for one in answers(read)) and ("undercharge", "overcharge") not in answers(read)


def test_every_family_a_page_may_offer_stands_on_the_card():
    for kind in ("valve", "orifice", "receiver", "heating", "sealed"):
        known = card(kind)
        assert all(len(row) == len(JUDGED) and set("".join(row)) <= set("-0+") for row in known.values())
        assert NONE in known and {"undercharge", "overcharge", "low_airflow", "dirty_condenser"} <= set(known)
        assert set(known) - {NONE} <= set(FAULTS)


def test_the_clearer_the_figures_the_more_apprentices_name_it():
    shares = [success(page(ctoa=c), ("dirty_condenser",)) for c in (23.0, 25.0, 30.0)]
    assert shares == sorted(shares) and shares[0] < 0.7 < shares[2]
    careful, hasty = (
        success(page(ctoa=24), ("dirty_condenser",), (Skill(misread_f=m, slip=m / 50, overlooks=0),))
        for m in (1.0, 4.0)
    )
    assert hasty < careful
    assert success(page(), ("overcharge",)) < 0.1


def test_all_calls_meet_the_same_apprentices_and_others_misread_otherwise():
    read = page(ctoa=24)
    assert success(read, ("dirty_condenser",)) == success(read, ("dirty_condenser",))
    assert success(read, ("dirty_condenser",), first=40) != success(read, ("dirty_condenser",))


def test_what_is_withheld_is_not_judged():
    blind = page(ctoa=31)
    blind = replace(blind, values=blind.values | {"liquid_saturation": None})
    assert by_the_book(blind) == () == by_the_rules(blind)


def test_rules_go_from_the_top_and_name_nothing_where_none_fires():
    assert named_by_rules((0, 0, 0, 0, 0), "valve", OFFERED, (), (), 1) == ()
    assert named_by_rules((1, 0, 0, 0, 1), "valve", OFFERED, (), (), 1) == ("liquid_line_restriction",)
    assert named_by_rules((1, 0, 0, 0, 1), "valve", OFFERED, (), ("liquid_line_restriction",), 1) != (
        "liquid_line_restriction",
    )


def test_the_technicians_of_another_making_judge_by_round_numbers_and_by_solved_verdicts():
    import random

    tight = page(ctoa=21.5, bands=BANDS | {"ctoa": Band(low=15, high=20)})
    assert by_the_book(tight) == ("dirty_condenser",) and by_the_book(shop(tight)) == ()
    patterns = {
        NONE: [("normal",) * 5],
        "dirty_condenser": [("normal", "normal", "normal", "high", "normal")],
        "overcharge": [("normal", "high", "normal", "high", "normal")],
    }
    assert by_patterns(page(ctoa=31), patterns, random.Random(1)) == "dirty_condenser"
    off = misread(page(), random.Random(2)).values
    assert all(abs(off[k] - v) <= 12 for k, v in page().values.items()) and off != page().values
    assert 0.5 < share(page(ctoa=30), ("dirty_condenser",), 60, "a") <= 1.0


@pytest.mark.parametrize("told", [{}, {"dirty_condenser": 1}, {"overcharge": -1, "undercharge": -1}])
@pytest.mark.parametrize(("figures", "hidden"), [c for c in CASES if c[1]])
def test_apprentices_counted_together_are_those_who_go_through_the_page_one_by_one(figures, hidden, told):
    read = page(**figures, told=told)
    skills, runs = (Skill(misread_f=2.0, slip=0.1, overlooks=0.3), Skill(misread_f=4.0, slip=0.3, overlooks=0.6)), 60
    on_card, named = technician._card_on(read), 0
    for number, skill in enumerate(skills, 5):
        noise = technician._noise(number, runs)
        picked, signs = technician.gone_through(
            technician._Taken(read, on_card)._exact,
            skill.misread_f,
            noise.read,
            noise.slip < skill.slip,
            noise.turned < 0.5,
            noise.thrown,
            noise.looks >= skill.overlooks,
            noise.taste,
            technician._Taken(read, on_card)._page,
            technician._TASTED,
        )
        for a in range(runs):
            heard = told if noise.looks[a] >= skill.overlooks else {}
            shown, out = (tuple(f for f in OFFERED if way * heard.get(f, 0) > 0) for way in (1, -1))
            rules = named_by_rules(tuple(signs[a].tolist()), "valve", OFFERED, shown, out, 1)
            named += (on_card.found[picked[a]] == hidden) + (rules == hidden)
    assert success(read, hidden, skills, runs, first=5) == pytest.approx(named / (4 * runs), abs=1e-12)
    assert named > 0
