"""What the API promises in its description is what it answers: the screen's types are generated from it, and trust it."""

import csv
import io
import json
import threading
import time
from collections import Counter
from typing import Any, ClassVar

import jsonschema
from django.db import connection
from django.test import Client, TestCase, TransactionTestCase
from django.utils import timezone

from kegcart.core.bench.live import TestEvent
from kegcart.core.bench.prepared import prepare
from kegcart.core.design import read_design, write_design
from kegcart.workbench import history, services
from kegcart.workbench.api import api
from kegcart.workbench.models import Revision, StoredDesign, TestRun
from kegcart.workbench.running.keeping import KeptReadings, keep_event
from kegcart.workbench.services import DEMOS, load_demos

DESCRIPTION: dict[str, Any] = json.loads(json.dumps(api.get_openapi_schema()))
#: Answers that are no JSON: by the end of their path, what they begin with.
FILES = {
    "/loads.csv": b"\xef\xbb\xbf",
    "/wires.csv": b"\xef\xbb\xbf",
    "/pack.svg": b"<?xml",
    "/power.svg": b"<?xml",
    "/pack.pdf": b"%PDF",
    "/power.pdf": b"%PDF",
    "/file": b"{",
}


def reads(method: str) -> list[tuple[str, dict[str, Any]]]:
    """Path and description of every operation of a method."""
    return [(path, ops[method]) for path, ops in DESCRIPTION["paths"].items() if method in ops]


class DescribedTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load_demos()
        cls.stored_run = cls.run_of(services.copy(StoredDesign.objects.get(demo="tidewater").pk))

    stored_run: ClassVar[str]

    @staticmethod
    def run_of(design: StoredDesign) -> str:
        """A load test that was run, with a few readings."""
        with services.assessed_design(design.pk) as a:
            prepared, document = prepare(a, ("standing",)), services.get(design.pk).document
        run = TestRun.objects.create(design=design, prepared=prepared, document=document, over_at=timezone.now())
        kept = KeptReadings(run)
        for n in range(20):
            kept.put(n / 10, {"posts.v": 13.2, "posts.a": n / 7})
        kept.keep()
        for kind, data in (("begin", {"step": 0}), ("end", {"how": ""})):
            keep_event(run, TestEvent(0.1, kind, data))
        return run.pk

    def pk(self, name: str) -> str:
        return str(StoredDesign.objects.get(demo=name).pk)

    def send(self, method: str, path: str, body: Any = None) -> Any:
        return self.client.generic(method.upper(), path, json.dumps(body), content_type="application/json")

    def holds(self, data: Any, path: str, method: str, status: int) -> None:
        """An answer has the form that its description gives it."""
        answer = DESCRIPTION["paths"][path][method]["responses"][str(status)]
        form = answer["content"]["application/json"]["schema"]
        jsonschema.validate(data, {**form, "components": DESCRIPTION["components"]})

    def test_every_reading_answers_in_the_form_described_for_every_demo(self) -> None:
        checked = 0
        for name in DEMOS:
            for path, described in reads("get"):
                if "{job}" in path or "application/json" not in described["responses"].get("200", {}).get("content", {}):
                    continue
                wanted = "?part=main-fuse" if path.endswith(("/parts", "/taken-out")) and "design_id" in path else ""
                address = path.replace("{design_id}", self.pk(name)).replace("{run_id}", self.stored_run)
                answer = self.client.get(address + wanted)
                if answer.status_code == 422 and path.rsplit("/", 1)[1] in ("plan.csv", "plan.pdf", "labels.pdf"):
                    continue  # nothing is sorted in this build
                self.assertEqual(answer.status_code, 200, f"{name}: {path}")
                self.holds(answer.json(), path, "get", 200)
                checked += 1
        self.assertGreater(checked, 4 * 8)

    def test_every_part_can_be_asked_for_what_replaces_it(self) -> None:
        for part in ("inverter", "converter", "main-switch", "main-fuse", "busbar", "fuse-block"):
            answer = self.client.get(f"/api/designs/{self.pk('lantern-lane')}/parts?part={part}").json()
            self.holds(answer, "/api/designs/{design_id}/parts", "get", 200)
            self.assertEqual(len({p["kind"] for p in answer}), 1, part)
            out = self.client.get(f"/api/designs/{self.pk('lantern-lane')}/taken-out?part={part}").json()
            self.holds(out, "/api/designs/{design_id}/taken-out", "get", 200)

    def test_every_file_is_of_its_kind_and_is_named_after_its_build(self) -> None:
        for name in DEMOS:
            for path, _ in reads("get"):
                begins = next((b for end, b in FILES.items() if path.endswith(end) and "design_id" in path), None)
                if begins is None:
                    continue
                answer = self.client.get(path.replace("{design_id}", self.pk(name)))
                self.assertEqual(answer.status_code, 200, f"{name}: {path}")
                self.assertTrue(answer.content.startswith(begins), f"{name}: {path} begins with {answer.content[:20]!r}")
                self.assertIn(name.split("-")[0], answer["Content-Disposition"])

    def test_changes_answer_in_the_form_described(self) -> None:
        pk = self.pk("lantern-lane")
        patch = [{"op": "replace", "path": "/brief/site_max_c", "value": 33}]
        at = f"/api/designs/{pk}"
        changed = self.send("patch", at, {"base_revision": 1, "patch": patch, "label": "hotter"})
        self.holds(changed.json(), "/api/designs/{design_id}", "patch", 200)
        stale = self.send("patch", at, {"base_revision": 1, "patch": [patch[0] | {"value": 34}]})
        self.assertEqual(stale.status_code, 409)
        self.holds(stale.json(), "/api/designs/{design_id}", "patch", 409)
        refused = self.send(
            "patch", at, {"base_revision": 2, "patch": [{"op": "replace", "path": "/brief/site_max_c", "value": "warm"}]}
        )
        self.assertEqual(refused.status_code, 422)
        self.holds(refused.json(), "/api/designs/{design_id}", "patch", 422)
        for step, revision in (("undo", 2), ("redo", 3)):
            answer = self.send("post", f"{at}/{step}", {"base_revision": revision})
            self.holds(answer.json(), f"/api/designs/{{design_id}}/{step}", "post", 200)
        self.holds(self.send("post", f"{at}/copy").json(), "/api/designs/{design_id}/copy", "post", 201)
        preview = self.send("post", f"{at}/preview", {"patch": patch})
        self.holds(preview.json(), "/api/designs/{design_id}/preview", "post", 200)
        offers = self.client.get(f"{at}/remedies", {"finding": "power.rcd", "place": "/power/network/inverter/rcd"})
        self.holds(offers.json(), "/api/designs/{design_id}/remedies", "get", 200)
        grown = self.send("post", f"{at}/what-if", {"growth": 0.5})
        self.holds(grown.json(), "/api/designs/{design_id}/what-if", "post", 200)

    def test_tables_answer_in_the_form_described(self) -> None:
        loads = self.send("post", "/api/loads/read", {"text": "name;watts\nLamp;12\nKettle;hot\n"})
        self.holds(loads.json(), "/api/loads/read", "post", 200)
        curve = self.send(
            "post", "/api/pack/read-curve", {"text": "soc;v\n0;2.6\n50;3.26\n100;3.4\n", "current_a": 0, "cells": 1}
        )
        self.holds(curve.json(), "/api/pack/read-curve", "post", 200)
        drill = self.send("post", f"/api/designs/{self.pk('tidewater')}/drill", {"seed": 3, "guess": "low/0"})
        self.holds(drill.json(), "/api/designs/{design_id}/drill", "post", 200)
        logged = "time;voltage;current\n" + "".join(f"{n};13.3;{n}\n" for n in range(1, 30))
        learned = self.send("post", f"/api/designs/{self.pk('tidewater')}/readings", {"text": logged})
        self.holds(learned.json(), "/api/designs/{design_id}/readings", "post", 200)
        rows = self.send("post", "/api/rack/read", {"text": "label;capacity mAh\nA;2300\n"})
        self.holds(rows.json(), "/api/rack/read", "post", 200)

    def test_a_sorting_answers_in_the_form_described_while_it_runs_and_when_done(self) -> None:
        body = {"design_id": self.pk("hollow-oak"), "series": 14, "parallel": 18, "holder": 1}
        begun = self.send("post", "/api/rack/sort", body)
        self.assertEqual(begun.status_code, 202, begun.content[:300])
        self.holds(begun.json(), "/api/rack/sort", "post", 202)
        job = begun.json()["job"]
        for _ in range(200):
            now = self.client.get(f"/api/rack/sort/{job}").json()
            self.holds(now, "/api/rack/sort/{job}", "get", 200)
            if now["done"]:
                break
            time.sleep(0.05)
        self.assertTrue(now["done"])
        self.assertEqual([len(g) for g in now["result"]["groups"]], [18] * 14)

    def test_what_is_asked_of_a_design_that_is_not_there_is_told_alike_everywhere(self) -> None:
        body = {
            "base_revision": 1, "patch": [{"op": "remove", "path": "/notes"}], "growth": 0.1, "text": "a;b", "series": 1, "parallel": 1, "holder": 1, "to": 1,
            "entry": "e", "act": "dry-fit", "done": True, "item": "i", "data": None, "line": "case", "count": 1, "seed": 1, "kind": "joints", "size": "1", "source": "s", "figures": [{"key": "path"}], "values": {},
        }  # fmt: skip
        missing: list[str] = []
        for method in ("get", "post", "patch", "delete"):
            for path, described in reads(method):
                if "{design_id}" not in path:
                    continue
                needed = described.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema", {})
                fields = self.fields(needed)
                sent = {k: v for k, v in body.items() if k in fields}
                asked = {"parts": "?part=main-switch", "taken-out": "?part=main-switch", "photos": "?entry=e&item=i"}
                at = path.replace("{design_id}", "no-such-build") + asked.get(path.rsplit("/", 1)[1], "")
                answer = self.send(method, at, sent)
                self.assertEqual(answer.status_code, 404, f"{method} {path}: {answer.content[:200]!r}")
                self.assertIn("may have been deleted", answer.json()["message"])
                missing.append(path)
        self.assertGreater(len(missing), 18)

    def fields(self, form: dict[str, Any]) -> set[str]:
        if "$ref" in form:
            form = DESCRIPTION["components"]["schemas"][form["$ref"].rsplit("/", 1)[1]]
        return set(form.get("properties", {}))

    def test_a_method_that_a_path_does_not_have_is_405_and_changes_nothing(self) -> None:
        pk = self.pk("tidewater")
        for method, path in (("put", f"/api/designs/{pk}"), ("delete", "/api/designs"), ("patch", "/api/reference")):
            self.assertEqual(self.send(method, path, {}).status_code, 405, f"{method} {path}")
        self.assertEqual(StoredDesign.objects.get(pk=pk).revision, 1)


