"""Findings on the power path: protection, cable, devices, negative side, inverter."""

from collections.abc import Iterator
from typing import Any

from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.electrical.conductors import ampacity, gauges
from kegcart.core.electrical.inverter import class_for, pick_rating
from kegcart.core.electrical.protection import fastest_melting, interrupt_rating
from kegcart.core.figure import Figure
from kegcart.core.finding import Finding, Remedy, Severity, release, set_value
from kegcart.core.loads.profile import Day
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.document import BatteryPack, CellPack
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.document import PACK, Busbar, Converter, FuseBlock, Inverter, Outlet, Plug, Protection, Selector, Switch
from kegcart.core.power.edits import put_fuse_before
from kegcart.core.power.parts import InverterSizing, PartSizing, PowerSizing, run_limit_c
from kegcart.core.power.safety_rules import judge_safety
from kegcart.core.power.standby_rules import judge_standby
from kegcart.core.reference import assumption, constant, families

HAIR = 1e-9


def judge_power(power: PowerSizing, loads: LoadsSizing, pack: PackSizing, brief: Brief, site: Site) -> Iterator[Finding]:
    for part in power.parts.values():
        yield from wire_unprotected(part, power, brief, site)
        yield from drop(part)
        if isinstance(part.node, Protection):
            yield from protection(part, power, pack)
        yield from devices(part, power)
        yield from shunt_bypass(part, power)
    yield from shunt_rating(power)
    for sizing in power.inverters.values():
        yield from inverter_ratings(sizing, power)
        yield from inverter_window(sizing, power, pack)
        yield from inverter_oversize(sizing, power, pack, loads.day)
    yield from judge_safety(power, pack, brief)
    yield from judge_standby(power, loads, pack, brief)


def unpin_segment(key: str, power: PowerSizing, rating_a: float) -> list[dict[str, Any]]:
    """Operations that release the pinned parts behind a protection which would not bear `rating_a`."""
    out = []
    for child in power.network.segment(key):
        part = power.parts[child]
        node, at = part.node, part.pointer
        if part.run and node.run.gauge and part.run.ampacity.number < rating_a:
            out.append(release(f"{at}/run/gauge"))
        if isinstance(node, Switch | Selector | FuseBlock) and node.rating_a and node.rating_a < rating_a:
            out.append(release(f"{at}/rating_a"))
        if isinstance(node, Busbar) and node.section and part.rating and part.rating.number < rating_a:
            out.append(release(f"{at}/section"))
        if isinstance(node, Outlet | Plug) and node.connector and part.rating and part.rating.number < rating_a:
            out.append(release(f"{at}/connector"))
    return out


def wire_unprotected(part: PartSizing, power: PowerSizing, brief: Brief, site: Site) -> Iterator[Finding]:
    if part.run is None:
        return
    node, run, at = part.node, part.run, part.pointer
    why = "In a short the cable is the fuse: it glows, and lights what it touches."
    if part.guard is None:
        if isinstance(node, Protection):
            return  # the first run, up to the first fuse, is judged by its length
        yield Finding(
            "power.wire-unprotected",
            "power",
            Severity.STOP,
            f"{at}/run",
            f"Nothing protects the {{gauge}} to {node.name}: the fault there would be {{I_fault}}.",
            why,
            {"gauge": run.gauge, "I_fault": part.fault or run.ampacity},
            (Remedy(f"Set a fuse before {node.name}", put_fuse_before(power.network, part.key)),),
        )
        return
    guard = power.parts[part.guard]
    if guard.rating is None:
        return
    fuse_limit = run.wire.max_fuse_a[brief.wire_school]
    if fuse_limit is not None:
        fuse_limit *= node.run.parallel
    over_school = fuse_limit is not None and guard.rating.number > fuse_limit + HAIR
    if guard.rating.number <= run.ampacity.number + HAIR and not over_school:
        return
    bears = min(run.ampacity.number, fuse_limit or run.ampacity.number)
    thicker = next(
        (
            w
            for w in gauges(run.wire.system)
            if node.run.parallel * ampacity(w, brief.wire_school, site.inside_c.number, run_limit_c(node.run), node.run.bundled)
            >= guard.rating.number
            and node.run.parallel * (w.max_fuse_a[brief.wire_school] or guard.rating.number) >= guard.rating.number
        ),
        None,
    )
    remedies = []
    smaller = fitting_rating(guard, bears)
    advice = []
    if smaller is not None:
        remedies.append(Remedy(f"Fit {smaller:g} A", [set_value(f"{guard.pointer}/rating_a", smaller)]))
        advice.append(f"fit {smaller:g} A")
    if thicker is not None and thicker.key != run.wire.key:
        remedies.append(Remedy(f"Run {thicker.key}", [set_value(f"{at}/run/gauge", thicker.key)]))
        advice.append(f"run {thicker.key}")
    if isinstance(guard.node, Protection) and guard.node.rating_a is not None:
        operations = [release(f"{guard.pointer}/rating_a"), *unpin_segment(guard.key, power, guard.extra["least"].number)]
        remedies.append(Remedy("Let fuse and cable be sized together", operations))
    yield Finding(
        "power.wire-unprotected",
        "power",
        Severity.STOP,
        f"{at}/run",
        f"The {{I_fuse}} {guard.node.name} lets the {{gauge}} ({{I_amp}}) to {node.name} overheat{': ' + ', or '.join(advice) if advice else ''}.",
        why,
        {"I_fuse": guard.rating, "gauge": run.gauge, "I_amp": run.ampacity},
        tuple(remedies),
    )


