"""What people type first leads to the right line, nine times of ten."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest

from mangler.engine.plan.plan import bind_steps
from mangler.language.foreign_shapes import line_for_shape
from mangler.language.mistake import Refusal
from mangler.recipes.command_line_steps import read_steps
from mangler.table.schema import Column, Schema, ValueType

GUESSES = Path(__file__).with_name("first_guesses.csv")
COLUMNS = Schema(
    (
        *(Column(name) for name in ("kiln", "studio", "potter", "notes", "glazes")),
        Column("made", ValueType.INTEGER),
        Column("fired_on", ValueType.DATE),
    )
)
SHARE = 0.9


def answer_to(typed: str) -> str:
    """All that is said to a statement; nothing where it is right."""
    try:
        steps = read_steps([typed])
    except Refusal as refusal:
        return str(refusal)
    bound = bind_steps(steps, COLUMNS)
    return str(Refusal(bound.mistakes, max(bound.codes))) if bound.mistakes else ""


def typed_first() -> list[str]:
    with GUESSES.open(encoding="utf-8", newline="") as file:
        return [row["typed"] for row in csv.DictReader(file, delimiter=";", quoting=csv.QUOTE_NONE)]


def test_nine_of_ten_lead_to_the_right_line() -> None:
    with GUESSES.open(encoding="utf-8", newline="") as file:
        guesses = [
            (row["typed"], row["said"]) for row in csv.DictReader(file, delimiter=";", quoting=csv.QUOTE_NONE)
        ]
    missed = [f"{typed}  ->  {answer_to(typed)}" for typed, said in guesses if said not in answer_to(typed)]
    assert len(missed) <= len(guesses) * (1 - SHARE), "\n".join(missed)


@pytest.mark.parametrize(
    ("typed", "line"),
    [
        ("update kiln = upper(kiln) where made > 3", "make kiln = upper(kiln) where made > 3"),
        ("select kiln, studio where made > 3", "keep rows where made > 3, then keep columns kiln, studio"),
        ("combine kiln and studio as place", 'join kiln, studio with " " into place'),
        ('left join "kilns.csv" on kiln', 'lookup "kilns.csv" on kiln bring NAME'),
        ('parse notes as date "%d.%m.%Y"', 'convert notes to date written "%d.%m.%Y"'),
        ("convert notes to varchar", "convert notes to text"),
        ("rename column kiln => oven", "rename kiln to oven"),
        ("keep rows top 10", "keep first 10 rows"),
        ("sort by -made", "sort by made descending"),
        ("group by kiln, studio avg(made)", "group by kiln, studio with made_mean = mean(made)"),
        (
            "make t = sum(made) over (partition by kiln order by fired_on)",
            "make t = sum(made) within kiln sorted by fired_on",
        ),
        ('make x = made > 1 ? "a" : "b"', 'make x = if made > 1 then "a" else "b"'),
        ("make x = made ** 3", "make x = made * made * made"),
        ("make x = notes[:3]", "make x = left(notes, 3)"),
        ("trim kiln", ""),
        ("sort by " + "a, " * 400 + "a desc", ""),
    ],
)
def test_statements_of_a_known_shape(typed: str, line: str) -> None:
    assert line_for_shape(typed) == line


def test_what_a_shape_leads_to_is_right() -> None:
    """Each line that is complete is accepted as it is."""
    wrong = {}
    for typed in typed_first():
        line = line_for_shape(typed)
        if line and answer_to(typed) and "NAME" not in line and ", then " not in line and ", or " not in line:
            wrong[typed] = answer_to(line)
    assert len(wrong) > 25 and not any(wrong.values()), {t: a for t, a in wrong.items() if a}
