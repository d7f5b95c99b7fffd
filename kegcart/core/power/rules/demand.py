"""Loads and pack, judged once it is known what flows through the power path."""

import math
from collections.abc import Iterator
from typing import Any

from kegcart.core.brief.sizing import Site
from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.check import HAIR, Bound, Check, Fault, at_most, compared, failed, held, is_so, mend, not_yet, note, stop
from kegcart.core.electrical.source import loaded_voltage
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, Station, release, set_value
from kegcart.core.loads.sizing import Demand, LoadsSizing
from kegcart.core.pack.document import CellPack
from kegcart.core.pack.forms import form_of
from kegcart.core.pack.forms.cells import link_pinned, release_link, without_groups
from kegcart.core.pack.sizing import PackSizing, resistance_at
from kegcart.core.power.fed import PACK
from kegcart.core.power.kinds import Outlet, kind_of
from kegcart.core.power.path.edits import release_cutoffs
from kegcart.core.power.path.energy import NOTHING_WH
from kegcart.core.power.path.parts import InverterSizing, PartSizing, PowerSizing
from kegcart.core.power.rules.inverters import fit_the_loads, into_window
from kegcart.core.reference import Chemistry, assumption, constant, sizes

GROWTHS = (1.5, 2, 3, 4, 6, 8)
"""Growths of the pack that are tried until it holds its voltage."""
MOST_WAYS = 12
MOST_CIRCUITS = 6
"""AC outlets that are proposed at once, at most."""
MANY_CELLS = 4
"""So many small cells in parallel make a shorted one worth a fuse of its own."""


def judge_demand(power: PowerSizing, loads: LoadsSizing, pack: PackSizing, site: Site) -> Iterator[Check]:
    """What is asked against what pack, links, sockets and inverters give."""
    yield from energy(power, pack, site)
    for key in power.network.outlets():
        yield from socket_rating(power.parts[key], power)
    yield from current(power, pack)
    for inverter in power.inverters.values():
        yield high_current_small(inverter, power, pack)
    for inverter in power.pack_inverters().values():
        yield sag(inverter, power, pack, site)
    yield from board_margin(power, pack)
    yield from links(power, pack)
    yield from collector(power, pack)
    yield from cell_fuse(pack)
    yield from c_rate(power, pack)
    yield from voltage_class(power, pack)
    for inverter in power.inverters.values():
        yield apparent(inverter, power)
    yield from growth(power, pack, site)


@judges("loads.energy-short", "energy between charges", STOP)
@judges("loads.reserve-thin", "energy with the reserve left", MEND)
def energy(power: PowerSizing, pack: PackSizing, site: Site) -> Iterator[Check]:
    """What is asked between charges is covered, and leaves the reserve.

    Source: practice: a reserve is left at the end, as the brief says.
    """
    there = power.available
    asked = power.drawn_away if cycled(power, PACK) else fed_by_the_engine(pack)
    figures = {"E_away": asked, "E_avail": there, "t_away": site.hours_away}
    label = "usable with the reserve left"
    kept = power.ctx.sheet.put("power/kept", Figure.by("E_kept", "E_avail · (1 − r)", "Wh", label, E_avail=there, r=site.reserve))

    def larger() -> tuple[Remedy, ...]:
        factor = asked.number / kept.number if there.number > NOTHING_WH else 2.0
        return (*larger_packs(pack, factor, power), *charged_sooner(site.hours_away.number, factor))

    covered = at_most(
        "loads.energy-short",
        "/loads",
        asked,
        there,
        lambda: stop(
            "{t_away} between charges ask for {E_away}; the pack gives {E_avail} down to its first cut-off.",
            "The station goes dark before it is charged again.",
            figures,
            larger(),
        ),
        slack=0.0,
    )
    yield covered
    if covered.finding is not None:
        yield not_yet("loads.reserve-thin", "/loads", "a pack that covers the energy")
        return
    yield at_most(
        "loads.reserve-thin",
        "/loads",
        asked,
        kept,
        lambda: mend(
            "{t_away} between charges take {E_away} of {E_avail}: less than the {r} reserve is left.",
            "A cold night, a late van or an aged cell takes the rest.",
            {**figures, "r": site.reserve},
            larger(),
        ),
        slack=0.0,
    )


