"""The forecast: what the builder is told before anything is built, of the coldest and of the hottest days."""

from typing import Any
from unittest import TestCase

from kegcart.core.assess import assess
from kegcart.core.catalogue import CATALOGUE
from kegcart.core.check import Verdict
from kegcart.core.design import read_design
from kegcart.core.finding import Severity
from kegcart.core.forecast import MOST_POINTS, Forecast, days_foreseen, forecast, write_course, write_forecast
from tests.core.samples import (
    BUILT,
    DEMO_NAMES,
    SIMULATED,
    TESTED,
    demo,
    document,
    judge,
    mended,
    put,
    simulated,
    two_banks,
    window,
)

LANE = "lantern-lane"
#: check -> changes to a sound build that make it fail
FORESEEN: dict[str, list[tuple[str, Any]]] = {
    "bench.trip": [("/power/network/inverter/surge_w", 900)],
    "bench.dark": [("/loads/items/fog-machine/windows", window(9, 22))],
    "bench.hiccup": [("/loads/items/fog-machine/windows", window(9, 22)), ("/power/network/inverter/restart_v", 22.5)],
    "charging.window": [("/charging/sources/mains/current_a", 5)],
}


def spoiled(check: str) -> dict[str, Any]:
    data = demo(LANE)
    for pointer, value in FORESEEN[check]:
        data = put(data, pointer, value)
    return data


SEASONS_AT = ("/brief/site_min_c", "/brief/site_max_c")


def foreseen(data: dict[str, Any]) -> Forecast:
    return forecast(judge(data))


