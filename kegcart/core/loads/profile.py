"""The days as steps: between two edges of any window, the same loads are switched on.

A pattern is one day, or several that differ, and repeats.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

from kegcart.core.loads.document import Load, Loads, Window
from kegcart.core.units import clock

DAY_H = 24.0
WEEK = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


def merged(stretches: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Stretches in order, none overlapping."""
    out: list[tuple[float, float]] = []
    for start, end in sorted(stretches):
        if out and start <= out[-1][1]:
            out[-1] = (out[-1][0], max(out[-1][1], end))
        else:
            out.append((start, end))
    return out


def spans(window: Window, day: int, days: int) -> list[tuple[float, float]]:
    """The stretches (h from the start of the pattern) a window covers that begins on a day (from 0).

    It is cut in two where it runs past the end of the pattern, which is where the pattern begins again.
    """
    start = day * DAY_H + window.from_h
    end = day * DAY_H + window.to_h + (DAY_H if window.to_h <= window.from_h else 0.0)
    whole = days * DAY_H
    if end <= whole:
        return [(start, end)]
    return [part for part in ((start, whole), (0.0, end - whole)) if part[0] < part[1]]


def covered(load: Load, days: int) -> list[tuple[float, float]]:
    """The stretches of a pattern of so many days in which a load is switched on, in order, none overlapping."""
    on = range(days) if load.days is None else sorted({d - 1 for d in load.days if d <= days})
    return merged([part for day in on for window in load.windows.values() for part in spans(window, day, days)])


@dataclass(frozen=True)
class Day:
    """The steps of a pattern of `days` days.

    `edges_h` has one more entry than there are steps; `on[load]` says in which steps it is switched on.
    """

    days: int
    edges_h: tuple[float, ...]
    on: dict[str, tuple[bool, ...]]

    @classmethod
    def of(cls, loads: Loads) -> "Day":
        """The steps of a day between all moments at which something changes."""
        days = loads.days
        stretches = {key: covered(load, days) for key, load in loads.items.items()}
        edges = sorted({0.0, days * DAY_H, *(hour for parts in stretches.values() for part in parts for hour in part)})
        step = {edge: i for i, edge in enumerate(edges)}

        def switched_on(parts: Sequence[tuple[float, float]]) -> tuple[bool, ...]:
            out = [False] * (len(edges) - 1)
            for a, b in parts:
                out[step[a] : step[b]] = [True] * (step[b] - step[a])
            return tuple(out)

        return cls(days, tuple(edges), {key: switched_on(parts) for key, parts in stretches.items()})

    @cached_property
    def hours(self) -> list[float]:
        """Length of each step in h."""
        return [b - a for a, b in pairwise(self.edges_h)]

    @property
    def steps(self) -> int:
        """How many steps there are."""
        return len(self.edges_h) - 1

    @property
    def length_h(self) -> float:
        """Length of a step, h."""
        return self.days * DAY_H

    def energy(self, power_w: Sequence[float]) -> float:
        """Energy of the mean day in Wh of a power given by step in W."""
        return sum(p * h for p, h in zip(power_w, self.hours, strict=True)) / self.days

    def hours_on(self, key: str) -> float:
        """Hours a day in which a load is switched on, the mean over the pattern."""
        return sum(h for h, on in zip(self.hours, self.on[key], strict=True) if on) / self.days

    def energy_between(self, power_w: Sequence[float], from_h: float, hours: float) -> float:
        """Energy in Wh over `hours` from an hour of the pattern (h from its start), the pattern repeating."""
        rounds, rest = divmod(hours, self.length_h)
        total = rounds * self.energy(power_w) * self.days
        for offset in (0.0, self.length_h):
            begin, end = from_h - offset, from_h + rest - offset
            for p, (a, b) in zip(power_w, pairwise(self.edges_h), strict=True):
                if a < end and b > begin:
                    total += p * (min(b, end) - max(a, begin))
        return total

    def fullest(self, power_w: Sequence[float], ready_h: float, hours: float) -> tuple[float, int]:
        """The greatest energy in Wh between two charges, and the day (from 0) on which that time begins."""
        by_day = [self.energy_between(power_w, day * DAY_H + ready_h, hours) for day in range(self.days)]
        most = max(by_day)
        return most, by_day.index(most)

    def moment(self, hour: float, weekdays: bool = False) -> str:
        """An hour of the pattern in words: 19:30, or day 2, 19:30."""
        if self.days == 1:
            return clock(hour)
        day = int(hour // DAY_H)
        return f"{WEEK[day % 7] if weekdays else f'day {day + 1}'}, {clock(hour % DAY_H)}"
