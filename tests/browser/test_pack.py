"""The rack at the bench, the pack in its forms, and the ribbons: by one hand, by keyboard, with the server away."""

import re

from playwright.sync_api import expect

from tests.browser.base import BrowserTest, RackScreen

LIST_ANSWERS_LAST = """
const asked = window.fetch;
let tell;
const stored = new Promise(told => { tell = told; });
window.fetch = async (request, ...more) => {
  const answer = await asked(request, ...more);
  const { pathname: path } = new URL(request.url ?? request, location.href);
  if (path === '/api/rack/cells') setTimeout(tell, 100);
  if (path === '/api/rack') await stored;
  return answer;
};
"""
"""A list of cells that was asked for before a cell was stored is answered after it."""


class RackTest(RackScreen):
    def test_twenty_cells_by_keyboard_alone_with_the_server_stopped_in_the_middle(self) -> None:
        page = self.open_rack()
        page.keyboard.press("n")
        before = set(self.rack())
        for n in range(20):
            if n == 8:
                self.server.kill()
            for value in (f"{2300 + n}", f"{44 + n / 10:.1f}".replace(".", ","), "4.12"):
                page.keyboard.type(value)
                page.keyboard.press("Enter")
            if n == 12:
                expect(page.locator(".waiting li").nth(4)).to_be_visible()
                self.server.revive()
        expect(page.locator(".waiting li")).to_have_count(0)
        after = self.rack()
        new = [label for label in after if label not in before]
        head, first = new[0].rsplit("-", 1)
        self.assertEqual(new, [f"{head}-{int(first) + n}" for n in range(20)])
        self.assertEqual([after[label]["capacity_ah"] for label in new], [round(2.3 + n / 1000, 3) for n in range(20)])
        self.assertEqual(after[new[3]]["resistance_mohm"], 44.3)

    def test_what_is_typed_outlives_a_closed_page_while_the_server_is_away(self) -> None:
        page = self.open_rack()
        self.server.leave()
        page.locator("#type-label").fill("KEEP-1")
        page.locator("#type-capacity").fill("2.2")
        page.locator("#type-voltage").fill("4.1")
        page.locator("#type-voltage").press("Enter")
        expect(page.locator(".waiting li")).to_contain_text("KEEP-1")
        at = page.url
        page.goto("about:blank")
        self.server.revive()
        page.add_init_script(LIST_ANSWERS_LAST)
        page.goto(at)
        page.get_by_role("button", name="cell rack").click()
        expect(page.locator("tr[data-row]").first).to_be_visible()
        page.get_by_label("Find a cell by its label").fill("KEEP-1")
        expect(page.locator("tr[data-row='KEEP-1']")).to_be_visible()

    def test_bad_values_stay_where_they_are_with_the_reason(self) -> None:
        page = self.open_rack()
        page.locator("#type-capacity").fill("lots")
        page.locator("#type-voltage").press("Enter")
        expect(page.locator("#type-capacity")).to_be_focused()
        expect(page.locator(".type-cells .problem")).to_contain_text("as 2.31 or 2310")
        page.locator("#type-capacity").fill("2.3")
        page.locator("#type-label").fill("HO-001")
        page.locator("#type-voltage").press("Enter")
        expect(page.locator(".waiting .refused")).to_contain_text("on the rack already")
        page.get_by_role("button", name="put right").click()
        expect(page.locator("#type-capacity")).to_have_value("2.3")

    def test_a_table_is_shown_as_it_reads_before_it_goes_on_the_rack(self) -> None:
        page = self.open_rack()
        page.get_by_role("button", name="Import…").click()
        table = page.get_by_role("textbox", name="Table of cells")
        table.fill("cell;capacity;R\nT-1;2310;44,2\nT-2;oops;45\n")
        expect(page.locator(".problem-list")).to_contain_text("line 3, column 2")
        expect(page.get_by_role("button", name="Put on the rack")).to_be_disabled()
        table.fill("cell;capacity;R\nT-1;2310;44,2\nT-2;2290;45\n")
        expect(page.get_by_label("Unit of column capacity")).to_have_value("mAh")
        expect(page.get_by_text("guessed: look at it").first).to_be_visible()
        page.get_by_role("button", name="Put 2 on the rack").click()
        expect(page.locator(".notice")).to_contain_text("2 cells are on the rack")
        self.assertEqual(self.rack()["T-2"]["capacity_ah"], 2.29)

    def test_cells_are_sorted_seen_and_built_in(self) -> None:
        page = self.open_rack("sort into groups")
        page.get_by_role("button", name="Sort", exact=True).click()
        expect(page.locator(".group-bars li")).to_have_count(14)
        expect(page.get_by_text("rejected")).to_be_visible()
        page.get_by_role("button", name="Build these cells in").click()
        expect(page.locator(".notice")).to_contain_text("280 cells are built in")
        expect(page.locator(".pack-drawing svg")).to_be_visible()

    def test_the_pile_shows_what_a_limit_does(self) -> None:
        page = self.open_rack("the pile")
        before = page.get_by_role("heading", name="Rejected").inner_text()
        limit = page.get_by_label("Capacity over rated, at least")
        limit.fill("88")
        limit.press("Enter")
        expect(page.get_by_role("heading", name="Rejected")).not_to_have_text(before)


