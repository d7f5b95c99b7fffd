"""The bench: a design as it stands, simulated over its days, and its load test."""

from functools import lru_cache

from django.http import HttpRequest, HttpResponse
from ninja import Field, Query, Router, Schema

from kegcart.core.design import DesignError
from kegcart.core.lane import Season
from kegcart.workbench import longwork, services
from kegcart.workbench.api.answers import answer_json
from kegcart.workbench.api.designs import BAD
from kegcart.workbench.api.schemas import DrillIn, DrillOut, ForecastOut, ReadingsOut, SimulationOut, TestPlanOut, TextIn
from kegcart.workbench.assessing import Elsewhere
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


@router.post(
    "/{design_id}/readings", response={200: ReadingsOut, **BAD}, summary="What the readings of a load test say of the station"
)
def readings(request: HttpRequest, design_id: str, body: TextIn) -> HttpResponse:
    return answer_json(workers.run(longwork.learned, *services.as_given(design_id), body.text))
