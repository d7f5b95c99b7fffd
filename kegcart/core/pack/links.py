"""Links between cells: strip or bar, its layers, what it carries and what it drops."""

from dataclasses import dataclass
from functools import lru_cache
from math import ceil

from kegcart.core.choice import sized
from kegcart.core.figure import Figure, Sheet
from kegcart.core.pack.document import Cell, CellPack, Link
from kegcart.core.reference import CellType, LinkMaterial, assumption, cell_types, link_materials
from kegcart.core.units import as_builder_has_it, significant

MOST_LAYERS = 3


@dataclass(frozen=True, slots=True)
class LinkSizing:
    """One link of one cell. Section in mm, rating in A, resistance in Ω with its joints."""

    material: LinkMaterial
    width_mm: float
    thickness_mm: float
    layers: int
    choice: Figure
    rating: Figure
    resistance: Figure


def section_text(material: LinkMaterial, width_mm: float, thickness_mm: float, layers: int) -> str:
    """What a link is made of, as its figure says it: `copper strip 20×2 mm, 2 layers`."""
    sides = [as_builder_has_it(side, "mm") for side in (width_mm, thickness_mm)]
    of = f", {layers} layers" if layers > 1 else ""
    return f"{material.label} {'×'.join(significant(side) for side, _ in sides)} {sides[0][1]}{of}"


def dimensions(cell: Cell) -> tuple[float, float, float]:
    """Width, thickness and height of a cell in mm: its own, or of the nearest cell sold of its shape and capacity."""
    near = nearest_cell(cell.shape, cell.capacity_ah)
    width = cell.width_mm or near.width_mm
    thickness = width if cell.shape == "cylindrical" else cell.thickness_mm or near.thickness_mm
    return width, thickness, cell.height_mm or near.height_mm


@lru_cache(maxsize=256)
def nearest_cell(shape: str, capacity_ah: float) -> CellType:
    """The cell sold of a shape that is nearest in capacity. Source: cells table."""
    return min((c for c in cell_types().values() if c.shape == shape), key=lambda c: abs(c.capacity_ah - capacity_ah))


def pick_link(material: LinkMaterial, needed_a: float) -> tuple[float, float, int]:
    """The least copper or nickel that carries so many A: width, thickness (mm) and layers; else the most there is.

    Source: current density by material (links table).
    """
    most = 1 if material.key == "copper" else MOST_LAYERS
    offered = sorted(
        ((w, t, layers) for w, t in material.sections for layers in range(1, most + 1)), key=lambda s: (s[0] * s[1] * s[2], s[2])
    )
    return next((s for s in offered if s[0] * s[1] * s[2] * material.limit_a_mm2 >= needed_a), offered[-1])


