"""Write docs/fairness.md from the four tables of ``wolfsbane audit``: ``make fairness``.

The figures before, further up on the page, are those of the commit before the proof was rewritten.
"""

import sys
from pathlib import Path

from wolfsbane.devtools.audit import audit

PAGE = Path(__file__).resolve().parents[1] / "docs" / "fairness.md"
BEGIN, END = "<!-- measured: begin -->\n", "<!-- measured: end -->\n"
#: table -> calls, or classes for copying
COUNTS = {"proof": 90, "technician": 150, "levels": 150, "copying": 4}


def percent(share):
    """A share as whole per cent."""
    return f"{100 * share:.0f} %"


def table(title, *columns):
    """A title and the head of a table."""
    return f"\n### {title}\n\n| {' | '.join(columns)} |\n|{'---|' * len(columns)}\n"


def line(*cells):
    """A row of a table."""
    return f"| {' | '.join(map(str, cells))} |\n"


def proof_part(found):
    """Counterexamples to what is claimed."""
    text = table("Is it the only answer?", "", "claim", "stated", "not stated", "counterexamples found")
    for name, part in found.items():
        for claim, row in part["claims"].items():
            counts = (row.get(key, 0) for key in ("stated", "not_stated", "counterexamples"))
            text += line(name, claim, *counts)
    for part in found.values():
        for row in part["counterexamples"]:
            hidden = "+".join(row["hidden"]) or "none"
            text += f"\nseed {row['seed']}, {hidden}, {row['claim']}: {'; '.join(row['against'])}\n"
    return text


def technician_part(found):
    """Keys that are reached from the page."""
    text = table(
        "Can it be reached from the page?", "level", "calls", "named by card and rules, a shop's round numbers"
    )
    for level, row in found["levels"].items():
        text += line(level, row["calls"], percent(row["named"]))
    return text + line("all", found["calls"], percent(found["named"]))


def level_part(found):
    """Stated level against what other apprentices find."""
    text = table("Is it as hard as said?", "level", "calls", "predicted", "found", "found without looks")
    for level, row in found["levels"].items():
        shares = (f"{row[key]:.2f}" for key in ("predicted", "found", "found_without_looks"))
        text += line(level, row["calls"], *shares)
    return text + (
        f"\nRank correlation of the stated level with what others find: {found['rank_all']:.2f} over all calls,"
        f" {found['rank_single']:.2f} among single faults, {found['rank_single_by_patterns']:.2f} among single faults"
        " with somebody who knows no rule and goes by solved verdicts.\n"
    )


def copying_part(found):
    """What copying and being told are worth, and how equal variants are."""
    copied, equal = found["copying"], found["equal"]
    rows = (
        ("neighbors with the same fault at the same place", percent(copied["same_fault_beside"])),
        ("a neighbor's right answers, word for word", percent(copied["neighbor_verbatim"])),
        ("the fault told by name, no numbers", percent(copied["told_by_name"])),
        ("fault named from complaint, history and looks alone", percent(copied["named_by_words"])),
        ("variance of predicted success within a rung, of that between rungs", percent(equal["share"])),
        ("widest rung, from its easiest to its hardest variant", f"{equal['widest_rung']:.2f}"),
    )
    calls = f"{copied['calls']} calls of {COUNTS['copying']} classes"
    return table("Can it be had without reading?", calls, "") + "".join(line(*row) for row in rows)


def main():
    """Measure, and write the page's measured part table by table: what is measured stays where a later one fails."""
    seed = int(sys.argv[1]) if len(sys.argv) > 1 else 1
    parts = {"proof": proof_part, "technician": technician_part, "levels": level_part, "copying": copying_part}
    text = f"Seed {seed}; `wolfsbane audit TABLE --seed {seed} --count N` gives each table again.\n\n"
    for name, part in parts.items():
        text += part(audit(name, seed, COUNTS[name]))
        page = PAGE.read_text()
        PAGE.write_text(page[: page.index(BEGIN) + len(BEGIN)] + text + page[page.index(END) :])


if __name__ == "__main__":
    main()
