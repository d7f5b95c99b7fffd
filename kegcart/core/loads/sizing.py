"""Loads: energy a day, running peak, worst surge, all at the sockets."""

from collections.abc import Iterable
from dataclasses import dataclass

from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.electrical.inverter import LossCurve, needed_rating, pick_rating
from kegcart.core.figure import Figure, Sheet
from kegcart.core.loads.document import Load, Loads, Supply
from kegcart.core.loads.profile import Day
from kegcart.core.reference import LoadKind, assumption, constant, inverter_classes, load_kinds

SUPPLIES: dict[Supply, str] = {"ac": "AC", "dc_12v": "regulated 12 V", "usb": "USB", "pack": "straight from the pack"}


@dataclass(slots=True)
class Demand:
    """What one row of loads asks for at its socket."""

    key: str
    load: Load
    kind: LoadKind
    running: Figure
    """all units running, W"""
    duty: Figure
    energy: Figure
    """Wh a day"""
    apparent_va: float
    surge_extra: Figure
    """what a start adds on top of the running sum, W"""
    surge_s: float
    surge_guessed: bool

    @property
    def average_w(self) -> float:
        """Mean power while switched on, W."""
        return self.running.number * self.duty.number


@dataclass(slots=True)
class Peak:
    """The greatest running sum and the worst surge of a group of loads, with the step of the day they fall in."""

    running: Figure
    at_step: int
    surge: Figure
    surge_of: Demand | None
    apparent: Figure


@dataclass(slots=True)
class LoadsSizing:
    """All demands, the day they share, and what the pack must give, estimated until the power path is known."""

    day: Day
    demands: dict[str, Demand]
    energy: Figure
    by_supply: dict[Supply, Figure]
    peak: Peak
    inverter_needed: Figure
    drawn_away: Figure
    drawn_peak: Figure


def running_by_step(demands: Iterable[Demand], day: Day) -> list[float]:
    """Running sum in W in each step of the day."""
    running = [0.0] * day.steps
    for d in demands:
        for i, on in enumerate(day.on[d.key]):
            if on:
                running[i] += d.running.number
    return running


def find_peak(demands: list[Demand], day: Day) -> Peak:
    """Coincident running peak in W, worst surge in W on top of what else runs then, greatest apparent power in VA."""
    running = running_by_step(demands, day)
    apparent = [0.0] * day.steps
    for d in demands:
        for i, on in enumerate(day.on[d.key]):
            if on:
                apparent[i] += d.apparent_va
    at = max(range(day.steps), key=running.__getitem__)
    together = {f"{d.load.name} ({d.key})": d.running for d in demands if day.on[d.key][at]}
    peak = Figure.of(
        "P_peak",
        running[at],
        "W",
        "greatest running sum",
        formula="sum",
        inputs=together,
        how=f"what is scheduled together from {day.edges_h[at]:.4g} h",
    )
    surge, of, base = running[at], None, peak
    for d in demands:
        for i, on in enumerate(day.on[d.key]):
            if on and running[i] + d.surge_extra.number > surge + 1e-9:
                surge, of = running[i] + d.surge_extra.number, d
                base = Figure.of("P_run", running[i], "W", "running sum at that moment")
    worst = Figure.of(
        "P_surge",
        surge,
        "W",
        f"worst surge: {of.load.name} starting" if of else "no surge above the running peak",
        formula="P_run + ΔP" if of else "P_run",
        inputs={"P_run": base, "ΔP": of.surge_extra} if of else {"P_run": peak},
    )
    va = max(apparent)
    parts = {
        f"{d.load.name} ({d.key})": Figure.of("S", d.apparent_va, "VA", d.load.name)
        for d in demands
        if day.on[d.key][apparent.index(va)]
    }
    return Peak(peak, at, worst, of, Figure.of("S", va, "VA", "greatest apparent power", formula="sum", inputs=parts))


