"""Finished batteries and modules: one, or several in series and parallel, with what each string gives."""

from dataclasses import dataclass, replace
from functools import partial

from kegcart.core.brief.sizing import Site
from kegcart.core.choice import sized, typical
from kegcart.core.electrical import protection
from kegcart.core.electrical.cables import Duty, Practice, RunSizing, least_section, let_through_figure, pick_wire, size_run
from kegcart.core.electrical.run import Run
from kegcart.core.figure import Figure, Sheet
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.build import (
    START_SPARE,
    Build,
    Joining,
    LimitsByPart,
    StringsSizing,
    asked,
    ceiling,
    ends_at,
    fewest,
    inverter_current,
)
from kegcart.core.pack.cells import HOW_MANY, burst_of, counted_by, recommended_current, wanted_energy
from kegcart.core.pack.document import Bank, Battery, BatteryPack, StringOfUnits, Takeoff, Unit
from kegcart.core.pack.energy import Kept
from kegcart.core.pack.strings import parallel_ohm, string_shares
from kegcart.core.reference import Chemistry, Family, assumption, cold_resistance, constant

MOST_STRINGS = 64
ASSEMBLY_MASS = 1.25
"""A finished battery over its cells alone: case, board, terminals. Typical."""
ASSEMBLY_PRICE = 1.5
"""Typical."""


@dataclass(frozen=True, slots=True)
class UnitFigures:
    """One battery or module by its sheet, or typical of its chemistry: Ah, A, Ω (DC, and in a fault), kg, money."""

    what: str
    series: Figure
    capacity: Figure
    continuous: Figure
    burst: Figure
    charge: Figure
    resistance: Figure
    fault_resistance: Figure
    mass: Figure
    price: Figure

    @classmethod
    def of(cls, unit: Battery, what: str, row: Chemistry, sheet: Sheet) -> "UnitFigures":
        """The figures of one battery or module by its sheet, A, Ω and Ah.

        Source: its sheet as typed; else typical of the chemistry, by capacity (chemistries table), with the board's drop (assumptions table).
        """
        at, wh = "/pack/battery", unit.capacity_ah * unit.series * row.v_nom
        cells_ohm = unit.series * row.r_ah_mohm / unit.capacity_ah / 1000
        board_ohm = 0.0 if row.kind == "lead" else constant("board_drop") / unit.continuous_a
        dc_ohm = cells_ohm * constant("dc_resistance_ratio") + board_ohm
        own_ohm = unit.resistance_mohm and unit.resistance_mohm / 1000
        continuous = Figure.decided("i", unit.continuous_a, "A", f"continuous limit of one {what}", f"{at}/continuous_a")
        if unit.burst_a is not None:
            burst = Figure.decided("i_b", unit.burst_a, "A", f"burst limit of one {what}", f"{at}/burst_a")
        else:
            factor = "cell_burst" if row.kind == "lead" else "board_burst"
            burst = burst_of(continuous, factor, f"one {what}, 5 s", "pack/burst_unit", sheet)

        def of_sheet(symbol: str, own: float | None, usual: float, unit_of: str, label: str, name: str) -> Figure:
            return typical(symbol, own, usual, unit_of, f"{label} of one {what}", f"{at}/{name}", row)

        return cls(
            what,
            Figure.decided("S_u", unit.series, "", f"cells in series in one {what}", f"{at}/series"),
            Figure.decided("c", unit.capacity_ah, "Ah", f"capacity of one {what}", f"{at}/capacity_ah"),
            continuous,
            burst,
            of_sheet("i_ch", unit.charge_a, row.charge_rate * unit.capacity_ah, "A", "charge limit", "charge_a"),
            of_sheet("r", own_ohm, dc_ohm, "Ω", "resistance", "resistance_mohm"),
            limited(in_a_fault(own_ohm, cells_ohm, continuous, f"one {what}", f"{at}/resistance_mohm", row), unit, what, row),
            of_sheet("m", unit.mass_kg, wh / row.wh_per_kg * ASSEMBLY_MASS, "kg", "mass", "mass_kg"),
            of_sheet("c_u", unit.price, wh / 1000 * row.price_per_kwh * ASSEMBLY_PRICE, "money", "price", "price"),
        )


