"""Mistakes in expressions, conditions, groups and definitions."""

from __future__ import annotations

from mangler.manual.mistakes.kind import Kind

KINDS = {
    "unknown-function": Kind(
        "There is no function of this name.",
        "make x = upperr(notes)",
        "make x = upper(notes)",
        "`mangler manual functions` lists all. Names of other languages lead to a page: `mangler manual substring`.",
    ),
    "wrong-argument": Kind(
        "A function is given something that it does not take in this place.",
        "make x = upper(/a/)",
        "make x = upper(notes)",
        "`mangler manual FUNCTION` shows its usage.",
    ),
    "wrong-argument-count": Kind(
        "A function is given too many or too few arguments.",
        "make x = left(notes)",
        "make x = left(notes, 3)",
        "`mangler manual FUNCTION` shows its usage; what is in brackets there may be left out.",
    ),
    "missing-argument": Kind(
        "The command, or a function of the library, is not given what it needs.",
        "mangler run week.csv",
        "mangler run kiln-log.mangler week.csv",
        "`mangler COMMAND --help` shows what it takes.",
    ),
    "missing-arguments": Kind(
        "A function of another file is named without its brackets.",
        fix="Write it with its arguments: `house.tidy(tag)`.",
    ),
    "function-name-needed": Kind(
        "After the name of an imported file and a dot, the name of a function is expected.",
        "make x = house.(notes)",
        fix="Write `house.tidy(notes)`.",
    ),
    "wrong-type": Kind(
        "A function or a sign is given values of a type that it does not work on.",
        "make x = notes + 1",
        "make x = integer(notes) + 1",
        "Convert first, with its own failures. `mangler manual types` says what becomes what.",
    ),
    "mixed-types": Kind(
        "Values of two types are compared, or would be in one column.",
        'keep rows where made = "3"',
        "keep rows where made = 3",
        "Write a value of the column's type, or convert the column.",
    ),
    "no-conversion": Kind(
        "There is no way from the one type to the other.",
        "make x = date(made)",
        "make x = date(notes)",
        "`mangler manual convert` shows what can become what.",
    ),
    "condition-needed": Kind(
        "A condition is needed, and this is a value.",
        "keep rows where made",
        "keep rows where made > 0",
        "Compare it: with =, <, `is null`, `contains` and others.",
    ),
    "foreign-operator": Kind(
        "An operator of another language is called otherwise here.",
        'keep rows where notes == "a"',
        'keep rows where notes = "a"',
        "`mangler manual expressions` lists the operators.",
    ),
    "chained-comparison": Kind(
        "Two comparisons follow each other.",
        "keep rows where 0 < made < 9",
        "keep rows where 0 < made and made < 9",
        "Join them with `and`, or write `between`.",
    ),
    "null-comparison": Kind(
        "Null is not a value and equals nothing, so this is never true.",
        "keep rows where notes = null",
        "keep rows where notes is null",
        "Write `is null` or `is not null`.",
    ),
    "null-in-list": Kind(
        "Null is in no list: it equals nothing.",
        'keep rows where notes in ("a", null)',
        'keep rows where notes is null or notes in ("a")',
        "Ask for null by itself.",
    ),
    "test-needed": Kind(
        "After `all of (…)` or `any of (…)` a test of each column is expected.",
        "keep rows where all of (notes, result)",
        "keep rows where all of (notes, result) is null",
        "Write a comparison behind the bracket.",
    ),
    "columns-needed": Kind(
        "No column is between the brackets of `all of` or `any of`.",
        "keep rows where any of () is null",
        "keep rows where any of (notes, result) is null",
        "Name columns there, or * for every one.",
    ),
    "expression-fails": Kind(
        "The expression cannot be computed for these values.",
        "mangler try --expression 'integer(\"twelve\")'",
        "mangler try --expression 'integer(\"12\")'",
        "Correct the value, or say what is to become of it, as with `coalesce` or `failures null`.",
    ),
    "nested-too-deep": Kind(
        "An expression has more brackets within brackets than Mangler reads.",
        fix="Make a column for an inner part first.",
    ),
    "too-many-calls": Kind(
        "An expression calls definitions too many times, those within definitions counted.",
        fix="Make a column for a part of it first.",
    ),
    "aggregate-without-group": Kind(
        "A sum, a count or the like brings several rows together, and this is one row at a time.",
        "make total = sum(made)",
        "make total = sum(made) within kiln",
        "`group by` makes a row per group; `within` keeps all rows.",
    ),
    "aggregate-in-aggregate": Kind(
        "A sum or the like is within another one.",
        "group by kiln with x = max(sum(made))",
        "group by kiln, studio with x = sum(made)\ngroup by kiln with y = max(x)",
        "Write two statements.",
    ),
    "several-values-in-group": Kind(
        "A group may have several values of this column, and one is asked for.",
        "group by kiln with studio = studio",
        "group by kiln with studio = first(studio)",
        "Say which: first, max, join and others. Or group by that column too.",
    ),
    "order-needed": Kind(
        "A function looks at the rows before or after, and in which order they are is not said.",
        "make x = previous(made) within kiln",
        "make x = previous(made) within kiln sorted by fired_on",
        "Write `sorted by COLUMNS`.",
    ),
    "group-too-large": Kind(
        "The values of one group must be in memory together, and they do not fit.",
        fix="Allow more with --memory, or name more columns after `within` so that groups are smaller.",
    ),
    "ambiguous-name": Kind(
        "A name is a parameter of the recipe and a column of the extract.",
        'parameter kiln = "007"\nmake x = kiln',
        'parameter wanted = "007"\nmake x = wanted',
        "Give the parameter another name.",
    ),
    "unknown-parameter": Kind(
        "A definition or `--set` names a parameter that there is not.",
        "define tidy(x) = trim(y)\nmake x = tidy(notes)",
        "define tidy(x) = trim(x)\nmake x = tidy(notes)",
        "A definition sees only its own parameters.",
    ),
    "wrong-parameter-value": Kind(
        "`--set` gives a value of another type than the recipe's own, or one for a secret.",
        "mangler run kiln-log.mangler week.csv --set least=many",
        "mangler run kiln-log.mangler week.csv --set least=3",
        "Give a value of that type; secrets come from the environment.",
    ),
    "function-loop": Kind(
        "A definition needs itself.",
        "define tidy(x) = tidy(x)",
        "define tidy(x) = trim(x)",
        "Take the call of itself out.",
    ),
    "columns-in-definition": Kind(
        "A definition works with its parameters, and names columns.",
        "define gaps(x) = any of (notes, x) is null\nmake y = gaps(kiln)",
        "make gap = any of (notes, result) is null",
        "Write it in the statement itself.",
    ),
    "secret-missing": Kind(
        "The variable of the environment from which a secret comes is not set.",
        fix="Set it before the run: `KEY=… mangler run …`.",
    ),
    "secret-in-the-clear": Kind(
        "A secret would come into the table.",
        fix="It can be the key of `keyed_hash` alone: `keyed_hash(COLUMN, SECRET)`.",
    ),
    "test-without-step": Kind(
        "A test stands above all steps, or says that it is for more steps than there are above it.",
        fix="Move it under the step that it proves.",
    ),
    "test-without-table": Kind(
        "A test needs a table before `becomes`, and one after it.",
        fix="`mangler manual test` shows the form.",
    ),
    "test-without-becomes": Kind(
        "A test has no line `becomes` between its two tables.",
        fix="`mangler manual test` shows the form.",
    ),
    "test-lacks-column": Kind(
        "The step of a test needs a column that the test's table does not have.",
        fix="Add the column to the table above `becomes`.",
    ),
    "cells-do-not-match": Kind(
        "A row of a test's table has more or fewer cells than the table's head.",
        fix="Separate cells with |. An empty cell is null.",
    ),
    "wrong-cell": Kind(
        "A cell of a test is not of the type that its head says.",
        fix="Write a cell of that type, or leave the type out.",
    ),
}
