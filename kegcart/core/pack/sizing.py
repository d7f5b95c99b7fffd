"""Pack: voltages, capacity, usable energy, resistance, fault current, limits, mass and cost."""

from dataclasses import dataclass

from kegcart.core.brief.sizing import Site, choice
from kegcart.core.electrical.source import fault_current
from kegcart.core.figure import DECISION, Figure, Sheet
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.document import BatteryPack, CellPack, Pack
from kegcart.core.reference import Chemistry, assumption, chemistries, cold_basis, cold_capacity, cold_resistance, constant, sizes

#: Series counts of the voltage classes that the inverters sold can take, by chemistry.
CLASS_SERIES: dict[str, dict[int, int]] = {"lfp": {12: 4, 24: 8, 48: 16}, "nmc": {24: 7, 36: 10, 48: 14}}
MOST_PARALLEL = 200


@dataclass(slots=True)
class PackSizing:
    """Figures of the pack; resistances in Ω at 25 °C."""

    pack: Pack
    chemistry: Chemistry
    series: Figure
    parallel: Figure
    capacity: Figure
    v_nom: Figure
    v_max: Figure
    v_low: Figure
    resistance: Figure
    fault_resistance: Figure
    fault: Figure
    depth: Figure
    cold_factor: Figure
    usable: Figure
    usable_warm: Figure
    continuous: Figure
    burst: Figure
    recommended: Figure
    board: Figure | None
    mass: Figure
    cost: Figure

    def open_circuit(self, soc: float) -> float:
        """Rested pack voltage in V at a state of charge."""
        return self.chemistry.open_circuit(soc) * self.series.number


def typical_or_pinned(
    symbol: str, pinned: float | None, typical: float, unit: str, label: str, pointer: str, row: Chemistry
) -> Figure:
    """The builder's own figure, or the typical one of the chemistry."""
    if pinned is not None:
        return Figure.decided(symbol, pinned, unit, label, pointer)
    return Figure(symbol, typical, unit, label, basis=row.basis, pointer=pointer)


def sized(
    symbol: str,
    pinned: float | None,
    auto: float,
    unit: str,
    label: str,
    pointer: str,
    how: str,
    inputs: dict[str, Figure],
    options: str = "",
) -> Figure:
    """A sized choice: pinned as decided, or auto by the rule in `how`."""
    if pinned is not None:
        return Figure(symbol, pinned, unit, label, basis=DECISION, pointer=pointer, choice="pinned", options=options)
    return Figure(symbol, auto, unit, label, how=how, inputs=inputs, pointer=pointer, choice="auto", options=options)


def choose_series(pack: CellPack, row: Chemistry, peak_w: float) -> int:
    """Cells in series of the lowest voltage class in which the peak stays within 100 A."""
    classes = CLASS_SERIES[row.key]
    return next((s for s in classes.values() if peak_w / (s * row.v_low) <= constant("high_current")), list(classes.values())[-1])


