"""Everything apart: solids from solids, and from the rooms for cables and air; fittings from latches and ribs; reached by a hand."""

from itertools import combinations, permutations, product
from math import ceil, floor
from typing import Any

from kegcart.core.box.arranging.model import HAIR, Arranging, Plan, Sitting, Standing
from kegcart.core.box.arranging.things import reach, surfaces
from kegcart.core.box.contents import Thing
from kegcart.core.box.document import SIDES, Face
from kegcart.core.box.layout import BoxLayout
from kegcart.core.box.moves import airs
from kegcart.core.box.space import Solid
from kegcart.core.reference import constant


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
    rooms += airs(a.layout)
    for s in a.standing.values():
        for surface, so in s.on.items():
            for slot, high in enumerate(s.heights[surface]):
                for solid, free, at in [*fixed, *((room, 0, "") for room in rooms if slot == 0)]:
                    if as_high(high, (solid.z0, solid.z1)) and at != f"/box/fixtures/{surface.removeprefix('fixture:')}":
                        low, top = s.levels[slot]
                        more = [low >= ceil(solid.z1 - HAIR), top <= floor(solid.z0 + HAIR)] if surface in SIDES else []
                        a.clear(s.plans[slot], plan_of(solid), [so], 0 if slot else free, more)
    for t in a.sitting.values():
        for solid, free, at in [*fixed, *((room, 0, "") for room in rooms)]:
            free = free if a.layout.at(at) else 0  # what sits in faces may touch
            # What stands in on its own face it is clear of by its outline.
            others = [so for face, so in t.taken.items() if not of_face(at, face, a.layout)]
            for so in [None] if len(others) == len(t.taken) else others:
                a.clear(
                    t.plan,
                    plan_of(solid),
                    [so] if so is not None else [],
                    free,
                    over_or_under(t, solid.z0 - free, solid.z1 + free),
                )


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
            if slot or not hangs_over(t, s.thing, a):
                free = 0 if slot else gap_mm()
                a.clear(s.plans[slot], t.plan, (), free, [t.up >= top + free, t.up + t.high + free <= low])
            else:
                nothing_over(a, s.plans[0], s.levels[0], t, gap_mm())


def hangs_over(t: Sitting, thing: Thing, a: Arranging) -> bool:
    """Whether something in a face is large enough to hide what a hand must reach."""
    return bool(thing.reached) and t.wide * t.deep >= a.covers * thing.size[0] * thing.size[1]


def nothing_over(a: Arranging, own: Plan, level: tuple[Any, Any], t: Sitting, free: int) -> None:
    """Something in a face does not hang over what a hand must reach, nor before it behind a door, and is so far from it."""
    (low, top), its = level, t.plan
    below = t.up + t.high + free <= low
    if not a.door:
        a.clear(own, its, (), free, [below])
        return
    beside = [own[1] + free <= its[0], its[1] + free <= own[0], own[3] + free <= its[2]]
    a.either([*beside, t.up >= top + free, below])


def reached(a: Arranging) -> None:
    """What a hand must reach has nothing over it; behind a door, nothing before it. Nothing is over a pack that goes in last."""
    for s in a.standing.values():
        if must_be_free(s.thing, a):
            own, (low, _) = s.plans[0], s.levels[0]
            for key, solid in a.layout.fixtures.items():
                under = [so for surface, so in s.on.items() if surface != f"fixture:{key}"]
                for so in under if from_above(s.thing, a) else ():
                    a.clear(own, plan_of(solid), [so], 0, [low >= ceil(solid.z1 - HAIR)])
            not_hidden(a, s.thing, own, s.levels[0])
    for pinned in a.layout.standing.values():
        if must_be_free(pinned.thing, a):
            plan, level = plan_of(pinned.solid), (ceil(pinned.solid.z0 - HAIR), floor(pinned.solid.z1 + HAIR))
            not_hidden(a, pinned.thing, plan, level)
            for t in a.sitting.values():
                if hangs_over(t, pinned.thing, a):
                    nothing_over(a, plan, level, t, 0)


def last(thing: Thing, a: Arranging) -> bool:
    """Whether it is a pack that goes in last."""
    return a.layout.box.pack_last and thing.key == "pack"


def must_be_free(thing: Thing, a: Arranging) -> bool:
    """Whether it is to be reached, or taken out before all else."""
    return bool(thing.reached) or last(thing, a)


def from_above(thing: Thing, a: Arranging) -> bool:
    """Whether what is over it is in the way."""
    return not a.door or last(thing, a)


def not_hidden(a: Arranging, thing: Thing, own: Plan, level: tuple[Any, Any]) -> None:
    """Nothing else that is arranged stands over a thing, nor before it behind a door, that is large enough to hide it."""
    low, top = level
    for other in a.standing.values():
        if other.thing is thing or not (last(thing, a) or hides(other.thing, thing, a.covers)):
            continue
        plan, (its_low, its_top) = other.plans[0], other.levels[0]
        if from_above(thing, a):
            a.clear(own, plan, (), 0, [its_top <= top])
        if a.door and thing.reached:
            a.either([own[1] <= plan[0], plan[1] <= own[0], own[3] <= plan[2], its_low >= top, its_top <= low])


def hides(one: Thing, other: Thing, covers: float) -> bool:
    """Whether one thing is large enough to hide another, however both lie."""
    mine, its = sorted(one.size), sorted(other.size)
    return mine[1] * mine[2] >= covers * its[1] * its[2]
