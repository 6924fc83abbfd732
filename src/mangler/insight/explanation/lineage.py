"""Where each column of the output comes from: columns of the extract, steps, and files."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import field

from mangler.insight.explanation.effects import Effect
from mangler.late_dataclass import dataclass


@dataclass
class Origin:
    """What a column comes from, as far as the steps so far say."""

    sources: dict[str, None] = field(default_factory=dict)
    """Columns of the extract, in the order in which they were used."""
    touched: int = 0
    """The steps that made it or may have changed it, a bit for each: cheap to bring together, however many they are."""
    files: dict[str, None] = field(default_factory=dict)

    @property
    def steps(self) -> tuple[int, ...]:
        """These steps, by their index."""
        return tuple(index for index in range(self.touched.bit_length()) if self.touched >> index & 1)

    def with_touch(self, index: int, file: str, others: Iterable[Origin] = ()) -> Origin:
        """The column as it is after a step that uses some other columns."""
        sources, files, touched = dict(self.sources), dict(self.files), self.touched | 1 << index
        for other in others:
            sources |= other.sources
            files |= other.files
            touched |= other.touched
        if file:
            files[file] = None
        return Origin(sources, touched, files)


class Lineage:
    """The columns that there are, each with its origin, while steps go by."""

    def __init__(self, names: Sequence[str]) -> None:
        self.columns = {name: Origin({name: None}) for name in names}
        self.ended: dict[str, int] = {}
        """Columns that are gone, each with the step that took it away."""

    def take(self, index: int, effect: Effect, order: Sequence[str] | None) -> None:
        """What a step does; `order` are the names that come out, where they are known."""
        before = self.columns
        gone = set(effect.gone)
        after = {name: origin for name, origin in before.items() if name not in gone}
        self.ended |= {name: index for name in effect.gone if name in before and name not in effect.made}
        for name, further in effect.changed.items():
            if name in after:
                after[name] = after[name].with_touch(index, effect.file, _there(further, before))
        for name, sources in effect.made.items():
            after[name] = Origin().with_touch(index, effect.file, _there(sources, before))
        for old, new in effect.renamed.items():
            if old in after:
                after[new] = after.pop(old).with_touch(index, "")
        if order is not None:
            # A column that nothing is said of has a name that is known only from the rows.
            unknown = Origin().with_touch(index, "", _there(effect.makes_open, before))
            after = {name: after.get(name, unknown) for name in order}
        self.columns = after


def _there(names: Iterable[str], columns: Mapping[str, Origin]) -> list[Origin]:
    return [columns[name] for name in names if name in columns]
