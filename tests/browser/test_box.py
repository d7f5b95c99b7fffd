"""The box worked by mouse, by finger and by keyboard: what runs into what is seen at once, and one move is one step of undo."""

import json
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, expect

from tests.browser.base import BrowserTest

PLACES = json.loads((Path(__file__).parent / "box_places.json").read_text(encoding="utf-8"))
"""Where everything stands in the rolling box of these tests."""


class BoxTest(BrowserTest):
    def lane(self) -> str:
        """A copy of the demo build with everything in those places."""
        design = self.server.demo("lantern-lane")
        self.server.put(design, "/box/places", PLACES)
        return design

    def place(self, design: str, key: str) -> Any:
        return self.stored(design)["box"]["places"][key]

    def part(self, page: Page, key: str, view: str = "above") -> Any:
        return page.locator(f'svg[data-view="{view}"] [data-key="{key}"] .halo')

    def middle(self, page: Page, key: str, view: str = "above") -> tuple[float, float]:
        self.part(page, key, view).scroll_into_view_if_needed()
        at = self.part(page, key, view).bounding_box()
        return at["x"] + at["width"] / 2, at["y"] + at["height"] / 2

    def test_a_part_is_dragged_its_collision_seen_and_taken_back_in_one_step(self) -> None:
        design = self.lane()
        page = self.open(design, "box")
        before = self.place(design, "part:inverter")
        x, y = self.middle(page, "part:inverter")
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 3, y - 40, steps=4)
        shadow = page.locator(".box-view .shadow")
        expect(shadow).to_have_class("shadow clash")
        expect(shadow).to_contain_text("runs into Pack")
        page.mouse.move(x + 4, y, steps=4)
        expect(shadow).to_have_class("shadow clear")
        page.mouse.move(x + 3, y - 40, steps=4)
        page.mouse.up()
        self.wait_stored()
        moved = self.place(design, "part:inverter")
        self.assertGreater(moved["y_mm"], before["y_mm"] + 30)
        expect(page.locator(".finding").first).to_contain_text("Inverter and Pack run")
        page.get_by_role("button", name="undo", exact=True).click()
        self.wait_stored()
        self.assertEqual(self.place(design, "part:inverter"), before)

    def test_a_click_only_picks(self) -> None:
        design = self.lane()
        page = self.open(design, "box")
        revision = self.stored(design)
        page.mouse.click(*self.middle(page, "part:busbar"))
        expect(page.locator(".margin h2").first).to_have_text("Busbar")
        self.assertEqual(self.stored(design), revision)

    def test_what_is_drawn_near_an_edge_snaps_to_it(self) -> None:
        """The shunt, brought near the busbar's side, stands 3 mm from it."""
        design = self.lane()
        page = self.open(design, "box")
        busbar = self.place(design, "part:busbar")["x_mm"] + 180
        x, y = self.middle(page, "shunt")
        drawn = page.locator('svg[data-view="above"] [data-key="part:busbar"] rect').first.bounding_box()
        assert drawn is not None
        scale = drawn["width"] / 180
        gap = self.place(design, "shunt")["x_mm"] - busbar
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x - (gap - 3.3) * scale, y, steps=5)
        page.mouse.up()
        self.wait_stored()
        self.assertAlmostEqual(self.place(design, "shunt")["x_mm"], busbar + 3)

    def test_all_of_it_by_keyboard(self) -> None:
        design = self.lane()
        page = self.open(design, "box")
        before = self.place(design, "shunt")
        self.part(page, "shunt").focus()
        page.keyboard.press("Enter")
        expect(page.locator(".margin h2").first).to_have_text("Shunt")
        for key in ("ArrowRight", "ArrowRight", "Shift+ArrowUp", "ArrowLeft"):
            page.keyboard.press(key)
        self.wait_stored()
        moved = self.place(design, "shunt")
        self.assertEqual((moved["x_mm"], moved["y_mm"]), (before["x_mm"] + 1, before["y_mm"] + 10))
        page.keyboard.press("t")
        self.wait_stored()
        self.assertEqual(self.place(design, "shunt")["turn"], 90)
        for _ in range(2):  # the turn, and all steps of the arrows together
            page.get_by_role("button", name="undo", exact=True).click()
            self.wait_stored()
        self.assertEqual(self.place(design, "shunt"), before)

    def test_by_finger_on_a_tablet(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.new_page(768, 1024, touch=True)
        self.open(design, "box", page)
        x, y = self.middle(page, "part:charge-fuse")
        session = page.context.new_cdp_session(page)

        def touch(kind: str, points: list[dict[str, float]]) -> None:
            session.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

        before = self.place(design, "part:charge-fuse")["y_mm"]
        touch("touchStart", [{"x": x, "y": y}])
        for n in range(1, 6):
            touch("touchMove", [{"x": x, "y": y - 3 * n}])
        expect(page.locator(".box-view .shadow")).to_be_visible()
        touch("touchEnd", [])
        self.wait_stored(page)
        self.assertGreater(self.place(design, "part:charge-fuse")["y_mm"], before + 5)

    def test_on_a_face_a_post_is_moved_under_a_latch(self) -> None:
        design = self.lane()
        page = self.open(design, "box")
        x, y = self.middle(page, "part:charge-inlet", "face-front")
        latch = page.locator('svg[data-view="face-front"] rect', has=page.locator("title", has_text="latch")).first.bounding_box()
        assert latch is not None
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(latch["x"] + latch["width"] / 2, latch["y"] + latch["height"] / 2, steps=6)
        expect(page.locator(".box-view .shadow")).to_contain_text("runs into a latch")
        page.mouse.up()
        self.wait_stored()
        expect(page.locator(".finding").first).to_contain_text("Charge inlet is in the way of a latch")
        remedy = page.locator(".finding .remedy button").first
        remedy.click()
        self.wait_stored()
        expect(page.locator(".topbar")).to_contain_text("0")
        expect(page.get_by_text("in the way of a latch")).to_have_count(0)

    def test_from_nothing_to_everything_in_its_place(self) -> None:
        design = self.server.demo("lantern-lane")
        self.server.put(design, "/box", {})
        page = self.open(design, "box")
        expect(page.locator(".empty-state h2")).to_have_text("No box yet")
        page.get_by_role("button", name="Take rolling box, very large").click()
        expect(page.locator(".station-lead")).to_contain_text("18 of its parts have no place yet")
        page.get_by_role("button", name="Place what has no place").click()
        self.wait_stored()
        expect(page.locator(".station-lead")).not_to_contain_text("no place")
        self.assertEqual(len(self.stored(design)["box"]["places"]), 18)
        page.get_by_role("button", name="Add to the box…").click()
        page.get_by_role("button", name="A fan").click()
        self.wait_stored()
        expect(page.locator(".margin h2").first).to_have_text("Fan")
        expect(page.get_by_role("button", name="left", exact=True)).to_have_attribute("aria-pressed", "true")

    def test_the_template_lists_each_hole_and_hands_out_its_papers(self) -> None:
        page = self.open(self.lane(), "box")
        page.get_by_role("button", name="template").click()
        front = page.get_by_role("region", name="Holes in the front")
        expect(front.get_by_role("row").filter(has_text="Main switch")).to_contain_text("Ø57 mm")
        with page.expect_download() as download:
            front.get_by_role("link", name="DXF").click()
        self.assertIn("front.dxf", download.value.suggested_filename)
        for name in ("Print 1:1, A4", "letter"):
            self.assertIn("template.pdf", page.get_by_role("link", name=name).get_attribute("href") or "")

    def test_what_holds_a_part_is_counted(self) -> None:
        design = self.lane()
        page = self.open(design, "box", at="/box/places/pack")
        page.get_by_role("button", name="one strap round it and through the floor more").click()
        self.wait_stored()
        page.get_by_label("Hold Pack by").select_option("bracket")
        self.wait_stored()
        self.assertEqual(self.place(design, "pack")["held"], ["snug", "strap", "strap", "strap", "bracket"])
        page.get_by_role("button", name="one snug fit between parts of the box less").click()
        self.wait_stored()
        self.assertEqual(self.place(design, "pack")["held"], ["strap", "strap", "strap", "bracket"])

    def test_the_heat_is_drawn_and_what_is_decided_there_is_judged(self) -> None:
        """Kept out of the sun, it is cooler: chart, rail, margin and finding follow."""
        design = self.server.demo("wobbly-stall")
        page = self.open(design, "box")
        hot = page.locator(".finding").filter(has_text="Inverter works in air of up to")
        expect(hot).to_have_count(1)
        page.get_by_role("button", name="heat", exact=True).click()
        expect(page.get_by_role("img", name="Sun over the run")).to_be_visible()
        expect(page.locator(".masses tr").filter(has_text="Sun through the top")).to_have_count(1)
        page.get_by_label("In the sun").select_option(label="no")
        self.wait_stored()
        expect(hot).to_have_count(0)
        expect(page.get_by_role("img", name="Sun over the run")).to_have_count(0)
        expect(page.locator(".masses tr").filter(has_text="Sun through the top")).to_have_count(0)
        page.get_by_role("button", name="as it stands", exact=True).click()
        expect(page.get_by_role("img", name="Temperature over the run")).to_be_visible()

    def test_a_layout_is_proposed_seen_and_taken_in_one_step(self) -> None:
        design = self.server.demo("tidewater")
        self.server.put(design, "/box/places", before := {})
        page = self.open(design, "box")
        page.get_by_role("button", name="Propose a layout…").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_role("button", name="Propose", exact=True).click()
        expect(dialog.get_by_role("progressbar")).to_be_visible()
        take = dialog.get_by_role("button", name="Take this layout")
        expect(take).to_be_visible(timeout=60_000)
        expect(dialog).to_contain_text("All cables together are")
        self.assertEqual(self.stored(design)["box"]["places"], before)
        take.click()
        self.wait_stored()
        self.assertNotEqual(self.stored(design)["box"]["places"], before)
        page.get_by_role("button", name="undo", exact=True).first.click()
        self.wait_stored()
        self.assertEqual(self.stored(design)["box"]["places"], before)
