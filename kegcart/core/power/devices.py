"""Fuses, breakers, switches, busbars, blocks, converters and outlets: the smallest sold that serves, or as pinned."""

from kegcart.core.brief.document import OUTLET_VOLTAGE, Brief
from kegcart.core.choice import sized
from kegcart.core.electrical import conductors, protection
from kegcart.core.figure import Figure
from kegcart.core.loads.sizing import Demand, find_peak
from kegcart.core.power.document import Busbar, Converter, FuseBlock, Node, Outlet, Plug, Protection, Selector, Switch
from kegcart.core.power.flow import Flow
from kegcart.core.power.network import Network
from kegcart.core.power.parts import REGULATED_V, Bench, PartSizing
from kegcart.core.reference import Connector, assumption, busbars, connectors, constant, families, sizes, wires


def in_block(node: Node, network: Network) -> bool:
    """Whether a part sits in a fuse block, so that no cable leads to it."""
    feeder = network.nodes.get(node.feed)
    return isinstance(node, Protection) and feeder is not None and feeder.part == "fuse_block"


def connector_choices(supply: str, brief: Brief) -> list[Connector]:
    """Connectors of a supply, smallest first."""
    mains_v = 230 if OUTLET_VOLTAGE[brief.mains] == 230 else 120
    fitting = [c for c in connectors().values() if supply in c.supplies and c.mains_v in (None, mains_v)]
    return sorted(fitting, key=lambda c: (c.rating_w or 0, c.rating_a))


def fuse_bound(key: str, bench: Bench) -> float:
    """The greatest fuse in A that the pinned parts of its segment, and the largest sold of the auto ones, bear."""
    network = bench.network
    bounds = [float("inf")]
    for child in network.segment(key):
        node = network.nodes[child]
        wire = wires()[node.run.gauge] if node.run.gauge else conductors.gauges(bench.brief.gauge_system)[-1]
        if not in_block(node, network):
            bounds.append(
                min(
                    bench.ampacity(wire, node.run), (wire.max_fuse_a[bench.brief.wire_school] or float("inf")) * node.run.parallel
                )
            )
        if isinstance(node, Outlet):
            if node.connector:
                bounds.append(connectors()[node.connector].rating_a)
            else:
                bounds.append(max(c.rating_a for c in connector_choices(network.supply(child), bench.brief)))
        elif isinstance(node, Busbar):
            bar = busbars()[node.section] if node.section else max(busbars().values(), key=lambda b: b.ampacity_a)
            bounds.append(bar.ampacity_a * constant("closed_box_bar"))
        elif isinstance(node, FuseBlock):
            bounds.append(node.rating_a or sizes("fuse-block").sizes[-1])
        elif isinstance(node, Plug):
            bounds.append(plug_type(node, 0.0).rating_a if node.connector else largest_plug().rating_a)
        elif isinstance(node, Switch | Selector):
            bounds.append(node.rating_a or sizes("switch").sizes[-1])
    return min(bounds)


def selective_rating(key: str, bench: Bench) -> float:
    """The rating in A at which this protection stays closed when one of several behind it opens; 0 where that is no matter.

    The ratings behind are not chosen yet: what would serve there without regard to the fault stands for them.
    """
    network = bench.network
    behind = nearest_protections(key, network)
    if not behind or (len(behind) < 2 and not leaves_before(key, network)):
        return 0.0
    guesses = []
    for child in behind:
        node = network.nodes[child]
        assert isinstance(node, Protection)
        least = bench.parts[child].design.number * constant("fuse_margin")
        surges, source = bench.parts[child].flow.surges, bench.source(child)
        guess = protection.pick(least, surges, source.v_max.number, 0.0, float("inf"), node.family, in_block(node, network))
        guesses.append(node.rating_a or guess.rating_a)
    return constant("selectivity") * max(guesses, default=0.0)


def nearest_protections(key: str, network: Network) -> list[str]:
    """The protections that stand next behind a part, with none between."""
    out = []
    for child in network.children[key]:
        if network.nodes[child].part == "protection":
            out.append(child)
        elif network.nodes[child].part not in ("inverter", "converter"):
            out += nearest_protections(child, network)
    return out


def leaves_before(key: str, network: Network) -> list[str]:
    """The devices a protection feeds with no further protection between."""
    out = []
    for child in network.children[key]:
        part = network.nodes[child].part
        if part in ("inverter", "converter", "outlet", "input"):
            out.append(child)
        elif part != "protection":
            out += leaves_before(child, network)
    return out


