"""The build book: everything that is known of a build as one PDF, chapter by chapter, each page numbered, with its contents at the front."""

import io
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import date
from typing import TYPE_CHECKING, Any, NamedTuple

from kegcart.core.assess import Assessment
from kegcart.core.box.sheet import draw_layout
from kegcart.core.check import Verdict
from kegcart.core.design import digest_of
from kegcart.core.finding import SEVERITY_ORDER, Finding, Severity
from kegcart.core.forecast import Forecast, forecast
from kegcart.core.loads.supplies import SUPPLIES
from kegcart.core.places import about
from kegcart.core.power.drawing.sheet import draw_sheet
from kegcart.core.units import calendar_day, clock, write_quantity
from kegcart.workbench.build_papers import ListPages, Marked, PaperColumn, PaperRow, assembly_pdf
from kegcart.workbench.lid_papers import draw_qr, lid_pdf
from kegcart.workbench.load_report import LoadTest, report_pdf
from kegcart.workbench.papers import (
    EDGE,
    MM,
    NothingToPrintError,
    Paper,
    checks_pdf,
    fitted,
    fitted_pdf,
    new_canvas,
    pack_pdf,
    wrapped,
    write,
)
from kegcart.workbench.photo_papers import Taken, photos_pdf
from kegcart.workbench.template import template_pdf

if TYPE_CHECKING:
    from pypdf import PdfWriter

NUMBER_Y = 4.5
"""Where the number of a page stands, mm from its lower edge: below what is printed on it."""
SIZE = 9.0

Row = Mapping[str, Any]


class Told(NamedTuple):
    """A finding in words: what it is about, what it says and why that matters."""

    severity: Severity
    about: str
    text: str

    @classmethod
    def of(cls, finding: Finding, a: Assessment) -> "Told":
        """A finding, written in the units shown at present."""
        return cls(finding.severity, about(finding.place, a.design), f"{finding.text} {finding.why}")


@dataclass(frozen=True, slots=True)
class BookRecord:
    """What was recorded of a build, as its screens have it: the time line, the newest first; its visits; what is ticked; what
    is found of its steps and its life; its last load test."""

    moments: Sequence[Row]
    visits: Sequence[Row]
    marked: Marked
    found: Sequence["Told"] = ()
    test: LoadTest | None = None


def book_pdf(assessment: Assessment, lived: BookRecord, paper: Paper, today: date) -> bytes:
    """The whole book. A chapter of which there is nothing yet is left out."""
    from pypdf import PdfWriter

    seen = forecast(assessment)
    chapters = list(written(seen, lived, paper, today))
    book, starts = PdfWriter(), list[int]()
    for _, content in chapters:
        starts.append(len(book.pages))
        book.append(io.BytesIO(content), import_outline=False)
    contents = [(title, start + 2) for (title, _), start in zip(chapters, starts, strict=True)]
    book.merge(0, io.BytesIO(cover(seen, contents, paper, today)))
    for title, page in contents:
        book.add_outline_item(title=title, page_number=page - 1)
    number_pages(book, assessment.design.name)
    book.add_metadata({"/Title": f"{assessment.design.name}: build book"})
    book.compress_identical_objects()
    out = io.BytesIO()
    book.write(out)
    return out.getvalue()


def written(seen: Forecast, lived: BookRecord, paper: Paper, today: date) -> Iterator[tuple[str, bytes]]:
    """The chapters with their titles."""
    a = seen.assessment
    name, purpose = a.design.name, a.design.brief.purpose
    makers: list[tuple[str, Callable[[], bytes]]] = [
        ("Brief, loads and charging", lambda: brief_pdf(a, paper)),
        ("Findings", lambda: findings_pdf(seen, lived, paper)),
        ("Verification", lambda: checks_pdf(seen, paper)),
        ("Pack", lambda: pack_pdf(a, "top", paper, true_scale=False)),
        ("Power path", lambda: fitted_pdf(draw_sheet(a.power, name, purpose), f"{name}: power path", paper)),
    ]
    if a.box is not None:
        box = a.box
        makers.append(("Box", lambda: fitted_pdf(draw_layout(box, name, purpose), f"{name}: layout", paper)))
        makers.append(("Drill template, 1:1", lambda: template_pdf(a, paper)))
    makers += [
        ("Assembly", lambda: assembly_pdf(a, paper, lived.marked)),
        ("Sheet for the lid", lambda: lid_pdf(a, paper, today)),
        ("Load test", lambda: tested_pdf(lived, paper)),
        ("Log", lambda: log_pdf(name, lived, paper)),
        ("Photos", lambda: photos_pdf(name, photos_taken(lived), paper)),
    ]
    for title, make in makers:
        with suppress(NothingToPrintError):
            yield title, make()


