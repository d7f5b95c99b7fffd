"""The assembly over the API: lists out and back in, a drawing for a step, tools for all builds, and the paper of it."""

import csv
import io
import json
from typing import Any
from unittest import mock

from django.test import TransactionTestCase

from kegcart.core.assembly.cutting import labels_of
from kegcart.core.building import build_of
from kegcart.core.reference.hardware import label_sheets
from kegcart.workbench import build_papers, label_papers
from kegcart.workbench.models import LogEntry, StoredDesign
from kegcart.workbench.papers import MM, NothingToPrintError, width_of
from kegcart.workbench.services import DEMOS, load_demos
from tests.core.samples import demo, document, judge, put


class AssemblyApi(TransactionTestCase):
    def setUp(self) -> None:
        load_demos()
        self.ids = {name: StoredDesign.objects.get(demo=name).pk for name in DEMOS}

    def get(self, name: str, path: str = "") -> Any:
        answer = self.client.get(f"/api/designs/{self.ids[name]}{path}")
        self.assertEqual(answer.status_code, 200, answer.content[:200])
        return answer

    def patched(self, name: str, patch: list[dict[str, Any]]) -> Any:
        revision = self.get(name).json()["revision"]
        body = {"base_revision": revision, "patch": patch, "label": "", "merge_key": "", "act": ""}
        answer = self.client.patch(f"/api/designs/{self.ids[name]}", json.dumps(body), content_type="application/json")
        self.assertEqual(answer.status_code, 200, answer.content[:200])
        return answer.json()

    def test_each_demo_says_what_it_is_built_of_and_in_what_order(self) -> None:
        for name in DEMOS:
            data = self.get(name, "/assembly").json()
            self.assertEqual([step["number"] for step in data["steps"]], list(range(1, len(data["steps"]) + 1)))
            pieces = {piece["key"] for piece in data["pieces"]}
            self.assertLessEqual({key for step in data["steps"] for key in step["pieces"]}, pieces)
            self.assertEqual({line["group"] for line in data["lines"]} - {group["key"] for group in data["groups"]}, set())
            rolls = {entry["line"] for entry in data["rolls"]}
            self.assertEqual(rolls, {line["key"] for line in data["lines"] if line["group"] == "wire"})

    def test_a_step_is_drawn_with_just_its_part(self) -> None:
        drawn = {}
        for step in ("wire:main-switch", "fit:part:main-switch", "drill:front:hole-saw", "pack:stack", "dead:short"):
            drawn[step] = self.get("lantern-lane", f"/assembly/drawing?step={step}").json()["drawing"]
        self.assertIsNone(drawn.pop("dead:short"))
        words = {step: [i.get("words", "") for i in drawing["items"]] for step, drawing in drawn.items()}
        self.assertIn("F1+ / S1", words["wire:main-switch"])
        self.assertIn("0.41 m, 25 mm² red", words["wire:main-switch"])
        self.assertTrue(any("switch" in said for said in words["fit:part:main-switch"]))
        self.assertTrue(any("Ø43" in said for said in words["drill:front:hole-saw"]))
        answer = self.client.get(f"/api/designs/{self.ids['lantern-lane']}/assembly/drawing?step=nothing")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("no step of this build", answer.json()["message"])

    def test_the_shopping_list_goes_out_is_filled_in_and_comes_back(self) -> None:
        text = self.get("wobbly-stall", "/shopping.csv").content.decode("utf-8-sig")
        rows = list(csv.DictReader(io.StringIO(text)))
        for row in rows:
            row |= {"there already": "4", "price of one": "38.5"} if row["key"] == "cells" else {}
        out = io.StringIO()
        writer = csv.DictWriter(out, rows[0])
        writer.writeheader()
        writer.writerows(rows)
        at = f"/api/designs/{self.ids['wobbly-stall']}/shopping/read"
        patch = self.client.post(at, json.dumps({"text": out.getvalue()}), content_type="application/json").json()
        self.assertEqual({o["path"]: o["value"] for o in patch}, {"/assembly/owned/cells": 4, "/assembly/prices/cells": 38.5})
        self.patched("wobbly-stall", patch)
        cells = next(line for line in self.get("wobbly-stall", "/assembly").json()["lines"] if line["key"] == "cells")
        self.assertEqual((cells["owned"], cells["buy"]["value"], cells["price"]["value"]), (4, 0, 38.5))
        refused = self.client.post(at, json.dumps({"text": "key;price of one\ncells;cheap"}), content_type="application/json")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("line 2, column 2", refused.content.decode())

    def test_cut_list_and_labels_as_files(self) -> None:
        for path, column, count in (("/cuts.csv", "cut m", 26), ("/wire-labels.csv", "text", 68)):
            rows = list(csv.DictReader(io.StringIO(self.get("lantern-lane", path).content.decode("utf-8-sig"))))
            self.assertEqual(len(rows), count, path)
            self.assertTrue(all(row[column] for row in rows))
        self.patched("lantern-lane", [{"op": "replace", "path": "/brief/units", "value": "us"}])
        header = self.get("lantern-lane", "/cuts.csv").content.decode("utf-8-sig").split("\r\n")[0]
        self.assertIn("cut ft", header)

    def test_a_tool_that_is_there_is_there_for_every_build(self) -> None:
        def put_tool(key: str, owned: Any) -> Any:
            return self.client.put(f"/api/tools/{key}", json.dumps({"owned": owned}), content_type="application/json")

        def owned(name: str) -> set[str]:
            return {tool["key"] for tool in self.get(name, "/assembly").json()["tools"] if tool["owned"]}

        self.assertEqual(put_tool("torque-key", True).json(), {"key": "torque-key", "owned": True})
        self.assertEqual(put_tool("torque-key", True).status_code, 200)
        self.assertEqual([owned(name) for name in DEMOS], [{"torque-key"}] * len(DEMOS))
        self.assertEqual(put_tool("torque-key", False).status_code, 200)
        self.assertEqual(owned("tidewater"), set())
        for key in ("x" * 61, "no%20tool", "a;b"):
            self.assertEqual(put_tool(key, True).status_code, 422, key)

    def test_an_entry_is_taken_off_by_null(self) -> None:
        self.patched("wobbly-stall", [{"op": "add", "path": "/assembly/prices/links", "value": 3}])
        self.patched("wobbly-stall", [{"op": "add", "path": "/assembly/prices/links", "value": None}])
        links = next(line for line in self.get("wobbly-stall", "/assembly").json()["lines"] if line["key"] == "links")
        self.assertIsNone(links["price"])


