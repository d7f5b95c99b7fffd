"""Findings on how the path is built: places, directions, contacts, studs, sources that meet."""

from collections.abc import Iterator

from kegcart.core.brief.document import Brief
from kegcart.core.figure import Figure
from kegcart.core.finding import Finding, Remedy, Severity, release, set_value
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.devices import leaves_before, nearest_protections, stud_of
from kegcart.core.power.document import PACK, Busbar, Converter, Input, Inverter, Outlet, Plug, Protection, Selector, Switch
from kegcart.core.power.edits import put_switch
from kegcart.core.power.parts import PartSizing, PowerSizing
from kegcart.core.reference import assumption, constant, families

HAIR = 1e-9


def judge_safety(power: PowerSizing, pack: PackSizing, brief: Brief) -> Iterator[Finding]:
    for part in power.parts.values():
        if isinstance(part.node, Protection):
            yield from breaker_dc(part, power)
            yield from fuse_place(part, power)
            yield from selectivity(part, power)
        yield from lug_stud(part)
        yield from chafe(part)
        yield from live_pins(part, power)
        if isinstance(part.node, Plug):
            yield from plug_rating(part, power)
        if isinstance(part.node, Outlet) and part.node.charge_in_a is not None:
            yield from backfeed(part, power)
        if isinstance(part.node, Selector) and not part.node.interlocked:
            yield two_sources(part, "interlocked", True, "A selector that breaks before it makes")
        if isinstance(part.node, Inverter) and part.node.transfer == "not interlocked":
            yield two_sources(part, "transfer", "interlocked", "A transfer switch with an interlock")
    yield from many_lugs(power)
    yield from switch_reach(power)
    yield from meter_voltage(power, pack)
    yield from banks(power)


def both_ways(part: PartSizing, power: PowerSizing) -> bool:
    """Whether current runs through a part in both directions: loads out, and a charger in, or a second source."""
    behind = [power.network.nodes[k] for k in power.network.below(part.key)]
    brings = any(isinstance(n, Input) or (isinstance(n, Outlet) and n.charge_in_a is not None) for n in behind)
    return brings and any(isinstance(n, Outlet | Inverter | Converter) for n in behind)


def breaker_dc(part: PartSizing, power: PowerSizing) -> Iterator[Finding]:
    node, at = part.node, part.pointer
    assert isinstance(node, Protection) and part.family is not None
    family = next(f for f in families().values() if f.label == part.family.value)
    if family.v_dc <= 0:
        yield Finding(
            "power.breaker-dc",
            "power",
            Severity.STOP,
            f"{at}/family",
            f"{node.name} is a {{family}}: it has no DC rating, and the source reaches {{V_max}}.",
            "DC has no zero to put the arc out: an AC breaker draws it and goes on burning.",
            {"family": part.family, "V_max": part.source.v_max},
            (Remedy("Let family and rating be chosen", [release(f"{at}/family"), release(f"{at}/rating_a")]),),
        )
    elif node.polarised and both_ways(part, power):
        yield Finding(
            "power.breaker-dc",
            "power",
            Severity.STOP,
            f"{at}/polarised",
            f"{node.name} is polarised, and up to {{I}} runs through it out to the loads and back in from a charger.",
            "In the wrong direction a polarised breaker drives its arc into its own works.",
            {"I": part.design},
            (
                Remedy("A breaker for both directions", [set_value(f"{at}/polarised", False)]),
                Remedy(
                    "Let a fuse be chosen",
                    [set_value(f"{at}/polarised", False), release(f"{at}/family"), release(f"{at}/rating_a")],
                ),
            ),
        )


def fuse_place(part: PartSizing, power: PowerSizing) -> Iterator[Finding]:
    """The first protection stands at its source."""
    node, at = part.node, part.pointer
    assert isinstance(node, Protection)
    if part.guard is not None or part.run is None:
        return
    way = [part.key, *power.network.upstream(part.key)]
    length = sum(power.network.nodes[k].run.length_m for k in way)
    sheathed = all(power.network.nodes[k].run.sheathed for k in way)
    limit = assumption("main_unfused_sheathed" if sheathed else "main_unfused")
    if length <= limit.number + HAIR:
        return
    remedies = [Remedy("Set it at the post", [set_value(f"/power/network/{k}/run/length_m", 0.15 / len(way)) for k in way])]
    if not sheathed and length <= constant("main_unfused_sheathed"):
        remedies.append(Remedy("Sheathe and fix that run", [set_value(f"/power/network/{k}/run/sheathed", True) for k in way]))
    yield Finding(
        "power.fuse-place",
        "power",
        Severity.MEND,
        f"{at}/run/length_m",
        f"{node.name} stands {{L}} from the post; up to it nothing protects the cable, and {{L_max}} is allowed.",
        "A cable that chafes through before its fuse burns with the whole fault current of the pack.",
        {"L": Figure.decided("L", length, "m", "from the post", f"{at}/run/length_m"), "L_max": limit},
        tuple(remedies),
    )