def cover(seen: Forecast, contents: Sequence[tuple[str, int]], paper: Paper, today: date) -> bytes:
    """The first page: what it is, how it is judged, what stands where."""
    a = seen.assessment
    design = a.design
    canvas, out, width, height = new_canvas(paper, False, f"{design.name}: build book")
    room, y = width - 4 * EDGE, height - 62.0
    for line in wrapped(design.name, room, True, 28)[:3]:
        write(canvas, 2 * EDGE * MM, y * MM, line, 28, bold=True)
        y -= 11
    for line in wrapped(design.brief.purpose, room, size=12)[:4]:
        write(canvas, 2 * EDGE * MM, y * MM, line, 12)
        y -= 5.5
    y -= 6
    checks = [*a.checks, *seen.checks]
    counts = {verdict: sum(c.verdict is verdict for c in checks) for verdict in Verdict}
    facts = [
        f"Build book, {calendar_day(today)}",
        f"{a.pack.chemistry.label}, {a.pack.v_nom.text}, {a.pack.capacity.text}; {a.power.available.text} usable",
        f"Judged: {counts[Verdict.HOLDS]} hold, {counts[Verdict.FAILS]} fail, {counts[Verdict.OPEN]} cannot be judged yet",
        f"Digest of the design file: {digest_of(design)[:32]}",
        f"Kept at: {design.assembly.kept_at or '______________________'}",
    ]
    for fact in facts:
        for line in wrapped(fact, room, size=11):
            write(canvas, 2 * EDGE * MM, y * MM, line, 11)
            y -= 5.5
    y -= 8
    for title, page in contents:
        write(canvas, 2 * EDGE * MM, y * MM, title, 12)
        write(canvas, (width - 2 * EDGE) * MM, y * MM, str(page), 12, anchor="end")
        canvas.setLineWidth(0.2)
        canvas.line(2 * EDGE * MM, (y - 1.6) * MM, (width - 2 * EDGE) * MM, (y - 1.6) * MM)
        y -= 6.5
    caution = "Cautions stand where the act happens. Local codes and licensed practice come before anything that stands here."
    write(canvas, 2 * EDGE * MM, 2 * EDGE * MM, caution, SIZE)
    draw_qr(canvas, f"{design.name}\nkegcart/design sha256 {digest_of(design)}", width - 2 * EDGE - 28, height - 50, 28)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def number_pages(book: "PdfWriter", name: str) -> None:
    """The number of each page at its foot, whatever size it has."""
    from pypdf import PdfReader

    canvas, out, _, _ = new_canvas("a4", False, name)
    for n, page in enumerate(book.pages, 1):
        canvas.setPageSize((float(page.mediabox.width), float(page.mediabox.height)))
        said = f"{fitted(name, 100, 7.5)}, page {n} of {len(book.pages)}"
        write(canvas, float(page.mediabox.width) / 2, NUMBER_Y * MM, said, 7.5, anchor="middle")
        canvas.showPage()
    canvas.save()
    for page, stamp in zip(book.pages, PdfReader(out).pages, strict=True):
        page.merge_page(stamp)


