"""A load test that was run: what it found is among the findings, is put into the design, and stands in its report and in the book."""

import io
import json
from datetime import date
from typing import Any, ClassVar

from django.test import TestCase
from PIL import Image
from pypdf import PdfReader

from kegcart.core.bench.truth import Truth
from kegcart.workbench import services
from kegcart.workbench.demos import load_builds
from kegcart.workbench.models import StoredDesign, TestRun
from kegcart.workbench.running.keeping import take_file
from kegcart.workbench.running.told import load_test_of
from tests.core.samples import demo
from tests.trial_runs import TrialRun, trial_run


class Tested(TestCase):
    """The first demo with a joint that is loose, and a pack that resists more than its cells should."""

    trial: ClassVar[TrialRun]
    build: ClassVar[str]
    run_id: ClassVar[str]

    @classmethod
    def setUpTestData(cls) -> None:
        load_builds()
        cls.build = services.copy(StoredDesign.objects.get(demo="lantern-lane").pk).pk
        hidden = Truth({"resistance": 0.0085, "capacity": 196.0}, loose={"main-fuse": 0.0013})
        cls.trial = trial_run(demo("lantern-lane"), hidden, left_out=("rest-empty",))
        cls.run_id = take_file(cls.build, cls.trial.file, cls.trial.readings).pk

    def ask(self, method: str, path: str, body: Any = None, status: int = 200) -> Any:
        answer = self.client.generic(method, f"/api/{path}", json.dumps(body), content_type="application/json")
        self.assertEqual(answer.status_code, status, answer.content[:500])
        return json.loads(answer.content)

    def learned(self) -> list[dict[str, Any]]:
        return list(self.ask("GET", f"runs/{self.run_id}")["judged"]["learned"])

    def figures(self, *keys: str) -> list[dict[str, Any]]:
        def value(item: dict[str, Any], name: str) -> float:
            return float(item["figures"][name]["value"])

        return [
            {
                "key": item["key"],
                "value": value(item, "combined"),
                "doubt": value(item, "combined_doubt"),
                "measured": value(item, "measured"),
            }
            for item in self.learned()
            if item["key"] in keys
        ]

    def put_in(self, body: dict[str, Any], status: int = 200) -> Any:
        return self.ask("POST", f"designs/{self.build}/put-in", body, status)

    def test_what_it_found_is_among_the_findings_until_it_is_put_in(self) -> None:
        found = {f["id"]: f for f in self.ask("GET", f"designs/{self.build}/record")["findings"]}
        self.assertIn("Main fuse", found["bench.over-limit"]["text"])
        self.assertIn("loose joint at the main fuse", found["bench.out-of-band"]["text"])
        self.assertIn("8.4 mΩ", found["bench.model-differs"]["text"])
        figures = self.figures("resistance", "capacity", "idle", "charger")
        self.assertEqual(len(figures), 4)
        out = self.put_in({"run": self.run_id, "source": "load test, 21 Nov 2026", "figures": figures})
        before, after = (figure["value"] for figure in out["run_time"])
        self.assertLess(after, before)
        self.assertEqual([e["kind"] for e in out["entries"]], ["resistance", "capacity", "measured"])
        self.assertEqual({e["on"] for e in out["entries"]}, {"2026-11-21"})
        revision = self.ask("GET", f"designs/{self.build}")["revision"]
        body = {"base_revision": revision, "patch": out["patch"], "label": "Put in"}
        changed = self.ask("PATCH", f"designs/{self.build}", body)
        self.assertAlmostEqual(changed["assessment"]["figures"]["pack/resistance"]["value"], figures[0]["value"])
        self.assertEqual(changed["assessment"]["figures"]["pack/resistance"]["basis"], "measured")
        self.assertNotIn("bench.model-differs", {f["id"] for f in self.ask("GET", f"designs/{self.build}/record")["findings"]})
        for n, entry in enumerate(out["entries"]):
            self.ask("POST", f"designs/{self.build}/life", {"entry": f"e{n}", "item": f"i{n}", "data": entry})
        parts = self.ask("GET", "pack/parts")
        self.assertTrue(any("measured in Lantern Lane" in json.dumps(part) for part in parts), "offered to the next build")

    def test_what_was_typed_is_read_with_its_unit_or_refused_with_the_reason(self) -> None:
        for key, text, why in (
            ("resistance", "4", "say whether it is"),
            ("resistance", "4 mΩ", ""),
            ("late_share", "38 %", ""),
            ("walls", "3.1 W/K", ""),
            ("box_heat", "14 kJ/K", ""),
            ("walls", "many", "is not a number"),
            ("gain", "1.0", "no figure of a station"),
            ("idle", "-3", "is between"),
            ("resistance", "40 Ω", "is between"),
        ):
            body = {"source": "by hand", "figures": [{"key": key, "text": text}]}
            out = self.put_in(body, 422 if why else 200)
            if why:
                self.assertIn(why, json.dumps(out, ensure_ascii=False), text)
                self.assertTrue(out["problems"][0]["pointer"].startswith("/figures/0"))
            else:
                self.assertEqual(out["patch"][-1]["path"], f"/bench/measured/{key}")
        other = services.copy(StoredDesign.objects.get(demo="tidewater").pk).pk
        body = {"run": self.run_id, "source": "x", "figures": self.figures("capacity")}
        self.assertIn("another build", json.dumps(self.ask("POST", f"designs/{other}/put-in", body, 422)))

    def text_of(self, path: str) -> tuple[str, int]:
        answer = self.client.get(f"/api/{path}")
        self.assertEqual(answer.status_code, 200)
        pages = PdfReader(io.BytesIO(answer.content)).pages
        text = "\n".join(page.extract_text() for page in pages)
        return text.replace("\nΩ\n", "Ω"), len(pages)  # it stands in another font

    def test_the_report_has_all_of_it(self) -> None:
        text, pages = self.text_of(f"runs/{self.run_id}/report.pdf")
        for words in (
            "load test of 21 Nov 2026",
            "DC meter; Clamp; AC meter",
            "loose joint at the main fuse",
            "a joint over its like by 20 K",
            "voltage at the posts, V",
            "100% load",
            "OUT",
            "resistance of the pack",
            "step begun",
            "Tested by ____",
        ):
            self.assertIn(words, text)
        for item in self.learned():
            self.assertIn(item["figures"]["assumed"]["text"].replace("\N{NO-BREAK SPACE}", " "), text)
        self.assertGreaterEqual(pages, 4)
        letter, _ = self.text_of(f"runs/{self.run_id}/report.pdf?paper=letter")
        self.assertIn("load test of 21 Nov 2026", letter)
        book, _ = self.text_of(f"designs/{self.build}/book.pdf")
        self.assertIn("Load test", book)
        self.assertIn("Tested by ____", book)

    def test_photos_taken_in_it_stay_with_it_through_an_archive(self) -> None:
        shot = io.BytesIO()
        Image.new("RGB", (60, 40), "teal").save(shot, "JPEG")
        at = f"/api/designs/{self.build}/photos?entry=p&item=p&what=lug&step=test:{self.run_id}"
        self.assertEqual(self.client.post(at, shot.getvalue(), content_type="application/octet-stream").status_code, 200)
        self.assertEqual([photo.words for photo in load_test_of(TestRun.objects.get(pk=self.run_id)).photos], ["lug"])
        archive = self.client.get(f"/api/designs/{self.build}/file")
        content = b"".join(archive.streaming_content)
        made = self.client.post("/api/designs/import", content, content_type="application/zip").json()["id"]
        copied = TestRun.objects.get(design=made)
        self.assertNotEqual(copied.pk, self.run_id)
        self.assertEqual([photo.words for photo in load_test_of(copied).photos], ["lug"])

    def test_where_nothing_was_read_there_is_nothing_to_print(self) -> None:
        run = TestRun.objects.get(pk=self.run_id)
        run.chunks.all().delete()
        answer = self.client.get(f"/api/runs/{self.run_id}/report.pdf")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("nothing was read", answer.content.decode())

    def test_it_stands_in_the_log_on_its_day(self) -> None:
        rows = self.ask("GET", f"designs/{self.build}/timeline?kinds=test")["rows"]
        self.assertEqual([(row["on"], row["place"]) for row in rows], [("2026-11-21", f"/bench/tests/{self.run_id}")])
        self.assertEqual(date.fromisoformat(rows[0]["on"]), date(2026, 11, 21))

    def test_a_fault_is_dialled_in_and_readings_by_hand_are_read(self) -> None:
        dials = self.ask("GET", f"designs/{self.build}/dials")["dials"]
        loose = next(dial for dial in dials if dial["kind"] == "loose")
        body = {"kind": "loose", "which": 2, "size": loose["usual"]}
        out = self.ask("POST", f"designs/{self.build}/with-fault", body)
        self.assertEqual({stop["where"] for stop in out["stops"]}, {loose["of"][1]})
        self.assertEqual({season["season"] for season in out["days"]}, {"coldest", "hottest"})
        for changed, at in (
            ({"kind": "ghost"}, "/kind"),
            ({"which": 77}, "/which"),
            ({"size": "2"}, "/size"),
            ({"size": "9 Ω"}, "/size"),
        ):
            refused = self.ask("POST", f"designs/{self.build}/with-fault", body | changed, 422)
            self.assertEqual(refused["problems"][0]["pointer"], at)
        said = self.ask(
            "POST",
            f"designs/{self.build}/by-hand",
            {"kind": "joints", "values": {"amps": "112 A"}, "drops": ["11", "0.012 V", "230"]},
        )
        self.assertEqual([joint["bad"] for joint in said["joints"]], [False, False, True])
        for body in (
            {"kind": "joints", "values": {"amps": "20"}, "drops": ["1"]},
            {"kind": "joints", "values": {"amps": "112"}, "drops": []},
            {"kind": "rise", "values": {"around": "20"}},
        ):
            self.ask("POST", f"designs/{self.build}/by-hand", body, 422)

    def test_nothing_is_told_of_stand_ins_that_were_not_there(self) -> None:
        self.assertEqual(self.ask("GET", f"runs/{self.run_id}/dealt"), {"words": ""})
