"""The box: every view of it with what can be moved, clear places for what has none, the builder's own boxes."""

from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from kegcart.core.box.document import Face
from kegcart.core.box.drawing import draw_box, features, handles, told
from kegcart.core.box.moves import place_things
from kegcart.core.box.runs import links_of, routed, way_between
from kegcart.core.box.sheet import draw_layout
from kegcart.core.box.taking_out import order_out
from kegcart.core.box.template import Hole, Seen, draw_template, holes_in, size_text
from kegcart.core.design import DesignError
from kegcart.core.reference.boxes import case_types
from kegcart.core.svg import write_svg
from kegcart.workbench import laying, longwork, papers, services
from kegcart.workbench.api.answers import answer, attached, job_of
from kegcart.workbench.api.designs import BAD
from kegcart.workbench.api.schemas import BoxOut, CaseIn, CaseOut, LayingOut, PlacesOut, Strict
from kegcart.workbench.models import OwnPart
from kegcart.workbench.template import drilled
from kegcart.workbench.workers import workers

router = Router(tags=["box"])
LAY_AWAIT_S = 0.3
FILE = {"responses": {200: {"description": "A file"}}}


class FaceIn(Schema):
    face: Face = "front"
    seen: Seen = "outside"


class LayIn(Strict):
    smallest: Annotated[bool, Field(description="in the smallest box of the list that holds it all, instead of its own")] = False


class PrintIn(Schema):
    paper: papers.Paper = "a4"


class ThingIn(Schema):
    thing: Annotated[str | None, Field(max_length=60, description="by its key; all that have no place if left out")] = None


@router.get("/designs/{design_id}/box", response={200: BoxOut, **BAD}, summary="The box to scale, with what can be moved in it")
def box(request: HttpRequest, design_id: str) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        if a.box is None:
            none: list[Any] = []
            return answer(
                {"hollow": None} | dict.fromkeys(("views", "handles", "order_out", "runs", "features", "things", "holes"), none)
            )
        layout = a.box.layout
        hollow = layout.hollow
        links = links_of(a.power, {thing.key: thing for thing in layout.things})
        return answer(
            {
                "hollow": {"length": hollow.length, "width": hollow.width, "height": hollow.height, "taper": hollow.taper},
                "views": [view.write() for view in draw_box(a.box)],
                "handles": list(handles(a.box)),
                "order_out": order_out(layout),
                "runs": [
                    {"of": f"/power/network/{part}", "ends": [run.of, run.to], "points": way_between(*run.ends)}
                    for part, run in routed(links, layout).items()
                ],
                "features": list(features(layout)),
                "things": list(told(a.box)),
                "holes": [write_hole(hole) for hole in holes_in(layout)],
            }
        )


def write_hole(hole: Hole) -> dict[str, Any]:
    shape = hole.shape
    told = {"face": hole.face, "at": hole.at, "name": hole.name, "screw": hole.screw, "bit": hole.bit, "size": size_text(shape)}
    return {**told, "x_mm": shape.x, "y_mm": shape.y}


@router.get(
    "/designs/{design_id}/box/places",
    response={200: PlacesOut, **BAD},
    summary="The patch that stands what has no place in a clear one",
)
def places(request: HttpRequest, design_id: str, wanted: Query[ThingIn]) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        if a.box is None:
            raise DesignError([("/box/case", "there is no box yet to stand anything in")])
        layout = a.box.layout
        free = {t.key for t in (*layout.unplaced, *layout.outside)}
        if wanted.thing is not None and wanted.thing not in free:
            raise DesignError([("/thing", f"'{wanted.thing}' is nothing that waits for a place")])
        found, left = place_things(layout, [wanted.thing] if wanted.thing else [t.key for t in layout.unplaced])
        patch = [{"op": "add", "path": f"/box/places/{key}", "value": p.model_dump(mode="json")} for key, p in found.items()]
        return answer({"patch": patch, "left": left})


@router.post("/designs/{design_id}/box/layout", response={202: LayingOut, **BAD}, summary="Begin to propose a layout of the box")
def begin(request: HttpRequest, design_id: str, body: LayIn) -> HttpResponse:
    key, job = laying.begin_laying(design_id, body.smallest)
    job.wait(LAY_AWAIT_S)
    return answer(laying.laying_data(key, job), 202)


