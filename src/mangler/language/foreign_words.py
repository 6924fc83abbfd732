"""Words from elsewhere, of spreadsheets, query languages and scripting languages, and the line to write for each.

Only words that the trade, a standard, a programming language or several programs share. A line is made of the user's
own columns, texts and numbers, as far as they are there.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence

from mangler.late_dataclass import dataclass

PIECE = re.compile(
    r""""(?:[^"\\]|\\.)*"|'(?:[^']|'')*'|\[[^\]]*\]|/(?:[^/\\]|\\.)+/[a-z]*|\d+(?:\.\d+)?|\w+"""
)
NO_COLUMNS = frozenset(
    [
        "from",
        "to",
        "in",
        "with",
        "by",
        "as",
        "on",
        "into",
        "where",
        "and",
        "or",
        "not",
        "if",
        "then",
        "else",
        "is",
        "like",
        "the",
        "all",
        "columns",
        "column",
        "rows",
        "row",
        "of",
        "at",
        "for",
        "asc",
        "desc",
        "ascending",
        "descending",
        "using",
        "set",
        "values",
        "value",
        "between",
        "true",
        "false",
        "null",
        "table",
        "when",
    ]
)
"""Words that stand between the columns of a line."""


@dataclass(frozen=True)
class Pieces:
    """What a line from elsewhere holds: names that may be columns, texts, numbers, and the line itself."""

    names: Sequence[str]
    texts: Sequence[str]
    numbers: Sequence[str]
    rest: str

    @classmethod
    def of(cls, rest: str) -> Pieces:
        names, texts, numbers = [], [], []
        for piece in PIECE.findall(rest):
            if piece[0] in "\"'/":
                texts.append(piece)
            elif piece[0].isdigit():
                numbers.append(piece)
            elif piece.lower() not in NO_COLUMNS:
                names.append(piece)
        return cls(list(dict.fromkeys(names)), texts, numbers, rest.strip())

    def filled(self, line: str) -> str:
        """The line with what is there in its holes: {columns}, {column}, {other}, {text}, {new}, {number}, {rest}."""
        names, texts = self.names, self.texts
        holes = {
            "columns": ", ".join(names) or "COLUMNS",
            "column": names[0] if names else "COLUMN",
            "other": names[1] if len(names) > 1 else "OTHER",
            "last": names[-1] if names else "NAME",
            "text": texts[0] if texts else '"TEXT"',
            "new": texts[1] if len(texts) > 1 else '"NEW"',
            "number": self.numbers[0] if self.numbers else "10",
            "rest": self.rest or "CONDITION",
        }
        return line.format_map(holes)


