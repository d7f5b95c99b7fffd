"""Idle drain: what each part draws with every load off, and how long the station lasts on the shelf."""

from kegcart.core.choice import assumed
from kegcart.core.figure import Figure
from kegcart.core.power.currents import converter_idle
from kegcart.core.power.document import PACK, Converter, Inverter, Outlet, PowerPath, Switch
from kegcart.core.power.parts import Bench, Idle
from kegcart.core.reference import assumption

MONTH_H = 30.4 * 24


def find_idle(path: PowerPath, bench: Bench, shunt: Figure | None) -> list[Idle]:
    """What each part on the pack draws with all loads off."""
    network, pack, sheet = bench.network, bench.pack, bench.sheet
    out: list[Idle] = []

    def enter(place: str, name: str, figure: Figure, switched: bool) -> None:
        out.append(Idle(place, name, sheet.put(f"power/idle/{len(out) + 1}", figure), switched))

    def behind_switch(key: str) -> bool:
        return any(isinstance(network.nodes[up], Switch) for up in network.upstream(key))

    def of_current(symbol: str, amps: Figure, label: str) -> Figure:
        return Figure.by(symbol, "I · V_nom", "W", label, I=amps, V_nom=pack.v_nom)

    board = pack.build.board
    if board is not None:
        enter("/pack/board", "Protection board", of_current("P", board.own_draw, "own draw of the protection board"), False)
    elif pack.chemistry.kind == "lithium":
        own = pack.pack.battery.own_draw_ma if pack.pack.form != "cells" else None
        amps = assumed(
            "I_own",
            own / 1000 if own is not None else None,
            "board_own",
            "A",
            "own draw of its board",
            "/pack/battery/own_draw_ma",
        )
        count = Figure.of("n", pack.parallel.number, "", "boards", inputs={"P": pack.parallel})
        enter(
            "/pack/battery",
            "Board inside the battery",
            Figure.by("P", "n · I · V_nom", "W", "own draw of the boards", n=count, I=amps, V_nom=pack.v_nom),
            False,
        )
    if shunt is not None and path.shunt is not None:
        own = path.shunt.own_draw_ma
        amps = assumed(
            "I_m", own / 1000 if own is not None else None, "meter_draw", "A", "draw of the meter", "/power/shunt/own_draw_ma"
        )
        enter("/power/shunt", "Meter", of_current("P", amps, "draw of the meter"), False)
    for key in network.order:
        node, at = network.nodes[key], f"/power/network/{key}"
        if network.source(key) != PACK:
            continue
        switched = behind_switch(key)
        if isinstance(node, Converter):
            enter(at, node.name, converter_idle(node, key), switched)
        elif isinstance(node, Inverter) and node.left_on:
            enter(at, node.name, sheet[f"power/{key}/idle"], switched)
        elif isinstance(node, Switch) and node.relay:
            coil = assumed("P_r", node.coil_w, "relay_coil", "W", "coil of the relay", f"{at}/coil_w")
            enter(at, node.name, coil, True)  # opened, it draws nothing
        elif isinstance(node, Outlet) and node.usb:
            leaf = assumption("usb_idle")
            enter(
                at,
                node.name,
                Figure.by(
                    "P",
                    "n · P_u",
                    "W",
                    "no-load draw of its modules",
                    n=Figure.decided("n", node.ways, "", "ports", f"{at}/ways"),
                    P_u=leaf,
                ),
                switched,
            )
    return out


def shelf_time(idle: list[Idle], bench: Bench, available: Figure) -> Figure:
    """Days until the station is empty on the shelf, its main switch open; as figures with the switch closed too."""
    sheet, nominal = bench.sheet, bench.sheet["pack/nominal"]
    rate = assumption("self_discharge")
    own = Figure.of(
        "P_sd",
        nominal.number * rate.number / MONTH_H,
        "W",
        "self-discharge",
        how="so much of the nominal energy in a month of 30.4 days",
        inputs={"E_nom": nominal, "s_d": rate},
    )

    def days(parts: list[Idle], symbol: str, label: str, path: str) -> Figure:
        inputs = {f"{i.name} ({n})": i.watts for n, i in enumerate(parts, 1)}
        drain = Figure.by("P_idle", "sum", "W", f"idle drain, {label}", {**inputs, "self-discharge": own})
        sheet.put(f"{path}_watts", drain)
        said, split = f"days on the shelf, {label}", {"E_avail": available, "P_idle": drain}
        if drain.number <= 0:
            return sheet.put(path, Figure.of(symbol, 9999.0, "days", said, how="nothing draws from it", inputs=split))
        return sheet.put(path, Figure.by(symbol, "E_avail / (24 · P_idle)", "days", said, split))

    days(idle, "t_on", "main switch closed", "power/shelf_on")
    return days([i for i in idle if not i.switched], "t_off", "main switch open", "power/shelf_off")
