"""Numbers and dates read by the compiled kernel first, against the other kernels alone."""

from __future__ import annotations

import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.arrays import layouts
from tests.kernels.compiled.twins import built, by_numpy

from mangler.kernels.values.date_forms import read_form
from mangler.kernels.values.number_forms import NumberForm
from mangler.kernels.values.short_numbers import read_short_numbers
from mangler.steps.convert.conversions import Conversion, conversion_of
from mangler.table.schema import ValueType

NUMBERS = st.lists(
    st.one_of(
        st.none(),
        st.text(st.sampled_from("0123456789.,'-+ e\xa0\u2212"), max_size=8),
        st.tuples(
            st.sampled_from(["", " ", "-", "+", "EUR ", "-EUR", "R"]),
            st.from_regex(r"\A[0-9]{0,3}([.,'][0-9]{3}){0,2}([.,][0-9]{0,4})?\Z"),
            st.sampled_from(["", " ", " EUR", "EUR ", "R", "\u2003EUR", "EUREUR", "°C"]),
        ).map("".join),
        st.integers(0, 10**22).map(str),
    ),
    max_size=12,
)
CONVERSIONS = st.builds(
    Conversion,
    kind=st.sampled_from([ValueType.INTEGER, ValueType.DECIMAL]),
    point=st.sampled_from([".", ",", "·"]),
    grouping=st.sampled_from(["", ".", "'", "' ", ",."]),
    units=st.sampled_from([(), ("EUR",), ("R", "EUR"), ("°C",)]),
    negatives=st.sampled_from(["", "trailing"]),
)
PLACES = st.sampled_from([None, 0, 2])


def told(conversion: Conversion, column: pa.Array) -> tuple:
    """The values, and for each row why it failed and whether zeros in front of it went."""
    work = conversion_of(ValueType.TEXT, conversion)
    assert work is not None
    done = work(column)
    done.array.validate(full=True)
    why = [
        [
            failure.reason if isinstance(failure.reason, str) else failure.reason(row)
            for row in flags.nonzero()[0]
        ]
        for failure in done.failures
        if (flags := failure.flags).any()
    ]
    zeros = [] if done.leading_zeros is None else done.leading_zeros.nonzero()[0].tolist()
    return str(done.array.type), done.array.to_pylist(), why, zeros


@built
@settings(max_examples=1500)
@given(NUMBERS, CONVERSIONS, PLACES)
def test_numbers_are_those_of_the_other_kernels(
    cells: list[str | None], conversion: Conversion, places: int | None
) -> None:
    """Values, failures with their reasons, and zeros in front that went."""
    if conversion.kind is ValueType.DECIMAL:
        conversion = Conversion(**{**vars(conversion), "places": places})
    for column in layouts(cells):
        found = told(conversion, column)
        with by_numpy():
            assert found == told(conversion, column)


@built
def test_common_numbers_are_not_left_to_the_other_kernels() -> None:
    column = pa.array(["-12", " 1.234,50 EUR", "EUR 7", None, "", "007", "999999999,99"])
    read = read_short_numbers(column, NumberForm(",", ".", ("EUR",)), pa.decimal128(38, 2))
    assert read is not None
    assert [str(value) for value in read.array.to_pylist()] == [
        "-12.00", "1234.50", "7.00", "None", "None", "7.00", "999999999.99",
    ]  # fmt: skip
    assert read.left.tolist() == [] and read.leading_zeros.nonzero()[0].tolist() == [5]


FORMS = ["%d.%m.%Y %H:%M", "%Y-%m-%d", "%d/%m/%y", "%Y%j", "%H:%M:%S", "%m-%d-%Y %H:%M:%S", "%Y%m%d"]
DIGITS = st.text(st.sampled_from("0123456789"), min_size=1, max_size=4)


@built
@settings(max_examples=1500)
@given(st.data(), st.sampled_from(FORMS), st.sampled_from([None, 1950]))
def test_moments_are_those_of_the_other_kernels(data: st.DataObject, form: str, century: int | None) -> None:
    """Days that are and that are not, digits that are too few, and texts that are of no form."""
    sizes = {"Y": 4, "j": 3}

    def written(numbers: list[int]) -> str:
        out, rest = "", form
        for number in numbers:
            before, _, rest = rest.partition("%")
            if not rest:
                return out + before
            out += before + f"{number % 10 ** sizes.get(rest[0], 2):0{sizes.get(rest[0], 2)}d}"
            rest = rest[1:]
        return out + rest

    moment = st.lists(st.integers(0, 3000), min_size=6, max_size=6).map(written)
    near = st.lists(st.integers(0, 31), min_size=6, max_size=6).map(written)
    loose = st.lists(st.one_of(DIGITS, st.sampled_from([".", "-", "/", ":", " ", "é"])), max_size=8).map(
        "".join
    )
    around = st.sampled_from(["", " ", "\u2003"])
    cell = st.one_of(st.none(), st.tuples(around, st.one_of(moment, near, loose), around).map("".join))
    cells = data.draw(st.lists(cell, max_size=8))
    for column in layouts(cells):
        found = read_form(column, form, century)
        with by_numpy():
            wanted = read_form(column, form, century)
        assert found.fits.tolist() == wanted.fits.tolist()
        assert found.values[found.fits].tolist() == wanted.values[wanted.fits].tolist()


@built
@pytest.mark.parametrize("year", [1, 4, 1600, 1899, 1900, 1970, 2000, 2024, 2100, 9999])
def test_every_day_of_a_year_has_its_number(year: int) -> None:
    days = [f"{day:02d}.{month:02d}.{year:04d}" for month in range(14) for day in range(33)]
    found = read_form(pa.array(days), "%d.%m.%Y")
    with by_numpy():
        wanted = read_form(pa.array(days), "%d.%m.%Y")
    assert found.fits.sum() in (365, 366)
    assert found.fits.tolist() == wanted.fits.tolist()
    assert found.values[found.fits].tolist() == wanted.values[wanted.fits].tolist()
