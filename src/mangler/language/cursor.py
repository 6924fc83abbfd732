"""A cursor over one statement's text, moved on demand.

Nothing is tokenised ahead: only the asker knows whether `/` opens a pattern or divides, and whether a text
may have holes. The cursor keeps the spelling of everything taken and every comment passed, so that the
formatter loses nothing.
"""

from __future__ import annotations

from mangler.language.mistake import Refusal, wrong_recipe
from mangler.language.source import Source, SourceSpan
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class Token:
    """Something taken, as it was spelled. `glued`: no space is before it in the canonical layout."""

    spelling: str
    glued: bool = False


@dataclass(frozen=True)
class Comment:
    """A comment inside a statement, with its `#`, and where in the source it starts."""

    text: str
    start: int
    own_line: bool


class Cursor:
    def __init__(self, source: Source, start: int, end: int) -> None:
        self.source = source
        self.start = start
        self.end = end
        self.offset = start
        self.tokens: list[Token] = []
        self.comments: list[Comment] = []
        self._comments_end = start

    # Looking

    def skip(self) -> None:
        """Passes over white space, line ends and comments."""
        text = self.source.text
        while self.offset < self.end:
            character = text[self.offset]
            if character.isspace():
                self.offset += 1
            elif character == "#":
                stop = text.find("\n", self.offset, self.end)
                stop = self.end if stop < 0 else stop
                if self.offset >= self._comments_end:
                    before = text[text.rfind("\n", 0, self.offset) + 1 : self.offset]
                    comment = text[self.offset : stop].rstrip()
                    self.comments.append(Comment(comment, self.offset, not before.strip()))
                    self._comments_end = stop
                self.offset = stop
            else:
                return

    def at_end(self) -> bool:
        self.skip()
        return self.offset >= self.end

    def peek(self) -> str:
        """The next character, or an empty text at the end."""
        self.skip()
        return self.source.text[self.offset] if self.offset < self.end else ""

    def peek_word(self) -> str:
        """The next bare word, or an empty text when something else comes."""
        self.skip()
        text, stop = self.source.text, self.offset
        if stop < self.end and is_word_start(text[stop]):
            while stop < self.end and is_word_part(text[stop]):
                stop += 1
        return text[self.offset : stop]

    def peek_words(self) -> tuple[str, str]:
        """The next two bare words; either is empty when something else comes."""
        first = self.peek_word()
        if not first:
            return "", ""
        here = self.offset
        self.offset += len(first)
        second = self.peek_word()
        self.offset = here
        return first, second

    def starts_with(self, literal: str) -> bool:
        self.skip()
        return self.source.text.startswith(literal, self.offset, self.end)

    # Taking

    def take(self, length: int, glued: bool = False) -> str:
        """Takes so many characters as one token."""
        spelling = self.source.text[self.offset : self.offset + length]
        self.offset += length
        self.tokens.append(Token(spelling, glued))
        return spelling

    def take_word(self, *words: str) -> bool:
        """Takes these words, in this order, if they come next; else nothing."""
        mark = self.offset, len(self.tokens)
        for word in words:
            if self.peek_word() != word:
                self.rewind(mark)
                return False
            self.take(len(word))
        return True

    def take_mark(self, mark: str, glued: bool = False) -> bool:
        if self.starts_with(mark):
            self.take(len(mark), glued)
            return True
        return False

    def mark(self) -> tuple[int, int]:
        return self.offset, len(self.tokens)

    def rewind(self, mark: tuple[int, int]) -> None:
        self.offset = mark[0]
        del self.tokens[mark[1] :]

    # Telling

    def span(self, start: int, end: int | None = None) -> SourceSpan:
        return SourceSpan(self.source, start, self.offset if end is None else end)

    def next_place(self) -> SourceSpan:
        """The place of whatever comes next: a word, a quoted stretch, or one character."""
        self.skip()
        word = self.peek_word()
        if self.offset >= self.end:
            last = len(self.source.text[self.start : self.end].rstrip()) + self.start
            return SourceSpan(self.source, last, last + 1)
        return SourceSpan(self.source, self.offset, self.offset + max(1, len(word)))

    def found(self) -> str:
        """What comes next, in words for a message."""
        word = self.peek_word()
        if word:
            return f'"{word}"'
        character = self.peek()
        if character and character in "\"'":
            return "a text"
        return f'"{character}"' if character else "the end of the statement"

    def mistake(self, word: str, message: str, advice: str = "", span: SourceSpan | None = None) -> Refusal:
        return wrong_recipe(word, message, advice, span or self.next_place())


def is_word_start(character: str) -> bool:
    return character == "_" or character.isalpha()


def is_word_part(character: str) -> bool:
    return character == "_" or character.isalnum()


def is_bare_name(name: str) -> bool:
    """Whether a column of this name can be in a recipe without brackets."""
    return bool(name) and is_word_start(name[0]) and all(is_word_part(c) for c in name)
