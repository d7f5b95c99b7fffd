"""The assembly on paper: what is bought, what is cut, the tools, and the order of work with boxes to tick."""

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from kegcart.core.assembly.cutting import Piece, WireEnd
from kegcart.core.assembly.lines import GROUPS, ListLine
from kegcart.core.assembly.plan.acts import STAGES, Measure
from kegcart.core.assembly.sizing import AssemblySizing, Step
from kegcart.core.assess import Assessment
from kegcart.core.building import build_of
from kegcart.core.drawing import Anchor
from kegcart.core.log.bought import Bought, still_to_buy
from kegcart.core.units import write_quantity
from kegcart.workbench.papers import EDGE, MM, Paper, fitted, new_canvas, wrapped, write

SIZE, LINE = 8.5, 4.0
"""Letters in points, and the height of a line of them in mm."""
TITLE = 11.0
"""Letters of a title, points."""
LEAST_MM = 50.0
"""Room in which a table that follows another is begun, mm."""
GAP = 2.5
"""Between two columns, mm."""


class PaperColumn(NamedTuple):
    """A column of a table on paper: its heading, its share of the width, how its words are held."""

    heading: str
    share: float
    anchor: Anchor = "start"


class PaperRow(NamedTuple):
    """A row: its cells, whether it is a heading over those that follow, whether it has a box to tick, whether that is ticked."""

    cells: Sequence[str]
    heading: bool = False
    box: bool = False
    ticked: bool = False


class Marked(NamedTuple):
    """What is ticked already: how many of each line of the shopping list were bought, and the acts that are done."""

    bought: Bought
    done: frozenset[str]


NOTHING = Marked({}, frozenset())


class ListPages:
    """Tables one after another on as many pages as they take; each page is headed and numbered, each row stays whole."""

    def __init__(self, name: str, paper: Paper, what: str) -> None:
        self.name = name
        self.canvas, self.out, self.width, self.height = new_canvas(paper, False, f"{name}: {what}")
        self.page, self.y = 0, 0.0

    def table(
        self, title: str, said: str, columns: Sequence[PaperColumn], rows: Iterable[PaperRow], follows: bool = False
    ) -> None:
        """A table with a line under its title. follows: it begins under the one before, where there is room; else on a new page."""
        if follows and self.y > EDGE + LEAST_MM:
            self.y -= LINE * 1.5
            self.words(EDGE, title[0].upper() + title[1:], TITLE, bold=True)
            self.y -= LINE * 1.4
        else:
            self.turn(title)
        self.words(EDGE, said, SIZE)
        self.y -= LINE * 1.6
        self.headings(columns)
        for row in rows:
            lines = [
                wrapped(cell, width - GAP, row.heading, SIZE) for cell, width in zip(row.cells, self.widths(columns), strict=True)
            ]
            tall = LINE * max(len(cell) for cell in lines) + (1.5 if row.heading else 1.2)
            if self.y - tall - (LINE * 2 if row.heading else 0) < EDGE:
                self.turn(title)
                self.headings(columns)
            self.row(row, lines, columns, tall)

    def turn(self, title: str) -> None:
        """A new page with its head."""
        if self.page:
            self.canvas.showPage()
        self.page, self.y = self.page + 1, self.height - EDGE - 4
        self.canvas.setFillColor("#1f2a2e")
        self.canvas.setStrokeColor("#1f2a2e")
        write(
            self.canvas,
            EDGE * MM,
            self.y * MM,
            f"{fitted(self.name, self.width - 2 * EDGE - 60, TITLE, bold=True)}: {title}",
            TITLE,
            bold=True,
        )
        write(self.canvas, (self.width - EDGE) * MM, self.y * MM, f"page {self.page}", SIZE, anchor="end")
        self.y -= LINE * 1.6

    def widths(self, columns: Sequence[PaperColumn]) -> list[float]:
        """Width of each column, mm."""
        whole = sum(column.share for column in columns)
        return [(self.width - 2 * EDGE) * column.share / whole for column in columns]

    def words(self, x: float, words: str, size: float, bold: bool = False, anchor: Anchor = "start") -> None:
        """Words at the present line."""
        write(self.canvas, x * MM, self.y * MM, words, size, bold=bold, anchor=anchor)

    def cells(self, cells: Sequence[Sequence[str]], columns: Sequence[PaperColumn], bold: bool) -> None:
        """The words of a row, each cell in its column, from the present line down."""
        x, top = EDGE, self.y
        for lines, column, width in zip(cells, columns, self.widths(columns), strict=True):
            self.y = top
            for line in lines:
                self.words(x + (width - GAP if column.anchor == "end" else 0), line, SIZE, bold, column.anchor)
                self.y -= LINE
            x += width
        self.y = top

    def headings(self, columns: Sequence[PaperColumn]) -> None:
        """The headings of the columns with a line under them; nothing where no column has one."""
        if not any(column.heading for column in columns):
            return
        self.cells([[column.heading] for column in columns], columns, bold=True)
        self.canvas.setLineWidth(0.6)
        self.canvas.line(EDGE * MM, (self.y - 1.2) * MM, (self.width - EDGE) * MM, (self.y - 1.2) * MM)
        self.y -= LINE * 1.3

    def row(self, row: PaperRow, lines: Sequence[Sequence[str]], columns: Sequence[PaperColumn], tall: float) -> None:
        """One row, with a fine line under it."""
        if row.heading:
            self.y -= 1.5
        if row.box:
            self.canvas.setLineWidth(0.5)
            self.canvas.rect(EDGE * MM, (self.y - 0.4) * MM, 2.6 * MM, 2.6 * MM)
            if row.ticked:
                x, y = EDGE * MM, (self.y - 0.4) * MM
                self.canvas.setLineWidth(1.1)
                self.canvas.lines([(x + 1.4, y + 3.6, x + 3, y + 1.6), (x + 3, y + 1.6, x + 6.6, y + 7)])
        self.cells(lines, columns, row.heading)
        self.y -= tall
        self.canvas.setLineWidth(0.15)
        self.canvas.line(EDGE * MM, (self.y + LINE - 0.6) * MM, (self.width - EDGE) * MM, (self.y + LINE - 0.6) * MM)

    def done(self) -> bytes:
        """The file."""
        self.canvas.save()
        return self.out.getvalue()


