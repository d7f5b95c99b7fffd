"""Addresses: the API, and the screen for everything else."""

from django.http import Http404, HttpRequest, HttpResponse
from django.urls import path, re_path

from kegcart.site.settings import WEB_DIST
from kegcart.workbench.api import api


def built(name: str, kind: str) -> HttpResponse:
    """A file of the built screen, asked for anew each time."""
    file = WEB_DIST / name
    if not file.exists():
        return HttpResponse("The front end is not built: run `python3 run.py demo`.", content_type="text/plain", status=503)
    response = HttpResponse(file.read_bytes(), content_type=kind)
    response["Cache-Control"] = "no-cache"
    return response


def screen(request: HttpRequest) -> HttpResponse:
    """The page that the front end starts from; its own router does the rest."""
    return built("index.html", "text/html; charset=utf-8")


def worker(request: HttpRequest) -> HttpResponse:
    """What opens the screen while the server is away; it stands at the root, as a browser asks of what serves all pages."""
    return built("sw.js", "text/javascript; charset=utf-8")


def missing(request: HttpRequest, part: str) -> HttpResponse:
    raise Http404


urlpatterns = [path("api/", api.urls), path("sw.js", worker), re_path(r"^(?P<part>api|static)/", missing), re_path(r"^", screen)]
