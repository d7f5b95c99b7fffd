"""Every figure opens to its working, and the working gives the figure. A builder who checks by hand must get the same."""

import math
import re
from typing import Any
from unittest import TestCase

from hypothesis import given

from kegcart.core.assess import Assessment, assess, write_assessment
from kegcart.core.bench.rehearse import rehearse
from kegcart.core.design import Design
from kegcart.core.figure import Figure
from tests import tried
from tests.core.samples import DEMO_NAMES, demo, designs, document, judge, put

WORDS = {"sum": sum, "max": max, "min": min}


def evaluate(figure: Figure) -> float:
    """Calculate a figure's formula from its inputs, as a person would."""
    inputs = {symbol: part.number for symbol, part in (figure.inputs or {}).items()}
    if figure.formula in WORDS:
        return WORDS[figure.formula](inputs.values()) if inputs else 0
    text = figure.formula
    names: dict[str, Any] = {"sqrt": math.sqrt, "min": min, "max": max}
    for i, symbol in enumerate(sorted(inputs, key=len, reverse=True)):
        text = re.sub(rf"(?<![\w]){re.escape(symbol)}(?![\w'])", f"v{i}_", text)
        names[f"v{i}_"] = inputs[symbol]
    text = text.replace("·", "*").replace("−", "-").replace("^", "**").replace("√", "sqrt")
    return float(eval(text, {"__builtins__": {}}, names))


def every_figure(assessment: Assessment) -> list[tuple[str, Figure]]:
    named = [(path, part) for path, top in assessment.figures.items() for part in top.walk()]
    spoken = [(f.id, part) for f in assessment.findings for top in f.figures.values() for part in top.walk()]
    return named + spoken


class WorkingTest(TestCase):
    def check(self, assessment: Assessment) -> None:
        for path, figure in every_figure(assessment):
            if figure.formula:
                self.assertTrue(
                    math.isclose(evaluate(figure), figure.number, rel_tol=1e-9, abs_tol=1e-9),
                    f"{path} {figure.symbol} = {figure.formula} gives {evaluate(figure)}, not {figure.value}",
                )
            else:
                rests = figure.how or figure.inputs or figure.basis.source or figure.pointer
                self.assertTrue(rests or figure.basis.kind == "computed", f"{path} {figure.symbol} rests on nothing")

    def test_formulas_of_the_demo_builds_give_their_figures(self) -> None:
        for name in DEMO_NAMES:
            self.check(judge(demo(name)))

    @tried(150)
    @given(designs())
    def test_formulas_give_their_figures_in_any_design(self, design: Design) -> None:
        self.check(assess(design))

    def test_every_path_can_be_followed_down_to_decisions_and_tables(self) -> None:
        for name in DEMO_NAMES:
            for path, figure in judge(demo(name)).figures.items():
                leaves = [part for part in figure.walk() if not part.inputs]
                for leaf in leaves:
                    sourced = leaf.pointer or leaf.basis.source or leaf.how or leaf.basis.kind == "computed"
                    self.assertTrue(sourced, f"{path} ends at {leaf.symbol} without a source")

    def test_written_inputs_name_figures_that_are_on_the_sheet(self) -> None:
        written = write_assessment(judge(demo("lantern-lane")))
        paths = set(written["figures"])

        def walk(figure: dict) -> None:
            if "path" in figure:
                self.assertIn(figure["path"], paths)
            for part in figure.get("inputs", {}).values():
                walk(part)

        for figure in written["figures"].values():
            walk(figure)

    def test_pinned_choices_say_so_and_point_to_their_decision(self) -> None:
        data = put(demo("lantern-lane"), "/power/network/main-fuse/rating_a", 200)
        figures = judge(data).figures
        self.assertEqual((figures["power/main-fuse/rating"].value, figures["power/main-fuse/rating"].choice), (200, "pinned"))
        self.assertEqual(figures["power/main-fuse/rating"].pointer, "/power/network/main-fuse/rating_a")
        self.assertEqual(figures["power/main-fuse/family"].choice, "auto")

    def test_rehearsed_figures_have_their_working(self) -> None:
        for step in rehearse(judge(demo("lantern-lane"))):
            for figure in step.figures.values():
                self.assertTrue(figure.how or figure.formula, f"{step.name}: {figure.label}")


class HandReckoning(TestCase):
    """Whole chains calculated by hand, apart from the program's own formulas."""

    def test_pack_of_the_puppet_theatre(self) -> None:
        figures = judge(demo("lantern-lane")).figures
        self.assertAlmostEqual(figures["pack/nominal"].number, 230 * 25.6)
        cold = 0.88 + 0.8 * (0.95 - 0.88)
        # 10 to 95 %, the mean between the rows of the curve: 3.20 3.25 3.28 3.295 3.30 3.31 3.325 3.33 3.335, and 3.3775 at 95 %.
        volts = (3.225 + 3.265 + 3.2875 + 3.2975 + 3.305 + 3.3175 + 3.3275 + 3.3325 + 3.35625 / 2) / 8.5
        self.assertAlmostEqual(figures["pack/usable"].number, 230 * 8 * volts * 0.85 * 0.9 * cold)
        self.assertAlmostEqual(figures["pack/curve_share"].number, volts / 3.2)
        self.assertAlmostEqual(figures["pack/fault"].number, 8 * 3.65 / (8 * 0.2e-3 + figures["pack/link_resistance"].number * 8))

    def test_inverter_branch_of_the_puppet_theatre(self) -> None:
        figures = judge(demo("lantern-lane")).figures
        self.assertAlmostEqual(figures["power/inverter/rated_current"].number, 2000 / 0.88 / 22.4)
        ac = 6 * 30 + 180 + 700
        self.assertAlmostEqual(figures["power/inverter/peak"].number, ac)
        loss = 16 + 0.0294995 * ac + 0.0988642 * ac**2 / 2000
        self.assertAlmostEqual(figures["power/inverter/current"].number, (ac + loss) / 22.4, places=2)

    def test_surge_comes_on_top_of_what_runs(self) -> None:
        pump = {
            "name": "Pump",
            "kind": "pump",
            "supply": "pack",
            "watts": 100,
            "surge": 4,
            "windows": {"w": {"from_h": 9, "to_h": 17}},
        }
        lamp = {"name": "Lamp", "kind": "heater", "supply": "pack", "watts": 50, "windows": {"w": {"from_h": 16, "to_h": 20}}}
        figures = judge(document(loads={"items": {"pump": pump, "lamp": lamp}})).figures
        self.assertAlmostEqual(figures["loads/peak"].number, 150)
        self.assertAlmostEqual(figures["loads/surge"].number, 150 + 300)
        self.assertEqual(figures["loads/peak_at"].value, "16:00")
