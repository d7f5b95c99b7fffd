"""Runs of cable: gauge, ampacity with its derates, voltage drop and heat."""

from kegcart.core.choice import sized
from kegcart.core.electrical import conductors
from kegcart.core.electrical.run import Run
from kegcart.core.figure import Figure
from kegcart.core.power.kinds import Outlet
from kegcart.core.power.path.flow import regulated_voltage
from kegcart.core.power.path.parts import PartSizing, PathContext, RunSizing
from kegcart.core.reference import Wire, assumption, constant, families, insulations, wires

HOTTEST_C = 250.0
"""Where the resistance of an overloaded conductor is held: its insulation is gone by then."""
LUGS = 4
"""Joints of one run: two ends on each of two poles."""


def size_run(part: PartSizing, ctx: PathContext, guard_a: float, short: Figure | None) -> RunSizing:
    """Gauge, ampacity, drop and heat of the cable to a part; `guard_a` is the protection it must carry, A; `short` the least
    section in mm² that survives a short.

    Sized for the design current; both legs count, with four lugs.

    Source: ampacity of the wires table for the chosen practice, corrected for ambient and bundling; drop limit 2 or 3 % (assumptions table).
    """
    run, at = part.node.run, f"{part.pointer}/run"
    volts = drop_voltage(part, ctx)
    limit = ctx.known("drop_outlet" if isinstance(part.node, Outlet) else "drop_main")
    needed_a = max(guard_a, part.design.number * constant("fuse_margin"))
    least_mm2 = short.number if short else 0.0
    most_v = limit.number * volts.number
    wire = wires()[run.gauge] if run.gauge else pick_wire(part, ctx, guard_a, needed_a, most_v, least_mm2)
    length = Figure.decided("L", run.length_m, "m", "length, one way", f"{at}/length_m")
    how = "the protection before it, and 1.25 × the design current"
    needed = Figure.of("I_need", needed_a, "A", "ampacity needed", how=how, inputs={"I_d": part.design})
    how = "thinnest sold that carries its protection within the drop limit, and survives a short"
    inputs = {"I_need": needed, "L": length, "d": limit} | ({"A_min": short} if short else {})
    gauge = sized("A", run.gauge, wire.key, "", "gauge", f"{at}/gauge", how, inputs, "gauge")
    ampacity = ampacity_figure(wire, run, ctx, at)
    resistance = resistance_figure(wire, run, part, ampacity, length, ctx)
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
    for name, figure in {
        "length": length,
        "gauge": gauge,
        "ampacity": ampacity,
        "resistance": resistance,
        "drop": drop,
        "heat": heat,
        "loading": loading_figure(part.current, ampacity),
    }.items():
        ctx.put(part.key, f"run/{name}", figure)
    if short:
        ctx.put(part.key, "run/withstand", short)
    area = wire.figure("A", wire.area_mm2, "mm²", f"cross-section of {wire.key}")
    cold_ohm = conductors.resistance(2 * run.length_m, wire.area_mm2 * run.parallel) + LUGS * constant("joint_fault")
    return RunSizing(wire, gauge, area, ampacity, resistance, drop, limit, heat, cold_ohm, short)


def withstand(part: PartSizing, ctx: PathContext) -> Figure | None:
    """The least section in mm² of the cable to a part that survives a short at its beginning until its protection has opened.

    None where no fuse or breaker guards it: a converter limits what it gives; what stands before the first fuse is judged by its
    length. Source: adiabatic equation of IEC 60364-4-43.
    """
    guard = ctx.parts[part.guard] if part.guard else None
    if guard is None or guard.rating is None or guard.family is None:
        return None
    feeder = ctx.parts.get(part.node.feed)
    fault = feeder.fault if feeder and feeder.fault else part.source.fault
    return least_section(let_through_figure(guard, fault), part.node.run, f"{part.pointer}/run", ctx)


def let_through_figure(guard: PartSizing, fault: Figure) -> Figure:
    """I²t in A²s of the protection of a run. Source: see `protection.let_through`."""
    assert guard.rating is not None and guard.family is not None
    family = families()[guard.family.key]
    if family.kind == "breaker":
        label = f"let through by the {family.label}"
        return Figure.by("I²t", "I_f^2 · t_b", "A²s", label, I_f=fault, t_b=assumption("breaker_opening"))
    return Figure.by(
        "I²t",
        "k_arc · (m · I_fuse)^2 · t_m",
        "A²s",
        f"let through by the {family.label}",
        k_arc=assumption("fuse_arc"),
        m=family.figure("m", family.multiples[-1], "×", "last point of its melting window"),
        I_fuse=guard.rating,
        t_m=family.figure("t_m", family.fastest_s[-1], "s", "fastest melting there"),
    )


def least_section(energy: Figure, run: Run, at: str, ctx: PathContext) -> Figure:
    """The least section in mm² of a run that takes so many A²s. Source: A ≥ √(I²t)/k (IEC 60364-4-43)."""
    kind, initial_c = insulations()[run.material], run.limit_c
    how = "226 · √ln(1 + (θ_f − θ_i)/(234.5 + θ_i))"
    inputs = {
        "θ_f": kind.figure("θ_f", kind.final_c, "°C", f"{kind.label}: stands it in a short"),
        "θ_i": Figure.decided("θ_i", initial_c, "°C", "temperature before it", f"{at}/insulation_c"),
    }
    k = Figure.of(
        "k",
        max(conductors.adiabatic_factor(kind.final_c, initial_c), 1.0),
        "A·√s/mm²",
        f"copper in {kind.label}",
        how=how,
        inputs=inputs,
    )
    return Figure.by("A_min", "√(I²t) / k", "mm²", "least section that survives a short", {"I²t": energy, "k": k})


