"""`python -m bench.drift [--rows N …] [--held-out]`: false alarms on ordinary weeks, and planted changes found.

Each process has 20 ordinary weeks. A change counts as found where the first finding has its cause and its column, and
no finding is about anything else. Run it from the root of the repository.
"""

from __future__ import annotations

import argparse
from collections import Counter
from collections.abc import Mapping, Sequence
from random import Random

import numpy as np
import pyarrow as pa

from bench.drift.planted import PLANTED, Planted
from bench.drift.processes import PROCESSES, Process, Table
from mangler.insight.fingerprint.change import Drift
from mangler.insight.fingerprint.drift import drift_of
from mangler.insight.fingerprint.fingerprint import Fingerprint
from mangler.insight.fingerprint.fingerprint_taking import FingerprintTaker
from mangler.table.batch import Batch, NoOrigin

WEEKS = 22
"""The first two are only compared with."""
MOST_RUNS = 5
"""Earlier runs that an extract is compared with."""
FILE = {"delimiter": ";", "encoding": "UTF-8", "quoting": "where needed"}


def taken(table: Table, details: Mapping[str, str] = FILE) -> Fingerprint:
    """The fingerprint of a week."""
    taker = FingerprintTaker()
    taker.begin(list(table), details)
    columns = tuple(pa.array(cells, pa.string()) for cells in table.values())
    rows = np.arange(1, len(columns[0]) + 1, dtype=np.int64)
    taker.collect(taker.observe(Batch(columns, rows, NoOrigin())))
    taker.end()
    assert taker.fingerprint is not None
    return taken_down(taker.fingerprint)


def taken_down(fingerprint: Fingerprint) -> Fingerprint:
    """As a history gives it back."""
    return Fingerprint.of_json(fingerprint.to_json())


def planted_week(process: Process, week: int, rows: int, planted: Planted) -> Fingerprint:
    table = process.week(week, rows)
    changed = planted.change(table, process, Random(f"{process.name} {planted.name} {rows}"))
    return taken(changed if changed is not None else table, {**FILE, **planted.details})


def is_found(found: Sequence[Drift], planted: Planted, process: Process) -> bool:
    """Whether the change is the one finding, with the right cause."""
    causes = planted.cause if isinstance(planted.cause, tuple) else (planted.cause,)
    if len(found) != 1 or found[0].change not in causes:
        return False
    column = planted.column(process)
    return not column or column in found[0].columns


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, nargs="*", default=[100, 1_000, 10_000])
    parser.add_argument("--held-out", action="store_true", help="only the process that was not looked at")
    asked = parser.parse_args()
    processes = PROCESSES[-1:] if asked.held_out else PROCESSES[:-1]
    alarms, weeks, hits, misses = 0, 0, Counter[int](), 0
    for rows in asked.rows:
        for process in processes:
            seen = [taken(process.week(week, rows)) for week in range(WEEKS)]
            for week in range(2, WEEKS):
                weeks += 1
                for drift in drift_of(seen[week], seen[max(0, week - MOST_RUNS) : week][::-1]):
                    alarms += 1
                    print(
                        f"  false alarm: {process.name}, {rows:,} rows, week {week}: {drift.change}: {drift.message}"
                    )
            for earlier in (2, MOST_RUNS):
                week = 10
                before = seen[week - earlier : week][::-1]
                for planted in PLANTED:
                    if process.name in planted.ordinary_in:
                        continue
                    found = drift_of(planted_week(process, week, rows, planted), before)
                    if is_found(found, planted, process):
                        hits[earlier] += 1
                        continue
                    misses += 1
                    told = " | ".join(f"{one.change}: {one.message}" for one in found) or "nothing"
                    print(f"  missed: {planted.name}, {process.name}, {rows:,} rows, {earlier} runs: {told}")
    print(f"{weeks} ordinary weeks: {alarms} false alarms")
    found_all = hits.total()
    print(
        f"{found_all + misses} changes: {found_all} found with their cause, {found_all / (found_all + misses):.1%}"
    )


if __name__ == "__main__":
    main()
