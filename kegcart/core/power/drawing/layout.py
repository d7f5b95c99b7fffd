"""The single-line diagram laid out: where every symbol, line and label of the power path stands.

The tree hangs from the positive bar, one column for each last part, lines at the left of their column and
labels to the right of them, so that nothing crosses. What joins the main path before the bar, as a charger before the main
switch, has its columns to the right of the bar, fed by a line over the top. The negative bar runs along the bottom; the shunt
sits between it and the pack, and a negative that goes round the shunt is drawn going round it. A further bank
has a panel of its own below. What is folded is drawn without what hangs on it.
All lengths in units of one screen pixel at full size.
"""

from dataclasses import dataclass, field

from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import FuseBlock, kind_of
from kegcart.core.power.path.network import Network

COLUMN, WIDEST_COLUMN = 108, 168
FILLED = 540
"""So wide a tree of few columns is drawn, px, if its columns are not wider than the widest."""
LANE = 14
IN_LINE_PITCH = 112
"""From one part of the main path to the next, along the top."""
LINE_AT = 20
LEFT = 176
TOP = 56
SLIM_SYMBOL = 24
"""Height of the symbol of a socket or input; its words go on below."""
PANEL_GAP = 34
MOST_WIDE = 1080
"""Sources are drawn beside one another up to this width, px: about what a screen shows with words that can be read."""
WORDS_WIDE = 190
"""What the words in a row above a bar take, px."""
MOST_COLUMNS = 12
"""Where a path has more columns, its larger fuse blocks are folded until they are opened."""
FOLD_FROM = 4
RUN_ZONE = 44
SHORT_ZONE = 12
PACK_BOX = (16, 196, 112, 96)
BAR_HEIGHT = 12
SIDE_PITCH = 12
"""From one line over the top to the next."""
SIDE_WORDS = 76
"""What the words of a part in line take where a line leaves behind it."""


@dataclass(frozen=True, slots=True)
class Place:
    """A place on the sheet: `what` is symbol, run (label of a cable), or text (label of a symbol).

    part: the kind of part, or "posts", "negative", "pack", "shunt".
    """

    key: str
    what: str
    part: str
    x: float
    y: float
    w: float
    h: float
    folded: int = 0
    """how many parts hang on it and are not drawn"""

    def overlaps(self, other: "Place") -> bool:
        """Whether two places lie over one another."""
        return (
            self.x < other.x + other.w and other.x < self.x + self.w and self.y < other.y + other.h and other.y < self.y + self.h
        )


@dataclass(frozen=True, slots=True)
class Conductor:
    """The run to part `key`, of pole + or − (or ~ for AC), along straight points."""

    key: str
    pole: str
    points: tuple[tuple[float, float], ...]
    bypass: bool = False


@dataclass(slots=True)
class Layout:
    """Where everything stands on the sheet."""

    width: float = 0
    height: float = 0
    places: list[Place] = field(default_factory=list)
    conductors: list[Conductor] = field(default_factory=list)

    def symbol(self, key: str) -> Place | None:
        """The place of a part's symbol, where it is drawn."""
        return next((p for p in self.places if p.key == key and p.what == "symbol"), None)


