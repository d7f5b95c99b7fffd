"""The lines of the list of what a build is made of: what, how many, for which parts, at which price."""

import re
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Final, Literal

from kegcart.core.assembly.document import Assembly
from kegcart.core.figure import Figure

Group = Literal["pack", "charging", "power", "box", "wire", "terminals", "small", "spares"]
GROUPS: Final[dict[Group, str]] = {
    "pack": "Pack",
    "charging": "Charging",
    "power": "Power path",
    "box": "Box",
    "wire": "Wire",
    "terminals": "Terminals",
    "small": "Small parts",
    "spares": "Spares",
}
"""The groups of lines in the order in which they are listed, with their names."""
CENT: Final = 2
"""Decimals of money."""


def slug(*words: str) -> str:
    """The key of a line from words: `wire:25-mm2:red`."""
    plain = (re.sub(r"[^a-z0-9.]+", "-", w.lower().replace("²", "2")).strip("-.") or "x" for w in words)
    return ":".join(w[:60] for w in plain)


@dataclass(slots=True, eq=False)
class ListLine:
    """One line of the list.

    what, rating: in words. need: how many the design takes, or how many m. places: pointers of the parts it is for. items: each thing
    of the design that it stands for, as `run:…`, `end:…`, `fuse:…`, `body:…`, `hole:…`, `stud:…`. price: of one, or of one m; None
    where none is known. packet: how many are sold together; 0: any number. owned: how many are there. buy: how many are bought.
    cost: of those.
    """

    key: str
    group: Group
    what: str
    rating: str
    unit: Literal["", "m"]
    places: list[str] = field(default_factory=list)
    items: list[str] = field(default_factory=list)
    count: float = 0.0
    packet: int = 0
    typical: Figure | None = None
    comes_with: bool = False
    """whether it is sold with something else, and bought with that"""
    need: Figure = field(init=False)
    price: Figure | None = None
    owned: float = 0.0
    buy: Figure = field(init=False)
    cost: Figure | None = None


class PartsList(dict[str, ListLine]):
    """The lines of a build by their key; what is added to a line that is there already counts with it."""

    def add(
        self,
        key: str,
        group: Group,
        what: str,
        count: float,
        *,
        rating: str = "",
        unit: Literal["", "m"] = "",
        places: Iterable[str] = (),
        items: Iterable[str] = (),
        price: Figure | None = None,
        packet: int = 0,
        comes_with: bool = False,
    ) -> ListLine:
        """Enter so many of something, and return its line."""
        line = self.get(key)
        if line is None:
            line = ListLine(key, group, what, rating, unit, packet=packet, typical=price, comes_with=comes_with)
            self[key] = line
        line.count += count
        line.places += [place for place in places if place and place not in line.places]
        line.items += items
        return line

    def by_group(self) -> list[ListLine]:
        """The lines, group by group."""
        order = list(GROUPS)
        return sorted(self.values(), key=lambda line: order.index(line.group))


def priced(line: ListLine, decided: Assembly) -> Figure | None:
    """The price of one: as typed in, or typical; None where neither is known."""
    own = decided.prices.get(line.key)
    if own is not None:
        return Figure.decided("c", own, "money", f"price, {line.what}", f"/assembly/prices/{line.key}")
    return line.typical
