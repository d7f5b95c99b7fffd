"""Runs that lead to no part of the tree: the other way of a selector, the main negative, the lead of the meter."""

from collections.abc import Iterator

from kegcart.core.catalogue import STOP, judges
from kegcart.core.check import Check, at_least, at_most, failed, is_so, not_yet, stop
from kegcart.core.electrical.cable_checks import IN_A_SHORT, carries, chosen_again, drops, survives
from kegcart.core.electrical.cables import RunSizing
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.pack.document import Bank
from kegcart.core.power.kinds import Selector
from kegcart.core.power.path.edits import put_fuse_on_other_way
from kegcart.core.power.path.leads import first_protections, protection_sum
from kegcart.core.power.path.parts import PartSizing, PowerSizing, Source
from kegcart.core.reference import assumption, chemistries
from kegcart.core.units import write_quantity


def judge_leads(power: PowerSizing) -> Iterator[Check]:
    """Every run beside those of the tree."""
    for part in power.parts.values():
        if isinstance(part.node, Selector) and part.other is not None:
            yield from other_feed(part, part.node, part.other, power)
    if power.ctx.negative is not None:
        yield from main_negative(power.ctx.negative, power)
    if power.ctx.meter is not None:
        yield from meter_lead(power)
    strings, build = power.ctx.pack.build.strings, power.ctx.pack.pack
    if strings is not None and strings.link is not None and isinstance(build, Bank):
        yield from string_link(strings.link, build, power)


@judges("power.other-feed", "the other way of the selector", STOP)
def other_feed(part: PartSizing, node: Selector, run: RunSizing, power: PowerSizing) -> Iterator[Check]:
    """The other way to a selector is protected, of the same voltage, and its cable carries its protection and survives a short.

    Source: every source has its own protection (IEC 60364-4-43); A ≥ √(I²t)/k; devices behind it are chosen for one voltage.
    """
    at, network = f"{part.pointer}/other_run", power.network
    what = f"cable to {node.name} from its other way"
    guard = network.guard_of_way(node.other)
    remedies = chosen_again(at, node.other_run.gauge)
    if guard is None:
        fault = stop(
            f"Nothing protects the {{gauge}} {what}: the fault there would be {{I_fault}}.",
            IN_A_SHORT,
            {"gauge": run.gauge, "I_fault": power.sources[network.source(node.other)].fault},
            (Remedy("Set a fuse on that way", put_fuse_on_other_way(network, part.key)),),
        )
        yield failed("power.other-feed", at, fault)
    elif (rating := power.parts[guard].rating) is not None:
        yield carries("power.other-feed", at, rating, run, what, remedies)
        yield from survives("power.other-feed", at, run, what, remedies)
    yield drops(at, run, what, remedies)
    yield same_voltage(part, node, power.sources[network.source(node.other)], power)


def same_voltage(part: PartSizing, node: Selector, other: Source, power: PowerSizing) -> Check:
    """Both ways of a selector stand at one voltage."""
    own = part.source
    apart = Figure.of(
        "ΔV",
        abs(other.v_nom.number - own.v_nom.number) / own.v_nom.number,
        "share",
        "between the two sources, nominal",
        how="their difference over the one that it stands on",
        inputs={"V_1": own.v_nom, "V_2": other.v_nom},
    )
    remedies: list[Remedy] = []
    for bank, wanted in ((other, own), (own, other)):
        if bank.key in power.banks:
            row = chemistries()[power.ctx.path.banks[bank.key].chemistry]
            series = max(1, round(wanted.v_nom.number / row.v_nom))
            remedies.append(Remedy(f"{bank.name} of {series} cells in series", [set_value(f"{bank.pointer}/series", series)]))
            break
    return at_most(
        "power.other-feed",
        f"{part.pointer}/other",
        apart,
        assumption("other_voltage"),
        lambda: stop(
            f"{node.name} feeds its branch from {{V_1}} or from {{V_2}}.",
            "What is made for the lower voltage burns at the higher one, and what is made for the higher one stands still.",
            {"V_1": own.v_nom, "V_2": other.v_nom},
            tuple(remedies),
        ),
    )


