"""Whether everything fits: walls and neighbours, the lid, what is on the faces, the depth behind them, the wall itself."""

from collections.abc import Iterator

from kegcart.core.box.layout import BoxLayout, Fitted, Installed, air_behind, blocked, covering, round_the_edge, supports
from kegcart.core.box.moves import (
    clearance,
    depth_behind,
    face_remedies,
    in_the_way,
    lower_remedies,
    move_remedies,
    on_face,
    other_case,
)
from kegcart.core.catalogue import MEND, STOP, judges
from kegcart.core.check import Check, Fault, at_least, at_most, held, is_so, mend, not_yet, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Later, Remedy, set_value
from kegcart.core.reference import assumption
from kegcart.core.units import write_quantity

STANDING_OWES, FITTED_OWES = ("box.fit", "box.lid"), ("box.latch",)
"""The checks that must be given to everything that stands inside, and to everything that sits in a face."""
LARGEST_GAP = 1000.0
"""Nothing nearer than this is no neighbour, mm."""


def judge_fit(layout: BoxLayout) -> Iterator[Check]:
    """Every part in its place, inside and in the faces."""
    for thing in layout.unplaced:
        yield not_yet("box.fit", thing.place, "where it stands")
    for standing in layout.standing.values():
        yield clear(standing, layout)
        yield from rooms(standing, layout)
        yield under_lid(standing, layout)
        if not supports(standing, layout):
            yield on_its_fixture(standing, layout)
    for fitted in layout.fitted:
        yield clear_on_face(fitted, layout)
        if fitted.deep > 0:
            yield deep_enough(fitted, layout)
        if air_behind(fitted, layout.hollow):
            yield free_behind(fitted, layout)
        yield from wall_suits(fitted, layout)


def free(mm: float, label: str) -> Figure:
    """A distance found in the layout, mm."""
    return Figure.of("g", min(mm, LARGEST_GAP), "mm", label, how="measured in the layout")


@judges("box.fit", "parts within the box and apart", STOP, MEND)
def clear(standing: Installed, layout: BoxLayout) -> Check:
    """A part is within the walls, and 3 mm from its rigid neighbours.

    Source: clearance of 3 mm between rigid parts (assumptions table).
    """
    thing, beyond = standing.thing, layout.hollow.beyond_walls(standing.solid)
    apart, at = in_the_way(standing, layout, smaller=False)
    if -beyond < apart - clearance(at, layout) if at else True:
        wall = free(-beyond, "room to the nearest side of the box")
        none = Figure.of("g_min", 0.0, "mm", "needed to a side of the box")
        return at_least("box.fit", thing.place, wall, none, lambda: through_wall(standing, wall, layout))
    gap = free(apart, f"between {thing.name} and {layout.called(at)}")
    needed = assumption("part_gap") if clearance(at, layout) else Figure.of("g_min", 0.0, "mm", "needed to what is fixed")
    return at_least("box.fit", thing.place, gap, needed, lambda: too_near(standing, gap, needed, at, layout))


def through_wall(standing: Installed, room: Figure, layout: BoxLayout) -> Fault:
    """A part runs into a side of the box."""
    into = Figure.of("x", -room.number, "mm", "into a side of the box")
    return stop(
        f"{standing.thing.name} runs {{x}} into a side of the box.",
        "It cannot stand there: sides that lean in are nearer at the floor than at the rim.",
        {"x": into},
        Later(lambda: move_remedies(standing, layout)),
    )


def too_near(standing: Installed, gap: Figure, needed: Figure, at: str, layout: BoxLayout) -> Fault:
    """A part runs into another, or has less than what must be free between them."""
    name, other, remedies = standing.thing.name, layout.called(at), Later(lambda: move_remedies(standing, layout))
    if gap.number < 0:
        into = Figure.of("x", -gap.number, "mm", "into one another")
        return stop(f"{name} and {other} run {{x}} into one another.", "Both cannot be there.", {"x": into}, remedies)
    return mend(
        f"{name} and {other} stand {{g}} apart; {{g_min}} shall be free.",
        "What is rigid rubs and rattles through its insulation when it is carried.",
        {"g": gap, "g_min": needed},
        remedies,
    )


