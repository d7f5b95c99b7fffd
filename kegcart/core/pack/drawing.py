"""The pack as it will stand: cells or batteries in their places, polarity, links, sense leads, take-offs, fuses.

All lengths in mm of the real thing, x to the right and y downwards. Group 1, and sense lead 0, are at the negative
end. Seen from the other side (the side one solders from) everything is mirrored left to right.
"""

from dataclasses import dataclass, field
from math import ceil
from typing import Literal

from kegcart.core.drawing import Anchor, Area, Box, Circle, Drawing, Line, Primitive, Role, Text
from kegcart.core.pack.body import GAP, ROW_GAP, Rows
from kegcart.core.pack.document import Bank, BatteryPack, CellPack
from kegcart.core.pack.holders import Holders
from kegcart.core.pack.links import dimensions
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.units import significant

Side = Literal["top", "bottom"]
Shown = Literal["cells", "links"]
"""Of cells on end two drawings are made, as one would cover the other: the cells with their labels, and the links over them."""
MARGIN = 26.0
POST_IN, POST_R = 14.0, 6.5
"""Of a battery's post: from its long side to the middle, and its radius, mm."""


@dataclass(frozen=True, slots=True)
class PackPlace:
    """A cell or battery: its middle and size, which group or string it is of, and whether its positive is up."""

    x: float
    y: float
    w: float
    h: float
    round: bool
    group: int
    number: int
    plus_up: bool
    label: str = ""
    reject: bool = False


@dataclass(frozen=True, slots=True)
class Bar:
    """A link seen as a rectangle, on top or underneath; between two groups, or of all cells of one."""

    x: float
    y: float
    w: float
    h: float
    side: Side
    joins: str


@dataclass(frozen=True, slots=True)
class Lead:
    """A sense lead or a take-off: where it is fixed, what it is called."""

    x: float
    y: float
    name: str
    side: Side


@dataclass(slots=True)
class PackLayout:
    """Where everything stands, in mm."""

    width: float
    height: float
    places: list[PackPlace] = field(default_factory=list)
    bars: list[Bar] = field(default_factory=list)
    senses: list[Lead] = field(default_factory=list)
    posts: list[Lead] = field(default_factory=list)
    fuses: list[Lead] = field(default_factory=list)
    shares: list[tuple[float, float, str]] = field(default_factory=list)
    rails: list[tuple[str, list[tuple[float, float]]]] = field(default_factory=list)
    holders: list[tuple[float, float, float, float]] = field(default_factory=list)
    caption: str = ""
    said: str = ""
    """what a battery of a bank is, in words"""

    @property
    def on_end(self) -> bool:
        """Whether it is of cells on end, with labels and links on the same face."""
        return bool(self.places) and self.places[0].round


def draw_pack(sizing: PackSizing, side: Side = "top", shown: Shown = "cells") -> Drawing:
    """The pack as it will stand, in true millimetres; `bottom` mirrors it, for whoever solders there. shown: see `Shown`."""
    return Painter(lay_out_pack(sizing), side, collection(sizing), shown).draw()


def shown_of(sizing: PackSizing) -> tuple[Shown, ...]:
    """The drawings there are of a pack."""
    pack = sizing.pack
    return ("cells", "links") if isinstance(pack, CellPack) and pack.cell.shape == "cylindrical" else ("cells",)


def collection(sizing: PackSizing) -> str:
    """The pointer that a group's or string's number goes on."""
    return "/pack/groups/g" if isinstance(sizing.pack, CellPack) else "/pack/strings/s"


def lay_out_pack(sizing: PackSizing) -> PackLayout:
    """Where the cells or batteries of a pack stand."""
    pack = sizing.pack
    return lay_out_cells(pack, sizing) if isinstance(pack, CellPack) else lay_out_bank(pack, sizing)


def labels_of(pack: CellPack, group: int, place: int) -> tuple[str, bool]:
    """Label of the sorted cell in a place, and whether it is a reject."""
    members = list(pack.groups.values())
    if group < len(members) and place < len(members[group].cells):
        cell = members[group].cells[place]
        return cell.label, bool(cell.reject)
    return "", False


