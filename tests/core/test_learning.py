"""What the bench finds out of a station: the trade's worked examples, what it refuses, and that what is said of true stations is true."""

from math import isclose
from random import Random
from statistics import median
from typing import Any
from unittest import TestCase

import numpy as np

from kegcart.core.bench.instruments import Meters
from kegcart.core.bench.learn.capacity import capacity_at_25
from kegcart.core.bench.learn.estimate import Doubted, Fit, RefusedError, combine, differ, least_squares
from kegcart.core.bench.learn.heat import heat_balance, settled_rise
from kegcart.core.bench.learn.inverter import efficiency, inverter_losses
from kegcart.core.bench.learn.meters import bad_by_its_like, charger_efficiency, gain, joint_resistance, run_resistance
from kegcart.core.bench.learn.resistance import late_part, late_part_of_step, pack_resistance
from kegcart.core.bench.learn.station import learn
from kegcart.core.bench.plan import RUN_DOWN_SHARE, Setting, steps_of
from kegcart.core.bench.runtime import run_hours
from kegcart.core.bench.station import BenchStation, station_of
from kegcart.core.bench.trial import run_trial
from kegcart.core.bench.truth import TrueStation, Truth, drawn
from tests import PROVING
from tests.core.samples import demo, judge

AMPS, VOLTS = (10.5, 26.1, 52.4, 79.8, 104.9), (26.396, 26.325, 26.206, 26.073, 25.941)
TAKEN, SLOPE = (0.4, 2.2, 5.9, 11.6, 19.2), 0.00386
AC, DC = (0, 250, 700, 1400, 2000), (17.4, 285, 758, 1529, 2254)
STATIONS = ("lantern-lane", "hollow-oak", "tidewater")


class WorkedExamples(TestCase):
    """To three digits, as the trade has them."""

    def near(self, found: float, told: float, digits: int = 3) -> None:
        self.assertEqual(f"{found:.{digits}g}", f"{told:.{digits}g}")

    def test_resistance_of_a_pack_over_five_steps(self) -> None:
        raw, _ = pack_resistance(AMPS, VOLTS, TAKEN, 0.0)
        self.near(raw.value * 1000, 4.80)
        self.near(raw.sigma * 1000, 0.09, 1)
        ohm, rest = pack_resistance(AMPS, VOLTS, TAKEN, SLOPE)
        self.near(ohm.value * 1000, 4.04)
        self.near(ohm.sigma * 1000, 0.01, 1)
        self.near(rest.value, 26.440, 5)

    def test_two_parts_of_a_resistance_by_three_readings(self) -> None:
        at_once, late, tau = late_part(100, (0.2332, 0.3395, 0.4020), SLOPE)
        self.near(tau, 44.9)
        self.near(at_once * 1000, 2.30)
        self.near(late * 1000, 1.40)
        self.near(late / (at_once + late) * 100, 37.8)
        self.near(late_part(100, (0.2332, 0.3395, 0.4020), 0.0)[2], 59.4)

    def test_what_was_assumed_and_what_was_measured_together(self) -> None:
        assumed, measured = Doubted(3.70, 1.11), Doubted(4.05, 0.12)
        both = combine(assumed, measured)
        self.near(both.value, 4.05)
        self.near(both.sigma, 0.119)
        self.assertFalse(differ(assumed, measured))
        self.assertTrue(differ(Doubted(3.70, 0.1), measured))

    def test_capacity_brought_to_25_c(self) -> None:
        found = capacity_at_25(183.2, 12, full=True, ended=True)
        self.near(found.value, 191)
        self.near(found.sigma, 2.7, 2)

    def test_losses_of_an_inverter(self) -> None:
        fit = inverter_losses(AC, DC, 2000)
        for n, (value, sigma, digits) in enumerate(((18.4, 1.0, 1), (0.0460, 0.0064, 2), (0.0616, 0.0091, 2))):
            self.near(fit.estimate(n).value, value)
            self.near(fit.estimate(n).sigma, sigma, digits)
        self.near(efficiency(fit.values, 2000, 0.35) * 100, 91.4)
        self.near(efficiency(fit.values, 2000, 1.0) * 100, 89.5)

    def test_where_a_rise_settles_by_three_readings(self) -> None:
        rise, tau = settled_rise((9.6, 15.4, 18.9), 600, 0.1)
        self.near(rise, 24.2)
        self.near(tau, 1190)
        self.near(rise / 118, 0.205)

    def test_joints_by_their_like(self) -> None:
        self.near(111.7**2 * joint_resistance(111.7, 0.2234), 25.0)
        self.near(111.7**2 * joint_resistance(111.7, 0.01117), 1.25)
        self.assertEqual(bad_by_its_like([1e-4, 1.2e-4, 0.9e-4, 2.5e-4]), [False, False, False, True])

    def test_an_averaging_shunt_and_a_true_rms_clamp_both_say_what_is(self) -> None:
        """An inverter draws a current that goes with sin²: its rms is 1.22 times its mean, so gains are learned on a DC load."""
        angle = np.linspace(0, np.pi, 20_001)
        amps = 2 * 111.7 * np.sin(angle) ** 2
        self.near(float(np.sqrt(np.mean(amps**2))), 137)


