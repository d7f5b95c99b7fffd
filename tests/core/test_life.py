"""The life of a build: visits fall due, wear is worked out, what was entered is judged, and its table comes back the same."""

from datetime import date, timedelta
from math import sqrt
from random import Random
from typing import Any
from unittest import TestCase

from kegcart.core.assess import Assessment
from kegcart.core.design import DesignError
from kegcart.core.log.learned import as_it_stands, learned_parts, measurable, tested_pack
from kegcart.core.log.life import FORMS, EntryKind, Life, MeasuredEntry, lived, read_entry, stored_form
from kegcart.core.log.living import LifeJudged, judge_life, line_of, write_life
from kegcart.core.log.tables import read_life_csv, write_life_csv
from kegcart.core.reference import cold_capacity
from kegcart.core.reference.visits import visit_types
from kegcart.core.table import TableError
from kegcart.core.units import calendar_day
from tests.core.samples import DEMO_NAMES, demo, judge, put

LANE, TODAY = "lantern-lane", date(2026, 11, 28)
BEGUN = date(2025, 4, 26)


class Book:
    """A builder with a log."""

    def __init__(self, data: dict[str, Any] | None = None) -> None:
        self.found: Assessment = judge(data or demo(LANE))
        self.life: Life = []

    def add(self, kind: EntryKind, on: date | str, **fields: Any) -> str:
        item = f"i{len(self.life)}"
        entry = read_entry({"kind": kind, "on": str(on), **fields}, TODAY)
        self.life = sorted([*self.life, lived(item, kind, stored_form(entry))], key=lambda e: e.on)
        return item

    def measure(
        self, on: str, field: str, value: Any, place: str = "/power/network/inverter", stood: Any = None
    ) -> MeasuredEntry:
        """Enter what was measured of a part."""
        entry = read_entry({"kind": "measured", "on": on, "place": place, "field": field, "value": value}, TODAY)
        assert isinstance(entry, MeasuredEntry)
        entry = as_it_stands(entry, self.found, stood)
        self.life.append(lived(f"i{len(self.life)}", "measured", stored_form(entry)))
        return entry

    def judged(self, today: date = TODAY, built_on: date | None = None) -> LifeJudged:
        return judge_life(self.found, self.life, built_on, today)

    def said(self, today: date = TODAY) -> dict[str, str]:
        """What is found, by place."""
        return {c.place: c.finding.text for c in self.judged(today).checks if c.finding}

    def due(self, key: str, today: date = TODAY, built_on: date | None = None) -> tuple[date, str]:
        return next((v.due, v.state) for v in self.judged(today, built_on).visits if v.of.key == key)