class PackFormsTest(BrowserTest):
    def test_each_form_is_drawn_and_judged(self) -> None:
        design = self.server.demo("tidewater")
        page = self.open(design, "pack")
        for form, words in (
            ("batteries", "string"),
            ("modules", "string"),
            ("cells", "Protection board"),
            ("battery", "by its sheet"),
        ):
            page.get_by_label("Made of").select_option(form)
            self.wait_stored()
            expect(page.locator(".pack-drawing svg")).to_be_visible()
            expect(page.locator("main")).to_contain_text(words)

    def test_opposite_corners_share_better_and_the_drawing_shows_it(self) -> None:
        design = self.server.demo("tidewater")
        page = self.open(design, "pack")
        page.get_by_label("Made of").select_option("batteries")
        page.get_by_label("Strings in parallel").fill("3")
        page.get_by_label("The load is taken off").select_option("same side")
        self.wait_stored()
        expect(page.locator(".finding[data-finding='pack.parallel-takeoff']")).to_be_visible()
        drawing = page.locator(".pack-drawing svg")
        expect(drawing).to_contain_text(re.compile(r"34\.\d%.*32\.\d%"))
        uneven = drawing.text_content()
        page.get_by_label("The load is taken off").select_option("")
        self.wait_stored()
        expect(page.locator(".finding[data-finding='pack.parallel-takeoff']")).to_have_count(0)
        expect(drawing).not_to_have_text(uneven or "")

    def test_the_other_side_is_mirrored(self) -> None:
        page = self.open(self.server.demo("hollow-oak"), "pack")
        first = page.locator(".pack-drawing circle").first
        above = float(first.get_attribute("cx") or 0)
        page.get_by_role("button", name="from below, mirrored").click()
        expect(page.get_by_role("group", name="The pack seen from below, mirrored").first).to_be_visible()
        expect(first).not_to_have_attribute("cx", f"{above:g}")
        self.assertGreater(float(first.get_attribute("cx") or 0), above)

    def test_a_suggested_pack_is_taken_with_one_click_and_undone(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "pack")
        page.get_by_role("button", name="three that would serve").click()
        expect(page.locator(".choice-card")).to_have_count(3)
        before = self.stored(design)["pack"]
        page.get_by_role("button", name="Take this pack").nth(1).click()
        self.wait_stored()
        self.assertNotEqual(self.stored(design)["pack"], before)
        page.locator(".notice").get_by_role("button", name="undo").click()
        self.wait_stored()
        expect(page.get_by_role("button", name="undo").first).to_be_disabled()
        self.assertEqual(self.stored(design)["pack"], before)


