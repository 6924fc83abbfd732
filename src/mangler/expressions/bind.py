"""Binds expressions: what every name means, and of which type every value is, before any row is read."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from decimal import Decimal
from typing import Any

import pyarrow as pa

from mangler.expressions import operators
from mangler.expressions.calls import bind_call
from mangler.expressions.reasons import ByCell
from mangler.expressions.scope import HIDDEN, Surroundings, describe, way_out
from mangler.expressions.value import Bound, Frame, Kind, Value, cast_to, constant, failing, stated_places
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.patterns import matches
from mangler.kernels.values.plain import plain
from mangler.language import expression as tree
from mangler.language.literals import Number, Template, Text, Truth
from mangler.language.mistake import Refusal, nearest, wrong_recipe
from mangler.language.names import rebuilt
from mangler.language.patterns import Pattern
from mangler.table.schema import Schema, ValueType
from mangler.table.select import missing_column, quote_name, select
from mangler.table.stored_types import describe_type

MANIFOLD = (ValueType.DECIMAL, ValueType.TIMESTAMP, ValueType.TIME)
"""Types that columns may have in several forms, of which expressions see one."""


def bind_expression(node: tree.Expression, around: Surroundings) -> Bound:
    """The expression on these columns. A name or a type that does not fit is raised with its place."""
    for kind, work in BINDERS.items():
        if isinstance(node, kind):
            return work(node, around)
    raise AssertionError(f"no binding for {type(node).__name__}")


def bind_condition(node: tree.Expression, around: Surroundings) -> Bound:
    """An expression that is true, false or null for each row."""
    bound = bind_expression(node, around)
    if bound.kind not in (ValueType.BOOLEAN, None):
        raise wrong_recipe(
            "condition-needed",
            f"a condition is needed here, and {bound.span.text} is {describe(bound.kind)}",
            way_out(bound, "a condition"),
            bound.span,
        )
    return cast_to(bound, ValueType.BOOLEAN)


def _text(node: Text, _: Surroundings) -> Bound:
    return constant(node.value, ValueType.TEXT, node.span)


def _number(node: Number, _: Surroundings) -> Bound:
    if isinstance(node.value, Decimal):
        return _decimal(node)
    if not -(2**63) <= node.value < 2**63:
        raise wrong_recipe(
            "number-too-large",
            "this whole number has more than 64 bits",
            "Numbers up to 9_223_372_036_854_775_807 are kept exactly.",
            node.span,
        )
    return constant(node.value, ValueType.INTEGER, node.span)


def _decimal(node: Number) -> Bound:
    try:
        return constant(node.value, ValueType.DECIMAL, node.span)
    except pa.ArrowInvalid:
        raise wrong_recipe(
            "number-too-large",
            "this number has more than 9 places, or more than 29 digits before the point",
            "Decimals are kept exactly up to that size.",
            node.span,
        ) from None


def _truth(node: Truth, _: Surroundings) -> Bound:
    return constant(node.value, None if node.value is None else ValueType.BOOLEAN, node.span)


def _pattern(node: Pattern, _: Surroundings) -> Bound:
    raise wrong_recipe(
        "pattern-as-value",
        "a pattern is not a value",
        "Patterns are after matches, and where a function looks for something.",
        node.span,
    )


def _column(node: tree.Column, around: Surroundings) -> Bound:
    name = node.name
    if around.arguments is not None:
        if name in around.arguments:
            return around.arguments[name]
        close = nearest(name, around.arguments)
        raise wrong_recipe(
            "unknown-parameter",
            f'"{name}" is not a parameter of this function',
            (f"Nearest: {close[0]}. " if close else "")
            + "A definition sees only its parameters: pass the column in.",
            node.span,
        )
    if around.has_cell and name == "cell":
        if around.cell is ValueType.OTHER:
            raise _not_worked_on(node, "of a type of its own")
        return Bound(around.cell, lambda frame: _seen(frame.cell), node.span, places=around.cell_places)
    kinds = {column.name: column.type for column in around.schema.columns}
    if name in around.names.secrets:
        raise wrong_recipe(
            "secret-in-the-clear",
            f"{name} is a secret, and here its value would come into the table",
            f"It can be the key of keyed_hash alone: keyed_hash(COLUMN, {name}).",
            node.span,
        )
    if name in around.names.parameters:
        if name in kinds:
            raise wrong_recipe(
                "ambiguous-name",
                f'"{name}" is a parameter and a column',
                "Give the parameter another name: which of them is meant cannot be known.",
                node.span,
            )
        literal = around.names.parameters[name]
        bound = bind_expression(literal, around)
        return Bound(bound.kind, bound.evaluate, node.span, bound.literal, bound.places)
    if name not in kinds:
        raise _unknown(node, around)
    if kinds[name] is ValueType.OTHER:
        column = around.schema.columns[around.schema.names.index(name)]
        raise _not_worked_on(node, describe_type(column))
    if kinds[name] in MANIFOLD:
        stored = around.schema.columns[around.schema.names.index(name)].stored
        return Bound(
            kinds[name], lambda frame: _seen(frame.columns[name]), node.span, places=stated_places(stored)
        )
    return Bound(kinds[name], lambda frame: Value(frame.columns[name]), node.span)


def _seen(array: ColumnArray) -> Value:
    """A column as expressions see it: they know one kind of decimal, and timestamps without a zone."""
    done = plain(array)
    if not done.failed.any():
        return Value(done.array)
    what = "has more digits than" if pa.types.is_decimal(array.type) else "is too far away for"
    kind = "decimals are worked with" if pa.types.is_decimal(array.type) else "microseconds"
    return Value(done.array, failing(done.failed, ByCell(array, lambda text: f"{text} {what} {kind}")))


def _not_worked_on(node: tree.Column, kind: str) -> Refusal:
    name = node.span.text
    return wrong_recipe(
        "wrong-type",
        f"{name} is {kind}, and steps hand such values on without working on them",
        f"Make a text of it first: convert {name} to text. In expressions text({name}), {name} is null and"
        f" count({name}) work.",
        node.span,
    )


def bind_of_any_type(node: tree.Expression, around: Surroundings) -> Bound:
    """An expression of which only counts whether it is null, or its spelling: also a column of a type of its own."""
    if isinstance(node, tree.Column) and around.arguments is None:
        name = node.name
        if name == "cell" and around.has_cell and around.cell is ValueType.OTHER:
            return Bound(around.cell, lambda frame: Value(frame.cell), node.span)
        others = {column.name for column in around.schema.columns if column.type is ValueType.OTHER}
        if name in others:
            return Bound(ValueType.OTHER, lambda frame: Value(frame.columns[name]), node.span)
    return bind_expression(node, around)


def _unknown(node: tree.Column, around: Surroundings) -> Refusal:
    from mangler.language.literals import Name
    from mangler.language.mistake import ExitCode

    mistake, always = missing_column(Name(node.name, node.span), around.schema, around.clause_words)
    return Refusal([mistake], ExitCode.WRONG_FOR_ANY_EXTRACT if always else ExitCode.ANSWER_IS_NO)


def _template(node: Template, around: Surroundings) -> Bound:
    parts = [
        part if isinstance(part, str) else (bind_expression(part.expression, around), part.optional)
        for part in node.parts
    ]
    return operators.bind_template(parts, node.span)


def _operation(node: tree.Operation, around: Surroundings) -> Bound:
    if node.operator == "matches":
        subject, pattern = node.operands
        assert isinstance(pattern, Pattern)
        return operators.bind_matches(bind_expression(subject, around), pattern, node.span)
    operands = [bind_expression(operand, around) for operand in node.operands]
    return operators.bind_operation(node.operator, operands, node.span)


def _chain(node: tree.Chain, around: Surroundings) -> Bound:
    first = bind_expression(node.first, around)
    links = [(operator, bind_expression(operand, around)) for operator, operand in node.links]
    return operators.bind_chain(first, links, node.span)


def _choice(node: tree.Choice, around: Surroundings) -> Bound:
    arms = [
        (bind_condition(condition, around), bind_expression(value, around)) for condition, value in node.arms
    ]
    return operators.bind_choice(arms, bind_expression(node.other, around), node.span)


def _membership(node: tree.Membership, around: Surroundings) -> Bound:
    subject = bind_expression(node.subject, around)
    return operators.bind_membership(subject, [bind_expression(c, around) for c in node.choices], node.span)


def _between(node: tree.Between, around: Surroundings) -> Bound:
    subject, low, high = (bind_expression(part, around) for part in (node.subject, node.low, node.high))
    at_least = operators.bind_operation(">=", [subject, low], node.span)
    at_most = operators.bind_operation("<=", [subject, high], node.span)
    return operators.bind_operation("and", [at_least, at_most], node.span)


def _kindness(node: tree.Kindness, around: Surroundings) -> Bound:
    bind = bind_of_any_type if node.kind == "null" else bind_expression
    return operators.bind_kindness(bind(node.subject, around), node.kind, node.span)


def _several(node: tree.Several, around: Surroundings) -> Bound:
    """The test of each column, put together with `and` or with `or`."""
    word = "all of" if node.every else "any of"
    if around.arguments is not None:
        raise wrong_recipe(
            "columns-in-definition",
            f"{word} names columns, and a definition sees only its parameters",
            "Write it in the statement itself.",
            node.span,
        )
    columns = tuple(column for column in around.schema.columns if not column.name.startswith(HIDDEN))
    schema = Schema(columns, around.schema.gone)
    indices = select(node.columns, schema, word, _matching_names, None, around.clause_words).indices
    if not indices:
        raise wrong_recipe(
            "no-columns", f"no column is meant by {node.columns.span.text}", "Name the columns.", node.span
        )
    tests = []
    for index in indices:
        column = tree.Column(columns[index].name, node.columns.span)
        try:
            tests.append(bind_condition(_with_column(node.test, column), around))
        except Refusal as refusal:
            raise _about(column, refusal) from None
    if len(tests) == 1:
        return tests[0]
    operator = "and" if node.every else "or"
    return operators.bind_chain(tests[0], [(operator, test) for test in tests[1:]], node.span)


def _about(column: tree.Column, refusal: Refusal) -> Refusal:
    """The mistakes, with the column that is at fault in the place of all."""
    every, name = column.span.text, quote_name(column.name)
    mistakes = [
        replace(one, message=one.message.replace(every, name), advice=one.advice.replace(every, name))
        for one in refusal.mistakes
    ]
    return Refusal(mistakes, refusal.code)


def _with_column(test: tree.Expression, column: tree.Column) -> tree.Expression:
    made: tree.Expression = rebuilt(test, lambda part: column if isinstance(part, tree.Each) else None)
    return made


def _matching_names(pattern: Pattern, names: list[str]) -> list[bool]:
    return [bool(flag) for flag in matches(pa.array(names, pa.string()), pattern.re2)]


def _call(node: tree.Call, around: Surroundings) -> Bound:
    return bind_call(node, around, bind_of_any_type if node.function == "text" else bind_expression)


BINDERS: dict[type, Callable[[Any, Surroundings], Bound]] = {
    Text: _text,
    Template: _template,
    Number: _number,
    Truth: _truth,
    Pattern: _pattern,
    tree.Column: _column,
    tree.Call: _call,
    tree.Operation: _operation,
    tree.Chain: _chain,
    tree.Choice: _choice,
    tree.Membership: _membership,
    tree.Between: _between,
    tree.Kindness: _kindness,
    tree.Several: _several,
}

__all__ = ["Frame", "Kind", "bind_condition", "bind_expression", "bind_of_any_type", "describe"]
