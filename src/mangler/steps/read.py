"""`read`: what the extract is like, where that is not to be detected."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from mangler.language.declaration import Declaration
from mangler.language.literals import Name, Number, Truth
from mangler.language.mistake import Mistake
from mangler.language.statement import Statement
from mangler.steps.shared.checks import check_delimiter, check_encoding, check_one_character, codec_of
from mangler.table.settings import ReadSettings

MOST_OVERLAP = 10_000
"""Values whose rows the history remembers."""
DECLARATION = Declaration(
    name="read",
    usage="read [format (text|json|parquet|arrow|workbook)] [sheet VALUE] [merged repeat]"
    " [delimiter TEXT [in runs]] [widths NUMBERS] [quote TEXT] [encoding TEXT]"
    " [header row NUMBER|header absent] [header rows NUMBER] [called NAMES|names completed] [skip NUMBER]"
    " [skip last NUMBER] [escape TEXT] [nulls TEXTS] [comment TEXT]"
    " [ragged (aside|stop|pad)] [guard formulas] [table TEXT] [query TEXT] [query from TEXT]"
    " [newer than NAME] [overlap NUMBER]",
    meaning="Says how the extract is to be read. What is not said is detected from the file and reported in the"
    " summary. It is allowed once, anywhere in the recipe. A clause that means nothing for the format of an extract is"
    " ignored with a remark, so that one recipe reads text and workbooks; beside format it is a mistake.",
    clauses={
        "format": "What the file is, where its content and its name do not show it: text (delimited or of fixed"
        " widths), json (one object per line, or an array of objects), parquet, arrow or workbook.",
        "sheet": 'The sheet of a workbook: its name, sheet "Log", or its number, sheet 2. Without it, the only sheet'
        " that holds cells; or the one that the address names, book.xlsx#Log.",
        "merged repeat": "Every cell of a merged area has its value. Without it, only the first one has it, and the"
        " others are null.",
        "delimiter": "The text between fields, mostly one character; without it, the one that fits the first rows"
        " best.",
        "in runs": "Several delimiters in a row count as one, and those at the start and end of a line as none:"
        ' delimiter " " in runs for columns that are aligned by spaces. An empty field cannot be seen then.',
        "widths": "How many characters wide each column is, for files without a delimiter: widths 8, 12, 3. Spaces"
        " around a value are padding and belong to no cell; a cell of nothing else is null. The last column takes"
        " the rest of its line.",
        "quote": 'The one character round fields that hold delimiters or line breaks; without it, ".',
        "encoding": "utf-8, utf-16, windows-1252, latin-1 or any that Python knows; without it, detected.",
        "header row": "The line that holds the columns' names, as an editor counts lines: empty lines and comments"
        " count too, skipped lines do not. Lines above it are skipped. Without it, the first line that is neither"
        " empty nor a comment.",
        "header absent": "The file has no header: the columns are column_1, column_2, … or as called.",
        "header rows": "On how many lines the names are. Those of one column are put together with a space; above,"
        " a name reaches over the empty fields to its right: Peak over °C and min gives Peak °C and Peak min.",
        "called": "New names for all columns, in the file's order.",
        "names completed": "A column without a name gets one by its place, column_3; the second of two columns with"
        " the same name gets a number, speed_2. Where all rows have one field more than the header, the first column"
        " is the one without a name.",
        "skip": "How many lines at the top of the file are skipped.",
        "skip last": "How many rows at the end of the file are skipped, totals for example.",
        "escape": 'The character that takes any meaning from the one after it: escape "\\\\" for a backslash.',
        "nulls": "Words that mean null in any column, matched as whole cells, white space around them"
        ' ignored. "" makes blank and empty fields null as well.',
        "comment": "Lines that start with this text are skipped.",
        "ragged": "What happens to rows with too few or too many fields: aside (the default) sets them aside,"
        " pad fills up short ones with nulls and sets long ones aside, stop delivers nothing.",
        "table": 'Of a database, the table or view that is read: read table "firings", or table "log.firings" in a'
        " schema.",
        "query": "Of a database, what is read is what this query gives: one statement that reads. A parameter of the"
        ' recipe is bound where its name is behind a colon: query "select * from firings where day >= :since".',
        "query from": 'The file that holds the query, found beside the recipe: query from "firings.sql".',
        "newer than": "With --only-new, of a database: only rows are read that have a higher value in this column than"
        " those that were delivered before, as the history knows: newer than id. Rows without a value are read the"
        " first time only. Rows that the database shows late, with a value that is lower, are missed: overlap.",
        "overlap": "So many values of that column are read again, and rows that were delivered are skipped: what came"
        " late among them is found. newer than id overlap 1000.",
        "guard formulas": "Takes the ' off that write guard formulas put in front of texts such as '=1+1.",
    },
    is_step=False,
    reads_file="query from",
)


def check(statement: Statement) -> list[Mistake]:
    delimiter, quote = statement.text("delimiter"), statement.text("quote")
    mistakes = check_delimiter(delimiter, statement.has("in runs")) + check_one_character(
        quote, "quote", True
    )
    mistakes += _check_widths(statement)
    mistakes += check_one_character(statement.text("escape"), "escape", True)
    comment = statement.text("comment")
    if comment and (not comment.value.strip() or "\n" in comment.value):
        mistakes.append(
            Mistake(
                "comment-mark",
                "a comment is known by a text at the start of its line",
                'Write comment "#".',
                comment.span,
            )
        )
    mistakes += check_encoding(statement.text("encoding"))
    if delimiter and (quote.value if quote else '"') in delimiter.value:
        mistakes.append(
            Mistake(
                "clauses-conflict",
                "the delimiter holds the quote",
                "Give one of them another.",
                delimiter.span,
            )
        )
    mistakes += _check_header(statement) + _check_sheet(statement) + _check_query(statement)
    seen: set[str] = set()
    for name in statement.names("called") or ():
        if name.value in seen:
            mistakes.append(
                Mistake(
                    "said-twice",
                    f'"{name.value}" is called twice',
                    "Give every column a name of its own.",
                    name.span,
                )
            )
        seen.add(name.value)
    return mistakes


def _check_widths(statement: Statement) -> list[Mistake]:
    """Columns of a fixed width have no delimiter, and no quotes that could hold one."""
    widths: tuple[Number, ...] = statement.values.get("widths", ())
    mistakes = [
        Mistake(
            "count-from-one",
            "a column is at least one character wide",
            "Leave out what is not there: widths 8, 12, 3.",
            width.span,
        )
        for width in widths
        if int(width.value) == 0
    ]
    return mistakes + [
        Mistake(
            "clauses-conflict",
            f"columns of a fixed width have no {clause}",
            f"Say widths or {clause}.",
            statement.span_of(clause),
        )
        for clause in ("delimiter", "quote", "escape", "ragged")
        if widths and statement.has(clause)
    ]


def _check_header(statement: Statement) -> list[Mistake]:
    mistakes = []
    if statement.number("header row") == 0:
        mistakes.append(
            Mistake(
                "count-from-one",
                "lines are counted from 1",
                "For a file without a header write header absent.",
                statement.span_of("header row"),
            )
        )
    if statement.number("header rows") == 0:
        mistakes.append(
            Mistake(
                "count-from-one",
                "names are on at least one line",
                "For a file without a header write header absent.",
                statement.span_of("header rows"),
            )
        )
    elif statement.has("header rows") and statement.has("header absent"):
        mistakes.append(
            Mistake(
                "clauses-conflict",
                "a header that is absent has no rows",
                "Say header absent or header rows.",
                statement.span_of("header rows"),
            )
        )
    return mistakes


def _check_sheet(statement: Statement) -> list[Mistake]:
    """A sheet has a name, or a number."""
    sheet: Any = statement.values.get("sheet")
    mistakes = []
    if isinstance(sheet, Truth) or (isinstance(sheet, Number) and not isinstance(sheet.value, int)):
        mistakes.append(
            Mistake(
                "wrong-argument",
                "a sheet has a name or a number",
                'Write sheet "Log" or sheet 2.',
                sheet.span,
            )
        )
    elif isinstance(sheet, Number) and sheet.value < 1:
        mistakes.append(
            Mistake(
                "count-from-one", "sheets are counted from 1", "Write sheet 1 for the first one.", sheet.span
            )
        )
    return mistakes


def _check_query(statement: Statement) -> list[Mistake]:
    """What is read of a database is said once; values overlap where a column says what is newer."""
    said = [clause for clause in ("table", "query", "query from") if statement.has(clause)]
    mistakes = []
    if statement.has("overlap") and not statement.has("newer than"):
        mistakes.append(
            Mistake(
                "clause-needed",
                "overlap says how many values of a column are read again, and no column is named",
                "Write newer than id overlap 1000.",
                statement.span_of("overlap"),
            )
        )
    if (statement.number("overlap") or 0) > MOST_OVERLAP:
        mistakes.append(
            Mistake(
                "number-too-large",
                f"the rows of at most {MOST_OVERLAP:,} values are remembered",
                f"Write overlap {MOST_OVERLAP}, or fewer.",
                statement.span_of("overlap"),
            )
        )
    return mistakes + [
        Mistake(
            "clauses-conflict",
            f"{said[0]} says what is read, and {clause} does too",
            f"Say {said[0]} or {clause}.",
            statement.span_of(clause),
        )
        for clause in said[1:]
    ]


def _parameters(statement: Statement) -> dict[str, Any]:
    """The values of the recipe's parameters, by name."""
    scope = statement.scope
    values = {name: literal.value for name, literal in scope.parameters.items()}
    return values | {name: secret.value for name, secret in scope.secrets.items()}


