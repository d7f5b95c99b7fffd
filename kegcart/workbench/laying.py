"""A layout of the box proposed, as long work: begun, watched, stopped."""

from dataclasses import asdict
from typing import Any

from kegcart.core.box.proposal import Proposal, Task, propose
from kegcart.core.design import DesignError
from kegcart.workbench import jobs, longwork, services
from kegcart.workbench.workers import BusyError, workers

LayingJob = jobs.Job[str, float, Proposal]
HERE_S, SMALLEST_S = 60.0, 240.0
"""It ends with the best it has after so long: in this box, and in the smallest of the list."""


def begin_laying(design_id: str, smallest: bool) -> tuple[str, LayingJob]:
    """Begin to lay out the box of a design, or the smallest of the list for it, as a job. Errors: DesignError where it has no box yet."""
    given = services.as_given(design_id)
    with services.assessed_design(design_id) as a:
        if a.box is None:
            raise DesignError([("/box/case", "there is no box yet to stand anything in")])
        task = Task.of(a.box, a.power, a.design.brief)

    def lay(job: LayingJob) -> Proposal:
        def told(done: float) -> bool:
            return job.told(done, 0.0)

        try:
            return jobs.beside(job, longwork.proposal, *given, smallest) if workers.there else propose(task, smallest, told)
        except BusyError:
            raise jobs.CannotError("the server is busy with other long work: try again in a moment") from None

    return jobs.begin("laying", design_id, lay, SMALLEST_S if smallest else HERE_S)


def laying_data(key: str, job: LayingJob) -> dict[str, Any]:
    """How far it is, and at the end what was found."""
    found = job.result if job.done else None
    result = None if found is None else asdict(found)
    return {"job": key, "done": job.done, "progress": job.progress, "error": job.error, "result": result}