def size_load(key: str, load: Load, day: Day, sheet: Sheet) -> Demand:
    """Figures of one row of loads."""
    at, kind = f"/loads/items/{key}", load_kinds()[load.kind]
    count = Figure.decided("n", load.count, "", "count", f"{at}/count")
    watts = Figure.decided("P", load.watts, "W", "running power of one", f"{at}/watts")
    running = sheet.put(
        f"loads/{key}/running",
        Figure.of("P_run", load.count * load.watts, "W", "running power", formula="n · P", inputs={"n": count, "P": watts}),
    )
    if load.cycle:
        on = Figure.decided("t_on", load.cycle.on_min, "min", "on", f"{at}/cycle/on_min")
        off = Figure.decided("t_off", load.cycle.off_min, "min", "off", f"{at}/cycle/off_min")
        duty_value = load.cycle.on_min / (load.cycle.on_min + load.cycle.off_min)
        duty = Figure.of("d", duty_value, "share", "duty", formula="t_on / (t_on + t_off)", inputs={"t_on": on, "t_off": off})
    else:
        duty = Figure.of("d", 1.0, "share", "duty", how="runs all the time it is switched on")
    hours_on = sum(h for h, is_on in zip(day.hours, day.on[key], strict=True) if is_on)
    hours = Figure.decided("t", hours_on, "h", "hours a day", f"{at}/windows")
    energy = Figure.of(
        "E",
        running.number * duty.number * hours_on,
        "Wh",
        "energy a day at the socket",
        formula="n · P · d · t",
        inputs={"n": count, "P": watts, "d": sheet.put(f"loads/{key}/duty", duty), "t": sheet.put(f"loads/{key}/hours", hours)},
    )
    if load.surge is not None:
        multiple = Figure.decided("k", load.surge, "×", "surge multiple", f"{at}/surge")
    else:
        multiple = kind.figure("k", kind.surge, "×", f"surge multiple, {kind.label}")
    starting = load.count if load.start_together else 1
    starts = Figure.decided("n_start", starting, "", "units starting at once", f"{at}/start_together")
    extra = Figure.of(
        "ΔP",
        starting * load.watts * (multiple.number - 1),
        "W",
        "what a start adds",
        formula="n_start · P · (k − 1)",
        inputs={"n_start": starts, "P": watts, "k": multiple},
    )
    if load.power_factor is not None:
        factor = Figure.decided("pf", load.power_factor, "", "power factor", f"{at}/power_factor")
    else:
        factor = kind.figure("pf", kind.power_factor, "", f"power factor, {kind.label}")
    apparent = running.number / factor.number
    sheet.put(
        f"loads/{key}/apparent",
        Figure.of("S", apparent, "VA", "apparent power", formula="P_run / pf", inputs={"P_run": running, "pf": factor}),
    )
    return Demand(
        key,
        load,
        kind,
        running,
        duty,
        sheet.put(f"loads/{key}/energy", energy),
        apparent,
        sheet.put(f"loads/{key}/surge_extra", extra),
        load.surge_s if load.surge_s is not None else kind.surge_s,
        load.surge is None and kind.is_motor,
    )


