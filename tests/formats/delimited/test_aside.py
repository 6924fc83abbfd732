from __future__ import annotations

from pathlib import Path
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.formats.delimited import aside as module


def test_the_aside_file_holds_rows_as_read_and_runs_again_once_fixed(tmp_path: Path) -> None:
    extract = tmp_path / "e.csv"
    extract.write_bytes(b'kiln;notes\r\n007;"a;b"\r\n012;"x"y\r\n031;one;two\r\n')
    recipe = LinkedRecipe.parse('mangler 1\nread delimiter ";" nulls "-"\ntrim *\ntolerate 100%')
    aside = tmp_path / "clean.aside.csv"
    result = recipe.run(extract, tmp_path / "clean.csv", aside)
    assert (tmp_path / "clean.csv").read_bytes() == b'kiln;notes\r\n007;"a;b"\r\n'
    lines = aside.read_bytes().split(b"\r\n")
    assert lines[0] == b"_file;_row;_step;_reason;kiln;notes"
    assert lines[1] == str(extract).encode() + b';2;2;text after a closing quote;012;"x"y'
    assert lines[2] == str(extract).encode() + b";3;2;3 fields where the header has 2;031;one;two"
    assert result.summary.balance.set_aside == 2

    # Still broken, its rows are set aside again, with one set of columns in front.
    again = recipe.run(aside, tmp_path / "again.csv", tmp_path / "again.aside.csv")
    assert again.summary.balance.delivered == 0
    assert (tmp_path / "again.aside.csv").read_bytes().split(b"\r\n")[0] == lines[0]
    assert b';012;"x"y\r\n' in (tmp_path / "again.aside.csv").read_bytes()

    # Fixed by hand, they are delivered.
    aside.write_bytes(aside.read_bytes().replace(b'"x"y', b'"xy"').replace(b"one;two", b"one"))
    fixed = recipe.run(aside, tmp_path / "mended.csv")
    assert fixed.summary.balance.delivered == 2
    assert (tmp_path / "mended.csv").read_bytes() == b"kiln;notes\r\n012;xy\r\n031;one\r\n"


def test_an_aside_file_is_utf8_whatever_the_extract_was(tmp_path: Path) -> None:
    extract, aside = tmp_path / "e.csv", tmp_path / "a.csv"
    extract.write_bytes("# log\nkiln;potter\n007;Zoë;x\n012;Émile\n".encode("cp1252"))
    recipe = LinkedRecipe.parse('mangler 1\nread encoding "windows-1252" skip 1 called a, b\ntolerate 100%')
    recipe.run(extract, tmp_path / "o.csv", aside)
    text = aside.read_text("utf-8")
    assert text.endswith(";007;Zoë;x\n") and text.startswith("_file;_row;_step;_reason;a;b\n")
    for mark in ("", "\ufeff"):
        aside.write_text(mark + text.replace(";x\n", "\n"), "utf-8")
        assert recipe.run(aside).table.to_pylist() == [{"a": "007", "b": "Zoë"}]


def test_no_row_aside_no_file(tmp_path: Path) -> None:
    extract = tmp_path / "e.csv"
    extract.write_bytes(b"a;b\n1;2\n")
    LinkedRecipe.parse("mangler 1\ntolerate 100%").run(extract, tmp_path / "o.csv", tmp_path / "o.aside.csv")
    assert not (tmp_path / "o.aside.csv").exists()


FIELDS = st.sampled_from(["a", "", '"b;c"', '"d\ne"', "é", '"f"g', "h\r"])


@given(
    rows=st.lists(st.lists(FIELDS, min_size=1, max_size=4).map(";".join), max_size=12),
    line_end=st.sampled_from(["\n", "\r\n"]),
    ends=st.booleans(),
    at_once=st.sampled_from([1, 3, 8192]),
    block=st.sampled_from([1, 20, 1 << 20]),
)
def test_rows_aside_are_as_they_were_read(
    tmp_path: Path, rows: list[str], line_end: str, ends: bool, at_once: int, block: int
) -> None:
    """However they are put together; what a step sets aside is among them, in the order of the rows."""
    extract, aside = tmp_path / "e.csv", tmp_path / "o.aside.csv"
    aside.unlink(missing_ok=True)
    extract.write_bytes(line_end.join(["x;y", *rows]).encode() + line_end.encode() * ends)
    recipe = LinkedRecipe.parse(
        'mangler 1\nread delimiter ";"\nset aside rows where x = "a" because "one; \\"quoted\\" reason"\n'
        "tolerate 100%"
    )
    with mock.patch.object(module, "ROWS_AT_ONCE", at_once):
        result = recipe.run(extract, tmp_path / "o.csv", aside, RunOptions(partition_size=block))
    said = result.rows_aside
    assert [one.row for one in said] == sorted(one.row for one in said)
    expected = b""
    if said:
        expected = line_end.join(["_file;_row;_step;_reason;x;y", ""]).encode()
    for one in said:
        reason = '"one; ""quoted"" reason"' if one.step == "3" else one.reason
        front = f"{extract};{one.row};{one.step};{reason};".encode()
        expected += front + one.as_read + line_end.encode()
    assert (aside.read_bytes() if said else b"") == expected
    content = extract.read_bytes()
    assert all(one.as_read in content for one in said)
    assert len(said) == result.summary.balance.set_aside
