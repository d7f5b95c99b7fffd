"""The pack as a body: how its cells or batteries stand, the room they take, the surface that the air inside cools."""

from dataclasses import dataclass
from functools import lru_cache
from math import ceil, sqrt

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
    """The surface of the pack that the air inside cools, m²: sides and top, as it stands on the rest.

    Prismatic and pouch cells stand face to face in one row, cylindrical ones upright side by side, batteries in a row.
    Source: geometry; a battery of unknown size by its mass and a typical density (assumptions table).
    """
    label, count = "surface to the air inside", int(build.series.number * build.parallel.number)
    if isinstance(pack, CellPack):
        width, thickness, height = (mm / 1000 for mm in dimensions(pack.cell))
        if pack.cell.shape == "cylindrical":
            side, how = width * sqrt(count), "cells upright side by side, sides and top"
            return sheet.put("pack/surface", block(side, side, height, label, how))
        return sheet.put(
            "pack/surface", block(count * thickness, width, height, label, "cells face to face in one row, sides and top")
        )
    unit = pack.battery
    if unit.width_mm and unit.depth_mm and unit.height_mm:
        in_a_row = count / max(1, unit.series)
        w, d, h = unit.width_mm / 1000, unit.depth_mm / 1000, unit.height_mm / 1000
        return sheet.put("pack/surface", block(in_a_row * w, d, h, label, "its batteries in a row, sides and top"))
    density = assumption("pack_density")
    figure = Figure.by(
        "A",
        "5 · (m / (1000 · ρ))^(2 / 3)",
        "m²",
        label,
        how="as a cube of its mass and a typical density, sides and top",
        m=build.mass,
        ρ=density,
    )
    return sheet.put("pack/surface", figure)


def block(length_m: float, depth_m: float, height_m: float, label: str, how: str) -> Figure:
    """Sides and top of a block, m²."""
    sizes = {"L": length_m, "W": depth_m, "H": height_m}
    inputs = {symbol: Figure.of(symbol, value, "m", "of the block") for symbol, value in sizes.items()}
    return Figure.by("A", "2 · (L + W) · H + L · W", "m²", label, inputs, how=how)
