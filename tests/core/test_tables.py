"""Tables that people paste: read as they meant, or refused by line and column with nothing taken in."""

from datetime import date
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.loads.document import Loads
from kegcart.core.loads.table import read_loads, write_loads
from kegcart.core.pack.curve import read_curve
from kegcart.core.pack.rack import Measured, Pile, RejectLimits, body_of, read_cells, reject_reasons
from kegcart.core.table import TableError, number, write_csv
from tests.core.samples import demo, judge


def cells(text: str, **defaults: object) -> list[Measured]:
    table = read_cells(text, Measured(**defaults))  # type: ignore[arg-type]
    assert not table.problems, [str(p) for p in table.problems]
    return table.cells


class Numbers(TestCase):
    def test_marks_of_many_countries(self) -> None:
        for text, value in (
            ("2,31", 2.31), ("2.31", 2.31), ("1.234,5", 1234.5), ("1,234.5", 1234.5), ("1 234", 1234), ("−3", -3), (".5", 0.5), ("2e3", 2000),
        ):  # fmt: skip
            self.assertAlmostEqual(number(text)[0], value, msg=text)

    def test_a_unit_behind_it_is_handed_on(self) -> None:
        self.assertEqual(number("2310 mAh"), (2310, "mAh"))

    @given(st.text(max_size=12))
    def test_nothing_else_gets_through(self, text: str) -> None:
        try:
            value, _ = number(text)
        except ValueError:
            return
        self.assertIsInstance(value, float)


class Cells(TestCase):
    def test_headers_in_any_order_with_units_named(self) -> None:
        one = cells("voltage V;IR (mOhm);cell;capacity mAh\n4,12;44,2;A-1;2310\n")[0]
        self.assertEqual((one.label, one.capacity_ah, one.resistance_mohm, one.resting_v), ("A-1", 2.31, 44.2, 4.12))

    def test_byte_order_mark_tabs_and_windows_line_ends(self) -> None:
        one = cells("\ufefflabel\tcapacity (Ah)\tresistance (Ω)\r\nB2\t2.31\t0.0442\r\n")[0]
        self.assertEqual((one.label, one.capacity_ah, one.resistance_mohm), ("B2", 2.31, 44.2))

    def test_units_are_guessed_by_size_and_marked_as_guessed(self) -> None:
        table = read_cells("label,capacity,resistance\nA,2310,0.044\nB,2290,0.046\n", Measured())
        self.assertEqual((table.cells[0].capacity_ah, table.cells[0].resistance_mohm), (2.31, 44.0))
        self.assertEqual([(c.unit, c.guessed) for c in table.columns], [("", False), ("mAh", True), ("Ω", True)])

    def test_the_builder_can_set_a_column_right(self) -> None:
        text = "label,first,second\nA,2310,44\n"
        self.assertTrue(read_cells(text, Measured()).problems)
        table = read_cells(text, Measured(), {1: ("capacity_ah", "mAh"), 2: ("resistance_mohm", "mΩ")})
        self.assertEqual((table.cells[0].capacity_ah, table.cells[0].resistance_mohm), (2.31, 44))

    def test_without_headers_the_usual_order_is_taken_and_marked(self) -> None:
        table = read_cells("A1;2600;2310;44\n", Measured())
        self.assertEqual(table.cells[0].capacity_ah, 2.31)
        self.assertTrue(table.columns[0].guessed)

    def test_a_bad_line_is_named_and_nothing_is_taken_in(self) -> None:
        table = read_cells("label;capacity mAh\nA;2310\nB;many\nC;2290\n", Measured())
        self.assertEqual(table.cells, [])
        self.assertEqual([(p.line, p.column) for p in table.problems], [(3, 2)])
        self.assertIn("'many' is not a number", table.problems[0].text)

    def test_each_kind_of_bad_cell_has_its_line(self) -> None:
        for row, words in (
            ("A;-3;4", "out of range"),
            ("A;2.3;44 kg", "is not a unit"),
            ("A;9e9;44", "out of range"),
            ("x" * 41 + ";2.3;4", "longer than 40"),
        ):
            table = read_cells(f"label;capacity Ah;resistance mΩ\n{row}\n", Measured())
            self.assertEqual(table.problems[0].line, 2, row)
            self.assertIn(words, table.problems[0].text)

    def test_labels_twice_in_the_table_or_on_the_rack(self) -> None:
        table = read_cells("label;capacity Ah\nA;2\nA;2\nB;2\n", Measured(), taken=frozenset({"B"}))
        self.assertEqual([p.line for p in table.problems], [3, 4])

    def test_dates_chemistries_and_yes_or_no(self) -> None:
        text = "label;capacity Ah;date;later date;chemistry;damaged\nA;2.3;14.3.2026;2026-03-28;LFP;yes\n"
        one = cells(text)[0]
        self.assertEqual(
            (one.resting_on, one.later_on, one.chemistry, one.damaged), (date(2026, 3, 14), date(2026, 3, 28), "lfp", True)
        )

    def test_the_way_of_measuring_is_read_from_the_header(self) -> None:
        self.assertEqual(cells("label;capacity Ah;DCIR mOhm\nA;2;60\n")[0].resistance_by, "dc")
        self.assertEqual(cells("label;capacity Ah;ACIR mOhm\nA;2;60\n", resistance_by="dc")[0].resistance_by, "1khz")

    def test_empty_and_hopeless_tables(self) -> None:
        with self.assertRaises(TableError):
            read_cells("  \n ", Measured())
        self.assertTrue(read_cells("name;colour\nA;red\n", Measured()).problems)
        self.assertTrue(read_cells("label;capacity Ah\n", Measured()).problems)

    @given(st.text(max_size=200))
    def test_any_text_is_read_or_refused_in_words(self, text: str) -> None:
        try:
            table = read_cells(text, Measured())
        except TableError as error:
            self.assertTrue(error.problems)
            return
        self.assertTrue(table.cells or table.problems)


