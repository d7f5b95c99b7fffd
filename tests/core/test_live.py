"""A test as it is run: its steps, what stops it, what is kept of it. What is read must be what is judged, and nothing of it be lost."""

import json
from dataclasses import asdict
from random import Random
from typing import Any
from unittest import TestCase

import numpy as np

from kegcart.core.bench.bands import traced
from kegcart.core.bench.chunks import extremes, packed, traces_of, unpacked
from kegcart.core.bench.clock import HELD_S, TestClock
from kegcart.core.bench.comparing import stops_reached
from kegcart.core.bench.instruments import Meters
from kegcart.core.bench.live import LiveTest, RefusedCommandError, TestEvent, needs_hands, turned_round
from kegcart.core.bench.plan import Setting
from kegcart.core.bench.prepared import expected_now, prepare, run_steps, watch_of
from kegcart.core.bench.readings import Readings, Span
from kegcart.core.bench.run_file import RunFile, read_events, read_run_csv, read_run_file, write_run_csv, write_run_file
from kegcart.core.bench.station import station_of
from kegcart.core.bench.test_plan import TestPlanner
from kegcart.core.bench.thinning import Thinned
from kegcart.core.bench.truth import TrueStation, Truth
from kegcart.core.bench.watch import Watch
from kegcart.core.design import DesignError
from tests.core.samples import demo, judge

SHORT = ("zero", "standing", "idle", "load-25", "load-100", "rest")


class Bench:
    """A true station that a live test works, in steps of time as long as they need be."""

    def __init__(self, name: str, keys: tuple[str, ...], truth: Truth | None = None, *, by_itself: bool = True) -> None:
        self.found = judge(demo(name))
        self.station, self.prepared = station_of(self.found), prepare(self.found, keys)
        self.test = LiveTest(run_steps(self.prepared), watch_of(self.prepared), by_itself=by_itself)
        self.true = TrueStation(self.station, truth or Truth())
        self.meters = Meters.perfect(self.true.read())
        self.events: list[TestEvent] = []
        self.thinned, self.rows = Thinned(), list[tuple[float, dict[str, float]]]()
        self.set: Setting | None = None

    def go(self, seconds: float, every_s: float = 1.0) -> None:
        """Let time go by, read now and then; what is waited for is begun."""
        end = self.true.seconds + seconds
        while self.true.seconds < end and self.test.state in ("ready", "running"):
            if self.test.setting != self.set:
                self.set = self.test.setting
                if self.true.opened and not self.set.watts:
                    self.true.reset()
                self.true.set(self.set)
            if self.test.state == "ready" and self.test.waits:
                self.happened(self.test.command(self.true.seconds, "begin"))
                continue
            self.true.advance(every_s)
            now = self.meters.read(self.true.read(), every_s)
            self.rows.append((self.true.seconds, now))
            self.thinned.take(self.true.seconds, now)
            for event in self.test.take(self.true.seconds, now):
                self.happened(event)

    def happened(self, event: TestEvent) -> None:
        self.events.append(event)
        if event.kind in ("begin", "end", "stop", "pause", "go on"):
            self.thinned.begin(event.at_s)

    def kinds(self) -> list[str]:
        return [event.kind for event in self.events]


