"""A recipe over an extract: results do not depend on how the work is divided, and every row is accounted for."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.conftest import Run

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.engine.run.summary import Balance
from mangler.language.mistake import ExitCode, Refusal

STEPS = {
    "require that": 'require that a = "b" or length(a) > 1 failures aside',
    "require no nulls": "require no nulls in a, b failures warn",
    "require only": 'require only "a", /b+/ in a anycase failures aside because "no"',
    "require one row": "require one row per a, b failures aside",
    "require one row, split": 'split a at "b" into rows\nrequire one row per a failures aside',
    "require between": "require between 1_000 and 2_000 rows failures warn",
    "trim": "trim * squeeze",
    "trim left": "trim a left squeeze lines",
    "replace": 'replace "a" with "bb", /b+/ with "\\\\0;" in *',
    "replace last": "replace last 'b' with 'ä' in * anycase",
    "replace whole": 'replace "ab" with "x", /b+/ with "y" in * whole',
    "nullify": 'nullify "a", "" in *',
    "fill": 'fill a with "?"',
    "keep characters": 'keep characters letters, "\\n" in * with "_" where a is not null',
    "drop characters": "drop characters spaces, controls in a",
    "fill down": "fill a, b down",
    "fill down within": "fill a, b down within b, c",
    "recase": "recase * title",
    "rename": "rename a to x, * except a upper",
    "keep": "keep columns b, c",
    "drop": "drop columns b",
    "reorder": "reorder columns c, *",
    "require": "require columns a",
    "fill up": "fill a, b up\nnumber rows as n",
    "fill up within": "fill a up within b where c is not null",
    "sort": "sort by a descending, c, b anycase\nfill b down",
    "sort nulls first": "make n = length(a)\nsort by n nulls first\nsort by b descending",
    "dedupe": "dedupe\nsort by b\ndedupe by a, c leaving last",
    "dedupe anycase": "dedupe by c, a anycase\nsplit b at 'b' into rows",
    "dedupe twice": "dedupe by a\nmake d = length(b)\ndedupe by d, c\nnumber rows as n\nsort by c, n descending",
    "dedupe after sort": "sort by b\nfill a down\ndedupe by a, c\nnumber rows as n\nsplit b at 'b' into rows\ndedupe",
    "group": "group by a, c with n = count(), l = join(distinct b, ',' sorted by c), m = max(b)\nsort by l",
    "group anycase": "group by b with n = join(a, '') anycase\nmake x = n",
    "group all": "group with n = count(a), f = first(c sorted by b descending), t = sum(length(b))",
    "pivot": 'make n = length(c)\nmake b = "={b?}"\n'
    "pivot b into columns of n with max(n) failures null\nrename * lower",
    "split as needed": "split a at ' ', 'b' into columns where c is not null\nsort by b\n"
    "split c at 'b' into columns in place",
    "where": 'trim * squeeze where b = "b" or c is null',
    "fill down where": "fill a, b down where c is not null",
    "convert": "convert a to integer failures null\nconvert b to decimal 1 without 'b' failures aside",
    "convert dates": "convert * to date written '%d/%m/%Y', '%Y-%m-%d' failures null",
    "map": "map a 'a' to 'x', 'b' to null anycase unmatched keep",
    "map aside": "map b 'a' to 'x' unmatched aside",
    "split": "split a at ' ', 'b' into x, y? /b*/, z too few 'none' too many unsplit",
    "split aside": "split b at 'b', /\\n/ into columns 2 keep empty too few aside too many aside",
    "split first": "split a at first 'b' into x, y untrimmed absent '-' where c is not null",
    "split into rows": "split a at 'b', ' ' into rows\nsplit c at 'b' into rows as x numbered as n keep empty",
    "split into rows and columns": "split a at 'b' into rows as p in place\n"
    "split b at 1, 2 into q, r in place too many cut",
    "split rows then aside": "split a at 'b' into rows as p keep empty\nset aside rows where p = 'a' because 'a'",
    "capture": "capture a by /(a)|(?:b+)(.)?/ into x, y\ncapture c by /(?<first>\\S)/ in place failures aside",
    "join": "join c, a with ' & ' into x\njoin a, b with '' into b in place nulls '?'",
    "clean list": "clean list a, b at 'b', '\\n', /A/ with '; ' without ' a' unique sorted first 2 anycase",
    "unpivot": "unpivot c, a into k, v drop nulls",
    "make": 'make d = "{a}{b?}", n = length(a) * 3 after a',
    "make where": "make a = upper(b), d = b where c is not blank",
    "make aside": "make n = 6 / length(a) failures aside",
    "make aside by value": "make n = integer(b) failures aside",
    "make null": "make n = 6 % length(a), a = b failures null",
    "change": 'change a, c to replace(cell, "b", a) where b is not null',
    "change keep": "change * to text(10 % length(cell)) failures keep",
    "fill with": 'fill a with "{b}{c}"',
    "keep rows": 'keep rows where a contains "b" or b is null',
    "drop rows": "drop rows where a = b",
    "set aside": 'set aside rows where length(a) > 1 because "long"',
    "number": "drop rows where a is null\nnumber rows as n from 7",
    "define": 'define both(x, y) = "{x?}+{y?}"\nmake d = both(a, both(b, c))',
    "source": "make r = extract_row(), f = extract_file() where a is not null",
    "read": 'read delimiter "," nulls "b" ragged pad',
}

FIELDS = st.sampled_from(
    ["", '""', "a", "b", "ab", " A  b ", '"a\nb"', '"x"y', '"a,b"', "\u00a0b", "é", "a\rb"]
)
LINES = st.lists(st.lists(FIELDS, min_size=2, max_size=4).map(",".join), max_size=14)


def account(result: Any) -> Any:
    summary = result.summary.to_json()
    for step in summary["steps"]:
        step.pop("seconds")
    for name in ("seconds", "seconds_setting_aside", "writing"):
        summary.pop(name)
    return result.table.to_pydict(), result.rows_aside, summary


@pytest.mark.parametrize("steps", STEPS.values(), ids=STEPS)
@settings(max_examples=20)
@given(
    lines=LINES,
    block=st.sampled_from([1, 9, 30, 60, 100]),
    workers=st.integers(1, 3),
    memory=st.sampled_from([None, 300, 1500]),
)
def test_blocks_threads_and_memory_change_nothing(
    tmp_path: Path, steps: str, lines: list[str], block: int, workers: int, memory: int | None
) -> None:
    extract = tmp_path / "extract.csv"
    extract.write_text("\n".join(["a,b,c", *lines]), "utf-8", newline="")
    recipe = LinkedRecipe.parse(f"mangler 1\n{steps}\ntolerate 100%")
    whole = recipe.run(extract, options=RunOptions(workers=1))
    divided = recipe.run(extract, options=RunOptions(workers=workers, partition_size=block, memory=memory))
    assert account(divided) == account(whole)
    assert whole.summary.balance.is_even
    balance = whole.summary.balance
    assert balance.read + balance.added == (
        len(whole.table) + balance.dropped + balance.merged + balance.withdrawn
    )
    if not balance.added:
        assert balance.withdrawn == len(whole.rows_aside)
    assert len(whole.rows_aside) == balance.set_aside == len({row.row for row in whole.rows_aside})


@settings(max_examples=100)
@given(
    rows=st.lists(
        st.lists(
            st.sampled_from(["", '""', "x", "é y", '"a;b"', '"l\nm"', '"q""q"', " z "]),
            min_size=3,
            max_size=3,
        ),
        max_size=20,
    ),
    line_end=st.sampled_from(["\n", "\r\n"]),
    mark=st.booleans(),
    ends=st.booleans(),
)
def test_an_extract_that_no_step_changes_comes_out_as_it_went_in(
    tmp_path: Path, rows: list[list[str]], line_end: str, mark: bool, ends: bool
) -> None:
    text = line_end.join([";".join(row) for row in [["a", "b", "c"], *rows]]) + (line_end if ends else "")
    content = (b"\xef\xbb\xbf" if mark else b"") + text.encode()
    extract, out = tmp_path / "extract.csv", tmp_path / "out.csv"
    extract.write_bytes(content)
    LinkedRecipe.parse("mangler 1\nread delimiter ';'").run(extract, out)
    assert out.read_bytes() == content


def test_write_clauses(tmp_path: Path) -> None:
    extract, out = tmp_path / "e.csv", tmp_path / "o.csv"
    extract.write_bytes(b'a;b\n1,5;\n"";NA\n')
    recipe = 'mangler 1\nwrite delimiter "," quotes always nulls "NA" line ends crlf'
    LinkedRecipe.parse(recipe).run(extract, out)
    assert out.read_bytes() == b'"a","b"\r\n"1,5",NA\r\n"","NA"\r\n'


def test_a_word_for_null_that_is_the_delimiter_is_refused(tmp_path: Path) -> None:
    extract = tmp_path / "e.csv"
    extract.write_bytes(b"a;b\n")
    with pytest.raises(Refusal, match="holds the delimiter"):
        LinkedRecipe.parse('mangler 1\nwrite nulls ";"').run(extract, tmp_path / "o.csv")
    assert not (tmp_path / "o.csv").exists()


def test_ragged_stop_reads_on_and_says_the_rows(tmp_path: Path) -> None:
    extract, out = tmp_path / "e.csv", tmp_path / "o.csv"
    extract.write_bytes(b"a;b\n1;2\n3\n" + b"5;6\n" * 50 + b"7;8;9\n")
    out.write_text("old")
    with pytest.raises(Refusal) as refused:
        LinkedRecipe.parse("mangler 1\nread ragged stop").run(
            extract, out, options=RunOptions(partition_size=16)
        )
    message = str(refused.value)
    assert refused.value.code is ExitCode.ANSWER_IS_NO
    assert "2 rows cannot be read" in message
    assert "row 2, line 3: 1 field" in message and "row 53, line 54: 3 fields" in message
    assert "line 2, column 6" in message
    assert out.read_text() == "old"


def test_only_so_many_rows(run: Run) -> None:
    result = run('read nulls "x"', "a,b\n1,x\n2\n3,x\n4,x\n", rows=3)
    assert result.table.column("a").to_pylist() == ["1", "3"]
    assert result.summary.balance.read == 3
    assert result.summary.steps[0].tally.counts["nulls_made"] == 2
    assert "only the first 3 rows" in result.summary.warnings[0]


def test_a_header_and_no_rows_is_done_with_a_warning(run: Run) -> None:
    result = run("trim *", "a,b\n")
    assert result.table.column_names == ["a", "b"] and len(result.table) == 0
    assert "has a header and no rows" in result.summary.warnings[0]


def test_an_uneven_balance_fails_the_run() -> None:
    with pytest.raises(Refusal, match="do not balance"):
        Balance(read=3, delivered=2).require_even()
    Balance(read=3, added=1, delivered=2, dropped=1, withdrawn=1).require_even()


def test_the_output_cannot_be_the_extract(tmp_path: Path) -> None:
    extract = tmp_path / "e.csv"
    extract.write_bytes(b"a;b\n1;2\n")
    link = tmp_path / "link.csv"
    link.symlink_to(extract)
    for target in (extract, link):
        with pytest.raises(Refusal, match="is the extract itself"):
            LinkedRecipe.parse("mangler 1").run(extract, target)
    assert extract.read_bytes() == b"a;b\n1;2\n"


def test_a_drifted_delimiter_is_the_one_thing_reported(run: Run) -> None:
    with pytest.raises(Refusal) as refused:
        run('read delimiter ";"\nrequire columns a, b\ntrim b\nfill a with "x"', "a,b,c\n1,2,3\n")
    assert len(refused.value.mistakes) == 1
    assert 'when it is split at ";", and 3 when it is split at ","' in refused.value.mistakes[0].message
    assert "Columns missing so: a, b" in refused.value.mistakes[0].advice


def test_all_that_does_not_fit_is_reported_before_any_row_is_read(run: Run) -> None:
    with pytest.raises(Refusal) as refused:
        run("trim x\nfill a with 0", "a,b\n1,2\n" * 3 + '"never closed')
    assert len(refused.value.mistakes) == 2


def test_what_every_step_did_is_in_the_summary(run: Run) -> None:
    result = run('read nulls "-"\ntrim *\nfill a with "?"', "a,b\n x,-\n,y \n1\n")
    lines = [
        (s.line, s.tally.rows_in, s.tally.rows_out, s.tally.counts["cells_changed"])
        for s in result.summary.steps
    ]
    assert lines == [(2, 3, 2, 0), (3, 2, 2, 2), (4, 2, 2, 1)]
    assert result.summary.steps[0].tally.counts["nulls_made"] == 1
    json = result.summary.to_json()
    assert json["balance"] == {
        "read": 3, "added": 0, "delivered": 2, "dropped": 0, "merged": 0, "withdrawn": 1, "set_aside": 1,
    }  # fmt: skip


def test_a_block_that_fails_lets_no_other_wait_for_ever(tmp_path: Path) -> None:
    extract = tmp_path / "e.csv"
    extract.write_bytes(b"a,b\n" + b"1,\n" * 200 + b"\xff,2\n" + b"3,\n" * 2000)
    recipe = LinkedRecipe.parse('mangler 1\nread encoding "utf-8"\nfill b down')
    for workers in (1, 2, 3):
        with pytest.raises(Refusal, match="not UTF-8"):
            recipe.run(extract, options=RunOptions(workers=workers, partition_size=64))
