"""Forms of dates in expressions, and names of months in other languages."""

from __future__ import annotations

import sys
from datetime import date, datetime, time

import pytest
from tests.conftest import Refused, Run
from tests.expressions.evaluating import evaluate

from mangler.language.layout import format_recipe
from mangler.language.recipe import parse_recipe
from mangler.language.source import Source
from mangler.steps import VERBS


@pytest.mark.parametrize(
    ("expression", "text", "value"),
    [
        ("date(x, '%d/%m/%Y')", "04/05/2026", date(2026, 5, 4)),
        ("date(x, '%d/%m/%Y', '%Y%m%d')", "20260504", date(2026, 5, 4)),
        ("time(x, '%I:%M %p')", "9:30 pm", time(21, 30)),
        ("timestamp(x, '%d.%m.%y %H:%M')", "04.05.26 09:30", datetime(2026, 5, 4, 9, 30)),
        ("date(x, '%d. %B %Y', language 'de')", "4. Mai 2026", date(2026, 5, 4)),
        ("date(x, '%d. %B %Y', language 'de')", "04. März 2026", date(2026, 3, 4)),
        ("date(x, '%d %b %Y', language 'de')", "4 Okt. 2026", date(2026, 10, 4)),
        ("date(x, '%A %d %B %Y', language 'fr')", "lundi 4 mai 2026", date(2026, 5, 4)),
        ("date(x, '%d %B %Y', language 'fr')", "4 AOÛT 2026", date(2026, 8, 4)),
        ("date(x, '%d %B %Y', language 'pl')", "4 maja 2026", date(2026, 5, 4)),
        ("date(x, '%B %Y %d', language 'pl')", "maj 2026 4", date(2026, 5, 4)),
        ("date(x, '%d de %B de %Y', language 'pt-BR')", "4 de maio de 2026", date(2026, 5, 4)),
        ("date(x, '%d %m %Y')", " ", None),
        ("date(x, '%d %m %Y')", None, None),
    ],
)
def test_a_text_is_read_by_a_form(expression: str, text: str | None, value: object) -> None:
    assert evaluate(expression, x=[text]) == [value]


@pytest.mark.parametrize(
    ("expression", "says"),
    [
        ("date(x, '%d/%m/%Y')", '"soon" is not a date'),
        ("date(x, '%d/%m')", "no year, month and day"),
        ("date(x, x)", "a form is a text that is written here"),
        ("date(x, '%d %B %Y', language 'klingon-x')", "is not a language"),
        ("date(x, '%d %B %Y', language '')", "is not a language"),
        ("date(x, language 'de')", "here is no form"),
        ("date(date('2026-05-04'), '%d/%m/%Y')", "a form says how a text is read"),
        ("date(x, '%d/%m/%Y', '%m/%d/%Y')", '"soon" is not a date'),
    ],
)
def test_wrong_use(refused: Refused, expression: str, says: str) -> None:
    refused(f"make y = {expression}", "x\nsoon\n", says)


def test_two_forms_that_differ_fail(refused: Refused) -> None:
    refused(
        "make y = date(x, '%d/%m/%Y', '%m/%d/%Y')", "x\n04/05/2026\n", "read differently by two of the forms"
    )


def test_without_the_library_the_way_to_it_is_said(refused: Refused, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setitem(sys.modules, "babel", None)
    refused(
        "make y = date(x, '%d %B %Y', language 'de')", "x\n4 Mai 2026\n", 'pip install "mangler[languages]"'
    )


def test_convert_reads_them_too(run: Run) -> None:
    done = run("convert d to date written '%d. %B %Y' language 'de'", "d\n4. Dezember 2026\n5. Dez. 2026\n")
    assert done.table.column("d").to_pylist() == [date(2026, 12, 4), date(2026, 12, 5)]


@pytest.mark.parametrize(
    ("step", "says"),
    [
        ("convert d to date written '%d/%m/%Y' language 'de'", "no form has the name of a month"),
        ("convert d to date language 'de'", "no form has the name of a month"),
        ("convert d to integer language 'de'", "goes with date or timestamp"),
        ("convert d to date written '%d %B %Y' language 'xx-none'", "is not a language"),
        ("convert d to text negatives trailing", "goes with integer or float or decimal"),
        ("convert d to integer grouping ',', '.' point '.'", "the same mark"),
        ("convert d to integer grouping ',', 'ab'", "grouping is one mark"),
    ],
)
def test_clauses_that_mean_nothing(refused: Refused, step: str, says: str) -> None:
    refused(step, "d\n1\n", says)


@pytest.mark.parametrize(
    ("clauses", "cells"),
    [
        ("negatives parentheses", {"(45)": -45, "-45": -45, "45": 45, "( 45 )": -45}),
        ("negatives trailing", {"45-": -45, "45 -": -45, "45": 45, "-45": -45}),
        ("negatives parentheses without 'EUR'", {"(45 EUR)": -45, "(45) EUR": -45, "EUR (45)": -45}),
        ("grouping ',', \"'\", ' '", {"1,234": 1234, "1'234": 1234, "1 234": 1234}),
    ],
)
def test_numbers_as_they_are_written(run: Run, clauses: str, cells: dict[str, int]) -> None:
    table = "n\n" + "".join(f'"{cell}"\n' for cell in cells)
    done = run(f"convert n to integer {clauses}", table)
    assert done.table.column("n").to_pylist() == list(cells.values())


@pytest.mark.parametrize(
    ("clauses", "cell"), [("parentheses", "(-45)"), ("parentheses", "(45"), ("trailing", "-45-")]
)
def test_two_signs_are_none(refused: Refused, clauses: str, cell: str) -> None:
    refused(f"convert n to integer negatives {clauses}", f"n\n{cell}\n", "is not an integer")


def test_the_formatter_keeps_the_language() -> None:
    text = 'mangler 1\nmake d = date( x, "%d %B %Y", language  "de" )\n'
    laid = format_recipe(parse_recipe(Source("r", text), VERBS))
    assert 'date(x, "%d %B %Y", language "de")' in laid
    assert format_recipe(parse_recipe(Source("r", laid), VERBS)) == laid


def test_a_column_may_still_be_called_language(run: Run) -> None:
    assert run("make d = date(language)", "language\n2026-05-04\n").table["d"].to_pylist() == [
        date(2026, 5, 4)
    ]
