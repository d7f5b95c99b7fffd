"""The shelf when it is full, when a build on it cannot be read, and what was taken off it."""

import re
import sqlite3

from playwright.sync_api import expect

from kegcart.core.design import VERSION
from tests.browser.base import BrowserTest


class FullShelf(BrowserTest):
    own_server = True

    def test_it_is_found_sorted_and_shown_by_pages(self) -> None:
        self.server.fill_shelf(60)
        page = self.page
        page.goto(self.server.url)
        cards = page.locator(".bay")
        expect(cards).to_have_count(24)
        page.get_by_role("button", name="Show 24 more of 40").click()
        expect(cards).to_have_count(48)
        page.get_by_role("button", name="by name").click()
        expect(page.locator(".bay .name").first).to_have_text("Tidewater 0")
        page.get_by_label("Find a build by name or purpose").fill("water 41")
        expect(cards).to_have_count(1)
        page.get_by_label("Find a build by name or purpose").fill("nothing like it")
        expect(page.locator("main")).to_contain_text("No build of that name or purpose")
        page.get_by_label("Find a build by name or purpose").fill("puppet")
        expect(page.locator(".bay .name")).to_have_text("Lantern Lane Puppet Theatre")

    def test_what_was_taken_off_is_put_back(self) -> None:
        self.server.remove(self.server.demo("tidewater"))
        page = self.page
        page.goto(self.server.url)
        page.get_by_role("button", name="taken off the shelf 1").click()
        page.get_by_role("button", name="What can be done with Tidewater Survey, copy").click()
        page.get_by_role("button", name="Put back on the shelf").click()
        expect(page.locator("main")).to_contain_text("Nothing was taken off the shelf")
        page.get_by_role("button", name="taken off the shelf").click()
        expect(page.locator(".bay .name", has_text="Tidewater Survey, copy")).to_have_count(1)


class UnreadableBuild(BrowserTest):
    own_server = True

    def test_its_card_says_why_and_it_is_gone_back_to_an_earlier_state(self) -> None:
        design = self.server.demo("tidewater")
        self.server.put(design, "/brief/site_max_c", 33)
        database = sqlite3.connect(self.server.folder_path / "kegcart.sqlite3")
        database.execute(
            "UPDATE workbench_snapshot SET text = REPLACE(text, ?, '\"version\":99')"
            " WHERE revision_id = (SELECT head_id FROM workbench_storeddesign WHERE id = ?)",
            [f'"version":{VERSION}', design],
        )
        database.execute("UPDATE workbench_storeddesign SET card_mark = ''")
        database.commit()
        database.close()
        page = self.page
        page.goto(self.server.url)
        card = page.locator(".bay", has_text="Tidewater Survey, copy")
        expect(card).to_contain_text("made by a later version of the program")
        expect(page.locator(".bay .figures")).to_have_count(4)
        card.get_by_role("link", name="Tidewater Survey, copy").click()
        expect(page.locator("main")).to_contain_text(f"it is of version 99, and this one reads 1 to {VERSION}")
        expect(page.get_by_label("The file")).to_have_value(re.compile('"version": 99'))
        with page.expect_download() as download:
            page.get_by_role("link", name="Download its file").click()
        self.assertIn("tidewater", download.value.suggested_filename)
        page.get_by_role("button", name="Go back to it").click()
        expect(page.locator("main h1")).to_have_text("Loads")
        self.assertEqual(self.stored(design)["brief"]["site_max_c"], 28)
