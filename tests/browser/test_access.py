"""Whole at every size, readable by everyone, workable by keyboard alone."""

import re
from typing import Any

from playwright.sync_api import Page, expect

from tests import PROVING
from tests.browser.base import REST_MS, BrowserTest

STATIONS = ("brief", "loads", "pack", "charging", "power", "box", "assembly", "bench", "log")
#: Width, height, theme, and the rules that can come out otherwise there than in the one before.
SIZES: tuple[tuple[int, int, Any, dict[str, Any]], ...] = (
    (1280, 800, "light", {}),
    (768, 1024, "light", {"runOnly": {"type": "rule", "values": ["scrollable-region-focusable", "aria-hidden-focus"]}}),
    (1280, 800, "dark", {"runOnly": {"type": "rule", "values": ["color-contrast"]}}),
)

#: Elements with text that is cut off by their own box, and controls that lie over one another.
CUT_OFF = """() => {
  const shown = [...document.querySelectorAll('main h1, main h2, main button, main th, main dt, main dd, .margin *, .topbar .btn, .rail .name, main .station-lead')];
  return shown.filter(e => e.children.length === 0 && e.offsetParent && e.checkVisibility() && e.tagName !== 'OPTION'
    && (e.scrollWidth > e.clientWidth + 2) && getComputedStyle(e).display !== 'inline').map(e => e.textContent.slice(0, 60));
}"""
#: Choices and fields whose text does not fit their box.
HIDDEN_VALUES = """() => {
  const pen = document.body.appendChild(document.createElement('span'));
  pen.style.cssText = 'position: absolute; visibility: hidden; white-space: pre';
  const width = (text, style) => {
    for (const what of ['fontFamily', 'fontSize', 'fontWeight', 'fontStyle', 'fontVariantNumeric', 'letterSpacing']) pen.style[what] = style[what];
    pen.textContent = text;
    return pen.getBoundingClientRect().width;
  };
  const fields = [...document.querySelectorAll('main select, .margin select, main input:not([type=checkbox]), .margin input:not([type=checkbox])')];
  const hidden = fields.filter(e => e.offsetParent && e.checkVisibility()).flatMap(e => {
    const style = getComputedStyle(e), text = e.tagName === 'SELECT' ? e.selectedOptions[0]?.textContent ?? '' : e.value;
    const arrow = e.tagName === 'SELECT' && style.appearance !== 'none' ? 18 : 0;
    const room = e.clientWidth - parseFloat(style.paddingLeft) - parseFloat(style.paddingRight) - arrow;
    return width(text, style) > room + 1 ? [`${e.ariaLabel ?? e.id}: ${text}`] : [];
  });
  pen.remove();
  return hidden;
}"""
#: Fields for a number with a name or a note of more than one line.
TALL_FIELDS = """() => [...document.querySelectorAll('main .field, .margin .field')]
  .filter(e => e.offsetParent && e.querySelector('input:not([type=checkbox])') && e.getBoundingClientRect().height > 58)
  .map(e => e.textContent)"""
OVERLAPS = """() => {
  const boxes = [...document.querySelectorAll('main button, main input, main select, .topbar button, .topbar input')]
    .filter(e => e.offsetParent && e.checkVisibility() && !e.closest('svg')).map(e => [e, e.getBoundingClientRect()]).filter(([, r]) => r.width && r.height);
  const out = [];
  for (let i = 0; i < boxes.length; i++) for (let j = i + 1; j < boxes.length; j++) {
    const [a, p] = boxes[i], [b, q] = boxes[j];
    if (a.contains(b) || b.contains(a)) continue;
    const w = Math.min(p.right, q.right) - Math.max(p.left, q.left), h = Math.min(p.bottom, q.bottom) - Math.max(p.top, q.top);
    if (w > 3 && h > 3) out.push((a.ariaLabel || a.textContent) + ' | ' + (b.ariaLabel || b.textContent));
  }
  return out;
}"""


