"""The kinds of differences between cells."""

from __future__ import annotations

import pyarrow as pa
import pytest

from mangler.insight.comparison.cells import ColumnDifferences, Kind, differing, kinds_of


@pytest.mark.parametrize(
    ("before", "after", "kind"),
    [
        (None, "", Kind.NULL_OR_EMPTY),
        ("  ", None, Kind.NULL_OR_EMPTY),
        (None, "a", Kind.NULL),
        ("0", None, Kind.NULL),
        (" a", "a", Kind.WHITE_SPACE),
        ("a\u00a0b", "a b", Kind.WHITE_SPACE),
        ("a  b", "a b", Kind.WHITE_SPACE),
        ("ab", "a b", Kind.OTHER),
        ("Ärger", "ÄRGER", Kind.LETTER_CASE),
        (" Good", "good", Kind.LETTER_CASE),
        ("1.50", "1.5", Kind.NUMBER_SPELLING),
        ("007", "7", Kind.NUMBER_SPELLING),
        ("+1", "1.0", Kind.NUMBER_SPELLING),
        ("-0", "0.00", Kind.NUMBER_SPELLING),
        ("0", "-0.0", Kind.NUMBER_SPELLING),
        ("100", "1000", Kind.OTHER),
        ("10", "1", Kind.OTHER),
        ("12345678901234567890.1", "12345678901234567890.2", Kind.OTHER),
        ("1.222", "1222", Kind.OTHER),
        ("1,5", "1.5", Kind.OTHER),
        ("", "a", Kind.OTHER),
    ],
)
def test_kinds(before: str | None, after: str | None, kind: Kind) -> None:
    one, other = pa.array([before], pa.string()), pa.array([after], pa.string())
    assert differing(one, other).tolist() == [True]
    for pair in ((one, other), (other, one)):
        assert list(Kind)[kinds_of(*pair)[0]] is kind


def test_null_is_like_null_alone() -> None:
    one = pa.array(["a", None, None, ""], pa.string())
    assert differing(one, pa.array(["a", None, "", None], pa.string())).tolist() == [False, False, True, True]


def test_changes_are_counted_by_what_they_are() -> None:
    found = ColumnDifferences("peak")
    before, after = pa.array(["a", "a", "b"]), pa.array(["A", "A", "c"])
    for first in (1, 11):
        rows = [first, first + 1, first + 2]
        found.note(before, after, rows, [row + 100 for row in rows], [pa.array(["x", "y", "z"])])
    assert found.kinds == {Kind.LETTER_CASE: 4, Kind.OTHER: 2} and found.cells == 6
    most = found.most_frequent(1)[0]
    assert (most.before, most.after, most.cells, most.row, most.row_now, most.key) == (
        "a",
        "A",
        4,
        1,
        101,
        ("x",),
    )