def larger_packs(pack: PackSizing, factor: float, power: PowerSizing) -> tuple[Remedy, ...]:
    """A pack of more energy: as it is built, with the sizes of the path left to choice where pinned ones stand in its way, and in
    the voltage class nearest to its own where the inverter does not run on it.
    """
    grown = form_of(pack.pack).grown(pack, factor)
    freed = freed_sizes(power)
    anew = [Remedy(f"{r.label}, and the path sized for it", [*r.patch, *freed], True) for r in grown] if freed else []
    moved = [
        Remedy(f"{w.label}, {g.label[0].lower()}{g.label[1:]}", [*w.patch, *g.patch, *freed], True)
        for w in into_window(pack)
        for g in grown
    ]
    return (*grown, *anew, *moved)


def charged_sooner(hours: float, factor: float) -> Iterator[Remedy]:
    """Fewer hours between charges, for where no pack of its kind would do: the longest first."""
    spans = (math.floor(2 * hours * share / factor) / 2 for share in (1.0, 0.75, 0.5, 0.25))
    for fewer in dict.fromkeys(spans):
        if 0.5 <= fewer < hours:
            yield Remedy(f"Charge it again after {fewer:g} h", [set_value("/brief/hours_away", fewer)], last_resort=True)


def freed_sizes(power: PowerSizing) -> list[dict[str, Any]]:
    """The operations that give every pinned size of the path back to choice."""
    out = [
        release(f"{part.pointer}/{choice.field}")
        for part in power.parts.values()
        for choice in kind_of(part.node).facts.choices
        if getattr(part.node, choice.field) is not None
    ]
    out += [release(f"{part.pointer}/run/gauge") for part in power.parts.values() if part.node.run.gauge is not None]
    shunt = power.ctx.path.shunt
    return [*out, *([release("/power/shunt/rating_a")] if shunt is not None and shunt.rating_a is not None else [])]


def cycled(power: PowerSizing, source: str) -> bool:
    """Whether a source is used with no engine running: not where the alternator feeds whatever hangs on it."""
    loads = [d for key, held in power.plugged.items() if power.network.source(key) == source for d in held if d.energy.number > 0]
    return not loads or not all(d.load.engine_runs for d in loads)


def fed_by_the_engine(pack: PackSizing) -> Figure:
    """What a battery gives between charges whose loads run only while an engine does, Wh: nothing that it does not get back."""
    how = "an engine runs whenever a load is on, and its alternator feeds it"
    return Figure.of("E_away", 0.0, "Wh", "taken from the battery between charges", how=how, inputs={"C": pack.capacity})


@judges("loads.socket-rating", "what is asked of one socket", STOP)
def socket_rating(part: PartSizing, power: PowerSizing) -> Iterator[Check]:
    """One socket of an outlet gives what is asked of it.

    Source: rating of the connector (connectors table).
    """
    node, place = part.node, part.pointer
    assert isinstance(node, Outlet)
    asked, limit = part.extra["asked"], part.extra["limit"]

    def fault() -> Fault:
        remedies = []
        if node.connector:
            remedies.append(Remedy("Let a larger connector be chosen", [release(f"{place}/connector")]))
        ways = more_ways(node, asked.number, limit.number, power.plugged[part.key])
        if ways is not None:
            remedies.append(Remedy(f"{ways} sockets side by side", [set_value(f"{place}/ways", ways)]))
        called = part.choice.value if part.choice else "socket"
        return stop(
            f"{node.name}: {{asked}} is asked of one {called}, which is rated for {{limit}}.",
            "A socket above its continuous rating softens, arcs and burns.",
            {"asked": asked, "limit": limit},
            tuple(remedies),
        )

    yield at_most("loads.socket-rating", place, asked, limit, fault)


def more_ways(node: Outlet, asked: float, limit: float, demands: list[Demand]) -> int | None:
    """How many sockets side by side would share what is asked; None where one load alone is too much for a socket, or air is so hot that a
    socket carries nothing."""
    if limit <= 0:
        return None
    biggest = max(d.watts.number for d in demands)
    total = max(sum(d.running.number for d in demands), HAIR)
    ways = math.ceil(node.ways * asked / limit)
    one_fits = biggest * limit / asked <= total / node.ways
    return ways if ways <= MOST_WAYS and one_fits and asked * node.ways / ways <= limit + HAIR else None


