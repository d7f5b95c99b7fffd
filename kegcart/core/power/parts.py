"""What the power path comes to: each part with its currents and choices, and what every step of the sizing has at hand."""

from dataclasses import dataclass, field

from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.electrical import conductors
from kegcart.core.electrical.inverter import LossCurve
from kegcart.core.figure import Figure, Sheet
from kegcart.core.loads.sizing import Demand, LoadsSizing, Peak
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.document import PACK, Node, Run, SecondBank
from kegcart.core.power.flow import Flow
from kegcart.core.power.network import Network
from kegcart.core.reference import Wire

REGULATED_V = 12.0


@dataclass(frozen=True, slots=True)
class Source:
    """The pack, or another bank, as what stands behind it sees it. Voltages in V, resistances in Ω, currents in A."""

    key: str
    name: str
    pointer: str
    v_nom: Figure
    v_max: Figure
    v_low: Figure
    cutoff: Figure
    resistance: Figure
    fault_resistance: Figure
    fault: Figure
    continuous: Figure
    burst: Figure
    empty: Figure
    """rested, at the bottom of the daily window"""


@dataclass(slots=True)
class RunSizing:
    """The cable to one part. Resistances of both legs in Ω."""

    wire: Wire
    gauge: Figure
    ampacity: Figure
    resistance: Figure
    drop: Figure
    drop_limit: Figure
    heat: Figure
    cold_ohm: float


@dataclass(slots=True)
class PartSizing:
    """One part of the path with what flows into it and what was chosen for it."""

    key: str
    node: Node
    flow: Flow
    current: Figure
    design: Figure
    """what fuse and cable are sized for: the running current, with every inverter at its rating"""
    surge: Figure
    guard: str | None
    source: Source
    run: RunSizing | None = None
    fault: Figure | None = None
    rating: Figure | None = None
    family: Figure | None = None
    choice: Figure | None = None
    """gauge-like pick of the part itself: section, connector"""
    extra: dict[str, Figure] = field(default_factory=dict)

    @property
    def pointer(self) -> str:
        return f"/power/network/{self.key}"


@dataclass(slots=True)
class InverterSizing:
    """An inverter with its loads. Powers in W, cut-off in V."""

    key: str
    peak: Peak
    rating: Figure
    surge: Figure
    idle: Figure
    cutoff: Figure
    continuous: Figure
    needed: Figure
    window_min: Figure
    window_max: Figure
    curve: LossCurve
    rated_current: Figure
    ac: Flow


@dataclass(frozen=True, slots=True)
class BankSizing:
    """A second bank with what is asked of it: currents in A, energies in Wh."""

    source: Source
    current: Figure
    surge: Figure
    asked: Figure
    usable: Figure


@dataclass(frozen=True, slots=True)
class Idle:
    """What one part draws with all loads off, in W, and whether the main switch cuts it off."""

    place: str
    name: str
    watts: Figure
    switched: bool


@dataclass(slots=True)
class PowerSizing:
    """The whole path. Energies in Wh at the posts of the pack."""

    network: Network
    parts: dict[str, PartSizing]
    inverters: dict[str, InverterSizing]
    plugged: dict[str, list[Demand]]
    homeless: list[Demand]
    current: Figure
    surge: Figure
    shunt: Figure | None
    main_ohm: Figure
    drawn_w: list[float]
    drawn_day: Figure
    drawn_away: Figure
    wiring_day: Figure
    available: Figure
    sources: dict[str, Source]
    banks: dict[str, BankSizing]
    idle: list[Idle]
    shelf_days: Figure

    def pack_inverters(self) -> dict[str, InverterSizing]:
        """The inverters that the pack feeds, not a further bank."""
        return {key: inverter for key, inverter in self.inverters.items() if self.parts[key].source.key == PACK}


@dataclass(slots=True)
class Bench:
    """What every step of the sizing needs at hand."""

    brief: Brief
    site: Site
    loads: LoadsSizing
    pack: PackSizing
    network: Network
    sheet: Sheet
    parts: dict[str, PartSizing]
    sources: dict[str, Source]
    banks: dict[str, SecondBank]

    def source(self, key: str) -> Source:
        """The source that a part is fed from."""
        return self.sources[self.network.source(key)]

    def put(self, key: str, name: str, figure: Figure) -> Figure:
        return self.sheet.put(f"power/{key}/{name}", figure)

    def ampacity(self, wire: Wire, run: Run) -> float:
        one = conductors.ampacity(wire, self.brief.wire_school, self.site.inside_c.number, run_limit_c(run), run.bundled)
        return one * run.parallel


def run_limit_c(run: Run) -> float:
    """The temperature in °C that insulation and terminals of a run both bear."""
    return min(run.insulation_c, run.terminal_c or run.insulation_c)
