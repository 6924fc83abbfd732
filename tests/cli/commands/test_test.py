from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from tests.cli.program import mangler, said

RECIPE = """mangler 1 "Test"
trim studio
test "blanks go"
  studio
  " Clay  Works "
  becomes
  studio
  Clay Works
"""


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "failing.mangler").write_text(RECIPE)
    (tmp_path / "good.mangler").write_text(RECIPE.replace("trim studio", "trim studio squeeze"))
    (tmp_path / "wrong.mangler").write_text("mangler 1\ntrimm studio\n")
    return tmp_path


def test_expected_and_got_are_side_by_side(work: Path) -> None:
    done = mangler("test", "failing.mangler", cwd=work)
    assert done.returncode == 1 and done.stderr == b""
    text = done.stdout.decode()
    assert "line 3    failed       blanks go" in text
    assert "line 2: trim studio" in text
    assert re.search(r"expected +got\n +studio +studio\n +Clay Works +≠ +Clay·⟦·⟧Works\n", text)
    assert "1 test: 1 failed" in text


def test_on_a_narrow_screen_they_are_one_above_the_other(work: Path) -> None:
    heads, cells = " | ".join(f"column_{n}" for n in range(8)), " | ".join("x" * 8)
    given = f"{heads}\n  {cells}"
    (work / "wide.mangler").write_text(
        f"mangler 1\ntrim *\ntest\n  {given}\n  becomes\n  {given.replace('x', 'y')}\n"
    )
    lines = mangler("test", "wide.mangler", cwd=work).stdout.decode().split("\n")
    assert lines.index("    expected") < lines.index("    got")


def test_codes_and_several_recipes(work: Path) -> None:
    assert mangler("test", "good.mangler", cwd=work).returncode == 0
    done = mangler("test", "failing.mangler", "wrong.mangler", "good.mangler", cwd=work)
    assert done.returncode == 2
    assert "is not a verb" in said(done) or "trimm" in said(done)
    assert "1 test: 1 passed" in done.stdout.decode()
    done = mangler("test", "nowhere.mangler", cwd=work)
    assert done.returncode == 3 and "nowhere.mangler cannot be read" in said(done)


def test_for_machines(work: Path) -> None:
    done = mangler("test", "failing.mangler", "wrong.mangler", "--json", cwd=work)
    failing, wrong = json.loads(done.stdout)["recipes"]
    assert done.returncode == 2 and wrong["mistakes"][0]["line"] == 2
    (test,) = failing["tests"]
    assert test["outcome"] == "failed" and test["line"] == 3 and test["title"] == "blanks go"
    assert test["expected"] == {"columns": ["studio"], "rows": [["Clay Works"]], "aside": []}
    assert test["got"] == {"columns": ["studio"], "rows": [["Clay  Works"]], "aside": []}


def test_switched_off_and_refused(work: Path) -> None:
    off = RECIPE.replace("trim studio", "trim *\n# nullify '-' in studio")
    (work / "off.mangler").write_text(off)
    done = mangler("test", "off.mangler", cwd=work)
    assert done.returncode == 0
    assert "switched off blanks go, with the step in line 3" in done.stdout.decode()
    (work / "refused.mangler").write_text(RECIPE.replace("trim studio", "trim kiln"))
    done = mangler("test", "refused.mangler", cwd=work)
    assert done.returncode == 1 and 'gives no column "kiln"' in done.stdout.decode()


def test_a_run_passes_tests_over(work: Path) -> None:
    (work / "a.csv").write_text("studio\n x \n")
    assert mangler("run", "failing.mangler", "a.csv", "--to", "b.csv", cwd=work).returncode == 0
    assert (work / "b.csv").read_text() == "studio\nx\n"


def test_the_hooks_for_other_repositories_run(work: Path) -> None:
    """Each hook is called with the recipes that changed."""
    hooks = (Path(__file__).parents[3] / ".pre-commit-hooks.yaml").read_text()
    entries = re.findall(r"^  entry: mangler (.*)$", hooks, re.MULTILINE)
    assert entries == ["format --check", "test"]
    for entry in entries:
        assert mangler(*entry.split(), "good.mangler", cwd=work).returncode == 0
    assert mangler(*entries[1].split(), "failing.mangler", cwd=work).returncode == 1
