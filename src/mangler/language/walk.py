"""Walks a usage line over a statement's text."""

from __future__ import annotations

import re
from typing import Any

from mangler.language.cursor import Cursor
from mangler.language.kinds import READERS, starts_names, starts_value
from mangler.language.literals import starts_number, starts_text
from mangler.language.mistake import Refusal, nearest
from mangler.language.parts import starts_part_name
from mangler.language.source import Source, SourceSpan
from mangler.language.statement import Statement, Stretch
from mangler.language.usage import (
    Kind,
    Listed,
    Options,
    Part,
    Sequence,
    Usage,
    Word,
    brief_usage,
    first_words,
    leading_words,
)


def walk(cursor: Cursor, verb: str, usage: Usage) -> Statement:
    """Reads one statement, whose verb comes next. Its first mistake is raised."""
    return _Walker(cursor, verb, usage).walk()


MEANT_FOR = {
    "with": ("by", "using", "to", "for", "as", "=", ",", "sep", "on"),
    "by": ("on", "using", "per", "with", "over"),
    "to": ("as", "into", "=", "with", "by", ","),
    "at": ("by", "on", "with", "using", "sep", "delimiter", ","),
    "into": ("as", "to", "for", "in"),
    "where": ("if", "when", "with", "having", "that", ","),
    "on": ("by", "using", "with"),
    "in": ("on", "from", "for", "of"),
    "=": ("as", "is", "to", ","),
    "as": ("=", "into", "to"),
    "of": ("from", "with", "by"),
    "from": ("in", "with", "using"),
}
"""Words that are said where another one is meant."""
DESCENDING, ASCENDING = re.compile(r"\bdesc\b"), re.compile(r"\s*\basc(ending)?\b")


