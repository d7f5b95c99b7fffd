"""A run of cable sized: gauge, ampacity with its derates, drop, heat, and what it survives in a short. For any station."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

from kegcart.core.choice import sized
from kegcart.core.electrical import conductors, protection
from kegcart.core.electrical.run import Run
from kegcart.core.figure import Figure
from kegcart.core.reference import Family, Wire, assumption, constant, insulations, wires
from kegcart.core.units import write_quantity

Put = Callable[[str, Figure], Figure]
"""Enters a figure of a run on the sheet, by name."""
HOTTEST_C = 250.0
"""Where the resistance of an overloaded conductor is held: its insulation is gone by then."""
ENDS = 2
"""Joints of one leg."""


class Laid(NamedTuple):
    """How a run lies, whatever it is made of: the wire-sizing school it is judged by, the air and what insulation and terminals stand
    (°C), the conductors in its bundle, like cables side by side.
    """

    school: conductors.School
    air_c: float
    limit_c: float
    bundled: int
    parallel: int

    def ampacity(self, wire: Wire) -> float:
        """Derated ampacity in A of this wire, its like cables together."""
        return conductors.ampacity(wire, self.school, self.air_c, self.limit_c, self.bundled) * self.parallel

    def most_fuse(self, wire: Wire) -> float | None:
        """The largest fuse in A that the school allows before this wire; None where it does not say."""
        most = wire.max_fuse_a[self.school]
        return None if most is None else most * self.parallel

    def warm_c(self, wire: Wire, amps: float) -> float:
        """Conductor temperature in °C of this wire at a current."""
        limit_c = conductors.limiting_temperature(wire, self.school, self.limit_c)
        return min(conductors.conductor_temperature(self.air_c, limit_c, amps, self.ampacity(wire)), HOTTEST_C)


@dataclass(frozen=True, slots=True)
class Practice:
    """What the brief says of all cables: the wire-sizing school, the gauges offered, the air they lie in (°C)."""

    school: conductors.School
    system: conductors.GaugeSystem
    inside: Figure

    def laid(self, run: Run) -> Laid:
        """How a run lies."""
        return Laid(self.school, self.inside.number, run.limit_c, run.bundled, run.parallel)

    def greatest_fuse(self, run: Run) -> float:
        """The greatest fuse in A that a run stands, as pinned or of the thickest sold."""
        wire, laid = wires()[run.gauge] if run.gauge else conductors.gauges(self.system)[-1], self.laid(run)
        return min(laid.ampacity(wire), laid.most_fuse(wire) or float("inf"))


@dataclass(slots=True, eq=False)
class Duty:
    """What is asked of a run: running and design current (A), the protection it must carry (A), the voltage its drop is judged at
    (V) and the share of it that it may drop, the least section that survives a short (mm², None where nothing guards it).

    at: the pointer of its `Run`. legs: 2 where both poles are alike, 1 for a single conductor. like: the wire of a run of its kind
    that it must be like; None where it is picked for itself. mirrors: in words, the run whose gauge it takes without a choice of
    its own. least_mm2: no thinner section is chosen, mm². sparing: at so many A its copper shall take no more than so many V, where
    something that is sold does that.
    """

    run: Run
    at: str
    current: Figure
    design: Figure
    guard_a: float
    volts: Figure
    limit: Figure
    short: Figure | None
    legs: int = 2
    like: Wire | None = None
    mirrors: str = ""
    least_mm2: float = 0.0
    sparing: tuple[float, float] | None = None


@dataclass(slots=True)
class RunSizing:
    """A run as it was sized. Resistances of all its legs in Ω; `cold_ohm` the least, as it counts in a fault."""

    wire: Wire
    current: Figure
    gauge: Figure
    area: Figure
    ampacity: Figure
    resistance: Figure
    drop: Figure
    drop_limit: Figure
    heat: Figure
    cold_ohm: float
    short: Figure | None
    """least section in mm² that survives a short; None where no fuse or breaker guards it"""


def size_run(duty: Duty, practice: Practice, put: Put) -> RunSizing:
    """Gauge, ampacity, drop and heat of a run. put: enters a figure of it on the sheet.

    Sized for the design current; all legs count, each with a lug at both ends.

    Source: ampacity of the wires table for the chosen practice, corrected for ambient and bundling; drop limit 2 or 3 % (assumptions table).
    """
    run, laid, short, joints = duty.run, practice.laid(duty.run), duty.short, ENDS * duty.legs
    needed_a = needed_ampacity(duty)
    wire = wires()[run.gauge] if run.gauge else duty.like or pick_wire(duty, practice)
    length = Figure.decided("L", run.length_m, "m", "length, one way", f"{duty.at}/length_m")
    how = "the protection before it, and 1.25 × the design current"
    needed = Figure.of("I_need", needed_a, "A", "ampacity needed", how=how, inputs={"I_d": duty.design})
    how = "thinnest sold that carries its protection within the drop limit, and survives a short"
    inputs = {"I_need": needed, "L": length, "d": duty.limit} | ({"A_min": short} if short else {})
    if duty.mirrors:
        gauge = Figure.of("A", wire.key, "", "gauge", how=duty.mirrors, inputs=inputs)
    else:
        gauge = sized("A", run.gauge, wire.key, "", "gauge", f"{duty.at}/gauge", how, inputs, "gauge")
    ampacity = ampacity_figure(wire, laid, practice.inside, duty.at)
    resistance = resistance_figure(wire, duty, ampacity, length, laid)
    drop = Figure.by(
        "d",
        f"I_d · (R + {joints} · R_j) / V",
        "share",
        "voltage drop",
        I_d=duty.design,
        R=resistance,
        R_j=assumption("joint_resistance"),
        V=duty.volts,
    )
    heat = Figure.by("Q", "I_d^2 · R", "W", "heat", I_d=duty.design, R=resistance)
    for name, figure in {
        "length": length,
        "gauge": gauge,
        "ampacity": ampacity,
        "resistance": resistance,
        "drop": drop,
        "heat": heat,
        "loading": loading_figure(duty.current, ampacity),
        **({"withstand": short} if short else {}),
    }.items():
        put(name, figure)
    area = wire.figure("A", wire.area_mm2, "mm²", f"cross-section of {wire.key}")
    copper = conductors.resistance(duty.legs * run.length_m, wire.area_mm2 * run.parallel)
    cold_ohm = copper + joints * constant("joint_fault")
    return RunSizing(wire, duty.current, gauge, area, ampacity, resistance, drop, duty.limit, heat, cold_ohm, short)


@dataclass(frozen=True, slots=True)
class SmallLead:
    """A thin lead from a post to a meter or board, with the small fuse at its beginning. fault: at its far end, A."""

    run: RunSizing
    fuse: Figure | None
    family: Family
    fault: Figure
    interrupts: Figure


SMALL_FUSE_A = 1.0
"""What a meter or a board draws is well below that."""


def size_small_lead(
    run: Run, at: str, drawn: Figure, v_max: Figure, v_low: Figure, source: Figure, fused: bool, practice: Practice, put: Put
) -> SmallLead:
    """A meter's supply lead, or a sense lead: its fuse, gauge and fault. v_max, v_low in V; source: its resistance in a short, Ω.

    The fault is that at its far end: the lead's own copper is what bounds it.
    Source: fused at the post with 1 to 2 A (practice); Ohm's law; as every run, see `size_run`.
    """
    thinnest = conductors.gauges(practice.system)[0]
    ohm = conductors.resistance(2 * run.length_m, (wires()[run.gauge] if run.gauge else thinnest).area_mm2)
    copper = Figure.of("R_l", ohm, "Ω", "both legs of the lead, cold", how="thinnest sold, or as pinned")
    fault = put(
        "fault", Figure.by("I_fault", "V_max / (R_1k + R_l)", "A", "fault at its far end", V_max=v_max, R_1k=source, R_l=copper)
    )
    picked = protection.pick(SMALL_FUSE_A, [], v_max.number, fault.number, air_c=practice.inside.number, in_lead=True)
    how = "smallest sold that opens the fault at the far end of the lead"
    fuse = Figure.of("I_fuse", picked.rating_a, "A", "fuse at the post", how=how, inputs={"I_fault": fault}) if fused else None
    if fuse is not None:
        put("fuse", fuse)
    label = f"{picked.family.label}: interrupts at this voltage"
    interrupts = picked.family.figure("I_int", protection.interrupt_rating(picked.family, v_max.number), "A", label)
    short = least_section(let_through_figure(picked.family, fuse, fault), run, at) if fuse is not None else None
    duty = Duty(run, at, drawn, drawn, fuse.number if fuse is not None else 0.0, v_low, assumption("drop_outlet"), short)
    return SmallLead(size_run(duty, practice, put), fuse, picked.family, fault, interrupts)


def needed_ampacity(duty: Duty) -> float:
    """What a run must carry, A: the protection before it, and 1.25 × its design current.

    Source: a fuse carries 80 % of its rating for long (assumptions table); IEC 60364-4-43.
    """
    return max(duty.guard_a, duty.design.number * constant("fuse_margin"))


def pick_wire(duty: Duty, practice: Practice) -> Wire:
    """The thinnest wire sold that carries so many A, may stand behind the protection, drops no more than it may, survives a short,
    and leaves others on its path their share of the drop.

    Source: ampacity of the wires table for the chosen practice; drop limit 2 or 3 % (assumptions table).
    """
    amps, least_mm2 = duty.design.number, max(duty.least_mm2, duty.short.number if duty.short else 0.0)
    asked = (needed_ampacity(duty), duty.guard_a, least_mm2, amps, duty.limit.number * duty.volts.number, duty.sparing)
    return thinnest(practice.system, practice.laid(duty.run), duty.legs, duty.run.length_m, *asked)


@lru_cache(maxsize=4096)  # the next answer asks for most of the last one's again
def thinnest(
    system: conductors.GaugeSystem,
    laid: Laid,
    legs: int,
    length_m: float,
    needed_a: float,
    guard_a: float,
    least_mm2: float,
    amps: float,
    most_v: float,
    sparing: tuple[float, float] | None,
) -> Wire:
    """See `pick_wire`."""
    joints = ENDS * legs * constant("joint_resistance")
    offered = conductors.gauges(system)
    lavish: Wire | None = None
    for wire in offered:
        most_fuse = laid.most_fuse(wire)
        too_thin = (most_fuse is not None and most_fuse < guard_a) or wire.area_mm2 < least_mm2 - 1e-9
        if too_thin or laid.ampacity(wire) < needed_a:
            continue
        ohm = conductors.resistance(legs * length_m, wire.area_mm2 * laid.parallel, laid.warm_c(wire, amps))
        if amps * (ohm + joints) > most_v:
            continue
        if sparing is None or sparing[0] * ohm <= sparing[1]:
            return wire
        lavish = lavish or wire
    return lavish or offered[-1]


def ampacity_figure(wire: Wire, laid: Laid, air: Figure, at: str) -> Figure:
    """Derated ampacity of a run in A, with its working. Source: the wire's table row and `conductors.ampacity`."""
    said = "vehicle and small-craft" if laid.school == "small_craft" else "building"
    limit_c = conductors.limiting_temperature(wire, laid.school, laid.limit_c)
    table_c, table_a = wire.column(laid.school, laid.limit_c) or (limit_c, 0.0)
    derating = {
        "n_p": Figure.decided("n_p", laid.parallel, "", "cables side by side", f"{at}/parallel"),
        "I_tab": wire.figure("I_tab", table_a, "A", f"{wire.key}, {said} practice"),
        "T_in": air,
        "T_ins": Figure.decided("T_ins", limit_c, "°C", "temperature limit, of insulation and terminals", f"{at}/insulation_c"),
        "T_tab": wire.figure("T_tab", table_c, "°C", "temperature of the table"),
        "k_b": Figure.decided("k_b", conductors.bundle_factor(laid.bundled), "×", "bundling", f"{at}/bundled"),
    }
    if laid.ampacity(wire) > 0:
        formula = "n_p · I_tab · √((T_ins − T_in) / (T_tab − 30)) · k_b"
        return Figure.by("I_amp", formula, "A", "derated ampacity", derating)
    how = "the school gives no ampacity for this size, or the air is too hot for its insulation"
    return Figure.of("I_amp", 0.0, "A", "derated ampacity", how=how, inputs=derating)


