"""How the path is built: places, directions, contacts, studs, sources that meet."""

from collections.abc import Iterator
from itertools import takewhile

from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.charging.kinds.base import SourceSizing
from kegcart.core.check import Check, Fault, at_most, failed, held, is_so, mend, note, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.pack.rules.lead import block
from kegcart.core.pack.rules.use import cold_use, freezing
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.fed import PACK, Fed
from kegcart.core.power.kinds import Busbar, Input, Inverter, Outlet, Plug, Protection, Selector, Switch, kind_of
from kegcart.core.power.kinds.protection import family_of
from kegcart.core.power.path.edits import new_input, put_switch
from kegcart.core.power.path.parts import BankSizing, PartSizing, PowerSizing
from kegcart.core.power.path.studs import stud_figure
from kegcart.core.power.rules.demand import cycled, opens_or_heats
from kegcart.core.power.rules.protection import rechoose
from kegcart.core.reference import Chemistry, assumption, chemistries, constant

AT_POST_M = 0.15
"""Where a fuse stands that is set at its post."""
LARGEST = 5000.0
"""The largest bank, A or Ah, that a remedy proposes."""
ONE_HAND = "When something smells, one hand must find one switch."


def judge_safety(power: PowerSizing, pack: PackSizing) -> Iterator[Check]:
    """What can burn, shock or be reached by a hand."""
    for part in power.parts.values():
        node = part.node
        if isinstance(node, Protection):
            yield from breaker_dc(part, node, power)
            yield from fuse_place(part, power)
        yield from lug_stud(part)
        yield from chafe(part)
        if isinstance(node, Plug | Outlet):
            yield live_pins(part, node)
        if isinstance(node, Outlet) and node.source is not None:
            yield backfeed(part, power.ctx.charging.sources[node.source], power)
        if brings_in(node):
            yield load_dump(part, power)
        if isinstance(node, Selector):
            remedy = Remedy("A selector that breaks before it makes", [set_value(f"{part.pointer}/interlocked", True)])
            yield two_sources(part, "interlocked", node.interlocked, remedy)
        if isinstance(node, Inverter) and node.transfer != "none":
            remedy = Remedy("A transfer switch with an interlock", [set_value(f"{part.pointer}/transfer", "interlocked")])
            yield two_sources(part, "transfer", node.transfer == "interlocked", remedy)
        if isinstance(node, Busbar) and node.studs is not None:
            yield many_lugs(part, node, node.studs, power)
    for source in power.network.roots:
        yield from switch_reach(source, power)
    yield from meter_voltage(power, pack)
    for key, bank in power.banks.items():
        yield from judge_bank(key, bank, power)


def brings_in(node: Fed) -> bool:
    """Whether current comes in through a part: an input, or an outlet that is charged through."""
    return isinstance(node, Input) or (isinstance(node, Outlet) and node.source is not None)


def runs_inwards(part: PartSizing, power: PowerSizing) -> bool:
    """Whether current runs through a part towards the source: a charger behind it brings it in."""
    return any(brings_in(power.network.nodes[k]) for k in power.network.below(part.key))


def who_charges(part: PartSizing, power: PowerSizing) -> str:
    """The sources that bring in current through a part, by name."""
    sources = power.ctx.charging.sources
    named = (getattr(power.network.nodes[k], "source", None) for k in power.network.below(part.key))
    return " and ".join(sources[key].name for key in named if key in sources) or "a charger"


@judges("power.breaker-dc", "DC rating and direction of the breaker", STOP)
def breaker_dc(part: PartSizing, node: Protection, power: PowerSizing) -> Iterator[Check]:
    """A breaker opens direct current, in the direction in which it runs.

    Source: IEC 60947-2: DC breaking capacity, and polarity where it is marked.
    """
    at, family = part.pointer, family_of(part)
    assert part.family is not None
    if family.v_dc <= 0:
        fault = stop(
            f"{node.name} is a {{family}}: it has no DC rating, and the source reaches {{V_max}}.",
            "DC has no zero to put the arc out: an AC breaker draws it and goes on burning.",
            {"family": part.family, "V_max": part.source.v_max},
            (Remedy("Let family and rating be chosen", rechoose(part)),),
        )
        yield failed("power.breaker-dc", f"{at}/family", fault)
        return
    any_way = set_value(f"{at}/polarised", False)
    yield is_so(
        "power.breaker-dc",
        f"{at}/polarised",
        not (node.polarised and runs_inwards(part, power)),
        lambda: stop(
            f"{node.name} is polarised, and up to {{I}} runs in through it from {who_charges(part, power)}, while a fault runs out.",
            "One of the two is the wrong way: in it a polarised breaker drives its arc into its own works.",
            {"I": part.design},
            (Remedy("A breaker for both directions", [any_way]), Remedy("Let a fuse be chosen", [any_way, *rechoose(part)])),
        ),
    )


