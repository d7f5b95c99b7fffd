"""The server: bounded in connections, in the time a request may take to arrive, and in the time it takes to end."""

import argparse
import asyncio
import contextlib
import logging
import os
import sys
import time
from typing import Any

import django
import h11
import uvicorn
from uvicorn.protocols.http.h11_impl import H11Protocol

log = logging.getLogger(__name__)

WHOLE_S = 20.0
"""A request must be here whole within so long after its connection or its first byte."""
KEEP_ALIVE_S = 5
GRACE_S = 8
"""What is being answered when the server is told to end may take so long."""
BACKLOG = 64
MOST_CONNECTIONS = 250
OTHER_FILES = 100
"""Descriptors that are kept for the database, the log and the processes."""
EACH_TAKES = 3
"""Descriptors of a connection and of the database that its request opens."""


def most_connections() -> int:
    """So many connections at once that descriptors do not run out; their limit is raised as far as it may be."""
    try:
        import resource
    except ImportError:  # no such limit on Windows
        return MOST_CONNECTIONS
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    with contextlib.suppress(ValueError, OSError):
        resource.setrlimit(resource.RLIMIT_NOFILE, (hard, hard))
        soft = hard
    room = MOST_CONNECTIONS if soft == resource.RLIM_INFINITY else (soft - OTHER_FILES) // EACH_TAKES
    return max(8, min(MOST_CONNECTIONS, room))


class BoundedProtocol(H11Protocol):
    """Closes what is beyond the bounds: a connection too many, and one whose request does not come to an end."""

    most = MOST_CONNECTIONS
    _deadline: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        if len(self.connections) > self.most:
            transport.abort()
        else:
            self._expect()

    def data_received(self, data: bytes) -> None:
        super().data_received(data)
        self._expect()

    def connection_lost(self, exc: Exception | None) -> None:
        self._arrived()
        super().connection_lost(exc)

    def _expect(self) -> None:
        """Run the clock while a request is not whole."""
        if self.conn.their_state not in (h11.IDLE, h11.SEND_BODY):
            self._arrived()
        elif self._deadline is None:
            self._deadline = asyncio.get_running_loop().call_later(WHOLE_S, self.transport.abort)

    def _arrived(self) -> None:
        if self._deadline is not None:
            self._deadline.cancel()
            self._deadline = None


class Server(uvicorn.Server):
    async def serve(self, sockets: Any = None) -> None:
        asyncio.get_running_loop().set_exception_handler(complain)
        await super().serve(sockets)

    async def shutdown(self, sockets: Any = None) -> None:
        """End the test that is under way first: the screens that listen to it would be waited for."""
        from kegcart.workbench.running import bench

        await asyncio.get_running_loop().run_in_executor(None, bench.close)
        await super().shutdown(sockets)


_last_said = -60.0


def complain(loop: asyncio.AbstractEventLoop, context: dict[str, Any]) -> None:
    """Log what went wrong in the loop; that descriptors are running out, once a minute."""
    global _last_said
    if "out of system resource" not in context.get("message", ""):
        loop.default_exception_handler(context)
    elif time.monotonic() - _last_said > 60:
        _last_said = time.monotonic()
        log.error("descriptors are running out: new connections wait")


def serve(port: int, host: str = "127.0.0.1") -> None:
    BoundedProtocol.most = most_connections()
    config = uvicorn.Config(
        "kegcart.site.asgi:application",
        host=host,
        port=port,
        http=BoundedProtocol,
        ws="none",
        lifespan="on",
        log_config=None,
        log_level="warning",
        backlog=BACKLOG,
        timeout_keep_alive=KEEP_ALIVE_S,
        timeout_graceful_shutdown=GRACE_S,
    )
    Server(config).run()


def main() -> int:
    """Serve, where nothing stands in the way; else say in one line what does."""
    parser = argparse.ArgumentParser(description="Serve Keg Cart on this machine.")
    parser.add_argument("--port", type=int, default=8000)
    options = parser.parse_args()
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "kegcart.site.settings")
    try:
        django.setup()
    except OSError as error:
        print(f"keg cart: the data folder cannot be used: {error}. Allow it, or name another in KEGCART_DATA.", file=sys.stderr)
        return 1
    from kegcart.site.settings import WEB_DIST
    from kegcart.workbench import storage

    problem = storage.problem()
    if not problem and not (WEB_DIST / "index.html").exists():
        problem = "the screen is not built: run `python3 run.py demo`."
    if problem:
        print(f"keg cart: {problem}", file=sys.stderr)
        return 1
    storage.make_private()
    storage.back_up_daily()
    with contextlib.suppress(KeyboardInterrupt), storage.held_open():
        serve(options.port)
    return 0


if __name__ == "__main__":
    sys.exit(main())