def assembly_pdf(assessment: Assessment, paper: Paper, marked: Marked = NOTHING) -> bytes:
    """Shopping list, cut list, tools and order of work, each from a new page."""
    sizing, currency = build_of(assessment), assessment.design.brief.currency
    pages = ListPages(assessment.design.name, paper, "assembly")
    shopping_pages(pages, sizing, currency, marked.bought)
    if sizing.pieces:
        columns = [
            PaperColumn("", 5), PaperColumn("wire", 46), PaperColumn("gauge", 22), PaperColumn("cut", 17, "end"),
            PaperColumn("one end", 44), PaperColumn("other end", 44), PaperColumn("labels", 32),
        ]  # fmt: skip
        pages.table(
            "wire cut list",
            "As it lies, with both ends and dressing. Longest first from each length.",
            columns,
            map(cut_row, sizing.pieces),
        )
    columns = [PaperColumn("", 5), PaperColumn("tool", 50), PaperColumn("for", 70), PaperColumn("why", 70)]
    rows = [PaperRow(["", tool.what, tool.sizes, tool.why], box=True) for tool in sizing.tools]
    pages.table("tools", "What the terminals, holes and studs of this build ask for.", columns, rows)
    columns = [
        PaperColumn("", 5),
        PaperColumn("no.", 9, "end"),
        PaperColumn("step", 48),
        PaperColumn("how", 82),
        PaperColumn("check", 56),
    ]
    said = "Cautions stand where the act happens. Local codes and licensed practice come first."
    pages.table("order of assembly", said, columns, step_rows(sizing, marked.done))
    return pages.done()


def shopping_pages(pages: ListPages, sizing: AssemblySizing, currency: str, bought: Bought) -> None:
    """The shopping list, group by group, with its total."""
    shopping = sizing.shopping
    columns = [
        PaperColumn("", 5), PaperColumn("what", 62), PaperColumn("rating", 52), PaperColumn("needed", 18, "end"),
        PaperColumn("to buy", 18, "end"), PaperColumn("each", 17, "end"), PaperColumn(currency, 18, "end"),
    ]  # fmt: skip
    rows = list[PaperRow]()
    for group, name in GROUPS.items():
        lines = [line for line in shopping.lines if line.group == group]
        if lines:
            rows.append(PaperRow(["", name, "", "", "", "", ""], heading=True))
            rows += [shopping_row(line, still_to_buy(line, bought) == 0) for line in lines]
    without = int(shopping.without_price.number)
    said = f"To buy: {shopping.total.number:.2f} {currency}" + (
        f", without {without} lines that have no price" if without else ""
    )
    pages.table("shopping list", f"{said}. What is there already is taken off.", columns, rows)


def shopping_row(line: ListLine, ticked: bool) -> PaperRow:
    """A line of the shopping list. ticked: nothing of it is still to be bought."""
    each = f"{line.price.number:.2f}" if line.price else ""
    cost = f"{line.cost.number:.2f}" if line.cost and line.buy.number > 0 else "comes with it" if line.comes_with else ""
    buy = write_quantity(line.buy.value, line.unit) if line.buy.number > 0 and not line.comes_with else "–"
    return PaperRow(
        ["", line.what, line.rating, write_quantity(line.need.value, line.unit), buy, each, cost],
        box=line.buy.number > 0 and not line.comes_with,
        ticked=ticked,
    )


def cut_row(piece: Piece) -> PaperRow:
    """A piece of wire."""
    count = f"{piece.count} × " if piece.count > 1 else ""
    colour = "cable" if piece.cores > 1 else piece.colour
    ends = [f"{end_words(end)}, {end.name}" for end in piece.ends]
    labels = "; ".join(end.label for end in piece.ends)
    return PaperRow(["", piece.name, f"{piece.gauge} {colour}", f"{count}{piece.cut.text}", *ends, labels], box=True)


def end_words(end: WireEnd) -> str:
    """A terminal in a few words."""
    return f"lug {end.hole}" if end.bolted else end.terminal.label


def step_rows(sizing: AssemblySizing, done: frozenset[str]) -> Iterable[PaperRow]:
    """The steps by stage and evening."""
    last, caution = ("", 0), ""
    for step in sizing.steps:
        now = (step.act.stage, step.evening)
        if now != last:
            yield PaperRow(["", "", STAGES[step.act.stage][0], f"evening {step.evening}", ""], heading=True)
            last = now
        yield step_row(step, "" if step.act.caution == caution else step.act.caution, step.act.key in done)
        caution = step.act.caution or caution


def step_row(step: Step, caution: str, done: bool) -> PaperRow:
    """A step with what is checked at its end. caution: where it is another than stands over it."""
    act = step.act
    checks = "; ".join(measure_words(measure) for measure in act.measures)
    return PaperRow(["", str(step.number), act.title, f"{act.text} {caution}", checks], box=True, ticked=done)


def measure_words(measure: Measure) -> str:
    """What is measured, with its limits and a place to write."""
    if not measure.unit:
        return f"{measure.label}: ____"
    limits = [f"at least {measure.least.text}" if measure.least else "", f"at most {measure.most.text}" if measure.most else ""]
    return f"{measure.label}: {', '.join(filter(None, limits))}: ______"
