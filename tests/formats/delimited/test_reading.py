"""Reading delimited text against a plain reader that looks at one character after the other."""

from __future__ import annotations

from contextlib import closing
from pathlib import Path
from unittest import mock

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mangler.formats.contract import ReadRequest
from mangler.formats.delimited import parse
from mangler.formats.delimited.block_reader import Block
from mangler.formats.registry import open_source
from mangler.language.mistake import ExitCode, Refusal
from mangler.table.settings import ReadSettings

Row = tuple[int, list[str | None]]


def read(
    path: Path, partition_size: int = 1 << 22, **clauses
) -> tuple[list[Row], list[tuple[int, str, bytes]]]:  # type: ignore[no-untyped-def]
    """The rows with their numbers, and the unfit ones with their reason and their line as it was."""
    source = open_source(str(path), ReadRequest(ReadSettings(**clauses), partition_size))
    rows: list[Row] = []
    unfit: list[tuple[int, str, bytes]] = []
    with closing(source):
        for partition in source.partitions():
            parsed = source.read(partition)
            columns = [column.to_pylist() for column in parsed.batch.columns]
            rows += zip(parsed.batch.rows.tolist(), map(list, zip(*columns, strict=True)), strict=True)
            records = partition.as_read(parsed.unfit.rows).cast("binary").to_pylist()
            noted = zip(parsed.unfit, records, strict=True)
            unfit += [(row, reason, record) for (row, reason), record in noted]
    return rows, unfit


def model(text: str, delimiter: str, width: int) -> tuple[list[Row], list[int]] | None:
    """Rows and the numbers of unfit ones; None where a quote is never closed."""
    rows: list[Row] = []
    unfit: list[int] = []
    index, number = 0, 0
    while index < len(text):
        cells: list[str | None] = []
        broken, empty, start = False, True, index
        while True:
            cell, quoted = "", False
            if text.startswith('"', index):
                quoted, index = True, index + 1
                while True:
                    if index >= len(text):
                        return None
                    if text.startswith('""', index):
                        cell, index = cell + '"', index + 2
                    elif text[index] == '"':
                        index += 1
                        break
                    else:
                        cell, index = cell + text[index], index + 1
            stop = index
            while stop < len(text) and not (
                text.startswith((delimiter, "\n", "\r\n"), stop) or text[stop:] == "\r"
            ):
                stop += 1
            broken |= quoted and stop > index
            cells.append(cell + text[index:stop] if quoted or stop > index else None)
            index = stop
            if text.startswith(delimiter, index):
                index += len(delimiter)
                continue
            break
        empty = index == start
        index += 2 if text.startswith("\r\n", index) else 1
        if empty and width > 1:
            continue
        number += 1
        if broken or len(cells) != width:
            unfit.append(number)
        else:
            rows.append((number, cells))
    return rows, unfit


PIECES = st.sampled_from(
    ['"', '""', ";", ";", "\n", "\n", "\r\n", "\r", "a", "b c", "é", "\ufeff", '"x";"y"\n', '5" z']
)


@settings(max_examples=600)
@given(
    st.lists(PIECES, max_size=40).map("".join),
    st.integers(1, 40),
    st.sampled_from([1, 2, 3]),
    st.sampled_from([0, 1000]),
)
def test_any_text_is_read_as_the_plain_reader_reads_it(
    tmp_path: Path, text: str, block: int, width: int, noted: int
) -> None:
    """Also where there are more ragged rows than Arrow is asked to name."""
    path = tmp_path / "extract.csv"
    path.write_bytes((";".join("uvw"[:width]) + "\n" + text).encode())
    expected = model(text, ";", width)
    if expected is None:
        with pytest.raises(Refusal, match="never closed") as refused:
            read(path, block, delimiter=";")
        assert refused.value.code is ExitCode.FILE_TROUBLE
        return
    with mock.patch.object(parse, "MOST_NOTED", noted):
        rows, unfit = read(path, block, delimiter=";")
    assert rows == expected[0]
    assert [number for number, _, _ in unfit] == expected[1]


