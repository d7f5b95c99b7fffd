"""A second judge of layouts, written anew and slowly: what is broken in one, in words. It shares cuboids and outlines with the core, and
none of its rules."""

from itertools import combinations
from math import hypot

from kegcart.core.box.layout import BoxLayout, Fitted
from kegcart.core.box.space import Shape, Solid

HAIR = 1e-6


def corners(s: Solid) -> list[tuple[float, float, float]]:
    return [(x, y, z) for x in (s.x0, s.x1) for y in (s.y0, s.y1) for z in (s.z0, s.z1)]


def meets(a: Solid, b: Solid, free: float = 0.0) -> bool:
    """Whether two cuboids overlap, one of them grown by what must be free."""
    return all(a[n] - free < b[n + 3] - HAIR and b[n] < a[n + 3] + free - HAIR for n in range(3))


def outside(s: Solid, layout: BoxLayout) -> bool:
    """Whether a corner of a cuboid is outside the box, whose sides lean in by its taper over its height."""
    h = layout.hollow
    for x, y, z in corners(s):
        lean = h.taper * (1 - min(max(z, 0), h.height) / h.height)
        if not (lean - HAIR <= x <= h.length - lean + HAIR and lean - HAIR <= y <= h.width - lean + HAIR and z >= -HAIR):
            return True
    return False


def on_one_another(a: Shape, b: Shape) -> bool:
    """Whether two outlines on a face overlap; a circle against a rectangle by its nearest point."""
    if a.round and b.round:
        return hypot(a.x - b.x, a.y - b.y) < (a.width + b.width) / 2 - HAIR
    if a.round or b.round:
        c, r = (a, b) if a.round else (b, a)
        x = min(max(c.x, r.x - r.width / 2), r.x + r.width / 2)
        y = min(max(c.y, r.y - r.height / 2), r.y + r.height / 2)
        return hypot(c.x - x, c.y - y) < c.width / 2 - HAIR
    return abs(a.x - b.x) < (a.width + b.width) / 2 - HAIR and abs(a.y - b.y) < (a.height + b.height) / 2 - HAIR


def off_face(f: Fitted, layout: BoxLayout) -> bool:
    """Whether an outline stands over an edge of its face; sides are narrower below."""
    h, o = layout.hollow, f.outline
    across = {"front": h.length, "back": h.length, "left": h.width, "right": h.width}[f.face]
    low = o.y - o.height / 2
    lean = h.taper * (1 - low / h.height)
    over = o.x - o.width / 2 < lean - HAIR or o.x + o.width / 2 > across - lean + HAIR
    return over or low < -HAIR or o.y + o.height / 2 > h.height + HAIR


def broken(layout: BoxLayout, masses: dict[str, float], rolling: bool) -> list[str]:
    """What does not hold. masses: kg; that of box and cables, which count at its middle, under the empty key."""
    out = [f"{thing.name} has no place" for thing in layout.unplaced]
    standing, fitted = list(layout.standing.values()), layout.fitted
    case, h = layout.case, layout.hollow
    ribs = {key: f for key, f in case.features.items() if f.inside_mm > 0}
    for a, b in combinations(standing, 2):
        if meets(a.solid, b.solid, 3.0):
            out.append(f"{a.thing.name} meets {b.thing.name}")
    for s in standing:
        if outside(s.solid, layout):
            out.append(f"{s.thing.name} is outside")
        lugs = max([s.solid.z1, *(r.solid.z1 for r in s.rooms if r.what == "cables")])
        if lugs > h.height + HAIR:
            out.append(f"{s.thing.name} is over the lid")
        others = [(o.thing.name, o.solid) for o in standing if o is not s] + [(f.name, f.solid) for f in fitted if f.deep > 0]
        others += [(f"rib {key}", layout.fixed[key]) for key in ribs] + list(layout.fixtures.items())
        for room in s.rooms:
            if outside(room.solid, layout):
                out.append(f"{room.what} of {s.thing.name} is outside")
            out += [f"{name} is in the {room.what} of {s.thing.name}" for name, solid in others if meets(room.solid, solid)]
        for f in fitted:
            if f.deep > 0 and meets(s.solid, f.solid, 3.0):
                out.append(f"{s.thing.name} meets {f.name}")
        out += [f"{s.thing.name} meets rib {key}" for key in ribs if meets(s.solid, layout.fixed[key])]
        if s.thing.reached:
            area = (s.solid.x1 - s.solid.x0) * (s.solid.y1 - s.solid.y0)
            shaft = Solid(s.solid.x0, s.solid.y0, s.solid.z1, s.solid.x1, s.solid.y1, h.height)
            hidden = sum(
                (min(shaft.x1, o.x1) - max(shaft.x0, o.x0)) * (min(shaft.y1, o.y1) - max(shaft.y0, o.y0))
                for _, o in others
                if meets(shaft, o)
            )
            if hidden > area / 2 + HAIR:
                out.append(f"{s.thing.name} is hidden")
    for f in fitted:
        if off_face(f, layout):
            out.append(f"{f.name} is over the edge")
        shapes = [
            (key, Shape(x.x_mm, x.y_mm, x.width_mm, x.height_mm, False)) for key, x in case.features.items() if x.face == f.face
        ]
        shapes += [(o.name, o.outline) for o in fitted if o is not f and o.face == f.face]
        out += [f"{f.name} on {name}" for name, shape in shapes if on_one_another(f.outline, shape)]
        others = [(o.name, o.solid) for o in fitted if o is not f and o.deep > 0]
        out += [f"{f.name} meets {name} behind" for name, solid in others if meets(f.solid, solid)]
    solids = [(s.thing.name, s.solid) for s in standing] + [(f.name, f.solid) for f in fitted if f.thing]
    for vent in (f for f in fitted if f.fitting and f.fitting.kind in ("vent", "fan", "relief")):
        o = vent.outline
        air = layout.hollow.behind(vent.face, o.x, o.y, o.width, o.height, vent.deep + o.width / 4)
        out += [f"{name} covers {vent.name}" for name, solid in solids if meets(air, solid)]
    if not out:
        out += unbalanced(layout, masses)
    return out


def unbalanced(layout: BoxLayout, masses: dict[str, float]) -> list[str]:
    """Whether the centre of mass is off the middle third, or high."""
    h = layout.hollow
    placed = [(masses[s.thing.key], s.solid) for s in layout.standing.values()]
    placed += [(masses[f.key], f.solid) for f in layout.fitted if f.thing]
    own = masses[""]
    total = own + sum(kg for kg, _ in placed)
    x = (own * h.length / 2 + sum(kg * (s.x0 + s.x1) / 2 for kg, s in placed)) / total
    z = (own * h.height / 2 + sum(kg * (s.z0 + s.z1) / 2 for kg, s in placed)) / total
    out = [] if h.length / 3 <= x <= 2 * h.length / 3 else [f"the centre of mass is at {x:.0f} of {h.length:.0f} mm"]
    return out if z <= h.height / 2 else [*out, f"the centre of mass is {z:.0f} of {h.height:.0f} mm high"]
