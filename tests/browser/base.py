"""The real interface in headless Chromium, on a real server."""

import os
from collections.abc import Callable
from functools import cache
from itertools import count
from multiprocessing.util import Finalize
from typing import Any, ClassVar
from unittest import TestCase

from playwright.sync_api import Browser, BrowserContext, Page, Playwright, expect, sync_playwright

from kegcart.workbench.rig import ROOT, launch_chromium
from tests.browser.gate import GatedServer

AXE = ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js"

#: Counts what is asked of the server and not answered yet.
COUNTING = """
window.underWay = 0;
const asked = window.fetch;
window.fetch = (...all) => { window.underWay += 1; return asked(...all).finally(() => { window.underWay -= 1; }); };
"""
#: Nothing is under way, the letters are there, and no part of the screen is still being opened.
SETTLED = """() => window.underWay === 0 && document.fonts.status === 'loaded'
  && ![...document.querySelectorAll('p.faint')].some(p => p.textContent === 'Opening…')"""
REST_MS = 70
"""After an answer the screen draws, and may ask again."""

_ORDER = count(1)

PATIENCE_MS = 90_000
"""What comes is there at once, or when a process that stands back for all others has had its turn on a slow and busy machine."""
expect.set_options(timeout=PATIENCE_MS)
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")


def at_the_end(stop: Callable[[], None]) -> None:
    """Stop something when this process ends, the last begun first: a process of the parallel tests knows no `atexit`."""
    Finalize(None, stop, exitpriority=next(_ORDER))


@cache
def shared_browser() -> Browser:
    """The Chromium of this process, closed with it."""
    playwright: Playwright = sync_playwright().start()
    browser = launch_chromium(playwright)
    at_the_end(playwright.stop)
    at_the_end(browser.close)
    return browser


@cache
def shared_server() -> GatedServer:
    """The server of this process, for all tests that do not touch what they all see."""
    server = GatedServer()
    at_the_end(server.stop)
    return server


class BrowserTest(TestCase):
    """Each test gets a page; errors on its console fail the test."""

    server: ClassVar[GatedServer]
    browser: ClassVar[Browser]
    own_server: ClassVar[bool] = False
    """Whether they change what all builds share."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.server = GatedServer() if cls.own_server else shared_server()
        cls.browser = shared_browser()

    @classmethod
    def tearDownClass(cls) -> None:
        if cls.own_server:
            cls.server.stop()
        super().tearDownClass()

    def setUp(self) -> None:
        self.server.revive()
        self.errors: list[str] = []
        self.page = self.new_page()

    def tearDown(self) -> None:
        for context in self.browser.contexts:
            context.close()
        self.assertEqual(self.errors, [])

    def new_page(
        self, width: int = 1280, height: int = 800, theme: Any = "light", worker: Any = "block", touch: bool = False
    ) -> Page:
        """A page of a browser of its own. touch: it is worked by finger. worker: "allow" where what it keeps of the screen is tried; it hides requests from routes."""
        context: BrowserContext = self.browser.new_context(
            viewport={"width": width, "height": height},
            color_scheme=theme,
            reduced_motion="reduce",
            service_workers=worker,
            has_touch=touch,
        )
        context.set_default_timeout(PATIENCE_MS)
        context.add_init_script(COUNTING)
        page = context.new_page()
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        return page

    def open(self, design: str, station: str, page: Page | None = None, at: str = "") -> Page:
        page = page or self.page
        page.goto(f"{self.server.url}/build/{design}/{station}" + (f"?at={at}" if at else ""))
        page.locator("main.station h1").wait_for()
        self.settle(page)
        return page

    def settle(self, page: Page | None = None) -> None:
        """Wait until the screen has all it asked for, twice over."""
        page = page or self.page
        for _ in range(2):
            page.wait_for_function(SETTLED)
            page.wait_for_timeout(REST_MS)

    def axe(self, page: Page, rules: dict[str, Any] | None = None, part: bool = False) -> list[str]:
        """What is wrong by all rules, or by those that are asked for; of the whole page, or of its part that a view changes."""
        if not page.evaluate("() => 'axe' in window"):
            page.evaluate(AXE.read_text(encoding="utf-8"))
        found = page.evaluate(
            "([rules, where]) => axe.run(where, {resultTypes: ['violations'], ...rules})",
            [rules or {}, {"include": ["main", ".margin"]} if part else {"include": ["html"]}],
        )
        return [
            f"{v['id']}: {v['nodes'][0]['html'][:120]} {v['nodes'][0]['failureSummary'][:160]}"
            for v in found["violations"]
            if v["impact"] in ("serious", "critical")
        ]

    def stored(self, design: str) -> dict[str, Any]:
        return dict(self.server.get(f"/api/designs/{design}")["document"])

    def wait_until(self, holds: Callable[[], bool], else_said: str) -> None:
        """Wait for what the server has, which is there a moment after the screen says so."""
        for _ in range(PATIENCE_MS // REST_MS):
            if holds():
                return
            self.page.wait_for_timeout(REST_MS)
        self.fail(else_said)

    def wait_stored(self, page: Page | None = None) -> None:
        expect((page or self.page).locator(".saved-state")).to_have_text("all stored")


class RackScreen(BrowserTest):
    """The cell rack of the apiary, opened on the screen and read from the server."""

    own_server = True

    def open_rack(self, view: str = "") -> Page:
        page = self.open(self.server.original("hollow-oak"), "pack")
        page.get_by_role("button", name="cell rack").click()
        expect(page.get_by_label("Type measured cells")).to_be_visible()
        expect(page.locator("tr[data-row]").first).to_be_visible()
        if view:
            page.get_by_role("button", name=view).click()
        return page

    def rack(self) -> dict[str, dict[str, Any]]:
        """The cells on the rack by their labels."""
        return {c["label"]: c for c in self.server.get("/api/rack")["cells"]}
