"""`clean list`: delimited lists fixed inside their cells."""

from __future__ import annotations

import numpy as np

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.clean_list import ListWork, clean_lists
from mangler.kernels.text.delimiters import Delimiters
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.patterns import few_distinct
from mangler.kernels.text.whole import WholeMatcher
from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Text
from mangler.language.mistake import Mistake
from mangler.language.patterns import Pattern
from mangler.language.statement import Statement
from mangler.steps.shared.columnwise import ColumnwiseStep, choose, note_examples, where
from mangler.steps.shared.counters import CHANGES, CONDITION, MISSES
from mangler.steps.shared.matching import advise_on_misses, without_outer_blanks
from mangler.steps.shared.new_values import count_changes
from mangler.steps.shared.splitter import check_delimiters
from mangler.table.schema import Schema
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="clean list",
    usage="clean list COLUMNS at MATCHERS [with TEXT] [without MATCHERS] [without first MATCHERS]"
    " [keep empty] [unique] [sorted] [first NUMBER] [anycase] [where CONDITION]",
    meaning="Corrects delimited lists inside their cells: parts are trimmed, empty ones go, and the rest is put"
    " together again. A cell with nothing left is null. Any of several delimiters ends a part.",
    clauses={
        "with": "The text put between the parts; by default, the delimiter itself, which must then be one"
        " text.",
        "without": "Parts that are one of these as a whole go, white space around them ignored.",
        "without first": "Of these only the first that a list holds goes, one for each that is named.",
        "keep empty": "Empty parts stay.",
        "unique": "Of parts that are there twice only the first stays.",
        "sorted": "Parts in ascending order of their characters.",
        "first": "Only so many parts stay, after all else is done.",
        "anycase": "Delimiters, unwanted parts, doubles and sorting go by letters in any case; a pattern takes the"
        " flag i.",
    },
    examples=(
        Example(
            'clean list glazes at ";" with "; " without "none" unique sorted',
            "glazes\ntenmoku ;; none; celadon\nash;ash\n; none ;\nnull",
            "glazes\nceladon; tenmoku\nash\nnull\nnull",
        ),
        Example(
            'clean list glazes at ";", " and ", "/" with "; " unique anycase',
            "glazes\nCeladon and ash/celadon",
            "glazes\nCeladon; ash",
        ),
        Example(
            'clean list glazes at "," without first "ash"',
            "glazes\nash,shino,ash",
            "glazes\nshino,ash",
        ),
        Example(
            'clean list contacts at ";" keep empty first 2',
            "contacts\na@example.org; ; b@example.org",
            "contacts\na@example.org;",
        ),
    ),
    counters=(*CHANGES, *MISSES, *CONDITION),
)


def bind(statement: Statement, schema: Schema) -> ColumnwiseStep:
    selection = choose(statement, schema, DECLARATION.usage)
    work = _list_work(statement)

    def clean(column: ColumnArray, tally: Tally) -> ColumnArray:
        if few_distinct(column):
            encoded = as_dictionary(column)
            out, missed = clean_lists(encoded.dictionary, work)
            codes = np.asarray(encoded.indices.fill_null(len(missed)))
            missed = np.append(missed, False)[codes]  # the last one is that of nulls
            out = out.take(encoded.indices)
        else:
            out, missed = clean_lists(column, work)
        tally.counts["missed_by_case"] += int(np.count_nonzero(missed))
        note_examples(tally, column, missed)
        count_changes(column, out, tally)
        return out

    return ColumnwiseStep(
        schema,
        statement,
        selection,
        clean,
        advise_on_misses,
        "every list is as it would be",
        where(statement, schema, DECLARATION.usage),
    )


def _list_work(statement: Statement) -> ListWork:
    said = statement.values["at"]
    anycase = statement.has("anycase")
    delimiters = Delimiters(
        tuple(item.value for item in said if isinstance(item, Text)),
        tuple(item.re2 for item in said if isinstance(item, Pattern)),
        anycase=anycase,
    )
    separator = statement.text("with")

    def matcher_of(key: str) -> WholeMatcher | None:
        unwanted = statement.values.get(key, ())
        texts = tuple(without_outer_blanks(item.value) for item in unwanted if isinstance(item, Text))
        patterns = tuple(item.re2 for item in unwanted if isinstance(item, Pattern))
        return WholeMatcher(texts, patterns, anycase) if unwanted else None

    return ListWork(
        delimiters,
        separator.value if separator else said[0].value,
        matcher_of("without"),
        statement.has("keep empty"),
        statement.has("unique"),
        statement.has("sorted"),
        statement.number("first") or 0,
        anycase,
        matcher_of("without first"),
    )


def check(statement: Statement) -> list[Mistake]:
    said = statement.values["at"]
    mistakes = check_delimiters(said)
    if not statement.has("with") and (len(said) > 1 or not isinstance(said[0], Text)):
        message = "several delimiters are" if len(said) > 1 else "a pattern is"
        mistakes.append(
            Mistake(
                "delimiter-open",
                f"{message} looked for, so it is open what the parts are put together with",
                'Say it: with "; ".',
                statement.span_of("at"),
            )
        )
    if statement.number("first") == 0:
        mistakes.append(
            Mistake(
                "count-from-one",
                "the first 0 parts are none",
                "Write first 1 or more.",
                statement.span_of("first"),
            )
        )
    return mistakes
