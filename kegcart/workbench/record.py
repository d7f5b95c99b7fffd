"""What is recorded of a build, at the bench and after: rows beside the design, judged by the core. Nothing is written over: the last counts."""

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import lru_cache
from hashlib import sha256
from typing import Any, cast

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from kegcart.core.assess import Assessment
from kegcart.core.bench.tested import TestSaid
from kegcart.core.building import build_of
from kegcart.core.design import DesignError, read_design
from kegcart.core.log.bought import Bought
from kegcart.core.log.file import BESIDE, BOUGHT, STEP, RecordRow
from kegcart.core.log.judging import LogJudged, judge_log
from kegcart.core.log.learned import LearnedPart, as_it_stands, learned_parts, tested_pack
from kegcart.core.log.life import Entry, EntryKind, Life, MeasuredEntry, lived, read_entry, stored_form
from kegcart.core.log.living import LifeJudged, judge_life
from kegcart.core.log.record import Record, StepTick, read_values
from kegcart.core.log.tables import read_life_csv
from kegcart.workbench import photos, services
from kegcart.workbench.assessing import UnreadableError
from kegcart.workbench.build_papers import Marked
from kegcart.workbench.models import LogEntry, StoredDesign, TestRun

MOST_ENTRIES = 20_000
"""Of one build."""
LIVES_KEPT = 4
"""Lives that are kept read: of a long one each answer would begin with reading it again."""
AHEAD_H = 14
"""So far is the clock ahead where the day begins first."""
TAKEN_BACK = {"gone": True}
"""What is stored of an entry that is taken back."""


def record_of(design_id: str) -> Record:
    """What was recorded last of each step of a build."""
    return {row.about: StepTick(row.about, **row.data, at=row.at.isoformat()) for row in last_of(design_id, STEP)}


def bought_of(design_id: str) -> Bought:
    """How many were bought of each line of the shopping list of a build."""
    return {row.about: row.data["count"] for row in last_of(design_id, BOUGHT)}


def last_of(design_id: str, kind: str) -> Iterable[LogEntry]:
    """The last row of a kind about each thing."""
    last = LogEntry.objects.filter(design=design_id, kind=kind).values("about").annotate(last=Max("pk")).values("last")
    return LogEntry.objects.filter(pk__in=last)


def life_of(design_id: str) -> Life:
    """What a build has lived through, the oldest day first; of one day in the order in which it was entered."""
    newest = LogEntry.objects.filter(design=design_id).order_by("-pk").values_list("pk", "at", "entry").first()
    return list(life_until(design_id, *newest)) if newest else []


@lru_cache(maxsize=LIVES_KEPT)
def life_until(design_id: str, newest: int, at: datetime, entry: str) -> Life:
    """The life of a build whose newest row is this one: rows are only ever added, so that it stays the same."""
    rows = LogEntry.objects.filter(design=design_id, pk__lte=newest).exclude(kind__in=BESIDE).values_list("about", "kind", "data")
    last: dict[str, tuple[EntryKind, Any]] = {}
    for item, kind, data in rows.order_by("pk"):
        last[item] = cast(EntryKind, kind), data
    found = [lived(item, kind, data) for item, (kind, data) in last.items() if data != TAKEN_BACK]
    return sorted(found, key=lambda entry: entry.on)


def learned(kind: str) -> list[LearnedPart]:
    """The parts of a kind that were measured in builds on the shelf, the last measured first."""
    return learned_parts([(name, life_of(pk)) for pk, name in lived_with("measured")], kind)


def tested_packs() -> list[LearnedPart]:
    """The cells and batteries of builds on the shelf as they were tested, the last changed build first."""
    found = []
    for pk, name in reversed(lived_with("capacity", "resistance")):
        with suppress(UnreadableError):
            pack = read_design(services.get(pk).document).pack
            found.append(tested_pack(name, pack, life_of(pk)))
    return [part for part in found if part is not None]


def lived_with(*kinds: EntryKind) -> list[tuple[str, str]]:
    """The builds on the shelf, id and name, in whose log something of a kind was entered; the last changed comes last."""
    rows = LogEntry.objects.filter(kind__in=kinds, design__deleted_at=None).order_by("design__updated_at")
    return list(rows.values_list("design", "design__name").distinct())


