"""README and docs: commands run as they are written, the recipe passes its test, links lead somewhere."""

from __future__ import annotations

import os
import re
import subprocess
from pathlib import Path

import pytest
from tests.cli.program import PROGRAM

from mangler.sample.generate import write_sample

ROOT = Path(__file__).parents[2]
DOCUMENTS = ["README.md", *(f"docs/{path.name}" for path in sorted((ROOT / "docs").glob("*.md")))]
WITH_DRIFT = ("mangler compare", "extracts/*.csv", "kiln-log/extracts --to", "week-20", "week-21")
"""Files of which some are not as the recipe wants them, so that a command may end with 1."""
LINK = re.compile(r"\]\(([^)#\s]+)(?:#[^)]*)?\)")


def text_of(document: str) -> str:
    return (ROOT / document).read_text("utf-8")


def commands_of(document: str) -> list[str]:
    """The command lines of a document in their order, each with its continued lines."""
    blocks = re.findall(r"^```\n(.*?)^```", text_of(document), re.DOTALL | re.MULTILINE)
    lines = "\n".join(blocks).replace("\\\n", " ").splitlines()
    return [line for line in lines if re.match(r"(cat .*\| )?mangler [a-z]+ ", line)]


@pytest.mark.parametrize("document", [name for name in DOCUMENTS if name != "docs/manual.md"])
def test_commands_run_as_they_are_written(document: str, tmp_path: Path) -> None:
    (tmp_path / "kiln-log").mkdir()
    write_sample(tmp_path / "kiln-log")
    environment = {**os.environ, "PATH": f"{PROGRAM.parent}{os.pathsep}{os.environ['PATH']}"}
    for line in commands_of(document):
        done = subprocess.run(
            ["/bin/bash", "-c", line], cwd=tmp_path, env=environment, capture_output=True, check=False
        )
        allowed = (0, 1) if any(part in line for part in WITH_DRIFT) else (0,)
        assert done.returncode in allowed, f"{line}\n{done.stdout.decode()}{done.stderr.decode()}"


def test_the_main_documents_show_commands() -> None:
    """So that the test above cannot pass for want of commands."""
    shown = {name: len(commands_of(name)) for name in ("README.md", "docs/running.md", "docs/exploring.md")}
    assert all(count >= 5 for count in shown.values()), shown


def test_the_recipe_of_the_readme_passes_its_test(tmp_path: Path) -> None:
    recipes = re.findall(r"^```\n(mangler 1.*?)^```", text_of("README.md"), re.DOTALL | re.MULTILINE)
    (tmp_path / "short.mangler").write_text(recipes[0], "utf-8")
    done = subprocess.run(
        [PROGRAM, "test", "short.mangler"], cwd=tmp_path, capture_output=True, check=False, text=True
    )
    assert done.returncode == 0 and "1 test: 1 passed" in done.stdout, done.stdout + done.stderr


@pytest.mark.parametrize("document", DOCUMENTS)
def test_links_lead_somewhere(document: str) -> None:
    links = [
        link
        for link in LINK.findall(re.sub(r"```.*?```", "", text_of(document), flags=re.DOTALL))
        if ":" not in link
    ]
    missing = [link for link in links if not (ROOT / document).parent.joinpath(link).exists()]
    assert not missing


def test_every_picture_is_shown() -> None:
    pictures = {path.name for path in (ROOT / "docs" / "screenshots").glob("*.png")}
    shown = {Path(link).name for name in DOCUMENTS for link in LINK.findall(text_of(name))}
    assert not pictures - shown
