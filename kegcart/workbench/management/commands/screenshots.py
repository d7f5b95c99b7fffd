"""Makes the pictures in docs/screenshots anew, from the demo builds."""

from typing import Any

from django.core.management.base import BaseCommand
from playwright.sync_api import Page, sync_playwright

from kegcart.workbench.rig import ROOT, Server, launch_chromium

FOLDER = ROOT / "docs" / "screenshots"

#: picture -> (demo build or "", station and what is selected, what is clicked, width, height, theme)
PICTURES: dict[str, tuple[str, str, list[str], int, int, Any]] = {
    "shelf": ("", "", [], 1280, 800, "light"),
    "brief": ("lantern-lane", "brief", [], 1280, 800, "light"),
    "loads": ("lantern-lane", "loads?at=/loads/items/fog-machine", [], 1280, 800, "light"),
    "pack": ("lantern-lane", "pack", [".station-lead .figure-button >> nth=3"], 1280, 800, "light"),
    "pack-sorted": ("hollow-oak", "pack?at=/pack/groups/g3", [], 1280, 800, "light"),
    "cell-rack": ("hollow-oak", "pack", ["text=cell rack"], 1280, 800, "light"),
    "cut-offs": ("lantern-lane", "power", ['button:text-is("cut-offs")'], 1280, 800, "light"),
    "box": ("lantern-lane", "box?at=/box/places/part:inverter", [], 1280, 800, "light"),
    "box-3d": ("lantern-lane", "box", ["text=3D", "text=Next out", "text=Next out", "text=Next out"], 1280, 800, "light"),
    "assembly": ("lantern-lane", "assembly?at=/assembly/steps/wire:main-switch", [], 1280, 800, "light"),
    "log": ("lantern-lane", "log", [], 1280, 800, "light"),
    "verification": ("lantern-lane", "checks", [], 1280, 800, "light"),
    "power-path": ("lantern-lane", "power?at=/power/network/main-fuse", [], 1280, 800, "light"),
    "bench-days": ("lantern-lane", "bench", [], 1280, 800, "light"),
    "bench-test": ("lantern-lane", "bench", ["text=test plan"], 1280, 800, "light"),
    "charging": ("hollow-oak", "charging?at=/charging/sources/barn", [], 1280, 800, "light"),
    "dark": ("wobbly-stall", "power?at=/power/network/inverter", [], 1280, 800, "dark"),
    "tablet": ("lantern-lane", "power", [], 768, 1024, "light"),
}


LIVE_STEPS = ["zero", "idle", "load-25", "load-50", "load-75", "load-100", "rest"]
LIVE_MS = 11_000
"""So long after a step begins the picture is taken, by the clock on the wall."""


class Command(BaseCommand):
    help = "Make the pictures in docs/screenshots from the demo builds."

    def handle(self, *args: Any, **options: Any) -> None:
        FOLDER.mkdir(parents=True, exist_ok=True)
        server = Server()
        try:
            with sync_playwright() as playwright:
                browser = launch_chromium(playwright)
                for name, (demo, place, clicks, width, height, theme) in PICTURES.items():
                    page = browser.new_page(viewport={"width": width, "height": height}, color_scheme=theme)
                    page.goto(f"{server.url}/build/{server.original(demo)}/{place}" if demo else server.url)
                    self.take(page, name, clicks)
                    page.close()
                self.live(browser.new_page(viewport={"width": 1280, "height": 800}), server)
                browser.close()
        finally:
            server.stop()

    def live(self, page: Page, server: Server) -> None:
        """A load test of stand-ins with a loose joint, as it runs."""
        design = server.original("lantern-lane")
        run = server.begin_run(design, LIVE_STEPS, seed=4, speed=20, fault="loose")
        page.goto(f"{server.url}/build/{design}/bench")
        page.get_by_role("button", name="live", exact=True).click()
        for step in ("Meters", "Inverter idle"):
            page.locator(".run-next", has_text=step).get_by_role("button", name="Begin this step").click()
        page.locator(".run-head h2", has_text="75% load").wait_for(timeout=120_000)
        page.wait_for_timeout(LIVE_MS)
        page.screenshot(path=FOLDER / "bench-live.png")
        self.stdout.write("docs/screenshots/bench-live.png")
        server.end_run(run)

    def take(self, page: Page, name: str, clicks: list[str]) -> None:
        page.wait_for_load_state("networkidle")
        for target in clicks:
            page.locator(target).first.click()
            page.wait_for_timeout(300)
        page.mouse.move(640, 20)
        page.wait_for_timeout(1200)
        page.screenshot(path=FOLDER / f"{name}.png")
        self.stdout.write(f"docs/screenshots/{name}.png")