@judges("power.fuse-place", "distance from the post", MEND)
def fuse_place(part: PartSizing, power: PowerSizing) -> Iterator[Check]:
    """The first protection stands at its source."""
    if part.guard is not None or part.run is None:
        return
    way = [part.key, *power.network.upstream(part.key)]
    runs = [power.network.nodes[k].run for k in way]
    sheathed, at = all(run.sheathed for run in runs), f"{part.pointer}/run/length_m"
    length = Figure.decided("L", sum(run.length_m for run in runs), "m", "from the post", at)
    limit = assumption("main_unfused_sheathed" if sheathed else "main_unfused")

    def fault() -> Fault:
        near = [set_value(f"/power/network/{k}/run/length_m", AT_POST_M / len(way)) for k in way]
        remedies = [Remedy("Set it at the post", near)]
        if not sheathed and length.number <= constant("main_unfused_sheathed"):
            covered = [set_value(f"/power/network/{k}/run/sheathed", True) for k in way]
            remedies.append(Remedy("Sheathe and fix that run", covered))
        return mend(
            f"{part.node.name} stands {{L}} from the post; up to it nothing protects the cable, and {{L_max}} is allowed.",
            "A cable that chafes through before its fuse burns with the whole fault current of the pack.",
            {"L": length, "L_max": limit},
            tuple(remedies),
        )

    yield at_most("power.fuse-place", at, length, limit, fault)


@judges("power.lug-stud", "lugs and studs", MEND)
def lug_stud(part: PartSizing) -> Iterator[Check]:
    """The hole of a lug is that of its stud.

    Source: practice: a hole too large leaves too little to press on.
    """
    stud, lug, at = stud_figure(part), part.node.run.lug, f"{part.pointer}/run/lug"
    if stud is None:
        return
    yield is_so(
        "power.lug-stud",
        at,
        lug is None or lug == stud.value,
        lambda: mend(
            f"The lug to {part.node.name} has a hole for {lug}; the stud there is {{stud}}.",
            "A hole too large leaves a fraction of the contact: the joint heats. One too small is drilled out, and worse.",
            {"stud": stud},
            (Remedy(f"Lugs for {stud.value}", [release(at)]),),
        ),
    )


@judges("power.lug-stud")
def many_lugs(part: PartSizing, node: Busbar, studs: int, power: PowerSizing) -> Check:
    """No more lugs on one stud than lie flat.

    Source: one or two lugs a stud, four at most (assumptions table).
    """
    at, a_stud = f"{part.pointer}/studs", assumption("lugs_on_stud")
    count = len(power.network.children[part.key]) + 1
    lugs = Figure.of("n", count, "", "lugs", how="its feed and every branch")
    there = Figure.decided("n_s", studs, "", "studs", at)
    most = Figure.by("n_most", "n_l · n_s", "", "lugs that its studs take", n_l=a_stud, n_s=there)
    return at_most(
        "power.lug-stud",
        at,
        lugs,
        most,
        lambda: mend(
            f"{{n}} lugs are to go on the {{n_s}} studs of {node.name}; {{n_l}} on one stud is the most.",
            "A tall stack works loose, and only its lowest lug lies on the bar.",
            {"n": lugs, "n_s": there, "n_l": a_stud},
            (Remedy("A bar with a stud for each lug", [release(at)]),),
        ),
    )


