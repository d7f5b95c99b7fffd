"""Load tests that are run: begun, told what to do, listened to, read again; and the instruments of the bench."""

from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from kegcart.core.bench.asking import known_channel, spelled_out, unit_of
from kegcart.core.bench.live import RefusedCommandError
from kegcart.core.bench.prepared import to_be_read
from kegcart.core.design import DesignError
from kegcart.core.reference.bench import ACTS, CLOCK, Ask, instrument_types
from kegcart.core.units import read_quantity
from kegcart.instruments import finding
from kegcart.instruments.lines import LineError, resource_name
from kegcart.workbench import longwork, services
from kegcart.workbench.api.answers import answer, attached
from kegcart.workbench.api.assembly import CSV, FILE, PaperIn
from kegcart.workbench.api.designs import BAD
from kegcart.workbench.api.schemas import (
    ChartOut,
    CommandIn,
    DealtOut,
    FindIn,
    FoundOut,
    InstrumentIn,
    InstrumentsOut,
    RunBeginIn,
    RunOut,
    RunsOut,
    StandInsIn,
    StandInsOut,
    TriedOut,
    TryIn,
)
from kegcart.workbench.models import OwnInstrument, TestRun
from kegcart.workbench.running import bench, keeping, stand_ins
from kegcart.workbench.running.feed import event
from kegcart.workbench.running.told import load_test_of
from kegcart.workbench.workers import BusyError, workers

router = Router(tags=["runs"])
MOST_INSTRUMENTS = 24
REACHES_OUT = {"x-reaches-out": True}
"""Said of what asks instruments, begins a test or starts programs: nothing to be called by chance."""


class StretchIn(Schema):
    """A stretch of a test, s since it began, and how many points at most are drawn of each trace."""

    begin: Annotated[float, Field(ge=0, allow_inf_nan=False)] = 0.0
    end: Annotated[float, Field(ge=0, allow_inf_nan=False)] = 1e9
    points: Annotated[int, Field(ge=10, le=keeping.MOST_POINTS)] = 600


def head(run: TestRun) -> dict[str, Any]:
    """A run as a list has it."""
    test = keeping.as_it_stands(run)
    return {
        "id": run.pk,
        "begun_at": run.begun_at.isoformat(),
        "over_at": run.over_at.isoformat() if run.over_at else None,
        "state": test.state,
        "steps": len(test.steps),
        "done": len({span.step for span in test.spans}),
        "stops": sum(e.kind == "stop" and "line" in e.data for e in keeping.events_of(run)),
    }


@router.get("/designs/{design_id}/runs", response={200: RunsOut, **BAD}, summary="The load tests of a build, the newest first")
def runs(request: HttpRequest, design_id: str) -> HttpResponse:
    design = services.find(design_id)
    return answer({"runs": [head(run) for run in design.runs.order_by("-begun_at")]})


@router.post("/designs/{design_id}/runs", response={200: RunOut, **BAD}, summary="Begin a load test", openapi_extra=REACHES_OUT)
def begin(request: HttpRequest, design_id: str, body: RunBeginIn) -> HttpResponse:
    return whole(bench.begin(design_id, body.steps, body.instruments, body.by_itself))


@router.get("/runs/{run_id}", response={200: RunOut, **BAD}, summary="A load test as it stands: its steps, what happened")
def show(request: HttpRequest, run_id: str) -> HttpResponse:
    return whole(keeping.find_run(run_id))


def whole(run: TestRun) -> HttpResponse:
    """A run with its steps, what happened, what was judged."""
    runner = bench.running(run.pk)
    test = keeping.as_it_stands(run)
    last = run.chunks.order_by("-number").first()
    events = keeping.events_of(run)
    happened: list[dict[str, Any]] = [
        {"at_s": e.at_s, "kind": e.kind, "data": e.data} for e in events if e.kind not in keeping.UNTOLD
    ]
    courses = {e.data["step"]: e.data["course"] for e in events if e.kind == "course"}
    drawn = runner.courses if runner else [courses.get(n, c) for n, c in enumerate(run.prepared["courses"])]
    return answer(
        {
            **head(run),
            "design_id": run.design_id,
            "name": run.document["name"],
            "plan": run.prepared["steps"],
            "lines": run.prepared["lines"],
            "points": run.prepared["points"],
            "cells": run.prepared["cells"],
            "courses": drawn,
            "events": happened,
            "spans": [{"step": s.step, "begin_s": s.begin_s, "end_s": s.end_s, "ended": s.ended} for s in test.spans],
            "instruments": [{"name": i["name"], "address": i["address"]} for i in run.instruments],
            "end_s": max([last.end_s if last else 0.0, *(e["at_s"] for e in happened)]),
            "live": run.over_at is None,
            "judging": bench.judging(run.pk),
            "judged": runner.judged if runner else run.judged,
        }
    )


