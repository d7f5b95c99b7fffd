"""Loose cells built up to S groups of P: count, protection board, links, and the groups as sorted from the rack."""

from dataclasses import dataclass, replace

from kegcart.core.brief.sizing import Site
from kegcart.core.choice import sized, typical
from kegcart.core.electrical.cables import Practice, SmallLead, size_small_lead
from kegcart.core.figure import DECISION, Figure, Sheet
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.build import (
    START_SPARE,
    BoardSizing,
    Build,
    GroupSizing,
    LimitsByPart,
    asked,
    ceiling,
    ends_at,
    fewest,
    inverter_current,
)  # fmt: skip
from kegcart.core.pack.document import Cell, CellPack
from kegcart.core.pack.energy import Kept
from kegcart.core.pack.links import CollectorSizing, LinkSizing, size_collector, size_link
from kegcart.core.reference import Chemistry, assumption, chemistries, cold_resistance, constant, sizes

MOST_PARALLEL = 200
LINK_OHM = 0.0002
"""A link of one cell in Ω, until it is sized."""
WIRING_ALLOWANCE = 1.03
"""Energy allowed for cables, until the power path is known."""
HOW_MANY = (
    "fewest that cover the energy between charges with reserve, growth and 3 % for wiring, "
    "1.25 × the estimated current, an inverter at its rating, and the estimated surge by their burst"
)


def choose_series(row: Chemistry, peak_w: float) -> int:
    """Cells in series of the lowest voltage class in which the peak stays within 100 A.

    Source: practice: above 100 A cable, joints and switches grow costly (assumptions table).
    """
    counts = list(row.classes.values())
    return next((s for s in counts if peak_w / (s * row.v_low) <= constant("high_current")), counts[-1])


def wanted_energy(loads: LoadsSizing, site: Site) -> float:
    """Usable energy in Wh that covers the time between charges with reserve, growth and wiring.

    Source: practice: reserve and growth as the brief says, 3 % for wiring until the power path is known; then what it proved to be.
    """
    estimate = loads.drawn_away.number * (1 + site.growth.number) / (1 - site.reserve.number) * WIRING_ALLOWANCE
    return max(estimate, loads.least_wh)


def counted_by(loads: LoadsSizing, site: Site, demand: Figure, start: Figure, continuous: Figure) -> dict[str, Figure]:
    """What decides how many stand in parallel, by symbol; the burst of one is left to the caller."""
    return {
        "E_away": loads.drawn_away,
        "E_least": Figure.of("E_least", loads.least_wh, "Wh", "usable, as the path and the days on the shelf proved to ask"),
        "r": site.reserve,
        "g": site.growth,
        "I_est": demand,
        "i": continuous,
        "k": assumption("fuse_margin"),
        "I_s": start,
    }


def charge_stop(pack: CellPack) -> Figure:
    """The voltage of one cell at which the board stops charging, V: as typed, or of the chemistry it is made for."""
    of, label = chemistries()[pack.board.chemistry or pack.chemistry], "a cell at which the board stops charging"
    return typical("v_full", pack.board.cell_max_v, of.v_max, "V", label, "/pack/board/cell_max_v", of)


