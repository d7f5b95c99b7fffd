"""Power path: currents, gauges, fuses and devices settled together.

Currents are added up from the sockets to the posts; then the parts are sized from the posts down,
as each fuse must open the fault current that the resistance before it lets through. Within the
segment a fuse guards, the fuse comes first, then wire, switch, busbar and connectors that carry it.
"""

from collections.abc import Iterable

from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.charging.sizing import ChargingSizing
from kegcart.core.choice import sized
from kegcart.core.figure import Figure, Sheet
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.measured import MeasuredFigures, as_measured
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.document import PowerPath, Shunt
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import Selector, kind_of
from kegcart.core.power.kinds.inverter import size_inverters
from kegcart.core.power.path.banks import find_sources, size_bank
from kegcart.core.power.path.currents import find_flows, size_currents, upward
from kegcart.core.power.path.cutoffs import cutoffs
from kegcart.core.power.path.energy import EnergySizing, size_energy, size_working
from kegcart.core.power.path.flow import Flow
from kegcart.core.power.path.idle import find_idle, shelf_time
from kegcart.core.power.path.leads import size_leads
from kegcart.core.power.path.parts import Idle, PartSizing, PathContext, PowerSizing, Source
from kegcart.core.power.path.runs import LUGS, on_a_path, path_drop, size_other_run, size_part_run
from kegcart.core.power.path.studs import stud_figure
from kegcart.core.power.path.wired import Wired
from kegcart.core.reference import assumption, constant, sizes


def size_power(
    path: PowerPath,
    wired: Wired,
    brief: Brief,
    site: Site,
    loads: LoadsSizing,
    pack: PackSizing,
    charging: ChargingSizing,
    measured: MeasuredFigures,
    sheet: Sheet,
) -> PowerSizing:
    """The whole path, sized together. measured: of the built station."""
    network, sources = wired.network, find_sources(path, pack, sheet)
    ctx = PathContext(path, brief, site, loads, pack, charging, wired, measured, sheet, sources)
    ctx.inverters = size_inverters(ctx)
    find_flows(ctx)
    total = Flow.total((ctx.flows[key] for key in network.feeds[PACK]), loads.day)
    if path.shunt is not None:
        ctx.shunt = size_shunt(path.shunt, total, sheet)
    for key in upward(network):
        ctx.parts[key] = size_currents(key, ctx)
    size_parts(ctx)
    size_leads(ctx)
    current, surge = pack_currents(total, ctx)
    for key in network.outlets():
        if ctx.parts[key].run and on_a_path(key, ctx):
            ctx.put(key, "path_drop", path_drop(key, ctx))
    main_ohm = sheet.put("power/main_resistance", main_as_measured(main_resistance(ctx), ctx))
    used, idle, shelf_days = size_standby(ctx, main_ohm)
    banks = {key: size_bank(key, bank, ctx) for key, bank in path.banks.items()}
    return PowerSizing(
        ctx,
        current,
        surge,
        main_ohm,
        used.drawn_w,
        used.drawn_day,
        used.drawn_away,
        used.wiring_day,
        used.available,
        banks,
        idle,
        shelf_days,
        cutoffs(ctx),
    )


def size_standby(ctx: PathContext, main_ohm: Figure) -> tuple[EnergySizing, list[Idle], Figure]:
    """Energy, idle draws and days on the shelf; with a meter that sleeps where a usual one would not let it last so long.

    Source: practice: a small pack is emptied by its own meter.
    """
    working, idle, shunt = size_working(ctx, main_ohm), find_idle(ctx), ctx.path.shunt
    days = shelf_time(idle, ctx, working.available)
    if shunt is not None and shunt.own_draw_ma is None and days.number < ctx.brief.shelf_days:
        ctx.meter_sleeps = True
        idle = find_idle(ctx)
        days = shelf_time(idle, ctx, working.available)
    return size_energy(ctx, working, idle), idle, days


