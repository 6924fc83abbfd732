"""`python -m bench.gather [--rows N] [--rounds N] [--only WORD]`: steps that see all rows, in memory and beyond it."""

from __future__ import annotations

import argparse
from collections.abc import Sequence

from bench.clean import floor, mangler, sample, show
from bench.processes import measure

CASES = ("sort", "dedupe", "fill")
"""Each with a recipe gather_NAME.mangler."""
SHARE = 8
"""The memory that is given beyond which rows go to files: this part of the extract's size."""


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=2_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    parser.add_argument("--only", default="", help="only cases that hold this word")
    asked = parser.parse_args()
    extract = sample(asked.rows)
    size = extract.stat().st_size
    cases = [case for case in CASES if asked.only in case]
    commands: dict[str, Sequence[str]] = {"floor": floor(extract)}
    for case in cases:
        commands[case] = mangler(extract, f"gather_{case}")
        commands[f"{case} in files"] = [*mangler(extract, f"gather_{case}"), "--memory", f"{size // SHARE}B"]
    measured = measure(commands, asked.rounds)
    print(f"{asked.rows:,} rows, {size / 1e6:.0f} MB, medians of {asked.rounds} rounds;")
    print(f"in files: with {size / SHARE / 1e6:.0f} MB of memory for the rows")
    for name, one in measured.items():
        show(f"{name:15}", one, measured["floor"])
    for case in cases:
        times = measured[f"{case} in files"].seconds / measured[case].seconds
        print(f"{case}: {times:.2f} times as long in files")


if __name__ == "__main__":
    main()
