"""Runs of cable to the parts of the path: what is asked of each."""

from kegcart.core.electrical.cables import ENDS, Duty, RunSizing, least_section, let_through_figure, size_run
from kegcart.core.electrical.run import Run
from kegcart.core.figure import Figure
from kegcart.core.power.kinds import Outlet, Selector
from kegcart.core.power.path.flow import regulated_voltage
from kegcart.core.power.path.parts import PartSizing, PathContext
from kegcart.core.reference import families

LUGS = 2 * ENDS
"""Joints of one run: two ends on each of two poles."""


def size_part_run(part: PartSizing, ctx: PathContext, guard_a: float) -> RunSizing:
    """The cable to a part; `guard_a` is the protection it must carry, A. See `cables.size_run`."""
    limit = ctx.known("drop_outlet" if isinstance(part.node, Outlet) else "drop_main")
    at, volts, short = f"{part.pointer}/run", drop_voltage(part, ctx), withstand(part, ctx)
    duty = Duty(part.node.run, at, part.current, part.design, guard_a, volts, limit, short)
    return size_run(duty, ctx.practice, lambda name, figure: ctx.put(part.key, f"run/{name}", figure))


def withstand(part: PartSizing, ctx: PathContext) -> Figure | None:
    """The least section in mm² of the cable to a part that survives a short at its beginning until its protection has opened.

    Through the cable up to a first fuse flows what that fuse lets through in a short behind it; a short on that cable itself is
    judged by its length. None where no fuse or breaker guards it: a converter limits what it gives.
    Source: adiabatic equation of IEC 60364-4-43.
    """
    feeder = ctx.parts.get(part.node.feed)
    fault = feeder.fault if feeder and feeder.fault else part.source.fault
    guards = [*ctx.network.guards(part.key), *([part.key] if ctx.network.is_first(part.key) else [])]
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


def path_drop(key: str, ctx: PathContext) -> Figure:
    """Drop in share of the voltage, added up from the post to this part, as if all runs peaked together.

    Source: drops in series add (Kirchhoff).
    """
    steps = {
        f"{ctx.network.nodes[k].name} ({k})": run.drop
        for k in reversed([key, *ctx.network.upstream(key)])
        if (run := ctx.parts[k].run)
    }
    return Figure.by("d_sum", "sum", "share", "voltage drop from the post", steps)
