"""What the box weighs with all in it, and where its weight acts.

Source: sums of masses and of their moments (statics); cables by their copper with 12 % for insulation and lugs (assumptions table).
"""

from collections.abc import Mapping
from dataclasses import dataclass
from math import atan, degrees

from kegcart.core.box.document import Case, Fixture
from kegcart.core.box.layout import BoxLayout
from kegcart.core.box.space import Hollow
from kegcart.core.figure import Figure, Sheet
from kegcart.core.power.path.parts import PowerSizing
from kegcart.core.reference import assumption
from kegcart.core.reference.boxes import fixture_materials

GRAVITY = 9.81
"""m/s²."""
LEGS = 2
"""Conductors of a run."""
Point = tuple[float, float, float]
AXES = {"x": "from the left", "y": "from the front", "z": "over the floor"}


@dataclass(frozen=True, slots=True)
class Weight:
    """Mass in kg, that of the cables in it, its centre in mm, what two hands at the ends bear in kg, and the angle in ° at which it tips."""

    mass: Figure
    wiring: Figure
    centre: tuple[Figure, Figure, Figure]
    hands: tuple[Figure, Figure]
    tips_at: Figure


def weigh(layout: BoxLayout, masses: Mapping[str, Figure], power: PowerSizing, sheet: Sheet) -> Weight:
    """What the box weighs. Cables and the box itself count at its middle; what has no place yet is in the sum, not in its centre."""
    hollow, case = layout.hollow, layout.case
    middle = (hollow.length / 2, hollow.width / 2, hollow.height / 2)
    wiring = sheet.put("box/wiring", wiring_mass(power))
    own = Figure.decided("m_box", case.mass_kg, "kg", "the box itself", "/box/case/mass_kg")
    placed = [(masses[s.thing.key], s.solid.middle) for s in layout.standing.values()]
    placed += [(masses[f.key], f.solid.middle) for f in layout.fitted if f.thing]
    placed += [(fixture_mass(layout.box.fixtures[key]), solid.middle) for key, solid in layout.fixtures.items()]
    carried = [*(mass for mass, _ in placed), *(masses[thing.key] for thing in layout.unplaced)]
    inputs = {f"{m.label} ({n})": m for n, m in enumerate(carried, 1)} | {"cables": wiring, "box": own}
    mass = sheet.put("box/mass", Figure.by("m", "sum", "kg", "mass as it stands, all in it", inputs))
    x, y, z = centre_of_mass([*placed, (wiring, middle), (own, middle)])
    for figure in (x, y, z):
        sheet.put(f"box/centre_{figure.symbol}", figure)
    length = Figure.of("L", hollow.length, "mm", "length inside")
    left, right = on_hands(mass, x, length)
    reach, edge = base(case, hollow, x.number, y.number)
    b = Figure.of("b", max(0.0, reach), "mm", f"from the centre of mass to the edge it tips over, {edge}")
    return Weight(
        mass,
        wiring,
        (x, y, z),
        (sheet.put("box/hand_left", left), sheet.put("box/hand_right", right)),
        sheet.put("box/tips_at", tipping(b, z)),
    )


def centre_of_mass(placed: list[tuple[Figure, Point]]) -> tuple[Figure, Figure, Figure]:
    """The centre of mass of masses in kg at places in mm. Source: moments add (statics)."""
    total = Figure.of("Σm", sum(m.number for m, _ in placed), "kg", "all that has a place")

    def along(axis: int, symbol: str) -> Figure:
        moment = sum(m.number * at[axis] for m, at in placed)
        how = "cables and box at its middle"
        moments = Figure.of("ΣM", moment, "kg·mm", "mass times place, added up", how=how)
        return Figure.by(symbol, "ΣM / Σm", "mm", f"centre of mass, {AXES[symbol]}", {"ΣM": moments, "Σm": total})

    return along(0, "x"), along(1, "y"), along(2, "z")


def on_hands(mass: Figure, x: Figure, length: Figure) -> tuple[Figure, Figure]:
    """What two hands bear that carry at the left and the right end, kg. Source: moments about the other end (statics)."""
    left = Figure.by("m_l", "m · (L − x) / L", "kg", "on the left hand", m=mass, L=length, x=x)
    return left, Figure.by("m_r", "m · x / L", "kg", "on the right hand", m=mass, L=length, x=x)


def tipping(b: Figure, z: Figure) -> Figure:
    """The angle in ° at which something tips whose centre of mass is so far within its edge, and so high."""
    inputs = {"b": b, "z": z}
    angle = degrees(atan(b.number / z.number)) if z.number > 0 else 90.0
    return Figure.of("φ", angle, "°", "tips at", how="the arc tangent of b over z", inputs=inputs)


def base(case: Case, hollow: Hollow, x: float, y: float) -> tuple[float, str]:
    """How far the centre of mass is within the nearest edge on which the box stands, mm, and which that is; wheels count with the line
    on which they stand."""
    lean = hollow.taper
    edges = {"left": x - lean, "right": hollow.length - lean - x, "front": y - lean, "back": hollow.width - lean - y}
    for feature in case.features.values():
        if feature.kind == "wheel" and feature.face in edges:
            edges[feature.face] = min(edges[feature.face], edges[feature.face] + lean - feature.inside_mm / 2)
    side = min(edges, key=lambda s: edges[s])
    return edges[side], f"from the centre of mass to the edge it tips over, {side}"


def fixture_mass(fixture: Fixture) -> Figure:
    """Mass of a shelf or block, kg. Source: density of its material (fixture materials table)."""
    row = fixture_materials()[fixture.material]
    litres = fixture.width_mm * fixture.depth_mm * fixture.height_mm / 1e6
    volume = Figure.of("V", litres, "dm³", f"volume of {fixture.name}")
    density = row.figure("ρ", row.density / 1000, "kg/dm³", f"density of {row.label}")
    return Figure.by("m", "V · ρ", "kg", fixture.name, V=volume, ρ=density)


def wiring_mass(power: PowerSizing) -> Figure:
    """Mass of all cables that lead through the box, kg.

    Source: copper 8.96 kg/dm³ with 12 % for insulation and lugs (assumptions table); both conductors of each run, three of an AC one.
    """
    litres = sum(
        LEGS * p.run.area.number * p.node.run.parallel * p.node.run.length_m / 1000
        for p in power.parts.values()
        if p.run is not None
    )
    volume = Figure.of("V_Cu", litres, "dm³", "copper of all runs", how="section times length of both conductors, added up")
    return Figure.by(
        "m_w",
        "ρ_m · V_Cu · k_m",
        "kg",
        "cables with their lugs",
        ρ_m=assumption("copper_density"),
        V_Cu=volume,
        k_m=assumption("cable_mass_more"),
    )