class VisitsDue(TestCase):
    def test_nothing_is_owed_before_it_is_in_service(self) -> None:
        book = Book()
        book.add("fault", "2026-05-01", what="Socket loose")
        judged = book.judged()
        self.assertEqual((judged.since, judged.visits, judged.wear), (None, [], None))
        self.assertEqual({c.id for c in judged.checks}, {"log.fault-open"})

    def test_service_begins_with_the_last_step_or_the_first_use(self) -> None:
        book = Book()
        self.assertEqual(book.judged(built_on=BEGUN).since, BEGUN)
        book.add("use", BEGUN + timedelta(3), energy_wh=900)
        self.assertEqual(book.judged(built_on=BEGUN).since, BEGUN)
        book.add("recharge", BEGUN - timedelta(3), energy_wh=900)
        self.assertEqual(book.judged(built_on=BEGUN).since, BEGUN - timedelta(3))

    def test_the_first_after_a_week_then_each_year_from_the_last(self) -> None:
        book = Book()
        book.add("use", BEGUN, energy_wh=900)
        week = BEGUN + timedelta(7)
        self.assertEqual(book.due("torque", BEGUN), (week, "soon"))
        self.assertEqual(book.due("torque", week), (week, "soon"))
        self.assertEqual(book.due("torque", week + timedelta(1)), (week, "overdue"))
        book.add("visit", week + timedelta(2), visit="torque")
        self.assertEqual(book.due("torque"), (week + timedelta(2 + 365), "overdue"))
        self.assertEqual(book.due("torque", date(2026, 4, 19)), (date(2026, 5, 5), "later"))
        self.assertEqual(book.due("torque", date(2026, 4, 21)), (date(2026, 5, 5), "soon"))

    def test_use_counts_as_a_look_at_the_charge_and_a_test_as_its_visit(self) -> None:
        book = Book()
        book.add("use", BEGUN, energy_wh=900)
        book.add("recharge", "2026-10-01", energy_wh=900)
        book.add("capacity", "2026-06-01", capacity_ah=220)
        self.assertEqual(book.due("storage")[0], date(2026, 10, 1) + timedelta(90))
        self.assertEqual(book.due("capacity")[0], date(2027, 6, 1))

    def test_only_what_there_is_is_owed(self) -> None:
        def owed(data: dict[str, Any]) -> set[str]:
            book = Book(data)
            book.add("use", BEGUN, energy_wh=900)
            return {visit.of.key for visit in book.judged().visits}

        self.assertEqual(owed(demo(LANE)), {"torque", "balance", "capacity", "storage", "seals", "button"})
        self.assertEqual(owed(put(demo("tidewater"), "/box/case", None)), {"torque", "balance", "capacity", "storage"})
        self.assertIn("water", owed(put(demo("tidewater"), "/pack/chemistry", "flooded")))
        self.assertNotIn("balance", owed(put(demo("tidewater"), "/pack/chemistry", "agm")))

    def test_one_that_was_missed_is_a_mend_that_names_its_day(self) -> None:
        book = Book()
        book.add("use", BEGUN, energy_wh=900)
        today = BEGUN + timedelta(20)
        self.assertEqual(
            book.said(today), {"/log/visits/torque": "Each joint tightened anew: due since 3 May 2025, 13 days, never made yet."}
        )
        self.assertEqual(len(book.judged(today).checks), 7)


