"""Prove the starter library again: ``make starter``.

Every scenario is drawn for three apprentices and proved in its own weather; its proof is written beside it, and what no
longer makes a fair call with one answer is named. New scenarios are written into ``scenarios.json`` by hand, with an
empty proof.
"""

from __future__ import annotations

import json
import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

from wolfsbane.cycle.solver import SOLVER_VERSION
from wolfsbane.exercise.draw.variant import NoVariantError, vary
from wolfsbane.exercise.plan.scenario import require_paper, scenario
from wolfsbane.exercise.plan.starter_library import STARTER
from wolfsbane.server.services.library import proof_of

#: apprentices each scenario is drawn for
SEEDS = (1, 2, 3)


def proved(row: dict[str, Any]) -> tuple[dict[str, Any], str]:
    """The row with its proof, and what is wrong with it or an empty text."""
    made = require_paper(scenario(row["scenario"]))
    level, one_answer, sentence = proof_of(made)
    proof = {
        "solver_version": SOLVER_VERSION,
        "level": level,
        "one_answer": one_answer,
        "sentence": sentence,
    }
    wrong = "" if one_answer or not made.faults else sentence
    try:
        if not all(vary(made, "us", seed).key.unique for seed in SEEDS):
            wrong = wrong or "a variant has another answer"
    except NoVariantError as error:
        wrong = str(error)
    return {"scenario": made.to_json(), "proof": proof}, wrong


def main() -> int:
    path = Path(__file__).resolve().parents[1] / "src/wolfsbane/exercise/plan" / STARTER / "scenarios.json"
    rows, bad = json.loads(path.read_text(encoding="utf-8")), 0
    with ProcessPoolExecutor(2) as pool:
        done = []
        for row, wrong in pool.map(proved, rows):
            done.append(row)
            bad += bool(wrong)
            print(f"{row['scenario']['title']}: level {row['proof']['level']} {wrong}".rstrip(), flush=True)
    path.write_text(json.dumps(done, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
    print(f"{len(done)} scenarios, {bad} to be looked at")
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
