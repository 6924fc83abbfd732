"""Two versions of a cell with their differences marked in place, to be told apart without colour too."""

from __future__ import annotations

from collections.abc import Iterator
from difflib import SequenceMatcher

from rich.text import Text

from mangler.cli.cells import NULL, spell

LEFT, RIGHT = ("⟨", "⟩"), ("⟦", "⟧")
"""Around what only the first of two versions has, and around what only the second has."""
LEFT_STYLE, RIGHT_STYLE = "red", "green"
CONTEXT = 14
"""Characters shown on either side of a difference in a long cell."""
LONGEST_DIFFERENCE = 60
LONGEST_COMPARED = 2000
LEAST_ALIKE = 0.4
"""Cells less alike than this are marked as a whole: pieces that agree by chance only confuse."""


def marked(first: str | None, second: str | None) -> tuple[Text, Text]:
    """Both versions, each with the marks of what the other lacks; equal ones bear none."""
    if first == second:
        return _whole(first, None, ""), _whole(second, None, "")
    if not first or not second:
        return _whole(first, LEFT, LEFT_STYLE), _whole(second, RIGHT, RIGHT_STYLE)
    return (
        _pieces(
            first,
            [(a, b, tag != "equal") for tag, a, b, _, _ in _operations(first, second)],
            LEFT,
            LEFT_STYLE,
        ),
        _pieces(
            second,
            [(a, b, tag != "equal") for tag, _, _, a, b in _operations(first, second)],
            RIGHT,
            RIGHT_STYLE,
        ),
    )


def removed(value: str | None) -> Text:
    """A cell that is gone as a whole."""
    return _whole(value, LEFT, LEFT_STYLE)


def come(value: str | None) -> Text:
    """A cell that is new as a whole."""
    return _whole(value, RIGHT, RIGHT_STYLE)


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


def _operations(first: str, second: str) -> list[tuple[str, int, int, int, int]]:
    """What turns the first text into the second: stretches that are equal, gone, new, or exchanged."""
    if len(first) + len(second) > LONGEST_COMPARED:
        return _ends_alike(first, second)
    matcher = SequenceMatcher(None, first, second, autojunk=False)
    operations = [(str(tag), a, b, c, d) for tag, a, b, c, d in matcher.get_opcodes()]
    same = sum(b - a for tag, a, b, _, _ in operations if tag == "equal")
    if same < LEAST_ALIKE * min(len(first), len(second)):
        return _ends_alike(first, second)
    return list(_without_crumbs(operations))


def _ends_alike(first: str, second: str) -> list[tuple[str, int, int, int, int]]:
    """Only what both start and end with is taken as equal."""
    most = min(len(first), len(second))
    start = next((i for i in range(most) if first[i] != second[i]), most)
    end = next((i for i in range(most - start) if first[-1 - i] != second[-1 - i]), most - start)
    if start + end < LEAST_ALIKE * most:
        start = end = 0
    return [
        ("equal", 0, start, 0, start),
        ("replace", start, len(first) - end, start, len(second) - end),
        ("equal", len(first) - end, len(first), len(second) - end, len(second)),
    ]


def _without_crumbs(
    operations: list[tuple[str, int, int, int, int]],
) -> Iterator[tuple[str, int, int, int, int]]:
    """A character or two between exchanged stretches is no common ground."""
    held: tuple[str, int, int, int, int] | None = None
    for index, (tag, a, b, c, d) in enumerate(operations):
        inner = 0 < index < len(operations) - 1
        exchanged = inner and operations[index - 1][0] == "replace" == operations[index + 1][0]
        if tag == "equal" and not (exchanged and b - a <= 2):
            if held:
                yield held
            held = None
            yield tag, a, b, c, d
        else:
            held = ("replace", held[1], b, held[3], d) if held else (tag, a, b, c, d)
    if held:
        yield held


def _pieces(value: str, stretches: list[tuple[int, int, bool]], marks: tuple[str, str], style: str) -> Text:
    """The cell with its stretches marked; what is equal is cut down to the surroundings of a difference."""
    spelled = spell(value)
    text = Text()
    last = len(stretches) - 1
    for index, (start, end, differs) in enumerate(stretches):
        if start == end:
            continue
        if differs:
            text.append(marks[0], style=style)
            _append(text, spelled[start:end], LONGEST_DIFFERENCE, LONGEST_DIFFERENCE, style)
            text.append(marks[1], style=style)
        else:
            _append(text, spelled[start:end], CONTEXT * (index > 0), CONTEXT * (index < last), "")
    return text


def _append(text: Text, pieces: list[tuple[str, bool | None]], left: int, right: int, style: str) -> None:
    """Adds spelled characters, the middle of a long stretch left out; a stretch that is all there is has no sides."""
    if left == right == 0:
        left, right = CONTEXT * 2, CONTEXT
    cut = len(pieces) > left + right + 1
    kept = [*pieces[:left], ("…", None), *(pieces[-right:] if right else [])] if cut else pieces
    for character, matters in kept:
        text.append(character, style=style or ("dim" if matters is None else "cyan" if matters else ""))
