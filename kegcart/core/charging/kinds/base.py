"""What the house asks of every kind of charging source.

One file a kind: its model, its words, what limits its current, when it gives, what it takes for that, what it draws by itself, and
what is sized of it. A kind that leaves a duty out cannot be made: mypy says so, and so does Python.
"""

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Annotated, Generic, Literal, TypeVar

from pydantic import BeforeValidator, Field

from kegcart.core.choice import assumed, sized
from kegcart.core.document import Decisions, FieldWords, Said, Words
from kegcart.core.figure import Figure, Sheet
from kegcart.core.loads.document import DayNumber, Window
from kegcart.core.loads.profile import DAY_H, merged, spans
from kegcart.core.pack.document import ChemistryKey
from kegcart.core.reference import assumption, sizes
from kegcart.core.reference.boxes import BodyType
from kegcart.core.text import Name
from kegcart.core.units import Current, Hours, Id, Power, Voltage, reader

if TYPE_CHECKING:
    from kegcart.core.brief.document import Brief
    from kegcart.core.brief.sizing import Site
    from kegcart.core.charging.charged import Charged
    from kegcart.core.charging.climate import SunSizing
    from kegcart.core.charging.yields import Plane
    from kegcart.core.electrical.cables import RunSizing

S = TypeVar("S", bound="ChargingSource")
Drop = Annotated[float, Field(ge=0, le=3), BeforeValidator(reader("V"))]
Share = Annotated[float, Field(ge=0.3, le=1), BeforeValidator(reader("%"))]
Diode = Annotated[
    Literal["none", "schottky", "silicon"], Said((("none", "none"), ("schottky", "Schottky"), ("silicon", "silicon")))
]
End = Annotated[
    Literal["its current", "pack current", "time", "never"],
    Said(
        (
            ("its current", "its own current falls to the tail"),
            ("pack current", "the current into the pack falls to the tail"),
            ("time", "a timer ends it"),
            ("never", "nothing does"),
        )
    ),
]
LEAST_A = 0.1
"""No source is chosen for less."""
Spans = list[tuple[float, float]]
"""Stretches of the day, h."""
Powers = tuple[tuple[float, float, float], ...]
"""Stretches from h to h, and W in each."""


class ChargingSource(Decisions):
    """What is decided of any source: how it is set, how it ends, when it gives. Its current is that of one unit."""

    kind: str
    name: Name
    current_a: Current | None = Field(None, description="greatest current that it gives, A; null: chosen")
    set_v: Voltage | None = Field(None, description="voltage that it holds at its output; null: by chemistry, count and diode")
    float_v: Voltage | None = Field(
        None, description="voltage at which it holds once it is full; null: as its chemistry may be held"
    )
    ends: End | None = Field(None, description="what ends the charge; null: as is usual of its kind")
    tail_a: Current | None = Field(None, description="current at which it ends; null: by chemistry and capacity")
    absorb_h: Hours | None = Field(None, description="longest time at its voltage; null: by chemistry")
    profile: ChemistryKey | None = Field(
        None, description="chemistry that its profile is made for; null: that of what it charges"
    )
    compensated: bool = Field(False, description="its voltage follows the temperature, as for lead")
    equalises: bool = Field(False, description="it equalises or desulphates by overvoltage, as for flooded lead")
    diode: Diode = Field("none", description="series diode behind its output")
    diode_v: Drop | None = Field(None, description="drop of that diode at the tail; null: typical")
    own_draw_w: Power | None = Field(
        None, description="what it draws of the bank by itself, round the clock; null: typical of its kind"
    )
    windows: dict[Id, Window] = Field(
        default_factory=dict, max_length=8, description="hours in which it gives; none: as of its kind"
    )
    days: list[DayNumber] | None = Field(
        None, max_length=14, description="days of the pattern of the loads on which it gives; null: each day"
    )

    def days_in(self, pattern: int) -> list[int]:
        """The days (from 0) of a pattern of so many on which it gives."""
        return sorted({d - 1 for d in self.days if d <= pattern}) if self.days is not None else list(range(pattern))


@dataclass(frozen=True, slots=True)
class SourceFacts:
    """What is the same for all sources of a kind.

    currents: the list of sizes in which it is sold; empty where its current follows from what it is made of. rate: the assumption of
    the rate that an automatic current keeps to. ends: what usually ends its charge. fields: what is decided of it besides what every source has. owes: the checks that each must be given.
    """

    words: Words
    currents: str
    rate: str
    ends: End
    fields: tuple[FieldWords, ...]
    owes: tuple[str, ...]


@dataclass(slots=True, eq=False)
class SourceContext:
    """What every step of sizing a source has at hand. share: of the limit of what it charges, that an automatic one may take."""

    brief: "Brief"
    site: "Site"
    goal: str
    charged: "Charged"
    share_a: float
    key: str
    sheet: Sheet
    sun: "SunSizing | None" = None
    """where there is an array"""

    def put(self, name: str, figure: Figure) -> Figure:
        """Enter a figure of the source, and return it."""
        return self.sheet.put(f"charging/{self.key}/{name}", figure)


