"""Findings on loads and pack that can be judged once it is known what flows through the power path."""

import math
from collections.abc import Iterator

from kegcart.core.brief.sizing import Site
from kegcart.core.choice import assumed
from kegcart.core.electrical.source import loaded_voltage
from kegcart.core.figure import Figure
from kegcart.core.finding import Finding, Remedy, Severity, release, set_value
from kegcart.core.loads.sizing import SUPPLIES, LoadsSizing
from kegcart.core.pack.bank import MOST_STRINGS
from kegcart.core.pack.cells import MOST_PARALLEL
from kegcart.core.pack.document import Bank, BatteryPack, CellPack
from kegcart.core.pack.sizing import PackSizing, resistance_at
from kegcart.core.power.document import PACK, Outlet
from kegcart.core.power.edits import add_outlets, release_cutoffs
from kegcart.core.power.parts import InverterSizing, PowerSizing
from kegcart.core.reference import assumption, constant, sizes

LARGEST_AH = 5000


def judge_demand(power: PowerSizing, loads: LoadsSizing, pack: PackSizing, site: Site) -> Iterator[Finding]:
    yield from energy(power, pack, site)
    yield from homeless(power)
    yield from socket_rating(power)
    yield from current(power, pack)
    for inverter in power.inverters.values():
        yield from high_current_small(inverter, power, pack)
    for inverter in power.pack_inverters().values():
        yield from sag(inverter, power, pack, site)
    yield from board_margin(power, pack)
    yield from links(power, pack)
    yield from c_rate(power, pack)
    yield from voltage_class(power, pack)
    for inverter in power.inverters.values():
        yield from apparent(inverter, power)
    yield from double_conversion(power, pack)
    yield from growth(power, pack, site)


def grow_pack(pack: PackSizing, factor: float) -> tuple[Remedy, ...]:
    """The pack made larger by at least a factor: more in parallel, or a larger battery."""
    build = pack.pack
    if isinstance(build, BatteryPack):
        wanted_ah = math.ceil(build.battery.capacity_ah * factor / 10) * 10
        if wanted_ah > LARGEST_AH:
            return ()
        return (Remedy(f"A battery of {wanted_ah} Ah", [set_value("/pack/battery/capacity_ah", wanted_ah)]),)
    wanted = math.ceil(pack.parallel.number * factor - 1e-9)
    if isinstance(build, CellPack):
        if wanted > MOST_PARALLEL:
            return ()
        label = f"{wanted} cells in parallel, {wanted * build.cell.capacity_ah:g} Ah"
        return (Remedy(label, [set_value("/pack/parallel", wanted), *without_groups(build)]),)
    if wanted > MOST_STRINGS:
        return ()
    label = f"{wanted} strings in parallel, {wanted * build.battery.capacity_ah:g} Ah"
    return (Remedy(label, [set_value("/pack/parallel", wanted)]),)


def without_groups(build: CellPack) -> list[dict[str, object]]:
    """What takes sorted cells out of a pack that is about to have other groups."""
    return [set_value("/pack/groups", {})] if build.groups else []


def strengthen_pack(pack: PackSizing, needed_a: float, burst_a: float = 0.0) -> tuple[Remedy, ...]:
    """The pack made to give `needed_a` continuously and `burst_a` in a surge: board, links and cells, or batteries with those limits."""
    build = pack.pack
    needed_a = max(needed_a, burst_a / constant("board_burst"))
    if isinstance(build, BatteryPack):
        wanted = math.ceil(needed_a / 10) * 10
        patch: list[dict[str, object]] = [set_value("/pack/battery/continuous_a", wanted)]
        if build.battery.burst_a is not None and build.battery.burst_a < burst_a:
            patch.append(release("/pack/battery/burst_a"))
        return (Remedy(f"A battery that gives {wanted} A", patch),) if wanted <= LARGEST_AH else ()
    parts = []
    patch = []
    if isinstance(build, Bank):
        wanted = math.ceil(pack.parallel.number * needed_a / pack.continuous.number - 1e-9)
        if wanted > MOST_STRINGS:
            return ()
        return (Remedy(f"{wanted} strings in parallel", [set_value("/pack/parallel", wanted)]),)
    boards, board = sizes("board"), pack.build.board
    if board and board.continuous.number < needed_a:
        if boards.sizes[-1] < needed_a:
            return ()
        patch.append(set_value("/pack/board/continuous_a", boards.pick(needed_a)))
        parts.append(f"a board of {boards.pick(needed_a):g} A")
    if board and build.board.burst_a is not None and board.burst.number < burst_a:
        patch.append(release("/pack/board/burst_a"))
    one_a = (pack.continuous.inputs or {})["cells"].number / pack.parallel.number
    wanted_p = math.ceil(needed_a / one_a - 1e-9)
    if wanted_p > MOST_PARALLEL:
        return ()
    if wanted_p > pack.parallel.number:
        patch += [set_value("/pack/parallel", wanted_p), *without_groups(build)]
        parts.append(f"{wanted_p} cells in parallel")
    if link_pinned(build):
        patch += release_link()
        parts.append("links to match")
    label = " and ".join(parts)
    return (Remedy(label[:1].upper() + label[1:], patch),) if patch else ()


