"""What either way of building a pack hands to the rest of the station."""

from bisect import bisect_left
from collections.abc import Callable
from dataclasses import dataclass, field

from kegcart.core.electrical.cables import RunSizing, SmallLead
from kegcart.core.electrical.inverter import CUTOFF_MARGIN
from kegcart.core.figure import Figure
from kegcart.core.loads.sizing import Demand, LoadsSizing, by_step
from kegcart.core.pack.links import CollectorSizing, LinkSizing
from kegcart.core.reference import Chemistry, Family

MAIN_PATH = 0.03
"""Share of the voltage that the main path with its fuses takes at what it is made for, until it is known."""
START_SPARE = 1.03
"""What converters and electronics draw on top of a start, until the power path is known."""
LimitsByPart = dict[str, tuple[Figure, Figure]]


@dataclass(frozen=True, slots=True)
class GroupSizing:
    """One group of cells in parallel, as measured: capacity in Ah, 1 kHz resistance in Ω."""

    key: str
    capacity: Figure
    resistance: Figure
    labels: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class BoardSizing:
    """The protection board. Currents in A, voltages of one cell in V."""

    series: Figure
    continuous: Figure
    burst: Figure
    charge: Figure
    balance: Figure
    own_draw: Figure
    resistance: Figure
    cell_min: Figure
    cell_max: Figure
    cold_lock: bool
    sense: SmallLead | None = None
    """each of its sense leads"""


@dataclass(frozen=True, slots=True)
class StringsSizing:
    """Strings in parallel: the share of each, and what protects each."""

    shares: tuple[Figure, ...]
    even: float
    takeoff: str
    fuse: Figure | None
    family: Family | None
    fault: Figure
    """what the other strings feed into a fault in one of them, A"""
    fuse_fault: Figure
    """the greatest fault that the fuse of a string may have to open, A"""
    resting_v: tuple[float | None, ...]
    ohm: tuple[float, ...]
    capacity_ah: tuple[float, ...]
    leads: tuple[RunSizing, ...]
    link: RunSizing | None
    """from one string to the next; None where there is none"""
    joining: "Joining | None"
    """the first current on joining; None where less than two resting voltages are known"""


@dataclass(frozen=True, slots=True)
class Joining:
    """The first current in A when the fullest string (`of`) is joined to the emptiest (`into`), by their places from 0."""

    first: Figure
    of: int
    into: int


@dataclass(slots=True)
class Build:
    """Cells or batteries, put together. Resistances in Ω at 25 °C, limits in A by the part that sets them."""

    series: Figure
    parallel: Figure
    capacity: Figure
    resistance: Figure
    fault_resistance: Figure
    limits: LimitsByPart
    recommended: Figure
    charge_limits: dict[str, Figure]
    mass: Figure
    cost: Figure
    board: BoardSizing | None = None
    link: LinkSizing | None = None
    collector: CollectorSizing | None = None
    strings: StringsSizing | None = None
    groups: list[GroupSizing] = field(default_factory=list)


def asked(symbol: str, power: Figure, series: Figure, row: Chemistry, label: str, loads: LoadsSizing) -> Figure:
    """Current in A that a power asked of the pack takes at its lowest working voltage, with what loads take whose power does not stay
    the same at another voltage.

    Source: I = P / U at the lowest working voltage, where the current is greatest; I constant; I = U/R at the greatest voltage.
    """
    low = row.figure("V_low", series.number * row.v_low, "V", "lowest working voltage")
    given = {power.symbol: power, "V_low": low}
    more = beyond_power(loads, low.number, series.number * row.v_max, starting=power is loads.drawn_surge)
    if not more:
        return Figure.by(symbol, f"{power.symbol} / V_low", "A", label, given)
    how = "what stays the same at another voltage is their current, or their resistance"
    beyond = Figure.of("I_more", more, "A", "loads on the pack whose volts and amps are known, beyond their power", how=how)
    return Figure.by(symbol, f"{power.symbol} / V_low + I_more", "A", label, {**given, "I_more": beyond})


def beyond_power(loads: LoadsSizing, low_v: float, greatest_v: float, starting: bool) -> float:
    """The most in A that loads take at some moment beyond their power over the lowest voltage; at their start, by its power."""
    fixed = [d for d in loads.demands.values() if d.law != "power"]

    def more(d: Demand) -> float:
        watts = d.running.number + (d.surge_extra.number if starting else 0.0)
        return watts * max(0.0, d.amps_a_watt(low_v, greatest_v) - 1 / low_v)

    return max(by_step(fixed, loads.day, more), default=0.0) if fixed else 0.0


def inverter_current(loads: LoadsSizing, series: Figure, row: Chemistry) -> Figure:
    """What the largest inverter on the pack takes at its rating, A: whoever has a plug will load it to that.

    Source: I = P / U at the least voltage at which it runs; see `Promise`.
    """
    v_nom, v_low = series.number * row.v_nom, series.number * row.v_low
    amps = max((p.drawn_w(v_nom) / max(p.runs_from(v_nom), v_low) for p in loads.inverters), default=0.0)
    how = "the rating that its loads ask for, or as pinned, with its loss, at the least voltage at which it runs"
    return Figure.of("I_inv", amps, "A", "the largest inverter at its rating, estimate", how=how, inputs={"S": series})


def ends_at(loads: LoadsSizing, series: float, row: Chemistry, ohm: float, carried_a: float) -> float:
    """The rested voltage of a cell in V at which the worst surge pulls the pack to the least voltage of an inverter on it.

    ohm: of the pack, cold. carried_a: what the main path is made for, A: at that it takes its share of the voltage. 0 where no
    inverter hangs on it. Source: Ohm's law.
    """
    least_v = max((p.runs_from(series * row.v_nom) for p in loads.inverters), default=0.0)
    if not least_v:
        return 0.0
    cutoff_v = max(least_v, series * row.v_low, CUTOFF_MARGIN * series * row.v_min)
    path_ohm = MAIN_PATH * cutoff_v / carried_a if carried_a else 0.0
    return (cutoff_v + loads.drawn_surge.number / cutoff_v * (ohm + path_ohm)) / series


def fewest(least: int, most: int, wanted_wh: float, usable_wh: Callable[[int], float]) -> int:
    """The fewest in parallel, from `least` up, that have so much usable energy in Wh; `most` where none has."""
    counts = range(least, most)
    return least + bisect_left(counts, wanted_wh, key=usable_wh)  # more in parallel never have less


def ceiling(x: float) -> int:
    """The next whole number up, forgiving a hair of rounding."""
    return int(-(-(x - 1e-9) // 1))
