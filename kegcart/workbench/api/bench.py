"""The bench: simulation and rehearsal of a design as it stands."""

from functools import lru_cache
from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Field, Query, Router, Schema

from kegcart.core.assess import Assessment
from kegcart.core.bench.rehearse import rehearse, write_rehearsal
from kegcart.core.bench.simulate import simulate, write_simulation
from kegcart.workbench import services
from kegcart.workbench.api.answers import answer
from kegcart.workbench.api.designs import BAD
from kegcart.workbench.api.schemas import SimulationOut, StepOut

router = Router(tags=["bench"])


class DaysIn(Schema):
    days: int | None = Field(None, ge=1, le=14)


@lru_cache(maxsize=8)
def simulated(assessment: Assessment, days: int | None) -> dict[str, Any]:
    return write_simulation(simulate(assessment, days), assessment)


@router.get("/{design_id}/simulation", response={200: SimulationOut, **BAD}, summary="The station simulated over its days")
def simulation(request: HttpRequest, design_id: str, wanted: Query[DaysIn]) -> HttpResponse:
    return answer(simulated(services.assessed_design(design_id), wanted.days))


@router.get("/{design_id}/rehearsal", response={200: list[StepOut], **BAD}, summary="The load test rehearsed")
def rehearsal(request: HttpRequest, design_id: str) -> HttpResponse:
    return answer(write_rehearsal(rehearse(services.assessed_design(design_id))))
