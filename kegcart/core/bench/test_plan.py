"""The load test of a design as a plan: what is proved before power, then each step with what to connect, what to expect, where to stop."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from kegcart.core.assembly.plan.acts import Act, write_measure
from kegcart.core.assess import Assessment
from kegcart.core.bench.plan import PlanStep, steps_of
from kegcart.core.bench.rehearse import Rehearsal, TestStep
from kegcart.core.bench.station import station_of
from kegcart.core.building import build_of
from kegcart.core.figure import Figure, write_figure
from kegcart.core.loads.sizing import Demand
from kegcart.core.reference import assumption

NETWORK = "/power/network/"
NEAR = 0.1
"""The builder's own loads do where they come this near to what a step asks for, a share."""
FINEST = 2000
"""So finely is it told apart what loads come to: in so many parts of what is asked."""
LOOK = "Look and smell: nothing warms that was cold, nothing hums, nothing smells."
ALIVE = "The pack cannot be switched off: posts covered, no rings or watches, tools insulated, eyes covered."
AC = "From here on there is mains voltage: it can kill at any power. One hand, sockets closed, and a second person near."
OVER = "What trips makes a spark, what does not burns: stand clear, a hand on the main switch, and end it after ten seconds."
SURGE_S, TRIP_S = 5.0, 60.0
BEFORE = ("dead", "power", "ac")
"""Stages of the assembly in which something is proved before power, or as it comes."""


@dataclass(frozen=True, slots=True)
class PlannedStep:
    """One step under power: as it is run, what to connect, how it is done, the figures expected, the lines at which it is stopped, how long it
    takes in s, what to watch for, what can hurt."""

    run: PlanStep
    name: str
    connect: str
    do: str
    figures: Mapping[str, Figure]
    stops: Mapping[str, Figure]
    watch: Sequence[str] = ()
    caution: str = ""
    ends: str = ""

    @property
    def key(self) -> str:
        """Its key in the plan."""
        return self.run.key


@dataclass(frozen=True, slots=True)
class AtHand:
    """Something to load a test with: what it is called, W of one, how many there are."""

    name: str
    watts: float
    count: int


@dataclass(frozen=True, slots=True)
class TestPlan:
    """The whole test: acts of the assembly that prove it before power, and the steps under power."""

    before: Sequence[Act]
    steps: Sequence[PlannedStep]


def plan_of_test(assessment: Assessment) -> TestPlan:
    """The test of a design; without steps where there is nothing to load."""
    acts = build_of(assessment).plan.in_order()
    before = [act for act in acts if act.measures and (act.stage in BEFORE or act.key.startswith("pack:"))]
    if assessment.loads.peak.running.number <= 0 and not assessment.power.inverters:
        return TestPlan((), ())
    return TestPlan(before, tuple(TestPlanner(assessment).run()))


