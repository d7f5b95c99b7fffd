"""Pack: voltages, capacity, usable energy, resistance, fault current, limits, mass and cost."""

from dataclasses import dataclass

from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.choice import assumed, typical
from kegcart.core.figure import Figure, Sheet
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.bank import size_bank
from kegcart.core.pack.build import Build
from kegcart.core.pack.cells import size_cells
from kegcart.core.pack.document import Pack
from kegcart.core.pack.energy import Kept, own_curve, peukert_share
from kegcart.core.reference import Chemistry, chemistries, cold_basis, cold_capacity, cold_resistance


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
    """where its own board opens, V"""
    fault: Figure
    depth: Figure
    cold_factor: Figure
    usable: Figure
    usable_warm: Figure
    continuous: Figure
    burst: Figure
    charge_limit: Figure

    @property
    def series(self) -> Figure:
        return self.build.series

    @property
    def parallel(self) -> Figure:
        return self.build.parallel

    @property
    def capacity(self) -> Figure:
        return self.build.capacity

    @property
    def resistance(self) -> Figure:
        return self.build.resistance

    @property
    def fault_resistance(self) -> Figure:
        return self.build.fault_resistance

    @property
    def recommended(self) -> Figure:
        return self.build.recommended

    @property
    def mass(self) -> Figure:
        return self.build.mass

    @property
    def cost(self) -> Figure:
        return self.build.cost

    def open_circuit(self, soc: float) -> float:
        """Rested pack voltage in V at a state of charge."""
        return self.chemistry.open_circuit(soc) * self.series.number


def size_pack(pack: Pack, loads: LoadsSizing, brief: Brief, site: Site, sheet: Sheet) -> PackSizing:
    """Figures of any form of pack."""
    row = own_curve(chemistries()[pack.chemistry], pack)
    depth = typical(
        "DoD", pack.depth, round(row.window_high - row.window_low, 4), "share", "depth of discharge", "/pack/depth", row
    )
    age = assumed("k_age", pack.age_factor, "age_factor", "share", "capacity kept at the age planned for", "/pack/age_factor")
    cold = Figure(
        "k_temp",
        cold_capacity(site.cold_c.number),
        "share",
        "capacity left in the cold",
        how="interpolated in the table of cells over temperature",
        inputs={"T_min": site.cold_c},
        basis=cold_basis(),
    )
    sheet.put("pack/depth", depth)
    sheet.put("pack/cold_factor", cold)
    sheet.put("pack/age_factor", age)
    kept = Kept(depth, cold, age)
    if pack.form == "cells":
        build = size_cells(pack, row, loads, site, kept, sheet)
    else:
        build = size_bank(pack, row, loads, brief, site, kept, sheet)
    series, capacity = build.series, build.capacity
    sheet.put("pack/series", series)
    sheet.put("pack/parallel", build.parallel)
    sheet.put("pack/capacity", capacity)

    def voltage(symbol: str, cell: Figure, label: str, path: str) -> Figure:
        return sheet.put(path, Figure.by(symbol, "S · v", "V", label, S=series, v=cell))

    def of_cell(volts: float, label: str) -> Figure:
        return row.figure("v", volts, "V", f"{label}, one cell")

    v_nom = voltage("V_nom", of_cell(row.v_nom, "nominal voltage"), "nominal voltage", "pack/v_nom")
    voltage("V_min", of_cell(row.v_min, "least voltage"), "least voltage", "pack/v_min")
    v_max = voltage("V_max", of_cell(row.v_max, "greatest voltage"), "greatest voltage", "pack/v_max")
    v_low = voltage("V_low", of_cell(row.v_low, "lowest working voltage"), "lowest working voltage", "pack/v_low")
    cell_min = build.board.cell_min if build.board else of_cell(row.v_min, "least voltage")
    cutoff = voltage("V_bms", cell_min, "its own protection opens", "pack/cutoff")
    nominal = Figure.by("E_nom", "C · V_nom", "Wh", "nominal energy", C=capacity, V_nom=v_nom)
    sheet.put("pack/nominal", nominal)
    parts = {"C": capacity, "V_nom": v_nom, "DoD": depth, "k_age": age}
    warm, formula = nominal.number * depth.number * age.number, "C · V_nom · DoD"
    if row.peukert:
        rate = sheet.put("pack/peukert", peukert_share(row, capacity, v_nom, loads))
        parts["k_pk"] = rate
        warm *= rate.number
        formula += " · k_pk"
    usable_warm = Figure.by("E_warm", f"{formula} · k_age", "Wh", "usable energy at 25 °C", parts)
    usable = Figure.by("E_use", f"{formula} · k_temp · k_age", "Wh", "usable energy at the coldest", {**parts, "k_temp": cold})
    fault = Figure.by(
        "I_sc",
        "V_max / R_1k",
        "A",
        "prospective fault current at the posts",
        how="with the 1 kHz resistance and without the board's, so that the figure is on the safe side",
        V_max=v_max,
        R_1k=sheet.put("pack/fault_resistance", build.fault_resistance),
    )
    limiting = min(build.limits, key=lambda name: build.limits[name][0].number)
    limiting_burst = min(build.limits, key=lambda name: build.limits[name][1].number)
    continuous = Figure.by(
        "I_cont", "min", "A", f"continuous limit, set by the {limiting}", {name: limit[0] for name, limit in build.limits.items()}
    )
    burst = Figure.by(
        "I_burst",
        "min",
        "A",
        f"burst limit, set by the {limiting_burst}",
        {name: limit[1] for name, limit in build.limits.items()},
    )
    slowest = min(build.charge_limits, key=lambda name: build.charge_limits[name].number)
    charge_limit = Figure.by("I_ch", "min", "A", f"charge limit, set by the {slowest}", build.charge_limits)
    sheet.put("pack/resistance", build.resistance)
    sheet.put("pack/fault", fault)
    sheet.put("pack/usable", usable)
    sheet.put("pack/usable_warm", usable_warm)
    sheet.put("pack/continuous", continuous)
    sheet.put("pack/burst", burst)
    sheet.put("pack/recommended", build.recommended)
    sheet.put("pack/charge_limit", charge_limit)
    sheet.put("pack/mass", build.mass)
    sheet.put("pack/cost", build.cost)
    label, parts = "cost of a usable kWh", {"c": build.cost, "E_use": usable}
    per_wh = (
        Figure.by("c_wh", "1000 · c / E_use", "money", label, parts)
        if usable.number > 0
        else Figure.of("c_wh", 0.0, "money", label, how="nothing of its energy can be used", inputs=parts)
    )
    sheet.put("pack/cost_per_kwh", per_wh)
    cycles = row.figure("N", row.cycles, "", "cycles to 80 % at the daily window")
    sheet.put("pack/cycles", cycles)
    return PackSizing(
        pack, row, build, v_nom, v_max, v_low, cutoff, fault, depth, cold, usable, usable_warm, continuous, burst, charge_limit
    )


def resistance_at(sizing: PackSizing, temperature_c: float) -> float:
    """Resistance of the pack in Ω at a cell temperature."""
    return sizing.resistance.number * cold_resistance(temperature_c)
