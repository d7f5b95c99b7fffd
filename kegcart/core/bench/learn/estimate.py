"""A figure with its standard uncertainty, what was assumed and what was measured taken together, and the least squares behind them."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import hypot, sqrt
from typing import Any

import numpy as np

Numbers = Sequence[float] | np.ndarray[Any, Any]


class RefusedError(ValueError):
    """The readings do not carry the figure; it says why, as a sentence without its full stop."""


@dataclass(frozen=True, slots=True)
class Doubted:
    """A value with its standard uncertainty, both in the same unit."""

    value: float
    sigma: float

    def and_also(self, share: float) -> "Doubted":
        """The same, less certain by a share of its value that has nothing to do with what it is uncertain by already."""
        return Doubted(self.value, hypot(self.sigma, share * self.value))

    def times(self, factor: float) -> "Doubted":
        """It in another unit, or times what is known exactly."""
        return Doubted(self.value * factor, self.sigma * abs(factor))


def combine(one: Doubted, other: Doubted) -> Doubted:
    """Two independent estimates of one figure taken together.

    Source: x = (x₁/σ₁² + x₂/σ₂²)/(1/σ₁² + 1/σ₂²): weighted by what each is certain of.
    """
    weight, against = 1 / one.sigma**2, 1 / other.sigma**2
    return Doubted((one.value * weight + other.value * against) / (weight + against), 1 / sqrt(weight + against))


def differ(one: Doubted, other: Doubted) -> bool:
    """Whether two estimates of one figure lie further apart than their uncertainty lets them: |x₁ − x₂| > 2·√(σ₁² + σ₂²)."""
    return abs(one.value - other.value) > 2 * hypot(one.sigma, other.sigma)


@dataclass(frozen=True, slots=True)
class Fit:
    """Least squares: the values, and the matrix of their covariances."""

    values: np.ndarray[Any, Any]
    covariance: np.ndarray[Any, Any]

    def estimate(self, n: int) -> Doubted:
        """One of its values, with its own uncertainty."""
        return Doubted(float(self.values[n]), sqrt(float(self.covariance[n, n])))

    def combined(self, assumed: Sequence[Doubted]) -> "Fit":
        """All of its values taken together with what was assumed of each: what is certain of one helps the others.

        Source: precisions (the inverse of the covariance) add.
        """
        prior = np.diag([1 / e.sigma**2 for e in assumed])
        precision = np.linalg.inv(self.covariance)
        covariance = np.linalg.inv(prior + precision)
        values = covariance @ (prior @ np.array([e.value for e in assumed]) + precision @ self.values)
        return Fit(values, covariance)


def least_squares(columns: Sequence[Numbers], y: Numbers, sigma: Numbers | None = None) -> Fit:
    """Values by which the columns add up to y as nearly as can be.

    sigma: standard uncertainty of each reading, in its unit; None: as the readings scatter about the fit themselves.
    Errors: RefusedError where there are no more readings than values, or they do not tell the values apart.
    """
    a, b = np.column_stack(columns).astype(float), np.asarray(y, float)
    many, few = a.shape
    if many <= few - (sigma is not None):
        raise RefusedError(f"{many} readings are too few for {few} figures")
    scale = 1 / np.asarray(sigma, float) if sigma is not None else np.ones(many)
    a, b = a * scale[:, None], b * scale
    if np.linalg.matrix_rank(a) < few:
        raise RefusedError("the readings do not tell the figures apart")
    covariance = np.linalg.inv(a.T @ a)
    values = covariance @ (a.T @ b)
    if sigma is None:
        covariance *= float(np.sum((b - a @ values) ** 2)) / (many - few)
    return Fit(values, covariance)
