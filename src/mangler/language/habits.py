"""Habits from elsewhere, met with the form that is right here."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence

from mangler.language.cursor import Cursor
from mangler.language.foreign_words import line_for_phrase, line_for_verb
from mangler.language.literals import TYPOGRAPHIC_QUOTES
from mangler.language.mistake import nearest
from mangler.language.usage import brief_usage, parse_usage


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
    second = cursor.peek_words()[1]
    behind = cursor.source.text[cursor.offset + len(word) : cursor.end].split("\n")[0].strip()
    line = line_for_phrase(f"{word} {second}", behind[len(second) :])
    if line:
        return f'"{word} {second}" is not a verb', f"Write {line}."
    family = [name for name in names if name.split()[0] == lower and name != lower]
    if lower in names and word != lower:
        return f'"{word}" is not a verb', f"Verbs are written small: {lower}. Usage: {usage(lower)}"
    if lower == "require" and behind:
        return f"{lower} what?", f"Write {_requirement(behind)}."
    if family:
        rest = cursor.source.text[cursor.offset + len(word) : cursor.end].split("\n")[0].strip()
        lists = [name for name in family if usage(name).startswith(f"{name} COLUMNS")]
        forms = [f"{name} {rest or '…'}" if name in lists else usage(name).split(" [")[0] for name in family]
        other = line_for_verb(lower, behind)
        more = f" Or is it {other}?" if other else ""
        return f"{lower} what?", f"Write {' or '.join(forms)}.{more}"
    rest = behind
    called = FUNCTION_CALLED.match(rest)
    if called is not None:
        return function_as_statement(word, rest)
    if rest.startswith("=") and not rest.startswith("=="):
        return f'"{word}" is not a verb', f"A column gets a value with make: make {word} {rest}"
    line = line_for_verb(lower, rest)
    if line:
        return f'"{word}" is not a verb', f"Write {line}."
    close = nearest(lower, [*names, *(name.split()[0] for name in names)])
    if close:
        best = next(name for name in names if name == close[0] or name.split()[0] == close[0])
        return f'"{word}" is not a verb', f"Nearest: {best}. Usage: {usage(best)}"
    return f'"{word}" is not a verb', _all(names)


def _requirement(rest: str) -> str:
    """The statement that requires what is behind `require`."""
    not_null = re.match(r"(.+?)\s+(?:is\s+)?not\s+(?:null|blank|empty)$", rest)
    if not_null is not None:
        return f"require no nulls in {not_null.group(1)}"
    if re.match(r"(count|rows?)\b", rest):
        return "require between NUMBER and NUMBER rows"
    if re.fullmatch(r"[\w\s,\[\]?]+", rest) and not re.search(r"\b(is|in|between|and|or)\b", rest):
        return f"require columns {rest}"
    return f"require that {rest}"


FUNCTION_CALLED = re.compile(r"\(\s*([^\W\d]\w*)?")


def function_as_statement(word: str, rest: str) -> tuple[str, str]:
    """A call where a statement is: it may be a change of a column, or a new one."""
    called = FUNCTION_CALLED.match(rest)
    column = (called.group(1) if called is not None else None) or "COLUMN"
    return (
        f"a statement starts with its verb, and {word}(…) is a value",
        f"To change the column: change {column} to {word}{rest}. For a new one: make NAME = {word}{rest}.",
    )


def _all(names: Sequence[str]) -> str:
    return f"Verbs are {', '.join(names)}."
