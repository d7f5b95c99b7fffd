"""Runs that lead to no part of the tree: the main negative, the supply lead of the meter."""

from dataclasses import replace

from kegcart.core.electrical.cables import Duty, least_section, let_through_figure, pick_wire, size_run, size_small_lead
from kegcart.core.electrical.run import Run
from kegcart.core.figure import Figure
from kegcart.core.power.fed import PACK
from kegcart.core.power.path.flow import Flow
from kegcart.core.power.path.parts import PartSizing, PathContext
from kegcart.core.reference import assumption, families

AS_THE_POSITIVE = (
    "as the thickest of the positive runs from the post to the busbar, and no thinner than what returns by it asks for"
)


def size_leads(ctx: PathContext) -> None:
    """The main negative and the lead of the meter; fills `ctx.negative` and `ctx.meter`."""
    if ctx.network.children[PACK]:
        size_negative(ctx)
    if ctx.path.shunt is not None:
        size_meter_lead(ctx)


def first_protections(ctx: PathContext) -> list[PartSizing]:
    """The protections that stand first behind the posts of the pack, one for each branch that has one."""
    network = ctx.network
    keys = [
        k
        for root in network.children[PACK]
        for k in ([root] if network.role(root) == "protects" else network.nearest_protections(root))
    ]
    return [ctx.parts[k] for k in keys]


def protection_sum(ctx: PathContext) -> Figure:
    """What the first protections let through together into the main negative, A. Source: currents add at a node (Kirchhoff)."""
    ratings = {f"{p.node.name} ({p.key})": p.rating for p in first_protections(ctx) if p.rating is not None}
    return Figure.by("I_fuses", "sum", "A", "the first fuses together", ratings)


def size_negative(ctx: PathContext) -> None:
    """The main negative: it mirrors the positive until it is decided for itself.

    Source: the same current returns (Kirchhoff); as every run, see `cables.size_run`.
    """
    network, own = ctx.network, ctx.path.negative
    main = [ctx.parts[k] for k in network.main_path() if ctx.parts[k].run] or [
        ctx.parts[k] for k in network.children[PACK] if ctx.parts[k].run
    ]
    runs = [part.run for part in main if part.run]
    if not runs:
        return
    total = Flow.total((ctx.flows[key] for key in network.feeds[PACK]), ctx.loads.day)
    step = total.design_step
    amps = max(total.running[step] + total.spare[step], total.inward)
    how = "all that the positive side takes, inverters at their rating, or all that is brought in"
    design = ctx.sheet.put("power/negative/design", Figure.of("I_d", amps, "A", "design current of the pack", how=how))
    how = "what runs at once by the schedule"
    current = ctx.sheet.put("power/negative/current", Figure.of("I", total.peak, "A", "greatest running current", how=how))
    at = "/power/negative"
    thickest = max(runs, key=lambda run: run.wire.area_mm2)
    mirrored = main[0].node.run.model_copy(update={"length_m": sum(p.node.run.length_m for p in main), "gauge": None})
    run: Run = own or mirrored
    source = ctx.sources[PACK]
    sections = [
        least_section(let_through_figure(families()[p.family.key], p.rating, source.fault), run, at)
        for p in first_protections(ctx)
        if p.rating is not None and p.family is not None
    ]
    short = max(sections, key=lambda figure: figure.number, default=None)
    mirrors = "" if own else AS_THE_POSITIVE
    guard_a, limit = protection_sum(ctx).number, ctx.known("drop_main")
    duty = Duty(run, at, current, design, guard_a, source.v_low, limit, short, 1, mirrors=mirrors)
    if not own:  # what returns by it may be more than any one branch brings
        like = max((thickest.wire, pick_wire(duty, ctx.practice)), key=lambda wire: wire.area_mm2)
        duty = replace(duty, like=like)
    ctx.negative = size_run(duty, ctx.practice, lambda name, figure: ctx.sheet.put(f"power/negative/run/{name}", figure))


def size_meter_lead(ctx: PathContext) -> None:
    """The supply lead of the meter, from the positive post. Source: see `cables.size_small_lead`."""
    shunt, source = ctx.path.shunt, ctx.sources[PACK]
    assert shunt is not None
    drawn = assumption("meter_draw")
    ctx.meter = size_small_lead(
        shunt.lead,
        "/power/shunt/lead",
        drawn,
        source.v_max,
        source.v_low,
        source.fault_resistance,
        shunt.lead_fused,
        ctx.practice,
        lambda name, figure: ctx.sheet.put(f"power/shunt/run/{name}", figure),
    )
