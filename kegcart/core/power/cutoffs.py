"""The chain of low-voltage cut-offs on one scale, with the rested and the loaded pack beside it."""

from dataclasses import dataclass

from kegcart.core.electrical.source import loaded_voltage
from kegcart.core.figure import Figure
from kegcart.core.pack.document import CellPack
from kegcart.core.pack.sizing import PackSizing, resistance_at
from kegcart.core.power.document import PACK, Converter, Inverter, Switch
from kegcart.core.power.parts import PowerSizing

#: Who goes first: loads, inverters, the board, and last what the cells themselves bear.
LOADS, INVERTERS, BOARD, CELLS = range(4)


@dataclass(frozen=True, slots=True)
class Step:
    """One cut-off: where it is decided, its voltage at the pack, its rank in the order."""

    rank: int
    name: str
    place: str
    volts: Figure
    pinned: bool


def chain(power: PowerSizing, pack: PackSizing) -> list[Step]:
    """Every cut-off on the pack, in the order in which they should act."""
    out: list[Step] = []
    network = power.network
    for key, node in network.nodes.items():
        if network.source(key) != PACK:
            continue
        at = f"/power/network/{key}/cutoff_v"
        if isinstance(node, Switch | Converter) and node.cutoff_v is not None:
            volts = Figure.decided("V_cut", node.cutoff_v, "V", f"{node.name} cuts off", at)
            out.append(Step(LOADS, node.name, at, volts, True))
        elif isinstance(node, Inverter):
            cutoff = power.inverters[key].cutoff
            out.append(Step(INVERTERS, node.name, at, cutoff, node.cutoff_v is not None))
    pinned = isinstance(pack.pack, CellPack) and pack.pack.board.cell_min_v is not None
    out.append(Step(BOARD, "the protection board", "/pack/board/cell_min_v", pack.cutoff, pinned))
    least = Figure.by(
        "V_min",
        "S · v_min",
        "V",
        "least voltage the cells bear",
        S=pack.series,
        v_min=pack.chemistry.figure("v_min", pack.chemistry.v_min, "V", "least voltage of a cell"),
    )
    out.append(Step(CELLS, "the cells", "/pack/chemistry", least, False))
    return sorted(out, key=lambda s: (s.rank, -s.volts.number))


def scale(power: PowerSizing, pack: PackSizing, cold_c: float) -> list[dict[str, float]]:
    """Rested and loaded pack voltage over the charge: at the running peak and in the worst surge, cold.

    Each entry has `soc` (share), `rested`, `running`, `surge` in V; a load the pack cannot give stands at half the
    rested voltage.
    """
    ohm = resistance_at(pack, cold_c) + power.main_ohm.number
    out = []
    for percent in range(0, 101, 5):
        rested = pack.open_circuit(percent / 100)
        loaded = {
            name: loaded_voltage(rested, ohm, amps.number * pack.v_low.number) or rested / 2
            for name, amps in (("running", power.current), ("surge", power.surge))
        }
        out.append({"soc": percent / 100, "rested": rested, **loaded})
    return out
