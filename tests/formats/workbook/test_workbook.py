"""Workbooks: where the table of a sheet is, what cells become, what is written, and what bad files get."""

from __future__ import annotations

import datetime as dt
import zipfile
from collections.abc import Callable
from decimal import Decimal
from pathlib import Path
from typing import Any

import pyarrow as pa
import pytest
import xlsxwriter

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.formats.workbook import reading, sink
from mangler.language.mistake import ExitCode, Refusal

PLAIN = LinkedRecipe.parse("mangler 1")


def book(path: Path, write: Callable[[Any, Any], None], *more: str) -> Path:
    """A workbook whose first sheet, Log, is written by a function; with further sheets, each with one cell."""
    made = xlsxwriter.Workbook(str(path))
    write(made, made.add_worksheet("Log"))
    for name in more:
        made.add_worksheet(name).write(0, 0, name)
    made.close()
    return path


def rows(*cells: list[Any], at: int = 0, left: int = 0) -> Callable[[Any, Any], None]:
    def write(_: Any, sheet: Any) -> None:
        for number, row in enumerate(cells):
            for index, cell in enumerate(row):
                if cell is not None:
                    sheet.write(at + number, left + index, cell)

    return write


def table_of(path: Path, read: str = "") -> Any:
    return LinkedRecipe.parse(f"mangler 1\n{read}").run(path).table


def test_cells_have_types(tmp_path: Path) -> None:
    def write(made: Any, sheet: Any) -> None:
        day, moment, clock, span = (
            made.add_format({"num_format": form})
            for form in ("yyyy-mm-dd", "yyyy-mm-dd hh:mm", "hh:mm", "[hh]:mm")
        )
        for index, name in enumerate(
            ("text", "whole", "number", "day", "moment", "clock", "span", "truth", "sum", "bad")
        ):
            sheet.write(0, index, name)
        for row in (1, 2):
            sheet.write_string(row, 0, "007")
            sheet.write_number(row, 1, 5 * row)
            sheet.write_number(row, 2, row / 4)
            sheet.write_datetime(row, 3, dt.date(2026, 5, 4), day)
            sheet.write_datetime(row, 4, dt.datetime(2026, 5, 4, 9, 30), moment)
            sheet.write_datetime(row, 5, dt.time(9, 30), clock)
            sheet.write_datetime(row, 6, dt.timedelta(hours=30, minutes=5), span)
            sheet.write_boolean(row, 7, row == 1)
            sheet.write_formula(row, 8, "=B2*2", None, 10)
            sheet.write_formula(row, 9, "=1/0", None, "#DIV/0!")

    table = table_of(book(tmp_path / "e.xlsx", write))
    assert [str(field.type) for field in table.schema] == [
        "string", "int64", "double", "date32[day]", "timestamp[us]", "time64[us]", "string", "bool", "int64", "string",
    ]  # fmt: skip
    assert table.to_pylist()[0] == {
        "text": "007",
        "whole": 5,
        "number": 0.25,
        "day": dt.date(2026, 5, 4),
        "moment": dt.datetime(2026, 5, 4, 9, 30),
        "clock": dt.time(9, 30),
        "span": "30:05:00",
        "truth": True,
        "sum": 10,
        "bad": None,
    }


def test_a_column_of_several_kinds_is_text_and_said_to_be_so(tmp_path: Path) -> None:
    path = book(
        tmp_path / "e.xlsx", rows(["peak", "n"], [1222, 1], ["998 °C", 2.5], [True, 3], [None, 4], [0.5, 5])
    )
    result = PLAIN.run(path)
    assert result.table.column("peak").to_pylist() == ["1222", "998 °C", "true", None, "0.5"]
    assert result.table.column("n").to_pylist() == [1.0, 2.5, 3.0, 4.0, 5.0]
    [remark] = result.summary.steps[0].remarks
    assert "peak (numbers and texts and true or false)" in remark