def in_a_fault(own_ohm: float | None, cells_ohm: float, continuous: Figure, what: str, at: str, row: Chemistry) -> Figure:
    """Resistance of a finished battery in a short, Ω: a lower bound, so that the fault current is on the safe side.

    own_ohm: its DC resistance by its sheet, board included; cells_ohm: the typical short-time figure of its cells.
    Source: the DC figure reads k_dc times the short-time one; the board's drop goes off it, no more than half of it being taken
    for the board's (practice, assumptions table).
    """
    label = f"resistance of {what} in a fault"
    if own_ohm is None:
        return row.figure("r_1k", cells_ohm, "Ω", label)
    dc = Figure.decided("r", own_ohm, "Ω", f"resistance of {what}, DC", at)
    if row.kind == "lead":
        return Figure.by("r_1k", "r / k_dc", "Ω", label, r=dc, k_dc=assumption("dc_resistance_ratio"))
    drop, ratio = assumption("board_drop"), assumption("dc_resistance_ratio")
    return Figure.by("r_1k", "(r − min(U_b / i, r / 2)) / k_dc", "Ω", label, r=dc, U_b=drop, i=continuous, k_dc=ratio)


def limited(bare: Figure, unit: Battery, what: str, row: Chemistry) -> Figure:
    """The resistance in a short, Ω, of a battery whose board limits what it gives into one: as if by so many Ω.

    Source: Ohm's law at its greatest voltage; the current by its sheet.
    """
    if unit.fault_a is None:
        return bare
    return Figure.by(
        "r_1k",
        "max(r, S_u · v / I_lim)",
        "Ω",
        f"resistance of one {what} in a fault, its board limiting",
        r=bare,
        S_u=Figure.decided("S_u", unit.series, "", f"cells in series in one {what}", "/pack/battery/series"),
        v=row.figure("v", row.v_max, "V", "greatest voltage, one cell"),
        I_lim=Figure.decided("I_lim", unit.fault_a, "A", f"most that one {what} gives into a short", "/pack/battery/fault_a"),
    )


@dataclass(frozen=True, slots=True)
class BankContext:
    """What every step of sizing strings needs: the bank, its unit, how many strings, and where they stand."""

    pack: Bank
    unit: UnitFigures
    row: Chemistry
    series: Figure
    parallel: Figure
    demand: Figure
    """current asked of the pack, A, estimate"""
    site: Site
    sheet: Sheet

    @property
    def keys(self) -> list[str]:
        """The ids of the strings."""
        return string_keys(int(self.parallel.number))

    @property
    def practice(self) -> Practice:
        """What the brief says of all cables."""
        return self.site.practice

    @property
    def chained(self) -> Figure:
        """Units in series in one string."""
        return Figure.decided("n_s", self.pack.in_series, "", "in series", "/pack/in_series")


def string_keys(count: int) -> list[str]:
    """The ids of so many strings."""
    return [f"s{i}" for i in range(1, count + 1)]


def size_bank(pack: BatteryPack | Bank, row: Chemistry, loads: LoadsSizing, site: Site, kept: Kept, sheet: Sheet) -> Build:
    """Figures of finished batteries or modules; one battery is a bank of one.

    Source: series adds voltage, parallel adds capacity and conductance (Kirchhoff).
    """
    unit = UnitFigures.of(pack.battery, "module" if pack.form == "modules" else "battery", row, sheet)
    chained = Figure.decided("n_s", pack.in_series if isinstance(pack, Bank) else 1, "", "in series", "/pack/in_series")
    series = Figure.by("S", "S_u · n_s", "", "cells in series", S_u=unit.series, n_s=chained)
    demand = asked("I_est", loads.drawn_peak, series, row, "current asked of the pack, estimate", loads)
    start = asked("I_s", loads.drawn_surge, series, row, "current asked of the pack in the worst surge, estimate", loads)
    if isinstance(pack, Bank):
        parallel = size_parallel(pack, unit, series, demand, start, row, loads, site, kept)
    else:
        parallel = Figure.of("P", 1, "", "one finished battery")
    strings: StringsSizing | None = None
    capacity, resistance, fault_resistance = unit.capacity, unit.resistance, unit.fault_resistance
    if isinstance(pack, Bank) and chained.number * parallel.number > 1:
        ctx = BankContext(pack, unit, row, series, parallel, demand, site, sheet)
        strings, resistance, capacity = size_strings(ctx)
        ohms = fault_ohms(ctx)
        how, parts = "its strings in parallel, without their leads", {figure.label: figure for figure in ohms}
        together = parallel_ohm([ohm.number for ohm in ohms])
        fault_resistance = Figure.of("R_1k", together, "Ω", "resistance in a fault", how=how, inputs=parts)
        limits = string_limits(strings, ctx)
    else:
        limits = {unit.what: (sheet.put("pack/limit_battery", unit.continuous), unit.burst)}
        sheet.put("pack/burst_battery", unit.burst)
    counts = {"n_s": chained, "P": parallel}
    return Build(
        series,
        parallel,
        capacity,
        resistance,
        fault_resistance,
        limits,
        recommended_current(row, row.c_prismatic, "", capacity),
        {unit.what: Figure.by("I_ch", "P · i_ch", "A", "charge limit", P=parallel, i_ch=unit.charge)},
        Figure.by("m_p", "n_s · P · m", "kg", "mass of the pack", {**counts, "m": unit.mass}),
        Figure.by("c", "n_s · P · c_u", "money", "cost of the pack", {**counts, "c_u": unit.price}),
        strings=strings,
    )


