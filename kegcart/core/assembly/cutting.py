"""The wire cut list: every run as the pieces of wire that it is made of, how long each is cut, what its ends are made of.

The negative from the pack's post goes through its protection board and the shunt where there are such: it is a piece on each stretch.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from math import ceil
from typing import Literal

from kegcart.core.assembly.names import names_of, tags_of
from kegcart.core.charging.kinds import Vehicle
from kegcart.core.charging.kinds.base import SourceSizing
from kegcart.core.charging.sizing import ChargingSizing
from kegcart.core.figure import Figure
from kegcart.core.pack.document import Bank, CellPack
from kegcart.core.power.drawing.wire_table import NEGATIVE_BAR, POST_STUD, SLEEVE, WireRow, rows
from kegcart.core.power.kinds import Input, Outlet, Plug
from kegcart.core.power.path.parts import PartSizing, PowerSizing
from kegcart.core.reference import assumption, constant, wires
from kegcart.core.reference.hardware import TerminalType, terminal_type
from kegcart.core.units import units_shown

WirePole = Literal["positive", "negative", "sense", "mains"]
WAYS = 2
"""Ends of a piece."""
POSTS = {"post-m6": "M6", "post-m8": "M8"}
"""Sockets that are studs."""
METER = "/power/shunt/meter"
"""The meter, which stands apart from its shunt."""
TABS = ("accessory", "usb")
"""Forms of sockets that have tabs at their back."""
OUTSIDE = ""
"""Where something begins or ends that is no part of the station."""
HAIR = 1e-9
LINKS = "series:"
"""How the key of the links within a string begins."""
SENSE = " s"
"""Marks the end of a sense lead."""


@dataclass(frozen=True, slots=True)
class WireEnd:
    """One end of a piece: the pointer of what it is fixed to (`OUTSIDE`: what is no part of the station) and its name, the terminal,
    the hole of its lug (empty: it has none), what is written on its label."""

    at: str
    name: str
    terminal: TerminalType
    hole: str
    label: str

    @property
    def bolted(self) -> bool:
        """Whether it goes on a stud."""
        return self.hole != ""


@dataclass(frozen=True, slots=True)
class Piece:
    """A piece of wire, `count` of them alike. run: key of its row in the wire table. place: pointer of what its run belongs to; figures:
    path of the figures of its run. route: from end to end, m; cut: as it is cut, m. cores: of a cable. made: it is sold as a cable
    with its ends on."""

    key: str
    run: str
    pole: WirePole
    colour: str
    gauge: str
    area_mm2: float
    cores: int
    count: int
    route: Figure
    cut: Figure
    ends: tuple[WireEnd, WireEnd]
    place: str
    figures: str

    @property
    def bolted(self) -> bool:
        """Whether both ends are lugs on studs."""
        return self.ends[0].bolted and self.ends[1].bolted

    @property
    def name(self) -> str:
        """Between what it lies, as a sentence says it."""
        return f"{self.ends[0].name} – {self.ends[1].name}"


def labels_of(piece: Piece) -> Iterator[str]:
    """The label of each end of each wire of a piece; sense leads by the pin that they go to, from 0 at the negative end."""
    for n in range(piece.count):
        for end in piece.ends:
            yield end.label.replace(f"{SENSE} /", f"{SENSE}{n} /") if piece.pole == "sense" else end.label


def cut_length(route: Figure) -> Figure:
    """How long a piece is cut for a way from end to end, m: rounded up to the centimetre, where inches are usual to half an inch.

    Source: a twentieth more for the way as it lies, a lug's depth at both ends, and dressing (assumptions table).
    """
    step = Figure.of(
        "s", 0.0127 if units_shown() == "us" else 0.01, "m", "cut to the next", how="half an inch, or a centimetre, by the rule"
    )
    exact = Figure.by(
        "L_exact",
        "k_c · L + 2 · l_lug + l_d",
        "m",
        "as it lies, with both ends",
        k_c=assumption("cut_more"),
        L=route,
        l_lug=assumption("cut_lug"),
        l_d=assumption("cut_dressing"),
    )
    steps = ceil(round(exact.number / step.number, 6))
    how = "the next whole step of the rule"
    return Figure.of("L_cut", round(steps * step.number, 6), "m", "cut to", how=how, inputs={"L_exact": exact, "s": step})


class CutList:
    """The pieces of a build, run by run."""

    def __init__(self, power: PowerSizing, charging: ChargingSizing) -> None:
        self.power, self.charging = power, charging
        self.tags, self.names = tags_of(power, charging), names_of(power, charging)
        self.parts: Mapping[str, PartSizing] = {part.pointer: part for part in power.parts.values()}

    def pieces(self) -> Iterator[Piece]:
        """Every piece, in the order of the wire table."""
        for row in rows(self.power):
            if row.length_m > HAIR:  # what has no length is bolted straight on, or built in
                yield from self.of_row(row)
        yield from self.in_series()
        for sizing in self.charging.sources.values():
            if sizing.run is not None:
                yield from self.of_source(sizing)

    def of_row(self, row: WireRow) -> Iterator[Piece]:
        """The pieces of one run: one of each pole that it has, or one on each stretch of the main negative."""
        route = self.route(row)
        match row.key:
            case "lead:negative":
                yield from self.main_negative(row, route)
            case "lead:sense":
                count = int(self.power.ctx.pack.series.number) + 1
                yield self.piece(row, "", "sense", row.colour, route, count)
            case "lead:link":
                strings = self.power.ctx.pack.build.strings
                for n in range(1, len(strings.leads) if strings else 1):
                    between = replace(row, start_at=f"/pack/strings/s{n}", end_at=f"/pack/strings/s{n + 1}")
                    yield self.piece(between, f"{n}", "positive", "red", route, 1)
                    yield self.piece(between, f"{n}:return", "negative", "black", route, 1)
            case _ if row.colour == "red, with black":
                yield self.piece(row, "", "positive", "red", route, row.parallel)
                yield self.piece(row, "return", "negative", "black", route, row.parallel)
            case _ if row.usual_colour == "3 cores":
                yield self.piece(row, "", "mains", row.colour, route, row.parallel)
            case _:
                pole: WirePole = "negative" if row.mirrors else "positive"
                yield self.piece(row, "", pole, row.colour, route, row.parallel)

    def in_series(self) -> Iterator[Piece]:
        """The links from battery to battery within each string: of the gauge of its lead, as long as those from string to string."""
        bank, strings = self.power.ctx.pack.pack, self.power.ctx.pack.build.strings
        if not isinstance(bank, Bank) or strings is None or bank.in_series == 1 or bank.link.length_m <= HAIR:
            return
        route = Figure.decided("L", bank.link.length_m, "m", "link from battery to battery", "/pack/link/length_m")
        for n, lead in enumerate(strings.leads, 1):
            at = f"/pack/strings/s{n}"
            lug, tag, key = terminal_type("lug", lead.wire.area_mm2), self.tags[at], f"{LINKS}{n}"
            plus, minus = (WireEnd(at, self.names[at], lug, POST_STUD, label) for label in (f"{tag} + / −", f"{tag} − / +"))
            area, cut, figures = lead.wire.area_mm2, cut_length(route), f"pack/string/{n}/run"
            count, ends = bank.in_series - 1, (plus, minus)
            yield Piece(key, key, "positive", "red", lead.wire.key, area, 1, count, route, cut, ends, at, figures)

    def route(self, row: WireRow) -> Figure:
        """How far a run goes, m."""
        known = self.power.ctx.sheet.get(f"{row.figures}/length")
        if known is not None and abs(known.number - row.length_m) < HAIR:
            return known
        how = "as long as the positive runs from there together"
        return Figure.of("L", row.length_m, "m", "length, one way", how=how)

    def main_negative(self, row: WireRow, whole: Figure) -> Iterator[Piece]:
        """The pieces from the post of the pack through board and shunt to the bar.

        Source: what follows the first is a short link (assumptions table), or an equal part of a run that is short itself.
        """
        pack, path = self.power.ctx.pack.pack, self.power.ctx.path
        stations = [
            "/pack",
            *(["/pack/board"] if isinstance(pack, CellPack) else []),
            *(["/power/shunt"] if path.shunt is not None else []),
            NEGATIVE_BAR,
        ]
        stretches = len(stations) - 1
        link = min(constant("negative_link"), whole.number / stretches)
        for n in range(stretches):
            metres = link if n else whole.number - (stretches - 1) * link
            route = whole
            if stretches > 1:
                how = "a short link" if n else "the whole run less the short links behind it"
                route = Figure.of("L", metres, "m", "stretch of the main negative", how=how, inputs={"L_whole": whole})
            one, other = stations[n], stations[n + 1]
            ends = self.end(row, one, other, row.start_stud, "−"), self.end(row, other, one, row.end_stud, "−")
            yield self.made(row, f"{n + 1}" if stretches > 1 else "", "negative", row.colour, route, row.parallel, ends)

    def piece(self, row: WireRow, more: str, pole: WirePole, colour: str, route: Figure, count: int) -> Piece:
        """One piece of a run between its ends; a negative that lies beside a positive begins where that one's device has it."""
        sign = {"positive": "+", "negative": "−", "sense": SENSE, "mains": "~"}[pole]
        start, end = row.start_at, row.end_at
        if row.key == "lead:meter":
            start, end = "/power/shunt" if more else start, METER
        ends = self.end(row, start, end, row.start_stud, sign), self.end(row, end, start, row.end_stud, sign)
        return self.made(row, more, pole, colour, route, count, ends)

    def made(
        self, row: WireRow, more: str, pole: WirePole, colour: str, route: Figure, count: int, ends: tuple[WireEnd, WireEnd]
    ) -> Piece:
        """A piece with its ends, each label naming the other end."""
        key = f"{row.key}:{more}" if more else row.key
        area, cores = wires()[row.gauge].area_mm2, 3 if pole == "mains" else 1
        return Piece(
            key, row.key, pole, colour, row.gauge, area, cores, count, route, cut_length(route), ends, row.place, row.figures
        )

    def end(self, row: WireRow, at: str, other: str, stud: str, sign: str) -> WireEnd:
        """An end of a run at a part: a lug where that has a stud, else what its contacts take. other: what is at its other end."""
        label = f"{self.tags[at].removesuffix(sign)}{sign} / {self.tags[other]}"
        name, area = self.names[at], wires()[row.gauge].area_mm2
        pack = self.power.ctx.pack.pack
        if sign == SENSE and at == "/pack" and isinstance(pack, CellPack) and pack.cell.shape != "prismatic":
            return WireEnd(at, name, terminal_type("solder", area), "", label)
        if stud != SLEEVE:
            return WireEnd(at, name, terminal_type("lug", area), stud, label)
        part = self.parts.get(at)
        connector = part.choice.key or str(part.choice.value) if part and part.choice else ""
        match part.node if part else None:
            case Outlet() if connector in POSTS:
                return WireEnd(at, name, terminal_type("lug", area), POSTS[connector], label)
            case Outlet() if connector.startswith(TABS):
                return WireEnd(at, name, terminal_type("push-on", area), "", label)
            case Outlet() if connector.startswith("ac-"):
                return WireEnd(at, name, terminal_type("ferrule", area), "", label)
            case Outlet() | Input() | Plug():
                return WireEnd(at, name, terminal_type("contact", area), "", label)
        return WireEnd(at, name, terminal_type("ferrule", area), "", label)

    def of_source(self, sizing: SourceSizing) -> Iterator[Piece]:
        """The cable of a charging source of its own, both poles: from the vehicle's battery to the source."""
        run = sizing.run
        assert run is not None
        length = self.power.ctx.sheet[f"charging/{sizing.key}/run/length"]
        route, area = length, run.wire.area_mm2
        tag, figures = self.tags[sizing.pointer], f"charging/{sizing.key}/run"
        for pole, colour, sign, more in (("positive", "red", "+", ""), ("negative", "black", "−", ":return")):
            far = WireEnd(OUTSIDE, "vehicle's battery", terminal_type("lug", area), POST_STUD, f"VEH{sign} / {tag}")
            near = WireEnd(sizing.pointer, sizing.name, terminal_type("ferrule", area), "", f"{tag}{sign} / VEH")
            key = f"source:{sizing.key}{more}"
            wire: WirePole = "positive" if pole == "positive" else "negative"
            count = sizing.source.run.parallel if isinstance(sizing.source, Vehicle) else 1
            yield Piece(
                key,
                key,
                wire,
                colour,
                run.wire.key,
                area,
                1,
                count,
                route,
                cut_length(route),
                (far, near),
                sizing.pointer,
                figures,
            )
