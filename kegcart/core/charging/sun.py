"""The sun on a tilted plane, hour by hour, from a latitude and the clearness of each month.

Hours are those of the sun: it stands highest at 12. Irradiance in W/m², sums of a day in kWh/m², which are as many hours of full sun;
angles in °, a facing from north by east. `pvlib` is loaded only when the first of these is asked for: that takes a second, and memory.

Source: position of the sun by its declination (Spencer 1971); beam and diffuse light from the clearness (Erbs, Klein, Duffie 1982);
diffuse light on a tilted plane (Hay, Davies 1980).
"""

import gc
from dataclasses import dataclass
from functools import cache, lru_cache
from typing import TYPE_CHECKING, Any

import numpy as np

from kegcart.core.reference import constant
from kegcart.core.units import NOTHING

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Numbers = NDArray[np.float64]

MONTHS = (
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
)
LENGTHS = np.array([31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31])
FIRST_DAYS = np.cumsum([1, *LENGTHS[:-1]])
"""The day of the year that begins each month."""
SAMPLED = (1 / 6, 3 / 6, 5 / 6)
"""How far each month is when the days come that stand for all of it: a month near the polar night is not like its middle."""
MIDDLE = 1 / 2
QUARTERS = 4
"""Steps of an hour: of a steep plane that faces east, whole hours miss a twentieth."""
TENTHS = np.array([-1.2816, -0.5244, 0.0, 0.5244, 1.2816])
"""The 10th, 30th, 50th, 70th and 90th of a hundred days, the dullest first, in standard deviations (normal distribution)."""
DAYS_ALIKE = TENTHS / np.sqrt(np.mean(TENTHS**2))
TILTS = np.arange(0.0, 91.0, 5.0)
DULLEST = 0.05
HOURLY_SPREAD = 0.3
"""How far the clearness of an hour is from that of its day, as a share of it (standard deviation); clouds that pass."""
DAYS_OF_CLOUDS = 31
SEED = 1820
"""Of many, one whose first days are neither bright nor dull together: a run of two days stands for the month as well as one of seven."""


@dataclass(frozen=True, slots=True)
class Place:
    """Where it stands: latitude, and the mean clearness of each month, a share of the light above the air."""

    latitude: float
    clearness: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class Light:
    """What falls on a level plane, in W/m²: all of it, what comes from all over the sky, what straight from the sun (on a plane that faces
    it), and what there is above the air; and where the sun stands. All of one shape, or broadcast to it."""

    level: "Numbers"
    diffuse: "Numbers"
    beam: "Numbers"
    above: "Numbers"
    zenith: "Numbers"
    azimuth: "Numbers"


@cache
def pv() -> Any:
    """The library of the sun, loaded when it is first needed."""
    import pvlib

    gc.freeze()  # what it holds stays: to look through it at every full collection would take 60 ms
    return pvlib


def position(latitude: float, day: "Numbers", hour: "Numbers") -> tuple["Numbers", "Numbers"]:
    """Zenith and azimuth of the sun. day: of the year, from 1. Source: Spencer 1971, spherical trigonometry."""
    sun = pv().solarposition
    phi, turned = np.radians(latitude), np.radians((hour - 12) * 15)
    declination = sun.declination_spencer71(day)
    zenith = sun.solar_zenith_analytical(phi, turned, declination)
    with np.errstate(invalid="ignore", divide="ignore"):
        azimuth = sun.solar_azimuth_analytical(phi, turned, declination, zenith)
    return np.degrees(zenith), np.nan_to_num(np.degrees(azimuth), nan=180.0)


def light(latitude: float, day: "Numbers", hour: "Numbers", clearness: "Numbers") -> Light:
    """The light of hours of a clearness.

    Source: the share that is diffuse follows from the clearness (Erbs, Klein, Duffie 1982).
    """
    irradiance = pv().irradiance
    zenith, azimuth = position(latitude, day, hour)
    above = irradiance.get_extra_radiation(day)
    level = clearness * above * np.maximum(np.cos(np.radians(zenith)), 0)
    zenith, day = np.broadcast_to(zenith, level.shape), np.broadcast_to(day, level.shape)
    parts = irradiance.erbs(level, zenith, day)
    return Light(level, np.nan_to_num(parts["dhi"]), np.nan_to_num(parts["dni"]), above, zenith, azimuth)


def on_plane(sky: Light, tilt: Any, facing: float) -> "Numbers":
    """What falls on a plane: straight, from the sky, and from the ground before it.

    Source: Hay, Davies 1980; the ground sends back a share of what falls on it (albedo, assumptions table).
    """
    irradiance = pv().irradiance
    straight = sky.beam * np.maximum(irradiance.aoi_projection(tilt, facing, sky.zenith, sky.azimuth), 0)
    from_sky = irradiance.haydavies(tilt, facing, sky.diffuse, sky.beam, sky.above, sky.zenith, sky.azimuth)
    from_ground = irradiance.get_ground_diffuse(tilt, sky.level, albedo=constant("albedo"))
    whole: Numbers = straight + from_sky + from_ground
    return whole


def clearnesses(mean: "Numbers") -> "Numbers":
    """The clearness of five days alike in number, the dullest first, along a last axis: their mean is as given.

    Days of one middling clearness would have hardly any sun straight from the front in winter, when real months have bright days.
    Source: spread from day to day typical (assumptions table).
    """
    days = np.clip(mean[..., None] + constant("sun_spread") * DAYS_ALIKE, DULLEST, constant("clearest"))
    scaled: Numbers = days * (mean / days.mean(axis=-1))[..., None]
    return scaled


