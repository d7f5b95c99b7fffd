"""The heat of the box: worked examples of walls, sun, fans and packs, a fan that never chatters, steps that do not matter, findings."""

from dataclasses import replace
from math import isfinite
from random import Random
from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.box.air import air_density, air_needed, carried, fan_flow, free_air_needed, openings
from kegcart.core.box.cooling import cooler
from kegcart.core.box.heat import sun_on_lid, through, u_value, wall_areas
from kegcart.core.figure import Figure, Sheet
from kegcart.core.forecast import Forecast, forecast
from kegcart.core.lane import heat_of, lane_of, plan_of, weather
from kegcart.core.pack.body import block, cooling
from kegcart.core.reference import assumption, constant
from kegcart.core.simulation.inputs import Branch, Fan, Lane, Plan, Surroundings
from kegcart.core.simulation.rest import at_rest
from kegcart.core.simulation.run import Course, simulate
from tests import PROVING, tried
from tests.core.samples import DEMO_NAMES, demo, judge, mended, put
from tests.core.test_box import shaken
from tests.core.test_simulation import NEVER_H, bank, lane

LANE, CASE = "lantern-lane", "/box/case"


def figure_of(symbol: str, value: float, unit: str) -> Figure:
    return Figure.of(symbol, value, unit, "given")


def spoiled(name: str, *changes: tuple[str, Any]) -> dict[str, Any]:
    data = demo(name)
    for pointer, value in changes:
        data = put(data, pointer, value)
    return data


def seen(name: str, *changes: tuple[str, Any]) -> Forecast:
    return forecast(judge(spoiled(name, *changes)))


class WorkedExamples(TestCase):
    def test_walls(self) -> None:
        plastic, metal = figure_of("λ", 0.2, "W/mK"), figure_of("λ", 50, "W/mK")
        for inside, mm, conducts, u in (
            ("still_air", 4, plastic, 3.49),
            ("still_air", 8, plastic, 3.26),
            ("still_air", 1, metal, 3.75),
            ("wall_stirred", 4, plastic, 1 / (1 / 12 + 0.02 + 0.1)),
        ):
            found = u_value(assumption(inside), figure_of("t", mm, "mm"), conducts)
            self.assertAlmostEqual(found.number, u, delta=0.005)

    def test_the_sun_on_a_lid(self) -> None:
        top, u = figure_of("A", 0.55 * 0.40, "m²"), figure_of("U", 5, "W/m²K")
        dark, white = (sun_on_lid(u, top, assumption(f"absorbs_{colour}")) for colour in ("dark", "white"))
        self.assertAlmostEqual(dark.number, 89.1, delta=0.05)
        self.assertAlmostEqual(dark.number / 4.43, 20.1, delta=0.05)
        self.assertAlmostEqual(white.number / 4.43, 6.70, delta=0.01)

    def test_a_pack_by_its_own_surface(self) -> None:
        pack = judge(demo(LANE)).pack.pack
        area = block(8 * 0.054, 0.174, 0.207, "of the pack", "")
        self.assertAlmostEqual(area.number, 0.326, delta=0.0005)
        self.assertAlmostEqual(1 / (constant("still_air") * area.number), 0.511, delta=0.0005)
        self.assertAlmostEqual(1 / cooling(pack, area).number, 1.3 * 0.511, delta=0.001)

    def test_a_fan(self) -> None:
        heat, rise = figure_of("Q", 120, "W"), figure_of("ΔT", 8, "K")
        low, high = (air_needed(heat, rise, air_density(metres)) for metres in (0, 2000))
        self.assertAlmostEqual(low.number, 44.8, delta=0.05)
        self.assertAlmostEqual(free_air_needed(low).number, 89.6, delta=0.1)
        self.assertAlmostEqual(high.number, 56.8, delta=0.05)
        self.assertAlmostEqual(carried(low, air_density(0)).number * 8, 120, delta=0.01)

    def test_at_rest(self) -> None:
        """30 °C outside, box 0.23 K/W, inverter 120 W, pack 30 W at 0.6 K/W: air 64.5 °C, pack 82.5 °C."""
        air, switches = at_rest(Surroundings(30, 1 / 0.23, 6000), 150, 0)
        self.assertAlmostEqual(air, 64.5, delta=0.05)
        self.assertAlmostEqual(air + 30 * 0.6, 82.5, delta=0.05)
        self.assertFalse(switches)

    def test_a_closed_box_of_the_simple_rule(self) -> None:
        """engineering rule: ΔT = Q / (U · A): 100 W in 0.885 m² at 5 W/m²K rise by 22.6 K."""
        box = through(figure_of("U", 5, "W/m²K"), figure_of("A", 0.885, "m²"))
        self.assertAlmostEqual(100 / box.number, 22.6, delta=0.05)
        self.assertAlmostEqual(box.number, 4.43, delta=0.006)


