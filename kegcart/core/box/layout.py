"""Where everything is: each thing in its place inside or in a face, as cuboids and outlines. Decisions -> geometry, in mm."""

from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass, field

from kegcart.core.box.contents import Size, Thing
from kegcart.core.box.document import Case, Enclosure, Face, Feature, Fitting, Fixture, Inside, OnFace, Sealing
from kegcart.core.box.space import OWN, Hollow, Shape, Solid, covers, gap, overlap, turned_size, turned_way
from kegcart.core.check import Check
from kegcart.core.finding import Remedy
from kegcart.core.reference import constant
from kegcart.core.units import Units


@dataclass(frozen=True, slots=True)
class Room:
    """Space that a part needs free beside it: for lugs and bends of its cables, or for its air; `face` is its own face."""

    what: str
    face: str
    solid: Solid


@dataclass(frozen=True, slots=True, eq=False)
class Installed:
    """A thing in its place inside: the cuboid that it fills, and the rooms that it needs."""

    thing: Thing
    place: Inside
    solid: Solid
    rooms: tuple[Room, ...]

    @property
    def top(self) -> float:
        """How high it is with lugs and cables, mm over the floor."""
        return max([self.solid.z1, *(room.solid.z1 for room in self.rooms if room.what == "cables")])


@dataclass(frozen=True, slots=True, eq=False)
class Fitted:
    """What sits in a face: its outline there, and the cuboid that it fills behind it. thing: None for a fitting of the box itself.

    deep: how far it stands into the box with plug, lug and bend, mm.
    """

    key: str
    name: str
    at: str
    face: Face
    outline: Shape
    holes: tuple[Shape, ...]
    deep: float
    solid: Solid
    sealing: Sealing
    thing: Thing | None = None
    fitting: Fitting | None = None


@dataclass(slots=True, eq=False)
class BoxLayout:
    """A box with everything in its place.

    fixtures: what parts stand on besides the floor. fixed: what of the box itself stands into it. unplaced: of the design, and without
    a place. outside: chargers that are not carried in it.
    """

    box: Enclosure
    case: Case
    hollow: Hollow
    things: list[Thing]
    standing: dict[str, Installed]
    fitted: list[Fitted]
    fixtures: dict[str, Solid]
    fixed: dict[str, Solid]
    features: dict[str, Shape]
    unplaced: list[Thing]
    outside: list[Thing]
    judged: dict[Units, list[Check]] = field(default_factory=dict)
    """what was judged of it alone, by the units in which that is said"""
    anew: list[Remedy] | None = None
    """how all of it is laid out anew, once that was searched for"""
    _solids: list[tuple[str, Solid]] = field(default_factory=list)

    @property
    def split(self) -> float:
        """How high over the floor the lid parts from the box, mm."""
        return max(0.0, self.hollow.height - self.case.lid_mm)

    def solids(self, but: str = "") -> list[tuple[str, Solid]]:
        """Everything solid inside but one thing, by its place in the design. but: the place of that."""
        if not self._solids:
            self._solids += [(s.thing.place, s.solid) for s in self.standing.values()]
            self._solids += [(f.at, f.solid) for f in self.fitted if f.deep > 0]
            self._solids += [(f"/box/fixtures/{key}", solid) for key, solid in self.fixtures.items()]
            self._solids += [(f"/box/case/features/{key}", solid) for key, solid in self.fixed.items()]
        return [found for found in self._solids if found[0] != but]

    def at(self, place: str) -> Thing | None:
        """The thing that stands inside at a place of the design; None for what sits in a face, or belongs to the box."""
        standing = self.standing.get(place.removeprefix("/box/places/"))
        return standing.thing if standing else None

    def called(self, at: str) -> str:
        """What is at a place of the design, as a sentence says it; a side of the box where that is empty."""
        *_, where, key = at.split("/") if at else ("", "")
        if where == "fixtures":
            return self.box.fixtures[key].name
        if where == "features":
            return f"a {self.case.features[key].kind} of the box"
        named = (f.name for f in self.fitted if f.at == at)
        return next(named, "") or next((t.name for t in self.things if t.place == at), "a side of the box")


def hollow_of(case: Case) -> Hollow:
    """The inside of a box, mm: as measured, or its outside less the walls."""
    off = 2 * case.wall_mm if case.measured == "outside" else 0.0
    length, width, height = (max(1.0, mm - off) for mm in (case.length_mm, case.width_mm, case.height_mm))
    return Hollow(length, width, height, min(case.taper_mm, length / 3, width / 3))


def outline_of(thing: Thing) -> Shape:
    """The outline of a part that sits in a face, about its middle: round where it is one round cut-out without screws."""
    row = thing.type
    alone = row is not None and len(row.holes) == 1 and row.holes[0].round and not row.screws and thing.ways == 1
    return Shape(0.0, 0.0, thing.size[0], thing.size[2], alone and thing.size[0] == thing.size[2])


