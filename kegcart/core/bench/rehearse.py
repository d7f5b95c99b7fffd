"""The load test rehearsed: what voltage, current, sag, heat and time to expect at each step."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from kegcart.core.assess import Assessment
from kegcart.core.bench.bands import CURRENT_BAND, SAG_BAND
from kegcart.core.figure import Figure
from kegcart.core.lane import BENCH_C, BENCH_DAY, NEVER_H, Places, lane_of
from kegcart.core.reference import assumption
from kegcart.core.simulation.inputs import Branch, Lane, LoadDraw
from kegcart.core.simulation.run import Course, Event, simulate
from kegcart.core.units import write_quantity

STEP_SHARES = (0.25, 0.5, 0.75, 1.0)
STEP_S = 300.0
RUN_DOWN_SHARE = 0.5
LONGEST_RUN_DOWN_H = 200.0
OPENS = ("cutoff", "trip")


@dataclass(frozen=True, slots=True)
class TestStep:
    """One step of the test with its expected figures by name."""

    name: str
    do: str
    figures: dict[str, Figure]
    ends: str = ""


@dataclass(frozen=True, slots=True)
class Reading:
    """What the meters show at a moment: V at the posts, A from the pack, W of heat in the box, °C of the pack, charge."""

    volts: float
    amps: float
    heat_w: float
    pack_c: float
    charge: float

    @classmethod
    def at(cls, run: Course, hour: float) -> "Reading":
        """The last reading of a run before an hour."""
        i = max((i for i, h in enumerate(run.hour) if h < hour - 1e-9), default=0)
        pack = run.banks[0]
        return cls(pack.volts[i], pack.amps[i], run.heat_w[min(i + 1, len(run.hour) - 1)], pack.celsius[i], pack.charge[i])


def opens(run: Course) -> Event | None:
    """The first that opens by itself in a run; None where nothing does."""
    return next((event for event in run.events if event.kind in OPENS), None)


class Rehearsal:
    """A station on the bench, full and at 20 °C, stepped through its test with a load of its own."""

    def __init__(self, assessment: Assessment) -> None:
        self.assessment = assessment
        self.inverter = assessment.power.ctx.tested_inverter
        self.places = Places(assessment)
        self.lane, self.socket = self.bare()
        self.leaves = {
            "R": assessment.pack.resistance,
            "R_main": assessment.power.main_ohm,
            "C": assessment.pack.capacity,
            "τ": assumption("rc_time"),
        }

    def bare(self) -> tuple[Lane, int]:
        """Pack and path without the loads, and a socket for the test load: behind the inverter, or at the end of the main path."""
        places, network = self.places, self.assessment.power.network
        whole = lane_of(self.assessment, *BENCH_DAY, bare=True)
        parts = [part for part in whole.parts if part.bank == 0]
        path = network.main_path()
        feed = places.index[self.inverter.key] if self.inverter else places.index[path[-1]] if path else None
        parts.append(Branch("test load", 0, feed, 0.0))
        return replace(whole, banks=whole.banks[:1], parts=tuple(parts)), len(parts) - 1

    @staticmethod
    def unguarded(lane: Lane) -> Lane:
        """A lane in which nothing opens by itself: what is asked in a surge shows before anything has opened."""
        parts = tuple(replace(part, threshold=None, overload=None) for part in lane.parts)
        return replace(lane, banks=tuple(replace(bank, board=None) for bank in lane.banks), parts=parts)

    def held(self, *watts: float, seconds: float = STEP_S, lane: Lane | None = None) -> Course:
        """So many W, each held for so many seconds, one after the other from full."""
        lane = lane or self.lane
        hours = seconds / 3600
        loads = tuple(LoadDraw("test load", self.socket, w, ((i * hours, (i + 1) * hours),)) for i, w in enumerate(watts))
        plan = replace(lane.plan, end_h=len(watts) * hours, pattern_h=max(NEVER_H, len(watts) * hours))
        return simulate(replace(lane, loads=loads, plan=plan))

    def rested_v(self, charge: float) -> float:
        """Rested voltage of the pack at a charge, V."""
        bank = self.lane.banks[0]
        return sum(g.cells * bank.cell_voltage(g, charge) for g in bank.groups)

    def limits(self) -> Iterator[tuple[str, Figure]]:
        """What each part between pack and test load carries for long, A, by name.

        Source: what is in one line carries one current; a fuse carries 80 % of its rating for long, and a shunt the like
        (assumptions table); what hangs behind a block or busbar without an inverter takes what its circuits carry together.
        """
        a, margin = self.assessment, assumption("fuse_margin")
        network, parts = a.power.network, a.power.parts
        yield "pack", a.pack.continuous
        if a.power.shunt:
            yield "shunt", Figure.by("I", "I_s / k", "A", "shunt, continuous", I_s=a.power.shunt, k=margin)
        way = list(network.upstream(self.inverter.key)) if self.inverter else network.main_path()
        for key in way:
            part = parts[key]
            name = f"{part.node.name} ({key})"
            if part.rating and network.role(key) == "protects":
                yield name, Figure.by("I", "I_fuse / k", "A", f"{part.node.name}, continuous", I_fuse=part.rating, k=margin)
            elif part.rating and part.rating.unit == "A":
                yield name, part.rating
            if part.run:
                yield f"cable to the {name}", part.run.ampacity
        if not self.inverter and way:
            behind = [key for key in network.nearest_protections(way[-1]) if parts[key].rating]
            if behind and network.role(way[-1]) == "spreads":
                circuits = {f"{parts[k].node.name} ({k})": rating for k in behind if (rating := parts[k].rating)}
                whole = Figure.by("ΣI", "sum", "A", "fuses of its circuits", circuits)
                yield "circuits", Figure.by("I", "ΣI / k", "A", "its circuits together, continuous", {"ΣI": whole, "k": margin})

    def rating(self) -> Figure:
        """The continuous load the steps are shares of: what the inverter gives, or DC, as far as every part on the way carries it.

        Source: what is in one line carries one current: the weakest sets it, see `limits`.
        """
        limits = dict(self.limits())
        weakest = min(limits, key=lambda name: limits[name].number)
        amps = Figure.by("I", "min", "A", f"continuous current of the path, set by the {weakest}", limits)
        if self.inverter is None:
            return Figure.by("P", "I · V_nom", "W", "continuous rating, DC", I=amps, V_nom=self.assessment.pack.v_nom)
        asked = self.inverter.rated_current
        if asked.number <= amps.number:
            return self.inverter.rating
        how = "so much of its rating that every part before it carries the current"
        inputs = {"P_rated": self.inverter.rating, "I": amps, "I_rated": asked}
        return Figure.by("P", "P_rated · I / I_rated", "W", "continuous rating, as far as its path carries it", inputs, how=how)

    def figure(self, symbol: str, value: float, unit: str, label: str, **inputs: Figure) -> Figure:
        """An expected reading, with the unit it is read in."""
        warm = write_quantity(BENCH_C, "°C")
        how = f"stepped through on the bench at {warm} from full: voltage solved at each moment for the power asked"
        return Figure.of(symbol, value, unit, label, how=how, inputs={**self.leaves, **inputs})

    def expected(self, watts: Figure, rested_v: float, point: Reading, seconds: float) -> dict[str, Figure]:
        """What the meters should show under a load in W.

        Source: the bands are practice, until the resistance is measured.
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
            "heat": self.figure("Q", point.heat_w, "W", "heat in the box"),
            "pack_c": self.figure("T_pack", point.pack_c, "°C", "pack at the end"),
            "time": self.figure("t", seconds / 60, "min", "time"),
        }

    def run(self) -> list[TestStep]:
        """Every step of the load test, in its order."""
        rating = self.rating()
        return [*self.steps(rating), self.surge(), self.run_down(rating)]

    def steps(self, rating: Figure) -> Iterator[TestStep]:
        """The steps up to the continuous rating, one after the other."""
        run, what = self.held(*(share * rating.number for share in STEP_SHARES)), "AC" if self.inverter else "DC"
        ended = opens(run)
        for i, share in enumerate(STEP_SHARES):
            watts = Figure.of(
                "P",
                rating.number * share,
                "W",
                f"{share:.0%} of the continuous rating",
                how=f"{share:g} × the continuous rating",
                inputs={"P_rated": rating},
            )
            begin, end = i * STEP_S / 3600, (i + 1) * STEP_S / 3600
            until = end if ended is None or ended.hour >= end else max(ended.hour, begin)
            point = Reading.at(run, until)
            ends = f"{ended.text}, and ends the step early" if ended is not None and ended.hour < end else ""
            rested = self.rested_v(Reading.at(run, begin).charge)
            figures = self.expected(watts, rested, point, (until - begin) * 3600)
            yield TestStep(f"{share:.0%} load", f"Hold {what} load, five minutes", figures, ends)

    def surge(self) -> TestStep:
        """The worst start, on top of what runs."""
        if self.inverter:
            watts, start = self.inverter.peak.surge, self.inverter.peak.surge_of
        else:
            watts, start = self.assessment.loads.peak.surge, self.assessment.loads.peak.surge_of
        seconds = start.surge_s if start else 0.0
        ended = opens(self.held(watts.number, seconds=max(seconds, 1.0)))
        unguarded = Rehearsal.unguarded(self.lane)
        run = self.held(watts.number, seconds=max(seconds, 1.0), lane=unguarded)
        name = f"{start.name} starting on top of what runs" if start else "No load starts with a surge: switch on all at once"
        figures = self.expected(watts, self.rested_v(1.0), Reading.at(run, 0.0), seconds)
        return TestStep("Worst surge", name, figures, ended.text if ended else "")

    def run_down(self, rating: Figure) -> TestStep:
        """From full, at half the rating, to the first cut-off.

        Source: practice: a capacity test at half load, so that it ends within hours and the pack stays cool.
        """
        watts = Figure.by("P", "0.5 · P_rated", "W", "half the continuous rating", P_rated=rating)
        nominal_wh = self.assessment.figures["pack/nominal"].number
        likely_h = min(LONGEST_RUN_DOWN_H, 1.2 * nominal_wh / max(watts.number, 1.0))
        for hours in (likely_h, LONGEST_RUN_DOWN_H):
            run = self.held(watts.number, seconds=hours * 3600)
            if (ended := opens(run)) is not None:
                break
        until = ended.hour if ended else run.hour[-1]
        last, rested = Reading.at(run, until), self.rested_v(1.0)
        figures = self.expected(watts, rested, last, until * 3600)
        figures["current"] = self.figure("I", Reading.at(run, 0.0).amps, "A", "from the pack, at first", P=watts)
        figures["voltage"] = self.figure("V", last.volts, "V", "at the cut-off", P=watts)
        figures["sag"] = self.figure("ΔV", rested - last.volts, "V", "from full to cut-off", P=watts)
        gone = [(a, b) for a, b in zip(run.hour, run.hour[1:], strict=False) if a < until - 1e-9]
        taken_ah = sum(run.banks[0].amps[i] * (b - a) for i, (a, b) in enumerate(gone))
        reached_wh = sum(run.delivered_w[i] * (b - a) for i, (a, b) in enumerate(gone))
        figures["charge"] = self.figure("Q", taken_ah, "Ah", "taken from the pack")
        figures["energy"] = self.figure("E", reached_wh, "Wh", "delivered at the sockets")
        ends = ended.text if ended else "no cut-off within the time"
        return TestStep("Run-down", "Hold half load until the first cut-off, from full", figures, ends)


def rehearse(assessment: Assessment) -> list[TestStep]:
    """The expected course of the load test: steps, worst surge, run-down."""
    if assessment.loads.peak.running.number <= 0 and not assessment.power.inverters:
        return []
    return Rehearsal(assessment).run()
