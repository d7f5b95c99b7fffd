"""The application that the server runs, with the processes for long work beside it, and the test that is under way."""

import os
import threading
from collections.abc import Awaitable, Callable
from typing import Any, TypeAlias

import django
from asgiref.sync import sync_to_async
from django.core.handlers.asgi import ASGIHandler
from django.http.response import HttpResponseBase

from kegcart.site import memory

Receive: TypeAlias = Callable[[], Awaitable[Any]]
Send: TypeAlias = Callable[[Any], Awaitable[None]]


class Handler(ASGIHandler):
    """Answers a request in one thread from the first middleware to the view: none of them is asynchronous.

    Django's own goes back to the loop between them, and each such change of threads costs as much as a query.
    """

    def load_middleware(self, is_async: bool = False) -> None:
        super().load_middleware(is_async=False)

    async def get_response_async(self, request: Any) -> HttpResponseBase:
        return await sync_to_async(self.get_response, thread_sensitive=True)(request)

    async def listen_for_disconnect(self, receive: Receive) -> None:
        """Return when nobody waits for the answer any more, which is also so once it is sent.

        Django's own raises here, and ignores what it raised; but its traceback and the frame of the request then hold each
        other, and each request with its answer stays in memory until the collector comes by.
        """
        await receive()


os.environ.setdefault("DJANGO_SETTINGS_MODULE", "kegcart.site.settings")
django.setup(set_prefix=False)
answers = Handler()


async def application(scope: Any, receive: Receive, send: Send) -> None:
    """Requests go to Django; the beginning and the end of the server begin and end the processes."""
    if scope["type"] != "lifespan":
        await answers(scope, receive, send)
        return
    from kegcart.workbench.running import bench
    from kegcart.workbench.workers import workers

    while True:
        message = await receive()
        if message["type"] == "lifespan.startup":
            memory.settle()
            workers.start()
            threading.Thread(target=bench.take_up, daemon=True).start()
            await send({"type": "lifespan.startup.complete"})
        else:
            workers.stop()
            await send({"type": "lifespan.shutdown.complete"})
            return
