"""Words that mean null, and cells that are empty or blank.

A word is known as one by usage, or found from the data: it does not fit among a column's numbers or
dates, or the same short word recurs in columns that otherwise have nothing in common.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np

from mangler.insight.columns.column import Column
from mangler.insight.columns.finding import Finding, Found, Kind, Proposal, Stage
from mangler.insight.columns.null_usage import ALWAYS, KNOWN, WEAK
from mangler.insight.columns.shape_kinds import MACHINE, ShapeKind
from mangler.insight.finders.booleans import BOOLEAN_WORDS
from mangler.language.spelling import spell_text
from mangler.late_dataclass import dataclass

LONGEST_WORD = 15
LONGEST_MARKS = 4
LIST_MARKS = frozenset(";,|")
"""Alone in a cell they are a list of empty parts."""
AMONG_MACHINE = 0.6
"""Share of cells that must look like numbers or dates for a word to have no place among them."""
NEARLY_ALL = 0.98
RECURS = 2
AS_FREQUENT = 0.4
"""A word of so many times the cells of the middle value of a closed set is as frequent as its neighbours."""
ALIKE_COLUMNS = 3
MOST_SHARED = 0.34
"""Columns that share more of their other values than this have the same kind of values."""
MOST_LOOKED_AT = 5_000


@dataclass
class _Candidate:
    """A word of one column: how many cells have it and which share of the filled ones, and what speaks for it."""

    text: str
    cells: int
    share: float
    known: bool = False
    weak: bool = False
    off_kind: bool = False
    alike: bool = False
    marks: bool = False
    doubted: bool = False
    """Whether its column may have it as a value: among names or codes, or as frequent as the other values."""
    frequent: bool = False
    """Whether it is as frequent as the other values of a closed set."""

    @property
    def is_one(self) -> bool:
        return self.known or self.weak or self.alike or (self.off_kind and self.cells >= RECURS)

    @property
    def sure(self) -> bool:
        if self.off_kind:
            return self.known or ((self.weak or self.alike) and not self.frequent)
        if self.doubted:
            return False
        return self.marks or self.alike or self.text.upper().lower() in ALWAYS


def find_null_words(columns: Sequence[Column]) -> list[Found]:
    """What is found in each column. The words of a column are taken out of its values from then on."""
    candidates = [_candidates(column) for column in columns]
    _compare(candidates)
    found = []
    for column, words in zip(columns, candidates, strict=True):
        kept = {folded: word for folded, word in words.items() if word.is_one}
        column.set_words(frozenset(kept), frozenset(folded for folded, word in kept.items() if word.sure))
        found.append(_told(column, list(kept.values())))
    return found


def _candidates(column: Column) -> dict[str, _Candidate]:
    content = column.everything
    if not content.cells or column.is_free_text:
        return {}
    words: dict[str, _Candidate] = {}
    rest = content.without(KNOWN)
    alike = len(rest) > 2 and rest.share_of(MACHINE) >= NEARLY_ALL
    machine = alike or content.share_of(MACHINE) >= AMONG_MACHINE
    speaking = content.cells - content.share_of([ShapeKind.MARKS]) * content.cells
    signs = set(content.where(content.of_kinds([ShapeKind.MARKS])).values)
    among_words = speaking >= 1 and not {"+", "-"} <= signs and len(signs) <= 4
    order = np.argsort(-content.counts, kind="stable")[:MOST_LOOKED_AT]
    for index in order.tolist():
        text, cells, kind = content.texts[index].as_py(), int(content.counts[index]), content.kind_at(index)
        folded = text.upper().lower()
        if len(text) > LONGEST_WORD and folded not in KNOWN:
            continue
        word = words.setdefault(folded, _Candidate(text, 0, 0.0))
        word.cells += cells
        word.share = word.cells / content.cells
        marks = kind is ShapeKind.MARKS and len(text) <= LONGEST_MARKS and among_words
        marks = marks and not set(text) & LIST_MARKS
        word.known = folded in KNOWN or marks
        word.marks = marks
        word.weak = folded in WEAK
        word.off_kind = machine and kind in (ShapeKind.WORD, ShapeKind.MARKS) and len(text.split()) <= 2
        if machine and kind is ShapeKind.WORD and folded in BOOLEAN_WORDS:
            word.off_kind = False
    _doubt(column, words)
    if "na" in words and not machine:
        _ask_about_na(column, words)
    if len(content) == 1:
        return {folded: word for folded, word in words.items() if folded in KNOWN}
    return words


def _doubt(column: Column, words: dict[str, _Candidate]) -> None:
    """Notes which words their column may have as values of their own."""
    content = column.everything
    unlike = column.of_codes or (column.is_unlike and not column.is_free_text)
    cells = np.sort(content.counts)
    middle = float(np.median(cells)) if len(cells) else 0.0
    closed = column.is_closed
    for folded, word in words.items():
        if not (word.known or word.weak):
            continue
        as_frequent = closed and word.cells >= AS_FREQUENT * middle and len(content) > 1
        word.frequent = as_frequent
        lettered = folded.isalpha()
        if (lettered and (unlike or column.of_names or as_frequent)) or (
            unlike and not word.marks and folded not in ALWAYS
        ):
            word.doubted = True


def _ask_about_na(column: Column, words: dict[str, _Candidate]) -> None:
    """Among other texts of two letters, `NA` may be one of them: Namibia, or sodium."""
    twos = sum(len(text) == 2 and text.isalpha() for text in column.everything.values)
    if twos > 2:
        words["na"].known = False


def _compare(candidates: Sequence[dict[str, _Candidate]]) -> None:
    """Marks words that columns of different kinds of values have in common."""
    found_in: dict[str, list[int]] = defaultdict(list)
    for index, words in enumerate(candidates):
        for folded, word in words.items():
            if word.cells >= RECURS and not any(map(str.isdigit, folded)) and folded not in BOOLEAN_WORDS:
                found_in[folded].append(index)
    for folded, indices in found_in.items():
        if len(indices) < 2:
            continue
        unlike = [
            index
            for index in indices
            if not any(
                _same_values(candidates[index], candidates[other]) for other in indices if other != index
            )
        ]
        off_kind = any(candidates[index][folded].off_kind for index in indices)
        if len(unlike) >= ALIKE_COLUMNS or (len(unlike) >= 2 and off_kind):
            for index in unlike:
                word = candidates[index][folded]
                word.alike = word.alike or len(candidates[index]) > 2


def _same_values(one: dict[str, _Candidate], other: dict[str, _Candidate]) -> bool:
    """Whether two columns share so many values that they hold the same kind of thing."""
    shared = len(one.keys() & other.keys())
    return shared - 1 > MOST_SHARED * max(1, min(len(one), len(other)) - 1)


def _told(column: Column, words: list[_Candidate]) -> Found:
    found = Found()
    facts = column.counted.facts
    empty = facts.empties + facts.blanks
    question = "" if facts.blanks or not facts.nulls else "Does an empty text mean the same as null here?"
    if facts.empties:
        message = "empty texts, in quotes" if facts.empties == empty else "empty and blank texts"
        found.findings.append(Finding(Kind.EMPTY_TEXTS, empty, message, question))
    sure = [word for word in words if word.sure]
    unsure = [word for word in words if not word.sure]
    for group, is_sure in ((sure, True), (unsure, False)):
        if not group:
            continue
        group.sort(key=lambda word: -word.cells)
        spelled = [spell_text(word.text) for word in group]
        message = f"{', '.join(spelled)}: {'words' if len(group) > 1 else 'a word'} for null"
        which = spelled[0] if len(group) == 1 else "each of these"
        asked = "" if is_sure else f"Does {which} mean that there is no value?"
        cells = sum(word.cells for word in group)
        found.findings.append(
            Finding(Kind.NULL_WORDS, cells, message, asked, tuple(word.text for word in group))
        )
        anycase = " anycase" if any(word.text.upper() != word.text.lower() for word in group) else ""
        step = f"nullify {', '.join(spelled)} in {column.spelled}{anycase}"
        found.proposals.append(Proposal(Stage.NULLIFY, step, (Kind.NULL_WORDS,), message, asked))
    if empty:
        kinds = (Kind.EMPTY_TEXTS,) if facts.empties else ()
        reason = "blank cells hold nothing" if facts.blanks else "empty texts hold nothing"
        step = f'nullify "" in {column.spelled}'
        found.proposals.append(Proposal(Stage.NULLIFY, step, kinds, reason, question))
    return found
