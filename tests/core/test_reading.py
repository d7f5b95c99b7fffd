"""Reading what people type and files they bring: what is read is right, what is not is said where and why."""

import contextlib
import hashlib
import io
import json
import tempfile
from pathlib import Path
from typing import Any
from unittest import TestCase, mock

import jsonpatch
from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.__main__ import main
from kegcart.core.assembly.document import Assembly
from kegcart.core.assess import assess
from kegcart.core.building import build_of
from kegcart.core.charging.kinds import SolarArray
from kegcart.core.design import VERSION, Design, DesignError, patch_between, patched, read_design, read_json, write_design
from kegcart.core.document import models_in
from kegcart.core.units import SCALES, read_quantity, write_quantity
from tests.core.samples import DEMO, demo, document, put


class QuantityTest(TestCase):
    def test_as_people_write_them(self) -> None:
        for text, unit, value in [
            ("0.9 m", "m", 0.9), ("90cm", "m", 0.9), ("3 ft", "m", 0.9144), ("1.2k", "W", 1200), ("12,5", "A", 12.5),
            ("2 500 mAh".replace(" ", ""), "Ah", 2.5), ("15 %", "%", 0.15), ("10:30", "clock", 10.5), ("9", "clock", 9),
            ("68 F", "°C", 20), ("−5", "°C", -5), ("0.2 mΩ", "mΩ", 0.2), ("90 min", "h", 1.5), ("1.5e2", "W", 150), ("250ms", "s", 0.25),
            ("500 mW", "W", 0.5), ("90 MM", "m", 0.09), ("5 Min", "min", 5), ("2 KW", "W", 2000), ("700 WH", "Wh", 700), ("40 μA", "mA", 0.04), ("3 \N{OHM SIGN}", "mΩ", 3000),
            ("85", "%", 0.85), ("0,85", "%", 0.85), ("1", "%", 1), ("1 %", "%", 0.01), ("100", "%", 1), ("0", "%", 0),
        ]:  # fmt: skip
            self.assertAlmostEqual(read_quantity(text, unit), value, msg=text)

    def test_what_cannot_be_read_is_said(self) -> None:
        for text, unit in [
            ("abc", "m"),
            ("", "m"),
            ("3 V", "m"),
            ("1.2.3", "W"),
            ("10:75", "clock"),
            ("5 K", "°C"),
            ("--4", "A"),
            ("120", "%"),
            ("2 MW", "W"),
            ("1 MV", "V"),
            ("101 %", "%"),
        ]:
            with self.assertRaises(ValueError, msg=text):
                read_quantity(text, unit)

    def test_as_a_tape_measure_and_a_kitchen_scale_are_read(self) -> None:
        for text, unit, value in (
            ("3 ft 6 in", "m", 1.0668), ("3' 6\"", "m", 1.0668), ("3'6", "m", 1.0668), ("7 1/2 in", "mm", 190.5), ("7-1/2\"", "mm", 190.5),
            ("1/2 in", "mm", 12.7), ("3/8\"", "m", 0.009525), ("1 ft 3/4 in", "mm", 323.85), ("5 lb 3 oz", "kg", 2.35301), ("1/2 hp", "W", 372.85),
            ("−7 1/2", "A", -7.5), ("1/2", "h", 0.5), ("1/4 lb", "kg", 0.113398), ("2 feet 1", "m", 0.635),
        ):  # fmt: skip
            self.assertAlmostEqual(read_quantity(text, unit), value, places=5, msg=text)
        for text, unit in (
            ("3 ft 14 in", "m"),
            ("1/0 in", "mm"),
            ("1/2/3 in", "mm"),
            ("3 ft 6 V", "m"),
            ("5 lb 20 oz", "kg"),
            ("ft 6", "m"),
            ("7 1/", "mm"),
        ):
            with self.assertRaises(ValueError, msg=text):
                read_quantity(text, unit)

    @given(st.floats(-1e6, 1e6), st.sampled_from(sorted(u for u in SCALES if u not in ("money", "%", "Ω"))))
    def test_written_numbers_are_read_back(self, value: float, unit: str) -> None:
        self.assertEqual(read_quantity(repr(value), unit), value)

    @given(st.text(max_size=12))
    def test_any_text_is_read_or_refused_with_a_reason(self, text: str) -> None:
        for unit in (*SCALES, "clock", "°C"):
            try:
                self.assertIsInstance(read_quantity(text, unit), float | int)
            except ValueError as error:
                self.assertTrue(str(error))

    def test_writing(self) -> None:
        for value, unit, text in [
            (2671, "Wh", "2.67 kWh"), (0.00086, "Ω", "0.86 mΩ"), (0.15, "share", "15 %"), (19.5, "clock", "19:30"), (14600, "A", "14.6 kA"),
            (-5, "°C", "−5 °C"), (796, "money", "796"), (12345, "money", "12345"), (0, "A", "0 A"), ("4 AWG", "", "4 AWG"),
            (-7.4e-13, "Wh", "0 Wh"), (1e-12, "A", "0 A"), (1e-200, "°C", "0 °C"), (-0.04, "°C", "0 °C"), (24.9538, "W", "25 W"), (2e-10, "share", "0 %"),
        ]:  # fmt: skip
            self.assertEqual(write_quantity(value, unit), text)