def size_parallel(
    pack: Bank,
    unit: UnitFigures,
    series: Figure,
    demand: Figure,
    start: Figure,
    row: Chemistry,
    loads: LoadsSizing,
    site: Site,
    kept: Kept,
) -> Figure:
    """How many strings in parallel: by energy, current and surge.

    Source: practice: 1.25 × the continuous current; energy with reserve, growth and 3 % for wiring (assumptions table).
    """
    inverter = inverter_current(loads, series, row)
    carried = max(constant("fuse_margin") * demand.number, inverter.number)
    least = max(1, ceiling(carried / unit.continuous.number), ceiling(START_SPARE * start.number / unit.burst.number))
    if row.key != "starting":  # its one job is a great current for seconds
        by_rate = ceiling(demand.number / (row.c_prismatic * unit.capacity.number))
        least = max(least, min(by_rate, pack.battery.parallel_limit or int(constant("most_strings"))))
    cold_ohm = pack.in_series * unit.resistance.number * cold_resistance(site.cold_c.number)

    def usable_wh(strings: int) -> float:
        ends_v = ends_at(loads, series.number, row, cold_ohm / strings, carried)
        return strings * unit.capacity.number * series.number * row.v_nom * kept.share_above(row, ends_v)

    count = fewest(min(least, MOST_STRINGS), MOST_STRINGS, wanted_energy(loads, site), usable_wh)
    inputs = counted_by(loads, site, demand, start, unit.continuous) | {"i_b": unit.burst, "I_inv": inverter}
    return sized("P", pack.parallel, count, "", "strings in parallel", "/pack/parallel", HOW_MANY, inputs)


def string_limits(strings: StringsSizing, ctx: BankContext) -> LimitsByPart:
    """Continuous and burst limit of a bank, A: until its hardest-worked string is at its own, and its string fuses.

    Source: the string with the least resistance takes the largest share (Kirchhoff), and is the first at its limit.
    """
    hardest, unit = max(strings.shares, key=lambda f: f.number), ctx.unit

    def limit(one: Figure, symbol: str, label: str, name: str) -> Figure:
        return ctx.sheet.put(f"pack/{name}", Figure.by(symbol, "i / x", "A", label, i=one, x=hardest))

    steady, short = "until the hardest-worked string is at its limit", "until the hardest-worked string is at its burst limit"
    limits: LimitsByPart = {
        "hardest-worked string": (
            limit(unit.continuous, "I_str", steady, "limit_strings"),
            limit(unit.burst, "I_burst", short, "burst_strings"),
        )
    }
    if strings.fuse is not None:
        margin = assumption("fuse_margin")
        fuses = Figure.by("I_fuses", "I_fuse / (k · x)", "A", "string fuses", I_fuse=strings.fuse, k=margin, x=hardest)
        ctx.sheet.put("pack/limit_fuses", fuses)
        limits["string fuses"] = (fuses, burst_of(fuses, "fuse_burst", "string fuses, 5 s", "pack/burst_fuses", ctx.sheet))
    return limits


def units_of(pack: Bank, key: str) -> list[Unit]:
    """The units of one string from the negative end, each with what was measured of it."""
    string = pack.strings.get(key, StringOfUnits())
    return [string.units.get(f"u{i}", Unit()) for i in range(1, pack.in_series + 1)]


