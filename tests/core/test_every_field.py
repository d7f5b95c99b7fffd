"""Every field of the design, one by one: what may stand in it, what is refused and where, and that a file keeps it.

The fields are found in the demo builds as they are stored, so that a new field is tested as soon as a build has it.
"""

import json
import math
from collections.abc import Iterator
from typing import Any
from unittest import TestCase

from kegcart.core.design import DesignError, patched, read_design, read_json, write_design
from kegcart.core.units import SCALES
from tests import PROVING
from tests.core.samples import DEMO_NAMES, demo, put, two_banks

NO_NUMBERS = ("plenty", "", "1.2.3", float("nan"), float("inf"), -float("inf"), 1e300, -1e300, True, [], {}, [1])
#: Whole numbers that count something; a half of one is refused.
COUNTS = (
    "count",
    "series",
    "parallel",
    "ways",
    "bundled",
    "days",
    "shelf_days",
    "in_series",
    "holder",
    "layers",
    "studs",
    "poles",
)


def leaves(data: Any, at: str = "") -> Iterator[tuple[str, Any]]:
    """Every pointer that ends at a value, with the value."""
    if isinstance(data, dict):
        for key, value in data.items():
            yield from leaves(value, f"{at}/{key}")
    elif isinstance(data, list):
        for n, value in enumerate(data):
            yield from leaves(value, f"{at}/{n}")
    else:
        yield at, data


def builds() -> dict[str, dict[str, Any]]:
    """Designs that between them have most fields: the demo builds, one cell of each group, and one with two banks."""
    out = {name: demo(name) for name in DEMO_NAMES}
    for group in out["hollow-oak"]["pack"]["groups"].values():
        group["cells"] = group["cells"][:1]
    return {**out, "two banks": write_design(read_design(two_banks()))}


def numbers() -> Iterator[tuple[str, dict[str, Any], str, float]]:
    for name, data in builds().items():
        for pointer, value in leaves(data):
            if isinstance(value, int | float) and not isinstance(value, bool) and pointer != "/version":
                yield name, data, pointer, value


class Numbers(TestCase):
    def refused(self, data: dict[str, Any], pointer: str, value: Any) -> list[tuple[str, str]]:
        with self.assertRaises(DesignError, msg=f"{pointer} takes {value!r}") as caught:
            read_design(put(data, pointer, value))
        return caught.exception.problems

    def test_what_is_no_number_is_refused_at_its_place_with_a_sentence(self) -> None:
        """Daily a quarter of them at each field, in turn."""
        seen = set()
        for _, data, pointer, _ in numbers():
            if pointer in seen:
                continue
            seen.add(pointer)
            for value in NO_NUMBERS if PROVING else NO_NUMBERS[len(seen) % 4 :: 4]:
                problems = self.refused(data, pointer, value)
                places = [at for at, _ in problems]
                self.assertTrue(any(at == pointer or pointer.startswith(at + "/") for at in places), f"{pointer}: {places}")
                self.assertTrue(all(text and text[0] == text[0].lower() for _, text in problems), problems)
        self.assertGreater(len(seen), 150)

    def test_what_is_refused_is_said_at_its_own_field_in_every_form_of_pack_and_part(self) -> None:
        for name, pointer in (
            ("tidewater", "/pack/depth"),
            ("tidewater", "/pack/age_factor"),
            ("tidewater", "/pack/battery/capacity_ah"),
            ("lantern-lane", "/pack/depth"),
            ("lantern-lane", "/pack/board/continuous_a"),
            ("lantern-lane", "/power/network/inverter/rating_w"),
            ("lantern-lane", "/power/network/main-fuse/rating_a"),
            ("lantern-lane", "/power/network/main-fuse/run/length_m"),
            ("lantern-lane", "/loads/items/cooler/cycle/on_min"),
        ):
            self.assertEqual([at for at, _ in self.refused(demo(name), pointer, "plenty")], [pointer])

    def test_a_number_typed_as_text_is_the_same_number(self) -> None:
        checked = 0
        for name, data, pointer, value in numbers():
            if pointer.endswith(("insulation_c", "terminal_c", "/turn")):
                continue  # chosen from a list
            typed = f"{value!r}"
            after = write_design(read_design(put(data, pointer, typed)))
            self.assertEqual(after, data, f"{name}: {pointer} typed as {typed!r}")
            comma = write_design(read_design(put(data, pointer, typed.replace(".", ","))))
            self.assertEqual(comma, data, f"{name}: {pointer} with a decimal comma")
            checked += 1
        self.assertGreater(checked, 200)

    def test_what_is_counted_is_a_whole_number(self) -> None:
        for _, data, pointer, value in numbers():
            if pointer.rsplit("/", 1)[1] in COUNTS and "/groups/" not in pointer:
                problems = self.refused(data, pointer, value + 0.5)
                self.assertIn("whole number", problems[0][1], pointer)

    def test_a_unit_that_does_not_belong_there_is_refused(self) -> None:
        for name, pointer, typed in (
            ("lantern-lane", "/loads/items/mixer/watts", "24 V"),
            ("lantern-lane", "/power/network/inverter/run/length_m", "2 kg"),
            ("lantern-lane", "/pack/cell/capacity_ah", "230 W"),
            ("lantern-lane", "/pack/cell/resistance_mohm", "0.2 A"),
            ("tidewater", "/pack/battery/mass_kg", "7 m"),
            ("lantern-lane", "/brief/hours_away", "14 A"),
            ("lantern-lane", "/loads/items/cooler/cycle/on_min", "8 W"),
        ):
            problems = self.refused(demo(name), pointer, typed)
            self.assertIn("not a unit for this figure", problems[0][1], pointer)
            self.assertIn("known:", problems[0][1])

    def test_each_unit_is_read_in_every_spelling_it_lists(self) -> None:
        base = demo("lantern-lane")
        for pointer, unit, whole in (
            ("/loads/items/mixer/watts", "W", 100),
            ("/power/network/inverter/run/length_m", "m", 0.5),
            ("/pack/cell/capacity_ah", "Ah", 200),
            ("/pack/cell/mass_kg", "kg", 3.0),
            ("/brief/hours_away", "h", 12),
        ):
            for suffix, scale in SCALES[unit].items():
                after = read_design(put(base, pointer, f"{whole / scale:.12g} {suffix}"))
                here: Any = write_design(after)
                for step in pointer.split("/")[1:]:
                    here = here[step]
                self.assertAlmostEqual(here, whole, places=6, msg=f"{pointer} in {suffix}")


