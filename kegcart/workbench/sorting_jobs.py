"""Sorting that runs beside the requests: started, watched, stopped. Jobs live in memory and end with the server."""

import secrets
import threading
import time
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from kegcart.core.pack.sorting import ROUNDS, Arrangement, Progress, SortingError, sort_cells
from kegcart.workbench.models import RackCell

KEPT = 20
QUICK_S = 0.9
THOROUGH_S = 60.0
THOROUGH_ROUNDS = 100 * ROUNDS


@dataclass(slots=True)
class Job:
    """One run of sorting."""

    good: list[RackCell]
    left_out: Mapping[str, int]
    progress: float = 0.0
    spread_ah: float | None = None
    found: Arrangement | None = None
    error: str = ""
    stop: threading.Event = field(default_factory=threading.Event)
    done: threading.Event = field(default_factory=threading.Event)


_jobs: OrderedDict[str, Job] = OrderedDict()
_lock = threading.Lock()


def start(
    good: Sequence[RackCell],
    left_out: Mapping[str, int],
    series: int,
    parallel: int,
    holder: int,
    pinned: Mapping[int, int],
    thorough: bool,
) -> str:
    """Begin sorting; returns the job's id. `pinned` is cell id -> group from 0."""
    job = Job(list(good), left_out)
    key = secrets.token_hex(6)
    with _lock:
        _jobs[key] = job
        while len(_jobs) > KEPT:
            _, old = _jobs.popitem(last=False)
            old.stop.set()
    limit_s = THOROUGH_S if thorough else QUICK_S
    rounds = THOROUGH_ROUNDS if thorough else ROUNDS
    index = {cell.pk: n for n, cell in enumerate(job.good)}

    def run() -> None:
        begun = time.monotonic()

        def report(progress: Progress) -> bool:
            spent = time.monotonic() - begun
            job.progress = max(progress.done / progress.rounds, spent / limit_s)
            job.spread_ah = progress.spread_ah
            return spent < limit_s and not job.stop.is_set()

        try:
            job.found = sort_cells(
                [cell.capacity_ah or 0.0 for cell in job.good],
                [cell.resistance_mohm for cell in job.good],
                series,
                parallel,
                holder,
                {index[pk]: group for pk, group in pinned.items() if pk in index},
                rounds,
                report,
            )
        except SortingError as error:
            job.error = str(error)
        except Exception as error:  # said to the one who asked, instead of dying in a thread
            job.error = f"the sorting failed: {error}"
            raise
        finally:
            job.progress = 1.0
            job.done.set()

    threading.Thread(target=run, name=f"sorting-{key}", daemon=True).start()
    return key


def get(key: str) -> Job | None:
    return _jobs.get(key)


def stop(key: str) -> Job | None:
    """Stop a job; it ends with the best it has found."""
    job = _jobs.get(key)
    if job is not None:
        job.stop.set()
        job.done.wait(5)
    return job
