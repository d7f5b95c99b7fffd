"""Power path: currents, gauges, fuses and devices settled together.

Currents are added up from the sockets to the posts; then the parts are sized from the posts down,
as each fuse must open the fault current that the resistance before it lets through. Within the
segment a fuse guards, the fuse comes first, then wire, switch, busbar and connectors that bear it.
"""

from collections.abc import Iterable
from dataclasses import dataclass, field

from kegcart.core.brief.document import OUTLET_VOLTAGE, Brief
from kegcart.core.brief.sizing import Site
from kegcart.core.choice import sized
from kegcart.core.electrical import conductors, protection
from kegcart.core.electrical.inverter import LossCurve, class_for, derating, needed_rating, pick_rating
from kegcart.core.electrical.source import fault_current
from kegcart.core.figure import Figure, Sheet
from kegcart.core.loads.sizing import Demand, LoadsSizing, Peak, find_peak
from kegcart.core.pack.sizing import PackSizing
from kegcart.core.power.document import (
    PACK,
    Busbar,
    Converter,
    FuseBlock,
    Inverter,
    Node,
    Outlet,
    PowerPath,
    Protection,
    Run,
    Switch,
)
from kegcart.core.power.flow import Flow, into_converter, into_inverter, of_loads
from kegcart.core.power.network import Network, plug_in
from kegcart.core.reference import Connector, Wire, assumption, busbars, connectors, constant, families, sizes, wires

REGULATED_V = 12.0
HOTTEST_C = 250.0
"""Where the resistance of an overloaded conductor is held: its insulation is gone by then."""
LUGS = 4
"""Joints of one run: two ends on each of two poles."""


@dataclass(slots=True)
class RunSizing:
    """The cable to one part. Resistances of both legs in Ω."""

    wire: Wire
    gauge: Figure
    ampacity: Figure
    resistance: Figure
    drop: Figure
    drop_limit: Figure
    heat: Figure
    cold_ohm: float


@dataclass(slots=True)
class PartSizing:
    """One part of the path with what flows into it and what was chosen for it."""

    key: str
    node: Node
    flow: Flow
    current: Figure
    design: Figure
    """what fuse and cable are sized for: the running current, with every inverter at its rating"""
    surge: Figure
    guard: str | None
    run: RunSizing | None = None
    fault: Figure | None = None
    rating: Figure | None = None
    family: Figure | None = None
    choice: Figure | None = None
    """gauge-like pick of the part itself: section, connector"""
    extra: dict[str, Figure] = field(default_factory=dict)

    @property
    def pointer(self) -> str:
        return f"/power/network/{self.key}"


@dataclass(slots=True)
class InverterSizing:
    """An inverter with its loads. Powers in W, cut-off in V."""

    key: str
    peak: Peak
    rating: Figure
    surge: Figure
    idle: Figure
    cutoff: Figure
    continuous: Figure
    needed: Figure
    window_min: Figure
    window_max: Figure
    curve: LossCurve
    rated_current: Figure
    ac: Flow


@dataclass(slots=True)
class PowerSizing:
    """The whole path. Energies in Wh at the posts of the pack."""

    network: Network
    parts: dict[str, PartSizing]
    inverters: dict[str, InverterSizing]
    plugged: dict[str, list[Demand]]
    homeless: list[Demand]
    current: Figure
    surge: Figure
    shunt: Figure | None
    main_ohm: Figure
    drawn_w: list[float]
    drawn_day: Figure
    drawn_away: Figure
    wiring_day: Figure
    available: Figure


@dataclass(slots=True)
class Bench:
    """What every step of the sizing needs at hand."""

    brief: Brief
    site: Site
    loads: LoadsSizing
    pack: PackSizing
    network: Network
    sheet: Sheet
    parts: dict[str, PartSizing]

    def put(self, key: str, name: str, figure: Figure) -> Figure:
        return self.sheet.put(f"power/{key}/{name}", figure)

    def ampacity(self, wire: Wire, run: Run) -> float:
        return conductors.ampacity(wire, self.brief.wire_school, self.site.inside_c.number, run.insulation_c, run.bundled)


