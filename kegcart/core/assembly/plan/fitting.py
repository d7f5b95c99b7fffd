"""Parts into the box: shelves first, what others stand on or hide before those, the pack as late as it may."""

from collections.abc import Mapping
from dataclasses import dataclass

from kegcart.core.assembly.plan.acts import Act, BuildPlan
from kegcart.core.assembly.plan.pack_work import LIVE
from kegcart.core.box.layout import ALONG, BoxLayout
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.box.space import OWN, covers
from kegcart.core.box.taking_out import goes_with_lid, left_behind, loose, over_each
from kegcart.core.figure import Figure
from kegcart.core.pack.document import CellPack
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import kind_of
from kegcart.core.power.path.parts import PowerSizing
from kegcart.core.reference import constant
from kegcart.core.reference.boxes import holds
from kegcart.core.units import write_quantity

CAPPED = "Terminals stay capped."


@dataclass(frozen=True, slots=True)
class Hidden:
    """Something that cannot be reached any more once another is in: the acts that fit the two, and why."""

    what: str
    by: str
    why: str


OF_THE_BOX = {"places": "", "fixtures": "fixture:", "fittings": "fitting:"}
"""How the acts are called that fit what stands in a list of the box."""


def act_of(at: str) -> str:
    """The act that fits what is at a place of the box: `fit:part:main-fuse`, `fit:fixture:shelf`."""
    *_, where, key = at.split("/")
    return f"fit:{OF_THE_BOX[where]}{key}"


def fit_key(pointer: str, power: PowerSizing) -> str:
    """The act that fits the part to which a wire leads, by that part's pointer; of a fuse in a block that of the block."""
    *_, where, key = pointer.split("/")
    match where:
        case "network":
            feed = power.parts[key].node.feed
            return f"fit:part:{feed}" if power.network.in_block(key) else f"fit:part:{key}"
        case "banks":
            return f"fit:bank:{key}"
        case "sources":
            return f"fit:source:{key}"
        case "strings":
            return "fit:pack"
    known = {"/pack": "fit:pack", "/pack/board": "fit:board", "/power/shunt": "fit:shunt", "/power/shunt/meter": "fit:meter"}
    if pointer.startswith("/pack"):
        return known.get(pointer, "fit:pack")
    if pointer.endswith("/negative"):
        source = pointer.split("/")[-2]
        return f"fit:negative-bar:{PACK if source == 'power' else source}"
    return known.get(pointer, "")


def plan_fitting(power: PowerSizing, box: BoxSizing | None, mass: Figure, plan: BuildPlan) -> list[Hidden]:
    """The acts that fit each part, and what each hides."""
    layout = box.layout if box else None
    masses: Mapping[str, Figure] = box.masses if box else {}
    fit_pack(power, layout, masses.get("pack", mass), plan)
    names = {f"fit:{thing.key}": (thing.name, thing.pointer) for thing in layout.things} if layout else bodies(power)
    for key, (name, pointer) in names.items():
        outside = layout is not None and any(f"fit:{thing.key}" == key for thing in layout.outside)
        if key != "fit:pack" and not outside:
            fit_part(key, name, pointer, layout, masses, plan)
    for source in power.sources.values():
        if power.network.children[source.key]:
            at = "/power/negative" if source.key == PACK else f"{source.pointer}/negative"
            text = "Beside the positive one where both are seen, never under it; its studs clean."
            name = "negative bar" if source.key == PACK else f"negative bar of {source.name}"
            plan.add(Act(f"fit:negative-bar:{source.key}", "parts", "fit", f"Fix the {name}", text, (at,), first=(1.0,)))
    if power.ctx.meter is not None:
        text = "Where it is read with the lid shut; its supply lead stays off."
        plan.add(Act("fit:meter", "parts", "fit", "Fix the meter", text, ("/power/shunt",), first=(2.0,)))
    if layout is not None:
        for key, fitting in layout.box.fittings.items():
            text = f"Into its hole in the {fitting.face}, its seal under the flange."
            at = f"/box/fittings/{key}"
            plan.add(Act(f"fit:fitting:{key}", "parts", "fit", f"Fit {fitting.name}", text, (at,), first=(3.0,)))
        for key, fixture in layout.box.fixtures.items():
            at, size = f"/box/fixtures/{key}", write_quantity(fixture.width_mm, "mm")
            text = f"{fixture.material}, {size} wide: cut, edges broken, fixed so that no screw points at the pack."
            plan.add(Act(f"fit:fixture:{key}", "parts", "shelf", f"Fix {fixture.name}", text, (at,), first=(0.0,)))
    for key in plan.of("fit:"):
        plan.after(key, ("dry-fit", "deburr"), "what does not fit is found before a wire is cut to it")
    plan.after("fit:pack", "pack:cover", "its posts are covered before metal is moved over it", telling=True)
    return stand_in_order(layout, plan) if layout is not None else []


