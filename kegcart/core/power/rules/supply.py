"""Whether each load finds an outlet of its supply, and whether that supply is the one that suits it."""

import math
from collections.abc import Container, Iterator
from typing import Any

from kegcart.core.brief.document import OUTLET_VOLTAGE
from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.check import HAIR, Check, Fault, is_so, mend, note, stop
from kegcart.core.choice import assumed
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.loads.sizing import Demand, greatest_apparent
from kegcart.core.loads.supplies import SUPPLIES, Direct, Supply, conversion
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds.outlet import connectors_for
from kegcart.core.power.path.edits import Addition, Draft, add_outlets
from kegcart.core.power.path.legs import is_split
from kegcart.core.power.path.network import DOUBLE
from kegcart.core.power.path.parts import InverterSizing, PowerSizing, Source
from kegcart.core.reference import constant

MOST_CIRCUITS = 6
"""AC outlets that are proposed at once, at most."""


def judge_supplies(power: PowerSizing) -> Iterator[Check]:
    """Every load at its outlet."""
    for demand in power.ctx.loads.demands.values():
        yield has_outlet(demand, power)
    for key, held_here in power.plugged.items():
        if power.network.stands_on[key] == "dc_12v":
            yield from (straight(demand, key, power) for demand in held_here if demand.load.supply == "dc_12v")
    yield from double_conversion(power)


@judges("loads.no-outlet", "an outlet of its supply", STOP)
def has_outlet(demand: Demand, power: PowerSizing) -> Check:
    """A load is plugged in somewhere: into an outlet of its own supply.

    Source: a load runs only on its own supply (maker's plate).
    """

    def fault() -> Fault:
        place, supply = f"/loads/items/{demand.key}", demand.load.supply
        wants = f"{demand.load.name} needs {SUPPLIES[supply].label}"
        if demand.load.bank not in (None, PACK):
            name = power.sources[demand.load.bank].name
            wants = f"{wants}, from {name}" if supply != "pack" else f"{demand.load.name} is to hang straight on {name}"
        on_legs = supply == "ac" and is_split(power.ctx.brief)
        double = on_legs and demand.load.mains == DOUBLE
        if supply == "ac" and power.ctx.brief.mains == "none":
            return no_mains(demand, power)
        if on_legs:
            from_where = "240 V, from an outlet on both legs" if double else "120 V, from an outlet on one leg"
            wants = f"{demand.load.name} needs {from_where}"
        if demand.load.outlet is not None:
            bank = demand.load.bank
            there = any(
                power.network.supply(key) == supply
                and (getattr(power.network.nodes[key], "leg", None) == "both") == double
                and bank in (None, power.network.source(key))
                for key in power.network.outlets()
            )
            more = [] if there else add_outlets(power.network, [] if double else [supply], int(double), bank or PACK)
            label = "Let it find an outlet of its supply" if there else "Give it an outlet of its supply"
            remedies = (Remedy(label, [release(f"{place}/outlet"), *more]),)
            outlet = demand.load.outlet
            there_is, other = power.network.supply(outlet), "supply"
            if there_is == supply:
                other = "voltage" if bank in (None, power.network.source(outlet)) else "battery's current"
            sentence = f"{wants}; the outlet it is plugged into gives another {other}."
        else:
            count, patch = outlets_for([d for d in power.without_outlet if d.load.outlet is None], power)
            label = "Add the outlet it needs" if count == 1 else "Add the outlets that all loads need"
            remedies = (Remedy(label, patch),)
            sentence = f"{wants}, and the power path has no such outlet."
        why = "A load without an outlet is not fed, and not counted."
        return stop(sentence, why, {"P": demand.running}, remedies)

    without = any(d.key == demand.key for d in power.without_outlet)
    return is_so("loads.no-outlet", f"/loads/items/{demand.key}", not without, fault)


