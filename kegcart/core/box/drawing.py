"""The box drawn to scale: from above, cut along its length and across, and each face from outside with what is cut into it.

Every view has a horizontal axis to the right and a vertical one up, in mm of the box; `View.at` brings a place in mm to the drawing.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

from kegcart.core.box.contents import Thing
from kegcart.core.box.document import FACES, SIDES, Face
from kegcart.core.box.layout import BoxLayout, Fitted, Installed, air_behind
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.box.space import Shape, Solid, between
from kegcart.core.box.taking_out import goes_with_lid, over_each
from kegcart.core.drawing import LETTER, Area, Box, Circle, Drawing, Line, Point, Role, Text, fit, wrap
from kegcart.core.figure import COMPUTED, Figure, write_figure
from kegcart.core.units import as_builder_has_it, significant, write_quantity

WIDE, FACE_WIDE = 440.0, 300.0
"""Width to which the longest view, and a face, is drawn, px."""
TALLEST = 340.0
MARGIN, HEAD = 22.0, 26.0
SIZE, SMALL = 12.5, 11.0
AXES = {"above": "xy", "front": "xz", "side": "yz"}
TITLES = {"above": "from above, open", "front": "from the front, cut along it", "side": "from the right, cut across"}


@dataclass(frozen=True, slots=True)
class View:
    """A drawing with the place of its origin in it (px), its scale (px for each mm), and what its two axes are: `xy`, `xz`, `yz` of the
    inside, or `face`."""

    key: str
    drawing: Drawing
    origin: Point
    scale: float
    axes: str

    def at(self, h: float, v: float) -> Point:
        """A place in mm, to the right and up, in the drawing."""
        return self.origin[0] + self.scale * h, self.origin[1] - self.scale * v

    def rect(
        self, h0: float, v0: float, h1: float, v1: float, role: Role, width: float = 1.4, radius: float = 0.0, title: str = ""
    ) -> Box:
        """A rectangle by its two corners in mm."""
        x, y = self.at(h0, v1)
        return Box(x, y, (h1 - h0) * self.scale, (v1 - v0) * self.scale, role, width, radius, title=title)

    def line(self, points: list[Point], role: Role, width: float = 1.4) -> Line:
        """A stroke along points in mm."""
        return Line(tuple(self.at(*p) for p in points), role, width)

    def write(self) -> dict[str, Any]:
        """The view as plain JSON data."""
        return {
            "key": self.key,
            "drawing": self.drawing.write(),
            "origin": list(self.origin),
            "scale": self.scale,
            "axes": self.axes,
        }


def view_of(key: str, title: str, axes: str, extent: tuple[float, float], scale: float) -> View:
    """An empty view of so many mm, under its title."""
    drawing = Drawing(2 * MARGIN + extent[0] * scale, HEAD + MARGIN + extent[1] * scale)
    drawing.add(Text(MARGIN, HEAD - 11, title, SIZE, "ink", bold=True))
    return View(key, drawing, (MARGIN, HEAD + extent[1] * scale), scale, axes)


def draw_box(sizing: BoxSizing) -> list[View]:
    """Every view of the box: from above, both cuts, the six faces."""
    return [*(draw_inside(key, sizing) for key in AXES), *(draw_face(face, sizing.layout) for face in FACES)]


def draw_inside(key: str, sizing: BoxSizing) -> View:
    """The inside seen from above, from the front or from the right, everything to scale."""
    layout = sizing.layout
    hollow = layout.hollow
    extent = {
        "above": (hollow.length, hollow.width),
        "front": (hollow.length, hollow.height),
        "side": (hollow.width, hollow.height),
    }
    view = view_of(key, TITLES[key], AXES[key], extent[key], scale_of(layout, FACE_WIDE if key == "side" else WIDE))
    walls(view, layout)
    for solid in layout.fixed.values():
        view.drawing.add(view.rect(*seen(solid, view.axes), "zone", 0.8))
    for fitted in layout.fitted:
        if fitted.deep > 0:
            view.drawing.add(view.rect(*seen(fitted.solid, view.axes), "behind", 1.0, title=fitted.name))
        if air := air_behind(fitted, layout.hollow):
            view.drawing.add(replace(view.rect(*seen(air, view.axes), "air", 1.0), of=fitted.at))
    along = seen_along(key)
    fixtures = [(along(solid), partial(draw_fixture, view, key, solid, layout)) for key, solid in layout.fixtures.items()]
    standing = [(along(s.solid), partial(draw_standing, view, s)) for s in layout.standing.values()]
    for _, draw in sorted([*fixtures, *standing], key=lambda drawn: drawn[0]):
        draw()
    marks(view, sizing)
    name_parts(view, sorted(layout.standing.values(), key=lambda s: along(s.solid)), sizing)
    return view


def name_parts(view: View, standing: list[Installed], sizing: BoxSizing) -> None:
    """The names of parts over all else, the farthest first; not of one whose name would stand on a nearer part."""
    nearer: list[tuple[float, float, float, float]] = []
    for part in reversed(standing):
        h0, v0, h1, v1 = rect = seen(part.solid, view.axes)
        words = part.thing.name + (f" {sizing.masses[part.thing.key].text}" if part.thing.type is None else "")
        h, v = (h0 + h1) / 2, (v0 + v1) / 2 if view.axes == "xy" else v1 - SIZE / 2 / view.scale
        lines, size = lines_of(view, words, rect)
        half = max((len(line) for line in lines), default=0) * size * LETTER / 2 / view.scale
        tall = (len(lines) - 1) * size * LEADING / 2 / view.scale
        if not any(a < h + half and h - half < c and b <= v + tall and v - tall <= d for a, b, c, d in nearer):
            label(view, words, rect)
        nearer.append(rect)


def scale_of(layout: BoxLayout, wide: float) -> float:
    """The scale in px for each mm at which the longest side of the box is so wide, and nothing is higher than `TALLEST`."""
    hollow = layout.hollow
    return min(wide / max(hollow.length, hollow.width), TALLEST / max(hollow.width, hollow.height))


def seen_along(key: str) -> Callable[[Solid], float]:
    """By what things are drawn in turn, so that the nearest lies on top."""
    return {"above": lambda s: s.z1, "front": lambda s: -s.y0, "side": lambda s: s.x1}[key]


def seen(solid: Solid, axes: str) -> tuple[float, float, float, float]:
    """A cuboid along two axes: h0, v0, h1, v1 in mm."""
    a, b = "xyz".index(axes[0]), "xyz".index(axes[1])
    return solid[a], solid[b], solid[a + 3], solid[b + 3]


def walls(view: View, layout: BoxLayout) -> None:
    """The walls, the floor inside them where they lean, the lid."""
    hollow, wall = layout.hollow, layout.case.wall_mm
    if view.axes == "xy":
        outer = view.rect(-wall, -wall, hollow.length + wall, hollow.width + wall, "wall", 2.2, 6)
        lean = hollow.taper
        floor = view.rect(lean, lean, hollow.length - lean, hollow.width - lean, "floor", 1.0, 3)
        view.drawing.add(outer, view.rect(0, 0, hollow.length, hollow.width, "floor", 1.2, 4), floor)
        on_edges(view, layout)
        return
    long = hollow.length if view.axes == "xz" else hollow.width
    lean, high = hollow.taper, hollow.height
    outline: list[Point] = [(-wall, high), (lean - wall, -wall), (long - lean + wall, -wall), (long + wall, high), (-wall, high)]
    view.drawing.add(
        view.line(outline, "ink", 2.2), view.line([(0, high), (lean, 0), (long - lean, 0), (long, high)], "rule", 1.2)
    )
    split = layout.split
    if layout.case.lid_mm > 0:
        view.drawing.add(
            view.line([(-wall, split), (0, split)], "ink", 1.2), view.line([(long, split), (long + wall, split)], "ink", 1.2)
        )
    view.drawing.add(view.line([(0, high), (long, high)], "limit", 1.2))
    x, y = view.at(long, high)
    said = f"{'top' if layout.case.opens == 'front' else 'lid shuts'} at {write_quantity(high, 'mm')}"
    view.drawing.add(Text(x - 3, y + SMALL, said, SMALL, "limit", "end"))


def on_edges(view: View, layout: BoxLayout) -> None:
    """Latches, hinges and handles on the edges of the view from above."""
    hollow, out = layout.hollow, 9.0 / view.scale
    for feature in layout.case.features.values():
        if feature.kind not in ("latch", "hinge", "handle", "wheel") or feature.face not in SIDES:
            continue
        half = feature.width_mm / 2
        solid = hollow.behind(feature.face, feature.x_mm, feature.y_mm, feature.width_mm, feature.height_mm, 0.0)
        match feature.face:
            case "front":
                rect = (solid.x0, -out, solid.x1, 0.0)
            case "back":
                rect = (solid.x0, hollow.width, solid.x1, hollow.width + out)
            case "left":
                rect = (-out, solid.y0, 0.0, solid.y1)
            case _:
                rect = (hollow.length, solid.y0, hollow.length + out, solid.y1)
        view.drawing.add(view.rect(*rect, "latch" if feature.kind == "latch" else "zone", 1.0, 2, title=feature.kind))
        if feature.kind == "latch" and feature.face == "front" and half * view.scale > 10:
            x, y = view.at(feature.x_mm, -out)
            view.drawing.add(Text(x, y + 10, "latch", SMALL - 1, "faint", "middle"))


def draw_fixture(view: View, key: str, solid: Solid, layout: BoxLayout) -> None:
    """A shelf, divider or block, with its name along its lower edge where there is room."""
    h0, v0, h1, v1 = seen(solid, view.axes)
    name, at = layout.box.fixtures[key].name, f"/box/fixtures/{key}"
    view.drawing.add(view.rect(h0, v0, h1, v1, "board", 1.2, title=name))
    x, y = view.at(h0, v0)
    if view.axes == "xy":
        view.drawing.add(Text(x + 4, y - 4, fit(name, (h1 - h0) * view.scale - 8, SMALL), SMALL, "faint"))
    area(view, at, name, (h0, v0, h1, v1))


def draw_standing(view: View, standing: Installed) -> None:
    """A part with the rooms that it needs."""
    thing = standing.thing
    for room in standing.rooms:
        space = view.rect(*seen(room.solid, view.axes), "air" if room.what == "air" else "room", 1.0)
        view.drawing.add(replace(space, of=thing.place))
    h0, v0, h1, v1 = seen(standing.solid, view.axes)
    view.drawing.add(view.rect(h0, v0, h1, v1, role_of(thing), 1.4, 2))
    area(view, thing.place, thing.name, (h0, v0, h1, v1))


def role_of(thing: Thing) -> Role:
    """How a thing is drawn: packs, what carries mains, the rest."""
    if thing.type is None:
        return "cells"
    return "mains-box" if thing.type.key.partition(":")[0] == "inverter" else "box"


LEADING = 1.08
"""From line to line of a name, over its size."""


def lines_of(view: View, words: str, rect: tuple[float, float, float, float]) -> tuple[list[str], float]:
    """A name as it is written within a rectangle, and its size; no line without room."""
    wide, high = (rect[2] - rect[0]) * view.scale, (rect[3] - rect[1]) * view.scale
    size = SIZE if high >= 16 and wide >= 44 else SMALL
    if wide < 26 or high < 11:
        return [], size
    return (wrap(words, wide - 5, size) if view.axes == "xy" and high >= 2.2 * size else [fit(words, wide - 5, size)]), size


def label(view: View, words: str, rect: tuple[float, float, float, float]) -> None:
    """A name within a rectangle: in its middle from above, along its top where nearer things hide what is lower; none without room."""
    from_above = view.axes == "xy"
    lines, size = lines_of(view, words, rect)
    x, y = view.at((rect[0] + rect[2]) / 2, (rect[1] + rect[3]) / 2 if from_above else rect[3])
    first = y + size * 0.36 - (len(lines) - 1) / 2 * size * LEADING if from_above else y + size
    for n, line in enumerate(lines):
        view.drawing.add(Text(x, first + n * size * LEADING, line, size, "ink", "middle", whole=words if line != words else ""))


def area(view: View, pointer: str, name: str, rect: tuple[float, float, float, float]) -> None:
    """What can be picked, and moved, in a view."""
    x, y = view.at(rect[0], rect[3])
    w, h = (rect[2] - rect[0]) * view.scale, (rect[3] - rect[1]) * view.scale
    view.drawing.areas.append(Area(pointer, name, x, y, w, h, (x + w - 2, y + 2)))


def marks(view: View, sizing: BoxSizing) -> None:
    """Where the weight acts: the sign of the centre of mass, a disc in quarters."""
    hollow = sizing.layout.hollow
    for third in (hollow.length / 3, 2 * hollow.length / 3) if view.axes != "yz" else ():
        top = hollow.width if view.axes == "xy" else hollow.height
        view.drawing.add(view.line([(third, 0), (third, top)], "thirds", 1.0))
    values = dict(zip("xyz", (f.number for f in sizing.weight.centre), strict=True))
    x, y = view.at(values[view.axes[0]], values[view.axes[1]])
    r = 7.0
    view.drawing.add(Circle(x, y, r, "mass", 1.4, title=f"centre of mass, {sizing.weight.mass.text}"))
    quarter = r * 0.7071
    view.drawing.add(Line(((x - r, y), (x + r, y)), "ink", 1.2), Line(((x, y - r), (x, y + r)), "ink", 1.2))
    view.drawing.add(Box(x - quarter, y - quarter, quarter, quarter, "mass-half", 0), Box(x, y, quarter, quarter, "mass-half", 0))
    if view.axes == "xy":
        view.drawing.add(Text(x + r + 3, y - r + 2, sizing.weight.mass.text, SMALL, "ink", bold=True))


def draw_face(face: Face, layout: BoxLayout) -> View:
    """A face from outside: what the box has on it is hatched ground, what is cut into it an outline with its holes and their size."""
    hollow = layout.hollow
    extent = hollow.extent(face)
    seen = {"floor": "from below", "lid": "from above"}.get(face, "from outside")
    view = view_of(f"face-{face}", f"{face}, {seen}", "face", extent, scale_of(layout, FACE_WIDE))
    edge = hollow.corners(face)
    view.drawing.add(view.rect(0, 0, *extent, "face", 0.0), view.line([*edge, edge[0]], "ink", 2.2))
    if face in SIDES and layout.case.lid_mm > 0:
        split = layout.split
        view.drawing.add(view.line([(0, split), (extent[0], split)], "ink", 1.4))
        x, y = view.at(extent[0], split)
        view.drawing.add(Text(x - 4, y - 4, "lid", SMALL, "faint", "end"))
    for key, feature in layout.case.features.items():
        if feature.face == face:
            hatch(view, layout.features[key], "screw boss" if feature.kind == "boss" else feature.kind)
    own = [fitted for fitted in layout.fitted if fitted.face == face]
    for fitted in own:
        draw_fitted(view, fitted)
    said: list[Shape] = []
    for fitted in own:
        say_hole(view, fitted, own, said)
    return view


def corners(shape: Shape) -> tuple[float, float, float, float]:
    """A shape by the corners around it."""
    w, h = shape.width / 2, shape.height / 2
    return shape.x - w, shape.y - h, shape.x + w, shape.y + h


def hatch(view: View, shape: Shape, name: str) -> None:
    """A zone in which nothing may be cut: crossed, with its name where there is room."""
    h0, v0, h1, v1 = corners(shape)
    view.drawing.add(view.rect(h0, v0, h1, v1, "zone", 1.0, title=name))
    if min(h1 - h0, v1 - v0) * view.scale > 9:
        view.drawing.add(view.line([(h0, v0), (h1, v1)], "zone-line", 0.8), view.line([(h0, v1), (h1, v0)], "zone-line", 0.8))


def draw_fitted(view: View, fitted: Fitted) -> None:
    """What sits in a face: its flange, its holes, and the size of the largest."""
    outline = fitted.outline
    x, y = view.at(outline.x, outline.y)
    if outline.round:
        view.drawing.add(Circle(x, y, outline.width / 2 * view.scale, "box", 1.2))
    else:
        view.drawing.add(view.rect(*corners(outline), "box", 1.2, 2))
    for hole in fitted.holes:
        at = view.at(hole.x, hole.y)
        if hole.round:
            view.drawing.add(Circle(*at, hole.width / 2 * view.scale, "hole", 1.2))
        else:
            view.drawing.add(view.rect(*corners(hole), "hole", 1.2, 1))
    area(view, fitted.at, fitted.name, corners(outline))


def say_hole(view: View, fitted: Fitted, own: list[Fitted], said: list[Shape]) -> None:
    """The size of the largest hole of a fitting, below it; above it where another one is in the way, nowhere where both are.

    said: the places of those that are said already.
    """
    largest = max(fitted.holes, key=lambda hole: hole.width * hole.height, default=None)
    if largest is None:
        return
    words = size_of_hole(largest)
    wide, high = len(words) * SMALL * LETTER / view.scale, SMALL / view.scale
    outline = fitted.outline
    for y in (outline.y - outline.height / 2 - high / 2 - 1, outline.y + outline.height / 2 + high / 2 + 1):
        place = Shape(outline.x, y, wide, high, False)
        taken = [*(other.outline for other in own if other is not fitted), *said]
        if all(between(place, other) > 0 for other in taken):
            said.append(place)
            x, low = view.at(outline.x, y - high / 2)
            view.drawing.add(Text(x, low - 1.5, words, SMALL - 0.5, "faint", "middle"))
            return


def size_of_hole(hole: Shape) -> str:
    """A hole as a drawing says it, in the builder's unit without its name: Ø29, 45×26, of inches Ø1.14."""
    sides = [significant(as_builder_has_it(mm, "mm")[0]) for mm in (hole.width, hole.height)]
    return f"Ø{sides[0]}" if hole.round else "×".join(sides)


