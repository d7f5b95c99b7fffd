"""What the house asks of every kind of part of the power path.

One file a kind: its model, what may feed it, its words, how current flows through it, how it is sized, its idle draw, its place
in the catalogue, its symbol, the checks it owes. A kind that leaves a duty out cannot be made: mypy says so, and so does Python.
"""

from abc import ABC, abstractmethod
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Generic, Literal, TypeVar

from kegcart.core.choice import sized, typical
from kegcart.core.document import FieldWords, Words
from kegcart.core.drawing import Box, Primitive
from kegcart.core.figure import Figure
from kegcart.core.finding import release
from kegcart.core.loads.supplies import Supply
from kegcart.core.power.fed import PACK, Fed
from kegcart.core.power.path.flow import Flow
from kegcart.core.reference import Connector, assumption, constant, prices, sizes
from kegcart.core.reference.boxes import BodyType
from kegcart.core.simulation.inputs import Loss, Overload

if TYPE_CHECKING:
    from kegcart.core.power.path.parts import PartSizing, PathContext, Source

N = TypeVar("N", bound=Fed)
Role = Literal["protects", "passes", "spreads", "changes", "ends"]
"""A protection; what current passes straight through; what branches it; what changes its voltage; where the tree ends."""
LINE = frozenset({PACK, "protection", "switch", "selector", "plug", "busbar", "fuse_block"})
"""What hands on the current of a source: its posts, and the kinds that it passes through or branches at."""
UNLIMITED = float("inf")
RUNNING = "greatest running current"
SMALLEST = "smallest sold that carries the protection before it"


@dataclass(frozen=True, slots=True)
class Choice:
    """A sized choice: the field of the model it is pinned in, the figure that says it, whether it must carry the fuse before it."""

    field: str
    figure: str
    label: str
    carries: bool = False


@dataclass(frozen=True, slots=True)
class Facts:
    """What is the same for all parts of a kind.

    fed_by: the kinds that may feed it, with `pack` for the posts of a source. regulated: it may stand behind a converter.
    limits: it limits the current in what it feeds, so that the run to the next part is protected. bolted: lugs on studs.
    choices: what is sized of it, and can be pinned. fields: what else is decided of it. own: the fields that belong to the
    part itself and go with it into the parts library. owes: the checks that every part of the kind must be given.
    brings_in: its branch only brings current in. height: of its symbol; slim: a symbol on the line with its words beside it, else a box with its words inside.
    """

    words: Words
    role: Role
    fed_by: frozenset[str]
    regulated: bool
    limits: bool
    bolted: bool
    choices: tuple[Choice, ...]
    fields: tuple[FieldWords, ...]
    own: tuple[str, ...]
    owes: tuple[str, ...]
    height: float
    slim: bool
    brings_in: bool = False


@dataclass(frozen=True, slots=True)
class Cutoff:
    """The voltage at which a part opens by itself: rank in the order of cut-offs, whether it is pinned, and the voltage (V) at which
    it closes again; None: typical."""

    rank: int
    volts: Figure
    pinned: bool
    restart_v: float | None = None


@dataclass(frozen=True, slots=True)
class IdleDraw:
    """What a part draws with all loads off, in W; `own_switch` where it cuts itself off."""

    watts: Figure
    own_switch: bool = False


@dataclass(frozen=True, slots=True)
class Device:
    """A device that makes another supply, as the simulation takes it: its output (V), its loss, what it stands, and whether it is
    switched on and off with its loads."""

    output_v: float
    loss: Loss
    overload: Overload | None = None
    with_loads: bool = False


@dataclass(frozen=True, slots=True)
class PartType:
    """A part that can be had: what it is called, the fields it sets, a typical price where there is one."""

    kind: str
    label: str
    figures: dict[str, Any]
    price: float | None
    source: str


@dataclass(frozen=True, slots=True)
class Label:
    """A line of words beside or inside a symbol; `figure` is the path of the figure it says."""

    words: str
    figure: str = ""
    bold: bool = False
    faint: bool = False

    @classmethod
    def of(cls, figure: Figure | None, bold: bool = False, faint: bool = False) -> Sequence["Label"]:
        """The label of a figure; none where there is no figure."""
        return [] if figure is None else [cls(figure.text, figure.path, bold, faint)]


