"""Where else something could be: the nearest clear place, another face, another way up, a larger box. Each is a remedy with its patch."""

from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import replace
from itertools import product
from math import ceil, prod
from typing import Any

from kegcart.core.box.contents import Thing
from kegcart.core.box.document import SIDES, Case, Face, Fitting, Fixture, Inside, OnFace, OwnFace
from kegcart.core.box.layout import (
    BoxLayout,
    Fitted,
    Installed,
    air_behind,
    blocked,
    covering,
    fit_fitting,
    fit_thing,
    hollow_of,
    lay_out,
    stand,
    supports,
)
from kegcart.core.box.space import Shape, Solid, between, gap
from kegcart.core.box.weight import GRAVITY
from kegcart.core.document import Decisions
from kegcart.core.finding import Remedy, set_value
from kegcart.core.reference import constant
from kegcart.core.reference.boxes import CaseType, case_types, holds
from kegcart.core.units import write_quantity

ROUNDING = 1e-9
EDGE = 1.0
"""A fitting is moved this far clear of what it ran into, mm."""
WAYS_UP: tuple[OwnFace, ...] = ("top", "front", "back", "left", "right")


def in_the_way(standing: Installed, layout: BoxLayout, smaller: bool = True) -> tuple[float, str]:
    """How far the nearest solid thing is from a part, mm, and where that stands in the design; what it stands on or is fixed to is none.

    Nearest by what must be free to it, see `clearance`. smaller: parts that are smaller count too; without, each pair is judged once, at
    the one that is moved more easily.
    """
    own = standing.thing.bulk, standing.thing.key
    on = f"/box/fixtures/{standing.place.on.removeprefix('fixture:')}" if standing.place.on.startswith("fixture:") else ""
    found = (float("inf"), "")
    for at, solid in layout.solids(standing.thing.place):
        if not smaller and (other := layout.at(at)) is not None and (other.bulk, other.key) < own:
            continue
        apart = gap(standing.solid, solid) - clearance(at, layout)
        if at != on and apart < found[0]:
            found = (apart, at)
    return found[0] + (clearance(found[1], layout) if found[1] else 0.0), found[1]


def clearance(at: str, layout: BoxLayout) -> float:
    """What must be free between a part and another thing, mm: 3 mm to a rigid part, nothing to what belongs to the box and does not
    move in it."""
    return constant("part_gap") if at.startswith("/box/places/") else 0.0


def is_clear(standing: Installed, layout: BoxLayout) -> bool:
    """Whether a part is within the walls and under the lid, on what it stands on, apart from all others, with its rooms and theirs free."""
    apart, at = in_the_way(standing, layout)
    return (
        layout.hollow.beyond_walls(standing.solid) <= ROUNDING
        and standing.top <= layout.hollow.height + ROUNDING
        and apart >= (clearance(at, layout) if at else 0.0) - ROUNDING
        and supports(standing, layout)
        and all(blocked(room, standing, layout)[0] <= ROUNDING for room in standing.rooms)
        and leaves_rooms(standing.solid, standing.thing.place, layout)
    )


def leaves_rooms(solid: Solid, at: str, layout: BoxLayout) -> bool:
    """Whether something solid leaves the rooms free that other parts need for their cables and their air, and openings uncovered.

    at: its place in the design.
    """
    others = (other for other in layout.standing.values() if other.thing.place != at)
    if any(gap(solid, room.solid) < -ROUNDING for other in others for room in other.rooms):
        return False
    before = (f for f in layout.fitted if f.at != at and (air := air_behind(f, layout.hollow)) and gap(solid, air) < -ROUNDING)
    return all(covering(f, layout, (at, solid))[0] <= constant("covered") for f in before)


def airs(layout: BoxLayout) -> list[Solid]:
    """The spaces behind vents, fans and reliefs that their air needs."""
    return [air for fitted in layout.fitted if (air := air_behind(fitted, layout.hollow))]


