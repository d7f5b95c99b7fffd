"""Finished batteries and modules: one, or several in series and parallel, with what each string gives."""

from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.choice import sized, typical
from kegcart.core.electrical import conductors, protection
from kegcart.core.figure import Figure, Sheet
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.build import Build, StringsSizing, asked, ceiling
from kegcart.core.pack.cells import burst_of, recommended_current, wanted_energy
from kegcart.core.pack.document import Bank, BatteryPack, StringOfUnits, Unit
from kegcart.core.pack.energy import Kept
from kegcart.core.pack.strings import parallel_ohm, string_shares
from kegcart.core.reference import Chemistry, assumption, constant

MOST_STRINGS = 16
ASSEMBLY_MASS = 1.25
"""A finished battery over its cells alone: case, board, terminals."""
ASSEMBLY_PRICE = 1.5


def size_bank(
    pack: BatteryPack | Bank, row: Chemistry, loads: LoadsSizing, brief: Brief, site: Site, kept: Kept, sheet: Sheet
) -> Build:
    """Figures of finished batteries or modules; one battery is a bank of one."""
    unit, at = pack.battery, "/pack/battery"
    n_series = pack.in_series if isinstance(pack, Bank) else 1
    what = "module" if pack.form == "modules" else "battery"
    inside = Figure.decided("S_u", unit.series, "", f"cells in series in one {what}", f"{at}/series")
    chained = Figure.decided("n_s", n_series, "", "in series", "/pack/in_series")
    series = Figure.by("S", "S_u · n_s", "", "cells in series", S_u=inside, n_s=chained)
    one_ah = Figure.decided("c", unit.capacity_ah, "Ah", f"capacity of one {what}", f"{at}/capacity_ah")
    one_limit = Figure.decided("i", unit.continuous_a, "A", f"continuous limit of one {what}", f"{at}/continuous_a")
    margin = assumption("fuse_margin")
    demand = asked("I_est", loads.drawn_peak, series, row, "current asked of the pack, estimate")
    start = asked("I_s", loads.drawn_surge, series, row, "current asked of the pack in the worst surge, estimate")
    burst = (
        Figure.decided("i_b", unit.burst_a, "A", f"burst limit of one {what}", f"{at}/burst_a")
        if unit.burst_a is not None
        else burst_of(one_limit, "board_burst", f"one {what}, 5 s", "pack/burst_unit", sheet)
    )
    if isinstance(pack, Bank):
        string_wh = unit.capacity_ah * series.number * row.v_nom * kept.share
        p = max(
            1,
            ceiling(wanted_energy(loads, site) / string_wh) if string_wh else 1,
            ceiling(margin.number * demand.number / unit.continuous_a),
            ceiling(start.number / burst.number),
        )
        parallel = sized(
            "P",
            pack.parallel,
            min(p, MOST_STRINGS),
            "",
            "strings in parallel",
            "/pack/parallel",
            "fewest that cover the energy between charges with reserve, growth and 3 % for wiring, 1.25 × the estimated current, and the estimated surge by their burst",
            {
                "E_away": loads.drawn_away,
                "r": site.reserve,
                "g": site.growth,
                "I_est": demand,
                "i": one_limit,
                "k": margin,
                "I_s": start,
                "i_b": burst,
            },
        )
    else:
        parallel = Figure.of("P", 1, "", "one finished battery")
    cells_ohm = unit.series * row.r_ah_mohm / unit.capacity_ah / 1000
    whole_ohm = cells_ohm * constant("dc_resistance_ratio") + constant("board_drop") / unit.continuous_a
    own_ohm = unit.resistance_mohm and unit.resistance_mohm / 1000
    r_unit = typical("r", own_ohm, whole_ohm, "Ω", f"resistance of one {what}", f"{at}/resistance_mohm", row)
    r_fault = typical("r_1k", own_ohm, cells_ohm, "Ω", f"resistance of one {what} in a fault", f"{at}/resistance_mohm", row)
    n = int(parallel.number)
    counts = {"n_s": chained, "P": parallel}
    if n_series * n == 1:
        resistance, fault_resistance, capacity, strings = r_unit, r_fault, one_ah, None
        limits = {what: (sheet.put("pack/limit_battery", one_limit), burst)}
        sheet.put("pack/burst_battery", burst)
    else:
        assert isinstance(pack, Bank)
        strings, resistance, capacity = size_strings(pack, r_unit, r_fault, one_ah, demand, n, series, row, brief, site, sheet)
        fault_resistance = Figure.by("R_1k", "n_s · r_1k / P", "Ω", "resistance in a fault", {**counts, "r_1k": r_fault})
        hardest = max(strings.shares, key=lambda f: f.number)

        def limit(one: Figure, symbol: str, label: str, path: str) -> Figure:
            figure = Figure.by(symbol, "i / x", "A", label, i=one, x=hardest)
            return sheet.put(path, figure)

        limits = {
            "hardest-worked string": (
                limit(one_limit, "I_str", "until the hardest-worked string is at its limit", "pack/limit_strings"),
                limit(burst, "I_burst", "until the hardest-worked string is at its burst limit", "pack/burst_strings"),
            )
        }
        if strings.fuse is not None:
            by_fuse = Figure.by("I_fuses", "I_fuse / (k · x)", "A", "string fuses", I_fuse=strings.fuse, k=margin, x=hardest)
            sheet.put("pack/limit_fuses", by_fuse)
            limits["string fuses"] = (by_fuse, burst_of(by_fuse, "board_burst", "string fuses, 5 s", "pack/burst_fuses", sheet))
    energy = unit.capacity_ah * unit.series * row.v_nom
    mass = typical("m", unit.mass_kg, energy / row.wh_per_kg * ASSEMBLY_MASS, "kg", f"mass of one {what}", f"{at}/mass_kg", row)
    price = typical(
        "c_u", unit.price, energy / 1000 * row.price_per_kwh * ASSEMBLY_PRICE, "money", f"price of one {what}", f"{at}/price", row
    )
    charge = typical(
        "i_ch", unit.charge_a, row.charge_rate * unit.capacity_ah, "A", f"charge limit of one {what}", f"{at}/charge_a", row
    )
    return Build(
        series,
        parallel,
        capacity,
        resistance,
        fault_resistance,
        limits,
        recommended_current(row, row.c_prismatic, "", capacity),
        {what: Figure.by("I_ch", "P · i_ch", "A", "charge limit", P=parallel, i_ch=charge)},
        Figure.by("m_p", "n_s · P · m", "kg", "mass of the pack", {**counts, "m": mass}),
        Figure.by("c", "n_s · P · c_u", "money", "cost of the pack", {**counts, "c_u": price}),
        strings=strings,
    )


