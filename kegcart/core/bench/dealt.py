"""A fault dealt to a true station by chance, large enough to be out of band: what a drill hides, and what diagnosing is proved on."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import partial
from random import Random

import numpy as np

from kegcart.core.bench.instruments import Meters
from kegcart.core.bench.station import BenchStation
from kegcart.core.bench.truth import TrueStation, Truth


@dataclass(frozen=True, slots=True)
class Ill:
    """A true station with one fault, or meters of which one is wrong. which: the part or group that it is about, from 1; 0: the whole. gains:
    by which channels show too much; offs: what they add."""

    hidden: Truth
    which: int = 0
    gains: Mapping[str, float] = field(default_factory=dict)
    offs: Mapping[str, float] = field(default_factory=dict)

    def meters(self, true: TrueStation, seed: int) -> Meters:
        """The meters at the station, each off as its kind is, and the wrong one by its fault."""
        meters = Meters(true.read(), np.random.default_rng(seed))
        for channel, gain in self.gains.items():
            meters.gain[meters.channels.index(channel)] *= gain
        for channel, off in self.offs.items():
            meters.zero[meters.channels.index(channel)] += off
        return meters


def amps_of(station: BenchStation) -> float:
    """About the current at the full load of the test, A."""
    bank = station.lane.banks[0]
    return station.load_w / sum(g.cells * bank.cell_voltage(g, 0.5) for g in bank.groups)


def one_of(many: int, chance: Random) -> int:
    """One of so many, counted from 1."""
    return chance.randrange(many) + 1


def loose(station: BenchStation, sound: Truth, chance: Random) -> Ill:
    """Ten kelvins and more at a joint."""
    which = one_of(len(station.points), chance)
    return Ill(replace(sound, loose={station.points[which - 1].key: chance.uniform(3, 6) / amps_of(station) ** 2}), which)


def thin(station: BenchStation, sound: Truth, chance: Random) -> Ill:
    """As much again as the whole main path, and more."""
    which = one_of(len(station.points), chance)
    more = chance.uniform(1.2, 2) * station.assumed["path"]
    return Ill(replace(sound, thin={station.points[which - 1].key: more}), which)


def weak(station: BenchStation, sound: Truth, chance: Random) -> Ill:
    """A group that holds a sixth to a third less."""
    which = one_of(len(sound.shares), chance)
    rooms = [1.0] * len(sound.shares)
    rooms[which - 1] -= chance.uniform(0.15, 0.35)
    return Ill(replace(sound, rooms=tuple(rooms)), which)


def wrong(station: BenchStation, sound: Truth, chance: Random) -> Ill:
    """A group that resists up to two and a half times as much."""
    which = one_of(len(sound.shares), chance)
    shares = list(sound.shares)
    shares[which - 1] *= 1 + chance.uniform(0.6, 1.5)
    return Ill(replace(sound, shares=tuple(shares)), which)


def aged(station: BenchStation, sound: Truth, chance: Random) -> Ill:
    """More than five times as far as its capacity may be off. Source: resistance rises 1.5 times as fast as capacity falls (typical)."""
    assumed = station.unknowns["capacity"].assumed
    lost = chance.uniform(5.5, 7) * assumed.sigma / assumed.value
    values = {"capacity": assumed.value * (1 - lost), "resistance": sound.values["resistance"] * (1 + 1.5 * lost)}
    return Ill(replace(sound, values={**sound.values, **values}))


def low(station: BenchStation, sound: Truth, chance: Random) -> Ill:
    """Not full when the test begins."""
    return Ill(replace(sound, charge=chance.uniform(0.6, 0.85)))


def draw(station: BenchStation, sound: Truth, chance: Random) -> Ill:
    """Something that draws besides."""
    return Ill(replace(sound, draw_w=chance.uniform(0.08, 0.2) * max(40.0, station.load_w * 0.1)))


def blocked(station: BenchStation, sound: Truth, chance: Random) -> Ill:
    """What the box lets out falls to a third."""
    walls = station.assumed["walls"] * chance.uniform(0.25, 0.36)
    return Ill(replace(sound, values={**sound.values, "walls": walls}, air=chance.uniform(0.05, 0.3)))


def meter(channel: str, least: float, most: float, station: BenchStation, sound: Truth, chance: Random) -> Ill:
    """A meter that shows too much or too little, by a share."""
    return Ill(sound, gains={channel: 1 + chance.choice((-1, 1)) * chance.uniform(least, most)})


def thermometer(station: BenchStation, sound: Truth, chance: Random) -> Ill:
    """A thermometer that shows some kelvins too much or too little."""
    which = one_of(len(station.points), chance)
    return Ill(sound, which, offs={f"part.{which}.c": chance.choice((-1, 1)) * chance.uniform(4, 10)})


Deal = Callable[[BenchStation, Truth, Random], Ill]
DEALT: dict[str, Deal] = {
    "loose": loose,
    "thin": thin,
    "weak": weak,
    "wrong": wrong,
    "aged": aged,
    "low": low,
    "draw": draw,
    "blocked": blocked,
    "meter:posts.a": partial(meter, "posts.a", 0.06, 0.15),
    "meter:clamp.a": partial(meter, "clamp.a", 0.08, 0.2),
    "meter:posts.v": partial(meter, "posts.v", 0.01, 0.03),
    "meter:end.v": partial(meter, "end.v", 0.01, 0.03),
    "meter:load.w": partial(meter, "load.w", 0.06, 0.15),
    "thermometer": thermometer,
}
"""What can be dealt, by the kind of the fault that would be found."""
WARMS_K = 5.0


def can_be_dealt(station: BenchStation) -> list[str]:
    """What would be out of band at a station: a box that hardly warms shows nothing of its air."""
    loss = station.lane.parts[station.inverter].loss if station.inverter is not None else None
    rise = (
        (loss.idle_w + (loss.linear + loss.square * station.load_w) * station.load_w) / station.assumed["walls"] if loss else 0.0
    )
    return [
        kind
        for kind in DEALT
        if (kind != "blocked" or rise > WARMS_K) and (station.points or kind not in ("loose", "thin", "thermometer"))
    ]


def true_figure(name: str, station: BenchStation, ill: Ill, meters: Meters) -> float:
    """What a figure of the diagnosis truly is at a station: what a hand that measured without error would find."""
    kind, _, rest = name.partition(".")
    hidden = ill.hidden
    match kind:
        case "gain":
            return float(meters.gain[meters.channels.index("cell.1.v" if rest == "cells" else rest)])
        case "off":
            return float(meters.zero[meters.channels.index(f"part.{rest}.c")])
        case "share":
            return hidden.shares[int(rest) - 1] if hidden.shares else 1.0
        case "room":
            groups = [g for g in station.lane.banks[0].groups for _ in range(round(g.cells))]
            return groups[int(rest) - 1].room * (hidden.rooms[int(rest) - 1] if hidden.rooms else 1.0)
        case "path":
            longer = hidden.values.get("path", station.assumed["path"]) / station.assumed["path"]
            return station.lane.parts[station.points[int(rest) - 1].place].ohm * longer
        case "loose" | "thin":
            more = hidden.loose if kind == "loose" else hidden.thin
            return more.get(station.points[int(rest) - 1].key, 0.0)
    of_hidden = {"charge": hidden.charge, "draw": hidden.draw_w, "air": hidden.air}
    return of_hidden[name] if name in of_hidden else hidden.values.get(name, station.assumed[name])