FREE = ("/format", "/name", "/notes", "/brief/purpose", "/brief/currency", "/assembly/kept_at")
"""Where any text may stand."""


class Words(TestCase):
    def test_a_choice_takes_only_what_it_lists(self) -> None:
        """Fields with a fixed set of words: anything else is refused with the list."""
        checked = 0
        for data in builds().values():
            for pointer, value in leaves(data):
                if not isinstance(value, str) or pointer in FREE:
                    continue
                if pointer.rsplit("/", 1)[1] in ("name", "label", "feed", "other", "outlet", "gauge", "reject", "colour"):
                    continue
                with self.assertRaises(DesignError, msg=pointer):
                    read_design(put(data, pointer, "something else"))
                checked += 1
        self.assertGreater(checked, 60)

    def test_names_may_be_of_any_script_and_are_kept_as_they_are(self) -> None:
        for name in ("Große Bühne №1", "Фонарь", "灯", "a" * 80, "<b>&amp;</b>", "Lamp; drop table", "‘quoted’ “name”"):
            data = put(put(demo("tidewater"), "/name", name), "/loads/items/floodlight/name", name)
            after = write_design(read_design(json.loads(json.dumps(data))))
            self.assertEqual((after["name"], after["loads"]["items"]["floodlight"]["name"]), (name, name))

    def test_ids_are_lower_case_words(self) -> None:
        lamp = demo("tidewater")["loads"]["items"]["floodlight"]
        for key, fits in (
            ("lamp-2", True),
            ("l", True),
            ("Lamp", False),
            ("2-lamps", False),
            ("lamp two", False),
            ("l" * 41, False),
            ("", False),
        ):
            data = put(demo("tidewater"), f"/loads/items/{key}", lamp)
            if fits:
                self.assertIn(key, write_design(read_design(data))["loads"]["items"])
            else:
                with self.assertRaises(DesignError, msg=key):
                    read_design(data)


class Files(TestCase):
    def test_a_file_written_and_read_is_the_same_design(self) -> None:
        for name, data in builds().items():
            again = write_design(read_design(read_json(json.dumps(data, ensure_ascii=False, indent=1))))
            self.assertEqual(again, data, name)

    def test_every_field_can_be_left_out_but_the_few_that_make_it_a_design(self) -> None:
        """A short file is a design: what is left out stands at its beginning."""
        for name, data in builds().items():
            for part in ("notes", "brief", "bench"):
                shorter = {key: value for key, value in data.items() if key != part}
                read_design(shorter)
            for needed in ("format", "version", "name"):
                shorter = {key: value for key, value in data.items() if key != needed}
                with self.assertRaises(DesignError, msg=f"{name} without {needed}"):
                    read_design(shorter)

    def test_a_field_that_is_not_known_is_refused_wherever_it_stands(self) -> None:
        for data in builds().values():
            places = {pointer.rsplit("/", 1)[0] for pointer, _ in leaves(data)}
            for place in sorted(places):
                if place in ("/assembly/owned", "/assembly/prices"):
                    continue  # they are lists by line, and one of a line that is gone waits for it
                if not place or place.endswith("/held") or (place.rsplit("/", 1)[1].isdigit() and "/points/" in place):
                    continue
                with self.assertRaises(DesignError, msg=place) as caught:
                    read_design(put(data, f"{place}/surprise", 1))
                self.assertTrue(any("surprise" in at for at, _ in caught.exception.problems), place)

    def test_each_value_can_be_set_by_a_patch_to_what_it_is(self) -> None:
        """A patch that changes nothing is taken, and changes nothing."""
        for name, data in builds().items():
            for pointer, value in list(leaves(data))[::7]:
                if isinstance(value, float) and not math.isfinite(value):
                    continue
                after = patched(data, [{"op": "replace", "path": pointer, "value": value}])
                self.assertEqual(write_design(after), data, f"{name}: {pointer}")