def current(power: PowerSizing, pack: PackSizing) -> Iterator[Check]:
    """The pack gives what runs, and the worst surge."""
    by_run = pack_gives("continuously", power.current, pack.continuous, power, pack)
    yield by_run
    if by_run.finding is None:
        yield pack_gives("in the worst surge", power.surge, pack.burst, power, pack)


def opens_or_heats(row: Chemistry, with_a_board: str) -> str:
    """What too much current does to a battery: lead has no board that would open."""
    return (
        with_a_board if row.kind != "lead" else "Nothing in the battery opens: its plates buckle, its links and cables run hot."
    )


@judges("pack.current", "current that is asked of it", STOP)
def pack_gives(when: str, asked: Figure, limit: Figure, power: PowerSizing, pack: PackSizing) -> Check:
    """The pack gives the running peak and the worst surge.

    Source: continuous and burst limit of its weakest part; 1.25 × in the remedy (assumptions table).
    """

    def fault() -> Fault:
        share = 1 if limit is pack.continuous else limit.number / pack.continuous.number
        needed = asked.number * constant("fuse_margin") / share
        return stop(
            f"{{I}} is asked {when}; the pack gives {{I_limit}} ({limit.label}).",
            opens_or_heats(pack.chemistry, "The protection board opens in the middle of the work, or the cells overheat."),
            {"I": asked, "I_limit": limit},
            form_of(pack.pack).strengthened(pack, needed, power.surge.number),
        )

    return at_most("pack.current", "/pack", asked, limit, fault)


@judges("pack.high-current-small", "the inverter at its rating, on its source", STOP)
def high_current_small(inverter: InverterSizing, power: PowerSizing, pack: PackSizing) -> Check:
    """The source gives what the inverter draws at its rating."""
    source, node = power.parts[inverter.key].source, power.parts[inverter.key].node

    def fault() -> Fault:
        if source.key == PACK:
            remedies = form_of(pack.pack).strengthened(pack, inverter.rated_current.number * 1.001, 0.0)
        else:
            amps = math.ceil(inverter.rated_current.number / 10) * 10
            remedies = (Remedy(f"A bank that gives {amps} A", [set_value(f"{source.pointer}/continuous_a", amps)]),)
        if inverter.rating.choice == "pinned" and inverter.needed.number < inverter.rating.number:
            remedies = (fit_the_loads(inverter.key), *remedies)
        return stop(
            f"{node.name}: at its rated {{P_rated}} it draws {{I_rated}}; {source.name} gives {{I_cont}}.",
            "A large inverter on a small pack asks too much of it, as soon as someone plugs in what the inverter promises.",
            {"P_rated": inverter.rating, "I_rated": inverter.rated_current, "I_cont": source.continuous},
            remedies,
        )

    at = f"/power/network/{inverter.key}"
    station: Station = "pack" if source.key == PACK else "power"
    return at_most("pack.high-current-small", at, inverter.rated_current, source.continuous, fault, station=station)