def size_pack(pack: Pack, loads: LoadsSizing, site: Site, sheet: Sheet) -> PackSizing:
    """Figures of either form of pack."""
    row = chemistries()[pack.chemistry]
    depth = typical_or_pinned(
        "DoD", pack.depth, round(row.window_high - row.window_low, 4), "share", "depth of discharge", "/pack/depth", row
    )
    age = choice("k_age", pack.age_factor, "age_factor", "share", "capacity kept at the age planned for", "/pack/age_factor")
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
    if pack.form == "cells":
        build = _size_cells(pack, row, loads, site, depth, cold, age, sheet)
    else:
        build = _size_battery(pack, row, sheet)
    series, parallel, capacity, resistance, fault_resistance, limits, board, mass, cost = build
    sheet.put("pack/series", series)
    sheet.put("pack/parallel", parallel)
    sheet.put("pack/capacity", capacity)

    def voltage(symbol: str, per_cell: float, label: str, path: str) -> Figure:
        cell = row.figure("v", per_cell, "V", f"{label}, one cell")
        return sheet.put(
            path, Figure.of(symbol, series.number * per_cell, "V", label, formula="S · v", inputs={"S": series, "v": cell})
        )

    v_nom = voltage("V_nom", row.v_nom, "nominal voltage", "pack/v_nom")
    voltage("V_min", row.v_min, "least voltage", "pack/v_min")
    v_max = voltage("V_max", row.v_max, "greatest voltage", "pack/v_max")
    v_low = voltage("V_low", row.v_low, "lowest working voltage", "pack/v_low")
    nominal = Figure.of(
        "E_nom",
        capacity.number * v_nom.number,
        "Wh",
        "nominal energy",
        formula="C · V_nom",
        inputs={"C": capacity, "V_nom": v_nom},
    )
    sheet.put("pack/nominal", nominal)
    parts = {"C": capacity, "V_nom": v_nom, "DoD": depth, "k_age": age}
    warm = nominal.number * depth.number * age.number
    usable_warm = Figure.of("E_warm", warm, "Wh", "usable energy at 25 °C", formula="C · V_nom · DoD · k_age", inputs=parts)
    usable = Figure.of(
        "E_use",
        warm * cold.number,
        "Wh",
        "usable energy at the coldest",
        formula="C · V_nom · DoD · k_temp · k_age",
        inputs={**parts, "k_temp": cold},
    )
    fault = Figure.of(
        "I_sc",
        fault_current(v_max.number, fault_resistance.number),
        "A",
        "prospective fault current at the posts",
        formula="V_max / R_1k",
        inputs={"V_max": v_max, "R_1k": sheet.put("pack/fault_resistance", fault_resistance)},
        how="with the 1 kHz resistance and without the board's, so that the figure is on the safe side",
    )
    limiting = min(limits, key=lambda name: limits[name][0].number)
    limiting_burst = min(limits, key=lambda name: limits[name][1].number)
    continuous = Figure.of(
        "I_cont",
        limits[limiting][0].number,
        "A",
        f"continuous limit, set by the {limiting}",
        formula="min",
        inputs={n: v[0] for n, v in limits.items()},
    )
    burst = Figure.of(
        "I_burst",
        limits[limiting_burst][1].number,
        "A",
        f"burst limit, set by the {limiting_burst}",
        formula="min",
        inputs={n: v[1] for n, v in limits.items()},
    )
    return PackSizing(
        pack,
        row,
        series,
        parallel,
        capacity,
        v_nom,
        v_max,
        v_low,
        sheet.put("pack/resistance", resistance),
        fault_resistance,
        sheet.put("pack/fault", fault),
        depth,
        cold,
        sheet.put("pack/usable", usable),
        sheet.put("pack/usable_warm", usable_warm),
        sheet.put("pack/continuous", continuous),
        sheet.put("pack/burst", burst),
        sheet["pack/recommended"],
        board,
        sheet.put("pack/mass", mass),
        sheet.put("pack/cost", cost),
    )


Limits = dict[str, tuple[Figure, Figure]]
Build = tuple[Figure, Figure, Figure, Figure, Figure, Limits, Figure | None, Figure, Figure]


def _twice(limit: Figure, key: str, label: str, path: str, sheet: Sheet) -> Figure:
    factor = assumption(key)
    return sheet.put(
        path, Figure.of("I_burst", limit.number * factor.number, "A", label, formula="I · k", inputs={"I": limit, "k": factor})
    )


