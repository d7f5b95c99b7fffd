"""How the fuses of branches stand to the one before them: which opens first, the stub to a branch fuse, the fuses of one block."""

from collections.abc import Iterator

from kegcart.core.catalogue import MEND, NOTE, judges
from kegcart.core.check import HAIR, Check, Fault, at_least, at_most, is_so, mend, not_yet, note
from kegcart.core.electrical.protection import SoldProtection, stays_closed_from
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.power.kinds import FuseBlock, Protection
from kegcart.core.power.kinds.protection import AT_BAR_M, family_of
from kegcart.core.power.path.parts import PartSizing, PowerSizing
from kegcart.core.power.path.runs import wire_behind
from kegcart.core.power.rules.protection import nothing_opens, unpin_segment
from kegcart.core.reference import assumption
from kegcart.core.units import write_quantity

THICKER = 2.0
"""A stub of so many times the section that a short tap would need is worth a word."""


def judge_branches(power: PowerSizing) -> Iterator[Check]:
    """Every fuse or breaker against its neighbours, every fuse block."""
    for part in power.parts.values():
        if isinstance(part.node, Protection):
            yield from selectivity(part, part.node, power)
            yield from stub(part, power)
        if isinstance(part.node, FuseBlock):
            yield from one_form(part, power)


@judges("power.selectivity", "which fuse opens first", MEND, NOTE)
def selectivity(part: PartSizing, node: Protection, power: PowerSizing) -> Iterator[Check]:
    """One of several behind a fuse opens first, and the rest stays on.

    One that is smaller than what it feeds is to be mended; one that may open with it costs light, not safety: a note.

    Source: 1.6 × within one family (IEC 60269; assumptions table), else time-current curves and let-through (melting table).
    """
    behind = power.network.nearest_protections(part.key)
    rating, at = part.rating, part.pointer
    if rating is None or not behind or (len(behind) < 2 and not power.network.leaves_before(part.key)):
        return
    if part.fault is not None and nothing_opens(part.source.v_max.number, part.fault.number):
        yield not_yet("power.selectivity", f"{at}/rating_a", "a fault that something sold can open")
        return
    needed, largest = max(((closed_from(part, power.parts[k]), power.parts[k]) for k in behind), key=lambda pair: pair[0].number)
    other = largest.rating
    assert other is not None

    def fault() -> Fault:
        remedies = []
        family = family_of(part)
        if node.rating_a:
            fields = [release(f"{at}/rating_a"), release(f"{at}/family")]
            remedies.append(Remedy(f"Let {node.name} be sized", fields))
        larger = next((r for r in family.ratings_a if r >= needed.number - HAIR), None)
        if larger is not None:
            fields = [set_value(f"{at}/rating_a", larger), *unpin_segment(part.key, power, larger)]
            remedies.append(Remedy(f"Fit {larger:g} A, with the cables that this takes", fields))
        pinned = [k for k in behind if getattr(power.network.nodes[k], "rating_a", None)]
        if pinned:
            fields = [release(f"/power/network/{k}/rating_a") for k in pinned]
            remedies.append(Remedy("Let the fuses behind it be sized", fields))
        figures = {"I_fuse": rating, "I_b": other, "I_sel": needed}
        said = f"{node.name} of {{I_fuse}}, a {family.label}, may open together with {largest.node.name} of {{I_b}}"
        if rating.number < other.number:
            said = f"{node.name} of {{I_fuse}} opens before {largest.node.name} of {{I_b}} does"
        said += "; rated {I_sel} or more, it would stay closed."
        if rating.number < other.number:
            return mend(said, "Any fault in that circuit darkens the whole station.", figures, tuple(remedies))
        return note(said, "A fault in one circuit should darken that circuit, not the whole station.", figures, tuple(remedies))

    yield at_least("power.selectivity", f"{at}/rating_a", rating, needed, fault)