@router.get("/runs/{run_id}/chart", response={200: ChartOut, **BAD}, summary="What is watched of a load test, as courses")
def chart(request: HttpRequest, run_id: str, wanted: Query[StretchIn]) -> HttpResponse:
    written_down(run_id)
    return answer({"traces": keeping.chart_of(keeping.find_run(run_id), wanted.begin, wanted.end, wanted.points)})


def written_down(run_id: str) -> None:
    """What a test has read by now, where it is under way, is on disk: what is asked of it is whole. Errors: BusyError."""
    if (runner := bench.running(run_id)) is not None:
        runner.write_down()


@router.get(
    "/runs/{run_id}/live",
    response=BAD,
    summary="A load test as it runs: server-sent events",
    openapi_extra={"responses": {200: {"content": {"text/event-stream": {"schema": {"type": "string"}}}}}},
)
def live(request: HttpRequest, run_id: str) -> HttpResponse | StreamingHttpResponse:
    run = keeping.find_run(run_id)
    runner = bench.running(run.pk)
    if runner is None and run.over_at is None:
        raise BusyError  # it is being taken up: the screen tries again
    if runner is None:
        return HttpResponse(event("over", {}), content_type="text/event-stream")
    response = StreamingHttpResponse(runner.feed.listen(runner.first_told()), content_type="text/event-stream")
    response["Cache-Control"] = "no-store"
    return response


@router.post("/runs/{run_id}/command", response={200: RunOut, **BAD}, summary="Tell a load test what to do")
def command(request: HttpRequest, run_id: str, body: CommandIn) -> HttpResponse:
    run = keeping.find_run(run_id)
    runner = bench.running(run.pk)
    if runner is None and run.over_at is None:
        raise BusyError
    if runner is None:
        raise DesignError([("/command", "this test is over")])
    if body.command == "turn":
        if body.channel not in ("posts.a", "clamp.a"):
            raise DesignError([("/channel", "only a current can be read the other way round")])
        runner.turn(body.channel)
    elif body.command == "read":
        runner.read(body.channel, typed_reading(run, body.channel, body.text))
    elif body.command == "by itself":
        runner.by_itself(body.on)
    else:
        try:
            runner.command(body.command, {"text": body.text} if body.text else {})
        except RefusedCommandError as error:
            raise DesignError([("/command", str(error))]) from None
    run.refresh_from_db()
    return whole(run)


def typed_reading(run: TestRun, channel: str, text: str) -> float:
    """A reading that was typed, in the unit of its channel. Errors: DesignError."""
    if not known_channel(channel, run.prepared["cells"], len(run.prepared["points"])) or "*" in channel or channel == CLOCK:
        raise DesignError([("/channel", f"'{channel}' is no channel of this station")])
    try:
        return read_quantity(text, unit_of(channel))
    except ValueError as error:
        raise DesignError([("/text", str(error))]) from None


@router.get("/runs/{run_id}/readings.csv", response=BAD, summary="Every reading of a load test as CSV", openapi_extra=FILE)
def readings_csv(request: HttpRequest, run_id: str) -> HttpResponse:
    written_down(run_id)
    run = keeping.find_run(run_id)
    return attached("\ufeff" + keeping.csv_of(run), CSV, run.document["name"], "readings.csv")


@router.get("/runs/{run_id}/report.pdf", response=BAD, summary="The report of a load test", openapi_extra=FILE)
def report_pdf(request: HttpRequest, run_id: str, wanted: Query[PaperIn]) -> HttpResponse:
    test = load_test_of(keeping.find_run(run_id))
    pdf = workers.run(longwork.report_pdf, test, wanted.paper)
    return attached(pdf, "application/pdf", test.name, "load-test.pdf", inline=True)


@router.get(
    "/bench/instruments", response={200: InstrumentsOut, **BAD}, summary="The builder's instruments, and the kinds there are"
)
def instruments(request: HttpRequest) -> HttpResponse:
    kinds = [
        {"key": k.key, "label": k.label, "asks": [written(ask) for ask in k.asks], "acts": dict(k.acts)}
        for k in instrument_types().values()
    ]
    own = [
        {
            "name": one.name,
            "address": one.address,
            "kind": one.kind,
            "asks": [written(ask) for ask in bench.asks_of(one)],
            "acts": bench.acts_of(one),
            "every_s": one.every_s,
        }
        for one in OwnInstrument.objects.all()
    ]
    return answer({"kinds": kinds, "own": own})


