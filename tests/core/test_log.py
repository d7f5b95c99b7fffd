"""What is recorded at the bench and how it is judged: a failed check stops what depends on it, a changed figure asks for it again."""

from dataclasses import replace
from datetime import date
from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.assembly.plan.acts import Measure
from kegcart.core.building import build_of
from kegcart.core.figure import Figure
from kegcart.core.log.bought import left_to_pay, still_to_buy
from kegcart.core.log.judging import LogJudged, judge_log, write_log
from kegcart.core.log.record import StepTick, read_value, read_values
from kegcart.core.log.standing import within
from tests import tried
from tests.core.samples import demo, judge, put

LANE, TODAY = "lantern-lane", date(2026, 11, 28)


class Bench:
    """A builder at the bench with a design: ticks steps, and asks how they stand."""

    def __init__(self, data: dict[str, Any]) -> None:
        self.record: dict[str, StepTick] = {}
        self.stand_before(data)

    def stand_before(self, data: dict[str, Any]) -> None:
        """The design as it is from now on."""
        self.found = judge(data)
        self.build = build_of(self.found)

    def judged(self) -> LogJudged:
        return judge_log(self.build, self.found.box, self.record, {}, TODAY)

    def tick(self, act: str, done: bool = True, **values: float | bool) -> None:
        digest = self.judged().standing[act].digest
        self.record[act] = StepTick(act, done, values, "", digest, "2026-11-20T10:00:00+00:00")

    def state(self, act: str) -> str:
        return self.judged().standing[act].state

    def all_done(self) -> None:
        """Every step with what is expected of it."""
        for step in self.build.steps:
            values: dict[str, float | bool] = {}
            for m in step.act.measures:
                middle = m.expected or m.most or m.least
                values[m.key] = middle.number if m.unit and middle else True
            self.tick(step.act.key, **values)

    def findings(self) -> dict[str, tuple[str, str]]:
        return {c.place: (c.finding.severity.value, c.finding.text) for c in self.judged().checks if c.finding}


class Judged(TestCase):
    def test_nothing_recorded_is_nothing_judged(self) -> None:
        bench = Bench(demo(LANE))
        self.assertEqual((bench.findings(), {s.state for s in bench.judged().standing.values()}), ({}, {"open"}))
        self.assertEqual(write_log(bench.judged())["figures"]["assembly/done"]["value"], 0)

    def test_a_build_done_as_expected_holds(self) -> None:
        for name in (LANE, "tidewater", "hollow-oak"):
            bench = Bench(demo(name))
            bench.all_done()
            self.assertEqual({s.state for s in bench.judged().standing.values()}, {"done"}, name)
            self.assertEqual(bench.findings(), {})
            self.assertEqual(write_log(bench.judged())["figures"]["assembly/done"]["value"], len(bench.build.steps))

    def test_what_fails_stops_what_depends_on_it_and_nothing_else(self) -> None:
        """A joint of 5 mΩ, a group 60 mV low, a reversed socket: by the order's own graph."""
        for act, value, likely in (
            ("wire:main-switch", {"drop": 20 * 5.0}, "a nut not at its torque"),
            ("pack:sense-check", {"lowest": 3.28, "highest": 3.34, "spread": 60.0}, "a group low in charge"),
            ("out:mixer-outlet", {"volts": -12.1}, "its wires changed places"),
            ("dry-fit", {"shuts": False}, "a post or lug under the lid"),
        ):
            with self.subTest(act):
                bench = Bench(demo(LANE))
                bench.tick(act, **value)
                depends = {step.act.key for step in bench.build.steps if act in bench.build.plan.earlier(step.act.key)}
                states = {key: s.state for key, s in bench.judged().standing.items()}
                self.assertEqual(states.pop(act), "failed")
                self.assertEqual({key for key, state in states.items() if state == "stopped"}, depends)
                self.assertEqual({state for key, state in states.items() if key not in depends}, {"open"})
                self.assertTrue(all(s.stopped_by == act for s in bench.judged().standing.values() if s.state == "stopped"))
                severity, text = bench.findings()[f"/assembly/steps/{act}"]
                self.assertEqual(severity, "mend")
                self.assertIn(likely, text)
                bench.tick(act, **{key: True if value[key] is False else 0.0 for key in value} | middle(bench, act))
                self.assertEqual(bench.state(act), "done")
                self.assertNotIn("stopped", {s.state for s in bench.judged().standing.values()})

    def test_a_step_done_on_top_of_a_failed_check_is_a_stop(self) -> None:
        bench = Bench(demo(LANE))
        bench.tick("wire:charge-fuse", drop=105.0)
        self.assertEqual(bench.findings()["/assembly/steps/wire:charge-fuse"][0], "mend")
        bench.tick("wire:main-switch", drop=5.0)
        severity, text = bench.findings()["/assembly/steps/wire:charge-fuse"]
        self.assertEqual(severity, "stop")
        self.assertIn("“Main fuse to Main switch” was done on top of it", text)
        self.assertIn("105 mV, at most 6.76 mV", text)

    def test_a_changed_figure_asks_for_its_step_again_and_for_no_other(self) -> None:
        for pointer, value, again in (
            # The main negative is as long as the positive runs together, and its lug comes off the post.
            ("/power/network/main-switch/run/length_m", 0.5, {"wire:main-switch", "wire:lead:negative:1", "post:pack:negative"}),
            ("/box/places/shunt/x_mm", demo(LANE)["box"]["places"]["shunt"]["x_mm"] + 2, {"fit:shunt"}),
            ("/power/network/usb-fuse/rating_a", 3, {"fuse:usb-fuse"}),
            ("/power/network/main-switch/name", "Isolator", set()),
            ("/assembly/evening_h", 5, set()),
            ("/assembly/prices/links", 4, set()),
        ):
            with self.subTest(pointer):
                bench = Bench(demo(LANE))
                bench.all_done()
                bench.stand_before(put(demo(LANE), pointer, value))
                states = bench.judged().standing
                self.assertEqual({key for key, s in states.items() if s.state == "again"}, again)
                self.assertEqual([severity for severity, _ in bench.findings().values()], ["mend"] if again else [])
                bench.all_done()
                self.assertEqual(bench.findings(), {})

    def test_what_was_recorded_of_a_step_that_is_gone_is_kept_and_counts_no_more(self) -> None:
        bench = Bench(demo(LANE))
        bench.all_done()
        data = demo(LANE)
        del data["power"]["network"]["ac-2"]
        data["loads"]["items"]["fog-machine"]["outlet"] = None
        bench.stand_before(data)
        self.assertNotIn("ac:out:ac-2", bench.judged().standing)
        self.assertIn("ac:out:ac-2", bench.record)
        self.assertEqual(bench.state("ac:out:ac-1"), "done")

    def test_what_is_only_noted_is_not_done(self) -> None:
        bench = Bench(demo(LANE))
        bench.record["dry-fit"] = replace(StepTick("dry-fit", False), remark="the lid is still at the painter's")
        self.assertEqual(bench.state("dry-fit"), "open")


