"""The drill template of a face in true millimetres: each hole with its size and the bit that makes it, from outside or mirrored.

Seen from inside everything is mirrored left to right, for whoever drills from there. A cross stands every 100 mm, so that sheets can be
put together, and in the middle of each hole, to be pricked through.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from kegcart.core.box.document import FACES, SIDES, Face
from kegcart.core.box.layout import BoxLayout, Fitted
from kegcart.core.box.space import Shape
from kegcart.core.drawing import Box, Circle, Drawing, Line, Primitive, Role, Text
from kegcart.core.units import as_builder_has_it, significant, write_quantity

Seen = Literal["outside", "inside"]
MARGIN = 14.0
GRID_MM, CROSS, PRICK = 100.0, 4.0, 5.0
"""Between the crosses of the sheet; half the length of those, and of the cross in a hole."""
LETTERS = 3.2
TWIST_MOST, STEP_MOST = 13.0, 32.0
"""Up to these diameters in mm a twist drill, and a step drill or spade bit, is usual. Source: bits as sold."""


@dataclass(frozen=True, slots=True)
class Hole:
    """A hole in a face: what it is for, its outline in mm (from the left edge, over the inner floor, seen from outside), its bit."""

    face: Face
    at: str
    name: str
    shape: Shape
    screw: bool
    bit: str


def bit_for(shape: Shape, wood: bool) -> str:
    """What makes a hole. Source: stepped or spade bit, hole saw by diameter; a square one is scored inside the line and crept up to."""
    if not shape.round:
        return "score inside the line, creep up"
    if shape.width <= TWIST_MOST:
        return "twist drill"
    if shape.width <= STEP_MOST:
        return "spade bit" if wood else "step drill"
    return "hole saw"


def holes_in(layout: BoxLayout) -> Iterator[Hole]:
    """Every hole of the box, face by face, the largest of each fitting first."""
    wood = layout.case.material == "plywood"
    for face in FACES:
        for fitted in layout.fitted:
            if fitted.face == face:
                for shape, screw in shapes_of(fitted):
                    yield Hole(face, fitted.at, fitted.name, shape, screw, bit_for(shape, wood))


def shapes_of(fitted: Fitted) -> list[tuple[Shape, bool]]:
    """The holes of a fitting, and whether each is for a screw."""
    row = fitted.thing.type if fitted.thing else None
    cut = len(row.holes) if row else 1
    each = cut + (len(row.screws) if row else 0)
    shapes = [(shape, n % each >= cut) for n, shape in enumerate(fitted.holes)]
    return sorted(shapes, key=lambda s: s[1])


def size_text(shape: Shape) -> str:
    """A hole in words, in the builder's unit: Ø29 mm, 45 × 26 mm."""
    if shape.round:
        return f"Ø{write_quantity(shape.width, 'mm')}"
    return f"{significant(as_builder_has_it(shape.width, 'mm')[0])} × {write_quantity(shape.height, 'mm')}"


def faces_with_holes(layout: BoxLayout) -> list[Face]:
    """The faces into which something is cut."""
    return [face for face in FACES if any(f.face == face for f in layout.fitted)]


