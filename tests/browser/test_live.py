"""The load test live on the screen, against stand-ins: what is read is seen as it comes, a stop line stops everything, and nothing is lost."""

from itertools import pairwise
from typing import Any, ClassVar

from playwright.sync_api import expect

from kegcart.core.assess import assess
from kegcart.core.bench.dealt import Ill
from kegcart.core.bench.truth import TrueStation, Truth
from kegcart.core.design import read_design
from kegcart.standins.bench import StandInBench, instruments_of
from kegcart.standins.servers import StandInServer, serve
from tests.browser.base import BrowserTest

SPEED = 60.0
LOOSE_OHM = 0.004


class Live(BrowserTest):
    takes_long = True
    own_server = True
    bench: ClassVar[StandInBench]
    served: ClassVar[list[StandInServer]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        found = assess(read_design(cls.server.get(f"/api/designs/{cls.server.demos['lantern-lane']}")["document"]))
        cls.bench = StandInBench(found, seed=4, speed=SPEED)
        point = cls.bench.station.points[1]
        ill = Ill(Truth(loose={point.key: LOOSE_OHM}))
        cls.bench.true = TrueStation(cls.bench.station, ill.hidden)
        cls.bench.meters = ill.meters(cls.bench.true, 4)
        cls.joint = point.name
        cls.served = serve(instruments_of(cls.bench))

    @classmethod
    def tearDownClass(cls) -> None:
        for server in cls.served:
            server.hang_up()
        super().tearDownClass()

    def test_a_whole_test_with_all_that_can_happen(self) -> None:
        build, page = self.server.demo("lantern-lane"), self.page
        self.open(build, "bench")
        page.get_by_role("button", name="live", exact=True).click()
        for server in self.served:
            field = page.get_by_label("Address of an instrument")
            field.fill(server.address)
            field.press("Enter")
            expect(page.locator(".instruments > li", has_text=server.address)).to_be_visible()
        row = page.locator(".instruments > li", has_text="DC meter with shunt")
        row.get_by_role("button", name="ask once").click()
        expect(row.locator(".tried li").first).to_contain_text("MEAS:VOLT:DC? (@1) 27.")
        for name in (
            "All off",
            "Inverter idle",
            "25% load",
            "Soak",
            "Worst surge",
            "Over-current",
            "Run-down",
            "Rest, empty",
            "Recharge",
        ):
            page.get_by_label(name, exact=True).uncheck()
        page.get_by_role("button", name="Rest earlier").click()
        page.get_by_role("button", name="Rest later").click()
        page.get_by_role("button", name="Make the test ready").click()
        expect(page.locator(".run-next .caution-line")).to_contain_text("cannot be switched off")
        page.get_by_role("button", name="Begin this step").click()
        expect(page.locator(".run-head h2")).to_have_text("50% load")
        expect(page.locator("[data-strip=shunt] .run-figure strong")).to_contain_text("4")
        self.bench.speed = 1.0  # until all that can happen has: then the joint may warm
        asked, broken = list[str](), list[None]()
        second = self.page.context.new_page()
        second.on("request", lambda request: asked.append(request.url))
        self.open(build, "assembly", second)
        expect(second.locator(".run-under-way")).to_contain_text("A load test is running: 50% load")
        self.assertEqual([url for url in asked if url.endswith("/live")], [], "one page listens for all")
        clamp = next(s for s in self.served if s.stand_in.name == "DC clamp")
        clamp.hang_up()
        listed = page.get_by_role("complementary").locator(".instruments-now li", has_text="DC clamp")
        expect(listed).to_contain_text("it hung up")
        again = StandInServer(clamp.stand_in, clamp.server_address[1])
        again.start()
        self.served[self.served.index(clamp)] = again
        expect(listed).to_contain_text("it answers again")
        page.get_by_label("Note").fill("hums a little")
        page.get_by_role("button", name="Note it").click()
        expect(page.locator(".run-events")).to_contain_text("hums a little")
        self.assertEqual(self.axe(page), [], "while it runs")
        self.bench.speed = SPEED
        stop = page.get_by_role("alertdialog")
        expect(stop).to_contain_text("over its like by")
        expect(stop).to_contain_text(self.joint)
        expect(second.get_by_role("alertdialog")).to_be_visible()
        self.wait_until(lambda: not self.bench.load_on and not self.bench.inverter, "the load obeys")
        second.close()
        self.bench.speed = 1.0
        self.assertEqual(self.axe(page), [], "stopped")
        self.server.kill()
        stop.get_by_role("button").click()
        expect(page.get_by_text("The server is away: nothing is shown")).to_be_visible()
        self.server.start()
        expect(page.get_by_text("The server is away: nothing is shown")).to_have_count(0)
        expect(page.locator(".run-events")).to_contain_text("the server was away")
        page.reload()
        page.get_by_role("alertdialog").get_by_role("button").click()
        expect(page.locator(".run-events")).to_contain_text("hums a little")
        expect(page.get_by_role("complementary")).to_contain_text(f"loose joint at the {self.joint.lower()}")
        self.tighten()
        self.bench.speed = SPEED / 2  # so many readings that a busy machine misses none of a step's end
        page.route("**/chart?*", lambda route: broken.append(route.abort()), times=1)
        page.get_by_role("button", name="Begin it anew").click()
        expect(page.locator(".run-replay")).to_be_visible()
        self.learned_and_put_in(build)
        self.assertEqual(self.axe(page), [], "over")
        self.assertEqual(len(broken), 1, "what was read did not come at first")
        page.get_by_label("Moment of the test").fill("30")
        expect(page.locator("[data-strip=shunt] .run-figure strong")).to_contain_text("0.")
        page.get_by_role("button", name="300 ×").click()
        page.get_by_role("button", name="Play").click()
        expect(page.locator(".run-replay time")).not_to_have_text("00:00:30")
        page.get_by_role("button", name="Back to the bench").click()
        expect(page.locator(".past-runs")).to_contain_text("stopped at a line")
        runs: Any = self.server.get(f"/api/designs/{build}/runs")["runs"]
        self.assertEqual([(run["state"], run["stops"]) for run in runs], [("over", 1)])

    def tighten(self) -> None:
        """The builder makes the joint anew."""
        with self.bench.lock:
            true = self.bench.true
            true.own_ohm[1] -= LOOSE_OHM
            true.joint_ohm[1] -= LOOSE_OHM
            true.rises[:] = 0

    def learned_and_put_in(self, build: str) -> None:
        """What was learned goes into the design, with what it changes before; the report has it, and the log the report."""
        page = self.page
        expect(page.locator(".learned-table tr[data-row=resistance]").get_by_role("checkbox")).to_be_checked()
        other = page.locator(".learned-table tr:has(input:checked)").last
        left_out = str(other.get_attribute("data-row"))
        self.assertNotEqual(left_out, "resistance")
        other.get_by_role("checkbox").uncheck()
        page.get_by_role("button", name="Put into the design…").click()
        dialog = page.get_by_role("dialog")
        expect(dialog.locator(".put-in-time")).to_contain_text("run time at 1 kW")
        expect(dialog).to_contain_text("resistance of the pack")
        self.assertEqual(self.axe(page), [], "put in")
        dialog.get_by_role("button", name="Put them in").click()
        expect(page.get_by_text("The measured figures stand in the design.")).to_be_visible()
        self.wait_until(lambda: "resistance" in self.document(build)["bench"]["measured"], "it is stored")
        self.assertNotIn(left_out, self.document(build)["bench"]["measured"])
        report = page.get_by_role("link", name="report, A4").get_attribute("href")
        answer = page.request.get(f"{self.server.url}{report}")
        self.assertEqual((answer.status, answer.body()[:5]), (200, b"%PDF-"))
        table = page.request.get(f"{self.server.url}{str(report).split('/report')[0]}/readings.csv").text().lstrip("\ufeff")
        moments = [float(line.split(",")[0]) for line in table.splitlines()[1:]]
        self.assertGreater(len(moments), 200)
        self.assertTrue(all(a < b for a, b in pairwise(moments)), "no reading stands there twice")
        rows = self.server.get(f"/api/designs/{build}/timeline")["rows"]
        self.assertLessEqual({"test", "resistance"}, {row["kind"] for row in rows})

    def document(self, build: str) -> Any:
        """The design as the server has it."""
        return self.server.get(f"/api/designs/{build}")["document"]


class StandInsAtHand(BrowserTest):
    own_server = True

    def test_without_instruments_a_simulated_bench_is_started(self) -> None:
        page = self.open(self.server.demo("tidewater"), "bench")
        page.get_by_role("button", name="live", exact=True).click()
        page.get_by_label("How the simulated station is").select_option("any")
        page.get_by_label("How fast its time goes").select_option("60")
        page.get_by_role("button", name="start stand-ins").click()
        expect(page.locator(".instruments > li")).to_have_count(9)
        row = page.locator(".instruments > li", has_text="cell logger")
        row.get_by_role("button", name="words…").click()
        page.get_by_label("Query 1", exact=True).fill("MEAS:CELLS?")
        page.get_by_label("Address", exact=True).fill("somewhere")
        page.get_by_role("button", name="Put it in").click()
        expect(page.get_by_role("dialog")).to_contain_text("is no address")
        page.get_by_role("button", name="Close").click()
        row.get_by_role("button", name="Take cell logger away").click()
        expect(page.locator(".instruments > li")).to_have_count(8)
        self.server.send("DELETE", "/api/bench/stand-ins")