class Kind(ABC, Generic[N]):
    """A kind of part. Currents in A, powers in W, resistances in Ω."""

    @property
    @abstractmethod
    def key(self) -> str:
        """As in the `part` field of its model."""

    @property
    @abstractmethod
    def model(self) -> type[N]:
        """The decisions about such a part."""

    @property
    @abstractmethod
    def facts(self) -> Facts:
        """What is the same for all parts of the kind."""

    @abstractmethod
    def gives(self, node: N) -> Supply | None:
        """The supply that it turns what feeds it into; None where it leaves it as it is."""

    @abstractmethod
    def brings(self, node: N, key: str, ctx: "PathContext") -> Figure | None:
        """The current it brings in towards the source, A; None where it only takes."""

    @abstractmethod
    def flow(self, node: N, key: str, behind: Flow, ctx: "PathContext") -> Flow:
        """What flows into it, running and in a surge, for what flows into all that it feeds."""

    @abstractmethod
    def running(self, node: N, key: str, ctx: "PathContext") -> Figure:
        """The working of its greatest running current (or power, behind an inverter)."""

    @abstractmethod
    def at_rating(self, node: N, key: str, ctx: "PathContext") -> Figure | None:
        """The current into it when it is loaded to its rating by whoever has a plug; None where the schedule is all."""

    @abstractmethod
    def taken_at(self, node: N, key: str, ctx: "PathContext") -> Figure | None:
        """The voltage at which its current counts as energy taken from the source; None where it only passes it on."""

    @abstractmethod
    def greatest_fuse(self, node: N, key: str, ctx: "PathContext") -> float:
        """The greatest fuse before it in A, as pinned or of the largest sold; UNLIMITED where it does not matter."""

    @abstractmethod
    def size(self, node: N, part: "PartSizing", ctx: "PathContext", guard_a: float) -> None:
        """Choose what is sized of it, for its design current and the protection before it."""

    @abstractmethod
    def resistance(self, node: N, part: "PartSizing") -> Figure | None:
        """Its resistance in the line; None where that is nothing."""

    @abstractmethod
    def idle(self, node: N, key: str, ctx: "PathContext") -> IdleDraw | None:
        """What it draws with all loads off; None where that is nothing."""

    @abstractmethod
    def cutoff(self, node: N, key: str, ctx: "PathContext") -> Cutoff | None:
        """The voltage below which it opens by itself; None where it does not."""

    @abstractmethod
    def makes(self, node: N, key: str, ctx: "PathContext") -> Device | None:
        """What it is to the simulation where it makes another supply; None where it passes on what feeds it."""

    @abstractmethod
    def catalogue(self, source: "Source") -> Iterator[PartType]:
        """Generic parts of the kind that can be had, for the voltages of a source."""

    @abstractmethod
    def body(self, node: N, part: "PartSizing", ctx: "PathContext") -> BodyType | None:
        """What it is as a body in the box; None where it takes no room of its own."""

    @abstractmethod
    def symbol(self, node: N, part: "PartSizing", box: Box) -> list[Primitive]:
        """Its symbol of electrical drawing, in a place on the sheet."""

    @abstractmethod
    def labels(self, node: N, part: "PartSizing") -> Sequence[Label]:
        """The lines of words that go with the symbol, the first the most telling."""

    def has_studs(self, node: N, part: "PartSizing") -> bool:
        """Whether its lugs go on studs."""
        return self.facts.bolted

    def released(self, node: N, part: "PartSizing", amps: float) -> list[str]:
        """The fields whose pinned value would not carry so many A: they are given back to auto with the fuse before it."""
        if part.rating is None or part.rating.number >= amps:
            return []
        return [c.field for c in self.facts.choices if c.carries and getattr(node, c.field)]

    def priced(self, label: str, figures: dict[str, Any], rating: float, source: str) -> PartType:
        """A part of the catalogue with its typical price."""
        price = prices().get(self.key)
        return PartType(self.key, label, figures, price.of(rating) if price else None, source)