VERBS: Mapping[str, str] = {
    **dict.fromkeys(
        ("strip", "clean", "cleanup", "collapse", "chomp", "ltrim", "rtrim"), "trim {columns} squeeze"
    ),
    **dict.fromkeys(
        ("substitute", "gsub", "sub", "swap", "translate"), "replace {text} with {new} in {columns}"
    ),
    **dict.fromkeys(
        ("remove", "delete", "exclude", "omit"), "drop columns {columns}, or drop rows where CONDITION"
    ),
    **dict.fromkeys(("select", "columns", "pick", "project"), "keep columns {columns}"),
    **dict.fromkeys(("filter", "where", "having", "subset", "query"), "keep rows where {rest}"),
    **dict.fromkeys(("order", "arrange", "orderby", "sortby", "rank"), "sort by {columns}"),
    **dict.fromkeys(
        ("distinct", "unique", "deduplicate", "drop_duplicates", "duplicates", "uniq"), "dedupe by {columns}"
    ),
    **dict.fromkeys(("head", "limit", "top", "take", "first"), "keep first {number} rows"),
    **dict.fromkeys(("tail", "bottom", "last"), "keep last {number} rows"),
    **dict.fromkeys(
        ("concat", "concatenate", "paste", "combine", "concat_ws"), 'join {columns} with " " into NAME'
    ),
    **dict.fromkeys(
        ("merge", "vlookup", "xlookup", "left", "inner", "outer"), 'lookup "FILE" on {column} bring NAME'
    ),
    **dict.fromkeys(("explode", "unnest", "flatten"), 'split {column} at ";" into rows'),
    **dict.fromkeys(("extract", "match", "regex", "find"), "capture {column} by /(…)/ into NAME"),
    **dict.fromkeys(("cast", "astype", "type", "coerce", "parse"), "convert {column} to TYPE"),
    **dict.fromkeys(
        ("ifnull", "fillna", "nvl", "coalesce", "default", "impute"), "fill {column} with {text}"
    ),
    **dict.fromkeys(("proper", "title", "capitalize", "titlecase", "initcap"), "recase {columns} title"),
    **dict.fromkeys(
        ("upper", "uppercase", "ucase", "toupper", "to_upper", "upper_case"), "recase {columns} upper"
    ),
    **dict.fromkeys(
        ("lower", "lowercase", "lcase", "tolower", "to_lower", "lower_case", "case"), "recase {columns} lower"
    ),
    **dict.fromkeys(
        ("let", "add", "calculate", "compute", "derive", "assign", "column", "set", "calc", "new", "create"),
        "make NAME = EXPR",
    ),
    **dict.fromkeys(("apply", "transform", "update"), "change {column} to EXPR"),
    **dict.fromkeys(("melt", "stack"), "unpivot {columns} into NAME, VALUE"),
    **dict.fromkeys(("crosstab", "transpose"), "pivot {column} into columns of {other}"),
    **dict.fromkeys(
        ("summarize", "summarise", "aggregate", "agg", "rollup"), "group by {column} with NAME = sum({last})"
    ),
    **dict.fromkeys(("count", "tally", "frequency"), "group by {columns} with rows = count()"),
    **dict.fromkeys(("row_number", "enumerate", "index", "autonumber"), "number rows as no"),
    **dict.fromkeys(("relabel", "alias", "call"), "rename {column} to {last}"),
    **dict.fromkeys(("move",), "reorder columns {columns}, *"),
    **dict.fromkeys(("null", "blank", "na", "nulls"), "nullify {text} in {columns}"),
    **dict.fromkeys(("dropna",), "drop rows where any of (*) is null"),
    **dict.fromkeys(
        ("cumsum", "cumulative"), "make so_far = running(sum({column})) within all rows sorted by COLUMN"
    ),
    **dict.fromkeys(("shift", "lag"), "make before = previous({column}) within all rows sorted by COLUMN"),
    "lead": "make after = next({column}) within all rows sorted by COLUMN",
    **dict.fromkeys(("ffill", "pad", "filldown"), "fill {columns} down"),
    **dict.fromkeys(("bfill", "backfill"), "fill {columns} up"),
    **dict.fromkeys(("reject", "quarantine", "flag"), 'set aside rows where CONDITION because "REASON"'),
    **dict.fromkeys(("expect", "assert", "validate"), "require that CONDITION"),
    **dict.fromkeys(("check", "constraint"), "require that {rest}"),
    **dict.fromkeys(("load", "open", "input", "import_csv", "read_csv"), 'read delimiter ";"'),
    **dict.fromkeys(
        ("save", "output", "export", "to_csv", "write_csv"),
        "write format FORMAT, and --to FILE in the command",
    ),
    **dict.fromkeys(("union", "append", "union_all"), "mangler run RECIPE FILE FILE --together --to FILE"),
    **dict.fromkeys(("print", "show", "display", "preview", "view", "describe", "info"), "mangler look FILE"),
    **dict.fromkeys(
        ("for", "foreach", "while", "loop"), "change {columns} to EXPR, which goes over all rows"
    ),
    **dict.fromkeys(("function", "def", "macro", "lambda"), "define NAME(x) = EXPR"),
    **dict.fromkeys(("variable", "argument", "var", "const", "param"), "parameter NAME = VALUE"),
    **dict.fromkeys(("use", "require", "source"), 'import "FILE" as NAME'),
    **dict.fromkeys(("recipe", "version"), "mangler 1"),
    "if": "make NAME = if CONDITION then VALUE else VALUE",
    "explain": "mangler manual VERB",
    "round": "change {columns} to round(cell, 2)",
    "concat_rows": 'group by {column} with NAME = join(OTHER, ", ")',
}
"""The line for each word that a statement may start with."""

