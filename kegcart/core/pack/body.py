"""The pack as a body: how its cells or batteries stand, the room they take, the surface that the air inside cools."""

from dataclasses import dataclass
from functools import lru_cache
from math import ceil

from kegcart.core.figure import Figure, Sheet
from kegcart.core.pack.build import Build
from kegcart.core.pack.document import Bank, CellPack, Pack
from kegcart.core.pack.links import dimensions
from kegcart.core.reference import assumption, constant

GAP = 1.5
"""Between cells in a holder, mm."""
ROW_GAP = 16.0
"""Between rows of groups, mm."""
WIDEST = 900.0
"""A row is broken where it would grow wider, mm."""
MOST_ROWS = 6
TALLEST = 12
"""Cells above one another in a holder of cylindrical cells."""


@dataclass(frozen=True, slots=True)
class Rows:
    """How the groups of a pack of cells stand, seen from above: cells of a group in columns and rows, groups in lines. Lengths in mm."""

    columns: int
    rows: int
    per_line: int
    lines: int
    group_w: float
    group_h: float

    @classmethod
    def of(cls, pack: CellPack, series: int, parallel: int) -> "Rows":
        """The rows of a pack: as many lines as decided; else a line is broken where it would grow wider than `WIDEST`."""
        return rows_of(pack.cell.shape, dimensions(pack.cell), series, parallel, pack.rows)


@lru_cache(maxsize=256)  # asked for six times an answer, and most answers are of the same pack
def rows_of(shape: str, size: tuple[float, float, float], series: int, parallel: int, lines: int | None) -> Rows:
    """The rows of cells of a shape and size (width, thickness and height in mm): see `Rows.of`."""
    width, thickness, _ = size
    columns = ceil(parallel / TALLEST) if shape == "cylindrical" else parallel
    rows = ceil(parallel / columns)
    group_w = columns * ((width if shape == "cylindrical" else thickness) + GAP)
    per_line = ceil(series / lines) if lines else max(1, min(series, int(WIDEST // group_w)))
    return Rows(columns, rows, per_line, ceil(series / per_line), group_w, rows * (width + GAP))


@dataclass(frozen=True, slots=True)
class PackBody:
    """The room that a pack takes, in mm: width, depth and height without posts, and how far terminals with their lugs stand over it."""

    width_mm: float
    depth_mm: float
    height_mm: float
    posts_mm: float
    how: str

    @property
    def size(self) -> tuple[float, float, float]:
        """Width, depth and height, mm."""
        return self.width_mm, self.depth_mm, self.height_mm


def pack_body(pack: Pack, build: Build) -> PackBody:
    """The room that a pack takes: its cells as they are drawn, with plates or holder; its batteries in rows by string.

    Source: geometry; plates, holders and terminals as is typical (assumptions table); a battery of unknown size by its mass and a
    typical density.
    """
    if isinstance(pack, CellPack):
        counts = int(build.series.number), int(build.parallel.number)
        return body_of_cells(pack.cell.shape, dimensions(pack.cell), *counts, pack.rows)
    unit, count = pack.battery, int(build.parallel.number)
    in_series = pack.in_series if isinstance(pack, Bank) else 1
    w, d, h = unit.width_mm, unit.depth_mm, unit.height_mm
    how = "its batteries in rows, a row for each string"
    if not (w and d and h):
        side = 100 * (build.mass.number / (count * in_series) / constant("pack_density")) ** (1 / 3)
        w, d, h = w or side, d or side, h or side
        how = "as cubes of their mass and a typical density, as their size is not said"
    return PackBody(w * in_series + GAP * (in_series - 1), d * count + GAP * (count - 1), h, constant("battery_posts"), how)


@lru_cache(maxsize=256)
def body_of_cells(shape: str, size: tuple[float, float, float], series: int, parallel: int, lines: int | None) -> PackBody:
    """The room that cells take in their rows, with plates or holder: see `Rows.of`."""
    rows = rows_of(shape, size, series, parallel, lines)
    width = rows.per_line * rows.group_w - GAP
    depth = rows.lines * rows.group_h + (rows.lines - 1) * ROW_GAP - GAP
    if shape == "cylindrical":
        frame, tabs = constant("pack_frame"), constant("tab_posts")
        how = "cells upright in their holder, strips above and below"
        return PackBody(width + 2 * frame, depth + 2 * frame, size[2] + 2 * tabs, 0.0, how)
    plates, growth = 2 * constant("pack_plates"), 1 + constant("cell_growth")
    how = "cells face to face between end plates, grown as at the end of their life"
    return PackBody(width * growth + plates, depth, size[2], constant("cell_posts"), how)


def sizes_in_rows(pack: CellPack, build: Build) -> tuple[tuple[int, tuple[float, float, float]], ...]:
    """The size of a pack of cells in mm, by the rows in which it may be built."""
    shape, size = pack.cell.shape, dimensions(pack.cell)
    series, parallel = int(build.series.number), int(build.parallel.number)
    return tuple((n, body_of_cells(shape, size, series, parallel, n).size) for n in range(1, min(MOST_ROWS, series) + 1))


def surface(pack: Pack, build: Build, sheet: Sheet) -> Figure:
    """The surface of the pack that the air inside cools, m²: sides and top, as it stands upright on the rest.

    Source: geometry; see `pack_body`.
    """
    body = pack_body(pack, build)
    width, depth, height = (mm / 1000 for mm in body.size)
    return sheet.put("pack/surface", block(width, depth, height, "surface to the air inside", f"{body.how}: sides and top"))


def cooling(pack: Pack, area: Figure) -> Figure:
    """What the pack passes on to the air inside over a surface in m², W/K.

    Source: still air at its surface, 6 W/m²K; cells pressed between end plates hold back 1.3 times as much (assumptions table).
    """
    inputs, formula = {"h_i": assumption("still_air"), "A": area}, "h_i · A"
    if isinstance(pack, CellPack) and pack.cell.shape != "cylindrical":
        inputs["k_p"], formula = assumption("pressed_pack"), f"{formula} / k_p"
    return Figure.by("G_pack", formula, "W/K", "pack to the air inside", inputs)


def block(length_m: float, depth_m: float, height_m: float, label: str, how: str) -> Figure:
    """Sides and top of a block, m²."""
    sizes = {"L": length_m, "W": depth_m, "H": height_m}
    inputs = {symbol: Figure.of(symbol, value, "m", "of the block") for symbol, value in sizes.items()}
    return Figure.by("A", "2 · (L + W) · H + L · W", "m²", label, inputs, how=how)
