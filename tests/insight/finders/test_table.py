"""What is said of a table as a whole."""

from __future__ import annotations

from pathlib import Path

from mangler.engine.proof.proof import Outcome, prove
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.insight.columns.finding import TableFinding, TableKind
from mangler.insight.profile.draft import draft
from mangler.insight.profile.profile import profile_file
from mangler.recipes.options import column_list
from mangler.table.settings import ReadSettings

FIRINGS = "kiln;studio;pieces;fired\n" + "".join(
    f"00{number % 4};{('Clay Works', 'Quayside')[number % 4 > 1]};{10 + number};{number % 2}\n"
    for number in range(24)
)


def found(folder: Path, text: str) -> dict[TableKind, TableFinding]:
    (folder / "e.csv").write_text(text, "utf-8")
    profile = profile_file(str(folder / "e.csv"), ReadSettings())
    return {one.kind: one for one in profile.table}


def test_columns_that_follow_keys_and_flags(tmp_path: Path) -> None:
    of = found(tmp_path, FIRINGS)
    assert of[TableKind.DETERMINED].columns == ("kiln", "studio", "fired")
    assert of[TableKind.KEY].columns == ("pieces",)
    assert of[TableKind.FLAGS].step == 'convert fired to boolean true "1" false "0"'
    assert TableKind.DUPLICATES not in of and TableKind.INDEX not in of and TableKind.TOTALS not in of


def test_one_exception_and_nothing_follows(tmp_path: Path) -> None:
    assert TableKind.DETERMINED not in found(tmp_path, FIRINGS + "000;Quayside;99;1\n")


def test_repeated_rows_and_rows_repeated_but_for_a_key(tmp_path: Path) -> None:
    of = found(tmp_path, FIRINGS + "003;Quayside;33;1\n")
    assert of[TableKind.DUPLICATES].rows == 1 and of[TableKind.DUPLICATES].step == "dedupe"
    numbered = (
        "id;kiln;cone;peak\n" + "".join(f"x{i}9;{i % 7};06;{1000 + i}\n" for i in range(20)) + "z;5;06;1019\n"
    )
    assert "in every column but id" in found(tmp_path, numbered)[TableKind.DUPLICATES].message
    assert found(tmp_path, numbered)[TableKind.DUPLICATES].step == "dedupe by kiln, cone, peak"


def test_a_row_of_totals_by_its_word_and_by_its_sums(tmp_path: Path) -> None:
    rows = "".join(f"k{number};{number};{number * 3}\n" for number in range(1, 9))
    by_word = found(tmp_path, f"kiln;made;sold\n{rows}Total;36;108\n")[TableKind.TOTALS]
    assert 'it says "Total"' in by_word.message and "sum of the rows above in made, sold" in by_word.message
    assert found(tmp_path, f"kiln;made;sold\n{rows};36;108\n")[TableKind.TOTALS].columns == ("made", "sold")
    assert TableKind.TOTALS not in found(tmp_path, f"kiln;made;sold\n{rows}k9;36;107\n")


def test_an_index_is_no_key(tmp_path: Path) -> None:
    rows = "".join(f"{number};k{number % 3};{number * 7 % 5}\n" for number in range(12))
    of = found(tmp_path, f"no;kiln;made\n{rows}")
    assert of[TableKind.INDEX].step == "drop columns no"
    assert TableKind.KEY not in of


def test_columns_of_one_value_and_of_none(tmp_path: Path) -> None:
    rows = "".join(f"k{number % 3};06;\n" for number in range(6))
    (tmp_path / "e.csv").write_text(f"kiln;cone;note\n{rows}")
    table = profile_file(str(tmp_path / "e.csv"), ReadSettings()).table
    told = [one.message for one in table if one.kind is TableKind.CONSTANT]
    assert told == ["cone holds the same value in every row", "note holds nothing in any row"]


def test_names_are_mended_last_and_given_ones_are_told(tmp_path: Path) -> None:
    (tmp_path / "e.csv").write_text(" kiln ;peak  c;peak  c\n007; 12 ;3\n008;13;4\n009;14;5\n")
    profile = profile_file(str(tmp_path / "e.csv"), ReadSettings())
    kinds = {one.kind for one in profile.table}
    assert {TableKind.SPACED_NAMES, TableKind.GIVEN_NAMES} <= kinds
    drafted = draft(profile, "names").text
    assert drafted.rstrip().endswith("rename * trim")
    recipe = LinkedRecipe.parse(drafted)
    assert all(verdict.outcome is Outcome.PASSED for verdict in prove(recipe.parsed))
    assert [column.name for column in recipe.run(tmp_path / "e.csv").columns] == [
        "kiln",
        "peak c",
        "peak c_2",
    ]


def test_many_columns_of_one_type_are_one_step(tmp_path: Path) -> None:
    names = ";".join(f"n{i}" for i in range(20))
    rows = "\n".join(";".join(str(i * j % 17) for i in range(20)) for j in range(30))
    (tmp_path / "e.csv").write_text(f"{names}\n{rows}\n")
    drafted = draft(profile_file(str(tmp_path / "e.csv"), ReadSettings()), "clean").text
    assert drafted.count("\nconvert ") == 1
    assert len(drafted.splitlines()) < 40


def test_a_test_shows_a_cell_that_stays(tmp_path: Path) -> None:
    (tmp_path / "e.csv").write_text(
        "kiln;result\n1;n/a\n2;good\n3;good\n4;bad\n5;good\n6;n/a\n7;bad\n8;good\n"
    )
    drafted = draft(profile_file(str(tmp_path / "e.csv"), ReadSettings()), "stays").text
    assert "test\n  result\n  n/a\n  good\n  becomes\n  result\n  null\n  good" in drafted


def test_of_some_columns_nothing_is_said_about_rows(tmp_path: Path) -> None:
    (tmp_path / "e.csv").write_text(FIRINGS)
    some = profile_file(str(tmp_path / "e.csv"), ReadSettings(), column_list("kiln, studio"))
    assert some.table == []