class Paper(TransactionTestCase):
    """What is printed is the whole of it, within the page, in A4 and letter."""

    def test_every_line_piece_tool_and_step_is_printed_within_the_page(self) -> None:
        for name, paper in (("lantern-lane", "a4"), ("hollow-oak", "letter"), ("tidewater", "letter")):
            found = judge(put(demo(name), "/name", "Ящик Ω with a name that is as long as a name may be, żółć 電源 and so on"))
            built = build_of(found)
            with mock.patch.object(build_papers, "write", wraps=build_papers.write) as written:
                self.assertTrue(build_papers.assembly_pdf(found, paper).startswith(b"%PDF"))  # type: ignore[arg-type]
            said = " ".join(str(call.args[3]) for call in written.call_args_list)
            width, height = (210, 297) if paper == "a4" else (215.9, 279.4)
            for call in written.call_args_list:
                _, x, y, words, size = call.args[:5]
                self.assertTrue(0 < y / build_papers.MM < height, words)
                wide = width_of(words, size) if call.kwargs.get("anchor") != "end" else 0.0
                self.assertLess(x / build_papers.MM + wide, width - 4, words)
            for line in built.shopping.lines:
                self.assertIn(line.what.split()[0], said)
            for step in built.steps:
                self.assertIn(f" {step.number} ", f"{said} ")
            self.assertIn(f"To buy: {built.shopping.total.number:.2f}", said)


