"""Numbers as people write them: another point, marks between thousands, units; made plain for conversion."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import pyarrow as pa
import pyarrow.compute as pc

from mangler.blanks import BLANK_CLASS
from mangler.kernels.text.patterns import escape, matches
from mangler.kernels.text.text_view import Flags, TextArray
from mangler.kernels.text.white_space import trim
from mangler.kernels.values.convert import with_plain_minus


@dataclass(frozen=True)
class NumberForm:
    """`point` is before the places, `grouping` every three digits; `units` may be at either end."""

    point: str = "."
    grouping: str = ""
    units: tuple[str, ...] = ()

    @property
    def is_plain(self) -> bool:
        return self == NumberForm()


def plain_numbers(array: TextArray, form: NumberForm) -> tuple[TextArray, Flags]:
    """The texts with a point, without grouping and units; and which of them are no numbers of this form."""
    texts = with_plain_minus(trim(array).array)
    if form.units:
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
    return (pc.if_else(pa.array(wrong), None, texts) if wrong.any() else texts), wrong


def _grouping(mark: str) -> str:
    """Where a space is the mark, a no-break space or any other blank is too."""
    return f"[{BLANK_CLASS}]" if mark == " " else escape(mark)


def _without_units(texts: TextArray, units: Sequence[str]) -> TextArray:
    """A sign may be before a unit in front."""
    names = "|".join(escape(unit) for unit in sorted(units, key=len, reverse=True))
    blanks = f"[{BLANK_CLASS}]*"
    bare = pc.replace_substring_regex(texts, pattern=f"{blanks}(?:{names})$", replacement="")
    return pc.replace_substring_regex(bare, pattern=f"^([+-]?)(?:{names}){blanks}", replacement=r"\1")
