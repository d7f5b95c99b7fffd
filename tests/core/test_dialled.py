"""A fault dialled into the rehearsal shows where it should, does to the days what it does to the test, and is refused where there is none such."""

from unittest import TestCase

from kegcart.core.bench.asked import CannotDialError
from kegcart.core.bench.dialled import DIALS, dialled, dials_of, rehearsed, series_of
from kegcart.core.bench.hand import by_hand, slope_at
from kegcart.core.bench.learn.estimate import RefusedError
from kegcart.core.bench.plan import RUN_DOWN_SHARE
from kegcart.core.bench.runtime import run_hours
from kegcart.core.bench.station import station_of
from kegcart.core.bench.truth import Truth, ailing
from tests.core.samples import demo, document, judge, put

LANE = "lantern-lane"
SHOWS = {
    "loose": "joint",
    "weak": "lasted",
    "wrong": "cell",
    "corner": "lasted",
    "aged": "lasted",
    "low": "posts",
    "draw": "shunt",
    "meter:posts.a": "shunt",
    "meter:clamp.a": "clamp",
    "meter:posts.v": "posts",
    "meter:load.w": "load",
}
"""What would be out of band in the test of the first demo, by the fault at its usual size."""


class Dialled(TestCase):
    def test_each_shows_where_it_is_and_nowhere_it_is_not(self) -> None:
        a = judge(demo(LANE))
        for kind, reading in SHOWS.items():
            dial = DIALS[kind]
            out = dialled(a, kind, 3 if dial.of else 0, dial.usual)
            off = [(r["name"], r["where"]) for step in out["steps"] for r in step["readings"] if r["off"]]
            self.assertIn(reading, {name for name, _ in off}, kind)
            where = {where for name, where in off if name == reading and where}
            if dial.of == "part":
                self.assertEqual(where, {station_of(a).points[2].name}, kind)
            if kind == "wrong":
                self.assertEqual(where, {"group 3"})

    def test_nothing_dialled_is_the_sound_station(self) -> None:
        a = judge(demo(LANE))
        out = dialled(a, "low", 0, 1.0)
        self.assertFalse([r for step in out["steps"] for r in step["readings"] if r["off"]])
        self.assertEqual(out["stops"], [])
        for season in out["days"]:
            for figure in season["figures"]:
                self.assertAlmostEqual(figure["before"]["value"], figure["after"]["value"], 6, figure["label"])

    def test_run_time_is_that_of_the_figures(self) -> None:
        """An aged pack by the true station, and by the simulation with those figures: two ways to one time."""
        a = judge(demo(LANE))
        station = station_of(a)
        was = station.assumed
        out = dialled(a, "aged", 0, 0.3)
        values = {"capacity": 0.7 * was["capacity"], "resistance": 1.45 * was["resistance"]}
        watts = RUN_DOWN_SHARE * station.load_w
        sound, ill = (figure["value"] for figure in out["run_time"])
        # What the steps before the run-down take is the same of both.
        before = run_hours(station, {}, watts) - sound
        self.assertAlmostEqual(ill / (run_hours(station, values, watts) - before), 1, delta=0.05)

    def test_the_days_are_the_worse_the_larger_it_is(self) -> None:
        a = judge(demo(LANE))
        lowest = []
        for gone in (0.05, 0.2, 0.4):
            season = dialled(a, "corner", 2, gone)["days"][0]
            figures = {f["label"]: f["after"]["value"] for f in season["figures"]}
            lowest.append(figures["lowest charge"])
        self.assertEqual(lowest, sorted(lowest, reverse=True))

    def test_a_lane_with_a_fault_has_it_where_it_is(self) -> None:
        station = station_of(judge(demo(LANE)))
        lane, points = station.lane, station.points
        worse = ailing(lane, station, Truth({"capacity": 100.0}, loose={points[1].key: 0.003}, draw_w=7, air=0.5))
        self.assertEqual(worse.banks[0].capacity_ah, 100)
        self.assertAlmostEqual(worse.parts[points[1].place].ohm, lane.parts[points[1].place].ohm + 0.003)
        self.assertEqual(worse.parts[points[0].place].draw_w, lane.parts[points[0].place].draw_w + 7)
        self.assertAlmostEqual(worse.around.fans[0].w_k, lane.around.fans[0].w_k / 2)
        self.assertEqual(len(rehearsed(station, DIALS["corner"].ill(station, 1, 0.5)).spans), 12)

    def test_what_there_is_not_is_refused(self) -> None:
        a = judge(demo(LANE))
        bad = [("ghost", 0, 1.0, "kind"), ("loose", 0, 0.001, "which"), ("weak", 9, 0.2, "which"), ("weak", 1, 0.95, "size")]
        for kind, which, size, field in bad:
            with self.assertRaises(CannotDialError) as caught:
                dialled(a, kind, which, size)
            self.assertEqual(caught.exception.field, field)
        self.assertEqual(dials_of(judge(document())), [])
        self.assertEqual({len(d["of"]) for d in dials_of(a)}, {0, 5, series_of(station_of(a))})


class ByHand(TestCase):
    def said(self, kind: str, drops: tuple[float, ...] = (), **values: float) -> dict[str, str]:
        out = by_hand(judge(demo(LANE)), kind, values, drops)
        return {figure["label"]: figure["text"] for figure in out["figures"]}

    def test_a_rise_settles_as_in_the_worked_example(self) -> None:
        found = self.said("rise", around=20, first=29.6, second=35.4, third=38.9, every=10, watts=118)
        self.assertEqual(list(found.values()), ["24.2 K", "19.8 min", "0.205 K/W"])
        self.assertEqual(len(self.said("rise", around=20, first=29.6, second=35.4, third=38.9, every=10)), 2)
        with self.assertRaisesRegex(RefusedError, "does not level off"):
            self.said("rise", around=20, first=22, second=25, third=29, every=10)

    def test_a_joint_is_bad_by_its_like(self) -> None:
        out = by_hand(judge(demo(LANE)), "joints", {"amps": 111.7}, (11.2, 10.9, 12.0, 223.4))
        self.assertEqual([(j["ohm"]["text"], j["bad"]) for j in out["joints"]][2:], [("0.107 mΩ", False), ("2 mΩ", True)])
        self.assertEqual(out["joints"][3]["heat"]["text"], "25 W")
        with self.assertRaisesRegex(RefusedError, "50 A or more"):
            self.said("joints", (1.0,), amps=20)

    def test_a_sag_by_three_voltages(self) -> None:
        """The worked example, with the slope of its curve in place of the design's own."""
        station = station_of(judge(demo(LANE)))
        k = slope_at(station, 26.4)
        fallen = [(k - 0.00386) * 100 * t / 3600 for t in (1, 60, 300)]
        sags = [d + more for d, more in zip((0.2332, 0.3395, 0.4020), fallen, strict=True)]
        early, middle, late = (26.4 - d for d in sags)
        found = self.said("sag", amps=100, rested=26.4, early=early, middle=middle, late=late)
        self.assertEqual(list(found.values()), ["3.7 mΩ", "2.3 mΩ", "1.4 mΩ", "37.8 %", "44.9 s"])

    def test_the_curve_falls_as_the_design_has_it(self) -> None:
        station = station_of(judge(put(demo(LANE), "/pack/age_factor", 1.0)))
        bank = station.lane.banks[0]
        at = {s: sum(g.cells * bank.cell_voltage(g, s) for g in bank.groups) for s in (0.5, 0.55, 0.6)}
        self.assertAlmostEqual(slope_at(station, at[0.55]), (at[0.6] - at[0.5]) / (0.1 * bank.capacity_ah), 6)