def fitting_rating(guard: PartSizing, bears_a: float) -> float | None:
    """The largest rating of the guard's family between its least and what the wire bears."""
    if not isinstance(guard.node, Protection) or guard.family is None:
        return None
    family = next(f for f in families().values() if f.label == guard.family.value)
    return max((r for r in family.ratings_a if guard.extra["least"].number - HAIR <= r <= bears_a + HAIR), default=None)


def drop(part: PartSizing) -> Iterator[Finding]:
    run = part.run
    if run is None or run.drop.number <= run.drop_limit.number + HAIR:
        return
    remedies: tuple[Remedy, ...] = ()
    if part.node.run.gauge:
        remedies = (Remedy("Let the gauge be chosen", [release(f"{part.pointer}/run/gauge")]),)
    yield Finding(
        "power.drop",
        "power",
        Severity.MEND,
        f"{part.pointer}/run",
        f"The {{gauge}} to {part.node.name} loses {{d}} of the voltage; {{limit}} is the limit here.",
        "What the cable takes heats the box, and the load sees a pack that seems empty early.",
        {"gauge": run.gauge, "d": run.drop, "limit": run.drop_limit},
        remedies,
    )


def protection(part: PartSizing, power: PowerSizing, pack: PackSizing) -> Iterator[Finding]:
    node, at = part.node, part.pointer
    assert isinstance(node, Protection) and part.rating and part.family and part.fault
    family = next(f for f in families().values() if f.label == part.family.value)
    rating, least = part.rating, part.extra["least"]
    rechoose = [release(f"{at}/family"), release(f"{at}/rating_a")]
    renew = [*rechoose, *unpin_segment(part.key, power, least.number)]
    if rating.number < least.number - HAIR:
        yield Finding(
            "power.fuse-nuisance",
            "power",
            Severity.MEND,
            f"{at}/rating_a",
            f"{node.name}: {{I_fuse}} carries {{I}}; from {{I_least}} it would not open in ordinary use.",
            "A fuse worked above 80 % of its rating ages and opens on a warm day.",
            {"I_fuse": rating, "I": part.design, "I_least": least},
            (Remedy("Let the fuse be sized, with what it guards", renew),) if node.rating_a else (),
        )
    else:
        for amps, length_s in part.flow.surges:
            melting = fastest_melting(family, amps / rating.number)
            if length_s >= melting:
                yield Finding(
                    "power.fuse-nuisance",
                    "power",
                    Severity.MEND,
                    f"{at}/rating_a",
                    f"{node.name}: a start of {{I_surge}} lasts {{t_surge}}, and {{I_fuse}} may open after {{t_melt}}.",
                    "The fuse opens when the motor starts, some day when it matters.",
                    {
                        "I_surge": Figure.of("I_surge", amps, "A", "current while it starts", inputs={"I": part.current}),
                        "t_surge": Figure.of("t", length_s, "s", "length of the start"),
                        "I_fuse": rating,
                        "t_melt": family.figure("t_melt", melting, "s", f"fastest opening of a {family.label}"),
                    },
                    (Remedy("Let the fuse be sized, with what it guards", renew),) if node.rating_a or node.family else (),
                )
                break
    pinned = bool(node.family or node.rating_a)
    if part.extra["voltage"].number < part.source.v_max.number and family.v_dc > 0:
        yield Finding(
            "power.fuse-voltage",
            "power",
            Severity.STOP,
            f"{at}/family",
            f"{node.name}: a {family.label} is rated for {{V_dc}}; the pack reaches {{V_max}}.",
            "Above its voltage a fuse does not put out the arc.",
            {"V_dc": part.extra["voltage"], "V_max": part.source.v_max},
            (Remedy("Let family and rating be chosen", rechoose),) if pinned else (),
        )
    elif family.v_dc > 0 and part.extra["interrupts"].number < part.fault.number:
        yield Finding(
            "power.fuse-interrupt",
            "power",
            Severity.STOP,
            f"{at}/family",
            f"{node.name}: a {family.label} interrupts {{I_int}}; the fault here can be {{I_fault}}.",
            "A fuse that cannot interrupt the fault bursts and goes on burning.",
            {"I_int": part.extra["interrupts"], "I_fault": part.fault},
            weaken_fault(part.fault.number, pack, power, rechoose if pinned else []),
        )


