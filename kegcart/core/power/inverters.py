"""Inverters: rating, cut-off, losses and what they draw, for the loads on their outlets."""

from kegcart.core.choice import sized
from kegcart.core.electrical.inverter import LossCurve, class_for, derating, needed_rating, pick_rating
from kegcart.core.figure import Figure
from kegcart.core.loads.sizing import Demand, find_peak
from kegcart.core.power.document import Inverter
from kegcart.core.power.flow import of_loads
from kegcart.core.power.parts import Bench, InverterSizing, Source
from kegcart.core.reference import assumption

CUTOFF_MARGIN = 1.02
"""How far an inverter's own cut-off stands above the board's, so that it goes first."""


def precharge_from(v_nom: float) -> Figure | None:
    """The inverter rating from which pre-charge is due at a nominal voltage; None in the 12 V class."""
    if v_nom >= 34:
        return assumption("precharge_36")
    return assumption("precharge_24") if v_nom >= 20 else None


def precharge_resistor(source: Source) -> Figure:
    """The resistor in Ω through which the capacitors are charged for some seconds, before the switch is closed."""
    current = assumption("precharge_current")
    return Figure.by("R_pre", "V_max / I_pre", "ohm", "pre-charge resistor, for some seconds", V_max=source.v_max, I_pre=current)


def size_inverter(key: str, node: Inverter, demands: list[Demand], bench: Bench) -> InverterSizing:
    """Rating, cut-off and losses of an inverter for the loads on its outlets."""
    at, pack, site = f"/power/network/{key}", bench.source(key), bench.site
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
        surge = Figure.by("P_s", "P_rated · k_s", "W", "surge rating", P_rated=rating, k_s=factor)
    curve = LossCurve.typical(rating.number, node.idle_w)
    if node.idle_w is not None:
        idle = Figure.decided("P0", node.idle_w, "W", "idle draw", f"{at}/idle_w")
    else:
        idle = Figure.by("P0", "k_0 · P_rated", "W", "idle draw", k_0=assumption("inverter_idle"), P_rated=rating)
    window_min = row.figure("V_in_min", row.window_min_v, "V", "least input voltage")
    window_max = row.figure("V_in_max", row.window_max_v, "V", "greatest input voltage")
    cutoff = sized(
        "V_cut",
        node.cutoff_v,
        max(row.window_min_v, pack.v_low.number, CUTOFF_MARGIN * pack.cutoff.number),
        "V",
        "low-voltage cut-off",
        f"{at}/cutoff_v",
        "the greatest of its window's lower end, the pack's lowest working voltage, and 2 % above where the board opens",
        {"V_in_min": window_min, "V_low": pack.v_low, "V_bms": pack.cutoff},
    )
    derate = Figure.of(
        "k_T", derating(site.inside_c.number), "×", "derating in heat", how="1 %/K above 40 °C", inputs={"T_in": site.inside_c}
    )
    continuous = Figure.by("P_cont", "P_rated · k_T", "W", "continuous rating at the hottest", P_rated=rating, k_T=derate)
    loss = Figure.of(
        "P_loss",
        curve.loss(rating.number),
        "W",
        "loss at full load",
        how="P0 + a·P + b·P²/P_rated, a and b from the efficiencies at 35 % and full load",
        inputs={"P0": idle, "P_rated": rating, "η_35": assumption("inverter_eta_part"), "η_100": assumption("inverter_eta_full")},
    )
    rated_current = Figure.by(
        "I_rated", "(P_rated + P_loss) / V_cut", "A", "current at its rating", P_rated=rating, P_loss=loss, V_cut=cutoff
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
    due = precharge_from(pack.v_nom.number)
    if node.precharge or (node.precharge is None and due is not None and rating.number >= due.number):
        bench.put(key, "precharge", precharge_resistor(pack))
    ac = of_loads(demands, bench.loads.day, 1.0)
    return InverterSizing(
        key, peak, rating, surge, idle, cutoff, continuous, needed, window_min, window_max, curve, rated_current, ac
    )
