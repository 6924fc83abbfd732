"""Replacing texts and patterns inside cells, several in one pass.

Leftmost match first; at one place the longest text wins, then patterns in their order; what was put in is not
looked at again.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.blanks import BLANKS
from mangler.kernels import compiled
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.dictionary import as_dictionary, few_values
from mangler.kernels.text.growth import refuse_beyond
from mangler.kernels.text.patterns import (
    escape,
    flags_of,
    group_count,
    matches,
    per_distinct,
    refuse_too_much_work,
    values_recur,
)
from mangler.kernels.text.text_view import (
    Flags,
    TextArray,
    TooLargeError,
    view,
    with_text,
)
from mangler.kernels.text.whole import Codes, WholeMatcher
from mangler.late_dataclass import dataclass

MOST_GROUPS = 9
"""Groups that RE2's replacement can refer to; several patterns in one statement share them."""

# Marks put round the matches of a pass that has several replacements. Unicode sets these code points aside
# for a program's own use; cells that hold them all the same are met by choosing others.
NONCHARACTERS = [chr(code) for code in range(0xFDD0, 0xFDF0)]


@dataclass(frozen=True)
class Swap:
    """One pair: a text or a pattern, and what is put in its place.

    `replacement` is plain for a text; for a pattern `\\0` to `\\9` in it are groups and `\\\\` a backslash.
    """

    match: str
    replacement: str
    is_pattern: bool


def replace(
    array: TextArray, swaps: Sequence[Swap], anycase: bool, which: str = "all"
) -> tuple[TextArray, int]:
    """The column with the matches replaced, and how many cells changed. `which`: `all`, `first` or `last`."""
    if (
        compiled.texts is not None
        and which == "all"
        and not (anycase or any(swap.is_pattern for swap in swaps))
    ):
        few = in_few_values(array)
        return _compiled(array, swaps) if few is None else _replace_encoded(array, few, swaps, anycase, which)
    if len(swaps) == 1 and not swaps[0].is_pattern and not anycase and which != "last":
        return _replace_text(array, swaps[0], which)
    if values_recur(array):
        return _replace_encoded(array, as_dictionary(array), swaps, anycase, which)
    hit = finds(array, swaps, anycase)
    hits = int(np.count_nonzero(hit))
    if not hits:
        return array, 0
    if hits > len(array) // 2:
        out = _replace_in(array, swaps, anycase, which)
    else:
        changed_cells = _replace_in(array.take(from_numpy(np.flatnonzero(hit))), swaps, anycase, which)
        _refuse_too_large(view(array).data.nbytes + view(changed_cells).data.nbytes)
        out = pc.replace_with_mask(array, from_numpy(hit), changed_cells)
    changed = int(np.count_nonzero(flags_of(pc.not_equal(array, out))))
    return (out, changed) if changed else (array, 0)


def _compiled(array: TextArray, swaps: Sequence[Swap]) -> tuple[TextArray, int]:
    """Texts by texts, in one pass."""
    assert compiled.texts is not None
    pairs = [(swap.match.encode(), swap.replacement.encode()) for swap in order(swaps)]
    texts, others = [text for text, _ in pairs], [other for _, other in pairs]

    def check(size: int) -> None:
        if size > SOME:
            _refuse_too_large(size)

    found = compiled.texts.replaced(array, texts, others, check)
    if found is None:
        return array, 0
    content, offsets, changed = found
    return with_text(array, content, offsets), changed


def in_few_values(array: TextArray) -> ColumnArray | None:
    """The column as its values, where each is in several cells and to find them costs little."""
    few = few_values(array)
    return few if few is not None and len(few.dictionary) * SEVERAL < len(array) else None


SEVERAL = 16
"""Cells that have a value on the average, for looking at values to cost less."""


def _replace_encoded(
    array: TextArray, encoded: ColumnArray, swaps: Sequence[Swap], anycase: bool, which: str
) -> tuple[TextArray, int]:
    """Each distinct value once; what is costly is the finding, not the taking."""
    values = encoded.dictionary
    changed_cells, changed = replace(values, swaps, anycase, which)
    if not changed:
        return array, 0
    differs = np.append(flags_of(pc.not_equal(values, changed_cells)), False)
    codes = np.asarray(encoded.indices.fill_null(len(values)))
    counts = np.bincount(codes, minlength=len(differs))
    lengths = np.append(view(changed_cells).lengths, 0).astype(np.int64)
    _refuse_too_large(int((lengths * counts).sum()))
    return changed_cells.take(encoded.indices), int(counts[differs].sum())


