"""The cases of this benchmark as people write them by hand on a dataframe library: `frame.py CASE EXTRACT OUTPUT`."""

from __future__ import annotations

import sys
from pathlib import Path

import pandas as pd


def few(rows: pd.DataFrame) -> pd.DataFrame:
    glazes = rows.groupby("studio", sort=False)["glaze"]
    return glazes.agg(lambda group: ", ".join(group.dropna().unique())).reset_index()


def many(rows: pd.DataFrame) -> pd.DataFrame:
    rows["made"] = pd.to_numeric(rows["made"])
    return rows.groupby("piece", sort=False).agg(made=("made", "sum"), firings=("made", "size")).reset_index()


def sort(rows: pd.DataFrame) -> pd.DataFrame:
    return rows.sort_values(["studio", "fired_on"], ascending=[True, False], kind="stable")


def dedupe(rows: pd.DataFrame) -> pd.DataFrame:
    return rows.drop_duplicates(["piece", "fired_on"])


def fill(rows: pd.DataFrame) -> pd.DataFrame:
    rows["glaze"] = rows["glaze"].replace({"tin": None, "clear": None})
    rows["glaze"] = rows.groupby("potter", sort=False)["glaze"].bfill()
    return rows


def pivot(rows: pd.DataFrame) -> pd.DataFrame:
    rows["made"] = pd.to_numeric(rows["made"])
    return rows.pivot_table(
        index="kiln", columns="glaze", values="made", aggfunc="sum", sort=False
    ).reset_index()


def columns(rows: pd.DataFrame) -> pd.DataFrame:
    parts = rows.pop("potter").str.split(" ", expand=True).add_prefix("potter_")
    return pd.concat([rows, parts], axis=1)


def lookup(rows: pd.DataFrame) -> pd.DataFrame:
    reference = pd.read_csv(Path(__file__).parents[1] / "data" / "kilns-100000.csv", sep=";", dtype=str)
    return rows.merge(reference, on="kiln", how="left", validate="many_to_one")


CASES = {case.__name__: case for case in (few, many, sort, dedupe, fill, pivot, columns, lookup)}


def main(case: str, extract: str, output: str) -> None:
    rows = pd.read_csv(extract, sep=";", dtype=str)
    CASES[case](rows).to_csv(output, sep=";", index=False)


if __name__ == "__main__":
    main(*sys.argv[1:])
