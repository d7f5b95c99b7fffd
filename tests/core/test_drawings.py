"""Drawings: what is bolted together by them must be the pack that was computed, from either side, and files must open."""

import xml.etree.ElementTree as ET
from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kegcart.core.drawing import Circle, Drawing, Line, Text
from kegcart.core.pack.drawing import draw_pack, lay_out_pack
from kegcart.core.power.drawing.diagram import draw_path
from kegcart.core.power.drawing.sheet import draw_sheet
from kegcart.core.power.drawing.wire_table import rows
from kegcart.core.svg import write_svg
from tests import tried
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
    @tried(300)
    @given(st.integers(1, 16), st.integers(1, 40), st.sampled_from(["cylindrical", "prismatic", "pouch"]))
    def test_every_cell_has_its_place_and_none_lies_over_another(self, series: int, parallel: int, shape: str) -> None:
        drawing = lay_out_pack(judge(cells(series, parallel, shape, 2.6 if shape == "cylindrical" else 60)).pack)
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

    @tried(150)
    @given(st.integers(1, 16), st.integers(1, 20))
    def test_sense_leads_are_numbered_from_the_negative_end(self, series: int, parallel: int) -> None:
        drawing = lay_out_pack(judge(cells(series, parallel)).pack)
        self.assertEqual([lead.name for lead in drawing.senses], [str(n) for n in range(series + 1)])
        self.assertEqual({post.name for post in drawing.posts}, {"+", "−"})

    def test_joints_alternate_between_top_and_bottom_in_a_holder(self) -> None:
        drawing = lay_out_pack(judge(cells(4, 2)).pack)
        sides = {lead.name: lead.side for lead in drawing.senses}
        self.assertEqual(sides, {"0": "bottom", "1": "top", "2": "bottom", "3": "top", "4": "bottom"})
        joined = {bar.joins for bar in drawing.bars if bar.side == "top"}
        self.assertEqual(joined, {"1 and 2", "3 and 4"})

    def test_neighbours_in_series_stand_side_by_side_also_where_a_row_ends(self) -> None:
        drawing = lay_out_pack(judge(cells(16, 1, "prismatic", 280)).pack)
        at = {p.group: (p.x, p.y, p.w, p.h) for p in drawing.places}
        for g in range(1, 16):
            (ax, ay, w, h), (bx, by, *_) = at[g], at[g + 1]
            self.assertTrue(abs(ax - bx) < w * 1.5 and abs(ay - by) < h * 1.5)

    def test_the_other_side_is_a_mirror_image(self) -> None:
        sizing = judge(demo("hollow-oak")).pack
        above, below = draw_pack(sizing, "top"), draw_pack(sizing, "bottom")

        def cells(drawing: Drawing) -> list[Circle]:
            return [item for item in drawing.items if isinstance(item, Circle)]

        self.assertEqual(len(cells(above)), 280)
        for left, right in zip(cells(above), cells(below), strict=True):
            self.assertEqual((left.y, left.of), (right.y, right.of))
            self.assertAlmostEqual(left.x + right.x, above.width, delta=0.02)

    def test_sorted_cells_carry_their_labels_and_rejects_are_marked(self) -> None:
        data = put(
            demo("hollow-oak"),
            "/pack/groups/g3/cells",
            [
                dict(c, reject="swollen" if i == 4 else "")
                for i, c in enumerate(demo("hollow-oak")["pack"]["groups"]["g3"]["cells"])
            ],
        )
        drawing = lay_out_pack(judge(data).pack)
        self.assertEqual([(p.group, p.number) for p in drawing.places if p.reject], [(3, 5)])
        self.assertTrue(all(p.label.startswith("HO-") for p in drawing.places))

    def test_a_bank_shows_fuses_shares_and_its_corners(self) -> None:
        data = put(demo("tidewater"), "/pack", bank(parallel=3, in_series=2, strings=resting(26.4, 26.4, 26.4)))
        drawing = lay_out_pack(judge(data).pack)
        self.assertEqual((len(drawing.places), len(drawing.fuses), len(drawing.shares)), (6, 3, 3))
        plus, minus = (next(p for p in drawing.posts if p.name == n) for n in ("+", "−"))
        self.assertLess(plus.x, minus.x)
        same = lay_out_pack(judge(put(data, "/pack/takeoff", "same side")).pack)
        self.assertAlmostEqual(same.posts[0].x, same.posts[1].x, delta=same.places[0].w)


class PathDrawings(TestCase):
    @tried(100)
    @given(trees(most=20))
    def test_what_is_drawn_in_the_place_of_a_part_stands_for_it(self, data: dict[str, Any]) -> None:
        drawing = draw_path(judge(data).power)
        for area in drawing.areas:
            inside = {
                item.of
                for item in drawing.items
                if not isinstance(item, Line)
                and area.x - 1 <= item.x <= area.x + area.w + 1
                and area.y - 1 <= item.y <= area.y + area.h + 1
            }
            self.assertEqual(inside, {area.pointer}, area.name)


class Files(TestCase):
    def test_every_demo_opens_as_svg(self) -> None:
        for name in DEMO_NAMES:
            a = judge(demo(name))
            root = ET.fromstring(write_svg(draw_sheet(a.power, a.design.name, a.design.brief.purpose), a.design.name))
            self.assertEqual(root.tag, f"{SVG}svg")
            self.assertTrue(all(float(v) > 0 for v in root.attrib["viewBox"].split()[2:]))

    @tried(200)
    @given(trees(most=30))
    def test_any_path_gives_a_sheet_with_a_row_for_each_wire(self, data: dict[str, Any]) -> None:
        a = judge(data)
        words = [item.whole for item in draw_sheet(a.power, "Any", "").items if isinstance(item, Text)]
        for row in rows(a.power):
            self.assertIn(row.to, words)

    @given(st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs")), min_size=1, max_size=40))
    def test_any_name_is_written_as_text_and_nothing_else(self, name: str) -> None:
        try:
            root = ET.fromstring(write_svg(Drawing(10, 10, items=[Text(0, 0, name, 4)]), name))
        except ET.ParseError:
            # Characters that XML does not know at all.
            self.assertTrue(any(ord(c) in (0xFFFE, 0xFFFF) for c in name))
            return
        self.assertEqual("".join(t.text or "" for t in root.iter(f"{SVG}text")), name)

    def test_a_name_full_of_markup_does_no_harm(self) -> None:
        data = put(demo("lantern-lane"), "/power/network/inverter/name", "<script>alert('x')</script> & \"co\"")
        a = judge(data)
        sheet = write_svg(draw_sheet(a.power, "<b>", "&"), "<b>")
        self.assertNotIn("<script>", sheet)
        ET.fromstring(sheet)
