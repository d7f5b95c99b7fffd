"""The sources of the path: the pack, and further banks by their sheets, with what is asked of each bank."""

from kegcart.core.charging.charged import Charged
from kegcart.core.choice import typical
from kegcart.core.figure import Figure, Sheet
from kegcart.core.pack.bank import in_a_fault
from kegcart.core.pack.document import Bank
from kegcart.core.pack.energy import curve_share
from kegcart.core.pack.forms import form_of
from kegcart.core.pack.sizing import PackSizing, ends_by_itself
from kegcart.core.power.document import PowerPath, SecondBank
from kegcart.core.power.fed import PACK
from kegcart.core.power.path.energy import taken_w
from kegcart.core.power.path.flow import Flow
from kegcart.core.power.path.parts import BankSizing, PathContext, Source
from kegcart.core.reference import Chemistry, assumption, chemistries, constant


def find_sources(path: PowerPath, pack: PackSizing, sheet: Sheet) -> dict[str, Source]:
    """The pack and the further banks, by id."""
    out = {
        PACK: Source(
            PACK,
            "the pack",
            "/pack",
            pack.v_nom,
            pack.v_max,
            pack.v_low,
            pack.cutoff,
            pack.resistance,
            pack.fault_resistance,
            pack.fault,
            pack.continuous,
            pack.burst,
            *window_figures(pack.chemistry, int(pack.series.number)),
        )
    }
    for key, bank in path.banks.items():
        out[key] = bank_source(key, bank, sheet)
    return out


def find_charged(path: PowerPath, pack: PackSizing) -> dict[str, Charged]:
    """The pack and the further banks as what charges them sees them, by id; the pack first."""
    built = pack.pack
    out = {
        PACK: Charged(
            PACK,
            "the pack",
            "/pack",
            pack.chemistry,
            pack.series,
            pack.capacity,
            pack.charge_limit,
            pack.v_nom,
            pack.resistance,
            window_figures(pack.chemistry, int(pack.series.number))[0],
            form_of(built).stops_at(built),
            (built.in_series, int(pack.parallel.number)) if isinstance(built, Bank) else (1, 1),
            pack.mass,
        )
    }
    return out | {key: charged_bank(key, bank) for key, bank in path.banks.items()}


def charged_bank(key: str, bank: SecondBank) -> Charged:
    """A further bank as what charges it sees it. Source: rate and voltages of its chemistry (chemistries table)."""
    at, row = f"/power/banks/{key}", chemistries()[bank.chemistry]
    series = Figure.decided("S", bank.series, "", "cells in series", f"{at}/series")
    capacity = Figure.decided("C", bank.capacity_ah, "Ah", "capacity", f"{at}/capacity_ah")
    rate = row.figure("c", row.charge_rate, "1/h", f"charge rate of {row.label}")
    limit = Figure.by("I_ch", "c · C", "A", f"charge limit of {bank.name}", c=rate, C=capacity)
    v_nom = Figure.by(
        "V_nom", "S · v_nom", "V", "nominal voltage", S=series, v_nom=row.figure("v_nom", row.v_nom, "V", "one cell")
    )
    at_ohm, cells = f"{at}/resistance_mohm", bank.series * row.r_ah_mohm / bank.capacity_ah / 1000
    own = bank.resistance_mohm and bank.resistance_mohm / 1000
    ohm = typical("R", own, cells * constant("dc_resistance_ratio"), "Ω", "resistance of the bank", at_ohm, row)
    empty, stop_v = window_figures(row, bank.series)[0], None
    if row.kind != "lead":
        stop_v = row.figure("v_stop", row.v_max, "V", f"stop of its board, {row.label}")
    return Charged(key, bank.name, at, row, series, capacity, limit, v_nom, ohm, empty, stop_v, (1, 1))


def window_figures(row: Chemistry, series: int) -> tuple[Figure, Figure]:
    """Voltages (V) of a source that has been used down to its daily window, and of one that is charged to its top."""
    empty = row.figure("V_empty", series * row.open_circuit(row.window_low), "V", "rested, at the bottom of its daily window")
    return empty, row.figure("V_top", series * row.open_circuit(row.window_high), "V", "rested, at the top of its daily window")