def closed_from(part: PartSizing, behind: PartSizing) -> Figure:
    """The rating of a protection at which it stays closed while one behind it opens, A. Source: see `protection.stays_closed_from`."""
    upper, lower, fault = family_of(part), family_of(behind), behind.fault
    assert behind.rating is not None and fault is not None
    label = "rating at which it would stay closed"
    if upper is lower and upper.kind == "fuse":
        return Figure.by("I_sel", "k_sel · I_b", "A", label, k_sel=assumption("selectivity"), I_b=behind.rating)
    how = (
        f"the middle of the time-current curve of a {upper.label} stays above that of a {lower.label}, and what that lets through "
        "does not melt it"
    )
    amps = stays_closed_from(upper, lower, behind.rating.number, fault.number)
    return Figure.of("I_sel", amps, "A", label, how=how, inputs={"I_b": behind.rating, "I_fault": fault})


@judges("power.long-stub", "cable to a branch fuse", NOTE)
def stub(part: PartSizing, power: PowerSizing) -> Iterator[Check]:
    """The cable to a branch fuse is no thicker than the branch asks for: close to its bar, it is sized for the branch.

    Source: a tap of 0.18 m, sheathed (small-craft practice; assumptions table).
    """
    network, node, run, rating = power.network, part.node, part.run, part.rating
    if run is None or rating is None or part.key in network.taps or not network.fused(part.key):
        return
    if network.role(node.feed) != "spreads":
        return
    thin = wire_behind(part, SoldProtection(family_of(part), rating.number), power.ctx)
    at, limit = f"{part.pointer}/run/length_m", assumption("short_tap")
    as_tap = thin.figure("A_tap", thin.area_mm2, "mm²", f"{thin.key}, which would serve as a short tap")
    most = Figure.by(
        "A_most", "k · A_tap", "mm²", "beyond that the length costs copper", k=Figure.of("k", THICKER, "×", "times"), A_tap=as_tap
    )

    def fault() -> Fault:
        near = [set_value(at, AT_BAR_M), release(f"{part.pointer}/run/sheathed"), release(f"{part.pointer}/run/gauge")]
        return note(
            f"The {{gauge}} to {node.name} of {{I_fuse}} is that thick only for its length: within {{l}} of its bar, and sheathed, "
            f"{thin.key} would serve.",
            "A stub that can chafe bears the whole main fuse; one that is short and covered bears its own.",
            {"gauge": run.gauge, "I_fuse": rating, "l": limit},
            (Remedy(f"Set it {write_quantity(AT_BAR_M, 'm')} from its bar, the cable sheathed", near),),
        )

    yield at_most("power.long-stub", at, run.area, most, fault)


@judges("power.block-family", "fuses of one block", MEND)
def one_form(block: PartSizing, power: PowerSizing) -> Iterator[Check]:
    """The fuses of a block are of one family: its clips are made for one form.

    Source: makers' sheets of fuse blocks.
    """
    inside = [power.parts[k] for k in power.network.children[block.key] if isinstance(power.network.nodes[k], Protection)]
    if not inside:
        return
    first = family_of(inside[0])
    odd = next((p for p in inside if family_of(p) is not first), None)

    def fault() -> Fault:
        assert odd is not None and odd.family is not None and inside[0].family is not None
        pinned = [p for p in inside if getattr(p.node, "family", None) or getattr(p.node, "rating_a", None)]
        remedies = []
        if pinned:
            patch = [release(f"{p.pointer}/{name}") for p in pinned for name in ("family", "rating_a")]
            remedies.append(Remedy("Let one family be chosen for the block", patch))
        patch = [set_value(f"{odd.pointer}/feed", block.node.feed), set_value(f"{odd.pointer}/run/length_m", AT_BAR_M)]
        if power.network.role(block.node.feed) == "spreads":
            remedies.append(Remedy(f"Take {odd.node.name} to the bar", patch))
        return mend(
            f"{block.node.name} is to hold two forms of fuse, {{family}} and {{other}}: it is made for one.",
            "A fuse that does not sit in its clips heats them, and carries until it does not.",
            {"family": inside[0].family, "other": odd.family},
            tuple(remedies),
        )

    yield is_so("power.block-family", block.pointer, odd is None, fault)
