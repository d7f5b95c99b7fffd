"""Every figure that the trade publishes, written out a second time: a digit slipped in a table sizes a wire or a fuse wrongly."""

from typing import ClassVar
from unittest import TestCase

from kegcart.core.electrical.protection import fastest_melting, interrupt_rating
from kegcart.core.reference import (
    assumption,
    bundling,
    busbars,
    chemistries,
    cold_capacity,
    cold_resistance,
    connectors,
    constant,
    families,
    insulations,
    link_materials,
    load_kinds,
    wires,
)

AWG = ("18", "16", "14", "12", "10", "8", "6", "4", "2", "1", "1/0", "2/0", "3/0", "4/0")
AWG_SMALL_CRAFT = {
    60: (10, 15, 20, 25, 40, 55, 80, 105, 140, 165, 195, 225, 260, 300),
    75: (10, 15, 20, 25, 40, 65, 95, 125, 170, 195, 230, 265, 310, 360),
    90: (20, 25, 30, 40, 55, 70, 100, 135, 180, 210, 245, 285, 330, 385),
    105: (20, 25, 35, 45, 60, 80, 120, 160, 210, 245, 285, 330, 385, 445),
}
AWG_BUILDING = (None, None, 20, 25, 35, 50, 65, 85, 115, 130, 150, 175, 200, 230)
AWG_LARGEST_FUSE = (None, None, 15, 20, 30, *[None] * 9)

METRIC = ("0.75", "1", "1.5", "2.5", "4", "6", "10", "16", "25", "35", "50", "70", "95", "120")
METRIC_SMALL_CRAFT = {
    60: (6, 8, 12, 17, 22, 29, 40, 54, 71, 87, 105, 135, 165, 190),
    70: (10, 14, 18, 25, 35, 45, 65, 90, 120, 160, 210, 265, 310, 360),
    85: (12, 18, 21, 30, 40, 50, 70, 100, 140, 185, 230, 285, 330, 400),
    105: (16, 20, 25, 35, 45, 60, 90, 130, 170, 210, 270, 330, 390, 450),
}
METRIC_BUILDING = (None, None, 19.5, 27, 36, 46, 63, 85, 112, 138, 168, 213, 258, 299)


class Ampacity(TestCase):
    def test_american_gauges_in_both_schools(self) -> None:
        for i, (gauge, building, fuse) in enumerate(zip(AWG, AWG_BUILDING, AWG_LARGEST_FUSE, strict=True)):
            wire = wires()[f"{gauge} AWG"]
            with self.subTest(gauge):
                self.assertEqual(dict(wire.columns["small_craft"]), {c: amps[i] for c, amps in AWG_SMALL_CRAFT.items()})
                self.assertEqual(dict(wire.columns["building"]), {75: building} if building else {})
                self.assertEqual(wire.max_fuse_a, {"small_craft": None, "building": fuse})

    def test_metric_sizes_in_both_schools(self) -> None:
        for i, (size, building) in enumerate(zip(METRIC, METRIC_BUILDING, strict=True)):
            wire = wires()[f"{size} mm²"]
            with self.subTest(size):
                self.assertEqual(wire.area_mm2, float(size))
                self.assertEqual(dict(wire.columns["small_craft"]), {c: amps[i] for c, amps in METRIC_SMALL_CRAFT.items()})
                self.assertEqual(dict(wire.columns["building"]), {70: building} if building else {})

    def test_what_insulations_stand_in_a_short(self) -> None:
        self.assertEqual({k: i.final_c for k, i in insulations().items()}, {"pvc": 160, "cross-linked": 250, "silicone": 350})

    def test_areas_of_american_gauges_follow_their_law(self) -> None:
        for gauge in AWG:
            n = 1 - int(gauge[0]) if "/0" in gauge else int(gauge)
            diameter = 0.127 * 92 ** ((36 - n) / 39)
            self.assertAlmostEqual(wires()[f"{gauge} AWG"].area_mm2 / (3.14159265 / 4 * diameter**2), 1, delta=1e-4, msg=gauge)

    def test_no_other_sizes_are_offered(self) -> None:
        self.assertEqual(set(wires()), {f"{g} AWG" for g in AWG} | {f"{s} mm²" for s in METRIC})

    def test_bundles(self) -> None:
        self.assertEqual([(n, factor) for n, factor, _ in bundling()], [(2, 1.0), (3, 0.7), (6, 0.6), (24, 0.5), (999, 0.4)])


