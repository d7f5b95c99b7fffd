"""Readings that come ten a second for hours, thinned to what learning and diagnosing need: every second after a step begins, then fewer."""

from collections import deque
from collections.abc import Mapping, Sequence
from math import inf, nan

import numpy as np

from kegcart.core.bench.plan import EARLY_S, SETTLES_S
from kegcart.core.bench.readings import Readings, Span

WIDTHS = ((EARLY_S, 1.0), (SETTLES_S, 5.0), (float("inf"), 60.0))
LAST_S, LAST_WIDTH_S = 60.0, 5.0
"""The end of a step is kept as finely again once it has ended."""


class Thinned:
    """Readings as they come, each stretch of time kept as the mean of what was read in it, at the mean of its moments."""

    def __init__(self) -> None:
        self.rows: list[tuple[float, dict[str, float]]] = []
        self.begun_s = 0.0
        self.bin_end_s = 0.0
        self.sums: dict[str, tuple[float, int]] = {}
        self.moments: list[float] = []
        self.late: deque[tuple[float, Mapping[str, float]]] = deque()

    def begin(self, at_s: float) -> None:
        """A step begins, or ends: what comes is kept finely again."""
        self._keep_late()
        self.begun_s = self.bin_end_s = at_s

    def take(self, at_s: float, values: Mapping[str, float]) -> None:
        """Take readings of one moment."""
        since = at_s - self.begun_s
        if since > SETTLES_S:
            # Kept as they are until it is known whether the step ends here.
            self.late.append((at_s, values))
            while self.late[0][0] <= at_s - LAST_S:
                self._put(*self.late.popleft(), 60.0)
            return
        self._put(at_s, values, next(width for until, width in WIDTHS if since <= until))

    def _put(self, at_s: float, values: Mapping[str, float], width_s: float) -> None:
        if at_s > self.bin_end_s:
            self._close()
            self.bin_end_s = at_s + width_s - 1e-9
        self.moments.append(at_s)
        for channel, value in values.items():
            whole, many = self.sums.get(channel, (0.0, 0))
            self.sums[channel] = whole + value, many + 1

    def _close(self) -> None:
        if self.moments:
            means = {channel: whole / many for channel, (whole, many) in self.sums.items()}
            self.rows.append((sum(self.moments) / len(self.moments), means))
        self.sums, self.moments = {}, []

    def _keep_late(self) -> None:
        late, self.late = self.late, deque()
        self._close()
        self.bin_end_s = -inf
        for at, read in late:
            self._put(at, read, LAST_WIDTH_S)
        self._close()

    def readings(self, spans: Sequence[Span]) -> Readings:
        """All that was kept so far."""
        held = Thinned()
        held.rows, held.begun_s, held.bin_end_s = list(self.rows), self.begun_s, self.bin_end_s
        held.sums, held.moments, held.late = dict(self.sums), list(self.moments), deque(self.late)
        held._keep_late()
        rows = sorted(held.rows, key=lambda row: row[0])
        # Moments rise: where two are the same the later counts.
        rows = [row for n, row in enumerate(rows) if n == len(rows) - 1 or rows[n + 1][0] > row[0]]
        channels = dict.fromkeys(channel for _, read in rows for channel in read)
        return Readings(
            np.array([at for at, _ in rows]),
            {channel: np.array([read.get(channel, nan) for _, read in rows]) for channel in channels},
            list(spans),
        )