class Properties(TestCase):
    def test_estimates_combine_in_any_order_and_never_become_less_certain(self) -> None:
        chance = Random(3)
        for _ in range(200):
            a, b, c = (Doubted(chance.uniform(-5, 5), chance.uniform(0.1, 3)) for _ in range(3))
            left, right = combine(combine(a, b), c), combine(a, combine(c, b))
            self.assertTrue(isclose(left.value, right.value, abs_tol=1e-9))
            self.assertLess(left.sigma, min(a.sigma, b.sigma, c.sigma))

    def test_several_figures_together_are_as_one_by_one_where_they_have_nothing_to_do_with_one_another(self) -> None:
        fit = Fit(np.array([3.0, 5.0]), np.diag([0.04, 0.09]))
        assumed = [Doubted(2.0, 0.5), Doubted(7.0, 1.0)]
        both = fit.combined(assumed)
        for n in range(2):
            one = combine(assumed[n], fit.estimate(n))
            self.assertAlmostEqual(both.estimate(n).value, one.value)
            self.assertAlmostEqual(both.estimate(n).sigma, one.sigma)

    def test_least_squares_find_what_made_the_readings_as_often_as_they_say(self) -> None:
        chance, within = np.random.default_rng(8), 0
        x = np.linspace(0, 10, 12)
        for _ in range(400):
            fit = least_squares([np.ones(12), x], 2 + 3 * x + chance.normal(0, 0.5, 12), np.full(12, 0.5))
            slope = fit.estimate(1)
            within += abs(slope.value - 3) <= 2 * slope.sigma
        self.assertGreater(within, 0.92 * 400)
        self.assertLess(within, 0.99 * 400)

    def test_a_step_made_up_of_two_parts_is_taken_apart_again(self) -> None:
        t = np.concatenate([np.arange(-20, 0), np.arange(1, 301)])
        amps = np.where(t < 0, 80.0, 0.0)
        for at_once, late, tau in ((0.002, 0.0015, 45.0), (0.02, 0.01, 30.0), (0.001, 0.0002, 60.0)):
            back = np.where(t < 0, 0.0, 80 * (at_once + late * (1 - np.exp(-t / tau))))
            found = late_part_of_step(t, amps, 25.9 + back + 1e-5 * np.sin(7.0 * t))
            self.assertAlmostEqual(found.tau.value / tau, 1, 2)
            self.assertAlmostEqual(found.at_once.value / at_once, 1, 2)
            self.assertAlmostEqual(found.late.value / late, 1, 2)

    def test_what_is_warm_is_told_from_what_lets_heat_out(self) -> None:
        """Second calculation: a body of 9 kJ/K that lets out 4 W/K, heated by turns, carried on in steps of its own."""
        t, warm, watts = np.arange(0, 9000, 10.0), [20.0], 150.0
        heats = np.where((t // 1500) % 2 == 0, watts, 20.0)
        for heat in heats[:-1]:
            warm.append(warm[-1] + 10 * (heat - 4 * (warm[-1] - 20)) / 9000)
        holds, lets_out = heat_balance(t, warm, np.array(warm) - 20, heats, 0.1)
        self.assertAlmostEqual(holds.value / 9000, 1, 1)
        self.assertAlmostEqual(lets_out.value / 4, 1, 1)

    def test_a_gain_has_nothing_to_do_with_either_zero(self) -> None:
        amps = np.array([0.0, 30, 60, 90])
        self.assertAlmostEqual(gain(1.01 * amps + 0.4, amps - 0.7, 100).value, 1.01)
        self.assertAlmostEqual(run_resistance(amps, 0.004 * amps + 0.03).value, 0.004)
        self.assertAlmostEqual(charger_efficiency([0, 100, 100], [0, 90, 92]).value, 0.91)


class Refused(TestCase):
    def refuses(self, why: str, find: Any, *given: Any, **named: Any) -> None:
        with self.assertRaises(RefusedError) as caught:
            find(*given, **named)
        self.assertIn(why, str(caught.exception))

    def test_what_readings_do_not_carry_is_refused_with_the_reason(self) -> None:
        self.refuses("at least 3 steps", pack_resistance, AMPS[:2], VOLTS[:2], TAKEN[:2], SLOPE)
        self.refuses("too close together", pack_resistance, (50, 51, 52), VOLTS[:3], TAKEN[:3], SLOPE)
        self.refuses("level off", late_part, 100, (0.2, 0.3, 0.5), 0.0)
        self.refuses("held for at least a minute", late_part_of_step, [-1, 1, 2], [5, 0, 0], [25, 26, 26])
        self.refuses("did not change", late_part_of_step, np.arange(-5, 90), np.full(95, 5.0), np.full(95, 25.0))
        self.refuses("2 loads between 30% and full", inverter_losses, AC[:4], DC[:4], 2000)
        self.refuses("idle draw is a measurement of its own", inverter_losses, AC[1:], DC[1:], 2000)
        self.refuses("from full", capacity_at_25, 100, 25, full=False, ended=True)
        self.refuses("nothing has cut off", capacity_at_25, 100, 25, full=True, ended=False)
        self.refuses("usable energy, not capacity", capacity_at_25, 100, 25, full=True, ended=True, left=Doubted(0.4, 0.1))
        self.refuses("no more than the thermometer shows", settled_rise, (9.6, 15.4, 15.6), 600, 0.1)
        self.refuses("does not level off", settled_rise, (5, 10, 15.1), 600, 0.1)
        self.refuses("hardly warms", heat_balance, np.arange(0, 900), np.full(900, 20.0), np.zeros(900), np.ones(900), 0.1)
        self.refuses("ten minutes", heat_balance, [0, 60], [20, 21], [0, 1], [9, 9], 0.1)
        self.refuses("of the shunt's range", gain, [1, 2, 3], [1, 2, 3], 100)
        self.refuses("50 A or more", joint_resistance, 20, 0.002)
        self.refuses("do not tell the figures apart", run_resistance, [40, 40, 40], [0.1, 0.1, 0.1])
        self.refuses("nothing was charged", charger_efficiency, [0, 0], [0, 0])

    def test_a_test_without_a_step_or_a_meter_says_so_and_learns_the_rest(self) -> None:
        station = station_of(judge(demo("tidewater")))
        true = TrueStation(station, Truth())
        steps = [step for step in steps_of(station) if step.key not in ("rest", "run-down", "rest-empty", "recharge")]
        readings = run_trial(true, Meters((c for c in true.read() if c != "end.v"), np.random.default_rng(1)), steps)
        found = {item.key: item for item in learn(station, readings)}
        self.assertIn("'rest' was not run", found["late_share"].refused)
        self.assertIn("'run-down' was not run", found["capacity"].refused)
        self.assertIn("voltage was not read", found["path"].refused)
        self.assertEqual(found["capacity"].combined, found["capacity"].assumed)
        self.assertIsNotNone(found["resistance"].measured)


class TrueStations(TestCase):
    """Stations that live, each with figures of its own and with what a fit does not know of, by meters that are off."""

    takes_long = True

    def test_a_true_station_without_secrets_is_the_design_simulated(self) -> None:
        for name in STATIONS:
            station = station_of(judge(demo(name)))
            watts = RUN_DOWN_SHARE * station.load_w
            with self.subTest(name):
                told = run_hours(station, {}, watts)
                self.assertAlmostEqual(self.hours(station, Truth(), watts) / told, 1, 2)

    def test_what_is_read_agrees_with_itself(self) -> None:
        """Kirchhoff: cells add up to the posts, drops to the path, and watts to the losses."""
        station = station_of(judge(demo("lantern-lane")))
        true = TrueStation(station, drawn(station, Random(5)))
        true.set(Setting(watts=1200, inverter=True))
        for _ in range(30):
            true.advance(10)
        now, values = true.read(), true.values
        cells = [volts for channel, volts in now.items() if channel.startswith("cell.")]
        self.assertEqual(len(cells), 8)
        self.assertAlmostEqual(sum(cells), now["posts.v"], 2)
        self.assertAlmostEqual((now["posts.v"] - now["end.v"]) / now["posts.a"] / values["path"], 1, 1)
        loss = values["idle"] + values["linear"] * 1200 + values["square"] * 1200**2 / station.rated_w
        self.assertAlmostEqual(now["end.v"] * now["posts.a"] - values["standing"] - 1200, loss, -1)
        self.assertAlmostEqual(now["load.w"], 1200)

    def test_what_is_loose_drops_and_warms_and_what_is_weak_sinks_first(self) -> None:
        station = station_of(judge(demo("lantern-lane")))
        key = station.points[2].key
        rooms = tuple(0.8 if n == 2 else 1.0 for n in range(8))
        sound, ill = (TrueStation(station, h) for h in (Truth(), Truth(loose={key: 0.002}, rooms=rooms)))
        for true in (sound, ill):
            true.set(Setting(watts=1200, inverter=True))
            for _ in range(60):
                true.advance(60)
        was, now = sound.read(), ill.read()
        self.assertGreater(now["part.3.c"], was["part.3.c"] + 20)
        self.assertGreater(now["posts.v"] - now["end.v"], was["posts.v"] - was["end.v"] + 0.002 * 0.9 * now["posts.a"])
        cells = [now[f"cell.{n}.v"] for n in range(1, 9)]
        self.assertEqual(cells.index(min(cells)), 2)

    def hours(self, station: BenchStation, hidden: Truth, watts: float) -> float:
        """How long a true station runs so many W from full."""
        true = TrueStation(station, hidden)
        true.set(Setting(watts=watts, inverter=True))
        while not true.opened:
            true.advance(60)
        return next(event.hour for event in true.events if event.kind in ("cutoff", "trip"))

    def test_what_is_learned_is_true_as_often_as_it_says_and_worth_knowing(self) -> None:
        """Within two standard uncertainties in 90 %, the band a third of what was assumed, the run time five times as near."""
        stations = [station_of(judge(demo(name))) for name in STATIONS]
        within, narrower, before, after = [], [], [], []
        for seed in range(200 if PROVING else 20):
            station = stations[seed % len(stations)]
            hidden = drawn(station, Random(seed))
            true = TrueStation(station, hidden)
            meters = Meters(true.read(), np.random.default_rng(seed))
            found = learn(station, run_trial(true, meters, steps_of(station)))
            gains = [float(meters.gain[meters.channels.index(channel)]) for channel in ("posts.a", "clamp.a")]
            truth = true.values | {"gain": gains[0] / gains[1]}
            for item in found:
                if item.measured is None:
                    self.assertTrue(item.refused, item.key)
                    continue
                within.append(abs(item.combined.value - truth[item.key]) <= 2 * item.combined.sigma)
                narrower.append(item.combined.sigma / item.assumed.sigma)
            watts = RUN_DOWN_SHARE * station.load_w
            hours = self.hours(station, hidden, watts)
            values = {item.key: item.combined.value for item in found}
            before.append(abs(run_hours(station, {}, watts, hidden.outside_c) / hours - 1))
            after.append(abs(run_hours(station, values, watts, hidden.outside_c) / hours - 1))
        self.assertGreater(len(within), 9 * len(before))
        self.assertGreaterEqual(sum(within) / len(within), 0.9)
        self.assertLessEqual(median(narrower), 1 / 3)
        self.assertLessEqual(median(after), median(before) / 5)