class Rejects(TestCase):
    def reasons(self, **measured: object) -> list[str]:
        typical = [Measured(capacity_ah=2.3, resistance_mohm=40.0) for _ in range(9)]
        cell = Measured(label="X", rated_ah=2.6, **measured)  # type: ignore[arg-type]
        return reject_reasons(cell, Pile.of([*typical, cell]), RejectLimits())

    def test_a_sound_cell_has_none(self) -> None:
        self.assertEqual(self.reasons(capacity_ah=2.2, resistance_mohm=45, resting_v=4.1, later_v=4.09), [])

    def test_each_limit_gives_its_reason_with_its_figure(self) -> None:
        self.assertIn("75 % of rated".replace(" %", "%"), self.reasons(capacity_ah=1.95)[0])
        self.assertIn("resistance 1.6 ×", self.reasons(resistance_mohm=64)[0])
        self.assertIn("1.50 V on arrival", self.reasons(resting_v=1.5)[0])
        self.assertIn("40 mV in 14 days", self.reasons(resting_v=4.1, later_v=4.06)[0])
        self.assertIn("damaged", self.reasons(damaged=True)[0])
        self.assertIn("4.12 V, over the 3.65 V of LFP", self.reasons(chemistry="lfp", resting_v=4.12)[0])

    def test_a_cell_of_a_known_format_has_its_shape_and_size(self) -> None:
        round_ = {"shape": "cylindrical", "width_mm": 18.5, "thickness_mm": 18.5, "height_mm": 65.0}
        self.assertEqual(body_of("18650", "lfp", 2.1), round_)
        self.assertEqual(body_of("a tin can", "lfp", 2.1), {})

    def test_a_loss_over_other_days_is_calculated_to_fourteen(self) -> None:
        slow = {"resting_v": 4.1, "later_v": 4.06, "resting_on": date(2026, 1, 1), "later_on": date(2026, 1, 29)}
        self.assertEqual(self.reasons(**slow), [])

    def test_the_two_ways_of_measuring_have_medians_of_their_own(self) -> None:
        cells = [Measured(resistance_mohm=40.0)] * 5 + [Measured(resistance_mohm=75.0, resistance_by="dc")] * 5
        self.assertEqual(reject_reasons(cells[-1], Pile.of(cells), RejectLimits()), [])

    def test_moved_limits_change_the_verdict(self) -> None:
        cell = Measured(label="X", capacity_ah=2.0, rated_ah=2.6)
        self.assertTrue(reject_reasons(cell, Pile.of([cell]), RejectLimits()))
        self.assertFalse(reject_reasons(cell, Pile.of([cell]), RejectLimits(capacity_share=0.7)))