class Boxes(TestCase):
    def test_walls_that_lean_have_less_area(self) -> None:
        straight, leaning = (judge(spoiled(LANE, (f"{CASE}/taper_mm", mm))).box for mm in (0, 20))
        assert straight is not None
        assert leaning is not None
        more = wall_areas(straight.layout)[0].number - wall_areas(leaning.layout)[0].number
        self.assertAlmostEqual(more, 2 * 0.380 * 2 * 0.020, delta=1e-6)

    def fan_moves(self, *changes: tuple[str, Any]) -> float:
        found = judge(spoiled(LANE, *changes)).box
        assert found is not None
        air = openings(found.layout)
        return fan_flow(next(f for f in air if f.key == "fan"), air).number

    def test_what_a_fan_moves(self) -> None:
        fan, vent = "/box/fittings/fan", "/box/fittings/vent/free_cm2"
        self.assertAlmostEqual(self.fan_moves((vent, 100)), 31, delta=0.01)
        self.assertAlmostEqual(self.fan_moves((vent, 100), (f"{fan}/filtered", True)), 31 / 1.4, delta=0.01)
        opening = 3.14159 * 3.8**2
        self.assertAlmostEqual(self.fan_moves((vent, opening / 2)), 15.5, delta=0.01)
        self.assertAlmostEqual(self.fan_moves((vent, 100), (f"{fan}/flow_m3h", None)), opening * 2.8 * 0.36 / 2, delta=0.01)
        self.assertEqual(self.fan_moves(("/box/fittings/vent/kind", "gland")), 0)

    def test_a_measured_box_is_taken_as_measured(self) -> None:
        data = spoiled(LANE, ("/bench/measured", {"walls": {"value": 10, "source": "typed in"}}))
        around = lane_of(judge(data), weather(judge(data), "hottest"), plan_of(judge(data), 1)).around
        self.assertAlmostEqual(around.walls_w_k, 10)
        self.assertEqual(len(around.fans), 1)

    def test_a_usual_closed_box_until_one_is_chosen(self) -> None:
        found = judge(spoiled(LANE, (CASE, None)))
        around = lane_of(found, weather(found, "hottest"), plan_of(found, 1)).around
        self.assertEqual(around, Surroundings(30, 1 / constant("box_resistance"), constant("box_capacity")))
        self.assertIsNone(heat_of(found, Sheet()))

    def test_the_sun_shines_where_it_is_used_outdoors_and_only_when_it_is_hottest(self) -> None:
        for outdoors, in_sun, shines in ((True, None, True), (None, None, False), (True, False, False), (False, True, True)):
            found = judge(spoiled(LANE, ("/brief/outdoors", outdoors), (f"{CASE}/in_sun", in_sun)))
            hot, cold = (lane_of(found, weather(found, s), plan_of(found, 1)).around.sun_w for s in ("hottest", "coldest"))
            self.assertEqual((hot > 0, cold), (shines, 0))

    def test_a_charger_in_the_box_warms_it(self) -> None:
        data = demo(LANE)
        place = {"at": "inside", "x_mm": 400, "y_mm": 10}
        for inside, changes in ((0, []), (1, [("/box/places/source:mains", place)])):
            found = judge(spoiled(LANE, *changes))
            feed = lane_of(found, weather(found, "hottest"), plan_of(found, 1)).feeds[0]
            self.assertEqual(feed.inside > 0, bool(inside))
        self.assertNotIn("source:mains", data["box"]["places"])

    def test_vents_let_the_warm_air_rise(self) -> None:
        """Two openings of 40 cm², 0.3 m apart in height, 10 K: by hand 2.15 m³/h more or less, 0.72 W/K."""
        low, high = (
            {"kind": "vent", "name": "Vent", "face": face, "x_mm": 170, "y_mm": y, "free_cm2": 40}
            for face, y in (("left", 70), ("right", 370))
        )
        found = judge(spoiled("hollow-oak", ("/box/fittings", {"low": low, "high": high})))
        heat = heat_of(found, Sheet())
        assert heat is not None
        assert heat.draught is not None
        by_hand = 1.2 * 1005 * 0.6 * (40 * 40 / (40**2 + 40**2) ** 0.5) / 1e4 * (2 * 9.81 * 0.3 / (273.15 + 34)) ** 0.5
        self.assertAlmostEqual(heat.draught.number, by_hand, delta=0.001)
        level = judge(spoiled("hollow-oak", ("/box/fittings", {"high": high})))
        found_level = heat_of(level, Sheet())
        self.assertIsNone(found_level and found_level.draught)


