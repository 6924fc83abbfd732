"""How a statement cuts cells: its delimiters, and what it does with white space and empty parts."""

from __future__ import annotations

import re
from collections import Counter
from itertools import pairwise
from typing import TYPE_CHECKING, Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.blanks import BLANKS
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.delimiters import Delimiters, find
from mangler.kernels.text.left_behind import left_by_case, left_by_case_anywhere
from mangler.kernels.text.parts import Numbers, Parts, cut
from mangler.kernels.text.patterns import flags_of, matches_empty_text, problem_of
from mangler.kernels.text.replace import Swap
from mangler.kernels.text.text_view import Flags
from mangler.language.literals import Number, Text
from mangler.language.mistake import Mistake
from mangler.language.parts import Delimiter
from mangler.language.patterns import Pattern
from mangler.language.spelling import spell_text
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.columnwise import note_examples
from mangler.steps.shared.matching import advise_on_misses, count_beyond_ascii, uses_ascii_classes
from mangler.table.batch import Batch
from mangler.table.tally import Tally

ONE_BLANK = r"(?:\\[stnrfv]| |\[(?:\\[stnrfv]| )+\])"
BLANK_PATTERN = re.compile(rf"(?:{ONE_BLANK}(?:[+*?]|\{{\d+(?:,\d*)?\}})?)+")
MOST_COUNTS = 4
"""So many different numbers of parts are reported one by one."""

if TYPE_CHECKING:
    from mangler.steps.shared.conditions import Condition


@dataclass(frozen=True)
class Splitter:
    """`trim`: white space around parts goes. `drop_empty`: parts with no characters are none."""

    delimiters: Delimiters
    trim: bool
    drop_empty: bool
    ascii_classes: bool = False
    """Whether a pattern has classes that know only the letters of ASCII."""

    def cut(self, column: ColumnArray) -> Parts:
        return cut(column, self.delimiters, self.trim, self.drop_empty)

    def lists(self, column: ColumnArray) -> list[list[str]]:
        """The parts of each cell."""
        parts = self.cut(column)
        texts, first = parts.all_texts().to_pylist(), parts.first.tolist()
        return [texts[start:end] for start, end in pairwise(first)]

    def spans(self, cell: str) -> list[tuple[int, int]]:
        """Where delimiters are in one cell, in characters."""
        hits = find(pa.array([cell], pa.string()), self.delimiters)
        spelled = cell.encode()
        bounds = zip(hits.starts.tolist(), hits.ends.tolist(), strict=True)
        return [(len(spelled[:start].decode()), len(spelled[:end].decode())) for start, end in bounds]

    def note(self, column: ColumnArray, counts: Numbers, tally: Tally, met: Flags | None = None) -> None:
        """Counts parts, and the cells that nearly hold a delimiter, of the rows met."""
        if met is not None:
            column, counts = column.filter(from_numpy(met)), counts[met]
            assert tally.rows is not None
            tally.rows = tally.rows[met]
        cells = _counted(counts)
        tally.counts["blank_cells"] += cells.pop(0, 0)
        tally.histogram("part_counts").update(cells)
        if self.ascii_classes:
            count_beyond_ascii(column, tally)
        texts = self.delimiters.texts
        if not texts:
            return
        if not self.delimiters.anycase:
            missed = left_by_case(column, [Swap(text, "", False) for text in texts]) & (counts == 1)
            missed |= left_by_case_anywhere(column, texts)
            tally.counts["missed_by_case"] += int(np.count_nonzero(missed))
            note_examples(tally, column, missed)
        missed = self._left_by_space(column, counts)
        tally.counts["missed_by_space"] += int(np.count_nonzero(missed))
        note_examples(tally, column, missed)
        for text in texts:
            if len(text) > 1:
                held = self._held_singly(column, text)
                tally.histogram("held_singly")[text] += int(np.count_nonzero(held))
                tally.histogram("held_whole")[text] += int(
                    pc.sum(pc.match_substring(column, pattern=text)).as_py() or 0
                )

    def _left_by_space(self, column: ColumnArray, counts: Numbers) -> Flags:
        """Cells in one part that hold a delimiter except for the white space around it: `;` where `; ` is asked for."""
        bare = [b for text in self.delimiters.texts if (b := text.strip(BLANKS)) and b != text]
        found = np.zeros(len(counts), np.bool_)
        if not bare:
            return found
        whole = np.flatnonzero(counts == 1)
        cells = column.take(from_numpy(whole))
        for text in bare:
            found[whole] |= flags_of(pc.match_substring(cells, pattern=text))
        return found

    def _held_singly(self, column: ColumnArray, text: str) -> Flags:
        """Cells that hold a character of a delimiter of several."""
        held = np.zeros(len(column), np.bool_)
        for character in dict.fromkeys(text):
            if not character.isalnum() and character not in BLANKS:
                held |= flags_of(pc.match_substring(column, pattern=character))
        return held

    def _told_of_single(self, tally: Tally) -> list[str]:
        """Delimiters of several characters that no cell holds, while cells hold the characters by themselves."""
        messages = []
        whole = tally.histograms.get("held_whole", Counter())
        for text, cells in tally.histograms.get("held_singly", {}).items():
            marks = [mark for mark in dict.fromkeys(text) if not mark.isalnum() and mark not in BLANKS]
            if whole[text] or not cells or len(marks) < 2:
                continue
            each = ", ".join(spell_text(mark) for mark in marks)
            held = "1 cell holds one" if cells == 1 else f"{cells:,} cells hold one"
            messages.append(
                f"no cell holds {spell_text(text)}, and {held} of its characters: at {each} cuts at each of them"
            )
        return messages

    def remarks(self, tally: Tally) -> list[str]:
        counts = tally.histograms.get("part_counts", ())
        messages = ["no cell holds a delimiter: each has one part"] if set(counts) == {1} else []
        return [*messages, *self._told_of_single(tally), *advise_on_misses(tally)]

    def facts(self, tally: Tally) -> list[str]:
        """How many parts cells have, so that nobody counts by eye."""
        counts = tally.histograms.get("part_counts")
        messages = [f"parts per cell: {_spread(counts)}"] if counts else []
        if blank := tally.counts["blank_cells"]:
            messages.append("1 blank cell" if blank == 1 else f"{blank:,} blank cells")
        return messages