class TestPlanner:
    """A test that is planned: what it rehearses, what the builder has to load it with, and where it is stopped."""

    def __init__(self, assessment: Assessment) -> None:
        self.assessment = assessment
        self.bench = Rehearsal(assessment)
        self.stops = dict(self.stop_lines())
        self.station = station_of(assessment)
        self.steps = {step.key: step for step in steps_of(self.station)}

    def run(self) -> Iterator[PlannedStep]:
        """Every step in its order."""
        steps = {step.name: step for step in self.bench.run()}
        *loads, surge, down = steps.values()
        yield self.meters()
        yield self.standing()
        if self.bench.inverter:
            yield self.idle()
        for n, step in enumerate(loads):
            yield self.loaded(f"load-{25 * (n + 1)}", step)
        yield self.rest("rest", "Rest", "Its voltage comes back: quickly at first, then slowly.")
        yield self.soak(loads[2])
        yield self.surge(surge)
        yield self.trip()
        yield self.run_down(down)
        yield self.rest("rest-empty", "Rest, empty", "Leave it switched off; read its cells at the end.")
        yield self.recharge(down)

    def stop_lines(self) -> Iterator[tuple[str, Figure]]:
        """Where every step is stopped at once. Source: chemistry (cells); practice (assumptions table); the weakest part of the path."""
        pack = self.assessment.pack
        row, series = pack.chemistry, pack.series
        if row.kind != "lead":
            yield "cell_low", row.figure("V_min", row.v_min, "V", "a cell below")
            yield "cell_high", row.figure("V_max", row.v_max, "V", "a cell above")
            yield "spread", Figure.by("ΔU", "ΔU_most", "V", "cells apart by", {"ΔU_most": assumption("test_spread")})
        yield (
            "posts_low",
            Figure.by("U_min", "S · V_min", "V", "the posts below", S=series, V_min=row.figure("V_min", row.v_min, "V")),
        )
        limits = dict(self.bench.limits())
        weakest = min(limits, key=lambda name: limits[name].number)
        yield "amps", Figure.by("I_most", "min", "A", "a current for minutes above", limits, how=f"set by the {weakest}")
        for key, label in (("joint", "a joint over the air by"), ("like", "a joint over its like by"), ("cells", "cells at")):
            most = assumption(f"test_{key}")
            yield key, Figure.by(most.symbol, most.symbol, most.unit, label, {most.symbol: most})

    def at_hand(self) -> list[AtHand]:
        """What the builder has to load the test with: what they say they have, then loads of the build that can be plugged in there, behind
        the inverter or on the DC side; steady ones."""
        given = self.assessment.design.bench.test_loads.values()
        own = [AtHand(load.name, load.watts, load.count) for load in given if load.ac == (self.bench.inverter is not None)]
        power = self.assessment.power
        root = self.bench.inverter.key if self.bench.inverter else None
        below = set(power.network.below(root)) if root else None
        found = list[Demand]()
        for outlet, plugged in power.plugged.items():
            if (below is None and power.network.stands_on[outlet] != "ac") or (below is not None and outlet in below):
                found += [d for d in plugged if d.load.cycle is None and d.watts.number > 0 and not d.load.engine_runs]
        return own + [AtHand(d.load.name, d.watts.number, d.load.count) for d in found]

    def connect(self, watts: Figure) -> str:
        """What to plug in for so many W: of the builder's own loads where some come near enough, else what else does."""
        chosen, whole = made_up_of(watts.number, self.at_hand())
        what = "AC" if self.bench.inverter else "DC"
        said = Figure.of("P", whole, "W").text
        if chosen and abs(whole - watts.number) <= NEAR * watts.number:
            return f"{listed(chosen)}: {said}{'' if said == watts.text else f' of {watts.text}'}."
        most = sum(load.watts * load.count for load in self.at_hand())
        own = f" Your own loads come to {Figure.of('P', most, 'W').text} in all." if most > 0 else ""
        return f"An electronic load or heaters, {what}, {watts.text}.{own}"

    def step(
        self,
        key: str,
        name: str,
        connect: str,
        do: str,
        figures: Mapping[str, Figure],
        *watch: str,
        caution: str = "",
        ends: str = "",
        stops: Sequence[str] = (),
        run: PlanStep | None = None,
    ) -> PlannedStep:
        """A step, stopped at the lines named, or at all. run: as it is run, where no other step of the test is like it."""
        lines = {k: v for k, v in self.stops.items() if not stops or k in stops}
        return PlannedStep(run or self.steps[key], name, connect, do, figures, lines, watch, caution, ends)

    def minutes(self, minutes: float) -> Figure:
        """How long a step takes."""
        return Figure.of("t", minutes, "min", "time", how="practice")

    def meters(self) -> PlannedStep:
        """Shunt and clamp against each other, their zeros first."""
        how = "the curve of its cells at full charge"
        rested = Figure.of("U_0", self.bench.rested_v(1.0), "V", "at the posts, rested and full", how=how)
        figures = {"voltage": rested, "off": assumption("test_meters"), "time": self.minutes(5)}
        do = "Main switch open: shunt and clamp to zero. Then closed, on a heater or another load that draws evenly: both show one current."
        return self.step(
            "zero",
            "Meters",
            "Shunt's meter, clamp round the main cable with its arrow away from the pack, thermometer on each joint.",
            do,
            figures,
            "An inverter draws by pulses: there a clamp and a shunt differ, and both are right.",
            caution=ALIVE,
            stops=("cell_low", "cell_high"),
        )

    def standing(self) -> PlannedStep:
        """What draws while everything is off."""
        a = self.assessment
        inverters = {a.power.parts[key].pointer for key in a.power.inverters}
        behind = [idle for idle in a.power.idle if idle.place.startswith(NETWORK) and idle.place not in inverters]
        label = "drawn behind the posts while everything is off"
        watts = (
            Figure.by("P_0", "sum", "W", label, {f"P_{n}": idle.watts for n, idle in enumerate(behind, 1)}) if behind else None
        )
        watts = watts or Figure.of("P_0", 0.0, "W", label, how="nothing that is fed draws by itself")
        amps = Figure.by("I_0", "P_0 / U", "A", "from the pack", P_0=watts, U=a.pack.v_nom)
        return self.step(
            "standing",
            "All off",
            "Nothing connected.",
            "Main switch closed, inverter and loads off.",
            {"load": watts, "current": amps, "time": self.minutes(3)},
            "More than this, and something is on that should not be.",
            stops=("cell_low",),
        )

    def idle(self) -> PlannedStep:
        """The inverter with nothing plugged in."""
        inverter = self.bench.inverter
        assert inverter is not None
        loss = self.bench.lane.parts[self.bench.places.index[inverter.key]].loss
        assert loss is not None
        watts = Figure.of("P0", loss.idle_w, "W", "idle draw", how="as it is sized", inputs={"P_rated": inverter.rating})
        amps = Figure.by("I_0", "P0 / U", "A", "from the pack", P0=watts, U=self.assessment.pack.v_nom)
        return self.step(
            "idle",
            "Inverter idle",
            "Nothing connected.",
            "Inverter on, its search mode off; read after five minutes, when it is warm.",
            {"load": watts, "current": amps, "time": self.minutes(5)},
            "Its hum is even.",
            caution=AC,
            stops=("cell_low", "joint"),
        )

    def rest(self, key: str, name: str, do: str) -> PlannedStep:
        """No load, for its voltage to settle."""
        figures = {"time": self.minutes(self.steps[key].seconds / 60)}
        return self.step(key, name, "Nothing connected.", do, figures, stops=("cell_low", "joint", "cells"))

    def loaded(self, key: str, step: TestStep) -> PlannedStep:
        """A share of what it carries for long."""
        return self.step(key, step.name, self.connect(step.figures["load"]), step.do + ".", step.figures, LOOK, ends=step.ends)

    def soak(self, like: TestStep) -> PlannedStep:
        """Long enough for joints and air to become as warm as they get."""
        figures = {**{name: figure for name, figure in like.figures.items() if name != "time"}, "time": self.minutes(60)}
        return self.step(
            "soak",
            "Soak",
            self.connect(like.figures["load"]),
            "Hold it for an hour; each joint's temperature every ten minutes.",
            figures,
            "One joint warmer than its like is loose, or crimped badly.",
            LOOK,
        )

    def surge(self, step: TestStep) -> PlannedStep:
        """The worst start."""
        return self.step(
            "surge",
            step.name,
            "What runs at that hour, then the load that starts.",
            f"{step.name}: {step.do}.",
            step.figures,
            "Lights may blink; nothing may drop.",
            ends=step.ends,
            stops=("cell_low", "posts_low"),
            run=PlanStep("surge", "surge", step.figures["load"].number, max(SURGE_S, 60 * step.figures["time"].number)),
        )

    def trip(self) -> PlannedStep:
        """What must open by itself, does."""
        inverter, pack = self.bench.inverter, self.assessment.pack
        if inverter:
            most = Figure.by(
                "P_trip",
                "k · P_rated",
                "W",
                "above this it must switch off",
                k=Figure.of("k", 1.25, "×", "over its rating", how="practice"),
                P_rated=inverter.rating,
            )
            figures = {"load": most, "time": self.minutes(1)}
            return self.step(
                "trip",
                "Over-current",
                f"Loads of {most.text} together.",
                "Switched on one after another until the inverter switches itself off; then off, half a minute, and on again.",
                figures,
                "It goes off by itself, and comes back only by hand.",
                caution=OVER,
                stops=("cell_low", "amps"),
                run=PlanStep("trip", "trip", most.number, TRIP_S, "cut-off"),
            )
        figures = {"current": pack.continuous, "time": self.minutes(1)}
        return self.step(
            "trip",
            "Over-current",
            "Nothing is overloaded here: a fuse proves itself once only.",
            "Read each fuse against the list, and leave them whole.",
            figures,
            stops=("amps",),
            run=PlanStep("trip", "standing", 0.0, TRIP_S),
        )

    def run_down(self, step: TestStep) -> PlannedStep:
        """From full to the first cut-off, and which opens first."""
        figures = {name: figure for name, figure in step.figures.items() if not name.endswith("_band")}
        return self.step(
            "run-down",
            step.name,
            self.connect(step.figures["load"]),
            "From full, all that was taken counted, until something opens by itself; stay with it.",
            figures,
            f"First to open: {step.ends}." if step.ends else "Nothing cuts off: stop it yourself.",
            ends=step.ends,
        )

    def recharge(self, down: TestStep) -> PlannedStep:
        """Back to full."""
        figures = {"charge": down.figures["charge"]}
        return self.step(
            "recharge",
            "Recharge",
            "Its own charger, a power meter at the wall.",
            "Until the tail of the current is seen; watts at the wall and at the posts.",
            figures,
            "Never unattended, nor in the way out.",
            stops=("cell_high", "spread", "cells"),
        )


