"""The day as steps: between two edges of any window, the same loads are switched on."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from kegcart.core.loads.document import Loads, Window

DAY_H = 24.0


def spans(window: Window) -> list[tuple[float, float]]:
    """The stretches of one day (h) that a window covers; two where it runs past midnight."""
    if window.from_h < window.to_h:
        return [(window.from_h, window.to_h)]
    return [part for part in ((window.from_h, DAY_H), (0.0, window.to_h)) if part[0] < part[1]]


def covered(windows: Sequence[Window]) -> list[tuple[float, float]]:
    """The stretches of the day that windows cover together, in order, none overlapping."""
    merged: list[tuple[float, float]] = []
    for start, end in sorted(part for window in windows for part in spans(window)):
        if merged and start <= merged[-1][1]:
            merged[-1] = (merged[-1][0], max(merged[-1][1], end))
        else:
            merged.append((start, end))
    return merged


@dataclass(frozen=True, slots=True)
class Day:
    """The steps of a day: `edges_h` has one more entry than there are steps; `on[load]` says which steps it runs in."""

    edges_h: tuple[float, ...]
    on: dict[str, tuple[bool, ...]]

    @classmethod
    def of(cls, loads: Loads) -> "Day":
        stretches = {key: covered(list(load.windows.values())) for key, load in loads.items.items()}
        edges = sorted({0.0, DAY_H, *(hour for parts in stretches.values() for part in parts for hour in part)})
        middles = [(a + b) / 2 for a, b in pairwise(edges)]
        on = {key: tuple(any(a < m < b for a, b in parts) for m in middles) for key, parts in stretches.items()}
        return cls(tuple(edges), on)

    @property
    def hours(self) -> list[float]:
        """Length of each step in h."""
        return [b - a for a, b in pairwise(self.edges_h)]

    @property
    def steps(self) -> int:
        return len(self.edges_h) - 1

    def energy(self, power_w: Sequence[float]) -> float:
        """Energy of a day in Wh of a power given by step in W."""
        return sum(p * h for p, h in zip(power_w, self.hours, strict=True))

    def energy_between(self, power_w: Sequence[float], from_h: float, hours: float) -> float:
        """Energy in Wh over `hours` from the hour `from_h` of the first day, the day repeating."""
        days, rest = divmod(hours, DAY_H)
        total = days * self.energy(power_w)
        for offset in (0.0, DAY_H):
            for p, a, b in zip(power_w, self.edges_h, self.edges_h[1:], strict=False):
                overlap = min(b + offset, from_h + rest) - max(a + offset, from_h)
                total += p * max(0.0, overlap)
        return total