class WholeTest(BrowserTest):
    own_server = True
    seen = 0

    def whole(
        self, page: Page, where: str, rules: dict[str, Any] | None = None, theme: str = "light", part: bool = False
    ) -> None:
        """Whole and accessible; in the dark everything stands where it stood, and only what is seen of it is asked."""
        if theme == "dark":
            self.assertEqual(self.axe(page, rules, part), [], where)
            return
        width = page.evaluate("() => [document.documentElement.scrollWidth, innerWidth]")
        self.assertLessEqual(width[0], width[1], f"{where}: the page scrolls sideways")
        self.assertEqual(page.evaluate(CUT_OFF), [], where)
        self.assertEqual(page.evaluate(HIDDEN_VALUES), [], where)
        self.assertEqual(page.evaluate(OVERLAPS), [], where)
        self.assertEqual(self.axe(page, rules, part), [], where)

    def at_every_size(self, page: Page, where: str, part: bool = False) -> None:
        """The view as it stands, wide and light, upright, and in the dark: daily one of them in turn, all when proving."""
        self.seen += 1
        for width, height, theme, rules in SIZES if PROVING else (SIZES[self.seen % len(SIZES)],):
            page.set_viewport_size({"width": width, "height": height})
            page.evaluate("theme => { document.documentElement.dataset.bsTheme = theme; }", theme)
            page.wait_for_timeout(REST_MS)
            self.whole(page, f"{where} at {width} {theme}", rules, theme, part)
        page.set_viewport_size({"width": 1280, "height": 800})
        page.evaluate("() => { document.documentElement.dataset.bsTheme = 'light'; }")

    def test_every_station_is_whole_and_accessible_at_every_size_and_in_the_dark_and_fetches_nothing_from_outside(self) -> None:
        asked: list[str] = []
        self.page.on("request", lambda request: asked.append(request.url))
        design = self.server.demo("lantern-lane")
        for station in STATIONS:
            page = self.open(design, station)
            self.assertEqual(page.evaluate(TALL_FIELDS), [], station)
            self.at_every_size(page, station)
        page = self.open(self.server.demo("wobbly-stall"), "power", at="/power/network/inverter")
        self.assertEqual(page.evaluate(TALL_FIELDS), [])
        self.at_every_size(page, "a selected part")
        self.at_every_size(self.open(self.server.original("tidewater"), "power"), "lengths in feet")
        page.goto(f"{self.server.url}/api/docs")
        page.wait_for_load_state("networkidle")
        self.assertGreater(len(asked), 50)
        self.assertEqual([url for url in asked if not url.startswith((self.server.url, "data:"))], [])

    def test_every_view_of_the_power_path_is_whole_and_accessible(self) -> None:
        self.views("power", "wire table", "cut-offs", "idle", "AC side")

    def test_every_view_of_the_pack_is_whole_and_accessible(self) -> None:
        self.views("pack", "limits", "three that would serve", "cell rack", "the pile", "sort into groups")

    def test_every_view_of_the_box_is_whole_and_accessible(self) -> None:
        self.views("box", "3D", "faces", "heat", "mass", "template")

    def test_every_view_of_the_assembly_is_whole_and_accessible(self) -> None:
        self.views("assembly", "by evening", "shopping", "wire to cut", "tools", "papers", "At the bench")

    def test_every_view_of_the_log_is_whole_and_accessible(self) -> None:
        self.views("log", "visits", "wear", "time line", "+ mend", build="lantern-lane")

    def test_every_view_of_the_bench_is_whole_and_accessible(self) -> None:
        self.views("bench", "with a fault", "test plan", "live", "readings", "drill", "Deal a fault", build="lantern-lane")

    def views(self, station: str, *names: str, build: str = "hollow-oak") -> None:
        page = self.open(self.server.original(build), station)
        for name in names:
            page.get_by_role("button", name=name, exact=True).click()
            self.settle(page)
            self.at_every_size(page, name, part=True)

    def test_dialogs_of_loads_and_rack_are_accessible(self) -> None:
        page = self.open(self.server.original("hollow-oak"), "loads")
        for name in ("Appliances…", "Paste…", "What if…"):
            page.get_by_role("button", name=name).click()
            expect(page.get_by_role("dialog")).to_be_visible()
            self.assertEqual(self.axe(page), [], name)
            page.keyboard.press("Escape")
            expect(page.get_by_role("dialog")).to_have_count(0)
        self.open(self.server.original("hollow-oak"), "pack", page)
        page.get_by_role("button", name="cell rack", exact=True).click()
        page.get_by_role("button", name="Import…").click()
        page.get_by_role("textbox", name="Table of cells").fill("cell;capacity\nZ-1;2300\nZ-2;x\n")
        expect(page.locator(".problem-list")).to_be_visible()
        self.assertEqual(self.axe(page), [])

    def test_shelf_is_whole_and_accessible(self) -> None:
        for width, height, theme, rules in SIZES:
            page = self.new_page(width, height, theme)
            page.goto(self.server.url)
            expect(page.locator(".bay").first).to_be_visible()
            self.assertEqual(self.axe(page, rules), [])
            sizes = page.evaluate("() => [document.documentElement.scrollWidth, innerWidth]")
            self.assertLessEqual(sizes[0], sizes[1])

    def test_working_and_key_list_are_accessible(self) -> None:
        page = self.open(self.server.demo("lantern-lane"), "loads")
        page.locator("main .figure-button").first.click()
        expect(page.locator(".margin .working")).to_be_visible()
        page.keyboard.press("Shift+Slash")
        expect(page.get_by_role("dialog")).to_contain_text("stations, in working order")
        self.assertEqual(self.axe(page), [])


