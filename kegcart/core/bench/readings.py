"""Readings of a test: channels over time, and which step each belongs to."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

Series = np.ndarray[Any, Any]
FEWEST = 2
"""So often a channel, or a step, must have been read to be one."""


@dataclass(frozen=True, slots=True)
class Span:
    """A step as it was run: its key in the plan, from when to when, s since the test began, and how it ended."""

    step: str
    begin_s: float
    end_s: float
    ended: str = ""


@dataclass(frozen=True, slots=True)
class Readings:
    """What was read: the moments in s since the test began, rising, and for each channel its value at each, NaN where it has none."""

    seconds: Series
    channels: Mapping[str, Series]
    spans: Sequence[Span]

    def has(self, *channels: str) -> bool:
        """Whether each of some channels was read at all."""
        return all(c in self.channels and bool(np.isfinite(self.channels[c]).any()) for c in channels)

    def filled(self) -> "Readings":
        """The same without gaps: between two readings of a channel it is taken to change evenly, as where channels are read at rates of their
        own; within a step by the step's own readings alone, as at its bounds a load changes at once. Channels that were hardly read are left
        out, and steps of which nothing was.
        """
        channels, own = {}, [(self.seconds > s.begin_s) & (self.seconds <= s.end_s) for s in self.spans]
        for channel, values in self.channels.items():
            read = np.isfinite(values)
            if read.sum() >= FEWEST:
                channels[channel] = values if read.all() else evened(self.seconds, values, read, own)
        t = self.seconds
        spans = [s for s in self.spans if np.count_nonzero((t >= s.begin_s) & (t <= s.end_s)) >= FEWEST]
        return Readings(t, channels, spans)

    def span(self, step: str) -> Span | None:
        """The last time that a step was run; None where it was not."""
        return next((s for s in reversed(self.spans) if s.step == step), None)

    def within(self, begin_s: float, end_s: float) -> "Readings":
        """The readings from one moment until before another."""
        keep = (self.seconds >= begin_s) & (self.seconds < end_s)
        return Readings(self.seconds[keep], {c: v[keep] for c, v in self.channels.items()}, self.spans)

    def of(self, span: Span, last_s: float | None = None) -> "Readings":
        """The readings of a step as it was run, or only those of its last seconds."""
        return self.within(span.begin_s if last_s is None else max(span.begin_s, span.end_s - last_s), span.end_s)

    def mean(self, channel: str) -> float:
        """The mean of a channel; NaN where it has no reading."""
        values = self.channels.get(channel, np.empty(0))
        values = values[np.isfinite(values)]
        return float(values.mean()) if len(values) else float("nan")

    def total(self, channel: str, begin_s: float, end_s: float) -> float:
        """A channel integrated over time, its unit times s; between two readings it is taken to change evenly."""
        part = self.within(begin_s, end_s)
        keep = np.isfinite(part.channels[channel])
        return float(np.trapezoid(part.channels[channel][keep], part.seconds[keep]))


def evened(seconds: Series, values: Series, read: Series, steps: Sequence[Series]) -> Series:
    """A channel at every moment: each step by what was read in it, the rest by all that was. read, steps: where it was, and where each is."""
    out: Series = np.interp(seconds, seconds[read], values[read])
    for step in steps:
        there = step & read
        if there.any():
            out[step] = np.interp(seconds[step], seconds[there], values[there])
    return out
