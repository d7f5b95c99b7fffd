"""The rack over the API: nothing half imported, a cell in one build at a time, sorting that can be watched and stopped."""

import json
import time
from typing import Any

from django.test import TransactionTestCase

from kegcart.workbench.models import RackCell, StoredDesign
from kegcart.workbench.services import load_demos


class RackTest(TransactionTestCase):
    def setUp(self) -> None:
        load_demos()
        self.oak = StoredDesign.objects.get(demo="hollow-oak")

    def send(self, method: str, path: str, body: Any = None) -> Any:
        return self.client.generic(
            method, f"/api{path}", json.dumps(body) if body is not None else "", content_type="application/json"
        )

    def rack(self) -> list[dict[str, Any]]:
        return list(self.client.get("/api/rack").json()["cells"])

    def text(self, count: int, bad: int | None = None) -> str:
        rows = [f"N-{n};{2300 + n % 97};{44 + n % 7};4,1" for n in range(count)]
        if bad is not None:
            rows[bad] = f"N-{bad};oops;44;4,1"
        return "cell;capacity mAh;resistance mΩ;voltage V\n" + "\n".join(rows)

    def test_the_demo_rack_is_there_with_its_rejects_and_its_build(self) -> None:
        cells = self.rack()
        self.assertEqual(len(cells), 320)
        self.assertEqual(sum(bool(c["build"]) for c in cells), 280)
        self.assertTrue(20 <= sum(bool(c["reasons"]) for c in cells) <= 40)
        self.assertFalse([c for c in cells if c["build"] and c["reasons"]])

    def test_labels_and_remarks_that_look_like_formulas_go_out_guarded_and_come_back_as_they_were(self) -> None:
        odd = ["=1+1", "-A7", "+B", "@home", "'quoted", "a;b,c", "-12"]
        cells = [{"label": text, "capacity_ah": 2.3, "remarks": f"{text} seen", "source": text} for text in odd]
        self.assertEqual(self.send("POST", "/rack/cells", {"cells": cells}).status_code, 201)
        exported = self.client.get("/api/rack/file.csv").content.decode("utf-8-sig")
        for text in odd[:5]:
            self.assertIn(f"'{text}", exported)
        self.assertNotIn("'-12,", exported)
        before = {c["label"]: c for c in self.rack()}
        RackCell.objects.all().delete()
        self.assertEqual(self.send("POST", "/rack/import", {"text": exported}).status_code, 201)
        after = {c["label"]: c for c in self.rack()}
        self.assertEqual({k: v | {"id": 0} for k, v in after.items()}, {k: v | {"id": 0} for k, v in before.items()})

    def test_limits_can_be_moved_and_their_effect_seen(self) -> None:
        strict = self.client.get("/api/rack?capacity_share=0.9").json()
        self.assertGreater(sum(bool(c["reasons"]) for c in strict["cells"]), 100)
        self.assertEqual(strict["limits"]["capacity_share"], 0.9)

    def test_five_thousand_cells_are_imported_in_one_go(self) -> None:
        answer = self.send("POST", "/rack/import", {"text": self.text(5000)})
        self.assertEqual((answer.status_code, answer.json()["added"]), (201, 5000))
        self.assertEqual(RackCell.objects.count(), 5320)
        self.assertEqual(RackCell.objects.get(label="N-96").capacity_ah, 2.396)

    def test_one_bad_line_imports_nothing_and_is_named(self) -> None:
        answer = self.send("POST", "/rack/import", {"text": self.text(500, bad=321)})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("line 323, column 2", answer.json()["problems"][0]["message"].lower())
        self.assertEqual(RackCell.objects.count(), 320)

    def test_reading_shows_columns_and_stores_nothing(self) -> None:
        table = self.send("POST", "/rack/read", {"text": self.text(5)}).json()
        self.assertEqual([c["field"] for c in table["columns"]], ["label", "capacity_ah", "resistance_mohm", "resting_v"])
        self.assertEqual((table["count"], table["first"][0]["capacity_ah"]), (5, 2.3))
        self.assertEqual(RackCell.objects.count(), 320)

    def test_the_exported_rack_reads_back_as_it_was(self) -> None:
        exported = self.client.get("/api/rack/file.csv").content.decode("utf-8-sig")
        before = list(RackCell.objects.values(*RackCell.FIELDS))
        StoredDesign.objects.all().update(head=None)
        RackCell.objects.all().delete()
        answer = self.send("POST", "/rack/import", {"text": exported})
        self.assertEqual(answer.status_code, 201, answer.content[:300])
        self.assertEqual(list(RackCell.objects.values(*RackCell.FIELDS)), before)

    def test_typed_cells_get_the_next_label_and_twice_is_refused(self) -> None:
        one = self.send("POST", "/rack/cells", {"cells": [{"capacity_ah": 2.4}]}).json()
        self.assertEqual((one["cells"][0]["label"], one["next_label"]), ("C1", "C2"))
        lost = self.send("POST", "/rack/cells", {"cells": [{"label": "C1", "capacity_ah": 2.4}]})
        self.assertEqual((lost.status_code, RackCell.objects.count()), (201, 321), "an answer lost on the way doubles nothing")
        again = self.send("POST", "/rack/cells", {"cells": [{"label": "C1", "capacity_ah": 2.5}]})
        self.assertEqual(again.status_code, 422)
        self.assertIn("on the rack already", again.json()["message"])

    def test_bad_figures_are_refused_with_their_place(self) -> None:
        for cell in ({"capacity_ah": "much"}, {"capacity_ah": -1}, {"resting_v": 7}, {"colour": "red"}, {"capacity_ah": 1e300}):
            answer = self.send("POST", "/rack/cells", {"cells": [cell]})
            self.assertEqual(answer.status_code, 422, cell)
            self.assertIn("/cells/0", answer.json()["problems"][0]["pointer"])

    def sort(self, **body: Any) -> dict[str, Any]:
        job = self.send("POST", "/rack/sort", {"design_id": self.oak.pk, "series": 14, "parallel": 20, **body}).json()
        for _ in range(100):
            if job.get("done", True):
                break
            time.sleep(0.1)
            job = self.client.get(f"/api/rack/sort/{job['job']}").json()
        return dict(job)

    def test_sorted_cells_are_built_in_and_the_weakest_group_counts(self) -> None:
        result = self.sort()["result"]
        self.assertLess(result["spread"], 1e-4)
        body = {"design_id": self.oak.pk, "base_revision": self.oak.revision, "groups": result["groups"], "holder": 1}
        design = self.send("POST", "/rack/place", body).json()
        capacity = design["assessment"]["figures"]["pack/capacity"]["value"]
        self.assertAlmostEqual(capacity, min(result["capacity_ah"]), places=3)
        self.assertEqual(design["history"]["undo"], "280 cells from the rack")

    def test_pins_and_keeping_out_are_heeded(self) -> None:
        good = [c["id"] for c in self.rack() if not c["reasons"]]
        result = self.sort(pinned={str(good[0]): 5}, kept_out=[good[1]])["result"]
        self.assertIn(good[0], result["groups"][4])
        self.assertNotIn(good[1], {c for g in result["groups"] for c in g})

    def test_too_few_good_cells_are_said(self) -> None:
        self.assertIn("want 560 good cells", self.sort(parallel=40)["error"])

    def test_a_long_search_shows_progress_and_can_be_stopped(self) -> None:
        RackCell.objects.exclude(pk__in=list(RackCell.objects.values_list("pk", flat=True)[:60])).delete()
        job = self.send("POST", "/rack/sort", {"design_id": self.oak.pk, "series": 14, "parallel": 4, "thorough": True}).json()
        if not job["done"]:  # it may have found a perfect arrangement at once
            self.assertGreater(job["progress"], 0)
            stopped = self.client.delete(f"/api/rack/sort/{job['job']}").json()
            self.assertTrue(stopped["done"])
            self.assertEqual(len(stopped["result"]["groups"]), 14)

    def test_the_two_ways_of_measuring_are_not_mixed_silently(self) -> None:
        RackCell.objects.filter(pk__in=list(RackCell.objects.values_list("pk", flat=True)[:5])).update(resistance_by="dc")
        answer = self.send("POST", "/rack/sort", {"design_id": self.oak.pk, "series": 14, "parallel": 20})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("1 kHz", answer.json()["message"])
        self.assertIsNotNone(self.sort(resistance_by="1khz")["result"])

    def other(self) -> StoredDesign:
        body = {"format": "kegcart/design", "version": 6, "name": "Other", "pack": {"form": "cells", "chemistry": "nmc"}}
        answer = self.send("POST", "/designs/import", body).json()
        return StoredDesign.objects.get(pk=answer["id"])

    def test_demo_cells_stay_with_their_build_and_kinds_are_not_mixed(self) -> None:
        other = self.other()
        self.assertEqual(self.client.get(f"/api/rack?design_id={other.pk}").json()["cells"], [])
        for label, mohm, form in (("A1", 20, "21700"), ("A2", 22, "21700"), ("A3", 60, "18650"), ("A4", 64, "18650")):
            cell = {"label": label, "capacity_ah": 4.0, "resistance_mohm": mohm, "format": form}
            self.assertEqual(self.send("POST", "/rack/cells", {"cells": [cell]}).status_code, 201)
        seen = self.client.get(f"/api/rack?design_id={other.pk}").json()
        self.assertEqual([c["label"] for c in seen["cells"]], ["A1", "A2", "A3", "A4"])
        self.assertEqual({(m["format"], m["mohm"]) for m in seen["medians"]}, {("21700", 21), ("18650", 62)})
        self.assertEqual([c["reasons"] for c in seen["cells"]], [[]] * 4)
        self.assertEqual(seen["next_label"], "A5")
        self.assertEqual(len(self.client.get(f"/api/rack?design_id={self.oak.pk}").json()["cells"]), 324)
        mixed = self.send("POST", "/rack/sort", {"design_id": other.pk, "series": 2, "parallel": 1})
        self.assertIn("sort one format", mixed.json()["message"])
        self.assertEqual(self.sort(design_id=other.pk, series=2, parallel=1, cell_format="21700")["good"], 2)

    def test_a_cell_is_in_one_build_at_a_time(self) -> None:
        other = self.other()
        used = next(c["id"] for c in self.rack() if c["build"])
        answer = self.send("POST", "/rack/place", {"design_id": other.pk, "base_revision": other.revision, "groups": [[used]]})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("built into Hollow Oak Apiary", answer.json()["message"])
        self.assertIn("want 280 good cells; there are 0", self.sort(design_id=other.pk)["error"])

    def test_undo_and_deleting_give_the_cells_back(self) -> None:
        patch = [{"op": "replace", "path": "/pack/groups", "value": {}}]
        changed = self.send("PATCH", f"/designs/{self.oak.pk}", {"base_revision": self.oak.revision, "patch": patch}).json()
        self.assertFalse([c for c in self.rack() if c["build"]])
        self.send("POST", f"/designs/{self.oak.pk}/undo", {"base_revision": changed["revision"]})
        self.assertEqual(sum(bool(c["build"]) for c in self.rack()), 280)
        self.send("DELETE", f"/designs/{self.oak.pk}")
        self.assertFalse([c for c in self.rack() if c["build"]])

    def test_a_copy_leaves_the_cells_with_the_original(self) -> None:
        copy = self.send("POST", f"/designs/{self.oak.pk}/copy").json()
        self.assertEqual(copy["document"]["pack"]["groups"], {})

    def test_a_cell_measured_again_changes_its_build(self) -> None:
        cell = next(c for c in self.rack() if c["build"])
        answer = self.send("PATCH", f"/rack/cells/{cell['id']}", {"later_v": cell["resting_v"] - 0.2})
        self.assertTrue(answer.json()["reasons"])
        design = self.client.get(f"/api/designs/{self.oak.pk}").json()
        self.assertIn("pack.cell-reject", {f["id"] for f in design["assessment"]["findings"]})
        refilled = self.send("POST", "/rack/refill", {"design_id": self.oak.pk}).json()
        self.assertEqual(refilled["moved"], 1)
        body = {"design_id": self.oak.pk, "base_revision": design["revision"], "groups": refilled["groups"]}
        mended = self.send("POST", "/rack/place", body).json()
        self.assertNotIn("pack.cell-reject", {f["id"] for f in mended["assessment"]["findings"]})

    def test_a_built_in_cell_stays_on_the_rack_under_its_label(self) -> None:
        cell = next(c for c in self.rack() if c["build"])
        for answer in (
            self.send("POST", "/rack/remove", {"ids": [cell["id"]]}),
            self.send("PATCH", f"/rack/cells/{cell['id']}", {"label": "Z"}),
            self.send("PATCH", f"/rack/cells/{cell['id']}", {"capacity_ah": None}),
        ):
            self.assertEqual(answer.status_code, 422)
        self.assertEqual(RackCell.objects.get(pk=cell["id"]).label, cell["label"])

    def test_what_is_taken_off_can_be_put_on_again(self) -> None:
        free = next(c for c in self.rack() if not c["build"])
        rows = self.send("POST", "/rack/remove", {"ids": [free["id"]]}).json()
        self.assertEqual(RackCell.objects.count(), 319)
        self.send("POST", "/rack/cells", rows)
        self.assertEqual(RackCell.objects.get(label=free["label"]).capacity_ah, free["capacity_ah"])

    def test_stale_placing_is_refused(self) -> None:
        groups = self.sort()["result"]["groups"]
        body = {"design_id": self.oak.pk, "base_revision": self.oak.revision - 1, "groups": groups}
        self.assertEqual(self.send("POST", "/rack/place", body).status_code, 409)


