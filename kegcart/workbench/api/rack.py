"""The cell rack: measured cells, their import, rejects, sorting, and building them in."""

from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from kegcart.core.pack.rack import FIELDS, Measured, RackTable, RejectLimits
from kegcart.workbench import rack, services
from kegcart.workbench.api.answers import answer, design_data, job_of, table_data
from kegcart.workbench.api.designs import BAD
from kegcart.workbench.api.schemas import (
    CellChange,
    CellIn,
    CellOut,
    CellsIn,
    CellsOut,
    DesignOut,
    IdsIn,
    ImportedOut,
    LimitsIn,
    PlaceIn,
    RackOut,
    RefillIn,
    RefillOut,
    SortIn,
    SortOut,
    StaleOut,
    TableIn,
    TableOut,
)
from kegcart.workbench.models import RackCell

router = Router(tags=["rack"])
SHOWN = 8
SORT_AWAIT_S = 0.5


def limits_of(given: LimitsIn) -> RejectLimits:
    """Limits as asked, the typical one where nothing is said."""
    return RejectLimits(**{k: v for k, v in given.dict().items() if v is not None})


def cell_data(cell: RackCell, reasons: list[str], placed: rack.Placed | None) -> dict[str, Any]:
    return {
        "id": cell.pk,
        **{name: getattr(cell, name) for name in RackCell.FIELDS},
        "reasons": reasons,
        "build": placed and {"design_id": placed.design_id, "name": placed.build, "group": placed.group, "place": placed.place},
    }


class SeenFrom(Schema):
    design_id: Annotated[str, Field(max_length=12, description="as this build sees the rack; empty: all of it")] = ""


@router.get("", response={200: RackOut, **BAD}, summary="The cells of the rack, judged")
def show(request: HttpRequest, limits: Query[LimitsIn], seen: Query[SeenFrom]) -> HttpResponse:
    chosen = limits_of(limits)
    there = rack.seen_from(seen.design_id) if seen.design_id else None
    every, pile = rack.standing(chosen, there)
    return answer(
        {
            "cells": [cell_data(s.cell, s.reasons, s.placed) for s in every],
            "medians": [
                {"format": cell_format, "chemistry": chemistry, "resistance_by": way, "mohm": mohm}
                for (cell_format, chemistry, way), mohm in pile.median_mohm.items()
            ],
            "limits": {name: getattr(chosen, name) for name in RejectLimits.__dataclass_fields__},
            "next_label": rack.next_label(there),
        }
    )


def measured_of(given: CellIn) -> Measured:
    values = given.model_dump()
    return Measured.model_construct(**{**values, "label": given.label or rack.next_label()})


def said_of(cells: list[RackCell]) -> dict[str, Any]:
    """Cells just stored, judged against the whole rack."""
    ids = {c.pk for c in cells}
    every, _ = rack.standing(RejectLimits())
    shown = [cell_data(s.cell, s.reasons, s.placed) for s in every if s.cell.pk in ids]
    return {"cells": shown, "next_label": rack.next_label()}


@router.post("/cells", response={201: CellsOut, **BAD}, summary="Put cells on the rack, all or none")
def add(request: HttpRequest, body: CellsIn) -> HttpResponse:
    if len(body.cells) > 1 and any(not c.label for c in body.cells):
        raise rack.RackError([("/cells", "every cell needs a label where several are put on at once")])
    return answer(said_of(rack.add([measured_of(c) for c in body.cells])), 201)


@router.patch("/cells/{cell_id}", response={200: CellOut, **BAD}, summary="Change a cell")
def edit(request: HttpRequest, cell_id: int, body: CellChange) -> HttpResponse:
    if cell_id > 2**62:
        raise services.MissingError
    cell = rack.edit(cell_id, body.dict(exclude_unset=True))
    return answer(said_of([cell])["cells"][0])


@router.post("/remove", response={200: CellsIn, **BAD}, summary="Take cells off; returns their rows")
def remove(request: HttpRequest, body: IdsIn) -> HttpResponse:
    return answer({"cells": rack.remove(body.ids)})


