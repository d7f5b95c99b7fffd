"""The power path: diagram folded and as a sheet, wire table, cut-offs and idle drain."""

from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from kegcart.core.design import DesignError
from kegcart.core.figure import write_figure
from kegcart.core.power.drawing.diagram import draw_path
from kegcart.core.power.drawing.wire_table import read_wires, write_wires
from kegcart.core.power.path.catalogue import generic_parts, own_figures
from kegcart.core.power.path.cutoffs import scale
from kegcart.core.power.path.edits import take_out, take_out_whole
from kegcart.workbench import longwork, papers, record, services
from kegcart.workbench.api.answers import answer, attached
from kegcart.workbench.api.designs import BAD
from kegcart.workbench.api.schemas import DrawingOut, Operation, PathPartIn, PathPartOut, StandbyOut, TakenOut, TextIn
from kegcart.workbench.models import OwnPart
from kegcart.workbench.workers import workers

router = Router(tags=["power"])
FILE = {"responses": {200: {"description": "A file"}}}


class DiagramIn(Schema):
    folded: Annotated[
        str | None, Field(max_length=4000, description="ids of folded parts, with commas between; as is usual if left out")
    ] = None
    step: Annotated[int | None, Field(ge=0, description="step of the day whose currents are shown; the greatest if left out")] = (
        None
    )


class PartIn(Schema):
    part: Annotated[str, Field(max_length=60, description="its id")]


class PrintIn(Schema):
    paper: papers.Paper = "a4"


@router.get(
    "/designs/{design_id}/diagram",
    response={200: DrawingOut, **BAD},
    summary="The diagram, folded as asked, at a step of the day",
)
def diagram(request: HttpRequest, design_id: str, wanted: Query[DiagramIn]) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        folded = None if wanted.folded is None else frozenset(wanted.folded.split(",")) & frozenset(a.power.network.nodes)
        steps = a.loads.day.steps
        if wanted.step is not None and wanted.step >= steps:
            raise DesignError([("/step", f"the day has {steps} steps, from 0")])
        return answer(draw_path(a.power, folded, wanted.step).write())


@router.get("/designs/{design_id}/moments", response={200: list[str], **BAD}, summary="The steps of the day, in words")
def moments(request: HttpRequest, design_id: str) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        day, weekdays = a.loads.day, a.design.loads.weekdays
    return answer([day.moment(h, weekdays) for h in day.edges_h[:-1]])


@router.get("/designs/{design_id}/power.svg", summary="Diagram, wire table and title block as SVG", openapi_extra=FILE)
def power_svg(request: HttpRequest, design_id: str) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        svg = papers.power_svg(a)
    return attached(svg, "image/svg+xml", a.design.name, "power.svg", inline=True)


@router.get("/designs/{design_id}/power.pdf", summary="Diagram, wire table and title block on one page", openapi_extra=FILE)
def power_pdf(request: HttpRequest, design_id: str, wanted: Query[PrintIn]) -> HttpResponse:
    pdf = workers.run(longwork.power_pdf, *services.as_given(design_id), wanted.paper)
    return attached(pdf, "application/pdf", services.find(design_id).name, "power.pdf", inline=True)


@router.get("/designs/{design_id}/checks.pdf", summary="Every check of the build, closest to its limit first", openapi_extra=FILE)
def checks_pdf(request: HttpRequest, design_id: str, wanted: Query[PrintIn]) -> HttpResponse:
    pdf = workers.run(longwork.checks_pdf, *services.as_given(design_id), wanted.paper)
    return attached(pdf, "application/pdf", services.find(design_id).name, "checks.pdf", inline=True)


@router.get("/designs/{design_id}/wires.csv", summary="The wire table as CSV", openapi_extra=FILE)
def wires_csv(request: HttpRequest, design_id: str) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        text = "\ufeff" + write_wires(a.power)
    return attached(text, "text/csv; charset=utf-8", a.design.name, "wires.csv")


@router.post(
    "/designs/{design_id}/wires/read",
    response={200: list[Operation], **BAD},
    summary="The patch that a pasted wire table asks for",
)
def wires_read(request: HttpRequest, design_id: str, body: TextIn) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        return answer(read_wires(body.text, a.power))


@router.get(
    "/designs/{design_id}/standby", response={200: StandbyOut, **BAD}, summary="Cut-offs on one scale, and idle drain by part"
)
def standby(request: HttpRequest, design_id: str) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        steps: list[dict[str, Any]] = [
            {"rank": s.rank, "name": s.name, "place": s.place, "volts": write_figure(s.volts, top=True)} for s in a.power.cutoffs
        ]
        idle = [
            {"place": i.place, "name": i.name, "switched": i.switched, "watts": write_figure(i.watts, top=True)}
            for i in a.power.idle
        ]
        return answer({"cutoffs": steps, "scale": scale(a.power, a.pack, a.site.cold_c.number), "idle": idle})


@router.get(
    "/designs/{design_id}/taken-out",
    response={200: TakenOut, **BAD},
    summary="The patches that take a part or a further bank out, alone or with all behind it",
)
def taken_out(request: HttpRequest, design_id: str, wanted: Query[PartIn]) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        network, loads = a.power.network, a.design.loads.items
    if wanted.part not in network.nodes and wanted.part not in network.bank_names:
        raise DesignError([("/part", f"'{wanted.part}' is no part of the power path, and no further bank")])
    joined = take_out(network, wanted.part, loads) if wanted.part in network.nodes else None
    behind = sum(1 for _ in network.below(wanted.part))
    return answer({"joined": joined, "whole": take_out_whole(network, wanted.part, loads), "behind": behind})


def own_data(part: OwnPart) -> dict[str, Any]:
    return {
        "label": part.name,
        "kind": part.kind,
        "figures": part.figures,
        "price": None,
        "source": "your own",
        "own": part.pk,
        "owned": part.owned,
        "measured": False,
    }


@router.get("/designs/{design_id}/parts", response={200: list[PathPartOut], **BAD}, summary="Parts that one can be replaced with")
def parts(request: HttpRequest, design_id: str, wanted: Query[PartIn]) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        part = a.power.parts.get(wanted.part)
    if part is None:
        raise DesignError([("/part", f"'{wanted.part}' is no part of the power path")])
    own = [own_data(p) for p in OwnPart.objects.filter(kind=part.node.part)]
    generic = [
        {
            "label": p.label,
            "kind": p.kind,
            "figures": p.figures,
            "price": p.price,
            "source": p.source,
            "own": None,
            "owned": 0,
            "measured": False,
        }
        for p in generic_parts(part)
    ]
    measured = [
        {
            "label": p.label,
            "kind": p.kind,
            "figures": p.figures,
            "price": None,
            "source": p.source,
            "own": None,
            "owned": 0,
            "measured": True,
        }
        for p in record.learned(part.node.part)
    ]
    return answer([*own, *measured, *generic])


@router.post("/power/parts", response={201: PathPartOut, **BAD}, summary="Keep a part of one's own for all builds")
def keep(request: HttpRequest, body: PathPartIn) -> HttpResponse:
    try:
        figures = own_figures(body.kind, body.figures)
    except ValueError as error:
        raise DesignError([("/figures", str(error))]) from None
    return answer(own_data(OwnPart.objects.create(kind=body.kind, name=body.name, figures=figures, owned=body.owned)), 201)