class Running(TestCase):
    def test_a_sound_station_goes_through_every_step_and_ends(self) -> None:
        bench = Bench("lantern-lane", ("zero", "standing", "idle", "load-50", "trip", "run-down", "rest-empty", "recharge"))
        bench.go(4 * 3600, 2.0)
        bench.go(40 * 3600, 20.0)
        self.assertEqual(bench.test.state, "over")
        ended = {span.step: span for span in bench.test.spans}
        self.assertEqual([s.step for s in bench.test.spans], [s.key for s in bench.test.steps])
        self.assertAlmostEqual(ended["load-50"].end_s - ended["load-50"].begin_s, 300, delta=4)
        self.assertEqual((ended["run-down"].ended, ended["recharge"].ended, ended["trip"].ended), ("cut off", "full", "cut off"))

    def test_steps_that_can_hurt_are_begun_by_hand_and_no_load_drops_between_others(self) -> None:
        bench = Bench("lantern-lane", SHORT)
        waited = [step.key for step in bench.test.steps if step.confirm]
        self.assertEqual(waited, ["zero", "idle"])
        bench.go(2000)
        self.assertEqual(bench.test.state, "over")
        loaded = [row["load.w"] for at, row in bench.rows if bench.test.spans[3].begin_s + 3 < at < bench.test.spans[4].end_s]
        self.assertGreater(min(loaded), 450)
        alone = Bench("lantern-lane", ("load-25", "load-50"), by_itself=False)
        alone.go(1)
        alone.test.take(1000.0, {})
        self.assertEqual((alone.test.state, alone.test.setting.watts), ("ready", 0.0))
        alone.test.take(2000.0, {})
        self.assertEqual(alone.test.state, "ready")

    def test_a_step_needs_hands_where_nothing_obeys(self) -> None:
        every, of_load = {"main", "inverter", "load", "supply"}, {"load"}
        for step in run_steps(prepare(judge(demo("lantern-lane")))):
            self.assertFalse(needs_hands(step.act, every, True), step.key)
            self.assertTrue(needs_hands(step.act, (), True), step.key)
        self.assertEqual(
            [needs_hands(act, of_load, False) for act in ("load", "rest", "zero", "recharge")], [False, False, True, True]
        )

    def test_a_stop_line_stops_the_load_at_once(self) -> None:
        station = station_of(judge(demo("lantern-lane")))
        bench = Bench("lantern-lane", SHORT, Truth(loose={station.points[1].key: 0.003}))
        bench.go(2000)
        self.assertEqual((bench.test.state, bench.kinds()[-1]), ("stopped", "stop"))
        stop = bench.events[-1].data
        self.assertEqual((stop["line"], stop["where"]), ("like", station.points[1].name))
        self.assertGreater(stop["value"], stop["limit"])
        self.assertEqual((bench.test.setting.watts, bench.test.setting.inverter), (0.0, False))
        self.assertLess(bench.rows[-1][0] - bench.events[-1].at_s, 2.5)
        self.assertEqual(bench.test.spans[-1].step, "load-100")

    def test_pause_goes_on_where_it_was_and_repeat_from_the_beginning(self) -> None:
        bench = Bench("lantern-lane", ("load-25", "load-50"))
        bench.go(100)
        bench.happened(bench.test.command(bench.true.seconds, "pause"))
        self.assertEqual(bench.test.setting.watts, 0.0)
        with self.assertRaisesRegex(RefusedCommandError, "cannot be done while the test is paused"):
            bench.test.command(bench.true.seconds, "begin")
        bench.happened(bench.test.command(bench.true.seconds + 50, "go on"))
        self.assertAlmostEqual(bench.test.left_s, 200, delta=2)
        bench.true.advance(50)
        bench.go(30)
        bench.happened(bench.test.command(bench.true.seconds, "repeat"))
        self.assertEqual((bench.test.state, bench.test.at, bench.test.left_s), ("ready", 0, 300.0))
        self.assertEqual([s.step for s in bench.test.spans], ["load-25"] * 2)
        for command in ("skip", "begin", "stop", "skip"):
            bench.test.command(bench.true.seconds, command)
        self.assertEqual(bench.test.state, "over")
        bench.test.command(bench.true.seconds, "note", {"text": "smells of nothing"})
        bench.test.command(bench.true.seconds, "finish")

    def test_a_load_that_drops_by_itself_ends_its_step_and_waits(self) -> None:
        bench = Bench("lantern-lane", ("load-25", "load-50"))
        bench.go(60)
        bench.true.set(Setting(inverter=False))
        bench.set = bench.test.setting
        bench.go(6)
        self.assertEqual([e.data.get("how") for e in bench.events], [None, "cut off", None])
        self.assertEqual(bench.test.spans[0].step, "load-25")

    def test_what_was_stored_makes_the_same_test_again(self) -> None:
        """A server that was killed takes it up where it stood: the state follows from the events alone."""
        chance = Random(5)
        commands = ("begin", "pause", "go on", "repeat", "skip", "stop", "note")
        for seed in range(20):
            prepared = prepare_lantern()
            test = LiveTest(run_steps(prepared), watch_of(prepared), by_itself=seed % 2 == 0)
            events, at = list[TestEvent](), 0.0
            for _ in range(60):
                at += chance.choice((1, 20, 400))
                try:
                    events += test.take(at, {"posts.v": 26.4, "load.w": test.setting.watts})
                    events.append(test.command(at, chance.choice(commands)))
                except RefusedCommandError:
                    continue
            again = LiveTest(run_steps(prepared), watch_of(prepared), by_itself=test.by_itself)
            for event in events:
                again.happens(TestEvent(event.at_s, event.kind, dict(event.data)))
            again.take(test.now_s, {})
            for name in ("state", "at", "begun_s", "held_s", "spans", "waits", "setting"):
                self.assertEqual(getattr(again, name), getattr(test, name), (seed, name))

    def test_steps_are_left_out_and_reordered_and_what_is_none_is_refused(self) -> None:
        found = judge(demo("lantern-lane"))
        self.assertEqual([s["key"] for s in prepare(found, ("soak", "zero"))["steps"]], ["soak", "zero"])
        with self.assertRaisesRegex(DesignError, "'sauna' is no step"):
            prepare(found, ("sauna",))
        with self.assertRaisesRegex(DesignError, "nothing can be tested yet"):
            prepare(judge(demo("lantern-lane") | {"loads": {"items": {}}, "power": {}}))

    def test_what_is_expected_is_what_a_station_as_designed_reads(self) -> None:
        """Also after a step was longer and its load smaller than planned."""
        bench = Bench("lantern-lane", SHORT)
        bench.go(2000)
        for span, course in zip(bench.test.spans, bench.prepared["courses"], strict=True):
            self.inside(bench, course, span.begin_s, span.end_s)
        steps = {s["key"]: s for s in bench.prepared["steps"]}
        as_run = [{**steps["load-25"], "watts": 300.0, "seconds": 900.0}]
        course = expected_now(bench.found, as_run, [steps["load-100"]], 20.0)[0]
        true = TrueStation(bench.station, Truth())
        true.set(Setting(watts=300.0, inverter=True))
        for _ in range(90):
            true.advance(10)
        true.set(Setting(watts=bench.station.load_w, inverter=True))
        true.advance(150)
        self.assertAlmostEqual(middle(course, "posts", 150), true.read()["posts.v"], delta=0.01)
        self.assertAlmostEqual(middle(course, "joint", 150), traced(true.read())["joint"], delta=0.1)

    def inside(self, bench: Bench, course: dict[str, object], begin_s: float, end_s: float) -> None:
        for at, row in bench.rows:
            if begin_s + 3 < at < end_s:
                for key, value in traced(row).items():
                    low, high = (
                        np.interp(at - begin_s, course["seconds"], course["traces"][key][s])  # type: ignore[index]
                        for s in ("low", "high")
                    )
                    self.assertTrue(low - 0.2 <= value <= high + 0.2, (course["key"], key, at, value))