@judges("power.chafe", "cable through a wall", NOTE)
def chafe(part: PartSizing) -> Iterator[Check]:
    """A cable goes through a wall in a grommet.

    Source: practice: bare sheet metal cuts insulation.
    """
    at, wall = f"{part.pointer}/run/wall", part.node.run.wall
    if wall is None:
        return
    yield is_so(
        "power.chafe",
        at,
        wall != "bare",
        lambda: note(
            f"The cable to {part.node.name}, which may carry {{I}}, goes through a wall without a grommet.",
            "The edge of the hole saws through the insulation on every bump of the road.",
            {"I": part.design},
            (Remedy("A grommet in the hole", [set_value(at, "grommet")]),),
        ),
    )


@judges("power.live-pins", "live contacts", STOP)
def live_pins(part: PartSizing, node: Plug | Outlet) -> Check:
    """Contacts that are live from the pack are shrouded.

    Source: practice: the live side is the socket, never the pins.
    """
    at = f"{part.pointer}/pins"
    return is_so(
        "power.live-pins",
        at,
        node.pins != "exposed",
        lambda: stop(
            f"The contacts of {node.name} stand bare and live: a fault there would be {{I_fault}}.",
            "A key or a wrench across them is a weld. The side of the source has the shrouded half.",
            {"I_fault": part.fault or part.design},
            (Remedy("Shrouded contacts on the live side", [set_value(at, "shrouded")]),),
        ),
    )


@judges("power.backfeed", "charging through the outlet", MEND)
def backfeed(part: PartSizing, source: SourceSizing, power: PowerSizing) -> Check:
    """Charging in through an outlet circuit: its fuse, its direction, its switch.

    Source: practice: a circuit made for a load is fused, switched and directed for it.
    """
    node, at, brought = part.node, f"{part.pointer}/source", source.current
    needed = Figure.by("I_least", "k · I", "A", "least fuse for charging", k=assumption("fuse_margin"), I=brought)
    way = [power.parts[k] for k in power.network.upstream(part.key)]
    wrong = []
    if any(kind_of(p.node).facts.role == "changes" for p in way):
        wrong.append("a converter stands in the way, which passes current outwards only")
    fuses = [(p, p.node) for p in way if isinstance(p.node, Protection)]
    small = next((p for p, _ in fuses if p.rating and p.rating.number < needed.number - 1e-9), None)
    if small is not None:
        wrong.append(f"{small.node.name} is too small for it")
    if any(fuse.polarised for _, fuse in fuses):
        wrong.append("a polarised breaker stands in the way")
    if any(isinstance(p.node, Switch) for p in way):
        wrong.append("it stops when the switch in the way is opened")
    patch = [release(at), *new_input(power.network, source.key, source.name, power.network.source(part.key))]
    return is_so(
        "power.backfeed",
        at,
        not wrong,
        lambda: mend(
            f"{node.name} is charged through by {source.name} with {{I}}, which asks for a fuse of {{I_least}}: {'; '.join(wrong)}.",
            "A circuit made for a load is fused, switched and directed for a load. Give charging an input of its own.",
            {"I": brought, "I_least": needed},
            (Remedy("An input of its own at the busbar instead", patch),),
        ),
    )


@judges("power.load-dump", "a charger that keeps its battery", MEND)
def load_dump(part: PartSizing, power: PowerSizing) -> Check:
    """What charges joins on the battery's side of every switch that can be opened.

    Source: practice: a controller or charger that loses its battery lets its output jump.
    """
    network, at = power.network, f"{part.pointer}/feed"
    way = [part.key, *network.upstream(part.key)]
    opens = [k for k in way if isinstance(network.nodes[k], Switch | Selector | Plug)]

    def fault() -> Fault:
        # Its own branch, up to where it joins others, is moved to what feeds the topmost switch.
        own = takewhile(lambda k: network.in_line(k) and k not in opens, way[1:])
        first, feed = [part.key, *own][-1], network.nodes[opens[-1]].feed
        able = (PACK if feed in power.sources else network.nodes[feed].part) in kind_of(network.nodes[first]).facts.fed_by
        remedies = [Remedy("Join it before that switch", [set_value(f"/power/network/{first}/feed", feed)])] if able else []
        named = power.ctx.charging.sources.get(getattr(part.node, "source", None) or "")
        said = f"{named.name} joins at {part.node.name} with" if named else f"{part.node.name} brings in"
        brought = named.current if named else part.current
        return mend(
            f"{said} {{I}} behind {network.nodes[opens[0]].name}: opened, that leaves the charger without the pack.",
            "Its output then jumps, up to the open voltage of an array, on everything that still hangs there.",
            {"I": brought},
            tuple(remedies),
        )

    return is_so("power.load-dump", at, not opens, fault)


