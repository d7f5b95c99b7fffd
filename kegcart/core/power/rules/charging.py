"""What the tree decides of charging: where a source joins, and whether it is fed by what it charges."""

from collections.abc import Iterator

from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.charging.kinds import MainsCharger, Vehicle
from kegcart.core.charging.kinds.base import SourceSizing
from kegcart.core.check import Check, Fault, held, is_so, mend, not_yet, note, stop
from kegcart.core.finding import Remedy, set_value
from kegcart.core.power.kinds import Input, Inverter
from kegcart.core.power.path.edits import new_input
from kegcart.core.power.path.network import where_it_joins
from kegcart.core.power.path.parts import PowerSizing


def judge_inputs(power: PowerSizing) -> Iterator[Check]:
    """Every check of where the sources join."""
    joins, free = where_it_joins(power.ctx.path), free_inputs(power)
    for key, sizing in power.ctx.charging.sources.items():
        yield held("charging.not-connected", sizing.pointer) if key in joins else not_connected(sizing, free, power)
        if isinstance(sizing.source, MainsCharger):
            yield loop(sizing, sizing.source, power)
        if isinstance(sizing.source, Vehicle):
            yield isolation(sizing, sizing.source, power)
    for key, node in power.network.nodes.items():
        if isinstance(node, Input):
            yield without_source(key, node, power)


def free_inputs(power: PowerSizing) -> list[str]:
    """The inputs that name no source."""
    return [key for key, node in power.network.nodes.items() if isinstance(node, Input) and node.source is None]


@judges("charging.not-connected", "where it joins", NOTE)
def not_connected(sizing: SourceSizing, free: list[str], power: PowerSizing) -> Check:
    """Every source joins the path at an input, or at an outlet that is charged through."""
    remedies = [
        Remedy(f"It joins at {power.network.nodes[key].name}", [set_value(f"/power/network/{key}/source", sizing.key)])
        for key in free
    ]
    remedies.append(Remedy("A fused input of its own", new_input(power.network, sizing.key, sizing.name, sizing.charged.key)))
    fault = note(
        f"{sizing.name} gives {{I}} and joins nowhere yet: cable, fuse and switch on its way cannot be judged.",
        "Until then it counts as if it stood at the posts of the pack.",
        {"I": sizing.current},
        tuple(remedies),
    )
    return not_yet("charging.not-connected", sizing.pointer, "where it joins", fault)


@judges("charging.not-connected")
def without_source(key: str, node: Input, power: PowerSizing) -> Check:
    """Every input has its source."""
    at = f"/power/network/{key}"
    if node.source is not None:
        return held("charging.not-connected", at)
    joined = where_it_joins(power.ctx.path)
    free = [s for s in power.ctx.charging.sources.values() if s.key not in joined]
    remedies = [Remedy(f"{s.name} joins here", [set_value(f"{at}/source", s.key)]) for s in free]
    if not free:
        taken, n = power.ctx.charging.sources, 1
        while f"charger-{n}" in taken:
            n += 1
        entry = {"kind": "mains", "name": "Mains charger"}
        patch = [
            {"op": "add", "path": f"/charging/sources/charger-{n}", "value": entry},
            set_value(f"{at}/source", f"charger-{n}"),
        ]
        remedies.append(Remedy("A mains charger joins here", patch))
    fault = note(
        f"{node.name} has no source: its cable and fuse stand for {{I}}.",
        "What is brought in there decides its fuse, its cable and its direction.",
        {"I": power.parts[key].current},
        tuple(remedies),
    )
    return not_yet("charging.not-connected", at, "its source", fault)


@judges("charging.loop", "not fed by what it charges", STOP)
def loop(sizing: SourceSizing, source: MainsCharger, power: PowerSizing) -> Check:
    """A charger is not plugged into an inverter of the bank that it charges.

    Source: conservation of energy: what goes round loses a fifth at each turn.
    """
    at = f"{sizing.pointer}/plugged_into"
    if source.plugged_into == "wall":
        return held("charging.loop", at)
    own = [i for key, i in power.inverters.items() if power.network.source(key) == sizing.charged.key]
    if not power.inverters:
        return not_yet("charging.loop", at, "the inverter that it is plugged into")

    def fault() -> Fault:
        return stop(
            f"{sizing.name} is plugged into the inverter of {sizing.charged.name}, which it charges: it takes {{P_in}} and gives less back.",
            "A pack that charges itself only heats itself, and is found empty in the morning.",
            {"P_in": sizing.taken_w},
            (Remedy("Plug it into a wall socket", [set_value(at, "wall")]),),
        )

    return is_so("charging.loop", at, not own, fault)


@judges("charging.isolation", "negative parted from the vehicle's frame", MEND)
def isolation(sizing: SourceSizing, source: Vehicle, power: PowerSizing) -> Check:
    """Where the AC side of the station is bonded to its box, the converter from a vehicle is an isolated one.

    Source: without isolation the frame of the vehicle is a second negative (practice; makers' sheets of converters).
    """
    at = f"{sizing.pointer}/isolated"
    bonds = {key: power.network.nodes[key] for key in power.inverters}
    bonded = [node for node in bonds.values() if isinstance(node, Inverter) and node.bond == "bonded"]
    if (source.isolated and source.by == "converter") or not bonds:
        return held("charging.isolation", at)
    if not bonded and any(isinstance(node, Inverter) and node.bond not in ("bonded", "none") for node in bonds.values()):
        return not_yet("charging.isolation", at, "whether the neutral of its inverter is bonded to earth")

    def fault() -> Fault:
        straight = [set_value(f"{sizing.pointer}/by", "converter")] if source.by == "straight" else []
        return mend(
            f"{sizing.name} brings {{I}} over a negative that it shares with the vehicle's frame, and {bonded[0].name} is bonded to earth.",
            "The frame is then a second negative: a fault, or the return of a load, may flow through a screen or a signal ground.",
            {"I": sizing.current},
            (Remedy("An isolated converter", [*straight, set_value(at, True)]),),
        )

    return is_so("charging.isolation", at, not bonded, fault)
