"""A test of a true station by its meters, from the first step of a plan to the last: readings as a builder would take them."""

from collections.abc import Iterable, Iterator

import numpy as np

from kegcart.core.bench.instruments import Meters
from kegcart.core.bench.plan import PlanStep
from kegcart.core.bench.readings import Readings, Span
from kegcart.core.bench.truth import Setting, TrueStation

EARLY_S = 12.0
"""So long after a change every second is read, as long as the late part settles every few."""
SETTLES_S = 320.0
CHARGE_RATE = 0.2
TAIL_SHARE = 0.1
"""A charge is over when its current is down to this share of what it began with."""


def moments(seconds: float, every_s: float) -> Iterator[float]:
    """Slices, s, by which a step is read: short ones after its beginning."""
    t = 0.0
    while t < seconds - 1e-6:
        dt = 1.0 if t < EARLY_S else min(5.0, every_s) if t < SETTLES_S else every_s
        dt = min(dt, seconds - t)
        yield dt
        t += dt


def settings(step: PlanStep, true: TrueStation) -> Setting:
    """What is switched and set in a step."""
    bank = true.lane.banks[0]
    inverter = step.act in ("idle", "load", "run down") and true.station.inverter is not None
    setting = Setting(watts=step.watts, inverter=inverter, main=step.act != "zero")
    if step.act == "recharge":
        volts = sum(g.cells * bank.curve.fill_v[-1] for g in bank.groups)
        setting.supply_v, setting.supply_a = volts, CHARGE_RATE * bank.capacity_ah
    return setting


def run_trial(true: TrueStation, meters: Meters, steps: Iterable[PlanStep], every_s: float = 60.0) -> Readings:
    """Every step of a plan on a true station, read by its meters."""
    rows: list[dict[str, float]] = []
    times: list[float] = []
    spans: list[Span] = []
    for step in steps:
        setting, begin, ended = settings(step, true), true.seconds, ""
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
