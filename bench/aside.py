"""`python -m bench.aside [--rows N] [--rounds N]`: what rows set aside and rows that fail cost, compared with none.

Half of the rows do not fit, each time for another reason. The same rows without faults are the measure.
"""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path

from bench.processes import DATA, measure, program

EVERY = 50_000
"""Rows of the made-up part that is repeated."""
RECIPES = {
    "none": "trim *\nconvert peak_c to integer failures aside",
    "too many fields": "trim *\nconvert peak_c to integer failures aside",
    "set aside": 'trim *\nset aside rows where peak_c is not integer because "no temperature"',
    "failures aside": "trim *\nconvert peak_c to integer failures aside",
    "failures null": "trim *\nconvert peak_c to integer failures null",
    "no such product": "make square = decimal(peak_c) * decimal(peak_c) failures null",
}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=2_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    asked = parser.parse_args()
    commands: dict[str, Sequence[str]] = {}
    for name, steps in RECIPES.items():
        span = DATA / f"aside-{name.replace(' ', '-')}"
        span.mkdir(parents=True, exist_ok=True)
        (span / "r.mangler").write_text(f'mangler 1\nread delimiter ";"\n{steps}\n')
        extract = sample(span, name, asked.rows)
        to = ["--to", str(span / "clean.csv"), "--quiet"]
        commands[name] = [program("mangler"), "run", str(span / "r.mangler"), str(extract), *to]
    measured = measure(commands, asked.rounds)
    base = measured["none"]
    print(f"{asked.rows:,} rows, medians of {asked.rounds} rounds")
    for name, one in measured.items():
        print(
            f"{name:16} {one.seconds:6.2f} s = {one.seconds / base.seconds:5.2f} times none"
            f"   peak {one.memory / 1e6:5.0f} MB, {(one.memory - base.memory) / 1e6:+5.0f} MB"
        )


def sample(span: Path, name: str, rows: int) -> Path:
    """An extract in which every second row is at fault as the name says; made once and kept."""
    extract = span / f"{rows}.csv"
    if extract.exists():
        return extract
    odd = {"none": "1222", "too many fields": "1222;see above", "no such product": "123456789.123456789"}
    with extract.open("w") as out:
        out.write("kiln;studio;peak_c\n")
        for start in range(0, rows, EVERY):
            lines = []
            for row in range(start, min(start + EVERY, rows)):
                last = odd.get(name, f"tbc {row % 97}") if row % 2 else str(900 + row % 400)
                lines.append(f"{row:07};Clay Works;{last}\n")
            out.writelines(lines)
    return extract


if __name__ == "__main__":
    main()
