"""Longer work on the screen, from beginning to end: a path built part by part, a pile sorted by hand, loads measured."""

from typing import Any

from playwright.sync_api import Page, expect

from tests.browser.base import BrowserTest, RackScreen


class BuildingAPathTest(BrowserTest):
    def path(self, design: str) -> dict[str, Any]:
        return dict(self.stored(design)["power"]["network"])

    def choose(self, page: Page, opener: str, item: str) -> None:
        page.get_by_role("button", name=opener).click()
        page.get_by_role("button", name=item, exact=True).click()
        self.wait_stored()

    def test_a_path_is_built_from_the_post_to_a_socket_part_by_part(self) -> None:
        page = self.page
        page.goto(self.server.url)
        page.get_by_role("button", name="New build").click()
        page.locator("main.station h1").wait_for()
        design = page.url.split("/build/")[1].split("/")[0]
        self.open(design, "loads", page)
        page.get_by_role("button", name="Put in two examples").click()
        expect(page.locator("[data-row]")).to_have_count(2)
        self.open(design, "power", page)
        page.get_by_role("button", name="Lay out a path for these loads").click()
        expect(page.locator("g[data-key]").first).to_be_visible()
        self.wait_stored()
        before = self.path(design)
        block = next(key for key, node in before.items() if node["part"] in ("fuse_block", "busbar"))
        page.locator(f"g[data-key='{block}'] > .halo").first.focus()
        page.keyboard.press("Enter")
        self.choose(page, "Add behind it…", "a fuse")
        fuse = next(key for key in self.path(design) if key not in before)
        expect(page.locator(".margin h2").first).to_have_text("Fuse")
        self.choose(page, "Add behind it…", "an outlet")
        outlet = next(key for key in self.path(design) if key not in before and key != fuse)
        self.assertEqual(self.path(design)[outlet]["feed"], fuse)
        expect(page.locator(f"g[data-key='{outlet}']").first).to_be_visible()
        name = page.get_by_label("Name", exact=True)
        name.fill("Radio socket")
        name.press("Tab")
        self.wait_stored()
        self.assertEqual(self.path(design)[outlet]["name"], "Radio socket")
        expect(page.locator(f"tr[data-row='{outlet}']")).to_contain_text("Radio socket")

    def test_what_is_taken_out_goes_with_what_hangs_on_it_and_comes_back_by_undo(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "power", at="/power/network/converter")
        before = self.path(design)
        page.get_by_role("button", name="Take out").click()
        self.wait_stored()
        gone = set(before) - set(self.path(design))
        self.assertEqual(gone, {"converter", "mixer-outlet", "cooler-outlet"})
        loads = self.stored(design)["loads"]["items"]
        self.assertEqual((loads["mixer"]["outlet"], loads["cooler"]["outlet"]), (None, None))
        page.locator(".notice").get_by_role("button", name="undo").click()
        expect(page.locator("g[data-key='cooler-outlet']").first).to_be_visible()
        self.wait_stored()
        self.assertEqual(self.path(design), before)
        self.assertEqual(self.stored(design)["loads"]["items"]["mixer"]["outlet"], "mixer-outlet")

    def test_a_switch_goes_into_the_line_before_a_part(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "power", at="/power/network/inverter")
        self.choose(page, "Put before it…", "a switch")
        path = self.path(design)
        self.assertEqual(path["inverter"]["feed"], "switch")
        self.assertEqual(path["switch"]["feed"], "busbar")
        expect(page.locator(".margin h2").first).to_have_text("Switch")

    def test_a_pinned_fuse_is_judged_mended_and_given_back(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "power", at="/power/network/main-fuse")
        expect(page.locator(".margin .chip.pinned")).to_have_count(0)
        self.server.put(design, "/power/network/inverter/run/gauge", "16 mm²")
        self.server.put(design, "/power/network/main-fuse/rating_a", 300)
        self.open(design, "power", page, at="/power/network/inverter")
        finding = page.locator(".margin .finding[data-finding='power.wire-unprotected']").first
        expect(finding).to_be_visible()
        expect(finding).to_contain_text("300 A")
        if finding.get_attribute("aria-current") != "true":
            finding.locator(".open-finding").click()
        finding.locator(".remedy button").last.click()
        expect(page.locator(".notice")).to_contain_text("Done")
        self.wait_stored()
        places = [
            f["place"]
            for f in self.server.get(f"/api/designs/{design}")["assessment"]["findings"]
            if f["id"] == "power.wire-unprotected"
        ]
        self.assertNotIn("/power/network/inverter/run", places)

    def test_shunt_and_chassis_bond_are_added_from_the_menu(self) -> None:
        design = self.server.demo("lantern-lane")
        self.server.put(design, "/power/shunt", None)
        page = self.open(design, "power")
        self.choose(page, "Add…", "Add a shunt")
        self.assertEqual(self.stored(design)["power"]["shunt"]["rating_a"], None)
        self.choose(page, "Add…", "Bond the negative to the chassis")
        self.assertTrue(self.stored(design)["power"]["chassis_bond"])

    def test_the_same_thing_is_selected_in_drawing_table_and_findings(self) -> None:
        page = self.open(self.server.demo("wobbly-stall"), "power")
        page.locator("tr[data-row='inverter'] .row-button").click()
        expect(page.locator(".margin h2").first).to_have_text("Inverter")
        expect(page.locator("tr[data-row='inverter']")).to_have_class("selected")
        shown = page.locator(".margin .finding").evaluate_all("all => all.map(f => f.dataset.finding)")
        self.assertIn("power.wire-unprotected", shown)
        self.assertIn("at=%2Fpower%2Fnetwork%2Finverter", page.url)
        page.go_back()
        expect(page.locator("tr.selected")).to_have_count(0)


