"""A builder at work: finding, mending, typing, undoing, by mouse and by keyboard."""

import re
from typing import Any
from urllib.parse import urlencode

from playwright.sync_api import expect

from tests import PROVING
from tests.browser.base import BrowserTest


class MendingTest(BrowserTest):
    def test_wobbly_stall_is_mended_by_clicking_offered_remedies(self) -> None:
        """To its end by prove, and in the core's own test of this build; here so far that every kind of click was made."""
        design = self.server.demo("wobbly-stall")
        page = self.open(design, "power")
        begin = self.server.get(f"/api/designs/{design}")["assessment"]["verdict"]["stop"]
        self.assertGreater(begin, 10)
        for _ in range(50 if PROVING else 8):
            state = self.server.get(f"/api/designs/{design}")
            stop = next((f for f in state["assessment"]["findings"] if f["severity"] == "stop" and self.offered(design, f)), None)
            if stop is None:  # then what the simulated days say
                days = self.server.get(f"/api/designs/{design}/forecast")["findings"]
                stop = next((f for f in days if f["severity"] == "stop" and f["remedies"]), None)
            if stop is None:
                break
            if f"/build/{design}/{stop['station']}" not in page.url:
                self.open(design, stop["station"])
            page.keyboard.press("Escape")
            card = page.locator(f".finding.stop[data-finding='{stop['id']}']").filter(has_text=stop["text"][:40]).first
            if card.get_attribute("aria-current") != "true":
                card.locator(".open-finding").click()
            button = page.locator(".finding[aria-current] .remedy button").first
            expect(page.locator(".finding[aria-current] .effect").first).to_contain_text("mend")
            label = button.text_content()
            button.click()
            expect(page.locator(".notice")).to_contain_text(f"Done: {label}")
            self.wait_stored()
            after = self.server.get(f"/api/designs/{design}")["assessment"]["findings"]
            self.assertNotIn((stop["id"], stop["place"]), {(f["id"], f["place"]) for f in after}, label)
        end = self.server.get(f"/api/designs/{design}")["assessment"]["verdict"]["stop"]
        self.assertTrue(end == 0 or (end < begin and not PROVING), end)

    def offered(self, design: str, finding: dict[str, Any]) -> Any:
        asked = urlencode({"finding": finding["id"], "place": finding["place"]})
        return self.server.get(f"/api/designs/{design}/remedies?{asked}")

    def test_a_remedy_shows_its_effect_before_and_can_be_undone(self) -> None:
        design = self.server.demo("wobbly-stall")
        page = self.open(design, "loads")
        expect(page.locator(".finding[aria-current] .effect").first).to_contain_text("pack mass")
        page.keyboard.press("a")
        expect(page.locator(".notice")).to_contain_text("Done")
        self.wait_stored()
        self.assertNotEqual(self.stored(design)["pack"]["parallel"], 1)
        page.locator(".notice").get_by_role("button", name="undo").click()
        self.wait_stored()
        expect(page.get_by_role("button", name="undo").first).to_be_disabled()
        self.assertEqual(self.stored(design)["pack"]["parallel"], 1)


class WorkingTest(BrowserTest):
    def test_figures_open_to_their_working_and_down_to_a_table(self) -> None:
        page = self.open(self.server.demo("lantern-lane"), "power", at="/power/network/inverter")
        figure = page.locator(".margin .figure-list").first.locator("button.figure-button", has_text="101 A").first
        figure.hover()
        expect(page.locator(".popover")).to_contain_text("current at its rating")
        figure.click()
        working = page.locator(".margin .working")
        expect(working).to_contain_text("Design current")
        working.get_by_role("button", name="rated").click()
        expect(working.locator(".formula")).to_contain_text("P")
        working.get_by_role("button", name=re.compile("cut-off")).click()
        working.get_by_role("button", name=re.compile("lowest working")).click()
        working.get_by_role("button", name=re.compile("one cell")).click()
        expect(working).to_contain_text("Typical")
        page.get_by_role("button", name="◂ back").click()
        expect(working).to_contain_text("lowest working voltage", ignore_case=True)

    def test_every_number_of_each_station_has_a_working(self) -> None:
        design = self.server.demo("lantern-lane")
        for station in ("brief", "loads", "pack", "charging", "power", "box", "bench"):
            page = self.open(design, station)
            page.wait_for_timeout(600)
            labels = page.locator("button.figure-button").evaluate_all("all => all.map(b => b.getAttribute('aria-label'))")
            self.assertGreater(len(labels), 4, station)
            self.assertTrue(all("how it was worked out" in label for label in labels))
        page.locator("main .figure-button").first.click()
        expect(page.locator(".margin .working")).to_be_visible()


