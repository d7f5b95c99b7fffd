"""Screen, CSV, SVG and PDF name the same fuse for every wire, and carry the same symbols."""

import csv
import io
import xml.etree.ElementTree as ET
from unittest import mock

from django.test import TestCase

from kegcart.core.drawing import Text
from kegcart.core.power.drawing.sheet import MARGIN, draw_sheet
from kegcart.core.power.drawing.wire_table import rows, write_wires
from kegcart.core.svg import write_svg
from kegcart.workbench import papers
from kegcart.workbench.models import StoredDesign
from kegcart.workbench.services import DEMOS, assessed, load_demos


class OneWireTable(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load_demos()

    def test_every_paper_names_the_same_fuse_for_every_wire(self) -> None:
        for name in DEMOS:
            design = StoredDesign.objects.get(demo=name)
            assert design.head
            a = assessed(design.head.document)
            table = {row.to: row.fuse for row in rows(a.power)}
            on_screen = self.client.get(f"/api/designs/{design.pk}").json()
            names = {key: part["name"] for key, part in on_screen["document"]["power"]["network"].items()}
            figures = on_screen["assessment"]["figures"]
            self.assertEqual({names[w["key"]]: w["fuse"] for w in on_screen["wires"]}, table)
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
        assert design.head
        table = {row.key: row.fuse for row in rows(assessed(design.head.document).power)}
        self.assertEqual(table["mixer-outlet"], "10 A")
