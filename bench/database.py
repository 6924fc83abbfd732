"""`python -m bench.database [--rows N] [--rounds N]`: tables of PostgreSQL, against the driver alone.

A server of its own is started in a temporary folder. PostgreSQL to Parquet is compared with the driver fetching all
rows, Parquet to PostgreSQL with the driver taking the same columns into a new table.
"""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from tests.postgres_server import Server, started

from bench.firings import firings
from bench.processes import DATA, measure
from mangler.library import Recipe

FETCH = """
import sys
import adbc_driver_postgresql.dbapi as driver
with driver.connect(sys.argv[1]) as own, own.cursor() as cursor:
    cursor.execute("SELECT * FROM firings")
    print(sum(records.num_rows for records in cursor.fetch_record_batch()))
"""
TAKE = """
import sys
import adbc_driver_postgresql.dbapi as driver
import pyarrow.parquet as pq
with driver.connect(sys.argv[1]) as own, own.cursor() as cursor:
    cursor.execute("DROP TABLE IF EXISTS taken")
    file = pq.ParquetFile(sys.argv[2])
    reader = file.iter_batches()
    for number, batch in enumerate(reader):
        cursor.adbc_ingest("taken", batch, mode="append" if number else "create")
    own.commit()
"""
ANEW = """
import os, sys
import adbc_driver_postgresql.dbapi as driver
with driver.connect(sys.argv[1], autocommit=True) as own, own.cursor() as cursor:
    cursor.execute("DROP TABLE IF EXISTS made")
os.execv(sys.argv[2], sys.argv[2:])
"""
TYPES = 'mangler 1\nread nulls ""\nconvert made to integer failures null\n'


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=2_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    asked = parser.parse_args()
    parquet = DATA / "database.parquet"
    Recipe.parse(TYPES).run(firings(asked.rows), to=parquet)
    with started() as server:
        _measure(server, parquet, asked.rows, asked.rounds)


def _measure(server: Server, parquet: Path, rows: int, rounds: int) -> None:
    recipes = {
        "out": 'mangler 1\nread table "firings"\n',
        "in": 'mangler 1\nwrite table "written" replace\n',
        "new": 'mangler 1\nwrite table "made"\n',
        "first": 'mangler 1\nwrite table "firings"\n',
    }
    for name, text in recipes.items():
        (DATA / f"database-{name}.mangler").write_text(text)
    mangler = [str(Path(sys.executable).with_name("mangler")), "run"]
    Recipe.load(DATA / "database-first.mangler").run(parquet, to=server.address)
    server.run("CREATE TABLE written AS SELECT * FROM firings LIMIT 0")
    out = str(DATA / "database-out.parquet")
    new = [*mangler, str(DATA / "database-new.mangler"), str(parquet), "--to", server.address]
    found = measure(
        {
            "driver fetches": [sys.executable, "-c", FETCH, server.address],
            "to Parquet": [*mangler, str(DATA / "database-out.mangler"), server.address, "--to", out],
            "driver takes": [sys.executable, "-c", TAKE, server.address, str(parquet)],
            "into a new table": [sys.executable, "-c", ANEW, server.address, *new],
            "replaced": [*mangler, str(DATA / "database-in.mangler"), str(parquet), "--to", server.address],
        },
        rounds,
    )
    print(f"{rows:,} rows, medians of {rounds}")
    for name, floor in (
        ("driver fetches", "driver fetches"),
        ("to Parquet", "driver fetches"),
        ("driver takes", "driver takes"),
        ("into a new table", "driver takes"),
        ("replaced", "driver takes"),
    ):
        one = found[name]
        times = one.seconds / found[floor].seconds
        print(f"{name:18} {one.seconds:6.2f} s  {times:5.2f} times  peak {one.memory / 1e6:5.0f} MB")


if __name__ == "__main__":
    main()