class Protection(TestCase):
    RATINGS: ClassVar[dict[str, str]] = {
        "blade": "1 2 3 4 5 7.5 10 15 20 25 30 35 40",
        "large-blade": "20 25 30 35 40 50 60 70 80 100",
        "bolt-in-small": "30 40 50 60 70 80 100 125 150 200",
        "bolt-in-large": "60 80 100 125 150 175 200 225 250 300 350 400 450 500",
        "strip": "35 50 60 80 100 125 150 175 200 225 250 300 325 350 400 500",
        "cube": "30 40 50 60 75 80 90 100 125 150 175 200 225 250 300",
        "class-t": "30 40 50 60 70 80 90 100 110 125 150 175 200 225 250 300 350 400",
        "nh": "16 20 25 32 35 40 50 63 80 100 125 160",
        "din-breaker": "6 10 16 20 25 32 40 50 63 80 100 125",
        "surface-breaker": "25 30 40 50 60 80 100 120 150 200 250 300",
    }
    #: (family, volts, what it opens): the lower end where a range is published
    INTERRUPTS = (
        ("blade", 32, 1000), ("large-blade", 32, 1000), ("bolt-in-small", 58, 1000), ("bolt-in-large", 70, 2000),
        ("strip", 32, 6000), ("strip", 80, 2700), ("cube", 14, 10_000), ("cube", 32, 5000), ("cube", 58, 2000),
        ("class-t", 125, 20_000), ("nh", 250, 25_000), ("din-breaker", 60, 6000), ("surface-breaker", 48, 2000),
    )  # fmt: skip

    def test_ratings_sold(self) -> None:
        for key, ratings in self.RATINGS.items():
            self.assertEqual(families()[key].ratings_a, tuple(float(r) for r in ratings.split()), key)
        self.assertEqual(set(families()) - set(self.RATINGS), {"ac-only", "cartridge", "blade-58", "nh2"})

    def test_voltage_ratings(self) -> None:
        for key, volts in (
            ("blade", 32), ("large-blade", 32), ("bolt-in-small", 58), ("bolt-in-large", 70), ("strip", 80), ("cube", 58),
            ("class-t", 125), ("nh", 250), ("din-breaker", 60), ("surface-breaker", 48), ("ac-only", 0), ("cartridge", 1000),
            ("blade-58", 58), ("nh2", 250),
        ):  # fmt: skip
            self.assertEqual(families()[key].v_dc, volts, key)

    def test_what_each_opens(self) -> None:
        for key, volts, amps in self.INTERRUPTS:
            self.assertEqual(interrupt_rating(families()[key], volts), amps, f"{key} at {volts} V")
            self.assertLessEqual(interrupt_rating(families()[key], volts + 0.1), amps)
        for key in self.RATINGS:
            last = max(v for v, _ in families()[key].interrupts)
            self.assertEqual(interrupt_rating(families()[key], last + 1), 0, f"{key} beyond its voltage")

    def test_fastest_melting(self) -> None:
        for key, points in (
            ("blade", ((1.35, 0.75), (1.6, 0.25), (2.0, 0.15), (3.5, 0.04), (6.0, 0.02))),
            ("bolt-in-large", ((1.35, 120), (2.0, 1), (3.5, 0.3), (5.0, 0.1))),
            ("cube", ((1.35, 120), (2.0, 1), (3.5, 0.3), (5.0, 0.1))),
            ("class-t", ((2.0, 1), (5.0, 0.02))),
        ):
            for multiple, seconds in points:
                self.assertAlmostEqual(
                    fastest_melting(families()[key], multiple), seconds, places=9, msg=f"{key} at {multiple} ×"
                )

    def test_margins(self) -> None:
        for key, value in (
            ("fuse_margin", 1.25), ("selectivity", 1.6), ("main_unfused", 0.18), ("main_unfused_sheathed", 1.0), ("fuse_drop", 0.08),
            ("breaker_drop", 0.1), ("drop_main", 0.02), ("drop_outlet", 0.03), ("closed_box_bar", 0.8), ("lugs_on_stud", 4),
        ):  # fmt: skip
            self.assertEqual(constant(key), value, key)


