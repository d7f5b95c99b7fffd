"""All that may stand in the box: each part of pack, power path and charging as a body, by its kind and rating or as measured."""

from dataclasses import dataclass, field
from functools import cache
from math import sqrt

from kegcart.core.box.document import Enclosure
from kegcart.core.charging.kinds import source_kind
from kegcart.core.charging.sizing import ChargingSizing
from kegcart.core.electrical.cables import RunSizing
from kegcart.core.electrical.run import Run
from kegcart.core.figure import Figure
from kegcart.core.pack.body import pack_body, sizes_in_rows
from kegcart.core.pack.document import CellPack
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.document import SecondBank
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import FuseBlock, Outlet, Protection, Switch, kind_of
from kegcart.core.power.path.parts import PartSizing, PowerSizing
from kegcart.core.reference import BatteryType, Row, battery_types, constant
from kegcart.core.reference.boxes import BodyType, body_type

Size = tuple[float, float, float]


@dataclass(slots=True)  # not frozen: two dozen are made for each answer
class Thing:
    """Something that stands in the box, or sits in a face of it.

    key: as places name it. pointer: of its part in the design. size: width, depth and height in mm, of all that stand side by side.
    cable_mm: the thickest cable at its terminals over its insulation; bend_mm: how far that must go to bend. post_mm: how
    far studs and lugs stand out. of_design: it must have a place; a charger may stay outside. reached: it must be got at with the lid
    open, `outside` from outside.
    """

    key: str
    name: str
    pointer: str
    type: BodyType | None
    size: Size
    ways: int = 1
    cable_mm: float = 0.0
    bend_mm: float = 0.0
    post_mm: float = 0.0
    posts: tuple[str, ...] = ()
    along: bool = False
    of_design: bool = True
    reached: str = ""
    how: str = ""
    in_rows: tuple[tuple[int, Size], ...] = ()
    """of a pack of cells: its size by the rows in which it may be built"""

    @property
    def place(self) -> str:
        """Where its place stands in the design."""
        return f"/box/places/{self.key}"

    @property
    def bulk(self) -> float:
        """Its volume, mm³."""
        return self.size[0] * self.size[1] * self.size[2]

    @property
    def faced(self) -> bool:
        """Whether it sits in a face of the box."""
        return self.type is not None and self.type.faced

    @property
    def post_room(self) -> float:
        """The room that cables take before its terminals, mm.

        Source: bend radius over outside diameter (assumptions table); where cables lie across it, the lug or the cable, whichever stands out
        farther.
        """
        return self.post_mm + self.bend_mm if self.along else max(self.post_mm, self.cable_mm)


@cache
def cable_outside(area_mm2: float) -> float:
    """Outside diameter of a cable in mm, for its section.

    Source: fine-stranded cables as sold, 70 mm² about 15 mm (assumptions table).
    """
    return constant("cable_outside_root") * sqrt(area_mm2) + constant("cable_outside_least")


def bend_radius(outside_mm: float, material: str) -> float:
    """Least radius in mm in which a cable is laid. Source: 6 outside diameters, fine-stranded silicone 4 (assumptions table)."""
    return outside_mm * constant("cable_bend_silicone" if material == "silicone" else "cable_bend")


def cables_at(runs: list[tuple[RunSizing | None, Run]]) -> tuple[float, float]:
    """The thickest of some cables over its insulation, and the farthest that one must go to bend, mm."""
    thickest = farthest = 0.0
    for sizing, run in runs:
        if sizing is not None:
            mm = cable_outside(sizing.area.number)
            thickest, farthest = max(thickest, mm), max(farthest, bend_radius(mm, run.material))
    return thickest, farthest


@dataclass(slots=True)
class Contents:
    """All that may stand in the box, the pack first, and what each weighs in kg, by its key."""

    box: Enclosure
    things: list[Thing] = field(default_factory=list)
    masses: dict[str, Figure] = field(default_factory=dict)

    def add(self, thing: Thing, row: Row, kg: float) -> None:
        """Enter a thing with its mass: as weighed, or that of the row of its kind."""
        self.put(thing, own_mass(self.box, thing) or row.figure("m", kg, "kg", thing.name))

    def put(self, thing: Thing, mass: Figure) -> None:
        """Enter a thing with its mass."""
        self.things.append(thing)
        self.masses[thing.key] = mass


