"""`split`: a delimited cell into columns or rows."""

from __future__ import annotations

from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Hole, Name, Number
from mangler.language.mistake import Mistake
from mangler.language.parts import PartName
from mangler.language.statement import Statement
from mangler.steps.shared.checks import check_is_text
from mangler.steps.shared.counters import CHANGES, CONDITION, FAILED, MISSES
from mangler.steps.shared.key_columns import said_twice
from mangler.steps.shared.new_columns import MOST_COLUMNS, check_in_place, is_unwanted, text_column
from mangler.steps.shared.splitter import check_delimiters, splitter_of
from mangler.table.contract import BoundStep
from mangler.table.schema import Schema

DECLARATION = Declaration(
    name="split",
    usage="split {COLUMN}, … at [first|last] DELIMITERS into (columns [NUMBER]|rows|PARTS) [named NAMING] [as NAME]"
    " [numbered as NAME] [in place] [anycase] [quoted] [untrimmed] [keep empty|drop empty] [absent VALUE]"
    " [too few (null|aside|stop|VALUE)] [too many (stop|unsplit|cut|aside)] [where CONDITION]",
    meaning="Cuts cells at delimiters, texts taken whole or patterns, into parts: given out to new columns from the"
    " left, or one row per part. Any of the delimiters ends a part; at one place texts go longest first, then patterns."
    " Positions instead of delimiters, at 2, 5, cut after the 2nd and the 5th character. A blank cell has no parts:"
    " its new columns are null and nothing fails; into rows it keeps its one row.",
    clauses={
        "first": "Only the first delimiter of a cell, or with last the last one, ends a part.",
        "columns": "Into exactly so many columns, named after the source: glazes_1, glazes_2. Without a number as many"
        " as the cell with the most parts needs, over the whole extract: all rows are read before the first goes on.",
        "rows": "One row per part; the other columns repeat. The part takes the cell's place, or a column of its own"
        " with as. Of several columns the nth parts are in the nth row; where one has fewer, null, and the summary"
        " counts such rows.",
        "PARTS": "Names for the parts; _ for one that is not wanted (a column of that name is [_]). A name? takes"
        " a part only when enough remain for the names after it that are without ?; a name? /pattern/ exactly when"
        " the whole part matches, or is empty and enough remain.",
        "named": 'The names of numbered columns: "{column}_{n}" by default.',
        "as": "Into rows: the name of a new column for the parts; the source stays.",
        "numbered as": "Into rows: the name of a new column with the part's number, from 1.",
        "in place": "The new columns take the source's place; without it they are right after the source.",
        "anycase": "Delimiters match in any letter case; a pattern takes the flag i.",
        "quoted": "Delimiters inside double quotes do not count, and quotes around a whole part come off.",
        "untrimmed": "White space around parts stays.",
        "keep empty": "Empty parts stay, so that later parts keep their columns; the default into columns.",
        "drop empty": "Empty parts go; the default into rows, and where every delimiter is white space.",
        "absent": "What replaces an empty part, and for an optional name without one; null by default.",
        "too few": "What happens to a required name without a part: null (the default) or a text; aside sets the row"
        " aside; stop delivers nothing and reports the rows. The summary counts them.",
        "too many": "What happens to parts left over, empty ones apart: stop (the default) delivers nothing and reports"
        " the rows; unsplit leaves the cell's own text, from the last name's part on, in the last column; cut leaves"
        " them out; aside sets the row aside.",
    },
    examples=(
        Example(
            'split shelf at "/" into rack, board?, side? in place',
            "kiln | shelf\n007 | A/2/left\n012 | B/1\n031 | C\n044 | null",
            "kiln | rack | board | side\n007 | A | 2 | left\n012 | B | 1 | null\n031 | C | null | null\n"
            "044 | null | null | null",
        ),
        Example(
            'split potter at " " into title? /(Dr|Ms|Mr)\\./, first_name, middle? /\\p{Lu}\\./, last_name in place',
            "potter\nDr. Ines Kallo\nTove K. Aslan\nPim Verhoe\nMs. Zoë  M. Sato",
            "title | first_name | middle | last_name\nDr. | Ines | null | Kallo\nnull | Tove | K. | Aslan\n"
            "null | Pim | null | Verhoe\nMs. | Zoë | M. | Sato",
        ),
        Example(
            'split potter at " " into first_name, middle?, last_name',
            "potter\nTove K. Aslan\nPim Verhoe",
            "potter | first_name | middle | last_name\nTove K. Aslan | Tove | K. | Aslan\n"
            "Pim Verhoe | Pim | null | Verhoe",
        ),
        Example(
            'split pieces at "," into rows',
            "kiln | pieces\n007 | bowl=4, vase-3, mug=, plate\n012 | null",
            "kiln | pieces\n007 | bowl=4\n007 | vase-3\n007 | mug=\n007 | plate\n012 | null",
        ),
        Example(
            'split pieces, made at "," into rows',
            "kiln | pieces | made\n007 | bowl, vase | 4,3\n012 | mug, plate | 2",
            "kiln | pieces | made\n007 | bowl | 4\n007 | vase | 3\n012 | mug | 2\n012 | plate | null",
        ),
        Example(
            'split potter at " " into first_name, _, last_name in place',
            "potter\nTove K. Aslan",
            "first_name | last_name\nTove | Aslan",
        ),
        Example(
            'split pieces at "=", "-" into piece, made in place absent "?" too few "no mark"',
            "pieces\nbowl=4\nvase-3\nmug=\nplate",
            'piece | made\nbowl | 4\nvase | 3\nmug | "?"\nplate | no mark',
        ),
        Example(
            'split glazes at ";" into rows as glaze numbered as layer',
            "kiln | glazes\n007 | celadon; ;tenmoku",
            "kiln | glazes | glaze | layer integer\n007 | celadon; ;tenmoku | celadon | 1\n"
            "007 | celadon; ;tenmoku | tenmoku | 2",
        ),
        Example(
            'split contacts at ";", " and ", "," into first_contact, others? anycase in place too many unsplit',
            "contacts\npim@example.org\npim@example.org AND kiln@example.org; studio@example.org",
            "first_contact | others\npim@example.org | null\npim@example.org | kiln@example.org; studio@example.org",
        ),
        Example(
            'split shelf at "//", "/" into columns 3',
            "shelf\nA//2/left\nB/1",
            "shelf | shelf_1 | shelf_2 | shelf_3\nA//2/left | A | 2 | left\nB/1 | B | 1 | null",
        ),
        Example(
            'split glazes at ";" into columns in place',
            "kiln | glazes\n007 | ash\n012 | ash; shino; chun;\n044 | null",
            "kiln | glazes_1 | glazes_2 | glazes_3\n007 | ash | null | null\n012 | ash | shino | chun\n"
            "044 | null | null | null",
        ),
        Example(
            'split glazes at ";" into inner, outer, rim, foot in place absent "-"',
            "glazes\n;celadon;;ash\nash;; ;;",
            "inner | outer | rim | foot\n- | celadon | - | ash\nash | - | - | -",
        ),
        Example(
            'split fired_at at first " " into fired_on, fired_time in place',
            "fired_at\n2026-05-04 09:30\n04/05/2026 9:30",
            "fired_on | fired_time\n2026-05-04 | 09:30\n04/05/2026 | 9:30",
        ),
        Example(
            'split shelf at last "/" into path, end too few ""',
            "shelf\nA/2/left\nC",
            'shelf | path | end\nA/2/left | A/2 | left\nC | C | ""',
        ),
        Example(
            "split code at 2, 5 into columns 3",
            "code\nCW007celadon\nQU115",
            "code | code_1 | code_2 | code_3\nCW007celadon | CW | 007 | celadon\nQU115 | QU | 115 | null",
        ),
        Example(
            'split notes at /\\s*[,;]\\s*/ into columns 2 named "{column} {n}" quoted too many cut',
            'notes\n"lid stuck; freed"\n"\\"slow, cooling\\"; shelf 2 ; warped"',
            'notes | [notes 1] | [notes 2]\n"lid stuck; freed" | lid stuck | freed\n'
            '"\\"slow, cooling\\"; shelf 2 ; warped" | slow, cooling | shelf 2',
        ),
        Example(
            'split glazes at "; " into inner, outer in place untrimmed too few aside too many aside',
            "glazes\nash;  shino\nash\nash; shino; ash",
            'inner | outer\nash | " shino"\naside "1 part for 2 names: ash"\n'
            'aside "3 parts for 2 names: ash | shino | ash"',
        ),
    ),
    notes="Parts are text; convert gives them types. A split into rows, and then into columns, takes pairs apart."
    " mangler try shows cells with their delimiters, and their parts beside them.",
    counters=(
        "taken_by_pattern",
        *CHANGES,
        *CONDITION,
        *FAILED,
        *MISSES,
        "blank_cells",
        "part_counts",
        "too_few",
        "too_many",
        "uneven_rows",
        "held_singly",
        "held_whole",
    ),
)
COLUMNS_ONLY = ("too few", "too many", "in place")
ROWS_ONLY = ("as", "numbered as")


