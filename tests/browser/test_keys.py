"""Keys by the character typed, on any layout, and silent while anything is edited; Enter goes down, Escape leaves a field."""

from typing import Any

from playwright.sync_api import Page, expect

from tests import PROVING
from tests.browser.base import BrowserTest

#: Where a layout has the characters of the shortcuts: character -> (key of the keyboard, with Shift, with AltGr).
LAYOUTS: dict[str, dict[str, tuple[str, bool, bool]]] = {
    "US": {"/": ("Slash", False, False), "?": ("Slash", True, False), "z": ("KeyZ", False, False), "y": ("KeyY", False, False)},
    "UK": {"/": ("Slash", False, False), "?": ("Slash", True, False), "z": ("KeyZ", False, False), "y": ("KeyY", False, False)},
    "German": {"/": ("Digit7", True, False), "?": ("Minus", True, False), "z": ("KeyY", False, False), "y": ("KeyZ", False, False)},
    "French": {
        "/": ("Period", True, False), "?": ("KeyM", True, False), "z": ("KeyW", False, False), "y": ("KeyY", False, False),
        "a": ("KeyQ", False, False), "m": ("Semicolon", False, False), **{d: (f"Digit{d}", True, False) for d in "12345"},
    },
    "Spanish": {"/": ("Digit7", True, False), "?": ("Minus", True, False), "z": ("KeyZ", False, False), "y": ("KeyY", False, False)},
    "Czech": {
        "/": ("BracketLeft", True, False), "?": ("Comma", True, False), "z": ("KeyY", False, False), "y": ("KeyZ", False, False),
        **{d: (f"Digit{d}", True, False) for d in "12345"},
    },
}  # fmt: skip
TYPED = """([key, code, shift, altgr, ctrl]) => {
  const target = document.activeElement ?? document.body;
  const event = new KeyboardEvent('keydown', {key, code, shiftKey: shift, ctrlKey: ctrl || altgr, altKey: altgr,
    modifierAltGraph: altgr, bubbles: true, cancelable: true});
  target.dispatchEvent(event);
}"""