def size_shunt(shunt: Shunt, total: Flow, sheet: Sheet) -> Figure:
    """The meter's shunt: the smallest sold from 1.25 × the design current of the pack, A.

    Source: practice: a fifth of its rating is kept free (assumptions table); sizes sold.
    """
    step, margin = total.design_step, assumption("fuse_margin")
    amps = max(total.running[step] + total.spare[step], total.inward)
    how = "every inverter on it at its rating, or all that is brought in"
    bare = sheet.put("power/shunt/design", Figure.of("I_d", amps, "A", "design current of the pack", how=how))
    pick, at = sizes("shunt").pick(margin.number * bare.number), "/power/shunt/rating_a"
    how = "smallest sold from 1.25 × the design current"
    figure = sized("I_s", shunt.rating_a, pick, "A", "shunt", at, how, {"I_d": bare, "k": margin}, "shunt")
    return sheet.put("power/shunt/rating", figure)


Way = tuple[Source, float]
"""A source, and the least resistance in Ω from its cells up to a place."""


def size_parts(ctx: PathContext) -> None:
    """Size every part from the posts down; fills what `ctx.parts` lacks.

    The first protection after a source stands at its post, and that at the end of a short tap at its bar: it is sized before the
    cable to it, against the fault where that begins; every other part after its cable. Behind a selector the worse of both ways counts.
    """
    network = ctx.network
    shunt_ohm = constant("shunt_drop") / ctx.shunt.number if ctx.shunt else 0.0
    ways: dict[str, list[Way]] = {}
    for key, source in ctx.sources.items():
        ways[key] = [(source, source.fault_resistance.number + (shunt_ohm if key == PACK else 0.0))]
    # A main negative of its own may be shorter than the positive: then the positive side counts with one leg, and it with its copper.
    one_leg = frozenset(network.main_path() if ctx.path.negative else ())
    for key in reversed(upward(network)):
        part = ctx.parts[key]
        node, kind = part.node, kind_of(part.node)
        guard_a = greatest_guard(key, ctx)
        if network.stands_on[key] == "ac":
            kind.size(node, part, ctx, 0.0)
            continue
        here = ways[node.feed]
        before_its_run = network.guards_its_own(key)
        if before_its_run:
            part.fault = part.source.fault if node.feed in ctx.sources else worst_fault(here)
            kind.size(node, part, ctx, guard_a)
            guard_a = part.rating.number if part.rating else 0.0
        if not network.in_block(key):
            part.run = size_part_run(part, ctx, guard_a)
            share = 0.5 if key in one_leg else 1.0
            here = [(source, ohm + share * part.run.cold_ohm) for source, ohm in here]
        if isinstance(node, Selector) and node.other in ways:
            part.other = size_other_run(part, node, ctx, worst_fault(ways[node.other]))
            here = [*here, *((source, ohm + part.other.cold_ohm) for source, ohm in ways[node.other])]
        if not before_its_run:
            part.fault = worst_fault(here)
            kind.size(node, part, ctx, guard_a)
        if part.fault is not None:
            ctx.put(key, "fault", part.fault)
        own = kind.resistance(node, part)
        own_ohm = own.number * constant("fault_share") if own else 0.0
        if stud := stud_figure(part):
            ctx.put(key, "stud", stud)
        ways[key] = [(source, ohm + own_ohm) for source, ohm in here]


def greatest_guard(key: str, ctx: PathContext) -> float:
    """The largest protection before a part, by either way of the selectors before it, A; 0 where there is none."""
    ratings = (ctx.parts[guard].rating for guard in ctx.network.guards(key))
    return max((rating.number for rating in ratings if rating is not None), default=0.0)


def worst_fault(ways: list[Way]) -> Figure:
    """Prospective fault current in A at a place, by the way that gives the most. Source: Ohm's law."""
    source, ohm = max(ways, key=lambda way: way[0].v_max.number / way[1])
    return fault_at(ohm, source)