def settings(statement: Statement | None) -> ReadSettings:
    """What a read statement says; None means a recipe without one."""
    if statement is None:
        return ReadSettings()
    delimiter, quote = statement.text("delimiter"), statement.text("quote")
    escape, comment = statement.text("escape"), statement.text("comment")
    called, encoding = statement.names("called"), statement.text("encoding")
    sheet: Any = statement.values.get("sheet")
    table, query, query_from = (statement.text(clause) for clause in ("table", "query", "query from"))
    newer = statement.get("newer than", Name)
    return ReadSettings(
        format=statement.choice("format"),
        sheet=None if sheet is None else sheet.value,
        merged_repeat=statement.has("merged repeat"),
        guard_formulas=statement.has("guard formulas"),
        delimiter=delimiter.value if delimiter else None,
        in_runs=statement.has("in runs"),
        widths=tuple(int(width.value) for width in statement.values.get("widths", ())),
        quote=quote.value if quote else '"',
        encoding=codec_of(encoding.value) if encoding else None,
        header_absent=statement.has("header absent"),
        header_row=statement.number("header row"),
        header_rows=statement.number("header rows") or 1,
        called=tuple(name.value for name in called) if called is not None else None,
        names_completed=statement.has("names completed"),
        skip=statement.number("skip") or 0,
        skip_last=statement.number("skip last") or 0,
        escape=escape.value if escape else "",
        comment=comment.value if comment else "",
        nulls=tuple(text.value for text in statement.values.get("nulls", ())),
        table=table.value if table else None,
        query=query.value if query else None,
        query_from=Path(statement.span.source.name).parent / query_from.value if query_from else None,
        newer_than=newer.value if newer else None,
        overlap=statement.number("overlap") or 0,
        parameters=_parameters(statement) if query or query_from else {},
        ragged=statement.choice("ragged") or "aside",
        line=statement.line,
        spans={clause: statement.span_of(clause) for clause in statement.values},
    )