class SortingByHandTest(RackScreen):
    def test_a_cell_measured_again_is_judged_again_at_once(self) -> None:
        page = self.open_rack()
        label = next(name for name, cell in self.rack().items() if not cell["reasons"] and not cell["build"])
        page.get_by_label("Find a cell by its label").fill(label)
        row = page.locator(f"tr[data-row='{label}']")
        field = page.get_by_label(f"Capacity of {label}")
        field.fill("1,2")
        field.press("Enter")
        expect(row).to_contain_text("of rated")
        self.assertEqual(self.rack()[label]["capacity_ah"], 1.2)

    def test_what_is_no_number_leaves_the_measured_value_and_says_so(self) -> None:
        page = self.open_rack()
        label, before = next((name, cell) for name, cell in self.rack().items() if not cell["reasons"])
        page.get_by_label("Find a cell by its label").fill(label)
        field = page.get_by_label(f"Capacity of {label}")
        field.fill("about two")
        field.press("Enter")
        expect(field).to_have_value("about two")
        expect(page.locator(f"[data-row='{label}'] .problem")).to_contain_text("Still in force")
        self.assertEqual(self.rack()[label]["capacity_ah"], before["capacity_ah"])

    def test_a_cell_kept_out_is_not_sorted_in_and_a_pinned_one_is_in_its_group(self) -> None:
        page = self.open_rack()
        good = [name for name, cell in self.rack().items() if not cell["reasons"]]
        kept, pinned = good[0], good[1]
        for label, place in ((kept, "out"), (pinned, "3")):
            page.get_by_label("Find a cell by its label").fill(label)
            page.get_by_label(f"Place of {label} in the sorting").select_option(place)
        page.get_by_role("button", name="sort into groups").click()
        expect(page.locator("main")).to_contain_text("1 pinned, 1 kept out")
        page.get_by_role("button", name="Sort", exact=True).click()
        expect(page.locator(".group-bars li")).to_have_count(14)
        page.get_by_role("button", name="Build these cells in").click()
        expect(page.locator(".notice")).to_contain_text("cells are built in")
        cells = self.rack()
        self.assertIsNone(cells[kept]["build"])
        self.assertEqual(cells[pinned]["build"]["group"], 3)

    def test_rejects_are_shown_apart_each_with_its_reason(self) -> None:
        page = self.open_rack()
        rejects = {name: cell["reasons"][0] for name, cell in self.rack().items() if cell["reasons"]}
        page.get_by_role("button", name=f"rejected {len(rejects)}").click()
        expect(page.locator("tr[data-row]:not(.rejected)")).to_have_count(0)
        label = page.locator("tr.rejected").first.get_attribute("data-row") or ""
        expect(page.locator("tr.rejected").first).to_contain_text(rejects[label])

    def test_a_cell_is_taken_off_and_the_rest_stay(self) -> None:
        page = self.open_rack()
        before = self.rack()
        label = next(name for name, cell in before.items() if not cell["build"])
        page.get_by_label("Find a cell by its label").fill(label)
        page.get_by_role("button", name=f"Take {label} off the rack").click()
        expect(page.locator(f"tr[data-row='{label}']")).to_have_count(0)
        self.assertEqual(set(before) - set(self.rack()), {label})


