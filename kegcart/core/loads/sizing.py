"""Loads: energy a day, running peak, worst surge, all at the sockets."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import assert_never, cast

from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.choice import assumed
from kegcart.core.electrical.inverter import LossCurve, Promise, needed_rating, pick_rating
from kegcart.core.figure import Figure, Sheet
from kegcart.core.loads.document import Load, Loads, MeterReading, VoltsAmps
from kegcart.core.loads.profile import DAY_H, Day
from kegcart.core.loads.supplies import SUPPLIES, Supply, efficiency
from kegcart.core.reference import LoadKind, assumption, inverter_classes, load_kinds
from kegcart.core.simulation.inputs import Law


@dataclass(slots=True)
class Demand:
    """What one row of loads asks for at its socket."""

    key: str
    load: Load
    kind: LoadKind
    watts: Figure
    """one unit running, W"""
    running: Figure
    """all units running, W"""
    duty: Figure
    energy: Figure
    """Wh a day, the mean over the pattern of days"""
    apparent_va: float
    surge_extra: Figure
    """what a start adds on top of the running sum, W"""
    surge_s: float
    surge_guessed: bool

    @property
    def average_w(self) -> float:
        """Mean power while switched on, W."""
        return self.running.number * self.duty.number

    @property
    def law(self) -> Law:
        """What stays the same when the voltage changes: its power, unless it hangs straight on the pack and its volts and amps are
        known, as typed or by its kind.

        Source: P constant (electronic supply); P = U · I; P = U²/R.
        """
        if self.load.supply != "pack" or not isinstance(self.load.measured, VoltsAmps):
            return "power"
        return self.load.measured.law or cast(Law, self.kind.law)

    @property
    def typed_v(self) -> float:
        """The voltage at which its amps were typed, V; 0 where they were not."""
        return self.load.measured.volts if isinstance(self.load.measured, VoltsAmps) else 0.0

    def amps_a_watt(self, volts: float, greatest_v: float) -> float:
        """A for each of its watts, at the voltage where it takes most: constant power at the least, a resistance at the greatest."""
        match self.law:
            case "power":
                return 1 / volts
            case "current":
                return 1 / self.typed_v
            case "resistance":
                return greatest_v / self.typed_v**2
        assert_never(self.law)

    @property
    def label(self) -> str:
        """Its name, made unique by its id."""
        return f"{self.load.name} ({self.key})"


@dataclass(slots=True)
class Starting:
    """What starts at one moment: one row of loads, or all rows of a start group. `extra` in W, length in s."""

    key: str
    name: str
    loads: tuple[Demand, ...]
    extra: Figure
    surge_s: float


@dataclass(slots=True)
class Peak:
    """The greatest running sum and the worst surge of a group of loads, with the step of the pattern they fall in."""

    running: Figure
    at_step: int
    surge: Figure
    surge_of: Starting | None
    apparent: Figure


@dataclass(slots=True)
class LoadsSizing:
    """All demands, the days they share, and what the pack must give, estimated until the power path is known.

    inverters: those that will feed the AC loads, as the path has them, or one for all. least_wh: what the pack is to hold usable, Wh,
    where the estimate proved short once the path was known.
    """

    day: Day
    demands: dict[str, Demand]
    starts: dict[str, Starting]
    energy: Figure
    by_supply: dict[Supply, Figure]
    peak: Peak
    inverter_needed: Figure
    drawn_away: Figure
    drawn_peak: Figure
    drawn_surge: Figure
    drawn_mean: Figure
    inverters: tuple[Promise, ...]
    least_wh: float = 0.0


def by_step(demands: Iterable[Demand], day: Day, value: Callable[[Demand], float]) -> list[float]:
    """The sum of a figure of all that is switched on, in each step of the pattern."""
    out = [0.0] * day.steps
    for d in demands:
        one = value(d)
        out = [sum_ + one if on else sum_ for sum_, on in zip(out, day.on[d.key], strict=True)]
    return out


def running_by_step(demands: Iterable[Demand], day: Day) -> list[float]:
    """Running sum in W in each step of the pattern."""
    return by_step(demands, day, lambda d: d.running.number)


def running_by_mean(demands: Iterable[Demand], day: Day) -> list[float]:
    """Mean power at the sockets in W in each step of the pattern, duty counted."""
    return by_step(demands, day, lambda d: d.average_w)


def find_starts(demands: Iterable[Demand]) -> dict[str, Starting]:
    """What starts together, by the load's id, or by the letter of its start group.

    Source: practice: what starts at one moment adds its surges.
    """
    grouped: dict[str, list[Demand]] = {}
    for d in demands:
        grouped.setdefault(d.load.start_group or d.key, []).append(d)
    out = {}
    for key, members in grouped.items():
        if len(members) == 1:
            d = members[0]
            out[key] = Starting(key, d.load.name, (d,), d.surge_extra, d.surge_s)
            continue
        name = " and ".join(d.load.name for d in members)
        extra = Figure.by("ΔP", "sum", "W", f"what a start of group {key} adds", {d.label: d.surge_extra for d in members})
        out[key] = Starting(key, name, tuple(members), extra, max(d.surge_s for d in members))
    return out


def greatest_running(demands: Sequence[Demand], day: Day, running: list[float]) -> tuple[Figure, int]:
    """The greatest of a running sum by step in W, and the step of the pattern it falls in."""
    at = max(range(day.steps), key=running.__getitem__)
    together = {d.label: d.running for d in demands if day.on[d.key][at]}
    how = f"what is scheduled together from {day.moment(day.edges_h[at])}"
    return Figure.by("P_peak", "sum", "W", "greatest running sum", together, how=how), at


def greatest_apparent(demands: Sequence[Demand], day: Day) -> Figure:
    """The greatest apparent power in VA of what is scheduled together.

    Source: apparent power is running power over power factor (definition).
    """
    apparent = by_step(demands, day, lambda d: d.apparent_va)
    at = apparent.index(max(apparent))
    parts = {d.label: Figure.of("S", d.apparent_va, "VA", d.load.name) for d in demands if day.on[d.key][at]}
    return Figure.by("S", "sum", "VA", "greatest apparent power", parts)


def find_peak(demands: list[Demand], day: Day) -> Peak:
    """Coincident running peak in W, worst surge in W on top of what else runs then, greatest apparent power in VA.

    Source: the surge stands on top of what runs beside it.
    """
    running = running_by_step(demands, day)
    peak, at = greatest_running(demands, day, running)
    surge, of, base, extra = running[at], None, peak, None
    for start in find_starts(demands).values():
        if start.extra.number <= 0:
            continue
        added = by_step(start.loads, day, lambda d: d.surge_extra.number)
        total, i = max((r + a, -i) if a > 0 else (0.0, 0) for i, (r, a) in enumerate(zip(running, added, strict=True)))
        if total > surge + 1e-9:
            surge, of = total, start
            base = Figure.of("P_run", running[-i], "W", "running sum at that moment")
            there = [d for d in start.loads if day.on[d.key][-i]]
            extra = there[0].surge_extra
            if len(there) > 1:
                parts = {d.label: d.surge_extra for d in there}
                extra = Figure.by("ΔP", "sum", "W", "their starts add", parts)
    if of is not None and extra is not None:
        worst = Figure.by("P_surge", "P_run + ΔP", "W", f"worst surge: {of.name} starting", P_run=base, ΔP=extra)
    else:
        worst = Figure.by("P_surge", "P_run", "W", "no surge above the running peak", P_run=peak)
    return Peak(peak, at, worst, of, greatest_apparent(demands, day))


def size_watts(load: Load, at: str, duty: Figure, factor: Figure, hours: Figure, days_on: int, days: int) -> Figure:
    """Running power of one unit in W: as typed, or from what was measured.

    Source: P = U · I; energy counted over hours of use (definitions).
    """
    measured = load.measured
    if measured is None:
        return Figure.decided("P", load.watts or 0.0, "W", "running power of one", f"{at}/watts")
    at = f"{at}/measured"
    if isinstance(measured, VoltsAmps):
        inputs = {
            "U": Figure.decided("U", measured.volts, "V", "volts", f"{at}/volts"),
            "I": Figure.decided("I", measured.amps, "A", "amps", f"{at}/amps"),
        }
        watts, formula = measured.volts * measured.amps, "U · I"
        if load.supply == "ac":
            watts, formula, inputs = watts * factor.number, "U · I · pf", {**inputs, "pf": factor}
        return Figure.by("P", formula, "W", "running power of one", inputs)
    if isinstance(measured, MeterReading):
        inputs = {
            "E_m": Figure.decided("E_m", measured.wh, "Wh", "counted by the meter", f"{at}/wh"),
            "t_m": Figure.decided("t_m", measured.hours, "h", "over", f"{at}/hours"),
            "d": duty,
        }
        watts = measured.wh / (measured.hours * duty.number)
        return Figure.by("P", "E_m / (t_m · d)", "W", "running power of one, while it runs", inputs)
    eta = assumed("η_b", measured.efficiency, "charging_eta", "share", "charging its battery", f"{at}/efficiency")
    on_h = hours.number * days / days_on if days_on else 0.0
    inputs = {
        "W_b": Figure.decided("W_b", measured.battery_wh, "Wh", "its battery", f"{at}/battery_wh"),
        "n_c": Figure.decided("n_c", measured.charges, "", "charges on such a day", f"{at}/charges"),
        "η_b": eta,
        "t_d": Figure.of("t_d", on_h, "h", "hours plugged in on such a day", inputs={"t": hours}),
        "d": duty,
    }
    if not on_h:
        return Figure.of(
            "P", 0.0, "W", "running power of one", how="it has no hours yet in which it is plugged in", inputs=inputs
        )
    watts = measured.battery_wh * measured.charges / (eta.number * on_h * duty.number)
    formula = "W_b · n_c / (η_b · t_d · d)"
    return Figure.by("P", formula, "W", "mean power of one while plugged in", inputs)


def size_load(key: str, load: Load, day: Day, sheet: Sheet) -> Demand:
    """Figures of one row of loads.

    Source: energy is power times hours times duty; surges by kind of load (table).
    """
    at, kind = f"/loads/items/{key}", load_kinds()[load.kind]
    count = Figure.decided("n", load.count, "", "count", f"{at}/count")
    if load.cycle:
        on = Figure.decided("t_on", load.cycle.on_min, "min", "on", f"{at}/cycle/on_min")
        off = Figure.decided("t_off", load.cycle.off_min, "min", "off", f"{at}/cycle/off_min")
        duty = Figure.by("d", "t_on / (t_on + t_off)", "share", "duty", t_on=on, t_off=off)
    else:
        duty = Figure.of("d", 1.0, "share", "duty", how="runs all the time it is switched on")
    if load.power_factor is not None:
        factor = Figure.decided("pf", load.power_factor, "", "power factor", f"{at}/power_factor")
    else:
        factor = kind.figure("pf", kind.power_factor, "", f"power factor, {kind.label}")
    hours = Figure.decided(
        "t", day.hours_on(key), "h", "hours a day" if day.days == 1 else f"hours a day, the mean of {day.days}", f"{at}/windows"
    )
    sheet.put(f"loads/{key}/duty", duty)
    sheet.put(f"loads/{key}/hours", hours)
    days_on = day.days if load.days is None else len({d for d in load.days if d <= day.days})
    watts = sheet.put(f"loads/{key}/watts", size_watts(load, at, duty, factor, hours, days_on, day.days))
    running = sheet.put(f"loads/{key}/running", Figure.by("P_run", "n · P", "W", "running power", n=count, P=watts))
    energy = Figure.by("E", "n · P · d · t", "Wh", "energy a day at the socket", n=count, P=watts, d=duty, t=hours)
    if load.surge is not None:
        multiple = Figure.decided("k", load.surge, "×", "surge multiple", f"{at}/surge")
    else:
        multiple = kind.figure("k", kind.surge, "×", f"surge multiple, {kind.label}")
    starting = load.count if load.start_together else 1
    starts = Figure.decided("n_start", starting, "", "units starting at once", f"{at}/start_together")
    extra = Figure.by("ΔP", "n_start · P · (k − 1)", "W", "what a start adds", n_start=starts, P=watts, k=multiple)
    apparent = running.number / factor.number
    sheet.put(f"loads/{key}/apparent", Figure.by("S", "P_run / pf", "VA", "apparent power", P_run=running, pf=factor))
    return Demand(
        key,
        load,
        kind,
        watts,
        running,
        duty,
        sheet.put(f"loads/{key}/energy", energy),
        apparent,
        sheet.put(f"loads/{key}/surge_extra", extra),
        load.surge_s if load.surge_s is not None else kind.surge_s,
        load.surge is None and kind.is_motor,
    )


@dataclass(frozen=True, slots=True)
class Estimate:
    """Power asked of the pack by step of the day through typical inverter and converters, W.

    `mean` is what is drawn on the mean, `full` with everything that is on running at once: `ac` at the AC sockets before
    the inverter's loss, `dc` of all the rest after theirs.
    """

    mean: list[float]
    full: list[float]
    ac: list[float]
    dc: list[float]


def estimate_by_step(demands: dict[str, Demand], day: Day, curve: LossCurve) -> Estimate:
    """The power asked of the pack in each step; without an inverter (rated 0 W) AC loads ask nothing.

    Source: typical efficiencies of inverter and converters (assumptions table).
    """
    behind = [d for d in demands.values() if d.load.supply == "ac" and curve.rated_w]
    rest = [d for d in demands.values() if d.load.supply != "ac"]
    is_on = by_step(behind, day, lambda _: 1.0)

    def drawn(watts: list[float]) -> list[float]:
        return [curve.drawn(w) if on else 0.0 for w, on in zip(watts, is_on, strict=True)]

    ac, dc = running_by_step(behind, day), by_step(rest, day, lambda d: d.running.number / efficiency(d.load.supply))
    mean_dc = by_step(rest, day, lambda d: d.average_w / efficiency(d.load.supply))
    mean = [a + b for a, b in zip(drawn(running_by_mean(behind, day)), mean_dc, strict=True)]
    return Estimate(mean, [a + b for a, b in zip(drawn(ac), dc, strict=True)], ac, dc)


def greatest_start(demands: dict[str, Demand], day: Day, by_step: Estimate, curve: LossCurve) -> float:
    """The most that is asked of the pack while something starts on top of what runs then, W."""
    most = max(by_step.full)
    alone = [curve.drawn(ac) if curve.rated_w else 0.0 for ac in by_step.ac]
    for start in find_starts(demands.values()).values():
        members = [(day.on[d.key], d.surge_extra.number, d.load.supply) for d in start.loads if d.surge_extra.number > 0]
        if not members:
            continue
        for i in range(day.steps):
            there = [(extra, supply) for on, extra, supply in members if on[i]]
            through_ac = sum(extra for extra, supply in there if supply == "ac") if curve.rated_w else 0.0
            straight = sum(extra / efficiency(supply) for extra, supply in there if supply != "ac")
            more = straight + (curve.drawn(by_step.ac[i] + through_ac) - alone[i] if through_ac else 0.0)
            most = max(most, by_step.full[i] + more)
    return most


def estimate_drawn(
    demands: dict[str, Demand], day: Day, brief: Brief, site: Site, inverter_w: float, sheet: Sheet
) -> tuple[Figure, Figure, Figure, Figure]:
    """What the pack must give, estimated with typical converters until the power path is known.

    Returns Wh between charges, peak W, W in the worst surge, and the mean W while anything runs.
    """
    curve = LossCurve.typical(inverter_w)
    by_step = estimate_by_step(demands, day, curve)
    mean = by_step.mean
    away = Figure.of(
        "E_away",
        day.fullest(mean, brief.ready_h, brief.hours_away)[0],
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
    peak = Figure.of(
        "P_est",
        max(max(by_step.full), rated + max(by_step.dc) if rated else 0.0) * (1 + site.growth.number),
        "W",
        "peak asked of the pack, estimate",
        how="the inverter that serves, at its rating, with the greatest DC sum; growth allowed for",
    )
    surge = Figure.of(
        "P_est_s",
        max(greatest_start(demands, day, by_step, curve) * (1 + site.growth.number), peak.number),
        "W",
        "worst surge asked of the pack, estimate",
        how="the greatest start on top of what runs then, through typical inverter and converters; growth allowed for",
        inputs={"P_est": peak},
    )
    active_h = sum(h for h, w in zip(day.hours, mean, strict=True) if w > 0) / day.days
    average = Figure.of(
        "P_mean",
        day.energy(mean) / active_h if active_h else 0.0,
        "W",
        "mean power asked of the pack while anything runs, estimate",
        how="energy of the day over the hours in which anything is switched on, through typical inverter and converters",
    )
    return (
        sheet.put("loads/drawn_away_estimate", away),
        sheet.put("loads/drawn_peak_estimate", peak),
        sheet.put("loads/drawn_surge_estimate", surge),
        sheet.put("loads/drawn_mean_estimate", average),
    )


def size_loads(loads: Loads, brief: Brief, site: Site, sheet: Sheet) -> LoadsSizing:
    """Figures of all loads; energies in Wh a day at the sockets.

    Source: sums by supply; converter and inverter losses by efficiency (definition).
    """
    day = Day.of(loads)
    demands = {key: size_load(key, load, day, sheet) for key, load in loads.items.items()}
    by_supply: dict[Supply, Figure] = {}
    for supply, facts in SUPPLIES.items():
        parts = {d.label: d.energy for d in demands.values() if d.load.supply == supply}
        total = Figure.by("E", "sum", "Wh", f"energy a day, {facts.label}", parts)
        by_supply[supply] = sheet.put(f"loads/energy_{supply}", total)
    energy = Figure.by("E_day", "sum", "Wh", "energy a day at the sockets", {SUPPLIES[s].label: f for s, f in by_supply.items()})
    peak = find_peak(list(demands.values()), day)
    sheet.put("loads/peak", peak.running)
    sheet.put("loads/surge", peak.surge)
    at = day.edges_h[peak.at_step]
    sheet.put("loads/peak_at", Figure.of("t_peak", day.moment(at, loads.weekdays), "", "when the running peak begins"))
    if day.days > 1:
        most, begins = day.fullest(running_by_mean(demands.values(), day), brief.ready_h, brief.hours_away)
        sheet.put(
            "loads/energy_fullest",
            Figure.of(
                "E_full",
                most,
                "Wh",
                f"at the sockets in the fullest time between charges, from {day.moment(begins * DAY_H + brief.ready_h, loads.weekdays)}",
                how="mean power by the schedule, over the hours between charges, beginning on each day of the pattern in turn",
                inputs={"t_away": site.hours_away},
            ),
        )
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
    away, drawn_peak, drawn_surge, drawn_mean = estimate_drawn(demands, day, brief, site, rating, sheet)
    return LoadsSizing(
        day,
        demands,
        find_starts(demands.values()),
        sheet.put("loads/energy_day", energy),
        by_supply,
        peak,
        sheet.put("loads/inverter_needed", inverter),
        away,
        drawn_peak,
        drawn_surge,
        drawn_mean,
        (Promise(needed),) if rating else (),
    )
