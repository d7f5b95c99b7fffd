"""What the power path comes to: each part with its currents and choices, and what every step of the sizing has at hand."""

from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.charging.sizing import ChargingSizing
from kegcart.core.electrical.cables import Practice, RunSizing, SmallLead
from kegcart.core.electrical.inverter import LossCurve
from kegcart.core.figure import Figure, Sheet
from kegcart.core.loads.sizing import Demand, LoadsSizing, Peak
from kegcart.core.measured import MeasuredFigures
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.fed import PACK, Fed
from kegcart.core.power.path.flow import Flow
from kegcart.core.reference import assumption, constant

if TYPE_CHECKING:
    from kegcart.core.electrical.protection import SoldProtection
    from kegcart.core.power.document import PowerPath
    from kegcart.core.power.kinds.inverter import Inverter
    from kegcart.core.power.path.cutoffs import CutoffStep
    from kegcart.core.power.path.network import Network
    from kegcart.core.power.path.wired import Wired


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
    charged: Figure
    """rested, at its top"""

    @property
    def suits_12v(self) -> bool:
        """Whether what is made for 12 V in vehicles stands its whole range.

        Source: ISO 16750-2, functional from 9 to 16 V (assumptions table).
        """
        return constant("vehicle_low") <= self.v_low.number and self.v_max.number <= constant("vehicle_high")


@dataclass(slots=True)
class PartSizing:
    """One part of the path with what flows into it and what was chosen for it."""

    key: str
    node: Fed
    flow: Flow
    current: Figure
    design: Figure
    """what fuse and cable are sized for: the running current, with every inverter at its rating"""
    surge: Figure
    guard: str | None
    source: Source
    run: RunSizing | None = None
    other: RunSizing | None = None
    """the cable to a selector from its other way"""
    fault: Figure | None = None
    rating: Figure | None = None
    family: Figure | None = None
    choice: Figure | None = None
    """gauge-like pick of the part itself: section, connector"""
    extra: dict[str, Figure] = field(default_factory=dict)

    @property
    def pointer(self) -> str:
        """Its place in the document."""
        return f"/power/network/{self.key}"

    @property
    def name_in_its_tree(self) -> str:
        """Its name without that of its bank, beside which it is drawn."""
        return self.node.name.removesuffix(f", {self.source.name}")


@dataclass(frozen=True, slots=True)
class LegNeed:
    """What is asked of one leg of a split phase: apparent power in VA, the worst start in W."""

    apparent: Figure
    surge_w: float


@dataclass(frozen=True, slots=True)
class InverterNeed:
    """What the loads on its outlets ask of an inverter: rating in W, and what each leg bears, where it has two."""

    node: "Inverter"
    demands: list[Demand]
    peak: Peak
    on_legs: dict[str, LegNeed]
    rating: Figure


@dataclass(slots=True)
class InverterSizing:
    """An inverter with its loads. Powers in W, cut-off in V. linear, square: of its loss, see `LossCurve`. on_legs: what is asked of each leg, where it has two."""

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
    linear: Figure
    square: Figure
    rated_current: Figure
    ac: Flow
    on_legs: dict[str, LegNeed]

    @property
    def curve(self) -> LossCurve:
        """Its loss over power."""
        return LossCurve(self.idle.number, self.linear.number, self.square.number, self.rating.number)


@dataclass(frozen=True, slots=True)
class BankSizing:
    """A second bank with what is asked of it: currents in A, energies in Wh."""

    source: Source
    current: Figure
    surge: Figure
    asked: Figure
    day: Figure
    usable: Figure


@dataclass(frozen=True, slots=True)
class Idle:
    """What one part draws with all loads off, in W, and whether the main switch cuts it off."""

    place: str
    name: str
    watts: Figure
    switched: bool
    within: bool = False
    """whether its draw is within the current of its part by the schedule, as that of a converter is"""