def size_link(cell: Cell, link: Link, needed: Figure, sheet: Sheet) -> LinkSizing:
    """The link from one cell to the next group. `needed` is the current in A it must carry.

    Source: current density by material and Ohm's law (links table); two joints in series.
    """
    materials = link_materials()
    usual = "nickel" if cell.shape == "cylindrical" else "copper"
    material = materials[link.material or usual]
    if link.material is None and usual == "nickel":
        width, thickness, layers = pick_link(material, needed.number)
        if width * thickness * layers * material.limit_a_mm2 < needed.number:
            material = materials["copper"]
    width, thickness, layers = pick_link(material, needed.number)
    pinned = any(v is not None for v in (link.material, link.width_mm, link.thickness_mm, link.layers))
    if pinned:
        width, thickness = link.width_mm or width, link.thickness_mm or thickness
        layers = link.layers or max(1, min(9, ceil(needed.number / (width * thickness * material.limit_a_mm2) - 1e-9)))
    said = section_text(material, width, thickness, layers)
    choice = sheet.put(
        "pack/link",
        sized(
            "link",
            said if pinned else None,
            said,
            "",
            "link of one cell",
            "/pack/link",
            "least section of the usual material that carries the share of one cell",
            {"I_need": needed, "j": material.figure("j", material.limit_a_mm2, "A/mm²", f"current density, {material.label}")},
        ),
    )
    area = Figure.by(
        "A",
        "w · t · n_l",
        "mm²",
        "section of the link",
        w=Figure.of("w", width, "mm", "width", inputs={"link": choice}),
        t=Figure.of("t", thickness, "mm", "thickness", inputs={"link": choice}),
        n_l=Figure.of("n_l", layers, "", "layers", inputs={"link": choice}),
    )
    density = material.figure("j", material.limit_a_mm2, "A/mm²", f"current density, {material.label}")
    rating = sheet.put("pack/link_rating", Figure.by("I_link", "j · A", "A", "link of one cell carries", j=density, A=area))
    if link.resistance_mohm is not None:
        resistance = Figure.decided("R_l", link.resistance_mohm / 1000, "Ω", "one link, measured", "/pack/link/resistance_mohm")
    else:
        pitch_mm = dimensions(cell)[1] if cell.shape != "pouch" else 40.0
        pitch = Figure.of("l", pitch_mm / 1000, "m", "length, one cell to the next", how="thickness or diameter of a cell")
        rho = material.figure("ρ", material.rho, "Ω·mm²/m", f"resistivity, {material.label}")
        joint = assumption("joint_link")
        resistance = Figure.by("R_l", "ρ · l / A + R_jl", "Ω", "one link with its joints", ρ=rho, l=pitch, A=area, R_jl=joint)
    return LinkSizing(material, width, thickness, layers, choice, rating, sheet.put("pack/link_resistance", resistance))


@dataclass(frozen=True, slots=True)
class CollectorSizing:
    """The bar that gathers an end group to its take-off: section in words, what it carries (A), the share of the current that
    passes its fullest place.
    """

    choice: Figure
    rating: Figure
    share: Figure


def size_collector(pack: CellPack, parallel: Figure, serve: Figure, sheet: Sheet) -> CollectorSizing | None:
    """The collector of an end group, for all that the pack gives; None where a group is one cell, and its terminal the take-off.

    serve: what cells and board give, A. Source: currents add at a node (Kirchhoff); current density by material (links table).
    """
    if parallel.number < 2:
        return None
    share = Figure.of(
        "x",
        0.5 if pack.gathers == "middle" else 1.0,
        "share",
        "of the current at the fullest place of the collector",
        how="in the middle half of the group comes from either side; at one end all of it",
        inputs={"P": parallel},
    )
    own, material = pack.collector, link_materials()[pack.collector.material or "copper"]
    needed = Figure.by("I_need", "I · x", "A", "what the collector should carry", I=serve, x=share)
    width, thickness, layers = pick_link(material, needed.number)
    width, thickness = own.width_mm or width, own.thickness_mm or thickness
    pinned = any(v is not None for v in (own.material, own.width_mm, own.thickness_mm, own.layers))
    if pinned:
        layers = own.layers or max(1, min(9, ceil(needed.number / (width * thickness * material.limit_a_mm2) - 1e-9)))
    said = section_text(material, width, thickness, layers)
    density = material.figure("j", material.limit_a_mm2, "A/mm²", f"current density, {material.label}")
    how = "least section of copper that carries what passes its fullest place"
    inputs = {"I_need": needed, "j": density}
    label, at = "collector of an end group", "/pack/collector"
    choice = sheet.put("pack/collector", sized("collector", said if pinned else None, said, "", label, at, how, inputs))
    area = Figure.of(
        "A",
        width * thickness * layers,
        "mm²",
        "section of the collector",
        how="width · thickness · layers",
        inputs={"collector": choice},
    )
    rating = Figure.by("I_col", "j · A", "A", "collector carries", j=density, A=area)
    return CollectorSizing(choice, sheet.put("pack/collector_rating", rating), share)
