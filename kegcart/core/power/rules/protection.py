"""Fuses, breakers, and the cables they protect."""

from collections.abc import Iterator
from typing import Any

from kegcart.core.catalogue import MEND, STOP, judges
from kegcart.core.check import HAIR, Check, Fault, at_least, at_most, failed, mend, not_yet, stop
from kegcart.core.electrical.conductors import gauges
from kegcart.core.electrical.protection import fastest_melting, interrupt_rating
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.pack.document import CellPack
from kegcart.core.pack.forms import form_of
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.kinds import Protection, kind_of
from kegcart.core.power.kinds.protection import family_of
from kegcart.core.power.path.edits import put_fuse_before
from kegcart.core.power.path.parts import PartSizing, PowerSizing, RunSizing
from kegcart.core.power.rules.inverters import INVERTER_FIELDS
from kegcart.core.reference import families

IN_A_SHORT = "In a short the cable is the fuse: it glows, and lights what it touches."


def judge_protection(part: PartSizing, power: PowerSizing, pack: PackSizing) -> Iterator[Check]:
    """The cable to a part, and the part itself where it is a fuse or breaker."""
    if part.run is not None:
        yield from wire_unprotected(part, part.run, power)
        yield drop(part, part.run)
    if isinstance(part.node, Protection):
        yield nuisance(part, part.node, power)
        yield from opens(part, part.node, power, pack)


def unpin_segment(key: str, power: PowerSizing, rating_a: float) -> list[dict[str, Any]]:
    """Operations that release the pinned parts behind a protection which would not carry `rating_a`."""
    out = []
    for child in power.network.segment(key):
        part = power.parts[child]
        if part.run and part.node.run.gauge and part.run.ampacity.number < rating_a:
            out.append(release(f"{part.pointer}/run/gauge"))
        out += [release(f"{part.pointer}/{name}") for name in kind_of(part.node).released(part.node, part, rating_a)]
    return out


@judges("power.wire-unprotected", "cable and the fuse before it", STOP)
def wire_unprotected(part: PartSizing, run: RunSizing, power: PowerSizing) -> Iterator[Check]:
    """The fuse before a cable is no larger than what the cable carries; and there is one.

    Source: overcurrent protection at the source of every conductor (IEC 60364-4-43; ISO 10133 on small craft).
    """
    at = f"{part.pointer}/run"
    if part.guard is None:
        if isinstance(part.node, Protection):
            return  # the first run, up to the first fuse, is judged by its length
        fault = stop(
            f"Nothing protects the {{gauge}} to {part.node.name}: the fault there would be {{I_fault}}.",
            IN_A_SHORT,
            {"gauge": run.gauge, "I_fault": part.fault or run.ampacity},
            (Remedy(f"Set a fuse before {part.node.name}", put_fuse_before(power.network, part.key)),),
        )
        yield failed("power.wire-unprotected", at, fault)
        return
    guard = power.parts[part.guard]
    if guard.rating is None:
        return
    limit, school_a = run.ampacity, power.ctx.school_fuse(run.wire, part.node.run)
    if school_a is not None and school_a < run.ampacity.number:
        limit = run.wire.figure("I_most", school_a, "A", f"largest fuse allowed before {run.wire.key}")
    rating = guard.rating
    yield at_most("power.wire-unprotected", at, rating, limit, lambda: overheats(part, run, guard, rating, limit.number, power))


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
    advised = ": " + ", or ".join(advice) if advice else ""
    return stop(
        f"The {{I_fuse}} {guard.node.name} lets the {{gauge}} ({{I_amp}}) to {part.node.name} overheat{advised}.",
        IN_A_SHORT,
        {"I_fuse": rating, "gauge": run.gauge, "I_amp": run.ampacity},
        tuple(remedies),
    )


def thicker_gauge(part: PartSizing, run: RunSizing, rating_a: float, power: PowerSizing) -> str | None:
    """The thinnest gauge sold that a fuse of this rating may stand before; None where there is none."""
    own, ctx = part.node.run, power.ctx
    for wire in gauges(run.wire.system):
        if ctx.ampacity(wire, own) >= rating_a and (ctx.school_fuse(wire, own) or rating_a) >= rating_a:
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
    at = f"{part.pointer}/run"
    remedies = (Remedy("Let the gauge be chosen", [release(f"{at}/gauge")]),) if part.node.run.gauge else ()
    return at_most(
        "power.drop",
        at,
        run.drop,
        run.drop_limit,
        lambda: mend(
            f"The {{gauge}} to {part.node.name} loses {{d}} of the voltage; {{limit}} is the limit here.",
            "What the cable takes heats the box, and the load sees a pack that seems empty early.",
            {"gauge": run.gauge, "d": run.drop, "limit": run.drop_limit},
            remedies,
        ),
    )