class LoadsTest(BrowserTest):
    def test_an_appliance_of_the_shelf_comes_with_its_figures(self) -> None:
        design = self.server.demo("tidewater")
        page = self.open(design, "loads")
        page.get_by_role("button", name="Appliances…").click()
        page.get_by_label("Search the appliances").fill("kettle 12")
        page.get_by_role("button", name="Add kettle, 12 V").click()
        page.keyboard.press("Escape")
        self.wait_stored()
        self.assertEqual(self.stored(design)["loads"]["items"]["kettle-12-v"]["watts"], 150)

    def test_a_table_pasted_into_the_new_row_is_read_and_added(self) -> None:
        design = self.server.demo("tidewater")
        page = self.open(design, "loads")
        page.get_by_role("button", name="Paste…").click()
        page.get_by_role("textbox", name="Table of loads").fill("name;watts;hours\nBilge pump;40;9-10\nHorn;many;9-10\n")
        expect(page.locator(".problem-list")).to_contain_text("line 3, column 2")
        page.get_by_role("textbox", name="Table of loads").fill("name;watts;hours\nBilge pump;40;9-10\nHorn;30;9-10\n")
        page.get_by_role("button", name="Add 2").click()
        self.wait_stored()
        self.assertEqual(self.stored(design)["loads"]["items"]["horn"]["watts"], 30)

    def test_the_end_of_a_ribbon_is_dragged_and_moved_by_keys(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads", at="/loads/items/projector")
        handle = page.get_by_role("slider", name="Projector: off at").first
        box = handle.locator(".grip").bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 3, box["y"] + 5)
        page.mouse.down()
        page.mouse.move(box["x"] + 40, box["y"] + 5, steps=4)
        page.mouse.up()
        self.wait_stored()
        dragged = self.stored(design)["loads"]["items"]["projector"]["windows"]["w1"]["to_h"]
        self.assertGreater(dragged, 16.3)
        self.assertEqual(dragged * 4, int(dragged * 4))
        handle.focus()
        page.keyboard.press("ArrowLeft")
        self.wait_stored()
        self.assertEqual(self.stored(design)["loads"]["items"]["projector"]["windows"]["w1"]["to_h"], dragged - 0.25)

    def test_days_of_an_event_and_a_load_on_one_of_them(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads", at="/loads/items/fog-machine")
        page.locator("#pattern").select_option("event")
        self.wait_stored()
        page.get_by_role("group", name="Days on which it runs").get_by_role("button", name="day 1").click()
        self.wait_stored()
        self.assertEqual(self.stored(design)["loads"]["items"]["fog-machine"]["days"], [2])
        expect(page.locator(".drawing")).to_contain_text("not on this day")
        page.get_by_role("group", name="Day shown").get_by_role("button", name="day 2").click()
        expect(page.locator(".drawing").first).not_to_contain_text("not on this day")

    def test_power_from_a_meter(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads", at="/loads/items/cooler")
        page.get_by_label("Its power is known from").select_option("meter")
        self.wait_stored()
        page.get_by_label("The meter counted").fill("0,44 kWh")
        self.wait_stored()
        self.assertEqual(self.stored(design)["loads"]["items"]["cooler"]["measured"]["wh"], 440)
        expect(page.locator("tr[data-row='cooler'] .figure-button").first).to_have_text("55 W")

    def test_what_if_the_loads_grow(self) -> None:
        page = self.open(self.server.demo("lantern-lane"), "loads")
        page.get_by_role("button", name="What if…").click()
        page.get_by_role("slider").fill("60")
        expect(page.get_by_role("dialog")).to_contain_text("between charges ask for")

    def test_an_own_curve_is_pasted_and_a_current_that_is_none_is_refused(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "pack")
        page.get_by_role("button", name="typical; put in your own…").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_role("textbox", name="Table of the discharge").fill("Ah;V\n0;3,40\n100;3,30\n200;3,00\n")
        dialog.get_by_label("Current of one cell").fill("much")
        dialog.get_by_role("button", name="Take this curve").click()
        expect(dialog.get_by_role("alert")).to_contain_text("much")
        self.assertIsNone(self.stored(design)["pack"]["curve"])
        dialog.get_by_label("Current of one cell").fill("2,5")
        dialog.get_by_role("button", name="Take this curve").click()
        expect(dialog).to_have_count(0)
        self.wait_stored()
        curve = self.stored(design)["pack"]["curve"]
        self.assertEqual((curve["current_a"], len(curve["points"])), (2.5, 3))