def units_of(pack: Bank, key: str) -> list[Unit]:
    """The units of one string from the negative end, each with what was measured of it."""
    string = pack.strings.get(key, StringOfUnits())
    return [string.units.get(f"u{i}", Unit()) for i in range(1, pack.in_series + 1)]


def size_strings(
    pack: Bank,
    r_unit: Figure,
    r_fault: Figure,
    one_ah: Figure,
    demand: Figure,
    n: int,
    series: Figure,
    row: Chemistry,
    brief: Brief,
    site: Site,
    sheet: Sheet,
) -> tuple[StringsSizing, Figure, Figure]:
    """Shares, protection, resistance and capacity of strings in parallel."""
    takeoff = pack.takeoff or "opposite corners"
    margin = assumption("fuse_margin")
    wires = conductors.gauges(brief.gauge_system)
    school, inside = brief.wire_school, site.inside_c.number

    def copper(amps: float, length_m: float) -> float:
        """Resistance of a lead of the least gauge that carries so many A."""
        wire = next((w for w in wires if conductors.ampacity(w, school, inside, 105, 2) >= amps), wires[-1])
        return conductors.resistance(length_m, wire.area_mm2)

    keys = [f"s{i}" for i in range(1, n + 1)]
    ohms, ah, resting = [], [], []
    for key in keys:
        string = pack.strings.get(key, StringOfUnits())
        units = units_of(pack, key)
        lead_m = string.lead_m if string.lead_m is not None else pack.lead_m
        ohm = sum((u.resistance_mohm or r_unit.number * 1000) / 1000 for u in units)
        ohms.append(ohm + copper(margin.number * demand.number / n, 2 * lead_m))
        ah.append(min(u.capacity_ah or one_ah.number for u in units))
        known = [u.resting_v for u in units]
        resting.append(sum(v for v in known if v is not None) if all(v is not None for v in known) else None)
    link = copper(margin.number * demand.number, pack.link_m)
    link_figure = Figure.of(
        "R_link",
        link,
        "Ω",
        "link from string to string",
        how="least gauge that carries the whole current, of that length",
        inputs={"l": Figure.decided("l", pack.link_m, "m", "length of the link", "/pack/link_m"), "I_est": demand},
    )
    values = string_shares(ohms, link, takeoff)
    string_figures = {
        f"R_{i}": Figure.of(
            f"R_{i}",
            ohm,
            "Ω",
            f"string {i} with its lead",
            how="its units in series, and both legs of its lead",
            inputs={"r": r_unit},
        )
        for i, ohm in enumerate(ohms, 1)
    }
    choice = sheet.put(
        "pack/takeoff",
        sized(
            "take-off",
            pack.takeoff,
            takeoff,
            "",
            "where the load is taken off",
            "/pack/takeoff",
            "opposite corners: every string has the same length of link in its way",
            {},
            "takeoff",
        ),
    )
    shares = tuple(
        sheet.put(
            f"pack/share/{i}",
            Figure.of(
                f"x_{i}",
                value,
                "share",
                f"of the current through string {i}",
                how="the ladder of strings and links solved node by node",
                inputs={**string_figures, "R_link": link_figure, "take-off": choice},
            ),
        )
        for i, value in enumerate(values, 1)
    )
    hardest = max(shares, key=lambda f: f.number)
    v_max = row.figure("V_max", series.number * row.v_max, "V", "greatest voltage")
    fault = sheet.put(
        "pack/string_fault",
        Figure.by(
            "I_other",
            "V_max · (P − 1) / (n_s · r_1k)",
            "A",
            "fed by the other strings into a fault in one",
            V_max=v_max,
            P=Figure.of("P", n, "", "strings in parallel"),
            n_s=Figure.decided("n_s", pack.in_series, "", "in series", "/pack/in_series"),
            r_1k=r_fault,
        ),
    )
    fuse = family = None
    if n > 1 and any(pack.strings.get(key, StringOfUnits()).protected for key in keys):
        least = Figure.by("I_least", "k · I_est · x", "A", "least rating of a string fuse", k=margin, I_est=demand, x=hardest)
        picked = protection.pick(max(least.number, pack.battery.continuous_a), [], v_max.number, fault.number)
        inputs = {
            "I_least": least,
            "i": Figure.decided("i", pack.battery.continuous_a, "A", "continuous limit of one", "/pack/battery/continuous_a"),
            "I_other": fault,
        }
        fuse = sheet.put(
            "pack/string_fuse",
            Figure.of(
                "I_fuse",
                picked.rating_a,
                "A",
                "fuse of each string",
                how="smallest that carries what its string may give, and opens what the others feed into it",
                inputs=inputs,
            ),
        )
        family = sheet.put(
            "pack/string_family",
            Figure.of(
                "family",
                picked.family.label,
                "",
                "family of the string fuses",
                how="simplest that opens that fault at this voltage",
                inputs=inputs,
            ),
        )
    parts = {f"string {i}": f for i, f in enumerate(string_figures.values(), 1)}
    total = Figure.of("R", parallel_ohm(ohms), "Ω", "resistance of the bank", how="its strings in parallel", inputs=parts)
    # Strings of unlike capacity in parallel still share the charge; the bank gives what all together hold.
    capacity = Figure.by(
        "C",
        "sum",
        "Ah",
        "capacity",
        {
            f"string {i}": Figure.of("c", value, "Ah", f"string {i}, its weakest unit", inputs={"c": one_ah})
            for i, value in enumerate(ah, 1)
        },
    )
    sizing = StringsSizing(shares, 1 / n, takeoff, fuse, family, fault, tuple(resting), tuple(ohms), tuple(ah))
    return sizing, total, capacity
