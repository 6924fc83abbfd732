"""Text that is really numbers: their marks, their units, and what a conversion would lose."""

from __future__ import annotations

import re
from collections import Counter

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.insight.columns.column import Column
from mangler.insight.columns.content import Content
from mangler.insight.columns.finding import Finding, Found, Kind, Proposal, Stage
from mangler.insight.columns.shape_kinds import ShapeKind
from mangler.insight.columns.statistics import Numbers
from mangler.insight.finders.number_doubts import are_letters, doubt_of_codes, doubt_of_points, doubt_of_units
from mangler.kernels.arrow import from_numpy
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.text.text_view import Flags, TextArray
from mangler.kernels.values.convert import with_plain_minus
from mangler.kernels.values.number_forms import NumberForm, plain_numbers
from mangler.language.spelling import spell_text
from mangler.late_dataclass import dataclass

PATTERN = (
    r"^(?P<sign>[+-]?)(?P<before>(?:[A-Z]{0,2}[^\s\d.,'’+\-()A-Za-z]{1,2})?|[A-Z]{3}|kr) ?"
    r"(?P<number>[+-]?(?:\d|[.,]\d)(?:[\d.,'’ ]*\d)?[.,]?(?:[eE][+-]?\d+)?) ?(?P<after>[^\s\d.,'’+\-()]{0,6})$"
)
"""A number, squeezed, with a unit at one end: before it a sign or the code of a currency, after it one word.

Letters beyond ASCII before it are looked for on their own: to compile the class of all letters takes ten times as long
as everything else here, and that once per column.
"""
PLAIN = r"^-?\d+(?:\.\d+)?$"
THREE_PLACES = r"^-?\d{1,3}\.\d{3}$"
FORMS = (
    NumberForm(),
    NumberForm(","),
    NumberForm(".", ","),
    NumberForm(",", "."),
    NumberForm(".", " "),
    NumberForm(",", " "),
    NumberForm(".", "'"),
    NumberForm(",", "'"),
    NumberForm(".", "’"),
    NumberForm(",", "’"),
)
"""The ways in which numbers are written, the plainer first."""
MARKS = (",", ".", " ", "'", "’")
MOSTLY = 0.8
"""Share of the cells that must be numbers for the column to be one of numbers."""
MOST_UNITS = 3
MAGNITUDES = frozenset(["k", "K", "m", "M", "mio", "Mio", "bn", "Bn", "tsd", "Tsd", "mln", "t", "T"])
"""Words after a number that multiply it, or may."""
CODE_LENGTH = 7
"""Digits from which numbers of one length are taken for codes: telephones, numbers of articles."""
VERSION_NAME = re.compile(r"(?i)version|release|firmware|revision|build")
LONGEST_NUMBER = 18
MANY = 5
LONG = r"(?:\d[.,' ]?){18}"
"""More digits than any float is written with."""


@dataclass(frozen=True)
class NumberColumn:
    """How a column's numbers are written, and their values."""

    form: NumberForm
    type: str
    units: tuple[str, ...]
    numbers: Numbers
    misfits: tuple[str, ...]


@dataclass(frozen=True)
class _Taken:
    """The cells of a column taken apart: which are numbers, what is beside them, and their digits and marks."""

    said: Content
    fits: Flags
    numbers: Content
    negative: Flags
    """Of the numbers, whether their sign is before a unit in front."""
    units: Counter[str]
    bracketed: bool = False
    plain: bool = False
    """Whether every cell is digits, with a point and a minus at most."""


