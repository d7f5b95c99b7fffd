"""A test cut into windows: the end of each step, and moments within the long ones, each with the means of its readings."""

from collections.abc import Iterator
from dataclasses import dataclass
from math import exp

import numpy as np

from kegcart.core.bench.readings import Readings, Series, Span

WINDOW_S = 30.0
LONG_S, EVERY_S, MOST = 900.0, 600.0, 12
"""In a step longer than this a window stands every so often, so many at most."""


@dataclass(frozen=True, slots=True)
class Windows:
    """The windows of a test, each with its step, the moment of its end in s, and how many readings it has; `means` of each channel."""

    steps: tuple[str, ...]
    ends_s: Series
    many: Series
    means: dict[str, Series]

    def first(self, step: str) -> int | None:
        """The first window of a step; None where it has none."""
        return self.steps.index(step) if step in self.steps else None


def ends_of(span: Span) -> Iterator[float]:
    """The moments at which windows of a step end."""
    lasted = span.end_s - span.begin_s
    if lasted > LONG_S:
        every = max(EVERY_S, lasted / MOST)
        at = span.begin_s + every
        while at < span.end_s - every / 2:
            yield at
            at += every
    yield span.end_s


def windows_of(readings: Readings, spans: list[Span]) -> Windows:
    """The windows of some steps of a test, in the order in which they were run."""
    steps, ends, many = [], [], []
    rows: dict[str, list[float]] = {channel: [] for channel in readings.channels}
    t = readings.seconds
    for span in spans:
        for end in ends_of(span):
            to = int(np.searchsorted(t, end - 1e-6 if span.ended and end == span.end_s else end, "right"))
            to = min(to, int(np.searchsorted(t, span.end_s - 1e-6))) if span.ended and end == span.end_s else to
            begin = max(int(np.searchsorted(t, span.begin_s, "right")), int(np.searchsorted(t, end - WINDOW_S)))
            begin = min(begin, to - 1)
            if to <= begin:
                continue
            steps.append(span.step)
            ends.append(float(t[to - 1]))
            many.append(to - begin)
            for channel, values in readings.channels.items():
                part = values[begin:to]
                part = part[np.isfinite(part)]
                rows[channel].append(float(part.mean()) if len(part) else float("nan"))
    return Windows(tuple(steps), np.array(ends), np.array(many), {c: np.array(v) for c, v in rows.items()})


def followed(seconds: Series, driven: Series, tau_s: float, at_s: Series) -> Series:
    """What follows a course with a time constant, from nothing at its first moment on, at some moments.

    driven: between one moment and the next it is as at the next. Source: x' = (d − x)/τ, exact over each step.
    """
    followed_by, now = np.zeros(len(seconds)), 0.0
    steps = np.diff(seconds, prepend=seconds[:1])
    for n, (dt, drives) in enumerate(zip(steps.tolist(), driven.tolist(), strict=True)):
        now = drives + (now - drives) * exp(-dt / tau_s)
        followed_by[n] = now
    return np.interp(at_s, seconds, followed_by)
