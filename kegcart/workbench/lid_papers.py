"""The sheet for the lid: printed on both sides and folded once, it opens on the diagram; what does not fit goes on to a further sheet."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from datetime import date
from functools import partial
from itertools import chain, count
from typing import TYPE_CHECKING

from kegcart.core.assembly.lid import LidSection, LidSheet
from kegcart.core.assess import Assessment
from kegcart.core.building import lid_of
from kegcart.core.design import digest_of
from kegcart.core.drawing import Drawing, Text
from kegcart.core.power.drawing.diagram import draw_path
from kegcart.core.units import calendar_day
from kegcart.workbench.papers import EDGE, LEAST_LETTER, MM, Paper, draw_sheets, new_canvas, paint, width_of, wrapped, write

if TYPE_CHECKING:
    from reportlab.pdfgen.canvas import Canvas

SIZES = (11.0, 10.0, 9.25, 8.5)
"""Letters of words, points: the largest with which a panel holds all that stands on it."""
SIZE = SIZES[-1]
HEAD, NAME = 1.3, 2.0
"""The title of a section and the build's name, over the size of the words."""
LEAD = 1.28
"""Height of a line over the size of its letters."""
GAP = 3.0
"""Between sections, and between columns of a table, mm."""
QR_MM = 30.0
LEAST_MM = 30.0
"""Less room than that under the diagram is left alone."""
MOST_OF_PURPOSE = 6
"""Lines of what it is for."""
COUNTED = 6.0
"""Room for the number of a line, mm."""
INK = "#1f2a2e"
LAST_WORDS = (
    "Work on it: licensed practice and local code come first. What is changed is written in the log, and this sheet printed anew."
)
OUTSIDE, INSIDE = 0, 1
"""The two sides of the sheet."""

Act = Callable[["Canvas"], None]


@dataclass(slots=True)
class Column:
    """A column of a page: where it is, mm from the left and from the bottom, and how far it is filled."""

    page: int
    left: float
    width: float
    top: float
    bottom: float
    y: float = field(init=False)

    def __post_init__(self) -> None:
        self.y = self.top


class Flow:
    """Sections set one after another into columns; each line stands whole in one of them. What is drawn is kept until all is set."""

    def __init__(self, columns: Iterator[Column], pages: dict[int, list[Act]], size: float = SIZE) -> None:
        self.columns, self.pages, self.size = columns, pages, size
        self.at, self.title = next(columns), ""

    def room(self, tall: float) -> Column:
        """A column with room for so many mm: this one, or the next that has it."""
        while self.at.y - tall < self.at.bottom and self.at.y < self.at.top:
            self.at = next(self.columns)
            if self.title:
                self.at.y -= self.size * LEAD / MM
                self.draw(self.at, write_at(self.at.left, self.at.y, f"{self.title}, further", self.size, bold=True))
                self.at.y -= GAP / 2
        return self.at

    def words(self, lines: Sequence[str], scale: float = 1.0, bold: bool = False, indent: float = 0.0, keep: float = 0.0) -> None:
        """Some lines. scale: of their letters. keep: how much of what follows must stand with them, mm."""
        size = self.size * scale
        tall = size * LEAD / MM
        column = self.room(tall * len(lines) + keep)
        for line in lines:
            column.y -= tall
            self.draw(column, write_at(column.left + indent, column.y, line, size, bold))

    def draw(self, column: Column, act: Act) -> None:
        """Keep what is drawn on a page."""
        self.pages.setdefault(column.page, []).append(act)

    def section(self, section: LidSection) -> None:
        """A section with its title."""
        column = self.at
        if column.y < column.top:
            column.y -= GAP
        self.title = ""
        self.words([section.title], HEAD, bold=True, keep=2 * self.size * LEAD / MM)
        self.title = section.title
        self.rule(self.at.y - 1.2)
        self.at.y -= 1.6
        for n, line in enumerate(section.lines, 1):
            indent = COUNTED if section.numbered else 0.0
            lines = wrapped(line, self.at.width - indent, size=self.size)
            self.words(lines, indent=indent)
            if section.numbered:
                y = self.at.y + (len(lines) - 1) * self.size * LEAD / MM
                self.draw(self.at, write_at(self.at.left, y, f"{n}.", self.size, bold=True))
            self.at.y -= 0.6
        if section.rows:
            self.table(section)

    def rule(self, y: float) -> None:
        """A line over the width of the column."""
        column = self.at

        def act(canvas: "Canvas") -> None:
            canvas.setLineWidth(0.4)
            canvas.line(column.left * MM, y * MM, (column.left + column.width) * MM, y * MM)

        self.draw(column, act)

    def table(self, section: LidSection) -> None:
        """The rows of a section; each column as wide as its words want, shared out where there is less."""
        shares = shares_of(section, self.at.width, self.size)
        if any(section.headings):
            self.row(section.headings, shares, bold=True)
        for row in section.rows:
            self.row(row, shares, first_bold=not any(section.headings))

    def row(self, row: Sequence[str], widths: Sequence[float], bold: bool = False, first_bold: bool = False) -> None:
        """A row of a table."""
        cells = [
            wrapped(cell, width - GAP, bold or (first_bold and n == 0), self.size)
            for n, (cell, width) in enumerate(zip(row, widths, strict=True))
        ]
        step = self.size * LEAD / MM
        column = self.room(step * max(map(len, cells)) + 0.5)
        x = column.left
        for n, (lines, width) in enumerate(zip(cells, widths, strict=True)):
            for k, line in enumerate(lines):
                self.draw(column, write_at(x, column.y - (k + 1) * step, line, self.size, bold or (first_bold and n == 0)))
            x += width
        column.y -= step * max(map(len, cells)) + 0.5


