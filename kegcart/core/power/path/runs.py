"""Runs of cable to the parts of the path: what is asked of each, and of all on the way to a socket."""

from itertools import takewhile

from kegcart.core.electrical.cables import ENDS, Duty, RunSizing, least_section, let_through_figure, pick_wire, size_run
from kegcart.core.electrical.protection import SoldProtection
from kegcart.core.electrical.run import Run
from kegcart.core.figure import Figure
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import Outlet, Selector, kind_of
from kegcart.core.power.path.flow import regulated_voltage
from kegcart.core.power.path.parts import PartSizing, PathContext
from kegcart.core.reference import Wire, constant, families

LUGS = 2 * ENDS
"""Joints of one run: two ends on each of two poles."""


def size_part_run(part: PartSizing, ctx: PathContext, guard_a: float) -> RunSizing:
    """The cable to a part; `guard_a` is the protection it must carry, A. See `cables.size_run`."""
    duty = duty_of(part, ctx, guard_a, withstand(part, ctx))
    return size_run(duty, ctx.practice, lambda name, figure: ctx.put(part.key, f"run/{name}", figure))


def duty_of(part: PartSizing, ctx: PathContext, guard_a: float, short: Figure | None) -> Duty:
    """What is asked of the cable to a part, behind a protection of so many A. short: the least section in mm² that survives one."""
    to_outlet = isinstance(part.node, Outlet)
    limit = ctx.known("drop_outlet" if to_outlet else "drop_main")
    least = constant(f"outlet_least_{ctx.practice.system}") if to_outlet else 0.0
    at, volts = f"{part.pointer}/run", drop_voltage(part, ctx)
    sparing = left_for(part, ctx) if on_a_path(part.key, ctx) else share_of_main(part, ctx)
    return Duty(part.node.run, at, part.current, part.design, guard_a, volts, limit, short, least_mm2=least, sparing=sparing)


def wire_behind(part: PartSizing, guard: SoldProtection, ctx: PathContext) -> Wire:
    """The thinnest wire that would serve to a part where a protection is all that guards it."""
    rating = Figure.of("I_fuse", guard.rating_a, "A", "rating")
    energy = let_through_figure(guard.family, rating, part.fault or part.source.fault)
    short = least_section(energy, part.node.run, f"{part.pointer}/run")
    return pick_wire(duty_of(part, ctx, guard.rating_a, short), ctx.practice)


def withstand(part: PartSizing, ctx: PathContext) -> Figure | None:
    """The least section in mm² of the cable to a part that survives a short at its beginning until its protection has opened.

    Through the cable up to a first fuse, or the short tap to a branch fuse, flows what that fuse lets through in a short behind it;
    a short on that cable itself is judged by its length. None where no fuse or breaker guards it: a converter limits what it gives.
    Source: adiabatic equation of IEC 60364-4-43.
    """
    feeder = ctx.parts.get(part.node.feed)
    fault = feeder.fault if feeder and feeder.fault else part.source.fault
    guards = [part.key] if ctx.network.guards_its_own(part.key) else ctx.network.guards(part.key)
    return worst_section(guards, fault, part.node.run, f"{part.pointer}/run", ctx)


def worst_section(guards: list[str], fault: Figure, run: Run, at: str, ctx: PathContext) -> Figure | None:
    """The least section in mm² of a run that survives the worst of the protections that may stand before it."""
    sections = []
    for key in guards:
        guard = ctx.parts[key]
        if guard.rating is not None and guard.family is not None:
            energy = let_through_figure(families()[guard.family.key], guard.rating, fault)
            sections.append(least_section(energy, run, at))
    return max(sections, key=lambda figure: figure.number, default=None)


def size_other_run(part: PartSizing, node: Selector, ctx: PathContext, fault: Figure) -> RunSizing:
    """The cable to a selector from its other way, with the fault in A where it begins. See `cables.size_run`."""
    at, guard = f"{part.pointer}/other_run", ctx.network.guard_of_way(node.other)
    rating = ctx.parts[guard].rating if guard else None
    short = worst_section([guard] if guard else [], fault, node.other_run, at, ctx)
    guard_a, limit = rating.number if rating else 0.0, ctx.known("drop_main")
    duty = Duty(node.other_run, at, part.current, part.design, guard_a, drop_voltage(part, ctx), limit, short)
    return size_run(duty, ctx.practice, lambda name, figure: ctx.put(part.key, f"other_run/{name}", figure))


def drop_voltage(part: PartSizing, ctx: PathContext) -> Figure:
    """The voltage that a drop is judged at, V: regulated behind a converter, elsewhere the lowest working voltage."""
    regulated = ctx.network.stands_on[part.key] == "dc_12v"
    return regulated_voltage() if regulated else part.source.v_low


def on_a_path(key: str, ctx: PathContext) -> bool:
    """Whether the drop up to a part is judged: a socket that gives what the pack gives. A converter, a USB module or an inverter holds
    its own voltage.
    """
    return isinstance(ctx.network.nodes[key], Outlet) and ctx.network.supply(key) in ("pack", "dc_12v")


def way_to(key: str, ctx: PathContext) -> list[str]:
    """The parts from a part up to its source, or to the converter that holds the voltage, nearest first."""
    way = takewhile(lambda k: ctx.network.role(k) != "changes", ctx.network.upstream(key))
    return [key, *way]


