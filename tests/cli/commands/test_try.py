from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from tests.cli.program import mangler, said

CONTENT = "kiln;studio;result\n007; Clay  Works ;good\n012;Quayside;Good\n031;;n/a\n"


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "a.csv").write_text(CONTENT)
    return tmp_path


def shown(work: Path, *words: str) -> str:
    done = mangler("try", "a.csv", *words, cwd=work)
    assert done.returncode == 0, said(done)
    return done.stdout.decode()


def test_cells_before_and_after(work: Path) -> None:
    text = shown(work, "trim * squeeze")
    assert text.startswith("trim * squeeze\n\n  row  column  before")
    assert re.search(r"\n +1  studio  ⟨·⟩Clay⟨·⟩·Works⟨·⟩  Clay Works +1\n", text)
    assert "⟨removed⟩ ⟦came in⟧" in text and re.search(r"rows tried +3 +1 ", text)
    assert "Tried on all 3 rows of a.csv." in text and "kiln" not in text and "result" not in text


def test_a_step_that_changes_nothing_says_why(work: Path) -> None:
    text = shown(work, 'replace "GOOD" with "fine" in result')
    assert "changed nothing: no cell holds one of these" in text
    assert '2 cells left that would match in another letter case, such as "good", "Good"; anycase' in text


def test_columns_and_several_steps(work: Path) -> None:
    text = shown(work, "rename kiln to oven", "drop columns result", "reorder columns studio, *")
    assert "1 of 3  rename kiln to oven\n\n  column renamed: ⟨kiln⟩ ⟦oven⟧" in text
    assert "column gone: ⟨result⟩" in text and "order of columns: studio, oven" in text


def test_nulls(work: Path) -> None:
    assert re.search(r"3  studio  ⟨\(null\)⟩  ⟦unknown⟧", shown(work, 'fill studio with "unknown"'))
    assert re.search(r"3  result  ⟨n/a⟩   ⟦\(null\)⟧", shown(work, 'nullify "N/A" in result anycase'))


def test_no_colour_and_a_mistake_under_its_character(work: Path) -> None:
    assert "\x1b" not in shown(work, "trim studio")
    done = mangler("try", "a.csv", 'replace "x" with "y" in studoi', cwd=work)
    assert done.returncode == 1 and done.stdout == b""
    lines = said(done).split("\n")
    assert lines[0] == 'STEP, line 1, column 25: the extract has no column "studoi"  (unknown-column)'
    assert lines[2].index("^") == lines[1].index("studoi") and lines[2].count("^") == 6


def test_saving(work: Path) -> None:
    done = mangler("try", "a.csv", "trim studio   squeeze", "--recipe", "r.mangler", "--save", cwd=work)
    assert done.returncode == 0 and said(done) == "Made r.mangler.\n"
    assert (work / "r.mangler").read_text() == 'mangler 1 "r"\n\ntrim studio squeeze\n'
    done = mangler("try", "a.csv", "recase studio upper", "--recipe", "r.mangler", "--save", cwd=work)
    assert said(done) == "Added to r.mangler.\n" and b"\xe2\x9f\xa8Clay Works\xe2\x9f\xa9" in done.stdout
    assert (work / "r.mangler").read_text().endswith("trim studio squeeze\nrecase studio upper\n")
    assert mangler("run", "r.mangler", "a.csv", "--to", "b.csv", cwd=work).returncode == 0


def test_nothing_is_saved_that_does_not_fit(work: Path) -> None:
    done = mangler("try", "a.csv", "trim studoi", "--recipe", "r.mangler", "--save", cwd=work)
    assert done.returncode == 1 and not (work / "r.mangler").exists()


