"""The cases of this benchmark as people write them on a dataframe library: `frame.py CASE KEY EXTRACT OUTPUT`."""

from __future__ import annotations

import sys

import pandas as pd


def share(rows: pd.DataFrame, key: str) -> pd.Series:
    return rows["made"] / rows.groupby(key, sort=False)["made"].transform("sum")


def running(rows: pd.DataFrame, key: str) -> pd.Series:
    ordered = rows.sort_values([key, "fired_on"], kind="stable")
    return ordered.groupby(key, sort=False)["made"].cumsum().reindex(rows.index)


def previous(rows: pd.DataFrame, key: str) -> pd.Series:
    ordered = rows.sort_values([key, "fired_on"], kind="stable")
    return ordered.groupby(key, sort=False)["made"].shift().astype("Int64").reindex(rows.index)


def rank(rows: pd.DataFrame, key: str) -> pd.Series:
    days = pd.to_datetime(rows["fired_on"])
    return days.groupby(rows[key], sort=False).rank(method="min").astype("Int64")


CASES = {case.__name__: case for case in (share, running, previous, rank)}


def main(case: str, key: str, extract: str, output: str) -> None:
    rows = pd.read_csv(extract, sep=";", dtype=str)
    rows["made"] = pd.to_numeric(rows["made"])
    rows["new"] = CASES[case](rows, key)
    rows.to_csv(output, sep=";", index=False)


if __name__ == "__main__":
    main(*sys.argv[1:])
