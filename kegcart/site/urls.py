"""Addresses: the API, and the screen for everything else."""

from django.http import Http404, HttpRequest, HttpResponse
from django.urls import path, re_path

from kegcart.site.settings import WEB_DIST
from kegcart.workbench.api import api


def screen(request: HttpRequest) -> HttpResponse:
    """The page that the front end starts from; its own router does the rest."""
    page = WEB_DIST / "index.html"
    if not page.exists():
        return HttpResponse("The front end is not built: run `python3 run.py demo`.", content_type="text/plain", status=503)
    response = HttpResponse(page.read_bytes(), content_type="text/html; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    response["Content-Security-Policy"] = (
        "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; frame-ancestors 'none'"
    )
    return response


def missing(request: HttpRequest, part: str) -> HttpResponse:
    raise Http404


urlpatterns = [path("api/", api.urls), re_path(r"^(?P<part>api|static)/", missing), re_path(r"^", screen)]
