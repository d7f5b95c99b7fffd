"""Runs of cable to the parts of the path: what is asked of each."""

from kegcart.core.electrical.cables import ENDS, Duty, RunSizing, least_section, let_through_figure, size_run
from kegcart.core.figure import Figure
from kegcart.core.power.kinds import Outlet
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

    None where no fuse or breaker guards it: a converter limits what it gives; what stands before the first fuse is judged by its
    length. Source: adiabatic equation of IEC 60364-4-43.
    """
    guard = ctx.parts[part.guard] if part.guard else None
    if guard is None or guard.rating is None or guard.family is None:
        return None
    feeder = ctx.parts.get(part.node.feed)
    fault = feeder.fault if feeder and feeder.fault else part.source.fault
    energy = let_through_figure(families()[guard.family.key], guard.rating, fault)
    return least_section(energy, part.node.run, f"{part.pointer}/run")


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
