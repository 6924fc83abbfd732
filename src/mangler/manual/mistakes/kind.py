"""What the manual says of one kind of mistake."""

from __future__ import annotations

from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class Kind:
    """`meaning` is why Mangler stops, `wrong` an example that does, `right` the same put right, `fix` what to do.

    Examples are statements of a recipe, or commands where they start with `mangler`.
    """

    meaning: str
    wrong: str = ""
    right: str = ""
    fix: str = ""