def rooms(standing: Installed, layout: BoxLayout) -> Iterator[Check]:
    """The rooms that a part needs for its cables, and for its air, the worst of each."""
    for what in ("cables", "air"):
        own = [room for room in standing.rooms if room.what == what]
        if not own:
            continue
        (short, at), room = max((((*blocked(r, standing, layout),), r) for r in own), key=lambda found: found[0][0])
        depth = standing.thing.post_room if what == "cables" else assumption("air_gap").number
        if short == 0:
            yield held("box.bend" if what == "cables" else "box.airflow", standing.thing.place)
            continue
        have = free(max(0.0, depth - short), f"free before its {room.face}")
        if what == "cables":
            yield cable_room(standing, have, depth, at, layout)
        else:
            yield air_room(standing, have, at, layout)


@judges("box.bend", "room for lugs and the bends of cables", STOP)
def cable_room(standing: Installed, have: Figure, depth: float, at: str, layout: BoxLayout) -> Check:
    """Before the terminals of a part lugs and cables have the room that they need to bend.

    Source: bend radius of 6 outside diameters, fine-stranded silicone 4 (assumptions table).
    """
    thing = standing.thing
    parts = {
        "h_p": Figure.of("h_p", thing.post_mm, "mm", "of studs, lugs and nuts"),
        "r": Figure.of("r", thing.bend_mm if thing.along else thing.cable_mm, "mm", "of the cable's bend"),
    }
    how = "studs and the bend of the cable" if thing.along else "the lug or the cable that lies on it, whichever is higher"
    needed = Figure.of("d", depth, "mm", "room that its cables need", how=how, inputs=parts)
    return at_least(
        "box.bend",
        thing.place,
        have,
        needed,
        lambda: stop(
            f"{thing.name}: its cables need {{d}} before the terminals; {{g}} is free, then comes {layout.called(at)}.",
            "A cable bent tighter than it stands breaks its strands and levers at the lug.",
            {"d": needed, "g": have},
            Later(lambda: move_remedies(standing, layout)),
        ),
    )


@judges("box.airflow", "air where it is needed", MEND)
def air_room(standing: Installed, have: Figure, at: str, layout: BoxLayout) -> Check:
    """Before the inlets and outlets of a part 20 mm are free.

    Source: 20 mm before air inlets and outlets (assumptions table).
    """
    thing, needed = standing.thing, assumption("air_gap")
    return at_least(
        "box.airflow",
        thing.place,
        have,
        needed,
        lambda: mend(
            f"{thing.name}: {{g}} is free before its air, then comes {layout.called(at)}; {{g_a}} shall be.",
            "A fan that sucks at a wall moves no air: it derates or switches off.",
            {"g": have, "g_a": needed},
            Later(lambda: move_remedies(standing, layout)),
        ),
    )


@judges("box.airflow")
def free_behind(fitted: Fitted, layout: BoxLayout) -> Check:
    """Within the box a vent, a fan or a relief is not covered: what stands nearer than its air needs to go round it covers half of it at
    most.

    Source: as much passes round the edge as through the opening from a depth of area over circumference on; half may be covered
    (assumptions table).
    """
    share, at = covering(fitted, layout)
    covered = Figure.of("k", min(share, 1.0), "share", f"of {fitted.name} covered from within", how="measured in the layout")
    o = fitted.outline
    sides = {"w": Figure.of("w", o.width, "mm", "its width"), "h": Figure.of("h", o.height, "mm", "its height")}
    how = "its area over its circumference, w · h / (2 · (w + h)): as much air goes round its edge as through it"
    needed = Figure.of("d", round_the_edge(o), "mm", f"free behind {fitted.name}", how=how, inputs=sides)
    return at_most(
        "box.airflow",
        fitted.at,
        covered,
        assumption("covered"),
        lambda: mend(
            f"{fitted.name} is covered from within by {layout.called(at)}: {{k}} of it, nearer than the {{d}} that its air needs.",
            "What stands before an opening shuts it: the box is as hot, or as tight, as if nothing had been cut.",
            {"k": covered, "d": needed},
            Later(lambda: uncover(fitted, at, layout)),
        ),
    )