def lay_out_cells(pack: CellPack, sizing: PackSizing) -> PackLayout:
    """Where each cell lies, row by row, mm."""
    s, p = int(sizing.series.number), int(sizing.parallel.number)
    width, thickness, _ = dimensions(pack.cell)
    cylindrical = pack.cell.shape == "cylindrical"
    pitch_x = (width if cylindrical else thickness) + GAP
    pitch_y = width + GAP
    laid = Rows.of(pack, s, p)
    rows, group_w, group_h, per_line, lines = laid.rows, laid.group_w, laid.group_h, laid.per_line, laid.lines
    sheet = PackLayout(
        2 * MARGIN + per_line * group_w + GAP, 2 * MARGIN + lines * (group_h + ROW_GAP), caption=f"{s}S{p}P, {s * p} cells"
    )
    at: list[tuple[float, float]] = []
    for g in range(s):
        line, n = divmod(g, per_line)
        n = n if line % 2 == 0 else per_line - 1 - n  # rows run to and fro, so that groups in series are neighbours
        gx, gy = MARGIN + n * group_w, MARGIN + line * (group_h + ROW_GAP)
        at.append((gx, gy))
        for k in range(p):
            column, row = divmod(k, rows)
            label, reject = labels_of(pack, g, k)
            sheet.places.append(
                PackPlace(
                    gx + column * pitch_x + pitch_x / 2,
                    gy + row * pitch_y + pitch_y / 2,
                    pitch_x - GAP,
                    pitch_y - GAP,
                    cylindrical,
                    g + 1,
                    k + 1,
                    g % 2 == 0,
                    label,
                    reject,
                )
            )
    outline_holders(sheet, Holders.of(pack, p))
    if cylindrical:
        link_holder(sheet, at, s, group_w, group_h)
    else:
        link_prismatic(sheet, at, s, group_w, group_h, pitch_x)
    return sheet


def outline_holders(sheet: PackLayout, holders: Holders) -> None:
    """A frame round the cells of each holder, where they stand together."""
    if holders.are_single:
        return
    held: dict[int, list[PackPlace]] = {}
    for place in sheet.places:
        held.setdefault(holders.number(place.group, place.number), []).append(place)
    for cells in held.values():
        left, right = min(c.x - c.w / 2 for c in cells), max(c.x + c.w / 2 for c in cells)
        top, low = min(c.y - c.h / 2 for c in cells), max(c.y + c.h / 2 for c in cells)
        inside = sum(left < c.x < right and top < c.y < low for c in sheet.places)
        if inside == len(cells):
            sheet.holders.append((left - GAP / 2, top - GAP / 2, right - left + GAP, low - top + GAP))


def link_holder(sheet: PackLayout, at: list[tuple[float, float]], s: int, group_w: float, group_h: float) -> None:
    """Links of cells on end: group by group on top and underneath in turn, a strip along each row and each column."""
    cell = sheet.places[0].w
    strip = cell * 0.24
    by_group: dict[int, list[PackPlace]] = {}
    for place in sheet.places:
        by_group.setdefault(place.group - 1, []).append(place)
    for g in range(s + 1):
        # The joint between group g and g+1; group 1 stands with its positive up, so its positive joint is on top.
        side: Side = "top" if g % 2 == 1 else "bottom"
        members = [n for n in (g - 1, g) if 0 <= n < s]
        joins = f"{g} and {g + 1}" if 0 < g < s else f"end of {members[0] + 1}"
        cells = [place for n in members for place in by_group[n]]
        for y in sorted({c.y for c in cells}):
            xs = [c.x for c in cells if c.y == y]
            sheet.bars.append(Bar(min(xs) - cell * 0.3, y - strip / 2, max(xs) - min(xs) + cell * 0.6, strip, side, joins))
        for x in sorted({c.x for c in cells}):
            ys = [c.y for c in cells if c.x == x]
            if len(ys) > 1:
                sheet.bars.append(Bar(x - strip / 4, min(ys), strip / 2, max(ys) - min(ys), side, joins))
        owner = at[g - 1] if g else at[0]
        sheet.senses.append(Lead(owner[0] + group_w / 2, owner[1] + group_h, str(g), side))
    sheet.posts.append(Lead(at[0][0] + group_w / 2, at[0][1], "−", "bottom"))
    sheet.posts.append(Lead(at[-1][0] + group_w / 2, at[-1][1], "+", "top" if s % 2 == 1 else "bottom"))


