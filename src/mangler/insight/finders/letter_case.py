"""The same value in several letter cases."""

from __future__ import annotations

import re
from collections.abc import Callable

import numpy as np
import pyarrow as pa

from mangler.insight.columns.column import Column
from mangler.insight.columns.content import Content, folded_groups, merged
from mangler.insight.columns.finding import Finding, Found, Kind, Proposal, Stage
from mangler.kernels.text.letter_case import sentence_case, title_case
from mangler.language.spelling import spell_text
from mangler.late_dataclass import dataclass

CASES: dict[str, Callable[[pa.Array], pa.Array]] = {
    "lower": pa.compute.utf8_lower,
    "upper": pa.compute.utf8_upper,
    "title": title_case,
    "sentence": sentence_case,
}
MOST_PAIRS = 12
INNER_CAPITAL = re.compile(r"[a-zà-ÿ][A-ZÀ-Þ]|\b[A-Z]'[A-Z][a-z]")
LONGEST_ACRONYM = 4
MOST_LOOKED_AT = 2_000
SHORT_WORD = 3
"""Letters of a word whose case may be all that tells it from another: units, symbols, levels."""
TOKENS = 0.3
NEARLY_AS_MANY = 1.5
"""Of two spellings with cells in this proportion neither is plainly the usual one."""


@dataclass(frozen=True)
class Variants:
    """Spellings that differ in letter case only, with their cells, and the one to keep."""

    kept: str
    spellings: tuple[tuple[str, int], ...]

    @property
    def others(self) -> int:
        return sum(cells for text, cells in self.spellings if text != self.kept)


def find_letter_case(column: Column, content: Content, in_list: bool) -> tuple[Found, Content]:
    """`content` is what the column says, or the parts of its lists; it comes back with one case a value."""
    found = Found()
    if (column.of_codes or column.is_free_text or _are_tokens(column)) and not in_list:
        return found, content
    codes, _ = folded_groups(content)
    sizes = np.bincount(codes)
    several = np.flatnonzero(sizes[codes] > 1)
    if not len(several):
        return found, content
    style = _style_of(content)
    alone = np.ones(len(content), np.bool_)
    alone[several] = False
    others = content.where(alone & content.matching(r"\p{L}"))
    acronyms = len(set(map(_is_acronym, others.values[:MOST_LOOKED_AT]))) == 2
    everywhere = len(others) >= 2 and _changes_nothing(others, style)
    groups: dict[int, list[tuple[str, int]]] = {}
    for index in several.tolist():
        groups.setdefault(int(codes[index]), []).append((content.values[index], int(content.counts[index])))
    variants = [_variants(spellings, style, everywhere, acronyms) for spellings in groups.values()]
    variants.sort(key=lambda one: -one.others)
    cells = sum(one.others for one in variants)
    shown = "; ".join(
        ", ".join(f"{text} {count:,}" for text, count in one.spellings[:4]) for one in variants[:3]
    )
    more = f" and {len(variants) - 3} more" if len(variants) > 3 else ""
    message = f"the same in several letter cases: {shown}{more}"
    examples = tuple(text for one in variants for text, _ in one.spellings)[:12]
    question = ""
    doubtful = [one for one in variants if _may_differ(one, acronyms)]
    if len(variants) > MOST_PAIRS or len(doubtful) > 1:
        question = "Which spelling is the right one?"
    elif doubtful:
        spelled = " and ".join(spell_text(text) for text, _ in doubtful[0].spellings[:3])
        question = f"Do {spelled} mean the same?"
    found.findings.append(Finding(Kind.LETTER_CASE, cells, message, question, examples))
    step = _step(column, content, variants, style, in_list)
    if step:
        reason = f"the same in several letter cases, {shown}{more}"
        found.proposals.append(Proposal(Stage.SPELLING, step, (Kind.LETTER_CASE,), reason, question))
    kept = {text: one.kept for one in variants for text, _ in one.spellings}
    texts = pa.array([kept.get(text, text) for text in content.values], pa.string())
    return found, merged(texts, content.counts)


