"""Readings against what was expected and against the stop lines: what is as designed holds, what is not is named where it first was."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from kegcart.core.bench.comparing import compare, expected_of, stops_reached
from kegcart.core.bench.instruments import Meters
from kegcart.core.bench.plan import steps_of
from kegcart.core.bench.readings import Readings, Span
from kegcart.core.bench.station import station_of
from kegcart.core.bench.test_plan import TestPlanner
from kegcart.core.bench.trial import run_trial
from kegcart.core.bench.truth import TrueStation, Truth
from tests.core.samples import demo, judge


class AgainstTheDesign(TestCase):
    def test_a_station_as_designed_is_in_band_whatever_it_is_loaded_with(self) -> None:
        """The design is held against the loads as they were, not as they were planned; in other air too."""
        for name, share, outside in (("lantern-lane", 1.0, 20.0), ("lantern-lane", 0.85, 27.0), ("tidewater", 1.0, 20.0)):
            found = judge(demo(name))
            station = station_of(found)
            true = TrueStation(station, Truth(outside_c=outside))
            steps = [replace(step, watts=share * step.watts) for step in steps_of(station)]
            readings = run_trial(true, Meters.perfect(true.read()), steps)
            off = [
                (s.key, r.name) for s in compare(station, readings, expected_of(station, readings)) for r in s.readings if r.off
            ]
            self.assertEqual(off, [], name)
            self.assertEqual(stops_reached(dict(TestPlanner(found).stop_lines()), station, readings), [], name)

    def test_a_loose_joint_is_out_of_band_where_it_is(self) -> None:
        station = station_of(judge(demo("lantern-lane")))
        true = TrueStation(station, Truth(loose={station.points[1].key: 0.0012}))
        steps = [step for step in steps_of(station) if step.key not in ("run-down", "rest-empty", "recharge")]
        readings = run_trial(true, Meters.perfect(true.read()), steps)
        off = {
            (s.key, r.name): r for s in compare(station, readings, expected_of(station, readings)) for r in s.readings if r.off
        }
        self.assertEqual(off["load-100", "joint"].where, station.points[1].name)
        self.assertGreater(off["load-100", "joint"].read.number, 15)


class StopLines(TestCase):
    def reached(self, **channels: object) -> dict[str, tuple[float, str, float]]:
        """What is reached by readings every 10 s for 5 min, all as they should be but for what is given."""
        found = judge(demo("tidewater"))
        station, t = station_of(found), np.arange(0.0, 300.0, 10.0)
        cells = {f"cell.{n}.v": 3.3 for n in range(1, 5)}
        parts = {f"part.{n}.c": 25.0 for n in range(1, len(station.points) + 1)}
        usual = {"posts.v": 13.2, "posts.a": 8.0, "air.c": 22.0, "pack.c": 24.0, **cells, **parts}
        every = {
            name: np.broadcast_to(np.asarray(channels.get(name.replace(".", "_"), value), float), t.shape)
            for name, value in usual.items()
        }
        readings = Readings(t, every, [Span("load-50", 0.0, 300.0)])
        lines = dict(TestPlanner(found).stop_lines())
        return {r.line: (r.at_s, r.where, round(r.read.number, 3)) for r in stops_reached(lines, station, readings)}

    def rising(self, before: float, after: float, at: int) -> np.ndarray:
        return np.where(np.arange(30) < at, before, after)

    def test_each_line_is_told_where_it_was_first_reached(self) -> None:
        self.assertEqual(self.reached(), {})
        self.assertEqual(self.reached(cell_2_v=self.rising(3.3, 2.45, 7))["cell_low"], (70.0, "group 2", 2.45))
        self.assertEqual(self.reached(cell_4_v=self.rising(3.3, 3.7, 3))["cell_high"], (30.0, "group 4", 3.7))
        self.assertEqual(self.reached(cell_1_v=self.rising(3.3, 3.15, 5)), {"spread": (50.0, "group 1", 0.15)})
        self.assertEqual(self.reached(posts_v=self.rising(13.2, 9.9, 9)), {"posts_low": (90.0, "", 9.9)})
        self.assertEqual(self.reached(part_2_c=self.rising(25, 46, 4)), {"like": (40.0, "Main fuse", 21.0)})
        self.assertEqual(set(self.reached(part_2_c=self.rising(25, 66, 4))), {"like", "joint"})
        self.assertEqual(self.reached(pack_c=self.rising(24, 56, 20)), {"cells": (200.0, "", 56.0)})

    def test_a_surge_is_no_lasting_current_and_one_wild_reading_no_line(self) -> None:
        amps = np.full(30, 8.0)
        amps[5:9] = 20.0
        self.assertEqual(self.reached(posts_a=amps), {})
        amps[5:15] = 20.0
        self.assertEqual(self.reached(posts_a=amps), {"amps": (110.0, "", 20.0)})
        cell = np.full(30, 3.3)
        cell[12] = 1.0
        self.assertEqual(self.reached(cell_3_v=cell), {})
