"""What the box weighs, who carries it, whether it stands and hangs level, and whether what is in it stays where it is."""

from collections.abc import Iterator

from kegcart.core.box.layout import BoxLayout, Installed, stand
from kegcart.core.box.moves import is_clear, other_case, shifts
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.box.weight import GRAVITY
from kegcart.core.brief.document import Brief
from kegcart.core.catalogue import MEND, STOP, judges
from kegcart.core.check import Check, at_least, at_most, is_so, mend, not_yet, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Later, Remedy, set_value
from kegcart.core.reference import assumption, constant
from kegcart.core.reference.boxes import holds

CARRIED = {"one hand": "carry_one_hand", "two hands": "carry_two_hands", "two persons": "carry_two_persons"}
"""What each way of carrying stands, by the assumption that says it; on wheels or in a vehicle only the brief's own limit counts."""
LIGHT_KG = 0.3
"""What is lighter is held by its cables."""


def judge_weight(sizing: BoxSizing, brief: Brief) -> Iterator[Check]:
    """Mass against the box and who carries it, balance, hold-downs."""
    yield box_load(sizing)
    yield from carried(sizing, brief)
    yield from balance(sizing, brief)
    for key, standing in sizing.layout.standing.items():
        mass = sizing.masses[key]
        if mass.number >= LIGHT_KG:
            yield held_down(standing)
            yield from held_firmly(standing, mass)


@judges("box.load", "mass and the rating of the box", STOP)
def box_load(sizing: BoxSizing) -> Check:
    """What stands in the box is within what it is rated for.

    Source: rating by its maker, typical of its class (cases table).
    """
    case, mass = sizing.layout.case, sizing.weight.mass
    own = Figure.decided("m_box", case.mass_kg, "kg", "the box itself", "/box/case/mass_kg")
    load = Figure.by("m_in", "m − m_box", "kg", "what stands in it", m=mass, m_box=own)
    if case.rated_kg is None:
        return not_yet("box.load", "/box/case/rated_kg", "what the box may be loaded with")
    rated = Figure.decided("m_rated", case.rated_kg, "kg", "what the box may be loaded with", "/box/case/rated_kg")
    return at_most(
        "box.load",
        "/box/case/rated_kg",
        load,
        rated,
        lambda: stop(
            "{m_in} stand in the box, which is rated for {m_rated}.",
            "Its handle tears out, or its floor breaks, when it is lifted: with live cells in it.",
            {"m_in": load, "m_rated": rated},
            Later(lambda: other_case(sizing.layout, lambda row: row.document["rated_kg"] >= load.number)),
        ),
    )


@judges("box.carry", "mass and who carries it", MEND)
def carried(sizing: BoxSizing, brief: Brief) -> Iterator[Check]:
    """The whole is no heavier than its carriage allows, and than the brief does.

    Source: one hand 12 kg, one person with two hands 23 kg, two persons 40 kg (assumptions table).
    """
    mass = sizing.weight.mass
    if brief.carriage in CARRIED:
        limit = assumption(CARRIED[brief.carriage])
        other = next((way for way, key in CARRIED.items() if constant(key) >= mass.number), "rolling")
        remedy = Remedy(f"Carry it otherwise: {other}", [set_value("/brief/carriage", other)])
        yield at_most(
            "box.carry",
            "/brief/carriage",
            mass,
            limit,
            lambda: mend(
                f"It weighs {{m}}; by {brief.carriage} {{m_max}} can be carried.",
                "Who lifts more hurts the back, or drops it.",
                {"m": mass, "m_max": limit},
                (remedy,),
            ),
        )
    if brief.mass_limit_kg is not None:
        own = Figure.decided("m_max", brief.mass_limit_kg, "kg", "limit of the brief", "/brief/mass_limit_kg")
        up = round(mass.number + 0.5)
        yield at_most(
            "box.carry",
            "/brief/mass_limit_kg",
            mass,
            own,
            lambda: mend(
                "It weighs {m}; the brief allows {m_max}.",
                "Someone set that limit for whoever moves it.",
                {"m": mass, "m_max": own},
                (Remedy(f"Raise the limit to {up:g} kg", [set_value("/brief/mass_limit_kg", up)]),),
            ),
        )


@judges("box.balance", "centre of mass", MEND)
def balance(sizing: BoxSizing, brief: Brief) -> Iterator[Check]:
    """The centre of mass is within the middle third between the handles, in the lower half, and on wheels it does not tip before 20°.

    Source: middle third, lower half, 20° on wheels (assumptions table).
    """
    weight, layout = sizing.weight, sizing.layout
    if layout.unplaced:
        yield not_yet("box.balance", "/box/places", f"where {len(layout.unplaced)} parts stand")
        return
    x, _, z = weight.centre
    length, third = layout.hollow.length, constant("balance_third")
    off = Figure.by(
        "e", "max(x − L / 2, L / 2 − x)", "mm", "from the middle", x=x, L=Figure.of("L", length, "mm", "length inside")
    )
    most = Figure.of(
        "e_max", length * third / 2, "mm", "to the edge of the middle third", inputs={"k_3": assumption("balance_third")}
    )
    side = "left" if x.number < length / 2 else "right"
    yield at_most(
        "box.balance",
        "/box/places",
        off,
        most,
        lambda: mend(
            f"The centre of mass lies {{e}} from the middle, to the {side}; {{e_max}} is the edge of the middle third.",
            "One hand bears nearly all; it twists as it is lifted.",
            {"e": off, "e_max": most},
            Later(lambda: shift_pack(sizing)),
        ),
    )
    high = Figure.by("z_max", "k_z · H", "mm", "half its height", k_z=assumption("balance_height"), H=height_figure(layout))
    yield at_most(
        "box.balance",
        "/box/places/pack",
        z,
        high,
        lambda: mend(
            "The centre of mass lies {z} over the floor, above half the height, {z_max}.",
            "It topples from a step or a bumpy floor: what is heavy belongs below.",
            {"z": z, "z_max": high},
        ),
    )
    if brief.carriage == "rolling":
        limit, tips = assumption("tip_limit"), weight.tips_at
        yield at_least(
            "box.balance",
            "/box/case/features",
            tips,
            limit,
            lambda: mend(
                "On its wheels it tips at {φ}; {φ_min} is the least.",
                "A kerb is enough to tip it over.",
                {"φ": tips, "φ_min": limit},
            ),
        )


