"""Where each column of the output comes from: columns of the extract, steps, and files."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from mangler.insight.explanation.effects import Effect


@dataclass(frozen=True)
class Touch:
    """A step that made a column, or may have changed it."""

    step: int
    """Its index among the steps."""
    made: bool


@dataclass
class Origin:
    """What a column comes from, as far as the steps so far say."""

    sources: dict[str, None] = field(default_factory=dict)
    """Columns of the extract, in the order in which they were used."""
    touches: list[Touch] = field(default_factory=list)
    files: dict[str, None] = field(default_factory=dict)

    def copy(self) -> Origin:
        return Origin(dict(self.sources), list(self.touches), dict(self.files))

    def take_in(self, other: Origin) -> None:
        self.sources |= other.sources
        self.files |= other.files
        known = set(self.touches)
        self.touches += [touch for touch in other.touches if touch not in known]


class Lineage:
    """The columns that there are, each with its origin, while steps go by."""

    def __init__(self, names: Sequence[str]) -> None:
        self.columns = {name: Origin({name: None}) for name in names}
        self.ended: dict[str, int] = {}
        """Columns that are gone, each with the step that took it away."""

    def take(self, index: int, effect: Effect, order: Sequence[str] | None) -> None:
        """What a step does; `order` are the names that come out, where they are known."""
        before = self.columns
        after = {name: origin.copy() for name, origin in before.items() if name not in effect.gone}
        for name in effect.gone:
            if name in before and name not in effect.made:
                self.ended[name] = index
        for name, further in effect.changed.items():
            if name not in after:
                continue
            for one in further:
                if one in before:
                    after[name].take_in(before[one])
            self._touch(after[name], index, False, effect.file)
        for name, sources in effect.made.items():
            origin = Origin()
            for one in sources:
                if one in before:
                    origin.take_in(before[one])
            self._touch(origin, index, True, effect.file)
            after[name] = origin
        for old, new in effect.renamed.items():
            if old in after:
                origin = after.pop(old)
                self._touch(origin, index, False, "")
                after[new] = origin
        if order is not None:
            after = {name: after.get(name) or self._unknown(index, effect, before) for name in order}
        self.columns = after

    @staticmethod
    def _touch(origin: Origin, index: int, made: bool, file: str) -> None:
        origin.touches.append(Touch(index, made))
        if file:
            origin.files[file] = None

    @staticmethod
    def _unknown(index: int, effect: Effect, before: dict[str, Origin]) -> Origin:
        """A column whose name is known only from the rows."""
        origin = Origin()
        for one in effect.makes_open:
            if one in before:
                origin.take_in(before[one])
        origin.touches.append(Touch(index, True))
        return origin
