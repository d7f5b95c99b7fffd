"""Pack: voltages, capacity, usable energy, resistance, fault current, limits, mass and cost."""

from dataclasses import dataclass
from math import sqrt

from kegcart.core.brief.sizing import Site
from kegcart.core.choice import assumed, typical
from kegcart.core.figure import Figure, Sheet
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.measured import MeasuredFigures, as_measured
from kegcart.core.pack.body import surface
from kegcart.core.pack.build import Build
from kegcart.core.pack.document import Pack
from kegcart.core.pack.energy import Kept, curve_share, own_curve, peukert_share
from kegcart.core.pack.forms import form_of
from kegcart.core.reference import Chemistry, chemistries, cold_basis, cold_capacity, cold_resistance
from kegcart.core.units import write_quantity


@dataclass(slots=True)
class PackSizing:
    """Figures of the pack; resistances in Ω at 25 °C."""

    pack: Pack
    chemistry: Chemistry
    build: Build
    v_nom: Figure
    v_max: Figure
    v_low: Figure
    cutoff: Figure
    """where its own board opens, or lead is empty, V"""
    fault: Figure
    depth: Figure
    reached: Figure
    """the depth of discharge that charging reaches"""
    bottom: float
    """state of charge down to which it is planned to be used"""
    cold_factor: Figure
    usable: Figure
    usable_warm: Figure
    continuous: Figure
    burst: Figure
    charge_limit: Figure
    surface: Figure
    """what the air inside cools, m²"""

    @property
    def series(self) -> Figure:
        """Cells in series."""
        return self.build.series

    @property
    def parallel(self) -> Figure:
        """Cells or strings in parallel."""
        return self.build.parallel

    @property
    def capacity(self) -> Figure:
        """Capacity, Ah."""
        return self.build.capacity

    @property
    def resistance(self) -> Figure:
        """DC resistance when warm, Ω."""
        return self.build.resistance

    @property
    def fault_resistance(self) -> Figure:
        """Resistance in a fault: at 1 kHz, Ω."""
        return self.build.fault_resistance

    @property
    def recommended(self) -> Figure:
        """Continuous current recommended for its cells, A."""
        return self.build.recommended

    @property
    def mass(self) -> Figure:
        """Mass, kg."""
        return self.build.mass

    @property
    def cost(self) -> Figure:
        """Cost, in the brief's currency."""
        return self.build.cost

    def open_circuit(self, soc: float) -> float:
        """Rested pack voltage in V at a state of charge."""
        return self.chemistry.open_circuit(soc) * self.series.number

    def charge_after(self, energy_wh: float) -> float:
        """State of charge that is left when so many Wh were taken from the top of the planned depth, cold; its bottom at the least.

        Source: area under the open-circuit curve.
        """
        row, here = self.chemistry, self.bottom + self.reached.number
        if energy_wh >= self.usable.number or here <= self.bottom:
            return self.bottom
        rest = energy_wh / self.usable.number * row.mean_open_circuit(self.bottom, here) * self.reached.number
        for charge in (*(s for s in reversed(row.soc) if self.bottom < s < here), self.bottom):
            volts, fall = row.open_circuit(here), (row.open_circuit(here) - row.open_circuit(charge)) / (here - charge)
            area = (volts + row.open_circuit(charge)) / 2 * (here - charge)
            if area >= rest:  # volts · x − fall · x² / 2 = rest
                root = max(0.0, volts * volts - 2 * fall * rest)
                return here - (2 * rest) / (volts + sqrt(root))
            rest, here = rest - area, charge
        return self.bottom