class _Walker:
    def __init__(self, cursor: Cursor, verb: str, usage: Usage, is_correction: bool = False) -> None:
        self.is_correction = is_correction
        self.cursor = cursor
        self.verb = verb
        self.usage = usage
        self.values: dict[str, Any] = {}
        self.spans: dict[str, SourceSpan] = {}
        self.open_clauses = list(usage.clauses)
        self.stretches: list[Stretch] = []
        self.token_mark = 0
        self.comment_mark = 0

    def walk(self) -> Statement:
        cursor = self.cursor
        cursor.skip()
        start = cursor.offset
        cursor.take_word(*self.usage.verb)
        self.finish_stretch(0)
        words: list[str] = []
        for rank, part in enumerate(self.usage.fixed, 1):
            # A clause may be before a required part that starts with a word of its own.
            while isinstance(part, Word) and not self.comes_next(part) and self.clause():
                pass
            self.read_part(part, () if isinstance(part, Options) else tuple(words))
            self.finish_stretch(rank)
            words = [*words, part.text] if isinstance(part, Word) else []
        while not cursor.at_end():
            if not self.clause():
                raise self.unexpected()
        self.finish_stretch(len(self.usage.fixed) + len(self.usage.clauses))
        end = len(cursor.source.text[cursor.start : cursor.end].rstrip()) + cursor.start
        return Statement(
            self.verb, self.values, SourceSpan(cursor.source, start, end), tuple(self.stretches), self.spans
        )

    # Parts

    def comes_next(self, part: Part) -> bool:
        return self.cursor.peek_word() in first_words(part)

    def clause(self) -> bool:
        """Reads a clause that has not been said yet, if one comes next."""
        # `skip last 2` is no `skip`: of clauses that start alike, the one with more of its words there.
        for clause in sorted(self.open_clauses, key=lambda clause: -self.words_there(clause)):
            if self.options(clause, ()):
                self.open_clauses.remove(clause)
                self.finish_stretch(len(self.usage.fixed) + 1 + self.usage.clauses.index(clause))
                return True
        return False

    def words_there(self, clause: Options) -> int:
        """How many leading words of a clause come next."""
        leading = (leading_words(choice) for choice in clause.choices)
        return max((len(words) for words in leading if words and self.all_come(words)), default=0)

    def read_part(self, part: Part, words: tuple[str, ...]) -> None:
        cursor = self.cursor
        if isinstance(part, Word):
            taken = cursor.take_word(part.text) if part.text[0].isalpha() else cursor.take_mark(part.text)
            if not taken:
                raise self.expected(part.text)
        elif isinstance(part, Kind):
            self.read_value(part, words)
        elif isinstance(part, Listed):
            self.read_listed(part)
        elif not self.options(part, words) and part.required:
            raise self.expected(" or ".join(first_words(part)))

    def read_value(self, kind: Kind, words: tuple[str, ...]) -> None:
        cursor = self.cursor
        key = " ".join(words) or kind.name.lower()
        if cursor.at_end():
            raise cursor.mistake(
                "statement-ends",
                f"the statement ends where {describe_kind(kind)} is expected",
                self.usage_advice(),
            )
        start = cursor.offset
        self.values[key] = READERS[kind.name](cursor)
        self.spans[key] = cursor.span(start)

    def read_listed(self, listed: Listed) -> None:
        """`{A with B}, …`: a list of what each item says, under the key of its first value."""
        cursor = self.cursor
        cursor.skip()
        start, items = cursor.offset, []
        outer, outer_spans = self.values, self.spans
        while True:
            self.values, self.spans = {}, {}
            self.read_sequence(listed.item)
            items.append(self.values)
            if not cursor.take_mark(",", glued=True):
                break
            if cursor.at_end():
                cursor.tokens.pop()
                break
        key = next(iter(items[0]))
        self.values, self.spans = outer, outer_spans
        self.values[key] = tuple(items)
        self.spans[key] = cursor.span(start)

    def read_sequence(self, sequence: Sequence) -> None:
        """The words before a value, within the sequence, are its key."""
        words: list[str] = []
        for part in sequence.parts:
            self.read_part(part, tuple(words))
            if isinstance(part, Word):
                words.append(part.text)
            elif isinstance(part, Kind):
                words = []

    def options(self, part: Options, words: tuple[str, ...]) -> bool:
        """Reads the choice that comes next, if any. Longer leading words are tried first."""
        cursor = self.cursor
        choices = sorted(part.choices, key=lambda choice: -len(leading_words(choice)))
        for choice in choices:
            leading = leading_words(choice)
            cursor.skip()
            start = cursor.offset
            if not leading:
                if comes_next(choice.parts[0], cursor):
                    self.read_sequence(choice)
                    return True
                continue
            if not self.all_come(leading):
                continue
            if words:  # a choice inside a clause is that clause's value
                self.take(leading)
                self.values[" ".join(words)] = " ".join(leading)
                self.spans[" ".join(words)] = cursor.span(start)
                return True
            self.read_sequence(choice)
            key = " ".join(leading)
            self.values.setdefault(key, True)
            self.spans[key] = cursor.span(start)
            return True
        return False

    def all_come(self, words: tuple[str, ...]) -> bool:
        mark = self.cursor.mark()
        come = self.take(words)
        self.cursor.rewind(mark)
        return come

    def take(self, words: tuple[str, ...]) -> bool:
        """Takes these words or marks as far as they come next; whether all do."""
        cursor = self.cursor
        return all(cursor.take_word(word) if word[0].isalpha() else cursor.take_mark(word) for word in words)

    # Mistakes

    def said_twice(self, words: str) -> Refusal:
        return self.cursor.mistake(
            "said-twice", f"{words} is said twice", "Each clause is allowed once in a statement."
        )

    def expected(self, words: str) -> Refusal:
        from mangler.language.foreign_clauses import advice_in_any_statement, advice_on_clause

        cursor = self.cursor
        spelled = [token.spelling for token in cursor.tokens[-2:]]
        if len(spelled) == 2 and spelled[0] == "," and spelled[1] in words.split(" or "):
            word = spelled[1]
            start = cursor.source.text.rindex(word, 0, cursor.offset)
            return cursor.mistake(
                "missing-comma",
                f"after a comma a word is the next item of the list, so {word} is taken for a column",
                f"Take the comma before {word} out. {self.usage_advice()}",
                cursor.span(start, start + len(word)),
            )
        word = "" if cursor.at_end() else cursor.peek_word()
        advice = advice_on_clause(self.verb, word)
        corrected = "" if advice else self.corrected(words)
        if corrected.endswith("…"):
            advice = advice_in_any_statement(word, self.usage.all_words())
        advice = advice or (f"Write {corrected}." if corrected else self.usage_advice())
        if cursor.at_end():
            return cursor.mistake("statement-ends", f"the statement ends where {words} is expected", advice)
        return cursor.mistake("missing-word", f"{words} is expected here, found {cursor.found()}", advice)

    def corrected(self, words: str) -> str:
        """The statement with the word that is expected, for what is there or before it; nothing where that is wrong."""
        cursor = self.cursor
        text = cursor.source.text
        if self.is_correction or "\n" in text[cursor.start : cursor.end].strip():
            return ""
        found = cursor.peek_word() or (cursor.peek() if cursor.peek() in ("=", ",") else "")
        before, after = text[cursor.start : cursor.offset].strip(), text[cursor.offset : cursor.end].strip()
        tries = []
        for word in words.split(" or "):
            if found in MEANT_FOR.get(word, ()):
                tries.append((f"{before.rstrip(',')} {word}", after[len(found) :]))
            tries.append((f"{before} {word}", after))
        optional = [
            word for part in self.usage.fixed if isinstance(part, Options) for word in first_words(part)
        ]
        tries += [(f"{before} {word}", after) for word in optional]
        if "descending" in self.usage.all_words():
            tries += [(first, ASCENDING.sub("", DESCENDING.sub("descending", rest))) for first, rest in tries]
        started = ""
        for first, rest in tries:
            candidate = f"{first} {rest.strip()}".strip()
            source = Source(cursor.source.name, candidate)
            try:
                _Walker(Cursor(source, 0, len(candidate)), self.verb, self.usage, is_correction=True).walk()
            except Refusal as refusal:
                span = refusal.mistakes[0].span
                if not started and span is not None and span.start >= len(candidate):
                    started = f"{candidate} …"
                continue
            return candidate
        return started

    def unexpected(self) -> Refusal:
        """Something is where only a clause, or the end, can."""
        from mangler.language.foreign_clauses import advice_in_any_statement, advice_on_clause

        cursor = self.cursor
        word = cursor.peek_word()
        said = [clause for clause in self.usage.clauses if clause not in self.open_clauses]
        for clause in said:
            if word in first_words(clause):
                before = next(w for w in first_words(clause) if any(k.split()[0] == w for k in self.values))
                if before == word:
                    return self.said_twice(word)
                return cursor.mistake(
                    "clauses-conflict",
                    f"{word} and {before} exclude each other",
                    "Say one of them, or write two statements.",
                )
        open_words = [w for clause in self.open_clauses for w in first_words(clause)]
        shown: list[str] = []
        if word in ("desc", "asc") and "descending" in self.usage.all_words():
            way = "descending" if word == "desc" else "nothing: ascending is how it is by default"
            return cursor.mistake("unknown-clause", f'"{word}" is not a word of {self.verb}', f"Write {way}.")
        if word:
            message = f'"{word}" is not a clause of {self.verb}'
            meant = advice_on_clause(self.verb, word)
            close = [] if meant else nearest(word, open_words)
            corrected = self.corrected("by") if "by" in open_words and not meant and not close else ""
            if corrected and not corrected.endswith("…"):
                meant = f"Write {corrected}."
            if not close:
                meant = meant or advice_in_any_statement(word, self.usage.all_words())
            if meant:
                return cursor.mistake("unknown-clause", message, meant)
            advice = f"Nearest: {close[0]}. " if close else ""
            shown = close[:1]
            if not close and cursor.tokens and cursor.tokens[-1].spelling not in open_words:
                advice = self.clause_taken_for_item(open_words) or (
                    "If it is a further item of the list before it, a comma is missing. "
                )
        else:
            message = f"nothing is expected here but a clause or the end, found {cursor.found()}"
            after_text = starts_text(cursor) and cursor.tokens[-1].spelling.endswith(("'", '"'))
            advice = (
                'Texts are separated by commas; a quote inside "…" is written \\". ' if after_text else ""
            )
        return cursor.mistake("unknown-clause", message, advice + self.usage_advice(*shown))

    def clause_taken_for_item(self, open_words: list[str]) -> str:
        """Advice where the last item of a list looks like a clause that a comma was put before."""
        tokens = [token.spelling for token in self.cursor.tokens[-2:]]
        if len(tokens) < 2 or tokens[0] != ",":
            return ""
        close = nearest(tokens[1], open_words)
        return f"If {tokens[1]} is meant for {close[0]}, take the comma before it out. " if close else ""

    def usage_advice(self, *words: str) -> str:
        """What must be there, and the clauses that start with these words; the manual has the rest."""
        brief = brief_usage(self.usage, words)
        if brief == self.usage.text:
            return f"Usage: {brief}"
        return f"Usage: {brief.removesuffix(' …')}; the whole of it: mangler manual {self.verb}"

    # Layout

    def finish_stretch(self, rank: int) -> None:
        """What was taken since the last call belongs to the usage line's part of this rank."""
        cursor = self.cursor
        cursor.skip()
        tokens, seen = cursor.tokens[self.token_mark :], cursor.comments[self.comment_mark :]
        # A look ahead may have passed comments that are behind what comes next: they belong to a later stretch.
        comments = [comment for comment in seen if comment.start < cursor.offset]
        if tokens or comments:
            is_clause = rank > len(self.usage.fixed)
            self.stretches.append(Stretch(rank, is_clause, tuple(tokens), tuple(comments)))
        self.token_mark, self.comment_mark = len(cursor.tokens), self.comment_mark + len(comments)