class KeysTest(BrowserTest):
    def type_on(self, page: Page, layout: str, character: str, ctrl: bool = False, shift: bool = False) -> None:
        """A character typed where that layout has it."""
        usual = (f"Key{character.upper()}" if character.isalpha() else f"Digit{character}", False, False)
        code, with_shift, altgr = LAYOUTS[layout].get(character, usual)
        key = character.upper() if shift else character
        page.evaluate(TYPED, [key, code, with_shift or shift, altgr, ctrl])

    def test_every_shortcut_on_six_layouts(self) -> None:
        design = self.server.demo("wobbly-stall")
        page = self.open(design, "loads")
        for layout in list(LAYOUTS)[:: 1 if PROVING else 2]:
            with self.subTest(layout):
                for digit, title in (("1", "Brief"), ("5", "Power path"), ("9", "Log"), ("2", "Loads")):
                    self.type_on(page, layout, digit)
                    expect(page.locator("main h1")).to_have_text(title)
                self.type_on(page, layout, "/")
                expect(page.get_by_label("Search parts, loads and findings")).to_be_focused()
                page.keyboard.press("Escape")
                expect(page.locator(".modal")).to_have_count(0)
                self.type_on(page, layout, "?")
                expect(page.get_by_role("dialog")).to_contain_text("Keys")
                page.keyboard.press("Escape")
                expect(page.locator(".modal")).to_have_count(0)
                self.type_on(page, layout, "j")
                expect(page.locator(".finding[aria-current]")).to_be_visible()
                self.type_on(page, layout, "k")
                self.type_on(page, layout, "2")
                self.settle(page)  # the finding before it may have been at another station
                expect(page.locator("main h1")).to_have_text("Loads")
                self.type_on(page, layout, "n")
                expect(page.locator("[data-new]").first).to_be_focused()
                page.keyboard.press("Escape")
                self.type_on(page, layout, "m")
                expect(page.locator(".margin")).to_be_focused()

    def test_undo_and_redo_go_by_the_character(self) -> None:
        for layout in ("US", "German", "French"):
            with self.subTest(layout):
                design = self.server.demo("tidewater")
                before = self.stored(design)["brief"]["carriage"]
                page = self.open(design, "brief")
                page.get_by_role("combobox", name="Carried by").select_option("rolling")
                self.wait_stored()
                page.locator("main h1").click()
                self.type_on(page, layout, "z", ctrl=True)
                expect(page.locator(".notice")).to_contain_text("Taken back")
                self.wait_stored()
                self.assertEqual(self.stored(design)["brief"]["carriage"], before)
                self.type_on(page, layout, "z", ctrl=True, shift=True)
                expect(page.locator(".notice")).to_contain_text("Done again")
                self.type_on(page, layout, "z", ctrl=True)
                expect(page.locator(".notice")).to_contain_text("Taken back")
                self.type_on(page, layout, "y", ctrl=True)
                self.wait_stored()
                self.assertEqual(self.stored(design)["brief"]["carriage"], "rolling")

    def test_a_letter_of_another_script_goes_by_its_key(self) -> None:
        page = self.open(self.server.demo("wobbly-stall"), "loads")
        page.evaluate(TYPED, ["о", "KeyJ", False, False, False])
        expect(page.locator(".finding[aria-current]")).to_be_visible()

    def test_what_is_typed_after_a_field_is_gone_changes_no_station(self) -> None:
        page = self.open(self.server.demo("lantern-lane"), "loads")
        field = page.get_by_label("Watts of one Fog machine")
        field.focus()
        page.keyboard.type("40")
        field.evaluate("e => e.blur()")
        for digit in "135":
            page.keyboard.press(digit)
        expect(page.locator("main h1")).to_have_text("Loads")
        page.keyboard.press("Escape")
        page.keyboard.press("3")
        expect(page.locator("main h1")).to_have_text("Pack")

    def test_escape_leaves_every_field(self) -> None:
        design = self.server.demo("lantern-lane")
        fields: tuple[tuple[str, str, Any], ...] = (
            ("loads", "", "Watts of one Mixer"),
            ("loads", "", "Hours of Mixer"),
            ("brief", "", "Purpose: what must run, where there is no socket"),
            ("power", "/power/network/inverter", "Name"),
            ("brief", "", "Name of the build"),
        )
        for station, at, label in fields:
            page = self.open(design, station, at=at)
            field = page.get_by_role("textbox", name=label).first
            field.focus()
            page.keyboard.press("Escape")
            expect(field).not_to_be_focused()
            page.keyboard.press("2")
            expect(page.locator("main h1")).to_have_text("Loads")

    def test_enter_goes_down_in_loads_wires_and_strings(self) -> None:
        design = self.server.demo("lantern-lane")
        page = self.open(design, "loads")
        page.get_by_label("Watts of one Projector").focus()
        page.keyboard.press("Enter")
        expect(page.get_by_label("Watts of one Fog machine")).to_be_focused()
        page.keyboard.press("Shift+Enter")
        expect(page.get_by_label("Watts of one Projector")).to_be_focused()
        page = self.open(design, "power")
        page.get_by_label("Length of the run to Main fuse").focus()
        page.keyboard.press("Enter")
        expect(page.get_by_label("Length of the run to Charge fuse")).to_be_focused()
        pack = {"form": "modules", "chemistry": "nmc", "battery": {"series": 7, "capacity_ah": 28}, "parallel": 3}
        self.server.put(design, "/pack", pack)
        page = self.open(design, "pack")
        page.get_by_label("Resting voltage, string 1, unit 1").fill("25.9")
        for string in (2, 3, 3):
            page.keyboard.press("Enter")
            expect(page.get_by_label(f"Resting voltage, string {string}, unit 1")).to_be_focused()
        self.settle()
        self.wait_stored()
        self.assertEqual(self.stored(design)["pack"]["strings"]["s1"]["units"]["u1"]["resting_v"], 25.9)
        self.assertEqual(page.evaluate("getComputedStyle(document.querySelector('main.station')).outlineStyle"), "none")
