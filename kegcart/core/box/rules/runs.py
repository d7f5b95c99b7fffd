"""Whether the runs of the power path are as long in the box as they were taken to be."""

from collections.abc import Sequence
from dataclasses import dataclass

from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.check import Bound, Check, Fault, compared, held, mend, note, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Finding, Remedy
from kegcart.core.reference import constant

PLACE = "/box/places"


@dataclass(frozen=True, slots=True)
class RunSeen:
    """A run: of which part, how long it is in the box, and how long it was taken to be, m."""

    name: str
    in_box: Figure
    taken: Figure

    @property
    def over(self) -> float:
        """By how much it is longer in the box, m."""
        return self.in_box.number - self.taken.number


@judges("box.run-length", "lengths of the runs as laid out", NOTE, MEND, STOP)
def as_laid_out(runs: Sequence[RunSeen], worse: Sequence[Finding], cures: tuple[Remedy, ...]) -> Check:
    """No run of the power path is longer in the box than it was taken to be, nor much shorter.

    worse: what no longer holds with the lengths of the box put in. Source: measured in the layout, along each axis between the nearest
    terminals, a tenth more, and both ends (assumptions table).
    """
    slack = constant("run_slack")
    longer = sorted((run for run in runs if run.over > slack), key=lambda run: -run.over)
    shorter = sorted((run for run in runs if run.over < -slack), key=lambda run: run.over)
    if not runs or not (longer or shorter):
        return held("box.run-length", PLACE)
    first, others = (longer or shorter)[0], len(longer or shorter) - 1

    def fault() -> Fault:
        figures = {"l": first.in_box, "L": first.taken}
        more = f", and {others} more runs" if others > 1 else ", and one more run" if others else ""
        if not longer:
            said = f"The run to {first.name} is {{l}} in the box; {{L}} was taken{more}: shorter than taken."
            return note(said, "Shorter cables drop less, weigh less, and can be thinner.", figures, cures)
        said = f"The run to {first.name} is {{l}} in the box; {{L}} was taken{more}: longer than taken."
        why = "What is cut to the length that was taken does not reach; what is longer drops more, and may want a fuse nearer by."
        if worse:
            also = f" And {len(worse) - 1} more." if len(worse) > 1 else ""
            return stop(f"{said} What fails at that: {worse[0].text}{also}", why, figures, cures)
        return mend(said, why, figures, cures)

    return compared("box.run-length", PLACE, False, first.in_box, first.taken, Bound.MOST, fault)
