"""How long a station runs a steady load from full, by the figures that are known of it."""

from collections.abc import Mapping
from dataclasses import replace

from kegcart.core.bench.rehearse import opens
from kegcart.core.bench.station import BenchStation, with_values
from kegcart.core.lane import NEVER_H
from kegcart.core.simulation.inputs import LoadDraw, Plan
from kegcart.core.simulation.run import simulate

LONGEST_H = 200.0


def run_hours(station: BenchStation, values: Mapping[str, float], watts: float, outside_c: float = 20.0) -> float:
    """Hours from full to the first cut-off under so many W at the test's socket; the longest that is looked at where nothing cuts off."""
    lane = with_values(station, values)
    load = LoadDraw("load", station.socket, watts, ((0.0, LONGEST_H),))
    plan = Plan(0.0, LONGEST_H, NEVER_H, NEVER_H, NEVER_H)
    run = simulate(replace(lane, loads=(load,), plan=plan, around=replace(lane.around, outside_c=outside_c)))
    ended = opens(run)
    return ended.hour if ended else LONGEST_H
