"""What is recorded at the bench: rows beside the design, judged by the core."""

from datetime import date
from typing import Any

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from kegcart.core.building import build_of
from kegcart.core.design import DesignError
from kegcart.core.log.judging import LogJudged, judge_log
from kegcart.core.log.record import Record, StepTick, read_values
from kegcart.workbench import services
from kegcart.workbench.models import LogEntry, StoredDesign

STEP = "step"


def record_of(design_id: str) -> Record:
    """What was recorded last of each step of a build."""
    last = LogEntry.objects.filter(design=design_id, kind=STEP).values("about").annotate(last=Max("pk")).values("last")
    rows = LogEntry.objects.filter(pk__in=last)
    return {row.about: StepTick(row.about, **row.data, at=row.at.isoformat()) for row in rows}


def today() -> date:
    """The day by which visits fall due."""
    return timezone.localdate()


def judged(design_id: str) -> LogJudged:
    """What was recorded of a build, judged against it as it stands. Errors: as of `services.assessed_design`."""
    with services.assessed_design(design_id) as a:
        return judge_log(build_of(a), a.box, record_of(design_id), today())


def tick(design_id: str, entry: str, act: str, done: bool, values: dict[str, Any], remark: str, digest: str) -> None:
    """Record a step: whether it is done, what was measured. What was stored under this entry stays as it is.

    digest: of the figures as they were seen; as they stand where it is empty. Errors: DesignError, where there is no such step, or a
    figure cannot be read; MissingError.
    """
    if LogEntry.objects.filter(design=design_id, entry=entry).exists():
        return
    with services.assessed_design(design_id) as a:
        standing = judge_log(build_of(a), a.box, {}, today()).standing.get(act)
    if standing is None:
        raise DesignError([("/act", f"'{act[:60]}' is no step of this build any more")])
    try:
        read = read_values(standing.act, values)
    except ValueError as error:
        raise DesignError([("/values", str(error))]) from None
    data = {"done": done, "values": read, "remark": remark, "digest": digest or standing.digest}
    with transaction.atomic():
        design = StoredDesign.objects.get(pk=design_id)
        LogEntry.objects.get_or_create(design=design, entry=entry, defaults={"kind": STEP, "about": act, "data": data})