@dataclass(slots=True, eq=False)
class SourceSizing:
    """One source sized. Voltages in V, currents in A, powers in W.

    set_point: at its output. at_pack: what the bank sees at the tail. held: where it is held once full; None: not at all.
    current: into the bank from all its units. limits: what bounds that, by name. taken_w: what it takes for it. efficiency: from
    there to its output. limit: the least of those. idle: what it draws of the bank round the clock. hours: when it gives.
    run: a cable of its own. extra: what is its kind's.
    """

    key: str
    source: ChargingSource
    pointer: str
    charged: "Charged"
    tail: Figure
    drop: Figure
    hours: Spans
    set_point: Figure = field(init=False)
    at_pack: Figure = field(init=False)
    held: Figure | None = None
    limits: Mapping[str, Figure] = field(default_factory=dict)
    current: Figure = field(init=False)
    one: Figure = field(init=False)
    """current of one unit"""
    efficiency: Figure = field(init=False)
    taken_w: Figure = field(init=False)
    idle: Figure | None = None
    run: "RunSizing | None" = None
    extra: dict[str, Figure] = field(default_factory=dict)
    plane: "Plane | None" = None
    """of an array, as the sun sees it"""

    @property
    def name(self) -> str:
        """What the builder calls it."""
        return self.source.name