@pytest.mark.parametrize(
    ("words", "code", "message"),
    [
        (["trim *", "--save"], 2, "--save needs to know where"),
        (["trim *", "--recipe", "gone.mangler"], 3, "gone.mangler cannot be read"),
        (["trim *", "--recipe", "r.mangler", "--read", 'nulls ""'], 2, "both say how the file is read"),
        (["trimm *"], 2, "Nearest: trim"),
    ],
)
def test_what_is_refused(work: Path, words: list[str], code: int, message: str) -> None:
    (work / "r.mangler").write_text("mangler 1\ntrim *\n")
    done = mangler("try", "a.csv", *words, cwd=work)
    assert done.returncode == code and message in said(done)


def test_for_machines_and_the_whole_file(work: Path) -> None:
    done = mangler("try", "-", "trim *", "--rows", "1", "--all", "--json", cwd=work, stdin=CONTENT.encode())
    answer = json.loads(done.stdout)
    assert answer["rows_tried"] == 1 and answer["rows_in_extract"] == 3 and answer["saved_to"] is None
    (step,) = answer["steps"]
    assert step["cells"][0]["before"] == " Clay  Works " and step["whole_file"]["rows_in"] == 3


def test_new_columns_and_rows_that_go_have_a_look_of_their_own(work: Path) -> None:
    text = shown(work, "make label = '{kiln}!' after kiln".replace("'", '"'), 'drop rows where kiln = "012"')
    assert re.search(r"row +kiln +\+ label\n +1 +007 +007!\n", text) and "+ label: a new column" in text
    assert re.search(r"\n +−2 +012 +012! +Quayside +Good\n", text) and "− row: a row that goes" in text


def test_rows_that_fail_are_shown_and_are_the_answer_no(work: Path) -> None:
    done = mangler("try", "a.csv", "make n = date(result)", cwd=work)
    assert done.returncode == 1
    text = done.stdout.decode()
    assert (
        "3 rows fail, and a run would deliver nothing" in text
        and 'row 1, line 2: "good" is not a date' in text
    )
    done = mangler("try", "a.csv", "make n = date(result) failures aside", cwd=work)
    assert done.returncode == 0 and 'row 3: "n/a" is not a date' in done.stdout.decode()


def test_typed_values_are_shown(work: Path) -> None:
    text = shown(
        work,
        "make n = integer(kiln), d = date('2026-05-04')",
        "change n to cell * 2",
        "drop rows where n = 24",
    )
    assert re.search(r"1  007 ", text) is None or "2026-05-04" in text
    assert re.search(r"\n +1  n +⟨7⟩ +⟦14⟧ +1\n", text) and "2026-05-04" in text


def test_an_expression_with_no_file(work: Path) -> None:
    (work / "r.mangler").write_text("mangler 1\ndefine own(x) = upper(x)\nparameter p = 2\n")
    for words, answer in (
        (["--given", 'name = " x "', '"<{trim(name)}>"'], "<x>  text\n"),
        (["--given", "a = 1", "--given", "b = a + 1", "a + b"], "3  integer\n"),
        (["--given", "a = null", 'coalesce(a, "")'], '""  text\n'),
        (["--given", 'd = date("2026-05-04")', "weekday(d)"], "1  integer\n"),
        (["--given", "a = 'x'", "--recipe", "r.mangler", '"{own(a)}{p}"'], "X2  text\n"),
    ):
        done = mangler("try", *words, cwd=work)
        assert (done.returncode, done.stdout.decode()) == (0, answer)
    done = mangler("try", "--given", "n = 0", "1 / n", "--json", cwd=work)
    assert done.returncode == 1 and "division by zero" in said(done)
    done = mangler("try", "--given", "n = 'x'", "n * 2", cwd=work)
    assert done.returncode == 2 and "EXPR, line 1, column 1" in said(done)
    done = mangler("try", "--given", "n 0", "n", cwd=work)
    assert done.returncode == 2 and "= is expected here" in said(done)
    done = mangler("try", "--given", "n = 7", "n", "--json", cwd=work)
    assert json.loads(done.stdout) == {"type": "integer", "value": "7"}


