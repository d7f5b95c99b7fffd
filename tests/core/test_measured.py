"""What was measured stands in the design in place of what was assumed: everywhere it counts, as long as it is still the same part."""

from dataclasses import replace
from datetime import date
from typing import Any
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.assess import Assessment
from kegcart.core.bench.instruments import Meters
from kegcart.core.bench.learn.station import learn
from kegcart.core.bench.plan import steps_of
from kegcart.core.bench.result import write_result
from kegcart.core.bench.station import station_of
from kegcart.core.bench.test_plan import TestPlanner
from kegcart.core.bench.tested import TestSaid, judge_measured, judge_test
from kegcart.core.bench.trial import run_trial
from kegcart.core.bench.truth import TrueStation, Truth
from kegcart.core.design import patched, write_design
from kegcart.core.figure import Figure, Sheet
from kegcart.core.forecast import forecast
from kegcart.core.lane import BENCH_DAY, heat_of, lane_of
from kegcart.core.measured import LABELS, OF_INVERTER, RANGES, UNITS, CannotPutInError
from kegcart.core.put_in import Found, patch_of, put_in
from tests import tried
from tests.core.samples import DEMO_NAMES, demo, judge, put, simulated

SOURCE, DAY = "load test, 29 Nov 2026", date(2026, 11, 29)
LANE = "lantern-lane"


def with_found(a: Assessment, **values: float) -> Assessment:
    """A design with these figures put in as measured."""
    found = [Found(key, value, 0.02 * value) for key, value in values.items()]
    return judge(write_design(patched(write_design(a.design), patch_of(a, a, found, SOURCE))))


def verdicts(a: Assessment) -> dict[str, str]:
    """How each measured figure stands."""
    return {check.place.rsplit("/", 1)[1]: check.verdict.value for check in judge_measured(a)}


