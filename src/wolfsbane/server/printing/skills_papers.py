"""The skills record and the lab sheet as PDF."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from wolfsbane.server.printing.paper import PAPER_SIZES
from wolfsbane.server.printing.press import pressed


def skills_pdf(found: dict[str, Any], school: str, system: str, zone: str) -> bytes:
    """PDF bytes of a skills record: ``found`` is name and rows as the screen shows them."""
    rows = []
    for row in found["rows"]:
        last = row["evidence"][-1] if row["evidence"] else None
        if last is not None:
            day = datetime.fromisoformat(last["at"]).astimezone(ZoneInfo(zone)).strftime("%Y-%m-%d")
            last = {"day": day, "rig": last["rig"], "evidence": last["evidence"]}
        rows.append({k: row[k] for k in ("name", "level", "times")} | {"last": last})
    return pressed(
        "skills",
        sheet={"title": "Skills record"},
        paper_size=PAPER_SIZES[system],
        name=found["name"],
        school=school,
        rows=rows,
    )


def session_pdf(seen: dict[str, Any]) -> bytes:
    """PDF bytes of a lab session to be filled in by hand; ``seen`` is what its student may see."""
    keys = ("id", "title", "people", "rig", "card", "ticks", "phases", "questions", "proofs", "countersign")
    return pressed(
        "labsheet",
        sheet={"title": "Lab sheet"},
        paper_size=PAPER_SIZES[seen["card"]["units"]],
        **{k: seen[k] for k in keys},
    )