@pytest.mark.parametrize("delimiter", [",", "\t", "|", " ", "¦", "€", "\x1f", "a"])
def test_any_one_character_delimits(tmp_path: Path, delimiter: str) -> None:
    path = tmp_path / "e.csv"
    path.write_text(f'x{delimiter}y\n1{delimiter}"2{delimiter}3"\n"4"{delimiter}\x1f5\n', "utf-8")
    if delimiter == "\x1f":
        path.write_text(f'x{delimiter}y\n1{delimiter}"2{delimiter}3"\n', "utf-8")
    rows, unfit = read(path, delimiter=delimiter)
    assert rows[0] == (1, ["1", f"2{delimiter}3"])
    assert not unfit


def test_another_quote(tmp_path: Path) -> None:
    path = tmp_path / "e.csv"
    path.write_text("x;y\n'a;''b''';\"c\"\n", "utf-8")
    assert read(path, quote="'")[0] == [(1, ["a;'b'", '"c"'])]


def test_null_empty_and_blank(tmp_path: Path) -> None:
    path = tmp_path / "e.csv"
    path.write_text('x;y;z\n;"";" "\n- ;n/a;"-"\n', "utf-8")
    assert read(path)[0] == [(1, [None, "", " "]), (2, ["- ", "n/a", "-"])]
    assert read(path, nulls=("", "-"))[0] == [(1, [None, None, None]), (2, [None, "n/a", None])]


def test_text_after_a_closing_quote_keeps_its_line_as_it_stood(tmp_path: Path) -> None:
    path = tmp_path / "e.csv"
    path.write_bytes(b'x;y\n1;2\n"a"b;"c\nd"\r\n3;4\n')
    rows, unfit = read(path)
    assert [row for row, _ in rows] == [1, 3]
    assert unfit == [(2, "text after a closing quote", b'"a"b;"c\nd"')]


def test_ragged_rows_and_padding(tmp_path: Path) -> None:
    path = tmp_path / "e.csv"
    path.write_bytes(b"x;y;z\n1\n1;2;3;4\n\n5;6;7\n8;9\r\n")
    rows, unfit = read(path, delimiter=";")
    assert rows == [(3, ["5", "6", "7"])]
    assert unfit == [
        (1, "1 field where the header has 3", b"1"),
        (2, "4 fields where the header has 3", b"1;2;3;4"),
        (4, "2 fields where the header has 3", b"8;9"),
    ]
    rows, unfit = read(path, delimiter=";", ragged="pad")
    assert [cells for _, cells in rows] == [["1", None, None], ["5", "6", "7"], ["8", "9", None]]
    assert [number for number, _, _ in unfit] == [2]


def test_a_lone_return_is_data(tmp_path: Path) -> None:
    path = tmp_path / "e.csv"
    path.write_bytes(b'x;y\na\rb;"c\rd"\n1;5" q\rz\n')
    assert read(path)[0] == [(1, ["a\rb", "c\rd"]), (2, ["1", '5" q\rz'])]


def test_a_byte_order_mark_in_the_middle_is_data(tmp_path: Path) -> None:
    for header in ("x", "x;y"):
        path = tmp_path / "e.csv"
        path.write_bytes(
            b"\xef\xbb\xbf" + header.encode() + b"\n" + b"\xef\xbb\xbfa;b\n"[: 4 if header == "x" else 9]
        )
        rows, _ = read(path, delimiter=";")
        assert rows[0][1][0] == "\ufeffa"


def test_empty_lines_are_rows_only_in_one_column(tmp_path: Path) -> None:
    path = tmp_path / "e.csv"
    path.write_bytes(b'x\na\n\n""\n\r\nb')
    assert [cells for _, cells in read(path)[0]] == [["a"], [None], [""], [None], ["b"]]


