"""Loads over several days and measured in other ways. What is summed wrongly here is a pack that is too small."""

from typing import Any
from unittest import TestCase

from hypothesis import given

from kegcart.core.assess import assess
from kegcart.core.design import Design, read_design
from kegcart.core.loads.document import Loads
from kegcart.core.loads.profile import Day
from kegcart.core.pack.suggest import asked_class, candidates, serves, suggest
from kegcart.core.power.path.edits import release_cutoffs
from kegcart.core.reference import appliances, load_kinds
from kegcart.core.whatif import as_built, with_growth
from tests import tried
from tests.core.samples import DEMO_NAMES, demo, designs, document, ids, judge, mended, put, simulated, window


def load(**changes: Any) -> dict[str, Any]:
    return {"name": "Lamp", "kind": "heater", "supply": "pack", "watts": 100, "windows": window(10, 12)} | changes


def figures(items: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {path: f.value for path, f in judge(document(loads={"items": items, **more})).figures.items()}


class PatternsOfDays(TestCase):
    def test_a_load_on_one_day_of_three_counts_a_third_in_the_mean(self) -> None:
        out = figures({"a": load(days=[2])}, days=3)
        self.assertAlmostEqual(out["loads/a/energy"], 200 / 3)
        self.assertAlmostEqual(out["loads/energy_day"], 200 / 3)

    def test_the_fullest_day_is_what_the_pack_must_hold(self) -> None:
        data = document(loads={"items": {"a": load(days=[2]), "b": load(watts=10)}, "days": 3})
        quiet = document(loads={"items": {"b": load(watts=10)}})
        full, least = judge(data), judge(quiet)
        self.assertGreater(full.figures["loads/energy_fullest"].number, 219)
        self.assertGreater(full.pack.capacity.number, 0)
        self.assertGreater(
            full.figures["loads/drawn_away_estimate"].number, 10 * least.figures["loads/drawn_away_estimate"].number
        )

    def test_a_trip_adds_its_days(self) -> None:
        data = document(brief={"ready_h": 8, "hours_away": 72}, loads={"items": {"a": load()}, "days": 3})
        self.assertAlmostEqual(judge(data).figures["loads/drawn_away_estimate"].number, 600)

    def test_a_window_past_midnight_runs_into_the_next_day_and_at_last_into_the_first(self) -> None:
        items = {"a": load(windows=window(22, 2), days=[1, 3])}
        day = Day.of(Loads.model_validate({"items": items, "days": 3}))
        on = [(a, b) for a, b, is_on in zip(day.edges_h, day.edges_h[1:], day.on["a"], strict=False) if is_on]
        self.assertEqual(on, [(0, 2), (22, 26), (70, 72)])
        self.assertAlmostEqual(day.hours_on("a"), 8 / 3)

    def test_the_week_names_its_days(self) -> None:
        out = figures({"a": load(days=[6])}, days=7, weekdays=True)
        self.assertEqual(out["loads/peak_at"], "Saturday, 10:00")

    def test_days_beyond_the_pattern_are_kept_and_do_not_count(self) -> None:
        self.assertEqual(figures({"a": load(days=[1, 9])}, days=3)["loads/a/hours"], 2 / 3)

    def test_the_simulation_follows_the_pattern(self) -> None:
        items = {"a": load(days=[2], watts=60)}
        data = document(loads={"items": items, "days": 3}, brief={"ready_h": 8, "hours_away": 16}, bench={"days": 3})
        data = put(
            data,
            "/power/network",
            {"f": {"part": "protection", "name": "F", "feed": "pack"}, "o": {"part": "outlet", "name": "O", "feed": "f"}},
        )
        run = simulated(judge(data))
        self.assertAlmostEqual(run.delivered_wh, 120, delta=0.5)
        busy = [h for h, w in zip(run.hour, run.delivered_w, strict=True) if w > 0]
        self.assertTrue(all(34 <= h <= 36 for h in busy))

    @tried(200)
    @given(designs())
    def test_a_pattern_of_like_days_is_one_day(self, design: Design) -> None:
        data = design.model_dump(mode="json")
        for item in data["loads"]["items"].values():
            item["days"] = None
        one = put(put(data, "/loads/weekdays", False), "/loads/days", 1)
        three = put(one, "/loads/days", 3)
        a, b = judge(one), judge(three)
        for path in ("loads/energy_day", "power/drawn_day", "power/drawn_away", "power/current", "pack/usable"):
            self.assertAlmostEqual(a.figures[path].number, b.figures[path].number, delta=1e-6 * max(1, a.figures[path].number))


class WaysOfMeasuring(TestCase):
    def watts(self, measured: dict[str, Any], **changes: Any) -> float:
        return float(figures({"a": load(watts=None, measured=measured, **changes)})["loads/a/watts"])

    def test_volts_and_amps(self) -> None:
        self.assertAlmostEqual(self.watts({"by": "volts_amps", "volts": 12, "amps": 2.5}), 30)
        ac = {"by": "volts_amps", "volts": 230, "amps": 2}
        self.assertAlmostEqual(self.watts(ac, supply="ac", power_factor=0.5), 230)

    def test_a_plug_in_meter_over_hours(self) -> None:
        self.assertAlmostEqual(self.watts({"by": "meter", "wh": 1.2e3, "hours": 24}), 50)

    def test_a_meter_on_something_that_cycles_gives_its_power_while_it_runs(self) -> None:
        cycle = {"on_min": 8, "off_min": 16}
        self.assertAlmostEqual(self.watts({"by": "meter", "wh": 440, "hours": 24}, cycle=cycle), 55)
        out = figures(
            {"a": load(watts=None, measured={"by": "meter", "wh": 440, "hours": 24}, cycle=cycle, windows=window(0, 24))}
        )
        self.assertAlmostEqual(out["loads/a/energy"], 440)

    def test_a_battery_and_how_often_it_is_charged(self) -> None:
        measured = {"by": "charging", "battery_wh": 90, "charges": 2, "efficiency": 0.9}
        self.assertAlmostEqual(self.watts(measured), 100)
        self.assertAlmostEqual(figures({"a": load(watts=None, measured=measured, count=3)})["loads/a/energy"], 600)
        self.assertEqual(self.watts(measured, windows={}), 0)

    def test_kwh_are_read_as_typed(self) -> None:
        self.assertAlmostEqual(self.watts({"by": "meter", "wh": "0,6 kWh", "hours": "12 h"}), 50)


class StartGroups(TestCase):
    def items(self, group: str | None) -> dict[str, Any]:
        motor = load(kind="induction", surge=6, start_group=group)
        return {"a": motor, "b": motor | {"name": "Other"}}

    def test_two_motors_start_together_only_if_the_builder_says_so(self) -> None:
        apart, together = figures(self.items(None)), figures(self.items("A"))
        self.assertAlmostEqual(apart["loads/surge"], 200 + 500)
        self.assertAlmostEqual(together["loads/surge"], 200 + 1000)

    def test_the_pack_feels_both(self) -> None:
        def surge(group: str | None) -> float:
            data = put(demo("lantern-lane"), "/loads/items/cooler/start_group", group)
            data = put(data, "/loads/items/mixer/start_group", group)
            data = put(put(data, "/loads/items/mixer/surge", 20), "/loads/items/cooler/surge", 20)
            return judge(data).power.parts["fuse-block"].surge.number

        self.assertGreater(surge("B"), surge(None))

    def test_those_that_never_run_at_once_do_not_add(self) -> None:
        items = self.items("A")
        items["b"]["windows"] = window(15, 16)
        self.assertAlmostEqual(figures(items)["loads/surge"], 100 + 500)


class Judged(TestCase):
    def test_mains_of_the_plate(self) -> None:
        for mains, plate, speaks in (
            ("230 V 50 Hz", "120 V 60 Hz", True), ("230 V 50 Hz", "any", False), ("120/240 V split-phase", "240 V 60 Hz", False),
            ("120/240 V split-phase", "230 V 50 Hz", True), ("120 V 60 Hz", None, False),
        ):  # fmt: skip
            data = document(brief={"mains": mains}, loads={"items": {"a": load(supply="ac", mains=plate)}})
            self.assertEqual("loads.mains-mismatch" in ids(data), speaks, f"{plate} on {mains}")

    def test_feeding_directly_saves_what_the_finding_says(self) -> None:
        data = put(demo("lantern-lane"), "/loads/items/projector/direct", "dc_12v")
        before = judge(data)
        found = next(f for f in before.findings if f.id == "loads.double-conversion")
        lost = found.figures["E_lost"].number
        self.assertGreater(lost, 0)
        after = judge(mended(data, found.remedies[0].patch))
        saved = before.figures["power/drawn_day"].number - after.figures["power/drawn_day"].number
        # The finding is calculated with the inverter's loss at the running peak, the schedule with its curve hour by hour.
        self.assertAlmostEqual(saved, lost, delta=0.35 * lost)
        self.assertEqual(after.power.without_outlet, [])

    def test_growth_names_the_limit_that_would_break(self) -> None:
        found = next(f for f in judge(put(demo("lantern-lane"), "/brief/growth", 0.4)).findings if f.id == "loads.growth")
        self.assertIn("usable energy", found.text)


class WhatIf(TestCase):
    def test_every_choice_pinned_changes_no_figure(self) -> None:
        for name in DEMO_NAMES:
            before = judge(demo(name))
            after = assess(read_design(as_built(before)))
            for path in (
                "power/current",
                "power/drawn_day",
                "power/available",
                "pack/continuous",
                "pack/fault",
                "power/main_resistance",
            ):
                self.assertAlmostEqual(before.figures[path].number, after.figures[path].number, msg=f"{name} {path}")
            self.assertFalse(
                [f for f in after.figures.values() if f.choice == "auto" and f.pointer not in ("/pack/link", "/pack/collector")]
            )

    def test_growth_keeps_the_sizes_and_breaks_limits(self) -> None:
        before = judge(demo("lantern-lane"))
        after = with_growth(before, 0.6)
        self.assertEqual(before.power.inverters["inverter"].rating.value, after.power.inverters["inverter"].rating.value)
        self.assertAlmostEqual(after.figures["loads/energy_day"].number, 1.6 * before.figures["loads/energy_day"].number)
        self.assertIn("loads.energy-short", {f.id for f in after.findings})
        self.assertNotIn("loads.energy-short", {f.id for f in before.findings})


class Shelf(TestCase):
    def test_there_are_at_least_sixty_with_honest_ranges(self) -> None:
        self.assertGreaterEqual(len(appliances()), 60)
        for a in appliances().values():
            self.assertLessEqual(a.watts_low, a.watts)
            self.assertLessEqual(a.watts, a.watts_high)
            self.assertIn(a.kind, load_kinds())
            self.assertTrue(a.basis.source)
            self.assertEqual(a.on_min is None, a.off_min is None)

    def test_each_reads_as_a_load(self) -> None:
        for a in appliances().values():
            item = {"name": a.label, "kind": a.kind, "supply": a.supply, "watts": a.watts, "surge": a.surge, "direct": a.direct}
            judge(document(loads={"items": {"a": item | {"power_factor": a.power_factor, "windows": window(9, 10)}}}))


class Suggestions(TestCase):
    def test_three_packs_serve_and_each_is_best_at_its_thing(self) -> None:
        a = judge(demo("lantern-lane"))
        three = suggest(a.loads, a.design.brief, a.site)
        self.assertEqual(len({id(s.candidate) for s in three}), 3)
        won = {aim: s.candidate for s in three for aim in s.best_at.split(" and ")}
        every = candidates(a.loads, a.design.brief, a.site)
        self.assertEqual(won["cheapest"].cost.number, min(c.cost.number for c in every))
        self.assertEqual(won["lightest"].mass.number, min(c.mass.number for c in every))
        self.assertIn("longest-lived", won)

    def test_of_each_form_at_the_voltage_that_the_loads_ask_for(self) -> None:
        a = judge(demo("tidewater"))  # all straight on 12.8 V
        class_v = asked_class(a.loads, a.design.brief, a.pack)
        self.assertEqual(class_v, 12)
        for form in ("battery", "cells", "batteries"):
            found = candidates(a.loads, a.design.brief, a.site, form, class_v)  # type: ignore[arg-type]
            self.assertTrue(found, form)
            for c in found:
                self.assertEqual(c.pack.form, form)
                self.assertLess(c.sizing.v_nom.number, 15)

    def test_the_pack_taken_holds_without_a_stop(self) -> None:
        for name in ("lantern-lane", "tidewater", "hollow-oak"):
            a = judge(demo(name))
            for s in suggest(a.loads, a.design.brief, a.site):
                taken = put(demo(name), "/pack", s.candidate.pack.model_dump(mode="json"))
                if s.candidate.sizing.series.number != a.pack.series.number:
                    taken = mended(taken, release_cutoffs(a.power.network.nodes))
                found = [f.text for f in judge(taken).findings if f.station in ("pack", "loads") and f.severity == "stop"]
                self.assertEqual(found, [], f"{name}: {s.candidate.name}")

    def test_the_limits_of_the_brief_are_kept(self) -> None:
        data = put(put(demo("lantern-lane"), "/brief/mass_limit_kg", 40), "/brief/budget", 2500)
        a = judge(data)
        for c in candidates(a.loads, a.design.brief, a.site):
            self.assertLessEqual(c.mass.number, 40)
            self.assertTrue(serves(c.sizing, a.loads, a.design.brief, a.site))
        self.assertEqual(
            suggest(judge(put(data, "/brief/budget", 10)).loads, judge(put(data, "/brief/budget", 10)).design.brief, a.site), []
        )