def _replace_text(array: TextArray, swap: Swap, which: str) -> tuple[TextArray, int]:
    """One text by another: a cell that holds it is changed for certain, so none need be compared."""
    if swap.match == swap.replacement or not occurs(array, swap.match):
        return array, 0
    out = _replace_one(array, swap, False, 1 if which == "first" else None)
    if len(swap.match.encode()) != len(swap.replacement.encode()):
        before = view(array)
        hit = before.only_valid(before.lengths != view(out).lengths)
    else:
        hit = flags_of(pc.match_substring(array, pattern=swap.match))
    changed = int(np.count_nonzero(hit))
    return (out, changed) if changed else (array, 0)


def _replace_in(array: TextArray, swaps: Sequence[Swap], anycase: bool, which: str) -> TextArray:
    # Of a limited number of matches Arrow holds each against the pattern again, alone: ^ and \B would see no context.
    if len(swaps) == 1 and (which == "all" or (which == "first" and not swaps[0].is_pattern)):
        return _replace_one(array, swaps[0], anycase, 1 if which == "first" else None)
    return _replace_marked(array, swaps, anycase, which)


def finds(array: TextArray, swaps: Sequence[Swap], anycase: bool) -> Flags:
    """Whether any of the swaps has a match in each cell; off for nulls."""
    if len(swaps) > 1 or swaps[0].is_pattern:
        pattern = _alternation(swaps, anycase)
        return per_distinct(array, lambda values: matches(values, pattern))
    text = swaps[0].match
    if not anycase and not occurs(array, text):
        return np.zeros(len(array), np.bool_)
    return flags_of(pc.match_substring(array, pattern=text, ignore_case=anycase))


def occurs(array: TextArray, text: str) -> bool:
    """Whether the text's bytes are anywhere in the column, also across the border of two cells."""
    return text.encode() in view(array).data.tobytes()


def _replace_one(array: TextArray, swap: Swap, anycase: bool, most: int | None) -> TextArray:
    if not swap.is_pattern and not anycase:
        _bound_growth(array, escape(swap.match), len(swap.replacement.encode()))
        return pc.replace_substring(
            array, pattern=swap.match, replacement=swap.replacement, max_replacements=most
        )
    pattern = swap.match if swap.is_pattern else f"(?i){escape(swap.match)}"
    refuse_too_much_work(array, pattern)
    template = swap.replacement if swap.is_pattern else swap.replacement.replace("\\", "\\\\")
    _bound_growth(array, pattern, len(template.encode()), "\\" in swap.replacement and swap.is_pattern)
    return pc.replace_substring_regex(array, pattern=pattern, replacement=template, max_replacements=most)


# Several in one pass: one pattern marks every match and says which swap it is; then each swap fills its own.


def order(swaps: Sequence[Swap]) -> list[Swap]:
    """Texts, longest first, then patterns as they come."""
    texts = [swap for swap in swaps if not swap.is_pattern]
    return sorted(texts, key=lambda swap: -len(swap.match)) + [swap for swap in swaps if swap.is_pattern]


def groups_needed(swaps: Sequence[Swap]) -> int:
    """Groups that marking these swaps takes: one for all texts, one a pattern and each of its own."""
    texts = any(not swap.is_pattern for swap in swaps)
    return texts + sum(1 + group_count(swap.match) for swap in swaps if swap.is_pattern)


def _alternation(swaps: Sequence[Swap], anycase: bool) -> str:
    texts = [escape(swap.match) for swap in order(swaps) if not swap.is_pattern]
    case = "(?i:" if anycase else "(?:"
    parts = [f"({case}{'|'.join(texts)}))"] if texts else []
    parts += [f"({swap.match})" for swap in swaps if swap.is_pattern]
    return "|".join(parts)


def _replace_marked(array: TextArray, swaps: Sequence[Swap], anycase: bool, which: str) -> TextArray:
    opening, between, closing, chosen = _free_marks(array, swaps)
    pattern = _alternation(swaps, anycase)
    refuse_too_much_work(array, pattern)
    count = groups_needed(swaps)
    fields = between.join(f"\\{n}" for n in range(count + 1))
    _bound_growth(array, pattern, (count + 2) * 3, refers=True, copies=count + 1)
    marked = pc.replace_substring_regex(array, pattern=pattern, replacement=f"{opening}{fields}{closing}")
    if which != "all":
        marked = _unmark_all_but_one(marked, which, opening, between, closing, chosen)
    any_field = f"([^{between}{closing}]*)"
    group = 1
    texts = [swap for swap in order(swaps) if not swap.is_pattern]
    if texts:
        rest = (between + any_field) * (count - 1)
        for swap in texts:
            case = "(?i)" if anycase else ""
            spelled = escape(swap.match)
            found = f"{case}{opening}{any_field}{between}{spelled}{rest}{closing}"
            template = swap.replacement.replace("\\", "\\\\")
            marked = pc.replace_substring_regex(marked, pattern=found, replacement=template)
        group = 2
    for swap in (swap for swap in swaps if swap.is_pattern):
        own = group_count(swap.match)
        # The pattern's group is not empty: what matches the empty text is refused when the recipe is read.
        before = f"{between}(?:)" * (group - 1)
        inner = (between + any_field) * own
        after = f"{between}[^{between}{closing}]*" * (count - group - own)
        found = (
            f"{opening}[^{between}{closing}]*{before}{between}([^{between}{closing}]+){inner}{after}{closing}"
        )
        marked = pc.replace_substring_regex(
            marked, pattern=found, replacement=_shift_groups(swap.replacement)
        )
        group += 1 + own
    return marked