def selectivity(part: PartSizing, power: PowerSizing) -> Iterator[Finding]:
    """One of several behind a fuse opens first, and the rest stays on."""
    node, at = part.node, part.pointer
    assert isinstance(node, Protection) and part.rating
    behind = nearest_protections(part.key, power.network)
    if not behind or (len(behind) < 2 and not leaves_before(part.key, power.network)):
        return
    ratio = assumption("selectivity")
    largest = max((power.parts[k] for k in behind), key=lambda p: p.rating.number if p.rating else 0.0)
    if largest.rating is None or part.rating.number >= ratio.number * largest.rating.number - HAIR:
        return
    needed = Figure.by("I_sel", "k_sel · I_b", "A", "rating at which it would stay closed", k_sel=ratio, I_b=largest.rating)
    remedies = []
    if node.rating_a:
        remedies.append(Remedy(f"Let {node.name} be sized", [release(f"{at}/rating_a"), release(f"{at}/family")]))
    pinned = [k for k in behind if getattr(power.network.nodes[k], "rating_a", None)]
    if pinned:
        remedies.append(Remedy("Let the fuses behind it be sized", [release(f"/power/network/{k}/rating_a") for k in pinned]))
    yield Finding(
        "power.selectivity",
        "power",
        Severity.MEND,
        f"{at}/rating_a",
        f"{node.name} of {{I_fuse}} opens together with {largest.node.name} of {{I_b}}: from {{I_sel}} it would stay closed.",
        "A fault in one circuit should darken that circuit, not the whole station.",
        {"I_fuse": part.rating, "I_b": largest.rating, "I_sel": needed},
        tuple(remedies),
    )


def lug_stud(part: PartSizing) -> Iterator[Finding]:
    stud, lug = stud_of(part), part.node.run.lug
    if stud is None or lug is None or lug == stud:
        return
    at = f"{part.pointer}/run/lug"
    yield Finding(
        "power.lug-stud",
        "power",
        Severity.MEND,
        at,
        f"The lug to {part.node.name} has a hole for {lug}; the stud there is {{stud}}.",
        "A hole too large leaves a fraction of the contact: the joint heats. One too small is drilled out, and worse.",
        {"stud": Figure.of("stud", stud, "", "stud", how="by the current it is sized for", inputs={"I_d": part.design})},
        (Remedy(f"Lugs for {stud}", [release(at)]),),
    )


def many_lugs(power: PowerSizing) -> Iterator[Finding]:
    limit = assumption("lugs_on_stud")
    for key, part in power.parts.items():
        node = part.node
        if not isinstance(node, Busbar) or node.studs is None:
            continue
        lugs = len(power.network.children[key]) + 1
        if lugs <= limit.number * node.studs:
            continue
        at = f"{part.pointer}/studs"
        yield Finding(
            "power.lug-stud",
            "power",
            Severity.MEND,
            at,
            f"{{n}} lugs are to go on the {{n_s}} studs of {node.name}; {{n_l}} on one stud is the most.",
            "A tall stack works loose, and only its lowest lug lies on the bar.",
            {
                "n": Figure.of("n", lugs, "", "lugs", how="its feed and every branch"),
                "n_s": Figure.decided("n_s", node.studs, "", "studs", at),
                "n_l": limit,
            },
            (Remedy("A bar with a stud for each lug", [release(at)]),),
        )


def chafe(part: PartSizing) -> Iterator[Finding]:
    if part.node.run.wall != "bare":
        return
    at = f"{part.pointer}/run/wall"
    yield Finding(
        "power.chafe",
        "power",
        Severity.NOTE,
        at,
        f"The cable to {part.node.name}, which may carry {{I}}, goes through a wall without a grommet.",
        "The edge of the hole saws through the insulation on every bump of the road.",
        {"I": part.design},
        (Remedy("A grommet in the hole", [set_value(at, "grommet")]),),
    )