def size_protection(part: PartSizing, node: Protection, bench: Bench, fault: Figure) -> protection.Protection:
    """Rating and family of a fuse or breaker."""
    margin = assumption("fuse_margin")
    least = Figure.by("I_least", "k · I_d", "A", "least rating", k=margin, I_d=part.design)
    most_a = fuse_bound(part.key, bench)
    wanted = max(least.number, min(selective_rating(part.key, bench), most_a))
    chosen = protection.pick(
        wanted,
        part.flow.surges,
        part.source.v_max.number,
        fault.number,
        most_a,
        node.family,
        in_block(node, bench.network),
        node.rating_a,
    )
    inputs = {"I_least": least, "I_surge": part.surge, "I_fault": fault, "V_max": part.source.v_max}
    if most_a != float("inf"):
        inputs["I_most"] = Figure.of("I_most", most_a, "A", "most that the parts behind it bear")
    part.rating = sized(
        "I_fuse",
        node.rating_a,
        chosen.rating_a,
        "A",
        "rating",
        f"{part.pointer}/rating_a",
        "next standard size up from 1.25 × the design current that rides through the surges and stays closed when one behind it opens",
        inputs,
        f"rating:{chosen.family.key}",
    )
    family = families()[node.family] if node.family else chosen.family
    part.family = sized(
        "family",
        node.family and family.label,
        family.label,
        "",
        "family",
        f"{part.pointer}/family",
        "simplest family sold in that rating that interrupts the fault at this voltage",
        {"I_fault": fault, "V_max": part.source.v_max},
        "family",
    )
    rows = {
        "least": least,
        "rating": part.rating,
        "family": part.family,
        "interrupts": family.figure(
            "I_int",
            protection.interrupt_rating(family, part.source.v_max.number),
            "A",
            f"{family.label}: interrupts at the pack's greatest voltage",
        ),
        "voltage": family.figure("V_dc", family.v_dc, "V", f"{family.label}: voltage rating"),
    }
    for name, figure in rows.items():
        bench.put(part.key, name, figure)
    part.extra = rows
    return protection.Protection(family, part.rating.number)


def size_device(part: PartSizing, bench: Bench, guard_a: float, plugged: dict[str, list[Demand]]) -> float:
    """Choose what is sized of a switch, busbar, block, converter or outlet; hands back its series resistance in Ω."""
    node, key = part.node, part.key
    bears = max(guard_a, part.design.number * constant("fuse_margin"))
    needed = Figure.of(
        "I_need",
        bears,
        "A",
        "what it must bear",
        how="the protection before it, and 1.25 × the design current",
        inputs={"I_d": part.design},
    )
    how = "smallest sold that bears the protection before it"
    if isinstance(node, Plug):
        size_plug(part, node, bench, needed)
        return constant("plug_resistance")
    if isinstance(node, Switch | Selector | FuseBlock):
        table = sizes("fuse-block" if isinstance(node, FuseBlock) else "switch")
        part.rating = sized(
            "I_rated",
            node.rating_a,
            table.pick(bears),
            "A",
            "rating",
            f"{part.pointer}/rating_a",
            how,
            {"I_need": needed},
            table.key,
        )
        bench.put(key, "rating", part.rating)
        return 0.0 if isinstance(node, FuseBlock) else constant("switch_resistance")
    if isinstance(node, Busbar):
        k_box = assumption("closed_box_bar")
        bar = (
            busbars()[node.section]
            if node.section
            else next(
                (b for b in sorted(busbars().values(), key=lambda b: b.ampacity_a) if b.ampacity_a * k_box.number >= bears),
                max(busbars().values(), key=lambda b: b.ampacity_a),
            )
        )
        part.choice = bench.put(
            key,
            "section",
            sized("section", node.section, bar.key, "", "section", f"{part.pointer}/section", how, {"I_need": needed}, "busbar"),
        )
        part.rating = bench.put(
            key,
            "rating",
            Figure.by(
                "I_bar", "I_tab · k_b", "A", "rating in a closed box", I_tab=bar.figure("I_tab", bar.ampacity_a, "A"), k_b=k_box
            ),
        )
    elif isinstance(node, Converter):
        out = Flow.total((bench.parts[child].flow for child in bench.network.children[key]), bench.loads.day)
        output = bench.put(
            key,
            "output",
            Figure.by(
                "I_out",
                "sum",
                "A",
                "greatest output",
                {
                    bench.network.nodes[c].name + f" ({c})": Figure.of(
                        "I", bench.parts[c].flow.running[out.peak_step], "A", bench.network.nodes[c].name
                    )
                    for c in bench.network.children[key]
                },
            ),
        )
        part.extra = {"output": output}
        part.rating = bench.put(
            key,
            "rating",
            sized(
                "I_rated",
                node.rating_a,
                sizes("converter").pick(out.peak * constant("fuse_margin")),
                "A",
                "output rating",
                f"{part.pointer}/rating_a",
                "smallest sold from 1.25 × its output",
                {"I_out": output},
                "converter",
            ),
        )
    elif isinstance(node, Outlet):
        size_outlet(part, node, bench, guard_a, plugged[key])
    return 0.0