def size_pack(pack: Pack, loads: LoadsSizing, site: Site, measured: MeasuredFigures, sheet: Sheet) -> PackSizing:
    """Figures of any form of pack. measured: of the built one.

    Source: the parts of each figure name their own.
    """
    form = form_of(pack)
    table = chemistries()[pack.chemistry]
    row = own_curve(table, pack, form.cell_ohm(pack, table))
    kept = kept_shares(pack, row, site, sheet)
    build = form.size(pack, row, loads, site, kept, sheet)
    build.capacity = as_measured(build.capacity, measured, "capacity")
    build.resistance = as_measured(build.resistance, measured, "resistance")
    sheet.put("pack/series", build.series)
    sheet.put("pack/parallel", build.parallel)
    sheet.put("pack/capacity", build.capacity)
    volts = size_voltages(build, row, sheet)
    usable_warm, usable = usable_energy(build, row, kept, volts.nominal, loads, sheet)
    fault = Figure.by(
        "I_sc",
        "V_max / R_1k",
        "A",
        "prospective fault current at the posts",
        how="with the 1 kHz resistance alone, so that the figure is on the safe side",
        V_max=volts.greatest,
        R_1k=sheet.put("pack/fault_resistance", build.fault_resistance),
    )
    continuous, burst, charge_limit = size_limits(build)
    body = surface(pack, build, sheet)
    for name, figure in {
        "resistance": build.resistance,
        "fault": fault,
        "usable": usable,
        "usable_warm": usable_warm,
        "continuous": continuous,
        "burst": burst,
        "recommended": build.recommended,
        "charge_limit": charge_limit,
        "mass": build.mass,
        "cost": build.cost,
        "cost_per_kwh": cost_of_a_usable_kwh(build, usable),
        "cycles": row.figure("N", row.cycles, "", "cycles to 80 % at the daily window"),
        "curve": curve_figure(row),
    }.items():
        sheet.put(f"pack/{name}", figure)
    return PackSizing(
        pack,
        row,
        build,
        volts.nominal,
        volts.greatest,
        volts.lowest_working,
        volts.cutoff,
        fault,
        kept.depth,
        kept.reached,
        kept.bottom,
        kept.cold,
        usable,
        usable_warm,
        continuous,
        burst,
        charge_limit,
        body,
    )


def kept_shares(pack: Pack, row: Chemistry, site: Site, sheet: Sheet) -> Kept:
    """The shares of the nominal energy that depth of discharge, cold and age leave."""
    window = round(row.window_high - row.window_low, 4)
    depth = typical("DoD", pack.depth, window, "share", "depth of discharge", "/pack/depth", row)
    age = assumed("k_age", pack.age_factor, "age_factor", "share", "capacity kept at the age planned for", "/pack/age_factor")
    how = "interpolated in the table of cells over temperature"
    share, label, inputs = cold_capacity(site.cold_c.number), "capacity left in the cold", {"T_min": site.cold_c}
    cold = Figure("k_temp", share, "share", label, how=how, inputs=inputs, basis=cold_basis())
    reached = reached_depth(pack, row, depth)
    bottom = max(0.0, max(row.window_high, depth.number) - depth.number)
    curve = sheet.put("pack/curve_share", curve_share(row, bottom, reached))
    sheet.put("pack/depth", depth)
    if reached is not depth:
        sheet.put("pack/depth_reached", reached)
    sheet.put("pack/cold_factor", cold)
    sheet.put("pack/age_factor", age)
    return Kept(depth, reached, cold, age, curve, bottom)


def reached_depth(pack: Pack, row: Chemistry, depth: Figure) -> Figure:
    """The depth of discharge that is left where the protection stops the charge below the top of the daily window.

    Source: open-circuit curve of the chemistry: charged to the stop, a cell rests where the curve says.
    """
    stops = form_of(pack).stops_at(pack)
    top = max(row.window_high, depth.number)
    charge = row.charge_at(stops.number) if stops else 1.0
    if stops is None or charge >= top:
        return depth
    how = "on the curve of a rested cell"
    return Figure.by(
        "DoD",
        "max(0, DoD − (s_top − s_stop))",
        "share",
        "depth of discharge that charging reaches",
        {
            "DoD": depth,
            "s_top": row.figure("s_top", top, "share", "charge at the top of the planned depth"),
            "s_stop": Figure.of("s_stop", charge, "share", "charge where charging stops", how=how, inputs={"v_full": stops}),
        },
    )


@dataclass(frozen=True, slots=True)
class Voltages:
    """Voltages of the whole pack, V; `cutoff` is where its own protection opens, or where lead is empty."""

    nominal: Figure
    greatest: Figure
    lowest_working: Figure
    cutoff: Figure


