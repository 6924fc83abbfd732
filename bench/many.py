"""`python -m bench.many [--rows N] [--rounds N]`: several extracts in one command, by one process, two, or together."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path

from bench.clean import show
from bench.processes import DATA, measure, program
from mangler.sample.generate import SampleExtract, write_extract


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=300_000)
    parser.add_argument("--rounds", type=int, default=3)
    asked = parser.parse_args()
    for count, rows in ((6, asked.rows), (40, 60)):
        folder = extracts(count, rows)
        plain = (
            program("mangler"), "run", str(Path(__file__).with_name("clean.mangler")), str(folder), "--quiet", "--to"
        )  # fmt: skip
        commands: dict[str, Sequence[str]] = {
            "one": (*plain, f"{DATA}/many-clean/"),
            "two": (*plain, f"{DATA}/many-clean/", "--workers", "2"),
            "together": (*plain, f"{DATA}/many.csv", "--together"),
        }
        measured = measure(commands, asked.rounds)
        print(f"{count} extracts of {rows:,} rows, medians of {asked.rounds} rounds")
        for name, one in measured.items():
            show(name, one, measured["one"], "times one process")


def extracts(count: int, rows: int) -> Path:
    """A folder of extracts; made once and kept."""
    folder = DATA / f"many-{count}-{rows}"
    if not folder.exists():
        unfinished = folder.with_suffix(".part")
        unfinished.mkdir(parents=True)
        for week in range(1, count + 1):
            extract = SampleExtract(f"clayworks-week-{week}.csv", "clayworks", week)
            write_extract(unfinished / extract.file, extract, rows)
        unfinished.rename(folder)
    return folder


if __name__ == "__main__":
    main()
