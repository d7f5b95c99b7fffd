"""Fuses, breakers, and the cables they protect."""

from collections.abc import Iterator
from typing import Any

from kegcart.core.catalogue import MEND, STOP, judges
from kegcart.core.check import HAIR, Check, Fault, at_least, at_most, failed, held, mend, not_yet, stop
from kegcart.core.electrical.cable_checks import IN_A_SHORT, chosen_again, drops, survives
from kegcart.core.electrical.cables import RunSizing
from kegcart.core.electrical.conductors import gauges
from kegcart.core.electrical.protection import fastest_melting, interrupt_rating
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.pack.document import Bank, CellPack
from kegcart.core.pack.forms import form_of
from kegcart.core.pack.forms.base import LARGEST
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import Protection, kind_of
from kegcart.core.power.kinds.protection import family_of
from kegcart.core.power.path.edits import put_fuse_before
from kegcart.core.power.path.parts import PartSizing, PowerSizing
from kegcart.core.power.path.runs import way_to
from kegcart.core.power.rules.inverters import INVERTER_FIELDS
from kegcart.core.reference import assumption, families


def judge_protection(part: PartSizing, power: PowerSizing, pack: PackSizing) -> Iterator[Check]:
    """The cable to a part, and the part itself where it is a fuse or breaker."""
    if part.run is not None:
        yield from wire_unprotected(part, part.run, power)
        yield drop(part, part.run)
        yield from path_drop(part, power)
        yield from short_circuit(part, part.run, power)
        yield from side_by_side(part, part.run, power)
    if isinstance(part.node, Protection):
        yield nuisance(part, part.node, power)
        yield something_opens(part, part.node, pack, power)
        yield fuse_voltage(part, part.node)
        yield fuse_interrupt(part, part.node, pack, power)


def unpin_segment(key: str, power: PowerSizing, rating_a: float) -> list[dict[str, Any]]:
    """Operations that release the pinned parts behind a protection, or the cable to it that it guards, that would not carry `rating_a`."""
    out, network = [], power.network
    for child in (*([key] if network.guards_its_own(key) else []), *network.segment(key)):
        part = power.parts[child]
        if part.run and part.node.run.gauge and part.run.ampacity.number < rating_a:
            out.append(release(f"{part.pointer}/run/gauge"))
        out += [release(f"{part.pointer}/{name}") for name in kind_of(part.node).released(part.node, part, rating_a)]
    return out


@judges("power.wire-unprotected", "cable and its fuse", STOP)
def wire_unprotected(part: PartSizing, run: RunSizing, power: PowerSizing) -> Iterator[Check]:
    """The fuse before a cable is no larger than what the cable carries; and there is one.

    The first run, up to the first fuse, and a short tap to a branch fuse carry what that fuse lets through; a short there is judged
    by its length.
    Source: overcurrent protection at the source of every conductor (IEC 60364-4-43; ISO 10133 on small craft).
    """
    at = f"{part.pointer}/run"
    own = power.network.guards_its_own(part.key)
    if part.guard is None and not own:
        fault = stop(
            f"Nothing protects the {{gauge}} to {part.node.name}: the fault there would be {{I_fault}}.",
            IN_A_SHORT,
            {"gauge": run.gauge, "I_fault": part.fault or run.ampacity},
            (Remedy(f"Set a fuse before {part.node.name}", put_fuse_before(power.network, part.key)),),
        )
        yield failed("power.wire-unprotected", at, fault)
        return
    for key in [part.key] if own else power.network.guards(part.key):
        guard = power.parts[key]
        limit, school_a = run.ampacity, power.ctx.practice.laid(part.node.run).most_fuse(run.wire)
        if school_a is not None and school_a < run.ampacity.number:
            limit = run.wire.figure("I_most", school_a, "A", f"largest fuse allowed before {run.wire.key}")
        if guard.rating is not None:
            yield carried(part, run, guard, guard.rating, limit, power)


def carried(part: PartSizing, run: RunSizing, guard: PartSizing, rating: Figure, limit: Figure, power: PowerSizing) -> Check:
    """A cable carries one of the protections that may stand before it."""
    at = f"{part.pointer}/run"
    return at_most("power.wire-unprotected", at, rating, limit, lambda: overheats(part, run, guard, rating, limit.number, power))


