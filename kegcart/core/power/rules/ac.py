"""The AC side: breakers, cables and sockets, residual-current protection, the bond."""

from collections.abc import Iterator
from math import ceil

from kegcart.core.brief.document import Brief
from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.check import HAIR, Check, Fault, at_least, at_most, failed, held, is_so, mend, not_yet, note, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.loads.sizing import Demand
from kegcart.core.power.kinds import Inverter, Outlet
from kegcart.core.power.kinds.base import release_fields
from kegcart.core.power.kinds.inverter import has_rcd, rcd_due
from kegcart.core.power.path.edits import add_outlets
from kegcart.core.power.path.parts import InverterSizing, PartSizing, PowerSizing
from kegcart.core.power.rules.inverters import node_of


def judge_ac(power: PowerSizing, brief: Brief) -> Iterator[Check]:
    """Every circuit behind an inverter, and how each inverter protects who touches it."""
    for part in power.parts.values():
        if power.network.stands_on[part.key] == "ac":
            yield from circuit(part, power)
            yield from ac_cable(part, power)
    for sizing in power.inverters.values():
        node = node_of(sizing, power)
        if any(isinstance(power.network.nodes[k], Outlet) for k in power.network.below(sizing.key)):
            yield rcd(sizing, node, brief)
            yield from neutral_bond(sizing, node)
            yield from rcd_bond(sizing, node, brief)
            yield from load_bond(sizing, node, power)


def protecting(part: PartSizing, power: PowerSizing) -> Figure | None:
    """What bounds the current of an AC circuit, A: its breaker, one before it, or what the inverter gives."""
    return part.extra.get("breaker") or part.extra.get("before")


@judges("power.socket-breaker", "AC breaker, its sockets and what runs", STOP)
def circuit(part: PartSizing, power: PowerSizing) -> Iterator[Check]:
    """What protects an AC socket lets through no more than it carries, and the breaker of a circuit carries all that runs on it.

    Source: IEC 60364-4-43: load, breaker and socket in rising order.
    """
    node, bound, breaker = part.node, protecting(part, power), part.extra.get("breaker")
    if isinstance(node, Outlet) and bound is not None and part.rating is not None:
        yield socket(part, node, bound, part.rating, power)
    if breaker is not None:
        yield carries_all(part, breaker, power)


def socket(part: PartSizing, node: Outlet, bound: Figure, rating: Figure, power: PowerSizing) -> Check:
    """What can flow into a socket is within its rating."""
    at = f"{part.pointer}/breaker_a"
    patch = release_fields(part.pointer, [f for f in ("breaker_a", "connector") if getattr(node, f) is not None])
    what = "its breaker is {I_b}" if "breaker" in part.extra else "{I_b} can come from what is before it"
    return at_most(
        "power.socket-breaker",
        at,
        bound,
        rating,
        lambda: stop(
            f"{node.name}: {what}, and its socket carries {{I_con}}.",
            "Whatever is plugged in may draw what the breaker lets through: the socket softens before anything opens.",
            {"I_b": bound, "I_con": rating},
            (Remedy("Let breaker and socket be sized together", patch),) if patch else (),
        ),
    )


def carries_all(part: PartSizing, breaker: Figure, power: PowerSizing) -> Check:
    """A breaker carries the sum of what runs on its circuit."""
    field = "breaker_a" if isinstance(part.node, Outlet) else "rating_a"
    total = part.extra["circuit"]
    return at_least(
        "power.socket-breaker",
        f"{part.pointer}/{field}",
        breaker,
        total,
        lambda: stop(
            f"{part.node.name}: {{I_c}} runs on its circuit; its breaker is {{I_b}}.",
            "The breaker opens in the middle of the work, and someone will be tempted to fit a larger one than the sockets stand.",
            {"I_c": total, "I_b": breaker},
            more_circuits(part, field, power),
        ),
    )


