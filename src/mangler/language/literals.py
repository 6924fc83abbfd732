"""Literals: texts, numbers and names, each with the spelling it had.

Two literals are equal when they mean the same and are spelled the same; where they are does not count.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import field
from decimal import Decimal
from typing import Any

from mangler.language.cursor import Cursor, is_word_start
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass

PATTERN_GROUPS = "0123456789"
ESCAPES = {"n": "\n", "t": "\t", "r": "\r", '"': '"', "\\": "\\", "{": "{", "}": "}"}
LARGEST_COUNT = 10**18
"""Of rows, characters, columns: one more for each row of a file still has 64 bits."""
TYPOGRAPHIC_QUOTES = "“”„‟‘’‚«»"


@dataclass(frozen=True)
class Text:
    value: str
    span: SourceSpan = field(compare=False, repr=False)


@dataclass(frozen=True)
class Hole:
    """`{expression}` in a text; `{expression?}` puts nothing there where the value is null."""

    expression: Any
    optional: bool


@dataclass(frozen=True)
class Template:
    """A text with holes: plain stretches and holes in turn."""

    parts: tuple[str | Hole, ...]
    span: SourceSpan = field(compare=False, repr=False)


@dataclass(frozen=True)
class Number:
    """An integer, or an exact decimal where the spelling has a point."""

    value: int | Decimal
    span: SourceSpan = field(compare=False, repr=False)


@dataclass(frozen=True)
class Truth:
    """`true`, `false`, or `null` (value None)."""

    value: bool | None
    span: SourceSpan = field(compare=False, repr=False)


@dataclass(frozen=True)
class Name:
    """The name of a column. `after_comma` tells messages that a clause may have been meant."""

    value: str
    span: SourceSpan = field(compare=False, repr=False)
    after_comma: bool = field(default=False, compare=False)


# Texts


def starts_text(cursor: Cursor) -> bool:
    character = cursor.peek()
    return character in ('"', "'") if character else False


def read_text(cursor: Cursor) -> Text:
    """A text without holes, in either kind of quotes."""
    template = read_template(cursor, None)
    if isinstance(template, Text):
        return template
    raise AssertionError("a text read without holes is plain")


def read_template(cursor: Cursor, read_hole: Callable[[Cursor], Any] | None) -> Text | Template:
    """A text in either kind of quotes. `read_hole` reads the expression of a hole; without it a hole is an error."""
    quote = cursor.peek()
    if quote and quote in TYPOGRAPHIC_QUOTES:
        raise cursor.mistake(
            "typographic-quote",
            f"{quote} is a typographic quote",
            "Texts are written in straight quotes: \"…\" or '…'.",
        )
    if quote not in ('"', "'") or not quote:
        raise cursor.mistake(
            "text-needed",
            f"a text is expected here, found {cursor.found()}",
            "Texts are written in quotes: \"…\" or '…'.",
        )
    return _read_raw(cursor) if quote == "'" else _read_escaped(cursor, read_hole)


def _read_raw(cursor: Cursor) -> Text:
    text, start = cursor.source.text, cursor.offset
    value, offset = [], start + 1
    while True:
        character = text[offset] if offset < cursor.end else "\n"
        if character == "\n":
            raise _unclosed(cursor, start, "'")
        if character == "'":
            if text.startswith("''", offset):
                value.append("'")
                offset += 2
                continue
            break
        value.append(character)
        offset += 1
    cursor.take(offset + 1 - start)
    return Text("".join(value), cursor.span(start))


def _read_escaped(cursor: Cursor, read_hole: Callable[[Cursor], Any] | None) -> Text | Template:
    text, start = cursor.source.text, cursor.offset
    parts: list[str | Hole] = []
    plain: list[str] = []
    offset = start + 1
    while True:
        character = text[offset] if offset < cursor.end else "\n"
        if character == "\n":
            raise _unclosed(cursor, start, '"')
        if character == '"':
            break
        if character == "\\":
            value, offset = _read_escape(cursor, offset)
            plain.append(value)
        elif character == "{":
            if read_hole is None:
                raise cursor.mistake(
                    "hole-not-allowed",
                    "a plain text is asked for here, and { opens a hole",
                    "Write the text in single quotes, where { is an ordinary character, or write \\{.",
                    cursor.span(offset, offset + 1),
                )
            hole, offset = _read_hole(cursor, start, offset, read_hole)
            parts += ["".join(plain)] if plain else []
            plain = []
            parts.append(hole)
        else:
            plain.append(character)
            offset += 1
    cursor.take(offset + 1 - start)
    span = cursor.span(start)
    if not parts:
        return Text("".join(plain), span)
    return Template((*parts, *(["".join(plain)] if plain else [])), span)


def _read_hole(
    cursor: Cursor, start: int, offset: int, read_hole: Callable[[Cursor], Any]
) -> tuple[Hole, int]:
    line_end = cursor.source.text.find("\n", offset, cursor.end)
    inner = Cursor(cursor.source, offset + 1, cursor.end if line_end < 0 else line_end)
    expression = read_hole(inner)
    optional = inner.take_mark("?")
    if not inner.take_mark("}"):
        raise inner.mistake(
            "hole-not-closed",
            f"the hole is not closed: }} is expected, found {inner.found()}",
            "A hole holds one expression: {name}. For the character itself write \\{.",
            inner.next_place() if not inner.at_end() else inner.span(start, start + 1),
        )
    return Hole(expression, optional), inner.offset


def _read_escape(cursor: Cursor, offset: int) -> tuple[str, int]:
    text = cursor.source.text
    following = text[offset + 1 : offset + 2]
    if following in ESCAPES and following:
        return ESCAPES[following], offset + 2
    if following in PATTERN_GROUPS and following and _is_after_pattern(cursor):
        return "\\" + following, offset + 2
    if text.startswith("u{", offset + 1):
        close = text.find("}", offset, cursor.end)
        digits = text[offset + 3 : close] if close > 0 else ""
        if (
            1 <= len(digits) <= 6
            and all(c in "0123456789abcdefABCDEF" for c in digits)
            and not 0xD800 <= int(digits, 16) <= 0xDFFF
            and 0 < int(digits, 16) <= 0x10FFFF
        ):
            return chr(int(digits, 16)), close + 1
        raise cursor.mistake(
            "unknown-escape",
            "\\u{…} needs the hexadecimal number of a character",
            "For a no-break space, write \\u{00A0}. The character 0 is not in any text.",
            cursor.span(offset, close + 1 if 0 < close < offset + 12 else offset + 2),
        )
    raise cursor.mistake(
        "unknown-escape",
        f'"\\{following.strip()}" is not an escape',
        'Known are \\n \\t \\r \\" \\\\ \\{ \\u{00A0}. A backslash itself is \\\\; in single quotes it needs nothing.',
        cursor.span(offset, offset + 2),
    )


def _is_after_pattern(cursor: Cursor) -> bool:
    """Whether this is the text that takes the place of a pattern's matches: there \\1 is the pattern's first group."""
    before = [token.spelling for token in cursor.tokens[-2:]]
    return (
        len(before) == 2 and len(before[0]) > 1 and before[0].startswith("/") and before[1] in ("with", ",")
    )


def _unclosed(cursor: Cursor, start: int, quote: str) -> Exception:
    text = cursor.source.text
    line_end = text.find("\n", start, cursor.end)
    line_end = cursor.end if line_end < 0 else line_end
    advice = f"Close it with {quote}; a text ends on its line."
    advice += " A line break inside is written \\n." if quote == '"' else " A quote inside is doubled: ''."
    return cursor.mistake(
        "text-not-closed", "this text is not closed", advice, cursor.span(start, max(start + 1, line_end))
    )


# Numbers and names


def starts_number(cursor: Cursor) -> bool:
    character = cursor.peek()
    following = cursor.source.text[cursor.offset + 1 : cursor.offset + 2]
    return bool(character) and (
        character in "0123456789" or (character == "-" and following != "" and following in "0123456789")
    )


def read_number(cursor: Cursor) -> Number:
    if not starts_number(cursor):
        raise cursor.mistake(
            "number-needed",
            f"a number is expected here, found {cursor.found()}",
            "Numbers are written 12, 1_000, 0.5 or -3.",
        )
    text, start = cursor.source.text, cursor.offset
    offset = start + 1
    while offset < cursor.end and (text[offset] in "0123456789_"):
        offset += 1
    if text[offset : offset + 1] == "." and text[offset + 1 : offset + 2] in tuple("0123456789"):
        offset += 1
        while offset < cursor.end and text[offset] in "0123456789_":
            offset += 1
    spelling = text[start:offset]
    if offset < cursor.end and is_word_start(text[offset]):
        raise cursor.mistake(
            "not-a-number",
            f'"{spelling}{text[offset]}" is neither a number nor a name',
            "A column whose name starts with a digit is written in square brackets: [2nd firing].",
            cursor.span(start, offset + 1),
        )
    cursor.take(offset - start)
    digits = spelling.replace("_", "")
    if len(digits) > 40:
        raise cursor.mistake(
            "number-too-large", "this number is too long", "At most 40 digits are taken.", cursor.span(start)
        )
    return Number(Decimal(digits) if "." in digits else int(digits), cursor.span(start))


def read_whole_number(cursor: Cursor) -> Number:
    """A whole number, 0 or more."""
    number = read_number(cursor)
    if not isinstance(number.value, int) or number.value < 0:
        raise cursor.mistake(
            "number-needed",
            "a whole number is expected here",
            "Write 0, 1, 2 and so on, without a point.",
            number.span,
        )
    if number.value > LARGEST_COUNT:
        raise cursor.mistake(
            "number-too-large",
            "this number is larger than any count can be",
            f"At most {LARGEST_COUNT:,} is taken.",
            number.span,
        )
    return number


def read_name(cursor: Cursor, after_comma: bool = False) -> Name:
    """A bare name, or any name in square brackets."""
    word = cursor.peek_word()
    if word:
        start = cursor.offset
        cursor.take(len(word))
        return Name(word, cursor.span(start), after_comma)
    if cursor.peek() == "[":
        return _read_bracketed(cursor, after_comma)
    if starts_text(cursor):
        text = read_text(cursor)
        raise cursor.mistake(
            "column-name-needed",
            "a column name is expected here, found a text",
            f"A name with other characters than letters, digits and _ is written in square brackets: [{text.value}].",
            text.span,
        )
    raise cursor.mistake(
        "column-name-needed",
        f"a column name is expected here, found {cursor.found()}",
        "A name with other characters than letters, digits and _ is written in square brackets: [Fired at?].",
    )


def _read_bracketed(cursor: Cursor, after_comma: bool) -> Name:
    text, start = cursor.source.text, cursor.offset
    if text.startswith('["', start):
        inner = Cursor(cursor.source, start + 1, cursor.end)
        value = read_text(inner).value
        if not inner.take_mark("]"):
            raise inner.mistake(
                "name-not-closed",
                "this name is not closed",
                'Write ["…"], with the bracket after the quote.',
                inner.span(start),
            )
        cursor.take(inner.offset - start)
        return Name(value, cursor.span(start), after_comma)
    characters, offset = [], start + 1
    while True:
        character = text[offset] if offset < cursor.end else "\n"
        if character == "\n":
            raise cursor.mistake(
                "name-not-closed",
                "this name is not closed",
                "Close it with ]; a ] inside is doubled, and a name ends on its line.",
                cursor.span(start, min(offset, cursor.end)),
            )
        if character == "]":
            if not text.startswith("]]", offset):
                break
            offset += 1
        characters.append(character)
        offset += 1
    if not characters:
        raise cursor.mistake(
            "empty-name",
            "this name is empty",
            "A column without a name is given one with called, in the read statement.",
            cursor.span(start, offset + 1),
        )
    cursor.take(offset + 1 - start)
    return Name("".join(characters), cursor.span(start), after_comma)
