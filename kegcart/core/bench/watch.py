"""The lines at which a test is stopped, watched reading by reading: each is reached by two readings running beyond it."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import isfinite
from statistics import median

from kegcart.core.bench.bands import cells_of, joints_of

LASTING_S = 60.0
"""A current beyond what a part carries for long is no surge from so long on."""
LIVE = 0.5
"""Below so much of its greatest voltage the pack was cut off."""
LOADED = 0.1
"""Cells are held against one another where so much of what is carried for long flows: at rest and full they may stand apart."""


@dataclass(frozen=True, slots=True)
class Passed:
    """A line that was reached: which, when, s since the test began, what was read there, and of which part or group."""

    line: str
    at_s: float
    value: float
    where: str = ""


class Watch:
    """Readings as they come, held against the lines.

    lines: see `TestPlanner.stop_lines`, by their keys, each in its unit. points: names of the parts on the main path, in order.
    """

    def __init__(self, lines: Mapping[str, float], points: Sequence[str]) -> None:
        self.lines, self.points = dict(lines), tuple(points)
        self.latest: dict[str, float] = {}
        self.most_v = 0.0
        self.over_since: float | None = None
        self.first: dict[str, Passed] = {}
        self.reached: set[str] = set()

    def take(self, at_s: float, values: Mapping[str, float]) -> list[Passed]:
        """Take readings of one moment; what of the lines was reached by them, each line once."""
        new = {channel: value for channel, value in values.items() if isfinite(value)}
        self.latest |= new
        found = []
        for line, beyond, value, where in self.judged(at_s, new):
            if line in self.reached:
                continue
            if not beyond:
                self.first.pop(line, None)
            elif line in self.first:
                self.reached.add(line)
                found.append(self.first.pop(line))
            else:
                self.first[line] = Passed(line, at_s, value, where)
        return found

    def again(self) -> None:
        """Watch every line anew: what was reached was looked at."""
        self.first.clear()
        self.reached.clear()
        self.over_since = None

    def judged(self, at_s: float, new: Mapping[str, float]) -> Iterator[tuple[str, bool, float, str]]:
        """Each line that the new readings are about: whether they are beyond it, what is held against it, and where."""
        lines, amps = self.lines, self.latest.get("posts.a", 0.0)
        if cells_of(new) and "cell_low" in lines:
            cells = {c: self.latest[c] for c in cells_of(self.latest)}
            low, high = min(cells, key=lambda c: cells[c]), max(cells, key=lambda c: cells[c])
            yield "cell_low", cells[low] < lines["cell_low"], cells[low], group(low)
            yield "cell_high", cells[high] > lines["cell_high"], cells[high], group(high)
            apart = cells[high] - cells[low]
            yield "spread", apart > lines["spread"] and abs(amps) > LOADED * lines["amps"], apart, group(low)
        if (volts := new.get("posts.v")) is not None:
            self.most_v = max(self.most_v, volts)
            yield "posts_low", LIVE * self.most_v < volts < lines["posts_low"], volts, ""
        if "posts.a" in new:
            over = amps > lines["amps"]
            self.over_since = None if not over else at_s if self.over_since is None else self.over_since
            yield "amps", self.over_since is not None and at_s - self.over_since >= LASTING_S, amps, ""
        if joints_of(new):
            joints = {c: self.latest[c] for c in joints_of(self.latest)}
            hottest = max(joints, key=lambda c: joints[c])
            where = self.points[int(hottest.split(".")[1]) - 1]
            if "air.c" in self.latest:
                rise = joints[hottest] - self.latest["air.c"]
                yield "joint", rise > lines["joint"], rise, where
            over_like = joints[hottest] - median(joints.values())
            yield "like", over_like > lines["like"], over_like, where
        if "pack.c" in new:
            yield "cells", new["pack.c"] > lines["cells"], new["pack.c"], ""


def group(channel: str) -> str:
    """The group of cells that a channel reads, in words."""
    return f"group {channel.split('.')[1]}"
