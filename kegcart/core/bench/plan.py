"""The load test of a design, step by step: what is switched, how much it takes, for how long."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from kegcart.core.bench.station import BenchStation

StepKind = Literal["zero", "standing", "idle", "load", "rest", "surge", "trip", "run down", "recharge"]

SHARES = (0.25, 0.5, 0.75, 1.0)
STEP_S = 300.0
SOAK_SHARE, SOAK_S = 0.75, 3600.0
RUN_DOWN_SHARE = 0.5
LONGEST_S = 40 * 3600.0


CHARGE_RATE = 0.2
TAIL_SHARE = 0.1
"""A charge is over when its current is down to this share of what it began with."""
EARLY_S, SETTLES_S = 12.0, 320.0
"""So long after a change every second tells something, as long as the late part settles every few."""


@dataclass(slots=True)
class Setting:
    """What is switched and set from outside: the load in W, A or as a resistance that takes so many W at its nominal voltage; the inverter
    on; the main switch closed; a supply that charges, V and A (0: off)."""

    watts: float = 0.0
    amps: float = 0.0
    heater_w: float = 0.0
    inverter: bool = False
    main: bool = True
    supply_v: float = 0.0
    supply_a: float = 0.0


@dataclass(frozen=True, slots=True)
class PlanStep:
    """One step under power: what is done, with how many W at the test's socket, for how long, s; `until` what ends it before."""

    key: str
    act: StepKind
    watts: float
    seconds: float
    until: Literal["", "cut-off", "full"] = ""

    def setting(self, station: BenchStation) -> Setting:
        """What is switched and set in it at a station."""
        bank = station.lane.banks[0]
        inverter = self.act in ("idle", "load", "surge", "trip", "run down") and station.inverter is not None
        setting = Setting(watts=self.watts, inverter=inverter, main=self.act != "zero")
        if self.act == "recharge":
            volts = sum(g.cells * bank.curve.fill_v[-1] for g in bank.groups)
            setting.supply_v, setting.supply_a = volts, CHARGE_RATE * bank.capacity_ah
        return setting


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