class BadDesigns(TestCase):
    def refused(self, data: Any) -> dict[str, str]:
        with self.assertRaises(DesignError) as caught:
            read_design(data)
        return dict(caught.exception.problems)

    def test_each_problem_has_its_pointer_and_a_sentence(self) -> None:
        lane = demo("lantern-lane")
        for pointer, value, at in [
            ("/brief/reserve", "much", "/brief/reserve"),
            ("/brief/site_min_c", float("nan"), "/brief/site_min_c"),
            ("/brief/hours_away", 1e300, "/brief/hours_away"),
            ("/loads/items/mixer/watts", -5, "/loads/items/mixer/watts"),
            ("/loads/items/mixer/watts", 10**400, "/loads/items/mixer/watts"),
            ("/loads/items/mixer/watts", True, "/loads/items/mixer/watts"),
            ("/loads/items/mixer/count", 1.5, "/loads/items/mixer/count"),
            ("/loads/items/mixer/colour", "red", "/loads/items/mixer/colour"),
            ("/loads/items/mixer/windows", {"w1": {"from_h": 9, "to_h": 9}}, "/loads/items/mixer/windows/w1"),
            ("/pack/cell/capacity_ah", None, "/pack/cell/capacity_ah"),
            ("/power/network/busbar/feed", "inverter", "/power"),
            ("/power/network/busbar/feed", "nowhere", "/power"),
            ("/power/network/main-fuse/feed", "main-switch", "/power"),
            ("/power/network/main-fuse/family", "glass", "/power/network/main-fuse/family"),
            ("/loads/items/mixer/outlet", "busbar", ""),
            ("/version", VERSION + 1, "/version"),
            ("/version", 0, "/version"),
            ("/loads/items/mixer/watts", None, "/loads/items/mixer"),
            ("/loads/items/mixer/measured", {"by": "volts_amps", "volts": 12, "amps": 2}, "/loads/items/mixer"),
            ("/loads/days", 15, "/loads/days"),
            ("/loads/weekdays", True, "/loads"),
            ("/pack/curve", {"points": [{"soc": 0, "v": 3}, {"soc": 0.5, "v": 3.4}, {"soc": 1, "v": 3.2}]}, "/pack/curve"),
            ("/format", "other", "/format"),
        ]:
            problems = self.refused(put(lane, pointer, value))
            self.assertIn(at, problems, pointer)
            self.assertTrue(all(len(text) > 10 for text in problems.values()))

    def test_the_sentence_says_what_would_be_taken(self) -> None:
        lane = demo("lantern-lane")
        for pointer, value, sentence in [
            ("/loads/items/mixer/watts", 30_000, "this is at most 20000 (not 30000)"),
            ("/brief/budget", 2e7, "this is at most 10000000 (not 20000000)"),
            ("/loads/items/mixer/watts", -1, "this is at least 0 (not -1)"),
            ("/loads/items/mixer/watts", "a lot", "'a lot' is not a number of W"),
            ("/loads/items/mixer/watts", "5 A", "'A' is not a unit for this figure (known: W, kW, k, mW, hp)"),
            ("/loads/items/mixer/count", 1.5, "needs a whole number (not 1.5)"),
            ("/loads/items/mixer/name", "", "nothing is typed here (not '')"),
            ("/loads/items/mixer/name", "x" * 81, "this is at most 80 characters long"),
            ("/brief/reserve", "150 %", "'150 %' is more than 100 %"),
            ("/brief/mains", "110 V", "needs one of these: '120 V 60 Hz', '230 V 50 Hz', '120/240 V split-phase' or 'none'"),
            ("/brief/site_min_c", "5 K", "'K' is no unit of temperature: use °C or °F"),
            ("/brief/ready_h", "9:75", "'9:75' is no time of day: minutes go to 59"),
            ("/brief/hours_away", 0, "this is at least 0.25 (not 0)"),
            ("/brief/colour", "red", "this field is not known (not 'red')"),
            ("/power/network/inverter/run/parallel", True, "needs a number, not true or false"),
        ]:
            self.assertTrue(
                self.refused(put(lane, pointer, value))[pointer].startswith(sentence), self.refused(put(lane, pointer, value))
            )

    def test_a_circle_of_feeds_is_refused(self) -> None:
        network = {k: {"part": "switch", "name": k, "feed": f} for k, f in (("a", "b"), ("b", "a"))}
        with self.assertRaises(DesignError) as caught:
            document(power={"network": network})
        self.assertIn("feeds itself", str(caught.exception))

    def test_temperatures_in_the_wrong_order(self) -> None:
        self.assertIn("above the highest", self.refused(put(demo("tidewater"), "/brief/site_min_c", 40))["/brief"])

    def test_broken_json_names_line_and_column(self) -> None:
        with self.assertRaises(DesignError) as caught:
            read_json('{"format": "kegcart/design",\n "name": oops}')
        self.assertIn("line 2, column 10", str(caught.exception))
        for text in ('{"a": NaN}', "[" * 100_000, "1" * 5000):
            with self.assertRaises(DesignError):
                read_json(text)

    def test_patches_that_cannot_be_applied_change_nothing(self) -> None:
        lane = demo("lantern-lane")
        before = json.dumps(lane)
        for operation in [
            {"op": "replace", "path": "/nowhere/at/all", "value": 1},
            {"op": "remove", "path": "/power/network/busbar"},
            {"op": "test", "path": "/name", "value": "Other"},
            {"op": "add", "path": "/brief/reserve/deeper", "value": 1},
            {"op": "move", "path": "/brief", "from": "/loads"},
            {"op": "replace", "path": "no pointer", "value": 1},
        ]:
            with self.assertRaises(DesignError, msg=str(operation)):
                patched(lane, [operation])
        self.assertEqual(json.dumps(lane), before)


