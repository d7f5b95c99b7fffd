"""A drill: a fault is dealt to a station like the design's, and the builder finds it by its test and by as few measurements as they can."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from math import isfinite
from random import Random
from typing import Any, Final

import numpy as np

from kegcart.core.assess import Assessment
from kegcart.core.bench.dealt import DEALT, can_be_dealt, true_figure
from kegcart.core.bench.diagnose.explain import Diagnosis, Explaining
from kegcart.core.bench.diagnose.faults import Fault, faults_of
from kegcart.core.bench.diagnose.probes import Probe, probes_of
from kegcart.core.bench.diagnose.windows import Windows, windows_of
from kegcart.core.bench.instruments import Meters
from kegcart.core.bench.plan import steps_of
from kegcart.core.bench.readings import Readings
from kegcart.core.bench.rehearse import CURRENT_BAND, SAG_BAND
from kegcart.core.bench.station import station_of
from kegcart.core.bench.trial import run_trial
from kegcart.core.bench.truth import Hidden, TrueStation, drawn
from kegcart.core.figure import Figure, write_figure

SPREAD = 0.35
"""The dealt station is otherwise nearer to its design than it might be: what is out of band is the fault's doing."""
RISE_BAND, RISE_FLOOR_K = 0.5, 1.5
WATT_BAND, CLAMP_BAND, VOLT_BAND = 0.03, 0.04, 0.003
FLOORS: Final[Mapping[str, float]] = {"V": 0.01, "A": 0.3, "W": 2.0, "K": RISE_FLOOR_K, "°C": RISE_FLOOR_K}
"""No band is narrower than so much of its unit: meters show no more."""
TOLD = 3
"""So many causes are told after each measurement."""
CELL_V = 0.006
"""A cell's curve, and how late it follows."""
DEALS = 6
"""A fault that shows nowhere is dealt anew, so many times."""
LEFT_OUT = ("rest-empty",)
CLEAR = 3.0
"""A measurement is off when it is so many of its uncertainties from what the design has."""


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
    """A step of the drill's test with its readings."""

    key: str
    readings: Sequence[ShownReading]


@dataclass(frozen=True, slots=True)
class Measured:
    """A measurement that the builder made: what it found, what the design has, whether that is off, and the causes that were likeliest after it, with
    their shares; `new`: whether it changed which one that was."""

    probe: Probe
    found: float
    expected: float
    off: bool
    causes: Sequence[tuple[str, float]] = field(default_factory=tuple)
    new: bool = False