def box_of(around: Surroundings, watts: float, hours: float = 24, **more: Any) -> Lane:
    """A coil that gives off so many W in a box, and next to nothing of a pack."""
    of = bank("lfp", 8, 1e5, 1e-7, heat_w_k=1e-6)
    return lane(
        of, parts=(Branch("coil", 0, None, 0.0, draw_w=watts),), around=around, plan=Plan(0, hours, NEVER_H, NEVER_H), **more
    )


class InTime(TestCase):
    def test_a_fan_never_chatters_faster_than_its_hysteresis_allows(self) -> None:
        """From where it stops to where it starts it takes 5 K of the box's heat at least; a thermostat without a band has one of 1 K."""
        for band, least_k in ((5.0, 5.0), (0.0, 1.0), (-3.0, 1.0)):
            around = Surroundings(30, 4.0, 6000, 6.0, fans=(Fan(12.0, True, "thermostat", 42, 42 - band),))
            course = simulate(box_of(around, 120))
            self.assertAlmostEqual(course.hottest_inside_c, 42, delta=0.01)
            # At most 120 W heat it and at most 18 W/K · 12 K cool it.
            shortest_s = 6000 * least_k / 120 + 6000 * least_k / (18 * 12)
            self.assertLessEqual(course.fans_switched[0], 24 * 3600 / shortest_s + 1)
            self.assertGreater(course.fans_switched[0], 20)

    def test_a_fan_below_the_outside_temperature_runs_all_day(self) -> None:
        course = simulate(box_of(Surroundings(34, 4.0, 6000, 6.0, fans=(Fan(5.0, True, "thermostat", 28, 25),)), 50))
        self.assertEqual((round(course.fans_h[0], 6), course.fans_switched[0]), (24, 1))
        self.assertAlmostEqual(course.hottest_inside_c, 34 + 50 / 11, delta=0.01)

    def test_fans_in_a_row_do_not_add_up(self) -> None:
        one = (Fan(5.0, True, "always", 0, 0),)
        for fans, rise in ((one, 50 / 11), ((*one, Fan(4.0, False, "always", 0, 0)), 50 / 11), (one * 2, 50 / 16)):
            course = simulate(box_of(Surroundings(30, 4.0, 6000, 6.0, fans=fans), 50))
            self.assertAlmostEqual(course.inside_c[-1] - 30, rise, delta=0.01)

    def test_the_sun_over_a_day(self) -> None:
        """With a box that holds no heat it stands where the sun of the hour puts it; stirred air takes more of it in."""
        around = Surroundings(30, 4.0, 50, 6.0, sun_w=100, rises_h=6, sets_h=18)
        course = simulate(box_of(around, 0))
        self.assertAlmostEqual(course.hottest_inside_c, 55, delta=0.02)
        self.assertAlmostEqual(course.hottest_inside_h, 12, delta=0.1)
        stirred = simulate(box_of(replace(around, fans=(Fan(1e-6, True, "always", 0, 0),)), 0))
        self.assertAlmostEqual(stirred.hottest_inside_c, 55, delta=0.02)
        self.assertAlmostEqual(course.worst.sun_w, 100, delta=1.5)

    def test_left_running_it_ends_where_it_comes_to_rest(self) -> None:
        """What is told of `left running` is where the equations end, with vents, with fans, and where a fan switches."""
        vents = Surroundings(30, 3.0, 4000, draught_w=0.4)
        strong, weak = (replace(vents, fans=(Fan(w_k, True, "thermostat", 45, 40),), stirred_w_k=4.5) for w_k in (9.0, 2.0))
        for around in (vents, weak, replace(weak, fans=(*weak.fans, Fan(1.0, False, "always", 0, 0)))):
            rests, switches = at_rest(around, 120, 0)
            course = simulate(box_of(around, 120))
            self.assertAlmostEqual(course.inside_c[-1], rests, delta=0.05)
            self.assertFalse(switches)
        rests, switches = at_rest(strong, 120, 0)
        last = simulate(box_of(strong, 120)).inside_c[-50:]
        self.assertTrue(switches)
        self.assertAlmostEqual(max(last), rests, delta=0.5)
        self.assertGreaterEqual(min(last), 40 - 0.01)

    def test_the_worst_hour_adds_up_to_what_was_lost(self) -> None:
        """A box under the same load all day: each part's heat of the worst hour times the day is the account's."""
        course = simulate(box_of(Surroundings(30, 4.0, 6000), 80))
        self.assertAlmostEqual(course.worst.air_w, 80, delta=0.01)
        self.assertAlmostEqual(course.worst.parts_w[0] * 24, course.standing_wh + course.wiring_loss_wh, delta=0.1)

    def test_free_steps_and_one_second_steps_agree_within_a_fifth_of_a_kelvin(self) -> None:
        for name in DEMO_NAMES if PROVING else (LANE,):
            found = judge(demo(name))
            of = lane_of(found, weather(found, "hottest"), plan_of(found, 3 if PROVING else 1))
            free, fine = simulate(of), simulate(of, step_s=1.0)
            with self.subTest(name):
                self.assertAlmostEqual(free.hottest_inside_c, fine.hottest_inside_c, delta=0.2)
                self.assertAlmostEqual(free.banks[0].hottest_c, fine.banks[0].hottest_c, delta=0.2)
                # A fan may switch some seconds sooner: compared is what an hour has in the mean.
                for hour in range(int(free.hour[0]) + 1, int(free.hour[-1])):
                    for of_air in (True, False):
                        means = [mean_over(course, hour, of_air) for course in (free, fine)]
                        self.assertAlmostEqual(*means, delta=0.2, msg=f"hour {hour}")


