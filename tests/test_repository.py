"""What the repository tracks: sources, pages and pictures, and nothing that a run left behind."""

from __future__ import annotations

import ast
import re
import subprocess
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
LARGEST = 300 << 10
"""Bytes of a tracked file."""
DATABASES = (b"SQLite format 3\0", b"PAR1", b"ARROW1")
PATHS_OF_A_MACHINE = re.compile(
    rb"(?<![\w.~$}])/(?:root|tmp|var/folders|private/var|var/tmp)/\w|(?<![\w.])/(?:home|Users)/\w+/"
)
"""Absolute paths of somebody's home, or of a temporary folder."""


def faults(path: Path) -> list[str]:
    """Why a file may not be tracked."""
    content = path.read_bytes()
    found = []
    if content.startswith(DATABASES) or path.suffix in (".db", ".sqlite", ".sqlite3", ".mangler-part"):
        found.append("a database, or what a run left behind")
    if len(content) > LARGEST:
        found.append(f"{len(content):,} bytes")
    if found_path := PATHS_OF_A_MACHINE.search(content):
        found.append(f"the path of a machine: {found_path.group().decode()}…")
    return found


def tracked() -> list[Path]:
    listed = subprocess.run(["git", "ls-files", "-z"], cwd=ROOT, capture_output=True, check=True)
    paths = [ROOT / name.decode() for name in listed.stdout.split(b"\0") if name]
    return [path for path in paths if path.is_file()]


def test_files_and_functions_stay_short() -> None:
    long = []
    for path in tracked():
        if path.suffix != ".py":
            continue
        text = path.read_text("utf-8")
        if text.count("\n") > 400:
            long.append(f"{path.name}: {text.count(chr(10))} lines")
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.FunctionDef) and node.end_lineno - node.lineno >= 60:  # type: ignore[operator]
                long.append(f"{path.name}: {node.name}")
    assert long == []


def test_only_what_belongs_to_the_project_is_tracked() -> None:
    paths = tracked()
    assert ROOT / "README.md" in paths
    assert {str(path.relative_to(ROOT)): bad for path in paths if (bad := faults(path))} == {}


@pytest.mark.parametrize(
    ("name", "content"),
    [
        ("history.db", b""),
        ("data", b"SQLite format 3\0 and so on"),
        ("large.txt", b"x" * (LARGEST + 1)),
        ("log.txt", b"written to " + b"/ho" + b"me/ines/extract.csv"),
        ("log.txt", b'"' + b"/t" + b'mp/pytest-of-ines/clean.csv"'),
    ],
)
def test_what_does_not_belong_is_found(tmp_path: Path, name: str, content: bytes) -> None:
    path = tmp_path / name
    path.write_bytes(content)
    assert len(faults(path)) == 1
