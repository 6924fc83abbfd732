"""Mistakes on the command line, in what is written, and in the history."""

from __future__ import annotations

from mangler.manual.mistakes.kind import Kind

KINDS = {
    "unknown-command": Kind("Mangler has no command of this name.", fix="`mangler help` lists all commands."),
    "unknown-manual-page": Kind(
        "The manual has no page for this word.", fix="`mangler manual` lists all pages."
    ),
    "unknown-run": Kind(
        "The history has no run of this number.",
        fix="`mangler history RECIPE` lists the runs.",
    ),
    "unknown-shell": Kind(
        "Words can be completed in some shells, and this is none of them.",
        "mangler --install-completion tcsh",
        "mangler --install-completion bash",
        "Name bash, zsh or fish.",
    ),
    "options-conflict": Kind(
        "Two options exclude each other, or one needs another.",
        "mangler run kiln-log.mangler a.csv b.csv --to all.csv --together --workers 2",
        "mangler run kiln-log.mangler a.csv b.csv --to all.csv --together",
        "The message says which one to leave out.",
    ),
    "option-without-effect": Kind(
        "An option has nothing to work on.",
        "mangler draft week.csv --replace",
        "mangler draft week.csv --to kiln-log.mangler --replace",
        "Leave it out, or add what it is about.",
    ),
    "not-a-setting": Kind(
        "`--set` takes a name and a value.",
        "mangler run kiln-log.mangler week.csv --set least",
        "mangler run kiln-log.mangler week.csv --set least=3",
        "Write NAME=VALUE without blanks around =.",
    ),
    "not-a-size": Kind(
        "`--memory` takes an amount of memory.",
        "mangler run kiln-log.mangler week.csv --memory lots",
        "mangler run kiln-log.mangler week.csv --memory 500MB",
        "Write it as 500MB, 2GB or 1.5GB.",
    ),
    "not-a-date": Kind(
        "`--run-date` takes a date.",
        "mangler run kiln-log.mangler week.csv --run-date 4.5.2026",
        "mangler run kiln-log.mangler week.csv --run-date 2026-05-04",
        "Write year, month and day.",
    ),
    "not-a-recipe": Kind(
        "The file is not a recipe, or recipe and extract are exchanged.",
        "mangler run week.csv kiln-log.mangler",
        "mangler run kiln-log.mangler week.csv",
        "The recipe comes first.",
    ),
    "recipe-without-file": Kind(
        "In Python, a recipe that was read from a text has no history.",
        fix="Load it from its file: `Recipe.load(path)`.",
    ),
    "extract-twice": Kind("Standard input can be read once.", fix="Name - once among the extracts."),
    "several-extracts-one-file": Kind(
        "Several extracts are to go into one place.",
        "mangler run kiln-log.mangler a.csv b.csv --to all.csv",
        "mangler run kiln-log.mangler a.csv b.csv --to all.csv --together",
        "Name a folder, `--to clean/`, or put all into one file with --together.",
    ),
    "append-does-not-fit": Kind(
        "The rows that come do not go behind those of the file: it has other columns, another order of columns, another"
        " type, or another format. Nothing is written.",
        fix="Let the recipe give the columns that are there, in their order, or name another file.",
    ),
    "append-not-possible": Kind(
        "No rows are put behind those of a workbook, of a folder of several files, or of a pipe.",
        "mangler run kiln-log.mangler week.csv --append all.xlsx",
        "mangler run kiln-log.mangler week.csv --append all.csv",
        "Append to a file of another format; or make the output anew with --to.",
    ),
    "extract-not-known": Kind(
        "With --together the rows of all extracts are one table from the first step on that looks at more than one row."
        " Behind a step that gathers rows it is not known any more which extract a row came from.",
        fix="Make a column of the extract's name above that step: `make file = extract_file()`.",
    ),
    "cluster-address": Kind(
        "--cluster names no scheduler, and no number of processes.",
        "mangler run kiln-log.mangler week.csv --to clean.csv --cluster scheduler",
        "mangler run kiln-log.mangler week.csv --to clean.csv --cluster tcp://scheduler:8786",
        "Write tcp://HOST:PORT, or local:N for N processes on this machine.",
    ),
    "cluster-not-installed": Kind(
        "--cluster needs the library dask.distributed, which is not installed.",
        fix="pip install 'mangler[cluster]'",
    ),
    "cluster-not-there": Kind(
        "No scheduler answers at the address, or it has no workers.",
        fix="Start them: `dask scheduler` on one machine, `dask worker tcp://HOST:8786` on the others.",
    ),
    "cluster-lost": Kind(
        "The cluster does not answer any more. Nothing is delivered.",
        fix="Start it again, and then the run.",
    ),
    "worker-lost": Kind(
        "Work was given out several times, and each time the worker was lost. Nothing is delivered.",
        fix="It may have too little memory: give it more, or fewer threads.",
    ),
    "worker-unlike": Kind(
        "A worker has another version of Mangler or none, or it cannot read the extract, or reads another one.",
        fix="Install the same version everywhere, and let all machines see the files under the same paths.",
    ),
    "database-not-reached": Kind(
        "A database cannot be reached: its server or its file is not there, or it does not let this user in.",
        fix="The message gives the reason. A password comes from PGPASSWORD or a password file, and need not be in the"
        " address.",
    ),
    "database-fails": Kind(
        "A database ended the connection, or gave up, while rows were read. Nothing is delivered.",
        fix="The message gives its reason. Run again when it has been dealt with.",
    ),
    "unknown-address": Kind(
        "An address names a kind of place that is not known.",
        "mangler run kiln-log.mangler week.csv --to sqlight:///clean.db",
        "mangler run kiln-log.mangler week.csv --to sqlite:///clean.db",
        "Name a file, or write the address of a database or of a file elsewhere: `mangler manual databases`,"
        " `mangler manual elsewhere`.",
    ),
    "driver-not-installed": Kind(
        "The driver of this kind of database, or of files elsewhere, is not installed.",
        fix="pip install 'mangler[database]', or 'mangler[remote]'",
    ),
    "report-not-possible": Kind(
        "--report makes a page or Markdown, and --picture a drawing, in a file on this machine.",
        "mangler profile extracts/clayworks-week-19.csv --report profile.pdf",
        "mangler profile extracts/clayworks-week-19.csv --report profile.html",
        "Let the name end as the message says. A browser prints a page to PDF.",
    ),
    "no-key": Kind(
        "The columns that --on names do not tell the rows of a table apart: two rows have the same values there.",
        "mangler compare extracts/clayworks-week-18.csv extracts/clayworks-week-19.csv --on kiln",
        "mangler compare extracts/clayworks-week-18.csv extracts/clayworks-week-19.csv --on 'kiln, fired_at'",
        "Name more columns; the message offers some. Or leave --on out.",
    ),
    "output-gone": Kind(
        "The output of a past run is to be compared. Its file is not there any more, or another is in its place.",
        "mangler compare --runs 3 4",
        "mangler compare clean/week-18.csv clean/week-19.csv",
        "Name files that are there. An output that has a name of its own each time stays.",
    ),
    "no-common-column": Kind(
        "Two tables that are compared have no column of the same name.",
        fix="Are these the files that are meant? `mangler look` shows their columns.",
    ),
    "storage-not-reached": Kind(
        "A file elsewhere cannot be reached: its server is not there or not trusted, or does not let this user in.",
        fix="The message gives the reason, and where the server expects to be told who you are.",
    ),
    "storage-fails": Kind(
        "A connection broke while a file elsewhere was read, and broke again each time that it was made anew. Nothing"
        " is delivered.",
        fix="Run again when the connection is better.",
    ),
    "aside-elsewhere": Kind(
        "The file of rows set aside is to be on another machine.",
        "mangler run kiln-log.mangler week.csv --to s3://kilns/clean.csv --aside s3://kilns/aside.csv",
        "mangler run kiln-log.mangler week.csv --to s3://kilns/clean.csv --aside aside.csv",
        "Name a file on this machine.",
    ),
    "no-such-table": Kind(
        "The database has no table of this name, or has several of which none is named.",
        "mangler run kiln-log.mangler sqlite:///kilns.db --to clean.csv",
        "mangler run kiln-log.mangler sqlite:///kilns.db#firings --to clean.csv",
        'Name it in the recipe, `read table "firings"`, or behind # in the address.',
    ),
    "query-refused": Kind(
        "The database does not take the query: it has a mistake, it is several statements, or it would write.",
        fix="A query is one statement that reads. The message gives the database's reason.",
    ),
    "table-needed": Kind(
        "The output is a database, and nothing says which table is written.",
        fix='Say it in the recipe, `write table "clean"`, or behind # in the address: `--to sqlite:///clean.db#clean`.',
    ),
    "table-not-written": Kind(
        "A table is not written: it is there already, a row breaks one of its rules, another program locks it, or the"
        " connection is lost. It is as it was.",
        fix="For one that is there write `append` or `replace` behind its name. The message gives the database's"
        " reason, and the number of the row.",
    ),
    "file-changed": Kind(
        "The file behind whose rows others were to go was changed while the run began. Nothing is written.",
        fix="Run again: the rows go behind what is there then.",
    ),
    "file-exists": Kind(
        "A file is in the place of what is to be written, and it would be lost.",
        fix="Name another place, or say that it is to be replaced.",
    ),
    "file-would-be-lost": Kind(
        "The output would take the place of the extract, the recipe, or another file that the run needs.",
        "mangler run kiln-log.mangler week.csv --to week.csv",
        "mangler run kiln-log.mangler week.csv --to clean/week.csv",
        "Name another place.",
    ),
    "file-not-written": Kind(
        "The system does not let the file be written. What was there before is unchanged.",
        fix="The message gives the system's reason. Is there room, and are the rights enough?",
    ),
    "no-temporary-file": Kind(
        "Rows that do not fit in memory cannot be written to a temporary file.",
        fix="Let TMPDIR name a folder with room, or allow more with --memory.",
    ),
    "no-aside-file": Kind(
        "Rows must be set aside, and there is no file for them.",
        fix="Name one with --aside PATH.",
    ),
    "written-by-another-run": Kind(
        "Another run is writing to the same place.",
        fix="Wait until that has ended, or write to another place.",
    ),
    "too-many-files": Kind(
        "`write by` or `write files of` would make more files than is sensible.",
        fix="Take a column of fewer values, have more rows in each file, or write one.",
    ),
    "format-not-written": Kind(
        "Files of this format are read, and not written.",
        fix="Name the output .xlsx, .parquet, .jsonl or .csv.",
    ),
    "type-not-written": Kind(
        "The format of the output cannot hold values of this type.",
        fix="Convert the column to text, or drop it. `mangler manual formats` says what each format keeps.",
    ),
    "list-in-cell": Kind(
        "The format of the output has no lists.",
        fix='Make a text of it: `make glazes = joined(glazes, "; ")`.',
    ),
    "compression-not-known": Kind(
        "The format is not packed in this way.",
        "mangler run weekly.mangler week.csv --to clean.csv.snappy",
        "mangler run weekly.mangler week.csv --to clean.csv.gz",
        "`mangler manual formats` lists the ways.",
    ),
    "too-many-rows": Kind(
        "The output cannot hold so many rows: a sheet has 1,048,575.",
        fix="Write another format, or several files: `write files of 1000000 rows`.",
    ),
    "too-wide": Kind(
        "A name or a value is longer than its column of fixed width.",
        fix="Write wider columns, or shorten the values before.",
    ),
    "too-large": Kind(
        "Something is larger than Mangler or the format can hold.",
        fix="The message says what, and how to divide it.",
    ),
    "too-little-memory": Kind(
        "--memory allows less than any run needs.",
        fix="Allow at least what the message says.",
    ),
    "out-of-memory": Kind(
        "The machine has not enough memory for this.",
        fix="Give --memory a smaller size: then rows wait in temporary files.",
    ),
    "kernels-not-there": Kind(
        "MANGLER_KERNELS asks for kernels that are not there.",
        fix="Unset it, or say numpy. Compiled kernels are there where a C compiler was when Mangler was installed.",
    ),
    "process-ended": Kind(
        "A process that cleaned an extract was ended from outside.",
        fix="Was there too little memory? Try fewer --workers, or less --memory.",
    ),
    "history-not-usable": Kind(
        "The history of runs cannot be read or written.",
        fix="Name another with --history PATH. What was delivered is delivered.",
    ),
    "history-not-writable": Kind(
        "The history of runs cannot be made or written.",
        fix="Are the rights enough? Name another place with --history PATH.",
    ),
    "not-a-history": Kind(
        "The file is not a history of Mangler, or a damaged one.",
        fix="Name another with --history PATH, or move it away: the next run starts a new one.",
    ),
    "rows-lost": Kind(
        "The rows do not balance: a fault of Mangler. Nothing is delivered.",
        fix="Report it with the recipe.",
    ),
    "fault": Kind(
        "A fault of Mangler, not yours. What was not delivered yet is as it was before.",
        fix="Report it with the file of details that the message names.",
    ),
}