def bank_source(key: str, bank: SecondBank, sheet: Sheet) -> Source:
    """A bank by its sheet.

    Source: series adds voltage; cell voltages from the chemistries table.
    """
    at, row = f"/power/banks/{key}", chemistries()[bank.chemistry]
    series = Figure.decided("S", bank.series, "", "cells in series", f"{at}/series")

    def volts(symbol: str, per_cell: float, label: str, name: str) -> Figure:
        one = row.figure("v", per_cell, "V", f"{label}, one cell")
        figure = Figure.by(symbol, "S · v", "V", label, S=series, v=one)
        return sheet.put(f"power/banks/{key}/{name}", figure)

    cells = bank.series * row.r_ah_mohm / bank.capacity_ah / 1000
    own = bank.resistance_mohm and bank.resistance_mohm / 1000
    ohm = typical("R", own, cells * constant("dc_resistance_ratio"), "Ω", "resistance of the bank", f"{at}/resistance_mohm", row)
    v_max = volts("V_max", row.v_max, "greatest voltage", "v_max")
    continuous = Figure.decided("I_cont", bank.continuous_a, "A", f"continuous limit of {bank.name}", f"{at}/continuous_a")
    fault_ohm = in_a_fault(own, cells, continuous, bank.name, f"{at}/resistance_mohm", row)
    fault = Figure.by("I_sc", "V_max / R_1k", "A", "prospective fault current at the posts", V_max=v_max, R_1k=fault_ohm)
    factor = assumption("cell_burst" if row.kind == "lead" else "board_burst")
    burst = (
        Figure.decided("I_burst", bank.burst_a, "A", f"burst limit of {bank.name}", f"{at}/burst_a")
        if bank.burst_a is not None
        else Figure.by("I_burst", "I_cont · k", "A", f"burst limit of {bank.name}", I_cont=continuous, k=factor)
    )
    sheet.put(f"power/banks/{key}/fault", fault)
    symbol, label, name = ends_by_itself(row)
    return Source(
        key,
        bank.name,
        at,
        volts("V_nom", row.v_nom, "nominal voltage", "v_nom"),
        v_max,
        volts("V_low", row.v_low, "lowest working voltage", "v_low"),
        volts(symbol, row.v_min, label, name),
        ohm,
        fault_ohm,
        fault,
        continuous,
        burst,
        *window_figures(row, bank.series),
    )


def size_bank(key: str, bank: SecondBank, ctx: PathContext) -> BankSizing:
    """What is asked of a further bank: greatest current, worst surge, energy between charges."""
    network, day, source = ctx.network, ctx.loads.day, ctx.sources[key]
    fed = network.feeds[key]
    total = Flow.total((ctx.flows[k] for k in fed), day)
    worst = total.worst_start
    shares = {f"{network.nodes[k].name} ({k})": ctx.parts[k].current for k in fed}
    how = "what runs at once by the schedule"
    current = Figure.of("I", total.peak, "A", f"greatest running current of {source.name}", how=how, inputs=shares)
    most, how = max(total.worst(worst) if worst else 0.0, total.peak), "the greatest start on top of what runs then"
    surge = Figure.of("I_surge", most, "A", f"worst surge of {source.name}", how=how, inputs={"I": current})
    (asked, whole_day), usable = asked_energy(key, source, ctx), usable_energy(bank, source, ctx)
    named = (("current", current), ("surge", surge), ("asked", asked), ("day", whole_day), ("usable", usable))
    for name, figure in named:
        ctx.sheet.put(f"power/banks/{key}/{name}", figure)
    return BankSizing(source, current, surge, asked, whole_day, usable)


def asked_energy(key: str, source: Source, ctx: PathContext) -> tuple[Figure, Figure]:
    """What the loads on a further bank take from it between charges, and a day, Wh."""
    network, day, brief = ctx.network, ctx.loads.day, ctx.brief
    watts = [0.0] * day.steps
    for k in network.order:
        if network.source(k) == key and (taken := taken_w(k, ctx)) is not None:
            watts = [w + t for w, t in zip(watts, taken, strict=True)]
    loads = {d.label: d.energy for k, held in ctx.wired.plugged.items() if network.source(k) == key for d in held}
    most, _ = day.fullest(watts, brief.ready_h, brief.hours_away)
    how = "mean power by the schedule, losses included, over the hours between charges"
    away = Figure.of("E_away", most, "Wh", f"taken from {source.name} between charges", how=how, inputs=loads)
    how = "mean power by the schedule, losses included, over the day"
    return away, Figure.of("E_day", day.energy(watts), "Wh", f"taken from {source.name} a day", how=how, inputs=loads)


def usable_energy(bank: SecondBank, source: Source, ctx: PathContext) -> Figure:
    """What a further bank gives over its daily window, in the cold, Wh.

    Source: capacity times the mean voltage on the curve times daily window times what is left in the cold.
    """
    row = chemistries()[bank.chemistry]
    depth = row.figure("DoD", row.window_high - row.window_low, "share", "daily window")
    return Figure.by(
        "E_use",
        "C · V_nom · k_v · DoD · k_temp",
        "Wh",
        f"usable energy of {source.name}",
        C=Figure.decided("C", bank.capacity_ah, "Ah", "capacity", f"{source.pointer}/capacity_ah"),
        V_nom=source.v_nom,
        k_v=curve_share(row, row.window_low, depth),
        DoD=depth,
        k_temp=ctx.pack.cold_factor,
    )
