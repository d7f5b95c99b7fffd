"""What is judged of the life of a build: visits that were missed, faults that nobody mended, and how its pack wears."""

from collections.abc import Iterator
from datetime import date

from kegcart.core.catalogue import MEND, judges
from kegcart.core.check import Check, Fault, at_least, failed, held, mend, not_yet
from kegcart.core.figure import Figure
from kegcart.core.log.life import Life, Lived, of_kind
from kegcart.core.log.visits import Visit
from kegcart.core.log.wear import Tested, Wear
from kegcart.core.reference import assumption
from kegcart.core.units import calendar_day, told

VISITS, LIFE = "/log/visits", "/log/entries"


def judge_lived(life: Life, visits: list[Visit], wear: Wear | None, today: date) -> Iterator[Check]:
    """Every check of what a build has lived through; before it is in service nothing is owed."""
    for visit in visits:
        yield visit_made(visit, today)
    yield from faults_mended(life)
    if wear is None:
        return
    if not wear.capacities:
        yield not_yet("log.capacity-fading", "/log/wear", "a capacity test")
        return
    yield fades_as_it_should(wear, wear.capacities[-1])
    yield enough_left(wear.capacities[-1])


@judges("log.visit-overdue", "visits that are due", MEND)
def visit_made(visit: Visit, today: date) -> Check:
    """Each visit is made by the day it is due.

    Source: visits table.
    """
    at = f"{VISITS}/{visit.of.key}"
    if visit.state != "overdue":
        return held("log.visit-overdue", at)
    late = Figure.of("n", (today - visit.due).days, "days", "overdue", how=f"due on {calendar_day(visit.due)}")
    before = f", last made on {calendar_day(visit.last)}" if visit.last else ", never made yet"
    label = visit.of.label[0].upper() + visit.of.label[1:]
    sentence = f"{label}: due since {calendar_day(visit.due)}, {told(late.number, 'days')}{before}."
    return failed("log.visit-overdue", at, mend(sentence, f"{visit.of.why}.", {"late": late}))


@judges("log.fault-open", "faults", MEND)
def faults_mended(life: Life) -> Iterator[Check]:
    """Each fault that was recorded is mended.

    Source: practice: a fault that is known and left is the one that burns.
    """
    mended = {entry.data.get("fault") for entry in of_kind(life, "mend")}
    for fault in of_kind(life, "fault"):
        at = f"{LIFE}/{fault.item}"
        yield held("log.fault-open", at) if fault.item in mended else failed("log.fault-open", at, left_open(fault))


def left_open(fault: Lived) -> Fault:
    """What a fault that nobody mended says."""
    return mend(
        f"A fault of {calendar_day(fault.on)} is not mended: {fault.data['what'].rstrip('.!')}.",
        "A fault that is known and left is the one that burns: mend it, and enter that it is.",
        {},
    )


@judges("log.capacity-fading", "how the capacity goes", MEND)
def fades_as_it_should(wear: Wear, test: Tested) -> Check:
    """The capacity falls no faster than its chemistry would, by more than two tests may differ.

    Source: loss by age and by cycles (typical); a meter of 1 %, a cold table of 1 %.
    """
    expected = next((share for on, share in reversed(wear.course) if on <= test.on), 1.0)
    usual = Figure.of("k_exp", expected, "share", "what its chemistry would have left", how=f"on {calendar_day(test.on)}")
    least = Figure.by("k_min", "k_exp − δ", "share", "the least that is usual", {"k_exp": usual, "δ": wear.doubt})
    return at_least(
        "log.capacity-fading",
        f"{LIFE}/{test.item}",
        test.share,
        least,
        lambda: mend(
            f"The pack held {test.figure.text} on {calendar_day(test.on)}, {test.share.text} of what it held new: its chemistry would have"
            f" left {usual.text}.",
            "Look for a group that is empty first, for cells that stand warm, and whether it was full before the test.",
            {"share": test.share, "usual": usual},
        ),
    )


@judges("log.capacity-spent", "what the pack still holds", MEND)
def enough_left(test: Tested) -> Check:
    """The pack holds four fifths of what it held new.

    Source: cycles of cells are counted until 80 % of the capacity are left (datasheets).
    """
    return at_least(
        "log.capacity-spent",
        f"{LIFE}/{test.item}",
        test.share,
        assumption("capacity_end"),
        lambda: mend(
            f"The pack holds {test.share.text} of what it held new ({test.figure.text}): what it was built for is no longer in it.",
            "From here on cells age unlike one another: test the groups, and plan with what is left, or with new cells.",
            {"share": test.share},
        ),
    )
