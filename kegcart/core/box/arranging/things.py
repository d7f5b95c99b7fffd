"""Every thing entered into the model: the ways in which it may stand, be fixed to a side, or sit in a face, within the walls."""

from collections.abc import Iterable, Iterator, Sequence
from itertools import product
from math import ceil, floor
from typing import Any

from kegcart.core.box.arranging.model import HAIR, Arranging, Height, Option, Plan, Sitting, Standing
from kegcart.core.box.contents import Thing
from kegcart.core.box.document import SIDES, Face, Inside, OwnFace
from kegcart.core.box.layout import BoxLayout, outline_of, stand
from kegcart.core.box.moves import WAYS_UP
from kegcart.core.box.runs import terminals
from kegcart.core.box.space import OWN, Solid, turned_way
from kegcart.core.reference import constant

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
    solid, (x, y, z) = option.solids[slot], option.corner
    corner = (x, y, floor(z + HAIR))  # a shelf may be anywhere between two mm
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
    edge, top = 1 if a.anyhow else FLANGE, floor(a.layout.split + HAIR)
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
    """Where something in a face is in the plan of the box, so wide and so deep from where the side stands at the rim; whole mm outward, as
    what is measured from the right or the back may lie between two."""
    length, width, _ = a.size
    far_right, far_back = ceil(a.layout.hollow.length - HAIR), ceil(a.layout.hollow.width - HAIR)
    match face:
        case "front":
            return at, at + wide, 0, deep
        case "back":
            return length - at - wide, far_right - at, width - deep, far_back
        case "left":
            return 0, deep, width - at - wide, far_back - at
        case _:
            return length - deep, far_right, at, at + wide