@pytest.mark.parametrize("size", [1 << 20, 9 << 20])
def test_cells_larger_than_a_block(tmp_path: Path, size: int) -> None:
    path = tmp_path / "e.csv"
    path.write_bytes(b"x;y\n1;" + b"a" * size + b'\n2;"' + b"b\n" * (size // 2) + b'"\n')
    rows, unfit = read(path, 1 << 16)
    assert [len(cells[1] or "") for _, cells in rows] == [size, size]
    assert not unfit


def refusal(path: Path, **clauses) -> tuple[str, ExitCode]:  # type: ignore[no-untyped-def]
    with pytest.raises(Refusal) as refused:
        read(path, **clauses)
    assert refused.value.mistakes[0].advice
    return refused.value.mistakes[0].message, refused.value.code


@pytest.mark.parametrize(
    ("content", "message", "code"),
    [
        (b"", "is empty", 3),
        (b"\xef\xbb\xbf", "is empty", 3),
        (b"PK\x03\x04rest", "cannot be unpacked: File is not a zip file", 3),
        (b"\x1f\x8brest", "gzip", 3),
        (b"x\0y", "binary", 3),
        (b"x;y\r1;2\r" * 200_000 + b"3;4\n", "its first lines end in CR alone, and an LF", 3),
        (b"x;y\n" + b"1;2\n" * 20_000 + b"3;\0\n", 'line 20002: row 20,001, column "y" holds a NUL byte', 3),
        (b'x;y\n1;2\n3;"4\n5;6\n', "line 3: the quote opened in row 2 is never closed", 3),
        (b"x;y;x\n", 'has "x" twice, as columns 1 and 3', 1),
        (b"x;;z\n", "has no name for column 2", 1),
    ],
)
def test_extracts_that_cannot_be_read(tmp_path: Path, content: bytes, message: str, code: int) -> None:
    path = tmp_path / "e.csv"
    path.write_bytes(content)
    said, told_code = refusal(path)
    assert message in said
    assert told_code == code


def test_bytes_that_are_not_utf8_name_their_row_and_the_encodings_that_fit(tmp_path: Path) -> None:
    path = tmp_path / "e.csv"
    path.write_bytes(b"x;y\n" + b"1;2\n" * 30_000 + b"3;\xe9t\xe9\n")
    with pytest.raises(Refusal) as refused:
        read(path)
    message = str(refused.value)
    assert 'line 30002: row 30,001, column "y" holds the byte 0xe9, which is not UTF-8' in message
    assert '"windows-1252" (é)' in message and "read encoding" in message
    assert read(path, encoding="cp1252")[0][-1] == (30_001, ["3", "été"])
    path.write_bytes(b"\xe9;y\n1;2\n")
    assert "header is not UTF-8" in refusal(path, encoding="utf-8")[0]


def test_a_header_with_faults_offers_names_ready_to_be_pasted(tmp_path: Path) -> None:
    path = tmp_path / "e.csv"
    path.write_text("x;;x;Fired at?\n1;2;3;4\n", "utf-8")
    with pytest.raises(Refusal, match=r"read called x, column_2, x_2, \[Fired at\?\]"):
        read(path)
    assert read(path, called=("a", "b", "c", "d"))[0] == [(1, ["1", "2", "3", "4"])]
    assert "called names 2" in refusal(path, called=("a", "b"))[0]


def test_skip_and_header_row(tmp_path: Path) -> None:
    path = tmp_path / "e.csv"
    path.write_bytes(b'Kiln log "week" 18\n;;\nfirst,row\nx;y\n1;2\n')
    assert read(path, skip=3)[0] == [(1, ["1", "2"])]
    assert read(path, skip=1, header_row=3, delimiter=";")[0] == [(1, ["1", "2"])]
    assert "fewer lines" in refusal(path, skip=9)[0]
    assert "fewer lines" in refusal(path, header_row=9)[0]


def test_without_a_header_columns_are_numbered(tmp_path: Path) -> None:
    path = tmp_path / "e.csv"
    path.write_bytes(b"1;2\n3;4\n")
    extract = open_source(str(path), ReadRequest(ReadSettings(header_absent=True)))
    assert extract.schema.names == ["column_1", "column_2"]
    extract.close()
    assert len(read(path, header_absent=True)[0]) == 2


def test_missing_files_and_folders(tmp_path: Path) -> None:
    (tmp_path / "week-18.csv").write_text("x\n")
    with pytest.raises(Refusal, match=r"Nearest in its folder: week-18\.csv"):
        read(tmp_path / "week18.csv")
    with pytest.raises(Refusal, match="is a folder"):
        read(tmp_path)


@pytest.mark.parametrize("block", [1, 7, 1 << 20])
def test_the_last_rows_skipped(tmp_path: Path, block: int) -> None:
    path = tmp_path / "e.csv"
    path.write_bytes(b'x;y\n1;2\n\n"3\n";4\n5;6\nTotal;8\n;\n')
    assert [cells[0] for _, cells in read(path, block, skip_last=2)[0]] == ["1", "3\n", "5"]
    assert [cells[0] for _, cells in read(path, block, skip_last=3)[0]] == ["1", "3\n"]
    assert read(path, block, skip_last=9)[0] == []
    path.write_bytes(b"x;y\n1;2\nTotal")
    assert read(path, block, skip_last=1) == ([(1, ["1", "2"])], [])


@pytest.mark.parametrize("block", [1, 9, 1 << 20])
def test_comment_lines_are_no_rows_and_their_quotes_open_nothing(tmp_path: Path, block: int) -> None:
    path = tmp_path / "e.csv"
    path.write_bytes(b'# "log;"\nx;y\n#one;"open\n1;"a\n# b"\n#\n2;# c\n# end')
    rows, unfit = read(path, block, comment="#", delimiter=";")
    assert rows == [(1, ["1", "a\n# b"]), (2, ["2", "# c"])]
    assert not unfit


@pytest.mark.parametrize("block", [1, 6, 1 << 20])
def test_escaped_characters_mean_only_themselves(tmp_path: Path, block: int) -> None:
    path = tmp_path / "e.csv"
    path.write_bytes(b'x\\;1;y\na\\;b;"q\\"; \\\\"\nc\\\nd;e\n\\"f;g\n')
    extract = open_source(str(path), ReadRequest(ReadSettings(escape="\\", delimiter=";")))
    extract.close()
    assert extract.schema.names == ["x;1", "y"]
    rows, unfit = read(path, block, escape="\\", delimiter=";")
    assert rows == [(1, ["a;b", 'q"; \\']), (2, ["c\nd", "e"]), (3, ['"f', "g"])]
    assert not unfit


@pytest.mark.parametrize("block", [1, 9, 14, 1 << 20])
def test_what_is_behind_a_block_is_of_the_next(tmp_path: Path, block: int) -> None:
    path = tmp_path / "e.csv"
    path.write_bytes(b'x;y\n1;a\n2;"b"c\n3;"d"\n4;"e"f\n5;g\n')
    rows, unfit = read(path, block, delimiter=";")
    assert rows == [(1, ["1", "a"]), (3, ["3", "d"]), (5, ["5", "g"])]
    assert [(row, reason) for row, reason, _ in unfit] == [
        (2, "text after a closing quote"),
        (4, "text after a closing quote"),
    ]


def test_small_blocks_divide_small_files(tmp_path: Path) -> None:
    path = tmp_path / "e.csv"
    path.write_bytes(b"x;y\n" + b"1;2\n" * 20)
    extract = open_source(str(path), ReadRequest(partition_size=8))
    blocks = list(extract.partitions())
    extract.close()
    assert [block.row_count for block in blocks] == [2] * 10
    assert [block.first_row for block in blocks] == list(range(1, 21, 2))
    assert [block.first_line for block in blocks if isinstance(block, Block)] == list(range(2, 22, 2))