KIND_WORDS = {
    "COLUMNS": "a list of columns",
    "COLUMN": "a column",
    "NAME": "a name",
    "NAMES": "a list of names",
    "TEXT": "a text",
    "TEXTS": "a list of texts",
    "NUMBER": "a whole number",
    "NUMBERS": "a list of whole numbers",
    "MATCHER": "a text or a pattern",
    "MATCHERS": "a list of texts or patterns",
    "VALUE": "a value",
    "CONDITION": "a condition",
    "EXPR": "an expression",
    "TYPE": "a type of values, as integer",
    "CLASSES": "a list of classes of characters, or texts with characters",
    "SIGNATURE": "a name with its parameters, as tidy(x)",
    "PATTERN": "a pattern",
    "DELIMITERS": "a list of texts or patterns, or of positions",
    "PARTS": "a list of names for the parts",
    "AMOUNT": "a number of rows, as 5 rows or 0.5%",
    "NAMING": "a text with the holes {column} and {n}",
    "TABLE": "a small table, a line with the columns' names and one line per row",
}


def comes_next(part: Part, cursor: Cursor) -> bool:
    """Whether a value that may be left out comes next; only kinds that no clause word can be taken for."""
    if isinstance(part, Listed):
        return comes_next(part.item.parts[0], cursor)
    if not isinstance(part, Kind):
        return False
    return {
        "NAMES": starts_names,
        "TEXT": starts_text,
        "NUMBER": starts_number,
        "VALUE": starts_value,
        "PARTS": starts_part_name,
    }[part.name](cursor)


def describe_kind(kind: Kind) -> str:
    return KIND_WORDS[kind.name]
