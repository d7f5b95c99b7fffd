"""The single-line diagram laid out: where every symbol, line and label of the power path stands.

The tree hangs from the positive bar, one column for each last part, lines at the left of their column and
labels to the right of them, so that nothing crosses. The negative bar runs along the bottom; the shunt
sits between it and the pack, and a negative that goes round the shunt is drawn going round it. A further bank
has a panel of its own below. What is folded is drawn without what hangs on it.
All lengths in units of one screen pixel at full size.
"""

from dataclasses import dataclass, field
from typing import Any

from kegcart.core.power.document import PACK, Input, Outlet
from kegcart.core.power.network import IN_LINE, Network

COLUMN = 108
LANE = 14
IN_LINE_PITCH = 112
"""From one part of the main path to the next, along the top."""
LINE_AT = 20
LEFT = 176
TOP = 56
SYMBOL_HEIGHT = {
    "protection": 38,
    "switch": 34,
    "selector": 38,
    "plug": 34,
    "fuse_block": 26,
    "inverter": 52,
    "converter": 52,
    "outlet": 52,
    "input": 52,
    "busbar": 12,
}
SLIM = frozenset({"protection", "switch", "selector", "plug", "outlet", "input"})
"""Parts drawn as a symbol on the line, with their words beside it."""
PANEL_GAP = 34
MOST_COLUMNS = 12
"""Where a path has more columns, its larger fuse blocks are folded until they are opened."""
FOLD_FROM = 4
RUN_ZONE = 44
SHORT_ZONE = 12
PACK_BOX = (16, 196, 112, 96)
BAR_HEIGHT = 12


@dataclass(frozen=True, slots=True)
class Box:
    """A place on the sheet: `what` is symbol, run (label of a cable), or text (label of a symbol)."""

    key: str
    what: str
    part: str
    x: float
    y: float
    w: float
    h: float
    folded: int = 0
    """how many parts hang on it and are not drawn"""

    def overlaps(self, other: "Box") -> bool:
        return (
            self.x < other.x + other.w and other.x < self.x + self.w and self.y < other.y + other.h and other.y < self.y + self.h
        )


@dataclass(frozen=True, slots=True)
class Line:
    """A conductor: the run to part `key`, of pole + or − (or ~ for AC), along straight points."""

    key: str
    pole: str
    points: list[tuple[float, float]]
    bypass: bool = False


@dataclass(slots=True)
class Diagram:
    """The whole sheet."""

    width: float = 0
    height: float = 0
    boxes: list[Box] = field(default_factory=list)
    lines: list[Line] = field(default_factory=list)

    def write(self) -> dict[str, Any]:
        """The sheet as plain JSON data."""
        boxes = [
            {"key": b.key, "what": b.what, "part": b.part, "x": b.x, "y": b.y, "w": b.w, "h": b.h, "folded": b.folded}
            for b in self.boxes
        ]
        lines = [{"key": n.key, "pole": n.pole, "points": n.points, "bypass": n.bypass} for n in self.lines]
        return {"width": self.width, "height": self.height, "boxes": boxes, "lines": lines}