class Worn(TestCase):
    def test_by_hand(self) -> None:
        """Two years and 40 uses of 2.944 kWh out of 5.888: half of what it holds each."""
        book = Book()
        uses = [BEGUN + timedelta(n * 7) for n in range(40)]
        for on in uses:
            book.add("use", on, energy_wh=2944)
        wear = book.judged().wear
        assert wear is not None
        self.assertAlmostEqual(book.found.figures["pack/nominal"].number, 5888, places=0)
        calendar = 0.02 * 2 ** (((8 + 30) / 2 - 25) / 10)  # 0.01320
        cycling = 40 * 0.2 * (0.5 / 0.8) ** 1.3 / 3000  # 0.00145
        years = (TODAY - BEGUN).days / 365.25
        self.assertAlmostEqual(wear.calendar.number, calendar, places=9)
        self.assertAlmostEqual(wear.cycling.number, cycling, places=7)
        self.assertAlmostEqual(wear.left.number, 1 - calendar * years - cycling, places=7)
        self.assertAlmostEqual(wear.cycles.number, 20, places=2)
        rate = calendar + cycling / years
        assert wear.spent_on is not None
        self.assertAlmostEqual((wear.spent_on - TODAY).days, (wear.left.number - 0.8) / rate * 365.25, delta=1)
        self.assertAlmostEqual(wear.doubt.number, 2 * sqrt(2 * (0.01**2 + 0.01**2)), places=12)
        self.assertEqual(wear.course[0][0], BEGUN)
        self.assertLessEqual(wear.course[-1][1], 0.8)
        self.assertEqual(sorted(share for _, share in wear.course), [share for _, share in reversed(wear.course)])

    def test_a_deep_use_wears_more_than_two_of_half_its_depth_and_more_than_full_counts_whole(self) -> None:
        def lost(*energies: float) -> float:
            book = Book()
            for wh in energies:
                book.add("use", BEGUN, energy_wh=wh)
            wear = book.judged().wear
            assert wear is not None
            return wear.cycling.number

        whole = judge(demo(LANE)).figures["pack/nominal"].number
        self.assertGreater(lost(whole), lost(whole / 2, whole / 2))
        self.assertAlmostEqual(lost(2.5 * whole), lost(whole, whole, whole / 2))

    def test_a_test_is_brought_to_25_degrees_and_held_against_the_first(self) -> None:
        """183.2 Ah at 12 °C: 0.957 of it is there, so 191 Ah."""
        book = Book()
        book.add("use", BEGUN, energy_wh=900)
        book.add("capacity", BEGUN, capacity_ah="200 Ah")
        book.add("capacity", "2026-05-01", capacity_ah=183.2, cell_c="12 °C")
        book.add("resistance", BEGUN, resistance_mohm=3.8)
        book.add("resistance", "2026-05-01", resistance_mohm=5.32, cell_c=10)
        wear = book.judged().wear
        assert wear is not None
        self.assertEqual([t.figure.text for t in wear.capacities], ["200 Ah", "191 Ah"])
        self.assertAlmostEqual(wear.capacities[1].share.number, 183.2 / (0.95 + 0.05 * 2 / 15) / 200, places=9)
        self.assertAlmostEqual(wear.resistances[1].figure.number, 5.32e-3 / 1.4, places=9)
        self.assertAlmostEqual(wear.resistances[1].share.number, 1.0, places=9)
        self.assertIsNotNone(wear.by_trend)

    def test_without_a_test_when_new_the_design_says_what_it_held(self) -> None:
        book = Book()
        book.add("use", BEGUN, energy_wh=900)
        book.add("capacity", BEGUN + timedelta(300), capacity_ah=207)
        wear = book.judged().wear
        assert wear is not None
        self.assertAlmostEqual(wear.capacities[0].share.number, 207 / 230, places=9)
        self.assertIsNone(wear.by_trend)

    def test_the_trend_goes_straight_through_the_tests(self) -> None:
        """100 % at the beginning, 98 % after a year: 80 % after ten."""
        book = Book()
        book.add("use", BEGUN, energy_wh=900)
        book.add("capacity", BEGUN, capacity_ah=230)
        book.add("capacity", BEGUN + timedelta(365), capacity_ah=225.4)
        wear = book.judged().wear
        assert wear is not None and wear.by_trend is not None
        self.assertAlmostEqual((wear.by_trend - BEGUN).days, 3650, delta=2)

    def test_it_fades_too_fast_only_beyond_what_two_tests_may_differ_by(self) -> None:
        def said(ah: float) -> dict[str, str]:
            book = Book()
            book.add("use", BEGUN, energy_wh=900)
            book.add("capacity", BEGUN, capacity_ah=230)
            item = book.add("capacity", "2026-04-26", capacity_ah=ah)
            found = {c.id: c.finding.text for c in book.judged().checks if c.finding and c.place == f"/log/entries/{item}"}
            return found

        least = 1 - 0.0132 - 0.04
        self.assertEqual(said(230 * (least + 0.002)), {})
        self.assertIn("log.capacity-fading", said(230 * (least - 0.002)))
        self.assertNotIn("log.capacity-spent", said(230 * 0.801))
        worst = said(230 * 0.799)
        self.assertIn("log.capacity-spent", worst)
        self.assertIn("79.9 % of what it held new", worst["log.capacity-spent"])
        self.assertIn("its chemistry would have left 98.7 %", worst["log.capacity-fading"])

    def test_a_first_use_of_a_day_ahead_of_ours_has_worn_nothing_by_age(self) -> None:
        book = Book()
        book.add("use", TODAY, energy_wh=900)
        wear = book.judged(TODAY - timedelta(1)).wear
        assert wear is not None
        self.assertLessEqual(wear.left.number, 1)
        self.assertAlmostEqual(wear.left.number, 1 - wear.cycling.number)

    def test_any_life_on_any_build_is_judged_and_written(self) -> None:
        chance = Random(14)
        for name in DEMO_NAMES:
            book = Book(demo(name))
            for _ in range(60):
                on = date(2020, 1, 1) + timedelta(chance.randrange(2500))
                kind = chance.choice([*FORMS])
                fields: dict[str, Any] = {
                    "use": {"energy_wh": 10 ** chance.uniform(-1, 5)},
                    "recharge": {"energy_wh": 10 ** chance.uniform(-1, 5)},
                    "capacity": {"capacity_ah": 10 ** chance.uniform(-0.5, 3.5), "cell_c": chance.uniform(-30, 60)},
                    "resistance": {"resistance_mohm": 10 ** chance.uniform(-2, 3), "cell_c": chance.uniform(-30, 60)},
                    "photo": {"digest": "0" * 64, "width": 1600, "height": 1200, "step": "dry-fit"},
                    "visit": {"visit": chance.choice([*visit_types()])},
                    "measured": {"place": "/power/network/inverter", "field": "idle_w", "value": 14, "part": "inverter"},
                    "swap": {"was": "a", "now": "b", "place": "/power/network/nothing"},
                }.get(
                    kind,
                    {"what": "x", "place": chance.choice(["", "/pack", "/box/fittings/none"])}
                    if kind != "note"
                    else {"what": "x"},
                )
                book.add(kind, on, **fields)
            written = write_life(book.judged(), book.found)
            self.assertEqual(len(written["photos"]), sum(entry.kind == "photo" for entry in book.life))
            self.assertTrue(written["wear"] and written["visits"])
            self.assertTrue(all(0 <= point["share"] <= 1 for point in written["wear"]["course"]))
            for entry in book.life:
                title, text = line_of(entry, book.found)
                self.assertTrue(title and (text or entry.kind == "photo"))