class FiguresAnswered(TestCase):
    """The figures that the screen shows, as they come over the wire."""

    @classmethod
    def setUpTestData(cls) -> None:
        load_demos()

    def figures(self, name: str) -> dict[str, Any]:
        data = self.client.get(f"/api/designs/{StoredDesign.objects.get(demo=name).pk}").json()
        return dict(data["assessment"]["figures"])

    def test_each_has_words_for_its_value_and_stands_for_a_number_or_a_name(self) -> None:
        for name in DEMOS:
            for path, figure in self.figures(name).items():
                self.assertTrue(figure["text"], path)
                self.assertNotIn("nan", figure["text"].lower(), path)
                self.assertIsInstance(figure["value"], int | float | str, path)

    def test_whatever_a_working_names_can_be_opened(self) -> None:
        for name in DEMOS:
            figures = self.figures(name)
            opened = 0

            def follow(figure: dict[str, Any], figures: dict[str, Any] = figures) -> int:
                count = 0
                for part in figure.get("inputs", {}).values():
                    if "path" in part:
                        self.assertIn(part["path"], figures)
                    count += 1 + follow(part)
                return count

            for figure in figures.values():
                opened += follow(figure)
            self.assertGreater(opened, len(figures))

    def test_findings_come_worst_first_each_with_a_place_and_a_reason(self) -> None:
        order = {"stop": 0, "mend": 1, "note": 2}
        for name in DEMOS:
            found = self.client.get(f"/api/designs/{StoredDesign.objects.get(demo=name).pk}").json()["assessment"]["findings"]
            ranks = [order[f["severity"]] for f in found]
            self.assertEqual(ranks, sorted(ranks), name)
            for f in found:
                self.assertTrue(f["place"].startswith("/"))
                self.assertIn(f["station"], ("brief", "loads", "pack", "charging", "power", "box", "bench"))
                self.assertTrue(f["text"].endswith((".", "!")), f["text"])

    def test_csv_files_read_as_tables(self) -> None:
        pk = StoredDesign.objects.get(demo="lantern-lane").pk
        for path, key in (("wires.csv", "to"), ("loads.csv", "name")):
            text = self.client.get(f"/api/designs/{pk}/{path}").content.decode("utf-8-sig")
            rows = list(csv.DictReader(io.StringIO(text)))
            self.assertGreater(len(rows), 6)
            self.assertTrue(all(row[key] for row in rows))
            self.assertEqual({len(row) for row in rows}, {len(rows[0])})