def read(body: TableIn) -> RackTable:
    defaults = Measured(
        format=body.format, chemistry=body.chemistry, rated_ah=body.rated_ah, resistance_by=body.resistance_by, source=body.source
    )
    chosen = {c.index: (c.field, c.unit) for c in body.columns}
    known = {f.key: f for f in FIELDS}
    for c in body.columns:
        if c.field is not None and (c.field not in known or (c.unit and c.unit not in known[c.field].units)):
            raise rack.RackError([(f"/columns/{c.index}", f"'{c.field}' in '{c.unit}' is no column of the rack")])
    return rack.read_table(body.text, defaults, chosen)


@router.post("/read", response={200: TableOut, **BAD}, summary="How a table of cells would be read, without storing it")
def preview(request: HttpRequest, body: TableIn) -> HttpResponse:
    table = read(body)
    shown = [{name: getattr(c, name) for name in RackCell.FIELDS} for c in table.cells[:SHOWN]]
    fields = [{"key": f.key, "label": f.words[0], "units": list(f.units)} for f in FIELDS]
    return answer({**table_data(table.columns, table.problems), "count": len(table.cells), "first": shown, "fields": fields})


@router.post("/import", response={201: ImportedOut, **BAD}, summary="Import a table of cells, all or none")
def import_table(request: HttpRequest, body: TableIn) -> HttpResponse:
    table = read(body)
    if table.problems:
        raise rack.RackError([("/text", str(p)[0].upper() + str(p)[1:]) for p in table.problems])
    rack.add(table.cells)
    return answer({"added": len(table.cells)}, 201)


@router.get("/file.csv", summary="The rack as CSV", openapi_extra={"responses": {200: {"description": "CSV"}}})
def export(request: HttpRequest) -> HttpResponse:
    response = HttpResponse("\ufeff" + rack.write_rack(), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = 'attachment; filename="cell-rack.csv"'
    return response


def sorting_data(key: str, job: rack.SortingJob) -> dict[str, Any]:
    return {
        "job": key,
        "done": job.done,
        "progress": job.progress,
        "spread_ah": job.so_far,
        "error": job.error,
        "good": len(job.about.good),
        "left_out": [{"reason": reason, "count": n} for reason, n in job.about.left_out.items()],
        "result": rack.written(job.result, job.about.good) if job.result and job.done else None,
    }


@router.post("/sort", response={202: SortOut, **BAD}, summary="Begin sorting good cells into groups")
def sort(request: HttpRequest, body: SortIn) -> HttpResponse:
    limits = limits_of(body.limits or LimitsIn())
    store = rack.stock(body.design_id, limits, frozenset(body.kept_out), body.resistance_by, body.cell_format)
    pinned = {int(k): v - 1 for k, v in body.pinned.items()}
    key, job = rack.begin_sorting(store, body.series, body.parallel, (body.holder, body.holder_groups), pinned, body.thorough)
    job.wait(SORT_AWAIT_S)
    return answer(sorting_data(key, job), 202)


@router.get("/sort/{job}", response={200: SortOut, **BAD}, summary="How far the sorting is")
def sorting(request: HttpRequest, job: str) -> HttpResponse:
    return answer(sorting_data(job, job_of("sorting", job)))


@router.delete("/sort/{job}", response={200: SortOut, **BAD}, summary="Stop the sorting, and take what it has found")
def stop_sorting(request: HttpRequest, job: str) -> HttpResponse:
    found = job_of("sorting", job)
    found.stop()
    return answer(sorting_data(job, found))


@router.post("/refill", response={200: RefillOut, **BAD}, summary="Replace rejected cells, moving as few others as it can")
def refill(request: HttpRequest, body: RefillIn) -> HttpResponse:
    found = rack.refill(body.design_id, RejectLimits())
    return answer({"groups": found.groups, "moved": found.moved, "spread": found.spread})


@router.post("/place", response={200: DesignOut, 409: StaleOut, **BAD}, summary="Build sorted cells into a design")
def place(request: HttpRequest, body: PlaceIn) -> HttpResponse:
    return answer(
        design_data(
            rack.place(body.design_id, body.base_revision, body.groups, (body.holder, body.holder_groups), body.reclaimed)
        )
    )
