"""How a class set grows: time to draw and prove it, time to press packet and key, and memory, for more and more calls.

``make growth``. Each size has a process of its own, so that memory is its own too; one process draws, as a machine with
one core would. Linear is where the seconds a call stay level.
"""

import json
import resource
import subprocess
import sys
import time

from wolfsbane.exercise.draw.generator import variant
from wolfsbane.exercise.draw.planning import plan
from wolfsbane.exercise.plan.brief import brief
from wolfsbane.server.printing.merge import merged, page_count
from wolfsbane.server.printing.paper import key_pdf, packet_pdf

#: calls of a set, five on a paper
SIZES = (5, 20, 80, 320)
_ON_A_PAPER = 5
#: papers pressed in one go
_AT_ONCE = 6
SHEET = {
    "title": "Growth",
    "class_name": "A class",
    "units": "us",
    "solver_version": "",
    "rubric_version": "",
    "seed": 1,
}


def memory_mb():
    """The most memory this process has had, MB."""
    return round(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)


def pressed(printer, papers):
    """A document pressed some papers at a time and joined."""
    sheet = SHEET | {"table_hash": "0" * 64}
    return merged([printer(sheet, papers[i : i + _AT_ONCE]) for i in range(0, len(papers), _AT_ONCE)])


def measured(calls):
    """{calls, plan_s, draw_s, packet_s, key_s, pages, drawn_mb, pressed_mb} of one set."""
    made = brief({"title": "Growth", "calls": _ON_A_PAPER, "levels": [1, 4], "seed": 3, "apprentices": 24})
    start = time.perf_counter()
    ladder = plan(made)
    planned = time.perf_counter()
    papers = [
        {
            "name": f"Apprentice {number}",
            "code": f"A{number:05d}",
            "calls": [variant(made, rung, number) for rung in ladder],
        }
        for number in range(1, calls // _ON_A_PAPER + 1)
    ]
    drawn, drawn_mb = time.perf_counter(), memory_mb()
    packet = pressed(packet_pdf, papers)
    packed = time.perf_counter()
    pressed(key_pdf, papers)
    return {
        "calls": calls,
        "plan_s": round(planned - start, 2),
        "draw_s": round(drawn - planned, 2),
        "packet_s": round(packed - drawn, 2),
        "key_s": round(time.perf_counter() - packed, 2),
        "pages": page_count(packet),
        "packet_mb": round(len(packet) / 1e6, 2),
        "drawn_mb": drawn_mb,
        "pressed_mb": memory_mb(),
    }


def main():
    """Measure each size in a fresh process and print a table."""
    print(
        "| calls | plan, s | drawn and proved, s | per call, s | pages | packet, s | key, s | MB drawn | MB pressed |"
    )
    print("|---|---|---|---|---|---|---|---|---|")
    for size in SIZES:
        done = subprocess.run([sys.executable, __file__, str(size)], check=True, capture_output=True, text=True)
        row = json.loads(done.stdout)
        cells = (
            *(row[key] for key in ("calls", "plan_s", "draw_s")),
            round(row["draw_s"] / size, 2),
            *(row[key] for key in ("pages", "packet_s", "key_s", "drawn_mb", "pressed_mb")),
        )
        print(f"| {' | '.join(map(str, cells))} |", flush=True)


if __name__ == "__main__":
    if len(sys.argv) > 1:
        print(json.dumps(measured(int(sys.argv[1]))))
    else:
        main()
