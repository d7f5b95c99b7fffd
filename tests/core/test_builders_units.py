"""Metric or US customary: typed either way, shown in one, the same design and the same judgement."""

import json
import re
from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.assembly.writing import write_build
from kegcart.core.assess import Assessment, write_assessment
from kegcart.core.bench.test_plan import plan_of_test, write_test_plan
from kegcart.core.building import build_of
from kegcart.core.design import DesignError, read_design
from kegcart.core.drawing import Text
from kegcart.core.figure import Figure
from kegcart.core.forecast import course_of, forecast, write_course, write_forecast
from kegcart.core.power.drawing.diagram import draw_path
from kegcart.core.power.drawing.sheet import draw_sheet
from kegcart.core.power.drawing.wire_table import read_wires, write_wires
from kegcart.core.remedies import offered
from kegcart.core.units import CUSTOMARY, SCALES, read_quantity, shown_in, write_quantity
from tests.core.samples import DEMO_NAMES, demo, judge, put

METRIC = re.compile(r"\d ?(?:mm|cm|m|kg|K|°C|cm²|m²|K/W|m³/h)(?![\w²³/Ω·])|%/K")
NAMES = re.compile(r"10×38 mm|\d+×\d+ mm|\d+ °C: |resistivity of copper at 20 °C")
"""What a part is sold as, and constants as their tables give them."""
BY_HAND = {"m": 3.28084, "mm": 0.0393701, "cm²": 0.155, "m²": 10.7639, "m³/h": 35.3147, "kg": 2.20462, "K": 1.8, "K/W": 1.8}


def in_feet(name: str) -> dict[str, Any]:
    return put(demo(name), "/brief/units", "us")


def said(data: Any, where: str = "") -> list[tuple[str, str]]:
    """Every text of an answer with its place, without sources, and without what is meant for formulas."""
    if isinstance(data, dict):
        return [t for key, v in data.items() if key not in ("source", "worked_in", "patch") for t in said(v, f"{where}/{key}")]
    if isinstance(data, list):
        return [t for v in data for t in said(v, where)]
    return [(where, data)] if isinstance(data, str) else []


def everything(found: Assessment) -> list[tuple[str, str]]:
    """All that is written of an assessment."""
    with shown_in(found.design.brief.units):
        answers: dict[str, Any] = {
            "assessment": write_assessment(found),
            "forecast": write_forecast(forecast(found)),
            "rehearsal": write_test_plan(plan_of_test(found)),
            "assembly": write_build(build_of(found)),
            "course": write_course(course_of(found, "coldest", 1), found, "coldest"),
            "diagram": draw_path(found.power).write(),
            "sheet": [item.words for item in draw_sheet(found.power, "", "").items if isinstance(item, Text)],
            "remedies": [r.label for f in found.findings for r in offered(found, f)],
        }
    return said(answers)