def drop_voltage(part: PartSizing, ctx: PathContext) -> Figure:
    """The voltage that a drop is judged at, V: regulated behind a converter, elsewhere the lowest working voltage."""
    regulated = ctx.network.stands_on[part.key] == "dc_12v"
    return regulated_voltage() if regulated else part.source.v_low


def warm_c(wire: Wire, run: Run, amps: float, ctx: PathContext) -> float:
    """Conductor temperature in °C of a run of this wire at a current."""
    limit_c = conductors.limiting_temperature(wire, ctx.brief.wire_school, run.limit_c)
    able = ctx.ampacity(wire, run)
    return min(conductors.conductor_temperature(ctx.site.inside_c.number, limit_c, amps, able), HOTTEST_C)


def pick_wire(part: PartSizing, ctx: PathContext, guard_a: float, needed_a: float, most_v: float, least_mm2: float) -> Wire:
    """The thinnest wire sold that carries so many A, may stand behind the protection, drops no more than so many V, and has so
    many mm².

    Source: ampacity of the wires table for the chosen practice; drop limit 2 or 3 % (assumptions table).
    """
    run, amps = part.node.run, part.design.number
    joints = LUGS * constant("joint_resistance")
    offered = conductors.gauges(ctx.brief.gauge_system)
    for wire in offered:
        most_fuse = ctx.school_fuse(wire, run)
        too_thin = (most_fuse is not None and most_fuse < guard_a) or wire.area_mm2 < least_mm2 - 1e-9
        if too_thin or ctx.ampacity(wire, run) < needed_a:
            continue
        ohm = conductors.resistance(2 * run.length_m, wire.area_mm2 * run.parallel, warm_c(wire, run, amps, ctx))
        if amps * (ohm + joints) <= most_v:
            return wire
    return offered[-1]


def ampacity_figure(wire: Wire, run: Run, ctx: PathContext, at: str) -> Figure:
    """Derated ampacity of a run in A, with its working. Source: the wire's table row and `conductors.ampacity`."""
    school = ctx.brief.wire_school
    practice = "vehicle and small-craft" if school == "small_craft" else "building"
    limit_c = conductors.limiting_temperature(wire, school, run.limit_c)
    table_c, table_a = wire.column(school, run.limit_c) or (limit_c, 0.0)
    derating = {
        "n_p": Figure.decided("n_p", run.parallel, "", "cables side by side", f"{at}/parallel"),
        "I_tab": wire.figure("I_tab", table_a, "A", f"{wire.key}, {practice} practice"),
        "T_in": ctx.site.inside_c,
        "T_ins": Figure.decided("T_ins", limit_c, "°C", "temperature limit, of insulation and terminals", f"{at}/insulation_c"),
        "T_tab": wire.figure("T_tab", table_c, "°C", "temperature of the table"),
        "k_b": Figure.decided("k_b", conductors.bundle_factor(run.bundled), "×", "bundling", f"{at}/bundled"),
    }
    if ctx.ampacity(wire, run) > 0:
        formula = "n_p · I_tab · √((T_ins − T_in) / (T_tab − 30)) · k_b"
        return Figure.by("I_amp", formula, "A", "derated ampacity", derating)
    how = "the school gives no ampacity for this size, or the air is too hot for its insulation"
    return Figure.of("I_amp", 0.0, "A", "derated ampacity", how=how, inputs=derating)


def resistance_figure(wire: Wire, run: Run, part: PartSizing, ampacity: Figure, length: Figure, ctx: PathContext) -> Figure:
    """Resistance of both legs in Ω, warm from the design current.

    Source: IEC 60028: resistivity of copper and its rise with temperature; warmed by the square of the loading.
    """
    warm = Figure.of(
        "T",
        warm_c(wire, run, part.design.number, ctx),
        "°C",
        "conductor temperature",
        how=f"T_a + (T_ins − T_a)·(I_d/I_amp)², held at {HOTTEST_C:.0f} °C, where the insulation is gone",
        inputs={"I_d": part.design, "I_amp": ampacity},
    )
    rho = Figure.by(
        "ρ",
        "ρ20 · (1 + α · (T − 20))",
        "Ω·mm²/m",
        "copper, warm",
        ρ20=assumption("copper_resistivity"),
        α=assumption("copper_coefficient"),
        T=warm,
    )
    area = wire.figure("A", wire.area_mm2 * run.parallel, "mm²", f"cross-section of {run.parallel} × {wire.key}")
    return Figure.by("R", "ρ · 2 · L / A", "Ω", "both legs, warm", ρ=rho, L=length, A=area)


def loading_figure(current: Figure, ampacity: Figure) -> Figure:
    """The running current as a share of the ampacity.

    Source: current over ampacity (definition).
    """
    label, inputs = "running current over ampacity", {"I": current, "I_amp": ampacity}
    if ampacity.number > 0:
        return Figure.by("I/I_amp", "I / I_amp", "share", label, inputs)
    return Figure.of("I/I_amp", 9.99, "share", label, how="it carries nothing here", inputs=inputs)


def path_drop(key: str, ctx: PathContext) -> Figure:
    """Drop in share of the voltage, added up from the post to this part, as if all runs peaked together.

    Source: drops in series add (Kirchhoff).
    """
    steps = {
        f"{ctx.network.nodes[k].name} ({k})": run.drop
        for k in reversed([key, *ctx.network.upstream(key)])
        if (run := ctx.parts[k].run)
    }
    return Figure.by("d_sum", "sum", "share", "voltage drop from the post", steps)
