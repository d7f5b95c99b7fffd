"""The station of assembly as a builder works it: walk the steps, see why, say what is there, find what a part needs."""

import re

from playwright.sync_api import expect

from tests.browser.base import BrowserTest


class AssemblyTest(BrowserTest):
    def test_a_step_says_how_with_what_limits_and_why_it_stands_there(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "assembly")
        expect(page.locator(".station-lead")).to_contain_text("steps, about")
        page.get_by_role("button", name="Cables").click()
        page.get_by_role("button", name="Main fuse to Main switch").click()
        margin = page.locator(".margin")
        expect(margin.locator("h2").first).to_have_text("Main fuse to Main switch")
        expect(margin.locator(".step-drawing svg")).to_contain_text("0.41 m")
        expect(margin).to_contain_text("lug M8, 10 to 14 N·m")
        expect(margin.locator(".measures")).to_contain_text("at most 9.66 mV")
        expect(margin.locator(".reasons")).to_contain_text("its nut and terminals are behind Busbar")
        steps = self.server.get(f"/api/designs/{design}/assembly")["steps"]
        n = next(step["number"] for step in steps if step["key"] == "wire:main-switch")
        page.get_by_role("button", name=f"{n + 1} ▸").click()
        expect(margin.locator("h2").first).to_have_text(steps[n]["title"])

    def test_what_is_picked_is_picked_in_every_list(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "assembly", at="/power/network/main-switch")
        expect(page.locator(".order-step.of, .order-bolt.of").first).to_be_visible()
        page.get_by_role("button", name="shopping", exact=True).click()
        expect(page.locator("tr.selected")).to_contain_text(["Main switch"])
        page.get_by_role("button", name="wire to cut", exact=True).click()
        expect(page.locator("tr.selected")).to_contain_text(["Main fuse – Main switch"])
        page.locator("tr.selected button").first.click()
        page.get_by_role("button", name=re.compile(r"step \d+")).click()
        expect(page.locator(".margin h2").first).to_have_text("Main fuse to Main switch")

    def test_labels_are_printed_on_the_sheet_that_is_at_hand(self) -> None:
        page = self.open(self.server.demo("lantern-lane"), "assembly")
        page.get_by_role("button", name="wire to cut", exact=True).click()
        page.get_by_label("Labels, PDF: on which sheet").select_option("a4-48")
        page.get_by_label("first label that is still on the sheet").fill("7")
        link = page.get_by_role("link", name="Labels, PDF").get_attribute("href") or ""
        self.assertTrue(link.endswith("/wire-labels.pdf?sheet=a4-48&first=7"), link)
        self.assertTrue(page.request.get(self.server.url + link).body().startswith(b"%PDF"))
        page.reload()
        page.get_by_role("button", name="wire to cut", exact=True).click()
        expect(page.get_by_label("Labels, PDF: on which sheet")).to_have_value("a4-48")

    def test_the_other_school_changes_the_order_at_the_posts(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "assembly")
        page.get_by_label("At the posts").select_option("negative")
        self.wait_stored()
        self.assertEqual(self.stored(design)["assembly"]["pole_first"], "negative")
        page.get_by_role("button", name="Power up").click()
        titles = page.locator(".order-step .order-title")
        expect(titles.filter(has_text="post").first).to_have_text("Join the negative post")

    def test_what_is_there_and_what_it_costs_is_typed_and_taken_back(self) -> None:
        design = self.server.demo("wobbly-stall")
        page = self.open(design, "assembly")
        page.get_by_role("button", name="shopping", exact=True).click()
        row = page.locator("tr[data-row='cells']")
        row.get_by_label("There already").fill("4")
        expect(row.locator("td").nth(6)).to_have_text("–")
        self.wait_stored()
        self.assertEqual(self.stored(design)["assembly"]["owned"], {"cells": 4})
        links = page.locator("tr[data-row='links']")
        expect(links).to_contain_text("no price")
        links.get_by_label("Price of one").fill("2,5")
        expect(links.locator("td").last).to_have_text("7.50")
        links.get_by_label("Price of one").fill("dear")
        expect(links.get_by_role("alert")).to_contain_text("not a number")
        links.get_by_label("Price of one").fill("")
        expect(links).to_contain_text("no price")
        self.wait_stored()
        page.get_by_role("button", name="undo", exact=True).click()
        self.wait_stored()

    def test_the_list_is_found_in_and_sorted(self) -> None:
        page = self.open(self.server.demo("lantern-lane"), "assembly")
        page.get_by_role("button", name="shopping", exact=True).click()
        page.get_by_label("Find a line").fill("class t")
        expect(page.locator("table.shopping tbody tr[data-row]")).to_have_count(6)
        page.get_by_label("Find a line").fill("")
        page.get_by_role("button", name="cost, EUR").click()
        expect(page.locator("table.shopping tbody tr[data-row]").first).to_contain_text("cell")
        expect(page.locator("th[aria-sort=descending]")).to_contain_text("cost")
        page.get_by_role("button", name="by group again").click()
        expect(page.locator(".group-row").first).to_contain_text("Pack")

    def test_prices_are_pasted_and_a_bad_row_is_named(self) -> None:
        design = self.server.demo("tidewater")
        page = self.open(design, "assembly")
        page.get_by_role("button", name="shopping", exact=True).click()
        page.get_by_role("button", name="Paste prices…").click()
        page.get_by_label("Rows of the shopping list").fill("key;price of one\nnails;2")
        page.get_by_role("button", name="Take these in").click()
        expect(page.get_by_role("alert")).to_contain_text("no line of the list has the key 'nails'")
        page.get_by_label("Rows of the shopping list").fill("key;price of one\nbatteries;219")
        page.get_by_role("button", name="Take these in").click()
        self.wait_stored()
        self.assertEqual(self.stored(design)["assembly"]["prices"], {"batteries": 219})

    def test_a_tool_is_ticked_for_all_builds(self) -> None:
        page = self.open(self.server.demo("lantern-lane"), "assembly")
        page.get_by_role("button", name="tools", exact=True).click()
        page.get_by_label("torque key: is there").check()
        expect(page.get_by_text("19 of 20 are still to be found")).to_be_visible()
        other = self.open(self.server.demo("tidewater"), "assembly")
        other.get_by_role("button", name="tools", exact=True).click()
        expect(other.get_by_label("torque key: is there")).to_be_checked()
        other.get_by_label("torque key: is there").uncheck()
        expect(other.get_by_label("torque key: is there")).not_to_be_checked()

    def test_a_build_without_a_path_says_what_to_do_first(self) -> None:
        design = str(self.server.send("POST", "/api/designs", {"name": "Nothing yet"})["id"])
        page = self.open(design, "assembly")
        expect(page.locator(".empty-state")).to_contain_text("Nothing to build yet")


