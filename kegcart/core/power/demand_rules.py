"""Findings on loads and pack that can be judged once it is known what flows through the power path."""

import math
from collections.abc import Iterator

from kegcart.core.brief.sizing import Site
from kegcart.core.electrical.source import loaded_voltage
from kegcart.core.figure import Figure
from kegcart.core.finding import Finding, Remedy, Severity, release, set_value
from kegcart.core.loads.sizing import SUPPLIES, LoadsSizing
from kegcart.core.pack.sizing import CLASS_SERIES, MOST_PARALLEL, PackSizing, resistance_at
from kegcart.core.power.document import Outlet
from kegcart.core.power.edits import add_outlets
from kegcart.core.power.sizing import InverterSizing, PowerSizing
from kegcart.core.reference import assumption, constant, sizes


def judge_demand(power: PowerSizing, loads: LoadsSizing, pack: PackSizing, site: Site) -> Iterator[Finding]:
    yield from energy(power, pack, site)
    yield from homeless(power)
    yield from socket_rating(power)
    yield from current(power, pack)
    for inverter in power.inverters.values():
        yield from high_current_small(inverter, power, pack)
        yield from sag(inverter, power, pack, site)
    yield from c_rate(power, pack)
    yield from voltage_class(power, pack)


def grow_pack(pack: PackSizing, factor: float) -> tuple[Remedy, ...]:
    """The pack made larger by at least a factor: more in parallel, or a larger battery."""
    build = pack.pack
    if build.form == "cells":
        wanted = math.ceil(pack.parallel.number * factor - 1e-9)
        if wanted > MOST_PARALLEL:
            return ()
        return (
            Remedy(f"{wanted} cells in parallel, {wanted * build.cell.capacity_ah:g} Ah", [set_value("/pack/parallel", wanted)]),
        )
    wanted_ah = math.ceil(build.capacity_ah * factor / 10) * 10
    return (Remedy(f"A battery of {wanted_ah} Ah", [set_value("/pack/capacity_ah", wanted_ah)]),) if wanted_ah <= 5000 else ()


def strengthen_pack(pack: PackSizing, needed_a: float, burst_a: float = 0.0) -> tuple[Remedy, ...]:
    """The pack made to give `needed_a` continuously and `burst_a` in a surge: board and cells, or a battery with those limits."""
    build = pack.pack
    if build.form == "battery":
        wanted = math.ceil(max(needed_a, burst_a / constant("board_burst")) / 10) * 10
        patch = [set_value("/pack/continuous_a", wanted)]
        if build.burst_a is not None and build.burst_a < burst_a:
            patch.append(release("/pack/burst_a"))
        return (Remedy(f"A battery that gives {wanted} A", patch),) if wanted <= 5000 else ()
    needed_a = max(needed_a, burst_a / constant("board_burst"))
    patch, parts = [], []
    boards = sizes("board")
    if pack.board and pack.board.number < needed_a:
        if boards.sizes[-1] < needed_a:
            return ()
        patch.append(set_value("/pack/board_a", boards.pick(needed_a)))
        parts.append(f"a board of {boards.pick(needed_a):g} A")
    one_a = (pack.continuous.inputs or {})["cells"].number / pack.parallel.number
    wanted_p = math.ceil(needed_a / one_a - 1e-9)
    if wanted_p > MOST_PARALLEL:
        return ()
    if wanted_p > pack.parallel.number:
        patch.append(set_value("/pack/parallel", wanted_p))
        parts.append(f"{wanted_p} cells in parallel")
    label = " and ".join(parts)
    return (Remedy(label[:1].upper() + label[1:], patch),) if patch else ()


def energy(power: PowerSizing, pack: PackSizing, site: Site) -> Iterator[Finding]:
    asked, there = power.drawn_away.number, power.available.number
    figures = {"E_away": power.drawn_away, "E_avail": power.available, "t_away": site.hours_away}
    factor = asked / (there * (1 - site.reserve.number)) if there > 0 else 2.0
    if asked > there:
        yield Finding(
            "loads.energy-short",
            "loads",
            Severity.STOP,
            "/loads",
            "{t_away} between charges ask for {E_away}; the pack gives {E_avail} down to its first cut-off.",
            "The station goes dark before it is charged again.",
            figures,
            grow_pack(pack, factor),
        )
    elif asked > there * (1 - site.reserve.number):
        yield Finding(
            "loads.reserve-thin",
            "loads",
            Severity.MEND,
            "/loads",
            "{t_away} between charges take {E_away} of {E_avail}: less than the {r} reserve is left.",
            "A cold night, a late van or an aged cell takes the rest.",
            {**figures, "r": site.reserve},
            grow_pack(pack, factor),
        )


