"""Files of the screen, answered whole: a file sent piece by piece would hold up the server's loop."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from whitenoise.middleware import WhiteNoiseMiddleware


class StaticFiles(WhiteNoiseMiddleware):  # type: ignore[misc]
    @staticmethod
    def serve(static_file: Any, request: HttpRequest) -> HttpResponse:
        found = static_file.get_response(request.method, request.META)
        content = b""
        if found.file is not None:
            with found.file as file:
                content = file.read()
        response = HttpResponse(content, status=int(found.status))
        del response["Content-Type"]
        for name, value in found.headers:
            response[name] = value
        return response