def fault_at(ohm: float, source: Source) -> Figure:
    """Prospective fault current in A behind so many Ω of a source. Source: Ohm's law."""
    how = (
        "the least it can be: the source in a short, cold copper of both legs, lugs at their best, the shunt, "
        "and half of what is typical of fuses and contacts"
    )
    up_to = Figure.of("R_to", ohm, "Ω", "resistance up to here", how=how, inputs={"R_1k": source.fault_resistance})
    return Figure.by("I_fault", "V_max / R_to", "A", "prospective fault current here", V_max=source.v_max, R_to=up_to)


def pack_currents(total: Flow, ctx: PathContext) -> tuple[Figure, Figure]:
    """Greatest running current and worst surge of the pack, A.

    Source: currents add at a node (Kirchhoff).
    """
    loads, network, step = ctx.loads, ctx.network, total.peak_step
    roots = {}
    for key in network.feeds[PACK]:
        name, amps = network.nodes[key].name, ctx.flows[key].running[step]
        roots[f"{name} ({key})"] = Figure.of("I", amps, "A", name, inputs={"I_max": ctx.parts[key].current})
    current = Figure.by("I", "sum", "A", "greatest running current of the pack", roots)
    begins = Figure.of("t", loads.day.moment(loads.day.edges_h[step]), "", "when it begins")
    worst = total.worst_start
    how = f"{loads.starts[worst.key].name} starting, for {worst.length_s:g} s" if worst else "nothing starts with a surge"
    inputs = {"I": current, **({"ΔP": loads.starts[worst.key].extra} if worst else {})}
    value = max(total.worst(worst) if worst else 0.0, total.peak)
    surge = Figure.of("I_surge", value, "A", "worst surge of the pack", how=how, inputs=inputs)
    ctx.sheet.put("power/current_at", begins)
    return ctx.sheet.put("power/current", current), ctx.sheet.put("power/surge", surge)


def main_resistance(ctx: PathContext) -> Figure:
    """Resistance in Ω of what all current passes between post and busbar, warm."""
    return way_resistance(ctx.network.main_path(), "main path, post to busbar", ctx)


def main_as_measured(main: Figure, ctx: PathContext) -> Figure:
    """The main path by what a test found from the posts to where it was loaded: all of that way as much above what tables say.

    Source: practice: what makes one joint poor, the hands and the tool, has made the others.
    """
    if "path" not in ctx.measured:
        return main
    assumed = way_resistance(ctx.tested_way[::-1], "posts to where the load test is made", ctx)
    copper = Figure.of("R_Cu", ctx.tested_copper, "Ω", "its runs, cold")
    found = as_measured(assumed, ctx.measured, "path", copper)
    if found is assumed:
        return main
    return Figure.by("R_main", "R · R_2 / R_1", "Ω", "main path, post to busbar, as measured", R=main, R_2=found, R_1=assumed)


def way_resistance(way: Iterable[str], label: str, ctx: PathContext) -> Figure:
    """Resistance in Ω of parts in line, from the posts on, warm.

    Source: series resistances add (Kirchhoff); joints and contacts from the assumptions table.
    """
    inputs: dict[str, Figure] = {}
    for key in way:
        part: PartSizing = ctx.parts[key]
        joint = assumption("joint_resistance")
        if part.run:
            inputs[f"{part.node.name}: run ({key})"] = part.run.resistance
            lugs = Figure.of("n", LUGS, "", "lugs", how="two ends on each of two poles")
            inputs[f"{part.node.name}: lugs ({key})"] = Figure.by("4·R_j", "n · R_j", "Ω", "four lugs", n=lugs, R_j=joint)
        if own := kind_of(part.node).resistance(part.node, part):
            inputs[f"{part.node.name} ({key})"] = own
    if ctx.shunt:
        drop = assumption("shunt_drop")
        inputs["shunt"] = Figure.by("R_shunt", "U_s / I_s", "Ω", "shunt", U_s=drop, I_s=ctx.shunt)
    return Figure.by("R_main", "sum", "Ω", label, inputs)
