"""The single-line diagram as primitives: symbols, conductors as thick as their current, and every label in its place.

Screen, SVG, PDF and the picture on the shelf are all made from this drawing.
"""

from collections.abc import Sequence
from dataclasses import replace
from math import sqrt

from kegcart.core.drawing import (
    LETTER,
    Anchor,
    Area,
    Box,
    Drawing,
    Line,
    Primitive,
    Role,
    Text,
    fit,
    standing_for,
    wrap,
)  # fmt: skip
from kegcart.core.figure import Figure
from kegcart.core.power.drawing.layout import Conductor, Layout, Place, lay_out
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import kind_of
from kegcart.core.power.kinds.base import Label
from kegcart.core.power.kinds.symbols import bar
from kegcart.core.power.path.parts import PartSizing, PowerSizing
from kegcart.core.units import write_quantity

LEAST_WIDTH = 640.0
SMALL, PLAIN, STRONG = 12.5, 13.5, 13.5
LINE_STEP = 12.5
THIN, THICK = 1.6, 5.0
"""Width of a conductor without current, and what the greatest current adds."""
MAINS_WIDTH = 1.8
HIGH_LOADING = 0.8
POLES: dict[str, Role] = {"+": "positive", "-": "negative", "~": "mains"}


def draw_path(power: PowerSizing, folded: frozenset[str] | None = None, step: int | None = None) -> Drawing:
    """The diagram.

    folded: parts drawn without what hangs on them; the larger fuse blocks of a large path if None.
    step: the step of the day whose currents are shown; the greatest of the schedule if None.
    """
    return Diagram(power, lay_out(power.network, power.shunt is not None, folded), step).draw()


