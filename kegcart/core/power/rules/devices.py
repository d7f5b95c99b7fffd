"""Devices against the fuse before them and the current through them: connectors, bars, blocks, switches, converters, the shunt."""

from collections.abc import Iterator

from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.check import Check, Fault, at_least, at_most, is_so, mend, note, stop
from kegcart.core.choice import assumed
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.power.kinds import Busbar, Converter, FuseBlock, Outlet, Plug, Protection, Selector, Switch, kind_of
from kegcart.core.power.kinds.converter import no_load_draw
from kegcart.core.power.path.edits import gather_on_busbar, take_out_whole
from kegcart.core.power.path.flow import regulated_voltage
from kegcart.core.power.path.parts import PartSizing, PowerSizing
from kegcart.core.power.rules.protection import fitting_rating
from kegcart.core.reference import assumption


def judge_devices(part: PartSizing, power: PowerSizing) -> Iterator[Check]:
    """A part against what it is given and what is asked of it."""
    node, rating = part.node, part.rating
    if rating is not None:
        match node:
            case Outlet():
                yield from outlet_connector(part, node, rating, power)
            case Plug():
                yield plug_connector(part, node, rating, power)
            case Busbar() | FuseBlock():
                yield bar(part, node, rating, power)
            case Switch() | Selector():
                yield switch_rating(part, node, rating)
                if isinstance(node, Switch):
                    yield switch_dc(part, node)
            case Converter():
                yield converter_rating(part, node, rating)
                yield converter_idle(part, node, power)
            case _:
                pass
    if "voltage" in part.extra and not isinstance(node, Protection) and power.network.stands_on[part.key] != "ac":
        yield device_voltage(part, power)
    if power.shunt is not None and "power.shunt-bypass" in kind_of(node).facts.owes:
        yield shunt_bypass(part)


def guard_rating(part: PartSizing, power: PowerSizing) -> Figure | None:
    """The rating of the largest protection that may stand before a part, A."""
    ratings = (power.parts[key].rating for key in power.network.guards(part.key))
    return max((r for r in ratings if r is not None), key=lambda r: r.number, default=None)


def may_flow(part: PartSizing, power: PowerSizing) -> Figure:
    """What may flow through a part, A: what the fuse before it lets through, or what it is sized for."""
    fuse = guard_rating(part, power)
    return fuse if fuse is not None and fuse.number > part.design.number else part.design


@judges("power.connector", "connector and the fuse before it", STOP)
def outlet_connector(part: PartSizing, node: Outlet, rating: Figure, power: PowerSizing) -> Iterator[Check]:
    """The fuse before an outlet is within its connector's rating."""
    fuse = guard_rating(part, power)
    if fuse is None or part.guard is None or power.network.supply(part.key) == "ac":
        return
    guard, at = power.parts[part.guard], f"{part.pointer}/connector"
    remedies = [Remedy("Let the connector be chosen", [release(at)])] if node.connector else []
    smaller = fitting_rating(guard, rating.number)
    if smaller is not None:
        remedies.append(Remedy(f"Fit {smaller:g} A", [set_value(f"{guard.pointer}/rating_a", smaller)]))
    elif isinstance(guard.node, Protection) and guard.node.rating_a:
        remedies.append(Remedy("Let the fuse be sized", [release(f"{guard.pointer}/rating_a")]))
    called = part.choice.value if part.choice else "its connector"
    yield at_most(
        "power.connector",
        at,
        fuse,
        rating,
        lambda: stop(
            f"{node.name}: the fuse before it is {{I_fuse}}; {called} is rated for {{I_con}}.",
            "The fuse would let the connector melt before it opens.",
            {"I_fuse": fuse, "I_con": rating},
            tuple(remedies),
        ),
    )


@judges("power.connector")
def plug_connector(part: PartSizing, node: Plug, rating: Figure, power: PowerSizing) -> Check:
    """A quick connect carries the fuse before it, as any connector does."""
    asked, at = may_flow(part, power), f"{part.pointer}/connector"
    called = part.choice.value if part.choice else "its connector"
    return at_most(
        "power.connector",
        at,
        asked,
        rating,
        lambda: stop(
            f"{node.name}: {called} is rated for {{I_con}}; {{I}} may flow through it.",
            "The fuse would let the connector melt before it opens.",
            {"I_con": rating, "I": asked},
            (Remedy("Let the connector be chosen", [release(at)]),) if node.connector else (),
        ),
    )


