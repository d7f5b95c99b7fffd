"""One meter against another, joints and runs by their millivolts, and a charger by its watts."""

import numpy as np

from kegcart.core.bench.learn.estimate import Doubted, Numbers, RefusedError, least_squares
from kegcart.core.reference import constant

RANGE_SHARE = 0.3
"""From this share of its range on two meters are compared."""
LEAST_JOINT_A = 50.0


def gain(shunt_a: Numbers, clamp_a: Numbers, range_a: float) -> Doubted:
    """What the shunt shows for each ampere of the clamp, its zero taken off: over several steady DC currents.

    range_a: of the shunt. Errors: RefusedError where no current reaches three tenths of it, or there is but one.
    Source: least squares of the one on the other with a zero of its own.
    """
    shunt, clamp = np.asarray(shunt_a, float), np.asarray(clamp_a, float)
    if range_a <= 0 or not (np.abs(shunt) >= RANGE_SHARE * range_a).any():
        raise RefusedError(f"shunt and clamp are compared from {RANGE_SHARE:.0%} of the shunt's range on")
    fit = least_squares([clamp, np.ones(len(clamp))], shunt)
    return fit.estimate(0)


def run_resistance(amps: Numbers, drop_v: Numbers) -> Doubted:
    """Resistance in Ω of what lies between two probe points, by its drop at several currents; a zero of the meter is fitted along.

    Errors: RefusedError where there is but one current. Source: Ohm's law (least squares).
    """
    fit = least_squares([np.asarray(amps, float), np.ones(len(np.asarray(amps)))], drop_v)
    return fit.estimate(0)


def joint_resistance(amps: float, drop_v: float) -> float:
    """Resistance in Ω of a joint, by its drop between two probe points. Errors: RefusedError below 50 A.

    Source: Ohm's law, four wires.
    """
    if abs(amps) < LEAST_JOINT_A:
        raise RefusedError(f"a joint is measured at {LEAST_JOINT_A:.0f} A or more: below, its millivolts are lost")
    return drop_v / amps


def bad_by_its_like(ohms: Numbers) -> list[bool]:
    """Which of the joints of one lug and stud are bad: more than twice the median of their like, not by an absolute limit."""
    values = np.asarray(ohms, float)
    return [bool(x > constant("worse_than_like") * np.median(values)) for x in values]


def charger_efficiency(ac_w: Numbers, dc_w: Numbers) -> Doubted:
    """Share of what a charger takes that arrives at its output, over a charge of constant current.

    Errors: RefusedError where nothing was charged. Source: P_dc / P_ac, its means.
    """
    ac, dc = np.asarray(ac_w, float), np.asarray(dc_w, float)
    charging = ac > 0
    if not charging.any():
        raise RefusedError("nothing was charged")
    shares = dc[charging] / ac[charging]
    return Doubted(
        float(np.sum(dc[charging]) / np.sum(ac[charging])),
        float(np.std(shares) / np.sqrt(len(shares))) if len(shares) > 1 else 0.0,
    )
