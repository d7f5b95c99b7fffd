"""Readings as they are kept on disk: a stretch of time in one piece, each reading with its channel, its moment and its value as it was read."""

import zlib
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import numpy as np

from kegcart.core.bench.bands import CHANNEL_OF, cells_of, joints_of, traced

TICK_S = 1e-4
"""Moments are kept to the tenth of a millisecond."""
SPEED = 6
"""How hard it is packed: a compromise of time and room."""
Reading = tuple[float, str, float]


def packed(readings: Sequence[Reading], begin_s: float, channels: list[str]) -> bytes:
    """Readings (moment in s, channel, value) in one piece. channels: grows by those that are new."""
    places = {channel: n for n, channel in enumerate(channels)}
    for _, channel, _ in readings:
        if channel not in places:
            places[channel] = len(channels)
            channels.append(channel)
    at = np.array([places[channel] for _, channel, _ in readings], "<u2")
    moments = np.array([round((moment - begin_s) / TICK_S) for moment, _, _ in readings], "<u4")
    values = np.array([value for _, _, value in readings], "<f8")
    # In columns: what is alike stands together, and packs the better.
    return zlib.compress(at.tobytes() + moments.tobytes() + values.tobytes(), SPEED)


def unpacked(pieces: Iterable[tuple[float, bytes | memoryview]], channels: Sequence[str]) -> dict[str, tuple[Any, Any]]:
    """Readings of some pieces, each with the moment it begins at: by channel their moments, s, and values, in order of time."""
    at, moments, values = [], [], []
    for begin_s, content in pieces:
        raw = zlib.decompress(content)
        many = len(raw) // 14
        at.append(np.frombuffer(raw, "<u2", many))
        moments.append(np.frombuffer(raw, "<u4", many, 2 * many) * TICK_S + begin_s)
        values.append(np.frombuffer(raw, "<f8", many, 6 * many))
    if not at:
        return {}
    every, when, what = np.concatenate(at), np.concatenate(moments), np.concatenate(values)
    order = np.lexsort((when, every))
    every, when, what = every[order], when[order], what[order]
    bounds = np.searchsorted(every, np.arange(len(channels) + 1))
    return {
        channel: (when[bounds[n] : bounds[n + 1]], what[bounds[n] : bounds[n + 1]])
        for n, channel in enumerate(channels)
        if bounds[n] < bounds[n + 1]
    }


def extremes(moments: Any, values: Any, many: int) -> tuple[Any, Any]:
    """A course with so many points at most that shows every peak: of each stretch of time its least and its greatest, in their order."""
    if len(moments) <= many:
        return moments, values
    edges = np.linspace(moments[0], moments[-1], many // 2 + 1)
    begins = np.unique(np.clip(np.searchsorted(moments, edges[:-1]), 0, len(moments) - 1))
    least, most = np.minimum.reduceat(values, begins), np.maximum.reduceat(values, begins)
    ends = np.append(begins[1:], len(moments))
    keep = set[int]()
    for begin, end, low, high in zip(begins.tolist(), ends.tolist(), least.tolist(), most.tolist(), strict=True):
        part = values[begin:end]
        keep |= {begin + int(np.argmax(part == low)), begin + int(np.argmax(part == high))}
    order = np.array(sorted(keep))
    return moments[order], values[order]


def traces_of(read: Mapping[str, tuple[Any, Any]]) -> dict[str, tuple[Any, Any]]:
    """What is watched of readings by channel, each trace with its moments. Channels of one trace are taken at the moments of its first."""
    out = {key: read[channel] for key, channel in CHANNEL_OF.items() if channel in read}
    for key, parts in (("cell", cells_of(read)), ("joint", [*joints_of(read), "air.c"])):
        if all(part in read for part in parts) and len(parts) > (key == "joint"):
            moments = read[parts[0]][0]
            evened = {part: values_at(moments, *read[part]) for part in parts}
            out[key] = moments, traced(evened)[key]
    return out


def values_at(moments: Any, when: Any, what: Any) -> Any:
    """Values at other moments: each the last before it, the first before there is one."""
    if len(when) == len(moments) and np.array_equal(when, moments):
        return what
    return what[np.clip(np.searchsorted(when, moments, "right") - 1, 0, len(what) - 1)]
