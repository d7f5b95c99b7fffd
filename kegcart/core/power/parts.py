"""What the power path comes to: each part with its currents and choices, and what every step of the sizing has at hand."""

from dataclasses import dataclass, field

from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.electrical import conductors
from kegcart.core.electrical.inverter import LossCurve
from kegcart.core.figure import Figure, Sheet
from kegcart.core.loads.sizing import Demand, LoadsSizing, Peak
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.document import Node, Run
from kegcart.core.power.flow import Flow
from kegcart.core.power.network import Network
from kegcart.core.reference import Wire

REGULATED_V = 12.0


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

    def put(self, key: str, name: str, figure: Figure) -> Figure:
        return self.sheet.put(f"power/{key}/{name}", figure)

    def ampacity(self, wire: Wire, run: Run) -> float:
        return conductors.ampacity(wire, self.brief.wire_school, self.site.inside_c.number, run.insulation_c, run.bundled)