def told(sizing: BoxSizing) -> Iterator[dict[str, Any]]:
    """Everything that may stand in the box, in words and figures: where it is, its body, what its cables need."""
    layout = sizing.layout
    for thing in layout.things:
        where = (
            "inside" if thing.key in layout.standing else "face" if any(f.key == thing.key for f in layout.fitted) else "outside"
        )
        if thing in layout.unplaced:
            where = "nowhere"
        yield {
            "key": thing.key,
            "name": thing.name,
            "place": thing.place,
            "of": thing.pointer,
            "where": where,
            "faced": thing.faced,
            "how": thing.how,
            "ups": list(thing.type.ups) if thing.type else ["top"],
            "figures": {name: write_figure(figure, top=True) for name, figure in body_figures(thing, sizing).items()},
        }


def body_figures(thing: Thing, sizing: BoxSizing) -> dict[str, Figure]:
    """What is known of a body: width, depth, height (mm), mass (kg), what its cables need (mm)."""
    own = sizing.layout.box.bodies.get(thing.key)
    at, out = f"/box/bodies/{thing.key}", {}
    for name, mm in zip(("width", "depth", "height"), thing.size, strict=True):
        measured = own is not None and getattr(own, f"{name}_mm") is not None
        if measured:
            out[name] = Figure.decided(name[0], mm, "mm", f"{name} of {thing.name}", f"{at}/{name}_mm")
        else:
            basis = thing.type.basis if thing.type else COMPUTED
            out[name] = Figure.of(name[0], mm, "mm", f"{name} of {thing.name}", how=thing.how, basis=basis)
    out["mass"] = sizing.masses[thing.key]
    if thing.post_room > 0:
        how = "studs and the bend of its cable" if thing.along else "the lug, or the cable that lies across it"
        out["cables"] = Figure.of("d", thing.post_room, "mm", f"room before the terminals of {thing.name}", how=how)
    return out


