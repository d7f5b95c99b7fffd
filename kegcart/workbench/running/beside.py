"""What is worked out beside a test that runs: one answer at a time, and the last one of all there was when it was last asked for."""

import logging
from collections.abc import Callable
from concurrent.futures import Future
from typing import Any

from pydantic_core import from_json

from kegcart.workbench.workers import BusyError

log = logging.getLogger(__name__)


class Beside:
    """One thing that is asked for again and again. begin: has what there is now worked out, as JSON, or nothing where there is
    nothing to be; told: takes the answer."""

    def __init__(self, begin: Callable[[], Future[bytes] | None], told: Callable[[Any], None]) -> None:
        self._begin, self._told = begin, told
        self._under_way: Future[bytes] | None = None
        self._again = False

    @property
    def under_way(self) -> bool:
        """Whether an answer is still to come."""
        return self._under_way is not None

    def ask(self) -> None:
        """Have it worked out. What is under way began with less than there is now: once it is there, it is done once more."""
        if self._under_way is None:
            self._under_way = self._begin()
        else:
            self._again = True

    def collect(self) -> None:
        """Tell the answer where it is there."""
        if self._under_way is None or not self._under_way.done():
            return
        future, self._under_way = self._under_way, None
        if (found := result_of(future)) is not None:
            self._told(found)
        if self._again:
            self._again = False
            self.ask()

    def finish(self) -> None:
        """Wait until nothing is to come."""
        while self._under_way is not None:
            result_of(self._under_way)
            self.collect()


def result_of(future: "Future[bytes]") -> Any:
    """What was worked out; None where it could not be."""
    try:
        return from_json(future.result())
    except BusyError:
        return None
    except Exception:
        log.exception("what a test says could not be worked out")
        return None