def written(ask: Ask) -> dict[str, Any]:
    """A query as plain JSON data."""
    return {"text": ask.text, "channels": list(ask.channels), "unit": ask.unit, "scale": ask.scale, "optional": ask.optional}


@router.post(
    "/bench/instruments", response={200: InstrumentsOut, **BAD}, summary="Put in an instrument, or change the one of its name"
)
def put_in(request: HttpRequest, body: InstrumentIn) -> HttpResponse:
    checked_address(body.address)
    if body.kind and body.kind not in instrument_types():
        raise DesignError([("/kind", f"'{body.kind}' is no kind of instrument")])
    if unknown := [act for act in body.acts if act not in ACTS]:
        raise DesignError([(f"/acts/{unknown[0][:40]}", "no instrument is told that")])
    for n, ask in enumerate(body.asks):
        if bad := [channel for channel in ask.channels if not known_channel(channel, 10_000, 10_000)]:
            raise DesignError([(f"/asks/{n}/channels", f"'{bad[0][:40]}' is no channel")])
    if not OwnInstrument.objects.filter(name=body.name).exists() and OwnInstrument.objects.count() >= MOST_INSTRUMENTS:
        raise DesignError([("", f"{MOST_INSTRUMENTS} instruments at most")])
    OwnInstrument.objects.update_or_create(name=body.name, defaults=body.model_dump(exclude={"name"}))
    return instruments(request)


@router.delete("/bench/instruments/{name}", response={200: InstrumentsOut, **BAD}, summary="Take an instrument away")
def take_away(request: HttpRequest, name: str) -> HttpResponse:
    OwnInstrument.objects.filter(name=name).delete()
    return instruments(request)


def checked_address(address: str) -> None:
    """Whether an address is one. Errors: DesignError."""
    try:
        resource_name(address)
    except LineError as error:
        raise DesignError([("/address", str(error))]) from None


@router.post(
    "/bench/find",
    response={200: FoundOut, **BAD},
    summary="Look for instruments: at some addresses; at the serial ports, here, and where they were, where none are given",
    openapi_extra=REACHES_OUT,
)
def find(request: HttpRequest, body: FindIn) -> HttpResponse:
    for address in body.addresses:
        checked_address(address)
    known = [one.address for one in OwnInstrument.objects.all()]
    found = finding.find(body.addresses or [*finding.usual_addresses(), *known])
    return answer({"found": [{"address": f.address, "name": f.name, "kind": bench.kind_key(f.name)} for f in found]})


@router.post(
    "/bench/try", response={200: TriedOut, **BAD}, summary="Ask an instrument everything once", openapi_extra=REACHES_OUT
)
def try_out(request: HttpRequest, body: TryIn) -> HttpResponse:
    checked_address(body.address)
    kind = instrument_types().get(body.kind)
    asks = [Ask(a.text, tuple(a.channels), a.unit, a.scale, a.optional) for a in body.asks] or list(kind.asks if kind else ())
    with services.assessed_design(body.design_id) as a:
        cells, points = to_be_read(a)
    try:
        tried = finding.try_out(body.address, [spelled_out(ask, cells, points) for ask in asks])
    except LineError as error:
        raise DesignError([("/address", str(error))]) from None
    rows = [{"text": t.ask.text, "answer": t.answer, "values": t.values, "problem": t.problem} for t in tried]
    return answer({"tried": rows})


@router.post(
    "/bench/stand-ins",
    response={200: StandInsOut, **BAD},
    summary="Start stand-ins for the instruments of a build",
    openapi_extra=REACHES_OUT,
)
def begin_stand_ins(request: HttpRequest, body: StandInsIn) -> HttpResponse:
    found = stand_ins.start(body.design_id, body.seed, body.speed, body.fault)
    return answer({"stand_ins": found})


@router.get(
    "/runs/{run_id}/dealt", response={200: DealtOut, **BAD}, summary="What was dealt to the stand-ins of a test that is over"
)
def dealt(request: HttpRequest, run_id: str) -> HttpResponse:
    run = keeping.find_run(run_id)
    addresses = {one["address"] for one in run.instruments}
    return answer({"words": stand_ins.dealt(addresses) if run.over_at else ""})


@router.delete("/bench/stand-ins", response={200: StandInsOut, **BAD}, summary="End the stand-ins", openapi_extra=REACHES_OUT)
def end_stand_ins(request: HttpRequest) -> HttpResponse:
    stand_ins.end()
    return answer({"stand_ins": []})