def holes_of(thing: Thing) -> Iterator[Shape]:
    """What is cut and drilled for a part, about its middle; one after the other where several stand side by side."""
    row = thing.type
    if row is None:
        return
    pitch = thing.size[0] / thing.ways
    for n in range(thing.ways):
        middle = (n - (thing.ways - 1) / 2) * pitch
        for hole in (*row.holes, *row.screws):
            yield Shape(middle + hole.x, hole.y, hole.width, hole.height, hole.round)


def turned(shape: Shape, turn: int) -> Shape:
    """A shape on a face, a quarter turned or not."""
    return Shape(-shape.y, shape.x, shape.height, shape.width, shape.round) if turn else shape


def moved(shape: Shape, x: float, y: float) -> Shape:
    """A shape moved."""
    return Shape(shape.x + x, shape.y + y, shape.width, shape.height, shape.round)


def support_of(place: Inside, hollow: Hollow, fixtures: dict[str, Solid], size: Size) -> Solid:
    """The cuboid of a part of an extent in its place: on the floor, on a shelf or block, or fixed to a face."""
    x, y, z = place.x_mm, place.y_mm, place.z_mm
    if place.on.startswith("fixture:"):
        return Solid.at(x, y, fixtures[place.on.removeprefix("fixture:")].z1, size)
    match place.on:
        case "floor":
            z = 0.0
        case "front":
            y = hollow.lean(z)
        case "back":
            y = hollow.width - hollow.lean(z) - size[1]
        case "left":
            x = hollow.lean(z)
        case "right":
            x = hollow.length - hollow.lean(z) - size[0]
        case _:
            z = hollow.height - size[2]
    return Solid.at(x, y, z, size)


def stand(thing: Thing, place: Inside, hollow: Hollow, fixtures: dict[str, Solid]) -> Installed:
    """A thing in a place inside, with the rooms that it needs: cables before its terminals, air before what breathes."""
    solid = support_of(place, hollow, fixtures, turned_size(thing.size, place.up, place.turn))
    rooms = []
    if thing.post_room > 0:
        rooms += [Room("cables", f, beside(solid, f, place, thing.post_room, hollow)) for f in thing.posts]
    if thing.type is not None:
        rooms += [Room("air", f, beside(solid, f, place, constant("air_gap"), hollow)) for f in thing.type.breathes]
    return Installed(thing, place, solid, tuple(rooms))


def beside(solid: Solid, face: str, place: Inside, depth: float, hollow: Hollow) -> Solid:
    """The space before one of a part's own faces, as it lies; under a part that is fixed to a side, that begins where the side stands in."""
    way = turned_way(OWN[face], place.up, place.turn)
    found = solid.beside(way, depth)
    if way != OWN["bottom"]:
        return found
    lean = hollow.lean(found.z0)
    match place.on:
        case "left":
            return found._replace(x0=max(found.x0, lean))
        case "right":
            return found._replace(x1=min(found.x1, hollow.length - lean))
        case "front":
            return found._replace(y0=max(found.y0, lean))
        case "back":
            return found._replace(y1=min(found.y1, hollow.width - lean))
    return found


def fit_thing(thing: Thing, place: OnFace, hollow: Hollow) -> Fitted:
    """A part in a cut-out of a face."""
    outline = turned(outline_of(thing), place.turn)
    plug = thing.type.plug_mm if thing.type else 0.0
    deep = thing.size[1] + plug + thing.post_room
    x, y = place.x_mm, place.y_mm
    solid = hollow.behind(place.face, x, y, outline.width, outline.height, deep)
    holes = tuple(moved(turned(hole, place.turn), x, y) for hole in holes_of(thing))
    sealing = place.sealing or (thing.type.sealing if thing.type else "none")
    return Fitted(thing.key, thing.name, thing.place, place.face, moved(outline, x, y), holes, deep, solid, sealing, thing)


def fit_fitting(key: str, fitting: Fitting, hollow: Hollow) -> Fitted:
    """A vent, fan or gland in a face."""
    height = fitting.height_mm or fitting.width_mm
    shape = Shape(fitting.x_mm, fitting.y_mm, fitting.width_mm, height, fitting.height_mm is None)
    solid = hollow.behind(fitting.face, fitting.x_mm, fitting.y_mm, fitting.width_mm, height, fitting.inside_mm)
    at = f"/box/fittings/{key}"
    return Fitted(
        key, fitting.name, at, fitting.face, shape, (shape,), fitting.inside_mm, solid, fitting.sealing, fitting=fitting
    )


def solid_of_fixture(fixture: Fixture) -> Solid:
    """The cuboid of a shelf, divider or block."""
    return Solid.at(fixture.x_mm, fixture.y_mm, fixture.z_mm, (fixture.width_mm, fixture.depth_mm, fixture.height_mm))


