"""In what order things come out of the box: what stands over a part, or before it in a box with a door, comes out first."""

from kegcart.core.box.document import SIDES
from kegcart.core.box.layout import BoxLayout, Fitted
from kegcart.core.box.space import Solid, gap, overlap

ROUNDING = 1e-9


def goes_with_lid(at: str, layout: BoxLayout) -> bool:
    """Whether what is at a place of the design opens with the lid or the door: it is fixed to it, or sits in it, all of it above its
    lower edge."""
    face, low = _fixed_to(at, layout)
    if layout.case.opens == "front":
        return face == "front"
    return face == "lid" or (face in SIDES and layout.case.lid_mm > 0 and low >= layout.split - ROUNDING)


def _fixed_to(at: str, layout: BoxLayout) -> tuple[str, float]:
    """The face to which something is fixed, and the height over the floor of its lower edge, mm; no face for what stands on something."""
    *_, where, key = at.split("/")
    if where == "features":
        feature = layout.features[key]
        return layout.case.features[key].face, feature.y - feature.height / 2
    standing = layout.standing.get(key) if where == "places" else None
    if standing is not None:
        return standing.place.on, standing.solid.z0
    return next(((f.face, f.outline.y - f.outline.height / 2) for f in layout.fitted if f.at == at), ("", 0.0))


def left_behind(fitted: Fitted, other: Solid, layout: BoxLayout) -> float | None:
    """How much room is left between the back of something in a face and what stands behind it, mm; None where that is not behind it."""
    outline, hollow = fitted.outline, layout.hollow
    depth = hollow.depth(fitted.face)
    shaft = hollow.behind(fitted.face, outline.x, outline.y, outline.width, outline.height, depth)
    if gap(shaft, other) >= 0:
        return None
    body = fitted.thing.size[1] if fitted.thing else fitted.deep
    return max(0.0, hollow.before(fitted.face, other, outline.y - outline.height / 2) - body)


def stands_over(one: Solid, other: Solid, door: bool) -> bool:
    """Whether one must be gone before the other comes out: it lies over some of it, or before it where the box opens in front."""
    if not door:
        return one.lies_over(other)
    over = overlap(one.x0, one.x1, other.x0, other.x1) > 0 < overlap(one.z0, one.z1, other.z0, other.z1)
    return one.y1 <= other.y0 + ROUNDING and over


def loose(layout: BoxLayout) -> dict[str, Solid]:
    """All that can be taken out of the open box, by its place in the design: not what belongs to the box, nor what opens with its lid."""
    found = {at: solid for at, solid in layout.solids() if not at.startswith("/box/case/")}
    found |= {f.at: f.solid for f in layout.fitted}
    return {at: solid for at, solid in found.items() if not goes_with_lid(at, layout)}


def over_each(layout: BoxLayout) -> dict[str, list[str]]:
    """What stands straight over each thing that can be taken out, by their places."""
    door, out = layout.case.opens == "front", loose(layout)
    return {at: [a for a, one in out.items() if a != at and stands_over(one, solid, door)] for at, solid in out.items()}


def order_out(layout: BoxLayout) -> list[str]:
    """The places of all that can be taken out, in an order in which each comes out freely: the pack first where it is to be, then what
    stands nearest to the opening; what sits in a face, and shelves, as late as they may."""
    over, left, out = over_each(layout), loose(layout), list[str]()
    door = layout.case.opens == "front"

    def late(at: str) -> tuple[bool, bool, float]:
        standing = layout.at(at) is not None
        first = layout.box.pack_last and at == "/box/places/pack"
        return not first, not standing, left[at].y0 if door else -left[at].z1

    while left:
        # What lies over something lies higher than it, so that one of them is always free.
        free = [at for at in left if not any(a in left for a in over[at])]
        nearest = min(free, key=late)
        out.append(nearest)
        del left[nearest]
    return out
