"""The assembly: lists, cut list, tools and the order of work; the files that come of them, and what comes back."""

from collections.abc import Callable
from typing import Annotated

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from kegcart.core.assembly.drawing import draw_step
from kegcart.core.assembly.sizing import AssemblySizing
from kegcart.core.assembly.tables import read_shopping, write_cuts, write_labels, write_shopping
from kegcart.core.assembly.writing import write_build
from kegcart.core.building import build_of
from kegcart.core.design import DesignError, digest_of
from kegcart.workbench import longwork, papers, record, services
from kegcart.workbench.api.answers import answer, attached
from kegcart.workbench.api.designs import BAD
from kegcart.workbench.api.schemas import AssemblyOut, LabelsIn, Operation, StepDrawingOut, TextIn, ToolOut
from kegcart.workbench.models import OwnTool
from kegcart.workbench.timeline import book_record
from kegcart.workbench.workers import workers

router = Router(tags=["assembly"])
FILE = {"responses": {200: {"description": "A file"}}}
CSV = "text/csv; charset=utf-8"


class DrawnStepIn(Schema):
    step: Annotated[str | None, Field(max_length=120, description="key of a step; the first if left out")] = None


class PaperIn(Schema):
    paper: papers.Paper = "a4"


class ToolIn(Schema):
    owned: bool


@router.get("/designs/{design_id}/assembly", response={200: AssemblyOut, **BAD}, summary="What it is built of, and in what order")
def assembly(request: HttpRequest, design_id: str) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        built = write_build(build_of(a)) | {"digest": digest_of(a.design)}
    owned = set(OwnTool.objects.values_list("key", flat=True))
    for tool in built["tools"]:
        tool["owned"] = tool["key"] in owned
    return answer(built)


@router.get(
    "/designs/{design_id}/assembly/drawing",
    response={200: StepDrawingOut, **BAD},
    summary="The drawing of one step, of just its part",
)
def drawing(request: HttpRequest, design_id: str, wanted: Query[DrawnStepIn]) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        built = build_of(a)
        key = wanted.step or built.steps[0].act.key
        step = next((s for s in built.steps if s.act.key == key), None)
        if step is None:
            raise DesignError([("/step", f"'{key[:40]}' is no step of this build")])
        drawn = draw_step(step, built, a.pack, a.box)
        return answer({"drawing": drawn.write() if drawn else None})


@router.get("/designs/{design_id}/shopping.csv", response=BAD, summary="The shopping list as CSV", openapi_extra=FILE)
def shopping_csv(request: HttpRequest, design_id: str) -> HttpResponse:
    return csv_of(design_id, lambda built: write_shopping(built.shopping), "shopping.csv")


@router.get("/designs/{design_id}/cuts.csv", response=BAD, summary="The wire cut list as CSV", openapi_extra=FILE)
def cuts_csv(request: HttpRequest, design_id: str) -> HttpResponse:
    return csv_of(design_id, lambda built: write_cuts(built.pieces), "cuts.csv")


@router.get(
    "/designs/{design_id}/wire-labels.csv", response=BAD, summary="Labels of the wires, for a printer", openapi_extra=FILE
)
def labels_csv(request: HttpRequest, design_id: str) -> HttpResponse:
    return csv_of(design_id, lambda built: write_labels(built.pieces), "wire-labels.csv")


def csv_of(design_id: str, written: Callable[[AssemblySizing], str], ending: str) -> HttpResponse:
    """A list of the assembly as a file, in the units of the brief."""
    with services.assessed_design(design_id) as a:
        text = "\ufeff" + written(build_of(a))
        return attached(text, CSV, a.design.name, ending)


@router.post(
    "/designs/{design_id}/shopping/read",
    response={200: list[Operation], **BAD},
    summary="The patch that a shopping list with what is owned and paid asks for",
)
def shopping_read(request: HttpRequest, design_id: str, body: TextIn) -> HttpResponse:
    with services.assessed_design(design_id) as a:
        return answer(read_shopping(body.text, build_of(a).shopping))


@router.get(
    "/designs/{design_id}/assembly.pdf",
    response=BAD,
    summary="Shopping list, cut list, tools and order of work on paper",
    openapi_extra=FILE,
)
def assembly_pdf(request: HttpRequest, design_id: str, wanted: Query[PaperIn]) -> HttpResponse:
    pdf = workers.run(longwork.assembly_pdf, *services.as_given(design_id), wanted.paper, record.marked(design_id))
    return attached(pdf, "application/pdf", services.find(design_id).name, "assembly.pdf", inline=True)


@router.get("/designs/{design_id}/lid.pdf", response=BAD, summary="The sheet for the lid, to be folded once", openapi_extra=FILE)
def lid_pdf(request: HttpRequest, design_id: str, wanted: Query[PaperIn]) -> HttpResponse:
    pdf = workers.run(longwork.lid_pdf, *services.as_given(design_id), wanted.paper, record.today())
    return attached(pdf, "application/pdf", services.find(design_id).name, "lid.pdf", inline=True)


@router.get("/designs/{design_id}/book.pdf", response=BAD, summary="The build book: everything in one PDF", openapi_extra=FILE)
def book_pdf(request: HttpRequest, design_id: str, wanted: Query[PaperIn]) -> HttpResponse:
    given = services.as_given(design_id)
    pdf = workers.run(longwork.book_pdf, *given, wanted.paper, book_record(design_id), record.today())
    return attached(pdf, "application/pdf", services.find(design_id).name, "book.pdf", inline=True)


@router.get(
    "/designs/{design_id}/wire-labels.pdf",
    response=BAD,
    summary="A label for each end of each wire, on sheets of labels",
    openapi_extra=FILE,
)
def wire_labels_pdf(request: HttpRequest, design_id: str, wanted: Query[LabelsIn]) -> HttpResponse:
    pdf = workers.run(longwork.wire_labels_pdf, *services.as_given(design_id), wanted.sheet, wanted.first)
    return attached(pdf, "application/pdf", services.find(design_id).name, "wire-labels.pdf", inline=True)


@router.put("/tools/{key}", response={200: ToolOut, **BAD}, summary="Remember for all builds whether a tool is there")
def own_tool(request: HttpRequest, key: str, body: ToolIn) -> HttpResponse:
    if len(key) > OwnTool.LONGEST or not key.replace("-", "").replace(".", "").isalnum():
        raise DesignError([("/key", f"'{key[:40]}' is no tool")])
    if body.owned:
        OwnTool.objects.get_or_create(key=key)
    else:
        OwnTool.objects.filter(key=key).delete()
    return answer({"key": key, "owned": body.owned})