def size_board(pack: CellPack, row: Chemistry, counts: "Counts", site: Site, sheet: Sheet) -> BoardSizing:
    """The protection board: chosen to serve, or as pinned.

    Source: practice: continuous rating of a quarter over the running peak, of the sizes sold.
    """
    own, at, margin, burst = pack.board, "/pack/board", assumption("fuse_margin"), assumption("board_burst")
    demand, start, inverter = counts.demand, counts.start, counts.inverter
    continuous = sized(
        "I_board",
        own.continuous_a,
        sizes("board").pick(max(margin.number * demand.number, START_SPARE * start.number / burst.number, inverter.number)),
        "A",
        "protection board, continuous",
        f"{at}/continuous_a",
        "smallest sold from 1.25 × the estimated current, whose burst carries the estimated surge; it carries an inverter at its rating",
        {"I_est": demand, "k": margin, "I_s": start, "k_b": burst, "I_inv": inverter},
        "board",
    )
    of = chemistries()[own.chemistry or pack.chemistry]

    def of_continuous(symbol: str, pinned: float | None, key: str, label: str, name: str) -> Figure:
        if pinned is not None:
            return sheet.put(f"pack/board_{name}", Figure.decided(symbol, pinned, "A", label, f"{at}/{name}_a"))
        factor = assumption(key)
        return sheet.put(f"pack/board_{name}", Figure.by(symbol, "I_board · k", "A", label, I_board=continuous, k=factor))

    if own.resistance_mohm is not None:
        resistance = Figure.decided("R_board", own.resistance_mohm / 1000, "Ω", "board", f"{at}/resistance_mohm")
    else:
        resistance = Figure.by("R_board", "U_b / I_board", "Ω", "board", U_b=assumption("board_drop"), I_board=continuous)

    def milli(symbol: str, pinned: float | None, key: str, label: str, name: str) -> Figure:
        leaf = assumption(key)
        basis, value = (DECISION, pinned / 1000) if pinned is not None else (leaf.basis, leaf.number)
        return sheet.put(f"pack/board_{name}", Figure(symbol, value, "A", label, basis=basis, pointer=f"{at}/{name}_ma"))

    count = sized(
        "S_b",
        own.series,
        counts.series.number,
        "",
        "cells the board is made for",
        f"{at}/series",
        "as many as the pack has in series",
        {"S": counts.series},
    )
    return BoardSizing(
        series=sheet.put("pack/board_series", count),
        continuous=sheet.put("pack/board", continuous),
        burst=of_continuous("I_burst", own.burst_a, "board_burst", "board, 5 s", "burst"),
        charge=of_continuous("I_ch", own.charge_a, "board_charge", "charge limit of the board", "charge"),
        balance=milli("I_bal", own.balance_ma, "board_balance", "balance current", "balance"),
        own_draw=milli("I_own", own.own_draw_ma, "board_own", "own draw of the board", "own_draw"),
        resistance=resistance,
        cell_min=typical("v_cut", own.cell_min_v, of.v_min, "V", "a cell at which the board opens", f"{at}/cell_min_v", of),
        cell_max=charge_stop(pack),
        cold_lock=own.cold_lock if own.cold_lock is not None else site.cold_c.number < row.charge_min_c,
    )


def size_groups(pack: CellPack, row: Chemistry, series: int, parallel: int, sheet: Sheet) -> list[GroupSizing]:
    """The groups as sorted, if they are the groups that this pack has.

    Source: capacities and conductances in parallel add (Kirchhoff); DC over 1 kHz resistance by the assumptions table.
    """
    if len(pack.groups) != series or any(len(g.cells) != parallel for g in pack.groups.values()):
        return []
    ratio = constant("dc_resistance_ratio") if pack.cell.resistance_by == "dc" else 1.0
    out = []
    for n, (key, group) in enumerate(pack.groups.items(), 1):
        at = f"/pack/groups/{key}"
        ah = sum(c.capacity_ah for c in group.cells)
        capacity = Figure.decided("c", ah, "Ah", f"capacity of group {n}, as measured", at)
        typical_mohm = row.r_ah_mohm / pack.cell.capacity_ah * ratio  # where a cell was not measured
        siemens = sum(1000 / (c.resistance_mohm or typical_mohm) for c in group.cells)
        resistance = Figure.decided("r", 1 / siemens / ratio, "Ω", f"1 kHz resistance of group {n}, of its cells as measured", at)
        sheet.put(f"pack/group/{n}/capacity", capacity)
        sheet.put(f"pack/group/{n}/resistance", resistance)
        out.append(GroupSizing(key, capacity, resistance, tuple(c.label for c in group.cells)))
    return out


