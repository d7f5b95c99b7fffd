"""What was typed is never lost, whatever happens to the browser, its other windows, the server or the way between."""

import json
import re
import sqlite3
from contextlib import closing
from typing import Any

from playwright.sync_api import APIResponse, Locator, Page, Route, expect

from tests.browser.base import BrowserTest, RackScreen

FULL = "Storage.prototype.setItem = () => { throw new DOMException('full', 'QuotaExceededError'); };"
BLOCKED = """for (const name of ['localStorage', 'sessionStorage'])
  Object.defineProperty(window, name, { get() { throw new DOMException('blocked', 'SecurityError'); } });"""
KEPT = """async () => {
  await navigator.serviceWorker.ready;
  const kept = await caches.open('kegcart-screen');
  const designs = await caches.open('kegcart-designs');
  return Boolean(await kept.match('/static/manifest.json')) && (await designs.keys()).length > 0;
}"""
"""Whether the screen and the design can be shown without the server."""


class LostTest(BrowserTest):
    def watts(self, page: Page, name: str = "Projector") -> Any:
        return page.get_by_label(f"Watts of one {name}")

    def load(self, design: str, key: str = "projector") -> Any:
        return self.stored(design)["loads"]["items"][key]["watts"]


class StorageTest(LostTest):
    """Keeping in the browser is a safety net: without it edits are sent as ever."""

    def test_with_a_full_storage_edits_are_stored_and_that_nothing_is_kept_is_said(self) -> None:
        design = self.server.demo("lantern-lane")
        self.page.add_init_script(FULL)
        page = self.open(design, "loads")
        self.watts(page).fill("188")
        self.wait_stored()
        expect(self.watts(page)).to_have_value("188")
        self.assertEqual(self.load(design), 188)
        expect(page.locator(".trouble")).to_contain_text("cannot keep")
        self.server.leave()
        self.watts(page).fill("189")
        expect(page.locator(".trouble")).to_contain_text("leave it open")
        self.server.revive()
        self.wait_stored()
        self.assertEqual(self.load(design), 189)

    def test_where_storage_may_not_be_touched_the_screen_works(self) -> None:
        design = self.server.demo("lantern-lane")
        self.page.add_init_script(BLOCKED)
        page = self.open(design, "loads")
        self.watts(page).fill("188")
        self.wait_stored()
        self.assertEqual(self.load(design), 188)
        page.get_by_role("button", name="dark theme").click()
        expect(page.locator("html")).to_have_attribute("data-bs-theme", "dark")

    def test_nonsense_that_is_read_back_is_passed_over(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        sound = {"patch": [{"op": "replace", "path": "/notes", "value": "kept"}], "label": "", "mergeKey": "", "was": [""]}
        nonsense = (
            "null", "[1]", '{"a":1}', "[null]", "no json", '[{"patch":[]}]', "[[]]",
            json.dumps([sound | {"patch": [{"op": 1, "path": "/notes"}]}, sound | {"label": 3}, sound | {"was": 1}, sound]),
        )  # fmt: skip
        for n, text in enumerate(nonsense):
            for key in (f"kegcart.unsent.{design}", f"kegcart.unsent.{design}.x", "kegcart.rack.unsent", "kegcart.theme"):
                page.evaluate("([key, text]) => localStorage.setItem(key, text)", [key, text])
            self.open(design, "loads", page)
            self.watts(page).fill(str(150 + n))
            self.wait_stored()
            self.assertEqual(self.load(design), 150 + n, text)
        self.assertEqual(self.stored(design)["notes"], "kept")


class TwoTabs(LostTest):
    def test_edits_of_two_tabs_both_arrive_though_one_is_closed_and_the_other_loaded_again(self) -> None:
        design = self.server.demo("lantern-lane")
        first = self.open(design, "loads")
        second = self.open(design, "loads", first.context.new_page())
        self.server.leave()
        self.watts(first).fill("111")
        self.watts(second, "Mixer").fill("22")
        for page in (first, second):
            expect(page.locator(".saved-state")).to_contain_text("1 not sent yet")
        first.close()
        self.server.revive()
        self.wait_stored(second)
        second.reload()
        self.settle(second)
        expect(self.watts(second)).to_have_value("111")
        self.wait_stored(second)
        items = self.stored(design)["loads"]["items"]
        self.assertEqual((items["projector"]["watts"], items["mixer"]["watts"]), (111, 22))

    def test_a_tab_that_is_loaded_again_takes_up_its_own_edits_and_not_the_other_tab(self) -> None:
        design = self.server.demo("lantern-lane")
        first = self.open(design, "loads", self.new_page(worker="allow"))
        second = self.open(design, "loads", first.context.new_page())
        first.wait_for_function(KEPT)
        second.wait_for_timeout(300)
        self.server.leave()
        self.watts(second).fill("111")
        for _ in range(2):
            second.reload()
            expect(self.watts(second)).to_have_value("111")
            expect(second.locator(".saved-state")).to_contain_text("1 not sent yet")
            second.wait_for_timeout(3000)  # longer than the other tab waits for one that has gone
        expect(first.locator(".saved-state")).to_have_text("all stored")
        self.server.revive()
        self.wait_stored(second)
        self.assertEqual(self.load(design), 111)

    def test_what_one_tab_stores_the_other_shows(self) -> None:
        design = self.server.demo("lantern-lane")
        first = self.open(design, "loads")
        second = self.open(design, "loads", first.context.new_page())
        self.watts(first).fill("111")
        expect(self.watts(second)).to_have_value("111")
        self.watts(second).fill("112")
        self.wait_stored(second)
        first.wait_for_timeout(600)
        expect(self.watts(first)).to_have_value("111")  # the text in the field that is being typed in stays
        first.locator("h1").first.click()
        expect(self.watts(first)).to_have_value("112")
        expect(first.locator("#clash-title")).to_have_count(0)

    def test_what_one_tab_stores_drops_nothing_of_the_other(self) -> None:
        design = self.server.demo("lantern-lane")
        first = self.open(design, "loads")
        second = self.open(design, "loads", first.context.new_page())
        first.route("**/api/designs/*?answer=changes", lambda route: route.abort())
        self.watts(first).fill("111")
        expect(first.locator(".saved-state")).to_contain_text("1 not sent yet")
        self.watts(second, "Mixer").fill("22")
        self.wait_stored(second)
        second.reload()
        self.settle(second)
        first.unroute("**/api/designs/*?answer=changes")
        self.wait_stored(first)
        items = self.stored(design)["loads"]["items"]
        self.assertEqual((items["projector"]["watts"], items["mixer"]["watts"]), (111, 22))

    def test_a_load_of_one_name_added_in_both_is_there_twice(self) -> None:
        design = self.server.demo("lantern-lane")
        first = self.open(design, "loads")
        second = self.open(design, "loads", first.context.new_page())
        for page in (first, second):
            page.get_by_label("New load: type its name").fill("Lamp")
            page.keyboard.press("Enter")
            self.wait_stored(page)
        self.assertLessEqual({"lamp", "lamp-2"}, self.stored(design)["loads"]["items"].keys())


class LostAnswer(LostTest):
    def lose_once(self, page: Page, pattern: str) -> None:
        """The server takes it, and its answer is lost on the way."""

        def lose(route: Route) -> None:
            route.fetch()
            route.abort()

        page.route(pattern, lose, times=1)

    def test_what_was_stored_is_no_clash_and_is_not_done_twice(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        count = len(self.stored(design)["loads"]["items"])
        self.lose_once(page, "**/api/designs/*?answer=changes")
        self.watts(page).fill("177")
        self.wait_stored()
        self.lose_once(page, "**/api/designs/*?answer=changes")
        page.get_by_label("New load: type its name").fill("Lamp")
        page.keyboard.press("Enter")
        expect(page.get_by_label("Watts of one Lamp")).to_be_visible()
        self.wait_stored()
        expect(page.locator("#clash-title")).to_have_count(0)
        stored = self.server.get(f"/api/designs/{design}")
        self.assertEqual((stored["revision"], len(stored["document"]["loads"]["items"])), (3, count + 1))

    def test_an_undo_whose_answer_is_lost_steps_once(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        for watts in ("171", "172"):
            self.watts(page).fill(watts)
            self.wait_stored()
            self.watts(page, "Mixer").fill(watts)
            self.wait_stored()
        self.lose_once(page, "**/undo?answer=changes")
        page.get_by_role("button", name="undo", exact=True).click()
        expect(self.watts(page, "Mixer")).to_have_value("171")
        self.wait_stored()
        self.assertEqual((self.load(design), self.load(design, "mixer")), (172, 171))

    def test_the_same_typed_elsewhere_is_no_clash_and_something_else_is_one(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        self.server.put(design, "/loads/items/projector/watts", 1200)
        self.watts(page).fill("1.2k")
        self.wait_stored()
        expect(page.locator("#clash-title")).to_have_count(0)
        self.server.put(design, "/loads/items/projector/watts", 1300)
        self.watts(page).fill("1.4k")
        expect(page.locator("#clash-title")).to_be_visible()
        expect(page.get_by_role("dialog")).to_contain_text("you wrote 1.4k, there stands 1300")


class UndoTest(LostTest):
    def test_every_press_is_a_step_and_says_what_it_took_back(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        for name in ("Projector", "Mixer", "Fog machine", "Powered speakers"):
            self.watts(page, name).fill("33")
            self.wait_stored()

        def slowly(route: Route) -> None:
            page.wait_for_timeout(400)
            route.continue_()

        page.route("**/undo?answer=changes", slowly)
        undo = page.get_by_role("button", name="undo", exact=True)
        for _ in range(3):
            undo.click()
            page.wait_for_timeout(150)
        self.wait_stored()
        expect(page.locator(".notice")).to_contain_text("Taken back: Watts of one Mixer: 33")
        items = self.stored(design)["loads"]["items"]
        self.assertEqual(
            [items[key]["watts"] == 33 for key in ("projector", "mixer", "fog-machine", "speakers")], [True, False, False, False]
        )
        page.get_by_role("button", name="redo", exact=True).click()
        expect(page.locator(".notice")).to_contain_text("Done again: Watts of one Mixer: 33")

    def test_what_was_not_sent_yet_is_taken_back_first(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        self.server.leave()
        self.watts(page).fill("199")
        expect(page.locator(".saved-state")).to_contain_text("1 not sent yet")
        page.get_by_role("button", name="undo", exact=True).click()
        expect(page.locator(".notice")).to_contain_text("Taken back before it was stored: Watts of one Projector: 199")
        expect(self.watts(page)).to_have_value("180")
        page.get_by_role("button", name="redo", exact=True).click()
        expect(self.watts(page)).to_have_value("199")
        expect(page.locator(".trouble")).to_be_visible()
        page.wait_for_timeout(300)
        page.get_by_role("button", name="undo", exact=True).click()
        expect(self.watts(page)).to_have_value("180")
        self.server.revive()
        self.wait_stored()
        self.assertEqual(self.load(design), 180)


class ReloadTest(LostTest):
    def test_loaded_again_while_the_server_is_away_the_fields_show_what_was_typed(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads", self.new_page(worker="allow"))
        self.watts(page, "Mixer").fill("31")
        self.wait_stored(page)
        page.wait_for_function(KEPT)
        page.wait_for_timeout(300)
        self.server.leave()
        self.watts(page).fill("177")
        page.get_by_label("Supply of Tablet").select_option("usb")
        page.get_by_label("New load: type its name").fill("half a na")
        hours = page.get_by_label("Hours of Mixer")
        hours.fill("10–")
        expect(page.locator(".saved-state")).to_contain_text("2 not sent yet")
        page.reload()
        expect(page.locator(".trouble")).to_contain_text("The server does not answer")
        expect(self.watts(page)).to_have_value("177")
        expect(self.watts(page, "Mixer")).to_have_value("31")
        expect(page.get_by_label("Supply of Tablet")).to_have_value("usb")
        expect(page.get_by_label("New load: type its name")).to_have_value("half a na")
        expect(hours).to_have_value("10–")
        page.goto(f"{self.server.url}/build/{design}/power")
        expect(page.locator("main h1")).to_have_text("Power path")
        self.server.revive()
        self.wait_stored(page)
        expect(page.locator(".trouble")).to_have_count(0)
        self.assertEqual(self.load(design), 177)

    def test_a_choice_that_is_more_than_one_decision_shows_as_it_was_made(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads", self.new_page(worker="allow"))
        page.wait_for_function(KEPT)
        page.wait_for_timeout(300)
        self.server.leave()
        made: list[tuple[str, Locator, str]] = [
            ("loads?at=/loads/items/projector", page.get_by_label("The days"), "week"),
            ("loads?at=/loads/items/projector", page.get_by_label("Its power is known from"), "meter"),
            ("power", page.get_by_label("Gauge of the run to Main fuse"), "95 mm²"),
            ("pack", page.get_by_label("Made of"), "battery"),
        ]
        for n, (station, field, value) in enumerate(made, 1):
            for again in (False, True):
                page.goto(f"{self.server.url}/build/{design}/{station}")
                if station == "power":
                    page.get_by_role("button", name="Wire table").click()
                if not again:
                    field.select_option(value)
                expect(page.locator(".saved-state")).to_contain_text(f"{n} not sent yet")
                expect(field).to_have_value(value)
        expect(page.get_by_label("Gives continuously")).to_have_value("100")  # the fields of what was chosen are there
        self.server.revive()
        self.wait_stored(page)
        self.assertEqual(self.stored(design)["pack"]["form"], "battery")

    def test_a_table_half_pasted_is_there_again(self) -> None:
        page = self.open(self.server.demo("lantern-lane"), "loads")
        for _ in range(2):
            page.get_by_role("button", name="Paste…").click()
            page.get_by_label("Table of loads", exact=True).press_sequentially("name;")
            page.reload()
        page.get_by_role("button", name="Paste…").click()
        expect(page.get_by_label("Table of loads", exact=True)).to_have_value("name;name;")

    def test_what_was_refused_stays_in_its_field_with_the_reason(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        self.watts(page).fill("about two")
        expect(page.locator(".problem")).to_contain_text("Still in force: 180")
        page.reload()
        expect(self.watts(page)).to_have_value("about two")
        expect(page.get_by_role("button", name="1 not taken")).to_be_visible()
        self.watts(page).fill("181")
        self.wait_stored()
        expect(page.get_by_role("button", name="1 not taken")).to_have_count(0)
        self.assertEqual(self.load(design), 181)

    def test_an_edit_of_a_build_taken_off_elsewhere_is_kept_and_the_build_brought_back(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        self.server.remove(design)
        self.watts(page).fill("166")
        expect(page.locator(".trouble")).to_contain_text("taken off the shelf in another window. 1 edit waits")
        page.reload()
        expect(page.locator("main")).to_contain_text("taken off the shelf")
        page.get_by_role("button", name="Put it back on the shelf").click()
        expect(self.watts(page)).to_have_value("166")
        self.wait_stored()
        self.assertEqual(self.load(design), 166)
        self.server.remove(design)
        self.watts(page).fill("167")
        page.get_by_role("button", name="Put it back on the shelf").click()
        self.wait_stored()
        self.assertEqual(self.load(design), 167)


class ForgottenBuild(LostTest):
    def test_a_build_that_the_server_knows_no_more_is_made_anew_with_the_edit(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        with closing(sqlite3.connect(self.server.folder_path / "kegcart.sqlite3")) as database, database:
            database.execute("UPDATE workbench_storeddesign SET head_id = NULL WHERE id = ?", [design])
        self.watts(page).fill("155")
        expect(page.locator(".trouble")).to_contain_text("does not know this build any more. 1 edit waits in this browser.")
        # The build is read before the edit is stored, and the page is told of it after.
        edits: list[Route] = []
        reads: list[tuple[Route, APIResponse]] = []

        def hold(route: Route) -> None:
            if route.request.method == "PATCH" and not edits:
                edits.append(route)
            elif not reads and route.request.method == "GET":
                reads.append((route, route.fetch()))
            else:
                route.continue_()

        page.route(re.compile(r"/api/designs/[0-9a-z-]+(\?answer=changes)?$"), hold)
        page.get_by_role("button", name="Make it anew from this screen").click()
        page.wait_for_url(lambda url: design not in url)
        while not (edits and reads):
            page.wait_for_timeout(20)
        with page.expect_response(lambda answer: answer.request.method == "PATCH"):
            edits[0].continue_()
        made = page.url.split("/build/")[1].split("/")[0]
        self.assertEqual(self.load(made), 155)
        route, early = reads[0]
        route.fulfill(response=early)
        expect(self.watts(page)).to_have_value("155")
        self.wait_stored()
        page.reload()
        expect(self.watts(page)).to_have_value("155")


class WordsTest(LostTest):
    """The server refuses, cannot write, has broken, is away: four sentences."""

    def answer(self, page: Page, status: int, body: Any) -> None:
        page.route("**/api/designs/*?answer=changes", lambda route: route.fulfill(status=status, json=body))

    def test_each_says_what_it_is_and_what_becomes_of_the_edit(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        field, problem, trouble = self.watts(page), page.locator("td .problem"), page.locator(".trouble")
        field.fill("-3")
        expect(problem).to_contain_text("this is at least 0 (not -3). Still in force: 180")
        said = {"problems": [], "reference": "ab12cd"}
        self.answer(
            page, 507, said | {"kind": "cannot-write", "message": "The server cannot write: the disk is full. Make room on it."}
        )
        field.fill("181")
        expect(trouble).to_contain_text(
            "The server cannot write: the disk is full. Make room on it. 1 edit waits in this browser"
        )
        page.unroute("**/api/designs/*?answer=changes")
        self.wait_stored()
        expect(trouble).to_have_count(0)
        self.assertEqual(self.load(design), 181)
        self.answer(
            page,
            500,
            said
            | {
                "kind": "broken",
                "message": "The program has failed at this; nothing was changed. Its log file tells more under ab12cd.",
            },
        )
        field.fill("182")
        expect(problem).to_contain_text("The program has failed at this")
        expect(problem).to_contain_text("ab12cd")
        expect(field).to_have_value("182")
        page.unroute("**/api/designs/*?answer=changes")
        page.get_by_role("button", name="1 not taken").click()
        page.get_by_role("button", name="try again").click()
        self.wait_stored()
        self.assertEqual(self.load(design), 182)
        page.route("**/api/designs/*?answer=changes", lambda route: route.abort())
        field.fill("183")
        expect(trouble).to_contain_text(
            "The server does not answer: start it again, or wait a moment. What is stored stays. 1 edit waits in this browser"
        )
        page.unroute("**/api/designs/*?answer=changes")
        self.wait_stored()
        self.assertEqual(self.load(design), 183)


class RackLostTest(RackScreen):
    def test_a_half_typed_cell_and_figure_outlive_a_reload_and_an_edit_waits_for_the_server(self) -> None:
        page = self.open_rack()
        label = next(name for name, cell in self.rack().items() if not cell["reasons"] and not cell["build"])
        page.locator("#type-capacity").fill("2,3")
        page.get_by_label("Find a cell by its label").fill(label)
        figure = page.get_by_label(f"Resistance of {label}")
        figure.fill("41")
        page.reload()
        page.get_by_role("button", name="cell rack").click()
        expect(page.locator("#type-capacity")).to_have_value("2,3")
        page.get_by_label("Find a cell by its label").fill(label)
        expect(figure).to_have_value("41")
        self.server.leave()
        figure.press("Enter")
        page.wait_for_timeout(300)
        expect(figure).to_have_value("41")
        self.server.revive()
        page.wait_for_function("() => !Object.keys(localStorage).some((key) => key.startsWith('kegcart.rack'))")
        self.assertEqual(self.rack()[label]["resistance_mohm"], 41)