@judges("power.busbar", "current over the bar or block", STOP)
def bar(part: PartSizing, node: Busbar | FuseBlock, rating: Figure, power: PowerSizing) -> Check:
    """A busbar or block carries what its fuse lets through, and what runs through it.

    Source: busbars table; four fifths in a closed box (assumptions table).
    """
    asked = may_flow(part, power)
    field = "section" if isinstance(node, Busbar) else "rating_a"
    flows = "runs through it" if asked is part.design else "may flow through its fuse"
    at = f"{part.pointer}/{field}"
    return at_most(
        "power.busbar",
        at,
        asked,
        rating,
        lambda: stop(
            f"{node.name} is rated for {{I_bar}}; {{I}} {flows}.",
            "A bar or block above its rating heats its own joints loose.",
            {"I_bar": rating, "I": asked},
            (Remedy("Let its size be chosen", [release(at)]),) if getattr(node, field) else (),
        ),
    )


@judges("power.switch-rating", "rating of the switch", STOP)
def switch_rating(part: PartSizing, node: Switch | Selector, rating: Figure) -> Check:
    """A switch carries what runs through it.

    Source: continuous rating of the switch (sizes table, IEC 60947-3).
    """
    at = f"{part.pointer}/rating_a"
    return at_most(
        "power.switch-rating",
        at,
        part.design,
        rating,
        lambda: stop(
            f"{node.name} is rated {{I_rated}}; {{I}} runs through it.",
            "A switch above its rating welds shut: it no longer switches off.",
            {"I_rated": rating, "I": part.design},
            (Remedy("Let the switch be sized", [release(at)]),) if node.rating_a else (),
        ),
    )


@judges("power.switch-rating")
def switch_dc(part: PartSizing, node: Switch) -> Check:
    """A switch opens direct current.

    Source: IEC 60947-3: a DC utilization category; an AC contact does not put out a DC arc.
    """
    at = f"{part.pointer}/dc_rated"
    return is_so(
        "power.switch-rating",
        at,
        node.dc_rated,
        lambda: stop(
            f"{node.name} is not rated for DC; {{I}} at up to {{V_max}} runs through it.",
            "An AC switch opened under DC draws an arc that does not go out.",
            {"I": part.design, "V_max": part.source.v_max},
            (Remedy("A DC-rated switch", [set_value(at, True)]),),
        ),
    )


@judges("power.device-voltage", "voltage rating", STOP)
def device_voltage(part: PartSizing, power: PowerSizing) -> Check:
    """A switch, connector, block, socket or module is rated for the greatest voltage that stands at it.

    Source: makers' sheets as typed; else typical of its form (connectors and sizes tables).
    """
    regulated = power.network.stands_on[part.key] == "dc_12v"
    rated, stands, at = (
        part.extra["voltage"],
        regulated_voltage() if regulated else part.source.v_max,
        f"{part.pointer}/voltage_v",
    )

    def fault() -> Fault:
        remedies = []
        if getattr(part.node, "voltage_v", None) is not None:
            remedies.append(Remedy("One that is made for this voltage", [release(at)]))
        if isinstance(part.node, Outlet | Plug) and part.node.connector:
            remedies.append(Remedy("Let the connector be chosen", [release(f"{part.pointer}/connector")]))
        return stop(
            f"{part.node.name} is rated for {{V_dc}}; {{V}} can stand at it.",
            "Above its voltage a contact draws an arc that does not go out, and electronics fail at once.",
            {"V_dc": rated, "V": stands},
            tuple(remedies),
        )

    return at_least("power.device-voltage", at, rated, stands, fault)


@judges("power.device-voltage")
def meter_voltage(power: PowerSizing) -> Iterator[Check]:
    """The meter of the shunt stands the greatest voltage of the pack.

    Source: its sheet as typed, or typical (assumptions table).
    """
    shunt, at = power.ctx.path.shunt, "/power/shunt/meter_v"
    if shunt is None:
        return
    rated, stands = assumed("V_m", shunt.meter_v, "meter_voltage", "V", "greatest voltage of the meter", at), power.ctx.pack.v_max
    yield at_least(
        "power.device-voltage",
        at,
        rated,
        stands,
        lambda: stop(
            "The meter stands {V_m}; the pack reaches {V_max}.",
            "Above its voltage the meter fails, and with it the count of charge; some fail hot.",
            {"V_m": rated, "V_max": stands},
            (Remedy("A meter for this voltage", [release(at)]),) if shunt.meter_v is not None else (),
        ),
    )


