"""Power path: currents, gauges, fuses and devices settled together.

Currents are added up from the sockets to the posts; then the parts are sized from the posts down,
as each fuse must open the fault current that the resistance before it lets through. Within the
segment a fuse guards, the fuse comes first, then wire, switch, busbar and connectors that bear it.
"""

from kegcart.core.brief.document import Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.choice import sized
from kegcart.core.electrical import protection
from kegcart.core.figure import Figure, Sheet
from kegcart.core.loads.sizing import Demand, LoadsSizing
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.ac import size_ac_branch
from kegcart.core.power.banks import find_sources, size_bank
from kegcart.core.power.currents import current_figures, find_flows, upward
from kegcart.core.power.devices import in_block, size_device, size_protection, stud_of
from kegcart.core.power.document import PACK, Plug, PowerPath, Protection, Selector, Switch
from kegcart.core.power.energy import size_energy
from kegcart.core.power.flow import Flow
from kegcart.core.power.idle import find_idle, shelf_time
from kegcart.core.power.inverters import size_inverter
from kegcart.core.power.network import Network, plug_in
from kegcart.core.power.parts import Bench, InverterSizing, PartSizing, PowerSizing, Source
from kegcart.core.power.runs import LUGS, path_drop, size_run
from kegcart.core.reference import assumption, constant, families, sizes


def size_parts(
    bench: Bench,
    flows: dict[str, Flow],
    plugged: dict[str, list[Demand]],
    inverters: dict[str, InverterSizing],
    shunt: Figure | None,
) -> None:
    """Size every part from the posts down; fills `bench.parts`."""
    network = bench.network
    for key in upward(network):
        current, design, surge = current_figures(key, flows, bench, plugged, inverters.get(key))
        bench.parts[key] = PartSizing(
            key, network.nodes[key], flows[key], current, design, surge, network.guard(key), bench.source(key)
        )
    shunt_ohm = constant("shunt_drop") / shunt.number if shunt else 0.0
    before = {key: source.fault_resistance.number for key, source in bench.sources.items()}
    before[PACK] += shunt_ohm

    def fault_at(ohm: float, source: Source) -> Figure:
        return Figure.by(
            "I_fault",
            "V_max / R_to",
            "A",
            "prospective fault current here",
            V_max=source.v_max,
            R_to=Figure.of(
                "R_to",
                ohm,
                "Ω",
                "resistance up to here",
                how="pack at 1 kHz, cold copper of both legs, lugs, fuses, switches and shunt before it",
                inputs={"R_1k": source.fault_resistance},
            ),
        )

    for key in network.order:
        part = bench.parts[key]
        node = part.node
        is_ac = "inverter" in (network.nodes[up].part for up in network.upstream(key))
        guard = bench.parts[part.guard] if part.guard else None
        guard_a = guard.rating.number if guard and guard.rating else 0.0
        if is_ac:
            size_device(part, bench, 0.0, plugged)
            size_ac_branch(part, bench)
            continue
        ohm = before[node.feed]
        first = isinstance(node, Protection) and guard is None
        chosen: protection.Protection | None = None
        if isinstance(node, Protection) and first:
            part.fault = bench.put(key, "fault", part.source.fault if node.feed in bench.sources else fault_at(ohm, part.source))
            chosen = size_protection(part, node, bench, part.fault)
        if not in_block(node, network):
            part.run = size_run(part, bench, chosen.rating_a if chosen else guard_a)
            ohm += part.run.cold_ohm
        if part.fault is None:
            part.fault = bench.put(key, "fault", fault_at(ohm, part.source))
        if isinstance(node, Protection):
            chosen = chosen or size_protection(part, node, bench, part.fault)
            ohm += protection.resistance(chosen.family, chosen.rating_a)
        else:
            ohm += size_device(part, bench, guard_a, plugged)
        if stud := stud_of(part):
            how = "by the current it is sized for: M5 to 30 A, M6 to 80 A, M8 to 250 A, M10 above"
            bench.put(
                key, "stud", Figure.of("stud", stud, "", "stud, and hole of the lugs", how=how, inputs={"I_d": part.design})
            )
        before[key] = ohm


