"""What was asked leaves nothing behind in the server."""

import asyncio
import gc
import json
from concurrent.futures import ThreadPoolExecutor
from typing import Any
from unittest import TestCase

from django.core.handlers.asgi import ASGIRequest
from django.test import Client
from pydantic import ValidationError

from kegcart.site import asgi


def living(kind: type) -> int:
    return sum(isinstance(thing, kind) for thing in gc.get_objects())


class Leftovers(TestCase):
    def test_a_refused_request_is_not_kept(self) -> None:
        gc.collect()
        before, refused = living(ValueError), living(ValidationError)  # other tests leave some of their own
        for n in range(20):
            answer = Client().post("/api/designs", json.dumps({"name": f"a\x01{n}"}), content_type="application/json")
            self.assertEqual(answer.status_code, 422)
        del answer
        gc.collect()
        self.assertEqual(living(ValueError), before)
        self.assertEqual(living(ValidationError), refused)

    def test_an_answered_request_is_gone_without_the_collector(self) -> None:
        scope: dict[str, Any] = {"type": "http", "method": "GET", "path": "/api/reference", "headers": [(b"host", b"localhost")]}
        said: list[Any] = []

        async def ask() -> None:
            ended = asyncio.Event()
            asked = iter([{"type": "http.request", "body": b"", "more_body": False}])

            async def receive() -> Any:
                for message in asked:
                    return message
                await ended.wait()
                return {"type": "http.disconnect"}

            async def send(message: Any) -> None:
                said.append(message)
                if message["type"] == "http.response.body" and not message.get("more_body"):
                    ended.set()

            await asgi.answers(scope, receive, send)

        gc.collect()
        gc.disable()
        try:
            with ThreadPoolExecutor(1) as other:  # the tests of the screen have a loop of their own in this thread
                for _ in range(5):
                    other.submit(asyncio.run, ask()).result()
            self.assertEqual(living(ASGIRequest), 0)
        finally:
            gc.enable()
        self.assertEqual([message["status"] for message in said if "status" in message], [200] * 5)