def middle(course: dict[str, object], key: str, at_s: float) -> float:
    band = course["traces"][key]  # type: ignore[index]
    return float(sum(np.interp(at_s, course["seconds"], band[side]) for side in ("low", "high")) / 2)  # type: ignore[index]


_PREPARED: dict[str, object] = {}


def prepare_lantern() -> dict[str, object]:
    if not _PREPARED:
        _PREPARED.update(prepare(judge(demo("lantern-lane")), SHORT))
    return _PREPARED


class Watching(TestCase):
    def test_reading_by_reading_is_as_the_whole_table(self) -> None:
        """Instruments that are read one after another reach the lines that a table of all of them does."""
        found = judge(demo("lantern-lane"))
        station, lines = station_of(found), dict(TestPlanner(found).stop_lines())
        chance = np.random.default_rng(8)
        limits, points = {k: line.number for k, line in lines.items()}, [p.name for p in station.points]
        t = np.arange(0.0, 900.0, 5.0)
        for _ in range(10):
            walk = lambda start, step: start + np.cumsum(chance.normal(0, step, len(t)))  # noqa: E731
            channels = {"posts.v": walk(26, 0.15), "posts.a": walk(90, 6), "air.c": walk(25, 0.3), "pack.c": walk(40, 1.0)}
            channels |= {f"cell.{n}.v": walk(3.2, 0.02) for n in range(1, 9)}
            channels |= {f"part.{n}.c": walk(45, 1.5) for n in range(1, len(points) + 1)}
            whole = {(r.line, r.at_s, r.where) for r in stops_reached(lines, station, Readings(t, channels, []))}
            watch, apart = Watch(limits, points), set()
            groups = [("posts.v", "posts.a"), [c for c in channels if c.startswith("cell")]]
            groups.append([c for c in channels if c.endswith(".c")])
            for n, at in enumerate(t.tolist()):
                for group in groups:
                    apart |= {(p.line, p.at_s, p.where) for p in watch.take(at, {c: float(channels[c][n]) for c in group})}
            self.assertEqual(apart, whole)
            self.assertEqual(watch.take(900.0, {"posts.v": float("nan")}), [])

    def test_an_arrow_that_points_back_is_seen(self) -> None:
        self.assertEqual(turned_round({"posts.a": 50, "clamp.a": -49}), ["clamp.a"])
        self.assertEqual(turned_round({"posts.a": -50, "clamp.a": 49, "load.w": 1200}), ["posts.a"])
        self.assertEqual(turned_round({"posts.a": -50, "clamp.a": -49, "load.w": 1200}), ["posts.a", "clamp.a"])
        for sound in ({"posts.a": 50, "clamp.a": 49}, {"posts.a": -50, "clamp.a": -49}, {"posts.a": 1, "clamp.a": -2}, {}):
            self.assertEqual(turned_round(sound), [])


