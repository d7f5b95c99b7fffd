"""Assessment -> Forecast: what takes simulating. Both seasons of the brief are always run, and judged by checks of their own."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import partial
from math import ceil, isfinite
from typing import Any

from kegcart.core.assess import Assessment, assess, stops_after
from kegcart.core.bench.rules import BRIEFLY_H, Foreseen, every_load_is_fed, judge_days
from kegcart.core.bench.tested import judge_measured
from kegcart.core.box.cooling import cooler
from kegcart.core.box.rules.heat import ALLOWANCE, judge_heat, judge_nothing
from kegcart.core.box.rules.runs import RunSeen, as_laid_out
from kegcart.core.box.runs import links_of, run_lengths
from kegcart.core.building import judge_build
from kegcart.core.charging.charged import Charged
from kegcart.core.charging.kinds import source_kind
from kegcart.core.charging.rules.warming import stronger
from kegcart.core.charging.sun import MONTHS
from kegcart.core.check import Check, Verdict, not_yet, write_check
from kegcart.core.design import patched, write_design
from kegcart.core.figure import Figure, Sheet, write_figure
from kegcart.core.finding import SEVERITY_ORDER, Finding, Remedy, Severity, release, set_value, write_finding
from kegcart.core.forecast_heat import in_the_box, warmed
from kegcart.core.lane import SEASONS, Places, Season, feeds_by_source, heat_of, lane_of, plan_of, weather
from kegcart.core.loads.profile import DAY_H
from kegcart.core.pack.forms import form_of
from kegcart.core.places import about
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import kind_of
from kegcart.core.power.path.energy import NOTHING_WH
from kegcart.core.reference import assumption, constant
from kegcart.core.simulation.run import Course, simulate
from kegcart.core.units import MOST_RISE_K, clock, write_quantity

WORDS: Mapping[Season, str] = {"coldest": "coldest days", "hottest": "hottest days"}
PLACES: Mapping[Season, str] = {"coldest": "/brief/site_min_c", "hottest": "/brief/site_max_c"}
GROWTHS = (1.25, 1.5, 2.0, 3.0, 5.0)
"""How much larger a pack is tried, the smallest first."""
MOST_CYCLES = 60_000
"""So often loads may switch in all in a forecast."""
MOST_STEPS = 12_000
"""Steps of both seasons up to which changes are tried out."""
MOST_POINTS = 6000
"""So many moments of a course are drawn: with the greatest and the least current of each stretch."""
HOW = "simulated: voltage solved at each step for the power asked, charge and heat carried on"


@dataclass(frozen=True, slots=True, eq=False)
class Forecast:
    """What follows from simulating a design: the course of each season, figures by path, what was judged, findings worst first."""

    assessment: Assessment
    courses: Mapping[Season, Course]
    figures: Sheet
    checks: list[Check]
    findings: list[Finding]


def course_of(assessment: Assessment, season: Season, days: int | None = None, series: bool = False) -> Course:
    """A season simulated. days: the bench's setting if None. series: whether its course is kept."""
    plan = plan_of(assessment, days or assessment.design.bench.days)
    return simulate(lane_of(assessment, weather(assessment, season), plan), series=series)


def days_foreseen(assessment: Assessment) -> int:
    """The days that are run: as the bench says; fewer, but one at least, where loads switch so often that more would take too long."""
    cycles = sum(
        hours * 60 / (cycle.on_min + cycle.off_min)
        for key, demand in assessment.loads.demands.items()
        if (cycle := demand.load.cycle) and (hours := assessment.loads.day.hours_on(key))
    )
    return max(1, min(assessment.design.bench.days, int(MOST_CYCLES / max(cycles, 1.0))))


def forecast(assessment: Assessment, *, tries: bool = True) -> Forecast:
    """Both seasons of a design, and how it is built. tries: what would mend a finding is tried out, which takes a while. Never raises on a
    valid document."""
    days = days_foreseen(assessment)
    sheet, courses = Sheet(), {season: course_of(assessment, season, days) for season in SEASONS}
    checks: list[Check] = []
    checks += judge_seasons(assessment, courses, sheet)
    failing = {check.id for check in checks if check.verdict is Verdict.FAILS}
    # Only then is it worth trying out what would mend it; and not where each trial would take long.
    if tries and failing and sum(course.steps for course in courses.values()) < MOST_STEPS:
        sheet, checks = Sheet(), []
        cures = find_cures(assessment, failing, max(course.hottest_inside_c for course in courses.values()))
        checks += judge_seasons(assessment, courses, sheet, cures)
    checks += judge_build(assessment, sheet)
    checks += judge_measured(assessment)
    findings = sorted((c.finding for c in checks if c.finding), key=lambda f: SEVERITY_ORDER[f.severity])
    return Forecast(assessment, courses, sheet, checks, findings)


