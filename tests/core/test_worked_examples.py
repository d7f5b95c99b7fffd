"""The worked examples of the trade, to three digits. If one fails, cables and fuses come out wrong."""

from unittest import TestCase

from kegcart.core.electrical import conductors, source
from kegcart.core.electrical.inverter import LossCurve, derating, needed_rating
from kegcart.core.electrical.protection import (
    catalogue,
    fastest_melting,
    hot_share,
    interrupt_rating,
    let_through,
    pick,
    rides_through,
)  # fmt: skip
from kegcart.core.figure import Figure
from kegcart.core.loads.profile import Day
from kegcart.core.power.kinds.busbar import hot_air
from kegcart.core.reference import constant, families, wires
from tests.core.samples import document, judge, window


class Digits(TestCase):
    def close(self, value: float, expected: float) -> None:
        self.assertAlmostEqual(value / expected, 1, delta=0.005, msg=f"{value} is not {expected} to three digits")


class WorkedExample(Digits):
    def test_gauges_have_the_area_and_resistance_of_the_tables(self) -> None:
        self.close(wires()["4 AWG"].area_mm2, 21.15)
        self.close(conductors.resistance(1, wires()["4 AWG"].area_mm2) * 1000, 0.815)
        self.close(wires()["10 AWG"].area_mm2, 5.26)
        self.close(conductors.resistance(1, wires()["10 AWG"].area_mm2) * 1000, 3.28)

    def test_copper_from_20_to_60_degrees(self) -> None:
        self.close(conductors.resistivity(60) / conductors.resistivity(20), 1.157)

    def test_inverter_current_and_its_fuse(self) -> None:
        amps = 2500 / 0.90 / 44.0
        self.close(amps, 63.1)
        self.close(amps * constant("fuse_margin"), 78.9)
        self.assertEqual(pick(amps * constant("fuse_margin"), [], 58.0, 1500).rating_a, 80)

    def test_run_of_4_awg(self) -> None:
        ohm = conductors.resistance(2 * 0.9, wires()["4 AWG"].area_mm2, 60)
        self.close(ohm * 1000, 1.70)
        amps = 2500 / 0.90 / 44.0
        self.close(amps * ohm, 0.107)
        self.assertAlmostEqual(amps * ohm / 44.0 * 100, 0.24, places=2)
        self.close(amps**2 * ohm, 6.77)

    def test_loaded_voltage_and_greatest_power(self) -> None:
        volts = source.loaded_voltage(52.0, 0.028, 2778)
        assert volts is not None
        self.close(volts, 50.46)
        self.close(2778 / volts, 55.05)
        self.close(source.greatest_power(52.0, 0.028), 24_100)
        self.assertIsNone(source.loaded_voltage(52.0, 0.028, 25_000))

    def test_prospective_fault_current_of_sixteen_cells(self) -> None:
        self.close(source.fault_current(16 * 3.45, 16 * 0.25e-3 + 16 * 0.05e-3), 11_500)
        pack = {
            "form": "cells",
            "chemistry": "lfp",
            "series": 16,
            "parallel": 1,
            "cell": {"capacity_ah": 280, "resistance_mohm": 0.25},
            "link": {"resistance_mohm": 0.05},
        }
        figures = judge(document(pack=pack)).figures
        self.close(figures["pack/fault_resistance"].number, 16 * 0.30e-3)

    def test_joining_two_batteries(self) -> None:
        self.close(source.joining_current(13.4, 13.1, 0.008, 0.010), 16.7)

    def test_compressor_a_day(self) -> None:
        cooler = {
            "name": "Cooler",
            "kind": "compressor",
            "supply": "pack",
            "watts": 55,
            "cycle": {"on_min": 8, "off_min": 16},
            "windows": window(0, 24),
        }
        self.close(judge(document(loads={"items": {"cooler": cooler}})).figures["loads/cooler/energy"].number, 440)

    def test_idle_a_day(self) -> None:
        inverter = {"part": "inverter", "name": "Inverter", "feed": "f", "idle_w": 22, "left_on": True, "rating_w": 1000}
        network = {"f": {"part": "protection", "name": "Fuse", "feed": "pack"}, "inverter": inverter}
        found = judge(document(power={"network": network}))
        self.close(found.figures["power/inverter/energy_day"].number, 528)


