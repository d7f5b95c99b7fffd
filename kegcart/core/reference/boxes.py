"""Boxes as sold, the bodies of parts, what boxes and fixtures are made of, and how things are held down: typical, by class."""

import re
from dataclasses import dataclass
from functools import cache
from typing import Any, Literal, cast

from kegcart.core.reference import Row, optional, read_table, row_basis

Sealing = Literal["none", "splash", "tight"]
HOLE = re.compile(r"(?:o([\d.]+)|r([\d.]+)x([\d.]+))(?:@(-?[\d.]+),(-?[\d.]+))?")
"""How a table writes a hole: `o29` round, `r45x26` rectangular, `@19,19` from the middle of its part, mm."""


@dataclass(frozen=True, slots=True, eq=False)
class BoxMaterial(Row):
    """What a box is made of: thermal conductivity in W/mK, density in kg/m³, specific heat in J/kgK."""

    conductivity: float
    density: float
    heat: float


@cache
def box_materials() -> dict[str, BoxMaterial]:
    """Materials of boxes: W/mK, kg/m³ and J/kgK."""
    return {
        r["key"]: BoxMaterial(r["key"], r["label"], row_basis(r), float(r["conductivity"]), float(r["density"]), float(r["heat"]))
        for r in read_table("box_materials")
    }


@dataclass(frozen=True, slots=True, eq=False)
class FixtureMaterial(Row):
    """What a shelf or a block is made of: density in kg/m³, specific heat in J/kgK; `soft` where it may press on what it touches."""

    density: float
    heat: float
    soft: bool


@cache
def fixture_materials() -> dict[str, FixtureMaterial]:
    """Materials of shelves, dividers, brackets and foam: kg/m³."""
    return {
        r["key"]: FixtureMaterial(r["key"], r["label"], row_basis(r), float(r["density"]), float(r["heat"]), r["soft"] == "1")
        for r in read_table("fixture_materials")
    }


@dataclass(frozen=True, slots=True, eq=False)
class HoldKind(Row):
    """A way of holding a part: the force in N that each stands, whether it holds sideways and up, whether it lasts in the heat."""

    force_n: float
    sides: bool
    up: bool
    lasting: bool


@cache
def holds() -> dict[str, HoldKind]:
    """Ways of holding a part down: N, by key."""
    return {
        r["key"]: HoldKind(
            r["key"],
            r["label"],
            row_basis(r),
            float(r["force_n"]),
            "sides" in r["holds"],
            "up" in r["holds"],
            r["lasting"] == "1",
        )
        for r in read_table("holds")
    }


@dataclass(frozen=True, slots=True)
class Hole:
    """A hole about its middle (mm from the middle of its part): round of a diameter where both sides are alike and `round`."""

    x: float
    y: float
    width: float
    height: float
    round: bool


@cache
def holes(text: str) -> tuple[Hole, ...]:
    """The holes that a table row writes, see `HOLE`. Errors: ValueError where one cannot be read."""
    out = []
    for part in text.split():
        match = HOLE.fullmatch(part)
        if match is None:
            raise ValueError(f"'{part}' is no hole")
        diameter, width, height, x, y = match.groups()
        sides = (diameter, diameter) if diameter else (width, height)
        out.append(Hole(float(x or 0), float(y or 0), float(sides[0]), float(sides[1]), bool(diameter)))
    return tuple(out)


@dataclass(frozen=True, slots=True, eq=False)
class BodyType(Row):
    """The body of a kind of part up to a rating, in mm and kg.

    width, depth, height: from left to right, front to back, bottom to top; of what sits in a face, its flange, and how far it stands
    into the box. faced: it sits in a face of the box. holes, screws: what is cut for it there. plug_mm: what is plugged on behind
    it. posts: the faces on which its terminals are; along: its cables leave straight away from these, else they lie across; post_mm:
    how far studs, lugs and nuts stand out. breathes: the faces that must have air. ups: the faces that may be up; empty: any.
    wall: the thinnest and thickest wall that it is made for. sealing: of a fitting in a face. air_c: the hottest air in which it works, °C.
    """

    width_mm: float
    depth_mm: float
    height_mm: float
    mass_kg: float
    faced: bool
    holes: tuple[Hole, ...]
    screws: tuple[Hole, ...]
    plug_mm: float
    posts: tuple[str, ...]
    along: bool
    post_mm: float
    breathes: tuple[str, ...]
    ups: tuple[str, ...]
    wall_min_mm: float | None
    wall_max_mm: float | None
    sealing: Sealing
    air_c: float


@cache
def bodies() -> dict[tuple[str, str], list[tuple[float, BodyType]]]:
    """Bodies by kind and form, each list by the rating up to which it serves."""
    out: dict[tuple[str, str], list[tuple[float, BodyType]]] = {}
    for r in read_table("bodies"):
        row = BodyType(
            key=f"{r['kind']}:{r['of']}:{r['upto']}",
            label=r["label"],
            basis=row_basis(r),
            width_mm=float(r["width_mm"]),
            depth_mm=float(r["depth_mm"]),
            height_mm=float(r["height_mm"]),
            mass_kg=float(r["mass_kg"]),
            faced=r["faced"] == "1",
            holes=holes(r["holes"]),
            screws=holes(r["screws"]),
            plug_mm=optional(r["plug_mm"]) or 0.0,
            posts=tuple(r["posts"].split()),
            along=r["leaves"] == "along",
            post_mm=float(r["post_mm"]),
            breathes=tuple(r["breathes"].split()),
            ups=tuple(r["ups"].split()),
            wall_min_mm=optional(r["wall_min_mm"]),
            wall_max_mm=optional(r["wall_max_mm"]),
            sealing=cast(Sealing, r["sealing"] or "none"),
            air_c=float(r["air_c"]),
        )
        out.setdefault((r["kind"], r["of"]), []).append((optional(r["upto"]) or float("inf"), row))
    return out


@cache
def body_type(kind: str, of: str = "", rating: float = 0.0) -> BodyType:
    """The body of a kind of part, of a form where it comes in several, for a rating; the largest there is above that.

    Errors: KeyError of no such kind.
    """
    rows = bodies().get((kind, of)) or bodies()[kind, ""]
    return next((row for upto, row in rows if rating <= upto), rows[-1][1])


@dataclass(frozen=True, slots=True, eq=False)
class CaseType(Row):
    """A box as sold, as the design's `case` writes it."""

    price: float
    document: dict[str, Any]


@cache
def case_types() -> dict[str, CaseType]:
    """Generic boxes by key, with what they have on their faces; mm and kg, inside."""
    features: dict[str, dict[str, Any]] = {}
    for r in read_table("case_features"):
        sizes = {n: float(r[n]) for n in ("x_mm", "y_mm", "width_mm", "height_mm", "inside_mm")}
        features.setdefault(r["case"], {})[r["id"]] = {"kind": r["kind"], "face": r["face"], **sizes}
    names = ("length_mm", "width_mm", "height_mm", "taper_mm", "wall_mm", "lid_mm", "mass_kg", "rated_kg")
    return {
        r["key"]: CaseType(
            r["key"],
            r["label"],
            row_basis(r),
            float(r["price"]),
            {
                "name": r["label"][0].upper() + r["label"][1:],
                "measured": "inside",
                "opens": "above",
                **{n: float(r[n]) for n in names},
                **{n: r[n] for n in ("material", "colour", "sealing")},
                "in_sun": None,
                "features": features.get(r["key"], {}),
            },
        )
        for r in read_table("cases")
    }
