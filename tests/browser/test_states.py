"""The screen in the states that are not the usual one: nothing yet, much too long, the server away, on paper, by touch."""

import re

from playwright.sync_api import Page, expect

from tests.browser.base import BrowserTest
from tests.browser.test_access import CUT_OFF, HIDDEN_VALUES, OVERLAPS, STATIONS

#: What a finger is to hit, by its height; what stands in a sentence or a drawing is left out.
SMALL_TARGETS = """() => [...document.querySelectorAll('.btn, .form-control, .form-select, .tab, .choice-button, .cell-input, .row-button, .open-finding, .title-input, .verdict')]
  .filter(e => e.checkVisibility() && e.getBoundingClientRect().width > 0 && e.getBoundingClientRect().height < 43.5)
  .map(e => `${e.className}: ${e.getBoundingClientRect().height}`)"""


SMALL_SYMBOLS = """() => [...document.querySelectorAll('svg.drawing g.pickable')].map(e => [e.dataset.key, e.getBoundingClientRect()])
  .filter(([, r]) => r.height < 43.5 || r.width < 43.5).map(([key, r]) => `${key}: ${r.width} x ${r.height}`)"""


class EmptyTest(BrowserTest):
    own_server = True

    def new_build(self, page: Page) -> str:
        page.goto(self.server.url)
        page.get_by_role("button", name="New build").click()
        page.locator("main.station h1").wait_for()
        return page.url.split("/build/")[1].split("/")[0]

    def test_each_station_of_a_new_build_is_whole_and_says_what_to_do_first(self) -> None:
        page = self.page
        design = self.new_build(page)
        for station, words in (("loads", "example"), ("power", "no path yet"), ("box", "No box yet"), ("bench", "nothing")):
            self.open(design, station, page)
            expect(page.locator("main")).to_contain_text(re.compile(words, re.IGNORECASE))
        for station in STATIONS:
            self.open(design, station, page)
            for rule in (CUT_OFF, HIDDEN_VALUES, OVERLAPS):
                self.assertEqual(page.evaluate(rule), [], station)

    def test_a_shelf_without_builds_offers_to_begin(self) -> None:
        page = self.page
        page.goto(self.server.url)
        expect(page.locator(".bay").first).to_be_visible()
        empty = {"builds": [], "count": 0, "off": 0}
        page.route("**/api/designs?*", lambda route: route.fulfill(json=empty))
        page.reload()
        expect(page.locator(".bay")).to_have_count(0)
        expect(page.locator("header").get_by_role("button", name="New build")).to_be_visible()
        expect(page.locator("main")).to_contain_text(re.compile("begin|first|new build", re.IGNORECASE))


class TooLongTest(BrowserTest):
    NAME = "Portable power for the lower field, with the long name that the committee agreed upon at"

    def test_long_names_are_shortened_and_break_nothing(self) -> None:
        design = self.server.demo("lantern-lane")
        long = self.NAME[:80]
        self.server.put(design, "/name", long)
        for pointer in ("/loads/items/projector/name", "/power/network/inverter/name", "/power/network/sound/name"):
            self.server.put(design, pointer, long)
        for width, height in ((1280, 800), (768, 1024)):
            page = self.new_page(width, height)
            for station in STATIONS:
                self.open(design, station, page)
                sizes = page.evaluate("() => [document.documentElement.scrollWidth, innerWidth]")
                self.assertLessEqual(sizes[0], sizes[1], f"{station} at {width}")
                self.assertEqual(page.evaluate(OVERLAPS), [], f"{station} at {width}")
            expect(page.get_by_label("Name of the build")).to_have_value(long)

    def test_many_loads_scroll_inside_their_table(self) -> None:
        design = self.server.demo("tidewater")
        items = self.stored(design)["loads"]["items"]
        for n in range(30):
            items[f"lamp-{n}"] = items["floodlight"] | {"name": f"Lamp {n}", "outlet": None, "watts": 2}
        self.server.put(design, "/loads/items", items)
        page = self.open(design, "loads")
        expect(page.locator("[data-row]")).to_have_count(34)
        page.get_by_label("Watts of one Lamp 29").scroll_into_view_if_needed()
        expect(page.get_by_label("Watts of one Lamp 29")).to_be_in_viewport()
        expect(page.locator(".topbar")).to_be_in_viewport()


