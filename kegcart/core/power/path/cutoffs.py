"""The chain of low-voltage cut-offs on one scale, with the rested and the loaded pack beside it."""

from dataclasses import dataclass

from kegcart.core.electrical.source import loaded_voltage
from kegcart.core.figure import Figure
from kegcart.core.pack.forms import form_of
from kegcart.core.pack.sizing import PackSizing, resistance_at
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import kind_of
from kegcart.core.power.path.parts import PathContext, PowerSizing

BOARD, CELLS = 2, 3
"""Who goes first: loads (0) and inverters (1), by their kinds; then the board, and last what the cells themselves stand."""


@dataclass(frozen=True, slots=True)
class CutoffStep:
    """One cut-off: where it is decided, its voltage at the pack, its rank in the order."""

    rank: int
    name: str
    place: str
    volts: Figure
    pinned: bool


def cutoffs(ctx: PathContext) -> list[CutoffStep]:
    """Every cut-off on the pack, in the order in which they should act.

    Source: practice: loads before inverter before board before the cells' own limit.
    """
    out: list[CutoffStep] = []
    network, pack = ctx.network, ctx.pack
    for key, node in network.nodes.items():
        own = kind_of(node).cutoff(node, key, ctx)
        if own is not None and network.source(key) == PACK:
            out.append(CutoffStep(own.rank, node.name, f"/power/network/{key}/cutoff_v", own.volts, own.pinned))
    form = form_of(pack.pack)
    if form.protection(pack) is not None:
        pinned = form.cutoff_pinned(pack.pack)
        out.append(CutoffStep(BOARD, "the protection board", "/pack/board/cell_min_v", pack.cutoff, pinned))
    one = pack.chemistry.figure("v_min", pack.chemistry.v_min, "V", "least voltage of a cell")
    least = Figure.by("V_min", "S · v_min", "V", "least voltage the cells stand", S=pack.series, v_min=one)
    out.append(CutoffStep(CELLS, "the cells", "/pack/chemistry", least, False))
    return sorted(out, key=lambda s: (s.rank, -s.volts.number))


def scale(power: PowerSizing, pack: PackSizing, cold_c: float) -> list[dict[str, float]]:
    """Rested and loaded pack voltage over the charge: at the running peak and in the worst surge, cold.

    Each entry has `soc` (share), `rested`, `running`, `surge` in V; a load the pack cannot give stands at half the
    rested voltage.

    Source: open-circuit curve of the chemistry less Ohm's law, resistance in the cold (cold table).
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
