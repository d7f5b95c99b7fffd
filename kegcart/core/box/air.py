"""Air through the box: how free its openings are, what a fan carries, what rises through vents by itself. Decisions -> figures."""

from dataclasses import dataclass
from math import exp, pi

from kegcart.core.box.document import Fitting
from kegcart.core.box.layout import BoxLayout, Fitted
from kegcart.core.box.weight import GRAVITY
from kegcart.core.brief.sizing import Site
from kegcart.core.figure import Figure
from kegcart.core.reference import assumption, constant

AIR = ("vent", "fan")
KELVIN = 273.15


@dataclass(frozen=True, slots=True)
class FanSizing:
    """A fan: what it moves through the box, m³/h, and carries while it runs, W/K; at which air inside its thermostat starts and stops it."""

    fitting: Fitting
    flow: Figure
    carries: Figure
    on: Figure
    off: Figure


def openings(layout: BoxLayout) -> list[Fitted]:
    """What air passes: vents and fans."""
    return [f for f in layout.fitted if f.fitting is not None and f.fitting.kind in AIR]


def free_area(fitting: Fitting) -> float:
    """Free opening of a vent, fan or relief in cm²: as decided, or typical of a grille (assumptions table)."""
    if fitting.free_cm2 is not None:
        return fitting.free_cm2
    round_share = pi / 4 if fitting.height_mm is None else 1.0
    area = fitting.width_mm * (fitting.height_mm or fitting.width_mm) * round_share / 100
    return area * (1.0 if fitting.kind == "relief" else constant("vent_free"))


def opening_figure(fittings: list[Fitting], label: str) -> Figure:
    """Their free opening together, cm²."""
    inputs = {
        f"{f.name} ({n})": Figure.of("A", free_area(f), "cm²", f.name, inputs={"k_f": assumption("vent_free")})
        for n, f in enumerate(fittings, 1)
    }
    if not inputs:
        return Figure.of("A", 0.0, "cm²", label, how="there is none")
    return Figure.by("A", "sum", "cm²", label, inputs)


def fan_opening(fan: Fitting) -> Figure:
    """The opening of a fan, cm²: the circle that its blades sweep."""
    return Figure.of("A_fan", fan.width_mm**2 * pi / 400, "cm²", "opening of the fan")


def goes_in(fitted: Fitted, fan: Fitted) -> bool:
    """Whether air comes in through a fitting: a vent passes what the fan moves the other way."""
    fitting, mover = fitted.fitting, fan.fitting
    if fitting is None or mover is None:
        return False
    return fitting.blows == "in" if fitting.kind == "fan" else mover.blows == "out"


def its_openings(fan: Fitted, air: list[Fitted]) -> list[Fitted]:
    """The openings through which the air of a fan comes, or goes."""
    return [f for f in air if f is not fan and goes_in(f, fan) != goes_in(fan, fan)]


def default_on(fitting: Fitting, site: Site) -> float:
    """The temperature at which a fan starts, °C: as decided, or twice the hysteresis above the hottest outside."""
    return fitting.on_c if fitting.on_c is not None else site.hot_c.number + 2 * constant("fan_hysteresis")


def default_off(fitting: Fitting, site: Site) -> float:
    """The temperature at which it stops, °C: as decided, or its hysteresis below that at which it starts."""
    return fitting.off_c if fitting.off_c is not None else default_on(fitting, site) - constant("fan_hysteresis")


def thermostat(at: str, fitting: Fitting, site: Site) -> tuple[Figure, Figure]:
    """When a fan starts and stops, °C. at: its place in the design."""
    return (
        Figure.decided("T_on", default_on(fitting, site), "°C", f"{fitting.name} starts", f"{at}/on_c"),
        Figure.decided("T_off", default_off(fitting, site), "°C", f"{fitting.name} stops", f"{at}/off_c"),
    )


def air_density(altitude_m: float) -> Figure:
    """Density of the air, kg/m³. Source: it thins with the height over the sea, ρ = 1.2 · e^(−z / 8400) (assumptions table)."""
    z = Figure.decided("z", altitude_m, "m", "above the sea", "/box/altitude_m")
    base, scale = assumption("air_density"), assumption("air_scale")
    value = base.number * exp(-altitude_m / scale.number)
    return Figure.of("ρ", value, "kg/m³", "density of air", how="ρ_0 · e^(−z / z_0)", inputs={"ρ_0": base, "z": z, "z_0": scale})


