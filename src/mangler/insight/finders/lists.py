"""Several values in one cell: the mark between them, how many there are, and pairs among them."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.insight.columns.column import Column
from mangler.insight.columns.content import Content, content_of, merged
from mangler.insight.columns.finding import Finding, Found, Kind, Proposal, Stage
from mangler.insight.columns.null_usage import ALWAYS, KNOWN, WEAK
from mangler.insight.columns.shape_kinds import MACHINE
from mangler.insight.finders.pairs import find_pairs, pair_marks
from mangler.kernels.text.delimiters import Delimiters
from mangler.kernels.text.parts import cut
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.text.text_view import Flags, Positions, TextArray
from mangler.language.spelling import spell_text
from mangler.late_dataclass import dataclass

STRONG = (";", "|")
"""Marks that are in few other places than between values."""
OTHERS = (",", "/", "&", "+", "\n")
LEAST_SHARE = {True: 0.08, False: 0.2}
"""Share of the cells in which a mark must be, a strong one or another."""
LEAST_DISTINCT = 3
"""Different cells with the mark, for parts to be seen to recur."""
RECURRING = 0.62
"""Different parts by all parts, at most, where parts recur."""
SHORT_PARTS = 3.0
"""Words of a part, on average; longer ones are sentences."""
LONGEST_PART = 60
MOST_TEXTS = 20_000
OWN_MARKS = r"^[a-zA-Z][a-zA-Z0-9+.\-]*://|^[./~]?/|^[A-Za-z]:\\|^[{\[<]|</|^\d+/\d+$"
IN_BRACKETS = r"\([^()]*[,;|][^()]*\)"
NEARLY_ALWAYS = 0.95
LEAST_CELLS = 4
MANY_TEXTS = 8
"""Different cells, for a slash in every one of them to be no part of a word."""
MOST_FIXED_PARTS = 8


@dataclass(frozen=True)
class ListColumn:
    """`mark` is between the parts; so many of them are in a cell, least, most and most often."""

    mark: str
    least: int
    usual: int
    most: int
    parts: Content
    pair_marks: tuple[str, ...] = ()
    """What is between name and value, where the parts are pairs."""

    @property
    def names(self) -> Content:
        """The parts; of pairs only what is before the mark."""
        if not self.pair_marks:
            return self.parts
        marks = "".join(f"\\x{{{ord(mark):X}}}" for mark in self.pair_marks)
        return content_of(
            pc.replace_substring_regex(self.parts.texts, f" ?[{marks}].*$", ""), self.parts.counts
        )


@dataclass(frozen=True)
class _Cut:
    """The cells that have a mark, cut at it."""

    mark: str
    texts: Content
    parts: Content
    """All parts of these cells."""
    each: TextArray
    """The same one by one; `owner` says which text each is of."""
    owner: Positions
    counts: np.ndarray[tuple[int], np.dtype[np.int64]]
    """Parts of each text."""
    share: float
    recurrence: float
    words: float
    empties: int
    """Cells with an empty part."""


def find_lists(column: Column) -> tuple[Found, ListColumn | None]:
    """The mark that most cells have, if what is between is values and no prose."""
    said, found = column.everything.without(column.sure_words), Found()
    if (
        said.cells < 2
        or said.share_of(MACHINE) >= 0.6
        or column.of_codes
        or column.is_free_text
        or _have_own_marks(said)
    ):
        return found, None
    for marks in (STRONG, OTHERS):
        cuts = [one for mark in marks if (one := _cut(said, mark)) is not None and _is_list(said, one)]
        if cuts:
            best = max(cuts, key=lambda one: one.share)
            return _told(column, said, best)
    pairs, _ = find_pairs(column, said, said, "")
    return pairs, None


def _have_own_marks(said: Content) -> bool:
    """Whether the cells are addresses of pages, paths of files, tagged text or objects, whose marks are their own."""
    if said.cells_of(said.matching(OWN_MARKS)) * 2 > said.cells:
        return True
    return (
        said.cells_of(said.matching(IN_BRACKETS)) * 10 > said.cells
    )  # arguments of a call, not parts of a list


def _cut(said: Content, mark: str) -> _Cut | None:
    """None where the mark is in too few cells."""
    has = flags_of(pc.match_substring(said.texts, pattern=mark))
    cells = said.cells_of(has)
    share = cells / said.cells
    if cells < 2 or share < LEAST_SHARE[mark in STRONG]:
        return None
    texts = said.where(has)
    if len(texts) > MOST_TEXTS:
        some = np.zeros(len(texts), np.bool_)
        some[np.linspace(0, len(texts) - 1, MOST_TEXTS).astype(np.int64)] = True
        texts = texts.where(some)
    parts = cut(texts.texts, Delimiters((mark,)), trim=True, drop_empty=False)
    owner = parts.owners()
    each = parts.all_texts()
    filled = np.asarray(pc.not_equal(each, ""))
    once = merged(each, np.ones(len(each), np.int64))
    weighted = merged(each, texts.counts[owner])
    counts = np.bincount(owner, minlength=len(texts)).astype(np.int64)
    empties = int(texts.counts[np.unique(owner[~filled])].sum())
    total = int(filled.sum())
    spaces = np.asarray(pc.count_substring(once.texts, pattern=" "))
    words = float(((spaces + 1) * once.counts).sum() / max(total, 1))
    return _Cut(mark, texts, weighted, each, owner, counts, share, len(once) / max(total, 1), words, empties)


def _is_list(said: Content, one: _Cut) -> bool:
    if one.words > SHORT_PARTS or not len(one.parts):
        return False
    if float(np.average(np.asarray(pc.utf8_length(one.parts.texts)))) > LONGEST_PART:
        return False
    if len(one.texts) >= LEAST_DISTINCT and (one.recurrence <= RECURRING or pair_marks(one.parts)):
        return True
    if one.mark in STRONG and len(one.texts) >= 2:
        return one.words <= 2 or (one.share >= 0.5 and one.words < SHORT_PARTS)
    fixed = int(one.counts.min()) == int(one.counts.max()) <= MOST_FIXED_PARTS
    if one.mark == "\n" or not fixed or one.words > 2 or one.share < NEARLY_ALWAYS:
        return False
    return len(one.texts) >= (MANY_TEXTS if one.mark == "/" else LEAST_DISTINCT) and said.cells >= LEAST_CELLS


def _told(column: Column, said: Content, one: _Cut) -> tuple[Found, ListColumn]:
    found = Found()
    spelled = spell_text(one.mark)
    cells, least, usual, most = _part_counts(column, said, one)
    parts = _all_parts(said, one)
    message = f"{spelled} separates {least} to {most} parts, usually {usual}"
    if least == most:
        message = f"{spelled} separates {most} parts in every cell"
    pairs, marks = find_pairs(column, parts, said, one.mark)
    question = "" if marks else "Should each part have a row of its own, or a column?"
    found.findings.append(
        Finding(Kind.LISTS, cells, message, question, tuple(text for text, _ in one.texts.most(3)))
    )
    _tidy(column, said, one, parts, found)
    found.add(pairs)
    if not marks:
        columns = f"split {column.spelled} at {spelled} into columns{f' {most}' if least == most else ''}"
        rows = f"split {column.spelled} at {spelled} into rows"
        by_columns = least == most or one.mark == "/"
        for step in (columns, rows) if by_columns else (rows, columns):
            found.proposals.append(Proposal(Stage.SPLIT, step, (Kind.LISTS,), message, question, cells))
    return found, ListColumn(one.mark, least, usual, most, parts, marks)


def _part_counts(column: Column, said: Content, one: _Cut) -> tuple[int, int, int, int]:
    """Cells with the mark, and the least, usual and most parts of a cell."""
    counts = column.counted.facts.parts.get(one.mark)
    if counts is not None and not column.counted.values.exact:
        return (
            counts.total() - counts[1],
            min(counts),
            max(counts, key=lambda n: (counts[n], -n)),
            max(counts),
        )
    without = one.share < 1.0
    each = np.append(one.counts, 1) if without else one.counts
    weights = np.append(one.texts.counts, said.cells - one.texts.cells) if without else one.texts.counts
    usual = int(np.bincount(each, weights).argmax())
    return one.texts.cells, int(each.min()), usual, int(each.max())


def _all_parts(said: Content, one: _Cut) -> Content:
    """The parts of cells that have the mark, and the cells that have it not."""
    has = flags_of(pc.match_substring(said.texts, pattern=one.mark))
    if has.all():
        return one.parts
    rest = said.where(~has)
    return merged(
        pa.concat_arrays([one.parts.texts, rest.texts]), np.concatenate([one.parts.counts, rest.counts])
    )


def _tidy(column: Column, said: Content, one: _Cut, parts: Content, found: Found) -> None:
    """A step for lists whose marks have different spaces around them, empty parts, or words for null."""
    if one.mark in ("/", "&", "+", "\n"):
        return
    spaced = _spacing(one)
    words = [text for text in parts.values if text.upper().lower() in ALWAYS]
    asked = [text for text in parts.values if text.upper().lower() in (KNOWN | WEAK) - ALWAYS]
    irregular = len(spaced) > 1
    if not (irregular or one.empties or words or asked):
        return
    usual = max(spaced, key=lambda style: spaced[style])
    if (
        2 * spaced.get(f"{one.mark} ", 0) >= spaced[usual]
    ):  # of ways about as frequent the one that reads well
        usual = f"{one.mark} "
    reasons = [f"spaces around {spell_text(one.mark)} vary"] * irregular
    reasons += [f"empty parts in {one.empties:,} {'cell' if one.empties == 1 else 'cells'}"] * bool(
        one.empties
    )
    spelled = [spell_text(word) for word in words]
    reasons += [f"{', '.join(spelled)} among the parts"] * bool(words)
    step = f"clean list {column.spelled} at {spell_text(one.mark)}"
    if usual != one.mark:
        step += f" with {spell_text(usual)}"
    if words:
        found.findings.append(_words_told(said, one, words, ""))
    if asked:
        which = spell_text(asked[0]) if len(asked) == 1 else "each of these"
        question = f"Does {which} mean that there is no value?"
        told = _words_told(said, one, asked, question)
        found.findings.append(told)
        own = f"{step}{_without(asked)}"
        found.proposals.append(Proposal(Stage.LISTS, own, (Kind.NULL_WORDS,), told.message, question))
    if not (irregular or one.empties or words):
        return
    step += _without(words)
    fixed = int(one.counts.min()) == int(one.counts.max()) and not words
    if one.empties and fixed:
        return  # places count there: an empty part is one that is missing
    kinds = (Kind.LISTS, *((Kind.NULL_WORDS,) if words else ()))
    found.proposals.append(Proposal(Stage.LISTS, step, kinds, "; ".join(reasons)))


def _without(words: list[str]) -> str:
    """The clause that leaves out these parts; empty where there are none."""
    if not words:
        return ""
    anycase = " anycase" if any(word.lower() != word.upper() for word in words) else ""
    return f" without {', '.join(map(spell_text, words))}{anycase}"


def _words_told(said: Content, one: _Cut, words: list[str], question: str) -> Finding:
    """Words for null among the parts, with the cells that have them."""
    among = one.owner[flags_of(pc.is_in(one.each, value_set=pa.array(words)))]
    alone = flags_of(pc.is_in(said.texts, value_set=pa.array(words)))
    cells = int(one.texts.counts[np.unique(among)].sum()) + said.cells_of(alone)
    message = f"{', '.join(map(spell_text, words))} among the parts of lists: words for null"
    return Finding(Kind.NULL_WORDS, cells, message, question, tuple(words))


def _spacing(one: _Cut) -> dict[str, int]:
    """How the mark is written, with the cells of each way: `;`, `; ` and ` ; `."""
    ways: dict[str, int] = {}
    escaped = f"\\x{{{ord(one.mark):X}}}"
    for before in ("", " "):
        for after in ("", " "):
            pattern = f"{before or '(?:^|[^ ])'}{escaped}{after or '(?:[^ ]|$)'}"
            hits: Flags = one.texts.matching(pattern)
            if hits.any():
                ways[f"{before}{one.mark}{after}"] = one.texts.cells_of(hits)
    return ways or {one.mark: 0}
