"""Patterns as recipes spell them: `/…/` with flags, in RE2's syntax with white space of our own."""

from __future__ import annotations

from dataclasses import dataclass, field

from mangler.blanks import BLANK_CLASS, NOT_BLANK_RANGES
from mangler.language.cursor import Cursor
from mangler.language.source import Place

LONGEST_PATTERN = 10_000


@dataclass(frozen=True)
class Pattern:
    """`/body/flags` as written; `re2` is the same pattern in RE2's syntax."""

    body: str
    flags: str
    place: Place = field(compare=False, repr=False)

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
            "this pattern is not closed",
            "Close it with /; a slash inside is written \\/.",
            cursor.place(start, min(offset, cursor.end)),
        )
    body = text[start + 1 : offset]
    flags_end = offset + 1
    while flags_end < cursor.end and text[flags_end].isalpha():
        flags_end += 1
    flags = text[offset + 1 : flags_end]
    cursor.take(flags_end - start)
    place = cursor.place(start)
    unknown = sorted(set(flags) - set("ism"))
    if unknown or len(set(flags)) < len(flags):
        raise cursor.mistake(
            f'"{flags}" is not a set of flags',
            "Flags are i (any letter case), s (. matches line breaks too), m (^ and $ match at lines).",
            cursor.place(offset + 1, flags_end),
        )
    if not body:
        raise cursor.mistake("this pattern is empty", "Write what is looked for between the slashes.", place)
    if len(body) > LONGEST_PATTERN:
        raise cursor.mistake(
            f"this pattern has {len(body):,} characters; at most {LONGEST_PATTERN:,} are taken",
            "Long lists of texts are written as texts, not as one pattern.",
            place,
        )
    _refuse_what_re2_lacks(cursor, body, start + 1)
    return Pattern(body, flags, place)


LACKING = {
    "(?=": "look-ahead",
    "(?!": "look-ahead",
    "(?<=": "look-behind",
    "(?<!": "look-behind",
    "(?>": "an atomic group",
    "(?(": "a conditional group",
}


def _refuse_what_re2_lacks(cursor: Cursor, body: str, body_start: int) -> None:
    offset, in_class = 0, False
    while offset < len(body):
        if body[offset] == "\\":
            following = body[offset + 1 : offset + 2]
            if following.isdigit() and following != "0" and not in_class:
                raise cursor.mistake(
                    f"\\{following} is a back-reference, which patterns do not have",
                    "Matching takes linear time whatever the data, so a pattern cannot refer to its own groups.",
                    cursor.place(body_start + offset, body_start + offset + 2),
                )
            offset += 2
            continue
        if in_class:
            in_class = body[offset] != "]"
        elif body[offset] == "[":
            in_class = True
            offset += 2 if body.startswith("[^]", offset) else 1 if body.startswith("[]", offset) else 0
        else:
            for lacking, name in LACKING.items():
                if body.startswith(lacking, offset):
                    raise cursor.mistake(
                        f"{lacking}…) is {name}, which patterns do not have",
                        "Matching takes linear time whatever the data. Match the text around it in groups"
                        " and put those back with \\1, \\2.",
                        cursor.place(body_start + offset, body_start + offset + len(lacking)),
                    )
        offset += 1


def _to_re2(body: str) -> str:
    """`\\/` is a slash; `\\s` is white space as the recipe language means it, also inside a class."""
    out, offset, in_class = [], 0, False
    while offset < len(body):
        character = body[offset]
        if character == "\\":
            escaped = body[offset : offset + 2]
            if escaped == "\\/":
                escaped = "/"
            elif escaped == "\\s":
                escaped = BLANK_CLASS if in_class else f"[{BLANK_CLASS}]"
            elif escaped == "\\S":
                escaped = NOT_BLANK_RANGES if in_class else f"[^{BLANK_CLASS}]"
            out.append(escaped)
            offset += 2
            continue
        if in_class:
            in_class = character != "]"
        elif character == "[":
            in_class = True
            # A closing bracket directly after the opening one is a member of the class.
            for opening in ("[^]", "[]"):
                if body.startswith(opening, offset):
                    out.append(opening)
                    offset += len(opening)
                    break
            else:
                out.append(character)
                offset += 1
            continue
        out.append(character)
        offset += 1
    return "".join(out)