def shifts(standing: Installed, layout: BoxLayout) -> Iterator[tuple[float, float]]:
    """Moves along one axis after which a part just touches a wall or clears another thing, or its own rooms do, nearest first."""
    solid, hollow = standing.solid, layout.hollow
    lean, out = hollow.lean(solid.z0), [0.0] * 4  # how far its rooms stand out: left, right, front, back
    for room in standing.rooms:
        r = room.solid
        sides = (solid.x0 - r.x0, r.x1 - solid.x1, solid.y0 - r.y0, r.y1 - solid.y1)
        out = [max(have, side) for have, side in zip(out, sides, strict=True)]
    along_x, along_y = {lean - solid.x0, hollow.length - lean - solid.x1}, {lean - solid.y0, hollow.width - lean - solid.y1}
    along_x |= {lean - solid.x0 + out[0], hollow.length - lean - solid.x1 - out[1]}
    along_y |= {lean - solid.y0 + out[2], hollow.width - lean - solid.y1 - out[3]}
    for at, other in layout.solids(standing.thing.place):
        free = clearance(at, layout)
        for left, right in ((free, free), (max(free, out[0]), max(free, out[1]))):
            along_x |= {other.x0 - right - solid.x1, other.x1 + left - solid.x0}
        for front, back in ((free, free), (max(free, out[2]), max(free, out[3]))):
            along_y |= {other.y0 - back - solid.y1, other.y1 + front - solid.y0}
    for air in airs(layout):
        along_x |= {air.x0 - solid.x1, air.x1 - solid.x0}
        along_y |= {air.y0 - solid.y1, air.y1 - solid.y0}
    moves = [(dx, 0.0) for dx in along_x] + [(0.0, dy) for dy in along_y]
    yield from sorted(moves, key=lambda m: abs(m[0]) + abs(m[1]))


def clear_places(standing: Installed, layout: BoxLayout) -> Iterator[tuple[str, Inside]]:
    """The nearest clear place of a part as it lies, or turned: what to call the move, and the place."""
    for more in (0, 90):
        turn = (standing.place.turn + more) % 360
        place = standing.place.model_copy(update={"turn": turn})
        start = stand(standing.thing, place, layout.hollow, layout.fixtures)
        for dx, dy in shifts(start, layout):
            there = place.model_copy(update={"x_mm": round(place.x_mm + dx, 1), "y_mm": round(place.y_mm + dy, 1)})
            if is_clear(stand(standing.thing, there, layout.hollow, layout.fixtures), layout):
                said = [*(["turn it by 90°"] if more else []), *([f"move it {way(dx, dy)}"] if dx or dy else [])]
                yield capital(" and ".join(said)), there
                break


def capital(words: str) -> str:
    """Words as they begin a sentence."""
    return words[:1].upper() + words[1:]


def way(dx: float, dy: float) -> str:
    """A move in words: `14 mm to the left`."""
    mm, where = (dx, "to the right" if dx > 0 else "to the left") if dx else (dy, "to the back" if dy > 0 else "to the front")
    return f"{write_quantity(abs(mm), 'mm')} {where}"


def move_remedies(standing: Installed, layout: BoxLayout) -> tuple[Remedy, ...]:
    """Remedies for a part that runs into something, or has no room: another place near by, then a larger box."""
    at = standing.thing.place
    moves = [Remedy(label, [set_value(at, there.model_dump(mode="json"))]) for label, there in clear_places(standing, layout)]
    return (*moves, *larger_case(layout), *laid_out_anew(layout))


def lower_remedies(standing: Installed, layout: BoxLayout) -> tuple[Remedy, ...]:
    """Remedies for a part that is too high: laid on a side where it may be, then a higher box."""
    allowed = standing.thing.type.ups if standing.thing.type else ("top",)
    out = []
    for up in allowed or WAYS_UP:
        place = standing.place.model_copy(update={"up": up})
        laid = stand(standing.thing, place, layout.hollow, layout.fixtures)
        if laid.top < standing.top and (clear := next(clear_or_moved(laid, layout), None)):
            out.append(Remedy("Lay it flat", [set_value(standing.thing.place, clear.model_dump(mode="json"))]))
            break
    if standing.place.on.startswith("fixture:"):
        down = standing.place.model_copy(update={"on": "floor"})
        lower = stand(standing.thing, down, layout.hollow, layout.fixtures)
        if clear := next(clear_or_moved(lower, layout), None):
            out.append(Remedy("Stand it on the floor", [set_value(standing.thing.place, clear.model_dump(mode="json"))]))
    return (*out, *larger_case(layout), *laid_out_anew(layout))


def clear_or_moved(standing: Installed, layout: BoxLayout) -> Iterator[Inside]:
    """A place as it is where it is clear, else the nearest that is."""
    if is_clear(standing, layout):
        yield standing.place
    else:
        yield from (place for _, place in clear_places(standing, layout))


