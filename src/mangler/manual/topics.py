"""What the reference says besides the verbs: the language at large, files, and exit codes."""

from __future__ import annotations

from mangler.blanks import BLANKS
from mangler.late_dataclass import dataclass
from mangler.manual.databases_topic import DATABASES
from mangler.manual.drift_topic import DRIFT
from mangler.manual.elsewhere_topic import ELSEWHERE
from mangler.manual.files_topic import FILES
from mangler.manual.formats_topic import formats_text
from mangler.manual.mistakes import mistakes_text
from mangler.manual.terms_topic import TERMS


@dataclass(frozen=True)
class Topic:
    """A page of the reference in Markdown's plain paragraphs and lists. `words` find it too."""

    name: str
    meaning: str
    text: str
    words: tuple[str, ...] = ()


STATEMENTS = """\
A recipe is a UTF-8 text file, `*.mangler`. A statement starts in the first column with its verb; indented lines
continue it, and blank lines do not end it.

`#` starts a comment, outside texts, patterns, square brackets and the tables of tests. A `#` in the first column
ends the statement above; a comment inside a statement is indented. Putting `#` before all of a statement's lines
switches it off.

Clauses may be in any order, each once. The words of the language are not reserved: after a comma a word is
always the next item of the list, never a clause, and a list may end in a comma only where the statement ends.

`mangler format` gives a recipe its one layout: a statement a line, clauses in the reference's order, a statement wider
than 100 characters broken at its clauses. Comments stay. Of several blank lines between statements one
stays; blank lines inside a statement are removed.

In a usage line, words in capitals mean values, `[…]` may be left out, `(a|b)` is a choice, and `{…}, …` is a
list of the same form with commas between.
"""

VALUES = """\
- A text: `"…"` knows `\\n \\t \\r \\" \\\\ \\{ \\u{00A0}`; `'…'` is raw: no escapes, a quote inside is doubled. Texts
  end on their line. Where a plain text is asked for, `{` is written in single quotes or as `\\{`.
- A number: `12`, `1_000`, `0.5`, `-3`. Other values are `true`, `false` and `null`.
- A name: letters, digits and `_`, not starting with a digit. Any other column name is written in square brackets:
  `[Fired at?]`; a `]` inside is doubled; `["Fired\\nat"]` knows escapes.
"""

COLUMNS = """\
COLUMNS is a list, with commas between, of

- a name; `name?` is skipped when the extract has no such column
- `*`, all columns
- a pattern on names: `/_at$/`
- `text columns`, `numeric columns`, `date columns`

and then optionally `except` with more of the same. The order is the extract's, whatever the list's. A name that is
not there is an error before any row is read; behind a step whose columns come from the data, `pivot` or `split … into
columns` without a number, it is one as soon as they are known. `*`, patterns and families skip columns that the
verb cannot work on, and the summary says so; a named one is an error.
"""

PATTERNS = """\
`/…/` with flags `i` (any letter case), `s` (`.` matches line breaks too), `m` (`^` and `$` match at lines), in RE2's
syntax, so that one search takes linear time whatever the data. A slash inside is `\\/`. `\\s` is white space as Mangler
means it, in classes too. `\\w`, `\\d` and `\\b` know only the letters and digits of ASCII; `\\p{L}` is any letter.

A pattern is found anywhere in a text unless anchored with `^` and `$`. Look-around and back-references do not exist.
A pattern that matches the empty text is refused in `replace`. In the new text for a pattern `\\0` to `\\9` are its
groups and `\\\\` is a backslash; single quotes take backslashes as they are.
"""

NULLS = """\
Null means that there is no value; empty is a text of no characters; blank is null, empty, or white space only. An
unquoted empty field of delimited text is null, a quoted one, `""`, is empty; all else, blanks too, is text
as it is. Writing keeps the difference.

Words that mean nothing become null:

- everywhere: `read nulls "-", "n/a", ""`, as the file is read; `""` means empty and blank fields
- in some columns: `nullify "-", "none" in glazes, notes anycase`, as a step; in all texts: `nullify "-" in *`
- where something else says so: `make result = null where cone is blank`

Nulls become a value:

- one column: `fill studio with "unknown"`; the value above: `fill studio down`; of other cells: `fill contacts with
  "{potter}@example.org"`
- to a blank or empty text: `fill notes with ""`
- all columns, family by family: `fill text columns with ""` and `fill numeric columns with 0`. A value of another type
  than the column is refused, so a null never becomes a 0 unasked.
- to the first of several: `make contact = coalesce(contacts, studio)`

In expressions a null makes a comparison or a sum null; `x is null`, `x is blank` and `coalesce` ask for it. In the
output a null is an empty field; `write nulls "NA"` writes a word for it.
"""

