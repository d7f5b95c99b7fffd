"""Currents through the tree, step by step of the day, from the sockets up to the posts."""

from collections.abc import Callable
from dataclasses import dataclass, field

from kegcart.core.electrical.inverter import LossCurve
from kegcart.core.loads.profile import Day
from kegcart.core.loads.sizing import Demand
from kegcart.core.reference import constant


@dataclass(slots=True)
class Start:
    """The start of one load: what it adds (A or W) in each step in which it can happen, and how long it lasts (s)."""

    load: str
    extra: list[float]
    length_s: float


@dataclass(slots=True)
class Flow:
    """What flows into a part: running and mean current (A) by step of the day, and the starts on top.

    `spare` is what may come on top of the schedule: an inverter may be loaded to its rating by anyone with
    a plug, so fuses and cables are sized for that. Behind an inverter the same fields hold watts.
    """

    running: list[float]
    mean: list[float]
    starts: list[Start] = field(default_factory=list)
    spare: list[float] = field(default_factory=list)

    @classmethod
    def nothing(cls, day: Day) -> "Flow":
        return cls([0.0] * day.steps, [0.0] * day.steps, [], [0.0] * day.steps)

    def add(self, other: "Flow") -> None:
        self.running = [a + b for a, b in zip(self.running, other.running, strict=True)]
        self.mean = [a + b for a, b in zip(self.mean, other.mean, strict=True)]
        self.spare = [a + b for a, b in zip(self.spare, other.spare, strict=True)]
        self.starts += other.starts

    @property
    def peak(self) -> float:
        return max(self.running)

    @property
    def design_step(self) -> int:
        """The step in which running and spare together are greatest."""
        return max(range(len(self.running)), key=lambda i: self.running[i] + self.spare[i])

    @property
    def peak_step(self) -> int:
        return max(range(len(self.running)), key=self.running.__getitem__)

    def worst(self, start: Start) -> float:
        """The current while this load starts at its worst moment."""
        return max((r + e for r, e in zip(self.running, start.extra, strict=True) if e > 0), default=0.0)

    def surges(self) -> list[tuple[float, float]]:
        """(current, length in s) of every start at its worst moment."""
        return [(self.worst(s), s.length_s) for s in self.starts if any(s.extra)]

    def worst_start(self) -> Start | None:
        return max((s for s in self.starts if any(s.extra)), key=self.worst, default=None)


def of_loads(demands: list[Demand], day: Day, scale: float) -> Flow:
    """The flow of loads at an outlet: their watts times `scale` (1/(η·V) for amps)."""
    flow = Flow.nothing(day)
    for d in demands:
        on = day.on[d.key]
        running, mean, extra = d.running.number * scale, d.average_w * scale, d.surge_extra.number * scale
        for i, is_on in enumerate(on):
            if is_on:
                flow.running[i] += running
                flow.mean[i] += mean
        if extra > 0:
            flow.starts.append(Start(d.key, [extra if is_on else 0.0 for is_on in on], d.surge_s))
    return flow


def through(flow: Flow, drawn: Callable[[float, int], float]) -> Flow:
    """A flow carried through a device: `drawn(output, step)` is what it takes for an output."""
    steps = range(len(flow.running))
    running = [drawn(flow.running[i], i) for i in steps]
    starts = [
        Start(s.load, [drawn(flow.running[i] + s.extra[i], i) - running[i] if s.extra[i] > 0 else 0.0 for i in steps], s.length_s)
        for s in flow.starts
    ]
    return Flow(running, [drawn(flow.mean[i], i) for i in steps], starts, [0.0] * len(running))


def into_inverter(ac: Flow, curve: LossCurve, voltage_v: float, left_on: bool) -> Flow:
    """Amps into an inverter for its AC watts; it idles while AC loads are scheduled, or always if left on."""

    def drawn(watts: float, step: int) -> float:
        return curve.drawn(watts) / voltage_v if left_on or ac.running[step] > 0 else 0.0

    flow = through(ac, drawn)
    rated_a = curve.drawn(curve.rated_w) / voltage_v
    flow.spare = [max(0.0, rated_a - amps) for amps in flow.running]
    return flow


def into_converter(out: Flow, output_v: float, voltage_v: float) -> Flow:
    """Amps into a converter for the amps it gives at its output; its no-load draw is always there."""
    eta, idle = constant("converter_eta"), constant("converter_idle")
    return through(out, lambda amps, _: (amps * output_v / eta + idle) / voltage_v)
