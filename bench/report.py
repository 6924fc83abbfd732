"""`python -m bench.report [--rounds N]`: what a report costs beyond the command, on a small extract and a large one.

A run, a profile and a comparison, each without a report and with a page, in the same rounds; the size of the page.
"""

from __future__ import annotations

import argparse

from bench.processes import DATA, measure, program
from bench.work.__main__ import run
from bench.work.extract import extract

SMALL, LARGE = 60, 2_000_000


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rounds", type=int, default=3)
    parser.add_argument("--rows", type=int, nargs="*", default=[SMALL, LARGE])
    asked = parser.parse_args()
    for rows in asked.rows:
        path = extract(rows)
        plain = {
            "run": run("clean", path),
            "profile": [program("mangler"), "profile", str(path)],
            "compare": [program("mangler"), "compare", str(path), str(path)],
        }
        pages = {name: DATA / f"report-{name}.html" for name in plain}
        commands = {
            **plain,
            **{f"{name} report": [*plain[name], "--report", str(page)] for name, page in pages.items()},
        }
        measured = measure(commands, asked.rounds)
        print(f"{rows:,} rows, medians of {asked.rounds} rounds")
        for name, page in pages.items():
            before, after = measured[name], measured[f"{name} report"]
            more = after.seconds - before.seconds
            memory = (after.memory - before.memory) / 1e6
            told = f"{before.seconds:7.2f} s, with a page {more:+.2f} s and {memory:+.0f} MB"
            print(f"{name:8} {told}; the page has {page.stat().st_size / 1000:.0f} kB")


if __name__ == "__main__":
    main()
