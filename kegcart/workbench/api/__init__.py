"""The API at /api, with its documentation at /api/docs."""

from typing import Any

from django.core.exceptions import RequestDataTooBig
from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import HttpError, ValidationError

from kegcart.core.design import DesignError
from kegcart.core.table import TableError
from kegcart.workbench import services
from kegcart.workbench.api import bench, designs, loads, pack, power, rack, reference
from kegcart.workbench.api.answers import answer, design_data
from kegcart.workbench.papers import NothingToPrintError
from kegcart.workbench.rack import RackError

api = NinjaAPI(
    title="Keg Cart", version="1", description="Design, build and test a portable power station. Every figure with its working."
)
api.add_router("/designs", designs.router)
api.add_router("/designs", bench.router)
api.add_router("/rack", rack.router)
api.add_router("", loads.router)
api.add_router("", pack.router)
api.add_router("", power.router)
api.add_router("", reference.router)


def printable(text: str) -> str:
    """Text that can be written as UTF-8, whatever was sent."""
    return text.encode("utf-8", "replace").decode("utf-8")


def refuse(status: int, message: str, problems: list[tuple[str, str]] | None = None) -> HttpResponse:
    listed = [{"pointer": printable(pointer), "message": printable(text)} for pointer, text in problems or []]
    return answer({"message": printable(message), "problems": listed}, status)


@api.exception_handler(DesignError)
def bad_design(request: HttpRequest, error: Any) -> HttpResponse:
    pointer, text = error.problems[0]
    return refuse(422, f"{pointer or 'The file'}: {text}", error.problems)


@api.exception_handler(RackError)
def bad_rack(request: HttpRequest, error: Any) -> HttpResponse:
    return refuse(422, str(error), error.problems)


@api.exception_handler(TableError)
def bad_table(request: HttpRequest, error: Any) -> HttpResponse:
    return refuse(422, f"The table cannot be read: {error.problems[0]}", [("/text", str(p)) for p in error.problems])


@api.exception_handler(NothingToPrintError)
def nothing_to_print(request: HttpRequest, error: Any) -> HttpResponse:
    return refuse(422, str(error))


@api.exception_handler(ValidationError)
def bad_request(request: HttpRequest, error: Any) -> HttpResponse:
    problems = []
    for item in error.errors:
        steps = [str(step) for step in item["loc"] if step not in ("body", "query", "path")]
        problems.append(("/" + "/".join(steps) if steps else "", item["msg"]))
    return refuse(422, "The request cannot be read.", problems)


@api.exception_handler(services.MissingError)
def missing(request: HttpRequest, error: Any) -> HttpResponse:
    return refuse(404, "There is no such thing here: it may have been deleted.")


@api.exception_handler(services.StaleError)
def stale(request: HttpRequest, error: Any) -> HttpResponse:
    return answer(
        {
            "message": "The design has changed since: nothing was lost, and nothing was changed.",
            "current": design_data(error.design),
        },
        409,
    )


@api.exception_handler(RequestDataTooBig)
def too_large(request: HttpRequest, error: Any) -> HttpResponse:
    return refuse(413, "This is larger than 1 MB, which no design is.")


@api.exception_handler(HttpError)
def http_error(request: HttpRequest, error: Any) -> HttpResponse:
    return refuse(422 if error.status_code == 400 else error.status_code, str(error))
