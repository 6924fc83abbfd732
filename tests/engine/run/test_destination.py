"""What is written can be read back: every row delivered is a row of the output, with its cells as they were."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.language.mistake import Refusal

CELLS = st.sampled_from(["", '""', "a", "b", '"\n"', '"x\r"', "\r", '"a""b"'])


def written(folder: Path, steps: str, extract: bytes) -> tuple[int, bytes]:
    """How many rows were delivered, and the output's bytes."""
    (folder / "e.csv").write_bytes(extract)
    result = LinkedRecipe.parse(f"mangler 1\n{steps}").run(folder / "e.csv", folder / "o.csv")
    return result.summary.balance.delivered, (folder / "o.csv").read_bytes()


def read_back(folder: Path, settings: str = "") -> list[dict[str, str | None]]:
    table = LinkedRecipe.parse(f"mangler 1\n{settings}").run(folder / "o.csv").table
    rows: list[dict[str, str | None]] = table.to_pylist()
    return rows


@pytest.mark.parametrize(
    ("steps", "extract", "output"),
    [
        ('nullify "b" in c', b"c\na\nb", b"c\na\n\n"),
        ('nullify "b" in c', b"c\nb", b"c\n\n"),
        ('nullify "b" in c', b"c\r\na\r\nb", b"c\r\na\r\n\r\n"),
        ("keep columns c", b"c,d\na,1\n,2", b"c\na\n\n"),
        ("keep columns c", b"c,d\na,1\nb,2", b"c\na\nb"),
        ('keep columns c\nwrite encoding "utf-16-le"', b"c,d\n,2", "c\n\n".encode("utf-16-le")),
    ],
)
def test_a_last_row_that_is_null_has_its_line_end(
    tmp_path: Path, steps: str, extract: bytes, output: bytes
) -> None:
    assert written(tmp_path, steps, extract)[1] == output


@given(
    rows=st.lists(st.tuples(CELLS, CELLS), max_size=5),
    line_end=st.sampled_from(["\n", "\r\n"]),
    ends=st.booleans(),
    steps=st.sampled_from(["", "keep columns c", "drop columns c", 'nullify "b" in *\nkeep columns d']),
)
def test_the_output_holds_every_row_delivered(
    tmp_path: Path, rows: list[tuple[str, str]], line_end: str, ends: bool, steps: str
) -> None:
    lines = ["c,d", *(",".join(row) for row in rows)]
    extract = line_end.join(lines) + line_end * ends
    delivered, _ = written(tmp_path, f'read delimiter ","\n{steps}', extract.encode())
    direct = (
        LinkedRecipe.parse(f'mangler 1\nread delimiter ","\n{steps}')
        .run(tmp_path / "e.csv")
        .table.to_pylist()
    )
    back = read_back(tmp_path, 'read delimiter ","')
    assert len(back) == delivered == len(rows)
    assert back == direct


@pytest.mark.parametrize("name", ["b\r", "\ufeffb", "b\n", 'b"'])
@pytest.mark.parametrize("extract", [b"a,b", b"a,b\n", b"a,b\n1,2\n"])
@pytest.mark.parametrize("first", [True, False])
def test_a_header_can_be_read_back(tmp_path: Path, name: str, extract: bytes, first: bool) -> None:
    spelled = '["' + name.replace('"', '\\"').replace("\r", "\\r").replace("\n", "\\n") + '"]'
    names = ["a", name][:: -1 if first else 1]
    called = ", ".join(spelled if one == name else one for one in names)
    written(tmp_path, f"read called {called}", extract)
    back = LinkedRecipe.parse('mangler 1\nread delimiter ","').run(tmp_path / "o.csv")
    assert list(back.table.column_names) == names


@pytest.mark.parametrize("which", ["extract", "to", "aside"])
def test_a_name_with_a_nul_is_no_name_of_a_file(tmp_path: Path, which: str) -> None:
    (tmp_path / "e.csv").write_text("a\n1\n")
    paths = {
        "extract": str(tmp_path / "e.csv"),
        "to": str(tmp_path / "o.csv"),
        "aside": str(tmp_path / "x.csv"),
    }
    paths[which] += "\0"
    with pytest.raises(Refusal, match="holds a NUL"):
        LinkedRecipe.parse("mangler 1").run(paths["extract"], paths["to"], paths["aside"])
    with pytest.raises(Refusal, match="no file has a name like this"):
        LinkedRecipe.load(str(tmp_path / "r\0.mangler"))
