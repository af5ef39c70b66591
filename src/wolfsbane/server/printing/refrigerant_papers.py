"""The refrigerant log and the labels of cylinders as PDF."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any
from zoneinfo import ZoneInfo

from wolfsbane.server.printing.paper import PAPER_SIZES, qr_svg
from wolfsbane.server.printing.press import pressed

_KINDS = ("received", "charge", "recover", "transfer", "returned", "lost")


def log_pdf(reply: dict[str, Any], school: str, first: date, last: date, system: str, zone: str) -> bytes:
    """PDF bytes of a log as the screen shows it: moves oldest first, balances, what is in each cylinder."""
    rows = [
        {**row, "time": datetime.fromisoformat(row["at"]).astimezone(ZoneInfo(zone)).strftime("%Y-%m-%d %H:%M")}
        for row in reversed(reply["moves"])
    ]
    return pressed(
        "refrigerant",
        sheet={"title": "Refrigerant log"},
        paper_size=PAPER_SIZES[system],
        school=school,
        days=first.isoformat() if first == last else f"{first.isoformat()} to {last.isoformat()}",
        moves=rows,
        balances=[
            {"title": title, "rows": reply[key]}
            for title, key in (("refrigerant", "by_refrigerant"), ("cylinder", "by_cylinder"), ("rig", "by_rig"))
        ],
        kinds=list(_KINDS),
        cylinders=reply["cylinders"],
        no_advice=reply["no_advice"],
    )


def labels_pdf(shelf: list[dict[str, Any]], system: str) -> bytes:
    """PDF bytes of a label for every cylinder, eight to a page."""
    rows = [{**row, "qr": qr_svg(f"CYLINDER {row['id']} {row['name']}")} for row in shelf]
    return pressed("labels", sheet={"title": "Cylinder labels"}, paper_size=PAPER_SIZES[system], cylinders=rows)