def size_strings(ctx: BankContext) -> tuple[StringsSizing, Figure, Figure]:
    """Shares, protection, leads, resistance (Ω) and capacity (Ah) of strings in parallel.

    Strings of unlike capacity in parallel still share the charge; the bank gives what all together hold. The lead bears the fuse,
    the fuse follows the share, and the share the lead: settled once with even shares, and once with those that follow.

    Source: currents divide as the conductances of the paths (Kirchhoff).
    """
    takeoff = ctx.pack.takeoff or "opposite corners"
    fault, most = string_faults(ctx)
    even = Figure.by("x_even", "1 / P", "share", "even share", P=ctx.parallel)
    fuse, family = size_string_fuse(even, most, ctx)
    leads, link = size_leads(even, fuse, family, most, ctx)
    shares = share_figures(own_ohms(leads, ctx), takeoff, link, ctx)
    hardest = max(shares, key=lambda f: f.number)
    fuse, family = size_string_fuse(hardest, most, ctx)
    leads, link = size_leads(hardest, fuse, family, most, ctx)
    strings = own_ohms(leads, ctx)
    shares = share_figures(strings, takeoff, link, ctx)
    parts = {f"string {i}": figure for i, figure in enumerate(strings.values(), 1)}
    ohms = tuple(figure.number for figure in strings.values())
    total = Figure.of("R", parallel_ohm(ohms), "Ω", "resistance of the bank", how="its strings in parallel", inputs=parts)
    ah, resting = measured_strings(ctx)
    weakest = {
        f"string {i}": Figure.of("c", value, "Ah", f"string {i}, its weakest unit", inputs={"c": ctx.unit.capacity})
        for i, value in enumerate(ah, 1)
    }
    capacity = Figure.by("C", "sum", "Ah", "capacity", weakest)
    joining = joining_of(resting, ohms, ctx.sheet)
    sizing = StringsSizing(
        shares, even.number, takeoff, fuse, family, fault, most, tuple(resting), ohms, tuple(ah), leads, link, joining
    )
    return sizing, total, capacity


def joining_of(resting: list[float | None], ohms: tuple[float, ...], sheet: Sheet) -> Joining | None:
    """The first current when the fullest string is joined to the emptiest. Source: Ohm's law over both strings."""
    known = [(volts, i) for i, volts in enumerate(resting) if volts is not None]
    if len(known) < 2:
        return None
    (low, a), (high, b) = min(known), max(known)
    first = Figure.by(
        "I_0",
        "(V_1 − V_2) / (R_1 + R_2)",
        "A",
        "first current on joining",
        V_1=Figure.decided("V_1", high, "V", f"string {b + 1}, resting", f"/pack/strings/s{b + 1}/units"),
        V_2=Figure.decided("V_2", low, "V", f"string {a + 1}, resting", f"/pack/strings/s{a + 1}/units"),
        R_1=Figure.of("R_1", ohms[b], "Ω", f"string {b + 1} with its lead"),
        R_2=Figure.of("R_2", ohms[a], "Ω", f"string {a + 1} with its lead"),
    )
    return Joining(sheet.put("pack/joining", first), b, a)


def is_protected(ctx: BankContext, key: str) -> bool:
    """Whether a string has a fuse of its own."""
    return ctx.pack.strings.get(key, StringOfUnits()).protected


def lead_run(pack: Bank, key: str) -> Run:
    """The lead of a string, of its own length where it has one."""
    own = pack.strings.get(key, StringOfUnits()).lead_m
    return pack.lead if own is None else pack.lead.model_copy(update={"length_m": own})


