"""Which fault explains the readings of a test best, and which could be told from it by one more measurement."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np
from scipy.optimize import least_squares

from kegcart.core.bench.diagnose.faults import SIZES, Suspect, faults_of
from kegcart.core.bench.diagnose.model import TestModel
from kegcart.core.bench.diagnose.probes import Probe, parts, probes_of
from kegcart.core.bench.readings import Readings, Series
from kegcart.core.bench.station import BenchStation

CLAIMS = 16.0
"""By so much, in squares of standard uncertainties, a fault must explain the readings better than none does before one is claimed."""
APART = 9.0
"""Two faults whose readings lie closer together than this cannot be told apart by them."""
STEP = 0.05
"""Of its uncertainty a figure is moved to see what depends on it."""
TELLS = 3.0
"""A measurement tells two faults apart where they lie so many of its uncertainties from one another."""
FEWEST = 3
"""Readings of a step without which nothing is said of it."""
ROUNDS, CHORDS, ENOUGH = 12, 12, 0.05
"""Steps of a fit to the end, and of one that is near enough to order the faults; what such a step must gain."""
POLISHED = 2
"""So many of the likeliest are fitted to the end, and all that are suspected."""
ABSURD = 4.0
"""With so much left for each reading, nothing is explained."""
FAR = 2.0
"""A figure so many of its uncertainties off is suspected."""
LIKELIEST = 12
"""So many faults, the likeliest at a glance, are fitted near enough to be ordered."""


@dataclass(frozen=True, slots=True)
class Cause:
    """A fault with the amount that explains the readings best; chi2: what is left unexplained; share: how likely it is among all, where one
    of them it is. figures: of station and meters with it, as they leave least.
    """

    fault: Suspect
    size: float
    chi2: float
    share: float
    figures: Mapping[str, float]

    @property
    def amount(self) -> float:
        """How large it is, in its unit."""
        return self.fault.amount(self.size)


@dataclass(frozen=True, slots=True)
class Diagnosis:
    """What the readings of a test say of what is wrong: the causes, likeliest first; empty: nothing. alike: those at the head that no reading
    tells from the first. chi2: what is left without any fault. readings: how many were held against it. next: the measurement that would tell
    the first two apart; None where there are not two, or none would. missing: why nothing can be said; empty where something can.
    """

    causes: Sequence[Cause]
    alike: Sequence[Cause]
    chi2: float
    readings: int
    next: Probe | None = None
    missing: str = ""


class Explaining:
    """A test with what is uncertain of its station taken into account.

    Source: readings are Gaussian about what the figures make them, figures about what is assumed of them. The figures that leave least
    of both together are sought (Gauss and Newton), without a fault and with each of the likeliest, its amount free. Which are likely is
    seen at once by rᵀ·S⁻¹·r with S = 1 + J·P·Jᵀ: what is left of the residuals r, J how they depend on the figures, P what is uncertain of those.
    """

    def __init__(self, station: BenchStation, readings: Readings, probed: Mapping[str, float]) -> None:
        self.model = TestModel(station, readings, probed)
        model = self.model
        self.uncertain = np.flatnonzero(model.sigma)
        self.free, self.chi2 = self.by_thermostat()
        if self.chi2 > ABSURD * model.count:
            # Without a fault nothing fits: where it leaves least is then no place to begin from.
            self.free = np.zeros(len(self.uncertain))
        self.figures = self.unpacked(self.free, None)[0]
        self.base = self.residuals(self.free, None)
        self.leans = self.leaning(self.free, None)
        self.square = self.leans.T @ self.leans
        self.weight = np.linalg.inv(np.eye(len(self.base)) + self.leans @ self.leans.T)

    def by_thermostat(self) -> tuple[Series, float]:
        """What leaves least without a fault, the fans started when it leaves least: near its threshold that is not known."""
        model, best = self.model, None
        for n, fans in enumerate(model.fans):
            if any(np.array_equal(fans, before) for before in model.fans[:n]):
                continue
            model.fan_w_k = fans
            free, chi2 = self.settled(None, 0.0, np.zeros(len(self.uncertain)))
            if best is None or chi2 < best[1]:
                best = (free, chi2, fans)
        assert best is not None
        model.fan_w_k = best[2]
        return best[:2]

    def leaning(self, free: Series, fault: Suspect | None) -> Series:
        """How the residuals depend on what is free."""
        by = np.full(len(free), STEP)
        if fault:
            by[-1] = max(1e-3, 0.05 * abs(free[-1]))
        told = self.many(np.vstack([free, free + np.diag(by)]), fault)
        leans: Series = ((told[1:] - told[0]) / by[:, None]).T
        return leans

    def many(self, rows: Series, fault: Suspect | None) -> Series:
        """The residuals of rows of what is free."""
        figures = []
        for free in rows:
            of, size = self.unpacked(free, fault)
            figures.append(fault.at(of, self.model, size) if fault else of)
        return self.model.residuals(np.array(figures))

    def residuals(self, free: Series, fault: Suspect | None) -> Series:
        """The residuals of what is free."""
        one: Series = self.many(free[None, :], fault)[0]
        return one

    def settled(self, fault: Suspect | None, size: float, begin: Series) -> tuple[Series, float]:
        """What is free (see `unpacked`) as it leaves least, and how much it leaves of readings and of what was assumed together."""
        many = len(self.uncertain)

        def whole(free: Series) -> Series:
            return np.concatenate([self.residuals(free, fault), free[:many]])

        def leans(free: Series) -> Series:
            return np.vstack([self.leaning(free, fault), np.eye(many, len(free))])

        begins = np.append(begin, size) if fault else begin
        bounds = (np.full(len(begins), -np.inf), np.full(len(begins), np.inf))
        if fault:
            bounds[0][-1], bounds[1][-1] = (-1.0 if fault.two_ways else 0.0), 1.0
        begins = np.clip(begins, *bounds)
        found = least_squares(whole, begins, jac=leans, bounds=bounds, xtol=1e-4, ftol=1e-5, max_nfev=ROUNDS)
        return found.x, 2 * float(found.cost)

    def nearly(self, fault: Suspect, size: float) -> tuple[Series, float]:
        """As `settled`, with what depends on the figures taken as it is without a fault: near enough to order the faults, and much sooner."""
        least = -1.0 if fault.two_ways else 0.0
        free = np.append(self.without(fault), size)

        def whole(free: Series) -> tuple[float, Series]:
            left = self.residuals(free, fault)
            return float(left @ left + free[:-1] @ free[:-1]), left

        now, here = whole(free)
        for _ in range(CHORDS):
            by = max(1e-3, 0.05 * abs(free[-1]))
            column = (self.residuals(np.append(free[:-1], free[-1] + by), fault) - here) / by
            across = self.leans.T @ column
            square = np.block(
                [[self.square + np.eye(len(across)), across[:, None]], [across[None, :], np.array([[column @ column + 1e-12]])]]
            )
            step = -np.linalg.solve(square, np.append(self.leans.T @ here + free[:-1], column @ here))
            before = now
            for share in (1.0, 0.4, 0.1):
                tried = free + share * step
                tried[-1] = np.clip(tried[-1], least, 1.0)
                left, there = whole(tried)
                if left < now:
                    free, now, here = tried, left, there
                    break
            if before - now < ENOUGH:
                break
        return free, now

    def unpacked(self, free: Series, fault: Suspect | None) -> tuple[Series, float]:
        """Figures, and the size of the fault, of what is free: how far each figure is from what is assumed, in its uncertainty."""
        figures = self.model.mean.copy()
        figures[self.uncertain] = self.model.moved(self.uncertain, free[: len(self.uncertain)])
        return figures, float(free[-1]) if fault else 0.0

    def without(self, fault: Suspect) -> Series:
        """What is free as it leaves least, with what a fault moves as it is assumed."""
        names = [self.model.at[name] for name, _, _ in fault.moves]
        return np.where(np.isin(self.uncertain, names), 0.0, self.free)

    def suspected(self, fault: Suspect) -> float | None:
        """The size of a fault that would move a figure to where it leaves least; None where that is not far from what is assumed of it."""
        model = self.model
        name, most, relative = fault.moves[0]
        n = model.at[name]
        if model.sigma[n] <= 0 or abs(self.free[int(np.searchsorted(self.uncertain, n))]) < FAR:
            return None
        moved = self.figures[n] / model.mean[n] - 1 if relative else self.figures[n] - model.mean[n]
        size = float(moved / most)
        return float(np.clip(size, -1, 1)) if size > 0 or fault.two_ways else None

    def best(self, fault: Suspect) -> tuple[float, float]:
        """The size of a fault that explains the readings best, and what is left then, at a glance: as if all depended evenly on the figures."""
        ways = (1.0, -1.0) if fault.two_ways else (1.0,)
        sizes = [way * float(size) for way in ways for size in SIZES]
        free = self.without(fault)
        told = self.many(np.array([np.append(free, size) for size in sizes]), fault) - self.leans @ free
        left = np.sum(told @ self.weight * told, axis=1)
        n = int(np.argmin(left))
        return sizes[n], float(left[n])

    def run(self) -> Diagnosis:
        """Every fault that is likely at a glance fitted, in order; and each that moves what is far from what was assumed of it."""
        every = list(faults_of(self.model))
        glanced = sorted(((fault, *self.best(fault)) for fault in every), key=lambda item: item[2])
        far = [(fault, size) for fault in every if (size := self.suspected(fault)) is not None]
        likely = far + [(fault, size) for fault, size, _ in glanced if fault not in [f for f, _ in far]]
        near = sorted(
            ((fault, *self.nearly(fault, size)) for fault, size in likely[: LIKELIEST + len(far)]), key=lambda item: item[2]
        )
        found, suspects = [], [fault for fault, _ in far]
        for n, (fault, free, left) in enumerate(near):
            if n < POLISHED or fault in suspects:
                free, left = self.settled(fault, float(free[-1]), free[:-1])
            figures = fault.at(self.unpacked(free, fault)[0], self.model, float(free[-1]))
            found.append((fault, float(free[-1]), left, dict(zip(self.model.names, figures.tolist(), strict=True))))
        found.sort(key=lambda item: item[2])
        if not found or self.chi2 - found[0][2] < CLAIMS:
            return Diagnosis((), (), self.chi2, len(self.base))
        weights = np.exp(-(np.array([item[2] for item in found]) - found[0][2]) / 2)
        shares = weights / weights.sum()
        causes = [Cause(f, size, left, float(s), of) for (f, size, left, of), s in zip(found, shares, strict=True)]
        alike = [cause for cause in causes if cause.chi2 - causes[0].chi2 < APART]
        return Diagnosis(causes, alike, self.chi2, len(self.base), self.told_apart_by(causes))

    def told_apart_by(self, causes: Sequence[Cause]) -> Probe | None:
        """The measurement by which the first two causes lie furthest apart; None where they are not, or nothing tells them."""
        if len(causes) < 2:
            return None
        one, other = causes[0].figures, causes[1].figures
        left = [probe for probe in probes_of(self.model) if probe.key not in self.model.probed]
        best = max(left, key=lambda probe: parts(probe, one, other), default=None)
        return best if best is not None and parts(best, one, other) > TELLS else None


def diagnose(station: BenchStation, readings: Readings, probed: Mapping[str, float] = MappingProxyType({})) -> Diagnosis:
    """What explains the readings of a test. probed: what was measured besides, by the keys of the probes, as the sum of its figures."""
    readings = readings.filled()
    if missing := what_is_missing(readings):
        return Diagnosis((), (), 0.0, 0, missing=missing)
    return Explaining(station, readings, probed).run()


def what_is_missing(readings: Readings) -> str:
    """Why readings say nothing of faults, as a sentence without its full stop; empty where they do."""
    if not readings.has("posts.v", "posts.a"):
        return "voltage and current at the posts were not read"
    loaded = [s for s in readings.spans if s.step.startswith(("load-", "soak", "run-down"))]
    read = [
        s for s in loaded if np.isfinite(readings.of(s).channels["posts.v"] * readings.of(s).channels["posts.a"]).sum() >= FEWEST
    ]
    return "" if read else "no step with a load was found among the readings"