class MeasuringLoadsTest(BrowserTest):
    def test_power_from_volts_and_amps_and_from_a_battery(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads", at="/loads/items/mixer")
        page.get_by_label("Its power is known from").select_option("volts_amps")
        for label, text in (("Volts", "12"), ("Amps", "2,5")):
            field = page.locator(".margin").get_by_role("textbox", name=label)
            field.fill(text)
            field.press("Tab")
        self.wait_stored()
        expect(page.locator(".margin .figure-list .figure-button").first).to_have_text("30 W")
        page.get_by_label("Its power is known from").select_option("charging")
        page.get_by_role("textbox", name="Its battery").fill("90 Wh")
        page.get_by_role("textbox", name="Its battery").press("Tab")
        self.wait_stored()
        self.assertEqual(self.stored(design)["loads"]["items"]["mixer"]["measured"]["battery_wh"], 90)

    def test_a_load_is_plugged_into_an_outlet_of_its_own_choice(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads", at="/loads/items/projector")
        page.get_by_label("Plugged into").select_option(label="Fog outlet")
        self.wait_stored()
        after = self.server.get(f"/api/designs/{design}")
        self.assertIn("projector", after["plugged"]["ac-2"])

    def test_loads_that_start_together_raise_the_surge(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads", at="/loads/items/projector")
        before = self.server.get(f"/api/designs/{design}")["assessment"]["figures"]["loads/surge"]["value"]
        page.locator(".margin .more summary").click()
        page.get_by_label("Starts at the same moment as").select_option("A")
        self.wait_stored()
        self.open(design, "loads", page, at="/loads/items/stage-lamps")
        page.locator(".margin .more summary").click()
        expect(page.get_by_label("Starts at the same moment as")).to_contain_text("group A: Projector")
        page.get_by_label("Starts at the same moment as").select_option("A")
        self.wait_stored()
        after = self.server.get(f"/api/designs/{design}")["assessment"]["figures"]["loads/surge"]["value"]
        self.assertAlmostEqual(after - before, 180 * 0.2)

    def test_the_working_of_a_figure_names_what_the_builder_typed(self) -> None:
        page = self.open(self.server.demo("tidewater"), "loads", at="/loads/items/sample-pump")
        page.locator(".margin .figure-list .figure-button").nth(3).click()
        working = page.locator(".margin .working")
        expect(working).to_contain_text("Energy a day", ignore_case=True)
        working.get_by_role("button", name="duty").click()
        expect(working).to_contain_text("3 min")
        expect(working).to_contain_text("17 min")
        page.keyboard.press("Escape")
        expect(page.locator(".margin .working")).to_have_count(0)
