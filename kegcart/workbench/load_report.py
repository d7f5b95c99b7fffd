"""The report of a load test on paper: plan, conditions, readings, charts, verdicts, what was learned, what happened, photos, a line to sign."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from math import ceil, floor, log10
from typing import TYPE_CHECKING, Any, Final

from kegcart.core.bench.bands import TRACES
from kegcart.core.bench.tested import LEAST
from kegcart.core.design import digest_of, read_design
from kegcart.core.units import Units, as_builder_has_it, calendar_day, shown_in, significant, write_quantity
from kegcart.workbench.build_papers import ListPages, PaperColumn, PaperRow
from kegcart.workbench.papers import EDGE, MM, NothingToPrintError, Paper, width_of, write
from kegcart.workbench.photo_papers import Taken, photo_pages

if TYPE_CHECKING:
    from reportlab.pdfgen.canvas import Canvas

INK, FAINT, BAND, RULE, OFF = "#1f2a2e", "#6b6459", "#e6ddcc", "#cfc6b6", "#a8322a"
SIZE = 8.0
STRIP, ASIDE, LEFT = 42.0, 9.0, 16.0
"""Height of a chart, what stands between two, and the room for its scale, mm."""
TICKS = 4
EVERY_S, MOST_MOMENTS = (10, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200, 14400, 28800), 10
"""The time axis is told at round moments, so many at most."""
LINE_OF: Final[Mapping[str, str]] = {"shunt": "amps", "posts": "posts_low", "joint": "joint", "cell": "cell_low"}
"""The line at which a trace stops the test."""
HAPPENED: Final[Mapping[str, str]] = {
    "begin": "step begun",
    "end": "step ended",
    "pause": "paused",
    "go on": "went on",
    "repeat": "repeated",
    "skip": "left out",
    "stop": "stopped",
    "finish": "finished",
    "note": "note",
    "instrument": "instrument",
    "gap": "nothing was read",
    "turn": "read the other way round",
    "out of band": "out of band",
}
Row = Mapping[str, Any]
Course = Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class LoadTest:
    """A load test as its report has it, in plain data.

    document: the design that was tested. steps, lines: as they were prepared. courses: expected of each step. spans: the steps as they were run. traces: what was watched, moments and values. judged:
    what the readings said.
    """

    document: Row
    begun: datetime
    over: datetime | None
    steps: Sequence[Row]
    lines: Row
    courses: Sequence[Course]
    spans: Sequence[Row]
    events: Sequence[Row]
    instruments: Sequence[Row]
    traces: Mapping[str, Mapping[str, Sequence[float]]]
    judged: Row | None
    photos: Sequence[Taken]

    @property
    def name(self) -> str:
        """Of the build."""
        return str(self.document["name"])

    def step(self, key: str) -> Row:
        """A step by its key."""
        return next(step for step in self.steps if step["key"] == key)


def report_pdf(test: LoadTest, paper: Paper) -> bytes:
    """The report. Errors: NothingToPrintError where nothing was read."""
    if not test.traces:
        raise NothingToPrintError("nothing was read in this test")
    units: Units = test.document.get("brief", {}).get("units", "metric")
    with shown_in(units):
        pages = ListPages(test.name, paper, f"load test of {calendar_day(test.begun.date())}")
        for part in (conditions, verdict, plan, charts, readings, learned, happened):
            part(pages, test)
        photo_pages(pages, test.photos)
        signature(pages)
        return pages.done()


def conditions(pages: ListPages, test: LoadTest) -> None:
    """What was tested, when, by which instruments, and as how warm and full it began."""
    first = {key: trace["v"][0] for key, trace in test.traces.items() if len(trace["v"])}
    units = {trace.key: trace.unit for trace in TRACES}
    began = [
        f"{label} {write_quantity(first[key], units[key])}"
        for key, label in (("posts", "posts"), ("air", "air inside"), ("cell", "lowest cell"))
        if key in first
    ]
    lasted = f", {write_quantity((test.over - test.begun).total_seconds() / 60, 'min')} in all" if test.over else ""
    told = [
        ("Tested", f"{calendar_day(test.begun.date())} from {test.begun:%H:%M}{lasted}"),
        ("Began with", ", ".join(began) or "nothing read"),
        ("Instruments", "; ".join(str(i["name"]) for i in test.instruments) or "none named"),
        ("Steps", f"{len({s['step'] for s in test.spans})} of {len(test.steps)} were run"),
        ("Design", f"digest {digest_of(read_design(dict(test.document)))[:32]}"),
    ]
    columns = [PaperColumn("", 36), PaperColumn("", 144)]
    pages.table(
        f"load test of {calendar_day(test.begun.date())}",
        "What stands here was read on this station; local codes and licensed practice come before it.",
        columns,
        [PaperRow(row) for row in told],
    )


def verdict(pages: ListPages, test: LoadTest) -> None:
    """What the readings say: stop lines, bands, causes, and what would tell more."""
    said = test.judged or {"stops": [], "steps": [], "diagnosis": {"causes": [], "next": None, "missing": "it was not judged"}}
    rows = []
    for stop in said["stops"]:
        limit, read = stop["limit"], stop["read"]
        where = f", {stop['where']}" if stop["where"] else ""
        rows.append(PaperRow(["stop line", f"{limit.get('label', '')} {limit['text']}: {read['text']} was read{where}"]))
    off = [reading for step in said["steps"] for reading in step["readings"] if reading["off"]]
    many = sum(len(step["readings"]) for step in said["steps"])
    rows.append(PaperRow(["bands", f"{many - len(off)} of {many} readings at the ends of steps lie within their bands"]))
    diagnosis = said["diagnosis"]
    for n, cause in enumerate(diagnosis["causes"]):
        if cause["share"] >= LEAST:
            words = f"{cause['words']}, {cause['amount']['text']} ({cause['share']:.0%})"
            rows.append(PaperRow(["likeliest cause" if n == 0 else "or", words]))
    if diagnosis["missing"]:
        rows.append(PaperRow(["causes", f"nothing can be said: {diagnosis['missing']}"]))
    elif not diagnosis["causes"]:
        rows.append(PaperRow(["causes", "nothing explains the readings better than a sound station"]))
    if diagnosis["next"]:
        rows.append(PaperRow(["tells more", diagnosis["next"]["words"]]))
    pages.table(
        "what the readings say", "Held against the design as it was.", [PaperColumn("", 36), PaperColumn("", 144)], rows, True
    )


def plan(pages: ListPages, test: LoadTest) -> None:
    """The steps as planned, and as they were run."""
    columns = [
        PaperColumn("step", 36), PaperColumn("connected", 74), PaperColumn("planned", 20, "end"), PaperColumn("run", 20, "end"),
        PaperColumn("ended by", 40),
    ]  # fmt: skip
    rows = []
    for step in test.steps:
        own = [span for span in test.spans if span["step"] == step["key"]]
        planned = f"until {step['until']}" if step["until"] else write_quantity(step["seconds"] / 60, "min")
        if not own:
            rows.append(PaperRow([step["name"], step["connect"], planned, "left out", ""]))
        for span in own:
            ran = write_quantity((span["end_s"] - span["begin_s"]) / 60, "min")
            rows.append(PaperRow([step["name"], step["connect"], planned, ran, span["ended"] or "its time"]))
    pages.table("plan", "What was to be done, and what was.", columns, rows, True)


def readings(pages: ListPages, test: LoadTest) -> None:
    """What was read at the end of each step, with what was expected and its band."""
    columns = [
        PaperColumn("step", 36), PaperColumn("reading", 56), PaperColumn("read", 24, "end"), PaperColumn("expected", 24, "end"),
        PaperColumn("band", 22, "end"), PaperColumn("", 20),
    ]  # fmt: skip
    labels, rows = {trace.key: trace.label for trace in TRACES}, []
    for step in test.judged["steps"] if test.judged else ():
        name = test.step(step["key"])["name"]
        for n, reading in enumerate(step["readings"]):
            label = labels.get(reading["name"], reading["name"]) + (f", {reading['where']}" if reading["where"] else "")
            cells = [
                name if n == 0 else "",
                label,
                reading["read"]["text"],
                reading["expected"]["text"],
                f"± {reading['band']['text']}",
                "OUT" if reading["off"] else "within",
            ]
            rows.append(PaperRow(cells))
    pages.table("readings", "The mean of each step's last half minute.", columns, rows)


def learned(pages: ListPages, test: LoadTest) -> None:
    """Each figure as assumed, as measured, both together; or why it was not measured."""
    columns = [
        PaperColumn("figure", 62), PaperColumn("assumed", 38, "end"), PaperColumn("measured", 38, "end"),
        PaperColumn("both together", 42, "end"),
    ]  # fmt: skip
    rows = []
    for item in test.judged["learned"] if test.judged else ():
        figures = item["figures"]

        def both(name: str, figures: Row = figures) -> str:
            return f"{figures[name]['text']} ± {figures[f'{name}_doubt']['text']}"

        if item["refused"]:
            rows.append(PaperRow([f"{item['label']} (not measured: {item['refused']})", both("assumed"), "", ""]))
        else:
            rows.append(PaperRow([item["label"], both("assumed"), both("measured"), both("combined")]))
    pages.table("what was learned", "± is the standard uncertainty: two of three times it is off by less.", columns, rows, True)


def happened(pages: ListPages, test: LoadTest) -> None:
    """What happened, moment by moment."""
    columns = [PaperColumn("at", 20), PaperColumn("", 36), PaperColumn("", 130)]
    rows = [PaperRow([moment(event["at_s"]), HAPPENED[event["kind"]], words_of(event, test)]) for event in test.events]
    pages.table("what happened", "Hours, minutes and seconds since it began.", columns, rows, True)


def words_of(event: Row, test: LoadTest) -> str:
    """What an event says, in words."""
    data = event["data"]
    if "step" in data and data["step"] < len(test.steps):
        return str(test.steps[data["step"]]["name"])
    if "line" in data:
        line = test.lines[data["line"]]
        where = f", {data['where']}" if data["where"] else ""
        return f"{line.get('label', '')} {line['text']}: {write_quantity(data['value'], line['unit'])} was read{where}"
    labels = {trace.key: trace.label for trace in TRACES}
    said = [str(data[name]) for name in ("text", "how", "by", "name", "said", "channel") if data.get(name)]
    return ", ".join([*said, *(labels.get(trace, trace) for trace in data.get("traces", ()))])


def moment(seconds: float) -> str:
    """A moment of the test."""
    whole = int(seconds)
    return f"{whole // 3600:02}:{whole // 60 % 60:02}:{whole % 60:02}"


def signature(pages: ListPages) -> None:
    """Who tested it signs that."""
    columns = [PaperColumn("", 60), PaperColumn("", 60), PaperColumn("", 60)]
    said = "It was tested as it stands here. This takes the place of no inspection that local codes ask for."
    blank = "_" * 28
    rows = [PaperRow([f"Tested by {blank}", f"Seen by {blank}", f"Day {blank}"])]
    pages.table("signed", said, columns, rows, True)


def charts(pages: ListPages, test: LoadTest) -> None:
    """Every trace over the whole test, with its bands."""
    drawn = [trace for trace in TRACES if len(test.traces.get(trace.key, {}).get("v", ()))]
    room, first = EDGE + STRIP, True
    for trace in drawn:
        if first or pages.y < room:
            pages.turn("what was read")
            pages.y -= ASIDE
        chart = Chart(pages.canvas, test, trace.key, trace.unit, EDGE + LEFT, pages.y, pages.width - 2 * EDGE - LEFT)
        chart.draw(trace.label, names=first)
        pages.y, first = pages.y - STRIP - ASIDE, False


def round_values(least: float, most: float) -> Iterator[float]:
    """Some round values between two: steps of 1, 2 or 5 of a power of ten."""
    rough = (most - least) / TICKS
    power = 10.0 ** floor(log10(rough))
    step = next(power * n for n in (1, 2, 5, 10) if power * n >= rough * 0.999)
    n = ceil(least / step)
    while n * step <= most:
        yield n * step
        n += 1


class Chart:
    """One trace on paper: its bands, its line, the steps, the line at which it stops the test. Lengths in mm."""

    def __init__(self, canvas: "Canvas", test: LoadTest, key: str, unit: str, x: float, top: float, wide: float) -> None:
        self.canvas, self.test, self.key, self.unit = canvas, test, key, unit
        self.x, self.top, self.wide = x, top, wide
        trace = test.traces[key]
        self.t = [float(t) for t in trace["t"]]
        self.v = [as_builder_has_it(float(v), unit)[0] for v in trace["v"]]
        self.bands = list(self.bands_of())
        values = [*self.v, *(v for _, low, high in self.bands for v in (*low, *high))]
        least, most = min(values), max(values)
        spare = (most - least) * 0.06 or 1.0
        self.least, self.most = least - spare, most + spare
        self.begin, self.end = self.t[0], max(self.t[-1], self.t[0] + 1)

    def bands_of(self) -> Iterator[tuple[list[float], list[float], list[float]]]:
        """Moments, least and most of each step that was run."""
        keys = [step["key"] for step in self.test.steps]
        for span in self.test.spans:
            course = self.test.courses[keys.index(span["step"])]
            band = course["traces"].get(self.key)
            if band is None:
                continue
            inside = [n for n, s in enumerate(course["seconds"]) if span["begin_s"] + s <= span["end_s"] + 1]
            if len(inside) > 1:
                low, high = ([as_builder_has_it(band[name][n], self.unit)[0] for n in inside] for name in ("low", "high"))
                yield [span["begin_s"] + course["seconds"][n] for n in inside], low, high

    def across(self, t: float) -> float:
        """Where a moment stands, in points."""
        return (self.x + (t - self.begin) / (self.end - self.begin) * self.wide) * MM

    def up(self, value: float) -> float:
        """Where a value stands, in points."""
        return (self.top - STRIP + (value - self.least) / (self.most - self.least) * STRIP) * MM

    def draw(self, label: str, names: bool) -> None:
        """All of it. names: the steps are named above it."""
        canvas = self.canvas
        canvas.setStrokeColor(RULE)
        canvas.setLineWidth(0.4)
        canvas.rect(self.x * MM, (self.top - STRIP) * MM, self.wide * MM, STRIP * MM)
        canvas.setFillColor(BAND)
        for t, low, high in self.bands:
            way = canvas.beginPath()
            way.moveTo(self.across(t[0]), self.up(low[0]))
            for moment_s, value in (*zip(t[1:], low[1:], strict=True), *zip(reversed(t), reversed(high), strict=True)):
                way.lineTo(self.across(moment_s), self.up(value))
            canvas.drawPath(way, stroke=0, fill=1)
        self.steps(names)
        self.scale()
        canvas.setStrokeColor(INK)
        canvas.setLineWidth(0.7)
        way = canvas.beginPath()
        way.moveTo(self.across(self.t[0]), self.up(self.v[0]))
        for moment_s, value in zip(self.t[1:], self.v[1:], strict=True):
            way.lineTo(self.across(moment_s), self.up(value))
        canvas.drawPath(way, stroke=1, fill=0)
        self.stop_line()
        canvas.setFillColor(INK)
        shown = as_builder_has_it(0, self.unit)[1]
        write(canvas, self.x * MM, (self.top + 1.4) * MM, f"{label}, {shown}", SIZE, bold=True)

    def steps(self, names: bool) -> None:
        """A fine line where each step begins; its name over the topmost chart, where there is room."""
        canvas, free = self.canvas, 0.0
        canvas.setStrokeColor(RULE)
        canvas.setLineWidth(0.3)
        canvas.setFillColor(FAINT)
        for span in self.test.spans:
            at = self.across(span["begin_s"])
            canvas.line(at, self.up(self.least), at, self.up(self.most))
            name = str(self.test.step(span["step"])["name"])
            if names and at >= free:
                write(canvas, at, (self.top + 5.4) * MM, name, 6)
                free = at + (width_of(name, 6) + 2) * MM

    def scale(self) -> None:
        """Round values at the left, hours and minutes below."""
        canvas = self.canvas
        canvas.setFillColor(FAINT)
        for value in round_values(self.least, self.most):
            write(canvas, (self.x - 1.5) * MM, self.up(value) - 2, significant(value, 4), 6.5, anchor="end")
        every = next((s for s in EVERY_S if (self.end - self.begin) / s <= MOST_MOMENTS), EVERY_S[-1])
        for n in range(ceil(self.begin / every), int(self.end / every) + 1):
            words = moment(n * every).removesuffix(":00")
            write(canvas, self.across(n * every), (self.top - STRIP - 3) * MM, words, 6.5, anchor="middle")

    def stop_line(self) -> None:
        """The line at which it stops the test, where it is in sight."""
        line = self.test.lines.get(LINE_OF.get(self.key, ""))
        if line is None:
            return
        limit = as_builder_has_it(float(line["value"]), self.unit)[0]
        if self.least < limit < self.most:
            self.canvas.setStrokeColor(OFF)
            self.canvas.setDash(3, 2)
            self.canvas.line(self.x * MM, self.up(limit), (self.x + self.wide) * MM, self.up(limit))
            self.canvas.setDash()