def test_types_do_not_depend_on_chunks(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    cells = [["a", "b", "c"], *([n, n, None] for n in range(30)), ["x", 0.5, dt.date(2026, 5, 4).isoformat()]]
    path = book(tmp_path / "e.xlsx", rows(*cells))
    whole = table_of(path)
    monkeypatch.setattr(reading, "CHUNK", 7)
    parts = table_of(path)
    assert parts.to_pylist() == whole.to_pylist() and parts.schema == whole.schema
    assert whole.column("a").to_pylist()[:2] == ["0", "1"] and whole.column("b").to_pylist()[0] == 0.0


@pytest.mark.parametrize("left", [0, 3])
def test_the_table_is_found_below_a_title_and_between_margins(tmp_path: Path, left: int) -> None:
    path = book(
        tmp_path / "e.xlsx",
        rows(
            ["Kiln log", None, None, None, 5],
            [],
            ["kiln", "cone", "made", "left", None],
            ["007", "6", 4, 0],
            [],
            ["012", "06", 3, 1],
            left=left,
            at=2,
        ),
    )
    result = PLAIN.run(path)
    assert result.table.to_pylist() == [
        {"kiln": "007", "cone": "6", "made": 4, "left": 0},
        {"kiln": "012", "cone": "06", "made": 3, "left": 1},
    ]
    assert result.summary.detected["header"] == "row 5"
    assert "1 empty row ignored" in result.summary.steps[0].remarks


@pytest.mark.parametrize(
    ("read", "names", "first"),
    [
        ("read header row 2", ["1", "2"], ["3", "4"]),
        ("read header absent", ["column_1", "column_2"], ["a", "b"]),
        ("read header absent called x, y", ["x", "y"], ["a", "b"]),
        ("read header rows 2", ["a 1", "b 2"], ["3", "4"]),
        ("read skip 1", ["1", "2"], ["3", "4"]),
        ("read skip 1 header row 2", ["3", "4"], ["5", "6"]),
        ("read skip last 1", ["a", "b"], ["1", "2"]),
        ('read nulls "3"', ["a", "b"], ["1", "2"]),
    ],
)
def test_what_read_says_of_the_header(tmp_path: Path, read: str, names: list[str], first: list[str]) -> None:
    path = book(tmp_path / "e.xlsx", rows(["a", "b"], ["1", "2"], ["3", "4"], ["5", "6"], ["7", "8"]))
    table = table_of(path, read)
    assert table.column_names == names and list(table.to_pylist()[0].values()) == first
    if "last" in read:
        assert table.num_rows == 3
    if "nulls" in read:
        assert table.column("a").to_pylist() == ["1", None, "5", "7"]


def test_merged_cells_have_their_value_once_or_everywhere(tmp_path: Path) -> None:
    def write(made: Any, sheet: Any) -> None:  # noqa: ARG001
        sheet.merge_range(0, 0, 0, 2, "a title over all columns")
        rows(["kiln", "n", "m"], at=1)(None, sheet)
        sheet.merge_range(2, 0, 4, 0, "007")
        sheet.merge_range(2, 1, 2, 2, "both")
        rows([None, None, None], [None, 1, 2], [None, 3, 4], ["012", 5, 6], at=2)(None, sheet)
        sheet.merge_range(6, 0, 8, 0, "031")

    path = book(tmp_path / "e.xlsx", write)
    assert table_of(path).column("kiln").to_pylist() == ["007", None, None, "012", "031"]
    repeated = table_of(path, "read merged repeat")
    assert repeated.column("kiln").to_pylist() == ["007", "007", "007", "012", "031", "031", "031"]
    assert repeated.column("m").to_pylist()[:2] == ["both", "2"]


def test_sheets_by_name_by_number_and_the_only_one(tmp_path: Path) -> None:
    path = book(tmp_path / "e.xlsx", rows(["a"], [1]), "Studios")
    assert table_of(path, 'read sheet "Log"').to_pylist() == [{"a": 1}]
    assert table_of(path, 'read sheet "log"').to_pylist() == [{"a": 1}]
    assert table_of(path, "read sheet 2").column_names == ["Studios"]
    for address in (f"{path}#Log", f"{path}#1"):
        assert PLAIN.run(address).table.to_pylist() == [{"a": 1}]
    with pytest.raises(Refusal, match="2 sheets, and one is to be read: Log, Studios") as several:
        PLAIN.run(path)
    assert 'read sheet "Log"' in several.value.mistakes[0].advice
    with pytest.raises(Refusal, match=r"has no sheet Studio\b") as missing:
        PLAIN.run(f"{path}#Studio")
    assert "Nearest: Studios" in missing.value.mistakes[0].advice
    one = xlsxwriter.Workbook(str(tmp_path / "one.xlsx"))
    one.add_worksheet("empty")
    one.add_worksheet("hidden").hide()
    one.add_worksheet("full").write(0, 0, "x")
    one.add_worksheet("empty too")
    one.close()
    assert PLAIN.run(tmp_path / "one.xlsx").table.column_names == ["x"]


@pytest.mark.parametrize("sheet", ["true", "0", "1.5"])
def test_a_sheet_has_a_name_or_a_number(sheet: str) -> None:
    with pytest.raises(Refusal) as refused:
        LinkedRecipe.parse(f"mangler 1\nread sheet {sheet}")
    assert refused.value.mistakes[0].word in ("wrong-argument", "count-from-one")


def test_rows_set_aside_go_to_a_workbook_with_the_rows_of_the_sheet(tmp_path: Path) -> None:
    path = book(tmp_path / "e.xlsx", rows(["Title"], [], ["n", "t", "u"], ["1", "a", "b"], ["x", "b", "c"]))
    recipe = LinkedRecipe.parse("mangler 1\nconvert n to integer failures aside\ntolerate 1 row")
    result = recipe.run(path, tmp_path / "o.xlsx", tmp_path / "aside.xlsx")
    assert [(row.row, row.line) for row in result.rows_aside] == [(2, 5)]
    aside = table_of(tmp_path / "aside.xlsx")
    assert aside.to_pylist() == [{"n": "x", "t": "b", "u": "c"}]


def typed(tmp_path: Path, columns: dict[str, Any]) -> Path:
    path = tmp_path / "typed.arrow"
    table = pa.table(columns)
    with pa.OSFile(str(path), "wb") as file, pa.ipc.new_file(file, table.schema) as writer:
        writer.write_table(table)
    return path


def test_what_is_written_has_types_widths_and_a_header_that_stays(tmp_path: Path) -> None:
    moment = dt.datetime(2026, 5, 4, 9, 30, 1)
    columns = {
        "n": pa.array([1, None]),
        "d": pa.array([Decimal("1.20"), Decimal("12.50")], pa.decimal128(9, 2)),
        "t": pa.array([moment, None], pa.timestamp("us")),
        "z": pa.array([moment, None], pa.timestamp("us", "Europe/Paris")),
        "text": pa.array(["=1+1", "x" * 100]),
    }
    result = PLAIN.run(typed(tmp_path, columns), tmp_path / "o.xlsx")
    assert any("z loses its zone, Europe/Paris" in remark for remark in result.summary.steps[0].remarks)
    back = table_of(tmp_path / "o.xlsx")
    assert back.to_pylist()[0] == {
        "n": 1, "d": 1.2, "t": moment, "z": dt.datetime(2026, 5, 4, 11, 30, 1), "text": "=1+1",
    }  # fmt: skip
    with zipfile.ZipFile(tmp_path / "o.xlsx") as package:
        sheet = package.read("xl/worksheets/sheet1.xml").decode()
        assert '<pane ySplit="1"' in sheet and 'state="frozen"' in sheet
        assert 'width="60.7' in sheet and "<f>" not in sheet  # a text is no formula
        assert "1980-01-01" in package.read("docProps/core.xml").decode()


def test_numbers_that_a_cell_would_round_are_texts_with_a_warning(tmp_path: Path) -> None:
    columns = {
        "i": pa.array([2**53 + 1, 5]),
        "d": pa.array([Decimal("1234567890.1234567"), Decimal(1)], pa.decimal128(20, 7)),
        "f": pa.array([float("nan"), 1.5]),
        "old": pa.array([dt.date(1899, 1, 1), dt.date(2026, 5, 4)]),
    }
    result = PLAIN.run(typed(tmp_path, columns), tmp_path / "o.xlsx")
    assert table_of(tmp_path / "o.xlsx").to_pylist()[0] == {
        "i": str(2**53 + 1), "d": "1234567890.1234567", "f": None, "old": "1899-01-01",
    }  # fmt: skip
    said = " ".join(result.summary.warnings)
    for part in ("1 in i, 1 in d", "empty cells: 1 in f", "1 in old"):
        assert part in said


def test_limits_of_a_sheet_are_refused_and_nothing_is_written(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    out = tmp_path / "o.xlsx"
    with pytest.raises(Refusal, match="a text of 32,768 characters"):
        PLAIN.run(typed(tmp_path, {"a": pa.array(["x", "y" * 32_768])}), out)
    with pytest.raises(Refusal, match="16,385 columns are to be written"):
        PLAIN.run(typed(tmp_path, {f"c{n}": pa.array([1]) for n in range(16_385)}), out)
    monkeypatch.setattr(sink, "MOST_ROWS", 10)
    with pytest.raises(Refusal, match="more than 9 rows"):
        PLAIN.run(typed(tmp_path, {"a": pa.array(range(10))}), out)
    PLAIN.run(typed(tmp_path, {"a": pa.array(range(9))}), out)
    assert table_of(out).num_rows == 9


def test_two_runs_give_the_same_bytes_whatever_the_partitions(tmp_path: Path) -> None:
    (tmp_path / "e.csv").write_text("a,b\n" + "".join(f"{n},text {n}\n" for n in range(500)))
    recipe = LinkedRecipe.parse("mangler 1\nconvert a to integer")
    for name, size in (("1", 1 << 20), ("2", 700)):
        recipe.run(tmp_path / "e.csv", tmp_path / f"{name}.xlsx", options=RunOptions(partition_size=size))
    assert (tmp_path / "1.xlsx").read_bytes() == (tmp_path / "2.xlsx").read_bytes()


def test_damaged_and_hostile_workbooks(tmp_path: Path) -> None:
    path = book(tmp_path / "e.xlsx", rows(["a"], *([n] for n in range(200))))
    content = path.read_bytes()
    for size in (30, len(content) // 2, len(content) - 5):
        (tmp_path / "cut.xlsx").write_bytes(content[:size])
        with pytest.raises(Refusal) as refused:
            PLAIN.run(tmp_path / "cut.xlsx")
        assert refused.value.code is ExitCode.FILE_TROUBLE
    far = book(
        tmp_path / "far.xlsx", lambda _, sheet: (sheet.write(0, 0, "a"), sheet.write(1_048_575, 16_383, 1))
    )  # type: ignore[arg-type,return-value]
    with pytest.raises(Refusal, match="cells up to row 1,048,576 and column 16,384"):
        PLAIN.run(far)
    with zipfile.ZipFile(tmp_path / "bomb.xlsx", "w", zipfile.ZIP_DEFLATED) as package:
        with zipfile.ZipFile(path) as good:
            for name in good.namelist():
                if name != "xl/worksheets/sheet1.xml":
                    package.writestr(name, good.read(name))
        package.writestr("xl/worksheets/sheet1.xml", b" " * (80 << 20))
    with pytest.raises(Refusal, match="unpacks to 80 MB or more, and 64 MB of memory are allowed"):
        PLAIN.run(tmp_path / "bomb.xlsx", options=RunOptions(memory=64 << 20))
    (tmp_path / "locked.xlsx").write_bytes(
        b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + bytes(600) + "EncryptedPackage".encode("utf-16-le")
    )
    with pytest.raises(Refusal, match="locked with a password"):
        PLAIN.run(tmp_path / "locked.xlsx")
    document = tmp_path / "letter.xlsx"
    with zipfile.ZipFile(document, "w") as package:
        package.writestr("word/document.xml", "<x/>")
    with pytest.raises(Refusal, match="is a text document"):
        PLAIN.run(document)


FILES = Path(__file__).with_name("files")


@pytest.mark.parametrize("name", ["kiln.xls", "kiln.xlsb", "kiln.ods"])
def test_other_kinds_of_workbooks_are_read_and_written_as_xlsx(name: str, tmp_path: Path) -> None:
    rows_read = PLAIN.run(f"{FILES / name}#Log").table.to_pylist()[:3]
    assert [row["kiln"] for row in rows_read] == ["007", "007", "012"]
    assert [row["peak_c"] for row in rows_read] == ["1222", "998 °C", "1060.5"]
    assert [row["made"] for row in rows_read] == [8, 10, 12]
    assert [bool(row["good"]) for row in rows_read] == [True, False, True]
    if "fired_at" in rows_read[0]:
        assert rows_read[0]["fired_on"] == dt.date(2026, 5, 4)
        assert rows_read[2]["fired_at"] == dt.datetime(2026, 5, 6, 9, 30)
        assert rows_read[0]["note"] == 'Zoë, "x"'
    with pytest.raises(Refusal, match="2 sheets, and one is to be read"):  # one more is hidden in two of them
        PLAIN.run(FILES / name)
    PLAIN.run(f"{FILES / name}#Log", tmp_path / "o.xlsx")
    assert table_of(tmp_path / "o.xlsx").column("kiln").to_pylist()[:3] == ["007", "007", "012"]
    with pytest.raises(Refusal, match="are read, and not written"):
        PLAIN.run(f"{FILES / name}#Log", tmp_path / f"o{Path(name).suffix}")


def test_nothing_is_imported_from_the_folder_of_the_extract(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Reading starts another Python, which by itself would look for modules where it is started."""
    book(tmp_path / "e.xlsx", rows(["a"], [1]))
    for name in ("pickle.py", "resource.py", "python_calamine.py"):
        (tmp_path / name).write_text("open('ran', 'w').close()\n")
    (tmp_path / "mangler").mkdir()
    (tmp_path / "mangler" / "__init__.py").write_text("open('ran', 'w').close()\n")
    monkeypatch.chdir(tmp_path)
    assert PLAIN.run("e.xlsx").table.to_pylist() == [{"a": 1}]
    assert not (tmp_path / "ran").exists()


def test_a_file_that_ends_the_library_is_refused(tmp_path: Path) -> None:
    """A row number of a binary workbook, damaged so that the rectangle of its cells would take all memory."""
    content = zipfile.ZipFile(FILES / "kiln.xlsb")
    with content as package, zipfile.ZipFile(tmp_path / "far.xlsb", "w") as made:
        for name in package.namelist():
            part = package.read(name)
            if name.endswith("sheet1.bin"):
                # A record of a row is of kind 0 and 17 bytes, one of a truth value of kind 4 and 9 bytes.
                row, cell = b"\x00\x11\x05\x00\x00\x00", b"\x04\x09\x03\x00\x00\x00"
                assert row in part and cell in part
                part = part.replace(row, row[:2] + (1_048_575).to_bytes(4, "little"))
                at = part.rindex(cell)
                part = part[:at] + cell[:2] + (16_383).to_bytes(4, "little") + part[at + 6 :]
            made.writestr(name, part)
    with pytest.raises(Refusal) as refused:
        PLAIN.run(f"{tmp_path / 'far.xlsb'}#Log", options=RunOptions(memory=256 << 20))
    assert "takes more than 256 MB of memory" in str(refused.value)