def size_leads(
    hardest: Figure, fuse: Figure | None, family: Family | None, fault: Figure, ctx: BankContext
) -> tuple[tuple[RunSizing, ...], RunSizing | None]:
    """The lead of every string, and the link from one to the next; no link where every string has a lead to one point.

    A lead carries its fuse; one without carries what the other strings may give into it. A link carries what all strings give.
    Source: as every run of cable, see `cables.size_run`.
    """
    count = len(ctx.keys)
    current = Figure.by("I_s", "I_est · x", "A", "through the hardest-worked string", I_est=ctx.demand, x=hardest)
    for i in range(1, count + 1):
        ctx.sheet[f"pack/string/{i}/current"] = current
    current.path = "pack/string/1/current"
    design = Figure.by("I_d", "max(I_s, i)", "A", "design current: all that the string gives", I_s=current, i=ctx.unit.continuous)
    volts = ctx.row.figure("V_low", ctx.series.number * ctx.row.v_low, "V", "lowest working voltage")
    limit, energy = assumption("drop_main"), None
    if fuse is not None and family is not None:
        energy = let_through_figure(family, fuse, fault)
    duties = []
    for key in ctx.keys:
        run, guarded = lead_run(ctx.pack, key), is_protected(ctx, key) and fuse is not None
        short = least_section(energy, run, "/pack/lead") if energy and guarded else None
        carries = fuse.number if fuse is not None and guarded else (count - 1) * ctx.unit.continuous.number
        duties.append(Duty(run, "/pack/lead", current, design, carries, volts, limit, short))
    # All leads are of one gauge: what the one that asks for most gets.
    picked = (pick_wire(d, ctx.practice) for d in duties)
    wire = max(picked, key=lambda w: w.area_mm2)
    leads = [
        size_run(replace(duty, like=wire), ctx.practice, partial(put_run, ctx.sheet, f"pack/string/{i}"))
        for i, duty in enumerate(duties, 1)
    ]
    if count < 2 or ctx.pack.takeoff == "equal leads":
        return tuple(leads), None
    short = None
    if energy is not None:
        fed = Figure.of("n", count - 1, "", "strings that feed into it")
        together = Figure.by("I²t", "n^2 · x", "A²s", "let through by the fuses of the strings together", n=fed, x=energy)
        short = least_section(together, ctx.pack.link, "/pack/link")
    whole = ctx.parallel.number * ctx.unit.continuous.number
    through = Figure.by("I_l", "I_est", "A", "through a link, at most", I_est=ctx.demand)
    ctx.sheet.put("pack/link_run/current", through)
    duty = Duty(ctx.pack.link, "/pack/link", through, through, whole, volts, limit, short, legs=1)
    return tuple(leads), size_run(duty, ctx.practice, partial(put_run, ctx.sheet, "pack/link_run"))


def put_run(sheet: Sheet, path: str, name: str, figure: Figure) -> Figure:
    """Enter a figure of a run under its path."""
    return sheet.put(f"{path}/run/{name}", figure)


def own_ohms(leads: tuple[RunSizing, ...], ctx: BankContext) -> dict[str, Figure]:
    """Resistance of every string with its lead, Ω, by symbol.

    Source: series resistances add (Kirchhoff).
    """
    out = {}
    for i, (key, lead) in enumerate(zip(ctx.keys, leads, strict=True), 1):
        own = sum((u.resistance_mohm or ctx.unit.resistance.number * 1000) / 1000 for u in units_of(ctx.pack, key))
        how = "its units in series, and both legs of its lead"
        inputs = {"r": ctx.unit.resistance, "R_lead": lead.resistance}
        label = f"string {i} with its lead"
        out[f"R_{i}"] = Figure.of(f"R_{i}", own + lead.resistance.number, "Ω", label, how=how, inputs=inputs)
    return out


def measured_strings(ctx: BankContext) -> tuple[list[float], list[float | None]]:
    """Capacity (Ah) and resting voltage (V, where known) of every string.

    Source: the weakest unit sets the charge of its string; series adds voltage (Kirchhoff).
    """
    ah: list[float] = []
    resting: list[float | None] = []
    for key in ctx.keys:
        units = units_of(ctx.pack, key)
        ah.append(min(u.capacity_ah or ctx.unit.capacity.number for u in units))
        known = [u.resting_v for u in units]
        resting.append(sum(v for v in known if v is not None) if all(v is not None for v in known) else None)
    return ah, resting


def share_figures(strings: dict[str, Figure], takeoff: Takeoff, link: RunSizing | None, ctx: BankContext) -> tuple[Figure, ...]:
    """Share of the current that each string gives: the ladder of strings and links, solved node by node.

    Source: Kirchhoff's laws.
    """
    how = "opposite corners: every string has the same length of link in its way"
    label, at = "where the load is taken off", "/pack/takeoff"
    choice = ctx.sheet.put("pack/takeoff", sized("take-off", ctx.pack.takeoff, takeoff, "", label, at, how, {}, "takeoff"))
    inputs = {**strings, "take-off": choice, **({"R_link": link.resistance} if link else {})}
    how = "the ladder of strings and links solved node by node"
    ohms = [figure.number for figure in strings.values()]
    return tuple(
        ctx.sheet.put(
            f"pack/share/{i}", Figure.of(f"x_{i}", value, "share", f"of the current through string {i}", how=how, inputs=inputs)
        )
        for i, value in enumerate(string_shares(ohms, link.resistance.number if link else 0.0, takeoff), 1)
    )


