"""Readings held against what was expected, step by step, and against the lines at which a test is stopped."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import isfinite
from typing import Any, Final

import numpy as np

from kegcart.core.bench.diagnose.windows import Windows, windows_of
from kegcart.core.bench.instruments import Meters
from kegcart.core.bench.plan import PlanStep, StepKind
from kegcart.core.bench.readings import Readings, Series, Span
from kegcart.core.bench.rehearse import CURRENT_BAND, SAG_BAND
from kegcart.core.bench.station import BenchStation
from kegcart.core.bench.trial import run_trial
from kegcart.core.bench.truth import TrueStation, Truth
from kegcart.core.figure import Figure, write_figure

RISE_BAND, RISE_FLOOR_K = 0.5, 1.5
WATT_BAND, CLAMP_BAND, VOLT_BAND, LASTS_BAND = 0.03, 0.04, 0.003, 0.1
CLAMP_ZERO_A = 1.0
FLOORS: Final[Mapping[str, float]] = {"V": 0.01, "A": 0.3, "W": 2.0, "K": RISE_FLOOR_K, "°C": RISE_FLOOR_K}
"""No band is narrower than so much of its unit: meters show no more."""
CELL_V = 0.006
"""A cell's curve, and how late it follows."""
LEFT_OUT = ("rest-empty", "recharge")
"""Steps of which the design does not say enough to hold readings against it."""
KINDS: Final[Mapping[str, StepKind]] = {"zero": "zero", "standing": "standing", "idle": "idle", "run-down": "run down"}
LASTING_S = 60.0
"""A current beyond what a part carries for long is no surge from so long on."""
LIVE = 0.5
"""Below so much of its greatest voltage the pack was cut off."""


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
    watts = (
        part.mean("load.w") if readings.has("load.w") else float(np.nanmean(part.channels["posts.v"] * part.channels["posts.a"]))
    )
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
    """The readings at the end of a step, of the channels that were read.

    Source: bands are practice: 30 % of the sag until the resistance is measured, 5 % of a current for the losses, and the meters' own.
    """
    read, told = ours.means, theirs.means

    def both(channel: str) -> tuple[float, float]:
        return float(read[channel][n]), float(told[channel][m])

    rested, posts = float(told["posts.v"][0]), both("posts.v")
    sag, own = abs(rested - posts[1]), VOLT_BAND * rested
    yield shown("posts", "V", posts, SAG_BAND * sag + own, f"{SAG_BAND:.0%} of the sag, and the meter's own")
    amps = both("posts.a")
    yield shown("shunt", "A", amps, CURRENT_BAND * abs(amps[1]), f"{CURRENT_BAND:.0%}, for the losses")
    if "clamp.a" in read:
        yield shown("clamp", "A", both("clamp.a"), CLAMP_BAND * abs(amps[1]) + CLAMP_ZERO_A, "the clamp's own, with its zero")
    if "end.v" in read and key != "zero":
        end = both("end.v")
        how = f"{SAG_BAND:.0%} of sag and drop, and the meter's own"
        yield shown("end", "V", end, SAG_BAND * (sag + abs(posts[1] - end[1])) + own, how)
    if "load.w" in read:
        yield shown("load", "W", both("load.w"), WATT_BAND * abs(both("load.w")[1]), f"{WATT_BAND:.0%}")
    if cells := [c for c in read if c.startswith("cell.") and c in told]:
        lowest = min(cells, key=lambda c: float(read[c][n]))
        low = float(read[lowest][n]), min(float(told[c][m]) for c in cells)
        how = f"{SAG_BAND:.0%} of a cell's sag, and its curve"
        yield shown("cell", "V", low, SAG_BAND * sag / len(cells) + CELL_V, how, f"group {lowest.split('.')[1]}")
    if "air.c" not in read:
        return
    air = both("air.c")
    if joints := [c for c in read if c.startswith("part.") and c in told]:
        rises = [(float(read[c][n]) - air[0], float(told[c][m]) - air[1], c) for c in joints]
        worst = max(rises, key=lambda rise: abs(rise[0] - rise[1]))
        point = station.points[int(worst[2].split(".")[1]) - 1]
        yield shown("joint", "K", worst[:2], RISE_BAND * abs(worst[1]), f"{RISE_BAND:.0%} of its rise", point.name)
    warm = air[1] - float(told["air.c"][0])
    yield shown("air", "°C", air, RISE_BAND * abs(warm), f"{RISE_BAND:.0%} of its rise")


