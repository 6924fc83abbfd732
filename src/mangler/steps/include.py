"""`include`: steps of another file."""

from __future__ import annotations

from mangler.language.declaration import Declaration

DECLARATION = Declaration(
    name="include",
    usage="include TEXT",
    meaning='Puts the steps of another recipe file in this place: `include "common.mangler"`. They use that file\'s own'
    " functions and parameters. Its tests stay its own, and `read` and `write` are in the recipe itself. The file is"
    " found relative to the one that names it, and starts with `mangler 1` like any other. The summary tells its steps"
    " by file and line.",
    is_step=False,
)