class TypingTest(BrowserTest):
    def test_quantities_are_read_as_people_write_them(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        field = page.get_by_label("Watts of one Fog machine")
        field.fill("0.9k")
        field.press("Tab")
        self.wait_stored()
        expect(field).to_have_value("900")
        self.assertEqual(self.stored(design)["loads"]["items"]["fog-machine"]["watts"], 900)

    def test_what_cannot_be_read_stays_with_its_reason_and_the_last_good_value_stands(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        field = page.get_by_label("Watts of one Fog machine")
        field.fill("lots")
        expect(page.locator(".problem")).to_contain_text("'lots' is not a number")
        expect(page.locator(".problem")).to_contain_text("Still in force: 700")
        field.press("Tab")
        expect(field).to_have_value("lots")
        self.assertEqual(self.stored(design)["loads"]["items"]["fog-machine"]["watts"], 700)
        field.fill("650")
        expect(page.locator(".problem")).to_have_count(0)
        self.wait_stored()
        self.assertEqual(self.stored(design)["loads"]["items"]["fog-machine"]["watts"], 650)

    def test_hours_are_typed_as_spans(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        field = page.get_by_label("Hours of Mixer")
        field.fill("22:30–1, 9-10:15")
        field.press("Enter")
        self.wait_stored()
        windows = self.stored(design)["loads"]["items"]["mixer"]["windows"]
        self.assertEqual(list(windows.values()), [{"from_h": 22.5, "to_h": 1}, {"from_h": 9, "to_h": 10.25}])
        field.fill("all day")
        field.press("Enter")
        expect(page.locator(".problem")).to_contain_text("no span of hours")
        expect(field).to_have_value("all day")

    def test_verdict_follows_a_keystroke(self) -> None:
        page = self.open(self.server.demo("lantern-lane"), "loads")
        page.get_by_label("Watts of one Fog machine").fill("9000")
        expect(page.locator(".verdict")).not_to_contain_text(re.compile(r"Verdict:\s*0 stops"))

    def test_a_step_back_waits_for_what_was_just_typed(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        field = page.get_by_label("Watts of one Fog machine")
        field.fill("650")
        page.get_by_role("button", name="undo", exact=True).click()
        expect(field).to_have_value("700")
        expect(page.locator(".topbar").get_by_role("button", name="redo")).to_be_enabled()
        page.locator(".topbar").get_by_role("button", name="redo").click()
        expect(field).to_have_value("650")
        self.wait_stored()
        self.assertEqual(self.stored(design)["loads"]["items"]["fog-machine"]["watts"], 650)

    def test_escape_takes_back_what_was_typed(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        field = page.get_by_label("Watts of one Fog machine")
        field.fill("lots")
        expect(page.locator(".problem")).to_be_visible()
        field.press("Escape")
        expect(page.locator(".problem")).to_have_count(0)
        expect(field).to_have_value("700")
        self.wait_stored()
        self.assertEqual(self.stored(design)["loads"]["items"]["fog-machine"]["watts"], 700)

    def test_what_cannot_be_done_without_the_server_says_so(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "power", at="/power/network/main-switch")
        page.get_by_label("Name of the build").fill("Theatre")
        page.keyboard.press("Enter")
        self.wait_stored()
        self.server.leave()
        try:
            page.get_by_role("button", name="undo", exact=True).click()
            expect(page.locator(".trouble")).to_contain_text("The server does not answer")
            page.get_by_role("button", name="I own this").click()
            expect(page.locator(".notice")).to_contain_text("Not kept: The server does not answer")
        finally:
            self.server.revive()
        self.wait_stored()
        expect(page.locator(".notice")).to_contain_text("Taken back: Name of the build: Theatre")
        self.assertEqual(self.stored(design)["name"], "Lantern Lane Puppet Theatre, copy")

    def test_typed_work_survives_a_server_that_is_away(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        self.server.leave()
        try:
            field = page.get_by_label("Watts of one Projector")
            field.fill("190")
            field.press("Tab")
            expect(page.locator(".saved-state")).to_contain_text("not sent yet")
            expect(field).to_have_value("190")
        finally:
            self.server.revive()
        self.wait_stored()
        self.assertEqual(self.stored(design)["loads"]["items"]["projector"]["watts"], 190)


class TwoWindowsTest(BrowserTest):
    def test_changes_of_different_things_are_both_kept(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        self.server.put(design, "/brief/site_max_c", 33)
        field = page.get_by_label("Watts of one Projector")
        field.fill("170")
        field.press("Tab")
        self.wait_stored()
        stored = self.stored(design)
        self.assertEqual((stored["brief"]["site_max_c"], stored["loads"]["items"]["projector"]["watts"]), (33, 170))

    def test_a_change_of_the_same_thing_is_put_to_the_builder(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        self.server.put(design, "/loads/items/projector/watts", 150)
        page.get_by_label("Watts of one Projector").fill("170")
        expect(page.get_by_role("dialog")).to_contain_text("you wrote 170, there stands 150")
        page.get_by_role("button", name="Keep what stands").click()
        self.wait_stored()
        self.assertEqual(self.stored(design)["loads"]["items"]["projector"]["watts"], 150)

    def test_kill_right_after_an_answer_loses_nothing(self) -> None:
        design = self.server.demo("tidewater")
        for celsius in (29, 31, 33):
            answer = self.server.put(design, "/brief/site_max_c", celsius)
            self.server.kill()
            self.server.start()
            state = self.server.get(f"/api/designs/{design}")
            self.assertEqual((state["revision"], state["document"]["brief"]["site_max_c"]), (answer["revision"], celsius))


class ShelfTest(BrowserTest):
    own_server = True

    def test_cards_copy_delete_with_undo_and_import_errors(self) -> None:
        page = self.page
        page.goto(self.server.url)
        expect(page.locator(".bay").first).to_be_visible()
        before = page.locator(".bay").count()
        page.get_by_role("button", name="What can be done with Tidewater Survey").first.click()
        page.get_by_role("button", name="Copy").click()
        expect(page.get_by_label("Name of the build")).to_have_value("Tidewater Survey, copy")
        page.get_by_role("link", name="To the shelf of builds").click()
        expect(page.locator(".bay")).to_have_count(before + 1)
        expect(page.locator(".bay .name").first).to_have_text("Tidewater Survey, copy")
        page.get_by_role("button", name="What can be done with Tidewater Survey, copy").first.click()
        page.get_by_role("button", name="Take off the shelf").click()
        expect(page.locator(".bay")).to_have_count(before)
        page.get_by_role("button", name="undo").click()
        expect(page.locator(".bay")).to_have_count(before + 1)
        broken = {"name": "broken.json", "mimeType": "application/json", "buffer": b'{"format": "kegcart/design", "version": 1}'}
        page.get_by_label("Design file to import").set_input_files([broken])  # type: ignore[list-item]
        expect(page.get_by_role("alert")).to_contain_text("/name: this is missing")
        expect(page.locator(".bay")).to_have_count(before + 1)

    def test_a_new_build_goes_from_nothing_to_a_rehearsed_station(self) -> None:
        page = self.page
        page.goto(self.server.url)
        page.get_by_role("button", name="New build").click()
        expect(page.locator("main h1")).to_have_text("Loads")
        page.get_by_role("button", name="Put in two examples").click()
        expect(page.locator("[data-row]")).to_have_count(2)
        page.keyboard.press("Escape")
        page.keyboard.press("5")
        page.get_by_role("button", name="Lay out a path for these loads").click()
        expect(page.get_by_role("button", name="Main fuse").first).to_be_visible()
        page.keyboard.press("8")
        expect(page.locator(".station-lead")).to_contain_text("Every load is fed throughout")
        page.get_by_role("button", name="test plan").click()
        expect(page.locator("[data-row='Run-down']")).to_contain_text("cuts off")
