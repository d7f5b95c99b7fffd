"""Readings held against what was expected, step by step, and against the lines at which a test is stopped."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import isfinite
from typing import Any, Final

import numpy as np

from kegcart.core.bench.bands import TRACES, band_of, cells_of, joints_of, traced
from kegcart.core.bench.diagnose.windows import Windows, windows_of
from kegcart.core.bench.instruments import Meters
from kegcart.core.bench.plan import PlanStep, StepKind
from kegcart.core.bench.readings import Readings, Span
from kegcart.core.bench.station import BenchStation
from kegcart.core.bench.trial import run_trial
from kegcart.core.bench.truth import TrueStation, Truth
from kegcart.core.bench.watch import Watch, group
from kegcart.core.figure import Figure, write_figure

LASTS_BAND = 0.1
LEFT_OUT = ("surge", "trip", "rest-empty", "recharge")
"""Steps of which the design does not say enough to hold readings against it."""
KINDS: Final[Mapping[str, StepKind]] = {"zero": "zero", "standing": "standing", "idle": "idle", "run-down": "run down"}


@dataclass(frozen=True, slots=True)
class ShownReading:
    """One reading at the end of a step: what the meters say, what was expected of the design, and its band; where: of which part or group."""

    name: str
    read: Figure
    expected: Figure
    band: Figure
    where: str

    @property
    def off(self) -> bool:
        """Whether it is out of band."""
        return abs(self.read.number - self.expected.number) > self.band.number


@dataclass(frozen=True, slots=True)
class ShownStep:
    """A step of a test with its readings."""

    key: str
    readings: Sequence[ShownReading]


def expected_of(station: BenchStation, readings: Readings) -> Readings:
    """What the design would have read in the same test: its steps as long, its loads as large, in the same air."""
    steps = [step_as_run(span, readings, station) for span in readings.spans if span.step not in LEFT_OUT]
    outside = readings.mean("outside.c") if readings.has("outside.c") else Truth().outside_c
    designed = TrueStation(station, Truth(outside_c=outside))
    return run_trial(designed, Meters.perfect(designed.read()), steps)


def step_as_run(span: Span, readings: Readings, station: BenchStation) -> PlanStep:
    """A step of the plan as it was truly run: a run-down goes on to the design's own end."""
    kind: StepKind = KINDS.get(span.step, "rest" if span.step.startswith("rest") else "load")
    part = readings.of(span)
    drawn = part.channels["load.w"] if readings.has("load.w") else part.channels["posts.v"] * part.channels["posts.a"]
    # The median: while a load comes on, it is not yet what it is.
    watts = float(np.nanmedian(drawn)) if np.isfinite(drawn).any() else float("nan")
    loaded = kind in ("load", "run down") and isfinite(watts)
    lasts = 40 * 3600.0 if span.step == "run-down" else span.end_s - span.begin_s
    most = 1.5 * station.load_w
    return PlanStep(
        span.step, kind, min(max(watts, 0.0), most) if loaded else 0.0, lasts, "cut-off" if span.step == "run-down" else ""
    )


def compare(station: BenchStation, readings: Readings, expected: Readings) -> Iterator[ShownStep]:
    """Every step with what was read at its end and what was expected."""
    ours, theirs = (windows_of(r, list(r.spans)) for r in (readings, expected))
    hours = run_down_h(readings), run_down_h(expected)
    for key in dict.fromkeys(step for step in ours.steps if step not in LEFT_OUT):
        mine, designed = last_of(ours, key), last_of(theirs, key)
        if mine is not None and designed is not None:
            lasted = (
                [shown("lasted", "h", hours, LASTS_BAND * hours[1], "a tenth: capacity and losses")] if key == "run-down" else []
            )
            yield ShownStep(key, (*lasted, *at_the_end(station, key, ours, mine, theirs, designed)))


def run_down_h(readings: Readings) -> float:
    """How long it ran down, h."""
    span = readings.span("run-down")
    return (span.end_s - span.begin_s) / 3600 if span else 0.0


