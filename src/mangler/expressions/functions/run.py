"""Functions that tell where a row comes from."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

import pyarrow as pa

from mangler.expressions.function import Argument, Function
from mangler.expressions.value import Bound, Frame, Value, constant
from mangler.language.source import SourceSpan
from mangler.table.schema import ValueType


def _row(arguments: Sequence[Argument], frame: Frame) -> Value:  # noqa: ARG001
    return Value(pa.array(frame.rows, pa.int64()))


def _file(arguments: Sequence[Argument], frame: Frame) -> Value:  # noqa: ARG001
    return Value(pa.scalar(frame.file, pa.string()))


def _date(arguments: Sequence[Bound], span: SourceSpan) -> Bound:  # noqa: ARG001
    """Where a recipe is known, its day of the run is taken instead."""
    return constant(date.today(), ValueType.DATE, span)


FUNCTIONS = (
    Function(
        "extract_row",
        (),
        ValueType.INTEGER,
        "The number of the extract's row that this row comes from, counted after the header from 1.",
        (("extract_row()", "1"),),
        _row,
    ),
    Function(
        "extract_file",
        (),
        ValueType.TEXT,
        "The extract's file as it was named for the run; an empty text in tests and where there is no file.",
        (("extract_file()", '""'),),
        _file,
    ),
    Function(
        "run_date",
        (),
        ValueType.DATE,
        "The day of the run, the same for all rows. --run-date 2026-05-04 fixes it, so that a run can be repeated.",
        (("days_between(run_date(), run_date())", "0"),),
        bind=_date,
    ),
)