def size_inverter(key: str, node: Inverter, demands: list[Demand], bench: Bench) -> InverterSizing:
    """Rating, cut-off and losses of an inverter for the loads on its outlets."""
    at, pack, site = f"/power/network/{key}", bench.pack, bench.site
    peak = find_peak(demands, bench.loads.day)
    grown = 1 + site.growth.number
    needed_w = needed_rating(
        peak.running.number * grown, peak.surge.number * grown, peak.apparent.number * grown, site.inside_c.number
    )
    row = class_for(pack.v_nom.number)
    needed = Figure.of(
        "P_need",
        needed_w,
        "W",
        "rating the loads ask for",
        how="running sum at 80 % of the derated rating, surge within twice the rating, VA within the derated rating; growth allowed for",
        inputs={"P_peak": peak.running, "P_surge": peak.surge, "S": peak.apparent, "T_in": site.inside_c, "g": site.growth},
    )
    rating = sized(
        "P_rated",
        node.rating_w,
        pick_rating(row.ratings_w, needed_w),
        "W",
        "continuous rating",
        f"{at}/rating_w",
        f"smallest {row.label} sold that serves",
        {"P_need": needed},
        "inverter",
    )
    factor = assumption("inverter_surge")
    if node.surge_w is not None:
        surge = Figure.decided("P_s", node.surge_w, "W", "surge rating", f"{at}/surge_w")
    else:
        surge = Figure.of(
            "P_s",
            rating.number * factor.number,
            "W",
            "surge rating",
            formula="P_rated · k_s",
            inputs={"P_rated": rating, "k_s": factor},
        )
    curve = LossCurve.typical(rating.number, node.idle_w)
    if node.idle_w is not None:
        idle = Figure.decided("P0", node.idle_w, "W", "idle draw", f"{at}/idle_w")
    else:
        idle = Figure.of(
            "P0",
            curve.idle_w,
            "W",
            "idle draw",
            formula="k_0 · P_rated",
            inputs={"k_0": assumption("inverter_idle"), "P_rated": rating},
        )
    window_min = row.figure("V_in_min", row.window_min_v, "V", "least input voltage")
    window_max = row.figure("V_in_max", row.window_max_v, "V", "greatest input voltage")
    cutoff = sized(
        "V_cut",
        node.cutoff_v,
        max(row.window_min_v, pack.v_low.number),
        "V",
        "low-voltage cut-off",
        f"{at}/cutoff_v",
        "the greater of its window's lower end and the pack's lowest working voltage",
        {"V_in_min": window_min, "V_low": pack.v_low},
    )
    derate = Figure.of(
        "k_T", derating(site.inside_c.number), "×", "derating in heat", how="1 %/K above 40 °C", inputs={"T_in": site.inside_c}
    )
    continuous = Figure.of(
        "P_cont",
        rating.number * derate.number,
        "W",
        "continuous rating at the hottest",
        formula="P_rated · k_T",
        inputs={"P_rated": rating, "k_T": derate},
    )
    loss = Figure.of(
        "P_loss",
        curve.loss(rating.number),
        "W",
        "loss at full load",
        how="P0 + a·P + b·P²/P_rated, a and b from the efficiencies at 35 % and full load",
        inputs={"P0": idle, "P_rated": rating, "η_35": assumption("inverter_eta_part"), "η_100": assumption("inverter_eta_full")},
    )
    rated_current = Figure.of(
        "I_rated",
        curve.drawn(rating.number) / cutoff.number,
        "A",
        "current at its rating",
        formula="(P_rated + P_loss) / V_cut",
        inputs={"P_rated": rating, "P_loss": loss, "V_cut": cutoff},
    )
    for name, figure in {
        "peak": peak.running,
        "surge_needed": peak.surge,
        "needed": needed,
        "rating": rating,
        "surge_rating": surge,
        "idle": idle,
        "cutoff": cutoff,
        "continuous": continuous,
        "rated_current": rated_current,
        "window_min": window_min,
        "window_max": window_max,
    }.items():
        bench.put(key, name, figure)
    ac = of_loads(demands, bench.loads.day, 1.0)
    return InverterSizing(
        key, peak, rating, surge, idle, cutoff, continuous, needed, window_min, window_max, curve, rated_current, ac
    )


