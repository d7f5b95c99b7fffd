"""The load test rehearsed: what voltage, current, sag, heat and time to expect at each step."""

from dataclasses import dataclass
from math import inf
from typing import Any

from kegcart.core.assess import Assessment
from kegcart.core.bench.simulate import Charger, Model, Moment, Point, Recorder, Simulation, advance, solve
from kegcart.core.figure import Figure, write_figure
from kegcart.core.power.path.parts import InverterSizing
from kegcart.core.reference import assumption

BENCH_C = 20.0
STEP_SHARES = (0.25, 0.5, 0.75, 1.0)
STEP_S = 300.0
RUN_DOWN_SHARE = 0.5
LONGEST_RUN_DOWN_H = 200.0
SAG_BAND = 0.3
"""Typical uncertainty of a pack's resistance before it is measured."""
CURRENT_BAND = 0.05


@dataclass(frozen=True, slots=True)
class TestStep:
    """One step of the test with its expected figures by name."""

    name: str
    do: str
    figures: dict[str, Figure]
    ends: str = ""


def off() -> Charger:
    """No charger at all."""
    return Charger(0.0, inf, "off")


class Rehearsal:
    """A station on the bench, full and at 20 °C, stepped through its test."""

    def __init__(self, assessment: Assessment) -> None:
        self.assessment = assessment
        self.model = Model(assessment, BENCH_C, 1.0)
        self.recorder = Recorder(Simulation(), 0.0)
        self.t = 0.0
        self.inverter: InverterSizing | None = max(
            assessment.power.pack_inverters().values(), key=lambda i: i.rating.number, default=None
        )
        self.leaves = {
            "R": assessment.pack.resistance,
            "R_main": assessment.power.main_ohm,
            "C": assessment.pack.capacity,
            "τ": assumption("rc_time"),
        }

    def rating(self) -> Figure:
        """The continuous rating the steps are shares of: the inverter's, or what pack and main protection carry as DC.

        Source: what is in one line carries one current: the weakest sets it; a fuse carries 80 % of its rating for long (assumptions table).
        """
        if self.inverter:
            return self.inverter.rating
        a = self.assessment
        limits = {"pack": a.pack.continuous}
        for key in a.power.network.main_path():
            part = a.power.parts[key]
            if a.power.network.role(key) == "protects" and part.rating:
                margin = assumption("fuse_margin")
                limits[f"{part.node.name} ({key})"] = Figure.by(
                    "I", "I_fuse / k", "A", f"{part.node.name}, continuous", I_fuse=part.rating, k=margin
                )
        amps = Figure.by("I", "min", "A", "continuous current of the path", limits)
        return Figure.by("P", "I · V_nom", "W", "continuous rating, DC", I=amps, V_nom=a.pack.v_nom)

    def moment(self, watts: float) -> Moment:
        """The station's state under a load in W."""
        idle = self.model.converter_idle
        rest = dict.fromkeys(self.model.inverters, -1.0)
        if self.inverter:
            return Moment(idle, 0.0, {**rest, self.inverter.key: watts})
        return Moment(idle + watts, watts, rest)

    def now(self, watts: float) -> Point:
        """The state at rest, as it stands."""
        return solve(self.model, self.moment(watts), self.model.charge, self.model.late_v, off())

    def hold(self, watts: float, seconds: float) -> float:
        """Hold a load for so many seconds, or until a cut-off; returns the seconds held."""
        start = self.t
        moment = self.moment(watts)
        while self.t - start < seconds - 1e-6 and not self.opened():
            step = min(60.0, seconds - (self.t - start))
            taken = advance(self.model, moment, step, off(), self.recorder, self.t)
            if not self.opened():  # a cut-off acts where its step begins: what follows is held no longer
                self.t += taken
        return self.t - start

    def opened(self) -> bool:
        """Whether a cut-off has ended it."""
        return not self.model.board_closed or (self.inverter is not None and not self.model.closed[self.inverter.key])

    def figure(self, symbol: str, value: float, unit: str, label: str, **inputs: Figure) -> Figure:
        """An expected reading, with the unit it is read in."""
        how = "stepped through on the bench at 20 °C from full: voltage solved at each moment for the power asked"
        return Figure.of(symbol, value, unit, label, how=how, inputs={**self.leaves, **inputs})

    def expected(self, watts: Figure, rested_v: float, point: Point, seconds: float) -> dict[str, Figure]:
        """What the meters should show under a load in W.

        Source: I²R and the inverter's loss are heat (Joule); the bands are practice, until the resistance is measured.
        """
        sag = rested_v - point.volts
        return {
            "load": watts,
            "voltage": self.figure("V", point.volts, "V", "at the posts", P=watts),
            "voltage_band": self.figure(
                "±V", SAG_BAND * abs(sag), "V", "band: 30 % of the sag, until the resistance is measured"
            ),
            "current": self.figure("I", point.amps, "A", "from the pack", P=watts),
            "current_band": self.figure("±I", CURRENT_BAND * point.amps, "A", "band: 5 %, for the inverter's losses"),
            "sag": self.figure("ΔV", sag, "V", "below rest", P=watts),
            "heat": self.figure(
                "Q",
                point.inverter_loss_w + point.amps**2 * (self.model.r0 + self.model.r1 + self.model.r_main),
                "W",
                "heat in the box",
            ),
            "pack_c": self.figure("T_pack", self.model.pack_c, "°C", "pack at the end"),
            "time": self.figure("t", seconds / 60, "min", "time"),
        }

    def run(self) -> list[TestStep]:
        """Every step of the load test, in its order."""
        rating = self.rating()
        steps: list[TestStep] = []
        what = "AC" if self.inverter else "DC"
        for share in STEP_SHARES:
            watts = Figure.of(
                "P",
                rating.number * share,
                "W",
                f"{share:.0%} of the continuous rating",
                how=f"{share:g} × the continuous rating",
                inputs={"P_rated": rating},
            )
            rested = self.model.emf(self.model.charge)
            held = self.hold(watts.number, STEP_S)
            point = self.now(watts.number)
            if point.amps > self.assessment.pack.continuous.number:
                ends = "above the pack's continuous limit: its board may open"
            else:
                ends = "" if held >= STEP_S - 1 else "a cut-off ends the step early"
            steps.append(
                TestStep(f"{share:.0%} load", f"Hold {what} load, five minutes", self.expected(watts, rested, point, held), ends)
            )
        steps.append(self.surge())
        steps.append(self.run_down(rating))
        return steps

    def surge(self) -> TestStep:
        """The worst start, on top of what runs."""
        self.model.late_v = 0.0
        self.model.closed = dict.fromkeys(self.model.closed, True)
        self.model.board_closed = True
        if self.inverter:
            watts, start = self.inverter.peak.surge, self.inverter.peak.surge_of
        else:
            watts, start = self.assessment.loads.peak.surge, self.assessment.loads.peak.surge_of
        point = self.now(watts.number)
        seconds = start.surge_s if start else 0.0
        name = f"{start.name} starting on top of what runs" if start else "No load starts with a surge: switch on all at once"
        return TestStep("Worst surge", name, self.expected(watts, self.model.emf(self.model.charge), point, seconds))

    def run_down(self, rating: Figure) -> TestStep:
        """From full, at half the rating, to the first cut-off.

        Source: practice: a capacity test at half load, so that it ends within hours and the pack stays cool.
        """
        watts = Figure.by("P", "0.5 · P_rated", "W", "half the continuous rating", P_rated=rating)
        self.model = Model(self.assessment, BENCH_C, 1.0)
        self.recorder = Recorder(Simulation(), 0.0)
        self.t = 0.0
        rested = self.model.emf(1.0)
        first = self.now(watts.number)
        held = self.hold(watts.number, LONGEST_RUN_DOWN_H * 3600)
        self.recorder.finish(self.t, self.model)
        run = self.recorder.run
        figures = self.expected(watts, rested, first, held)
        if run.voltage_v:
            figures["voltage"] = self.figure("V", run.voltage_v[-1], "V", "at the cut-off", P=watts)
            figures["sag"] = self.figure("ΔV", rested - run.voltage_v[-1], "V", "from full to cut-off", P=watts)
        used = (1 - self.model.charge) * self.model.capacity
        figures["charge"] = self.figure("Q", used, "Ah", "taken from the pack")
        figures["energy"] = self.figure("E", run.delivered_wh, "Wh", "delivered at the sockets")
        ends = run.events[0].text if run.events else "no cut-off within the time"
        return TestStep("Run-down", "Hold half load until the first cut-off, from full", figures, ends)


def rehearse(assessment: Assessment) -> list[TestStep]:
    """The expected course of the load test: steps, worst surge, run-down."""
    if assessment.loads.peak.running.number <= 0 and not assessment.power.inverters:
        return []
    return Rehearsal(assessment).run()


def write_rehearsal(steps: list[TestStep]) -> list[dict[str, Any]]:
    """The rehearsal as plain JSON data."""
    return [
        {
            "name": s.name,
            "do": s.do,
            "ends": s.ends,
            "figures": {name: write_figure(fig, top=True) for name, fig in s.figures.items()},
        }
        for s in steps
    ]