def link_pinned(build: CellPack) -> bool:
    return any(v is not None for v in (build.link.material, build.link.width_mm, build.link.thickness_mm, build.link.layers))


def release_link() -> list[dict[str, object]]:
    return [release(f"/pack/link/{name}") for name in ("material", "width_mm", "thickness_mm", "layers")]


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
        biggest = max(d.watts.number for d in power.plugged[key])
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
    source = power.parts[inverter.key].source
    if inverter.rated_current.number <= source.continuous.number + 1e-9:
        return
    node = power.parts[inverter.key].node
    pinned = inverter.rating.choice == "pinned"
    if source.key == PACK:
        remedies = strengthen_pack(pack, inverter.rated_current.number * 1.001)
    else:
        amps = math.ceil(inverter.rated_current.number / 10) * 10
        remedies = (Remedy(f"A bank that gives {amps} A", [set_value(f"{source.pointer}/continuous_a", amps)]),)
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
        "pack" if source.key == PACK else "power",
        Severity.STOP,
        f"/power/network/{inverter.key}",
        f"{node.name}: at its rated {{P_rated}} it draws {{I_rated}}; {source.name} gives {{I_cont}}.",
        "A large inverter on a small pack trips the board, or cooks the cells, as soon as someone plugs in what the inverter promises.",
        {"P_rated": inverter.rating, "I_rated": inverter.rated_current, "I_cont": source.continuous},
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
        "P": Figure.by("P", "I_surge · V_low", "W", "worst surge", I_surge=power.surge, V_low=pack.v_low),
    }
    loaded = Figure.by("V", "(E + √(E^2 − 4 · R · P)) / 2", "V", "loaded voltage, nearly empty", inputs) if volts else None
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
        {"V": loaded, "V_cut": inverter.cutoff} if loaded else {"V_cut": inverter.cutoff, "P": inputs["P"]},
        remedies,
    )


def c_rate(power: PowerSizing, pack: PackSizing) -> Iterator[Finding]:
    limit = pack.recommended
    if power.current.number > limit.number + 1e-9 and power.current.number <= pack.continuous.number:
        rate = Figure.by("c", "I / C", "×", "C-rate", I=power.current, C=pack.capacity)
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
    higher = [s for s in pack.chemistry.classes.values() if s > pack.series.number]
    if not higher:
        return
    assert isinstance(build, CellPack)
    fewer = math.ceil(pack.parallel.number * pack.series.number / higher[0])
    halved = Figure.by(
        "I'",
        "I · S / S'",
        "A",
        "current in the next class",
        {"I": power.current, "S": pack.series, "S'": Figure.of("S'", higher[0], "", "cells in series of the next class")},
    )
    patch = [set_value("/pack/series", higher[0]), *without_groups(build)]
    if build.parallel is not None:
        patch.append(set_value("/pack/parallel", fewer))
    patch += release_cutoffs(power.network.nodes)
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


def board_margin(power: PowerSizing, pack: PackSizing) -> Iterator[Finding]:
    board, margin = pack.build.board, assumption("fuse_margin")
    if board is None or board.continuous.choice != "pinned" or power.current.number > board.continuous.number:
        return
    needed = Figure.by("I_need", "k · I", "A", "with a quarter to spare", k=margin, I=power.current)
    if needed.number <= board.continuous.number + 1e-9:
        return
    larger = sizes("board").pick(needed.number)
    yield Finding(
        "pack.board-margin",
        "pack",
        Severity.MEND,
        "/pack/board/continuous_a",
        "The board gives {I_board} continuously; the running peak of {I} asks for {I_need} with its margin.",
        "A board worked at its limit runs hot in a closed box, and trips on the first warm day.",
        {"I_board": board.continuous, "I": power.current, "I_need": needed},
        (Remedy(f"A board of {larger:g} A", [set_value("/pack/board/continuous_a", larger)]),) if larger >= needed.number else (),
    )


def links(power: PowerSizing, pack: PackSizing) -> Iterator[Finding]:
    link = pack.build.link
    if link is None:
        return
    carried = Figure.by("I_1", "I / P", "A", "through the link of one cell", I=power.current, P=pack.parallel)
    if carried.number <= link.rating.number + 1e-9:
        return
    build = pack.pack
    assert isinstance(build, CellPack)
    yield Finding(
        "pack.links",
        "pack",
        Severity.STOP,
        "/pack/link",
        "Each link carries {I_1}; {link} bears {I_link}.",
        "A link above its rating heats the cells it joins, softens their insulation, and melts at the first surge.",
        {"I_1": carried, "link": link.choice, "I_link": link.rating},
        (Remedy("Let the links be sized", release_link()),)
        if link_pinned(build)
        else strengthen_pack(pack, power.current.number * 1.25),
    )