def find_numbers(column: Column) -> tuple[Found, NumberColumn | None]:
    """Nothing for codes, whose leading zeros or length say that they are none."""
    found = Found()
    if not column.said.cells or column.said.share_of([ShapeKind.NUMBER]) < MOSTLY:
        return found, None
    if _are_versions(column, column.said):
        return found, None
    taken = _taken_apart(column.said)
    if taken is None:
        return found, None
    numbers = taken.numbers
    zeros = numbers.matching(r"^[+-]?0\d")
    if zeros.any():
        found.findings.append(_leading_zeros(numbers, zeros))
        return found, None
    if _are_codes(numbers) or len(taken.units) > MOST_UNITS or are_letters(taken.said, taken.units):
        return found, None
    form, doubt = _form_of(numbers)
    doubt = doubt or doubt_of_units(taken.units) or doubt_of_codes(numbers)
    if taken.bracketed:
        doubt = doubt or "Does a number in brackets mean one below zero, as accountants write it?"
    both = doubt_of_points(numbers)
    if both:
        form, doubt = NumberForm(), both
        numbers = Content(pc.replace_substring(numbers.texts, pattern=",", replacement="."), numbers.counts)
    column_of = _column_of(taken, numbers, form)
    if column_of is None:
        return found, None
    if not doubt and column_of.type == "float" and numbers.matching(LONG).any():
        doubt = "Some have more digits than a float keeps. Are they to be rounded?"
    if taken.bracketed:
        step = f"replace /^\\((.*)\\)$/ with '-\\1' in {column.spelled}"
        found.proposals.append(
            Proposal(Stage.SPELLING, step, (Kind.NUMBERS,), "negative numbers in brackets", doubt)
        )
    if both:
        step = f'replace "," with "." in {column.spelled}'
        found.proposals.append(
            Proposal(Stage.SPELLING, step, (Kind.NUMBERS,), "two marks before the places", doubt)
        )
    fitting = int(column_of.numbers.counts.sum())
    _tell(column, column_of, found, doubt, taken.units, column.said.cells - fitting)
    return found, column_of


def _taken_apart(said: Content) -> _Taken | None:
    """None where too few cells are numbers."""
    if said.matching(PLAIN).all():  # most columns of numbers are, and this is one look
        return _Taken(
            said, np.ones(len(said), np.bool_), said, np.zeros(len(said), np.bool_), Counter(), plain=True
        )
    bracketed = said.matching(r"^\([^()]*\d\)$")
    said = Content(_plain_signs(said.texts, bracketed), said.counts)
    fields = pc.extract_regex(said.texts, pattern=PATTERN)
    fits = flags_of(fields.is_valid()) & ~_is_a_word(fields.field("before"))
    if said.cells_of(fits) < MOSTLY * said.cells:
        return None
    chosen = from_numpy(fits)
    numbers = Content(fields.field("number").filter(chosen), said.counts[fits])
    negative = flags_of(pc.equal(fields.field("sign").filter(chosen), "-"))
    return _Taken(said, fits, numbers, negative, _units(fields, fits, said), bool(bracketed.any()))


def _column_of(taken: _Taken, numbers: Content, form: NumberForm) -> NumberColumn | None:
    """The values of the numbers; None where too few are of the form."""
    if taken.plain and form.is_plain:
        values = np.asarray(pc.cast(numbers.texts, pa.float64()))
        return NumberColumn(form, _type_of(numbers.texts), (), Numbers(values, numbers.counts), ())
    plain, wrong = plain_numbers(numbers.texts, form)
    values = np.asarray(pc.cast(plain, pa.float64()).fill_null(np.nan))
    values = np.where(taken.negative, -values, values)
    right = ~wrong & np.isfinite(values)
    fitting = numbers.where(right)
    if fitting.cells < MOSTLY * taken.said.cells:
        return None
    kind = _type_of(plain.filter(from_numpy(right)))
    misfits = _misfits(taken.said, taken.fits, right)
    named = tuple(unit for unit in taken.units if unit)
    return NumberColumn(form, kind, named, Numbers(values[right], fitting.counts), misfits)


def _plain_signs(texts: TextArray, bracketed: Flags) -> TextArray:
    """The texts with a hyphen for a minus sign or a dash, and for the brackets of accountants."""
    plain = with_plain_minus(texts)
    if not bracketed.any():
        return plain
    inside = pc.replace_substring_regex(plain, pattern=r"^\((.*)\)$", replacement=r"-\1")
    return pc.if_else(from_numpy(bracketed), inside, plain)