def no_mains(demand: Demand, power: PowerSizing) -> Fault:
    """A load that needs AC in a station that the brief wants without: fed otherwise where it can be, else the brief is changed."""
    at, load, source = f"/loads/items/{demand.key}", demand.load, demand.load.bank or PACK
    more = missing_outlet("ac", source, power)
    remedies = [
        Remedy(f"A station with AC, {mains}", [set_value("/brief/mains", mains), release(f"{at}/outlet"), *more])
        for mains in ("230 V 50 Hz", "120 V 60 Hz")
    ]
    if load.direct is not None:
        patch = [*fed_directly(demand, load.direct), *missing_outlet(load.direct, source, power)]
        remedies.insert(0, Remedy(f"Feed it {SUPPLIES[load.direct].fed}", patch))
    return stop(
        f"{load.name} needs AC; the brief says that this station has none.",
        "Nothing here becomes AC, so this load is not fed, and not counted.",
        {"P": Figure.decided("P", demand.watts.number, "W", "running power of one", f"{at}/watts")},
        tuple(remedies),
    )


def fed_directly(demand: Demand, direct: Direct) -> list[dict[str, Any]]:
    """The operations that feed a load without inverter and wall adapter."""
    at = f"/loads/items/{demand.key}"
    eta = assumed("η_a", demand.load.adapter_efficiency, "adapter_eta", "share", "its wall adapter", f"{at}/adapter_efficiency")
    watts = round(demand.watts.number * eta.number, 3)
    patch = [set_value(f"{at}/supply", direct), set_value(f"{at}/watts", watts), release(f"{at}/measured")]
    return [*patch, release(f"{at}/direct"), release(f"{at}/outlet")]


def missing_outlet(supply: Supply, source: str, power: PowerSizing) -> list[dict[str, Any]]:
    """The operations that give a source an outlet of a supply, where it has none."""
    here = (k for k in power.network.outlets() if power.network.source(k) == source)
    return [] if any(power.network.supply(k) == supply for k in here) else add_outlets(power.network, [supply], source=source)


def outlets_for(waiting: list[Demand], power: PowerSizing) -> tuple[int, list[dict[str, Any]]]:
    """How many outlets loads without one need, and the operations that add them on the bank of each, else on the pack.

    What stands the voltage of its battery goes straight on it: see `goes_straight`.
    """
    draft, straight, count = Draft(power.network), list[dict[str, Any]](), 0
    split = is_split(power.ctx.brief)
    for source in power.network.roots:
        here = [d for d in waiting if (d.load.bank or PACK) == source]
        between = [d for d in here if split and d.load.supply == "ac" and d.load.mains == DOUBLE]
        on_pack = {d.key for d in here if goes_straight(d, power.sources[source])}
        straight += [set_value(f"/loads/items/{key}/supply", "pack") for key in sorted(on_pack)]
        supplies = wanted_outlets([d for d in here if d not in between], on_pack, power)
        draft.source = source
        draft.outlets(supplies, min(len(between), MOST_CIRCUITS))
        count += len(supplies) + len(between)
    return count, [*draft.operations, *straight]


def laid_out(power: PowerSizing) -> list[Addition]:
    """The path that the loads without an outlet ask for, ready to be added; none where each has one."""
    waiting = [d for d in power.without_outlet if d.load.outlet is None]
    if power.ctx.brief.mains == "none":
        waiting = [d for d in waiting if d.load.supply != "ac"]
    count, patch = outlets_for(waiting, power)
    return [Addition("", "Lay out a path for these loads", patch)] if count else []


def goes_straight(demand: Demand, source: Source) -> bool:
    """Whether a 12 V load stands the whole range of a battery without a converter: one that wants no steady voltage, by its own word
    or by its kind.
    """
    load = demand.load
    steady = demand.kind.steady if load.steady is None else load.steady
    return load.supply == "dc_12v" and not steady and source.suits_12v


