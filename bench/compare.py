"""`python -m bench.compare [--rows N] [--rounds N]`: two tables that differ in 1% of their rows.

Against the floor of reading both: Arrow reads every column of the one and of the other as text. By a key that is named,
by one that is found, and by content and order; then against a table that is the same, and one in another order.
"""

from __future__ import annotations

import argparse
import random
import sys
from pathlib import Path

from bench.clean import show
from bench.processes import DATA, measure, program

EVERY = 100
"""One row of so many is changed."""
READ_BOTH = """
import sys
from bench.floor import main
for path in sys.argv[1:]:
    main(path)
"""


def tables(rows: int) -> dict[str, Path]:
    """A table with a key, the same with changes, and the same in another order."""
    paths = {name: DATA / f"compare-{rows}-{name}.csv" for name in ("before", "changed", "sorted")}
    if all(path.exists() for path in paths.values()):
        return paths
    chance = random.Random(5)
    lines = [_line(number, chance) for number in range(rows)]
    _write(paths["before"], lines)
    changed = list(lines)
    for number in range(0, rows, EVERY):
        cells = changed[number].split(",")
        cells[1 + number // EVERY % 6] += "x"
        changed[number] = ",".join(cells)
    _write(paths["changed"], [line for number, line in enumerate(changed) if number % (EVERY * 50) != 7])
    _write(paths["sorted"], sorted(lines, key=lambda line: line.split(",")[4]))
    return paths


def _line(number: int, chance: random.Random) -> str:
    words = ("celadon", "tenmoku", "shino", "ash", "cobalt")
    return ",".join(
        (
            f"F-{number:08}",
            f"{chance.randrange(60):03}",
            f"potter {chance.randrange(5000)}",
            f"{chance.choice((998, 1060, 1222, 1285))} °C",
            f"2026-{chance.randrange(1, 13):02}-{chance.randrange(1, 29):02} {chance.randrange(24):02}:15",
            "; ".join(chance.sample(words, 2)),
            f"batch {chance.randrange(10**6)} fired slowly, lid freed with a knife".replace(",", " and"),
        )
    )


def _write(path: Path, lines: list[str]) -> None:
    path.write_text("id,kiln,potter,peak,fired_at,glazes,notes\n" + "\n".join(lines) + "\n", encoding="utf-8")


def _compare(*words: str) -> list[str]:
    """That they differ, exit code 1, is no fault here."""
    return ["sh", "-c", '"$@" || test $? = 1', "sh", program("mangler"), "compare", *words, "--json"]


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=5_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    asked = parser.parse_args()
    paths = {name: str(path) for name, path in tables(asked.rows).items()}
    before, changed = paths["before"], paths["changed"]
    commands = {
        "read both": [sys.executable, "-c", READ_BOTH, before, changed],
        "by a key": _compare(before, changed, "--on", "id"),
        "key found": _compare(before, changed),
        "in order": _compare(before, changed, "--in-order"),
        "the same": _compare(before, before, "--on", "id"),
        "sorted": _compare(before, paths["sorted"], "--on", "id"),
    }
    measured = measure(commands, asked.rounds)
    print(f"{asked.rows:,} rows, medians of {asked.rounds} rounds")
    for name, one in measured.items():
        show(f"{name:12}", one, measured["read both"])


if __name__ == "__main__":
    main()
