"""`require columns`: the extract must have these columns."""

from __future__ import annotations

from dataclasses import replace

from mangler.language.columns import NamedColumn
from mangler.language.declaration import Declaration
from mangler.language.mistake import Mistake, Refusal, enumerate_names, extract_does_not_fit
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.require.requirement import Requirement, requirement_of
from mangler.steps.shared.columnwise import choose
from mangler.table.batch import Batch
from mangler.table.contract import RowStep
from mangler.table.schema import Schema
from mangler.table.select import quote_name
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="require columns",
    usage="require columns [exactly] COLUMNS [failures (stop|warn)] [because TEXT]",
    meaning="The table must have these columns where the statement is; otherwise the extract is refused"
    " before any row is read. The rows pass as they are.",
    clauses={
        "exactly": "These columns and no others; their order does not matter.",
        "failures": "stop (the default) refuses the extract; warn delivers, and the summary warns.",
        "because": "The reason, reported beside the columns that are not as required.",
    },
)


def check(statement: Statement) -> list[Mistake]:
    return [
        Mistake(
            "names-needed",
            "columns are required by their names",
            "A pattern, a family or * is there whatever the extract holds: write the names.",
            statement.span_of("columns"),
        )
        for item in statement.columns().included[:1]
        if not isinstance(item, NamedColumn)
    ]


@dataclass(frozen=True)
class RequireColumns(RowStep):
    """All rows pass; `unmet` says what is not as required, where that only warns."""

    schema: Schema
    unmet: str = ""

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        return batch, Tally(rows_in=len(batch), rows_out=len(batch))

    def warnings(self, tally: Tally) -> list[str]:  # noqa: ARG002
        return [self.unmet] if self.unmet else []


def bind(statement: Statement, schema: Schema) -> RequireColumns:
    requirement = requirement_of(statement)
    try:
        _require(statement, schema)
    except Refusal as refusal:
        if requirement.policy == "warn":
            message = "; ".join(mistake.message for mistake in refusal.mistakes)
            return RequireColumns(schema, _with_reason(message, requirement))
        first, *rest = refusal.mistakes
        first = replace(first, message=_with_reason(first.message, requirement))
        raise Refusal([first, *rest], refusal.code) from None
    return RequireColumns(schema)


def _with_reason(message: str, requirement: Requirement) -> str:
    return f"{message}: {requirement.because}" if requirement.because else message


def _require(statement: Statement, schema: Schema) -> None:
    try:
        chosen = choose(statement, schema, DECLARATION.usage, types=None)
    except Refusal as refusal:
        raise _together(statement, schema, refusal) from None
    required = set(chosen.indices)
    others = [quote_name(name) for i, name in enumerate(schema.names) if i not in required]
    if statement.has("exactly") and others:
        columns = "1 more column" if len(others) == 1 else f"{len(others)} more columns"
        raise extract_does_not_fit(
            "columns-not-as-required",
            f"the extract has {columns} than required: {enumerate_names(others)}",
            "Name them too, or drop exactly.",
            statement.span_of("columns"),
        )


def _together(statement: Statement, schema: Schema, refusal: Refusal) -> Refusal:
    """Several missing columns as one mistake; a single one keeps its own words."""
    names = [name for mistake in refusal.mistakes for name in mistake.missing]
    if len(names) < 2:
        return refusal
    required = {item.name.value for item in statement.columns().included if isinstance(item, NamedColumn)}
    others = [quote_name(name) for name in schema.names if name not in required]
    return extract_does_not_fit(
        "unknown-column",
        f"the extract lacks {len(names)} required columns: {enumerate_names([quote_name(n) for n in names], 8)}",
        f"It has others: {enumerate_names(others, 8)}." if others else "",
        statement.span_of("columns"),
        tuple(names),
    )
