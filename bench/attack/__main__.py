"""`python -m bench.attack [--extracts N] [--recipes N] [--seed S]`: counts faults of all kinds; 0 of each is the aim.

Cases run in forked workers, which are replaced every few hundred; one in 50 goes through the installed program too.
With the number of a case that went wrong it is run again: `--only recipes:1234`.
"""

from __future__ import annotations

import argparse
import os
import resource
import sys
import tempfile
import time
from collections import Counter
from multiprocessing import get_context
from pathlib import Path

from bench.attack.cases import FINE, REFUSED, attack
from bench.attack.extracts import seeds

CHUNK = 250
"""Cases of one worker: then it is replaced, and its peak memory is looked at."""
MOST_MEMORY = 1 << 30
SHOWN = 20


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--extracts", type=int, default=20_000)
    parser.add_argument("--recipes", type=int, default=20_000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--only", metavar="KIND:NUMBER", help="run one case again, and show it")
    asked = parser.parse_args()
    if asked.only:
        kind, number = asked.only.split(":")
        sys.exit(show(kind, asked.seed, int(number)))
    started = time.perf_counter()
    chunks = [
        (kind, asked.seed, first, min(first + CHUNK, count))
        for kind, count in (("extracts", asked.extracts), ("recipes", asked.recipes))
        for first in range(0, count, CHUNK)
    ]
    counts: Counter[str] = Counter()
    ended: Counter[str] = Counter()
    found: list[str] = []
    peak = 0
    with get_context("fork").Pool(os.cpu_count(), maxtasksperchild=1) as pool:
        for faults, ends, memory in pool.imap_unordered(run_chunk, chunks, chunksize=1):
            found += faults
            counts.update(fault.split(": ")[1] for fault in faults)
            ended += ends
            peak = max(peak, memory)
    for fault in found[:SHOWN]:
        print(fault)
    kinds = ("traceback", "hang", "memory", "uneven", "cells", "lost")
    message = ", ".join(f"{counts[kind]} {kind}" for kind in kinds)
    print(f"{asked.extracts:,} extracts and {asked.recipes:,} recipes, seed {asked.seed}: {message}")
    print(f"{ended[FINE]:,} cleaned, {ended[REFUSED]:,} refused")
    print(f"peak of a worker {peak >> 20} MB, {time.perf_counter() - started:.0f} s")
    sys.exit(1 if counts else 0)


def run_chunk(chunk: tuple[str, int, int, int]) -> tuple[list[str], Counter[str], int]:
    """What went wrong in some cases, how the others ended, and the peak memory of the worker."""
    kind, seed, first, end = chunk
    faults: list[str] = []
    ended: Counter[str] = Counter()
    with tempfile.TemporaryDirectory(prefix="mangler-attack-") as folder:
        sources = seeds(Path(folder))
        for number in range(first, end):
            ending = attack(kind, seed, number, Path(folder), sources)
            if ending in (FINE, REFUSED):
                ended[ending] += 1
            else:
                faults.append(f"{kind}:{number}: {ending}")
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024
    if memory > MOST_MEMORY:
        faults.append(f"{kind}:{first}..{end}: memory: {memory >> 20} MB")
    return faults, ended, memory


def show(kind: str, seed: int, number: int) -> int:
    with tempfile.TemporaryDirectory(prefix="mangler-attack-") as folder:
        fault = attack(kind, seed, number, Path(folder), seeds(Path(folder)))
        for name in ("case.csv", "r.mangler"):
            path = Path(folder) / name
            if path.exists():
                print(f"-- {name}: {path.read_bytes()[:1500]!r}")
    print(fault)
    return 0 if fault in (FINE, REFUSED) else 1


if __name__ == "__main__":
    main()