def _style_of(content: Content) -> str:
    """The case that most cells are in."""
    with_letters = content.where(content.matching(r"\p{L}"))
    weights = {
        name: int(
            with_letters.counts[
                np.asarray(pa.compute.equal(case(with_letters.texts), with_letters.texts))
            ].sum()
        )
        for name, case in CASES.items()
    }
    return max(weights, key=lambda name: weights[name])


def _variants(spellings: list[tuple[str, int]], style: str, everywhere: bool, acronyms: bool) -> Variants:
    """The spelling of most cells is kept; of two about as frequent that in the column's usual case.

    Where all other values are in that case, `everywhere`, a spelling in it need not be nearly as frequent.
    """
    ordered = sorted(spellings, key=lambda one: -one[1])
    most = ordered[0][1]
    times = NEARLY_AS_MANY * (3 if everywhere else 1)
    near = [text for text, cells in ordered if cells * times >= most]
    inner = [text for text, _ in ordered if _has_inner_capitals(text)]
    if inner:  # made small, or large, it would lose what its writer put in
        return Variants(inner[0], tuple(ordered))
    acronym = next((text for text in near if acronyms and _is_acronym(text)), None)
    if acronym is not None:
        return Variants(acronym, tuple(ordered))
    cased = CASES[style](pa.array(near)).to_pylist()
    kept = next((text for text, one in zip(near, cased, strict=True) if text == one), near[0])
    return Variants(kept, tuple(ordered))


def _has_inner_capitals(text: str) -> bool:
    """Whether a word has capitals inside: McLean, DeVries, iPad."""
    return bool(INNER_CAPITAL.search(text))


def _is_acronym(text: str) -> bool:
    return text.isupper() and text.isalpha() and 2 <= len(text) <= LONGEST_ACRONYM


def _may_differ(one: Variants, acronyms: bool) -> bool:
    """Whether spellings in other letter cases may mean something else: mW and MW, a and A."""
    texts = [text for text, _ in one.spellings]
    letters = max(sum(character.isalpha() for character in text) for text in texts)
    if letters <= 2:
        return True
    if letters <= SHORT_WORD and any(
        not (text.islower() or text.isupper() or text.istitle()) for text in texts
    ):
        return True
    mixed = [text for text in texts if _has_inner_capitals(text)]
    if len(mixed) > 1 or (mixed and one.kept != texts[0]):
        return True  # what is most frequent would lose its writer's capitals, or gain them
    return acronyms and any(map(_is_acronym, texts)) and not _is_acronym(one.kept)


def _are_tokens(column: Column) -> bool:
    """Whether the cells are random letters, nearly each another: their case is part of them."""
    said = column.everything
    if not column.is_unlike:
        return False
    mixed = said.matching(r"^\S*[a-z]\S*[A-Z]\S*$|^\S*[A-Z]\S*[A-Z]\S*[a-z]\S*$")
    return said.cells_of(mixed) >= TOKENS * said.cells


def _step(column: Column, content: Content, variants: list[Variants], style: str, in_list: bool) -> str:
    """A recase where it makes every kept spelling and changes nothing else, or pairs to replace."""
    replaced = {text for one in variants for text, _ in one.spellings if text != one.kept}
    stays = content.where(~np.isin(np.array(content.values, dtype=object), list(replaced)))
    if len(variants) > 1 and _changes_nothing(stays, style):
        return f"recase {column.spelled} {style}"
    if len(variants) > MOST_PAIRS:
        return f"recase {column.spelled} {style}"
    if in_list and any(_stands_in_others(one.kept, content) for one in variants):
        return ""
    pairs = ", ".join(f"{spell_text(one.kept)} with {spell_text(one.kept)}" for one in variants)
    return f"replace {pairs} in {column.spelled} anycase{'' if in_list else ' whole'}"


def _changes_nothing(content: Content, style: str) -> bool:
    return bool(pa.compute.all(pa.compute.equal(CASES[style](content.texts), content.texts)).as_py())


def _stands_in_others(text: str, content: Content) -> bool:
    """Whether a part's text is found inside a longer part too, where replacing would touch it."""
    inside = pa.compute.match_substring(content.folded, pattern=text.upper().lower())
    own = pa.compute.equal(content.folded, text.upper().lower())
    return bool(pa.compute.any(pa.compute.and_not(inside, own)).as_py())
