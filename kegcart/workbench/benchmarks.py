"""Piles of cells to measure the sorting on, and a general solver to hold it against."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

SOLVER_S = 60.0


@dataclass(frozen=True, slots=True)
class MadeUpPile:
    """A made-up pile: how many cells, their spread, and the groups they are sorted into."""

    name: str
    count: int
    sigma: float
    seed: int
    outliers: float
    series: int
    parallel: int

    def cells(self) -> tuple[list[float], list[float]]:
        """Capacities in Ah as a tester gives them (to the mAh), and resistances in mΩ."""
        chance = np.random.default_rng(self.seed)
        capacity = 2.5 * (1 + self.sigma * chance.standard_normal(self.count))
        weak = chance.random(self.count) < self.outliers
        capacity[weak] *= chance.uniform(0.75, 0.95, int(weak.sum()))
        ohms = 30 * (1 + 2 * self.sigma * chance.standard_normal(self.count)).clip(0.5)
        return capacity.round(3).tolist(), ohms.round(2).tolist()


PILES = (
    MadeUpPile("new, 60 cells", 60, 0.005, 1, 0, 14, 4),
    MadeUpPile("new, 64 cells", 64, 0.005, 2, 0, 8, 8),
    MadeUpPile("new, 240 cells", 240, 0.005, 3, 0, 14, 16),
    MadeUpPile("new, 2000 cells", 2000, 0.005, 4, 0, 16, 120),
    MadeUpPile("reclaimed, 60 cells", 60, 0.06, 5, 0.05, 14, 4),
    MadeUpPile("reclaimed, 56 cells, none to spare", 56, 0.06, 6, 0.05, 14, 4),
    MadeUpPile("reclaimed, 150 cells", 150, 0.06, 7, 0.05, 14, 10),
    MadeUpPile("reclaimed, 320 cells", 320, 0.06, 8, 0.05, 14, 20),
    MadeUpPile("reclaimed, 1000 cells", 1000, 0.06, 9, 0.05, 14, 60),
    MadeUpPile("reclaimed, 2000 cells", 2000, 0.06, 10, 0.05, 14, 140),
)


def solve(capacity_ah: Sequence[float], series: int, parallel: int, seconds: float = SOLVER_S) -> float | None:
    """The least spread of group capacity in Ah that a general constraint solver finds in so many seconds; None if none.

    Errors: ImportError where the solver is not installed (`requirements-solver.lock`).
    """
    from ortools.sat.python import cp_model

    model = cp_model.CpModel()
    mah = [round(c * 1000) for c in capacity_ah]
    inside = [[model.new_bool_var("") for _ in range(series)] for _ in mah]
    for cell in inside:
        model.add_at_most_one(cell)
    high, low = model.new_int_var(0, sum(mah), ""), model.new_int_var(0, sum(mah), "")
    for group in range(series):
        model.add(sum(cell[group] for cell in inside) == parallel)
        total = sum(value * cell[group] for value, cell in zip(mah, inside, strict=True))
        model.add(total <= high)
        model.add(total >= low)
    model.minimize(high - low)
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = seconds
    status = solver.solve(model)
    return float(solver.objective_value) / 1000 if status in (cp_model.OPTIMAL, cp_model.FEASIBLE) else None
