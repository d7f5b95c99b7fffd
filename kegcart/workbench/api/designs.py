"""Designs: the shelf, one design, and its changes."""

from tempfile import TemporaryFile
from typing import Annotated, Any, Literal

from django.db import transaction
from django.http import FileResponse, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from ninja import Query, Router, Schema
from pydantic import Field
from pydantic_core import to_json

from kegcart.core.design import FORMAT, MAX_BYTES, VERSION, DesignError, read_json
from kegcart.core.log.file import FORMAT as BUILD_FORMAT
from kegcart.core.log.file import MOST_BYTES, read_build_file, write_build_file
from kegcart.core.remedies import offered
from kegcart.workbench import archive, cards, history, longwork, photos, record, services
from kegcart.workbench.api.answers import answer, attached, changed_data, design_data, stem_of
from kegcart.workbench.api.schemas import (
    ChangeIn,
    ChangesOut,
    DesignOut,
    EarlierOut,
    EffectOut,
    ErrorOut,
    GoBackIn,
    NewIn,
    OfferOut,
    PreviewIn,
    ShelfOut,
    StaleOut,
    StepIn,
)
from kegcart.workbench.assessing import UnreadableError, assessed
from kegcart.workbench.models import StoredDesign
from kegcart.workbench.running import bench, keeping
from kegcart.workbench.starts import start_from
from kegcart.workbench.workers import workers

router = Router(tags=["designs"])

BAD = {404: ErrorOut, 413: ErrorOut, 422: ErrorOut}


class ShelfIn(Schema):
    search: Annotated[str, Field(max_length=200, description="words of name or purpose")] = ""
    order: cards.Order = "changed"
    offset: Annotated[int, Field(ge=0, le=1_000_000)] = 0
    limit: Annotated[int, Field(ge=1, le=100)] = 24
    off: Annotated[bool, Field(description="those taken off the shelf")] = False


@router.get("", response=ShelfOut, summary="The shelf of builds")
def shelf(request: HttpRequest, wanted: Query[ShelfIn]) -> HttpResponse:
    found = cards.shelf(wanted.search, wanted.order, wanted.offset, wanted.limit, wanted.off)
    return answer({"builds": found.builds, "count": found.count, "off": found.off})


@router.post("", response={201: DesignOut, **BAD}, summary="Begin a new design")
def begin(request: HttpRequest, body: NewIn) -> HttpResponse:
    if body.start:
        try:
            document = start_from(body.start)
        except KeyError:
            raise DesignError([("/start", f"there is no kind of station '{body.start}' to start from")]) from None
    else:
        document = {"format": FORMAT, "version": VERSION, "name": "New build"}
    design = services.create(document | ({"name": body.name} if body.name else {}), "New design")
    return answer(design_data(design), 201)


SAYS_FORMAT = 200
"""Within so many bytes a file of a build says that it is one."""


@router.post(
    "/import",
    response={201: DesignOut, **BAD},
    summary="Import the file of a design, or of a build with its record",
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {
                "application/json": {"schema": {"$ref": "#/components/schemas/Design"}},
                "application/zip": {"schema": {"type": "string", "format": "binary"}},
            },
        }
    },
)
def import_file(request: HttpRequest) -> HttpResponse:
    body = request.read(MOST_BYTES + 1)  # a record makes a file longer than any other request may be
    if body.startswith(archive.BEGINS):
        return import_archive(request, body)
    most = MOST_BYTES if BUILD_FORMAT.encode() in body[:SAYS_FORMAT] else MAX_BYTES
    if len(body) > most:
        return answer({"message": f"The file is larger than {most // 1000} kB.", "problems": []}, 413)
    return answer(design_data(imported(body)), 201)


def import_archive(request: HttpRequest, begun: bytes) -> HttpResponse:
    """A build with its photos. They are kept by their digest, so that it harms nothing where the build is refused after them."""
    with TemporaryFile() as file:
        size = file.write(begun)
        while part := request.read(MOST_BYTES):
            size += file.write(part)
            if size > archive.MOST_BYTES:
                most = archive.MOST_BYTES // 10**6
                return answer({"message": f"The archive is larger than {most} MB.", "problems": []}, 413)
        came = archive.Archive(file)
        build = came.build()
        for digest in came.digests:
            if not photos.there(digest):
                try:
                    photos.keep(workers.run(longwork.kept_photo, came.photo(digest)))
                except photos.PhotoError as error:
                    raise DesignError([("", str(error))]) from None
        tests = [came.test(name) for name in came.tests]
    with transaction.atomic():
        design = imported(build)
        for test, readings in tests:
            keeping.take_file(design.pk, read_json(decoded(test)), decoded(readings))
    return answer(design_data(design), 201)


def decoded(body: bytes) -> str:
    """The text of a file. Errors: DesignError."""
    try:
        return body.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise DesignError([("", f"the file is not UTF-8 text (byte {error.start})")]) from None


def imported(body: bytes) -> StoredDesign:
    """A new build of the bytes of a file. Errors: DesignError."""
    document, rows = read_build_file(read_json(decoded(body)), record.latest_day())
    with transaction.atomic():
        design = services.create(document, "Imported")
        record.take_rows(design.pk, rows)
    return design


@router.get("/{design_id}", response={200: DesignOut, **BAD}, summary="One design with its assessment")
def show(request: HttpRequest, design_id: str) -> HttpResponse:
    return answer(design_data(services.get(design_id)))


class AnswerIn(Schema):
    answer: Annotated[
        Literal["whole", "changes"], Field(description="the whole design, or what differs from the revision it was made on")
    ] = "whole"


