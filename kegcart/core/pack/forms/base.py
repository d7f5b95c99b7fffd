"""What the house asks of every form of pack: how it is sized, drawn, made larger, and what is judged of it.

A form that leaves a duty out cannot be made: mypy says so, and so does Python.
"""

from abc import ABC, abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Generic, TypeVar

from kegcart.core.brief.sizing import Site
from kegcart.core.figure import Figure, Sheet
from kegcart.core.finding import Remedy
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.build import Build
from kegcart.core.pack.document import Planning
from kegcart.core.pack.energy import Kept
from kegcart.core.reference import Chemistry

if TYPE_CHECKING:
    from kegcart.core.pack.sizing import PackSizing

P = TypeVar("P", bound=Planning)
LARGEST = 5000
"""The largest battery, Ah or A, that a remedy proposes."""


@dataclass(frozen=True, slots=True)
class ColdLock:
    """Whether charging is locked in the cold, and where that is decided; None where it is not known."""

    locked: bool | None
    place: str
    remedy_value: bool | None


@dataclass(frozen=True, slots=True)
class BoardCurrents:
    """What the electronics that protect a pack let through, A: for long, in a burst, and into it."""

    continuous: Figure
    burst: Figure
    charge: Figure


class PackForm(ABC, Generic[P]):
    """A form of pack. Currents in A, resistances in Ω."""

    @property
    @abstractmethod
    def names(self) -> Mapping[str, str]:
        """The values of `form` it stands for, and the words for each."""

    @property
    @abstractmethod
    def owes(self) -> tuple[str, ...]:
        """The checks that every pack of this form must be given."""

    board_owes: tuple[str, ...] = ()
    """And of its own board, where it has one."""

    @abstractmethod
    def size(self, pack: P, row: Chemistry, loads: LoadsSizing, site: Site, kept: Kept, sheet: Sheet) -> Build:
        """What it is built of, with its figures."""

    @abstractmethod
    def cell_ohm(self, pack: P, row: Chemistry) -> float:
        """DC resistance of one cell, Ω: what a discharge curve taken at a current is brought back by.

        Source: its sheet as typed, or typical by capacity (chemistries table); DC over 1 kHz by the assumptions table.
        """

    @abstractmethod
    def stops_at(self, pack: P) -> Figure | None:
        """The voltage of one cell at which its own protection stops the charge, as decided or of its chemistry; None where it
        is not known, or it has none.
        """

    @abstractmethod
    def board_draw(self, sizing: "PackSizing") -> tuple[str, str, Figure, Figure] | None:
        """Place and name of its protection, own draw of one board in A, and how many there are; None where it has none."""

    @abstractmethod
    def protection(self, sizing: "PackSizing") -> BoardCurrents | None:
        """The limits of the board, or of the boards inside its batteries together; None for lead, which has none."""

    @abstractmethod
    def cutoff_pinned(self, pack: P) -> bool:
        """Whether the voltage at which its protection opens was pinned."""

    @abstractmethod
    def cold_lock(self, sizing: "PackSizing") -> ColdLock | None:
        """Whether charging is locked in the cold; None where its chemistry needs no lock."""

    @abstractmethod
    def grown(self, sizing: "PackSizing", factor: float) -> tuple[Remedy, ...]:
        """A larger pack: more in parallel, or a larger battery, by at least a factor.

        Source: capacities in parallel add (Kirchhoff).
        """

    @abstractmethod
    def strengthened(self, sizing: "PackSizing", needed_a: float, burst_a: float) -> tuple[Remedy, ...]:
        """A stronger pack: board, links, cells or batteries that give `needed_a` continuously, and `burst_a` in a surge.

        Source: currents in parallel add (Kirchhoff); the burst of a board over its rating (assumptions table).
        """

    @abstractmethod
    def with_series(self, sizing: "PackSizing", cells: int) -> tuple[Remedy, ...]:
        """A pack of so many cells in series; none where that cannot be made of what it is made of."""

    @property
    @abstractmethod
    def series_place(self) -> str:
        """The pointer of what decides its voltage."""

    @abstractmethod
    def recast(self, sizing: "PackSizing", cells: int) -> list[dict[str, Any]]:
        """The operations that put the same cells into more groups in series; none where that cannot be done."""
