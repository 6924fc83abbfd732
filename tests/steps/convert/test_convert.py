from __future__ import annotations

import datetime
from collections.abc import Callable
from decimal import Decimal
from typing import Any

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import Run

from mangler.kernels.text.white_space import trim
from mangler.kernels.values import date_forms
from mangler.kernels.values.date_forms import read_form, read_serial
from mangler.kernels.values.number_forms import NumberForm, plain_numbers
from mangler.language.mistake import Refusal

D, T = datetime.date, datetime.datetime


@pytest.mark.parametrize(
    ("clauses", "cells", "values"),
    [
        ("integer", ["007", " +7 ", "", "  ", "-3"], [7, 7, None, None, -3]),
        ("integer grouping ','", ["1,222", "12", "1,222,333", "12,22"], [1222, 12, 1222333, "fails"]),
        ("integer grouping ' '", ["1 222", "1\u00a0222", "1222", "12 2"], [1222, 1222, 1222, "fails"]),
        ("integer without '°C', 'C', '€'", ["1222 °C", "5C", "-€5", "€ 5", "5 K"], [1222, 5, -5, 5, "fails"]),
        ("integer", ["9223372036854775807", "9223372036854775808"], [2**63 - 1, "fails"]),
        ("float point ','", ["0,5", "1e3", "1.5", ","], [0.5, 1000.0, "fails", "fails"]),
        (
            "decimal point ',' grouping '.'",
            ["1.234,50", "1,5", "1.5"],
            [Decimal("1234.5"), Decimal("1.5"), "fails"],
        ),
        (
            "decimal 2",
            ["1.5", "2", "1.500", "1.505"],
            [Decimal("1.50"), Decimal(2), Decimal("1.50"), "fails"],
        ),
        ("decimal", ["0.1234567891", "1e5"], ["fails", "fails"]),
        ("boolean", ["TRUE", " false", "1"], [True, False, "fails"]),
        (
            "boolean true 'ja', 'j' false 'nein'",
            ["ja", " j ", "nein", "Ja", ""],
            [True, True, False, "fails", None],
        ),
        ("boolean true 'ja' anycase", ["JA", "FALSE", "x"], [True, False, "fails"]),
        ("date", ["2026-05-04", "2026-02-30", "04/05/2026"], [D(2026, 5, 4), "fails", "fails"]),
        ("date written '%d/%m/%Y', '%Y-%m-%d'", ["4/5/2026", "2026-05-04"], [D(2026, 5, 4)] * 2),
        (
            "date written '%d/%m/%Y', '%m/%d/%Y'",
            ["13/5/2026", "5/5/2026", "4/5/2026"],
            [D(2026, 5, 13), D(2026, 5, 5), "fails"],
        ),
        (
            "date written '%d %b %y'",
            ["4 May 26", "4  MAY 69", "31 apr 26"],
            [D(2026, 5, 4), D(1969, 5, 4), "fails"],
        ),
        ("date written '%Y%j'", ["2024366", "2023366", "2024001"], [D(2024, 12, 31), "fails", D(2024, 1, 1)]),
        ("date written '%A, %d. %B %Y'", ["Monday, 4. may 2026"], [D(2026, 5, 4)]),
        (
            "date written serial",
            ["61", "46146", "60", "46146.5"],
            [D(1900, 3, 1), D(2026, 5, 4), "fails", "fails"],
        ),
        ("timestamp written serial", ["46146.25"], [T(2026, 5, 4, 6)]),
        (
            "timestamp written '%d/%m/%Y %I:%M %p'",
            ["4/5/2026 12:30 am", "4/5/2026 1:05 PM"],
            [T(2026, 5, 4, 0, 30), T(2026, 5, 4, 13, 5)],
        ),
        (
            "timestamp written '%Y-%m-%d %H:%M:%S.%f'",
            ["2026-05-04 09:30:15.25"],
            [T(2026, 5, 4, 9, 30, 15, 250000)],
        ),
        ("time written '%Hh%M'", ["9h30", "24h00"], [datetime.time(9, 30), "fails"]),
        ("text", ["x", " "], ["x", " "]),
    ],
)
def test_texts(run: Run, clauses: str, cells: list[str], values: list[Any]) -> None:
    extract = "a\n" + "".join(f'"{cell}"\n' for cell in cells)
    column = run(f"convert a to {clauses} failures null", extract).table.column("a")
    assert column.to_pylist() == [None if value == "fails" else value for value in values]
    fails = [number for number, value in enumerate(values, 1) if value == "fails"]
    aside = run(f"convert a to {clauses} failures aside", extract).rows_aside
    assert [row.row for row in aside] == fails
    for row in aside:
        assert f'"{cells[row.row - 1].strip()}"' in row.reason.replace("…", "") or "differently" in row.reason
    # The same cells, so many that each distinct one is read once.
    many = run(f"convert a to {clauses} failures null", "a\n" + extract[2:] * 700).table.column("a")
    assert many.to_pylist() == column.to_pylist() * 700