class PapersTest(TransactionTestCase):
    def setUp(self) -> None:
        load_demos()
        self.oak = StoredDesign.objects.get(demo="hollow-oak").pk
        self.lane = StoredDesign.objects.get(demo="lantern-lane").pk

    def pages(self, path: str) -> int:
        answer = self.client.get(f"/api/designs/{path}")
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "application/pdf"))
        self.assertTrue(answer.content.startswith(b"%PDF"))
        return answer.content.count(b"/Type /Page\n") or answer.content.count(b"/Type /Page ")

    def test_plan_names_every_cell_in_its_place(self) -> None:
        rows = self.client.get(f"/api/designs/{self.oak}/plan.csv").content.decode("utf-8-sig").splitlines()
        self.assertEqual(len(rows), 281)
        self.assertTrue(rows[1].startswith("1,1,1,1,HO-"))
        self.assertGreaterEqual(self.pages(f"{self.oak}/plan.pdf"), 2)

    def test_labels_are_sixty_five_to_a_sheet(self) -> None:
        self.assertEqual(self.pages(f"{self.oak}/labels.pdf"), 5)

    def test_pack_on_paper_has_cells_links_and_which_goes_where(self) -> None:
        plan = self.pages(f"{self.oak}/plan.pdf?paper=a4")
        self.assertEqual(self.pages(f"{self.lane}/pack.pdf"), 1)
        self.assertGreaterEqual(self.pages(f"{self.oak}/pack.pdf"), 2 + plan - 1)
        self.assertGreater(self.pages(f"{self.oak}/pack.pdf?scale=true&paper=letter"), 8)

    def test_without_sorted_cells_there_is_nothing_to_plan(self) -> None:
        answer = self.client.get(f"/api/designs/{self.lane}/plan.pdf")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("sort them first", answer.json()["message"])

    def test_drawing_stands_alone_in_true_millimetres_and_mirrors(self) -> None:
        import xml.etree.ElementTree as ET

        above, below = (
            ET.fromstring(self.client.get(f"/api/designs/{self.oak}/pack.svg?side={side}").content) for side in ("top", "bottom")
        )
        width = float(above.attrib["viewBox"].split()[2])
        self.assertEqual(above.attrib["width"], f"{width:.2f}".rstrip("0").rstrip(".") + "mm")
        space = "{http://www.w3.org/2000/svg}"

        def first(root: ET.Element) -> float:
            return float(next(root.iter(f"{space}circle")).attrib["cx"])

        self.assertAlmostEqual(first(above) + first(below), width, delta=0.02)
        self.assertEqual(len(list(above.iter(f"{space}circle"))), 280)