def overheats(part: PartSizing, run: RunSizing, guard: PartSizing, rating: Figure, carries_a: float, power: PowerSizing) -> Fault:
    """A fuse that lets the cable behind it overheat: fit a smaller one, or run a thicker cable."""
    at, remedies, advice = f"{part.pointer}/run", [], []
    smaller = fitting_rating(guard, carries_a)
    if smaller is not None:
        remedies.append(Remedy(f"Fit {smaller:g} A", [set_value(f"{guard.pointer}/rating_a", smaller)]))
        advice.append(f"fit {smaller:g} A")
    thicker = thicker_gauge(part, run, rating.number, power)
    if thicker is not None and thicker != run.wire.key:
        remedies.append(Remedy(f"Run {thicker}", [set_value(f"{at}/gauge", thicker)]))
        advice.append(f"run {thicker}")
    if isinstance(guard.node, Protection) and guard.node.rating_a is not None:
        operations = [release(f"{guard.pointer}/rating_a"), *unpin_segment(guard.key, power, guard.extra["least"].number)]
        remedies.append(Remedy("Let fuse and cable be sized together", operations))
    advised, where = ": " + ", or ".join(advice) if advice else "", "before it" if guard is part else f"to {part.node.name}"
    return stop(
        f"The {{I_fuse}} {guard.node.name} lets the {{gauge}} ({{I_amp}}) {where} overheat{advised}.",
        IN_A_SHORT,
        {"I_fuse": rating, "gauge": run.gauge, "I_amp": run.ampacity},
        tuple(remedies),
    )


def thicker_gauge(part: PartSizing, run: RunSizing, rating_a: float, power: PowerSizing) -> str | None:
    """The thinnest gauge sold that a fuse of this rating may stand before; None where there is none."""
    laid = power.ctx.practice.laid(part.node.run)
    for wire in gauges(run.wire.system):
        thick = run.short is None or wire.area_mm2 >= run.short.number - HAIR
        if thick and laid.ampacity(wire) >= rating_a and (laid.most_fuse(wire) or rating_a) >= rating_a:
            return wire.key
    return None


def fitting_rating(guard: PartSizing, carries_a: float) -> float | None:
    """The largest rating of the guard's family between its least and what stands behind it carries."""
    if not isinstance(guard.node, Protection):
        return None
    ratings, least = family_of(guard).ratings_a, guard.extra["least"].number
    return max((r for r in ratings if least - HAIR <= r <= carries_a + HAIR), default=None)


@judges("power.drop", "voltage drop", MEND)
def drop(part: PartSizing, run: RunSizing) -> Check:
    """The voltage drop of a cable is within its limit.

    Source: 2 % main and inverter, 3 % outlet circuits (assumptions table).
    """
    at, own = f"{part.pointer}/run", part.node.run
    thickest = gauges(run.wire.system)[-1]
    remedies = chosen_again(at, own.gauge)
    if own.parallel == 1:
        patch = [set_value(f"{at}/parallel", 2), *([release(f"{at}/gauge")] if own.gauge else [])]
        remedies += (Remedy(f"Two cables side by side, of {thickest.key} at most", patch),)
    return drops(at, run, f"to {part.node.name}", remedies)


@judges("power.path-drop", "voltage drop from post to socket", MEND)
def path_drop(part: PartSizing, power: PowerSizing) -> Iterator[Check]:
    """All that is lost on the way to a socket is within what main run and outlet circuit may lose together.

    Source: 2 % and 3 % (assumptions table); what runs by the schedule at its worst moment.
    """
    drop = power.ctx.sheet.get(f"power/{part.key}/path_drop")
    if drop is None:
        return
    limit, network = power.ctx.known("drop_path"), power.network
    begins = "the post" if network.stands_on[part.key] == "pack" else "the converter"

    def fault() -> Fault:
        way = [power.parts[k] for k in way_to(part.key, power.ctx)]
        pinned = [p for p in way if p.run and p.node.run.gauge]
        remedies = []
        if pinned:
            patch = [release(f"{p.pointer}/run/gauge") for p in pinned]
            remedies.append(Remedy("Let the cables on the way be chosen", patch))
        return mend(
            f"{part.node.name}: {{d_sum}} of the voltage is lost from {begins} to the socket; {{d_p}} is the limit.",
            "Lamps dim when something else starts, and what cuts off by voltage does so while the pack is half full.",
            {"d_sum": drop, "d_p": limit},
            tuple(remedies),
        )

    yield at_most("power.path-drop", f"{part.pointer}/run", drop, limit, fault)


