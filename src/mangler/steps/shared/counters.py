"""The names of counters that several verbs have; each verb declares which it has."""

CHANGES = ("cells_changed", "nulls_made", "nulls_filled")
"""Cells that got another value; among them, cells that became null, and cells that were null."""
EMPTIED = ("cells_emptied",)
"""Cells that became empty text."""
CONDITION = ("rows_met", "rows_false", "rows_null")
"""Rows that a condition is true, false, or null for; null counts as not met."""
MISSES = ("missed_by_case", "missed_by_space", "cells_beyond_ascii")
"""Cells that were left and nearly matched, and cells with letters that a pattern's `\\w` does not know."""
FAILED = ("failed_to_null", "failed_to_value", "failed_kept")
"""Cells whose value could not be computed: they became null, got the value of `failures`, or stayed."""
UNMET = ("unmet",)
"""Rows that are not as required and pass with a warning; the failures of the tally hold the first of them."""
TWINS = ("case_twins", "case_twin_names")
"""Keys that differ from others only in letter case; a histogram: two of them."""
TESTS_MISSED = ("tests_missed_by_case",)
"""Histogram: for each test of a condition, rows in which its text is in another letter case only."""
NULLS_SKIPPED = ("nulls_skipped",)
"""Histogram: for each aggregate, as it is written, how many nulls it skipped."""
