"""Habits from elsewhere, met with the form that is right here."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from mangler.language.cursor import Cursor
from mangler.language.literals import TYPOGRAPHIC_QUOTES
from mangler.language.mistake import nearest
from mangler.language.usage import brief_usage, parse_usage

# Words that people try first, and the verb that does it.
OTHER_WORDS = {
    "strip": "trim",
    "clean": "trim",
    "cleanup": "trim",
    "collapse": "trim",
    "substitute": "replace",
    "swap": "replace",
    "remove": "drop columns",
    "delete": "drop columns",
    "select": "keep columns",
    "columns": "keep columns",
    "default": "fill",
    "case": "recase",
    "upper": "recase",
    "lower": "recase",
    "uppercase": "recase",
    "lowercase": "recase",
    "capitalize": "recase",
    "call": "rename",
    "relabel": "rename",
    "null": "nullify",
    "blank": "nullify",
    "na": "nullify",
    "order": "reorder columns",
    "arrange": "reorder columns",
    "move": "reorder columns",
    "load": "read",
    "open": "read",
    "input": "read",
    "save": "write",
    "output": "write",
    "export": "write",
    "expect": "require columns",
    "assert": "require columns",
    "recipe": "mangler",
    "filter": "keep rows",
    "where": "keep rows",
    "add": "make",
    "calculate": "make",
    "compute": "make",
    "derive": "make",
    "let": "make",
    "set": "make",
    "apply": "change",
    "transform": "change",
    "update": "change",
    "reject": "set aside rows",
    "quarantine": "set aside rows",
    "enumerate": "number rows",
    "function": "define",
    "macro": "define",
    "variable": "parameter",
    "argument": "parameter",
    "use": "import",
    "version": "mangler",
}


def unknown_verb(cursor: Cursor, names: Sequence[str], whole: Callable[[str], str]) -> tuple[str, str]:
    """Message and advice for a statement that starts with no verb. `whole` gives the usage line of a verb."""

    def usage(name: str) -> str:
        return brief_usage(parse_usage(name, whole(name)))

    word = cursor.peek_word()
    if not word:
        character = cursor.peek()
        if character in TYPOGRAPHIC_QUOTES or character in "\"'/[*":
            return "a statement starts with its verb", "Lines that continue a statement are indented."
        return f"a statement starts with its verb, found {cursor.found()}", _all(names)
    lower = word.lower()
    family = [name for name in names if name.split()[0] == lower and name != lower]
    if lower in names and word != lower:
        return f'"{word}" is not a verb', f"Verbs are written small: {lower}. Usage: {usage(lower)}"
    if family:
        rest = cursor.source.text[cursor.offset + len(word) : cursor.end].split("\n")[0].strip()
        lists = [name for name in family if usage(name).startswith(f"{name} COLUMNS")]
        forms = [f"{name} {rest or '…'}" if name in lists else usage(name).split(" [")[0] for name in family]
        return f"{lower} what?", f"Write {' or '.join(forms)}."
    other = OTHER_WORDS.get(lower)
    if other in names and other is not None:
        return f'"{word}" is not a verb', f"The verb is {other}. Usage: {usage(other)}"
    close = nearest(lower, [*names, *(name.split()[0] for name in names)])
    if close:
        best = next(name for name in names if name == close[0] or name.split()[0] == close[0])
        return f'"{word}" is not a verb', f"Nearest: {best}. Usage: {usage(best)}"
    return f'"{word}" is not a verb', _all(names)


def _all(names: Sequence[str]) -> str:
    return f"Verbs are {', '.join(names)}."
