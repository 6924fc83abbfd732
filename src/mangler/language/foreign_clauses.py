"""Words from elsewhere in the place of a clause, and the clause to write.

As with the verbs, only words that several programs or languages share; each gives what is to be written here.
"""

from __future__ import annotations

from collections.abc import Mapping

WITHIN = "Groups are named by within: {verb} … within COLUMNS."
SORTED_BY = "The order is named by sorted by: {verb} … sorted by COLUMN."
NEAR = "Write near 2: keys with up to two typing mistakes are found."
WRITTEN = 'Write written and the form: written "%d/%m/%Y".'
GROUPING = 'Write grouping and the mark between thousands: grouping ",".'
POINT = 'Write point and the mark of decimals: point ",".'
FAILURES = "Write failures null, failures aside, or a value: failures 0."
ABSENT = 'Write absent "…" for empty parts, too few "…" for parts that are not there.'
NAME_GIVEN = "An aggregate gets a name: group by COLUMNS with NAME = count()."
DETECTED = (
    "The format is detected from the file, and need not be said; read format names it where it is in doubt."
)
WRITES_TEXT = "Write format text. The ending of the output says it too: --to clean.csv."
WRITES_WORKBOOK = "Write format workbook. The ending of the output says it too: --to clean.xlsx."
DELIMITER = 'Write delimiter and the mark: delimiter ";". A tab is "\\t".'
NULLS = 'Write nulls and the words: nulls "n/a", "-".'
OF_COLUMN = "The column of values is named by of: pivot COLUMN into columns of COLUMN."
TIMES = "Write by before the column with the counts: repeat rows by COLUMN."
LEAVING = "Write leaving first, leaving last or leaving fullest."

OF_GROUPS = {
    **dict.fromkeys(("by", "per", "over"), WITHIN),
    **dict.fromkeys(("order", "sort"), SORTED_BY),
}
MATCHING = {
    **dict.fromkeys(("fuzzy", "approximate", "nearest", "similar", "like", "closest"), NEAR),
    **dict.fromkeys(
        ("default", "else", "otherwise", "missing", "nomatch"),
        "Write unmatched and what happens to them, as unmatched null.",
    ),
}
CLAUSES: Mapping[str, Mapping[str, str]] = {
    "make": {
        **dict.fromkeys(("over", "partition", "per", "by", "group"), WITHIN),
        "order": SORTED_BY,
        **dict.fromkeys(("days", "day"), "Write add_days(DATE, NUMBER)."),
        **dict.fromkeys(("months", "month", "years", "year"), "Write add_months(DATE, NUMBER)."),
        **dict.fromkeys(("hours", "hour", "minutes", "minute"), "Write add_minutes(TIMESTAMP, NUMBER)."),
    },
    "number rows": {
        **dict.fromkeys(("over", "partition", "per", "by", "group"), WITHIN),
        **dict.fromkeys(("order", "sort"), SORTED_BY),
        **dict.fromkeys(("start", "starting"), "Write from NUMBER."),
    },
    "dedupe": {
        **dict.fromkeys(("keep", "keeping", "retain", "retaining", "latest", "newest", "oldest"), LEAVING),
        **dict.fromkeys(("subset", "within", "columns"), "Write by COLUMNS: dedupe by COLUMNS."),
        **dict.fromkeys(("order", "sort"), SORTED_BY),
    },
    "keep first": OF_GROUPS,
    "keep last": OF_GROUPS,
    "map": MATCHING,
    "lookup": MATCHING,
    "group": {
        "having": "Write it below, as a statement of its own: keep rows where CONDITION.",
        **dict.fromkeys(("count", "sum", "mean", "min", "max", "first", "last", "aggregate"), NAME_GIVEN),
    },
    "pivot": {**dict.fromkeys(("values", "value"), OF_COLUMN)},
    "repeat rows": {"times": TIMES},
    "convert": {
        **dict.fromkeys(("format", "pattern", "mask", "form", "using"), WRITTEN),
        **dict.fromkeys(("thousands", "thousand", "sep", "separator"), GROUPING),
        **dict.fromkeys(("decimal", "decimals", "comma"), POINT),
        **dict.fromkeys(
            ("unit", "units", "strip", "suffix", "prefix", "currency"),
            'Write without "…", the text to leave out.',
        ),
        **dict.fromkeys(("timezone", "tz"), 'Write zone "Europe/Paris".'),
        **dict.fromkeys(("locale", "lang"), 'Write language "de".'),
    },
    "split": {
        **dict.fromkeys(("default", "missing", "otherwise", "fill"), ABSENT),
        **dict.fromkeys(("rest", "extra", "overflow", "remaining"), "Write too many unsplit, cut or aside."),
        **dict.fromkeys(("drop", "remove", "replace", "inplace"), "Write in place: the source column goes."),
        **dict.fromkeys(("rows", "columns"), "Write into rows, or into columns 3."),
    },
    "fill": {
        **dict.fromkeys(("forward", "ffill", "method"), "Write fill COLUMNS down: the value above is taken."),
        **dict.fromkeys(("backward", "bfill"), "Write fill COLUMNS up: the value below is taken."),
    },
    "read": {
        **dict.fromkeys(("csv", "tsv", "excel", "xlsx", "json", "parquet", "table"), DETECTED),
        **dict.fromkeys(("sep", "separator", "delim"), DELIMITER),
        **dict.fromkeys(("na", "null", "missing"), NULLS),
        **dict.fromkeys(("charset", "codepage"), 'Write encoding "windows-1252", or another.'),
        **dict.fromkeys(("skiprows", "skip_rows"), "Write skip NUMBER."),
        **dict.fromkeys(
            ("from", "file", "path"),
            "The command names the file: mangler run RECIPE FILE. The recipe says how it is read.",
        ),
    },
    "write": {
        **dict.fromkeys(("csv", "tsv"), WRITES_TEXT),
        **dict.fromkeys(("excel", "xlsx", "xls"), WRITES_WORKBOOK),
        **dict.fromkeys(("sep", "separator", "delim"), DELIMITER),
        **dict.fromkeys(("na", "null", "missing"), NULLS.replace(', "-"', "")),
        **dict.fromkeys(
            ("gzip", "zip", "compress"), "Write compression gzip, or let the ending say it: clean.csv.gz."
        ),
        **dict.fromkeys(
            ("to", "into", "in", "file", "path"),
            "The command names the file: mangler run RECIPE FILE --to OUTPUT. The recipe says how it is written.",
        ),
    },
}
"""For each verb the words that are met, with what to write."""
ANY_VERB: Mapping[str, tuple[str, str]] = {
    **dict.fromkeys(
        ("ignorecase", "nocase", "insensitive", "caseless", "ignoring"),
        ("anycase", "Write anycase: letter case is ignored."),
    ),
    **dict.fromkeys(("if", "when", "unless"), ("where", "Write where and the condition.")),
    **dict.fromkeys(("error", "errors", "onerror", "invalid", "default", "else"), ("failures", FAILURES)),
}
"""Words that are met in every statement that has the clause: it, and what to write."""


def advice_on_clause(verb: str, word: str) -> str:
    """What to write instead of a word that is not a clause of this verb; nothing where it is not known."""
    advice = CLAUSES.get(verb, {}).get(word, "")
    return advice.format(verb=verb) if "{verb}" in advice else advice


def advice_in_any_statement(word: str, has: set[str]) -> str:
    """The same for words that mean the same in all statements. `has` are the words that the verb's usage line has."""
    clause, advice = ANY_VERB.get(word, ("", ""))
    return advice if clause and clause in has else ""