class Template:
    """One face being drawn. Places are mm from its left edge and over the inner floor, seen from outside."""

    def __init__(self, face: Face, layout: BoxLayout, seen: Seen, cropped: bool) -> None:
        self.face, self.layout, self.mirrored = face, layout, seen == "inside"
        self.wide, self.high = layout.hollow.extent(face)
        self.x0, self.y0, self.x1, self.y1 = self.cut() if cropped else (0.0, 0.0, self.wide, self.high)
        self.drawing = Drawing(self.x1 - self.x0 + 2 * MARGIN, self.y1 - self.y0 + 2 * MARGIN, "mm")

    def cut(self) -> tuple[float, float, float, float]:
        """The part of the face in which something is cut: left, low, right, high."""
        corners = [corners_of(hole.shape) for hole in holes_in(self.layout) if hole.face == self.face]
        lefts, lows, rights, highs = zip(*corners, strict=True)
        return min(lefts), min(lows), max(rights), max(highs)

    def at(self, x: float, y: float) -> tuple[float, float]:
        """A place of the face on the sheet, y downwards."""
        return MARGIN + (self.x1 - x if self.mirrored else x - self.x0), MARGIN + self.y1 - y

    def draw(self) -> Drawing:
        """The whole face."""
        self.outline()
        self.crosses()
        for hole in holes_in(self.layout):
            if hole.face == self.face:
                self.hole(hole)
        return self.drawing

    def line(self, points: list[tuple[float, float]], role: Role, width: float) -> None:
        """A stroke along places of the face."""
        self.drawing.add(Line(tuple(self.at(*p) for p in points), role, width))

    def outline(self) -> None:
        """The edges to which the sheet is laid, and the split of the lid."""
        edge = self.layout.hollow.corners(self.face)
        self.line([*edge, edge[0]], "ink", 0.35)
        split = self.layout.split
        if self.face in SIDES and self.layout.case.lid_mm > 0:
            self.line([(0, split), (self.wide, split)], "faint", 0.2)

    def crosses(self) -> None:
        """A cross every 100 mm from the lower left corner, with its place: sheets are laid on by it, and put together."""
        for n in range(int(self.wide // GRID_MM) + 1):
            for m in range(int(self.high // GRID_MM) + 1):
                x, y = n * GRID_MM, m * GRID_MM
                if self.x0 - MARGIN < x < self.x1 + MARGIN and self.y0 - MARGIN < y < self.y1 + MARGIN:
                    self.cross(x, y, CROSS, "faint")
                    along, up = (significant(as_builder_has_it(mm, "mm")[0]) for mm in (x, y))
                    at = self.at(x, y)
                    self.drawing.add(Text(at[0] + 0.8, at[1] - 0.8, f"{along}, {up}", LETTERS * 0.7, "faint"))

    def cross(self, x: float, y: float, half: float, role: Role) -> None:
        """A cross about a place."""
        self.line([(x - half, y), (x + half, y)], role, 0.15)
        self.line([(x, y - half), (x, y + half)], role, 0.15)

    def hole(self, hole: Hole) -> None:
        """A hole true to size, its middle, and in words its size and bit."""
        shape = hole.shape
        x, y = self.at(shape.x, shape.y)
        drawn: Primitive
        if shape.round:
            drawn = Circle(x, y, shape.width / 2, "cut", 0.25, of=hole.at)
        else:
            drawn = Box(x - shape.width / 2, y - shape.height / 2, shape.width, shape.height, "cut", 0.25, of=hole.at)
        self.drawing.add(drawn)
        self.cross(shape.x, shape.y, min(PRICK, shape.width / 2 + 1.5), "ink")
        if hole.screw:
            return
        low = y + shape.height / 2 + LETTERS + 0.8
        self.drawing.add(Text(x, low, hole.name, LETTERS, "ink", "middle", bold=True))
        # Line by line: square ones stand close, and what makes them takes many words.
        for n, words in enumerate((size_text(shape), *hole.bit.split(", ")), 1):
            self.drawing.add(Text(x, low + n * LETTERS * 1.15, words, LETTERS * 0.9, "faint", "middle"))


def corners_of(shape: Shape) -> tuple[float, float, float, float]:
    """Left, low, right and high edge of a hole."""
    w, h = shape.width / 2, shape.height / 2
    return shape.x - w, shape.y - h, shape.x + w, shape.y + h


def draw_template(face: Face, layout: BoxLayout, seen: Seen = "outside", cropped: bool = False) -> Drawing:
    """The drill template of a face, in true millimetres. seen: from which side it is laid on; from inside it is mirrored.

    cropped: only the part in which something is cut; there must be some.
    """
    return Template(face, layout, seen, cropped).draw()
