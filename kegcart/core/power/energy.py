"""Energy at the posts: what the day takes, where it goes on its way to the loads, what is left behind at the cut-off."""

from collections.abc import Iterable
from dataclasses import dataclass

from kegcart.core.figure import Figure
from kegcart.core.loads.profile import DAY_H
from kegcart.core.loads.sizing import Demand
from kegcart.core.power.document import PACK, Converter, Inverter, Outlet
from kegcart.core.power.flow import Flow
from kegcart.core.power.parts import Bench, InverterSizing


@dataclass(slots=True)
class EnergySizing:
    """Power at the posts by step of the pattern in W; energies in Wh."""

    drawn_w: list[float]
    drawn_day: Figure
    drawn_away: Figure
    wiring_day: Figure
    available: Figure


def first_cutoff(bench: Bench, inverters: Iterable[InverterSizing], current_a: float, ohm: float) -> tuple[float, Figure]:
    """State of charge at which the first cut-off acts at a current, and the voltage it acts at."""
    cutoffs = [i.cutoff for i in inverters] or [bench.pack.cutoff]
    cutoff = max(cutoffs, key=lambda f: f.number)
    low, high = 0.0, 1.0
    if bench.pack.open_circuit(0.0) - current_a * ohm >= cutoff.number:
        return 0.0, cutoff
    for _ in range(30):
        middle = (low + high) / 2
        if bench.pack.open_circuit(middle) - current_a * ohm >= cutoff.number:
            high = middle
        else:
            low = middle
    return high, cutoff


def size_energy(
    bench: Bench, plugged: dict[str, list[Demand]], inverters: dict[str, InverterSizing], flows: dict[str, Flow], main_ohm: Figure
) -> EnergySizing:
    """What the day takes from the pack, and what of its energy can be used; further banks are sized apart."""
    # Mean currents were reckoned at the lowest working voltage, so power is amps times that.
    brief, site, pack, network, sheet = bench.brief, bench.site, bench.pack, bench.network, bench.sheet
    day = bench.loads.day
    own = [key for key in network.order if network.source(key) == PACK]
    by_branch: dict[str, list[float]] = {}
    for key in own:
        node = network.nodes[key]
        if isinstance(node, Inverter):
            by_branch[key] = [a * inverters[key].cutoff.number for a in flows[key].mean]
        elif isinstance(node, Converter) or (isinstance(node, Outlet) and network.supply(key) in ("usb", "pack")):
            by_branch[key] = [a * pack.v_low.number for a in flows[key].mean]
    heat = [0.0] * day.steps
    for key in own:
        part = bench.parts[key]
        if part.run:
            ohm_nom = part.run.resistance.number * (pack.v_low.number / pack.v_nom.number) ** 2
            for i, amps in enumerate(part.flow.mean):
                heat[i] += amps * amps * ohm_nom
    drawn_w = [sum(w[i] for w in by_branch.values()) + heat[i] for i in range(day.steps)]
    wiring = sheet.put(
        "power/wiring_day",
        Figure.of(
            "E_wire",
            day.energy(heat),
            "Wh",
            "lost in the cables a day",
            how="I²R of every run at the mean current and nominal voltage, over the day",
        ),
    )
    inputs = {
        network.nodes[k].name + f" ({k})": sheet.put(
            f"power/{k}/energy_day",
            Figure.of(
                "E",
                day.energy(w),
                "Wh",
                f"{network.nodes[k].name}, a day",
                how="mean power by the schedule, losses included, over the day",
                inputs={d.label: d.energy for o in (k, *network.below(k)) for d in plugged.get(o, [])},
            ),
        )
        for k, w in by_branch.items()
    }
    drawn_day = sheet.put(
        "power/drawn_day", Figure.by("E_day", "sum", "Wh", "taken from the pack a day", {**inputs, "cables": wiring})
    )
    drawn_away = sheet.put(
        "power/drawn_away",
        Figure.of(
            "E_away",
            day.fullest(drawn_w, brief.ready_h, brief.hours_away)[0],
            "Wh",
            "taken from the pack between charges",
            how="the power by the schedule from the hour it is ready, over the hours between charges; the fullest of the pattern",
            inputs={"E_day": drawn_day, "t_away": site.hours_away},
        ),
    )

    active_h = sum(h for h, w in zip(day.hours, drawn_w, strict=True) if w > 0) / day.days
    mean_a = day.energy(drawn_w) / active_h / pack.v_nom.number if active_h else 0.0
    ohm = pack.resistance.number + main_ohm.number
    on_pack = {key: inverters[key] for key in own if key in inverters}
    soc_cut, cutoff = first_cutoff(bench, on_pack.values(), mean_a, ohm)
    floor = pack.chemistry.window_high - pack.depth.number
    lost_share = max(0.0, soc_cut - max(0.0, floor))
    nominal = sheet["pack/nominal"]
    lost = sheet.put(
        "power/cutoff_loss",
        Figure.of(
            "E_cut",
            min(pack.usable.number, lost_share * nominal.number * pack.cold_factor.number * sheet["pack/age_factor"].number),
            "Wh",
            "left behind at the cut-off",
            how=f"the first cut-off acts at {soc_cut * 100:.1f} % charge at the mean current; what lies between that and the planned depth stays in the pack",
            inputs={"V_cut": cutoff, "R": pack.resistance, "R_main": main_ohm, "E_nom": nominal},
        ),
    )
    available = sheet.put(
        "power/available",
        Figure.by("E_avail", "E_use − E_cut", "Wh", "usable energy down to the first cut-off", E_use=pack.usable, E_cut=lost),
    )
    label, taken = "of the usable energy taken between charges", {"E_away": drawn_away, "E_avail": available}
    share = (
        Figure.by("share", "E_away / E_avail", "share", label, taken)
        if available.number > 0
        else Figure.of(
            "share", 99.0, "share", label, how="nothing can be used: the pack is empty at its first cut-off", inputs=taken
        )
    )
    sheet.put("power/energy_share", share)
    held = {key: plugged[key] for key in own if key in plugged}
    on_the_way(bench, held, on_pack, flows, drawn_w, heat, drawn_away, available)
    return EnergySizing(drawn_w, drawn_day, drawn_away, wiring, available)


