"""`python -m bench.attack.readers [--cases N] [--seed S] [--formats FORMAT …]`: damaged files of each format.

Counts what ends in a fault, a crash of the process, a hang, too much memory, or an uneven balance; 0 of each is the
aim. With the number of a case that went wrong it is run again: `--only parquet:1234`.
"""

from __future__ import annotations

import argparse
import os
import resource
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path
from random import Random

from bench.attack.cases import FINE, REFUSED, HangError, in_time
from bench.attack.formats import SEEDS, damaged
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.formats.registry import parts_of
from mangler.language.mistake import Refusal

CHUNK = 250
MEMORY = 256 << 20
"""What a run may take for what it gathers and unpacks."""
MOST_MEMORY = 900 << 20
RECIPE = LinkedRecipe.parse("mangler 1\ntrim *\ntolerate 100%")
SHOWN = 20


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--cases", type=int, default=5000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--formats", nargs="+", choices=SEEDS, default=list(SEEDS), metavar="FORMAT")
    parser.add_argument("--only", metavar="FORMAT:NUMBER", help="run one case again, and show it")
    asked = parser.parse_args()
    if asked.only:
        kind, number = asked.only.split(":")
        with tempfile.TemporaryDirectory(prefix="mangler-attack-") as folder:
            print(attack(kind, asked.seed, int(number), Path(folder)))
        return
    started, counts, wrong = time.perf_counter(), Counter[str](), 0
    for kind in asked.formats:
        ended: Counter[str] = Counter()
        peak = 0
        for first in range(0, asked.cases, CHUNK):
            last = min(first + CHUNK, asked.cases)
            faults, memory = apart(kind, asked.seed, first, last, ended)
            peak = max(peak, memory)
            counts.update(fault.split(": ")[1] for fault in faults)
            for fault in faults[: max(0, SHOWN - wrong)]:
                print(fault)
            wrong += len(faults)
        print(
            f"{kind:8} {ended[FINE]:6,} cleaned {ended[REFUSED]:6,} refused   peak {peak >> 20} MB",
            flush=True,
        )
    kinds = ("traceback", "crash", "hang", "memory", "uneven")
    print(
        f"{asked.cases:,} of each, seed {asked.seed}: {', '.join(f'{counts[kind]} {kind}' for kind in kinds)}"
    )
    print(f"{time.perf_counter() - started:.0f} s")
    sys.exit(1 if wrong else 0)


def apart(kind: str, seed: int, first: int, last: int, ended: Counter[str]) -> tuple[list[str], int]:
    """Runs cases in a process of their own; one that it does not survive is a fault, and the others go on after it."""
    faults: list[str] = []
    peak = 0
    while first < last:
        reader, writer = os.pipe()
        child = os.fork()
        if child == 0:
            os.close(reader)
            with (
                os.fdopen(writer, "w") as out,
                tempfile.TemporaryDirectory(prefix="mangler-attack-") as folder,
            ):
                for number in range(first, last):
                    out.write(
                        f"{attack(kind, seed, number, Path(folder))}\n".replace("\n", " ").strip() + "\n"
                    )
                    out.flush()
            os._exit(0)
        os.close(writer)
        with os.fdopen(reader) as answers:
            endings = answers.read().splitlines()
        _, status, usage = os.wait4(child, 0)
        peak = max(peak, usage.ru_maxrss * 1024)
        for number, ending in enumerate(endings, first):
            if ending in (FINE, REFUSED):
                ended[ending] += 1
            else:
                faults.append(f"{kind}:{number}: {ending}")
        first += len(endings)
        if status:
            faults.append(f"{kind}:{first}: crash: the process ended with {status}")
            first += 1
    if peak > MOST_MEMORY:
        faults.append(f"{kind}:{first}: memory: {peak >> 20} MB")
    return faults, peak


def attack(kind: str, seed: int, number: int, folder: Path) -> str:
    """Runs one case: `fine` where it was cleaned, `refused` where it was refused, else `kind of fault: detail`."""
    random = Random(f"{kind} {seed} {number}")
    path = folder / f"case.{random.choice((kind, kind, 'csv'))}"
    path.write_bytes(damaged(random, kind))
    options = RunOptions(memory=MEMORY)
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    try:
        with in_time():
            parts = parts_of(str(path)) if kind in ("xls", "xlsb", "ods") or number % 5 == 0 else []
            address = f"{path}#{parts[0]}" if parts else str(path)
            ending = random.choice(("csv", "jsonl", "parquet"))
            result = RECIPE.run(address, folder / f"out.{ending}", folder / "aside", options)
    except HangError:
        return "hang: more than 10 s"
    except Refusal:
        return _grown(before) or REFUSED
    except Exception as error:
        return f"traceback: {type(error).__name__}: {str(error)[:150]}"
    if not result.summary.balance.is_even:
        return "uneven: rows"
    return _grown(before) or FINE


def _grown(before: int) -> str:
    grown = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before
    return f"memory: {grown >> 10} MB for one file" if grown * 1024 > MOST_MEMORY // 2 else ""


if __name__ == "__main__":
    main()
