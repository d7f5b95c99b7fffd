"""The power path over the API: sheets that open on their own, wires pasted and exported, parts kept, cut-offs and drain."""

import json
import xml.etree.ElementTree as ET
from typing import Any

from django.test import TransactionTestCase

from kegcart.workbench.models import OwnPart, StoredDesign
from kegcart.workbench.services import DEMOS, load_demos

SVG = "{http://www.w3.org/2000/svg}"


class PowerApi(TransactionTestCase):
    def setUp(self) -> None:
        load_demos()
        self.lane = StoredDesign.objects.get(demo="lantern-lane")

    def get(self, path: str) -> Any:
        answer = self.client.get(f"/api/designs/{self.lane.pk}{path}")
        self.assertEqual(answer.status_code, 200, answer.content[:200])
        return answer

    def post(self, path: str, body: Any) -> Any:
        return self.client.post(f"/api{path}", json.dumps(body), content_type="application/json")

    def test_every_demo_is_kept_as_svg_and_printed_on_one_page(self) -> None:
        for name in DEMOS:
            pk = StoredDesign.objects.get(demo=name).pk
            root = ET.fromstring(self.client.get(f"/api/designs/{pk}/power.svg").content)
            words = " ".join(t.text or "" for t in root.iter(f"{SVG}text"))
            self.assertIn("Wires", words)
            self.assertIn("local codes", words)
            self.assertFalse([e for e in root.iter() if any("href" in a for a in e.attrib)], "it must need nothing from outside")
            for paper in ("a4", "letter"):
                pdf = self.client.get(f"/api/designs/{pk}/power.pdf?paper={paper}").content
                self.assertEqual(pdf.count(b"/Type /Page\n") or pdf.count(b"/Type /Page "), 1, name)

    def test_wires_are_exported_and_read_back(self) -> None:
        text = self.get("/wires.csv").content.decode("utf-8-sig")
        self.assertEqual(text.splitlines()[0].split(",")[:4], ["to", "from", "colour", "gauge"])
        patch = self.post(f"/designs/{self.lane.pk}/wires/read", {"text": text}).json()
        changed = self.post(f"/designs/{self.lane.pk}/preview", {"patch": patch}).json()
        self.assertEqual(changed["new_stops"], 0)

    def test_a_pasted_wire_table_sets_lengths_and_gauges(self) -> None:
        patch = self.post(
            f"/designs/{self.lane.pk}/wires/read",
            {"text": "to;length cm;gauge;colour\nInverter;65;35 mm2;yellow\nMain switch;20;auto;\n"},
        ).json()
        values = {o["path"].removeprefix("/power/network/"): o["value"] for o in patch}
        self.assertEqual(values["inverter/run/length_m"], 0.65)
        self.assertEqual(values["inverter/run/gauge"], "35 mm²")
        self.assertEqual(values["inverter/run/colour"], "yellow")
        self.assertIsNone(values["main-switch/run/gauge"])

    def test_bad_wires_are_named_by_line_and_column(self) -> None:
        for text, words in (
            ("to;length m\nInverter;long\n", "line 2, column 2"),
            ("to;gauge\nInverter;7 AWG\n", "no gauge that is sold"),
            ("to;length m\nNowhere;1\n", "no part is called"),
            ("a;b\n1;2\n", "needs a column for where the run leads to"),
        ):
            answer = self.post(f"/designs/{self.lane.pk}/wires/read", {"text": text})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.json()["message"])

    def test_cut_offs_and_drain_carry_their_working(self) -> None:
        data = self.get("/standby").json()
        self.assertEqual([c["rank"] for c in data["cutoffs"]], [1, 2, 3])
        self.assertEqual(len(data["scale"]), 21)
        meter = next(i for i in data["idle"] if i["name"] == "Meter")
        self.assertEqual((meter["switched"], meter["watts"]["formula"]), (False, "I · V_nom"))

    def test_the_diagram_at_a_moment_of_the_day(self) -> None:
        moments = self.get("/moments").json()
        width = {
            n: next(
                i["width"]
                for i in self.get(f"/diagram?step={n}").json()["items"]
                if i.get("of") == "/power/network/main-fuse/run"
            )
            for n in range(len(moments))
        }
        worst = next(i["width"] for i in self.get("/diagram").json()["items"] if i.get("of") == "/power/network/main-fuse/run")
        self.assertEqual(max(width.values()), worst)
        self.assertLess(min(width.values()), worst / 2)
        beyond = self.client.get(f"/api/designs/{self.lane.pk}/diagram?step={len(moments)}")
        self.assertEqual(beyond.status_code, 422)

    def test_folding_as_asked(self) -> None:
        whole, folded = self.get("/diagram").json(), self.get("/diagram?folded=fuse-block,nothing").json()
        self.assertLess(folded["width"], whole["width"])
        self.assertEqual([a["behind"] for a in folded["areas"] if a["fold"] == "fuse-block"], [8])

    def test_generic_parts_fit_where_they_are_offered(self) -> None:
        for key in ("inverter", "main-fuse", "main-switch", "busbar", "converter", "fuse-block"):
            parts = self.get(f"/parts?part={key}").json()
            self.assertGreater(len(parts), 4, key)
            self.assertTrue(all(p["price"] and p["source"] for p in parts))
            part = parts[len(parts) // 2]
            patch = [{"op": "replace", "path": f"/power/network/{key}/{name}", "value": v} for name, v in part["figures"].items()]
            self.assertEqual(self.post(f"/designs/{self.lane.pk}/preview", {"patch": patch}).status_code, 200, part["label"])

    def test_a_part_is_taken_out_alone_or_with_all_behind_it(self) -> None:
        answer = self.get("/taken-out?part=main-switch").json()
        for patch in (answer["joined"], answer["whole"]):
            self.assertEqual(self.post(f"/designs/{self.lane.pk}/preview", {"patch": patch}).status_code, 200)
        self.assertEqual(answer["behind"], len([o for o in answer["whole"] if o["op"] == "remove"]) - 1)
        self.assertEqual(self.client.get(f"/api/designs/{self.lane.pk}/taken-out?part=nobody").status_code, 422)

    def test_own_parts_are_kept_and_bad_ones_refused(self) -> None:
        good = {"kind": "inverter", "name": "Mine, 2 kW", "figures": {"rating_w": 2000, "idle_w": 9}, "owned": 1}
        self.assertEqual(self.post("/power/parts", good).status_code, 201)
        first = self.get("/parts?part=inverter").json()[0]
        self.assertEqual((first["label"], first["owned"], first["figures"]["idle_w"]), ("Mine, 2 kW", 1, 9))
        for figures in ({"rating_w": -5}, {"colour": "red"}, {"waveform": "square"}):
            answer = self.post("/power/parts", {**good, "figures": figures})
            self.assertEqual(answer.status_code, 422)
        self.assertEqual(self.post("/power/parts", {**good, "kind": "anchor"}).status_code, 422)
        self.assertEqual(OwnPart.objects.count(), 1)