def last_of(windows: Windows, step: str) -> int | None:
    """The last window of a step; None where it has none."""
    found = [n for n, name in enumerate(windows.steps) if name == step]
    return found[-1] if found else None


def at_the_end(station: BenchStation, key: str, ours: Windows, n: int, theirs: Windows, m: int) -> Iterator[ShownReading]:
    """The readings at the end of a step, of what was read. See `band_of`."""
    told = {channel: float(means[m]) for channel, means in theirs.means.items()}
    read = {channel: float(means[n]) for channel, means in ours.means.items() if channel in told}
    ours_now, expected = traced(read), traced(told)
    rested, air = float(theirs.means["posts.v"][0]), float(theirs.means["air.c"][0])
    for trace in TRACES:
        if trace.key not in ours_now or (trace.key == "end" and key == "zero"):
            continue
        now, then, where = float(ours_now[trace.key]), float(expected[trace.key]), ""
        if trace.key == "cell":
            where = group(min(cells_of(read), key=lambda c: read[c]))
        elif trace.key == "joint":
            # The joint that is the furthest from its own rise, which is not always the warmest.
            rises = {c: (read[c] - read["air.c"], told[c] - told["air.c"]) for c in joints_of(read)}
            worst = max(rises, key=lambda c: abs(rises[c][0] - rises[c][1]))
            (now, then), where = rises[worst], station.points[int(worst.split(".")[1]) - 1].name
        band, how = band_of(trace.key, trace.unit, then, rested, told, air)
        yield shown(trace.key, trace.unit, (now, then), float(band), how, where)


def shown(name: str, unit: str, values: tuple[float, float], band: float, how: str, where: str = "") -> ShownReading:
    """A reading beside what was expected. where: of which part or group it is."""
    read, expected = (value if isfinite(value) else 0.0 for value in values)
    return ShownReading(
        name,
        Figure.of("x", read, unit, where or "as read", how="the mean of the step's last half minute"),
        Figure.of("x_exp", expected, unit, "expected", how="the design simulated through the same test"),
        Figure.of("±x", band, unit, "band", how=how),
        where,
    )


@dataclass(frozen=True, slots=True)
class Reached:
    """A line at which a test is stopped that was reached: which, in which step and when, s since the test began, and how far it was beyond it."""

    line: str
    step: str
    at_s: float
    read: Figure
    limit: Figure
    where: str


def stops_reached(lines: Mapping[str, Figure], station: BenchStation, readings: Readings) -> list[Reached]:
    """Every stop line that was reached, in order of time: each where it first was.

    lines: see `TestPlanner.stop_lines`.
    """
    watch = Watch({line: limit.number for line, limit in lines.items()}, [point.name for point in station.points])
    names, found = list(readings.channels), list[Reached]()
    table = np.array([readings.channels[c] for c in names]).T.tolist()
    for at_s, row in zip(readings.seconds.tolist(), table, strict=True):
        for passed in watch.take(at_s, dict(zip(names, row, strict=True))):
            step = next((s.step for s in readings.spans if s.begin_s <= passed.at_s <= s.end_s), "")
            limit = lines[passed.line]
            read = Figure.of("x", passed.value, limit.unit, "as read", how="the first of two readings beyond it")
            found.append(Reached(passed.line, step, passed.at_s, read, limit, passed.where))
    return sorted(found, key=lambda reached: reached.at_s)


def write_step(step: ShownStep) -> dict[str, Any]:
    """A step with its readings as plain JSON data."""
    return {
        "key": step.key,
        "readings": [
            {
                "name": r.name,
                "read": write_figure(r.read, top=True),
                "expected": write_figure(r.expected, top=True),
                "band": write_figure(r.band, top=True),
                "off": r.off,
                "where": r.where,
            }
            for r in step.readings
        ],
    }


def write_reached(reached: Reached) -> dict[str, Any]:
    """A line that was reached as plain JSON data."""
    return {
        "line": reached.line,
        "step": reached.step,
        "at_s": reached.at_s,
        "where": reached.where,
        "read": write_figure(reached.read, top=True),
        "limit": write_figure(reached.limit, top=True),
    }
