"""What a test of the design would read, drawn before it is run: each step's course with its band."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from kegcart.core.bench.bands import TRACES, band_of, traced
from kegcart.core.bench.comparing import LEFT_OUT
from kegcart.core.bench.instruments import Meters
from kegcart.core.bench.plan import PlanStep
from kegcart.core.bench.station import BenchStation
from kegcart.core.bench.trial import run_trial
from kegcart.core.bench.truth import TrueStation, Truth

MOST_POINTS = 60
"""A step is drawn by so many points at most."""


@dataclass(frozen=True, slots=True)
class StepCourse:
    """What a step would read: its key, how long it lasts, s, moments since it begins, s, and by each trace the least and the most at each;
    no traces where the design does not say enough."""

    key: str
    lasts_s: float
    seconds: Sequence[float]
    traces: Mapping[str, tuple[Sequence[float], Sequence[float]]]


def courses_of(
    station: BenchStation, as_run: Sequence[PlanStep], to_come: Sequence[PlanStep], outside_c: float | None = None
) -> Iterator[StepCourse]:
    """The steps that are to come, after those that were run as they were run: from full, in air of so many °C."""
    last = max((n for n, step in enumerate(to_come) if step.key not in LEFT_OUT), default=-1)
    designed = TrueStation(station, Truth() if outside_c is None else Truth(outside_c=outside_c))
    read = run_trial(designed, Meters.perfect(designed.read()), [*as_run, *to_come[: last + 1]])
    rested, air = float(read.channels["posts.v"][0]), float(read.channels["air.c"][0])
    for n, step in enumerate(to_come):
        if n > last:
            yield StepCourse(step.key, step.seconds, (), {})
            continue
        span = read.spans[len(as_run) + n]
        lasts = span.end_s - span.begin_s
        # A moment stands at the end of its slice: the step's own are those after its beginning, up to its end.
        own = np.flatnonzero((read.seconds > span.begin_s + 1e-6) & (read.seconds <= span.end_s + 1e-6))
        if step.key in LEFT_OUT or not len(own):
            yield StepCourse(step.key, lasts, (), {})
            continue
        own = own[np.unique(np.linspace(0, len(own) - 1, MOST_POINTS).astype(int))]
        told: dict[str, Any] = {channel: values[own] for channel, values in read.channels.items()}
        expected, traces = traced(told), {}
        for trace in TRACES:
            if trace.key in expected:
                band, _ = band_of(trace.key, trace.unit, expected[trace.key], rested, told, air)
                traces[trace.key] = rounded(expected[trace.key] - band), rounded(expected[trace.key] + band)
        yield StepCourse(step.key, lasts, rounded(read.seconds[own] - span.begin_s), traces)


def rounded(values: Any) -> list[float]:
    """As fine as it is drawn."""
    return [float(f"{value:.6g}") for value in np.asarray(values).tolist()]


def write_course_of_step(course: StepCourse) -> dict[str, Any]:
    """A step's course as plain JSON data."""
    traces = {key: {"low": low, "high": high} for key, (low, high) in course.traces.items()}
    return {"key": course.key, "lasts_s": course.lasts_s, "seconds": course.seconds, "traces": traces}
