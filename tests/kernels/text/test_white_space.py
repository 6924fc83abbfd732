from __future__ import annotations

import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.arrays import COLUMNS, layouts

from mangler.blanks import BLANKS, LINE_BREAKS, ZERO_WIDTH
from mangler.kernels.text.patterns import SAMPLE
from mangler.kernels.text.white_space import squeeze, trim


def model_trim(cell: str, left: bool, right: bool) -> str:
    cell = cell.lstrip(BLANKS) if left else cell
    return cell.rstrip(BLANKS) if right else cell


def model_squeeze(cell: str, left: bool, right: bool, lines: bool) -> str:
    """One character after the other, as the reference says it."""
    out, index = "", 0
    while index < len(cell):
        stop = index
        while stop < len(cell) and cell[stop] in BLANKS:
            stop += 1
        if stop == index:
            out += cell[index]
            index += 1
            continue
        run, at_start, at_end = cell[index:stop], index == 0, stop == len(cell)
        if (at_start and left) or (at_end and right):
            pass
        elif at_start or at_end:
            out += run
        elif any(c in LINE_BREAKS for c in run) and not lines:
            out += "\n"
        elif any(c not in ZERO_WIDTH for c in run):
            out += " "
        index = stop
    return out


SIDES = st.sampled_from([(True, True), (True, False), (False, True)])


@given(COLUMNS, SIDES)
def test_trim_does_what_plain_python_does(cells: list[str | None], sides: tuple[bool, bool]) -> None:
    expected = [None if cell is None else model_trim(cell, *sides) for cell in cells]
    for array in layouts(cells):
        cleaned = trim(array, *sides)
        assert cleaned.array.to_pylist() == expected
        assert cleaned.changed == sum(a != b for a, b in zip(cells, expected, strict=True))
        assert cleaned.emptied == sum(a != b == "" for a, b in zip(cells, expected, strict=True))
        cleaned.array.validate(full=True)


@settings(max_examples=300)
@given(COLUMNS, SIDES, st.booleans())
def test_squeeze_does_what_plain_python_does(
    cells: list[str | None], sides: tuple[bool, bool], lines: bool
) -> None:
    expected = [None if cell is None else model_squeeze(cell, *sides, lines) for cell in cells]
    for array in layouts(cells):
        cleaned = squeeze(array, *sides, lines)
        assert cleaned.array.to_pylist() == expected
        assert cleaned.changed == sum(a != b for a, b in zip(cells, expected, strict=True))
        assert cleaned.emptied == sum(a != b == "" for a, b in zip(cells, expected, strict=True))
        cleaned.array.validate(full=True)


@pytest.mark.parametrize("values", [2, 2000])
def test_columns_of_few_and_of_many_values_come_out_alike(values: int) -> None:
    cells = [f" {index % values}  x\u00a0 " if index % 7 else None for index in range(3 * SAMPLE)]
    cleaned = squeeze(pa.array(cells), True, True, False)
    assert cleaned.array.to_pylist() == [
        None if c is None else model_squeeze(c, True, True, False) for c in cells
    ]
    assert cleaned.changed == sum(cell is not None for cell in cells)


@pytest.mark.parametrize("cells", [["clean", "two words", "", None], [], [None], ["line\nbreak"], ["é°"]])
def test_a_column_with_nothing_to_do_is_the_same_object(cells: list[str | None]) -> None:
    array = pa.array(cells, pa.string())
    assert trim(array).array is array
    assert squeeze(array, True, True, False).array is array


def test_what_is_blank_and_what_is_not() -> None:
    assert trim(pa.array(["\u200b\u2060\ufeff\u3000\x85x\u202f"])).array.to_pylist() == ["x"]
    # Separators of ASCII and the soft hyphen are no white space.
    assert trim(pa.array(["\x1cx\x1f", "\u00adx"])).array.to_pylist() == ["\x1cx\x1f", "\u00adx"]


def test_runs_with_line_breaks() -> None:
    array = pa.array(["a \r\n b", "a\tb", "a\u200bb", "a \u200b b"])
    assert squeeze(array, True, True, False).array.to_pylist() == ["a\nb", "a b", "ab", "a b"]
    assert squeeze(array, True, True, True).array.to_pylist() == ["a b", "a b", "ab", "a b"]


def test_a_huge_cell() -> None:
    array = pa.array(["x" + "  y" * 2_000_000 + " "])
    cleaned = squeeze(array, True, True, False)
    assert cleaned.array[0].as_py() == "x" + " y" * 2_000_000
