"""The power path on the screen: parts added where they belong, replaced with their effect seen, shown at a moment, folded."""

from playwright.sync_api import expect

from tests.browser.base import BrowserTest

#: Words of a drawing on one line that lie over one another.
RUN_TOGETHER = """() => {
  const all = [...document.querySelectorAll('text')].filter(e => e.textContent.trim()).map(e => [e.textContent, e.getBBox(), e.getAttribute('y')]);
  return all.flatMap(([a, p, y], i) => all.slice(i + 1).filter(([, q, z]) => z === y && p.x < q.x + q.width - 1 && q.x < p.x + p.width - 1).map(([b]) => `${a} | ${b}`));
}"""


class PowerTest(BrowserTest):
    def test_an_outlet_is_added_behind_what_is_chosen(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "power", at="/power/network/converter")
        page.get_by_role("button", name="Add behind it…").click()
        page.get_by_role("button", name="an outlet").click()
        expect(page.locator(".margin h2").first).to_have_text("Outlet")
        self.wait_stored()
        self.assertEqual(self.stored(design)["power"]["network"]["outlet"]["feed"], "converter")

    def test_a_quick_connect_is_put_into_the_line(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "power", at="/power/network/sound")
        page.get_by_role("button", name="Put before it…").click()
        page.get_by_role("button", name="a quick connect").click()
        self.wait_stored()
        network = self.stored(design)["power"]["network"]
        self.assertEqual((network["sound"]["feed"], network["quick-connect"]["feed"]), ("quick-connect", "sound-fuse"))

    def test_a_second_bank_has_a_panel_of_its_own(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "power")
        page.get_by_role("button", name="Add…").click()
        page.get_by_role("button", name="Add a second bank").click()
        expect(page.locator(".margin h2").first).to_have_text("Second bank")
        expect(page.get_by_role("button", name="Second bank", exact=True)).to_be_visible()
        page.get_by_label("Its job").select_option("short high current")
        self.wait_stored()
        self.assertEqual(self.stored(design)["power"]["banks"]["second-bank"]["job"], "short high current")

    def test_replacing_a_part_shows_its_effect_before(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "power", at="/power/network/inverter")
        page.get_by_label("Replace it with").select_option(label="pure-sine inverter, 24 V, 1 kW, about 200 EUR")
        expect(page.locator(".margin .remedy .effect").first).to_contain_text("brings")
        page.get_by_role("button", name="Take pure-sine inverter, 24 V, 1 kW").click()
        self.wait_stored()
        self.assertEqual(self.stored(design)["power"]["network"]["inverter"]["rating_w"], 1000)
        page.locator(".notice").get_by_role("button", name="undo").click()
        self.wait_stored()
        self.assertEqual(self.stored(design)["power"]["network"]["inverter"]["rating_w"], 2000)

    def test_an_owned_part_is_pinned_and_offered_again(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "power", at="/power/network/main-switch")
        page.get_by_role("button", name="I own this").click()
        expect(page.locator(".margin .chip.pinned").first).to_be_visible()
        expect(page.get_by_label("Replace it with")).to_contain_text("owned")

    def test_a_rating_is_typed_freely_and_emptied_goes_back_to_auto(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "power", at="/power/network/inverter")
        rating = page.get_by_label("Continuous rating", exact=True)
        for typed, stored in (("2.2 kW", 2200), ("350", 350), ("", None)):
            rating.fill(typed)
            self.wait_stored()
            self.assertEqual(self.stored(design)["power"]["network"]["inverter"]["rating_w"], stored)
        rating.fill("lots")
        expect(page.locator(".margin .problem")).to_contain_text("Still in force: 1.5 kW")

    def test_the_wire_table_is_edited_in_place_and_pasted(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "power")
        page.get_by_role("button", name="wire table").click()
        page.get_by_label("Gauge of the run to Inverter").select_option("35 mm²")
        self.wait_stored()
        self.assertEqual(self.stored(design)["power"]["network"]["inverter"]["run"]["gauge"], "35 mm²")
        page.get_by_role("button", name="Paste…").click()
        page.get_by_role("textbox", name="Rows of wires").fill("to;length m\nInverter;far\n")
        page.get_by_role("button", name="Take these in").click()
        expect(page.get_by_role("dialog").get_by_role("alert")).to_contain_text("line 2, column 2")
        page.get_by_role("textbox", name="Rows of wires").fill("to;length m;gauge\nInverter;0,7;auto\n")
        page.get_by_role("button", name="Take these in").click()
        expect(page.get_by_role("dialog")).to_have_count(0)
        self.wait_stored()
        run = self.stored(design)["power"]["network"]["inverter"]["run"]
        self.assertEqual((run["length_m"], run["gauge"]), (0.7, None))

    def test_no_words_run_into_others_in_the_file_of_the_sheet(self) -> None:
        for name in ("lantern-lane", "tidewater"):
            self.page.goto(f"{self.server.url}/api/designs/{self.server.original(name)}/power.svg")
            self.page.wait_for_function("() => document.fonts.status === 'loaded'")
            self.assertEqual(self.page.evaluate("() => document.fonts.size"), 2)
            self.assertEqual(self.page.evaluate(RUN_TOGETHER), [], name)

    def test_the_diagram_at_a_moment_and_folded(self) -> None:
        page = self.open(self.server.demo("lantern-lane"), "power")
        drawn = page.get_by_role("group", name="Single-line diagram")
        before = drawn.text_content() or ""
        page.get_by_label("shown at").select_option("0")
        expect(drawn).not_to_have_text(before)
        page.get_by_role("button", name="fold fuse-block").click()
        expect(page.locator("g[data-key='mixer-outlet']")).to_have_count(0)
        page.get_by_role("button", name="show 8 behind fuse-block").click()
        expect(page.locator("g[data-key='mixer-outlet']")).to_have_count(1)

    def test_cut_offs_idle_and_ac_side(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "power")
        page.get_by_role("button", name="cut-offs").click()
        expect(page.locator("main table")).to_contain_text("the protection board")
        page.get_by_role("button", name="idle").click()
        expect(page.locator("main table")).to_contain_text("goes on drawing")
        page.get_by_role("button", name="AC side").click()
        page.get_by_label("Neutral-to-earth bond").select_option("as its manual says")
        self.wait_stored()
        self.assertEqual(self.stored(design)["power"]["network"]["inverter"]["bond"], "as its manual says")
        page.get_by_label("AC cable to Fog outlet").fill("2")
        self.wait_stored()
        expect(page.locator("main table")).to_contain_text("1.5 mm²")

    def test_each_finding_of_the_stall_is_reached_from_the_diagram(self) -> None:
        design = self.server.demo("wobbly-stall")
        page = self.open(design, "power")
        found = self.server.get(f"/api/designs/{design}")["assessment"]["findings"]
        places = {f["place"].split("/")[3] for f in found if f["place"].startswith("/power/network/")}
        self.assertGreater(len(places), 6)
        for key in places:
            page.locator(f"g[data-key='{key}'] > .halo").first.focus()
            page.keyboard.press("Enter")
            expect(page.locator(".margin .finding").first).to_be_visible()

    def test_the_margin_says_what_was_judged_and_each_check_opens_to_its_working(self) -> None:
        page = self.open(self.server.original("lantern-lane"), "power", at="/power/network/inverter")
        checks = page.get_by_role("region", name="Checks")
        expect(checks).to_contain_text("2 wait")
        expect(checks).to_contain_text("The closest of those that hold is at")
        line = checks.get_by_role("button", name="voltage drop")
        line.click()
        expect(checks).to_contain_text("The voltage drop of a cable is within its limit.")
        checks.locator(".figure-button").first.click()
        expect(page.locator(".margin .working .formula")).to_contain_text("d = Id · (R + 4 · Rj) / V")

    def test_the_verification_table_lists_every_check_and_leads_to_its_place(self) -> None:
        page = self.open(self.server.original("wobbly-stall"), "checks")
        rows = page.locator("main tbody tr")
        every = int(page.locator(".check-summary").inner_text().split()[0])
        self.assertEqual(rows.count(), every)
        expect(rows.first).to_have_attribute("data-row", "bench.dark")
        page.locator(".tab", has_text="Pack").click()
        self.assertLess(rows.count(), every)
        rows.first.get_by_role("button").first.click()
        expect(page.locator("main h1")).to_have_text("Pack")
        expect(page.locator(".margin .check-list li").first).to_be_visible()
