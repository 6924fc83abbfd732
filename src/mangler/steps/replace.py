"""`replace`: texts and patterns by other texts, several in one pass."""

from __future__ import annotations

from typing import Any

import numpy as np

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text import left_behind
from mangler.kernels.text import replace as kernel
from mangler.kernels.text.patterns import matches_empty_text, per_distinct
from mangler.kernels.text.text_view import Flags
from mangler.kernels.text.whole import WholeMatcher, match_whole
from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Text
from mangler.language.mistake import Mistake
from mangler.language.patterns import Pattern
from mangler.language.statement import Statement
from mangler.steps.shared.columnwise import ColumnwiseStep, ColumnWork, choose, note_examples, where
from mangler.steps.shared.counters import CHANGES, CONDITION, EMPTIED, MISSES
from mangler.steps.shared.matching import (
    advise_on_misses,
    check_groups,
    count_beyond_ascii,
    count_misses,
    uses_ascii_classes,
    without_outer_blanks,
)
from mangler.table.schema import Schema
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="replace",
    usage="replace [first|last] {MATCHER with TEXT}, … in COLUMNS [anycase] [whole] [where CONDITION]",
    meaning="Puts a text in the place of every occurrence of another text, or of a pattern's matches. Several"
    " pairs apply in one pass: at one place texts longest first, then patterns in their order, and what was put"
    " in is not looked at again. For a pattern, \\0 to \\9 in the new text are its groups.",
    clauses={
        "first": "Only the first occurrence in each cell.",
        "last": "Only the last occurrence in each cell.",
        "anycase": "Texts match in any letter case; patterns have the flag i for that.",
        "whole": "Only cells that match as a whole, white space around them ignored.",
    },
    examples=(
        Example(
            'replace "temoku" with "tenmoku", "celedon" with "celadon" in glazes anycase',
            "glazes\nceledon; temoku\nTemoku\nash",
            "glazes\nceladon; tenmoku\ntenmoku\nash",
        ),
        Example(
            "replace /(\\d+)\\s*(°C|C)/ with '\\1' in peak_c",
            "peak_c\n1222 °C\n1222C\ntbc",
            "peak_c\n1222\n1222\ntbc",
        ),
        Example(
            'replace last "-" with "=" in pieces', "pieces\ntea-bowl-3\nvase", "pieces\ntea-bowl=3\nvase"
        ),
        Example(
            'replace "ok" with "good" in result whole anycase',
            'result\n" OK "\nok, but thin',
            "result\ngood\nok, but thin",
        ),
    ),
    counters=(*CHANGES, *EMPTIED, *MISSES, *CONDITION),
)


def check(statement: Statement) -> list[Mistake]:
    mistakes: list[Mistake] = []
    if statement.has("whole") and (statement.has("first") or statement.has("last")):
        mistakes.append(
            Mistake(
                "clauses-conflict",
                "whole and first or last exclude each other",
                "A whole cell matches once or not at all: leave one of them out.",
                statement.span_of("whole"),
            )
        )
    pairs: list[dict[str, Any]] = list(statement.values["matcher"])
    for pair in pairs:
        matcher: Text | Pattern = pair["matcher"]
        if isinstance(matcher, Text) and not matcher.value and not statement.has("whole"):
            mistakes.append(
                Mistake(
                    "empty-text",
                    "the empty text is everywhere, so it cannot be replaced",
                    'For cells with nothing in them write replace "" with "…" in … whole, or fill for nulls.',
                    matcher.span,
                )
            )
        elif isinstance(matcher, Pattern):
            mistakes += _check_pattern(matcher, pair["with"], statement.has("whole"))
    if len(pairs) > 1 or statement.has("first") or statement.has("last"):
        needed = kernel.groups_needed(_swaps(pairs))
        if needed > kernel.MOST_GROUPS and not statement.has("whole"):
            mistakes.append(
                Mistake(
                    "too-many-patterns",
                    f"these pairs have {needed} patterns and groups together; at most {kernel.MOST_GROUPS} go in one"
                    " pass",
                    "Write groups that are not put back as (?:…), or divide the pairs between two statements.",
                    statement.span_of("matcher"),
                )
            )
    return mistakes