@dataclass(slots=True)
class PathContext:
    """What every step of the sizing has at hand; filled as the steps are taken.

    wired: the path with its loads. measured: of the built station. inverters, flows, parts: by the id of their part.
    """

    path: "PowerPath"
    brief: Brief
    site: Site
    loads: LoadsSizing
    pack: PackSizing
    charging: ChargingSizing
    wired: "Wired"
    measured: MeasuredFigures
    sheet: Sheet
    sources: dict[str, Source]
    inverters: dict[str, InverterSizing] = field(default_factory=dict)
    flows: dict[str, Flow] = field(default_factory=dict)
    parts: dict[str, PartSizing] = field(default_factory=dict)
    shunt: Figure | None = None
    negative: RunSizing | None = None
    """the main negative, from the post to the negative bar"""
    meter: SmallLead | None = None
    """the supply lead of the meter"""
    taken_before: dict[str, tuple[int, float]] = field(default_factory=dict)
    """the step at which most voltage is taken before a socket, and how many V, once what stands before it is sized"""
    volts_a_metre: dict[str, float] = field(default_factory=dict)
    """what the copper on the way to a socket may take for each metre, V, by part on such a way"""
    block_families: dict[tuple[str, float, float, float], str | None] = field(default_factory=dict)
    """the family of the fuses of a block, by block, voltage, fault and the fuse before it: what was found once"""
    guesses: dict[tuple[str, float, float], "SoldProtection"] = field(default_factory=dict)
    """the protection that will stand at a part, by part, voltage and fault: what was guessed once"""
    meter_sleeps: bool = False
    """whether a meter is chosen that sleeps with the loads off, as the days on the shelf ask for one"""

    @property
    def network(self) -> "Network":
        """The tree."""
        return self.wired.network

    def source(self, key: str) -> Source:
        """The source that a part is fed from."""
        return self.sources[self.network.source(key)]

    def put(self, key: str, name: str, figure: Figure) -> Figure:
        """Enter a figure of a part, and return it."""
        return self.sheet.put(f"power/{key}/{name}", figure)

    def known(self, key: str) -> Figure:
        """An assumption that many checks are held against: on the sheet once, so that each names it by its path."""
        path = f"assumption/{key}"
        return self.sheet.get(path) or self.sheet.put(path, assumption(key))

    @property
    def tested_inverter(self) -> InverterSizing | None:
        """The inverter on which a load test is made: the largest that the pack feeds; None: the test is made with DC."""
        own = [inverter for key, inverter in self.inverters.items() if self.source(key).key == PACK]
        return max(own, key=lambda inverter: inverter.rating.number, default=None)

    @property
    def tested_way(self) -> list[str]:
        """The parts through which a load test is fed, from its end towards the posts; empty where nothing is laid out."""
        if inverter := self.tested_inverter:
            return [inverter.key, *self.network.upstream(inverter.key)]
        return self.network.main_path()[::-1]

    @property
    def tested_copper(self) -> float:
        """Resistance in Ω of the runs through which a load test is fed, cold: by which it is known whether they are still the same."""
        return sum(part.run.cold_ohm for key in self.tested_way if (part := self.parts[key]).run)

    @property
    def practice(self) -> Practice:
        """What the brief says of all cables."""
        return self.site.practice


@dataclass(slots=True)
class PowerSizing:
    """The whole path. Energies in Wh at the posts of the pack."""

    ctx: PathContext
    current: Figure
    surge: Figure
    main_ohm: Figure
    drawn_w: list[float]
    drawn_day: Figure
    drawn_away: Figure
    wiring_day: Figure
    available: Figure
    banks: dict[str, BankSizing]
    idle: list[Idle]
    shelf_days: Figure
    cutoffs: "list[CutoffStep]"

    @property
    def network(self) -> "Network":
        """The tree."""
        return self.ctx.network

    @property
    def parts(self) -> dict[str, PartSizing]:
        """Every part, by id."""
        return self.ctx.parts

    @property
    def inverters(self) -> dict[str, InverterSizing]:
        """Every inverter, by id."""
        return self.ctx.inverters

    @property
    def plugged(self) -> dict[str, list[Demand]]:
        """The loads of each outlet."""
        return self.ctx.wired.plugged

    @property
    def without_outlet(self) -> list[Demand]:
        """The loads that find no outlet."""
        return self.ctx.wired.without_outlet

    @property
    def shunt(self) -> Figure | None:
        """The rating of the shunt; None without one."""
        return self.ctx.shunt

    @property
    def sources(self) -> dict[str, Source]:
        """Pack and further banks, by id."""
        return self.ctx.sources

    def pack_inverters(self) -> dict[str, InverterSizing]:
        """The inverters that the pack feeds, not a further bank."""
        return {key: inverter for key, inverter in self.inverters.items() if self.parts[key].source.key == PACK}
