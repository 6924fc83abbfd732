"""JSON Lines and arrays of objects: types of the whole file, exact numbers, lines that are no rows."""

from __future__ import annotations

import json
from decimal import Decimal
from pathlib import Path
from typing import Any

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.formats.json import scan, splitting
from mangler.language.mistake import ExitCode, Refusal

PLAIN = LinkedRecipe.parse("mangler 1\ntolerate 100%")


MARKS = st.text('"\\[]{},', max_size=6)


def table_of(folder: Path, content: str | bytes, name: str = "e.jsonl") -> Any:
    path = folder / name
    path.write_bytes(content.encode() if isinstance(content, str) else content)
    return PLAIN.run(path).table


def unfit(folder: Path, content: str | bytes) -> list[tuple[int, int, str]]:
    """Row, line and reason of each line that is no row."""
    (folder / "e.jsonl").write_bytes(content.encode() if isinstance(content, str) else content)
    return [(row.row, row.line, row.reason) for row in PLAIN.run(folder / "e.jsonl").rows_aside]


@pytest.mark.parametrize(
    ("values", "kind", "kept"),
    [
        ("1 2 null", pa.int64(), [1, 2, None]),
        ("1 2.5", pa.float64(), [1.0, 2.5]),
        ("true null", pa.bool_(), [True, None]),
        ('"a" ""', pa.string(), ["a", ""]),
        ("null null", pa.string(), [None, None]),
        ("18446744073709551615 1", pa.uint64(), [2**64 - 1, 1]),
        ("18446744073709551615 -1", pa.decimal128(20, 0), [Decimal(2**64 - 1), Decimal(-1)]),
        (f"{10**30} 5", pa.decimal128(31, 0), [Decimal(10**30), Decimal(5)]),
        ("0.1234567890123456789 2", pa.decimal128(20, 19), [Decimal("0.1234567890123456789"), Decimal(2)]),
        ("0.1234567890123456789 2.5", pa.string(), ["0.1234567890123456789", "2.5"]),
        ("9007199254740993 0.5", pa.decimal128(17, 1), None),
        (f"{10**50} 1", pa.string(), [str(10**50), "1"]),
        ("0.30000000000000004 1.0", pa.float64(), [0.30000000000000004, 1.0]),
        ('1 "A7" true', pa.string(), ["1", "A7", "true"]),
        ('["a"] []', pa.list_(pa.string()), [["a"], []]),
        ("[1] [2, null]", pa.list_(pa.int64()), [[1], [2, None]]),
        ('[1] ["a"]', pa.list_(pa.string()), [["1"], ["a"]]),
        ('[1] "a"', pa.json_(pa.string()), ["[1]", '"a"']),
        ('[{"a":1}] null', pa.json_(pa.string()), ['[{"a":1}]', None]),
        ('{"a":1} "x"', pa.json_(pa.string()), ['{"a":1}', '"x"']),
    ],
)
def test_a_column_has_the_type_of_all_its_values(tmp_path: Path, values: str, kind: Any, kept: Any) -> None:
    lines = "".join(f'{{"c":{value}}}\n' for value in _parts(values))
    column = table_of(tmp_path, lines).column("c").combine_chunks()
    if kept is None:  # whole numbers beyond what a float holds, beside one with places: as text, exact
        assert column.to_pylist() == ["9007199254740993", "0.5"]
        return
    assert column.type == kind and column.to_pylist() == kept


def _parts(values: str) -> list[str]:
    """The values, which have blanks between them."""
    decoder, at, found = json.JSONDecoder(), 0, []
    while at < len(values):
        _, end = decoder.raw_decode(values, at)
        found.append(values[at:end])
        at = end + 1
    return found