class Busbars(TestCase):
    def test_copper_bars_in_free_air(self) -> None:
        published = {
            "12×2": 108, "15×2": 128, "15×3": 162, "20×3": 204, "20×5": 274, "25×3": 245, "25×5": 327, "30×5": 379,
            "30×10": 573, "40×5": 482, "40×10": 715,
        }  # fmt: skip
        self.assertEqual({key: bar.ampacity_a for key, bar in busbars().items()}, published)


class Chemistry(TestCase):
    #: v_min, v_nom, v_max, least °C for charging, daily window
    CELLS: ClassVar[dict[str, tuple[float, ...]]] = {
        "lfp": (2.50, 3.20, 3.65, 0, 0.10, 0.95),
        "nmc": (2.80, 3.60, 4.20, 0, 0.15, 0.90),
        "lto": (1.60, 2.30, 2.80, -20, 0.05, 0.95),
        "na-ion": (1.50, 3.00, 3.95, -10, 0.10, 0.95),
        "agm": (1.75, 2.00, 2.40, -15, 0.50, 1.00),
        "flooded": (1.75, 2.00, 2.40, -15, 0.50, 1.00),
    }
    SOC = (0, 5, 10, 20, 30, 40, 50, 60, 70, 80, 90, 100)
    RESTED: ClassVar[dict[str, tuple[float, ...]]] = {
        "lfp": (2.60, 3.05, 3.20, 3.25, 3.28, 3.295, 3.30, 3.31, 3.325, 3.33, 3.335, 3.42),
        "nmc": (3.00, 3.30, 3.43, 3.55, 3.61, 3.65, 3.70, 3.78, 3.87, 3.97, 4.07, 4.18),
    }
    AGM_12_V = (11.5, 11.65, 11.75, 11.95, 12.05, 12.15, 12.25, 12.35, 12.48, 12.60, 12.73, 12.88)

    def test_voltages_temperatures_and_windows(self) -> None:
        for key, figures in self.CELLS.items():
            row = chemistries()[key]
            self.assertEqual((row.v_min, row.v_nom, row.v_max, row.charge_min_c, row.window_low, row.window_high), figures, key)

    def test_rates_and_lives(self) -> None:
        for key, prismatic, cylindrical, low, high in (
            ("lfp", 1, 3, 3000, 5000), ("nmc", 1, 2, 500, 1000), ("lto", 5, 5, 10_000, 20_000), ("na-ion", 2, 2, 2000, 4000),
            ("agm", 0.2, 0.2, 400, 600), ("flooded", 0.1, 0.1, 500, 1000),
        ):  # fmt: skip
            row = chemistries()[key]
            self.assertEqual((row.c_prismatic, row.c_cylindrical), (prismatic, cylindrical), key)
            self.assertTrue(low <= row.cycles <= high, key)

    def test_energy_of_a_kilogram(self) -> None:
        for key, low, high in (
            ("lfp", 120, 165), ("nmc", 200, 260), ("lto", 60, 90), ("na-ion", 100, 150), ("agm", 30, 40), ("flooded", 30, 40),
        ):  # fmt: skip
            self.assertTrue(low <= chemistries()[key].wh_per_kg <= high, key)

    def test_peukert(self) -> None:
        self.assertTrue(1.08 <= (chemistries()["agm"].peukert or 0) <= 1.15)
        self.assertTrue(1.2 <= (chemistries()["flooded"].peukert or 0) <= 1.3)
        self.assertTrue(all(chemistries()[key].peukert is None for key in ("lfp", "nmc", "lto", "na-ion")))

    def test_rested_voltages(self) -> None:
        for key, volts in self.RESTED.items():
            for percent, v in zip(self.SOC, volts, strict=True):
                self.assertAlmostEqual(chemistries()[key].open_circuit(percent / 100), v, places=9, msg=f"{key} at {percent} %")
        for percent, v in zip(self.SOC, self.AGM_12_V, strict=True):
            self.assertAlmostEqual(
                6 * chemistries()["agm"].open_circuit(percent / 100), v, delta=0.006, msg=f"AGM at {percent} %"
            )

    def test_cold(self) -> None:
        for celsius, capacity, resistance in (
            (-20, 0.60, 4.0), (-10, 0.75, 2.7), (0, 0.88, 1.9), (10, 0.95, 1.4), (25, 1.0, 1.0), (40, 1.0, 0.85),
            (5, 0.915, 1.65), (-15, 0.675, 3.35), (-40, 0.60, 4.0), (60, 1.0, 0.85),
        ):  # fmt: skip
            self.assertAlmostEqual(cold_capacity(celsius), capacity, places=9, msg=f"{celsius} °C")
            self.assertAlmostEqual(cold_resistance(celsius), resistance, places=9, msg=f"{celsius} °C")