class PutIn(TestCase):
    def test_the_bench_assumes_from_then_on_what_was_measured(self) -> None:
        for name in DEMO_NAMES:
            a = judge(demo(name))
            was = station_of(a)
            wanted = {key: value * (1.05 + 0.01 * n) for n, (key, value) in enumerate(was.assumed.items()) if key in UNITS}
            after = with_found(a, **wanted)
            now = station_of(after)
            for key, value in wanted.items():
                self.assertAlmostEqual(now.assumed[key] / value, 1, 9, f"{name}: {key}")
                self.assertAlmostEqual(now.unknowns[key].assumed.sigma / (0.02 * value), 1, 9, f"{name}: {key}")
            self.assertEqual(set(verdicts(after).values()), {"holds"}, name)
            self.assertEqual(verdicts(after).keys(), wanted.keys(), name)

    def test_what_follows_from_it_follows(self) -> None:
        a = judge(demo(LANE))
        after = with_found(a, resistance=0.0055, path=2 * station_of(a).assumed["path"], capacity=180, standing=2.8, idle=25)
        was, now = a.figures, after.figures
        self.assertEqual(now["pack/resistance"].number, 0.0055)
        self.assertEqual(now["pack/resistance"].basis.source, SOURCE)
        self.assertEqual(now["pack/resistance"].pointer, "/bench/measured/resistance/value")
        self.assertEqual(now["pack/fault"].number, was["pack/fault"].number, "a fault is by the least it can be")
        self.assertAlmostEqual(now["power/main_resistance"].number, 2 * was["power/main_resistance"].number, 5)
        self.assertAlmostEqual(now["pack/usable"].number / was["pack/usable"].number, 180 / 230)
        # Of what is drawn day and night the part on the path was found to be twice as much.
        drawn = sum(i.watts.number for i in a.power.idle if i.place.startswith("/power/network/"))
        self.assertEqual(drawn, 1.4)
        self.assertAlmostEqual(sum(i.watts.number for i in after.power.idle), sum(i.watts.number for i in a.power.idle) + drawn)
        inverter = a.power.ctx.tested_inverter
        assert inverter is not None
        more = after.power.inverters[inverter.key].curve.loss(700) - inverter.curve.loss(700)
        self.assertAlmostEqual(more, 25 - inverter.idle.number)

    def test_a_capacity_is_todays_on_the_bench_and_aged_where_years_are_planned(self) -> None:
        a = judge(demo("hollow-oak"))
        aged = a.figures["pack/age_factor"].number
        self.assertLess(aged, 1)
        after = with_found(a, capacity=44)
        self.assertEqual(station_of(after).lane.banks[0].capacity_ah, 44)
        self.assertAlmostEqual(lane_of(after, *BENCH_DAY).banks[0].capacity_ah, 44 * aged)

    def test_the_box_is_the_same_to_the_days_and_to_the_sheet(self) -> None:
        a = judge(demo(LANE))
        after = with_found(a, walls=6.0, box_heat=20_000)
        lane, heat = lane_of(after, *BENCH_DAY).around, heat_of(after, Sheet())
        assert heat is not None
        self.assertAlmostEqual(lane.walls_w_k, 6)
        self.assertAlmostEqual(lane.box_j_k, 20_000)
        self.assertAlmostEqual(lane.stirred_w_k, max(heat.still.number, heat.stirred.number))
        self.assertEqual((heat.still.number, heat.capacity.number), (6, 20_000))
        self.assertAlmostEqual(lane.draught_w, heat.draught.number if heat.draught else 0)

    def test_run_time_and_findings_are_told_before_it_is_put_in(self) -> None:
        a = judge(demo(LANE))
        out = put_in(a, a, [Found("capacity", 103.5, 2.0, 104.0), Found("resistance", 0.0040, 1e-4)], SOURCE, DAY)
        before, after = (figure["value"] for figure in out["run_time"])
        self.assertAlmostEqual(after / before, 0.5, delta=0.02)
        self.assertIn("loads.energy-short", {f["id"] for f in out["came"]} | {f["id"] for f in out["gone"]})
        self.assertEqual({e["kind"]: (e.get("capacity_ah"), e["on"]) for e in out["entries"]}["capacity"], (104, "2026-11-29"))
        self.assertEqual([e["resistance_mohm"] for e in out["entries"] if e["kind"] == "resistance"], [4])
        capacity = next(change for change in out["figures"] if change["before"]["symbol"] == "C")
        self.assertEqual((capacity["before"]["text"], capacity["after"]["text"]), ("230 Ah", "104 Ah"))

    def test_what_cannot_be_put_in_says_why(self) -> None:
        a = judge(demo("tidewater"))
        bad: list[tuple[str, float, str]] = [
            ("gain", 1.0, "no figure of a station"),
            ("idle", 12.0, "this station has no idle draw"),
            ("resistance", -0.001, "is between"),
            ("capacity", 1e6, "is between"),
            ("charger", 0.9, "several chargers, or none"),
        ]
        for key, value, why in bad:
            with self.assertRaises(CannotPutInError) as caught:
                patch_of(a, a, [Found(key, value)], SOURCE)
            self.assertIn(why, caught.exception.why)
        one = judge(demo(LANE))
        with self.assertRaisesRegex(CannotPutInError, "at most 1"):
            patch_of(one, one, [Found("charger", 1.2)], SOURCE)

    def test_a_charger_is_as_efficient_as_it_was_measured(self) -> None:
        a = judge(demo(LANE))
        after = judge(write_design(patched(write_design(a.design), patch_of(a, a, [Found("charger", 0.8512)], SOURCE))))
        self.assertEqual(after.charging.sources["mains"].efficiency.number, 0.8512)
        self.assertEqual(station_of(after).assumed["charger"], 0.8512)


