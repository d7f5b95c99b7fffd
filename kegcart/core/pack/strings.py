"""How the current of a load is shared by strings in parallel: a ladder of resistances, solved node by node.

Strings hang between two rails made of links. The load is taken off at the same end of both rails ("same side"), at
opposite ends ("opposite corners"), or every string has a lead of its own to one point ("equal leads").
"""

from collections.abc import Sequence

import numpy as np

from kegcart.core.pack.document import Takeoff


def string_shares(strings_ohm: Sequence[float], link_ohm: float, takeoff: Takeoff) -> list[float]:
    """Share of the load's current that each string gives, all at one open-circuit voltage; the shares add up to 1.

    strings_ohm: resistance of each string with its own lead, Ω. link_ohm: one link of one rail, Ω.
    takeoff: where the load is taken off.
    Source: Kirchhoff's laws by nodal analysis; the load draws 1 A.
    """
    n = len(strings_ohm)
    if n == 1 or link_ohm <= 0 or takeoff == "equal leads":
        conductance = [1 / r for r in strings_ohm]
        return [g / sum(conductance) for g in conductance]
    # Nodes 0..n-1: the positive rail at each string; n..2n-1: the negative rail. Node 0 is the load's positive.
    ground = n if takeoff == "same side" else 2 * n - 1
    matrix, current = np.zeros((2 * n, 2 * n)), np.zeros(2 * n)

    def conductor(a: int, b: int, siemens: float) -> None:
        matrix[a, a] += siemens
        matrix[b, b] += siemens
        matrix[a, b] -= siemens
        matrix[b, a] -= siemens

    emf = 1.0
    for i, ohm in enumerate(strings_ohm):
        conductor(i, n + i, 1 / ohm)
        current[i] += emf / ohm
        current[n + i] -= emf / ohm
    for i in range(n - 1):
        conductor(i, i + 1, 1 / link_ohm)
        conductor(n + i, n + i + 1, 1 / link_ohm)
    keep = [i for i in range(2 * n) if i != ground]

    def currents(load_a: float) -> list[float]:
        fed = current.copy()
        fed[0] -= load_a
        fed[ground] += load_a
        volts = np.zeros(2 * n)
        volts[keep] = np.linalg.solve(matrix[np.ix_(keep, keep)], fed[keep])
        return [(emf - (volts[i] - volts[n + i])) / ohm for i, ohm in enumerate(strings_ohm)]

    # With equal voltages no current runs without a load, so the currents at 1 A are the shares.
    return [float(a) for a in currents(1.0)]


def parallel_ohm(ohms: Sequence[float]) -> float:
    """Resistance in Ω of resistances in parallel.

    Source: conductances in parallel add (Kirchhoff).
    """
    return 1 / sum(1 / r for r in ohms)
