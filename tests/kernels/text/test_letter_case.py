from __future__ import annotations

import pyarrow as pa
import pytest

from mangler.kernels.text.letter_case import SMALL_WITHOUT_CAPITAL, sentence_case, title_case


@pytest.mark.parametrize(
    ("cell", "title", "sentence"),
    [
        ("CLAY works", "Clay Works", "Clay works"),
        ("odd's o’brien", "Odd's O’brien", "Odd's o’brien"),
        ("2ND floor", "2nd Floor", "2Nd floor"),
        ("tea-bowl, émile", "Tea-Bowl, Émile", "Tea-bowl, émile"),
        ("'quoted'", "'Quoted'", "'Quoted'"),
        ("line\nbreak", "Line\nBreak", "Line\nbreak"),
        ("", "", ""),
        ("12 °C", "12 °C", "12 °C"),
        (None, None, None),
    ],
)
def test_cases(cell: str | None, title: str | None, sentence: str | None) -> None:
    assert title_case(pa.array([cell], pa.string())).to_pylist() == [title]
    assert sentence_case(pa.array([cell], pa.string())).to_pylist() == [sentence]


def test_letters_that_serve_as_marks_are_data_where_they_are_in_cells() -> None:
    cell = f"a's {SMALL_WITHOUT_CAPITAL[0]}b"
    assert title_case(pa.array([cell])).to_pylist() == [f"A's {SMALL_WITHOUT_CAPITAL[0]}b"]
