"""The sources of the path: the pack, and further banks by their sheets, with what is asked of each bank."""

from kegcart.core.choice import typical
from kegcart.core.figure import Figure, Sheet
from kegcart.core.loads.sizing import Demand
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.document import PACK, Converter, Inverter, Outlet, PowerPath, SecondBank
from kegcart.core.power.flow import Flow
from kegcart.core.power.parts import BankSizing, Bench, Source
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
            empty_figure(pack.chemistry, pack.open_circuit(pack.chemistry.window_low)),
        )
    }
    for key, bank in path.banks.items():
        out[key] = bank_source(key, bank, sheet)
    return out


def empty_figure(row: Chemistry, volts: float) -> Figure:
    """Voltage (V) of a source that has been used down to its daily window."""
    return row.figure("V_empty", volts, "V", "rested, at the bottom of its daily window")


def bank_source(key: str, bank: SecondBank, sheet: Sheet) -> Source:
    """A bank by its sheet."""
    at, row = f"/power/banks/{key}", chemistries()[bank.chemistry]
    series = Figure.decided("S", bank.series, "", "cells in series", f"{at}/series")

    def volts(symbol: str, per_cell: float, label: str, name: str) -> Figure:
        one = row.figure("v", per_cell, "V", f"{label}, one cell")
        figure = Figure.by(symbol, "S · v", "V", label, S=series, v=one)
        return sheet.put(f"power/banks/{key}/{name}", figure)

    cells = bank.series * row.r_ah_mohm / bank.capacity_ah / 1000
    own = bank.resistance_mohm and bank.resistance_mohm / 1000
    ohm = typical("R", own, cells * constant("dc_resistance_ratio"), "Ω", "resistance of the bank", f"{at}/resistance_mohm", row)
    fault_ohm = typical("R_1k", own, cells, "Ω", "resistance of the bank in a fault", f"{at}/resistance_mohm", row)
    v_max = volts("V_max", row.v_max, "greatest voltage", "v_max")
    fault = Figure.by("I_sc", "V_max / R_1k", "A", "prospective fault current at the posts", V_max=v_max, R_1k=fault_ohm)
    continuous = Figure.decided("I_cont", bank.continuous_a, "A", f"continuous limit of {bank.name}", f"{at}/continuous_a")
    factor = assumption("board_burst")
    burst = (
        Figure.decided("I_burst", bank.burst_a, "A", f"burst limit of {bank.name}", f"{at}/burst_a")
        if bank.burst_a is not None
        else Figure.by("I_burst", "I_cont · k", "A", f"burst limit of {bank.name}", I_cont=continuous, k=factor)
    )
    sheet.put(f"power/banks/{key}/fault", fault)
    return Source(
        key,
        bank.name,
        at,
        volts("V_nom", row.v_nom, "nominal voltage", "v_nom"),
        v_max,
        volts("V_low", row.v_low, "lowest working voltage", "v_low"),
        volts("V_bms", row.v_min, "its own protection opens", "cutoff"),
        ohm,
        fault_ohm,
        fault,
        continuous,
        burst,
        empty_figure(row, bank.series * row.open_circuit(row.window_low)),
    )


def size_bank(key: str, bench: Bench, flows: dict[str, Flow], plugged: dict[str, list[Demand]]) -> BankSizing:
    """What is asked of a further bank: greatest current, worst surge, energy between charges."""
    network, day, brief, bank = bench.network, bench.loads.day, bench.brief, bench.banks[key]
    source = bench.sources[key]
    fed = (*network.children[key], *network.selected_from(key))
    total = Flow.total((flows[k] for k in fed), day)
    worst = total.worst_start
    own = [k for k in plugged if network.source(k) == key]
    shares = {f"{network.nodes[k].name} ({k})": bench.parts[k].current for k in fed}
    current = Figure.of(
        "I", total.peak, "A", f"greatest running current of {source.name}", how="what runs at once by the schedule", inputs=shares
    )
    surge = Figure.of(
        "I_surge",
        max(total.worst(worst) if worst else 0.0, total.peak),
        "A",
        f"worst surge of {source.name}",
        how="the greatest start on top of what runs then",
        inputs={"I": current},
    )
    watts = [0.0] * day.steps
    for k in network.order:
        node = network.nodes[k]
        feeds_loads = isinstance(node, Inverter | Converter) or (
            isinstance(node, Outlet) and network.supply(k) in ("usb", "pack")
        )
        if network.source(k) == key and feeds_loads:
            volts_at = bench.sheet[f"power/{k}/cutoff"].number if isinstance(node, Inverter) else source.v_low.number
            watts = [w + a * volts_at for w, a in zip(watts, flows[k].mean, strict=True)]
    asked = Figure.of(
        "E_away",
        day.fullest(watts, brief.ready_h, brief.hours_away)[0],
        "Wh",
        f"taken from {source.name} between charges",
        how="mean power by the schedule, losses included, over the hours between charges",
        inputs={d.label: d.energy for k in own for d in plugged[k]},
    )
    row = chemistries()[bank.chemistry]
    share = row.window_high - row.window_low
    capacity = Figure.decided("C", bank.capacity_ah, "Ah", "capacity", f"{source.pointer}/capacity_ah")
    usable = Figure.by(
        "E_use",
        "C · V_nom · DoD · k_temp",
        "Wh",
        f"usable energy of {source.name}",
        C=capacity,
        V_nom=source.v_nom,
        DoD=row.figure("DoD", share, "share", "daily window"),
        k_temp=bench.pack.cold_factor,
    )
    for name, figure in {"current": current, "surge": surge, "asked": asked, "usable": usable}.items():
        bench.sheet.put(f"power/banks/{key}/{name}", figure)
    return BankSizing(source, current, surge, asked, usable)
