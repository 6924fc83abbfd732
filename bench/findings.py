"""`python -m bench.findings [--draws N]`: precision and recall of each finding of a profile.

The columns, with known faults, are those of the tests; every draw has the same faults in other cells. With --held-out
they are columns that no finder was tuned on. Harm is what the steps that are on made from cells that mean
something else. Run it from the root of the repository.
"""

from __future__ import annotations

import argparse
from collections import Counter

from tests.insight.corpus import held_out
from tests.insight.corpus.every import sheets
from tests.insight.corpus.meaning import all_harm
from tests.insight.corpus.measure import profiled, scores, steps_for_clean
from tests.insight.corpus.specimen import draw

MOST_NAMED = 5


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--draws", type=int, default=5)
    parser.add_argument("--first", type=int, default=0, help="the number of the first draw")
    parser.add_argument("--held-out", action="store_true")
    asked = parser.parse_args()
    seen = []
    for number in range(asked.first, asked.first + asked.draws):
        draw(number)
        seen += profiled(held_out.sheets() if asked.held_out else sheets(number))
    print(f"{len(seen):,} columns, {asked.draws} draws of {len(seen) // asked.draws}")
    print(f"{'finding':26} there  precision  recall")
    for kind, score in scores(seen).items():
        there = len(score.right) + len(score.missed)
        if asked.held_out and not there and not score.wrong:
            continue
        print(
            f"{kind:26} {there:5}      {score.precision:.3f}   {score.recall:.3f}{_named(score.wrong, score.missed)}"
        )
    every = scores(seen).values()
    right, wrong = sum(len(one.right) for one in every), sum(len(one.wrong) for one in every)
    missed = sum(len(one.missed) for one in every)
    print(f"all findings: precision {right / (right + wrong):.3f}, recall {right / (right + missed):.3f}")
    harm = all_harm(one for one in seen if one[0].truth or not one[0].kinds)
    print(f"harm: {len({one.column for one in harm})} columns")
    for one in harm[:MOST_NAMED]:
        print(f"  {one.column}: {one.cell!r} became {one.became!r} by {one.steps}")
    clean = sum(not specimen.kinds for specimen, _ in seen)
    proposed = steps_for_clean(seen)
    print(f"steps proposed for {clean:,} clean columns: {len(proposed)}")
    for name, step in proposed[:MOST_NAMED]:
        print(f"  {name}: {step}")


def _named(wrong: list[str], missed: list[str]) -> str:
    """The columns in which a finding was wrong or missed, with how often."""
    message = ""
    for label, names in (("wrong", wrong), ("missed", missed)):
        if names:
            most = Counter(names).most_common(MOST_NAMED)
            message += f"   {label}: " + ", ".join(f"{name} {times}" for name, times in most)
    return message


if __name__ == "__main__":
    main()
