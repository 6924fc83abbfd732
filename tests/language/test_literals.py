from __future__ import annotations

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.language.cursor import Cursor
from mangler.language.literals import read_name, read_number, read_template, read_text
from mangler.language.mistake import Refusal
from mangler.language.patterns import read_pattern
from mangler.language.source import Source
from mangler.table.select import quote_name


def cursor(text: str) -> Cursor:
    return Cursor(Source("recipe", text), 0, len(text))


@pytest.mark.parametrize(
    ("spelling", "value"),
    [
        ('"plain"', "plain"),
        ('""', ""),
        (r'"a\n\t\r\"\\\{b"', 'a\n\t\r"\\{b'),
        (r'"\u{00A0}\u{1F3FA}"', "\u00a0\U0001f3fa"),
        ("'raw \\n {x} it''s'", "raw \\n {x} it's"),
        ('"# no comment"', "# no comment"),
    ],
)
def test_texts(spelling: str, value: str) -> None:
    assert read_text(cursor(spelling)).value == value


@pytest.mark.parametrize(
    ("spelling", "message", "column"),
    [
        ('"open', "not closed", 1),
        ("'open", "not closed", 1),
        ('"over\nlines"', "not closed", 1),
        (r'"\q"', "not an escape", 2),
        (r'"\1"', "not an escape", 2),
        (r'"\u{D800}"', "hexadecimal", 2),
        (r'"\u{zz}"', "hexadecimal", 2),
        ('"a {b}"', "opens a hole", 4),
        ("“typographic”", "typographic", 1),
        ("bare", "a text is expected", 1),
        ("", "end of the statement", 1),
    ],
)
def test_texts_that_are_none(spelling: str, message: str, column: int) -> None:
    with pytest.raises(Refusal) as refused:
        read_text(cursor(spelling))
    mistake = refused.value.mistakes[0]
    assert message in mistake.message
    assert mistake.advice
    assert mistake.span is not None and mistake.span.column == column


def test_a_plain_text_with_a_hole_points_to_single_quotes() -> None:
    with pytest.raises(Refusal, match="single quotes"):
        read_text(cursor('"{kiln}"'))


def test_holes_are_read_by_whoever_reads_expressions() -> None:
    template = read_template(cursor('"{kiln} / {piece?}!"'), lambda inner: read_name(inner).value)
    parts = [part if isinstance(part, str) else (part.expression, part.optional) for part in template.parts]  # type: ignore[union-attr]
    assert parts == [("kiln", False), " / ", ("piece", True), "!"]


@pytest.mark.parametrize(
    ("spelling", "value"),
    [
        ("12", 12),
        ("1_000", 1000),
        ("0.5", Decimal("0.5")),
        ("-3", -3),
        ("-0.25", Decimal("-0.25")),
        ("007", 7),
    ],
)
def test_numbers(spelling: str, value: object) -> None:
    assert read_number(cursor(spelling)).value == value


@pytest.mark.parametrize("spelling", ["x", "-", "2nd", "--1", ".5"])
def test_numbers_that_are_none(spelling: str) -> None:
    with pytest.raises(Refusal):
        read_number(cursor(spelling))


@pytest.mark.parametrize(
    ("spelling", "value"),
    [
        ("kiln", "kiln"),
        ("größe_2", "größe_2"),
        ("[Fired at?]", "Fired at?"),
        ("[a]]b]", "a]b"),
        (r'["Fired\nat"]', "Fired\nat"),
        ("[2nd]", "2nd"),
        ("[ x ]", " x "),
    ],
)
def test_names(spelling: str, value: str) -> None:
    assert read_name(cursor(spelling)).value == value


@pytest.mark.parametrize("spelling", ["[open", "[]", '["open', '"text"', "2nd", "[over\nlines]", '["a"'])
def test_names_that_are_none(spelling: str) -> None:
    with pytest.raises(Refusal):
        read_name(cursor(spelling))


@given(st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\0"), min_size=1))
def test_every_name_can_be_spelled(name: str) -> None:
    name = name.replace("\r", "")  # a recipe's line ends are folded when it is loaded
    if (name and name.isprintable()) or name.strip():
        spelled = quote_name(name)
        if not any(0xD800 <= ord(c) <= 0xDFFF for c in name):
            assert read_name(cursor(spelled)).value == name


@pytest.mark.parametrize(
    ("spelling", "re2"),
    [
        (r"/a\/b/", "a/b"),
        ("/x/i", "(?i)x"),
        ("/x/sm", "(?sm)x"),
        (r"/[\]\/]/", r"[\]/]"),
        (r"/\\/", r"\\"),
        ("/[]a]/", "[]a]"),
        ("/[^]a]/", "[^]a]"),
    ],
)
def test_patterns(spelling: str, re2: str) -> None:
    assert read_pattern(cursor(spelling)).re2 == re2


@pytest.mark.parametrize(
    ("spelling", "message"),
    [
        ("/open", "not closed"),
        ("//", "empty"),
        ("/x/q", "flags"),
        ("/x/ii", "flags"),
        ("/(?=x)/", "look-ahead"),
        (r"/a\C/", "one byte"),
        (r"/[\C]/", "one byte"),
        ("/(?<!x)y/", "look-behind"),
        (r"/(a)\1/", "back-reference"),
        ("/(?>x)/", "atomic"),
        ("/" + "x" * 10_001 + "/", "10,001 characters"),
    ],
)
def test_patterns_that_are_none(spelling: str, message: str) -> None:
    with pytest.raises(Refusal, match=message):
        read_pattern(cursor(spelling))


def test_brackets_and_escapes_that_only_look_like_look_around() -> None:
    assert read_pattern(cursor(r"/[(?=]\(?=\d/")).re2 == r"[(?=]\(?=\d"
