"""What of a pack's energy can be used: depth, cold, age, and the rate at which lead gives less."""

from dataclasses import dataclass, replace

from kegcart.core.figure import Basis, Figure
from kegcart.core.loads.sizing import LoadsSizing
from kegcart.core.pack.document import Planning
from kegcart.core.reference import Chemistry, assumption

OWN_CURVE = Basis("decision", "own discharge curve")


@dataclass(frozen=True, slots=True)
class Kept:
    """The shares that multiply the nominal energy. `reached` is the depth that is left where charging stops early, from `bottom` (a
    state of charge) up; `curve` the mean voltage over it on the curve, over the nominal voltage."""

    depth: Figure
    reached: Figure
    cold: Figure
    age: Figure
    curve: Figure
    bottom: float

    @property
    def share(self) -> float:
        """Share of the nominal energy that can be used."""
        return self.reached.number * self.curve.number * self.cold.number * self.age.number

    def share_above(self, row: Chemistry, cell_v: float) -> float:
        """Share of the nominal energy that can be used before a rested cell stands at so many V. Source: area under its curve."""
        if row.open_circuit(self.bottom) >= cell_v:
            return self.share
        low, high = row.charge_at(cell_v), self.bottom + self.reached.number
        mean = row.mean_open_circuit(low, high) / row.v_nom
        return max(0.0, high - low) * mean * self.cold.number * self.age.number


def curve_share(row: Chemistry, bottom: float, depth: Figure) -> Figure:
    """The mean voltage over a depth from `bottom` (a state of charge) up, over the nominal voltage.

    Source: the area under the open-circuit curve in force, typical of the chemistry or the builder's own.
    """
    mean = row.mean_open_circuit(bottom, bottom + depth.number)
    area = Figure(
        "v_mean", mean, "V", "mean of a rested cell over this depth, by the area under its curve", basis=row.curve_basis
    )
    label = "mean voltage over this depth, over the nominal"
    return Figure.by(
        "k_v", "v_mean / v_nom", "×", label, v_mean=area, v_nom=row.figure("v_nom", row.v_nom, "V", "nominal, one cell")
    )


def peukert_hours(capacity_ah: float, current_a: float, exponent: float, rated_h: float = 20.0) -> float:
    """Hours a lead-acid battery gives a current: t = H·(C/(I·H))^k.

    capacity_ah: rated at `rated_h` hours. exponent: k, 1.08 to 1.15 AGM, 1.2 to 1.3 flooded. Source: Peukert's law.
    """
    share: float = (capacity_ah / (current_a * rated_h)) ** exponent
    return rated_h * share


def peukert_share(row: Chemistry, capacity: Figure, v_nom: Figure, loads: LoadsSizing) -> Figure:
    """Share of the rated capacity that lead gives at the mean current of the loads; never above one.

    Source: Peukert's law, from the 20-hour rating of lead-acid (assumptions table).
    """
    mean = Figure.by(
        "I_mean", "P_mean / V_nom", "A", "mean current while anything runs, estimate", P_mean=loads.drawn_mean, V_nom=v_nom
    )
    k = row.figure("k", row.peukert or 1.0, "", f"Peukert exponent, {row.label}")
    hours = assumption("peukert_hours")
    rated_a = capacity.number / hours.number
    if mean.number <= rated_a:
        return Figure.of(
            "k_pk",
            1.0,
            "share",
            "of the rated capacity at this rate",
            how="the mean current is no higher than the 20-hour rate, at which the capacity is rated",
            inputs={"I_mean": mean, "C": capacity},
        )
    return Figure.by(
        "k_pk",
        "(C / (I_mean · H)) ^ (k − 1)",
        "share",
        "of the rated capacity at this rate",
        how="Peukert: t = H · (C / (I · H))^k, so the charge given is I · t",
        C=capacity,
        I_mean=mean,
        H=hours,
        k=k,
    )


def own_curve(row: Chemistry, pack: Planning, cell_ohm: float) -> Chemistry:
    """The chemistry with the builder's own discharge curve in place of the typical one, if there is one.

    A curve taken at a current has the drop over the cell's resistance (`cell_ohm`, Ω) added back, so that it stands for the
    rested cell.
    """
    if pack.curve is None:
        return row
    drop = pack.curve.current_a * cell_ohm
    return replace(
        row,
        soc=tuple(p.soc for p in pack.curve.points),
        ocv_v=tuple(p.v + drop for p in pack.curve.points),
        curve_basis=OWN_CURVE,
    )
