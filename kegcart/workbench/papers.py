"""Papers to print: drawings as PDF at true scale or fitted, the plan of the cells, their labels."""

import io
from base64 import b64encode
from collections.abc import Iterator
from functools import cache
from itertools import groupby, repeat
from pathlib import Path
from typing import TYPE_CHECKING, Literal

from kegcart.core.assess import Assessment
from kegcart.core.catalogue import CATALOGUE
from kegcart.core.check import Check, Verdict, closest_first
from kegcart.core.drawing import DASHED, PAPER, Anchor, Circle, Drawing, Line, Primitive, Text
from kegcart.core.forecast import Forecast
from kegcart.core.pack.document import CellPack, PlacedCell
from kegcart.core.pack.drawing import Shown, Side, draw_pack, in_lines, shown_of
from kegcart.core.pack.holders import Holders
from kegcart.core.places import about
from kegcart.core.power.drawing.sheet import draw_sheet
from kegcart.core.svg import write_svg
from kegcart.core.table import write_csv
from kegcart.core.units import significant, units_shown, write_quantity

if TYPE_CHECKING:
    from reportlab.pdfgen.canvas import Canvas

Paper = Literal["a4", "letter"]
Scale = Literal["fit", "true"]
MM = 72 / 25.4
SIZES = {"a4": (210.0, 297.0), "letter": (215.9, 279.4)}
EDGE = 10.0
"""Unprinted margin, mm."""
OVERLAP = 10.0
"""Overlap of sheets that are put together, mm."""


class NothingToPrintError(ValueError):
    """There is nothing of this kind in the design; the sentence says what to do first."""


FONTS = Path(__file__).parent / "fonts"
REGULAR, BOLD = "barlow-condensed-regular", "barlow-condensed-semibold"
WIDER = {REGULAR: "dejavu-condensed-regular", BOLD: "dejavu-condensed-bold"}
"""The font with Greek, Cyrillic and the rest of Latin, for what a font of ours lacks."""
LACKING = "\N{WHITE VERTICAL RECTANGLE}"
"""Stands for a letter that no shipped font has."""


def new_canvas(paper: Paper, landscape: bool, title: str) -> tuple["Canvas", io.BytesIO, float, float]:
    """An empty PDF, with the page's width and height in mm. Imported when needed: printing is rare, starting is not."""
    from reportlab.pdfbase.pdfmetrics import getRegisteredFontNames, registerFont
    from reportlab.pdfbase.ttfonts import TTFont
    from reportlab.pdfgen.canvas import Canvas

    for font in (*WIDER, *WIDER.values()):
        if font not in getRegisteredFontNames():
            registerFont(TTFont(font, FONTS / f"{font}.ttf"))
    width, height = SIZES[paper]
    if landscape:
        width, height = height, width
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(width * MM, height * MM), invariant=1)
    canvas.setTitle(title)
    return canvas, out, width, height


def paint(canvas: "Canvas", drawing: Drawing, x_mm: float, top_mm: float, scale: float) -> None:
    """Draw onto a page: upper left corner in mm from the left and from the bottom, `scale` in mm a unit of the drawing."""
    canvas.saveState()
    canvas.translate(x_mm * MM, top_mm * MM)
    canvas.scale(scale * MM, scale * MM)
    for item in drawing.items:
        paint_item(canvas, item)
    canvas.restoreState()


def paint_item(canvas: "Canvas", item: Primitive) -> None:
    """Draw one item; y runs upwards on a page."""
    fill, stroke = PAPER[item.role]
    if isinstance(item, Text):
        canvas.setFillColor(stroke)
        write(canvas, item.x, -item.y, item.words, item.size, item.bold, item.anchor)
        return
    if stroke != "none":
        canvas.setStrokeColor(stroke)
        canvas.setLineWidth(item.width)
    canvas.setDash(*DASHED.get(item.role, ()))
    if isinstance(item, Line):
        way = canvas.beginPath()
        way.moveTo(item.points[0][0], -item.points[0][1])
        for x, y in item.points[1:]:
            way.lineTo(x, -y)
        canvas.drawPath(way, stroke=1, fill=0)
        return
    filled, stroked = int(fill != "none"), int(stroke != "none" and item.width > 0)
    if filled:
        canvas.setFillColor(fill)
    if isinstance(item, Circle):
        canvas.circle(item.x, -item.y, item.r, stroke=stroked, fill=filled)
    else:
        radius = min(item.radius, item.w / 2, item.h / 2)
        canvas.roundRect(item.x, -item.y - item.h, item.w, item.h, radius, stroke=stroked, fill=filled)