WHITE_SPACE = f"""\
White space is what a person would call blank: Unicode's White_Space and the zero-width characters U+200B, U+2060 and
U+FEFF, {len(BLANKS)} characters in all, the no-break space among them.

Where a whole cell is matched (`read nulls`, `nullify`, `replace … whole`), white space around it is ignored and a
pattern must match all of it.
"""

EXPRESSIONS = """\
Expressions are after `make NAME =`, `change … to`, `fill … with`, `where`, in the holes of texts, and in
`group` and `pivot`, where aggregates bring rows together. Types are checked before any row is read.

- Values: columns by name, `"text"`, `12`, `0.5`, `true`, `false`, `null`, functions: `mangler manual functions`. A
  column named `if`, `not`, `true`, `false` or `null`, or with other characters, is written in square brackets.
- Texts are put together with holes, `"{kiln} / {potter}"`; a hole takes numbers and dates too. A hole over null
  makes the whole text null; `{potter?}` puts nothing there instead.
- From loose to tight: `if c then a else b`; `or`; `and`; `not`; comparisons; `+ -`; `* / %`; unary `-`; calls.
- Comparisons: `= != < <= > >=`, `in ("a", "b")`, `between a and b`, `is null`, `is blank`, `is integer` and the
  other types (would it convert), `matches /…/`, `contains`, `starts with`, `ends with`; each with `not`: `is not
  null`, `not in (…)`. They do not chain, and letter case counts: compare `lower(x)`, or ask `alike(a, b)`.
- Several columns are tested alike with `all of (kiln, fired_on) is not null`, `any of (*) contains "?"`: between the
  brackets is a list of columns, and behind them what may follow a value.
- Comparison or arithmetic with null is null, and a condition that is null counts as not met. `and` and `or` are
  null only where the other side does not settle it.
- `+ - *` are exact on integers and decimals; `/` gives a float; `%` is what is left of a division that rounds down.
  Decimals keep their places: a sum the most of either, a product the sum of both, so that `0.10 * 3` is 0.30.
  A division by zero, a result that does not fit, a text that does not convert is a failure of its row: see `mangler
  manual failures`. A branch that is not taken never fails.
- `cell`, in `change`, is the value that is there.
"""

WITHIN = """\
`make … within COLUMNS` gives each row something of its group: the rows that are alike in these columns. The rows
themselves stay as they are, and where they are; `within all rows` takes the whole table for one group.

- An aggregate is that of the group: `make share = made / sum(made) within kiln`. All aggregates can be used.
- `sorted by COLUMN` says in which order the rows of a group are. Then a row can look at the rows beside it:
  - `previous(x)`, `previous(x, n)`: the value of the row before it, or n rows before; null where there is none.
  - `next(x)`, `next(x, n)`: the value of the row after it.
  - `running(sum(x))`: an aggregate over the rows from the group's first one to this one. It takes `count`, `sum`,
    `mean`, `min`, `max`, `first` and `last`.
  - `rank()`: the place in the order; equal rows share the smaller number.
- `where` says which rows get a value, and which rows the group has.
- `number rows … within`, `keep first N rows within`, `keep last N rows within` and `dedupe … leaving
  first|last|fullest` go by the place of a row in its group.

In an order nulls are last, and equal rows keep their order. Rows that do not fit into `--memory` go to temporary files;
only `join`, `list`, `median`, `quantile` and `count(distinct …)` need the values of one group in memory together.

What a group is and what it brings together in one row is `mangler manual group`; `mangler manual aggregates` lists all.
"""

FAILURES = """\
Where a value cannot be made for a row, by a division by zero, a result that is too large, a text that does not
convert, `failures` says what happens to the row.

- `stop`: the default. The run reads to its end, delivers nothing, and reports for every failing step how many
  rows, which, and why.
- `aside`: the extract row goes to the aside file, whole and once, as it was read, with the reason. What earlier steps
  made from it is withdrawn. The balance counts it. Behind a step that must see all rows nothing can be set aside:
  `aside` is refused there before any row is read, and is in a step above it.
- `null`: the cell becomes null; a value, as in `failures "unknown"`, is there instead. The summary counts them.
- `keep`: the cell stays as it was, where the type does not change.

`split` says it of parts: `too few` of a name that gets none, `too many` of parts that no name takes; `map` of values
that its table does not have: `unmatched`; `lookup` of keys that the file does not have, or has several times:
`unmatched`, `several`.

Null is never a failure. Rows that `where` leaves out never fail. A condition of `where` that itself cannot be known
stops the run; `keep rows`, `drop rows` and `set aside rows` take `failures` for it.
"""

