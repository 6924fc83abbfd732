"""Several extracts as one table: the same as if their rows had been in one extract."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import mangler

STEPS = (
    "sort by b descending, a",
    "dedupe by a",
    "dedupe by a, b leaving last",
    "group by a with n = count(), all = join(b, '+'), few = count(distinct b)",
    "number rows as n from 5",
    "keep first 4 rows",
    "keep last 3 rows",
    "fill b down",
    "fill b up within a",
    "pivot a into columns of b with join(b, '+') failures null",
    "make p = previous(b), r = running(count()), s = rank() within a sorted by b",
    "require one row per a, b failures warn",
    "require overall count(b) > 3 failures warn",
    "split b at 'x' into columns",
    "make c = length(b)",
    "drop rows where a = 'k'",
    "trim *",
)
CELLS = st.sampled_from(["k", "l", "xk", "", " m", "n x"])
ROWS = st.lists(st.tuples(CELLS, CELLS), max_size=7)


def written(path: Path, rows: list[tuple[str, str]]) -> Path:
    path.write_text("\n".join(["a,b", *(",".join(row) for row in rows)]) + "\n")
    return path


@settings(max_examples=150, suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None)
@given(
    parts=st.lists(ROWS, min_size=2, max_size=4),
    steps=st.lists(st.sampled_from(STEPS), min_size=1, max_size=4),
)
def test_as_if_all_rows_had_been_in_one_extract(
    tmp_path: Path, parts: list[list[tuple[str, str]]], steps: list[str]
) -> None:
    recipe = tmp_path / "r.mangler"
    recipe.write_text("\n".join(["mangler 1", 'read nulls ""', *steps, ""]))
    extracts = [written(tmp_path / f"{number}.csv", rows) for number, rows in enumerate(parts)]
    whole = written(tmp_path / "whole.csv", [row for rows in parts for row in rows])
    try:
        wanted = mangler.Recipe.load(recipe).run(whole, to=tmp_path / "wanted.csv")
    except mangler.Refusal as refusal:
        with pytest.raises(mangler.Refusal) as met:
            outcomes = mangler.run_many(recipe, extracts, tmp_path / "all.csv", together=True)
            assert outcomes[0].refusal is not None, f"delivered, and alone: {refusal}"
            raise outcomes[0].refusal from None
        assert met.value.mistakes[0].word == refusal.mistakes[0].word
        return
    outcomes = mangler.run_many(recipe, extracts, tmp_path / "all.csv", together=True)
    assert all(one.delivered for one in outcomes), outcomes[0].refusal
    assert (tmp_path / "all.csv").read_bytes() == (tmp_path / "wanted.csv").read_bytes()
    last = outcomes[-1].summary
    assert last is not None
    if last.together is not None:
        counted = [one.summary.balance.delivered for one in outcomes if one.summary is not None]
        assert last.together.balance.read == sum(counted)
        assert last.together.balance.delivered == wanted.summary.balance.delivered


def of(outcome: Any) -> Any:
    assert outcome.summary is not None, outcome.refusal
    return outcome.summary


@pytest.fixture
def work(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.chdir(tmp_path)
    (tmp_path / "a.csv").write_text("kiln,made\n007, 12\nK2,3\n")
    (tmp_path / "b.csv").write_text("made,kiln,note\n5,007,x\nmany,K2,\n")
    return tmp_path


def run(work: Path, recipe: str, *extracts: str, **others: Any) -> list[Any]:
    (work / "r.mangler").write_text(f"mangler 1\n{recipe}\ntolerate 100%\n")
    return mangler.run_many("r.mangler", extracts or ("a.csv", "b.csv"), "all.csv", together=True, **others)


def test_columns_of_all_and_rows_set_aside_of_each(work: Path) -> None:
    outcomes = run(work, "trim *\nconvert made to integer failures aside\nsort by made")
    assert (work / "all.csv").read_text() == "kiln,made,note\nK2,3,\n007,5,x\n007,12,\n"
    assert (work / "all.b.aside.csv").read_text().endswith(",many,K2,\n")
    first, second = map(of, outcomes)
    assert (first.balance.read, first.balance.delivered) == (2, 2)
    assert (second.balance.read, second.balance.delivered, second.balance.set_aside) == (2, 1, 1)
    assert first.warnings == [
        "other extracts have more columns: this one has no column note, and null is there"
    ]
    assert [step.text for step in first.steps] == ["read", "trim *", "convert made to integer failures aside"]
    assert [step.text for step in second.together.steps] == ["rows of 2 extracts", "sort by made"]


def test_a_step_may_name_a_column_that_one_extract_has(work: Path) -> None:
    run(work, "sort by note, made")
    assert (work / "all.csv").read_text() == "kiln,made,note\n007,5,x\n007, 12,\nK2,3,\nK2,many,\n"


@pytest.mark.parametrize(
    ("recipe", "word", "message"),
    [
        ("sort by made\ngroup by kln with n = count()", "unknown-column", "kln"),
        ("number rows as n\nconvert made to integer failures aside", "aside-after-gathering", "one table"),
        ("sort by made\nmake f = extract_file()", "extract-not-known", "from line 2 on"),
        ("group by kiln with n = count(), f = first(extract_file())", "extract-not-known", "from line 2 on"),
    ],
)
def test_what_is_wrong_with_the_steps_of_all_is_said_before_a_row_is_read(
    work: Path, recipe: str, word: str, message: str
) -> None:
    with pytest.raises(mangler.Refusal, match=message) as met:
        run(work, recipe)
    assert met.value.mistakes[0].word == word and not (work / "all.csv").exists()


def test_what_is_wrong_behind_json_is_said_when_its_columns_are_known(work: Path) -> None:
    """The second row has a column that the first does not show."""
    (work / "c.jsonl").write_text(
        '{"kiln": "K2", "made": "4"}\n' * 3 + '{"kiln": "K2", "made": "5", "cone": "06"}\n'
    )
    outcomes = run(work, "sort by cone, made", "c.jsonl", "a.csv")
    assert [one.delivered for one in outcomes] == [True, True]
    assert (work / "all.csv").read_text().startswith("kiln,made,cone\nK2,5,06\n")
    outcomes = run(work, "sort by nothing", "c.jsonl", "a.csv")
    assert [one.delivered for one in outcomes] == [False, False]


def test_the_extract_of_a_row_is_known_until_rows_are_gathered(work: Path) -> None:
    run(work, "make file = extract_file()\nnumber rows as n\nsort by n descending\nkeep columns n, file")
    assert (work / "all.csv").read_text() == "file,n\nb.csv,4\nb.csv,3\na.csv,2\na.csv,1\n"


def test_one_that_does_not_fit_is_lacking_and_the_others_are_one_table(work: Path) -> None:
    outcomes = run(work, "convert made to integer\ngroup with made = sum(made)")
    assert [one.delivered for one in outcomes] == [True, False]
    assert (work / "all.csv").read_text() == "made\n15\n"
    outcomes = run(work, "convert made to integer\ngroup with made = sum(made)", strict=True)
    assert [one.delivered for one in outcomes] == [False, False]


def test_what_rows_of_all_must_meet_refuses_all_of_them(work: Path) -> None:
    outcomes = run(work, "require overall count() = 3")
    assert [one.delivered for one in outcomes] == [False, False] and not (work / "all.csv").exists()
    assert "2 extracts together" in outcomes[0].refusal.mistakes[0].message
    outcomes = run(work, "require overall count() = 3 failures warn", strict=True)
    assert [one.delivered for one in outcomes] == [False, False]


def test_little_memory_gives_the_same(work: Path) -> None:
    for name in "ab":
        rows = "".join(f"{number % 97},{number * 7 % 1000}{name}\n" for number in range(30_000))
        (work / f"{name}.csv").write_text(f"kiln,made\n{rows}")
    recipe = "sort by made, kiln descending\nnumber rows as n"
    run(work, recipe)
    whole = (work / "all.csv").read_bytes()
    run(work, recipe, memory=32 << 20)
    assert (work / "all.csv").read_bytes() == whole and whole.count(b"\n") == 60_001


def test_the_history_shows_what_was_done_to_all(work: Path) -> None:
    from tests.cli.program import mangler as program

    (work / "r.mangler").write_text('mangler 1 "All"\nsort by made\n')
    told = program(
        "run", "r.mangler", "a.csv", "b.csv", "--to", "all.csv", "--together", cwd=work
    ).stderr.decode()
    shown = program("history", "show", "1", cwd=work).stdout.decode()
    assert "All on 2 extracts together" in told and "All on 2 extracts together" in shown
    assert "rows: 2 read = 2 into one table" in shown and "rows: 4 read = 4 delivered" in shown
    kept = json.loads(program("history", "show", "2", "--json", cwd=work).stdout)["runs"][0]["account"]
    assert kept["together"]["balance"]["delivered"] == 4
    assert shown.split("All on 2", 1)[1].splitlines()[-1] == told.split("All on 2", 1)[1].splitlines()[-3]


@pytest.mark.parametrize(
    ("recipe", "words", "word"),
    [
        ("sort by kiln\ngroup by kln with n = count()", (), "unknown-column"),
        ("sort by kiln", ("--cluster", "scheduler"), "cluster-address"),
    ],
)
def test_what_is_wrong_for_all_of_them_is_said_to_machines_too(
    work: Path, recipe: str, words: tuple[str, ...], word: str
) -> None:
    from tests.cli.program import mangler as program

    (work / "r.mangler").write_text(f"mangler 1\n{recipe}\n")
    asked = ("run", "r.mangler", "a.csv", "b.csv", "--to", "all.csv", "--together", "--json", *words)
    done = program(*asked, cwd=work)
    answer = json.loads(done.stdout)
    assert done.returncode in (1, 2) and answer["extracts"] == []
    assert [one["word"] for one in answer["mistakes"]] == [word]