FUNCTIONS: Mapping[str, str] = {
    **dict.fromkeys(("substring", "substr", "mid", "slice"), "characters({0}, FROM, TO)"),
    **dict.fromkeys(
        ("concat", "concatenate", "paste", "textjoin", "concat_ws"), '"{{{0}}}{{{1}}}", a text with holes'
    ),
    **dict.fromkeys(("ifnull", "nvl", "iferror", "ifna", "fillna"), "coalesce({0}, {1})"),
    **dict.fromkeys(("iif", "ifelse", "choose"), "if {0} then {1} else {2}"),
    **dict.fromkeys(("case", "switch", "decode"), "if CONDITION then VALUE else VALUE"),
    **dict.fromkeys(("ltrim", "lstrip", "trimstart"), "trim_left({0})"),
    **dict.fromkeys(("rtrim", "rstrip", "trimend"), "trim_right({0})"),
    **dict.fromkeys(("strip", "clean", "btrim"), "trim({0})"),
    **dict.fromkeys(("proper", "initcap", "capitalize", "titlecase", "capwords"), "title({0})"),
    **dict.fromkeys(("ucase", "toupper", "uppercase"), "upper({0})"),
    **dict.fromkeys(("lcase", "tolower", "lowercase"), "lower({0})"),
    **dict.fromkeys(("len", "strlen", "char_length", "nchar", "size_of"), "length({0})"),
    **dict.fromkeys(("str", "string", "to_string", "to_char", "tostring", "varchar"), "text({0})"),
    **dict.fromkeys(("int", "to_number", "toint", "parseint", "to_integer", "bigint"), "integer({0})"),
    **dict.fromkeys(
        ("number", "value", "numeric", "double", "parsefloat", "to_float"), "decimal({0}), or integer({0})"
    ),
    **dict.fromkeys(("bool",), "boolean({0})"),
    **dict.fromkeys(("contains", "includes", "has", "str_contains"), "{0} contains {1}"),
    **dict.fromkeys(("startswith", "starts_with", "beginswith"), "{0} starts with {1}"),
    **dict.fromkeys(("endswith", "ends_with"), "{0} ends with {1}"),
    **dict.fromkeys(("string_agg", "group_concat", "listagg", "array_agg"), 'join({0}, ", ")'),
    **dict.fromkeys(("avg", "average"), "mean({0})"),
    **dict.fromkeys(("std", "stdev", "stddev_samp", "sd"), "stddev({0})"),
    **dict.fromkeys(("var", "var_samp"), "variance({0})"),
    **dict.fromkeys(("percentile", "percentile_cont"), "quantile({0}, 0.9)"),
    **dict.fromkeys(("count_distinct", "nunique", "countunique"), "count(distinct {0})"),
    **dict.fromkeys(("countif", "count_if"), "count(where {0})"),
    **dict.fromkeys(("sumif", "sum_if"), "sum(if CONDITION then {0} else null)"),
    **dict.fromkeys(("total",), "sum({0})"),
    **dict.fromkeys(
        ("now", "today", "current_date", "getdate", "current_timestamp", "sysdate"), "run_date()"
    ),
    **dict.fromkeys(("dateadd", "date_add", "adddays"), "add_days({0}, DAYS), or add_months({0}, MONTHS)"),
    **dict.fromkeys(("edate",), "add_months({0}, {1})"),
    **dict.fromkeys(("eomonth", "end_of_month", "month_end"), 'last_day({0}, "month")'),
    **dict.fromkeys(("datediff", "date_diff", "datedif", "days"), "days_between({0}, {1})"),
    **dict.fromkeys(
        ("date_trunc", "trunc_date", "datetrunc"), 'truncate_to({0}, "hour"), or first_day({0}, "month")'
    ),
    **dict.fromkeys(
        ("to_date", "strptime", "parse_date", "datevalue", "str_to_date"), 'date({0}, "%d/%m/%Y")'
    ),
    **dict.fromkeys(
        ("to_timestamp", "to_datetime", "datetime", "parse_datetime"), 'timestamp({0}, "%d/%m/%Y %H:%M")'
    ),
    **dict.fromkeys(("strftime", "date_format", "dateformat"), 'format_date({0}, "%d/%m/%Y")'),
    **dict.fromkeys(("month_name", "monthname"), 'format_date({0}, "%B")'),
    **dict.fromkeys(("weekday_name", "day_name", "dayname"), 'format_date({0}, "%A")'),
    **dict.fromkeys(("any", "any_null"), "any of ({all}) is null, or another condition"),
    **dict.fromkeys(("all", "all_null"), "all of ({all}) is null, or another condition"),
    **dict.fromkeys(("dayofweek", "dow", "isodow"), "weekday({0})"),
    **dict.fromkeys(
        ("regexp_replace", "regex_replace", "re_sub", "sub", "gsub", "substitute"), "replace({0}, /…/, NEW)"
    ),
    **dict.fromkeys(
        ("regexp_extract", "regexp_substr", "regex_extract", "regexextract"), "capture {0} by /(…)/ into NAME"
    ),
    **dict.fromkeys(
        (
            "regexp_matches",
            "regexp_like",
            "regexp_contains",
            "regex_match",
            "regex",
            "regexp",
            "rlike",
            "matches",
        ),
        "{0} matches /…/",
    ),
    **dict.fromkeys(("split_part", "strsplit", "token"), "part({0}, {1}, N)"),
    **dict.fromkeys(
        ("instr", "position", "find", "charindex", "indexof", "locate", "strpos"),
        "length(up_to({0}, {1})) + 1",
    ),
    **dict.fromkeys(("lag", "prev", "shift"), "previous({0}), in make … within COLUMNS sorted by COLUMN"),
    **dict.fromkeys(("lead",), "next({0}), in make … within COLUMNS sorted by COLUMN"),
    **dict.fromkeys(("row_number", "rownumber", "rownum", "row"), "number rows as NAME, or extract_row()"),
    **dict.fromkeys(
        ("cumsum", "running_total", "running_sum"),
        "running(sum({0})), in make … within COLUMNS sorted by COLUMN",
    ),
    **dict.fromkeys(
        ("dense_rank", "percent_rank", "ntile"), "rank(), in make … within COLUMNS sorted by COLUMN"
    ),
    **dict.fromkeys(("sha256", "sha1", "md5", "hash", "sha2"), 'keyed_hash({0}, "KEY")'),
    **dict.fromkeys(("json_extract", "json_value", "json_query"), 'json_at({0}, "a.b[0]")'),
    **dict.fromkeys(("ceiling", "roundup"), "ceil({0})"),
    **dict.fromkeys(("trunc", "truncate", "rounddown", "fix"), "floor({0})"),
    **dict.fromkeys(("mod", "modulo"), "{0} % {1}"),
    **dict.fromkeys(("isblank", "isempty", "is_empty", "empty"), "{0} is blank"),
    **dict.fromkeys(("isnull", "is_null", "isna", "isnan"), "{0} is null, or coalesce({0}, VALUE)"),
    **dict.fromkeys(("notnull", "isnotnull", "notna", "is_not_null"), "{0} is not null"),
    **dict.fromkeys(
        ("isnumber", "isnumeric", "is_number", "is_numeric", "isdigit"), "{0} is float, or is integer"
    ),
    **dict.fromkeys(("isdate", "is_date"), "{0} is date"),
    **dict.fromkeys(("exact", "equals"), "{0} = {1}"),
    **dict.fromkeys(("in", "isin", "is_in", "one_of"), "{0} in ({1})"),
    **dict.fromkeys(("and", "all_of"), "{0} and {1}"),
    **dict.fromkeys(("or", "any_of"), "{0} or {1}"),
    **dict.fromkeys(("lpad", "zfill", "padstart", "padleft"), 'pad_left({0}, WIDTH, "0")'),
    **dict.fromkeys(("rpad", "padend", "padright"), "pad_right({0}, WIDTH)"),
    **dict.fromkeys(("rept", "replicate"), "repeat({0}, {1})"),
    **dict.fromkeys(("nth", "element_at", "array_get"), "item({0}, {1})"),
    **dict.fromkeys(("array_length", "cardinality", "list_length"), "size({0})"),
    **dict.fromkeys(("array_join", "list_join", "implode"), "joined({0}, {1})"),
    **dict.fromkeys(("array_distinct", "list_unique"), "unique({0})"),
    **dict.fromkeys(("remove_accents", "deaccent", "strip_accents"), "unaccent({0})"),
    **dict.fromkeys(("count_substring", "countchar", "str_count"), "occurrences({0}, {1})"),
    **dict.fromkeys(("vlookup", "xlookup", "hlookup"), 'lookup "FILE" on {0} bring NAME'),
    **dict.fromkeys(("mode",), "first({0})"),
    **dict.fromkeys(("input_file_name", "filename"), "extract_file()"),
    "max_by": "last({0} sorted by {1})",
    "min_by": "first({0} sorted by {1})",
    "regexreplace": "replace({0}, /…/, NEW)",
    "regexmatch": "{0} matches /…/",
    "search": "{0} contains {1}",
    "unicode": "nfc({0})",
    "normalize": "nfc({0})",
}
"""What stands for a call of each of these functions; {0} is its first argument."""
NAMES = ("COLUMN", "OTHER", "VALUE")
UNIT_FIRST = ("date_trunc", "datetrunc", "dateadd", "date_add", "datediff", "date_diff")
"""Functions that elsewhere take a unit of time as their first argument and the date as their last."""


