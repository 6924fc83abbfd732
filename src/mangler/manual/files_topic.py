"""The page about files: what is read and written, and how."""

from __future__ import annotations

FILES = """\
Delimited text: any delimiter, of one character or several; quotes; line breaks inside quotes; LF and CRLF. A quote
opens only at the start of a field. Delimited text is read as text, always: `007` stays `007`. Delimiter and encoding,
where `read` does not say them, are detected at the start of the file and reported in the summary.

- Where the table is in the file is said in the recipe: `header row`, `header absent`, `comment`, `widths`, `called`.
  `look`, `try`, `profile` and `draft` detect it: titles and comments above the header, two header lines, a file
  without a header, columns of a fixed width, columns without a name or with the same name. They say so, and give the
  `read` statement for the recipe; `draft` writes it. Where a run refuses an extract that would fit if it were read in
  another way, the message gives that statement.
- When more than a tenth of the rows do not fit the header, nothing is delivered, unless `tolerate` says so: the
  extract is likely to be read in the wrong way.
- A file without any LF, whose lines end in CR, is read as if they ended in LF. A lone CR among other line ends is data.
- A row with too few or too many fields, or with text after a closing quote, is set aside as it is, or as `ragged`
  says. Empty lines are no rows, but in a table of one column, where they are null.
- Encodings: UTF-8 and UTF-16 with and without byte order mark, Windows-1252, Latin-1, and any that Python knows. Bytes
  that do not decode are an error with their row, and so are a NUL byte and a quote that is never closed.
- Compression with gzip, bzip2, xz or zstd is known by the content, whatever the file's name. An output is compressed
  when its name ends in `.gz`, `.bz2`, `.xz`, `.zst` or `.zip`, or as `write compression` says.
- JSON, Parquet, Arrow files and workbooks are read and written too: `mangler manual formats`.
- A table has at most 100,000 columns. Control characters other than tab and line end are not part of a recipe; in a
  text they are written as escapes.
- An output may not be the recipe, a file that the recipe names, an extract, the history, or another output, under any
  name. The summary says which output a run replaced.
- The output has the extract's delimiter, quote, line end and UTF-8 byte order mark; its encoding is UTF-8. Only cells
  that need quotes get them: a cell that no step changes comes out as it went in.
- Rows set aside go to `NAME.aside.csv`, with the ending of the extract's format, each as it was read, with `_file`,
  `_row`, `_step` and `_reason` in front. Corrected by hand, the file runs with the same recipe.
- `mangler run` takes files, folders and patterns in quotes. Of a folder it takes every file but hidden ones,
  recipes and rows set aside. One that is refused does not stop the others. `--workers N` cleans so many at once, with
  the same results; with `--together` or `--append`, N processes divide the large ones among them.
- `--together` makes one table of all extracts. Steps that look at one row at a time see each extract as it comes. From
  the first step on that looks at more than one row, as `sort`, `group`, `dedupe`, `number rows` or `make … within`, all
  rows are one table, in the order of the extracts. Its columns are in the order in which they first come, and null is
  where an extract has none; a column that has another type in one of them is text. The summary has the steps of each
  extract, and then those of the table. No row is set aside any more from that step on. `extract_file()` tells rows
  apart; make a column of it above a step that gathers rows. The delimiter is that of the first extract, if `write` does
  not say. Rows set aside go to `NAME.EXTRACT.aside.csv`. An extract that is refused is lacking, and the exit code says
  so; with `--strict` nothing is delivered then, nor where columns differ.
- `--cluster ADDRESS` lets the workers of a dask.distributed scheduler do the work on large extracts, and
  `--cluster local:N` N processes on this machine; what comes out is the same. Delimited text in a plain file is divided
  by bytes, Parquet by row groups, JSON Lines by lines. What is packed, JSON arrays, workbooks and Arrow files are read
  in one place, and the summary says so.
- `--append PATH` puts the cleaned rows behind those of a file, in the place of `--to`. One that is not there is made.
  The file must have the same columns in the same order, in formats with types of the same types; what differs is
  refused. It keeps its bytes, or in formats of columns its rows, and its delimiter, quote and line ends. The whole is
  written beside its place and put there at once: a run that is killed leaves the file as it was. Of two runs at the
  same time one is refused. No rows are put behind those of a workbook. Several extracts go behind it one after the
  other. With `--only-new` only extracts are taken whose rows are not in that file yet, as far as the history knows:
  so a table grows week by week. Without it the rows of an extract that is given twice are there twice.
- Every run that delivers or is refused is noted in `.mangler/history.db` beside the recipe, or where `--history`
  says: the recipe and the extract by their content, the summary, the warnings. Rehearsals and runs of the first
  rows are not. A history that cannot be written stops no run that delivers: the summary says so, and the exit code
  is 4. `--only-new` skips what the recipe has delivered before, by content; `mangler history` shows
  past runs.
"""