def link_prismatic(
    sheet: PackLayout, at: list[tuple[float, float]], s: int, group_w: float, group_h: float, pitch: float
) -> None:
    """Busbars over the terminals at both ends of the cells, all on top; each joint at one end or the other in turn."""
    depth = min(group_h * 0.12, 20.0)
    for g in range(s + 1):
        upper = g % 2 == 0  # the joint before group 1 is at the upper end, and so on in turn
        members = [n for n in (g - 1, g) if 0 <= n < s]
        same_line = len({at[n][1] for n in members}) == 1
        x0, x1 = min(at[n][0] for n in members) + GAP / 2, max(at[n][0] for n in members) + group_w - GAP / 2
        ys = [at[n][1] + (depth * 0.35 if upper else group_h - depth * 1.35) for n in members]
        y0, y1 = (ys[0], ys[0] + depth) if same_line else (min(ys), max(ys) + depth)
        inset = min(pitch * 0.2, 8.0)
        joins = f"{g} and {g + 1}" if 0 < g < s else f"end of {members[0] + 1}"
        sheet.bars.append(Bar(x0 + inset, y0, x1 - x0 - 2 * inset, y1 - y0, "top", joins))
        owner = at[max(g - 1, 0)]
        aside = -group_w * 0.38 if g == 0 else 0.0  # lead 0 stands beside lead 1
        sheet.senses.append(Lead(owner[0] + group_w / 2 + aside, owner[1] + group_h, str(g), "top"))
    first, last = at[0], at[-1]
    sheet.posts.append(Lead(first[0] + group_w / 2, first[1], "−", "top"))
    sheet.posts.append(Lead(last[0] + group_w / 2, last[1] + (0 if s % 2 == 0 else group_h), "+", "top"))


def lay_out_bank(pack: BatteryPack | Bank, sizing: PackSizing) -> PackLayout:
    """Where each battery of a bank stands, mm."""
    unit = pack.battery
    w, h = unit.width_mm or 200.0, unit.depth_mm or 170.0
    n_series = pack.in_series if isinstance(pack, Bank) else 1
    n = int(sizing.parallel.number)
    gap, rail = 40.0, 56.0
    pitch_x, pitch_y = w + gap, h + 24
    sheet = PackLayout(2 * MARGIN + n * pitch_x + 40, 2 * MARGIN + 2 * rail + n_series * pitch_y)
    what = "module" if pack.form == "modules" else "battery"
    total = n * n_series
    sheet.caption = f"{total} {what if total == 1 else 'batteries' if what == 'battery' else 'modules'}"
    strings = sizing.build.strings
    sheet.said = f"{significant(sizing.v_nom.number / n_series)} V, {significant(unit.capacity_ah)} Ah"
    top, bottom = MARGIN + 14, MARGIN + 2 * rail + n_series * pitch_y - 24 - 14
    middles = [MARGIN + 20 + i * pitch_x + w / 2 for i in range(n)]
    for i, x in enumerate(middles):
        plus_x, minus_x = x - w / 4, x + w / 4
        for k in range(n_series):
            y = MARGIN + rail + (n_series - 1 - k) * pitch_y + h / 2
            sheet.places.append(
                PackPlace(x, y, w, h, False, i + 1, k + 1, True, f"{i + 1}.{k + 1}" if n_series > 1 else f"{i + 1}")
            )
            post_y = y - h / 2 + POST_IN
            if k:  # the negative of this one, on to the positive of the one below it
                way = [(minus_x, post_y), (minus_x, y + h / 2 + 12), (plus_x, y + h / 2 + 12), (plus_x, post_y + pitch_y)]
                sheet.rails.append(("link", way))
            else:
                sheet.rails.append(("-", [(minus_x, post_y), (minus_x, bottom)]))
            if k == n_series - 1:
                sheet.rails.append(("+", [(plus_x, post_y), (plus_x, top)]))
        if strings is not None:
            if n > 1:
                sheet.shares.append((x, MARGIN + rail + h / 2, f"{strings.shares[i].number:.1%}"))
            own = pack.strings.get(f"s{i + 1}") if isinstance(pack, Bank) else None
            if n > 1 and (own is None or own.protected):
                sheet.fuses.append(Lead(plus_x, MARGIN + rail - 16, f"{strings.fuse.number:g} A" if strings.fuse else "", "top"))
    if n > 1:
        sheet.rails.append(("+", [(middles[0] - w / 4, top), (middles[-1] - w / 4, top)]))
        sheet.rails.append(("-", [(middles[0] + w / 4, bottom), (middles[-1] + w / 4, bottom)]))
    corner = -1 if strings is not None and strings.takeoff == "opposite corners" else 0
    sheet.posts.append(Lead(middles[0] - w / 4, top, "+", "top"))
    sheet.posts.append(Lead(middles[corner] + w / 4, bottom, "−", "top"))
    return sheet


