"""Capacity, of a run-down from full to the first cut-off."""

from math import hypot

from kegcart.core.bench.learn.estimate import Doubted, RefusedError
from kegcart.core.reference import cold_capacity, constant

MOST_LEFT = 0.25
"""So much charge left at the end, and the capacity is no longer measured but guessed."""


NOTHING = Doubted(0.0, 0.0)


def capacity_at_25(taken_ah: float, cell_c: float, *, full: bool, ended: bool, left: Doubted = NOTHING) -> Doubted:
    """Capacity in Ah at 25 °C.

    taken_ah: from full until the end. cell_c: temperature of the cells. full: the charge's tail was seen before it began. ended: a cut-off
    ended it. left: share of the charge that was still in it then, by its rested voltage.
    Errors: RefusedError where it did not begin full, or did not end, or too much was left.
    Source: C₂₅ = Q/k_T (cold table); a meter of 1 % and the table's 1 %.
    """
    if not full:
        raise RefusedError("a capacity is measured from full: charge until the tail of the current is seen, then run it down")
    if not ended:
        raise RefusedError("a capacity is measured to the first cut-off: nothing has cut off")
    if left.value > MOST_LEFT:
        raise RefusedError("it ended with charge left, which its flat voltage does not tell: that is usable energy, not capacity")
    whole = taken_ah / cold_capacity(cell_c) / (1 - left.value)
    doubt = hypot(constant("meter_doubt"), constant("cold_doubt"))
    return Doubted(whole, whole * hypot(doubt, left.sigma / (1 - left.value)))
