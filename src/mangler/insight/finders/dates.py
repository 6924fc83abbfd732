"""Text that is really dates, times or both: the forms found, and whether day and month can be distinguished."""

from __future__ import annotations

from datetime import date

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.insight.columns.column import Column
from mangler.insight.columns.content import Content
from mangler.insight.columns.finding import Finding, Found, Kind, Proposal, Stage
from mangler.insight.columns.shape_kinds import ShapeKind, date_forms_of, time_form_of
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.text.shapes import shapes
from mangler.kernels.text.text_view import Flags
from mangler.kernels.values.convert import DATE_FORM, DAY, TIME_FORM, TIMESTAMP_FORM
from mangler.kernels.values.date_forms import read_form
from mangler.language.mistake import enumerate_names
from mangler.language.spelling import spell_text
from mangler.late_dataclass import dataclass
from mangler.table.select import quote_name

MOSTLY = 0.8
COMPACT = "%Y%m%d"
EARLIEST, LATEST = 1900, 2100
"""Years between which eight digits are taken for a date."""
ZONED = r"^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}(:\d{2}(\.\d{1,6})?)?(Z|[+-]\d{2}:?\d{2})$"
OFFSET = r"(?P<offset>Z|[+-]\d{2}:?\d{2})$"
NEAR = 40 * DAY
"""So far from the dates that can be read one way only a date may lie to be of the same time."""


@dataclass(frozen=True)
class DateColumn:
    """`type` is date, time or timestamp; `written` the forms, none for ISO 8601."""

    type: str
    written: tuple[str, ...]
    first: str = ""
    last: str = ""
    """The earliest and the latest, in ISO 8601."""


@dataclass
class _Form:
    """A form that texts of some shapes are of; `rival` reads the same texts with day and month changed over."""

    form: str
    texts: Content
    rival: str = ""
    also: str = ""
    """A form that reads some of the texts which this one does not."""
    question: str = ""


def find_dates(column: Column) -> tuple[Found, DateColumn | None]:
    """One type for the whole column, from all forms in it."""
    said, found = column.said, Found()
    if not said.cells:
        return found, None
    for kinds in ((ShapeKind.TIME,), (ShapeKind.DATE, ShapeKind.TIMESTAMP)):
        flags = said.of_kinds(kinds)
        if said.cells_of(flags) >= MOSTLY * said.cells:
            return _of_forms(column, said, flags, ShapeKind.TIME in kinds)
    zoned = said.matching(ZONED)
    if said.cells_of(zoned) >= MOSTLY * said.cells:
        return _zoned(column, said, zoned)
    if said.matching(r"^\d{8}$").all():
        return _compact(column, said)
    return found, None


def _of_forms(column: Column, said: Content, flags: Flags, times: bool) -> tuple[Found, DateColumn | None]:
    forms = _forms(said.where(flags), times)
    if not forms:
        return Found(), None
    _tell_apart(forms)
    forms.sort(key=lambda one: -one.texts.cells)
    hours = [("%H" in one.form or "%I" in one.form) for one in forms]
    kind = "time" if times else "timestamp" if any(hours) else "date"
    written = tuple(dict.fromkeys(form for one in forms for form in (one.form, one.also) if form))
    question = next((one.question for one in forms if one.question), "")
    good = sum(one.texts.cells for one in forms)
    if good < MOSTLY * said.cells:
        return Found(), None
    if kind == "timestamp" and not all(hours):
        question = question or "Some have a time of day and some have none: what happens to those?"
        written = tuple(form for form in written if "%H" in form or "%I" in form)
    misfits = _misfits(said, forms)
    iso = {"time": TIME_FORM, "date": DATE_FORM, "timestamp": TIMESTAMP_FORM}[kind]
    timed = [one for one, has_hour in zip(forms, hours, strict=True) if has_hour or kind != "timestamp"]
    if said.where(_read(said, timed)).matching(iso).all():
        written = ()
    asked, century = _centuries(forms, date.today())
    first, last = _range(forms, times)
    of = DateColumn(kind, written, first, last)
    rivals = tuple(dict.fromkeys(one.rival or one.form for one in forms))
    clause = f" century {century}" if century is not None else ""
    return _told(column, of, said.cells - good, misfits, question or asked, rivals, century=clause), of


