"""Figures of a column's numbers: range, mean, median, those far from the rest, and a histogram."""

from __future__ import annotations

from functools import cached_property

import numpy as np
import numpy.typing as npt

from mangler.late_dataclass import dataclass

Floats = npt.NDArray[np.float64]

FAR = 3.0
"""Times the distance of the quartiles beyond them that a number is far out (J. W. Tukey, "Exploratory Data
Analysis", 1977). Where all are positive it must be so far out on the logarithms too: sizes and amounts have a long
tail by nature."""
LEAST_CELLS = 12
FEW = 0.03
"""Numbers far out that are more than this share of the cells belong to the distribution."""
HANDFUL = 10
"""So many numbers may be far out; more are the tail of a skewed column."""
BARS = 24


@dataclass(frozen=True)
class Numbers:
    """`values[i]` is in `counts[i]` cells."""

    values: Floats
    counts: npt.NDArray[np.int64]

    @cached_property
    def _sorted(self) -> tuple[Floats, npt.NDArray[np.int64]]:
        order = np.argsort(self.values, kind="stable")
        return self.values[order], np.cumsum(self.counts[order])

    @property
    def least(self) -> float:
        return float(self.values.min())

    @property
    def most(self) -> float:
        return float(self.values.max())

    @property
    def mean(self) -> float:
        return float((self.values * self.counts).sum() / self.counts.sum())

    @property
    def median(self) -> float:
        return self.quantile(0.5)

    def quantile(self, share: float) -> float:
        """The number below or at which this share of the cells is."""
        values, upto = self._sorted
        return float(values[min(int(np.searchsorted(upto, share * upto[-1])), len(values) - 1)])

    def without(self, numbers: set[float]) -> Numbers:
        keep = ~np.isin(self.values, list(numbers))
        return Numbers(self.values[keep], self.counts[keep])

    @cached_property
    def far_out(self) -> Numbers:
        """The numbers far from all others; none where there are too few cells to say."""
        if self.counts.sum() < LEAST_CELLS:
            return self._only(np.zeros(len(self.values), np.bool_))
        out = self._beyond(self.values)
        if out.any() and (self.values >= 0).all():
            some = self.values[self.values > 0].min()
            out &= self._beyond(np.log(np.maximum(self.values, some / 2)))
        if self.counts[out].sum() > min(HANDFUL, max(1, FEW * self.counts.sum())):
            out[:] = False
        return self._only(out)

    def _beyond(self, values: Floats) -> npt.NDArray[np.bool_]:
        scaled = Numbers(values, self.counts)
        low, high = scaled.quantile(0.25), scaled.quantile(0.75)
        reach = FAR * (high - low)
        beyond: npt.NDArray[np.bool_] = (values < low - reach) | (values > high + reach)
        return beyond & (reach > 0)

    def _only(self, flags: npt.NDArray[np.bool_]) -> Numbers:
        return Numbers(self.values[flags], self.counts[flags])

    @cached_property
    def histogram(self) -> tuple[int, ...]:
        """Cells in each of some equal stretches from the least to the most; one bar where there is but one number."""
        if self.least == self.most:
            return (int(self.counts.sum()),)
        bars, _ = np.histogram(self.values, BARS, weights=self.counts)
        return tuple(int(bar) for bar in bars)
