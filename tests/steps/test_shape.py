"""`capture`, `join`, `clean list` and `unpivot` as a recipe says them."""

from __future__ import annotations

import pytest
from tests.conftest import Run

from mangler.language.mistake import Refusal

EXTRACT = "kiln,notes,n\n007,batch: 14 ok end of batch,1\n012,slow,2\n031,,3\n044, ,4\n"
BATCH = "capture notes by /batch: (\\d+)(.*)end of batch/"


def test_capture_and_cells_in_which_nothing_is_found(run: Run) -> None:
    result = run(f"{BATCH} into batch, text", EXTRACT)
    assert result.table.column("batch").to_pylist() == ["14", None, None, None]
    assert result.table.column("text").to_pylist() == [" ok ", None, None, None]
    assert result.summary.columns == ["kiln", "notes", "batch", "text", "n"]
    assert result.summary.steps[1].remarks == [
        '1 cell does not match the pattern, and null is in the new columns, such as "slow"'
    ]
    said = run(f"{BATCH} into batch, text failures null", EXTRACT).summary.steps[1]
    assert said.remarks == [] and len(said.facts) == 1


def test_what_becomes_of_cells_in_which_nothing_is_found(run: Run) -> None:
    assert run(f"{BATCH} into b, t failures '-'", EXTRACT).table.column("b").to_pylist() == [
        "14",
        "-",
        None,
        None,
    ]
    aside = run(f"{BATCH} into b, t failures aside", EXTRACT)
    assert [(row.row, row.reason) for row in aside.rows_aside] == [(2, "slow: the pattern is not found")]
    with pytest.raises(Refusal, match="1 row fails in this step"):
        run(f"{BATCH} into b, t in place", EXTRACT)
    assert run(f"{BATCH} into b, t in place failures null", EXTRACT).table.num_rows == 4


def test_many_cells_that_recur_are_captured_as_others_are(run: Run) -> None:
    rows = [f"{n},{'x' * (n % 3)}{n % 5},0" for n in range(3000)]
    column = run("capture notes by /(x+)/ into c", "kiln,notes,n\n" + "\n".join(rows)).table.column("c")
    assert column.to_pylist() == ["x" * (n % 3) or None for n in range(3000)]


def test_join_keeps_the_order_in_which_columns_are_named(run: Run) -> None:
    result = run('join n, kiln with "/" into tag\njoin * except tag, notes with "" into all', EXTRACT)
    assert result.table.column("tag").to_pylist() == ["1/007", "2/012", "3/031", "4/044"]
    assert result.table.column("all").to_pylist() == ["0071", "0122", "0313", "0444"]
    assert result.summary.columns == ["kiln", "notes", "n", "all", "tag"]


def test_join_spells_other_types_and_takes_the_place(run: Run) -> None:
    steps = (
        'convert n to decimal 2\nmake d = date("2026-05-04")\njoin d, n with " " into n in place nulls "?"'
    )
    result = run(steps, EXTRACT)
    assert result.summary.columns == ["kiln", "notes", "n"]
    assert result.table.column("n").to_pylist()[0] == "2026-05-04 1.00"


def test_clean_list(run: Run) -> None:
    rows = "a;b\n x ; ;y;X,none;\n;;,\n"
    result = run(
        'clean list [a;b] at ";" with "; " without "none" unique anycase', rows.replace("a;b", "a;b,c")
    )
    assert result.table.column("a;b").to_pylist() == ["x; y", None]
    step = result.summary.steps[1]
    assert (step.tally.counts["cells_changed"], step.tally.counts["nulls_made"]) == (2, 1)
    idle = run('clean list kiln, notes at ";"', "kiln,notes\na,b;c\n").summary.steps[1]
    assert idle.remarks == ["changed nothing: every list is as it would be"]


def test_unpivot_counts_rows_added_and_dropped_apart(run: Run) -> None:
    result = run("unpivot a, b into k, v drop nulls", "x,a,b\n1,p,q\n2,,\n3,r,\n")
    assert [tuple(row.values()) for row in result.table.to_pylist()] == [
        ("1", "a", "p"),
        ("1", "b", "q"),
        ("3", "a", "r"),
    ]
    balance = result.summary.balance
    assert (balance.read, balance.added, balance.dropped, balance.delivered) == (3, 1, 1, 3)
    assert result.summary.steps[1].remarks == [
        "3 values are null, and got no row",
        "1 row had nothing but nulls there, and nothing is left of them",
    ]


@pytest.mark.parametrize(
    ("step", "message"),
    [
        ('capture a by "x" into c', "a pattern is expected here, found a text"),
        ("capture a by /x/ into c", "the pattern has no group"),
        ("capture a by /(x)/", "the group has no name for a column"),
        ("capture a by /(x)(?<c>y)/", "some groups have no name for a column"),
        ("capture a by /(x)(?<c>y)/ into d, e", 'the group "c" has a name already'),
        ("capture a by /(x)(y)/ into c", "the pattern has 2 groups, and 1 name is given"),
        ("capture a by /(?<b>x)/", 'there is a column "b" already'),
        ("capture a by /(x/ into c", "this pattern cannot be read"),
        ("capture a by /(x)/ into c failures 3", "capture puts texts in, and 3 is none"),
        ("capture a by /(x)/ into c in place where b = 'z'", "in place and where exclude each other"),
        ('join a, b with "-" into b', "With in place its own name is free"),
        ('join /^q/ with "-" into c', "nothing to join"),
        ('join a, b with "-" into c nulls 0', "join puts texts in, and 0 is none"),
        ('make l = split(a, ";")\njoin a, l with "-" into c', "list"),
        ('clean list a at ";", ","', "it is open what the parts are put together with"),
        ("clean list a at /;+/", "a pattern is looked for"),
        ('clean list a at ";" first 0', "the first 0 parts are none"),
        ('clean list a at ""', "the empty text is between all characters"),
        ("unpivot a, b into c", "two names are asked for, and one is given"),
        ("unpivot /^q/ into c, d", "nothing to unpivot"),
        ("make n = 1\nunpivot a, n into c, d", '"a" is text, "n" is integer'),
        ("make n = 1\nunpivot a, b into c, n", 'there is a column "n" already'),
    ],
)
def test_mistakes(run: Run, step: str, message: str) -> None:
    with pytest.raises(Refusal) as refused:
        run(step, "a,b\nx;y,z\n")
    assert message in str(refused.value), str(refused.value)