@pytest.mark.parametrize("small", [True, False])
def test_types_do_not_depend_on_where_the_file_is_cut(
    tmp_path: Path, small: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    rows: list[dict[str, Any]] = [{"a": 1, "b": {"c": "x"}, "d": [1], "e": 1}] * 40
    rows += [{"a": 2.5, "b": {"c": None, "f": True}, "d": ["z"], "e": 2}] * 40
    rows += [{"a": "text", "b": 5, "d": [], "e": 10**25}, {"g": "late"}]
    lines = "".join(json.dumps(row) + "\n" for row in rows)
    whole = table_of(tmp_path, lines)
    monkeypatch.setattr(scan, "PIECE", 100)
    if small:
        monkeypatch.setattr(scan, "SMALL", 0)
    parts = table_of(tmp_path, lines)
    assert parts.schema == whole.schema and parts.to_pylist() == whole.to_pylist()
    assert whole.column_names == ["a", "b", "d", "e", "g"]
    assert whole.column("b").combine_chunks().storage[0].as_py() == '{"c":"x"}'
    assert whole.column("e").to_pylist()[80] == Decimal(10**25)


@pytest.mark.parametrize(
    ("line", "reason"),
    [
        ('{"a":1,"a":2}', 'has the key "a" twice'),
        ('{"b":{"x":1,"x":1}}', 'has the key "x" twice'),
        ('{"a":NaN}', "is not JSON"),
        ('{"a":1', "is not JSON"),
        ("5", "is not an object, but a number"),
        ("[1]", "is not an object, but a list"),
        ('{"a":"\\ud800"}', "lone surrogate"),
        ('{"a":1,"a":"\\ud800"}', "lone surrogate"),
        ('{"a":' + "[" * 10_000 + "]" * 10_000 + "}", "nested too deeply"),
    ],
)
def test_a_line_that_is_no_row_is_set_aside_with_its_line(tmp_path: Path, line: str, reason: str) -> None:
    [(row, number, why)] = unfit(tmp_path, f'{{"a":1}}\n\n{line}\n{{"a":2}}\n')
    assert (row, number) == (2, 3) and reason in why


def test_bytes_that_are_no_utf_8_are_set_aside(tmp_path: Path) -> None:
    [(row, _, why)] = unfit(tmp_path, b'{"a":"x"}\n{"a":"\xff"}\n{"a":"y"}\n')
    assert row == 2 and "UTF-8" in why


def test_what_is_set_aside_is_an_object_and_runs_again(tmp_path: Path) -> None:
    lines = '{"a":"1","n":0.10000000000000000001}\n{broken\n{"a":"x"}\n{"a":1,"a":2}\n'
    (tmp_path / "e.jsonl").write_text(lines)
    recipe = LinkedRecipe.parse("mangler 1\nconvert a to integer failures aside\ntolerate 100%")
    aside = tmp_path / "e.aside.jsonl"
    recipe.run(tmp_path / "e.jsonl", tmp_path / "o.jsonl", aside)
    rows = [json.loads(line) for line in aside.read_text().splitlines()]
    assert [row["_row"] for row in rows] == [2, 3, 4]
    assert rows[0]["_text"] == "{broken" and rows[1]["a"] == "x" and rows[2]["_text"] == '{"a":1,"a":2}'
    fixed = aside.read_text().replace('"{broken"', json.dumps('{"a":"7"}')).replace('"x"', '"8"')
    aside.write_text(fixed)
    again = recipe.run(aside)
    assert again.table.column("a").to_pylist() == [7, 8] and again.summary.balance.set_aside == 1


@pytest.mark.parametrize("indent", [None, 2])
def test_an_array_and_objects_in_any_layout(tmp_path: Path, indent: int | None) -> None:
    rows = [{"a": 'x "],[{ \\', "b": {"c": [1, 2]}}, {"a": "\\\\", "b": {"c": []}}, {"a": None, "b": None}]
    wanted = table_of(tmp_path, "".join(json.dumps(row) + "\n" for row in rows)).to_pylist()
    assert table_of(tmp_path, json.dumps(rows, indent=indent), "e.json").to_pylist() == wanted
    one_by_one = "\n".join(json.dumps(row, indent=2) for row in rows)
    assert table_of(tmp_path, one_by_one, "e.json").to_pylist() == wanted
    assert table_of(tmp_path, b"\xef\xbb\xbf" + json.dumps(rows).encode(), "e.json").to_pylist() == wanted


@given(
    rows=st.lists(
        st.dictionaries(
            st.sampled_from(["a", "b", "c.d"]),
            st.one_of(
                st.none(),
                st.text(st.characters(exclude_categories=["Cs"]), max_size=6),
                st.text('"\\[]{},', max_size=6),
            ),
            min_size=1,
        ),
        max_size=12,
    ),
    indent=st.sampled_from([None, 1]),
    size=st.integers(1, 60),
)
def test_elements_of_an_array_are_found_wherever_it_is_cut(
    tmp_path: Path, rows: list[dict[str, Any]], indent: int | None, size: int
) -> None:
    path = tmp_path / "e.json"
    path.write_text(json.dumps(rows, indent=indent, ensure_ascii=False))
    with path.open("rb") as file:
        found = [
            text
            for piece in splitting.pieces(file, splitting.Layout.ARRAY, size, "e")
            for text in piece.texts
        ]
    assert [json.loads(text) for text in found] == rows


@pytest.mark.parametrize("content", ['[{"a":1},', '[{"a":1}', '[{"a":"x}]', '[{"a":1}] x', '{"a":1}\n{"a":'])
def test_a_file_that_ends_too_early_is_damaged(tmp_path: Path, content: str) -> None:
    (tmp_path / "e.json").write_text(content)
    with pytest.raises(Refusal) as refused:
        PLAIN.run(tmp_path / "e.json", tmp_path / "o.json")
    assert refused.value.code is ExitCode.FILE_TROUBLE and refused.value.mistakes[0].word == "file-damaged"
    assert not (tmp_path / "o.json").exists()


@pytest.mark.parametrize(
    ("content", "word"), [("[]", "no-columns"), ("{}\n", "no-columns"), ("[ ]\n", "no-columns")]
)
def test_a_file_without_columns_is_refused(tmp_path: Path, content: str, word: str) -> None:
    (tmp_path / "e.json").write_text(content)
    with pytest.raises(Refusal) as refused:
        PLAIN.run(tmp_path / "e.json")
    assert refused.value.mistakes[0].word == word


def test_objects_with_few_keys_in_common_are_refused(tmp_path: Path, in_a_minute: None) -> None:  # noqa: ARG001
    path = tmp_path / "e.jsonl"
    path.write_text("".join(f'{{"key {number}":1}}\n' for number in range(60_000)))
    with pytest.raises(Refusal, match="and few in common"):
        PLAIN.run(path)
    path.write_text(json.dumps({f"k{number}": 1 for number in range(200_000)}) + "\n")
    with pytest.raises(Refusal, match="200,000 columns"):
        PLAIN.run(path)


def test_text_that_starts_like_json_is_still_text(tmp_path: Path) -> None:
    for content in ("{a},b\n1,2\n", "[a],b\n1,2\n", "{},b\n1,2\n"):
        path = tmp_path / "e.csv"
        path.write_text(content)
        result = LinkedRecipe.parse("mangler 1\nread format text").run(path)
        assert result.table.column_names[1] == "b"


def test_nested_objects_come_out_nested_again(tmp_path: Path) -> None:
    lines = '{"a":{"b":1,"c":{"d":"x"}},"e.f":2}\n{"a":null,"e.f":3}\n'
    (tmp_path / "e.jsonl").write_text(lines)
    recipe = LinkedRecipe.parse("mangler 1\nmake [a.g] = text([a.b])\nrename [a.c.d] to [a.c.z]")
    recipe.run(tmp_path / "e.jsonl", tmp_path / "o.jsonl")
    assert [json.loads(line) for line in (tmp_path / "o.jsonl").read_text().splitlines()] == [
        {"a": {"b": 1, "c": {"z": "x"}, "g": "1"}, "e.f": 2},
        {"a": {"b": None, "c": {"z": None}, "g": None}, "e.f": 3},
    ]
    recipe.run(tmp_path / "e.jsonl", tmp_path / "o.csv")
    assert (tmp_path / "o.csv").read_text().splitlines()[0] == "a.b,a.c.z,e.f,a.g"


def test_json_without_form_for_a_value_is_warned_of(tmp_path: Path) -> None:
    table = pa.table({"x": pa.array([1.5, float("nan"), float("inf"), None])})
    with pa.OSFile(str(tmp_path / "e.arrow"), "wb") as file, pa.ipc.new_file(file, table.schema) as writer:
        writer.write_table(table)
    result = PLAIN.run(tmp_path / "e.arrow", tmp_path / "o.json")
    assert json.loads((tmp_path / "o.json").read_text()) == [
        {"x": 1.5},
        {"x": None},
        {"x": None},
        {"x": None},
    ]
    [warning] = result.summary.warnings
    assert "2 in x" in warning


def test_the_bytes_do_not_depend_on_threads(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(scan, "PIECE", 3000)
    monkeypatch.setattr(scan, "PARTITION", 9000)
    lines = "".join(json.dumps({"n": number, "t": f" {number}"}) + "\n" for number in range(3000))
    (tmp_path / "e.jsonl").write_text(lines)
    recipe = LinkedRecipe.parse("mangler 1\ntrim t\ndrop rows where n % 7 = 0")
    for workers in (1, 3):
        recipe.run(tmp_path / "e.jsonl", tmp_path / f"{workers}.json", options=RunOptions(workers=workers))
    assert (tmp_path / "1.json").read_bytes() == (tmp_path / "3.json").read_bytes()
    assert len(json.loads((tmp_path / "1.json").read_text())) == 3000 - 429