class RecordTest(BrowserTest):
    """At the bench: what is measured is judged as it is typed, and nothing of it is lost."""

    def state(self, design: str, act: str) -> str:
        steps = self.server.get(f"/api/designs/{design}/record")["steps"]
        return str(next(step["state"] for step in steps if step["act"] == act))

    def mended(self, act: str, bad: str, good: str, likely: str, stopped: str, label: str) -> None:
        """A check that fails stops what depends on it; measured again, it lets that go on."""
        design = self.server.demo("lantern-lane")
        page = self.open(design, "assembly", at=f"/assembly/steps/{act}")
        margin = page.locator(".margin")
        margin.get_by_label(label).fill(bad)
        margin.get_by_role("button", name="Done", exact=True).click()
        expect(margin.locator(".measures .outside")).to_contain_text(likely)
        expect(page.locator(".rail .current .mark-mend")).to_be_visible()
        page.goto(f"{self.server.url}/build/{design}/assembly?at=/assembly/steps/{stopped}")
        expect(margin.locator(".stopped-by")).to_contain_text("Stopped: the check of step")
        expect(margin.get_by_role("button", name="Done", exact=True)).to_be_disabled()
        margin.locator(".stopped-by button").click()
        margin.get_by_label(label).fill(good)
        expect(margin.locator(".is-within").first).to_be_visible()
        expect(margin.locator(".is-outside")).to_have_count(0)
        page.goto(f"{self.server.url}/build/{design}/assembly?at=/assembly/steps/{stopped}")
        expect(margin.get_by_role("button", name="Done", exact=True)).to_be_enabled()

    def test_a_loose_joint_stops_the_next_wire_on_its_stud_until_it_is_mended(self) -> None:
        self.mended("wire:charge-fuse", "105 mV", "2.6", "a nut not at its torque", "wire:main-switch", "From stud to stud")

    def test_a_low_group_stops_the_board_until_it_is_mended(self) -> None:
        self.mended("pack:sense-check", "60", "8", "a group low in charge", "sense:plug", "Between the highest and the lowest")

    def test_a_reversed_socket_stops_the_next_fuse_until_it_is_mended(self) -> None:
        self.mended("out:sound", "-26,4", "26,4", "its wires changed places", "live:usb-fuse", "without load")

    def test_one_step_at_a_time_by_space_and_arrows_without_scrolling(self) -> None:
        for width, height in ((1280, 800), (768, 1024)):
            design = self.server.demo("lantern-lane")
            page = self.open(design, "assembly", self.new_page(width, height))
            page.get_by_role("button", name="At the bench").click()
            title = page.locator("#at-the-bench")
            expect(title).to_have_text("Mark the back")
            page.keyboard.press("Space")
            expect(title).to_have_text("Drill the back: Ø76 mm")
            page.keyboard.press("ArrowLeft")
            expect(title.get_by_label("done")).to_be_visible()
            self.wait_recorded(design, "mark:back")
            for _ in range(24):
                page.keyboard.press("ArrowRight")
                body = page.locator(".bench-body").evaluate("e => [e.scrollHeight, e.clientHeight]")
                self.assertLessEqual(body[0], body[1] + 1, title.inner_text())
            self.assertEqual(self.state(design, "drill:back:hole-saw"), "open")
            page.get_by_role("button", name="Back to the lists").click()
            expect(title).to_have_count(0)

    def wait_recorded(self, design: str, act: str) -> None:
        for _ in range(100):
            if self.state(design, act) == "done":
                return
            self.page.wait_for_timeout(50)
        self.fail(f"{act} was not recorded")

    def test_what_was_typed_while_the_server_was_killed_is_stored_when_it_is_back(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "assembly", at="/assembly/steps/wire:main-switch")
        margin = page.locator(".margin")
        margin.get_by_label("From stud to stud").fill("2.6 mV")
        expect(margin.locator(".is-within")).to_be_visible()
        self.server.kill()
        margin.get_by_label("Remark").fill("washer changed")
        margin.get_by_role("button", name="Done", exact=True).click()
        expect(margin.get_by_text("not stored yet")).to_be_visible()
        self.server.revive()
        expect(margin.get_by_text("not stored yet")).to_have_count(0)
        step = next(s for s in self.server.get(f"/api/designs/{design}/record")["steps"] if s["act"] == "wire:main-switch")
        self.assertEqual((step["done"], step["values"], step["remark"]), (True, {"drop": 2.6}, "washer changed"))

    def test_what_waits_outlives_the_page_and_is_seen_in_the_other_window(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "assembly", at="/assembly/steps/dry-fit")
        other = self.open(design, "assembly", page.context.new_page(), at="/assembly/steps/dry-fit")
        page.locator(".margin").get_by_role("button", name="yes").click()
        page.locator(".margin").get_by_role("button", name="Done", exact=True).click()
        expect(other.locator(".margin").get_by_role("button", name="Not done after all")).to_be_visible()
        self.server.leave()
        page.locator(".margin").get_by_label("Remark").fill("lid rubs at the left")
        expect(page.locator(".margin").get_by_text("not stored yet")).to_be_visible()
        page.close()
        self.server.revive()
        page = self.open(design, "assembly", other, at="/assembly/steps/dry-fit")
        expect(page.locator(".margin").get_by_label("Remark")).to_have_value("lid rubs at the left")

    def test_what_cannot_be_read_stays_with_its_reason(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "assembly", at="/assembly/steps/dead:insulation")
        margin = page.locator(".margin")
        margin.get_by_label("To the box").fill("5 mΩ")
        expect(margin.get_by_role("alert")).to_contain_text("'mΩ' is not a unit for this figure")
        expect(margin.get_by_label("To the box")).to_have_value("5 mΩ")
        margin.get_by_label("To the box").fill("20 MΩ")
        expect(margin.locator(".is-within")).to_be_visible()
        self.assertEqual(self.state(design, "dead:insulation"), "open")

    def test_what_is_bought_while_the_server_is_away_is_ticked_when_it_is_back(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "assembly")
        page.get_by_role("button", name="shopping").click()
        tick = "[data-row='part:inverter'] input[type=checkbox]"
        expect(page.locator(".shopping-total")).not_to_contain_text("still to pay")
        context = page.context
        context.set_offline(True)
        page.locator(tick).check()
        expect(page.locator(tick)).to_be_checked()
        page.close()
        context.set_offline(False)
        page = self.open(design, "assembly", context.new_page())
        page.get_by_role("button", name="shopping").click()
        expect(page.locator(tick)).to_be_checked()
        expect(page.locator(".shopping-total")).to_contain_text("still to pay")
        self.assertEqual(self.server.get(f"/api/designs/{design}/record")["bought"], {"part:inverter": 1})
        page.get_by_label("still to buy", exact=True).check()
        expect(page.locator(tick)).to_have_count(0)
        self.server.send("POST", f"/api/designs/{design}/record/bought", {"entry": "x", "line": "rcd:inverter", "count": 1})
        self.server.put(design, "/power/network/inverter/rcd", False)
        page = self.open(design, "assembly", page)
        page.get_by_role("button", name="shopping").click()
        expect(page.locator("main")).to_contain_text("no longer on the list since the design changed: rcd, inverter.")
        page.get_by_role("button", name="papers").click()
        before = page.locator(".digest").inner_text()
        page.get_by_label("The design file is kept at").fill("drawer in the workshop")
        page.get_by_label("The design file is kept at").blur()
        expect(page.locator(".digest")).not_to_have_text(before)
        sheet = page.request.get(self.server.url + str(page.get_by_label("Sheet for the lid, letter").get_attribute("href")))
        self.assertEqual((sheet.status, sheet.headers["content-type"]), (200, "application/pdf"))
