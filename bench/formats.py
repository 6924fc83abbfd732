"""`python -m bench.formats [--rows N] [--rounds N] [FORMAT …]`: a recipe on each format, against its library alone.

Seven steps on twelve typed columns, compared with the floor of the format: its library reads every row and writes it
again. Workbooks have a tenth of the rows. Text to Parquet is compared with text to text.
"""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq

from bench.clean import sample, show
from bench.processes import DATA, measure, program
from mangler.engine.run.linked_recipe import LinkedRecipe

RECIPE = Path(__file__).with_name("formats.mangler")
TEXT_RECIPE = Path(__file__).with_name("clean.mangler")
SUFFIXES = {"parquet": ".parquet", "arrow": ".arrow", "jsonl": ".jsonl", "workbook": ".xlsx"}
CHUNK = 100_000
STUDIOS = ("Clay Works", " clay works", "Clay  Works ", "Quayside", "quayside ", None)
POTTERS = tuple(f"{title}{name} Weber" for title in ("Dr. ", "") for name in ("Ines", "Zoë", "Odd"))
RESULTS = ("good", "Good ", "GOOD", "cracked", "-", "n/a", None)
NOTES = ("", " slow cooling ", "lid stuck, freed with a knife", None, None, 'batch: 14 "speckled"', "tbc")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("formats", nargs="*", default=[*SUFFIXES, "text"])
    parser.add_argument("--rows", type=int, default=2_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    asked = parser.parse_args()
    for name in asked.formats:
        if name == "text":
            text_to_parquet(asked.rows, asked.rounds)
            continue
        rows = asked.rows // 10 if name == "workbook" else asked.rows
        extract = made(rows, SUFFIXES[name])
        out = str(DATA / f"out{SUFFIXES[name]}")
        run = [program("mangler"), "run", str(RECIPE), str(extract), "--to", out, "--quiet"]
        floor = [sys.executable, "-m", "bench.format_floor", name, str(extract), out]
        measured = measure({"floor": floor, "mangler": run}, asked.rounds)
        size = extract.stat().st_size / 1e6
        print(f"{name}: {rows:,} rows, {size:.0f} MB, medians of {asked.rounds} rounds", flush=True)
        for one, seen in measured.items():
            show(one, seen, measured["floor"])


def text_to_parquet(rows: int, rounds: int) -> None:
    """The recipe of `bench.clean` into two formats."""
    extract = sample(rows)
    words = [program("mangler"), "run", str(TEXT_RECIPE), str(extract), "--quiet", "--to"]
    outputs = {"text": [*words, str(DATA / "out.csv")], "parquet": [*words, str(DATA / "out.parquet")]}
    measured = measure(outputs, rounds)
    print(f"text to: {rows:,} rows, medians of {rounds} rounds")
    for one, seen in measured.items():
        show(one, seen, measured["text"], "times text")


def made(rows: int, suffix: str) -> Path:
    """An extract of so many rows in a format; made once and kept."""
    DATA.mkdir(exist_ok=True)
    path = DATA / f"typed-{rows}{suffix}"
    base = DATA / f"typed-{rows}.parquet"
    if not base.exists():
        unfinished = base.with_suffix(".part")
        with pq.ParquetWriter(unfinished, _table(0, 1).schema, compression="zstd") as writer:
            for first in range(0, rows, CHUNK):
                writer.write_table(_table(first, min(CHUNK, rows - first)), row_group_size=CHUNK)
        unfinished.rename(base)
    if not path.exists():
        text = "mangler 1\nconvert price to float" if suffix in (".jsonl", ".xlsx") else "mangler 1"
        LinkedRecipe.parse(text).run(base, path)
        if suffix == ".xlsx":
            _name_sheet(path, base)
    return path


def _name_sheet(path: Path, base: Path) -> None:
    """The sheet is called Log."""
    import xlsxwriter

    book = xlsxwriter.Workbook(str(path), {"constant_memory": True})
    sheet = book.add_worksheet("Log")
    moment = book.add_format({"num_format": "yyyy-mm-dd hh:mm:ss"})
    table = pq.read_table(base)
    sheet.write_row(0, 0, table.column_names)
    number = 0
    for batch in table.to_batches(10_000):
        for row in zip(*(column.to_pylist() for column in batch.columns), strict=True):
            number += 1
            for index, cell in enumerate(row):
                if hasattr(cell, "year"):
                    sheet.write_datetime(number, index, cell.replace(tzinfo=None), moment)
                elif cell is not None:
                    sheet.write(number, index, cell)
    book.close()


def _table(first: int, rows: int) -> Any:
    """Twelve columns of the sample's scenario, in the types of programs."""
    random = np.random.default_rng(first)

    def chosen(values: tuple[str | None, ...]) -> Any:
        return pa.array(values).take(pa.array(random.integers(0, len(values), rows)))

    def numbers(most: int, kind: Any, share: float = 0.05) -> Any:
        return pa.array(random.integers(0, most, rows), kind, mask=random.random(rows) < share)

    prices = pa.array(random.integers(0, 1_000, rows)).cast(pa.decimal128(19, 0))
    return pa.table(
        {
            "row": pa.array(np.arange(first, first + rows)),
            "kiln": chosen(("003", "007", "012", "031", "044", "115")),
            "studio": chosen(STUDIOS),
            "potter": chosen(
                tuple(f"{title}{name} Weber" for title in ("Dr. ", "") for name in ("Ines", "Zoë", "Odd"))
            ),
            "fired_at": pa.array(1_777_000_000_000 + random.integers(0, 10**10, rows)).cast(
                pa.timestamp("ms")
            ),
            "peak_c": numbers(1300, pa.int32()),
            "made": numbers(13, pa.int16()),
            "price": prices.cast(pa.decimal128(21, 2)).cast(pa.decimal128(11, 2)),
            "share": pa.array(random.random(rows).round(6)),
            "done": pa.array(random.random(rows) < 0.5),
            "result": chosen(RESULTS),
            "notes": chosen(NOTES),
        }
    )


if __name__ == "__main__":
    main()
