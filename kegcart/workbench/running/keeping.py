"""Tests as they are stored: the run, its events, its readings in chunks."""

import time
from collections.abc import Iterator
from typing import Any

import numpy as np
from django.db import transaction
from django.utils import timezone
from pydantic_core import from_json, to_json

from kegcart.core.bench.chunks import Reading, extremes, packed, traces_of, unpacked
from kegcart.core.bench.live import LiveTest, TestEvent
from kegcart.core.bench.prepared import run_steps, watch_of
from kegcart.core.bench.readings import Readings
from kegcart.core.bench.run_file import (
    EventRow,
    InstrumentRow,
    RunFile,
    read_events,
    read_run_csv,
    read_run_file,
    write_run_csv,
    write_run_file,
)
from kegcart.core.bench.tables import write_readings_csv
from kegcart.core.bench.thinning import Thinned
from kegcart.core.design import read_design, write_design
from kegcart.workbench import longwork, services
from kegcart.workbench.models import LogEntry, ReadingChunk, TestRun, TestRunEvent
from kegcart.workbench.workers import workers

MOMENT_DIGITS = 4
"""As chunks keep moments: so a moment is the same in whichever it lies."""
CHUNK_S = 10.0
"""A chunk holds so many seconds by the machine's clock."""
FINE_CHUNKS = 400
"""So many chunks are drawn reading by reading; of more, the extremes of each."""
MOST_POINTS = 2000


class KeptReadings:
    """The readings of a run, on disk each time they are kept: the chunk that grows is written over."""

    def __init__(self, run: TestRun) -> None:
        self.run = run
        last = run.chunks.order_by("-number").values_list("number", flat=True).first()
        self.number = 0 if last is None else last + 1
        self.readings: list[Reading] = []
        self.begun = time.monotonic()
        self.new = False

    def put(self, at_s: float, values: dict[str, float]) -> None:
        """Take readings of one moment."""
        moment = round(at_s, MOMENT_DIGITS)
        self.readings += [(moment, channel, value) for channel, value in values.items()]
        self.new = True

    def keep(self) -> None:
        """Write what is new."""
        if self.new:
            begin, end = min(r[0] for r in self.readings), max(r[0] for r in self.readings)
            known = len(self.run.channels)
            content = packed(self.readings, begin, self.run.channels)
            read = unpacked([(begin, content)], self.run.channels)
            most = {key: [float(values.min()), float(values.max())] for key, (_, values) in traces_of(read).items()}
            with transaction.atomic():
                if len(self.run.channels) > known:
                    self.run.save(update_fields=["channels"])
                fields = {"begin_s": begin, "end_s": end, "extremes": most, "content": content, "stored_at": timezone.now()}
                ReadingChunk.objects.update_or_create(run=self.run, number=self.number, defaults=fields)
            self.new = False
        if self.readings and time.monotonic() - self.begun >= CHUNK_S:
            self.turn_over()

    def turn_over(self) -> None:
        """Begin a chunk of its own."""
        self.number, self.readings, self.begun = self.number + 1, [], time.monotonic()


UNTOLD = ("clock", "course")
"""Events that are for the run to be taken up and shown again, and nothing that a builder reads."""


def find_run(run_id: str) -> TestRun:
    """A run by id. Errors: MissingError."""
    run = TestRun.objects.filter(pk=run_id, design__deleted_at=None).first()
    if run is None:
        raise services.MissingError
    return run


def keep_event(run: TestRun, event: TestEvent) -> None:
    """Store what happened."""
    TestRunEvent.objects.create(run=run, at_s=event.at_s, kind=event.kind, data=dict(event.data))


def events_of(run: TestRun) -> list[TestEvent]:
    """All that happened in a run, in its order."""
    return [TestEvent(e.at_s, e.kind, e.data) for e in run.events.order_by("pk")]


def as_it_stands(run: TestRun) -> LiveTest:
    """A test as its stored events left it."""
    test = LiveTest(run_steps(run.prepared), watch_of(run.prepared), by_itself=run.by_itself)
    for event in events_of(run):
        test.happens(event)
    return test


def readings_of(run: TestRun, begin_s: float = 0.0, end_s: float = float("inf")) -> dict[str, tuple[Any, Any]]:
    """The readings of a run by channel: moments, s, and values."""
    found = run.chunks.filter(begin_s__lte=min(end_s, 1e12), end_s__gte=begin_s).order_by("number")
    return unpacked(found.values_list("begin_s", "content").iterator(), run.channels)


def moments_of(run: TestRun) -> Iterator[tuple[float, dict[str, float]]]:
    """The readings of a run moment by moment, each once, in order: of a long one never all at once.

    What instruments say arrives a little out of order, so that a chunk may begin before the one before it ends.
    """
    held: dict[float, dict[str, float]] = {}
    for begin_s, content in run.chunks.order_by("number").values_list("begin_s", "content").iterator(chunk_size=50):
        ended = sorted(moment for moment in held if moment < begin_s)
        yield from ((moment, held.pop(moment)) for moment in ended)
        for channel, (when, what) in unpacked([(begin_s, content)], run.channels).items():
            for moment, value in zip(when.tolist(), what.tolist(), strict=True):
                held.setdefault(round(moment, MOMENT_DIGITS), {})[channel] = value
    yield from sorted(held.items())


