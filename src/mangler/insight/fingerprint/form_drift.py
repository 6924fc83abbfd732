"""Cells that are written in another way: white space, forms, lengths."""

from __future__ import annotations

from collections import Counter
from math import exp

from mangler.insight.columns.shape_kinds import MACHINE, ShapeKind
from mangler.insight.fingerprint.fingerprint import OTHER_FORMS, ColumnPrint
from mangler.insight.fingerprint.form_words import change_of_forms
from mangler.insight.fingerprint.known import (
    LEAST_LENGTH,
    LEAST_VALUES,
    LIKELY_NEW,
    MOST_SHOWN,
    RARELY,
    UNSEEN,
    Known,
    Told,
    are_words,
    beyond,
    cells_have,
    holds_lists,
    is_closed,
    is_news,
)


def white_space(now: ColumnPrint, known: Known) -> Told | None:
    past = known.past
    if now.spaced is None or past.spaced is None or not now.spaced:
        return None
    if past.spaced:
        highest = max((one.spaced or 0) / max(one.filled, 1) for one in known.runs)
        if not beyond(now.spaced, now.filled, past.spaced, past.filled, highest):
            return None
        message = (
            f"{now.spaced / now.filled:.0%} of the cells have white space at an end, and {highest:.0%} had"
        )
        return Told(message, "spaces")
    if not is_news(now.spaced, now.filled):
        return None
    cells = cells_have(now.spaced, now)
    return Told(f"{cells} white space at an end, and none had; trim takes it off", "spaces")


def written_otherwise(now: ColumnPrint, known: Known) -> Told | None:
    """A column whose forms are known, with cells of another one."""
    past = known.past
    if now.forms is None or past.forms is None:
        return _kinds(now, past)
    before, here = past.forms.cells, now.forms.cells
    if before[OTHER_FORMS] or not _are_all(before, here.total()):
        return _kinds(now, past)
    strange = {form: cells for form, cells in here.items() if not before[form]}
    cells = sum(strange.values())
    if here[OTHER_FORMS]:
        return Told("cells are written in more ways than ever", "forms")
    if not strange or not is_news(cells, here.total()):
        return None
    usual = max(before, key=lambda form: before[form])
    if are_words(usual) and (holds_lists(past) or (past.values is not None and is_closed(now, known))):
        return None  # which values there are says more than how words follow each other
    new = max(strange, key=lambda form: strange[form])
    text = change_of_forms(usual, new, strange[new], past.forms.examples, now.forms.examples)
    return Told(text, f"{usual} {new}")


def _are_all(before: Counter[str], cells: int) -> bool:
    """Whether the forms seen are all there are, as far as can be known."""
    once = sum(count <= 1 for count in before.values())
    kinds = len(before)
    unseen = kinds * exp(-before.total() / max(kinds, 1))
    return unseen <= UNSEEN and once * cells <= LIKELY_NEW * before.total()


KINDS: dict[str, str] = {
    ShapeKind.CODE: "digits that are no number and no date",
    ShapeKind.WORD: "words",
    ShapeKind.MARKS: "marks only",
}
"""How kinds of cells are reported that say little by themselves; others as they are."""


def _kinds(now: ColumnPrint, past: ColumnPrint) -> Told | None:
    """A column of numbers or dates that holds something else, or dates of a form never seen."""
    before = past.written.total()
    machine = [kind for kind in past.written if kind in MACHINE or "%" in kind]
    if sum(past.written[kind] for kind in machine) * 2 < before:
        return None
    strange = {form: cells for form, cells in now.written.items() if not past.written[form]}
    cells = sum(strange.values())
    if not strange or not (cells >= 2 or cells > RARELY * now.filled):
        return None
    shown = ", ".join(
        f"{KINDS.get(form, form)} in {cells:,}" for form, cells in list(strange.items())[:MOST_SHOWN]
    )
    return Told(f"cells are written in a way never seen: {shown}", shown.split(" in ")[0])


def another_length(now: ColumnPrint, known: Known) -> Told | None:
    """Cells of a column in which all had one length, as codes have: zeros in front may be gone, or digits."""
    past = known.past
    if (
        past.shortest is None
        or past.shortest != past.longest
        or (now.shortest, now.longest) == (past.shortest,) * 2
    ):
        return None
    if past.forms is not None and any("%" in form or "." in form for form in past.forms.cells):
        return None  # a number with places, or a date, has the length of its value
    if past.shortest < LEAST_LENGTH or (past.values is not None and len(past.values) < LEAST_VALUES):
        return None
    if past.values is not None and past.forms is not None and all(map(are_words, past.forms.cells)):
        return None  # which words there are says more
    reach = f"{now.shortest}" if now.shortest == now.longest else f"{now.shortest} to {now.longest}"
    return Told(f"cells of {reach} characters, and all had {past.shortest}", f"{past.shortest}")