def _check_pattern(pattern: Pattern, template: Text, whole: bool) -> list[Mistake]:
    mistakes = check_groups(pattern, template)
    if not whole and not mistakes and _can_be_read(pattern) and matches_empty_text(pattern.re2):
        mistakes.append(
            Mistake(
                "empty-pattern",
                "this pattern matches the empty text, which is everywhere",
                "Ask for at least one character: + instead of *, or anchor it with whole.",
                pattern.span,
            )
        )
    return mistakes


def _can_be_read(pattern: Pattern) -> bool:
    from mangler.kernels.text.patterns import problem_of

    return not problem_of(pattern.re2)


def bind(statement: Statement, schema: Schema) -> ColumnwiseStep:
    selection = choose(statement, schema, DECLARATION.usage, "in")
    pairs: list[dict[str, Any]] = list(statement.values["matcher"])
    anycase = statement.has("anycase")
    work = _whole_work(pairs, anycase) if statement.has("whole") else _inner_work(statement, pairs, anycase)
    what = "is one of these as a whole" if statement.has("whole") else "holds one of these"
    return ColumnwiseStep(
        schema,
        statement,
        selection,
        work,
        advise_on_misses,
        f"no cell {what}",
        where(statement, schema, DECLARATION.usage),
    )


def _inner_work(statement: Statement, pairs: list[dict[str, Any]], anycase: bool) -> ColumnWork:
    swaps = _swaps(pairs)
    which = "first" if statement.has("first") else "last" if statement.has("last") else "all"
    ascii_classes = any(uses_ascii_classes(pair["matcher"]) for pair in pairs)
    texts = [swap.match for swap in swaps if not swap.is_pattern]
    may_miss = not anycase and any(text.lower() != text.upper() for text in texts)
    spaced = any(" " in text.strip() for text in texts)

    def missed_by_case(values: ColumnArray) -> Flags:
        """With every occurrence replaced, a text that is left in a cell that matched once was meant too."""
        if which != "all":
            return left_behind.left_by_case(values, swaps)
        others = [swap for swap in swaps if swap.is_pattern or not swap.match.isascii()]
        missed = left_behind.left_by_case_anywhere(values, texts)
        return missed | left_behind.left_by_case(values, others) if len(others) else missed

    def work(column: ColumnArray, tally: Tally) -> ColumnArray:
        out, changed = kernel.replace(column, swaps, anycase, which)
        tally.counts["cells_changed"] += changed
        if may_miss:
            missed = per_distinct(column, missed_by_case)
            tally.counts["missed_by_case"] += int(np.count_nonzero(missed))
            note_examples(tally, column, missed)
        if spaced:
            missed = per_distinct(column, lambda values: left_behind.left_by_space(values, swaps, anycase))
            tally.counts["missed_by_space"] += int(np.count_nonzero(missed))
            note_examples(tally, column, missed)
        if ascii_classes:
            count_beyond_ascii(column, tally)
        return out

    return work


def _whole_work(pairs: list[dict[str, Any]], anycase: bool) -> ColumnWork:
    """Texts are numbered before patterns, as the matcher numbers them."""
    ordered = sorted(pairs, key=lambda pair: isinstance(pair["matcher"], Pattern))
    texts = [pair for pair in ordered if isinstance(pair["matcher"], Text)]
    patterns = [pair for pair in ordered if isinstance(pair["matcher"], Pattern)]
    matcher = WholeMatcher(
        tuple(without_outer_blanks(pair["matcher"].value) for pair in texts),
        tuple(pair["matcher"].re2 for pair in patterns),
        anycase,
    )
    templates = [pair["with"].value for pair in ordered]
    ascii_classes = any(uses_ascii_classes(pair["matcher"]) for pair in pairs)

    def work(column: ColumnArray, tally: Tally) -> ColumnArray:
        match = match_whole(column, matcher)
        count_misses(tally, column, match)
        if ascii_classes:
            count_beyond_ascii(column, tally)
        out, changed = kernel.replace_whole(column, match.codes, templates, matcher)
        tally.counts["cells_changed"] += changed
        return out

    return work


def _swaps(pairs: list[dict[str, Any]]) -> list[kernel.Swap]:
    return [
        kernel.Swap(matcher.re2, pair["with"].value, True)
        if isinstance(matcher := pair["matcher"], Pattern)
        else kernel.Swap(matcher.value, pair["with"].value, False)
        for pair in pairs
    ]