@judges("power.fuse-nuisance", "fuse in ordinary use", MEND)
def nuisance(part: PartSizing, node: Protection, power: PowerSizing) -> Check:
    """A fuse does not open in ordinary use: it is 1.25 × the design current, and rides through every start.

    Source: a fuse carries 80 % of its rating for long, and rides through a start by its melting curve (melting table, ISO 8820-3).
    """
    assert part.rating is not None
    at, rating, least, family = f"{part.pointer}/rating_a", part.rating, part.extra["least"], family_of(part)
    renew = [*rechoose(part), *unpin_segment(part.key, power, least.number)]
    remedy = (Remedy("Let the fuse be sized, with what it guards", renew),)
    worked = at_least(
        "power.fuse-nuisance",
        at,
        rating,
        least,
        lambda: mend(
            f"{node.name}: {{I_fuse}} carries {{I}}; from {{I_least}} it would not open in ordinary use.",
            "A fuse worked above 80 % of its rating ages and opens on a warm day.",
            {"I_fuse": rating, "I": part.design, "I_least": least},
            remedy if node.rating_a else (),
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
                remedy if node.rating_a or node.family else (),
            )
            return failed("power.fuse-nuisance", at, fault)
    return worked


def rechoose(part: PartSizing) -> list[dict[str, Any]]:
    """The operations that let family and rating of a fuse be chosen."""
    return [release(f"{part.pointer}/family"), release(f"{part.pointer}/rating_a")]


@judges("power.fuse-voltage", "voltage rating of the fuse", STOP)
@judges("power.fuse-interrupt", "interrupt rating", STOP)
def opens(part: PartSizing, node: Protection, power: PowerSizing, pack: PackSizing) -> Iterator[Check]:
    """A fuse opens the fault that can stand before it, at the voltage of its source."""
    family, at = family_of(part), f"{part.pointer}/family"
    voltage, interrupts, fault, v_max = part.extra["voltage"], part.extra["interrupts"], part.fault, part.source.v_max
    assert fault is not None
    if family.v_dc <= 0:  # an AC breaker is refused as such: power.breaker-dc
        yield not_yet("power.fuse-voltage", at, "a fuse or breaker for DC")
        yield not_yet("power.fuse-interrupt", at, "a fuse or breaker for DC")
        return
    pinned = bool(node.family or node.rating_a)
    by_voltage = at_least(
        "power.fuse-voltage",
        at,
        voltage,
        v_max,
        lambda: stop(
            f"{node.name}: a {family.label} is rated for {{V_dc}}; the pack reaches {{V_max}}.",
            "Above its voltage a fuse does not put out the arc.",
            {"V_dc": voltage, "V_max": v_max},
            (Remedy("Let family and rating be chosen", rechoose(part)),) if pinned else (),
        ),
        slack=0.0,
    )
    yield by_voltage
    if by_voltage.finding is not None:
        yield not_yet("power.fuse-interrupt", at, "a family for this voltage")
        return
    yield at_least(
        "power.fuse-interrupt",
        at,
        interrupts,
        fault,
        lambda: stop(
            f"{node.name}: a {family.label} interrupts {{I_int}}; the fault here can be {{I_fault}}.",
            "A fuse that cannot interrupt the fault bursts and goes on burning.",
            {"I_int": interrupts, "I_fault": fault},
            weaken_fault(fault.number, pack, power, rechoose(part) if pinned else []),
        ),
        slack=0.0,
    )


def weaken_fault(fault_a: float, pack: PackSizing, power: PowerSizing, again: list[dict[str, Any]]) -> tuple[Remedy, ...]:
    """A family that interrupts the fault; where none is sold, the next voltage class, in which the same cells give less."""
    most_a = max(interrupt_rating(family, pack.v_max.number) for family in families().values())
    able = most_a >= fault_a
    higher = [s for s in pack.chemistry.classes.values() if s > pack.series.number]
    if not able and not higher and isinstance(pack.pack, CellPack):
        return fewer_cells(most_a / fault_a, pack, power, again)
    recast = [] if able or not higher else form_of(pack.pack).recast(pack, higher[0])
    if not recast:
        return (Remedy("Let family and rating be chosen", again),) if again else ()
    return (Remedy(f"The same cells as {higher[0]}S{recast[-1]['value']}P: less fault current", [*recast, *again]),)


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
    return (Remedy(f"{fewer} cells in parallel: less fault current, and still enough energy", patch),)
