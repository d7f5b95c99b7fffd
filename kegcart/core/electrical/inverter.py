"""Inverters: loss over power, derating in heat, the class and rating that serve."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

from kegcart.core.figure import Figure
from kegcart.core.reference import InverterClass, assumption, constant, inverter_classes

DERATE_FROM_C = 40.0
CUTOFF_MARGIN = 1.02
"""How far an inverter's own cut-off stands above the board's, so that it goes first."""


@cache
def loss_shape() -> tuple[float, float]:
    """a and b of the loss curve, from the efficiencies at 35 % and at full load.

    With P0 = k_0·P_rated, a and b solve a·x + b·x² = x·(1/η(x) − 1) − k_0 at x = 0.35 and 1.

    Source: typical efficiencies of makers' sheets (assumptions table).
    """
    idle = constant("inverter_idle")
    part, full = 0.35, 1.0
    loss_part = part * (1 / constant("inverter_eta_part") - 1) - idle
    loss_full = full * (1 / constant("inverter_eta_full") - 1) - idle
    b = (loss_part - part * loss_full) / (part * part - part)
    return loss_full - b, b


@dataclass(frozen=True, slots=True)
class LossCurve:
    """P_loss(P) = P0 + a·P + b·P²/P_rated, all in W."""

    idle_w: float
    a: float
    b: float
    rated_w: float

    @classmethod
    def typical(cls, rated_w: float, idle_w: float | None = None) -> "LossCurve":
        """The curve of a typical pure-sine inverter of so many W (assumptions table)."""
        a, b = loss_shape()
        return cls(constant("inverter_idle") * rated_w if idle_w is None else idle_w, a, b, rated_w)

    def loss(self, power_w: float) -> float:
        """Loss in W at an AC power in W."""
        return self.idle_w + self.a * power_w + self.b * power_w * power_w / self.rated_w

    def drawn(self, power_w: float) -> float:
        """DC power in W taken for an AC power in W."""
        return power_w + self.loss(power_w)


def shape_figures() -> tuple[Figure, Figure]:
    """a and b of the loss of a typical inverter, see `loss_shape`."""
    a, b = loss_shape()
    how = "from the efficiencies at 35 % and at full load, and the idle draw"
    known = {
        "k_0": assumption("inverter_idle"),
        "η_35": assumption("inverter_eta_part"),
        "η_100": assumption("inverter_eta_full"),
    }
    return (
        Figure.of("a", a, "", "loss that grows with the power", how=how, inputs=known),
        Figure.of("b", b, "", "loss that grows with its square", how=how, inputs=known),
    )


def loss_figure(power: Figure, idle: Figure, shape: tuple[Figure, Figure], rated: Figure, label: str) -> Figure:
    """The loss in W of an inverter at an AC power, with its working; the curve is `LossCurve`. shape: its a and b.

    Source: a loss of idle, linear and quadratic part, fitted to two points of the maker's efficiency curve (practice).
    """
    a, b = shape
    return Figure.by("P_loss", "P0 + a · P + b · P^2 / P_rated", "W", label, P0=idle, a=a, b=b, P=power, P_rated=rated)


def derating(inside_c: float) -> float:
    """Share of the continuous rating left at the air temperature inside the box.

    Source: typical of makers' sheets: from 40 °C, a share for each kelvin (assumptions table).
    """
    return max(0.1, 1 - constant("inverter_derate") * max(0.0, inside_c - DERATE_FROM_C))


def class_for(voltage_nom_v: float) -> InverterClass:
    """The battery-voltage class nearest to a pack's nominal voltage, by ratio."""
    return min(inverter_classes(), key=lambda row: max(row.class_v / voltage_nom_v, voltage_nom_v / row.class_v))


@dataclass(frozen=True, slots=True)
class Promise:
    """An inverter before its source is sized: the rating its loads ask for, and that it was given (W); the least voltage at which it
    runs, where that was said (V).
    """

    needed_w: float
    rating_w: float | None = None
    least_v: float | None = None

    def drawn_w(self, v_nom: float) -> float:
        """DC power in W at its rating, on a source of so many V nominal: the smallest sold there that serves."""
        rated = self.rating_w or pick_rating(class_for(v_nom).ratings_w, self.needed_w)
        return LossCurve.typical(rated).drawn(rated)

    def runs_from(self, v_nom: float) -> float:
        """The voltage in V down to which it runs on such a source."""
        return max(self.least_v or 0.0, class_for(v_nom).window_min_v)


def needed_rating(running_w: float, surge_w: float, apparent_va: float, inside_c: float) -> float:
    """The least continuous rating in W: running sum ≤ 80 % of the derated rating, surge within its multiple, VA within the derated rating.

    Source: practice: 80 % for long, twice for some seconds (assumptions table); makers rate in VA.
    """
    derate = derating(inside_c)
    return max(running_w / (constant("inverter_load") * derate), apparent_va / derate, surge_w / constant("inverter_surge"))


def pick_rating(ratings_w: Sequence[float], needed_w: float) -> float:
    """The smallest rating sold that serves, or the largest there is."""
    return next((rating for rating in ratings_w if rating >= needed_w - 1e-9), ratings_w[-1])