def _size_cells(
    pack: CellPack, row: Chemistry, loads: LoadsSizing, site: Site, depth: Figure, cold: Figure, age: Figure, sheet: Sheet
) -> Build:
    cell, at = pack.cell, "/pack/cell"
    capacity_cell = Figure.decided("c", cell.capacity_ah, "Ah", "capacity of one cell", f"{at}/capacity_ah")
    r_cell = typical_or_pinned(
        "r",
        cell.resistance_mohm and cell.resistance_mohm / 1000,
        row.r_ah_mohm / cell.capacity_ah / 1000,
        "Ω",
        "1 kHz resistance of one cell",
        f"{at}/resistance_mohm",
        row,
    )
    c_rate = row.c_prismatic if cell.shape == "prismatic" else row.c_cylindrical
    i_cell = typical_or_pinned(
        "i", cell.continuous_a, c_rate * cell.capacity_ah, "A", "continuous limit of one cell", f"{at}/continuous_a", row
    )
    m_cell = typical_or_pinned(
        "m", cell.mass_kg, cell.capacity_ah * row.v_nom / row.wh_per_kg, "kg", "mass of one cell", f"{at}/mass_kg", row
    )
    price = typical_or_pinned(
        "c_cell",
        cell.price,
        cell.capacity_ah * row.v_nom / 1000 * row.price_per_kwh,
        "money",
        "price of one cell",
        f"{at}/price",
        row,
    )
    peak = loads.drawn_peak
    s = pack.series or choose_series(pack, row, peak.number)
    series = sized(
        "S",
        pack.series,
        s,
        "",
        "cells in series",
        "/pack/series",
        "lowest voltage class in which the estimated peak stays within 100 A",
        {"P_est": peak, "I_h": assumption("high_current")},
    )
    demand = Figure.of(
        "I_est",
        peak.number / (s * row.v_low),
        "A",
        "current asked of the pack, estimate",
        formula="P_est / V_low",
        inputs={"P_est": peak, "V_low": row.figure("V_low", s * row.v_low, "V", "lowest working voltage")},
    )
    margin = assumption("fuse_margin")
    string_wh = cell.capacity_ah * s * row.v_nom * depth.number * cold.number * age.number
    wanted_wh = loads.drawn_away.number * (1 + site.growth.number) / (1 - site.reserve.number) * 1.03
    p = max(1, _ceil(wanted_wh / string_wh) if string_wh else 1, _ceil(margin.number * demand.number / i_cell.number))
    parallel = sized(
        "P",
        pack.parallel,
        min(p, MOST_PARALLEL),
        "",
        "cells in parallel",
        "/pack/parallel",
        "fewest that cover the energy between charges with reserve, growth and 3 % for wiring, and 1.25 × the estimated current",
        {"E_away": loads.drawn_away, "r": site.reserve, "g": site.growth, "I_est": demand, "i": i_cell, "k": margin},
    )
    count = s * parallel.number
    board_sizes = sizes("board")
    board = sized(
        "I_board",
        pack.board_a,
        board_sizes.pick(margin.number * demand.number),
        "A",
        "protection board, continuous",
        "/pack/board_a",
        "smallest sold from 1.25 × the estimated current",
        {"I_est": demand, "k": margin},
        "board",
    )
    sheet.put("pack/board", board)
    capacity = Figure.of(
        "C", parallel.number * cell.capacity_ah, "Ah", "capacity", formula="P · c", inputs={"P": parallel, "c": capacity_cell}
    )
    link = assumption("link_resistance")
    r_1k = s / parallel.number * r_cell.number + s * link.number
    ratio = assumption("dc_resistance_ratio")
    r_board = Figure.of(
        "R_board",
        constant("board_drop") / board.number,
        "Ω",
        "board",
        formula="U_b / I_board",
        inputs={"U_b": assumption("board_drop"), "I_board": board},
    )
    resistance = Figure.of(
        "R",
        s / parallel.number * r_cell.number * ratio.number + s * link.number + r_board.number,
        "Ω",
        "resistance of the pack",
        formula="S / P · r · k_dc + S · R_l + R_board",
        inputs={"S": series, "P": parallel, "r": r_cell, "k_dc": ratio, "R_l": link, "R_board": r_board},
    )
    fault_resistance = Figure.of(
        "R_1k",
        r_1k,
        "Ω",
        "1 kHz resistance, board left out",
        formula="S / P · r + S · R_l",
        inputs={"S": series, "P": parallel, "r": r_cell, "R_l": link},
    )
    cells_limit = sheet.put(
        "pack/limit_cells",
        Figure.of("I_cells", parallel.number * i_cell.number, "A", "cells", formula="P · i", inputs={"P": parallel, "i": i_cell}),
    )
    recommended = row.figure("c_rec", c_rate, "×", f"recommended C-rate, {row.label} {cell.shape}")
    sheet.put(
        "pack/recommended",
        Figure.of(
            "I_rec",
            c_rate * capacity.number,
            "A",
            "recommended continuous current",
            formula="c_rec · C",
            inputs={"c_rec": recommended, "C": capacity},
        ),
    )
    limits = {
        "cells": (cells_limit, _twice(cells_limit, "cell_burst", "cells, 10 s", "pack/burst_cells", sheet)),
        "board": (board, _twice(board, "board_burst", "board, 5 s", "pack/burst_board", sheet)),
    }
    n = Figure.of("n", count, "", "cells in all", formula="S · P", inputs={"S": series, "P": parallel})
    sheet.put("pack/cells", n)
    mass = Figure.of(
        "m",
        count * m_cell.number + constant("board_mass"),
        "kg",
        "mass of the pack",
        formula="n · m + m_b",
        inputs={"n": n, "m": m_cell, "m_b": assumption("board_mass")},
    )
    cost = Figure.of(
        "c",
        count * price.number + constant("board_price"),
        "money",
        "cost of the pack",
        formula="n · c_cell + c_b",
        inputs={"n": n, "c_cell": price, "c_b": assumption("board_price")},
    )
    return series, parallel, capacity, resistance, fault_resistance, limits, board, mass, cost