class Copper(Kind[N]):
    """A kind that is only a way for the current: what it feeds passes through it, nothing is drawn or brought in by itself."""

    def gives(self, node: N) -> Supply | None:
        return None

    def brings(self, node: N, key: str, ctx: "PathContext") -> Figure | None:
        return None

    def flow(self, node: N, key: str, behind: Flow, ctx: "PathContext") -> Flow:
        return behind

    def running(self, node: N, key: str, ctx: "PathContext") -> Figure:
        """The sum of what it feeds.

        Source: currents add at a node (Kirchhoff).
        """
        return summed(key, ctx)

    def at_rating(self, node: N, key: str, ctx: "PathContext") -> Figure | None:
        return None

    def taken_at(self, node: N, key: str, ctx: "PathContext") -> Figure | None:
        return None

    def idle(self, node: N, key: str, ctx: "PathContext") -> IdleDraw | None:
        return None

    def cutoff(self, node: N, key: str, ctx: "PathContext") -> Cutoff | None:
        return None

    def makes(self, node: N, key: str, ctx: "PathContext") -> Device | None:
        return None


def shares(key: str, ctx: "PathContext", step: int, unit: str = "A") -> dict[str, Figure]:
    """What flows in a step of the day into each part that a part feeds, by name."""
    at = ctx.loads.day.moment(ctx.loads.day.edges_h[step])
    return {
        f"{ctx.network.nodes[c].name} ({c})": Figure.of(
            "I" if unit == "A" else "P",
            ctx.flows[c].running[step],
            unit,
            f"{ctx.network.nodes[c].name}, from {at}",
            inputs={"I_max": ctx.parts[c].current},
        )
        for c in ctx.network.feeds[key]
        if c in ctx.parts  # selectors that lead to one another have no first
    }


def summed(key: str, ctx: "PathContext") -> Figure:
    """The working of what passes straight on: the sum of what it feeds, at its own worst moment.

    Source: currents add at a node (Kirchhoff).
    """
    return Figure.by("I", "sum", "A", RUNNING, shares(key, ctx, ctx.flows[key].peak_step))


def needed_current(part: "PartSizing", guard_a: float) -> Figure:
    """What a part must carry, A: the protection before it, and 1.25 × its design current.

    Source: 1.25 ×: a fuse carries 80 % of its rating for long (assumptions table); what stands behind a protection must carry it (IEC 60364-4-43).
    """
    return Figure.of(
        "I_need",
        max(guard_a, part.design.number * constant("fuse_margin")),
        "A",
        "what it must carry",
        how="the protection before it, and 1.25 × the design current",
        inputs={"I_d": part.design},
    )


def connector_share(inside: Figure) -> Figure:
    """Share of its rating that a connector carries in the air inside the box.

    Source: its contacts rise with the square of the current, to what its housing stands (assumptions table).
    """
    return Figure.by(
        "k_T",
        "√(min(1, max(0, T_con − T_in) / (T_con − T_con0)))",
        "×",
        "share left in hot air",
        T_con=assumption("connector_hottest"),
        T_in=inside,
        T_con0=assumption("connector_base"),
    )


def connector_rating(connector: Connector, inside: Figure) -> Figure:
    """What a connector carries in the air inside the box, A. Source: its form (connectors table), see `connector_share`."""
    table = connector.figure("I_tab", connector.rating_a, "A", f"{connector.label}: rating")
    label = f"{connector.label}: carries in the air inside"
    return Figure.by("I_con", "I_tab · k_T", "A", label, I_tab=table, k_T=connector_share(inside))


def size_voltage(own_v: float | None, part: "PartSizing", ctx: "PathContext", sold: str = "dc-voltage") -> None:
    """The DC voltage that a switch, selector, block or USB module is rated for: as pinned, or the least sold that the source stays
    within. sold: names the list of those sold.

    Source: voltage ratings sold (sizes table).
    """
    volts, at = part.source.v_max, f"{part.pointer}/voltage_v"
    how = "least voltage rating sold that the source stays within"
    figure = sized("V_dc", own_v, sizes(sold).pick(volts.number), "V", "voltage rating", at, how, {"V_max": volts}, sold)
    part.extra["voltage"] = ctx.put(part.key, "voltage", figure)


def form_voltage(own_v: float | None, connector: Connector, part: "PartSizing", ctx: "PathContext") -> None:
    """The DC voltage that a connector, socket or module stands: by its sheet as typed, or typical of its form (connectors table)."""
    if connector.v_dc is not None:
        label = f"{connector.label}: greatest voltage"
        figure = typical("V_dc", own_v, connector.v_dc, "V", label, f"{part.pointer}/voltage_v", connector)
        part.extra["voltage"] = ctx.put(part.key, "voltage", figure)


def release_fields(at: str, fields: Sequence[str]) -> list[dict[str, Any]]:
    """The operations that give fields at a pointer back to auto."""
    return [release(f"{at}/{name}") for name in fields]
