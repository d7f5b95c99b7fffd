"""What mends a finding: the changes that its rule proposes, each tried out on the whole design before it is offered."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from kegcart.core.assess import Assessment, assess
from kegcart.core.design import DesignError, patched, write_design
from kegcart.core.finding import Finding, Remedy, Severity
from kegcart.core.reference import constant

MOST_STEPS = 5
"""Remedies that go with one, at most."""
MOST_LINKS = 3
"""Proposals one after the other, where no single one ends a finding."""
HEAVY_KG, LIGHT_KG = 5.0, 1.0
"""So much more mass is no remedy where another ends the finding with as good as none."""


@dataclass(frozen=True, slots=True)
class Offer:
    """A change that ends a finding and brings no new stop, with all it takes along, and the design as it would then stand."""

    label: str
    patch: list[dict[str, Any]]
    after: Assessment


def offered(assessment: Assessment, finding: Finding) -> list[Offer]:
    """The remedies of a finding that end it and bring no new stop, the lightest and cheapest first; none where nothing does.

    Where no single proposal ends it, as two causes lie one behind the other, they are tried one after the other.
    """

    def tried(last_resort: bool) -> list[Offer]:
        proposed = (r for r in finding.remedies if r.last_resort is last_resort)
        return [o for r in proposed if (o := trial(assessment, finding, r.label, r.patch)) is not None]

    out = tried(last_resort=False)
    if not out and finding.remedies:
        out = list(one_after_the_other(assessment, finding)) or tried(last_resort=True)
    mass, cost = kilograms(assessment), assessment.pack.cost.number
    heavier = {id(offer): max(0.0, kilograms(offer.after) - mass) for offer in out}
    if any(kg <= LIGHT_KG for kg in heavier.values()):
        out = [offer for offer in out if heavier[id(offer)] <= HEAVY_KG]
    return sorted(out, key=lambda o: (round(heavier[id(o)], 1), round(max(0.0, o.after.pack.cost.number - cost))))


def trial(assessment: Assessment, finding: Finding, label: str, patch: list[dict[str, Any]]) -> Offer | None:
    """A proposal with all it takes along; None where it cannot be applied, does not end the finding, or brings a new stop.

    A larger pack may give more fault current than a pinned fuse opens: then that fuse's own remedy goes with it. That something no longer
    fits where it stood in the box does not stand in the way: it is moved then.
    """
    document, was, whole = write_design(assessment.design), stops(assessment), list(patch)
    for _ in range(MOST_STEPS):
        try:
            after = assess(patched(document, whole), assessment.elsewhere)
        except DesignError:
            return None
        new = [f for f in after.findings if stands_in_the_way(f, finding) and (f.id, f.place) not in was]
        if not new:
            ended = all((f.id, f.place) != (finding.id, finding.place) for f in after.findings)
            return Offer(label, whole, after) if ended else None
        cure: Remedy | None = next((remedy for f in new for remedy in f.remedies[:1]), None)
        if cure is None:
            return None
        whole += cure.patch
    return None


def stands_in_the_way(new: Finding, of: Finding) -> bool:
    """Whether a finding that a remedy brings keeps it from being offered."""
    return new.severity is Severity.STOP and (new.station != "box" or of.station == "box")


def one_after_the_other(assessment: Assessment, finding: Finding) -> Iterator[Offer]:
    """The first proposal, then what is proposed for the finding that is left, until it is gone."""
    document, here, patch = write_design(assessment.design), finding, list[dict[str, Any]]()
    for _ in range(MOST_LINKS):
        step = next((r for r in here.remedies if not r.last_resort and not all(o in patch for o in r.patch)), None)
        if step is None:
            return
        patch += step.patch
        try:
            after = assess(patched(document, patch), assessment.elsewhere)
        except DesignError:
            return
        left = next((f for f in after.findings if (f.id, f.place) == (finding.id, finding.place)), None)
        if left is None:
            label = f"{finding.remedies[0].label}, with what else it takes"
            if offer := trial(assessment, finding, label, patch):
                yield offer
            return
        here = left


def stops(assessment: Assessment) -> set[tuple[str, str]]:
    """The stops of a design: (id, place)."""
    return {(f.id, f.place) for f in assessment.findings if f.severity is Severity.STOP}


def kilograms(assessment: Assessment) -> float:
    """What pack and copper weigh, kg: what a remedy makes heavier is one of them."""
    runs = (
        (part.run.wire.area_mm2 * part.node.run.parallel, part.node.run.length_m)
        for part in assessment.power.parts.values()
        if part.run is not None
    )
    copper_dm3 = sum(2 * area * metres / 1000 for area, metres in runs)
    return assessment.pack.mass.number + copper_dm3 * constant("copper_density")
