"""Energy at the posts: what the day takes, where it goes on its way to the loads, what is left behind at the cut-off."""

from collections.abc import Iterable
from dataclasses import dataclass

from kegcart.core.figure import Figure
from kegcart.core.loads.profile import DAY_H
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import kind_of
from kegcart.core.power.path.parts import Idle, PathContext

NOTHING_WH = 1e-6
"""Less than this is rounding, not energy."""


@dataclass(slots=True)
class EnergySizing:
    """Power at the posts by step of the pattern in W; energies in Wh."""

    drawn_w: list[float]
    drawn_day: Figure
    drawn_away: Figure
    wiring_day: Figure
    available: Figure


def first_cutoff(ctx: PathContext, own: Iterable[str], current_a: float, ohm: float) -> tuple[float, Figure]:
    """State of charge at which the first cut-off of so many parts acts at a current, and the voltage it acts at.

    Every part that opens by itself on the way to a load counts, and last the board, or what the cells stand.
    Source: open-circuit curve of the chemistry less Ohm's law.
    """
    cutoffs = [ctx.pack.cutoff]
    for key in own:
        node = ctx.network.nodes[key]
        acts = kind_of(node).cutoff(node, key, ctx)
        if acts is not None and any(ctx.wired.plugged.get(k) for k in (key, *ctx.network.below(key))):
            cutoffs.append(acts.volts)
    cutoff = max(cutoffs, key=lambda f: f.number)
    low, high = 0.0, 1.0
    if ctx.pack.open_circuit(0.0) - current_a * ohm >= cutoff.number:
        return 0.0, cutoff
    for _ in range(30):
        middle = (low + high) / 2
        if ctx.pack.open_circuit(middle) - current_a * ohm >= cutoff.number:
            high = middle
        else:
            low = middle
    return high, cutoff


def taken_w(key: str, ctx: PathContext) -> list[float] | None:
    """Mean power in W by step that a part takes from its source; None where it only passes current on.

    Mean currents are worked out at the voltage that the part's kind names, so power is amps times that.
    """
    node = ctx.network.nodes[key]
    volts = kind_of(node).taken_at(node, key, ctx)
    return None if volts is None else [amps * volts.number for amps in ctx.flows[key].mean]


@dataclass(frozen=True, slots=True)
class Working:
    """What works on the pack, before anything that draws by itself: its parts, power by part and heat of the cables by step in W,
    and the usable energy down to the first cut-off, Wh."""

    own: list[str]
    by_branch: dict[str, list[float]]
    heat: list[float]
    watts: list[float]
    available: Figure


def size_working(ctx: PathContext, main_ohm: Figure) -> Working:
    """What the loads and the way to them take, and what of the pack's energy can be used; further banks are sized apart.

    Source: energies add (conservation of energy).
    """
    own = [key for key in ctx.network.order if ctx.network.source(key) == PACK]
    by_branch = {key: watts for key in own if (watts := taken_w(key, ctx)) is not None}
    heat = cable_heat(own, ctx)
    watts = [sum(w[i] for w in by_branch.values()) + heat[i] for i in range(ctx.loads.day.steps)]
    return Working(own, by_branch, heat, watts, available_energy(own, watts, main_ohm, ctx))


def size_energy(ctx: PathContext, working: Working, idle: list[Idle]) -> EnergySizing:
    """What the day takes from the pack.

    What converters and inverters idle with is within their currents; coils, meter, boards and modules draw besides, day and night.
    Source: energies add; each loss on the way is counted once (conservation of energy).
    """
    day, sheet = ctx.loads.day, ctx.sheet
    own, by_branch, heat, working_w = working.own, working.by_branch, working.heat, working.watts
    standing_w = sum(part.watts.number for part in idle if not part.within)
    drawn_w = [watts + standing_w for watts in working_w]
    draws = {f"{part.name} ({part.place})": part.watts for part in idle if not part.within}
    standing = sheet.put(
        "power/standing", Figure.by("P_st", "sum", "W", "drawn by coils, meter and electronics, day and night", draws)
    )
    how = "I²R of every run at the mean current and nominal voltage, over the day"
    wiring = Figure.of("E_wire", day.energy(heat), "Wh", "lost in the cables a day", how=how)
    sheet.put("power/wiring_day", wiring)
    branches = {f"{ctx.network.nodes[k].name} ({k})": branch_energy(k, watts, ctx) for k, watts in by_branch.items()}
    rest = {}
    if draws:
        a_day = Figure.of("t", 24.0, "h", "a day", how="day and night")
        rest["standing"] = Figure.by(
            "E", "P_st · t", "Wh", "drawn by coils, meter and electronics, a day", P_st=standing, t=a_day
        )
    drawn_day = Figure.by("E_day", "sum", "Wh", "taken from the pack a day", {**branches, "cables": wiring, **rest})
    sheet.put("power/drawn_day", drawn_day)
    how = "the power by the schedule from the hour it is ready, over the hours between charges; the fullest of the pattern"
    most, _ = day.fullest(drawn_w, ctx.brief.ready_h, ctx.brief.hours_away)
    inputs = {"E_day": drawn_day, "t_away": ctx.site.hours_away}
    drawn_away = Figure.of("E_away", most, "Wh", "taken from the pack between charges", how=how, inputs=inputs)
    sheet.put("power/drawn_away", drawn_away)
    available = working.available
    label, taken = "of the usable energy taken between charges", {"E_away": drawn_away, "E_avail": available}
    if available.number > NOTHING_WH:
        share = Figure.by("share", "E_away / E_avail", "share", label, taken)
    else:
        how = "nothing can be used: the pack is empty at its first cut-off"
        share = Figure.of("share", 99.0, "share", label, how=how, inputs=taken)
    sheet.put("power/energy_share", share)
    on_the_way(own, drawn_w, heat, standing_w, drawn_away, available, ctx)
    return EnergySizing(drawn_w, drawn_day, drawn_away, wiring, available)


