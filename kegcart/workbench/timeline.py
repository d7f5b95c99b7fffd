"""The time line of a build: its steps, its load tests, what it lived through, and the changes of its design, the newest first, in parts."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from datetime import date, datetime
from functools import partial
from typing import Any

from django.utils import timezone

from kegcart.core.assembly.plan.acts import Act, Measure
from kegcart.core.assess import Assessment
from kegcart.core.building import build_of
from kegcart.core.figure import Figure
from kegcart.core.log.file import STEP
from kegcart.core.log.life import FORMS, Life, Lived
from kegcart.core.log.living import line_of, write_visit
from kegcart.core.log.standing import within
from kegcart.core.units import shown_in
from kegcart.workbench import services
from kegcart.workbench.book import BookRecord, Told
from kegcart.workbench.models import LogEntry, Revision, TestRun
from kegcart.workbench.record import MOST_ENTRIES, judged, last_run, life_judged, life_of, marked
from kegcart.workbench.running.keeping import as_it_stands, events_of
from kegcart.workbench.running.told import load_test_of

CHANGE, TEST = "change", "test"
KINDS = (STEP, CHANGE, TEST, *FORMS)
NAMED = 3
"""So many changes of one day are named."""
Row = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Moment:
    """Something on the time line: its day, where it stands among those of that day, its kind, and what writes it out."""

    on: date
    order: float
    kind: str
    write: Callable[[], Row]


def timeline(
    design_id: str, a: Assessment, kinds: frozenset[str], offset: int, limit: int
) -> tuple[list[Row], int, dict[str, int]]:
    """A part of the time line, how long it is, and how many there are of each kind. kinds: those that are asked for; none: all."""
    life = life_of(design_id)
    reasons = {e.on: e for e in life if e.kind == "note" and e.data.get("of") == CHANGE}
    changed = list(changes(design_id, reasons))
    told = {reasons[m.on].item for m in changed if m.on in reasons}
    every = [*steps(design_id, a), *entries([e for e in life if e.item not in told], a), *changed, *tests_run(design_id)]
    counts = dict.fromkeys(KINDS, 0)
    for moment in every:
        counts[moment.kind] += 1
    wanted = [m for m in every if not kinds or m.kind in kinds]
    wanted.sort(key=lambda m: (m.on, m.order), reverse=True)
    with shown_in(a.design.brief.units):
        return [write(moment) for moment in wanted[offset : offset + limit]], len(wanted), counts


def book_record(design_id: str) -> BookRecord:
    """What was recorded of a build, for its book. Errors: as of `services.assessed_design`."""
    with services.assessed_design(design_id) as a:
        moments, _, _ = timeline(design_id, a, frozenset(), 0, MOST_ENTRIES)
        life = life_judged(design_id, a)
        checks = [*judged(design_id).checks, *life.checks]
        found = [Told.of(check.finding, a) for check in checks if check.finding is not None]
    run = last_run(design_id)
    test = load_test_of(run) if run else None
    return BookRecord(moments, [write_visit(visit) for visit in life.visits], marked(design_id), found, test)


def write(moment: Moment) -> Row:
    """A moment as plain JSON data."""
    return {
        "kind": moment.kind,
        "on": moment.on.isoformat(),
        "item": "",
        "place": "",
        "remark": "",
        "fails": False,
        "data": None,
    } | moment.write()


def day_of(at: datetime) -> date:
    return timezone.localtime(at).date()


def steps(design_id: str, a: Assessment) -> Iterator[Moment]:
    """What was recorded of each step on each day: of one day the last counts, as it is typed bit by bit."""
    rows = LogEntry.objects.filter(design=design_id, kind=STEP).values_list("about", "at", "data").order_by("pk")
    last: dict[tuple[str, date], tuple[datetime, Mapping[str, Any]]] = {}
    for act, at, data in rows:
        last[act, day_of(at)] = at, data
    acts = build_of(a).plan.acts if last else {}
    for (act, on), (at, data) in last.items():
        yield Moment(on, at.timestamp(), STEP, partial(step_row, act, acts.get(act), data))


def step_row(key: str, act: Act | None, data: Mapping[str, Any]) -> Row:
    """A step on the time line: whether it was done, what was measured, and whether that is outside what the design allows now."""
    values = [said for measure in (act.measures if act else ()) if (said := measured(measure, data["values"]))]
    outside = [m for m in (act.measures if act else ()) if m.key in data["values"] and not within(m, data["values"][m.key])]
    text = "; ".join([("done" if data["done"] else "not done"), *values]) + (": outside its limits" if outside else "")
    return {
        "title": act.title if act else "A step that is no more",
        "text": text,
        "remark": data["remark"],
        "place": f"/assembly/steps/{key}" if act else "",
        "fails": bool(outside),
    }


def measured(measure: Measure, values: Mapping[str, Any]) -> str:
    """What was measured, in words; empty where it was not."""
    value = values.get(measure.key)
    if value is None:
        return ""
    said = ("yes" if value else "no") if isinstance(value, bool) else Figure.of("x", value, measure.unit).text
    return f"{measure.label[0].lower()}{measure.label[1:]}: {said}"


def entries(life: Life, a: Assessment) -> Iterator[Moment]:
    """What a build has lived through."""
    for n, entry in enumerate(life):
        yield Moment(entry.on, n, entry.kind, partial(entry_row, entry, a))


def entry_row(entry: Lived, a: Assessment) -> Row:
    """An entry on the time line, with what it can be changed by."""
    title, text = line_of(entry, a)
    place = entry.data.get("place") or ""
    data = {"kind": entry.kind, **entry.data}
    return {"item": entry.item, "title": title, "text": text, "remark": entry.data["remark"], "place": place, "data": data}


def changes(design_id: str, reasons: Mapping[date, Lived]) -> Iterator[Moment]:
    """The changes of the design, a row for each day with the reason that was given for them."""
    days: dict[date, list[str]] = {}
    for at, label in Revision.objects.filter(design=design_id, parent__isnull=False).values_list("created_at", "label"):
        days.setdefault(day_of(at), []).append(label)
    for on, labels in days.items():
        yield Moment(on, 0.5, CHANGE, partial(change_row, labels, reasons.get(on)))


def tests_run(design_id: str) -> Iterator[Moment]:
    """The load tests that were run."""
    for run in TestRun.objects.filter(design=design_id).exclude(over_at=None).defer("document"):
        yield Moment(day_of(run.begun_at), run.begun_at.timestamp(), TEST, partial(test_row, run))


def test_row(run: TestRun) -> Row:
    """A load test: how far it went, the lines at which it was stopped, what would explain its readings best, what was noted."""
    events = events_of(run)
    done = list(dict.fromkeys(span.step for span in as_it_stands(run).spans))
    stops = [line_words(run, event.data) for event in events if event.kind == "stop" and "line" in event.data]
    causes = (run.judged or {}).get("diagnosis", {}).get("causes", [])
    said = [f"{len(done)} of {len(run.prepared['steps'])} steps", *stops, *(["likely: " + causes[0]["words"]] if causes else [])]
    notes = [str(event.data["text"]) for event in events if event.kind == "note" and "text" in event.data]
    return {
        "title": "Load test",
        "text": "; ".join(said),
        "remark": "; ".join(notes),
        "place": f"/bench/tests/{run.pk}",
        "fails": bool(stops),
    }


def line_words(run: TestRun, stop: Mapping[str, Any]) -> str:
    """A line that was reached, in words."""
    line = run.prepared["lines"][stop["line"]]
    read = Figure.of("x", float(stop["value"]), line["unit"]).text
    where = f", {stop['where']}" if stop["where"] else ""
    return f"stopped: {line['label']} {line['text']}, read {read}{where}"


def change_row(labels: list[str], reason: Lived | None) -> Row:
    """The changes of a day: the last of them by their names, and why they were made, which can be changed as an entry is."""
    names = list(dict.fromkeys(label for label in reversed(labels) if label))
    more = len(names) - NAMED
    title = f"{len(labels)} changes" if len(labels) > 1 else "a change"
    row: Row = {"title": f"{title} of the design", "text": "; ".join(names[:NAMED]) + (f"; and {more} more" if more > 0 else "")}
    if reason is not None:
        row |= {"remark": reason.data["what"], "item": reason.item, "data": {"kind": reason.kind, **reason.data}}
    return row