def handles(sizing: BoxSizing) -> Iterator[dict[str, Any]]:
    """What the screen needs of each thing to draw it, to move it, and to see at once what it runs into: mm of the box. `over`: what comes
    out before it, by place; null where it is part of the box, or opens with its lid."""
    layout = sizing.layout
    over = over_each(layout)
    for standing in layout.standing.values():
        place, thing = standing.place, standing.thing
        fixed = {"floor": "xy", "front": "xz", "back": "xz", "left": "yz", "right": "yz", "lid": "xy"}.get(place.on, "xy")
        rooms = [list(room.solid) for room in standing.rooms]
        yield handle(thing.place, thing.name, standing.solid, layout, over, role=role_of(thing), rooms=rooms, moves=fixed)
    for fitted in layout.fitted:
        air = air_behind(fitted, layout.hollow)
        face: dict[str, Any] = {"face": fitted.face, "outline": list(fitted.outline), "deep": fitted.deep, "moves": "face"}
        face["rooms"] = [list(air)] if air else []
        yield handle(fitted.at, fitted.name, fitted.solid, layout, over, role="box", **face)
    for key, solid in layout.fixtures.items():
        at = f"/box/fixtures/{key}"
        yield handle(at, layout.called(at), solid, layout, over, role="board", moves="xyz")
    for key, solid in layout.fixed.items():
        at = f"/box/case/features/{key}"
        yield handle(at, layout.called(at), solid, layout, over, role="zone", face=layout.case.features[key].face)


def handle(
    at: str, name: str, solid: Solid, layout: BoxLayout, over: dict[str, list[str]], *, role: Role, **more: Any
) -> dict[str, Any]:
    """One thing as the screen has it."""
    told = {"place": at, "name": name, "role": role, "solid": list(solid), "rooms": [], "moves": "", **more}
    return {**told, "over": over.get(at), "with_lid": goes_with_lid(at, layout)}


def features(layout: BoxLayout) -> Iterator[dict[str, Any]]:
    """What the box has on its faces, each as a plate without depth where the wall is, mm of the box."""
    for key, f in layout.case.features.items():
        plate = layout.hollow.behind(f.face, f.x_mm, f.y_mm, f.width_mm, f.height_mm, 0.0)
        with_lid = goes_with_lid(f"/box/case/features/{key}", layout)
        yield {"kind": f.kind, "face": f.face, "solid": list(plate), "with_lid": with_lid}
