"""The four tables count right: what is stated and contradicted, what is named, ranks, spreads, copied marks."""

import pytest

from wolfsbane.devtools import audit


def row(level, others, success=None, faults=1, book=True):
    return {
        "level": level,
        "others": others,
        "without_looks": others - 0.1,
        "by_patterns": others,
        "success": others if success is None else success,
        "faults": faults,
        "book": book,
    }


def test_a_counterexample_counts_against_a_claim_that_is_stated_only():
    rows = [
        {"seed": 1, "hidden": ["a"], "claims": {"singles": True, "pairs": False}, "against": {"pairs": ["x at .5"]}},
        {
            "seed": 2,
            "hidden": ["b"],
            "claims": {"singles": True, "pairs": True},
            "against": {"singles": ["y", "z", "w"]},
        },
        None,
    ]
    found = audit.proof_table(rows)
    assert found["claims"]["pairs"] == {"not_stated": 1, "stated": 1}
    assert found["claims"]["singles"] == {"stated": 2, "counterexamples": 1}
    assert found["counterexamples"] == [{"seed": 2, "claim": "singles", "hidden": ["b"], "against": ["y", "z"]}]


def test_keys_named_by_the_book_are_counted_by_level():
    found = audit.technician_table([row(1, 0.9), row(1, 0.9, book=False), row(3, 0.7), None])
    assert found["levels"] == {1: {"calls": 2, "named": 0.5}, 3: {"calls": 1, "named": 1.0}}
    assert found["calls"] == 3 and found["named"] == pytest.approx(2 / 3)


def test_a_level_that_sorts_as_others_find_it_has_rank_one():
    rows = [row(level, 1.0 - 0.1 * level + 0.01 * i) for level in range(1, 6) for i in range(2)]
    found = audit.level_table(rows)
    assert found["rank_all"] > 0.97 and found["rank_forecast"] == pytest.approx(1.0)
    assert found["levels"][1]["found"] == pytest.approx(0.905) and found["levels"][5]["calls"] == 2
    turned = audit.level_table([row(6 - r["level"], r["others"]) for r in rows])
    assert turned["rank_all"] < -0.97


def test_single_faults_are_ranked_by_themselves():
    rows = [row(1, 0.9), row(2, 0.8), row(3, 0.7), row(1, 0.1, faults=2), row(2, 0.2, faults=2), row(3, 0.3, faults=2)]
    found = audit.level_table(rows)
    assert found["rank_single"] == pytest.approx(1.0) and abs(found["rank_all"]) < 0.9


def sheets(*papers):
    return {
        "sheets": [
            {"calls": [{"rung": i, "call": {"key": {"difficulty": {"success": s}}}} for i, s in enumerate(paper)]}
            for paper in papers
        ]
    }


def test_spread_within_a_rung_is_told_beside_that_between():
    found = audit.equal_table([sheets((0.9, 0.5), (0.8, 0.6), (0.85, 0.55))])
    assert found["rungs"] == 2 and found["widest_rung"] == pytest.approx(0.1)
    assert found["variance_between"] == pytest.approx(0.0225) and found["share"] < 0.1
    assert audit.equal_table([sheets((0.9,), (0.7,))])["share"] is None, "one rung is beside nothing"


def test_a_call_of_a_seed_is_the_same_again_and_is_judged():
    found = audit.technician_row(3)
    assert found is not None and found == audit.technician_row(3)
    assert (
        1 <= found["level"] <= 5 and 0.0 <= found["others"] <= 1.0 and found["without_looks"] <= found["others"] + 0.05
    )