@dataclass(frozen=True, slots=True)
class CellFigures:
    """One cell by its sheet, or typical of its chemistry: Ah, 1 kHz Ω, A, A, kg, money; its recommended C-rate."""

    capacity: Figure
    resistance: Figure
    continuous: Figure
    charge: Figure
    mass: Figure
    price: Figure
    c_rate: float

    @classmethod
    def of(cls, cell: Cell, row: Chemistry) -> "CellFigures":
        """The figures of one cell by its sheet or typical of its chemistry, A, Ω and Ah.

        Source: its sheet as typed; else typical of the chemistry, by capacity and shape (chemistries table).
        """
        at, ah = "/pack/cell", cell.capacity_ah
        ratio = constant("dc_resistance_ratio") if cell.resistance_by == "dc" else 1
        own_ohm = cell.resistance_mohm and cell.resistance_mohm / 1000 / ratio
        c_rate = row.c_cylindrical if cell.shape == "cylindrical" else row.c_prismatic
        wh = ah * row.v_nom

        def of_sheet(symbol: str, own: float | None, usual: float, unit: str, label: str, name: str) -> Figure:
            return typical(symbol, own, usual, unit, label, f"{at}/{name}", row)

        return cls(
            Figure.decided("c", ah, "Ah", "capacity of one cell", f"{at}/capacity_ah"),
            of_sheet("r", own_ohm, row.r_ah_mohm / ah / 1000, "Ω", "1 kHz resistance of one cell", "resistance_mohm"),
            of_sheet("i", cell.continuous_a, c_rate * ah, "A", "continuous limit of one cell", "continuous_a"),
            of_sheet("i_ch", cell.charge_a, row.charge_rate * ah, "A", "charge limit of one cell", "charge_a"),
            of_sheet("m", cell.mass_kg, wh / row.wh_per_kg, "kg", "mass of one cell", "mass_kg"),
            of_sheet("c_cell", cell.price, wh / 1000 * row.price_per_kwh, "money", "price of one cell", "price"),
            c_rate,
        )


@dataclass(frozen=True, slots=True)
class Counts:
    """Cells in series and in parallel, with the currents they were chosen by: continuous, in the worst surge, of an inverter at its
    rating, A.
    """

    series: Figure
    parallel: Figure
    demand: Figure
    start: Figure
    inverter: Figure


def size_cells(pack: CellPack, row: Chemistry, loads: LoadsSizing, site: Site, kept: Kept, sheet: Sheet) -> Build:
    """Figures of loose cells.

    Source: series adds voltage, parallel adds capacity and conductance (Kirchhoff).
    """
    cell = CellFigures.of(pack.cell, row)
    counts = size_counts(pack, cell, row, loads, site, kept)
    series, parallel = counts.series, counts.parallel
    lead = row.kind == "lead"
    board = None if lead else size_board(pack, row, counts, site, sheet)
    cells_limit = sheet.put("pack/limit_cells", Figure.by("I_cells", "P · i", "A", "cells", P=parallel, i=cell.continuous))
    serve = min((cells_limit, *([board.continuous] if board else [])), key=lambda f: f.number)
    needed = Figure.by("I_need", "I / P", "A", "current one link should carry", I=serve, P=parallel)
    link = size_link(pack.cell, pack.link, needed, sheet)
    collector = size_collector(pack, parallel, serve, sheet)
    groups = size_groups(pack, row, int(series.number), int(parallel.number), sheet)
    capacity, cells_ohm = cells_together(cell, series, parallel, groups)
    resistance, fault_resistance = pack_resistances(cells_ohm, link, board, counts)
    if board is not None:
        sense = size_sense(pack, row, series, board, fault_resistance, site.practice, sheet)
        board = replace(board, sense=sense)
    charge = Figure.by("I_ch", "P · i_ch", "A", "charge limit of the cells", P=parallel, i_ch=cell.charge)
    n = sheet.put("pack/cells", Figure.by("n", "S · P", "", "cells in all", S=series, P=parallel))
    mass, cost = mass_and_cost(n, cell, board)
    return Build(
        series,
        parallel,
        capacity,
        resistance,
        fault_resistance,
        current_limits(cells_limit, board, link, parallel, sheet) | collector_limit(collector, sheet),
        recommended_current(row, cell.c_rate, pack.cell.shape, capacity),
        {"cells": charge, **({"board": board.charge} if board else {})},
        mass,
        cost,
        board,
        link,
        collector,
        groups=groups,
    )


