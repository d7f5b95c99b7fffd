"""The faults that could be: each moves one figure of the station or of a meter, by how much is found out."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from kegcart.core.bench.diagnose.model import TestModel
from kegcart.core.bench.readings import Series

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


def faults_of(model: TestModel) -> Iterator[Suspect]:
    """Every fault that a station with these meters could have."""
    station, means = model.station, model.windows.means
    amps = float(np.abs(model.amps).max())
    hottest, longest = HOTTEST_W / max(amps, 1.0) ** 2, LONGEST * station.assumed["path"]
    for n, point in enumerate(station.points, 1):
        yield Suspect("loose", n, f"loose joint at the {point.name.lower()}", ((f"loose.{n}", hottest, False),), "Ω")
        yield Suspect("thin", n, f"wire to the {point.name.lower()} too thin, or too long", ((f"thin.{n}", longest, False),), "Ω")
    for n in range(1, model.series + 1):
        yield Suspect("weak", n, f"group {n} holds less than the others", ((f"room.{n}", -0.6, True),), "share")
        yield Suspect("wrong", n, f"a cell of another kind in group {n}: it resists more", ((f"share.{n}", 6.0, True),), "share")
    yield Suspect(
        "aged",
        0,
        "the pack is aged: it holds less and resists more",
        (("capacity", -0.8, True), ("resistance", 1.2, True)),
        "share",
    )
    yield Suspect("low", 0, "it was not full when the test began", (("charge", -0.6, False),), "share")
    yield Suspect("draw", 0, "something draws besides", (("draw", 120.0, False),), "W")
    if "air.c" in means:
        yield Suspect(
            "blocked",
            0,
            "the air of the box is blocked, or its fan stands still",
            (("walls", -0.8, True), ("air", -0.95, True)),
            "share",
        )
    for channel, words in (
        ("posts.a", "the shunt's meter reads wrong"),
        ("clamp.a", "the clamp reads wrong"),
        ("posts.v", "the voltmeter at the posts reads wrong"),
        ("end.v", "the voltmeter at the end of the path reads wrong"),
        ("load.w", "the meter of the load reads wrong"),
    ):
        if channel in means:
            yield Suspect(f"meter:{channel}", 0, words, ((f"gain.{channel}", 0.4, True),), "share", True)
    for n, point in enumerate(station.points, 1):
        if f"part.{n}.c" in means:
            yield Suspect(
                "thermometer",
                n,
                f"the thermometer at the {point.name.lower()} reads wrong",
                ((f"off.{n}", 40.0, False),),
                "K",
                True,
            )


SIZES = np.geomspace(0.02, 1.0, 5)
"""Shares of the greatest amount that are tried before the best is sought between them."""
