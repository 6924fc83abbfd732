"""The terms of the reference: one word for one thing."""

from __future__ import annotations

TERMS = """\
- `extract`: a file, a sheet, or a file of an archive, whose rows are to be cleaned: the input of a run.
- `output`: the table that a run writes.
- `recipe`: a file of statements that clean extracts.
- `statement`: one sentence of a recipe: a verb and its clauses.
- `step`: a statement that changes the table. `read`, `write`, `parameter` and some others are statements and no steps.
- `verb`: the word that a statement starts with; some have two words, such as `drop rows`.
- `clause`: a part of a statement that says how, such as `anycase` or `failures null`.
- `expression`: what is computed for each row, such as `made * price`; a condition is one that is true or false.
- `row`, `column`, `cell`: as in any table. Rows are numbered from 1, without the header.
- `null`: there is no value. It is not the empty text, not 0, and equals nothing.
- `blank`: null, an empty text, or a text of nothing but white space.
- `null word`: a text that means null in the extract, such as `n/a`.
- `white space`: characters that leave a gap: blank, tab, no-break space, and others of Unicode.
- `delimiter`: the text between two parts of a cell, or two fields of a line.
- `part`: what is between delimiters in one cell.
- `list`: a cell that holds several values as values, not as one text.
- `pattern`: a text with marks for what may vary, between slashes: a regular expression.
- `hole`: a place in a text that a value goes into: `"{kiln}"`.
- `group`: the rows that have the same values in some columns.
- `aggregate`: a value of a whole group, such as a sum or a count.
- `key`: the columns by which rows are recognised, or found in another table.
- `failure`: a row for which a step cannot make its value.
- `set aside`: rows that are written to a file of their own, to be corrected, and not to the output.
- `dropped`, `merged`, `withdrawn`: rows that a step removed; rows that became one with others; rows that came from an
  extract row that was set aside.
- `balance`: every row read or added is delivered, dropped, merged or withdrawn.
- `remark`: a likely oversight in a step, and what corrects it; it stops nothing.
- `warning`: something that may make the output wrong; `--strict` stops on it.
- `drift`: what is not in an extract as it was in the ones before.
- `fingerprint`: what the history keeps of an extract to see drift: counts and shares, no rows.
- `profile`: what is in each column of an extract.
- `draft`: a recipe that Mangler proposes from an extract.
- `rehearsal`: a run that writes nothing.
- `history`: the file that knows each run of a recipe.
- `parameter`: a value of a recipe that may be given anew for each run.
- `mistake`: a reason why Mangler stops; each kind has a word that stays the same: `mangler manual mistakes`.
"""