def mass_and_cost(n: Figure, cell: CellFigures, board: BoardSizing | None) -> tuple[Figure, Figure]:
    """Mass (kg) and cost of so many cells with their board. Source: sums; board typical (assumptions table)."""
    if board is None:
        return (
            Figure.by("m", "n · m_c", "kg", "mass of the pack", n=n, m_c=cell.mass),
            Figure.by("c", "n · c_cell", "money", "cost of the pack", n=n, c_cell=cell.price),
        )
    mass, price = assumption("board_mass"), assumption("board_price")
    return (
        Figure.by("m", "n · m_c + m_b", "kg", "mass of the pack", n=n, m_c=cell.mass, m_b=mass),
        Figure.by("c", "n · c_cell + c_b", "money", "cost of the pack", n=n, c_cell=cell.price, c_b=price),
    )


def size_sense(
    pack: CellPack, row: Chemistry, series: Figure, board: BoardSizing, fault_ohm: Figure, practice: Practice, sheet: Sheet
) -> SmallLead:
    """A sense lead of the board; two of them, at the ends of the pack, may touch. Source: see `cables.size_small_lead`."""
    v_max = Figure.by("V_max", "S · v", "V", "greatest voltage", S=series, v=board.cell_max)
    low = row.figure("v", row.v_low, "V", "lowest working voltage, one cell")
    v_low = Figure.by("V_low", "S · v", "V", "lowest working voltage", S=series, v=low)

    def put(name: str, figure: Figure) -> Figure:
        return sheet.put(f"pack/sense/{name}", figure)

    own = pack.board
    return size_small_lead(own.sense, "/pack/board/sense", board.balance, v_max, v_low, fault_ohm, own.sense_fused, practice, put)


def size_counts(pack: CellPack, cell: CellFigures, row: Chemistry, loads: LoadsSizing, site: Site, kept: Kept) -> Counts:
    """How many cells in series and in parallel: by the voltage class, and by energy, current and surge.

    Source: practice: 1.25 × the continuous current; energy with reserve, growth and 3 % for wiring (assumptions table).
    """
    peak = loads.drawn_peak
    how = "lowest voltage class in which the estimated peak stays within 100 A"
    inputs = {"P_est": peak, "I_h": assumption("high_current")}
    usual = choose_series(row, peak.number)
    series = sized("S", pack.series, usual, "", "cells in series", "/pack/series", how, inputs)
    demand = asked("I_est", peak, series, row, "current asked of the pack, estimate", loads)
    start = asked("I_s", loads.drawn_surge, series, row, "current asked of the pack in the worst surge, estimate", loads)
    cell_burst = assumption("cell_burst")
    inverter = inverter_current(loads, series, row)
    carried = max(constant("fuse_margin") * demand.number, START_SPARE * start.number / cell_burst.number, inverter.number)
    by_rate = demand.number / (cell.c_rate * cell.capacity.number)
    least = min(max(1, ceiling(carried / cell.continuous.number), ceiling(by_rate)), MOST_PARALLEL)
    cells_ohm = series.number * (cell.resistance.number * constant("dc_resistance_ratio") + LINK_OHM)
    board_ohm = constant("board_drop") / carried if carried else 0.0

    def usable_wh(parallel: int) -> float:
        cold_ohm = (cells_ohm / parallel + board_ohm) * cold_resistance(site.cold_c.number)
        ends_v = ends_at(loads, series.number, row, cold_ohm, carried)
        return parallel * cell.capacity.number * series.number * row.v_nom * kept.share_above(row, ends_v)

    count = fewest(least, MOST_PARALLEL, wanted_energy(loads, site), usable_wh)
    inputs = counted_by(loads, site, demand, start, cell.continuous) | {"k_c": cell_burst, "I_inv": inverter}
    parallel = sized("P", pack.parallel, count, "", "cells in parallel", "/pack/parallel", HOW_MANY, inputs)
    return Counts(series, parallel, demand, start, inverter)