def test_parameters_and_functions_of_the_recipe(work: Path) -> None:
    (work / "r.mangler").write_text('mangler 1\nparameter word = "Good"\ndefine own(x) = lower(x)\n')
    step = "keep rows where own(result) = own(word)"
    assert "rows tried  3 → 2" in shown(work, step, "--recipe", "r.mangler")
    assert "rows tried  3 → 1" in shown(work, step, "--recipe", "r.mangler", "--set", "word=N/A")
    done = mangler("try", "a.csv", step, "--set", "word=x", cwd=work)
    assert done.returncode == 2 and "--set goes with --recipe" in said(done)


def test_a_split_shows_cells_with_their_delimiters_and_the_parts_beside_them(work: Path) -> None:
    (work / "a.csv").write_text(
        "kiln;potter;glazes\n007;Dr. Ines Kallo;ash, tin\n012;Pim Verhoe;\n031;Pim Verhoe;ash\n"
    )
    text = shown(work, 'split potter at " " into title? /(Dr|Ms)\\./, first_name, last_name')
    assert re.search(r"row  potter +\+ title  \+ first_name  \+ last_name  cells\n", text)
    assert re.search(r"1  Dr.⟨·⟩Ines⟨·⟩Kallo  Dr\. +Ines +Kallo +1\n", text)
    assert re.search(r"2  Pim⟨·⟩Verhoe +\(null\) +Pim +Verhoe +2\n", text)
    assert (
        "⟨ ⟩ a delimiter; + title, first_name, last_name: new columns" in text
        and "parts per cell: 2 in 2, 3 in 1" in text
    )
    text = shown(work, 'split glazes at "," into rows')
    assert re.search(r"1  ash⟨,⟩ tin  ash +1\n +tin *\n +3  ash +ash +1\n", text)


def test_a_split_that_would_stop_a_run_shows_where(work: Path) -> None:
    (work / "a.csv").write_text("kiln;shelf\n007;A/2/left\n012;B/1\n")
    done = mangler("try", "a.csv", 'split shelf at "/" into rack, board', cwd=work)
    text = done.stdout.decode()
    assert done.returncode == 1
    assert re.search(r"1  A⟨/⟩2⟨/⟩left  ✗ 3 parts", text) and re.search(r"2  B⟨/⟩1 +B +1", text)
    assert "row 1, line 2: 3 parts for 2 names: A | 2 | left" in text and "or say too few null" in text
    done = mangler("try", "a.csv", 'split shelf at "/" into rack, board', "--json", cwd=work)
    cut = json.loads(done.stdout)["steps"][0]["cuts"][0]
    assert cut["delimiters"] == [[1, 2], [3, 4]] and cut["count"] == 3 and cut["parts"] == []
    assert cut["reason"] == "3 parts for 2 names: A | 2 | left"


def test_steps_that_see_all_rows(work: Path) -> None:
    text = shown(work, "sort by kiln descending", "dedupe by result anycase", "fill studio up", "--all")
    lines = [line.split()[0] for line in text.split("2 of 3")[0].split("\n") if re.match(r" *\d+ +0", line)]
    assert lines == ["3", "2", "1"]  # the rows keep their numbers
    assert re.search(r"−1 +good", text) and re.search(r"whole file +3 → 2 ", text)
    assert re.search(r"3  studio  ⟨\(null\)⟩  ⟦Quayside⟧", text)
    said = json.loads(mangler("try", "a.csv", "sort by kiln descending", "--json", cwd=work).stdout)
    assert [row["row"] for row in said["steps"][0]["table"]] == [3, 2, 1]
    assert said["steps"][0]["table"][0]["cells"]["kiln"] == "031"


def test_of_a_split_with_a_condition_only_its_cells_are_shown(work: Path) -> None:
    text = shown(work, "split studio at ' ' into first, rest? where kiln = '007'")
    assert "⟨·⟩Clay" in text and "Quayside" not in text


