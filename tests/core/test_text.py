"""Hostile and broken text is refused at once, with its place and the reason."""

import json
import random
from typing import Any
from unittest import TestCase

from kegcart.core.design import DesignError, patched, read_design, read_json
from kegcart.core.loads.table import read_loads
from kegcart.core.pack.rack import Measured, read_cells
from kegcart.core.table import MAX_COLUMNS, MOST_PROBLEMS, TableError, guarded, split, unguarded, write_csv
from kegcart.core.text import DEEPEST, printable
from kegcart.core.units import read_quantity
from tests.core.samples import demo


def refusal(read: Any, *given: Any) -> str:
    """Why something was refused. Without its bounds some of what is tried here would not end within minutes."""
    try:
        read(*given)
    except (DesignError, TableError, ValueError) as error:
        return str(error)
    raise AssertionError("it was taken")


class Json(TestCase):
    def test_a_key_that_stands_twice_is_named_with_its_place(self) -> None:
        text = '{"format": "kegcart/design",\n "name": "a", "brief": {"notes": {}},\n "name": "b"}'
        self.assertIn("the key 'name' stands twice in one object, again at line 3, column 2", refusal(read_json, text))
        self.assertEqual(read_json('{"a": {"b": 1}, "b": [{"b": 2}, {"b": 3}], "c": "a: {\\"b\\": 1}"}')["b"][1], {"b": 3})
        self.assertIn("'a\"b' stands twice", refusal(read_json, '[{"a\\"b": 1, "a\\u0022b": 2}]'))

    def test_nesting_beyond_what_a_design_has_is_refused(self) -> None:
        for levels in (DEEPEST + 1, 900, 200_000):
            for left, right in ("[]", ('{"a":', "}")):
                text = left * levels + ("1" if right == "}" else "") + right * levels
                self.assertIn(f"nested more than {DEEPEST} levels", refusal(read_json, text))
        read_json("[" * DEEPEST + "]" * DEEPEST)

    def test_half_a_character_is_refused_and_a_whole_pair_is_not(self) -> None:
        self.assertIn("half a character, at line 2, column 2", refusal(read_json, '[\n"\\ud83d"]'))
        self.assertIn("half a character", refusal(read_json, '["a\\udc00b"]'))
        self.assertIn("half a character", refusal(read_json, '{"a\\ud800": 1}'))
        self.assertEqual(read_json('["\\ud83d\\ude00", "\\\\ud83d"]'), ["\U0001f600", "\\ud83d"])

    def test_numbers_that_are_none_are_refused(self) -> None:
        self.assertIn("too large", refusal(read_json, "[" + "9" * 5000 + "]"))
        self.assertIn("NaN is not a number", refusal(read_json, "[NaN]"))


class Characters(TestCase):
    def test_what_cannot_be_printed_is_named_with_its_place(self) -> None:
        for character in "\x00\x07\x1b\x7f\x85\ufffe":
            for pointer in ("/name", "/notes", "/loads/items/projector/name", "/power/network/inverter/name"):
                patch = [{"op": "replace", "path": pointer, "value": f"ab{character}c"}]
                said = refusal(patched, demo("lantern-lane"), patch)
                self.assertIn(f"{pointer}: the character U+{ord(character):04X} at place 3 cannot be printed", said)

    def test_names_are_of_one_line_and_remarks_keep_theirs(self) -> None:
        patch = [{"op": "replace", "path": path, "value": "a\tb\r\nc"} for path in ("/name", "/notes")]
        design = patched(demo("lantern-lane"), patch)
        self.assertEqual((design.name, design.notes), ("a b c", "a\tb\nc"))

    def test_other_scripts_and_signs_stay(self) -> None:
        for name in ("Ελλάδα", "Кузня", "蓄電池", 'Lampe {2} <&> "x" 😀', "a\u200db"):
            self.assertEqual(patched(demo("tidewater"), [{"op": "replace", "path": "/name", "value": name}]).name, name)
        self.assertEqual(printable("a\x00b"), "a\ufffdb")


class Patches(TestCase):
    def test_a_patch_that_doubles_the_design_is_refused_at_the_operation(self) -> None:
        document = demo("lantern-lane")
        doubling = [{"op": "copy", "from": "", "path": f"/loads/items/x{n}"} for n in range(15)]
        self.assertIn("larger than 1000 kB", refusal(patched, document, doubling))
        large = [{"op": "add", "path": f"/loads/x{n}", "value": "y" * 300_000} for n in range(4)]
        self.assertIn("/loads/x3: with this the design would be larger", refusal(patched, document, large))

    def test_a_document_of_nothing_but_mistakes_is_told_in_bounds(self) -> None:
        patch = [{"op": "replace", "path": "/loads/items", "value": {f"l{n}": {"x": n} for n in range(40_000)}}]
        with self.assertRaises(DesignError) as caught:
            patched(demo("lantern-lane"), patch)
        self.assertLessEqual(len(caught.exception.problems), 100)