class AwayTest(BrowserTest):
    def test_a_station_that_was_not_yet_opened_opens_when_the_server_is_back(self) -> None:
        page = self.open(self.server.demo("lantern-lane"), "loads")
        self.server.leave()
        page.keyboard.press("3")
        expect(page.locator("main.station")).to_contain_text("what you typed is kept")
        self.server.revive()
        expect(page.locator("main h1")).to_have_text("Pack")

    def test_a_build_that_cannot_be_opened_offers_to_try_again(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.page
        page.goto(self.server.url)
        expect(page.locator(".bay").first).to_be_visible()
        page.route("**/api/designs/*", lambda route: route.abort())
        page.goto(f"{self.server.url}/build/{design}/loads")
        expect(page.locator("h1")).to_have_text("This build cannot be opened.")
        page.unroute("**/api/designs/*")
        page.get_by_role("button", name="Try again").click()
        expect(page.locator("main h1")).to_have_text("Loads")

    def test_what_is_fetched_besides_the_design_says_why_it_is_not_there_and_comes_by_itself(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.page
        for station, view, asked, shown in (
            ("pack", "", "pack-drawing*", ".pack-drawing svg"),
            ("power", "cut-offs", "standby", "svg[aria-label^='Cut-offs']"),
            ("bench", "test plan", "test-plan", "main table"),
        ):
            with self.subTest(station, view=view):
                page.route(f"**/api/**/{asked}", lambda route: route.abort())
                page.goto(f"{self.server.url}/build/{design}/{station}")
                if view:
                    page.get_by_role("button", name=view).click()
                expect(page.locator("main").get_by_text("The server does not answer")).to_be_visible()
                expect(page.locator(shown)).to_have_count(0)
                page.unroute(f"**/api/**/{asked}")
                expect(page.locator(shown).first).to_be_visible()

    def test_a_build_that_is_not_there_leads_back_to_the_shelf(self) -> None:
        self.page.goto(f"{self.server.url}/build/nowhere/loads")
        expect(self.page.locator("h1")).to_have_text("This build cannot be opened.")
        self.page.get_by_role("link", name="To the shelf").click()
        expect(self.page.locator(".bay").first).to_be_visible()

    def test_a_wrong_address_says_so(self) -> None:
        self.page.goto(f"{self.server.url}/no/such/place")
        expect(self.page.locator("h1")).to_have_text("There is nothing here.")

    def test_what_is_not_sent_is_said_on_a_tablet_too(self) -> None:
        page = self.open(self.server.demo("lantern-lane"), "loads", self.new_page(768, 1024))
        expect(page.locator(".saved-state")).to_have_text("all stored")
        self.server.leave()
        try:
            page.get_by_label("Watts of one Projector").fill("190")
            expect(page.locator(".trouble")).to_contain_text("1 edit waits in this browser")
            expect(page.locator(".trouble")).to_be_in_viewport()
        finally:
            self.server.revive()
        expect(page.locator(".trouble")).to_be_hidden()

    def test_several_changes_made_without_the_server_are_sent_in_their_order(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        self.server.leave()
        try:
            for name, watts in (("Projector", "150"), ("Mixer", "30"), ("Projector", "160")):
                page.get_by_label(f"Watts of one {name}").fill(watts)
                page.keyboard.press("Tab")
            expect(page.locator(".saved-state")).to_contain_text("not sent yet")
        finally:
            self.server.revive()
        self.wait_stored()
        items = self.stored(design)["loads"]["items"]
        self.assertEqual((items["projector"]["watts"], items["mixer"]["watts"]), (160, 30))

    def test_what_was_not_sent_outlives_a_closed_window(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        self.server.leave()
        page.get_by_label("Watts of one Projector").fill("175")
        expect(page.locator(".saved-state")).to_contain_text("not sent yet")
        self.server.revive()
        page.goto("about:blank")
        self.open(design, "loads", page)
        self.wait_stored()
        self.assertEqual(self.stored(design)["loads"]["items"]["projector"]["watts"], 175)


class TouchAndPaperTest(BrowserTest):
    def test_fingers_find_their_targets_on_a_tablet(self) -> None:
        page = self.new_page(768, 1024)
        wobbly = self.server.demo("wobbly-stall")
        for station in STATIONS:
            self.open(wobbly, station, page)
            self.assertEqual(page.evaluate(SMALL_TARGETS), [], station)
        self.open(wobbly, "power", page, at="/power/network/inverter")
        self.assertEqual(page.evaluate(SMALL_TARGETS), [], "a part")
        self.assertEqual(page.evaluate(SMALL_SYMBOLS), [])

    def test_a_station_prints_its_sheet_without_rail_and_buttons(self) -> None:
        page = self.open(self.server.demo("lantern-lane"), "power")
        page.emulate_media(media="print")
        expect(page.locator("main h1")).to_be_visible()
        expect(page.locator("g[data-key='inverter']").first).to_be_visible()
        for gone in (".rail", ".margin"):
            expect(page.locator(gone)).to_be_hidden()
        self.assertEqual(page.locator(".topbar .btn:visible").count(), 0)

    def test_the_theme_is_kept_and_follows_the_system_until_it_is_chosen(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads", self.new_page(theme="dark"))
        expect(page.locator("html")).to_have_attribute("data-bs-theme", "dark")
        page.get_by_role("button", name="light theme").click()
        page.reload()
        expect(page.locator("html")).to_have_attribute("data-bs-theme", "light")

    def test_what_has_the_focus_is_seen(self) -> None:
        page = self.open(self.server.demo("lantern-lane"), "power")
        for _ in range(40):
            page.keyboard.press("Tab")
            seen = page.evaluate("""() => {
              const e = document.activeElement, style = getComputedStyle(e);
              const ring = [e, ...e.querySelectorAll('*')].some(x => {
                const s = getComputedStyle(x);
                return (s.outlineStyle !== 'none' && parseFloat(s.outlineWidth) > 0) || s.boxShadow !== 'none' || (x.matches('.halo') && s.stroke !== 'none');
              });
              return ring || style.outlineStyle !== 'none' ? '' : e.outerHTML.slice(0, 120);
            }""")
            self.assertEqual(seen, "")