@judges("loads.straight", "12 V without a converter", NOTE)
def straight(demand: Demand, outlet: str, power: PowerSizing) -> Check:
    """A 12 V load that stands the range of its battery is not fed through a converter.

    Source: ISO 16750-2, functional from 9 to 16 V (assumptions table).
    """
    at, source = f"/loads/items/{demand.key}", power.parts[outlet].source

    def fault() -> Fault:
        patch = [*missing_outlet("pack", source.key, power), set_value(f"{at}/supply", "pack"), release(f"{at}/outlet")]
        return note(
            f"{demand.load.name} goes through a converter, though {source.name} stands between {{V_low}} and {{V_max}}: what is made for "
            "12 V in vehicles stands that.",
            "Each converter loses a tenth, draws when nothing runs, and is one more part that fails. It is worth it for what is sensitive.",
            {"V_low": source.v_low, "V_max": source.v_max},
            (
                Remedy(f"Feed it straight from {source.name}", patch),
                Remedy("It is sensitive: keep its 12 V steady", [set_value(f"{at}/steady", True)]),
            ),
        )

    return is_so("loads.straight", f"{at}/supply", not goes_straight(demand, source), fault)


def wanted_outlets(demands: list[Demand], on_pack: Container[str], power: PowerSizing) -> list[Supply]:
    """An outlet for each supply that loads need, or `pack` for those in `on_pack`; of AC as many as there are circuits that their
    sockets carry.
    """
    supplies: list[Supply] = sorted({"pack" if d.key in on_pack else d.load.supply for d in demands})
    on_ac = [d for d in demands if d.load.supply == "ac"]
    if not on_ac:
        return supplies
    mains_v = OUTLET_VOLTAGE[power.ctx.brief.mains]
    socket_a = connectors_for("ac", mains_v)[-1].rating_a
    amps = greatest_apparent(on_ac, power.ctx.loads.day).number / mains_v
    circuits = math.ceil(amps * constant("fuse_margin") / socket_a - HAIR)
    further: list[Supply] = ["ac"] * (min(circuits, len(on_ac), MOST_CIRCUITS) - 1)
    return [*supplies, *further]


def double_conversion(power: PowerSizing) -> Iterator[Check]:
    """A DC device fed through inverter and wall adapter, against feeding it directly."""
    for key, plugged in power.plugged.items():
        inverter = next((power.inverters[up] for up in power.network.upstream(key) if up in power.inverters), None)
        for demand in plugged:
            if inverter is not None and demand.load.direct is not None and demand.energy.number > 0:
                yield fed_twice(demand, inverter, power)


@judges("loads.double-conversion", "fed without a detour", MEND)
def fed_twice(demand: Demand, inverter: InverterSizing, power: PowerSizing) -> Check:
    """A DC device is fed directly, not through inverter and wall adapter.

    Source: each conversion takes its share (efficiency, definition).
    """
    at, direct, load = f"/loads/items/{demand.key}", demand.load.direct, demand.load
    assert direct is not None
    eta_at = f"{at}/adapter_efficiency"
    adapter = assumed("η_a", load.adapter_efficiency, "adapter_eta", "share", "its wall adapter", eta_at)
    curve = inverter.curve
    # What this load adds to the inverter's own loss, at the power it mostly gives.
    point = min(max(inverter.peak.running.number, 1.0), curve.rated_w)
    added = Figure.of(
        "η_i",
        point / (point + curve.loss(point) - curve.idle_w),
        "share",
        "inverter, idle draw apart",
        how="a·P + b·P²/P_rated at the running peak; its idle draw is there with or without this load",
        inputs={"P_peak": inverter.peak.running, "P_rated": inverter.rating},
    )
    lost = Figure.by(
        "E_lost",
        "E · (1 / η_i − η_a / η_c)",
        "Wh",
        "lost a day by two conversions",
        E=demand.energy,
        η_i=added,
        η_a=adapter,
        η_c=conversion(direct),
    )

    def fault() -> Fault:
        source = power.network.source(inverter.key)
        patch = [*fed_directly(demand, direct), *missing_outlet(direct, source, power)]
        fed = SUPPLIES[direct].fed
        return mend(
            f"{load.name} is fed through inverter and wall adapter: {{E_lost}} a day are lost that are not where it is fed {fed}.",
            "Up to mains voltage and down again, each step keeps its share; and the inverter must run for it.",
            {"E_lost": lost},
            (Remedy(f"Feed it {fed}", patch),),
        )

    return is_so("loads.double-conversion", at, lost.number <= 0, fault)