@judges("power.two-sources", "sources kept apart", STOP)
def two_sources(part: PartSizing, field: str, interlocked: bool, remedy: Remedy) -> Check:
    """Two sources that meet are kept apart by an interlock."""
    return is_so(
        "power.two-sources",
        f"{part.pointer}/{field}",
        interlocked,
        lambda: stop(
            f"{part.node.name} can join two sources, as nothing interlocks them; {{I}} and more would run between them.",
            "Two batteries at different charge, or an inverter against the mains, are joined with nothing but cable between.",
            {"I": part.design},
            (remedy,),
        ),
    )


def switches(part: PartSizing) -> bool:
    """Whether a hand can cut off with a part what stands behind it: a switch, a selector, a breaker for DC that is within reach."""
    if isinstance(part.node, Protection):
        return part.node.reach is not None and family_of(part).is_dc_breaker
    return isinstance(part.node, Switch | Selector)


@judges("power.switch-reach", "reach of the main switch", MEND)
def switch_reach(source: str, power: PowerSizing) -> Iterator[Check]:
    """One switch cuts off everything behind a source, and one hand reaches it; a breaker made for DC may be that switch.

    Source: practice: one switch, outside, with one hand.
    """
    network = power.network
    if not network.children[source]:
        return
    path = network.main_path(source)
    at_end = (
        k for k in network.feeds[path[-1] if path else source] if isinstance(network.nodes[k], Selector)
    )  # it may be the other way of one
    switch = next((k for k in (*path, *at_end) if switches(power.parts[k])), None)
    if switch is None:
        pack = source == PACK
        of = "" if pack else f" of {power.sources[source].name}"
        breakers = [k for k in path if isinstance(network.nodes[k], Protection) and family_of(power.parts[k]).is_dc_breaker]
        remedies = [
            Remedy(
                f"{network.nodes[k].name} as main switch, outside, where one hand opens it",
                [set_value(f"/power/network/{k}/reach", "outside")],
            )
            for k in breakers[:1]
        ]
        fault = mend(
            f"No switch cuts off everything{of}: {{I}} runs to the loads with nothing to open but a fuse.",
            ONE_HAND,
            {"I": power.current if pack else power.banks[source].current},
            (*remedies, Remedy("Put in a main switch", put_switch(network, source))),
        )
        yield failed("power.switch-reach", "/power" if pack else power.sources[source].pointer, fault)
        return
    node, at = network.nodes[switch], f"/power/network/{switch}/reach"
    reach = "outside" if isinstance(node, Selector) else getattr(node, "reach", None)
    how = "cannot be reached with the lid shut" if reach == "inside" else "takes two hands to open"
    yield is_so(
        "power.switch-reach",
        at,
        reach == "outside",
        lambda: mend(
            f"{node.name}, which cuts off {{I}}, {how}.",
            ONE_HAND,
            {"I": power.parts[switch].design},
            (Remedy("Set it outside, where one hand opens it", [set_value(at, "outside")]),),
        ),
    )


@judges("power.meter-voltage", "state of charge by voltage", NOTE)
def meter_voltage(power: PowerSizing, pack: PackSizing) -> Iterator[Check]:
    """The state of charge is not read from the voltage alone where that hardly moves.

    Source: open-circuit curve of the chemistry: flat below 0.03 V a tenth of charge (assumptions table).
    """
    row, limit = pack.chemistry, assumption("flat_curve")
    if row.kind != "lithium" or not power.network.children[PACK]:
        return
    slope = row.figure(
        "ΔV", (row.open_circuit(0.8) - row.open_circuit(0.3)) / 5, "V", "rise of a rested cell over a tenth of its charge"
    )
    yield is_so(
        "power.meter-voltage",
        "/power/shunt",
        power.shunt is not None or slope.number > limit.number,
        lambda: note(
            f"Without a shunt the state of charge is read from the voltage; of {row.label} it moves by {{ΔV}} a cell for a tenth of the charge.",
            "Between a third and four fifths full a voltmeter cannot tell: under load it lies, and the end comes without warning.",
            {"ΔV": slope},
            (Remedy("A meter with a shunt", [{"op": "add", "path": "/power/shunt", "value": {}}]),),
        ),
    )


