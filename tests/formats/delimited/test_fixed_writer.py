"""Columns of a fixed width, written and read back."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.language.mistake import Refusal

CELLS = st.one_of(
    st.none(), st.text(st.characters(categories=["Lu", "Ll", "Nd", "Po"]), min_size=1, max_size=6)
)


def write(folder: Path, extract: str, steps: str) -> str:
    (folder / "e.csv").write_text(extract, newline="")
    LinkedRecipe.parse(f"mangler 1\nread delimiter ';'\n{steps}").run(folder / "e.csv", folder / "o.txt")
    return (folder / "o.txt").read_bytes().decode()


def test_numbers_stand_to_the_right(tmp_path: Path) -> None:
    text = write(
        tmp_path, "kiln;made;note\n007;4;Zoë\n;;x\n", "convert made to integer\nwrite widths 6, 5, 4"
    )
    assert text == "kiln  made note\n007       4Zoë \n           x   \n"
    text = write(tmp_path, "a;b\n;1\n", 'write widths 4, 2 nulls "-" line ends crlf')
    assert text == "a   b\r\n-   1 \r\n"


@given(rows=st.lists(st.tuples(CELLS, CELLS), min_size=1, max_size=9))
def test_what_is_written_is_read_back(tmp_path: Path, rows: list[tuple[str | None, str | None]]) -> None:
    rows = [(a, b) for a, b in rows if (a or b) and ";" not in f"{a}{b}" and '"' not in f"{a}{b}"]
    write(tmp_path, "one;two\n" + "".join(f"{a or ''};{b or ''}\n" for a, b in rows), "write widths 8, 7")
    back = LinkedRecipe.parse("mangler 1\nread widths 8, 7").run(tmp_path / "o.txt").table
    assert [tuple(row.values()) for row in back.to_pylist()] == rows


@pytest.mark.parametrize(
    ("steps", "message"),
    [
        (
            "write widths 3, 3",
            r'line 3: row 2, column "b": "12345" has 5 characters, and the column is 3 wide',
        ),
        ("write widths 9", "2 columns come out of the steps, and write widths names 1"),
        ("write widths 9, 0", "at least one character wide"),
        ('write widths 9, 9 delimiter ";"', "columns of a fixed width have no delimiter"),
        ("rename a to a_long_name\nwrite widths 4, 9", 'the name "a_long_name" has more than 4 characters'),
        ("write format json widths 4, 9", "write widths means nothing for the format JSON array"),
    ],
)
def test_what_does_not_fit_is_refused(tmp_path: Path, steps: str, message: str) -> None:
    with pytest.raises(Refusal, match=message):
        write(tmp_path, "a;b\n1;2\n1;12345\n", steps)
    assert not (tmp_path / "o.txt").exists()


def test_line_breaks_and_encodings(tmp_path: Path) -> None:
    with pytest.raises(Refusal, match='column "a": "x\ny" holds a line break'):
        write(tmp_path, 'a;b\n"x\ny";2\n', "write widths 4, 4")
    (tmp_path / "e.csv").write_text("a;b\nZoë;2\n")
    recipe = LinkedRecipe.parse('mangler 1\nread delimiter ";"\nwrite widths 4, 2 encoding "latin-1"')
    recipe.run(tmp_path / "e.csv", tmp_path / "o.txt")
    assert (tmp_path / "o.txt").read_bytes() == b"a   b\nZo\xeb 2 \n"