def face_is_clear(fitted: Fitted, layout: BoxLayout) -> bool:
    """Whether something in a face is within it, apart from all that is on it, with the depth and the air that it needs."""
    if on_face(fitted, layout)[0] < -ROUNDING or covering(fitted, layout)[0] > constant("covered"):
        return False
    apart = constant("part_gap") - ROUNDING
    return fitted.deep <= 0 or (
        depth_behind(fitted, layout)[0] >= fitted.deep - ROUNDING
        and leaves_rooms(fitted.solid, fitted.at, layout)
        and all(gap(fitted.solid, other.solid) >= apart for other in layout.standing.values())
    )


def on_face(fitted: Fitted, layout: BoxLayout) -> tuple[float, str]:
    """How far the nearest latch, rib, edge or other fitting is from something in a face, mm, and where that stands in the design."""
    found = (within_face(fitted.outline, fitted.face, layout), "")
    for key, feature in layout.case.features.items():
        if feature.face == fitted.face:
            found = min(found, (between(fitted.outline, layout.features[key]), f"/box/case/features/{key}"))
    for other in layout.fitted:
        if other.face == fitted.face and other.key != fitted.key:
            found = min(found, (between(fitted.outline, other.outline), other.at))
    return found


def within_face(shape: Shape, face: str, layout: BoxLayout) -> float:
    """How far an outline is within the edges of a face, mm; sides that lean are narrower below."""
    width, height = layout.hollow.extent(face)
    low = shape.y - shape.height / 2
    lean = layout.hollow.taper if face == "floor" else 0.0 if face == "lid" else layout.hollow.lean(low)
    bottom = lean if face == "floor" else 0.0
    return min(
        shape.x - shape.width / 2 - lean,
        width - lean - shape.x - shape.width / 2,
        low - bottom,
        height - bottom - shape.y - shape.height / 2,
    )


def depth_behind(fitted: Fitted, layout: BoxLayout) -> tuple[float, str]:
    """The free depth in mm behind something in a face, and where what ends it stands in the design; ribs and bosses of the same face
    count there: see `on_face`."""
    o = fitted.outline
    under = {
        f"/box/case/features/{key}"
        for key, feature in layout.case.features.items()
        if feature.face == fitted.face and between(o, layout.features[key]) < 0
    }
    others = [(at, solid) for at, solid in layout.solids(fitted.at) if at not in under]
    return layout.hollow.free_behind(fitted.face, o.x, o.y, o.width, o.height, others)


def face_remedies(fitted: Fitted, layout: BoxLayout) -> tuple[Remedy, ...]:
    """Remedies for something that is in the way on its face, or has no depth there: moved along it, or on another face."""
    out = []
    if moved := nearest_on_face(fitted, layout):
        dx, dy = moved.outline.x - fitted.outline.x, moved.outline.y - fitted.outline.y
        mm, where = (dx, "right" if dx > 0 else "left") if dx else (dy, "up" if dy > 0 else "down")
        side = f"to the {where}" if dx else where
        out.append(Remedy(f"Move it {write_quantity(abs(mm), 'mm')} {side}", placed(moved)))
    for face in SIDES:
        if face != fitted.face and (there := first_on_face(fitted, face, layout)):
            out.append(Remedy(f"Put it in the face {'on the ' if face in ('left', 'right') else 'at the '}{face}", placed(there)))
            break
    return (*out, *larger_case(layout), *laid_out_anew(layout))


def placed(fitted: Fitted) -> list[dict[str, object]]:
    """The operations that put something where it is on its face."""
    values = {"face": fitted.face, "x_mm": round(fitted.outline.x, 1), "y_mm": round(fitted.outline.y, 1)}
    return [set_value(f"{fitted.at}/{name}", value) for name, value in values.items()]


def at_point(fitted: Fitted, face: Face, x: float, y: float, layout: BoxLayout) -> Fitted:
    """The same thing somewhere else."""
    if fitted.thing is not None:
        turn = 90 if fitted.thing.size[0] != fitted.outline.width else 0
        return fit_thing(fitted.thing, OnFace(at="face", face=face, x_mm=x, y_mm=y, turn=turn), layout.hollow)
    o = fitted.outline
    solid = layout.hollow.behind(face, x, y, o.width, o.height, fitted.deep)
    return replace(fitted, face=face, outline=Shape(x, y, o.width, o.height, o.round), solid=solid)