def test_steps_after_one_whose_columns_come_of_the_rows(work: Path) -> None:
    steps = (
        "pivot result into columns of kiln with count()",
        "drop columns /./ except kiln?",
        "number rows as n",
    )
    told_of = json.loads(mangler("try", "a.csv", *steps, "--all", "--json", cwd=work).stdout)
    pivot = told_of["steps"][0]
    assert pivot["table"] and pivot["whole_file"]["rows_out"] == pivot["tried"]["rows_out"]
    assert any("come from result here" in fact for fact in pivot["tried"]["facts"])
    assert told_of["steps"][2]["columns_come"] == ["n"]
    wrong = mangler("try", "a.csv", steps[0], "drop columns nowhere", cwd=work)
    assert wrong.returncode == 1 and 'the extract has no column "nowhere"' in said(wrong)


def test_how_a_file_is_read_is_tried(work: Path) -> None:
    text = shown(work, 'read delimiter "," quote "|"')
    assert text.startswith("a.csv") and "kiln;studio;result" in text and "rows 1 to 3 of 3" in text
    assert re.search(r"1 +007; Clay··Works ;good", text)
    both = shown(work, 'read delimiter ";" nulls "Quayside"', 'fill studio with "unknown"')
    assert re.search(r"2  studio  ⟨\(null\)⟩  ⟦unknown⟧ +2", both)


def test_what_would_be_written_is_tried(work: Path) -> None:
    text = shown(work, "trim studio squeeze", 'write delimiter "|" nulls "none"')
    lines = [line.strip() for line in text.splitlines()]
    at = lines.index("written as delimited text")
    assert lines[at + 2 : at + 6] == [
        "kiln|studio|result",
        "007|Clay Works|good",
        "012|Quayside|Good",
        "031|none|n/a",
    ]
    typed = shown(work, "convert kiln to integer", "write format parquet")
    assert re.search(r"kiln +int64\n +studio +string\n", typed)
    assert [path.name for path in work.iterdir()] == ["a.csv"]  # nothing is left of what was written


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (["trim *", 'read delimiter ";"'], "It comes first, and once"),
        (["write", "trim *"], "It comes last, and once"),
        (['read delimiter ";"', "--read", 'delimiter ","'], "Leave one out"),
        (["trim *", "write", "--save", "--recipe", "r.mangler"], "Leave write out here"),
        (["write by nope"], "nope"),
        (["write compression snappy"], "snappy"),
        (['read called "a"'], "a column name is expected"),
    ],
)
def test_read_and_write_have_their_places(work: Path, words: list[str], told: str) -> None:
    done = mangler("try", "a.csv", *words, cwd=work)
    assert done.returncode in (1, 2) and told in said(done)
    assert [path.name for path in work.iterdir()] == ["a.csv"]


def test_a_list_is_announced_where_a_run_could_not_write_it(work: Path) -> None:
    assert 'a run needs make g = joined(g, "; ")' in shown(work, 'make g = split(studio, " ")')
    assert "a run needs" not in shown(work, 'make g = split(studio, " ")', 'make g = joined(g, ";")')
    assert "a run needs" not in shown(work, 'make g = split(studio, " ")', "write format jsonl")


def test_new_columns_are_always_shown(work: Path) -> None:
    text = "Clay Works, a kiln by the river " * 3
    (work / "a.csv").write_text(f"one;two;three;four\n{text};{text};{text};{text}\n")
    head = shown(work, 'make five = upper("{one} {two} {three} {four}"), six = upper(one)').splitlines()[2]
    assert "+ five" in head and "+ six" in head


def test_line_breaks_in_reasons_are_marked(work: Path) -> None:
    (work / "a.csv").write_text('notes;n\n"two\nlines";1\n')
    done = mangler("try", "a.csv", "convert notes to integer", cwd=work)
    assert done.returncode == 1 and 'notes: "two↵lines" is not an integer' in done.stdout.decode()
