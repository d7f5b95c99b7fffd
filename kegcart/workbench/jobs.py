"""Long work beside the requests: begun, watched, stopped, and its result taken.

A job is done in a thread of its own, lives in memory and ends with the server. Its work tells it from time to time how
far it is, and ends with the best it has when the job says that it is to stop: when someone stops it, or its time is up.
"""

import secrets
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import CancelledError, wait
from concurrent.futures.process import BrokenProcessPool
from typing import Any, Generic, TypeVar

from kegcart.workbench.workers import Board, BusyError, workers

KEPT = 20
"""So many jobs are remembered; the oldest is stopped when another begins."""
STOP_WAIT_S = 5.0
LOOK_S = 0.05
"""So often it is looked how far work in another process is."""


class CannotError(Exception):
    """The work cannot be done, with the sentence that says why."""


About = TypeVar("About")
Result = TypeVar("Result")
SoFar = TypeVar("SoFar")


class Job(Generic[About, SoFar, Result]):
    """One piece of long work: what it is about, how far it is (0 to 1), the best so far, and at the end its result
    or what went wrong."""

    def __init__(self, about: About, limit_s: float) -> None:
        self.about = about
        self.limit_s = limit_s
        self.begun = time.monotonic()
        self.progress = 0.0
        self.so_far: SoFar | None = None
        self.result: Result | None = None
        self.error = ""
        self._stop = threading.Event()
        self._done = threading.Event()

    @property
    def done(self) -> bool:
        return self._done.is_set()

    def told(self, progress: float, so_far: SoFar) -> bool:
        """What the work calls now and then. Returns False when it is to end with the best it has."""
        spent = time.monotonic() - self.begun
        self.progress = min(1.0, max(progress, spent / self.limit_s))
        self.so_far = so_far
        return spent < self.limit_s and not self._stop.is_set()

    def wait(self, seconds: float) -> None:
        """Wait until it is done, at most so long: short work is answered at once."""
        self._done.wait(seconds)

    def stop(self, wait_s: float = STOP_WAIT_S) -> None:
        """Ask it to end with the best it has found, and wait a little for that."""
        self._stop.set()
        self.wait(wait_s)

    def run(self, work: "Callable[[Job[About, SoFar, Result]], Result]") -> None:
        try:
            self.result = work(self)
        except CannotError as error:
            self.error = str(error)
        except Exception as error:  # said to the one who asked, instead of dying in a thread
            self.error = f"the work failed: {error}"
            raise
        finally:
            self.progress = 1.0
            self._done.set()


def beside(job: Job[Any, Any, Any], work: Callable[..., Result], *given: Any) -> Result:
    """Work done in a process of its own, which takes the name of a board as its last argument, while the job tells how far it is. Errors:
    BusyError, and those of the work."""
    with Board() as board:
        future = workers.begin(work, *given, board.name)
        while not future.done():
            wait([future], LOOK_S)
            if not job.told(*board.told()):
                board.stop()
        try:
            return future.result()
        except (BrokenProcessPool, CancelledError):
            raise BusyError from None


_jobs: OrderedDict[str, Job[Any, Any, Any]] = OrderedDict()
_lock = threading.Lock()


def begin(
    kind: str, about: About, work: Callable[[Job[About, SoFar, Result]], Result], limit_s: float
) -> tuple[str, Job[About, SoFar, Result]]:
    """Begin a piece of work. kind: what it is, as "sorting". about: what it works on. limit_s: it ends with the best it has after so long, s."""
    key = f"{kind}-{secrets.token_hex(6)}"
    job: Job[About, SoFar, Result] = Job(about, limit_s)
    with _lock:
        _jobs[key] = job
        while len(_jobs) > KEPT:
            _, old = _jobs.popitem(last=False)
            old.stop(wait_s=0)
    threading.Thread(target=job.run, args=(work,), name=key, daemon=True).start()
    return key, job


def find(kind: str, key: str) -> Job[Any, Any, Any] | None:
    """The job of this kind and key; None where it was never begun, or is forgotten."""
    return _jobs.get(key) if key.startswith(f"{kind}-") else None
