"""`python -m bench.gather [--rows N] [--rounds N] [--only WORD] [--no-script]`: steps that see all rows.

Each case in memory, then with an eighth of the extract's size of memory for its rows, and as a script on a dataframe
library, which the extra `bench` installs.
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path

from bench.clean import floor, show
from bench.firings import firings, kilns
from bench.processes import DATA, measure, program

HERE = Path(__file__).parent
CASES = ("few", "many", "sort", "dedupe", "fill", "pivot", "columns", "lookup")
"""Each with a recipe NAME.mangler."""
ALL_AT_ONCE = ("lookup",)
"""Cases whose rows are not gathered."""
SHARE = 8


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=5_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    parser.add_argument("--only", default="", help="only cases that hold this word")
    parser.add_argument("--no-script", action="store_true", help="leave the slow scripts out")
    asked = parser.parse_args()
    extract = firings(asked.rows)
    kilns()
    size = extract.stat().st_size
    cases = [case for case in CASES if asked.only in case]
    commands: dict[str, Sequence[str]] = {"floor": floor(extract)}
    for case in cases:
        commands[case] = mangler(case, extract)
        if case not in ALL_AT_ONCE:
            commands[f"{case} in files"] = [*mangler(case, extract), "--memory", f"{size // SHARE}B"]
        if not asked.no_script:
            commands[f"{case} by script"] = script(case, extract)
    measured = measure(commands, asked.rounds)
    print(f"{asked.rows:,} rows, {size / 1e6:.0f} MB, medians of {asked.rounds} rounds;")
    print(f"in files: with {size / SHARE / 1e6:.0f} MB of memory for the rows")
    for name, one in measured.items():
        show(f"{name:17}", one, measured["floor"])
    for case in cases:
        mine = measured[case]
        messages = []
        if f"{case} by script" in measured:
            other = measured[f"{case} by script"]
            messages.append(
                f"{other.seconds / mine.seconds:.1f} times as fast as the script,"
                f" at {mine.memory / other.memory:.2f} of its memory"
            )
        if f"{case} in files" in measured:
            messages.append(
                f"{measured[f'{case} in files'].seconds / mine.seconds:.2f} times as long in files"
            )
        print(f"{case}: {'; '.join(messages)}")


def mangler(case: str, extract: Path) -> list[str]:
    recipe = str(HERE / f"{case}.mangler")
    return [program("mangler"), "run", recipe, str(extract), "--to", str(DATA / "mangler.csv"), "--quiet"]


def script(case: str, extract: Path) -> list[str]:
    return [sys.executable, str(HERE / "frame.py"), case, str(extract), str(DATA / "script.csv")]


if __name__ == "__main__":
    main()
