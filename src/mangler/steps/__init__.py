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
    "mangler": "mangler",
    "read": "read",
    "require columns": "require.columns",
    "require that": "require.that",
    "require no nulls": "require.no_nulls",
    "require only": "require.only",
    "require one row": "require.one_row",
    "require between": "require.between",
    "require overall": "require.overall",
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
    "split": "split.split",
    "capture": "capture",
    "join": "join",
    "clean list": "clean_list",
    "unpivot": "unpivot",
    "repeat rows": "repeat_rows",
    "pivot": "group.pivot",
    "recase": "recase",
    "fill": "fill.fill",
    "convert": "convert.convert",
    "make": "make",
    "change": "change",
    "keep rows": "keep_rows",
    "keep first": "keep_first",
    "keep last": "keep_last",
    "drop rows": "drop_rows",
    "set aside rows": "set_aside_rows",
    "sort": "sort",
    "dedupe": "dedupe.dedupe",
    "group": "group.group",
    "lookup": "lookup.lookup",
    "number rows": "number_rows",
    "rename": "rename",
    "keep columns": "keep_columns",
    "drop columns": "drop_columns",
    "reorder columns": "reorder_columns",
    "write": "write",
    "test": "test",
}
"""Verbs in the order of the reference, and the module of each."""


class BuiltInVerbs:
    """The verbs as the language's parser asks for them."""

    def names(self) -> Sequence[str]:
        return list(MODULES)

    def declaration(self, name: str) -> Declaration:
        return cast(Declaration, _module(name).DECLARATION)

    def is_step(self, name: str) -> bool:
        return self.declaration(name).is_step

    def check(self, statement: Statement) -> list[Mistake]:
        from mangler.steps.shared.checks import check_shared

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