def judge_bank(key: str, bank: BankSizing, power: PowerSizing) -> Iterator[Check]:
    """Current, energy, voltage and cold of a further bank."""
    at, source, site = f"/power/banks/{key}", bank.source, power.ctx.site
    row = chemistries()[power.ctx.path.banks[key].chemistry]
    yield bank_over_60(bank, row, at)
    if row.kind == "lead":
        yield block(row, power.ctx.path.banks[key].series, f"{at}/series")
        yield freezing(row, (bank.usable.inputs or {})["DoD"], site, at, "power")
    else:
        yield cold_use(row, site, at, "power")
    steady = bank_gives("continuously", bank.current, source.continuous, bank, row, at)
    yield steady
    if steady.finding is None:
        yield bank_gives("in the worst surge", bank.surge, source.burst, bank, row, at)
    if cycled(power, key):
        yield bank_energy(bank, at)
    else:
        yield held("loads.energy-short", at)


@judges("pack.voltage-over-60")
def bank_over_60(bank: BankSizing, row: Chemistry, at: str) -> Check:
    """A further bank stays below the voltage at which touching is dangerous.

    Source: 60 V DC, above which protection against touching is due (IEC 60364-4-41; assumptions table).
    """
    limit = assumption("touch_voltage")
    most = int(limit.number // row.v_max)
    return at_most(
        "pack.voltage-over-60",
        f"{at}/series",
        bank.source.v_max,
        limit,
        lambda: stop(
            f"Charged, {bank.source.name} stands at {{V_max}}, above {{U_t}} DC.",
            "Above 60 V DC touching is dangerous: that is outside what can be planned here without licensed practice.",
            {"V_max": bank.source.v_max, "U_t": limit},
            (Remedy(f"{most} cells in series", [set_value(f"{at}/series", most)]),),
        ),
        slack=0.0,
        station="power",
    )


@judges("loads.energy-short")
def bank_energy(bank: BankSizing, at: str) -> Check:
    """A further bank gives the energy that is asked of it between charges.

    Source: its sheet, and the daily window of its chemistry.
    """

    def fault() -> Fault:
        capacity = (bank.usable.inputs or {})["C"].number
        wanted = min(LARGEST, round(capacity * bank.asked.number / max(bank.usable.number, 1e-9) * 1.2, 1))
        return stop(
            f"{{E_away}} are asked of {bank.source.name} between charges; it gives {{E_use}}.",
            "That bank goes dark before it is charged again.",
            {"E_away": bank.asked, "E_use": bank.usable},
            (Remedy(f"A bank of {wanted:g} Ah", [set_value(f"{at}/capacity_ah", wanted)]),),
        )

    return at_most("loads.energy-short", at, bank.asked, bank.usable, fault, slack=0.0, station="power")


@judges("pack.current")
def bank_gives(when: str, asked: Figure, limit: Figure, bank: BankSizing, row: Chemistry, at: str) -> Check:
    """A further bank gives what is asked of it.

    Source: continuous and burst current of its sheet.
    """

    def fault() -> Fault:
        wanted = min(int(LARGEST), round(asked.number * constant("fuse_margin")))
        patch = [set_value(f"{at}/continuous_a", wanted), release(f"{at}/burst_a")]
        return stop(
            f"{{I}} is asked of {bank.source.name} {when}; it gives {{I_limit}}.",
            opens_or_heats(row, "Its board opens in the middle of the work, or its cells overheat."),
            {"I": asked, "I_limit": limit},
            (Remedy(f"A bank that gives {wanted} A", patch),),
        )

    return at_most("pack.current", at, asked, limit, fault, station="power")
