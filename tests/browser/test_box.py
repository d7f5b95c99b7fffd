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

    def turned(self, design: str, page: Page | None = None) -> Page:
        """The box in three dimensions, drawn."""
        page = self.open(design, "box", page)
        page.get_by_role("button", name="3D").click()
        expect(self.named(page, "pack")).to_be_visible()
        return page

    def named(self, page: Page, key: str) -> Any:
        """The name of a part over the drawing."""
        return page.locator(f'.model-names [data-key="/box/places/{key}"]')

    def where(self, page: Page, key: str) -> tuple[float, float]:
        at = self.named(page, key).bounding_box()
        return at["x"] + at["width"] / 2, at["y"] + at["height"] / 2

    def colours(self, page: Page) -> int:
        """How many colours the drawing has: one where nothing is drawn."""
        return int(
            page.evaluate(
                """() => { const from = document.querySelector('.model canvas'), to = document.createElement('canvas');
                [to.width, to.height] = [from.width, from.height];
                const flat = to.getContext('2d'); flat.drawImage(from, 0, 0);
                return new Set(new Uint32Array(flat.getImageData(0, 0, to.width, to.height).data.buffer)).size }"""
            )
        )

    def test_in_three_dimensions_a_part_is_picked_and_all_is_turned_by_hand_and_by_key(self) -> None:
        page = self.turned(self.lane())
        self.assertGreater(self.colours(page), 10)
        page.mouse.click(*self.where(page, "pack"))
        expect(page.locator(".margin h2").first).to_have_text("Pack")
        expect(self.named(page, "pack")).to_have_class("selected")
        before = self.where(page, "pack")
        page.mouse.move(600, 300)
        page.mouse.down()
        page.mouse.move(700, 320, steps=4)
        page.mouse.up()
        page.wait_for_function("was => document.querySelector('.model-names .selected').style.translate !== was[0]", arg=[""])
        dragged = self.where(page, "pack")
        self.assertNotEqual(dragged, before)
        expect(page.locator(".margin h2").first).to_have_text("Pack")  # turning picks nothing
        page.locator(".model").focus()
        page.keyboard.press("Home")
        page.wait_for_timeout(200)
        self.assertEqual(self.where(page, "pack"), before)
        page.keyboard.press("ArrowRight")
        page.wait_for_timeout(200)
        self.assertNotEqual(self.where(page, "pack"), before)

    def test_it_is_turned_by_one_finger_and_brought_nearer_by_two(self) -> None:
        page = self.turned(self.lane(), self.new_page(768, 1024, touch=True))
        at = page.locator(".model").bounding_box()
        assert at is not None
        x, y = at["x"] + 200, at["y"] + 120
        session = page.context.new_cdp_session(page)

        def wide() -> float:
            """From one name to another."""
            return abs(self.where(page, "pack")[0] - self.where(page, "shunt")[0])

        for spread in (0, 8):
            before = wide()
            fingers = [[(x + 12 * n, y)] if not spread else [(x - spread * n, y), (x + 60 + spread * n, y)] for n in range(8)]
            for n, points in enumerate(fingers):
                touched = [{"x": px, "y": py} for px, py in points]
                session.send("Input.dispatchTouchEvent", {"type": "touchMove" if n else "touchStart", "touchPoints": touched})
            session.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})
            page.wait_for_timeout(300)
            self.assertNotAlmostEqual(wide(), before, delta=3)

    def test_parts_are_lifted_out_one_by_one_with_what_stands_over_them(self) -> None:
        design = self.lane()
        over = {"name": "Tray", "z_mm": 300, "width_mm": 400, "depth_mm": 300, "height_mm": 9, "x_mm": 100, "y_mm": 150}
        self.server.put(design, "/box/fixtures", {"tray": over})
        page = self.turned(design)
        out = page.get_by_label("Taken out")
        page.get_by_role("button", name="Shut the lid").click()
        page.locator(".box-parts, table").get_by_text("Pack", exact=True).first.click()
        expect(page.locator("main")).to_contain_text("Before Pack comes out: Tray.")
        page.get_by_role("button", name="Take out Pack").click()
        expect(out).to_have_value("2")
        expect(page.get_by_role("button", name="Shut the lid")).to_be_visible()  # which is open again
        page.get_by_role("button", name="Put back Pack").click()
        expect(out).to_have_value("1")  # the tray need not go in
        out.fill("5")
        expect(page.locator("main")).to_contain_text("Taken out: 5 of")
        page.get_by_role("button", name="Next out").click()
        expect(out).to_have_value("6")
        page.get_by_role("button", name="all back in").click()
        expect(out).to_have_value("0")

    def test_where_three_dimensions_are_missing_the_flat_drawings_serve(self) -> None:
        page = self.new_page(1280, 800)
        page.add_init_script(
            """const own = HTMLCanvasElement.prototype.getContext;
            HTMLCanvasElement.prototype.getContext = function (kind, ...more) {
              return kind.startsWith('webgl') ? null : own.call(this, kind, ...more) }"""
        )
        page = self.open(self.lane(), "box", page)
        page.get_by_role("button", name="3D").click()
        expect(page.get_by_role("status").filter(has_text="three dimensions")).to_be_visible()
        expect(page.locator('svg[data-view="above"]')).to_be_visible()

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
        expect(take).to_be_visible()
        expect(dialog).to_contain_text("All cables together are")
        self.assertEqual(self.stored(design)["box"]["places"], before)
        take.click()
        self.wait_stored()
        self.assertNotEqual(self.stored(design)["box"]["places"], before)
        page.get_by_role("button", name="undo", exact=True).first.click()
        self.wait_stored()
        self.assertEqual(self.stored(design)["box"]["places"], before)
