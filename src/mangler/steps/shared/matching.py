"""What the verbs that match texts and patterns share: checks, and advice on what they nearly matched."""

from __future__ import annotations

import re

import numpy as np

from mangler.blanks import BLANKS
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.patterns import group_count
from mangler.kernels.text.text_view import cells_at, count_distinct_sorted, view
from mangler.kernels.text.whole import WholeMatch, WholeMatcher
from mangler.language.literals import Text
from mangler.language.mistake import Mistake
from mangler.language.patterns import Pattern
from mangler.language.statement import Statement
from mangler.steps.shared.columnwise import note_examples, such_as
from mangler.table.tally import Tally


def without_outer_blanks(text: str) -> str:
    """White space around whole cells is ignored, so it is in what they are compared with."""
    return text.strip(BLANKS)


def whole_matcher(statement: Statement) -> WholeMatcher:
    """What whole cells are compared with: the texts and patterns that a statement starts with."""
    matchers: tuple[Text | Pattern, ...] = statement.values["matchers"]
    return WholeMatcher(
        tuple(without_outer_blanks(item.value) for item in matchers if isinstance(item, Text)),
        tuple(item.re2 for item in matchers if isinstance(item, Pattern)),
        statement.has("anycase"),
    )


def check_groups(pattern: Pattern, template: Text) -> list[Mistake]:
    """The new text of a pattern may only put back groups that the pattern has."""
    count = group_count(pattern.re2)
    for escape in re.findall(r"\\(.?)", template.value, re.DOTALL):
        if escape.isdigit() and escape.isascii():
            if int(escape) <= count:
                continue
            has = "no group" if count == 0 else "one group" if count == 1 else f"{count} groups"
            return [
                Mistake(
                    "unknown-group",
                    f"\\{escape} is put back, and the pattern has {has}",
                    "A group is a part of the pattern in round brackets; \\0 is the whole match.",
                    template.span,
                )
            ]
        if escape != "\\":
            return [
                Mistake(
                    "unknown-group",
                    f"\\{escape} is not a group",
                    "In the new text of a pattern \\0 to \\9 are groups and \\\\ is a backslash; single quotes take"
                    " backslashes as they are.",
                    template.span,
                )
            ]
    return []


def uses_ascii_classes(matcher: Text | Pattern) -> bool:
    """Whether a pattern has `\\w`, `\\d` or `\\b`, which know only the letters and digits of ASCII."""
    return isinstance(matcher, Pattern) and bool(re.search(r"(?<!\\)(?:\\\\)*\\[wWdDbB]", matcher.body))


def count_beyond_ascii(column: ColumnArray, tally: Tally) -> None:
    """Counts cells with letters outside ASCII, as far as the first hundred such cells show them."""
    cells = view(column)
    wide = np.flatnonzero(cells.data >= 0xC3)
    if not len(wide):
        return
    at = cells_at(cells.offsets, wide)
    chosen = at[np.append(True, at[1:] != at[:-1])]
    if cells.valid is not None:
        chosen = chosen[cells.valid[chosen]]
    texts = [column[int(index)].as_py() for index in chosen[:100]]
    if any(c.isalpha() and not c.isascii() for text in texts for c in text):
        tally.counts["cells_beyond_ascii"] += count_distinct_sorted(chosen)


def count_misses(tally: Tally, column: ColumnArray, match: WholeMatch) -> None:
    """Notes the cells that nearly matched as a whole."""
    tally.counts["missed_by_case"] += int(np.count_nonzero(match.by_case))
    tally.counts["missed_by_space"] += int(np.count_nonzero(match.by_space))
    note_examples(tally, column, match.by_case | match.by_space)


def advise_on_misses(tally: Tally) -> list[str]:
    advice = []
    if tally.counts["missed_by_case"]:
        advice.append(
            f"{_cells(tally.counts['missed_by_case'])} left that would match in another letter case{such_as(tally)};"
            " anycase takes them too"
        )
    if tally.counts["missed_by_space"]:
        advice.append(
            f"{_cells(tally.counts['missed_by_space'])} left that would match except for white space{such_as(tally)};"
            " trim … squeeze before this step"
        )
    if count := tally.counts["cells_beyond_ascii"]:
        advice.append(
            f"{_cells(count)} with letters beyond a to z, which \\w, \\d and \\b do not know;"
            " \\p{L} is any letter"
        )
    return advice


def _cells(count: int) -> str:
    return f"{count:,} {'cell' if count == 1 else 'cells'}"
