"""The one more measurement that would tell two faults apart: each is of a figure that a meter in the hand finds out."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from math import hypot
from typing import Protocol

from kegcart.core.bench.readings import Series
from kegcart.core.bench.station import BenchStation
from kegcart.core.reference import constant

MILLIVOLT, SHARE = 0.0005, 0.03
"""How far millivolts over a joint may be off: so many V, and a share, for probes never stand twice in one place."""


class Probed(Protocol):
    """What a list of measurements is made of."""

    station: BenchStation
    series: int
    amps: Series
    mean: Series
    at: dict[str, int]


@dataclass(frozen=True, slots=True)
class Probe:
    """A measurement: what it is in words, of which figures the sum, how uncertain it is, and in which unit; shows: what a meter shows for each
    of them, V for each Ω at the current of the test, or 1."""

    key: str
    words: str
    figures: tuple[str, ...]
    sigma: float
    unit: str
    shows: float = 1.0


def probes_of(model: Probed) -> Iterator[Probe]:
    """Every measurement that can be made by hand at a station."""
    amps = max(1.0, float(abs(model.amps).max()))
    for n, point in enumerate(model.station.points, 1):
        name, ohm = point.name.lower(), model.mean[model.at[f"path.{n}"]]
        at = f"at {amps:.0f} A"
        joint = hypot(MILLIVOLT / amps, SHARE * 2 * constant("joint_resistance"))
        yield Probe(f"terminals:{n}", f"millivolts over the terminals of the {name} {at}", (f"loose.{n}",), joint, "V", amps)
        sigma = hypot(MILLIVOLT / amps, SHARE * ohm)
        yield Probe(f"run:{n}", f"millivolts along the wire to the {name} {at}", (f"path.{n}", f"thin.{n}"), sigma, "V", amps)
        yield Probe(f"thermometer:{n}", f"a second thermometer at the {name}", (f"off.{n}",), 0.5, "K")
    for n in range(1, model.series + 1):
        yield Probe(f"cell:{n}", f"the sag of group {n} by another meter, load on and off", (f"share.{n}",), 0.05, "share")
        yield Probe(f"held:{n}", f"the charge that group {n} takes by itself", (f"room.{n}",), 0.015, "share")
    for channel, words in (
        ("posts.a", "the current by another shunt"),
        ("clamp.a", "the current by another clamp"),
        ("posts.v", "the voltage at the posts by another meter"),
        ("end.v", "the voltage at the end of the path by another meter"),
        ("load.w", "the load by another power meter"),
    ):
        yield Probe(f"meter:{channel}", words, (f"gain.{channel}",), 0.003, "share")
    yield Probe(
        "recount",
        "charged until its tail is seen, then run down and counted anew",
        ("capacity",),
        0.02 * model.mean[model.at["capacity"]],
        "Ah",
    )
    yield Probe("refill", "what it takes until its charger's current has fallen to its tail", ("charge",), 0.02, "share")
    yield Probe("unplugged", "the current with everything behind the main switch unplugged", ("draw",), 1.0, "W")
    yield Probe(
        "draught",
        "the air inside with the lid open and the fan's way free",
        ("walls",),
        0.15 * model.mean[model.at["walls"]],
        "W/K",
    )


def parts(probe: Probe, one: Mapping[str, float], other: Mapping[str, float]) -> float:
    """How far apart two faults are by a measurement, in its uncertainty. one, other: the figures with each."""
    return abs(sum(one[name] - other[name] for name in probe.figures)) / probe.sigma
