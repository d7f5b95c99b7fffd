"""The pack's resistance: of all its current steps together, and what of it answers at once and what late."""

from dataclasses import dataclass
from math import exp, log

import numpy as np
from scipy.optimize import curve_fit

from kegcart.core.bench.learn.estimate import Doubted, Numbers, RefusedError, least_squares

LEAST_STEPS = 3
LEAST_SPAN = 0.3
"""So far apart, over the greatest, the currents must lie: what is nearly one current says nothing of a slope."""
EARLY_S, MIDDLE_S, LATE_S = 1.0, 60.0, 300.0
"""When a step is looked at: before its late part, in the midst of it, and after it."""


def pack_resistance(amps: Numbers, volts: Numbers, taken_ah: Numbers, slope_v_ah: float) -> tuple[Doubted, Doubted]:
    """Resistance in Ω, and rest voltage in V at the first charge, of readings at the end of several steps of current.

    amps, volts: at the pack's own sense terminals, when the late part has settled. taken_ah: taken out until then. slope_v_ah: of the
    rested curve there, V for each Ah.
    Errors: RefusedError where there are fewer than three steps, or they lie too close.
    Source: the rest voltage falls while one steps, so V + k·Q is regressed on I, not V.
    """
    i = np.asarray(amps, float)
    if len(i) < LEAST_STEPS:
        raise RefusedError(f"a resistance needs at least {LEAST_STEPS} steps of current, there are {len(i)}")
    if np.ptp(i) < LEAST_SPAN * np.max(np.abs(i)):
        raise RefusedError(f"the currents lie too close together: they must span {LEAST_SPAN:.0%} of the greatest")
    fit = least_squares([np.ones(len(i)), -i], np.asarray(volts, float) + slope_v_ah * np.asarray(taken_ah, float))
    return fit.estimate(1), fit.estimate(0)


@dataclass(frozen=True, slots=True)
class LatePart:
    """What of a resistance answers at once and what late, Ω, and with which time constant, s."""

    at_once: Doubted
    late: Doubted
    tau: Doubted

    @property
    def share(self) -> float:
        """The late part over the whole."""
        return self.late.value / (self.late.value + self.at_once.value)


def late_part(amps: float, sags: tuple[float, float, float], slope_v_ah: float) -> tuple[float, float, float]:
    """Immediate and late resistance in Ω, and the time constant in s, by three readings of one step from rest.

    sags: V below rest 1, 60 and 300 s after a step of `amps` A. Errors: RefusedError where they do not level off.
    Source: the fall of the rest voltage k·I·t/3600 is taken off first; then τ = −59 s/ln((d₃₀₀ − d₆₀)/(d₃₀₀ − d₁)).
    """
    times = (EARLY_S, MIDDLE_S, LATE_S)
    early, middle, late = (sag - slope_v_ah * amps * t / 3600 for sag, t in zip(sags, times, strict=True))
    tau = -(MIDDLE_S - EARLY_S) / log((late - middle) / (late - early)) if 0 < late - middle < late - early else LATE_S
    if tau > LATE_S / 3:
        raise RefusedError("the voltage does not level off within the step, so it has no time constant yet")
    late_ohm = (late - early) / (amps * (exp(-EARLY_S / tau) - exp(-LATE_S / tau)))
    return early / amps - late_ohm * (1 - exp(-EARLY_S / tau)), late_ohm, tau


def late_part_of_step(seconds: Numbers, amps: Numbers, volts: Numbers) -> LatePart:
    """The parts of a resistance by all readings of one step, from its first second to its last.

    seconds: since the step began, which changed the current from that of the first reading, taken before it (seconds below 0), to
    that of the others. A fall in proportion to time is fitted along: of the charge that is taken, and of what answers more slowly still.
    Errors: RefusedError where there is no step, or it is too short, or no late part is seen.
    Source: V = V₀ − ΔI·(R₀ + R₁·(1 − e^(−t/τ))) − m·t (least squares).
    """
    t, i, v = (np.asarray(x, float) for x in (seconds, amps, volts))
    before, after = t < 0, t >= EARLY_S
    if not before.any() or after.sum() < 10 or t[-1] < MIDDLE_S:
        raise RefusedError(
            "a late part needs a step of current that is held for at least a minute, read from its first second on"
        )
    step = float(np.mean(i[after]) - np.mean(i[before]))
    if abs(step) < 1e-6:
        raise RefusedError("the current did not change")
    sag = (float(np.mean(v[before])) - v[after]) / step

    def course(t: Numbers, at_once: float, late: float, tau: float, drift: float) -> Numbers:
        t = np.asarray(t)
        return at_once + late * (1 - np.exp(-t / tau)) + drift * t

    first, last = float(np.mean(sag[:3])), float(np.mean(sag[-10:]))
    bounds = ([-np.inf, 0.0, 5.0, -np.inf], [np.inf, np.inf, t[-1], np.inf])
    try:
        values, covariance = curve_fit(
            course, t[after], sag, (first, max(last - first, 1e-6), min(45.0, t[-1] / 2), 0.0), bounds=bounds
        )
    except RuntimeError:
        raise RefusedError("no late part can be told from the readings of the step") from None
    at_once, late, tau = (Doubted(float(x), float(s)) for x, s in zip(values[:3], np.sqrt(np.diag(covariance))[:3], strict=True))
    if not np.isfinite(tau.sigma) or late.sigma > late.value / 3 or tau.sigma > tau.value / 2:
        raise RefusedError("the late part of the step is lost in the noise of its readings")
    return LatePart(at_once, late, tau)
