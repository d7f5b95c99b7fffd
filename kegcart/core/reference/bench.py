"""The bench's tables: how far a figure may be off before it is measured, and what instruments of a kind show."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache

from kegcart.core.reference import Row, read_table, row_basis


@dataclass(frozen=True, slots=True, eq=False)
class Doubt(Row):
    """Standard uncertainty of a figure before it is measured: a share of it, or in its own unit."""

    doubt: float
    share: bool

    def of(self, value: float) -> float:
        """The uncertainty of a value, in its unit."""
        return abs(value) * self.doubt if self.share else self.doubt


@cache
def doubts() -> Mapping[str, Doubt]:
    """Every doubt by its key."""
    return {
        r["key"]: Doubt(r["key"], r["label"], row_basis(r), float(r["doubt"]), r["share"] == "yes") for r in read_table("doubts")
    }


@dataclass(frozen=True, slots=True, eq=False)
class MeterType(Row):
    """What a kind of meter shows of the true value: off by a share (`gain`, standard uncertainty), by a fixed amount (`zero`), with noise
    from reading to reading, in steps, and late by its own time constant. channels: what it measures, a number between its words left
    out."""

    channels: tuple[str, ...]
    gain: float
    zero: float
    noise: float
    step: float
    lag_s: float


@cache
def meter_types() -> Mapping[str, MeterType]:
    """Every kind of meter by its key."""
    return {
        r["key"]: MeterType(
            r["key"],
            r["label"],
            row_basis(r),
            tuple(r["channels"].split()),
            *(float(r[name]) for name in ("gain", "zero", "noise", "step", "lag_s")),
        )
        for r in read_table("meters")
    }


@cache
def meter_of(channel: str) -> MeterType:
    """The kind of meter that shows a channel. Errors: KeyError."""
    bare = ".".join(word for word in channel.split(".") if not word.isdigit())
    return next((m for m in meter_types().values() if bare in m.channels), None) or _no_meter(channel)


def _no_meter(channel: str) -> MeterType:
    raise KeyError(f"no meter shows {channel}")