def middle(bench: Bench, act: str) -> dict[str, float | bool]:
    """What a step's measures are expected to be."""
    out: dict[str, float | bool] = {}
    for m in bench.build.plan.acts[act].measures:
        figure = m.expected or m.least or m.most
        out[m.key] = figure.number if m.unit and figure else True
    return out


class Bought(TestCase):
    def test_what_is_left_is_what_a_grown_design_wants_more_than_was_bought(self) -> None:
        shopping = Bench(demo("tidewater")).build.shopping
        line = next(x for x in shopping.lines if x.price and x.buy.number >= 2 and not x.comes_with)
        whole = left_to_pay(shopping, {}).number
        self.assertAlmostEqual(whole, sum(x.cost.number for x in shopping.lines if x.cost), 2)
        for count in (0, 1, line.buy.number, line.buy.number + 5):
            left = max(0, line.buy.number - count)
            self.assertEqual(still_to_buy(line, {line.key: count}), left)
            paid = round(line.price.number * line.buy.number, 2) - round(line.price.number * left, 2)  # type: ignore[union-attr]
            self.assertAlmostEqual(left_to_pay(shopping, {line.key: count}).number, whole - paid, 2)
        self.assertEqual(left_to_pay(shopping, {x.key: 1e6 for x in shopping.lines}).number, 0)


class Reading(TestCase):
    def test_what_is_typed_is_read_in_any_unit_of_its_measure(self) -> None:
        for unit, typed, value in (
            ("mV", "2.6", 2.6), ("mV", "2,6 mV", 2.6), ("mV", "0.0026 V", 2.6), ("V", "26.4", 26.4), ("V", "26400 mV", 26.4), ("V", "−12.1", -12.1),
            ("MΩ", "20", 20), ("MΩ", "0.5 MΩ", 0.5), ("MΩ", "500 kΩ", 0.5), ("kΩ", "2 MΩ", 2000), ("kΩ", "900 Ω", 0.9), ("ohm", "0.4 Ω", 0.4),
            ("ohm", "400 mΩ", 0.4), ("ms", "28", 28), ("ms", "0.3 s", 300), ("V", 26, 26.0),
        ):  # fmt: skip
            read = read_value(Measure("x", "X", unit), typed)
            self.assertAlmostEqual(float(read if read is not None else 0), value, 9, f"{typed} in {unit}")
        self.assertIsNone(read_value(Measure("x", "X", "V"), ""))
        self.assertIs(read_value(Measure("x", "X"), False), False)

    def test_what_cannot_be_read_says_of_which_measure_and_why(self) -> None:
        """A milliohm is no megohm: a short must not be read as sound insulation."""
        act = build_of(judge(demo(LANE))).plan.acts["dead:insulation"]
        for values, said in (
            ({"insulation": "5 mΩ"}, "To the box: 'mΩ' is not a unit"),
            ({"insulation": "plenty"}, "To the box: 'plenty' is not a number"),
            ({"insulation": True}, "To the box: needs a figure in MΩ"),
            ({"nothing": 1}, "'nothing' is nothing that is measured"),
        ):
            with self.assertRaises(ValueError, msg=values) as caught:
                read_values(act, values)
            self.assertIn(said, str(caught.exception))
        looked = build_of(judge(demo(LANE))).plan.acts["dry-fit"]
        with self.assertRaisesRegex(ValueError, "needs yes or no"):
            read_values(looked, {"shuts": "yes"})

    @tried(200)
    @given(st.floats(-1e3, 1e3), st.none() | st.floats(-1e3, 1e3), st.none() | st.floats(-1e3, 1e3))
    def test_within_is_between_both_limits(self, value: float, least: float | None, most: float | None) -> None:
        def figure(limit: float | None) -> Figure | None:
            return None if limit is None else Figure.of("x", limit, "V")

        inside = (least is None or value >= least - 1e-9) and (most is None or value <= most + 1e-9)
        self.assertEqual(within(Measure("x", "X", "V", None, figure(least), figure(most)), value), inside)
