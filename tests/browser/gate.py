"""A server behind a gate: while it is cut the server is away for every browser, without the seconds that it takes to start one."""

import asyncio
from collections.abc import Coroutine
from threading import Thread
from typing import Any

from kegcart.workbench.rig import Server, free_port
from tests import PROVING

PIECE = 1 << 16


class Gate:
    """What comes to its port goes on to another, and back; when it is cut, connections break off and new ones are refused."""

    def __init__(self, beyond: int) -> None:
        self.port, self._beyond = free_port(), beyond
        self._listening: asyncio.Server | None = None
        self._through: set[asyncio.StreamWriter] = set()
        self._loop = asyncio.new_event_loop()
        Thread(target=self._loop.run_forever, name="gate", daemon=True).start()

    def open(self) -> None:
        self._do(self._open())

    def cut(self) -> None:
        self._do(self._cut())

    def _do(self, work: Coroutine[Any, Any, None]) -> None:
        asyncio.run_coroutine_threadsafe(work, self._loop).result(10)

    async def _open(self) -> None:
        if self._listening is None:
            self._listening = await asyncio.start_server(self._pass, "127.0.0.1", self.port)

    async def _cut(self) -> None:
        if self._listening is not None:
            self._listening.close()
            self._listening = None
        for writer in self._through:
            writer.transport.abort()

    async def _pass(self, asked: asyncio.StreamReader, answered: asyncio.StreamWriter) -> None:
        try:
            reader, writer = await asyncio.open_connection("127.0.0.1", self._beyond)
        except OSError:  # it is away itself
            answered.transport.abort()
            return
        both = {answered, writer}
        self._through |= both
        if self._listening is None:  # cut meanwhile
            await self._cut()
        try:
            await asyncio.gather(pump(asked, writer), pump(reader, answered))
        finally:
            self._through -= both
            for one in both:
                one.transport.abort()


async def pump(source: asyncio.StreamReader, sink: asyncio.StreamWriter) -> None:
    """Pass on what comes until it ends, and that it has ended; where either side breaks off, no more."""
    try:
        while piece := await source.read(PIECE):
            sink.write(piece)
            await sink.drain()
        sink.write_eof()
    except OSError:
        sink.transport.abort()


class GatedServer(Server):
    """A server that browsers and tests reach through a gate."""

    def __init__(self) -> None:
        super().__init__()
        self.gate = Gate(self.port)
        self.gate.open()
        self.url = f"http://127.0.0.1:{self.gate.port}"

    def leave(self) -> None:
        """Be away from now on: when proving it is killed."""
        if PROVING:
            self.kill()
        else:
            self.gate.cut()

    def revive(self) -> None:
        super().revive()
        self.gate.open()