def uncover(fitted: Fitted, at: str, layout: BoxLayout) -> tuple[Remedy, ...]:
    """Remedies for an opening that is covered: it is moved, or what stands before it."""
    standing = layout.standing.get(at.removeprefix("/box/places/"))
    return (*face_remedies(fitted, layout), *(move_remedies(standing, layout) if standing else ()))


@judges("box.lid", "height under the shut lid", STOP)
def under_lid(standing: Installed, layout: BoxLayout) -> Check:
    """A part with its terminals, lugs and cables is below the shut lid.

    Source: geometry.
    """
    thing = standing.thing
    lugs = (
        f", {write_quantity(standing.top - standing.solid.z1, 'mm')} of it lugs and cables"
        if standing.top > standing.solid.z1
        else ""
    )
    top = Figure.of("z", standing.top, "mm", f"height of {thing.name}, with what stands out of it", how=f"over the floor{lugs}")
    lid = Figure.of("H", layout.hollow.height, "mm", "height under the shut lid")
    over = standing.top - layout.hollow.height
    return at_most(
        "box.lid",
        thing.place,
        top,
        lid,
        lambda: stop(
            f"{thing.name} reaches {{z}} over the floor{lugs}; the lid shuts at {{H}}, {write_quantity(over, 'mm')} lower.",
            "A lid that is pressed shut presses on terminals.",
            {"z": top, "H": lid},
            Later(lambda: lower_remedies(standing, layout)),
        ),
    )


@judges("box.fit")
def on_its_fixture(standing: Installed, layout: BoxLayout) -> Check:
    """A part stands on what it is said to stand on."""
    fixture = layout.box.fixtures[standing.place.on.removeprefix("fixture:")].name
    return is_so(
        "box.fit",
        f"{standing.thing.place}/on",
        False,
        lambda: stop(
            f"{standing.thing.name} stands beside {fixture}, on which it should stand.",
            "It would hang in the air.",
            {},
            Later(lambda: (*move_remedies(standing, layout), to_the_floor(standing))),
        ),
    )


def to_the_floor(standing: Installed) -> Remedy:
    """The remedy that stands a part on the floor."""
    return Remedy("Stand it on the floor", [set_value(f"{standing.thing.place}/on", "floor")])


@judges("box.latch", "latches, ribs and edges of a face", STOP)
def clear_on_face(fitted: Fitted, layout: BoxLayout) -> Check:
    """What sits in a face is clear of its edges, of latches, hinges, handles, bosses, ribs and seals, and of what else sits there.

    Source: geometry.
    """
    apart, at = on_face(fitted, layout)
    what = layout.called(at) if at else "an edge of the face"
    room = free(apart, f"between {fitted.name} and {what}")
    none = Figure.of("g_min", 0.0, "mm", "needed on a face")
    return at_least("box.latch", fitted.at, room, none, lambda: in_its_way(fitted, apart, at, layout))


WHY = {
    "latch": "The latch turns through this place: the lid will not shut.",
    "hinge": "The hinge turns here: the lid will not open.",
    "handle": "Who lifts it reaches in here; a handle's screws go through this place.",
    "boss": "The wall is solid here, with a screw in it.",
    "rib": "A rib stands behind: its nut finds no seat, and cutting the rib weakens the wall.",
    "seal": "The seal runs here: cut, it lets water in.",
    "wheel": "The wheel or its axle is behind.",
}


