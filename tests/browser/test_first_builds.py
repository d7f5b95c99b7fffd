"""Five builds of a first-time builder, from "New build" to the rehearsal, by what they see and type; the acts are counted and printed."""

import re
from typing import Any
from unittest import skipUnless

from playwright.sync_api import expect

from tests import PROVING
from tests.browser.base import BrowserTest

MOST_ACTS_OF_A_DC_BOX = 30


def named(label: str) -> re.Pattern[str]:
    """A control by its label; its unit may follow."""
    return re.compile(rf"^{re.escape(label)}( \S{{1,4}})?$")


class Hands:
    """A builder's hands: what they click, choose and type, each counted as one act. Text typed with Enter is one act."""

    def __init__(self, test: BrowserTest) -> None:
        self.test, self.page, self.acts = test, test.page, 0

    def done(self) -> None:
        """One act more, and what follows from it is there."""
        self.acts += 1
        self.test.settle()

    def click(self, name: str) -> None:
        self.page.get_by_role("button", name=name, exact=True).first.click()
        self.done()

    def go(self, station: str) -> None:
        self.page.locator(".rail a", has_text=station).click()
        expect(self.page.locator("main h1")).to_have_text(station)
        self.done()

    def choose(self, label: str, option: str) -> None:
        self.page.get_by_role("combobox", name=named(label)).first.select_option(label=option)
        self.done()

    def type(self, label: str, text: str) -> None:
        field = self.page.get_by_role("textbox", name=named(label)).first
        field.fill(text)
        field.press("Enter")
        self.done()

    def keys(self, text: str = "") -> None:
        """What is typed where the cursor stands, with Enter."""
        if text:
            self.page.keyboard.type(text)
        self.page.keyboard.press("Enter")
        self.done()

    def load(self, name: str, watts: str, hours: str, supply: str = "") -> None:
        """A load by keyboard: name, supply, watts, hours, one after the other."""
        self.keys(name)
        expect(self.page.get_by_label(re.compile(f"^Supply of {name}"))).to_be_focused()
        if supply:
            key = self.page.get_by_label(re.compile(f"^Supply of {name}"))
            key.select_option(label=key.locator("option", has_text=supply).first.inner_text())
        self.keys()
        expect(self.page.get_by_label(f"Watts of one {name}")).to_be_focused()
        self.keys(watts)
        expect(self.page.get_by_label(f"Hours of {name}")).to_be_focused()
        self.keys(hours)


