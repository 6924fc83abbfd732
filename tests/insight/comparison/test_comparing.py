"""Two tables held against each other: edits that are known are found, no more and no less."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mangler.insight.comparison import comparing
from mangler.insight.comparison.comparing import compare
from mangler.insight.comparison.comparison import Comparison
from mangler.language.mistake import ExitCode, Refusal
from mangler.recipes.options import column_list

Row = tuple[str, ...]
NAMES = ("id", "kiln", "peak", "result", "notes")


def written(path: Path, rows: Sequence[Row], names: Sequence[str] = NAMES) -> str:
    lines = [",".join(names), *(",".join(row) for row in rows)]
    path.write_text("\n".join(lines) + "\n", "utf-8")
    return str(path)


@dataclass
class Edited:
    """A table, what came of it, and what was done: cells by row number and column."""

    before: list[Row]
    after: list[Row] = field(default_factory=list)
    changed: set[tuple[int, str]] = field(default_factory=set)
    gone: set[str] = field(default_factory=set)
    come: set[str] = field(default_factory=set)


@st.composite
def edited(draw: st.DrawFn, apart: bool) -> Edited:
    """Rows that are changed in one cell, taken out, and put in; with `apart` never two edits in a row."""
    count = draw(st.integers(0, 40))
    cell = st.sampled_from(["a", "b", "", "1", "01", "A ", "long " * 20])
    rows = [(f"F-{number}", *(draw(cell) for _ in NAMES[1:])) for number in range(count)]
    found = Edited(rows)
    just_edited = False
    for number, row in enumerate(rows):
        how = (
            "keep"
            if apart and just_edited
            else draw(st.sampled_from(["keep", "keep", "change", "drop", "add"]))
        )
        just_edited = how != "keep"
        if how == "drop":
            found.gone.add(row[0])
            continue
        if how == "change":
            place = draw(st.integers(1, len(NAMES) - 1))
            row = (*row[:place], row[place] + "x", *row[place + 1 :])
            found.changed.add((number + 1, NAMES[place]))
        found.after.append(row)
        if how == "add":
            found.come.add(f"N-{number}")
            found.after.append((f"N-{number}", "new", "n", "n", "n"))
    return found


def cells_changed(found: Comparison) -> set[tuple[int, str]]:
    return {
        (change.row, one.name)
        for one in found.differences
        for change in one.changes.values()
        if change.cells == 1
    }


def check(found: Comparison, table: Edited) -> None:
    rows_changed = len({row for row, _ in table.changed})
    assert (found.changed, found.rows_gone, found.rows_come) == (
        rows_changed,
        len(table.gone),
        len(table.come),
    )
    assert sum(one.cells for one in found.differences) == len(table.changed)
    assert cells_changed(found) <= table.changed
    assert {one.cells[0] for one in found.lone_before} <= table.gone
    assert {one.cells[0] for one in found.lone_after} <= table.come
    assert found.same == len(table.before) - rows_changed - len(table.gone)
    assert found.moved == 0
    assert found.differ == bool(table.changed or table.gone or table.come)


@settings(max_examples=60)
@given(table=edited(apart=False), part=st.sampled_from([1, 3, 1000]))
def test_edits_are_found_by_a_key(
    table: Edited, part: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(comparing, "ROWS_AT_ONCE", part)
    one, other = written(tmp_path / "a.csv", table.before), written(tmp_path / "b.csv", table.after)
    check(compare(one, other, ["id"]), table)


@settings(max_examples=60)
@given(table=edited(apart=True))
def test_edits_are_found_without_a_key(table: Edited, tmp_path: Path) -> None:
    one, other = written(tmp_path / "a.csv", table.before), written(tmp_path / "b.csv", table.after)
    check(compare(one, other, in_order=True), table)


@settings(max_examples=60)
@given(table=edited(apart=False))
def test_without_a_key_the_rows_add_up(table: Edited, tmp_path: Path) -> None:
    one, other = written(tmp_path / "a.csv", table.before), written(tmp_path / "b.csv", table.after)
    found = compare(one, other, in_order=True)
    assert found.same + found.changed + found.rows_gone == found.rows_before == len(table.before)
    assert found.same + found.changed + found.rows_come == found.rows_after == len(table.after)
    assert found.differ == (table.before != table.after)


@settings(max_examples=60)
@given(
    order=st.permutations(list(range(12))),
    has_key=st.booleans(),
)
def test_rows_that_moved_are_as_few_as_can_be(order: list[int], has_key: bool, tmp_path: Path) -> None:
    rows = [(f"F-{number}", f"k{number}", "1", "2", "3") for number in range(12)]
    one = written(tmp_path / "a.csv", rows)
    other = written(tmp_path / "b.csv", [rows[number] for number in order])
    found = compare(one, other, ["id"] if has_key else [], in_order=not has_key)
    best: list[int] = []  # the longest increasing subsequence, the slow way
    for at, value in enumerate(order):
        best.append(1 + max((best[i] for i in range(at) if order[i] < value), default=0))
    assert found.moved == 12 - max(best) and (found.same, found.changed) == (12, 0)


def test_the_same_table_in_another_format(tmp_path: Path) -> None:
    table = pa.table({"id": ["007", "012"], "peak": [998, None], "share": [1.5, 2.25]})
    pq.write_table(table, tmp_path / "a.parquet")
    other = written(tmp_path / "b.csv", [("007", "998", "1.5"), ("012", "", "2.25")], table.column_names)
    found = compare(str(tmp_path / "a.parquet"), other)
    assert not found.differ and found.key == ("id",) and found.key_was_found and not found.retyped


def test_columns_that_are_gone_new_and_elsewhere(tmp_path: Path) -> None:
    one = written(tmp_path / "a.csv", [("1", "a", "x"), ("2", "b", "y")], ("id", "old", "kiln"))
    other = written(tmp_path / "b.csv", [("x", "1", "n"), ("y", "2", "n")], ("kiln", "id", "new"))
    found = compare(one, other)
    assert (found.gone, found.come, found.is_reordered, found.columns) == (
        ["old"],
        ["new"],
        True,
        ["id", "kiln"],
    )
    assert found.same == 2 and found.differ
    assert not compare(one, other, columns=column_list("id")).differ
    with pytest.raises(Refusal, match="nope"):
        compare(one, other, columns=column_list("nope"))


def test_from_python(tmp_path: Path) -> None:
    import mangler

    one = written(tmp_path / "a.csv", [("1", "a")], ("id", "a b"))
    other = written(tmp_path / "b.csv", [("1", "b")], ("id", "a b"))
    assert mangler.compare(Path(one), Path(other), on=["id"]).changed == 1
    assert not mangler.compare(one, other, columns=["id"]).differ
    assert mangler.compare(one, other, columns=["a b"]).differ


def test_types_are_said_and_make_no_difference(tmp_path: Path) -> None:
    for name, peak in (("a", pa.array([1, 2])), ("b", pa.array(["1", "2"]))):
        pq.write_table(pa.table({"id": pa.array([1, 2]), "peak": peak}), tmp_path / f"{name}.parquet")
    found = compare(str(tmp_path / "a.parquet"), str(tmp_path / "b.parquet"))
    assert found.retyped == [("peak", "integer", "text")] and not found.differ


def test_a_pair_of_columns_is_a_key(tmp_path: Path) -> None:
    rows = [(kiln, day, f"{kiln}{day}") for kiln in "abc" for day in "123"]
    names = ("kiln", "day", "peak")
    one = written(tmp_path / "a.csv", [(*row[:2], "x") for row in rows], names)
    other = written(tmp_path / "b.csv", [(*row[:2], "x") for row in rows[::-1]], names)
    found = compare(one, other)
    assert found.key == ("kiln", "day") and found.same == 9 and found.moved == 8


def test_a_key_that_few_rows_share_is_none(tmp_path: Path) -> None:
    one = written(tmp_path / "a.csv", [(f"F-{n}", "a", "b", "c", "d") for n in range(20)])
    other = written(tmp_path / "b.csv", [(f"G-{n}", "a", "b", "c", "d") for n in range(20)])
    found = compare(one, other)
    assert found.key == () and found.changed == 20 and found.differences[0].name == "id"


def test_what_is_no_key_is_refused(tmp_path: Path) -> None:
    rows = [("F-1", "k1", "1", "x", "y"), ("F-2", "k1", "2", "x", "y"), ("F-3", "k2", "3", "x", "y")]
    one, other = written(tmp_path / "a.csv", rows), written(tmp_path / "b.csv", rows)
    with pytest.raises(
        Refusal, match=r'kiln is no key of .*a.csv: 2 rows have the same .* 2 of them "k1"'
    ) as caught:
        compare(one, other, ["kiln"])
    assert "With id or peak it would be one: --on 'kiln, id'" in str(caught.value)
    assert caught.value.code is ExitCode.ANSWER_IS_NO
    with pytest.raises(Refusal, match="has no column"):
        compare(one, other, ["kilns"])


def test_tables_without_a_common_column(tmp_path: Path) -> None:
    one = written(tmp_path / "a.csv", [("1",)], ("a",))
    other = written(tmp_path / "b.csv", [("1",)], ("b",))
    with pytest.raises(Refusal, match="have no column in common"):
        compare(one, other)


def test_rows_that_do_not_fit_are_told(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("id,kiln\n1,a\n2\n3,c\n")
    other = written(tmp_path / "b.csv", [("1", "a"), ("3", "C")], ("id", "kiln"))
    found = compare(str(tmp_path / "a.csv"), other)
    assert found.unfit == (1, 0) and found.changed == 1
    (change,) = found.differences[0].changes.values()
    assert (change.row, change.row_now) == (3, 2)


def test_rows_wait_in_a_file_where_memory_is_short(tmp_path: Path) -> None:
    rows = [(f"F-{n}", "a" * 50, "b", "c", "d") for n in range(20_000)]
    one = written(tmp_path / "a.csv", rows)
    other = written(tmp_path / "b.csv", [(row[0], row[1] + "x", *row[2:]) for row in rows[::-1]])
    found = compare(one, other, memory=1 << 20)
    assert (found.changed, found.differences[0].cells, found.moved) == (20_000, 20_000, 19_999)


def test_empty_tables(tmp_path: Path) -> None:
    one, other = written(tmp_path / "a.csv", []), written(tmp_path / "b.csv", [("1", "", "", "", "")])
    assert not compare(one, one).differ
    found = compare(one, other)
    assert (found.rows_come, found.rows_gone, found.same) == (1, 0, 0)
