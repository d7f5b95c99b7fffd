"""What holds for every answer: known hosts, no changes from other sites' pages, headers of safety, JSON where the API is asked."""

from collections.abc import Callable
from urllib.parse import urlsplit

from django.core.exceptions import DisallowedHost
from django.http import HttpRequest, HttpResponse, HttpResponseBadRequest, JsonResponse

from kegcart.workbench.api.errors import not_json

Respond = Callable[[HttpRequest], HttpResponse]

SAFE_METHODS = frozenset({"GET", "HEAD", "OPTIONS"})
OWN_SITE = frozenset({"same-origin", "none"})
"""What a browser says of a request from our own page, or typed into the address bar."""

HEADERS = {
    "Content-Security-Policy": (
        "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; "
        "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
    ),
    "X-Frame-Options": "DENY",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), geolocation=(), microphone=()",
}


def guarded(get_response: Respond) -> Respond:
    """Outermost: every answer carries the headers of safety, and one of the API that tells of an error is JSON."""

    def respond(request: HttpRequest) -> HttpResponse:
        try:
            request.get_host()
        except DisallowedHost:
            response: HttpResponse = HttpResponseBadRequest("This server is not known by that name.", content_type="text/plain")
        else:
            response = get_response(request)
        if response.status_code >= 400 and request.path.startswith("/api/") and "json" not in response.get("Content-Type", ""):
            response = not_json(request, response)
        for name, value in HEADERS.items():
            response.setdefault(name, value)
        return response

    return respond


def same_origin(get_response: Respond) -> Respond:
    """Refuse a change that a browser sends on behalf of another site, or of this one by another scheme."""

    def respond(request: HttpRequest) -> HttpResponse:
        if request.method not in SAFE_METHODS and foreign(request):
            said = "This change came from another site and was refused."
            return JsonResponse({"kind": "refused", "message": said, "problems": [], "reference": ""}, status=403)
        return get_response(request)

    return respond


def foreign(request: HttpRequest) -> bool:
    """Whether a browser says that a request comes from elsewhere; a program that says nothing is the builder's own."""
    site, origin = request.headers.get("Sec-Fetch-Site"), request.headers.get("Origin")
    if site is not None and site not in OWN_SITE:
        return True
    if origin is None:
        return False
    parts = urlsplit(origin)
    return (parts.scheme, parts.netloc) != (request.scheme, request.get_host())