def find_flows(bench: Bench, plugged: dict[str, list[Demand]], inverters: dict[str, InverterSizing]) -> dict[str, Flow]:
    """Amps into every part at the lowest working voltage; watts into outlets behind an inverter."""
    day, v_low, network = bench.loads.day, bench.pack.v_low.number, bench.network
    flows: dict[str, Flow] = {}
    for key in reversed(network.order):
        node = network.nodes[key]
        if isinstance(node, Outlet):
            supply = network.supply(key)
            scale = {"ac": 1.0, "dc_12v": 1 / REGULATED_V, "usb": 1 / (constant("usb_eta") * v_low), "pack": 1 / v_low}[supply]
            flows[key] = of_loads(plugged[key], day, scale)
            continue
        total = Flow.total((flows[child] for child in network.children[key]), day)
        if isinstance(node, Inverter):
            sizing = inverters[key]
            total = into_inverter(total, sizing.curve, sizing.cutoff.number, node.left_on)
        elif isinstance(node, Converter):
            total = into_converter(total, REGULATED_V, v_low)
        flows[key] = total
    return flows


def current_figures(
    key: str, flows: dict[str, Flow], bench: Bench, plugged: dict[str, list[Demand]], inverter: InverterSizing | None
) -> tuple[Figure, Figure, Figure]:
    """Greatest running, design and surge current into a part, with what makes them up."""
    network, day = bench.network, bench.loads.day
    node, flow = network.nodes[key], flows[key]
    step = flow.peak_step
    at_step = day.moment(day.edges_h[step])
    v_low = bench.pack.v_low
    unit = "A"
    if isinstance(node, Outlet):
        supply = network.supply(key)
        watts = Figure.of(
            "P",
            sum(d.running.number for d in plugged[key] if day.on[d.key][step]),
            "W",
            f"plugged in and on from {at_step}",
            formula="sum",
            inputs={d.label: d.running for d in plugged[key] if day.on[d.key][step]},
        )
        if supply == "ac":
            formula, inputs, unit = "P", {"P": watts}, "W"
        elif supply == "dc_12v":
            formula, inputs = "P / U", {"P": watts, "U": Figure.of("U", REGULATED_V, "V", "regulated voltage")}
        elif supply == "usb":
            formula, inputs = "P / (η_u · V_low)", {"P": watts, "η_u": assumption("usb_eta"), "V_low": v_low}
        else:
            formula, inputs = "P / V_low", {"P": watts, "V_low": v_low}
    elif inverter is not None:
        ac_w = inverter.ac.running[step]
        ac = Figure.of(
            "P_ac",
            ac_w,
            "W",
            f"AC power from {at_step}",
            formula="sum",
            inputs={d.label: d.running for k in network.children[key] for d in plugged.get(k, []) if day.on[d.key][step]},
        )
        loss = Figure.of(
            "P_loss",
            flow.running[step] * inverter.cutoff.number - ac_w,
            "W",
            "loss of the inverter",
            how="P0 + a·P + b·P²/P_rated; nothing while it is off",
            inputs={"P0": inverter.idle, "P_rated": inverter.rating},
        )
        formula, inputs = "(P_ac + P_loss) / V_cut", {"P_ac": ac, "P_loss": loss, "V_cut": inverter.cutoff}
    elif isinstance(node, Converter):
        out = Figure.of("I_out", sum(flows[c].running[step] for c in network.children[key]), "A", f"output from {at_step}")
        formula = "(I_out · U / η_c + P_c) / V_low"
        inputs = {
            "I_out": out,
            "U": Figure.of("U", REGULATED_V, "V", "regulated voltage"),
            "η_c": assumption("converter_eta"),
            "P_c": assumption("converter_idle"),
            "V_low": v_low,
        }
    else:
        formula = "sum"
        inputs = {
            network.nodes[c].name + f" ({c})": Figure.of(
                "I",
                flows[c].running[step],
                "A",
                f"{network.nodes[c].name}, from {at_step}",
                inputs={"I_max": bench.parts[c].current},
            )
            for c in network.children[key]
        }
    current = Figure.of(
        "I",
        flow.peak,
        unit,
        "greatest running current" if unit == "A" else "greatest running power",
        formula=formula,
        inputs=inputs,
    )
    worst = flow.worst_start
    value = max(flow.worst(worst) if worst else 0.0, flow.peak)
    if worst and value > flow.peak:
        how = f"{bench.loads.starts[worst.key].name} starting, for {worst.length_s:g} s, on top of what runs then"
        surge = Figure.of(
            "I_surge", value, unit, "worst surge", how=how, inputs={"I": current, "ΔP": bench.loads.starts[worst.key].extra}
        )
    else:
        surge = Figure.of(
            "I_surge", value, unit, "worst surge", formula="I", inputs={"I": current}, how="nothing here starts with a surge"
        )
    step = flow.design_step
    value = flow.running[step] + flow.spare[step]
    if value <= flow.peak + 1e-9:
        design = Figure.of("I_d", flow.peak, unit, "design current", formula="I", inputs={"I": current})
    elif inverter is not None:
        design = Figure.of(
            "I_d",
            value,
            "A",
            "design current: the inverter at its rating",
            formula="I_rated",
            inputs={"I_rated": inverter.rated_current},
        )
    else:
        shares = {
            f"{network.nodes[c].name} ({c})": Figure.of(
                "I",
                flows[c].running[step] + flows[c].spare[step],
                "A",
                network.nodes[c].name,
                inputs={"I_d": bench.parts[c].design},
            )
            for c in network.children[key]
        }
        design = Figure.of("I_d", value, "A", "design current: inverters at their rating", formula="sum", inputs=shares)
    return bench.put(key, "current", current), bench.put(key, "design", design), bench.put(key, "surge", surge)


