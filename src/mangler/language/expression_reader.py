"""Reads expressions off a cursor, by recursive descent.

A word is an operator only where an operator can be, so columns may be called `and` or `between`; only
`if not true false null` are reserved.
"""

from __future__ import annotations

from mangler.language.call_reader import glue, read_call
from mangler.language.columns import read_columns
from mangler.language.cursor import Cursor
from mangler.language.expression import (
    KINDS_OF_VALUE,
    RESERVED,
    Between,
    Chain,
    Choice,
    Column,
    Each,
    Expression,
    Kindness,
    Membership,
    Operation,
    Several,
)
from mangler.language.expression_habits import refuse_call_of_if, refuse_case_when, refuse_habits
from mangler.language.literals import (
    TYPOGRAPHIC_QUOTES,
    Name,
    Number,
    Truth,
    read_name,
    read_number,
    read_template,
    starts_number,
    starts_text,
)
from mangler.language.mistake import Refusal
from mangler.language.patterns import read_pattern
from mangler.language.source import SourceSpan

DEEPEST_NESTING = 40


def read_expression(cursor: Cursor) -> Expression:
    try:
        return _Reader(cursor).read(0)
    except RecursionError:  # whoever calls may be deep down already
        raise _too_deep(cursor) from None


def _too_deep(cursor: Cursor) -> Refusal:
    return cursor.mistake(
        "nested-too-deep",
        f"this expression is nested more than {DEEPEST_NESTING} deep",
        "Make a column for an inner part first.",
    )