def _are_versions(column: Column, said: Content) -> bool:
    """Whether two numbers with a point between them are a version, 14.04 or v1.12: the second one counts on its own.

    A month of two digits or a count from 0 up; amounts end in more different digits.
    """
    if (
        VERSION_NAME.search(column.name)
        and said.cells_of(said.matching(r"^v?\d+\.\d+$")) >= MOSTLY * said.cells
    ):
        return True
    two = said.matching(r"^\d{1,2}\.(?:0[1-9]|1[0-2])$")
    if said.cells < MANY or said.cells_of(two) < MOSTLY * said.cells:
        return False
    tails = {text.split(".")[1] for text in said.where(two).values}
    heads = {text.split(".")[0] for text in said.where(two).values}
    return 1 < len(tails) <= 4 and len(heads) > 2


def _is_a_word(before: TextArray) -> Flags:
    """Whether what is before a number is a word, and no sign; those known by their code are fine."""
    texts = [text for text in before.unique().to_pylist() if text and not text.isascii()]
    words = [text for text in texts if any(one.isalpha() and not one.isascii() for one in text)]
    return flags_of(pc.is_in(before, value_set=pa.array(words, pa.string())))


def _leading_zeros(numbers: Content, zeros: Flags) -> Finding:
    examples = tuple(text for text, _ in numbers.where(zeros).most(3))
    message = f"leading zeros, as in {', '.join(examples)}: a conversion to numbers would lose them"
    return Finding(Kind.LEADING_ZEROS, numbers.cells_of(zeros), message, "", examples, is_fault=False)


def _are_codes(numbers: Content) -> bool:
    """Whole numbers all of one length, too long for a number, or all with a plus: postcodes, articles, telephones."""
    if not numbers.matching(r"^\+?\d+$").all():
        return False
    lengths = np.asarray(pc.utf8_length(numbers.texts))
    if (lengths > LONGEST_NUMBER).any():
        return True
    if numbers.matching(r"^\+\d{7,}$").all():
        return True
    same = bool((lengths == lengths[0]).all()) and int(lengths[0]) >= CODE_LENGTH
    return same and len(numbers) >= MANY


def _units(fields: pa.StructArray, fits: Flags, said: Content) -> Counter[str]:
    """The words before or after the numbers with their cells; none is empty."""
    units: Counter[str] = Counter()
    texts = zip(fields.field("before").to_pylist(), fields.field("after").to_pylist(), strict=True)
    for (before, after), fit, cells in zip(texts, fits.tolist(), said.counts.tolist(), strict=True):
        if fit:
            units[before or after or ""] += cells
            if before and after:
                units[after] += cells
    return units


def _form_of(numbers: Content) -> tuple[NumberForm, str]:
    """The form that most cells are of, the plainest first; and what is a reason against it."""
    if numbers.matching(r"^[+-]?\d+$").all():
        return FORMS[0], ""
    if numbers.matching(PLAIN).all() and not numbers.matching(THREE_PLACES).all():
        with_point = numbers.where(numbers.matching(r"\."))
        if not with_point.matching(THREE_PLACES).all():
            return FORMS[0], ""  # a mark before two digits is between no thousands
    forms = _possible_forms(numbers)
    covered = []
    for form in forms:
        _, wrong = plain_numbers(numbers.texts, form)
        covered.append(numbers.cells_of(~wrong))
    best = max(covered)
    equal = [form for form, cells in zip(forms, covered, strict=True) if cells == best]
    first = equal[0]
    if first in (FORMS[0], FORMS[1]):
        rival = next((form for form in equal if form.grouping == first.point), None)
        mark = "\\" + first.point
        marked = numbers.where(numbers.matching(mark))
        if rival is not None and len(marked) and not _wrong(marked, first) | _wrong(marked, rival):
            return _point_or_grouping(numbers, first, rival, mark)
    return first, ""


def _possible_forms(numbers: Content) -> list[NumberForm]:
    """The forms whose marks are there: what the others read is read by these too."""
    there = {mark for mark in MARKS if pc.any(pc.match_substring(numbers.texts, pattern=mark)).as_py()}
    return [
        form
        for form in FORMS
        if form.grouping in (*there, "") and (form.point == "." or "," in there or form.grouping == ".")
    ]


def _wrong(numbers: Content, form: NumberForm) -> bool:
    return bool(plain_numbers(numbers.texts, form)[1].any())