class LoadTables(TestCase):
    def test_a_spreadsheet_of_loads(self) -> None:
        table = read_loads("Load\tWatts\tQty\tHours\tSupply\nLamp\t12,5\t4\t18-22:30\t12 V\nPump\t0.5 kW\t1\t2\tAC\n")
        self.assertEqual(table.problems, [])
        lamp, pump = table.loads
        self.assertEqual((lamp["name"], lamp["watts"], lamp["count"], lamp["supply"]), ("Lamp", 12.5, 4, "dc_12v"))
        self.assertEqual(lamp["windows"]["w1"], {"from_h": 18, "to_h": 22.5})
        self.assertEqual((pump["watts"], pump["windows"]["w1"]), (500, {"from_h": 9, "to_h": 11}))

    def test_bad_cells_are_named_and_nothing_is_taken(self) -> None:
        table = read_loads(
            "name;watts;count;hours\nLamp;12;1;9-12\nSaw;1e9;1;9-12\nFan;20;1.5;9-12\nKettle;900;1;9 to 11 o'clock\n"
        )
        self.assertEqual(table.loads, [])
        self.assertEqual([p.line for p in table.problems], [3, 4, 5])

    def test_name_and_watts_are_wanted(self) -> None:
        self.assertTrue(read_loads("what\nLamp\n").problems)

    def test_what_is_written_reads_back(self) -> None:
        for name in ("lantern-lane", "tidewater", "wobbly-stall", "hollow-oak"):
            assessment = judge(demo(name))
            loads: Loads = assessment.design.loads
            text = write_loads(loads, {k: d.watts.number for k, d in assessment.loads.demands.items()})
            table = read_loads(text)
            self.assertEqual([str(p) for p in table.problems], [])
            for row, load in zip(table.loads, loads.items.values(), strict=True):
                self.assertEqual(
                    (row["name"], row["supply"], row["count"], row["kind"]), (load.name, load.supply, load.count, load.kind)
                )
                self.assertAlmostEqual(row["watts"], load.watts or 0, places=3)
                written = [(w["from_h"], w["to_h"]) for w in row["windows"].values()]
                for (a, b), w in zip(written, load.windows.values(), strict=True):
                    self.assertAlmostEqual(a, w.from_h, delta=0.01)
                    self.assertAlmostEqual(b, w.to_h, delta=0.01)

    def test_a_formula_in_a_name_is_not_run_by_a_spreadsheet(self) -> None:
        self.assertIn("'=1+1", write_csv(["name"], [["=1+1"]]))


class Curves(TestCase):
    def test_charge_taken_becomes_state_of_charge(self) -> None:
        curve = read_curve("Ah;V\n0;3,40\n50;3,25\n100;2,50\n")
        self.assertEqual([(p["soc"], p["v"]) for p in curve["points"]], [(0, 2.5), (0.5, 3.25), (1, 3.4)])

    def test_cells_measured_together_are_divided(self) -> None:
        curve = read_curve("soc %;voltage\n100;13.6\n50;13.1\n0;10.4\n", cells=4)
        self.assertEqual(curve["points"][-1], {"soc": 1, "v": 3.4})

    def test_a_log_of_thousands_is_thinned_and_keeps_its_ends(self) -> None:
        rows = "\n".join(f"{i};{4.1 - i / 2000:.4f}" for i in range(2001))
        points = read_curve(f"mAh;V\n{rows}\n")["points"]
        self.assertLessEqual(len(points), 60)
        self.assertEqual((points[0]["soc"], points[-1]["soc"]), (0, 1))

    def test_what_is_no_curve_is_refused_with_its_line(self) -> None:
        for text in ("Ah;V\n0;3.4\n", "Ah;V\n0;3.4\n1;x\n2;3\n", "time;temperature\n1;2\n2;3\n3;4\n", "Ah;V\n0;3\n0;3\n0;2\n"):
            with self.assertRaises(TableError):
                read_curve(text)