def bodies(power: PowerSizing) -> dict[str, tuple[str, str]]:
    """What is fitted where there is no box yet: everything that has a body of its own, by its act."""
    out = {"fit:pack": ("Pack", "/pack")}
    if isinstance(power.ctx.pack.pack, CellPack) and power.ctx.pack.build.board is not None:
        out["fit:board"] = ("Protection board", "/pack/board")
    if power.shunt is not None:
        out["fit:shunt"] = ("Shunt", "/power/shunt")
    for key, part in power.parts.items():
        if kind_of(part.node).body(part.node, part, power.ctx) is not None:
            out[f"fit:part:{key}"] = (part.node.name, part.pointer)
    for key, bank in power.ctx.path.banks.items():
        out[f"fit:bank:{key}"] = (bank.name, f"/power/banks/{key}")
    return out


def fit_pack(power: PowerSizing, layout: BoxLayout | None, mass: Figure, plan: BuildPlan) -> None:
    """The pack goes in: by two where one is not to lift it."""
    held = layout.standing["pack"].place.held if layout and "pack" in layout.standing else []
    heavy = mass.number > constant("carry_two_hands")
    by = "By two: " if heavy else ""
    how = f" Then held down: {len(held)} holds." if held else " Then held down in all directions."
    text = f"{by}{mass.text}, lowered in by its straps, not by its posts.{how}"
    lift = f" Two people lift what is over {write_quantity(constant('carry_two_hands'), 'kg')}." if heavy else ""
    plan.add(Act("fit:pack", "box", "pack-in", "Put the pack in", text, ("/pack",), caution=f"{LIVE}{lift}"))


def fit_part(key: str, name: str, pointer: str, layout: BoxLayout | None, masses: Mapping[str, Figure], plan: BuildPlan) -> None:
    """A part is placed and screwed down."""
    thing = key.removeprefix("fit:")
    text = "Screwed down where it stands in the layout; its terminals stay free."
    first: tuple[float, ...] = (2.0,)
    kg = masses[thing].number if thing in masses else 0.0
    if layout is not None and (standing := layout.standing.get(thing)) is not None:
        x, _, _ = standing.solid.middle
        if standing.place.held:
            counts = {kind: standing.place.held.count(kind) for kind in dict.fromkeys(standing.place.held)}
            said = ", ".join(f"{count} × {holds()[kind].label}" for kind, count in counts.items())
            text = f"Held by {said}; its terminals stay free."
        first = (1.0, -kg, standing.solid.z0, x)
    elif layout is not None:
        fitted = next((f for f in layout.fitted if f.key == thing and f.thing is not None), None)
        if fitted is not None:
            text = f"Into its cut-out in the {fitted.face}, its seal under the flange, its nut from inside."
            first = (2.0, -kg, fitted.outline.y, fitted.outline.x)
        else:
            text = "It has no place in the layout yet: find one before anything is drilled."
    fuse = " No fuse is in it." if pointer.endswith(("fuse", "block")) else ""
    bank = key.startswith("fit:bank:")
    caution = LIVE if bank else ""
    plan.add(
        Act(
            key,
            "box" if bank else "parts",
            "pack-in" if bank else "fit",
            f"Fit {name}",
            text + fuse,
            (pointer,),
            first=first,
            caution=caution,
        )
    )
    if bank:
        plan.after(key, f"bank:{thing.partition(':')[2]}", "it is looked at, and its posts capped, before it goes in")


def stand_in_order(layout: BoxLayout, plan: BuildPlan) -> list[Hidden]:
    """What stands over another comes after it, and what hides the back of a fitting after that one. Returns what is hidden by what."""
    hidden: list[Hidden] = []
    out = loose(layout)
    axis = ALONG["front" if layout.case.opens == "front" else "lid"]
    door = layout.case.opens == "front"
    for at, over in over_each(layout).items():
        if ("/places/" in at and layout.at(at) is None) or "/fittings/" in at:
            continue  # what sits in a face goes in from outside
        for other in over:
            low, high = act_of(at), act_of(other)
            plan.after(
                high, low, f"{layout.called(other)} stands {'before' if door else 'over'} {layout.called(at)}", telling=True
            )
        solid = out[at]
        above = (
            solid.beside(OWN["front"], solid.y0) if door else solid.beside(OWN["top"], max(0.0, layout.hollow.height - solid.z1))
        )
        whole = covers(above, above, axis)
        for other in over:
            if whole > 0 and covers(out[other], above, axis) > constant("covered") * whole:
                hidden.append(
                    Hidden(act_of(at), act_of(other), f"no hand comes at {layout.called(at)} once {layout.called(other)} is in")
                )
    for fitted in layout.fitted:
        if fitted.deep <= 0 or goes_with_lid(fitted.at, layout):
            continue
        for at, solid in out.items():
            left = left_behind(fitted, solid, layout) if at != fitted.at and layout.at(at) is not None else None
            if left is not None and left < constant("hand_room"):
                name = layout.called(at)
                why = f"its nut and terminals are behind {name}, with {write_quantity(left, 'mm')} for a hand"
                plan.after(act_of(at), act_of(fitted.at), why, telling=True)
                hidden.append(Hidden(act_of(fitted.at), act_of(at), why))
    if layout.box.pack_last:
        for key in plan.of("fit:"):
            plan.after("fit:pack", key, "the pack goes in last and comes out first, as decided", telling=True)
    return hidden