def test_stop_counts_the_cells_and_shows_the_first(run: Run) -> None:
    with pytest.raises(Refusal) as refused:
        run("convert a to integer", "a\n1\nx\ny\nz\nq\n")
    assert "4 rows fail in this step" in refused.value.mistakes[0].message
    assert 'row 2, line 3: a: "x" is not an integer' in refused.value.mistakes[0].advice


def test_leading_zeros_are_reported(run: Run) -> None:
    result = run("convert a to integer", "a\n007\n7\n0\n0.5\n".replace("0.5\n", ""))
    assert result.summary.steps[1].remarks == [
        '1 cell loses its leading zeros, such as "007"; keep the column as text if they matter'
    ]


def test_types_are_known_to_later_steps(run: Run) -> None:
    steps = "convert a to integer\nfill numeric columns with 0\nfill text columns with ''\nmake c = a + 1"
    assert run(steps, "a,b\n1,\n,x\n").table.to_pylist() == [
        {"a": 1, "b": "", "c": 2},
        {"a": 0, "b": "x", "c": 1},
    ]
    with pytest.raises(Refusal, match='"a" is integer, and'):
        run("convert a to integer\nfill * with ''", "a,b\n1,\n")


def test_between_types(run: Run) -> None:
    steps = "convert a to decimal 2\nmake f = float(a), i = a\nconvert i to integer failures null\nconvert f to text"
    row = run(steps, "a\n2.50\n3\n").table.to_pylist()
    assert row == [{"a": Decimal("2.50"), "f": "2.5", "i": None}, {"a": Decimal("3.00"), "f": "3", "i": 3}]
    steps = "convert a to date\nmake t = a\nconvert t to timestamp\nconvert a to text written '%d.%m.%Y'"
    assert run(steps, "a\n2026-05-04\n").table.to_pylist() == [{"a": "04.05.2026", "t": T(2026, 5, 4)}]
    with pytest.raises(Refusal, match="has no way to date"):
        run("convert a to boolean\nconvert a to date", "a\ntrue\n")


def test_decimals_of_stated_places_are_written_so(tmp_path: Any) -> None:
    from mangler.engine.run.linked_recipe import LinkedRecipe

    (tmp_path / "a.csv").write_text("a,b,c\n1.5,1.5,7\n-0,0,0\n")
    steps = "convert a to decimal 2\nconvert b to decimal\nconvert c to decimal 0"
    LinkedRecipe.parse(f"mangler 1\n{steps}").run(tmp_path / "a.csv", to=tmp_path / "o.csv")
    assert (tmp_path / "o.csv").read_text() == "a,b,c\n1.50,1.5,7\n0.00,0,0\n"


