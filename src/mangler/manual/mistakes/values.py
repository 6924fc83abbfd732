"""Mistakes in texts, patterns, numbers and what is expected of them."""

from __future__ import annotations

from mangler.manual.mistakes.kind import Kind

KINDS = {
    "text-needed": Kind(
        "A text is expected here.",
        "join notes, result with ; into x",
        'join notes, result with "; " into x',
        "Texts are written in straight quotes.",
    ),
    "text-not-closed": Kind(
        "A text has no closing quote in its line.",
        'fill notes with "none',
        'fill notes with "none"',
        "Close it. A quote within it is written twice the other way: 'say \"a\"'.",
    ),
    "text-or-pattern-needed": Kind(
        "What is looked for is a text or a pattern.",
        "replace tbc with null in notes",
        'replace "tbc" with "" in notes',
        "Write a text in quotes, or a pattern between slashes: `/\\d+/`.",
    ),
    "typographic-quote": Kind(
        "A quote was made round by a word processor or a chat.",
        "fill notes with “none”",
        'fill notes with "none"',
        "Write straight quotes.",
    ),
    "empty-text": Kind(
        "An empty text is looked for, and it is everywhere.",
        'replace "" with "none" in notes',
        'replace "" with "none" in notes whole',
        "Say `whole` for cells with nothing in them; `fill` is for nulls.",
    ),
    "unknown-escape": Kind(
        "A backslash stands before a character with which it makes no escape.",
        r'replace "\d" with "" in notes',
        r'replace /\d/ with "" in notes',
        r"A backslash itself is written \\ ; in single quotes it needs nothing.",
    ),
    "control-character": Kind(
        "The recipe holds a character that nobody sees and that may command a terminal.",
        fix=r"Write it as an escape: \u{0007}.",
    ),
    "hole-not-allowed": Kind(
        "A brace in double quotes opens a hole, and this text is taken as it is.",
        'replace "{a}" with "b" in notes',
        "replace '{a}' with \"b\" in notes",
        "Write the text in single quotes.",
    ),
    "hole-not-closed": Kind(
        "A hole in a text does not end.",
        'make label = "{kiln"',
        'make label = "{kiln}"',
        "A hole holds one expression. For the character itself write \\{.",
    ),
    "pattern-needed": Kind(
        "A pattern is expected here.",
        'capture notes by "batch" into batch',
        r"capture notes by /batch (\d+)/ into batch",
        "Patterns are written between slashes.",
    ),
    "pattern-not-closed": Kind(
        "A pattern has no closing slash.",
        'replace /\\d with "" in notes',
        'replace /\\d/ with "" in notes',
        r"Close it; a slash within it is written \/.",
    ),
    "pattern-not-supported": Kind(
        "The pattern asks for what RE2 does not have, or is not well formed.",
        'replace /(?<=a)b/ with "" in notes',
        r"replace /(a)b/ with '\1' in notes",
        "RE2 has no look-around and no back-references. A mark that means itself has a backslash before it.",
    ),
    "pattern-too-long": Kind(
        "The pattern is longer than Mangler takes.",
        fix="Write a list of texts, or read it with `map … from FILE`.",
    ),
    "pattern-without-group": Kind(
        "A pattern that is to capture something has no group in round brackets.",
        r"capture notes by /batch \d+/ into batch",
        r"capture notes by /batch (\d+)/ into batch",
        "Put what is wanted in round brackets.",
    ),
    "pattern-as-value": Kind(
        "A pattern is not a value.",
        "make x = /a/",
        "keep rows where notes matches /a/",
        "Patterns stand after `matches`, and where a function looks for something.",
    ),
    "empty-pattern": Kind(
        "The pattern matches the empty text, which is everywhere.",
        'replace /x*/ with "y" in notes',
        'replace /x+/ with "y" in notes',
        "Ask for at least one character: + instead of *.",
    ),
    "too-many-patterns": Kind(
        "One statement has more patterns and groups than go in one pass.",
        fix="Divide the pairs between two statements, or write groups that are not put back as (?:…).",
    ),
    "unknown-flag": Kind(
        "A letter after the pattern is not a flag.",
        'replace /a/g with "b" in notes',
        'replace /a/i with "b" in notes',
        "Flags are i (any letter case), s (. matches line breaks too) and m (^ and $ match at lines)."
        " Every match is replaced by default.",
    ),
    "unknown-group": Kind(
        "A group is put back that the pattern does not have.",
        r"replace /(\d)/ with '\2' in notes",
        r"replace /(\d)/ with '\1' in notes",
        r"Groups are numbered from \1 by their opening brackets; \0 is the whole match.",
    ),
    "not-a-character-class": Kind(
        "A class of characters is asked for, and this is not one of them.",
        "keep characters vowels in notes",
        "keep characters letters in notes",
        "`mangler manual keep characters` lists the classes; own characters are written in a text.",
    ),
    "one-character": Kind(
        "A quote, a thousands mark or the like is one character.",
        'read quote "ab"',
        'read quote "\'"',
        "Write one character.",
    ),
    "comment-mark": Kind(
        "`read comment` takes the text at the start of lines that are no rows.",
        'read comment ""',
        'read comment "#"',
        "Write a text without blanks.",
    ),
    "delimiter": Kind(
        "A delimiter cannot be this: it is empty, a line break, or the quote itself.",
        'read delimiter "\\n"',
        'read delimiter ";"',
        "Write the text that stands between fields.",
    ),
    "delimiter-open": Kind(
        "Several delimiters are looked for, so it is open what the parts are joined with again.",
        'clean list glazes at ";", ","',
        'clean list glazes at ";", "," with "; "',
        'Say it: `with "; "`.',
    ),
    "nulls-word": Kind(
        "The word for null in the output holds the delimiter or the quote.",
        fix="Take a word without them.",
    ),
    "number-needed": Kind(
        "A number is expected here.",
        "keep first many rows",
        "keep first 10 rows",
        "Numbers are written 12, 1_000, 0.5 or -3.",
    ),
    "not-a-number": Kind(
        "Something starts like a number and goes on like a name.",
        "make x = 2nd",
        "make x = [2nd]",
        "A column whose name starts with a digit is written in square brackets.",
    ),
    "number-too-large": Kind(
        "The number does not fit: whole numbers have at most 64 bits.",
        "make x = 99999999999999999999",
        "make x = 9_999_999_999_999_999",
        "Write a smaller one, or a text.",
    ),
    "too-many-decimal-places": Kind(
        "A number has more decimal places than its column.",
        fix="Write fewer places, or give the column more.",
    ),
    "count-from-one": Kind(
        "Rows, parts and places count from 1.",
        'clean list glazes at ";" first 0',
        'clean list glazes at ";" first 1',
        "Write 1 or more.",
    ),
    "not-a-count": Kind(
        "A function is given a place 0, or an amount below 0.",
        "make x = left(notes, -1)",
        "make x = left(notes, 1)",
        "Places count from 1, and from the end with negative numbers; amounts are 0 or more.",
    ),
    "not-an-amount": Kind(
        "An amount is outside of what it can be.",
        "tolerate 200%",
        "tolerate 2%",
        "The message says what is allowed.",
    ),
    "not-a-mark": Kind(
        "A mark within numbers is one character, no digit and no sign.",
        'convert notes to float point "12"',
        'convert notes to float point ","',
        "Write the mark that the numbers have.",
    ),
    "not-a-date-form": Kind(
        "The form of a date or time cannot be read.",
        'convert notes to date written "dd/mm/yyyy"',
        'convert notes to date written "%d/%m/%Y"',
        "`mangler manual dates` lists the directives.",
    ),
    "century": Kind(
        "Years of two digits need a century, and `century` is written in another way than it can be.",
        'convert notes to date written "%d.%m.%Y" century 2000',
        'convert notes to date written "%d.%m.%y" century 2000',
        "Say `century` only with a form that has %y.",
    ),
    "unknown-zone": Kind(
        "The time zone is not known.",
        'convert notes to timestamp written "%Y-%m-%d %H:%M" zone "Mars"',
        'convert notes to timestamp written "%Y-%m-%d %H:%M" zone "Europe/Paris"',
        'Zones are like "Europe/Paris", "UTC" or "+02:00".',
    ),
    "unknown-language": Kind(
        "The language of month names is not known.",
        'make d = date(notes, "%d. %B %Y", language "xx-none")',
        'make d = date(notes, "%d. %B %Y", language "de")',
        'A language is named by its tag: "de", "fr", "pt-BR".',
    ),
    "languages-not-installed": Kind(
        "Names of months in other languages need a library that is not installed.",
        fix='Install it with the extra: `pip install "mangler[languages]"`.',
    ),
    "unknown-encoding": Kind(
        "The encoding is not known.",
        'read encoding "utf-88"',
        'read encoding "utf-8"',
        "Names are like utf-8, utf-16, windows-1252, latin-1.",
    ),
    "unknown-type": Kind(
        "A type of values is expected here.",
        "convert notes to number",
        "convert notes to float",
        "Types are text, integer, float, decimal, boolean, date, time, timestamp and list.",
    ),
    "unknown-kind": Kind(
        "After `is` stands a kind of value, and this is not one of them.",
        "keep rows where notes is missing",
        "keep rows where notes is null",
        "`mangler manual expressions` lists the kinds. Two values are compared with =.",
    ),
    "value-needed": Kind(
        "A value is expected here.",
        "fill notes with null",
        'fill notes with "unknown"',
        "A text is written in quotes; other values are numbers, true and false.",
    ),
}
