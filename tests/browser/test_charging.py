"""The station of charging on the screen: a source from nothing to its fuse, its hours, what is said where the act happens."""

from typing import Any

from playwright.sync_api import expect

from tests.browser.base import BrowserTest


class ChargingTest(BrowserTest):
    def sources(self, design: str) -> dict[str, Any]:
        return dict(self.stored(design)["charging"]["sources"])

    def test_a_source_goes_from_nothing_to_an_input_of_its_own(self) -> None:
        design = self.server.demo("hollow-oak")
        for inlet in ("solar-inlet", "charge-inlet"):
            self.server.put(design, f"/power/network/{inlet}/source", None)
        self.server.put(design, "/charging/sources", {})
        page = self.open(design, "charging")
        expect(page.locator(".empty-state")).to_contain_text("Nothing charges it yet")
        page.get_by_role("button", name="A charger at the wall").click()
        expect(page.locator(".margin h2").first).to_have_text("Mains charger")
        expect(page.locator("tr[data-row='mains-charger']")).to_contain_text("nowhere yet")
        page.locator(".margin").get_by_role("button", name="A fused input of its own").click()
        self.wait_stored()
        expect(page.locator("tr[data-row='mains-charger']")).to_contain_text("Input, Mains charger")
        network = self.stored(design)["power"]["network"]
        joined = next(key for key, node in network.items() if node.get("source") == "mains-charger")
        page.locator(".margin").get_by_role("link", name="Input, Mains charger").click()
        expect(page.locator("main h1")).to_have_text("Power path")
        expect(page.locator(".margin h2").first).to_have_text(network[joined]["name"])

    def test_its_hours_and_its_current_decide_when_it_is_full(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "charging", at="/charging/sources/mains")
        full = page.locator(".rail").get_by_text("full at")
        expect(full).to_have_text("full at 01:51")
        page.get_by_label("Hours of Mains charger").fill("0–8")
        page.get_by_label("Hours of Mains charger").press("Enter")
        self.wait_stored()
        self.assertEqual(self.sources(design)["mains"]["windows"], {"w1": {"from_h": 0, "to_h": 8}})
        expect(full).to_have_text("full at 02:52")
        current = page.get_by_label("Current", exact=True)
        current.fill("30")
        current.press("Tab")
        self.wait_stored()
        expect(full).to_have_text("full at 04:17")
        page.get_by_role("button", name="until it is full").click()
        expect(page.get_by_role("img", name="Charge, current and voltage until it is full")).to_contain_text("full 04:17")

    def test_a_bad_setting_is_a_finding_that_one_click_mends(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "charging", at="/charging/sources/mains")
        page.get_by_text("how it is set, and ends").click()
        field = page.get_by_role("textbox", name="Held at its output")
        field.fill("30")
        field.press("Tab")
        finding = page.locator(".margin .finding", has_text="its cells stand")
        expect(finding).to_contain_text("charges the pack to 30 V; its cells stand 29.2 V")
        finding.get_by_role("button", name="Set it by chemistry and count").click()
        self.wait_stored()
        expect(finding).to_have_count(0)
        self.assertIsNone(self.sources(design)["mains"]["set_v"])

    def test_taken_away_it_leaves_its_input_and_comes_back_by_undo(self) -> None:
        design = self.server.demo("tidewater")
        page = self.open(design, "charging", at="/charging/sources/tow-car")
        page.get_by_role("button", name="take away").click()
        self.wait_stored()
        self.assertEqual(self.sources(design), {})
        self.assertIsNone(self.stored(design)["power"]["network"]["charge-inlet"]["source"])
        page.locator(".notice").get_by_role("button", name="undo").click()
        self.wait_stored()
        self.assertEqual(self.stored(design)["power"]["network"]["charge-inlet"]["source"], "tow-car")
        expect(page.locator("tr[data-row='tow-car']")).to_be_visible()

    def test_the_year_says_which_months_are_short_and_follows_what_is_typed(self) -> None:
        design = self.server.demo("hollow-oak")
        page = self.open(design, "charging", at="/charging/sources/barn")
        year = page.get_by_role("group", name="The year, a day of each month")
        expect(year.get_by_role("button", name="the sun alone is not enough")).to_have_count(3)
        told = page.locator("main .legend")
        expect(told).to_contain_text("December:")
        year.get_by_role("button", name="July").click()
        expect(told).to_contain_text("July:")
        # Twelve figures pasted from a table, one below the other; what cannot be read stays where it is typed.
        table = page.get_by_label("Full sun a day on a level plane")
        table.fill("0.9\n1.7\n2.9")
        expect(page.get_by_role("alert").filter(has_text="Still in force")).to_be_visible()
        expect(table).to_have_value("0.9\n1.7\n2.9")
        table.fill("\n".join(["4.5"] * 12))
        self.wait_stored()
        self.assertEqual(self.stored(design)["charging"]["sun"]["sun_hours"], [4.5] * 12)
        expect(year.get_by_role("button", name="the sun alone is not enough")).to_have_count(0)
        table.fill("")
        self.wait_stored()
        self.assertIsNone(self.stored(design)["charging"]["sun"]["sun_hours"])
        facing = page.get_by_role("textbox", name="Facing")
        facing.fill("NE")
        facing.press("Tab")
        self.wait_stored()
        self.assertEqual(self.sources(design)["barn"]["facing_deg"], 45)
        expect(year.get_by_role("button", name="the sun alone is not enough")).not_to_have_count(3)

    def test_it_gives_on_some_days_of_the_pattern(self) -> None:
        design = self.server.demo("lantern-lane")
        self.server.put(design, "/loads/days", 3)
        page = self.open(design, "charging", at="/charging/sources/mains")
        days = page.get_by_role("group", name="Days on which it gives")
        days.get_by_role("button", name="day 2").click()
        self.wait_stored()
        self.assertEqual(self.sources(design)["mains"]["days"], [1, 3])
        days.get_by_role("button", name="day 2").click()
        self.wait_stored()
        self.assertIsNone(self.sources(design)["mains"]["days"])

    def test_the_sun_of_the_day_is_drawn_by_the_hour_here_and_at_the_bench(self) -> None:
        design = self.server.demo("hollow-oak")
        page = self.open(design, "charging")
        page.get_by_role("button", name="the day", exact=True).click()
        day = page.get_by_role("group", name="The day, a ribbon for each source")
        barn, house = (day.get_by_role("button", name=name).locator("rect") for name in ("Barn panels", "House charger"))
        expect(barn).not_to_have_count(2)
        self.assertGreater(barn.count(), 10)
        expect(house).to_have_count(2)
        page = self.open(design, "bench")
        bands = page.get_by_role("img", name="When each source may give")
        expect(bands).to_contain_text("Barn panels")
        expect(bands).to_contain_text("House charger")

    def test_the_order_of_connecting_stands_where_it_is_done(self) -> None:
        design = self.server.demo("tidewater")
        sources = self.sources(design) | {"sun": {"kind": "solar", "name": "Panels"}}
        self.server.put(design, "/charging/sources", sources)
        page = self.open(design, "charging")
        page.get_by_role("button", name="connecting", exact=True).click()
        way = page.get_by_role("region", name="Connecting Panels")
        expect(way.locator("li").first).to_contain_text("Controller to the battery")