def plug_choices() -> list[Connector]:
    """Connectors that can stand in a line, smallest first."""
    return sorted((c for c in connectors().values() if "pack" in c.supplies), key=lambda c: c.rating_a)


def largest_plug() -> Connector:
    return plug_choices()[-1]


def plug_type(node: Plug, needed_a: float) -> Connector:
    """The pinned connector of a quick connect, or the smallest that bears the current."""
    if node.connector:
        return connectors()[node.connector]
    return next((c for c in plug_choices() if c.rating_a >= needed_a - 1e-9), largest_plug())


def size_plug(part: PartSizing, node: Plug, bench: Bench, needed: Figure) -> None:
    """The connector of a quick connect."""
    chosen = plug_type(node, needed.number)
    part.choice = bench.put(
        part.key,
        "connector",
        sized(
            "connector",
            node.connector and chosen.label,
            chosen.label,
            "",
            "connector",
            f"{part.pointer}/connector",
            "smallest sold that bears the protection before it",
            {"I_need": needed},
            "connector:pack",
        ),
    )
    part.rating = bench.put(part.key, "rating", chosen.figure("I_con", chosen.rating_a, "A", f"{chosen.label}: rating"))


def size_outlet(part: PartSizing, node: Outlet, bench: Bench, guard_a: float, demands: list[Demand]) -> None:
    """The connector of an outlet, and what it may give."""
    supply = bench.network.supply(part.key)
    offered = connector_choices(supply, bench.brief)
    mains_v = OUTLET_VOLTAGE[bench.brief.mains]
    together = find_peak(demands, bench.loads.day)
    one_unit = max((d.watts.number for d in demands), default=0.0)
    if supply == "usb":
        asked = Figure.of(
            "P",
            max(together.running.number / node.ways, one_unit),
            "W",
            "asked of one port",
            how="the running sum shared over the ports, or the greatest one load",
            inputs={"P_peak": together.running},
        )
    elif supply == "ac":
        factor = [d.apparent_va / d.load.count / mains_v for d in demands]
        asked = Figure.of(
            "I",
            max(together.apparent.number / mains_v / node.ways, max(factor, default=0.0)),
            "A",
            "asked of one socket",
            how="apparent power over the mains voltage, shared over the sockets, or the greatest one load",
            inputs={"S": together.apparent, "U": Figure.decided("U", mains_v, "V", "mains voltage", "/brief/mains")},
        )
    else:
        volts = REGULATED_V if supply == "dc_12v" else part.source.v_low.number
        asked = Figure.of(
            "I",
            max(part.current.number / node.ways, one_unit / volts),
            "A",
            "asked of one socket",
            how="the running current shared over the sockets, or the greatest one load",
            inputs={"I": part.current},
        )
    need_a = guard_a if supply != "ac" else 0.0

    def limit(c: Connector) -> float:
        return c.rating_w if c.rating_w is not None else c.rating_a

    serving = [c for c in offered if c.rating_a >= need_a and limit(c) >= asked.number - 1e-9]
    strong = [c for c in offered if c.rating_a >= need_a]
    chosen = connectors()[node.connector] if node.connector else (serving or strong[-1:] or offered[-1:])[0]
    part.choice = bench.put(
        part.key,
        "connector",
        sized(
            "connector",
            node.connector and chosen.label,
            chosen.label,
            "",
            "connector",
            f"{part.pointer}/connector",
            "smallest sold that bears the protection before it and what is plugged in",
            {"I_guard": Figure.of("I_guard", need_a, "A", "protection before it"), "asked": asked},
            f"connector:{supply}",
        ),
    )
    part.rating = bench.put(part.key, "rating", chosen.figure("I_con", chosen.rating_a, "A", f"{chosen.label}: rating"))
    part.extra = {
        "asked": bench.put(part.key, "asked", asked),
        "limit": bench.put(part.key, "limit", chosen.figure("limit", limit(chosen), asked.unit, f"{chosen.label}: for one way")),
    }


#: Stud of a part by the current it is sized for: up to so many A.
STUDS = ((30.0, "M5"), (80.0, "M6"), (250.0, "M8"), (float("inf"), "M10"))
BOLTED = frozenset({"switch", "selector", "busbar", "fuse_block", "inverter"})


def stud_of(part: PartSizing) -> str | None:
    """The stud a part's lugs go on; None where it has clamps or a socket's own contacts."""
    bolted = part.node.part in BOLTED
    if isinstance(part.node, Protection) and part.family is not None:
        family = next(f for f in families().values() if f.label == part.family.value)
        bolted = family.mount == "inline" and family.key != "large-blade"
    if not bolted:
        return None
    return next(stud for limit, stud in STUDS if part.design.number <= limit)
