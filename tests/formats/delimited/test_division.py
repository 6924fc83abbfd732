"""Delimited text divided by bytes: pieces read apart are the rows that reading from start to end gives."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from tests.kernels.compiled.twins import hostile

from mangler.formats.contract import ReadRequest, Source
from mangler.formats.delimited import division
from mangler.formats.dividing import Piece
from mangler.formats.registry import open_source
from mangler.language.mistake import Refusal
from mangler.table.settings import ReadSettings

everywhere: Any = map


def opened(path: Path, said: ReadSettings, block: int = 1 << 16) -> Source:
    return open_source(str(path), ReadRequest(said, partition_size=block, digest=True))


def told(source: Source, partitions: Any) -> list[tuple[Any, ...]]:
    """All rows with their numbers, lines, text and cells; the unfit ones with why."""
    rows = []
    for partition in partitions:
        parsed = source.read(partition)
        numbers = np.arange(partition.first_row, partition.first_row + partition.row_count)
        where = dict(zip(numbers.tolist(), partition.locate(numbers).tolist(), strict=True))
        texts = dict(
            zip(numbers.tolist(), partition.as_read(numbers).cast("binary").to_pylist(), strict=True)
        )
        cells = zip(*(column.to_pylist() for column in parsed.batch.columns), strict=True)
        fit = dict(zip(parsed.batch.rows.tolist(), cells, strict=True))
        unfit = {row.row: row.reason for row in parsed.unfit_rows()}
        rows += [(n, where[n], texts[n], fit.get(n), unfit.get(n)) for n in numbers.tolist()]
    return rows


def _end_of(source: Source) -> str:
    """Whether the last line has an end, as the output's last line has one then."""
    return f"ends with a line end: {source.ends_with_line_end}"  # type: ignore[attr-defined]


def whole(path: Path, said: ReadSettings) -> tuple[list[Any], list[str], str | None]:
    source = opened(path, said)
    try:
        rows = told(source, source.partitions())
        return rows, [*source.remarks(), _end_of(source)], source.digest()
    finally:
        source.close()


def in_pieces(path: Path, said: ReadSettings, size: int) -> tuple[list[Any], list[str], str | None] | str:
    source = opened(path, said, 64)
    try:
        assert source.division is not None
        pieces = source.division.pieces(size, everywhere)
        if isinstance(pieces, str):
            return pieces
        rows: list[Any] = []
        for piece in pieces:
            own = list(source.division.partitions(piece))
            # Where the end of the file is that of a block, that is not seen before more was asked for.
            assert not any(one.is_last for one in own[:-1]) and own[-1].is_last <= piece.is_last
            assert len(own) <= source.division.most_partitions(piece.end - piece.start)
            rows += told(source, own)
        return rows, [*source.remarks(), _end_of(source)], source.digest()
    finally:
        source.close()


@pytest.fixture(autouse=True)
def small_stretches(monkeypatch: pytest.MonkeyPatch) -> None:
    """Ranges as small as the digest lets them be would hold all of a test's rows."""
    monkeypatch.setattr(division, "READ_ON", 7)


SETTINGS = (
    ReadSettings(),
    ReadSettings(comment="#"),
    ReadSettings(header_absent=True),
    ReadSettings(delimiter="\t"),
)


@settings(max_examples=500, suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None)
@given(
    content=hostile(b'",\n\r#\t a', most=900),
    said=st.sampled_from(SETTINGS),
    size=st.integers(1, 120),
    columns=st.integers(1, 3),
)
def test_pieces_are_the_rows_of_the_whole(
    tmp_path: Path, content: bytes, said: ReadSettings, size: int, columns: int
) -> None:
    path = tmp_path / "e.csv"
    path.write_bytes(b",".join([b"a", b"b", b"c"][:columns]) + b"\n" + content.replace(b"\0", b"z"))
    try:
        wanted = whole(path, said)
    except Refusal:
        return
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(division, "STRETCH", 1)
        patched.setattr(division, "products", lambda _: np.zeros(0, np.uint64))
        found = in_pieces(path, said, size)
    if found == "its encoding or its line ends are changed while it is read":
        return
    assert not isinstance(found, str), found
    assert found[:2] == wanted[:2]


@pytest.mark.parametrize("size", [8192, 16384, 100_000])
def test_the_digest_is_that_of_the_whole(tmp_path: Path, size: int) -> None:
    path = tmp_path / "e.csv"
    path.write_text(
        "kiln,notes\n" + "".join(f'{n},"fired\n{"x" * (n % 90)}, and glazed"\n' for n in range(3000))
    )
    assert in_pieces(path, ReadSettings(), size) == whole(path, ReadSettings())


def test_few_pieces_where_one_cell_is_larger_than_a_piece(tmp_path: Path) -> None:
    path = tmp_path / "e.csv"
    path.write_text('a,b\n1,"' + "x,\n" * 20_000 + '"\n2,3\n')
    found = in_pieces(path, ReadSettings(), 8192)
    assert found == whole(path, ReadSettings()) and len(found[0]) == 2


@pytest.mark.parametrize(
    ("name", "content", "said", "why"),
    [
        ("e.csv.gz", b"\x1f\x8b", ReadSettings(), "gzip cannot be entered in the middle"),
        ("e.csv", b"a\\b,c\n1,2\n", ReadSettings(escape="\\"), "escape character"),
        ("e.csv", "a,ü\n1,2\n".encode("utf-16"), ReadSettings(), "changed while it is read"),
        ("e.csv", b"a,b\r1,2\r3,4\r", ReadSettings(), "changed while it is read"),
        ("e.csv", b"a,b\n1,2\n3,4\n", ReadSettings(skip_last=1), "rows at its end are skipped"),
        ("e.csv", b'a,b\n1,"2\n3,4\n', ReadSettings(), "a quote is never closed"),
    ],
)
def test_what_cannot_be_divided_says_why(
    tmp_path: Path, name: str, content: bytes, said: ReadSettings, why: str
) -> None:
    import gzip

    path = tmp_path / name
    path.write_bytes(gzip.compress(b"a,b\n1,2\n") if name.endswith("gz") else content)
    found = in_pieces(path, said, 8192)
    assert isinstance(found, str) and why in found


def test_a_row_without_end_is_not_read_as_a_whole(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(division, "LARGEST_ROW", 20_000)
    path = tmp_path / "e.csv"
    path.write_text("a,b\n1,2\n" + "x" * 100_000)
    assert in_pieces(path, ReadSettings(), 8192) == "a row is very large"
    path.write_text("a,b\n1,2\n" + "x" * 15_000 + ",y\n")
    assert in_pieces(path, ReadSettings(), 8192) == whole(path, ReadSettings())


def test_pieces_know_where_they_are() -> None:
    assert Piece(0, 5, 9, 1, 2) == Piece(index=0, start=5, end=9, first_row=1, first_line=2, is_last=False)
