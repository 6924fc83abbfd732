from __future__ import annotations

import json
import re
from pathlib import Path
from xml.etree import ElementTree

import pytest
from tests.cli.program import mangler, said

RECIPE = """mangler 1 "Kilns"
read delimiter ";"
trim *
split potter at " " into first, last? in place
make hot = integer(peak) > 1200
drop columns notes
"""


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "r.mangler").write_text(RECIPE)
    (tmp_path / "a.csv").write_text("kiln;potter;peak;notes\n007;Odd Kallo;1222;x\n")
    return tmp_path


def test_a_recipe_in_words_for_an_extract(work: Path) -> None:
    done = mangler("explain", "r.mangler", "a.csv", cwd=work, env={"COLUMNS": "200"})
    assert done.returncode == 0 and said(done) == ""
    assert done.stdout.decode() == (
        "Kilns, for the columns of a.csv\n"
        "\n"
        '  2  Reads the extract with the delimiter ";".\n'
        "  3  Takes white space away at both ends of the cells of every column (kiln, potter, peak and notes).\n"
        '  4  Splits the cells of potter at " " into first, last?. They take the place of potter. A column without a'
        " part becomes\n     null.\n"
        "  5  Makes hot = integer(peak) > 1200.\n"
        "  6  Drops notes.\n"
        "  Where no sentence says otherwise, what fails is reported, and nothing is delivered.\n"
        "\n"
        "  column  comes from  in lines\n"
        "  kiln    kiln        3\n"
        "  first   potter      3, 4\n"
        "  last    potter      3, 4\n"
        "  peak    peak        3\n"
        "  hot     peak        3, 5\n"
        "\n"
        "Not in the output: notes (line 6).\n"
    )


def test_without_an_extract_the_columns_are_those_that_the_recipe_needs(work: Path) -> None:
    text = mangler("explain", "r.mangler", cwd=work, env={"COLUMNS": "200"}).stdout.decode()
    assert "every column (potter, peak and notes)" in text and "kiln" not in text


def test_all_that_happens_to_a_column(work: Path) -> None:
    done = mangler("explain", "r.mangler", "a.csv", "--columns", "hot", cwd=work)
    lines = done.stdout.decode().split("\n")
    assert lines[0] == "hot comes from peak" and [
        line.split()[0] for line in lines[1:] if line[:5].strip()
    ] == ["3", "5"]


def test_what_happens_to_a_column_that_is_added(work: Path) -> None:
    text = mangler("explain", "r.mangler", "--added", "depth float", cwd=work).stdout.decode()
    assert text == (
        "A column depth of type float, added to the extract:\n"
        "  No step touches it: it reaches the output as it is.\n"
    )
    answer = json.loads(mangler("explain", "r.mangler", "--added", "depth", "--json", cwd=work).stdout)
    assert answer["added"]["steps"] == [{"line": "3", "step": "trim *", "what": "changes its cells, by *"}]


def test_the_picture_holds_every_column_and_nothing_else_is_needed_for_it(work: Path) -> None:
    (work / "a.csv").write_text("kiln;potter;peak;notes;$x$ <b>&\n007;Odd Kallo;1222;x;y\n")
    pictures = []
    for seed in ("1", "2"):
        mangler("explain", "r.mangler", "a.csv", "--picture", "p.svg", cwd=work, env={"PYTHONHASHSEED": seed})
        pictures.append((work / "p.svg").read_text("utf-8"))
    assert pictures[0] == pictures[1] and "var(" not in pictures[0]
    root = ElementTree.fromstring(pictures[0])
    texts = {"".join(node.itertext()).strip() for node in root.iter("{http://www.w3.org/2000/svg}text")}
    assert {"kiln", "potter", "first", "hot", "3, 5", "notes gone: line 6", "$x$ <b>&"} <= texts
    assert not re.findall(r'(?:href|src)="(?!#)', pictures[0])


@pytest.mark.parametrize(
    ("words", "code", "message"),
    [
        (("nothere.mangler",), 3, "cannot be read"),
        (("r.mangler", "nothere.csv"), 3, "nothere.csv"),
        (("r.mangler", "--columns", "none"), 1, 'the output has no column "none"'),
        (("r.mangler", "--picture", "p.png"), 2, "Let its name end with .svg."),
        (("r.mangler", "--picture", "no/p.svg"), 3, "the folder no of the picture is not there"),
        (("r.mangler", "--added", " "), 2, "--added names no column"),
        (("r.mangler", "--set", "x"), 2, "--set x gives no value"),
    ],
)
def test_what_cannot_be_explained(work: Path, words: tuple[str, ...], code: int, message: str) -> None:
    done = mangler("explain", *words, cwd=work)
    assert done.returncode == code and message in said(done) and done.stdout == b""
    assert sorted(path.name for path in work.iterdir()) == ["a.csv", "r.mangler"]


def test_a_picture_takes_no_place_of_what_is_read(work: Path) -> None:
    (work / "a.svg").write_text("kiln;potter;peak;notes\n")
    done = mangler("explain", "r.mangler", "a.svg", "--picture", "a.svg", cwd=work)
    assert done.returncode == 2 and "a.svg is the extract" in said(done)
    assert (work / "a.svg").read_text().startswith("kiln")


def test_of_a_recipe_with_mistakes_the_rest_is_explained(work: Path) -> None:
    (work / "r.mangler").write_text(RECIPE + "trimm kiln\nfil x\n")
    done = mangler("explain", "r.mangler", cwd=work)
    assert done.returncode == 2 and said(done).count("is not a verb") == 2
    assert "Drops notes." in done.stdout.decode()


def test_where_an_extract_does_not_fit_it_is_said_at_the_step(work: Path) -> None:
    (work / "a.csv").write_text("kiln;peak\n007;1222\n")
    done = mangler("explain", "r.mangler", "a.csv", cwd=work, env={"COLUMNS": "200"})
    text = done.stdout.decode()
    assert done.returncode == 1 and 'the extract has no column "potter"' in said(done)
    assert '     ! does not fit: the extract has no column "potter"' in text
    assert "first   a step that does not fit" in text and "hot     peak" in text


def test_an_extract_that_is_read_otherwise_is_left_out(work: Path) -> None:
    (work / "a.csv").write_text("kiln,potter,peak,notes\n007,Odd Kallo,1222,x\n")
    done = mangler("explain", "r.mangler", "a.csv", cwd=work)
    assert done.returncode == 1 and "split at" in said(done)
    assert "first   potter" in done.stdout.decode()