@judges("pack.sag", "loaded voltage at the end, in the cold", MEND)
def sag(inverter: InverterSizing, power: PowerSizing, pack: PackSizing, site: Site) -> Check:
    """The worst surge at the end of the time between charges, in the cold, does not pull the pack below the inverter's cut-off.

    The end is where what is asked between charges and the reserve have been taken, at the least the bottom of the daily window.

    Source: Ohm's law on the open-circuit curve, in the cold.
    """
    asked_wh = power.drawn_away.number / (1 - site.reserve.number)
    floor = pack.charge_after(asked_wh)
    emf = pack.open_circuit(floor)
    ohm = resistance_at(pack, site.cold_c.number) + power.main_ohm.number
    how = "resistance of the pack at the coldest, with the main path"
    resistance = {"R": pack.resistance, "R_main": power.main_ohm, "T_min": site.cold_c}
    watts = Figure.by("P", "I_surge · V_low", "W", "worst surge", I_surge=power.surge, V_low=pack.v_low)
    inputs = {
        "E": pack.chemistry.figure("E", emf, "V", f"rested pack at {floor * 100:.0f} % charge"),
        "R": Figure.of("R", ohm, "Ω", "pack in the cold, and main path", how=how, inputs=resistance),
        "P": watts,
    }
    exists = loaded_voltage(emf, ohm, watts.number) is not None
    formula, label = "(E + √(E^2 − 4 · R · P)) / 2", "loaded voltage at the end"
    loaded = power.ctx.put(inverter.key, "sag", Figure.by("V", formula, "V", label, inputs)) if exists else None

    def fault() -> Fault:
        # Resistance falls as the pack grows; the least growth is taken that holds the voltage.
        holds = (f for f in GROWTHS if (loaded_voltage(emf, ohm / f, watts.number) or 0) >= inverter.cutoff.number)
        remedies = form_of(pack.pack).grown(pack, next(holds, 10))
        if inverter.cutoff.choice == "pinned":
            at = f"/power/network/{inverter.key}/cutoff_v"
            remedies = (Remedy("Let the cut-off be chosen", [release(at)]), *remedies)
        said = (
            "At the end of the time between charges, cold, the worst surge pulls the pack to {V}, below the inverter's cut-off at {V_cut}."
            if loaded
            else "At the end of the time between charges, cold, the pack cannot give the worst surge at all, let alone hold the inverter's "
            "cut-off at {V_cut}."
        )
        figures = {"V": loaded, "V_cut": inverter.cutoff} if loaded else {"V_cut": inverter.cutoff, "P": watts}
        return mend(said, "The inverter drops out before the pack is empty.", figures, remedies)

    if loaded is None:
        return failed("pack.sag", "/pack", fault())
    return compared("pack.sag", "/pack", loaded.number >= inverter.cutoff.number, loaded, inverter.cutoff, Bound.LEAST, fault)


@judges("pack.c-rate", "recommended rate of the cells", MEND)
def c_rate(power: PowerSizing, pack: PackSizing) -> Iterator[Check]:
    """The running peak is within the recommended rate of the cells.

    Source: continuous rate by shape of cell (chemistries table).
    """
    if not cycled(power, PACK):  # its one job is a great current for seconds, while an engine runs
        yield held("pack.c-rate", "/pack")
        return
    if power.current.number > pack.continuous.number:
        yield not_yet("pack.c-rate", "/pack", "a pack that gives the current")
        return

    def fault() -> Fault:
        rate = Figure.by("c", "I / C", "×", "C-rate", I=power.current, C=pack.capacity)
        return mend(
            f"The running peak of {{I}} is {{c}} the capacity; {pack.chemistry.label} cells of this form are recommended to {{I_rec}}.",
            "Cells worked above their recommended rate run hot and wear out early.",
            {"I": power.current, "c": rate, "I_rec": pack.recommended},
            form_of(pack.pack).grown(pack, power.current.number / pack.recommended.number),
        )

    yield at_most("pack.c-rate", "/pack", power.current, pack.recommended, fault)


@judges("pack.voltage-class", "voltage class for this current", MEND)
def voltage_class(power: PowerSizing, pack: PackSizing) -> Iterator[Check]:
    """Loose cells give no more than 100 A where a higher voltage class is sold.

    Source: practice: above 100 A cable, joints and switches grow costly (assumptions table).
    """
    build, limit = pack.pack, assumption("high_current")
    higher = [s for s in pack.chemistry.classes.values() if s > pack.series.number]
    if not isinstance(build, CellPack) or not higher:
        return

    def fault() -> Fault:
        series = Figure.of("S'", higher[0], "", "cells in series of the next class")
        inputs = {"I": power.current, "S": pack.series, "S'": series}
        halved = Figure.by("I'", "I · S / S'", "A", "current in the next class", inputs)
        patch = [set_value("/pack/series", higher[0]), *without_groups(build)]
        if build.parallel is not None:
            fewer = math.ceil(pack.parallel.number * pack.series.number / higher[0])
            patch.append(set_value("/pack/parallel", fewer))
        patch += release_cutoffs(power.network.nodes)
        return mend(
            f"The pack gives {{I}} continuously; with {higher[0]} cells in series it would be {{I_next}}.",
            "Above 100 A cable, joints and switches grow costly, and every loose lug becomes a heater.",
            {"I": power.current, "I_next": halved},
            (Remedy(f"{higher[0]} cells in series", patch),),
        )

    yield at_most("pack.voltage-class", "/pack/series", power.current, limit, fault, slack=0.0)