@judges("power.withstand", "short-circuit withstand", STOP)
def short_circuit(part: PartSizing, run: RunSizing, power: PowerSizing) -> Iterator[Check]:
    """A cable survives a short until its protection has opened.

    Source: A ≥ √(I²t)/k (IEC 60364-4-43); let-through of its protection (assumptions and melting tables).
    """
    at, opens = f"{part.pointer}/run", part.key if power.network.guards_its_own(part.key) else part.guard
    guard = power.parts[opens] if opens else None
    if guard is None:
        return  # without protection: power.wire-unprotected
    if run.short is None:  # a converter limits what it gives
        yield held("power.withstand", at)
        return
    short, remedies = run.short.number, []
    thick = next((w for w in gauges(run.wire.system) if w.area_mm2 >= short - HAIR), None)
    if thick is not None and run.area.number < short:
        remedies.append(Remedy(f"Run {thick.key}", [set_value(f"{at}/gauge", thick.key)]))
    if isinstance(guard.node, Protection) and guard.node.family is not None:
        remedies.append(Remedy("Let its protection be chosen", rechoose(guard)))
    yield from survives("power.withstand", at, run, f"to {part.node.name}", tuple(remedies))


@judges("power.parallel-wires", "cables side by side", MEND)
def side_by_side(part: PartSizing, run: RunSizing, power: PowerSizing) -> Iterator[Check]:
    """Cables run in parallel only from a section at which that is practice.

    Source: 1/0 AWG or 50 mm² and above, of one length, kind and lug (building practice; assumptions table).
    """
    own = part.node.run
    if own.parallel == 1:
        return
    at, least = f"{part.pointer}/run/parallel", assumption("parallel_from")

    def fault() -> Fault:
        rating = power.parts[part.guard].rating if part.guard else None
        needed = max(rating.number if rating else 0.0, part.design.number)
        single = power.ctx.practice.laid(own)._replace(parallel=1)
        wire = next((w for w in gauges(run.wire.system) if single.ampacity(w) >= needed), None)
        patch = [set_value(at, 1), set_value(f"{part.pointer}/run/gauge", wire.key if wire else None)]
        return mend(
            f"{own.parallel} cables of {{gauge}} run side by side to {part.node.name}; from {{A_par}} up that is practice.",
            "One lug a little looser, and the other cable carries it all: neither is protected for that.",
            {"gauge": run.gauge, "A_par": least},
            (Remedy(f"One cable of {wire.key}" if wire else "One cable", patch),),
        )

    yield at_least("power.parallel-wires", at, run.area, least, fault)