PHRASES: Mapping[str, str] = {
    **dict.fromkeys(
        ("drop duplicates", "remove duplicates", "keep distinct", "keep unique"), "dedupe by {columns}"
    ),
    **dict.fromkeys(
        ("drop nulls", "drop na", "remove nulls", "drop null", "drop missing"),
        "drop rows where any of ({columns}) is null",
    ),
    **dict.fromkeys(
        ("remove rows", "delete rows", "exclude rows", "filter out", "delete from"), "drop rows where {rest}"
    ),
    **dict.fromkeys(("select rows", "filter rows", "keep where"), "keep rows where {rest}"),
    **dict.fromkeys(
        ("drop empty", "drop blank", "remove empty", "remove blank"), "drop rows where all of (*) is blank"
    ),
    **dict.fromkeys(("add column", "new column", "create column", "add columns"), "make NAME = EXPR"),
    **dict.fromkeys(
        ("remove column", "delete column", "drop column", "remove columns"), "drop columns {columns}"
    ),
    **dict.fromkeys(
        ("fill na", "fill nulls", "fill null", "replace null", "replace nulls"), "fill {columns} with {text}"
    ),
    **dict.fromkeys(("keep top", "keep head"), "keep first {number} rows"),
    **dict.fromkeys(("keep bottom", "keep tail"), "keep last {number} rows"),
    **dict.fromkeys(("require unique", "require distinct"), "require one row per {columns}"),
    **dict.fromkeys(("require not", "require nonnull"), "require no nulls in {columns}"),
    **dict.fromkeys(("order by", "sort on"), "sort by {columns}"),
    **dict.fromkeys(("partition by",), "make NAME = EXPR within {columns}"),
    **dict.fromkeys(("text to", "split column", "split columns"), 'split {column} at ";" into columns'),
    **dict.fromkeys(("find and", "search and"), "replace {text} with {new} in {columns}"),
    **dict.fromkeys(
        ("left join", "inner join", "join table", "lookup from"), 'lookup "FILE" on {column} bring NAME'
    ),
    **dict.fromkeys(("change type", "set type", "alter column"), "convert {column} to TYPE"),
    **dict.fromkeys(("remove whitespace", "strip whitespace", "trim whitespace"), "trim {columns} squeeze"),
}
"""The line for each two words that a statement may start with."""


