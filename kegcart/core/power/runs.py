"""Runs of cable: gauge, ampacity with its derates, voltage drop and heat."""

from kegcart.core.choice import sized
from kegcart.core.electrical import conductors
from kegcart.core.figure import Figure
from kegcart.core.power.document import Outlet
from kegcart.core.power.parts import REGULATED_V, Bench, PartSizing, RunSizing, run_limit_c
from kegcart.core.reference import Wire, assumption, constant, wires

HOTTEST_C = 250.0
"""Where the resistance of an overloaded conductor is held: its insulation is gone by then."""
LUGS = 4
"""Joints of one run: two ends on each of two poles."""


def size_run(part: PartSizing, bench: Bench, guard_a: float) -> RunSizing:
    """Gauge, ampacity, drop and heat of the cable to a part; `guard_a` is the protection it must bear.

    Sized for the design current; both legs count, with four lugs.
    """
    node, brief, run = part.node, bench.brief, part.node.run
    amps = part.design.number
    # Behind a converter the voltage is regulated; elsewhere drop is judged at the lowest working voltage.
    behind_converter = any(bench.network.nodes[up].part == "converter" for up in bench.network.upstream(part.key))
    volts = Figure.of("U", REGULATED_V, "V", "regulated voltage") if behind_converter else part.source.v_low
    limit = assumption("drop_outlet" if isinstance(node, Outlet) else "drop_main")
    inside = bench.site.inside_c
    joints = LUGS * constant("joint_resistance")
    needed_a = max(guard_a, amps * constant("fuse_margin"))

    def measure(wire: Wire) -> tuple[float, float, float]:
        able = bench.ampacity(wire, run)
        limit_c = conductors.limiting_temperature(wire, brief.wire_school, run_limit_c(run))
        warm = min(conductors.conductor_temperature(inside.number, limit_c, amps, able), HOTTEST_C)
        return able, warm, conductors.resistance(2 * run.length_m, wire.area_mm2 * run.parallel, warm)

    def bears(wire: Wire) -> bool:
        fuse_limit = wire.max_fuse_a[brief.wire_school]
        return (fuse_limit is None or fuse_limit * run.parallel >= guard_a) and bench.ampacity(wire, run) >= needed_a

    if run.gauge:
        wire = wires()[run.gauge]
    else:
        offered = conductors.gauges(brief.gauge_system)
        wire, most = offered[-1], limit.number * volts.number
        for offer in offered:
            if bears(offer) and amps * (measure(offer)[2] + joints) <= most:
                wire = offer
                break
    able, warm, _ = measure(wire)
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
    limit_c = conductors.limiting_temperature(wire, brief.wire_school, run_limit_c(run))
    derating = {
        "n_p": Figure.decided("n_p", run.parallel, "", "cables side by side", f"{at}/parallel"),
        "I_tab": table,
        "T_in": inside,
        "T_ins": Figure.decided("T_ins", limit_c, "°C", "temperature limit, of insulation and terminals", f"{at}/insulation_c"),
        "T_tab": wire.figure("T_tab", wire.insulation_c[brief.wire_school], "°C", "temperature of the table"),
        "k_b": Figure.decided("k_b", conductors.bundle_factor(run.bundled), "×", "bundling", f"{at}/bundled"),
    }
    ampacity = (
        Figure.by("I_amp", "n_p · I_tab · √((T_ins − T_in) / (T_tab − 30)) · k_b", "A", "derated ampacity", derating)
        if able
        else Figure.of(
            "I_amp",
            0.0,
            "A",
            "derated ampacity",
            how="the school gives no ampacity for this size, or the air is too hot for its insulation",
            inputs=derating,
        )
    )
    area = wire.figure("A", wire.area_mm2 * run.parallel, "mm²", f"cross-section of {run.parallel} × {wire.key}")
    rho = Figure.by(
        "ρ",
        "ρ20 · (1 + α · (T − 20))",
        "Ω·mm²/m",
        "copper, warm",
        ρ20=assumption("copper_resistivity"),
        α=assumption("copper_coefficient"),
        T=Figure.of(
            "T",
            warm,
            "°C",
            "conductor temperature",
            how="T_a + (T_ins − T_a)·(I_d/I_amp)²",
            inputs={"I_d": part.design, "I_amp": ampacity},
        ),
    )
    resistance = Figure.by("R", "ρ · 2 · L / A", "Ω", "both legs, warm", ρ=rho, L=length, A=area)
    drop = Figure.by(
        "d",
        "I_d · (R + 4 · R_j) / V",
        "share",
        "voltage drop",
        I_d=part.design,
        R=resistance,
        R_j=assumption("joint_resistance"),
        V=volts,
    )
    heat = Figure.by("Q", "I_d^2 · R", "W", "heat", I_d=part.design, R=resistance)
    worked, against = "running current over ampacity", {"I": part.current, "I_amp": ampacity}
    loading = (
        Figure.by("I/I_amp", "I / I_amp", "share", worked, against)
        if able
        else Figure.of("I/I_amp", 9.99, "share", worked, how="it carries nothing here", inputs=against)
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
        wire,
        gauge,
        ampacity,
        resistance,
        drop,
        limit,
        heat,
        conductors.resistance(2 * run.length_m, wire.area_mm2 * run.parallel) + joints,
    )


def path_drop(key: str, bench: Bench) -> Figure:
    """Drop in share of the voltage, added up from the post to this part, as if all runs peaked together."""
    steps = {
        bench.network.nodes[k].name + f" ({k})": run.drop
        for k in reversed([key, *bench.network.upstream(key)])
        if (run := bench.parts[k].run)
    }
    return Figure.by("d_sum", "sum", "share", "voltage drop from the post", steps)
