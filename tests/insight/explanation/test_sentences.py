"""Every verb has a sentence, and every clause is in it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import pytest

from mangler.insight.explanation.sentences import SENTENCES
from mangler.insight.explanation.words import Words, listed
from mangler.language.columns import ColumnSelector
from mangler.language.recipe import parse_recipe
from mangler.language.source import Source
from mangler.language.statement import Statement
from mangler.steps import VERBS

FURTHER = """mangler 1 "All clauses"
read format text sheet "Log" merged repeat delimiter ";" quote "'" encoding "utf-8" header row 2 nulls "-" comment "#" \
ragged pad skip last 1
write format text compression gzip delimiter ";" quotes always nulls "-" encoding "utf-8" line ends lf \
by kiln named "{kiln}"
tolerate 5 rows
parameter cone = "06"
define tidy(x) = trim(x)
require columns exactly kiln, cone failures warn because "the kilns' own table"
require only "a" in kiln anycase failures warn because "no others"
trim kiln right where cone = "06"
replace first "a" with "b" in kiln where cone = "06"
nullify "a" in kiln where cone = "06"
keep characters digits in kiln where cone = "06"
map kiln from "kilns.csv" number, studio anycase near 1 unmatched aside nulls "-" where cone = "06"
split kiln at "a" into rows as part numbered as n drop empty anycase quoted untrimmed where cone = "06"
split kiln at last "a" into a, b? absent "-" too few aside too many cut
capture kiln by /(?<a>.)/ failures aside where cone = "06"
join kiln, cone with "-" into both nulls null where cone = "06"
join kiln, cone with "-" into both blanks skip
clean list kiln at ";" with "," without "a" without first "b" keep empty unique sorted first 2 anycase where cone = "06"
recase kiln upper where cone = "06"
recase kiln sentence
fill kiln down within cone where cone = "06"
fill kiln up
fill kiln with cone failures null
convert cone to date written "%d. %b %y" language "de" century 1950 failures aside
convert cone to timestamp written serial zone "Europe/Paris"
convert cone to decimal 2 point "," grouping "." negatives trailing without "kg" failures null
convert cone to boolean true "y" false "n" anycase
make a = kiln within cone sorted by kiln after cone where cone = "06" failures null
make b = kiln first
make c = sum(1) within all rows
make d = kiln last
keep rows where kiln = "a" failures aside
keep first 2 rows within all rows
sort by kiln anycase nulls first
dedupe by kiln leaving last sorted by cone anycase
lookup "k.csv" on kiln bring fuel anycase near 2 where cone = "06" unmatched aside matched keep several all nulls "-"
lookup "k.csv" on kiln matched drop
number rows as n within kiln sorted by cone from 5
rename kiln snake
rename kiln? to oven
group by kiln with a = count() anycase failures null
pivot kiln into columns of cone with max(cone) failures null
repeat rows by cone failures aside
require no nulls in kiln failures warn because "needed"
require one row per kiln anycase because "a key"
require between 1 and 3 rows failures warn because "as ever"
require overall count() > 0 failures warn
nullify "a" in kiln anycase
split kiln at "a" into a, b keep empty
keep last 2 rows within kiln sorted by cone
drop rows where kiln = "a" failures null
set aside rows where kiln = "a" because "x" failures null
sort by kiln nulls last
change kiln to upper(cell) where cone = "06" failures keep
"""
SAID_BESIDE = {
    "value",
    "column",
    "up",
    "row",
    "rows",
    "columns",
    "number",
    "amount",
    "name",
    "signature",
    "condition",
    "=",
}
"""Said by another key too: the words are there all the same, and `told` has them from the text."""


DEFAULTS = {("map", "unmatched", "keep"), ("sort", "nulls last", "True")}
"""What is so too where it is not said, and is told then."""


def statements(text: str) -> Iterator[Statement]:
    """Each by itself, so that they need not make a recipe together."""
    for line in text.replace("\\\n", "").strip().split("\n"):
        frame = "" if line.startswith("mangler") else "mangler 1\n"
        yield parse_recipe(Source("r", frame + line), VERBS).statements[-1]


EXAMPLES = [
    one
    for verb in VERBS.names()
    if VERBS.is_step(verb)
    for example in VERBS.declaration(verb).examples
    for one in parse_recipe(Source("r", f"mangler 1\n{example.statement}"), VERBS).statements[1:]
]
ALL = [*EXAMPLES, *statements(FURTHER)]


def told(statement: Statement) -> str:
    def chosen(selector: ColumnSelector) -> list[str]:  # noqa: ARG001
        return ["kiln", "cone"]

    return SENTENCES[statement.verb](Words(statement, chosen))


def test_every_verb_has_a_sentence() -> None:
    assert set(SENTENCES) == set(VERBS.names())


@pytest.mark.parametrize("statement", ALL, ids=[one.span.text for one in ALL])
def test_nothing_that_is_said_is_left_out(statement: Statement) -> None:
    """Without a clause the sentence is another one, or cannot be made at all."""
    whole = told(statement)
    assert whole.endswith(".") and whole[0].isupper() and "  " not in whole and ".." not in whole, whole
    for key, value in statement.values.items():
        if key in SAID_BESIDE and (key != "columns" or statement.verb == "split"):
            continue
        if (statement.verb, key, str(value)) in DEFAULTS:
            continue
        rest = {name: value for name, value in statement.values.items() if name != key}
        spans = {name: span for name, span in statement.spans.items() if name != key}
        try:
            without = told(replace(statement, values=rest, spans=spans))
        except (KeyError, AttributeError, StopIteration, TypeError, AssertionError):
            continue  # a part that every statement of the verb has
        assert without != whole, key


def test_every_clause_of_every_step_is_tried() -> None:
    """So that none can be forgotten: each clause that a verb declares is in one of the statements above."""
    used: dict[str, set[str]] = {}
    for one in ALL:
        used.setdefault(one.verb, set()).update(one.values)
    missing = {
        verb: left
        for verb in VERBS.names()
        if VERBS.is_step(verb)
        and (left := {*VERBS.declaration(verb).clauses} - used.get(verb, set()) - INNER)
    }
    assert not missing


INNER = {
    "descending",
    "PARTS",
    "snake",
    "trim",
    "lower",
    "upper",
    "to",
    "within all rows",
    "where",
    "with",
    "on",
}
"""What is inside of another value, or of the same kind as a clause that is there."""


@pytest.mark.parametrize(
    ("names", "expected"),
    [
        ([], "none"),
        (["a"], "a"),
        (["a", "b"], "a and b"),
        (["a", "b", "c"], "a, b and c"),
        (["a", "b", "c", "d"], "a, b and 2 more"),
    ],
)
def test_names_in_a_sentence(names: list[str], expected: str) -> None:
    assert listed(names, 2 if len(names) == 4 else 8) == expected
