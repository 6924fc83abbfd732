"""`draft`: a first recipe from what a profile found, in the order of the work, each step with its reason."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import field, replace
from textwrap import wrap

from mangler.engine.run.in_memory_run import run_in_memory
from mangler.insight.columns.finding import Proposal, Stage, TableKind
from mangler.insight.columns.values import rounded
from mangler.insight.profile.profile import ColumnProfile, Profile
from mangler.language.columns import EveryColumn
from mangler.language.layout import WIDEST_LINE, format_statement
from mangler.language.mistake import Refusal
from mangler.language.statement import Statement
from mangler.language.tables import BECOMES, Head, SmallTable, spell_small_table
from mangler.late_dataclass import dataclass
from mangler.recipes.command_line_steps import read_steps
from mangler.recipes.options import read_words
from mangler.recipes.recipe_editing import head_of
from mangler.table.read_words import read_statement
from mangler.table.schema import ValueType
from mangler.table.select import quote_name

MANY_COLUMNS = 3
"""From so many columns with white-space faults on all columns are trimmed: the next extract may have them anywhere."""
MOST_REASONS = 3
MOST_TESTED = 40
"""Columns of one step, all of which its test has."""
MANY = 10
"""One row in so many may be unfit without the recipe saying so."""
FEW_TESTED = 3
"""Columns with several rows in a test; more have one or two."""


@dataclass(frozen=True)
class Draft:
    """A recipe's text; how many steps are on, and how many wait for a decision."""

    text: str
    steps: int
    undecided: int


@dataclass
class _Line:
    """A step of the draft. `given` are cells by column that it is tested with."""

    step: str
    sure: bool
    reasons: list[str] = field(default_factory=list)
    given: dict[str, tuple[str, ...]] = field(default_factory=dict)


def draft(profile: Profile, title: str) -> Draft:
    """A recipe for files like the one profiled."""
    out = [head_of(title), ""]
    columns = f"{len(profile.all_names):,} column{'s' * (len(profile.all_names) != 1)}"
    rows = f"{profile.rows:,} row{'s' * (profile.rows != 1)}"
    out += _comment(
        f"Drafted from {profile.extract}: {rows}, {columns}. A step behind # is off until somebody has decided."
    )
    out += _frame(profile)
    lines = {stage.value: _lines(profile, stage) for stage in Stage}
    lines["rows and columns"] = [
        _Line(one.step, False, [f"{one.message}. {one.question}"])
        for one in profile.table
        if one.question and one.step
    ]
    lines["names of columns"] = [
        _Line(one.step, True, [one.message]) for one in profile.table if one.step and not one.question
    ]
    for title, own in lines.items():
        if own:
            out.append("")
            out += [f"# {title.capitalize()}"]
        for number, line in enumerate(own):
            same = number > 0 and not line.sure and line.reasons == own[number - 1].reasons
            out += [""] if number and not same else []
            out += _written(line, with_reasons=not same)
    every = [line for own in lines.values() for line in own]
    on = sum(line.sure for line in every)
    return Draft("\n".join(out) + "\n", on, len(every) - on)