def line_for_phrase(words: str, rest: str) -> str:
    """The line to write for a statement that starts with two words from elsewhere; nothing where they are not known."""
    line = PHRASES.get(words.lower())
    if line is None:
        return ""
    pieces = Pieces.of(rest)
    names = pieces.names or (["*"] if "any of" in line else [])
    filled = Pieces(names, pieces.texts, pieces.numbers, pieces.rest.removeprefix("where ").strip()).filled(
        line
    )
    return filled.removesuffix(" by COLUMNS")


def line_for_verb(word: str, rest: str) -> str:
    """The line to write for a statement that starts with a word from elsewhere; nothing where the word is not known."""
    line = VERBS.get(word.lower())
    return Pieces.of(rest).filled(line) if line is not None else ""


def form_for_function(name: str, arguments: Sequence[str]) -> str:
    """What to write for a call of a function from elsewhere; nothing where its name is not known."""
    form = FUNCTIONS.get(name.lower())
    if form is None:
        return ""
    count = len(arguments)
    if count > 1 and arguments[0][0] in "\"'" and name.lower() in UNIT_FIRST:
        arguments = arguments[:0:-1]
    if (
        name.lower() in ("substring", "substr", "mid")
        and count == 3
        and arguments[1].isdigit()
        and arguments[2].isdigit()
    ):
        start, length = int(arguments[1]), int(arguments[2])
        return f"characters({arguments[0]}, {start}, {start + length - 1})"
    if name.lower() in ("concat", "concatenate", "paste") and count:
        holes = "".join(one[1:-1] if one[0] in "\"'" else f"{{{one}}}" for one in arguments)
        return f'"{holes}", a text with holes'
    count = len(arguments)
    names = (*arguments, *NAMES[count:])
    return form.format(*names, all=", ".join(arguments) or "COLUMNS")
