"""Cells as a person can see them: white space that matters visible, null distinct from empty, long ones cut."""

from __future__ import annotations

from rich.cells import cell_len
from rich.text import Text

from mangler.blanks import BLANKS
from mangler.cli.shown import spelled

NULL = "(null)"
LONGEST_CELL = 40


def visible(value: str | None, longest: int = LONGEST_CELL) -> Text:
    """A cell in one line: `·` for a space at an end or in a run, `→ ↵ ⍽`, any other blank by its code point."""
    if value is None:
        return Text(NULL, style="dim")
    if value == "":
        return Text('""', style="dim")
    plain = len(value) <= longest and value.isascii() and value.isprintable() and "  " not in value
    if plain and value[0] != " " and value[-1] != " ":
        return Text(value)  # as it is: most cells are
    text = Text()
    for character, matters in _cut(value, longest):
        if matters is None:
            text.append(character, style="dim")
        elif matters:
            text.append(character, style="cyan")
        else:
            text.append(character)
    return text


def _cut(value: str, longest: int) -> list[tuple[str, bool | None]]:
    """The spelled characters, those in the middle left out where they are too many; None marks the cut."""
    spelled = visible_cells(value) if len(value) <= 4 * longest else []
    if spelled and sum(cell_len(piece) for piece, _ in spelled) <= longest:
        return spelled
    if not spelled:
        start, end = visible_cells(value[: longest * 2]), visible_cells(value[-longest * 2 :])
    else:
        start = end = spelled
    left = _fitting(start, longest // 2)
    right = _fitting(end[::-1], longest - longest // 2 - 1)[::-1]
    return [*left, ("…", None), *right]


def _fitting(pieces: list[tuple[str, bool | None]], width: int) -> list[tuple[str, bool | None]]:
    taken: list[tuple[str, bool | None]] = []
    for piece in pieces:
        width -= cell_len(piece[0])
        if width < 0:
            break
        taken.append(piece)
    return taken


def visible_cells(value: str) -> list[tuple[str, bool | None]]:
    """How each character of a cell is shown, and whether it is white space that matters."""
    pieces: list[tuple[str, bool | None]] = []
    last = len(value) - 1
    for index, character in enumerate(value):
        if character == " ":
            lone = 0 < index < last and value[index - 1] not in BLANKS and value[index + 1] not in BLANKS
            pieces.append((" ", False) if lone else ("·", True))
        else:
            shown = spelled(character)
            pieces.append((shown, shown != character))
    return pieces