class KeyboardTest(BrowserTest):
    def tab_to(self, name: str, role: str = "button") -> None:
        """Tab until a control of this name has the focus."""
        for _ in range(150):
            self.page.keyboard.press("Tab")
            here = self.page.evaluate(
                "() => { const e = document.activeElement; return (e.ariaLabel || e.textContent || e.name || '').trim() }"
            )
            if re.search(name, here):
                return
        self.fail(f"no way to {role} {name} by Tab")

    def test_loads_are_entered_repeated_and_taken_away_by_keyboard(self) -> None:
        design = self.server.demo("tidewater")
        page = self.open(design, "loads")
        page.keyboard.press("n")
        page.keyboard.type("Anchor light")
        page.keyboard.press("Enter")
        expect(page.locator("[data-row='anchor-light']")).to_be_visible()
        page.get_by_label("Watts of one Tablet").focus()
        page.keyboard.press("Enter")
        page.keyboard.type("4")
        self.wait_stored()
        self.assertEqual(self.stored(design)["loads"]["items"]["anchor-light"]["watts"], 4)
        page.keyboard.press("Control+d")
        expect(page.locator("[data-row='anchor-light-2']")).to_be_visible()
        page.keyboard.press("Control+Backspace")
        expect(page.locator("[data-row]")).to_have_count(5)
        page.locator("body").press("Escape")
        self.wait_stored()
        page.evaluate("() => document.activeElement.blur()")
        page.keyboard.press("Control+z")
        expect(page.locator("[data-row]")).to_have_count(6)
        page.keyboard.press("Control+Shift+z")
        expect(page.locator("[data-row]")).to_have_count(5)

    def test_parts_are_picked_pinned_and_released_by_keyboard(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "power")
        self.tab_to("^Main fuse")
        page.keyboard.press("Enter")
        expect(page.locator(".margin h2").first).to_have_text("Main fuse")
        page.keyboard.press("p")
        expect(page.locator(".margin .chip.pinned").first).to_be_visible()
        self.wait_stored()
        self.assertEqual(self.stored(design)["power"]["network"]["main-fuse"]["rating_a"], 150)
        page.keyboard.press("p")
        expect(page.locator(".margin .chip.pinned")).to_have_count(0)
        self.wait_stored()
        self.assertIsNone(self.stored(design)["power"]["network"]["main-fuse"]["rating_a"])

    def test_circuits_are_added_and_taken_out_by_keyboard(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "power")
        page.keyboard.press("n")
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name="Add a USB outlet")).to_be_visible()
        page.get_by_role("button", name="Add a USB outlet").focus()
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name="USB outlet").first).to_be_visible()
        expect(page.locator(".margin h2").first).to_have_text("USB outlet")
        page.keyboard.press("m")
        self.tab_to("^Take out$")
        page.keyboard.press("Enter")
        expect(page.locator(".notice")).to_contain_text("Taken out")
        self.wait_stored()
        self.assertNotIn("usb-outlet", self.stored(design)["power"]["network"])

    def test_findings_are_walked_and_mended_by_keyboard(self) -> None:
        design = self.server.demo("wobbly-stall")
        page = self.open(design, "loads")
        before = self.server.get(f"/api/designs/{design}")["assessment"]["verdict"]["stop"]
        page.keyboard.press("j")
        page.keyboard.press("j")
        expect(page.locator(".finding[aria-current]")).to_be_visible()
        page.keyboard.press("a")
        expect(page.locator(".notice")).to_contain_text("Done")
        self.wait_stored()
        self.assertLess(self.server.get(f"/api/designs/{design}")["assessment"]["verdict"]["stop"], before)

    def test_search_help_and_stations_by_keyboard(self) -> None:
        page = self.open(self.server.demo("lantern-lane"), "loads")
        page.keyboard.press("/")
        page.keyboard.type("converter 12")
        page.keyboard.press("Enter")
        expect(page.locator("main h1")).to_have_text("Power path")
        expect(page.locator(".margin h2").first).to_have_text("Converter 12 V")
        for key, title in (("1", "Brief"), ("3", "Pack"), ("4", "Charging"), ("6", "Box"), ("7", "Assembly"), ("8", "Bench")):
            page.keyboard.press(key)
            expect(page.locator("main h1")).to_have_text(title)

    def test_the_bench_is_read_by_keyboard(self) -> None:
        page = self.open(self.server.demo("lantern-lane"), "bench")
        slider = page.get_by_label("Moment shown")
        slider.focus()
        before = page.locator(".chart-head strong").first.inner_text()
        for _ in range(2):
            page.keyboard.press("PageUp")
        expect(page.locator(".chart-head strong").first).not_to_have_text(before)
        page.get_by_role("button", name="day 2").press("Enter")
        expect(page.get_by_role("button", name="day 2")).to_have_attribute("aria-pressed", "true")

    def test_a_build_is_renamed_and_the_theme_changed_by_keyboard(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        page.get_by_label("Name of the build").fill("Theatre, second cart")
        page.keyboard.press("Enter")
        self.wait_stored()
        self.assertEqual(self.stored(design)["name"], "Theatre, second cart")
        page.get_by_role("button", name="dark theme").press("Enter")
        expect(page.locator("html")).to_have_attribute("data-bs-theme", "dark")
