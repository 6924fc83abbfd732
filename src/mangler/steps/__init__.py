"""The verbs. Each module is one verb: its syntax, its page of the reference, its checks, its binding.

The table below is all that is known of a verb until a recipe uses it; then its module is imported.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from importlib import import_module
from types import ModuleType
from typing import cast

from mangler.language.declaration import Declaration
from mangler.language.mistake import Mistake
from mangler.language.statement import Statement
from mangler.table.contract import BoundStep
from mangler.table.schema import Schema

MODULES = {
    "mangler": "frame",
    "read": "read",
    "require columns": "require_columns",
    "require that": "require_that",
    "require no nulls": "require_no_nulls",
    "require only": "require_only",
    "require one row": "require_one_row",
    "require between": "require_between",
    "tolerate": "tolerate",
    "parameter": "parameter",
    "define": "define",
    "import": "import_as",
    "include": "include",
    "trim": "trim",
    "replace": "replace",
    "nullify": "nullify",
    "keep characters": "keep_characters",
    "drop characters": "drop_characters",
    "map": "map",
    "split": "split",
    "capture": "capture",
    "join": "join",
    "clean list": "clean_list",
    "unpivot": "unpivot",
    "pivot": "pivot",
    "recase": "recase",
    "fill": "fill",
    "convert": "convert",
    "make": "make",
    "change": "change",
    "keep rows": "keep_rows",
    "drop rows": "drop_rows",
    "set aside rows": "set_aside_rows",
    "sort": "sort",
    "dedupe": "dedupe",
    "group": "group",
    "lookup": "lookup",
    "number rows": "number_rows",
    "rename": "rename",
    "keep columns": "keep_columns",
    "drop columns": "drop_columns",
    "reorder columns": "reorder_columns",
    "write": "write",
    "test": "test",
}
"""Verbs in the order of the reference, and the module of each."""

FRAME = ("mangler", "read", "write", "tolerate", "test", "parameter", "define", "import", "include")
"""Verbs that are about files or other statements and not about rows: they are no steps."""


class BuiltInVerbs:
    """The verbs as the language's parser asks for them."""

    def names(self) -> Sequence[str]:
        return list(MODULES)

    def declaration(self, name: str) -> Declaration:
        return cast(Declaration, _module(name).DECLARATION)

    def is_step(self, name: str) -> bool:
        return name not in FRAME

    def check(self, statement: Statement) -> list[Mistake]:
        from mangler.steps.checks import check_shared

        mistakes = check_shared(statement)
        own = getattr(_module(statement.verb), "check", None)
        return mistakes if own is None else [*mistakes, *own(statement)]


VERBS = BuiltInVerbs()


def bind(statement: Statement, schema: Schema) -> BoundStep:
    """The step of a statement on columns like these. What does not fit is raised, with its place."""
    work = cast(Callable[[Statement, Schema], BoundStep], _module(statement.verb).bind)
    return work(statement, schema)


def _module(name: str) -> ModuleType:
    return import_module(f"mangler.steps.{MODULES[name]}")