def main_resistance(bench: Bench, shunt: Figure | None) -> Figure:
    """Resistance in Ω of what all current passes between post and busbar, warm."""
    inputs: dict[str, Figure] = {}
    for key in bench.network.main_path():
        part = bench.parts[key]
        if part.run:
            inputs[f"{part.node.name}: run ({key})"] = part.run.resistance
            inputs[f"{part.node.name}: lugs ({key})"] = Figure.of(
                "4·R_j", LUGS * constant("joint_resistance"), "Ω", "four lugs", inputs={"R_j": assumption("joint_resistance")}
            )
        if isinstance(part.node, Protection) and part.rating and part.family:
            family = next(f for f in families().values() if f.label == part.family.value)
            inputs[f"{part.node.name} ({key})"] = Figure.of(
                "R_f",
                protection.resistance(family, part.rating.number),
                "Ω",
                "fuse or breaker",
                how="its typical drop over its rating",
                inputs={"I_fuse": part.rating},
            )
        elif isinstance(part.node, Plug):
            inputs[f"{part.node.name} ({key})"] = assumption("plug_resistance")
        elif isinstance(part.node, Switch | Selector):
            inputs[f"{part.node.name} ({key})"] = assumption("switch_resistance")
    if shunt:
        drop = assumption("shunt_drop")
        inputs["shunt"] = Figure.by("R_shunt", "U_s / I_s", "Ω", "shunt", U_s=drop, I_s=shunt)
    return Figure.by("R_main", "sum", "Ω", "main path, post to busbar", inputs)


def size_power(path: PowerPath, brief: Brief, site: Site, loads: LoadsSizing, pack: PackSizing, sheet: Sheet) -> PowerSizing:
    """The whole path, sized together."""
    network = Network.of(path)
    bench = Bench(brief, site, loads, pack, network, sheet, {}, find_sources(path, pack, sheet), path.banks)
    plugged, homeless = plug_in(network, loads.demands)
    inverters = {
        key: size_inverter(key, node, [d for k in network.children[key] for d in plugged.get(k, [])], bench)
        for key, node in network.inverters()
    }
    flows = find_flows(bench, plugged, inverters)
    fed = (*network.children[PACK], *network.selected_from(PACK))
    total = Flow.total((flows[key] for key in fed), loads.day)
    shunt = None
    margin = assumption("fuse_margin")
    if path.shunt is not None:
        step = total.design_step
        bare = Figure.of("I_d", total.running[step] + total.spare[step], "A", "design current of the pack")
        shunt = sheet.put(
            "power/shunt/rating",
            sized(
                "I_s",
                path.shunt.rating_a,
                sizes("shunt").pick(margin.number * bare.number),
                "A",
                "shunt",
                "/power/shunt/rating_a",
                "smallest sold from 1.25 × the design current",
                {"I_d": bare, "k": margin},
                "shunt",
            ),
        )
    size_parts(bench, flows, plugged, inverters, shunt)
    roots = {
        network.nodes[k].name + f" ({k})": Figure.of(
            "I", flows[k].running[total.peak_step], "A", network.nodes[k].name, inputs={"I_max": bench.parts[k].current}
        )
        for k in fed
    }
    current = sheet.put("power/current", Figure.by("I", "sum", "A", "greatest running current of the pack", roots))
    sheet.put("power/current_at", Figure.of("t", loads.day.moment(loads.day.edges_h[total.peak_step]), "", "when it begins"))
    worst = total.worst_start
    surge_value = max(total.worst(worst) if worst else 0.0, total.peak)
    surge = sheet.put(
        "power/surge",
        Figure.of(
            "I_surge",
            surge_value,
            "A",
            "worst surge of the pack",
            how=f"{loads.starts[worst.key].name} starting, for {worst.length_s:g} s" if worst else "nothing starts with a surge",
            inputs={"I": current, **({"ΔP": loads.starts[worst.key].extra} if worst else {})},
        ),
    )
    for key in network.outlets():
        if bench.parts[key].run:
            bench.put(key, "path_drop", path_drop(key, bench))
    main_ohm = sheet.put("power/main_resistance", main_resistance(bench, shunt))

    used = size_energy(bench, plugged, inverters, flows, main_ohm)
    banks = {key: size_bank(key, bench, flows, plugged) for key in path.banks}
    idle = find_idle(path, bench, shunt)
    return PowerSizing(
        network,
        bench.parts,
        inverters,
        plugged,
        homeless,
        current,
        surge,
        shunt,
        main_ohm,
        used.drawn_w,
        used.drawn_day,
        used.drawn_away,
        used.wiring_day,
        used.available,
        bench.sources,
        banks,
        idle,
        shelf_time(idle, bench, used.available),
    )