@cache
def font_faces() -> str:
    """The letters that drawings are measured in, as CSS: wherever a file is opened, no word runs into the next."""

    def face(name: str, weight: str) -> str:
        data = b64encode((FONTS / f"{name}.woff2").read_bytes()).decode()
        said = "font-family:'Barlow Condensed';font-stretch:50% 100%"
        return f"@font-face{{{said};font-weight:{weight};src:url(data:font/woff2;base64,{data}) format('woff2')}}"

    return face(REGULAR, "100 500") + face(BOLD, "600 900")


def power_svg(assessment: Assessment) -> str:
    """Diagram, wire table and title block as an SVG file."""
    name = assessment.design.name
    return write_svg(draw_sheet(assessment.power, name, assessment.design.brief.purpose), f"{name}: power path", font_faces())


def pack_svg(assessment: Assessment, side: Side, shown: Shown) -> str:
    """The pack drawing as an SVG file in true millimetres."""
    title = f"{assessment.design.name}: pack, seen from {'above' if side == 'top' else 'below, mirrored'}"
    return write_svg(draw_pack(assessment.pack, side, shown), title, font_faces())


def pack_pdf(assessment: Assessment, side: Side, paper: Paper, true_scale: bool) -> bytes:
    """The pack on paper: its cells with every label, the links beside them on sheets of their own, and which cell goes where.

    Fitted to a sheet, or 1:1; over as many sheets as it takes to be read, to be put together.
    """
    name = assessment.design.name
    drawings = [(draw_pack(assessment.pack, side, shown), shown) for shown in shown_of(assessment.pack)]
    wide = drawings[0][0].width > drawings[0][0].height
    canvas, out, page_w, page_h = new_canvas(paper, wide, f"{name}: pack")
    for drawing, shown in drawings:
        what = f"{name}: pack" if len(drawings) == 1 else f"{name}: {shown}"
        title = f"{what}, seen from {'above' if side == 'top' else 'below, mirrored'}"
        draw_sheets(canvas, drawing, title, (page_w, page_h), 1.0 if true_scale else legible_scale(drawing, page_w, page_h))
    if isinstance(assessment.design.pack, CellPack) and assessment.design.pack.groups:
        write_plan(canvas, assessment, page_w, page_h)
    canvas.save()
    return out.getvalue()


LEAST_LETTER = 1.7
"""The height of letters that can still be read on paper, mm."""


def legible_scale(drawing: Drawing, page_w: float, page_h: float) -> float:
    """The scale at which a drawing fits a sheet; where its bold words would be too small to read, the one at which they are not."""
    fitted = min((page_w - 2 * EDGE) / drawing.width, (page_h - 2 * EDGE - 8) / drawing.height)
    smallest = min((item.size for item in drawing.items if isinstance(item, Text) and item.bold), default=LEAST_LETTER / fitted)
    return max(fitted, LEAST_LETTER / smallest)


