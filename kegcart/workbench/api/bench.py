"""The bench: simulation and rehearsal of a design as it stands."""

from functools import lru_cache
from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router

from kegcart.core.bench.rehearse import rehearse, write_rehearsal
from kegcart.core.bench.simulate import simulate, write_run
from kegcart.workbench import services
from kegcart.workbench.api.answers import answer
from kegcart.workbench.api.designs import BAD
from kegcart.workbench.api.schemas import SimulationOut, StepOut

router = Router(tags=["bench"])


@lru_cache(maxsize=8)
def simulated(revision_pk: int, days: int | None) -> dict[str, Any]:
    assessment = services.assessed(revision_pk)
    return write_run(simulate(assessment, days), assessment)


@router.get("/{design_id}/simulation", response={200: SimulationOut, **BAD}, summary="The station simulated over its days")
def simulation(request: HttpRequest, design_id: str, days: int | None = Query(None, ge=1, le=14)) -> HttpResponse:
    return answer(simulated(services.get(design_id).head_id, days))


@router.get("/{design_id}/rehearsal", response={200: list[StepOut], **BAD}, summary="The load test rehearsed")
def rehearsal(request: HttpRequest, design_id: str) -> HttpResponse:
    return answer(write_rehearsal(rehearse(services.assessed(services.get(design_id).head_id))))
