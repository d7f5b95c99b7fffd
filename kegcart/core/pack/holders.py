"""Holders: which cells are put in and taken out together."""

from dataclasses import dataclass
from math import ceil

from kegcart.core.pack.document import CellPack


@dataclass(frozen=True, slots=True)
class Holders:
    """A pattern of holders: each takes `cells` neighbouring places of each of `groups` neighbouring groups, of `parallel` places each.

    One cell of every group in a holder is 1 × S; all of a holder in one group is k × 1.
    """

    cells: int
    groups: int
    parallel: int

    @classmethod
    def of(cls, pack: CellPack, parallel: int) -> "Holders":
        """The holders of a pack with so many cells in parallel."""
        return cls(pack.holder, pack.holder_groups, parallel)

    @property
    def are_single(self) -> bool:
        """Whether every cell stands for itself."""
        return self.cells * self.groups == 1

    def number(self, group: int, place: int) -> int:
        """The holder of a place, all counted from 1: along the places of the first groups, then of the next."""
        row, column = (group - 1) // self.groups, (place - 1) // self.cells
        return row * ceil(self.parallel / self.cells) + column + 1

    def slot(self, group: int, place: int) -> int:
        """Which cell of its holder a place is, from 1: group by group."""
        return (group - 1) % self.groups * self.cells + (place - 1) % self.cells + 1