def days_of_months(sampled: tuple[float, ...]) -> "Numbers":
    """Days of the year, each at its noon: months × shares of a month."""
    days: Numbers = FIRST_DAYS[:, None] + LENGTHS[:, None] * np.array(sampled)
    return days


def hours_of_day(steps: int) -> "Numbers":
    """The middle of each of so many steps of every hour of a day."""
    hours: Numbers = (np.arange(24 * steps) + 0.5) / steps
    return hours


@lru_cache(maxsize=32)
def month_light(place: Place, sampled: tuple[float, ...] = SAMPLED, steps: int = QUARTERS) -> Light:
    """The light of the year: months × days sampled × steps of the day × clearnesses."""
    day, hour = days_of_months(sampled)[:, :, None, None], hours_of_day(steps)[None, None, :, None]
    return light(place.latitude, day, hour, clearnesses(np.array(place.clearness))[:, None, None, :])


@lru_cache(maxsize=256)
def mean_days(place: Place, tilt: float, facing: float) -> tuple[tuple[float, ...], ...]:
    """W/m² on a plane in each hour of the mean day of each month: 12 × 24."""
    steps = on_plane(month_light(place), tilt, facing).mean(axis=(1, 3))
    hourly = steps.reshape(len(MONTHS), 24, QUARTERS).mean(axis=2)
    return tuple(tuple(float(value) for value in month) for month in hourly)


@lru_cache(maxsize=256)
def peaks(place: Place, tilt: float, facing: float) -> tuple[float, ...]:
    """The greatest W/m² on a plane of each of the days that stand for the year, all alike in weight, in rising order."""
    greatest = on_plane(month_light(place), tilt, facing).max(axis=2)
    return tuple(float(value) for value in np.sort(greatest.ravel()))


@lru_cache(maxsize=64)
def lit(place: Place) -> tuple[float, float]:
    """The hours of the day from the earliest sunrise of the year until the latest sunset; the whole day where there is none."""
    level = mean_days(place, 0.0, 180.0)
    hours = [hour for hour in range(24) if any(month[hour] > 0 for month in level)] or [0, 23]
    return (float(hours[0]), hours[-1] + 1.0)


@cache
def above_the_air(latitude: float) -> tuple[float, ...]:
    """kWh/m² a day that would fall on a level plane without the air, by month."""
    day = days_of_months(SAMPLED)[:, :, None]
    zenith, _ = position(latitude, day, hours_of_day(QUARTERS))
    watts = pv().irradiance.get_extra_radiation(day) * np.maximum(np.cos(np.radians(zenith)), 0)
    return tuple(float(value) / 1000 / QUARTERS for value in watts.sum(axis=2).mean(axis=1))


@lru_cache(maxsize=64)
def by_tilt(place: Place, facing: float) -> tuple[tuple[float, ...], ...]:
    """Hours of full sun a day on planes of each of TILTS, by month: 19 × 12; the middle of each month stands for it."""
    sky = month_light(place, (MIDDLE,), 1)
    tilts = TILTS[:, None, None, None, None]
    sums = on_plane(sky, tilts, facing).sum(axis=3).mean(axis=(2, 3)) / 1000
    return tuple(tuple(float(value) for value in row) for row in sums)


@lru_cache(maxsize=256)
def best_tilt(place: Place, facing: float) -> float:
    """The tilt that brings most in the poorest month; of those that bring the same there, the most over the year."""
    rows = by_tilt(place, facing)
    return float(TILTS[max(range(len(TILTS)), key=lambda i: (round(min(rows[i]), 3), sum(rows[i])))])


@lru_cache(maxsize=256)
def extreme_months(place: Place, facing: float) -> tuple[int, int]:
    """The months (from 1) with the least and with the most sun, each on the tilt that is best for it."""
    best = [max(column) for column in zip(*by_tilt(place, facing), strict=True)]
    return best.index(min(best)) + 1, best.index(max(best)) + 1


@lru_cache(maxsize=256)
def best_tilt_of(place: Place, facing: float, month: int) -> float:
    """The tilt that brings most in a month (from 1)."""
    rows = by_tilt(place, facing)
    return float(TILTS[max(range(len(TILTS)), key=lambda i: rows[i][month - 1])])


@lru_cache(maxsize=64)
def clouded_days(place: Place, month: int) -> Light:
    """The light of the days of a month (from 1), one after the other, with clouds that come and go: DAYS_OF_CLOUDS × hours.

    Clouds are drawn from a seed, the same for every run; their days have together the mean clearness of the month.
    Source: the clearness of a day follows that of the day before (first order, assumptions table).
    """
    chance, count = np.random.default_rng(SEED), DAYS_OF_CLOUDS
    follows, drawn = constant("sun_follows"), chance.standard_normal(count)
    for i in range(1, count):
        drawn[i] = follows * drawn[i - 1] + np.sqrt(1 - follows**2) * drawn[i]
    mean = place.clearness[month - 1]
    daily = np.clip(mean + constant("sun_spread") * (drawn - drawn.mean()), DULLEST, constant("clearest"))
    hours = hours_of_day(1)
    hourly = np.clip(1 + HOURLY_SPREAD * chance.standard_normal((count, len(hours))), 0.2, 1.8)
    day = np.full((count, 1), days_of_months((MIDDLE,))[month - 1, 0])
    weight = np.maximum(np.cos(np.radians(position(place.latitude, day, hours)[0])), 0)
    hourly *= weight.sum(axis=1, keepdims=True) / np.maximum((hourly * weight).sum(axis=1, keepdims=True), NOTHING)
    return light(place.latitude, day, hours, np.minimum(daily[:, None] * (mean / daily.mean()) * hourly, 1.0))