def fault_ohms(ctx: BankContext) -> list[Figure]:
    """Resistance in a short of every string, Ω: its units in series, as measured where they were, without its lead.

    Source: series resistances add (Kirchhoff); see `in_a_fault` and `limited`.
    """
    out = []
    for i, key in enumerate(ctx.keys, 1):
        parts = {}
        for n, unit in enumerate(units_of(ctx.pack, key), 1):
            one = ctx.unit.fault_resistance
            if unit.resistance_mohm is not None:
                at = f"/pack/strings/{key}/units/u{n}/resistance_mohm"
                one = in_a_fault(unit.resistance_mohm / 1000, 0.0, ctx.unit.continuous, f"unit {n}", at, ctx.row)
                one = limited(one, ctx.pack.battery, ctx.unit.what, ctx.row)
            parts[f"unit {n}"] = one
        out.append(Figure.by("R_1k", "sum", "Ω", f"string {i}", parts))
    return out


def string_faults(ctx: BankContext) -> tuple[Figure, Figure]:
    """What the other strings feed into a fault in one of them, and the greatest fault a string's own fuse may have to open, A.

    A short at a string's post is fed by the others through its fuse; one behind its fuse by the string itself.
    Source: Ohm's law; conductances in parallel add (Kirchhoff).
    """
    v_max = ctx.row.figure("V_max", ctx.series.number * ctx.row.v_max, "V", "greatest voltage")
    ohms = fault_ohms(ctx)
    least = min(range(len(ohms)), key=lambda i: ohms[i].number)
    label, how = "fed by the other strings into a fault in one", "of the string whose neighbours have the least resistance"
    if len(ohms) > 1:
        worst = max(range(len(ohms)), key=lambda i: ohms[i].number)
        others = {figure.label: figure for i, figure in enumerate(ohms) if i != worst}
        together = parallel_ohm([figure.number for figure in others.values()])
        loop = Figure.of("R_oth", together, "Ω", "the other strings in parallel", how=how, inputs=others)
        fed = Figure.by("I_other", "V_max / R_oth", "A", label, V_max=v_max, R_oth=loop)
    else:
        fed = Figure.of("I_other", 0.0, "A", label, how="there is no other string")
    own = Figure.by("I_own", "V_max / R_1k", "A", "a string into a fault behind its fuse", V_max=v_max, R_1k=ohms[least])
    most = Figure.by("I_fault", "max(I_other, I_own)", "A", "greatest fault at the fuse of a string", I_other=fed, I_own=own)
    return ctx.sheet.put("pack/string_fault", fed), ctx.sheet.put("pack/string_fuse_fault", most)


def size_string_fuse(hardest: Figure, fault: Figure, ctx: BankContext) -> tuple[Figure | None, Family | None]:
    """Rating and family of the fuse of each string; None where no string has one, or there is only one.

    Source: 1.25 × the continuous share (a fuse carries 80 % of its rating for long), and what its cable carries.
    """
    limit = ctx.unit.continuous
    if len(ctx.keys) < 2 or not any(is_protected(ctx, key) for key in ctx.keys):
        return None, None
    margin, label = assumption("fuse_margin"), "least rating of a string fuse"
    least = Figure.by("I_least", "k · I_est · x", "A", label, k=margin, I_est=ctx.demand, x=hardest)
    volts = ctx.series.number * ctx.row.v_max
    most_a = min(ctx.practice.greatest_fuse(lead_run(ctx.pack, key).model_copy(update={"gauge": None})) for key in ctx.keys)
    wanted = max(least.number, min(limit.number, most_a))
    picked = protection.pick(wanted, [], volts, fault.number, most_a, air_c=ctx.site.inside_c.number)
    inputs = {"I_least": least, "i": limit, "I_fault": fault, "T_in": ctx.site.inside_c}
    how = (
        "smallest that carries what its string may give, in the air inside, as far as its lead carries that, and opens the fault "
        "that can stand there"
    )
    fuse = Figure.of("I_fuse", picked.rating_a, "A", "fuse of each string", how=how, inputs=inputs)
    how = "simplest that opens that fault at this voltage"
    family = Figure.of("family", picked.family.label, "", "family of the string fuses", how=how, inputs=inputs)
    ctx.sheet.put("pack/string_family", family)
    return ctx.sheet.put("pack/string_fuse", fuse), picked.family
