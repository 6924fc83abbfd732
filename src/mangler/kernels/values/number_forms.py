"""Numbers as people write them: another point, marks between thousands, units; made plain for conversion."""

from __future__ import annotations

from collections.abc import Sequence

import pyarrow.compute as pc

from mangler.blanks import BLANK_CLASS
from mangler.kernels.arrow import from_numpy
from mangler.kernels.text.patterns import escape, matches
from mangler.kernels.text.text_view import Flags, TextArray
from mangler.kernels.text.white_space import trim
from mangler.kernels.values.convert import with_plain_minus
from mangler.late_dataclass import dataclass

FEW = 12
"""Beginnings that are asked for one by one, at most."""


@dataclass(frozen=True)
class NumberForm:
    """`point` is before the places, one of the marks of `grouping` every three digits; `units` are at either end.

    `negatives`: `parentheses` may be around a number below 0, or `trailing` its sign behind it.
    """

    point: str = "."
    grouping: str = ""
    units: tuple[str, ...] = ()
    negatives: str = ""

    @property
    def is_plain(self) -> bool:
        return self == NumberForm()


def plain_numbers(array: TextArray, form: NumberForm) -> tuple[TextArray, Flags]:
    """The texts with a point, without grouping and units; and which of them are no numbers of this form."""
    texts = with_plain_minus(trim(array).array)
    if form.units:
        texts = _without_units(texts, form.units)
    if form.negatives:
        texts = _with_sign_in_front(texts, form.negatives)
        if form.units:  # the unit may be inside
            texts = _without_units(texts, form.units)
    grouping = _grouping(form.grouping)
    point = escape(form.point)
    whole = f"(?:[0-9]{{1,3}}(?:{grouping}[0-9]{{3}})+|[0-9]*)" if grouping else "[0-9]*"
    pattern = f"^[+-]?{whole}(?:{point}[0-9]*)?(?:[eE][+-]?[0-9]+)?$"
    wrong = ~matches(texts, pattern)
    if grouping:
        texts = pc.replace_substring_regex(texts, pattern=grouping, replacement="")
    if form.point != ".":
        texts = pc.replace_substring(texts, pattern=form.point, replacement=".")
    blank = pc.fill_null(pc.equal(pc.binary_length(trim(array).array), 0), True)
    wrong &= ~pc.fill_null(blank, False).to_numpy(zero_copy_only=False)
    return (pc.if_else(from_numpy(wrong), None, texts) if wrong.any() else texts), wrong


BEHIND = {
    "parentheses": (f"^[(][{BLANK_CLASS}]*([^-+()]+?)[{BLANK_CLASS}]*[)]$", r"-\1"),
    "trailing": (f"^([^-+]+?)[{BLANK_CLASS}]*[-\u2212]$", r"-\1"),
}


def _with_sign_in_front(texts: TextArray, negatives: str) -> TextArray:
    pattern, replacement = BEHIND[negatives]
    return pc.replace_substring_regex(texts, pattern=pattern, replacement=replacement)


def _grouping(marks: str) -> str:
    """Any of the marks. Where a space is one, a no-break space or any other blank is too."""
    each = [f"[{BLANK_CLASS}]" if mark == " " else escape(mark) for mark in marks]
    return each[0] if len(each) == 1 else f"(?:{'|'.join(each)})" if each else ""


def _without_units(texts: TextArray, units: Sequence[str]) -> TextArray:
    """A sign may be before a unit in front."""
    names = "|".join(escape(unit) for unit in sorted(units, key=len, reverse=True))
    blanks = f"[{BLANK_CLASS}]*"
    bare = pc.replace_substring_regex(texts, pattern=f"{blanks}(?:{names})$", replacement="")
    # To ask for a few beginnings costs far less than the pattern.
    beginnings = [sign + unit for unit in units for sign in ("", "+", "-")]
    if len(beginnings) <= FEW and not any(pc.any(pc.starts_with(bare, one)).as_py() for one in beginnings):
        return bare
    return pc.replace_substring_regex(bare, pattern=f"^([+-]?)(?:{names}){blanks}", replacement=r"\1")
