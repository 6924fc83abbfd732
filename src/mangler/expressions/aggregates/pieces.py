"""Sums that are kept in pieces: rows with a group, a place, and the amount at the place."""

from __future__ import annotations

import numpy as np

from mangler.expressions.aggregates.aggregate import Arrangement, Columns
from mangler.kernels.arrow import from_numpy
from mangler.kernels.keys.group_order import chosen, in_groups
from mangler.kernels.keys.keys import Codes, keys_of
from mangler.kernels.values.exact_sums import added


class InPieces:
    """What aggregates of exact sums of floats have in common. Columns are the places and the amounts."""

    folds = True
    tells_apart = None

    def fold(self, codes: Codes, columns: Columns) -> tuple[Codes, Columns]:
        """Amounts at the same place of the same group become one."""
        keys = keys_of([from_numpy(codes), columns[0]], len(codes))
        amounts = added(keys.codes, keys.count, [np.asarray(columns[1])])[0]
        return keys.first, [chosen(columns[0], keys.first), from_numpy(amounts)]

    def arrange(
        self,
        codes: Codes,
        columns: Columns,
        is_folded: bool = False,  # noqa: ARG002
    ) -> Arrangement:
        """Folded, group by group."""
        rows, columns = self.fold(codes, columns)
        order, codes = in_groups(codes[rows])
        return Arrangement(codes, order, columns)
