"""The pack as it will stand: cells or batteries in their places, polarity, links, sense leads, take-offs, fuses.

All lengths in mm of the real thing, x to the right and y downwards. Group 1, and sense lead 0, are at the negative
end. Seen from the other side (the side one solders from) everything is mirrored left to right.
"""

from dataclasses import dataclass, field
from math import ceil
from typing import Literal

from kegcart.core import svg
from kegcart.core.pack.document import Bank, BatteryPack, CellPack
from kegcart.core.pack.links import dimensions
from kegcart.core.pack.sizing import PackSizing

Side = Literal["top", "bottom"]
GAP = 1.5
"""Between cells in a holder, mm."""
MARGIN = 26.0
ROW_GAP = 16.0
WIDEST = 900.0
"""A row is broken where it would grow wider, mm."""
TALLEST = 12
"""Cells above one another in a holder of cylindrical cells."""

STYLE = (
    svg.PAPER_STYLE
    + """
.cell{fill:#e3eae2;stroke:#1f2a2e;stroke-width:.6}.cell.plus{fill:#f3ddd6}.cell.minus{fill:#dfe3e2}.reject{stroke:#a8332a;stroke-width:2}
.link{fill:#b06a32;stroke:#7c481f;stroke-width:.4;fill-opacity:.82}.link.under{fill-opacity:.18;stroke-dasharray:2 2}
.sense{stroke:#3f5d7d;stroke-width:.7;stroke-dasharray:2 1.4}.sense-label{fill:#3f5d7d}
.post-plus{stroke:#a8332a;stroke-width:4}.post-minus{stroke:#1f2a2e;stroke-width:4}.plus-text{fill:#a8332a}
.post-link{stroke:#b06a32;stroke-width:5}
.fuse{fill:#fffdf8;stroke:#1f2a2e;stroke-width:1}
""".strip()
)


@dataclass(frozen=True, slots=True)
class Place:
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
class PackDrawing:
    """Everything on the sheet, in mm."""

    width: float
    height: float
    places: list[Place] = field(default_factory=list)
    bars: list[Bar] = field(default_factory=list)
    senses: list[Lead] = field(default_factory=list)
    posts: list[Lead] = field(default_factory=list)
    fuses: list[Lead] = field(default_factory=list)
    shares: list[tuple[float, float, str]] = field(default_factory=list)
    rails: list[tuple[str, list[tuple[float, float]]]] = field(default_factory=list)
    caption: str = ""


def draw_pack(sizing: PackSizing) -> PackDrawing:
    """The drawing of any form of pack."""
    pack = sizing.pack
    if isinstance(pack, CellPack):
        return draw_cells(pack, sizing)
    return draw_bank(pack, sizing)


def labels_of(pack: CellPack, group: int, place: int) -> tuple[str, bool]:
    """Label of the sorted cell in a place, and whether it is a reject."""
    members = list(pack.groups.values())
    if group < len(members) and place < len(members[group].cells):
        cell = members[group].cells[place]
        return cell.label, bool(cell.reject)
    return "", False