class Kept(TestCase):
    def test_readings_come_back_as_they_were(self) -> None:
        chance, channels = Random(2), ["posts.v"]
        readings = [
            (round(100 + n / 40, 4), chance.choice(("posts.v", "posts.a", "cell.3.v")), chance.uniform(-1e3, 1e3))
            for n in range(400)
        ]
        pieces = [(part[0][0], packed(part, part[0][0], channels)) for part in (readings[:150], readings[150:])]
        read = unpacked(pieces, channels)
        back = sorted(
            (round(at, 4), c, v) for c, (when, what) in read.items() for at, v in zip(when.tolist(), what.tolist(), strict=True)
        )
        self.assertEqual(back, sorted(readings))
        self.assertEqual(unpacked([], channels), {})

    def test_a_chart_with_few_points_shows_every_peak(self) -> None:
        t = np.arange(10_000) / 10
        v = np.sin(t / 40)
        v[[17, 5003, 9990]] = 5, -7, 9
        moments, values = extremes(t, v, 200)
        self.assertLessEqual(len(moments), 200)
        self.assertEqual((values.max(), values.min()), (9.0, -7.0))
        self.assertIn(5.0, values)
        self.assertTrue((np.diff(moments) > 0).all())

    def test_what_is_watched_of_channels_with_moments_of_their_own(self) -> None:
        t = np.arange(5.0)
        read = {"part.1.c": (t, t + 30), "part.2.c": (t, 40 - t), "air.c": (t[::2], np.array([20.0, 21.0, 22.0]))}
        _, values = traces_of(read | {"cell.1.v": (t, t / 9), "cell.2.v": (t, 1 - t / 9)})["joint"]
        self.assertEqual(values.tolist(), [20, 19, 17, 16, 14])
        self.assertEqual(traces_of({"part.1.c": (t, t)}), {})

    def test_thinned_readings_say_the_same(self) -> None:
        """Few enough to learn from, and of a step its first seconds and its end as fine as they were."""
        thinned, rows = Thinned(), []
        thinned.begin(0.0)
        for n in range(1, 40_001):
            at, value = n / 10, 3.0 + (0.5 if n < 120 else 0.0)
            rows.append((at, value))
            thinned.take(at, {"posts.v": value, "posts.a": at})
        thinned.begin(4000.0)
        read = thinned.readings([])
        self.assertLess(len(read.seconds), 200)
        self.assertTrue((np.diff(read.seconds) > 0).all())
        np.testing.assert_allclose(read.channels["posts.a"], read.seconds, atol=1e-6)
        self.assertEqual(np.count_nonzero(read.seconds < 12.0), 12)
        self.assertGreaterEqual(np.count_nonzero(read.seconds > 3960.0), 8)
        self.assertAlmostEqual(float(np.interp(10, read.seconds, read.channels["posts.v"])), 3.5, places=6)


