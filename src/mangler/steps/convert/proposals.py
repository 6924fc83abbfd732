"""Reads values that do not convert in other ways, and names the clause that would read them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.keys import cell_hashes
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.text_view import Flags, view
from mangler.kernels.text.white_space import trim
from mangler.language.spelling import spell_text
from mangler.steps.convert.conversions import Conversion, conversion_of
from mangler.table.schema import ValueType
from mangler.table.tally import MOST_SAMPLED, Tally
from mangler.table.types import NUMERIC

MOST_UNITS, LONGEST_UNIT = 8, 6
LONGEST_TRIED = 200
"""Bytes of a text that some other form may read."""
DATES = (
    "%d/%m/%Y",
    "%m/%d/%Y",
    "%d.%m.%Y",
    "%d-%m-%Y",
    "%Y/%m/%d",
    "%Y%m%d",
    "%d %b %Y",
    "%b %d, %Y",
    "%d/%m/%y",
    "%d.%m.%y",
)
TIMES = ("%H:%M", "%H:%M:%S", "%I:%M %p")
WORDS = (("yes", "no"), ("y", "n"), ("1", "0"), ("x", "-"))


def note_failing(column: ColumnArray, failed: Flags, tally: Tally) -> None:
    """Keeps some of the texts that fail: what would read them is asked once, in the end."""
    if not pa.types.is_string(column.type):
        return
    encoded = as_dictionary(column.filter(from_numpy(failed)))
    values = encoded.dictionary
    counts = np.bincount(np.asarray(encoded.indices.drop_null()), minlength=len(values))
    digests = cell_hashes(values, 0)
    chosen = np.flatnonzero(view(values).lengths <= LONGEST_TRIED)
    if len(chosen) > MOST_SAMPLED:
        highest = np.partition(digests[chosen], MOST_SAMPLED)[MOST_SAMPLED]
        chosen = chosen[digests[chosen] <= highest]  # and those that share it, of which the tally chooses
    texts = values.take(from_numpy(chosen)).to_pylist()
    tally.note_sample(zip(texts, digests[chosen].tolist(), counts[chosen].tolist(), strict=True))


def _others(values: ColumnArray, wanted: Conversion) -> Iterator[tuple[str, Conversion]]:
    """Conversions that differ from what is wanted in one clause, each with that clause."""
    kind = wanted.kind
    if kind in NUMERIC:
        yield from _numbers(values, wanted)
    elif kind in (ValueType.DATE, ValueType.TIME, ValueType.TIMESTAMP):
        yield from _moments(wanted)
    elif kind is ValueType.BOOLEAN and not (wanted.true or wanted.false):
        for true, false in WORDS:
            clause = f"true {spell_text(true)} false {spell_text(false)} anycase"
            yield clause, replace(wanted, true=(true,), false=(false,), anycase=True)


def _numbers(values: ColumnArray, wanted: Conversion) -> Iterator[tuple[str, Conversion]]:
    if wanted.kind is ValueType.INTEGER:
        yield "to decimal", replace(wanted, kind=ValueType.DECIMAL)
    if not wanted.grouping:
        for mark in ",'’ ":
            yield f"grouping {spell_text(mark)}", replace(wanted, grouping=mark)
        if wanted.point == ".":
            yield 'grouping "."', replace(wanted, grouping=".", point=",")
            yield 'point ","', replace(wanted, point=",")
    if not wanted.units:
        units = _units(values)
        if units:
            yield f"without {', '.join(map(spell_text, units))}", replace(wanted, units=tuple(units))
    if not wanted.negatives:
        for negatives in ("parentheses", "trailing"):
            yield f"negatives {negatives}", replace(wanted, negatives=negatives)


def _units(values: ColumnArray) -> Sequence[str]:
    """What is before or after the digits of a text."""
    found: Counter[str] = Counter()
    bare = trim(values).array
    for pattern in (r"^(?P<unit>[^0-9.,+-]+)[0-9.,+-]", r"[0-9](?P<unit>[^0-9.,]+)$"):
        fields = pc.struct_field(pc.extract_regex(bare, pattern=pattern), "unit").drop_null().to_pylist()
        found.update(unit.strip() for unit in fields)
    return sorted(unit for unit, _ in found.most_common(MOST_UNITS) if unit and len(unit) <= LONGEST_UNIT)


def _moments(wanted: Conversion) -> Iterator[tuple[str, Conversion]]:
    forms = {
        ValueType.DATE: DATES,
        ValueType.TIME: TIMES,
        ValueType.TIMESTAMP: tuple(f"{date} {time}" for date in DATES for time in TIMES),
    }[wanted.kind]
    for form in forms:
        if form in wanted.written:
            continue
        said = ", ".join(map(spell_text, (*wanted.written, form)))
        yield f"written {said}", replace(wanted, written=(form,), serial=False)
    if not wanted.serial and wanted.kind is not ValueType.TIME:
        yield "written serial", replace(wanted, serial=True, written=())


def proposal_of(tally: Tally, wanted: Conversion) -> str:
    """`grouping "," would read 14 of the 16 values`; nothing where no clause reads any. Of equal ones the first."""
    if not tally.sample:
        return ""
    values = pa.array(sorted(tally.sample), pa.string())
    counts = np.array([tally.sample[text][1] for text in values.to_pylist()], np.int64)
    read: dict[str, int] = {}
    for clause, conversion in _others(values, wanted):
        work = conversion_of(ValueType.TEXT, conversion)
        assert work is not None
        read[clause] = int(counts[np.asarray(work(values).array.is_valid())].sum())
    best = max(read.values(), default=0)
    if not best:
        return ""
    clauses = [clause for clause in sorted(read, key=len) if read[clause] == best]
    total = int(counts.sum())
    shown = " or ".join(clauses[:2])
    cells = f"all {total:,} values" if best == total else f"{best:,} of {total:,} values"
    looked_at = " that were looked at" if len(tally.sample) == MOST_SAMPLED else ""
    return f"{shown} would read {'the value' if total == 1 else cells}{looked_at}"
