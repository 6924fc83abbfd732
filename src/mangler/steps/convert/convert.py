"""`convert`: values as another type, exactly or not at all."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from mangler.expressions.languages import date_names
from mangler.expressions.moments import DIRECTIVES
from mangler.expressions.reasons import Named
from mangler.expressions.value import Failure
from mangler.kernels.values.date_forms import directives_of, problem_of_form
from mangler.kernels.values.zones import is_zone
from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Text
from mangler.language.mistake import Mistake, wrong_recipe
from mangler.language.statement import Statement
from mangler.language.types import TypeName
from mangler.late_dataclass import dataclass
from mangler.steps.convert.conversions import Conversion, Converter, conversion_of, stored_type
from mangler.steps.convert.proposals import note_failing, proposal_of
from mangler.steps.shared.columnwise import choose, column_remarks, note_examples, such_as
from mangler.steps.shared.counters import CHANGES, FAILED
from mangler.steps.shared.failing import (
    FAILURES,
    Policy,
    merged,
    policy_of,
    remarks_on_failures,
    settle_failures,
)
from mangler.steps.shared.literals import fit_literal
from mangler.steps.shared.new_values import put_in
from mangler.table.batch import Batch
from mangler.table.contract import Report, RowStep
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.select import Selection
from mangler.table.stored_types import describe_type
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="convert",
    usage="convert COLUMNS to TYPE [NUMBER] [written serial|written TEXTS] [language TEXT] [century NUMBER]"
    " [point TEXT] [grouping TEXTS] [negatives (parentheses|trailing)] [without TEXTS]"
    " [true TEXTS] [false TEXTS] [anycase] [zone TEXT] [where CONDITION]"
    " [failures (stop|aside|null|VALUE)]",
    meaning="Makes values of another type. White space around a text is ignored, and blank becomes null. Nothing is"
    " rounded but floats: a value that does not fit the type fails. Types are text, integer (64 bits), float, decimal"
    " (exact), boolean, date, time and timestamp; decimal with a number holds and writes exactly so many places, alone"
    " up to 9 without trailing zeros. A float keeps the 15 to 17 leading digits of a long number; one that is too large"
    " for a float, or so small that it would be 0, fails. The summary reports leading zeros that are lost.",
    clauses={
        "written": "How dates and times are written, as POSIX has it: %d %m %Y %y %b %B %j %H %I %M %S %f %p %a %A; %d,"
        " %m and %H take one digit too, a space takes any white space, and names are English. Several forms"
        " are tried in turn, and a value that two of them read differently fails. Without it dates and times"
        " are in ISO 8601. To text, the form in which a date is written.",
        "language": 'The names of months and days are those of this language, by its tag: "de", "fr", "pt-BR". In dates'
        ' and alone, whole and shortened. It needs the extra: pip install "mangler[languages]".',
        "written serial": "Dates are day numbers as spreadsheets count them, from March 1900 on; for timestamps the"
        " fraction is the time, to the millisecond.",
        "century": "The first of the hundred years in which years of two digits lie: with century 1930, 54 is 1954 and"
        " 12 is 2012. Without it they lie from 1969 to 2068.",
        "point": 'The mark before the places, point ","; without it, a point, or a comma where grouping is a point.',
        "grouping": 'The mark between groups of three digits, grouping "."; several where it varies. A space takes a'
        " no-break space too.",
        "negatives": "How numbers below 0 may be written besides with a sign in front: parentheses reads (45), trailing"
        " reads 45-.",
        "without": "Units that may be before or after the number.",
        "true": "Words for true, matched as whole cells; without it, true in any letter case.",
        "false": "Words for false, matched as whole cells; without it, false in any letter case.",
        "anycase": "The words of true and false match in any letter case.",
        "zone": "The zone whose clock the timestamps are of, as Europe/Paris: they become moments, written with their"
        " offset. A time with an offset of its own, Z or +02:00, keeps to that; without zone such a time"
        " fails. A time that the clock leaves out or shows twice fails. Expressions see what the clock shows.",
        "where": "Not for convert: a column is of one type. `make` with if … gives part of the rows a value.",
        "failures": f"{FAILURES}; null or a value puts that into the cell.",
    },
    examples=(
        Example(
            'convert peak_c to integer grouping "." without "°C" failures null',
            'peak_c\n" 1222 "\n1.222\n1222 °C\ntbc\nnull',
            "peak_c integer\n1222\n1222\n1222\nnull\nnull",
        ),
        Example(
            'convert fired_at to timestamp written "%Y-%m-%d %H:%M", "%d/%m/%Y %H:%M"',
            "fired_at\n2026-05-04 09:30\n04/05/2026 9:30",
            "fired_at timestamp\n2026-05-04T09:30:00\n2026-05-04T09:30:00",
        ),
        Example(
            'convert price to decimal 2 point "," grouping "."',
            "price\n1.234,5\n7",
            "price decimal\n1234.50\n7.00",
        ),
        Example(
            'convert balance to decimal 2 grouping ",", "\'" negatives parentheses',
            'balance\n"1,234.5"\n(45)\n1\'000\n-7',
            "balance decimal\n1234.50\n-45.00\n1000.00\n-7.00",
        ),
        Example(
            'convert ok to boolean true "yes", "y" false "no" anycase',
            "ok\nYes\nno\nnull",
            "ok boolean\ntrue\nfalse\nnull",
        ),
    ),
    counters=(*CHANGES, *FAILED, "leading_zeros"),
)
NUMBERS = ("integer", "float", "decimal")
MOMENTS = ("date", "time", "timestamp")
CONVERTIBLE = frozenset(kind for kind in ValueType if kind is not ValueType.LIST)


@dataclass(frozen=True)
class Convert(RowStep):
    schema: Schema
    selection: Selection
    converters: dict[int, Converter]
    names: tuple[str, ...]
    policy: Policy
    conversion: Conversion

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        tally = Tally(rows_in=len(batch), rows=batch.rows)
        values = {}
        failures: list[Failure] = []
        for index, converter in self.converters.items():
            old = batch.columns[index]
            done = converter(old)
            if done.leading_zeros is not None:
                tally.counts["leading_zeros"] += int(np.count_nonzero(done.leading_zeros))
                note_examples(tally, old, done.leading_zeros)
            failed = [
                replace(failure, reason=Named(self.names[index], failure.reason)) for failure in done.failures
            ]
            values[index] = settle_failures(done.array, old, failed, self.policy, tally)
            failures += failed
            if failed:
                flags, _ = merged(failed, len(old))
                note_failing(old, flags, tally)
        return put_in(batch, values, failures, self.policy, tally), tally

    def remarks(self, tally: Tally) -> list[str]:
        messages = []
        if tally.counts["leading_zeros"]:
            cells = (
                "1 cell loses its"
                if tally.counts["leading_zeros"] == 1
                else f"{tally.counts['leading_zeros']:,} cells lose their"
            )
            messages.append(f"{cells} leading zeros{such_as(tally)}; keep the column as text if they matter")
        advice = [*messages, *remarks_on_failures(tally)]
        proposal = proposal_of(tally, self.conversion)
        if proposal and not tally.failed:
            advice.append(proposal)
        return column_remarks(
            self.selection, tally, advice, "these columns have the type already, or only nulls"
        )

    def report(self, tally: Tally) -> Report:
        report, proposal = super().report(tally), proposal_of(tally, self.conversion)
        return replace(report, ways_out=f"{report.ways_out}; {proposal}") if proposal else report


def bind(statement: Statement, schema: Schema) -> Convert:
    selection = choose(statement, schema, DECLARATION.usage, types=CONVERTIBLE)
    conversion = _conversion(statement)
    policy = policy_of(statement)
    if policy.literal is not None:
        fit_literal(policy.literal, conversion.kind)
    columns = list(schema.columns)
    converters: dict[int, Converter] = {}
    for index in selection.indices:
        column = columns[index]
        converter = conversion_of(column.type, conversion)
        if converter is None:
            raise wrong_recipe(
                "no-conversion",
                f'"{column.name}" is {describe_type(column)}, which has no way to {conversion.kind}',
                "Convert it to text first, or make the value with an expression.",
                statement.span_of("to"),
            )
        converters[index] = converter
        columns[index] = Column(column.name, conversion.kind, stored_type(column, conversion))
    return Convert(
        Schema(tuple(columns), schema.gone), selection, converters, tuple(schema.names), policy, conversion
    )


def _conversion(statement: Statement) -> Conversion:
    kind = statement.get("to", TypeName)
    assert kind is not None
    point, zone = (statement.text(key) for key in ("point", "zone"))
    grouping, language = "".join(_texts(statement, "grouping")), statement.text("language")
    return Conversion(
        ValueType(kind.value),
        statement.number("number"),
        _texts(statement, "written"),
        statement.values.get("written") == "serial" or statement.has("written serial"),
        point.value if point else "," if "." in grouping else ".",
        grouping,
        _texts(statement, "without"),
        _texts(statement, "true"),
        _texts(statement, "false"),
        statement.has("anycase"),
        zone.value if zone else "",
        statement.number("century"),
        date_names(language) if language else None,
        statement.choice("negatives") or "",
    )


def _texts(statement: Statement, key: str) -> tuple[str, ...]:
    value: Any = statement.values.get(key)
    return tuple(text.value for text in value) if isinstance(value, tuple) else ()


def check(statement: Statement) -> list[Mistake]:
    kind = statement.get("to", TypeName)
    assert kind is not None
    mistakes = _check_clauses(statement, kind)
    if kind.value == "list":
        mistakes.append(
            Mistake(
                "no-conversion",
                "split makes lists, not convert",
                'make parts = split(glazes, ";")',
                kind.span,
            )
        )
    if statement.has("where"):
        mistakes.append(
            Mistake(
                "clause-not-allowed",
                "convert takes no where: a column is of one type",
                "Give part of the rows a value: make x = if … then integer(y) else null.",
                statement.span_of("where"),
            )
        )
    places = statement.number("number")
    if places is not None and not 0 <= places <= 18:
        mistakes.append(
            Mistake(
                "not-an-amount",
                "a decimal has 0 to 18 places",
                "Write decimal 2.",
                statement.span_of("number"),
            )
        )
    zone = statement.text("zone")
    if zone and not is_zone(zone.value):
        mistakes.append(
            Mistake(
                "unknown-zone",
                f'"{zone.value}" is not a zone that is known',
                'Zones are like "Europe/Paris", "UTC" or "+02:00".',
                zone.span,
            )
        )
    mistakes += _check_marks(statement) + _check_forms(statement, kind)
    return mistakes


def _check_clauses(statement: Statement, kind: TypeName) -> list[Mistake]:
    """Clauses that mean something only for some types."""
    mistakes = []
    for clause, kinds in (
        ("number", ("decimal",)),
        ("written", (*MOMENTS, "text")),
        ("written serial", ("date", "timestamp")),
        ("language", ("date", "timestamp")),
        ("century", ("date", "timestamp")),
        ("point", NUMBERS),
        ("grouping", NUMBERS),
        ("negatives", NUMBERS),
        ("without", NUMBERS),
        ("true", ("boolean",)),
        ("false", ("boolean",)),
        ("anycase", ("boolean",)),
        ("zone", ("timestamp",)),
    ):
        if statement.has(clause) and kind.value not in kinds:
            what = "places" if clause == "number" else clause
            mistakes.append(
                Mistake(
                    "clause-not-allowed",
                    f"{what} goes with {' or '.join(kinds)}, not {kind.value}",
                    "Leave it out.",
                    statement.span_of(clause),
                )
            )
    return mistakes + _check_century(statement) + _check_language(statement)


def _check_language(statement: Statement) -> list[Mistake]:
    """It says something only of names."""
    value: Any = statement.values.get("written")
    forms = value if isinstance(value, tuple) else ()
    if not statement.has("language") or any({*"aAbB"} & {*directives_of(form.value)} for form in forms):
        return []
    return [
        Mistake(
            "clause-without-effect",
            "no form has the name of a month or a day",
            'Write written "%d. %B %Y", or leave language out.',
            statement.span_of("language"),
        )
    ]


def _check_century(statement: Statement) -> list[Mistake]:
    """It says something only of years that are written with two digits."""
    year = statement.number("century")
    if year is None:
        return []
    value: Any = statement.values.get("written")
    forms = value if isinstance(value, tuple) else ()
    problem, advice = "", ""
    if not any("y" in directives_of(form.value) for form in forms):
        problem, advice = (
            "no form has a year of two digits",
            'Write written "%d.%m.%y", or leave century out.',
        )
    elif not 1 <= year <= 9900:
        problem, advice = (
            "a century starts in the years 1 to 9900",
            "Write the first year of the hundred: century 1930.",
        )
    if not problem:
        return []
    return [Mistake("century", problem, advice, statement.span_of("century"))]


def _check_marks(statement: Statement) -> list[Mistake]:
    mistakes = []
    point = statement.text("point")
    groupings: tuple[Text, ...] = statement.values.get("grouping", ())
    for text, what in ((point, "point"), *((mark, "grouping") for mark in groupings)):
        if text and (len(text.value) != 1 or text.value.isdigit() or text.value in "+-"):
            mistakes.append(
                Mistake("not-a-mark", f"{what} is one mark, no digit and no sign", f'{what} ","', text.span)
            )
    for grouping in groupings:
        if point is None or grouping.value != point.value:
            continue
        mistakes.append(
            Mistake(
                "clauses-conflict",
                "point and grouping are the same mark",
                'Say both: point "," grouping ".".',
                grouping.span,
            )
        )
    words: dict[str, str] = {}
    for key in ("true", "false"):
        for text in statement.values.get(key, ()):
            folded = text.value.casefold() if statement.has("anycase") else text.value
            if words.setdefault(folded, key) != key:
                mistakes.append(
                    Mistake(
                        "clauses-conflict",
                        f'"{text.value}" means both true and false',
                        "Take one out.",
                        text.span,
                    )
                )
    return mistakes


def _check_forms(statement: Statement, kind: TypeName) -> list[Mistake]:
    mistakes = []
    value: Any = statement.values.get("written")
    forms: tuple[Text, ...] = value if isinstance(value, tuple) else ()
    if kind.value == "text":
        for form in forms[1:]:
            mistakes.append(
                Mistake(
                    "clause-not-allowed",
                    "one form is written, not several",
                    "Take the others out.",
                    form.span,
                )
            )
    for form in forms:
        if kind.value in MOMENTS:
            problem = problem_of_form(form.value, kind.value)
        else:
            problem = "" if directives_of(form.value) else "this form has no part of a date"
        if problem:
            mistakes.append(
                Mistake(
                    "not-a-date-form",
                    problem,
                    f'Write a form such as "%d/%m/%Y %H:%M". Known are {DIRECTIVES}.',
                    form.span,
                )
            )
    return mistakes