def draw_cells(pack: CellPack, sizing: PackSizing) -> PackDrawing:
    s, p = int(sizing.series.number), int(sizing.parallel.number)
    width, thickness, _ = dimensions(pack.cell)
    cylindrical = pack.cell.shape == "cylindrical"
    pitch_x = (width if cylindrical else thickness) + GAP
    pitch_y = width + GAP
    columns = ceil(p / TALLEST) if cylindrical else p
    rows = ceil(p / columns)
    group_w = columns * pitch_x
    group_h = rows * pitch_y
    per_line = max(1, min(s, int(WIDEST // group_w)))
    lines = ceil(s / per_line)
    sheet = PackDrawing(
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
                Place(
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
    if cylindrical:
        link_holder(sheet, at, s, group_w, group_h)
    else:
        link_prismatic(sheet, at, s, group_w, group_h, pitch_x)
    return sheet


def link_holder(sheet: PackDrawing, at: list[tuple[float, float]], s: int, group_w: float, group_h: float) -> None:
    """Links of cells on end: group by group on top and underneath in turn, a strip along each row and each column."""
    cell = sheet.places[0].w
    strip = cell * 0.24
    by_group: dict[int, list[Place]] = {}
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
    sheet: PackDrawing, at: list[tuple[float, float]], s: int, group_w: float, group_h: float, pitch: float
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


def draw_bank(pack: BatteryPack | Bank, sizing: PackSizing) -> PackDrawing:
    unit = pack.battery
    w, h = unit.width_mm or 200.0, unit.depth_mm or 170.0
    n_series = pack.in_series if isinstance(pack, Bank) else 1
    n = int(sizing.parallel.number)
    gap, rail = 40.0, 56.0
    pitch_x, pitch_y = w + gap, h + 24
    sheet = PackDrawing(2 * MARGIN + n * pitch_x + 40, 2 * MARGIN + 2 * rail + n_series * pitch_y)
    what = "module" if pack.form == "modules" else "battery"
    total = n * n_series
    sheet.caption = f"{total} {what if total == 1 else 'batteries' if what == 'battery' else 'modules'}"
    strings = sizing.build.strings
    top, bottom = MARGIN + 14, MARGIN + 2 * rail + n_series * pitch_y - 24 - 14
    middles = [MARGIN + 20 + i * pitch_x + w / 2 for i in range(n)]
    for i, x in enumerate(middles):
        for k in range(n_series):
            y = MARGIN + rail + (n_series - 1 - k) * pitch_y + h / 2
            sheet.places.append(Place(x, y, w, h, False, i + 1, k + 1, True, f"{i + 1}.{k + 1}" if n_series > 1 else f"{i + 1}"))
            if k:  # the positive of the lower one to the negative of the one above it
                sheet.rails.append(("link", [(x, y + h / 2 - 12), (x, y + h / 2 + 24 + 12)]))
        sheet.rails.append(("+", [(x - w / 4, MARGIN + rail + 12), (x - w / 4, top)]))
        sheet.rails.append(("-", [(x + w / 4, MARGIN + rail + n_series * pitch_y - 24 - 12), (x + w / 4, bottom)]))
        if strings is not None:
            sheet.shares.append((x, MARGIN + rail + h / 2, strings.shares[i].value and f"{strings.shares[i].number:.1%}"))  # type: ignore[arg-type]
            own = pack.strings.get(f"s{i + 1}") if isinstance(pack, Bank) else None
            if n > 1 and (own is None or own.protected):
                sheet.fuses.append(
                    Lead(x - w / 4, MARGIN + rail - 16, f"{strings.fuse.number:g} A" if strings.fuse else "", "top")
                )
    if n > 1:
        sheet.rails.append(("+", [(middles[0] - w / 4, top), (middles[-1] - w / 4, top)]))
        sheet.rails.append(("-", [(middles[0] + w / 4, bottom), (middles[-1] + w / 4, bottom)]))
    corner = -1 if strings is not None and strings.takeoff == "opposite corners" else 0
    sheet.posts.append(Lead(middles[0] - w / 4, top, "+", "top"))
    sheet.posts.append(Lead(middles[corner] + w / 4, bottom, "−", "top"))
    return sheet


def write_svg(drawing: PackDrawing, side: Side = "top") -> str:
    """The drawing as SVG elements without a frame; `bottom` mirrors it. Groups carry `data-group` for selection."""
    mirrored = side == "bottom"

    def mx(x: float, w: float = 0.0) -> float:
        return drawing.width - x - w if mirrored else x

    out: list[str] = []
    size = max(4.0, min(14.0, drawing.width / 60))
    for bar in drawing.bars:
        if bar.side != side:
            out.append(svg.element("rect", x=mx(bar.x, bar.w), y=bar.y, width=bar.w, height=bar.h, rx=2, class_="link under"))
    for place in drawing.places:
        plus = place.plus_up != mirrored
        kind = ("cell plus" if plus else "cell minus") if place.round else "cell"
        kind += " reject" if place.reject else ""
        x = mx(place.x)
        if place.round:
            shape = svg.element("circle", cx=x, cy=place.y, r=min(place.w, place.h) / 2, class_=kind)
        else:
            shape = svg.element(
                "rect", x=x - place.w / 2, y=place.y - place.h / 2, width=place.w, height=place.h, rx=3, class_=kind
            )
        name = f"group {place.group}, place {place.number}" + (f", {place.label}" if place.label else "")
        out.append(svg.element("g", svg.element("title", name) + shape, data_group=place.group, data_place=place.number))
    for bar in drawing.bars:
        if bar.side == side:
            title = svg.element("title", f"link, {bar.joins}")
            rect = svg.element("rect", x=mx(bar.x, bar.w), y=bar.y, width=bar.w, height=bar.h, rx=2, class_="link")
            out.append(svg.element("g", title + rect))
    out += marks(drawing, mirrored, mx, size)
    for pole, points in drawing.rails:
        moved = [(mx(x), y) for x, y in points]
        kind = "post-plus" if pole == "+" else "post-minus" if pole == "-" else "post-link"
        out.append(svg.path(moved, class_=kind))
    for fuse in drawing.fuses:
        out.append(svg.element("rect", x=mx(fuse.x) - 7, y=fuse.y - 12, width=14, height=24, rx=2, class_="fuse"))
        out.append(
            svg.text(
                mx(fuse.x) + (-11 if mirrored else 11), fuse.y + 4, fuse.name, size, text_anchor="end" if mirrored else "start"
            )
        )
    for x, y, words in drawing.shares:
        out.append(svg.text(mx(x), y + 4, words, size * 1.5, text_anchor="middle", font_weight=600))
    for lead in drawing.senses:
        if lead.side == side or not drawing.places[0].round:
            x = mx(lead.x)
            out.append(svg.path([(x, lead.y - 6), (x, lead.y + 6)], class_="sense"))
            out.append(svg.text(x, lead.y + 6 + size, lead.name, size, text_anchor="middle", class_="sense-label"))
    for post in drawing.posts:
        x, up = mx(post.x), post.name == "+"
        out.append(svg.path([(x, post.y + 6), (x, max(post.y - 14, 3))], class_="post-plus" if up else "post-minus"))
        out.append(
            svg.text(x + 8, max(post.y - 6, size), post.name, size * 1.6, font_weight=700, class_="plus-text" if up else "")
        )
    return "".join(out)


def marks(drawing: PackDrawing, mirrored: bool, mx: object, size: float) -> list[str]:
    """Polarity and number on every cell, as large as the cell allows."""
    assert callable(mx)
    out = []
    for place in drawing.places:
        x = mx(place.x)
        small = min(place.w, place.h)
        if place.round:
            plus = place.plus_up != mirrored
            sign = "+" if plus else "−"
            out.append(
                svg.text(x, place.y - small * 0.15, sign, small * 0.38, text_anchor="middle", class_="plus-text" if plus else "")
            )
            words = place.label or f"{place.group}.{place.number}"
            fit = min(small * 0.24, small * 1.5 / max(len(words), 1))
            out.append(svg.text(x, place.y + small * 0.37, words, fit, text_anchor="middle", class_="faint"))
        else:
            words = place.label or (f"{place.group}" if place.number == 1 else f"{place.group}.{place.number}")
            fit = min(size * 1.4, place.w * 1.6 / max(len(words), 1))
            if not drawing.shares:
                out.append(svg.text(x, place.y + fit / 3, words, fit, text_anchor="middle", font_weight=600))
            if not drawing.rails:
                upper_plus = place.group % 2 == 0
                for sign, up in (("+", upper_plus), ("−", not upper_plus)):
                    y = place.y - place.h * 0.22 if up else place.y + place.h * 0.3
                    out.append(
                        svg.text(
                            x,
                            y,
                            sign,
                            min(fit * 1.5, place.w * 0.6),
                            text_anchor="middle",
                            class_="plus-text" if sign == "+" else "",
                        )
                    )
    return out
