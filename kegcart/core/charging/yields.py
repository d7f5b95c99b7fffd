"""What an array makes of the sun: by month, and hour by hour of a run of days."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from kegcart.core.charging import sun
from kegcart.core.figure import Figure

Hourly = Sequence[float]
THIRDS = 3
"""A panel has three bypass diodes: a shadow costs the third behind one."""


@dataclass(frozen=True, slots=True)
class Plane:
    """An array as the sun sees it. tilt, facing in °. unshaded, shaded: share of its power that gets through, in hours without and
    with the shadow. open_share, shade_share: of each hour of the day, the share in which it may give, and in which the shadow falls.
    hotter: change of its power at full sun, as a share, for cells that are hotter than in the open.
    """

    place: sun.Place
    tilt: float
    facing: float
    unshaded: float
    shaded: float
    open_share: Hourly
    shade_share: Hourly
    hotter: float

    def through(self) -> NDArray[np.float64]:
        """Of each hour of the day, the share of its power that gets through."""
        shade = np.array(self.shade_share)
        return np.array(self.open_share) * (shade * self.shaded + (1 - shade) * self.unshaded)

    def kept(self, watts: NDArray[np.float64]) -> NDArray[np.float64]:
        """W/m² on the plane, by hour, less what shadow, closed hours and hot cells take of it."""
        kept: NDArray[np.float64] = watts * self.through() * (1 + self.hotter * watts / 1000)
        return kept

    def days(self, month: int, count: int) -> Hourly:
        """W/m² that count, in each hour of the first so many days of a month (from 1), with seeded clouds."""
        whole = sun.on_plane(sun.clouded_days(self.place, month), self.tilt, self.facing)
        return tuple(float(v) for v in self.kept(whole[:count]).ravel())


@lru_cache(maxsize=128)
def mean_days(plane: Plane) -> tuple[Hourly, ...]:
    """W/m² that count, in each hour of the mean day of each month."""
    whole = plane.kept(np.array(sun.mean_days(plane.place, plane.tilt, plane.facing)))
    return tuple(tuple(float(value) for value in month) for month in whole)


@lru_cache(maxsize=64)
def shares_of_hours(stretches: tuple[tuple[float, float], ...]) -> Hourly:
    """Of each hour of the day, the share that lies within the stretches, none of which overlap."""
    return tuple(sum(max(0.0, min(end, hour + 1) - max(begin, hour)) for begin, end in stretches) for hour in range(24))


def gets_through(thirds: int, in_series: int, strings: int, panel_v: float, needed_v: float, *, tracks: bool) -> float:
    """Share of the power of an array of which a shadow covers so many thirds of panels; they lie in one string, then in the next.

    tracks: whether its controller finds the best voltage for all strings together; else each string gives its current or none.
    Source: a bypass diode takes a third of a panel out of its string; a string below the voltage that is needed gives nothing.
    """
    shadows = [min(THIRDS * in_series, max(0, thirds - i * THIRDS * in_series)) for i in range(strings)]
    volts = [(in_series - s / THIRDS) * panel_v for s in shadows]
    if not tracks:
        return sum(v >= needed_v for v in volts) / strings
    at_once = [sum(other >= v for other in volts) * v for v in volts if v >= needed_v]
    return max(at_once, default=0.0) / (strings * in_series * panel_v)


def yields(
    plane: Plane, power: Figure, most_w: Figure, share: Figure, latitude: Figure, clearness: Sequence[Figure]
) -> dict[str, Figure]:
    """Hours of full sun on the plane, and what the array brings of them in Wh, a day of each month: `sun/7`, `yield/7`.

    power: of the array. most_w: what its controller lets through. share: of the power in the sun's hours, what reaches the pack.
    Source: a day's yield is power · hours of full sun · share (practice); the sun by `kegcart.core.charging.sun`.
    """
    out: dict[str, Figure] = {}
    whole, counts = sun.mean_days(plane.place, plane.tilt, plane.facing), mean_days(plane)
    tilt = Figure.of("β_t", plane.tilt, "°", "tilt", how="as decided, or chosen")
    facing = Figure.of("γ_f", plane.facing, "°", "facing, from north by east", how="as decided, or chosen")
    for month, name in enumerate(sun.MONTHS, 1):
        leaves = {"φ": latitude, "K": clearness[month - 1], "β_t": tilt, "γ_f": facing}
        how = "position of the sun, beam and diffuse light of days of five clearnesses, on the tilted plane"
        hours = Figure.of("h", sum(whole[month - 1]) / 1000, "h", f"full sun a day on the panels, {name}", how=how, inputs=leaves)
        counted = counts[month - 1]
        formula, of = "P · h · k_pv", {"P": power, "h": hours, "k_pv": share}
        left = sum(counted) / 1000
        if abs(left - hours.number) > 1e-9:
            how = "hours in which it may give, shadow, voltage of its strings, hot cells on a roof"
            kept = left / hours.number if hours.number > 0 else 1.0
            of["k_left"] = Figure.of("k_left", kept, "share", f"of that sun, what counts, {name}", how=how)
            formula += " · k_left"
        made = power.number * share.number / 1000
        clipped = sum(max(0.0, made * watts - most_w.number) for watts in counted) if made * max(counted) > most_w.number else 0.0
        if clipped > 0:
            how = "what is above the output of the controller, hour by hour of the mean day"
            of["E_clip"] = Figure.of("E_clip", clipped, "Wh", f"clipped a day, {name}", how=how, inputs={"P_let": most_w})
            formula += " − E_clip"
        out[f"sun/{month}"] = hours
        out[f"yield/{month}"] = Figure.by("E_sun", formula, "Wh", f"brought by the sun a day, {name}", of)
    return out