@router.get("/box/layout/{job}", response={200: LayingOut, **BAD}, summary="How far the layout is")
def how_far(request: HttpRequest, job: str) -> HttpResponse:
    return answer(laying.laying_data(job, job_of("laying", job)))


@router.delete("/box/layout/{job}", response={200: LayingOut, **BAD}, summary="Stop the layout, and take what it has found")
def stop_laying(request: HttpRequest, job: str) -> HttpResponse:
    found = job_of("laying", job)
    found.stop()
    return answer(laying.laying_data(job, found))


@router.get(
    "/designs/{design_id}/template.svg",
    response=BAD,
    summary="The drill template of a face, in true millimetres",
    openapi_extra=FILE,
)
def template_svg(request: HttpRequest, design_id: str, wanted: Query[FaceIn]) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        svg = write_svg(
            draw_template(wanted.face, drilled(a), wanted.seen), f"{a.design.name}: {wanted.face}", papers.font_faces()
        )
    return attached(svg, "image/svg+xml", a.design.name, f"{wanted.face}.svg", inline=True)


@router.get(
    "/designs/{design_id}/template.dxf", response=BAD, summary="The holes of a face as DXF, in millimetres", openapi_extra=FILE
)
def template_as_dxf(request: HttpRequest, design_id: str, wanted: Query[FaceIn]) -> HttpResponse:
    dxf = workers.run(longwork.template_dxf, *services.as_given(design_id), wanted.face)
    return attached(dxf, "image/vnd.dxf", services.find(design_id).name, f"{wanted.face}.dxf")


@router.get(
    "/designs/{design_id}/template.pdf", response=BAD, summary="The drill template of every face, 1:1", openapi_extra=FILE
)
def template_as_pdf(request: HttpRequest, design_id: str, wanted: Query[PrintIn]) -> HttpResponse:
    pdf = workers.run(longwork.template_pdf, *services.as_given(design_id), wanted.paper)
    return attached(pdf, "application/pdf", services.find(design_id).name, "drill-template.pdf", inline=True)


def has_box(design_id: str) -> str:
    """The id again. Errors: DesignError where the design has no box."""
    with services.assessed_design(design_id) as a:
        if a.box is None:
            raise DesignError([("/box/case", "there is no box yet")])
    return design_id


@router.get("/designs/{design_id}/layout.svg", response=BAD, summary="The layout with its table of parts", openapi_extra=FILE)
def layout_svg(request: HttpRequest, design_id: str) -> HttpResponse:
    with services.assessed_design(has_box(design_id)) as a:
        assert a.box is not None
        sheet = draw_layout(a.box, a.design.name, a.design.brief.purpose)
        svg = write_svg(sheet, f"{a.design.name}: layout", papers.font_faces())
    return attached(svg, "image/svg+xml", a.design.name, "layout.svg", inline=True)


@router.get("/designs/{design_id}/layout.pdf", response=BAD, summary="The same on one page", openapi_extra=FILE)
def layout_as_pdf(request: HttpRequest, design_id: str, wanted: Query[PrintIn]) -> HttpResponse:
    pdf = workers.run(longwork.layout_pdf, *services.as_given(has_box(design_id)), wanted.paper)
    return attached(pdf, "application/pdf", services.find(design_id).name, "layout.pdf", inline=True)


def own_data(part: OwnPart) -> dict[str, Any]:
    return {
        "key": f"own-{part.pk}",
        "label": part.name,
        "figures": part.figures,
        "price": None,
        "source": "your own",
        "own": part.pk,
    }


@router.get("/box/cases", response=list[CaseOut], summary="Generic boxes, and the builder's own")
def cases(request: HttpRequest) -> HttpResponse:
    generic = [
        {"key": c.key, "label": c.label, "figures": c.document, "price": c.price, "source": c.basis.source, "own": None}
        for c in case_types().values()
    ]
    return answer([*(own_data(p) for p in OwnPart.objects.filter(kind="case")), *generic])


@router.post("/box/cases", response={201: CaseOut, **BAD}, summary="Keep a box of one's own for all builds")
def keep(request: HttpRequest, body: CaseIn) -> HttpResponse:
    figures = body.case.model_dump(mode="json")
    return answer(own_data(OwnPart.objects.create(kind="case", name=body.case.name, figures=figures)), 201)