class Faults(TestCase):
    def test_a_fault_stays_open_until_a_mend_names_it(self) -> None:
        book = Book()
        first = book.add("fault", "2026-05-01", what="Socket loose", place="/power/network/inverter")
        book.add("mend", "2026-05-02", what="Tightened")
        self.assertEqual(book.said(), {f"/log/entries/{first}": "A fault of 1 May 2026 is not mended: Socket loose."})
        written = write_life(book.judged(), book.found)
        self.assertEqual([f["what"] for f in written["faults"]], ["Socket loose"])
        self.assertEqual(written["checks"][0]["about"], "Inverter")
        book.add("mend", "2026-05-03", what="New socket", fault=first)
        self.assertEqual((book.said(), write_life(book.judged(), book.found)["faults"]), ({}, []))


class Measured(TestCase):
    def test_the_part_is_offered_as_it_was_with_what_was_measured(self) -> None:
        book = Book()
        book.measure("2026-05-01", "idle_w", "0.0142 kW")
        book.measure("2026-05-02", "window_min_v", 20.5)
        book.measure("2026-05-03", "idle_w", 14)
        (part,) = learned_parts([("Lantern Lane", book.life)], "inverter")
        self.assertEqual(part.label, "Inverter, 2 kW, 25.6 V: takes at least 20.5 V, idle draw 14 W")
        self.assertEqual(part.source, "measured in Lantern Lane, 3 May 2026")
        self.assertEqual(
            {k: part.figures[k] for k in ("rating_w", "idle_w", "window_min_v")},
            {"rating_w": 2000, "idle_w": 14, "window_min_v": 20.5},
        )
        taken = put(
            demo("hollow-oak"), "/power/network/inverter", demo("hollow-oak")["power"]["network"]["inverter"] | part.figures
        )
        self.assertEqual(judge(taken).power.inverters["inverter"].idle.number, 14)
        self.assertEqual(learned_parts([("Lantern Lane", book.life)], "converter"), [])
        self.assertEqual(line_of(book.life[-1], book.found), ("Inverter", "idle draw 14 W, measured"))

    def test_a_part_that_was_replaced_keeps_what_it_was(self) -> None:
        book = Book()
        first = stored_form(book.measure("2026-05-01", "idle_w", 14))
        book.found = judge(put(demo(LANE), "/power/network/inverter/rating_w", 3000))
        corrected = book.measure("2026-05-01", "idle_w", 15, stood=first)
        self.assertEqual(
            (corrected.called, corrected.figures["rating_w"], corrected.figures["idle_w"]), (first["called"], 2000, 15)
        )
        book.measure("2026-06-01", "idle_w", 22)
        labels = [part.label for part in learned_parts([("Lane", book.life)], "inverter")]
        self.assertEqual(labels, ["Inverter, 3 kW, 25.6 V: idle draw 22 W", "Inverter, 2 kW, 25.6 V: idle draw 15 W"])

    def test_a_tested_battery_or_cell_is_offered_as_it_was_when_new(self) -> None:
        """What it gave, over what the cold table leaves at the temperature of its cells."""
        book = Book(demo("tidewater"))
        self.assertIsNone(tested_pack("Tidewater", book.found.design.pack, book.life))
        cold = cold_capacity(-10)
        book.add("capacity", "2026-05-01", capacity_ah=42, cell_c=-10)
        book.add("resistance", "2026-05-02", resistance_mohm=30)
        book.add("capacity", "2026-09-01", capacity_ah=40)
        part = tested_pack("Tidewater", book.found.design.pack, book.life)
        assert part is not None
        self.assertEqual((part.kind, part.chemistry, part.figures["resistance_mohm"]), ("battery", "lfp", 30))
        self.assertAlmostEqual(part.figures["capacity_ah"], 42 / cold, 1)
        taken = judge(put(demo("tidewater"), "/pack/battery", part.figures))
        self.assertAlmostEqual(taken.pack.capacity.number, 42 / cold, 1)
        cells = Book(put(demo(LANE), "/pack/parallel", 2))
        cells.add("capacity", "2026-05-01", capacity_ah=470)
        part = tested_pack("Lane", cells.found.design.pack, cells.life)
        assert part is not None
        self.assertEqual((part.kind, part.figures["capacity_ah"], part.label), ("cell", 235, "LFP cell, 230 Ah: 235 Ah"))

    def test_what_is_not_measured_of_a_part_is_refused_at_its_field(self) -> None:
        book = Book()
        for place, field, value, pointer, said in (
            ("/power/network/none", "idle_w", 1, "/place", "choose a part"),
            ("/power/network/inverter", "rating_w", 1, "/field", "what is: surge rating, idle draw"),
            ("/power/network/main-fuse", "rating_a", 1, "/field", "what is: nothing"),
            ("/power/network/inverter", "idle_w", "14 V", "/value", "W"),
            ("/power/network/inverter", "idle_w", "much", "/value", "number"),
            ("/power/network/inverter", "idle_w", -1, "/value", "0"),
            ("/power/network/inverter", "idle_w", True, "/value", "needs a number"),
            ("/power/network/inverter", "__class__", 1, "/field", "is not measured of"),
        ):
            with self.assertRaises(DesignError) as refused:
                book.measure("2026-05-01", field, value, place)
            ((at, words),) = refused.exception.problems
            self.assertEqual(at, pointer, words)
            self.assertIn(said, words)
        self.assertEqual(set(measurable("switch")), {"coil_w"})


