"""What screens are told of a test as it runs: server-sent events."""

import asyncio
from collections.abc import AsyncIterator
from threading import Lock

from pydantic_core import to_json

ALIVE_S = 15.0
"""So often something is sent, so that one that has gone is noticed."""
MOST_WAITING = 400
"""A screen that is so far behind is let go; it begins anew."""


class Listener:
    """A screen that listens: what is told waits here until it is sent."""

    def __init__(self) -> None:
        self.loop = asyncio.get_running_loop()
        self.waiting: asyncio.Queue[bytes | None] = asyncio.Queue()

    def put(self, text: bytes | None) -> None:
        """From any thread. None ends it."""
        try:
            self.loop.call_soon_threadsafe(self._put, text)
        except RuntimeError:
            return  # the server is ending

    def _put(self, text: bytes | None) -> None:
        self.waiting.put_nowait(None if self.waiting.qsize() > MOST_WAITING else text)


class Broadcast:
    """All who listen to a test."""

    def __init__(self) -> None:
        self._listeners: set[Listener] = set()
        self._lock = Lock()

    def tell(self, kind: str, data: object) -> None:
        """Tell all."""
        with self._lock:
            listeners = list(self._listeners)
        if listeners:
            text = event(kind, data)
            for listener in listeners:
                listener.put(text)

    def end(self) -> None:
        """Let all go."""
        with self._lock:
            for listener in self._listeners:
                listener.put(None)

    async def listen(self, first: bytes) -> AsyncIterator[bytes]:
        """What is told from now on, after what is told at first."""
        listener = Listener()
        with self._lock:
            self._listeners.add(listener)
        try:
            yield first
            while True:
                try:
                    text = await asyncio.wait_for(listener.waiting.get(), ALIVE_S)
                except TimeoutError:
                    text = b": \n\n"
                if text is None:
                    return
                yield text
        finally:
            with self._lock:
                self._listeners.discard(listener)


def event(kind: str, data: object) -> bytes:
    """An event as it is sent."""
    return b"event: " + kind.encode() + b"\ndata: " + to_json(data, inf_nan_mode="null") + b"\n\n"
