"""Processes for long work, so that a change is answered at once beside it: papers, simulations, sorting, large tables.

The server starts them; without them, as in tests and commands, the work is done where it is asked for. What they do are
functions of a module with plain arguments and results. Errors: BusyError where too much waits already.
"""

import multiprocessing
import os
import signal
import threading
from array import array
from collections.abc import Callable
from concurrent.futures import CancelledError, Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing.connection import wait
from multiprocessing.shared_memory import SharedMemory
from typing import Any, ParamSpec, TypeVar

Given = ParamSpec("Given")
Result = TypeVar("Result")

MOST_WAITING = 80
"""So much may be asked for at once; beyond it the answer is that the server is busy."""
POLITE = 10
"""How far the processes stand back for the server: the step of niceness."""


class BusyError(Exception):
    """Too much long work waits already, or the server is ending."""


def begin_worker() -> None:
    """What each process does first: stand back for the server, and end with it however that ends."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the server's to hear
    if hasattr(os, "nice"):
        os.nice(POLITE)
    parent = multiprocessing.parent_process()
    assert parent is not None

    def watch() -> None:
        wait([parent.sentinel])
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()


def ready() -> None:
    """Import what all long work needs, so that the first to ask does not wait for it."""
    import kegcart.core.simulation.told
    import kegcart.workbench.longwork  # noqa: F401


class Workers:
    """The pool; begun by the server, with as many processes as leave one processor to it."""

    def __init__(self) -> None:
        self._pool: ProcessPoolExecutor | None = None
        self._count = 0
        self._waiting = 0
        self._lock = threading.Lock()

    def start(self, count: int | None = None) -> None:
        self._count = count or max(1, min(4, (os.cpu_count() or 1) - 1))
        self._pool = self._made()

    def _made(self) -> ProcessPoolExecutor:
        pool = ProcessPoolExecutor(self._count, multiprocessing.get_context("spawn"), begin_worker)
        for _ in range(self._count):
            pool.submit(ready)
        return pool

    def stop(self) -> None:
        """End the processes, whatever they do; who waits for them is told."""
        pool, self._pool, self._count = self._pool, None, 0
        if pool is None:
            return
        for process in list((pool._processes or {}).values()):
            process.terminate()
        pool.shutdown(wait=True, cancel_futures=True)

    def begin(self, work: Callable[Given, Result], *given: Given.args, **named: Given.kwargs) -> Future[Result]:
        """Work under way in a process. Errors: BusyError."""
        with self._lock:
            if self._waiting >= MOST_WAITING:
                raise BusyError
            self._waiting += 1
        try:
            future = self._submit(work, *given, **named)
        except BaseException:
            self._done()
            raise
        future.add_done_callback(self._done)
        return future

    def _submit(self, work: Callable[..., Result], *given: Any, **named: Any) -> Future[Result]:
        pool = self._pool
        if pool is None:
            raise BusyError
        try:
            return pool.submit(work, *given, **named)
        except BrokenProcessPool:  # a process was ended from outside: begin anew
            with self._lock:
                if self._pool is pool:
                    self._pool = self._made()
                pool = self._pool
            if pool is None:
                raise BusyError from None
            return pool.submit(work, *given, **named)

    def _done(self, _: Any = None) -> None:
        with self._lock:
            self._waiting -= 1

    def run(self, work: Callable[Given, Result], *given: Given.args, **named: Given.kwargs) -> Result:
        """The result of work, done in a process where there are any. Errors: BusyError, and those of the work."""
        if not self._count:
            return work(*given, **named)
        try:
            return self.begin(work, *given, **named).result()
        except (BrokenProcessPool, CancelledError):
            raise BusyError from None

    @property
    def there(self) -> bool:
        """Whether there are processes."""
        return bool(self._count)


workers = Workers()


class Board:
    """Told by work in a process while it goes on: how far it is, the best so far; and by us, whether it is to stop.

    Three numbers in memory that both see. Used as a context by the one who asks; the work attaches to it by name.
    """

    SIZE = 3

    def __init__(self, name: str | None = None) -> None:
        self._memory = SharedMemory(name, create=name is None, size=8 * self.SIZE)
        assert self._memory.buf is not None
        self._numbers = self._memory.buf.cast("d")
        self._own = name is None
        if self._own:
            self._numbers[:] = array("d", [0.0] * self.SIZE)

    @property
    def name(self) -> str:
        return self._memory.name

    def tell(self, progress: float, so_far: float) -> bool:
        """What the work calls. Returns False when it is to end with the best it has."""
        self._numbers[0], self._numbers[1] = progress, so_far
        return not self._numbers[2]

    def told(self) -> tuple[float, float]:
        """Progress from 0 to 1, and the best so far."""
        return self._numbers[0], self._numbers[1]

    def stop(self) -> None:
        self._numbers[2] = 1.0

    def __enter__(self) -> "Board":
        return self

    def __exit__(self, *_: object) -> None:
        self._numbers.release()
        self._memory.close()
        if self._own:
            self._memory.unlink()
