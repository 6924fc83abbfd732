from mangler.language.mistake import Mistake, describe, enumerate_names, nearest
from mangler.language.source import Source, SourceSpan


def test_a_mistake_shows_where_what_the_line_and_the_way_out() -> None:
    source = Source("kiln-log.mangler", 'mangler 1\ntrim pottr squeeze\nfill a with "b"')
    start = source.text.index("pottr")
    mistake = Mistake(
        "unknown-column",
        'the extract has no column "pottr"',
        "Nearest: potter.",
        SourceSpan(source, start, start + 5),
    )
    assert describe(mistake) == (
        'kiln-log.mangler, line 2, column 6: the extract has no column "pottr"\n'
        "    trim pottr squeeze\n"
        "         ^^^^^\n"
        "  Nearest: potter."
    )


def test_the_mark_is_under_wide_and_combining_characters() -> None:
    source = Source("r", "trim 窯, e\u0301, x")
    start = source.text.index("x")
    quoted, mark = describe(Mistake("wrong-type", "m", "", SourceSpan(source, start, start + 1))).split("\n")[
        1:
    ]
    # 窯 takes two columns of the screen, the accent none.
    assert mark.index("^") == quoted.index("x") + 1 - 1


def test_a_long_line_is_cut_around_the_mark() -> None:
    source = Source("r", "trim " + "column, " * 60 + "oops" + ", column" * 60)
    start = source.text.index("oops")
    quoted, mark = describe(Mistake("wrong-type", "m", "", SourceSpan(source, start, start + 4))).split("\n")[
        1:
    ]
    assert len(quoted) < 110
    assert quoted[mark.index("^") : mark.rindex("^") + 1] == "oops"


def test_a_place_at_the_very_end_still_has_a_mark() -> None:
    source = Source("r", "trim")
    assert describe(Mistake("wrong-type", "m", "", SourceSpan(source, 4, 5))).endswith("    trim\n        ^")


def test_nearest_minds_no_letter_case() -> None:
    assert nearest("Pottr", ["kiln", "potter"]) == ["potter"]
    assert nearest("zzz", ["kiln", "potter"]) == []


def test_many_names_are_counted() -> None:
    assert enumerate_names(list("abc")) == "a, b, c"
    assert enumerate_names([f"c{i}" for i in range(12)]) == "c0, c1, c2, c3, c4 and 7 more"