def cells_together(cell: CellFigures, series: Figure, parallel: Figure, groups: list[GroupSizing]) -> tuple[Figure, Figure]:
    """Capacity in Ah and 1 kHz resistance in Ω of all cells: of the groups as measured, or of like cells.

    Source: parallel capacities and conductances add, series resistances add (Kirchhoff).
    """
    if not groups:
        return (
            Figure.by("C", "P · c", "Ah", "capacity", P=parallel, c=cell.capacity),
            Figure.by("R_cells", "S / P · r", "Ω", "1 kHz resistance of the cells", S=series, P=parallel, r=cell.resistance),
        )
    capacities = {f"group {n}": g.capacity for n, g in enumerate(groups, 1)}
    resistances = {f"group {n}": g.resistance for n, g in enumerate(groups, 1)}
    weakest = min(capacities, key=lambda name: capacities[name].number)
    return (
        Figure.by("C", "min", "Ah", f"capacity, of {weakest}, the weakest", capacities),
        Figure.by("R_cells", "sum", "Ω", "1 kHz resistance of the cells, as measured", resistances),
    )


def pack_resistances(cells_ohm: Figure, link: LinkSizing, board: BoardSizing | None, counts: Counts) -> tuple[Figure, Figure]:
    """DC resistance of the pack in Ω, and that in a fault: at 1 kHz, with the board left out.

    Source: the DC step reads 1.5 to 2 times the 1 kHz figure (practice, assumptions table); series adds (Kirchhoff).
    """
    links_ohm = Figure.by("R_links", "S · R_l / P", "Ω", "links", S=counts.series, R_l=link.resistance, P=counts.parallel)
    parts, formula = (
        {"R_cells": cells_ohm, "k_dc": assumption("dc_resistance_ratio"), "R_links": links_ohm},
        "R_cells · k_dc + R_links",
    )
    if board is not None:
        parts, formula = parts | {"R_board": board.resistance}, f"{formula} + R_board"
    resistance = Figure.by("R", formula, "Ω", "resistance of the pack", parts)
    label = "1 kHz resistance, board left out"
    return resistance, Figure.by("R_1k", "R_cells + R_links", "Ω", label, R_cells=cells_ohm, R_links=links_ohm)


def current_limits(
    cells_limit: Figure, board: BoardSizing | None, link: LinkSizing, parallel: Figure, sheet: Sheet
) -> LimitsByPart:
    """Continuous and burst limit of cells, board and links, A.

    A link's heating lags by minutes: in a burst of seconds it carries well more than for long.

    Source: the weakest of cells, board and links sets the limit; bursts by typical multiples (assumptions table).
    """
    links_limit = sheet.put("pack/limit_links", Figure.by("I_links", "P · I_link", "A", "links", P=parallel, I_link=link.rating))
    return {
        "cells": (cells_limit, burst_of(cells_limit, "cell_burst", "cells, 10 s", "pack/burst_cells", sheet)),
        **({"board": (board.continuous, board.burst)} if board else {}),
        "links": (links_limit, burst_of(links_limit, "link_burst", "links, 10 s", "pack/burst_links", sheet)),
    }


def collector_limit(collector: CollectorSizing | None, sheet: Sheet) -> LimitsByPart:
    """Continuous and burst limit of the collector of an end group, A; none where there is none.

    Source: what passes its fullest place is a share of the whole (Kirchhoff); bursts as of links (assumptions table).
    """
    if collector is None:
        return {}
    limit = Figure.by("I_gath", "I_col / x", "A", "collector of an end group", I_col=collector.rating, x=collector.share)
    sheet.put("pack/limit_collector", limit)
    return {"collector": (limit, burst_of(limit, "link_burst", "collector, 10 s", "pack/burst_collector", sheet))}


def burst_of(limit: Figure, key: str, label: str, path: str, sheet: Sheet) -> Figure:
    """The burst that a limit allows by a typical factor.

    Source: typical of makers' sheets (assumptions table).
    """
    factor = assumption(key)
    return sheet.put(path, Figure.by("I_burst", "I · k", "A", label, I=limit, k=factor))


def recommended_current(row: Chemistry, c_rate: float, shape: str, capacity: Figure) -> Figure:
    """The continuous current that cells of this kind are recommended for.

    Source: continuous rate by shape of cell (chemistries table).
    """
    rate = row.figure("c_rec", c_rate, "×", f"recommended C-rate, {row.label} {shape}".rstrip())
    return Figure.by("I_rec", "c_rec · C", "A", "recommended continuous current", c_rec=rate, C=capacity)
