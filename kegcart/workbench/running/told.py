"""A load test that is over, gathered from what is stored of it, as its report has it."""

from datetime import date

from django.utils import timezone

from kegcart.workbench.load_report import LoadTest
from kegcart.workbench.models import TestRun
from kegcart.workbench.photo_papers import Taken
from kegcart.workbench.record import life_of
from kegcart.workbench.running.keeping import UNTOLD, as_it_stands, chart_of, events_of, photo_step

DRAWN = 900
"""So many points of each trace."""
FOREVER_S = 1e9


def load_test_of(run: TestRun) -> LoadTest:
    """What is stored of a load test, in plain data."""
    events = events_of(run)
    anew = {e.data["step"]: e.data["course"] for e in events if e.kind == "course"}
    return LoadTest(
        document=run.document,
        begun=timezone.localtime(run.begun_at),
        over=timezone.localtime(run.over_at) if run.over_at else None,
        steps=run.prepared["steps"],
        lines=run.prepared["lines"],
        courses=[anew.get(n, course) for n, course in enumerate(run.prepared["courses"])],
        spans=[{"step": s.step, "begin_s": s.begin_s, "end_s": s.end_s, "ended": s.ended} for s in as_it_stands(run).spans],
        events=[{"at_s": e.at_s, "kind": e.kind, "data": dict(e.data)} for e in events if e.kind not in UNTOLD],
        instruments=[{"name": i["name"], "address": i["address"]} for i in run.instruments],
        traces=chart_of(run, 0.0, FOREVER_S, DRAWN),
        judged=run.judged,
        photos=photos_of(run),
    )


def photos_of(run: TestRun) -> list[Taken]:
    """The photos that were taken while a test ran."""
    return [
        Taken(e.data["digest"], e.data["width"], e.data["height"], date.fromisoformat(e.data["on"]), e.data["what"])
        for e in life_of(run.design_id)
        if e.kind == "photo" and e.data["step"] == photo_step(run.pk)
    ]
