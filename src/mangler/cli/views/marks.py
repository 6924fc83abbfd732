"""Two versions of a cell with their differences marked in place, to be distinguished without colour too."""

from __future__ import annotations

from collections.abc import Sequence

from rich.text import Text

from mangler.cli.views.alignment import align
from mangler.cli.views.cells import NULL, visible_cells

LEFT, RIGHT = ("⟨", "⟩"), ("⟦", "⟧")
"""Around what only the first of two versions has, and around what only the second has."""
LEFT_STYLE, RIGHT_STYLE = "bold red", "bold green"
CONTEXT = 14
"""Characters shown on either side of a difference in a long cell."""
LONGEST_DIFFERENCE = 60


def marked(first: str | None, second: str | None) -> tuple[Text, Text]:
    """Both versions, each with the marks of what the other lacks; equal ones bear none."""
    if first == second:
        return _whole(first, None, ""), _whole(second, None, "")
    if not first or not second:
        return _whole(first, LEFT, LEFT_STYLE), _whole(second, RIGHT, RIGHT_STYLE)
    stretches = align(first, second)
    ours = [(a, b, not equal) for a, b, _, _, equal in stretches]
    theirs = [(a, b, not equal) for _, _, a, b, equal in stretches]
    return _pieces(first, ours, LEFT, LEFT_STYLE), _pieces(second, theirs, RIGHT, RIGHT_STYLE)


def removed(value: str | None) -> Text:
    """A cell that is gone as a whole."""
    return _whole(value, LEFT, LEFT_STYLE)


def come(value: str | None) -> Text:
    """A cell that is new as a whole."""
    return _whole(value, RIGHT, RIGHT_STYLE)


def marked_at(value: str, spans: Sequence[tuple[int, int]], most: int) -> Text:
    """A cell with these stretches marked as removed, up to so many of them; what follows is left out."""
    stretches, at = [], 0
    for start, end in spans[:most]:
        stretches += [(at, start, False), (start, end, True)]
        at = end
    stretches.append((at, len(value) if len(spans) <= most else at, False))
    text = _pieces(value, stretches, LEFT, LEFT_STYLE, CONTEXT * 2)
    if len(spans) > most:
        text.append("…", style="dim")
    return text


def _whole(value: str | None, marks: tuple[str, str] | None, style: str) -> Text:
    if value:
        stretches = [(0, len(value), marks is not None)]
        return _pieces(value, stretches, marks or LEFT, style)
    text = Text()
    spelled = NULL if value is None else '""'
    if marks is None:
        text.append(spelled, style="dim")
    else:
        text.append(f"{marks[0]}{spelled}{marks[1]}", style=style)
    return text


def _pieces(
    value: str,
    stretches: list[tuple[int, int, bool]],
    marks: tuple[str, str],
    style: str,
    context: int = CONTEXT,
) -> Text:
    """The cell with its stretches marked; what is equal is cut down to the surroundings of a difference."""
    spelled = visible_cells(value)
    text = Text()
    last = len(stretches) - 1
    for index, (start, end, differs) in enumerate(stretches):
        if start == end:
            continue
        if differs:
            text.append(marks[0], style=style)
            inner = spelled[start:end]
            if not value[start:end].strip(" "):  # a space that is itself the difference is worth seeing
                inner = [("·", True)] * (end - start)
            _append(text, inner, LONGEST_DIFFERENCE, LONGEST_DIFFERENCE, style)
            text.append(marks[1], style=style)
        else:
            _append(text, spelled[start:end], context * (index > 0), context * (index < last), "")
    return text


def _append(text: Text, pieces: list[tuple[str, bool | None]], left: int, right: int, style: str) -> None:
    """Adds spelled characters, the middle of a long stretch left out; a stretch that is all there is has no sides."""
    if left == right == 0:
        left, right = CONTEXT * 2, CONTEXT
    cut = len(pieces) > left + right + 1
    kept = [*pieces[:left], ("…", None), *(pieces[-right:] if right else [])] if cut else pieces
    for character, matters in kept:
        text.append(character, style=style or ("dim" if matters is None else "cyan" if matters else ""))