def chart_of(run: TestRun, begin_s: float, end_s: float, points: int) -> dict[str, dict[str, list[float]]]:
    """What is watched in a stretch of a run, by trace: moments and values, peaks kept, so many points at most."""
    chunks = run.chunks.filter(begin_s__lte=end_s, end_s__gte=begin_s).order_by("number")
    out = dict[str, dict[str, list[float]]]()
    if chunks.count() <= FINE_CHUNKS:
        for key, (moments, values) in traces_of(readings_of(run, begin_s, end_s)).items():
            within = (moments >= begin_s) & (moments <= end_s)
            t, v = extremes(moments[within], values[within], points)
            out[key] = {"t": [round(x, 3) for x in t.tolist()], "v": [float(f"{x:.6g}") for x in v.tolist()]}
        return out
    for begin, end, most in chunks.values_list("begin_s", "end_s", "extremes"):
        for key, (low, high) in most.items():
            course = out.setdefault(key, {"t": [], "v": []})
            course["t"] += [begin, (begin + end) / 2]
            course["v"] += [low, high]
    return {key: thinned(course, points) for key, course in out.items()}


def thinned(course: dict[str, list[float]], points: int) -> dict[str, list[float]]:
    """A course with fewer points, peaks kept."""
    t, v = extremes(np.array(course["t"]), np.array(course["v"]), points)
    return {"t": t.tolist(), "v": v.tolist()}


def photo_step(run_id: str) -> str:
    """What a photo that was taken while a test ran says in place of a step of assembly."""
    return f"test:{run_id}"


def file_of(run: TestRun) -> tuple[dict[str, Any], str]:
    """The file of a run that is over, as plain JSON data, and its readings as CSV."""
    events = [e for e in events_of(run) if e.kind not in UNTOLD]
    file = RunFile(
        id=run.pk,
        begun_at=run.begun_at,
        over_at=run.over_at or run.begun_at,
        by_itself=run.by_itself,
        design=run.document,
        steps=[step["key"] for step in run.prepared["steps"]],
        instruments=[InstrumentRow(name=i["name"], address=i["address"]) for i in run.instruments],
        events=[EventRow.model_validate({"at_s": e.at_s, "kind": e.kind, "data": e.data}) for e in events],
    )
    return write_run_file(file), write_run_csv(moments_of(run), run.channels)


def take_file(design_id: str, data: Any, readings: str) -> TestRun:
    """A run out of its file, stored with a build. Errors: DesignError."""
    file = read_run_file(data)
    text = to_json(write_design(read_design(file.design)))
    prepared = from_json(workers.run(longwork.prepared, text, (), tuple(file.steps)))
    events = read_events(file, prepared)
    instruments = [{**i.model_dump(), "asks": [], "acts": {}, "every_s": 1.0} for i in file.instruments]
    with transaction.atomic():
        run = TestRun.objects.create(
            design_id=design_id,
            begun_at=file.begun_at,
            over_at=file.over_at,
            prepared=prepared,
            document=from_json(text),
            by_itself=file.by_itself,
            instruments=instruments,
        )
        for row in LogEntry.objects.filter(design=design_id, kind="photo"):  # those taken in it name it as it was called
            if file.id and row.data.get("step") == photo_step(file.id):
                row.data = {**row.data, "step": photo_step(run.pk)}
                row.save(update_fields=["data"])
        kept, begun = KeptReadings(run), 0.0
        for moment, read in read_run_csv(readings, prepared["cells"], len(prepared["points"])):
            if kept.readings and moment - begun > CHUNK_S:
                kept.keep()
                kept.turn_over()
            begun = begun if kept.readings else moment
            kept.put(moment, read)
        kept.keep()
        for event in events:
            keep_event(run, event)
        thinned = thinned_of(run, as_it_stands(run))
        run.judged = from_json(workers.run(longwork.judged, text, (), thinned.readings(as_it_stands(run).spans)))
        run.save(update_fields=["judged"])
    return run


def thinned_of(run: TestRun, test: LiveTest) -> Thinned:
    """The readings of a run as they are judged."""
    thinned = Thinned()
    bounds = iter(sorted(moment for span in test.spans_so_far for moment in (span.begin_s, span.end_s)))
    bound = next(bounds, None)
    for moment, values in moments_of(run):
        while bound is not None and moment > bound:
            thinned.begin(bound)
            bound = next(bounds, None)
        thinned.take(moment, values)
        test.watch.latest |= values
    return thinned


def csv_of(run: TestRun) -> str:
    """Every reading of a run as CSV: a row each moment, with its step."""
    rows = list(moments_of(run))
    channels = list(run.channels)
    read = {c: np.array([values.get(c, np.nan) for _, values in rows]) for c in channels}
    spans = as_it_stands(run).spans_so_far
    return write_readings_csv(Readings(np.array([moment for moment, _ in rows]), read, spans))
