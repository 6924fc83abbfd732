"""`python -m bench.window [--rows N] [--rounds N] [--only WORD] [--no-script]`: what rows ask of their groups.

Each case over 1,000 groups and over a fifth as many groups as rows, compared with a sort by the same columns, and as
a script on a dataframe library, which the extra `bench` installs.
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path

from bench.clean import floor, show
from bench.firings import firings
from bench.processes import DATA, measure, program

HERE = Path(__file__).parent
GROUPS = {"few": "studio", "many": "piece"}
CASES = {
    "share": "make share = made / sum(made) within {key}",
    "running": "make so_far = running(sum(made)) within {key} sorted by fired_on",
    "previous": "make before = previous(made) within {key} sorted by fired_on",
    "rank": "make place = rank() within {key} sorted by fired_on",
}
SORT = "sort by {key}, fired_on"


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=5_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    parser.add_argument("--only", default="", help="only cases that hold this word")
    parser.add_argument("--no-script", action="store_true", help="leave the slow scripts out")
    asked = parser.parse_args()
    extract = firings(asked.rows)
    cases = [f"{case} {size}" for size in GROUPS for case in CASES if asked.only in f"{case} {size}"]
    commands: dict[str, Sequence[str]] = {"floor": floor(extract)}
    for size in GROUPS:
        commands[f"sort {size}"] = mangler("sort", size, extract)
    for name in cases:
        case, size = name.split()
        commands[name] = mangler(case, size, extract)
        if not asked.no_script:
            commands[f"{name} by script"] = script(case, size, extract)
    measured = measure(commands, asked.rounds)
    print(f"{asked.rows:,} rows, {extract.stat().st_size / 1e6:.0f} MB, medians of {asked.rounds} rounds")
    for name, one in measured.items():
        show(f"{name:23}", one, measured["floor"])
    for name in cases:
        mine, sort = measured[name], measured[f"sort {name.split()[1]}"]
        messages = [f"{mine.seconds / sort.seconds:.2f} times as long as the sort"]
        if f"{name} by script" in measured:
            other = measured[f"{name} by script"]
            messages.append(f"{other.seconds / mine.seconds:.1f} times as fast as the script")
        print(f"{name}: {'; '.join(messages)}")


def mangler(case: str, size: str, extract: Path) -> list[str]:
    step = (CASES | {"sort": SORT})[case].format(key=GROUPS[size])
    recipe = DATA / f"window-{case}-{size}.mangler"
    recipe.write_text(f'mangler 1\nread delimiter ";"\nconvert made to integer\n{step}\n')
    return [
        program("mangler"),
        "run",
        str(recipe),
        str(extract),
        "--to",
        str(DATA / "mangler.csv"),
        "--quiet",
    ]


def script(case: str, size: str, extract: Path) -> list[str]:
    return [
        sys.executable,
        str(HERE / "frame.py"),
        case,
        GROUPS[size],
        str(extract),
        str(DATA / "script.csv"),
    ]


if __name__ == "__main__":
    main()