def made_up_of(watts: float, loads: Sequence[AtHand]) -> tuple[list[tuple[int, str]], float]:
    """Of which loads, how many of each, so many W come together most nearly; and how many that are."""
    grain = max(1.0, watts / FINEST)
    best: dict[int, list[int]] = {0: []}
    for load in loads:
        one = max(1, round(load.watts / grain))
        best = {
            whole + n * one: [*counts, n]
            for whole, counts in sorted(best.items(), reverse=True)
            for n in range(load.count, -1, -1)
            if (whole + n * one) * grain <= (1 + NEAR) * watts
        }
    whole = min(best, key=lambda w: (abs(w * grain - watts), w))
    chosen = [(n, load.name) for n, load in zip(best[whole], loads, strict=True) if n]
    return chosen, whole * grain


def listed(chosen: Sequence[tuple[int, str]]) -> str:
    """Loads in a sentence."""
    words = [f"{n} × {name}" if n > 1 else name for n, name in chosen]
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def write_test_plan(plan: TestPlan) -> dict[str, Any]:
    """The plan as plain JSON data."""
    return {
        "before": [
            {
                "key": a.key,
                "title": a.title,
                "text": a.text,
                "caution": a.caution,
                "places": list(a.places),
                "measures": [write_measure(m) for m in a.measures],
            }
            for a in plan.before
        ],
        "steps": [write_planned_step(step) for step in plan.steps],
    }


def write_planned_step(step: PlannedStep) -> dict[str, Any]:
    """A step as plain JSON data."""
    return {
        "key": step.key,
        "name": step.name,
        "connect": step.connect,
        "do": step.do,
        "watch": list(step.watch),
        "caution": step.caution,
        "ends": step.ends,
        "figures": {name: write_figure(figure, top=True) for name, figure in step.figures.items()},
        "stops": {name: write_figure(figure, top=True) for name, figure in step.stops.items()},
    }