def _point_or_grouping(
    numbers: Content, as_point: NumberForm, as_grouping: NumberForm, mark: str
) -> tuple[NumberForm, str]:
    """Every mark is three digits before the end: 1.222 may be little more than one, or 1222.

    Values without the mark tell: what is meant is of their size.
    """
    # No thousand starts with nought, and nobody groups the digits of a number with an exponent.
    if numbers.matching(f"^[+-]?0{mark}|[eE]").any():
        return as_point, ""
    marked = numbers.matching(mark)
    with_mark, without = numbers.where(marked), numbers.where(~marked)
    example = with_mark.most(1)[0][0]
    small = _middle(with_mark, as_point)
    large = _middle(with_mark, as_grouping)
    if without.cells >= 2 and small > 0 and large > 0:
        middle = _middle(without, NumberForm())
        if middle > 0:
            to_small, to_large = abs(np.log(middle / small)), abs(np.log(middle / large))
            if abs(to_small - to_large) > 2:
                return (as_point, "") if to_small < to_large else (as_grouping, "")
    return as_point, f"Is {example} {_plainly(example, as_point)}, or {_plainly(example, as_grouping)}?"


def _plainly(text: str, form: NumberForm) -> str:
    plain, _ = plain_numbers(pa.array([text]), form)
    number = float(plain[0].as_py())
    return f"{number:,.0f}".replace(",", "") if number == int(number) else f"{number}"


def _middle(content: Content, form: NumberForm) -> float:
    plain, wrong = plain_numbers(content.texts, form)
    values = np.abs(np.asarray(pc.cast(plain.filter(from_numpy(~wrong)), pa.float64())))
    values = values[np.isfinite(values)]
    return float(np.median(values)) if len(values) else 0.0


def _type_of(plain: TextArray) -> str:
    if not pc.any(pc.match_substring_regex(plain, pattern=r"[.eE]")).as_py():
        return "integer"
    if pc.any(pc.match_substring_regex(plain, pattern=r"[eE]|\.\d{10}|\d{19}")).as_py():
        return "float"
    return "decimal"


def _misfits(said: Content, fits: Flags, right: npt.NDArray[np.bool_]) -> tuple[str, ...]:
    good = fits.copy()
    good[np.flatnonzero(fits)[~right]] = False
    return tuple(text for text, _ in said.where(~good).most(3)) if not good.all() else ()


def _tell(
    column: Column, of: NumberColumn, found: Found, doubt: str, units: Counter[str], misfit_cells: int
) -> None:
    how = [f"unit {' and '.join(of.units)}"] * bool(of.units)
    how += [f'"{of.form.grouping}" between thousands'] * bool(of.form.grouping)
    how += [f'decimal "{of.form.point}"'] * (of.form.point == "," and of.type != "integer")
    message = f"text that is really {of.type} numbers" + f" ({', '.join(how)})" * bool(how)
    question = doubt
    if misfit_cells:
        examples = ", ".join(map(spell_text, of.misfits))
        message += f"; {misfit_cells:,} {'is' if misfit_cells == 1 else 'are'} none: {examples}"
        question = question or f"What happens to {examples}?"
    if len(of.units) > 1:
        shares = ", ".join(f"{unit} {cells:,}" for unit, cells in units.most_common() if unit)
        question = question or f"Which unit is meant? {shares}"
    elif of.units and of.units[0] in MAGNITUDES:
        question = question or f"Does {of.units[0]} mean thousands or the like?"
    is_fault = bool(how or misfit_cells or question)
    found.findings.append(
        Finding(Kind.NUMBERS, column.said.cells - misfit_cells, message, question, of.misfits, is_fault)
    )
    step = f"convert {column.spelled} to {of.type}"
    if of.form.point == "," and of.form.grouping != "." and of.type != "integer":
        step += ' point ","'
    if of.form.grouping:
        step += f" grouping {spell_text(of.form.grouping)}"
    if of.units:
        step += f" without {', '.join(map(spell_text, of.units))}"
    if misfit_cells:
        step += " failures aside"
    reason = "every value is a number" + f": {', '.join(how)}" * bool(how)
    found.proposals.append(Proposal(Stage.CONVERT, step, (Kind.NUMBERS,), reason, question))
