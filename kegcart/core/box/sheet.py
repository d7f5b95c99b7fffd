"""The layout of the box as a sheet to keep: its views, a table of everything in it, title block."""

from collections.abc import Iterator

from kegcart.core.box.document import Inside, OnFace, Place
from kegcart.core.box.drawing import View, draw_box
from kegcart.core.box.layout import BoxLayout
from kegcart.core.box.sizing import BoxSizing
from kegcart.core.drawing import Box, Drawing, draw_table, title_block
from kegcart.core.reference.boxes import holds
from kegcart.core.units import write_quantity

MARGIN, GAP = 24.0, 14.0
COLUMNS = (
    ("part", 0.0),
    ("where", 190.0),
    ("from the left, front, floor", 360.0),
    ("size", 530.0),
    ("mass", 680.0),
    ("held by", 740.0),
)
LEAST_WIDTH = 940.0
VIEWS = (("above", "side"), ("front", "face-front"), ("face-left", "face-right", "face-back"), ("face-lid", "face-floor"))
"""Views side by side, row by row; a face in which nothing is cut is left out."""


def draw_layout(sizing: BoxSizing, title: str, purpose: str) -> Drawing:
    """The whole sheet. title: the build's name. purpose: a line under it."""
    views = {view.key: view for view in draw_box(sizing)}
    cut = {f"face-{fitted.face}" for fitted in sizing.layout.fitted}
    rows = [[views[key] for key in row if not key.startswith("face-") or key in cut] for row in VIEWS]
    inside, high = Drawing(LEAST_WIDTH, 0.0), 0.0
    for row in [row for row in rows if row]:
        high = put_side_by_side(inside, row, high) + GAP
    width = max(LEAST_WIDTH, *(sum(v.drawing.width + GAP for v in row) for row in rows))
    low = draw_table(inside, "Parts", COLUMNS, list(rows_of(sizing)), high + 14, width)
    facts = f"{sizing.weight.mass.text} in all, in a box of {inside_text(sizing.layout)} inside"
    title_block(inside, low + 14, width, title, purpose, facts)
    sheet = Drawing(width + 2 * MARGIN, low + 14 + 54 + 2 * MARGIN)
    sheet.add(Box(0, 0, sheet.width, sheet.height, "ground", 0))
    sheet.add(*inside.moved(MARGIN, MARGIN))
    return sheet


def put_side_by_side(sheet: Drawing, row: list[View], y: float) -> float:
    """Views from the left to the right at a height; returns where the highest ends."""
    x = 0.0
    for view in row:
        sheet.add(*view.drawing.moved(x, y))
        x += view.drawing.width + GAP
    return y + max(view.drawing.height for view in row)


def inside_text(layout: BoxLayout) -> str:
    """Length, width and height inside."""
    hollow = layout.hollow
    return " × ".join(write_quantity(mm, "mm") for mm in (hollow.length, hollow.width, hollow.height))


def rows_of(sizing: BoxSizing) -> Iterator[tuple[str, ...]]:
    """The rows of the table: everything that has a place, and what is still to have one."""
    layout, places = sizing.layout, sizing.layout.box.places
    for thing in layout.things:
        if thing not in layout.outside:
            place = places.get(thing.key)
            size = " × ".join(write_quantity(mm, "mm") for mm in thing.size)
            mass = sizing.masses[thing.key].text
            yield thing.name, where(place, layout), spot(thing.key, place, layout), size, mass, held(place)


def where(place: Place | None, layout: BoxLayout) -> str:
    """What a part stands on, is fixed to, or sits in, and how it is turned."""
    if place is None:
        return "no place yet"
    if isinstance(place, OnFace):
        return f"in the {place.face}"
    turned = f", turned {place.turn}°" if place.turn else ""
    if place.on.startswith("fixture:"):
        return f"on {layout.box.fixtures[place.on.removeprefix('fixture:')].name}{turned}"
    return f"on the floor{turned}" if place.on == "floor" else f"fixed to the {place.on}{turned}"


def spot(key: str, place: Place | None, layout: BoxLayout) -> str:
    """Where the corner of a part is, or on its face the middle of it."""
    if isinstance(place, OnFace):
        return ", ".join(write_quantity(mm, "mm") for mm in (place.x_mm, place.y_mm)) + " on its face"
    if key not in layout.standing:
        return ""
    return ", ".join(write_quantity(round(mm, 1), "mm") for mm in layout.standing[key].solid[:3])


def held(place: Place | None) -> str:
    """What holds a part."""
    if not isinstance(place, Inside):
        return ""
    kinds = dict.fromkeys(place.held)
    return ", ".join(f"{place.held.count(key)} × {holds()[key].label}" for key in kinds)