def write_at(x: float, y: float, words: str, size: float, bold: bool = False) -> Act:
    """Words at a place of a page, mm."""
    return lambda canvas: write(canvas, x * MM, y * MM, words, size, bold=bold)


def shares_of(section: LidSection, width: float, size: float) -> list[float]:
    """How wide the columns of a table are, mm: by their longest words, and none less than a fifth."""
    rows = [section.headings, *section.rows]
    wished = [max(width_of(cell, size, True) for cell in column) + GAP for column in zip(*rows, strict=True)]
    if sum(wished) <= width:
        return [*wished[:-1], width - sum(wished[:-1])]
    least = [min(w, width * 0.2) for w in wished]
    spare = (width - sum(least)) / sum(w - s for w, s in zip(wished, least, strict=True))
    return [s + (w - s) * spare for w, s in zip(wished, least, strict=True)]


def height_of(put: Callable[[Flow], None], width: float, size: float) -> float:
    """How tall what is put into a column so wide is, mm."""
    flow = Flow(iter([Column(0, 0.0, width, 1e6, 0.0)]), {}, size)
    put(flow)
    return 1e6 - flow.at.y + GAP


def size_in(panel: Column, put: Callable[[Flow], None]) -> float:
    """The largest letters in which a panel holds what is put into it; the smallest where it does in none."""
    room = panel.top - panel.bottom
    return next((size for size in SIZES if height_of(put, panel.width, size) <= room), SIZE)


def set_into(panel: Column, further: Iterator[Column], pages: dict[int, list[Act]], put: Callable[[Flow], None]) -> None:
    """Put something into a panel in the largest letters with which it holds it; the smallest, and further columns, where none does."""
    put(Flow(chain([panel], further), pages, size_in(panel, put)))


def halves(page: int, width: float, height: float, bottom: float = EDGE, drop: float = 0.0) -> tuple[Column, Column]:
    """The left and the right half of a page. drop: what stands over them, mm."""
    half = width / 2 - 1.5 * EDGE
    top = height - EDGE - drop
    return Column(page, EDGE, half, top, bottom), Column(page, width / 2 + EDGE / 2, half, top, bottom)


def lid_pdf(assessment: Assessment, paper: Paper, today: date) -> bytes:
    """The sheet: front and back on its outside, diagram, fuses and cut-offs inside; further pages only where more stands in it."""
    a = assessment
    sheet, name = lid_of(a), a.design.name
    canvas, out, width, height = new_canvas(paper, True, f"{name}: sheet for the lid")
    pages: dict[int, list[Act]] = {OUTSIDE: [], INSIDE: []}
    further = chain.from_iterable(halves(page, width, height) for page in count(INSIDE + 1))
    back, front = halves(OUTSIDE, width, height)
    set_foot(pages[OUTSIDE], back, a, today)
    set_into(front, further, pages, lambda flow: put_front(flow, a, sheet))
    set_into(back, further, pages, lambda flow: put_all(flow, sheet.back))
    diagram = draw_path(a.power, frozenset())
    drop, scale = room_for(diagram, sheet.inside, width, height)
    pages[INSIDE].append(lambda c: paint(c, diagram, (width - diagram.width * scale) / 2, height - EDGE, scale))
    left, right = halves(INSIDE, width, height, drop=drop)
    under = (left, right) if drop < height - 2 * EDGE - LEAST_MM else (next(further), next(further))
    tables = [partial(put_all, sections=[section]) for section in sheet.inside]
    size = min(size_in(column, table) for column, table in zip(under, tables, strict=True))
    for column, table in zip(under, tables, strict=True):
        table(Flow(chain([column], further), pages, size))
    pages[INSIDE].append(write_at(EDGE, EDGE - 5, f"{name}: as designed, {calendar_day(today)}", 7))
    for page in sorted(pages):
        canvas.setFillColor(INK)
        canvas.setStrokeColor(INK)
        for act in pages[page]:
            act(canvas)
        if page == OUTSIDE:
            fold_marks(canvas, width, height)
        canvas.showPage()
    if scale < (least := readable(diagram)):
        draw_sheets(canvas, diagram, f"{name}: diagram", (width, height), least)
    canvas.save()
    return out.getvalue()