def size_voltages(build: Build, row: Chemistry, sheet: Sheet) -> Voltages:
    """Cells in series times the voltage of one; where a board stops the charge, the greatest is there.

    Source: series adds voltage (Kirchhoff); voltages of a cell from the chemistries table, or the board's.
    """

    def voltage(symbol: str, label: str, name: str, cell: Figure) -> Figure:
        return sheet.put(f"pack/{name}", Figure.by(symbol, "S · v", "V", label, S=build.series, v=cell))

    def of_cell(volts: float, label: str) -> Figure:
        return row.figure("v", volts, "V", f"{label}, one cell")

    voltage("V_min", "least voltage", "v_min", of_cell(row.v_min, "least voltage"))
    cell_min = build.board.cell_min if build.board else of_cell(row.v_min, "least voltage")
    cell_max = build.board.cell_max if build.board else of_cell(row.v_max, "greatest voltage")
    return Voltages(
        voltage("V_nom", "nominal voltage", "v_nom", of_cell(row.v_nom, "nominal voltage")),
        voltage("V_max", "greatest voltage", "v_max", cell_max),
        voltage("V_low", "lowest working voltage", "v_low", of_cell(row.v_low, "lowest working voltage")),
        voltage(*ends_by_itself(row), cell_min),
    )


def ends_by_itself(row: Chemistry) -> tuple[str, str, str]:
    """Symbol, label and name of the voltage at which a source ends: where its board opens; lead has none, and is just empty there."""
    return ("V_bms", "its own protection opens", "cutoff") if row.kind != "lead" else ("V_end", "its cells are empty", "cutoff")


def usable_energy(
    build: Build, row: Chemistry, kept: Kept, v_nom: Figure, loads: LoadsSizing, sheet: Sheet
) -> tuple[Figure, Figure]:
    """Usable energy at 25 °C and at the coldest, Wh. Lead gives less at a higher rate (Peukert).

    Source: capacity times the mean voltage on the curve over the daily window, less what age and cold take (chemistries and cold
    tables). The nominal energy of the label is by the nominal voltage.
    """
    sheet.put("pack/nominal", Figure.by("E_nom", "C · V_nom", "Wh", "nominal energy", C=build.capacity, V_nom=v_nom))
    parts = {"C": build.capacity, "V_nom": v_nom, "k_v": kept.curve, "DoD": kept.reached, "k_age": kept.age}
    formula = "C · V_nom · k_v · DoD"
    if row.peukert:
        parts["k_pk"] = sheet.put("pack/peukert", peukert_share(row, build.capacity, v_nom, loads))
        formula += " · k_pk"
    warm = Figure.by("E_warm", f"{formula} · k_age", "Wh", f"usable energy at {write_quantity(25, '°C')}", parts)
    parts = {**parts, "k_temp": kept.cold}
    return warm, Figure.by("E_use", f"{formula} · k_temp · k_age", "Wh", "usable energy at the coldest", parts)


def size_limits(build: Build) -> tuple[Figure, Figure, Figure]:
    """Continuous, burst and charge limit of the pack, A: each of the part that is weakest.

    Source: what is in one line carries one current: the weakest sets it.
    """
    steady = {name: limit for name, (limit, _) in build.limits.items()}
    short = {name: limit for name, (_, limit) in build.limits.items()}

    def least(symbol: str, kind: str, limits: dict[str, Figure]) -> Figure:
        weakest = min(limits, key=lambda name: limits[name].number)
        return Figure.by(symbol, "min", "A", f"{kind} limit, set by the {weakest}", limits)

    return (least("I_cont", "continuous", steady), least("I_burst", "burst", short), least("I_ch", "charge", build.charge_limits))


def cost_of_a_usable_kwh(build: Build, usable: Figure) -> Figure:
    """What a kWh that can be used costs.

    Source: cost over usable energy (definition).
    """
    label, parts = "cost of a usable kWh", {"c": build.cost, "E_use": usable}
    if usable.number > 0:
        return Figure.by("c_wh", "1000 · c / E_use", "money", label, parts)
    return Figure.of("c_wh", 0.0, "money", label, how="nothing of its energy can be used", inputs=parts)


def curve_figure(row: Chemistry) -> Figure:
    """The rested voltage of a cell at half its charge, V, which rests on the curve in force: typical, or the builder's own."""
    return Figure("v_50", row.open_circuit(0.5), "V", "rested cell at half its charge", basis=row.curve_basis)


def resistance_at(sizing: PackSizing, temperature_c: float) -> float:
    """Resistance of the pack in Ω at a cell temperature."""
    return sizing.resistance.number * cold_resistance(temperature_c)