CHANGED = {200: DesignOut | ChangesOut, 409: StaleOut, **BAD}


@router.patch("/{design_id}", response=CHANGED, summary="Change a design by a JSON Patch")
def change(request: HttpRequest, design_id: str, body: ChangeIn, wanted: Query[AnswerIn]) -> HttpResponse:
    patch = [operation.plain() for operation in body.patch]
    changed = services.change(design_id, body.base_revision, patch, body.label, body.merge_key, body.act)
    return answer(changed_data(changed, wanted.answer))


@router.post("/{design_id}/undo", response=CHANGED, summary="Undo the last change")
def undo(request: HttpRequest, design_id: str, body: StepIn, wanted: Query[AnswerIn]) -> HttpResponse:
    return answer(changed_data(services.undo(design_id, body.base_revision, body.act), wanted.answer))


@router.post("/{design_id}/redo", response=CHANGED, summary="Redo what was undone")
def redo(request: HttpRequest, design_id: str, body: StepIn, wanted: Query[AnswerIn]) -> HttpResponse:
    return answer(changed_data(services.redo(design_id, body.base_revision, body.act), wanted.answer))


@router.post("/{design_id}/copy", response={201: DesignOut, **BAD}, summary="Copy a design")
def copy(request: HttpRequest, design_id: str) -> HttpResponse:
    return answer(design_data(services.copy(design_id)), 201)


@router.delete("/{design_id}", response={204: None, **BAD}, summary="Take a design off the shelf")
def delete(request: HttpRequest, design_id: str) -> HttpResponse:
    services.delete(design_id)
    bench.leave(design_id)
    return HttpResponse(status=204)


@router.post("/{design_id}/restore", response={204: None, **BAD}, summary="Bring a deleted design back")
def restore(request: HttpRequest, design_id: str) -> HttpResponse:
    services.restore(design_id)
    return HttpResponse(status=204)


@router.post("/{design_id}/preview", response={200: EffectOut, **BAD}, summary="What a patch would change, without storing it")
def preview(request: HttpRequest, design_id: str, body: PreviewIn) -> HttpResponse:
    design = services.get(design_id)
    patch = [o.plain() for o in body.patch]
    with assessed(design.document, design.elsewhere) as before:
        return answer(effect_data(services.preview(design.document, patch, before), patch))


def effect_data(effect: services.Effect, patch: list[dict[str, Any]]) -> dict[str, Any]:
    """The effect of a patch as plain JSON data."""
    return {
        "verdict": effect.verdict,
        "gone": [f.text for f in effect.gone],
        "new": [f.text for f in effect.new],
        "new_stops": sum(f.severity == "stop" for f in effect.new),
        "changes": effect.changes,
        "patch": patch,
    }


class FoundIn(Schema):
    finding: Annotated[str, Field(max_length=80, description="its id")] = ""
    place: Annotated[str, Field(max_length=300, description="its place")] = ""


@router.get(
    "/{design_id}/remedies",
    response={200: list[OfferOut], **BAD},
    summary="What ends a finding and brings no new stop, each tried out on the whole design",
)
def remedies(request: HttpRequest, design_id: str, wanted: Query[FoundIn]) -> HttpResponse:
    """The lightest and cheapest first; none where nothing does, or where the finding is gone."""
    with services.assessed_design(design_id) as before:
        found = next((f for f in before.findings if (f.id, f.place) == (wanted.finding, wanted.place)), None)
        offers = offered(before, found) if found is not None else []
        return answer([{"label": o.label, **effect_data(services.compared(before, o.after), o.patch)} for o in offers])


class ExportIn(Schema):
    photos: Annotated[bool, Field(description="with photos and load tests, as an archive, where there are some")] = True


@router.get(
    "/{design_id}/file",
    summary="The design file; that of the build where something was recorded of it; an archive where there are photos of it",
    openapi_extra={"responses": {200: {"description": "A kegcart/design or kegcart/build file, or a ZIP with it and photos"}}},
)
def export(request: HttpRequest, design_id: str, wanted: Query[ExportIn]) -> HttpResponseBase:
    """The document in the newest version; one that cannot be read as it lies in the database."""
    design = services.find(design_id)
    assert design.head is not None
    try:
        document, rows = services.read(design).document, record.rows_of(design_id)
        digests = archive.photos_in(rows) if wanted.photos else []
        tests = list(design.runs.exclude(over_at=None).order_by("begun_at")) if wanted.photos else []
        if digests or tests:
            made = archive.write_archive(write_build_file(document, rows), digests, map(keeping.file_of, tests))
            return FileResponse(made, as_attachment=True, filename=f"{stem_of(design.name)}.kegcart.zip")
        text = to_json(write_build_file(document, rows) if rows else document).decode()
    except UnreadableError:
        text = history.text_of(design.head)
    return attached(text, "application/json", design.name, "kegcart.json")


@router.get(
    "/{design_id}/earlier", response={200: list[EarlierOut], **BAD}, summary="The revisions before this one, the nearest first"
)
def earlier(request: HttpRequest, design_id: str) -> HttpResponse:
    design = services.find(design_id)
    assert design.head is not None
    found = history.earlier(design.head, services.MOST_EARLIER)
    return answer([{"id": r.pk, "label": r.label or "change", "at": r.created_at.isoformat()} for r in found])


@router.post("/{design_id}/go-back", response={200: DesignOut, **BAD}, summary="Go back to an earlier revision")
def go_back(request: HttpRequest, design_id: str, body: GoBackIn) -> HttpResponse:
    return answer(design_data(services.go_back(design_id, body.to)))