@judges("power.fuse-nuisance", "fuse in ordinary use", MEND)
def nuisance(part: PartSizing, node: Protection, power: PowerSizing) -> Check:
    """A fuse does not open in ordinary use: in the air inside it carries 1.25 × the design current, and it rides through every start.

    Source: a fuse carries 80 % of its rating for long, less in hot air (assumptions table), and rides through a start by its melting curve (melting table, ISO 8820-3).
    """
    assert part.rating is not None
    at, rating, least, family = f"{part.pointer}/rating_a", part.rating, part.extra["least"], family_of(part)
    if node.rating_a is None and part.fault is not None and nothing_opens(part.source.v_max.number, part.fault.number):
        return not_yet("power.fuse-nuisance", at, "a fault that something sold can open")
    pinned = [release(f"{part.pointer}/{name}") for name in ("family", "rating_a") if getattr(node, name) is not None]

    def sized_again(amps: float) -> tuple[Remedy, ...]:
        """The fuse sized anew, with what is pinned behind it and would not carry so many A."""
        renew = [*pinned, *unpin_segment(part.key, power, amps)]
        return (Remedy("Let the fuse be sized, with what it guards", renew),) if renew else ()

    hot = part.extra["hot"]
    worked = at_least(
        "power.fuse-nuisance",
        at,
        hot,
        least,
        lambda: mend(
            f"{node.name} of {{I_fuse}}, good for {{I_hot}} in the air inside, is to carry {{I}}; that asks for {{I_least}}.",
            "A fuse worked above 80 % of its rating ages and opens on a warm day.",
            {"I_fuse": rating, "I_hot": hot, "I": part.design, "I_least": least},
            sized_again(least.number),
        ),
    )
    if worked.finding is not None:
        return worked
    for amps, length_s in part.flow.surges:
        melting = fastest_melting(family, amps / rating.number)
        if length_s >= melting:
            fault = mend(
                f"{node.name}: a start of {{I_surge}} lasts {{t_surge}}, and {{I_fuse}} may open after {{t_melt}}.",
                "The fuse opens when the motor starts, some day when it matters.",
                {
                    "I_surge": Figure.of("I_surge", amps, "A", "current while it starts", inputs={"I": part.current}),
                    "t_surge": Figure.of("t", length_s, "s", "length of the start"),
                    "I_fuse": rating,
                    "t_melt": family.figure("t_melt", melting, "s", f"fastest opening of a {family.label}"),
                },
                sized_again(max(amps, least.number)),
            )
            return failed("power.fuse-nuisance", at, fault)
    return worked


def rechoose(part: PartSizing) -> list[dict[str, Any]]:
    """The operations that let family and rating of a fuse be chosen."""
    return [release(f"{part.pointer}/family"), release(f"{part.pointer}/rating_a")]


@judges("power.fuse-voltage", "voltage rating of the fuse", STOP)
def fuse_voltage(part: PartSizing, node: Protection) -> Check:
    """A fuse is rated for the greatest voltage of its source.

    Source: makers' data sheets (ISO 8820, IEC 60269; protections table).
    """
    family, at = family_of(part), f"{part.pointer}/family"
    if family.v_dc <= 0:  # an AC breaker is refused as such: power.breaker-dc
        return not_yet("power.fuse-voltage", at, "a fuse or breaker for DC")
    return at_least(
        "power.fuse-voltage",
        at,
        part.extra["voltage"],
        part.source.v_max,
        lambda: stop(
            f"{node.name}: a {family.label} is rated for {{V_dc}}; the pack reaches {{V_max}}.",
            "Above its voltage a fuse does not put out the arc.",
            {"V_dc": part.extra["voltage"], "V_max": part.source.v_max},
            (Remedy("Let family and rating be chosen", rechoose(part)),) if node.family or node.rating_a else (),
        ),
        slack=0.0,
    )


@judges("power.fuse-interrupt", "interrupt rating", STOP)
def fuse_interrupt(part: PartSizing, node: Protection, pack: PackSizing, power: PowerSizing) -> Check:
    """A fuse opens the fault that can stand before it, at the voltage of its source.

    Source: interrupt rating by voltage (makers' data sheets; ISO 8820, IEC 60269; protections table).
    """
    family, at, fault = family_of(part), f"{part.pointer}/family", part.fault
    assert fault is not None
    if family.v_dc <= 0:
        return not_yet("power.fuse-interrupt", at, "a fuse or breaker for DC")
    if family.v_dc < part.source.v_max.number:
        return not_yet("power.fuse-interrupt", at, "a family for this voltage")
    if nothing_opens(part.source.v_max.number, fault.number):
        return not_yet("power.fuse-interrupt", at, "a fault that something sold can open")
    again = rechoose(part) if node.family or node.rating_a else []
    return at_least(
        "power.fuse-interrupt",
        at,
        part.extra["interrupts"],
        fault,
        lambda: stop(
            f"{node.name}: a {family.label} interrupts {{I_int}}; the fault here can be {{I_fault}}.",
            "A fuse that cannot interrupt the fault bursts and goes on burning.",
            {"I_int": part.extra["interrupts"], "I_fault": fault},
            (Remedy("Let family and rating be chosen", again),) if again else (),
        ),
        slack=0.0,
    )


