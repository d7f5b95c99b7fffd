"""The load test of a design, step by step: what is switched, how much it takes, for how long."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from kegcart.core.bench.station import BenchStation

StepKind = Literal["zero", "standing", "idle", "load", "rest", "run down", "recharge"]

SHARES = (0.25, 0.5, 0.75, 1.0)
STEP_S = 300.0
SOAK_SHARE, SOAK_S = 0.75, 3600.0
RUN_DOWN_SHARE = 0.5
LONGEST_S = 40 * 3600.0


@dataclass(frozen=True, slots=True)
class PlanStep:
    """One step under power: what is done, with how many W at the test's socket, for how long, s; `until` what ends it before."""

    key: str
    act: StepKind
    watts: float
    seconds: float
    until: Literal["", "cut-off", "full"] = ""


def steps_of(station: BenchStation) -> Iterator[PlanStep]:
    """The steps with power on it, in their order."""
    yield PlanStep("zero", "zero", 0.0, 60.0)
    yield PlanStep("standing", "standing", 0.0, 180.0)
    if station.inverter is not None:
        yield PlanStep("idle", "idle", 0.0, STEP_S)
    for share in SHARES:
        yield PlanStep(f"load-{share:.0%}".rstrip("%"), "load", share * station.load_w, STEP_S)
    yield PlanStep("rest", "rest", 0.0, STEP_S)
    yield PlanStep("soak", "load", SOAK_SHARE * station.load_w, SOAK_S)
    yield PlanStep("run-down", "run down", RUN_DOWN_SHARE * station.load_w, LONGEST_S, "cut-off")
    yield PlanStep("rest-empty", "rest", 0.0, 2 * STEP_S)
    yield PlanStep("recharge", "recharge", 0.0, LONGEST_S, "full")