def height_figure(layout: BoxLayout) -> Figure:
    """Height inside, mm."""
    return Figure.of("H", layout.hollow.height, "mm", "height under the shut lid")


def shift_pack(sizing: BoxSizing) -> Iterator[Remedy]:
    """The pack moved along the length to where it is clear and the centre of mass comes nearest to the middle."""
    layout, pack = sizing.layout, sizing.layout.standing.get("pack")
    if pack is None:
        return
    share = sizing.masses["pack"].number / sizing.weight.mass.number
    off = layout.hollow.length / 2 - sizing.weight.centre[0].number
    moves = [off / share, *(dx for dx, dy in shifts(pack, layout) if dy == 0 and dx * off > 0)]
    for dx in sorted(moves, key=lambda dx: abs(off - share * dx)):
        there = pack.place.model_copy(update={"x_mm": round(pack.place.x_mm + dx, 1)})
        if is_clear(stand(pack.thing, there, layout.hollow, layout.fixtures), layout):
            side = "right" if dx > 0 else "left"
            yield Remedy(f"Move the pack to the {side}", [set_value(f"{pack.thing.place}/x_mm", there.x_mm)])
            return


@judges("box.holddown", "held in all directions", STOP, MEND)
def held_down(standing: Installed) -> Check:
    """The pack, and whatever is not light, is held sideways and from rising, by something that lasts in the heat.

    Source: practice; adhesives creep and hook-and-loop lets go above 50 °C (holds table).
    """
    thing, rows = standing.thing, [holds()[key] for key in standing.place.held]
    at = f"{thing.place}/held"
    firm = [row for row in rows if row.lasting]
    missing = [
        what for what, so in (("sideways", any(r.sides for r in rows)), ("from rising", any(r.up for r in rows))) if not so
    ]
    add = Remedy("Hold it with two brackets", [set_value(at, [*standing.place.held, "bracket", "bracket"])])
    if missing:
        said = f"{thing.name} is not held {' and '.join(missing)}."
        why = "When the box falls over or stops short, it tears at its cables or shorts on what stands beside it."
        tell = stop if thing.key == "pack" or thing.key.startswith("bank:") else mend
        return is_so("box.holddown", at, False, lambda: tell(said, why, {}, (add,)))
    holds_firmly = any(r.sides for r in firm) and any(r.up for r in firm)
    return is_so(
        "box.holddown",
        at,
        holds_firmly,
        lambda: mend(
            f"{thing.name} is held by {' and '.join(dict.fromkeys(r.label for r in rows))} alone.",
            "Adhesive creeps and hook-and-loop lets go in the heat: what hangs on it falls on something live.",
            {},
            (add,),
        ),
    )


@judges("box.holddown")
def held_firmly(standing: Installed, mass: Figure) -> Iterator[Check]:
    """Its hold-downs stand three times its weight forward.

    Source: 3 g forward, 2 g sideways and down (assumptions table); what each hold stands (holds table).
    """
    thing, rows = standing.thing, [holds()[key] for key in standing.place.held]
    firm = [row for row in rows if row.lasting and row.sides]
    if not firm:
        return
    asked = hold_force(mass)
    force = sum(row.force_n for row in firm)
    stands = Figure.of("F_h", force, "N", "what its hold-downs stand", how=", ".join(row.label for row in firm))
    more = [*standing.place.held, *["bracket"] * (1 + int((asked.number - force) // holds()["bracket"].force_n))]
    yield at_least(
        "box.holddown",
        thing.place,
        stands,
        asked,
        lambda: mend(
            f"{thing.name} pulls with {{F}} when it stops short; its hold-downs stand {{F_h}}.",
            "It breaks loose in a fall from a kerb or a hard stop of the vehicle.",
            {"F": asked, "F_h": stands},
            (Remedy("Hold it with more brackets", [set_value(f"{thing.place}/held", more)]),),
        ),
    )


def hold_force(mass: Figure) -> Figure:
    """The force in N that holds a mass in kg when the box stops short. Source: 3 g forward (assumptions table)."""
    g = Figure.of("g", GRAVITY, "m/s²", "of gravity")
    return Figure.by("F", "a · m · g", "N", "to be held, forward", a=assumption("hold_g"), m=mass, g=g)
