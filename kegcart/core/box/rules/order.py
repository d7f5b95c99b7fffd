"""What must be got at stays so, and what goes in before the pack."""

from collections.abc import Iterator

from kegcart.core.box.contents import Thing
from kegcart.core.box.layout import ALONG, BoxLayout, Fitted, Installed
from kegcart.core.box.moves import move_remedies
from kegcart.core.box.space import OWN, covers
from kegcart.core.box.taking_out import goes_with_lid, left_behind
from kegcart.core.catalogue import MEND, NOTE, judges
from kegcart.core.check import Check, at_least, is_so, mend, note
from kegcart.core.figure import Figure
from kegcart.core.finding import Later, Remedy, set_value
from kegcart.core.reference import assumption, constant

ROUNDING = 1e-9


def judge_order(layout: BoxLayout) -> Iterator[Check]:
    """Reach, and the order in which things go in."""
    for standing in layout.standing.values():
        if standing.thing.reached:
            yield reached_from_above(standing, layout)
    for thing in layout.things:
        if thing.reached == "outside" and thing not in layout.unplaced:
            yield reached_from_outside(thing, layout)
    pack = layout.standing.get("pack")
    if pack is None:
        return
    for fitted in layout.fitted:
        if fitted.deep > 0:
            yield from before_the_pack(fitted, pack, layout)
    for standing in layout.standing.values():
        if standing is not pack and pack.solid.lies_over(standing.solid):
            yield under_the_pack(standing)


@judges("box.access", "reach to what must be reached", MEND)
def reached_from_above(standing: Installed, layout: BoxLayout) -> Check:
    """Fuses, switches and the pack are not behind something else: with the lid or the door open a hand comes at them.

    Source: practice: what is replaced in a hurry is reached without taking anything out.
    """
    door, solid = layout.case.opens == "front", standing.solid
    shaft = solid.beside(OWN["front"], solid.y0) if door else solid.beside(OWN["top"], layout.hollow.height - solid.z1)
    others = (found for found in layout.solids(standing.thing.place) if not goes_with_lid(found[0], layout))
    axis = ALONG["front" if door else "lid"]
    seen = [(covers(other, shaft, axis), at) for at, other in others]
    covered, what = sum(area for area, _ in seen), max(seen, default=(0.0, ""))[1]
    return is_so(
        "box.access",
        standing.thing.place,
        covered <= constant("covered") * covers(shaft, shaft, axis) + ROUNDING,
        lambda: mend(
            f"{standing.thing.name} is {'behind' if door else 'under'} {layout.called(what)}: no hand comes at it with the box open.",
            "A fuse blows in the dark and in the rain; what hides it is taken out with live cables on it.",
            {},
            Later(lambda: move_remedies(standing, layout)),
        ),
    )


@judges("box.access")
def reached_from_outside(thing: Thing, layout: BoxLayout) -> Check:
    """What is to be reached from outside with one hand sits in a face.

    Source: practice: in a fault nobody opens the lid first.
    """
    value = {"at": "face", "face": "front", "x_mm": 80, "y_mm": 80}
    return is_so(
        "box.access",
        f"{thing.place}/at",
        thing.key not in layout.standing,
        lambda: mend(
            f"{thing.name} is to be reached from outside, and stands inside.",
            "Whoever must switch it off in a hurry has to open the box first.",
            {},
            (
                Remedy("Put it in the front", [set_value(thing.place, value)]),
                Remedy("It is reached with the lid open", [set_value(f"{thing.pointer}/reach", "inside")]),
            ),
        ),
    )


@judges("box.install-order", "what is fitted before the pack", NOTE)
def before_the_pack(fitted: Fitted, pack: Installed, layout: BoxLayout) -> Iterator[Check]:
    """A hand comes behind a fitting with the pack in; else it is fitted first.

    Source: 60 mm for a spanner and two fingers (assumptions table).
    """
    left = left_behind(fitted, pack.solid, layout)
    if left is None:
        return
    room = Figure.of("g", left, "mm", f"between {fitted.name} and the pack", how="measured in the layout")
    needed = assumption("hand_room")
    yield at_least(
        "box.install-order",
        fitted.at,
        room,
        needed,
        lambda: note(
            f"{fitted.name} goes in before the pack: {{g}} is left behind it, and a hand needs {{g_h}}.",
            "Its nut cannot be reached any more once the pack stands there.",
            {"g": room, "g_h": needed},
        ),
    )


@judges("box.install-order")
def under_the_pack(standing: Installed) -> Check:
    """What stands under the pack goes in before it.

    Source: geometry.
    """
    return is_so(
        "box.install-order",
        f"{standing.thing.place}/on",
        False,
        lambda: note(
            f"{standing.thing.name} stands under the pack: it goes in first, and comes out last.",
            "To change it the whole pack must be lifted out.",
            {},
        ),
    )
