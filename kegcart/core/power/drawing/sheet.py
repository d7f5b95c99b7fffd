"""The single-line diagram as a sheet to keep: drawing, wire table, title block."""

from kegcart.core.drawing import Box, Drawing, draw_table, title_block
from kegcart.core.power.drawing.diagram import draw_path
from kegcart.core.power.drawing.wire_table import WireRow, rows
from kegcart.core.power.fed import PACK
from kegcart.core.power.path.parts import PowerSizing
from kegcart.core.units import write_quantity

MARGIN = 24.0
COLUMNS = (
    ("run to", 0.0),
    ("from", 150.0),
    ("gauge", 300.0),
    ("length", 372.0),
    ("current", 432.0),
    ("ampacity", 500.0),
    ("drop", 572.0),
    ("fuse", 630.0),
    ("terminals", 720.0),
)
LEAST_WIDTH = 860.0


def draw_sheet(power: PowerSizing, title: str, purpose: str) -> Drawing:
    """The whole sheet. title: the build's name. purpose: a line under it."""
    diagram = draw_path(power, frozenset())
    width = max(diagram.width, LEAST_WIDTH)
    sheet = Drawing(width + 2 * MARGIN, 0.0)
    inside = Drawing(width, diagram.height)
    inside.add(*diagram.items)
    low = draw_table(inside, "Wires", COLUMNS, [cells_of(row) for row in rows(power)], diagram.height + 28, width)
    source = power.sources[PACK]
    facts = f"{source.v_nom.text}, fault {source.fault.text}, {power.current.text} running"
    title_block(inside, low + 14, width, title, purpose, facts)
    sheet.height = low + 14 + 54 + 2 * MARGIN
    sheet.add(Box(0, 0, sheet.width, sheet.height, "ground", 0))
    sheet.add(*inside.moved(MARGIN, MARGIN))
    return sheet


def cells_of(row: WireRow) -> tuple[str, ...]:
    """A row of the wire table as it is printed."""
    return (
        row.to,
        row.start,
        row.gauge_text,
        write_quantity(row.length_m, "m"),
        write_quantity(row.current_a, "A"),
        write_quantity(row.ampacity_a, "A"),
        "" if row.mirrors else write_quantity(row.drop, "share"),
        row.fuse,
        f"{row.start_terminal}, {row.end_terminal}",
    )
