"""Warming a pack that is too cold to be charged: by a pad under it that what charges feeds, never the cold pack."""

from dataclasses import dataclass
from math import exp, inf, log

from pydantic import Field

from kegcart.core.brief.sizing import Site
from kegcart.core.charging.charged import Charged
from kegcart.core.document import Decisions
from kegcart.core.figure import Figure, Sheet
from kegcart.core.reference import assumption
from kegcart.core.units import Area, Power

PAD = "/charging/pad"


class Pad(Decisions):
    """A heating pad under the pack."""

    watts: Power | None = Field(None, description="W; null: there is none")
    area_cm2: Area | None = Field(None, description="its area; null: not known")
    cut_out: bool = Field(False, description="it has a thermal cut-out of its own, 60 °C")


@dataclass(frozen=True, slots=True, eq=False)
class WarmingSizing:
    """What it takes to warm the pack from the coldest site until its board lets charge in. Temperatures in °C and K.

    free: where the lock lets go. rise: from the coldest site up to there. energy: for the cells alone, Wh. hold: W that keep them
    there. watts, reached, hours: of the pad, how far it comes above the air, and how long it takes; None where there is no pad.
    """

    pad: Pad
    free: Figure
    rise: Figure
    energy: Figure
    hold: Figure
    wanted_w: float
    watts: Figure | None
    reached: Figure | None
    hours: Figure | None


def hours_to_warm(rise_k: float, watts: float, k_per_w: float, j_per_k: float) -> float:
    """Hours until a pad has brought a mass so many K above the air around it; infinite where it never does.

    k_per_w: from the mass to that air. Source: Newton's law of cooling, one mass.
    """
    final = watts * k_per_w
    return -k_per_w * j_per_k * log(1 - rise_k / final) / 3600 if final > rise_k else inf


def watts_to_warm(rise_k: float, hours: float, k_per_w: float, j_per_k: float) -> float:
    """W of the pad that does it in so many hours. Source: as `hours_to_warm`."""
    return rise_k / k_per_w / (1 - exp(-hours * 3600 / (k_per_w * j_per_k)))


def size_warming(pad: Pad, pack: Charged, site: Site, sheet: Sheet) -> WarmingSizing | None:
    """The warming of the pack where the site can be colder than it may be charged; None elsewhere.

    Source: heat is mass · specific heat · rise; what leaves is the rise over the thermal resistance of the box (assumptions table).
    """
    row, mass = pack.row, pack.mass
    if mass is None or row.kind != "lithium" or site.cold_c.number >= row.charge_min_c:
        return None
    least = row.figure("T_ch", row.charge_min_c, "°C", f"least temperature for charging {row.label}")
    free = Figure.by(
        "T_free", "T_ch + ΔT_free", "°C", "the board lets charge in again", T_ch=least, ΔT_free=assumption("lock_band")
    )
    rise = Figure.by("ΔT", "T_free − T_min", "K", "to be warmed by", T_free=free, T_min=site.cold_c)
    heat, wall = assumption("cell_heat"), assumption("box_resistance")
    of = {"m": mass, "c_p": heat, "ΔT": rise}
    energy = sheet.put("charging/warming/energy", Figure.by("Q", "m · c_p · ΔT / 3600", "Wh", "to warm the cells", of))
    hold = sheet.put(
        "charging/warming/hold", Figure.by("P_hold", "ΔT / R_th", "W", "keeps them there", {"ΔT": rise, "R_th": wall})
    )
    capacity = mass.number * heat.number
    wanted = watts_to_warm(rise.number, assumption("pad_time").number, wall.number, capacity)
    if not pad.watts:
        return WarmingSizing(pad, free, rise, energy, hold, wanted, None, None, None)
    watts = Figure.decided("P_pad", pad.watts, "W", "heating pad", f"{PAD}/watts")
    reached = Figure.by("ΔT_end", "P_pad · R_th", "K", "the pad comes above the air outside", P_pad=watts, R_th=wall)
    hours = None
    if reached.number > rise.number:
        taken, how = hours_to_warm(rise.number, pad.watts, wall.number, capacity), "−R_th · m · c_p · ln(1 − ΔT / ΔT_end)"
        inputs = {"ΔT": rise, "ΔT_end": reached, "m": mass, "c_p": heat, "R_th": wall}
        hours = sheet.put(
            "charging/warming/hours", Figure.of("t_w", taken, "h", "until the board lets charge in", how=how, inputs=inputs)
        )
    return WarmingSizing(pad, free, rise, energy, hold, wanted, watts, sheet.put("charging/warming/reached", reached), hours)