class ReadOneByOne(TestCase):
    def test_what_stands_in_a_step_is_of_that_step_alone(self) -> None:
        """Instruments that are read at moments of their own: what the next step reads never reaches back over its beginning."""
        t = np.arange(1.0, 121.0)
        amps, volts = (
            np.where(t % 6 == 1, np.where(t <= 60, 10.0, 40.0), np.nan),
            np.where(t % 6 == 4, np.where(t <= 60, 27.0, 26.0), np.nan),
        )
        spans = [Span("load-25", 0.0, 60.0), Span("load-100", 60.0, 120.0)]
        whole = Readings(t, {"posts.a": amps, "posts.v": volts}, spans).filled()
        for span, read in zip(spans, ((10.0, 27.0), (40.0, 26.0)), strict=True):
            within = (t > span.begin_s) & (t <= span.end_s)
            for channel, value in zip(("posts.a", "posts.v"), read, strict=True):
                self.assertEqual(set(whole.channels[channel][within].tolist()), {value}, (span.step, channel))
        between = Readings(t, {"posts.a": np.where(t % 6 == 1, t, np.nan)}, []).filled()
        np.testing.assert_allclose(between.channels["posts.a"][:110], t[:110])


class Clock(TestCase):
    def test_an_instrument_that_counts_faster_sets_the_pace(self) -> None:
        clock = TestClock(100.0)
        self.assertTrue(clock.count(101.0, 7000.0))
        self.assertEqual([clock.count(101.0 + n / 10, 7000.0 + 6 * n) for n in range(1, 30)], [False] * 29)
        self.assertAlmostEqual(clock.rate, 60, places=6)
        self.assertAlmostEqual(clock.now(104.3), 1.0 + 198.0, places=3)

    def test_where_all_stalls_time_is_not_taken_to_run_away(self) -> None:
        clock = TestClock(100.0)
        for n in range(31):
            clock.count(101.0 + n / 10, 7000.0 + 6 * n)
        stalled = clock.now(124.0)
        self.assertAlmostEqual(stalled, 1.0 + 180.0 + 60 * HELD_S + 19.5, places=3)
        clock.count(124.0, 7200.0)
        self.assertEqual(clock.now(124.0), stalled, "it waits for what was stalled")
        clock.count(124.5, 7300.0)
        self.assertAlmostEqual(clock.now(124.5), 301.0)

    def test_time_never_goes_back_whatever_is_counted(self) -> None:
        chance = Random(3)
        clock, before, machine, counted = TestClock(0.0), 0.0, 0.0, 50.0
        for _ in range(3000):
            machine += chance.uniform(0, 0.5)
            counted = 0.0 if chance.random() < 0.01 else counted + chance.uniform(0, 20)
            clock.count(machine, counted)
            now = clock.now(machine + chance.uniform(0, 0.2))
            self.assertGreaterEqual(now, before)
            before = now

    def test_after_a_gap_the_count_goes_on_with_its_offset(self) -> None:
        clock = TestClock(0.0)
        clock.count(0.0, 1000.0)
        again = TestClock(500.0, at_s=60.0, offset_s=clock.offset_s, latest_s=60.0)
        self.assertFalse(again.count(500.0, 1180.0))
        self.assertAlmostEqual(again.now(500.0), 180.0)
        restarted = TestClock(500.0, at_s=60.0, offset_s=clock.offset_s, latest_s=60.0)
        self.assertTrue(restarted.count(500.0, 3.0))
        self.assertAlmostEqual(restarted.now(500.0), 60.0)
        self.assertEqual(asdict(restarted)["offset_s"], 57.0)


