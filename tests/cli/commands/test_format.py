from __future__ import annotations

import json
from pathlib import Path

from tests.cli.program import mangler, said

UNTIDY = """mangler  1


# Blanks.
trim studio,
   potter  squeeze # both
test
  studio|potter
  a | b c
  becomes
  studio
  a
"""
TIDY = """mangler 1

# Blanks.
trim studio, potter
  squeeze  # both
test
  studio | potter
  a      | b c
  becomes
  studio
  a
"""


def test_recipes_are_laid_out_in_their_files(tmp_path: Path) -> None:
    recipe = tmp_path / "r.mangler"
    recipe.write_text(UNTIDY)
    done = mangler("format", "--check", "r.mangler", cwd=tmp_path)
    assert done.returncode == 1 and said(done) == "r.mangler: not in the canonical layout, from line 1 on\n"
    assert recipe.read_text() == UNTIDY
    done = mangler("format", "r.mangler", cwd=tmp_path)
    assert done.returncode == 0 and said(done) == "r.mangler: laid out anew\n"
    assert recipe.read_text() == TIDY
    changed = recipe.stat().st_mtime_ns
    done = mangler("format", "r.mangler", "--check", cwd=tmp_path)
    assert done.returncode == 0 and said(done) == "r.mangler: as it should be\n"
    mangler("format", "r.mangler", cwd=tmp_path)
    assert recipe.stat().st_mtime_ns == changed


def test_a_recipe_with_mistakes_is_left_as_it_is(tmp_path: Path) -> None:
    (tmp_path / "bad.mangler").write_text("mangler  1\ntrimm a\n")
    (tmp_path / "r.mangler").write_text(UNTIDY)
    done = mangler("format", "bad.mangler", "r.mangler", "gone.mangler", cwd=tmp_path)
    assert done.returncode == 3 and "bad.mangler, line 2, column 1" in said(done)
    assert (tmp_path / "bad.mangler").read_text() == "mangler  1\ntrimm a\n"
    assert (tmp_path / "r.mangler").read_text() == TIDY


def test_standard_input_to_standard_output(tmp_path: Path) -> None:
    done = mangler("format", "-", cwd=tmp_path, stdin=UNTIDY.encode())
    assert done.returncode == 0 and done.stdout.decode() == TIDY and done.stderr == b""
    done = mangler("format", "-", "--check", cwd=tmp_path, stdin=UNTIDY.encode())
    assert done.returncode == 1 and done.stdout == b""
    assert mangler("format", "-", "--json", cwd=tmp_path, stdin=UNTIDY.encode()).returncode == 2


def test_line_ends_and_links_stay(tmp_path: Path) -> None:
    recipe = tmp_path / "r.mangler"
    recipe.write_bytes(UNTIDY.replace("\n", "\r\n").encode())
    (tmp_path / "link.mangler").symlink_to(recipe)
    mangler("format", "link.mangler", cwd=tmp_path)
    assert recipe.read_bytes() == TIDY.replace("\n", "\r\n").encode()
    assert (tmp_path / "link.mangler").is_symlink()
    done = mangler("format", "--check", "r.mangler", cwd=tmp_path)
    assert done.returncode == 0, said(done)


def test_for_machines(tmp_path: Path) -> None:
    (tmp_path / "r.mangler").write_text(UNTIDY)
    done = mangler("format", "--check", "--json", "r.mangler", cwd=tmp_path)
    assert json.loads(done.stdout) == {"recipes": [{"recipe": "r.mangler", "changed": True, "mistakes": []}]}