def resistance_figure(wire: Wire, duty: Duty, ampacity: Figure, length: Figure, laid: Laid) -> Figure:
    """Resistance of all legs in Ω, warm from the design current.

    Source: IEC 60028: resistivity of copper and its rise with temperature; warmed by the square of the loading.
    """
    warm = Figure.of(
        "T",
        laid.warm_c(wire, duty.design.number),
        "°C",
        "conductor temperature",
        how=f"T_a + (T_ins − T_a)·(I_d/I_amp)², held at {write_quantity(HOTTEST_C, '°C')}, where the insulation is gone",
        inputs={"I_d": duty.design, "I_amp": ampacity},
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
    area = wire.figure("A", wire.area_mm2 * laid.parallel, "mm²", f"cross-section of {laid.parallel} × {wire.key}")
    formula, label = ("ρ · 2 · L / A", "both legs, warm") if duty.legs == 2 else ("ρ · L / A", "one leg, warm")
    return Figure.by("R", formula, "Ω", label, ρ=rho, L=length, A=area)


def loading_figure(current: Figure, ampacity: Figure) -> Figure:
    """The running current as a share of the ampacity.

    Source: current over ampacity (definition).
    """
    label, inputs = "running current over ampacity", {"I": current, "I_amp": ampacity}
    if ampacity.number > 0:
        return Figure.by("I/I_amp", "I / I_amp", "share", label, inputs)
    return Figure.of("I/I_amp", 9.99, "share", label, how="it carries nothing here", inputs=inputs)


def let_through_figure(family: Family, rating: Figure, fault: Figure) -> Figure:
    """I²t in A²s that a fuse or breaker lets through. Source: see `protection.let_through`."""
    label = f"let through by the {family.label}"
    if family.kind == "breaker":
        return Figure.by("I²t", "I_f^2 · t_b", "A²s", label, I_f=fault, t_b=assumption("breaker_opening"))
    return Figure.by(
        "I²t",
        "k_arc · (m · I_fuse)^2 · t_m",
        "A²s",
        label,
        k_arc=assumption("fuse_arc"),
        m=family.figure("m", family.multiples[-1], "×", "last point of its melting window"),
        I_fuse=rating,
        t_m=family.figure("t_m", family.fastest_s[-1], "s", "fastest melting there"),
    )


def least_section(energy: Figure, run: Run, at: str) -> Figure:
    """The least section in mm² of a run that takes so many A²s. Source: A ≥ √(I²t)/k (IEC 60364-4-43)."""
    kind, initial_c = insulations()[run.material], run.limit_c
    inputs = {
        "θ_f": kind.figure("θ_f", kind.final_c, "°C", f"{kind.label}: stands it in a short"),
        "θ_i": Figure.decided("θ_i", initial_c, "°C", "temperature before it", f"{at}/insulation_c"),
    }
    factor = max(conductors.adiabatic_factor(kind.final_c, initial_c), 1.0)
    how = "226 · √ln(1 + (θ_f − θ_i)/(234.5 + θ_i))"
    k = Figure.of("k", factor, "A·√s/mm²", f"copper in {kind.label}", how=how, inputs=inputs)
    return Figure.by("A_min", "√(I²t) / k", "mm²", "least section that survives a short", {"I²t": energy, "k": k})
