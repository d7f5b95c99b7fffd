"""The bench: a design as it stands, simulated over its days, and its load test."""

from functools import lru_cache

from django.http import HttpRequest, HttpResponse
from django.utils.timezone import localdate, localtime
from ninja import Field, Query, Router, Schema
from pydantic_core import from_json, to_json

from kegcart.core.bench.asked import FIELDS, OPTIONAL, CannotDialError
from kegcart.core.bench.learn.estimate import RefusedError
from kegcart.core.design import DesignError
from kegcart.core.lane import Season
from kegcart.core.measured import UNITS, CannotPutInError
from kegcart.core.units import read_quantity
from kegcart.workbench import longwork, services
from kegcart.workbench.api.answers import answer, answer_json
from kegcart.workbench.api.designs import BAD
from kegcart.workbench.api.schemas import (
    ByHandIn,
    ByHandOut,
    DialsOut,
    DrillIn,
    DrillOut,
    ForecastOut,
    FoundFigureIn,
    PutInIn,
    PutInOut,
    ReadingsOut,
    SimulationOut,
    TestPlanOut,
    TextIn,
    WithFaultIn,
    WithFaultOut,
)
from kegcart.workbench.assessing import Elsewhere
from kegcart.workbench.running import keeping
from kegcart.workbench.workers import workers

router = Router(tags=["bench"])


class RunIn(Schema):
    season: Season = "hottest"
    days: int | None = Field(None, ge=1, le=14)


@lru_cache(maxsize=8)
def simulated(text: bytes, elsewhere: Elsewhere, season: Season, days: int | None) -> bytes:
    return workers.run(longwork.simulation, text, elsewhere, season, days)


@lru_cache(maxsize=24)
def foreseen(text: bytes, elsewhere: Elsewhere) -> bytes:
    return workers.run(longwork.foreseen, text, elsewhere)


@router.get("/{design_id}/forecast", response={200: ForecastOut, **BAD}, summary="Both seasons simulated and judged")
def forecast(request: HttpRequest, design_id: str) -> HttpResponse:
    return answer_json(foreseen(*services.as_given(design_id)))


@router.get("/{design_id}/simulation", response={200: SimulationOut, **BAD}, summary="The station over its days in a season")
def simulation(request: HttpRequest, design_id: str, wanted: Query[RunIn]) -> HttpResponse:
    return answer_json(simulated(*services.as_given(design_id), wanted.season, wanted.days))


@router.get("/{design_id}/test-plan", response={200: TestPlanOut, **BAD}, summary="The load test of the design, step by step")
def test_plan(request: HttpRequest, design_id: str) -> HttpResponse:
    return answer_json(workers.run(longwork.test_plan, *services.as_given(design_id)))


@router.post(
    "/{design_id}/drill", response={200: DrillOut, **BAD}, summary="A fault dealt to the station, to be found by measuring"
)
def drill(request: HttpRequest, design_id: str, body: DrillIn) -> HttpResponse:
    given = services.as_given(design_id)
    try:
        found = workers.run(longwork.drill, *given, body.seed, tuple(dict.fromkeys(body.probes)), body.guess)
    except KeyError as error:
        raise DesignError([("/probes", f"there is no such measurement at this station: {error.args[0]}")]) from None
    if found is None:
        raise DesignError([("", "nothing can be tested yet: put in loads, and lay out their path")])
    return answer_json(found)


@router.get("/{design_id}/dials", response={200: DialsOut, **BAD}, summary="Faults that can be dialled into the rehearsal")
def dials(request: HttpRequest, design_id: str) -> HttpResponse:
    return answer({"dials": from_json(workers.run(longwork.dials, *services.as_given(design_id)))})


@router.post("/{design_id}/with-fault", response={200: WithFaultOut, **BAD}, summary="A design rehearsed with a fault")
def with_fault(request: HttpRequest, design_id: str, body: WithFaultIn) -> HttpResponse:
    given = services.as_given(design_id)
    try:
        return answer_json(workers.run(longwork.dialled, *given, body.kind, body.which, body.size))
    except CannotDialError as error:
        raise DesignError([(f"/{error.field}", error.why)]) from None


@router.post("/{design_id}/put-in", response={200: PutInOut, **BAD}, summary="What putting measured figures in would change")
def put_in(request: HttpRequest, design_id: str, body: PutInIn) -> HttpResponse:
    text, elsewhere = services.as_given(design_id)
    run = keeping.find_run(body.run) if body.run else None
    if run is not None and run.design_id != design_id:
        raise DesignError([("/run", "this is a test of another build")])
    then = to_json(run.document) if run else text
    on = localtime(run.begun_at).date() if run else localdate()
    figures = [(f.key, typed(n, f), f.doubt, f.measured) for n, f in enumerate(body.figures)]
    try:
        return answer_json(workers.run(longwork.put_in, text, elsewhere, then, figures, body.source, on))
    except CannotPutInError as error:
        at = next((n for n, f in enumerate(body.figures) if f.key == error.key), 0)
        raise DesignError([(f"/figures/{at}", error.why)]) from None


def typed(n: int, figure: FoundFigureIn) -> float:
    """A figure as it was found, or read from what was typed. Errors: DesignError."""
    if figure.value is not None:
        return figure.value
    return read_typed(f"/figures/{n}/text", figure.text, next((unit for key, unit in UNITS.items() if key == figure.key), ""))


@router.post("/{design_id}/by-hand", response={200: ByHandOut, **BAD}, summary="What a few readings by hand say")
def by_hand(request: HttpRequest, design_id: str, body: ByHandIn) -> HttpResponse:
    given, fields = services.as_given(design_id), FIELDS[body.kind]
    values: dict[str, float] = {}
    for name, unit in fields.items():
        if name in OPTIONAL and not body.values.get(name, "").strip():
            continue
        if name != "drops":
            values[name] = read_typed(f"/values/{name}", body.values.get(name, ""), unit)
    drops = [read_typed(f"/drops/{n}", text, fields["drops"]) for n, text in enumerate(body.drops) if text.strip()]
    if body.kind == "joints" and not drops:
        raise DesignError([("/drops", "not one joint was measured")])
    try:
        return answer_json(workers.run(longwork.by_hand, *given, body.kind, values, drops))
    except RefusedError as error:
        raise DesignError([("", str(error))]) from None


def read_typed(pointer: str, text: str, unit: str) -> float:
    """A figure that was typed. Errors: DesignError."""
    try:
        return read_quantity(text, unit)
    except ValueError as error:
        raise DesignError([(pointer, str(error))]) from None


@router.post(
    "/{design_id}/readings", response={200: ReadingsOut, **BAD}, summary="What the readings of a load test say of the station"
)
def readings(request: HttpRequest, design_id: str, body: TextIn) -> HttpResponse:
    return answer_json(workers.run(longwork.learned, *services.as_given(design_id), body.text))
