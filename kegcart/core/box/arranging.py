"""Everything stood in a box at once, by constraints over whole millimetres (CP-SAT): what the exact geometry then judges.

Every thing has options: on the floor or a shelf it lies one of some ways up and turned, in a face it sits upright; one option is
chosen, and where it is. Held are: within walls that lean and under the lid, apart from all others, room for cables and air, clear of
latches and ribs, reached from above (or in front), the centre of mass. Then cables are made short, the thick ones most.
The same answer for the same question: one worker, a fixed seed, time counted in work.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import combinations, permutations, product
from math import ceil, floor, radians, tan
from random import Random
from threading import Event, Thread
from types import MappingProxyType
from typing import Any

from kegcart.core.box.contents import Thing
from kegcart.core.box.document import SIDES, Face, Inside, OnFace, OwnFace, Place
from kegcart.core.box.layout import BoxLayout, outline_of, stand
from kegcart.core.box.moves import WAYS_UP
from kegcart.core.box.runs import Link, terminals
from kegcart.core.box.space import OWN, Solid, turned_way
from kegcart.core.reference import constant

SEED = 7
NEAR_M = 0.25
"""A run that is to be no longer than so much is to be short: to a main fuse, from a bar to a branch fuse."""
TIGHT, FIRST, BETTER, ROUGH, AGAIN = 0.4, 1.0, 1.2, 0.25, 0.1
"""Work until everything stands with all short runs short, until everything stands, to make its cables shorter after that, of that at first with everything free, and in each round: the solver's deterministic seconds, some
six of a processor each."""
TOGETHER = 4
"""So many things are stood anew in a round."""
LEAST_WORK = 0.01
"""What a round counts at least, so that it comes to an end."""
MOST_COST = 10**9
TICK_S = 0.1
GRAMS = 100
"""Masses count by so many to the kilogram."""
OVER = 400
"""What a millimetre counts by which a run is longer than it may be, against one of cable of the mean section."""
HAIR = 1e-6
COVERS = 0.25
"""What is as large as this share of something in plan, or larger, hides it."""

NOWHERE: Mapping[str, Place] = MappingProxyType({})
Told = Callable[[float], bool]
"""Called with how far it is, 0 to 1; it ends with the best it has where that returns False."""


@dataclass(slots=True)
class Progress:
    """How far it is, told and asked for by turns."""

    told: Told
    done: float = 0.0

    def tell(self, done: float) -> bool:
        """That it is so far. Returns False where it is to end."""
        self.done = max(self.done, done)
        return self.told(self.done)

    def goes_on(self) -> bool:
        """Whether it is to go on."""
        return self.told(self.done)


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


ON_SIDE_MM3 = 6e5
"""What is larger is not fixed to a side of the box."""


ON_SIDES = ("protection", "busbar", "shunt")
"""Kinds of body that are fixed to a side where that brings them near a post."""


def sides_for(a: Arranging, thing: Thing) -> list[Face]:
    """The sides that a thing may be fixed to: of what is small and of its kind, all but the door."""
    if thing.type is None or thing.bulk > ON_SIDE_MM3 or thing.type.key.split(":")[0] not in ON_SIDES:
        return []
    return [side for side in SIDES if side != "front" or not a.door]


def options_of(thing: Thing, layout: BoxLayout, sides: Sequence[Face] = (), anyhow: bool = False) -> list[Option]:
    """The ways in which a thing may stand inside, alike ones once: upright where it can, or anyhow; what is heavy on the floor where it
    can; what may be fixed to a side also that."""
    allowed = thing.type.ups if thing.type else ("top",)
    found: list[Option] = []
    for up in [up for up in WAYS_UP if up in allowed] or WAYS_UP:
        if anyhow or not any(option.on == "floor" for option in found):
            found += lying(thing, up, surfaces(layout), layout)
    on_floor = [option for option in found if option.on == "floor"]
    if thing.type is None:
        return on_floor or found
    ups = [up for up in WAYS_UP if up in allowed] or WAYS_UP
    return [*found, *(option for up in ups for option in lying(thing, up, sides, layout))]


def lying(thing: Thing, up: OwnFace, on: Iterable[str], layout: BoxLayout) -> Iterator[Option]:
    """The ways in which a thing may stand with a face of it up, on each surface or side."""
    seen, hollow = set(), layout.hollow
    for where, turn in product(on, (0, 90, 180, 270)):
        feet = "back" if "bottom" in thing.posts else "bottom"
        if where in SIDES and turned_way(OWN[feet], up, turn) != OWN[where]:
            continue  # what is fixed to a side has its feet there
        place = Inside(at="inside", on=where, up=up, turn=turn)
        found = stand(thing, place, hollow, layout.fixtures)
        solids = (found.solid, *(room.solid for room in found.rooms))
        if where in SIDES:
            high = stand(thing, place.model_copy(update={"z_mm": hollow.height}), hollow, layout.fixtures)
            raised = (high.solid, *(room.solid for room in high.rooms))
            solids = tuple(covered(low, up) for low, up in zip(solids, raised, strict=True))
        else:
            base = layout.fixtures.get(where.removeprefix("fixture:"))
            low = any(solid.z0 < found.solid.z0 - HAIR for solid in solids)
            if low or found.top > hollow.height + HAIR or (base and not fits_on(found.solid, base)):
                continue
        alike = (where, solids[0], frozenset(solids[1:]))
        if alike not in seen:
            seen.add(alike)
            yield Option(where, up, turn, solids, tuple(terminals(found)))


def covered(low: Solid, high: Solid) -> Solid:
    """What is covered in plan by the same thing low and high on a side that leans; its height as it is below."""
    return Solid(min(low.x0, high.x0), min(low.y0, high.y0), low.z0, max(low.x1, high.x1), max(low.y1, high.y1), low.z1)


def surfaces(layout: BoxLayout) -> list[str]:
    """What things may stand on: the floor, and each shelf or block."""
    return ["floor", *(f"fixture:{key}" for key in layout.fixtures)]


def fits_on(solid: Solid, base: Solid) -> bool:
    """Whether something is no longer and no deeper than what it stands on."""
    return solid.x1 - solid.x0 <= base.x1 - base.x0 + HAIR and solid.y1 - solid.y0 <= base.y1 - base.y0 + HAIR


def reach(option: Option, slot: int) -> tuple[int, int, int, int, int, int]:
    """How far a solid or room of an option reaches from the corner of its thing, from and to along x, y and z, whole mm outward."""
    solid, corner = option.solids[slot], option.corner
    low, high = ([v - c for v, c in zip(ends, corner, strict=True)] for ends in (solid[:3], solid[3:]))
    x0, y0, z0 = (floor(v + HAIR) for v in low)
    x1, y1, z1 = (ceil(v - HAIR) for v in high)
    return x0, x1, y0, y1, z0, z1


def add_standing(a: Arranging, thing: Thing) -> bool:
    """Enter a thing inside, within the walls; whether there is any way for it to stand."""
    options = options_of(thing, a.layout, sides_for(a, thing), a.anyhow)
    if not options:
        return False
    length, width, height = a.size
    x, y, z = a.within(0, length), a.within(0, width), a.within(0, height)
    taken = [a.whether() for _ in options]
    a.model.add_exactly_one(taken)
    slots = range(len(options[0].solids))
    for option, so in zip(options, taken, strict=True):
        side = option.on in SIDES
        for slot in slots:
            lean = 0 if side else ceil(a.layout.hollow.lean(option.solids[slot].z0) - HAIR)
            x0, x1, y0, y1, z0, z1 = reach(option, slot)
            # What is fixed to a side touches that; along it, it stands clear of the corners where they lean in the most.
            lean_x, lean_y = (ceil(a.layout.hollow.taper - HAIR) if side and option.on in away else lean for away in AWAY)
            for low, high, at, extent, free in ((x0, x1, x, length, lean_x), (y0, y1, y, width, lean_y)):
                a.model.add(at + low >= free).only_enforce_if(so)
                a.model.add(at + high <= extent - free).only_enforce_if(so)
            if side:
                a.model.add(z + z0 >= 0).only_enforce_if(so)
                a.model.add(z + z1 <= height).only_enforce_if(so)
        if side:
            at, corner = (x, option.corner[0]) if option.on in ("left", "right") else (y, option.corner[1])
            a.model.add(at == floor(corner + HAIR)).only_enforce_if(so)
        else:
            a.model.add(z == floor(option.corner[2] + HAIR)).only_enforce_if(so)
        if option.on.startswith("fixture:"):
            base, (_, wide, _, deep, _, _) = a.layout.fixtures[option.on.removeprefix("fixture:")], reach(option, 0)
            for at, extent, begins, ends in ((x, wide, base.x0, base.x1), (y, deep, base.y0, base.y1)):
                a.model.add(at >= ceil(begins - HAIR)).only_enforce_if(so)
                a.model.add(at + extent <= floor(ends + HAIR)).only_enforce_if(so)
    on, heights = dict[str, Any](), dict[str, list[Height]]()
    for surface in (*surfaces(a.layout), *SIDES):
        here = [n for n, option in enumerate(options) if option.on == surface]
        if here:
            on[surface] = a.whether()
            a.model.add(sum(taken[n] for n in here) == on[surface])
            known = [[options[n].solids[slot] for n in here] for slot in slots]
            whole = [(min(s.z0 for s in of), max(s.z1 for s in of)) for of in known]
            heights[surface] = [(0.0, float(height))] * len(slots) if surface in SIDES else whole
    plans, levels = [], []
    for slot in slots:
        far = [reach(option, slot) for option in options]
        x0, x1, y0, y1, z0, z1 = (sum(r[n] * so for r, so in zip(far, taken, strict=True)) for n in range(6))
        plans.append((x + x0, x + x1, y + y0, y + y1))
        levels.append((z + z0, z + z1))
    a.standing[thing.key] = Standing(thing, options, taken, x, y, z, on, plans, levels, heights)
    return True


AWAY = (("front", "back"), ("left", "right"))
"""The sides along which x, and y, is free for what is fixed to them."""


def faces_of(a: Arranging) -> list[Face]:
    """The faces in which things may sit: not the one that stands to a wall, nor a door, which would tug at its cables."""
    if a.anyhow:
        return [face for face in SIDES if face != "front" or not a.door]
    return ["left", "right", "back"] if a.door else ["front", "left", "right"]


FLANGE = 8
"""A fitting is so far from the edges of its face where there is room, mm."""


def add_sitting(a: Arranging, thing: Thing) -> bool:
    """Enter a thing that sits in a face; whether there is a face for it."""
    shape, plug = outline_of(thing), thing.type.plug_mm if thing.type else 0.0
    wide, high = ceil(shape.width - HAIR), ceil(shape.height - HAIR)
    deep, hand = (ceil(thing.size[1] + more - HAIR) for more in (plug + thing.post_room, constant("hand_room")))
    # Nothing sits in the side of the lid: its cables would be bent each time that it is opened.
    edge, top = 1 if a.anyhow else FLANGE, floor(a.layout.hollow.height - a.layout.case.lid_mm + HAIR)
    taken, along = dict[Face, Any](), dict[Face, Any]()
    for face in faces_of(a):
        across = floor(a.layout.hollow.extent(face)[0] + HAIR)
        if across - wide >= 2 * edge and top - high >= 2 * edge:
            taken[face], along[face] = a.whether(), a.within(edge, across - wide - edge)
    if not taken:
        return False
    length, width, height = a.size
    up, most = a.within(edge, top - high - edge), ceil(a.layout.hollow.taper - HAIR)
    a.model.add_exactly_one(taken.values())
    # How far the side stands in at its lower edge, rounded up.
    lean = a.within(0, most)
    a.model.add(height * lean >= most * (height - up))
    for face, so in taken.items():
        across = floor(a.layout.hollow.extent(face)[0] + HAIR)
        a.model.add(along[face] >= lean + edge).only_enforce_if(so)
        a.model.add(along[face] + wide <= across - lean - edge).only_enforce_if(so)
    plans: list[Plan] = []
    for depth in (deep, max(deep, hand)):
        far = depth + most
        x0, x1, y0, y1 = (a.within(-far, side + far) for side in (length, length, width, width))
        plans.append((x0, x1, y0, y1))
        for face, so in taken.items():
            for here, there in zip(plans[-1], behind_face(face, along[face], wide, lean + depth, a), strict=True):
                a.model.add(here == there).only_enforce_if(so)
    a.sitting[thing.key] = Sitting(thing, taken, along, up, wide, high, deep, *plans)
    return True


def behind_face(face: Face, at: Any, wide: int, deep: Any, a: Arranging) -> Plan:
    """Where something in a face is in the plan of the box, so wide and so deep from where the side stands at the rim."""
    length, width, _ = a.size
    match face:
        case "front":
            return at, at + wide, 0, deep
        case "back":
            return length - at - wide, length - at, width - deep, width
        case "left":
            return 0, deep, width - at - wide, width - at
        case _:
            return length - deep, length, at, at + wide


def as_high(a: tuple[float, float], b: tuple[float, float]) -> bool:
    """Whether two stretches of height share some."""
    return min(a[1], b[1]) - max(a[0], b[0]) > HAIR


def plan_of(solid: Solid) -> tuple[int, int, int, int]:
    """A solid in the plan of the box, whole mm."""
    return floor(solid.x0 + HAIR), ceil(solid.x1 - HAIR), floor(solid.y0 + HAIR), ceil(solid.y1 - HAIR)


def gap_mm() -> int:
    """What is free between rigid parts, whole mm."""
    return ceil(constant("part_gap") - HAIR)


def apart_inside(a: Arranging) -> None:
    """What stands inside is apart: on one surface all at once, from one to another where they are as high; and leaves rooms free."""
    for surface in surfaces(a.layout):
        along_x, along_y = [], []
        for s in a.standing.values():
            for option, so in zip(s.options, s.taken, strict=True):
                if option.on == surface:
                    _, wide, _, deep, _, _ = reach(option, 0)
                    along_x.append(a.model.new_optional_fixed_size_interval_var(s.x, wide + gap_mm(), so, ""))
                    along_y.append(a.model.new_optional_fixed_size_interval_var(s.y, deep + gap_mm(), so, ""))
        a.model.add_no_overlap_2d(along_x, along_y)
    for one, other in permutations(a.standing.values(), 2):
        for slot in range(len(one.plans)):
            if slot > 0 or one.thing.key < other.thing.key:
                free = 0 if slot else gap_mm()
                over = over_one_another(one, slot, other, free)
                alike = slot == 0 and len(one.on) == len(other.on) == 1 and one.on.keys() == other.on.keys()
                if over is not None and not (alike and not over):  # on the same surface they are apart already
                    a.clear(one.plans[slot], other.plans[0], (), free, over)


def over_one_another(one: Standing, slot: int, other: Standing, free: int) -> list[Any] | None:
    """That a solid or room of one thing is over or under the solid of another; None where it always is, empty where it never can be."""
    pairs = [as_high(mine[slot], its[0]) for mine, its in product(one.heights.values(), other.heights.values())]
    if not any(pairs):
        return None
    if all(pairs) and not any(where in SIDES for where in (*one.on, *other.on)):
        return []
    (low, top), (its_low, its_top) = one.levels[slot], other.levels[0]
    return [low >= its_top + free, its_low >= top + free]


def apart_from_what_stays(a: Arranging) -> None:
    """Clear of what stays where it is: shelves, ribs, what is pinned, with its rooms; and it with theirs."""
    fixed = [(solid, gap_mm() if at.startswith("/box/places/") else 0, at) for at, solid in a.layout.solids()]
    rooms = [room.solid for s in a.layout.standing.values() for room in s.rooms]
    for s in a.standing.values():
        for surface, so in s.on.items():
            for slot, high in enumerate(s.heights[surface]):
                for solid, free, at in [*fixed, *((room, 0, "") for room in rooms if slot == 0)]:
                    if as_high(high, (solid.z0, solid.z1)) and at != f"/box/fixtures/{surface.removeprefix('fixture:')}":
                        low, top = s.levels[slot]
                        more = [low >= ceil(solid.z1 - HAIR), top <= floor(solid.z0 + HAIR)] if surface in SIDES else []
                        a.clear(s.plans[slot], plan_of(solid), [so], 0 if slot else free, more)
    for t in a.sitting.values():
        for solid, _, at in [*fixed, *((room, 0, "") for room in rooms)]:
            # What stands in on its own face it is clear of by its outline.
            others = [so for face, so in t.taken.items() if not of_face(at, face, a.layout)]
            for so in [None] if len(others) == len(t.taken) else others:
                a.clear(t.plan, plan_of(solid), [so] if so is not None else [], 0, over_or_under(t, solid.z0, solid.z1))


def of_face(at: str, face: Face, layout: BoxLayout) -> bool:
    """Whether something fixed belongs to a face."""
    key = at.removeprefix("/box/case/features/")
    return key != at and layout.case.features[key].face == face


def over_or_under(t: Sitting, z0: float, z1: float) -> list[Any]:
    """That something in a face is over a stretch of height, or under it."""
    return [t.up >= ceil(z1 - HAIR), t.up + t.high <= floor(z0 + HAIR)]


def apart_in_faces(a: Arranging) -> None:
    """What sits in faces is clear of latches and ribs, of one another, and of what stands inside with its rooms."""
    for face in SIDES:
        here = [t for t in a.sitting.values() if face in t.taken]
        intervals = [
            (
                a.model.new_optional_fixed_size_interval_var(t.along[face], t.wide, t.taken[face], ""),
                a.model.new_optional_fixed_size_interval_var(t.up, t.high, t.taken[face], ""),
            )
            for t in here
        ]
        a.model.add_no_overlap_2d([x for x, _ in intervals], [y for _, y in intervals])
        shapes = [a.layout.features[key] for key, f in a.layout.case.features.items() if f.face == face]
        for shape in [*shapes, *(f.outline for f in a.layout.fitted if f.face == face)]:
            x0, x1 = floor(shape.x - shape.width / 2 + HAIR), ceil(shape.x + shape.width / 2 - HAIR)
            z0, z1 = floor(shape.y - shape.height / 2 + HAIR), ceil(shape.y + shape.height / 2 - HAIR)
            for t in here:
                beside = [t.along[face] >= x1, t.along[face] + t.wide <= x0]
                a.either([*beside, t.up >= z1, t.up + t.high <= z0], [t.taken[face]])
    for one, other in combinations(a.sitting.values(), 2):
        a.clear(one.plan, other.plan, more=[one.up >= other.up + other.high, other.up >= one.up + one.high])
    for t, s in product(a.sitting.values(), a.standing.values()):
        for slot, (low, top) in enumerate(s.levels):
            free = 0 if slot else gap_mm()
            over, below = t.up >= top + free, t.up + t.high + free <= low
            hides = slot == 0 and bool(s.thing.reached) and t.wide * t.deep >= a.covers * s.thing.size[0] * s.thing.size[1]
            own, its = s.plans[slot], t.plan
            if hides and a.door:
                beside = [own[1] + free <= its[0], its[1] + free <= own[0], own[3] + free <= its[2]]
                a.either([*beside, over, below])
            else:
                # Nothing large in a face hangs over what a hand must reach.
                a.clear(own, its, (), free, [below] if hides else [over, below])


def reached(a: Arranging) -> None:
    """What a hand must reach has nothing over it; behind a door, nothing before it. Nothing is over a pack that goes in last."""
    for s in a.standing.values():
        last = a.layout.box.pack_last and s.thing.key == "pack"
        if not s.thing.reached and not last:
            continue
        own, (low, top) = s.plans[0], s.levels[0]
        above = not a.door or last
        for key, solid in a.layout.fixtures.items():
            under = [so for surface, so in s.on.items() if surface != f"fixture:{key}"]
            for so in under if above else ():
                a.clear(own, plan_of(solid), [so], 0, [low >= ceil(solid.z1 - HAIR)])
        for other in a.standing.values():
            if other is s or not (last or hides(other.thing, s.thing, a.covers)):
                continue
            if above:
                a.clear(own, other.plans[0], (), 0, [other.levels[0][1] <= top])
            if a.door and s.thing.reached:
                plan, (its_low, its_top) = other.plans[0], other.levels[0]
                a.either([own[1] <= plan[0], plan[1] <= own[0], own[3] <= plan[2], its_low >= top, its_top <= low])


def hides(one: Thing, other: Thing, covers: float) -> bool:
    """Whether one thing is large enough to hide another, however both lie."""
    mine, its = sorted(one.size), sorted(other.size)
    return mine[1] * mine[2] >= covers * its[1] * its[2]


def balanced(a: Arranging) -> None:
    """The centre of mass is in the middle third of the length and in the lower half; on wheels it does not tip before its limit.

    Source: as the rules of weight; what stays where it is counts as it stands, box and cables at the middle.
    """
    hollow, layout = a.layout.hollow, a.layout
    grams = {key: round(GRAMS * kg) for key, kg in a.masses.items()}
    length, width, height = a.size
    own = grams.get("", 0)
    # Twice the moments, as the middles of things may lie between two millimetres.
    total, mx, my, mz = own, own * length, own * width, own * height
    for at, g in ((s.solid.middle, grams.get(key, 0)) for key, s in layout.standing.items()):
        total, mx, my, mz = total + g, mx + round(2 * g * at[0]), my + round(2 * g * at[1]), mz + round(2 * g * at[2])
    for fitted in layout.fitted:
        g, at = grams.get(fitted.key, 0), fitted.solid.middle
        total, mx, my, mz = total + g, mx + round(2 * g * at[0]), my + round(2 * g * at[1]), mz + round(2 * g * at[2])
    for key, s in a.standing.items():
        g = grams.get(key, 0)
        total += g
        mx += 2 * g * s.x + g * (s.plans[0][1] - s.x)
        my += 2 * g * s.y + g * (s.plans[0][3] - s.y)
        mz += g * (s.levels[0][0] + s.levels[0][1])
    for key, t in a.sitting.items():
        g = grams.get(key, 0)
        x0, x1, y0, y1 = t.plan
        total, mx, my, mz = total + g, mx + g * (x0 + x1), my + g * (y0 + y1), mz + 2 * g * t.up + g * t.high
    third = constant("balance_third")
    a.model.add(mx >= ceil(total * length * (1 - third) * 1.01))
    a.model.add(mx <= floor(total * length * (1 + third) * 0.99))
    a.model.add(mz <= floor(2 * constant("balance_height") * total * height * 0.99))
    if not a.rolling:
        return
    slope, lean = tan(radians(constant("tip_limit"))), hollow.taper
    edges = {"left": lean, "right": length - lean, "front": lean, "back": width - lean}
    for feature in layout.case.features.values():
        if feature.kind == "wheel" and feature.face in edges:
            inward = lean - feature.inside_mm / 2
            edges[feature.face] += -inward if feature.face in ("left", "front") else inward
    scale = 1000
    for side, moment in (("left", mx), ("front", my)):
        a.model.add(scale * moment >= round(scale * slope * 1.05) * mz + round(2 * scale * total * edges[side]))
    for side, moment in (("right", mx), ("back", my)):
        a.model.add(scale * moment <= round(2 * scale * total * edges[side]) - round(scale * slope * 1.05) * mz)


def ends_of(a: Arranging, key: str) -> tuple[Any, Any, Any] | None:
    """Where the cable at a thing ends, as the solver has it: x, y, z; None of what has no place."""
    length, width, height = a.size
    here = tuple(a.within(-100, side + 100) for side in (length, width, height))
    if key in a.standing:
        s = a.standing[key]
        for option, so in zip(s.options, s.taken, strict=True):
            ways = [a.whether() for _ in option.ends]
            a.model.add_bool_or([*ways, so.negated()])
            for way, end in zip(ways, option.ends, strict=True):
                a.model.add_implication(way, so)
                for n, base in enumerate(at - floor(c) for at, c in zip((s.x, s.y, s.z), option.corner, strict=True)):
                    a.model.add(here[n] >= base + floor(end[n])).only_enforce_if(way)
                    a.model.add(here[n] <= base + ceil(end[n + 3])).only_enforce_if(way)
        return here
    if key in a.sitting:
        t = a.sitting[key]
        x0, x1, y0, y1 = t.plan
        for twice, at in ((x0 + x1, here[0]), (y0 + y1, here[1]), (2 * t.up + t.high, here[2])):
            a.model.add(2 * at <= twice)
            a.model.add(2 * at >= twice - 1)
        return here
    stays = a.layout.standing.get(key) or next((f for f in a.layout.fitted if f.key == key), None)
    if stays is None:
        return None
    ways = []
    for end in terminals(stays):
        way = a.whether()
        ways.append(way)
        for n in range(3):
            a.model.add(here[n] >= floor(end[n])).only_enforce_if(way)
            a.model.add(here[n] <= ceil(end[n + 3])).only_enforce_if(way)
    a.model.add_bool_or(ways)
    return here


def weights(links: Sequence[Link]) -> list[int]:
    """What a millimetre of each cable counts: as its copper, against the mean."""
    mean = max(1.0, sum(link.area for link in links) / max(1, len(links)))
    return [max(1, round(10 * link.area / mean)) for link in links]


def most_mm(link: Link) -> float:
    """How far the terminals of a run may be apart that may be no longer than so much, mm; infinite where that does not matter."""
    return (1000 * link.most_m - 1000 * constant("route_ends")) / constant("route_more") - 3


def cables(a: Arranging) -> list[tuple[Link, Any]]:
    """What each cable counts, as the solver has it: its copper, and by how much some are longer than they may be."""
    costs = []
    for link, weight in zip(a.links, weights(a.links), strict=True):
        one, other = ends_of(a, link.one), ends_of(a, link.other)
        if one is None or other is None:
            continue
        way = 0
        for p, q in zip(one, other, strict=True):
            along = a.within(0, sum(a.size))
            a.model.add(along >= p - q)
            a.model.add(along >= q - p)
            way = way + along
        cost = weight * way
        if link.most_m < float("inf"):
            over = a.within(0, sum(a.size))
            a.model.add(over >= way - floor(most_mm(link)))
            if a.tight and link.most_m <= NEAR_M:
                a.model.add(over == 0)
            cost = cost + OVER * over
        paid = a.within(0, MOST_COST)
        a.model.add(paid == cost)
        costs.append((link, paid))
    return costs


IN_A_ROW, CRAMPED = 2, 500
"""What half a millimetre counts by which the middle of a fitting is off the row that most are in; what a fitting counts that no hand
reaches once the pack is in."""


def fittings(a: Arranging) -> Any:
    """What fittings count that are not in one row, as a panel that is tidy is read at a glance, and those that must go in before the
    pack."""
    row, off = a.within(0, 2 * a.size[2]), 0
    for t, s in product(a.sitting.values(), a.standing.values()):
        if s.thing.type is None:
            cramped = a.whether()
            low, top = s.levels[0]
            a.clear(t.hand, s.plans[0], (), 0, [t.up >= top, t.up + t.high <= low, cramped >= 1])
            off = off + CRAMPED * cramped
    for t in a.sitting.values():
        away = a.within(0, 2 * a.size[2])
        a.model.add(away >= 2 * t.up + t.high - row)
        a.model.add(away >= row - 2 * t.up - t.high)
        off = off + IN_A_ROW * away
    return off


def arrange(
    layout: BoxLayout,
    masses: Mapping[str, float],
    links: Sequence[Link],
    rolling: bool,
    told: Told = lambda done: True,
    covers: float = COVERS,
    near: Mapping[str, Place] = NOWHERE,
) -> dict[str, Inside | OnFace] | None:
    """Places for all that has none in a layout, with what is there left as it is; None where none were found.

    masses: kg by key, that of box and cables under the empty one. rolling: it stands on wheels. covers: see `Arranging`; several that are
    smaller may hide something together. near: where things stand as yet: it is begun from there. Where it is stopped it gives the best that it has. Errors: ImportError where the solver is not
    installed.
    """
    from ortools.sat.python import cp_model  # takes half a second and 60 MB: only when asked for

    progress = Progress(told)
    for anyhow, tight in ((False, True), (False, False), (True, False)):
        a = Arranging(layout, masses, links, rolling, covers, anyhow, tight, cp_model.CpModel(), cp_model)
        costs = entered(a)
        begin_from(a, near)
        solver = None if costs is None else solved(a, a.model, TIGHT if tight else FIRST, progress)[0]
        if solver is not None:
            found = values_of(a, solver)
            return read_places(a, shorter(a, costs, found, progress) if costs else found)
        if not progress.goes_on():
            break
    return None


def begin_from(a: Arranging, near: Mapping[str, Place]) -> None:
    """Begin the search where things stand as yet, as far as they stand in ways that there are."""
    for key, place in near.items():
        if key in a.standing and isinstance(place, Inside):
            s = a.standing[key]
            like = [
                n for n, o in enumerate(s.options) if (o.on, o.up) == (place.on, place.up) and (o.turn - place.turn) % 180 == 0
            ]
            exact = [n for n in like if s.options[n].turn == place.turn] or like
            for n, so in enumerate(s.taken if exact else ()):
                a.model.add_hint(so, n == exact[0])
            for var, at in ((s.x, place.x_mm), (s.y, place.y_mm), *([(s.z, place.z_mm)] if place.on in SIDES else [])):
                a.model.add_hint(var, round(at))
        elif key in a.sitting and isinstance(place, OnFace) and place.face in a.sitting[key].taken:
            t = a.sitting[key]
            for face, so in t.taken.items():
                a.model.add_hint(so, face == place.face)
            a.model.add_hint(t.along[place.face], round(place.x_mm - t.wide / 2))
            a.model.add_hint(t.up, round(place.y_mm - t.high / 2))


def entered(a: Arranging) -> list[tuple[Link, Any]] | None:
    """Enter everything that has no place, and what must hold; what each cable counts. None where there is no way for something."""
    for thing in a.layout.unplaced:
        if not (add_sitting(a, thing) if thing.faced else add_standing(a, thing)):
            return None
    apart_inside(a)
    apart_from_what_stays(a)
    apart_in_faces(a)
    reached(a)
    balanced(a)
    return cables(a)


def values_of(a: Arranging, solver: Any) -> list[int]:
    """What the solver found, by the index of each variable."""
    return [solver.value(a.model.get_int_var_from_proto_index(n)) for n in range(len(a.model.proto.variables))]


def shorter(a: Arranging, costs: list[tuple[Link, Any]], found: list[int], progress: Progress) -> list[int]:
    """The same with shorter cables: again and again the ends of one, rather of a dear one, and what hangs on them are stood anew, where that
    is better."""
    chance, keys = Random(SEED), sorted([*a.standing, *a.sitting])
    beside: dict[str, list[str]] = {key: [] for key in keys}
    for link, _ in costs:
        for one, other in ((link.one, link.other), (link.other, link.one)):
            if one in beside and other in beside:
                beside[one].append(other)
    paid = a.within(0, MOST_COST)
    a.model.add(paid == sum(cost for _, cost in costs) + fittings(a))
    least = MOST_COST
    rough = a.model.clone()
    rough.minimize(rough.get_int_var_from_proto_index(paid.index))
    for n, value in enumerate(found):
        rough.add_hint(rough.get_int_var_from_proto_index(n), value)
    solver, spent = solved(a, rough, ROUGH, progress)
    if solver:
        found, least = values_of(a, solver), solver.value(rough.get_int_var_from_proto_index(paid.index))
    while spent < BETTER and progress.tell(spent / BETTER):
        now = [1 + found[cost.index] for _, cost in costs if least < MOST_COST] or [1] * len(costs)
        link = chance.choices([link for link, _ in costs], now)[0]
        free = [key for key in (link.one, link.other) if key in beside]
        near = sorted({key for own in free for key in beside[own]} - {*free})
        free += chance.sample(near, min(len(near), max(0, TOGETHER - 1 - len(free))))
        others = [key for key in keys if key not in free]
        free += chance.sample(others, min(len(others), TOGETHER - len(free)))
        model = a.model.clone()
        for var in [var for key in keys if key not in free for var in decided(a, key)]:
            model.add(model.get_int_var_from_proto_index(var.index) == found[var.index])
        own = model.get_int_var_from_proto_index(paid.index)
        model.add(own < least)
        model.minimize(own)
        solver, work = solved(a, model, AGAIN, progress)
        if solver:
            found, least = values_of(a, solver), solver.value(own)
        spent += work
    return found


def decided(a: Arranging, key: str) -> list[Any]:
    """The variables that say where a thing is."""
    if key in a.standing:
        s = a.standing[key]
        return [*s.taken, s.x, s.y, s.z]
    t = a.sitting[key]
    return [*t.taken.values(), *t.along.values(), t.up]


def solved(a: Arranging, model: Any, work: float, progress: Progress) -> tuple[Any, float]:
    """The solver with what it found within so much work, None where it found nothing; and the work that it did. By the clock it is only
    asked whether to stop: what comes of it depends on the work alone."""
    solver = a.cp.CpSolver()
    of = solver.parameters
    of.num_workers, of.random_seed, of.max_deterministic_time = 1, SEED, work
    # Much of its preparation does not pay for so small a search.
    of.linearization_level, of.cp_model_probing_level, of.symmetry_level, of.max_presolve_iterations = 0, 0, 0, 1
    over = Event()

    def watch() -> None:
        while not over.wait(TICK_S):
            if not progress.goes_on():
                solver.stop_search()

    watcher = Thread(target=watch, daemon=True)
    watcher.start()
    try:
        status = solver.solve(model)
    finally:
        over.set()
        watcher.join()
    found = solver if status in (a.cp.OPTIMAL, a.cp.FEASIBLE) else None
    return found, max(solver.response_proto.deterministic_time, LEAST_WORK)


def read_places(a: Arranging, value: list[int]) -> dict[str, Inside | OnFace]:
    """The places that were found, as the design writes them."""
    found: dict[str, Inside | OnFace] = {}
    for key, s in a.standing.items():
        option = next(o for o, so in zip(s.options, s.taken, strict=True) if value[so.index])
        x, y, z = (value[at.index] for at in (s.x, s.y, s.z))
        found[key] = Inside(
            at="inside", on=option.on, x_mm=x, y_mm=y, z_mm=z if option.on in SIDES else 0, up=option.up, turn=option.turn
        )
    for key, t in a.sitting.items():
        face = next(f for f, so in t.taken.items() if value[so.index])
        shape = outline_of(t.thing)
        x, y = value[t.along[face].index] + shape.width / 2, value[t.up.index] + shape.height / 2
        found[key] = OnFace(at="face", face=face, x_mm=x, y_mm=y)
    return found