def more_circuits(part: PartSizing, field: str, power: PowerSizing) -> tuple[Remedy, ...]:
    """A breaker sized anew, where it was pinned; else a further outlet with a circuit of its own."""
    if getattr(part.node, field) is not None:
        return (Remedy("Let the breaker be sized", [release(f"{part.pointer}/{field}")]),)
    held_here = power.plugged.get(part.key, [])
    if len(held_here) < 2 and all(d.load.count == 1 for d in held_here):
        return ()
    freed = [release(f"/loads/items/{d.key}/outlet") for d in held_here if d.load.outlet is not None]
    more = ceil(part.extra["circuit"].number / part.extra["breaker"].number - HAIR) - 1
    added = add_outlets(power.network, ["ac"] * more)
    for operation in added:  # loads spread over like outlets
        if operation["value"]["part"] == "outlet":
            operation["value"]["ways"] = getattr(part.node, "ways", 1)
    label = "A further outlet" if more == 1 else f"{more} further outlets"
    return (Remedy(f"{label}, with a circuit of its own", [*added, *freed]),)


@judges("power.ac-breaker", "AC cable and its breaker", STOP)
def ac_cable(part: PartSizing, power: PowerSizing) -> Iterator[Check]:
    """An AC cable carries the breaker before it, and drops no more than an outlet circuit may.

    Source: IEC 60364-4-43: breaker and cable in rising order; 3 % (assumptions table).
    """
    wire, bound, node = part.extra.get("ac_ampacity"), protecting(part, power), part.node
    if wire is None or bound is None:
        return
    at, gauge = f"{part.pointer}/run", part.extra["ac_gauge"]
    field = "breaker_a" if isinstance(node, Outlet) else "rating_a"
    pinned = [f for f in (field, "run/gauge") if (f == "run/gauge" and node.run.gauge) or getattr(node, f, None) is not None]
    together = (Remedy("Let breaker and cable be sized together", release_fields(part.pointer, pinned)),) if pinned else ()
    yield at_most(
        "power.ac-breaker",
        at,
        bound,
        wire,
        lambda: stop(
            f"{node.name}: its breaker is {{I_b}}, and its cable of {{gauge}} carries {{I_amp}}.",
            "The breaker protects the cable: of the two it must be the smaller.",
            {"I_b": bound, "gauge": gauge, "I_amp": wire},
            together,
        ),
    )
    yield ac_drop(part, gauge, power)


@judges("power.drop")
def ac_drop(part: PartSizing, gauge: Figure, power: PowerSizing) -> Check:
    """An AC cable loses no more of the voltage than an outlet circuit may.

    Source: 3 % (assumptions table).
    """
    at, drop, limit = f"{part.pointer}/run", part.extra["ac_drop"], power.ctx.known("drop_outlet")
    return at_most(
        "power.drop",
        at,
        drop,
        limit,
        lambda: mend(
            f"The AC cable of {{gauge}} to {part.node.name} loses {{d}} of the voltage; {{limit}} is the limit here.",
            "Motors at the end of a long thin cable start hard and run hot.",
            {"gauge": gauge, "d": drop, "limit": limit},
            (Remedy("Let the gauge be chosen", [release(f"{at}/gauge")]),) if part.node.run.gauge else (),
        ),
    )


@judges("power.rcd", "residual-current protection", MEND, NOTE)
def rcd(sizing: InverterSizing, node: Inverter, brief: Brief) -> Check:
    """AC outlets outdoors or in the wet have residual-current protection.

    Source: IEC 60364-4-41: 30 mA additional protection of outlets outdoors and in the wet.
    """
    at, due = f"/power/network/{sizing.key}/rcd", rcd_due(brief)
    fitted = Remedy("Residual-current protection, 30 mA", [set_value(at, True)])
    if due is None and not has_rcd(node, brief):
        asked = note(
            f"Whether the AC outlets of {node.name}, {{P_rated}}, are used outdoors is not said.",
            "Outdoors one stands on the ground: a fault then goes through whoever holds the lead. Say it in the brief.",
            {"P_rated": sizing.rating},
            (
                Remedy("It is used outdoors", [set_value("/brief/outdoors", True)]),
                Remedy("It stays indoors", [set_value("/brief/outdoors", False)]),
            ),
        )
        return not_yet("power.rcd", at, "whether it is used outdoors", asked)
    where = "in the wet" if brief.exposure == "wet" else "outdoors"
    return is_so(
        "power.rcd",
        at,
        not due or has_rcd(node, brief),
        lambda: mend(
            f"The AC outlets of {node.name}, {{P_rated}}, are used {where} without residual-current protection.",
            "Wet hands and a cracked lead: only a residual-current device opens before a heart stops. Test it on this inverter with its own button and a tester.",
            {"P_rated": sizing.rating},
            (fitted,),
        ),
    )