class BuildersUnits(TestCase):
    def test_quantities_as_they_are_said(self) -> None:
        for value, unit, metric, us in (
            (0.9144, "m", "0.914 m", "3 ft"), (0.18, "m", "0.18 m", "7.09 in"), (0.3048, "m", "0.305 m", "1 ft"), (10, "m", "10 m", "32.8 ft"),
            (50, "mm", "50 mm", "1.97 in"), (0.15, "mm", "0.15 mm", "0.0059 in"), (12, "kg", "12 kg", "26.5 lb"), (0, "°C", "0 °C", "32 °F"),
            (-40, "°C", "−40 °C", "−40 °F"), (37.8, "°C", "37.8 °C", "100 °F"), (10, "K", "10 K", "18 °F"), (0.08, "K/W", "0.08 K/W", "0.144 °F/W"),
            (100, "cm²", "100 cm²", "15.5 in²"), (1, "%/K", "1 %/K", "0.556 %/°F"), (35, "mm²", "35 mm²", "35 mm²"), (2671, "Wh", "2.67 kWh", "2.67 kWh"),
        ):  # fmt: skip
            self.assertEqual(write_quantity(value, unit), metric)
            with shown_in("us"):
                self.assertEqual(write_quantity(value, unit), us)

    def test_factors_against_printed_ones(self) -> None:
        for unit, factor in BY_HAND.items():
            self.assertAlmostEqual(CUSTOMARY[unit].per, factor, delta=factor * 1e-5)

    @given(st.floats(0.01, 500), st.sampled_from(sorted(u for u in CUSTOMARY if u in SCALES or u == "°C")))
    def test_what_is_typed_either_way_is_the_same(self, value: float, unit: str) -> None:
        shown, per, zero = CUSTOMARY[unit]
        self.assertAlmostEqual(read_quantity(f"{value * per + zero!r} {shown}", unit), value, places=6)
        self.assertEqual(read_quantity(f"{value!r} {unit}", unit), value)

    def test_nothing_but_the_words_changes(self) -> None:
        for name in DEMO_NAMES:
            metric, us = judge(put(demo(name), "/brief/units", "metric")), judge(in_feet(name))
            self.assertEqual([(c.id, c.place, c.verdict) for c in metric.checks], [(c.id, c.place, c.verdict) for c in us.checks])
            links = {"pack/link", "pack/collector"}  # named by their sides
            for path in metric.figures.keys() - links:
                self.assertEqual(metric.figures[path].value, us.figures[path].value, path)

    def test_no_metric_length_mass_or_temperature_is_left(self) -> None:
        for name in DEMO_NAMES:
            found = judge(in_feet(name))
            left = [(at, text) for at, text in everything(found) if METRIC.search(NAMES.sub("", text))]
            self.assertEqual(left, [], name)

    def test_metric_says_nothing_of_feet(self) -> None:
        texts = everything(judge(put(demo("tidewater"), "/brief/units", "metric")))
        self.assertEqual([t for t in texts if re.search(r"\d ?(ft|in|lb|°F)\b", t[1])], [])
        self.assertTrue(any(" m" in text for _, text in texts))

    def test_a_working_can_be_followed_in_the_units_of_its_formula(self) -> None:
        found = judge(in_feet("lantern-lane"))
        with shown_in("us"):
            run = found.figures["power/inverter/run/length"]
            self.assertEqual((run.text, run.worked_in), ("1.64 ft", "0.5 m"))
            self.assertEqual(Figure.of("I", 3.0, "A").worked_in, "")
        self.assertEqual(run.worked_in, "")

    def test_what_is_out_of_bounds_is_said_in_them(self) -> None:
        for pointer, value, sentence in (
            ("/brief/site_max_c", "200 °F", "this is at most 158 °F (not 200 °F)"),
            ("/pack/board/sense/length_m", "700 ft", "this is at most 656.168 ft (not 700 ft)"),
            ("/brief/mass_limit_kg", -1, "this is at least 0.00220462 lb (not -2.20462 lb)"),
            ("/brief/hours_away", 0, "this is at least 0.25 (not 0)"),
            ("/brief/site_min_c", "100 °F", "the lowest site temperature (100 °F) is above the highest (86 °F)"),
        ):
            data = put(put(demo("hollow-oak"), "/brief/units", "us"), "/brief/site_max_c", 30)
            with self.assertRaises(DesignError) as caught:
                read_design(put(data, pointer, value))
            self.assertEqual(caught.exception.problems[0][1], sentence)

    def test_the_wire_table_goes_out_and_comes_back_in_feet(self) -> None:
        found = judge(in_feet("lantern-lane"))
        with shown_in("us"):
            text = write_wires(found.power)
            back = {o["path"]: o["value"] for o in read_wires(text, found.power) if o["path"].endswith("length_m")}
            self.assertIn("length ft", text.splitlines()[0])
            for path, length in back.items():
                node = found.design.model_dump()
                for step in path.split("/")[1:]:
                    node = node[step]
                self.assertAlmostEqual(length, float(str(node)), places=4)
            bare = read_wires("to;length\nInverter;3\n", found.power)
            self.assertAlmostEqual(bare[0]["value"], 0.9144)
            for header, cell, metres in (
                ("length", "3 m", 3), ("length in m", "3", 3), ("length in metres", "3", 3), ("metres", "3", 3), ("length (in)", "18", 0.4572),
                ("length in inches", "18", 0.4572), ("feet", "3", 0.9144), ("length in feet", "3", 0.9144), ("length cm", "60", 0.6),
            ):  # fmt: skip
                for units in ("metric", "us"):
                    with shown_in(units):
                        read = read_wires(f"to;{header}\nInverter;{cell}\n", found.power)[0]["value"]
                        self.assertAlmostEqual(read, metres, msg=f"{header}: {cell}")
        self.assertEqual(read_wires("to;length\nInverter;3\n", found.power)[0]["value"], 3)
        self.assertGreater(len(back), 5)

    def test_the_file_keeps_metric_numbers(self) -> None:
        data = json.loads(json.dumps(in_feet("tidewater")))
        self.assertEqual(read_design(data).brief.site_max_c, 28)