class Lines(TestCase):
    def test_two_tests_that_differ_by_a_tenth_read_differently(self) -> None:
        book = Book()
        for mohm in (3.8, 4.1):
            book.add("resistance", "2026-05-01", resistance_mohm=mohm, cell_c=20)
        said = [line_of(entry, book.found)[1] for entry in book.life]
        self.assertEqual(said, [f"{mohm} mΩ at the posts, cells at 20 °C" for mohm in (3.8, 4.1)])


class Table(TestCase):
    def book(self) -> Book:
        book = Book()
        book.add("use", BEGUN, energy_wh="2.9 kWh", remark='=2+3; "quoted", and a comma')
        book.add("recharge", BEGUN, energy_wh=3100.123456)
        fault = book.add("fault", "2025-06-01", what="-rattles", place="/box")
        book.add("mend", "2025-06-02", what="felt\nunder it", fault=fault)
        book.add("swap", "2025-06-03", was="B-07", now="B-31", place="/pack/groups/g2")
        book.add("capacity", "2025-06-04", capacity_ah=231, cell_c=-3.5)
        book.add("resistance", "2025-06-05", resistance_mohm=3.81)
        book.add("visit", "2025-06-06", visit="torque")
        book.add("note", "2025-06-07", what="мир, ζωή, naïve")
        book.add("note", "2025-06-08", what="its fan was loud", of="change")
        book.measure("2025-06-09", "idle_w", "14.5 W")
        return book

    def test_it_comes_back_the_same(self) -> None:
        book = self.book()
        back = read_life_csv("\ufeff" + write_life_csv(book.life), TODAY)
        self.assertEqual(
            [(item, entry.model_dump(mode="json")) for item, entry in back],
            [(e.item, {"kind": e.kind, **e.data}) for e in book.life],
        )

    def test_a_meters_table_is_read_as_uses(self) -> None:
        back = read_life_csv("Date;Energy kWh\n1.5.2026;1,25\n2026-05-08;0.9\n", TODAY)
        self.assertEqual(
            [(e.model_dump()["kind"], str(e.on), e.model_dump()["energy_wh"]) for _, e in back],
            [("use", "2026-05-01", 1250), ("use", "2026-05-08", 900)],
        )

    def test_what_is_wrong_is_said_with_line_and_column_and_nothing_is_taken(self) -> None:
        for text, said in (
            ("date;kWh\n2026-05-01;1.2\n2026-05-02;x\n", "line 3, column 2: energy (Wh): 'x' is not a number"),
            ("date;kWh\n2027-05-01;1.2\n", "line 2, column 1: date: 2027-05-01 is yet to come"),
            ("date;kWh\n5/1/2026;1.2\n", "line 2, column 1: date: '5/1/2026' is no date"),
            ("date;kind;kWh\n2026-05-01;sail;1\n", "line 2, column 2: kind: 'sail' is none of use, recharge"),
            ("date;kind;visit\n2026-05-01;visit;moon\n", "line 2, column 3: visit: 'moon' is no visit"),
            ("date;kind;what\n2026-05-01;fault;\n", "line 2, column 3: what: this is missing"),
            ("date;kWh\n2026-05-01;0\n", "line 2, column 2: energy (Wh): this is at least 0.01"),
            ("a;b\n1;2\n", "line 1, column 1: the first line names the columns"),
        ):
            with self.subTest(text), self.assertRaises(TableError) as raised:
                read_life_csv(text, TODAY)
            self.assertIn(said, str(raised.exception))

    def test_entries_are_refused_where_they_make_no_sense(self) -> None:
        for data, pointer in (
            ({"kind": "use", "on": "2026-05-01"}, "/energy_wh"),
            ({"kind": "use", "on": "2026-05-01", "energy_wh": "3 furlongs"}, "/energy_wh"),
            ({"kind": "use", "on": "2026-11-29", "energy_wh": 3}, "/on"),
            ({"kind": "use", "on": "1999-12-31", "energy_wh": 3}, "/on"),
            ({"kind": "use", "on": "2026-05-01", "energy_wh": 3, "more": 1}, "/more"),
            ({"kind": "fault", "on": "2026-05-01", "what": "  "}, "/what"),
            ({"kind": "fault", "on": "2026-05-01", "what": "x" * 501}, "/what"),
            ({"kind": "capacity", "on": "2026-05-01", "capacity_ah": True}, "/capacity_ah"),
            ({"kind": "sail", "on": "2026-05-01"}, ""),
            ({"on": "2026-05-01"}, ""),
        ):
            with self.subTest(data), self.assertRaises(DesignError) as raised:
                read_entry(data, TODAY)
            self.assertEqual(raised.exception.problems[0][0], pointer)

    def test_days_are_written_alike_everywhere(self) -> None:
        self.assertEqual(calendar_day(date(2025, 3, 1)), "1 Mar 2025")