def mean_over(course: Course, hour: int, of_air: bool) -> float:
    """The mean temperature inside, or of the pack, over an hour."""
    values, whole = course.inside_c if of_air else course.banks[0].celsius, 0.0
    for n in range(len(course.hour) - 1):
        begin, end = max(course.hour[n], hour), min(course.hour[n + 1], hour + 1)
        if end > begin:
            middle = ((begin + end) / 2 - course.hour[n]) / (course.hour[n + 1] - course.hour[n])
            whole += (end - begin) * (values[n] + (values[n + 1] - values[n]) * middle)
    return whole


#: builds that grow too hot, or were taken for hotter than they are
HOT: tuple[tuple[Any, ...], ...] = (
    ("hollow-oak",),
    ("hollow-oak", (f"{CASE}/in_sun", True), (f"{CASE}/colour", "dark")),
    (LANE, (f"{CASE}/colour", "dark")),
    (LANE, (f"{CASE}/colour", "dark"), ("/box/fittings/fan/flow_m3h", 10)),
    (LANE, (f"{CASE}/colour", "dark"), ("/box/fittings/fan/on_c", 60), ("/box/fittings/fan/off_c", 55)),
    (LANE, ("/box/fittings", {}), ("/brief/outdoors", False)),
    ("tidewater", (f"{CASE}/colour", "dark")),
)


