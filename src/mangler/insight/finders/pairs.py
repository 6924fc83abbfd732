"""Pairs of a name and a value, as in `bowl=4`: their marks, and pairs that lack the mark or the value."""

from __future__ import annotations

import re

from mangler.insight.columns.column import Column
from mangler.insight.columns.content import Content
from mangler.insight.columns.finding import Finding, Found, Kind, Proposal, Stage
from mangler.language.spelling import spell_text
from mangler.table.select import quote_name

SURE_MARKS = ("=", ":")
HYPHEN = "-"
"""It joins words too, so it counts only beside another mark and before a number."""
MOSTLY = 0.5
MOSTLY_COLONS = 0.8
"""Share of the parts that must be pairs; more where a colon is the only mark, which is in sentences too."""
LEAST_SHARE = 0.05
LONGEST_NAME = 30
LEAST_NAMES = 2
MOST_LOOKED_AT = 200


def pair_marks(parts: Content) -> tuple[str, ...]:
    """The marks between names and values, the most frequent first; none where the parts are no pairs."""
    if not parts.cells:
        return ()
    cells = {mark: _paired(parts, mark, "[^=:-]*") for mark in SURE_MARKS}
    cells[HYPHEN] = _paired(parts, HYPHEN, r"[+-]?\d[\d.,]*")
    marks = [mark for mark in SURE_MARKS if cells[mark] >= LEAST_SHARE * parts.cells]
    if not marks:
        return ()
    if cells[HYPHEN] >= LEAST_SHARE * parts.cells:
        marks.append(HYPHEN)
    share = sum(cells[mark] for mark in marks) / parts.cells
    if share < (MOSTLY_COLONS if marks == [":"] else MOSTLY) or len(_names(parts, marks)) < LEAST_NAMES:
        return ()
    return tuple(sorted(marks, key=lambda mark: -cells[mark]))


def _paired(parts: Content, mark: str, value: str) -> int:
    return parts.cells_of(parts.matching(rf"^[^\d\s=:\-][^=:\-]{{0,{LONGEST_NAME}}}{mark}\s?{value}$"))


def _names(parts: Content, marks: list[str]) -> set[str]:
    """What is before the marks."""
    looked_at = (text for text, _ in parts.most(MOST_LOOKED_AT))
    return {re.split("[=:-]", text)[0].strip() for text in looked_at if set(marks) & set(text)}


def find_pairs(column: Column, parts: Content, said: Content, mark: str) -> tuple[Found, tuple[str, ...]]:
    """`parts` are those of the column's lists, whose `mark` is given; or what it said, where they are no lists."""
    found, marks = Found(), pair_marks(parts)
    if not marks:
        return found, ()
    spelled = ", ".join(map(spell_text, marks))
    any_mark = f"[{''.join(sorted(marks, reverse=True))}]"  # the hyphen last, where it spans nothing
    cells = said.cells_of(said.matching(any_mark))
    paired = parts.cells_of(parts.matching(any_mark))
    without_value = parts.cells_of(parts.matching(f"{any_mark}$"))
    without_mark = parts.cells - paired
    message = f"pairs with {spelled} between name and value"
    message += f"; {without_value:,} without a value" * bool(without_value)
    message += f"; {without_mark:,} without a mark" * bool(without_mark)
    question = "Should names and values have columns of their own?"
    if len(marks) > 1:
        same = " and ".join(map(spell_text, marks))
        question = f"Do {same} mean the same, and should names and values have columns of their own?"
    if mark:
        question += " Then both steps."
    examples = tuple(text for text, _ in parts.most(3))
    found.findings.append(Finding(Kind.PAIRS, cells, message, question, examples))
    if mark:
        rows = f"split {column.spelled} at {spell_text(mark)} into rows"
        found.proposals.append(
            Proposal(Stage.SPLIT, rows, (Kind.PAIRS, Kind.LISTS), message, question, cells)
        )
    name, value = quote_name(f"{column.name}_name"), quote_name(f"{column.name}_value")
    several = bool(parts.matching(f"{any_mark}.*{any_mark}").any())
    step = f"split {column.spelled} at {spelled} into {name}, {value} in place{' too many unsplit' * several}"
    found.proposals.append(Proposal(Stage.SPLIT, step, (Kind.PAIRS,), message, question, cells))
    return found, marks
