"""Mistakes in how statements, clauses and names are written."""

from __future__ import annotations

from mangler.manual.mistakes.kind import Kind

KINDS = {
    "unknown-verb": Kind(
        "A statement starts with a word that is not a verb of the language.",
        "remove notes",
        "drop columns notes",
        "`mangler manual` lists all verbs. Many words of other languages lead to a page too: `mangler manual remove`.",
    ),
    "unknown-clause": Kind(
        "A word is in a statement whose verb has no clause of this name.",
        'fill notes with "none" softly',
        'fill notes with "none"',
        "`mangler manual VERB` shows the verb's clauses in their order.",
    ),
    "unknown-column": Kind(
        "The statement names a column that the extract, or what the steps before leave of it, does not have.",
        "trim potters",
        "trim potter",
        "The message names the nearest columns. `mangler look FILE` shows all; letter case counts.",
    ),
    "column-gone": Kind(
        "The column was there, but a step above drops, renames or splits it.",
        "drop columns notes\ntrim notes",
        "trim notes\ndrop columns notes",
        "Move the step above the one that takes the column away, or keep the column there.",
    ),
    "no-columns": Kind(
        "A list of columns, or what an exception leaves of it, means no column at all.",
        'join * except * with "; " into x',
        'join notes, result with "; " into x',
        "Name the columns, or correct the pattern.",
    ),
    "same-column": Kind(
        "One column is named for two roles that need two columns.",
        "pivot piece into columns of piece",
        "pivot piece into columns of made",
        "Name another column for one of them.",
    ),
    "name-taken": Kind(
        "A new column would have the name of one that is there already.",
        'split potter at " " into studio, last_name',
        'split potter at " " into first_name, last_name',
        "Take another name, or drop or rename the older column before.",
    ),
    "said-twice": Kind(
        "The same thing is said twice, and the two may differ.",
        "sort by kiln, kiln",
        "sort by kiln",
        "Leave one of them out.",
    ),
    "clause-needed": Kind(
        "The statement lacks a clause without which it has no meaning.",
        "pivot piece into columns",
        "pivot piece into columns of made",
        "`mangler manual VERB` shows which clauses are needed.",
    ),
    "clause-not-allowed": Kind(
        "A clause does not go with the rest of the statement.",
        'fill notes with "none" within kiln',
        "fill notes down within kiln",
        "Leave the clause out, or write what the message says.",
    ),
    "clause-without-effect": Kind(
        "A clause would change nothing, so something else is meant.",
        'make day = date(notes, language "de")',
        'make day = date(notes, "%d. %B %Y", language "de")',
        "Leave the clause out, or add what it is about.",
    ),
    "clauses-conflict": Kind(
        "Two clauses of one statement exclude each other.",
        'replace first "a" with "b" in notes whole',
        'replace "a" with "b" in notes whole',
        "Leave one of them out.",
    ),
    "missing-comma": Kind(
        "A comma before a clause makes it the next item of the list.",
        'join notes, result, with "; " into x',
        'join notes, result with "; " into x',
        "Commas stand only between items of one list. A clause follows without one.",
    ),
    "missing-word": Kind(
        "A word or mark that belongs to the statement is not there.",
        "rename notes remarks",
        "rename notes to remarks",
        "The message says what is expected, and shows the usage.",
    ),
    "misplaced-word": Kind(
        "A word of the language is where a value or a column must be.",
        "keep rows where notes = not",
        "keep rows where notes = [and]",
        "A column that is called like a word of the language is written in square brackets.",
    ),
    "statement-ends": Kind(
        "The statement ends before all that it needs is said.",
        'replace "tbc" with',
        'replace "tbc" with "" in notes',
        "A statement may go on in the next line, if that line is indented.",
    ),
    "statement-needed": Kind(
        "`mangler try` was given no statement.",
        "mangler try week.csv ''",
        "mangler try week.csv 'trim * squeeze'",
        "Write the statement in quotes.",
    ),
    "indented-line": Kind(
        "An indented line continues the statement above it, and there is none.",
        fix="Start the statement in the first column. To switch a statement off, put # before all of its lines.",
    ),
    "unexpected-text": Kind(
        "Something is left over after what was complete already.",
        "mangler look week.csv --columns 'kiln studio'",
        "mangler look week.csv --columns 'kiln, studio'",
        "Put a comma between columns, and `and` or `or` between conditions.",
    ),
    "not-a-step": Kind(
        "`mangler try` tries steps, and this statement is none.",
        "mangler try week.csv 'tolerate 2%'",
        "mangler try week.csv 'trim *'",
        "Write it into the recipe, and run that with --rehearse.",
    ),
    "verb-not-in-include": Kind(
        "An included file holds a statement that only the recipe itself may have, such as `read` or `write`.",
        fix="Move the statement into the recipe.",
    ),
    "version-needed": Kind(
        "A recipe starts with the version of the language.",
        fix='Write `mangler 1 "A title"` as the first statement.',
    ),
    "newer-version": Kind(
        "The recipe or the history is of a later version than this program.",
        fix="Install a newer Mangler, or use another file.",
    ),
    "too-many-statements": Kind(
        "The recipe has more statements than Mangler reads.",
        fix="Put many values into one statement: `replace` and `map` take lists, `map … from FILE` reads a table.",
    ),
    "column-name-needed": Kind(
        "A column is to be named here, and something else is there.",
        'trim "notes"',
        "trim notes",
        "Columns are written without quotes; names with other characters in square brackets: `[Fired at?]`.",
    ),
    "empty-name": Kind(
        "A column would have no name.",
        "rename notes to []",
        "rename notes to remarks",
        "Give it a name. A column that has none in the extract gets one with `read called`.",
    ),
    "name-not-closed": Kind(
        "A name in square brackets does not end.",
        'trim ["2nd"',
        'trim ["2nd"]',
        "Close the bracket, and the quote before it.",
    ),
    "not-a-function-name": Kind(
        "A definition has a name that no function can have.",
        "define [2nd](x) = x",
        "define second(x) = x",
        "Use letters, digits and _, starting with a letter, and no word of the language.",
    ),
    "names-needed": Kind(
        "`require columns` asks for columns by name, and a pattern or * is always there.",
        "require columns *",
        "require columns kiln, studio",
        "Write the names.",
    ),
    "columns-not-as-required": Kind(
        "The extract has other columns than `require columns exactly` allows.",
        "require columns exactly kiln, studio",
        "require columns kiln, studio",
        "Name the further columns too, drop them from the extract, or leave `exactly` out.",
    ),
    "unknown-hole": Kind(
        "The name of new columns has a hole that it cannot have.",
        'split notes at ";" into columns 2 named "{kiln}_{n}"',
        'split notes at ";" into columns 2 named "{column}_{n}"',
        "The holes are {column}, the column that is split, and {n}, the number of the part.",
    ),
    "optional-part": Kind(
        "A name of a part has a pattern and no question mark.",
        'split potter at " " into title /Dr/, last_name',
        'split potter at " " into title? /Dr/, last_name',
        "A part that is not always there is written with `?` and a pattern that tells it.",
    ),
    "wrong-number-of-names": Kind(
        "As many names are needed as there are columns or groups, and there are more or fewer.",
        r"capture notes by /(\d+)-(\d+)/ into low",
        r"capture notes by /(\d+)-(\d+)/ into low, high",
        "Name each of them.",
    ),
    "order-of-nothing": Kind(
        "`sorted by` gives the order of rows within a group, and no group is named.",
        "make n = running(sum(made)) sorted by fired_on",
        "make n = running(sum(made)) within kiln sorted by fired_on",
        "Write `within COLUMNS`, or `within all rows`.",
    ),
    "aside-after-gathering": Kind(
        "A step is to set extract rows aside after one that had to see all rows: they have no extract row any more.",
        "sort by fired_on\nconvert notes to integer failures aside",
        "convert notes to integer failures aside\nsort by fired_on",
        "Move the step up, or say something else than aside.",
    ),
    "aside-within": Kind(
        "A value per group cannot set rows aside: the whole group was counted already.",
        "make n = sum(integer(notes)) within kiln failures aside",
        "convert notes to integer failures aside\nmake n = sum(notes) within kiln",
        "Convert first, with its own failures.",
    ),
}
