"""What drawings are made of: lines, boxes, circles and texts with a role each, from which screen, SVG and PDF are all made.

A role says what a thing stands for, not how it looks: on paper its colours stand in `PAPER`, on the screen in the theme.
Lengths are in units of the drawing (`unit` of the drawing says which), y runs downwards.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from math import cos, pi, sin
from typing import Any, Literal

Point = tuple[float, float]
Role = Literal[
    "ink", "faint", "rule", "box", "ground", "mains-box", "wash", "cells", "copper", "stud",
    "positive", "negative", "mains", "bypass", "inward",
    "loading-back", "loading-low", "loading-high", "loading-over",
    "wall", "floor", "thirds", "limit", "zone", "zone-line", "latch", "room", "air", "behind", "board", "face", "hole", "cut", "mass", "mass-half",
    "cell", "cell-plus", "cell-minus", "cell-reject", "link", "link-under", "rail", "sense", "holder",
]  # fmt: skip
Anchor = Literal["start", "middle", "end"]

#: Fill and stroke of each role on paper; "none" where it has none.
PAPER: dict[Role, tuple[str, str]] = {
    "ink": ("none", "#1f2a2e"),
    "faint": ("none", "#5c6661"),
    "rule": ("none", "#d9d2c3"),
    "box": ("#fffdf8", "#1f2a2e"),
    "ground": ("#fffdf8", "none"),
    "mains-box": ("#fffdf8", "#3f5d7d"),
    "wash": ("#f8ebdf", "#1f2a2e"),
    "cells": ("#e4ebe4", "#1f2a2e"),
    "copper": ("#b06a32", "#7c481f"),
    "stud": ("#fffdf8", "#1f2a2e"),
    "positive": ("none", "#a8332a"),
    "negative": ("none", "#1f2a2e"),
    "mains": ("none", "#3f5d7d"),
    "bypass": ("none", "#b7791f"),
    "inward": ("none", "#2f6b4f"),
    "loading-back": ("#ebe5d8", "none"),
    "loading-low": ("#2f6b4f", "none"),
    "loading-high": ("#b7791f", "none"),
    "loading-over": ("#a8332a", "none"),
    "cell": ("#e3eae2", "#1f2a2e"),
    "cell-plus": ("#f3ddd6", "#1f2a2e"),
    "cell-minus": ("#dfe3e2", "#1f2a2e"),
    "cell-reject": ("#f7e0db", "#a8332a"),
    "link": ("#cf9f77", "#7c481f"),
    "link-under": ("#f6ebe1", "#7c481f"),
    "rail": ("none", "#b06a32"),
    "sense": ("none", "#3f5d7d"),
    "holder": ("none", "#6b7470"),
    "wall": ("#fffdf8", "#1f2a2e"),
    "floor": ("none", "#d9d2c3"),
    "thirds": ("none", "#8b938e"),
    "limit": ("none", "#a8332a"),
    "zone": ("#f0dfd0", "#b06a32"),
    "zone-line": ("none", "#b06a32"),
    "latch": ("#d9a06c", "#8c5022"),
    "room": ("none", "#8b938e"),
    "air": ("none", "#3f5d7d"),
    "behind": ("none", "#b9b1a1"),
    "board": ("#efe6d6", "#8b7a5c"),
    "face": ("#f3ece0", "none"),
    "hole": ("#fffdf8", "#1f2a2e"),
    "cut": ("none", "#a8332a"),
    "mass": ("#fffdf8", "#1f2a2e"),
    "mass-half": ("#1f2a2e", "none"),
}
DASHED: dict[Role, tuple[float, float]] = {
    "bypass": (7, 4),
    "link-under": (2, 2),
    "sense": (2, 1.4),
    "thirds": (2, 4),
    "room": (3, 3),
    "air": (2, 2),
    "behind": (3, 3),
    "limit": (6, 3),
}
"""Roles drawn in dashes: length of a dash and of a gap."""

LETTER = 0.4
"""Mean width of a letter over its size, of the condensed type."""


@dataclass(frozen=True, slots=True)
class Line:
    """A stroke along points. `of`: the pointer of what it stands for."""

    points: tuple[Point, ...]
    role: Role = "ink"
    width: float = 1.4
    of: str = ""


@dataclass(frozen=True, slots=True)
class Box:
    """A rectangle from its upper left corner. `title`: what it is, said when it is pointed at."""

    x: float
    y: float
    w: float
    h: float
    role: Role = "box"
    width: float = 1.4
    radius: float = 0.0
    of: str = ""
    title: str = ""


@dataclass(frozen=True, slots=True)
class Circle:
    """A circle about its middle."""

    x: float
    y: float
    r: float
    role: Role = "box"
    width: float = 1.4
    of: str = ""
    title: str = ""


@dataclass(frozen=True, slots=True)
class Text:
    """Words on one line, from their base line. `figure`: the path of the figure they say; `whole`: what was cut short."""

    x: float
    y: float
    words: str
    size: float = 12.5
    role: Role = "ink"
    anchor: Anchor = "start"
    bold: bool = False
    figure: str = ""
    whole: str = ""
    of: str = ""


Primitive = Line | Box | Circle | Text
KINDS: dict[type, str] = {Line: "line", Box: "box", Circle: "circle", Text: "text"}


@dataclass(frozen=True, slots=True)
class Area:
    """What can be picked on the screen: a place that stands for a part of the design.

    hits: further places that pick it, as x, y, w, h. mark: where the worst finding's mark goes. behind: how many parts hang on it that are not drawn; `fold` names the part
    whose branch can be folded or opened here.
    """

    pointer: str
    name: str
    x: float
    y: float
    w: float
    h: float
    mark: Point
    hits: tuple[tuple[float, float, float, float], ...] = ()
    fold: str = ""
    behind: int = 0


@dataclass(slots=True)
class Drawing:
    """A whole drawing; `unit` is "px" or "mm"."""

    width: float
    height: float
    unit: Literal["px", "mm"] = "px"
    items: list[Primitive] = field(default_factory=list)
    areas: list[Area] = field(default_factory=list)

    def add(self, *items: Primitive) -> None:
        """Put primitives on the drawing, over what is there."""
        self.items.extend(items)

    def moved(self, dx: float, dy: float) -> Iterator[Primitive]:
        """Its items, moved."""
        return (moved(item, dx, dy) for item in self.items)

    def write(self) -> dict[str, Any]:
        """The drawing as plain JSON data; what is at its default is left out."""
        return {
            "width": round(self.width, 2),
            "height": round(self.height, 2),
            "unit": self.unit,
            "items": [write_item(item) for item in self.items],
            "areas": [{name: getattr(area, name) for name in Area.__slots__} for area in self.areas],
        }


def moved(item: Primitive, dx: float, dy: float) -> Primitive:
    """An item somewhere else."""
    if isinstance(item, Line):
        return replace(item, points=tuple((x + dx, y + dy) for x, y in item.points))
    return replace(item, x=item.x + dx, y=item.y + dy)


def standing_for(items: Iterable[Primitive], of: str) -> list[Primitive]:
    """Items with the pointer of what they stand for, where they do not say it yet."""
    return [item if item.of else _standing_for(item, of) for item in items]


@lru_cache(maxsize=4096)
def _standing_for(item: Primitive, of: str) -> Primitive:
    return replace(item, of=of)


@lru_cache(maxsize=4096)
def write_item(item: Primitive) -> Mapping[str, Any]:
    """One item as plain JSON data, coordinates to a hundredth.

    Kept, and so not to be changed: most of a drawing is the same after every change of the design.
    """
    out: dict[str, Any] = {"kind": KINDS[type(item)]}
    for name in item.__slots__:
        value = getattr(item, name)
        if value == "" or value is False:
            continue
        if name == "points":
            out[name] = [[round(x, 2), round(y, 2)] for x, y in value]
        else:
            out[name] = round(value, 2) if isinstance(value, float) else value
    return out


def fit(words: str, width: float, size: float) -> str:
    """Words cut to a width at a size of condensed type, with an ellipsis."""
    most = max(1, int(width / (size * LETTER)))
    return words if len(words) <= most else words[: most - 1].rstrip() + "…"


def wrap(words: str, width: float, size: float) -> list[str]:
    """Words in at most two lines of a width; a figure stays with its unit."""
    most = max(1, int(width / (size * LETTER)))
    if len(words) <= most:
        return [words]
    joined = words
    for n in range(1, len(words) - 1):
        if words[n] == " " and words[n - 1].isdigit() and words[n + 1].isupper():
            joined = f"{joined[:n]}\N{NO-BREAK SPACE}{joined[n + 1 :]}"
    at = joined.rfind(" ", 0, most + 1)
    if at < 1:
        return [fit(words, width, size)]
    return [joined[:at], fit(joined[at + 1 :], width, size)]


def arc(x: float, y: float, r: float, begin: float, end: float, steps: int = 10) -> tuple[Point, ...]:
    """Points along an arc about (x, y), angles in quarter turns clockwise from the right."""
    angles = [(begin + (end - begin) * n / steps) * pi / 2 for n in range(steps + 1)]
    return tuple((x + r * cos(a), y + r * sin(a)) for a in angles)


CAUTION = "A planning aid: local codes and licensed practice come first."


def title_block(sheet: Drawing, y: float, width: float, title: str, purpose: str, facts: str) -> None:
    """What a sheet is of, what it comes to in a line, and the caution."""
    sheet.add(Box(0, y, width, 54))
    sheet.add(Text(12, y + 22, fit(title, width * 0.5, 18), 18, bold=True))
    sheet.add(Text(12, y + 42, fit(purpose, width * 0.6, 11), 11, "faint"))
    sheet.add(Text(width - 12, y + 22, facts, 12, anchor="end"))
    sheet.add(Text(width - 12, y + 42, CAUTION, 10, "faint", anchor="end"))


ROW = 15.0
"""Height of a row of a table on a sheet."""


def draw_table(
    sheet: Drawing, title: str, columns: Sequence[tuple[str, float]], rows: Sequence[Sequence[str]], y: float, width: float
) -> float:
    """A table from y downwards; returns where it ends. columns: name, and where it begins. Words that are too long for their column are cut."""
    sheet.add(Text(0, y - 8, title, 14, bold=True))
    for name, x in columns:
        sheet.add(Text(x, y + 10, name, 11, "faint"))
    sheet.add(Line(((0, y + 15), (width, y + 15)), "ink", 1))
    ends = [x for _, x in columns[1:]] + [width]
    for n, row in enumerate(rows):
        at = y + 28 + n * ROW
        for (_, x), end, words in zip(columns, ends, row, strict=True):
            sheet.add(Text(x, at, fit(words, end - x - 6, 11), 11, whole=words))
        sheet.add(Line(((0, at + 4), (width, at + 4)), "rule", 0.7))
    return y + 28 + len(rows) * ROW