def shown(name: str, unit: str, values: tuple[float, float], band: float, how: str, where: str = "") -> ShownReading:
    """A reading beside what was expected. where: of which part or group it is."""
    read, expected = (value if isfinite(value) else 0.0 for value in values)
    most = max(band, FLOORS.get(unit, 0.0))
    return ShownReading(
        name,
        Figure.of("x", read, unit, where or "as read", how="the mean of the step's last half minute"),
        Figure.of("x_exp", expected, unit, "expected", how="the design simulated through the same test"),
        Figure.of("±x", most, unit, "band", how=how),
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
    """Every stop line that was reached, in order of time: each where it first was, two readings running.

    lines: see `TestPlanner.stop_lines`.
    """
    found = []
    for line, (beyond, values, where) in watched(lines, station, readings).items():
        both = beyond & np.roll(beyond, -1) if len(beyond) > 1 else beyond
        if len(both):
            both[-1] = False
        if both.any():
            n = int(np.argmax(both))
            at = float(readings.seconds[n])
            step = next((s.step for s in readings.spans if s.begin_s <= at <= s.end_s), "")
            limit = lines[line]
            read = Figure.of("x", float(values[n]), limit.unit, "as read", how="the first of two readings beyond it")
            found.append(Reached(line, step, at, read, limit, where[n] if where is not None else ""))
    return sorted(found, key=lambda reached: reached.at_s)


def watched(
    lines: Mapping[str, Figure], station: BenchStation, readings: Readings
) -> dict[str, tuple[Series, Series, Sequence[str] | None]]:
    """For each line where readings are beyond it, what is held against it, and where that is."""
    r, out = readings.channels, dict[str, tuple[Series, Series, Sequence[str] | None]]()
    most = {name: figure.number for name, figure in lines.items()}
    posts, amps = r["posts.v"], r["posts.a"]
    live = posts > LIVE * np.nanmax(posts)
    cells = [c for c in r if c.startswith("cell.")]
    if cells and "cell_low" in most:
        volts = np.array([r[c] for c in cells])
        lowest = [f"group {cells[n].split('.')[1]}" for n in np.argmin(volts, axis=0)]
        low, high = volts.min(axis=0), volts.max(axis=0)
        loaded = np.abs(amps) > 0.1 * np.nanmax(np.abs(amps))
        out["cell_low"] = (low < most["cell_low"], low, lowest)
        out["cell_high"] = (high > most["cell_high"], high, [f"group {cells[n].split('.')[1]}" for n in np.argmax(volts, axis=0)])
        out["spread"] = ((high - low > most["spread"]) & loaded, high - low, lowest)
    out["posts_low"] = ((posts < most["posts_low"]) & live, posts, None)
    out["amps"] = (lasting(readings.seconds, amps > most["amps"]), amps, None)
    joints = [c for c in r if c.startswith("part.")]
    if joints:
        warm = np.array([r[c] for c in joints])
        hottest = [station.points[int(joints[n].split(".")[1]) - 1].name for n in np.argmax(warm, axis=0)]
        if "air.c" in r:
            rise = warm.max(axis=0) - r["air.c"]
            out["joint"] = (rise > most["joint"], rise, hottest)
        over = warm.max(axis=0) - np.median(warm, axis=0)
        out["like"] = (over > most["like"], over, hottest)
    if "pack.c" in r:
        out["cells"] = (r["pack.c"] > most["cells"], r["pack.c"], None)
    return out


def lasting(seconds: Series, beyond: Series) -> Series:
    """Where something has been so for a minute."""
    out, since = np.zeros(len(beyond), bool), None
    for n, is_beyond in enumerate(beyond.tolist()):
        since = None if not is_beyond else seconds[n] if since is None else since
        out[n] = since is not None and seconds[n] - since >= LASTING_S
    return out


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