class Between(TestCase):
    @given(
        *[st.dictionaries(st.sampled_from("abc"), st.none() | st.integers(0, 2) | st.lists(st.integers(0, 2)), max_size=3)] * 2
    )
    def test_the_patch_between_two_documents_makes_one_of_the_other_also_where_the_short_one_fails(
        self, before: dict[str, Any], after: dict[str, Any]
    ) -> None:
        fails = mock.patch("jsonpatch.make_patch", return_value=jsonpatch.JsonPatch([{"op": "remove", "path": "/none"}]))
        for how in (contextlib.nullcontext(), fails):
            with how:
                patch = patch_between(before, after)
            self.assertEqual(jsonpatch.apply_patch(before, patch), after)


class CommandLine(TestCase):
    def call(self, *arguments: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = main(list(arguments))
        return code, out.getvalue(), err.getvalue()

    def test_assess_prints_figures_by_path_and_exits_by_the_verdict(self) -> None:
        code, out, _ = self.call("assess", str(DEMO / "lantern-lane.json"))
        figures = json.loads(out)["figures"]
        self.assertEqual(code, 0)
        drop = figures["power/inverter/run/drop"]
        self.assertEqual(
            set(drop) & {"value", "unit", "formula", "inputs", "basis"}, {"value", "unit", "formula", "inputs", "basis"}
        )
        code, out, _ = self.call("assess", str(DEMO / "wobbly-stall.json"))
        self.assertEqual(code, 1)
        self.assertGreater(json.loads(out)["verdict"]["stop"], 5)

    def test_checks_prints_how_each_came_out(self) -> None:
        code, out, _ = self.call("checks", str(DEMO / "wobbly-stall.json"))
        said = json.loads(out)
        self.assertEqual((code, said["never_made"]), (1, []))
        self.assertEqual({c["verdict"] for c in said["checks"]}, {"holds", "fails", "open"})

    def test_simulate_and_rehearse_print_json(self) -> None:
        code, out, _ = self.call("simulate", str(DEMO / "tidewater.json"), "--days", "1")
        self.assertEqual((code, json.loads(out)["coldest"]["figures"]["dark"]["value"]), (0, 0))
        code, out, _ = self.call("rehearse", str(DEMO / "tidewater.json"))
        self.assertGreater(len(json.loads(out)["steps"]), 10)

    def test_a_file_that_cannot_be_read_exits_2_with_pointer_and_reason(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "bad.json"
            file.write_text(json.dumps(put(demo("tidewater"), "/brief/reserve", "lots")), encoding="utf-8")
            code, out, err = self.call("assess", str(file))
            self.assertEqual((code, out), (2, ""))
            self.assertIn("/brief/reserve: 'lots' is not a number", err)
            file.write_bytes(b"\xff\xfe\x00")
            self.assertEqual(self.call("assess", str(file))[0], 2)
            self.assertEqual(self.call("simulate", str(Path(folder) / "missing.json"))[0], 2)


class StoredSamples(TestCase):
    """Files of earlier versions still open: a builder's old design is not lost to a new program."""

    def test_version_1_with_loose_cells(self) -> None:
        data = json.loads((Path(__file__).parent / "stored" / "version-1-cells.json").read_text(encoding="utf-8"))
        design = read_design(data)
        self.assertEqual(design.version, VERSION)
        assert design.pack.form == "cells"
        self.assertEqual(design.pack.board.continuous_a, 150)
        self.assertEqual(data["version"], 1, "the data handed in is left as it was")
        self.assertEqual([f.text for f in assess(design).findings if f.severity != "note"], [])

    def test_version_1_with_a_finished_battery(self) -> None:
        data = json.loads((Path(__file__).parent / "stored" / "version-1-battery.json").read_text(encoding="utf-8"))
        design = read_design(data)
        assert design.pack.form == "battery"
        self.assertEqual(design.pack.battery.capacity_ah, data["pack"]["capacity_ah"])

    def test_version_2_with_leads_of_their_own_lengths(self) -> None:
        data = json.loads((Path(__file__).parent / "stored" / "version-2-strings.json").read_text(encoding="utf-8"))
        design = read_design(data)
        assert design.pack.form == "batteries"
        self.assertEqual((design.pack.lead.length_m, design.pack.link.length_m), (0.4, 0.2))
        self.assertEqual(design.pack.strings["s2"].lead_m, 0.6)
        self.assertEqual(write_design(read_design(write_design(design))), write_design(design))

    def test_version_3_with_a_season_and_sheaths(self) -> None:
        data = json.loads((Path(__file__).parent / "stored" / "version-3-season.json").read_text(encoding="utf-8"))
        design = read_design(data)
        self.assertIn("season", data["bench"])
        self.assertNotIn("season", write_design(design)["bench"])
        sheathed = {key: node.run.sheathed for key, node in design.power.network.items()}
        self.assertEqual((sheathed["main-fuse"], sheathed["main-switch"]), (True, None))

    def test_version_4_stands_as_it_did(self) -> None:
        data = json.loads((Path(__file__).parent / "stored" / "version-4-bank.json").read_text(encoding="utf-8"))
        design = read_design(data)
        self.assertEqual({load.bank for load in design.loads.items.values()}, {None})
        self.assertEqual(set(design.power.network), set(data["power"]["network"]))

    def test_version_5_is_metric(self) -> None:
        data = json.loads((Path(__file__).parent / "stored" / "version-5-skiff.json").read_text(encoding="utf-8"))
        self.assertNotIn("units", data["brief"])
        self.assertEqual(write_design(read_design(data))["brief"]["units"], "metric")

    def test_version_6_said_at_its_inputs_what_charges(self) -> None:
        data = json.loads((Path(__file__).parent / "stored" / "version-6-inputs.json").read_text(encoding="utf-8"))
        design = read_design(data)
        sources, network = design.charging.sources, design.power.network
        self.assertEqual({key: s.kind for key, s in sources.items()}, {"solar": "solar", "shore": "mains", "winch": "mains"})
        for key, amps in (("solar", 15), ("shore", 20), ("winch", 10)):
            self.assertEqual((sources[key].current_a, getattr(network[key], "source", None)), (amps, key))
        self.assertEqual(sources["solar"].own_draw_w, 0.5)
        judged = assess(design)
        # The array is large enough for the current that the input had; what the bench had of its own, the shore input says.
        self.assertAlmostEqual(judged.charging.sources["solar"].current.number, 15)
        self.assertEqual(judged.power.parts["solar-fuse"].design.number, 15)
        self.assertNotIn("charge_current_a", write_design(design)["bench"])

    def test_version_7_did_not_say_how_its_panels_stand(self) -> None:
        data = json.loads((Path(__file__).parent / "stored" / "version-7-sources.json").read_text(encoding="utf-8"))
        design = read_design(data)
        array = design.charging.sources["solar"]
        assert isinstance(array, SolarArray)
        self.assertEqual((array.current_a, array.panels, array.tilt_deg, array.order_marked), (15, 3, None, True))
        figures = assess(design).figures
        self.assertGreater(figures["charging/solar/yield/6"].number, figures["charging/solar/yield/12"].number)

    def test_version_8_had_no_box(self) -> None:
        data = json.loads((Path(__file__).parent / "stored" / "version-8-boxless.json").read_text(encoding="utf-8"))
        design = read_design(data)
        self.assertIsNone(design.box.case)
        judged = assess(design)
        self.assertEqual([c.missing for c in judged.checks if c.station == "box"], ["a box to put it in"])
        self.assertEqual([f.text for f in judged.findings if f.severity != "note"], [])

    def test_version_9_said_nothing_of_how_it_is_built(self) -> None:
        data = json.loads((Path(__file__).parent / "stored" / "version-9-listless.json").read_text(encoding="utf-8"))
        design = read_design(data)
        self.assertEqual(design.assembly, Assembly())
        self.assertGreater(len(build_of(assess(design)).steps), 50)

    def test_version_10_did_not_say_where_its_file_is_kept(self) -> None:
        data = json.loads((Path(__file__).parent / "stored" / "version-10-unkept.json").read_text(encoding="utf-8"))
        design = read_design(data)
        self.assertEqual((design.version, design.assembly.kept_at), (VERSION, ""))
        self.assertEqual(design.assembly.owned, data["assembly"]["owned"])

    def test_version_11_had_one_measured_figure(self) -> None:
        data = json.loads((Path(__file__).parent / "stored" / "version-11-one-measured.json").read_text(encoding="utf-8"))
        walls = read_design(data).bench.measured["walls"]
        self.assertEqual(
            (walls.value, walls.stands_with, walls.source), (1 / data["bench"]["thermal_resistance"], None, "typed in")
        )

    def test_a_charger_of_the_bench_alone_becomes_a_source(self) -> None:
        old = {"format": "kegcart/design", "version": 6, "name": "Old", "bench": {"days": 2, "charge_current_a": 45}}
        self.assertEqual(read_design(old).charging.sources["charger"].current_a, 45)

    def test_the_shape_of_a_version_stays(self) -> None:
        """A field that comes or goes raises the version: else a design stored by the program before lacks what a change replaces."""
        fields = sorted({f"{m.__name__}.{name}" for m in models_in(Design) for name in m.model_fields})
        shape = hashlib.sha256("\n".join(fields).encode()).hexdigest()[:12]
        self.assertEqual((VERSION, shape), (12, "6fbc5aa25c33"), "raise VERSION, with an upgrade and a stored sample")

    def test_a_broken_old_file_is_refused_like_a_new_one(self) -> None:
        for pack in ("none", ["a"], {"form": "battery", "series": "many"}):
            with self.assertRaises(DesignError):
                read_design({"format": "kegcart/design", "version": 1, "name": "Old", "pack": pack})
