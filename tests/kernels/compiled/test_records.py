"""Delimited text taken apart by the compiled kernel, against NumPy's marks and against Arrow's reader."""

from __future__ import annotations

from dataclasses import replace
from random import Random

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.blocks import batches
from tests.kernels.compiled.twins import built, by_numpy, hostile

from mangler.formats.delimited.records import Marks, Spelling, find_marks
from mangler.kernels.text.fields import Columns, FieldColumn, FieldFacts, entries_of, is_unmade, with_entries
from mangler.kernels.text.rendering import Layout, _pieces, render
from mangler.language.mistake import Refusal

TEXT = hostile(b'",;\n\r"\'a\xc3\xa9\n')
LAYOUTS = st.builds(
    Layout,
    delimiter=st.sampled_from([";", ","]),
    quote=st.sampled_from(['"', "'"]),
    line_end=st.sampled_from(["\n", "\r\n"]),
    quote_all=st.booleans(),
    nulls=st.sampled_from(["", "a"]),
)
DELIMITERS = st.sampled_from([",", ";", ";,", '""', "\t"])


def told(marks: Marks, data: np.ndarray) -> tuple:
    """What the marks say, but for the quotes themselves: inside or not, nothing is asked of them."""
    elsewhere = np.flatnonzero(data != ord('"'))
    returns = None if marks.returns is None else marks.returns.tolist()
    inside = marks.quoted(elsewhere).tolist()
    size = marks.whole_records(len(data))
    counts = [
        marks.counts(end, bytes(data[:end][-2:]), one_column)
        for end in {size, len(data), size // 2}
        for one_column in (True, False)
    ]
    assert marks.whole is None or marks.whole.line_feeds == data[:size].tolist().count(10)
    return marks.line_feeds.tolist(), returns, inside, marks.broken.tolist(), marks.unclosed, size, counts


@built
@settings(max_examples=1000)
@given(TEXT, DELIMITERS)
def test_marks_are_those_of_numpy(text: bytes, delimiter: str) -> None:
    data = np.frombuffer(text, np.uint8)
    spelling = Spelling(delimiter.encode(), ord('"'))
    found = told(find_marks(data, spelling), data)
    with by_numpy():
        assert found == told(find_marks(data, spelling), data)


@built
@given(st.integers(0, 9000), st.integers(0, 200))
def test_marks_say_where_the_first_nul_is(size: int, before_end: int) -> None:
    data = np.full(size, ord("a"), np.uint8)
    spelling = Spelling(b",", ord('"'))
    assert find_marks(data, spelling).nul == -1
    data[max(0, size - before_end) :: 7] = 0
    assert find_marks(data, spelling).nul == data.tobytes().find(b"\0")


def parsed(text: bytes, width: int, delimiter: str, pad: bool, block_size: int) -> list:
    """The columns of each block, and what is said of the rows that do not fit; or the refusal."""
    blocks: list = []
    try:
        for got in batches(text, width, delimiter, pad, block_size):
            for column in got.batch.columns:
                column.validate(full=True)
            columns = [column.to_pylist() for column in got.batch.columns]
            blocks.append((columns, got.batch.rows.tolist(), list(got.unfit), got.padded, got.short))
    except Refusal as refusal:
        blocks.append(str(refusal))
    return blocks


@built
@settings(max_examples=1500)
@given(
    TEXT, st.integers(1, 4), st.sampled_from([",", ";", "\t"]), st.booleans(), st.sampled_from([8, 90, 4096])
)
def test_fields_are_those_of_arrow(
    text: bytes, width: int, delimiter: str, pad: bool, block_size: int
) -> None:
    """Whole rows, broken ones, ragged ones, filled up or not; each column is sound for Arrow."""
    found = parsed(text, width, delimiter, pad, block_size)
    with by_numpy():
        assert found == parsed(text, width, delimiter, pad, block_size)


FIELDS = st.sampled_from(
    [b"", b"a", b'""', b'"a"', b'"a;b"', b'"a""b"', b'"a\nb"', b"-a", b"=a", b"a\rb", b"\r"]
)


@built
@settings(max_examples=300)
@given(
    st.sampled_from([63, 64, 65, 130]),
    st.lists(
        st.tuples(st.dictionaries(st.integers(0, 129), FIELDS), st.sampled_from([-1, 0, 0, 0, 1])), min_size=1
    ),
    st.sampled_from([b"\n", b"\r\n"]),
    st.booleans(),
)
def test_fields_of_wide_tables_are_those_of_arrow(
    width: int, rows: list[tuple[dict[int, bytes], int]], line_end: bytes, pad: bool
) -> None:
    """More columns than a word has bits, most of them plain, in records of which some are too short or too long."""
    records = [b";".join(special.get(at, b"x") for at in range(width + more)) for special, more in rows]
    text = line_end.join(records)
    found = parsed(text, width, ";", pad, 1 << 20)
    with by_numpy():
        assert found == parsed(text, width, ";", pad, 1 << 20)


@built
def test_a_record_of_many_fields_is_counted_and_left_out() -> None:
    text = b"a,b\n" + b"," * 5000 + b"\n" + b"c,d\n" * 3000
    found = parsed(text, 2, ",", False, 1 << 20)
    assert found == [
        (
            [["a"] + ["c"] * 3000, ["b"] + ["d"] * 3000],
            [1, *range(3, 3003)],
            [(2, "5001 fields where the header has 2")],
            0,
            0,
        )
    ]


@built
@settings(max_examples=1500)
@given(TEXT, st.integers(2, 4), st.sampled_from([8, 90, 4096]), LAYOUTS, st.data())
def test_fields_that_are_written_as_they_were_read(
    text: bytes, width: int, block_size: int, layout: Layout, data: st.DataObject
) -> None:
    """Whatever quotes they had, whichever columns are written in which order, and of whichever rows: the bytes are the
    same."""
    order = data.draw(st.lists(st.integers(0, width - 1), min_size=1, max_size=6))
    other = pa.scalar("x;y", pa.string())
    try:
        for got in batches(text, width, ";", False, block_size):
            batch = got.batch
            for _ in range(data.draw(st.integers(0, 2)) if len(batch) else 0):
                rows = data.draw(st.lists(st.integers(0, len(batch) - 1), max_size=2 * len(batch)))
                batch = batch.take(np.array(rows, np.int64))
                if not len(batch):
                    break
            for index in data.draw(st.lists(st.integers(0, width - 1), max_size=2)):
                assert len(batch.columns[index]) == len(batch)  # made before it is written
            entries = [*(entries_of(batch.columns)[index] for index in order), pa.repeat(other, len(batch))]
            found = bytes(render(with_entries((), entries), len(batch), layout))
            columns = [*(batch.columns[index] for index in order), entries[-1]]
            assert found == bytes(render(columns, len(batch), layout))
    except Refusal:
        return


@built
@settings(max_examples=500)
@given(TEXT, st.integers(2, 4), st.booleans(), st.sampled_from([1, 1500]), st.randoms())
def test_what_is_known_of_fields_is_that_of_the_rows_that_fit(
    text: bytes, width: int, pad: bool, times: int, random: Random
) -> None:
    """A record that does not fit was counted before it was seen to its end; and ends are looked for some at a time."""
    try:
        for got in batches((text + b"\n") * times, width, ";", pad, 1 << 16):
            every = np.arange(len(got.batch))
            few, most = (every[[random.random() < share for _ in every]] for share in (0.2, 0.8))
            for one in entries_of(got.batch.columns):
                if isinstance(one, FieldColumn):
                    assert [one.facts] == counted(one, every)
                    assert one.facts.nulls == got.batch.columns[one.field].null_count
                    for rows in (few, most, most[::-1]):
                        assert one.read.taken(rows).facts([one.field]) == counted(one, rows)
    except Refusal:
        return


def counted(one: FieldColumn, rows: np.ndarray) -> list[FieldFacts]:
    """The facts of these rows, looked at one after the other: each is there twice, and no row can be left out."""
    [facts] = one.read.taken(np.repeat(rows, 2)).facts([one.field])
    return [FieldFacts(*(fact // 2 for fact in facts))]


@built
def test_neighbours_are_written_in_one_piece() -> None:
    text = b'a;"b;";c;d\ne;f;"g";\n'
    [got] = batches(text, 4, ";", False, 4096)
    columns = got.batch.columns
    assert isinstance(columns, Columns)
    assert list(columns.entries[0].read.as_is) == [True, True, False, True]
    assert _pieces(columns, Layout(";"))[0] == [(0, 1), columns[2], (3, 3)]
    assert _pieces(Columns(columns.entries[1::-1]), Layout(";"))[0] == [(1, 1), (0, 0)]
    assert bytes(render(columns, 2, Layout(";"))) == b'a;"b;";c;d\ne;f;g;\n'
    assert [is_unmade(one) for one in columns.entries] == [True, True, False, True]


@built
@pytest.mark.parametrize("text", [b'a"b;c\nd;e\n', b"a;b\rc\nd;e\n", b'a;b\nc;"d\re"\n'])
def test_marks_in_fields_without_quotes_are_not_written_as_they_are(text: bytes) -> None:
    [got] = batches(text, 2, ";", False, 4096)
    assert not isinstance(got.batch.columns, Columns)
    [got] = batches(b"a;b\r\n", 2, ";", False, 4096)
    assert isinstance(got.batch.columns, Columns)


@built
def test_a_wide_table_takes_no_more_room_than_its_bytes() -> None:
    """Every second column is written as it was read: what lies between two of its cells is the whole record."""
    width, count = 400, 50
    [got] = batches((b";".join([b"abc"] * width) + b"\n") * count, width, ";", False, 1 << 20)
    others = pa.repeat(pa.scalar("x", pa.string()), count)
    columns = Columns(others if at % 2 else one for at, one in enumerate(entries_of(got.batch.columns)))
    lines = render(columns, count, Layout(";"))
    assert bytes(lines) == (b";".join([b"abc", b"x"] * (width // 2)) + b"\n") * count
    assert lines.obj.base.nbytes < 3 * len(lines)


@built
def test_rows_that_are_not_there_are_refused() -> None:
    [got] = batches(b"a;b\nc;d\n", 2, ";", False, 4096)
    columns = got.batch.columns
    assert isinstance(columns, Columns)
    for rows in ([0, 2], [-1, 0], [0]):
        read = replace(columns.entries[0].read, rows=np.array(rows, np.int64))
        wrong = Columns(FieldColumn(read, field) for field in range(2))
        with pytest.raises(IndexError, match="not read"):
            render(wrong, 2, Layout(";"))
        with pytest.raises(IndexError, match="not read"):
            read.arrays([0], 0, 2)
    for field, start, count in ((2, 0, 1), (-1, 0, 1), (0, 2, 1), (0, 0, 3), (0, -1, 1)):
        with pytest.raises(IndexError, match="not read"):
            columns.entries[0].read.arrays([field], start, count)
