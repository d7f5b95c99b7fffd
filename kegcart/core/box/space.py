"""Geometry of the box, in mm and exact: cuboids along its axes, walls that lean, faces seen from outside, round and square fittings.

x runs from the left, y from the front, z from the floor. It knows nothing of parts.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from math import hypot
from typing import NamedTuple

Vector = tuple[int, int, int]
OWN: dict[str, Vector] = {
    "left": (-1, 0, 0),
    "right": (1, 0, 0),
    "front": (0, -1, 0),
    "back": (0, 1, 0),
    "bottom": (0, 0, -1),
    "top": (0, 0, 1),
}
"""Outward direction of each face of a cuboid."""


class Solid(NamedTuple):
    """A cuboid: from (x0, y0, z0) to (x1, y1, z1)."""

    x0: float
    y0: float
    z0: float
    x1: float
    y1: float
    z1: float

    @classmethod
    def at(cls, x: float, y: float, z: float, size: tuple[float, float, float]) -> "Solid":
        """A cuboid of a size with its lower corner somewhere."""
        return cls(x, y, z, x + size[0], y + size[1], z + size[2])

    @property
    def middle(self) -> tuple[float, float, float]:
        """Its centre."""
        return (self.x0 + self.x1) / 2, (self.y0 + self.y1) / 2, (self.z0 + self.z1) / 2

    def beside(self, direction: Vector, depth: float) -> "Solid":
        """The space before one of its faces, so deep."""
        low, high = list(self[:3]), list(self[3:])
        for axis, sign in enumerate(direction):
            if sign > 0:
                low[axis], high[axis] = high[axis], high[axis] + depth
            elif sign < 0:
                low[axis], high[axis] = low[axis] - depth, low[axis]
        return Solid(*low, *high)

    def lies_over(self, other: "Solid") -> bool:
        """Whether some of it is straight above some of another."""
        return self.z0 >= other.z1 - 1e-9 and overlap(self.x0, self.x1, other.x0, other.x1) > 0 < overlap(
            self.y0, self.y1, other.y0, other.y1
        )


def overlap(a0: float, a1: float, b0: float, b1: float) -> float:
    """How much of one stretch lies in another; negative: how far they are apart."""
    return min(a1, b1) - max(a0, b0)


def gap(a: Solid, b: Solid) -> float:
    """How far two cuboids are apart along the axis on which they are farthest; negative: by how much they run into one another."""
    # Written out: this runs for every pair of parts in every answer.
    return max(a.x0 - b.x1, b.x0 - a.x1, a.y0 - b.y1, b.y0 - a.y1, a.z0 - b.z1, b.z0 - a.z1)


def covers(one: Solid, shaft: Solid, axis: int) -> float:
    """How much of a shaft a cuboid in it covers, seen along an axis, mm²; none where it is beside it."""
    if gap(shaft, one) >= 0:
        return 0.0
    a, b = (n for n in range(3) if n != axis)
    return overlap(shaft[a], shaft[a + 3], one[a], one[a + 3]) * overlap(shaft[b], shaft[b + 3], one[b], one[b + 3])


def turned_way(vector: Vector, up: str, turn: int) -> Vector:
    """Where a direction of a part points once one of its own faces is up and it is turned, clockwise seen from above, by degrees."""
    x, y, z = vector
    match up:
        case "bottom":
            x, z = -x, -z
        case "front":
            y, z = z, -y
        case "back":
            y, z = -z, y
        case "left":
            x, z = z, -x
        case "right":
            x, z = -z, x
    for _ in range(turn // 90):
        x, y = y, -x
    return x, y, z


def turned_size(size: tuple[float, float, float], up: str, turn: int) -> tuple[float, float, float]:
    """Extent along x, y and z of a part of (width, depth, height), as it lies."""
    width, depth, height = size
    match up:
        case "front" | "back":
            width, depth, height = width, height, depth
        case "left" | "right":
            width, depth, height = height, depth, width
    return (depth, width, height) if turn in (90, 270) else (width, depth, height)


@dataclass(frozen=True, slots=True)
class Hollow:
    """The inside of a box: length, width and height at the rim and under the shut lid; each side leans in by `taper` down to the
    floor."""

    length: float
    width: float
    height: float
    taper: float = 0.0

    def lean(self, z: float) -> float:
        """How far a side stands in at a height."""
        return self.taper * (1 - min(max(z, 0.0), self.height) / self.height)

    def beyond_walls(self, solid: Solid) -> float:
        """By how much a cuboid runs into a side or the floor; negative: how much room there is to the nearest side.

        Sides lean in below, so that its lower edges touch first.
        """
        lean = self.lean(solid.z0)
        sides = max(lean - solid.x0, solid.x1 - self.length + lean, lean - solid.y0, solid.y1 - self.width + lean)
        return max(sides, -solid.z0) if solid.z0 < 0 else sides

    def extent(self, face: str) -> tuple[float, float]:
        """Width and height of a face, at the rim."""
        if face in ("front", "back"):
            return self.length, self.height
        return (self.width, self.height) if face in ("left", "right") else (self.length, self.width)

    def corners(self, face: str) -> list[tuple[float, float]]:
        """The corners of a face from its lower left one round, seen from outside; one that leans is narrower below."""
        width, height = self.extent(face)
        lean = 0.0 if face in ("lid", "floor") else self.taper
        return [(lean, 0.0), (width - lean, 0.0), (width, height), (0.0, height)]

    def depth(self, face: str) -> float:
        """From a face to the one across."""
        if face in ("front", "back"):
            return self.width
        return self.length if face in ("left", "right") else self.height

    def behind(self, face: str, x: float, y: float, width: float, height: float, depth: float) -> Solid:
        """The cuboid behind a place of a face seen from outside: about (x, y), so wide, high and deep.

        Where the wall leans it reaches from the wall's outermost to `depth` behind its innermost point.
        """
        left, right, low, high = x - width / 2, x + width / 2, y - height / 2, y + height / 2
        out, inner = self.lean(high), self.lean(low) + depth
        match face:
            case "front":
                return Solid(left, out, low, right, inner, high)
            case "back":
                return Solid(self.length - right, self.width - inner, low, self.length - left, self.width - out, high)
            case "left":
                return Solid(out, self.width - right, low, inner, self.width - left, high)
            case "right":
                return Solid(self.length - inner, left, low, self.length - out, right, high)
            case "lid":
                return Solid(left, low, self.height - depth, right, high, self.height)
            case _:
                return Solid(self.length - right, low, 0.0, self.length - left, high, depth)

    def before(self, face: str, solid: Solid, height: float) -> float:
        """How far a cuboid stands before a face on the inside, measured square to it from where the wall is at a height."""
        lean = self.lean(height)
        match face:
            case "front":
                return solid.y0 - lean
            case "back":
                return self.width - lean - solid.y1
            case "left":
                return solid.x0 - lean
            case "right":
                return self.length - lean - solid.x1
            case "lid":
                return self.height - solid.z1
            case _:
                return solid.z0

    def free_behind(
        self, face: str, x: float, y: float, width: float, height: float, others: Iterable[tuple[str, Solid]]
    ) -> tuple[float, str]:
        """The free depth in mm behind a place of a face, and what ends it; the face across where nothing does.

        Measured from where the wall stands in most, at the lower edge of the place.
        """
        shaft = self.behind(face, x, y, width, height, self.depth(face))
        lower = y - height / 2
        found = (self.depth(face) - (0.0 if face in ("lid", "floor") else 2 * self.lean(lower)), "")
        for key, other in others:
            if gap(shaft, other) < -1e-9:
                found = min(found, (self.before(face, other, lower), key))
        return found


class Shape(NamedTuple):
    """An outline on a face, about its middle: a rectangle, or a circle as wide as it is."""

    x: float
    y: float
    width: float
    height: float
    round: bool


def between(a: Shape, b: Shape) -> float:
    """How far two outlines on a face are apart; negative: how far one must be moved to be clear of the other."""
    if a.round and b.round:
        return hypot(a.x - b.x, a.y - b.y) - (a.width + b.width) / 2
    if a.round or b.round:
        circle, box = (a, b) if a.round else (b, a)
        dx, dy = abs(circle.x - box.x) - box.width / 2, abs(circle.y - box.y) - box.height / 2
        return _apart(dx, dy) - circle.width / 2
    return _apart(abs(a.x - b.x) - (a.width + b.width) / 2, abs(a.y - b.y) - (a.height + b.height) / 2)


def _apart(dx: float, dy: float) -> float:
    return hypot(dx, dy) if dx > 0 and dy > 0 else max(dx, dy)