def weaken_fault(fault_a: float, pack: PackSizing, power: PowerSizing, rechoose: list[dict[str, Any]]) -> tuple[Remedy, ...]:
    """A family that interrupts the fault; where none is sold, the next voltage class, in which the same cells give less."""
    most_a = max(interrupt_rating(family, pack.v_max.number) for family in families().values())
    able = most_a >= fault_a
    higher = [s for s in pack.chemistry.classes.values() if s > pack.series.number]
    if not able and not higher and isinstance(pack.pack, CellPack):
        return fewer_cells(most_a / fault_a, pack, power, rechoose)
    if able or pack.pack.form != "cells" or not higher:
        return (Remedy("Let family and rating be chosen", rechoose),) if rechoose else ()
    fewer = max(1, round(pack.parallel.number * pack.series.number / higher[0]))
    patch = [set_value("/pack/series", higher[0]), set_value("/pack/parallel", fewer), *rechoose]
    return (Remedy(f"The same cells as {higher[0]}S{fewer}P: less fault current", patch),)


def fewer_cells(share: float, pack: PackSizing, power: PowerSizing, rechoose: list[dict[str, Any]]) -> tuple[Remedy, ...]:
    """Fewer cells in parallel, which give less into a fault; offered where they still cover the time between charges.

    An inverter too large for what is left is given back to auto, to fit the loads.
    """
    fewer = int(pack.parallel.number * share)
    left = fewer / pack.parallel.number
    if fewer < 1 or power.available.number * left < power.drawn_away.number:
        return ()
    patch = [set_value("/pack/parallel", fewer), *rechoose]
    for key, sizing in power.pack_inverters().items():
        if sizing.rating.choice == "pinned" and sizing.rated_current.number > pack.continuous.number * left:
            patch += [release(f"/power/network/{key}/{name}") for name in ("rating_w", "surge_w", "idle_w")]
    return (Remedy(f"{fewer} cells in parallel: less fault current, and still enough energy", patch),)