def _size_battery(pack: BatteryPack, row: Chemistry, sheet: Sheet) -> Build:
    series = Figure.decided("S", pack.series, "", "cells in series inside", "/pack/series")
    parallel = Figure.of("P", 1, "", "one finished battery")
    capacity = Figure.decided("C", pack.capacity_ah, "Ah", "capacity", "/pack/capacity_ah")
    cells = pack.series * row.r_ah_mohm / pack.capacity_ah / 1000
    whole = cells * constant("dc_resistance_ratio") + constant("board_drop") / pack.continuous_a
    resistance = typical_or_pinned(
        "R",
        pack.resistance_mohm and pack.resistance_mohm / 1000,
        whole,
        "Ω",
        "resistance of the battery",
        "/pack/resistance_mohm",
        row,
    )
    fault_resistance = typical_or_pinned(
        "R_1k",
        pack.resistance_mohm and pack.resistance_mohm / 1000,
        cells,
        "Ω",
        "resistance in a fault",
        "/pack/resistance_mohm",
        row,
    )
    limit = sheet.put(
        "pack/limit_battery",
        Figure.decided("I_batt", pack.continuous_a, "A", "continuous limit of the battery", "/pack/continuous_a"),
    )
    if pack.burst_a is not None:
        burst = Figure.decided("I_burst", pack.burst_a, "A", "burst limit of the battery", "/pack/burst_a")
    else:
        burst = _twice(limit, "board_burst", "battery, 5 s", "pack/burst_battery", sheet)
    rate = row.figure("c_rec", row.c_prismatic, "×", f"recommended C-rate, {row.label}")
    sheet.put(
        "pack/recommended",
        Figure.of(
            "I_rec",
            row.c_prismatic * pack.capacity_ah,
            "A",
            "recommended continuous current",
            formula="c_rec · C",
            inputs={"c_rec": rate, "C": capacity},
        ),
    )
    energy = pack.capacity_ah * pack.series * row.v_nom
    mass = typical_or_pinned("m", pack.mass_kg, energy / row.wh_per_kg * 1.25, "kg", "mass of the battery", "/pack/mass_kg", row)
    cost = typical_or_pinned(
        "c", pack.price, energy / 1000 * row.price_per_kwh * 1.5, "money", "cost of the battery", "/pack/price", row
    )
    return series, parallel, capacity, resistance, fault_resistance, {"battery": (limit, burst)}, None, mass, cost


def resistance_at(sizing: PackSizing, temperature_c: float) -> float:
    """Resistance of the pack in Ω at a cell temperature."""
    return sizing.resistance.number * cold_resistance(temperature_c)


def _ceil(x: float) -> int:
    return int(-(-x // 1))