def _forms(content: Content, times: bool) -> list[_Form]:
    """The forms found, each with the texts that it reads; texts that both day first and month first read are marked."""
    encoded = as_dictionary(shapes(content.texts))
    codes = np.asarray(encoded.indices)
    by_forms: dict[tuple[str, ...], list[int]] = {}
    for code, shape in enumerate(encoded.dictionary.to_pylist()):
        choices = (time_form_of(shape),) if times else date_forms_of(shape)
        by_forms.setdefault(choices, []).append(code)
    found: dict[str, _Form] = {}
    by_choice: dict[tuple[str, ...], Content] = {}
    for choices, own in by_forms.items():
        by_choice[choices] = content.where(np.isin(codes, own))
    for choices, texts in _together(by_choice).items():
        reads = {choice: read_form(texts.texts, choice).fits for choice in choices}
        best = max(choices, key=lambda choice: texts.cells_of(reads[choice]))
        if not reads[best].any():
            continue
        one = _Form(best, texts.where(reads[best]))
        swapped = next((other for other in choices if other != best and reads[other].any()), "")
        if swapped and reads[swapped][reads[best]].all():
            one.rival = swapped
        elif swapped and (reads[swapped] & ~reads[best]).any():
            only = texts.where(reads[swapped] & ~reads[best]).most(1)[0][0]
            other = texts.where(reads[best] & ~reads[swapped]).most(1)[0][0]
            one.texts = texts.where(reads[best] | reads[swapped])
            one.also = swapped
            one.question = f"Day and month are in both orders: {other} and {only}. Which rows are which?"
        found[best] = one
    return list(found.values())


def _together(by_choice: dict[tuple[str, ...], Content]) -> dict[tuple[str, ...], Content]:
    """Texts that differ only in whether they could be a year first as well: 04/05/26 and 4/5/26."""
    joined: dict[tuple[str, ...], list[Content]] = {}
    longest: dict[tuple[str, ...], tuple[str, ...]] = {}
    for choices in sorted(by_choice, key=len, reverse=True):
        key = choices[:2]
        longest.setdefault(key, choices)
        joined.setdefault(longest[key], []).append(by_choice[choices])
    return {
        choices: parts[0]
        if len(parts) == 1
        else Content(
            pa.concat_arrays([part.texts for part in parts]), np.concatenate([part.counts for part in parts])
        )
        for choices, parts in joined.items()
    }


def _tell_apart(forms: list[_Form]) -> None:
    """Where day and month could be changed over, the dates that can be read one way only may tell.

    They are all of one time when one reading puts all the others near them, and the other does not.
    """
    certain = [one for one in forms if not one.rival and not one.question]
    for one in forms:
        if not one.rival:
            continue
        example = _example(one)
        if certain:
            moments = np.concatenate([read_form(other.texts.texts, other.form).values for other in certain])
            low, high = moments.min() - NEAR, moments.max() + NEAR
            inside = [_within(one.texts, form, low, high) for form in (one.form, one.rival)]
            ours, theirs = inside
            if ours == 1.0 and theirs < 1.0:
                one.rival = ""
                continue
            if theirs == 1.0 and ours < 1.0:
                one.form, one.rival = one.rival, ""
                continue
        one.question = f"Day or month first in {example}?"


def _example(one: _Form) -> str:
    """A date whose day and month differ, if there is one."""
    differ = read_form(one.texts.texts, one.form).values != read_form(one.texts.texts, one.rival).values
    return one.texts.where(differ).most(1)[0][0] if differ.any() else one.texts.most(1)[0][0]


def _within(texts: Content, form: str, low: int, high: int) -> float:
    values = read_form(texts.texts, form).values
    return texts.cells_of((values >= low) & (values <= high)) / texts.cells


def _read(said: Content, forms: list[_Form]) -> Flags:
    known = pa.concat_arrays([one.texts.texts for one in forms])
    return flags_of(pa.compute.is_in(said.texts, value_set=known))


def _misfits(said: Content, forms: list[_Form]) -> tuple[str, ...]:
    read = _read(said, forms)
    return () if read.all() else tuple(text for text, _ in said.where(~read).most(3))


def _range(forms: list[_Form], times: bool) -> tuple[str, str]:
    moments = np.concatenate([read_form(one.texts.texts, one.form).values for one in forms])
    return _iso(int(moments.min()), times), _iso(int(moments.max()), times)


def _iso(moment: int, times: bool) -> str:
    message = str(np.datetime64(moment, "us").astype("datetime64[s]")).replace("T", " ")
    return message[11:] if times else message.removesuffix(" 00:00:00")