class TwoAtOnce(TransactionTestCase):
    """Several windows, and the same moment."""

    def setUp(self) -> None:
        load_demos()
        self.pk = str(StoredDesign.objects.get(demo="tidewater").pk)

    def at_once(self, bodies: list[dict[str, Any]]) -> list[int]:
        """Send changes from threads that start together; returns their status."""
        out: list[int] = []
        gate = threading.Barrier(len(bodies))

        def send(body: dict[str, Any]) -> None:
            client = Client()
            gate.wait()
            answer = client.generic("PATCH", f"/api/designs/{self.pk}", json.dumps(body), content_type="application/json")
            out.append(answer.status_code)
            connection.close()

        threads = [threading.Thread(target=send, args=(body,)) for body in bodies]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        return out

    def test_of_many_changes_on_one_revision_one_is_taken_and_the_rest_are_told(self) -> None:
        patch = [{"op": "replace", "path": "/brief/site_max_c", "value": 0}]
        bodies = [{"base_revision": 1, "patch": [patch[0] | {"value": 30 + n}]} for n in range(6)]
        self.assertEqual(Counter(self.at_once(bodies)), {200: 1, 409: 5})
        design = StoredDesign.objects.get(pk=self.pk)
        self.assertEqual((design.revision, Revision.objects.filter(design=design).count()), (2, 2))

    def test_what_is_stored_is_always_a_whole_valid_document(self) -> None:
        client = Client()
        for revision, (pointer, value) in enumerate(
            (("/brief/site_max_c", 31), ("/loads/items/tablet/watts", "0,02k"), ("/pack/battery/capacity_ah", "80 Ah")), start=1
        ):
            body = {"base_revision": revision, "patch": [{"op": "replace", "path": pointer, "value": value}]}
            answer = client.generic("PATCH", f"/api/designs/{self.pk}", json.dumps(body), content_type="application/json")
            self.assertEqual(answer.status_code, 200)
        for stored in Revision.objects.filter(design_id=self.pk):
            document = history.document_of(stored)
            self.assertEqual(write_design(read_design(document)), document)

    def test_a_patch_of_several_operations_is_taken_whole_or_not_at_all(self) -> None:
        body = {
            "base_revision": 1,
            "patch": [
                {"op": "replace", "path": "/brief/site_max_c", "value": 40},
                {"op": "replace", "path": "/brief/site_min_c", "value": 41},
            ],
        }
        answer = Client().generic("PATCH", f"/api/designs/{self.pk}", json.dumps(body), content_type="application/json")
        self.assertEqual(answer.status_code, 422)
        design = services.get(self.pk)
        self.assertEqual((design.revision, design.document["brief"]["site_max_c"]), (1, 28))

    def test_typing_merges_into_one_step_only_in_the_same_field(self) -> None:
        client = Client()

        def put(revision: int, pointer: str, value: Any) -> None:
            body = {
                "base_revision": revision,
                "patch": [{"op": "replace", "path": pointer, "value": value}],
                "merge_key": pointer,
            }
            client.generic("PATCH", f"/api/designs/{self.pk}", json.dumps(body), content_type="application/json")

        put(1, "/brief/site_max_c", 31)
        put(2, "/brief/site_max_c", 32)
        put(3, "/brief/reserve", 0.25)
        undone = client.generic(
            "POST", f"/api/designs/{self.pk}/undo", json.dumps({"base_revision": 4}), content_type="application/json"
        ).json()["document"]["brief"]
        self.assertEqual((undone["site_max_c"], undone["reserve"]), (32, 0.2))
        undone = client.generic(
            "POST", f"/api/designs/{self.pk}/undo", json.dumps({"base_revision": 5}), content_type="application/json"
        ).json()["document"]["brief"]
        self.assertEqual((undone["site_max_c"], undone["reserve"]), (28, 0.2))
