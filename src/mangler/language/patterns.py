"""Patterns as recipes spell them: `/…/` with flags, in RE2's syntax with white space of our own."""

from __future__ import annotations

from dataclasses import field

from mangler.blanks import BLANK_CLASS, NOT_BLANK_RANGES
from mangler.language.cursor import Cursor
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass
from mangler.pattern_pieces import META, QUOTATION, pieces

LONGEST_PATTERN = 10_000


@dataclass(frozen=True)
class Pattern:
    """`/body/flags` as written; `re2` is the same pattern in RE2's syntax."""

    body: str
    flags: str
    span: SourceSpan = field(compare=False, repr=False)

    @property
    def re2(self) -> str:
        translated = _to_re2(self.body)
        return f"(?{self.flags}){translated}" if self.flags else translated


def read_pattern(cursor: Cursor) -> Pattern:
    """`/…/` with flags `i`, `s`, `m`. What RE2 does not know is refused here, by name."""
    text, start = cursor.source.text, cursor.offset
    offset = start + 1
    while offset < cursor.end and text[offset] not in "/\n":
        offset += 2 if text[offset] == "\\" and text[offset + 1 : offset + 2] != "\n" else 1
    if offset >= cursor.end or text[offset] == "\n":
        raise cursor.mistake(
            "pattern-not-closed",
            "this pattern is not closed",
            "Close it with /; a slash inside is written \\/.",
            cursor.span(start, min(offset, cursor.end)),
        )
    body = text[start + 1 : offset]
    flags_end = offset + 1
    while flags_end < cursor.end and text[flags_end].isalpha():
        flags_end += 1
    flags = text[offset + 1 : flags_end]
    cursor.take(flags_end - start)
    span = cursor.span(start)
    unknown = sorted(set(flags) - set("ism"))
    if unknown or len(set(flags)) < len(flags):
        raise cursor.mistake(
            "unknown-flag",
            f'"{flags}" is not a set of flags',
            "Flags are i (any letter case), s (. matches line breaks too), m (^ and $ match at lines).",
            cursor.span(offset + 1, flags_end),
        )
    if not body:
        raise cursor.mistake(
            "empty-pattern", "this pattern is empty", "Write what is looked for between the slashes.", span
        )
    if len(body) > LONGEST_PATTERN:
        raise cursor.mistake(
            "pattern-too-long",
            f"this pattern has {len(body):,} characters; at most {LONGEST_PATTERN:,} are taken",
            "Long lists of texts are written as texts, not as one pattern.",
            span,
        )
    _refuse_what_re2_lacks(cursor, body, start + 1)
    return Pattern(body, flags, span)


LACKING = {
    "(?=": "look-ahead",
    "(?!": "look-ahead",
    "(?<=": "look-behind",
    "(?<!": "look-behind",
    "(?>": "an atomic group",
    "(?(": "a conditional group",
}


def _refuse_what_re2_lacks(cursor: Cursor, body: str, body_start: int) -> None:
    for piece in pieces(body):
        at = body_start + piece.offset
        following = piece.text[1:2]
        if piece.text == "\\C":
            raise cursor.mistake(
                "pattern-not-supported",
                "\\C is one byte, and a cell's characters may have several",
                "One character, a line break too, is (?s:.).",
                cursor.span(at, at + 2),
            )
        if piece.text.startswith("\\") and following.isdigit() and following != "0" and not piece.in_class:
            raise cursor.mistake(
                "pattern-not-supported",
                f"\\{following} is a back-reference, which patterns do not have",
                "One search takes linear time whatever the data, so a pattern cannot refer to its own groups.",
                cursor.span(at, at + 2),
            )
        if piece.text != "(" or piece.in_class:
            continue
        for lacking, name in LACKING.items():
            if body.startswith(lacking, piece.offset):
                raise cursor.mistake(
                    "pattern-not-supported",
                    f"{lacking}…) is {name}, which patterns do not have",
                    "One search takes linear time whatever the data. Match the text around it in groups"
                    " and put those back with \\1, \\2.",
                    cursor.span(at, at + len(lacking)),
                )


def _to_re2(body: str) -> str:
    """`\\/` is a slash; `\\s` is white space as the recipe language means it, also inside a class.

    What `\\Q…\\E` quotes is escaped character by character: a quotation without its end would take in whatever a
    pattern of ours puts after it.
    """
    out = []
    for piece in pieces(body):
        text = piece.text
        if text == "\\/":
            text = "/"
        elif text == "\\s":
            text = BLANK_CLASS if piece.in_class else f"[{BLANK_CLASS}]"
        elif text == "\\S":
            text = NOT_BLANK_RANGES if piece.in_class else f"[^{BLANK_CLASS}]"
        elif quoted := QUOTATION.fullmatch(text):
            text = META.sub(r"\\\1", quoted.group(1))
        out.append(text)
    return "".join(out)