ALL_ROWS = """\
- `sort`, `dedupe`, `group`, `pivot`, `fill … up` and `split … into columns` without a number let no row go before
  they have seen the last one. All others pass rows on as they come, and their memory does not grow with the
  extract.
- In `mangler run` on one machine a `dedupe` without `leaving` passes rows on too, as long as it can remember their
  keys, in at most 72 bytes each. When these take their part of the memory, the rows that come then wait.
- Keys of several rows, of `dedupe`, `group` and other steps that bring rows together, are distinguished by 128 bits of
  a hash, and so are the texts of a column that has many. That two different ones are taken for alike has, among a
  thousand million, a chance of less than one in 10^20.
- The rows that wait, of `dedupe` also their keys, of `group` what its aggregates need, are held in memory, and the
  work on them keeps to what `--memory` says: half of what the machine has by default, shared by two or three steps
  where several follow each other. What goes beyond it is in temporary files, in the folder that TMPDIR names,
  without names: they are gone with the program, however it ends.
- What comes out is the same, in the same order, however much memory there is. The values of one group must fit into
  memory, and those that a cell takes in, half of `--memory` or 2 GB, into a cell.
- What a step makes of the rows that it sees at once, `split … into rows` of a long cell or `lookup … several all` of
  many matches, is at most half of `--memory`; more is refused before it is made.
- Rows set aside are written as they come, and not kept.
- The file that `lookup` or `map` looks into is held in memory.
"""

EXIT_CODES = """\
- `0` done; a file with a header and no rows too, with a warning
- `1` the extract does not fit the recipe: nothing of it is delivered; or `test` or `format --check` found something
- `2` the recipe or the command line is wrong for every extract
- `3` a file cannot be opened, decoded, parsed or written, or there is not enough memory
- `4` delivered, but the history could not be written: the run is not noted there
- `70` a fault of Mangler: what was not delivered yet is as it was before, and a file that the message names has the
  details to report
- `130` interrupted, `143` terminated, `129` hung up: 128 and the number of the signal

Of several extracts each is tried, and the first of these codes counts: that of a signal, 70, 3, 2, 1, 4.
"""

TRUST = """\
A recipe from somebody else can read files and make rows. It cannot run a program, or write a file: where the output,
the rows set aside and the history go is said on the command line alone. It reaches a network only where `lookup` or
`map` name a database of a server, which `--files-under` refuses.

- `lookup` and `map … from` read any file and any table that you may read, `include` and `import` any recipe. What they
  read can end up in the output, and the names of its columns in a message.
- `--files-under FOLDER` refuses a recipe that names a file elsewhere. Links are followed: a link under the folder
  that points out of it is refused too. The recipe and the extracts, which you name yourself, may be anywhere.
- A file that is included or imported and is not a recipe is refused, and none of its lines is shown.
- Nothing that a command reads is replaced by what it writes: the recipe, files that it names, the extracts, the
  history, also under another name or through a link.
- A recipe has at most 5,000 statements and 4 MB. What one step makes of the rows that it sees at once is at most half
  of `--memory`, and 2 GB in a column; more is refused before it is made. Looking for all matches of a pattern in a
  long cell is given up after so many that it would take seconds, and the run is refused.
- Cells, names and messages that are shown have their control characters spelled, so that they command no terminal. A
  table that goes to standard output is the data as it is: `mangler look` shows it safely.
- A recipe can take long: thousands of steps on millions of rows do. Interrupt, terminate and hang-up end every
  command within seconds, and leave what was there before.
"""

FINDINGS = """\
`mangler profile FILE` reads a file once and says what is wrong with its columns, the worst first; with `--columns`
it shows columns in full, and the steps that would correct them. `mangler draft FILE` makes a first recipe of these
steps.

- White space: at the ends of cells, in runs inside them, and of kinds that nobody sees.
- Words that mean null: those that mean nothing else, as `n/a`, `null` or a dash; a word that recurs among
  numbers or dates; a short word that recurs in columns with nothing else in common. Of the rest, as `none`, `tbc` or
  `unknown`, a person decides, and of every word among codes, names, values that are all unlike, or where it is as
  frequent as the other values. Numbers like `9999` far from all others are asked about, and so is a rare 0 beside
  measures that are well above it.
- Letter case: spellings of a value that differ in nothing else. The most frequent one is kept, or the one in the
  case of all other values; an acronym, or a name with capitals inside, is never made small. Short words whose case
  may be all that distinguishes them, as `mW` and `MW`, are asked about.
- Near variants: a rare value that is one slip away from a frequent one, or two in a long word; never by a digit, a
  plural or a short word. A person decides.
- Free text, sentences and titles, gets white space steps only.
- Lists: a mark between parts that recur, or that are the same in number in every cell; how many parts there are,
  and pairs of names and values among them. A person decides between rows and columns.
- Numbers, dates, times and booleans that are text. Where `1.222` may be 1222, and where day and month could be
  changed over, other values of the column decide, if they can; else a person. What is beside a number and is no
  unit, as `<` or `~`, is asked about; so are brackets, two marks before the places, years of two digits that would lie
  in the future, and offsets that differ.
- Zeros in front say that digits are a code, and so does one length of seven digits or more: no conversion is
  offered. Of five or six digits a person decides; the question gives the reasons for a code and against it.
- Numbers far out: a handful, three times the distance of the quartiles beyond them, on the logarithms too where none
  is below zero.
- Of the table as a whole: rows that repeat, or repeat except for a key; a last row of totals; white space in names, and
  columns that have none of their own; columns of 0 and 1, in one question for all; a number that only counts the
  rows; columns that could be the key; columns that follow from another; columns of one value, or of none.

A step that no careful person would refuse is switched on. Everything else is a question, and its step waits behind a
`#` in a draft.

Every step was tried on the column's values, after the sure ones before it: the number beside it is that of the
cells which it changed. Counts are exact, except for distinct values beyond 100,000 in a column (fewer where there are
more than 40 columns): those are estimated from a sample that depends on the values alone, as is what is reported
them, and marked with `~` or "about". Memory is bounded whatever the size of the file.
"""

