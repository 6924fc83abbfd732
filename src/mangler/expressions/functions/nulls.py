"""Functions on nulls, and each type's name as a conversion."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.conversion import bind_conversion
from mangler.expressions.function import ANY, EVERY, Function, Parameter
from mangler.expressions.operators import bind_operation, common_kind
from mangler.expressions.value import Bound, Failure, Frame, Value, cast_to, most_places, only_where
from mangler.kernels.text.patterns import flags_of
from mangler.language.source import SourceSpan
from mangler.table.schema import ValueType

MEANINGS = {
    ValueType.TEXT: "A value as text: numbers in their shortest exact form, dates and times in ISO 8601.",
    ValueType.INTEGER: "A whole number of 64 bits, of a text such as 007 or of a number without a fraction.",
    ValueType.FLOAT: "A number of 64 bits with a floating point, of a text such as 0.5 or 1e6.",
    ValueType.DECIMAL: "An exact number of up to 9 places, of a text such as 12.50.",
    ValueType.BOOLEAN: "true or false, of these words in any letter case.",
    ValueType.DATE: "A date, of a text such as 2026-05-04 or of a timestamp.",
    ValueType.TIME: "A time of day, of a text such as 09:30 or of a timestamp.",
    ValueType.TIMESTAMP: "A date and time, of a text such as 2026-05-04 09:30 or 2026-05-04T09:30:15, or of a date.",
}
FORM = (Parameter("form", optional=True, repeated=True),)
FORMS = {ValueType.DATE: FORM, ValueType.TIME: FORM, ValueType.TIMESTAMP: FORM}
FORMS_MEAN = (
    " With forms, of a text that is written so, as for convert … written; several forms are tried in turn. Names in"
    ' another language are read with its tag behind the forms: language "de".'
)
EXAMPLES = {
    ValueType.TEXT: (("text(1.50)", "1.5"),),
    ValueType.INTEGER: (('integer(" 007 ")', "7"), ('integer("")', "null")),
    ValueType.FLOAT: (('float("1e3")', "1000"),),
    ValueType.DECIMAL: (('decimal("12.50")', "12.5"),),
    ValueType.BOOLEAN: (('boolean("TRUE")', "true"),),
    ValueType.DATE: (('date("2026-05-04")', "2026-05-04"), ('date("4 May 2026", "%d %B %Y")', "2026-05-04")),
    ValueType.TIME: (('time("09:30")', "09:30:00"),),
    ValueType.TIMESTAMP: (('timestamp("2026-05-04 09:30")', "2026-05-04T09:30:00"),),
}


def _coalesce(arguments: Sequence[Bound], span: SourceSpan) -> Bound:
    kind = common_kind(arguments, span, "coalesce")
    values = [cast_to(argument, kind) for argument in arguments]

    def evaluate(frame: Frame) -> Value:
        failures: tuple[Failure, ...] = ()
        out = pa.nulls(frame.count) if kind is None else None
        open_rows = None
        for bound in values:
            value = bound.evaluate(frame)
            array = value.array(frame.count)
            failures += value.failures if open_rows is None else only_where(value.failures, open_rows)
            out = array if out is None else pc.coalesce(out, array) if kind is not None else out
            open_rows = flags_of(out.is_null())
        return Value(out, failures)

    places = most_places(values) if kind is ValueType.DECIMAL else None
    return Bound(kind, evaluate, span, places=places)


def _nullif(arguments: Sequence[Bound], span: SourceSpan) -> Bound:
    subject, unwanted = arguments
    equal = bind_operation("=", [subject, unwanted], span)

    def evaluate(frame: Frame) -> Value:
        value, same = subject.evaluate(frame), equal.evaluate(frame)
        array = value.array(frame.count)
        hit = pc.fill_null(same.array(frame.count), False)
        return Value(pc.if_else(hit, pa.scalar(None, array.type), array), same.failures)

    return Bound(subject.kind, evaluate, span)


def _converting(kind: ValueType) -> Callable[[Sequence[Bound], SourceSpan], Bound]:
    return lambda arguments, span: bind_conversion(kind, arguments[0], span)


FUNCTIONS = (
    Function(
        "coalesce",
        (Parameter("value", ANY, repeated=True),),
        ValueType.TEXT,
        "The first value that is not null.",
        (('coalesce(null, "ash", "celadon")', "ash"),),
        bind=_coalesce,
    ),
    Function(
        "nullif",
        (Parameter("value", ANY), Parameter("unwanted", ANY)),
        ValueType.TEXT,
        "The value, or null where it equals the unwanted one.",
        (('nullif("-", "-")', "null"), ('nullif("ash", "-")', "ash")),
        bind=_nullif,
    ),
    *(
        Function(
            str(kind),
            (Parameter("value", EVERY if kind is ValueType.TEXT else ANY), *FORMS.get(kind, ())),
            kind,
            MEANINGS[kind] + FORMS_MEAN * (kind in FORMS),
            EXAMPLES[kind],
            bind=_converting(kind),
        )
        for kind in MEANINGS
    ),
)
