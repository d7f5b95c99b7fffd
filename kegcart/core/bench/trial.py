"""A test of a true station by its meters, from the first step of a plan to the last: readings as a builder would take them."""

from collections.abc import Iterable, Iterator

import numpy as np

from kegcart.core.bench.instruments import Meters
from kegcart.core.bench.plan import EARLY_S, SETTLES_S, TAIL_SHARE, PlanStep, Setting
from kegcart.core.bench.readings import Readings, Span
from kegcart.core.bench.truth import TrueStation


def moments(seconds: float, every_s: float) -> Iterator[float]:
    """Slices, s, by which a step is read: short ones after its beginning."""
    t = 0.0
    while t < seconds - 1e-6:
        dt = 1.0 if t < EARLY_S else min(5.0, every_s) if t < SETTLES_S else every_s
        dt = min(dt, seconds - t)
        yield dt
        t += dt


def run_trial(true: TrueStation, meters: Meters, steps: Iterable[PlanStep], every_s: float = 60.0) -> Readings:
    """Every step of a plan on a true station, read by its meters."""
    rows: list[dict[str, float]] = []
    times: list[float] = []
    spans: list[Span] = []
    for step in steps:
        setting, begin, ended = step.setting(true.station), true.seconds, ""
        true.set(setting)
        before = len(true.events)
        for dt in moments(step.seconds, every_s):
            true.advance(dt)
            now = true.read()
            rows.append(meters.read(now, dt))
            times.append(true.seconds)
            if step.until == "cut-off" and true.opened:
                ended = next((e.text for e in true.events[before:] if e.kind in ("cutoff", "trip")), "cut off")
                break
            if step.until == "full" and true.seconds - begin > SETTLES_S and now["supply.a"] < TAIL_SHARE * setting.supply_a:
                ended = "full"
                break
        spans.append(Span(step.key, begin, true.seconds, ended))
        true.set(Setting())
        if true.opened:
            true.reset()
    channels = {c: np.array([row.get(c, np.nan) for row in rows]) for c in (rows[0] if rows else {})}
    return Readings(np.array(times), channels, spans)
