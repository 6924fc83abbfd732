"""Dates and times by the forms in which they are written: for `convert`, and for date(x, FORM) in expressions."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.conversion import bind_conversion, is_not, shortened
from mangler.expressions.languages import date_names
from mangler.expressions.reasons import ByCell
from mangler.expressions.scope import describe
from mangler.expressions.value import Bound, Failure, Frame, Value, failing
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.text.text_view import Flags
from mangler.kernels.text.white_space import trim
from mangler.kernels.values.convert import DAY
from mangler.kernels.values.date_forms import Moments, problem_of_form, read_form
from mangler.language.literals import Text
from mangler.language.mistake import wrong_recipe
from mangler.language.source import SourceSpan
from mangler.table.schema import ValueType
from mangler.table.types import ARROW

AMBIGUOUS = "is read differently by two of the forms"
DIRECTIVES = "%d %m %Y %y %b %B %j %H %I %M %S %f %p %a %A %%"


def moments(
    array: ColumnArray, read: Sequence[Moments], kind: ValueType
) -> tuple[ColumnArray, tuple[Failure, ...]]:
    """The first form that fits; where two fit and differ, none does."""
    values = read[0].values.copy()
    fits = read[0].fits.copy()
    differs = np.zeros(len(array), np.bool_)
    for other in read[1:]:
        differs |= fits & other.fits & (values != other.values)
        values = np.where(fits, values, other.values)
        fits |= other.fits
    fits &= ~differs
    if kind is ValueType.DATE:
        out = from_numpy((values // DAY).astype(np.int32), pa.date32(), ~fits)
    else:
        out = from_numpy(values, ARROW[kind], ~fits)
    failed = filled(array) & ~fits & ~differs
    ambiguous = failing(differs, ByCell(array, lambda text: f'"{shortened(text)}" {AMBIGUOUS}'))
    return out, failing(failed, is_not(array, kind)) + ambiguous


def filled(array: ColumnArray) -> Flags:
    """Cells that hold something: neither null nor blank."""
    if not pa.types.is_string(array.type):
        return flags_of(array.is_valid())
    return flags_of(pc.greater(pc.binary_length(trim(array).array), 0))


def bind_moment(
    kind: ValueType, arguments: Sequence[Bound], language: Text | None, span: SourceSpan
) -> Bound:
    """`date(x)`, or `date(x, "%d/%m/%Y", …, language "de")`."""
    subject, *forms = arguments
    if not forms:
        if language is not None:
            raise wrong_recipe(
                "clause-without-effect",
                "language says how names in a form are spelled, and here is no form",
                f'Write {kind}({subject.span.text}, "%d. %B %Y", language "de").',
                language.span,
            )
        return bind_conversion(kind, subject, span)
    for form in forms:
        problem = (
            problem_of_form(form.literal, str(kind))
            if isinstance(form.literal, str)
            else "a form is a text that is written here"
        )
        if problem:
            raise wrong_recipe(
                "not-a-date-form",
                problem,
                f'Write a form such as "%d/%m/%Y %H:%M". Known are {DIRECTIVES}.',
                form.span,
            )
    if subject.kind not in (ValueType.TEXT, None):
        raise wrong_recipe(
            "wrong-type",
            f"a form says how a text is read, and {subject.span.text} is {describe(subject.kind)}",
            f"Leave the form out: {kind}({subject.span.text}).",
            subject.span,
        )
    names = None if language is None else date_names(language)

    def evaluate(frame: Frame) -> Value:
        value = subject.evaluate(frame)
        if isinstance(value.data, pa.Scalar) and not value.data.is_valid:
            return Value(pa.scalar(None, ARROW[kind]), value.failures)
        array = value.array(frame.count)
        out, failures = moments(array, [read_form(array, form.literal, None, names) for form in forms], kind)
        return Value(out, value.failures + failures)

    return Bound(kind, evaluate, span)