def path_ohm(key: str, ctx: PathContext) -> float:
    """Resistance in Ω that a part adds to the path: its run, its lugs, its own contacts."""
    part = ctx.parts[key]
    own = kind_of(part.node).resistance(part.node, part)
    run = part.run.resistance.number + LUGS * constant("joint_resistance") if part.run else 0.0
    return run + (own.number if own else 0.0)


def shunt_volts(step: int, way: list[str], ctx: PathContext) -> float:
    """What the shunt takes in a step of the day, V; nothing for what does not come from the pack."""
    if ctx.shunt is None or ctx.network.nodes[way[-1]].feed != PACK:
        return 0.0
    amps = sum(ctx.flows[key].running[step] for key in ctx.network.feeds[PACK])
    return amps * constant("shunt_drop") / ctx.shunt.number


def taken_before(key: str, ctx: PathContext) -> tuple[int, float]:
    """The step of the day at which most voltage is taken before a socket while something runs there, and how many V."""
    if (known := ctx.taken_before.get(key)) is not None:
        return known
    way, running = way_to(key, ctx), ctx.flows[key].running
    parts = [(ctx.flows[k].running, path_ohm(k, ctx)) for k in way[1:]]
    volts = {
        step: sum(flow[step] * ohm for flow, ohm in parts) + shunt_volts(step, way, ctx)
        for step, amps in enumerate(running)
        if amps > 0
    }
    step = max(volts, key=lambda t: volts[t], default=0)
    ctx.taken_before[key] = step, volts.get(step, 0.0)
    return ctx.taken_before[key]


def left_for(part: PartSizing, ctx: PathContext) -> tuple[float, float]:
    """What the copper of the run to a socket may take: (A, V), of what the path before it and its own lugs leave."""
    amps, joints = part.current.number, LUGS * constant("joint_resistance")
    left = constant("drop_path") * drop_voltage(part, ctx).number - taken_before(part.key, ctx)[1]
    return amps, left - amps * joints


def share_of_main(part: PartSizing, ctx: PathContext) -> tuple[float, float] | None:
    """What the copper of a run on the way to sockets may take: (A, V), its share by length of what the path to the worst socket leaves.

    None where it leads to no socket whose drop is judged.
    """
    a_metre = ctx.volts_a_metre
    if not a_metre:
        for socket in (key for key in ctx.network.outlets() if on_a_path(key, ctx)):
            volts = volts_a_metre(socket, ctx)
            for key in way_to(socket, ctx):
                a_metre[key] = min(volts, a_metre.get(key, volts))
    if part.key not in a_metre:
        return None
    return part.current.number, a_metre[part.key] * part.node.run.length_m


def volts_a_metre(key: str, ctx: PathContext) -> float:
    """What the copper on the way to a socket may take for each metre, V, before lugs, fuses and contacts are known for certain.

    A fifth of the limit is the copper's whatever they take: where they take the most of it, no cable helps.
    """
    way, limit = way_to(key, ctx), constant("drop_path") * drop_voltage(ctx.parts[key], ctx).number
    fixed = constant("shunt_drop") / constant("fuse_margin") if ctx.shunt else 0.0
    metres = 0.0
    for k in way:
        part = ctx.parts[k]
        if not ctx.network.in_block(k):
            metres += part.node.run.length_m
            fixed += part.current.number * LUGS * constant("joint_resistance")
        if ctx.network.role(k) == "protects":
            fixed += constant("fuse_drop") / constant("fuse_margin")
        elif ctx.network.role(k) == "passes" and (own := kind_of(part.node).resistance(part.node, part)):
            fixed += part.current.number * own.number
    return max(limit - fixed, limit / 5) / max(metres, 0.01)


def path_drop(key: str, ctx: PathContext) -> Figure:
    """Drop in share of the voltage from the post, or from the converter, to a socket, at the worst moment of what runs by the schedule:
    cables, lugs, fuses, contacts and shunt.

    Source: drops in series add (Kirchhoff).
    """
    part, (step, _) = ctx.parts[key], taken_before(key, ctx)
    way, volts = way_to(key, ctx), drop_voltage(part, ctx)
    shares = {}
    for k in reversed(way):
        name, ohm = ctx.network.nodes[k].name, path_ohm(k, ctx)
        if ohm > 0:
            amps = ctx.flows[k].running[step]
            label = f"{name}, from {ctx.loads.day.moment(ctx.loads.day.edges_h[step])}"
            inputs = {"R": Figure.of("R", ohm, "Ω", f"{name}: cable, lugs, contacts"), "I_max": ctx.parts[k].current, "V": volts}
            shares[f"{name} ({k})"] = Figure.of("d", amps * ohm / volts.number, "share", label, how="I · R / V", inputs=inputs)
    if taken := shunt_volts(step, way, ctx):
        assert ctx.shunt is not None
        shares["shunt"] = Figure.of(
            "d", taken / volts.number, "share", "shunt", how="I · U_s / I_s / V", inputs={"I_s": ctx.shunt}
        )
    return Figure.by("d_sum", "sum", "share", "voltage drop up to the socket", shares)
