"""Twelve worked ways through calls on screen, with their marks beside each, into docs/screen-paths.md."""

from pathlib import Path

from wolfsbane.exercise.screen import expert
from wolfsbane.exercise.screen.marks import PART_NAMES
from wolfsbane.exercise.screen.worked import WORKED, issued, walked

DOC = Path(__file__).parents[1] / "docs" / "screen-paths.md"
HEAD = """# Twelve ways through a call on screen

Every way below was walked on the stepped machine by `make paths`; readings, minutes and marks are what came out. *Sure*
is how much of the diagnosis' belief stood on the right answer after a step. How marks are given:
[marking.md](marking.md).
"""


def main() -> None:
    lines = [HEAD]
    for number, (name, way) in enumerate(WORKED.items(), 1):
        issue = issued(way)
        marks, path, minutes = walked(issue, way)
        shown = path.live.shown
        named = next((n for n, s in enumerate(path.steps) if s.kind == "name"), len(path.steps))
        before = sum(1 for s in path.steps[:named] if s.shown is not None)
        lines += [
            f"## {number}. {name}: {marks.earned} of {marks.possible}",
            "",
            f"{way.story} {issue.machine.name}, {issue.call.machine.refrigerant}; "
            f"hidden: {issue.call.key.fault_name.lower()}. Until it was named: "
            f"{sum(s.minutes for s in shown[:before]):.0f} min, an expert {minutes:.0f} min.",
            "",
            "| part | earned | why |",
            "|---|---|---|",
            *(f"| {PART_NAMES[p.part]} | {p.earned} of {p.points} | {' '.join(p.reasons)} |" for p in marks.parts),
            *([f"| Taken off | −{marks.off} | {' '.join(marks.off_for)} |"] if marks.off else []),
            "",
            "| min | step | showed | sure |",
            "|---|---|---|---|",
        ]
        for n, told in enumerate(expert.told(issue.setup, issue.practice, issue.accepted, shown)):
            sure = f"{100 * told.after:.0f} %" if n < before else ""
            lines.append(f"| {told.minutes:.0f} | {told.text} | {told.showed.replace('|', '/')} | {sure} |")
            if n == before - 1:
                lines.append("| | **Named** | | |")
        lines.append("")
        print(name, marks.earned, flush=True)
    DOC.write_text("\n".join(lines))


if __name__ == "__main__":
    main()