@judges("pack.board-margin", "margin of the protection board", MEND)
def board_margin(power: PowerSizing, pack: PackSizing) -> Iterator[Check]:
    """A pinned board carries the running peak with a quarter to spare.

    Source: practice: a quarter to spare on continuous ratings.
    """
    board = pack.build.board
    if board is None or board.continuous.choice != "pinned" or power.current.number > board.continuous.number:
        return
    margin, continuous, at = assumption("fuse_margin"), board.continuous, "/pack/board/continuous_a"
    label = "with a quarter to spare"
    needed = power.ctx.sheet.put("power/board_needed", Figure.by("I_need", "k · I", "A", label, k=margin, I=power.current))
    larger = sizes("board").pick(needed.number)
    yield at_most(
        "pack.board-margin",
        at,
        needed,
        continuous,
        lambda: mend(
            "The board gives {I_board} continuously; the running peak of {I} asks for {I_need} with its margin.",
            "A board worked at its limit runs hot in a closed box, and trips on the first warm day.",
            {"I_board": continuous, "I": power.current, "I_need": needed},
            (Remedy(f"A board of {larger:g} A", [set_value(at, larger)]),) if larger >= needed.number else (),
        ),
    )


@judges("pack.links", "current through the link of one cell", STOP)
def links(power: PowerSizing, pack: PackSizing) -> Iterator[Check]:
    """A link between cells carries the share of its cell.

    Source: current density by material (links table).
    """
    link, build = pack.build.link, pack.pack
    if link is None or not isinstance(build, CellPack):
        return
    label = "through the link of one cell"
    carried = power.ctx.sheet.put("power/link_current", Figure.by("I_1", "I / P", "A", label, I=power.current, P=pack.parallel))

    def fault() -> Fault:
        if link_pinned(build):
            remedies: tuple[Remedy, ...] = (Remedy("Let the links be sized", release_link()),)
        else:
            remedies = form_of(build).strengthened(pack, power.current.number * constant("fuse_margin"), 0.0)
        return stop(
            "Each link carries {I_1}; {link} is rated for {I_link}.",
            "A link above its rating heats the cells it joins, softens their insulation, and melts at the first surge.",
            {"I_1": carried, "link": link.choice, "I_link": link.rating},
            remedies,
        )

    yield at_most("pack.links", "/pack/link", carried, link.rating, fault)


@judges("pack.collector", "collector of an end group", STOP)
def collector(power: PowerSizing, pack: PackSizing) -> Iterator[Check]:
    """The collector of an end group carries what it gathers to the take-off: inverters at their rating, as far as the pack gives.

    Source: currents add at a node (Kirchhoff); current density by material (links table).
    """
    bar, build = pack.build.collector, pack.pack
    if bar is None or not isinstance(build, CellPack):
        return
    whole = power.ctx.sheet.get("power/negative/design") or power.current
    given = min((pack.build.limits[part][0] for part in ("cells", "board")), key=lambda f: f.number)
    label = "through the fullest place of the collector"
    gathered = Figure.by("I_g", "min(I, I_give) · x", "A", label, I=whole, I_give=given, x=bar.share)
    power.ctx.sheet.put("power/collector_current", gathered)

    def fault() -> Fault:
        fields = [f for f in ("material", "width_mm", "thickness_mm", "layers") if getattr(build.collector, f) is not None]
        remedies = [Remedy("Let the collector be sized", [release(f"/pack/collector/{f}") for f in fields])] if fields else []
        if build.gathers == "end":
            remedies.append(Remedy("Take off in the middle of the group", [set_value("/pack/gathers", "middle")]))
        return stop(
            "The collector of an end group gathers {I_g}; {collector} carries {I_col}.",
            "Each strip on the way to the take-off bears its own cell and all before it: the last one glows.",
            {"I_g": gathered, "collector": bar.choice, "I_col": bar.rating},
            tuple(remedies),
        )

    yield at_most("pack.collector", "/pack/collector", gathered, bar.rating, fault)