def fuse_bound(key: str, bench: Bench) -> float:
    """The greatest fuse in A that the pinned parts of its segment, and the largest sold of the auto ones, bear."""
    network = bench.network
    bounds = [float("inf")]
    for child in network.segment(key):
        node = network.nodes[child]
        wire = wires()[node.run.gauge] if node.run.gauge else conductors.gauges(bench.brief.gauge_system)[-1]
        if not in_block(node, network):
            bounds.append(min(bench.ampacity(wire, node.run), wire.max_fuse_a[bench.brief.wire_school] or float("inf")))
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
        elif isinstance(node, Switch):
            bounds.append(node.rating_a or sizes("switch").sizes[-1])
    return min(bounds)


def in_block(node: Node, network: Network) -> bool:
    """Whether a part sits in a fuse block, so that no cable leads to it."""
    return isinstance(node, Protection) and node.feed != PACK and network.nodes[node.feed].part == "fuse_block"


def connector_choices(supply: str, brief: Brief) -> list[Connector]:
    """Connectors of a supply, smallest first."""
    mains_v = 230 if OUTLET_VOLTAGE[brief.mains] == 230 else 120
    fitting = [c for c in connectors().values() if supply in c.supplies and c.mains_v in (None, mains_v)]
    return sorted(fitting, key=lambda c: (c.rating_w or 0, c.rating_a))