class PackApi(TransactionTestCase):
    def setUp(self) -> None:
        load_demos()
        self.lane = StoredDesign.objects.get(demo="lantern-lane")

    def post(self, path: str, body: Any) -> Any:
        return self.client.post(f"/api{path}", json.dumps(body), content_type="application/json")

    def test_a_suggested_pack_can_be_taken_by_its_patch(self) -> None:
        three = self.client.get(f"/api/designs/{self.lane.pk}/packs").json()
        self.assertEqual(len(three), 3)
        for s in three:
            # A larger pack may no longer stand where the one before it stood in the box: that is said, and laid out anew.
            bare = [*s["patch"], {"op": "replace", "path": "/box/places", "value": {}}]
            effect = self.post(f"/designs/{self.lane.pk}/preview", {"patch": bare}).json()
            self.assertEqual(effect["new_stops"], 0, s["name"])

    def test_own_parts_are_kept_for_all_builds_and_can_be_forgotten(self) -> None:
        cell = {"shape": "prismatic", "capacity_ah": 105, "resistance_mohm": 0.33}
        kept = self.post("/pack/parts", {"kind": "cell", "name": "Measured 105", "chemistry": "lfp", "figures": cell}).json()
        first = self.client.get("/api/pack/parts").json()[0]
        self.assertEqual((first["label"], first["figures"]["capacity_ah"]), ("Measured 105", 105))
        self.assertEqual(self.client.delete(f"/api/own-parts/{kept['own']}").status_code, 204)
        self.assertEqual(self.client.delete(f"/api/own-parts/{kept['own']}").status_code, 404)

    def test_generic_parts_read_as_the_design_writes_them(self) -> None:
        for part in self.client.get("/api/pack/parts").json():
            at = "/pack/cell" if part["kind"] == "cell" else "/pack/battery"
            form = "cells" if part["kind"] == "cell" else "battery"
            patch = [
                {"op": "replace", "path": "/pack", "value": {"form": form, "chemistry": part["chemistry"]}},
                {"op": "add", "path": at, "value": part["figures"]},
            ]
            answer = self.post(f"/designs/{self.lane.pk}/preview", {"patch": patch})
            self.assertEqual(answer.status_code, 200, f"{part['label']}: {answer.content[:200]!r}")

    def test_a_pasted_curve_and_a_bad_one(self) -> None:
        good = self.post("/pack/read-curve", {"text": "Ah;V\n0;3,4\n5;3,2\n10;2,5\n"}).json()
        self.assertEqual(len(good["points"]), 3)
        bad = self.post("/pack/read-curve", {"text": "Ah;V\n0;3,4\n5;x\n10;2,5\n"})
        self.assertEqual(bad.status_code, 422)
        self.assertIn("line 3, column 2", bad.json()["message"])

    def test_loads_are_read_and_written_as_csv(self) -> None:
        text = self.client.get(f"/api/designs/{self.lane.pk}/loads.csv").content.decode("utf-8-sig")
        table = self.post("/loads/read", {"text": text}).json()
        self.assertEqual((len(table["loads"]), table["problems"]), (7, []))

    def test_what_if_names_what_would_break_and_stores_nothing(self) -> None:
        effect = self.post(f"/designs/{self.lane.pk}/what-if", {"growth": 0.6}).json()
        self.assertIn("loads.energy-short", {f["id"] for f in effect["new"]})
        self.lane.refresh_from_db()
        self.assertEqual(self.lane.revision, 1)

    def test_the_shelf_of_appliances_has_its_sources(self) -> None:
        every = self.client.get("/api/reference/appliances").json()
        self.assertGreaterEqual(len(every), 60)
        self.assertTrue(all(a["source"] and a["basis"] == "typical" for a in every))
