"""`python -m bench.drift [--rows N …] [--held-out]`: false alarms on ordinary weeks, and planted changes found.

The processes are those of the tests; each has 20 ordinary weeks. A change counts as found where the first finding has
its cause and its column, and no finding is about anything else. Run it from the root of the repository.
"""

from __future__ import annotations

import argparse
from collections import Counter

from tests.insight.drift.measure import is_found, planted_week, taken
from tests.insight.drift.planted import PLANTED
from tests.insight.drift.processes import PROCESSES

from mangler.insight.fingerprint.drift import drift_of

WEEKS = 22
"""The first two are only compared with."""
MOST_RUNS = 5
"""Earlier runs that an extract is compared with."""


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
