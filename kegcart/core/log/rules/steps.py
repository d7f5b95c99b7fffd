"""What is judged of what was recorded: checks outside their limits with what depends on them, and what is to be done again."""

from collections.abc import Iterator, Mapping
from datetime import date

from kegcart.core.assembly.plan.acts import Measure
from kegcart.core.assembly.sizing import AssemblySizing
from kegcart.core.catalogue import MEND, STOP, judges
from kegcart.core.check import Check, Fault, failed, held, mend, stop
from kegcart.core.figure import Figure
from kegcart.core.log.standing import Standing

NAMED = 3
"""So many steps are named in a sentence."""


def judge_record(build: AssemblySizing, standing: Mapping[str, Standing], today: date) -> Iterator[Check]:
    """Every check of what was recorded. today: given from outside, as visits fall due by it."""
    for step in standing.values():
        if step.tick is not None and step.tick.values:
            yield check_recorded(step, standing, build)
    if any(step.tick is not None for step in standing.values()):
        yield still_rests(standing)


@judges("assembly.check-failed", "checks at the bench", STOP, MEND)
def check_recorded(step: Standing, standing: Mapping[str, Standing], build: AssemblySizing) -> Check:
    """What is measured at the end of a step is within its limits; where it is not, nothing that depends on it is done.

    Source: limits of the step, from the design; practice: a fault is found where it was made, not where it burns.
    """
    at = f"/assembly/steps/{step.act.key}"
    if not step.outside:
        return held("assembly.check-failed", at)
    later = [
        other
        for other in standing.values()
        if other.tick and other.tick.done and step.act.key in build.plan.earlier(other.act.key)
    ]
    said = "; ".join(outside_text(measure, step) for measure in step.outside)
    causes = list(dict.fromkeys(cause for measure in step.outside for cause in measure.causes))
    likely = f" Likeliest: {', or '.join(causes[:NAMED])}." if causes else ""
    figures = {f"limit {n}": f for n, f in enumerate(f for m in step.outside for f in (m.least, m.most) if f is not None)}
    return failed("assembly.check-failed", at, fault_of(step, said, likely, later, figures))


def fault_of(step: Standing, said: str, likely: str, later: list[Standing], figures: Mapping[str, Figure]) -> Fault:
    """What a failed check says: a stop where steps that depend on it were done on top of it."""
    sentence = f"“{step.act.title}” failed its check: {said}.{likely}"
    if not later:
        return mend(sentence, "Mend it and measure again: what depends on it waits.", figures)
    names = names_of(later)
    return stop(
        f"{sentence} {names} {'were' if len(later) > 1 else 'was'} done on top of it.",
        "What was built on a fault hides it: go back to it before anything is switched on.",
        figures,
    )


def names_of(steps: list[Standing]) -> str:
    """Steps by their titles, the first few of them."""
    named = ", ".join(f"“{step.act.title}”" for step in steps[:NAMED])
    return named + (f" and {len(steps) - NAMED} more" if len(steps) > NAMED else "")


def outside_text(measure: Measure, step: Standing) -> str:
    """What was measured against what it may be."""
    assert step.tick is not None
    value = step.tick.values[measure.key]
    label = measure.label[0].lower() + measure.label[1:]
    if isinstance(value, bool):
        return f"{label}: no"
    figure = Figure.of("x", value, measure.unit, measure.label)
    limit = measure.most if measure.most is not None and value > measure.most.number else measure.least
    bound = "at most" if limit is measure.most else "at least"
    return f"{label} {figure.text}, {bound} {limit.text}" if limit is not None else f"{label} {figure.text}"


@judges("assembly.again", "what was done still stands", MEND)
def still_rests(standing: Mapping[str, Standing]) -> Check:
    """What was done rests on the figures of the design as it is now.

    Source: a digest of wires, limits, ratings and places is kept with each tick.
    """
    again = [step for step in standing.values() if step.state == "again"]
    if not again:
        return held("assembly.again", "/assembly/steps")
    count = Figure.of("n", len(again), "", "steps to be done again", how="what they rest on changed since they were ticked")
    were = "was" if len(again) == 1 else "were"
    return failed(
        "assembly.again",
        f"/assembly/steps/{again[0].act.key}",
        mend(
            f"{names_of(again)} {were} done before the design changed: do {'it' if len(again) == 1 else 'them'} again, and measure.",
            "A wire of another gauge, a fuse of another rating or a part in another place is not what was checked.",
            {"n": count},
        ),
    )
