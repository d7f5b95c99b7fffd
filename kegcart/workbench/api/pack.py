"""The pack: drawings and papers, packs that would serve, an own discharge curve, the builder's own parts."""

from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from kegcart.core.pack.curve import read_curve
from kegcart.core.pack.drawing import Shown, Side, draw_pack
from kegcart.core.pack.suggest import Form
from kegcart.core.reference import Row, battery_types, cell_types
from kegcart.workbench import longwork, papers, record, services
from kegcart.workbench.api.answers import answer, answer_json, attached
from kegcart.workbench.api.designs import BAD
from kegcart.workbench.api.schemas import CurveIn, CurveOut, DrawingOut, LabelsIn, OwnPartIn, PackPartOut, SuggestionOut
from kegcart.workbench.models import OwnPart
from kegcart.workbench.workers import workers

router = Router(tags=["pack"])


class DrawingIn(Schema):
    side: Side = "top"
    shown: Shown = "cells"
    paper: papers.Paper = "a4"
    scale: papers.Scale = "fit"


class FormIn(Schema):
    form: Annotated[Form | None, Field(description="of this form only; any if left out")] = None


FILE = {"responses": {200: {"description": "A file"}}}


@router.get("/designs/{design_id}/pack-drawing", response={200: DrawingOut, **BAD}, summary="The pack drawing, to pick from")
def pack_drawing(request: HttpRequest, design_id: str, wanted: Query[DrawingIn]) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        return answer(draw_pack(a.pack, wanted.side, wanted.shown).write())


@router.get("/designs/{design_id}/pack.svg", summary="The pack drawing, in true millimetres", openapi_extra=FILE)
def pack_svg(request: HttpRequest, design_id: str, wanted: Query[DrawingIn]) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        svg = papers.pack_svg(a, wanted.side, wanted.shown)
    return attached(svg, "image/svg+xml", a.design.name, "pack.svg", inline=True)


@router.get("/designs/{design_id}/pack.pdf", summary="The pack drawing to print, 1:1 or fitted", openapi_extra=FILE)
def pack_pdf(request: HttpRequest, design_id: str, wanted: Query[DrawingIn]) -> HttpResponse:
    given = services.as_given(design_id)
    pdf = workers.run(longwork.pack_pdf, *given, wanted.side, wanted.paper, wanted.scale == "true")
    return attached(pdf, "application/pdf", services.find(design_id).name, "pack.pdf", inline=True)


@router.get("/designs/{design_id}/plan.csv", response=BAD, summary="Which cell goes where, as CSV", openapi_extra=FILE)
def plan_csv(request: HttpRequest, design_id: str) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        text = "\ufeff" + papers.plan_csv(a)
    return attached(text, "text/csv; charset=utf-8", a.design.name, "cell-plan.csv")


@router.get("/designs/{design_id}/plan.pdf", response=BAD, summary="Which cell goes where, to print", openapi_extra=FILE)
def plan_pdf(request: HttpRequest, design_id: str, wanted: Query[DrawingIn]) -> HttpResponse:
    pdf = workers.run(longwork.plan_pdf, *services.as_given(design_id), wanted.paper)
    return attached(pdf, "application/pdf", services.find(design_id).name, "cell-plan.pdf", inline=True)


@router.get("/designs/{design_id}/labels.pdf", response=BAD, summary="A label for each cell, to print", openapi_extra=FILE)
def labels_pdf(request: HttpRequest, design_id: str, wanted: Query[LabelsIn]) -> HttpResponse:
    pdf = workers.run(longwork.cell_labels_pdf, *services.as_given(design_id), wanted.sheet, wanted.first)
    return attached(pdf, "application/pdf", services.find(design_id).name, "cell-labels.pdf", inline=True)


@router.get("/designs/{design_id}/packs", response={200: list[SuggestionOut], **BAD}, summary="Three packs that would serve")
def packs(request: HttpRequest, design_id: str, wanted: Query[FormIn]) -> HttpResponse:
    return answer_json(workers.run(longwork.suggestions, *services.as_given(design_id), wanted.form))


@router.post("/pack/read-curve", response={200: CurveOut, **BAD}, summary="How a table of a discharge reads")
def curve(request: HttpRequest, body: CurveIn) -> HttpResponse:
    return answer(read_curve(body.text, body.current_a, body.cells))


def part_data(row: Row, kind: str, chemistry: str, figures: dict[str, Any]) -> dict[str, Any]:
    return {
        "key": row.key,
        "label": row.label,
        "kind": kind,
        "chemistry": chemistry,
        "figures": figures,
        "source": row.basis.source,
        "own": None,
        "measured": False,
    }


def own_data(part: OwnPart) -> dict[str, Any]:
    return {
        "key": f"own-{part.pk}",
        "label": part.name,
        "kind": part.kind,
        "chemistry": part.figures["chemistry"],
        "figures": part.figures["figures"],
        "source": "your own",
        "own": part.pk,
        "measured": False,
    }


@router.get("/pack/parts", response=list[PackPartOut], summary="Generic cells, batteries and modules, and the builder's own")
def parts(request: HttpRequest) -> HttpResponse:
    own = [own_data(p) for p in OwnPart.objects.filter(kind__in=["cell", "battery", "module"])]
    cells = [part_data(c, "cell", c.chemistry, c.document()) for c in cell_types().values()]
    batteries = [part_data(b, b.form, b.chemistry, b.document()) for b in battery_types().values()]
    measured = [
        {"key": f"measured-{n}", "label": p.label, "kind": p.kind, "chemistry": p.chemistry, "figures": p.figures}
        | {"source": p.source, "own": None, "measured": True}
        for n, p in enumerate(record.tested_packs())
    ]
    return answer([*own, *measured, *cells, *batteries])


@router.post("/pack/parts", response={201: PackPartOut, **BAD}, summary="Keep a cell, battery or module for all builds")
def keep(request: HttpRequest, body: OwnPartIn) -> HttpResponse:
    figures = {"chemistry": body.chemistry, "figures": body.figures.model_dump(mode="json")}
    return answer(own_data(OwnPart.objects.create(kind=body.kind, name=body.name, figures=figures)), 201)


@router.delete("/own-parts/{part_id}", response={204: None, **BAD}, summary="Forget a part of one's own")
def forget(request: HttpRequest, part_id: int) -> HttpResponse:
    if part_id > 2**62 or not OwnPart.objects.filter(pk=part_id).delete()[0]:
        raise services.MissingError
    return HttpResponse(status=204)
