"""Keeps other sites' pages from changing designs on this machine."""

from collections.abc import Callable
from urllib.parse import urlsplit

from django.http import HttpRequest, HttpResponse, JsonResponse

SAFE_METHODS = frozenset({"GET", "HEAD", "OPTIONS"})


def same_origin(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Refuse a change that a browser sends on behalf of another origin."""

    def respond(request: HttpRequest) -> HttpResponse:
        origin = request.headers.get("Origin")
        if request.method not in SAFE_METHODS and origin is not None and urlsplit(origin).netloc != request.headers.get("Host"):
            return JsonResponse({"message": "This change came from another site and was refused.", "problems": []}, status=403)
        return get_response(request)

    return respond