def live_pins(part: PartSizing, power: PowerSizing) -> Iterator[Finding]:
    node = part.node
    if not isinstance(node, Plug | Outlet) or node.pins != "exposed":
        return
    at = f"{part.pointer}/pins"
    yield Finding(
        "power.live-pins",
        "power",
        Severity.STOP,
        at,
        f"The contacts of {node.name} stand bare and live: a fault there would be {{I_fault}}.",
        "A key or a wrench across them is a weld. The side of the source has the shrouded half.",
        {"I_fault": part.fault or part.design},
        (Remedy("Shrouded contacts on the live side", [set_value(at, "shrouded")]),),
    )


def plug_rating(part: PartSizing, power: PowerSizing) -> Iterator[Finding]:
    """A quick connect bears the fuse before it, as any connector does."""
    node = part.node
    guard = power.parts[part.guard] if part.guard else None
    asked = guard.rating if guard and guard.rating and guard.rating.number > part.design.number else part.design
    assert isinstance(node, Plug) and part.rating is not None
    if asked.number <= part.rating.number + HAIR:
        return
    at = f"{part.pointer}/connector"
    yield Finding(
        "power.connector",
        "power",
        Severity.STOP,
        at,
        f"{node.name}: {part.choice.value if part.choice else 'its connector'} bears {{I_con}}; {{I}} may flow through it.",
        "The fuse would let the connector melt before it opens.",
        {"I_con": part.rating, "I": asked},
        (Remedy("Let the connector be chosen", [release(at)]),) if node.connector else (),
    )


def backfeed(part: PartSizing, power: PowerSizing) -> Iterator[Finding]:
    """Charging in through an outlet circuit: its fuse, its direction, its switch."""
    node, at, network = part.node, f"{part.pointer}/charge_in_a", power.network
    assert isinstance(node, Outlet)
    brought = Figure.decided("I", node.charge_in_a or 0.0, "A", "charged in", at)
    needed = Figure.by("I_least", "k · I", "A", "least fuse for charging", k=assumption("fuse_margin"), I=brought)
    way = [power.parts[k] for k in network.upstream(part.key)]
    wrong = []
    if any(p.node.part in ("converter", "inverter") for p in way):
        wrong.append("a converter stands in the way, which passes current outwards only")
    small = next((p for p in way if isinstance(p.node, Protection) and p.rating and p.rating.number < needed.number - HAIR), None)
    if small is not None:
        wrong.append(f"{small.node.name} is too small for it")
    if any(isinstance(p.node, Protection) and p.node.polarised for p in way):
        wrong.append("a polarised breaker stands in the way")
    if any(isinstance(p.node, Switch) for p in way):
        wrong.append("it stops when the switch in the way is opened")
    if not wrong:
        return
    yield Finding(
        "power.backfeed",
        "power",
        Severity.MEND,
        at,
        f"{node.name} is charged through with {{I}}, which asks for a fuse of {{I_least}}: {'; '.join(wrong)}.",
        "A circuit made for a load is fused, switched and directed for a load. Give charging an input of its own.",
        {"I": brought, "I_least": needed},
        (Remedy("An input of its own at the busbar instead", [release(at), *own_input(power, part, node.charge_in_a or 10.0)]),),
    )


def own_input(power: PowerSizing, part: PartSizing, amps: float) -> list[dict[str, object]]:
    """The operations that add a fused input at the first busbar, or at the post, of the same source."""
    network = power.network
    source = network.source(part.key)
    bar = next((k for k in network.order if network.nodes[k].part == "busbar" and network.source(k) == source), source)
    n = 1
    while f"input-{n}" in network.nodes or f"input-fuse-{n}" in network.nodes:
        n += 1
    fuse = {"part": "protection", "name": "Charging fuse", "feed": bar, "run": {"length_m": 0.1}}
    entry = {"part": "input", "name": "Charging input", "feed": f"input-fuse-{n}", "current_a": amps, "run": {"length_m": 0.5}}
    return [
        {"op": "add", "path": f"/power/network/input-fuse-{n}", "value": fuse},
        {"op": "add", "path": f"/power/network/input-{n}", "value": entry},
    ]