class Tables(TestCase):
    def cells(self, text: str) -> Any:
        found = read_cells(text, Measured())
        if found.problems:
            raise TableError(found.problems)
        return found.cells

    def test_columns_are_bounded(self) -> None:
        for count in (MAX_COLUMNS + 1, 10_000, 440_000):
            said = refusal(self.cells, "label;capacity\n" + ";".join("1" * count))
            self.assertIn(f"line 2, column {MAX_COLUMNS + 1}: a table may have {MAX_COLUMNS} columns at most", said)

    def test_rows_of_nothing_but_mistakes_are_told_in_bounds(self) -> None:
        text = "label;capacity mAh\n" + "".join(f"A{n};many\n" for n in range(19_000))
        self.assertEqual(len(read_cells(text, Measured()).problems), MOST_PROBLEMS)
        loads = "name;watts\n" + "".join(f"A{n};many\n" for n in range(115))
        self.assertEqual(len(read_loads(loads).problems), MOST_PROBLEMS)
        self.assertIn("line 122, column 1: a design holds 120 loads at most", str(read_loads(loads * 10).problems[0]))

    def test_a_quotation_mark_that_swallows_rows_is_named_with_its_line(self) -> None:
        rows = "label;capacity mAh;remarks\n" + "".join(f"A{n};2300;good\n" for n in range(5))
        never = rows + 'B1;2300;"3 inch\n' + "".join(f"C{n};2300;good\n" for n in range(500))
        self.assertIn("line 7, column 3: a quotation mark is opened here that is never closed", refusal(self.cells, never))
        later = rows + 'B1;2300;"3 inch\nC1;2300;x\nC2;2300;4"\nC3;2300;x\n'
        self.assertIn(
            "line 7, column 3: a quotation mark is opened here that is closed in line 9 only", refusal(self.cells, later)
        )
        text = rows + 'B1;2300;"two\nlines"\nB2;2300;"a ""b"""\n'
        self.assertEqual([row[2] for _, row in split(text)[-2:]], ["two\nlines", 'a "b"'])

    def test_figures_are_bounded(self) -> None:
        for digits in ("1" * 500_000, "1" * 500_000 + "\n", "1," * 200_000):
            self.assertIn("too long", refusal(read_quantity, digits, "W"))
        said = refusal(self.cells, "label;capacity\nA1;" + "1" * 100_000 + "x")
        self.assertIn("line 2, column 2: capacity: '11111111111111111111…' is too long for a number", said)

    def test_control_characters_are_named_with_their_line(self) -> None:
        self.assertIn("line 2, column 2: the character U+0007", refusal(self.cells, "label;capacity\nA\x071;2\n"))


class Formulas(TestCase):
    """What goes out runs in no spreadsheet, and comes back as it was."""

    def test_text_that_a_spreadsheet_would_run_is_guarded_and_numbers_are_not(self) -> None:
        for text in ("=1+1", "+1+1", "-1+1", "@SUM(A1)", "\t=1", "=cmd|' /C calc'!A0", "'quoted", "-inf", "+1_0"):
            self.assertEqual(guarded(text), f"'{text}")
            self.assertEqual(unguarded(f"'{text}"), text)
        for number in (-1.5, 3, "-1.5", "+2", "-2.5E3", None, "", "a=b", "1-2"):
            self.assertEqual(guarded(number), number)
        for text in ("'", "'a", "a'", ""):
            self.assertEqual(unguarded(text), text)

    def test_any_text_comes_back_as_it_went(self) -> None:
        chance = random.Random(5)
        alphabet = "=+-@'\"\t,;|a1 \n"
        for _ in range(500):
            texts = ["".join(chance.choice(alphabet) for _ in range(chance.randint(0, 6))).strip(" \n") for _ in range(3)]
            text = write_csv(["label", "remarks", "source"], [[f"A{chance.random()}", *texts[:2]], ["B", texts[2], "x"]])
            try:
                rows = split(text)
            except TableError:  # rows of separators inside quotation marks are not told from rows
                continue
            if len(rows[0][1]) == 3:
                self.assertEqual(rows[1][1][1:], [t if guarded(t) != t else t.strip() for t in texts[:2]])

    def test_json_of_the_demo_builds_reads_as_before(self) -> None:
        for name in ("lantern-lane", "hollow-oak", "tidewater", "wobbly-stall"):
            data = demo(name)
            self.assertEqual(read_json(json.dumps(data)), data)
            read_design(data)