def judge_seasons(
    assessment: Assessment, courses: Mapping[Season, Course], sheet: Sheet, cures: Mapping[str, tuple[Remedy, ...]] | None = None
) -> Iterator[Check]:
    """Every check of the days: of each season, and of the loads over both."""
    seasons = [foreseen(assessment, season, course, sheet, cures) for season, course in courses.items()]
    for seen in seasons:
        yield from judge_days(seen)
    yield from judge_runs(assessment, cures or {})
    if not all(seen.works for seen in seasons):
        yield from judge_nothing(assessment.box is not None)
        return
    yield from every_load_is_fed(seasons, {key: load.name for key, load in assessment.design.loads.items.items()})
    heat = heat_of(assessment, sheet)
    warm = [warmed(assessment, s.season, s.course, heat, s.figures["hottest_inside"]) for s in seasons]
    yield from judge_heat(warm, in_the_box(assessment, courses, heat, sheet, cures or {}))


def judge_runs(assessment: Assessment, cures: Mapping[str, tuple[Remedy, ...]]) -> Iterator[Check]:
    """Whether the runs are as long in the box as they were taken to be; tried out with the lengths of the box where they are longer."""
    runs = runs_in_box(assessment)
    if not runs:
        yield not_yet("box.run-length", "/box", "a box with parts in their places")
        return
    seen = [RunSeen(assessment.design.power.network[key].name, *lengths) for key, lengths in runs.items()]
    longer = any(run.over > constant("run_slack") for run in seen)
    worse = stops_after(assessment, lengths_patch(assessment)) if longer else []
    yield as_laid_out(seen, worse, cures.get("box.run-length", ()))


def runs_in_box(assessment: Assessment) -> dict[str, tuple[Figure, Figure]]:
    """How long each run is in the box, and how long it was taken to be, m, by the part that it feeds."""
    box, power = assessment.box, assessment.power
    if box is None:
        return {}
    links = list(links_of(power, {thing.key: thing for thing in box.layout.things}))
    taken = {
        key: Figure.decided("L", part.node.run.length_m, "m", "as taken", f"/power/network/{key}/run/length_m")
        for key, part in power.parts.items()
    }
    return {key: (length, taken[key]) for key, length in run_lengths(links, box.layout).items()}


def lengths_patch(assessment: Assessment) -> list[dict[str, Any]]:
    """The operations that put the lengths of the box into the power path, to the centimetre."""
    return [
        set_value(f"/power/network/{key}/run/length_m", max(0.01, round(length.number, 2)))
        for key, (length, _) in runs_in_box(assessment).items()
    ]


def foreseen(
    assessment: Assessment, season: Season, course: Course, sheet: Sheet, cures: Mapping[str, tuple[Remedy, ...]] | None = None
) -> Foreseen:
    """One season with its figures, as its rules read it."""
    row, plan = assessment.pack.chemistry, plan_of(assessment, 1)
    full = row.figure("s_full", row.window_high, "share", f"top of the daily window, {row.label}")
    sums = course_figures(course, assessment, season)
    figures = {name: sheet.put(f"forecast/{season}/{name}", f) for name, f in sums.items()}
    power = assessment.power
    dark = {
        d.key: sheet.put(
            f"forecast/{season}/dark/{d.key}",
            Figure.of("t_dark", hours, "h", f"{d.load.name} without power, {WORDS[season]}", how=HOW),
        )
        for branch, hours in zip(Places(assessment).keys, course.dark_h, strict=True)
        if hours > BRIEFLY_H
        for d in power.plugged.get(branch, [])
    }
    charges = plan.away_h < plan.period_h or not stays_plugged(assessment)
    loads = any(d.energy.number > 0 for held in power.plugged.values() for d in held)
    works = loads or power.drawn_day.number > 24 * assessment.figures["power/standing"].number + NOTHING_WH
    return Foreseen(
        WORDS[season],
        PLACES[season],
        course,
        figures,
        full if charges else None,
        figures["last_charge" if stays_plugged(assessment) else "filled_to"],
        what_is_missing(assessment, season),
        dark,
        cures or {},
        works,
    )


