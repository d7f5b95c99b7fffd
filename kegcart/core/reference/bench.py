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


@dataclass(frozen=True, slots=True)
class Ask:
    """A query that an instrument answers: its text, the channels that its answer gives in their order, the unit of the numbers, and by what
    they are multiplied. A `*` among the channels stands for each number of them, in the text for how many channels there are.
    optional: an instrument that does not know it is none the worse."""

    text: str
    channels: tuple[str, ...]
    unit: str
    scale: float = 1.0
    optional: bool = False


@dataclass(frozen=True, slots=True)
class InstrumentType:
    """A kind of instrument that is read over a line: what stands in its name, what it is asked, and the commands by which it acts, by what
    they do."""

    key: str
    label: str
    known_by: str
    asks: tuple[Ask, ...]
    acts: Mapping[str, str]


ACTS = (
    "load.power", "load.on", "load.off", "supply.volts", "supply.amps", "supply.on", "supply.off",
    "main.on", "main.off", "inverter.on", "inverter.off",
)  # fmt: skip
"""What an instrument can be told to do: load, supply and the switches of the station."""
CLOCK = "clock.s"
"""A channel that is no reading: the seconds that an instrument counts."""


@cache
def instrument_types() -> Mapping[str, InstrumentType]:
    """Every kind of instrument by its key, the most closely named first."""
    rows: dict[str, list[dict[str, str]]] = {}
    for row in read_table("instruments"):
        row_basis(row)
        rows.setdefault(row["key"], []).append(row)
    return {key: _instrument_type(key, of) for key, of in rows.items()}


def _instrument_type(key: str, rows: list[dict[str, str]]) -> InstrumentType:
    asks = tuple(
        Ask(r["text"], tuple(r["does"].split()), r["unit"], float(r["scale"]), r["optional"] == "yes")
        for r in rows
        if r["does"] not in ACTS
    )
    return InstrumentType(
        key, rows[0]["label"], rows[0]["known_by"], asks, {r["does"]: r["text"] for r in rows if r["does"] in ACTS}
    )
