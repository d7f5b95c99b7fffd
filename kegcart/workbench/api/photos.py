"""Photos of a build: taken in as they come from the camera, and shown large or small."""

from datetime import date
from typing import Annotated

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from kegcart.core.design import DesignError
from kegcart.workbench import longwork, photos, record, services
from kegcart.workbench.api.answers import answer
from kegcart.workbench.api.assembly import FILE
from kegcart.workbench.api.designs import BAD
from kegcart.workbench.api.life import read
from kegcart.workbench.api.schemas import LifeOut
from kegcart.workbench.workers import workers

router = Router(tags=["photos"])


class PhotoIn(Schema):
    """What is said of a photo as it is sent. on: the day it was taken; that of the camera, or today, if left out."""

    entry: Annotated[str, Field(min_length=1, max_length=40, description="an id of its own: sent twice it is stored once")]
    item: Annotated[str, Field(min_length=1, max_length=40)]
    on: date | None = None
    what: Annotated[str, Field(max_length=500)] = ""
    place: Annotated[str, Field(max_length=200)] = ""
    step: Annotated[str, Field(max_length=120)] = ""


class SizeIn(Schema):
    small: bool = False


@router.post(
    "/designs/{design_id}/photos",
    response={200: LifeOut, **BAD},
    summary="Put a photo into the log of a build",
    openapi_extra={"requestBody": {"required": True, "content": {"image/*": {"schema": {"type": "string", "format": "binary"}}}}},
)
def take(request: HttpRequest, design_id: str, said: Query[PhotoIn]) -> HttpResponse:
    services.find(design_id)
    content = request.read(photos.MOST_BYTES + 1)
    try:
        photo = workers.run(longwork.photo, content)
    except photos.PhotoError as error:
        raise DesignError([("", str(error))]) from None
    camera = photo.taken_on if photo.taken_on and photo.taken_on <= record.latest_day() else None
    data = {
        "kind": "photo",
        "on": (said.on or camera or record.today()).isoformat(),
        "digest": photos.keep(photo),
        "width": photo.width,
        "height": photo.height,
        **{name: getattr(said, name) for name in ("what", "place", "step")},
    }
    record.enter(design_id, said.entry, said.item, data)
    return read(request, design_id)


@router.get("/photos/{digest}", response=BAD, summary="A photo as JPEG, large or small", openapi_extra=FILE)
def show(request: HttpRequest, digest: str, wanted: Query[SizeIn]) -> HttpResponse:
    if not photos.there(digest):
        return answer({"kind": "refused", "message": "There is no such photo here.", "problems": [], "reference": ""}, 404)
    response = HttpResponse(photos.file_of(digest, wanted.small).read_bytes(), content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response