def devices(part: PartSizing, power: PowerSizing) -> Iterator[Finding]:
    node, at = part.node, part.pointer
    guard = power.parts[part.guard] if part.guard else None
    fuse = guard.rating if guard else None
    if part.rating is None:
        return
    if (
        isinstance(node, Outlet)
        and fuse is not None
        and power.network.supply(part.key) != "ac"
        and fuse.number > part.rating.number + HAIR
    ):
        remedies = []
        if node.connector:
            remedies.append(Remedy("Let the connector be chosen", [release(f"{at}/connector")]))
        smaller = fitting_rating(guard, part.rating.number) if guard else None
        if guard and smaller is not None:
            remedies.append(Remedy(f"Fit {smaller:g} A", [set_value(f"{guard.pointer}/rating_a", smaller)]))
        elif guard and isinstance(guard.node, Protection) and guard.node.rating_a:
            remedies.append(Remedy("Let the fuse be sized", [release(f"{guard.pointer}/rating_a")]))
        yield Finding(
            "power.connector",
            "power",
            Severity.STOP,
            f"{at}/connector",
            f"{node.name}: the fuse before it is {{I_fuse}}; {part.choice.value if part.choice else 'its connector'} bears {{I_con}}.",
            "The fuse would let the connector melt before it opens.",
            {"I_fuse": fuse, "I_con": part.rating},
            tuple(remedies),
        )
    if isinstance(node, Busbar | FuseBlock):
        asked = fuse if fuse is not None and fuse.number > part.design.number else part.design
        if asked.number > part.rating.number + HAIR:
            field = "section" if isinstance(node, Busbar) else "rating_a"
            pinned = node.section if isinstance(node, Busbar) else node.rating_a
            yield Finding(
                "power.busbar",
                "power",
                Severity.STOP,
                f"{at}/{field}",
                f"{node.name} bears {{I_bar}}; {{I}} {'may flow through its fuse' if asked is fuse else 'runs through it'}.",
                "A bar or block above its rating heats its own joints loose.",
                {"I_bar": part.rating, "I": asked},
                (Remedy("Let its size be chosen", [release(f"{at}/{field}")]),) if pinned else (),
            )
    if isinstance(node, Switch | Selector) and part.design.number > part.rating.number + HAIR:
        yield Finding(
            "power.switch-rating",
            "power",
            Severity.STOP,
            f"{at}/rating_a",
            f"{node.name} is rated {{I_rated}}; {{I}} runs through it.",
            "A switch above its rating welds shut: it no longer switches off.",
            {"I_rated": part.rating, "I": part.design},
            (Remedy("Let the switch be sized", [release(f"{at}/rating_a")]),) if node.rating_a else (),
        )
    if isinstance(node, Switch) and not node.dc_rated:
        yield Finding(
            "power.switch-rating",
            "power",
            Severity.STOP,
            f"{at}/dc_rated",
            f"{node.name} is not rated for DC; {{I}} at up to {{V_max}} runs through it.",
            "An AC switch opened under DC draws an arc that does not go out.",
            {"I": part.design, "V_max": part.source.v_max},
            (Remedy("A DC-rated switch", [set_value(f"{at}/dc_rated", True)]),),
        )
    if isinstance(node, Converter) and part.rating.number < part.extra["output"].number - HAIR:
        yield Finding(
            "power.converter",
            "power",
            Severity.STOP,
            f"{at}/rating_a",
            f"{node.name} gives {{I_rated}}; {{I_out}} is asked of it.",
            "A converter above its rating drops its voltage or shuts down.",
            {"I_rated": part.rating, "I_out": part.extra["output"]},
            (Remedy("Let the converter be sized", [release(f"{at}/rating_a")]),) if node.rating_a else (),
        )


def shunt_bypass(part: PartSizing, power: PowerSizing) -> Iterator[Finding]:
    node = part.node
    if power.shunt is None or not isinstance(node, Inverter | FuseBlock | Converter | Outlet) or node.negative != "post":
        return
    yield Finding(
        "power.shunt-bypass",
        "power",
        Severity.MEND,
        f"{part.pointer}/negative",
        f"The negative of {node.name} goes round the shunt: the meter misses up to {{I}}.",
        "Every negative but the pack's own belongs behind the shunt, or the count of charge drifts and the pack is empty while the meter says half.",
        {"I": part.current},
        (Remedy("Take its negative to the busbar", [set_value(f"{part.pointer}/negative", "busbar")]),),
    )


def shunt_rating(power: PowerSizing) -> Iterator[Finding]:
    if power.shunt is not None and power.shunt.number < power.current.number - HAIR:
        yield Finding(
            "power.shunt-rating",
            "power",
            Severity.STOP,
            "/power/shunt/rating_a",
            "The shunt is rated {I_s}; {I} runs through it.",
            "A shunt above its rating overheats and reads wrong.",
            {"I_s": power.shunt, "I": power.current},
            (Remedy("Let the shunt be sized", [release("/power/shunt/rating_a")]),) if power.shunt.choice == "pinned" else (),
        )


def inverter_ratings(sizing: InverterSizing, power: PowerSizing) -> Iterator[Finding]:
    at, name = f"/power/network/{sizing.key}", power.parts[sizing.key].node.name
    node = power.parts[sizing.key].node
    assert isinstance(node, Inverter)
    rechoose: tuple[Remedy, ...] = ()
    if node.rating_w or node.surge_w:
        rechoose = (
            Remedy(
                "Let the inverter fit the loads", [release(f"{at}/rating_w"), release(f"{at}/surge_w"), release(f"{at}/idle_w")]
            ),
        )
    if sizing.peak.running.number > sizing.continuous.number + HAIR:
        yield Finding(
            "power.inverter-continuous",
            "power",
            Severity.STOP,
            f"{at}/rating_w",
            f"{name}: {{P_peak}} runs at once; it gives {{P_cont}} at the hottest.",
            "An overloaded inverter shuts down with everything on it.",
            {"P_peak": sizing.peak.running, "P_cont": sizing.continuous},
            rechoose,
        )
    time_limit = assumption("inverter_surge_time")
    start = sizing.ac.worst_start
    too_long = start is not None and start.length_s > time_limit.number and sizing.ac.worst(start) > sizing.continuous.number
    if sizing.peak.surge.number > sizing.surge.number + HAIR or too_long:
        yield Finding(
            "power.inverter-surge",
            "power",
            Severity.STOP,
            f"{at}/rating_w",
            f"{name}: the worst start asks for {{P_surge}}; its surge rating is {{P_s}} for {{t_s}}.",
            "The motor does not start, and the inverter trips.",
            {"P_surge": sizing.peak.surge, "P_s": sizing.surge, "t_s": time_limit},
            rechoose,
        )