def _frame(profile: Profile) -> list[str]:
    """How the file is read, and the columns that the next one must have."""
    out = []
    if profile.unfit:
        rows = "1 row is" if profile.unfit == 1 else f"{profile.unfit:,} rows are"
        first = profile.unfit_examples[0]
        out += _comment(
            f"{rows} set aside for want of a place in the table; row {first.row:,}: {first.reason}."
        )
    if profile.unfit * MANY > profile.rows + profile.unfit:
        share = -(-profile.unfit * 100 // (profile.rows + profile.unfit))
        out += _comment(
            "So many may say that the file is to be read in another way. If they are to be set aside:"
        )
        out.append(f"# tolerate {share}%")
    settings = profile.read_as
    if profile.detected.get("delimiter", "").startswith("none"):
        settings = replace(settings, delimiter=None)
    if words := read_statement(settings):
        out.append(format_statement(read_words(words)))
    for one in profile.table:
        if one.kind is TableKind.TOTALS:
            out = [*_comment(f"{one.message}. {one.question}"), *out]
    names = ", ".join(map(quote_name, profile.all_names))
    [required] = read_steps([f"require columns {names}"])
    return [*out, format_statement(required)]


def _lines(profile: Profile, stage: Stage) -> list[_Line]:
    """The steps of a stage; the same one of several columns as one step."""
    own = [
        (column, proposal)
        for column in profile.columns
        for proposal in column.proposals
        if proposal.stage is stage
    ]
    if stage is Stage.TRIM and own:
        return _trims(own)
    together: dict[tuple[str, str | None, bool], list[tuple[ColumnProfile, Proposal]]] = {}
    for column, proposal in own:
        before, after = _around(proposal.step, column)
        key = (before, after, proposal.sure) if after is not None else (proposal.step, None, proposal.sure)
        together.setdefault(key, []).append((column, proposal))
    lines = []
    groups = [(key, some) for key, members in together.items() for some in _in_groups(members)]
    for (before, after, sure), members in sorted(groups, key=lambda item: not item[0][2]):
        step = before
        if after is not None:
            step += ", ".join(quote_name(column.name) for column, _ in members) + after
        given = {column.name: _given(proposal) for column, proposal in members if proposal.examples}
        lines.append(_Line(step, sure, _reasons(members), given))
    return lines


def _in_groups(members: list[tuple[ColumnProfile, Proposal]]) -> list[list[tuple[ColumnProfile, Proposal]]]:
    """Not more columns than the table of a test has."""
    return [members[start : start + MOST_TESTED] for start in range(0, len(members), MOST_TESTED)]


def _around(step: str, column: ColumnProfile) -> tuple[str, str | None]:
    """What is before and after the column in a step that may take several; None after it for others."""
    name = quote_name(column.name)
    if step.startswith(f"convert {name} to "):
        return "convert ", step.removeprefix(f"convert {name}")
    if step.startswith("nullify "):
        body, anycase = (
            (step.removesuffix(" anycase"), " anycase") if step.endswith(" anycase") else (step, "")
        )
        return body.removesuffix(name), anycase
    return step, None


def _given(proposal: Proposal) -> tuple[str, ...]:
    """The cells of a test: some that change, and one that does not."""
    return (*proposal.examples, proposal.untouched) if proposal.untouched else proposal.examples


def _reasons(members: Sequence[tuple[ColumnProfile, Proposal]]) -> list[str]:
    """A line for each column, but one for many columns with the same reason."""
    same = {proposal.reason for _, proposal in members if proposal.sure}
    if len(members) <= MOST_REASONS or len(same) != 1 or not all(one.sure for _, one in members):
        return [_reason(column, proposal) for column, proposal in members]
    return [f"{len(members):,} columns: {next(iter(same))}"]


def _trims(own: Sequence[tuple[ColumnProfile, Proposal]]) -> list[_Line]:
    reasons = [_reason(column, proposal) for column, proposal in own]
    given = {column.name: _given(proposal) for column, proposal in own if proposal.examples}
    squeezed = [column for column, proposal in own if proposal.step.endswith(" squeeze")]
    if len(own) >= MANY_COLUMNS:
        return [_Line(f"trim *{' squeeze' * bool(squeezed)}", True, reasons, given)]
    return [
        _Line(proposal.step, True, [_reason(column, proposal)], _of(column, given))
        for column, proposal in own
    ]


def _of(column: ColumnProfile, given: dict[str, tuple[str, ...]]) -> dict[str, tuple[str, ...]]:
    return {column.name: given[column.name]} if column.name in given else {}


def _reason(column: ColumnProfile, proposal: Proposal) -> str:
    count = f"about {rounded(proposal.cells):,}" if proposal.about else f"{proposal.cells:,}"
    cells = f"{count} cell{'s' * (proposal.cells != 1)}"
    if proposal.stage is Stage.TRIM:
        return f"{column.name}: {proposal.reason}"
    message = f"{column.name}, {cells}: {proposal.reason}"
    return message if proposal.sure else f"{message}. {proposal.question}"


def _written(line: _Line, with_reasons: bool) -> list[str]:
    [statement] = read_steps([line.step])
    laid_out = format_statement(statement).split("\n")
    comments = [text for reason in line.reasons * with_reasons for text in _comment(reason)]
    if not line.sure:
        return [*comments, *(f"# {text}" for text in laid_out)]
    return [*comments, *laid_out, *_test(statement, line.given)]


def _test(statement: Statement, given: dict[str, tuple[str, ...]]) -> list[str]:
    """A test of the step with cells of the file, of all its columns. None where it cannot be known."""
    of_all = isinstance(statement.columns().included[0], EveryColumn) if statement.verb == "trim" else False
    names = list(given)[:FEW_TESTED] if of_all else list(given)
    if not names:
        return []
    rows = _rows_of([given[name] for name in names])
    try:
        result = run_in_memory([statement], SmallTable(tuple(Head(name) for name in names), rows))
    except Refusal:
        return []
    zoned = statement.has("zone")  # no test can state that type
    heads = [
        quote_name(column.name)
        if column.type is ValueType.TEXT or zoned
        else f"{quote_name(column.name)} {column.type}"
        for column in result.schema.columns
    ]
    before = spell_small_table([quote_name(name) for name in names], rows)
    after = spell_small_table(heads, result.rows)
    return ["test", *(f"  {text}" for text in (*before, BECOMES, *after))]


def _rows_of(cells: Sequence[tuple[str, ...]]) -> tuple[tuple[str, ...], ...]:
    """The rows of a table with the cells of each column; of many columns the first cell and the last."""
    deep = max(map(len, cells))
    if len(cells) > FEW_TESTED:
        cells = [(own[0], own[-1]) for own in cells]
        deep = 2
    return tuple(tuple(own[i] if i < len(own) else own[-1] for own in cells) for i in range(deep))


def _comment(text: str) -> list[str]:
    plain = "".join(character if character.isprintable() else " " for character in text)
    return [
        f"# {part}" for part in wrap(plain, WIDEST_LINE - 2, break_long_words=False, break_on_hyphens=False)
    ]
