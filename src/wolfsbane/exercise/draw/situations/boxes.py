"""What the situations on walk-in boxes share: set points, the card of the controls, what they are at."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.acting.settings import setting_rows
from wolfsbane.cycle.conditions import for_machine
from wolfsbane.cycle.controls import controls_of
from wolfsbane.cycle.units import f_to_k
from wolfsbane.exercise.draw.situations.page import Page

if TYPE_CHECKING:
    from wolfsbane.acting.trace import Moment

#: what boxes are set to, degrees F (common practice, no source)
_FREEZER_F, _COOLER_F = (-6.0, 0.0), (35.0, 38.0)


def freezer(page: Page) -> bool:
    """Whether the box is a freezer."""
    return page.machine.application == "walk_in_freezer"


def met_in(page: Page, set_f: float, outdoor_f: float) -> None:
    """Puts the page's machine on a box at ``set_f`` with air of ``outdoor_f`` at the unit, degrees F."""
    page.conditions = for_machine(page.machine, outdoor_db_f=round(outdoor_f), box_f=set_f)


def set_point_f(page: Page) -> float:
    """What the thermostat is set to, drawn among whole degrees F."""
    return float(round(page.rng.uniform(*(_FREEZER_F if freezer(page) else _COOLER_F))))


def settings_card(page: Page, set_f: float, ids: tuple[str, ...]) -> list[tuple[str, str]]:
    """Rows (control, setting) of the card in the lid, of the controls with these ids."""
    rows = setting_rows(controls_of(page.machine, f_to_k(set_f)), page.system)
    return [(row["name"], row["text"]) for row in rows if row["id"] in ids]


def mode_of(m: Moment) -> str:
    """What the controls are at, at a moment of a box that lives."""
    assert m.keeper is not None, "lives"
    return m.keeper.mode