class Drafting:
    """Lays one network out."""

    def __init__(self, network: Network, has_shunt: bool, folded: frozenset[str]) -> None:
        self.network = network
        self.has_shunt = has_shunt
        self.folded = folded
        self.sheet = Layout()
        columns = sum(self.columns(root) for source in network.roots for root in network.children[source])
        self.column = max(COLUMN, min(WIDEST_COLUMN, FILLED // max(columns, 1)))
        self.bottom = self.right = 0.0
        self.negatives: list[tuple[str, float, float, bool]] = []

    def columns(self, key: str) -> int:
        """How many columns a part and all below it take."""
        return max(1, sum(self.columns(child) for child in self.drawn(key)))

    def span(self, key: str) -> float:
        """The width that a part and all below it take; a part with a negative of its own leaves a lane for it."""
        lane = LANE if self.network.role(key) == "changes" else 0
        return max(self.column, sum(self.span(child) for child in self.drawn(key))) + lane

    def drawn(self, key: str) -> tuple[str, ...]:
        """The parts that are drawn hanging on a part."""
        return () if key in self.folded else self.network.children[key]

    def box(self, key: str, what: str, x: float, y: float, w: float, h: float) -> None:
        """Put down a symbol."""
        part = self.network.nodes[key].part if key in self.network.nodes else key
        hidden = sum(1 for _ in self.network.below(key)) if key in self.folded and what == "symbol" else 0
        self.sheet.places.append(Place(key, what, part, x, y, w, h, hidden))

    def has_run(self, key: str) -> bool:
        """Whether a cable leads to this part: not into a block, and not to sockets on an inverter's face."""
        if self.network.stands_on[key] == "ac":
            return self.network.nodes[key].run.length_m > 0
        return not self.network.in_block(key)

    def hang(self, key: str, x: float, y: float) -> None:
        """Draw a part and all below it in the columns from x on, its line leaving the feeder at y."""
        facts, width, line_x = kind_of(self.network.nodes[key]).facts, self.span(key), x + LINE_AT
        ac = self.network.stands_on[key] == "ac"
        has_run = self.has_run(key)
        top = y + (RUN_ZONE if has_run else SHORT_ZONE)
        self.conduct(key, "~" if ac else "+", (line_x, y), (line_x, top))
        if has_run:
            self.box(key, "run", line_x + 7, y + 8, self.column - LINE_AT - 16, 30)
        if facts.slim:
            self.box(key, "symbol", line_x - 9, top, 18, SLIM_SYMBOL if facts.role == "ends" else facts.height)
            self.box(key, "text", line_x + 13, top, self.column - LINE_AT - 22, facts.height)
        else:
            self.box(key, "symbol", x + 2, top, width - 8, facts.height)
        low = top + facts.height
        # A converter's own negative leaves at its right; a socket's goes on from its line, unless a converter returns it.
        if facts.role == "changes":
            self.negatives.append((key, x + width - 12, low, self.past_shunt(key)))
        elif facts.role == "ends" and self.network.stands_on[key] == "pack":
            self.negatives.append((key, line_x, top + SLIM_SYMBOL, self.past_shunt(key)))
        children = self.drawn(key)
        if len(children) > 1 and self.network.in_line(key):
            last = x + sum(self.span(c) for c in children[:-1]) + LINE_AT
            self.conduct(key, "+", (line_x, low), (line_x, low + 4), (last, low + 4))
            low += 4
        self.bottom = max(self.bottom, low)
        at = x
        for child in children:
            self.hang(child, at, low)
            at += self.span(child)

    def past_shunt(self, key: str) -> bool:
        """Whether a part's negative goes straight to the post."""
        return getattr(self.network.nodes[key], "negative", "busbar") == "post"

    def conduct(self, key: str, pole: str, *points: tuple[float, float]) -> None:
        """Put down a conductor."""
        self.sheet.conductors.append(Conductor(key, pole, points))

    def draw(self) -> Layout:
        """Lay out every source with its tree: beside one another while the sheet is no wider than it may be, else below."""
        left, top, low = 0.0, 0.0, 0.0
        for source in self.network.roots:
            if left and left + self.wide(source) > MOST_WIDE:
                left, top = 0.0, low + PANEL_GAP - 16
            self.panel(source, left, top)
            left, low = self.right, max(low, self.sheet.height)
            self.sheet.height = low
        return self.sheet

    def wide(self, source: str) -> float:
        """About how wide the panel of a source is, px."""
        chain = self.network.main_path(source)
        bar = chain[-1] if chain and self.network.role(chain[-1]) == "spreads" else None
        roots = self.drawn(bar) if bar else self.network.children[source]
        beside = sum(self.span(child) for _, children in self.sides(source, chain) for child in children)
        width = (sum(self.span(root) for root in roots) or self.column) + beside
        return float(LEFT) + max(0, len(chain) - 3) * IN_LINE_PITCH + width

    def sides(self, source: str, chain: list[str]) -> list[tuple[int, list[str]]]:
        """What hangs on the posts (0) or on a part of the main path (1 for the first) before the bar, besides the way on."""
        if not chain or self.network.role(chain[-1]) != "spreads":
            return []
        steps = [source, *chain]
        hanging = [(n, [c for c in self.network.children[key] if c != chain[n]]) for n, key in enumerate(steps[:-1])]
        return [(n, children) for n, children in hanging if children]

    def panel(self, source: str, x: float, origin: float) -> None:
        """One source with its tree, from `x` to the right and `origin` downwards."""
        network = self.network
        self.negatives = []
        px, py, pw, ph = PACK_BOX
        chain = network.main_path(source)
        sides = self.sides(source, chain)
        px, py, top_y = px + int(x), py + int(origin), float(TOP) + origin + SIDE_PITCH * len(sides)
        py += SIDE_PITCH * len(sides)
        bar = chain[-1] if chain and network.role(chain[-1]) == "spreads" else None
        lead = chain[:-1] if bar else []
        left, end, leaves = self.main_path(lead, float(px + 34), float(py), top_y, x + LEFT, {n for n, _ in sides})
        roots = (network.children[bar] if bar not in self.folded else ()) if bar else network.children[source]
        width = sum(self.span(root) for root in roots) or self.column
        self.positive_bar(bar, source, left, end, width, top_y, len(chain) > 2)
        self.bottom = float(py + ph)
        at = left
        for root in roots:
            self.hang(root, at, top_y + BAR_HEIGHT / 2)
            at += self.span(root)
        at = max(at, left + width)
        for level, (n, children) in reversed(list(enumerate(sides))):
            at = self.side(children, leaves[n], at, origin + 12 + SIDE_PITCH * level, top_y + BAR_HEIGHT / 2)
        whole = max(width, at - left)
        self.sheet.places.append(Place(source, "symbol", PACK, px, py, pw, ph))
        self.negative_side(source, left, whole, px + pw - 34, py + ph)
        self.right = left + max(whole, WORDS_WIDE) + 12
        self.sheet.width = max(self.sheet.width, self.right)

    def side(self, children: list[str], leaves: tuple[float, float], x: float, line_y: float, y: float) -> float:
        """What hangs on the main path before the bar: fed by a line at `line_y` from where it leaves, each drawn from y down.

        Returns where the next column begins.
        """
        way = [leaves, (leaves[0], line_y)]
        for child in children:
            self.conduct(child, "+", *way, (x + LINE_AT, line_y), (x + LINE_AT, y))
            self.hang(child, x, y)
            way = [(x + LINE_AT, line_y)]
            x += self.span(child)
        return x

    def main_path(
        self, lead: list[str], plus_x: float, post_y: float, top_y: float, least_x: float, sides: set[int]
    ) -> tuple[float, tuple[float, float], list[tuple[float, float]]]:
        """The parts in line from the post: the first over it, the rest along the top; the bar begins no further left than `least_x`.

        sides: at which of them something leaves, 0 for the posts. Returns where the bar begins, where the line has come to, and
        where from the posts and from each part a line may leave.
        """
        end, x = (plus_x, post_y), plus_x
        leaves = [(plus_x - 22, post_y), (plus_x, top_y)]
        rest = list(lead)
        if rest:
            first = rest.pop(0)
            height = kind_of(self.network.nodes[first]).facts.height
            self.box(first, "symbol", plus_x - 9, post_y - 36 - height, 18, height)
            self.box(first, "text", plus_x + 13, post_y - 74, COLUMN - 6, 38)
            self.box(first, "run", plus_x + 13, post_y - 34, COLUMN - 6, 30)
            self.conduct(first, "+", (plus_x, post_y), (plus_x, post_y - 36))
            end = (plus_x, post_y - 36 - height)
        for n, key in enumerate(rest, 2):
            self.conduct(key, "+", *corner(end, (x + 36, top_y)))
            self.box(key, "symbol", x + 36, top_y - 14, 34, 24)
            self.box(key, "text", x + 22, top_y - 50, SIDE_WORDS if n in sides else COLUMN, 34)
            self.box(key, "run", x + 8, top_y + 14, COLUMN - 4, 30)
            leaves.append((x + 22 + SIDE_WORDS + 4, top_y))
            end, x = (x + 70, top_y), x + IN_LINE_PITCH
        return max(least_x, end[0] + 48), end, leaves

    def positive_bar(
        self, bar: str | None, source: str, left: float, end: tuple[float, float], width: float, top_y: float, crowded: bool
    ) -> None:
        """The busbar (or block) that the main path leads to, or the posts themselves."""
        bar_y = top_y - BAR_HEIGHT / 2
        self.conduct(bar or source, "+", *corner(end, (left, top_y)))
        hidden = sum(1 for _ in self.network.below(bar)) if bar and bar in self.folded else 0
        kind = self.network.nodes[bar].part if bar else "posts"
        name = bar or ("posts" if source == PACK else f"posts-{source}")
        self.sheet.places.append(Place(name, "symbol", kind, left, bar_y, width, BAR_HEIGHT, hidden))
        if bar:
            self.box(bar, "text", left + (28 if crowded else 4), bar_y - 22, min(max(width - 28, WORDS_WIDE - 40), 260), 18)
            if not crowded and self.has_run(bar):
                self.box(bar, "run", end[0] + 8, top_y + 12, COLUMN - 4, 30)

    def negative_side(self, source: str, left: float, width: float, minus_x: float, pack_low: float) -> None:
        """The negative bar along the bottom, with the shunt between it and the pack."""
        bar_y = self.bottom + 26
        round_y = bar_y + BAR_HEIGHT + 20
        bypassing = any(post for *_, post in self.negatives)
        for key, x, y, post in self.negatives:
            if post:
                way = ((x, y), (x, round_y), (minus_x - 14, round_y), (minus_x - 14, pack_low))
                self.sheet.conductors.append(Conductor(key, "-", way, True))
            else:
                self.conduct(key, "-", (x, y), (x, bar_y))
        name = "negative" if source == PACK else f"negative-{source}"
        self.sheet.places.append(Place(name, "symbol", "negative", left, bar_y, width, BAR_HEIGHT))
        middle = bar_y + BAR_HEIGHT / 2
        self.conduct(source, "-", (minus_x, pack_low), (minus_x, middle), (left, middle))
        if self.has_shunt and source == PACK:
            self.sheet.places.append(Place("shunt", "symbol", "shunt", (minus_x + left) / 2 - 24, middle - 11, 48, 22))
            self.sheet.places.append(Place("shunt", "text", "shunt", (minus_x + left) / 2 - 30, middle - 29, 62, 16))
        self.sheet.height = (round_y if bypassing else bar_y + BAR_HEIGHT) + 24


def corner(start: tuple[float, float], end: tuple[float, float]) -> list[tuple[float, float]]:
    """The way from one point to another, first up or down, then along."""
    return [start, end] if start[1] == end[1] else [start, (start[0], end[1]), end]


def folds(network: Network) -> frozenset[str]:
    """The fuse blocks that are folded unless the builder opens them: the larger ones of a path with many columns."""
    drafting = Drafting(network, False, frozenset())
    if sum(drafting.columns(key) for root in network.roots for key in network.children[root]) <= MOST_COLUMNS:
        return frozenset()
    blocks = (k for k, node in network.nodes.items() if isinstance(node, FuseBlock))
    return frozenset(k for k in blocks if len(network.children[k]) > FOLD_FROM)


def lay_out(network: Network, has_shunt: bool, folded: frozenset[str] | None = None) -> Layout:
    """The diagram of a network; the same network gives the same diagram.

    folded: parts drawn without what hangs on them; the larger fuse blocks of a large network if None.
    """
    return Drafting(network, has_shunt, folds(network) if folded is None else folded).draw()