def readable(diagram: Drawing) -> float:
    """The least scale at which every word of a diagram can be read."""
    return LEAST_LETTER / min((item.size for item in diagram.items if isinstance(item, Text)), default=LEAST_LETTER)


def room_for(diagram: Drawing, tables: Sequence[LidSection], width: float, height: float) -> tuple[float, float]:
    """How much of the inside the diagram takes from its top, mm, and its scale: as large as leaves room for the tables under it; where it
    could not be read then, the whole of it, and they go on to a further sheet."""
    whole = min((width - 2 * EDGE) / diagram.width, (height - 2 * EDGE) / diagram.height)
    wanted = max(height_of(partial(put_all, sections=[table]), width / 2 - 1.5 * EDGE, SIZE) for table in tables) + GAP
    beside = min(whole, max(0.0, height - 2 * EDGE - wanted) / diagram.height)
    scale = beside if beside >= readable(diagram) else whole
    return diagram.height * scale + GAP, scale


def put_all(flow: Flow, sections: Sequence[LidSection]) -> None:
    """Sections one after another."""
    for section in sections:
        flow.section(section)


def put_front(flow: Flow, a: Assessment, sheet: LidSheet) -> None:
    """The front: what it is called and for, then its sections."""
    flow.words(wrapped(a.design.name, flow.at.width, True, flow.size * NAME), NAME, bold=True)
    if a.design.brief.purpose:
        flow.words(wrapped(a.design.brief.purpose, flow.at.width, size=flow.size)[:MOST_OF_PURPOSE])
    put_all(flow, sheet.front)


def foot_of(a: Assessment, today: date, room: float) -> list[tuple[str, bool]]:
    """The lines beside the code: when it was printed, where the file of the design is kept, by what it is known again; which are bold."""
    words = [
        (f"Printed {calendar_day(today)}", True),
        (f"Design file kept at: {a.design.assembly.kept_at or '______________________'}", False),
        (f"Its digest: {digest_of(a.design)[:16]}", False),
        (LAST_WORDS, False),
    ]
    return [(line, bold) for text, bold in words for line in wrapped(text, room, bold, SIZE)]


def set_foot(acts: list[Act], back: Column, a: Assessment, today: date) -> None:
    """The foot of the back, for which its room is taken: a code that says of which design this is, and where its file is kept, in words
    beside it."""
    digest, kept = digest_of(a.design), a.design.assembly.kept_at
    said = f"{a.design.name}\nkegcart/design sha256 {digest}\nkept at: {kept or 'not said'}\n{today.isoformat()}"
    lines, step = foot_of(a, today, back.width - QR_MM - GAP), SIZE * LEAD / MM
    tall = max(QR_MM, len(lines) * step)
    acts.append(lambda canvas: draw_qr(canvas, said, back.left, EDGE + tall - QR_MM, QR_MM))
    for n, (line, bold) in enumerate(lines, 1):
        acts.append(write_at(back.left + QR_MM + GAP, EDGE + tall - n * step, line, SIZE, bold))
    back.bottom += tall + GAP


def draw_qr(canvas: "Canvas", text: str, x: float, y: float, size: float) -> None:
    """A QR code as vectors, with its quiet edge; its lower left corner and its size in mm."""
    import segno  # only for whoever prints one

    code = segno.make(text, error="m", micro=False, encoding="utf-8")
    matrix = [bytes(row) for row in code.matrix_iter(border=2)]
    step = size / len(matrix)
    canvas.setFillColor("#000000")
    for n, row in enumerate(matrix):
        for k, dark in enumerate(row):
            if dark:
                canvas.rect(
                    (x + k * step) * MM, (y + size - (n + 1) * step) * MM, step * MM * 1.02, step * MM * 1.02, stroke=0, fill=1
                )
    canvas.setFillColor(INK)


def fold_marks(canvas: "Canvas", width: float, height: float) -> None:
    """Where it is folded: a short line at both edges."""
    canvas.setLineWidth(0.3)
    for y in (2.0, height - 6.0):
        canvas.line(width / 2 * MM, y * MM, width / 2 * MM, (y + 4) * MM)