class LossCurveTest(TestCase):
    def test_curve_meets_the_published_efficiencies(self) -> None:
        curve = LossCurve.typical(2000)
        self.assertAlmostEqual(curve.loss(0), 16)
        self.assertAlmostEqual(700 / curve.drawn(700), 0.92)
        self.assertAlmostEqual(2000 / curve.drawn(2000), 0.88)

    def test_heat_derates_one_percent_a_kelvin_above_40(self) -> None:
        self.assertEqual(derating(40), 1)
        self.assertAlmostEqual(derating(52), 0.88)

    def test_rating_is_set_by_the_worst_of_running_surge_and_apparent_power(self) -> None:
        self.assertAlmostEqual(needed_rating(800, 0, 0, 40), 1000)
        self.assertAlmostEqual(needed_rating(100, 3000, 0, 40), 1500)
        self.assertAlmostEqual(needed_rating(100, 0, 900, 50), 1000)


class ConductorTest(Digits):
    def test_ampacity_at_the_base_is_the_table(self) -> None:
        self.assertAlmostEqual(conductors.ampacity(wires()["6 AWG"], "small_craft", 30), 120)
        self.assertAlmostEqual(conductors.ampacity(wires()["16 mm²"], "building", 30), 85)

    def test_ambient_bundling_and_insulation_derate(self) -> None:
        wire = wires()["6 AWG"]
        self.assertAlmostEqual(conductors.ampacity(wire, "small_craft", 50), 120 * (55 / 75) ** 0.5)
        self.assertAlmostEqual(conductors.ampacity(wire, "small_craft", 30, bundled=3), 84)

    def test_poorer_insulation_has_a_column_of_its_own(self) -> None:
        wire, metric = wires()["6 AWG"], wires()["16 mm²"]
        self.assertEqual([conductors.ampacity(wire, "small_craft", 30, insulation_c=c) for c in (60, 75, 90)], [80, 95, 100])
        self.assertAlmostEqual(conductors.ampacity(wire, "small_craft", 50, insulation_c=75), 95 * (25 / 45) ** 0.5)
        self.assertEqual([conductors.ampacity(metric, "small_craft", 30, insulation_c=c) for c in (60, 75, 90)], [54, 90, 100])
        self.assertAlmostEqual(conductors.ampacity(metric, "building", 30, insulation_c=60), 85 * (30 / 40) ** 0.5)

    def test_what_copper_stands_in_a_short(self) -> None:
        for initial_c, final_c, k in ((70, 160, 115), (105, 160, 88), (90, 250, 143), (105, 250, 135), (180, 350, 132)):
            self.close(conductors.adiabatic_factor(final_c, initial_c), k)
        energy = let_through(families()["din-breaker"], 16, 5200)
        self.close(energy, 270e3)
        self.close(energy**0.5 / 115, 4.52)
        self.close(energy**0.5 / 143, 3.64)
        self.assertAlmostEqual(let_through(families()["class-t"], 150, 16_000), 2 * (5 * 150) ** 2 * 0.02)

    def test_hot_air(self) -> None:
        self.close(150 * hot_share(families()["class-t"], 60), 140)
        self.close(63 * hot_share(families()["surface-breaker"], 60), 55.4)
        for inside_c, amps in ((45, 148), (60, 89.2), (40, 163), (20, 163)):
            share = hot_air(Figure.decided("T_in", inside_c, "°C", "inside", "")).number
            self.close(204 * share * 0.8, amps)
        self.assertEqual(hot_air(Figure.decided("T_in", 71, "°C", "inside", "")).number, 0)

    def test_better_insulation_earns_nothing_at_the_lugs(self) -> None:
        wire = wires()["6 AWG"]
        self.assertEqual(
            conductors.ampacity(wire, "small_craft", 40, insulation_c=200), conductors.ampacity(wire, "small_craft", 40)
        )

    def test_no_ampacity_where_the_school_gives_none_or_the_air_is_too_hot(self) -> None:
        self.assertEqual(conductors.ampacity(wires()["18 AWG"], "building", 30), 0)
        self.assertEqual(conductors.ampacity(wires()["6 AWG"], "small_craft", 65, insulation_c=60), 0)

    def test_conductor_reaches_its_limit_at_its_ampacity(self) -> None:
        self.assertEqual(conductors.conductor_temperature(40, 105, 100, 100), 105)
        self.assertEqual(conductors.conductor_temperature(40, 105, 0, 100), 40)


