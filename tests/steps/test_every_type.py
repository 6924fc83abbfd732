"""Every verb and function on columns of every type: it works, or is refused with a way out."""

from __future__ import annotations

from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from tests.formats.every_type.columns import EVERY, exact

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.expressions.aggregates.registry import AGGREGATES
from mangler.expressions.registry import FUNCTIONS
from mangler.language.mistake import Refusal

STEPS = (
    "trim c",
    'replace "a" with "b" in c',
    'nullify "a" in c',
    "recase c upper",
    'drop characters "a" in c',
    "keep characters digits in c",
    'split c at "," into columns',
    'split c at "," into rows',
    'clean list c at ";"',
    "capture c by /(a)/ into d",
    'join row, c with "-" into d',
    'map c "a" to "b"',
    "fill c down",
    "fill c up",
    "fill c down within row",
    'fill c with "x"',
    "fill c with 0",
    "fill c with c",
    "convert c to text",
    "convert c to integer failures null",
    "convert c to float failures null",
    "convert c to decimal failures null",
    "convert c to decimal 2 failures null",
    "convert c to boolean failures null",
    "convert c to date failures null",
    "convert c to time failures null",
    "convert c to timestamp failures null",
    'convert c to timestamp zone "UTC" failures null',
    "change c to cell",
    "change c to cell where row = 1 failures null",
    "make d = c",
    "make c = c where row = 1 failures null",
    "make d = if row = 1 then c else null",
    "make d = coalesce(c, c)",
    'make d = "{c}"',
    "keep rows where c is null",
    "keep rows where c = c",
    "keep rows where c in (c)",
    "drop rows where c is blank",
    'set aside rows where c is not null because "x"',
    "sort by c",
    "sort by c descending nulls first",
    "dedupe",
    "dedupe by c",
    "dedupe leaving last",
    "group by c with n = count()",
    "group by row with n = count(c)",
    "group with n = count(distinct c)",
    "pivot c into columns of row failures null",
    "pivot row into columns of c failures null",
    "unpivot row, c into a, b",
    "unpivot c into a, b",
    "number rows as n",
    "rename c to d",
    "reorder columns c, row",
    "keep columns c",
    "drop columns c",
    "require no nulls in row",
    "require no nulls in c failures warn",
    "require one row per c failures warn",
    'require only "a" in c failures warn',
    "require that c is not null failures warn",
    "require overall count(c) > 0 and count(distinct c) > 0 failures warn",
    "require overall min(c) < max(c) failures warn",
    "make n = count() within c",
    "make n = count(c), d = count(distinct c) within row",
    "make n = first(c), m = last(c), o = min(c), p = max(c) within all rows sorted by row",
    "make n = sum(c), m = mean(c) within all rows",
    "make n = running(max(c)), m = running(first(c)), o = running(count(c)) within all rows sorted by row",
    "make n = running(sum(c)) within all rows sorted by row",
    "make n = previous(c), m = next(c, 2) within all rows sorted by row",
    "make n = rank() within all rows sorted by c descending",
    "make c = previous(c) within all rows sorted by row where row > 1",
    "number rows as n within c",
    "number rows as n within row sorted by c",
    "keep first 2 rows sorted by c",
    "keep last 1 row within c",
    "keep first 1 row within all rows sorted by row",
    "dedupe by c leaving first",
    "dedupe by row leaving fullest",
    "dedupe by c leaving last sorted by row",
    "keep rows where all of (row, c) is not null",
    "keep rows where any of (*) = c",
    'split c, c2 at "," into rows',
    "split row at ',' into rows",
    "repeat rows by c failures aside",
    'join row, c with "-" into d blanks skip',
    'clean list c at ";" without first "a"',
    "pivot c into columns with count() failures null",
    'map c "a" to "b" near 1',
    "group with n = stddev(c)",
    "group with n = quantile(c, 0.5), m = count(where c is null)",
    'make d = greatest(c, c), e = date(c, "%Y") failures null',
    "make d = c * 2, e = c + c failures null",
)


def recipe(steps: str) -> LinkedRecipe | None:
    """The recipe; None where a statement is not of this form in the language."""
    return LinkedRecipe.parse(f'mangler 1 "types"\n{steps}\ntolerate 100%')


@pytest.fixture(scope="module")
def extracts(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    folder = tmp_path_factory.mktemp("types")
    paths = {}
    for number, (name, array) in enumerate(EVERY.items()):
        paths[name] = folder / f"{number}.arrow"
        table = pa.table([pa.array(range(1, 5)), array], names=["row", "c"])
        with pa.OSFile(str(paths[name]), "wb") as file, pa.ipc.new_file(file, table.schema) as writer:
            writer.write_table(table)
    return paths


def works_or_is_refused(steps: str, extract: Path) -> None:
    try:
        recipe(steps).run(extract)  # type: ignore[union-attr]
    except Refusal as refusal:
        assert all(mistake.advice or "usage" in mistake.message for mistake in refusal.mistakes), refusal


@pytest.mark.parametrize("step", STEPS)
def test_a_verb_works_or_is_refused(step: str, extracts: dict[str, Path]) -> None:
    for name, extract in extracts.items():
        if name != "union" or "convert" in step:  # Arrow has no way to choose rows of it
            works_or_is_refused(step, extract)


@pytest.mark.parametrize("name", sorted(FUNCTIONS))
def test_a_function_works_or_is_refused(name: str, extracts: dict[str, Path]) -> None:
    function = FUNCTIONS[name]
    needed = sum(not parameter.optional for parameter in function.parameters)
    for count in {needed, len(function.parameters)}:
        for extract in extracts.values():
            works_or_is_refused(f"make d = {name}({', '.join(['c'] * count)}) failures null", extract)


@pytest.mark.parametrize("name", sorted(AGGREGATES))
def test_an_aggregate_works_or_is_refused(name: str, extracts: dict[str, Path]) -> None:
    for arguments in ("c", 'c, "-"', "c sorted by row", "row sorted by c"):
        for type_name, extract in extracts.items():
            if type_name != "union":
                works_or_is_refused(f"group by row with n = {name}({arguments}) failures null", extract)


def test_what_no_step_changes_comes_out_as_it_was(extracts: dict[str, Path]) -> None:
    steps = "keep rows where row != 2\nmake more = row * 2\nsort by row descending\nrename c to kept\nnumber rows as n"
    for name, extract in extracts.items():
        if name == "union":
            continue
        table = LinkedRecipe.parse(f"mangler 1\n{steps}").run(extract).table
        kept = table.column("kept").combine_chunks()
        assert kept.type == EVERY[name].type, name
        before = exact(EVERY[name])
        assert exact(kept) == [before[3], before[2], before[0]], name


def test_times_are_filled_down_to_the_nanosecond_and_so_told_apart(tmp_path: Path) -> None:
    moments = pa.array([1, None, 2, None, None], pa.int64()).cast(pa.timestamp("ns"))
    group = pa.array([1, 1, 2, 3, 3], pa.int64()).cast(pa.timestamp("ns"))
    extract = tmp_path / "in.parquet"
    pq.write_table(pa.table({"m": moments, "g": group}), extract, row_group_size=1)
    for step, expected in (("fill m down", [1, 1, 2, 2, 2]), ("fill m down within g", [1, 1, 2, None, None])):
        run = LinkedRecipe.parse(f"mangler 1\n{step}").run(extract, options=RunOptions(partition_size=1))
        assert exact(run.table.column("m").combine_chunks()) == expected
