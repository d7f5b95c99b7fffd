"""Currents: what flows into every part, running, by design, and in the worst surge, with what makes it up."""

from kegcart.core.choice import assumed
from kegcart.core.figure import Figure
from kegcart.core.loads.sizing import Demand
from kegcart.core.power.document import Converter, Input, Inverter, Outlet, Selector
from kegcart.core.power.flow import Flow, into_converter, into_inverter, of_loads
from kegcart.core.power.network import Network
from kegcart.core.power.parts import REGULATED_V, Bench, InverterSizing
from kegcart.core.reference import assumption, constant


def upward(network: Network) -> list[str]:
    """Every part after all that it may have to feed, the branches of selectors included."""
    out: list[str] = []
    seen: set[str] = set()

    def visit(key: str) -> None:
        if key in seen:
            return
        seen.add(key)
        for child in (*network.children[key], *network.selected_from(key)):
            visit(child)
        out.append(key)

    if not any(isinstance(node, Selector) for node in network.nodes.values()):
        return list(reversed(network.order))
    for key in network.order:
        visit(key)
    return out


def find_flows(bench: Bench, plugged: dict[str, list[Demand]], inverters: dict[str, InverterSizing]) -> dict[str, Flow]:
    """Amps into every part at the lowest working voltage; watts into outlets behind an inverter."""
    day, network = bench.loads.day, bench.network
    flows: dict[str, Flow] = {}
    selectors: dict[str, list[str]] = {}
    for key, node in network.nodes.items():
        if isinstance(node, Selector) and node.other != node.feed:
            selectors.setdefault(node.other, []).append(key)
    for key in upward(network):
        node = network.nodes[key]
        v_low = bench.source(key).v_low.number
        if isinstance(node, Outlet):
            supply = network.supply(key)
            scale = {"ac": 1.0, "dc_12v": 1 / REGULATED_V, "usb": 1 / (constant("usb_eta") * v_low), "pack": 1 / v_low}[supply]
            flows[key] = of_loads(plugged[key], day, scale)
            continue
        if isinstance(node, Input):
            flows[key] = Flow([0.0] * day.steps, [0.0] * day.steps, [], [0.0] * day.steps, node.current_a)
            continue
        # A part that a selector can be switched to must bear that branch too.
        fed = (*network.children[key], *(s for s in selectors.get(key, ()) if s in flows))
        total = Flow.total((flows[child] for child in fed), day)
        if isinstance(node, Inverter):
            sizing = inverters[key]
            total = into_inverter(total, sizing.curve, sizing.cutoff.number, node.left_on)
        elif isinstance(node, Converter):
            total = into_converter(total, REGULATED_V, v_low, node.idle_w)
        flows[key] = total
    return flows


def converter_idle(node: Converter, key: str) -> Figure:
    """No-load draw of a converter in W."""
    return assumed("P_c", node.idle_w, "converter_idle", "W", "no-load draw", f"/power/network/{key}/idle_w")


def current_figures(
    key: str, flows: dict[str, Flow], bench: Bench, plugged: dict[str, list[Demand]], inverter: InverterSizing | None
) -> tuple[Figure, Figure, Figure]:
    """Greatest running, design and surge current into a part, with what makes them up."""
    network, day = bench.network, bench.loads.day
    node, flow = network.nodes[key], flows[key]
    fed = (*network.children[key], *network.selected_from(key))
    step = flow.peak_step
    at_step = day.moment(day.edges_h[step])
    v_low = bench.source(key).v_low
    unit = "A"
    if isinstance(node, Input):
        brought = Figure.decided("I", node.current_a, "A", f"brought in by the {node.source}", f"/power/network/{key}/current_a")
        design = Figure.by("I_d", "I", "A", "design current", I=brought)
        surge = Figure.by("I_surge", "I", "A", "no surge", I=brought)
        return bench.put(key, "current", brought), bench.put(key, "design", design), bench.put(key, "surge", surge)
    if isinstance(node, Outlet):
        supply = network.supply(key)
        watts = Figure.by(
            "P",
            "sum",
            "W",
            f"plugged in and on from {at_step}",
            {d.label: d.running for d in plugged[key] if day.on[d.key][step]},
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
        ac = Figure.by(
            "P_ac",
            "sum",
            "W",
            f"AC power from {at_step}",
            {d.label: d.running for k in network.children[key] for d in plugged.get(k, []) if day.on[d.key][step]},
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
            "P_c": converter_idle(node, key),
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
            for c in fed
        }
    current = Figure.by("I", formula, unit, "greatest running current" if unit == "A" else "greatest running power", inputs)
    worst = flow.worst_start
    value = max(flow.worst(worst) if worst else 0.0, flow.peak)
    if worst and value > flow.peak:
        how = f"{bench.loads.starts[worst.key].name} starting, for {worst.length_s:g} s, on top of what runs then"
        surge = Figure.of(
            "I_surge", value, unit, "worst surge", how=how, inputs={"I": current, "ΔP": bench.loads.starts[worst.key].extra}
        )
    else:
        surge = Figure.by("I_surge", "I", unit, "worst surge", how="nothing here starts with a surge", I=current)
    step = flow.design_step
    value = flow.running[step] + flow.spare[step]
    if flow.inward > value:
        brought = Figure.of(
            "I_in", flow.inward, "A", "brought in by the inputs behind it", how="all loads off, every input at its current"
        )
        design = Figure.by("I_d", "I_in", "A", "design current: charging", I_in=brought)
    elif value <= flow.peak + 1e-9:
        design = Figure.by("I_d", "I", unit, "design current", I=current)
    elif inverter is not None:
        design = Figure.by("I_d", "I_rated", "A", "design current: the inverter at its rating", I_rated=inverter.rated_current)
    else:
        shares = {
            f"{network.nodes[c].name} ({c})": Figure.of(
                "I",
                flows[c].running[step] + flows[c].spare[step],
                "A",
                network.nodes[c].name,
                inputs={"I_d": bench.parts[c].design},
            )
            for c in fed
        }
        design = Figure.by("I_d", "sum", "A", "design current: inverters at their rating", shares)
    return bench.put(key, "current", current), bench.put(key, "design", design), bench.put(key, "surge", surge)