class SourceKind(ABC, Generic[S]):
    """A kind of source. Currents in A, powers in W, voltages in V."""

    @property
    @abstractmethod
    def key(self) -> str:
        """As in the `kind` field of its model."""

    @property
    @abstractmethod
    def model(self) -> type[S]:
        """The decisions about such a source."""

    @property
    @abstractmethod
    def facts(self) -> SourceFacts:
        """What is the same for all sources of the kind."""

    @abstractmethod
    def usual_hours(self, source: S, ctx: SourceContext) -> Spans:
        """The hours of the day in which it gives where nothing else is said."""

    @abstractmethod
    def units(self, source: S) -> tuple[int, int]:
        """How many stand in series, and how many side by side."""

    @abstractmethod
    def limits(self, source: S, sizing: SourceSizing, ctx: SourceContext) -> dict[str, Figure]:
        """What bounds the current into the bank besides the bank itself, A, by name. Fills what it sizes for that."""

    @abstractmethod
    def efficiency(self, source: S, sizing: SourceSizing, ctx: SourceContext) -> Figure:
        """Output over input, a share."""

    def usual_draw(self, source: S, sizing: SourceSizing) -> Figure | None:
        """What one of its kind draws of the bank round the clock, W; None where that is nothing."""
        return None

    def own_draw(self, source: S, sizing: SourceSizing) -> Figure | None:
        """What it draws of the bank round the clock, W: as typed, or usual of its kind."""
        if source.own_draw_w is not None:
            return decided("P_s", source.own_draw_w, "W", "own draw", sizing, "own_draw_w")
        return self.usual_draw(source, sizing)

    @abstractmethod
    def size(self, source: S, sizing: SourceSizing, ctx: SourceContext) -> None:
        """What else is sized of it, once its current is known: its cable, its fuse, what it asks of what feeds it."""

    def into(self, source: S, sizing: SourceSizing) -> Figure:
        """What flows into the bank from all units that stand side by side, A. Source: currents add at a node (Kirchhoff)."""
        units = Figure.of("n", self.units(source)[1], "", "side by side", how="units that feed the bank together")
        return Figure.by("I", "n · I_1", "A", f"into {sizing.charged.name}", n=units, I_1=sizing.one)

    def powers(self, source: S, sizing: SourceSizing, month: int, days: int) -> Powers | None:
        """The hours (from, to) in which it may give, and at most how many W at its output; None: whenever it is plugged in.

        Hours are of one day that repeats, or of a run of so many days in a month (from 1) that goes on past 24.
        """
        if not source.windows and self.while_plugged:
            return None
        return tuple((begin, end, float("inf")) for begin, end in sizing.hours)

    def day_wh(self, source: S, sizing: SourceSizing, month: int) -> Figure:
        """What it can bring on a day of a month (from 1), Wh. Source: energy is power times time (definition)."""
        hours = Figure.of("t", sum(end - begin for begin, end in sizing.hours), "h", "hours a day", how="in which it may give")
        of = {"V_nom": sizing.charged.v_nom, "I": sizing.current, "t": hours}
        return Figure.by("E_can", "V_nom · I · t", "Wh", f"{sizing.name} can bring a day", of)

    def run_powers(self, source: S, sizing: SourceSizing, month: int, days: int, pattern: int) -> Powers | None:
        """`powers` over a run of so many days, on the days of the loads' pattern on which it gives; None: whenever it is plugged in.

        A night belongs to the day on which it begins.
        """
        powers, on = self.powers(source, sizing, month, days), source.days_in(pattern)
        if powers is None:
            if len(on) == pattern:
                return None
            powers = tuple((begin, end, float("inf")) for begin, end in sizing.hours)
        if max((end for _, end, _ in powers), default=0.0) > DAY_H:
            return tuple(p for p in powers if int(p[0] // DAY_H) % pattern in on)
        over_midnight = any(end >= DAY_H for _, end in sizing.hours)
        dawn = max((end for begin, end in sizing.hours if begin <= 0 and end < DAY_H), default=0.0) if over_midnight else 0.0
        return tuple(
            (begin + day * DAY_H, end + day * DAY_H, watts)
            for day in range(days)
            for begin, end, watts in powers
            if (day - (end <= dawn)) % pattern in on
        )

    def holds_wh(self, source: S) -> float:
        """What it can give away in all, Wh."""
        return float("inf")

    def flows(self, source: S, sizing: SourceSizing, ctx: SourceContext) -> Figure | None:
        """The current where physics alone sets it, A; None where it is chosen or decided."""
        return None

    @abstractmethod
    def body(self, source: S, sizing: SourceSizing) -> BodyType | None:
        """What it is as a body, where it is carried in the box; None where nothing of it is."""

    while_plugged = False
    """whether it gives whenever the station is plugged in, where no hours are decided"""

    def hours(self, source: S, ctx: SourceContext) -> Spans:
        """The hours of the day in which it gives, in order, none overlapping."""
        own = merged([part for window in source.windows.values() for part in spans(window, 0, 1)])
        return own or self.usual_hours(source, ctx)


def plugged_hours(brief: "Brief") -> Spans:
    """The hours from which the station is back until it leaves; all day where it is away for whole days."""
    away = brief.hours_away % 24 if brief.hours_away < 24 else 0.0
    if away == 0:
        return [(0.0, 24.0)]
    back = (brief.ready_h + away) % 24
    return [(back, brief.ready_h)] if back < brief.ready_h else [(0.0, brief.ready_h), (back, 24.0)]


def chosen_current(source: ChargingSource, facts: SourceFacts, sizing: SourceSizing, ctx: SourceContext, beside: int) -> Figure:
    """The current of one unit of so many side by side, A: as decided, or the largest sold within a rate that keeps long and every limit.

    Source: rate typical (assumptions table); output currents sold (sizes table).
    """
    charged = ctx.charged
    rate = assumption(facts.rate)
    if ctx.goal == "full":
        rate = charged.row.figure("k_q", charged.row.charge_rate, "1/h", "greatest charge rate")
    left = "the limit of what it charges, less what other sources are set to, in equal parts"
    bounds = {
        "I_long": Figure.by("I_long", "k · C", "A", "current that keeps it long", k=rate, C=charged.capacity),
        "I_free": Figure.of("I_free", ctx.share_a, "A", "left of the limit", how=left, inputs={"I_ch": charged.limit}),
        **{f"limit: {name}": figure for name, figure in sizing.limits.items()},
    }
    most = max(LEAST_A, min(figure.number for figure in bounds.values()) / beside)
    sold = sizes(facts.currents).sizes if facts.currents else ()
    auto = max((a for a in sold if a <= most + 1e-9), default=most)
    how = "largest sold that keeps it long, within what pack, board and its own supply take" if sold else "the least of these"
    return sized(
        "I",
        source.current_a,
        auto,
        "A",
        "current of one",
        f"{sizing.pointer}/current_a",
        how,
        bounds,
        facts.currents or "charger",
    )


def in_series_figure(units: int) -> Figure:
    """How many units of a source stand in series."""
    return Figure.of("n", units, "", "in series", how="units of which each charges its own module")


def own_or(symbol: str, own: float | None, key: str, unit: str, label: str, sizing: SourceSizing, name: str) -> Figure:
    """A figure of a source: the builder's own, or the assumption of a key."""
    return assumed(symbol, own, key, unit, label, f"{sizing.pointer}/{name}")


def decided(symbol: str, value: float | str, unit: str, label: str, sizing: SourceSizing, name: str) -> Figure:
    """A figure of a source that stands in the design."""
    return Figure.decided(symbol, value, unit, label, f"{sizing.pointer}/{name}")


SOURCE_OWES = (
    "charging.setpoint",
    "charging.chemistry",
    "charging.lead-profile",
    "charging.no-supervision",
    "charging.current",
    "charging.not-connected",
)
"""The checks that every source must be given."""
COMMON: Sequence[FieldWords] = (
    FieldWords("set_v", "Held at its output", "quantity", "V", "by chemistry and count"),
    FieldWords("profile", "Made for", "choice", empty="what it charges"),
    FieldWords("ends", "It ends when", "choice", empty="as usual"),
    FieldWords("tail_a", "Tail", "quantity", "A", "by chemistry"),
    FieldWords("absorb_h", "At its voltage at most", "quantity", "h", "by chemistry"),
    FieldWords("float_v", "Held when full", "quantity", "V", "as its chemistry may"),
    FieldWords("compensated", "Its voltage follows the temperature", "flag"),
    FieldWords("equalises", "It equalises or desulphates", "flag"),
    FieldWords("diode", "Series diode", "choice"),
    FieldWords("own_draw_w", "It draws by itself", "quantity", "W", "typical"),
    FieldWords("diode_v", "It drops, at the tail", "quantity", "V", "typical"),
)
"""What is asked of every source, in the order in which it is asked."""
