"""The pack as a body that warms and cools: its surface to the air inside."""

from math import sqrt

from kegcart.core.figure import Figure, Sheet
from kegcart.core.pack.build import Build
from kegcart.core.pack.document import CellPack, Pack
from kegcart.core.pack.links import dimensions
from kegcart.core.reference import assumption


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