class Drill:
    """A fault dealt by a seed. Errors: ValueError where a design has nothing that a test could show."""

    def __init__(self, assessment: Assessment, seed: int) -> None:
        self.station = station_of(assessment)
        self.seed = seed
        steps = [step for step in steps_of(self.station) if step.key != "recharge"]
        designed = TrueStation(self.station, Hidden())
        self.expected = run_trial(designed, Meters.perfect(designed.read()), steps)
        chance, kinds = Random(seed), can_be_dealt(self.station)
        for _ in range(DEALS):
            self.kind = kinds[chance.randrange(len(kinds))]
            sound = replace(drawn(self.station, chance, SPREAD), outside_c=Hidden().outside_c)
            self.ill = DEALT[self.kind](self.station, sound, chance)
            true = TrueStation(self.station, self.ill.hidden)
            self.meters = self.ill.meters(true, seed)
            self.readings = run_trial(true, self.meters, steps)
            if any(r.off for step in self.steps() for r in step.readings):
                break
        self.explaining = Explaining(self.station, self.readings, {})
        self.faults = {name_of(fault): fault for fault in faults_of(self.explaining.model)}
        self.probes = {probe.key: probe for probe in probes_of(self.explaining.model)}

    def run_h(self, readings: Readings) -> float:
        """How long it ran down, h."""
        span = readings.span("run-down")
        return (span.end_s - span.begin_s) / 3600 if span else 0.0

    def steps(self) -> Iterator[ShownStep]:
        """Every step with what was read at its end and what was expected."""
        ours, theirs = (windows_of(r, list(r.spans)) for r in (self.readings, self.expected))
        for key in dict.fromkeys(step for step in ours.steps if step not in LEFT_OUT):
            mine, designed = last_of(ours, key), last_of(theirs, key)
            if mine is not None and designed is not None:
                yield ShownStep(key, tuple(self.shown(key, ours, mine, theirs, designed)))

    def shown(self, key: str, ours: Windows, n: int, theirs: Windows, m: int) -> Iterator[ShownReading]:
        """The readings at the end of a step."""

        def both(channel: str) -> tuple[float, float]:
            return float(ours.means[channel][n]), float(theirs.means[channel][m])

        rested = float(theirs.means["posts.v"][0])
        posts = both("posts.v")
        sag = abs(rested - posts[1])
        if key == "run-down":
            hours = self.run_h(self.readings), self.run_h(self.expected)
            yield reading("lasted", "h", hours, 0.1 * hours[1], "a tenth: capacity and losses")
        shows = VOLT_BAND * rested
        yield reading("posts", "V", posts, SAG_BAND * sag + shows, f"{SAG_BAND:.0%} of the sag, and the meter's own")
        yield reading(
            "shunt", "A", both("posts.a"), CURRENT_BAND * abs(both("posts.a")[1]), f"{CURRENT_BAND:.0%}, for the losses"
        )
        yield reading("clamp", "A", both("clamp.a"), CLAMP_BAND * abs(both("clamp.a")[1]) + 1.0, "the clamp's own, with its zero")
        if "end.v" in ours.means and key != "zero":
            drop = posts[1] - both("end.v")[1]
            yield reading(
                "end",
                "V",
                both("end.v"),
                SAG_BAND * (sag + abs(drop)) + shows,
                f"{SAG_BAND:.0%} of sag and drop, and the meter's own",
            )
        yield reading("load", "W", both("load.w"), WATT_BAND * abs(both("load.w")[1]), f"{WATT_BAND:.0%}")
        cells = [c for c in ours.means if c.startswith("cell.")]
        low = min(float(ours.means[c][n]) for c in cells), min(float(theirs.means[c][m]) for c in cells)
        which = min(cells, key=lambda c: float(ours.means[c][n])).split(".")[1]
        yield reading(
            "cell",
            "V",
            low,
            SAG_BAND * sag / len(cells) + CELL_V,
            f"{SAG_BAND:.0%} of a cell's sag, and its curve",
            f"group {which}",
        )
        joints = [c for c in ours.means if c.startswith("part.")]
        if joints:
            air = both("air.c")
            rises = [(float(ours.means[c][n]) - air[0], float(theirs.means[c][m]) - air[1], c) for c in joints]
            worst = max(rises, key=lambda rise: abs(rise[0] - rise[1]))
            point = self.station.points[int(worst[2].split(".")[1]) - 1]
            yield reading("joint", "K", worst[:2], RISE_BAND * abs(worst[1]), f"{RISE_BAND:.0%} of its rise", point.name)
        warm = both("air.c")[1] - float(theirs.means["air.c"][0])
        apart = float(theirs.means["outside.c"][0]) - float(ours.means["outside.c"][0])
        yield reading(
            "air", "°C", (both("air.c")[0] + apart, both("air.c")[1]), RISE_BAND * abs(warm), f"{RISE_BAND:.0%} of its rise"
        )

    def measure(self, key: str) -> Measured:
        """What a hand meter finds. Errors: KeyError."""
        probe, model = self.probes[key], self.explaining.model
        true = sum(true_figure(name, self.station, self.ill, self.meters) for name in probe.figures)
        found = true + Random(f"{self.seed}:{key}").gauss(0, probe.sigma)
        expected = float(sum(model.mean[model.at[name]] for name in probe.figures))
        doubt = float(np.sqrt(sum(model.sigma[model.at[name]] ** 2 for name in probe.figures) + probe.sigma**2))
        return Measured(probe, float(found), expected, bool(abs(found - expected) > CLEAR * doubt))

    def told(self, keys: Sequence[str]) -> tuple[list[Measured], list[Diagnosis]]:
        """Each measurement with what it told, and what was told before any and after each. Errors: KeyError."""
        probed: dict[str, float] = {}
        diagnoses = [self.explaining.run()]
        out = []
        for key in keys:
            made = self.measure(key)
            probed[key] = made.found
            now = Explaining(self.station, self.readings, probed).run()
            was = [name_of(c.fault) for c in diagnoses[-1].causes[:1]]
            new = [name_of(c.fault) for c in now.causes[:1]] != was
            diagnoses.append(now)
            out.append(Measured(made.probe, made.found, made.expected, made.off, likeliest(now), new))
        return out, diagnoses

    @property
    def answer(self) -> str:
        """The name of the fault that was dealt."""
        return f"{self.kind}/{self.ill.which}"


def name_of(fault: Fault) -> str:
    """A fault by its kind and what it is about."""
    return f"{fault.kind}/{fault.which}"


def likeliest(diagnosis: Diagnosis) -> tuple[tuple[str, float], ...]:
    """The likeliest causes in words, with their shares."""
    return tuple((cause.fault.words, cause.share) for cause in diagnosis.causes[:TOLD])


def last_of(windows: Windows, step: str) -> int | None:
    """The last window of a step; None where it has none."""
    found = [n for n, name in enumerate(windows.steps) if name == step]
    return found[-1] if found else None


def reading(name: str, unit: str, values: tuple[float, float], band: float, how: str, where: str = "") -> ShownReading:
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


def drill_of(assessment: Assessment, seed: int) -> Drill | None:
    """A drill with a design; None where there is nothing to load, or nothing to load it through."""
    if assessment.loads.peak.running.number <= 0 and not assessment.power.inverters:
        return None
    drill = Drill(assessment, seed)
    return drill if drill.station.points else None


def write_drill(drill: Drill, probes: Sequence[str], guess: str) -> dict[str, Any]:
    """The drill as far as it has come, as plain JSON data; what was dealt only once it is guessed. Errors: KeyError."""
    made, diagnoses = drill.told(probes) if guess else ([drill.measure(key) for key in probes], [])
    true = drill.faults[drill.answer]
    return {
        "steps": [
            {
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
            for step in drill.steps()
        ],
        "faults": [{"key": key, "words": fault.words} for key, fault in drill.faults.items()],
        "probes": [{"key": key, "words": probe.words} for key, probe in drill.probes.items()],
        "made": [
            {
                "key": m.probe.key,
                "words": m.probe.words,
                "found": write_figure(Figure.of("x", m.found * m.probe.shows, m.probe.unit, "found"), top=True),
                "expected": write_figure(
                    Figure.of("x_exp", m.expected * m.probe.shows, m.probe.unit, "as the design has it"), top=True
                ),
                "off": m.off,
                "causes": [{"words": words, "share": share} for words, share in m.causes],
                "new": m.new,
            }
            for m in made
        ],
        "at_first": [{"words": words, "share": share} for words, share in likeliest(diagnoses[0])] if diagnoses else [],
        "answer": {"key": drill.answer, "words": true.words, "right": guess == drill.answer} if guess else None,
    }
