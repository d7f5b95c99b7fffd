"""Currents: what flows into every part, running, by design, and in the worst surge, with what makes it up."""

from dataclasses import replace

from kegcart.core.figure import Figure
from kegcart.core.power.kinds import kind_of
from kegcart.core.power.path.flow import Flow
from kegcart.core.power.path.network import Network
from kegcart.core.power.path.parts import PartSizing, PathContext


def upward(network: Network) -> list[str]:
    """Every part after all that it may have to feed, the branches of selectors included."""
    out: list[str] = []
    seen: set[str] = set()

    def visit(key: str) -> None:
        if key in seen:
            return
        seen.add(key)
        for child in network.feeds[key]:
            visit(child)
        out.append(key)

    for key in reversed(network.order):
        visit(key)
    return out


def find_flows(ctx: PathContext) -> dict[str, Flow]:
    """Amps into every part at the lowest working voltage; watts into outlets behind an inverter. Fills `ctx.flows`."""
    for key in upward(ctx.network):
        node = ctx.network.nodes[key]
        kind = kind_of(node)
        # A part that a selector can be switched to must carry that branch too.
        behind = Flow.total((ctx.flows[child] for child in ctx.network.feeds[key] if child in ctx.flows), ctx.loads.day)
        flow = kind.flow(node, key, behind, ctx)
        if brought := kind.brings(node, key, ctx):
            flow = replace(flow, inward=flow.inward + brought.number)
        ctx.flows[key] = flow
    return ctx.flows


def size_currents(key: str, ctx: PathContext) -> PartSizing:
    """A part with its greatest running, design and surge current, and what makes them up."""
    node, flow = ctx.network.nodes[key], ctx.flows[key]
    kind = kind_of(node)
    brought = kind.brings(node, key, ctx) if kind.facts.brings_in else brought_in(flow)
    current = brought or kind.running(node, key, ctx)
    design, surge = design_current(key, current, ctx), worst_surge(flow, current, ctx)
    for name, figure in (("current", current), ("design", design), ("surge", surge)):
        ctx.put(key, name, figure)
    return PartSizing(key, node, flow, current, design, surge, ctx.network.guard(key), ctx.source(key))


def brought_in(flow: Flow) -> Figure | None:
    """What all sources behind a part bring in together, A, where that is more than it ever gives; None where it is not.

    Source: currents add at a node (Kirchhoff).
    """
    if flow.inward <= flow.peak:
        return None
    return Figure.of(
        "I_in", flow.inward, "A", "brought in by the sources behind it", how="all loads off, every source at its current"
    )


def worst_surge(flow: Flow, current: Figure, ctx: PathContext) -> Figure:
    """The greatest start on top of what runs at its worst moment.

    Source: currents add at a node (Kirchhoff).
    """
    worst = flow.worst_start
    value = flow.worst(worst) if worst else 0.0
    if worst is None or value <= max(flow.peak, current.number):
        return Figure.by("I_surge", "I", current.unit, "worst surge", how="nothing here starts with a surge", I=current)
    start = ctx.loads.starts[worst.key]
    how = f"{start.name} starting, for {worst.length_s:g} s, on top of what runs then"
    return Figure.of("I_surge", value, current.unit, "worst surge", how=how, inputs={"I": current, "ΔP": start.extra})


def design_current(key: str, current: Figure, ctx: PathContext) -> Figure:
    """What fuse and cable are sized for: the running current, with every inverter at its rating, or all that is brought in.

    Source: practice: whoever has a plug will load the inverter to its rating.
    """
    node, flow = ctx.network.nodes[key], ctx.flows[key]
    kind, step = kind_of(node), flow.design_step
    value = flow.running[step] + flow.spare[step]
    if kind.facts.brings_in:
        return Figure.by("I_d", "I", current.unit, "design current", I=current)
    if flow.inward > value:
        how = "all loads off, every source at its current"
        brought = brought_in(flow) or Figure.of("I_in", flow.inward, "A", "brought in by the sources behind it", how=how)
        return Figure.by("I_d", "I_in", "A", "design current: charging", I_in=brought)
    if value <= flow.peak + 1e-9:
        return Figure.by("I_d", "I", current.unit, "design current", I=current)
    if rated := kind.at_rating(node, key, ctx):
        return Figure.by("I_d", "I_rated", "A", "design current: the inverter at its rating", I_rated=rated)
    shares = {}
    for child in ctx.network.feeds[key]:
        name, part = ctx.network.nodes[child].name, ctx.flows[child]
        amps = part.running[step] + part.spare[step]
        shares[f"{name} ({child})"] = Figure.of("I", amps, "A", name, inputs={"I_d": ctx.parts[child].design})
    return Figure.by("I_d", "sum", "A", "design current: inverters at their rating", shares)
