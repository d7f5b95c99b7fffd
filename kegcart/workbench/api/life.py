"""The life of a build: what was entered into its log, visits and wear, the time line, the table of entries and the calendar."""

from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import BeforeValidator, Field

from kegcart.core.log.living import write_life
from kegcart.core.log.tables import write_life_csv
from kegcart.workbench import record, services
from kegcart.workbench.api.answers import answer, attached
from kegcart.workbench.api.assembly import CSV, FILE
from kegcart.workbench.api.designs import BAD
from kegcart.workbench.api.schemas import LifeIn, LifeOut, LifeTableIn, LifeTableOut, TimelineOut
from kegcart.workbench.calendar_file import visits_calendar
from kegcart.workbench.timeline import KINDS, timeline

router = Router(tags=["life"])


def known_kinds(value: Any) -> Any:
    """Kinds parted by commas. Errors: ValueError, where one of them is none."""
    kinds = [kind for kind in str(value).split(",") if kind]
    if unknown := [kind for kind in kinds if kind not in KINDS]:
        raise ValueError(f"'{unknown[0][:40]}' is none of {', '.join(KINDS)}")
    return ",".join(kinds)


class PartIn(Schema):
    """A part of the time line. kinds: those that are asked for, parted by commas; all where it is empty."""

    kinds: Annotated[str, BeforeValidator(known_kinds)] = ""
    offset: Annotated[int, Field(ge=0, le=100_000)] = 0
    limit: Annotated[int, Field(ge=1, le=200)] = 60


@router.get(
    "/designs/{design_id}/life", response={200: LifeOut, **BAD}, summary="Visits, wear and what is judged of a build's life"
)
def read(request: HttpRequest, design_id: str) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        return answer(write_life(record.life_judged(design_id, a), a))


@router.post(
    "/designs/{design_id}/life", response={200: LifeOut, **BAD}, summary="Enter something into the log, change or take it back"
)
def enter(request: HttpRequest, design_id: str, body: LifeIn) -> HttpResponse:
    record.enter(design_id, body.entry, body.item, body.data)
    return read(request, design_id)


@router.get(
    "/designs/{design_id}/timeline", response={200: TimelineOut, **BAD}, summary="A part of the time line, the newest first"
)
def part(request: HttpRequest, design_id: str, wanted: Query[PartIn]) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        kinds = frozenset(filter(None, wanted.kinds.split(",")))
        rows, count, counts = timeline(design_id, a, kinds, wanted.offset, wanted.limit)
        return answer({"rows": rows, "count": count, "counts": counts})


@router.post(
    "/designs/{design_id}/life/table",
    response={200: LifeTableOut, **BAD},
    summary="Enter a table of uses, recharges and other entries; or only see what of it is new",
)
def table(request: HttpRequest, design_id: str, body: LifeTableIn) -> HttpResponse:
    found = (record.take_table if body.take else record.read_table)(design_id, body.text)
    return answer({"count": found.count, "new": len(found.new)})


@router.get("/designs/{design_id}/life.csv", response=BAD, summary="Every entry of the log as CSV", openapi_extra=FILE)
def life_csv(request: HttpRequest, design_id: str) -> HttpResponse:
    text = "\ufeff" + write_life_csv(record.life_of(design_id))
    return attached(text, CSV, services.find(design_id).name, "log.csv")


@router.get("/designs/{design_id}/visits.ics", response=BAD, summary="The visits as a calendar", openapi_extra=FILE)
def calendar(request: HttpRequest, design_id: str) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        name, judged = a.design.name, record.life_judged(design_id, a)
    made = visits_calendar(design_id, name, judged.visits, record.today())
    return attached(made, "text/calendar; charset=utf-8", name, "visits.ics")