def nearest_on_face(fitted: Fitted, layout: BoxLayout) -> Fitted | None:
    """The nearest clear place along one direction of its face; None where there is none."""
    o = fitted.outline
    width, height = layout.hollow.extent(fitted.face)
    others = [layout.features[k] for k, f in layout.case.features.items() if f.face == fitted.face]
    others += [f.outline for f in layout.fitted if f.face == fitted.face and f.key != fitted.key]
    xs, ys = {o.width / 2 + EDGE, width - o.width / 2 - EDGE}, {o.height / 2 + EDGE, height - o.height / 2 - EDGE}
    for other in others:
        xs |= {other.x + s * ((other.width + o.width) / 2 + EDGE) for s in (-1, 1)}
        ys |= {other.y + s * ((other.height + o.height) / 2 + EDGE) for s in (-1, 1)}
    for at, solid in layout.solids(fitted.at):
        if at.startswith("/box/places/"):
            xs |= beside_on_face(fitted, solid.x0, solid.x1, solid.y0, solid.y1, layout)
            ys |= {solid.z0 - o.height / 2 - EDGE, solid.z1 + o.height / 2 + EDGE}
    points = [(x, o.y) for x in xs if 0 < x < width] + [(o.x, y) for y in ys if 0 < y < height]
    for x, y in sorted(points, key=lambda p: abs(p[0] - o.x) + abs(p[1] - o.y)):
        there = at_point(fitted, fitted.face, round(x, 1), round(y, 1), layout)
        if face_is_clear(there, layout):
            return there
    return None


def beside_on_face(fitted: Fitted, x0: float, x1: float, y0: float, y1: float, layout: BoxLayout) -> set[float]:
    """The places along a face, seen from outside, at which a fitting is just beside something behind it."""
    hollow, half = layout.hollow, fitted.outline.width / 2 + EDGE
    match fitted.face:
        case "front" | "lid":
            low, high = x0, x1
        case "back" | "floor":
            low, high = hollow.length - x1, hollow.length - x0
        case "left":
            low, high = hollow.width - y1, hollow.width - y0
        case _:
            low, high = y0, y1
    return {low - half, high + half}


STEP = 10.0


