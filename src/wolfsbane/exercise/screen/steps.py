"""What a student may do on screen, as steps. Some the machine answers, and they take its time; the rest is written
down. A run is what its steps add up to: none is changed or taken back.
"""

from __future__ import annotations

from typing import Any

from wolfsbane.acting.actions import ACTIONS
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.field_tests import FIELD_TESTS
from wolfsbane.cycle.field_tests.looks import TESTS as LOOKS
from wolfsbane.cycle.fields import Accept, at, fields_of, number, refuse, text, word
from wolfsbane.cycle.instruments import ALL_POINTS
from wolfsbane.exercise.paper.questions import QUESTIONS

LOOK_IDS = tuple(t.id for t in LOOKS)
TEST_IDS = tuple(t for t in FIELD_TESTS if t not in LOOK_IDS)
#: where a hose may go, and where on a pipe a clamp may sit
PORTS, SPOTS = ("suction", "liquid", "off"), ("clean", "painted", "sun", "off")
#: pipes a clamp fits on -> the reading it gives
PIPES = ("suction_line", "liquid_line", "discharge_line", "drier_in", "drier_out", "evaporator_outlet")
#: the longest one may wait at once, minutes
LONGEST_MIN = 120
_MOST_TEXT = 600


def _plain(value: Any) -> dict[str, Any]:
    if not isinstance(value, dict):
        raise refuse(value, "an object of arguments")
    return value


_ARGUMENTS = Accept(_plain, {"type": "object"})
#: steps that the machine answers, with their fields
MACHINE: dict[str, Accept] = {
    "plate": fields_of({}),
    "look": fields_of({"check": word(LOOK_IDS)}, required=("check",)),
    "zero": fields_of({}),
    "gauges": fields_of({"low": word(PORTS), "high": word(PORTS)}, required=("low", "high")),
    "clamp": fields_of({"pipe": word(PIPES), "spot": word(SPOTS)}, required=("pipe", "spot")),
    "read": fields_of({"point": word(tuple(ALL_POINTS))}, required=("point",)),
    "test": fields_of({"test": word(TEST_IDS)}, required=("test",)),
    "wait": fields_of({"minutes": number(1, LONGEST_MIN, "minutes")}, required=("minutes",)),
    "settle": fields_of({}),
    "act": fields_of({"action": word(tuple(ACTIONS)), "arguments": _ARGUMENTS}, required=("action",)),
}
#: steps that are written down
WRITTEN: dict[str, Accept] = {
    "answer": fields_of(
        {"question": word((*QUESTIONS, *(f"read_{p}" for p in ALL_POINTS))), "text": text(0, _MOST_TEXT)},
        required=("question", "text"),
    ),
    "name": fields_of({}),
    "hint": fields_of({}),
    "proof": fields_of({"point": word(tuple(ALL_POINTS)), "text": text(0, 40)}, required=("point", "text")),
    "ticket": fields_of({"text": text(0, _MOST_TEXT)}, required=("text",)),
    "finish": fields_of({}),
}
KINDS = MACHINE | WRITTEN


def checked(kind: str, data: Any) -> dict[str, Any]:
    """The data of a step, checked. Raises BadInputError naming what is wrong."""
    if kind not in KINDS:
        raise BadInputError("kind", kind, ", ".join(KINDS))
    found = dict(at(kind, KINDS[kind].check, data if data is not None else {}))
    if kind == "act":
        action = ACTIONS[found["action"]]
        found["arguments"] = dict(found.get("arguments") or {})
        action.arguments(found["arguments"])
    if kind == "gauges" and found["low"] == found["high"] != "off":
        raise BadInputError("gauges.high", found["high"], "another port than the low hose is on")
    return found