def on_the_way(
    bench: Bench,
    plugged: dict[str, list[Demand]],
    inverters: dict[str, InverterSizing],
    flows: dict[str, Flow],
    drawn_w: list[float],
    heat_w: list[float],
    drawn_away: Figure,
    available: Figure,
) -> None:
    """What of the usable energy is lost on the way to the loads, if it is used as these days use it."""
    day, brief = bench.loads.day, bench.brief
    on = day.on
    steps = range(day.steps)
    reached = [sum(d.average_w for held in plugged.values() for d in held if on[d.key][i]) for i in steps]
    idle, loss = [0.0] * day.steps, [0.0] * day.steps
    for key, inverter in inverters.items():
        for i in steps:
            taken = flows[key].mean[i] * inverter.cutoff.number
            if taken > 0:
                idle[i] += inverter.curve.idle_w
                loss[i] += taken - inverter.ac.mean[i] - inverter.curve.idle_w
    converters = [drawn_w[i] - heat_w[i] - reached[i] - idle[i] - loss[i] for i in steps]
    _, first = day.fullest(drawn_w, brief.ready_h, brief.hours_away)
    begins = first * DAY_H + brief.ready_h
    whole = drawn_away.number
    shares = {
        "wiring": ("cables", heat_w),
        "inverter": ("inverter, working", loss),
        "idle": ("inverter, idling", idle),
        "converters": ("converters", converters),
        "reaches": ("reaches the loads", reached),
    }
    for name, (label, watts) in shares.items():
        part = day.energy_between(watts, begins, brief.hours_away) / whole if whole > 0 else 0.0
        bench.sheet.put(
            f"power/way/{name}",
            Figure.by(
                "E",
                "E_avail · x",
                "Wh",
                f"of the usable energy: {label}",
                E_avail=available,
                x=Figure.of(
                    "x", part, "share", label, how="share of what these days take from the pack", inputs={"E_away": drawn_away}
                ),
            ),
        )