def first_on_face(fitted: Fitted, face: Face, layout: BoxLayout, up: float = 0.5) -> Fitted | None:
    """A clear place on a face, nearest to its middle, or to a share `up` of its height; None where there is none. Looked for in steps of
    10 mm."""
    width, height = layout.hollow.extent(face)
    o = fitted.outline
    xs = [o.width / 2 + EDGE + STEP * n for n in range(int(max(0.0, width - o.width) // STEP))]
    ys = [o.height / 2 + EDGE + STEP * n for n in range(int(max(0.0, height - o.height) // STEP))]
    for x, y in sorted(((x, y) for x in xs for y in ys), key=lambda p: abs(p[0] - width / 2) + abs(p[1] - height * up)):
        there = at_point(fitted, face, x, y, layout)
        if face_is_clear(there, layout):
            return there
    return None


def inside_of(row: CaseType) -> tuple[float, float, float]:
    """Length, width and height of a box of the list, inside, mm."""
    return row.document["length_mm"], row.document["width_mm"], row.document["height_mm"]


def other_case(layout: BoxLayout, suits: Callable[[CaseType], bool]) -> tuple[Remedy, ...]:
    """The smallest box of the list, by volume, that suits and is nowhere smaller than this one, with everything where it stands; it is
    tried where nothing else mends a finding."""
    here = layout.hollow.length, layout.hollow.width, layout.hollow.height
    able = [r for r in case_types().values() if all(a >= b for a, b in zip(inside_of(r), here, strict=True)) and suits(r)]
    best = min(able, key=lambda r: prod(inside_of(r)), default=None)
    if best is None:
        return ()
    return (Remedy(f"Take another box: {best.label}", [set_value("/box/case", best.document)], last_resort=True),)


def larger_case(layout: BoxLayout) -> tuple[Remedy, ...]:
    """The next larger box of the list."""
    here = layout.hollow.length, layout.hollow.width, layout.hollow.height
    return other_case(layout, lambda row: inside_of(row) != here)


def clear_places_for(thing: Thing, layout: BoxLayout) -> Iterator[Inside | OnFace]:
    """The first clear place for something that has none: in the front or another face, or on the floor and then on each shelf, the
    lowest of those nearest to the left and the front."""
    if thing.faced:
        for face in SIDES:
            there = first_on_face(fit_thing(thing, OnFace(at="face", face=face), layout.hollow), face, layout)
            if there is not None:
                yield OnFace(at="face", face=face, x_mm=round(there.outline.x, 1), y_mm=round(there.outline.y, 1))
        return
    ups = ([up for up in WAYS_UP if up in thing.type.ups] or list(WAYS_UP)) if thing.type else ["top"]
    for on in ("floor", *(f"fixture:{key}" for key in layout.fixtures)):
        for up in ups:
            for turn in (0, 90, 180, 270):
                place = Inside(at="inside", on=on, up=up, turn=turn, held=usual_hold(thing))
                yield from corners_free(stand(thing, place, layout.hollow, layout.fixtures), layout)


def corners_free(standing: Installed, layout: BoxLayout) -> Iterator[Inside]:
    """The first clear place of a part as it lies, in the corners that walls and other things make."""
    solid, hollow = standing.solid, layout.hollow
    wide, deep, _ = (solid[n + 3] - solid[n] for n in range(3))
    lean, before = hollow.lean(solid.z0), {"x": 0.0, "y": 0.0}
    for room in standing.rooms:
        before["x"] = max(before["x"], solid.x0 - room.solid.x0)
        before["y"] = max(before["y"], solid.y0 - room.solid.y0)
    xs, ys = {lean, lean + before["x"]}, {lean, lean + before["y"]}
    for at, other in layout.solids(standing.thing.place):
        free = clearance(at, layout)
        xs |= {other.x1 + free, other.x1 + max(free, before["x"])}
        ys |= {other.y1 + free, other.y1 + max(free, before["y"])}
    xs |= {air.x1 for air in airs(layout)}
    ys |= {air.y1 for air in airs(layout)}
    fits = ((x, y) for y in sorted(ys) if y + deep <= hollow.width - lean for x in sorted(xs) if x + wide <= hollow.length - lean)
    for x, y in fits:
        there = standing.place.model_copy(update={"x_mm": round(x + ROUNDING, 1), "y_mm": round(y + ROUNDING, 1)})
        found = stand(standing.thing, there, hollow, layout.fixtures)
        if is_clear(found, layout):
            yield there
            return


def fittings_in(case: Case, layout: BoxLayout) -> dict[str, Fitting]:
    """What is cut into the faces of this box besides parts, in another one: at the same share of each face, or as near to that as it is
    clear; without what has no room there."""
    found: dict[str, Fitting] = {}
    empty = layout.box.model_copy(update={"case": case, "places": {}, "fixtures": {}, "fittings": found})
    for key, fitting in layout.box.fittings.items():
        bare = lay_out(empty, case, [])
        (was_wide, was_high), (wide, high) = layout.hollow.extent(fitting.face), bare.hollow.extent(fitting.face)
        x, y = round(fitting.x_mm * wide / was_wide, 1), round(fitting.y_mm * high / was_high, 1)
        there: Fitted | None = fit_fitting(key, fitting.model_copy(update={"x_mm": x, "y_mm": y}), bare.hollow)
        if there is not None and not face_is_clear(there, bare):
            there = first_on_face(there, fitting.face, bare, up=y / high)
        if there is not None:
            at = {"x_mm": round(there.outline.x, 1), "y_mm": round(there.outline.y, 1)}
            found[key] = fitting.model_copy(update=at)
    return found


FILLED = 0.75
"""No box is filled by more than this share: cables, corners and air take the rest."""


def laid_out_anew(layout: BoxLayout) -> list[Remedy]:
    """Everything laid out anew, where it fits: in this box, with the pack in other rows, in the smallest box of the list that holds it all.

    What is pinned stays in this box. Shelves and blocks stay in it too; another box has none, and the same vents and fans.
    """
    if layout.anew is None:
        layout.anew = next(([remedy] for remedy in ways_anew(layout)), [])
    return layout.anew


def ways_anew(layout: BoxLayout) -> Iterator[Remedy]:
    """See `laid_out_anew`: each way that there is, those without a shelf over the pack first."""
    pack = next((t for t in layout.things if t.key == "pack"), None)
    rows = [None, *(n for n, _ in pack.in_rows)] if pack else [None]
    cases = (None, *sorted(case_types().values(), key=lambda row: prod(inside_of(row))))
    for shelf, case, n in product((False, True), cases, rows):
        patch = anew_in(layout, case, n, shelf)
        if patch is not None:
            where = f"Lay it out in another box: {case.label}" if case else "Lay it all out anew"
            built = f", pack in {n} row{'s' if n > 1 else ''}" if n else ""
            yield Remedy(f"{where}{built}{', with a shelf' if shelf else ''}", patch, last_resort=True)


SHELF_MM, OVER_POSTS = 9.0, 10.0
"""Thickness of a shelf, and how far it is over the lugs of the pack, mm."""


def shelf_over_pack(case: Case, things: list[Thing]) -> dict[str, Fixture]:
    """A shelf as long and as deep as the box, just over the pack; none where the lid is no higher."""
    pack, hollow = next(t for t in things if t.key == "pack"), hollow_of(case)
    z = pack.size[2] + pack.post_room + OVER_POSTS
    if z + SHELF_MM >= hollow.height:
        return {}
    lean = hollow.lean(z)
    size = {"width_mm": hollow.length - 2 * lean, "depth_mm": hollow.width - 2 * lean, "height_mm": SHELF_MM}
    return {"shelf": Fixture(name="Shelf", x_mm=lean, y_mm=lean, z_mm=z, **size)}


def may_hold(case: Case, things: list[Thing]) -> bool:
    """Whether a box may hold some things at all: each by its size, all by their volume, what stands on the floor by its area."""
    hollow = hollow_of(case)
    inside = sorted((hollow.length, hollow.width, hollow.height))
    standing = [t for t in things if not t.faced]
    if any(a > b for t in standing for a, b in zip(sorted(t.size), inside, strict=True)):
        return False
    upright = [t for t in standing if t.type is None and t.size[2] + t.post_room > hollow.height]
    return not upright and sum(t.bulk for t in things) <= FILLED * prod(inside)


def anew_in(layout: BoxLayout, case: CaseType | None, rows: int | None, shelf: bool) -> list[dict[str, Any]] | None:
    """The operations that lay everything out anew, in this box or another one; None where something finds no place."""
    box, patch = layout.box, list[dict[str, Any]]()
    things = [t for t in layout.things if t not in layout.outside]
    if rows is not None:
        patch.append(set_value("/pack/rows", rows))
        things = [replace(t, size=dict(t.in_rows)[rows]) if t.key == "pack" else t for t in things]
    stays = {key: place for key, place in box.places.items() if place.pinned and case is None}
    own = layout.case if case is None else Case.model_validate(case.document)
    if not may_hold(own, things):
        return None
    fixtures = shelf_over_pack(own, things) if shelf else {} if case else box.fixtures
    if shelf and not fixtures:
        return None
    fittings = fittings_in(own, layout) if case else box.fittings
    empty = {"places": stays, "fixtures": fixtures, "fittings": fittings}
    bare = lay_out(box.model_copy(update={**empty, "case": own}), own, things)
    found, left = place_things(bare, [t.key for t in bare.unplaced], all_or_none=True)
    if left:
        return None
    if case is not None:
        patch += [set_value("/box/case", case.document), written("fittings", fittings)]
    if case is not None or shelf:
        # Nothing may stand on what is taken away.
        patch += [set_value("/box/places", {}), written("fixtures", fixtures)]
    return [*patch, written("places", {**stays, **found})]


def written(name: str, decisions: Mapping[str, Decisions]) -> dict[str, Any]:
    """The operation that sets all places, shelves or fittings of the box."""
    return set_value(f"/box/{name}", {key: one.model_dump(mode="json") for key, one in decisions.items()})


HEAVY_MM3 = 2e6
"""What is larger is held by brackets."""


def usual_hold(thing: Thing, kg: float = 0.0) -> list[str]:
    """How such a part is usually held: the pack by straps, what is large by brackets, the rest by its own feet; as many as its mass asks.

    Source: 3 g forward (assumptions table); what each hold stands (holds table).
    """
    kind = "strap" if thing.type is None else "bracket" if thing.bulk > HEAVY_MM3 else "screw"
    return [kind] * max(2, ceil(constant("hold_g") * GRAVITY * kg / holds()[kind].force_n))


def place_things(
    layout: BoxLayout, keys: Collection[str], all_or_none: bool = False
) -> tuple[dict[str, Inside | OnFace], list[str]]:
    """Clear places for those of some things that have none, the largest first; and the names of those for which there is none."""
    box, found, left = layout.box, dict[str, Inside | OnFace](), list[str]()
    for thing in sorted((t for t in layout.things if t.key in keys), key=lambda t: (t.faced, -t.bulk)):
        there = next(clear_places_for(thing, layout), None)
        if there is None:
            left.append(thing.name)
            if all_or_none:
                break
            continue
        found[thing.key] = there
        box = box.model_copy(update={"places": {**box.places, thing.key: there}})
        layout = lay_out(box, layout.case, layout.things)
    return found, left