class StillTheSamePart(TestCase):
    def test_what_was_measured_is_pinned_and_stands_whatever_is_plugged_in(self) -> None:
        a = judge(demo(LANE))
        after = write_design(with_found(a, path=0.006, resistance=0.0039, idle=20).design)
        for load in after["loads"]["items"].values():
            load["watts"] = 2 * (load["watts"] or 20)
        self.assertEqual(set(verdicts(judge(after)).values()), {"holds"})

    def test_another_part_is_another_part(self) -> None:
        """What was measured of another cable, pack or inverter is not used, said so, and used again when that is taken back."""
        a = judge(demo(LANE))
        data = write_design(with_found(a, path=0.006, resistance=0.0039, late_s=60, idle=20, walls=6, box_heat=2e4).design)
        spoiling: list[tuple[str, Any, set[str], str]] = [
            ("/pack/cell/resistance_mohm", 0.9, {"resistance", "late_s"}, "Ω"),
            ("/power/network/inverter/rating_w", 5000, {"idle"}, "W"),
            ("/box/case/wall_mm", 12, {"walls", "box_heat"}, "W/K"),
        ]
        network = data["power"]["network"]
        run = next(key for key in a.power.ctx.tested_way if network[key].get("run"))
        spoiling.append((f"/power/network/{run}/run/length_m", 3, {"path"}, "Ω"))
        for pointer, value, old, unit in spoiling:
            found = judge(put(data, pointer, value))
            self.assertEqual({key for key, said in verdicts(found).items() if said == "fails"}, old, pointer)
            assumed = station_of(judge(put(put(data, pointer, value), "/bench/measured", {}))).assumed
            for key in old:
                self.assertAlmostEqual(station_of(found).assumed[key], assumed[key], 4, key)
            said = [f for f in forecast(found).findings if f.id == "bench.measured-anew"]
            self.assertEqual(len(said), len(old))
            for finding in said:
                units = {figure.unit for name, figure in finding.figures.items() if name != "x"}
                self.assertEqual(units, {unit}, finding.text)
                gone = patched(write_design(found.design), finding.remedies[0].patch)
                self.assertNotIn(finding.place.rsplit("/", 1)[1], gone.bench.measured)

    def test_a_test_of_a_design_that_has_changed_since_is_put_in_as_of_then(self) -> None:
        then = judge(demo(LANE))
        now = judge(put(demo(LANE), "/box/case/wall_mm", 14))
        patch = patch_of(now, then, [Found("walls", 6.0)], SOURCE)
        after = judge(write_design(patched(write_design(now.design), patch)))
        self.assertEqual(verdicts(after), {"walls": "fails"})

    def test_a_figure_of_an_inverter_that_is_not_named_is_of_none(self) -> None:
        """Nothing holds that is not used: neither of another inverter, nor of one that is gone."""
        for part in ("", "ghost"):
            a = judge(put(demo(LANE), "/bench/measured", {"idle": {"value": 25, "part": part, "source": "typed in"}}))
            self.assertEqual(verdicts(a), {"idle": "fails"})
            self.assertNotEqual(station_of(a).assumed["idle"], 25)

    def test_what_was_typed_without_more_stands(self) -> None:
        data = put(demo(LANE), "/bench/measured", {"walls": {"value": 6, "source": "typed in"}})
        self.assertEqual(verdicts(judge(put(data, "/box/case/wall_mm", 14))), {"walls": "holds"})


