"""Where reports and pictures go, and where they do not."""

from __future__ import annotations

from pathlib import Path

import pytest
from tests.cli.program import mangler, said

RUN = ("run", "r.mangler", "a.csv", "--to", "o.csv")


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "r.mangler").write_text('mangler 1 "Kilns"\ntrim *\n')
    (tmp_path / "a.csv").write_text("kiln,cone\n 007,6\n031,-\n")
    (tmp_path / "page.html").write_text("a,b\n1,2\n")
    (tmp_path / "recipe.md").write_text("mangler 1\ntrim *\n")
    return tmp_path


@pytest.mark.parametrize(
    ("words", "report", "code", "message"),
    [
        (RUN, "report.pdf", 2, "report.pdf: the report is a page or Markdown"),
        (RUN, "report", 2, "Let its name end with .html or .md."),
        (RUN, "no/such/report.html", 3, "the folder no/such of the report is not there"),
        (("run", "r.mangler", "page.html", "--to", "o.csv"), "page.html", 2, "page.html is an extract"),
        (("run", "recipe.md", "a.csv", "--to", "o.csv"), "recipe.md", 2, "recipe.md is the recipe"),
        (("run", "r.mangler", "a.csv", "--to", "out.md"), "out.md", 2, "out.md is the output"),
        (("profile", "page.html"), "page.html", 2, "page.html is the file itself"),
        (("compare", "page.html", "a.csv"), "./page.html", 2, "page.html is one of the two tables"),
        (("check", "r.mangler", "page.html"), "page.html", 2, "page.html is an extract"),
        (("history",), "history.txt", 2, "history.txt: the report is a page or Markdown"),
        (RUN, "s3://bucket/report.html", 2, "is an address"),
    ],
)
def test_a_report_takes_no_place_that_is_not_its_own(
    work: Path, words: tuple[str, ...], report: str, code: int, message: str
) -> None:
    before = {path.name: path.read_bytes() for path in work.iterdir() if path.is_file()}
    done = mangler(*words, "--report", report, cwd=work)
    assert done.returncode == code and message in said(done), said(done)
    assert {path.name: path.read_bytes() for path in work.iterdir() if path.is_file()} == before


def test_a_report_of_a_run_that_is_refused_says_why_and_replaces_an_older_one(work: Path) -> None:
    (work / "report.html").write_text("older")
    (work / "r.mangler").write_text("mangler 1\nconvert cone to integer\n")
    done = mangler(*RUN, "--report", "report.html", cwd=work)
    text = (work / "report.html").read_text("utf-8")
    assert done.returncode == 1 and not (work / "o.csv").exists()
    assert "Nothing was delivered" in text and "&#34;-&#34;" in text and "older" not in text


def test_no_report_where_the_recipe_itself_is_wrong(work: Path) -> None:
    (work / "r.mangler").write_text("mangler 1\ntrimm *\n")
    done = mangler(*RUN, "--report", "report.html", cwd=work)
    assert done.returncode == 2 and "unknown-verb" in said(done)
    assert not (work / "report.html").exists()


def test_what_was_delivered_stays_so_where_the_report_cannot_be_written(work: Path) -> None:
    """Between the check and the writing its place became a folder."""
    (work / "r.mangler").write_text("mangler 1\nrequire overall count() > 0\n")
    (work / "link.html").symlink_to(work / "gone" / "report.html")
    done = mangler(*RUN, "--report", "link.html", cwd=work)
    assert done.returncode == 3 and (work / "o.csv").exists()
    assert "The report is not written; what was delivered stays so." in said(done)


def test_a_rehearsal_and_json_have_reports_too(work: Path) -> None:
    done = mangler("run", "r.mangler", "a.csv", "--rehearse", "--json", "--report", "r.md", cwd=work)
    assert done.returncode == 0 and done.stdout.startswith(b"{")
    assert "Rehearsed: 2 rows" in (work / "r.md").read_text("utf-8")
    assert not (work / "o.csv").exists()


def test_secrets_of_addresses_are_not_in_a_report(work: Path) -> None:
    place = f"sqlite:///{work / 'clean.db'}?password=verysecret"
    mangler("run", "r.mangler", "a.csv", "--to", place, "--report", "r.html", cwd=work)
    plain = mangler("run", "r.mangler", "a.csv", "--to", "o.csv", "--report", "r.html", cwd=work)
    assert plain.returncode == 0
    assert "verysecret" not in (work / "r.html").read_text("utf-8")


def test_standard_input_has_no_cells_to_show(work: Path) -> None:
    content = (work / "a.csv").read_bytes()
    done = mangler("run", "r.mangler", "-", "--to", "o.csv", "--report", "r.md", cwd=work, stdin=content)
    text = (work / "r.md").read_text("utf-8")
    assert done.returncode == 0 and "is shown of files on this machine only" in text
