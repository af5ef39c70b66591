"""What somebody can do at a rig, by what their sessions show: shown, with help, alone. Common practice, no source."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from wolfsbane.exercise.lab.events import Session
    from wolfsbane.exercise.marking.credit import Mark

#: how far somebody is: it was shown to them, they did it with help, they did it alone
LEVELS = ("shown", "helped", "alone")
LEVEL_WORDS = {"shown": "Shown", "helped": "With help", "alone": "Alone"}
SKILLS = {
    "hook_up": "Hook up and purge",
    "zero": "Zero the gauges",
    "read": "Read gauges and thermometers",
    "convert": "Convert pressure to saturation temperature",
    "superheat": "Work out superheat",
    "subcooling": "Work out subcooling",
    "diagnose": "Name what is wrong",
    "charge": "Charge by weight",
    "recover": "Recover into a cylinder",
    "evacuate": "Evacuate",
    "leak_check": "Check for leaks",
    "prove": "Prove the work",
}
#: skill -> the phase in which it is done: help asked for there counts against doing it alone
_PHASE = {
    "hook_up": "hook_up",
    "zero": "hook_up",
    "read": "measure",
    "convert": "work_out",
    "superheat": "work_out",
    "subcooling": "work_out",
    "diagnose": "plan",
    "charge": "act",
    "recover": "act",
    "leak_check": "close",
    "prove": "prove",
}
#: skill -> questions that show it, all of which have to be right
_QUESTIONS = {
    "convert": ("suction_saturation", "liquid_saturation"),
    "superheat": ("superheat", "evaporator_superheat"),
    "subcooling": ("subcooling",),
    "diagnose": ("fault",),
}
_TICKS = {"hook_up": ("ports", "purged"), "zero": ("zeroed",), "leak_check": ("leak_checked",)}


@dataclass(frozen=True, kw_only=True)
class Shown:
    """One skill as one session showed it: its ``level`` and what it was seen by, in words."""

    skill: str
    level: str
    evidence: str


def shown_in(session: Session, marks: Sequence[Mark], moved: Mapping[str, bool], proved: bool) -> tuple[Shown, ...]:
    """What a session showed of its students' skills. ``moved`` is charge and recover -> whether weights agreed;
    ``proved`` whether the result held. What was done wrong shows nothing; what the instructor says stands over it.
    """
    found: dict[str, Shown] = {}
    by = {m.question: m for m in marks}

    def did(skill: str, evidence: str) -> None:
        level = "helped" if session.helped_in((_PHASE[skill],)) else "alone"
        found[skill] = Shown(skill=skill, level=level, evidence=evidence)

    for skill, ticks in _TICKS.items():
        if all(t in session.ticks for t in ticks):
            did(skill, "ticked in the session")
    if any(m.code == "lab_gauges_off" for m in marks):
        found.pop("zero", None)
    read = [m for q, m in by.items() if q.startswith("read_")]
    good = [m for m in read if m.points and m.earned == m.points]
    if read and 4 * len(good) >= 3 * len(read):
        did("read", f"{len(good)} of {len(read)} readings right")
    for skill, questions in _QUESTIONS.items():
        asked = [by[q] for q in questions if q in by and by[q].points]
        if asked and all(m.earned == m.points for m in asked):
            did(skill, "right in the session")
    for skill in ("charge", "recover"):
        if moved.get(skill):
            did(skill, "weights of cylinder and log agree")
    if proved:
        did("prove", "figures in their bands after settling")
    for skill, said in session.skills.items():
        found[skill] = Shown(skill=skill, level=said["level"], evidence=said["why"] or "seen by the instructor")
    return tuple(found[s] for s in SKILLS if s in found)


def over_term(rows: Sequence[dict[str, Any]]) -> list[dict[str, Any]]:
    """A record over many sessions: for each skill the best level that was shown, how often, and every piece of evidence
    (rows of {skill, level, evidence, session, at, rig}), oldest first.
    """
    found = []
    for skill, name in SKILLS.items():
        own = [r for r in rows if r["skill"] == skill]
        best = max((LEVELS.index(r["level"]) for r in own), default=-1)
        found.append(
            {
                "skill": skill,
                "name": name,
                "level": "" if best < 0 else LEVELS[best],
                "level_text": "" if best < 0 else LEVEL_WORDS[LEVELS[best]],
                "times": len(own),
                "evidence": [{k: r[k] for k in ("level", "evidence", "session_id", "at", "rig")} for r in own],
            }
        )
    return found