def check(statement: Statement) -> list[Mistake]:
    delimiters = statement.values["delimiters"]
    mistakes = [*check_delimiters(delimiters), *check_in_place(statement)]
    if isinstance(delimiters[0], Number):
        mistakes += [
            _said(statement, word, "is said of delimiters, and this cuts at positions", "Leave it out.")
            for word in ("first", "last", "anycase", "quoted")
            if statement.has(word)
        ]
    into_rows = statement.has("rows")
    kind, other = ("columns", "rows") if into_rows else ("rows", "columns")
    for word in (*COLUMNS_ONLY, "named") if into_rows else ROWS_ONLY:
        if not statement.has(word) or (word == "in place" and statement.has("as")):
            continue
        way = {
            "in place": "Into rows the part takes the cell's place if no name is given with as.",
            "as": "The columns' names are right after into.",
            "numbered as": "To number parts split into rows.",
        }.get(word, "Every part gets its row, so there are neither too few nor too many.")
        mistakes.append(
            _said(statement, word, f"is said of a split into {kind}, and this is one into {other}", way)
        )
    if statement.has("named") and not statement.has("columns") and not into_rows:
        mistakes.append(_said(statement, "named", "names numbered columns", "Write into columns 3 named …"))
    number = statement.number("number")
    if number == 0 or (number is not None and number > MOST_COLUMNS):
        mistakes.append(
            Mistake(
                "not-an-amount",
                f"a cell cannot be split into {number:,} columns",
                f"Write a number from 1 to {MOST_COLUMNS:,}.",
                statement.span_of("number"),
            )
        )
    if statement.has("columns") and number is None:
        mistakes += [
            _said(statement, word, "cannot be: there are as many columns as the parts need", "Leave it out.")
            for word in ("too few", "too many")
            if statement.has(word)
        ]
    if statement.has("columns") and number != 1:
        mistakes += _check_naming(statement)
    for key in ("absent", "value"):
        mistakes += check_is_text(statement.values.get(key), "split")
    return [*mistakes, *_check_several(statement), *_check_parts(statement.values.get("parts", ()))]


