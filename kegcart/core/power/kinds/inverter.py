"""Inverters: rating, cut-off, losses and what they draw, for the loads on their outlets."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import BeforeValidator, Field

from kegcart.core.brief.document import OUTLET_VOLTAGE, Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.choice import sized, typical
from kegcart.core.document import YES_NO, FieldWords, Said, Words
from kegcart.core.drawing import Box, Primitive
from kegcart.core.electrical.inverter import (
    CUTOFF_MARGIN,
    DERATE_FROM_C,
    Promise,
    class_for,
    derating,
    loss_figure,
    needed_rating,
    pick_rating,
    shape_figures,
)
from kegcart.core.figure import Figure
from kegcart.core.loads.profile import Day
from kegcart.core.loads.sizing import Demand, LoadsSizing, Peak, find_peak
from kegcart.core.loads.supplies import Supply
from kegcart.core.measured import as_measured
from kegcart.core.power.fed import PACK, Fed, Negative
from kegcart.core.power.kinds.base import (
    LINE,
    RUNNING,
    UNLIMITED,
    Choice,
    Cutoff,
    Device,
    Facts,
    IdleDraw,
    Kind,
    Label,
    PartType,
    shares,
)  # fmt: skip
from kegcart.core.power.kinds.symbols import device
from kegcart.core.power.path.flow import Flow, into_inverter, of_loads
from kegcart.core.power.path.legs import LEGS, leg_surge, on_leg
from kegcart.core.power.path.parts import InverterNeed, InverterSizing, LegNeed, PartSizing, PathContext, Source
from kegcart.core.reference import assumption, constant, inverter_classes
from kegcart.core.reference.boxes import BodyType, body_type
from kegcart.core.simulation.inputs import Loss, Overload
from kegcart.core.units import Power, Voltage, reader, write_quantity

if TYPE_CHECKING:
    from kegcart.core.power.path.network import Network
    from kegcart.core.power.path.wired import Wired

CUTOFF_RANK = 1


def precharge_from(v_nom: float) -> Figure | None:
    """The inverter rating from which pre-charge is due at a nominal voltage; None in the 12 V class.

    Source: practice: capacitors of larger inverters at higher voltages pit contacts (assumptions table).
    """
    if v_nom >= 34:
        return assumption("precharge_36")
    return assumption("precharge_24") if v_nom >= 20 else None


def precharge_resistor(source: Source) -> Figure:
    """The resistor in Ω through which the capacitors are charged for some seconds, before the switch is closed.

    Source: Ohm's law, about 2 A at the greatest voltage (practice, assumptions table).
    """
    current = assumption("precharge_current")
    return Figure.by("R_pre", "V_max / I_pre", "ohm", "pre-charge resistor, for some seconds", V_max=source.v_max, I_pre=current)


InverterPower = Annotated[float, Field(ge=10, le=20_000), BeforeValidator(reader("W"))]
Transfer = Annotated[
    Literal["none", "interlocked", "not interlocked"],
    Said((("none", "none"), ("interlocked", "interlocked, breaks before it makes"), ("not interlocked", "not interlocked"))),
]


Bond = Annotated[
    Literal["bonded", "none", "as its manual says", "not known"],
    Said(
        (
            ("bonded", "bonded at the inverter"),
            ("none", "none: its output floats"),
            ("as its manual says", "as its manual says, not looked up"),
            ("not known", "not known"),
        )
    ),
]


class Inverter(Fed):
    """An inverter. Figures left null are typical of its class."""

    part: Literal["inverter"]
    rating_w: InverterPower | None = None
    surge_w: InverterPower | None = None
    idle_w: Power | None = None
    cutoff_v: Voltage | None = Field(None, description="low-voltage cut-off; null: auto")
    restart_v: Voltage | None = Field(None, description="starts again above this voltage; null: typical")
    window_min_v: Voltage | None = Field(None, description="least input voltage of its sheet; null: typical of its class")
    window_max_v: Voltage | None = Field(None, description="greatest input voltage of its sheet; null: typical of its class")
    left_on: bool = Field(False, description="stays on around the clock, not only while AC loads are scheduled")
    waveform: Annotated[Literal["pure", "modified"], Said((("pure", "pure sine"), ("modified", "modified sine")))] = "pure"
    precharge: Annotated[bool, YES_NO] | None = Field(
        None, description="its capacitors are charged through a resistor first; null: where it is large"
    )
    rcd: Annotated[bool, Said(((True, "30 mA, tested on it"), (False, "none")))] | None = Field(
        None, description="residual-current protection on its outlets; null: where it is used outdoors or in the wet"
    )
    bond: Bond = Field("not known", description="neutral-to-earth bond")
    transfer: Transfer = Field("none", description="transfer switch to the mains or another source")
    negative: Negative = "busbar"


class InverterKind(Kind[Inverter]):
    """The duties of an inverter."""

    key = "inverter"
    model = Inverter
    facts = Facts(
        words=Words("inverter", "an inverter", "an inverter", "Inverter"),
        role="changes",
        fed_by=LINE,
        regulated=False,
        limits=False,
        bolted=True,
        choices=(Choice("rating_w", "rating", "Continuous rating"), Choice("cutoff_v", "cutoff", "Low-voltage cut-off")),
        fields=(
            FieldWords("surge_w", "Surge rating", "quantity", "W", "typical: twice"),
            FieldWords("idle_w", "Idle draw", "quantity", "W", "typical"),
            FieldWords("restart_v", "Starts again above", "quantity", "V", "typical"),
            FieldWords("window_min_v", "Takes at least", "quantity", "V", "typical of its class"),
            FieldWords("window_max_v", "Takes at most", "quantity", "V", "typical of its class"),
            FieldWords("waveform", "Waveform", "choice"),
            FieldWords("precharge", "Pre-charge", "choice", "", "where it is large"),
            FieldWords("left_on", "Left on around the clock", "flag"),
        ),
        own=("rating_w", "surge_w", "idle_w", "window_min_v", "window_max_v", "waveform"),
        owes=("power.inverter-continuous", "power.inverter-surge", "power.inverter-window", "power.shunt-bypass"),
        height=52,
        slim=False,
    )

    def gives(self, node: Inverter) -> Supply | None:
        return "ac"

    def brings(self, node: Inverter, key: str, ctx: "PathContext") -> Figure | None:
        return None

    def flow(self, node: Inverter, key: str, behind: Flow, ctx: PathContext) -> Flow:
        sizing = ctx.inverters[key]
        return into_inverter(behind, sizing.curve, sizing.cutoff.number, node.left_on)

    def running(self, node: Inverter, key: str, ctx: PathContext) -> Figure:
        """What it takes for the AC power it gives, at its cut-off voltage.

        Source: P = U · I; loss by the efficiency curve of its sheet, see `loss_figure`.
        """
        sizing, day, step = ctx.inverters[key], ctx.loads.day, ctx.flows[key].peak_step
        ac = Figure.by("P_ac", "sum", "W", f"AC power from {day.moment(day.edges_h[step])}", shares(key, ctx, step, "W"))
        if node.left_on or ac.number > 0:
            loss = loss_figure(ac, sizing.idle, (sizing.linear, sizing.square), sizing.rating, "loss of the inverter")
        else:
            loss = Figure.of("P_loss", 0.0, "W", "loss of the inverter", how="it is off while no AC load is scheduled")
        return Figure.by("I", "(P_ac + P_loss) / V_cut", "A", RUNNING, P_ac=ac, P_loss=loss, V_cut=sizing.cutoff)

    def at_rating(self, node: Inverter, key: str, ctx: PathContext) -> Figure | None:
        return ctx.inverters[key].rated_current

    def taken_at(self, node: Inverter, key: str, ctx: PathContext) -> Figure | None:
        return ctx.inverters[key].cutoff

    def greatest_fuse(self, node: Inverter, key: str, ctx: PathContext) -> float:
        return UNLIMITED

    def size(self, node: Inverter, part: PartSizing, ctx: PathContext, guard_a: float) -> None:
        """It was sized before the currents were known, by its loads: see `size_inverter`."""
        part.rating = ctx.inverters[part.key].rating

    def resistance(self, node: Inverter, part: PartSizing) -> Figure | None:
        return None

    def idle(self, node: Inverter, key: str, ctx: PathContext) -> IdleDraw | None:
        """Its no-load draw where it is left on.

        Source: its sheet as typed, or typical for its size (assumptions table).
        """
        return IdleDraw(ctx.inverters[key].idle) if node.left_on else None

    def cutoff(self, node: Inverter, key: str, ctx: PathContext) -> Cutoff | None:
        return Cutoff(CUTOFF_RANK, ctx.inverters[key].cutoff, node.cutoff_v is not None, node.restart_v)

    def makes(self, node: Inverter, key: str, ctx: PathContext) -> Device | None:
        """The mains voltage of the brief, with its loss, what it stands and how it is derated in heat.

        Source: see `LossCurve` and `derating`.
        """
        own = ctx.inverters[key]
        loss = Loss(own.curve.idle_w, own.curve.a, own.curve.b / own.curve.rated_w)
        derate = constant("inverter_derate")
        overload = Overload(own.rating.number, own.surge.number, constant("inverter_surge_time"), DERATE_FROM_C, derate)
        return Device(OUTLET_VOLTAGE[ctx.brief.mains], loss, overload, with_loads=not node.left_on)

    def catalogue(self, source: "Source") -> Iterator[PartType]:
        row = min(inverter_classes(), key=lambda r: abs(r.class_v - source.v_nom.number))
        for watts in row.ratings_w:
            figures = {
                "rating_w": watts,
                "surge_w": None,
                "idle_w": None,
                "window_min_v": None,
                "window_max_v": None,
                "waveform": "pure",
            }
            yield self.priced(f"{row.label}, {watts / 1000:g} kW", figures, watts, row.basis.source)

    def body(self, node: Inverter, part: "PartSizing", ctx: "PathContext") -> BodyType | None:
        return body_type(self.key, rating=part.rating.number if part.rating else 0.0)

    def symbol(self, node: Inverter, part: PartSizing, box: Box) -> list[Primitive]:
        return device(box, direct=False)

    def labels(self, node: Inverter, part: PartSizing) -> Sequence[Label]:
        return [Label(part.name_in_its_tree, bold=True), *Label.of(part.rating), *Label.of(part.current, faint=True)]


def inverter_needs(
    network: "Network", plugged: Mapping[str, list[Demand]], legs: Mapping[str, str], day: Day, site: Site
) -> dict[str, InverterNeed]:
    """What is asked of every inverter by the loads on its outlets."""
    out = {}
    for key, node in network.nodes.items():
        if isinstance(node, Inverter):
            behind = list(network.below(key))
            demands = [d for k in behind for d in plugged.get(k, [])]
            peak, on_legs = find_peak(demands, day), leg_needs(behind, legs, plugged, day)
            out[key] = InverterNeed(node, demands, peak, on_legs, needed_figure(peak, on_legs, site))
    return out


def promised(wired: "Wired", loads: LoadsSizing) -> tuple[Promise, ...]:
    """The inverters on the pack, before it is known; as the loads alone promise where there is none yet."""
    if not wired.asked:
        return loads.inverters
    out = []
    for key, need in wired.asked.items():
        if wired.network.source(key) == PACK:
            typed = [volts for volts in (need.node.cutoff_v, need.node.window_min_v) if volts is not None]
            out.append(Promise(need.rating.number, need.node.rating_w, max(typed, default=None)))
    return tuple(out)


def size_inverters(ctx: PathContext) -> dict[str, InverterSizing]:
    """Every inverter of the path, sized by the loads on its outlets."""
    return {key: size_inverter(key, need, ctx) for key, need in ctx.wired.asked.items()}


def size_inverter(key: str, need: InverterNeed, ctx: PathContext) -> InverterSizing:
    """Rating, cut-off and losses of an inverter for the loads on its outlets. Powers in W, voltages in V.

    Source: running sum to 80 % of the continuous rating, derated 1 %/K above 40 °C; surge of twice for some seconds (makers' sheets, assumptions table).
    """
    at, source, node = f"/power/network/{key}", ctx.source(key), need.node
    row, peak, needed = class_for(source.v_nom.number), need.peak, need.rating
    pick, how = pick_rating(row.ratings_w, needed.number), f"smallest {row.label} sold that serves"
    rating = sized(
        "P_rated", node.rating_w, pick, "W", "continuous rating", f"{at}/rating_w", how, {"P_need": needed}, "inverter"
    )
    surge = surge_figure(node, rating, at)
    idle = as_measured(idle_figure(node, rating, at), ctx.measured, "idle", rating, key)
    linear, square = shape_figures()
    linear = as_measured(linear, ctx.measured, "linear", rating, key)
    square = as_measured(square, ctx.measured, "square", rating, key)
    label = "least input voltage"
    window_min = typical("V_in_min", node.window_min_v, row.window_min_v, "V", label, f"{at}/window_min_v", row)
    label = "greatest input voltage"
    window_max = typical("V_in_max", node.window_max_v, row.window_max_v, "V", label, f"{at}/window_max_v", row)
    cutoff = cutoff_figure(node, window_min, source, at)
    hot = {"T_in": ctx.site.inside_c}
    how = f"{write_quantity(constant('inverter_derate') * 100, '%/K')} over {write_quantity(DERATE_FROM_C, '°C')}"
    derate = Figure.of("k_T", derating(ctx.site.inside_c.number), "×", "derating in heat", how=how, inputs=hot)
    continuous = Figure.by("P_cont", "P_rated · k_T", "W", "continuous rating at the hottest", P_rated=rating, k_T=derate)
    loss = loss_figure(rating, idle, (linear, square), rating, "loss at full load")
    rated_current = Figure.by(
        "I_rated", "(P_rated + P_loss) / V_cut", "A", "current at its rating", P_rated=rating, P_loss=loss, V_cut=cutoff
    )
    for name, figure in {
        "peak": peak.running,
        "surge_needed": peak.surge,
        "needed": needed,
        "rating": rating,
        "surge_rating": surge,
        "idle": idle,
        "cutoff": cutoff,
        "continuous": continuous,
        "rated_current": rated_current,
        "window_min": window_min,
        "window_max": window_max,
    }.items():
        ctx.put(key, name, figure)
    due = precharge_from(source.v_nom.number)
    if node.precharge or (node.precharge is None and due is not None and rating.number >= due.number):
        ctx.put(key, "precharge", precharge_resistor(source))
    ac = of_loads(need.demands, ctx.loads.day, lambda _: (1.0, 1.0))
    return InverterSizing(
        key,
        peak,
        rating,
        surge,
        idle,
        cutoff,
        continuous,
        needed,
        window_min,
        window_max,
        linear,
        square,
        rated_current,
        ac,
        need.on_legs,
    )


def leg_needs(
    outlets: Iterable[str], legs: Mapping[str, str], plugged: Mapping[str, list[Demand]], day: Day
) -> dict[str, LegNeed]:
    """What is asked of each leg of an inverter, by leg; nothing where it has one phase."""
    own = [key for key in outlets if key in legs]
    return {leg: LegNeed(on_leg(own, leg, legs, plugged, day), leg_surge(own, leg, legs, plugged, day)) for leg in LEGS if own}


def needed_figure(peak: Peak, on_legs: Mapping[str, LegNeed], site: Site) -> Figure:
    """The rating in W that the loads ask for, growth allowed for; of a split phase each leg gives half.

    Source: see `needed_rating`; growth by the brief.
    """
    grown = 1 + site.growth.number
    apparent = (
        max(peak.apparent.number, *(2 * leg.apparent.number for leg in on_legs.values())) if on_legs else peak.apparent.number
    )
    surge = max(peak.surge.number, *(2 * leg.surge_w for leg in on_legs.values())) if on_legs else peak.surge.number
    watts = needed_rating(peak.running.number * grown, surge * grown, apparent * grown, site.inside_c.number)
    how = (
        "running sum at 80 % of the derated rating, surge within twice the rating, VA within the derated rating, of a split phase "
        "each leg within half of it; growth allowed for"
    )
    inputs = {"P_peak": peak.running, "P_surge": peak.surge, "S": peak.apparent, "T_in": site.inside_c, "g": site.growth}
    inputs |= {f"S_{leg}": need.apparent for leg, need in on_legs.items()}
    return Figure.of("P_need", watts, "W", "rating the loads ask for", how=how, inputs=inputs)


def surge_figure(node: Inverter, rating: Figure, at: str) -> Figure:
    """Its surge rating in W: of its sheet, or a typical multiple of the rating.

    Source: its sheet as typed, or typical (assumptions table).
    """
    if node.surge_w is not None:
        return Figure.decided("P_s", node.surge_w, "W", "surge rating", f"{at}/surge_w")
    return Figure.by("P_s", "P_rated · k_s", "W", "surge rating", P_rated=rating, k_s=assumption("inverter_surge"))


def idle_figure(node: Inverter, rating: Figure, at: str) -> Figure:
    """Its idle draw in W while switched on: of its sheet, or a typical share of the rating.

    Source: its sheet as typed, or typical (assumptions table).
    """
    if node.idle_w is not None:
        return Figure.decided("P0", node.idle_w, "W", "idle draw", f"{at}/idle_w")
    return Figure.by("P0", "k_0 · P_rated", "W", "idle draw", k_0=assumption("inverter_idle"), P_rated=rating)


def cutoff_figure(node: Inverter, window_min: Figure, source: Source, at: str) -> Figure:
    """Its low-voltage cut-off in V: as pinned, or so that it goes before a board.

    Source: practice: the inverter goes before a board, so that the board stays the last resort, and before lead is empty.
    """
    pick = max(window_min.number, source.v_low.number, CUTOFF_MARGIN * source.cutoff.number)
    how = (
        "the greatest of its window's lower end, the pack's lowest working voltage, and 2 % above where its source ends by itself"
    )
    inputs = {"V_in_min": window_min, "V_low": source.v_low, "V_end": source.cutoff}
    return sized("V_cut", node.cutoff_v, pick, "V", "low-voltage cut-off", f"{at}/cutoff_v", how, inputs)


def rcd_due(brief: Brief) -> bool | None:
    """Whether AC outlets are to have residual-current protection; None where it is not said whether they are used outdoors.

    Source: IEC 60364-4-41: 30 mA additional protection of outlets outdoors and in the wet.
    """
    return True if brief.exposure == "wet" else brief.outdoors


def has_rcd(node: Inverter, brief: Brief) -> bool:
    """Whether outlets of an inverter have residual-current protection: as decided, or where it is due."""
    return node.rcd if node.rcd is not None else bool(rcd_due(brief))