@judges("power.neutral-bond", "neutral-to-earth bond", NOTE)
def neutral_bond(sizing: InverterSizing, node: Inverter) -> Iterator[Check]:
    """Whether neutral is bonded to earth, and where, is known."""
    at = f"/power/network/{sizing.key}/bond"
    if node.bond in ("bonded", "none"):
        yield held("power.neutral-bond", at)
        return
    said = note(
        f"{node.name}, {{P_rated}}: whether its neutral is bonded to earth is not said.",
        "Only as its manual allows, once, and never with a second source. A residual-current device needs the bond to work; some chargers refuse a floating output. This is work under local code, by licensed hands where the code says so.",
        {"P_rated": sizing.rating},
        (Remedy("Its manual says: bonded at the inverter", [set_value(at, "bonded")]),),
    )
    yield not_yet("power.neutral-bond", at, "whether its neutral is bonded to earth", said)


def bond(sizing: InverterSizing) -> Remedy:
    """The bond made at the inverter."""
    return Remedy("Bonded at the inverter, as its manual allows", [set_value(f"/power/network/{sizing.key}/bond", "bonded")])


@judges("power.rcd-bond", "residual-current device and bond", STOP, MEND)
def rcd_bond(sizing: InverterSizing, node: Inverter, brief: Brief) -> Iterator[Check]:
    """A residual-current device stands behind a neutral that is bonded: behind a floating one it cannot trip on a first fault.

    Source: IEC 60364-4-41: automatic disconnection needs a return path; IT systems and electrical separation.
    """
    at = f"/power/network/{sizing.key}/bond"
    if not has_rcd(node, brief):
        return
    if node.bond in ("not known", "as its manual says"):
        yield not_yet("power.rcd-bond", at, "whether its neutral is bonded to earth")
        return

    def fault() -> Fault:
        made = stop if rcd_due(brief) else mend
        return made(
            f"{node.name}, {{P_rated}}, floats: its residual-current device has no return path, and does not trip on a first fault.",
            "The device is there and its button works, and yet a first fault to the case stays unseen until a second one is touched.",
            {"P_rated": sizing.rating},
            (bond(sizing),),
        )

    yield is_so("power.rcd-bond", at, node.bond == "bonded", fault)


@judges("power.rcd-bond")
def load_bond(sizing: InverterSizing, node: Inverter, power: PowerSizing) -> Iterator[Check]:
    """A load that refuses a floating output is fed from one that is bonded.

    Source: makers of such loads, a vehicle's charging cord first of all, test for earth before they start.
    """
    at = f"/power/network/{sizing.key}/bond"
    needs = [d for k in power.network.below(sizing.key) for d in power.plugged.get(k, []) if d.load.needs_bond]
    if not needs:
        return
    if node.bond in ("not known", "as its manual says"):
        yield not_yet("power.rcd-bond", at, f"whether its neutral is bonded to earth, as {needs[0].load.name} asks for it")
    elif node.bond == "bonded":
        yield held("power.rcd-bond", at)
    else:
        yield failed("power.rcd-bond", at, refused(needs[0], sizing, node))


def refused(demand: Demand, sizing: InverterSizing, node: Inverter) -> Fault:
    """A load that will not start on a floating output."""
    return stop(
        f"{demand.load.name} of {{P}} refuses a floating output, and {node.name} floats.",
        "It looks for the bond before it starts, finds none, and reports a fault of the supply.",
        {"P": demand.running},
        (bond(sizing),),
    )
