"""What an inverter loses, by AC against DC watts."""

import numpy as np

from kegcart.core.bench.learn.estimate import Fit, Numbers, RefusedError, least_squares

WATT_DOUBT, WATT_FLOOR = 0.005, 1.0
"""Two meters of half a per cent; no less than so many W."""
HIGH_FROM, HIGH_POINTS = 0.3, 3
"""The part that grows with the square is seen only between here and full load, and by no fewer readings."""
APART = 0.15
"""Loads that lie closer together than so much of the rating are one."""


def inverter_losses(ac_w: Numbers, dc_w: Numbers, rated_w: float) -> Fit:
    """P0 in W, a and b of P_loss = P0 + a·P + b·P²/P_rated, of the means over several steps of load.

    ac_w: at its sockets, the meter on the same moments as dc_w, at its own terminals.
    Errors: RefusedError where fewer than three loads lie between 30 and 100 % of its rating, or none shows its idle draw.
    Source: least squares of P_dc − P_ac, each weighted by 0.5 % of P_dc, 1 W at least.
    """
    ac, dc = np.asarray(ac_w, float), np.asarray(dc_w, float)
    apart: list[float] = []
    for share in sorted(ac / rated_w):
        if share >= HIGH_FROM and (not apart or share - apart[-1] >= APART):
            apart.append(float(share))
    if len(apart) < HIGH_POINTS:
        raise RefusedError(
            f"{len(apart)} loads between {HIGH_FROM:.0%} and full: with two meters of 0.5 % the loss needs at least {HIGH_POINTS}"
        )
    if not (ac < 0.1 * rated_w).any():
        raise RefusedError("its idle draw is a measurement of its own: warm, with nothing plugged in")
    p = ac / rated_w
    sigma = np.maximum(WATT_DOUBT * dc, WATT_FLOOR)
    return least_squares([np.ones(len(p)), ac, ac * p], dc - ac, sigma)


def efficiency(values: Numbers, rated_w: float, share: float) -> float:
    """Efficiency at a share of its rating, of P0, a and b."""
    idle, linear, square = values
    power = share * rated_w
    return float(power / (power + idle + linear * power + square * power * share))
