"""Operators: comparison, logic, choice, tests of kind, texts with holes."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.blanks import BLANKS
from mangler.expressions.arithmetic import bind_arithmetic, bind_minus
from mangler.expressions.conversion import bind_conversion
from mangler.expressions.scope import describe, wrong_type
from mangler.expressions.value import Bound, Failure, Frame, Kind, Value, cast_to, only_where
from mangler.kernels.concatenate import concatenate
from mangler.kernels.patterns import flags_of, matches, per_distinct
from mangler.kernels.search import holds, is_one_of
from mangler.kernels.spell import spell
from mangler.kernels.truth import truth_of
from mangler.language.mistake import wrong_recipe
from mangler.language.patterns import Pattern
from mangler.language.source import Place
from mangler.table.schema import ValueType
from mangler.table.types import NUMERIC

COMPARISONS = {
    "=": pc.equal,
    "!=": pc.not_equal,
    "<": pc.less,
    "<=": pc.less_equal,
    ">": pc.greater,
    ">=": pc.greater_equal,
}


def contains(texts: Any, pattern: str) -> Any:
    """Whether each text holds another, null where there is none."""
    return truth_of(holds(texts, pattern), texts)


TEXT_TESTS = {"contains": contains, "starts with": pc.starts_with, "ends with": pc.ends_with}


def bind_operation(operator: str, operands: Sequence[Bound], place: Place) -> Bound:
    if operator in ("and", "or", "not"):
        return _logic(operator, operands, place)
    if operator in COMPARISONS:
        return _comparison(operator, operands[0], operands[1], place)
    if operator in TEXT_TESTS:
        return _text_test(operator, operands[0], operands[1], place)
    if len(operands) == 1:
        return bind_minus(operands[0], place)
    return bind_arithmetic(operator, operands[0], operands[1], place)


def common_kind(operands: Sequence[Bound], place: Place, what: str) -> Kind:
    """The type that holds all these values: null is of any type, an integer can be a decimal or a float."""
    kinds = list(dict.fromkeys(operand.kind for operand in operands if operand.kind is not None))
    if len(kinds) <= 1:
        return kinds[0] if kinds else None
    if all(kind in NUMERIC for kind in kinds):
        return ValueType.FLOAT if ValueType.FLOAT in kinds else ValueType.DECIMAL
    told = " and ".join(
        f"{operand.place.text} is {describe(operand.kind)}"
        for operand in operands
        if operand.kind is not None
    )
    typed = next(kind for kind in kinds if kind is not ValueType.TEXT)
    text = next((operand for operand in operands if operand.kind is ValueType.TEXT), None)
    advice = "Convert one of them, so that both are of one type."
    if text is not None and typed is not ValueType.LIST:
        advice = f"Convert the text: {typed}({text.place.text})."
    raise wrong_recipe(f"{what} needs values of one type: {told}", advice, place)


def _comparison(operator: str, left: Bound, right: Bound, place: Place) -> Bound:
    kind = common_kind((left, right), place, operator) or ValueType.TEXT
    if kind is ValueType.LIST:
        raise wrong_recipe(
            "lists are not compared", 'Compare their texts: joined(a, ", ") = joined(b, ", ").', place
        )
    if kind is ValueType.BOOLEAN and operator not in ("=", "!="):
        raise wrong_recipe(f"{operator} cannot order true and false", "Compare them with = or !=.", place)
    left, right = cast_to(left, kind), cast_to(right, kind)
    compare = COMPARISONS[operator]

    def evaluate(frame: Frame) -> Value:
        one, other = left.evaluate(frame), right.evaluate(frame)
        return Value(compare(one.data, other.data), one.failures + other.failures)

    return Bound(ValueType.BOOLEAN, evaluate, place)


def _logic(operator: str, operands: Sequence[Bound], place: Place) -> Bound:
    for operand in operands:
        if operand.kind not in (ValueType.BOOLEAN, None):
            raise wrong_type(operator, operand, "conditions")
    bound = [cast_to(operand, ValueType.BOOLEAN) for operand in operands]
    if operator == "not":

        def negate(frame: Frame) -> Value:
            value = bound[0].evaluate(frame)
            return Value(pc.invert(value.data), value.failures)

        return Bound(ValueType.BOOLEAN, negate, place)
    work, settles = (pc.and_kleene, False) if operator == "and" else (pc.or_kleene, True)

    def evaluate(frame: Frame) -> Value:
        one, other = bound[0].evaluate(frame), bound[1].evaluate(frame)
        failures = one.failures
        if other.failures:  # where the left side settles it, the right one is not asked
            settled = flags_of(pc.equal(one.array(frame.count), settles))
            failures += only_where(other.failures, ~settled)
        return Value(work(one.data, other.data), failures)

    return Bound(ValueType.BOOLEAN, evaluate, place)


def _text_test(operator: str, left: Bound, right: Bound, place: Place) -> Bound:
    for operand in (left, right):
        if operand.kind not in (ValueType.TEXT, None):
            raise wrong_type(operator, operand, "text")
    work = TEXT_TESTS[operator]
    left, right = cast_to(left, ValueType.TEXT), cast_to(right, ValueType.TEXT)

    def evaluate(frame: Frame) -> Value:
        one, other = left.evaluate(frame), right.evaluate(frame)
        failures = one.failures + other.failures
        if isinstance(other.data, pa.Scalar):
            if not other.data.is_valid:
                return Value(pa.scalar(None, pa.bool_()), failures)
            return Value(work(one.array(frame.count), pattern=other.data.as_py()), failures)
        return Value(_each_mark(work, one.array(frame.count), other.data), failures)

    return Bound(ValueType.BOOLEAN, evaluate, place)


def _each_mark(work: Any, texts: Any, marks: Any) -> Any:
    """A test for a text that differs from row to row, done once for each different one."""
    from mangler.expressions.by_distinct import by_distinct

    return by_distinct(texts, [marks], lambda chosen, mark: work(chosen, pattern=mark), pa.bool_())


def bind_matches(subject: Bound, pattern: Pattern, place: Place) -> Bound:
    if subject.kind not in (ValueType.TEXT, None):
        raise wrong_type("matches", subject, "text")
    subject = cast_to(subject, ValueType.TEXT)

    def evaluate(frame: Frame) -> Value:
        value = subject.evaluate(frame)
        array = value.array(frame.count)
        hits = per_distinct(array, lambda values: matches(values, pattern.re2))
        return Value(truth_of(hits, array), value.failures)

    return Bound(ValueType.BOOLEAN, evaluate, place)


def bind_membership(subject: Bound, choices: Sequence[Bound], place: Place) -> Bound:
    for choice in choices:
        if choice.is_null:
            raise wrong_recipe(
                "null is in no list: it equals nothing", "Write … is null or … in (…).", choice.place
            )
    kind = common_kind((subject, *choices), place, "in")
    subject, choices = cast_to(subject, kind), [cast_to(choice, kind) for choice in choices]
    tests = [_comparison("=", subject, choice, place) for choice in choices]
    values = [choice.literal for choice in choices]
    if kind is ValueType.TEXT and all(choice.is_literal for choice in choices):

        def look_up(frame: Frame) -> Value:
            value = subject.evaluate(frame)
            array = value.array(frame.count)
            return Value(truth_of(is_one_of(array, values), array), value.failures)

        return Bound(ValueType.BOOLEAN, look_up, place)
    any_of = tests[0]
    for test in tests[1:]:
        any_of = _logic("or", (any_of, test), place)
    return any_of


def bind_choice(condition: Bound, one: Bound, other: Bound, place: Place) -> Bound:
    kind = common_kind((one, other), place, "if … then … else")
    condition, one, other = cast_to(condition, ValueType.BOOLEAN), cast_to(one, kind), cast_to(other, kind)

    def evaluate(frame: Frame) -> Value:
        asked = condition.evaluate(frame)
        flags = flags_of(asked.array(frame.count))
        met = pa.array(flags)
        then, otherwise = one.evaluate(frame), other.evaluate(frame)
        failures: tuple[Failure, ...] = asked.failures
        if then.failures or otherwise.failures:
            failures += only_where(then.failures, flags) + only_where(otherwise.failures, ~flags)
        if kind is None:
            return Value(pa.nulls(frame.count), failures)
        if one.literal is not None and other.literal is not None and kind is ValueType.TEXT:
            both = pa.array(
                [other.literal, one.literal]
            )  # two texts are taken twice as fast as they are built
            return Value(both.take(pa.array(flags.view(np.int8))), failures)
        return Value(pc.if_else(met, then.data, otherwise.data), failures)

    return Bound(kind, evaluate, place)


def bind_kindness(subject: Bound, kind: str, place: Place) -> Bound:
    """`is null`, `is blank`, and whether a value would convert; a value that is null or blank is of no type."""

    def is_null(frame: Frame) -> Value:
        value = subject.evaluate(frame)
        return Value(pc.is_null(value.data), value.failures)

    def is_blank(frame: Frame) -> Value:
        value = subject.evaluate(frame)
        blank = pc.equal(pc.utf8_trim(value.data, characters=BLANKS), "")
        return Value(pc.fill_null(blank, True), value.failures)

    if kind == "null" or (kind == "blank" and subject.kind is not ValueType.TEXT):
        return Bound(ValueType.BOOLEAN, is_null, place)
    if kind == "blank":
        return Bound(ValueType.BOOLEAN, is_blank, place)
    if kind == subject.kind:
        there = _logic("not", [Bound(ValueType.BOOLEAN, is_null, place)], place)
        return Bound(ValueType.BOOLEAN, there.evaluate, place)
    converted = bind_conversion(ValueType(kind), subject, place)

    def converts(frame: Frame) -> Value:
        before = subject.evaluate(frame)
        after = converted.evaluate(frame)
        return Value(pc.is_valid(after.data), before.failures)

    return Bound(ValueType.BOOLEAN, converts, place)


def bind_template(parts: Sequence[str | tuple[Bound, bool]], place: Place) -> Bound:
    """A text with holes; null where a hole is, but for those that may be."""
    for part in parts:
        if not isinstance(part, str) and part[0].kind is ValueType.LIST:
            raise wrong_type("a hole", part[0], "text")

    def evaluate(frame: Frame) -> Value:
        pieces: list[Any] = []
        failures: tuple[Failure, ...] = ()
        for part in parts:
            if isinstance(part, str):
                pieces.append(part.encode())
                continue
            bound, optional = part
            value = bound.evaluate(frame)
            failures += value.failures
            text = spell(value.array(frame.count))
            pieces.append(pc.fill_null(text, "") if optional and text.null_count else text)
        return Value(concatenate(pieces, frame.count), failures)

    return Bound(ValueType.TEXT, evaluate, place)
