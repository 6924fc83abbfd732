"""`python -m bench.work [--rows N] [--rounds N] [--only WORD]`: ten kinds of work on an extract unlike the sample.

Each against the floor, Arrow reading all columns as text and writing them back, in the same rounds. Then where the
processor's time goes, from the run's own account: reading, each step, writing, and the rest: start, watching, digest.
"""

from __future__ import annotations

import argparse
import json
import subprocess
from collections.abc import Sequence
from pathlib import Path

from bench.clean import floor, show
from bench.processes import AS_INSTALLED, DATA, Measure, measure, program
from bench.work.cases import CASES
from bench.work.extract import extract, kilns

OUT = DATA / "work-out.csv"


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=2_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    parser.add_argument("--only", default="", help="only kinds of work that hold this word")
    asked = parser.parse_args()
    path = extract(asked.rows)
    kilns()
    cases = [case for case in CASES if asked.only in case]
    commands: dict[str, Sequence[str]] = {"floor": floor(path), **{case: run(case, path) for case in cases}}
    measured = measure(commands, asked.rounds)
    print(f"{asked.rows:,} rows, {path.stat().st_size / 1e6:.0f} MB, medians of {asked.rounds} rounds")
    for name, one in measured.items():
        show(f"{name:12}", one, measured["floor"])
    for case in cases:
        print(f"{case}: {stages(run(case, path), measured[case])}")


def run(case: str, path: Path) -> list[str]:
    """The command of a case; its recipe is written beside the data."""
    recipe = DATA / f"work-{case.replace(' ', '-')}.mangler"
    recipe.write_text("\n".join(("mangler 1", *CASES[case])) + "\n", encoding="utf-8")
    return [program("mangler"), "run", str(recipe), str(path), "--to", str(OUT), "--quiet"]


def stages(command: Sequence[str], whole: Measure) -> str:
    """Processor seconds of each stage of one run, the largest first; the rest is start, watching, and the digest."""
    done = subprocess.run([*command, "--json"], capture_output=True, check=True, env=AS_INSTALLED)
    (account,) = json.loads(done.stdout)["extracts"]
    found = {step["step"].split(" in ")[0][:40]: step["seconds"] for step in account["steps"]}
    found["write"] = account["writing"]["seconds"]
    found["rest"] = max(0.0, whole.processor - sum(found.values()))
    return ", ".join(
        f"{name} {seconds:.2f}" for name, seconds in sorted(found.items(), key=lambda one: -one[1])
    )


if __name__ == "__main__":
    main()