def homeless(power: PowerSizing) -> Iterator[Finding]:
    for demand in power.homeless:
        place, supply = f"/loads/items/{demand.key}", demand.load.supply
        if demand.load.outlet is not None:
            there = any(power.network.supply(key) == supply for key in power.network.outlets())
            more = [] if there else add_outlets(power.network, [supply])
            label = "Let it find an outlet of its supply" if there else "Give it an outlet of its supply"
            remedies = (Remedy(label, [release(f"{place}/outlet"), *more]),)
            sentence = f"{demand.load.name} wants {SUPPLIES[supply]}; the outlet it is plugged into gives another supply."
        else:
            wanted = sorted({d.load.supply for d in power.homeless if d.load.outlet is None})
            label = "Add the outlet it needs" if len(wanted) == 1 else "Add the outlets that all loads need"
            remedies = (Remedy(label, add_outlets(power.network, list(wanted))),)
            sentence = f"{demand.load.name} wants {SUPPLIES[supply]}, and the power path has no such outlet."
        yield Finding(
            "loads.no-outlet",
            "loads",
            Severity.STOP,
            place,
            sentence,
            "A load without an outlet is not fed, and not counted.",
            {"P": demand.running},
            remedies,
        )


def socket_rating(power: PowerSizing) -> Iterator[Finding]:
    for key in power.network.outlets():
        part = power.parts[key]
        asked, limit = part.extra["asked"], part.extra["limit"]
        if asked.number <= limit.number + 1e-9:
            continue
        node, place = part.node, part.pointer
        assert isinstance(node, Outlet)
        remedies = []
        if node.connector:
            remedies.append(Remedy("Let a larger connector be chosen", [release(f"{place}/connector")]))
        biggest = max(d.load.watts for d in power.plugged[key])
        total = max(sum(d.running.number for d in power.plugged[key]), 1e-9)
        ways = math.ceil(node.ways * asked.number / limit.number)
        if (
            ways <= 12
            and biggest * limit.number / asked.number <= total / node.ways
            and asked.number * node.ways / ways <= limit.number + 1e-9
        ):
            remedies.append(Remedy(f"{ways} sockets side by side", [set_value(f"{place}/ways", ways)]))
        yield Finding(
            "loads.socket-rating",
            "loads",
            Severity.STOP,
            place,
            f"{node.name}: {{asked}} is asked of one {part.choice.value if part.choice else 'socket'}, which bears {{limit}}.",
            "A socket above its continuous rating softens, arcs and burns.",
            {"asked": asked, "limit": limit},
            tuple(remedies),
        )


def current(power: PowerSizing, pack: PackSizing) -> Iterator[Finding]:
    pairs = (("continuously", power.current, pack.continuous), ("in the worst surge", power.surge, pack.burst))
    for when, asked, limit in pairs:
        if asked.number <= limit.number + 1e-9:
            continue
        needed = (
            asked.number * constant("fuse_margin") / (1 if limit is pack.continuous else limit.number / pack.continuous.number)
        )
        yield Finding(
            "pack.current",
            "pack",
            Severity.STOP,
            "/pack",
            f"{{I}} is asked {when}; the pack gives {{I_limit}} ({limit.label}).",
            "The protection board opens in the middle of the work, or the cells overheat.",
            {"I": asked, "I_limit": limit},
            strengthen_pack(pack, needed, power.surge.number),
        )
        return


def high_current_small(inverter: InverterSizing, power: PowerSizing, pack: PackSizing) -> Iterator[Finding]:
    if inverter.rated_current.number <= pack.continuous.number + 1e-9:
        return
    node = power.parts[inverter.key].node
    pinned = inverter.rating.choice == "pinned"
    remedies = strengthen_pack(pack, inverter.rated_current.number * 1.001)
    if pinned and inverter.needed.number < inverter.rating.number:
        at = f"/power/network/{inverter.key}"
        remedies = (
            Remedy(
                "Let the inverter fit the loads", [release(f"{at}/rating_w"), release(f"{at}/surge_w"), release(f"{at}/idle_w")]
            ),
            *remedies,
        )
    yield Finding(
        "pack.high-current-small",
        "pack",
        Severity.STOP,
        f"/power/network/{inverter.key}",
        f"{node.name}: at its rated {{P_rated}} it draws {{I_rated}}; the pack gives {{I_cont}}.",
        "A large inverter on a small pack trips the board, or cooks the cells, as soon as someone plugs in what the inverter promises.",
        {"P_rated": inverter.rating, "I_rated": inverter.rated_current, "I_cont": pack.continuous},
        remedies,
    )


