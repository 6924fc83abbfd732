"""docs/architecture.md and CONTRIBUTING.md say what is there."""

from __future__ import annotations

import re
import runpy
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
PAGES = ("docs/architecture.md", "CONTRIBUTING.md")


def test_the_layers_are_drawn_from_the_contracts() -> None:
    figure = runpy.run_path(str(ROOT / "bench/layers.py"))["figure"]()
    assert figure in (ROOT / "docs/architecture.md").read_text("utf-8"), "python -m bench.layers draws them"


@pytest.mark.parametrize("page", PAGES)
def test_every_file_that_a_page_names_is_there(page: str) -> None:
    text = (ROOT / page).read_text("utf-8")
    named = set(re.findall(r"`((?:src|tests|docs|bench|\.ci)/[\w./-]+)`", text))
    new = set(re.findall(r"`([\w/.]+)` \(new\)", text))
    assert named and [name for name in sorted(named - new) if not (ROOT / name).exists()] == []