def estimate_drawn(
    demands: dict[str, Demand], day: Day, brief: Brief, site: Site, inverter_w: float, sheet: Sheet
) -> tuple[Figure, Figure]:
    """What the pack must give, estimated with typical converters until the power path is known: Wh between charges and peak W."""
    curve = LossCurve.typical(inverter_w)
    eta = {"dc_12v": constant("converter_eta"), "usb": constant("usb_eta"), "pack": 1.0}
    mean, full = [0.0] * day.steps, [0.0] * day.steps
    for i in range(day.steps):
        running = [d for d in demands.values() if day.on[d.key][i]]
        ac = [d for d in running if d.load.supply == "ac"]
        if ac and inverter_w:
            mean[i] += curve.drawn(sum(d.average_w for d in ac))
            full[i] += curve.drawn(sum(d.running.number for d in ac))
        for d in running:
            if d.load.supply != "ac":
                mean[i] += d.average_w / eta[d.load.supply]
                full[i] += d.running.number / eta[d.load.supply]
    away = Figure.of(
        "E_away",
        day.energy_between(mean, brief.ready_h, brief.hours_away),
        "Wh",
        "asked of the pack between charges, estimate",
        how="loads over the schedule through typical inverter and converters; the power path replaces it",
        inputs={
            "η_c": assumption("converter_eta"),
            "η_u": assumption("usb_eta"),
            "η_35": assumption("inverter_eta_part"),
            "t_away": site.hours_away,
        },
    )
    rated = curve.drawn(inverter_w) if inverter_w else 0.0
    other = (
        max(f for f in full)
        if not inverter_w
        else max(
            sum(d.running.number / eta[d.load.supply] for d in demands.values() if d.load.supply != "ac" and day.on[d.key][i])
            for i in range(day.steps)
        )
    )
    peak = Figure.of(
        "P_est",
        max(max(full), rated + other if rated else 0.0) * (1 + site.growth.number),
        "W",
        "peak asked of the pack, estimate",
        how="the inverter that serves, at its rating, with the greatest DC sum; growth allowed for",
    )
    return sheet.put("loads/drawn_away_estimate", away), sheet.put("loads/drawn_peak_estimate", peak)


def size_loads(loads: Loads, brief: Brief, site: Site, sheet: Sheet) -> LoadsSizing:
    """Figures of all loads; energies in Wh a day at the sockets."""
    day = Day.of(loads)
    demands = {key: size_load(key, load, day, sheet) for key, load in loads.items.items()}
    by_supply: dict[Supply, Figure] = {}
    for supply, label in SUPPLIES.items():
        parts = {d.load.name + f" ({d.key})": d.energy for d in demands.values() if d.load.supply == supply}
        total = Figure.of("E", sum(p.number for p in parts.values()), "Wh", f"energy a day, {label}", formula="sum", inputs=parts)
        by_supply[supply] = sheet.put(f"loads/energy_{supply}", total)
    energy = Figure.of(
        "E_day",
        sum(f.number for f in by_supply.values()),
        "Wh",
        "energy a day at the sockets",
        formula="sum",
        inputs={SUPPLIES[s]: f for s, f in by_supply.items()},
    )
    peak = find_peak(list(demands.values()), day)
    sheet.put("loads/peak", peak.running)
    sheet.put("loads/surge", peak.surge)
    sheet.put("loads/peak_at", Figure.of("t_peak", day.edges_h[peak.at_step], "clock", "when the running peak begins"))
    ac = find_peak([d for d in demands.values() if d.load.supply == "ac"], day)
    sheet.put("loads/ac_peak", ac.running)
    sheet.put("loads/ac_surge", ac.surge)
    sheet.put("loads/ac_apparent", ac.apparent)
    grown = 1 + site.growth.number
    needed = needed_rating(ac.running.number * grown, ac.surge.number * grown, ac.apparent.number * grown, site.inside_c.number)
    every_rating = sorted({r for row in inverter_classes() for r in row.ratings_w})
    rating = pick_rating(every_rating, needed) if ac.running.number > 0 else 0.0
    inverter = Figure.of(
        "P_inv",
        rating,
        "W",
        "inverter that would serve",
        how="smallest sold at which the running sum is 80 % of the derated rating, the surge within its multiple, VA within the rating; growth allowed for",
        inputs={"P_peak": ac.running, "P_surge": ac.surge, "S": ac.apparent, "T_in": site.inside_c, "g": site.growth},
    )
    away, drawn_peak = estimate_drawn(demands, day, brief, site, rating, sheet)
    return LoadsSizing(
        day,
        demands,
        sheet.put("loads/energy_day", energy),
        by_supply,
        peak,
        sheet.put("loads/inverter_needed", inverter),
        away,
        drawn_peak,
    )
