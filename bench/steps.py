"""`python -m bench.steps [--rows N] [--only WORD]`: single steps against the floor and a plain loop over the column.

Two loops: one over the column itself, a cell at a time, and back into a column; and one over a list of Python's texts
that is there already, which no column is. The step is the bound step on the blocks of a run. All are timed in this
process, on one thread, on the same blocks, in turn; the floor is a process of its own.
"""

from __future__ import annotations

import argparse
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from statistics import median
from time import perf_counter
from typing import Any, cast

import pyarrow as pa

from bench.clean import floor, sample
from bench.processes import run
from mangler.engine.plan.plan import bind_steps
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.formats.reading import read_partitions
from mangler.formats.registry import open_source
from mangler.table.batch import Batch
from mangler.table.contract import RowStep
from mangler.table.schema import Schema

Cells = Sequence[str | None]
Loop = Callable[..., Any]


@dataclass(frozen=True)
class Case:
    """A step, and what a script would do over these columns."""

    step: str
    columns: tuple[str, ...]
    loop: Loop


def hole(kiln: Cells, potter: Cells, cone: Cells) -> list[str | None]:
    out: list[str | None] = []
    for a, b, c in zip(kiln, potter, cone, strict=True):
        out.append(None if a is None or b is None or c is None else f"{a} / {b} ({c})")
    return out


def choice(cone: Cells) -> list[str]:
    out = []
    for cell in cone:
        out.append("low" if cell is not None and cell in ("06", "04") else "high")
    return out


def keep(notes: Cells) -> list[str]:
    kept = []
    for cell in notes:
        if cell is not None and "shelf" in cell:
            kept.append(cell)
    return kept


def swap(peak: Cells) -> list[str | None]:
    degrees = re.compile(r"\s*°C$")
    out: list[str | None] = []
    for cell in peak:
        out.append(None if cell is None else degrees.sub("", cell))
    return out


def degrees(peak: Cells) -> list[int | None]:
    out: list[int | None] = []
    for cell in peak:
        text = "" if cell is None else cell.strip().removesuffix("°C").rstrip().replace(".", "")
        out.append(int(text) if text.isdigit() else None)
    return out


def moments(fired: Cells) -> list[datetime | None]:
    out: list[datetime | None] = []
    for cell in fired:
        found = None
        for form in ("%Y-%m-%d %H:%M", "%d/%m/%Y %H:%M"):
            try:
                found = datetime.strptime((cell or "").strip(), form)
                break
            except ValueError:
                continue
        out.append(found)
    return out


TABLE = {f"word {number}": f"W{number}" for number in range(197)} | {"good": "A", "cracked": "C", "n/a": "-"}


def mapped(result: Cells) -> list[str | None]:
    out: list[str | None] = []
    for cell in result:
        out.append(None if cell is None else TABLE.get(cell.strip(), cell))
    return out


def letters(potter: Cells) -> list[str | None]:
    out: list[str | None] = []
    for cell in potter:
        out.append(None if cell is None else "".join(c for c in cell if c.isalpha() or c.isspace()))
    return out


PAIRS = ", ".join(f'"{key}" to "{value}"' for key, value in TABLE.items())
CASES = (
    Case('make label = "{kiln} / {potter} ({cone})"', ("kiln", "potter", "cone"), hole),
    Case('make heat = if cone in ("06", "04") then "low" else "high"', ("cone",), choice),
    Case('keep rows where notes contains "shelf"', ("notes",), keep),
    Case('convert peak_c to integer grouping "." without "°C" failures null', ("peak_c",), degrees),
    Case(
        'convert fired_at to timestamp written "%Y-%m-%d %H:%M", "%d/%m/%Y %H:%M" failures null',
        ("fired_at",),
        moments,
    ),
    Case(f"map result {PAIRS}", ("result",), mapped),
    Case("keep characters letters, spaces in potter", ("potter",), letters),
    Case('replace /\\s*°C$/ with "" in peak_c', ("peak_c",), swap),
)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=2_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    parser.add_argument("--only", default="", help="only steps that hold this word")
    asked = parser.parse_args()
    extract = sample(asked.rows)
    cases = [case for case in CASES if asked.only in case.step]
    needed = list(dict.fromkeys(name for case in cases for name in case.columns))
    names, batches = load(str(extract), needed)
    floor_seconds = median(run(floor(extract)).seconds for _ in range(asked.rounds))
    print(f"{asked.rows:,} rows, medians of {asked.rounds} rounds; floor {floor_seconds:.2f} s")
    for case in cases:
        step = bound(case.step, names)
        places = [names.index(name) for name in case.columns]
        ours, theirs, lists = [], [], []
        for _ in range(asked.rounds):
            ours.append(seconds(lambda step=step: [step.process(batch) for batch in batches]))  # type: ignore[misc]
            theirs.append(seconds(lambda case=case, places=places: loop(case, places, batches)))  # type: ignore[misc]
            texts = [[batch.columns[span].to_pylist() for span in places] for batch in batches]
            lists.append(seconds(lambda case=case, texts=texts: [case.loop(*cells) for cells in texts]))  # type: ignore[misc]
        one, other, bare = median(ours), median(theirs), median(lists)
        print(
            f"{one:6.3f} s = {one / floor_seconds:5.3f} floors; the loop over the column takes {other / one:5.1f} times"
            f" as long, over lists {bare / one:4.1f} times   {case.step[:72]}"
        )


def loop(case: Case, places: Sequence[int], batches: Sequence[Batch]) -> None:
    for batch in batches:
        pa.array(case.loop(*([cell.as_py() for cell in batch.columns[span]] for span in places)))


def seconds(work: Callable[[], Any]) -> float:
    started = perf_counter()
    work()
    return perf_counter() - started


def bound(step: str, names: list[str]) -> RowStep:
    recipe = LinkedRecipe.parse(f"mangler 1\n{step}")
    plan = bind_steps(recipe.parsed.statements, Schema.of_text(names))
    assert not plan.mistakes, plan.mistakes
    return cast(RowStep, plan.steps[0].step)


def load(path: str, needed: Sequence[str]) -> tuple[list[str], list[Batch]]:
    """These columns of the extract, in the batches that a run works on."""
    source = open_source(path)
    indexes = [source.schema.names.index(name) for name in needed]
    batches = []
    for batch in read_partitions(source, lambda partition: source.read(partition).batch):
        batches.append(batch.with_columns([batch.columns[index] for index in indexes]))
    source.close()
    return list(needed), batches


if __name__ == "__main__":
    main()
