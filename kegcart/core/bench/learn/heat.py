"""How warm something becomes in the end, and what heat it holds and lets out: by three readings by hand, or by all readings of a test."""

from math import log

import numpy as np

from kegcart.core.bench.learn.estimate import Doubted, Numbers, RefusedError, least_squares

STEPS_SEEN = 3
"""The last of three equal intervals must still show so many steps of the thermometer."""
LEAST_RISE = 10
"""Steps of the thermometer by which it must have risen."""
EVERY_S = 60.0
"""Readings are taken together over so long: one thermometer's noise is no news."""


def settled_rise(rises: tuple[float, float, float], every_s: float, step_k: float) -> tuple[float, float]:
    """The rise in K at which it settles, and its time constant in s, by three readings at equal intervals.

    rises: K over the surroundings. step_k: the least that the thermometer shows.
    Errors: RefusedError where it has already settled, or does not level off.
    Source: ΔT∞ = (T₂² − T₁·T₃)/(2·T₂ − T₁ − T₃), τ = Δt/ln((T₂ − T₁)/(T₃ − T₂)).
    """
    first, second, third = rises
    if third - second < STEPS_SEEN * step_k:
        raise RefusedError("the last readings hardly rise: that is no more than the thermometer shows")
    if third - second >= second - first:
        raise RefusedError("it rises as fast as before: it does not level off yet")
    return (second**2 - first * third) / (2 * second - first - third), every_s / log((second - first) / (third - second))


def heat_balance(seconds: Numbers, celsius: Numbers, over_k: Numbers, watts: Numbers, step_k: float) -> tuple[Doubted, Doubted]:
    """Heat capacity in J/K, and heat let out in W for each K.

    seconds: moments. celsius: of the body. over_k: how far it is above what it lets its heat to, K. watts: heat that is made in it.
    Errors: RefusedError where it hardly warms, or the readings do not tell the two apart.
    Source: C·(T − T₀) + W·∫ΔT dt = ∫P dt (conservation of energy), by least squares; what is left over is not chance from reading to
    reading, so the uncertainty grows by how much one resembles the next.
    """
    t = np.asarray(seconds, float)
    if len(t) < 2 or t[-1] - t[0] < 10 * EVERY_S:
        raise RefusedError("it was not watched for ten minutes")
    grid = np.arange(t[0], t[-1], EVERY_S)
    bins = np.digitize(t, grid) - 1
    many = np.bincount(bins, minlength=len(grid))
    keep = many > 0

    def binned(values: Numbers) -> np.ndarray:
        return (np.bincount(bins, np.asarray(values, float), minlength=len(grid))[keep]) / many[keep]

    def so_far(values: Numbers) -> np.ndarray:
        v = np.asarray(values, float)
        whole = np.concatenate([[0.0], np.cumsum((v[1:] + v[:-1]) / 2 * np.diff(t))])
        return binned(whole)

    warm = binned(celsius)
    if np.ptp(warm) < LEAST_RISE * step_k:
        raise RefusedError("it hardly warms: that is no more than the thermometer shows")
    columns, heat = [warm, so_far(over_k), np.ones(len(warm))], so_far(watts)
    fit = least_squares(columns, heat)
    left = heat - np.column_stack(columns) @ fit.values
    resembles = min(0.99, max(0.0, float(np.corrcoef(left[1:], left[:-1])[0, 1]))) if np.std(left) > 0 else 0.0
    wider = np.sqrt((1 + resembles) / (1 - resembles))
    capacity, lets_out = (Doubted(e.value, e.sigma * wider) for e in (fit.estimate(0), fit.estimate(1)))
    if capacity.value <= 0 or lets_out.value <= 0 or lets_out.sigma > lets_out.value:
        raise RefusedError("it was not watched long enough to tell what it holds from what it lets out")
    return capacity, lets_out