class JudgedTests(TestCase):
    """What a load test said, among the findings of the build."""

    def said(self, truth: Truth, seed: int = 3) -> tuple[Assessment, TestSaid]:
        a = judge(demo(LANE))
        station = station_of(a)
        true = TrueStation(station, truth)
        steps = [step for step in steps_of(station) if step.key not in ("run-down", "rest-empty", "recharge")]
        readings = run_trial(true, Meters(true.read(), np.random.default_rng(seed)), steps)
        result = write_result(station, dict(TestPlanner(a).stop_lines()), readings)
        return a, TestSaid("t1", DAY, result)

    def texts(self, test: TestSaid, a: Assessment) -> dict[str, str]:
        checks = judge_test(test, a.design.bench.measured)
        return {f"{c.id} {c.place}": c.finding.text for c in checks if c.finding is not None}

    def test_a_sound_station_has_nothing_said_of_it(self) -> None:
        a, test = self.said(Truth())
        found = self.texts(test, a)
        self.assertEqual([key for key in found if not key.startswith("bench.model-differs")], [])

    def test_a_loose_joint_is_told_with_its_cause_and_a_stop_line_as_a_stop(self) -> None:
        a = judge(demo(LANE))
        point = station_of(a).points[1]
        a, test = self.said(Truth(loose={point.key: 0.004}))
        found = self.texts(test, a)
        band = next(text for key, text in found.items() if key.startswith("bench.out-of-band"))
        self.assertIn("29 Nov 2026", band)
        self.assertIn(f"Likeliest: loose joint at {point.name}"[:20].lower(), band.lower())
        line = next(text for key, text in found.items() if key.startswith("bench.over-limit"))
        self.assertIn(point.name, line)
        severities = {c.id: c.finding.severity.value for c in judge_test(test, {}) if c.finding}
        self.assertEqual((severities["bench.over-limit"], severities["bench.out-of-band"]), ("stop", "mend"))

    def test_what_differs_is_noted_until_it_is_put_in(self) -> None:
        a = judge(demo(LANE))
        real = replace(Truth(), values={"resistance": 2.2 * station_of(a).assumed["resistance"]})
        a, test = self.said(real)
        at = "bench.model-differs /bench/measured/resistance"
        self.assertIn("resistance of the pack", self.texts(test, a)[at])
        learned = next(item for item in test.said["learned"] if item["key"] == "resistance")
        value, doubt = (learned["figures"][name]["value"] for name in ("combined", "combined_doubt"))
        after = judge(write_design(patched(write_design(a.design), patch_of(a, a, [Found("resistance", value, doubt)], SOURCE))))
        self.assertNotIn(at, self.texts(test, after))

    def test_every_label_has_a_unit(self) -> None:
        self.assertEqual(list(LABELS), list(UNITS))
        self.assertIsInstance(Figure.of("x", 1.0, UNITS["walls"]).text, str)


class LearnedAgain(TestCase):
    def test_a_second_test_finds_what_the_first_put_in(self) -> None:
        """After it is put in, the design foretells the same station: nothing is further off than it is doubted, and doubts only shrink."""
        a = judge(demo(LANE))
        first = station_of(a)
        real = {
            key: value * factor for (key, value), factor in zip(first.assumed.items(), (1.3, 1, 1, 0.93, 1.2, 1.1), strict=False)
        }
        truth = Truth(values={key: value for key, value in real.items() if key != "gain"})

        def tested(found: Assessment, seed: int) -> dict[str, Any]:
            station = station_of(found)
            true = TrueStation(station, truth)
            readings = run_trial(true, Meters(true.read(), np.random.default_rng(seed)), steps_of(station))
            return {item.key: item for item in learn(station, readings)}

        learned = tested(a, 5)
        keys = [key for key, item in learned.items() if item.measured is not None and key in UNITS]
        figures = [Found(key, learned[key].combined.value, learned[key].combined.sigma) for key in keys]
        after = judge(write_design(patched(write_design(a.design), patch_of(a, a, figures, SOURCE))))
        self.assertGreater(len(keys), 8)
        for key, item in tested(after, 6).items():
            if key in keys:
                self.assertLessEqual(item.combined.sigma, learned[key].combined.sigma * 1.000001, key)
                self.assertLess(abs(item.combined.value - learned[key].combined.value), 4 * learned[key].combined.sigma, key)


class WhateverWasMeasured(TestCase):
    @tried(40, daily=4)
    @given(st.sampled_from(DEMO_NAMES), st.dictionaries(st.sampled_from(sorted(RANGES)), st.floats(0, 1), min_size=1))
    def test_any_possible_figures_are_simulated_and_judged(self, name: str, shares: dict[str, float]) -> None:
        """From one end of what is possible to the other nothing fails, and energy is neither made nor lost."""
        measured: dict[str, dict[str, Any]] = {}
        for key, share in shares.items():
            least, most = RANGES[key]
            measured[key] = {"value": min(most, least * (most / least) ** share), "source": "typed in"}
            if key in OF_INVERTER:
                measured[key]["part"] = "inverter"
        found = judge(put(demo(name), "/bench/measured", measured))
        self.assertEqual(set(verdicts(found)), set(measured))
        self.assertLess(abs(simulated(found, 1).balance), 0.01)
        for check in forecast(found).checks:
            self.assertIsNotNone(check.verdict)
