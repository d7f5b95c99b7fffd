"""The clock of a test: the machine's, or that of an instrument that counts its own seconds, which may go faster or slower."""

from dataclasses import dataclass

SURE_S = 0.8
"""A rate is told by two moments of an instrument so far apart by the machine's clock."""
RESTARTED_S = 1.0
"""An instrument that counts so much less than before has been switched off and on."""


HELD_S = 0.5
"""So long after a count time is taken to go on at the instrument's rate. Later it goes no faster than a clock: what stalled may be the machine,
and what is read next would be of moments that were said to be over."""


@dataclass(slots=True)
class TestClock:
    """Moments by the machine's clock, s, told as seconds of the test. They never go back.

    at_s: of the test at the moment `machine_s`. offset_s: of the test over an instrument's count; None until it is known.
    """

    machine_s: float
    at_s: float = 0.0
    rate: float = 1.0
    offset_s: float | None = None
    counted: tuple[float, float] | None = None
    latest_s: float = 0.0

    def now(self, machine_s: float) -> float:
        """Seconds of the test at a moment of the machine's clock."""
        gone_s = machine_s - self.machine_s
        held_s = min(gone_s, HELD_S)
        self.latest_s = max(self.latest_s, self.at_s + held_s * self.rate + (gone_s - held_s) * min(self.rate, 1.0))
        return self.latest_s

    def count(self, machine_s: float, counted_s: float) -> bool:
        """An instrument counts so many seconds at a moment. Returns whether its offset is new, and is to be kept."""
        before, new = self.counted, False
        if before is not None and counted_s < before[1] - RESTARTED_S:
            before = self.offset_s = None
        if self.offset_s is None or (before is None and counted_s + self.offset_s < self.latest_s - RESTARTED_S):
            self.offset_s, new = self.now(machine_s) - counted_s, True
        if before is None:
            self.counted = machine_s, counted_s
        elif machine_s - before[0] >= SURE_S:
            self.rate = max(0.0, (counted_s - before[1]) / (machine_s - before[0]))
            self.counted = machine_s, counted_s
        self.machine_s, self.at_s = machine_s, counted_s + self.offset_s
        return new
