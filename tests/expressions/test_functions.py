from __future__ import annotations

from datetime import date, datetime
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.expressions.evaluating import evaluate

from mangler.engine.trial.expression_trial import evaluate as answer
from mangler.expressions.registry import FUNCTIONS
from mangler.language.mistake import Refusal
from mangler.language.source import Source
from mangler.language.tables import read_small_table

NULL_IS_ANSWERED = (
    *("coalesce", "least", "greatest", "alike", "nullif", "add_days", "add_months"),
    *("date", "time", "timestamp"),  # their further arguments are forms
)
EXAMPLES = [(expression, value) for function in FUNCTIONS.values() for expression, value in function.examples]


@pytest.mark.parametrize(("expression", "value"), EXAMPLES)
def test_examples_of_the_reference(expression: str, value: str) -> None:
    assert answer(expression).value == read_small_table(Source("value", f"a\n{value}")).rows[0][0]


def test_every_function_says_all_about_itself() -> None:
    for function in FUNCTIONS.values():
        assert function.examples and function.meaning.endswith("."), function.name
        assert (function.work is None) != (function.bind is None)


@pytest.mark.parametrize(
    ("text", "columns", "values"),
    [
        ("left(a, 2)", {"a": ["Zoë", "x", "", None]}, ["Zo", "x", "", None]),
        ("left(a, n)", {"a": ["abc", "abc", "abc", None], "n": [1, 0, None, 2]}, ["a", "", None, None]),
        ("right(a, 2)", {"a": ["Zoë", "x", None]}, ["oë", "x", None]),
        ("characters(a, 2, -2)", {"a": ["abcd", "ab", "a", ""]}, ["bc", "", "", ""]),
        ("characters(a, -2, 9)", {"a": ["abcd", "a"]}, ["cd", "a"]),
        ("characters(a, 3, 2)", {"a": ["abcd"]}, [""]),
        ("up_to(a, '/')", {"a": ["A/2/left", "A", None, "/"]}, ["A", None, None, ""]),
        ("up_to(a, '/', 2)", {"a": ["A/2/left", "A/2"]}, ["A/2", None]),
        ("up_to(a, '/', n)", {"a": ["A/2/left"] * 4, "n": [1, -1, -2, 3]}, ["A", "A/2", "A", None]),
        ("past(a, '/', n)", {"a": ["A/2/left"] * 4, "n": [1, -1, -2, 3]}, ["2/left", "left", "2/left", None]),
        ("past(a, b)", {"a": ["x(y", "a.b"], "b": ["(", "."]}, ["y", "b"]),
        ("past(a, /\\s*=\\s*/)", {"a": ["bowl = 4", "mug="]}, ["4", ""]),
        (
            "inside(a, 'batch:', 'end of batch')",
            {"a": ["x\nbatch: 7\nend of batch y", "batch: 7"]},
            [" 7\n", None],
        ),
        ("part(a, '/', n)", {"a": ["A//left"] * 4, "n": [2, 3, -3, 4]}, ["", "left", "A", None]),
        ("occurrences(a, 'aa')", {"a": ["aaaa", "", None]}, [2, 0, None]),
        ("replace(a, '.', b)", {"a": ["1.2", "a.b"], "b": ["", "-"]}, ["12", "a-b"]),
        ("pad_left(a, 3, '0')", {"a": ["7", "1222", None]}, ["007", "1222", None]),
        ("pad_right(a, 5, 'ab')", {"a": ["x", "xyzzyx"]}, ["xabab", "xyzzyx"]),
        ("alike(a, b)", {"a": [" Größe", "ς", "x"], "b": ["GRÖßE ", "Σ", None]}, [True, True, None]),
        ("repeat(a, n)", {"a": ["ab", "ab"], "n": [2, 0]}, ["abab", ""]),
        ("size(split(a, ';'))", {"a": ["", "a;;b", None]}, [1, 3, None]),
        ("joined(unique(split(a, ';')), ';')", {"a": ["b;a;b;;", "", None]}, ["b;a;", "", None]),
        ("joined(sorted(split(a, ';')), ';')", {"a": ["b;a;é;B", None, "x"]}, ["B;a;b;é", None, "x"]),
        (
            "joined(without(split(a, ';'), 'x', b), ';')",
            {"a": ["x;y;z", "y", None], "b": ["y", None, "x"]},
            ["z", "y", None],
        ),
        ("item(split(a, ';'), -1)", {"a": ["a;b", "c", None]}, ["b", "c", None]),
        ("round(a)", {"a": [2.5, -2.5, 2.49, None]}, [3, -3, 2, None]),
        ("round(a)", {"a": [1e300]}, ["<the result has more than 64 bits>"]),
        ("floor(a)", {"a": [-0.5, 7.0]}, [-1, 7]),
        ("abs(a)", {"a": [-3, -(2**63)]}, [3, "<the result has more than 64 bits>"]),
        ("greatest(a, 2)", {"a": [1, None, 3]}, [2, 2, 3]),
        ("year(a) * 100 + month(a)", {"a": [date(2026, 5, 4), None]}, [202605, None]),
        ("weekday(a)", {"a": [date(2026, 5, 4), date(2026, 5, 10)]}, [1, 7]),
        (
            "format_date(a, '%d.%m.%y %H:%M')",
            {"a": [datetime(2026, 5, 4, 9, 30, 15, 500)]},
            ["04.05.26 09:30"],
        ),
        ("days_between(a, b)", {"a": [date(2024, 2, 28)], "b": [date(2024, 3, 1)]}, [2]),
        (
            "add_days(a, n)",
            {"a": [date(2024, 2, 28), date(9999, 12, 31), None], "n": [2, 1, 1]},
            [date(2024, 3, 1), "<the day lies outside the years 1 to 9999>", None],
        ),
        ("add_days(a, -1)", {"a": [datetime(2026, 5, 1, 9, 30)]}, [datetime(2026, 4, 30, 9, 30)]),
        ("date(a)", {"a": [datetime(1969, 12, 31, 23, 59)]}, [date(1969, 12, 31)]),
        ("coalesce(a, b, 'z')", {"a": [None, None, "x"], "b": ["y", None, "y"]}, ["y", "z", "x"]),
        ("nullif(a, 'x')", {"a": ["x", "y", None]}, [None, "y", None]),
        (
            "integer(a)",
            {"a": [" 7 ", "x", "", "7.0", None]},
            [7, '<"x" is not an integer>', None, '<"7.0" is not an integer>', None],
        ),
        ("integer(a)", {"a": [7.0, 7.5, None]}, [7, '<"7.5" is not an integer>', None]),
        (
            "decimal(a)",
            {"a": [0.1, 1e20]},
            [__import__("decimal").Decimal("0.1"), '<"1e+20" is not a decimal>'],
        ),
        ("extract_row()", {"a": ["x", "y"]}, [1, 2]),
        ("extract_file()", {"a": ["x"]}, ["a.csv"]),
    ],
)
def test_values(text: str, columns: dict[str, list[Any]], values: list[Any]) -> None:
    assert evaluate(text, **columns) == values


