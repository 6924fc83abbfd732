"""`python -m bench.split [--rows N] [--rounds N] [--only WORD]`: cells into columns and rows, against a script."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path

from bench.clean import floor, mangler, sample, show, ten_times
from bench.processes import DATA, measure, run

CASES = ("list", "name", "pairs")
"""The cases of split_script.py, each with a recipe split_NAME.mangler."""


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=2_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    parser.add_argument("--only", default="", help="only cases that hold this word")
    parser.add_argument("--no-script", action="store_true", help="leave the slow script out")
    parser.add_argument("--larger", action="store_true", help="also ten times the rows")
    asked = parser.parse_args()
    extract = sample(asked.rows)
    cases = [case for case in CASES if asked.only in case]
    commands: dict[str, Sequence[str]] = {"floor": floor(extract)}
    for case in cases:
        commands[case] = mangler(extract, f"split_{case}")
        if not asked.no_script:
            commands[f"script {case}"] = script(case, extract)
    measured = measure(commands, asked.rounds)
    print(f"{asked.rows:,} rows, {extract.stat().st_size / 1e6:.0f} MB, medians of {asked.rounds} rounds")
    for name, one in measured.items():
        show(f"{name:12}", one, measured["floor"])
    for case in cases:
        if not asked.no_script:
            times = measured[f"script {case}"].seconds / measured[case].seconds
            print(f"{case}: {times:.1f} times as fast as the script")
        if asked.larger:
            large = run(mangler(ten_times(extract), f"split_{case}"))
            times = large.seconds / measured[case].seconds
            print(
                f"{case}, ten times the rows: {times:.1f} times the seconds, peak {large.memory / 1e6:.0f} MB"
            )


def script(case: str, extract: Path) -> list[str]:
    path = str(Path(__file__).with_name("split_script.py"))
    return [sys.executable, path, case, str(extract), str(DATA / "script.csv")]


if __name__ == "__main__":
    main()