def brief_pdf(a: Assessment, paper: Paper) -> bytes:
    """What is asked of it: the brief, every load, every source."""
    brief = a.design.brief
    pages = ListPages(a.design.name, paper, "brief")
    asked = [
        (
            "Where it stands",
            f"{write_quantity(brief.site_min_c, '°C')} to {write_quantity(brief.site_max_c, '°C')}, {brief.exposure}",
        ),
        ("Away from its charger", f"{write_quantity(brief.hours_away, 'h')} from {clock(brief.ready_h)}"),
        ("Carried by", brief.carriage),
        ("At most", write_quantity(brief.mass_limit_kg, "kg") if brief.mass_limit_kg is not None else "no limit of mass"),
        ("Budget", f"{brief.budget:.2f} {brief.currency}" if brief.budget is not None else "not said"),
        ("Mains", brief.mains),
        ("To be left at the end", write_quantity(brief.reserve, "share")),
        ("On the shelf, loads off", write_quantity(brief.shelf_days, "days")),
        ("Growth allowed for", write_quantity(brief.growth, "share")),
    ]
    columns = [PaperColumn("asked", 50), PaperColumn("", 130)]
    pages.table("brief", brief.purpose or "What it is for is not said.", columns, [PaperRow(row) for row in asked])
    columns = [
        PaperColumn("load", 52), PaperColumn("on", 26), PaperColumn("how many", 16, "end"), PaperColumn("running", 20, "end"),
        PaperColumn("hours", 44), PaperColumn("a day", 20, "end"),
    ]  # fmt: skip
    rows = []
    for demand in a.loads.demands.values():
        load = demand.load
        hours = ", ".join(f"{clock(w.from_h)} to {'24:00' if w.to_h == 24 else clock(w.to_h)}" for w in load.windows.values())
        cells = [
            load.name,
            SUPPLIES[load.supply].label,
            str(load.count),
            demand.running.text,
            hours or "all day",
            demand.energy.text,
        ]
        rows.append(PaperRow(cells))
    pages.table("loads", "What hangs on it, as the meter or the plate says, all of a kind together.", columns, rows, follows=True)
    columns = [
        PaperColumn("source", 60), PaperColumn("up to", 25, "end"), PaperColumn("into the pack", 25, "end"),
        PaperColumn("takes", 25, "end"), PaperColumn("", 45),
    ]  # fmt: skip
    sources = [PaperRow([s.name, s.set_point.text, s.current.text, s.taken_w.text, ""]) for s in a.charging.sources.values()]
    pages.table("charging", "What charges it." if sources else "Nothing charges it yet.", columns, sources, follows=True)
    return pages.done()


def findings_pdf(seen: Forecast, lived: BookRecord, paper: Paper) -> bytes:
    """What was found of its design, its steps and its life, the worst first. Errors: NothingToPrintError where there is nothing."""
    a = seen.assessment
    judged = [*a.findings, *(c.finding for c in seen.checks if c.finding is not None)]
    found = sorted([*lived.found, *(Told.of(f, a) for f in judged)], key=lambda told: SEVERITY_ORDER[told.severity])
    if not found:
        raise NothingToPrintError("nothing was found")
    pages = ListPages(a.design.name, paper, "findings")
    columns = [PaperColumn("", 14), PaperColumn("of", 42), PaperColumn("what was found", 124)]
    rows = [PaperRow([told.severity.value, told.about, told.text]) for told in found]
    pages.table(
        "findings", "A stop can hurt, or cannot work; a mend shortens a life or wastes; a note is worth knowing.", columns, rows
    )
    return pages.done()


def log_pdf(name: str, lived: BookRecord, paper: Paper) -> bytes:
    """Its life: visits, and the time line. Errors: NothingToPrintError where nothing was recorded."""
    if not lived.moments and not lived.visits:
        raise NothingToPrintError("nothing was recorded yet")
    pages = ListPages(name, paper, "log")
    if lived.visits:
        columns = [PaperColumn("visit", 50), PaperColumn("last", 28), PaperColumn("due", 28), PaperColumn("what is done", 90)]
        rows = [PaperRow([v["label"], day(v["last"]) or "never", day(v["due"]), v["text"]], box=False) for v in lived.visits]
        pages.table("visits", "What is looked after, and when.", columns, rows)
    columns = [PaperColumn("day", 24), PaperColumn("", 50), PaperColumn("", 110)]
    rows, last = [], ""
    for moment in lived.moments:
        said = f"{moment['text']} {moment['remark']}".strip()
        rows.append(PaperRow([day(moment["on"]) if moment["on"] != last else "", moment["title"], said]))
        last = moment["on"]
    pages.table("time line", "The newest first.", columns, rows, follows=bool(lived.visits))
    return pages.done()


def day(on: str) -> str:
    """A day as a person says it; nothing where there is none."""
    return calendar_day(date.fromisoformat(on)) if on else ""


def tested_pdf(lived: BookRecord, paper: Paper) -> bytes:
    """The report of its last load test. Errors: NothingToPrintError where none was made."""
    if lived.test is None:
        raise NothingToPrintError("no load test was made yet")
    return report_pdf(lived.test, paper)


def photos_taken(lived: BookRecord) -> Iterator[Taken]:
    """The photos of its life, the oldest first."""
    for moment in reversed(lived.moments):
        if moment["kind"] == "photo":
            data, words = moment["data"], f"{moment['data']['what']} {moment['remark']}".strip()
            yield Taken(data["digest"], data["width"], data["height"], date.fromisoformat(moment["on"]), words)
