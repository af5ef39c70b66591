"""The tables of docs/lab-sessions.md: worked lab sessions with what each is marked, and why. ``make labs`` writes them.

Every number comes from playing the sessions on the stepped machine; the same seeds give the same page.
"""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from wolfsbane.cycle.units import KG_PER_OZ
from wolfsbane.exercise.lab.marks import LINES, PART_NAMES, total_of
from wolfsbane.exercise.lab.worked import WORKED

if TYPE_CHECKING:
    from collections.abc import Callable

    from wolfsbane.exercise.lab.judging import Judged
    from wolfsbane.exercise.lab.scripted import Lab

PAGE = Path(__file__).resolve().parents[3] / "docs" / "lab-sessions.md"
BEGIN, END = "<!-- measured: begin -->\n", "<!-- measured: end -->\n"


def _played(name: str) -> tuple[Lab, Judged]:
    lab = WORKED[name]()
    return lab, lab.judged()


def report(played: Callable[[str], tuple[Lab, Judged]] = _played) -> str:
    """Markdown of the rubric and of every worked session; ``played`` gives (lab, how it is judged) by name."""
    text = ["| part | what earns what |", "|---|---|", *(f"| {name} | {told} |" for name, told in LINES), ""]
    names = list(PART_NAMES)
    text.append("| session | " + " | ".join(PART_NAMES[n].lower() for n in names) + " | in all |")
    text.append("|---" * (len(names) + 2) + "|")
    below = []
    for story, made in WORKED.items():
        lab, judged = played(story)
        cells = {p.part: f"{p.earned} of {p.points}" for p in judged.parts}
        earned, possible = total_of(list(judged.parts))
        row = " | ".join(cells.get(n, "–") for n in names)
        text.append(f"| **{story}** | {row} | **{earned} of {possible}** |")
        below += [f"**{story}.** {(made.__doc__ or '').strip()}", *_why(lab, judged), ""]
    return "\n".join([*text, "", *below]).rstrip() + "\n"


def _why(lab: Lab, judged: Judged) -> list[str]:
    lines = [f"- {w}" for f in lab.foreseen for w in f.warnings]
    lines = [f"{line} (said at the sign-off)" for line in lines]
    for part in judged.parts:
        for reason in dict.fromkeys(part.reasons):
            lines.append(f"- {part.name}: {reason}")
    out = judged.outcome
    if out is not None and out.missing_kg is not None and out.moved_kg is not None:
        missing, moved = (f"{kg / KG_PER_OZ:.1f} oz" for kg in (out.missing_kg, out.moved_kg))
        lines.append(f"- The scale saw {moved} go in; {missing} were missing.")
    return ["", *lines] if lines else []


def main() -> None:
    """Write the tables between its marks."""
    text = PAGE.read_text()
    begin, end = text.index(BEGIN) + len(BEGIN), text.index(END)
    PAGE.write_text(text[:begin] + report() + text[end:])


if __name__ == "__main__":
    main()