def nothing_opens(voltage_v: float, fault_a: float) -> bool:
    """Whether no fuse or breaker sold opens so many A at a DC voltage."""
    return all(interrupt_rating(family, voltage_v) < fault_a for family in families().values())


@judges("power.no-fuse-opens", "a fault that something sold can open", STOP)
def something_opens(part: PartSizing, node: Protection, pack: PackSizing, power: PowerSizing) -> Check:
    """Some fuse or breaker that is sold opens the fault that can stand here.

    Source: greatest interrupt rating sold at this voltage (protections table).
    """
    fault, volts = part.fault, part.source.v_max
    assert fault is not None
    best = max(families().values(), key=lambda f: (interrupt_rating(f, volts.number), f.v_dc))
    most = best.figure(
        "I_most", interrupt_rating(best, volts.number), "A", f"{best.label}: the most that is sold at this voltage"
    )

    def fault_found() -> Fault:
        again = rechoose(part) if node.family or node.rating_a else []
        return stop(
            f"{node.name}: the fault here can be {{I_fault}} at {{V_max}}; nothing that is sold opens more than {{I_most}}, a {best.label}.",
            "A fuse that cannot interrupt the fault bursts and goes on burning, and there is nothing behind it.",
            {"I_fault": fault, "V_max": volts, "I_most": most},
            weaken_fault(most.number / fault.number, pack, power, again) if part.source.key == PACK else (),
        )

    return at_least("power.no-fuse-opens", part.pointer, most, fault, fault_found, slack=0.0)


def weaken_fault(share: float, pack: PackSizing, power: PowerSizing, again: list[dict[str, Any]]) -> tuple[Remedy, ...]:
    """What brings the fault of the pack down to a share of it: the same cells in more groups, fewer cells or strings in parallel,
    a battery whose board limits what it gives into a short.
    """
    higher = [s for s in pack.chemistry.classes.values() if s > pack.series.number]
    out: list[Remedy] = []
    recast = form_of(pack.pack).recast(pack, higher[0]) if higher else []
    if recast and recast[-1]["value"] <= pack.parallel.number * share:
        label = f"The same cells as {higher[0]}S{recast[-1]['value']}P: less fault current"
        out.append(Remedy(label, [*recast, *again]))
    if isinstance(pack.pack, CellPack):
        out += fewer_cells(share, pack, power, again)
        return tuple(out)
    fewer = int(pack.parallel.number * share)
    if (
        isinstance(pack.pack, Bank)
        and fewer >= 1
        and power.available.number * fewer / pack.parallel.number >= power.drawn_away.number
    ):
        patch = [set_value("/pack/parallel", fewer), *again]
        out.append(Remedy(f"{fewer} strings in parallel: less fault current, and still enough energy", patch))
    if pack.chemistry.kind != "lead":
        limited = min(LARGEST, round_down(pack.fault.number * share / pack.parallel.number))
        patch = [set_value("/pack/battery/fault_a", limited), *again]
        out.append(Remedy(f"Batteries whose board limits a short to {limited:g} A each, by their sheet", patch))
    return tuple(out)


def round_down(amps: float) -> float:
    """Down to two digits."""
    step = 10 ** max(0, len(str(int(amps))) - 2)
    return float(int(amps / step) * step)


def fewer_cells(share: float, pack: PackSizing, power: PowerSizing, again: list[dict[str, Any]]) -> tuple[Remedy, ...]:
    """Fewer cells in parallel, which give less into a fault; offered where they still cover the time between charges.

    An inverter too large for what is left is given back to auto, to fit the loads.
    """
    fewer = int(pack.parallel.number * share)
    left = fewer / pack.parallel.number
    if fewer < 1 or power.available.number * left < power.drawn_away.number:
        return ()
    patch = [set_value("/pack/parallel", fewer), *again]
    for key, sizing in power.pack_inverters().items():
        if sizing.rating.choice == "pinned" and sizing.rated_current.number > pack.continuous.number * left:
            patch += [release(f"/power/network/{key}/{name}") for name in INVERTER_FIELDS]
    cells = "cell" if fewer == 1 else "cells"
    return (Remedy(f"{fewer} {cells} in parallel: less fault current, and still enough energy", patch),)