class Carried(TestCase):
    """The file of a test: it comes back as it was, and what was spoiled is refused in words."""

    def file(self, **changed: Any) -> RunFile:
        moment = "2026-05-03T10:00:00+00:00"
        events = [{"at_s": 1.0, "kind": "begin", "data": {"step": 0}}, {"at_s": 61.0, "kind": "end", "data": {"how": ""}}]
        data = {"begun_at": moment, "over_at": moment, "design": demo("lantern-lane"), "steps": list(SHORT), "events": events}
        return read_run_file(data | changed)

    def test_it_comes_back_as_it_was(self) -> None:
        file = self.file()
        again = read_run_file(json.loads(json.dumps(write_run_file(file))))
        self.assertEqual(again, file)
        self.assertEqual([e.kind for e in read_events(again, prepare_lantern())], ["begin", "end"])
        chance = Random(1)
        rows = [(n / 7, {c: chance.gauss(0, 9) for c in ("posts.v", "cell.8.v") if chance.random() < 0.7}) for n in range(50)]
        back = list(read_run_csv(write_run_csv(rows, ["posts.v", "cell.8.v"]), 8, 5))
        self.assertEqual([read for _, read in back], [read for _, read in rows])
        self.assertTrue(all(abs(a - b) < 1e-8 for (a, _), (b, _) in zip(back, rows, strict=True)))

    def test_what_was_spoiled_is_refused(self) -> None:
        def event(kind: str, **data: Any) -> dict[str, Any]:
            return {"events": [{"at_s": 1.0, "kind": kind, "data": data}]}

        line = {"line": "joint", "value": 41.0, "limit": 40.0, "where": "Main fuse"}
        for changed, where in (
            ({"format": "kegcart/design"}, "/format"), ({"steps": []}, "/steps"), ({"extra": 1}, "/extra"), (event("explode"), "/events/0/kind"),
            ({"begun_at": "yesterday"}, "/begun_at"), (event("note", text="x" * 501), "/events/0/data/text"), (event("begin", step=-1), "/events/0/data/step"),
        ):  # fmt: skip
            with self.assertRaises(DesignError) as caught:
                self.file(**changed)
            self.assertIn(where, [pointer for pointer, _ in caught.exception.problems])
        for changed, said in (
            (event("begin"), "nothing of its step"), (event("begin", step=6), "no such step"), (event("end"), "nothing of its how"),
            (event("stop", **line | {"line": "moon"}), "no line of this test"), (event("stop", line="joint"), "nothing of its value"),
            ({"events": [{"at_s": 1, "kind": "skip", "data": {}}] * 6 + [{"at_s": 2, "kind": "end", "data": {"how": ""}}]}, "no such step"),
        ):  # fmt: skip
            with self.assertRaisesRegex(DesignError, said):
                read_events(self.file(**changed), prepare_lantern())
        self.assertEqual(len(read_events(self.file(**event("stop", **line)), prepare_lantern())), 1)
        for text, said in (
            ("", "do not begin"), ("time (s),posts.v,posts.v\n", "do not begin"), ("time (s),cell.9.v\n", "'cell.9.v' is no channel"),
            ("time (s),posts.v\n1,2\n1,2\n", "line 3"), ("time (s),posts.v\n1,hot\n", "line 2"), ("time (s),posts.v\n1,nan\n", "line 2"),
            ("time (s),posts.v\n1\n", "line 2"), ("time (s),posts.v\n-1,2\n", "line 2"),
        ):  # fmt: skip
            with self.assertRaisesRegex(DesignError, said):
                list(read_run_csv(text, 8, 5))
