"""Screen, CSV, SVG and PDF name the same fuse for every wire, and carry the same symbols."""

import csv
import io
import xml.etree.ElementTree as ET
from itertools import pairwise
from unittest import mock

from django.test import TestCase

from kegcart.core.drawing import Box, Line, Primitive, Text
from kegcart.core.power.drawing.diagram import draw_path
from kegcart.core.power.drawing.sheet import MARGIN, draw_sheet
from kegcart.core.power.drawing.wire_table import rows, write_wires
from kegcart.core.power.kinds import kind_of
from kegcart.core.svg import write_svg
from kegcart.workbench import papers, services
from kegcart.workbench.models import StoredDesign
from kegcart.workbench.services import DEMOS, assessed_design, load_demos
from tests.core.test_kinds import every_kind


class OneWireTable(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load_demos()

    def test_every_paper_names_the_same_fuse_for_every_wire(self) -> None:
        for name in DEMOS:
            design = StoredDesign.objects.get(demo=name)
            a = self.enterContext(assessed_design(design.pk))
            table = {row.to: row.fuse for row in rows(a.power)}
            on_screen = self.client.get(f"/api/designs/{design.pk}").json()
            figures = on_screen["assessment"]["figures"]
            self.assertEqual({w["to"]: w["fuse"] for w in on_screen["wires"]}, table)
            for wire in on_screen["wires"]:
                if wire["fuse_figure"]:
                    self.assertEqual(figures[wire["fuse_figure"]]["text"], wire["fuse"])
            self.assertEqual({line["to"]: line["fuse"] for line in csv.DictReader(io.StringIO(write_wires(a.power)))}, table)
            sheet = draw_sheet(a.power, a.design.name, "")
            drawn = [item for item in sheet.items if isinstance(item, Text)]
            with mock.patch("reportlab.pdfgen.canvas.Canvas.drawString", autospec=True) as printed:
                papers.fitted_pdf(sheet, "x", "a4")
            on_paper = {(round(c.args[1], 2), round(-c.args[2], 2)): c.args[3] for c in printed.call_args_list if len(c.args) > 3}
            root = ET.fromstring(write_svg(sheet, "x"))
            in_file = {(float(t.attrib["x"]), float(t.attrib["y"])): t.text for t in root.iter() if t.tag.endswith("text")}
            for to, fuse in table.items():
                row = next(item for item in drawn if item.whole == to and item.x == MARGIN)
                cell = next(item for item in drawn if item.y == row.y and item.whole == fuse)
                at = (round(cell.x, 2), round(cell.y, 2))
                self.assertEqual((in_file[at], on_paper[at]), (cell.words, cell.words), f"{name}: {to}")

    def test_a_converter_limits_what_stands_behind_it(self) -> None:
        design = StoredDesign.objects.get(demo="lantern-lane")
        table = {row.key: row.fuse for row in rows(self.enterContext(assessed_design(design.pk)).power)}
        self.assertEqual(table["mixer-outlet"], "10 A")


def shape(items: list[Primitive]) -> frozenset[tuple[object, ...]]:
    """What is stroked, words apart, from the upper left corner: the same wherever it stands."""
    drawn = [item for item in items if not isinstance(item, Text)]
    x0 = min(min(p[0] for p in i.points) if isinstance(i, Line) else i.x for i in drawn)
    y0 = min(min(p[1] for p in i.points) if isinstance(i, Line) else i.y for i in drawn)
    out: set[tuple[object, ...]] = set()
    for item in drawn:
        if isinstance(item, Line):
            out.add(tuple((round(x - x0, 2), round(y - y0, 2)) for x, y in item.points))
        else:
            out.add((type(item).__name__, round(item.x - x0, 2), round(item.y - y0, 2)))
    return frozenset(out)


class Symbols(TestCase):
    """Fuse, breaker, switch, plug, selector and chassis bond: each its own symbol, the same on screen, SVG and PDF."""

    def test_each_has_a_symbol_of_its_own_on_every_paper(self) -> None:
        data = every_kind()
        data["power"]["chassis_bond"] = True
        data["power"]["network"]["main"]["family"] = "din-breaker"
        data["power"]["network"]["block-fuse"]["family"] = "class-t"
        design = services.create(data, "symbols")
        a = self.enterContext(assessed_design(design.pk))
        path = draw_path(a.power, frozenset())
        boxes = {area.pointer: Box(0, 0, area.w, area.h) for area in path.areas}
        wanted = {
            name: shape(kind_of(part.node).symbol(part.node, part, boxes[part.pointer]))
            for name, part in (
                ("breaker", a.power.parts["main"]),
                ("fuse", a.power.parts["block-fuse"]),
                ("switch", a.power.parts["isolator"]),
                ("plug", a.power.parts["quick"]),
                ("selector", a.power.parts["choice"]),
            )
        }
        wanted["chassis bond"] = shape([i for i in path.items if i.of == "/power/chassis_bond"])
        self.assertEqual(len(set(wanted.values())), 6, "two of them look alike")
        sheet = draw_sheet(a.power, a.design.name, "")
        lines = [item for item in sheet.items if isinstance(item, Line)]
        on_screen = self.client.get(f"/api/designs/{design.pk}/diagram").json()["items"]
        screen = strokes([[tuple(p) for p in item["points"]] for item in on_screen if item["kind"] == "line"])
        root = ET.fromstring(write_svg(sheet, "x"))
        in_file = strokes([points_of(e) for e in root.iter() if e.tag.rsplit("}")[-1] in ("polyline", "path", "line", "polygon")])
        with mock.patch("reportlab.pdfgen.pathobject.PDFPathObject.lineTo", autospec=True) as printed:
            papers.fitted_pdf(sheet, "x", "a4")
        on_paper = {(round(c.args[1], 2), round(abs(c.args[2]), 2)) for c in printed.call_args_list}
        for name, symbol in wanted.items():
            for stroke in symbol:
                if isinstance(stroke[0], tuple):
                    steps = stroke_steps([*stroke])  # type: ignore[list-item]
                    self.assertIn(steps, screen, f"{name} on the screen")
                    self.assertIn(steps, in_file, f"{name} in the SVG")
                    ends = [line.points[-1] for line in lines if stroke_steps(list(line.points)) == steps]
                    self.assertTrue(any((round(x, 2), round(y, 2)) in on_paper for x, y in ends), f"{name} in the PDF")


def stroke_steps(points: list[tuple[float, float]]) -> tuple[tuple[float, float], ...]:
    """A stroke by its steps from point to point, wherever it begins."""
    return tuple((round(b[0] - a[0], 1), round(b[1] - a[1], 1)) for a, b in pairwise(points))


def strokes(every: list[list[tuple[float, float]]]) -> set[tuple[tuple[float, float], ...]]:
    return {stroke_steps(points) for points in every}


def points_of(element: ET.Element) -> list[tuple[float, float]]:
    text = element.attrib.get("points") or element.attrib.get("d", "").replace("M", " ").replace("L", " ")
    numbers = [float(n) for n in text.replace(",", " ").split() if n not in "Zz"]
    return list(zip(numbers[::2], numbers[1::2], strict=True))
