"""How the box takes in, holds and passes on heat: walls, sun, fans and vents, what is as warm as the air inside. Decisions -> figures."""

from dataclasses import dataclass

from kegcart.core.box.air import FanSizing, air_density, size_draught, size_fans
from kegcart.core.box.layout import BoxLayout
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.box.weight import fixture_mass
from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.figure import Figure, Sheet
from kegcart.core.measured import MeasuredFigures, as_measured
from kegcart.core.pack.body import block
from kegcart.core.power.path.parts import PowerSizing
from kegcart.core.reference import assumption
from kegcart.core.reference.boxes import box_materials, fixture_materials
from kegcart.core.units import write_quantity

BANKS = ("pack", "bank:")
"""What stands in the box and holds its own heat: keys of places."""


@dataclass(frozen=True, slots=True)
class BoxHeat:
    """How a box deals with heat.

    still, stirred: through its walls, W/K. capacity: of what is as warm as the air inside, J/K. density: of the air, kg/m³. sun: W that come in through its top at
    noon; None where it stands in the shade. draught: W at a rise of 1 K, see `size_draught`. surfaces: of each bank that stands in
    it, to the air, m², by its key.
    """

    still: Figure
    stirred: Figure
    capacity: Figure
    density: Figure
    sun: Figure | None
    draught: Figure | None
    fans: dict[str, FanSizing]
    surfaces: dict[str, Figure]


def size_heat(box: BoxSizing, brief: Brief, site: Site, power: PowerSizing, measured: MeasuredFigures, sheet: Sheet) -> BoxHeat:
    """Figures of a box's heat. measured: of the built one; what stirred air and vents let out is as much more as its walls do.

    Source: practice: what a test finds besides the walls are gaps, which all of it passes.
    """
    layout = box.layout
    density = sheet.put("forecast/heat/density", air_density(layout.box.altitude_m))
    walls, top = wall_areas(layout)
    u = wall_u(layout, "still_air")
    fans, draught = size_fans(layout, site, density), size_draught(layout, site, density)
    sized, stirred = through(u, walls), through(wall_u(layout, "wall_stirred"), walls)
    still = as_measured(sized, measured, "walls")
    if still is not sized:
        ratio = {"x_2": still, "x_1": sized}
        stirred = Figure.by("G_box", "G · x_2 / x_1", "W/K", "through the walls, stirred", {"G": stirred, **ratio})
        if draught is not None:
            draught = Figure.by(draught.symbol, "k · x_2 / x_1", draught.unit, draught.label, {"k": draught, **ratio})
    for key, fan in fans.items():
        sheet.put(f"forecast/heat/fans/{key}", fan.carries)
    if draught is not None:
        label = f"through the vents at a rise of {write_quantity(10, 'K')}"
        sheet.put("forecast/heat/draught", Figure.by("G_v", "k_v · √(10)", "W/K", label, k_v=draught))
    return BoxHeat(
        sheet.put("forecast/heat/still", still),
        sheet.put("forecast/heat/stirred", stirred),
        sheet.put("forecast/heat/capacity", as_measured(heat_capacity(box, power), measured, "box_heat", sized)),
        density,
        sheet.put("forecast/heat/sun", sun_through(u, top, layout)) if in_sun(layout, brief) else None,
        draught,
        fans,
        {key: surface_of(layout, key) for key in layout.standing if key.startswith(BANKS)},
    )


def in_sun(layout: BoxLayout, brief: Brief) -> bool | None:
    """Whether the box stands in the sun: as decided, else where the station is used outdoors; None where nobody said."""
    decided = layout.case.in_sun
    return brief.outdoors if decided is None else decided


def wall_areas(layout: BoxLayout) -> tuple[Figure, Figure]:
    """What passes heat on, m²: sides and top, the floor left out, and the top alone. Source: geometry; sides that lean count by their middle."""
    hollow = layout.hollow
    sizes = {"L": hollow.length, "W": hollow.width, "H": hollow.height, "τ": hollow.taper}
    inputs = {symbol: Figure.of(symbol, mm / 1000, "m", "of the box inside") for symbol, mm in sizes.items()}
    flat = {symbol: inputs[symbol] for symbol in ("L", "W")}
    top = Figure.by("A_top", "L · W", "m²", "top of the box", flat)
    formula = "L · W + 2 · H · (L + W − 2 · τ)"
    return Figure.by("A", formula, "m²", "sides and top of the box", inputs, how="the floor stands on something"), top


