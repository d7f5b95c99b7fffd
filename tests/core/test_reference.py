"""The tables of the trade: complete, in order, each row with its source. A builder sizes a fuse by what stands there."""

from itertools import pairwise
from unittest import TestCase

from kegcart.core.brief.document import OUTLET_VOLTAGE
from kegcart.core.electrical import conductors
from kegcart.core.loads.document import Kind
from kegcart.core.pack.document import ChemistryKey
from kegcart.core.reference import (
    TABLES,
    appliances,
    assumption,
    battery_types,
    bundling,
    busbars,
    cell_types,
    chemistries,
    cold_capacity,
    cold_resistance,
    connectors,
    families,
    inverter_classes,
    link_materials,
    load_kinds,
    prices,
    read_table,
    sizes,
    wires,
)


class EveryTable(TestCase):
    def test_each_row_has_its_source_and_basis(self) -> None:
        for file in TABLES.glob("*.csv"):
            for n, row in enumerate(read_table(file.stem), 2):
                with self.subTest(f"{file.stem}, line {n}"):
                    if file.stem != "melting" or "source" in row:
                        self.assertGreater(len(row["source"]), 8)
                        self.assertIn(row["basis"], ("standard", "typical", "maker"))

    def test_keys_are_unique(self) -> None:
        for name in (
            "assumptions",
            "appliances",
            "batteries",
            "cells",
            "chemistries",
            "connectors",
            "load_kinds",
            "protections",
            "sizes",
        ):
            keys = [row["key"] for row in read_table(name)]
            self.assertEqual(len(keys), len(set(keys)), name)

    def test_every_assumption_is_a_figure_with_unit_and_label(self) -> None:
        for row in read_table("assumptions"):
            leaf = assumption(row["key"])
            self.assertTrue(leaf.label and leaf.symbol)
            self.assertTrue(leaf.number > 0 or leaf.unit == "°C", row["key"])


class Wires(TestCase):
    def test_thicker_wire_carries_more_in_both_schools(self) -> None:
        for system in ("awg", "mm2"):
            for school in ("small_craft", "building"):
                wires = [w for w in conductors.gauges(system) if w.columns[school]]  # type: ignore[arg-type]
                for insulation_c in (60, 75, 90, 105):
                    able = [conductors.ampacity(w, school, 30, insulation_c) for w in wires]  # type: ignore[arg-type]
                    self.assertTrue(all(a < b for a, b in pairwise(able)), f"{system} {school} {insulation_c} °C")

    def test_bundling_takes_more_the_more_there_are(self) -> None:
        self.assertEqual([conductors.bundle_factor(n) for n in (1, 2, 3, 4, 6, 7, 24, 25)], [1, 1, 0.7, 0.6, 0.6, 0.5, 0.5, 0.4])
        self.assertEqual([factor for _, factor, _ in bundling()], sorted((f for _, f, _ in bundling()), reverse=True))

    def test_heat_and_poor_insulation_take_ampacity_and_good_insulation_earns_none(self) -> None:
        wire = wires()["25 mm²"]
        base = conductors.ampacity(wire, "small_craft", 30)
        self.assertEqual(base, 170)
        self.assertLess(conductors.ampacity(wire, "small_craft", 50), base)
        self.assertLess(conductors.ampacity(wire, "small_craft", 30, insulation_c=75), base)
        self.assertEqual(conductors.ampacity(wire, "small_craft", 30, insulation_c=200), base)
        self.assertEqual(conductors.ampacity(wire, "small_craft", 110), 0)