@judges("power.converter", "rating and input window of the converter", STOP)
def converter_rating(part: PartSizing, node: Converter, rating: Figure) -> Check:
    """A converter gives what is asked of it.

    Source: continuous rating of the converter (maker's sheet, sizes table).
    """
    at, asked = f"{part.pointer}/rating_a", part.extra["output"]
    return at_least(
        "power.converter",
        at,
        rating,
        asked,
        lambda: stop(
            f"{node.name} gives {{I_rated}}; {{I_out}} is asked of it.",
            "A converter above its rating drops its voltage or shuts down.",
            {"I_rated": rating, "I_out": asked},
            (Remedy("Let the converter be sized", [release(at)]),) if node.rating_a else (),
        ),
    )


@judges("power.shunt-bypass", "its negative behind the shunt", MEND)
def shunt_bypass(part: PartSizing) -> Check:
    """A part's negative goes to the busbar behind the shunt.

    Source: practice: what goes round the shunt is not counted.
    """
    at = f"{part.pointer}/negative"
    return is_so(
        "power.shunt-bypass",
        at,
        getattr(part.node, "negative", "busbar") == "busbar",
        lambda: mend(
            f"The negative of {part.node.name} goes round the shunt: the meter misses up to {{I}}.",
            "Every negative but the pack's own belongs behind the shunt, or the count of charge drifts and the pack is empty while the meter says half.",
            {"I": part.current},
            (Remedy("Take its negative to the busbar", [set_value(at, "busbar")]),),
        ),
    )


@judges("power.shunt-rating", "rating of the shunt", STOP, MEND)
def shunt_rating(power: PowerSizing) -> Iterator[Check]:
    """The shunt carries what can run through it, with a quarter to spare.

    Source: rated current of a 50 mV shunt (sizes table); 1.25 × for long (assumptions table).
    """
    shunt, at = power.shunt, "/power/shunt/rating_a"
    if shunt is None:
        return
    design = power.ctx.sheet["power/shunt/design"]
    remedies = (Remedy("Let the shunt be sized", [release(at)]),) if shunt.choice == "pinned" else ()
    carries = at_least(
        "power.shunt-rating",
        at,
        shunt,
        design,
        lambda: stop(
            "The shunt is rated {I_s}; {I} can run through it.",
            "A shunt above its rating overheats and reads wrong.",
            {"I_s": shunt, "I": design},
            remedies,
        ),
    )
    yield carries
    if carries.finding is not None:
        return
    needed = Figure.by("I_need", "k · I_d", "A", "with a quarter to spare", k=assumption("fuse_margin"), I_d=design)
    power.ctx.sheet.put("power/shunt/needed", needed)
    yield at_least(
        "power.shunt-rating",
        at,
        shunt,
        needed,
        lambda: mend(
            "The shunt is rated {I_s}; {I} can run through it, which asks for {I_need}.",
            "Worked near its rating for long a shunt drifts, and the count of charge with it.",
            {"I_s": shunt, "I": design, "I_need": needed},
            remedies,
        ),
    )


@judges("power.converter-idle", "something behind the converter", NOTE)
def converter_idle(part: PartSizing, node: Converter, power: PowerSizing) -> Check:
    """What hangs on a converter is used.

    Source: its no-load draw, which it takes whether or not anything runs (assumptions table).
    """
    fed = any(power.plugged.get(key) for key in power.network.below(part.key))
    loads = {d.key: d.load for d in power.ctx.loads.demands.values()}
    return is_so(
        "power.converter-idle",
        part.pointer,
        fed,
        lambda: note(
            f"{node.name} feeds nothing; by itself it draws {{P_idle}}.",
            "It costs money and room, and takes from the pack day and night.",
            {"P_idle": no_load_draw(node, part.key)},
            (Remedy("Take it out with all behind it", take_out_whole(power.network, part.key, loads)),),
        ),
    )


@judges("power.post-lugs", "lugs on the posts of a battery", MEND)
def post_lugs(source: str, power: PowerSizing) -> Iterator[Check]:
    """The post of a battery carries no more lugs than lie flat on it.

    Source: one or two lugs on a battery's own post (practice, assumptions table).
    """
    network, most = power.network, assumption("lugs_on_post")
    behind = network.feeds[source]
    if not behind:
        return
    count = sum(network.nodes[key].run.parallel for key in behind)
    lugs = Figure.of("n", count, "", "lugs on the positive post", how="every cable that begins there")
    name, at = power.sources[source].name, power.sources[source].pointer

    def fault() -> Fault:
        return mend(
            f"{{n}} lugs are to go on the positive post of {name}; {{n_p}} is the most.",
            "A tall stack on a soft post works loose, and the lowest lug bears it all.",
            {"n": lugs, "n_p": most},
            (Remedy("A busbar behind one main fuse", gather_on_busbar(network, source)),),
        )

    yield at_most("power.post-lugs", at, lugs, most, fault)
