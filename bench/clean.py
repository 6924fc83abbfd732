"""`python -m bench.clean [--rows N] [--rounds N]`: a recipe over a large extract, against floor and script."""

from __future__ import annotations

import argparse
import shutil
import sys
from collections.abc import Sequence
from pathlib import Path

from bench.processes import DATA, Measure, measure, program, run
from mangler.sample.generate import EXTRACTS, write_extract

TENTH = 10


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=2_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    parser.add_argument("--no-script", action="store_true", help="leave the slow script out")
    parser.add_argument("--larger", action="store_true", help="also ten times the rows")
    asked = parser.parse_args()
    extract = sample(asked.rows)
    commands: dict[str, Sequence[str]] = {"floor": floor(extract), "mangler": mangler(extract)}
    if not asked.no_script:
        commands["script"] = script(extract)
    measured = measure(commands, asked.rounds)
    print(f"{asked.rows:,} rows, {extract.stat().st_size / 1e6:.0f} MB, medians of {asked.rounds} rounds")
    for name, one in measured.items():
        show(name, one, measured["floor"])
    if not asked.no_script:
        print(
            f"mangler is {measured['script'].seconds / measured['mangler'].seconds:.1f} times as fast as the script"
        )
    if asked.larger:
        large = run(mangler(ten_times(extract)))
        times = large.seconds / measured["mangler"].seconds
        print(f"ten times the rows: {times:.1f} times the seconds, peak {large.memory / 1e6:.0f} MB")


def show(name: str, one: Measure, floor: Measure, unit: str = "floors") -> None:
    print(
        f"{name:8} {one.seconds:7.2f} s = {one.seconds / floor.seconds:5.2f} {unit}"
        f"   processor {one.processor:7.2f} s = {one.processor / floor.processor:5.2f} {unit}"
        f"   peak {one.memory / 1e6:5.0f} MB"
    )


def sample(rows: int) -> Path:
    """The sample's extract at this size; made once and kept."""
    DATA.mkdir(exist_ok=True)
    extract = DATA / f"kiln-log-{rows}.csv"
    if not extract.exists():
        unfinished = extract.with_suffix(".part")
        write_extract(unfinished, EXTRACTS[0], rows)
        unfinished.rename(extract)
    return extract


def ten_times(extract: Path) -> Path:
    """The same rows ten times under one header."""
    large = extract.with_name(f"{extract.stem}-ten-times.csv")
    if not large.exists():
        # Copied in pieces: a process starts with the peak memory of the one that starts it.
        with large.open("wb") as file:
            for number in range(TENTH):
                with extract.open("rb") as rows:
                    header = rows.readline()
                    file.write(header if number == 0 else b"")
                    shutil.copyfileobj(rows, file, 1 << 20)
    return large


def floor(extract: Path) -> list[str]:
    return [sys.executable, str(Path(__file__).with_name("floor.py")), str(extract), str(DATA / "floor.csv")]


def script(extract: Path) -> list[str]:
    return [
        sys.executable,
        str(Path(__file__).with_name("script.py")),
        str(extract),
        str(DATA / "script.csv"),
    ]


def mangler(extract: Path, name: str = "clean") -> list[str]:
    """A run of the recipe of this name."""
    recipe = str(Path(__file__).with_name(f"{name}.mangler"))
    return [program("mangler"), "run", recipe, str(extract), "--to", str(DATA / "mangler.csv"), "--quiet"]


if __name__ == "__main__":
    main()