def sag(inverter: InverterSizing, power: PowerSizing, pack: PackSizing, site: Site) -> Iterator[Finding]:
    """Loaded voltage in the worst surge at the bottom of the daily window, in the cold, against the inverter's cut-off."""
    floor = max(pack.chemistry.window_high - pack.depth.number, 0.0)
    emf = pack.open_circuit(floor)
    ohm = resistance_at(pack, site.cold_c.number) + power.main_ohm.number
    watts = power.surge.number * pack.v_low.number
    volts = loaded_voltage(emf, ohm, watts)
    if volts is not None and volts >= inverter.cutoff.number:
        return
    at = f"/power/network/{inverter.key}/cutoff_v"
    inputs = {
        "E": pack.chemistry.figure("E", emf, "V", f"rested pack at {floor * 100:.0f} % charge"),
        "R": Figure.of(
            "R",
            ohm,
            "Ω",
            "pack in the cold, and main path",
            how="resistance of the pack at the coldest, with the main path",
            inputs={"R": pack.resistance, "R_main": power.main_ohm, "T_min": site.cold_c},
        ),
        "P": Figure.of(
            "P", watts, "W", "worst surge", formula="I_surge · V_low", inputs={"I_surge": power.surge, "V_low": pack.v_low}
        ),
    }
    loaded = Figure.of(
        "V",
        volts or emf / 2,
        "V",
        "loaded voltage, nearly empty",
        formula="(E + √(E^2 − 4 · R · P)) / 2" if volts else "",
        how="" if volts else "the pack cannot give this power at all",
        inputs=inputs,
    )
    # Resistance falls as the pack grows; take the least growth that holds the voltage.
    factor = next((f for f in (1.5, 2, 3, 4, 6, 8) if (loaded_voltage(emf, ohm / f, watts) or 0) >= inverter.cutoff.number), 10)
    remedies = grow_pack(pack, factor)
    if inverter.cutoff.choice == "pinned":
        remedies = (Remedy("Let the cut-off be chosen", [release(at)]), *remedies)
    yield Finding(
        "pack.sag",
        "pack",
        Severity.MEND,
        "/pack",
        "Nearly empty and cold, the worst surge pulls the pack to {V}, below the inverter's cut-off at {V_cut}."
        if volts
        else "Nearly empty and cold, the pack cannot give the worst surge at all, let alone hold the inverter's cut-off at {V_cut}.",
        "The inverter drops out before the pack is empty.",
        {"V": loaded, "V_cut": inverter.cutoff} if volts else {"V_cut": inverter.cutoff, "P": inputs["P"]},
        remedies,
    )


def c_rate(power: PowerSizing, pack: PackSizing) -> Iterator[Finding]:
    limit = pack.recommended
    if power.current.number > limit.number + 1e-9 and power.current.number <= pack.continuous.number:
        rate = Figure.of(
            "c",
            power.current.number / pack.capacity.number,
            "×",
            "C-rate",
            formula="I / C",
            inputs={"I": power.current, "C": pack.capacity},
        )
        yield Finding(
            "pack.c-rate",
            "pack",
            Severity.MEND,
            "/pack",
            f"The running peak of {{I}} is {{c}} the capacity; {pack.chemistry.label} cells of this form are recommended to {{I_rec}}.",
            "Cells worked above their recommended rate run hot and wear out early.",
            {"I": power.current, "c": rate, "I_rec": limit},
            grow_pack(pack, power.current.number / limit.number),
        )


def voltage_class(power: PowerSizing, pack: PackSizing) -> Iterator[Finding]:
    limit = assumption("high_current")
    build = pack.pack
    if power.current.number <= limit.number or build.form != "cells":
        return
    higher = [s for s in CLASS_SERIES[pack.chemistry.key].values() if s > pack.series.number]
    if not higher:
        return
    fewer = math.ceil(pack.parallel.number * pack.series.number / higher[0])
    halved = Figure.of(
        "I'",
        power.current.number * pack.series.number / higher[0],
        "A",
        "current in the next class",
        formula="I · S / S'",
        inputs={"I": power.current, "S": pack.series, "S'": Figure.of("S'", higher[0], "", "cells in series of the next class")},
    )
    patch = [set_value("/pack/series", higher[0])]
    if build.parallel is not None:
        patch.append(set_value("/pack/parallel", fewer))
    for key, inverter in power.inverters.items():
        if inverter.cutoff.choice == "pinned":
            patch.append(release(f"/power/network/{key}/cutoff_v"))
    yield Finding(
        "pack.voltage-class",
        "pack",
        Severity.MEND,
        "/pack/series",
        f"The pack gives {{I}} continuously; with {higher[0]} cells in series it would be {{I_next}}.",
        "Above 100 A cable, joints and switches grow costly, and every loose lug becomes a heater.",
        {"I": power.current, "I_next": halved},
        (Remedy(f"{higher[0]} cells in series", patch),),
    )