def size_run(part: PartSizing, bench: Bench, guard_a: float) -> RunSizing:
    """Gauge, ampacity, drop and heat of the cable to a part; `guard_a` is the protection it must bear.

    Sized for the design current; both legs count, with four lugs.
    """
    node, brief, run = part.node, bench.brief, part.node.run
    amps = part.design.number
    # Behind a converter the voltage is regulated; elsewhere drop is judged at the lowest working voltage.
    behind_converter = any(bench.network.nodes[up].part == "converter" for up in bench.network.upstream(part.key))
    volts = Figure.of("U", REGULATED_V, "V", "regulated voltage") if behind_converter else bench.pack.v_low
    limit = assumption("drop_outlet" if isinstance(node, Outlet) else "drop_main")
    inside = bench.site.inside_c
    joints = LUGS * constant("joint_resistance")
    needed_a = max(guard_a, amps * constant("fuse_margin"))

    def measure(wire: Wire) -> tuple[float, float, float]:
        able = bench.ampacity(wire, run)
        limit_c = conductors.limiting_temperature(wire, brief.wire_school, run.insulation_c)
        warm = min(conductors.conductor_temperature(inside.number, limit_c, amps, able), HOTTEST_C)
        return able, warm, conductors.resistance(2 * run.length_m, wire.area_mm2, warm)

    def bears(wire: Wire) -> bool:
        fuse_limit = wire.max_fuse_a[brief.wire_school]
        return (fuse_limit is None or fuse_limit >= guard_a) and bench.ampacity(wire, run) >= needed_a

    if run.gauge:
        wire = wires()[run.gauge]
    else:
        offered = conductors.gauges(brief.gauge_system)
        bearing = [w for w in offered if bears(w)] or [offered[-1]]
        wire = next((w for w in bearing if amps * (measure(w)[2] + joints) <= limit.number * volts.number), bearing[-1])
    able, warm, ohm = measure(wire)
    at = f"{part.pointer}/run"
    length = Figure.decided("L", run.length_m, "m", "length, one way", f"{at}/length_m")
    needed = Figure.of(
        "I_need",
        needed_a,
        "A",
        "ampacity needed",
        how="the protection before it, and 1.25 × the design current",
        inputs={"I_d": part.design},
    )
    gauge = sized(
        "A",
        run.gauge,
        wire.key,
        "",
        "gauge",
        f"{at}/gauge",
        "thinnest sold that bears its protection within the drop limit",
        {"I_need": needed, "L": length, "d": limit},
        "gauge",
    )
    table = wire.figure(
        "I_tab",
        wire.ampacity_a[brief.wire_school] or 0.0,
        "A",
        f"{wire.key}, {'vehicle and small-craft' if brief.wire_school == 'small_craft' else 'building'} practice",
    )
    ampacity = Figure.of(
        "I_amp",
        able,
        "A",
        "derated ampacity",
        formula="I_tab · √((T_ins − T_in) / (T_tab − 30)) · k_b" if able else "",
        how="" if able else "the school gives no ampacity for this size, or the air is too hot for its insulation",
        inputs={
            "I_tab": table,
            "T_in": inside,
            "T_ins": Figure.decided(
                "T_ins",
                conductors.limiting_temperature(wire, brief.wire_school, run.insulation_c),
                "°C",
                "temperature limit",
                f"{at}/insulation_c",
            ),
            "T_tab": wire.figure("T_tab", wire.insulation_c[brief.wire_school], "°C", "temperature of the table"),
            "k_b": Figure.decided("k_b", conductors.bundle_factor(run.bundled), "×", "bundling", f"{at}/bundled"),
        },
    )
    area = wire.figure("A", wire.area_mm2, "mm²", f"cross-section of {wire.key}")
    rho = Figure.of(
        "ρ",
        conductors.resistivity(warm),
        "Ω·mm²/m",
        "copper, warm",
        formula="ρ20 · (1 + α · (T − 20))",
        inputs={
            "ρ20": assumption("copper_resistivity"),
            "α": assumption("copper_coefficient"),
            "T": Figure.of(
                "T",
                warm,
                "°C",
                "conductor temperature",
                how="T_a + (T_ins − T_a)·(I_d/I_amp)²",
                inputs={"I_d": part.design, "I_amp": ampacity},
            ),
        },
    )
    resistance = Figure.of("R", ohm, "Ω", "both legs, warm", formula="ρ · 2 · L / A", inputs={"ρ": rho, "L": length, "A": area})
    drop = Figure.of(
        "d",
        amps * (ohm + joints) / volts.number,
        "share",
        "voltage drop",
        formula="I_d · (R + 4 · R_j) / V",
        inputs={"I_d": part.design, "R": resistance, "R_j": assumption("joint_resistance"), "V": volts},
    )
    heat = Figure.of("Q", amps * amps * ohm, "W", "heat", formula="I_d^2 · R", inputs={"I_d": part.design, "R": resistance})
    loading = Figure.of(
        "I/I_amp",
        part.current.number / able if able else 9.99,
        "share",
        "running current over ampacity",
        formula="I / I_amp" if able else "",
        inputs={"I": part.current, "I_amp": ampacity},
    )
    for name, figure in {
        "length": length,
        "gauge": gauge,
        "ampacity": ampacity,
        "resistance": resistance,
        "drop": drop,
        "heat": heat,
        "loading": loading,
    }.items():
        bench.put(part.key, f"run/{name}", figure)
    return RunSizing(
        wire, gauge, ampacity, resistance, drop, limit, heat, conductors.resistance(2 * run.length_m, wire.area_mm2) + joints
    )