class Diagram:
    """One drawing in the making."""

    def __init__(self, power: PowerSizing, layout: Layout, step: int | None) -> None:
        self.power, self.layout, self.step = power, layout, step
        self.drawing = Drawing(max(layout.width, LEAST_WIDTH), layout.height)
        self.biggest = max(power.current.number, 1.0)

    def draw(self) -> Drawing:
        """The whole single-line diagram."""
        for conductor in self.layout.conductors:
            self.drawing.add(self.conductor(conductor))
        for place in self.layout.places:
            drawn = self.drawn(place)
            self.drawing.add(*standing_for(drawn, pointer(place.key, self.power)))
            if place.what == "symbol" and place.part not in ("posts", "negative"):
                self.drawing.areas.append(self.area(place))
        if self.power.ctx.path.chassis_bond:
            self.drawing.add(*self.chassis_bond())
        return self.drawing

    def drawn(self, place: Place) -> list[Primitive]:
        """What stands in a place: a symbol, its words, or the label of a cable."""
        if place.what == "text":
            return self.words(place)
        return self.run_label(place) if place.what == "run" else self.symbol(place)

    def amps(self, part: PartSizing) -> float:
        """The current shown of a part, A (W behind an inverter)."""
        return part.current.number if self.step is None else part.flow.running[self.step]

    def conductor(self, conductor: Conductor) -> Line:
        """A line of the diagram, by what it carries."""
        role: Role = "bypass" if conductor.bypass else POLES[conductor.pole]
        part = self.power.parts.get(conductor.key)
        if conductor.pole == "~":
            width = MAINS_WIDTH
        else:
            amps = self.amps(part) if part else self.total()
            width = THIN + THICK * sqrt(min(1.0, max(0.0, amps) / self.biggest))
        return Line(conductor.points, role, round(width, 2), f"{pointer(conductor.key, self.power)}/run")

    def total(self) -> float:
        """What the pack gives at the moment shown, A."""
        if self.step is None:
            return self.power.current.number
        return sum(self.power.parts[key].flow.running[self.step] for key in self.power.network.feeds[PACK])

    def symbol(self, place: Place) -> list[Primitive]:
        """The symbol in a place: of its kind, or of pack, posts, shunt and negative bar."""
        box, part = Box(place.x, place.y, place.w, place.h), self.power.parts.get(place.key)
        if part is not None:
            kind = kind_of(part.node)
            inside = [] if kind.facts.slim or place.h <= 18 else self.words_inside(place, part)
            return [*kind.symbol(part.node, part, box), *inside]
        if place.part in ("posts", "negative"):
            return bar(box)
        if place.part == "shunt":
            middle = place.x + place.w / 2
            frame = Box(place.x, place.y, place.w, place.h, "wash")
            return [frame, Text(middle, place.y + 15, "shunt", SMALL, anchor="middle", bold=True)]
        return self.source(place)

    def area(self, place: Place) -> Area:
        """What can be picked, with where its mark goes: beside a symbol on the line, else on the corner of its box."""
        part = self.power.parts.get(place.key)
        facts = kind_of(part.node).facts if part is not None else None
        slim = facts is not None and facts.slim and place.h >= place.w
        mark = (place.x - 7.5, place.y + 11.5) if slim else (place.x + place.w - 1.5, place.y - 0.5)
        folds = facts is not None and facts.role == "spreads" and (place.h > 18 or place.folded > 0)
        hits = tuple((p.x, p.y, p.w, p.h) for p in self.layout.places if p.key == place.key and p.what != "symbol")
        return Area(
            pointer(place.key, self.power),
            named(place.key, self.power),
            place.x,
            place.y,
            place.w,
            place.h,
            mark,
            hits,
            place.key if folds else "",
            place.folded,
        )

    def source(self, place: Place) -> list[Primitive]:
        """The pack or a further bank: its posts, its name, its cells."""
        x, y, w, h = place.x, place.y, place.w, place.h
        middle, name, volts = x + w / 2, named(place.key, self.power), self.power.sources[place.key].v_nom
        out: list[Primitive] = [Box(x, y, w, h, "box", 1.5, 5)]
        out.append(Text(middle, y + 20, fit(name, w - 12, 14), 14, anchor="middle", bold=True, whole=name))
        if place.key == PACK:
            energy = self.power.ctx.sheet["pack/nominal"]
            out += [said(middle - 5, y + 37, volts, anchor="end"), said(middle + 5, y + 37, energy)]
        else:
            out.append(said(middle, y + 37, volts, anchor="middle"))
        out += [Box(x + 13 + n * 15, y + 48, 11, 32, "cells", 0.8, 2) for n in range(6)]
        out.append(Text(x + 22, y - 3, "+", SMALL, "positive", bold=True))
        out.append(Text(x + w - 24, y + h + 11, "−", SMALL, bold=True))
        return out

    def words_inside(self, place: Place, part: PartSizing) -> list[Primitive]:
        """The words of a part drawn as a box: name, then what it is rated for and what flows."""
        name, *rest = kind_of(part.node).labels(part.node, part)
        low = place.h < 40
        beside = sum(len(label.words) * SMALL * LETTER + 10 for label in rest) if low else 18
        at, wide = place.x + (10 if low else 28), place.w - 18 - beside
        size = 14 if len(name.words) * 14 * LETTER <= wide else SMALL
        head = Text(at, place.y + 18, fit(name.words, wide, size), size, bold=True, whole=name.words)
        if low:
            return [head, *(self.label(label, place.x + place.w - 8, place.y + 17, "end") for label in rest)]
        lines = [self.label(self.now(label, part), at, place.y + 33 + n * LINE_STEP) for n, label in enumerate(rest)]
        return [head, *lines]

    def now(self, label: Label, part: PartSizing) -> Label:
        """A label of the current, as it is at the moment shown."""
        if self.step is None or label.figure != part.current.path:
            return label
        return Label(write_quantity(self.amps(part), part.current.unit), "", label.bold, label.faint)

    def label(self, label: Label, x: float, y: float, anchor: Anchor = "start") -> Text:
        """Words beside a symbol on the line."""
        role: Role = "faint" if label.faint else "ink"
        size = STRONG if label.bold else SMALL
        return Text(x, y, label.words, size, role, anchor, label.bold, label.figure)

    def words(self, place: Place) -> list[Primitive]:
        """The words beside a symbol, or in a row above a bar."""
        part = self.power.parts.get(place.key)
        if part is None:
            shunt = self.power.shunt
            return [said(place.x + place.w / 2, place.y + 12, shunt, anchor="middle")] if shunt else []
        labels = [self.now(label, part) for label in kind_of(part.node).labels(part.node, part)]
        if place.h < 24:
            return self.row(place, labels)
        lines: list[Label] = []
        for label in labels:
            wrapped = wrap(label.words, place.w + 4, STRONG if label.bold else SMALL)
            lines += [Label(line, label.figure, label.bold, label.faint) for line in wrapped]
        most = int(place.h // LINE_STEP)
        return [self.label(line, place.x, place.y + 10 + n * LINE_STEP) for n, line in enumerate(lines[:most])]

    def row(self, place: Place, labels: Sequence[Label]) -> list[Primitive]:
        """Words in one line: the name cut to what the others leave."""
        name, *rest = labels
        others = sum(len(label.words) * STRONG * LETTER + 12 for label in rest)
        words, x = fit(name.words, max(40.0, place.w - others), PLAIN), place.x
        out: list[Primitive] = [Text(x, place.y + 13, words, PLAIN, whole=name.words)]
        x += len(words) * PLAIN * LETTER + 12
        for label in rest:
            out.append(self.label(label, x, place.y + 13))
            x += len(label.words) * STRONG * LETTER + 12
        return out

    def run_label(self, place: Place) -> list[Primitive]:
        """Gauge and length of a cable, with a bar for how much of its ampacity is used."""
        sheet, at = self.power.ctx.sheet, f"power/{place.key}/run"
        gauge, length, loading = (sheet.get(f"{at}/{name}") for name in ("gauge", "length", "loading"))
        if gauge is None:
            return []
        out: list[Primitive] = [said(place.x, place.y + 11, gauge)]
        if length is not None:
            x = place.x + len(gauge.text) * SMALL * LETTER + 5
            out.append(Text(x, place.y + 11, f"· {length.text}", SMALL, "faint", figure=length.path))
        return out if loading is None else [*out, *self.loading(place, loading)]

    def loading(self, place: Place, loading: Figure) -> list[Primitive]:
        """How much of its ampacity a cable carries: as a bar and in words; at a moment, the current."""
        part, share, words, path = self.power.parts[place.key], loading.number, loading.text, loading.path
        if self.step is not None:
            able = part.run.ampacity.number if part.run else 0.0
            share = self.amps(part) / able if able else 9.99
            words, path = write_quantity(self.amps(part), "A"), ""
        wide = min(place.w - 30, 46.0)
        role: Role = "loading-over" if share >= 1 else "loading-high" if share > HIGH_LOADING else "loading-low"
        return [
            Box(place.x, place.y + 17, wide, 4, "loading-back", 0, 1),
            Box(place.x, place.y + 17, wide * min(1.0, max(0.0, share)), 4, role, 0, 1),
            Text(place.x + wide + 5, place.y + 23, words, SMALL, "faint", figure=path),
        ]

    def chassis_bond(self) -> list[Primitive]:
        """The bond to the chassis, below the negative bar's left end (IEC 60617)."""
        place = self.layout.symbol("negative")
        if place is None:
            return []
        x, y = place.x + 12, place.y + place.h
        strokes = [((x, y), (x, y + 6)), ((x - 7, y + 6), (x + 7, y + 6))]
        strokes += [((x + dx, y + 6), (x + dx - 3, y + 12)) for dx in (-7, 0, 7)]
        return [Line(points, "ink", 1.6, "/power/chassis_bond") for points in strokes]


def said(x: float, y: float, figure: Figure, anchor: Anchor = "start") -> Text:
    """A figure in a drawing."""
    return Text(x, y, figure.text, SMALL, anchor=anchor, figure=figure.path)


def pointer(key: str, power: PowerSizing) -> str:
    """The pointer of what is drawn under a key."""
    if key == "shunt":
        return "/power/shunt"
    if key in power.sources:
        return power.sources[key].pointer
    return f"/power/network/{key}" if key in power.parts else "/power"


def named(key: str, power: PowerSizing) -> str:
    """What a thing on the diagram is called."""
    if key in power.parts:
        return power.parts[key].node.name
    if key == "shunt":
        return "Shunt"
    return "Pack" if key == PACK else power.sources[key].name


SKETCH_STROKE = 1.8
"""How much thicker the strokes of a small picture are."""


def sketch(drawing: Drawing) -> Drawing:
    """A drawing without its words and loading bars, for a small picture."""
    kept = Drawing(max(drawing.width, 480.0), max(drawing.height, 320.0), drawing.unit)
    for item in drawing.items:
        if not isinstance(item, Text) and not item.role.startswith("loading"):
            kept.add(replace(item, width=round(item.width * SKETCH_STROKE, 2), of=""))
    return kept
