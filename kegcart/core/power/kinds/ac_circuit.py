"""AC circuits behind an inverter: what runs on one, the breaker before it, its cable. Building practice, whatever the DC school."""

from typing import TYPE_CHECKING

from kegcart.core.brief.document import OUTLET_VOLTAGE, Brief
from kegcart.core.choice import sized
from kegcart.core.electrical import conductors
from kegcart.core.figure import Figure
from kegcart.core.loads.sizing import greatest_apparent
from kegcart.core.power.path.legs import BOTH_V, LEGS, on_leg, outlet_voltage
from kegcart.core.reference import Sizes, Wire, assumption, sizes, wires
from kegcart.core.units import write_quantity

if TYPE_CHECKING:
    from kegcart.core.power.path.parts import PartSizing, PathContext

LEAST_MM2 = 1.5
LEAST_AWG_MM2 = 2.08
"""The thinnest that is usual in walls: 1.5 mm², 14 AWG."""
AC_CABLE_C = 40.0
AC_INSULATION_C = 75


def mains_voltage(part: "PartSizing", ctx: "PathContext") -> Figure:
    """What an AC outlet gives, V: an ordinary one, or one between both legs of a split phase."""
    return Figure.decided("U", outlet_voltage(ctx.wired.legs.get(part.key), ctx.brief), "V", "mains voltage", "/brief/mains")


def breakers(brief: Brief) -> Sizes:
    """The AC breakers sold where the brief's mains are usual. Source: ratings sold (sizes table)."""
    return sizes("ac-breaker-230" if OUTLET_VOLTAGE[brief.mains] == 230 else "ac-breaker-120")


def circuit_current(part: "PartSizing", ctx: "PathContext") -> Figure:
    """The greatest current of all that is plugged in behind a part, A.

    Source: apparent power over voltage (definition).
    """
    network, label = ctx.network, "all that runs on the circuit"
    keys = [key for key in (part.key, *network.below(part.key)) if key in ctx.wired.plugged]
    if any(ctx.wired.legs.get(key) for key in keys) and ctx.wired.legs.get(part.key) != "both":  # the leg that bears more
        each = (on_leg(keys, leg, ctx.wired.legs, ctx.wired.plugged, ctx.loads.day) for leg in LEGS)
        together = max(each, key=lambda figure: figure.number)
    else:
        together = greatest_apparent([d for key in keys for d in ctx.wired.plugged[key]], ctx.loads.day)
    return ctx.put(part.key, "circuit", Figure.by("I_c", "S / U", "A", label, S=together, U=mains_voltage(part, ctx)))


def inverter_current(part: "PartSizing", ctx: "PathContext") -> Figure | None:
    """What the inverter before a part gives for long, A. Source: rated power over voltage (definition)."""
    inverter = next((ctx.inverters[key] for key in ctx.network.upstream(part.key) if key in ctx.inverters), None)
    if inverter is None:
        return None
    label = "what the inverter gives for long"
    if ctx.wired.legs:
        label, both = f"{label}, on each leg", Figure.decided("U", BOTH_V, "V", "between both legs", "/brief/mains")
        return Figure.by("I_inv", "P_rated / U", "A", label, P_rated=inverter.rating, U=both)
    return Figure.by("I_inv", "P_rated / U", "A", label, P_rated=inverter.rating, U=mains_voltage(part, ctx))


def breaker_before(part: "PartSizing", ctx: "PathContext") -> Figure | None:
    """The nearest AC breaker before a part; None where there is none."""
    ups = (ctx.parts[key] for key in ctx.network.upstream(part.key))
    return next((up.extra["breaker"] for up in ups if "breaker" in up.extra), None)


def size_breaker(own_a: float | None, field: str, most_a: float, part: "PartSizing", ctx: "PathContext") -> Figure:
    """The breaker of a circuit: the smallest sold from 1.25 × all that runs on it, and no larger than so many A.

    Source: 1.25 × for long, and no larger than the socket it protects (IEC 60364-4-43; sizes table).
    """
    circuit, margin, table = part.extra["circuit"], assumption("fuse_margin"), breakers(ctx.brief)
    able = [size for size in table.sizes if size <= most_a + 1e-9] or [table.sizes[0]]
    pick = next((size for size in able if size >= margin.number * circuit.number - 1e-9), able[-1])
    how = "smallest sold from 1.25 × all that runs on it, and no larger than its sockets"
    inputs = {"I_c": circuit, "k": margin}
    return sized("I_b", own_a, pick, "A", "AC breaker", f"{part.pointer}/{field}", how, inputs, table.key)


def size_ac_cable(part: "PartSizing", ctx: "PathContext", protecting: Figure) -> None:
    """The cable of an AC circuit, carrying the breaker that protects it.

    Source: ampacity of the wires table by building practice, no less than its breaker.
    """
    brief, inside, run = ctx.brief, ctx.site.inside_c, part.node.run
    least = LEAST_MM2 if brief.gauge_system == "mm2" else LEAST_AWG_MM2
    insulation_c = min(run.insulation_c, AC_INSULATION_C)

    def carries(wire: Wire) -> float:
        return conductors.ampacity(wire, "building", inside.number, insulation_c, run.bundled)

    offered = [w for w in conductors.gauges(brief.gauge_system) if w.area_mm2 >= least]
    picked = next((w for w in offered if carries(w) >= protecting.number), offered[-1])
    wire = wires()[run.gauge] if run.gauge else picked
    how = "thinnest that carries its breaker by building practice, and no thinner than is usual in walls"
    at, label = f"{part.pointer}/run/gauge", "gauge, each of three conductors"
    gauge = sized("A", run.gauge, wire.key, "", label, at, how, {"I_b": protecting}, "gauge")
    how = "table of building practice, derated for the air inside and for bundling"
    derated = {"T_in": inside, "A": gauge}
    ampacity = Figure.of("I_amp", carries(wire), "A", "derated ampacity, building practice", how=how, inputs=derated)
    bare = conductors.resistance(2 * run.length_m, wire.area_mm2, AC_CABLE_C)
    warm = f"copper at {write_quantity(AC_CABLE_C, '°C')}"
    ohm, circuit = Figure.of("R", bare, "Ω", "both legs", how=warm, inputs={"A": gauge}), part.extra["circuit"]
    drop = Figure.by("d", "I_c · R / U", "share", "voltage drop", I_c=circuit, R=ohm, U=mains_voltage(part, ctx))
    heat = Figure.by("Q", "I_c^2 · R", "W", "heat", I_c=circuit, R=ohm)
    part.extra |= {"ac_gauge": gauge, "ac_ampacity": ampacity, "ac_drop": drop, "ac_heat": heat}
    for name, figure in {"gauge": gauge, "ampacity": ampacity, "drop": drop, "heat": heat}.items():
        ctx.put(part.key, f"run/{name}", figure)
