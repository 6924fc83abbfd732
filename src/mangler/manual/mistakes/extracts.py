"""Mistakes in extracts: how they are read, and rows that are not as the recipe says."""

from __future__ import annotations

from mangler.manual.mistakes.kind import Kind

KINDS = {
    "no-extracts": Kind(
        "No file fits the names or patterns of the command.",
        "mangler run kiln-log.mangler 'extract/*.csv' --to clean/",
        "mangler run kiln-log.mangler 'extracts/*.csv' --to clean/",
        "Correct the name. Patterns are written in quotes.",
    ),
    "no-such-file": Kind(
        "There is no file of this name.",
        fix="Correct the path. Paths in a recipe are relative to the recipe.",
    ),
    "no-such-file-name": Kind(
        "No file can have a name like this.",
        fix="Write another name.",
    ),
    "no-such-folder": Kind(
        "The folder of the output is not there.",
        fix="Make it first, or name another.",
    ),
    "path-is-folder": Kind(
        "A folder is named where a file is needed.",
        "mangler run kiln-log.mangler extracts/*.csv --to clean/ --together",
        "mangler run kiln-log.mangler extracts/*.csv --to clean/all.csv --together",
        "Name a file.",
    ),
    "file-empty": Kind(
        "The file has no bytes, not even a header.",
        fix="Was it written to its end? Ask for it again.",
    ),
    "file-damaged": Kind(
        "The file ends too early, or its bytes contradict each other.",
        fix="Ask for it again. Mangler delivers nothing of a damaged file.",
    ),
    "file-encrypted": Kind("The file is protected by a password.", fix="Decrypt it first."),
    "file-too-large": Kind(
        "The file is larger than a file of this kind can be read.",
        fix="Save its table by itself, or in another format.",
    ),
    "file-not-read": Kind(
        "The file is there, and the system does not let it be read.",
        fix="The message gives the system's reason. Are the rights enough?",
    ),
    "file-not-usable": Kind(
        "The recipe uses this file for a lookup or a map, and it cannot be read as a table.",
        fix="Correct that file; the message says what is wrong with it.",
    ),
    "file-not-allowed": Kind(
        "The recipe names a file outside of the folder that --files-under allows.",
        fix="Move the file there, or allow another folder.",
    ),
    "file-loop": Kind(
        "A recipe includes or imports itself, perhaps through other files.",
        fix="Take one of the statements out.",
    ),
    "not-a-table": Kind(
        "The file is of a kind that Mangler does not read as a table.",
        fix="Export its table as delimited text, a workbook or Parquet. `mangler manual formats` lists all.",
    ),
    "not-text": Kind(
        "The file is binary, and text is expected.",
        fix="Export it as delimited text in UTF-8, or leave `format` out of `read`.",
    ),
    "other-format": Kind(
        "The file is of another format than `read format` says.",
        fix="Leave `format` out, and it is detected.",
    ),
    "encoding": Kind(
        "The bytes are not text in the encoding that was said or detected.",
        fix='Name the right one: `read encoding "windows-1252"`. `mangler look FILE` shows how it then reads.',
    ),
    "line-ends": Kind(
        "Line ends or quotes of mixed kinds leave it open where rows end.",
        fix="Correct them in the extract, or say `read line ends`.",
    ),
    "quote-not-closed": Kind(
        "A quote opens a field and is never closed.",
        fix="Close it in the extract. If quotes mean nothing there, write `read quote none`.",
    ),
    "no-header": Kind(
        "The row that is to hold the names of the columns holds none.",
        fix="Say which row it is: `read header row 3`. Without a header, name the columns: `read called …`.",
    ),
    "header-not-there": Kind(
        "The file has fewer lines than are to be skipped before its header.",
        fix="Lower the number.",
    ),
    "header-too-large": Kind(
        "The first row does not end within some megabytes.",
        fix="Is a quote in it never closed, or is it the right file?",
    ),
    "column-names": Kind(
        "Columns of the header have no name, or the same name.",
        fix="`read names completed` gives them names; `read called …` names all.",
    ),
    "too-many-columns": Kind(
        "The table has more columns than can be read, or written in this format.",
        fix="Is it the right file, and the right delimiter? Else drop columns, or write another format.",
    ),
    "too-few-columns": Kind(
        "A table needs two columns to map values, and has one.",
        fix="Name another file, or other columns.",
    ),
    "too-many-keys": Kind(
        "The table of a map has more keys than fit.",
        fix="Use `lookup`, which takes tables of any size.",
    ),
    "key-twice": Kind(
        "The table of a map has the same key twice.",
        fix="Take one of the rows out.",
    ),
    "row-unfit": Kind(
        "A row of a table that the recipe uses does not fit its header.",
        fix="Correct this row.",
    ),
    "row-too-large": Kind(
        "One row or object does not end within some megabytes.",
        fix="Is a bracket or a quote not closed before it?",
    ),
    "objects-differ": Kind(
        "The objects of a JSON file have hardly a key in common.",
        fix="Are values used as keys? Have them written as values.",
    ),
    "no-such-part": Kind(
        "The workbook has no sheet, or the archive no file, of this name.",
        "mangler look week.xlsx#Logs",
        "mangler look week.xlsx#Log",
        "The message names the nearest.",
    ),
    "several-tables": Kind(
        "The file holds several tables, and one is to be read.",
        fix="Name one, as `logs.zip#week-18.csv`, or take all: `'logs.zip#*'`.",
    ),
    "archive-empty": Kind("The archive holds no file.", fix="Is it the right one?"),
    "archive-in-archive": Kind("The archive holds an archive.", fix="Unpack the outer one first."),
    "unpacks-to-too-much": Kind(
        "The file unpacks to more than --memory allows; it may be made to do harm.",
        fix="If you trust it, allow more with --memory, or unpack it yourself.",
    ),
    "read-otherwise": Kind(
        "Columns are missing because of a clause of `read`: read in another way, the extract has them.",
        fix="Leave the clause out, and it is detected.",
    ),
    "many-rows-unfit": Kind(
        "More than a tenth of the rows do not fit the header: the extract is likely to be read in the wrong way.",
        fix="`mangler look FILE` shows how it is read. If so many are to be set aside, say so with `tolerate`.",
    ),
    "rows-unfit": Kind(
        "Rows have more or fewer fields than the header, and `read ragged stop` does not allow that.",
        fix="Correct them in the extract, or write `ragged aside` or `ragged pad`.",
    ),
    "rows-fail": Kind(
        "A step cannot make its value for some rows. The message shows the first of them.",
        "convert notes to integer",
        "convert notes to integer failures null",
        "Correct the rows, or say what happens to them: `mangler manual failures`.",
    ),
    "rows-not-as-required": Kind(
        "All rows together are not as `require` says.",
        fix="Correct the extract, or say `failures warn`.",
    ),
    "too-many-aside": Kind(
        "More rows would be set aside than `tolerate` allows.",
        fix="Correct the rows or the recipe, or tolerate more.",
    ),
    "strict": Kind(
        "With --strict nothing may be set aside, and there may be no warning.",
        fix="Correct what the message shows, or run without --strict.",
    ),
    "no-such-row": Kind(
        "The extract has fewer rows than the number that was asked for.",
        fix="Ask for a smaller one; the last rows are `--from -20`.",
    ),
}