class Practice(TestCase):
    def test_surges_lie_within_what_is_published(self) -> None:
        for key, low, high in (
            ("heater", 1, 1), ("electronics", 1, 1.5), ("led", 1.5, 1.5), ("brushed", 2, 3), ("induction", 3, 7),
            ("compressor", 3, 6), ("pump", 3, 5), ("air-compressor", 4, 7), ("microwave", 1.5, 1.5),
        ):  # fmt: skip
            self.assertTrue(low <= load_kinds()[key].surge <= high, key)

    def test_converters_adapters_and_inverters(self) -> None:
        for key, low, high in (
            ("converter_eta", 0.90, 0.95), ("usb_eta", 0.90, 0.95), ("adapter_eta", 0.85, 0.85), ("inverter_idle", 0.008, 0.008),
            ("inverter_eta_part", 0.92, 0.92), ("inverter_eta_full", 0.88, 0.88), ("inverter_derate", 0.01, 0.01),
            ("inverter_load", 0.8, 0.8), ("inverter_surge", 2, 2), ("inverter_surge_time", 1, 5), ("precharge_24", 1000, 1000),
            ("precharge_36", 500, 500), ("precharge_current", 2, 2), ("rc_share", 0.4, 0.4), ("rc_time", 30, 60),
        ):  # fmt: skip
            self.assertTrue(low <= constant(key) <= high, key)

    def test_links(self) -> None:
        nickel, plated, copper = (link_materials()[key] for key in ("nickel", "plated", "copper"))
        self.assertEqual(nickel.rho, 0.070)
        self.assertAlmostEqual(plated.rho, 6 * nickel.rho)
        self.assertAlmostEqual(plated.limit_a_mm2 / nickel.limit_a_mm2, 1 / 3, delta=0.02)
        self.assertTrue(2 <= copper.limit_a_mm2 <= 3)
        self.assertTrue(6 <= 8 * 0.15 * nickel.limit_a_mm2 <= 7.2)

    def test_panel_connectors(self) -> None:
        for key, amps in (
            ("accessory", 10), ("bullet-30", 15), ("blade-30", 30), ("blade-45", 45), ("two-pole-50", 50), ("two-pole-120", 120),
            ("two-pole-175", 175), ("post-m6", 60), ("post-m8", 150),
        ):  # fmt: skip
            self.assertEqual(connectors()[key].rating_a, amps, key)
        self.assertEqual([connectors()[f"usb-c-{w}"].rating_w for w in (30, 60, 100, 240)], [30, 60, 100, 240])

    def test_sorting_of_cells(self) -> None:
        for key, value in (
            ("reject_capacity", 0.8), ("reject_resistance", 1.5), ("reject_arrival", 2.0), ("reject_drop", 0.03),
            ("spread_new", 0.003), ("spread_reclaimed", 0.01), ("group_resistance", 0.15), ("join_rate", 0.2), ("join_cell_v", 0.01),
            ("most_strings", 4),
        ):  # fmt: skip
            self.assertEqual(constant(key), value, key)

    def test_what_is_typical_says_so_and_can_be_told_from_a_standard(self) -> None:
        self.assertEqual(assumption("copper_resistivity").basis.kind, "standard")
        self.assertEqual(assumption("inverter_idle").basis.kind, "typical")
        self.assertEqual((constant("copper_resistivity"), constant("copper_coefficient")), (0.017241, 0.00393))
