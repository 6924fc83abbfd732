"""Tries an expression on values that are given with it, with no file."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import pyarrow as pa

from mangler.expressions.bind import bind_expression
from mangler.expressions.scope import Surroundings, describe
from mangler.expressions.value import Frame
from mangler.kernels.text.text_view import TooLargeError
from mangler.language.cursor import Cursor
from mangler.language.expression import Expression
from mangler.language.expression_reader import read_expression
from mangler.language.literals import read_name
from mangler.language.mistake import ExitCode, Refusal, extract_does_not_fit, wrong_recipe
from mangler.language.scope import NO_NAMES, Scope
from mangler.language.source_text import source_of
from mangler.late_dataclass import dataclass
from mangler.steps.shared.checks import check_patterns
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.small import cells_of
from mangler.table.types import ARROW


@dataclass(frozen=True)
class Answer:
    """The value of an expression: its type, and the value as text, None for null."""

    kind: str
    value: str | None


def evaluate(text: str, given: Sequence[str] = (), names: Scope = NO_NAMES, name: str = "EXPR") -> Answer:
    """The value of an expression. `given` are `name = literal` or `name = expression`, each a column of one row."""
    columns: dict[str, tuple[ValueType, Any]] = {}
    for number, setting in enumerate(given, 1):
        column, expression = _read_given(setting, "--given" if len(given) == 1 else f"--given {number}")
        if column in columns:
            raise wrong_recipe("said-twice", f'"{column}" is given twice', "Give each name one value.")
        kind, array = _value(expression, columns, names)
        columns[column] = (kind or ValueType.TEXT, array)
    cursor = Cursor(source_of(name, text), 0, len(text))
    tree = read_expression(cursor)
    if not cursor.at_end():
        raise cursor.mistake(
            "unexpected-text",
            f"the expression ends here, found {cursor.found()}",
            "One expression is tried at a time.",
        )
    kind, array = _value(tree, columns, names)
    return Answer(describe(kind), cells_of(array)[0])


def _read_given(setting: str, name: str) -> tuple[str, Expression]:
    cursor = Cursor(source_of(name, setting), 0, len(setting))
    column = read_name(cursor)
    if not cursor.take_mark("="):
        raise cursor.mistake(
            "missing-word", f"= is expected here, found {cursor.found()}", "Write --given 'kiln = \"007\"'."
        )
    expression = read_expression(cursor)
    if not cursor.at_end():
        raise cursor.mistake(
            "unexpected-text",
            f"the value ends here, found {cursor.found()}",
            "Several values: --given for each of them.",
        )
    return column.value, expression


def _value(
    tree: Expression, columns: dict[str, tuple[ValueType, Any]], names: Scope
) -> tuple[ValueType | None, Any]:
    """The type of an expression, and its one value as an array."""
    mistakes = check_patterns(tree)
    if mistakes:
        raise Refusal(mistakes, ExitCode.WRONG_FOR_ANY_EXTRACT)
    schema = Schema(tuple(Column(name, kind) for name, (kind, _) in columns.items()))
    bound = bind_expression(tree, Surroundings(schema, names))
    frame = Frame({name: array for name, (_, array) in columns.items()}, np.array([1], np.int64))
    try:
        value = bound.evaluate(frame)
    except (TooLargeError, pa.ArrowCapacityError) as error:
        raise extract_does_not_fit(
            "too-large", f"this value would be larger than 2 GB ({error})", "Make a shorter text.", bound.span
        ) from None
    for failure in value.failures:
        if failure.flags.any():
            raise extract_does_not_fit(
                "expression-fails", f"this expression fails: {failure.why(0)}", "", bound.span
            )
    array = value.array(1)
    return bound.kind, array.cast(ARROW[bound.kind or ValueType.TEXT])