def _shift_groups(template: str) -> str:
    """`\\0` of a pattern's replacement is the first group of the marked text, `\\1` the second, and so on."""
    out, offset = [], 0
    while offset < len(template):
        following = template[offset + 1 : offset + 2]
        if template[offset] == "\\" and following.isdigit():
            out.append(f"\\{int(following) + 1}")
            offset += 2
        elif template[offset] == "\\":
            out.append(template[offset : offset + 2])
            offset += 2
        else:
            out.append(template[offset])
            offset += 1
    return "".join(out)


def _unmark_all_but_one(
    marked: TextArray, which: str, opening: str, between: str, closing: str, chosen: str
) -> TextArray:
    """Matches but the first or the last of each cell become their own text again."""
    around = (
        f"(?s)^(.*){opening}([^{opening}]*)$" if which == "last" else f"(?s)^([^{opening}]*){opening}(.*)$"
    )
    one = pc.replace_substring_regex(marked, pattern=around, replacement=f"\\1{chosen}\\2")
    others = pc.replace_substring_regex(
        one,
        pattern=f"{opening}([^{between}{closing}]*){between}[^{closing}]*{closing}",
        replacement="\\1",
    )
    return pc.replace_substring(others, pattern=chosen, replacement=opening)


def _free_marks(array: TextArray, swaps: Sequence[Swap]) -> list[str]:
    """Four characters that are in no cell and in no replacement."""
    said = "".join(swap.match + swap.replacement for swap in swaps)
    free = [mark for mark in NONCHARACTERS if mark not in said and not occurs(array, mark)]
    if len(free) < 4:
        raise TooLargeError("cells hold nearly every code point that Unicode sets aside for programs")
    return free[:4]


def _bound_growth(
    array: TextArray, pattern: str, replacement: int, refers: bool = False, copies: int = 1
) -> None:
    """Refuses, before the work, a replacement that could grow the column past its offsets."""
    size = view(array).data.nbytes
    if size * (1 + replacement + refers * copies) <= SOME:
        return
    counts = pc.count_substring_regex(array, pattern=pattern)
    grown = int(pc.sum(counts).as_py() or 0) * replacement + size * (1 + refers * copies)
    _refuse_too_large(grown)


def _refuse_too_large(size: int) -> None:
    refuse_beyond(size, "these cells with what is put in")


SOME = 64 << 20
"""Bytes up to which occurrences need not be counted before they are replaced."""


def replace_whole(
    array: TextArray, codes: Codes, templates: Sequence[str], matcher: WholeMatcher
) -> tuple[TextArray, int]:
    """Matched cells become the template of what they matched, a pattern's groups filled in."""
    hit = codes >= 0
    if not hit.any():
        return array, 0
    where = np.flatnonzero(hit)
    chosen = codes[where]
    fillers = pa.array(templates[: len(matcher.texts)], pa.string())
    pieces = fillers.take(from_numpy(np.where(chosen < len(fillers), chosen, 0))) if len(fillers) else None
    if matcher.patterns:
        trimmed = pc.utf8_trim(array.take(from_numpy(where)), characters=BLANKS)
        out = trimmed if pieces is None else pc.if_else(from_numpy(chosen < len(fillers)), pieces, trimmed)
        for number, pattern in enumerate(matcher.patterns, len(fillers)):
            own = pa.array(chosen == number)
            filled = pc.replace_substring_regex(
                trimmed, pattern=f"\\A(?:{pattern})\\z", replacement=templates[number]
            )
            out = pc.if_else(own, filled, out)
        pieces = out
    changed_cells = pc.replace_with_mask(array, from_numpy(hit), pieces)
    changed = int(np.count_nonzero(flags_of(pc.not_equal(array, changed_cells))))
    return (changed_cells, changed) if changed else (array, 0)
