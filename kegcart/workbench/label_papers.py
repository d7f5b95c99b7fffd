"""Labels on paper, as sheets of them are sold or to be cut: one for each cell, and one for each end of a wire."""

from collections.abc import Iterator
from typing import TYPE_CHECKING

from kegcart.core.assembly.cutting import labels_of
from kegcart.core.assess import Assessment
from kegcart.core.box.contents import cable_outside
from kegcart.core.building import build_of
from kegcart.core.reference.hardware import LabelSheet, label_sheets
from kegcart.core.units import significant
from kegcart.workbench.papers import MM, NothingToPrintError, fitted, new_canvas, placed_cells, width_of, write

if TYPE_CHECKING:
    from reportlab.pdfgen.canvas import Canvas

INSET = 2.0
"""Kept free within the edge of a label, mm: sheets feed a little askew."""
LEAST = 5.0
"""Smallest letters that can be read on a wire, points."""


class LabelPages:
    """Labels one after another on sheets of a kind. first: the number of the first label that is still on the sheet."""

    def __init__(self, name: str, sheet: LabelSheet, first: int) -> None:
        self.sheet, self.used = sheet, min(first, sheet.columns * sheet.rows) - 1
        self.canvas, self.out, self.width, self.height = new_canvas(sheet.paper, False, f"{name}: labels")

    def next(self) -> tuple["Canvas", float, float]:
        """The canvas and the upper left corner of the next label, mm from the left and from the bottom."""
        s = self.sheet
        if self.used and self.used % (s.columns * s.rows) == 0:
            self.canvas.showPage()
        row, column = divmod(self.used % (s.columns * s.rows), s.columns)
        self.used += 1
        x, top = s.left_mm + column * s.pitch_x_mm, self.height - s.top_mm - row * s.pitch_y_mm
        if s.outlined:
            self.canvas.setLineWidth(0.3)
            self.canvas.rect(x * MM, (top - s.height_mm) * MM, s.width_mm * MM, s.height_mm * MM)
        return self.canvas, x + INSET, top

    def lines(self, lines: list[tuple[str, float, bool]]) -> None:
        """One label of some lines, each with the size that it has where there is room, in points, and whether it is bold."""
        canvas, x, top = self.next()
        wide, high = self.sheet.width_mm - 2 * INSET, self.sheet.height_mm - INSET
        shrink = min(1.0, high * MM / sum(size * 1.15 for _, size, _ in lines))
        tall = sum(size for _, size, _ in lines) * shrink * 1.15 / MM
        y = top - (self.sheet.height_mm - tall) / 2
        for words, wished, bold in lines:
            size = max(LEAST, wished * shrink)
            size = max(LEAST, min(size, size * wide / max(width_of(words, size, bold), 0.1)))
            y -= max(size, wished * shrink) * 1.15 / MM
            write(canvas, x * MM, y * MM + size * 0.2, fitted(words, wide, size, bold), size, bold=bold)

    def done(self) -> bytes:
        """The file."""
        self.canvas.save()
        return self.out.getvalue()


def cell_labels_pdf(assessment: Assessment, sheet: str, first: int) -> bytes:
    """A label for each cell: its name, its capacity and resistance, its group and place."""
    pages = LabelPages(assessment.design.name, label_sheets()[sheet], first)
    for g, place, cell in placed_cells(assessment):
        ohms = f", {significant(cell.resistance_mohm)} mΩ" if cell.resistance_mohm else ""
        figures = f"{significant(cell.capacity_ah, 4)} Ah{ohms}"
        pages.lines([(cell.label, 12, True), (f"group {g}, place {place}", 9, False), (figures, 9, False)])
    return pages.done()


def wire_labels_pdf(assessment: Assessment, sheet: str, first: int) -> bytes:
    """A label for each end of each wire: what it goes on and what is at its other end, and which wire it is for.

    Errors: NothingToPrintError.
    """
    labels = list(wire_labels(assessment))
    if not labels:
        raise NothingToPrintError("there is no wire to label yet: lay out the power path first")
    pages = LabelPages(assessment.design.name, label_sheets()[sheet], first)
    for label, wire, between in labels:
        pages.lines([(label, 12, True), (wire, 8, False), (between, 8, False)])
    return pages.done()


def wire_labels(assessment: Assessment) -> Iterator[tuple[str, str, str]]:
    """The label of each end of each wire, what wire it goes on, and from where to where that lies."""
    for piece in build_of(assessment).pieces:
        colour = f"{piece.cores} cores" if piece.cores > 1 else piece.colour
        wire = f"{piece.gauge} {colour}, Ø {significant(cable_outside(piece.area_mm2))} mm"
        for label in labels_of(piece):
            yield label, wire, piece.name
