"""The bench on the screen: the plan of the load test, what is learned from readings, and the drill."""

from dataclasses import replace
from random import Random

import numpy as np
from playwright.sync_api import expect

from kegcart.core.bench.instruments import Meters
from kegcart.core.bench.plan import steps_of
from kegcart.core.bench.station import station_of
from kegcart.core.bench.tables import write_readings_csv
from kegcart.core.bench.trial import run_trial
from kegcart.core.bench.truth import TrueStation, drawn
from tests.browser.base import BrowserTest
from tests.core.samples import demo, judge


class BenchScreen(BrowserTest):
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

    def test_a_fault_is_dialled_in_and_what_is_at_hand_loads_the_test(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "bench")
        page.get_by_role("button", name="with a fault").click()
        page.get_by_label("Fault", exact=True).select_option("weak")
        page.get_by_label("Of which").select_option("3")
        page.get_by_label("holds less").fill("a lot")
        page.keyboard.press("Enter")
        expect(page.locator("main").get_by_role("alert")).to_contain_text("is not a number")
        page.get_by_label("holds less").fill("30 %")
        page.keyboard.press("Enter")
        expect(page.locator("[data-row='lasted'] .off")).to_be_visible()
        expect(page.locator(".stop-lines")).to_contain_text("group 3")
        page.get_by_role("button", name="test plan").click()
        full = page.locator("[data-row='100% load']")
        expect(full).to_contain_text("An electronic load")
        page.get_by_label("What is at hand").fill("Kettle")
        page.get_by_role("button", name="Add it").click()
        page.get_by_label("Kettle: watts").fill("1.9 kW")
        page.keyboard.press("Tab")
        expect(full).to_contain_text("Kettle")
        page.get_by_role("button", name="Take away: Kettle").click()
        expect(full).to_contain_text("An electronic load")

    def test_with_one_meter_a_joint_is_judged_and_a_figure_put_in_and_taken_out(self) -> None:
        design = self.server.demo("tidewater")
        page = self.open(design, "bench")
        page.get_by_role("button", name="readings", exact=True).click()
        joints = page.get_by_role("form", name="Joints of one kind")
        joints.get_by_label("current").fill("20")
        joints.get_by_label("each joint").fill("11; 12 0.23V")
        joints.get_by_role("button").click()
        expect(joints.get_by_role("alert")).to_contain_text("50 A or more")
        page.reload()
        page.get_by_role("button", name="readings", exact=True).click()
        joints.get_by_label("current").fill("112")
        joints.get_by_role("button").click()
        expect(joints.locator(".off")).to_contain_text("joint 3")
        page.get_by_role("button", name="its hottest days").click()
        page.get_by_label("Figure", exact=True).select_option("resistance")
        page.get_by_label("Measured", exact=True).fill("25")
        page.get_by_label("How it was measured").fill("a step of 8 A")
        page.get_by_role("button", name="See what it changes").click()
        dialog = page.get_by_role("dialog")
        expect(dialog).to_contain_text("25 mΩ")
        expect(dialog.get_by_role("button", name="Put them in")).to_be_disabled()
        dialog.get_by_role("button", name="Leave it as it is").click()
        page.get_by_label("Measured", exact=True).fill("25 mΩ")
        page.get_by_role("button", name="See what it changes").click()
        expect(dialog.locator(".put-in-time")).to_contain_text("run time")
        dialog.get_by_role("button", name="Put them in").click()
        row = page.locator(".measured-table tr", has_text="resistance of the pack")
        expect(row).to_contain_text("a step of 8 A")
        self.wait_stored()
        self.assertEqual(self.stored(design)["bench"]["measured"]["resistance"]["value"], 0.025)
        row.get_by_role("button", name="Take out").click()
        expect(page.locator(".measured-table")).to_have_count(0)

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

    def test_readings_are_pasted_learned_from_and_outlive_a_reload(self) -> None:
        station = station_of(judge(demo("tidewater")))
        true = TrueStation(station, replace(drawn(station, Random(3)), loose={station.points[1].key: 0.03}))
        text = write_readings_csv(run_trial(true, Meters(true.read(), np.random.default_rng(3)), steps_of(station)))
        page = self.open(self.server.demo("tidewater"), "bench")
        page.get_by_role("button", name="readings").click()
        page.get_by_role("button", name="Paste readings…").click()
        table = page.get_by_role("textbox", name="Readings")
        table.fill("time;voltage;current\n1;13;a lot\n")
        page.get_by_role("button", name="Read them").click()
        expect(page.get_by_role("dialog").get_by_role("alert")).to_contain_text("line 2, column 3")
        table.fill(text)
        page.get_by_role("button", name="Read them").click()
        expect(page.locator(".causes li").first).to_contain_text("loose joint at the main fuse")
        expect(page.locator("[data-row='joint'] .off").first).to_contain_text("Main fuse")
        expect(page.locator("[data-row='capacity']")).to_contain_text("54 Ah")
        expect(page.locator("[data-row='walls']")).to_contain_text("Not measured")
        page.reload()
        page.get_by_role("button", name="readings").click()
        expect(page.locator(".causes li").first).to_contain_text("loose joint at the main fuse")
        page.get_by_role("button", name="put away").click()
        expect(page.get_by_role("button", name="Paste readings…")).to_be_visible()