def today() -> date:
    """The day by which visits fall due."""
    return timezone.localdate()


def latest_day() -> date:
    """The latest day that it can be anywhere: what is entered is of the builder's own day, which may be ahead of the server's."""
    return (timezone.now() + timedelta(hours=AHEAD_H)).date()


def marked(design_id: str) -> Marked:
    """What of a build is ticked, as its papers have it. Errors: as of `services.assessed_design`."""
    standing = judged(design_id).standing
    return Marked(bought_of(design_id), frozenset(act for act, step in standing.items() if step.state == "done"))


def judged(design_id: str) -> LogJudged:
    """What was recorded of a build, judged against it as it stands. Errors: as of `services.assessed_design`."""
    with services.assessed_design(design_id) as a:
        recorded, measured = (record_of(design_id), bought_of(design_id)), a.design.bench.measured
        return judge_log(build_of(a), a.box, *recorded, today(), last_test(design_id), measured)


def last_run(design_id: str) -> TestRun | None:
    """The last load test of a build that came so far that its readings were judged."""
    runs = TestRun.objects.filter(design=design_id, judged__isnull=False).order_by("-begun_at").only("begun_at", "judged")
    return next((run for run in runs if run.judged and run.judged["steps"]), None)


def last_test(design_id: str) -> TestSaid | None:
    """What the last load test of a build said."""
    run = last_run(design_id)
    return None if run is None else TestSaid(run.pk, timezone.localtime(run.begun_at).date(), run.judged or {})


def built_on(design_id: str, acts: Callable[[], Collection[str]]) -> date | None:
    """The day on which the last step of a build was done; None where some never were. acts: of its plan, asked for where any is done."""
    ticks = record_of(design_id)
    done = {act: tick.at for act, tick in ticks.items() if tick.done}
    if not done or not set(acts()) <= done.keys():
        return None
    return date.fromisoformat(max(done.values())[:10])


def life_judged(design_id: str, a: Assessment) -> LifeJudged:
    """What a build has lived through, judged on this day."""
    return judge_life(a, life_of(design_id), built_on(design_id, lambda: build_of(a).plan.acts), today())


def tick(design_id: str, entry: str, act: str, done: bool, values: dict[str, Any], remark: str, digest: str) -> None:
    """Record a step: whether it is done, what was measured. What was stored under this entry stays as it is.

    digest: of the figures as they were seen; as they stand where it is empty. Errors: DesignError, where there is no such step, or a
    figure cannot be read; MissingError.
    """
    if LogEntry.objects.filter(design=design_id, entry=entry).exists():
        return
    with services.assessed_design(design_id) as a:
        standing = judge_log(build_of(a), a.box, {}, {}, today()).standing.get(act)
    if standing is None:
        raise DesignError([("/act", f"'{act[:60]}' is no step of this build any more")])
    try:
        read = read_values(standing.act, values)
    except ValueError as error:
        raise DesignError([("/values", str(error))]) from None
    data = {"done": done, "values": read, "remark": remark, "digest": digest or standing.digest}
    store(design_id, [LogEntry(entry=entry, kind=STEP, about=act, data=data)])


def buy(design_id: str, entry: str, line: str, count: float) -> None:
    """Record how many of a line of the shopping list were bought. What was stored under this entry stays as it is.

    Errors: DesignError, where there is no such line; MissingError.
    """
    if LogEntry.objects.filter(design=design_id, entry=entry).exists():
        return
    with services.assessed_design(design_id) as a:
        if all(listed.key != line for listed in build_of(a).shopping.lines):
            raise DesignError([("/line", f"'{line[:60]}' is no line of the list any more")])
    store(design_id, [LogEntry(entry=entry, kind=BOUGHT, about=line, data={"count": count})])