def inverter_window(sizing: InverterSizing, power: PowerSizing, pack: PackSizing) -> Iterator[Finding]:
    source = power.parts[sizing.key].source
    low, high = sizing.window_min, sizing.window_max
    if source.v_max.number <= high.number + HAIR and source.empty.number >= low.number - HAIR:
        return
    yield Finding(
        "power.inverter-window",
        "power",
        Severity.STOP,
        f"/power/network/{sizing.key}",
        f"{power.parts[sizing.key].node.name}: {source.name} goes from {{V_empty}} to {{V_max}}; the inverter takes {{low}} to {{high}}.",
        "Above its window an inverter is destroyed; below it does not run.",
        {"V_empty": source.empty, "V_max": source.v_max, "low": low, "high": high},
        into_window(pack) if source.key == PACK else (),
    )


def into_window(pack: PackSizing) -> tuple[Remedy, ...]:
    """The pack brought to the nearest count of cells in series for which inverters are sold."""
    build = pack.pack
    nearest = min(pack.chemistry.classes.values(), key=lambda s: abs(s - pack.series.number))
    if nearest == pack.series.number:
        return ()
    if isinstance(build, CellPack):
        return (Remedy(f"{nearest} cells in series", [set_value("/pack/series", nearest)]),)
    if isinstance(build, BatteryPack):
        return (Remedy(f"A battery of {nearest} cells in series", [set_value("/pack/battery/series", nearest)]),)
    whole, rest = divmod(nearest, build.battery.series)
    return (Remedy(f"{whole} in series", [set_value("/pack/in_series", whole)]),) if whole and not rest else ()


def inverter_oversize(sizing: InverterSizing, power: PowerSizing, pack: PackSizing, day: Day) -> Iterator[Finding]:
    node = power.parts[sizing.key].node
    assert isinstance(node, Inverter)
    at = f"/power/network/{sizing.key}"
    on_h = 24.0 if node.left_on else sum(h for h, w in zip(day.hours, sizing.ac.running, strict=True) if w > 0) / day.days
    idle = Figure.by(
        "E_idle",
        "P0 · t",
        "Wh",
        "idle draw a day",
        P0=sizing.idle,
        t=Figure.of("t", on_h, "h", "hours switched on a day", how="around the clock, or while AC loads are scheduled"),
    )
    source = power.parts[sizing.key].source
    there = power.available if source.key == PACK else power.banks[source.key].usable
    if idle.number <= constant("inverter_idle_share") * there.number + HAIR:
        return
    remedies = []
    if node.left_on:
        remedies.append(Remedy("Switch it off outside the hours of its loads", [set_value(f"{at}/left_on", False)]))
    figures = {"E_idle": idle, "E_avail": there, "P_rated": sizing.rating}
    compare = ""
    if node.rating_w:
        smaller = pick_rating(class_for(source.v_nom.number).ratings_w, sizing.needed.number)
        if smaller < sizing.rating.number:
            remedies.append(
                Remedy(
                    "Let the inverter fit the loads",
                    [release(f"{at}/rating_w"), release(f"{at}/surge_w"), release(f"{at}/idle_w")],
                )
            )
            figures["P_small"] = Figure.of("P_small", smaller, "W", "rating that serves", inputs={"P_need": sizing.needed})
            figures["E_small"] = Figure.by(
                "E_small",
                "k_0 · P_small · t",
                "Wh",
                "idle draw of the smaller one",
                k_0=assumption("inverter_idle"),
                P_small=figures["P_small"],
                t=(idle.inputs or {})["t"],
            )
            compare = " {P_small} would serve and take {E_small}."
    yield Finding(
        "power.inverter-oversize",
        "power",
        Severity.NOTE,
        at,
        f"{node.name}, {{P_rated}}, idles away {{E_idle}} a day of {{E_avail}} usable.{compare}",
        "An inverter eats while it waits: one that fits, or a switch, is a larger battery for nothing.",
        figures,
        tuple(remedies),
    )