class Labels(TransactionTestCase):
    """A label stays within itself on every sheet, with a long name and any letters; the sheet is used from where it was left."""

    def printed(self, sheet: str, first: int, pdf: Any, found: Any) -> list[tuple[float, float, str, float]]:
        """What is written on labels: left edge and foot of the words, mm from the upper left corner of the page; and how wide they are."""
        of = label_sheets()[sheet]
        high = 297.0 if of.paper == "a4" else 279.4
        with mock.patch.object(label_papers, "write", wraps=label_papers.write) as written:
            self.assertTrue(pdf(found, sheet, first).startswith(b"%PDF"))
        calls = [(call.args, call.kwargs.get("bold", False)) for call in written.call_args_list]
        return [(x / MM, high - y / MM, words, width_of(words, size, bold)) for (_, x, y, words, size), bold in calls]

    def test_each_end_of_each_wire_has_a_label_that_stays_within_itself(self) -> None:
        data = demo("lantern-lane")
        for node in data["power"]["network"].values():
            node["name"] = f"{node['name']}, as long as a name may be: Ящик Ω żółć 電"[:60]
        found = judge(data)
        labels = [label for piece in build_of(found).pieces for label in labels_of(piece)]
        self.assertEqual(labels[-2:], ["BAT s8 / BMS", "BMS s8 / BAT"])
        for key, sheet in label_sheets().items():
            words = self.printed(key, 1, label_papers.wire_labels_pdf, found)
            self.assertEqual([said for _, _, said, _ in words[::3]], labels, key)
            for x, foot, said, wide in words:
                column, row = (x - sheet.left_mm) // sheet.pitch_x_mm, (foot - sheet.top_mm) // sheet.pitch_y_mm
                left, top = sheet.left_mm + column * sheet.pitch_x_mm, sheet.top_mm + row * sheet.pitch_y_mm
                self.assertTrue(left < x and x + wide < left + sheet.width_mm, (key, said))
                self.assertTrue(top + 1 < foot < top + sheet.height_mm, (key, said))

    def test_sheets_fit_their_paper(self) -> None:
        for key, s in label_sheets().items():
            width, height = (210, 297) if s.paper == "a4" else (215.9, 279.4)
            self.assertLessEqual(s.left_mm + (s.columns - 1) * s.pitch_x_mm + s.width_mm, width - s.left_mm + 0.2, key)
            self.assertLessEqual(s.top_mm + (s.rows - 1) * s.pitch_y_mm + s.height_mm, height - s.top_mm + 0.6, key)

    def test_a_sheet_is_used_from_where_it_was_left(self) -> None:
        found = judge(demo("tidewater"))
        one, two = (self.printed("a4-48", first, label_papers.wire_labels_pdf, found)[0] for first in (1, 6))
        self.assertAlmostEqual(two[0] - one[0], 48.3, 3)
        self.assertAlmostEqual(two[1] - one[1], 21.2, 3)

    def test_over_the_api(self) -> None:
        load_demos()
        at = f"/api/designs/{StoredDesign.objects.get(demo='hollow-oak').pk}"
        for path in ("wire-labels.pdf", "wire-labels.pdf?sheet=letter-80&first=12", "labels.pdf?sheet=a4-189&first=400"):
            answer = self.client.get(f"{at}/{path}")
            self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "application/pdf"), path)
        for path, said in (("wire-labels.pdf?sheet=round", "plain-a4"), ("wire-labels.pdf?first=0", "1")):
            answer = self.client.get(f"{at}/{path}")
            self.assertEqual(answer.status_code, 422)
            self.assertIn(said, answer.content.decode())
        with self.assertRaisesMessage(NothingToPrintError, "lay out the power path"):
            label_papers.wire_labels_pdf(judge(put(document(), "/pack", demo("tidewater")["pack"])), "plain-a4", 1)