class Painter:
    """Turns the layout into primitives, seen from one side."""

    def __init__(self, layout: PackLayout, side: Side, collection: str, shown: Shown) -> None:
        self.layout, self.side, self.collection = layout, side, collection
        self.links = shown == "links" or not layout.on_end
        self.mirrored = side == "bottom"
        self.size = max(4.0, min(14.0, layout.width / 60))
        if layout.rails:  # a few large things: words as large as a sheet of this height needs
            self.size = max(10.0, min(30.0, layout.height / 28))
        self.drawing = Drawing(layout.width, layout.height, "mm")

    def x(self, x: float, w: float = 0.0) -> float:
        """A place across, as it is seen."""
        return self.layout.width - x - w if self.mirrored else x

    def draw(self) -> Drawing:
        """The whole pack."""
        layout, add = self.layout, self.drawing.add
        self.drawing.areas = self.areas()
        bars = layout.bars if self.links else []
        for bar in bars:
            if bar.side != self.side:
                add(Box(self.x(bar.x, bar.w), bar.y, bar.w, bar.h, "link-under", 0.4, 2))
        for place in layout.places:
            self.cell(place)
        for bar in bars:
            if bar.side == self.side:
                add(Box(self.x(bar.x, bar.w), bar.y, bar.w, bar.h, "link", 0.4, 2, title=f"link, {bar.joins}"))
        for place in layout.places:
            add(*(self.round_marks(place) if place.round else self.square_marks(place)))
        for x, y, w, h in layout.holders:
            add(Box(self.x(x, w), y, w, h, "holder", 0.9, 2))
        for pole, points in layout.rails:
            role, width = RAILS[pole]
            add(Line(tuple((self.x(x), y) for x, y in points), role, width))
        for fuse in layout.fuses:
            self.fuse(fuse)
        for x, y, words in layout.shares:
            add(Text(self.x(x), y + 4, words, self.size * 1.5, anchor="middle", bold=True))
        if layout.rails:
            for place in layout.places:
                self.battery(place)
        for lead in layout.senses:
            if self.links and (lead.side == self.side or not layout.on_end):
                self.sense(lead)
        for post in layout.posts:
            self.post(post)
        return self.drawing

    def cell(self, place: PackPlace) -> None:
        """A cell or battery."""
        plus = place.plus_up != self.mirrored
        role: Role = "cell" if not place.round else "cell-plus" if plus else "cell-minus"
        role, width = ("cell-reject", 2.0) if place.reject else (role, 0.6)
        x, of = self.x(place.x), f"{self.collection}{place.group}"
        name = f"group {place.group}, place {place.number}" + (f", {place.label}" if place.label else "")
        if place.round:
            self.drawing.add(Circle(x, place.y, min(place.w, place.h) / 2, role, width, of, name))
        else:
            self.drawing.add(Box(x - place.w / 2, place.y - place.h / 2, place.w, place.h, role, width, 3, of, name))

    def areas(self) -> list[Area]:
        """A group, or string, to pick."""
        by_group: dict[int, list[PackPlace]] = {}
        for place in self.layout.places:
            by_group.setdefault(place.group, []).append(place)
        what = "group" if self.collection.endswith("g") else "string"
        out = []
        for number, members in by_group.items():
            xs, ys = [self.x(p.x) for p in members], [p.y for p in members]
            left, top = min(xs) - members[0].w / 2, min(ys) - members[0].h / 2
            w, h = max(xs) + members[0].w / 2 - left, max(ys) + members[0].h / 2 - top
            out.append(Area(f"{self.collection}{number}", f"{what} {number}", left, top, w, h, (left + w, top)))
        return out

    def round_marks(self, place: PackPlace) -> list[Primitive]:
        """Polarity, label and number of its place on a cell on end, as large as the cell allows; under links polarity alone."""
        small, x, y = min(place.w, place.h), self.x(place.x), place.y
        plus, number = place.plus_up != self.mirrored, f"{place.group}.{place.number}"
        if self.links:
            return [
                sign(x, y - small * 0.2, plus, small * 0.32),
                Text(x, y + small * 0.4, number, small * 0.2, "faint", "middle"),
            ]
        if not place.label:
            return [sign(x, y - small * 0.08, plus, small * 0.38), Text(x, y + small * 0.3, number, small * 0.3, anchor="middle")]
        lines = in_lines(place.label)
        size = small * min(0.26, 1.75 / max(len(line) for line in lines), 0.5 / len(lines))
        first = y + size * 0.36 - size * 0.5 * (len(lines) - 1)
        return [
            sign(x, y - small * 0.24, plus, small * 0.26),
            *(Text(x, first + n * size, line, size, anchor="middle", bold=True) for n, line in enumerate(lines)),
            Text(x, y + small * 0.42, number, small * 0.17, "faint", "middle"),
        ]

    def square_marks(self, place: PackPlace) -> list[Primitive]:
        """Number on a cell or battery, and polarity at both its ends where they are terminals of a cell."""
        x = self.x(place.x)
        number = f"{place.group}" if place.number == 1 else f"{place.group}.{place.number}"
        lines = in_lines(place.label) if place.label else [number]
        size = min(self.size * 1.4, place.w * 1.8 / max(len(line) for line in lines))
        out: list[Primitive] = []
        if not self.layout.shares:
            first = place.y + size / 3 - size * 0.5 * (len(lines) - 1)
            out += [Text(x, first + n * size, line, size, anchor="middle", bold=True) for n, line in enumerate(lines)]
            if place.label and self.collection.endswith("g"):
                low = first + len(lines) * size
                out.append(Text(x, low, f"{place.group}.{place.number}", size * 0.8, "faint", "middle"))
        if not self.layout.rails:
            upper_plus, large = place.group % 2 == 0, min(size * 1.5, place.w * 0.6)
            out.append(sign(x, place.y - place.h * (0.22 if upper_plus else -0.3), True, large))
            out.append(sign(x, place.y - place.h * (-0.3 if upper_plus else 0.22), False, large))
        return out

    def battery(self, place: PackPlace) -> None:
        """What makes a battery one: its lid, both posts at one long side, what it is."""
        x, top = self.x(place.x), place.y - place.h / 2
        left, low = x - place.w / 2, place.y + place.h / 2
        self.drawing.add(Line(((left + 6, top + 2 * POST_IN), (left + place.w - 6, top + 2 * POST_IN)), "faint", 0.7))
        for side, pole in ((-1, "+"), (1, "−")):
            at = self.x(place.x + side * place.w / 4)
            role: Role = "positive" if pole == "+" else "negative"
            self.drawing.add(Circle(at, top + POST_IN, POST_R, "stud", 0.8), Circle(at, top + POST_IN, POST_R * 0.45, role, 1.6))
            self.drawing.add(
                Text(
                    at + (POST_R + self.size * 0.6) * (1 if side < 0 else -1),
                    top + POST_IN + self.size * 0.4,
                    pole,
                    self.size * 1.2,
                    role,
                    "middle",
                    bold=True,
                )
            )
        if self.layout.said:
            self.drawing.add(Text(x, low - 8, self.layout.said, self.size, "faint", "middle"))

    def fuse(self, fuse: Lead) -> None:
        """The fuse of a string, on its line."""
        x = self.x(fuse.x)
        self.drawing.add(Box(x - 7, fuse.y - 12, 14, 24, "box", 1, 2), Line(((x, fuse.y - 14), (x, fuse.y + 14)), "positive", 2))
        side: Anchor = "end" if self.mirrored else "start"
        self.drawing.add(Text(x + (-11 if self.mirrored else 11), fuse.y + 4, fuse.name, self.size, anchor=side))

    def sense(self, lead: Lead) -> None:
        """A sense lead, with its number."""
        x = self.x(lead.x)
        self.drawing.add(Line(((x, lead.y - 6), (x, lead.y + 6)), "sense", 0.7))
        self.drawing.add(Text(x, lead.y + 6 + self.size, lead.name, self.size, "sense", "middle"))

    def post(self, post: Lead) -> None:
        """Where the pack is taken off."""
        x, plus = self.x(post.x), post.name == "+"
        role: Role = "positive" if plus else "negative"
        self.drawing.add(Line(((x, post.y + 6), (x, max(post.y - 14, 3))), role, 4))
        self.drawing.add(Text(x + 8, max(post.y - 6, self.size), post.name, self.size * 1.6, role, bold=True))


LINE_LETTERS = 8
"""A label longer than this is written in several lines."""


def in_lines(label: str) -> list[str]:
    """A label in lines of about one length, broken at its hyphens and blanks where it has them; nothing of it is left out."""
    count = ceil(len(label) / LINE_LETTERS)
    lines: list[str] = []
    rest = label
    for left in range(count, 1, -1):
        ideal = ceil(len(rest) / left)
        breaks = [n + 1 for n, letter in enumerate(rest) if letter in "-_ ./" and abs(n + 1 - ideal) <= 3]
        at = min(breaks, key=lambda n: abs(n - ideal)) if breaks else ideal
        lines.append(rest[:at].strip())
        rest = rest[at:]
    return [line for line in [*lines, rest.strip()] if line]


RAILS: dict[str, tuple[Role, float]] = {"+": ("positive", 4), "-": ("negative", 4), "link": ("rail", 5)}


def sign(x: float, y: float, plus: bool, size: float) -> Text:
    """A pole, as it is written on a cell."""
    return Text(x, y, "+" if plus else "−", size, "positive" if plus else "ink", "middle")
