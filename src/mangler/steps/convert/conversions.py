"""How the values of a column become those of another type, for `convert`."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any, TypeAlias

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.conversion import converter, is_not, shortened
from mangler.expressions.functions.dates import formatted
from mangler.expressions.moments import filled, moments
from mangler.expressions.reasons import ByCell, ByDistinct
from mangler.expressions.value import PLACED_PRECISION, Failure, failing
from mangler.kernels.arrow import ArrowType, ColumnArray, from_numpy
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.patterns import matches, values_recur
from mangler.kernels.text.text_view import Flags, Positions
from mangler.kernels.text.white_space import trim
from mangler.kernels.text.whole import WholeMatcher, match_whole
from mangler.kernels.values.convert import DECIMAL, cast_exactly
from mangler.kernels.values.date_forms import Moments, read_form, read_serial
from mangler.kernels.values.date_names import DateNames
from mangler.kernels.values.number_forms import NumberForm, plain_numbers
from mangler.kernels.values.plain import plain
from mangler.kernels.values.short_numbers import read_short_numbers
from mangler.kernels.values.zones import in_zone, without_offsets
from mangler.late_dataclass import dataclass
from mangler.steps.shared.matching import without_outer_blanks
from mangler.table.schema import Column, ValueType
from mangler.table.types import NUMERIC, from_text

MOMENTS = (ValueType.DATE, ValueType.TIME, ValueType.TIMESTAMP)


@dataclass(frozen=True)
class Conversion:
    """What a convert statement says; empty where it says nothing."""

    kind: ValueType
    places: int | None = None
    written: tuple[str, ...] = ()
    serial: bool = False
    point: str = "."
    grouping: str = ""
    """Marks, of which any may be there."""
    units: tuple[str, ...] = ()
    true: tuple[str, ...] = ()
    false: tuple[str, ...] = ()
    anycase: bool = False
    zone: str = ""
    century: int | None = None
    names: DateNames | None = None
    """Of months and days, in another language than English."""
    negatives: str = ""
    """How numbers below 0 are written besides with a sign in front: parentheses, or trailing."""


@dataclass(frozen=True)
class Done:
    """`leading_zeros` flags texts whose leading zeros are gone; None where that cannot be."""

    array: ColumnArray
    failures: tuple[Failure, ...] = ()
    leading_zeros: Flags | None = None


Converter: TypeAlias = Callable[[Any], Done]


def stored_type_of_places(places: int) -> ArrowType:
    """Of a decimal whose places are said."""
    return pa.decimal128(PLACED_PRECISION, places)


def stored_type(column: Column, wanted: Conversion) -> ArrowType:
    """The type in which a column is written once it is converted; None for the usual one."""
    if wanted.places is not None:
        return stored_type_of_places(wanted.places)
    if wanted.zone:
        zoned = (
            column.type is ValueType.TIMESTAMP and column.stored is not None and column.stored.tz is not None
        )
        return pa.timestamp(column.stored.unit if zoned else "us", wanted.zone)
    return column.stored if column.type is wanted.kind else None


def conversion_of(source: ValueType, wanted: Conversion) -> Converter | None:
    """How a column of this type is converted; None where there is no way."""
    kind = wanted.kind
    if source is ValueType.TEXT and kind is not ValueType.TEXT:
        return _short_numbers_first(
            _each_value_once(lambda array: _with_places(_from_text(array, wanted), wanted)), wanted
        )
    if wanted.zone and source is ValueType.TIMESTAMP:

        def move(array: ColumnArray) -> Done:
            if array.type.tz is not None:  # the same moment on another clock
                return Done(pc.cast(array, pa.timestamp(array.type.unit, wanted.zone)))
            local = _seen(array)
            return _zoned(local, pa.nulls(len(array), pa.int64()), local.array, wanted.zone)

        return move
    if wanted.serial and source in NUMERIC:
        return lambda array: _moments(array, [read_serial(array, kind is ValueType.DATE)], kind)
    if kind is ValueType.TEXT and wanted.written and source in MOMENTS:
        form = wanted.written[0]

        def written(array: ColumnArray) -> Done:
            seen = _seen(array)
            return Done(formatted(seen.array, form), seen.failures)

        return written
    if source is kind:
        return lambda array: _with_places(Done(array), wanted)
    work = converter(source, kind)
    if work is None:
        return None

    def convert(array: ColumnArray) -> Done:
        seen = Done(array) if kind is ValueType.TEXT or source in NUMERIC else _seen(array)
        done = work(seen.array)
        failures = seen.failures + failing(done.failed, is_not(array, kind))
        return _with_places(Done(done.array, failures), wanted)

    return convert


def _seen(array: ColumnArray) -> Done:
    """Timestamps as expressions see them: those of a zone as its clock shows them."""
    seen = plain(array)
    return Done(seen.array, failing(seen.failed, ByCell(array, lambda text: f'"{text}" is too far away')))


def _from_text(array: ColumnArray, wanted: Conversion) -> Done:
    kind = wanted.kind
    if kind is ValueType.BOOLEAN and (wanted.true or wanted.false):
        return _words(array, wanted)
    if wanted.zone:
        texts, offsets = without_offsets(array)
        local = _from_text(texts, replace(wanted, zone=""))
        return _zoned(local, offsets, texts, wanted.zone)
    if kind in MOMENTS and wanted.serial:
        return _moments(array, [read_serial(array, kind is ValueType.DATE)], kind)
    if kind in MOMENTS and wanted.written:
        return _moments(
            array, [read_form(array, form, wanted.century, wanted.names) for form in wanted.written], kind
        )
    form = NumberForm(wanted.point, wanted.grouping, wanted.units, wanted.negatives)
    if kind not in NUMERIC or form.is_plain:
        done = from_text(array, kind)
        return Done(done.array, failing(done.failed, is_not(array, kind)), _leading_zeros(array, kind))
    texts, wrong = plain_numbers(array, form)
    done = from_text(texts, kind)
    return Done(done.array, failing(done.failed | wrong, is_not(array, kind)), _leading_zeros(texts, kind))


def _zoned(local: Done, offsets: Any, texts: ColumnArray, zone: str) -> Done:
    done = in_zone(local.array, offsets, zone)
    why = ByCell(
        texts, lambda text: f'"{shortened(text)}" does not exist, or is there twice, on the clock of {zone}'
    )
    return Done(done.array, local.failures + failing(done.failed, why))


def _leading_zeros(texts: ColumnArray, kind: ValueType) -> Flags | None:
    return matches(trim(texts).array, "^[+-]?0[0-9]") if kind in NUMERIC else None


def _words(array: ColumnArray, wanted: Conversion) -> Done:
    """True and false by the words said for them."""
    true, false = wanted.true or ("true",), wanted.false or ("false",)
    words = tuple(without_outer_blanks(word) for word in (*true, *false))
    codes = match_whole(array, WholeMatcher(words, (), wanted.anycase)).codes
    known = codes >= 0
    out = from_numpy((codes >= 0) & (codes < len(true)), nulls=~known)
    failed = ~known & filled(array)
    return Done(
        out,
        failing(failed, ByCell(array, lambda text: f'"{shortened(text)}" is not a word for true or false')),
    )


def _moments(array: ColumnArray, read: Sequence[Moments], kind: ValueType) -> Done:
    return Done(*moments(array, read, kind))


def _with_places(done: Done, wanted: Conversion) -> Done:
    """A decimal of stated places; a value with more of them fails."""
    if wanted.places is None:
        return done
    target = stored_type_of_places(wanted.places)
    exact = cast_exactly(done.array, target)
    array = done.array
    more = failing(
        exact.failed,
        ByCell(array, lambda text: f'"{text}" has more than {wanted.places} places'),
    )
    return Done(exact.array, done.failures + more, done.leading_zeros)


def _each_value_once(work: Converter) -> Converter:
    """Costly forms are read once a distinct value where values recur."""

    def convert(array: ColumnArray) -> Done:
        if not values_recur(array):
            return work(array)
        encoded = as_dictionary(array)
        codes = np.asarray(encoded.indices.fill_null(len(encoded.dictionary)))
        done = work(encoded.dictionary)

        failures, zeros = _spread(done, codes)
        return Done(done.array.take(encoded.indices), failures, zeros)

    return convert


def _short_numbers_first(work: Converter, wanted: Conversion) -> Converter:
    """Numbers of few digits are read in one pass; only what is written otherwise needs the other kernels."""
    if wanted.kind not in (ValueType.INTEGER, ValueType.DECIMAL):
        return work
    form = NumberForm(wanted.point, wanted.grouping, wanted.units, wanted.negatives)
    whole = wanted.kind is ValueType.INTEGER
    kind = pa.int64() if whole else DECIMAL if wanted.places is None else stored_type_of_places(wanted.places)

    def convert(array: ColumnArray) -> Done:
        read = read_short_numbers(array, form, kind)
        if read is None:
            return work(array)
        if not len(read.left):
            return Done(read.array, (), read.leading_zeros)
        done = work(array.take(from_numpy(read.left)))
        codes = np.full(len(array), len(read.left))
        codes[read.left] = np.arange(len(read.left))
        failures, zeros = _spread(done, codes)
        mask = np.zeros(len(array), np.bool_)
        mask[read.left] = True
        together = pc.replace_with_mask(read.array, from_numpy(mask), done.array)
        return Done(together, failures, read.leading_zeros if zeros is None else read.leading_zeros | zeros)

    return convert


def _spread(done: Done, codes: Positions) -> tuple[tuple[Failure, ...], Flags | None]:
    """What is known of some values, for the cells that have them: a cell has the value of its code, or none."""

    def spread(flags: Flags) -> Flags:
        out: Flags = np.append(flags, False)[codes]
        return out

    failures = tuple(
        Failure(spread(failure.flags), ByDistinct(failure.reason, codes)) for failure in done.failures
    )
    return failures, None if done.leading_zeros is None else spread(done.leading_zeros)
