"""Papers to print: drawings as PDF at true scale or fitted, the plan of the cells, their labels."""

import io
from collections.abc import Iterator
from typing import Any, Literal

from kegcart.core.assess import Assessment
from kegcart.core.pack.document import CellPack
from kegcart.core.pack.drawing import STYLE, Side, draw_pack, write_svg
from kegcart.core.svg import document
from kegcart.core.table import write_csv
from kegcart.core.units import significant

Paper = Literal["a4", "letter"]
Scale = Literal["fit", "true"]
MM = 72 / 25.4
SIZES = {"a4": (210.0, 297.0), "letter": (215.9, 279.4)}
EDGE = 10.0
"""Unprinted margin, mm."""
OVERLAP = 10.0
"""Overlap of sheets that are put together, mm."""
LABEL_COLUMNS, LABEL_ROWS = 5, 13


class NothingToPrintError(ValueError):
    """There is nothing of this kind in the design; the sentence says what to do first."""


def new_canvas(paper: Paper, landscape: bool, title: str) -> tuple[Any, io.BytesIO, float, float]:
    """An empty PDF, with the page's width and height in mm. Imported when needed: printing is rare, starting is not."""
    from reportlab.pdfgen.canvas import Canvas

    width, height = SIZES[paper]
    if landscape:
        width, height = height, width
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(width * MM, height * MM), invariant=1)
    canvas.setTitle(title)
    return canvas, out, width, height


def pack_svg(assessment: Assessment, side: Side) -> str:
    """The pack drawing as an SVG file in true millimetres."""
    drawing = draw_pack(assessment.pack)
    title = f"{assessment.design.name}: pack, seen from {'above' if side == 'top' else 'below, mirrored'}"
    return document(drawing.width, drawing.height, write_svg(drawing, side), STYLE, title, unit="mm")


def pack_pdf(assessment: Assessment, side: Side, paper: Paper, true_scale: bool) -> bytes:
    """The pack drawing as PDF: fitted to one sheet, or 1:1 over as many as it takes, to be put together."""
    return svg_pdf(pack_svg(assessment, side), f"{assessment.design.name}: pack", paper, true_scale)