def shape_of_feature(feature: Feature) -> Shape:
    """The outline of what the box has on a face."""
    return Shape(feature.x_mm, feature.y_mm, feature.width_mm, feature.height_mm, False)


KEPT = 8
"""So many layouts are kept: most changes of a design move nothing in its box."""
_kept: deque[BoxLayout] = deque(maxlen=KEPT)


def laid_out(box: Enclosure, case: Case, things: list[Thing]) -> BoxLayout:
    """Everything in its place in a box; where that was laid out lately, what is known of it already."""
    for layout in tuple(_kept):
        if (layout.box is box or layout.box == box) and layout.things == things:
            return layout
    layout = lay_out(box, case, things)
    _kept.append(layout)
    return layout


def lay_out(box: Enclosure, case: Case, things: list[Thing]) -> BoxLayout:
    """Everything in its place in a box."""
    hollow = hollow_of(case)
    fixtures = {key: solid_of_fixture(fixture) for key, fixture in box.fixtures.items()}
    standing: dict[str, Installed] = {}
    fitted: list[Fitted] = []
    unplaced: list[Thing] = []
    outside: list[Thing] = []
    for thing in things:
        place = box.places.get(thing.key)
        if place is None:
            (unplaced if thing.of_design else outside).append(thing)
        elif isinstance(place, Inside):
            standing[thing.key] = stand(thing, place, hollow, fixtures)
        else:
            fitted.append(fit_thing(thing, place, hollow))
    fitted += [fit_fitting(key, fitting, hollow) for key, fitting in box.fittings.items()]
    fixed = {
        key: hollow.behind(f.face, f.x_mm, f.y_mm, f.width_mm, f.height_mm, f.inside_mm)
        for key, f in case.features.items()
        if f.inside_mm > 0
    }
    features = {key: shape_of_feature(feature) for key, feature in case.features.items()}
    return BoxLayout(box, case, hollow, things, standing, fitted, fixtures, fixed, features, unplaced, outside)


def blocked(room: Room, standing: Installed, layout: BoxLayout) -> tuple[float, str]:
    """By how much something solid stands in a room that a part needs, mm, and what; a wall counts. Nothing does: 0."""
    worst = (max(0.0, layout.hollow.beyond_walls(room.solid)), "")
    for at, solid in layout.solids(standing.thing.place):
        worst = max(worst, (-gap(room.solid, solid), at))
    return worst if worst[0] > 1e-9 else (0.0, "")


BREATHES = ("vent", "fan", "relief")
"""Kinds of fitting through which air or gas goes."""
ALONG = {"left": 0, "right": 0, "front": 1, "back": 1, "floor": 2, "lid": 2}
"""The axis across a face."""


def round_the_edge(opening: Shape) -> float:
    """So far from an opening as much air goes round its edge as through it, mm.

    Source: area over circumference; a quarter of the diameter where it is round, or of the side where it is square.
    """
    return opening.width * opening.height / (2 * (opening.width + opening.height))


def air_behind(fitted: Fitted, hollow: Hollow) -> Solid | None:
    """The space behind a vent, a fan or a relief in which its air goes round its edge. None for what has none."""
    if fitted.fitting is None or fitted.fitting.kind not in BREATHES:
        return None
    o = fitted.outline
    return hollow.behind(fitted.face, o.x, o.y, o.width, o.height, fitted.deep + round_the_edge(o))


def covering(fitted: Fitted, layout: BoxLayout, moved: tuple[str, Solid] | None = None) -> tuple[float, str]:
    """By how much of its area the air behind a fitting is covered, 0 to 1 and above, and by what the most. moved: something that is
    somewhere else than in the layout, by its place in the design."""
    air, axis = air_behind(fitted, layout.hollow), ALONG[fitted.face]
    if air is None:
        return 0.0, ""
    solids = [*(found for found in layout.solids(fitted.at) if not moved or found[0] != moved[0]), *([moved] if moved else [])]
    areas = [(covers(other, air, axis), at) for at, other in solids]
    worst = max(areas, default=(0.0, ""))
    return sum(area for area, _ in areas) / covers(air, air, axis), worst[1] if worst[0] > 0 else ""


def supports(standing: Installed, layout: BoxLayout) -> bool:
    """Whether a part stands on what it is said to stand on: a shelf or block of which some is under it."""
    if not standing.place.on.startswith("fixture:"):
        return True
    fixture, solid = layout.fixtures[standing.place.on.removeprefix("fixture:")], standing.solid
    return overlap(solid.x0, solid.x1, fixture.x0, fixture.x1) > 0 and overlap(solid.y0, solid.y1, fixture.y0, fixture.y1) > 0
