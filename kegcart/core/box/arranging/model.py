"""The model of a box to be arranged: what the solver decides of each thing, and how it is said that two are apart."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from math import floor
from typing import Any

from kegcart.core.box.contents import Thing
from kegcart.core.box.document import Face, OwnFace
from kegcart.core.box.layout import BoxLayout
from kegcart.core.box.runs import Link
from kegcart.core.box.space import Solid

HAIR = 1e-6


@dataclass(frozen=True, slots=True)
class Option:
    """One way for a thing to stand, or to be fixed to a side: solids are its own, then its rooms, as they are with its corner at (0, 0)
    on that; on a side that leans, all that they may cover. ends: where its cables end."""

    on: str
    up: OwnFace
    turn: int
    solids: tuple[Solid, ...]
    ends: tuple[Solid, ...]

    @property
    def corner(self) -> tuple[float, float, float]:
        """What its place counts from."""
        return self.solids[0][:3]


Height = tuple[float, float]
Plan = tuple[Any, Any, Any, Any]
"""Where something is in the plan of the box: x from and to, y from and to; numbers, or what the solver decides."""


@dataclass(slots=True)
class Standing:
    """A thing inside, as the solver has it: its corner, which option is taken, whether it is on each surface or side, where its solid and
    its rooms are then, in plan and in height. heights: of those, as far as they are known, by surface."""

    thing: Thing
    options: list[Option]
    taken: list[Any]
    x: Any
    y: Any
    z: Any
    on: dict[str, Any]
    plans: list[Plan]
    levels: list[tuple[Any, Any]]
    heights: dict[str, list[Height]]


@dataclass(slots=True)
class Sitting:
    """A thing in a face: for each face whether it is that, and the place of its lower left corner there, seen from outside; where it is
    in the plan of the box, and with it a hand that reaches behind it."""

    thing: Thing
    taken: dict[Face, Any]
    along: dict[Face, Any]
    up: Any
    wide: int
    high: int
    deep: int
    plan: Plan
    hand: Plan


@dataclass(slots=True)
class Arranging:
    """The model of one box. cp: the solver's module. covers: what is as large as this share of something
    hides it. anyhow: things may lie as they like, and sit in any face but a door. tight: a
    run that is to be short is, whatever else."""

    layout: BoxLayout
    masses: Mapping[str, float]
    links: Sequence[Link]
    rolling: bool
    covers: float
    anyhow: bool
    tight: bool
    model: Any
    cp: Any
    standing: dict[str, Standing] = field(default_factory=dict)
    sitting: dict[str, Sitting] = field(default_factory=dict)

    @property
    def size(self) -> tuple[int, int, int]:
        """Inside of the box, whole mm."""
        hollow = self.layout.hollow
        return floor(hollow.length + HAIR), floor(hollow.width + HAIR), floor(hollow.height + HAIR)

    @property
    def door(self) -> bool:
        """Whether it opens in front."""
        return self.layout.case.opens == "front"

    def whether(self) -> Any:
        """A new yes or no."""
        return self.model.new_bool_var("")

    def within(self, low: int, high: int) -> Any:
        """A new whole number of mm; impossible bounds make the model impossible, as they must."""
        if low > high:
            self.model.add_bool_or([])
            high = low
        return self.model.new_int_var(low, high, "")

    def either(self, ways: Sequence[Any], where: Sequence[Any] = ()) -> None:
        """One of some inequalities at least holds, where all of some options are taken."""
        chosen = []
        for way in ways:
            if way is True:
                return
            if way is not False:
                so = self.whether()
                self.model.add(way).only_enforce_if(so)
                chosen.append(so)
        self.model.add_bool_or([*chosen, *(w.negated() for w in where)])

    def clear(self, one: Plan, other: Plan, where: Sequence[Any] = (), free: int = 0, more: Sequence[Any] = ()) -> None:
        """Two plans do not overlap, so many mm between, where some options are taken; or one of some more inequalities holds."""
        beside = [one[1] + free <= other[0], other[1] + free <= one[0], one[3] + free <= other[2], other[3] + free <= one[2]]
        self.either([*beside, *more], where)