def two_sources(part: PartSizing, field: str, value: object, label: str) -> Finding:
    at = f"{part.pointer}/{field}"
    return Finding(
        "power.two-sources",
        "power",
        Severity.STOP,
        at,
        f"{part.node.name} can join two sources, as nothing interlocks them; {{I}} and more would run between them.",
        "Two batteries at different charge, or an inverter against the mains, are joined with nothing but cable between.",
        {"I": part.design},
        (Remedy(label, [set_value(at, value)]),),
    )


def switch_reach(power: PowerSizing) -> Iterator[Finding]:
    network = power.network
    if not network.children[PACK]:
        return
    path = network.main_path()
    switch = next((k for k in path if isinstance(network.nodes[k], Switch | Selector)), None)
    if switch is None:
        yield Finding(
            "power.switch-reach",
            "power",
            Severity.MEND,
            "/power",
            "No switch cuts off everything: {I} runs to the loads with nothing to open but a fuse.",
            "When something smells, one hand must find one switch.",
            {"I": power.current},
            (Remedy("Put in a main switch", put_switch(network)),),
        )
        return
    node = network.nodes[switch]
    if isinstance(node, Switch) and node.reach != "outside":
        at = f"/power/network/{switch}/reach"
        how = "cannot be reached with the lid shut" if node.reach == "inside" else "takes two hands to open"
        yield Finding(
            "power.switch-reach",
            "power",
            Severity.MEND,
            at,
            f"{node.name}, which cuts off {{I}}, {how}.",
            "When something smells, one hand must find one switch.",
            {"I": power.parts[switch].design},
            (Remedy("Set it outside, where one hand opens it", [set_value(at, "outside")]),),
        )


def meter_voltage(power: PowerSizing, pack: PackSizing) -> Iterator[Finding]:
    row, limit = pack.chemistry, assumption("flat_curve")
    if power.shunt is not None or row.kind != "lithium" or not power.network.children[PACK]:
        return
    slope = (row.open_circuit(0.8) - row.open_circuit(0.3)) / 5
    if slope > limit.number:
        return
    yield Finding(
        "power.meter-voltage",
        "power",
        Severity.NOTE,
        "/power/shunt",
        f"Without a shunt the state of charge is read from the voltage; of {row.label} it moves by {{ΔV}} a cell for a tenth of the charge.",
        "Between a third and four fifths full a voltmeter cannot tell: under load it lies, and the end comes without warning.",
        {"ΔV": row.figure("ΔV", slope, "V", "rise of a rested cell over a tenth of its charge")},
        (Remedy("A meter with a shunt", [{"op": "add", "path": "/power/shunt", "value": {}}]),),
    )


def banks(power: PowerSizing) -> Iterator[Finding]:
    """Current and energy asked of further banks."""
    for key, bank in power.banks.items():
        at = f"/power/banks/{key}"
        source = bank.source
        for when, asked, limit in (
            ("continuously", bank.current, source.continuous),
            ("in the worst surge", bank.surge, source.burst),
        ):
            if asked.number > limit.number + HAIR:
                yield Finding(
                    "pack.current",
                    "power",
                    Severity.STOP,
                    at,
                    f"{{I}} is asked of {source.name} {when}; it gives {{I_limit}}.",
                    "Its board opens in the middle of the work, or its cells overheat.",
                    {"I": asked, "I_limit": limit},
                    (
                        Remedy(
                            f"A bank that gives {asked.number * 1.25:.0f} A",
                            [set_value(f"{at}/continuous_a", min(5000, round(asked.number * 1.25))), release(f"{at}/burst_a")],
                        ),
                    ),
                )
                break
        if bank.asked.number > bank.usable.number:
            capacity = (bank.usable.inputs or {})["C"].number
            wanted = min(5000.0, round(capacity * bank.asked.number / max(bank.usable.number, 1e-9) * 1.2, 1))
            yield Finding(
                "loads.energy-short",
                "power",
                Severity.STOP,
                at,
                f"{{E_away}} are asked of {source.name} between charges; it gives {{E_use}}.",
                "That bank goes dark before it is charged again.",
                {"E_away": bank.asked, "E_use": bank.usable},
                (Remedy(f"A bank of {wanted:g} Ah", [set_value(f"{at}/capacity_ah", wanted)]),),
            )