def size_protection(part: PartSizing, node: Protection, bench: Bench, fault: Figure) -> protection.Protection:
    """Rating and family of a fuse or breaker."""
    margin = assumption("fuse_margin")
    least = Figure.of(
        "I_least",
        part.design.number * margin.number,
        "A",
        "least rating",
        formula="k · I_d",
        inputs={"k": margin, "I_d": part.design},
    )
    most_a = fuse_bound(part.key, bench)
    chosen = protection.pick(
        least.number,
        part.flow.surges,
        bench.pack.v_max.number,
        fault.number,
        most_a,
        node.family,
        in_block(node, bench.network),
        node.rating_a,
    )
    inputs = {"I_least": least, "I_surge": part.surge, "I_fault": fault, "V_max": bench.pack.v_max}
    if most_a != float("inf"):
        inputs["I_most"] = Figure.of("I_most", most_a, "A", "most that the parts behind it bear")
    part.rating = sized(
        "I_fuse",
        node.rating_a,
        chosen.rating_a,
        "A",
        "rating",
        f"{part.pointer}/rating_a",
        "next standard size up from 1.25 × the design current that rides through the surges",
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
        {"I_fault": fault, "V_max": bench.pack.v_max},
        "family",
    )
    rows = {
        "least": least,
        "rating": part.rating,
        "family": part.family,
        "interrupts": family.figure(
            "I_int",
            protection.interrupt_rating(family, bench.pack.v_max.number),
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
    if isinstance(node, Switch | FuseBlock):
        table = sizes("switch" if isinstance(node, Switch) else "fuse-block")
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
        return constant("switch_resistance") if isinstance(node, Switch) else 0.0
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
            Figure.of(
                "I_bar",
                bar.ampacity_a * k_box.number,
                "A",
                "rating in a closed box",
                formula="I_tab · k_b",
                inputs={"I_tab": bar.figure("I_tab", bar.ampacity_a, "A"), "k_b": k_box},
            ),
        )
    elif isinstance(node, Converter):
        out = Flow.total((bench.parts[child].flow for child in bench.network.children[key]), bench.loads.day)
        output = bench.put(
            key,
            "output",
            Figure.of(
                "I_out",
                out.peak,
                "A",
                "greatest output",
                formula="sum",
                inputs={
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
        volts = REGULATED_V if supply == "dc_12v" else bench.pack.v_low.number
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


def size_parts(
    bench: Bench,
    flows: dict[str, Flow],
    plugged: dict[str, list[Demand]],
    inverters: dict[str, InverterSizing],
    shunt: Figure | None,
) -> None:
    """Size every part from the posts down; fills `bench.parts`."""
    network, pack = bench.network, bench.pack
    for key in reversed(network.order):
        current, design, surge = current_figures(key, flows, bench, plugged, inverters.get(key))
        bench.parts[key] = PartSizing(key, network.nodes[key], flows[key], current, design, surge, network.guard(key))
    shunt_ohm = constant("shunt_drop") / shunt.number if shunt else 0.0
    before: dict[str, float] = {PACK: pack.fault_resistance.number + shunt_ohm}
    at_posts = pack.fault

    def fault_at(ohm: float) -> Figure:
        return Figure.of(
            "I_fault",
            fault_current(pack.v_max.number, ohm),
            "A",
            "prospective fault current here",
            formula="V_max / R_to",
            inputs={
                "V_max": pack.v_max,
                "R_to": Figure.of(
                    "R_to",
                    ohm,
                    "Ω",
                    "resistance up to here",
                    how="pack at 1 kHz, cold copper of both legs, lugs, fuses, switches and shunt before it",
                    inputs={"R_1k": pack.fault_resistance},
                ),
            },
        )

    for key in network.order:
        part = bench.parts[key]
        node = part.node
        is_ac = "inverter" in (network.nodes[up].part for up in network.upstream(key))
        guard = bench.parts[part.guard] if part.guard else None
        guard_a = guard.rating.number if guard and guard.rating else 0.0
        if is_ac:  # sockets on the face of the inverter
            size_device(part, bench, 0.0, plugged)
            continue
        ohm = before[node.feed]
        first = isinstance(node, Protection) and guard is None
        chosen: protection.Protection | None = None
        if isinstance(node, Protection) and first:
            part.fault = bench.put(key, "fault", at_posts if node.feed == PACK else fault_at(ohm))
            chosen = size_protection(part, node, bench, part.fault)
        if not in_block(node, network):
            part.run = size_run(part, bench, chosen.rating_a if chosen else guard_a)
            ohm += part.run.cold_ohm
        if part.fault is None:
            part.fault = bench.put(key, "fault", fault_at(ohm))
        if isinstance(node, Protection):
            chosen = chosen or size_protection(part, node, bench, part.fault)
            ohm += protection.resistance(chosen.family, chosen.rating_a)
        else:
            ohm += size_device(part, bench, guard_a, plugged)
        before[key] = ohm


def path_drop(key: str, bench: Bench) -> Figure:
    """Drop in share of the voltage, added up from the post to this part, as if all runs peaked together."""
    steps = {
        bench.network.nodes[k].name + f" ({k})": run.drop
        for k in reversed([key, *bench.network.upstream(key)])
        if (run := bench.parts[k].run)
    }
    return Figure.of(
        "d_sum", sum(f.number for f in steps.values()), "share", "voltage drop from the post", formula="sum", inputs=steps
    )


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
        elif isinstance(part.node, Switch):
            inputs[f"{part.node.name} ({key})"] = assumption("switch_resistance")
    if shunt:
        drop = assumption("shunt_drop")
        inputs["shunt"] = Figure.of(
            "R_shunt", drop.number / shunt.number, "Ω", "shunt", formula="U_s / I_s", inputs={"U_s": drop, "I_s": shunt}
        )
    return Figure.of(
        "R_main", sum(f.number for f in inputs.values()), "Ω", "main path, post to busbar", formula="sum", inputs=inputs
    )


def first_cutoff(bench: Bench, inverters: Iterable[InverterSizing], current_a: float, ohm: float) -> tuple[float, Figure]:
    """State of charge at which the first cut-off acts at a current, and the voltage it acts at."""
    cutoffs = [i.cutoff for i in inverters] or [bench.pack.cutoff]
    cutoff = max(cutoffs, key=lambda f: f.number)
    low, high = 0.0, 1.0
    if bench.pack.open_circuit(0.0) - current_a * ohm >= cutoff.number:
        return 0.0, cutoff
    for _ in range(30):
        middle = (low + high) / 2
        if bench.pack.open_circuit(middle) - current_a * ohm >= cutoff.number:
            high = middle
        else:
            low = middle
    return high, cutoff


def size_power(path: PowerPath, brief: Brief, site: Site, loads: LoadsSizing, pack: PackSizing, sheet: Sheet) -> PowerSizing:
    """The whole path, sized together."""
    network = Network.of(path)
    bench = Bench(brief, site, loads, pack, network, sheet, {})
    plugged, homeless = plug_in(network, loads.demands)
    inverters = {
        key: size_inverter(key, node, [d for k in network.children[key] for d in plugged.get(k, [])], bench)
        for key, node in network.inverters()
    }
    flows = find_flows(bench, plugged, inverters)
    total = Flow.total((flows[key] for key in network.children[PACK]), loads.day)
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
        for k in network.children[PACK]
    }
    current = sheet.put(
        "power/current", Figure.of("I", total.peak, "A", "greatest running current of the pack", formula="sum", inputs=roots)
    )
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

    # Energy at the posts: mean currents were reckoned at the lowest working voltage, so power is amps times that.
    day = loads.day
    by_branch: dict[str, list[float]] = {}
    for key in network.order:
        node = network.nodes[key]
        if isinstance(node, Inverter):
            by_branch[key] = [a * inverters[key].cutoff.number for a in flows[key].mean]
        elif isinstance(node, Converter) or (isinstance(node, Outlet) and network.supply(key) in ("usb", "pack")):
            by_branch[key] = [a * pack.v_low.number for a in flows[key].mean]
    heat = [0.0] * day.steps
    for part in bench.parts.values():
        if part.run:
            ohm_nom = part.run.resistance.number * (pack.v_low.number / pack.v_nom.number) ** 2
            for i, amps in enumerate(part.flow.mean):
                heat[i] += amps * amps * ohm_nom
    drawn_w = [sum(w[i] for w in by_branch.values()) + heat[i] for i in range(day.steps)]
    wiring = sheet.put(
        "power/wiring_day",
        Figure.of(
            "E_wire",
            day.energy(heat),
            "Wh",
            "lost in the cables a day",
            how="I²R of every run at the mean current and nominal voltage, over the day",
        ),
    )
    inputs = {
        network.nodes[k].name + f" ({k})": sheet.put(
            f"power/{k}/energy_day",
            Figure.of(
                "E",
                day.energy(w),
                "Wh",
                f"{network.nodes[k].name}, a day",
                how="mean power by the schedule, losses included, over the day",
                inputs={d.label: d.energy for o in (k, *network.below(k)) for d in plugged.get(o, [])},
            ),
        )
        for k, w in by_branch.items()
    }
    drawn_day = sheet.put(
        "power/drawn_day",
        Figure.of(
            "E_day", day.energy(drawn_w), "Wh", "taken from the pack a day", formula="sum", inputs={**inputs, "cables": wiring}
        ),
    )
    drawn_away = sheet.put(
        "power/drawn_away",
        Figure.of(
            "E_away",
            day.fullest(drawn_w, brief.ready_h, brief.hours_away)[0],
            "Wh",
            "taken from the pack between charges",
            how="the power by the schedule from the hour it is ready, over the hours between charges; the fullest of the pattern",
            inputs={"E_day": drawn_day, "t_away": site.hours_away},
        ),
    )

    active_h = sum(h for h, w in zip(day.hours, drawn_w, strict=True) if w > 0) / day.days
    mean_a = day.energy(drawn_w) / active_h / pack.v_nom.number if active_h else 0.0
    ohm = pack.resistance.number + main_ohm.number
    soc_cut, cutoff = first_cutoff(bench, inverters.values(), mean_a, ohm)
    floor = pack.chemistry.window_high - pack.depth.number
    lost_share = max(0.0, soc_cut - max(0.0, floor))
    nominal = sheet["pack/nominal"]
    lost = sheet.put(
        "power/cutoff_loss",
        Figure.of(
            "E_cut",
            min(pack.usable.number, lost_share * nominal.number * pack.cold_factor.number * sheet["pack/age_factor"].number),
            "Wh",
            "left behind at the cut-off",
            how=f"the first cut-off acts at {soc_cut * 100:.1f} % charge at the mean current; what lies between that and the planned depth stays in the pack",
            inputs={"V_cut": cutoff, "R": pack.resistance, "R_main": main_ohm, "E_nom": nominal},
        ),
    )
    available = sheet.put(
        "power/available",
        Figure.of(
            "E_avail",
            pack.usable.number - lost.number,
            "Wh",
            "usable energy down to the first cut-off",
            formula="E_use − E_cut",
            inputs={"E_use": pack.usable, "E_cut": lost},
        ),
    )
    share = drawn_away.number / available.number if available.number > 0 else 99.0
    sheet.put(
        "power/energy_share",
        Figure.of(
            "share",
            share,
            "share",
            "of the usable energy taken between charges",
            formula="E_away / E_avail" if available.number > 0 else "",
            inputs={"E_away": drawn_away, "E_avail": available},
        ),
    )
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
        drawn_w,
        drawn_day,
        drawn_away,
        wiring,
        available,
    )