class ForecastTest(TestCase):
    def test_each_check_fails_where_it_should_and_both_seasons_are_judged(self) -> None:
        self.assertEqual({id for id in CATALOGUE if id.startswith("bench.")} - TESTED | {"charging.window"}, set(FORESEEN))
        for check in FORESEEN:
            with self.subTest(check):
                found = foreseen(spoiled(check))
                self.assertIn(check, {f.id for f in found.findings})
                for id in FORESEEN:
                    places = [c.place for c in found.checks if c.id == id]
                    at_loads = {f"/loads/items/{key}" for key in found.assessment.design.loads.items} & set(places)
                    if id == "bench.dark" and at_loads:
                        self.assertLessEqual(set(places) - at_loads, set(SEASONS_AT))
                    else:
                        self.assertEqual(places, list(SEASONS_AT), id)
                for finding in found.findings:
                    self.assertIn(finding.severity, CATALOGUE[finding.id].severities)
                    self.assertNotIn("{", finding.text)

    def test_sound_builds_hold_in_both_seasons(self) -> None:
        for name in (LANE, "hollow-oak", "tidewater"):
            found = foreseen(demo(name))
            self.assertEqual([f.text for f in found.findings if f.severity is not Severity.NOTE], [], name)
            open_ids = {c.id for c in found.checks if c.verdict is not Verdict.HOLDS}
            self.assertLessEqual(open_ids, {"box.inside-allowance", "box.run-length", "assembly.price-missing"})

    def test_every_remedy_ends_its_finding_and_brings_no_stop(self) -> None:
        offered = 0
        for check in FORESEEN:
            data = spoiled(check)
            before = {(f.id, f.place) for f in judge(data).findings if f.severity == "stop"}
            for finding in foreseen(data).findings:
                for remedy in finding.remedies:
                    after = assess(read_design(mended(data, remedy.patch)))
                    with self.subTest(finding.id, remedy=remedy.label):
                        self.assertNotIn(finding.id, {f.id for f in forecast(after).findings})
                        self.assertLessEqual({(f.id, f.place) for f in after.findings if f.severity == "stop"}, before)
                    offered += 1
        self.assertGreater(offered, 3)

    def test_where_nothing_runs_nothing_is_said_to_hold(self) -> None:
        for data in (document(), put(demo("tidewater"), "/loads/items", {})):
            checks = foreseen(data).checks
            self.assertEqual(
                {c.verdict for c in checks if c.id not in ("charging.window", "box.run-length", *BUILT)}, {Verdict.OPEN}
            )

    def test_a_build_of_mistakes_says_what_happens_and_when(self) -> None:
        text = next(f.text for f in foreseen(demo("wobbly-stall")).findings if f.id == "bench.trip")
        self.assertIn("Over-current: the protection board opens at", text)
        self.assertIn("on day 1 at 12:00", text)

    def test_a_lock_in_the_cold_keeps_it_from_being_filled(self) -> None:
        data = put(put(demo("tidewater"), "/brief/site_min_c", -15), "/brief/site_max_c", 20)
        found = foreseen(put(data, "/pack/battery/cold_lock", True))
        cold = next(f for f in found.findings if f.id == "charging.window" and f.place == "/brief/site_min_c")
        self.assertIn("Charging is locked: cells at", cold.text)
        self.assertLess(found.figures["forecast/coldest/charged"].number, found.figures["forecast/hottest/charged"].number / 4)

    def test_a_disconnect_leaves_behind_what_stands_below_it(self) -> None:
        """13.0 V on a pack of 12.8 V: today's finding that nothing acted is that it stays dark."""
        data = put(demo("tidewater"), "/power/network/main-switch/cutoff_v", 13.4)
        found = foreseen(data)
        self.assertIn("Main switch cuts off at 13.4 V", next(f.text for f in found.findings if f.id == "bench.dark"))

    def test_what_stands_draws_counts(self) -> None:
        before = foreseen(demo("tidewater")).figures["forecast/hottest/standing"].number
        relay = put(put(demo("tidewater"), "/power/network/main-switch/relay", True), "/power/network/main-switch/coil_w", 1)
        after = foreseen(relay).figures["forecast/hottest/standing"].number
        self.assertAlmostEqual(after - before, 24 * demo("tidewater")["bench"]["days"], delta=0.5)

    def test_a_second_bank_is_run_like_the_pack(self) -> None:
        found = foreseen(two_banks())
        lowest = found.figures["forecast/hottest/house/lowest_charge"].number
        self.assertLess(lowest, 1)
        self.assertGreater(lowest, 0.5)

    def test_loads_that_switch_each_minute_do_not_hold_up_the_forecast(self) -> None:
        """Fewer days are run, and the course that is drawn keeps its extremes."""
        cycle = {"on_min": 0.5, "off_min": 0.5}
        pump = {"name": "Pump", "kind": "pump", "supply": "pack", "watts": 20, "windows": window(0, 24), "cycle": cycle}
        data = put(demo("tidewater"), "/bench/days", 14)
        found = judge(put(data, "/loads/items", {f"l{i}": pump for i in range(20)}))
        self.assertEqual(days_foreseen(found), 2)
        self.assertEqual(days_foreseen(judge(data)), 14)
        course = simulated(found, 1)
        drawn = write_course(course, found, "hottest")["series"]
        self.assertLessEqual(len(drawn["hour"]), MOST_POINTS + 2)
        self.assertAlmostEqual(max(drawn["current_a"]), max(course.banks[0].amps), places=3)
        self.assertAlmostEqual(drawn["hour"][-1], course.hour[-1], places=3)

    def test_it_is_written_as_plain_data(self) -> None:
        for name in DEMO_NAMES:
            out = write_forecast(foreseen(demo(name)))
            of_seasons = [c for c in out["checks"] if c["id"] in FORESEEN and not c["place"].startswith("/loads/items/")]
            self.assertTrue(all(c["about"] in ("The coldest days", "The hottest days") for c in of_seasons))
            self.assertEqual({c["id"] for c in out["checks"]} - {"box.airflow"}, {*FORESEEN, *SIMULATED, *BUILT})
        self.assertEqual(len(write_forecast(foreseen(document()))["checks"]), 2 * len(FORESEEN) + len(SIMULATED) + 1)
