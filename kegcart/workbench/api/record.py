"""The record of a build: what was done and measured at the bench, and what was bought."""

from django.http import HttpRequest, HttpResponse
from ninja import Router

from kegcart.core.log.judging import write_log
from kegcart.workbench import record, services
from kegcart.workbench.api.answers import answer
from kegcart.workbench.api.designs import BAD
from kegcart.workbench.api.schemas import BoughtIn, RecordOut, TickIn

router = Router(tags=["record"])


@router.get(
    "/designs/{design_id}/record", response={200: RecordOut, **BAD}, summary="How every step stands, and what was measured"
)
def read(request: HttpRequest, design_id: str) -> HttpResponse:
    return recorded(design_id)


@router.post("/designs/{design_id}/record", response={200: RecordOut, **BAD}, summary="Record a step, with what was measured")
def tick(request: HttpRequest, design_id: str, body: TickIn) -> HttpResponse:
    record.tick(design_id, body.entry, body.act, body.done, dict(body.values), body.remark, body.digest)
    return recorded(design_id)


@router.post(
    "/designs/{design_id}/record/bought",
    response={200: RecordOut, **BAD},
    summary="Record how many of a line of the shopping list were bought",
)
def buy(request: HttpRequest, design_id: str, body: BoughtIn) -> HttpResponse:
    record.buy(design_id, body.entry, body.line, body.count)
    return recorded(design_id)


def recorded(design_id: str) -> HttpResponse:
    """The record as it stands, in the units of the brief."""
    with services.assessed_design(design_id):
        return answer(write_log(record.judged(design_id)))
