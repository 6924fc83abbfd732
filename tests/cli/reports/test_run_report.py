"""What the report of a run says, before it is a page."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from tests.cli.program import mangler

from mangler.cli.reports.cells import plain
from mangler.cli.reports.page import Drawn, Listing, Page, Tone
from mangler.cli.reports.run_report import MOST_IN_FULL, in_full, run_page
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.summary import refusal_to_json
from mangler.language.mistake import extract_does_not_fit

STEPS = """read nulls "-"
set aside rows where kiln = "9" because "no such kiln"
drop rows where kiln = "8"
split glazes at ";" into rows
dedupe by kiln, glazes
"""
EXTRACT = "kiln,glazes\n1,a;b\n1,a\n8,c\n9,d\n2,-\n"


def account(
    tmp_path: Path, name: str = "a.csv", steps: str = STEPS, extract: str = EXTRACT
) -> dict[str, Any]:
    (tmp_path / name).write_text(extract)
    summary = LinkedRecipe.parse(f"mangler 1\n{steps}").run(tmp_path / name).summary
    return {**summary.to_json(), "extract": name}


def refused(name: str) -> dict[str, Any]:
    refusal = extract_does_not_fit("unknown-column", 'the extract has no column "kiln"', "Nearest: kilns.")
    return refusal_to_json(name, refusal)


def page(*accounts: dict[str, Any]) -> Page:
    return run_page("Kilns", accounts, {}, None, "mangler run")


def blocks(found: Page, kind: type) -> list[Any]:
    return [block for section in found.sections for block in section.blocks if isinstance(block, kind)]


def test_the_band_accounts_for_every_row(tmp_path: Path) -> None:
    """What each step leaves is what it was given, less what left it, and with what joined."""
    found = page(account(tmp_path))
    band = blocks(found, Drawn)[0]
    assert band.numbers.heads == ["step", "rows in", "dropped", "set aside", "added", "rows out"]
    rows = [[int(plain(cell) or 0) for cell in row[1:]] for row in band.numbers.rows]
    assert rows == [[5, 0, 0, 0, 5], [5, 0, 1, 0, 4], [4, 1, 0, 0, 3], [3, 0, 0, 1, 4], [4, 1, 0, 0, 3]]
    assert all(start - dropped - aside + added == end for start, dropped, aside, added, end in rows)
    assert band.alternative == (
        "Of 5 rows read, 3 came out of the steps. On the way: 2 dropped, 1 set aside, 1 added."
    )
    assert found.verdict == "Delivered: 3 rows, and every row read is accounted for; 1 set aside."
    assert found.tone is Tone.LOOK


def test_nulls_and_reasons(tmp_path: Path) -> None:
    found = page(account(tmp_path))
    nulls, reasons = blocks(found, Drawn)[1].numbers, blocks(found, Listing)[-1]
    assert nulls.rows == [["glazes", "1", "1"]]
    assert reasons.rows == [["3", "no such kiln", "1"]]


def test_a_run_without_anything_to_look_at_is_good(tmp_path: Path) -> None:
    found = page(account(tmp_path, steps="trim *", extract="a\n1\n"))
    assert (found.verdict, found.tone) == (
        "Delivered: 1 row, and every row read is accounted for.",
        Tone.GOOD,
    )


def test_of_several_extracts_those_that_need_a_look_have_a_part(tmp_path: Path) -> None:
    good = [account(tmp_path, f"{n}.csv", "trim *", "a\n1\n") for n in range(MOST_IN_FULL + 2)]
    all_of_them = [*good, account(tmp_path, "aside.csv"), refused("bad.csv")]
    shown = [one["extract"] for one in in_full(all_of_them)]
    assert shown == ["0.csv", "1.csv", "2.csv", "3.csv", "4.csv", "5.csv", "aside.csv", "bad.csv"]
    found = page(*all_of_them)
    assert found.verdict == "Delivered 11 of 12 extracts: 13 rows; 1 set aside." and found.tone is Tone.BAD
    assert len(found.sections[0].blocks[0].rows) == 12  # type: ignore[union-attr]
    assert found.sections[-1].title == "Other extracts"


def test_rows_of_one_table_are_those_of_the_table(tmp_path: Path) -> None:
    """And not those that the extracts gave to it."""
    (tmp_path / "r.mangler").write_text("mangler 1\ntrim *\ngroup by a with n = count()\n")
    for name in ("a.csv", "b.csv"):
        (tmp_path / name).write_text("a\n1\n1\n2\n")
    words = ("run", "r.mangler", "a.csv", "b.csv", "--to", "all.csv", "--together", "--report", "r.md")
    assert mangler(*words, cwd=tmp_path).returncode == 0
    assert "Delivered 2 of 2 extracts: 2 rows." in (tmp_path / "r.md").read_text("utf-8").replace("\\", "")
