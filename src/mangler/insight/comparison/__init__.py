"""Two tables held against each other: which columns, rows and cells differ, and how."""