@pytest.mark.parametrize(
    ("step", "message"),
    [
        ("convert a to int", "Write convert a to integer"),
        ("convert a to integer 2", "places goes with decimal"),
        ("convert a to date point ','", "point goes with"),
        ("convert a to integer written '%d'", "written goes with"),
        ("convert a to date written '%d/%m'", "no year, month and day"),
        ("convert a to date written '%d/%m/%Y %H'", "has a time, and a date"),
        ("convert a to timestamp written '%d/%m/%Y'", "no hour"),
        ("convert a to date written '%d/%d/%Y'", "is there twice"),
        ("convert a to date written '%Q'", '"%Q" is not a part'),
        ("convert a to float point '..'", "one mark"),
        ("convert a to float point ',' grouping ','", "the same mark"),
        ("convert a to boolean true 'x' false 'x'", "means both true and false"),
        ("convert a to integer where a = '1'", "convert takes no where"),
        ("convert a to list", "split makes lists"),
        ("convert a to decimal 19", "0 to 18 places"),
        ("convert a to integer failures 'x'", "'x' is text, and the column is integer"),
    ],
)
def test_what_is_refused(clean: Callable[..., Any], step: str, message: str) -> None:
    with pytest.raises(Refusal, match=message):
        clean(step, "a\n1\n")


