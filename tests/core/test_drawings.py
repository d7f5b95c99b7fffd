"""Drawings: what is bolted together by them must be the pack that was computed, from either side, and files must open."""

import xml.etree.ElementTree as ET
from typing import Any
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from kegcart.core import svg
from kegcart.core.pack.drawing import STYLE, draw_pack, write_svg
from kegcart.core.power.diagram import lay_out
from kegcart.core.power.sheet import write_sheet
from tests.core.samples import DEMO_NAMES, demo, document, judge, put
from tests.core.test_findings import bank, resting
from tests.core.test_power import trees

SVG = "{http://www.w3.org/2000/svg}"


def cells(series: int, parallel: int, shape: str = "cylindrical", capacity: float = 2.6) -> dict[str, Any]:
    pack = {
        "form": "cells",
        "chemistry": "nmc",
        "series": series,
        "parallel": parallel,
        "cell": {"shape": shape, "capacity_ah": capacity},
    }
    return document(pack=pack)


class PackDrawings(TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.integers(1, 16), st.integers(1, 40), st.sampled_from(["cylindrical", "prismatic", "pouch"]))
    def test_every_cell_has_its_place_and_none_lies_over_another(self, series: int, parallel: int, shape: str) -> None:
        drawing = draw_pack(judge(cells(series, parallel, shape, 2.6 if shape == "cylindrical" else 60)).pack)
        self.assertEqual(len(drawing.places), series * parallel)
        self.assertEqual(
            {(p.group, p.number) for p in drawing.places}, {(g, n) for g in range(1, series + 1) for n in range(1, parallel + 1)}
        )
        for i, a in enumerate(drawing.places[:40]):
            for b in drawing.places[i + 1 : 60]:
                apart = abs(a.x - b.x) >= (a.w + b.w) / 2 - 1e-6 or abs(a.y - b.y) >= (a.h + b.h) / 2 - 1e-6
                self.assertTrue(apart, f"{a} over {b}")
        for p in drawing.places:
            self.assertTrue(0 < p.x < drawing.width and 0 < p.y < drawing.height)

    @settings(max_examples=30, deadline=None)
    @given(st.integers(1, 16), st.integers(1, 20))
    def test_sense_leads_are_numbered_from_the_negative_end(self, series: int, parallel: int) -> None:
        drawing = draw_pack(judge(cells(series, parallel)).pack)
        self.assertEqual([lead.name for lead in drawing.senses], [str(n) for n in range(series + 1)])
        self.assertEqual({post.name for post in drawing.posts}, {"+", "−"})

    def test_joints_alternate_between_top_and_bottom_in_a_holder(self) -> None:
        drawing = draw_pack(judge(cells(4, 2)).pack)
        sides = {lead.name: lead.side for lead in drawing.senses}
        self.assertEqual(sides, {"0": "bottom", "1": "top", "2": "bottom", "3": "top", "4": "bottom"})
        joined = {bar.joins for bar in drawing.bars if bar.side == "top"}
        self.assertEqual(joined, {"1 and 2", "3 and 4"})

    def test_neighbours_in_series_stand_side_by_side_also_where_a_row_ends(self) -> None:
        drawing = draw_pack(judge(cells(16, 1, "prismatic", 280)).pack)
        at = {p.group: (p.x, p.y, p.w, p.h) for p in drawing.places}
        for g in range(1, 16):
            (ax, ay, w, h), (bx, by, *_) = at[g], at[g + 1]
            self.assertTrue(abs(ax - bx) < w * 1.5 and abs(ay - by) < h * 1.5)

    def test_the_other_side_is_a_mirror_image(self) -> None:
        drawing = draw_pack(judge(demo("hollow-oak")).pack)
        above, below = (
            ET.fromstring(svg.document(drawing.width, drawing.height, write_svg(drawing, s), STYLE, "p"))
            for s in ("top", "bottom")
        )

        def places(root: ET.Element) -> dict[tuple[str, str], float]:
            found = {}
            for g in root.iter(f"{SVG}g"):
                circle = g.find(f"{SVG}circle")
                if circle is not None and "data-group" in g.attrib:
                    found[g.attrib["data-group"], g.attrib["data-place"]] = float(circle.attrib["cx"])
            return found

        left, right = places(above), places(below)
        self.assertEqual(len(left), 280)
        for key, x in left.items():
            self.assertAlmostEqual(x + right[key], drawing.width, delta=0.02)

    def test_sorted_cells_carry_their_labels_and_rejects_are_marked(self) -> None:
        data = put(
            demo("hollow-oak"),
            "/pack/groups/g3/cells",
            [
                dict(c, reject="swollen" if i == 4 else "")
                for i, c in enumerate(demo("hollow-oak")["pack"]["groups"]["g3"]["cells"])
            ],
        )
        drawing = draw_pack(judge(data).pack)
        self.assertEqual([(p.group, p.number) for p in drawing.places if p.reject], [(3, 5)])
        self.assertTrue(all(p.label.startswith("HO-") for p in drawing.places))

    def test_a_bank_shows_fuses_shares_and_its_corners(self) -> None:
        data = put(demo("tidewater"), "/pack", bank(parallel=3, in_series=2, strings=resting(26.4, 26.4, 26.4)))
        drawing = draw_pack(judge(data).pack)
        self.assertEqual((len(drawing.places), len(drawing.fuses), len(drawing.shares)), (6, 3, 3))
        plus, minus = (next(p for p in drawing.posts if p.name == n) for n in ("+", "−"))
        self.assertLess(plus.x, minus.x)
        same = draw_pack(judge(put(data, "/pack/takeoff", "same side")).pack)
        self.assertAlmostEqual(same.posts[0].x, same.posts[1].x, delta=same.places[0].w)


class Files(TestCase):
    def test_every_demo_opens_as_svg(self) -> None:
        for name in DEMO_NAMES:
            a = judge(demo(name))
            drawn = lay_out(a.power.network, a.power.shunt is not None)
            root = ET.fromstring(write_sheet(drawn, a.power, a.design.name, a.design.brief.purpose))
            self.assertEqual(root.tag, f"{SVG}svg")
            self.assertTrue(all(float(v) > 0 for v in root.attrib["viewBox"].split()[2:]))

    @settings(max_examples=40, deadline=None)
    @given(trees(most=30))
    def test_any_path_gives_a_sheet_with_a_row_for_each_wire(self, data: dict[str, Any]) -> None:
        a = judge(data)
        root = ET.fromstring(write_sheet(lay_out(a.power.network, True, frozenset()), a.power, "Any", ""))
        words = [t.text for t in root.iter(f"{SVG}text")]
        runs = sum(part.run is not None for part in a.power.parts.values())
        self.assertGreaterEqual(len(words), runs)

    @given(st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs")), min_size=1, max_size=40))
    def test_any_name_is_written_as_text_and_nothing_else(self, name: str) -> None:
        try:
            root = ET.fromstring(svg.document(10, 10, svg.text(0, 0, name, 4), "", name))
        except ET.ParseError:
            # Characters that XML does not know at all.
            self.assertTrue(any(ord(c) in (0xFFFE, 0xFFFF) for c in name))
            return
        self.assertEqual("".join(t.text or "" for t in root.iter(f"{SVG}text")), name)

    def test_a_name_full_of_markup_does_no_harm(self) -> None:
        data = put(demo("lantern-lane"), "/power/network/inverter/name", "<script>alert('x')</script> & \"co\"")
        a = judge(data)
        sheet = write_sheet(lay_out(a.power.network, True), a.power, "<b>", "&")
        self.assertNotIn("<script>", sheet)
        ET.fromstring(sheet)
