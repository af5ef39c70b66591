"""Write the JSON Schemas in docs/formats/ from the formats the readers read by: ``make formats``. A test compares."""

import json
from pathlib import Path

from wolfsbane.acting.script import SCRIPT
from wolfsbane.diagnosis.observed import OBSERVED
from wolfsbane.exercise.marking.rules import RULES
from wolfsbane.exercise.paper.asked import ASKED
from wolfsbane.exercise.plan.brief import BRIEF
from wolfsbane.exercise.plan.scenario import SCENARIO
from wolfsbane.rig.rig import RIG
from wolfsbane.tuning.plate import PLATE

OUT = Path(__file__).resolve().parents[1] / "docs" / "formats"
FORMATS = {made.name: made for made in (SCRIPT, PLATE, OBSERVED, SCENARIO, BRIEF, ASKED, RULES, RIG)}


def text(name: str) -> str:
    """The schema file's text."""
    return json.dumps(FORMATS[name].json_schema(), indent=1, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    for name in FORMATS:
        (OUT / f"{name}.schema.json").write_text(text(name), encoding="utf-8")
