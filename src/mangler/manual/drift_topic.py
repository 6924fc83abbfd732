"""The page about drift: what is reported about an extract that is not like the last ones."""

from __future__ import annotations

DRIFT = """\
`mangler check RECIPE FILE …`, and every `mangler run` that delivers, compare an extract with the last ten that were
delivered by the same recipe and have the same name except for its digits: `clayworks-week-20.csv` with
`clayworks-week-19.csv`. Each content counts once. `check` runs the recipe and writes nothing: what would stop a
run, and how many rows it would set aside, is reported too. Without an earlier run nothing else is reported.

- Columns gone, new, moved, or renamed: another name that is like the old one, or the same values.
- Another delimiter or encoding; quotes round every field where there were few; less than 0.4 or more than 2.5
  times the rows of any run.
- The written form: another form of dates, another mark before the places or between thousands, a unit, another
  pattern of codes, white space at the ends of cells, another letter case, another length where all cells had the same.
  The finding names both forms, and the clause of `convert` that reads the new one.
- Values never seen, in a column of up to 60 different ones that are all there are, as far as the data can tell:
  each was met more than once, no run brought a value of its own, and a value as frequent as the others would have been
  met before. Days, months, running numbers and batches are not such
  a set: they change all the time. A set that changes for
  the first time looks the same as one in which a value was renamed.
- Other shares of the same values; a column that always followed from another, and does not now; values that were
  unlike in every run, and repeat now.
- More parts at `;`, `,`, `|` or `/` than any cell had before, where the most were met often.
- Numbers of another size, cents for units; a total per row of less than 0.4 or more than 2.5 times that of any run,
  where it hardly changed before; numbers that lie beyond the known range by half of it, and are more than
  four times the largest one where none was below zero.
- A greater share of nulls than in any run, by more than chance.

Every row is looked at up to row 100,000; of the rows after it, 4,096 of each 131,072, always the same ones. A finding
then says how many cells were looked at. A value that is new in a column of few is found in any row. How texts are
written, and whether they repeat, is seen in the first 20,000 rows.

One cause is one finding: the likeliest cause comes first, what follows from it is under it, and the same change
in several columns is reported once. Findings are warnings of a run, and stop it under `--strict`; `check` gives exit
code 1. Each names the steps that use the column. Only the extract as it is read counts, before any step.
"""