def contents(box: Enclosure, pack: PackSizing, power: PowerSizing, charging: ChargingSizing) -> Contents:
    """All that may stand in the box."""
    out = Contents(box)
    whole = the_pack(box, pack, power)
    out.put(whole, own_mass(box, whole) or pack.build.mass)
    if isinstance(pack.pack, CellPack) and pack.build.board is not None:
        row = body_type("board", rating=pack.build.board.continuous.number)
        out.add(thing("board", "Protection board", "/pack/board", row, box), row, row.mass_kg)
    if power.shunt is not None:
        row, cables = body_type("shunt", rating=power.shunt.number), cables_at([(power.ctx.negative, first_run(power))])
        out.add(thing("shunt", "Shunt", "/power/shunt", row, box, cables), row, row.mass_kg)
    for part in power.parts.values():
        of_part(part, power, out)
    for key, bank in power.ctx.path.banks.items():
        battery = nearest_battery(bank)
        out.add(of_bank(key, bank, battery, box), battery, battery.mass_kg)
    for sizing in charging.sources.values():
        kind = source_kind(sizing.source)
        if (body := kind.body(sizing.source, sizing)) is not None:
            series, beside = kind.units(sizing.source)
            units = series * beside
            charger = thing(f"source:{sizing.key}", sizing.name, sizing.pointer, body, box, ways=units, of_design=False)
            out.add(charger, body, body.mass_kg * units)
    return out


def first_run(power: PowerSizing) -> Run:
    """The run that the main negative is like: its own, or that of the first part."""
    return power.ctx.path.negative or next((p.node.run for p in power.parts.values() if p.node.feed == PACK), Run())


def of_part(part: PartSizing, power: PowerSizing, out: Contents) -> None:
    """Enter a part of the power path; not one that sits in another."""
    node = part.node
    row = kind_of(node).body(node, part, power.ctx)
    if row is None:
        return
    parts = power.parts
    cables = cables_at([(p.run, p.node.run) for k in (part.key, *power.network.feeds[part.key]) if (p := parts.get(k))])
    reached, ways = "", 1
    match node:
        case Outlet():
            ways = node.ways
        case Switch() | Protection() if node.reach == "outside":
            reached = "outside"
        case Switch() | Protection() | FuseBlock():
            reached = "inside"
    body = thing(f"part:{part.key}", node.name, part.pointer, row, out.box, cables, ways, reached=reached)
    out.add(body, row, row.mass_kg * ways)


def thing(
    key: str,
    name: str,
    pointer: str,
    row: BodyType,
    box: Enclosure,
    cables: tuple[float, float] = (0.0, 0.0),
    ways: int = 1,
    of_design: bool = True,
    reached: str = "",
) -> Thing:
    """A part by the row of its kind, its own measures before those; like units stand side by side."""
    size = measured(box, key, (row.width_mm * ways, row.depth_mm, row.height_mm))
    return Thing(key, name, pointer, row, size, ways, *cables, row.post_mm, row.posts, row.along, of_design, reached, row.label)


def measured(box: Enclosure, key: str, typical: Size) -> Size:
    """Width, depth and height of a part, mm: as measured, else typical."""
    own = box.bodies.get(key)
    if own is None:
        return typical
    return own.width_mm or typical[0], own.depth_mm or typical[1], own.height_mm or typical[2]


def own_mass(box: Enclosure, thing: Thing) -> Figure | None:
    """The mass of a part as weighed, kg; None where it was not."""
    own = box.bodies.get(thing.key)
    if own is None or own.mass_kg is None:
        return None
    return Figure.decided("m", own.mass_kg, "kg", thing.name, f"/box/bodies/{thing.key}/mass_kg")


def the_pack(box: Enclosure, pack: PackSizing, power: PowerSizing) -> Thing:
    """The pack as a body."""
    body = pack_body(pack.pack, pack.build)
    cables = cables_at([(p.run, p.node.run) for p in power.parts.values() if p.node.feed == PACK])
    rows = sizes_in_rows(pack.pack, pack.build) if isinstance(pack.pack, CellPack) and "pack" not in box.bodies else ()
    size, posts = measured(box, "pack", body.size), ("top",)
    return Thing(
        "pack", "Pack", "/pack", None, size, 1, *cables, body.posts_mm, posts, reached="inside", how=body.how, in_rows=rows
    )


def of_bank(key: str, bank: SecondBank, near: BatteryType, box: Enclosure) -> Thing:
    """A further bank as the body of a battery that is sold."""
    place = f"bank:{key}"
    size = measured(box, place, (near.width_mm, near.depth_mm, near.height_mm))
    posts = constant("battery_posts")
    at = f"/power/banks/{key}"
    return Thing(place, bank.name, at, None, size, post_mm=posts, posts=("top",), reached="inside", how=near.label)


def nearest_battery(bank: SecondBank) -> BatteryType:
    """The battery sold that is most like a further bank: of its chemistry where there is one, nearest in energy."""
    sold = [b for b in battery_types().values() if b.form == "battery"]
    alike = [b for b in sold if b.chemistry == bank.chemistry] or sold
    return min(alike, key=lambda b: abs(b.capacity_ah * b.series - bank.capacity_ah * bank.series))