class _Reader:
    """`depth` is how many readings go on around this one; a hole of a text is read by a reader of its own."""

    def __init__(self, cursor: Cursor, depth: int = 0) -> None:
        self.cursor = cursor
        self.depth = depth

    def read(self, level: int) -> Expression:
        """Reads an expression whose operators bind at least as tightly as `level` of LEVELS."""
        self.depth += 1
        if self.depth > DEEPEST_NESTING * (len(LEVELS) + 1):
            raise _too_deep(self.cursor)
        try:
            return LEVELS[level](self, level)
        finally:
            self.depth -= 1

    def choice(self, level: int) -> Expression:
        start = self.start()
        if self.cursor.peek_word() != "if":
            return self.read(level + 1)
        arms = []
        while self.cursor.take_word("if"):
            refuse_call_of_if(self)
            condition = self.read(level)
            self.expect_word("then", "if condition then one value else another")
            arms.append((condition, self.read(level)))
            self.expect_word("else", "if condition then one value else another")
        other = self.read(level)
        return Choice(tuple(arms), other, self.cursor.span(start))

    def words_between(self, level: int) -> Expression:
        """`or` and `and`: a word between operands, any number of times, from the left."""
        word = "or" if LEVELS[level - 1] is _Reader.choice else "and"
        start = self.start()
        first = self.read(level + 1)
        links: list[tuple[str, Expression]] = []
        while True:
            self.refuse_habits()
            if not self.cursor.take_word(word):
                return _chained(first, links, self.cursor.span(start))
            links.append((word, self.read(level + 1)))

    def negation(self, level: int) -> Expression:
        start = self.start()
        if self.cursor.take_word("not"):
            return Operation("not", (self.read(level),), self.cursor.span(start))
        return self.read(level + 1)

    def comparison(self, level: int) -> Expression:
        start = self.start()
        several = self.several(start, level)
        if several is not None:
            return several
        left = self.read(level + 1)
        compared = self.compare(left, start, level)
        if compared is None:
            return left
        again = self.cursor.mark()
        if self.compare(compared, start, level) is not None:
            self.cursor.rewind(again)
            raise self.cursor.mistake(
                "chained-comparison",
                "comparisons do not chain",
                "Write a < b and b < c, or b between a and c.",
            )
        return compared

    def several(self, start: int, level: int) -> Expression | None:
        """`all of (columns) test` and `any of (columns) test`, or None where that does not come next."""
        cursor = self.cursor
        before = cursor.mark()
        word = cursor.peek_word()
        if word not in ("all", "any") or not cursor.take_word(word, "of") or cursor.peek() != "(":
            cursor.rewind(before)
            return None
        opening = cursor.offset
        cursor.take_mark("(")
        first = len(cursor.tokens)
        if cursor.peek() == ")":
            raise cursor.mistake(
                "columns-needed",
                "no column is between these brackets",
                f"Write {word} of (kiln, fired_on) is null, or {word} of (*) is blank.",
            )
        columns = read_columns(cursor)
        self.close_bracket(opening)
        glue(cursor, first)
        each = Each(cursor.span(start))
        test = self.compare(each, cursor.offset, level)
        if test is None:
            marks = [mark for mark in "+-*/%" if cursor.starts_with(mark)]
            what = f"{marks[0]} makes a value" if marks else f"found {cursor.found()}"
            raise cursor.mistake(
                "test-needed",
                f"a test of each column is expected after {word} of (…): {what}",
                f'Write {word} of (…) is null, {word} of (…) = "x", {word} of (…) matches /…/.',
            )
        return Several(word == "all", columns, test, cursor.span(start))

    def compare(self, left: Expression, start: int, level: int) -> Expression | None:
        """The comparison that follows `left`, or None when none does."""
        cursor = self.cursor
        self.refuse_habits()
        for mark in ("!=", "<=", ">=", "=", "<", ">"):
            if cursor.take_mark(mark):
                right = self.read(level + 1)
                self.refuse_null(left, right, mark)
                return Operation(mark, (left, right), cursor.span(start))
        negated = False
        before = cursor.mark()
        first, second = cursor.peek_words()
        if first == "not" and second in ("in", "between", "matches", "contains", "starts", "ends"):
            cursor.take_word("not")
            negated, first = True, second
        test = self.word_test(left, first, start, level)
        if test is None:
            cursor.rewind(before)
            return None
        return Operation("not", (test,), cursor.span(start)) if negated else test

    def word_test(self, left: Expression, word: str, start: int, level: int) -> Expression | None:
        cursor = self.cursor
        if word == "in":
            here = cursor.mark()
            cursor.take_word("in")
            if starts_text(cursor) or cursor.peek() == "[":
                raise cursor.mistake(
                    "missing-word",
                    f"( is expected here, found {cursor.found()}",
                    f'The choices are written in round brackets: {left.span.text} in ("a", "b").',
                )
            if cursor.peek() != "(":
                cursor.rewind(here)
                return None
            return Membership(left, self.arguments("a value"), cursor.span(start))
        if word == "between":
            cursor.take_word("between")
            low = self.read(level + 1)
            self.expect_word("and", "x between low and high")
            return Between(left, low, self.read(level + 1), cursor.span(start))
        if word == "is":
            return self.kind_test(left, start)
        if word == "matches":
            cursor.take_word("matches")
            if cursor.peek() != "/":
                raise cursor.mistake(
                    "pattern-needed",
                    f"a pattern is expected after matches, found {cursor.found()}",
                    'Write name matches /…/. A text is looked for with contains "…".',
                )
            return Operation("matches", (left, read_pattern(cursor)), cursor.span(start))
        for words in (("contains",), ("starts", "with"), ("ends", "with")):
            if word == words[0] and cursor.take_word(*words):
                return Operation(" ".join(words), (left, self.read(level + 1)), cursor.span(start))
        if word == "like":
            raise cursor.mistake(
                "foreign-operator",
                "like is not a comparison",
                'Write contains "…", starts with "…", or matches /…/.',
            )
        return None

    def kind_test(self, left: Expression, start: int) -> Expression:
        cursor = self.cursor
        cursor.take_word("is")
        negated = cursor.take_word("not")
        word = cursor.peek_word()
        if word not in KINDS_OF_VALUE:
            raise cursor.mistake(
                "unknown-kind",
                f"after is, a kind of value is expected, found {cursor.found()}",
                f"Known are {', '.join(KINDS_OF_VALUE)}. Two values are compared with =.",
            )
        cursor.take_word(word)
        test = Kindness(left, word, cursor.span(start))
        return Operation("not", (test,), cursor.span(start)) if negated else test

    def arithmetic(self, level: int) -> Expression:
        """`+ -`, and one level tighter `* / %`, from the left."""
        marks = ("+", "-") if LEVELS[level - 1] is _Reader.comparison else ("*", "/", "%")
        start = self.start()
        first = self.read(level + 1)
        links: list[tuple[str, Expression]] = []
        while True:
            for mark in marks:
                if self.cursor.take_mark(mark):
                    links.append((mark, self.read(level + 1)))
                    break
            else:
                return _chained(first, links, self.cursor.span(start))

    def minus(self, level: int) -> Expression:
        start = self.start()
        if self.cursor.peek() == "-" and not starts_number(self.cursor):
            self.cursor.take_mark("-")
            self.cursor.skip()
            before = len(self.cursor.tokens)
            inner = self.read(level)
            if not isinstance(inner, Number):  # a sign glued to digits would be part of the number
                glue(self.cursor, before)
            return Operation("-", (inner,), self.cursor.span(start))
        return self.operand()

    def operand(self) -> Expression:
        cursor = self.cursor
        start = self.start()
        if cursor.take_mark("("):
            before = len(cursor.tokens)
            inner = self.read(0)
            self.close_bracket(start)
            glue(cursor, before)
            return inner
        if starts_number(cursor):
            return read_number(cursor)
        if starts_text(cursor):
            return read_template(cursor, lambda inner: _Reader(inner, self.depth).read(0))
        if cursor.peek() == "/":
            return read_pattern(cursor)
        word = cursor.peek_word()
        if word in ("true", "false", "null"):
            cursor.take_word(word)
            value = {"true": True, "false": False, "null": None}[word]
            return Truth(value, cursor.span(start))
        if word in RESERVED:
            raise cursor.mistake(
                "misplaced-word",
                f"{word} cannot be here",
                f"A column of that name is written in brackets: [{word}].",
            )
        if not word and cursor.peek() != "[":
            self.refuse_habits()
            if cursor.peek() and cursor.peek() in TYPOGRAPHIC_QUOTES:
                return read_template(cursor, None)  # which refuses them
            raise cursor.mistake(
                "value-needed",
                f"a value is expected here, found {cursor.found()}",
                'Values are columns, texts "…", numbers, true, false, null, or function(…).',
            )
        return self.name_or_call(start)

    def name_or_call(self, start: int) -> Expression:
        cursor = self.cursor
        name: Name = read_name(cursor)
        text = cursor.source.text
        spelled = name.value
        if text.startswith(".", cursor.offset) and name.span.text == name.value:
            cursor.take(1, glued=True)
            function = cursor.peek_word()
            if not function:
                raise cursor.mistake(
                    "function-name-needed",
                    f'a function name is expected after "{spelled}."',
                    "Write house.tidy(tag).",
                )
            cursor.take(len(function), glued=True)
            spelled = f"{spelled}.{function}"
        refuse_case_when(cursor, name)
        if cursor.peek() != "(" or name.span.text != name.value:
            if spelled != name.value:
                raise cursor.mistake(
                    "missing-arguments", f'"{spelled}" needs its arguments', f"Write {spelled}(…)."
                )
            return Column(name.value, name.span)
        return self.call(spelled, start)

    def call(self, function: str, start: int) -> Expression:
        return read_call(self, function, start)

    def arguments(self, what: str) -> tuple[Expression, ...]:
        cursor = self.cursor
        opening = cursor.offset
        cursor.take_mark("(")
        before = len(cursor.tokens)
        if cursor.peek() == ")":
            raise cursor.mistake("missing-word", f"{what} is expected here", 'Write in ("a", "b").')
        items = [self.read(0)]
        while cursor.take_mark(",", glued=True):
            items.append(self.read(0))
        self.close_bracket(opening)
        glue(cursor, before)
        return tuple(items)

    # Helpers

    def start(self) -> int:
        self.cursor.skip()
        return self.cursor.offset

    def expect_word(self, word: str, form: str) -> None:
        if not self.cursor.take_word(word):
            raise self.cursor.mistake(
                "missing-word", f"{word} is expected here, found {self.cursor.found()}", f"Write {form}."
            )

    def close_bracket(self, opening: int) -> None:
        if not self.cursor.take_mark(")", glued=True):
            raise self.cursor.mistake(
                "missing-word",
                f") is expected here, found {self.cursor.found()}",
                "Each ( needs its ).",
                None if not self.cursor.at_end() else self.cursor.span(opening, opening + 1),
            )

    def refuse_habits(self) -> None:
        refuse_habits(self.cursor)

    def refuse_null(self, left: Expression, right: Expression, mark: str) -> None:
        for side in (left, right):
            if isinstance(side, Truth) and side.value is None:
                better = "is null" if mark == "=" else "is not null"
                raise self.cursor.mistake(
                    "null-comparison",
                    f"{mark} null is never true: null is not a value, and equals nothing",
                    f"Write {better}.",
                    side.span,
                )


def _chained(first: Expression, links: list[tuple[str, Expression]], span: SourceSpan) -> Expression:
    if not links:
        return first
    if len(links) == 1:
        return Operation(links[0][0], (first, links[0][1]), span)
    return Chain(first, tuple(links), span)


LEVELS = (
    _Reader.choice,
    _Reader.words_between,
    _Reader.words_between,
    _Reader.negation,
    _Reader.comparison,
    _Reader.arithmetic,
    _Reader.arithmetic,
    _Reader.minus,
)