class RecordApi(TransactionTestCase):
    """What is recorded at the bench: stored once, read in any unit, left by undo, not copied."""

    def setUp(self) -> None:
        load_demos()
        self.design = StoredDesign.objects.get(demo="lantern-lane").pk

    def tick(self, act: str, entry: str, design: str = "", **more: Any) -> Any:
        body = {"entry": entry, "act": act, "done": True, **more}
        return self.client.post(f"/api/designs/{design or self.design}/record", json.dumps(body), content_type="application/json")

    def standing(self, design: str = "") -> dict[str, Any]:
        data = self.client.get(f"/api/designs/{design or self.design}/record").json()
        return {step["act"]: step for step in data["steps"]}

    def test_a_step_is_ticked_with_what_was_measured(self) -> None:
        answer = self.tick("wire:main-switch", "e1", values={"drop": "0.0026 V"}, remark="dry and bright").json()
        step = next(s for s in answer["steps"] if s["act"] == "wire:main-switch")
        self.assertEqual((step["state"], step["values"], step["remark"]), ("done", {"drop": 2.6}, "dry and bright"))
        self.assertEqual(answer["figures"]["assembly/done"]["value"], 1)
        self.assertTrue(step["at"])

    def test_what_is_sent_twice_is_stored_once_and_the_last_counts(self) -> None:
        for entry, drop in (("e1", 2.6), ("e1", 3.0), ("e2", 4.0), ("e1", 5.0)):
            self.assertEqual(self.tick("wire:main-switch", entry, values={"drop": drop}).status_code, 200)
        self.assertEqual(LogEntry.objects.count(), 2)
        self.assertEqual(self.standing()["wire:main-switch"]["values"], {"drop": 4.0})

    def test_what_cannot_be_recorded_is_refused_with_the_reason(self) -> None:
        for act, values, said in (
            ("wire:nowhere", {}, "is no step of this build any more"),
            ("wire:main-switch", {"drop": "a lot"}, "From stud to stud at 20 A: 'a lot' is not a number"),
            ("wire:main-switch", {"volts": 1}, "nothing that is measured at this step"),
            ("dry-fit", {"shuts": "yes"}, "needs yes or no"),
        ):
            answer = self.tick(act, "x", values=values)
            self.assertEqual(answer.status_code, 422, act)
            self.assertIn(said, json.dumps(answer.json(), ensure_ascii=False))
        self.assertEqual(LogEntry.objects.count(), 0)

    def test_undo_leaves_it_a_copy_starts_without_and_deleting_for_good_takes_it(self) -> None:
        self.tick("dry-fit", "e1", values={"shuts": True})
        at = f"/api/designs/{self.design}"
        body = {
            "base_revision": 1,
            "patch": [{"op": "replace", "path": "/notes", "value": "x"}],
            "label": "",
            "merge_key": "",
            "act": "",
        }
        self.client.patch(at, json.dumps(body), content_type="application/json")
        undone = self.client.post(f"{at}/undo", json.dumps({"base_revision": 2}), content_type="application/json")
        self.assertEqual(undone.status_code, 200, undone.content[:200])
        self.assertEqual(self.standing()["dry-fit"]["state"], "done")
        copy = self.client.post(f"{at}/copy").json()["id"]
        self.assertEqual(self.standing(copy)["dry-fit"]["state"], "open")

    def test_a_tick_rests_on_the_figures_that_were_seen(self) -> None:
        """Two windows: one changes a wire while the other ticks the old one."""
        seen = self.standing()["wire:main-switch"]["digest"]
        patch = [{"op": "replace", "path": "/power/network/main-switch/run/length_m", "value": 0.6}]
        body = {"base_revision": 1, "patch": patch, "label": "", "merge_key": "", "act": ""}
        self.client.patch(f"/api/designs/{self.design}", json.dumps(body), content_type="application/json")
        self.tick("wire:main-switch", "e1", values={"drop": 4}, digest=seen)
        self.assertEqual(self.standing()["wire:main-switch"]["state"], "again")
        self.tick("wire:main-switch", "e2", values={"drop": 4})
        self.assertEqual(self.standing()["wire:main-switch"]["state"], "done")

    def test_a_failed_check_is_among_the_findings_of_the_record(self) -> None:
        self.tick("wire:charge-fuse", "e1", values={"drop": 105})
        answer = self.tick("wire:main-switch", "e2", values={"drop": 5}).json()
        self.assertEqual([(f["id"], f["severity"]) for f in answer["findings"]], [("assembly.check-failed", "stop")])
        self.assertEqual({c["verdict"] for c in answer["checks"]}, {"fails", "holds"})
