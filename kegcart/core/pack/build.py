"""What either way of building a pack hands to the rest of the station."""

from dataclasses import dataclass, field

from kegcart.core.electrical.cables import RunSizing, SmallLead
from kegcart.core.figure import Figure
from kegcart.core.pack.links import CollectorSizing, LinkSizing
from kegcart.core.reference import Chemistry, Family

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


def asked(symbol: str, power: Figure, series: Figure, row: Chemistry, label: str) -> Figure:
    """Current in A that a power asked of the pack takes at its lowest working voltage.

    Source: I = P / U at the lowest working voltage, where the current is greatest.
    """
    low = row.figure("V_low", series.number * row.v_low, "V", "lowest working voltage")
    return Figure.by(symbol, f"{power.symbol} / V_low", "A", label, {power.symbol: power, "V_low": low})


def ceiling(x: float) -> int:
    """The next whole number up, forgiving a hair of rounding."""
    return int(-(-(x - 1e-9) // 1))