@pytest.mark.parametrize(
    "name",
    [name for name, f in FUNCTIONS.items() if len(f.parameters) and name not in NULL_IS_ANSWERED],
)
def test_absent_is_null(name: str) -> None:
    """A function of null is null, whatever its further arguments."""
    function = FUNCTIONS[name]
    plain = {"text": "'x'", "delimiter": "';'", "mark": "'x'", "form": "'%Y'", "list": "split('x', ';')"}
    rest = [
        plain.get(p.name, "'x'" if "text" in {str(k) for k in p.accepts} else "1")
        for p in function.parameters[1:]
    ]
    if "date" in [p.name for p in function.parameters[1:]] or name in ("days_between", "months_between"):
        rest = ["date('2026-05-04')"]
    if name == "minutes_between":
        rest = ["timestamp('2026-05-04 09:30')"]
    if name in ("first_day", "last_day", "truncate_to"):
        rest = ["'month'"]
    assert evaluate(f"{name}({', '.join(['null', *rest])})", a=["x", "y"]) == [None, None]


LISTS = st.none() | st.lists(st.sampled_from(["a", "b", "", "é", " "]), min_size=1, max_size=5).map(";".join)


@given(st.lists(LISTS, min_size=1, max_size=6), st.integers(-3, 3).filter(bool))
def test_lists_are_those_of_python(cells: list[str | None], which: int) -> None:
    parts = [None if cell is None else cell.split(";") for cell in cells]

    def each(work: Any) -> list[Any]:
        return [None if part is None else work(part) for part in parts]

    def nth(part: list[str]) -> str | None:
        return part[which - (which > 0)] if abs(which) <= len(part) else None

    assert evaluate("split(a, ';')", a=cells) == parts
    assert evaluate("unique(split(a, ';'))", a=cells) == each(lambda part: list(dict.fromkeys(part)))
    assert evaluate("sorted(split(a, ';'))", a=cells) == each(sorted)
    assert evaluate("without(split(a, ';'), 'a')", a=cells) == each(
        lambda part: [x for x in part if x != "a"]
    )
    assert evaluate(f"part(a, ';', {which})", a=cells) == each(nth)
    assert evaluate("joined(split(a, ';'), ';')", a=cells) == cells


def test_an_old_name_is_met_with_the_new_one() -> None:
    with pytest.raises(Refusal, match=r"source_row\(\) is called extract_row\(\) now"):
        answer("source_row()")