class ProtectionTest(TestCase):
    def test_interrupt_rating_falls_with_voltage_and_ends_at_the_rating(self) -> None:
        cube = families()["cube"]
        self.assertEqual([interrupt_rating(cube, v) for v in (12, 29, 58, 60)], [10_000, 5_000, 2_000, 0])

    def test_blade_fuse_opens_no_sooner_than_its_window(self) -> None:
        blade = families()["blade"]
        self.assertEqual(fastest_melting(blade, 2.0), 0.15)
        self.assertAlmostEqual(fastest_melting(blade, 1.35), 0.75)
        self.assertEqual(fastest_melting(blade, 1.0), float("inf"))
        self.assertLess(fastest_melting(blade, 12), 0.02)

    def test_melting_time_never_rises_with_current(self) -> None:
        for family in families().values():
            times = [fastest_melting(family, 1 + k / 20) for k in range(200)]
            self.assertEqual(times, sorted(times, reverse=True), family.key)

    def test_surge_asks_for_a_larger_fuse(self) -> None:
        calm = pick(10, [], 14.6, 500)
        hard = pick(10, [(60, 1.0)], 14.6, 500)
        self.assertGreater(hard.rating_a, calm.rating_a)
        self.assertTrue(rides_through(hard.family, hard.rating_a, [(60, 1.0)]))

    def test_strong_pack_gets_a_fuse_that_interrupts_its_fault(self) -> None:
        self.assertEqual(pick(120, [], 29.2, 14_000).family.key, "class-t")

    def test_wire_comes_before_comfort(self) -> None:
        self.assertLessEqual(pick(100, [], 14.6, 500, most_a=60).rating_a, 60)

    def test_pinned_rating_and_family_are_respected(self) -> None:
        chosen = pick(100, [], 14.6, 500, family="blade", rating_a=10)
        self.assertEqual((chosen.family.key, chosen.rating_a), ("blade", 10))

    def test_catalogue_rises(self) -> None:
        ratings = [p.rating_a for p in catalogue()]
        self.assertEqual(ratings, sorted(ratings))


class DayTest(TestCase):
    def day(self, *spans: tuple[float, float]) -> Day:
        windows = {f"w{i}": {"from_h": a, "to_h": b} for i, (a, b) in enumerate(spans)}
        return judge(document(loads={"items": {"a": {"name": "A", "watts": 1, "windows": windows}}})).loads.day

    def hours_on(self, day: Day) -> float:
        return sum(h for h, on in zip(day.hours, day.on["a"], strict=True) if on)

    def test_windows_past_midnight_and_overlaps(self) -> None:
        self.assertAlmostEqual(self.hours_on(self.day((22, 6))), 8)
        self.assertAlmostEqual(self.hours_on(self.day((8, 12), (10, 14))), 6)
        self.assertAlmostEqual(self.hours_on(self.day((0, 24))), 24)

    def test_energy_between_charges_wraps_over_midnight(self) -> None:
        day = self.day((22, 2))
        power = [1.0 if on else 0.0 for on in day.on["a"]]
        self.assertAlmostEqual(day.energy_between(power, 20, 4), 2)
        self.assertAlmostEqual(day.energy_between(power, 20, 24), 4)
        self.assertAlmostEqual(day.energy_between(power, 23, 30), 4 + 3)