def svg_pdf(svg: str, title: str, paper: Paper, true_scale: bool = False) -> bytes:
    """An SVG drawing as PDF."""
    from reportlab.graphics import renderPDF
    from svglib.svglib import svg2rlg

    picture = svg2rlg(io.BytesIO(svg.encode("utf-8")))
    width_mm, height_mm = picture.width / MM, picture.height / MM
    canvas, out, page_w, page_h = new_canvas(paper, width_mm > height_mm, title)
    inner_w, inner_h = page_w - 2 * EDGE, page_h - 2 * EDGE - 8
    if not true_scale:
        scale = min(inner_w / width_mm, inner_h / height_mm)
        picture.scale(scale, scale)
        left = (page_w - width_mm * scale) / 2
        renderPDF.draw(picture, canvas, left * MM, (page_h - EDGE - 8 - height_mm * scale) * MM)
        caption(canvas, page_h, f"{title}   scale 1:{significant(1 / scale)}")
        canvas.showPage()
    else:
        step_w, step_h = inner_w - OVERLAP, inner_h - OVERLAP
        columns, rows = max(1, -int(-(width_mm - OVERLAP) // step_w)), max(1, -int(-(height_mm - OVERLAP) // step_h))
        for row in range(rows):
            for column in range(columns):
                canvas.saveState()
                clip = canvas.beginPath()
                clip.rect(EDGE * MM, EDGE * MM, inner_w * MM, inner_h * MM)
                canvas.clipPath(clip, stroke=0)
                x = EDGE - column * step_w
                y = EDGE + inner_h - height_mm + row * step_h
                renderPDF.draw(picture, canvas, x * MM, y * MM)
                canvas.restoreState()
                caption(
                    canvas, page_h, f"{title}   1:1, sheet {row * columns + column + 1} of {rows * columns}: measure 100 mm here"
                )
                ruler(canvas, page_w, page_h)
                canvas.showPage()
    canvas.save()
    return out.getvalue()


def caption(canvas: Any, page_h: float, words: str) -> None:
    canvas.setFont("Helvetica", 9)
    canvas.drawString(EDGE * MM, (page_h - EDGE - 3) * MM, words.encode("cp1252", "replace").decode("cp1252"))


def ruler(canvas: Any, page_w: float, page_h: float) -> None:
    """A measure of 100 mm, to see that the printer kept the scale."""
    y = (page_h - EDGE - 4) * MM
    x = (page_w - EDGE - 100) * MM
    canvas.line(x, y, x + 100 * MM, y)
    for end in (x, x + 100 * MM):
        canvas.line(end, y - 4, end, y + 4)


def placed_cells(assessment: Assessment) -> Iterator[tuple[int, int, Any]]:
    """(group, place, cell) of every cell built in, from 1. Errors: NothingToPrintError."""
    pack = assessment.design.pack
    if not isinstance(pack, CellPack) or not pack.groups:
        raise NothingToPrintError("no cells from the rack are built into this pack yet: sort them first")
    for g, group in enumerate(pack.groups.values(), 1):
        for place, cell in enumerate(group.cells, 1):
            yield g, place, cell


def plan_csv(assessment: Assessment) -> str:
    """Which cell goes in which place, as CSV."""
    pack = assessment.design.pack
    holder = pack.holder if isinstance(pack, CellPack) else 1
    header = ("group", "place", "holder", "cell", "capacity Ah", "resistance mOhm")
    rows = [
        (g, place, (place - 1) // holder + 1, c.label, c.capacity_ah, c.resistance_mohm)
        for g, place, c in placed_cells(assessment)
    ]
    return write_csv(header, rows)


def plan_pdf(assessment: Assessment, paper: Paper) -> bytes:
    """Which cell goes in which place, a table of each group, to tick off at the bench."""
    by_group: dict[int, list[tuple[int, Any]]] = {}
    for g, place, cell in placed_cells(assessment):
        by_group.setdefault(g, []).append((place, cell))
    name = assessment.design.name
    canvas, out, width, height = new_canvas(paper, False, f"{name}: plan of the cells")
    columns, column_w, line = 3, (width - 2 * EDGE) / 3, 4.6
    x = y = 0.0
    column = columns  # begins a page
    for g, members in by_group.items():
        total = sum(c.capacity_ah for _, c in members)
        needed = line * (len(members) + 3)
        if y - needed < EDGE or column >= columns:
            column = 0 if column >= columns else column + 1
            if column in (0, columns):
                if y:
                    canvas.showPage()
                column = 0
                canvas.setFont("Helvetica-Bold", 11)
                canvas.drawString(EDGE * MM, (height - EDGE - 4) * MM, latin(f"{name}: which cell goes where"))
            x, y = EDGE + column * column_w, height - EDGE - 12
        canvas.setFont("Helvetica-Bold", 9)
        canvas.drawString(x * MM, y * MM, f"Group {g}: {significant(total, 4)} Ah")
        y -= line
        canvas.setFont("Helvetica", 8.5)
        for place, cell in members:
            canvas.rect(x * MM, (y - 0.4) * MM, 2.6 * MM, 2.6 * MM)
            canvas.drawString((x + 4) * MM, y * MM, f"{g}.{place}")
            canvas.setFont("Helvetica-Bold", 8.5)
            canvas.drawString((x + 14) * MM, y * MM, latin(cell.label[:16]))
            canvas.setFont("Helvetica", 8.5)
            mohm = f"{significant(cell.resistance_mohm)} mOhm" if cell.resistance_mohm else ""
            canvas.drawRightString((x + column_w - 4) * MM, y * MM, f"{significant(cell.capacity_ah, 4)} Ah  {mohm}")
            y -= line
        y -= line
    canvas.save()
    return out.getvalue()


def labels_pdf(assessment: Assessment, paper: Paper) -> bytes:
    """A label for each cell: its name, group and place, capacity and resistance; 65 on a sheet."""
    cells = list(placed_cells(assessment))
    canvas, out, width, height = new_canvas(paper, False, f"{assessment.design.name}: labels")
    w, h = (width - 2 * EDGE) / LABEL_COLUMNS, (height - 2 * EDGE) / LABEL_ROWS
    a_sheet = LABEL_COLUMNS * LABEL_ROWS
    for n, (g, place, cell) in enumerate(cells):
        if n and n % a_sheet == 0:
            canvas.showPage()
        row, column = divmod(n % a_sheet, LABEL_COLUMNS)
        x, y = EDGE + column * w, height - EDGE - (row + 1) * h
        canvas.setLineWidth(0.3)
        canvas.rect(x * MM, y * MM, w * MM, h * MM)
        canvas.setFont("Helvetica-Bold", 12)
        canvas.drawString((x + 2) * MM, (y + h - 6) * MM, latin(cell.label[:18]))
        canvas.setFont("Helvetica-Bold", 9)
        canvas.drawRightString((x + w - 2) * MM, (y + h - 11) * MM, f"{g}.{place}")
        canvas.setFont("Helvetica", 8)
        canvas.drawString((x + 2) * MM, (y + h - 11) * MM, f"{significant(cell.capacity_ah, 4)} Ah")
        if cell.resistance_mohm:
            canvas.drawString((x + 2) * MM, (y + h - 15) * MM, f"{significant(cell.resistance_mohm)} mOhm")
    canvas.save()
    return out.getvalue()


def latin(words: str) -> str:
    """Text that the PDF's built-in fonts can write."""
    return words.encode("cp1252", "replace").decode("cp1252")