@given(
    st.lists(st.dates(), min_size=1, max_size=5),
    st.sampled_from(["%d/%m/%Y", "%Y%m%d", "%j %Y", "%b %d, %Y", "%d. %B %Y"]),
)
def test_what_python_writes_is_read(days: list[datetime.date], form: str) -> None:
    texts = pa.array([day.strftime(form.replace("%Y", f"{day.year:04d}")) for day in days])
    read = read_form(texts, form)
    assert read.fits.all()
    epoch = datetime.date(1970, 1, 1)
    assert (read.values // 86_400_000_000).tolist() == [(day - epoch).days for day in days]


@given(st.integers(-(10**14), 10**14), st.sampled_from([(".", ","), (",", "."), (",", " "), (".", "'")]))
def test_grouped_numbers_become_plain(number: int, marks: tuple[str, str]) -> None:
    point, grouping = marks
    spelled = f"{number:,}".replace(",", grouping) + f"{point}5"
    texts, wrong = plain_numbers(pa.array([spelled]), NumberForm(point, grouping))
    assert not wrong[0] and texts[0].as_py() == f"{number}.5"


def test_serials_of_numbers() -> None:
    read = read_serial(pa.array([61, 2_958_466, None], pa.int64()), whole_days=True)
    assert read.fits.tolist() == [True, False, False]


def test_zones(run: Run, tmp_path: Any) -> None:
    from mangler.engine.run.linked_recipe import LinkedRecipe

    extract = "a\n2026-05-04 09:30\n2026-01-04T09:30:15.5\n2026-05-04T09:30:00Z\n2026-05-04T09:30-0230\n\n"
    extract += "2026-03-29 02:30\n2026-10-25 02:30\n"
    steps = 'convert a to timestamp zone "Europe/Paris" failures aside\nmake h = hour(a)\n'
    steps += "make t = text(a), z = a\nconvert z to text"
    (tmp_path / "a.csv").write_text(extract)
    result = LinkedRecipe.parse(f"mangler 1\n{steps}").run(tmp_path / "a.csv", to=tmp_path / "o.csv")
    assert (tmp_path / "o.csv").read_text().splitlines()[1:] == [
        "2026-05-04T09:30:00+02:00,9,2026-05-04T09:30:00,2026-05-04T09:30:00",
        "2026-01-04T09:30:15.5+01:00,9,2026-01-04T09:30:15.5,2026-01-04T09:30:15.5",
        "2026-05-04T11:30:00+02:00,11,2026-05-04T11:30:00,2026-05-04T11:30:00",
        "2026-05-04T14:00:00+02:00,14,2026-05-04T14:00:00,2026-05-04T14:00:00",
        ",,,",
    ]
    assert [row.row for row in result.rows_aside] == [6, 7]
    assert "on the clock of Europe/Paris" in result.rows_aside[0].reason
    with pytest.raises(Refusal, match="not a zone that is known"):
        run('convert a to timestamp zone "Europe/Pariss"', extract)
    with pytest.raises(Refusal, match="zone goes with timestamp"):
        run('convert a to date zone "UTC"', extract)
    moved = 'convert a to timestamp zone "UTC"\nconvert a to timestamp zone "Asia/Tokyo"\nconvert a to text'
    assert run(moved, "a\n2026-05-04 09:30\n").table.to_pylist() == [{"a": "2026-05-04T18:30:00+09:00"}]
    dated = 'convert a to timestamp zone "Asia/Tokyo"\nconvert a to date'
    assert run(dated, "a\n2026-05-04 00:30\n").table.to_pylist() == [{"a": D(2026, 5, 4)}]


def test_part_of_a_column_with_places_or_a_zone_can_change(run: Run) -> None:
    extract = "a,b\n1.5,2026-05-04 09:30\n,\n3,2026-03-28 02:30\n"
    front = 'convert a to decimal 1\nconvert b to timestamp zone "Europe/Paris"\n'
    steps = "make b = add_days(b, -1) where a = 1.5\nchange a to cell * 2 where a = 3\nfill a with 0.25 * 2"
    rows = run(f"{front}{steps}\nconvert * to text", extract).table.to_pylist()
    assert rows == [
        {"a": "1.5", "b": "2026-05-03T09:30:00+02:00"},
        {"a": "0.5", "b": None},
        {"a": "6.0", "b": "2026-03-28T02:30:00+01:00"},
    ]
    for step, message in (
        ("change a to cell / 2 + 0.01 where a = 3", "where would leave cells that are decimal"),
        ("change a to cell * 0.25 where a = 3", "has more than 1 places"),
        ("make b = add_days(b, 1) where a = 3", "on the clock of Europe/Paris"),
        ("fill a with 0.25", "does not fit in a column of 1 places"),
    ):
        with pytest.raises(Refusal, match=message):
            run(front + step, extract)
    halves = run(
        "convert a to decimal 1\nchange a to cell / 0 failures 0.25\nfill a with 1", "a,b\n1.5,\n,x\n"
    )
    assert halves.table.column("a").to_pylist() == [0.25, 1.0]


@given(
    st.lists(
        st.text(st.sampled_from("0123456789/ :-x"), max_size=17)
        | st.datetimes().map(lambda t: t.strftime("%d/%m/%Y %H:%M")),
        max_size=8,
    ),
    st.sampled_from(["%d/%m/%Y %H:%M", "%Y%m%d%H", "%H:%M", "%y-%j"]),
)
def test_fixed_places_read_what_the_pattern_reads(texts: list[str], form: str) -> None:
    array = pa.array([*texts, None], pa.string())
    one, other = read_form(array, form), date_forms._by_pattern(trim(array).array, form)
    assert one.fits.tolist() == other.fits.tolist()
    assert one.values[one.fits].tolist() == other.values[other.fits].tolist()


@pytest.mark.parametrize("minus", ["-", "−", "–"])
def test_a_minus_sign_and_a_dash_are_a_minus_before_digits(clean, minus: str):
    steps = 'convert a to integer\nconvert b to decimal 1 point "," without "°C"'
    assert clean(steps, f"a;b\n{minus}12;{minus}1,5 °C\n") == [[-12, Decimal("-1.5")]]


def test_a_dash_anywhere_else_is_no_minus(run):
    result = run("convert a to integer failures null", "a\n12−\n1–2\n−\n− 4\n")
    assert result.table["a"].to_pylist() == [None] * 4


@pytest.mark.parametrize(
    ("clause", "years"),
    [("", [2054, 1999]), (" century 1930", [1954, 1999]), (" century 2000", [2054, 2099])],
)
def test_years_of_two_digits_lie_in_the_century_that_is_said(clean, clause: str, years: list[int]):
    rows = clean(f'convert a to date written "%d.%m.%y", "%d %b %y"{clause}', "a\n04.05.54\n4 May 99\n")
    assert [row[0].year for row in rows] == years


@pytest.mark.parametrize(
    ("steps", "message"),
    [
        ('convert a to date written "%d.%m.%Y" century 1930', "no form has a year of two digits"),
        ('convert a to date written "%d.%m.%y" century 0', "a century starts in the years 1 to 9900"),
        ("convert a to integer century 1930", "century goes with date or timestamp, not integer"),
    ],
)
def test_a_century_that_says_nothing(refused, steps: str, message: str):
    refused(steps, "a\n1\n", message)