def enter(design_id: str, entry: str, item: str, data: Mapping[str, Any] | None) -> None:
    """Enter something into the log, or in the place of what stands there as `item`; take it back where there is no data.

    Errors: DesignError, where it cannot be read, or is of another kind than what it stands for; MissingError.
    """
    services.find(design_id)
    if LogEntry.objects.filter(design=design_id, entry=entry).exists():
        return
    before = LogEntry.objects.filter(design=design_id, about=item).exclude(kind__in=BESIDE).order_by("-pk").first()
    stood = before.data if before is not None and before.data != TAKEN_BACK else None
    if data is None:
        if before is not None:
            store(design_id, [LogEntry(entry=entry, kind=before.kind, about=item, data=TAKEN_BACK)])
        return
    try:
        read = read_entry(data, latest_day())
        if isinstance(read, MeasuredEntry) and not (
            stood is None and read.part
        ):  # one that is brought back says itself what it was of
            with services.assessed_design(design_id) as a:
                read = as_it_stands(read, a, stood)
        row = row_of(entry, item, read)
    except DesignError as error:
        raise DesignError([(f"/data{pointer}", said) for pointer, said in error.problems]) from None
    if row.kind == "photo" and not photos.there(row.data["digest"]):
        raise DesignError([("/data/digest", "there is no such photo here")])
    if before is not None and before.kind != row.kind:
        raise DesignError([("/data/kind", f"it was entered as '{before.kind}': take it back, and enter it anew")])
    store(design_id, [row])


def row_of(entry: str, item: str, read: Entry) -> LogEntry:
    """An entry as it is stored."""
    return LogEntry(entry=entry, kind=read.model_dump()["kind"], about=item, data=stored_form(read))


@dataclass(frozen=True, slots=True)
class TableRead:
    """A table of entries as it was read: how many there are, and those that are not in the log yet, with the ids they will have."""

    count: int
    new: list[LogEntry]


def read_table(design_id: str, text: str) -> TableRead:
    """A table of entries. What was taken in before is not new: a row that names no entry is known by what stands in it, and by how many
    like it stand before it.

    Errors: TableError with line and column; MissingError.
    """
    with services.assessed_design(design_id) as a:

        def complete(entry: Entry) -> Entry:
            """A measured part by what stands in the design, where the table does not say what it was."""
            return as_it_stands(entry, a, None) if isinstance(entry, MeasuredEntry) and not entry.part else entry

        read = read_life_csv(text, latest_day(), complete)
    there = set(LogEntry.objects.filter(design=design_id).values_list("about", flat=True))
    alike: Counter[str] = Counter()
    new = {}
    for item, entry in read:
        row = row_of("", item, entry)
        if not item:
            said = f"{row.kind} {sorted(row.data.items())}"
            alike[said] += 1
            row.about = "t" + sha256(f"{said} {alike[said]}".encode()).hexdigest()[:20]
        row.entry = row.about
        if row.about not in there:
            new[row.about] = row
    return TableRead(len(read), list(new.values()))


def take_table(design_id: str, text: str) -> TableRead:
    """Enter a table into the log, as a whole. Errors: as of `read_table`; DesignError where the log would be too long."""
    table = read_table(design_id, text)
    store(design_id, table.new)
    return table


def store(design_id: str, rows: Iterable[LogEntry]) -> None:
    """Store rows of the log as a whole; what is there under its entry stays as it is. Errors: DesignError, MissingError."""
    new = list(rows)
    with transaction.atomic():
        design = StoredDesign.objects.get(pk=design_id)
        if LogEntry.objects.filter(design=design).count() + len(new) > MOST_ENTRIES:
            raise DesignError([("", f"a log holds {MOST_ENTRIES} entries at most")])
        for row in new:
            row.design = design
        LogEntry.objects.bulk_create(new, ignore_conflicts=True)


def rows_of(design_id: str) -> list[RecordRow]:
    """What was recorded of a build, as its file has it: of each step and entry what counts, in the order in which it was stored."""
    last: dict[tuple[str, str], LogEntry] = {}
    for row in LogEntry.objects.filter(design=design_id).order_by("pk"):
        last[row.kind if row.kind in BESIDE else "", row.about] = row
    return [RecordRow(r.kind, r.about, r.at, r.data) for r in last.values() if r.data != TAKEN_BACK]


def take_rows(design_id: str, rows: Iterable[RecordRow]) -> None:
    """Store the rows of a file. Errors: DesignError, MissingError."""
    taken = [
        LogEntry(entry=f"f{number}", kind=row.kind, about=row.about, at=row.at, data=row.data) for number, row in enumerate(rows)
    ]
    store(design_id, taken)