class Drafting:
    """Lays one network out."""

    def __init__(self, network: Network, has_shunt: bool, folded: frozenset[str]) -> None:
        self.network = network
        self.has_shunt = has_shunt
        self.folded = folded
        self.sheet = Diagram()
        self.bottom = 0.0
        self.negatives: list[tuple[str, float, float, bool]] = []

    def span(self, key: str) -> float:
        """The width that a part and all below it take; a part with a negative of its own leaves a lane for it."""
        lane = LANE if self.network.nodes[key].part in ("inverter", "converter") else 0
        return max(COLUMN, sum(self.span(child) for child in self.drawn(key))) + lane

    def drawn(self, key: str) -> tuple[str, ...]:
        """The parts that are drawn hanging on a part."""
        return () if key in self.folded else self.network.children[key]

    def box(self, key: str, what: str, x: float, y: float, w: float, h: float) -> None:
        part = self.network.nodes[key].part if key in self.network.nodes else key
        hidden = sum(1 for _ in self.network.below(key)) if key in self.folded and what == "symbol" else 0
        self.sheet.boxes.append(Box(key, what, part, x, y, w, h, hidden))

    def has_run(self, key: str) -> bool:
        """Whether a cable leads to this part: not into a block, and not to sockets on an inverter's face."""
        node = self.network.nodes[key]
        feeder = self.network.nodes.get(node.feed)
        if feeder is None:
            return True
        if feeder.part == "inverter":
            return node.run.length_m > 0
        return not (feeder.part == "fuse_block" and node.part == "protection")

    def hang(self, key: str, x: float, y: float, ac: bool = False) -> None:
        """Draw a part and all below it in the columns from x on, its line leaving the feeder at y."""
        node = self.network.nodes[key]
        width = self.span(key)
        line_x = x + LINE_AT
        zone = RUN_ZONE if self.has_run(key) else SHORT_ZONE
        top = y + zone
        height = SYMBOL_HEIGHT[node.part]
        self.sheet.lines.append(Line(key, "~" if ac else "+", [(line_x, y), (line_x, top)]))
        if zone == RUN_ZONE:
            self.box(key, "run", line_x + 7, y + 8, COLUMN - LINE_AT - 16, 30)
        if node.part in SLIM:
            self.box(key, "symbol", line_x - 9, top, 18, 24 if node.part in ("outlet", "input") else height)
            self.box(key, "text", line_x + 13, top, COLUMN - LINE_AT - 22, height)
        else:
            self.box(key, "symbol", x + 2, top, width - 8, height)
        low = top + height
        children = self.drawn(key)
        ends_here = isinstance(node, Outlet | Input) and not ac and not self.behind_converter(key)
        if node.part in ("inverter", "converter") or ends_here:
            start = (line_x, top + 24) if ends_here else (x + width - 12, low)
            self.negatives.append((key, *start, getattr(node, "negative", "busbar") == "post"))
        if len(children) > 1 and node.part in IN_LINE:
            last = x + sum(self.span(c) for c in children[:-1]) + LINE_AT
            self.sheet.lines.append(Line(key, "+", [(line_x, low), (line_x, low + 4), (last, low + 4)]))
            low += 4
        self.bottom = max(self.bottom, low)
        at = x
        for child in children:
            self.hang(child, at, low, ac or node.part == "inverter")
            at += self.span(child)

    def behind_converter(self, key: str) -> bool:
        return any(self.network.nodes[up].part == "converter" for up in self.network.upstream(key))

    def draw(self) -> Diagram:
        top = 0.0
        for source in self.network.roots:
            self.panel(source, top)
            top = self.sheet.height + PANEL_GAP - 16
        return self.sheet

    def panel(self, source: str, origin: float) -> None:
        """One source with its tree, from `origin` downwards."""
        network = self.network
        self.negatives = []
        px, py, pw, ph = PACK_BOX
        py += int(origin)
        plus_x, minus_x = px + 34, px + pw - 34
        chain = network.main_path(source)
        bar = chain[-1] if chain and network.nodes[chain[-1]].part in ("busbar", "fuse_block") else None
        lead = chain[:-1] if bar else []
        # The first part of the main path stands over the post, the rest along the top.
        y, x = float(py), float(plus_x)
        rest = list(lead)
        if rest:
            first = rest.pop(0)
            self.box(first, "symbol", plus_x - 9, py - 74, 18, 38)
            self.box(first, "text", plus_x + 13, py - 74, COLUMN - 6, 38)
            self.box(first, "run", plus_x + 13, py - 34, COLUMN - 6, 30)
            self.sheet.lines.append(Line(first, "+", [(plus_x, y), (plus_x, py - 36)]))
            y = py - 74
        start = y
        top_y = float(TOP) + origin
        end = x  # where the line has come to
        for key in rest:
            points = [(end, start), (end, top_y), (x + 36, top_y)] if start != top_y else [(end, top_y), (x + 36, top_y)]
            self.sheet.lines.append(Line(key, "+", points))
            self.box(key, "symbol", x + 36, top_y - 14, 34, 24)
            self.box(key, "text", x + 22, top_y - 50, COLUMN, 34)
            self.box(key, "run", x + 8, top_y + 14, COLUMN - 4, 30)
            end, x, start = x + 70, x + IN_LINE_PITCH, top_y
        left = max(float(LEFT), end + 48)
        bar_y = top_y - BAR_HEIGHT / 2
        roots = (network.children[bar] if bar not in self.folded else ()) if bar else network.children[source]
        width = sum(self.span(root) for root in roots) or COLUMN
        feed = [(end, start), (end, top_y), (left, top_y)] if start != top_y else [(end, top_y), (left, top_y)]
        self.sheet.lines.append(Line(bar or source, "+", feed))
        hidden = sum(1 for _ in network.below(bar)) if bar and bar in self.folded else 0
        kind = network.nodes[bar].part if bar else "posts"
        name = bar or ("posts" if source == PACK else f"posts-{source}")
        self.sheet.boxes.append(Box(name, "symbol", kind, left, bar_y, width, BAR_HEIGHT, hidden))
        if bar:
            self.box(bar, "text", left + 4 + (0 if not rest else 24), bar_y - 22, min(width - 28, 260), 18)
            if not rest and self.has_run(bar):
                self.box(bar, "run", end + 8, top_y + 12, COLUMN - 4, 30)
        self.bottom = float(py + ph)
        at = left
        for root in roots:
            self.hang(root, at, top_y + BAR_HEIGHT / 2)
            at += self.span(root)
        self.sheet.boxes.append(Box(source, "symbol", PACK, px, py, pw, ph))
        self.negative_side(source, left, width, minus_x, py + ph)
        self.sheet.width = max(self.sheet.width, left + width + 12)

    def negative_side(self, source: str, left: float, width: float, minus_x: float, pack_low: float) -> None:
        bar_y = self.bottom + 26
        round_y = bar_y + BAR_HEIGHT + 20
        bypassing = any(post for *_, post in self.negatives)
        for key, x, y, post in self.negatives:
            if post:
                self.sheet.lines.append(
                    Line(key, "-", [(x, y), (x, round_y), (minus_x - 14, round_y), (minus_x - 14, pack_low)], True)
                )
            else:
                self.sheet.lines.append(Line(key, "-", [(x, y), (x, bar_y)]))
        name = "negative" if source == PACK else f"negative-{source}"
        self.sheet.boxes.append(Box(name, "symbol", "negative", left, bar_y, width, BAR_HEIGHT))
        middle = bar_y + BAR_HEIGHT / 2
        self.sheet.lines.append(Line(source, "-", [(minus_x, pack_low), (minus_x, middle), (left, middle)]))
        if self.has_shunt and source == PACK:
            self.sheet.boxes.append(Box("shunt", "symbol", "shunt", (minus_x + left) / 2 - 24, middle - 11, 48, 22))
            self.sheet.boxes.append(Box("shunt", "text", "shunt", (minus_x + left) / 2 - 30, middle - 29, 62, 16))
        self.sheet.height = (round_y if bypassing else bar_y + BAR_HEIGHT) + 16


def folds(network: Network) -> frozenset[str]:
    """The fuse blocks that are folded unless the builder opens them: the larger ones of a path with many columns."""
    drafting = Drafting(network, False, frozenset())
    columns = sum(drafting.span(key) for root in network.roots for key in network.children[root]) / COLUMN
    if columns <= MOST_COLUMNS:
        return frozenset()
    blocks = (k for k, node in network.nodes.items() if node.part == "fuse_block")
    return frozenset(k for k in blocks if len(network.children[k]) > FOLD_FROM)


def lay_out(network: Network, has_shunt: bool, folded: frozenset[str] | None = None) -> Diagram:
    """The diagram of a network; the same network gives the same diagram.

    folded: parts drawn without what hangs on them; the larger fuse blocks of a large network if None.
    """
    return Drafting(network, has_shunt, folds(network) if folded is None else folded).draw()