def apparent(inverter: InverterSizing, power: PowerSizing) -> Iterator[Finding]:
    """Volt-amperes above the inverter's limit though the watts fit."""
    asked, limit = inverter.peak.apparent, inverter.continuous
    if asked.number <= limit.number + 1e-9 or inverter.peak.running.number > limit.number:
        return
    at = f"/power/network/{inverter.key}"
    yield Finding(
        "loads.va",
        "loads",
        Severity.STOP,
        at,
        f"{power.parts[inverter.key].node.name}: the loads take {{S}} though only {{P}}; at its hottest it gives {{P_cont}}, in VA as in W.",
        "The current that does no work heats the inverter all the same, and trips it.",
        {"S": asked, "P": inverter.peak.running, "P_cont": limit},
        (
            Remedy(
                "Let the inverter fit the loads", [release(f"{at}/rating_w"), release(f"{at}/surge_w"), release(f"{at}/idle_w")]
            ),
        )
        if inverter.rating.choice == "pinned"
        else (),
    )


DIRECT_ETA = {"dc_12v": "converter_eta", "usb": "usb_eta"}


def double_conversion(power: PowerSizing, pack: PackSizing) -> Iterator[Finding]:
    """A DC device fed through inverter and wall adapter, against feeding it directly."""
    for key, plugged in power.plugged.items():
        inverter = next((power.inverters[up] for up in power.network.upstream(key) if up in power.inverters), None)
        for d in plugged:
            direct = d.load.direct
            if inverter is None or direct is None or d.energy.number <= 0:
                continue
            at = f"/loads/items/{d.key}"
            adapter = assumed(
                "η_a", d.load.adapter_efficiency, "adapter_eta", "share", "its wall adapter", f"{at}/adapter_efficiency"
            )
            curve = inverter.curve
            # What this load adds to the inverter's own loss, at the power it mostly gives.
            point = min(max(inverter.peak.running.number, 1.0), curve.rated_w)
            added = Figure.of(
                "η_i",
                point / (point + curve.loss(point) - curve.idle_w),
                "share",
                "inverter, idle draw apart",
                how="a·P + b·P²/P_rated at the running peak; its idle draw is there with or without this load",
                inputs={"P_peak": inverter.peak.running, "P_rated": inverter.rating},
            )
            converter = (
                assumption(DIRECT_ETA[direct])
                if direct in DIRECT_ETA
                else Figure.of("η_c", 1.0, "share", "straight from the pack")
            )
            lost = Figure.by(
                "E_lost",
                "E · (1 / η_i − η_a / η_c)",
                "Wh",
                "lost a day by two conversions",
                E=d.energy,
                η_i=added,
                η_a=adapter,
                η_c=converter,
            )
            if lost.number <= 0:
                continue
            watts = round(d.watts.number * adapter.number, 3)
            patch = [set_value(f"{at}/supply", direct), set_value(f"{at}/watts", watts), release(f"{at}/measured")]
            patch += [release(f"{at}/direct"), release(f"{at}/outlet")]
            serving = any(power.network.supply(outlet) == direct for outlet in power.network.outlets())
            if not serving:
                patch += add_outlets(power.network, [direct])
            yield Finding(
                "loads.double-conversion",
                "loads",
                Severity.MEND,
                at,
                f"{d.load.name} is fed through inverter and wall adapter: {{E_lost}} a day are lost against {SUPPLIES[direct]}.",
                "Up to mains voltage and down again, each step keeps its share; and the inverter must run for it.",
                {"E_lost": lost},
                (Remedy(f"Feed it by {SUPPLIES[direct]}", patch),),
            )


def growth(power: PowerSizing, pack: PackSizing, site: Site) -> Iterator[Finding]:
    """Which limits the growth that the brief expects would break, with every size as it now is."""
    if site.growth.number <= 0:
        return
    grown = 1 + site.growth.number
    broken: dict[str, tuple[Figure, Figure]] = {}
    pairs = [
        ("the usable energy", power.drawn_away, power.available),
        ("the pack's continuous limit", power.current, pack.continuous),
        ("the pack's burst limit", power.surge, pack.burst),
    ]
    for inverter in power.inverters.values():
        name = power.parts[inverter.key].node.name
        pairs.append((f"{name}: its continuous rating", inverter.peak.running, inverter.continuous))
        pairs.append((f"{name}: its surge rating", inverter.peak.surge, inverter.surge))
    for what, asked, limit in pairs:
        if asked.number <= limit.number < asked.number * grown - 1e-9:
            broken[what] = (asked, limit)
    if not broken:
        return
    what, (asked, limit) = next(iter(broken.items()))
    after = Figure.by("X", "x · (1 + g)", asked.unit, "after the growth", x=asked, g=site.growth)
    others = f"; so would {', '.join(list(broken)[1:])}" if len(broken) > 1 else ""
    remedies = grow_pack(pack, grown) if what == "the usable energy" else ()
    if what.startswith("the pack's"):
        remedies = strengthen_pack(pack, power.current.number * grown, power.surge.number * grown)
    yield Finding(
        "loads.growth",
        "loads",
        Severity.NOTE,
        "/brief/growth",
        f"With the expected growth of {{g}}, {what} of {{limit}} would not hold {{after}}{others}.",
        "It is cheaper to leave room for what is coming than to take the box apart for it.",
        {"g": site.growth, "limit": limit, "after": after},
        remedies,
    )