def in_its_way(fitted: Fitted, apart: float, at: str, layout: BoxLayout) -> Fault:
    """Something in a face is where something else is."""
    into = Figure.of("x", -apart, "mm", "of it in the way")
    if not at:
        sentence, why = f"{fitted.name} stands {{x}} over the edge of its face.", "There is no wall to hold it."
    elif at.startswith("/box/case/features/"):
        feature = layout.case.features[at.rpartition("/")[2]]
        kind = "screw boss" if feature.kind == "boss" else feature.kind
        sentence, why = f"{fitted.name} is in the way of a {kind} by {{x}}.", WHY[feature.kind]
    else:
        sentence, why = f"{fitted.name} and {layout.called(at)} run {{x}} into one another.", "Both cannot be there."
    return stop(sentence, why, {"x": into}, Later(lambda: face_remedies(fitted, layout)))


@judges("box.depth", "depth behind a face", STOP)
def deep_enough(fitted: Fitted, layout: BoxLayout) -> Check:
    """Behind what sits in a face there is room for its body, its plug and the bend of its cable.

    Source: body + plug + bend radius, 6 outside diameters of the cable, fine-stranded silicone 4 (assumptions table).
    """
    have, at = depth_behind(fitted, layout)
    room = free(max(0.0, have), f"free behind {fitted.name}")
    needed = depth_needed(fitted)
    behind = layout.called(at)
    return at_least(
        "box.depth",
        fitted.at,
        room,
        needed,
        lambda: stop(
            f"{fitted.name} needs {{d}} behind the {fitted.face}; {{g}} is free, then comes {behind}.",
            "Its plug is pressed against what stands there; over the years one wears through the other.",
            {"d": needed, "g": room},
            Later(lambda: face_remedies(fitted, layout)),
        ),
    )


def depth_needed(fitted: Fitted) -> Figure:
    """How far something in a face stands into the box, mm, with its plug and what its cable takes to bend."""
    thing = fitted.thing
    if thing is None or thing.type is None:
        return Figure.of("d", fitted.deep, "mm", "how far it stands into the box")
    inputs = {
        "d_body": thing.type.figure("d_body", thing.size[1], "mm", f"body of {thing.how}"),
        "d_plug": thing.type.figure("d_plug", thing.type.plug_mm, "mm", "what is plugged on behind it"),
        "d_cable": Figure.of(
            "d_cable", thing.post_room, "mm", "lug and cable", how="with its bend" if thing.along else "lying across"
        ),
    }
    return Figure.by("d", "d_body + d_plug + d_cable", "mm", "depth that it needs", inputs)


@judges("box.wall", "wall and the fitting in it", MEND)
def wall_suits(fitted: Fitted, layout: BoxLayout) -> Iterator[Check]:
    """The wall is within what a fitting is made for.

    Source: clamping range of its kind (bodies table).
    """
    row = fitted.thing.type if fitted.thing else None
    if row is None or row.wall_min_mm is None or row.wall_max_mm is None:
        return
    wall = Figure.decided("t", layout.case.wall_mm, "mm", "wall of the box", "/box/case/wall_mm")
    low, high = row.wall_min_mm, row.wall_max_mm
    thick = wall.number >= low
    limit = row.figure("t_lim", high if thick else low, "mm", f"wall that {row.label} is made for")
    said = "at most" if thick else "at least"
    judge = at_most if thick else at_least
    yield judge(
        "box.wall",
        fitted.at,
        wall,
        limit,
        lambda: mend(
            f"{fitted.name} is made for a wall of {said} {{t_lim}}; that of the box is {{t}}.",
            "Its nut finds no thread, or its flange bends the sheet." if thick else "A thin wall bends under its nut, and tears.",
            {"t_lim": limit, "t": wall},
            Later(lambda: other_case(layout, lambda box: low <= box.document["wall_mm"] <= high)),
        ),
    )