def draw_sheets(canvas: "Canvas", drawing: Drawing, title: str, page: tuple[float, float], scale: float) -> None:
    """A drawing at a scale in mm a unit of it, in the middle of one sheet or over as many as it takes, which overlap."""
    page_w, page_h = page
    inner_w, inner_h = page_w - 2 * EDGE, page_h - 2 * EDGE - 8
    w, h = drawing.width * scale, drawing.height * scale
    columns = max(1, -int(-(w - OVERLAP - 1e-6) // (inner_w - OVERLAP)))
    rows = max(1, -int(-(h - OVERLAP - 1e-6) // (inner_h - OVERLAP)))
    left = (page_w - w) / 2 if columns == 1 else EDGE
    top = EDGE + inner_h
    for row in range(rows):
        for column in range(columns):
            canvas.saveState()
            clip = canvas.beginPath()
            clip.rect(EDGE * MM, EDGE * MM, inner_w * MM, inner_h * MM)
            canvas.clipPath(clip, stroke=0)
            paint(canvas, drawing, left - column * (inner_w - OVERLAP), top + row * (inner_h - OVERLAP), scale)
            canvas.restoreState()
            sheet = f", sheet {row * columns + column + 1} of {rows * columns}" if rows * columns > 1 else ""
            says = "" if drawing.unit != "mm" else "   1:1" if scale == 1 else f"   scale 1:{significant(1 / scale)}"
            measure = f": measure {write_quantity(ruler_mm(), 'mm')} here" if scale == 1 else ""
            caption(canvas, page_h, f"{title}{says}{sheet}{measure}")
            if scale == 1:
                ruler(canvas, page_w, page_h)
            canvas.showPage()


def fitted_pdf(drawing: Drawing, title: str, paper: Paper) -> bytes:
    """A drawing on one page, as large as it goes."""
    canvas, out, page_w, page_h = new_canvas(paper, drawing.width > drawing.height, title)
    scale = min((page_w - 2 * EDGE) / drawing.width, (page_h - 2 * EDGE - 8) / drawing.height)
    draw_sheets(canvas, drawing, title, (page_w, page_h), scale)
    canvas.save()
    return out.getvalue()


def caption(canvas: "Canvas", page_h: float, words: str) -> None:
    canvas.setFillColor("#1f2a2e")
    write(canvas, EDGE * MM, (page_h - EDGE - 3) * MM, words, 10)


def ruler_mm() -> float:
    """The length of the measure on a sheet at true scale: 100 mm, or 4 inches."""
    return 100.0 if units_shown() == "metric" else 4 * 25.4


def ruler(canvas: "Canvas", page_w: float, page_h: float) -> None:
    """A measure, to see that the printer kept the scale."""
    y = (page_h - EDGE - 4) * MM
    length = ruler_mm() * MM
    x = (page_w - EDGE) * MM - length
    canvas.line(x, y, x + length, y)
    for end in (x, x + length):
        canvas.line(end, y - 4, end, y + 4)


def write(canvas: "Canvas", x: float, y: float, words: str, size: float, bold: bool = False, anchor: Anchor = "start") -> None:
    """Write words at a place in points, in the letters that the shipped fonts have."""
    from reportlab.pdfbase.pdfmetrics import stringWidth

    runs = list(in_fonts(words, BOLD if bold else REGULAR))
    widths = [stringWidth(text, font, size) for font, text in runs]
    x -= sum(widths) * {"start": 0.0, "middle": 0.5, "end": 1.0}[anchor]
    for (font, text), width in zip(runs, widths, strict=True):
        canvas.setFont(font, size)
        canvas.drawString(x, y, text)
        x += width


def in_fonts(words: str, font: str) -> Iterator[tuple[str, str]]:
    """The words in pieces, each with the font that has its letters."""
    for chosen, letters in groupby(words, lambda letter: next((f for f in (font, WIDER[font]) if has(f, letter)), "")):
        text = "".join(letters)
        yield (chosen, text) if chosen else (WIDER[font], LACKING * len(text))


def width_of(words: str, size: float, bold: bool = False) -> float:
    """How wide words are, mm; size of their letters in points. The fonts are known once there is a canvas."""
    return sum(map(letter_width, words, repeat(BOLD if bold else REGULAR))) * size / MM


@cache
def letter_width(letter: str, font: str) -> float:
    """How wide a letter is, over the size of the font; words are set without kerning."""
    from reportlab.pdfbase.pdfmetrics import stringWidth

    return float(sum(stringWidth(text, known, 1) for known, text in in_fonts(letter, font)))


def fitted(words: str, width: float, size: float, bold: bool = False) -> str:
    """Words cut to so many mm, with a mark where something was left out."""
    while words and width_of(words, size, bold) > width + 1e-6:
        words = words.removesuffix("…")[:-1].rstrip() + "…" if len(words) > 2 else ""
    return words


@cache
def has(font: str, letter: str) -> bool:
    """Whether a registered font has a letter."""
    from reportlab.pdfbase.pdfmetrics import getFont
    from reportlab.pdfbase.ttfonts import TTFont

    known = getFont(font)
    assert isinstance(known, TTFont)
    return ord(letter) in known.face.charToGlyph


def placed_cells(assessment: Assessment) -> Iterator[tuple[int, int, PlacedCell]]:
    """(group, place, cell) of every cell built in, from 1. Errors: NothingToPrintError."""
    pack = assessment.design.pack
    if not isinstance(pack, CellPack) or not pack.groups:
        raise NothingToPrintError("no cells from the rack are built into this pack yet: sort them first")
    for g, group in enumerate(pack.groups.values(), 1):
        for place, cell in enumerate(group.cells, 1):
            yield g, place, cell


def holders_of(assessment: Assessment) -> Holders:
    """The holders of the cells that are built in."""
    pack = assessment.design.pack
    assert isinstance(pack, CellPack)
    return Holders.of(pack, int(assessment.pack.parallel.number))


def plan_csv(assessment: Assessment) -> str:
    """Which cell goes in which place, as CSV."""
    header = ("group", "place", "holder", "in holder", "cell", "capacity Ah", "resistance mΩ")
    cells = list(placed_cells(assessment))
    holders = holders_of(assessment)
    rows = [
        (g, place, holders.number(g, place), holders.slot(g, place), c.label, c.capacity_ah, c.resistance_mohm)
        for g, place, c in cells
    ]
    return write_csv(header, rows)


def plan_pdf(assessment: Assessment, paper: Paper) -> bytes:
    """Which cell goes in which place, to tick off at the bench."""
    next(placed_cells(assessment))
    canvas, out, width, height = new_canvas(paper, False, f"{assessment.design.name}: plan of the cells")
    write_plan(canvas, assessment, width, height)
    canvas.save()
    return out.getvalue()


def write_plan(canvas: "Canvas", assessment: Assessment, width: float, height: float) -> None:
    """The cells in columns, to tick off: by holder where one reaches over several groups, else by group."""
    holders, name = holders_of(assessment), assessment.design.name
    by_holder = holders.groups > 1
    blocks: dict[int, list[tuple[str, str, PlacedCell]]] = {}
    for g, place, cell in placed_cells(assessment):
        number, slot = holders.number(g, place), holders.slot(g, place)
        beside = f"H{number}.{slot}" if not holders.are_single else ""
        row = (f"{slot}", f"{g}.{place}", cell) if by_holder else (f"{g}.{place}", beside, cell)
        blocks.setdefault(number if by_holder else g, []).append(row)
    columns, line = max(2, int((width - 2 * EDGE) // PLAN_COLUMN)), 4.6
    column_w = (width - 2 * EDGE) / columns
    y, column = 0.0, columns  # begins a page
    for number, rows in blocks.items():
        for n, (first, second, cell) in enumerate(rows):
            if n == 0 or y < EDGE:
                if y < EDGE + (3 if n == 0 else 0) * line:
                    column, y = column + 1, height - EDGE - 12
                    if column >= columns:
                        if number != next(iter(blocks)) or n:
                            canvas.showPage()
                        column = 0
                        write(canvas, EDGE * MM, (height - EDGE - 4) * MM, f"{name}: which cell goes where", 11, bold=True)
                x = EDGE + column * column_w
                total = significant(sum(c.capacity_ah for *_, c in rows), 4)
                said = f"Holder {number}" if by_holder else f"Group {number}: {total} Ah"
                write(canvas, x * MM, y * MM, said + (", further" if n else ""), 9, bold=True)
                y -= line
            canvas.rect(x * MM, (y - 0.4) * MM, 2.6 * MM, 2.6 * MM)
            write(canvas, (x + 4) * MM, y * MM, first, 8.5)
            write(canvas, (x + 14) * MM, y * MM, second, 8.5)
            mohm = f"{significant(cell.resistance_mohm)} mΩ" if cell.resistance_mohm else ""
            write(canvas, (x + column_w - 4) * MM, y * MM, f"{significant(cell.capacity_ah, 4)} Ah  {mohm}", 8.5, anchor="end")
            lines = in_lines(cell.label) if len(cell.label) > PLAN_LETTERS else [cell.label]
            for k, words in enumerate(lines):
                write(canvas, (x + 25) * MM, (y - k * line * 0.8) * MM, words, 8.5 if len(lines) == 1 else 7, bold=True)
            y -= line * (1 + 0.8 * (len(lines) - 1))
        y -= line
    canvas.showPage()


PLAN_COLUMN, PLAN_LETTERS = 62.0, 12
"""Least width of a column of the plan, mm, and how long a label goes in one line."""


#: Columns of the verification table: heading, left edge in mm, where its words are held.
CHECK_COLUMNS: tuple[tuple[str, float, Anchor], ...] = (
    ("", 0.0, "start"),
    ("of", 11.0, "start"),
    ("what is judged", 61.0, "start"),
    ("is", 132.0, "end"),
    ("allowed", 168.0, "end"),
    ("used", 186.0, "end"),
)


def checks_pdf(seen: Forecast, paper: Paper) -> bytes:
    """The verification table: every check of the build and of its days, what fails first, then the closest to its limit."""
    assessment = seen.assessment
    design, checks = assessment.design, closest_first([*assessment.checks, *seen.checks])
    counts = {verdict: sum(c.verdict is verdict for c in checks) for verdict in Verdict}
    canvas, out, width, height = new_canvas(paper, False, f"{design.name}: verification")
    summed = f"{counts[Verdict.HOLDS]} hold, {counts[Verdict.FAILS]} fail, {counts[Verdict.OPEN]} cannot be judged yet"
    line, y, page = 4.4, 0.0, 0
    for check in checks:
        if y < EDGE + line:
            if page:
                canvas.showPage()
            page, y = page + 1, height - EDGE - 4
            write(canvas, EDGE * MM, y * MM, f"{design.name}: verification, {summed}", 11, bold=True)
            write(canvas, (width - EDGE) * MM, y * MM, f"page {page}", 8.5, anchor="end")
            y -= line * 2
            for heading, x, anchor in CHECK_COLUMNS:
                write(canvas, (EDGE + x) * MM, y * MM, heading, 8.5, bold=True, anchor=anchor)
            canvas.line(EDGE * MM, (y - 1.2) * MM, (width - EDGE) * MM, (y - 1.2) * MM)
            y -= line
        for (_, x, anchor), words in zip(CHECK_COLUMNS, check_cells(check, assessment), strict=True):
            write(canvas, (EDGE + x) * MM, y * MM, words, 8.5, bold=check.verdict is Verdict.FAILS, anchor=anchor)
        y -= line
    canvas.save()
    return out.getvalue()


def check_cells(check: Check, assessment: Assessment) -> tuple[str, str, str, str, str, str]:
    """What stands in the columns of the verification table."""
    of, title = shortened(about(check.place, assessment.design), 34), CATALOGUE[check.id].title
    if check.verdict is Verdict.OPEN:
        return "waits", of, shortened(f"{title}; missing: {check.missing}", 76), "", "", ""
    came_out = check.finding.severity.value if check.finding else "holds"
    if check.figure is None or check.limit is None:
        return came_out, of, title, "", "", ""
    used = "" if check.used is None else f"{check.used * 100:.0f} %"
    return came_out, of, shortened(title, 46), check.figure.text, f"{check.bound.value} {check.limit.text}", used


def wrapped(words: str, width: float, bold: bool = False, size: float = 8.5) -> list[str]:
    """Words in lines that are no wider than so many mm in letters of a size in points; a word that is wider is broken."""
    lines, line = list[str](), ""
    for word in words.split():
        while width_of(word, size, bold) > width:
            fit = next(n for n in range(len(word), 0, -1) if n == 1 or width_of(word[:n], size, bold) <= width)
            if line:
                lines.append(line)
                line = ""
            lines.append(word[:fit])
            word = word[fit:]
        longer = f"{line} {word}".strip()
        if line and width_of(longer, size, bold) > width:
            lines.append(line)
            line = word
        else:
            line = longer
    return [*lines, line] if line or not lines else lines


def shortened(words: str, most: int) -> str:
    """Words cut to so many letters, with a mark where something was left out."""
    return words if len(words) <= most else words[: most - 1].rstrip() + "\u2026"