class Chemistries(TestCase):
    def test_the_document_knows_the_same_chemistries(self) -> None:
        self.assertEqual(set(chemistries()), set(ChemistryKey.__args__))  # type: ignore[attr-defined]

    def test_voltages_windows_and_curves_are_in_order(self) -> None:
        for row in chemistries().values():
            self.assertTrue(row.v_min < row.v_low < row.v_max and row.v_min < row.v_nom < row.v_max, row.label)
            self.assertTrue(0 <= row.window_low < row.window_high <= 1)
            self.assertTrue(all(a < b for a, b in pairwise(row.ocv_v)), f"{row.label}: the rested voltage rises with charge")
            self.assertTrue(row.v_min - 0.35 <= row.open_circuit(0) and row.open_circuit(1) <= row.v_max)
            self.assertGreaterEqual(row.open_circuit(row.window_low), row.v_min)

    def test_voltage_classes_fit_the_windows_of_the_inverters(self) -> None:
        for row in chemistries().values():
            for volts, series in row.classes.items():
                window = next(c for c in inverter_classes() if c.class_v == volts)
                self.assertLessEqual(series * row.v_max, min(window.window_max_v, 60) + 0.3, f"{row.label}, {volts} V")
                self.assertGreaterEqual(series * row.open_circuit(row.window_high), window.window_min_v)

    def test_cold_takes_capacity_and_raises_resistance(self) -> None:
        degrees = range(-30, 45, 5)
        self.assertTrue(all(cold_capacity(a) <= cold_capacity(b) for a, b in pairwise(degrees)))
        self.assertTrue(all(cold_resistance(a) >= cold_resistance(b) for a, b in pairwise(degrees)))
        self.assertEqual((cold_capacity(0), cold_resistance(0)), (0.88, 1.9))


class Protections(TestCase):
    def test_ratings_rise_and_interrupt_ratings_fall_with_voltage(self) -> None:
        for family in families().values():
            self.assertEqual(list(family.ratings_a), sorted(family.ratings_a))
            amps = [a for _, a in family.interrupts]
            self.assertEqual(amps, sorted(amps, reverse=True), family.label)
            if family.v_dc > 0:
                self.assertGreaterEqual(max(v for v, _ in family.interrupts), family.v_dc)

    def test_melting_times_fall_with_current(self) -> None:
        for family in families().values():
            self.assertEqual(list(family.multiples), sorted(family.multiples))
            self.assertEqual(list(family.fastest_s), sorted(family.fastest_s, reverse=True), family.label)


class Parts(TestCase):
    def test_busbars_carry_more_with_their_section(self) -> None:
        def area(key: str) -> float:
            w, t = key.split("×")
            return float(w) * float(t)

        for a in busbars().values():
            for b in busbars().values():
                if area(b.key) > 1.6 * area(a.key):
                    self.assertGreater(b.ampacity_a, a.ampacity_a)
        self.assertEqual(busbars()["20×5"].ampacity_a, 274)

    def test_sizes_rise(self) -> None:
        for row in read_table("sizes"):
            self.assertEqual(list(sizes(row["key"]).sizes), sorted(sizes(row["key"]).sizes))

    def test_outlets_of_each_mains_are_there(self) -> None:
        for volts in set(OUTLET_VOLTAGE.values()):
            self.assertGreaterEqual(sum(c.mains_v == volts for c in connectors().values()), 3)

    def test_reference_cells_agree_with_their_chemistry(self) -> None:
        formats = {c.format for c in cell_types().values()}
        self.assertLessEqual({"18650", "21700", "26650", "32700", "pouch", "prismatic"}, formats)
        self.assertLessEqual(50, max(c.capacity_ah for c in cell_types().values() if c.format == "prismatic"))
        for cell in cell_types().values():
            energy = cell.capacity_ah * chemistries()[cell.chemistry].v_nom
            self.assertTrue(40 < energy / cell.mass_kg < 290, f"{cell.label}: {energy / cell.mass_kg:.0f} Wh/kg")
            self.assertTrue(0.2 < cell.continuous_a / cell.capacity_ah < 12)

    def test_reclaimed_modules_of_each_count_are_there(self) -> None:
        self.assertLessEqual({7, 10, 13, 14}, {b.series for b in battery_types().values() if b.form == "module"})

    def test_links_carry_what_practice_says(self) -> None:
        materials = link_materials()
        self.assertTrue(5 <= materials["nickel"].limit_a_mm2 <= 6)
        self.assertTrue(2 <= materials["copper"].limit_a_mm2 <= 3)
        self.assertAlmostEqual(materials["plated"].rho / materials["nickel"].rho, 6)

    def test_kinds_of_load_are_those_of_the_document(self) -> None:
        self.assertEqual(set(load_kinds()), set(Kind.__args__))  # type: ignore[attr-defined]
        self.assertTrue(all(1 <= k.surge <= 7 and 0 < k.power_factor <= 1 for k in load_kinds().values()))

    def test_appliances_cover_every_supply(self) -> None:
        self.assertEqual({a.supply for a in appliances().values()}, {"ac", "dc_12v", "usb", "pack"})

    def test_prices_rise_with_the_rating(self) -> None:
        for price in prices().values():
            self.assertLess(price.of(10), price.of(1000))