@judges("pack.cell-fuse", "a shorted cell among many", NOTE)
def cell_fuse(pack: PackSizing) -> Iterator[Check]:
    """A cell that shorts inside is cut off from the others of its group by a fuse of its own.

    Source: practice with many small cells in parallel: the others of the group feed the one that fails (Ohm's law).
    """
    build = pack.pack
    if not isinstance(build, CellPack) or build.cell.shape != "cylindrical" or pack.parallel.number < MANY_CELLS:
        return
    one = pack.chemistry.figure("v", pack.chemistry.v_max, "V", "greatest voltage, one cell")
    ohm = Figure.by(
        "r", "R_1k · P / S", "Ω", "one cell with its link, in a short", R_1k=pack.fault_resistance, P=pack.parallel, S=pack.series
    )
    fed = Figure.by(
        "I_fed", "v · (P − 1) / (P · r)", "A", "fed by the others into one that shorts", v=one, P=pack.parallel, r=ohm
    )
    yield is_so(
        "pack.cell-fuse",
        "/pack/cell_fused",
        build.cell_fused,
        lambda: note(
            "A cell that shorts inside is fed with up to {I_fed} by the others of its group; nothing cuts it off.",
            "One bad cell among many takes its neighbours with it. A thin wire or a fusible strip on each cell opens instead: an option, and an hour's work a group.",
            {"I_fed": fed},
            (Remedy("A fuse for each cell", [set_value("/pack/cell_fused", True)]),),
        ),
    )


@judges("loads.va", "volt-amperes on the inverter", STOP)
def apparent(inverter: InverterSizing, power: PowerSizing) -> Check:
    """Volt-amperes are within the inverter's limit.

    Source: makers rate inverters in VA: power over power factor.
    """
    asked, limit, at = inverter.peak.apparent, inverter.continuous, f"/power/network/{inverter.key}"
    if inverter.peak.running.number > limit.number + HAIR:
        return not_yet("loads.va", at, "an inverter that gives the watts")
    return at_most(
        "loads.va",
        at,
        asked,
        limit,
        lambda: stop(
            f"{power.parts[inverter.key].node.name}: the loads take {{S}} though only {{P}}; at its hottest it gives {{P_cont}}, in VA as in W.",
            "The current that does no work heats the inverter all the same, and trips it.",
            {"S": asked, "P": inverter.peak.running, "P_cont": limit},
            (fit_the_loads(inverter.key),) if inverter.rating.choice == "pinned" else (),
        ),
    )


@judges("loads.growth", "room for the expected growth", NOTE)
def growth(power: PowerSizing, pack: PackSizing, site: Site) -> Iterator[Check]:
    """The growth that the brief expects breaks no limit, with every size as it now is.

    Source: the brief's growth, with every size as it stands.
    """
    if site.growth.number <= 0:
        return
    grown = 1 + site.growth.number
    pairs = [
        ("the usable energy", power.drawn_away, power.available),
        ("the pack's continuous limit", power.current, pack.continuous),
        ("the pack's burst limit", power.surge, pack.burst),
    ]
    for inverter in power.inverters.values():
        name = power.parts[inverter.key].node.name
        pairs.append((f"{name}: its continuous rating", inverter.peak.running, inverter.continuous))
        pairs.append((f"{name}: its surge rating", inverter.peak.surge, inverter.surge))
    broken = {what: (asked, limit) for what, asked, limit in pairs if asked.number <= limit.number < asked.number * grown - HAIR}

    def fault() -> Fault:
        what, (asked, limit) = next(iter(broken.items()))
        after = Figure.by("X", "x · (1 + g)", asked.unit, "after the growth", x=asked, g=site.growth)
        others = f"; so would {', '.join(list(broken)[1:])}" if len(broken) > 1 else ""
        form = form_of(pack.pack)
        remedies = form.grown(pack, grown) if what == "the usable energy" else ()
        if what.startswith("the pack's"):
            remedies = form.strengthened(pack, power.current.number * grown, power.surge.number * grown)
        return note(
            f"With the expected growth of {{g}}, {what} of {{limit}} would not hold {{after}}{others}.",
            "It is cheaper to leave room for what is coming than to take the box apart for it.",
            {"g": site.growth, "limit": limit, "after": after},
            remedies,
        )

    yield is_so("loads.growth", "/brief/growth", not broken, fault)