def weathered(seed: int) -> dict[str, Any]:
    """A build with a shaken box, its fans set anyhow, somewhere very hot, high or cold."""
    chance, data = Random(seed), shaken(seed)
    box = data["box"]
    for fitting in box["fittings"].values():
        fitting |= {"starts": chance.choice(("thermostat", "always", "inverter")), "filtered": chance.random() < 0.5}
        fitting |= {"on_c": chance.choice((None, -40, 20, 70)), "off_c": chance.choice((None, -40, 25, 70))}
        fitting |= {"flow_m3h": chance.choice((None, 0.5, 2000)), "free_cm2": chance.choice((None, 0.05, 2000))}
    box["case"] |= {"in_sun": chance.choice((True, False, None)), "colour": chance.choice(("dark", "white"))}
    box["altitude_m"] = chance.choice((-430, 0, 6000))
    data["brief"] |= {"site_max_c": chance.choice((30, 70)), "inside_rise_k": chance.choice((None, 0, 40))}
    return data


class AnyWeather(TestCase):
    @given(st.integers(0, 10**9))
    @tried(120, daily=6)
    def test_whatever_the_box_its_heat_is_judged(self, seed: int) -> None:
        found = forecast(judge(put(weathered(seed), "/bench/days", 1)))
        told = {check.id for check in found.checks}
        self.assertLessEqual({"box.heat", "box.inside-allowance", "box.run-length"}, told)
        for finding in found.findings:
            self.assertNotIn("{", finding.text)
        for figure in found.figures.values():
            self.assertTrue(isfinite(figure.number) if figure.unit else figure.text, figure.label)

    def test_where_no_connector_carries_anything_that_is_said(self) -> None:
        """70 °C outside and 40 K more inside: a socket carries nothing, and no number of them would."""
        hot = spoiled(LANE, ("/brief/site_max_c", 70), ("/brief/inside_rise_k", 40))
        found = forecast(judge(hot))
        self.assertIn("box.heat", {f.id for f in found.findings})
        self.assertIn("loads.socket-rating", {f.id for f in judge(hot).findings})


