"""Every mistake has a word of its kind, and every word is used."""

from __future__ import annotations

import ast
from pathlib import Path

import mangler
from mangler.language.mistake_words import MISTAKE_WORDS

MAKERS = {"Mistake", "wrong_recipe", "extract_does_not_fit", "file_trouble", "mistake", "_refused"}


def words_in(tree: ast.AST) -> set[str]:
    """The first argument of each call that makes a mistake, and of tuples that become the arguments of one."""
    found = set()
    for node in ast.walk(tree):
        first: ast.AST | None = None
        if isinstance(node, ast.Call):
            name = node.func.id if isinstance(node.func, ast.Name) else getattr(node.func, "attr", "")
            first = node.args[0] if name in MAKERS and node.args else None
        elif isinstance(node, ast.Return) and isinstance(node.value, ast.Tuple) and len(node.value.elts) == 3:
            first = node.value.elts[0]
        if isinstance(first, ast.Constant) and isinstance(first.value, str):
            found.add(first.value)
    return found


def test_the_words_are_those_of_the_code() -> None:
    sources = sorted(Path(mangler.__file__).parent.rglob("*.py"))
    used = set().union(*(words_in(ast.parse(path.read_text("utf-8"))) for path in sources))
    assert used == MISTAKE_WORDS