def carried(flow: Figure, density: Figure) -> Figure:
    """What a flow of air in m³/h carries away, W/K. Source: Q = V̇ · ρ · c · ΔT."""
    return Figure.by("G", "V · ρ · c / 3600", "W/K", "carried by the air", V=flow, ρ=density, c=assumption("air_heat"))


def air_needed(heat: Figure, rise: Figure, density: Figure) -> Figure:
    """The air in m³/h that carries a heat away at a rise, before grilles take their part. Source: V̇ = Q / (ρ · c · ΔT)."""
    inputs = {"Q": heat, "ρ": density, "c": assumption("air_heat"), "ΔT": rise}
    return Figure.by("V", "3600 · Q / (ρ · c · ΔT)", "m³/h", "air that must pass", inputs)


def free_air_needed(through: Figure) -> Figure:
    """The flow in free air that a fan's sheet must say for what it is to move through grilles, m³/h."""
    return Figure.by("V_free", "V / k_g", "m³/h", "of the fan in free air", V=through, k_g=assumption("fan_share"))


def fan_flow(fan: Fitted, air: list[Fitted]) -> Figure:
    """What a fan moves through the box, m³/h; nothing where its air has no way.

    Source: half of its flow in free air through grilles, less with a filter (assumptions table), less where its openings are less free
    than itself (continuity); of a fan of unknown flow its opening times a typical speed.
    """
    own = fan.fitting
    assert own is not None
    label = f"{own.name} moves"
    others = [o.fitting for o in its_openings(fan, air) if o.fitting]
    if not others:
        return Figure.of("V", 0.0, "m³/h", label, how="its air has no way through the box")
    area, have = fan_opening(own), opening_figure(others, "free openings for its air")
    free = Figure.decided("V_free", own.flow_m3h or 0.0, "m³/h", "in free air", f"{fan.at}/flow_m3h")
    if own.flow_m3h is None:
        free = Figure.by("V_free", "A_fan · v_f · 0.36", "m³/h", "in free air", A_fan=area, v_f=assumption("fan_speed"))
    inputs = {"V_free": free, "k_g": assumption("fan_share"), "A": have, "A_fan": area}
    formula = "V_free · k_g · min(1, A / A_fan)"
    if own.filtered or all(other.filtered for other in others):
        inputs["k_fi"], formula = assumption("filter_more"), f"{formula} / (1 + k_fi)"
    return Figure.by("V", formula, "m³/h", label, inputs)


def size_fans(layout: BoxLayout, site: Site, density: Figure) -> dict[str, FanSizing]:
    """Every fan of the box, by its id."""
    air, out = openings(layout), dict[str, FanSizing]()
    for fitted in air:
        if fitted.fitting is not None and fitted.fitting.kind == "fan":
            flow = fan_flow(fitted, air)
            settings = thermostat(fitted.at, fitted.fitting, site)
            out[fitted.key] = FanSizing(fitted.fitting, flow, carried(flow, density), *settings)
    return out


def size_draught(layout: BoxLayout, site: Site, density: Figure) -> Figure | None:
    """What rises out through vents by itself, W at 1 K: it grows with the rise to the power of 1.5. None without vents low and high.

    Source: stack effect, V̇ = C_d · A · √(2 · g · h · ΔT / T), in and out one after the other; those in the lower half of the box against
    those in the upper.
    """
    middle = layout.hollow.height / 2
    ways = openings(layout)
    low = [f for f in ways if f.solid.middle[2] < middle]
    high = [f for f in ways if f not in low]
    areas = [opening_figure([f.fitting for f in side if f.fitting], "free openings") for side in (low, high)]
    if not all(a.number > 0 for a in areas):
        return None
    below, above = (sum(f.solid.middle[2] for f in side) / len(side) for side in (low, high))
    rise = Figure.of("h", (above - below) / 1000, "m", "from the lower openings to the upper")
    gap = Figure.by("A_e", "A_1 · A_2 / √(A_1^2 + A_2^2)", "cm²", "as one opening", A_1=areas[0], A_2=areas[1])
    outside = Figure.of(
        "T", site.hot_c.number + KELVIN, "K", "outside", how="the hottest outside, absolute", inputs={"T_max": site.hot_c}
    )
    inputs = {"ρ": density, "c": assumption("air_heat"), "C_d": assumption("vent_discharge"), "A_e": gap, "h": rise, "T": outside}
    return Figure.by("k_v", f"ρ · c · C_d · A_e / 10000 · √(2 · {GRAVITY} · h / T)", "W/K^1.5", "rises through the vents", inputs)
