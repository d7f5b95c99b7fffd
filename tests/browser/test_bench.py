"""The bench on the screen: the plan of the load test, and the drill."""

from playwright.sync_api import expect

from tests.browser.base import BrowserTest


class PlanAndDrill(BrowserTest):
    def test_the_plan_says_what_to_prove_before_power_and_where_to_stop(self) -> None:
        page = self.open(self.server.demo("tidewater"), "bench")
        page.get_by_role("button", name="test plan").click()
        expect(page.locator(".stop-lines")).to_contain_text("a cell below 2.5 V")
        expect(page.locator(".before-power li").first).to_be_visible()
        few = page.locator(".before-power li").count()
        page.get_by_role("button", name="show all").click()
        self.assertGreater(page.locator(".before-power li").count(), few)
        expect(page.locator("[data-row='100% load']")).to_contain_text("12.6 A")
        page.get_by_role("link", name="Measure at the empty slot: Main fuse").click()
        expect(page.locator("main h1")).to_have_text("Assembly")
        expect(page.locator(".margin h2").first).to_contain_text("Main fuse")

    def test_a_fault_is_dealt_measured_and_guessed_and_outlives_a_reload(self) -> None:
        page = self.open(self.server.demo("lantern-lane"), "bench")
        page.get_by_role("button", name="drill").click()
        page.get_by_role("button", name="Deal a fault").click()
        expect(page.locator(".drill-table .off").first).to_be_visible()
        page.get_by_label("What to measure").select_option("cell:1")
        page.get_by_role("button", name="Measure").click()
        expect(page.locator(".drill-made li")).to_have_count(1)
        found = page.locator(".drill-made li").inner_text()
        page.reload()
        page.get_by_role("button", name="drill").click()
        expect(page.locator(".drill-made li")).to_have_text(found)
        page.get_by_label("The fault").select_option(index=1)
        page.get_by_role("button", name="That is it").click()
        expect(page.locator(".drill-answer")).to_contain_text("One measurement")
        expect(page.locator(".drill-made li")).to_contain_text("likeliest")
        page.get_by_role("button", name="Deal another").click()
        expect(page.locator(".drill-made li")).to_have_count(0)
