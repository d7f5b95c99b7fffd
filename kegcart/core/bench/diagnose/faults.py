"""The faults that could be: each moves one figure of the station or of a meter, by how much is found out."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from kegcart.core.bench.diagnose.model import TestModel
from kegcart.core.bench.readings import Series
from kegcart.core.bench.station import Point

HOTTEST_W, LONGEST = 60.0, 6.0
"""No joint is looked for that makes more heat than so many W, no run that resists more than so many times the whole path."""


@dataclass(frozen=True, slots=True)
class Suspect:
    """A fault: its kind, what of the station it is about (a number from 1, 0: the whole), in words, and the figures that it moves with the
    greatest amounts that are tried, from `least` of them on; amounts add to a figure, or are a share of it. unit: of what is told of it, with
    `shows`, what is moved, times its amount."""

    kind: str
    which: int
    words: str
    moves: tuple[tuple[str, float, bool], ...]
    unit: str
    two_ways: bool = False

    def at(self, figures: Series, model: TestModel, size: float) -> Series:
        """The figures with the fault at a share of the greatest amount."""
        moved = figures.copy()
        for name, most, relative in self.moves:
            n = model.at[name]
            moved[n] = figures[n] * (1 + size * most) if relative else figures[n] + size * most
        return moved

    def amount(self, size: float) -> float:
        """What is told of it: how far its first figure is moved, in the unit, or a share."""
        return self.moves[0][1] * size


METERS: Final[Mapping[str, str]] = {
    "posts.a": "the shunt's meter reads wrong",
    "clamp.a": "the clamp reads wrong",
    "posts.v": "the voltmeter at the posts reads wrong",
    "end.v": "the voltmeter at the end of the path reads wrong",
    "load.w": "the meter of the load reads wrong",
}


def words_of(kind: str, which: int, points: Sequence[Point]) -> str:
    """A fault in words: its kind, and the part or group that it is about, from 1."""
    name = points[which - 1].name.lower() if 1 <= which <= len(points) else ""
    return {
        "loose": f"loose joint at the {name}",
        "thin": f"wire to the {name} too thin, or too long",
        "weak": f"group {which} holds less than the others",
        "wrong": f"a cell of another kind in group {which}: it resists more",
        "aged": "the pack is aged: it holds less and resists more",
        "low": "it was not full when the test began",
        "draw": "something draws besides",
        "blocked": "the air of the box is blocked, or its fan stands still",
        "thermometer": f"the thermometer at the {name} reads wrong",
        **{f"meter:{channel}": words for channel, words in METERS.items()},
    }[kind]


def faults_of(model: TestModel) -> Iterator[Suspect]:
    """Every fault that a station with these meters could have."""
    station, means = model.station, model.windows.means
    amps = float(np.abs(model.amps).max())
    hottest, longest = HOTTEST_W / max(amps, 1.0) ** 2, LONGEST * station.assumed["path"]

    def suspect(kind: str, which: int, unit: str, *moves: tuple[str, float, bool], two_ways: bool = False) -> Suspect:
        return Suspect(kind, which, words_of(kind, which, station.points), moves, unit, two_ways)

    for n in range(1, len(station.points) + 1):
        yield suspect("loose", n, "Ω", (f"loose.{n}", hottest, False))
        yield suspect("thin", n, "Ω", (f"thin.{n}", longest, False))
    for n in range(1, model.series + 1):
        yield suspect("weak", n, "share", (f"room.{n}", -0.6, True))
        yield suspect("wrong", n, "share", (f"share.{n}", 6.0, True))
    yield suspect("aged", 0, "share", ("capacity", -0.8, True), ("resistance", 1.2, True))
    yield suspect("low", 0, "share", ("charge", -0.6, False))
    yield suspect("draw", 0, "W", ("draw", 120.0, False))
    if "air.c" in means:
        yield suspect("blocked", 0, "share", ("walls", -0.8, True), ("air", -0.95, True))
    for channel in METERS:
        if channel in means:
            yield suspect(f"meter:{channel}", 0, "share", (f"gain.{channel}", 0.4, True), two_ways=True)
    for n in range(1, len(station.points) + 1):
        if f"part.{n}.c" in means:
            yield suspect("thermometer", n, "K", (f"off.{n}", 40.0, False), two_ways=True)


SIZES = np.geomspace(0.02, 1.0, 5)
"""Shares of the greatest amount that are tried before the best is sought between them."""
