"""Usage lines: the one declaration of a verb's syntax.

`trim COLUMNS [left|right] [squeeze [lines]] [where CONDITION]`

Capitals are kinds of value, small words mean themselves, `[…]` may be left out, `(a|b)` is a choice,
`{…}, …` is a list of the same form with commas between. Required parts are in their order. What is in
brackets may come in any order, each once; brackets among the required parts keep their place.

A verb whose usage goes on in further lines has a body: small tables, indented, under a head of one line.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator
from functools import cache
from typing import TypeAlias

from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class Word:
    """A word, or the mark =."""

    text: str


@dataclass(frozen=True)
class Kind:
    """A value, read by the function that belongs to its name."""

    name: str


@dataclass(frozen=True)
class Sequence:
    parts: tuple[Part, ...]


@dataclass(frozen=True)
class Options:
    """One of several sequences; `required` when one must be there."""

    choices: tuple[Sequence, ...]
    required: bool


@dataclass(frozen=True)
class Listed:
    """The same sequence several times, with commas between."""

    item: Sequence


Part: TypeAlias = Word | Kind | Options | Listed


@dataclass(frozen=True)
class Usage:
    """`fixed` parts are in this order; `clauses` follow, in any order."""

    text: str
    verb: tuple[str, ...]
    fixed: tuple[Part, ...]
    clauses: tuple[Options, ...]
    has_body: bool = False
    """Whether tables are under the statement's first line."""

    def clause_words(self) -> list[str]:
        """The words that clauses start with, in the order of the usage line."""
        return [word for clause in self.clauses for word in first_words(clause)]

    def all_words(self) -> set[str]:
        return set(_words((*self.fixed, *self.clauses)))


WIDEST_USAGE = 90
"""Characters of a usage line that a message shows whole."""


def brief_usage(usage: Usage, words: Collection[str] = ()) -> str:
    """What a message shows of a usage line: the parts that must be there, and the clauses that start with `words`."""
    head = usage.text.partition("\n")[0]
    if len(head) <= WIDEST_USAGE:
        return head
    fixed, clauses = _in_groups(head, len(usage.clauses))
    shown = [
        text for text, clause in zip(clauses, usage.clauses, strict=True) if {*first_words(clause)} & {*words}
    ]
    return " ".join([fixed, *shown, "…"])


def _in_groups(head: str, count: int) -> tuple[str, list[str]]:
    """A usage line without its last groups in brackets, and these."""
    groups: list[str] = []
    while len(groups) < count:
        depth, at = 0, len(head)
        while True:
            at -= 1
            depth += (head[at] == "]") - (head[at] == "[")
            if depth == 0 and head[at] == "[":
                break
        groups.insert(0, head[at:])
        head = head[:at].rstrip()
    return head, groups


def first_words(part: Part) -> list[str]:
    if isinstance(part, Word):
        return [part.text]
    if isinstance(part, Options):
        return [word for choice in part.choices for word in first_words(choice.parts[0])]
    return []


def leading_words(sequence: Sequence) -> tuple[str, ...]:
    """The words that a sequence starts with, up to its first value."""
    words = []
    for part in sequence.parts:
        if not isinstance(part, Word):
            break
        words.append(part.text)
    return tuple(words)


def _words(parts: tuple[Part, ...]) -> Iterator[str]:
    for part in parts:
        if isinstance(part, Word) and part.text[0].isalpha():
            yield part.text
        elif isinstance(part, Options):
            for choice in part.choices:
                yield from _words(choice.parts)
        elif isinstance(part, Listed):
            yield from _words(part.item.parts)


PIECE = re.compile(r"\s*(\[|\]|\(|\)|\{|\},\s*…|\||=|[A-Z]+|[a-z][a-z0-9]*)")


@cache
def parse_usage(verb: str, text: str) -> Usage:
    """Reads the usage line of a verb. A line that is itself wrong is a programmer's error."""
    if not text.startswith(verb):
        raise ValueError(f"the usage line of {verb} starts with something else: {text}")
    head, _, body = text.partition("\n")
    pieces = _pieces(head.removeprefix(verb))
    parts = list(_sequence(pieces, ()).parts)
    if pieces:
        raise ValueError(f"usage line cannot be read from {pieces[0]!r}: {text}")
    clauses: list[Options] = []
    while parts and isinstance(last := parts[-1], Options) and not last.required:
        clauses.insert(0, last)
        parts.pop()
    return Usage(text, tuple(verb.split()), tuple(parts), tuple(clauses), bool(body))


def _pieces(text: str) -> list[str]:
    pieces, offset = [], 0
    while offset < len(text.rstrip()):
        match = PIECE.match(text, offset)
        if not match:
            raise ValueError(f"usage line cannot be read at {offset}: {text}")
        pieces.append("}, …" if match.group(1).startswith("}") else match.group(1))
        offset = match.end()
    return pieces


def _sequence(pieces: list[str], ends: tuple[str, ...]) -> Sequence:
    parts: list[Part] = []
    while pieces and pieces[0] not in ends:
        piece = pieces.pop(0)
        if piece == "[":
            parts.append(_options(pieces, "]", required=False))
        elif piece == "(":
            parts.append(_options(pieces, ")", required=True))
        elif piece == "{":
            item = _sequence(pieces, ("}, …",))
            pieces.pop(0)
            parts.append(Listed(item))
        elif not piece[0].isalpha() and piece != "=":
            raise ValueError(f"{piece} closes nothing in a usage line")
        elif piece.isupper():
            parts.append(Kind(piece))
        else:
            parts.append(Word(piece))
    return Sequence(tuple(parts))


def _options(pieces: list[str], close: str, required: bool) -> Options:
    choices = [_sequence(pieces, ("|", close))]
    while pieces and pieces[0] == "|":
        pieces.pop(0)
        choices.append(_sequence(pieces, ("|", close)))
    if not pieces:
        raise ValueError(f"{close} is missing in a usage line")
    pieces.pop(0)
    return Options(tuple(choices), required)