@judges("power.wire-unprotected")
def main_negative(run: RunSizing, power: PowerSizing) -> Iterator[Check]:
    """The main negative carries what the first fuses let through together.

    Source: the same current returns (Kirchhoff); overcurrent protection of every conductor (IEC 60364-4-43).
    """
    at, own = "/power/negative", power.ctx.path.negative
    what = "main negative"
    remedies: tuple[Remedy, ...] = ()
    if own is not None:
        remedies = (Remedy("Let it be as the positive", [set_value(at, None)]),)
    pinned = [part for part in first_protections(power.ctx) if getattr(part.node, "rating_a", None) is not None]
    if pinned:
        patch = [release(f"{part.pointer}/rating_a") for part in pinned]
        remedies += (Remedy("Let the first fuses be sized", patch),)
    if own is None or own.parallel == 1:
        length = sum(power.parts[k].node.run.length_m for k in power.network.main_path() if power.parts[k].run) or 0.5
        two = {
            **(own.model_dump(mode="json") if own is not None else {"length_m": round(length, 3)}),
            "gauge": None,
            "parallel": 2,
        }
        remedies += (Remedy("Two cables side by side", [set_value(at, two)]),)
    total = protection_sum(power.ctx)
    if total.number > 0:
        yield carries("power.wire-unprotected", at, total, run, what, remedies)
        yield from survives("power.withstand", at, run, what, remedies)
    else:  # the positive runs are stopped for it
        yield not_yet("power.wire-unprotected", at, "a fuse at the post")
        yield not_yet("power.withstand", at, "a fuse at the post")
    yield drops(at, run, what, remedies)


@judges("pack.string-lead")
def string_link(link: RunSizing, build: Bank, power: PowerSizing) -> Iterator[Check]:
    """The link from string to string carries what all strings give, as far as the first fuses let it through, and survives a short.

    Source: currents add at a node (Kirchhoff); A ≥ √(I²t)/k (IEC 60364-4-43).
    """
    at, fuses = "/pack/link", protection_sum(power.ctx)
    remedies = chosen_again(at, build.link.gauge)
    one = Figure.decided("i", build.battery.continuous_a, "A", "each string gives for long", "/pack/battery/continuous_a")
    parts = {"P": power.ctx.pack.parallel, "i": one}
    if fuses.number > 0:
        asked = Figure.by("I_all", "min(P · i, I_fuses)", "A", "what can flow through it", {**parts, "I_fuses": fuses})
    else:
        asked = Figure.by("I_all", "P · i", "A", "what can flow through it", parts)
    yield carries("pack.string-lead", at, asked, link, "link from string to string", remedies)
    yield from survives("pack.string-lead", at, link, "link from string to string", remedies)
    yield drops(at, link, "link from string to string", remedies, "pack")


@judges("power.wire-unprotected")
def meter_lead(power: PowerSizing) -> Iterator[Check]:
    """The supply lead of the meter has a small fuse at the post, which opens the fault that its copper lets through.

    Source: 1 to 2 A at the post, within 50 mm (practice); interrupt rating by voltage (protections table).
    """
    lead, at = power.ctx.meter, "/power/shunt/lead"
    shunt = power.ctx.path.shunt
    assert lead is not None and shunt is not None
    what = "supply lead of the meter"
    yield is_so(
        "power.wire-unprotected",
        "/power/shunt/lead_fused",
        lead.fuse is not None,
        lambda: stop(
            f"Nothing protects the {{gauge}} {what}: the fault at its end would be {{I_fault}}.",
            IN_A_SHORT,
            {"gauge": lead.run.gauge, "I_fault": lead.fault},
            (
                Remedy(
                    f"A small fuse at the post, within {write_quantity(50, 'mm')}", [set_value("/power/shunt/lead_fused", True)]
                ),
            ),
        ),
    )
    if lead.fuse is None:
        return
    remedies = chosen_again(at, shunt.lead.gauge)
    yield carries("power.wire-unprotected", at, lead.fuse, lead.run, what, remedies)
    yield from survives("power.withstand", at, lead.run, what, remedies)
    yield at_least(
        "power.fuse-interrupt",
        at,
        lead.interrupts,
        lead.fault,
        lambda: stop(
            f"The small fuse of the {what} opens {{I_int}}; the fault at the end of the lead can be {{I_fault}}.",
            "A fuse that cannot interrupt the fault bursts and goes on burning.",
            {"I_int": lead.interrupts, "I_fault": lead.fault},
            (Remedy(f"A lead of {write_quantity(1, 'm')}: its copper bounds the fault", [set_value(f"{at}/length_m", 1.0)]),)
            if shunt.lead.length_m < 1
            else (),
        ),
        slack=0.0,
    )
