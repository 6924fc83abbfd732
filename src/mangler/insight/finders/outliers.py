"""Numbers far from all others: slips of a digit, or numbers that mean no value."""

from __future__ import annotations

import numpy as np

from mangler.insight.columns.column import Column
from mangler.insight.columns.content import Content
from mangler.insight.columns.finding import Finding, Found, Kind, Proposal, Stage
from mangler.insight.columns.statistics import Numbers
from mangler.insight.finders.numbers import NumberColumn
from mangler.language.spelling import spell_text

STANDS_FOR_NULL = r"^-?9{2,}(?:[.,]0+)?$|^-1$|^-?8{3,}$|^0(?:[.,]0+)?$"
"""Numbers that people type where there is none."""
FAR_FROM_ZERO = 0.3
LEAST_MEASURE = 5.0
FEW_ZEROS = 0.1
MANY = 15
RECURS = 2
TIMES_BEYOND = 3.0


def find_outliers(column: Column, of: NumberColumn) -> Found:
    """A person decides about all of them."""
    found = Found()
    stand_ins = _stand_ins(column.said, of)
    numbers = of.numbers
    if stand_ins:
        texts = [text for text, _ in stand_ins]
        cells = sum(count for _, count in stand_ins)
        spelled = ", ".join(map(spell_text, texts))
        message = f"{spelled}: far from all others, and more than once"
        question = f"Does {texts[0]} mean that there is no value?"
        found.findings.append(
            Finding(
                Kind.NULL_WORDS,
                cells,
                message,
                question,
                tuple(texts),
            )
        )
        step = f"nullify {spelled} in {column.spelled}"
        found.proposals.append(Proposal(Stage.NULLIFY, step, (Kind.NULL_WORDS,), message, question))
        numbers = numbers.without({float(text.replace(",", ".")) for text in texts})
    far = numbers.far_out if len(numbers.values) else numbers
    if len(far.values):
        shown = [f"{value:,.10g}" for value in far.values[np.argsort(-np.abs(far.values))][:3]]
        cells = int(far.counts.sum())
        found.findings.append(
            Finding(
                Kind.OUTLIERS,
                cells,
                f"far from all others: {', '.join(shown)}",
                f"Is {shown[0]} a slip?",
                tuple(shown),
            )
        )
    return found


def _stand_ins(said: Content, of: NumberColumn) -> list[tuple[str, int]]:
    """Numbers like 9999 or -1 that lie beyond all others and recur."""
    candidates = said.where(said.matching(STANDS_FOR_NULL))
    found = []
    for text, cells in candidates.most(len(candidates)):
        number = float(text.replace(",", "."))
        rest = of.numbers.without({number})
        if cells < RECURS or len(rest.values) < 2 or rest.counts.sum() < 5:
            continue
        if number == 0 and cells > FEW_ZEROS * rest.counts.sum():
            continue
        if _is_apart(number, rest):
            found.append((text, cells))
    return found


def _is_apart(number: float, rest: Numbers) -> bool:
    if rest.least <= number <= rest.most:
        return False
    if number == 0:
        # A measure that is always well above nothing is not nothing either.
        share = rest.counts.sum()
        return (
            rest.least >= FAR_FROM_ZERO * rest.median > 0 and share >= MANY and rest.median >= LEAST_MEASURE
        )
    if number == -1:
        return rest.least >= 0 and rest.median >= 3
    return abs(number) > TIMES_BEYOND * max(abs(rest.most), abs(rest.least)) or (number < 0 <= rest.least)
