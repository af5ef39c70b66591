"""Write what is known beforehand: what two faults do to one another on our machines, and the chart that plans are
chosen from. ``make chart``, after the solver or the variants have changed.
"""

import json
import multiprocessing
import os
import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.diagnosis import crossings
from wolfsbane.diagnosis.solved_cases import chart_of_crossings
from wolfsbane.exercise.draw import charted

PAGE = Path(charted.__file__).with_name(charted.FILE)
CROSSINGS = Path(crossings.__file__).with_name(crossings.FILE)


def main():
    """Draw and prove on all cores, and write one row a line."""
    context = multiprocessing.get_context("spawn")
    with ProcessPoolExecutor(os.cpu_count(), mp_context=context) as pool:
        rows = {key: row for part in pool.map(chart_of_crossings, MACHINES.values()) for key, row in part.items()}
    np.savez_compressed(CROSSINGS, **crossings.packed(rows))
    print(f"{len(rows)} crossings", file=sys.stderr)
    with ProcessPoolExecutor(os.cpu_count(), mp_context=context) as pool:
        found = charted.chart(lambda work, items: _told(pool.map(work, items), len(items)))
    rows = ",\n".join(json.dumps(row, separators=(",", ":")) for row in found["rows"])
    PAGE.write_text(f'{{"made_with":{json.dumps(found["made_with"])},"rows":[\n{rows}\n]}}\n')


def _told(rows, count):
    for number, row in enumerate(rows, 1):
        print(f"{number}/{count} {row['machine']} {row['skill']}: {len(row['calls'])}", file=sys.stderr, flush=True)
        yield row


if __name__ == "__main__":
    main()