class FirstBuilds(BrowserTest):
    def begin(self) -> Hands:
        self.page.goto(self.server.url)
        hands = Hands(self)
        hands.click("New build")
        expect(self.page.locator("main h1")).to_have_text("Loads")
        return hands

    def begin_without_mains(self) -> Hands:
        """A build without an inverter, with the cursor where its loads are typed."""
        hands = self.begin()
        hands.go("Brief")
        hands.choose("Mains", "none")
        return hands

    def on_a_finished_battery(self, hands: Hands) -> None:
        """The first of the finished batteries that would serve, and a path laid out from it."""
        hands.go("Pack")
        hands.click("three that would serve")
        hands.click("one finished battery")
        hands.click("Take this pack")
        hands.go("Power path")
        hands.click("Lay out a path for these loads")

    def rehearsed(self, hands: Hands, name: str, most: int = 80) -> dict[str, Any]:
        """The rehearsal is reached, nothing stops the build, and it took no more acts than it may."""
        hands.go("Bench")
        expect(self.page.locator(".station-lead")).to_contain_text("Every load is fed throughout")
        hands.click("test plan")
        expect(self.page.locator("[data-row='Run-down']")).to_contain_text("First to open")
        self.wait_stored()
        data = self.server.get(f"/api/designs/{self.page.url.split('/build/')[1].split('/')[0]}")
        stops = [f["text"] for f in data["assessment"]["findings"] if f["severity"] == "stop"]
        self.assertEqual(stops, [], name)
        print(f"\n{name}: {hands.acts} acts")
        self.assertLessEqual(hands.acts, most, name)
        return dict(data)

    def test_a_dc_box_round_a_finished_battery(self) -> None:
        hands = self.begin_without_mains()
        hands.type("Hours between charges", "16")
        hands.go("Loads")
        self.page.get_by_label("New load: type its name and press Enter").focus()
        hands.load("Ringing lamp", "12", "18-23")
        hands.load("Call speaker", "15", "19-22")
        hands.load("Weather logger", "3", "8-24")
        hands.load("Tablet", "12", "18-22", "USB")
        self.on_a_finished_battery(hands)
        data = self.rehearsed(hands, "DC box round a finished battery", MOST_ACTS_OF_A_DC_BOX)
        self.assertEqual(data["document"]["pack"]["form"], "battery")
        parts = {node["part"] for node in data["document"]["power"]["network"].values()}
        self.assertFalse({"inverter", "converter"} & parts)

    @skipUnless(PROVING, "other builds are made daily")
    def test_modules_with_an_inverter(self) -> None:
        hands = self.begin()
        hands.load("Sound desk", "60", "14-20")
        hands.load("Stage spots", "240", "18-22")
        hands.load("Wig dryer", "900", "17-17:20")
        hands.go("Pack")
        hands.choose("Made of", "modules with own boards")
        hands.choose("Chemistry", "NMC")
        options = self.page.locator("#pack-part option", has_text="7S NMC").first.inner_text()
        hands.choose("Figures of", options)
        hands.go("Power path")
        hands.click("Lay out a path for these loads")
        data = self.rehearsed(hands, "modules with an inverter")
        self.assertIn("inverter", {node["part"] for node in data["document"]["power"]["network"].values()})

    @skipUnless(PROVING, "other builds are made daily")
    def test_a_high_voltage_ac_box(self) -> None:
        hands = self.begin()
        hands.load("Induction plate", "1800", "12-12:40")
        hands.load("Site saw", "1500", "9-9:30")
        hands.load("Site lights", "200", "16-20")
        hands.go("Pack")
        hands.click("three that would serve")
        hands.click("Take this pack")
        hands.go("Power path")
        hands.click("Lay out a path for these loads")
        data = self.rehearsed(hands, "high-voltage AC box")
        self.assertGreater(data["assessment"]["figures"]["pack/v_nom"]["value"], 40)

    @skipUnless(PROVING, "other builds are made daily")
    def test_a_vehicle_with_two_banks(self) -> None:
        hands = self.begin_without_mains()
        hands.choose("Carried by", "vehicle")
        hands.go("Power path")
        hands.click("Add…")
        hands.click("Add a second bank")
        hands.type("Name", "Starting battery")
        hands.choose("Chemistry", "lead-acid starting battery")
        hands.type("Gives continuously", "300")
        hands.go("Loads")
        self.page.get_by_label("New load: type its name and press Enter").focus()
        hands.load("Cool box", "45", "0-24")
        hands.load("Cabin lights", "20", "18-23")
        hands.load("Winch", "900", "10-10:06")
        hands.choose("From", "Starting battery")
        self.page.get_by_label("The engine runs while it is on").check()
        hands.done()
        self.on_a_finished_battery(hands)
        data = self.rehearsed(hands, "vehicle with two banks")
        network = data["document"]["power"]["network"]
        self.assertEqual({node["feed"] for node in network.values()} & {"pack", "second-bank"}, {"pack", "second-bank"})
        outlet = next(key for key, held in data["plugged"].items() if "winch" in held)
        self.assertIn("Starting battery", network[outlet]["name"])

    def test_sorted_reclaimed_cells_in_holders(self) -> None:
        hands = self.begin()
        hands.load("Soldering station", "120", "9-9:40")
        hands.load("Bench lamp", "18", "9-12")
        hands.go("Pack")
        hands.choose("Chemistry", "NMC")
        hands.click("cell rack")
        hands.click("Import…")
        rows = [f"FB-{n:02d};18650;{2000 + n * 37 % 211};{40 + n * 13 % 9};4,12" for n in range(80)]
        self.page.get_by_role("dialog").locator("textarea").fill(
            "\n".join(["label;format;capacity mAh;resistance mΩ;voltage", *rows])
        )
        hands.done()
        self.page.get_by_role("dialog").get_by_role("button", name=re.compile("^Put 80")).click()
        hands.done()
        hands.click("sort into groups")
        for field, value in (("sort-series", "7"), ("sort-parallel", "10"), ("sort-holder", "1"), ("sort-holder-groups", "7")):
            self.page.locator(f"#{field}").fill(value)
            hands.done()
        expect(self.page.locator("main")).to_contain_text("10 holders of 7")
        hands.click("Sort")
        expect(self.page.locator(".group-bars li")).to_have_count(7)
        hands.click("Build these cells in")
        hands.go("Power path")
        hands.click("Lay out a path for these loads")
        data = self.rehearsed(hands, "sorted reclaimed cells in holders")
        pack = data["document"]["pack"]
        self.assertEqual((pack["holder"], pack["holder_groups"], len(pack["groups"])), (1, 7, 7))
        self.assertEqual((pack["cell"]["shape"], pack["cell"]["width_mm"]), ("cylindrical", 18.5))