TOPICS = (
    Topic(
        "statements",
        "How a recipe is laid out.",
        STATEMENTS,
        ("recipe", "comment", "usage", "clause", "clauses"),
    ),
    Topic(
        "values", "Texts, numbers and names.", VALUES, ("text", "number", "name", "value", "texts", "numbers")
    ),
    Topic("columns", "Lists of columns, with patterns and families.", COLUMNS, ("except", "column")),
    Topic("patterns", "What is written between slashes.", PATTERNS, ("pattern", "groups", "flags")),
    Topic("nulls", "Null, empty and blank, and the ways between them.", NULLS, ("null", "empty", "blank")),
    Topic(
        "expressions",
        "Values, conditions, and texts with holes.",
        EXPRESSIONS,
        (
            "expression",
            "condition",
            "conditions",
            "where",
            "operators",
            "if",
            "holes",
            "cell",
            "in",
            "between",
            "is",
        ),
    ),
    Topic(
        "all rows",
        "Steps that must see all rows before they let one go, and the memory they take.",
        ALL_ROWS,
        ("memory", "tmpdir", "temporary files"),
    ),
    Topic(
        "groups of rows",
        "What a row can ask of its group, and of the rows beside it.",
        WITHIN,
        ("previous", "next", "running", "rank", "window", "windows", "group of rows", "share", "cumulative"),
    ),
    Topic("failures", "What happens to rows whose value cannot be made.", FAILURES, ("failure", "set aside")),
    Topic(
        "drift",
        "What is reported about an extract that is not like the last ones.",
        DRIFT,
        ("check", "history", "strict", "warnings"),
    ),
    Topic(
        "profile",
        "What is found in a file, and how a first recipe is drafted.",
        FINDINGS,
        ("draft", "findings", "outliers", "variants", "distinct"),
    ),
    Topic("white space", "What counts as blank.", WHITE_SPACE, ("blanks", "space", "spaces", "whole")),
    Topic(
        "files",
        "What is read and written, and how.",
        FILES,
        (
            "delimited text",
            "aside",
            "csv",
            "encodings",
            "compression",
            "gz",
            "zst",
            "history",
        ),
    ),
    Topic(
        "formats",
        "Formats of files, their types, and what each keeps.",
        formats_text(),
        (
            "format",
            "json",
            "jsonl",
            "ndjson",
            "parquet",
            "arrow",
            "feather",
            "xlsx",
            "xls",
            "xlsb",
            "ods",
            "workbook",
            "workbooks",
            "spreadsheet",
            "sheet",
            "zip",
            "tar",
            "types",
            "formulas",
        ),
    ),
    Topic(
        "databases",
        "Tables and queries of databases: addresses, transactions, types.",
        DATABASES,
        ("database", "sqlite", "postgresql", "postgres", "sql", "table", "tables", "query", "queries"),
    ),
    Topic(
        "elsewhere",
        "Files that are not on this machine: object storage, SFTP, the web.",
        ELSEWHERE,
        (
            "remote",
            "storage",
            "cloud",
            "s3",
            "sftp",
            "http",
            "https",
            "address",
            "addresses",
            "bucket",
            "upload",
        ),
    ),
    Topic(
        "trust",
        "What a recipe from somebody else can do, and what it cannot.",
        TRUST,
        ("security", "safety", "files-under", "limits"),
    ),
    Topic("exit codes", "What the program's exit code says.", EXIT_CODES, ("exit", "code", "codes")),
    Topic("terms", "What the words of this reference mean.", TERMS, ("glossary", "term", "words")),
    Topic("mistakes", "Why Mangler stops, kind by kind.", mistakes_text(), ("mistake", "errors", "error")),
)
