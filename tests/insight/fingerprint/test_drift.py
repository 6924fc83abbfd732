"""News and noise: no finding on weeks of the same process, and every planted drift found."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Callable
from random import Random
from unittest.mock import patch

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.blanks import BLANKS
from mangler.insight.fingerprint import drift, fingerprint_taking, stretches
from mangler.insight.fingerprint.change import Change, Drift
from mangler.insight.fingerprint.drift import drift_of
from mangler.insight.fingerprint.fingerprint import ColumnPrint, Fingerprint, series_of
from mangler.insight.fingerprint.fingerprint_taking import FingerprintTaker
from mangler.table.batch import Batch, NoOrigin
from mangler.table.schema import Schema

ROWS = 60
Cells = list[str | None]


def taken(
    columns: dict[str, Cells], delimiter: str = ";", blocks: int = 1, encoding: str = "UTF-8"
) -> Fingerprint:
    """The fingerprint of columns that come in so many blocks."""
    taker = FingerprintTaker()
    taker.begin(Schema.of_text(columns), {"delimiter": delimiter, "encoding": encoding})
    arrays = [pa.array(cells, pa.string()) for cells in columns.values()]
    count = len(arrays[0])
    edges = [round(i * count / blocks) for i in range(blocks + 1)]
    for start, end in zip(edges, edges[1:], strict=False):  # noqa: RUF007
        rows = np.arange(start + 1, end + 1, dtype=np.int64)
        batch = Batch(tuple(one.slice(start, end - start) for one in arrays), rows, NoOrigin())
        taker.collect(taker.observe(batch))
    assert taker.fingerprint is not None
    return taker.fingerprint


def week(number: int, rows: int = ROWS, name: str = "log") -> dict[str, Cells]:
    """One week of a process that does not change."""
    random = Random(f"{name} {number}")
    pick = random.choices
    glazes = ("celadon", "tenmoku", "shino", "ash", "cobalt")
    return {
        "kiln": list(pick(("007", "012", "031", "044"), k=rows)),
        "potter": [f"{random.choice('ABCDEFGHIJ')}{random.randrange(10**6)}" for _ in range(rows)],
        "fired_on": [f"2026-05-{random.randrange(1, 29):02}" for _ in range(rows)],
        "article": [f"{random.randrange(10**5):05}" for _ in range(rows)],
        "peak": [str(random.randrange(950, 1300)) for _ in range(rows)],
        "glazes": ["; ".join(random.sample(glazes, random.randint(1, 4))) for _ in range(rows)],
        "result": list(pick(("good", "cracked", "warped", None), (6, 2, 2, 2), k=rows)),
        "notes": list(pick(("slow", "lid stuck, freed", None, "ran a little; dried"), k=rows)),
    }


BEFORE = [taken(week(number)) for number in (19, 18)]


@pytest.mark.parametrize("name", [f"series {n}" for n in range(12)])
@pytest.mark.parametrize("rows", [ROWS, 300])
def test_ten_weeks_of_the_same_process_bring_no_finding(name: str, rows: int) -> None:
    weeks = [taken(week(number, rows, name)) for number in range(10)]
    for number in range(1, 10):
        assert drift_of(weeks[number], weeks[:number][::-1]) == []


def found(change: Callable[[dict[str, Cells]], object] | None = None, **read: str) -> list[Drift]:
    columns = week(20)
    if change is not None:
        columns = change(columns) or columns  # type: ignore[assignment]
    return drift_of(taken(columns, **read), BEFORE)  # type: ignore[arg-type]


def spoil(name: str, *cells: str | None) -> Callable[[dict[str, Cells]], None]:
    def change(columns: dict[str, Cells]) -> None:
        columns[name][: len(cells)] = cells

    return change


def renamed(old: str, new: str) -> Callable[[dict[str, Cells]], dict[str, Cells]]:
    return lambda columns: {new if name == old else name: cells for name, cells in columns.items()}


PLANTED = [
    (lambda columns: columns.pop("notes") and None, Change.COLUMN_GONE, ("notes",)),
    (lambda columns: columns.update(firing=["x"] * ROWS), Change.COLUMN_NEW, ("firing",)),
    (renamed("potter", "potters"), Change.COLUMN_RENAMED, ("potter",)),
    (renamed("result", "outcome"), Change.COLUMN_RENAMED, ("result",)),
    (lambda columns: dict(reversed(columns.items())), Change.MOVED, ()),
    (spoil("result", "tba", "tba"), Change.NEW_VALUE, ("result",)),
    (spoil("kiln", "115"), Change.NEW_VALUE, ("kiln",)),
    (spoil("result", *[f"result {n}x" for n in range(60)]), Change.NEW_VALUE, ("result",)),
    (spoil("glazes", "ash; ash; ash; ash; ash"), Change.MORE_PARTS, ("glazes",)),
    (spoil("peak", "12220"), Change.RANGE, ("peak",)),
    (spoil("peak", *["pending"] * 3), Change.WRITTEN, ("peak",)),
    (spoil("fired_on", *["04/05/2026"] * 5), Change.WRITTEN, ("fired_on",)),
    (spoil("article", "1234", "71234"), Change.LENGTH, ("article",)),
    (spoil("notes", *[None] * 56), Change.NULLS, ("notes",)),
    (spoil("potter", *[""] * 30), Change.NULLS, ("potter",)),
]


@pytest.mark.parametrize(("change", "kind", "columns"), PLANTED, ids=[str(kind) for _, kind, _ in PLANTED])
def test_every_planted_drift_is_found_and_nothing_else(
    change, kind: Change, columns: tuple[str, ...]
) -> None:
    [drift] = found(change)
    assert (drift.change, drift.columns) == (kind, columns)


def test_how_the_file_is_written_is_reported() -> None:
    assert [drift.message for drift in found(delimiter=",")] == ['the delimiter is ",", and was ";"']
    assert [drift.change for drift in found(encoding="Windows-1252")] == [Change.ENCODING]


def test_values_are_reported_in_one_line_each() -> None:
    [drift] = found(
        spoil("result", "glaze\tran", "lid stuck, freed with a knife, and the\nshelf warped", 'a "b"')
    )
    assert drift.message == (
        'result: values never seen: "glaze\\tran" in 1, "lid stuck, freed…the\\nshelf warped" in 1, "a \\"b\\"" in 1'
    )


def test_the_most_harmful_comes_first() -> None:
    def change(columns: dict[str, Cells]) -> None:
        columns.pop("kiln")
        columns["result"][:2] = ["tba", "tba"]
        columns["more"] = ["x"] * ROWS

    assert [drift.change for drift in found(change)] == [
        Change.COLUMN_GONE,
        Change.NEW_VALUE,
        Change.COLUMN_NEW,
    ]


def test_without_earlier_runs_nothing_is_reported() -> None:
    assert drift_of(taken(week(20)), []) == []
    assert found() == []


def test_few_cells_tell_nothing_of_a_column() -> None:
    few = [taken(week(18, 5))]
    assert drift_of(taken({**week(20, 5), "result": ["tba"] * 5}), few) == []


def test_a_fingerprint_does_not_depend_on_blocks_and_survives_being_written_down() -> None:
    columns = {**week(3, 500), "few": [None, " ", "a"] * 166 + ["b ", "b"], "none": [None] * 500}
    whole = taken(columns)
    assert taken(columns, blocks=7) == whole
    assert Fingerprint.of_json(json.loads(json.dumps(whole.to_json()))) == whole
    few = next(column for column in whole.columns if column.name == "few")
    assert few.values == {"a": 166, "b": 2} and few.nulls == 332
    assert next(column for column in whole.columns if column.name == "potter").values is None


CELL = st.one_of(
    st.none(),
    st.sampled_from(
        ["", " ", "07 ", "12", "-3.5", "1e3", "2026-05-04", "04/05/2026", "9:30", "a; b;c", "x|y", "a/b"]
    ),
    st.integers(0, 10**6).map(str),
    st.text(max_size=5),
    st.just("long " * 20),
)


@given(
    st.lists(CELL, min_size=1, max_size=150),
    st.integers(1, 9),
    st.integers(1, 60),
    st.sampled_from([2, 5, 60]),
    st.sampled_from([20, 200]),
)
def test_a_fingerprint_is_that_of_the_rows_however_they_come(
    cells: Cells, blocks: int, first: int, few: int, whole_up_to: int
) -> None:
    """However many blocks they come in, whether values are few or many, and wherever the rows end that are looked at.

    Later rows are looked at two in seven; all their values count where they are few.
    """
    with (
        patch.object(stretches, "FIRST_ROWS", first),
        patch.object(stretches, "ALL_ROWS", whole_up_to),
        patch.object(stretches, "STRETCH", 2),
        patch.object(stretches, "PERIOD", 7),
        patch.object(fingerprint_taking, "MOST_VALUES", few),
    ):
        whole = taken({"a": cells})
        assert taken({"a": cells}, blocks=min(blocks, len(cells))) == whole
    [column] = whole.columns
    every = len(cells)
    assert (whole.rows, column.cells + column.passed_over) == (every, every)
    if column.values is None:
        end = max(first, whole_up_to)
        cells = [cell for row, cell in enumerate(cells) if row < end or (row - end) % 7 < 2]
    filled = [cell for cell in map(trimmed, cells) if cell]
    assert (column.cells, column.nulls) == (len(cells), len(cells) - len(filled))
    assert column.spaced == sum(trimmed(cell) != (cell or "") for cell in cells)
    if column.values is not None:
        assert column.values == Counter(filled)
    lengths = [len(cell) for cell in filled]
    assert (column.shortest, column.longest) == (min(lengths, default=None), max(lengths, default=None))
    for mark in ";,|/":
        parts = Counter(cell.count(mark) + 1 for cell in filled if mark in cell)
        assert column.parts.get(mark, Counter()) == parts
    assert column.written.total() <= len(filled)
    if len(cells) <= first:
        assert column.written.total() == len(filled)


def trimmed(cell: str | None) -> str:
    return (cell or "").strip(BLANKS)


def test_beyond_the_first_rows_only_what_is_written_by_machine_is_counted() -> None:
    with patch.object(stretches, "FIRST_ROWS", 100):
        dates = [f"2026-05-{n % 28 + 1:02} {n % 24:02}:{n % 60:02}" for n in range(300)] + ["04/05/2026 9:30"]
        names = [f"kiln {n} / shelf {n}" for n in range(300)] + ["12"]
        found = taken({"dates": dates, "names": names}, blocks=3)
    assert found.columns[0].written == {"%Y-%m-%d %H:%M": 300, "%d/%m/%Y %H:%M": 1}
    assert found.columns[1].written.total() == 100 and found.columns[1].least is None


def test_a_series_is_a_name_without_its_digits() -> None:
    assert series_of("in/clayworks-week-18.csv") == series_of("clayworks-week-19.csv")
    assert series_of("clayworks-week-18.csv") != series_of("quayside-week-18.csv")


def test_a_table_of_other_columns_is_one_finding_and_no_pair_is_compared() -> None:
    """Each column that is gone was once compared with each new one: 5,000 of them took a minute."""
    before = Fingerprint(";", "UTF-8", [ColumnPrint(f"old{number}") for number in range(3000)])
    now = Fingerprint(";", "UTF-8", [ColumnPrint(f"new{number}") for number in range(3000)])
    with patch.object(drift, "_likeness", side_effect=AssertionError("compared")):
        found = drift_of(now, [before])
    assert [(one.change, len(one.columns)) for one in found] == [
        (Change.COLUMN_GONE, 3000),
        (Change.COLUMN_NEW, 3000),
    ]
    assert (
        found[0].message.startswith('3,000 columns are gone: "old0", "old1"') and len(found[0].message) < 200
    )