def course_figures(course: Course, assessment: Assessment, season: Season) -> dict[str, Figure]:
    """What sums a run up, by name; each says of which season it is."""
    leaves = {
        "R": assessment.pack.resistance,
        "R_main": assessment.power.main_ohm,
        "C": assessment.pack.capacity,
        "τ": assumption("rc_time"),
    }

    def simulated(symbol: str, value: float, unit: str, label: str) -> Figure:
        return Figure.of(symbol, value, unit, f"{label}, {WORDS[season]}", how=HOW, inputs=leaves)

    pack = course.banks[0]
    energies = {
        "delivered": ("reached the loads", course.delivered_wh),
        "inverter_loss": ("lost and idled in inverters", course.inverter_loss_wh),
        "converter_loss": ("lost in converters", course.converter_loss_wh),
        "standing": ("drawn by coils, meter and electronics", course.standing_wh),
        "pack_loss": ("lost in the pack" if len(course.banks) == 1 else "lost in the banks", course.bank_loss_wh),
        "wiring_loss": ("lost in cables and contacts", course.wiring_loss_wh),
        "charged": ("charged", course.charged_wh),
        "chemical": ("taken from the cells, net", course.chemical_wh),
    }
    figures = {name: simulated("E", value, "Wh", label) for name, (label, value) in energies.items()}
    lowest_v = pack.lowest_v if pack.lowest_v < 1e6 else 0.0
    figures |= {
        "lowest_charge": simulated("SoC_min", pack.lowest_charge, "share", "lowest charge"),
        "last_charge": simulated("SoC_end", pack.last_charge, "share", "charge at the end"),
        "filled_to": simulated("SoC_top", pack.filled_to, "share", "highest charge to which it is filled on the last day"),
        "lowest_voltage": simulated("V_min", lowest_v, "V", "lowest voltage"),
        "hottest_pack": simulated("T_pack", pack.hottest_c, "°C", "hottest pack"),
        "hottest_inside": simulated("T_in", course.hottest_inside_c, "°C", "hottest inside"),
        "dark": simulated("t_dark", max(course.dark_h, default=0.0), "h", "hours in which a load found no power"),
        "trips": simulated("n_trip", course.trips, "", "trips on overload"),
        "hiccups": simulated("n_hic", course.hiccups, "", "times that something came back and dropped again"),
    }
    if course.full_h and charging_is_known(assessment):
        full = course.full_h[0]
        label = f"the charge ends for the first time, {WORDS[season]}"
        figures["full_at"] = Figure.of("t_full", clock(full % 24), "", label, how=HOW, inputs=leaves)
        begins = [e.hour for e in course.events if e.text == "plugged in" and e.hour < full]
        if begins:
            figures["time_to_full"] = simulated("t", full - begins[0], "h", "from plugging in until the charge ends")
    for key, given in given_by_source(course, assessment).items():
        name = assessment.charging.sources[key].name
        whole = simulated("E_run", given, "Wh", f"given by {name} over the run")
        span = Figure.of("n_d", max(1, round((course.run_h) / DAY_H)), "", "days of the run", how="as the bench is set")
        a_day = figures[f"charged/{key}"] = Figure.by(
            "E_day", "E_run / n_d", "Wh", f"given by {name} a day", E_run=whole, n_d=span
        )
        of = {"E_day": a_day, "η": assessment.charging.sources[key].efficiency}
        figures[f"taken/{key}"] = Figure.by("E_in", "E_day / η", "Wh", f"taken by {name} a day", of)
    for n, bank in enumerate(course.banks[1:], 1):
        key = list(assessment.power.ctx.path.banks)[n - 1]
        figures[f"{key}/lowest_charge"] = simulated("SoC_min", bank.lowest_charge, "share", f"lowest charge, {bank.name}")
        figures[f"{key}/last_charge"] = simulated("SoC_end", bank.last_charge, "share", f"charge at the end, {bank.name}")
    return figures


def given_by_source(course: Course, assessment: Assessment) -> dict[str, float]:
    """What each source gave at its output over a run, Wh, by its id; without those that only stand in for what is not decided."""
    named = [key for key, _ in feeds_by_source(assessment)]
    return {key: wh for key, wh in zip(named, course.given_wh, strict=True) if key}


