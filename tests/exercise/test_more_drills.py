"""The drills beside conversions, dials and differences; answers checked against other sources than the drills' own."""

import random
from collections import Counter

import pytest
from CoolProp.CoolProp import PropsSI

from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.exercise.draw.drills import drill
from wolfsbane.exercise.draw.more_drills import MORE
from wolfsbane.exercise.marking.drill_marks import drill_answers, drill_questions, grade_drill, lettered, title
from wolfsbane.exercise.plan.brief import DRILLS, brief

KINDS = (*MORE, "which_line")
SYSTEMS = pytest.mark.parametrize("system", ["us", "si"])
_PSI, _ATM = 6894.757, 101_325.0


def drilled(kind, items=10, seed=5, **changes):
    return drill(kind, items, brief({"title": "x", **changes}), random.Random(seed))


@pytest.mark.parametrize("kind", KINDS)
@SYSTEMS
def test_the_key_earns_all_and_nothing_written_earns_nothing(kind, system):
    made = drilled(kind, units=system)
    marks = grade_drill(made, drill_answers(made))
    assert marks and all(m.earned == m.points == 1 for m in marks)
    assert not any(m.earned for m in grade_drill(made, {}))
    assert kind in DRILLS and title(kind) and len({q.id for q in drill_questions(made)}) == len(marks)


@pytest.mark.parametrize("kind", [k for k in KINDS if k not in ("mixed_air", "pipe_pressure", "units")])
def test_what_is_chosen_is_lettered_and_another_letter_is_wrong(kind):
    made = drilled(kind)
    rows = [item for item in made["items"] if item.get("pick") and not item.get("worked")]
    assert rows
    for item in rows:
        wrong = next(r["letter"] for r in lettered(item) if r["line"] != item["answer_line"])
        mark = {m.question: m for m in grade_drill(made, drill_answers(made) | {f"d{item['number']}_line": wrong})}
        assert mark[f"d{item['number']}_line"].earned == 0 and mark[f"d{item['number']}_line"].code == "drill_pick"


def test_mistakes_that_are_known_are_named():
    for kind in KINDS:
        for item in drilled(kind, 12)["items"]:
            for known in item["mistakes"]:
                if item.get("worked") or abs(known["value"] - item["answer"]) <= item["tolerance"]:
                    continue
                made = {"kind": kind, "instruction": "", "items": [item]}
                answers = drill_answers(made) | {f"d{item['number']}": f"{known['value']:g}"}
                mark = next(m for m in grade_drill(made, answers) if m.question == f"d{item['number']}")
                assert mark.code == "drill_slip", (kind, known)


def test_pipe_pressures_agree_with_another_library():
    """CoolProp (Bell et al. 2014) for the pure refrigerants of sealed circuits."""
    fluids = {"R-134a": "R134a", "R-290": "Propane", "R-600a": "IsoButane"}
    sealed = [m.id for m in MACHINES.values() if m.sealed and m.refrigerant in fluids]
    for item in drilled("pipe_pressure", 12, machines=sealed)["items"]:
        name, _, rest = item["prompt"].partition(",")
        at = float(rest.split(" is at ")[1].split(" ")[0])
        pa = PropsSI("P", "T", (at - 32) / 1.8 + 273.15, "Q", 1, fluids[name])
        assert item["answer"] == pytest.approx((pa - _ATM) / _PSI, abs=0.35), item["prompt"]


def test_a_micron_is_a_thousandth_of_a_millimeter_of_mercury():
    """760,000 microns are an atmosphere of 29.92 inHg, by definition."""
    for item in drilled("vacuum", 8)["items"][::2]:
        gauge = float(item["prompt"].split(" shows ")[1].split(" ")[0])
        assert item["answer"] == pytest.approx(760_000 * (1 - gauge / 29.92), rel=0.002)


def test_a_decay_test_says_what_it_shows():
    for item in drilled("vacuum", 12)["items"][1::2]:
        numbers = [float(n) for n in item["prompt"].replace(",", "").split() if n.replace(".", "").isdigit()]
        last_five, ten = numbers[-2], numbers[-1]
        kind = "tight" if ten < 1000 else "leak" if ten - last_five > 500 else "wet"
        assert item["answer_line"] == kind
    said = Counter(i["answer_line"] for i in drilled("vacuum", 12)["items"][1::2])
    assert set(said) == {"tight", "wet", "leak"}


def test_units_agree_with_their_definitions():
    """Exact by definition: 25.4 mm, 0.45359237 kg, 9.80665 m/s², 101,325 Pa (NIST SP 811, from memory)."""
    psi = 0.45359237 * 9.80665 / 0.0254**2
    factors = {
        ("psi", "kPa"): psi / 1000,
        ("lb", "oz"): 16,
        ("oz", "g"): 453.59237 / 16,
        ("tons", "Btu/h"): 12_000,
        ("bar", "psi"): 1e5 / psi,
        ("cfm", "m³/h"): 0.3048**3 * 60,
        ("°F of superheat", "K"): 5 / 9,
    }
    seen = set()
    for item in drilled("units", 10)["items"]:
        given, _, rest = item["prompt"].partition(" ")
        source = rest.split(" is how many")[0]
        seen.add((source, item["unit"]))
        if (source, item["unit"]) in factors:
            assert item["answer"] == pytest.approx(float(given) * factors[source, item["unit"]], abs=item["tolerance"])
    assert len(seen) == 10


def test_target_superheat_is_the_formula_and_the_verdict_follows_it():
    verdicts = Counter()
    for item in (i for seed in range(6) for i in drilled("target_superheat", 6, seed)["items"]):
        numbers = [float(n.strip(";,.")) for n in item["prompt"].split() if n.strip(";,.").replace(".", "").isdigit()]
        wet, outdoors = numbers[:2]
        assert item["answer"] == pytest.approx((3 * wet - 80 - outdoors) / 2, abs=0.06)
        off = item["second"]["answer"] - item["answer"]
        if abs(abs(off) - 2) > 0.2:
            assert item["answer_line"] == ("low" if off < -2 else "high" if off > 2 else "normal")
        verdicts[item["answer_line"]] += 1
    assert min(verdicts.values()) >= 4 and len(verdicts) == 3


def test_superheat_uses_dew_and_subcooling_bubble():
    for item in drilled("glide", 8)["items"]:
        superheat = "superheat" in item["prompt"]
        assert item["answer_line"] == ("dew" if superheat else "bubble")
        other = item["mistakes"][0]["value"]
        assert (item["answer"] > other) == superheat, "at one pressure the dew point is the warmer end"


def test_two_good_gauges_agree_and_two_that_do_not_are_told_apart():
    kinds = Counter(i["answer_line"] for seed in range(4) for i in drilled("two_manifolds", 8, seed)["items"])
    assert min(kinds["agree"], kinds["differ"]) >= 6
    for item in drilled("two_manifolds", 8)["items"]:
        shown = float(item["prompt"].split(" shows ")[1].split(" ")[0])
        apart = abs(shown - item["answer"])
        assert (apart <= 8) == (item["answer_line"] == "agree") or 3 < apart < 9


def test_the_liquid_line_is_warmer_than_suction_and_cooler_than_discharge():
    for item in drilled("which_line", 8)["items"]:
        by_line = {row["line"]: row["value"] for row in item["lines"]}
        assert by_line["suction_line"] < by_line["liquid_line"] < by_line["discharge_line"]
