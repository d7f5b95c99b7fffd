"""What the API answers when something is wrong: always JSON, with its kind, a sentence, and the places that it is about.

The screen tells four things apart: the server refuses, cannot write, has broken, is away. The last is what no answer says.
"""

import logging
import secrets
import sqlite3
from typing import Any

from django.core.exceptions import RequestDataTooBig
from django.db import DatabaseError
from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import HttpError, ValidationError

from kegcart.core.design import DesignError
from kegcart.core.table import TableError
from kegcart.core.text import JsonError
from kegcart.workbench import services
from kegcart.workbench.api.answers import answer, design_data
from kegcart.workbench.api.schemas import ErrorKind
from kegcart.workbench.assessing import UnreadableError
from kegcart.workbench.papers import NothingToPrintError
from kegcart.workbench.rack import RackError
from kegcart.workbench.workers import BusyError

log = logging.getLogger(__name__)

CANNOT_WRITE = {
    "FULL": "the disk is full. Make room on it",
    "READONLY": "its data folder is read-only. Allow it to write there",
    "IOERR": "the disk reports an error. Look after it, and make a backup",
    "CANTOPEN": "its data folder cannot be opened. See that it is there and may be written to",
}
"""What SQLite calls it, and what to do."""


def printable(text: str) -> str:
    """Text that can be written as UTF-8, whatever was sent."""
    return text.encode("utf-8", "replace").decode("utf-8")


def refuse(
    status: int, message: str, problems: list[tuple[str, str]] | None = None, kind: ErrorKind = "refused", reference: str = ""
) -> HttpResponse:
    listed = [{"pointer": printable(pointer), "message": printable(text)} for pointer, text in problems or []]
    return answer({"kind": kind, "message": printable(message), "problems": listed, "reference": reference}, status)


def broken(request: HttpRequest, error: BaseException) -> HttpResponse:
    """The program has failed: the log has the traceback, under the reference that the screen shows."""
    reference = secrets.token_hex(3)
    log.error("%s %s failed, reference %s", request.method, request.get_full_path(), reference, exc_info=error)
    said = f"The program has failed at this; nothing was changed. Its log file tells more under {reference}."
    return refuse(500, said, kind="broken", reference=reference)


def database(request: HttpRequest, error: DatabaseError) -> HttpResponse:
    """What the database cannot do: write, wait any longer, or read what is damaged."""
    cause = error.__cause__
    name = (getattr(cause, "sqlite_errorname", "") if isinstance(cause, sqlite3.Error) else "").removeprefix("SQLITE_")
    why = next((said for code, said in CANNOT_WRITE.items() if name.startswith(code)), None)
    if why:
        log.error("%s %s: cannot write (%s): %s", request.method, request.get_full_path(), name, error)
        return refuse(507, f"The server cannot write: {why}. Nothing was changed, and what is stored stays.", kind="cannot-write")
    if name.startswith(("BUSY", "LOCKED")):
        return refuse(503, "The server is busy with something else. Try again in a moment.", kind="busy")
    return broken(request, error)


def not_json(request: HttpRequest, response: HttpResponse) -> HttpResponse:
    """An answer of an error from below the API, as the API would say it."""
    said = {
        400: "The request cannot be read: its host or its form is none that this server takes.",
        404: "There is nothing at this address of the API.",
        405: f"This address of the API does not take {request.method}.",
    }
    message = said.get(response.status_code, response.reason_phrase)
    made = refuse(response.status_code, message, kind="broken" if response.status_code >= 500 else "refused")
    if response.has_header("Allow"):
        made["Allow"] = response["Allow"]
    return made


def busy(request: HttpRequest, error: Any) -> HttpResponse:
    return refuse(503, "The server has too much long work at once. Try again in a moment.", kind="busy")


def bad_design(request: HttpRequest, error: Any) -> HttpResponse:
    pointer, text = error.problems[0]
    return refuse(422, f"{pointer or 'The file'}: {text}", error.problems)


def bad_rack(request: HttpRequest, error: Any) -> HttpResponse:
    return refuse(422, str(error), error.problems)


def bad_table(request: HttpRequest, error: Any) -> HttpResponse:
    return refuse(422, f"The table cannot be read: {error.problems[0]}", [("/text", str(p)) for p in error.problems])


def nothing_to_print(request: HttpRequest, error: Any) -> HttpResponse:
    return refuse(422, str(error))


def bad_request(request: HttpRequest, error: Any) -> HttpResponse:
    problems = []
    for item in error.errors:
        steps = [str(step) for step in item["loc"] if step not in ("body", "query", "path")]
        problems.append(("/" + "/".join(steps) if steps else "", item["msg"]))
    return refuse(422, "The request cannot be read.", problems)


def missing(request: HttpRequest, error: Any) -> HttpResponse:
    if isinstance(error, services.DeletedError):
        return refuse(404, "This build was taken off the shelf. It can be put back.", kind="deleted")
    return refuse(404, "There is no such thing here: it may have been deleted.", kind="missing")


def unreadable(request: HttpRequest, error: Any) -> HttpResponse:
    said = str(error)
    return refuse(422, f"{said[0].upper()}{said[1:]}.", kind="unreadable")


def stale(request: HttpRequest, error: Any) -> HttpResponse:
    said = "The design has changed since: nothing was lost, and nothing was changed."
    return answer({"message": said, "current": design_data(error.design)}, 409)


def too_large(request: HttpRequest, error: Any) -> HttpResponse:
    return refuse(413, "This is larger than 1 MB, which no design is.")


def http_error(request: HttpRequest, error: Any) -> HttpResponse:
    if isinstance(error.__cause__, JsonError):
        return refuse(422, f"The request cannot be read: {error.__cause__}.", [("", str(error.__cause__))])
    return refuse(422 if error.status_code == 400 else error.status_code, str(error))


HANDLERS: dict[type[Exception], Any] = {
    DesignError: bad_design,
    RackError: bad_rack,
    TableError: bad_table,
    NothingToPrintError: nothing_to_print,
    ValidationError: bad_request,
    services.MissingError: missing,
    UnreadableError: unreadable,
    services.StaleError: stale,
    RequestDataTooBig: too_large,
    HttpError: http_error,
    DatabaseError: database,
    BusyError: busy,
    Exception: broken,
}


def install(api: NinjaAPI) -> None:
    """Answer every failure of the API in its own way."""
    for kind, handler in HANDLERS.items():
        api.add_exception_handler(kind, handler)