def find_cures(assessment: Assessment, failing: set[str], inside_c: float) -> dict[str, tuple[Remedy, ...]]:
    """For each check that fails, changes that end its finding in both seasons and bring no new one: each tried out."""
    document = write_design(assessment.design)
    tried: dict[str, set[str] | None] = {}

    def ends(id: str, remedy: Remedy) -> bool:
        if remedy.label not in tried:
            tried[remedy.label] = failing_after(remedy, document, assessment)
        left = tried[remedy.label]
        return left is not None and id not in left

    return {
        id: tuple(
            first
            for kind in candidates(id, assessment, inside_c)
            if (first := next((r for r in kind if ends(id, r)), None)) is not None
        )
        for id in sorted(failing)
    }


def candidates(id: str, assessment: Assessment, inside_c: float) -> Iterator[Iterator[Remedy]]:
    """Kinds of changes that may end a finding, each from the smallest to the largest. inside_c: the hottest air inside."""
    if id == "bench.hiccup":
        yield later_restarts(assessment)
    if id in ("bench.dark", "bench.hiccup"):
        yield (remedy for factor in GROWTHS for remedy in form_of(assessment.pack.pack).grown(assessment.pack, factor))
    if id == "charging.window":
        yield stronger_chargers(assessment)
    if id in ("bench.dark", "charging.window") and assessment.charging.warming is not None:
        yield iter([stronger(assessment.charging.warming)])
    over = inside_c > assessment.site.inside_c.number
    too_hot = id in ("box.heat", "box.airflow") or (id == "box.inside-allowance" and over)
    if too_hot and assessment.box is not None:
        yield from cooler(assessment.box.layout, assessment.design.brief, assessment.site)
    if id == "box.run-length":
        yield lengths_put_in(assessment)
    if id == "box.inside-allowance":
        yield allowances(assessment, inside_c)


def lengths_put_in(assessment: Assessment) -> Iterator[Remedy]:
    """The lengths of the box put into the power path; then that with what mends a stop that it brings, as thicker cables want more room,
    and the lengths as they are after it."""
    patch, said = lengths_patch(assessment), "Put in the lengths of the box"
    yield Remedy(said, patch)
    document = write_design(assessment.design)
    for finding in stops_after(assessment, patch):
        for remedy in finding.remedies:
            both = [*patch, *remedy.patch]
            again = lengths_patch(assess(patched(document, both), assessment.elsewhere))
            label = remedy.label[:1].lower() + remedy.label[1:]
            yield Remedy(f"{said}; {about(finding.place, assessment.design)}: {label}", [*both, *again])


def later_restarts(assessment: Assessment) -> Iterator[Remedy]:
    """Devices that come back only when the pack has been charged: above what it rests at, half full."""
    ctx, pack = assessment.power.ctx, assessment.pack
    rested = round(pack.open_circuit(0.5), 1)
    patch = [
        set_value(f"/power/network/{key}/restart_v", rested)
        for key, node in assessment.power.network.nodes.items()
        if kind_of(node).cutoff(node, key, ctx) is not None
    ]
    if patch:
        yield Remedy(f"Let it come back only above {rested:g} V, when it has been charged", patch)


def allowances(assessment: Assessment, inside_c: float) -> Iterator[Remedy]:
    """The hottest air inside as it was worked out, or a little more, as what the brief allows for, with every automatic size chosen for
    it."""
    hot = assessment.site.hot_c.number
    for more in (0, 1, 2, 5, 10, 20):
        rise = max(0, ceil(inside_c - hot + more))
        if rise > MOST_RISE_K:
            return
        yield Remedy(f"Size everything for {write_quantity(hot + rise, '°C')} inside", [set_value(ALLOWANCE, rise)])


def stronger_chargers(assessment: Assessment) -> Iterator[Remedy]:
    """Sources of more current, within what the pack may be charged with; more hours for one that has few."""
    charging, pack = assessment.charging, charging_pack(assessment)
    for sizing in charging.of_bank(pack.key):
        at, source = f"{sizing.pointer}/current_a", sizing.source
        beside = source_kind(source).units(source)[1]
        if source.current_a is not None:
            yield Remedy(f"Let the current of {source.name} be chosen", [release(at)])
        for rate in (0.2, 0.3, 0.5, 1.0):
            amps = round(min(rate * pack.capacity.number, pack.limit.number) / beside, 1)
            if amps > sizing.one.number and sizing.one.pointer == at:
                yield Remedy(f"{source.name} of {amps:g} A", [set_value(at, amps)])
        if source.windows:
            yield Remedy(f"{source.name} gives whenever it can", [set_value(f"{sizing.pointer}/windows", {})])


def charging_is_known(assessment: Assessment) -> bool:
    """Whether it is decided what charges the pack; else what usually does stands in."""
    return bool(assessment.charging.of_bank(charging_pack(assessment).key))


