"""What of a test is watched beside its channels, and how far a reading may lie from what the design expects of it.

Source: bands are practice: 30 % of the sag until the resistance is measured, 5 % of a current for the losses, half of a rise in temperature,
and the meters' own.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Final

import numpy as np

RISE_BAND, RISE_FLOOR_K = 0.5, 1.5
WATT_BAND, CLAMP_BAND, VOLT_BAND = 0.03, 0.04, 0.003
SAG_BAND = 0.3
"""Typical uncertainty of a pack's resistance before it is measured."""
CURRENT_BAND = 0.05
CLAMP_ZERO_A = 1.0
FLOORS: Final[Mapping[str, float]] = {"V": 0.01, "A": 0.3, "W": 2.0, "K": RISE_FLOOR_K, "°C": RISE_FLOOR_K}
"""No band is narrower than so much of its unit: meters show no more."""
CELL_V = 0.006
"""A cell's curve, and how late it follows."""


@dataclass(frozen=True, slots=True)
class Trace:
    """A figure of a test that is watched as it runs."""

    key: str
    label: str
    unit: str


TRACES: Final = (
    Trace("shunt", "current from the pack", "A"),
    Trace("posts", "voltage at the posts", "V"),
    Trace("joint", "warmest joint, over the air inside", "K"),
    Trace("cell", "lowest cell", "V"),
    Trace("load", "load", "W"),
    Trace("air", "air inside", "°C"),
    Trace("end", "voltage at the end of the path", "V"),
    Trace("clamp", "clamp", "A"),
)
CHANNEL_OF: Final = {"shunt": "posts.a", "posts": "posts.v", "load": "load.w", "air": "air.c", "end": "end.v", "clamp": "clamp.a"}


def cells_of(channels: Iterable[str]) -> list[str]:
    """The channels that are cells, in their order."""
    return [c for c in channels if c.startswith("cell.")]


def joints_of(channels: Iterable[str]) -> list[str]:
    """The channels that are the terminals of parts, in their order."""
    return [c for c in channels if c.startswith("part.")]


def traced(read: Mapping[str, Any]) -> dict[str, Any]:
    """What is watched, by the key of its trace, of channels read at one moment or at many: numbers or arrays alike."""
    out = {key: read[channel] for key, channel in CHANNEL_OF.items() if channel in read}
    if cells := cells_of(read):
        out["cell"] = np.min([read[c] for c in cells], axis=0)
    if "air.c" in read and (joints := joints_of(read)):
        out["joint"] = np.max([read[c] for c in joints], axis=0) - read["air.c"]
    return out


def band_of(trace: str, unit: str, expected: Any, rested_v: float, told: Mapping[str, Any], air_c: float) -> tuple[Any, str]:
    """How far a reading may lie from what is expected of it, and why: numbers or arrays alike.

    told: what the design expects of each channel at the same moments. rested_v, air_c: at the posts and inside when the test began.
    """
    posts = told["posts.v"]
    sag, own = abs(rested_v - posts), VOLT_BAND * rested_v
    match trace:
        case "posts":
            band, how = SAG_BAND * sag + own, f"{SAG_BAND:.0%} of the sag, and the meter's own"
        case "end":
            band, how = SAG_BAND * (sag + abs(posts - expected)) + own, f"{SAG_BAND:.0%} of sag and drop, and the meter's own"
        case "shunt":
            band, how = CURRENT_BAND * abs(expected), f"{CURRENT_BAND:.0%}, for the losses"
        case "clamp":
            band, how = CLAMP_BAND * abs(expected) + CLAMP_ZERO_A, "the clamp's own, with its zero"
        case "load":
            band, how = WATT_BAND * abs(expected), f"{WATT_BAND:.0%}"
        case "cell":
            band, how = SAG_BAND * sag / len(cells_of(told)) + CELL_V, f"{SAG_BAND:.0%} of a cell's sag, and its curve"
        case "joint":
            band, how = RISE_BAND * abs(expected), f"{RISE_BAND:.0%} of its rise"
        case "air":
            band, how = RISE_BAND * abs(expected - air_c), f"{RISE_BAND:.0%} of its rise"
        case _:
            raise KeyError(trace)
    return np.maximum(band, FLOORS[unit]), how
