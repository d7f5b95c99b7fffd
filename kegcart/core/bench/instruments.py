"""Meters as they are: each reading off by its gain and its zero, noisy, in steps, and late."""

from collections.abc import Iterable, Mapping

import numpy as np

from kegcart.core.reference.bench import meter_of


class Meters:
    """All meters of a bench, each as far off as its kind is; by a seed."""

    def __init__(self, channels: Iterable[str], chance: np.random.Generator, gains: Mapping[str, float] | None = None) -> None:
        """gains: of channels whose gain is not left to chance."""
        self.chance, self.channels = chance, tuple(channels)
        kinds = [meter_of(channel) for channel in self.channels]
        doubts, zeros = np.array([k.gain for k in kinds]), np.array([k.zero for k in kinds])
        # The cells are read by one logger, so that their gains are one.
        one = 1 + doubts * chance.standard_normal()
        each = 1 + doubts * chance.standard_normal(len(kinds))
        self.gain = np.where([k.key == "cells" for k in kinds], one, each)
        for channel, gain in (gains or {}).items():
            self.gain[self.channels.index(channel)] = gain
        self.zero = zeros * chance.standard_normal(len(kinds))
        self.noise, self.step, self.lag_s = (np.array([getattr(k, name) for k in kinds]) for name in ("noise", "step", "lag_s"))
        self.shown: np.ndarray | None = None

    @classmethod
    def perfect(cls, channels: Iterable[str]) -> "Meters":
        """Meters that show what is."""
        meters = cls(channels, np.random.default_rng(0))
        meters.gain[:], meters.zero[:], meters.noise[:], meters.lag_s[:], meters.step[:] = 1.0, 0.0, 0.0, 1e-9, 1e-9
        return meters

    def read(self, true: Mapping[str, float], seconds: float) -> dict[str, float]:
        """What every meter shows, so many s after it was last asked."""
        now = np.array([true[channel] for channel in self.channels])
        self.shown = now if self.shown is None else now + (self.shown - now) * np.exp(-seconds / self.lag_s)
        off = self.shown * self.gain + self.zero + self.noise * self.chance.standard_normal(len(now))
        return dict(zip(self.channels, (np.round(off / self.step) * self.step).tolist(), strict=True))
