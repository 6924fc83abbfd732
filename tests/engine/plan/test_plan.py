from __future__ import annotations

import subprocess
import sys
from pathlib import Path

LOADED = """
import sys
from mangler.engine.run.linked_recipe import LinkedRecipe
LinkedRecipe.parse(open("r.mangler").read()).run("a.csv", to="o.csv")
print([name for name in sys.modules if name.startswith(("mangler.expressions.bind", "mangler.expressions.registry"))])
"""


def loaded(folder: Path, step: str) -> str:
    (folder / "r.mangler").write_text(f"mangler 1\n{step}\n")
    (folder / "a.csv").write_text("a\nx\n")
    done = subprocess.run(
        [sys.executable, "-c", LOADED], cwd=folder, capture_output=True, text=True, check=True
    )
    return done.stdout.strip()


def test_expressions_are_loaded_only_for_a_recipe_that_has_some(tmp_path: Path) -> None:
    assert loaded(tmp_path, "trim a\nfill a with 'x'\nreplace 'a' with 'b' in a") == "[]"
    assert "mangler.expressions.registry" in loaded(tmp_path, "trim a where a = 'x'")
