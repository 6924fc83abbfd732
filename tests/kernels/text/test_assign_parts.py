"""Parts given out to columns: against a model that goes through a row's parts one by one, and case by case."""

from __future__ import annotations

import re

import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.cutting import parts_of

from mangler.kernels.text.assign_parts import Slot, hand_out
from mangler.kernels.text.delimiters import Delimiters
from mangler.kernels.text.parts import cut

SEMICOLON = Delimiters((";",))
CELLS = st.lists(
    st.none()
    | st.lists(
        st.sampled_from(["", " ", "Dr.", "Ms.", "Ines", "K.", "Kallo", "K. ", "Dr.x"]), max_size=6
    ).map(";".join),
    max_size=10,
)
SLOTS = st.lists(
    st.builds(Slot, st.just(True))
    | st.builds(Slot, st.just(False))
    | st.builds(Slot, st.just(False), st.sampled_from([r"(Dr|Ms)\.", r"\p{Lu}\."])),
    min_size=1,
    max_size=5,
)


def given_out(
    parts: list[str], slots: list[Slot], absent: str | None, missing: str | None
) -> tuple[list[str | None], bool, list[str]]:
    """The values of one row, whether it has too few parts, and what is left over."""
    if not parts:
        return [None] * len(slots), False, []
    left, values, too_few = list(parts), [], False
    for number, slot in enumerate(slots):
        needed = sum(later.required for later in slots[number + 1 :])
        enough = len(left) - 1 >= needed
        if slot.required:
            takes = bool(left)
        elif not slot.pattern:
            takes = bool(left) and enough
        else:
            pattern = slot.pattern.replace(r"\p{Lu}", "[A-Z]")
            fits = bool(left) and (
                re.fullmatch(pattern, left[0].strip()) is not None or (not left[0] and enough)
            )
            takes = fits
        if takes:
            values.append(left.pop(0) or absent)
        elif slot.required:
            too_few = True
            values.append(missing)
        else:
            values.append(absent)
    return values, too_few, left


@settings(max_examples=400)
@given(
    cells=CELLS,
    slots=SLOTS,
    absent=st.sampled_from([None, "?"]),
    missing=st.sampled_from([None, "-"]),
    trim=st.booleans(),
    drop=st.booleans(),
)
def test_parts_go_where_the_rules_say(
    cells: list[str | None],
    slots: list[Slot],
    absent: str | None,
    missing: str | None,
    trim: bool,
    drop: bool,
) -> None:
    out = hand_out(cut(pa.array(cells, pa.string()), SEMICOLON, trim, drop), slots, absent, missing)
    columns = [column.to_pylist() for column in out.columns]
    for row, cell in enumerate(cells):
        parts = parts_of(cell, SEMICOLON, trim, drop)
        values, too_few, left = given_out(parts, slots, absent, missing)
        assert [column[row] for column in columns] == values
        assert out.too_few[row] == too_few
        assert out.too_many[row] == any(left)


NAME = [Slot(False, r"(Dr|Ms)\."), Slot(True), Slot(False, r"\p{Lu}\."), Slot(True)]
PLAIN = [Slot(True), Slot(False), Slot(False), Slot(True)]


@pytest.mark.parametrize(
    ("cell", "slots", "values"),
    [
        ("Dr.;Ines;K.;Kallo", NAME, ["Dr.", "Ines", "K.", "Kallo"]),
        ("Ines;Kallo", NAME, [None, "Ines", None, "Kallo"]),
        ("Ines;K.;Kallo", NAME, [None, "Ines", "K.", "Kallo"]),
        (
            ";Ines;;Kallo",
            NAME,
            [None, "Ines", None, "Kallo"],
        ),  # empty parts take the places of optional names
        ("Dr.;Kallo", NAME, ["Dr.", "Kallo", None, None]),  # what matches is taken, though one lacks then
        ("Ines;Dr.;Kallo", NAME, [None, "Ines", None, "Dr."]),
        ("a;b", PLAIN, ["a", None, None, "b"]),
        ("a;b;c", PLAIN, ["a", "b", None, "c"]),
        ("a;;c", PLAIN, ["a", None, None, "c"]),
        ("a", PLAIN, ["a", None, None, None]),
        ("a;b;c;d;;", PLAIN, ["a", "b", "c", "d"]),
        ("", PLAIN, [None] * 4),
        (" ", PLAIN, [None] * 4),
        (None, PLAIN, [None] * 4),
    ],
)
def test_cases(cell: str | None, slots: list[Slot], values: list[str | None]) -> None:
    out = hand_out(cut(pa.array([cell], pa.string()), SEMICOLON), slots)
    assert [column[0].as_py() for column in out.columns] == values


@pytest.mark.parametrize(
    ("cell", "last"),
    [
        ("a;b", "b"),
        ("a; b ; c ;d ", "b ; c ;d"),
        ("a;;;", None),  # empty parts left over are ignored
        ("a;;;d", ";;d"),
        ('a;b;"c";', 'b;"c";'),
    ],
)
def test_the_rest_stays_as_it_stands(cell: str, last: str | None) -> None:
    out = hand_out(cut(pa.array([None, cell, "x"]), SEMICOLON), [Slot(True), Slot(True)], keep_rest=True)
    assert out.columns[1].to_pylist() == [None, last, None]


def test_a_rest_that_the_last_name_did_not_take_goes_there_all_the_same() -> None:
    slots = [Slot(True), Slot(False, r"\d+")]
    out = hand_out(cut(pa.array(["a;1", "a;b;c"]), SEMICOLON), slots, keep_rest=True)
    assert out.columns[1].to_pylist() == ["1", "b;c"]
    assert out.too_many.tolist() == [False, True]
