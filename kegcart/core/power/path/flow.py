"""Currents through the tree, step by step of the day, from the sockets up to the posts."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from functools import cached_property

from kegcart.core.electrical.inverter import LossCurve
from kegcart.core.figure import Figure
from kegcart.core.loads.profile import Day
from kegcart.core.loads.sizing import Demand
from kegcart.core.loads.supplies import efficiency
from kegcart.core.reference import constant

REGULATED_V = 12.0


def regulated_voltage() -> Figure:
    """What a converter gives, V."""
    return Figure.of("U", REGULATED_V, "V", "regulated voltage", how="what a converter to 12 V gives")


@dataclass(slots=True)
class Start:
    """A start: what it adds (A or W) in each step in which it can happen, and how long it lasts (s).

    `key` names one row of loads, or a start group whose rows start together.
    """

    key: str
    extra: list[float]
    length_s: float


@dataclass
class Flow:
    """What flows into a part: running and mean current (A) by step of the day, and the starts on top.

    Complete once made: what is derived of it is kept.
    `spare` is what may come on top of the schedule: an inverter may be loaded to its rating by anyone with
    a plug, so fuses and cables are sized for that. Behind an inverter the same fields hold watts.
    """

    running: list[float]
    mean: list[float]
    starts: list[Start] = field(default_factory=list)
    spare: list[float] = field(default_factory=list)
    inward: float = 0.0
    """what inputs behind this part bring towards the source, A: with all loads off, all of it comes through"""

    @classmethod
    def total(cls, flows: Iterable["Flow"], day: Day) -> "Flow":
        """The sum of flows that meet; nothing where there are none.

        Source: currents add at a node (Kirchhoff).
        """
        parts = list(flows)
        if not parts:
            return cls([0.0] * day.steps, [0.0] * day.steps, [], [0.0] * day.steps)
        if len(parts) == 1:
            return parts[0]

        def added(columns: Iterable[list[float]]) -> list[float]:
            return [sum(column) for column in zip(*columns, strict=True)]

        return cls(
            added(f.running for f in parts),
            added(f.mean for f in parts),
            joined([start for f in parts for start in f.starts]),
            added(f.spare for f in parts),
            sum(f.inward for f in parts),
        )

    @cached_property
    def peak(self) -> float:
        """Greatest running current, A (W behind an inverter)."""
        return max(self.running)

    @cached_property
    def design_step(self) -> int:
        """The step in which running and spare together are greatest."""
        both = [a + b for a, b in zip(self.running, self.spare, strict=True)]
        return both.index(max(both))

    @cached_property
    def peak_step(self) -> int:
        """The step of the day at which that is."""
        return self.running.index(self.peak)

    @cached_property
    def surges(self) -> list[tuple[float, float]]:
        """(current, length in s) of every start at its worst moment."""
        return [(self.worst(start), start.length_s) for start in self.starts]

    def worst(self, start: Start) -> float:
        """The current while this load starts at its worst moment."""
        most = 0.0
        for runs, extra in zip(self.running, start.extra, strict=True):
            if extra > 0 and runs + extra > most:
                most = runs + extra
        return most

    @cached_property
    def worst_start(self) -> Start | None:
        """The start that takes most, on top of what runs then."""
        amps = [current for current, _ in self.surges]
        return self.starts[amps.index(max(amps))] if amps else None


def joined(starts: list[Start]) -> list[Start]:
    """Starts with those of one group made into one: they happen at the same moment."""
    if len({s.key for s in starts}) == len(starts):
        return starts
    by_key: dict[str, Start] = {}
    for s in starts:
        if (other := by_key.get(s.key)) is None:
            by_key[s.key] = s
        else:
            extra = [a + b for a, b in zip(other.extra, s.extra, strict=True)]
            by_key[s.key] = Start(s.key, extra, max(other.length_s, s.length_s))
    return list(by_key.values())


def of_loads(demands: list[Demand], day: Day, scale: Callable[[Demand], tuple[float, float]]) -> Flow:
    """The flow of loads at an outlet. scale: what one watt of a load takes (1/(η·V) for amps), at most and on the mean.

    Source: P = U · I.
    """
    flow = Flow.total([], day)
    for d in demands:
        on = day.on[d.key]
        most, usual = scale(d)
        running, mean, extra = d.running.number * most, d.average_w * usual, d.surge_extra.number * most
        for i, is_on in enumerate(on):
            if is_on:
                flow.running[i] += running
                flow.mean[i] += mean
        if extra > 0 and any(on):
            flow.starts.append(Start(d.load.start_group or d.key, [extra if is_on else 0.0 for is_on in on], d.surge_s))
    flow.starts = joined(flow.starts)
    return flow


def through(flow: Flow, drawn: Callable[[float, int], float]) -> Flow:
    """A flow carried through a device: `drawn(output, step)` is what it takes for an output."""
    steps = range(len(flow.running))
    running = [drawn(flow.running[i], i) for i in steps]
    starts = [
        Start(s.key, [drawn(flow.running[i] + s.extra[i], i) - running[i] if s.extra[i] > 0 else 0.0 for i in steps], s.length_s)
        for s in flow.starts
    ]
    return Flow(running, [drawn(flow.mean[i], i) for i in steps], starts, [0.0] * len(running))


def into_inverter(ac: Flow, curve: LossCurve, voltage_v: float, left_on: bool) -> Flow:
    """Amps into an inverter for its AC watts; it idles while AC loads are scheduled, or always if left on.

    Source: loss by the efficiency curve of its sheet, see `LossCurve`.
    """

    def drawn(watts: float, step: int) -> float:
        return curve.drawn(watts) / voltage_v if left_on or ac.running[step] > 0 else 0.0

    flow = through(ac, drawn)
    rated_a = curve.drawn(curve.rated_w) / voltage_v
    return replace(flow, spare=[max(0.0, rated_a - amps) for amps in flow.running])


def into_converter(out: Flow, output_v: float, voltage_v: float, idle_w: float | None = None) -> Flow:
    """Amps into a converter for the amps it gives at its output; its no-load draw is always there.

    Source: efficiency is output over input (definition; assumptions table).
    """
    eta = efficiency("dc_12v")
    idle = constant("converter_idle") if idle_w is None else idle_w
    return through(out, lambda amps, _: (amps * output_v / eta + idle) / voltage_v)