class Findings(TestCase):
    takes_long = True

    def ids(self, found: Forecast) -> dict[tuple[str, str], str]:
        return {(f.id, f.place): f.severity.value for f in found.findings if f.station == "box" and f.id != "box.run-length"}

    def test_what_is_too_hot_is_said_of_what(self) -> None:
        hot = (f"{CASE}/colour", "dark"), ("/box/fittings", {})
        found = self.ids(seen(LANE, *hot, ("/brief/site_max_c", 45)))
        self.assertEqual(found["box.heat", "/box/places/part:inverter"], "stop")
        self.assertEqual(found["box.heat", "/pack"], "stop")
        # Its board does not mind the temperature: nothing keeps it from being charged. One that does leaves it empty.
        self.assertEqual(found["box.heat", "/charging/sources/mains"], "stop")
        locks = self.ids(seen(LANE, *hot, ("/brief/site_max_c", 45), ("/pack/board/cold_lock", True)))
        self.assertEqual(locks["box.heat", "/charging/sources/mains"], "mend")

    def test_an_inverter_that_derates_below_what_is_asked(self) -> None:
        small = [("/power/network/inverter/rating_w", 1200), ("/power/network/inverter/surge_w", 3000)]
        self.assertNotIn(("box.heat", "/power/network/inverter"), self.ids(seen(LANE, *small)))
        found = seen(LANE, *small, ("/brief/site_max_c", 44), ("/box/fittings", {}))
        self.assertEqual(self.ids(found)["box.heat", "/power/network/inverter"], "mend")
        check = next(c for c in found.checks if c.place == "/power/network/inverter")
        assert check.figure is not None
        air = float(check.figure.inputs["k_T"].inputs["T"].number)
        self.assertAlmostEqual(check.figure.number, 1200 * (1 - constant("inverter_derate") * (air - 40)), delta=0.5)

    def test_the_allowance_of_the_brief_against_what_was_worked_out(self) -> None:
        self.assertEqual(self.ids(seen(LANE)), {})
        cool = seen("hollow-oak")
        self.assertEqual(self.ids(cool), {("box.inside-allowance", "/brief/inside_rise_k"): "note"})
        self.assertEqual(self.ids(seen("hollow-oak", ("/brief/inside_rise_k", 12))), {})
        hot = seen("hollow-oak", (f"{CASE}/in_sun", True), (f"{CASE}/colour", "dark"))
        self.assertEqual(self.ids(hot)["box.inside-allowance", "/brief/inside_rise_k"], "mend")
        fails = seen(LANE, (f"{CASE}/colour", "dark"), ("/box/fittings", {}), ("/brief/site_max_c", 45))
        finding = next(f for f in fails.findings if f.id == "box.inside-allowance")
        self.assertEqual(finding.severity.value, "stop")
        self.assertIn("What fails at that: Busbar is rated for", finding.text)

    def test_where_nobody_said_whether_it_stands_in_the_sun_that_is_asked(self) -> None:
        found = seen(LANE, ("/brief/outdoors", None), (f"{CASE}/in_sun", None))
        self.assertIn("whether it stands in the sun", {c.missing for c in found.checks if c.id == "box.heat"})
        self.assertNotIn("whether it stands in the sun", {c.missing for c in seen(LANE).checks})
        self.assertIn("a box to put it in", {c.missing for c in seen(LANE, (CASE, None)).checks})

    def test_a_fan_too_small(self) -> None:
        small = [("/box/fittings/fan/flow_m3h", 10), (f"{CASE}/colour", "dark")]
        found = seen(LANE, *small)
        finding = next(f for f in found.findings if f.id == "box.airflow")
        self.assertIn("The fans move 5 m³/h through the box", finding.text)
        self.assertTrue(any("A fan of" in r.label for r in finding.remedies), [r.label for r in finding.remedies])

    def test_every_remedy_ends_its_finding_and_brings_no_stop(self) -> None:
        offered = set()
        for name, *changes in HOT[:: 1 if PROVING else 4]:
            before = judge(spoiled(name, *changes))
            had = {(f.id, f.place) for f in before.findings if f.severity.value == "stop"}
            for finding in forecast(before).findings:
                for remedy in finding.remedies if finding.station == "box" else ():
                    after = judge(mended(spoiled(name, *changes), remedy.patch))
                    with self.subTest(finding.id, remedy=remedy.label):
                        self.assertNotIn(finding.id, {f.id for f in forecast(after).findings})
                        self.assertLessEqual({(f.id, f.place) for f in after.findings if f.severity.value == "stop"}, had)
                    offered.add(remedy.label.partition(" of ")[0].partition(" for ")[0])
        self.assertGreaterEqual(len(offered), 6 if PROVING else 2, offered)

    def test_a_fan_that_is_proposed_stands_clear(self) -> None:
        found = judge(spoiled(LANE, ("/box/fittings", {}), (f"{CASE}/colour", "dark")))
        assert found.box is not None
        ways = [r for kind in cooler(found.box.layout, found.design.brief, found.site) for r in kind if "A fan of" in r.label]
        self.assertTrue(ways)
        for remedy in ways:
            added = {op["path"]: op["value"] for op in remedy.patch}
            self.assertEqual({v["kind"] for v in added.values()}, {"fan", "vent"})
            after = judge(spoiled(LANE, ("/box/fittings", {}), (f"{CASE}/colour", "dark"), *added.items()))
            fitted = {f.id for f in after.findings if f.place.startswith("/box/fittings") and f.severity.value != "note"}
            self.assertEqual(fitted, set(), remedy.label)
