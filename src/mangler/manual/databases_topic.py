"""The page about databases: addresses, what is read and written, and what becomes of each type."""

from __future__ import annotations

DATABASES = """\
An extract may be a table or a query of a database, and an output a table. The address is in the place of the file,
and the recipe says which table: `mangler run kiln-log.mangler postgresql://ann@server/kilns --to
sqlite:///clean.db`.

- `sqlite:///clean.db` is a file beside you, `sqlite:////data/clean.db` one from the root.
  `postgresql://user@server/db` is a database of a server, with the parameters of its client library:
  `?host=/run/postgresql&port=5433`, `?sslmode=verify-full`. PostgreSQL needs `pip install 'mangler[database]'`;
  SQLite comes with Python.
- `read table "firings"` reads a table or a view, `read table "log.firings"` one in a schema. `read query "select
  …"` reads what a query gives, `read query from "firings.sql"` has it in a file beside the recipe. Without either,
  the address names the table, `sqlite:///kilns.db#firings`, or the database holds one table only. `look`, `try`,
  `profile`, `draft` and `check` take such addresses too, and so do `lookup` and `map`.
- A query needs values as `:name`: the parameter of the recipe is bound, and never pasted into the text. `::` is a
  cast, and what is in texts, names and comments stays as it is.
- The session that reads can change nothing: a query that writes is refused, and so are two statements.
- `read table "firings" newer than id` with `--only-new` reads the rows that have a higher `id` than those that were
  delivered before: the history notes the highest one. The first time all rows are read. A row that the database
  shows late, with an `id` that is lower, as long transactions make them, is missed. `overlap 1000` reads the last
  1,000 values of `id` again, and skips the rows among them that were delivered. A row without an `id` is read the
  first time only.
- `write table "clean"` makes a table, and refuses one that is there. `write table "clean" append` puts the rows
  behind its own, `write table "clean" replace` in their place; a table that is there keeps its columns, keys, rules
  and rights. Columns go by their names.
- Everything is written in one transaction. Where a run is refused or killed, or the connection is cut, the table is
  as it was. Rows for a table that is there wait in a temporary table, and are put into it at the end. What the
  table has against one of them is reported with the number of the row in the output.
- Rows set aside go to the file of `--aside`, as JSON Lines. Where rows are set aside and there is no such file,
  nothing is delivered.
- Several extracts go into one table with `--together`, or each by itself behind the others with `append`.
- A password is best in `PGPASSWORD` or in the client library's password file. One in an address is taken out at
  once: no message, summary, history or JSON shows it. But other users of a machine may see a command line.

## Types of PostgreSQL

- smallint, integer and bigint are read as `integer`, and a column that no step changes is written in its size
  again. An integer is written as bigint.
- real and double precision are `float`; a float is written as double precision.
- numeric(p, s) of up to 38 digits is `decimal`, and written as numeric(p, s). numeric without places, or with more
  digits, is text with all its digits, NaN too.
- text, varchar and char are `text`, and written as text.
- boolean, date, time and timestamp stay what they are. A timestamptz is the instant, in UTC. Infinite dates and
  timestamps are refused by name.
- json and jsonb are texts in JSON, and written as json. bytea is handed on as it is.
- Arrays of numbers, truth values and texts are `list`; a list is written as text[].
- uuid, interval, inet, enums and all others are read as text, as the server spells them; the summary says which. A
  text goes into a column of such a type that is there, where it spells a value of it.

No value is rounded or cut to fit into a table that is there: what might be is refused with the column's name.

## Types of SQLite

A column of SQLite holds values of any type, so its type is that of all its values:

- whole numbers: `integer`; numbers, some with a point: `float`; texts: `text`; nothing but nulls: `text`.
- texts with numbers among them: `text`, and the summary says that the column holds values of several kinds.
- bytes: handed on as they are; bytes among other values are refused by name.

It has no decimals, dates and times: they are written as texts, with all their digits, dates as `2026-05-04`; true
and false as 1 and 0, lists as JSON. A text is not put into a column of numbers that is there: SQLite might change
it.
"""
