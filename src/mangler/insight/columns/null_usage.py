"""Words by which people say that there is no value, without letter case."""

from __future__ import annotations

_KNOWN = """
n/a n.a. n.a n/d n.d. na #n/a n\\a null nil nul nan \\n (null) <null> (blank) (none) tbc tbd tba t.b.c. t.b.d. k.a. s/o
n/k n.k. #null! #value! #ref! #div/0! #name? #num!
"""
_SENTENCES = (
    "not available",
    "not applicable",
    "not known",
    "no data",
    "not given",
    "not recorded",
    "to be confirmed",
)
_WEAK = """
none unknown missing blank empty nothing pending undefined unspecified void unbekannt inconnu keine leer x xx xxx nd nk
"""
KNOWN = frozenset(_KNOWN.split()) | frozenset(_SENTENCES)
"""Words that mean nothing else."""
ALWAYS = frozenset(
    (
        "n/a",
        "n.a.",
        "#n/a",
        "n\\a",
        "null",
        "(null)",
        "<null>",
        "(blank)",
        "\\n",
        "#null!",
        "#value!",
        "#ref!",
    )
) | frozenset(_SENTENCES[:6])
"""Those of them that mean nothing in any column: they need no person, but among names, codes and levels."""
WEAK = frozenset(_WEAK.split())
"""Words that may be values of their own: the data must say so too, or a person."""