def wall_u(layout: BoxLayout, inside: str) -> Figure:
    """Heat transfer of its walls, W/m²K. inside: the assumption about the air along them.

    Source: 1/U = 1/h_i + t/λ + 1/h_o; still air within and without typical (assumptions table), conductivity by material.
    """
    row = box_materials()[layout.case.material]
    return u_value(
        assumption(inside),
        Figure.decided("t", layout.case.wall_mm, "mm", "its walls", "/box/case/wall_mm"),
        row.figure("λ", row.conductivity, "W/mK", f"conductivity of {row.label}"),
    )


def u_value(inside: Figure, wall: Figure, conductivity: Figure) -> Figure:
    """Heat transfer through a wall of so many mm, W/m²K: see `wall_u`."""
    inputs = {"h_i": inside, "t": wall, "λ": conductivity, "h_o": assumption("wall_outside")}
    return Figure.by("U", "1 / (1 / h_i + t / (1000 · λ) + 1 / h_o)", "W/m²K", "through a wall", inputs)


def through(u: Figure, area: Figure) -> Figure:
    """What walls pass on, W/K."""
    return Figure.by("G_box", "U · A", "W/K", "through the walls", U=u, A=area)


def sun_through(u: Figure, top: Figure, layout: BoxLayout) -> Figure:
    """What comes in through the top at noon, W: most of what it takes in leaves outward again.

    Source: sol-air temperature, U · A · α · G / h_o; colours typical (assumptions table).
    """
    return sun_on_lid(u, top, assumption(f"absorbs_{layout.case.colour}"))


def sun_on_lid(u: Figure, top: Figure, absorbs: Figure) -> Figure:
    """See `sun_through`."""
    inputs = {"U": u, "A_top": top, "α": absorbs, "G": assumption("sun_most"), "h_o": assumption("wall_outside")}
    return Figure.by("P_sun", "U · A_top · α · G / h_o", "W", "of the sun through the top, at noon", inputs)


def heat_capacity(box: BoxSizing, power: PowerSizing) -> Figure:
    """Heat capacity of what is as warm as the air inside, J/K: parts, shelves, cables, and half of the walls; banks hold their own.

    Source: mass times specific heat (assumptions, box and fixture materials tables).
    """
    layout, case = box.layout, box.layout.case
    inside = {*layout.standing, *(f.key for f in layout.fitted if f.thing), *(t.key for t in layout.unplaced)}
    parts = {
        f"{m.label} ({n})": m for n, (key, m) in enumerate(box.masses.items()) if key in inside and not key.startswith(BANKS)
    }
    mass = Figure.by("m_p", "sum", "kg", "parts in the box", parts) if parts else Figure.of("m_p", 0.0, "kg", "parts in the box")
    material = box_materials()[case.material]
    own = Figure.decided("m_box", case.mass_kg, "kg", "the box itself", "/box/case/mass_kg")
    inputs = {
        "m_p": mass,
        "c_p": assumption("part_heat"),
        "m_w": box.weight.wiring,
        "c_Cu": assumption("copper_heat"),
        "m_box": own,
        "c_box": material.figure("c_box", material.heat, "J/kgK", f"specific heat of {material.label}"),
        "k_w": assumption("walls_warm"),
    }
    formula = "m_p · c_p + m_w · c_Cu + k_w · m_box · c_box"
    if layout.box.fixtures:
        heats = {
            f"{f.name} ({n})": shelf_capacity(fixture_mass(f), fixture_materials()[f.material].heat)
            for n, f in enumerate(layout.box.fixtures.values())
        }
        inputs["C_sh"], formula = Figure.by("C_sh", "sum", "J/K", "shelves and blocks", heats), f"{formula} + C_sh"
    return Figure.by("C", formula, "J/K", "heat capacity of the inside", inputs)


def shelf_capacity(mass: Figure, heat: float) -> Figure:
    """Heat capacity of a shelf or block, J/K."""
    return Figure.by("C", "m · c", "J/K", mass.label, m=mass, c=Figure.of("c", heat, "J/kgK", "its specific heat"))


def surface_of(layout: BoxLayout, key: str) -> Figure:
    """The surface of a bank as it stands, m²: sides and top, without the face that it stands on."""
    solid = layout.standing[key].solid
    size = ((solid.x1 - solid.x0) / 1000, (solid.y1 - solid.y0) / 1000, (solid.z1 - solid.z0) / 1000)
    return block(*size, "surface to the air inside", "as it stands in the box, sides and top")
