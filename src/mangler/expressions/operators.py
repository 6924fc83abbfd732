"""Operators: comparison, logic, choice, tests of kind, texts with holes."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.blanks import BLANKS
from mangler.expressions.arithmetic import arithmetic_step, bind_arithmetic, bind_minus, result_places
from mangler.expressions.conversion import bind_conversion
from mangler.expressions.scope import describe, wrong_type
from mangler.expressions.value import Bound, Failure, Frame, Kind, Value, cast_to, most_places, only_where
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.concatenate import concatenate
from mangler.kernels.text.patterns import flags_of, matches, per_distinct
from mangler.kernels.text.search import holds, is_one_of
from mangler.kernels.text.truth import truth_of
from mangler.kernels.values.format_values import format_values
from mangler.language.mistake import wrong_recipe
from mangler.language.patterns import Pattern
from mangler.language.source import SourceSpan
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


def contains(texts: ColumnArray, pattern: str) -> ColumnArray:
    """Whether each text holds another, null where there is none."""
    return truth_of(holds(texts, pattern), texts)


TEXT_TESTS = {"contains": contains, "starts with": pc.starts_with, "ends with": pc.ends_with}


def bind_operation(operator: str, operands: Sequence[Bound], span: SourceSpan) -> Bound:
    if operator in ("and", "or", "not"):
        return _logic(operator, operands, span)
    if operator in COMPARISONS:
        return _comparison(operator, operands[0], operands[1], span)
    if operator in TEXT_TESTS:
        return _text_test(operator, operands[0], operands[1], span)
    if len(operands) == 1:
        return bind_minus(operands[0], span)
    return bind_arithmetic(operator, operands[0], operands[1], span)


def common_kind(operands: Sequence[Bound], span: SourceSpan, what: str) -> Kind:
    """The type that holds all these values: null is of any type, an integer can be a decimal or a float."""
    kinds = list(dict.fromkeys(operand.kind for operand in operands if operand.kind is not None))
    if len(kinds) <= 1:
        return kinds[0] if kinds else None
    if all(kind in NUMERIC for kind in kinds):
        return ValueType.FLOAT if ValueType.FLOAT in kinds else ValueType.DECIMAL
    message = " and ".join(
        f"{operand.span.text} is {describe(operand.kind)}" for operand in operands if operand.kind is not None
    )
    typed = next(kind for kind in kinds if kind is not ValueType.TEXT)
    text = next((operand for operand in operands if operand.kind is ValueType.TEXT), None)
    advice = "Convert one of them, so that both are of one type."
    if text is not None and typed is not ValueType.LIST:
        advice = f"Convert the text: {typed}({text.span.text})."
    raise wrong_recipe("mixed-types", f"{what} needs values of one type: {message}", advice, span)


def _comparison(operator: str, left: Bound, right: Bound, span: SourceSpan) -> Bound:
    kind = common_kind((left, right), span, operator) or ValueType.TEXT
    if kind is ValueType.LIST:
        raise wrong_recipe(
            "wrong-type",
            "lists are not compared",
            'Compare their texts: joined(a, ", ") = joined(b, ", ").',
            span,
        )
    if kind is ValueType.BOOLEAN and operator not in ("=", "!="):
        raise wrong_recipe(
            "wrong-type", f"{operator} cannot order true and false", "Compare them with = or !=.", span
        )
    left, right = cast_to(left, kind), cast_to(right, kind)
    compare = COMPARISONS[operator]

    def evaluate(frame: Frame) -> Value:
        one, other = left.evaluate(frame), right.evaluate(frame)
        return Value(compare(one.data, other.data), one.failures + other.failures)

    return Bound(ValueType.BOOLEAN, evaluate, span)


def _logic(operator: str, operands: Sequence[Bound], span: SourceSpan) -> Bound:
    for operand in operands:
        if operand.kind not in (ValueType.BOOLEAN, None):
            raise wrong_type(operator, operand, "conditions")
    bound = [cast_to(operand, ValueType.BOOLEAN) for operand in operands]
    if operator == "not":

        def negate(frame: Frame) -> Value:
            value = bound[0].evaluate(frame)
            return Value(pc.invert(value.data), value.failures)

        return Bound(ValueType.BOOLEAN, negate, span)
    work, settles = (pc.and_kleene, False) if operator == "and" else (pc.or_kleene, True)

    def evaluate(frame: Frame) -> Value:
        one = bound[0].evaluate(frame)
        for operand in bound[1:]:
            other = operand.evaluate(frame)
            failures = one.failures
            if other.failures:  # where the left side settles it, the right one is not asked
                settled = flags_of(pc.equal(one.array(frame.count), settles))
                failures += only_where(other.failures, ~settled)
            one = Value(work(one.data, other.data), failures)
        return one

    return Bound(ValueType.BOOLEAN, evaluate, span)


def bind_chain(first: Bound, links: Sequence[tuple[str, Bound]], span: SourceSpan) -> Bound:
    """Operators of one rank from the left, however many."""
    if links[0][0] in ("and", "or"):
        return _logic(links[0][0], [first, *(operand for _, operand in links)], span)
    steps = []
    so_far = first
    for operator, operand in links:
        part = SourceSpan(span.source, first.span.start, operand.span.end)
        kind, step = arithmetic_step(operator, so_far, operand, part)
        steps.append(step)
        places = result_places(operator, kind, so_far, operand)
        so_far = Bound(kind, first.evaluate, part, places=places)

    def evaluate(frame: Frame) -> Value:
        value = first.evaluate(frame)
        for step in steps:
            value = step(value, frame)
        return value

    return Bound(so_far.kind, evaluate, span, places=so_far.places)


def _text_test(operator: str, left: Bound, right: Bound, span: SourceSpan) -> Bound:
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

    return Bound(ValueType.BOOLEAN, evaluate, span)


def _each_mark(work: ColumnArray, texts: ColumnArray, marks: ColumnArray) -> ColumnArray:
    """A test for a text that differs from row to row, done once for each different one."""
    from mangler.expressions.by_distinct import by_distinct

    return by_distinct(texts, [marks], lambda chosen, mark: work(chosen, pattern=mark), pa.bool_())


def bind_matches(subject: Bound, pattern: Pattern, span: SourceSpan) -> Bound:
    if subject.kind not in (ValueType.TEXT, None):
        raise wrong_type("matches", subject, "text")
    subject = cast_to(subject, ValueType.TEXT)

    def evaluate(frame: Frame) -> Value:
        value = subject.evaluate(frame)
        array = value.array(frame.count)
        hits = per_distinct(array, lambda values: matches(values, pattern.re2))
        return Value(truth_of(hits, array), value.failures)

    return Bound(ValueType.BOOLEAN, evaluate, span)


def bind_membership(subject: Bound, choices: Sequence[Bound], span: SourceSpan) -> Bound:
    for choice in choices:
        if choice.is_null:
            raise wrong_recipe(
                "null-in-list",
                "null is in no list: it equals nothing",
                "Write … is null or … in (…).",
                choice.span,
            )
    kind = common_kind((subject, *choices), span, "in")
    subject, choices = cast_to(subject, kind), [cast_to(choice, kind) for choice in choices]
    values = [choice.literal for choice in choices]
    if kind is ValueType.TEXT and all(choice.is_literal for choice in choices):

        def look_up(frame: Frame) -> Value:
            value = subject.evaluate(frame)
            array = value.array(frame.count)
            return Value(truth_of(is_one_of(array, values), array), value.failures)

        return Bound(ValueType.BOOLEAN, look_up, span)
    tests = [_comparison("=", subject, choice, span) for choice in choices]
    return tests[0] if len(tests) == 1 else _logic("or", tests, span)


def bind_choice(arms: Sequence[tuple[Bound, Bound]], other: Bound, span: SourceSpan) -> Bound:
    """The value of the first arm whose condition is met; `other` where none is."""
    kind = common_kind([*(value for _, value in arms), other], span, "if … then … else")
    bound = [(cast_to(asked, ValueType.BOOLEAN), cast_to(value, kind)) for asked, value in arms]
    other = cast_to(other, kind)
    literals = [value.literal for value in (*(value for _, value in bound), other)]
    of_texts = kind is ValueType.TEXT and all(isinstance(one, str) for one in literals)

    def evaluate(frame: Frame) -> Value:
        failures: tuple[Failure, ...] = ()
        left = np.ones(frame.count, np.bool_)
        codes = np.full(frame.count, len(bound), np.int64)
        values = []
        for number, (condition, then) in enumerate(bound):
            asked, value = condition.evaluate(frame), then.evaluate(frame)
            met = flags_of(asked.array(frame.count)) & left
            codes[met] = number
            values.append(value.data)
            failures += only_where(asked.failures, left) + only_where(value.failures, met)
            left &= ~met
        otherwise = other.evaluate(frame)
        failures += only_where(otherwise.failures, left)
        if kind is None:
            return Value(pa.nulls(frame.count), failures)
        if of_texts:  # texts are taken twice as fast as they are built
            return Value(pa.array(literals, pa.string()).take(from_numpy(codes)), failures)
        out = otherwise.data
        for number, data in reversed(list(enumerate(values))):
            out = pc.if_else(from_numpy(codes == number), data, out)
        return Value(out, failures)

    places = most_places([*(value for _, value in bound), other]) if kind is ValueType.DECIMAL else None
    return Bound(kind, evaluate, span, places=places)


def bind_kindness(subject: Bound, kind: str, span: SourceSpan) -> Bound:
    """`is null`, `is blank`, and whether a value would convert; a value that is null or blank is of no type."""

    def is_null(frame: Frame) -> Value:
        value = subject.evaluate(frame)
        return Value(pc.is_null(value.data), value.failures)

    def is_blank(frame: Frame) -> Value:
        value = subject.evaluate(frame)
        blank = pc.equal(pc.utf8_trim(value.data, characters=BLANKS), "")
        return Value(pc.fill_null(blank, True), value.failures)

    if kind == "null" or (kind == "blank" and subject.kind is not ValueType.TEXT):
        return Bound(ValueType.BOOLEAN, is_null, span)
    if kind == "blank":
        return Bound(ValueType.BOOLEAN, is_blank, span)
    if kind == subject.kind:
        there = _logic("not", [Bound(ValueType.BOOLEAN, is_null, span)], span)
        return Bound(ValueType.BOOLEAN, there.evaluate, span)
    converted = bind_conversion(ValueType(kind), subject, span)

    def converts(frame: Frame) -> Value:
        before = subject.evaluate(frame)
        after = converted.evaluate(frame)
        return Value(pc.is_valid(after.data), before.failures)

    return Bound(ValueType.BOOLEAN, converts, span)


def bind_template(parts: Sequence[str | tuple[Bound, bool]], span: SourceSpan) -> Bound:
    """A text with holes; null where a hole is null, except where the hole is optional."""
    for part in parts:
        if not isinstance(part, str) and part[0].kind is ValueType.LIST:
            raise wrong_type("a hole", part[0], "text")

    def evaluate(frame: Frame) -> Value:
        pieces: list[ColumnArray] = []
        failures: tuple[Failure, ...] = ()
        for part in parts:
            if isinstance(part, str):
                pieces.append(part.encode())
                continue
            bound, optional = part
            value = bound.evaluate(frame)
            failures += value.failures
            text = format_values(value.array(frame.count))
            pieces.append(pc.fill_null(text, "") if optional and text.null_count else text)
        return Value(concatenate(pieces, frame.count), failures)

    return Bound(ValueType.TEXT, evaluate, span)
