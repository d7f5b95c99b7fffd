"""The application that the server runs, with the processes for long work beside it."""

import gc
import os
from collections.abc import Awaitable, Callable
from typing import Any, TypeAlias

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "kegcart.site.settings")
answers = get_asgi_application()
# What is loaded now stays: the collector need not walk it again at every request.
gc.collect()
gc.freeze()
# An assessment is thousands of small objects without cycles: looking for cycles at each of them costs more than it frees.
gc.set_threshold(50_000, 20, 20)

Receive: TypeAlias = Callable[[], Awaitable[Any]]
Send: TypeAlias = Callable[[Any], Awaitable[None]]


async def application(scope: Any, receive: Receive, send: Send) -> None:
    """Requests go to Django; the beginning and the end of the server begin and end the processes."""
    if scope["type"] != "lifespan":
        await answers(scope, receive, send)
        return
    from kegcart.workbench.workers import workers

    while True:
        message = await receive()
        if message["type"] == "lifespan.startup":
            workers.start()
            await send({"type": "lifespan.startup.complete"})
        else:
            workers.stop()
            await send({"type": "lifespan.shutdown.complete"})
            return
