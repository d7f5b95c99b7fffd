"""Bodies of requests, read as strictly as design files: no key twice, nothing too deep, nothing that cannot be written."""

from typing import Any

from django.http import HttpRequest
from ninja.parser import Parser

from kegcart.core.text import JsonError, read_json


class StrictParser(Parser):
    def parse_body(self, request: HttpRequest) -> Any:
        """Errors: JsonError, which the framework wraps: see `errors.http_error`."""
        try:
            text = request.body.decode("utf-8")
        except UnicodeDecodeError as error:
            raise JsonError(f"it is not UTF-8 text (byte {error.start})") from None
        return read_json(text)