def cable_heat(own: list[str], ctx: PathContext) -> list[float]:
    """Heat in W of all runs on the pack, by step, at the mean current and nominal voltage.

    Source: I²R (Joule).
    """
    pack, heat = ctx.pack, [0.0] * ctx.loads.day.steps
    for key in own:
        part = ctx.parts[key]
        if part.run:
            ohm_nom = part.run.resistance.number * (pack.v_low.number / pack.v_nom.number) ** 2
            for i, amps in enumerate(part.flow.mean):
                heat[i] += amps * amps * ohm_nom
    return heat


def branch_energy(key: str, watts: list[float], ctx: PathContext) -> Figure:
    """What one branch takes a day, Wh.

    Source: energy is power times time.
    """
    behind = (key, *ctx.network.below(key))
    figure = Figure.of(
        "E",
        ctx.loads.day.energy(watts),
        "Wh",
        f"{ctx.network.nodes[key].name}, a day",
        how="mean power by the schedule, losses included, over the day",
        inputs={d.label: d.energy for k in behind for d in ctx.wired.plugged.get(k, [])},
    )
    return ctx.put(key, "energy_day", figure)


def available_energy(own: list[str], drawn_w: list[float], main_ohm: Figure, ctx: PathContext) -> Figure:
    """Usable energy down to the first cut-off, Wh, and what is left behind there.

    Source: area under the open-circuit curve above the first cut-off.
    """
    day, pack, sheet = ctx.loads.day, ctx.pack, ctx.sheet
    active_h = sum(h for h, w in zip(day.hours, drawn_w, strict=True) if w > 0) / day.days
    mean_a = day.energy(drawn_w) / active_h / pack.v_nom.number if active_h else 0.0
    soc_cut, cutoff = first_cutoff(ctx, own, mean_a, pack.resistance.number + main_ohm.number)
    lost_share = max(0.0, soc_cut - pack.bottom)
    nominal = sheet["pack/nominal"]
    whole = nominal.number * pack.cold_factor.number * sheet["pack/age_factor"].number
    height = pack.chemistry.mean_open_circuit(pack.bottom, soc_cut) / pack.chemistry.v_nom if lost_share else 1.0
    lost = Figure.of(
        "E_cut",
        min(pack.usable.number, lost_share * height * whole),
        "Wh",
        "left behind at the cut-off",
        how=f"the first cut-off acts at {soc_cut * 100:.1f} % charge at the mean current; "
        "what lies between that and the planned depth, by the area under the curve, stays in the pack",
        inputs={"V_cut": cutoff, "R": pack.resistance, "R_main": main_ohm, "E_nom": nominal},
    )
    sheet.put("power/cutoff_loss", lost)
    label = "usable energy down to the first cut-off"
    return sheet.put("power/available", Figure.by("E_avail", "E_use − E_cut", "Wh", label, E_use=pack.usable, E_cut=lost))


def on_the_way(
    own: list[str],
    drawn_w: list[float],
    heat_w: list[float],
    standing_w: float,
    drawn_away: Figure,
    available: Figure,
    ctx: PathContext,
) -> None:
    """What of the usable energy is lost on the way to the loads, if it is used as these days use it.

    Source: losses by efficiency and I²R (Joule).
    """
    day, brief = ctx.loads.day, ctx.brief
    steps = range(day.steps)
    demands = [d for key in own for d in ctx.wired.plugged.get(key, [])]
    reached = [sum(d.average_w for d in demands if day.on[d.key][i]) for i in steps]
    idle, loss = [0.0] * day.steps, [0.0] * day.steps
    for key in own:
        if (inverter := ctx.inverters.get(key)) is None:
            continue
        for i in steps:
            taken = ctx.flows[key].mean[i] * inverter.cutoff.number
            if taken > 0:
                idle[i] += inverter.curve.idle_w
                loss[i] += taken - inverter.ac.mean[i] - inverter.curve.idle_w
    converters = [drawn_w[i] - standing_w - heat_w[i] - reached[i] - idle[i] - loss[i] for i in steps]
    _, first = day.fullest(drawn_w, brief.ready_h, brief.hours_away)
    begins = first * DAY_H + brief.ready_h
    shares = {
        "wiring": ("cables", heat_w),
        "inverter": ("inverter, working", loss),
        "idle": ("inverter, idling", idle),
        "converters": ("converters", converters),
        "standing": ("coils, meter and electronics", [standing_w] * day.steps),
        "reaches": ("reaches the loads", reached),
    }
    for name, (label, watts) in shares.items():
        whole = drawn_away.number
        part = day.energy_between(watts, begins, brief.hours_away) / whole if whole > 0 else 0.0
        how = "share of what these days take from the pack"
        x = Figure.of("x", part, "share", label, how=how, inputs={"E_away": drawn_away})
        figure = Figure.by("E", "E_avail · x", "Wh", f"of the usable energy: {label}", E_avail=available, x=x)
        ctx.sheet.put(f"power/way/{name}", figure)