def stays_plugged(assessment: Assessment) -> bool:
    """Whether something charges the pack until it leaves, or nothing is decided that does; else its sources have hours of their own."""
    sources = [s.source for s in assessment.charging.of_bank(charging_pack(assessment).key)]
    return not sources or any(source_kind(s).while_plugged and not s.windows and s.days is None for s in sources)


def what_is_missing(assessment: Assessment, season: Season) -> str:
    """What must be known, or mended, before it can be judged whether the pack is full again; empty where it can."""
    if not charging_is_known(assessment):
        return "what charges it"
    sun, year = assessment.charging.sun, assessment.years.get(PACK)
    if sun is None or year is None or not year.falls_short(month := sun.month(season)):
        return ""
    return f"sun and other sources that cover the days of {MONTHS[month - 1]}"


def charging_pack(assessment: Assessment) -> Charged:
    """The pack as what charges it sees it."""
    return next(iter(assessment.charging.charged.values()))


def failing_after(remedy: Remedy, document: dict[str, Any], assessment: Assessment) -> set[str] | None:
    """The checks of both seasons that fail with a change; None where it brings a stop that was not there."""
    after = assess(patched(document, remedy.patch), assessment.elsewhere)
    stops = {(f.id, f.place) for f in assessment.findings if f.severity is Severity.STOP}
    if any(f.severity is Severity.STOP and (f.id, f.place) not in stops for f in after.findings):
        return None
    days = days_foreseen(after)
    courses = {season: course_of(after, season, days) for season in SEASONS}
    checks = judge_seasons(after, courses, Sheet())
    return {c.id for c in checks if c.verdict is Verdict.FAILS}


def write_forecast(seen: Forecast) -> dict[str, Any]:
    """The forecast as plain JSON data; figures name one another by path."""
    design = seen.assessment.design
    return {
        "figures": {path: write_figure(figure, top=True) for path, figure in seen.figures.items()},
        "findings": [write_finding(finding, tried=True) for finding in seen.findings],
        "checks": [write_check(check, about(check.place, design)) for check in seen.checks],
    }


def write_course(course: Course, assessment: Assessment, season: Season) -> dict[str, Any]:
    """A season's course as plain JSON data, with the figures that sum it up."""
    pack, rounded = course.banks[0], partial(round, ndigits=4)
    series = {
        "hour": course.hour,
        "charge": pack.charge,
        "voltage_v": pack.volts,
        "current_a": pack.amps,
        "pack_c": pack.celsius,
        "inside_c": course.inside_c,
        "load_w": course.delivered_w,
        "sun_w": course.sun_w,
        "fans_on": course.fans_on,
    }
    drawn = moments_drawn(pack.amps)
    return {
        "series": {name: [rounded(values[i]) for i in drawn] for name, values in series.items()},
        "offers": offers(assessment, season),
        "events": [{"hour": e.hour, "kind": e.kind, "text": e.text} for e in course.events],
        "figures": {name: write_figure(figure, top=True) for name, figure in course_figures(course, assessment, season).items()},
    }


def offers(assessment: Assessment, season: Season) -> dict[str, list[list[float]]]:
    """Of each source of which the power is known by the hour: stretches of the run (from h, to h), and the W that it offers."""
    plan, month = plan_of(assessment, assessment.design.bench.days), weather(assessment, season).month
    days = int(plan.end_h // DAY_H) + 1
    out = {}
    for key, sizing in assessment.charging.sources.items():
        kind, pattern = source_kind(sizing.source), assessment.loads.day.days
        powers = kind.run_powers(sizing.source, sizing, month, days, pattern)
        if powers is not None and all(isfinite(watts) for _, _, watts in powers):
            inside = [[max(a, plan.begin_h), min(b, plan.end_h), round(watts, 1)] for a, b, watts in powers]
            out[key] = [span for span in inside if span[1] > span[0]]
    return out


def moments_drawn(amps: list[float]) -> list[int]:
    """Which moments of a course are drawn: all of them, or of each of many stretches the ends and the extremes of the current."""
    if len(amps) <= MOST_POINTS:
        return list(range(len(amps)))
    length = -(-len(amps) // (MOST_POINTS // 3))
    kept = {0, len(amps) - 1}
    for begin in range(0, len(amps), length):
        stretch = range(begin, min(begin + length, len(amps)))
        kept |= {begin, max(stretch, key=amps.__getitem__), min(stretch, key=amps.__getitem__)}
    return sorted(kept)
