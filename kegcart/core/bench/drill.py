"""A drill: a fault is dealt to a station like the design's, and the builder finds it by its test and by as few measurements as they can."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from random import Random
from typing import Any

import numpy as np

from kegcart.core.assess import Assessment
from kegcart.core.bench.comparing import compare, write_step
from kegcart.core.bench.dealt import DEALT, can_be_dealt, true_figure
from kegcart.core.bench.diagnose.explain import Diagnosis, Explaining
from kegcart.core.bench.diagnose.faults import Suspect, faults_of
from kegcart.core.bench.diagnose.probes import Probe, probes_of
from kegcart.core.bench.instruments import Meters
from kegcart.core.bench.plan import steps_of
from kegcart.core.bench.station import station_of
from kegcart.core.bench.trial import run_trial
from kegcart.core.bench.truth import TrueStation, Truth, drawn
from kegcart.core.figure import Figure, write_figure

SPREAD = 0.35
"""The dealt station is otherwise nearer to its design than it might be: what is out of band is the fault's doing."""
TOLD = 3
"""So many causes are told after each measurement."""
DEALS = 6
"""A fault that shows nowhere is dealt anew, so many times."""
CLEAR = 3.0
"""A measurement is off when it is so many of its uncertainties from what the design has."""


@dataclass(frozen=True, slots=True)
class ProbeMade:
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
        designed = TrueStation(self.station, Truth())
        self.expected = run_trial(designed, Meters.perfect(designed.read()), steps)
        chance, kinds = Random(seed), can_be_dealt(self.station)
        for _ in range(DEALS):
            self.kind = kinds[chance.randrange(len(kinds))]
            sound = replace(drawn(self.station, chance, SPREAD), outside_c=Truth().outside_c)
            self.ill = DEALT[self.kind](self.station, sound, chance)
            true = TrueStation(self.station, self.ill.hidden)
            self.meters = self.ill.meters(true, seed)
            self.readings = run_trial(true, self.meters, steps)
            if any(r.off for step in compare(self.station, self.readings, self.expected) for r in step.readings):
                break
        self.explaining = Explaining(self.station, self.readings, {})
        self.faults = {name_of(fault): fault for fault in faults_of(self.explaining.model)}
        self.probes = {probe.key: probe for probe in probes_of(self.explaining.model)}

    def measure(self, key: str) -> ProbeMade:
        """What a hand meter finds. Errors: KeyError."""
        probe, model = self.probes[key], self.explaining.model
        true = sum(true_figure(name, self.station, self.ill, self.meters) for name in probe.figures)
        found = true + Random(f"{self.seed}:{key}").gauss(0, probe.sigma)
        expected = float(sum(model.mean[model.at[name]] for name in probe.figures))
        doubt = float(np.sqrt(sum(model.sigma[model.at[name]] ** 2 for name in probe.figures) + probe.sigma**2))
        return ProbeMade(probe, float(found), expected, bool(abs(found - expected) > CLEAR * doubt))

    def told(self, keys: Sequence[str]) -> tuple[list[ProbeMade], list[Diagnosis]]:
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
            out.append(ProbeMade(made.probe, made.found, made.expected, made.off, likeliest(now), new))
        return out, diagnoses

    @property
    def answer(self) -> str:
        """The name of the fault that was dealt."""
        return f"{self.kind}/{self.ill.which}"


def name_of(fault: Suspect) -> str:
    """A fault by its kind and what it is about."""
    return f"{fault.kind}/{fault.which}"


def likeliest(diagnosis: Diagnosis) -> tuple[tuple[str, float], ...]:
    """The likeliest causes in words, with their shares."""
    return tuple((cause.fault.words, cause.share) for cause in diagnosis.causes[:TOLD])


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
        "steps": [write_step(step) for step in compare(drill.station, drill.readings, drill.expected)],
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
