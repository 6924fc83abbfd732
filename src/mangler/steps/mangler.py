"""`mangler`: the first statement of every recipe."""

from mangler.language.declaration import Declaration

DECLARATION = Declaration(
    name="mangler",
    usage="mangler NUMBER [TEXT]",
    meaning="Says which version of the language the recipe is written in, and what the recipe is called."
    " It is first in every recipe file.",
    is_step=False,
)
