"""The log on the screen: what happens is entered, changed and taken back, survives a killed server, and what follows from it is drawn."""

import re
from typing import Any

from playwright.sync_api import Page, expect

from kegcart.workbench.rig import ROOT
from tests.browser.base import BrowserTest


class LogScreen(BrowserTest):
    def rows(self, design: str) -> list[dict[str, Any]]:
        return list(self.server.get(f"/api/designs/{design}/timeline?limit=200")["rows"])

    def enter(self, page: Page, kind: str, **fields: str) -> None:
        """Fill the form of a kind by its labels, and enter it."""
        page.get_by_role("button", name=f"+ {kind}", exact=True).click()
        form = page.locator(".log-form")
        for label, text in fields.items():
            form.get_by_label(label.replace("_", " "), exact=True).fill(text)
        form.get_by_role("button", name="Enter it").click()
        expect(form).to_have_count(0)

    def test_a_fault_is_entered_stands_in_the_verdict_and_is_mended(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "log")
        expect(page.locator("main")).to_contain_text("Nothing happened yet")
        page.get_by_role("button", name="+ fault").click()
        form = page.locator(".log-form")
        form.get_by_role("button", name="Enter it").click()
        expect(form.get_by_role("alert")).to_contain_text("“What is wrong” is still empty")
        form.get_by_label("What is wrong").fill("Socket loose")
        form.get_by_label("At", exact=True).select_option(label="Inverter")
        form.get_by_label("What is wrong").press("Enter")
        expect(page.locator(".time-line li")).to_contain_text("Socket loose")
        expect(page.locator(".margin .finding")).to_contain_text("Socket loose")
        expect(page.locator(".rail .current .mark-mend")).to_be_visible()
        page.locator(".open-faults").get_by_role("button", name="Mended…").click()
        form.get_by_label("What was done").fill("New screw")
        form.get_by_role("button", name="Enter it").click()
        expect(page.locator(".open-faults")).to_have_count(0)
        expect(page.locator(".rail .current .mark-holds")).to_be_visible()
        self.assertEqual([(r["kind"], r["title"]) for r in self.rows(design)], [("mend", "Inverter"), ("fault", "Inverter")])

    def test_what_is_entered_while_the_server_is_away_comes_when_it_is_back_and_what_is_refused_is_put_right(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "log")
        self.server.leave()
        self.enter(page, "use", Taken_out="1.2 kWh", Remark="market")
        self.enter(page, "use", Taken_out="lots")
        expect(page.locator(".waiting")).to_have_count(2)
        context = page.context
        page.close()
        self.server.revive()
        page = self.open(design, "log", context.new_page())
        expect(page.locator(".time-line li")).to_contain_text("1.2 kWh taken out")
        refused = page.locator(".waiting.refused")
        expect(refused).to_contain_text("'lots' is not a number")
        refused.get_by_role("button", name="Put it right").click()
        page.locator(".log-form").get_by_label("Taken out").fill("0,8 kWh")
        page.locator(".log-form").get_by_role("button", name="Change it").click()
        expect(page.locator(".waiting")).to_have_count(0)
        expect(page.locator(".time-line li")).to_have_count(2)
        self.assertEqual(sorted(r["data"]["energy_wh"] for r in self.rows(design)), [800, 1200])
        expect(page.locator(".rail .current .vital")).to_contain_text("2 uses")

    def test_an_entry_is_changed_taken_back_and_brought_back(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "log")
        self.enter(page, "note", What_is_worth_keeping="Too warm in the tent")
        row = page.locator(".time-line li")
        row.get_by_role("button", name="Change").click()
        page.locator(".log-form").get_by_label("What is worth keeping").fill("Warm in the tent")
        page.locator(".log-form").get_by_role("button", name="Change it").click()
        expect(row).to_contain_text("Warm in the tent")
        expect(row).to_have_count(1)
        row.get_by_role("button", name="Take back").click()
        expect(row).to_have_count(0)
        page.get_by_role("button", name="Bring it back").click()
        expect(row).to_contain_text("Warm in the tent")
        self.assertEqual(len(self.rows(design)), 1)

    def test_what_was_measured_goes_into_the_design_with_the_reason_and_to_the_next_build(self) -> None:
        design, other = self.server.demo("lantern-lane"), self.server.demo("hollow-oak")
        page = self.open(design, "log")
        page.get_by_role("button", name="+ measured").click()
        form = page.locator(".log-form")
        form.get_by_label("Of", exact=True).select_option(label="Inverter")
        form.get_by_label("Which figure").select_option(label="Idle draw")
        form.get_by_label("Measured", exact=True).fill("17,5")
        form.get_by_role("button", name="Enter it").click()
        page.get_by_role("button", name="Put it into the design").click()
        expect(page.get_by_role("button", name="Put it into the design")).to_have_count(0)
        page.get_by_role("button", name="Why: a change of the design").click()
        page.get_by_label("Why it was changed").fill("its sheet said less")
        page.get_by_role("button", name="Enter it").click()
        expect(page.locator("[data-kind=change] .remark")).to_have_text("its sheet said less")
        self.assertEqual(self.server.get(f"/api/designs/{design}")["document"]["power"]["network"]["inverter"]["idle_w"], 17.5)
        page = self.open(other, "power", page, at="/power/network/inverter")
        offered = page.get_by_label("Replace it with").locator("optgroup[label='measured in your builds']")
        expect(offered).to_contain_text("Inverter, 2 kW, 25.6 V: idle draw 17.5 W")

    def test_a_temperature_stays_what_it_was_when_an_entry_is_changed_in_us_customary(self) -> None:
        design = self.server.demo("tidewater")
        page = self.open(design, "log")
        self.enter(page, "capacity test", **{"From full to the first cut-off": "60"}, Cells_at="68")
        expect(page.locator(".time-line li")).to_contain_text("cells at 68 °F")
        page.locator(".time-line li").get_by_role("button", name="Change").click()
        expect(page.locator(".log-form").get_by_label("Cells at")).to_have_value("68")
        page.locator(".log-form").get_by_label("Remark").fill("same meter")
        page.locator(".log-form").get_by_role("button", name="Change it").click()
        expect(page.locator(".time-line li")).to_contain_text("same meter")
        self.assertAlmostEqual(self.rows(design)[0]["data"]["cell_c"], 20, places=3)

    def test_what_is_half_typed_outlives_a_reload_and_both_windows_show_what_is_entered(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "log")
        other = self.open(design, "log", page.context.new_page())
        page.get_by_role("button", name="+ replaced").click()
        page.locator(".log-form").get_by_label("Came out").fill("Fan, rattling")
        page.reload()
        form = page.locator(".log-form")
        expect(form.get_by_label("Came out")).to_have_value("Fan, rattling")
        form.get_by_label("Went in").fill("Fan, ball bearings")
        form.get_by_role("button", name="Enter it").click()
        expect(other.locator(".time-line li")).to_contain_text("Fan, rattling replaced by Fan, ball bearings")

    def test_a_visit_is_made_and_a_table_pasted(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "log")
        page.get_by_role("button", name="Paste a table…").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Rows of the log").fill("date;kWh\n2025-05-01;1,2\n2025-05-08;x\n")
        dialog.get_by_role("button", name="Take these in").click()
        expect(dialog.get_by_role("alert")).to_contain_text("line 3, column 2")
        dialog.get_by_label("Rows of the log").fill("date;kWh\n2025-05-01;1,2\n2025-05-08;0,9\n")
        dialog.get_by_role("button", name="Take these in").click()
        expect(page.locator(".taken-in")).to_contain_text("2 of 2 lines were entered")
        page.get_by_role("button", name="visits", exact=True).click()
        visit = page.locator("[data-visit=torque]")
        expect(visit).to_contain_text("overdue")
        visit.get_by_role("button", name="Made today").click()
        expect(visit).to_contain_text("in 365 days")
        with page.expect_download() as got:
            page.get_by_role("link", name="Take them into a calendar").click()
        self.assertTrue(got.value.suggested_filename.endswith(".ics"))

    def test_the_seasons_of_a_lived_build_are_there_with_its_wear(self) -> None:
        page = self.open(self.server.original("lantern-lane"), "log")
        expect(page.locator(".time-line li")).to_have_count(60)
        page.get_by_role("button", name="Earlier ones").click()
        expect(page.locator(".time-line li")).to_have_count(120)
        page.get_by_role("button", name="faults and mends").click()
        expect(page.locator(".time-line li")).to_have_count(5)
        page.get_by_role("button", name="wear", exact=True).click()
        expect(page.get_by_role("img", name="Share of the capacity that is left")).to_have_attribute(
            "aria-label", re.compile(r"from 20\d\d on: 100 % on .* 20\d\d, 98.5 % on .* 20\d\d")
        )
        page.get_by_role("button", name="Enter a test").first.click()
        expect(page.locator(".log-form").get_by_label("From full to the first cut-off")).to_be_focused()

    def test_a_photo_taken_at_the_bench_while_the_server_is_away_is_there_when_it_is_back(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "assembly", at="/assembly/steps/dry-fit")
        self.server.leave()
        margin = page.locator(".margin")
        shot = ROOT / "docs" / "screenshots" / "shelf.png"
        margin.locator("input[type=file]").set_input_files(shot)
        expect(margin.get_by_text("a photo is not stored yet")).to_be_visible()
        context = page.context
        page.close()
        self.server.revive()
        page = self.open(design, "assembly", context.new_page(), at="/assembly/steps/dry-fit")
        expect(page.locator(".margin .step-photos img")).to_be_visible()
        page.locator(".margin input[type=file]").set_input_files(
            {"name": "x.jpg", "mimeType": "image/jpeg", "buffer": b"no picture"}
        )
        expect(page.locator(".margin .step-photos [role=alert]")).to_contain_text("no picture that can be read here")
        page.locator(".margin .step-photos").get_by_role("button", name="drop it").click()
        self.open(design, "log", page)
        expect(page.locator(".time-line .photo img")).to_be_visible()
