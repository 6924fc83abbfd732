"""`python -m bench.profile [--rows N] [--rounds N]`: a profile of a large extract, against reading it."""

from __future__ import annotations

import argparse
import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path

from bench.clean import sample, show
from bench.processes import DATA, measure, program

NINE = "kiln, studio, potter, contacts, fired_at, peak_c, pieces, glazes, notes"


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=2_000_000)
    parser.add_argument("--rounds", type=int, default=5)
    asked = parser.parse_args()
    extract = nine_columns(asked.rows)
    commands: dict[str, Sequence[str]] = {
        "floor": (sys.executable, "-m", "bench.floor", str(extract)),
        "profile": (program("mangler"), "profile", str(extract)),
    }
    measured = measure(commands, asked.rounds)
    size = extract.stat().st_size / 1e6
    print(
        f"{asked.rows:,} rows of nine columns, {size:.0f} MB, medians of {asked.rounds} rounds; the floor only reads"
    )
    for name, one in measured.items():
        show(name, one, measured["floor"])


def nine_columns(rows: int) -> Path:
    """The sample's extract without three of its columns; made once and kept."""
    extract = DATA / f"nine-columns-{rows}.csv"
    if not extract.exists():
        recipe = DATA / "nine-columns.mangler"
        large = sample(rows)
        recipe.write_text(f'mangler 1 "Nine columns"\nread delimiter ";"\nkeep columns {NINE}\n')
        subprocess.run(
            [program("mangler"), "run", str(recipe), str(large), "--to", str(extract), "--quiet"], check=True
        )
    return extract


if __name__ == "__main__":
    main()