class SplitsCells:
    """What `try` asks a step that splits the cells of one column."""

    index: int
    splitter: Splitter
    condition: Condition | None

    def chosen(self, batch: Batch) -> Batch:
        """The rows that the condition is true for."""
        if self.condition is None:
            return batch
        batch, met = self.condition.test(batch, Tally())
        return batch.filter(met)

    def part_counts(self, column: ColumnArray) -> Numbers:
        """How many parts each cell has."""
        return self.splitter.cut(column).counts

    def delimiters_in(self, cell: str) -> list[tuple[int, int]]:
        """Where the delimiters of a cell start and end, in characters."""
        return self.splitter.spans(cell)


def _spread(counts: Any) -> str:
    if len(counts) <= MOST_COUNTS:
        return ", ".join(f"{parts} in {cells:,}" for parts, cells in sorted(counts.items()))
    usual = max(sorted(counts), key=lambda parts: counts[parts])
    return f"{min(counts):,} to {max(counts):,}, most often {usual:,}"


def splitter_of(statement: Statement, drop_empty: bool) -> Splitter:
    """What a statement says; `drop_empty` is what applies to it if it says nothing, and delimiters are no blanks."""
    said: tuple[Delimiter, ...] = statement.values["delimiters"]
    texts = tuple(item.value for item in said if isinstance(item, Text))
    patterns = tuple(item.re2 for item in said if isinstance(item, Pattern))
    trim = not statement.has("untrimmed")
    only_blanks = all(map(is_blank, said))
    which = "first" if statement.has("first") else "last" if statement.has("last") else "all"
    delimiters = Delimiters(
        texts,
        patterns,
        tuple(int(item.value) for item in said if isinstance(item, Number)),
        statement.has("anycase"),
        which,
        statement.has("quoted"),
        inner=only_blanks and trim and which != "all",
    )
    drop = statement.has("drop empty") or (not statement.has("keep empty") and (drop_empty or only_blanks))
    ascii_classes = any(uses_ascii_classes(item) for item in said if not isinstance(item, Number))
    return Splitter(delimiters, trim, drop, ascii_classes)


def _counted(counts: Numbers) -> dict[int, int]:
    """How many cells have each number of parts."""
    if counts.max(initial=0) > len(counts):  # a place for each number would be more than there are cells
        numbers, cells = np.unique(counts, return_counts=True)
        return dict(zip(numbers.tolist(), cells.tolist(), strict=True))
    by_number = np.bincount(counts)
    return {number: int(by_number[number]) for number in np.flatnonzero(by_number).tolist()}


def is_blank(delimiter: Delimiter) -> bool:
    """Whether a delimiter can only be white space."""
    if isinstance(delimiter, Text):
        return not delimiter.value.strip(BLANKS)
    return isinstance(delimiter, Pattern) and bool(BLANK_PATTERN.fullmatch(delimiter.body))


def check_delimiters(delimiters: tuple[Delimiter, ...]) -> list[Mistake]:
    mistakes = []
    for item in delimiters:
        if isinstance(item, Text) and not item.value:
            mistakes.append(
                Mistake(
                    "empty-text",
                    "the empty text is between all characters, so it is no delimiter",
                    "To cut after so many characters write positions: at 2, 5.",
                    item.span,
                )
            )
        elif isinstance(item, Pattern) and not problem_of(item.re2) and matches_empty_text(item.re2):
            mistakes.append(
                Mistake(
                    "empty-pattern",
                    "this pattern matches the empty text, which is between all characters",
                    "Ask for at least one character: + instead of *.",
                    item.span,
                )
            )
    return mistakes