def _centuries(forms: list[_Form], today: date) -> tuple[str, int | None]:
    """A question, and the century to propose, where years of two digits put dates into the future."""
    short = [one for one in forms if "%y" in one.form]
    if not short:
        return "", None
    latest = {one.form: read_form(one.texts.texts, one.form).values for one in short}
    shown = max(short, key=lambda one: int(latest[one.form].max()))
    if latest[shown.form].max() <= (today - date(1970, 1, 1)).days * DAY + NEAR:
        return "", None
    example = shown.texts.texts[int(np.argmax(latest[shown.form]))].as_py()
    question = f"In which century is {example}? Years of two digits lie from 1969 to 2068 by default."
    return question, today.year - 99


def _told(
    column: Column,
    of: DateColumn,
    misfit_cells: int,
    misfits: tuple[str, ...],
    question: str,
    rivals: tuple[str, ...] = (),
    zone: str = "",
    century: str = "",
) -> Found:
    found, name = Found(), {"date": "dates", "time": "times", "timestamp": "dates with times"}[of.type]
    message = f"text that is really {name}"
    if of.written:
        message += f", written {', '.join(of.written)}"
    if misfit_cells:
        examples = ", ".join(map(spell_text, misfits))
        message += f"; {misfit_cells:,} {'is' if misfit_cells == 1 else 'are'} none: {examples}"
        question = question or f"What happens to {examples}?"
    is_fault = bool(of.written or misfit_cells or question)
    cells = column.said.cells - misfit_cells
    found.findings.append(Finding(Kind.DATES, cells, message, question, misfits, is_fault))
    aside = " failures aside" if misfit_cells else ""
    reason = f"every value is {'a date' if of.type != 'time' else 'a time'}"

    def step(written: tuple[str, ...]) -> str:
        forms = f" written {', '.join(map(spell_text, written))}" if written else ""
        return f"convert {column.spelled} to {of.type}{forms}{century}{zone}{aside}"

    found.proposals.append(Proposal(Stage.CONVERT, step(of.written), (Kind.DATES,), reason, question))
    if rivals and of.written and rivals != of.written and question.startswith("Day or month"):
        found.proposals.append(Proposal(Stage.CONVERT, step(rivals), (Kind.DATES,), reason, question))
    return found


def _zoned(column: Column, said: Content, zoned: Flags) -> tuple[Found, DateColumn]:
    of = DateColumn("timestamp", ())
    misfits = tuple(text for text, _ in said.where(~zoned).most(3)) if not zoned.all() else ()
    offsets = pc.extract_regex(said.where(zoned).texts, pattern=OFFSET).field("offset")
    different = sorted({_plain_offset(offset) for offset in offsets.unique().to_pylist()})
    zone, question = different[0] if different[0] != "+00:00" else "UTC", ""
    if len(different) > 1:
        zone = "UTC"
        shown = enumerate_names(different, 3)
        question = (
            f"Their offsets differ: {shown}. One zone for all, or the time that was written and its offset?"
        )
    found = _told(column, of, said.cells - said.cells_of(zoned), misfits, question, zone=f' zone "{zone}"')
    if len(different) > 1:
        own = quote_name(f"{column.name}_offset")
        step = f"capture {column.spelled} by /(Z|[+-]\\d\\d:?\\d\\d)$/ into {own}"
        found.proposals.append(
            Proposal(Stage.SPLIT, step, (Kind.DATES,), "offsets differ", question, said.cells)
        )
    return found, of


def _plain_offset(offset: str) -> str:
    """`Z` and `+0200` as `+00:00` and `+02:00`."""
    if offset == "Z":
        return "+00:00"
    return offset if ":" in offset else f"{offset[:3]}:{offset[3:]}"


def _compact(column: Column, said: Content) -> tuple[Found, DateColumn | None]:
    """Eight digits are dates where every one of them is, in a year that a file may mention."""
    read = read_form(said.texts, COMPACT)
    years = np.array([int(text[:4]) for text in said.values])
    if not read.fits.all() or years.min() < EARLIEST or years.max() > LATEST:
        return Found(), None
    first, last = _iso(int(read.values.min()), False), _iso(int(read.values.max()), False)
    of = DateColumn("date", (COMPACT,), first, last)
    return _told(column, of, 0, (), ""), of