def _check_several(statement: Statement) -> list[Mistake]:
    """Several columns have no names in common for their parts."""
    items = statement.values["column"]
    mistakes = said_twice([item["column"] for item in items])
    if len(items) == 1:
        return mistakes
    if statement.has("parts"):
        mistakes.append(
            Mistake(
                "clauses-conflict",
                "several columns are split, and these names are for the parts of one",
                "Write into columns 3, which names them after each column, or a statement for each.",
                statement.span_of("parts"),
            )
        )
    if statement.has("columns") and not statement.has("number"):
        mistakes.append(
            Mistake(
                "clauses-conflict",
                "several columns are split, and how many columns each needs is not said",
                "Write into columns 3, or a statement for each.",
                statement.span_of("columns"),
            )
        )
    if statement.has("rows") and statement.has("as"):
        mistakes.append(
            _said(statement, "as", "names the parts of one column, and several are split", "Leave it out.")
        )
    return mistakes


def _said(statement: Statement, word: str, what: str, way: str) -> Mistake:
    return Mistake("clause-not-allowed", f"{word} {what}", way, statement.span_of(word))


def _check_naming(statement: Statement) -> list[Mistake]:
    """Several numbered columns need a number in their names."""
    template = statement.values.get("named")
    holes = [part for part in getattr(template, "parts", ()) if isinstance(part, Hole)]
    if template is None or any(hole.expression.value == "n" for hole in holes):
        return []
    return [
        Mistake(
            "said-twice",
            "all these columns would have one name",
            'Put the part\'s number in: named "{column}_{n}".',
            statement.span_of("named"),
        )
    ]


def _check_parts(parts: tuple[PartName, ...]) -> list[Mistake]:
    if parts and all(is_unwanted(part.name.value, part.name.span) for part in parts):
        span = parts[0].span
        return [Mistake("no-columns", "no part is wanted", "Give at least one of them a name.", span)]
    if len(parts) != 1 or not parts[0].optional or parts[0].pattern is not None:
        return []
    only = parts[0]
    message = "the only name takes every part, so ? says nothing here"
    return [Mistake("clause-not-allowed", message, f"Write {only.name.span.text}.", only.span)]


def bind(statement: Statement, schema: Schema) -> BoundStep:
    names: list[Name] = [item["column"] for item in statement.values["column"]]
    into_rows = statement.has("rows")
    splitter = splitter_of(statement, drop_empty=into_rows)
    if into_rows:
        from mangler.steps.split.into_rows import rows_step

        indices = [text_column(name, schema, "split") for name in names]
        return rows_step(statement, schema, indices, splitter, DECLARATION.usage)
    if statement.has("columns") and not statement.has("number"):
        from mangler.steps.split.into_needed_columns import open_step

        index = text_column(names[0], schema, "split")
        return open_step(statement, schema, index, splitter, DECLARATION.usage)
    from mangler.steps.split.into_columns import columns_step
    from mangler.steps.split.several import each_by_itself

    steps = []
    for name in names:
        index = text_column(name, schema, "split")
        steps.append(columns_step(statement, schema, index, splitter, DECLARATION.usage))
        schema = steps[-1].schema
    return steps[0] if len(steps) == 1 else each_by_itself(steps)
