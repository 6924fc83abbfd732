"""`import`: functions of another file."""

from __future__ import annotations

from mangler.language.declaration import Declaration

DECLARATION = Declaration(
    name="import",
    usage="import TEXT as NAME",
    meaning="Brings in the functions that another recipe file defines, under a prefix: after"
    ' `import "house.mangler" as house` its `tidy` is `house.tidy(kiln)`. Its steps are not run. The file is found'
    " relative to the one that names it, and starts with `mangler 1` like any other.",
    is_step=False,
)
